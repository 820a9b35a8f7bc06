// Rays, and what they hit on one primitive.
#pragma once

#include <cstdint>
#include <jugend/base/units.hpp>
#include <jugend/base/vec.hpp>
#include <optional>

namespace jugend {

struct Ray {
  Vec3 origin;
  Vec3 direction;     ///< unit length
  double length = 0;  ///< m
};

/// Where a ray meets a shape. A ray that starts inside a solid hits it at distance 0, with the normal
/// against the ray; a triangle is a sheet without an inside and is hit from both sides. One that the ray sees from its
/// edge, to rounding, is met anywhere within its extent, or passed.
struct RayHit {
  double distance = 0;     ///< m along the ray
  Vec3 normal;             ///< unit, towards the ray's origin
  std::uint32_t part = 0;  ///< which triangle, tile or cell
};

std::optional<RayHit> cast_on_sphere(const Ray& ray, const Vec3& centre, double radius);
/// A capsule about the segment from -half_length to +half_length on y, at the origin.
std::optional<RayHit> cast_on_capsule(const Ray& ray, double radius, double half_length);
/// A cylinder with flat ends, likewise.
std::optional<RayHit> cast_on_cylinder(const Ray& ray, double radius, double half_height);
std::optional<RayHit> cast_on_box(const Ray& ray, const Vec3& low, const Vec3& high);

/// Four triangles side by side, to be tested at once: at[axis][corner] holds a coordinate of each.
/// A lane of zeros has no area and is never hit.
using FloatLanes = float __attribute__((vector_size(16)));
using DoubleLanes = double __attribute__((vector_size(32)));
template <class Lanes>
struct alignas(32) TriangleBlock {
  Lanes at[3][3] = {};
  std::uint32_t part[4] = {};  ///< which triangles these are
};

/// Ray against triangle, watertight: two triangles that share an edge leave no gap between them.
/// Woop, Benthin and Wald, "Watertight Ray/Triangle Intersection", JCGT 2(1), 2013; in double, so that
/// their fallback for edge values of zero is not needed.
class TriangleCaster {
 public:
  TriangleCaster() = default;
  explicit TriangleCaster(const Ray& ray) {
    const Vec3 d = abs(ray.direction);
    kz_ = d.x > d.y ? (d.x > d.z ? 0 : 2) : (d.y > d.z ? 1 : 2);
    kx_ = kz_ == 2 ? 0 : kz_ + 1;
    ky_ = kx_ == 2 ? 0 : kx_ + 1;
    origin_x_ = ray.origin[kx_], origin_y_ = ray.origin[ky_], origin_z_ = ray.origin[kz_];
    inverse_ = 1.0 / ray.direction[kz_];
    shear_x_ = ray.direction[kx_] * inverse_;
    shear_y_ = ray.direction[ky_] * inverse_;
  }
  static constexpr double none = infinity;

  /// For each of a block's triangles the distance along the ray at which it passes, or `none` where it
  /// does not within [0, limit].
  template <class Lanes>
  [[gnu::always_inline]] inline void distances(const TriangleBlock<Lanes>& block, double limit,
                                               DoubleLanes& distance) const {
    DoubleLanes x[3], y[3], z[3];
    for (int corner = 0; corner < 3; ++corner) {
      x[corner] = __builtin_convertvector(block.at[kx_][corner], DoubleLanes);
      y[corner] = __builtin_convertvector(block.at[ky_][corner], DoubleLanes);
      z[corner] = __builtin_convertvector(block.at[kz_][corner], DoubleLanes);
    }
    const DoubleLanes az = z[0] - origin_z_, bz = z[1] - origin_z_, cz = z[2] - origin_z_;
    const DoubleLanes ax = (x[0] - origin_x_) - shear_x_ * az, ay = (y[0] - origin_y_) - shear_y_ * az;
    const DoubleLanes bx = (x[1] - origin_x_) - shear_x_ * bz, by = (y[1] - origin_y_) - shear_y_ * bz;
    const DoubleLanes cx = (x[2] - origin_x_) - shear_x_ * cz, cy = (y[2] - origin_y_) - shear_y_ * cz;
    const DoubleLanes u = cx * by - cy * bx, v = ax * cy - ay * cx, w = bx * ay - by * ax;
    const DoubleLanes area = u + v + w;
    const DoubleLanes t = inverse_ * (u * az + v * bz + w * cz) / area;
    const auto inside = ((u >= 0) & (v >= 0) & (w >= 0)) | ((u <= 0) & (v <= 0) & (w <= 0));
    distance = (inside & (area != 0) & (t >= 0) & (t <= limit)) ? t : DoubleLanes{} + none;
  }

 private:
  int kx_, ky_, kz_;
  double origin_x_, origin_y_, origin_z_;
  double inverse_, shear_x_, shear_y_;
};

/// The unit normal of a, b, c that looks against `direction`.
inline Vec3 normal_against(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& direction) {
  const Vec3 n = cross(b - a, c - a);
  const double length2 = dot(n, n);
  if (!(length2 > 0)) return -direction;
  return n * ((dot(n, direction) > 0 ? -1.0 : 1.0) / std::sqrt(length2));
}

}  // namespace jugend
