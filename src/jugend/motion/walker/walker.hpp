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

  /// Adds to the velocity, as a blast would; what it throws off the ground leaves it.
  void add_velocity(const Vec3& change) { state_.velocity += change; }
  double height() const { return tuning_.height(state_.crouched); }  ///< m

 private:
  struct Body;  // detail/swept_body.hpp
};

}  // namespace jugend
