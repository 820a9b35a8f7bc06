#include <cmath>
#include <jugend/motion/moves/wall.hpp>

namespace jugend {

std::optional<TouchedWall> touch_wall(WallState& state, const WallTuning& tuning, const Convex& body, double reach,
                                      const Vec3& way, const Vec3& up, const Surroundings& surroundings,
                                      const Filter& filter) {
  const bool pushing = way != Vec3{};
  if (!pushing && state.since_touch > tuning.grace) return std::nullopt;
  const Vec3 towards = pushing ? way : -state.normal;
  const auto hit = surroundings.sweep(body, towards * reach, filter);
  if (!hit || std::abs(dot(hit->normal, up)) > 0.3) return std::nullopt;
  state.since_touch = 0;
  state.normal = normalised(in_plane(hit->normal, up));
  state.velocity = surroundings.facts(hit->body).velocity_at(hit->point);
  const double room = (1 - hit->distance) * reach * -dot(towards, hit->normal);
  return TouchedWall{hit->normal, room, pushing && dot(towards, state.normal) < -0.3};
}

}  // namespace jugend
