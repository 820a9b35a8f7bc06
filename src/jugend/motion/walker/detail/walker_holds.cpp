// A walker that something holds: a ledge under its hands, water around it.
#include <jugend/motion/walker/detail/walker_tick.hpp>

namespace jugend {

// Ledges

/// Falling past an edge with input towards it.
void Walker::Tick::catch_ledge(const Vec3& from) {
  const LedgeTuning& l = tuning.ledge;
  if (l.on <= 0 || state.ledge.since_drop < l.drop_delay - 1e-9 || thrown() || dashing() || state.passing > 0) return;
  const Vec3 towards = in_plane(intent.move, state.up);
  const double fallen = dot(from - state.position, state.up);
  if (fallen <= 0 || norm(towards) < 0.3) return;
  const auto ledge = find_ledge({state.position, state.up, tuning.body.radius}, normalised(towards), fallen, l,
                                surroundings, solids());
  if (!ledge) return;
  const Vec3 hang = ledge->edge - state.up * l.hand_height + ledge->out * (tuning.body.radius + 2 * skin);
  if (!room_for(hang, 0, height())) return;
  const BodyFacts facts = surroundings.facts(ledge->body);
  if (facts.mass > 0 && facts.mass < 2 * tuning.body.mass) return;  // too light to hang from
  state.ledge = caught(*ledge, facts.pose, state.position, hang);
  state.dash.left = state.launch.left = 0;
  state.wall.sliding = false;
  jump.fall();
  jump.state.since_ground = 1e9;
  now = dt;
  emit(WalkerEventKind::ledge_caught, dot(ledge->edge, state.up), ledge->body);
  place_on_ledge();
}

/// Where the hold has it now, on the body as it is now.
void Walker::Tick::place_on_ledge() {
  const LedgeState& l = state.ledge;
  const BodyFacts facts = surroundings.facts(l.body);
  const Vec3 local = feet_in_hold(l, tuning.ledge, rotate(conjugate(facts.pose.orientation), state.up));
  state.position = to_world(facts.pose, local);
  state.velocity = facts.velocity_at(state.position);
  state.carried = in_plane(state.velocity, state.up);
  state.facing = normalised(in_plane(rotate(facts.pose.orientation, -l.out), state.up), state.facing);
}

/// Is it still a ledge that it holds: upright, and with room for the body? It may have turned, and others come.
bool Walker::Tick::ledge_holds() const {
  const LedgeState& l = state.ledge;
  const BodyFacts facts = surroundings.facts(l.body);
  const Vec3 out = rotate(facts.pose.orientation, l.out);
  return std::abs(dot(out, state.up)) < 0.5 && room_for(state.position, 0, height());
}

/// A tick on a ledge; false where it has none, or leaves it in this tick.
bool Walker::Tick::hold_on() {
  LedgeState& l = state.ledge;
  if (l.hold == Hold::free) return false;
  if (surroundings.facts(l.body).mass > 0) {  // it hangs with its weight
    const double weight = tuning.body.mass * gravity_ratio * standard_gravity * tuning.push.weight;
    surroundings.force(l.body, state.up * -weight, to_world(surroundings.facts(l.body).pose, l.edge));
  }
  if (l.hold != Hold::climbing) {
    place_on_ledge();
    if (intent.crouch.presses > 0) {
      let_go();
      return false;
    }
    if (jump.wanted() && jump.ask(JumpFrom::ledge)) {
      if (dot(in_plane(intent.move, state.up), state.facing) > 0.3) begin_climb();
      if (l.hold != Hold::climbing) {
        let_go();
        jump_from(JumpFrom::ledge);
        return false;
      }
      jump.state.since_press = 1e9;
    }
  }
  l.time += dt;
  place_on_ledge();
  if (l.hold == Hold::settling && l.time >= tuning.ledge.settle_time - 1e-9) l.hold = Hold::hanging;
  if (l.hold == Hold::climbing && l.time >= tuning.ledge.climb_time - 1e-9) {
    const Ground g = sense(state.position, 4 * skin, tuning.ground.step_height);
    l.hold = Hold::free;
    l.since_drop = 0;
    now = dt;
    emit(WalkerEventKind::climbed, tuning.ledge.climb_time, l.body);
    if (g.walkable) {
      settle_on(g);
      jump.land(now);
      ridden = dt, ridden_body = g.body;
    }
  }
  now = dt;
  return true;
}

/// Up on to the ledge, where there is ground and room to stand (or at least to crouch).
void Walker::Tick::begin_climb() {
  LedgeState& l = state.ledge;
  const Pose pose = surroundings.facts(l.body).pose;
  const auto top = stand_above(to_world(pose, l.edge), state.facing, state.up, tuning.body.radius, skin, tuning.ground,
                               surroundings, solids());
  if (!top) return;
  if (!room_for(*top, 2 * skin, tuning.body.height)) {
    if (!room_for(*top, 2 * skin, tuning.height(true))) return;
    state.crouched = true;
  }
  l.top = to_local(pose, *top);
  l.hang = to_local(pose, state.position);
  l.hold = Hold::climbing;
  l.time = 0;
}

void Walker::Tick::let_go() {
  state.ledge.hold = Hold::free;
  state.ledge.since_drop = 0;
  state.on_ground = false;
  state.take_off = state.position;
  state.air_time = -now;
  emit(WalkerEventKind::ledge_left, 0, state.ledge.body);
}

// Water

void Walker::Tick::feel_water() {
  Medium water = surroundings.medium(state.position + state.up * skin, state.up);
  water.depth += skin;
  const double before = state.under;
  state.under = water.density > 0 ? std::clamp(water.depth / height(), 0.0, 1.0) : 0;
  if (before == 0 && state.under > 0 && dot(state.velocity, state.up) < -0.5)
    emit(WalkerEventKind::splashed, -dot(state.velocity, state.up));
  swam = afloat() && state.ledge.hold == Hold::free && !dashing();
  if (!swam) return;
  if (state.on_ground) leave_ground(false);
  // A rising jump leaves the water.
  if (state.jump.rising || dot(state.velocity, state.up) > tuning.swim.rise_speed + 0.5) swam = state.under >= 1;
}

double Walker::Tick::swim_stretch(double time) {
  const Vec3& up = state.up;
  Medium water = surroundings.medium(state.position + up * skin, up);
  water.depth += skin;
  const double deep = state.under > 0 ? water.depth - tuning.swim.float_share * height() : 0;
  const auto [way, end] =
      swim(tuning.swim, {state.velocity, water.flow, intent.move, up, deep, intent.crouch.held}, time);
  const auto hit = surroundings.sweep(trunk(state.position, 0).view(), way, solids());
  if (!hit) {
    state.position += way;
    state.velocity = contacts.clip(end);
    return time;
  }
  const double share = backed_off(*hit, way);
  state.position += way * share;
  const double into = dot(end - surroundings.facts(hit->body).velocity_at(hit->point), hit->normal);
  state.velocity = end - hit->normal * std::min(0.0, into);
  // What is left of the way goes along what was met.
  const Vec3 rest = in_plane(way * (1 - share), hit->normal);
  const auto second = surroundings.sweep(trunk(state.position, 0).view(), rest, solids());
  state.position += second ? rest * backed_off(*second, rest) : rest;
  if (const Ground g = sense(state.position, skin, tuning.ground.probe);
      g.walkable && state.under < tuning.swim.float_share) {
    swam = false;
    land(g, state.velocity);
  }
  return time;
}

}  // namespace jugend
