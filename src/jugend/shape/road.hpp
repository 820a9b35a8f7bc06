// Roads to try vehicles on: rough ones by the classes of ISO 8608, and banked curves.
#pragma once

#include <cstdint>
#include <jugend/shape/mesh.hpp>

namespace jugend {

/// A straight road from x = 0 on, its middle at z = 0. Its heights follow ISO 8608:2016: power G(n) = G(n0) (n/n0)^-2
/// over the waves n in cycles/m, n0 = 0.1, with G(n0) = 16e-6 m³ in the middle of class A and four times more from each
/// class to the next. Waves longer than four metres are the same on both sides, shorter ones each side's own.
struct RoughRoad {
  double length = 100, width = 6;  ///< m
  int roughness = 2;               ///< class: 0 A, 1 B, 2 C … 7 H
  double seed = 1;
  double spacing = 0.1;  ///< m between heights
};
/// Throws InputError for lengths that are not above 0, a class that there is not, more than a million heights.
MeshData rough_road(const RoughRoad& road);

/// A curve to the left that rises towards its outside; it begins at the origin towards x.
struct BankedCurve {
  double radius = 30, width = 8;          ///< m, of its middle
  double bank = 0.2;                      ///< rad
  double angle = 3.14159265358979323846;  ///< rad, how far round
};
MeshData banked_curve(const BankedCurve& curve);

}  // namespace jugend
