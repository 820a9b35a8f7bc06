// A character on foot, moved by sweeps: it runs, jumps, falls, stands, slides and lands.
#pragma once

#include <jugend/base/inline_list.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/ground.hpp>
#include <jugend/motion/jump.hpp>
#include <jugend/motion/latch.hpp>
#include <jugend/motion/run.hpp>
#include <jugend/motion/surroundings.hpp>

namespace jugend {

struct WalkerTuning {
  struct Body {
    double radius = 0.3;   ///< m
    double height = 1.74;  ///< m, sole to crown
    double mass = 61;      ///< kg
  } body;
  RunTuning run;
  RunTuning air{6, 0.6, 2.0, 0.35};  ///< the same in the air; its top speed is a limit to what input adds
  JumpTuning jump;
  GroundTuning ground;
  double facing_half_life = 0.05;  ///< s, of the angle between facing and input
};

/// Every tunable of a walker.
TunableList walker_tunables();
/// Throws InputError where tunables that are fine one by one do not fit together.
void check(const WalkerTuning& tuning);

/// What is wanted of a walker in this tick.
struct WalkerIntent {
  Vec3 move;  ///< direction in the world, length the share of top speed, at most 1; its part along up is ignored
  Button jump;
};

enum class WalkerMode : std::uint8_t { idle, running, rising, falling, sliding };
const char* name_of(WalkerMode mode);

enum class WalkerEventKind : std::uint8_t { jumped, left_ground, apex, landed, bumped_head };
const char* name_of(WalkerEventKind kind);

struct WalkerEvent {
  WalkerEventKind kind{};
  double time = 0;   ///< s into this tick, 0 to dt: events are timed finer than ticks
  Vec3 position;     ///< of the feet
  double value = 0;  ///< landed: impact speed, m/s; apex: m above take-off; bumped_head: m/s into the ceiling
};
using WalkerEvents = InlineList<WalkerEvent, 16>;

/// All that a tick changes. Trivially copyable: copy it to save, hand it back to restore.
struct WalkerState {
  Vec3 position;         ///< of the feet
  Vec3 velocity;         ///< m/s in the world
  Vec3 facing{1, 0, 0};  ///< unit, level
  Vec3 up{0, 1, 0};      ///< unit, against gravity
  bool placed = true;    ///< put here, and has not looked for ground yet
  bool on_ground = false;
  bool wedged = false;  ///< held between slopes that are each too steep: may jump, cannot fall
  WalkerMode mode = WalkerMode::falling;
  Ground ground;               ///< what it stands on, or last stood on
  Vec3 carried;                ///< m/s, the ground's level velocity at take-off: the frame of air control
  double take_off_height = 0;  ///< along up, where it last left the ground
  double air_time = 0;         ///< s since then
};

class Walker {
 public:
  /// Throws InputError as check(tuning) does, or for a place or facing that is not finite.
  Walker(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing = {1, 0, 0});

  /// One tick of `dt` seconds: senses, decides, moves. Nothing in it throws or allocates.
  void step(const WalkerIntent& intent, Surroundings& surroundings, double dt);

  /// Adds to the velocity, as a hit or blast would; what it throws off the ground leaves it.
  void add_velocity(const Vec3& change) { state_.velocity += change; }

  const WalkerState& state() const { return state_; }
  void restore(const WalkerState& state) { state_ = state; }
  const WalkerEvents& events() const { return events_; }  ///< of the last tick, in order
  const WalkerTuning& tuning() const { return tuning_; }
  /// Bodies that it does not touch or stand on.
  Filter filter;

 private:
  struct Tick;  // one tick's work: walker.cpp

  WalkerTuning tuning_;
  WalkerState state_;
  WalkerEvents events_;
};

}  // namespace jugend
