// What a take-off keeps of the motion of the ground that it leaves.
#pragma once

#include <algorithm>
#include <cmath>

namespace jugend {

struct CarryTuning {
  double level = 1;      ///< share of the ground's level velocity
  double rise = 1;       ///< share of its rise
  double rise_rule = 0;  ///< 0: heights add, so that a jump gains v²/2g; 1: speeds add

  /// The upward speed of a jump with `speed` of its own from ground that rises with `ground`, both m/s.
  double take_off(double speed, double ground) const {
    if (rise_rule >= 0.5) return speed + rise * ground;
    const double lift = std::max(ground, 0.0);
    return std::sqrt(speed * speed + rise * lift * lift);
  }
};

}  // namespace jugend
