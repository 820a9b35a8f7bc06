// The multirotor: what it is made from, what its mode asks of its rotors, what these give.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/motion/port/intent.hpp>

namespace jugend {

std::vector<RotorTuning> rotors_of(const MultirotorTuning& tuning, double weight) {
  const int count = tuning.rotors;
  // Three cannot balance what turns them back by thrusts: they all turn one way, and lean against it.
  const bool leans = count == 3;
  const double lean = leans ? tuning.torque_share / tuning.arm : 0;
  std::vector<RotorTuning> rotors;
  for (int i = 0; i < count; ++i) {
    const double angle = 2 * pi * (i + 0.5) / count;
    RotorTuning& r = rotors.emplace_back();
    r.place = {tuning.arm * same_bits::cos(angle), 0, tuning.arm * same_bits::sin(angle)};
    r.direction = {-same_bits::sin(angle) * lean, 1, same_bits::cos(angle) * lean};
    r.turns = leans || i % 2 == 0 ? 1 : -1;
    r.most_thrust = tuning.lift_ratio * weight / count;
    r.torque_share = tuning.torque_share;
    r.radius = tuning.rotor_radius;
  }
  return rotors;
}

namespace {

double weight_of(const Surroundings& surroundings, BodyId body) {
  const BodyFacts facts = surroundings.facts(body);
  if (facts.mass <= 0) fail({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
  const double felt = norm(surroundings.gravity(facts.centre));
  return facts.mass * (felt > 0 ? felt : standard_gravity);
}

}  // namespace

Multirotor::Multirotor(const MultirotorTuning& tuning, BodyId body, const Surroundings& surroundings)
    : Multirotor(tuning, rotors_of((check(tuning), tuning), weight_of(surroundings, body)), body, surroundings) {}

Multirotor::Multirotor(const MultirotorTuning& tuning, std::span<const RotorTuning> rotors, BodyId body,
                       const Surroundings& surroundings)
    : tuning_((check(tuning), tuning)),
      makings_(makings_of(body, surroundings)),
      rotors_(rotors.begin(), rotors.end()),
      mix_(rotors, weight_of(surroundings, body)),
      wind_(tuning.wind),
      body_(body) {
  for (const RotorTuning& r : rotors) directions_.push_back(normalised(r.direction, {0, 1, 0}));
  // It starts with its rotors turning as they hover.
  const double weight = weight_of(surroundings, body);
  Thrusts thrusts{}, turned{};
  mix_.share({weight, {}}, 0, thrusts);
  for (std::size_t i = 0; i < rotors_.size(); ++i) {
    state_.speed[i] = same_bits::pow(thrusts[i] / rotors_[i].most_thrust, 1 / tuning.curve);
    hover_speed_ = std::max(hover_speed_, state_.speed[i]);
  }
  hover_speeds_ = state_.speed;
  // About roll and pitch half of what each rotor can give and take where it hovers, about yaw a fifth.
  const BodyFacts facts = surroundings.facts(body);
  const auto gentle = [&](const Vec3& about, double share) {
    double most = infinity;
    mix_.share({weight, about * 1e-6}, 0, turned);
    for (std::size_t i = 0; i < rotors_.size(); ++i) {
      const double by = std::abs(turned[i] - thrusts[i]) * 1e6;
      if (by > 0) most = std::min(most, share * std::min(thrusts[i], rotors_[i].most_thrust - thrusts[i]) / by);
    }
    return std::max(most * norm(facts.inverse_inertia * rotate(facts.pose.orientation, about)), 0.2);
  };
  gentle_ = std::min(gentle({1, 0, 0}, 0.5), gentle({0, 0, 1}, 0.5)), gentle_yaw_ = gentle({0, 1, 0}, 0.2);
}

void Multirotor::start_anew() {
  const MultirotorState former = state_;
  state_ = {};
  state_.speed = hover_speeds_, state_.failed = former.failed, state_.time = former.time;
}

void Multirotor::set_tuning(const MultirotorTuning& tuning, const Surroundings& surroundings) {
  Multirotor next(tuning, body_, surroundings);
  next.succeed(*this);
  *this = std::move(next);
}

void Multirotor::remake(const Surroundings& surroundings) {
  Multirotor next(tuning_, rotors_, body_, surroundings);
  next.succeed(*this);
  *this = std::move(next);
}

/// Takes the place of `former`.
void Multirotor::succeed(const Multirotor& former) {
  filter = former.filter, state_ = former.state_;
  if (rotors() == former.rotors()) return;
  start_anew();
  state_.failed &= (1u << rotors()) - 1;
  state_.holds_height = former.state_.holds_height, state_.height = former.state_.height;
}

void Multirotor::fail(int rotor, bool stands) {
  if (rotor < 0 || rotor >= rotors())
    jugend::fail({{}, "rotor", filled("{}", rotor), filled("0 to {}", rotors() - 1), {}});
  const std::uint32_t bit = 1u << rotor;
  state_.failed = stands ? state_.failed | bit : state_.failed & ~bit;
}

struct Multirotor::Tick {
  const MultirotorIntent& intent;
  const double dt;
  const MultirotorTuning& tuning;
  MultirotorState& state;
  BodyFacts body;
  Vec3 up, own_up, own_ahead, own_right, velocity;  // up: against gravity
  double strength, gentle, gentle_yaw;              // rad/s² that it turns with at the most
  bool leans_back = false;                          // it is asked to lean less than it does, or the other way

  /// m/s² along up that the sticks ask for, beyond what bears the weight.
  double climb();
  double lift(double rises, double upright) const;
  Vec3 level_acceleration() const;
  Vec3 turning(double lift_acceleration);
  Vec3 torque_for(const Vec3& change) const;
  Vec3 change_by(const Vec3& torque) const;
  /// N that the stick asks for where no height is held.
  double own_lift() const {
    const double stick = asked_share(intent.climb);
    return body.mass * strength * (stick > 0 ? 1 + stick * (tuning.lift_ratio - 1) : 1 + stick);
  }
  Vec3 level(const Vec3& v) const { return in_plane(v, up); }
};

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

/// m/s² along the level for the modes that ask for speed or a place.
Vec3 Multirotor::Tick::level_acceleration() const {
  const Vec3 ahead = normalised(level(own_ahead), any_perpendicular(up)), right = cross(ahead, up);
  Vec3 wanted = (ahead * asked_share(intent.ahead) + right * asked_share(intent.right)) * tuning.speed_limit;
  double rate = 0.69314718055994531 / tuning.speed_half_life;
  if (tuning.mode == RotorMode::position) {
    const double w = 2 * pi * tuning.place_frequency;
    wanted = level(intent.place - body.centre) * (0.5 * w);
    rate = 2 * w;
  }
  const double fast = norm(wanted);
  if (fast > tuning.speed_limit) wanted *= tuning.speed_limit / fast;
  return (wanted - level(velocity)) * rate - level(state.unforeseen);
}

/// The change of spin in this tick that mode and sticks ask for.
Vec3 Multirotor::Tick::turning(double lift_acceleration) {
  const RotorMode mode = tuning.mode;
  const double near = 1 - share_left(tuning.rate_half_life, dt);
  const double yaw = -asked_share(intent.yaw) * tuning.yaw_limit;
  const double most = gentle_yaw * dt;
  const Vec3 yawing = own_up * std::clamp((yaw - dot(body.spin, own_up)) * near, -most, most);
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
    tilt = level_acceleration() / std::max(lift_acceleration, 0.3 * strength);
  }
  if (const double steep = norm(tilt); steep > steepest) tilt *= steepest / steep;
  const Vec3 wanted_up = normalised(up + tilt), lean = level(own_up);
  leans_back = dot(level(wanted_up) - lean, lean) < -0.02 * norm(lean);
  const Vec3 error = turn_between(own_up, wanted_up, own_ahead);  // upside down any way round is as good
  // No faster than leaves rotors room for their lift: beyond an angle the return is at a steady rate.
  const double w = 2 * pi * tuning.attitude_frequency, far = gentle / (w * w);
  const double angle = norm(error), scale = angle > far ? far / angle : 1.0;
  return yawing + settling(error * -scale, across, tuning.attitude_frequency, dt);
}

/// N m that change its spin so. It turns meanwhile, and its moments with it: what spins fast about its up, since a
/// rotor has failed, would swing aside like a top.
Vec3 Multirotor::Tick::torque_for(const Vec3& change) const {
  const Quat turn = rotation((body.spin + change * 0.5) * dt);
  const Sym3 inertia = body.inertia();
  return (rotate(turn, inertia * rotate(conjugate(turn), body.spin + change)) - inertia * body.spin) / dt;
}

/// And the change of its spin that a torque comes to.
Vec3 Multirotor::Tick::change_by(const Vec3& torque) const {
  const Quat turn = rotation((body.spin + body.inverse_inertia * torque * (0.5 * dt)) * dt);
  const Vec3 momentum = body.inertia() * body.spin + torque * dt;
  return rotate(turn, body.inverse_inertia * rotate(conjugate(turn), momentum)) - body.spin;
}

/// What something else gave it since the last tick; a crash or a blow is no load.
void Multirotor::learn_load(const Vec3& velocity, const Vec3& spin, double dt) {
  if (!state_.moved || tuning_.load_half_life <= 0) return;
  // What turns it would have it over long before a load has moved it.
  const Vec3 turned = (spin - state_.spin - state_.turning) / dt;
  state_.turned_by_others = smoothed(state_.turned_by_others, turned, 0.1 * tuning_.load_half_life, dt);
  const Vec3 found = (velocity - state_.expected) / dt;
  if (norm(found) > 2 * standard_gravity) return;
  state_.unforeseen = smoothed(state_.unforeseen, found, tuning_.load_half_life, dt);
}

/// Pressed against a wall by its own thrust it cannot lean back, however hard its rotors turn it: for a moment they
/// stand still, so that it falls free.
void Multirotor::feel_pinned(const Tick& tick) {
  constexpr double patience = 0.3, pause = 0.2, least = 2, still = 0.5;  // s, s, rad/s², rad/s
  const double dt = tick.dt, turned = squared_norm(state_.turning);
  state_.let_go = std::max(0.0, state_.let_go - dt);
  const bool blocked =
      turned > least * least * dt * dt && dot(tick.body.spin - state_.spin, state_.turning) < 0.5 * turned;
  state_.pinned =
      blocked && norm(tick.body.spin) < still && tick.leans_back && state_.let_go == 0 ? state_.pinned + dt : 0;
  if (state_.pinned > patience) state_.let_go = pause, state_.pinned = 0;
}

/// The speeds that rotors shall come to for `wanted` N each, and by how much more they are told: a rotor comes only so
/// near within the tick. All are told by the same share more, and none beyond its limits: so they come nearer together,
/// and the lift has no dip on the way.
double Multirotor::aim(const Thrusts& wanted, double left, Thrusts& goal) const {
  double more = 1 / (1 - left);
  for (std::size_t i = 0; i < rotors_.size(); ++i) {
    const double ratio = std::max(0.0, wanted[i] / rotors_[i].most_thrust);
    goal[i] = tuning_.curve == 2 ? std::sqrt(ratio) : same_bits::pow(ratio, 1 / tuning_.curve);
    const double change = goal[i] - state_.speed[i];
    const double room = change > 0 ? 1 - state_.speed[i] : state_.speed[i];
    // Where one has failed the craft may spin, and what its rotors are late by counts for more than a dip.
    if (state_.failed == 0 && std::abs(change) * more > room) more = std::max(1.0, room / std::abs(change));
  }
  return more;
}

/// What rotors that are told `more` than their goals push and turn with over the tick, by Simpson's rule, and the
/// speeds that they come to.
Multirotor::Wrench Multirotor::thrust(const Thrusts& goal, double more, double left, Thrusts& to) {
  const auto power = [&](double speed) {
    return tuning_.curve == 2 ? speed * speed : same_bits::pow(speed, tuning_.curve);
  };
  Wrench sum;
  for (std::size_t i = 0; i < rotors_.size(); ++i) {
    const RotorTuning& r = rotors_[i];
    const bool stands = (state_.failed >> i & 1u) != 0;
    const double from = state_.speed[i], told = stands ? 0.0 : std::clamp(from + (goal[i] - from) * more, 0.0, 1.0);
    to[i] = told + (from - told) * left;
    const double middle = told + (from - told) * std::sqrt(left);
    state_.thrust[i] = r.most_thrust * (power(from) + 4 * power(middle) + power(to[i])) / 6;
    const Vec3 force = directions_[i] * state_.thrust[i];
    sum.push += force;
    sum.turn += cross(r.place, force) + force * (r.turns * r.torque_share);
  }
  return sum;
}

/// Near ground the air under the discs bears more: T/T∞ = 1 / (1 - (R/4z)²), I. C. Cheeseman and W. E. Bennett,
/// "The effect of the ground on a helicopter rotor in forward flight", ARC R&M 3021, 1955. The share that is added.
double Multirotor::ground_effect(const Tick& tick, const Surroundings& surroundings) const {
  if (tuning_.ground_effect <= 0 || tick.strength <= 0) return 0;
  const double radius = rotors_.front().radius;
  Filter others = filter;
  others.ignored = body_;
  const auto ground = surroundings.cast({tick.body.centre, -tick.up, 4 * radius}, others);
  if (!ground) return 0;
  const double part = radius / (4 * std::max(ground->distance, 0.5 * radius));
  return tuning_.ground_effect * (1 / (1 - part * part) - 1);
}

/// The rotors' push and turn in this tick. How the body turns decides where its lift points, so the lift is asked for a
/// second time when that is known.
Multirotor::Wrench Multirotor::turn_rotors(Tick& tick) {
  const double dt = tick.dt;
  const Quat& q = tick.body.pose.orientation;
  const bool holds = tuning_.hold_height;
  const double rises = holds ? tick.strength + tick.climb() - dot(state_.unforeseen, tick.up) : tick.strength;
  const Vec3 change = tick.turning(rises) - state_.turned_by_others * dt;
  feel_pinned(tick);
  const double left = tuning_.lag > 0 ? same_bits::exp(-dt / tuning_.lag) : 0;
  // Rotors take time, so what they are told counts about when they have come to it: by then it has turned on.
  const double old_share = left > 0 ? ((1 - left) * tuning_.lag / dt - left) / (1 - left) : 0;
  const Quat then = rotation(tick.body.spin * ((0.5 + old_share) * dt)) * q;
  const Vec3 torque = rotate(conjugate(then), tick.torque_for(change));
  Thrusts wanted{}, goal{}, to{};
  // Half-way through the tick is where its thrust points on the mean.
  Quat half_way = normalised(rotation(tick.body.spin * (0.5 * dt) + change * (0.125 * dt)) * q);
  Wrench own;
  for (int pass = 0; pass < (holds ? 2 : 1); ++pass) {
    const double upright = dot(rotate(half_way, {0, 1, 0}), tick.up);
    if (state_.let_go == 0)
      mix_.share({holds ? tick.lift(rises, upright) : tick.own_lift(), torque}, state_.failed, wanted);
    const double more = aim(wanted, left, goal);
    own = thrust(goal, more, left, to);
    const Vec3 gained = tick.body.inverse_inertia * rotate(q, own.turn);
    half_way = normalised(rotation(tick.body.spin * (0.5 * dt) + gained * (0.125 * dt * dt)) * q);
  }
  for (std::size_t i = 0; i < rotors_.size(); ++i) state_.speed[i] = to[i];
  state_.spin = tick.body.spin, state_.turning = tick.change_by(rotate(half_way, own.turn));
  return {rotate(half_way, own.push), rotate(half_way, own.turn)};
}

void Multirotor::step(const MultirotorIntent& told, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  const BodyFacts body = surroundings.facts(body_);
  if (body.mass <= 0) return;
  const MultirotorIntent intent = made_finite(told, {.place = body.pose.position});
  const Vec3 gravity = surroundings.gravity(body.centre);
  const double strength = norm(gravity);
  const Quat& q = body.pose.orientation;
  const Vec3 own_up = rotate(q, {0, 1, 0});
  const Vec3 up = strength > 0 ? gravity / -strength : own_up;
  const Vec3 velocity = body.velocity_at(body.centre);
  learn_load(velocity, body.spin, dt);
  state_.tilt = same_bits::acos(std::clamp(dot(own_up, up), -1.0, 1.0));
  Tick tick{intent,   dt,       tuning_, state_,     body, up, own_up, rotate(q, {1, 0, 0}), rotate(q, {0, 0, 1}),
            velocity, strength, gentle_, gentle_yaw_};
  const auto [push, turn] = turn_rotors(tick);
  state_.expected = velocity + (gravity + push / body.mass) * dt;

  const Vec3 through = velocity - (wind_.still() ? Vec3{} : wind_.at(state_.time + 0.5 * dt));
  const Vec3 drag = through * (tuning_.drag * norm(through));
  surroundings.force(body_, push + push * ground_effect(tick, surroundings) - drag, body.centre);
  surroundings.torque(body_, turn);
  state_.time += dt;
  state_.moved = true;
}

}  // namespace jugend
