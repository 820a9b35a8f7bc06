// The walls that hold a walker back: those that it leans on, and how long they do.
#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/brain_tick.hpp>
#include <utility>

namespace jugend {

/// Is what the trunk ran into ground that can be walked up: a face, not the edge of a high step?
bool WalkerBrain::Tick::rises_like_ground(const Hit& hit) const {
  return dot(hit.normal, state.up) >= same_bits::cos(tuning.ground.slope_limit) && is_face(hit);
}

bool WalkerBrain::Tick::is_face(const Hit& hit) const {
  const double near = 0.1 * tuning.body.radius;
  const auto face = surroundings.cast({hit.point + hit.normal * near, -hit.normal, 2 * near}, solids());
  return face && dot(face->normal, hit.normal) > 1 - 1e-6;
}

/// The wall that held it back until now, which input still pushes into: else it would run into that anew in each tick,
/// and how it speeds up along it depend on their length. What gives way is answered, also where it
/// only nearly reaches that in `time` (s), with the gap (m) as distance; a wall that does not is added.
std::optional<Hit> WalkerBrain::Tick::lean_on_wall(PressedPlanes& planes, double time) {
  const Vec3 own = state.velocity - frame;
  const Vec3 way = normalised(in_plane(wish(), state.up)) * (8 * touch_margin() + norm(own) * time);
  if (!std::exchange(leans, false) || planes.size() > 0 || way == Vec3{}) return {};
  auto hit = surroundings.sweep(trunk(state.position, clear_of_steps()).view(), way, solids());
  if (!hit || (state.on_ground && rises_like_ground(*hit)) || !(leans_on_edges() || is_face(*hit))) return {};
  const BodyFacts facts = surroundings.facts(hit->body);
  const double gap = -dot(way, hit->normal) * hit->distance;
  hit->distance = gap;
  if (state.on_ground) hit->normal = normalised(in_plane(hit->normal, state.up));
  const Vec3 n = hit->normal, wall = facts.velocity_at(hit->point);
  const bool leaves = dot(state.velocity - wall, n) > 0.02 * tuning.run.top_speed;
  const double near = touch_margin() + skin, closing = facts.mass > 0 ? -dot(own, n) * time : 0;
  if (n == Vec3{} || gap > near + std::max(0.0, closing) || (gap > near && gap < closing) || leaves) return {};
  if (facts.mass > 0) return hit;
  if (std::abs(dot(wall - frame, n)) <= 1e-9) planes.add(n, state.on_ground ? 0 : dot(wall, n));
  return {};
}

/// Until it has gone past one of the planes, by an edge or round a corner; no less than what is worth a stretch of its
/// own.
WalkerBrain::Tick::Held WalkerBrain::Tick::held_for(const PressedPlanes& planes, const Vec3& displacement,
                                                    const Vec3& velocity, const Vec3& acceleration,
                                                    double duration) const {
  constexpr double least = 0.002;
  if (planes.size() == 0) return {duration, true, false};
  bool faces = true;
  const auto holds = [&](double share) {
    const UprightCapsule body = trunk(state.position + displacement * share, clear_of_steps());
    return planes.all([&](const Vec3& n) {
      const auto hit = surroundings.sweep(body.view(), n * -(touch_margin() + 2 * skin), solids());
      faces = faces && share == 1 && hit && is_face(*hit);
      return hit.has_value();
    });
  };
  if (holds(1)) return {duration, true, faces};
  if (duration <= least || !holds(0)) return {duration, true, false};
  double good = 0, bad = 1;
  for (int halving = 0; halving < 10; ++halving) {
    const double middle = 0.5 * (good + bad);
    (holds(middle) ? good : bad) = middle;
  }
  const double time = first_root_within(0.5 * dot(displacement, acceleration), dot(displacement, velocity),
                                        -bad * squared_norm(displacement), duration);
  if (!(std::max(time, least) < 0.99 * duration)) return {duration, true, false};
  return {std::max(time, least), false, false};
}

}  // namespace jugend
