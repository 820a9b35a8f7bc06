// Eigen views of the plain vectors, for matrices, decompositions and interpolated rotations.
#pragma once

#include <Eigen/Dense>
#include <jugend/base/vec.hpp>

namespace jugend {

using Mat3 = Eigen::Matrix3d;

inline Eigen::Map<const Eigen::Vector3d> as_eigen(const Vec3& v) { return Eigen::Map<const Eigen::Vector3d>(&v.x); }
inline Eigen::Quaterniond as_eigen(const Quat& q) { return {q.w, q.x, q.y, q.z}; }
inline Vec3 from_eigen(const Eigen::Vector3d& v) { return {v.x(), v.y(), v.z()}; }
inline Quat from_eigen(const Eigen::Quaterniond& q) { return {q.w(), q.x(), q.y(), q.z()}; }

/// The pose a `fraction` (0 to 1) of the way from `a` to `b`, by the shorter way round: for drawing.
inline Pose interpolated(const Pose& a, const Pose& b, double fraction) {
  return {a.position + (b.position - a.position) * fraction,
          from_eigen(as_eigen(a.orientation).slerp(fraction, as_eigen(b.orientation)))};
}

}  // namespace jugend
