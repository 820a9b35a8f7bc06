// The forces of one stage of a vehicle's step, four wheels at once, and what elimination makes of them. Inner to the
// vehicle.
#pragma once

#include <jugend/motion/vehicle/detail/vehicle_solver.hpp>

namespace jugend {

template <class L>
SpatialVector Vehicle::Tick::Solver<L>::body_forces() const {
  const AirTuning& a = tick.tuning.air;
  SpatialVector force = weight;
  force.angular -= cross(vel.angular, wheels_spin);  // fast wheels hold their axles' direction, like tops
  if (a.drag > 0) force.linear -= vel.linear * (a.drag * norm(vel.linear));
  if (a.downforce > 0) {
    const auto& wheels = tick.v.wheels_;
    const double at = a.downforce_front * wheels.front().mount.x + (1 - a.downforce_front) * wheels.back().mount.x;
    const Vec3 down = tick.up * (-a.downforce * forward * forward);
    force += SpatialVector{down, cross(tick.ahead * at, down)};
  }
  return force;
}

/// One shaft turns all driven wheels.
template <class L>
void Vehicle::Tick::Solver<L>::engine(int k) {
  L turning = number(0);
  for (const WheelBatch& team : tick.teams) {
    L spin = L::of(team.spin);
    if (k > 0) spin = spin + number(h) * L::of(team.rates[0].spin);
    turning = turning + L::of(team.drive) * spin;
  }
  const double shaft = turning.sum(), pedal = std::abs(tick.throttle);
  const Engine& engine = *tick.v.engine_;
  const Engine::Output out = engine.output(tick.state.engine, shaft, pedal);
  tick.state.engine.revs = out.revs;
  engine_torque = out.torque;
  if (k > 0) return;
  const double by = 1e-3 * (1 + std::abs(shaft));
  engine_slope = std::min(0.0, (engine.output(tick.state.engine, shaft + by, pedal).torque - out.torque) / by);
}

/// Strut::at for each of four.
template <class L>
auto Vehicle::Tick::Solver<L>::strut(const WheelConstants& n, const L& compression, const L& rate) -> StrutForce {
  const L zero = number(0), pull = L::of(n.pull);
  const L by = smaller(compression, L::of(n.bump)), pressed = larger(by, zero);
  const L k = L::of(n.stiffness).where(zero <= by, L::of(n.stiffness) * pull), grown = L::of(n.growth) * pressed;
  const L in = larger(by - L::of(n.stop_from), zero), stop = L::of(n.stop_rate) * in;
  const L damping = L::of(n.bump_damping).where(zero < rate, L::of(n.rebound_damping));
  StrutForce f{k * by * (number(1) + number(0.5) * grown) + number(0.5) * stop * in + damping * rate,
               k * (number(1) + grown) + stop, damping};
  const Mask none = (compression < zero - L::of(n.droop)) | ((f.force < zero) & (pull == zero));
  f.force = f.force.where(~none), f.stiffness = f.stiffness.where(~none), f.damping = f.damping.where(~none);
  return f;
}

/// Adds d j jᵀ to the matrix.
template <class L>
void Vehicle::Tick::Solver<L>::add(const L& d, const S& j) {
#pragma GCC unroll 6
  for (int r = 0; r < 6; ++r) {
    const L scaled = d * j.at[r];
#pragma GCC unroll 6
    for (int c = 0; c <= r; ++c) {
      L& place = lower[r * (r + 1) / 2 + c];
      place = place + scaled * j.at[c];
    }
  }
}

template <class L>
void Vehicle::Tick::Solver<L>::push(L (&force)[6], const S& j, const L& by) {
  for (int c = 0; c < 6; ++c) force[c] = force[c] + j.at[c] * by;
}

/// Anti-roll bars: no more than the spring of the lighter side, whose wheel lifts before it could be pulled.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::bars(WheelBatch& team, const WheelConstants& n, const Upright& held, L (&force)[6]) {
  const L zero = number(0), stiff = L::of(n.anti_roll), is_near = number(1).where(held.near);
  const Mask both = (zero < is_near * is_near.crossed()) & (zero < stiff);
  const L unsprung = L::of(n.unsprung);
  const Mask masses = zero < unsprung * unsprung.crossed();
  L z = L::of(team.hub);
  if (k > 0) z = z + number(h) * L::of(team.rates[0].hub);
  const L at = z.where(masses, held.height), own = larger(strut(n, at, zero).force, zero);
  const L most = smaller(own, own.crossed()), wanted = stiff * (at - at.crossed());
  const L bar = within(wanted, zero - most, most).where(both);
  bar.store(team.bar);
  const Mask light = both & ~masses, straight = light & (bar == wanted);  // with masses hub() adds it, and its slope
  const S push_by = S::of(team.push) * L::of(team.lean);
  push(force, push_by, bar.where(light) + (number(G) * stiff * (held.known - held.known.crossed())).where(straight));
  if (k == 0) add((number(0.5 * G * G) * stiff).where(straight), push_by + push_by.crossed() * number(-1));
}

/// A wheel without a mass of its own follows the ground: the spring stands between ground and body.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::spring(WheelBatch& team, const WheelConstants& n, const Upright& held, const L& rate,
                                      L (&force)[6]) {
  const L zero = number(0), lean = L::of(team.lean), give = L::of(team.give);
  const Mask light = held.near & ~held.heavy;
  StrutForce f = strut(n, held.height, rate);
  if (tick.ground_gives) {  // light ground gives way before a damper could turn it round
    const Mask gives = zero < give;
    const L eased = f.damping / (number(1) + number(tick.dt) * f.damping * give);
    f.force = larger(f.force + (eased - f.damping) * rate, zero).where(gives, f.force);
    f.damping = eased;
    const L bears = L::of(team.bears) / lean;
    const Mask all = bears < f.force;
    f.force = smaller(f.force, bears), f.stiffness = f.stiffness.where(~all), f.damping = f.damping.where(~all);
  }
  const S push_at = S::of(team.push);
  if (k == 0) {
    f.stiffness.where(light).store(team.spring_k), f.damping.where(light).store(team.spring_c);
    add((lean * lean * number(G) * (number(G) * f.stiffness + f.damping)).where(light), push_at);
  }
  const L normal = (lean * (f.force + number(G) * L::of(team.spring_k) * held.known)).where(light);
  larger(lean * (f.force + L::of(team.bar)), zero).where(light).store(team.load[k]);
  normal.store(team.normal_force);
  push(force, push_at, normal);
}

/// A wheel with a mass: the tyre stands between ground and hub, the spring between hub and body.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::hub(WheelBatch& team, const WheelConstants& n, const Upright& held, const L& rate,
                                   L (&force)[6]) {
  const L zero = number(0), one = number(1), g = number(G), lean = L::of(team.lean), per_mass = L::of(n.per_unsprung);
  const L bar = L::of(team.bar);
  L z = L::of(team.hub), speed = L::of(team.hub_speed), off_hub = zero, off_speed = zero;
  if (k > 0) {
    const L rate_hub = L::of(team.rates[0].hub), rate_speed = L::of(team.rates[0].hub_speed);
    z = z + number(h) * rate_hub, speed = speed + number(h) * rate_speed;
    off_hub = number(2) * rate_hub, off_speed = number(2) * (rate_speed + dot(S::of(team.strut), first));
  }
  StrutForce f = strut(n, within(z, zero - L::of(n.droop), L::of(n.bump)), speed);
  f.force = f.force + bar;
  f.stiffness = f.stiffness + (number(2) * L::of(n.anti_roll)).where(~(bar == zero));
  const L deep = held.height - z;
  const Mask pressed = held.near & held.heavy & (zero < deep);
  const L stiffness = L::of(n.tyre_stiffness).where(pressed), damping = L::of(n.tyre_damping).where(pressed);
  L tyre = larger(stiffness * deep + damping * (rate - speed), zero).where(pressed);
  if (tick.ground_gives) tyre = smaller(tyre, L::of(team.bears) / lean);
  const S along_strut = S::of(team.strut), push_at = S::of(team.push);
  if (k == 0) {
    const L den = one + g * per_mass * (damping + f.damping + g * (stiffness + f.stiffness));
    const L gives = (g * (g * f.stiffness + f.damping) / den).where(held.heavy);
    const L share = (g * (g * stiffness + damping) * per_mass * lean).where(held.near & held.heavy);
    stiffness.store(team.tyre_k), damping.store(team.tyre_c), den.store(team.hub_den);
    gives.store(team.hub_give), share.store(team.hub_share);
    f.stiffness.where(held.heavy, L::of(team.spring_k)).store(team.spring_k);
    f.damping.where(held.heavy, L::of(team.spring_c)).store(team.spring_c);
    add(gives * (one + share), along_strut);
  }
  const L tyre_k = L::of(team.tyre_k), spring_k = L::of(team.spring_k);
  const L hub_rate = speed - off_hub;
  const L pulled = (tyre - f.force + g * tyre_k * held.known - g * (tyre_k + spring_k) * hub_rate) * per_mass +
                   number(dot(tick.gravity, tick.up)) - off_speed;
  hub_rate.store(team.hub_rate), pulled.store(team.hub_push);
  const L along = (f.force + g * spring_k * hub_rate + L::of(team.hub_give) * pulled).where(held.heavy);
  push(force, along_strut, along - tyre);  // what links hold, across the strut
  push(force, push_at, lean * tyre);
  const L load = (lean * tyre).where(held.heavy, L::of(team.load[k]));
  load.store(team.load[k]);
  load.where(held.heavy, L::of(team.normal_force)).store(team.normal_force);
}

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
    limit = smaller(L::of(n.grip) * L::of(team.grip) * fade, L::of(team.hold));
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
  JUGEND_INLINE bool holds(const L& straight_along, const L& straight_side) const {
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
  const L free = driven * r - number(std::copysign(1 + 0.2 * std::abs(forward), tick.throttle));
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

/// The tyre along the ground and the wheel's spin: the forces that are known, and what they add to the matrix.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::tyre(WheelBatch& team, const WheelConstants& n, L (&force)[6]) {
  const L zero = number(0), one = number(1), g = number(G), step = number(h);
  const L r = L::of(n.radius), load = L::of(team.load[k]);
  const Mask touches = zero < load;
  L spin = L::of(team.spin), ua = L::of(team.u_along), us = L::of(team.u_side);
  L off_spin = zero, off_along = zero, off_side = zero;
  if (k > 0) {
    const L spins = L::of(team.rates[0].spin), along = L::of(team.rates[0].along), side = L::of(team.rates[0].side);
    spin = spin + step * spins, ua = ua + step * along, us = us + step * side;
    off_spin = number(2) * spins, off_along = number(2) * along, off_side = number(2) * side;
  }
  ua = ua.where(touches), us = us.where(touches);
  const S forwards = S::of(team.along), sideways = S::of(team.side);
  const L va = dot(forwards, vel) - L::of(team.ground_along), vs = dot(sideways, vel) - L::of(team.ground_side);
  // The wheel's axes turn with the body.
  L turned = zero;
  if (k > 0) turned = dot(V::of(team.normal), V::of(x.angular - step_x.angular)).where(touches);
  const L rolls = va - turned * vs, rim = spin * r;
  const L slide_along = (rolls - rim).where(touches), slide_side = (vs + turned * va).where(touches);

  const Grip grip(n, team, load);
  const bool holds = grip.holds(grip.along * ua, grip.side * us);
  L share = one;
  if (!holds) {
    const L wished = grip.of_full(grip.along * ua, grip.side * us), shorter = one / larger(wished, one);
    ua = ua * shorter, us = us * shorter;  // stretch beyond which all slides does not grow
    share = grip.share(smaller(wished, one));
  }
  const L straight_along = grip.along * ua, straight_side = grip.side * us;
  L fa = share * straight_along, fs = share * straight_side, damp_along = zero, damp_side = zero;
  // At rest stretch is a spring without loss: a damper, which fades as the wheel begins to roll.
  const L fade = (one - larger(rolls.without_sign(), rim.without_sign())).where(touches);
  if ((zero < fade).any()) {
    const L rests = larger(fade, zero), carries = share * L::of(n.rest_load) * number(tick.per_strength);
    damp_along = rests * root(grip.along * carries), damp_side = rests * root(grip.side * carries);
    fa = fa + damp_along * slide_along, fs = fs + damp_side * slide_side;
    const L size = root(fa * fa + fs * fs);
    const Mask slides = grip.limit < size;
    const L less = (grip.limit / size).where(slides, one);
    fa = fa * less, fs = fs * less, damp_along = damp_along.where(~slides), damp_side = damp_side.where(~slides);
  }
  const L decay = rim.without_sign() * L::of(n.per_relaxation);
  if (k == 0) {
    // Slopes up to where the stretch is headed in this step: beyond its limit nothing more comes of it.
    const L settle = one / (one + step * decay), beta = g / (one + g * decay);
    const L ahead_along = grip.along * (ua + step * slide_along) * settle;
    const L ahead_side = grip.side * (us + step * slide_side) * settle;
    L stiff_along = grip.along.where(touches), stiff_side = grip.side.where(touches);
    if (!holds || !grip.holds(ahead_along, ahead_side)) {
      const L share_then = grip.share(grip.of_full(ahead_along, ahead_side));
      const auto slope_between = [&](const L& from, const L& to) JUGEND_INLINE_LAMBDA {
        const L way = to - from;
        const Mask little = way.without_sign() < number(1e-9) * (from.without_sign() + one);
        return within((share_then * to - share * from) / way, zero, one).where(~little, share_then);
      };
      stiff_along = stiff_along * slope_between(straight_along, ahead_along);
      stiff_side = stiff_side * slope_between(straight_side, ahead_side);
    }
    stiff_along.store(team.stiff_along), stiff_side.store(team.stiff_side), beta.store(team.beta);
    (stiff_along * beta + damp_along).store(team.hold_along), (stiff_side * beta + damp_side).store(team.hold_side);
  }
  const L beta = L::of(team.beta), shrink = beta / g;  // 1 / (1 + γ h decay)
  const L hold_along = L::of(team.hold_along), hold_side = L::of(team.hold_side);
  const L along_rate = (slide_along - decay * ua - off_along) * shrink;
  const L side_rate = (slide_side - decay * us - off_side) * shrink;
  along_rate.store(team.along_rate), side_rate.store(team.side_rate);
  const L back_along = fa + g * L::of(team.stiff_along) * along_rate;
  const L back_side = fs + g * L::of(team.stiff_side) * side_rate;

  Drive d = drive<k>(team, n, spin);
  L room = zero;  // N m that the ground takes
  const bool antilock = tick.tuning.brakes.antilock, traction = tick.tuning.drive.traction_control;
  if (antilock || traction) room = number(0.95) * root(larger(grip.limit * grip.limit - fs * fs, zero)) * r;
  if (traction) {
    const Mask eased = touches & (room < d.torque.without_sign());
    d.torque = room.with_sign_of(d.torque).where(eased, d.torque), d.slope = d.slope.where(~eased);
  }
  if (tick.tuning.drive.differential ==
      Differential::limited) {  // the faster wheel gives to the slower, up to what the differential holds
    const Mask limited = is(n.joined);
    const L most = number(tick.tuning.drive.differential_limit), stiff = number(4) * most;
    const L across = stiff * (spin.crossed() - spin);
    d.torque = d.torque + within(across, zero - most, most).where(limited);
    d.slope = d.slope - (number(2) * stiff).where(limited & (across.without_sign() < most));
  }

  // The spin, or that of two which a locked differential joins, eliminated.
  const bool locks = tick.tuning.drive.differential == Differential::locked;
  const Mask joined = is(n.joined);
  const auto both = [&](const L& value)
                        JUGEND_INLINE_LAMBDA { return locks ? value + value.crossed().where(joined) : value; };
  const L pull = hold_along * r;
  if (k == 0) {
    L most = L::of(team.brake);
    if (antilock && std::abs(forward) > 0.5) most = smaller(most, room).where(touches, most);
    most = both(most + L::of(team.rolling) * load * r);
    const L tends = both(d.torque + r * fa);  // to which way it would turn
    const L resists = L::of(team.inertia) - g * d.slope, den = both(resists + g * r * pull);
    const Mask brakes = zero < most, locked = brakes & (spin == zero) & (tends.without_sign() <= most);
    most.with_sign_of(zero - spin.where(~(spin == zero), tends)).where(brakes & ~locked).store(team.brake_torque);
    number(1).where(locked).store(team.locked);
    den.store(team.spin_den);
    add((g * hold_side).where(touches), sideways);
    // D J Jᵀ of each wheel with its spin held, less what the spin gives way by.
    add(g * hold_along * one.where(locked | joined, resists / den), forwards);
    if (locks) {
      const S pulls = forwards * pull;
      add((number(-0.5 * G) * g / den).where(joined & ~locked), pulls + pulls.crossed());
    }
  }
  const L torque = both(d.torque - L::of(team.inertia) * off_spin + r * back_along) + L::of(team.brake_torque);
  const L spin_rate = (torque / L::of(team.spin_den)).where(~is(team.locked));
  const L along = (g * pull * spin_rate - back_along).where(touches), side = (zero - back_side).where(touches);
  spin_rate.store(team.spin_rate), along.store(team.forward), side.store(team.sideways);
  push(force, forwards, along + turned * side);
  push(force, sideways, side - turned * along);
}

template <class L>
template <int k>
SpatialVector Vehicle::Tick::Solver<L>::stage() {
  forward = dot(vel.linear, tick.ahead);
  const SpatialVector sum = body_forces();
  if (tick.v.engine_) engine(k);
  L force[6];
  for (L& f : force) f = number(0);
  if (k == 0) {
#pragma GCC unroll 21
    for (L& l : lower) l = number(0);
  }
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    WheelBatch& team = tick.teams[i];
    const WheelConstants& n = tick.v.table_->wheels[i];
    const S rise = S::of(team.rise);
    const L lean = L::of(team.lean), climbs = L::of(team.ground_rise);
    const L rate = lean * (climbs - dot(rise, vel));
    const Upright held{L::of(team.height) + lean * (climbs * number(t) - dot(rise, x)),
                       k == 0 ? rate : lean * (climbs * number(time_rate) - dot(rise, vel + taken)), is(team.near),
                       number(0) < L::of(n.unsprung)};
    if (tick.v.has_bars_) bars<k>(team, n, held, force);
    if (tick.v.has_light_) spring<k>(team, n, held, rate, force);
    if (tick.v.has_hubs_) hub<k>(team, n, held, rate, force);
    tyre<k>(team, n, force);
  }
  return sum + SpatialVector{{force[0].sum(), force[1].sum(), force[2].sum()},
                             {force[3].sum(), force[4].sum(), force[5].sum()}};
}

/// A wheel's own rates, which follow from the body's, and the forces that came about with them.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::follow(const SpatialVector& rate) {
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    WheelBatch& team = tick.teams[i];
    const WheelConstants& n = tick.v.table_->wheels[i];
    WheelRates& rates = team.rates[k];
    const L zero = number(0), g = number(G), r = L::of(n.radius), beta = L::of(team.beta);
    const Mask touches = zero < L::of(team.load[k]), near = is(team.near);
    const L along = dot(S::of(team.along), rate).where(touches), side = dot(S::of(team.side), rate).where(touches);
    const L hold_along = L::of(team.hold_along), spin_known = L::of(team.spin_rate);
    L pull = r * hold_along * along;
    if (tick.tuning.drive.differential == Differential::locked) pull = pull + pull.crossed().where(is(n.joined));
    const L spin = (spin_known + g * pull / L::of(team.spin_den)).where(~is(team.locked));
    spin.store(rates.spin);
    (L::of(team.along_rate) + beta * (along - r * spin)).where(touches).store(rates.along);
    (L::of(team.side_rate) + beta * side).where(touches).store(rates.side);

    const L lean = L::of(team.lean);
    L pressed = L::of(team.normal_force);
    const L pushed = dot(S::of(team.push), rate);
    const Mask heavy = zero < L::of(n.unsprung), light = near & ~heavy;
    const L gives = lean * g * (g * L::of(team.spring_k) + L::of(team.spring_c)) * pushed;
    pressed = pressed + (lean * (L::of(team.bar) - gives)).where(light);
    if (tick.v.has_hubs_) {
      const L lifted = (L::of(team.hub_share) * dot(S::of(team.rise), rate)).where(near);
      const L speed = (L::of(team.hub_push) - dot(S::of(team.strut), rate) - lifted) / L::of(team.hub_den);
      speed.where(heavy).store(rates.hub_speed);
      (L::of(team.hub_rate) + g * speed).where(heavy).store(rates.hub);
    }
    const L part = number(0.5 * h);
    const L fa = (L::of(team.forward) - g * hold_along * (along - r * (spin - spin_known))).where(touches) * part;
    const L fs = (L::of(team.sideways) - g * L::of(team.hold_side) * side).where(touches) * part;
    pressed = pressed.where(touches) * part;
    (L::of(team.pressed) + pressed).store(team.pressed);
    (L::of(team.pushed_along) + fa).store(team.pushed_along);
    (L::of(team.pushed_side) + fs).store(team.pushed_side);
    if (tick.ground_gives) {
      (V::of(team.pushed) + V::of(team.push.linear) * pressed + V::of(team.along.linear) * fa +
       V::of(team.side.linear) * fs)
          .store(team.pushed);
    }
  }
}

}  // namespace jugend
