// Level files: what a trial takes place in.
#pragma once

#include <filesystem>
#include <jugend/base/error.hpp>
#include <jugend/base/input_file.hpp>
#include <jugend/stage/stage.hpp>
#include <string>
#include <utility>
#include <vector>

namespace jugend {

/// A joint between bodies of a level, by their places in Level::bodies; the plan's own ids are not set.
struct LevelJoint {
  JointPlan plan;
  std::size_t a = 0;
  std::optional<std::size_t> b;  ///< none: the world
  Place place;                   ///< in its file
  std::string key;               ///< as in "joint[2]"
};

/// A kinematic body on rails, by its place in Level::bodies.
struct LevelRail {
  std::size_t body = 0;
  RailMotion rail_motion;
};

/// Layers that level files use. A body that says nothing else is on the first.
namespace level_layer {
inline constexpr std::uint32_t plain = 1, danger = 2, stompable = 4;
}

struct Level {
  Vec3 gravity{0, -9.80665, 0};
  std::vector<BodyPlan> bodies;
  std::vector<LevelJoint> joints;
  std::vector<GravityZone> zones;
  std::vector<Pool> pools;
  std::vector<LevelRail> rails;
  std::vector<std::pair<std::uint32_t, GroupRule>> groups;
  std::vector<std::pair<std::string, Vec3>> markers;  ///< named places, from [[marker]] and tile maps

  /// Fills a stage; returns the ids of `bodies`. Throws InputError for a joint that cannot be made.
  std::vector<BodyId> build(Stage& stage) const;
  bool has_dynamic() const;
};

/// Reads a level; files it names are looked for beside it. Throws InputError.
/// docs/files.md lists the keys.
Level read_level(const std::filesystem::path& file, std::size_t most_bodies = budget::bodies);

}  // namespace jugend
