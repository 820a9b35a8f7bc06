// What level files say of shapes. Inner to the reader of levels.
#pragma once

#include <filesystem>
#include <jugend/lab/document.hpp>
#include <jugend/shape/shape.hpp>

namespace jugend {

inline constexpr double level_far = 1e6;  // m: the farthest that anything in a level may be
inline const Limits place_limits{-level_far, level_far, "m"};
inline const Limits size_limits{1e-4, level_far, "m"};

/// The shape that a body's table describes; files it names are looked for in `folder`. Throws InputError.
Shape read_level_shape(TableReader& reader, const std::filesystem::path& folder);

}  // namespace jugend
