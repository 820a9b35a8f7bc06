// The forces of one stage of a vehicle's step, four wheels at once, and what elimination makes of them. Inner to the
// vehicle.
#pragma once

#include <jugend/motion/vehicle/detail/vehicle_tyres.hpp>

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
    const double through_air = dot(vel.linear, tick.ahead);
    const Vec3 down = tick.up * (-a.downforce * through_air * through_air);
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
  const L damping = L::of(n.bump_damping).where(zero < rate, L::of(n.rebound_damping)), most = L::of(n.most_damping);
  const L wanted = damping * rate, damper = within(wanted, zero - most, most);
  StrutForce f{k * by * (number(1) + number(0.5) * grown) + number(0.5) * stop * in + damper,
               k * (number(1) + grown) + stop, damping.where(damper == wanted)};
  const L beyond = compression - L::of(n.bump);
  if ((zero < beyond).any()) {
    const L give_rate = L::of(n.give_rate).where(zero < beyond);
    f.force = f.force + give_rate * smaller(beyond, L::of(n.give)), f.stiffness = f.stiffness + give_rate;
  }
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
  const S push_by = S::of(team.push) * L::of(team.slant);
  push(force, push_by, bar.where(light) + (number(G) * stiff * (held.known - held.known.crossed())).where(straight));
  if (k == 0) add((number(0.5 * G * G) * stiff).where(straight), push_by + push_by.crossed() * number(-1));
}

/// A wheel without a mass of its own follows the ground: the spring stands between ground and body.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::spring(WheelBatch& team, const WheelConstants& n, const Upright& held, const L& rate,
                                      L (&force)[6]) {
  const L zero = number(0), slant = L::of(team.slant), inverse_mass = L::of(team.inverse_mass);
  const Mask light = held.near & ~held.heavy;
  StrutForce f = strut(n, held.height, rate);
  if (tick.ground_is_light) {  // light ground gives way before a damper could turn it round
    const Mask yields = zero < inverse_mass;
    const L eased = f.damping / (number(1) + number(tick.dt) * f.damping * inverse_mass);
    f.force = larger(f.force + (eased - f.damping) * rate, zero).where(yields, f.force);
    f.damping = eased;
    const L bears_down = L::of(team.bears_down) / slant;
    const Mask all = bears_down < f.force;
    f.force = smaller(f.force, bears_down), f.stiffness = f.stiffness.where(~all), f.damping = f.damping.where(~all);
  }
  const S push_at = S::of(team.push);
  if (k == 0) {
    f.stiffness.where(light).store(team.spring_k), f.damping.where(light).store(team.spring_c);
    add((slant * slant * number(G) * (number(G) * f.stiffness + f.damping)).where(light), push_at);
  }
  const L normal = (slant * (f.force + number(G) * L::of(team.spring_k) * held.known)).where(light);
  larger(slant * (f.force + L::of(team.bar)), zero).where(light).store(team.load[k]);
  normal.store(team.normal_force);
  push(force, push_at, normal);
}

/// A wheel with a mass: the tyre stands between ground and hub, the spring between hub and body.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::hub(WheelBatch& team, const WheelConstants& n, const Upright& held, const L& rate,
                                   L (&force)[6]) {
  const L zero = number(0), one = number(1), g = number(G), slant = L::of(team.slant), per_mass = L::of(n.per_unsprung);
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
  if (tick.ground_is_light) tyre = smaller(tyre, L::of(team.bears_down) / slant);
  const S along_strut = S::of(team.strut), push_at = S::of(team.push);
  if (k == 0) {
    const L den = one + g * per_mass * (damping + f.damping + g * (stiffness + f.stiffness));
    const L yields = (g * (g * f.stiffness + f.damping) / den).where(held.heavy);
    const L share = (g * (g * stiffness + damping) * per_mass * slant).where(held.near & held.heavy);
    stiffness.store(team.tyre_k), damping.store(team.tyre_c), den.store(team.hub_den);
    yields.store(team.hub_compliance), share.store(team.hub_share);
    f.stiffness.where(held.heavy, L::of(team.spring_k)).store(team.spring_k);
    f.damping.where(held.heavy, L::of(team.spring_c)).store(team.spring_c);
    add(yields * (one + share), along_strut);
  }
  const L tyre_k = L::of(team.tyre_k), spring_k = L::of(team.spring_k);
  const L hub_rate = speed - off_hub;
  const L pulled = (tyre - f.force + g * tyre_k * held.known - g * (tyre_k + spring_k) * hub_rate) * per_mass +
                   number(dot(tick.gravity, tick.up)) - off_speed;
  hub_rate.store(team.hub_rate), pulled.store(team.hub_push);
  const L along = (f.force + g * spring_k * hub_rate + L::of(team.hub_compliance) * pulled).where(held.heavy);
  push(force, along_strut, along - tyre);  // what links hold, across the strut
  push(force, push_at, slant * tyre);
  const L load = (slant * tyre).where(held.heavy, L::of(team.load[k]));
  load.store(team.load[k]);
  load.where(held.heavy, L::of(team.normal_force)).store(team.normal_force);
}

template <class L>
template <int k>
SpatialVector Vehicle::Tick::Solver<L>::stage() {
  forward = dot(vel.linear - tick.state.ground, tick.ahead);
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
    const L slant = L::of(team.slant), climbs = L::of(team.ground_rise);
    const L rate = slant * (climbs - dot(rise, vel));
    const Upright held{L::of(team.height) + slant * (climbs * number(t) - dot(rise, x)),
                       k == 0 ? rate : slant * (climbs * number(time_rate) - dot(rise, vel + taken)), is(team.near),
                       number(0) < L::of(n.unsprung)};
    if (tick.v.has_bars_) bars<k>(team, n, held, force);
    if (tick.v.has_light_) spring<k>(team, n, held, rate, force);
    if (tick.v.has_hubs_) hub<k>(team, n, held, rate, force);
    tyre<k>(team, n, force);
  }
  SpatialVector all = sum + SpatialVector{{force[0].sum(), force[1].sum(), force[2].sum()},
                                          {force[3].sum(), force[4].sum(), force[5].sum()}};
  if (tick.v.tracks_) turn_tracks<k>(all);
  return all;
}

/// A wheel's own rates, which follow from the body's, and the forces that came about with them.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::follow(const SpatialVector& rate) {
  Doubles4 on_tracks;
  if (tick.v.tracks_) {
    const std::array<double, 2> both = tracks.rates(G, rate);
    for (std::size_t l = 0; l < 4; ++l) on_tracks.at[l] = both[l % 2];
  }
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
    L spin = L::of(on_tracks);
    if (!tick.v.tracks_) spin = (spin_known + g * pull / L::of(team.spin_den)).where(~is(team.locked));
    spin.store(rates.spin);
    (L::of(team.along_rate) + beta * (along - r * spin)).where(touches).store(rates.along);
    (L::of(team.side_rate) + beta * side).where(touches).store(rates.side);

    const L slant = L::of(team.slant);
    L pressed = L::of(team.normal_force);
    const L pushed = dot(S::of(team.push), rate);
    const Mask heavy = zero < L::of(n.unsprung), light = near & ~heavy;
    const L yields = slant * g * (g * L::of(team.spring_k) + L::of(team.spring_c)) * pushed;
    pressed = pressed + (slant * (L::of(team.bar) - yields)).where(light);
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
    if (tick.ground_is_light) {
      (V::of(team.pushed) + V::of(team.push.linear) * pressed + V::of(team.along.linear) * fa +
       V::of(team.side.linear) * fs)
          .store(team.pushed);
    }
  }
}

}  // namespace jugend
