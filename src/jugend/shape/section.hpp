// Side views of shapes: what a plane of constant z cuts from them.
#pragma once

#include <jugend/shape/shape.hpp>
#include <vector>

namespace jugend {

struct Point2 {
  double x = 0, y = 0;
};
/// A line through points; `closed` ones bound a solid.
struct Outline {
  std::vector<Point2> points;
  bool closed = false;
};

/// Appends the outlines in which the plane z = `z` cuts the shape at `pose`: polygons for solids, lines
/// for meshes and height fields, drawn through where they join.
void section(const Shape& shape, const Pose& pose, double z, std::vector<Outline>& out);

/// Which way a picture looks: along -z at x and y, or down along -y at x and z.
enum class View { side, top };

/// Appends the outline of each convex part as seen from afar; nothing for meshes and height fields.
void silhouette(const Shape& shape, const Pose& pose, View view, std::vector<Outline>& out);

}  // namespace jugend
