// What a multirotor's mode and sticks ask of it: lift, and how it turns.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/bodies/detail/multirotor_tick.hpp>

namespace jugend {

double Multirotor::Tick::climb() {
  const double rising = dot(velocity, up), height = dot(body.centre, up);
  const double stick = tuning.mode == RotorMode::position ? 0.0 : asked_share(intent.climb);
  const auto towards = [&](double speed) {
    return (speed - rising) * (1 - share_left(tuning.climb_half_life, dt)) / dt;
  };
  const auto held = [&] {
    // Far away it comes at a speed that it can still lose by a quarter of gravity, near as the spring says.
    const double w = 2 * pi * tuning.height_frequency, away = height - state.height, brakes = 0.25 * strength;
    if (std::abs(away) <= 8 * brakes / (w * w)) return settling(away, rising, tuning.height_frequency, dt) / dt;
    return towards(std::copysign(std::min(tuning.climb_limit, std::sqrt(2 * brakes * std::abs(away))), -away));
  };
  const auto asked = [&] {
    if (tuning.mode == RotorMode::position) {
      state.height = dot(intent.place, up), state.holds_height = true;
    } else if (stick != 0) {
      state.holds_height = false;
      return towards(stick * tuning.climb_limit);
    } else if (!state.holds_height) {
      if (state.moved && std::abs(rising) > 0.02 * tuning.climb_limit) return towards(0);
      state.height = height, state.holds_height = true;
    }
    return held();
  };
  // Down no faster than it falls, up by most of what its rotors have.
  return std::clamp(asked(), -0.8 * strength, std::max(0.1, 0.8 * (tuning.lift_ratio - 1)) * strength);
}

/// N along its up that give it `rises` m/s² upwards, where it points `upright` of that way. Further over than it is
/// ever asked to lean its lift goes, as the least squares of what it gives would have it: there it would push it aside.
double Multirotor::Tick::lift(double rises, double upright) const {
  const double least = same_bits::cos(std::min(1.2 * tuning.tilt_limit, 1.45));
  return std::max(0.0, body.mass * rises * upright / std::max(upright * upright, least * least));
}

/// m/s² along the level for the modes that ask for speed or a place: where it is half-way through the tick, since they
/// count for all of it.
Vec3 Multirotor::Tick::level_acceleration(double lift_acceleration) const {
  const Vec3 leans = level(own_up) * (lift_acceleration / std::max(dot(own_up, up), 0.3)) + level(state.unforeseen);
  const Vec3 going = level(velocity) + leans * (0.5 * dt);
  const Vec3 ahead = normalised(level(own_ahead), any_perpendicular(up)), right = cross(ahead, up);
  Vec3 wanted = (ahead * asked_share(intent.ahead) + right * asked_share(intent.right)) * tuning.speed_limit;
  double rate = 0.69314718055994531 / tuning.speed_half_life;
  if (tuning.mode == RotorMode::position) {
    const double w = 2 * pi * tuning.place_frequency;
    wanted = level(intent.place - body.centre - velocity * (0.5 * dt)) * (0.5 * w);
    rate = 2 * w;
  }
  const double fast = norm(wanted);
  if (fast > tuning.speed_limit) wanted *= tuning.speed_limit / fast;
  return (wanted - going) * rate - level(state.unforeseen);
}

/// The change of spin in this tick that mode and sticks ask for.
Vec3 Multirotor::Tick::turning(double lift_acceleration) {
  const RotorMode mode = tuning.mode;
  const double near = 1 - share_left(tuning.rate_half_life, dt);
  const double yaw = -asked_share(intent.yaw) * tuning.yaw_limit;
  const double spins = dot(body.spin, own_up);
  // Faster round than it is ever asked for, it brakes by what lift and lean leave.
  const double most =
      gentle_yaw * dt * (state.failed == 0 ? std::clamp(std::abs(spins) / tuning.yaw_limit, 1.0, 5.0) : 1);
  const Vec3 yawing = own_up * std::clamp((yaw - spins) * near, -most, most);
  const Vec3 across = in_plane(body.spin, own_up);
  if (mode == RotorMode::rates) {
    const Vec3 wanted =
        (own_ahead * asked_share(intent.right) - own_right * asked_share(intent.ahead)) * tuning.rate_limit;
    return yawing + (wanted - across) * near;
  }
  const double steepest = same_bits::tan(tuning.tilt_limit);
  Vec3 tilt;  // level part of the thrust's direction, over its part along up
  if (mode == RotorMode::attitude) {
    const Vec3 ahead = normalised(level(own_ahead), any_perpendicular(up)), right = cross(ahead, up);
    tilt = ahead * same_bits::tan(asked_share(intent.ahead) * tuning.tilt_limit) +
           right * same_bits::tan(asked_share(intent.right) * tuning.tilt_limit);
  } else {
    tilt = level_acceleration(lift_acceleration) / std::max(lift_acceleration, 0.3 * strength);
  }
  if (const double steep = norm(tilt); steep > steepest) tilt *= steepest / steep;
  wanted_up = normalised(up + tilt);
  const Vec3 error = turn_between(own_up, wanted_up, own_ahead);  // upside down any way round is as good
  // No faster than leaves rotors room for their lift: beyond an angle the return is at a steady rate.
  const double w = 2 * pi * tuning.attitude_frequency, far = gentle / (w * w), angle = norm(error);
  if (angle <= far) return yawing + settling(-error, across, tuning.attitude_frequency, dt);
  return yawing + (error * (0.5 * w * far / angle) - across) * (1 - same_bits::exp(-2 * w * dt));
}

}  // namespace jugend
