// The tuning of an actor of a trial, whatever its kind.
#pragma once

#include <jugend/motion/forced_walker.hpp>
#include <jugend/motion/pacer.hpp>
#include <jugend/motion/roller.hpp>
#include <string>
#include <vector>

namespace jugend {

enum class ActorKind : std::uint8_t { walker, forced, roller, pacer };
const std::vector<std::string>& actor_kinds();  ///< their names, in the enum's order

struct ActorTuning {
  ActorKind kind = ActorKind::walker;
  ForcedTuning figure;  ///< of walkers: a swept one ignores the ride
  RollerTuning roller;
  PacerTuning pacer;

  const WalkerTuning& walker() const { return figure.walker; }
  bool drives_body() const { return kind == ActorKind::roller || kind == ActorKind::pacer; }  ///< of the level
  double top_speed() const {
    return kind == ActorKind::roller  ? roller.top_speed
           : kind == ActorKind::pacer ? pacer.top_speed
                                      : figure.walker.run.top_speed;
  }
  /// m; of a pacer only its place is known.
  double height() const {
    return kind == ActorKind::roller ? 2 * roller.radius : kind == ActorKind::pacer ? 0 : figure.walker.body.height;
  }
  /// What can be tuned of this kind, and the struct that it is read from.
  TunableList list() const;
  void* data() {
    if (kind == ActorKind::pacer) return &pacer;
    return kind == ActorKind::roller ? static_cast<void*>(&roller) : &figure;
  }
  const void* data() const { return const_cast<ActorTuning*>(this)->data(); }
};

/// Throws InputError where tunables do not fit together.
void check(const ActorTuning& tuning);

}  // namespace jugend
