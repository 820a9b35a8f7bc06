// A walker on a ledge: caught, hung from, climbed, let go of.
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/brain_tick.hpp>

namespace jugend {

WalkerBrain::Tick::FlightPart WalkerBrain::Tick::begin_part(const FlightPlan& plan) const {
  const bool free = !thrown() && !dashing() && state.passing <= 0 && own_path() != OwnPath::whole;
  return {place(), plan.velocity, plan.acceleration, now, tuning.ledge.on && free};
}

/// Falling past an edge with input towards it, in the part of a flight that ends now. On a deck as on land: what moves
/// with it is looked for first, then what stands still.
void WalkerBrain::Tick::catch_ledge(const FlightPart& part) {
  const bool falls = part.may_catch && !state.on_ground && !swims && dot(state.velocity - frame, state.up) < 0;
  if (!falls || norm(in_plane(intent.move, state.up)) < 0.3 || now - part.begin < instant) return;
  const Vec3 of_deck = frame;
  if (catch_ledge(part, solids()) || of_deck == Vec3{}) return;
  see_from({});
  Filter still = solids();
  still.still_only = true;
  if (!catch_ledge(part, still)) see_from(of_deck);
}

bool WalkerBrain::Tick::catch_ledge(const FlightPart& part, const Filter& those) {
  const LedgeTuning& l = tuning.ledge;
  const Vec3& up = state.up;
  const Vec3 towards = normalised(in_plane(intent.move, up)), start = part.start - frame * part.begin;
  const double spent = now - part.begin;
  const auto seen = [&](double t) { return start + (part.velocity - frame) * t + part.acceleration * (0.5 * t * t); };
  const Vec3 held_up = (reached(start) - seen(spent)) / spent;  // m/s that walls took from it
  const auto feet = [&](double t) { return seen(t) + held_up * t; };
  const auto found = [&](double t, double fallen) {
    return find_ledge({feet(t), up, tuning.body.radius}, towards, fallen, l, surroundings, those);
  };
  const double fallen = dot(start - feet(spent), up);
  if (fallen <= 0) return false;
  auto ledge = found(spent, fallen);
  if (!ledge) return false;
  // The hands come down to its top, to within what they may be off, in a part of that time; and come within reach
  // before or in that.
  const Climber hands{start + up * l.hand_height, up, tuning.body.radius};
  const Vec3 n = ledge->top_normal / dot(ledge->top_normal, up);
  const double above = dot(hands.feet + towards * hands.ahead(l) - ledge->top, n), off = 0.999 * hands.slack();
  const auto down_to = [&](double height) {
    if (above <= height) return 0.0;
    const double time = first_root_within(0.5 * dot(part.acceleration, n), dot(part.velocity - frame + held_up, n),
                                          above - height, spent);
    return time >= 0 ? time : spent;
  };
  const double delay = l.drop_delay - 1e-9 - state.ledge.since_drop - part.begin;
  const double first = std::max(down_to(off), delay), last = down_to(-off);
  if (first > last) return false;
  double at = first;
  ledge = found(first, 0);
  if (!ledge) {
    if (!found(last, 0)) return false;
    at = where_it_ends(first, last, 30, [&](double t) { return !found(t, 0); }).after;
    ledge = found(at, 0);
  }
  const Vec3 hang = ledge->edge - up * l.hand_height + ledge->out * (tuning.body.radius + skin + touch_margin());
  if (!room_for(hang, feet_to_trunk(), height())) return false;
  const BodyFacts facts = surroundings.facts(ledge->body);
  if (facts.mass > 0 && facts.mass < 2 * tuning.body.mass) return false;  // too light to hang from
  state.position = feet(at), now = part.begin + at;
  state.ledge = caught(*ledge, facts.pose, state.position, hang);
  state.ledge.time = dt - now;
  state.dash.left = state.launch.left = 0;
  state.wall.sliding = false;
  jump.fall();
  jump.state.since_ground = long_ago;
  emit(WalkerEventKind::ledge_caught, dot(ledge->edge, up), ledge->body);
  now = dt;
  place_on_ledge();
  return true;
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
  const double left = tuning.ledge.climb_time - l.time;  // s of the climb
  if (l.hold == Hold::climbing && left <= dt + 1e-9) {
    now = std::clamp(left, 0.0, dt);
    end_climb(facts);
    return false;
  }
  l.time += dt;
  place_on_ledge();
  now = dt;
  if (l.hold == Hold::settling && l.time >= tuning.ledge.settle_time - 1e-9) l.hold = Hold::hanging;
  return true;
}

/// As seen from what was climbed; the rest of the tick it runs on there.
void WalkerBrain::Tick::end_climb(const BodyFacts& held) {
  LedgeState& l = state.ledge;
  l.time = tuning.ledge.climb_time;
  state.position =
      to_world(held.pose, feet_in_hold(l, tuning.ledge, rotate(conjugate(held.pose.orientation), state.up)));
  state.velocity = frame = held.velocity_at(state.position);
  state.carried = in_plane(state.velocity, state.up);
  l.hold = Hold::free;
  l.since_drop = -now;
  emit(WalkerEventKind::climbed, tuning.ledge.climb_time, l.body);
  const Ground g = sense(state.position, std::max(4 * skin, feet_to_trunk()), footwork().step_height);
  if (!g.walkable) return;
  stand_on(g);
  jump.land(now);
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
    set_crouched(true);
  }
  l.top = to_local(pose, *top);
  l.hang = to_local(pose, state.position);
  l.hold = Hold::climbing;
  l.time = 0;
}

void WalkerBrain::Tick::let_go() {
  state.ledge.hold = Hold::free;
  state.ledge.since_drop = -now;
  state.on_ground = false;
  state.take_off = place();
  state.air_time = -now;
  emit(WalkerEventKind::ledge_left, 0, state.ledge.body);
}

}  // namespace jugend
