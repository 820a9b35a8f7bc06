// Where a swept walker stands, what has moved into it, and what bears it.
#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/walker/detail/swept_body.hpp>

namespace jugend {

void Walker::step(const WalkerIntent& intent, Surroundings& surroundings, double dt) {
  if (!(dt > 0)) return;
  events_.clear();
  const WalkerIntent asked = made_finite(intent);
  Body(*this, asked, surroundings, dt).run();
}

void Walker::add_velocity(const Vec3& change) {
  const double into = state_.on_ground ? std::min(0.0, dot(change, state_.ground.normal)) : 0;
  state_.velocity += change - state_.ground.normal * into;
}

bool Walker::be_carried(Surroundings& surroundings) { return Body(*this, {}, surroundings, 0).ride(false); }

void Walker::settle(Surroundings& surroundings, double dt) {
  Body tick(*this, {}, surroundings, dt);
  tick.now = dt;
  tick.face_gravity();
  if (state_.placed) {
    tick.stand_where_placed();
    state_.placed = !state_.on_ground;  // what bears it may still be put there
    tick.choose_mode();
  }
  tick.settle();
}

bool Walker::Body::begin() {
  leans = state.held_back || state.pushed.goes_on();
  face_gravity();
  if (!state.settled) settle();
  state.settled = false;
  return true;
}

/// What other things did while the world moved.
void Walker::Body::settle() {
  state.settled = true;
  ride(true);
  if (state.ledge.hold != Hold::free) {
    place_on_ledge();
    if (ledge_holds()) return;
    let_go();
  }
  if (state.on_ground && state.ground.moving) {
    const double lift = clear_of_steps();
    const Ground g = sense(state.position, lift, lift);
    if (g.walkable) {
      state.velocity += g.velocity - state.ground.velocity;
      stand_on(g);
    }
  }
  if (walker.dangers != 0) feel_dangers();  // before the two exchange speeds
  if (!state.on_ground) land_on_what_rose();
  leave_solids();
}

/// One-way ground that rises past its feet carries it, if they were above it before it rose: an overlap alone cannot
/// tell that from a body on its way up through it.
void Walker::Body::land_on_what_rose() {
  if (state.passing > 0 || swims) return;
  const Ground g = sense(state.position, 0.5 * height(), 0);
  const double rise = dot(g.velocity, state.up);
  if (!g.walkable || !g.one_way || rise <= 0 || dot(state.velocity, state.up) >= rise) return;
  const double under = -g.distance;
  if (under > 0 && under <= rise * dt + 2 * skin) land(g, state.velocity);
}

/// Something that moved may have come to overlap the body: step out of it, and take on or give speed as two
/// bodies that meet do. Two walkers each step aside by the share that is not the other's.
void Walker::Body::leave_solids() {
  Filter left = solids();
  for (int round = 0; round < 4; ++round) {
    std::array<Overlap, 8> found;
    const UprightCapsule body = trunk(state.position, clear_of_steps());
    const std::size_t n = std::min(found.size(), surroundings.overlaps(body.view(), 0, found, left));
    if (n == 0) return;
    const Overlap& deepest = *std::max_element(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(n),
                                               [](const Overlap& a, const Overlap& b) { return a.depth < b.depth; });
    const BodyFacts other = surroundings.facts(deepest.body);
    const bool steps_aside = (other.layers & walker_layer::swept) != 0;
    push_out(deepest, other.mass > 0, steps_aside ? other.mass / (other.mass + tuning.body.mass) : 1);
    exchange_speed(deepest, other);
    if (steps_aside) left.layers &= ~walker_layer::swept;  // the rest is theirs
    if (round == 3) emit(WalkerEventKind::squeezed, deepest.depth, deepest.body);
  }
}

/// What nothing stops drives it into what can give way.
void Walker::Body::push_out(const Overlap& deepest, bool by_movable, double share) {
  Vec3 out = deepest.normal;
  // It keeps its feet on the ground, and comes out from under a roof to where that is higher above the ground.
  const bool roof = dot(out, state.up) < -0.05;
  const Vec3 level = roof ? opening(out, state.ground.touch_normal) : in_plane(out, state.up);
  if (state.on_ground && norm(level) > (roof ? 0.1 : 0.5)) out = level / squared_norm(level);
  const Vec3 displacement = out * (share * (deepest.depth + 0.5 * skin));
  Filter others = solids();
  others.ignored = deepest.body;
  // Along what is in the way, and along the crease of two such, as far as that leads out.
  Vec3 rest = displacement, first;
  for (int wall = 0; wall < 3; ++wall) {
    auto blocked = surroundings.sweep(trunk(state.position, clear_of_steps()).view(), rest, others);
    if (blocked && !by_movable && surroundings.facts(blocked->body).mass > 0) {
      others.passed = blocked->body;
      blocked = surroundings.sweep(trunk(state.position, clear_of_steps()).view(), rest, others);
    }
    const double free = blocked ? backed_off(*blocked, rest) : 1;
    state.position += rest * free;
    if (!blocked) return;
    rest *= 1 - free;
    const Vec3& n = blocked->normal;
    const Vec3 crease = normalised(cross(first, n));
    const Vec3 along = wall == 0 ? in_plane(rest, n) : crease * dot(crease, rest);
    if (squared_norm(along) <= 0.01 * squared_norm(rest)) return;
    rest = along * (squared_norm(rest) / squared_norm(along));
    first = n;
  }
}

void Walker::Body::exchange_speed(const Overlap& deepest, const BodyFacts& facts) {
  Vec3 n = deepest.normal;
  if (state.on_ground) n = normalised(in_plane(n, state.up));
  const double closing = dot(facts.velocity_at(deepest.point) - state.velocity, n);
  if (closing <= 1e-9 || !facts.moving) return;
  const double given = facts.inverse_mass_at(deepest.point, n), own = 1 / tuning.body.mass;
  const double impulse = closing / (own + given);
  const bool from_below = dot(deepest.normal, state.up) > same_bits::cos(tuning.ground.slope_limit);
  if (facts.mass > 0) surroundings.push(deepest.body, n * -impulse, deepest.point);
  if (from_below && !state.on_ground) {
    if (const Ground g = sense(state.position, 4 * skin, 4 * skin); g.walkable) {
      land(g, state.velocity);  // ground that rose faster than it fell
      if (dot(state.velocity - state.ground.velocity, state.up) > 0) state.velocity = state.ground.velocity;
      return;
    }
  }
  state.velocity += n * (impulse * own);
}

void Walker::Body::refresh_ground() {
  if (state.ledge.hold == Hold::free) frame = carrier();
  if (!state.on_ground) return;
  const Vec3 relative = state.velocity - state.ground.velocity;
  const double thrown_off = 0.02 * tuning.jump.take_off_speed();
  if (dot(relative, state.ground.normal) > thrown_off) return leave_ground(false);
  Ground g = sense(state.position, tuning.ground.step_height, tuning.ground.step_height);
  // What is too steep and only beside it, where it came down, does not take away what it stands on.
  if (!g.walkable && g.distance < 0) g = sense(state.position, 4 * skin, tuning.ground.step_height);
  if (!g.walkable) return leave_ground(true);
  stand_on(g);
  frame = g.velocity;
  state.velocity = relative + g.velocity;
}

void Walker::Body::stand_on(const Ground& g) {
  state.position -= state.up * g.distance;
  if (g.body != state.footing.body) state.footing = {g.body, {}, {}};
  state.ground = g;
  state.ground.distance = 0;
  state.on_ground = true;
}

void Walker::Body::touch_down(const Ground& g, const Vec3& relative, double impact) {
  withheld = {};
  if (g.mass > 0 && impact > 0) {
    const BodyFacts facts = surroundings.facts(g.body);
    const double impulse = impact / (1 / tuning.body.mass + facts.inverse_mass_at(g.point, state.up));
    surroundings.push(g.body, kick_impulse(facts, state.up * -impulse, g.point, state.up, tuning.kick.speed_cap),
                      g.point);
  }
  state.velocity = g.velocity + tilted(in_plane(relative, state.up), g.normal, state.up);
}

void Walker::Body::finish(const Vec3&) {
  state.velocity += velocity_over(withheld);
  close_up();
  if (state.on_ground) ridden += dt - now;  // held by walls
  if (state.on_ground && ridden > 0)        // its weight lies on what it stands on
    press(state.up * (-tuning.body.mass * strength * tuning.push.weight * ridden / dt));
  state.held_back = (state.on_ground ? barriers : contacts).size() > 0;
  now = dt;
  if (!state.on_ground) see_from({});
  board();
}

/// Where it stands on a body, before the world moves that.
void Walker::Body::board() {
  state.ride = {};
  if (!state.on_ground || !state.ground.moving) return;
  const BodyFacts facts = surroundings.facts(state.ground.body);
  const Vec3 belt = rotate(facts.pose.orientation, facts.surface.belt) * dt;
  state.ride = {state.ground.body,
                to_local(facts.pose, state.position + belt),
                rotate(conjugate(facts.pose.orientation), state.facing),
                {}};
}

/// Carried by where the world has moved that body, turns included, but not through walls. Asked again it is carried by
/// where the body is by then: it may be a walker who is carried as well. The last time counts; did it move it?
bool Walker::Body::ride(bool last) {
  if (!state.ride.body) return false;
  const Ride ridden_so_far = state.ride;
  const auto& [body, local, ahead, done] = ridden_so_far;
  const Vec3 start = state.position - done;
  const BodyFacts facts = surroundings.facts(body);
  if (!last && done != Vec3{} && !(facts.layers & walker_layer::swept))
    return false;  // that has moved once and for all
  const Pose& pose = facts.pose;
  Vec3 displacement = to_world(pose, local) - start;
  if (displacement != Vec3{}) {
    Filter others = solids();
    others.ignored = body;
    others.still_only = true;  // what moves has moved already, or is carried too: leave_solids() sees to it
    const auto hit = surroundings.sweep(trunk(start, tuning.ground.step_height).view(), displacement, others);
    if (hit && last) emit(WalkerEventKind::squeezed, norm(displacement) * (1 - hit->distance), hit->body);
    if (hit) displacement *= backed_off(*hit, displacement);
    state.facing = normalised(in_plane(rotate(pose.orientation, ahead), state.up), state.facing);
  }
  state.position = start + displacement;
  state.ride.done = displacement;
  if (last) state.ride = {};
  return displacement != done;
}

}  // namespace jugend
