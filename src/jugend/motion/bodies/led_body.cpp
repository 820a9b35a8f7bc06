#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/led_body.hpp>

namespace jugend {

const Tunables& led_body_tunables() {
  using P = LedBodyTuning;
  static const Tunables list{
      number<P>(
          "top_speed", "m/s", 0.01, 1000, "with a full intent", [](auto& t) -> auto& { return t.top_speed; }),
      number<P>(
          "speed_up", "m/s2", 0, 10000, "while it is slower than wanted", [](auto& t) -> auto& { return t.speed_up; }),
      number<P>(
          "slow_down", "m/s2", 0, 10000, "while it is faster than wanted",
          [](auto& t) -> auto& { return t.slow_down; }),
      number<P>(
          "turn.gain", "1/s", 0, 100, "turn rate wanted for each radian still to turn",
          [](auto& t) -> auto& { return t.turn_gain; }),
      number<P>(
          "turn.limit_deg", "deg/s", 0, 36000, "the fastest that it turns",
          [](auto& t) -> auto& { return t.turn_limit; }),
      number<P>(
          "turn.acceleration_deg", "deg/s2", 0.01, 1e7, "how fast the turn rate changes",
          [](auto& t) -> auto& { return t.turn_acceleration; }),
      number<P>(
          "turn.carry", "1", 0, 1, "share of the momentum carried round a turn",
          [](auto& t) -> auto& { return t.carry; }),
      number<P>(
          "slip.half_life", "s", 0, 60, "half of the speed across the body is gone",
          [](auto& t) -> auto& { return t.slip_half_life; }),
      number<P>(
          "upright.frequency", "Hz", 0, 60, "how fast it comes upright; 0: physics alone",
          [](auto& t) -> auto& { return t.upright; }),
      toggle<P>(
          "upright.follow_ground", "along the ground below, not against gravity",
          [](auto& t) -> auto& { return t.follow_ground; }),
      number<P>(
          "upright.reach", "m", 0.01, 1000, "ground this near below its middle is followed",
          [](auto& t) -> auto& { return t.reach; }),
  };
  return list;
}

void check(const LedBodyTuning& tuning) { check_ranges(led_body_tunables(), &tuning); }

LedBody::LedBody(const LedBodyTuning& tuning, BodyId body) : tuning_(tuning), body_(body) { check(tuning); }

void LedBody::step(const LedBodyIntent& intent, Surroundings& surroundings, double dt) {
  const BodyFacts body = surroundings.facts(body_);
  if (body.mass <= 0) return;
  const Vec3 centre = body.centre;
  const Vec3 g = surroundings.gravity(centre);
  const double strength = norm(g);
  const Quat& turned = body.pose.orientation;
  const Vec3 own_up = rotate(turned, {0, 1, 0});
  Vec3 up = strength > 0 ? g / -strength : own_up;
  if (tuning_.follow_ground) {
    Filter others = filter;
    others.ignored = body_;
    if (const auto ground = surroundings.cast({centre, -up, tuning_.reach}, others); ground && ground->distance > 0)
      up = ground->normal;
  }
  const Vec3 ahead = normalised(in_plane(rotate(turned, {1, 0, 0}), up), any_perpendicular(up));
  const Vec3 right = cross(ahead, up);
  const Vec3 velocity = body.velocity_at(centre);
  state_.speed = dot(velocity, ahead);
  state_.slip = dot(velocity, right);
  state_.impact = state_.moved ? std::max(0.0, std::abs(state_.expected) - std::abs(state_.speed)) : 0;
  state_.moved = true;

  // Turning: as fast as the gain asks, never faster than what can still be stopped in the angle that is left.
  state_.turn_rate = dot(body.spin, up);
  const Vec3 heading = normalised(in_plane(intent.heading, up), ahead);
  const double angle = std::atan2(dot(cross(ahead, heading), up), dot(ahead, heading));
  const double stoppable = std::sqrt(2 * tuning_.turn_acceleration * std::abs(angle));
  const double in_a_tick = std::abs(angle) / dt;
  const double most = std::min({tuning_.turn_gain * std::abs(angle), tuning_.turn_limit, stoppable, in_a_tick});
  const double wanted_rate = std::copysign(most, angle);
  const double change =
      std::clamp(wanted_rate - state_.turn_rate, -tuning_.turn_acceleration * dt, tuning_.turn_acceleration * dt);
  const double rate = state_.turn_rate + change;

  // The velocity goes round with the body by the share that is carried; the rest of it is slip then.
  const double turn = rate * dt;
  const Vec3 level = in_plane(velocity, up);
  const Vec3 carried = rotate(rotation(up * (turn * tuning_.carry)), level);
  const Vec3 ahead_then = rotate(rotation(up * turn), ahead), right_then = cross(ahead_then, up);
  const double speed = dot(carried, ahead_then), slip = dot(carried, right_then);
  const bool slower = std::abs(speed) < std::abs(intent.speed) && speed * intent.speed >= 0;
  const double step = (slower ? tuning_.speed_up : tuning_.slow_down) * dt;
  const double speed_then = speed + std::clamp(intent.speed - speed, -step, step);
  state_.expected = speed_then;
  const Vec3 level_then = ahead_then * speed_then + right_then * (slip * share_left(tuning_.slip_half_life, dt));
  surroundings.push(body_, (level_then - level) * body.mass, centre);

  // Upright about the level axes (x'' + 2ω x' + ω² x = 0 over this tick), and the turn about up.
  const Vec3 across = in_plane(body.spin, up);
  Vec3 spin_change = up * change;
  if (tuning_.upright > 0) spin_change += settling(-turn_between(own_up, up), across, tuning_.upright, dt);
  if (spin_change != Vec3{}) surroundings.twist(body_, body.inertia() * spin_change);
}

}  // namespace jugend
