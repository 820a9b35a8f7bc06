// The order of a forced walker's tick, what it senses, and where it goes. Its moves: forced_moves.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/moves/facing.hpp>
#include <jugend/motion/walker/detail/forced_tick.hpp>
#include <jugend/motion/walker/detail/walker_answers.hpp>
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
  check_ranges(forced_tunables(), &whole);
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

void ForcedWalker::Tick::run() {
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
  others.through_one_way |= dashing() && tuning.dash.through_one_way > 0;
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
  Charges dashes{tuning.dash.charge, state.dash.charge}, launches{tuning.launch.charge, state.launch.charge};
  if (state.on_ground || swims || state.wall.sliding || state.ledge.hold != Hold::free) {
    jump.refresh();
    dashes.refill(), launches.refill();
  }
  dashes.pass(dt), launches.pass(dt);
  if (!state.on_ground) state.air_time += dt;
  state.wall.pass(dt);
  state.ledge.since_drop += dt;
}

void ForcedWalker::Tick::sense() {
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

void ForcedWalker::Tick::feel_water() {
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

/// Upwards: the ride spring, x'' + 2ω x' + ω² x = 0 solved exactly, or the jump's own flight.
ForcedWalker::Tick::Target ForcedWalker::Tick::rise_target(double rising) {
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

FallLaw ForcedWalker::Tick::law() const {
  FallLaw law = jump.law(strength / standard_gravity);
  if (state.wall.sliding) law.speed_limit = std::min(law.speed_limit, tuning.wall.slide_speed);
  if (dashing() && tuning.dash.gravity <= 0) return {1e-300, 1e-300};
  if (dashing()) law.rising *= tuning.dash.gravity, law.falling *= tuning.dash.gravity;
  if (strength == 0) return {1e-300, 1e-300};
  return law;
}

/// Along the level: the run's ramps one after another, a throw, a dash and what it leaves.
ForcedWalker::Tick::Level ForcedWalker::Tick::level_target() {
  const Vec3 with = in_plane(held() ? state.ground.velocity : state.carried, state.up);
  Vec3 velocity = in_plane(state.velocity, state.up) - with, way;
  const Vec3 target = wished_velocity(state, tuning, intent.move, 0);
  const double grip = state.on_ground ? std::clamp(state.ground.surface.grip, 0.0, 1.0) : 1;
  const RunTuning& run = state.on_ground ? tuning.run : tuning.air;
  bool limited = true;
  double done = 0;
  for (int stretch = 0; stretch < 20 && done < dt - 1e-12; ++stretch) {
    const double left = dt - done, dash_left = state.dash.left - done;
    const RunRates rates = rates_of(run, grip * stagger.control(done));
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
void ForcedWalker::Tick::bring(const Vec3& way, const Vec3& end) {
  const Vec3 acceleration = (end * dt - way) * (2 / (dt * dt));
  const Vec3 start = end - acceleration * dt;
  surroundings.push(id, (start - body.velocity) * mass, body.centre);
  surroundings.force(id, (acceleration + state.up * strength) * mass, body.centre);
}

/// Where the moves want it, as far as the limits of force let it.
void ForcedWalker::Tick::move() {
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
void ForcedWalker::Tick::stand_upright() {
  const Vec3 own_up = rotate(body.pose.orientation, {0, 1, 0});
  const Vec3 change = settling(-turn_between(own_up, state.up), body.spin, ride.upright, dt);
  Vec3 torque = Vec3{};
  const double size = norm(change);
  if (size > 0) {
    const Vec3 about = change / size;
    const double inverse = dot(about, body.inverse_inertia * about);
    if (inverse > 0) torque = about * std::min(size / inverse / dt, ride.upright_torque);
  }
  surroundings.twist(id, torque * dt);
}

void ForcedWalker::Tick::turn_to_face() {
  if (state.ledge.hold == Hold::free)
    state.facing = turned_to_face(state.facing, intent.move, state.up, tuning.facing_half_life, dt);
}

void ForcedWalker::Tick::choose_mode() {
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

JumpAnswer ForcedWalker::can_jump() const { return jump_answer(state_, tuning_, state_.on_ground); }

}  // namespace jugend
