// Where two convex bodies touch: up to four points that hold one against the other.
#pragma once

#include <jugend/base/inline_list.hpp>
#include <jugend/shape/convex.hpp>

namespace jugend {

struct ManifoldPoint {
  Vec3 point;                 ///< halfway between the surfaces
  double separation = 0;      ///< m along the normal; negative: pressed in
  std::uint32_t feature = 0;  ///< which corner or crossing of edges this is: the same from tick to tick
};

struct Manifold {
  Vec3 normal;  ///< unit, from b towards a
  InlineList<ManifoldPoint, 4> points;
};

/// How `a` and `b` touch, or would if they came nearer by `margin` (m). False where they are further apart.
bool collide(const Convex& a, const Convex& b, double margin, Manifold& out);

/// Keeps four points of `points` that span the most, the deepest among them. Returns how many are left.
std::size_t keep_four(std::span<ManifoldPoint> points, const Vec3& normal);

}  // namespace jugend
