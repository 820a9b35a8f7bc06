// A walker on a dynamic body: held over the ground by its legs, moved by limited forces, pushed by what it meets.
//
//   const BodyId body = world.add(figure_plan(tuning, legs, feet));
//   ForcedWalker courier(tuning, legs, body);
//   courier.step(intent, world, dt);   // before world.step(dt)
#pragma once

#include <jugend/motion/walker/walker.hpp>

namespace jugend {

/// The legs that hold its body over the ground and move it, and what keeps it upright.
struct LegsTuning {
  double clearance = 0.35;      ///< m from the soles up to the body; steps this high are walked over
  double frequency = 7;         ///< Hz with which legs come back to their length, critically damped
  double force_limit = 30;      ///< the most that they push, as a multiple of the weight
  double run_force = 2500;      ///< N, the most with which it runs and brakes
  double balance = 8;           ///< Hz: how fast it comes back upright, critically damped
  double balance_torque = 900;  ///< N m, the most for that
};
/// All that can be tuned about such a walker.
struct ForcedTuning {
  WalkerTuning walker;  // first: its tunables are read through the whole
  LegsTuning legs;
};
const Tunables& forced_tunables();  ///< a walker's, and the legs'
template <>
struct TunablesOf<ForcedTuning> {
  static const Tunables& list() { return forced_tunables(); }
};
/// Throws InputError for numbers out of range, or a clearance that leaves no body.
void check(const LegsTuning& legs, const WalkerTuning& walker);

/// The capsule of such a walker: m from its middle to its ends' middles, and from its soles up to its middle.
struct Figure {
  double half_length = 0, middle = 0;
};
Figure figure_of(const WalkerTuning& tuning, const LegsTuning& legs);

/// Of a walker's tuning it uses all but push.force (its contacts push), ground.step_height (its legs' clearance)
/// and crouch.height_share: it crouches as low as its legs fold, to a tenth of the clearance. Through one-way ground it
/// comes from below, but does not drop.
class ForcedWalker : public WalkerBrain {
 public:
  /// Throws InputError as the checks do.
  ForcedWalker(const WalkerTuning& tuning, const LegsTuning& legs, BodyId body, const Vec3& facing = {1, 0, 0});

  /// Other numbers from the next tick on; its state stays, what it is doing goes on by them. Its body's shape and mass
  /// are for who made it; the stage fits them. Throws InputError as the checks do: then nothing has changed.
  void set_tuning(const WalkerTuning& tuning, const Surroundings&) { check(legs_, tuning), tuning_ = tuning; }
  void set_tuning(const ForcedTuning& all, const Surroundings&) {
    check(all.legs, all.walker), tuning_ = all.walker, legs_ = all.legs;
  }
  void set_tuning(const LegsTuning& legs, const Surroundings&) { check(legs, tuning_), legs_ = legs; }
  /// One tick, before the surroundings move: reads what physics made of the body, and adds forces and impulses.
  void step(const WalkerIntent& intent, Surroundings& surroundings, double dt);
  /// After the world has moved: reads where its body has come. Without it the next step begins with that.
  void settle(Surroundings& surroundings, double dt);
  /// Adds to the body's velocity in the next tick.
  void add_velocity(const Vec3& change) { state_.knock += change; }

  /// m from the soles up to the middle of the body, as it stands or crouches.
  double middle() const;
  double height() const;  ///< m, sole to crown, as it stands or crouches
  const LegsTuning& legs() const { return legs_; }
  ForcedTuning whole_tuning() const { return {tuning_, legs_}; }

 private:
  struct Body;  // detail/forced_body.hpp
  LegsTuning legs_;
};

}  // namespace jugend
