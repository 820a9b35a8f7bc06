// The forces of one stage of a vehicle's step, wheel by wheel, and what elimination makes of them.
#include <algorithm>
#include <cmath>
#include <jugend/motion/vehicle_solver.hpp>

namespace jugend {
namespace {

/// The mean slope of a force that is `share` of the straight one at `from`, and `share_then` at `to`.
double slope_between(double from, double share, double to, double share_then) {
  const double way = to - from;
  if (std::abs(way) < 1e-9 * (std::abs(from) + 1)) return share_then;
  return std::clamp((share_then * to - share * from) / way, 0.0, 1.0);
}

}  // namespace

Six Vehicle::Tick::Solver::air() const {
  const AirTuning& a = tick.tuning.air;
  Six force{tick.gravity * tick.mass + tick.body.force, tick.body.torque};
  if (a.drag > 0) force.linear -= vel.linear * (a.drag * norm(vel.linear));
  if (a.downforce > 0) {
    const auto& wheels = tick.v.wheels_;
    const double at = a.downforce_front * wheels.front().mount.x + (1 - a.downforce_front) * wheels.back().mount.x;
    const Vec3 down = tick.up * (-a.downforce * forward * forward);
    force += Six{down, cross(tick.ahead * at, down)};
  }
  return force;
}

/// One shaft turns all driven wheels.
void Vehicle::Tick::Solver::engine() {
  double shaft = 0;
  for (const WheelContact& c : tick.contacts) shaft += c.drive * here(c.spin, c, &WheelRates::spin);
  const Engine& engine = *tick.v.engine_;
  const double pedal = std::abs(tick.throttle);
  const Engine::Output out = engine.output(tick.state.engine, shaft, pedal);
  tick.state.engine.revs = out.revs;
  engine_torque = out.torque;
  if (k > 0) return;
  const double by = 1e-3 * (1 + std::abs(shaft));
  engine_slope = std::min(0.0, (engine.output(tick.state.engine, shaft + by, pedal).torque - out.torque) / by);
}

/// Anti-roll bars: no more than the spring of the lighter side, whose wheel lifts before it could be pulled.
void Vehicle::Tick::Solver::bars(Six& force) {
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) tick.contacts[i].stage[k].bar = 0;
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    const double stiff = wheel(i).anti_roll;
    const int partner = tick.v.parts_[i].partner;
    if (stiff <= 0 || partner < 0 || static_cast<std::size_t>(partner) > i) continue;
    const auto j = static_cast<std::size_t>(partner);
    WheelContact &a = tick.contacts[i], &b = tick.contacts[j];
    if (!a.near || !b.near) continue;
    const bool masses = heavy(i) && heavy(j);
    const double xa = masses ? here(a.hub, a, &WheelRates::hub) : height(a);
    const double xb = masses ? here(b.hub, b, &WheelRates::hub) : height(b);
    const double most = std::min(tick.v.parts_[i].strut.at(xa, 0).force, tick.v.parts_[j].strut.at(xb, 0).force);
    const double wanted = stiff * (xa - xb), bar = std::clamp(wanted, -most, most);
    a.stage[k].bar = bar, b.stage[k].bar = -bar;
    if (masses) continue;  // hub() adds it, and its slope
    const Six twist = a.push * a.lean - b.push * b.lean;
    force += twist * (bar + (bar == wanted ? G * stiff * (known_rate(a) - known_rate(b)) : 0.0));
    if (k == 0 && bar == wanted) matrix.add(G * G * stiff, twist);
  }
}

/// A wheel without a mass of its own follows the ground: the spring stands between ground and body.
void Vehicle::Tick::Solver::spring(std::size_t i, Six& force) {
  WheelContact& c = tick.contacts[i];
  WheelContact::Stage& s = c.stage[k];
  s.load = s.normal = 0;
  if (!c.near) return;
  const double rate = height_rate(c);
  Strut::Force f = tick.v.parts_[i].strut.at(height(c), rate);
  if (c.ground_give > 0) {  // light ground gives way before a damper could turn it round
    const double eased = f.damping / (1 + tick.dt * f.damping * c.ground_give);
    f.force = std::max(0.0, f.force + (eased - f.damping) * rate), f.damping = eased;
  }
  if (k == 0) {
    c.spring_k = f.stiffness, c.spring_c = f.damping;
    matrix.add(c.lean * c.lean * G * (G * f.stiffness + f.damping), c.push);
  }
  s.load = std::max(0.0, c.lean * (f.force + s.bar));
  s.normal = c.lean * (f.force + G * c.spring_k * known_rate(c));
  force += c.push * s.normal;
}

/// A wheel with a mass: the tyre stands between ground and hub, the spring between hub and body.
void Vehicle::Tick::Solver::hub(std::size_t i, Six& force) {
  WheelContact& c = tick.contacts[i];
  WheelContact::Stage& s = c.stage[k];
  const WheelTuning& w = wheel(i);
  const Strut& strut = tick.v.parts_[i].strut;
  const double m = w.unsprung_mass;
  const double z = here(c.hub, c, &WheelRates::hub), speed = here(c.hub_speed, c, &WheelRates::hub_speed);
  Strut::Force f = strut.at(std::clamp(z, -strut.droop, strut.bump), speed);
  f.force += s.bar, f.stiffness += s.bar != 0 ? 2 * w.anti_roll : 0.0;
  double tyre = 0, stiffness = 0, damping = 0, known = 0;
  if (c.near) {
    known = known_rate(c);
    if (const double pressed = height(c) - z; pressed > 0) {
      stiffness = w.tyre_stiffness, damping = 0.02 * std::sqrt(stiffness * m);
      tyre = std::max(0.0, stiffness * pressed + damping * (height_rate(c) - speed));
    }
  }
  if (k == 0) {
    c.tyre_k = stiffness, c.tyre_c = damping, c.spring_k = f.stiffness, c.spring_c = f.damping;
    c.hub_den = 1 + G / m * (damping + f.damping + G * (stiffness + f.stiffness));
    c.hub_give = G * (G * f.stiffness + f.damping) / c.hub_den;
    c.hub_share = G * (G * stiffness + damping) / m * (c.near ? c.lean : 0.0);
    matrix.add(c.hub_give * (1 + c.hub_share), c.strut);
  }
  s.hub_rate = speed - off(c, &WheelRates::hub);
  s.hub = (tyre - f.force + G * c.tyre_k * known - G * (c.tyre_k + c.spring_k) * s.hub_rate) / m +
          dot(tick.gravity, tick.up) - off(c, &WheelRates::hub_speed);
  force += c.strut * (f.force + G * c.spring_k * s.hub_rate + c.hub_give * s.hub);
  s.load = s.normal = c.near ? c.lean * tyre : 0.0;
  if (c.near) force += (c.push * c.lean - c.strut) * tyre;  // what links hold, across the strut
  // Across the strut the wheel's mass goes with the body.
  for (const Vec3& axis : {tick.ahead, tick.right}) {
    const Six with{axis, cross(c.lever, axis)};
    force += with * (m * dot(tick.gravity, axis));
    if (k == 0) matrix.add(m, with);
  }
}

/// The tyre along the ground and the wheel's spin: the forces that are known, and what they add to the matrix.
void Vehicle::Tick::Solver::tyre(std::size_t i, Six& force) {
  WheelContact& c = tick.contacts[i];
  WheelContact::Stage& s = c.stage[k];
  const WheelTuning& w = wheel(i);
  const double r = w.radius, spin = here(c.spin, c, &WheelRates::spin);
  double ua = here(c.u_along, c, &WheelRates::along), us = here(c.u_side, c, &WheelRates::side);
  double slide_along = 0, slide_side = 0, fa = 0, fs = 0, turned = 0, limit = 0;
  if (k == 0)
    c.stiff_along = c.stiff_side = c.hold_along = c.hold_side = 0, c.decay = std::abs(spin) * r / w.tyre.relaxation;
  const bool touches = s.load > 0;
  if (touches) {
    // The wheel's axes turn with the body.
    turned = k == 0 ? 0.0 : dot(c.normal, x.angular - step_x.angular);
    const double va = dot(c.along, vel) - c.ground_along, vs = dot(c.side, vel) - c.ground_side;
    const double rolls = va - turned * vs;
    slide_along = rolls - spin * r, slide_side = vs + turned * va;
    const TyreGrip grip(w.tyre, s.load, tick.v.parts_[i].load, c.surface_grip);
    limit = grip.limit;
    grip.limit_stretch(ua, us);
    const double straight_along = grip.along * ua, straight_side = grip.side * us;
    const double straight = std::sqrt(straight_along * straight_along + straight_side * straight_side);
    const double share = grip.share(straight);
    // At rest stretch is a spring without loss: a damper, which fades as the wheel begins to roll.
    const double fade = std::max(0.0, 1 - std::max(std::abs(rolls), std::abs(spin) * r));
    double damp_along = fade > 0 ? fade * std::sqrt(grip.along * share * c.rest_mass) : 0.0;
    double damp_side = fade > 0 ? fade * std::sqrt(grip.side * share * c.rest_mass) : 0.0;
    fa = share * straight_along + damp_along * slide_along, fs = share * straight_side + damp_side * slide_side;
    const double size = std::sqrt(fa * fa + fs * fs);
    if (size > limit) fa *= limit / size, fs *= limit / size, damp_along = damp_side = 0;
    if (k == 0) {
      // Slopes up to where the stretch is headed in this step: beyond its limit nothing more comes of it.
      const double settle = 1 / (1 + h * c.decay);
      const double ahead_along = grip.along * (ua + h * slide_along) * settle;
      const double ahead_side = grip.side * (us + h * slide_side) * settle;
      const double share_then = grip.share(std::sqrt(ahead_along * ahead_along + ahead_side * ahead_side));
      c.stiff_along = grip.along * slope_between(straight_along, share, ahead_along, share_then);
      c.stiff_side = grip.side * slope_between(straight_side, share, ahead_side, share_then);
      const double beta = G / (1 + G * c.decay);
      c.hold_along = c.stiff_along * beta + damp_along, c.hold_side = c.stiff_side * beta + damp_side;
    }
  } else {
    ua = us = 0;
  }
  const double decay = std::abs(spin) * r / w.tyre.relaxation, beta = 1 / (1 + G * c.decay);
  s.u_along = (slide_along - decay * ua - off(c, &WheelRates::along)) * beta;
  s.u_side = (slide_side - decay * us - off(c, &WheelRates::side)) * beta;
  const double back_along = fa + G * c.stiff_along * s.u_along, back_side = fs + G * c.stiff_side * s.u_side;

  const bool shaft = tick.v.engine_.has_value();
  // Both wheels of an axle are driven by the mean of their spins.
  const int partner = c.drive > 0 ? tick.v.parts_[i].partner : -1;
  const WheelContact* across_axle = partner >= 0 ? &tick.contacts[static_cast<std::size_t>(partner)] : nullptr;
  const double driven_spin =
      across_axle ? 0.5 * (spin + here(across_axle->spin, *across_axle, &WheelRates::spin)) : spin;
  double torque = shaft ? engine_torque * c.drive : tick.drive_torque(i, forward, driven_spin);
  const double room = 0.95 * std::sqrt(std::max(0.0, limit * limit - fs * fs)) * r;
  const bool eased = tick.tuning.drive.traction_control > 0 && touches && std::abs(torque) > room;
  if (eased) torque = std::copysign(room, torque);
  double slope = 0;  // of the torque over the wheel's spin
  if (k == 0 && !eased) {
    if (shaft) slope = engine_slope * c.drive * c.drive;
    if (!shaft && torque != 0 && std::abs(driven_spin) * r > std::abs(forward))
      slope = std::min(0.0, (tick.drive_torque(i, forward, driven_spin + 0.01) - torque) / 0.01);
  }
  if (c.limited >= 0) {  // the faster wheel gives to the slower, up to what the differential holds
    const WheelContact& other = tick.contacts[static_cast<std::size_t>(c.limited)];
    const double most = tick.tuning.drive.differential_limit, stiff = 4 * most;
    const double across = stiff * (here(other.spin, other, &WheelRates::spin) - spin);
    torque += std::clamp(across, -most, most);
    if (std::abs(across) < most) slope -= 2 * stiff;
  }
  double most = 0;
  if (k == 0) {
    most = c.brake;
    if (tick.tuning.brakes.antilock > 0 && touches && std::abs(forward) > 0.5) most = std::min(most, room);
    most += c.rolling * s.load * r;
    c.brake_most = most;
    c.spin_inertia = c.inertia - G * slope;
    c.spin_den = c.spin_inertia + G * r * r * c.hold_along;
    if (touches) matrix.add(G * c.hold_side, c.side);
  }
  s.torque = torque - c.inertia * off(c, &WheelRates::spin);
  s.tends = torque + r * fa;  // to which way it would turn
  s.back = back_along, s.turned = turned;
  s.along = -back_along, s.side = -back_side;
  if (touches) force += c.along * (s.along + turned * s.side) + c.side * (s.side - turned * s.along);
}

/// A wheel's spin, or that of two which a locked differential joins, eliminated: what it adds to force and matrix.
void Vehicle::Tick::Solver::axle(std::size_t i, Six& force) {
  WheelContact& a = tick.contacts[i];
  if (a.joined >= 0 && static_cast<std::size_t>(a.joined) < i) return;  // done with the other
  WheelContact* b = a.joined >= 0 ? &tick.contacts[static_cast<std::size_t>(a.joined)] : nullptr;
  const double ra = wheel(i).radius, rb = b ? wheel(static_cast<std::size_t>(a.joined)).radius : 0;
  const double pull_a = a.hold_along * ra, pull_b = b ? b->hold_along * rb : 0;
  WheelContact::Stage& s = a.stage[k];
  if (k == 0) {
    const double most = a.brake_most + (b ? b->brake_most : 0), tends = s.tends + (b ? b->stage[0].tends : 0);
    a.locked = most > 0 && a.spin == 0 && std::abs(tends) <= most;
    a.brake_torque = a.locked || most <= 0 ? 0.0 : std::copysign(most, a.spin != 0 ? -a.spin : -tends);
    a.spin_den += b ? b->spin_den : 0;
    if (b) b->locked = a.locked, b->brake_torque = a.brake_torque, b->spin_den = a.spin_den, b->spin = a.spin;
    // D J Jᵀ of each wheel with its spin held, less what the spin gives way by.
    if (a.hold_along > 0) matrix.add(G * a.hold_along * (b || a.locked ? 1 : a.spin_inertia / a.spin_den), a.along);
    if (b && b->hold_along > 0) matrix.add(G * b->hold_along, b->along);
    if (b && !a.locked) matrix.add(-G * G / a.spin_den, a.along * pull_a + b->along * pull_b);
  }
  s.spin = 0;
  if (!a.locked) {
    const double torque = s.torque + a.brake_torque + (b ? b->stage[k].torque : 0);
    s.spin = (torque + ra * s.back + (b ? rb * b->stage[k].back : 0)) / a.spin_den;
  }
  const auto drive = [&](WheelContact& c, double pull) {
    WheelContact::Stage& of = c.stage[k];
    of.spin = s.spin;
    const double with = G * pull * s.spin;
    of.along += with;
    if (with != 0) force += (c.along - c.side * of.turned) * with;
  };
  drive(a, pull_a);
  if (b) drive(*b, pull_b);
}

Six Vehicle::Tick::Solver::stage(int which) {
  k = which;
  forward = dot(vel.linear, tick.ahead);
  Six force = air();
  if (tick.v.engine_) engine();
  bars(force);
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    heavy(i) ? hub(i, force) : spring(i, force);
    tyre(i, force);
  }
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) axle(i, force);
  return force;
}

/// A wheel's own rates, which follow from the body's, and the forces that came about with them.
void Vehicle::Tick::Solver::follow(const Six& rate) {
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    WheelContact& c = tick.contacts[i];
    WheelContact::Stage& s = c.stage[k];
    const double r = wheel(i).radius, beta = G / (1 + G * c.decay);
    const bool touches = s.load > 0;
    const double along = touches ? dot(c.along, rate) : 0.0, side = touches ? dot(c.side, rate) : 0.0;
    double pull = r * c.hold_along * along;
    if (c.joined >= 0) {
      const WheelContact& b = tick.contacts[static_cast<std::size_t>(c.joined)];
      if (b.hold_along > 0)
        pull += wheel(static_cast<std::size_t>(c.joined)).radius * b.hold_along * dot(b.along, rate);
    }
    s.rates.spin = c.locked ? 0.0 : s.spin + G * pull / c.spin_den;
    s.rates.along = s.u_along + beta * (along - r * s.rates.spin);
    s.rates.side = s.u_side + beta * side;
    s.rates.hub = s.rates.hub_speed = 0;
    double pressed = s.normal;
    if (heavy(i)) {
      s.rates.hub_speed = (s.hub - dot(c.strut, rate) - c.hub_share * (c.near ? dot(c.rise, rate) : 0.0)) / c.hub_den;
      s.rates.hub = s.hub_rate + G * s.rates.hub_speed;
    } else if (c.near) {
      pressed -= c.lean * c.lean * G * (G * c.spring_k + c.spring_c) * dot(c.push, rate);
      pressed += c.lean * s.bar;
    }
    if (!touches) continue;
    const double fa = s.along - G * c.hold_along * (along - r * (s.rates.spin - s.spin));
    const double fs = s.side - G * c.hold_side * side;
    const double part = 0.5 * h;
    c.pressed += part * pressed, c.pushed_along += part * fa, c.pushed_side += part * fs;
    if (c.ground_give > 0) c.pushed += (c.push.linear * pressed + c.ahead * fa + c.right * fs) * part;
  }
}

/// The mass matrix times a velocity: the body's, and across their struts the wheels'.
Six Vehicle::Tick::Solver::momentum(const Six& motion) const {
  Six sum{motion.linear * tick.mass, tick.inertia * motion.angular};
  for (std::size_t i = 0; i < tick.contacts.size(); ++i) {
    if (!heavy(i)) continue;
    for (const Vec3& axis : {tick.ahead, tick.right}) {
      const Six with{axis, cross(tick.contacts[i].lever, axis)};
      sum += with * (wheel(i).unsprung_mass * dot(with, motion));
    }
  }
  return sum;
}

}  // namespace jugend
