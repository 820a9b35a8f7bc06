// From the wheel in a driver's hands to the angles of the wheels on the road.
#pragma once

#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>

namespace jugend {

struct SteeringTuning {
  double angle = 34 * radians_per_degree;         ///< the most at standstill
  double fast_angle = 7 * radians_per_degree;     ///< the most from fast_speed on
  double fast_speed = 22;                         ///< m/s
  double rate = 160 * radians_per_degree;         ///< rad/s towards more
  double return_rate = 260 * radians_per_degree;  ///< rad/s back to the middle
  double ackermann = 1;                           ///< 1: all wheels roll round one centre; 0: all turn by the same
};

/// rad, the most at `speed` m/s: from angle to fast_angle without a kink.
inline double most_steer(const SteeringTuning& t, double speed) {
  const double s = std::clamp(speed / t.fast_speed, 0.0, 1.0);
  return t.angle + (t.fast_angle - t.angle) * s * s * (3 - 2 * s);
}

/// The angle after `dt` on the way from `angle` to `wanted`.
inline double steered(const SteeringTuning& t, double angle, double wanted, double dt) {
  // Back to the middle first, at its own rate.
  if (angle * wanted < 0 || std::abs(wanted) < std::abs(angle)) {
    const double goal = angle * wanted < 0 ? 0.0 : wanted;
    const double turn = std::abs(goal - angle), needs = turn / t.return_rate;
    if (needs >= dt) return angle + std::copysign(t.return_rate * dt, goal - angle);
    angle = goal, dt -= needs;
  }
  return angle + std::clamp(wanted - angle, -t.rate * dt, t.rate * dt);
}

/// Where the wheels of a steered body roll round: a line across it at `centre` (m ahead of its middle).
struct SteerGeometry {
  double centre = 0;
  double base = 1;  ///< m from there to where wheels turn by the whole angle

  /// 1/m of the way it goes, left positive, at `angle` in the middle.
  double curvature(double angle) const { return angle == 0 ? 0.0 : same_bits::tan(angle) / base; }
  /// rad for a wheel `ahead` of the middle and `right` of it, which turns by `share` of `angle` (left positive).
  double wheel(double angle, double curvature, double share, double ahead, double right, double ackermann) const {
    if (share == 0 || angle == 0) return 0;
    const double exact = same_bits::atan((ahead - centre) * curvature / (1 + right * curvature));
    return share * angle + ackermann * (exact - share * angle);
  }
};

}  // namespace jugend
