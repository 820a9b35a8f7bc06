#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/led_body.hpp>

namespace jugend {

namespace {

constexpr double stride = 0.1;     // s: so long a hop counts as standing
constexpr double instant = 0.002;  // s, within which its law is taken as even: the same whatever a tick is

}  // namespace

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
          "upright.reach", "m", 0.01, 1000, "ground this near below its middle counts, and is followed",
          [](auto& t) -> auto& { return t.reach; }),
      number<P>(
          "air_control", "1", 0, 1, "share of its turning and speeding up that it has while it falls",
          [](auto& t) -> auto& { return t.air_control; }),
      length_scale_of<P>(),
  };
  return list;
}

void check(const LedBodyTuning& tuning) { check_ranges(led_body_tunables(), &tuning); }

LedBody::LedBody(const LedBodyTuning& tuning, BodyId body) : tuning_(tuning), body_(body) { check(tuning); }

/// The ground below it and how that moves; whether anything bears it is told by how it fell in the last tick: ground,
/// water, wings.
LedBody::Footing LedBody::feel_ground(const BodyFacts& body, const Vec3& gravity, Surroundings& surroundings,
                                      double dt) {
  const double strength = norm(gravity);
  if (strength <= 0) return {rotate(body.pose.orientation, {0, 1, 0})};
  const Vec3 up = gravity / -strength;
  Footing footing{up};
  Filter others = filter;
  others.ignored = body_;
  const auto ground = surroundings.cast({body.centre, -up, tuning_.reach}, others);
  const bool below = ground && ground->distance > 0;
  const double borne = dot(body.velocity_at(body.centre) - state_.planned, up);
  const bool falls = state_.moved ? borne < 0.2 * strength * state_.lasted : !below;
  if (falls && !state_.moved) {  // put there to fall, with whatever moves as it does
    state_.ground = in_plane(body.velocity_at(body.centre), up), state_.falling = infinity;
  } else if (!falls && !below && state_.falling > stride) {
    state_.ground = {};  // water has caught it, or its wings
  }
  state_.falling = falls ? state_.falling + state_.lasted : 0;
  if (falls) footing.air_from = std::max(0.0, stride - state_.falling);
  if (!below) return footing;
  const BodyFacts under = surroundings.facts(ground->body);
  footing.normal = ground->normal;
  if (falls) {  // until it stands as it last did
    const double sinks = -dot(body.velocity_at(body.centre) - under.velocity_at(ground->point), up);
    const double lands = first_root_within(0.5 * strength, sinks, state_.stands - ground->distance, dt);
    if (state_.stands > 0 && lands <= dt) footing.air_until = lands;
    return footing;
  }
  state_.stands = ground->distance;
  footing.grip = std::max(0.0, under.surface.grip);
  footing.friction =
      combined(body.surface.friction, under.surface.friction, body.surface.friction_rule, under.surface.friction_rule);
  // The mean over the tick, so that it ends with the velocity of the ground where it then is.
  const Vec3 round = under.velocity_at(ground->point) - under.velocity;
  footing.spin = under.spin, footing.turning = (rotate(rotation(under.spin * dt), round) - round) / dt;
  const Vec3 now = under.surface_velocity_at(ground->point);
  if (state_.moved) state_.planned += now - state_.ground;  // it goes along with what it stands on
  state_.ground = now;
  return footing;
}

/// Where its law takes it in a tick.
LedBody::Course LedBody::led(const Course& from, const LedBodyIntent& intent, const Vec3& up, double carried_round,
                             const Footing& footing, double dt) const {
  Course now = from;
  const int instants = static_cast<int>(std::clamp(std::ceil(dt / instant), 1.0, 5000.0));
  const double h = dt / instants, slips = 1 - share_left(tuning_.slip_half_life, h);
  const Vec3 heading = normalised(in_plane(intent.heading, up), {});
  for (int i = 0; i < instants; ++i) {
    // The share of this instant in the air counts, wherever ticks fall.
    const double begin = i * h, flies = std::min(footing.air_until, begin + h) - std::max(footing.air_from, begin);
    const double control = 1 - (1 - tuning_.air_control) * std::clamp(flies / h, 0.0, 1.0);
    const double turn_step = tuning_.turn_acceleration * control * h, slip_left = 1 - slips * control;
    // Turning: as fast as the gain asks, never faster than what can still be stopped in the angle that is left.
    const double angle =
        heading == Vec3{} ? 0 : same_bits::atan2(dot(cross(now.ahead, heading), up), dot(now.ahead, heading));
    const double left = std::abs(angle - std::clamp(now.rate * h, -std::abs(angle), std::abs(angle)));
    const double stoppable = std::sqrt(2 * tuning_.turn_acceleration * left);
    const double most = std::min({tuning_.turn_gain * left, tuning_.turn_limit, stoppable, std::abs(angle) / h});
    const double wanted = carried_round + std::copysign(most, angle);
    const double rate = now.rate + std::clamp(wanted - now.rate, -turn_step, turn_step);
    const double turn = 0.5 * (now.rate + rate) * h;

    // The velocity goes round with the body by the share that is carried; the rest of it is slip then.
    const Vec3 carried = rotate(rotation(up * (turn * tuning_.carry * control)), now.velocity);
    const Vec3 ahead = rotate(rotation(up * turn), now.ahead), right = cross(ahead, up);
    const double speed = dot(carried, ahead), slip = dot(carried, right);
    const bool slower = std::abs(speed) < std::abs(intent.speed) && speed * intent.speed >= 0;
    const double step = (slower ? tuning_.speed_up : tuning_.slow_down) * control * h;
    const Vec3 velocity = ahead * (speed + std::clamp(intent.speed - speed, -step, step)) + right * (slip * slip_left);
    now = {ahead, velocity, rate, now.way + (now.velocity + velocity) * (0.5 * h), now.turned + turn};
  }
  return now;
}

void LedBody::step(const LedBodyIntent& told, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  const LedBodyIntent intent = made_finite(told);
  const BodyFacts body = surroundings.facts(body_);
  if (body.mass <= 0) return;
  const Vec3 centre = body.centre, gravity = surroundings.gravity(centre);
  const double strength = norm(gravity);
  const Quat& turned = body.pose.orientation;
  const Vec3 own_up = rotate(turned, {0, 1, 0});
  const Footing footing = feel_ground(body, gravity, surroundings, dt);
  const bool in_air = footing.air_from < 0.5 * dt && footing.air_until > 0.5 * dt;
  const Vec3 up = tuning_.follow_ground ? footing.normal : strength > 0 ? gravity / -strength : own_up;
  const Vec3 ahead = normalised(in_plane(rotate(turned, {1, 0, 0}), up), any_perpendicular(up));
  const Vec3 right = cross(ahead, up);
  const Vec3 velocity = body.velocity_at(centre) - state_.ground;
  state_.speed = dot(velocity, ahead);
  state_.slip = dot(velocity, right);
  state_.impact = state_.moved ? std::max(0.0, std::abs(state_.expected) - std::abs(state_.speed)) : 0;

  state_.turn_rate = dot(body.spin, up);
  const double carried_round = intent.heading == Vec3{} && !in_air ? dot(footing.spin, up) : 0;
  const Course from{ahead, in_plane(velocity, up), state_.turn_rate, {}, 0};
  const Course then = led(from, intent, up, carried_round, footing, dt);
  // Its change of velocity, and the part of that at once with which an even force takes it as far as its law does.
  Vec3 acceleration = (then.velocity - from.velocity) / dt;
  Vec3 at_once = going(then.way, from.velocity, then.velocity, dt).at_once;

  // On the ground: its legs hold it on a slope, as far as they grip, and friction is made up for as it is found.
  if (!in_air && strength > 0) {
    const Vec3 along = in_plane(gravity, footing.normal);
    const double pressed = -dot(gravity, footing.normal), firm = footing.grip * std::max(0.0, pressed);
    state_.firm = firm, state_.friction = footing.friction * std::max(0.0, pressed);
    acceleration += in_plane(footing.turning, up) - along;
    if (const double size = norm(acceleration); size > firm && along != Vec3{})
      acceleration *= firm / size, at_once *= firm / size;
    const double missed = state_.moved ? std::abs(state_.expected) - std::abs(state_.speed) : 0;
    const double believed =
        std::abs(state_.speed) < 1e-3 * tuning_.length_scale ? 1 : 0.5;  // what holds it still took all of it
    state_.rub = std::clamp(state_.rub + believed * missed / dt, 0.0, state_.friction);
    acceleration += then.ahead * std::copysign(intent.speed != 0 ? state_.rub : 0.0, intent.speed);
  } else {
    state_.rub = state_.firm = state_.friction = 0;
  }
  state_.expected = dot(then.velocity, then.ahead);
  state_.planned = velocity + state_.ground + (acceleration + gravity) * dt;
  state_.moved = true, state_.lasted = dt;
  surroundings.push(body_, at_once * body.mass, centre);
  surroundings.force(body_, (acceleration - at_once / dt) * body.mass, centre);

  // Upright about the level axes (x'' + 2ω x' + ω² x = 0 over this tick), and the turn about up.
  const Vec3 across = in_plane(body.spin, up);
  const auto [turn_at_once, turning] = going(then.turned, from.rate, then.rate, dt);
  Vec3 spin_change = up * (turning * dt);
  if (tuning_.upright > 0) spin_change += settling(-turn_between(own_up, up), across, tuning_.upright, dt);
  if (turn_at_once != 0) surroundings.twist(body_, body.inertia() * (up * turn_at_once));
  if (spin_change != Vec3{}) surroundings.torque(body_, body.inertia() * (spin_change / dt));
}

}  // namespace jugend
