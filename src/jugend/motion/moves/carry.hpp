// What a take-off keeps of the motion of the ground that it leaves.
#pragma once

#include <array>
#include <cmath>
#include <jugend/base/number.hpp>
#include <jugend/base/tunable.hpp>

namespace jugend {

/// What a jump from rising ground gains: the height v²/2g, or the speed itself.
enum class RiseRule : std::uint8_t { heights_add, speeds_add };
template <>
struct NamesOf<RiseRule> {
  static constexpr std::array<std::string_view, 2> names{"heights_add", "speeds_add"};
};

struct CarryTuning {
  double level = 1;  ///< share of the ground's level velocity
  double rise = 1;   ///< share of its rise
  RiseRule rise_rule = RiseRule::heights_add;

  /// The upward speed of a jump with `speed` of its own from ground that rises with `ground`, both m/s.
  double take_off(double speed, double ground) const {
    if (rise_rule == RiseRule::speeds_add) return speed + rise * ground;
    const double lift = larger(ground, 0.0);
    return std::sqrt(speed * speed + rise * lift * lift);
  }
};

}  // namespace jugend
