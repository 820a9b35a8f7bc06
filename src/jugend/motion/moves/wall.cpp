#include <cmath>
#include <jugend/motion/moves/wall.hpp>

namespace jugend {

bool touch_wall(WallState& state, const WallTuning& tuning, const Convex& body, double reach, const Vec3& move,
                const Vec3& up, const Surroundings& surroundings, const Filter& filter) {
  const Vec3 way = pushed_way(move, up);
  const bool pushing = way != Vec3{};
  if (!pushing && state.since_touch > tuning.grace) return false;
  const Vec3 towards = pushing ? way : -state.normal;
  const auto hit = surroundings.sweep(body, towards * reach, filter);
  if (!hit || std::abs(dot(hit->normal, up)) > 0.3) return false;
  state.since_touch = 0;
  state.normal = normalised(in_plane(hit->normal, up));
  state.velocity = surroundings.facts(hit->body).velocity_at(hit->point);
  return pushing && dot(towards, state.normal) < -0.3;
}

}  // namespace jugend
