#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/moves/ledge.hpp>

namespace jugend {

std::optional<Ledge> find_ledge(const Climber& climber, const Vec3& towards, double fallen, const LedgeTuning& tuning,
                                const Surroundings& surroundings, const Filter& filter) {
  const Vec3& up = climber.up;
  const double ahead = climber.ahead(tuning);
  const double margin = climber.slack(), below = 0.2 * climber.radius;
  const Vec3 high = climber.feet + up * (tuning.hand_height + fallen + margin) + towards * ahead;
  const auto top = surroundings.cast({high, -up, fallen + 2 * margin}, filter);
  constexpr double least_rise = 0.64;  // cos 50 degrees
  if (!top || top->distance == 0 || dot(top->normal, up) < least_rise) return std::nullopt;

  const auto wall = surroundings.cast({top->point - towards * ahead - up * below, towards, ahead}, filter);
  if (!wall || wall->distance == 0 || std::abs(dot(wall->normal, up)) > 0.5) return std::nullopt;
  const Vec3 out = normalised(in_plane(wall->normal, up));
  if (dot(out, towards) > -0.5) return std::nullopt;

  const double seen = below + 0.5 * climber.radius;
  const auto edge =
      surroundings.cast({wall->point - out * (0.05 * climber.radius) + up * seen, -up, seen + below}, filter);
  if (!edge || edge->distance == 0 || dot(edge->normal, up) < least_rise) return std::nullopt;

  const double hands = 0.3 * climber.radius;
  const std::array<Vec3, 1> above{edge->point + up * (hands * 1.5)};
  std::array<Overlap, 1> found;
  if (surroundings.overlaps({above, hands, Core::point}, 0, found, filter) > 0) return std::nullopt;
  return Ledge{edge->point + out * (0.05 * climber.radius), out, wall->body, top->point, top->normal};
}

Vec3 feet_in_hold(const LedgeState& hold, const LedgeTuning& tuning, const Vec3& up) {
  const auto share = [&](double whole) { return whole > 0 ? std::min(1.0, hold.time / whole) : 1.0; };
  if (hold.hold == Hold::settling) return hold.from + (hold.hang - hold.from) * smooth_step(share(tuning.settle_time));
  if (hold.hold != Hold::climbing) return hold.hang;
  constexpr double rise_part = 0.6;
  const double u = share(tuning.climb_time);
  const Vec3 rise = up * dot(hold.top - hold.hang, up);
  return hold.hang + rise * smooth_step(std::min(1.0, u / rise_part)) +
         (hold.top - hold.hang - rise) * smooth_step(std::max(0.0, (u - rise_part) / (1 - rise_part)));
}

std::optional<Vec3> stand_above(const Vec3& edge, const Vec3& inward, const Vec3& up, double radius, double skin,
                                const GroundTuning& tuning, const Surroundings& surroundings, const Filter& filter) {
  const Vec3 above = edge + inward * (radius + 4 * skin) + up * (10 * skin);
  const Ground g = sense_ground({above, up, radius, 2 * skin, {}}, radius, radius, tuning, surroundings, filter);
  if (!g.walkable) return std::nullopt;
  return above - up * (g.distance - 2 * skin);
}

LedgeState caught(const Ledge& ledge, const Pose& pose, const Vec3& feet, const Vec3& hang) {
  return {Hold::settling,
          0,
          0,
          ledge.body,
          to_local(pose, feet),
          to_local(pose, hang),
          {},
          to_local(pose, ledge.edge),
          rotate(conjugate(pose.orientation), ledge.out)};
}

}  // namespace jugend
