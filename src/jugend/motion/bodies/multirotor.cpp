// The multirotor: what it is made from, what its mode asks of its rotors, what these give.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/detail/multirotor_tick.hpp>
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

double weight_of(const MultirotorTuning& tuning, const Surroundings& surroundings, BodyId body) {
  const BodyFacts facts = surroundings.facts(body);
  if (facts.mass <= 0) fail({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
  return facts.mass * sizing_pull(surroundings.gravity(facts.centre), tuning.length_scale);
}

/// N m that change a body's spin so within `dt`. It turns meanwhile, and its moments with it: what spins fast about its
/// up, since a rotor has failed, would swing aside like a top.
Vec3 torque_for(const BodyFacts& body, const Vec3& change, double dt) {
  const Quat turn = rotation((body.spin + change * 0.5) * dt);
  const Sym3 inertia = body.inertia();
  return (rotate(turn, inertia * rotate(conjugate(turn), body.spin + change)) - inertia * body.spin) / dt;
}

/// The same of one that may tumble. To hold all of that swing would take all that its rotors have, and nothing be left
/// to slow it down: so no more than `most` (rad/s²) of it. And one that spins fast about its up wants them to change as
/// fast: of a turn at ω they give 1 / (ω lag)² where their speeds come late, and further on push it the wrong way.
Vec3 torque_within(const BodyFacts& body, const Vec3& change, double most, double lag, double dt) {
  constexpr double soon = 0.45;  // of a radian that it turns by in the lag
  const Vec3 own_up = rotate(body.pose.orientation, {0, 1, 0}), plain = body.inertia() * change / dt;
  const auto within = [&](const Vec3& torque, double limit) {
    const double has = norm(body.inverse_inertia * torque);
    return torque * (has > limit ? limit / has : 1);
  };
  const double turns = lag * dot(body.spin, own_up), follows = most * (soon * soon) / std::max(turns * turns, 1e-12);
  const Vec3 all = plain + within(torque_for(body, change, dt) - plain, std::min(most, follows));
  const Vec3 yaw = own_up * dot(all, own_up);
  return yaw + within(all - yaw, follows);
}

/// And the change of its spin that a torque comes to. What turns far within `dt` is followed in steps, by their
/// middles.
Vec3 change_by(const BodyFacts& body, const Vec3& torque, double dt) {
  constexpr double most_turn = 0.25, most_steps = 64;  // rad
  const double steps = std::clamp(std::ceil(norm(body.spin) * dt / most_turn), 1.0, most_steps), h = dt / steps;
  Quat turned;
  Vec3 momentum = body.inertia() * body.spin;
  const auto spin_after = [&](const Quat& turn) {
    return rotate(turn, body.inverse_inertia * rotate(conjugate(turn), momentum));
  };
  for (double step = 0; step < steps; ++step) {
    const Vec3 push = torque * (0.5 * h);
    const Vec3 begun = spin_after(turned);
    momentum += push;
    const Vec3 middle = spin_after(normalised(rotation(begun * (0.5 * h)) * turned));
    turned = normalised(rotation(middle * h) * turned);
    momentum += push;
  }
  return spin_after(turned) - body.spin;
}

/// Where a body is after `dt` if its velocity and spin change evenly by so much.
BodyFacts advanced(const BodyFacts& body, const Vec3& faster, const Vec3& spun, double dt) {
  BodyFacts then = body;
  const Quat turn = rotation((body.spin + spun * 0.5) * dt);
  then.centre += (body.velocity_at(body.centre) + faster * 0.5) * dt;
  then.pose.orientation = normalised(turn * body.pose.orientation);
  then.pose.position = then.centre + rotate(turn, body.pose.position - body.centre);
  then.spin = body.spin + spun;
  then.velocity = body.velocity_at(body.centre) + faster + cross(then.spin, then.pose.position - then.centre);
  then.inverse_inertia = turned(turn, body.inverse_inertia);
  return then;
}

constexpr double longest_part = 1.0 / 60;  // s: a longer tick is flown in parts, or a craft would lag by half of it

}  // namespace

Multirotor::Multirotor(const MultirotorTuning& tuning, BodyId body, const Surroundings& surroundings)
    : Multirotor(tuning, rotors_of((check(tuning), tuning), weight_of(tuning, surroundings, body)), body,
                 surroundings) {}

Multirotor::Multirotor(const MultirotorTuning& tuning, std::span<const RotorTuning> rotors, BodyId body,
                       const Surroundings& surroundings)
    : tuning_((check(tuning), tuning)),
      makings_(makings_of(body, surroundings)),
      rotors_(rotors.begin(), rotors.end()),
      mix_(rotors, weight_of(tuning, surroundings, body)),
      wind_(tuning.wind, tuning.length_scale),
      body_(body) {
  for (const RotorTuning& r : rotors) {
    const Vec3 push = normalised(r.direction, {0, 1, 0});
    of_a_newton_.push_back({push, cross(r.place, push) + push * (r.turns * r.torque_share)});
  }
  // It starts with its rotors turning as they hover.
  const double weight = weight_of(tuning, surroundings, body);
  Thrusts thrusts{}, turned{};
  mix_.share({weight, {}}, 0, thrusts);
  for (std::size_t i = 0; i < rotors_.size(); ++i) {
    state_.speed[i] = same_bits::pow(thrusts[i] / rotors_[i].most_thrust, 1 / tuning.curve);
    hover_speed_ = std::max(hover_speed_, state_.speed[i]);
  }
  hover_speeds_ = state_.speed;
  // About roll and pitch half of what each rotor can give and take where it hovers, about yaw a fifth.
  const BodyFacts facts = surroundings.facts(body);
  const double little = 1e-6 * tuning.length_scale * tuning.length_scale;  // N m
  const auto gentle = [&](const Vec3& about, double share) {
    double most = infinity;
    mix_.share({weight, about * little}, 0, turned);
    for (std::size_t i = 0; i < rotors_.size(); ++i) {
      const double by = std::abs(turned[i] - thrusts[i]) / little;
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

/// What something else gave it since the last tick; a crash or a blow is no load.
void Multirotor::learn_load(const Vec3& velocity, const Vec3& spin, double dt) {
  if (!state_.moved || tuning_.load_half_life <= 0) return;
  // What turns it would have it over long before a load has moved it.
  const Vec3 turned = (spin - state_.spin - state_.turning) / dt;
  state_.turned_by_others = smoothed(state_.turned_by_others, turned, 0.1 * tuning_.load_half_life, dt);
  const Vec3 found = (velocity - state_.expected) / dt;
  if (norm(found) > 2 * standard_gravity * tuning_.length_scale) return;
  state_.unforeseen = smoothed(state_.unforeseen, found, tuning_.load_half_life, dt);
}

/// Pressed against a wall by its own thrust it cannot lean back, however hard its rotors turn it: for a moment they
/// stand still, so that it falls free.
void Multirotor::feel_pinned(const Vec3& spin, bool leans_back, double dt) {
  constexpr double patience = 0.3, pause = 0.2, least = 2, still = 0.5;  // s, s, rad/s², rad/s
  const double turned = squared_norm(state_.turning);
  state_.let_go = std::max(0.0, state_.let_go - dt);
  const bool blocked = turned > least * least * dt * dt && dot(spin - state_.spin, state_.turning) < 0.5 * turned;
  state_.pinned = blocked && norm(spin) < still && leans_back && state_.let_go == 0 ? state_.pinned + dt : 0;
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

/// The share of its most thrust that a rotor gives at a speed.
double Multirotor::power(double speed) const {
  return tuning_.curve == 2 ? speed * speed : same_bits::pow(speed, tuning_.curve);
}

void Multirotor::add_thrust(std::size_t rotor, double thrust, Wrench& sum) const {
  sum.push += of_a_newton_[rotor].push * thrust, sum.turn += of_a_newton_[rotor].turn * thrust;
}

/// What rotors that are told `more` than their goals push and turn with over the tick, by Simpson's rule, and the
/// speeds that they come to.
Multirotor::Wrench Multirotor::thrust(const Thrusts& goal, double more, double left, Thrusts& to) {
  Wrench sum;
  for (std::size_t i = 0; i < rotors_.size(); ++i) {
    const RotorTuning& r = rotors_[i];
    const bool stands = (state_.failed >> i & 1u) != 0;
    const double from = state_.speed[i], told = stands ? 0.0 : std::clamp(from + (goal[i] - from) * more, 0.0, 1.0);
    to[i] = told + (from - told) * left;
    const double middle = told + (from - told) * std::sqrt(left);
    state_.thrust[i] = r.most_thrust * (power(from) + 4 * power(middle) + power(to[i])) / 6;
    add_thrust(i, state_.thrust[i], sum);
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

/// What its rotors give at the speeds that they have, in its own axes.
Multirotor::Wrench Multirotor::standing() const {
  Wrench sum;
  for (std::size_t i = 0; i < rotors_.size(); ++i) add_thrust(i, rotors_[i].most_thrust * power(state_.speed[i]), sum);
  return sum;
}

/// The rotors' push and turn in this tick. How the body turns decides where its lift points, so the lift is asked for a
/// second time when that is known. The tick's body is where it is by the time that rotors have come to what they are
/// told; `now` is where it is. `left` is the share that they have still to come by its end.
Multirotor::Wrench Multirotor::turn_rotors(Tick& tick, const BodyFacts& now, double left) {
  const double dt = tick.dt;
  const Quat& q = now.pose.orientation;
  const bool holds = tuning_.hold_height;
  const double rises = holds ? tick.strength + tick.climb() - dot(state_.unforeseen, tick.up) : tick.strength;
  const Vec3 change = tick.turning(rises) - state_.turned_by_others * dt;
  if (tick.whole > 0) {
    // Is it asked to lean less than it does, or the other way?
    const Vec3 lean = tick.level(rotate(q, {0, 1, 0})), wanted = tick.level(tick.wanted_up);
    const bool leans_back = tick.wanted_up != Vec3{} && dot(wanted - lean, lean) < -0.02 * norm(lean);
    feel_pinned(now.spin, leans_back, tick.whole);
  }
  const Quat then = rotation(tick.body.spin * (0.5 * dt)) * tick.body.pose.orientation;
  const Vec3 torque = rotate(conjugate(then), torque_within(tick.body, change, gentle_, tuning_.lag, dt));
  Thrusts wanted{}, goal{}, to{};
  // Half-way through the tick is where its thrust points on the mean.
  Quat half_way = normalised(rotation(now.spin * (0.5 * dt) + change * (0.125 * dt)) * q);
  Wrench own;
  for (int pass = 0; pass < (holds ? 2 : 1); ++pass) {
    const double upright = dot(rotate(half_way, {0, 1, 0}), tick.up);
    if (state_.let_go == 0)
      mix_.share({holds ? tick.lift(rises, upright) : tick.own_lift(), torque}, state_.failed, wanted);
    const double more = aim(wanted, left, goal);
    own = thrust(goal, more, left, to);
    const Vec3 gained = now.inverse_inertia * rotate(q, own.turn);
    half_way = normalised(rotation(now.spin * (0.5 * dt) + gained * (0.125 * dt * dt)) * q);
  }
  for (std::size_t i = 0; i < rotors_.size(); ++i) state_.speed[i] = to[i];
  return {rotate(half_way, own.push), rotate(half_way, own.turn)};
}

void Multirotor::step(const MultirotorIntent& told, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  const BodyFacts body = surroundings.facts(body_);
  if (body.mass <= 0) return;
  const MultirotorIntent intent = made_finite(told, {.place = body.pose.position});
  const Vec3 gravity = surroundings.gravity(body.centre);
  const double strength = norm(gravity);
  const Vec3 velocity = body.velocity_at(body.centre);
  learn_load(velocity, body.spin, dt);

  const int parts = static_cast<int>(std::clamp(std::ceil(dt / longest_part - 1e-6), 1.0, 600.0));
  const double h = dt / parts;
  const double left = tuning_.lag > 0 ? same_bits::exp(-h / tuning_.lag) : 0;  // of what a rotor has to change
  const double late = left > 0 ? tuning_.lag - h * left / (1 - left) : 0;      // s until it has, on the mean
  BodyFacts now = body;
  Vec3 pushed, given, twisted;  // N s, N s, N m s
  Thrusts thrusts{};
  for (int part = 0; part < parts; ++part) {
    const Vec3 going = now.velocity_at(now.centre);
    const Vec3 own_up = rotate(now.pose.orientation, {0, 1, 0}), up = strength > 0 ? gravity / -strength : own_up;
    if (part == 0) state_.tilt = same_bits::acos(std::clamp(dot(own_up, up), -1.0, 1.0));
    // Until its rotors come to what they are told, what they give now takes it on.
    const Wrench given_now = standing();
    const Quat& here = now.pose.orientation;
    const Vec3 falls = gravity + rotate(here, given_now.push) / body.mass + state_.unforeseen;
    const Vec3 turns = now.inverse_inertia * rotate(here, given_now.turn) + state_.turned_by_others;
    const BodyFacts then = advanced(now, falls * late, turns * late, late);
    const Quat& q = then.pose.orientation;
    Tick tick{intent,
              h,
              tuning_,
              state_,
              then,
              up,
              rotate(q, {0, 1, 0}),
              rotate(q, {1, 0, 0}),
              rotate(q, {0, 0, 1}),
              then.velocity_at(then.centre),
              strength,
              gentle_,
              gentle_yaw_,
              {},
              part == 0 ? dt : 0.0};
    const auto [push, turn] = turn_rotors(tick, now, left);
    const Vec3 through = going - (wind_.still() ? Vec3{} : wind_.at(state_.time + (part + 0.5) * h));
    const Vec3 drag = through * (tuning_.drag * norm(through));
    pushed += push * h, given += (push + push * ground_effect(tick, surroundings) - drag) * h;
    for (std::size_t i = 0; i < rotors_.size(); ++i) thrusts[i] += state_.thrust[i] / parts;
    twisted += turn * h;
    const Vec3 spun = change_by(now, turn, h) + state_.turned_by_others * h;
    if (part + 1 < parts) now = advanced(now, (gravity + push / body.mass + state_.unforeseen) * h, spun, h);
  }
  surroundings.torque(body_, twisted / dt);
  surroundings.force(body_, given / dt, body.centre);
  state_.thrust = thrusts, state_.spin = body.spin, state_.turning = change_by(body, twisted / dt, dt);
  state_.expected = velocity + gravity * dt + pushed / body.mass;
  state_.time += dt;
  state_.moved = true;
}

}  // namespace jugend
