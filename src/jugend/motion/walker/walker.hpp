// A character on foot, moved by sweeps: it runs, jumps, dashes, hangs from ledges, swims, is thrown and rides.
#pragma once

#include <jugend/motion/walker/brain.hpp>

namespace jugend {

class Walker : public WalkerBrain {
 public:
  /// Throws InputError as check(tuning) does, or for a place or facing that is not finite.
  Walker(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing = {1, 0, 0})
      : WalkerBrain(tuning, feet, facing) {}

  /// Other numbers from the next tick on; its state stays, what it is doing goes on by them. Throws InputError as
  /// check(tuning) does: then nothing has changed.
  void set_tuning(const WalkerTuning& tuning, const Surroundings&) { check(tuning), tuning_ = tuning; }
  /// One tick of `dt` seconds: senses, decides, moves. Nothing in it throws or allocates.
  void step(const WalkerIntent& intent, Surroundings& surroundings, double dt);
  /// After the world has moved: out of what has moved into it, on to what has come up under it. Without it
  /// the next step begins with that. Its events are added to the step's. With dt = 0 it looks where it was put.
  void settle(Surroundings& surroundings, double dt);

  /// Adds to the velocity, as a blast would; what it throws off the ground leaves it, and what goes into the ground
  /// that takes up.
  void add_velocity(const Vec3& change);
  double height() const { return tuning_.height(state_.crouched); }  ///< m

  /// The first thing that settle() does, for who has several walkers: before any of them settles, each is where what it
  /// stands on has carried it. May be asked again where that is a walker who is carried as well; did it move it?
  bool be_carried(Surroundings& surroundings);

  /// From now on others see it by this body: a proxy on walker_layer::swept that weighs as much. Who has a world of
  /// bodies puts one where the walker is after each tick, and hands on what it was pushed by; the stage does.
  void show_as(BodyId body) { set_body(body); }

 private:
  struct Body;  // detail/swept_body.hpp
};

}  // namespace jugend
