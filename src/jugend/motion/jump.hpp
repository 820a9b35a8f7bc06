// A jump as it is asked for, and the gravity and take-off speed that follow.
#pragma once

#include <jugend/base/ballistic.hpp>
#include <jugend/base/units.hpp>

namespace jugend {

/// A jump stated by its outcome at standard gravity.
struct JumpTuning {
  double height = 1.25;          ///< m from take-off to apex
  double time_to_apex = 0.38;    ///< s
  double fall_multiplier = 1.5;  ///< gravity in the fall, as a multiple of gravity in the rise
  double fall_speed_limit = 22;  ///< m/s

  /// h = v²/2g and t = v/g give g = 2h/t².
  double gravity() const { return 2 * height / (time_to_apex * time_to_apex); }
  /// and v = 2h/t.
  double take_off_speed() const { return 2 * height / time_to_apex; }
  /// The rise and fall where real gravity is `ratio` times standard gravity: the take-off speed stays,
  /// so that a jump in the grotto is as much higher as a person's would be.
  FallLaw fall_law(double ratio = 1) const {
    return {gravity() * ratio, gravity() * ratio * fall_multiplier, fall_speed_limit};
  }
};

}  // namespace jugend
