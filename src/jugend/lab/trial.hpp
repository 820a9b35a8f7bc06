// Trials: a level, actors with their tunings, and what is pressed when.
#pragma once

#include <filesystem>
#include <jugend/lab/kind.hpp>
#include <jugend/lab/level.hpp>
#include <optional>
#include <string>
#include <vector>

namespace jugend {

struct TrialActor {
  std::string name;
  ActorTuning tuning;
  Vec3 start;                    ///< of the feet
  std::optional<Vec3> velocity;  ///< m/s, against the ground that it stands on
  Vec3 facing{1, 0, 0};
  std::size_t body = 0;     ///< what it drives among the level's bodies, where it stands on no feet of its own
  std::vector<Vec3> route;  ///< it goes through these by itself
  double route_speed = 4;   ///< m/s
  bool route_closed = true;
  Place place{};  ///< in its file
};

/// What a key of a walker's player may do.
enum class Key : std::uint8_t { jump, dash, launch, crouch };
inline constexpr int key_count = 4;
const std::vector<std::string>& key_names();

/// Something that one actor's player, or fate, does at a time.
struct Cue {
  double at = 0;  ///< s from the start
  std::size_t actor = 0;
  CueAct act;
};

/// What a run may come to at most; refused with the estimate before anything is built.
struct RunLimits {
  std::size_t bodies = budget::bodies;
  std::size_t megabytes = 4000;  ///< of the trace
};

struct Trial {
  std::filesystem::path file;
  std::string title;
  Level level;
  std::vector<TrialActor> actors;
  std::vector<Cue> cues;              ///< by rising time
  double last_cue = 0;                ///< s: the latest that a file names
  double duration = 0;                ///< s
  double hz = 60;                     ///< ticks a second
  std::vector<std::string> settings;  ///< applied on top of the files, as "key=value"

  RunLimits limits;

  std::size_t ticks() const;  ///< the duration in whole ticks, rounded to the nearest
};

/// Throws InputError. docs/files.md lists the keys. Actors may be of the kinds given.
Trial read_trial(const std::filesystem::path& file, const LabKinds& kinds = standard_kinds(),
                 const RunLimits& limits = {});

/// Applies "key=value" from the command line: a tunable as "actor.jump.height" (the actor's name may be
/// left out where there is only one), "duration_s" or "hz". Throws InputError.
void apply_setting(Trial& trial, const std::string& setting);

}  // namespace jugend
