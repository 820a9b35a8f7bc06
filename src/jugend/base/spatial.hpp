// Motion along and about all axes at once: six numbers, and symmetric 6 by 6 matrices.
#pragma once

#include <array>
#include <cstddef>
#include <jugend/base/sym3.hpp>

namespace jugend {

/// Velocity and spin, force and torque, or a direction with its moment.
struct SpatialVector {
  Vec3 linear, angular;
  constexpr SpatialVector& operator+=(const SpatialVector& b) {
    return linear += b.linear, angular += b.angular, *this;
  }
};
constexpr SpatialVector operator+(const SpatialVector& a, const SpatialVector& b) {
  return {a.linear + b.linear, a.angular + b.angular};
}
constexpr SpatialVector operator-(const SpatialVector& a, const SpatialVector& b) {
  return {a.linear - b.linear, a.angular - b.angular};
}
constexpr SpatialVector operator*(const SpatialVector& a, double s) { return {a.linear * s, a.angular * s}; }
constexpr double dot(const SpatialVector& a, const SpatialVector& b) {
  return dot(a.linear, b.linear) + dot(a.angular, b.angular);
}

/// A symmetric positive definite 6 by 6 matrix, by its lower rows; factored in place as L D Lᵀ. Its loops are written
/// out by the compiler: a tick goes through them several times.
class SpatialMatrix {
 public:
  SpatialMatrix(double mass, const Sym3& inertia) {
    at(0, 0) = at(1, 1) = at(2, 2) = mass;
    at(3, 3) = inertia.xx, at(4, 4) = inertia.yy, at(5, 5) = inertia.zz;
    at(4, 3) = inertia.xy, at(5, 3) = inertia.xz, at(5, 4) = inertia.yz;
  }
  /// Adds d j jᵀ.
  void add(double d, const SpatialVector& j) {
    const std::array<double, 6> v = flat(j);
#pragma GCC unroll 6
    for (std::size_t r = 0; r < 6; ++r) {
      const double scaled = d * v[r];
#pragma GCC unroll 6
      for (std::size_t c = 0; c <= r; ++c) at(r, c) += scaled * v[c];
    }
  }
  /// Adds another, by its lower rows one after the other.
  void add(const std::array<double, 21>& lower) {
    for (std::size_t k = 0; k < rows_.size(); ++k) rows_[k] += lower[k];
  }
  /// The matrix times x, before factor().
  SpatialVector times(const SpatialVector& by) const {
    const std::array<double, 6> x = flat(by);
    std::array<double, 6> y{};
#pragma GCC unroll 6
    for (std::size_t r = 0; r < 6; ++r) {
#pragma GCC unroll 6
      for (std::size_t c = 0; c < r; ++c) y[r] += at(r, c) * x[c], y[c] += at(r, c) * x[r];
      y[r] += at(r, r) * x[r];
    }
    return {{y[0], y[1], y[2]}, {y[3], y[4], y[5]}};
  }
  void factor() {
#pragma GCC unroll 6
    for (std::size_t c = 0; c < 6; ++c) {
      double pivot = at(c, c);
      std::array<double, 6> scaled;
#pragma GCC unroll 6
      for (std::size_t k = 0; k < c; ++k) scaled[k] = at(c, k) * at(k, k), pivot -= scaled[k] * at(c, k);
      at(c, c) = pivot;
      inverse_[c] = 1 / pivot;
#pragma GCC unroll 6
      for (std::size_t r = c + 1; r < 6; ++r) {
        double sum = at(r, c);
#pragma GCC unroll 6
        for (std::size_t k = 0; k < c; ++k) sum -= at(r, k) * scaled[k];
        at(r, c) = sum * inverse_[c];
      }
    }
  }
  /// x with (matrix) x = b, after factor().
  SpatialVector solve(const SpatialVector& b) const {
    std::array<double, 6> x = flat(b);
#pragma GCC unroll 6
    for (std::size_t r = 1; r < 6; ++r) {
#pragma GCC unroll 6
      for (std::size_t c = 0; c < r; ++c) x[r] -= at(r, c) * x[c];
    }
#pragma GCC unroll 6
    for (std::size_t r = 0; r < 6; ++r) x[r] *= inverse_[r];
#pragma GCC unroll 6
    for (std::size_t r = 6; r-- > 0;) {
#pragma GCC unroll 6
      for (std::size_t c = r + 1; c < 6; ++c) x[r] -= at(c, r) * x[c];
    }
    return {{x[0], x[1], x[2]}, {x[3], x[4], x[5]}};
  }

 private:
  static constexpr std::array<double, 6> flat(const SpatialVector& s) {
    return {s.linear.x, s.linear.y, s.linear.z, s.angular.x, s.angular.y, s.angular.z};
  }
  double& at(std::size_t r, std::size_t c) { return rows_[r * (r + 1) / 2 + c]; }
  double at(std::size_t r, std::size_t c) const { return rows_[r * (r + 1) / 2 + c]; }
  std::array<double, 21> rows_{};
  std::array<double, 6> inverse_;
};

}  // namespace jugend
