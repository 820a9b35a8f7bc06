// A walker on a ledge: caught, hung from, climbed, let go of.
#include <jugend/motion/walker/detail/brain_tick.hpp>

namespace jugend {

/// Falling past an edge with input towards it.
void WalkerBrain::Tick::catch_ledge(const Vec3& from, const Filter& those) {
  const LedgeTuning& l = tuning.ledge;
  if (!l.on || state.ledge.since_drop < l.drop_delay - 1e-9 || thrown() || dashing() || state.passing > 0) return;
  const Vec3 towards = in_plane(intent.move, state.up);
  const Vec3 at = reached(from);
  const double fallen = dot(from - at, state.up);
  if (fallen <= 0 || norm(towards) < 0.3) return;
  const auto ledge =
      find_ledge({at, state.up, tuning.body.radius}, normalised(towards), fallen, l, surroundings, those);
  if (!ledge) return;
  const Vec3 hang = ledge->edge - state.up * l.hand_height + ledge->out * (tuning.body.radius + skin + touch_margin());
  if (!room_for(hang, feet_to_trunk(), height())) return;
  const BodyFacts facts = surroundings.facts(ledge->body);
  if (facts.mass > 0 && facts.mass < 2 * tuning.body.mass) return;  // too light to hang from
  state.ledge = caught(*ledge, facts.pose, at, hang);
  state.dash.left = state.launch.left = 0;
  state.wall.sliding = false;
  jump.fall();
  jump.state.since_ground = long_ago;
  now = dt;
  emit(WalkerEventKind::ledge_caught, dot(ledge->edge, state.up), ledge->body);
  place_on_ledge();
}

/// Where the hold has it, on the body as it is when that counts.
void WalkerBrain::Tick::place_on_ledge() {
  const LedgeState& l = state.ledge;
  const BodyFacts facts = surroundings.facts(l.body);
  const Pose pose = pose_held(facts);
  const Vec3 local = feet_in_hold(l, tuning.ledge, rotate(conjugate(pose.orientation), state.up));
  state.position = to_world(pose, local), frame = {};
  state.velocity = facts.velocity_at(state.position);
  state.carried = in_plane(state.velocity, state.up);
  state.facing = normalised(in_plane(rotate(pose.orientation, -l.out), state.up), state.facing);
}

/// Is it still a ledge that it holds: upright, and with room for the body? It may have turned, and others come. On what
/// it holds a dynamic body may lie closer than it hangs.
bool WalkerBrain::Tick::ledge_holds() const {
  const LedgeState& l = state.ledge;
  const Vec3 out = rotate(surroundings.facts(l.body).pose.orientation, l.out);
  const BodyId touches = feet_to_trunk() > 0 ? l.body : BodyId{};
  return std::abs(dot(out, state.up)) < 0.5 && room_for(state.position, feet_to_trunk(), height(), touches);
}

/// A tick on a ledge; false where it has none, or leaves it in this tick.
bool WalkerBrain::Tick::hold_on() {
  LedgeState& l = state.ledge;
  if (l.hold == Hold::free) return false;
  const BodyFacts facts = surroundings.facts(l.body);
  if (facts.mass > 0)  // it hangs with its weight
    surroundings.force(l.body, state.up * (-tuning.body.mass * strength * tuning.push.weight),
                       to_world(facts.pose, l.edge));
  if (l.hold != Hold::climbing) {
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
      jump.state.since_press = long_ago;
    }
  }
  l.time += dt;
  place_on_ledge();
  now = dt;
  if (l.hold == Hold::settling && l.time >= tuning.ledge.settle_time - 1e-9) l.hold = Hold::hanging;
  if (l.hold == Hold::climbing && l.time >= tuning.ledge.climb_time - 1e-9) end_climb();
  return true;
}

void WalkerBrain::Tick::end_climb() {
  LedgeState& l = state.ledge;
  l.hold = Hold::free;
  l.since_drop = 0;
  emit(WalkerEventKind::climbed, tuning.ledge.climb_time, l.body);
  const Ground g = sense(state.position, std::max(4 * skin, feet_to_trunk()), footwork().step_height);
  if (!g.walkable) return;
  stand_on(g);
  jump.land(now);
  ridden = dt;
}

/// Up on to the ledge, where there is ground and room to stand (or at least to crouch).
void WalkerBrain::Tick::begin_climb() {
  LedgeState& l = state.ledge;
  const Pose pose = surroundings.facts(l.body).pose;
  const auto top = stand_above(to_world(pose, l.edge), state.facing, state.up, tuning.body.radius, skin, footwork(),
                               surroundings, solids());
  if (!top) return;
  const double lift = std::max(2 * skin, feet_to_trunk());
  if (!room_for(*top, lift, tuning.body.height)) {
    if (!room_for(*top, lift, height(true))) return;
    state.crouched = true;
  }
  l.top = to_local(pose, *top);
  l.hang = to_local(pose, state.position);
  l.hold = Hold::climbing;
  l.time = 0;
}

void WalkerBrain::Tick::let_go() {
  state.ledge.hold = Hold::free;
  state.ledge.since_drop = 0;
  state.on_ground = false;
  state.take_off = place();
  state.air_time = -now;
  emit(WalkerEventKind::ledge_left, 0, state.ledge.body);
}

}  // namespace jugend
