// Symmetric 3 by 3 matrices as six numbers: inertia, and what impulses do to spins.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/vec.hpp>

namespace jugend {

struct Sym3 {
  double xx = 0, yy = 0, zz = 0, xy = 0, xz = 0, yz = 0;
  constexpr bool operator==(const Sym3&) const = default;

  static constexpr auto fields() {
    return std::tuple(Field{"xx", &Sym3::xx}, Field{"yy", &Sym3::yy}, Field{"zz", &Sym3::zz}, Field{"xy", &Sym3::xy},
                      Field{"xz", &Sym3::xz}, Field{"yz", &Sym3::yz});
  }
};

constexpr Vec3 operator*(const Sym3& m, const Vec3& v) {
  return {m.xx * v.x + m.xy * v.y + m.xz * v.z, m.xy * v.x + m.yy * v.y + m.yz * v.z,
          m.xz * v.x + m.yz * v.y + m.zz * v.z};
}
constexpr Sym3 operator+(const Sym3& a, const Sym3& b) {
  return {a.xx + b.xx, a.yy + b.yy, a.zz + b.zz, a.xy + b.xy, a.xz + b.xz, a.yz + b.yz};
}

/// The inverse; zero where the matrix has none.
constexpr Sym3 inverse(const Sym3& m) {
  const double a = m.yy * m.zz - m.yz * m.yz, b = m.xz * m.yz - m.xy * m.zz, c = m.xy * m.yz - m.xz * m.yy;
  const double det = m.xx * a + m.xy * b + m.xz * c;
  if (!(det > 0)) return {};
  const double s = 1 / det;
  return {a * s, (m.xx * m.zz - m.xz * m.xz) * s, (m.xx * m.yy - m.xy * m.xy) * s, b * s,
          c * s, (m.xy * m.xz - m.xx * m.yz) * s};
}

/// R diag(d) Rᵀ for the rotation q.
constexpr Sym3 turned_diagonal(const Quat& q, const Vec3& d) {
  const Vec3 x = rotate(q, {1, 0, 0}), y = rotate(q, {0, 1, 0}), z = rotate(q, {0, 0, 1});
  const Vec3 dx = x * d.x, dy = y * d.y, dz = z * d.z;
  return {dx.x * x.x + dy.x * y.x + dz.x * z.x, dx.y * x.y + dy.y * y.y + dz.y * z.y,
          dx.z * x.z + dy.z * y.z + dz.z * z.z, dx.x * x.y + dy.x * y.y + dz.x * z.y,
          dx.x * x.z + dy.x * y.z + dz.x * z.z, dx.y * x.z + dy.y * y.z + dz.y * z.z};
}

/// What an impulse at the lever r does to the velocity there, by turning alone: -[r]× m [r]×.
constexpr Sym3 at_lever(const Sym3& m, const Vec3& r) {
  const Vec3 x = cross(m * Vec3{0, r.z, -r.y}, r), y = cross(m * Vec3{-r.z, 0, r.x}, r);
  const Vec3 z = cross(m * Vec3{r.y, -r.x, 0}, r);
  return {x.x, y.y, z.z, x.y, x.z, y.z};
}

}  // namespace jugend
