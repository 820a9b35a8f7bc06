// A vehicle's motion from step to step: what its wheels stand on, the stages put together, stops. Inner to the vehicle.
#pragma once

#include <algorithm>
#include <jugend/motion/vehicle/detail/vehicle_solver.hpp>

namespace jugend {

/// What wheels stand on: directions and levers along it.
template <class L>
void Vehicle::Tick::Solver<L>::stand_on(WheelBatch& team, const WheelConstants& n, const Mask& which) const {
  const V point = V::of(team.point), normal = V::of(team.normal), heading = V::of(team.heading);
  const V upwards = V::of(tick.up), centre = V::of(tick.lowered);
  within(number(1) / dot(normal, upwards), number(1), L::of(team.most_slant))
      .where(which, L::of(team.slant))
      .store(team.slant);
  const V forwards = (heading - normal * dot(heading, normal)).normalised(heading), sideways = cross(forwards, normal);
  const V lever = point + upwards * (number(tick.tuning.force_height) * L::of(n.radius)) - centre;
  V direction = normal;
  if (tick.tuning.along_strut > 0)
    direction = (normal + (upwards - normal) * number(tick.tuning.along_strut)).normalised(normal);
  const auto set = [&](SixOf4& row, const V& along, const V& moment) JUGEND_INLINE_LAMBDA {
    const S was = S::of(row);
    along.where(which, V{was.at[0], was.at[1], was.at[2]}).store(row.linear);
    moment.where(which, V{was.at[3], was.at[4], was.at[5]}).store(row.angular);
  };
  set(team.rise, normal, cross(point - centre, normal));
  set(team.push, direction, cross(lever, direction));
  set(team.along, forwards, cross(lever, forwards));
  set(team.side, sideways, cross(lever, sideways));
}

/// What the tick before did not foresee, a trailer that pulls or a wall that holds, stretches the tyres as well.
template <class L>
void Vehicle::Tick::Solver<L>::follow_stretch(WheelBatch& team, const SpatialVector& unforeseen) const {
  const V lever = V::of(team.point) - V::of(tick.body.pose.position);
  const V moved = V::of(unforeseen.linear) + cross(V::of(unforeseen.angular), lever);
  const Mask follows =
      (dot(moved, moved) <= number(1e-4 * tick.metre * tick.metre)) & is(team.near);  // else it was put elsewhere
  (L::of(team.u_along) + dot(moved, V::of(team.along.linear)).where(follows)).store(team.u_along);
  (L::of(team.u_side) + dot(moved, V::of(team.side.linear)).where(follows)).store(team.u_side);
}

template <class L>
void Vehicle::Tick::Solver<L>::prepare() {
  SpatialVector unforeseen{};
  if (tick.state.moved) {
    const Pose& expected = tick.state.expected;
    const Quat off = tick.body.pose.orientation * conjugate(expected.orientation);  // hardly a turn, or not followed
    unforeseen = {tick.body.pose.position - expected.position, Vec3{off.x, off.y, off.z} * std::copysign(2.0, off.w)};
  }
  if (tick.v.tracks_) join_tracks();
  inertia = SpatialMatrix(tick.mass, tick.inertia);
  weight = {tick.gravity * tick.mass + tick.body.force, tick.body.torque};
  const Mask all = number(0) <= number(0);
  const V upwards = V::of(tick.up);
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    WheelBatch& team = tick.teams[i];
    const WheelConstants& n = tick.v.table_->wheels[i];
    stand_on(team, n, all);
    if (tick.state.moved) follow_stretch(team, unforeseen);
    cross(upwards, V::of(team.heading)).store(team.axle);
    follow_ground(team, all);
    for (Doubles4* row : {&team.pressed, &team.pushed_along, &team.pushed_side, &team.left_at, &team.bar})
      number(0).store(*row);
    if (tick.ground_is_light) V::of(Vec3{}).store(team.pushed);
    if (tick.tuning.drive.differential == Differential::locked) {  // both wheels of an axle turn as one
      const L spin = L::of(team.spin);
      ((spin + spin.crossed()) * number(0.5)).where(is(n.joined), spin).store(team.spin);
    }
    if (!tick.v.has_hubs_) continue;
    upwards.store(team.strut.linear), cross(V::of(team.mount) - V::of(tick.lowered), upwards).store(team.strut.angular);
    // Across the strut a wheel's mass goes with the body.
    for (std::size_t lane = 0; lane < 4; ++lane) {
      const double unsprung = n.unsprung.at[lane];
      if (unsprung <= 0) continue;
      const Vec3 hub = team.mount.get(lane) + tick.up * (team.hub.at[lane] - n.rest_length.at[lane]) - tick.lowered;
      for (const Vec3& axis : {tick.ahead, tick.right}) {
        const SpatialVector with{axis, cross(hub, axis)};
        inertia.add(unsprung, with);
        weight += with * (unsprung * dot(tick.gravity, axis));
      }
    }
  }
}

/// How the ground moves along what wheels stand on.
template <class L>
void Vehicle::Tick::Solver<L>::follow_ground(WheelBatch& team, const Mask& which) const {
  const V ground = V::of(team.ground);
  dot(ground, V::of(team.normal)).where(which, L::of(team.ground_rise)).store(team.ground_rise);
  dot(ground, V::of(team.along.linear)).where(which, L::of(team.ground_along)).store(team.ground_along);
  dot(ground, V::of(team.side.linear)).where(which, L::of(team.ground_side)).store(team.ground_side);
}

/// m that a wheel's mount has come along its way over the ground.
template <class L>
double Vehicle::Tick::Solver<L>::come(std::size_t wheel, const SpatialVector& offset, double time) const {
  const Place at = tick.place(wheel);
  const Vec3 lever = at.team.mount.get(at.lane) - tick.lowered;
  return dot(offset.linear + cross(offset.angular, lever) - at.team.ground.get(at.lane) * time,
             tick.contacts[wheel].way);
}

/// A wheel has come to the next piece of the ground, or back to the one before.
template <class L>
void Vehicle::Tick::Solver<L>::go_to_piece(std::size_t wheel, std::size_t piece) {
  WheelContact& c = tick.contacts[wheel];
  const BodyId was = c.ground;
  c.piece = piece;
  tick.stand_on_piece(wheel);
  if (c.ground != was) tick.know_ground(wheel);
  const Place at = tick.place(wheel);
  Doubles4 which;
  which.at[at.lane] = 1;
  stand_on(at.team, at.numbers, is(which));
  follow_ground(at.team, is(which));
}

/// A hub at either end of its way is stopped there, and takes the body along as bodies that hit and stay together.
template <class L>
void Vehicle::Tick::Solver<L>::stop_hub(WheelBatch& team, const WheelConstants& n, std::size_t lane,
                                        SpatialVector& now) const {
  double &hub = team.hub.at[lane], &speed = team.hub_speed.at[lane];
  const double inside = std::clamp(hub, -n.droop.at[lane], n.bump.at[lane]);
  if ((hub - inside) * speed > 0) {
    const SpatialVector strut = team.strut.get(lane);
    const Vec3 turning = tick.body.inverse_inertia * strut.angular;
    const double compliance = 1 / tick.mass + dot(strut.angular, turning);
    const double impulse = speed / (1 / n.unsprung.at[lane] + compliance);
    now += SpatialVector{strut.linear * (impulse / tick.mass), turning * impulse};
    speed = 0;
  }
  hub = inside;
}

/// Springs that are pressed together whole, and tyres with them, stop the body there, as bodies that hit and stay
/// together; what was further in when the tick began, a wheel put into a wall, comes out at a walking pace. Tells
/// whether there were any.
template <class L>
bool Vehicle::Tick::Solver<L>::press_whole(SpatialVector& offset, SpatialVector& now, double time) const {
  const double slowly = tick.metre * h;
  bool any = false;
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    const auto [team, n, lane] = tick.place(i);
    if (team.near.at[lane] == 0 || n.unsprung.at[lane] > 0 || team.bears_down.at[lane] < 1e300) continue;
    const SpatialVector rise = team.rise.get(lane);
    const double slant = team.slant.at[lane], climbs = team.ground_rise.at[lane],
                 inverse_mass = team.inverse_mass.at[lane];
    const double before = team.height.at[lane] + slant * (climbs * (time - h) - dot(rise, step_x));
    const double deep = team.height.at[lane] + slant * (climbs * time - dot(rise, offset)) -
                        std::max(n.bump.at[lane] + n.give.at[lane], before - slowly);
    if (deep <= 1e-12) continue;
    any = true;
    const SpatialVector moves{rise.linear / tick.mass, tick.body.inverse_inertia * rise.angular};
    const double compliance = slant * dot(rise, moves);
    offset += moves * (deep / compliance);
    const double rate = slant * (climbs - dot(rise, now));
    if (rate <= 0) continue;
    const double impulse = rate / (compliance + slant * inverse_mass);
    now += moves * impulse;
    team.pressed.at[lane] += impulse;
    if (inverse_mass > 0) team.pushed.set(lane, team.pushed.get(lane) + rise.linear * impulse);
  }
  return any;
}

template <class L>
void Vehicle::Tick::Solver<L>::stop_body(SpatialVector& offset, SpatialVector& now, double time) const {
  bool any = false;
  for (std::size_t i = 0; i < tick.teams.size() && !any; ++i) {
    const WheelBatch& team = tick.teams[i];
    const L rise = L::of(team.slant) * (L::of(team.ground_rise) * number(time) - dot(S::of(team.rise), offset));
    const WheelConstants& n = tick.v.table_->wheels[i];
    const Mask deep = L::of(n.bump) + L::of(n.give) < L::of(team.height) + rise;
    any = (deep & is(team.near)).any();
  }
  for (int again = 0; any && again < 8; ++again) any = press_whole(offset, now, time);
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    if (tick.contacts[i].walled) stop_at_wall(i, offset, now, time);
  }
}

/// What is too high to roll up stops the body at the wheel's hub, as bodies that hit and stay together.
template <class L>
void Vehicle::Tick::Solver<L>::stop_at_wall(std::size_t wheel, SpatialVector& offset, SpatialVector& now,
                                            double time) const {
  const WheelContact& c = tick.contacts[wheel];
  const Place at = tick.place(wheel);
  const Vec3 hub = at.team.mount.get(at.lane) - tick.up * (at.numbers.rest_length.at[at.lane] -
                                                           std::min(c.compression, at.numbers.bump.at[at.lane]));
  const SpatialVector back{c.face_normal, cross(hub - tick.lowered, c.face_normal)};
  const double runs = dot(at.team.ground.get(at.lane), c.face_normal),
               room = dot(hub - c.face, c.face_normal) - c.face_reach;
  const double slowly = tick.metre * h;  // what was further in when the tick began comes out at a walking pace
  const double before = room + dot(back, step_x) - runs * (time - h), is = room + dot(back, offset) - runs * time;
  const double deep = std::min(0.0, before + slowly) - is;
  if (deep <= 0) return;
  const SpatialVector moves{back.linear * (1 / tick.mass), tick.body.inverse_inertia * back.angular};
  const double compliance = dot(back, moves);
  offset += moves * (deep / compliance);
  if (const double speed = dot(back, now) - runs; speed < 0) now += moves * (-speed / compliance);
}

/// The step's end, wheel by wheel.
template <class L>
void Vehicle::Tick::Solver<L>::finish_step(WheelBatch& team, const WheelConstants& n, const Vec3& turn, double time) {
  const L zero = number(0), one = number(1);
  const auto step = [&](Doubles4 WheelRates::*rate) JUGEND_INLINE_LAMBDA {
    return number(1.5 * h) * L::of(team.rates[0].*rate) + number(0.5 * h) * L::of(team.rates[1].*rate);
  };
  const L load = L::of(team.load[1]);
  const Mask pressed = zero < L::of(team.load[0]), presses = zero < load;
  number(time).where(presses, number(time - 0.5 * h)).where(pressed, L::of(team.left_at)).store(team.left_at);

  const L was = L::of(team.spin), brake = L::of(team.brake_torque), spin = was + step(&WheelRates::spin);
  const Mask stopped = is(team.locked) | (~(brake == zero) & (was * spin < zero));
  spin.where(~stopped).store(team.spin);

  const Grip grip(n, team, load);
  const L ua = (L::of(team.u_along) + step(&WheelRates::along)).where(pressed | presses);
  const L us = (L::of(team.u_side) + step(&WheelRates::side)).where(pressed | presses);
  const L shorter = (one / larger(grip.of_full(grip.along * ua, grip.side * us), one)).where(presses, one);
  (ua * shorter).store(team.u_along), (us * shorter).store(team.u_side);
  if (tick.v.has_hubs_) {
    const Mask heavy = zero < L::of(n.unsprung);
    (L::of(team.hub) + step(&WheelRates::hub).where(heavy)).store(team.hub);
    (L::of(team.hub_speed) + step(&WheelRates::hub_speed).where(heavy)).store(team.hub_speed);
  }
  // Ahead and right turn with the body: by the half angle's tangent, its third power included.
  const L about = dot(V::of(team.normal), V::of(turn));
  const L half = about * number(0.5) * (one + about * about * number(1.0 / 12)), square = half * half;
  const L cosine = (one - square) / (one + square), sine = number(2) * half / (one + square);
  const S along = S::of(team.along), side = S::of(team.side);
  (along * cosine + side * (zero - sine)).store(team.along), (side * cosine + along * sine).store(team.side);
  const L ground_along = L::of(team.ground_along), ground_side = L::of(team.ground_side);
  (ground_along * cosine - ground_side * sine).store(team.ground_along);
  (ground_side * cosine + ground_along * sine).store(team.ground_side);
}

template <class L>
void Vehicle::Tick::Solver<L>::advance(SpatialVector& offset, SpatialVector& now, double& time) {
  step_x = x = offset, vel = now, t = time, time_rate = 1, taken = {};
  V turning = V::of(Vec3{});
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    const WheelBatch& team = tick.teams[i];
    turning = turning + V::of(team.axle) * (L::of(tick.v.table_->wheels[i].spin_inertia) * L::of(team.spin));
  }
  wheels_spin = {turning.x.sum(), turning.y.sum(), turning.z.sum()};
  // No more than turns the body by a fifth in a step: beyond, their swing would grow from step to step.
  const Sym3& turns = tick.body.inverse_inertia;
  const double swings = norm(wheels_spin) * (turns.xx + turns.yy + turns.zz) * h;
  if (swings > 0.2) wheels_spin *= 0.2 / swings;
  const SpatialVector force1 = stage<0>();
  std::array<double, 21> wheels;
  for (std::size_t i = 0; i < 21; ++i) wheels[i] = lower[i].sum();
  matrix = inertia;
  matrix.add(wheels);
  if (tick.v.tracks_) tracks.take_off(G, matrix);
  // Air that would stop it in a step: its slope, too.
  if (const double air = 2 * G * tick.tuning.air.drag * norm(vel.linear); air > 0.01 * tick.mass) {
    for (const Vec3& axis : {tick.ahead, tick.up, tick.right}) matrix.add(air, {axis, {}});
  }
  matrix.factor();
  const SpatialVector k1 = matrix.solve(force1);
  follow<0>(k1);
  const SpatialVector way1 = vel + k1 * G;
  x = offset + way1 * h, vel = now + k1 * h, t = time + h, time_rate = -1, taken = way1 * -2.0, first = k1;
  const SpatialVector force2 = stage<1>();
  const SpatialVector k2 = matrix.solve(force2 - inertia.times(k1) * 2.0);
  follow<1>(k2);
  const SpatialVector way2 = vel + taken + k2 * G;
  offset += (way1 * 1.5 + way2 * 0.5) * h;
  now += (k1 * 1.5 + k2 * 0.5) * h;
  time += h;
  stop_body(offset, now, time);
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    WheelBatch& team = tick.teams[i];
    const WheelConstants& n = tick.v.table_->wheels[i];
    finish_step(team, n, offset.angular - step_x.angular, time);
    if (!tick.v.has_hubs_) continue;
    for (std::size_t lane = 0; lane < 4; ++lane) {
      const double hub = team.hub.at[lane];
      if (n.unsprung.at[lane] > 0 && (hub < -n.droop.at[lane] || hub > n.bump.at[lane])) stop_hub(team, n, lane, now);
    }
  }
}

template <class L>
void Vehicle::Tick::Solver<L>::run(SpatialVector& offset, SpatialVector& now) {
  prepare();
  // 1/s: a period of the stiffest spring in some thirty steps.
  const double rate = std::max(60.0, 5 * tick.v.stiffest_);
  constexpr double soonest = 1.0 / 480;  // s: at the foot of a step a wheel may turn back at once
  for (double time = 0; time < tick.dt;) {
    // As far as all that wheels stand on lasts.
    double until = tick.dt;
    for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
      WheelContact& c = tick.contacts[i];
      if (!c.sensed || c.pieces.size() < 2) continue;
      if (c.form == GroundForm::steps) until = std::min(until, time + soonest);
      const Place at = tick.place(i);
      const double along = come(i, offset, time), soon = 1e-3 * at.numbers.radius.at[at.lane];
      const double speed = come(i, now, 1);
      if (speed > 0) {
        while (c.piece + 1 < c.pieces.size() && c.pieces[c.piece].until < along + soon) go_to_piece(i, c.piece + 1);
        until = std::min(until, time + (c.pieces[c.piece].until - along) / speed);
      } else if (speed < 0) {
        while (c.piece > 0 && c.pieces[c.piece - 1].until > along - soon) go_to_piece(i, c.piece - 1);
        if (c.piece > 0) until = std::min(until, time + (c.pieces[c.piece - 1].until - along) / speed);
      }
    }
    if (tick.dt - until < 1e-3 * tick.dt) until = tick.dt;
    const int steps = std::clamp(static_cast<int>(std::ceil((until - time) * rate - 1e-9)), 1, 64);
    h = (until - time) / steps, G = (1 - 0.70710678118654752) * h;
    for (int s = 0; s < steps; ++s) advance(offset, now, time);
    time = until;
  }
}

}  // namespace jugend
