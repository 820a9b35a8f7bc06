// Rising and falling under game gravity, stepped exactly: the same flight at every tick rate.
#pragma once

namespace jugend {

/// Gravity that may differ between rise and fall, and a limit to the speed of falling.
struct FallLaw {
  double rising = 9.80665;    ///< m/s², > 0, while the speed is upward
  double falling = 9.80665;   ///< m/s², > 0, while it is downward
  double speed_limit = 1e30;  ///< m/s, > 0: falling never accelerates beyond it
  double float_speed = 0;     ///< m/s: at upward or downward speeds below this the body floats,
  double float_share = 1;     ///< under this share of gravity, > 0
};

/// A stretch of motion along a line under one constant acceleration.
struct Ramp {
  double duration = 0;      ///< s
  double acceleration = 0;  ///< m/s²
  double end_speed = 0;     ///< m/s, set exactly where the stretch ends at a limit
};

/// The next stretch, at most `dt` long, of a flight with upward speed `speed`: to the apex, to where
/// it begins or ceases to float, to the speed limit, or to the end of `dt`, whichever is first. A fall faster than the
/// limit (a throw downward) is slowed to it at the rate of `falling`.
Ramp next_fall_ramp(double speed, const FallLaw& law, double dt);

/// A whole step of `dt` seconds, apex and limit inside it included.
struct FallStep {
  double height = 0;  ///< m gained
  double speed = 0;   ///< m/s upward at the end
};
FallStep fall_step(double speed, const FallLaw& law, double dt);

}  // namespace jugend
