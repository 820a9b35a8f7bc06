#include <jugend/base/overloaded.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/mass.hpp>

namespace jugend {
namespace {

MassProperties along_axes(double mass, double xx, double yy, double zz) { return {mass, {}, {xx, yy, zz}}; }

/// What a mass at `offset` from the centre adds to the inertia (Steiner).
Sym3 of_point(double mass, const Vec3& offset) { return about_the_axes(with_itself(offset)) * mass; }

MassProperties of(const Sphere& s, double density) {
  const double m = density * 4 / 3 * pi * s.radius * s.radius * s.radius, i = 0.4 * m * s.radius * s.radius;
  return along_axes(m, i, i, i);
}

MassProperties of(const Box& b, double density) {
  const Vec3& h = b.half_extents;
  const double m = density * 8 * h.x * h.y * h.z;
  return along_axes(m, m / 3 * (h.y * h.y + h.z * h.z), m / 3 * (h.x * h.x + h.z * h.z),
                    m / 3 * (h.x * h.x + h.y * h.y));
}

MassProperties of(const Cylinder& c, double density) {
  const double r2 = c.radius * c.radius, m = density * pi * r2 * 2 * c.half_height;
  const double across = m * (r2 / 4 + c.half_height * c.half_height / 3);
  return along_axes(m, across, m * r2 / 2, across);
}

MassProperties of(const Capsule& c, double density) {
  // A cylinder and two half balls, whose centres lie 3/8 of the radius beyond its ends.
  const double r = c.radius, l = c.half_length;
  const double rod = density * pi * r * r * 2 * l, ball = density * 4 / 3 * pi * r * r * r;
  const double about_y = rod * r * r / 2 + ball * 0.4 * r * r;
  const double across = rod * (r * r / 4 + l * l / 3) + ball * (0.4 * r * r + l * l + 0.75 * l * r);
  return along_axes(rod + ball, across, about_y, across);
}

/// As a sum of tetrahedra from the origin to each triangle of the faces; the integral of x xᵀ over one is
/// V/20 (Σ v vᵀ + s sᵀ), with s the sum of its corners.
MassProperties of(const HullRef& hull, double density) {
  double volume = 0;
  Vec3 moment;
  Sym3 second;
  const auto p = hull->corners();
  const Vec3 inside = hull->bounds().centre();
  for (std::size_t f = 0; f < hull->facets().face_count(); ++f) {
    const auto loop = hull->facets().face(f);
    for (std::size_t k = 2; k < loop.size(); ++k) {
      const Vec3 a = p[loop[0]] - inside, b = p[loop[k - 1]] - inside, c = p[loop[k]] - inside, s = a + b + c;
      const double v = dot(a, cross(b, c)) / 6;
      volume += v;
      moment += s * (v / 4);
      for (const Vec3& corner : {a, b, c, s}) second = second + with_itself(corner) * (v / 20);
    }
  }
  const Vec3 centre = moment / volume;
  second = second + with_itself(centre) * -volume;
  return {density * volume, inside + centre, about_the_axes(second) * density};
}

MassProperties of(const CompoundRef& compound, double density) {
  MassProperties sum;
  for (const auto& [shape, pose] : compound->parts()) {
    MassProperties part = std::visit([&](const auto& s) { return of(s, density); }, shape);
    part.centre = to_world(pose, part.centre);
    sum.inertia = sum.inertia + turned(pose.orientation, part.inertia) + of_point(part.mass, part.centre);
    sum.centre += part.centre * part.mass;
    sum.mass += part.mass;
  }
  sum.centre = sum.centre / sum.mass;
  sum.inertia = sum.inertia + of_point(-sum.mass, sum.centre);
  return sum;
}

}  // namespace

std::optional<MassProperties> mass_properties(const Shape& shape, double density) {
  return std::visit(
      [&](const auto& s) -> std::optional<MassProperties> {
        if constexpr (requires { of(s, density); }) return of(s, density);
        return std::nullopt;
      },
      shape);
}

}  // namespace jugend
