// Where a forced walker's body is, the ground under its legs, and how a tick's plan is handed over to it.
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/walker/detail/forced_body.hpp>

namespace jugend {

void ForcedWalker::step(const WalkerIntent& intent, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  events_.clear();
  const WalkerIntent asked = made_finite(intent);
  Body(*this, asked, surroundings, dt).run();
}

void ForcedWalker::settle(Surroundings& surroundings, double dt) {
  Body tick(*this, {}, surroundings, dt);
  if (!tick.read_body()) return;
  tick.tell_weight();
  if (!state_.placed) return;
  tick.stand_where_placed();
  // It goes with what it stands on from now on, so that who is put on its head does too.
  if (state_.on_ground) surroundings.push(tick.id, state_.ground.velocity * tick.body.mass, tick.body.centre);
  state_.placed = !state_.on_ground;  // what bears it may still be put there
  tick.choose_mode();
}

/// Takes place and velocity from the body; false where that is none that can be moved.
bool ForcedWalker::Body::read_body() {
  body = surroundings.facts(id);
  if (body.mass <= 0) return false;
  state.position = body.pose.position;  // gravity is that at its middle
  face_gravity();
  state.position = body.pose.position - state.up * forced.middle();
  state.velocity = body.velocity + state.knock;
  return true;
}

bool ForcedWalker::Body::on_legs() const {
  return state.on_ground && state.ground.mass > 0 &&
         (surroundings.facts(state.ground.body).layers & walker_layer::forced) != 0;
}

/// Legs hold a load that they know of where it lies, and answer one that they do not a tick late: two that stand on one
/// another would throw each other up. So it says what will press on them, and takes that back as its own tick begins.
void ForcedWalker::Body::tell_weight() {
  if (!on_legs() || state.ledge.hold != Hold::free) return;
  state.ground.point += state.ground.velocity * dt;  // where that has come
  state.told = state.up * (-(strength * body.mass + std::max(0.0, load)) * tuning.push.weight);
  surroundings.force(state.ground.body, state.told, state.ground.point);
}

bool ForcedWalker::Body::begin() {
  if (!read_body()) return false;
  load = -dot(body.force, state.up);
  if (state.told != Vec3{}) surroundings.force(state.ground.body, state.told * -1, state.ground.point);
  state.knock = state.told = {};
  leans = true;
  if (state.ledge.hold == Hold::free) frame = carrier();
  if (walker.dangers != 0) feel_dangers();
  return true;
}

void ForcedWalker::Body::refresh_ground() {
  if (state.ledge.hold != Hold::free) {
    const BodyFacts held = surroundings.facts(state.ledge.body);
    const Vec3 local = feet_in_hold(state.ledge, tuning.ledge, rotate(conjugate(held.pose.orientation), state.up));
    const bool driven_off = norm(to_world(held.pose, local) - state.position) > 0.3 * tuning.body.radius;
    if (driven_off || !ledge_holds()) let_go();
    return;
  }
  if (swims) return;
  const double reach = state.on_ground ? legs.clearance : 2 * skin;
  const Ground g = sense(state.position, looks_from(), reach, underfoot());
  const double rising = dot(state.velocity - g.velocity, state.up);
  if (state.on_ground) {
    const double take_off = tuning.jump.take_off_speed();
    const bool leaving = rising > 0.02 * take_off;
    const bool knocked = leaving && rising - std::max(state.leg_rise, held_rise(g)) > 0.15 * take_off;
    const double reach_down = state.crouched ? fold() : 0;  // m that folded legs can stretch
    const bool hops = leaving && g.distance > reach_down + 0.05 * legs.clearance;
    if (!g.walkable || knocked || hops) return leave_ground(!g.walkable);
    stand_on(g);
    room_below = feet_to_trunk() + g.distance, stood_with = g.velocity;
    return;
  }
  slid |= g.found && !g.walkable && g.distance <= 2 * skin;
  if (catches(g, state.velocity)) land(g, state.velocity);
}

/// Its legs take up the landing.
void ForcedWalker::Body::touch_down(const Ground& g, const Vec3&, double) {
  const Vec3 began = body.pose.position - state.up * forced.middle() + drawn_in;
  room_below = feet_to_trunk() + dot(began - (place() - g.velocity * now), state.up), stood_with = g.velocity;
}

/// Does it come down on `g` with the `velocity`, on legs that this may bend?
bool ForcedWalker::Body::catches(const Ground& g, const Vec3& velocity) const {
  const double rising = dot(velocity - g.velocity, state.up);
  const double soon = std::max(1e-9, std::min(held_rise(g), strength * dt));  // m/s that it has lost by the next tick
  // What is solid from one side only carries what was above it a tick ago.
  const double above = g.one_way ? std::max(0.0, -rising) * dt + 4 * skin : looks_from();
  return g.walkable && rising <= soon && g.distance <= 2 * skin && -g.distance <= above;
}

void ForcedWalker::Body::stand_on(const Ground& g) {
  if (g.body != state.footing.body) state.footing = {g.body, {}, {}};
  state.ground = g;
  state.on_ground = true;
}

/// As far as walls let it: along them, where it runs into some.
Vec3 ForcedWalker::Body::reached(const Vec3& from) const {
  Vec3 at = from, rest = state.position - from;
  for (int wall = 0; wall < 3; ++wall) {
    const auto hit = surroundings.sweep(trunk(at, feet_to_trunk()).view(), rest, solids());
    if (!hit) return at + rest;
    const double share = backed_off(*hit, rest);
    at += rest * share;
    rest = in_plane(rest * (1 - share), hit->normal);
  }
  return at;
}

/// A ground that turns takes it along on an arc, so that it ends with the velocity of the ground where it then is.
void ForcedWalker::Body::go_round(const Vec3& start) {
  const BodyFacts under = surroundings.facts(state.ground.body);
  if (under.spin == Vec3{}) return;
  const Quat turn = rotation(under.spin * ridden);
  const Vec3 arm = state.ground.point - under.centre, round = cross(under.spin, arm);
  const Vec3 gained = cross(under.spin, state.position - start - state.ground.velocity * ridden);  // by its own way
  state.position += in_plane(rotate(turn, arm) - arm - round * ridden + gained * (0.5 * ridden), state.up);
  state.velocity += in_plane(rotate(turn, round) - round + gained, state.up);
  state.facing = normalised(in_plane(rotate(turn, state.facing), state.up), state.facing);
}

void ForcedWalker::Body::finish(const Vec3& start) {
  see_from({});
  const Vec3 from = start + drawn_in;  // the trunk went nowhere as the soles came up to it
  if (state.on_ground && ridden > 0) go_round(from);
  const Vec3 displacement = state.position - from;
  const bool moves_in_hold = state.ledge.hold == Hold::settling || state.ledge.hold == Hold::climbing;
  bring(displacement - answered_way, (moves_in_hold ? displacement / dt : state.velocity) - answered);
  note_push();
  if (borne > 0) press(state.up * (-borne * tuning.push.weight / dt));
  state.held_back = state.on_ground && barriers.size() > 0;
  state.leg_rise = state.on_ground ? dot(state.velocity - state.ground.velocity, state.up) : 0;
  stand_upright();
}

/// m that it is to rise in this tick instead of `rise`, to come to `end` (m/s) upwards. Who jumps as the tick ends
/// would go down before, since one force takes it there, and be thrown up by the ground. From u to v in T it goes down
/// by u² T / 2 (v - u), where u < 0; with that as the most, m: u = -m/T - √(m²/T² + 2 m v / T).
double ForcedWalker::Body::clear_of_ground(double rise, double end) const {
  const double with = dot(stood_with, state.up), leaves = end - with, begins = 2 * (rise / dt - with) - leaves;
  if (room_below == endless || begins >= 0 || leaves <= 0) return rise;
  const double most = std::max(room_below - 4 * skin, skin), down = begins * begins * dt / (2 * (leaves - begins));
  if (down <= most) return rise;
  const double slower = -most / dt - std::sqrt(most * most / (dt * dt) + 2 * most * leaves / dt);
  return (0.5 * (slower + leaves) + with) * dt;
}

/// The impulse and the force that take the body along `displacement` (m) to the velocity `end` within this tick. Into a
/// wall that it dashes into it goes on: what was to stop it there would throw it back, as it touches a hair before.
void ForcedWalker::Body::bring(Vec3 displacement, Vec3 end) {
  displacement += dashed_into * (dashed_with * dt - dot(displacement, dashed_into));
  end += dashed_into * (dashed_with - dot(end, dashed_into));
  const double rise = dot(displacement, state.up);
  displacement += state.up * (clear_of_ground(rise, dot(end, state.up)) - rise);
  const auto [at_once, acceleration] = going(displacement, body.velocity, end, dt);
  surroundings.push(id, at_once * body.mass, body.centre);
  surroundings.force(id, (acceleration + state.up * strength) * body.mass + state.up * (loaded / dt), body.centre);
}

/// Back upright, critically damped, by a limited torque; it turns about up with nothing but that. A load that it knows
/// of bends it, and leaves no turning behind that would carry off who stands on its head.
void ForcedWalker::Body::stand_upright() {
  const Vec3 own_up = rotate(body.pose.orientation, {0, 1, 0});
  const Sym3 inertia = body.inertia();
  const Vec3 torque = in_plane(body.torque, state.up);
  const Vec3& spin = body.spin;
  const auto [way, then] =
      settled(-turn_between(own_up, state.up), spin, legs.balance, body.inverse_inertia * torque, dt);
  const auto [at_once, acceleration] = going(way, spin, then, dt);
  const Vec3 impulse = inertia * at_once, turn = inertia * acceleration - torque;
  const double most = legs.balance_torque * dt, size = std::max(norm(impulse), norm(impulse + turn * dt));
  const double share = size > most ? most / size : 1;
  surroundings.twist(id, impulse * share);
  surroundings.torque(id, turn * share);
}

}  // namespace jugend
