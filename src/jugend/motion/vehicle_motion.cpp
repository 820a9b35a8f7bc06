// The order of a vehicle's tick, its motion from step to step, and what is handed to body and ground.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle_solver.hpp>

namespace jugend {

void Vehicle::Tick::run() {
  body = surroundings.facts(v.body_);
  mass = body.mass;
  if (mass <= 0) return;
  gravity = surroundings.gravity(body.centre);
  strength = norm(gravity);
  const Quat& q = body.pose.orientation;
  up = rotate(q, {0, 1, 0}), ahead = rotate(q, {1, 0, 0}), right = rotate(q, {0, 0, 1});
  inertia = body.inertia();
  velocity = {body.velocity_at(body.centre), body.spin};
  state.speed = dot(velocity.linear, ahead);
  if (!state.moved) {  // what starts on the way starts rolling
    for (std::size_t i = 0; i < contacts.size(); ++i) state.wheels[i].spin = state.speed / v.wheels_[i].radius;
  }
  for (const WheelState& s : state.wheels) stood |= s.pressed;
  steer();
  sense();
  follow_stretch();
  ask();
  help();
  integrate();
  finish();
}

/// A hub at either end of its way is stopped there, and takes the body along as bodies that hit and stay together.
void Vehicle::Tick::Solver::stop_hub(std::size_t i, Six& now) const {
  WheelContact& c = tick.contacts[i];
  const Strut& strut = tick.v.parts_[i].strut;
  const double inside = std::clamp(c.hub, -strut.droop, strut.bump);
  if (inside == c.hub) return;
  if ((c.hub - inside) * c.hub_speed > 0) {
    const Vec3 turning = tick.body.inverse_inertia * c.strut.angular;
    const double gives = 1 / tick.mass + dot(c.strut.angular, turning), m = wheel(i).unsprung_mass;
    const double impulse = c.hub_speed / (1 / m + gives);
    now += Six{c.strut.linear * (impulse / tick.mass), turning * impulse};
    c.hub_speed = 0;
  }
  c.hub = inside;
}

/// Springs that are pressed together whole stop the body there, as bodies that hit and stay together; what was further
/// in when the tick began, a wheel put into a wall, comes out at a walking pace.
void Vehicle::Tick::Solver::stop_body(Six& offset, Six& now, double time) {
  const double slowly = 1.0 * h;  // m
  for (int again = 0; again < 8; ++again) {
    bool any = false;
    for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
      WheelContact& c = tick.contacts[i];
      const double bump = tick.v.parts_[i].strut.bump;
      if (!c.near || heavy(i)) continue;
      const double before = c.height + c.lean * (c.ground_rise * (time - h) - dot(c.rise, step_x));
      const double deep =
          c.height + c.lean * (c.ground_rise * time - dot(c.rise, offset)) - std::max(bump, before - slowly);
      if (deep <= 1e-12) continue;
      any = true;
      const Six moves{c.rise.linear / tick.mass, tick.body.inverse_inertia * c.rise.angular};
      const double gives = c.lean * dot(c.rise, moves);
      offset += moves * (deep / gives);
      const double rate = c.lean * (c.ground_rise - dot(c.rise, now));
      if (rate <= 0) continue;
      const double impulse = rate / (gives + c.lean * c.ground_give);
      now += moves * impulse;
      c.pressed += impulse;
      if (c.ground_give > 0) c.pushed += c.rise.linear * impulse;
    }
    if (!any) return;
  }
}

void Vehicle::Tick::Solver::advance(Six& offset, Six& now, double& time) {
  matrix = Sym6(tick.mass, tick.inertia);
  step_x = x = offset, vel = now, t = time, time_rate = 1, taken = {};
  const Six force1 = stage(0);
  matrix.factor();
  const Six k1 = matrix.solve(force1);
  follow(k1);
  const Six way1 = vel + k1 * G;
  x = offset + way1 * h, vel = now + k1 * h, t = time + h, time_rate = -1, taken = way1 * -2.0;
  const Six force2 = stage(1);
  const Six k2 = matrix.solve(force2 - momentum(k1) * 2.0);
  follow(k2);
  const Six way2 = vel + taken + k2 * G;
  offset += (way1 * 1.5 + way2 * 0.5) * h;
  now += (k1 * 1.5 + k2 * 0.5) * h;
  time += h;
  stop_body(offset, now, time);
  const Vec3 turn = offset.angular - step_x.angular;
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    WheelContact& c = tick.contacts[i];
    const auto step = [&](double WheelRates::*rate) {
      return h * (1.5 * (c.stage[0].rates.*rate) + 0.5 * (c.stage[1].rates.*rate));
    };
    if (c.stage[0].load > 0) c.left_at = c.stage[1].load > 0 ? time : time - 0.5 * h;
    const double was = c.spin;
    c.spin += step(&WheelRates::spin);
    if (c.locked || (c.brake_torque != 0 && was * c.spin < 0)) c.spin = 0;
    c.u_along += step(&WheelRates::along), c.u_side += step(&WheelRates::side);
    if (heavy(i)) {
      c.hub += step(&WheelRates::hub), c.hub_speed += step(&WheelRates::hub_speed);
      stop_hub(i, now);
    }
    if (!c.near) continue;
    const TyreGrip grip(wheel(i).tyre, c.stage[1].load, tick.v.parts_[i].load, c.surface_grip);
    if (c.stage[1].load > 0) grip.limit_stretch(c.u_along, c.u_side);
    const double about = dot(c.normal, turn), cosine = std::cos(about), sine = std::sin(about);
    const Six along = c.along * cosine - c.side * sine;
    c.side = c.side * cosine + c.along * sine, c.along = along;
  }
}

void Vehicle::Tick::integrate() {
  // 1/s: a period of the stiffest spring in some thirty steps.
  const double rate = std::max(60.0, 5 * v.stiffest_);
  Six offset{}, now = velocity;
  for (double time = 0; time < dt;) {
    // As far as all that wheels stand on lasts.
    double until = dt;
    for (std::size_t i = 0; i < contacts.size(); ++i) {
      WheelContact& c = contacts[i];
      if (c.near && c.until <= time + 1e-9) c.bends ? bend(i) : void(c.near = false);
      if (c.near) until = std::min(until, c.until);
    }
    const int steps = std::clamp(static_cast<int>(std::ceil((until - time) * rate - 1e-9)), 1, 64);
    Solver solver(*this, (until - time) / steps);
    for (int s = 0; s < steps; ++s) solver.advance(offset, now, time);
    time = until;
  }
  hand_over(offset, now);
}

/// x = v t + a t²/2 and v' = v + a t have one answer: an impulse now, and a force over the tick.
void Vehicle::Tick::hand_over(const Six& way, const Six& end) {
  then = end;
  const Six acceleration = (end * dt - way) * (2 / (dt * dt));
  const Six change = end - acceleration * dt - velocity;
  surroundings.push(v.body_, change.linear * mass, body.centre);
  surroundings.force(v.body_, (acceleration.linear - gravity) * mass - body.force, body.centre);
  surroundings.twist(v.body_, inertia * change.angular);
  surroundings.torque(v.body_, inertia * acceleration.angular - body.torque);
  for (const WheelContact& c : contacts) {
    if (c.sensed && c.ground_give > 0) surroundings.force(c.ground, c.pushed * (-1 / dt), c.point);
  }
  const Vec3 centre = body.centre + way.linear;
  const Quat turned = normalised(rotation(way.angular) * body.pose.orientation);
  const Vec3 local = to_local(body.pose, body.centre);
  state.expected = {centre - rotate(turned, local), turned};
}

void Vehicle::Tick::finish() {
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    WheelContact& c = contacts[i];
    WheelState& s = state.wheels[i];
    const WheelTuning& w = v.wheels_[i];
    const Strut& strut = v.parts_[i].strut;
    const bool was = s.pressed, did = was || c.pressed > 0;
    s.pressed = c.near && c.stage[1].load > 0;
    s.angle += 0.5 * (s.spin + c.spin) * dt;
    s.angle -= 2 * pi * std::floor((s.angle + pi) / (2 * pi));
    s.spin = c.spin, s.locked = c.locked;
    s.stretch_along = c.sensed ? c.u_along : 0, s.stretch_side = c.sensed ? c.u_side : 0;
    s.load = std::max(0.0, c.pressed / dt), s.along = c.pushed_along / dt, s.side = c.pushed_side / dt;
    s.ground = c.sensed ? c.ground : BodyId{};
    s.compression = c.sensed ? std::max(c.height, -strut.droop) : -strut.droop;
    s.hub = w.unsprung_mass > 0 ? c.hub : s.compression;
    s.hub_speed = w.unsprung_mass > 0 ? c.hub_speed : 0;
    s.rim = c.spin * w.radius, s.rolls = s.slides = 0;
    if (c.sensed) {
      s.contact = c.point, s.normal = c.normal;
      s.rolls = dot(c.along, then) - c.ground_along, s.slides = dot(c.side, then) - c.ground_side;
    }
    const int wheel = static_cast<int>(i);
    if (did && !s.pressed) v.events_.push_back({VehicleEventKind::wheel_left_ground, c.left_at, wheel, 0});
    if (!was && c.pressed > 0 && state.moved) {
      const double towards = std::max(0.0, c.ground_rise - dot(c.rise, velocity));
      const double way = -strut.droop - c.height, rate = c.lean * towards;
      v.events_.push_back(
          {VehicleEventKind::wheel_landed, rate > 0 ? std::clamp(way / rate, 0.0, dt) : 0.0, wheel, towards});
    }
  }
  state.moved = true;
}

}  // namespace jugend
