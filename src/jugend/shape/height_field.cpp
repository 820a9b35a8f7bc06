#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/shape/height_field.hpp>

namespace jugend {

HeightField::HeightField(std::size_t columns, std::size_t rows, double cell, std::vector<double> heights)
    : columns_(columns), rows_(rows), cell_(cell), heights_(heights.begin(), heights.end()) {
  const auto refuse = [](std::string key, std::string found, std::string allowed) {
    throw InputError({{}, std::move(key), std::move(found), std::move(allowed), {}});
  };
  if (columns < 2 || rows < 2) refuse("heights", fmt::format("{} by {}", columns, rows), "2 by 2 or more");
  if (columns > 30000 || rows > 30000)
    refuse("heights", fmt::format("{} by {}", columns, rows), "at most 30000 by 30000");
  if (heights_.size() != columns * rows) {
    refuse("heights", fmt::format("{} heights", heights_.size()), fmt::format("{} x {}", columns, rows));
  }
  if (!(cell > 0) || !std::isfinite(cell)) refuse("cell", fmt::format("{}", cell), "more than 0 m");
  for (std::size_t i = 0; i < heights_.size(); ++i) {
    if (!std::isfinite(heights_[i]))
      refuse(fmt::format("height {}", i), "a number that is not finite", "finite numbers");
    bounds_.add(corner(i % columns, i / columns));
  }
}

std::array<Vec3, 3> HeightField::triangle(std::uint32_t part) const {
  const std::size_t c = (part / 2) % (columns_ - 1), r = (part / 2) / (columns_ - 1);
  if (part % 2 == 0) return {corner(c, r), corner(c, r + 1), corner(c + 1, r)};
  return {corner(c + 1, r + 1), corner(c + 1, r), corner(c, r + 1)};
}

std::optional<RayHit> HeightField::cast_on_cell(const Ray& ray, std::size_t column, std::size_t row) const {
  const double h00 = height(column, row), h10 = height(column + 1, row);
  const double h01 = height(column, row + 1), h11 = height(column + 1, row + 1);
  const double x0 = static_cast<double>(column) * cell_, z0 = static_cast<double>(row) * cell_;
  std::optional<RayHit> best;
  for (int half = 0; half < 2; ++half) {
    // On each half the height is linear: y = base + slope_x (x - x0) + slope_z (z - z0).
    const double slope_x = (half == 0 ? h10 - h00 : h11 - h01) / cell_;
    const double slope_z = (half == 0 ? h01 - h00 : h11 - h10) / cell_;
    const double base = half == 0 ? h00 : h10 + h01 - h11;
    const double rise = ray.direction.y - slope_x * ray.direction.x - slope_z * ray.direction.z;
    if (rise == 0) continue;
    const double above = ray.origin.y - base - slope_x * (ray.origin.x - x0) - slope_z * (ray.origin.z - z0);
    const double t = -above / rise;
    if (!(t >= 0 && t <= ray.length) || (best && best->distance <= t)) continue;
    // Both halves own the diagonal, and a cell its border: rounding may overlap them, never part them.
    const double u = (ray.origin.x + ray.direction.x * t - x0) / cell_,
                 v = (ray.origin.z + ray.direction.z * t - z0) / cell_;
    constexpr double border = 1e-9;
    if (u < -border || v < -border || u > 1 + border || v > 1 + border) continue;
    if (half == 0 ? u + v > 1 + border : u + v < 1 - border) continue;
    const double length = std::sqrt(slope_x * slope_x + slope_z * slope_z + 1);
    const double sign = (rise < 0 ? 1.0 : -1.0) / length;
    best = RayHit{t, {-slope_x * sign, sign, -slope_z * sign}, part(column, row, half)};
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
    const double place = (o + d * enter) / cell_;
    Axis axis{};
    axis.at = static_cast<std::ptrdiff_t>(std::clamp(place, 0.0, static_cast<double>(points - 2)));
    axis.step = d > 0 ? 1 : -1;
    axis.end = d > 0 ? static_cast<std::ptrdiff_t>(points) - 1 : -1;
    axis.next = axis.each = std::numeric_limits<double>::infinity();
    if (d != 0) {
      axis.each = cell_ / std::abs(d);
      axis.next = (static_cast<double>(axis.at + (d > 0 ? 1 : 0)) * cell_ - o) / d;
    }
    return axis;
  };
  Axis x = prepare(ray.origin.x, ray.direction.x, columns_), z = prepare(ray.origin.z, ray.direction.z, rows_);
  for (double t = enter;;) {
    const auto hit = cast_on_cell(ray, static_cast<std::size_t>(x.at), static_cast<std::size_t>(z.at));
    if (hit) return hit;
    Axis& crossed = x.next < z.next ? x : z;
    t = crossed.next;
    crossed.at += crossed.step;
    crossed.next += crossed.each;
    if (!(t <= leave) || crossed.at == crossed.end) return std::nullopt;
  }
}

}  // namespace jugend
