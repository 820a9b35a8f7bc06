#include <algorithm>
#include <cmath>
#include <jugend/base/roots.hpp>
#include <jugend/shape/ray.hpp>

namespace jugend {

std::optional<RayHit> cast_on_sphere(const Ray& ray, const Vec3& centre, double radius) {
  const Vec3 from = ray.origin - centre;
  const double inside = squared_norm(from) - radius * radius;
  if (inside < 0) return RayHit{0, -ray.direction, 0};
  const double t = first_root_within(1, 2 * dot(from, ray.direction), inside, ray.length);
  if (!(t >= 0) || dot(from, ray.direction) > 0) return std::nullopt;
  return RayHit{t, normalised(from + ray.direction * t), 0};
}

std::optional<RayHit> cast_on_capsule(const Ray& ray, double radius, double half_length) {
  const Vec3& o = ray.origin;
  const Vec3& d = ray.direction;
  const Vec3 nearest_on_axis{0, std::clamp(o.y, -half_length, half_length), 0};
  if (squared_norm(o - nearest_on_axis) < radius * radius) return RayHit{0, -d, 0};
  std::optional<RayHit> best;
  const double t = first_root_within(d.x * d.x + d.z * d.z, 2 * (o.x * d.x + o.z * d.z),
                                     o.x * o.x + o.z * o.z - radius * radius, ray.length);
  if (t >= 0 && std::abs(o.y + d.y * t) <= half_length) {
    const Vec3 p = o + d * t;
    const Vec3 n = normalised(Vec3{p.x, 0, p.z});
    if (dot(n, d) < 0) best = RayHit{t, n, 0};
  }
  for (const double end : {-half_length, half_length}) {
    const auto hit = cast_on_sphere(ray, {0, end, 0}, radius);
    if (hit && (!best || hit->distance < best->distance)) best = hit;
  }
  return best;
}

std::optional<RayHit> cast_on_cylinder(const Ray& ray, double radius, double half_height) {
  // Between the times at which the ray is inside the tube and between the planes of the ends.
  const Vec3& o = ray.origin;
  const Vec3& d = ray.direction;
  double enter = -1, leave = ray.length;
  Vec3 normal;
  const double a = d.x * d.x + d.z * d.z, b = o.x * d.x + o.z * d.z, c = o.x * o.x + o.z * o.z - radius * radius;
  if (a > 1e-20) {
    const double root = b * b - a * c;
    if (root < 0) return std::nullopt;
    const double t = (-b - std::sqrt(root)) / a;
    if (t > enter) enter = t, normal = normalised(Vec3{o.x + d.x * t, 0, o.z + d.z * t});
    leave = std::min(leave, (-b + std::sqrt(root)) / a);
  } else if (c > 0) {
    return std::nullopt;
  }
  if (d.y != 0) {
    const double side = d.y > 0 ? -1 : 1, t = (side * half_height - o.y) / d.y;
    if (t > enter) enter = t, normal = {0, side, 0};
    leave = std::min(leave, (-side * half_height - o.y) / d.y);
  } else if (std::abs(o.y) > half_height) {
    return std::nullopt;
  }
  if (leave < 0 || enter > leave) return std::nullopt;
  if (enter < 0) return RayHit{0, -d, 0};
  return RayHit{enter, normal, 0};
}

std::optional<RayHit> cast_on_box(const Ray& ray, const Vec3& low, const Vec3& high) {
  double enter = -1, leave = ray.length;
  Vec3 normal = -ray.direction;
  for (int axis = 0; axis < 3; ++axis) {
    const double o = ray.origin[axis], d = ray.direction[axis];
    if (d == 0) {
      if (o < low[axis] || o > high[axis]) return std::nullopt;
      continue;
    }
    const double near = ((d > 0 ? low[axis] : high[axis]) - o) / d;
    const double far = ((d > 0 ? high[axis] : low[axis]) - o) / d;
    if (near > enter) {
      enter = near;
      normal = {};
      normal[axis] = d > 0 ? -1 : 1;
    }
    leave = std::min(leave, far);
  }
  if (leave < 0 || enter > leave) return std::nullopt;
  if (enter < 0) return RayHit{0, -ray.direction, 0};
  return RayHit{enter, normal, 0};
}

}  // namespace jugend
