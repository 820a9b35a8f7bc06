// What input and hits start in a walker's tick: jumps, landings, dashes, launches, throws, crouching.
#include <jugend/motion/walker/detail/brain_tick.hpp>

namespace jugend {

void WalkerBrain::Tick::act() {
  crouch();
  if (own_path() != OwnPath::none) {
    follow_own_path();
    try_jump();
    return;
  }
  if (intent.dash.presses > 0 && walker.can_dash() == NoMove::none) start_dash();
  if (intent.launch.presses > 0 && walker.can_launch() == NoMove::none) start_launch();
  const bool drop = intent.jump.presses > 0 && intent.crouch.held && state.on_ground && state.ground.one_way;
  if (drop) {
    state.passing = 0.12;  // s: by then the soles are below the surface, and what is inside it passes
    jump.state.since_press = long_ago;
    leave_ground(false);
    return;
  }
  try_jump();
}

void WalkerBrain::Tick::follow_own_path() {
  if (dashing()) end_dash();
  state.launch.left = 0;
  const Vec3 wanted = intent.own.displacement / dt, level = in_plane(wanted, state.up);
  const double rise = dot(wanted, state.up);
  if (own_path() == OwnPath::whole) {
    if (state.on_ground && rise > 1e-9) leave_ground(false);
    if (!state.on_ground) {
      jump.fall();
      state.wall.sliding = swims = state.wedged = false;
      state.carried = {};
      state.velocity = wanted;
      return;
    }
  }
  const Vec3 with = carrier();
  state.velocity = with + (state.on_ground ? tilted(level, state.ground.normal, state.up)
                                           : level + state.up * dot(state.velocity - with, state.up));
}

/// Input along the level, but for what a wall jump holds off.
Vec3 WalkerBrain::Tick::steered_move() const {
  const Vec3 level = in_plane(intent.move, state.up), &n = state.wall.normal;
  return wall_holds_off() && dot(level, n) < 0 ? in_plane(level, n) : level;
}

/// m/s along the level: as fast as ground, water and crouching let it.
Vec3 WalkerBrain::Tick::wish() const {
  const Vec3 direction = steered_move() / std::max(1.0, norm(in_plane(intent.move, state.up)));
  double top = tuning.run.top_speed;
  if (state.on_ground) top *= state.ground.surface.speed;
  if (state.crouched) top *= tuning.crouch.speed_share;
  top *= intent.own.speed;
  top *= 1 + (tuning.swim.wade_speed - 1) * std::min(1.0, wades / tuning.swim.float_share);
  return direction * top;
}

RunRamp WalkerBrain::Tick::next_ramp(const Vec3& velocity, const Vec3& target, const RunRates& at, double time) const {
  if (dashing() || own_path() != OwnPath::none || !steered) return {time, {}, velocity};
  if (thrown()) return thrown_ramp(state.stagger, velocity, target, at, time);
  return next_run_ramp(velocity, target, at, time);
}

// Jumps

/// What a jump could start from here; `from` tells the ground, where it is that.
JumpFrom WalkerBrain::Tick::at_hand(Ground& from) const {
  if (state.on_ground || state.wedged) return JumpFrom::ground;
  if (swims) return JumpFrom::water;
  const bool wall = tuning.wall.on && state.wall.since_touch + now <= tuning.wall.grace + Jump::slack;
  if (wall && state.jump.since_ground + now > tuning.jump.coyote_time + Jump::slack) return JumpFrom::wall;
  // A hair above the ground, and not on the way up, counts as on it for a press of this moment. An earlier one waits
  // for the landing: else where its jump starts would depend on where ticks fall.
  if (state.jump.since_press + now <= 0 && dot(state.velocity - state.carried, state.up) <= 0 &&
      tuning.jump.landing_lockout <= 0) {
    from = sense(state.position, skin, tuning.ground.probe);
    if (from.walkable) return JumpFrom::ground;
  }
  return JumpFrom::nowhere;
}

bool WalkerBrain::Tick::try_jump() {
  if (!jump.wanted(now) || dashing() || launched() || thrown() || own_path() == OwnPath::whole) return false;
  if (state.cramped) return false;
  if (swims && state.under >= 1) return false;  // only from the surface
  Ground from = state.ground;
  const JumpAnswer answer = jump.ask(at_hand(from), now);
  if (!answer) return false;
  set_crouched(false);
  if (answer.from == JumpFrom::ground) state.ground = from;
  jump_from(answer.from);
  return true;
}

/// `bend` m below the ground that heights count from.
double WalkerBrain::Tick::jump_speed(JumpFrom from, double bend) const {
  if (from == JumpFrom::wall) return tuning.jump.speed_for(tuning.wall.jump_height);
  if (from == JumpFrom::water) return tuning.jump.speed_for(tuning.swim.jump_height);
  const bool off_ground = from == JumpFrom::ground || from == JumpFrom::edge;
  return jump.speed(from, off_ground ? state.ground.surface.jump : 1, bend);
}

void WalkerBrain::Tick::jump_from(JumpFrom from) {
  const Vec3 before = state.velocity;
  const bool grounded = from == JumpFrom::ground;
  const Vec3& up = state.up;
  if (grounded) remember_footing();
  const double bend = grounded ? take_off_bend() : 0;
  state.jump.bend = bend;
  double wanted = jump_speed(from, bend);
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
    state.carried = in_plane(state.wall.velocity, up) * tuning.carry.level;
    const Vec3 along = in_plane(in_plane(state.velocity - state.carried, up), n);
    state.velocity = state.carried + along + n * tuning.wall.jump_away + up * wanted;
    state.wall.since_jump = -now, state.wall.since_touch = long_ago;
    state.wall.sliding = leans = false;
    contacts = {}, arc = {};
  } else {
    // What already rises faster goes on doing so.
    state.velocity = in_plane(state.velocity, up) + up * std::max(wanted, dot(state.velocity, up));
  }
  if (from != JumpFrom::air && from != JumpFrom::edge) refill();
  jump.take_off(from, now, intent.jump.held);
  state.on_ground = state.wedged = swims = false;
  events.push_back({WalkerEventKind::jumped, now, place(), wanted, {}, from, {}});
  if (grounded || from == JumpFrom::edge) kick(state.footing.momentum + (state.velocity - before) * tuning.body.mass);
  if (from != JumpFrom::air) note_take_off();
  state.take_off += up * bend;
  if (from == JumpFrom::air) state.take_off = place();
}

/// On to the ground, which takes the momentum of the fall; and off again where a press has waited for it.
void WalkerBrain::Tick::land(const Ground& g, const Vec3& arriving) {
  const Vec3 relative = arriving - g.velocity;
  const double impact = std::max(0.0, -dot(relative, state.up));
  const bool anew = g.body != state.footing.body;
  stand_on(g);
  if (anew) state.footing.momentum = {};
  state.wedged = state.apex_due = false;
  contacts = {};
  state.launch.left = 0;
  emit(WalkerEventKind::landed, impact, g.body);
  touch_down(g, relative, impact);
  jump.land(now);
  bend_knees();
  refill();
  try_jump();
}

/// The answer of the body last stood on to the momentum that a take-off gave.
void WalkerBrain::Tick::kick(const Vec3& momentum) {
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

/// A force on the body stood on: no more in a tick than a kick may give.
void WalkerBrain::Tick::press(const Vec3& force) {
  if (state.ground.mass <= 0) return;
  const BodyFacts facts = surroundings.facts(state.ground.body);
  const Vec3 impulse = kick_impulse(facts, force * dt, state.ground.point, state.up, tuning.kick.speed_cap);
  if (impulse != Vec3{}) surroundings.force(state.ground.body, impulse / dt, state.ground.point);
}

void WalkerBrain::Tick::remember_footing() {
  state.footing.body = state.ground.body;
  if (state.ground.mass > 0)
    state.footing.local = to_local(surroundings.facts(state.ground.body).pose, state.ground.point);
}

/// It walked off an edge, or was thrown off.
void WalkerBrain::Tick::leave_ground(bool walked) {
  remember_footing();
  state.on_ground = false;
  const Vec3 ground = state.ground.velocity, level = in_plane(ground, state.up);
  state.velocity -= level * (1 - tuning.carry.level) + (ground - level) * (1 - tuning.carry.rise);
  state.carried = level * tuning.carry.level;
  jump.leave_ground(now, walked);
  if (state.footing.momentum != Vec3{}) kick(state.footing.momentum);  // the push-off to the side
  note_take_off();
}

void WalkerBrain::Tick::note_take_off() {
  state.take_off = place();
  state.air_time = -now;  // the rest of this tick is added at its end
  feel_walls();
  emit(WalkerEventKind::left_ground);
}

// Dashes and launches

void WalkerBrain::Tick::start_dash() {
  const DashTuning& d = tuning.dash;
  Vec3 direction = dash_direction(d, intent.move, state.facing, intent.aim, state.up);
  const double rise = dot(direction, state.up);
  if (state.on_ground && rise < 0) direction = normalised(in_plane(direction, state.up), state.facing);
  Charges{d.charge, state.dash.charge}.use(now);
  state.dash.left = now + d.time;
  const Vec3 with = carrier();
  if (state.on_ground && rise > 0.05) leave_ground(false);
  state.velocity = with + (state.on_ground ? tilted(direction, state.ground.normal, state.up) : direction) * d.speed();
  jump.fall();
  swims = false;
  emit(WalkerEventKind::dashed, d.speed());
}

/// The speed that remains. Gravity's part of it stays where gravity had one.
void WalkerBrain::Tick::end_dash() {
  state.dash.left = 0;
  const Vec3 own = state.velocity - carrier();
  const Vec3 dashed = tuning.dash.gravity > 0 && !state.on_ground ? in_plane(own, state.up) : own;
  const double speed = norm(dashed);
  if (speed > tuning.dash.end_speed) state.velocity -= dashed * (1 - tuning.dash.end_speed / speed);
  emit(WalkerEventKind::dash_ended, std::min(speed, tuning.dash.end_speed));
}

void WalkerBrain::Tick::start_launch() {
  const LaunchTuning& l = tuning.launch;
  const Vec3 before = state.velocity;
  const double bend = take_off_bend(), speed = l.time > 0 ? l.speed : tuning.jump.speed_for(l.height + bend);
  Charges{l.charge, state.launch.charge}.use(now);
  state.launch.left = l.time > 0 ? now + l.time : 0;
  const bool grounded = state.on_ground;
  if (grounded) leave_ground(false);
  state.velocity = in_plane(state.velocity, state.up) + state.up * speed;
  if (grounded) kick((state.velocity - before) * tuning.body.mass);
  state.take_off = place() + state.up * bend;
  jump.fall();
  jump.state.since_ground = long_ago;
  swims = false;
  emit(WalkerEventKind::launched, speed);
}

/// On the ground it bends its knees; in the air it plunges.
void WalkerBrain::Tick::crouch() {
  const bool falls_freely = !state.on_ground && !swims && !dashing() && !thrown();
  if (tuning.plunge.on && intent.crouch.presses > 0 && falls_freely) {
    note_apex();
    state.velocity = state.carried + plunge(tuning.plunge, state.velocity, state.up);
    state.launch.left = 0;
    state.wall.sliding = false;
    jump.fall();
    emit(WalkerEventKind::plunged, -dot(state.velocity, state.up));
  }
  bend_knees();
}

void WalkerBrain::Tick::bend_knees() {
  const bool wanted = intent.crouch.held && height(true) < tuning.body.height;
  if (wanted && state.on_ground) set_crouched(true);
  state.cramped = state.crouched && !room_for(state.position, clear_of_steps(), tuning.body.height);
  if (!wanted && !state.cramped) set_crouched(false);
}

void WalkerBrain::Tick::set_crouched(bool crouched) {
  const double before = height();
  state.crouched = crouched;
  if (height() == before) return;
  draw_in_feet(before - height());
  if (state.under > 0) feel_water();
}

// Hits

/// Its own way along the level ends, and the throw takes its place; the motion of what it rides goes on, and so does
/// a rise.
bool WalkerBrain::Tick::feel_hit(const HitBy& hit) {
  if (!stagger.vulnerable()) return false;
  if (state.ledge.hold != Hold::free) let_go();
  const Vec3 axis = normalised(in_plane(hit.away, state.up), -state.facing);
  const Vec3 with = carrier();
  const double speed = stagger.begin(hit, axis, tuning.body.mass);
  state.dash.left = state.launch.left = 0;
  const double rising = state.on_ground ? 0 : dot(state.velocity - with, state.up);
  const double bend = take_off_bend();
  const double hop = tuning.stagger.hop > 0 ? tuning.jump.speed_for(tuning.stagger.hop + bend) : 0;
  if (state.on_ground && hop > 0) {
    leave_ground(false);
    state.take_off += state.up * bend;
  }
  state.velocity = with + axis * speed + state.up * std::max(rising, hop);
  jump.fall();
  const HitPlace struck = place_of_hit(hit.at, state.position, state.up, state.facing, height());
  events.push_back({WalkerEventKind::hit, now, place(), speed, {}, JumpFrom::nowhere, struck});
  return true;
}

}  // namespace jugend
