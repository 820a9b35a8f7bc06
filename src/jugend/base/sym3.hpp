// Symmetric 3 by 3 matrices as six numbers: inertia, and what impulses do to spins.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/vec.hpp>

namespace jugend {

struct Sym3 {
  double xx = 0, yy = 0, zz = 0, xy = 0, xz = 0, yz = 0;
  constexpr bool operator==(const Sym3&) const = default;

  static constexpr auto fields() {
    return field_list(Field{"xx", &Sym3::xx}, Field{"yy", &Sym3::yy}, Field{"zz", &Sym3::zz}, Field{"xy", &Sym3::xy},
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

constexpr Sym3 operator*(const Sym3& m, double f) {
  return {m.xx * f, m.yy * f, m.zz * f, m.xy * f, m.xz * f, m.yz * f};
}

/// v vᵀ.
constexpr Sym3 with_itself(const Vec3& v) { return {v.x * v.x, v.y * v.y, v.z * v.z, v.x * v.y, v.x * v.z, v.y * v.z}; }

/// The inertia of masses whose sum of m r rᵀ is `second`: its trace on the diagonal, less itself.
constexpr Sym3 about_the_axes(const Sym3& second) {
  return {second.yy + second.zz, second.zz + second.xx, second.xx + second.yy, -second.xy, -second.xz, -second.yz};
}

/// R m Rᵀ for the rotation q.
constexpr Sym3 turned(const Quat& q, const Sym3& m) {
  const Quat back = conjugate(q);
  const Vec3 x = rotate(back, {1, 0, 0}), y = rotate(back, {0, 1, 0}), z = rotate(back, {0, 0, 1});
  const Vec3 mx = m * x, my = m * y, mz = m * z;
  return {dot(x, mx), dot(y, my), dot(z, mz), dot(x, my), dot(x, mz), dot(y, mz)};
}

/// What remains of an inertia along its own axes: m = R diag(moments) Rᵀ, with R the rotation `axes`.
struct PrincipalAxes {
  Vec3 moments;
  Quat axes;
};

/// By Jacobi's rotations, largest first (Golub and Van Loan, Matrix Computations, section 8.5). One that is diagonal
/// to 1e-12 of its trace stays as it lies.
PrincipalAxes principal_axes(const Sym3& m);

/// What an impulse at the lever r does to the velocity there, by turning alone: -[r]× m [r]×.
constexpr Sym3 at_lever(const Sym3& m, const Vec3& r) {
  const Vec3 x = cross(m * Vec3{0, r.z, -r.y}, r), y = cross(m * Vec3{-r.z, 0, r.x}, r);
  const Vec3 z = cross(m * Vec3{r.y, -r.x, 0}, r);
  return {x.x, y.y, z.z, x.y, x.z, y.z};
}

}  // namespace jugend
