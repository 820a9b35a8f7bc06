// One fixed tick of a whole scene.
#pragma once

#include <cstdint>
#include <jugend/motion/bodies/led_body.hpp>
#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/motion/bodies/roller.hpp>
#include <jugend/motion/guidance/rail_motion.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/motion/walker/forced_walker.hpp>
#include <jugend/motion/walker/walker.hpp>
#include <jugend/world/world.hpp>
#include <string>
#include <variant>
#include <vector>

namespace jugend {

using Character = std::variant<Walker, ForcedWalker, Roller, LedBody, Vehicle, Multirotor>;

/// A character on the stage, with what drives it.
struct Actor {
  std::string name;
  Character character;
  WalkerIntent intent;                    ///< directions for the coming ticks; its buttons are filled from the latches
  PressLatch jump, dash, launch, crouch;  ///< set from input at any time between ticks
  VehicleIntent drive;                    ///< of a vehicle; a press of its gear lever counts for one tick
  MultirotorIntent fly;                   ///< of a multirotor
  Vec3 before;                            ///< where its feet were a tick earlier, for drawing
  WalkerEvents heard;                     ///< events of the last tick, whatever the character

  Walker& walker() { return std::get<Walker>(character); }
  const Walker& walker() const { return std::get<Walker>(character); }
  /// A hit; false where it does not count (see Walker::hit). All but walkers take the impulse of it.
  bool hit(const HitBy& hit, World& world);
};

/// What plots and tables ask of any actor.
struct ActorFacts {
  Vec3 position, velocity, facing;  ///< of feet (a ball: its lowest point)
  Vec3 up{0, 1, 0};
  WalkerMode mode = WalkerMode::idle;
  bool on_ground = false;
  double slope = 0;    ///< rad, of the ground stood on
  double control = 1;  ///< weight of input, 0 to 1
  Vec3 ground_velocity;
};

/// A body on rails.
struct Rail {
  BodyId body;
  RailMotion rail_motion;
  Pose start;
};

/// A copy of all that ticks change.
class StageSnapshot {
  friend class Stage;
  Snapshot world_;
  struct Saved {
    std::variant<WalkerState, RollerState, LedBodyState, VehicleState, MultirotorState> state;
    WalkerIntent intent;
    VehicleIntent drive;
    MultirotorIntent fly;
    PressLatch jump, dash, launch, crouch;
    Vec3 before;
  };
  std::vector<Saved> actors_;
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

class Stage {
 public:
  World world;

  /// Throws InputError for a name that is empty or taken.
  std::size_t add(std::string name, Walker walker);
  /// Makes the body, with its soles at `feet`. Throws InputError as the tunings' checks do.
  std::size_t add_forced(std::string name, const WalkerTuning& tuning, const LegsTuning& legs, const Vec3& feet,
                         const Vec3& facing = {1, 0, 0});
  /// Drives a dynamic ball of the world. Throws InputError for a body that is none.
  std::size_t add_roller(std::string name, const RollerTuning& tuning, BodyId ball);
  /// Leads a dynamic body: the intent's direction is the heading, its length the share of top speed. Throws
  /// InputError for a body that is not dynamic.
  std::size_t add_led_body(std::string name, const LedBodyTuning& tuning, BodyId body);
  /// Puts wheels under a dynamic body; it no longer sleeps. Throws InputError as Vehicle does.
  std::size_t add_vehicle(std::string name, const VehicleTuning& tuning, BodyId body);
  /// Puts rotors on a dynamic body. Throws InputError as Multirotor does.
  std::size_t add_multirotor(std::string name, const MultirotorTuning& tuning, BodyId body);
  /// Puts a kinematic body on rails. Throws InputError for a body of another kind.
  void add_rail(BodyId body, RailMotion rail_motion);
  const std::vector<Rail>& rails() const { return rails_; }

  Actor& actor(std::size_t index) { return actors_[index]; }
  const Actor& actor(std::size_t index) const { return actors_[index]; }
  std::size_t actors() const { return actors_.size(); }
  ActorFacts facts(std::size_t index) const;

  /// One tick: rails lead, intents are read, controllers sense the poses as they are and act, the world moves,
  /// controllers settle.
  void tick(double dt);
  std::uint64_t ticks() const { return ticks_; }
  double now() const { return now_; }  ///< s

  /// An actor's feet between the last two ticks, `fraction` of the way: for drawing.
  Vec3 drawn_position(std::size_t index, double fraction) const;

  void save(StageSnapshot& into) const;
  /// Throws InputError for a snapshot of another stage, or of one with other actors.
  void restore(const StageSnapshot& from);

  /// Of all that ticks have changed: equal for equal input, whatever the compiler or machine.
  std::uint64_t hash() const;

 private:
  std::size_t add_character(std::string name, Character character);
  void lead(double dt);

  std::vector<Actor> actors_;
  std::vector<Rail> rails_;
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

}  // namespace jugend
