// Trials: a level, actors with their tunings, and what is pressed when.
#pragma once

#include <filesystem>
#include <jugend/lab/actor_tuning.hpp>
#include <jugend/lab/level.hpp>
#include <optional>
#include <string>
#include <vector>

namespace jugend {

struct TrialActor {
  std::string name;
  ActorTuning tuning;
  Vec3 start;  ///< of the feet
  Vec3 facing{1, 0, 0};
  std::size_t body = 0;     ///< what it drives among the level's bodies, where it is no walker
  std::vector<Vec3> route;  ///< of a led_body or vehicle: it goes through these by itself
  double route_speed = 4;   ///< m/s
  bool route_closed = true;
};

/// What a key of the player's may do.
enum class Key : std::uint8_t { jump, dash, launch, crouch };
inline constexpr int key_count = 4;
const std::vector<std::string>& key_names();

/// A change of what one actor's player does. `run` holds until the next cue that sets it.
struct Cue {
  double at = 0;  ///< s from the start
  std::size_t actor = 0;
  bool sets_run = false;
  double run_ahead = 0;  ///< share of top speed along x, -1 to 1
  double run_right = 0;  ///< and along z
  std::optional<Key> press;
  double hold = 0;  ///< s that the press lasts; 0: a tap, shorter than any tick
  std::optional<Vec3> aim;
  std::optional<VehicleIntent> drive;   ///< until the next cue that has one
  std::optional<MultirotorIntent> fly;  ///< likewise
  std::optional<int> fail;              ///< this rotor stands still from now on
  std::optional<HitBy> hit;             ///< its place is the side of the body that it comes from, half-way up
};

struct Trial {
  std::filesystem::path file;
  std::string title;
  Level level;
  std::vector<TrialActor> actors;
  std::vector<Cue> cues;              ///< by rising time
  double duration = 0;                ///< s
  double hz = 60;                     ///< ticks a second
  std::vector<std::string> settings;  ///< applied on top of the files, as "key=value"

  std::size_t ticks() const;  ///< the duration in whole ticks, rounded to the nearest
};

/// Throws InputError. docs/files.md lists the keys.
Trial read_trial(const std::filesystem::path& file);

/// Applies "key=value" from the command line: a tunable as "actor.jump.height" (the actor's name may be
/// left out where there is only one), "duration_s" or "hz". Throws InputError.
void apply_setting(Trial& trial, const std::string& setting);

}  // namespace jugend
