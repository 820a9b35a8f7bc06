// Convex bodies as a core of a few points with a radius round it, and the three questions asked of a
// pair of them: how far apart, how deep inside one another, when do they touch on the way.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/vec.hpp>
#include <jugend/shape/bounds.hpp>
#include <optional>
#include <span>
#include <vector>

namespace jugend {

struct Sphere {
  double radius = 0.5;
  bool operator==(const Sphere&) const = default;
};
/// A segment of 2 × half_length along the local y axis, with a radius round it.
struct Capsule {
  double radius = 0.3;
  double half_length = 0.6;
  bool operator==(const Capsule&) const = default;
};
struct Box {
  Vec3 half_extents{0.5, 0.5, 0.5};
  bool operator==(const Box&) const = default;
};
/// About the local y axis, with flat ends.
struct Cylinder {
  double radius = 0.5;
  double half_height = 0.5;
  bool operator==(const Cylinder&) const = default;
};

/// What the points of a core span; it tells which directions can separate two cores.
enum class Core : std::uint8_t {
  point,
  segment,
  triangle,
  box,       ///< 8 points: 0 a corner; 1, 2, 4 its neighbours along the three edges
  prism,     ///< 6 points: 0 1 2 one cap, 3 4 5 the other, in the same order
  hull,      ///< up to 64 points, whose faces and edges `facets` tells
  cylinder,  ///< 2 points, the ends of the axis, each the middle of a disc of radius `rim`
};

/// Which points of a hull make its faces and edges.
struct Facets {
  std::vector<std::uint8_t> corners;    ///< of all faces, one face after the other, counter-clockwise from outside
  std::vector<std::uint16_t> first{0};  ///< where each face starts in `corners`; one more at the end
  std::vector<std::array<std::uint8_t, 2>> edges;
  std::vector<std::uint16_t> distinct_faces, distinct_edges;  ///< no two of these are parallel

  std::span<const std::uint8_t> face(std::size_t i) const;
  std::size_t face_count() const { return first.size() - 1; }
};

/// A convex body: every point within `radius` of the hull of `points` (or discs). A view; it owns nothing.
struct Convex {
  std::span<const Vec3> points;
  double radius = 0;
  Core core = Core::point;
  double rim = 0;                  ///< of a cylinder
  const Facets* facets = nullptr;  ///< of a hull

  /// The point of the core furthest along `d`.
  Vec3 support(const Vec3& d) const {
    const Vec3* best = points.data();
    double most = dot(d, *best);
    for (std::size_t i = 1; i < points.size(); ++i) {
      if (const double along = dot(d, points[i]); along > most) most = along, best = &points[i];
    }
    return core == Core::cylinder ? *best + rim_towards(d) : *best;
  }
  /// From the axis of a cylinder to its rim, towards `d`.
  Vec3 rim_towards(const Vec3& d) const {
    const Vec3 axis = normalised(points[1] - points[0], {0, 1, 0});
    const Vec3 out = in_plane(in_plane(d, axis), axis);  // twice: what is left of a d along the axis is rounding
    if (squared_norm(out) <= 1e-20 * squared_norm(d)) return {};
    return normalised(out) * rim;
  }
};

/// How far a cylinder's core is kept inside it, as the radius round the core: its distance is then that of
/// two bodies apart even while they press into one another a little. A share of its smaller half size.
inline constexpr double cylinder_rounding = 0.05;

/// A convex body placed somewhere, holding the points that its view shows.
class PlacedConvex {
 public:
  static constexpr std::size_t most_points = 64;
  PlacedConvex(const Sphere& sphere, const Pose& pose);
  PlacedConvex(const Capsule& capsule, const Pose& pose);
  PlacedConvex(const Box& box, const Pose& pose);
  PlacedConvex(const Cylinder& cylinder, const Pose& pose);
  /// `view`, moved into the frame of `frame`.
  PlacedConvex(const Convex& view, const Pose& frame);

  PlacedConvex(const PlacedConvex& other) { *this = other; }
  PlacedConvex& operator=(const PlacedConvex& other);

  Convex view() const { return {{points_, count_}, radius_, core_, rim_, facets_}; }

 private:
  union {  // only the first count_ are ever set
    Vec3 points_[most_points];
  };
  std::size_t count_;
  double radius_;
  Core core_;
  double rim_ = 0;
  const Facets* facets_ = nullptr;
};

Bounds bounds(const Convex& body);

/// How two bodies a and b lie to one another.
struct Separation {
  double distance = 0;  ///< m between the surfaces; negative: how deep they are inside one another
  Vec3 normal;          ///< unit, from b towards a; moving a by -distance along it makes them touch
  Vec3 point;           ///< on the surface of b, nearest to a (or deepest in it)
};
Separation separation(const Convex& a, const Convex& b);

/// The same for cores that overlap, by the best separating axis. Exact for bodies without rims.
Separation depth_of_overlap(const Convex& a, const Convex& b);

/// The first touch of a moving body.
struct Touch {
  double fraction = 0;  ///< of the motion, 0 to 1
  Vec3 normal;          ///< unit, from what was hit towards the mover
  Vec3 point;           ///< where they touch
};
/// When `a`, moving by `motion`, touches `b`. A body that touches or overlaps b at the start hits it at
/// fraction 0 if it moves further in, and not at all if it slides along or leaves.
std::optional<Touch> first_touch(const Convex& a, const Vec3& motion, const Convex& b);

}  // namespace jugend
