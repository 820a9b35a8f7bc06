// One tick of a walker, as its parts see it. Inner to the walker.
//
// A tick is a chain of stretches. Each has one constant acceleration and ends where something changes: the
// apex, top speed, a wall, a landing, an edge, the end of a dash. So nothing depends on where ticks happen to
// fall. walker.cpp: the order of a tick, and what is sensed. walker_moves.cpp: what input starts.
// walker_ground.cpp: along the ground. walker_air.cpp: through the air. walker_holds.cpp: ledges and water.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/motion/walker/walker.hpp>
#include <optional>

namespace jugend {

/// The planes that a body is pressed against within a tick, and what they leave of a vector.
class PressedPlanes {
 public:
  void add(const Vec3& normal) { normals_.push_back(normal); }
  std::size_t size() const { return normals_.size(); }
  /// Forgets those that a motion with the velocity `v` leaves.
  void leave(const Vec3& v);
  /// The part of `v` that does not go into any of the planes: along one, along the crease of two, or nothing.
  Vec3 clip(const Vec3& v) const;

 private:
  Vec3 clipped(const Vec3& v) const;
  bool allowed(const Vec3& v) const;
  InlineList<Vec3, 6> normals_;
};

struct Walker::Tick {
  const WalkerTuning& tuning;
  WalkerIntent intent;
  WalkerState& state;
  WalkerEvents& events;
  const Walker& walker;
  Surroundings& surroundings;
  const double dt;
  const double skin = 1e-3 * tuning.body.radius;  // sweeps leave this much round the body, so that touching is free
  Jump jump{tuning.jump, state.jump};
  Stagger stagger{tuning.stagger, state.stagger};
  double now = 0;     // s into the tick
  double ridden = 0;  // s of it spent on the ground
  BodyId ridden_body{};
  double gravity_ratio = 1;
  PressedPlanes contacts{};  // what the body is pressed against in the air
  PressedPlanes barriers{};  // walls, and slopes too steep to walk up, met on the ground: level normals
  Vec3 kept{};               // m/s into bodies that give way: not moved by in this tick, but not lost
  bool slid = false, swam = false, push_spent = false;

  static constexpr double instant = 1e-12;  // s: less than this is no time at all

  // walker.cpp
  void run();
  void settle();
  void hear();
  void face_gravity();
  void leave_solids(double lift);
  void stand_where_placed();
  void refresh_ground();
  void settle_on(const Ground& g);
  void weigh();
  void feel_dangers();
  void turn_to_face();
  void choose_mode();
  void pass_time();
  double height() const { return tuning.height(state.crouched); }
  Filter solids() const {
    Filter solid = walker.filter;
    solid.through_one_way |= state.passing > 0 || (dashing() && tuning.dash.through_one_way > 0);
    return solid;
  }
  /// The capsule from `lift` above the sole to the crown, thinner all round by the skin.
  struct Trunk {
    std::array<Vec3, 2> ends;
    double radius;
    Convex view() const { return {ends, radius, Core::segment}; }
  };
  Trunk trunk(const Vec3& feet, double lift) const { return trunk(feet, lift, height()); }
  Trunk trunk(const Vec3& feet, double lift, double tall) const {
    const double r = tuning.body.radius;
    return {{feet + state.up * (lift + r), feet + state.up * std::max(lift + r, tall - r)}, r - skin};
  }
  bool room_for(const Vec3& feet, double lift, double tall) const;
  Ground sense(const Vec3& feet, double lift, double reach) const {
    return sense_ground({feet, state.up, tuning.body.radius, 2 * skin}, lift, reach, tuning.ground, surroundings,
                        solids());
  }
  /// The share of a motion after which the body without its skin off just touches what was hit.
  double backed_off(const Hit& hit, const Vec3& motion) const {
    const double closing = -dot(hit.normal, motion);
    return std::max(0.0, hit.distance - skin / std::max(closing, 1e-12));
  }
  void emit(WalkerEventKind kind, double value = 0, BodyId body = {}) {
    events.push_back({kind, now, state.position, value, body, JumpFrom::nowhere, {}});
  }
  /// The velocity of what it moves with: ground, or what it kept of it.
  Vec3 frame() const { return state.on_ground ? state.ground.velocity : state.carried; }

  // walker_moves.cpp
  void act();
  bool try_jump();
  JumpFrom at_hand(Ground& from) const;
  void jump_from(JumpFrom from);
  void leave_ground(bool walked);
  void remember_footing();
  void note_take_off();
  void kick(const Vec3& momentum);
  void start_dash();
  void end_dash();
  void start_launch();
  void crouch();
  bool feel_hit(const HitBy& hit);
  bool stomp(const BodyFacts& facts, const Hit& hit, const Vec3& relative);
  bool dashing() const { return state.dash.left > now + instant; }
  bool launched() const { return state.launch.left > now + instant; }
  bool thrown() const { return stagger.left(now) > instant; }
  Vec3 wish() const;
  /// The next stretch of a velocity in the plane of motion, whatever governs it.
  RunRamp next_ramp(const Vec3& velocity, const Vec3& target, const RunRates& rates, double time) const;

  // walker_ground.cpp
  /// Where a way along the ground ends, and what it meets.
  struct Walk {
    Vec3 position;
    Ground ground;
    double share = 1;          // of the way, done before a wall
    std::optional<Vec3> wall;  // its level normal
    Hit hit;                   // what stopped it
  };
  Walk try_walk(const Vec3& way) const;
  bool rises_like_ground(const Hit& hit) const;
  double ground_stretch(double time);
  void finish_ground_stretch(double time, const Vec3& relative);
  void meet_wall(const Vec3& n, BodyId body, const Vec3& at, Vec3& velocity, double spent);
  void board();
  void ride();

  // walker_air.cpp
  double air_stretch(double time, bool steered);
  double touch(const Hit& hit, const Vec3& velocity, const Vec3& acceleration, const Vec3& way, double duration);
  void land(const Ground& g, const Vec3& arriving);
  void feel_walls();
  FallLaw fall_law() const;
  void note_apex() {
    if (state.apex_due) emit(WalkerEventKind::apex, dot(state.position - state.take_off, state.up));
    state.apex_due = false;
  }

  // walker_holds.cpp
  void catch_ledge(const Vec3& from);
  bool hold_on();
  void place_on_ledge();
  void begin_climb();
  bool ledge_holds() const;
  void let_go();
  void feel_water();
  double swim_stretch(double time);
  /// Does the water carry it? Once it swims it goes on where it bobs a little higher.
  bool afloat() const {
    return state.under >= tuning.swim.float_share * (state.mode == WalkerMode::swimming ? 0.8 : 1 - 1e-6);
  }
};

/// `level`, tilted into the plane with unit normal `n` without changing its heading or length.
inline Vec3 tilted(const Vec3& level, const Vec3& n, const Vec3& up) {
  const double rise = dot(up, n);
  if (rise < 1e-6) return level;
  return normalised(level - up * (dot(level, n) / rise)) * norm(level);
}

}  // namespace jugend
