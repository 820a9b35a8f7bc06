// Several convex shapes that move as one.
#pragma once

#include <jugend/base/shared.hpp>
#include <jugend/shape/hull.hpp>
#include <variant>
#include <vector>

namespace jugend {

using ConvexShape = std::variant<Sphere, Capsule, Box, Cylinder, HullRef>;

PlacedConvex placed(const ConvexShape& shape, const Pose& pose);
/// Throws InputError for a size that is not finite and > 0 (a capsule's half length may be 0), or an
/// empty reference.
void check_size(const ConvexShape& shape);
/// On the shape at the origin.
std::optional<RayHit> cast(const Ray& ray, const ConvexShape& shape);

class Compound {
 public:
  struct Part {
    ConvexShape shape;
    Pose pose;
  };
  /// Throws InputError for no parts, or as check_size() does for one of them.
  explicit Compound(std::vector<Part> parts);

  const std::vector<Part>& parts() const { return parts_; }
  const Bounds& bounds() const { return bounds_; }

  std::optional<RayHit> cast(const Ray& ray) const;
  /// As Mesh::along and near, of its parts.
  template <class Visit>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Visit&& visit) const {
    const Bounds start{from - half, from + half};
    for (std::uint32_t i = 0; i < parts_.size(); ++i) {
      if (meet(start.swept(motion * limit), boxes_[i])) limit = visit(placed_[i].view(), i, limit);
    }
  }
  template <class Visit>
  void near(const Bounds& box, double limit, Visit&& visit) const {
    for (std::uint32_t i = 0; i < parts_.size(); ++i) {
      if (meet(box.grown(limit), boxes_[i])) limit = visit(placed_[i].view(), i, limit);
    }
  }

 private:
  std::vector<Part> parts_;
  std::vector<PlacedConvex> placed_;
  std::vector<Bounds> boxes_;
  Bounds bounds_;
};

using CompoundRef = Shared<const Compound>;

}  // namespace jugend
