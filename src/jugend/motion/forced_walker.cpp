// A tick works out, in closed form, where the moves want the body to be and how fast at the tick's end, and
// then the one impulse and the one force that take it there: x = v t + a t²/2 and v' = v + a t have one answer.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/forced_walker.hpp>
#include <type_traits>
#include <vector>

namespace jugend {

TunableList forced_tunables() {
  using F = ForcedTuning;
  static_assert(std::is_standard_layout_v<F>);
  static const std::vector<Tunable> list = [] {
    std::vector<Tunable> all(walker_tunables().begin(), walker_tunables().end());
    for (const Tunable& t : {
             JUGEND_TUNABLE(F, ride.clearance, "ride.clearance", "m", 0.01, 1000, "from the soles up to the body"),
             JUGEND_TUNABLE(F, ride.frequency, "ride.frequency", "Hz", 0.5, 60, "of the spring that holds it up"),
             JUGEND_TUNABLE(F, ride.spring_force, "ride.spring_force", "1", 1.5, 1000,
                            "the most, as a multiple of the weight"),
             JUGEND_TUNABLE(F, ride.run_force, "ride.run_force", "N", 0, 1e9, "the most with which it runs and brakes"),
             JUGEND_TUNABLE(F, ride.upright, "ride.upright", "Hz", 0.1, 60, "how fast it comes back upright"),
             JUGEND_TUNABLE(F, ride.upright_torque, "ride.upright_torque", "Nm", 0, 1e9, "the most for that"),
         })
      all.push_back(t);
    return all;
  }();
  return list;
}

void check(const RideTuning& ride, const WalkerTuning& walker) {
  const ForcedTuning whole{walker, ride};
  ForcedTuning copy = whole;
  for (const Tunable& t : forced_tunables()) t.write(&copy, t.read(&whole));
  const double most = walker.body.height - 2 * walker.body.radius;
  if (ride.clearance > most)
    throw InputError({{},
                      "ride.clearance",
                      as_text(ride.clearance),
                      fmt::format("at most body.height - 2 x body.radius, {} m", as_text(most)),
                      {}});
}

Figure figure_of(const WalkerTuning& tuning, const RideTuning& ride) {
  const double tall = tuning.body.height - ride.clearance;
  return {std::max(0.0, 0.5 * tall - tuning.body.radius), ride.clearance + 0.5 * tall};
}

ForcedWalker::ForcedWalker(const WalkerTuning& tuning, const RideTuning& ride, BodyId body, const Vec3& facing)
    : tuning_(tuning), ride_(ride), body_(body) {
  check(tuning);
  check(ride, tuning);
  if (!is_finite(facing) || norm(facing) == 0) throw InputError({{}, "facing", "no direction", "a direction", {}});
  state_.facing = normalised(facing);
}

struct ForcedWalker::Tick {
  const WalkerTuning& tuning;
  const RideTuning& ride;
  const WalkerIntent& intent;
  ForcedWalkerState& state;
  WalkerEvents& events;
  Surroundings& surroundings;
  const BodyId id;
  const double dt;
  const ForcedWalker& walker;
  BodyFacts body{};
  Jump jump{tuning.jump, state.jump};
  Stagger stagger{tuning.stagger, state.stagger};
  double mass = 0, strength = 0;
  const double skin = 1e-3 * tuning.body.radius;
  Filter others{};
  bool swims = false;

  void run() {
    body = surroundings.facts(id);
    mass = body.mass;
    if (mass <= 0) return;
    const Vec3 g = surroundings.gravity(body.pose.position);
    strength = norm(g);
    if (strength > 0) state.up = g / -strength;
    state.facing = normalised(in_plane(state.facing, state.up), any_perpendicular(state.up));
    state.velocity = body.velocity;
    others = walker.filter;
    others.ignored = id;
    others.through_one_way |= state.passing > 0 || (dashing() && tuning.dash.through_one_way > 0);
    state.feet = body.pose.position - state.up * walker.middle();
    feel_water();
    if (state.ledge.hold == Hold::free && !swims) sense();
    feel_dangers();
    jump.hear(intent.jump);
    if (state.was_hit) feel_hit();
    state.was_hit = false;
    if (!hold_on()) {
      feel_walls();
      act();
      move();
    }
    stand_upright();
    turn_to_face();
    choose_mode();
    const double without_control = stagger.until_control(0);
    if (without_control > 0 && without_control <= dt) emit(WalkerEventKind::recovered);
    jump.pass(dt), stagger.pass(dt), state.dash.pass(dt), state.launch.pass(dt);
    for (auto [tune, charge] :
         {std::pair{&tuning.dash.charge, &state.dash.charge}, {&tuning.launch.charge, &state.launch.charge}}) {
      if (state.on_ground || swims || state.wall.sliding || state.ledge.hold != Hold::free) {
        Charges{*tune, *charge}.refill();
        jump.refresh();
      }
      Charges{*tune, *charge}.pass(dt);
    }
    if (!state.on_ground) state.air_time += dt;
    state.wall.pass(dt);
    state.ledge.since_drop += dt;
    state.passing = std::max(0.0, state.passing - dt);
  }

  bool held() const { return state.on_ground && !state.rising; }
  void emit(WalkerEventKind kind, double value = 0) {
    events.push_back({kind, 0, state.feet, value, {}, JumpFrom::nowhere, {}});
  }

  void sense() {
    GroundTuning legs = tuning.ground;
    legs.step_height = ride.clearance;
    const double reach = state.on_ground ? ride.clearance : 0.02 * ride.clearance;
    const Ground g = sense_ground({state.feet, state.up, tuning.body.radius, 2 * skin}, ride.clearance, reach, legs,
                                  surroundings, others);
    const double rising = dot(state.velocity - g.velocity, state.up);
    if (state.rising && rising <= 1e-9) {
      state.rising = false;
      if (!g.walkable || g.distance > 0) emit(WalkerEventKind::apex, dot(state.feet - state.take_off, state.up));
    }
    const bool on = g.walkable && !state.rising && (state.on_ground || g.distance <= 0.02 * ride.clearance);
    if (on && !state.on_ground && stomp(g, rising)) return;
    if (on && !state.on_ground) {
      if (!state.placed) {
        const Vec3 at = state.feet - state.up * std::min(0.0, g.distance);
        events.push_back({WalkerEventKind::landed, 0, at, std::max(0.0, -rising), g.body});
      }
      jump.land(0);
      state.footing = {g.body, {}, {}};
    }
    if (!on && state.on_ground) {
      jump.leave_ground(0, true);
      leave();
    }
    if (on && g.body != state.footing.body) state.footing = {g.body, {}, {}};
    if (on) state.ground = g;
    state.on_ground = on;
    state.placed = false;
    if (on) jump.refresh();
    // Where it stood, for a kick that comes late.
    if (on && g.mass > 0) state.footing.local = to_local(surroundings.facts(g.body).pose, g.point);
  }

  /// The body without the legs, thinner by the skin: what queries sweep.
  struct Trunk {
    std::array<Vec3, 2> ends;
    double radius;
    Convex view() const { return {ends, radius, Core::segment}; }
  };
  Trunk trunk(const Vec3& feet) const {
    const Vec3 centre = feet + state.up * walker.middle(), half = state.up * figure_of(tuning, ride).half_length;
    return {{centre - half, centre + half}, tuning.body.radius - skin};
  }
  bool room_for(const Vec3& feet) const {
    std::array<Overlap, 1> found;
    return surroundings.overlaps(trunk(feet).view(), 0, found, others) == 0;
  }

  void feel_water() {
    Medium water = surroundings.medium(state.feet + state.up * skin, state.up);
    const double before = state.under;
    state.under = water.density > 0 ? std::clamp((water.depth + skin) / tuning.body.height, 0.0, 1.0) : 0;
    const double falling = -dot(state.velocity, state.up);
    if (before == 0 && state.under > 0 && falling > 0.5) emit(WalkerEventKind::splashed, falling);
    const double floats = tuning.swim.float_share * (state.mode == WalkerMode::swimming ? 0.8 : 1 - 1e-6);
    swims = state.under >= floats && state.ledge.hold == Hold::free && !dashing() && !(state.rising && state.under < 1);
    if (swims && state.on_ground) leave();
    if (swims) state.rising = false;
  }

  /// As of the swept walker, but told from where it is touched: contacts have taken the speeds already.
  void feel_dangers() {
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
  bool stomp(const Ground& g, double rising) {
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

  void feel_walls() {
    state.wall.sliding = false;
    if (tuning.wall.on <= 0 || state.on_ground || swims) return;
    const Vec3 level = in_plane(intent.move, state.up);
    const bool pushing = squared_norm(level) > 0.01;
    if (!pushing && state.wall.since_touch > tuning.wall.grace) return;
    const Vec3 way = (pushing ? normalised(level) : -state.wall.normal) * (tuning.wall.reach + 4 * skin);
    const auto hit = surroundings.sweep(trunk(state.feet).view(), way, others);
    if (!hit || std::abs(dot(hit->normal, state.up)) > 0.3) return;
    state.wall.since_touch = 0;
    state.wall.normal = normalised(in_plane(hit->normal, state.up));
    state.wall.body = hit->body;
    state.wall.sliding = pushing && dot(normalised(level), state.wall.normal) < -0.3 &&
                         dot(state.velocity, state.up) < 0 && !dashing() && !thrown();
  }

  // Ledges

  /// Falling past an edge in this tick with input towards it.
  bool catch_ledge(const Vec3& way) {
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
  void follow_hold() {
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

  bool hold_on() {
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

  void begin_climb() {
    LedgeState& l = state.ledge;
    const Pose pose = surroundings.facts(l.body).pose;
    const Vec3 above = to_world(pose, l.edge) + state.facing * (tuning.body.radius + 4 * skin) + state.up * (10 * skin);
    const Ground g = sense_ground({above, state.up, tuning.body.radius, 2 * skin}, tuning.body.radius,
                                  tuning.body.radius, tuning.ground, surroundings, others);
    const Vec3 top = above - state.up * (g.distance - 2 * skin);
    if (!g.walkable || !room_for(top)) return;
    l.top = to_local(pose, top);
    l.hang = to_local(pose, state.feet);
    l.hold = Hold::climbing;
    l.time = 0;
  }

  void let_go() {
    state.ledge.hold = Hold::free;
    state.ledge.since_drop = 0;
    state.on_ground = false;
    state.take_off = state.feet;
    state.air_time = 0;
    state.velocity = state.carried;
    emit(WalkerEventKind::ledge_left);
    left_hold = true;
  }
  bool left_hold = false;  // in this tick

  void leave() {
    state.on_ground = false;
    state.carried = in_plane(state.ground.velocity, state.up) * tuning.carry.level;
    state.take_off = state.feet;
    state.air_time = 0;
    emit(WalkerEventKind::left_ground);
  }

  void feel_hit() {
    if (!stagger.vulnerable()) return;
    if (state.ledge.hold != Hold::free) let_go();
    const Vec3 axis = normalised(in_plane(state.hit.away, state.up), -state.facing);
    const Vec3 with = state.on_ground ? state.ground.velocity : state.carried;
    const double speed = stagger.begin(state.hit, axis, mass);
    state.dash.left = state.launch.left = 0;
    const double rising = dot(state.velocity - with, state.up);
    const double hop = tuning.stagger.hop > 0 ? tuning.jump.speed_for(tuning.stagger.hop) : 0;
    if (hop > 0) leave(), state.rising = true;
    state.velocity = with + axis * speed + state.up * std::max(rising, hop);
    const HitPlace place = place_of_hit(state.hit.at, state.feet, state.up, state.facing, tuning.body.height);
    events.push_back({WalkerEventKind::hit, 0, state.feet, speed, {}, JumpFrom::nowhere, place});
  }

  bool thrown() const { return stagger.left(0) > 1e-12; }
  bool dashing() const { return state.dash.left > 1e-12; }

  /// Legs folded: as low as they go.
  void crouch() {
    if (intent.crouch.held) {
      state.crouched = state.on_ground || state.crouched;
    } else if (state.crouched) {
      if (!state.on_ground || room_to_stand()) state.crouched = false;
    }
  }

  JumpFrom at_hand() const {
    if (left_hold) return JumpFrom::ledge;
    if (state.on_ground) return JumpFrom::ground;
    if (swims) return JumpFrom::water;
    const bool wall = tuning.wall.on > 0 && state.wall.since_touch <= tuning.wall.grace + Jump::slack;
    if (wall && state.jump.since_ground > tuning.jump.coyote_time + Jump::slack) return JumpFrom::wall;
    return JumpFrom::nowhere;
  }

  void act() {
    crouch();
    if (intent.jump.presses > 0 && intent.crouch.held && state.on_ground && state.ground.one_way) {
      state.passing = 0.5;  // s: its legs stand on it no more, and its body falls through where it was inside
      jump.state.since_press = 1e9;
      leave();
      return;
    }
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
    if (!free || !jump.wanted() || (swims && state.under >= 1) || (state.crouched && !room_to_stand())) return;
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

  bool room_to_stand() const {
    return !surroundings.sweep(trunk(state.feet).view(), state.up * (0.9 * ride.clearance), others);
  }

  /// Upwards with `speed`; the body below gets the answer.
  void take_off(double speed, JumpFrom from) {
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

  /// A way and a speed at the tick's end.
  struct Target {
    double way = 0, speed = 0;
    double limit = 1e300;  // N that may be used beyond the weight
  };
  struct Level {
    Vec3 way, velocity;
    double limit;
  };

  /// Upwards: the ride spring, x'' + 2ω x' + ω² x = 0 solved exactly, or the jump's own flight.
  Target rise_target(double rising) {
    const double ground_rise = dot(state.ground.velocity, state.up);
    if (held()) {
      const double w = 2 * pi * ride.frequency, x = state.ground.distance, c = rising + w * x, fade = std::exp(-w * dt);
      const double end = (x + c * dt) * fade;
      return {end - x + ground_rise * dt, (rising - w * c * dt) * fade + ground_rise,
              ride.spring_force * mass * strength};
    }
    if (state.launch.left > 1e-12) {
      const double part = std::min(dt, state.launch.left);
      const FallStep rest = fall_step(rising, law(), dt - part);
      return {rising * part + rest.height, rest.speed};
    }
    const FallStep step = fall_step(rising, law(), dt);
    return {step.height, step.speed};
  }
  FallLaw law() const {
    FallLaw law = jump.law(strength / standard_gravity);
    if (state.wall.sliding) law.speed_limit = std::min(law.speed_limit, tuning.wall.slide_speed);
    if (dashing() && tuning.dash.gravity <= 0) return {1e-300, 1e-300};
    if (dashing()) law.rising *= tuning.dash.gravity, law.falling *= tuning.dash.gravity;
    if (strength == 0) return {1e-300, 1e-300};
    return law;
  }

  /// Along the level: the run's ramps one after another, a throw, a dash and what it leaves.
  Level level_target() {
    const Vec3 with = in_plane(held() ? state.ground.velocity : state.carried, state.up);
    Vec3 velocity = in_plane(state.velocity, state.up) - with, way;
    const Vec3 input = in_plane(intent.move, state.up);
    double top = tuning.run.top_speed;
    if (state.on_ground) top *= state.ground.surface.speed;
    if (state.crouched) top *= tuning.crouch.speed_share;
    if (state.under > 0) top *= 1 + (tuning.swim.wade_speed - 1) * std::min(1.0, state.under / tuning.swim.float_share);
    Vec3 target = input * (top / std::max(1.0, norm(input)));
    if (state.wall.since_jump < tuning.wall.hold_off && dot(target, state.wall.normal) < 0)
      target = in_plane(target, state.wall.normal);
    const double grip = state.on_ground ? std::clamp(state.ground.surface.grip, 0.0, 1.0) : 1;
    const RunTuning& run = state.on_ground ? tuning.run : tuning.air;
    bool limited = true;
    double done = 0;
    for (int stretch = 0; stretch < 20 && done < dt - 1e-12; ++stretch) {
      const double left = dt - done, dash_left = state.dash.left - done;
      const RunRates whole = rates_of(run, run.top_speed);
      const double share = grip * stagger.control(done);
      const auto part = [&](double rate) { return share > 0 ? rate * share : 0; };
      const RunRates rates{part(whole.accelerate), part(whole.brake), part(whole.turn)};
      RunRamp ramp;
      if (dash_left > 1e-12) {
        limited = false;
        ramp = {std::min(left, dash_left), {}, velocity};
        if (ramp.duration >= dash_left - 1e-12) {
          const double speed = norm(velocity);
          if (speed > tuning.dash.end_speed) ramp.end_velocity = velocity * (tuning.dash.end_speed / speed);
          way += velocity * ramp.duration;
          velocity = ramp.end_velocity;
          done += ramp.duration;
          emit(WalkerEventKind::dash_ended, norm(velocity));
          continue;
        }
      } else if (stagger.left(done) > 1e-12) {
        limited = false;
        ramp = thrown_ramp(state.stagger, velocity, target, rates, std::min(left, stagger.left(done)));
      } else {
        ramp = next_run_ramp(velocity, target, rates, left);
      }
      way += velocity * ramp.duration + ramp.acceleration * (0.5 * ramp.duration * ramp.duration);
      velocity = ramp.end_velocity;
      done += ramp.duration;
    }
    return {way + with * dt, velocity + with, limited ? ride.run_force : 1e300};
  }

  /// The impulse and the force that take the body along `way` (m) to the velocity `end` within this tick.
  void bring(const Vec3& way, const Vec3& end) {
    const Vec3 acceleration = (end * dt - way) * (2 / (dt * dt));
    const Vec3 start = end - acceleration * dt;
    surroundings.push(id, (start - body.velocity) * mass, body.centre);
    surroundings.force(id, (acceleration + state.up * strength) * mass, body.centre);
  }

  /// Where the moves want it, as far as the limits of force let it.
  void move() {
    const Vec3& up = state.up;
    if (swims) {
      Medium water = surroundings.medium(state.feet + up * skin, up);
      const double deep = state.under > 0 ? water.depth + skin - tuning.swim.float_share * tuning.body.height : 0;
      const auto [way, end] =
          swim(tuning.swim, {state.velocity, water.flow, intent.move, up, deep, intent.crouch.held}, dt);
      return bring(way, end);
    }
    const double rising = dot(state.velocity, up);
    const Target rise = rise_target(rising - (held() ? dot(state.ground.velocity, up) : 0));
    const Level level = level_target();
    const Vec3 level_start = in_plane(state.velocity, up);
    const Vec3 level_change = level.velocity - level_start;
    const double needed = norm(level_change) * mass / dt;
    const double share = needed > level.limit ? level.limit / needed : 1;
    const Vec3 level_end = level_start + level_change * share;
    const Vec3 level_way = share < 1 ? (level_start + level_end) * (0.5 * dt) : level.way;
    double rise_end = rise.speed, rise_way = rise.way;
    const double lift = ((rise_end - rising) / dt + strength) * mass;
    if (held() && (lift > rise.limit || lift < 0)) {  // legs push, they do not pull
      rise_end = rising + (std::clamp(lift, 0.0, rise.limit) / mass - strength) * dt;
      rise_way = 0.5 * (rising + rise_end) * dt;
    }
    const Vec3 way = level_way + up * rise_way;
    if (catch_ledge(way)) return;
    bring(way, level_end + up * rise_end);
    if (!held() || state.ground.mass <= 0) return;
    // The ground bears what is not a move of its own: weight and spring, not the kick that a take-off gives.
    const double borne = std::max(0.0, (rise_end - rising) / dt + strength) * mass * tuning.push.weight;
    surroundings.force(state.ground.body, up * -borne, state.ground.point);
    if (!thrown()) state.footing.momentum += (level_end - level_start) * mass;
  }

  /// Back upright, critically damped, by a limited torque; it turns about up with nothing but that.
  void stand_upright() {
    const Vec3 own_up = rotate(body.pose.orientation, {0, 1, 0});
    const Vec3 axis = cross(own_up, state.up);
    const double sine = norm(axis), angle = std::atan2(sine, dot(own_up, state.up));
    const Vec3 error = sine > 1e-12 ? axis * (angle / sine) : Vec3{};
    const double w = 2 * pi * ride.upright, fade = std::exp(-w * dt);
    // x = -error: x'' + 2ω x' + ω² x = 0, over this tick.
    const Vec3 c = body.spin - error * w;
    const Vec3 wanted = (body.spin - c * (w * dt)) * fade;
    const Vec3 change = wanted - body.spin;
    Vec3 torque = Vec3{};
    const double size = norm(change);
    if (size > 0) {
      const Vec3 about = change / size;
      const double inverse = dot(about, body.inverse_inertia * about);
      if (inverse > 0) torque = about * std::min(size / inverse / dt, ride.upright_torque);
    }
    surroundings.twist(id, torque * dt);
  }

  void turn_to_face() {
    const Vec3 level = in_plane(intent.move, state.up);
    if (squared_norm(level) < 0.0025) return;
    const Vec3 goal = normalised(level);
    const double angle = std::atan2(dot(cross(state.facing, goal), state.up), dot(state.facing, goal));
    const double turned = angle - smoothed(angle, 0.0, tuning.facing_half_life, dt);
    state.facing = normalised(in_plane(rotate(rotation(state.up * turned), state.facing), state.up), state.facing);
  }

  void choose_mode() {
    using enum WalkerMode;
    const Vec3 relative = state.velocity - (state.on_ground ? state.ground.velocity : Vec3{});
    const auto mode = [&] {
      if (state.ledge.hold == Hold::climbing) return climbing;
      if (state.ledge.hold != Hold::free) return hanging;
      if (stagger.left(dt) > 0) return WalkerMode::thrown;
      if (state.dash.left > dt) return WalkerMode::dashing;
      if (state.launch.left > dt) return launched;
      if (swims) return swimming;
      if (state.wall.sliding) return wall_sliding;
      if (!state.on_ground) return dot(relative, state.up) > 0 ? WalkerMode::rising : falling;
      if (state.crouched) return crouching;
      const bool moving = norm(in_plane(relative, state.up)) > 0.01 * tuning.run.top_speed;
      return !moving ? idle : state.under > 0.1 ? wading : running;
    };
    state.mode = mode();
  }
};

void ForcedWalker::step(const WalkerIntent& intent, Surroundings& surroundings, double dt) {
  events_.clear();
  Tick{tuning_, ride_, intent, state_, events_, surroundings, body_, dt, *this}.run();
}

double ForcedWalker::middle() const {
  return figure_of(tuning_, ride_).middle - (state_.crouched ? 0.9 * ride_.clearance : 0);
}

bool ForcedWalker::hit(const HitBy& hit) {
  if (!Stagger{tuning_.stagger, state_.stagger}.vulnerable() || state_.was_hit) return false;
  state_.hit = hit;
  return state_.was_hit = true;
}

JumpAnswer ForcedWalker::can_jump() const {
  ForcedWalkerState copy = state_;
  const Jump jump{tuning_.jump, copy.jump};
  if (state_.stagger.since < state_.stagger.lasts - 1e-12) return {JumpFrom::nowhere, NoJump::out_of_control};
  if (state_.dash.left > 0 || state_.launch.left > 0) return {JumpFrom::nowhere, NoJump::dashing};
  if (state_.ledge.hold == Hold::climbing) return {JumpFrom::nowhere, NoJump::dashing};
  if (state_.ledge.hold != Hold::free) return jump.ask(JumpFrom::ledge);
  if (state_.mode == WalkerMode::swimming && state_.under >= 1) return {JumpFrom::nowhere, NoJump::under_water};
  if (state_.mode == WalkerMode::swimming) return jump.ask(JumpFrom::water);
  if (state_.on_ground) return jump.ask(JumpFrom::ground);
  const JumpAnswer answer = jump.ask(JumpFrom::nowhere);
  const bool wall = tuning_.wall.on > 0 && state_.wall.since_touch <= tuning_.wall.grace + Jump::slack;
  return wall && answer.from != JumpFrom::edge ? jump.ask(JumpFrom::wall) : answer;
}

}  // namespace jugend
