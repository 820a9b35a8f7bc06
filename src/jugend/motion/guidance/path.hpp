// Paths through given points, measured along their length.
#pragma once

#include <jugend/base/vec.hpp>
#include <span>
#include <vector>

namespace jugend {

/// A line through points: straight from one to the next, or a smooth curve through all of them.
class Path {
 public:
  /// Throws InputError (key "path.points") for fewer than two points, numbers that are not finite, or two
  /// neighbours that are the same. A closed path goes on from the last point to the first.
  explicit Path(std::span<const Vec3> points, bool smooth = false, bool closed = false);

  double length() const { return at_.back(); }  ///< m
  bool closed() const { return closed_; }
  bool smooth() const { return smooth_; }
  std::span<const Vec3> points() const;
  /// The place `s` m along it; s is held within 0 and length(), or wraps where the path is closed.
  Vec3 at(double s) const;
  /// The direction there, unit; round a corner of a straight path it turns within `blend` m on either side.
  Vec3 heading(double s, double blend = 0) const;
  /// m along it to each of its points; of a closed path length() stands at the end.
  std::span<const double> stops() const;

 private:
  Vec3 spline(std::size_t segment, double u) const;
  std::vector<Vec3> points_, nodes_;
  std::vector<double> at_, stops_;  // m along it, of nodes and of points
  bool smooth_, closed_;
};

}  // namespace jugend
