// What a multirotor knows and wants in a tick, or in a part of a long one.
#pragma once

#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/motion/port/intent.hpp>

namespace jugend {

struct Multirotor::Tick {
  const MultirotorIntent& intent;
  const double dt;
  const MultirotorTuning& tuning;
  MultirotorState& state;
  BodyFacts body;
  Vec3 up, own_up, own_ahead, own_right, velocity;  // up: against gravity
  double strength, gentle, gentle_yaw;              // rad/s² that it turns with at the most
  Vec3 wanted_up;                                   // none in rates mode
  double whole = 0;                                 // s of the tick that begins with this; 0: a later part of it

  /// m/s² along up that the sticks ask for, beyond what bears the weight.
  double climb();
  double lift(double rises, double upright) const;
  Vec3 level_acceleration(double lift_acceleration) const;
  Vec3 turning(double lift_acceleration);
  /// N that the stick asks for where no height is held.
  double own_lift() const {
    const double stick = asked_share(intent.climb);
    return body.mass * strength * (stick > 0 ? 1 + stick * (tuning.lift_ratio - 1) : 1 + stick);
  }
  Vec3 level(const Vec3& v) const { return in_plane(v, up); }
};

}  // namespace jugend
