// Constants of nature and the one conversion between degrees (files) and radians (code).
#pragma once

#include <limits>

namespace jugend {

inline constexpr double pi = 3.14159265358979323846;
inline constexpr double radians_per_degree = pi / 180.0;

/// m/s²; the 3rd CGPM of 1901.
inline constexpr double standard_gravity = 9.80665;

inline constexpr double infinity = std::numeric_limits<double>::infinity();

/// s since something that never was: longer than any time that is asked for.
inline constexpr double long_ago = 1e9;

}  // namespace jugend
