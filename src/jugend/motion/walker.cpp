// One tick is a chain of stretches. Each has one constant acceleration and ends where something changes:
// the apex, top speed, a wall, a landing, an edge. So nothing depends on where ticks happen to fall.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/walker.hpp>
#include <optional>

namespace jugend {
namespace {

constexpr double instant = 1e-12;  // s: less than this is no time at all

/// `level`, tilted into the plane with unit normal `n` without changing its heading or length.
Vec3 tilted(const Vec3& level, const Vec3& n, const Vec3& up) {
  const double rise = dot(up, n);
  if (rise < 1e-6) return level;
  return normalised(level - up * (dot(level, n) / rise)) * norm(level);
}

/// The planes that a body is pressed against within a tick, and what they leave of a vector.
class Contacts {
 public:
  void add(const Vec3& normal) { normals_.push_back(normal); }
  std::size_t size() const { return normals_.size(); }

  /// The part of `v` that does not go into any of the planes: along one, along the crease of two, or
  /// nothing.
  Vec3 clip(const Vec3& v) const {
    const Vec3 left = clipped(v);
    return squared_norm(left) > 1e-18 * squared_norm(v) ? left : Vec3{};  // a rounding is no way out
  }

 private:
  Vec3 clipped(const Vec3& v) const {
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
  bool allowed(const Vec3& v) const {
    const double slack = -1e-9 * norm(v) - 1e-300;
    return std::all_of(normals_.begin(), normals_.end(), [&](const Vec3& n) { return dot(v, n) >= slack; });
  }
  InlineList<Vec3, 6> normals_;
};

}  // namespace

struct Walker::Tick {
  const WalkerTuning& tuning;
  const WalkerIntent& intent;
  WalkerState& state;
  WalkerEvents& events;
  const Filter& filter;
  Surroundings& surroundings;
  const double dt;
  const double skin = 1e-3 * tuning.body.radius;  // sweeps leave this much round the body, so that touching is free
  double now = 0;                                 // s into the tick
  double ridden = 0;                              // s of it spent on the ground
  BodyId ridden_body{};
  double gravity_ratio = 1;
  Contacts contacts{};  // what the body is pressed against in the air
  Contacts barriers{};  // walls, and slopes too steep to walk up, met on the ground: level normals
  bool slid = false;

  void run() {
    face_gravity();
    leave_solids();
    if (state.placed) stand_where_placed();
    refresh_ground();
    if (intent.jump.presses > 0) jump();
    constexpr int most_stretches = 16;
    for (int stretch = 0; stretch < most_stretches && dt - now > instant; ++stretch) {
      // Where contacts keep cutting the tick up, the last stretches are gravity's alone: time must pass.
      const bool steered = stretch < most_stretches - 4;
      now += state.on_ground ? ground_stretch(dt - now) : air_stretch(dt - now, steered);
    }
    ride();
    turn_to_face();
    if (!state.on_ground) state.air_time += dt;
    choose_mode();
  }

  // Senses

  void face_gravity() {
    const Vec3 g = surroundings.gravity(state.position);
    const double strength = norm(g);
    gravity_ratio = strength / standard_gravity;
    if (strength > 0) state.up = g / -strength;
    state.facing = normalised(in_plane(state.facing, state.up), any_perpendicular(state.up));
  }

  /// The capsule from `lift` above the sole to the crown, thinner all round by the skin.
  struct Trunk {
    std::array<Vec3, 2> ends;
    double radius;
    Convex view() const { return {ends, radius, Core::segment}; }
  };
  Trunk trunk(const Vec3& feet, double lift) const {
    const double r = tuning.body.radius;
    return {{feet + state.up * (lift + r), feet + state.up * std::max(lift + r, tuning.body.height - r)}, r - skin};
  }

  Ground sense(const Vec3& feet, double lift, double reach) const {
    return sense_ground({feet, state.up, tuning.body.radius, 2 * skin}, lift, reach, tuning.ground, surroundings,
                        filter);
  }

  /// Something that moved may have come to overlap the body: step out of it.
  void leave_solids() {
    const double lift = state.on_ground ? tuning.ground.step_height : 0;
    for (int round = 0; round < 4; ++round) {
      std::array<Overlap, 8> found;
      const Trunk body = trunk(state.position, lift);
      const std::size_t n = std::min(found.size(), surroundings.overlaps(body.view(), 0, found, filter));
      if (n == 0) return;
      const auto deepest = std::max_element(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(n),
                                            [](const Overlap& a, const Overlap& b) { return a.depth < b.depth; });
      state.position += deepest->normal * (deepest->depth + 0.5 * skin);
    }
  }

  /// A walker that is put on the ground stands there, without a landing.
  void stand_where_placed() {
    state.placed = false;
    const Ground g = sense(state.position, skin, tuning.ground.probe);
    if (!g.walkable) return;
    settle_on(g);
    state.velocity += g.velocity;
  }

  /// The ground as it is in this tick: it may have moved, tilted or gone.
  void refresh_ground() {
    if (!state.on_ground) return;
    const Vec3 relative = state.velocity - state.ground.velocity;
    if (dot(relative, state.ground.normal) > thrown_off_speed()) return leave_ground();
    const Ground g = sense(state.position, tuning.ground.step_height, tuning.ground.step_height);
    if (!g.walkable) return leave_ground();
    settle_on(g);
    state.velocity = relative + g.velocity;
  }
  double thrown_off_speed() const { return 0.02 * tuning.jump.take_off_speed(); }

  void settle_on(const Ground& g) {
    state.position -= state.up * g.distance;
    state.ground = g;
    state.ground.distance = 0;
    state.on_ground = true;
  }

  // Decides

  void jump() {
    Ground from = state.ground;
    if (!state.on_ground) {
      // A hair above the ground, and not on the way up, counts as on it.
      if (dot(state.velocity, state.up) > 0 && !state.wedged) return;
      if (!state.wedged) {
        from = sense(state.position, skin, tuning.ground.probe);
        if (!from.walkable) return;
      }
    }
    state.ground = from;
    const Vec3 relative = state.velocity - from.velocity;
    const Vec3 level = in_plane(relative, state.up);
    const double wanted = tuning.jump.take_off_speed();
    // Up a slope, the jump must at least come off it: never into the ground that it leaves.
    const double rise = std::max(dot(from.normal, state.up), 0.1);
    const double speed = std::max(wanted, (0.1 * wanted - dot(level, from.normal)) / rise);
    state.velocity = from.velocity + level + state.up * speed;
    state.on_ground = false;
    emit(WalkerEventKind::jumped, speed);
    note_take_off();
  }

  void leave_ground() {
    state.on_ground = false;
    note_take_off();
  }
  void note_take_off() {
    state.carried = in_plane(state.ground.velocity, state.up);
    state.take_off_height = dot(state.position, state.up);
    state.air_time = -now;  // the rest of this tick is added at its end
    emit(WalkerEventKind::left_ground, 0);
  }

  void emit(WalkerEventKind kind, double value) { events.push_back({kind, now, state.position, value}); }

  Vec3 wish() const {
    const Vec3 level = in_plane(intent.move, state.up);
    const double size = norm(level);
    return (size > 1 ? level / size : level) * tuning.run.top_speed;
  }

  // Moves on the ground

  /// Where a way along the ground ends, and what it meets.
  struct Walk {
    Vec3 position;
    Ground ground;
    double share = 1;          // of the way, done before a wall
    std::optional<Vec3> wall;  // its level normal
  };

  /// The trunk goes a step's height above the ground, so that steps do not stop it; the foot then finds
  /// the ground below. The lower part of the body follows where those two have been.
  Walk try_walk(const Vec3& way) const {
    const double lift = tuning.ground.step_height;
    Walk walk{state.position, {}, 1, {}};
    Vec3 rest = way;
    for (int turn = 0; turn < 4 && squared_norm(rest) > 0; ++turn) {
      const auto hit = surroundings.sweep(trunk(walk.position, lift).view(), rest, filter);
      if (!hit) {
        walk.position += rest;
        break;
      }
      const Vec3 gone = rest * backed_off(*hit, rest);
      walk.position += gone;
      rest -= gone;
      if (!rises_like_ground(*hit)) {
        walk.wall = normalised(in_plane(hit->normal, state.up), -normalised(rest));
        walk.share = std::clamp(1 - norm(rest) / norm(way), 0.0, 1.0);
        break;
      }
      rest = tilted(in_plane(rest, state.up), hit->normal, state.up);
    }
    walk.ground = sense(walk.position, lift, lift);
    return walk;
  }

  /// Is what the trunk ran into ground that can be walked up: a face, not the edge of a high step?
  bool rises_like_ground(const Hit& hit) const {
    if (dot(hit.normal, state.up) < std::cos(tuning.ground.slope_limit)) return false;
    const double near = 0.1 * tuning.body.radius;
    const auto face = surroundings.cast({hit.point + hit.normal * near, -hit.normal, 2 * near}, filter);
    return face && dot(face->normal, hit.normal) > 1 - 1e-6;
  }

  /// The share of a motion after which the body without its skin off just touches what was hit.
  double backed_off(const Hit& hit, const Vec3& motion) const {
    const double closing = -dot(hit.normal, motion);
    return std::max(0.0, hit.distance - skin / std::max(closing, 1e-12));
  }

  double ground_stretch(double time) {
    const Ground& ground = state.ground;
    const Vec3 relative = state.velocity - ground.velocity;
    // The heading of its velocity, along the ground as it is here, at the speed that it has.
    const Vec3 heading = normalised(in_plane(relative, state.up));
    const Vec3 along = barriers.clip(tilted(heading, ground.normal, state.up) * norm(relative));
    const Vec3 target = barriers.clip(tilted(wish(), ground.normal, state.up));
    const double grip = std::clamp(ground.surface.grip, 0.0, 1.0);
    RunRates rates = rates_of(tuning.run, tuning.run.top_speed);
    rates = {rates.accelerate * grip, rates.brake * grip, rates.turn * grip};
    const RunRamp ramp = next_run_ramp(along, target, rates, time);
    const Vec3 way = along * ramp.duration + ramp.acceleration * (0.5 * ramp.duration * ramp.duration);
    if (way == Vec3{}) {
      finish_ground_stretch(ramp.duration, ramp.end_velocity);
      return ramp.duration;
    }

    Walk walk = try_walk(way);
    Ground beyond = walk.ground;
    if (!walk.ground.walkable) {  // it ends on the way, or becomes too steep: find the last place that holds
      double good = 0, bad = walk.share;
      for (int halving = 0; halving < 24; ++halving) {
        const double middle = 0.5 * (good + bad);
        const Walk half_way = try_walk(way * middle);
        (half_way.ground.walkable ? good : bad) = middle;
        if (!half_way.ground.walkable) beyond = half_way.ground;
      }
      walk = try_walk(way * good);
      walk.share = good;
    }
    // Time at that share of the way: way·(v t + a t²/2) = share × way·way.
    double spent = ramp.duration;
    if (walk.share < 1) {
      const double done = walk.share * dot(way, way);
      spent = first_root_within(0.5 * dot(way, ramp.acceleration), dot(way, along), -done, ramp.duration);
      if (!(spent >= 0)) spent = walk.share * ramp.duration;
    }
    const Vec3 velocity = walk.share < 1 ? along + ramp.acceleration * spent : ramp.end_velocity;
    if (norm(walk.position - state.position) > skin) barriers = {};  // it has left those that it met before
    if (walk.ground.walkable) {
      state.position = walk.position;
      settle_on(walk.ground);
    }
    if (walk.wall) barriers.add(*walk.wall);
    const Vec3 against = in_plane(beyond.touch_normal, state.up);
    const bool too_steep = !beyond.walkable && beyond.found && dot(against, way) < 0;
    if (too_steep) barriers.add(normalised(against));
    finish_ground_stretch(spent, barriers.clip(velocity));
    if (!beyond.walkable && !too_steep) {
      now += spent;
      leave_ground();
      now -= spent;
    }
    return spent;
  }

  void finish_ground_stretch(double time, const Vec3& relative) {
    // Along the ground that it has come to, at the same speed.
    const Vec3 heading = normalised(in_plane(relative, state.up));
    state.velocity = state.ground.velocity + tilted(heading, state.ground.normal, state.up) * norm(relative);
    ridden += time;
    ridden_body = state.ground.body;
  }

  /// Carried by ground that moves: by where its body will be at the end of the tick, rotation included.
  void ride() {
    if (ridden <= 0) return;
    const BodyFacts facts = surroundings.facts(ridden_body);
    if (!facts.moving) return;
    const Pose after = advanced(facts.pose, facts.velocity, facts.spin, ridden);
    const Vec3 way = to_world(after, to_local(facts.pose, state.position)) - state.position;
    Filter others = filter;
    others.ignored = ridden_body;
    const auto hit = surroundings.sweep(trunk(state.position, tuning.ground.step_height).view(), way, others);
    state.position += hit ? way * backed_off(*hit, way) : way;
  }

  // Moves in the air

  double air_stretch(double time, bool steered) {
    const Vec3 velocity = contacts.clip(state.velocity);
    const double rising = dot(velocity, state.up);
    const FallLaw law = tuning.jump.fall_law(gravity_ratio);
    const Ramp fall = gravity_ratio > 0 ? next_fall_ramp(rising, law, time) : Ramp{time, 0, rising};
    const Vec3 level = velocity - state.up * rising - state.carried;
    const Vec3 target = in_plane(contacts.clip(wish()), state.up);
    const RunRamp drift = steered ? next_run_ramp(level, target, rates_of(tuning.air, tuning.air.top_speed), time)
                                  : RunRamp{time, {}, level};
    const double duration = std::min(fall.duration, drift.duration);
    if (duration < instant) {  // a goal reached at once
      const Vec3 drifting = drift.duration < instant ? drift.end_velocity : level;
      const bool at_apex = fall.duration < instant;
      state.velocity = contacts.clip(state.carried + drifting + state.up * (at_apex ? fall.end_speed : rising));
      if (at_apex && rising > 0) emit(WalkerEventKind::apex, dot(state.position, state.up) - state.take_off_height);
      return duration;
    }
    const Vec3 acceleration = contacts.clip(drift.acceleration + state.up * fall.acceleration);
    const bool free = contacts.size() == 0;
    const Vec3 way = velocity * duration + acceleration * (0.5 * duration * duration);
    const auto hit = surroundings.sweep(trunk(state.position, 0).view(), way, filter);
    if (!hit) {
      state.position += way;
      state.velocity = velocity + acceleration * duration;
      if (free) {  // land on the goals themselves, not a rounding beside them
        if (drift.duration == duration)
          state.velocity += drift.end_velocity - in_plane(state.velocity - state.carried, state.up);
        if (fall.duration == duration) state.velocity += state.up * (fall.end_speed - dot(state.velocity, state.up));
      }
      if (rising > 0 && dot(state.velocity, state.up) <= 0) {
        now += duration;
        emit(WalkerEventKind::apex, dot(state.position, state.up) - state.take_off_height);
        now -= duration;
      }
      return duration;
    }
    return touch(*hit, velocity, acceleration, way, duration);
  }

  /// The end of a flight, or of a part of it: time and place of the touch, and what becomes of the speed.
  double touch(const Hit& hit, const Vec3& velocity, const Vec3& acceleration, const Vec3& way, double duration) {
    const double share = backed_off(hit, way);
    // The sweep goes straight, the flight is a parabola: of the same height above the plane touched, so
    // n·(v t + a t²/2) = n·way × share gives the time, and the parabola the place.
    const Vec3& n = hit.normal;
    double spent = first_root_within(0.5 * dot(n, acceleration), dot(n, velocity), -dot(n, way) * share, duration);
    if (!(spent >= 0)) spent = share * duration;
    const Vec3 on_chord = way * share;
    const Vec3 aside = velocity * spent + acceleration * (0.5 * spent * spent) - on_chord;
    state.position += on_chord;
    const auto blocked = surroundings.sweep(trunk(state.position, 0).view(), aside, filter);
    if (!blocked) state.position += aside;

    const Vec3 arriving = velocity + acceleration * spent;
    const Vec3 of_body = surroundings.facts(hit.body).velocity_at(hit.point);
    const Vec3 relative = arriving - of_body;
    now += spent;
    state.velocity = arriving;
    if (dot(relative, state.up) <= 1e-9 && dot(n, state.up) > 0) {
      const Ground g = sense(state.position, 4 * skin, 4 * skin);
      if (g.walkable) {
        land(g, arriving);
        now -= spent;
        return spent;
      }
    }
    const double into = -dot(relative, n);
    if (into > 0) state.velocity += n * into;
    if (dot(n, state.up) < -0.1 && dot(arriving, state.up) > 0) emit(WalkerEventKind::bumped_head, std::max(0.0, into));
    if (dot(arriving, state.up) > 0 && dot(state.velocity, state.up) <= 1e-12) {
      emit(WalkerEventKind::apex, dot(state.position, state.up) - state.take_off_height);
    }
    now -= spent;
    if (norm(on_chord) > 0.1 * skin) contacts = {};  // it has left those that it touched before
    contacts.add(n);
    const double lean = dot(n, state.up);
    if (lean > 0.02) slid = true;
    // Slopes that are each too steep can hold together; then there is no way down.
    state.wedged = slid && contacts.size() > 1 && dot(contacts.clip(-state.up), state.up) > -1e-6;
    if (state.wedged) state.velocity = in_plane(state.velocity, state.up);
    return spent;
  }

  void land(const Ground& g, const Vec3& arriving) {
    const Vec3 relative = arriving - g.velocity;
    settle_on(g);
    state.wedged = false;
    contacts = {};
    emit(WalkerEventKind::landed, std::max(0.0, -dot(relative, state.up)));
    state.velocity = g.velocity + tilted(in_plane(relative, state.up), g.normal, state.up);
  }

  // Shows

  void turn_to_face() {
    const Vec3 level = in_plane(intent.move, state.up);
    if (squared_norm(level) < 0.0025) return;
    const Vec3 goal = normalised(level);
    const double angle = std::atan2(dot(cross(state.facing, goal), state.up), dot(state.facing, goal));
    const double turned = angle - smoothed(angle, 0.0, tuning.facing_half_life, dt);
    state.facing = normalised(in_plane(rotate(rotation(state.up * turned), state.facing), state.up), state.facing);
  }

  void choose_mode() {
    const Vec3 relative = state.velocity - (state.on_ground ? state.ground.velocity : Vec3{});
    if (state.on_ground || state.wedged) {
      const bool moving = norm(relative) > 0.01 * tuning.run.top_speed;
      state.mode = moving ? WalkerMode::running : WalkerMode::idle;
    } else if (slid) {
      state.mode = WalkerMode::sliding;
    } else {
      state.mode = dot(relative, state.up) > 0 ? WalkerMode::rising : WalkerMode::falling;
    }
  }
};

void Walker::step(const WalkerIntent& intent, Surroundings& surroundings, double dt) {
  events_.clear();
  Tick{tuning_, intent, state_, events_, filter, surroundings, dt}.run();
}

Walker::Walker(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing) : tuning_(tuning) {
  check(tuning);
  if (!is_finite(feet)) throw InputError({{}, "start", "a number that is not finite", "finite numbers", {}});
  if (!is_finite(facing) || norm(facing) == 0) throw InputError({{}, "facing", "no direction", "a direction", {}});
  state_.position = feet;
  state_.facing = normalised(facing);
  state_.take_off_height = dot(feet, state_.up);
}

const char* name_of(WalkerMode mode) {
  static constexpr const char* names[] = {"idle", "running", "rising", "falling", "sliding"};
  return names[static_cast<int>(mode)];
}

const char* name_of(WalkerEventKind kind) {
  static constexpr const char* names[] = {"jumped", "left_ground", "apex", "landed", "bumped_head"};
  return names[static_cast<int>(kind)];
}

}  // namespace jugend
