// What input, hits and what is at hand start in a forced walker's tick: jumps, dashes, launches, throws, walls, ledges.
#include <jugend/motion/walker/detail/forced_tick.hpp>

namespace jugend {

/// As of the swept walker, but told from where it is touched: contacts have taken the speeds already.
void ForcedWalker::Tick::feel_dangers() {
  if (walker.dangers == 0 || !stagger.vulnerable() || state.was_hit) return;
  Filter near = others;
  near.layers = walker.dangers;
  std::array<Overlap, 1> found;
  if (surroundings.overlaps(trunk(state.feet).view(), 8 * skin, found, near) == 0) return;
  const BodyFacts facts = surroundings.facts(found[0].body);
  Vec3 away = in_plane(body.pose.position - facts.pose.position, state.up);
  if (norm(away) < tuning.body.radius) away = facts.velocity;
  state.hit = {away, 0, 0, found[0].point};
  state.was_hit = true;
}

/// Where the soles come down on what can be stomped they bounce off.
bool ForcedWalker::Tick::stomp(const Ground& g, double rising) {
  if (walker.stompable == 0 || rising >= 0) return false;
  const BodyFacts facts = surroundings.facts(g.body);
  if (!(facts.layers & walker.stompable)) return false;
  const double bounce = intent.jump.held ? tuning.stagger.bounce_held : tuning.stagger.bounce;
  const Vec3 change = state.up * (tuning.jump.speed_for(bounce) - rising);
  if (facts.mass > 0)
    surroundings.push(g.body, kick_impulse(facts, change * -mass, g.point, state.up, tuning.kick.speed_cap), g.point);
  state.velocity += change;
  state.take_off = state.feet;
  state.rising = true;
  jump.refresh();
  jump.fall();
  events.push_back({WalkerEventKind::stomped, 0, state.feet, -rising, g.body});
  return true;
}

void ForcedWalker::Tick::feel_walls() {
  state.wall.sliding = false;
  if (tuning.wall.on <= 0 || state.on_ground || swims) return;
  const bool pushes = touch_wall(state.wall, tuning.wall, trunk(state.feet).view(), tuning.wall.reach + 4 * skin,
                                 intent.move, state.up, surroundings, others);
  state.wall.sliding = pushes && dot(state.velocity, state.up) < 0 && !dashing() && !thrown();
}

/// Falling past an edge in this tick with input towards it.
bool ForcedWalker::Tick::catch_ledge(const Vec3& way) {
  const LedgeTuning& l = tuning.ledge;
  const Vec3 towards = in_plane(intent.move, state.up);
  const double fallen = -dot(way, state.up);
  if (l.on <= 0 || state.on_ground || swims || thrown() || dashing() || fallen <= 0 || norm(towards) < 0.3 ||
      state.ledge.since_drop < l.drop_delay - 1e-9)
    return false;
  const Vec3 then = state.feet + way;
  const auto ledge =
      find_ledge({then, state.up, tuning.body.radius}, normalised(towards), fallen, l, surroundings, others);
  if (!ledge) return false;
  const BodyFacts facts = surroundings.facts(ledge->body);
  const Vec3 hang = ledge->edge - state.up * l.hand_height + ledge->out * (tuning.body.radius + 4 * skin);
  if ((facts.mass > 0 && facts.mass < 2 * mass) || !room_for(hang)) return false;
  state.ledge = caught(*ledge, facts.pose, state.feet, hang);
  state.launch.left = 0;
  jump.fall();
  jump.state.since_ground = 1e9;
  events.push_back({WalkerEventKind::ledge_caught, 0, state.feet, dot(ledge->edge, state.up), ledge->body});
  follow_hold();
  return true;
}

/// To where the hold will have it at the tick's end, on the body as it will be then.
void ForcedWalker::Tick::follow_hold() {
  LedgeState& l = state.ledge;
  l.time += dt;
  const BodyFacts facts = surroundings.facts(l.body);
  const Pose then = advanced(facts.pose, facts.velocity, facts.spin, dt);
  const Vec3 local = feet_in_hold(l, tuning.ledge, rotate(conjugate(facts.pose.orientation), state.up));
  const Vec3 goal = to_world(then, local);
  const bool moving = l.hold != Hold::hanging;
  const Vec3 way = goal - state.feet, end = moving ? way / dt : facts.velocity_at(goal);
  bring(way, end);
  state.carried = in_plane(facts.velocity_at(goal), state.up);
  state.facing = normalised(in_plane(rotate(then.orientation, -l.out), state.up), state.facing);
  if (facts.mass > 0)
    surroundings.force(l.body, state.up * (-mass * strength * tuning.push.weight), to_world(facts.pose, l.edge));
  if (l.hold == Hold::settling && l.time >= tuning.ledge.settle_time - 1e-9) l.hold = Hold::hanging;
  if (l.hold == Hold::climbing && l.time >= tuning.ledge.climb_time - 1e-9) {
    l.hold = Hold::free;
    l.since_drop = 0;
    events.push_back({WalkerEventKind::climbed, 0, state.feet, tuning.ledge.climb_time, l.body});
  }
}

bool ForcedWalker::Tick::hold_on() {
  LedgeState& l = state.ledge;
  if (l.hold == Hold::free) return false;
  const Vec3 out = rotate(surroundings.facts(l.body).pose.orientation, l.out);
  const bool holds = std::abs(dot(out, state.up)) < 0.5 && intent.crouch.presses == 0 && !thrown();
  if (!holds) {
    let_go();
    return false;
  }
  if (l.hold != Hold::climbing && jump.wanted() && jump.ask(JumpFrom::ledge)) {
    if (dot(in_plane(intent.move, state.up), state.facing) > 0.3) begin_climb();
    if (l.hold != Hold::climbing) {
      let_go();
      return false;  // and jumps off, as act() sees
    }
    jump.state.since_press = 1e9;
  }
  follow_hold();
  return true;
}

void ForcedWalker::Tick::begin_climb() {
  LedgeState& l = state.ledge;
  const Pose pose = surroundings.facts(l.body).pose;
  const auto top = stand_above(to_world(pose, l.edge), state.facing, state.up, tuning.body.radius, skin, tuning.ground,
                               surroundings, others);
  if (!top || !room_for(*top)) return;
  l.top = to_local(pose, *top);
  l.hang = to_local(pose, state.feet);
  l.hold = Hold::climbing;
  l.time = 0;
}

void ForcedWalker::Tick::let_go() {
  state.ledge.hold = Hold::free;
  state.ledge.since_drop = 0;
  state.on_ground = false;
  state.take_off = state.feet;
  state.air_time = 0;
  state.velocity = state.carried;
  emit(WalkerEventKind::ledge_left);
  left_hold = true;
}

void ForcedWalker::Tick::leave() {
  state.on_ground = false;
  const Vec3 ground = state.ground.velocity, level = in_plane(ground, state.up);
  state.velocity -= level * (1 - tuning.carry.level) + (ground - level) * (1 - tuning.carry.rise);
  state.carried = level * tuning.carry.level;
  state.take_off = state.feet;
  state.air_time = 0;
  emit(WalkerEventKind::left_ground);
}

void ForcedWalker::Tick::feel_hit() {
  if (!stagger.vulnerable()) return;
  if (state.ledge.hold != Hold::free) let_go();
  const Vec3 axis = normalised(in_plane(state.hit.away, state.up), -state.facing);
  const Vec3 with = state.on_ground ? state.ground.velocity : state.carried;
  const double speed = stagger.begin(state.hit, axis, mass);
  state.dash.left = state.launch.left = 0;
  const double rising = dot(state.velocity - with, state.up);
  const double hop = tuning.stagger.hop > 0 ? tuning.jump.speed_for(tuning.stagger.hop) : 0;
  if (state.on_ground && hop > 0) leave();
  state.rising |= hop > 0;
  state.velocity = with + axis * speed + state.up * std::max(rising, hop);
  const HitPlace place = place_of_hit(state.hit.at, state.feet, state.up, state.facing, tuning.body.height);
  events.push_back({WalkerEventKind::hit, 0, state.feet, speed, {}, JumpFrom::nowhere, place});
}

/// Legs folded: as low as they go.
void ForcedWalker::Tick::crouch() {
  if (intent.crouch.held && state.on_ground) state.crouched = true;
  state.cramped = state.crouched && state.on_ground && !room_to_stand();
  if (!intent.crouch.held && !state.cramped) state.crouched = false;
}

JumpFrom ForcedWalker::Tick::at_hand() const {
  if (left_hold) return JumpFrom::ledge;
  if (state.on_ground) return JumpFrom::ground;
  if (swims) return JumpFrom::water;
  const bool wall = tuning.wall.on > 0 && state.wall.since_touch <= tuning.wall.grace + Jump::slack;
  if (wall && state.jump.since_ground > tuning.jump.coyote_time + Jump::slack) return JumpFrom::wall;
  return JumpFrom::nowhere;
}

void ForcedWalker::Tick::act() {
  crouch();
  const bool free = !thrown() && !dashing() && state.launch.left <= 1e-12;
  if (free && intent.dash.presses > 0 && Charges{tuning.dash.charge, state.dash.charge}.ask() == NoMove::none) {
    Charges{tuning.dash.charge, state.dash.charge}.use(0);
    const Vec3 way = dash_direction(tuning.dash, intent.move, state.facing, intent.aim, state.up);
    const Vec3 with = state.on_ground ? state.ground.velocity : state.carried;
    state.dash.left = tuning.dash.time;
    state.velocity = with + way * tuning.dash.speed();
    if (dot(way, state.up) > 0.05 && state.on_ground) leave(), state.rising = true;
    emit(WalkerEventKind::dashed, tuning.dash.speed());
    return;
  }
  if (free && intent.launch.presses > 0 && Charges{tuning.launch.charge, state.launch.charge}.ask() == NoMove::none) {
    Charges{tuning.launch.charge, state.launch.charge}.use(0);
    const LaunchTuning& l = tuning.launch;
    take_off(l.time > 0 ? l.speed : tuning.jump.speed_for(l.height), JumpFrom::nowhere);
    state.launch.left = l.time;
    jump.state.since_ground = 1e9;
    emit(WalkerEventKind::launched, dot(state.velocity, state.up));
    return;
  }
  if (!free || !jump.wanted() || (swims && state.under >= 1) || state.cramped) return;
  const JumpAnswer answer = jump.ask(at_hand());
  if (!answer) return;
  state.crouched = false;
  const bool grounded = answer.from == JumpFrom::ground || answer.from == JumpFrom::edge;
  double speed = answer.from == JumpFrom::wall    ? tuning.jump.speed_for(tuning.wall.jump_height)
                 : answer.from == JumpFrom::water ? tuning.jump.speed_for(tuning.swim.jump_height)
                                                  : jump.speed(answer.from, grounded ? state.ground.surface.jump : 1);
  if (answer.from == JumpFrom::wall) {
    const Vec3 n = state.wall.normal, rise = state.up * dot(state.velocity, state.up);
    state.velocity = in_plane(in_plane(state.velocity, state.up), n) + n * tuning.wall.jump_away + rise;
    state.wall.since_jump = 0, state.wall.since_touch = 1e9;
    state.wall.sliding = false;
  }
  swims = false;
  if (state.on_ground) speed = tuning.carry.take_off(speed, dot(state.ground.velocity, state.up));
  events.push_back({WalkerEventKind::jumped, 0, state.feet, speed, {}, answer.from, {}});
  take_off(speed, answer.from);
  jump.take_off(answer.from, 0, intent.jump.held);
}

/// Upwards with `speed`; the body below gets the answer.
void ForcedWalker::Tick::take_off(double speed, JumpFrom from) {
  const Vec3 before = state.velocity;
  const bool answered = from == JumpFrom::ground || from == JumpFrom::edge || state.on_ground;
  if (state.on_ground || from == JumpFrom::edge) leave();
  state.take_off = state.feet;
  const double rising = dot(state.velocity, state.up);
  state.velocity += state.up * ((from == JumpFrom::ground ? speed : std::max(speed, rising)) - rising);
  state.rising = true;
  if (!answered || tuning.kick.fraction <= 0) return;
  const BodyFacts facts = surroundings.facts(state.footing.body);
  if (facts.mass <= 0) return;
  const Vec3 at = to_world(facts.pose, state.footing.local);
  const Vec3 given = ((state.velocity - before) * mass + state.footing.momentum) * -tuning.kick.fraction;
  const Vec3 kick = kick_impulse(facts, given, at, state.up, tuning.kick.speed_cap);
  surroundings.push(state.footing.body, kick, at);
  state.footing.momentum = {};
  events.push_back({WalkerEventKind::kicked, 0, state.feet, norm(kick) / facts.mass, state.footing.body});
}

}  // namespace jugend
