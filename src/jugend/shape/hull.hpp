// Convex hulls of points, as shapes.
#pragma once

#include <jugend/base/shared.hpp>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/ray.hpp>
#include <vector>

namespace jugend {

class Hull {
 public:
  /// The smallest convex body round the points; those inside it are dropped. Throws InputError (key
  /// "points") for points that are not finite, that lie in one plane, or whose hull has more than
  /// PlacedConvex::most_points corners.
  explicit Hull(std::span<const Vec3> points);

  std::span<const Vec3> corners() const { return corners_; }
  const Facets& facets() const { return facets_; }
  const Bounds& bounds() const { return bounds_; }
  Convex view() const { return {corners_, 0, Core::hull, 0, &facets_}; }

  std::optional<RayHit> cast(const Ray& ray) const;
  /// As Mesh::along and near, of its one part.
  template <class Visit>
  void along(const Vec3&, const Vec3&, const Vec3&, double limit, Visit&& visit) const {
    visit(view(), 0u, limit);
  }
  template <class Visit>
  void near(const Bounds& box, double limit, Visit&& visit) const {
    if (meet(box.grown(limit), bounds_)) visit(view(), 0u, limit);
  }

 private:
  void add_face(std::vector<std::uint8_t> loop, const Vec3& normal);
  void find_distinct(const std::vector<Vec3>& normals);
  std::vector<Vec3> corners_;
  Facets facets_;
  Bounds bounds_;
};

using HullRef = Shared<const Hull>;

}  // namespace jugend
