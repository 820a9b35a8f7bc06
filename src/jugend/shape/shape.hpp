// Any shape, and the questions that can be asked of one placed in the world.
#pragma once

#include <jugend/base/shared.hpp>
#include <jugend/shape/compound.hpp>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/height_field.hpp>
#include <jugend/shape/mesh.hpp>
#include <jugend/shape/ray.hpp>
#include <jugend/shape/tile_grid.hpp>
#include <limits>
#include <optional>
#include <span>
#include <variant>

namespace jugend {

using MeshRef = Shared<const Mesh>;
using HeightFieldRef = Shared<const HeightField>;
using TileGridRef = Shared<const TileGrid>;
using Shape = std::variant<Sphere, Capsule, Box, Cylinder, HullRef, CompoundRef, MeshRef, HeightFieldRef, TileGridRef>;

/// Throws InputError (key "radius", "half_length", "half_height", "half_extents" or "shape") for a size that
/// is not finite and > 0 (a capsule's half length may be 0), or an empty reference.
void check(const Shape& shape);

Bounds bounds(const Shape& shape, const Pose& pose);

/// A number of all that a shape is made of: equal for equal ones, wherever they lie in memory.
std::uint64_t content_of(const Shape& shape);

/// How thick a shape is at its thinnest, halved: a thing that moves less than this in a tick cannot get past
/// its middle unseen. 0 for sheets.
double inner_radius(const Shape& shape);

/// Half the size of a simple shape in its own frame.
inline Vec3 half_size(const Sphere& s) { return {s.radius, s.radius, s.radius}; }
inline Vec3 half_size(const Capsule& c) { return {c.radius, c.half_length + c.radius, c.radius}; }
inline Vec3 half_size(const Box& b) { return b.half_extents; }
inline Vec3 half_size(const Cylinder& c) { return {c.radius, c.half_height, c.radius}; }

/// May something in `box`, in the shape's own frame, be nearer to a simple shape than `limit`?
template <class Simple>
bool may_be_near(const Simple& shape, const Bounds& box, double limit) {
  constexpr double rounding = 1e-8;  // m
  const Vec3 half = half_size(shape);
  return meet(box.grown(limit + rounding), {-half, half});
}

/// visit(convex, part, limit) → limit for each convex part, in the shape's frame, that may be nearer to
/// `box` than `limit`.
template <class Visit>
void visit_parts(const Shape& shape, const Bounds& box, double limit, Visit&& visit) {
  std::visit(
      [&](const auto& s) {
        if constexpr (requires { s->bounds(); }) {
          s->near(box, limit, visit);
        } else {
          if (!may_be_near(s, box, limit)) return;
          const PlacedConvex part(s, Pose{});
          visit(part.view(), 0u, limit);
        }
      },
      shape);
}

/// The nearest hit of the ray on the shape at `pose`.
std::optional<RayHit> cast(const Ray& ray, const Shape& shape, const Pose& pose);
/// The same for several rays near one another: hits[i] for rays[i].
void cast_all(std::span<const Ray> rays, const Shape& shape, const Pose& pose, std::span<std::optional<RayHit>> hits);

struct SweepHit {
  Touch touch;
  std::uint32_t part = 0;
};
/// The first touch of `mover`, moving by `motion`, on the shape at `pose`; see first_touch. Of touches at
/// the same fraction, the one that faces the motion most.
std::optional<SweepHit> sweep(const Convex& mover, const Vec3& motion, const Shape& shape, const Pose& pose);

/// One part of a shape that a body overlaps or is near to.
struct PartSeparation {
  Separation separation;
  std::uint32_t part = 0;
};
/// Fills `out` with the parts no further than `margin` from `body` (m; 0: those it overlaps). Returns
/// how many there are, which may be more than `out` holds; it then holds the first ones met.
std::size_t overlaps(const Convex& body, double margin, const Shape& shape, const Pose& pose,
                     std::span<PartSeparation> out);

/// The nearest part of the shape within `limit`, and how it lies to `body`. For the closest point to a
/// place, ask with a sphere of radius 0.
std::optional<PartSeparation> closest(const Convex& body, double limit, const Shape& shape, const Pose& pose);

}  // namespace jugend
