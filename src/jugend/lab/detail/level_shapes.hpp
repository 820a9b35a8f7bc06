// What level files say of shapes. Inner to the reader of levels.
#pragma once

#include <filesystem>
#include <functional>
#include <jugend/lab/document.hpp>
#include <jugend/shape/shape.hpp>
#include <map>
#include <string>

namespace jugend {

inline constexpr double level_far = 1e6;  // m: the farthest that anything in a level may be
inline const Limits place_limits{-level_far, level_far, "m"};
inline const Limits size_limits{1e-4, level_far, "m"};

/// A shape as a body's table describes it, before it is made.
struct ShapePlan {
  std::function<Shape()> make;   ///< throws InputError
  std::string alike;             ///< plans with the same text make the same; empty: of what is made in no time
  std::size_t road_heights = 0;  ///< that it will have
};
/// Files that it names are looked for in `folder`. `reader` must outlive the plan. Throws InputError.
ShapePlan read_level_shape(TableReader& reader, const std::filesystem::path& folder);

/// The shapes of one level: what bodies describe alike is read and made once, and shared.
class LevelShapes {
 public:
  /// Throws InputError at `reader`, also where all shapes together pass what the budget allows.
  Shape make(const TableReader& reader, const ShapePlan& plan);

 private:
  std::map<std::string, Shape> made_;
  std::size_t faces_ = 0, road_heights_ = 0;
};

}  // namespace jugend
