// Vectors, rotations and poses: the plain values that every other file computes with.
//
// Right-handed; x forward, y up, z right; metres and radians. They are plain structs, because all state that a tick
// changes must be trivially copyable.
#pragma once

#include <cmath>
#include <jugend/base/elementary.hpp>

namespace jugend {

struct Vec3 {
  double x = 0, y = 0, z = 0;

  constexpr double& operator[](int axis) { return axis == 0 ? x : axis == 1 ? y : z; }
  constexpr double operator[](int axis) const { return axis == 0 ? x : axis == 1 ? y : z; }
  constexpr Vec3& operator+=(const Vec3& b) { return x += b.x, y += b.y, z += b.z, *this; }
  constexpr Vec3& operator-=(const Vec3& b) { return x -= b.x, y -= b.y, z -= b.z, *this; }
  constexpr Vec3& operator*=(double s) { return x *= s, y *= s, z *= s, *this; }
  constexpr bool operator==(const Vec3&) const = default;
};

constexpr Vec3 operator+(const Vec3& a, const Vec3& b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
constexpr Vec3 operator-(const Vec3& a, const Vec3& b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
constexpr Vec3 operator-(const Vec3& a) { return {-a.x, -a.y, -a.z}; }
constexpr Vec3 operator*(const Vec3& a, double s) { return {a.x * s, a.y * s, a.z * s}; }
constexpr Vec3 operator*(double s, const Vec3& a) { return a * s; }
constexpr Vec3 operator/(const Vec3& a, double s) { return {a.x / s, a.y / s, a.z / s}; }

constexpr double dot(const Vec3& a, const Vec3& b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
constexpr Vec3 cross(const Vec3& a, const Vec3& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
constexpr double squared_norm(const Vec3& a) { return dot(a, a); }
inline double norm(const Vec3& a) { return std::sqrt(dot(a, a)); }
inline bool is_finite(double a) { return std::isfinite(a); }
inline bool is_finite(const Vec3& a) { return std::isfinite(a.x) && std::isfinite(a.y) && std::isfinite(a.z); }

/// `a` at length 1, or `otherwise` where `a` is too short to have a direction.
inline Vec3 normalised(const Vec3& a, const Vec3& otherwise = {}) {
  const double length = norm(a);
  return length > 1e-300 ? a / length : otherwise;
}

constexpr Vec3 abs(const Vec3& a) { return {a.x < 0 ? -a.x : a.x, a.y < 0 ? -a.y : a.y, a.z < 0 ? -a.z : a.z}; }
constexpr Vec3 min(const Vec3& a, const Vec3& b) {
  return {a.x < b.x ? a.x : b.x, a.y < b.y ? a.y : b.y, a.z < b.z ? a.z : b.z};
}
constexpr Vec3 max(const Vec3& a, const Vec3& b) {
  return {a.x > b.x ? a.x : b.x, a.y > b.y ? a.y : b.y, a.z > b.z ? a.z : b.z};
}

/// The part of `a` that lies in the plane with unit normal `n`.
constexpr Vec3 in_plane(const Vec3& a, const Vec3& n) { return a - n * dot(a, n); }

/// A unit vector at right angles to the unit vector `n`.
inline Vec3 any_perpendicular(const Vec3& n) {
  const Vec3 other = std::abs(n.x) < 0.6 ? Vec3{1, 0, 0} : Vec3{0, 1, 0};
  return normalised(cross(n, other));
}

/// A rotation as a unit quaternion.
struct Quat {
  double w = 1, x = 0, y = 0, z = 0;
  constexpr bool operator==(const Quat&) const = default;
};

constexpr Quat operator*(const Quat& a, const Quat& b) {
  return {a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z, a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
          a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x, a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w};
}
constexpr Quat conjugate(const Quat& q) { return {q.w, -q.x, -q.y, -q.z}; }

inline Quat normalised(const Quat& q) {
  const double n = std::sqrt(q.w * q.w + q.x * q.x + q.y * q.y + q.z * q.z);
  return {q.w / n, q.x / n, q.y / n, q.z / n};
}

/// `v` turned by `q`: v + 2w(u × v) + 2u × (u × v), with u the vector part of q.
constexpr Vec3 rotate(const Quat& q, const Vec3& v) {
  const Vec3 u{q.x, q.y, q.z};
  const Vec3 t = 2.0 * cross(u, v);
  return v + q.w * t + cross(u, t);
}

/// The rotation by |r| radians about r.
inline Quat rotation(const Vec3& r) {
  const double square = dot(r, r);
  if (square < 4e-4) {  // Taylor's series, to the last bit: what follows is below 1e-16
    const double s = 0.5 + square * (square * (1.0 / 3840) - 1.0 / 48);
    return {1 + square * (square * (1.0 / 384 - square * (1.0 / 46080)) - 0.125), r.x * s, r.y * s, r.z * s};
  }
  const double angle = std::sqrt(square), half = 0.5 * angle, s = same_bits::sin(half) / angle;
  return {same_bits::cos(half), r.x * s, r.y * s, r.z * s};
}

/// The rotation vector of `q`, the shorter way round: rotation(rotation_vector(q)) is q.
inline Vec3 rotation_vector(const Quat& q) {
  const double sign = q.w < 0 ? -1 : 1;
  const Vec3 u = Vec3{q.x, q.y, q.z} * sign;
  const double s = norm(u);
  return u * (s > 1e-12 ? 2 * same_bits::atan2(s, q.w * sign) / s : 2.0);
}

/// The rotation vector of the shortest turn from `from` to `to`; where they are opposite, half a turn about
/// `if_opposite`. Both of one length, above 0.
inline Vec3 turn_between(const Vec3& from, const Vec3& to, const Vec3& if_opposite = {}) {
  const Vec3 axis = cross(from, to);
  const double sine = norm(axis), cosine = dot(from, to), angle = same_bits::atan2(sine, cosine);
  return sine > 1e-12 * std::abs(cosine) ? axis * (angle / sine) : if_opposite * angle;
}

/// Where a body is: `position` of its origin, and its turn from the world's axes.
struct Pose {
  Vec3 position;
  Quat orientation;
  constexpr bool operator==(const Pose&) const = default;
};

constexpr Vec3 to_world(const Pose& pose, const Vec3& local) { return pose.position + rotate(pose.orientation, local); }
constexpr Vec3 to_local(const Pose& pose, const Vec3& world) {
  return rotate(conjugate(pose.orientation), world - pose.position);
}
/// `local`, given in the frame of `pose`, as a pose in the world.
constexpr Pose to_world(const Pose& pose, const Pose& local) {
  return {to_world(pose, local.position), pose.orientation * local.orientation};
}
constexpr Pose to_local(const Pose& pose, const Pose& world) {
  return {to_local(pose, world.position), conjugate(pose.orientation) * world.orientation};
}

/// The pose after `dt` seconds at a constant velocity of the origin and a constant spin (rad/s).
inline Pose advanced(const Pose& pose, const Vec3& velocity, const Vec3& spin, double dt) {
  if (spin == Vec3{}) return {pose.position + velocity * dt, pose.orientation};
  return {pose.position + velocity * dt, normalised(rotation(spin * dt) * pose.orientation)};
}

/// The pose a `fraction` (0 to 1) of the way from `a` to `b`, by the shorter way round: for drawing.
inline Pose interpolated(const Pose& a, const Pose& b, double fraction) {
  const Vec3 turn = rotation_vector(b.orientation * conjugate(a.orientation));
  return {a.position + (b.position - a.position) * fraction, rotation(turn * fraction) * a.orientation};
}

}  // namespace jugend
