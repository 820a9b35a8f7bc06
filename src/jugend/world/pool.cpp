// What water does to bodies: Archimedes' force where they are under, and drag against the flow.
#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/portion.hpp>
#include <jugend/world/detail/narrow.hpp>
#include <jugend/world/detail/parts.hpp>

namespace jugend {

using namespace world_state;

void check(const Pool& pool) {
  const auto refuse = [](const char* key, double found, const char* allowed) {
    fail({{}, key, filled("{}", found), allowed, {}});
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

/// What the water does to each body in the coming `dt` s: Archimedes' force at the middle of what is under, where and
/// as the body will be half-way. So, of second order in dt, what floats bobs without gain or loss (the implicit
/// midpoint rule for a linear force).
void World::bear_up(double dt) {
  parts_->water.clear();
  if (parts_->pools.empty()) return;
  resize_in_room(parts_->water, parts_->state.bodies.size());
  parts_->workers.over(parts_->state.awake.size(), piece, [&](std::size_t first, std::size_t last) {
    for (std::size_t k = first; k < last; ++k) {
      const std::uint32_t index = parts_->state.awake[k];
      const Body& body = parts_->state.bodies[index];
      if (!body.buoyant || !(body.volume > 0)) continue;
      const Pose pose =
          pose_in(0.5 * dt, body.centre, body.pose.orientation, body.velocity, body.spin, body.local_centre);
      const Vec3 centre = body.centre + body.velocity * (0.5 * dt), g = parts_->field.at(centre);
      // Where pools overlap, water counts once: the largest part first, and none whose middle lies in one that counted.
      struct Wet {
        const Pool* pool;
        Portion part;
      };
      InlineList<Wet, 8> wet;
      for (const Pool& pool : parts_->pools) {
        Portion part = within_box(parts_->shapes[body.shape], to_local(pool.pose, pose), pool.half_extents);
        part.centre = to_world(pool.pose, part.centre);
        if (part.volume > 0) wet.push_back({&pool, part});
      }
      std::sort(wet.begin(), wet.end(), [](const Wet& x, const Wet& y) {
        return x.part.volume != y.part.volume ? x.part.volume > y.part.volume : x.pool < y.pool;
      });
      Water& water = parts_->water[index];
      for (const Wet& one : wet) {
        const auto holds = [&](const Wet& earlier) { return earlier.pool->holds(one.part.centre); };
        if (std::any_of<const Wet*>(wet.begin(), &one, holds)) continue;
        const double drag = body.water_drag * one.pool->drag * std::min(1.0, one.part.volume / body.volume);
        const Vec3 lift = g * (-one.pool->density * one.part.volume);
        water.lift += lift, water.turn += cross(one.part.centre - centre, lift);
        water.drag += drag, water.driven += one.pool->flow * drag;
      }
    }
  });
}

}  // namespace jugend
