#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/random.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/road.hpp>

namespace jugend {
namespace {

void need(double value, const char* key) {
  if (!(value > 0) || !std::isfinite(value)) fail({{}, key, as_text(value), "more than 0", {}});
}

/// A strip between two lines of points, the first on the left.
MeshData strip(std::vector<Vec3> left, const std::vector<Vec3>& right) {
  MeshData data;
  const auto n = static_cast<std::uint32_t>(left.size());
  data.vertices = std::move(left);
  data.vertices.insert(data.vertices.end(), right.begin(), right.end());
  for (std::uint32_t i = 0; i + 1 < n; ++i) {
    data.triangles.push_back({i, n + i, i + 1});
    data.triangles.push_back({i + 1, n + i, n + i + 1});
  }
  return data;
}

/// Adds `size` sin(i `step` + `phase`) to the i-th height. From one to the next the angle is turned, and found anew
/// every 64, so that roundings do not add up.
void add_wave(std::vector<double>& heights, double size, double step, double phase) {
  constexpr std::size_t few = 64;
  const double turn_sin = same_bits::sin(step), turn_cos = same_bits::cos(step);
  for (std::size_t begin = 0; begin < heights.size(); begin += few) {
    const double angle = step * static_cast<double>(begin) + phase;
    double sin = size * same_bits::sin(angle), cos = size * same_bits::cos(angle);
    for (std::size_t i = begin; i < std::min(begin + few, heights.size()); ++i) {
      heights[i] += sin;
      const double next = sin * turn_cos + cos * turn_sin;
      cos = cos * turn_cos - sin * turn_sin, sin = next;
    }
  }
}

}  // namespace

MeshData rough_road(const RoughRoad& road) {
  need(road.length, "length"), need(road.width, "width"), need(road.spacing, "spacing");
  if (road.roughness < 0 || road.roughness > 7)
    fail({{}, "roughness", filled("{}", road.roughness), "a class of ISO 8608, 0 (A) to 7 (H)", {}});
  const double steps = std::ceil(road.length / road.spacing);
  if (steps > 1e6) fail({{}, "spacing", as_text(road.spacing), "at most a million heights", {}});
  const auto points = static_cast<std::size_t>(steps) + 1;
  // Waves from 90 m down to two spacings, each as high as its share of the power.
  constexpr int waves = 300;
  const double low = 0.011, high = std::min(10.0, 0.5 / road.spacing),
               power = 16e-6 * same_bits::pow(4, road.roughness);
  RandomShares random(road.seed);
  std::vector<double> heights[2]{std::vector<double>(points), std::vector<double>(points)};
  for (int k = 0; k < waves; ++k) {
    const double n = low * same_bits::pow(high / low, (k + 0.5) / waves),
                 width = n * same_bits::log(high / low) / waves;
    const double size = std::sqrt(2 * power * same_bits::pow(n / 0.1, -2) * width);
    const double first = 2 * pi * random.next(), second = 2 * pi * random.next(), other = n < 0.25 ? first : second;
    const double step = 2 * pi * n * road.spacing;
    add_wave(heights[0], size, step, first), add_wave(heights[1], size, step, other);
  }
  std::vector<Vec3> sides[2];
  for (int side = 0; side < 2; ++side) {
    for (std::size_t i = 0; i < points; ++i)
      sides[side].push_back(
          {road.spacing * static_cast<double>(i), heights[side][i], (side == 0 ? -0.5 : 0.5) * road.width});
  }
  return strip(std::move(sides[0]), sides[1]);
}

MeshData banked_curve(const BankedCurve& curve) {
  need(curve.radius, "radius"), need(curve.width, "width"), need(curve.angle, "angle");
  if (curve.width >= 2 * curve.radius) fail({{}, "width", as_text(curve.width), "less than twice the radius", {}});
  const int steps = static_cast<int>(std::ceil(curve.angle / (pi / 180))) + 1;
  std::vector<Vec3> inner, outer;
  for (int i = 0; i <= steps; ++i) {
    const double angle = curve.angle * i / steps;
    // Round a middle to the left, at z = -radius; the bank grows over the first and fades over the last tenth.
    const double ends = std::min({1.0, 10.0 * i / steps, 10.0 * (steps - i) / steps});
    const double rise = 0.5 * curve.width * same_bits::sin(curve.bank * ends),
                 half = 0.5 * curve.width * same_bits::cos(curve.bank * ends);
    const auto at = [&](double r, double y) {
      return Vec3{r * same_bits::sin(angle), y, -curve.radius + r * same_bits::cos(angle)};
    };
    inner.push_back(at(curve.radius - half, 0)), outer.push_back(at(curve.radius + half, 2 * rise));
  }
  return strip(std::move(inner), outer);
}

}  // namespace jugend
