// The tuning of an actor of a trial, whatever its kind.
#pragma once

#include <jugend/motion/bodies/led_body.hpp>
#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/motion/bodies/roller.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/motion/walker/forced_walker.hpp>
#include <string>
#include <vector>

namespace jugend {

enum class ActorKind : std::uint8_t { walker, forced, roller, led_body, vehicle, multirotor };
const std::vector<std::string>& actor_kinds();  ///< their names, in the enum's order

struct ActorTuning {
  ActorKind kind = ActorKind::walker;
  ForcedTuning figure;  ///< of walkers: a swept one ignores the legs
  RollerTuning roller;
  LedBodyTuning led_body;
  VehicleTuning vehicle;
  MultirotorTuning multirotor;

  const WalkerTuning& walker() const { return figure.walker; }
  bool drives_body() const { return kind >= ActorKind::roller; }  ///< of the level
  bool is_walker() const { return kind <= ActorKind::forced; }
  double top_speed() const {
    switch (kind) {
      case ActorKind::roller: return roller.top_speed;
      case ActorKind::led_body: return led_body.top_speed;
      case ActorKind::vehicle: return vehicle.drive.top_speed;
      case ActorKind::multirotor: return multirotor.speed_limit;
      default: return figure.walker.run.top_speed;
    }
  }
  /// m; of what leads a body of the level only its place is known.
  double height() const {
    return is_walker() ? figure.walker.body.height : kind == ActorKind::roller ? 2 * roller.radius : 0;
  }
  /// What can be tuned of this kind, and the struct that it is read from.
  TunableList list() const;
  void* data() {
    switch (kind) {
      case ActorKind::roller: return &roller;
      case ActorKind::led_body: return &led_body;
      case ActorKind::vehicle: return &vehicle;
      case ActorKind::multirotor: return &multirotor;
      default: return &figure;
    }
  }
  const void* data() const { return const_cast<ActorTuning*>(this)->data(); }
};

/// Throws InputError where tunables do not fit together.
void check(const ActorTuning& tuning);

}  // namespace jugend
