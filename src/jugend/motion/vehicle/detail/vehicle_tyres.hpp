// The tyres and the spins of four wheels in one stage of a vehicle's step. Inner to the vehicle.
//
// A tyre's stretch u follows u' = slide - decay u, its force is a share of C u, and its wheel's spin w follows
// I w' = torque + r F. Both rates are eliminated: with the stage (1 - g A) k = f and g = gamma h,
//   u rate = (slide - decay u) / (1 + g decay),   w rate = (torque + r F) / (I - g dT/dw + g r^2 hold),
// where hold = dF/du g / (1 + g decay) + damping is what a slide adds to the force within the stage. What is left of
// the force, once the spin gives way, goes to the body's six equations. docs/architecture.md: A vehicle's tick.
#pragma once

#include <jugend/motion/vehicle/detail/vehicle_solver.hpp>

namespace jugend {

/// What holds for four tyres under their loads: N that they can hold, N for each metre of stretch, and N of straight
/// force at which all of the tread slides.
template <class L>
struct Vehicle::Tick::Solver<L>::Grip {
  L limit, along, side, full;
  Mask brush;

  JUGEND_INLINE Grip(const WheelConstants& n, const WheelBatch& team, const L& load)
      : brush(number(0) < L::of(n.brush)) {
    const L fade =
        within(number(1) - L::of(n.load_fade) * (load * L::of(n.per_load) - number(1)), number(0.25), number(1.5)) *
        load;
    limit = smaller(L::of(n.grip) * L::of(team.grip) * fade, L::of(team.bears_along));
    along = L::of(n.along_slope) * fade, side = L::of(n.side_slope) * fade;
    full = larger(limit.where(~brush, limit * number(3)), number(1e-300));
  }
  /// By what forces are less than straight ones, whose share of the full is given. The brush model's
  /// F = µN (3ρ - 3ρ² + ρ³), ρ = C s / 3µN (Pacejka, ch. 3; with both stiffnesses in one ellipse).
  JUGEND_INLINE L share(const L& of_full) const {
    const L inside = (number(1) - of_full + of_full * of_full * number(1.0 / 3)).where(brush, number(1));
    return inside.where(of_full < number(1), limit / (full * larger(of_full, number(1))));
  }
  /// Are all four held by straight tyres that do not slide? Then no share needs to be worked out: all are one.
  JUGEND_INLINE bool sticks(const L& straight_along, const L& straight_side) const {
    const L square = straight_along * straight_along + straight_side * straight_side;
    return !(brush | (full * full < square)).any();
  }
  JUGEND_INLINE L of_full(const L& straight_along, const L& straight_side) const {
    return root(straight_along * straight_along + straight_side * straight_side) / full;
  }
};

/// N m from the drive on each wheel, and its slope over the wheel's spin.
template <class L>
template <int k>
auto Vehicle::Tick::Solver<L>::drive(const WheelBatch& team, const WheelConstants& n, const L& spin) const -> Drive {
  const L zero = number(0), share = L::of(team.drive);
  if (tick.v.engine_) return {share * number(engine_torque), share * share * number(engine_slope)};
  if (tick.throttle == 0) return {zero, zero};
  const L r = L::of(n.radius), arm = share * r;
  Drive d{arm * number(tick.drive_force(forward, forward)), zero};
  // Both wheels of an axle are driven by the mean of their spins.
  const L driven = ((spin + spin.crossed()) * number(0.5)).where(is(n.pair), spin);
  // A wheel that spins far faster than it rolls counts as its rim does: it does not race away.
  const L free = driven * r - number(std::copysign(tick.metre + 0.2 * std::abs(forward), tick.throttle));
  const Mask races = (tick.throttle > 0 ? number(forward) < free : free < number(forward)) & (zero < share);
  if (!races.any()) return d;
  Doubles4 rim, force, slope, racing;
  free.store(rim), number(1).where(races).store(racing);
  for (std::size_t i = 0; i < 4; ++i) {
    if (racing.at[i] == 0) continue;
    force.at[i] = tick.drive_force(rim.at[i], forward);
    slope.at[i] = std::min(0.0, (tick.drive_force(rim.at[i] + 0.01 * n.radius.at[i], forward) - force.at[i]) / 0.01);
  }
  d.torque = (arm * L::of(force)).where(races, d.torque);
  d.slope = (arm * L::of(slope)).where(races);
  return d;
}

/// What four treads do as the stage finds them.
template <class L>
struct Vehicle::Tick::Solver<L>::Tread {
  S forwards, sideways;             // directions along the ground, with their moments about the body's middle
  L r, load;                        // m, N
  L spin, ua, us;                   // rad/s; m of stretch, along and aside
  L off_spin, off_along, off_side;  // what the second stage takes off their rates
  L rolls, rim;                     // m/s over the ground, and of the rim
  L turned;                         // rad by which the wheel's axes have turned with the body
  L slide_along, slide_side;        // m/s
  Mask touches;
};

template <class L>
template <int k>
auto Vehicle::Tick::Solver<L>::tread(const WheelBatch& team, const WheelConstants& n) const -> Tread {
  const L zero = number(0), step = number(h);
  Tread m;
  m.r = L::of(n.radius), m.load = L::of(team.load[k]);
  m.touches = zero < m.load;
  m.spin = L::of(team.spin);
  L ua = L::of(team.u_along), us = L::of(team.u_side);
  m.off_spin = m.off_along = m.off_side = zero;
  if (k > 0) {
    const L spins = L::of(team.rates[0].spin), along = L::of(team.rates[0].along), side = L::of(team.rates[0].side);
    m.spin = m.spin + step * spins, ua = ua + step * along, us = us + step * side;
    m.off_spin = number(2) * spins, m.off_along = number(2) * along, m.off_side = number(2) * side;
  }
  m.ua = ua.where(m.touches), m.us = us.where(m.touches);
  m.forwards = S::of(team.along), m.sideways = S::of(team.side);
  const L va = dot(m.forwards, vel) - L::of(team.ground_along), vs = dot(m.sideways, vel) - L::of(team.ground_side);
  m.turned = zero;
  if (k > 0) m.turned = dot(V::of(team.normal), V::of(x.angular - step_x.angular)).where(m.touches);
  m.rolls = va - m.turned * vs, m.rim = m.spin * m.r;
  m.slide_along = (m.rolls - m.rim).where(m.touches), m.slide_side = (vs + m.turned * va).where(m.touches);
  return m;
}

/// N of four tyres now, and N s/m of the damper that each is where it stands.
template <class L>
struct Vehicle::Tick::Solver<L>::TyreForce {
  L along, side, damp_along, damp_side;
  L share;  // of the straight force that is left
  bool sticks;
};

/// Stretch beyond which all slides does not grow: it is cut in `m`.
template <class L>
auto Vehicle::Tick::Solver<L>::tyre_force(const WheelConstants& n, const Grip& grip, Tread& m) const -> TyreForce {
  const L zero = number(0), one = number(1);
  TyreForce f;
  f.sticks = grip.sticks(grip.along * m.ua, grip.side * m.us);
  f.share = one;
  if (!f.sticks) {
    const L wished = grip.of_full(grip.along * m.ua, grip.side * m.us), shorter = one / larger(wished, one);
    m.ua = m.ua * shorter, m.us = m.us * shorter;
    f.share = grip.share(smaller(wished, one));
  }
  f.along = f.share * (grip.along * m.ua), f.side = f.share * (grip.side * m.us);
  const L side_most = L::of(n.side_most) * m.load, stretched = f.side.without_sign();
  if ((side_most < stretched).any()) f.side = f.side * (side_most / stretched).where(side_most < stretched, one);
  f.damp_along = f.damp_side = zero;
  // At rest stretch is a spring without loss: a damper, which fades as the wheel begins to roll.
  const L fade = (one - larger(m.rolls.without_sign(), m.rim.without_sign()) * number(1 / tick.metre)).where(m.touches);
  if (!(zero < fade).any()) return f;
  const L rests = larger(fade, zero), carries = f.share * L::of(n.rest_load) * number(tick.per_strength);
  f.damp_along = rests * root(grip.along * carries), f.damp_side = rests * root(grip.side * carries);
  f.along = f.along + f.damp_along * m.slide_along, f.side = f.side + f.damp_side * m.slide_side;
  const L size = root(f.along * f.along + f.side * f.side);
  const Mask slides = grip.limit < size;
  const L less = (grip.limit / size).where(slides, one);
  f.along = f.along * less, f.side = f.side * less;
  f.damp_along = f.damp_along.where(~slides), f.damp_side = f.damp_side.where(~slides);
  return f;
}

/// What a metre of stretch, and a metre a second of slide, add to the force: up to where the stretch is headed in this
/// step, since beyond its limit nothing more comes of it.
template <class L>
void Vehicle::Tick::Solver<L>::tyre_slopes(WheelBatch& team, const Grip& grip, const Tread& m, const TyreForce& f,
                                           const L& decay) const {
  const L zero = number(0), one = number(1), g = number(G), step = number(h);
  const L fade = one / (one + step * decay), beta = g / (one + g * decay);
  const L ahead_along = grip.along * (m.ua + step * m.slide_along) * fade;
  const L ahead_side = grip.side * (m.us + step * m.slide_side) * fade;
  L stiff_along = grip.along.where(m.touches), stiff_side = grip.side.where(m.touches);
  if (!f.sticks || !grip.sticks(ahead_along, ahead_side)) {
    const L share_then = grip.share(grip.of_full(ahead_along, ahead_side));
    const auto slope_between = [&](const L& from, const L& to) JUGEND_INLINE_LAMBDA {
      const L span = to - from;
      const Mask little = span.without_sign() < number(1e-9) * (from.without_sign() + number(tick.metre));
      return within((share_then * to - f.share * from) / span, zero, one).where(~little, share_then);
    };
    stiff_along = stiff_along * slope_between(grip.along * m.ua, ahead_along);
    stiff_side = stiff_side * slope_between(grip.side * m.us, ahead_side);
  }
  stiff_along.store(team.stiff_along), stiff_side.store(team.stiff_side), beta.store(team.beta);
  (stiff_along * beta + f.damp_along).store(team.hold_along), (stiff_side * beta + f.damp_side).store(team.hold_side);
}

/// The drive on each wheel as traction control and a limited differential leave it. `room`: N m that the ground takes.
template <class L>
template <int k>
auto Vehicle::Tick::Solver<L>::aided_drive(const WheelBatch& team, const WheelConstants& n, const Tread& m,
                                           const L& room) const -> Drive {
  const L zero = number(0);
  Drive d = drive<k>(team, n, m.spin);
  if (tick.tuning.drive.traction_control) {
    const Mask eased = m.touches & (room < d.torque.without_sign());
    d.torque = room.with_sign_of(d.torque).where(eased, d.torque), d.slope = d.slope.where(~eased);
  }
  if (tick.tuning.drive.differential ==
      Differential::limited) {  // the faster wheel gives to the slower, up to what the differential holds
    const Mask limited = is(n.joined);
    const L most = number(tick.tuning.drive.differential_limit), stiff = number(4) * most;
    const L across = stiff * (m.spin.crossed() - m.spin);
    d.torque = d.torque + within(across, zero - most, most).where(limited);
    d.slope = d.slope - (number(2) * stiff).where(limited & (across.without_sign() < most));
  }
  return d;
}

/// A wheel's value, or the sum of two which a locked differential joins.
template <class L>
L Vehicle::Tick::Solver<L>::of_both(const WheelConstants& n, const L& value) const {
  return tick.tuning.drive.differential == Differential::locked ? value + value.crossed().where(is(n.joined)) : value;
}

/// The brakes as they grip or hold, and the spin eliminated: what it resists with, and what the tyre adds to the
/// matrix.
template <class L>
void Vehicle::Tick::Solver<L>::hold_spin(WheelBatch& team, const WheelConstants& n, const Tread& m,
                                         const L& force_along, const Drive& d, const L& room) {
  const L zero = number(0), one = number(1), g = number(G);
  const L hold_along = L::of(team.hold_along), pull = hold_along * m.r;
  const Mask joined = is(n.joined);
  L most = L::of(team.brake);
  if (tick.tuning.brakes.antilock && std::abs(forward) > 0.5 * tick.metre)
    most = smaller(most, room).where(m.touches, most);
  most = of_both(n, most + L::of(team.rolling) * m.load * m.r);
  const L tends = of_both(n, d.torque + m.r * force_along);  // to which way it would turn
  const L resists = L::of(team.inertia) - g * d.slope, den = of_both(n, resists + g * m.r * pull);
  const Mask brakes = zero < most, locked = brakes & (m.spin == zero) & (tends.without_sign() <= most);
  most.with_sign_of(zero - m.spin.where(~(m.spin == zero), tends)).where(brakes & ~locked).store(team.brake_torque);
  number(1).where(locked).store(team.locked);
  den.store(team.spin_den);
  add((g * L::of(team.hold_side)).where(m.touches), m.sideways);
  if (tick.v.tracks_) {  // tracks() goes on from here
    most.store(team.brake_torque), den.store(team.spin_den), zero.store(team.locked);
    return add(g * hold_along, m.forwards);
  }
  // D J J' of each wheel with its spin held, less what the spin gives way by.
  add(g * hold_along * one.where(locked | joined, resists / den), m.forwards);
  if (tick.tuning.drive.differential == Differential::locked) {
    const S pulls = m.forwards * pull;
    add((number(-0.5 * G) * g / den).where(joined & ~locked), pulls + pulls.crossed());
  }
}

/// The tyre along the ground and the wheel's spin: the forces that are known, and what they add to the matrix.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::tyre(WheelBatch& team, const WheelConstants& n, L (&force)[6]) {
  const L zero = number(0), g = number(G);
  Tread m = tread<k>(team, n);
  const Grip grip(n, team, m.load);
  const TyreForce f = tyre_force(n, grip, m);
  const L decay = m.rim.without_sign() * L::of(n.per_relaxation);
  if (k == 0) tyre_slopes(team, grip, m, f, decay);
  const L beta = L::of(team.beta), shrink = beta / g;  // 1 / (1 + g decay)
  const L along_rate = (m.slide_along - decay * m.ua - m.off_along) * shrink;
  const L side_rate = (m.slide_side - decay * m.us - m.off_side) * shrink;
  along_rate.store(team.along_rate), side_rate.store(team.side_rate);
  const L back_along = f.along + g * L::of(team.stiff_along) * along_rate;
  const L back_side = f.side + g * L::of(team.stiff_side) * side_rate;

  L room = zero;
  if (tick.tuning.brakes.antilock || tick.tuning.drive.traction_control)
    room = number(0.95) * root(larger(grip.limit * grip.limit - f.side * f.side, zero)) * m.r;
  const Drive d = aided_drive<k>(team, n, m, room);
  if (k == 0) hold_spin(team, n, m, f.along, d, room);
  const L torque = of_both(n, d.torque - L::of(team.inertia) * m.off_spin + m.r * back_along);
  L spin_rate = zero;
  if (tick.v.tracks_) {
    torque.store(team.spin_torque);
  } else {
    spin_rate = ((torque + L::of(team.brake_torque)) / L::of(team.spin_den)).where(~is(team.locked));
  }
  const L along = (g * (L::of(team.hold_along) * m.r) * spin_rate - back_along).where(m.touches);
  const L side = (zero - back_side).where(m.touches);
  spin_rate.store(team.spin_rate), along.store(team.forward), side.store(team.sideways);
  push(force, m.forwards, along + m.turned * side);
  push(force, m.sideways, side - m.turned * along);
}

}  // namespace jugend
