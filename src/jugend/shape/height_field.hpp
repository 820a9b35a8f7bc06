// Ground as heights on a regular grid.
#pragma once

#include <array>
#include <cmath>
#include <cstdint>
#include <jugend/base/array.hpp>
#include <jugend/base/number.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/ray.hpp>
#include <vector>

namespace jugend {

/// Heights y over a grid of `columns` (along x) by `rows` (along z), `cell` metres apart, starting at the
/// local origin. Each cell is two triangles that meet on the line from its (x+1, z) to its (x, z+1)
/// corner. A sheet: it is hit from both sides.
class HeightField {
 public:
  /// `heights` row by row. Throws InputError for fewer than 2 × 2 heights, a count that does not fit, a
  /// cell that is not > 0, or a height that is not finite.
  HeightField(std::size_t columns, std::size_t rows, double cell, std::vector<double> heights);

  std::optional<RayHit> cast(const Ray& ray) const;

  std::size_t columns() const { return columns_; }
  std::size_t rows() const { return rows_; }
  double cell() const { return cell_; }
  const Bounds& bounds() const { return bounds_; }
  /// The two triangles of a cell are parts 2 × (row × (columns - 1) + column) and the one after.
  std::array<Vec3, 3> triangle(std::uint32_t part) const;

  /// Visits the triangles that a box of `half` extents may meet on its way: visit(convex, part, limit) →
  /// limit, a share of `motion`. Nearer cells come first, a few columns at a time.
  template <class Visit>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Visit&& visit) const {
    const double across = larger(std::abs(motion.x), std::abs(motion.z));
    const double stretch = across > 0 ? smaller(1.0, 4 * cell_ / across) : 1.0;
    for (double start = 0; start < 1 && start <= limit; start += stretch) {
      Bounds box;
      box.add(from + motion * start);
      box.add(from + motion * smaller(1.0, start + stretch));
      limit = within({box.low - half, box.high + half}, limit, visit);
    }
  }
  /// Visits the triangles that may be nearer to `box` than `limit`: visit(convex, part, limit) → limit.
  template <class Visit>
  void near(const Bounds& box, double limit, Visit&& visit) const {
    within(box.grown(smaller(limit, 1e6 * cell_)), limit, visit);
  }

 private:
  double height(std::size_t column, std::size_t row) const { return heights_[row * columns_ + column]; }
  Vec3 corner(std::size_t column, std::size_t row) const {
    return {static_cast<double>(column) * cell_, height(column, row), static_cast<double>(row) * cell_};
  }
  std::uint32_t part(std::size_t column, std::size_t row, int half) const {
    return static_cast<std::uint32_t>(2 * (row * (columns_ - 1) + column)) + static_cast<std::uint32_t>(half);
  }
  /// The ray's first meeting with one of a cell's triangles, and the slopes of that one in m per cell.
  struct CellHit {
    double distance = infinity;
    double slope_x = 0, slope_z = 0, rise = 0;
    int half = 0;
  };
  CellHit cast_on_cell(const Ray& ray, std::size_t column, std::size_t row) const;

  template <class Visit>
  double within(const Bounds& box, double limit, Visit& visit) const {
    if (!meet(box, bounds_)) return limit;
    const auto index = [this](double at, std::size_t points) {
      return static_cast<std::size_t>(jugend::within(std::floor(at / cell_), 0.0, static_cast<double>(points - 2)));
    };
    const std::size_t c0 = index(box.low.x, columns_), c1 = index(box.high.x, columns_);
    const std::size_t r0 = index(box.low.z, rows_), r1 = index(box.high.z, rows_);
    for (std::size_t r = r0; r <= r1; ++r) {
      for (std::size_t c = c0; c <= c1; ++c) {
        const double a = height(c, r), b = height(c + 1, r), d = height(c, r + 1), e = height(c + 1, r + 1);
        const double low = smaller(smaller(a, b), smaller(d, e)), high = larger(larger(a, b), larger(d, e));
        if (low > box.high.y || high < box.low.y) continue;
        for (int half = 0; half < 2; ++half) {
          const std::array<Vec3, 3> points = triangle(part(c, r, half));
          limit = visit(Convex{points, 0, Core::triangle}, part(c, r, half), limit);
        }
      }
    }
    return limit;
  }

  std::size_t columns_, rows_;
  double cell_, per_cell_;
  Array<double> heights_;
  Bounds bounds_;
};

}  // namespace jugend
