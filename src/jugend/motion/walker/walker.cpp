// The order of a walker's tick, and what it senses. The rest of the tick: walker_tick.hpp tells where.
#include <jugend/base/error.hpp>
#include <jugend/motion/moves/facing.hpp>
#include <jugend/motion/walker/detail/walker_answers.hpp>
#include <jugend/motion/walker/detail/walker_tick.hpp>

namespace jugend {

Vec3 PressedPlanes::clip(const Vec3& v) const {
  const Vec3 left = clipped(v);
  return squared_norm(left) > 1e-18 * squared_norm(v) ? left : Vec3{};  // a rounding is no way out
}

void PressedPlanes::leave(const Vec3& v) {
  InlineList<Vec3, 6> kept;
  for (const Vec3& n : normals_) {
    if (dot(v, n) <= 1e-6 * norm(v)) kept.push_back(n);
  }
  normals_ = kept;
}

Vec3 PressedPlanes::clipped(const Vec3& v) const {
  if (allowed(v)) return v;
  for (const Vec3& n : normals_) {
    if (const Vec3 along = in_plane(v, n); dot(v, n) < 0 && allowed(along)) return along;
  }
  for (std::size_t i = 0; i < normals_.size(); ++i) {
    for (std::size_t j = i + 1; j < normals_.size(); ++j) {
      const Vec3 crease = normalised(cross(normals_[i], normals_[j]));
      if (const Vec3 along = crease * dot(v, crease); allowed(along)) return along;
    }
  }
  return {};
}

bool PressedPlanes::allowed(const Vec3& v) const {
  const double slack = -1e-9 * norm(v) - 1e-300;
  return std::all_of(normals_.begin(), normals_.end(), [&](const Vec3& n) { return dot(v, n) >= slack; });
}

void Walker::Tick::run() {
  face_gravity();
  if (!state.settled) settle();
  state.settled = false;
  hear();
  if (state.placed) stand_where_placed();
  refresh_ground();
  feel_water();
  if (state.was_hit) feel_hit(state.hit);
  state.was_hit = false;
  if (!hold_on()) {
    feel_walls();
    act();
    const Vec3 start = state.position;
    constexpr int most_stretches = 20;
    for (int stretch = 0; stretch < most_stretches && dt - now > instant; ++stretch) {
      // Where contacts keep cutting the tick up, the last stretches are gravity's alone: time must pass.
      const bool steered = stretch < most_stretches - 4;
      double time = dt - now;
      if (dashing()) time = std::min(time, state.dash.left - now);
      if (launched()) time = std::min(time, state.launch.left - now);
      if (thrown()) time = std::min(time, stagger.left(now));
      now += swam ? swim_stretch(time) : state.on_ground ? ground_stretch(time) : air_stretch(time, steered);
      if (state.dash.left > 0 && !dashing()) end_dash();
    }
    state.velocity += kept;
    if (state.on_ground && ridden > 0) weigh();
    if (!state.on_ground && !swam) catch_ledge(start);
  }
  board();
  turn_to_face();
  if (!state.on_ground) state.air_time += dt;
  choose_mode();
  pass_time();
}

/// What other things did while the world moved.
void Walker::Tick::settle() {
  state.settled = true;
  ride();
  if (state.ledge.hold != Hold::free) {
    place_on_ledge();
    if (ledge_holds()) return;
    let_go();
  }
  const double lift = state.on_ground ? tuning.ground.step_height : 0;
  if (state.on_ground && state.ground.moving) {
    const Ground g = sense(state.position, lift, lift);
    if (g.walkable) {
      state.velocity += g.velocity - state.ground.velocity;
      settle_on(g);
    }
  }
  if (walker.dangers != 0) feel_dangers();  // before the two exchange speeds
  leave_solids(lift);
}

// Senses

void Walker::Tick::hear() {
  if (state.closed & gate::move) intent.move = {};
  if (state.closed & gate::jump) intent.jump = {};
  if (state.closed & gate::abilities) intent.dash = intent.launch = intent.crouch = {};
  jump.hear(intent.jump);
}

void Walker::Tick::face_gravity() {
  const Vec3 g = surroundings.gravity(state.position);
  const double strength = norm(g);
  gravity_ratio = strength / standard_gravity;
  if (strength > 0) state.up = g / -strength;
  state.facing = normalised(in_plane(state.facing, state.up), any_perpendicular(state.up));
}

bool Walker::Tick::room_for(const Vec3& feet, double lift, double tall) const {
  std::array<Overlap, 1> found;
  Trunk body = trunk(feet, lift, tall);
  body.radius -= skin;
  return surroundings.overlaps(body.view(), 0, found, solids()) == 0;
}

/// Something that moved may have come to overlap the body: step out of it, and take on or give speed as two
/// bodies that meet do.
void Walker::Tick::leave_solids(double lift) {
  for (int round = 0; round < 4; ++round) {
    std::array<Overlap, 8> found;
    const Trunk body = trunk(state.position, lift);
    const std::size_t n = std::min(found.size(), surroundings.overlaps(body.view(), 0, found, solids()));
    if (n == 0) return;
    const Overlap& deepest = *std::max_element(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(n),
                                               [](const Overlap& a, const Overlap& b) { return a.depth < b.depth; });
    Vec3 out = deepest.normal;
    if (const Vec3 level = in_plane(out, state.up); state.on_ground && norm(level) > 0.5)
      out = level / squared_norm(level);  // it keeps its feet on the ground
    const Vec3 way = out * (deepest.depth + 0.5 * skin);
    Filter others = solids();
    others.ignored = deepest.body;
    const auto blocked = surroundings.sweep(body.view(), way, others);
    state.position += blocked ? way * backed_off(*blocked, way) : way;
    if (blocked) {  // along what is in the way, as far as that leads out
      const Vec3 rest = way * (1 - blocked->distance), along = in_plane(rest, blocked->normal);
      if (squared_norm(along) > 0.01 * squared_norm(rest)) {
        const Vec3 aside = along * (squared_norm(rest) / squared_norm(along));
        const auto stopped = surroundings.sweep(trunk(state.position, lift).view(), aside, others);
        state.position += stopped ? aside * backed_off(*stopped, aside) : aside;
      }
    }

    const BodyFacts facts = surroundings.facts(deepest.body);
    const Vec3 velocity = facts.velocity_at(deepest.point);
    Vec3 n_felt = deepest.normal;
    if (state.on_ground) n_felt = normalised(in_plane(n_felt, state.up));
    const double closing = dot(velocity - state.velocity, n_felt);
    if (closing > 1e-9 && facts.moving) {
      const double given = facts.inverse_mass_at(deepest.point, n_felt), own = 1 / tuning.body.mass;
      const double impulse = closing / (own + given);
      const bool from_below = dot(deepest.normal, state.up) > std::cos(tuning.ground.slope_limit);
      if (facts.mass > 0) surroundings.push(deepest.body, n_felt * -impulse, deepest.point);
      if (!from_below || state.on_ground) {
        state.velocity += n_felt * (impulse * own);
      } else if (const Ground g = sense(state.position, 4 * skin, 4 * skin); g.walkable) {
        land(g, state.velocity);  // ground that rose faster than it fell
        if (dot(state.velocity - state.ground.velocity, state.up) > 0) state.velocity = state.ground.velocity;
      } else {
        state.velocity += n_felt * (impulse * own);
      }
    }
    if (round == 3) emit(WalkerEventKind::squeezed, deepest.depth, deepest.body);
  }
}

/// A walker that is put on the ground stands there, without a landing.
void Walker::Tick::stand_where_placed() {
  state.placed = false;
  const Ground g = sense(state.position, skin, tuning.ground.probe);
  if (!g.walkable) return;
  settle_on(g);
  state.velocity += g.velocity;
  state.footing = {g.body, {}, {}};
}

/// The ground as it is in this tick: it may have moved, tilted or gone.
void Walker::Tick::refresh_ground() {
  if (!state.on_ground) return;
  const Vec3 relative = state.velocity - state.ground.velocity;
  const double thrown_off = 0.02 * tuning.jump.take_off_speed();
  if (dot(relative, state.ground.normal) > thrown_off) return leave_ground(false);
  const Ground g = sense(state.position, tuning.ground.step_height, tuning.ground.step_height);
  if (!g.walkable) return leave_ground(true);
  settle_on(g);
  state.velocity = relative + g.velocity;
}

void Walker::Tick::settle_on(const Ground& g) {
  state.position -= state.up * g.distance;
  if (g.body != state.footing.body) state.footing = {g.body, {}, {}};
  state.ground = g;
  state.ground.distance = 0;
  state.on_ground = true;
}

/// Its weight lies on what it stands on.
void Walker::Tick::weigh() {
  if (state.ground.mass <= 0 || tuning.push.weight <= 0) return;
  const double weight = tuning.body.mass * gravity_ratio * standard_gravity * tuning.push.weight;
  surroundings.force(state.ground.body, state.up * (-weight * ridden / dt), state.ground.point);
}

/// Bodies whose touch is a hit: from the side they throw back, from above they are stomped.
void Walker::Tick::feel_dangers() {
  Filter harmful = walker.filter;
  harmful.layers = walker.dangers;
  std::array<Overlap, 1> found;
  if (surroundings.overlaps(trunk(state.position, 0).view(), 4 * skin, found, harmful) == 0) return;
  const Overlap& touch = found[0];
  const BodyFacts facts = surroundings.facts(touch.body);
  const Vec3 relative = state.velocity - facts.velocity_at(touch.point);
  if (stomp(facts, {0, touch.point, touch.normal, touch.body, 0}, relative) || state.was_hit) return;
  const bool leaving = dot(relative, touch.normal) > 1e-6;  // it bounced off in this tick
  if (leaving || !stagger.vulnerable()) return;
  Vec3 away = in_plane(state.position - facts.pose.position, state.up);
  if (norm(away) < tuning.body.radius) away = facts.velocity;
  state.hit = {away, 0, 0, touch.point};
  state.was_hit = true;
}

// Shows

void Walker::Tick::turn_to_face() {
  if (state.ledge.hold == Hold::free)
    state.facing = turned_to_face(state.facing, intent.move, state.up, tuning.facing_half_life, dt);
}

void Walker::Tick::choose_mode() {
  const auto mode = [&] {
    using enum WalkerMode;
    if (state.ledge.hold == Hold::climbing) return climbing;
    if (state.ledge.hold != Hold::free) return hanging;
    if (state.stagger.since + dt < state.stagger.lasts) return thrown;
    if (state.dash.left > dt + instant) return dashing;
    if (state.launch.left > dt + instant) return launched;
    if (swam) return swimming;
    const Vec3 relative = state.velocity - (state.on_ground ? state.ground.velocity : Vec3{});
    if (state.on_ground || state.wedged) {
      if (state.crouched) return crouching;
      const bool moving = norm(relative) > 0.01 * tuning.run.top_speed;
      if (moving && state.under > 0.1) return wading;
      return moving ? running : idle;
    }
    if (state.wall.sliding) return wall_sliding;
    if (slid) return sliding;
    return dot(relative, state.up) > 0 ? rising : falling;
  };
  state.mode = mode();
}

void Walker::Tick::pass_time() {
  const double left = stagger.until_control(0);
  if (left > 0 && left <= dt + instant) {
    now = std::min(left, dt);
    emit(WalkerEventKind::recovered);
  }
  if (state.on_ground || state.ledge.hold != Hold::free || swam || state.wall.sliding) {
    jump.refresh();
    Charges{tuning.dash.charge, state.dash.charge}.refill();
    Charges{tuning.launch.charge, state.launch.charge}.refill();
  }
  jump.pass(dt);
  stagger.pass(dt);
  state.dash.pass(dt), state.launch.pass(dt);
  Charges{tuning.dash.charge, state.dash.charge}.pass(dt);
  Charges{tuning.launch.charge, state.launch.charge}.pass(dt);
  state.wall.pass(dt);
  state.pushed.since += dt;
  state.ledge.since_drop += dt;
  state.passing = std::max(0.0, state.passing - dt);
}

void Walker::step(const WalkerIntent& intent, Surroundings& surroundings, double dt) {
  events_.clear();
  Tick{tuning_, intent, state_, events_, *this, surroundings, dt}.run();
}

void Walker::settle(Surroundings& surroundings, double dt) {
  Tick tick{tuning_, {}, state_, events_, *this, surroundings, dt};
  tick.now = dt;
  tick.face_gravity();
  tick.settle();
}

bool Walker::hit(const HitBy& hit) {
  if (!Stagger{tuning_.stagger, state_.stagger}.vulnerable() || state_.was_hit) return false;
  state_.hit = hit;
  return state_.was_hit = true;
}

JumpAnswer Walker::can_jump() const {
  if (state_.closed & gate::jump) return {JumpFrom::nowhere, NoJump::gated};
  return jump_answer(state_, tuning_, state_.on_ground || state_.wedged);
}

NoMove Walker::can_dash() const {
  if (state_.closed & gate::abilities) return NoMove::gated;
  if (state_.stagger.since < state_.stagger.lasts - 1e-12) return NoMove::out_of_control;
  if (state_.dash.left > 0 || state_.launch.left > 0 || state_.ledge.hold != Hold::free) return NoMove::busy;
  ChargeState charge = state_.dash.charge;
  return Charges{tuning_.dash.charge, charge}.ask();
}

NoMove Walker::can_launch() const {
  const NoMove dash = can_dash();
  const bool of_charges = dash == NoMove::switched_off || dash == NoMove::cooling_down || dash == NoMove::no_charge;
  if (dash != NoMove::none && !of_charges) return dash;
  ChargeState charge = state_.launch.charge;
  return Charges{tuning_.launch.charge, charge}.ask();
}

Walker::Walker(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing) : tuning_(tuning) {
  check(tuning);
  if (!is_finite(feet)) throw InputError({{}, "start", "a number that is not finite", "finite numbers", {}});
  if (!is_finite(facing) || norm(facing) == 0) throw InputError({{}, "facing", "no direction", "a direction", {}});
  state_.position = state_.take_off = feet;
  state_.facing = normalised(facing);
}

const char* name_of(WalkerMode mode) {
  static constexpr const char* names[] = {"idle",      "running",      "rising",  "falling",  "sliding",
                                          "crouching", "wall_sliding", "dashing", "launched", "thrown",
                                          "hanging",   "climbing",     "wading",  "swimming"};
  static_assert(std::size(names) == walker_modes);
  return names[static_cast<int>(mode)];
}

const char* name_of(WalkerEventKind kind) {
  static constexpr const char* names[] = {"jumped",   "left_ground",  "apex",       "landed",  "bumped_head",
                                          "dashed",   "dash_ended",   "launched",   "hit",     "recovered",
                                          "stomped",  "ledge_caught", "ledge_left", "climbed", "kicked",
                                          "squeezed", "splashed"};
  static_assert(std::size(names) == walker_event_kinds);
  return names[static_cast<int>(kind)];
}

const char* name_of(NoMove reason) {
  static constexpr const char* names[] = {"none", "switched_off",   "no_charge", "cooling_down",
                                          "busy", "out_of_control", "gated"};
  return names[static_cast<int>(reason)];
}

}  // namespace jugend
