// The order of a walker's tick, what it shows of itself, and how its time passes.
#include <algorithm>
#include <jugend/motion/moves/facing.hpp>
#include <jugend/motion/walker/detail/brain_tick.hpp>

namespace jugend {

Vec3 PressedPlanes::clip(const Vec3& v, double speeds) const {
  const Vec3 left = clipped(v, speeds);
  return squared_norm(left) > 1e-18 * squared_norm(v) ? left : Vec3{};  // a rounding is no way out
}

void PressedPlanes::leave(const Vec3& v) {
  InlineList<Plane, 6> still;
  for (const Plane& p : planes_) {
    if (dot(v, p.normal) - p.speed <= 1e-6 * norm(v)) still.push_back(p);
  }
  planes_ = still;
}

Vec3 PressedPlanes::clipped(const Vec3& v, double speeds) const {
  if (allowed(v, speeds)) return v;
  for (const auto& [n, speed] : planes_) {
    if (dot(v, n) >= speeds * speed) continue;
    if (const Vec3 along = in_plane(v, n) + n * (speeds * speed); allowed(along, speeds)) return along;
  }
  for (auto a = planes_.begin(); a != planes_.end(); ++a) {
    for (auto b = a + 1; b < planes_.end(); ++b) {
      const double c = dot(a->normal, b->normal), across = std::max(1 - c * c, 1e-12);
      const Vec3 both = a->normal * (a->speed - c * b->speed) + b->normal * (b->speed - c * a->speed);
      const Vec3 crease = normalised(cross(a->normal, b->normal));
      if (const Vec3 along = crease * dot(v, crease) + both * (speeds / across); allowed(along, speeds)) return along;
    }
  }
  return corner(speeds);
}

/// With what three planes have in common.
Vec3 PressedPlanes::corner(double speeds) const {
  for (auto a = planes_.begin(); a != planes_.end(); ++a) {
    for (auto b = a + 1; b < planes_.end(); ++b) {
      for (auto c = b + 1; c < planes_.end(); ++c) {
        const Vec3 bc = cross(b->normal, c->normal), ca = cross(c->normal, a->normal), ab = cross(a->normal, b->normal);
        const double room = dot(a->normal, bc);
        if (std::abs(room) < 1e-9) continue;
        const Vec3 with = (bc * a->speed + ca * b->speed + ab * c->speed) * (speeds / room);
        if (allowed(with, speeds)) return with;
      }
    }
  }
  return {};
}

Vec3 PressedPlanes::pressing(const Vec3& f, const Vec3& up) const {
  PressedPlanes level;
  for (const Plane& p : planes_) {
    if (const Vec3 n = in_plane(p.normal, up); norm(n) > 1e-6) level.add(normalised(n));
  }
  return f - level.clip_force(f);
}

bool PressedPlanes::allowed(const Vec3& v, double speeds) const {
  const double slack = 1e-9 * norm(v) + 1e-300;
  return std::all_of(planes_.begin(), planes_.end(), [&](const Plane& p) {
    const double speed = speeds * p.speed;
    return dot(v, p.normal) - speed >= -slack - 1e-9 * std::abs(speed);
  });
}

void WalkerBrain::Tick::run() {
  if (!begin()) return;
  hear();
  if (state.placed) stand_where_placed();
  swims = state.mode == WalkerMode::swimming;
  refresh_ground();
  feel_water();
  wades = state.under;
  if (state.was_hit) feel_hit(state.hit);
  state.was_hit = false;
  const Vec3 start = state.position;
  if (own_path() == OwnPath::whole && state.ledge.hold != Hold::free) let_go();
  if (!hold_on()) {
    if (now == 0) feel_walls(), act();
    stretches();
  }
  turn_to_face();  // before it boards what will turn it further
  finish(start);
  if (!state.on_ground) state.air_time += dt;
  choose_mode();
  pass_time();
}

void WalkerBrain::Tick::stretches() {
  constexpr int most = 20;
  for (int stretch = 0; stretch < most && dt - now > instant; ++stretch) {
    // Where contacts keep cutting the tick up, the last stretches go on as they are, under gravity alone.
    steered = stretch < most - 4;
    if (now > 0 || (state.under > 0 && !swims)) feel_water();  // a launch may end in the water that it began in
    if (now > 0) feel_walls(), try_jump();  // a press that waits: for a wall, for a dash or a lockout to end
    double time = dt - now;
    if (const double wait = jump.locked_for(now); wait > instant && jump.wanted(now + wait))
      time = std::min(time, wait);
    // How fast it wades depends on the depth, which changes all the while.
    if (!(now < wades_until - instant)) wades = state.under, wades_until = now + std::max(0.004, dt / 8);
    if (state.under > 0 && !swims && !state.on_ground) time = std::min(time, wades_until - now);
    if (dashing()) time = std::min(time, state.dash.left - now);
    if (launched()) time = std::min(time, state.launch.left - now);
    if (thrown()) time = std::min(time, stagger.left(now));
    if (wall_holds_off()) time = std::min(time, tuning.wall.hold_off - state.wall.since_jump - now);
    if (swims) {
      now += swim_stretch(time_afloat(time));
    } else if (state.on_ground) {
      refill();  // it may leave before the tick ends
      now += ground_stretch(time);
    } else {
      FlightPlan plan = plan_flight(lean(time));
      end_at_wall(plan);
      end_at_water(plan);
      const FlightPart part = begin_part(plan);
      now += plan.duration < instant ? plan.duration : fly(plan);
      if (touched_wall) state.wall.since_touch = -now;
      catch_ledge(part);
    }
    if (state.dash.left > 0 && !dashing()) end_dash();
  }
  if (dt - now <= instant || state.on_ground || swims) return;
  // Whatever kept it from passing: time passes, at the speed that it has.
  const Vec3 velocity = contacts.clip(state.velocity);
  now += fly({dt - now, velocity, {}, velocity * (dt - now), velocity, dot(velocity, state.up)});
}

void WalkerBrain::Tick::hear() {
  if (state.closed & gate::move) intent.move = {};
  if (state.closed & gate::jump) intent.jump = {};
  if (state.closed & gate::abilities) intent.dash = intent.launch = intent.crouch = {};
  jump.hear(intent.jump);
}

/// In the air it turns over about its middle, so that its feet do not go into what they were above.
void WalkerBrain::Tick::face_gravity() {
  const Vec3 g = surroundings.gravity(state.position);
  strength = norm(g);
  gravity_ratio = tuning.pull.own ? 1 : strength / tuning.pull.standard;
  if (strength > 0) {
    const Vec3 up = g / -strength;
    const bool turned_over = dot(up, state.up) < 0.9 || !state.on_ground;
    const bool just_put = state.placed && !state.settled;  // its feet are where they were put, whatever was up before
    if (turned_over && !just_put && state.ledge.hold == Hold::free)
      state.position += (state.up - up) * (0.5 * height());
    state.up = up;
  }
  state.facing = normalised(in_plane(state.facing, state.up), any_perpendicular(state.up));
}

/// A walker that is put on the ground stands there, without a landing, and goes with it; what it was given of a
/// velocity is its own.
void WalkerBrain::Tick::stand_where_placed() {
  state.placed = false;
  const Ground g = sense(state.position, skin, tuning.ground.probe);
  if (!g.walkable || dot(state.velocity, g.normal) > 1e-6) return;
  stand_on(g);
  state.velocity += g.velocity;
  state.footing = {g.body, {}, {}};
}

Filter WalkerBrain::Tick::others() const {
  Filter met = walker.filter;
  met.self = walker.body();
  met.layers &= ~(tuning.meeting == Meeting::pass ? walker_layer::all : walker_layer::passing);
  return met;
}

Filter WalkerBrain::Tick::solids() const {
  Filter solid = others();
  solid.through_one_way |= state.passing > 0 || (dashing() && tuning.dash.through_one_way);
  return solid;
}

bool WalkerBrain::Tick::room_for(const Vec3& feet, double lift, double tall, BodyId beside) const {
  std::array<Overlap, 1> found;
  UprightCapsule body = trunk(feet, lift, tall);
  body.radius -= skin;
  Filter those = solids();
  those.passed = beside;
  return surroundings.overlaps(body.view(), 0, found, those) == 0;
}

// Flights

/// What pulls it down: its jump's own gravity, as the moves change it.
FallLaw WalkerBrain::Tick::fall_law() const {
  FallLaw law = jump.law(gravity_ratio);
  if (state.wall.sliding) law.speed_limit = std::min(law.speed_limit, tuning.wall.slide_speed);
  if (dashing()) law.rising *= tuning.dash.gravity, law.falling *= tuning.dash.gravity;
  if (launched()) law.rising = 0;
  const double pull = std::max(0.0, intent.own.gravity);
  law.rising *= pull, law.falling *= pull, law.speed_limit *= std::max(0.0, intent.own.fall);
  if (own_path() == OwnPath::whole) law.rising = law.falling = 0;
  return law;
}

/// Goals that are reached at once (the apex, the limit of falling, the speed wished for) are met before the stretch
/// begins, and exactly: read back from a velocity in a turned world they would be missed by a rounding, and no time
/// pass.
FlightPlan WalkerBrain::Tick::plan_flight(double time) {
  FlightPlan plan;
  plan.velocity = contacts.clip(state.velocity);
  if (thrown()) contacts.leave(plan.velocity);  // what it is thrown off does not hold its slowing down
  plan.rising = dot(plan.velocity, state.up);
  if (plan.rising > least_rise) state.apex_due = true;
  Vec3 level = plan.velocity - state.up * plan.rising - state.carried;
  const FallLaw law = fall_law();
  const auto next_fall = [&] {
    return law.rising > 0 ? next_fall_ramp(plan.rising, law, time) : Ramp{time, 0, plan.rising};
  };
  const Vec3 wished = wish();  // as seen from what carries it
  Vec3 target =
      contacts.size() == 0 ? wished : in_plane(contacts.clip(state.carried + wished) - state.carried, state.up);
  const RunRates rates = rates_of(tuning.air, stagger.control(now + 0.5 * time));
  // What steers it against a plane presses, and reaches its goal only as far as the plane lets it come. What carries it
  // into that, on the way up along one that leans back, is not steered against.
  const double rounding = 1e-9 * norm(wished);
  const Vec3 into = contacts.pressing(wished - level, state.up);
  const Vec3 ahead = norm(into) < rounding ? Vec3{} : normalised(into), imposed = ahead * dot(level, ahead);
  const double short_by = dot(target - level, ahead);  // m/s
  const bool presses = short_by > rounding;
  const Vec3 press = ahead * (presses ? dot(next_ramp(level, target, rates, time).acceleration, ahead) : 0);
  level -= imposed, target -= ahead * dot(target, ahead);
  const auto next_drift = [&] { return next_ramp(level, target, rates, time); };
  Ramp fall = next_fall();
  RunRamp drift = next_drift();
  bool met = false;
  for (int goals = 0; goals < 4 && std::min(fall.duration, drift.duration) < instant; ++goals, met = true) {
    if (fall.duration < instant) {
      if (plan.rising > 0 && fall.end_speed <= 0) {
        note_apex();
        jump.fall();
      }
      plan.rising = fall.end_speed;
    }
    if (drift.duration < instant) level = drift.end_velocity;
    fall = next_fall(), drift = next_drift();
  }
  if (met) state.velocity = plan.velocity = contacts.clip(state.carried + level + imposed + state.up * plan.rising);
  if (plan.rising <= 0 && fall.acceleration < 0) note_apex();  // a dash may have ended the rise
  plan.acceleration = contacts.clip_force(drift.acceleration + press + state.up * fall.acceleration);
  if (const double gain = dot(plan.acceleration, ahead); gain > 0 && presses)
    drift.duration = std::min(drift.duration, short_by / gain);
  // What it has aside of its wish lasts as long as a plane holds that: who turns round comes to a stand first.
  if (const Vec3 free = contacts.clip_force(drift.acceleration); free != drift.acceleration && dot(level, target) < 0) {
    if (const double slows = -dot(free, level); slows > 0) drift.duration = std::min(time, squared_norm(level) / slows);
  }
  plan.duration = std::min(fall.duration, drift.duration);
  if (plan.duration < instant) return plan;
  plan.displacement = plan.velocity * plan.duration + plan.acceleration * (0.5 * plan.duration * plan.duration);
  plan.end_velocity = plan.velocity + plan.acceleration * plan.duration;
  if (contacts.size() == 0) {  // on the goals themselves, not a rounding beside them
    Vec3& v = plan.end_velocity;
    if (drift.duration == plan.duration) v += drift.end_velocity - in_plane(v - state.carried, state.up);
    if (fall.duration == plan.duration) v += state.up * (fall.end_speed - dot(v, state.up));
  }
  return plan;
}

/// Nothing was in the way of all of it.
void WalkerBrain::Tick::note_flown(const FlightPlan& plan) {
  state.position += as_seen(plan);
  state.velocity = plan.end_velocity;
  if (plan.rising > 0 && dot(state.velocity, state.up) <= 0) {
    now += plan.duration;
    if (plan.rising > least_rise) note_apex();
    now -= plan.duration;
    jump.fall();
  }
}

// Shows

void WalkerBrain::Tick::turn_to_face() {
  if (state.ledge.hold == Hold::free)
    state.facing = turned_to_face(state.facing, intent.move, state.up, tuning.facing_half_life, dt);
}

void WalkerBrain::Tick::choose_mode() {
  const auto mode = [&] {
    using enum WalkerMode;
    if (state.ledge.hold == Hold::climbing) return climbing;
    if (state.ledge.hold != Hold::free) return hanging;
    if (state.stagger.since + dt < state.stagger.lasts) return thrown;
    if (state.dash.left > dt + instant) return dashing;
    if (state.launch.left > dt + instant) return launched;
    if (intent.own.on()) return own_move;
    if (swims) return swimming;
    const Vec3 relative = state.velocity - (state.on_ground ? state.ground.velocity : Vec3{});
    if (state.on_ground || state.wedged) {
      if (state.crouched) return crouching;
      const bool moving = norm(in_plane(relative, state.up)) > 0.01 * tuning.run.top_speed;
      if (moving && state.under > 0.1) return wading;
      return moving ? running : idle;
    }
    if (state.wall.sliding) return wall_sliding;
    if (slid) return sliding;
    return dot(relative, state.up) > 0 ? rising : falling;
  };
  state.mode = mode();
}

/// What ground, walls, ledges and water give back, as soon as they are touched.
void WalkerBrain::Tick::refill() {
  jump.refresh();
  Charges{tuning.dash.charge, state.dash.charge}.refill();
  Charges{tuning.launch.charge, state.launch.charge}.refill();
}

void WalkerBrain::Tick::pass_time() {
  const double left = stagger.until_control(0);
  if (left > 1e-9 && left <= dt + 1e-9) {  // a rounding that is left of it is not told a second time
    now = std::min(left, dt);
    emit(WalkerEventKind::recovered);
  }
  if (state.on_ground || state.ledge.hold != Hold::free || swims || state.wall.sliding) refill();
  jump.pass(dt);
  stagger.pass(dt);
  state.dash.pass(dt), state.launch.pass(dt);
  Charges{tuning.dash.charge, state.dash.charge}.pass(dt), Charges{tuning.launch.charge, state.launch.charge}.pass(dt);
  state.wall.pass(dt);
  state.pushed.since += dt;
  state.ledge.since_drop += dt;
  state.passing = std::max(0.0, state.passing - dt);
}

}  // namespace jugend
