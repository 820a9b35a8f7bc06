// Piecewise curves through given points, smooth and without overshoot: speed caps, force over speed.
#pragma once

#include <initializer_list>
#include <jugend/base/fields.hpp>
#include <span>
#include <vector>

namespace jugend {

/// What a curve does beyond its first and last point.
enum class CurveEnds { hold, extend };  // the end's value, or the end's slope carried on

/// A curve y(x) through points with rising x. Between two points it is monotone whenever they are,
/// so it never leaves the range they span, and its slope is continuous.
/// Fritsch and Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer. Anal. 17 (1980),
/// with the three-point slopes of Fritsch and Butland (1984).
///   Curve grip({{0, 1.0}, {20, 0.8}, {60, 0.5}});  grip.value(30);
class Curve {
 public:
  struct Point {
    double x = 0, y = 0;

    static constexpr auto fields() { return field_list(Field{"x", &Point::x}, Field{"y", &Point::y}); }
  };
  /// Throws InputError (key "points") for no points, x that does not rise, or numbers that are not finite.
  explicit Curve(std::span<const Point> points, CurveEnds ends = CurveEnds::hold);
  Curve(std::initializer_list<Point> points, CurveEnds ends = CurveEnds::hold)
      : Curve(std::span<const Point>(points.begin(), points.size()), ends) {}

  double value(double x) const;
  double slope(double x) const;
  std::span<const Point> points() const { return points_; }

 private:
  struct Local {  // where x lies: the segment's left end and the place in it
    std::size_t left;
    double width, t;
  };
  Local locate(double x) const;

  std::vector<Point> points_;
  std::vector<double> slopes_;
  CurveEnds ends_;
};

}  // namespace jugend
