// A walker on a dynamic body: held over the ground by a spring, moved by limited forces, pushed by what it meets.
//
//   const BodyId body = world.add(figure_plan(tuning, ride, feet));
//   ForcedWalker courier(tuning, ride, body);
//   courier.step(intent, world, dt);   // before world.step(dt)
#pragma once

#include <jugend/motion/walker/walker.hpp>

namespace jugend {

/// How its body is held and moved.
struct RideTuning {
  double clearance = 0.35;      ///< m from the soles up to the body: the legs; steps this high are walked over
  double frequency = 7;         ///< Hz of the spring that holds it there, critically damped
  double spring_force = 30;     ///< the most that it pushes, as a multiple of the weight
  double run_force = 2500;      ///< N, the most with which it runs and brakes
  double upright = 8;           ///< Hz: how fast it comes back upright, critically damped
  double upright_torque = 900;  ///< N m, the most for that
};
/// All that can be tuned about such a walker.
struct ForcedTuning {
  WalkerTuning walker;  // first: its tunables are read through the whole
  RideTuning ride;
};
TunableList forced_tunables();  ///< a walker's, and the ride's
/// Throws InputError for numbers out of range, or a clearance that leaves no body.
void check(const RideTuning& ride, const WalkerTuning& walker);

/// The capsule of such a walker: m from its middle to its ends' middles, and from its soles up to its middle.
struct Figure {
  double half_length = 0, middle = 0;
};
Figure figure_of(const WalkerTuning& tuning, const RideTuning& ride);

struct ForcedWalkerState {
  Vec3 feet;             ///< where the soles are, or would be
  Vec3 velocity;         ///< m/s of the body, as the tick began
  Vec3 facing{1, 0, 0};  ///< unit, level
  Vec3 up{0, 1, 0};
  bool on_ground = false;
  bool rising = false;  ///< from a take-off until the apex: ground does not hold it
  WalkerMode mode = WalkerMode::falling;
  Ground ground;
  Vec3 carried, take_off;
  double air_time = 0;
  JumpState jump;
  BurstState dash, launch;
  StaggerState stagger;
  Footing footing;
  WallState wall;
  LedgeState ledge;
  bool crouched = false;
  bool cramped = false;  ///< crouched where there is no room to stand
  double under = 0;      ///< share of its height that is under water
  HitBy hit;
  bool was_hit = false;
  bool placed = true;  ///< has not looked for ground yet
};

/// Of a walker's tuning it uses all but push.force (its contacts push), ground.step_height (its legs' clearance),
/// ground.probe and crouch.height_share: it crouches as low as its legs fold, to a tenth of the clearance. Through
/// one-way ground it comes from below, but does not drop.
class ForcedWalker {
 public:
  /// Throws InputError as the checks do.
  ForcedWalker(const WalkerTuning& tuning, const RideTuning& ride, BodyId body, const Vec3& facing = {1, 0, 0});

  /// One tick, before the surroundings move: reads what physics made of the body, and adds forces and impulses.
  void step(const WalkerIntent& intent, Surroundings& surroundings, double dt);
  bool hit(const HitBy& hit);
  JumpAnswer can_jump() const;

  BodyId body() const { return body_; }
  /// m from the soles up to the middle of the body, as it stands or crouches.
  double middle() const;
  const ForcedWalkerState& state() const { return state_; }
  void restore(const ForcedWalkerState& state) { state_ = state; }
  const WalkerEvents& events() const { return events_; }
  const WalkerTuning& tuning() const { return tuning_; }
  const RideTuning& ride() const { return ride_; }
  Filter filter;
  std::uint32_t stompable = 0, dangers = 0;  ///< layers, as of Walker

 private:
  struct Tick;
  WalkerTuning tuning_;
  RideTuning ride_;
  BodyId body_;
  ForcedWalkerState state_;
  WalkerEvents events_;
};

}  // namespace jugend
