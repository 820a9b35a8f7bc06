#include <algorithm>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/height_field.hpp>

namespace jugend {

HeightField::HeightField(std::size_t columns, std::size_t rows, double cell, std::vector<double> heights)
    : columns_(columns), rows_(rows), cell_(cell), per_cell_(1 / cell), heights_(heights.begin(), heights.end()) {
  const auto refuse = [](std::string key, std::string found, std::string allowed) {
    fail({{}, std::move(key), std::move(found), std::move(allowed), {}});
  };
  if (columns < 2 || rows < 2) refuse("heights", filled("{} by {}", columns, rows), "2 by 2 or more");
  if (columns > 30000 || rows > 30000) refuse("heights", filled("{} by {}", columns, rows), "at most 30000 by 30000");
  if (heights_.size() != columns * rows) {
    refuse("heights", filled("{} heights", heights_.size()), filled("{} x {}", columns, rows));
  }
  if (!(cell > 0) || !std::isfinite(cell)) refuse("cell", filled("{}", cell), "more than 0 m");
  for (std::size_t i = 0; i < heights_.size(); ++i) {
    if (!std::isfinite(heights_[i])) refuse(filled("height {}", i), "a number that is not finite", "finite numbers");
    bounds_.add(corner(i % columns, i / columns));
  }
}

std::array<Vec3, 3> HeightField::triangle(std::uint32_t part) const {
  const std::size_t c = (part / 2) % (columns_ - 1), r = (part / 2) / (columns_ - 1);
  if (part % 2 == 0) return {corner(c, r), corner(c, r + 1), corner(c + 1, r)};
  return {corner(c + 1, r + 1), corner(c + 1, r), corner(c, r + 1)};
}

HeightField::CellHit HeightField::cast_on_cell(const Ray& ray, std::size_t column, std::size_t row) const {
  const double* low_row = &heights_[row * columns_ + column];
  const double* high_row = low_row + columns_;
  const double h00 = low_row[0], h10 = low_row[1], h01 = high_row[0], h11 = high_row[1];
  // In cells, from the cell's corner: the ray is at u0 + du t, v0 + dv t.
  const double u0 = ray.origin.x * per_cell_ - static_cast<double>(column), du = ray.direction.x * per_cell_;
  const double v0 = ray.origin.z * per_cell_ - static_cast<double>(row), dv = ray.direction.z * per_cell_;
  CellHit best;
  for (int half = 0; half < 2; ++half) {
    // On each half the height is linear: y = base + a u + b v.
    const double a = half == 0 ? h10 - h00 : h11 - h01;
    const double b = half == 0 ? h01 - h00 : h11 - h10;
    const double base = half == 0 ? h00 : h10 + h01 - h11;
    const double rise = ray.direction.y - a * du - b * dv;
    const double t = (base + a * u0 + b * v0 - ray.origin.y) / rise;
    // Both halves own the diagonal, and a cell its border: rounding may overlap them, never part them.
    constexpr double border = 1e-9;
    const double u = u0 + du * t, v = v0 + dv * t;
    const double across = half == 0 ? 1 - u - v : u + v - 1;
    const bool inside = (u >= -border) & (v >= -border) & (u <= 1 + border) & (v <= 1 + border) & (across >= -border);
    if (inside & (t >= 0) & (t <= ray.length) & (t < best.distance)) best = {t, a, b, rise, half};
  }
  return best;
}

std::optional<RayHit> HeightField::cast(const Ray& ray) const {
  // Clip to the bounds, then walk the cells under the ray (Amanatides and Woo, Eurographics 1987).
  double enter = 0, leave = ray.length;
  for (int axis = 0; axis < 3; ++axis) {
    const double o = ray.origin[axis], d = ray.direction[axis];
    if (d == 0) {
      if (o < bounds_.low[axis] || o > bounds_.high[axis]) return std::nullopt;
      continue;
    }
    const double inverse = 1 / d;
    const double a = (bounds_.low[axis] - o) * inverse, b = (bounds_.high[axis] - o) * inverse;
    enter = std::max(enter, std::min(a, b));
    leave = std::min(leave, std::max(a, b));
  }
  if (enter > leave + 1e-9 * cell_) return std::nullopt;
  struct Axis {
    std::ptrdiff_t at, step, end;
    double next, each;  // the distance at which the ray passes to the next cell, and from cell to cell
  };
  const auto prepare = [&](double o, double d, std::size_t points) {
    const double place = (o + d * enter) * per_cell_;
    Axis axis{};
    axis.at = static_cast<std::ptrdiff_t>(std::clamp(place, 0.0, static_cast<double>(points - 2)));
    axis.step = d > 0 ? 1 : -1;
    axis.end = d > 0 ? static_cast<std::ptrdiff_t>(points) - 1 : -1;
    axis.next = axis.each = infinity;
    if (d != 0) {
      axis.each = cell_ / std::abs(d);
      axis.next = (static_cast<double>(axis.at + (d > 0 ? 1 : 0)) * cell_ - o) / d;
    }
    return axis;
  };
  Axis x = prepare(ray.origin.x, ray.direction.x, columns_), z = prepare(ray.origin.z, ray.direction.z, rows_);
  for (double t = enter;;) {
    const CellHit hit = cast_on_cell(ray, static_cast<std::size_t>(x.at), static_cast<std::size_t>(z.at));
    if (hit.distance <= ray.length) {
      const double nx = -hit.slope_x * per_cell_, nz = -hit.slope_z * per_cell_;
      const double sign = (hit.rise < 0 ? 1.0 : -1.0) / std::sqrt(nx * nx + nz * nz + 1);
      return RayHit{hit.distance,
                    {nx * sign, sign, nz * sign},
                    part(static_cast<std::size_t>(x.at), static_cast<std::size_t>(z.at), hit.half)};
    }
    Axis& crossed = x.next < z.next ? x : z;
    t = crossed.next;
    crossed.at += crossed.step;
    crossed.next += crossed.each;
    if (!(t <= leave) || crossed.at == crossed.end) return std::nullopt;
  }
}

}  // namespace jugend
