// What water does to bodies: Archimedes' force where they are under, and drag against the flow.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/world/detail/parts.hpp>

namespace jugend {

void check(const Pool& pool) {
  const auto refuse = [](const char* key, double found, const char* allowed) {
    throw InputError({{}, key, fmt::format("{}", found), allowed, {}});
  };
  for (int axis = 0; axis < 3; ++axis) {
    const double half = pool.half_extents[axis];
    if (!(half > 0) || !std::isfinite(half)) refuse("pool.half_extents", half, "more than 0 m");
  }
  if (!(pool.density > 0 && pool.density <= 1e5))
    refuse("pool.density", pool.density, "more than 0, at most 1e5 kg/m3");
  if (!(pool.drag >= 0 && pool.drag <= 1000)) refuse("pool.drag", pool.drag, "0 to 1000 1/s");
  if (!is_finite(pool.flow)) refuse("pool.flow", std::nan(""), "finite numbers");
  check_pose(pool.pose, "pool");
}

std::uint32_t World::add_pool(const Pool& pool) {
  check(pool);
  wake_all();
  parts_->pools.push_back(pool);
  return static_cast<std::uint32_t>(parts_->pools.size() - 1);
}

/// Each body's box is cut into 2 x 2 x 2 cells; a cell that reaches through the surface is under in part.
void World::bear_up(double dt) {
  if (parts_->pools.empty()) return;
  for (const std::uint32_t index : parts_->state.awake) {
    Body& body = parts_->state.bodies[index];
    if (!body.buoyant) continue;
    const Vec3 g = parts_->field.at(body.centre);
    const double strength = norm(g);
    const Vec3 up = strength > 0 ? g / -strength : Vec3{0, 1, 0};
    const Bounds box = bounds(parts_->shapes[body.shape], Pose{});
    const Vec3 cell = box.half_extents() * 0.5;
    const Vec3 local_up = rotate(conjugate(body.pose.orientation), up);
    const double height =
        2 * (cell.x * std::abs(local_up.x) + cell.y * std::abs(local_up.y) + cell.z * std::abs(local_up.z));
    double under = 0, drag = 0;
    Vec3 flow;
    for (int corner = 0; corner < 8; ++corner) {
      const Vec3 side{corner & 1 ? cell.x : -cell.x, corner & 2 ? cell.y : -cell.y, corner & 4 ? cell.z : -cell.z};
      const Vec3 middle = to_world(body.pose, box.centre() + side);
      for (const Pool& pool : parts_->pools) {
        // Asked half a cell lower: a cell whose middle is just above the surface still is partly under.
        const auto depth = pool.depth_at(middle - up * (0.5 * height), up);
        if (!depth) continue;
        const double share = std::clamp(*depth / height, 0.0, 1.0) / 8;
        const Vec3 lift = up * (share * pool.density * body.volume * strength * dt);
        push(id_of(index), lift);
        twist(id_of(index), cross(middle - body.centre, lift));
        under += share, drag += share * pool.drag, flow += pool.flow * share;
        break;
      }
    }
    if (under <= 0) continue;
    const double lost = -std::expm1(-drag * dt);
    body.velocity += (flow / under - body.velocity) * lost;
    body.spin -= body.spin * lost;
  }
}

}  // namespace jugend
