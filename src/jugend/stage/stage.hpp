// One fixed tick of a whole scene.
#pragma once

#include <cstdint>
#include <jugend/motion/walker.hpp>
#include <jugend/world/world.hpp>
#include <string>
#include <vector>

namespace jugend {

/// A walker on the stage, with what drives it.
struct Actor {
  std::string name;
  Walker walker;
  WalkerIntent intent;  ///< direction for the coming ticks; its button is filled from the latch
  PressLatch jump;      ///< set from input at any time between ticks
  WalkerState before;   ///< one tick earlier, for drawing
};

class Stage {
 public:
  World world;

  /// Throws InputError for a name that is empty or taken.
  std::size_t add(std::string name, Walker walker);
  Actor& actor(std::size_t index) { return actors_[index]; }
  const Actor& actor(std::size_t index) const { return actors_[index]; }
  std::size_t actors() const { return actors_.size(); }

  /// One tick: intents are read, controllers sense the poses as they are and act, the world moves.
  void tick(double dt);
  std::uint64_t ticks() const { return ticks_; }

  /// An actor's feet between the last two ticks, `fraction` of the way: for drawing.
  Vec3 drawn_position(std::size_t index, double fraction) const;

  /// Of all that ticks have changed: equal for equal input, whatever the compiler or machine.
  std::uint64_t hash() const;

 private:
  std::vector<Actor> actors_;
  std::uint64_t ticks_ = 0;
};

}  // namespace jugend
