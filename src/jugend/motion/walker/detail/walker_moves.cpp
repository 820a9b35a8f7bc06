// What input, hits and what is at hand start in a walker's tick: jumps, dashes, launches, throws, crouching.
#include <jugend/motion/walker/detail/walker_answers.hpp>
#include <jugend/motion/walker/detail/walker_tick.hpp>

namespace jugend {

void Walker::Tick::act() {
  crouch();
  if (intent.dash.presses > 0 && walker.can_dash() == NoMove::none) start_dash();
  if (intent.launch.presses > 0 && walker.can_launch() == NoMove::none) start_launch();
  const bool drop = intent.jump.presses > 0 && intent.crouch.held && state.on_ground && state.ground.one_way;
  if (drop) {
    state.passing = 0.12;  // s: by then the soles are below the surface, and what is inside it passes
    jump.state.since_press = 1e9;
    leave_ground(false);
    return;
  }
  try_jump();
}

Vec3 Walker::Tick::wish() const { return wished_velocity(state, tuning, intent.move, now); }

RunRamp Walker::Tick::next_ramp(const Vec3& velocity, const Vec3& target, const RunRates& at, double time) const {
  if (dashing()) return {time, {}, velocity};
  if (thrown()) return thrown_ramp(state.stagger, velocity, target, at, time);
  return next_run_ramp(velocity, target, at, time);
}

// Jumps

/// What a jump could start from here; `from` tells the ground, where it is that.
JumpFrom Walker::Tick::at_hand(Ground& from) const {
  if (state.on_ground || state.wedged) return JumpFrom::ground;
  if (swam) return JumpFrom::water;
  const bool wall = tuning.wall.on > 0 && state.wall.since_touch + now <= tuning.wall.grace + Jump::slack;
  if (wall && state.jump.since_ground + now > tuning.jump.coyote_time + Jump::slack) return JumpFrom::wall;
  // A hair above the ground, and not on the way up, counts as on it.
  if (dot(state.velocity - state.carried, state.up) <= 0 && tuning.jump.landing_lockout <= 0) {
    from = sense(state.position, skin, tuning.ground.probe);
    if (from.walkable) return JumpFrom::ground;
  }
  return JumpFrom::nowhere;
}

bool Walker::Tick::try_jump() {
  if (!jump.wanted(now) || dashing() || launched() || thrown()) return false;
  if (state.cramped) return false;
  if (swam && state.under >= 1) return false;  // only from the surface
  Ground from = state.ground;
  const JumpAnswer answer = jump.ask(at_hand(from), now);
  if (!answer) return false;
  state.crouched = false;
  if (answer.from == JumpFrom::ground) state.ground = from;
  jump_from(answer.from);
  return true;
}

void Walker::Tick::jump_from(JumpFrom from) {
  const Vec3 before = state.velocity;
  const bool grounded = from == JumpFrom::ground;
  const Vec3& up = state.up;
  if (grounded) remember_footing();
  const double share = grounded || from == JumpFrom::edge ? state.ground.surface.jump : 1;
  double wanted = from == JumpFrom::wall    ? tuning.jump.speed_for(tuning.wall.jump_height)
                  : from == JumpFrom::water ? tuning.jump.speed_for(tuning.swim.jump_height)
                                            : jump.speed(from, share);
  if (grounded) {
    const Vec3 ground = state.ground.velocity, relative = state.velocity - ground;
    const Vec3 level = in_plane(relative, up), ground_level = in_plane(ground, up);
    const double ground_rise = dot(ground, up);
    wanted = tuning.carry.take_off(wanted, ground_rise);
    // Up a slope, the jump must at least come off it: never into the ground that it leaves.
    const double rise = std::max(dot(state.ground.normal, up), 0.1);
    wanted = std::max(wanted, ground_rise + (0.1 * wanted - dot(level, state.ground.normal)) / rise);
    state.carried = ground_level * tuning.carry.level;
    state.velocity = state.carried + level + up * wanted;
  } else if (from == JumpFrom::wall) {
    const Vec3 n = state.wall.normal;
    state.velocity = in_plane(in_plane(state.velocity, up), n) + n * tuning.wall.jump_away + up * wanted;
    state.wall.since_jump = -now, state.wall.since_touch = 1e9;
    state.wall.sliding = false;
  } else {
    // What already rises faster goes on doing so.
    state.velocity = in_plane(state.velocity, up) + up * std::max(wanted, dot(state.velocity, up));
  }
  jump.take_off(from, now, intent.jump.held);
  state.on_ground = state.wedged = swam = false;
  events.push_back({WalkerEventKind::jumped, now, state.position, wanted, {}, from, {}});
  if (grounded || from == JumpFrom::edge) kick(state.footing.momentum + (state.velocity - before) * tuning.body.mass);
  if (from != JumpFrom::air) note_take_off();
  if (from == JumpFrom::air) state.take_off = state.position;
}

/// The answer of the body last stood on to the momentum that a take-off gave.
void Walker::Tick::kick(const Vec3& momentum) {
  const Footing& footing = state.footing;
  if (tuning.kick.fraction <= 0 || !footing.body) return;
  const BodyFacts facts = surroundings.facts(footing.body);
  if (facts.mass <= 0) return;
  const Vec3 at = to_world(facts.pose, footing.local);
  const Vec3 impulse = kick_impulse(facts, momentum * -tuning.kick.fraction, at, state.up, tuning.kick.speed_cap);
  surroundings.push(footing.body, impulse, at);
  emit(WalkerEventKind::kicked, norm(impulse) / facts.mass, footing.body);
  state.footing.momentum = {};
}

void Walker::Tick::remember_footing() {
  state.footing.body = state.ground.body;
  if (state.ground.mass > 0)
    state.footing.local = to_local(surroundings.facts(state.ground.body).pose, state.ground.point);
}

/// It walked off an edge, or was thrown off.
void Walker::Tick::leave_ground(bool walked) {
  remember_footing();
  state.on_ground = false;
  const Vec3 ground = state.ground.velocity, level = in_plane(ground, state.up);
  state.velocity -= level * (1 - tuning.carry.level) + (ground - level) * (1 - tuning.carry.rise);
  state.carried = level * tuning.carry.level;
  jump.leave_ground(now, walked);
  if (state.footing.momentum != Vec3{}) kick(state.footing.momentum);  // the push-off to the side
  note_take_off();
}

void Walker::Tick::note_take_off() {
  state.take_off = state.position;
  state.air_time = -now;  // the rest of this tick is added at its end
  emit(WalkerEventKind::left_ground);
}

// Dashes and launches

void Walker::Tick::start_dash() {
  const DashTuning& d = tuning.dash;
  Vec3 way = dash_direction(d, intent.move, state.facing, intent.aim, state.up);
  const double rise = dot(way, state.up);
  if (state.on_ground && rise < 0) way = normalised(in_plane(way, state.up), state.facing);
  Charges{d.charge, state.dash.charge}.use(now);
  state.dash.left = now + d.time;
  const Vec3 with = frame();
  if (state.on_ground && rise > 0.05) leave_ground(false);
  state.velocity = with + (state.on_ground ? tilted(way, state.ground.normal, state.up) : way) * d.speed();
  jump.fall();
  swam = false;
  emit(WalkerEventKind::dashed, d.speed());
}

/// The speed that remains. Gravity's part of it stays where gravity had one.
void Walker::Tick::end_dash() {
  state.dash.left = 0;
  const Vec3 own = state.velocity - frame();
  const Vec3 dashed = tuning.dash.gravity > 0 && !state.on_ground ? in_plane(own, state.up) : own;
  const double speed = norm(dashed);
  if (speed > tuning.dash.end_speed) state.velocity -= dashed * (1 - tuning.dash.end_speed / speed);
  emit(WalkerEventKind::dash_ended, std::min(speed, tuning.dash.end_speed));
}

void Walker::Tick::start_launch() {
  const LaunchTuning& l = tuning.launch;
  const Vec3 before = state.velocity;
  const double speed = l.time > 0 ? l.speed : tuning.jump.speed_for(l.height);
  Charges{l.charge, state.launch.charge}.use(now);
  state.launch.left = l.time > 0 ? now + l.time : 0;
  const bool grounded = state.on_ground;
  if (grounded) leave_ground(false);
  state.velocity = in_plane(state.velocity, state.up) + state.up * speed;
  if (grounded) kick((state.velocity - before) * tuning.body.mass);
  state.take_off = state.position;
  jump.fall();
  jump.state.since_ground = 1e9;
  swam = false;
  emit(WalkerEventKind::launched, speed);
}

void Walker::Tick::crouch() {
  const bool wanted = intent.crouch.held && tuning.height(true) < tuning.body.height;
  if (wanted && state.on_ground) state.crouched = true;
  const double lift = state.on_ground ? tuning.ground.step_height : 0;
  state.cramped = state.crouched && !room_for(state.position, lift, tuning.body.height);
  if (!wanted && !state.cramped) state.crouched = false;
}

// Hits

/// Its own way along the level ends, and the throw takes its place; the motion of what it rides goes on, and so does
/// a rise.
bool Walker::Tick::feel_hit(const HitBy& hit) {
  if (!stagger.vulnerable()) return false;
  if (state.ledge.hold != Hold::free) let_go();
  const Vec3 axis = normalised(in_plane(hit.away, state.up), -state.facing);
  const Vec3 with = frame();
  const double speed = stagger.begin(hit, axis, tuning.body.mass);
  state.dash.left = state.launch.left = 0;
  const double rising = state.on_ground ? 0 : dot(state.velocity - with, state.up);
  const double hop = tuning.stagger.hop > 0 ? tuning.jump.speed_for(tuning.stagger.hop) : 0;
  if (state.on_ground && hop > 0) leave_ground(false);
  state.velocity = with + axis * speed + state.up * std::max(rising, hop);
  jump.fall();
  const HitPlace place = place_of_hit(hit.at, state.position, state.up, state.facing, height());
  events.push_back({WalkerEventKind::hit, now, state.position, speed, {}, JumpFrom::nowhere, place});
  return true;
}

/// Falling on to what can be stomped bounces off it.
bool Walker::Tick::stomp(const BodyFacts& facts, const Hit& hit, const Vec3& relative) {
  const bool from_above = dot(hit.normal, state.up) > 0.5 && dot(relative, state.up) < -1e-6 && !state.on_ground;
  if (!(facts.layers & walker.stompable) || !from_above) return false;
  const double bounce = intent.jump.held ? tuning.stagger.bounce_held : tuning.stagger.bounce;
  const double down = -dot(relative, state.up);
  const Vec3 before = state.velocity;
  state.velocity += state.up * (down + tuning.jump.speed_for(bounce));
  if (facts.mass > 0) {
    const Vec3 given = (state.velocity - before) * -tuning.body.mass;
    surroundings.push(hit.body, kick_impulse(facts, given, hit.point, state.up, tuning.kick.speed_cap), hit.point);
  }
  state.take_off = state.position;
  jump.fall();
  jump.refresh();
  emit(WalkerEventKind::stomped, down, hit.body);
  return true;
}

}  // namespace jugend
