// A character on foot, moved by sweeps: it runs, jumps, dashes, hangs from ledges, swims, is thrown and rides.
#pragma once

#include <jugend/motion/walker/brain.hpp>

namespace jugend {

class Walker : public WalkerBrain {
 public:
  /// Throws InputError as check(tuning) does, or for a place or facing that is not finite.
  Walker(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing = {1, 0, 0})
      : WalkerBrain(tuning, feet, facing) {}

  /// One tick of `dt` seconds: senses, decides, moves. Nothing in it throws or allocates.
  void step(const WalkerIntent& intent, Surroundings& surroundings, double dt);
  /// After the world has moved: out of what has moved into it, on to what has come up under it. Without it
  /// the next step begins with that. Its events are added to the step's. With dt = 0 it looks where it was put.
  void settle(Surroundings& surroundings, double dt);

  /// Adds to the velocity, as a blast would; what it throws off the ground leaves it, and what goes into the ground
  /// that takes up.
  void add_velocity(const Vec3& change);
  double height() const { return tuning_.height(state_.crouched); }  ///< m

  // What others see of it: a proxy on walker_layer::swept that weighs as much. Who has a world of bodies puts one where
  // the walker is, and calls these; the stage does.

  /// From now on this body is its own.
  void show_as(BodyId body) { body_ = body; }
  /// Takes what others have given that body, whose velocity is `velocity` now.
  void take_from_body(const Vec3& velocity);
  /// What the body's velocity shall be until then.
  const Vec3& show_velocity() { return state_.shown = state_.velocity; }

 private:
  struct Body;  // detail/swept_body.hpp
};

}  // namespace jugend
