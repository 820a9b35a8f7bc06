// Running: how a velocity goes to the one that is wished for, at stated rates and exactly.
#pragma once

#include <jugend/base/vec.hpp>

namespace jugend {

/// Times from standstill to top speed and back. All may be 0: at once.
struct RunTuning {
  double top_speed = 6;             ///< m/s
  double time_to_top_speed = 0.25;  ///< s from standstill
  double time_to_stop = 0.18;       ///< s from top speed, with no input
  double time_to_turn = 0.12;       ///< s from top speed to standstill, with input the other way
};

/// The same as accelerations, m/s²; infinite where the time is 0.
struct RunRates {
  double accelerate = 0, brake = 0, turn = 0;
};
/// `share` of them, as where there is little grip or control.
RunRates rates_of(const RunTuning& tuning, double share = 1);

/// A stretch of motion in a plane under one constant acceleration.
struct RunRamp {
  double duration = 0;  ///< s
  Vec3 acceleration;    ///< m/s²
  Vec3 end_velocity;    ///< m/s; set exactly where a part of it reached its goal
};

/// The next stretch, at most `dt` long, of a velocity on its way to `target`. Along the target it speeds
/// up, brakes where it is too fast, and turns where it goes the other way; what is across the target
/// goes at the rate of turning. With target 0 all of it brakes. A stretch ends where one of these does,
/// so that the whole is the same for every tick rate.
RunRamp next_run_ramp(const Vec3& velocity, const Vec3& target, const RunRates& rates, double dt);

}  // namespace jugend
