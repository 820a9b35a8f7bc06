// Water: boxes of it, with a surface, that bear bodies up and drag at them.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/base/vec.hpp>
#include <optional>

namespace jugend {

/// A box of water or of anything else that one can swim in. Its surface is its top against gravity.
struct Pool {
  Vec3 half_extents{1, 1, 1};  ///< m
  Pose pose;
  double density = 1000;  ///< kg/m³
  double drag = 1.2;      ///< 1/s: the speed of a body that is wholly in it, against the flow, falls as exp(-k t)
  Vec3 flow;              ///< m/s, in the world

  static constexpr auto fields() {
    return field_list(Field{"half_extents", &Pool::half_extents}, Field{"pose", &Pool::pose},
                      Field{"density", &Pool::density}, Field{"drag", &Pool::drag}, Field{"flow", &Pool::flow});
  }

  bool holds(const Vec3& at) const {
    const Vec3 p = abs(to_local(pose, at));
    return p.x <= half_extents.x && p.y <= half_extents.y && p.z <= half_extents.z;
  }
  /// m from `at` up to the surface; nothing where it is outside.
  std::optional<double> depth_at(const Vec3& at, const Vec3& up) const {
    if (!holds(at)) return std::nullopt;
    const Vec3 p = to_local(pose, at), u = rotate(conjugate(pose.orientation), up);
    double depth = infinity;
    for (int axis = 0; axis < 3; ++axis) {
      if (u[axis] > 0.5) depth = (half_extents[axis] - p[axis]) / u[axis];
      if (u[axis] < -0.5) depth = (half_extents[axis] + p[axis]) / -u[axis];
    }
    return depth < infinity ? std::optional(depth) : std::nullopt;
  }
};
static_assert(all_fields_listed<Pool>);

/// Throws InputError for sizes, density or drag out of range, or numbers that are not finite.
void check(const Pool& pool);

}  // namespace jugend
