#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/guidance/path.hpp>

namespace jugend {
namespace {

constexpr int pieces = 64;  // of a smooth segment: its length is right to about 1e-5, its speed likewise

}  // namespace

std::span<const Vec3> Path::points() const { return points_; }
std::span<const double> Path::stops() const { return stops_; }

Path::Path(std::span<const Vec3> points, bool smooth, bool closed)
    : points_(points.begin(), points.end()), smooth_(smooth), closed_(closed) {
  if (points_.size() < 2) fail({{}, "path.points", filled("{} points", points_.size()), "2 points or more", {}});
  const std::size_t segments = points_.size() - (closed ? 0 : 1);
  for (std::size_t i = 0; i < points_.size(); ++i) {
    if (!is_finite(points_[i])) fail({{}, "path.points", "a number that is not finite", "finite numbers", {}});
    if (i < segments && points_[i] == points_[(i + 1) % points_.size()])
      fail({{}, "path.points", filled("point {} twice in a row", i), "points that differ", {}});
  }
  nodes_.push_back(points_[0]);
  at_.push_back(0);
  stops_.push_back(0);
  for (std::size_t i = 0; i < segments; ++i) {
    for (int piece = 1; piece <= (smooth ? pieces : 1); ++piece) {
      const Vec3 next = smooth ? spline(i, static_cast<double>(piece) / pieces) : points_[(i + 1) % points_.size()];
      at_.push_back(at_.back() + norm(next - nodes_.back()));
      nodes_.push_back(next);
    }
    stops_.push_back(at_.back());
  }
}

/// Catmull and Rom, "A class of local interpolating splines" (1974): tangents along the neighbours' chord.
Vec3 Path::spline(std::size_t segment, double u) const {
  const auto n = static_cast<std::ptrdiff_t>(points_.size());
  const auto point = [&](std::ptrdiff_t i) {
    if (closed_) return points_[static_cast<std::size_t>(((i % n) + n) % n)];
    if (i < 0) return points_[0] * 2.0 - points_[1];
    if (i >= n) return points_[static_cast<std::size_t>(n - 1)] * 2.0 - points_[static_cast<std::size_t>(n - 2)];
    return points_[static_cast<std::size_t>(i)];
  };
  const auto i = static_cast<std::ptrdiff_t>(segment);
  const Vec3 a = point(i - 1), b = point(i), c = point(i + 1), d = point(i + 2);
  const Vec3 into = (c - a) * 0.5, out = (d - b) * 0.5;
  const double u2 = u * u, u3 = u2 * u;
  return b * (2 * u3 - 3 * u2 + 1) + into * (u3 - 2 * u2 + u) + c * (3 * u2 - 2 * u3) + out * (u3 - u2);
}

Vec3 Path::at(double s) const {
  s = closed_ ? s - std::floor(s / length()) * length() : std::clamp(s, 0.0, length());
  const auto above = std::upper_bound(at_.begin() + 1, at_.end() - 1, s);
  const auto i = static_cast<std::size_t>(above - at_.begin());
  const double u = std::clamp((s - at_[i - 1]) / (at_[i] - at_[i - 1]), 0.0, 1.0);
  return u == 1 ? nodes_[i] : nodes_[i - 1] + (nodes_[i] - nodes_[i - 1]) * u;
}

Vec3 Path::heading(double s, double blend) const {
  const double step = std::max(blend, 1e-4 * length());
  const bool ends = !closed_;
  const double before = ends ? std::max(0.0, s - step) : s - step,
               after = ends ? std::min(length(), s + step) : s + step;
  return normalised(at(after) - at(before), normalised(nodes_[1] - nodes_[0]));
}

}  // namespace jugend
