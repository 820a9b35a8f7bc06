// Axis-aligned bounding boxes.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/base/vec.hpp>
#include <limits>

namespace jugend {

struct Bounds {
  Vec3 low{infinity, infinity, infinity};
  Vec3 high{-infinity, -infinity, -infinity};

  static constexpr auto fields() { return field_list(Field{"low", &Bounds::low}, Field{"high", &Bounds::high}); }

  void add(const Vec3& p) { low = min(low, p), high = max(high, p); }
  void add(const Bounds& b) { low = min(low, b.low), high = max(high, b.high); }
  Bounds grown(double by) const { return {low - Vec3{by, by, by}, high + Vec3{by, by, by}}; }
  /// The box round this one and all the places it passes while moving by `motion`.
  Bounds swept(const Vec3& motion) const {
    Bounds all = *this;
    all.add(Bounds{low + motion, high + motion});
    return all;
  }
  bool contains(const Bounds& b) const {
    return low.x <= b.low.x && low.y <= b.low.y && low.z <= b.low.z && high.x >= b.high.x && high.y >= b.high.y &&
           high.z >= b.high.z;
  }
  Vec3 centre() const { return (low + high) * 0.5; }
  Vec3 half_extents() const { return (high - low) * 0.5; }
  /// Half the surface: all that the cost of a tree needs.
  double half_area() const {
    const Vec3 d = high - low;
    return d.x * d.y + d.y * d.z + d.z * d.x;
  }
};

/// All there is; finite, so that it may be turned.
inline constexpr Bounds everywhere{{-1e300, -1e300, -1e300}, {1e300, 1e300, 1e300}};

inline bool meet(const Bounds& a, const Bounds& b) {
  // All six at once: which of them fails first in a walk through a tree no machine can guess.
  const auto along = [](double low, double high, double other_low, double other_high) {
    return static_cast<int>(low <= other_high) & static_cast<int>(other_low <= high);
  };
  return along(a.low.x, a.high.x, b.low.x, b.high.x) & along(a.low.y, a.high.y, b.low.y, b.high.y) &
         along(a.low.z, a.high.z, b.low.z, b.high.z);
}

/// The box round `local` after it is placed at `pose`.
inline Bounds placed(const Bounds& local, const Pose& pose) {
  const Vec3 c = to_world(pose, local.centre()), h = local.half_extents();
  const Vec3 x = abs(rotate(pose.orientation, {h.x, 0, 0}));
  const Vec3 y = abs(rotate(pose.orientation, {0, h.y, 0}));
  const Vec3 z = abs(rotate(pose.orientation, {0, 0, h.z}));
  return {c - x - y - z, c + x + y + z};
}

}  // namespace jugend
