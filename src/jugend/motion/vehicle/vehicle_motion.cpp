// The order of a vehicle's tick, and what is handed to body and ground.
#include <algorithm>
#include <cmath>
#include <jugend/base/cpu.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle/detail/vehicle_stages.hpp>
#include <jugend/motion/vehicle/detail/vehicle_steps.hpp>
#include <jugend/motion/vehicle/detail/vehicle_tracks.hpp>

namespace jugend {

void Vehicle::Tick::run() {
  body = surroundings.facts(v.body_);
  mass = body.mass;
  if (mass <= 0) return;
  gravity = surroundings.gravity(body.centre);
  strength = norm(gravity);
  per_strength = 1 / sizing_pull(gravity, metre);
  const Quat& q = body.pose.orientation;
  up = rotate(q, {0, 1, 0}), ahead = rotate(q, {1, 0, 0}), right = rotate(q, {0, 0, 1});
  inertia = body.inertia();
  velocity = {body.velocity_at(body.centre), body.spin};
  if (!state.moved) look_below();
  state.speed = dot(velocity.linear - state.ground, ahead);
  for (std::size_t i = 0; i < contacts.size(); ++i) stood |= state.wheels[i].pressed;
  steer();
  sense();
  know_speed();
  if (!state.moved) start();
  ask();
  help();
  integrate();
  finish();
}

namespace {

template <class Solver>
void solve(Solver& solver, SpatialVector& offset, SpatialVector& now) {
  solver.run(offset, now);
}
#if defined(JUGEND_AVX2)
template <class Solver>
__attribute__((target("avx2"))) void solve_with_avx2(Solver& solver, SpatialVector& offset, SpatialVector& now) {
  solver.run(offset, now);
}
#endif

}  // namespace

void Vehicle::Tick::integrate() {
  SpatialVector offset{}, now = velocity;
#if defined(JUGEND_AVX2)
  if (has_avx2) {
    Solver<Quad> solver(*this);
    solve_with_avx2(solver, offset, now);
    return hand_over(offset, now);
  }
#endif
  Solver<Pairs> solver(*this);
  solve(solver, offset, now);
  hand_over(offset, now);
}

/// An impulse now, and a force over the tick.
void Vehicle::Tick::hand_over(SpatialVector displacement, SpatialVector end) {
  // What wheels take up in spin the body gives: in the air throttle lifts its nose.
  Vec3 taken{};
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const auto [team, n, lane] = place(i);
    taken += team.axle.get(lane) * (n.spin_inertia.at[lane] * (team.spin.at[lane] - state.wheels[i].spin));
  }
  const Vec3 given = body.inverse_inertia * (taken + cross(displacement.angular * 0.5, taken));
  displacement.angular -= given * (0.5 * dt), end.angular -= given;
  then = end;
  const auto [change, acceleration] = going(displacement, velocity, end, dt);
  surroundings.push(v.body_, change.linear * mass, body.centre);
  surroundings.force(v.body_, (acceleration.linear - gravity) * mass - body.force, body.centre);
  surroundings.twist(v.body_, inertia * change.angular);
  surroundings.torque(v.body_, inertia * acceleration.angular - body.torque);
  for (std::size_t i = 0; ground_is_light && i < contacts.size(); ++i) {
    const auto [team, n, lane] = place(i);
    if (contacts[i].sensed && team.inverse_mass.at[lane] > 0)
      surroundings.force(contacts[i].ground, team.pushed.get(lane) * (-1 / dt), team.point.get(lane));
  }
  const Vec3 centre = body.centre + displacement.linear;
  const Quat turned = normalised(rotation(displacement.angular) * body.pose.orientation);
  const Vec3 local = to_local(body.pose, body.centre);
  state.expected = {centre - rotate(turned, local), turned};
}

void Vehicle::Tick::finish() {
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const WheelContact& c = contacts[i];
    const auto [team, n, lane] = place(i);
    WheelState& s = state.wheels[i];
    const double spin = team.spin.at[lane], pressed = team.pressed.at[lane], droop = n.droop.at[lane];
    const bool was = s.pressed, did = was || pressed > 0, heavy = n.unsprung.at[lane] > 0;
    s.pressed = team.near.at[lane] > 0 && team.load[1].at[lane] > 0;
    s.angle += 0.5 * (s.spin + spin) * dt;
    if (std::abs(s.angle) > pi) s.angle -= 2 * pi * std::floor((s.angle + pi) / (2 * pi));
    s.spin = spin, s.locked = team.locked.at[lane] > 0;
    s.stretch_along = c.sensed ? team.u_along.at[lane] : 0, s.stretch_side = c.sensed ? team.u_side.at[lane] : 0;
    s.load = std::max(0.0, pressed / dt);
    s.along = team.pushed_along.at[lane] / dt, s.side = team.pushed_side.at[lane] / dt;
    s.ground = c.sensed ? c.ground : BodyId{};
    s.compression = c.sensed ? std::clamp(c.compression, -droop, n.bump.at[lane]) : -droop;
    s.hub = heavy ? team.hub.at[lane] : s.compression;
    s.hub_speed = heavy ? team.hub_speed.at[lane] : 0;
    s.rim = spin * n.radius.at[lane], s.rolls = s.slides = 0;
    if (c.sensed) {
      s.contact = team.point.get(lane), s.normal = team.normal.get(lane);
      s.rolls = dot(team.along.get(lane), then) - team.ground_along.at[lane];
      s.slides = dot(team.side.get(lane), then) - team.ground_side.at[lane];
    }
    const int wheel = static_cast<int>(i);
    if (did && !s.pressed) v.events_.push_back({VehicleEventKind::wheel_left_ground, team.left_at.at[lane], wheel, 0});
    if (!was && pressed > 0 && state.moved) {
      const double towards = std::max(0.0, team.ground_rise.at[lane] - dot(team.rise.get(lane), velocity));
      const double displacement = -droop - c.compression, rate = team.slant.at[lane] * towards;
      v.events_.push_back(
          {VehicleEventKind::wheel_landed, rate > 0 ? std::clamp(displacement / rate, 0.0, dt) : 0.0, wheel, towards});
    }
  }
  state.moved = true;
}

}  // namespace jugend
