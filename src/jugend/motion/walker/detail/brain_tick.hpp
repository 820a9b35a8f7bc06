// One tick of a walker's brain, as its parts see it. Inner to the walkers.
//
// A tick is a chain of stretches. Each has one constant acceleration and ends where something changes: the apex, top
// speed, a landing, the end of a dash. So nothing depends on where ticks happen to fall. The brain says what a stretch
// is wanted to be; a body (swept_body.hpp, forced_body.hpp) carries it out, and may end it early.
//
// brain_tick.cpp: the order of a tick, what is shown and how time passes. brain_moves.cpp: what input starts.
// brain_senses.cpp: dangers, stomps, walls, water. brain_walls.cpp: what holds it back. brain_ledge.cpp: ledges.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/fetch.hpp>
#include <jugend/motion/walker/brain.hpp>
#include <limits>
#include <optional>

namespace jugend {

/// The planes that a body is pressed against within a tick, and what they leave of a vector.
class PressedPlanes {
 public:
  /// A plane that moves along its normal with `speed` (m/s).
  void add(const Vec3& normal, double speed = 0) { planes_.push_back({normal, speed}); }
  std::size_t size() const { return planes_.size(); }
  const Vec3& first() const { return planes_[0].normal; }
  /// held(normal): is it so for all of them?
  template <class Held>
  bool all(Held&& held) const {
    return std::all_of(planes_.begin(), planes_.end(), [&](const Plane& p) { return held(p.normal); });
  }
  /// Forgets those that a motion with the velocity `v` leaves.
  void leave(const Vec3& v);
  /// The velocity nearest to `v` that goes into none of the planes: along one, along the crease of two, or with their
  /// corner.
  Vec3 clip(const Vec3& v) const { return clip(v, 1); }
  /// The same for a force or an acceleration, to which the planes' speeds do not matter.
  Vec3 clip_force(const Vec3& f) const { return clip(f, 0); }
  /// `v`, as seen from the planes, without what leaves those that a `change` of it presses it back on to.
  Vec3 pressed_back(Vec3 v, const Vec3& change) const {
    for (const Plane& p : planes_) {
      const double off = dot(v, p.normal);
      if (off > 1e-12 * norm(v) && off <= -dot(change, p.normal)) v -= p.normal * off;
    }
    return v;
  }
  /// The shortest way off all of them, by `gap` (m).
  Vec3 off_by(double gap) const {
    PressedPlanes apart;
    for (const Plane& p : planes_) apart.add(p.normal, gap);
    return apart.clip({});
  }
  /// The velocity that the only one gives to what stays on it.
  Vec3 imposed() const { return planes_.size() == 1 ? planes_[0].normal * planes_[0].speed : Vec3{}; }
  /// What they take of a level force where it can only pass them sideways, not over them.
  Vec3 pressing(const Vec3& f, const Vec3& up) const;

 private:
  struct Plane {
    Vec3 normal;
    double speed = 0;
  };
  Vec3 clip(const Vec3& v, double speeds) const;
  Vec3 clipped(const Vec3& v, double speeds) const;
  Vec3 corner(double speeds) const;
  bool allowed(const Vec3& v, double speeds) const;
  InlineList<Plane, 6> planes_;
};

/// `level`, tilted into the plane with unit normal `n` without changing its heading or length.
inline Vec3 tilted(const Vec3& level, const Vec3& n, const Vec3& up) {
  const double rise = dot(up, n);
  if (rise < 1e-6) return level;
  return normalised(level - up * (dot(level, n) / rise)) * norm(level);
}

/// A capsule that stands upright, as queries sweep it.
struct UprightCapsule {
  std::array<Vec3, 2> ends;
  double radius;
  Convex view() const { return {ends, radius, Core::segment}; }
};

/// One stretch of a flight that nothing stops.
struct FlightPlan {
  double duration = 0;          ///< s
  Vec3 velocity, acceleration;  ///< as it begins
  Vec3 displacement;            ///< m
  Vec3 end_velocity;            ///< with goals met exactly
  double rising = 0;            ///< m/s upwards, as it begins

  void end_after(double time) {
    duration = time;
    displacement = velocity * time + acceleration * (0.5 * time * time);
    end_velocity = velocity + acceleration * time;
  }
};

struct WalkerBrain::Tick {
  const WalkerTuning& tuning;
  WalkerIntent intent;
  WalkerState& state;
  WalkerEvents& events;
  const WalkerBrain& walker;
  Surroundings& surroundings;
  const double dt;
  const double skin = 1e-3 * tuning.body.radius;  // sweeps leave this much round the body, so that touching is free
  Jump jump{tuning.jump, state.jump};
  Stagger stagger{tuning.stagger, state.stagger};
  double now = 0;            // s into the tick
  double strength = 0;       // m/s² of the gravity where it is
  double gravity_ratio = 1;  // of the gravity that its jumps are stated for
  double ridden = 0;         // s of it spent on the ground
  /// m/s. Queries see the world as it was when the tick began. So in a tick the position is as seen from a frame that
  /// has moved with this velocity since then: what moves with the frame is met as if both stood.
  Vec3 frame{};
  PressedPlanes contacts{};  // what the body is pressed against in the air
  PressedPlanes barriers{};  // walls, and slopes too steep to walk up, met on the ground: level normals
  std::optional<TouchedWall> touched_wall{};
  double wades = 0, wades_until = 0;  // what share of its height it wades in, and the s until which that counts
  bool leans = false;                 // may what held it back a moment ago hold it still?
  bool slid = false, swims = false;
  bool steered = true;  // false: no goal ends a stretch any more, so that time passes

  static constexpr double instant = 1e-12;    // s: less than this is no time at all
  static constexpr double least_rise = 1e-6;  // m/s upwards: less is a rounding, as a level dash has in a turned world

  Tick(WalkerBrain& brain, const WalkerIntent& wanted, Surroundings& around, double seconds)
      : tuning(brain.tuning_),
        intent(wanted),
        state(brain.state_),
        events(brain.events_),
        walker(brain),
        surroundings(around),
        dt(seconds) {
    fetch(&tuning, sizeof tuning), fetch(&state, sizeof state);
  }
  Tick(const Tick&) = delete;
  virtual ~Tick() = default;

  // What a body is and does.

  /// Finds out where it is, before anything is decided. False: there is nothing to move.
  virtual bool begin() = 0;
  /// The ground as it is in this tick: it may have moved, tilted or gone.
  virtual void refresh_ground() = 0;
  /// A stretch along the ground or in water, at most `time` long; the time that it took.
  virtual double ground_stretch(double time) = 0;
  virtual double swim_stretch(double time) = 0;
  /// A planned flight; the time of it that was flown.
  virtual double fly(const FlightPlan& plan) = 0;
  /// On to `g`, with the velocity `relative` to it and the speed `impact` down on to it.
  virtual void touch_down(const Ground& g, const Vec3& relative, double impact) = 0;
  /// Hands over what the stretches came to.
  virtual void finish(const Vec3& start) = 0;
  /// Where a body that it holds on to will be when this tick's hold counts.
  virtual Pose pose_held(const BodyFacts& held) const { return held.pose; }
  virtual void stand_on(const Ground& g) = 0;
  virtual double height(bool crouched) const = 0;                     // m, sole to crown
  virtual double feet_to_trunk() const { return 0; }                  // m from the soles up to the body itself
  virtual double clear_of_steps() const { return feet_to_trunk(); }   // and up to what steps cannot stop
  virtual Vec3 reached(const Vec3&) const { return state.position; }  // where it comes from there in this tick
  virtual const GroundTuning& footwork() const { return tuning.ground; }
  virtual Ground touched_at(const Vec3& feet) const = 0;  // by a foot there, walls beside it among that
  virtual double least_bank() const { return 1e-3; }      // the rise of a face from which a foot touches it first
  virtual double touch_margin() const { return skin; }    // m by which others stay off the body
  double near_gap() const { return touch_margin() + 2 * skin; }  // m from which on it is held by what is beside it
  virtual double take_off_bend() const { return 0; }             // m by which its legs are bent
  /// m/s that its trunk rises in the next `time` s beyond what running does: on legs that bend and stretch.
  virtual double trunk_rise(double) const { return 0; }
  double height() const { return height(state.crouched); }
  /// Where its trunk stays as it is: the soles come up by that (m), or go down.
  virtual void draw_in_feet(double) {}

  // brain_tick.cpp
  void run();
  void hear();
  void face_gravity();
  void stand_where_placed();
  void stretches();
  void turn_to_face();
  void choose_mode();
  void refill();
  void pass_time();
  FlightPlan plan_flight(double time);
  void note_flown(const FlightPlan& plan);
  FallLaw fall_law() const;
  Filter others() const;  // that it meets at all
  Filter solids() const;  // and that stop it now
  UprightCapsule trunk(const Vec3& feet, double lift) const { return trunk(feet, lift, height()); }
  UprightCapsule trunk(const Vec3& feet, double lift, double tall) const {
    const double r = tuning.body.radius;
    return {{feet + state.up * (lift + r), feet + state.up * std::max(lift + r, tall - r)}, r - skin};
  }
  bool room_for(const Vec3& feet, double lift, double tall, BodyId beside = {}) const;  // which it may touch
  Ground sense(const Vec3& feet, double lift, double reach) const { return sense(feet, lift, reach, solids()); }
  Ground sense(const Vec3& feet, double lift, double reach, const Filter& on) const {
    return sense_ground({feet, state.up, tuning.body.radius, 2 * skin, carrier(), feet_to_trunk() > 0}, lift, reach,
                        footwork(), surroundings, on);
  }
  /// The share of a motion after which the body without its skin off just touches what was hit.
  double backed_off(const Hit& hit, const Vec3& motion) const {
    const double closing = -dot(hit.normal, motion);
    return std::max(0.0, hit.distance - skin / std::max(closing, 1e-12));
  }
  void emit(WalkerEventKind kind, double value = 0, BodyId body = {}) {
    events.push_back({kind, now, place(), value, body, JumpFrom::nowhere, {}});
  }
  Vec3 place() const { return state.position + frame * now; }  // in the world, at this time
  void see_from(const Vec3& velocity) {
    state.position += (frame - velocity) * now;
    frame = velocity;
  }
  Vec3 as_seen(const FlightPlan& plan) const { return plan.displacement - frame * plan.duration; }
  /// The velocity of what it moves with: ground, or what it kept of it.
  Vec3 carrier() const { return state.on_ground ? state.ground.velocity : state.carried; }

  // brain_moves.cpp
  void act();
  void follow_own_path();
  /// Which part of its motion is the program's own now: a hit comes before it, and water carries what is not whole.
  OwnPath own_path() const {
    if (thrown() || (swims && intent.own.path == OwnPath::level)) return OwnPath::none;
    return intent.own.path;
  }
  bool try_jump();
  JumpFrom at_hand(Ground& from) const;
  void jump_from(JumpFrom from);
  double jump_speed(JumpFrom from, double bend) const;
  void leave_ground(bool walked);
  void remember_footing();
  void note_take_off();
  void note_apex() {
    if (state.apex_due) emit(WalkerEventKind::apex, dot(place() - state.take_off, state.up));
    state.apex_due = false;
  }
  void land(const Ground& g, const Vec3& arriving);
  void kick(const Vec3& momentum);
  void press(const Vec3& force);
  void start_dash();
  void end_dash();
  void start_launch();
  void crouch();
  void set_crouched(bool crouched);
  void bend_knees();  // on the ground, while it is asked to; it stands up where there is room
  bool feel_hit(const HitBy& hit);
  bool dashing() const { return state.dash.left > now + instant; }
  bool launched() const { return state.launch.left > now + instant; }
  bool thrown() const { return stagger.left(now) > instant; }
  /// After a jump from a wall: no input steers it back there yet.
  bool wall_holds_off() const { return tuning.wall.hold_off - (state.wall.since_jump + now) > instant; }
  Vec3 steered_move() const;
  Vec3 wish() const;
  /// The share of its rates that it runs with: what the ground and a throw leave of them.
  /// In the middle of a stretch of `time` (s), since control after a throw comes back all the while.
  double grip(double time = 0) const {
    return std::clamp(state.ground.surface.grip, 0.0, 1.0) * stagger.control(now + 0.5 * time);
  }
  /// The next stretch of a velocity in the plane of motion, whatever governs it.
  RunRamp next_ramp(const Vec3& velocity, const Vec3& target, const RunRates& rates, double time) const;
  /// The next stretch that takes time. Goals that are a rounding away are met at once, in `velocity` itself: read back
  /// from one that was tilted and clipped again they would use up all stretches, and no time pass.
  template <class Next>
  static RunRamp settled_ramp(Vec3& velocity, Next&& next) {
    RunRamp ramp = next(velocity);
    for (int goals = 0; goals < 4 && ramp.duration < instant; ++goals) ramp = next(velocity = ramp.end_velocity);
    return ramp;
  }
  /// The same along the ground. What gives way along -`pushed` it runs along and against each by itself: else what it
  /// has along that would count as aside of its wish, and be braked while that holds it up. `next` is told which of the
  /// two it is asked for.
  template <class Next>
  static RunRamp pushing_ramp(const Vec3& pushed, Vec3& velocity, const Vec3& target, const Next& next) {
    if (pushed == Vec3{}) return settled_ramp(velocity, [&](const Vec3& v) { return next(v, target, false); });
    Vec3 along = in_plane(velocity, pushed), into = velocity - along;
    const Vec3 to = in_plane(target, pushed);
    const RunRamp one = settled_ramp(along, [&](const Vec3& v) { return next(v, to, false); });
    const RunRamp other = settled_ramp(into, [&](const Vec3& v) { return next(v, target - to, true); });
    velocity = along + into;
    const Vec3 acceleration = one.acceleration + other.acceleration;
    const double duration = std::min(one.duration, other.duration);
    return {duration, acceleration, velocity + acceleration * duration};
  }
  /// And beside barriers, as seen from those: nor does it turn into one on the way to a velocity that leads away from
  /// it. What just leaves one that it is steered back on to stays on it: braked into that it would take no time, and
  /// never get there.
  template <class Next>
  RunRamp ground_ramp(const Vec3& pushed, Vec3& velocity, const Vec3& target, double time, const Next& next) const {
    RunRamp ramp = pushing_ramp(pushed, velocity, target, next);
    if (barriers.size() == 0) return ramp;
    Vec3 had = in_plane(velocity, state.up);
    const Vec3 kept = barriers.pressed_back(had, in_plane(ramp.acceleration, state.up) * (dt - now));
    if (kept != had) ramp = pushing_ramp(pushed, velocity = velocity_over(had = kept), target, next);
    const Vec3 level = in_plane(ramp.acceleration, state.up), free = barriers.clip_force(level);
    if (free == level) return ramp;
    // What it has aside of its wish lasts as long as the barrier holds that: who turns round comes to a stand first.
    const double slows = -dot(free, had);
    if (slows > 0 && dot(had, target) < 0) ramp.duration = std::min(time, squared_norm(had) / slows);
    ramp.acceleration = velocity_over(free);
    ramp.end_velocity = velocity + ramp.acceleration * ramp.duration;
    return ramp;
  }

  // brain_senses.cpp
  void feel_dangers();
  bool stomp(const BodyFacts& facts, const Hit& hit, const Vec3& relative);
  double wall_reach() const { return tuning.wall.reach + touch_margin() - skin; }
  void feel_walls();
  void end_at_wall(FlightPlan& plan) const;
  struct Wet {
    double under;  // share of its height
    bool carried;  // it swims
  };
  Medium water_at(const Vec3& place) const;
  double below_float(const Medium& water) const;
  Wet wet_at(const Vec3& place, double rising) const;
  void feel_water();
  void come_ashore(double time, double lift, double reach);
  void end_at_water(FlightPlan& plan) const;
  double time_afloat(double time) const;
  SwimStep plan_swim(double time) const;

  // brain_walls.cpp
  Vec3 opening(const Vec3& n, const Vec3& ground) const;
  double receding(const Vec3& n, double time) const;
  Vec3 narrowing(const Vec3& n, const Vec3& ground, const Vec3& heading) const;
  Vec3 over(const Vec3& level, const Vec3& n) const;
  Vec3 along_ground(const Vec3& level) const {
    return state.on_ground ? over(level, state.ground.touch_normal) : level;
  }
  /// A change of velocity that is level, as the ground it walks on has it; legs see to the rest by themselves.
  Vec3 velocity_over(const Vec3& level) const {
    return state.on_ground && feet_to_trunk() <= 0 ? over(level, state.ground.normal) : level;
  }
  std::optional<Hit> lean_on_walls(PressedPlanes& planes, double time);
  std::optional<Hit> lean_on_wall(PressedPlanes& planes, const Vec3& wished, double time);
  std::optional<Hit> bank_of(const Ground& g, const Vec3& feet, const Vec3& way) const;
  bool lean_on_bank(PressedPlanes& planes, const Vec3& wished, double time);
  /// A part of its way along a wall that turns away from it, in two halves.
  struct Arc {
    Vec3 from, to;    // the wall's normals where it begins and ends
    double time = 0;  // s of either half; 0: there is none
  } arc{};
  /// Is a stretch a part of such a way? What is cut for it is not cut again.
  enum class OnArc : std::uint8_t { no, cut, second_half } on_arc = OnArc::no;
  static constexpr double endless = std::numeric_limits<double>::infinity();
  /// s of the longest stretches once it has left a wall that turns away from it faster than it is pressed on to that:
  /// as long as a straight sweep does not meet it again.
  Vec3 withheld{};  // m/s into bodies that give way: not moved by in this tick, but not lost
  Vec3 slides{};    // m/s along itself, as seen from the frame, of the one that it leans on
  double clear_for = endless;
  double turn_with_wall(PressedPlanes& planes, double time);
  /// How much of a stretch the planes last that it is pressed against.
  struct Held {
    double time;            // s; 0: it leaves them at once
    bool to_the_end, face;  // is it all of the stretch, and then by faces?
    Arc arc;                // what comes then
  };
  /// A stretch as it is planned.
  struct Way {
    Vec3 displacement, velocity, acceleration;
    double duration;
    double time_at(double share) const;  ///< s; NaN: not in it
  };
  Held held_for(const PressedPlanes& planes, const Way& way);
  std::optional<Held> held_by_one(const Vec3& plane, const Way& way);
  /// Before a flight of at most `time` s is planned: on walls that hold it. s that it may last.
  double lean(double time) {
    time = turn_with_wall(contacts, time);
    lean_on_walls(contacts, time);
    return time;
  }
  std::optional<Hit> wall_behind(const Vec3& plane, const Vec3& feet, double reach) const;
  double pressure_on(const Vec3& wall) const;
  virtual double most_push() const { return endless; }      // m/s² along the ground
  virtual bool pushes_by_contact() const { return false; }  // as bodies do that meet
  bool rises_like_ground(const Hit& hit) const;
  bool is_face(const Hit& hit) const;  ///< not an edge or a corner

  // brain_ledge.cpp
  /// Of a flight, from where one plan begins: `start` in the world.
  struct FlightPart {
    Vec3 start, velocity, acceleration;
    double begin;  // s into the tick
    bool may_catch;
  };
  FlightPart begin_part(const FlightPlan& plan) const;
  void catch_ledge(const FlightPart& part);
  bool catch_ledge(const FlightPart& part, const Filter& those);
  bool hold_on();
  void place_on_ledge();
  void begin_climb();
  void end_climb(const BodyFacts& held);
  bool ledge_holds() const;
  void let_go();
};

}  // namespace jugend
