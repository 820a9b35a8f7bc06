// How much of a solid lies within a box, and where: what is under water.
#pragma once

#include <jugend/shape/shape.hpp>

namespace jugend {

struct Portion {
  double volume = 0;  ///< m³
  Vec3 centre;        ///< of the volume; zero where there is none
};

/// What of the shape at `pose` lies within ±`half_extents` round the origin. Exact for spheres that one face cuts
/// and for boxes and hulls; cylinders, capsules and other spheres to 1e-6 of their volume where one face cuts them,
/// to 1e-3 at edges and corners. Sheets (mesh, height field) and tile grids have no volume. Where parts of a compound
/// overlap, the overlap counts once for each.
Portion within_box(const Shape& shape, const Pose& pose, const Vec3& half_extents);

}  // namespace jugend
