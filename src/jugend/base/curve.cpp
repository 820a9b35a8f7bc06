#include <algorithm>
#include <cmath>
#include <jugend/base/curve.hpp>
#include <jugend/base/error.hpp>
#include <string>

namespace jugend {

Curve::Curve(std::span<const Point> points, CurveEnds ends) : points_(points.begin(), points.end()), ends_(ends) {
  if (points_.empty()) fail({{}, "points", "none", "one point or more", {}});
  for (std::size_t i = 0; i < points_.size(); ++i) {
    if (!std::isfinite(points_[i].x) || !std::isfinite(points_[i].y)) {
      fail({{}, "points", "a number that is not finite in point " + std::to_string(i), "finite numbers", {}});
    }
    if (i > 0 && points_[i].x <= points_[i - 1].x) {
      fail({{},
            "points",
            "x = " + std::to_string(points_[i].x) + " after " + std::to_string(points_[i - 1].x),
            "x that rises from point to point",
            {}});
    }
  }
  const std::size_t n = points_.size();
  slopes_.assign(n, 0.0);
  if (n == 1) return;
  const auto secant = [this](std::size_t i) {
    return (points_[i + 1].y - points_[i].y) / (points_[i + 1].x - points_[i].x);
  };
  slopes_.front() = secant(0);
  slopes_.back() = secant(n - 2);
  for (std::size_t i = 1; i + 1 < n; ++i) {
    const double before = secant(i - 1), after = secant(i);
    if (before * after <= 0) continue;  // a peak, a valley or a flat: slope 0 keeps it monotone on both sides
    const double h0 = points_[i].x - points_[i - 1].x, h1 = points_[i + 1].x - points_[i].x;
    const double w0 = 2 * h1 + h0, w1 = h1 + 2 * h0;
    slopes_[i] = (w0 + w1) / (w0 / before + w1 / after);
  }
}

Curve::Local Curve::locate(double x) const {
  const auto above = std::upper_bound(points_.begin() + 1, points_.end() - 1, x,
                                      [](double value, const Point& p) { return value < p.x; });
  const std::size_t left = static_cast<std::size_t>(above - points_.begin()) - 1;
  const double width = points_[left + 1].x - points_[left].x;
  return {left, width, (x - points_[left].x) / width};
}

double Curve::value(double x) const {
  const bool below = x <= points_.front().x;
  if (below || x >= points_.back().x) {
    const Point& end = below ? points_.front() : points_.back();
    const double end_slope = below ? slopes_.front() : slopes_.back();
    return ends_ == CurveEnds::hold ? end.y : end.y + end_slope * (x - end.x);
  }
  const auto [i, h, t] = locate(x);  // cubic Hermite form
  const double s = 1 - t;
  return (1 + 2 * t) * s * s * points_[i].y + t * s * s * h * slopes_[i] + t * t * (3 - 2 * t) * points_[i + 1].y -
         t * t * s * h * slopes_[i + 1];
}

double Curve::slope(double x) const {
  const bool below = x < points_.front().x;
  if (below || x > points_.back().x || points_.size() == 1) {
    return ends_ == CurveEnds::hold ? 0.0 : below ? slopes_.front() : slopes_.back();
  }
  const auto [i, h, t] = locate(x);
  return 6 * t * (1 - t) * (points_[i + 1].y - points_[i].y) / h + (1 - t) * (1 - 3 * t) * slopes_[i] +
         t * (3 * t - 2) * slopes_[i + 1];
}

}  // namespace jugend
