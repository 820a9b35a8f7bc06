// Level files: what a trial takes place in.
#pragma once

#include <filesystem>
#include <jugend/world/world.hpp>
#include <string>
#include <utility>
#include <vector>

namespace jugend {

struct Level {
  Vec3 gravity{0, -9.80665, 0};
  std::vector<BodyPlan> bodies;
  std::vector<std::pair<std::string, Vec3>> markers;  ///< named places, from [[marker]] and tile maps

  /// Fills a world with the bodies.
  void build(World& world) const;
};

/// Reads a level; files it names are looked for beside it. Throws InputError.
/// docs/files.md lists the keys.
Level read_level(const std::filesystem::path& file);

}  // namespace jugend
