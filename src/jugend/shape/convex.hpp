// Convex bodies as a core of a few points with a radius round it, and the three questions asked of a
// pair of them: how far apart, how deep inside one another, when do they touch on the way.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/vec.hpp>
#include <jugend/shape/bounds.hpp>
#include <optional>
#include <span>

namespace jugend {

struct Sphere {
  double radius = 0.5;
};
/// A segment of 2 × half_length along the local y axis, with a radius round it.
struct Capsule {
  double radius = 0.3;
  double half_length = 0.6;
};
struct Box {
  Vec3 half_extents{0.5, 0.5, 0.5};
};

/// What the points of a core span; it tells which directions can separate two cores.
enum class Core : std::uint8_t {
  point,
  segment,
  triangle,
  box,   ///< 8 points: 0 a corner; 1, 2, 4 its neighbours along the three edges
  prism  ///< 6 points: 0 1 2 one cap, 3 4 5 the other, in the same order
};

/// A convex body: every point within `radius` of the hull of `points`. A view; it owns nothing.
struct Convex {
  std::span<const Vec3> points;
  double radius = 0;
  Core core = Core::point;
};

/// A sphere, capsule or box placed somewhere, holding the points that its view shows.
class PlacedConvex {
 public:
  PlacedConvex(const Sphere& sphere, const Pose& pose);
  PlacedConvex(const Capsule& capsule, const Pose& pose);
  PlacedConvex(const Box& box, const Pose& pose);
  /// `view`, moved into the frame of `frame`.
  PlacedConvex(const Convex& view, const Pose& frame);

  Convex view() const { return {{points_.data(), count_}, radius_, core_}; }

 private:
  std::array<Vec3, 8> points_;
  std::size_t count_;
  double radius_;
  Core core_;
};

Bounds bounds(const Convex& body);

/// How two bodies a and b lie to one another.
struct Separation {
  double distance = 0;  ///< m between the surfaces; negative: how deep they are inside one another
  Vec3 normal;          ///< unit, from b towards a; moving a by -distance along it makes them touch
  Vec3 point;           ///< on the surface of b, nearest to a (or deepest in it)
};
Separation separation(const Convex& a, const Convex& b);

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
