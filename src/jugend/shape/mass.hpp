// Volume, centre of mass and inertia of solid shapes.
#pragma once

#include <jugend/base/sym3.hpp>
#include <jugend/shape/shape.hpp>
#include <optional>

namespace jugend {

struct MassProperties {
  double mass = 0;  ///< kg
  Vec3 centre;      ///< of mass, in the shape's frame
  Sym3 inertia;     ///< kg m² about the centre, along the shape's axes
};

/// Of a solid of even `density` (kg/m³); nothing for a sheet (mesh, height field) or a tile grid. Where
/// parts of a compound overlap, the overlap counts once for each.
std::optional<MassProperties> mass_properties(const Shape& shape, double density);

}  // namespace jugend
