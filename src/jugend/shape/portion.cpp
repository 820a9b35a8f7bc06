// How much of a solid lies within a box. Flat-sided ones are clipped face by face; round ones are summed up over discs
// across their axis.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/mass.hpp>
#include <jugend/shape/portion.hpp>

namespace jugend {
namespace {

/// n·x <= offset, with n along an axis or against it.
struct Wall {
  int axis = 0;
  double sign = 1, offset = 0;
  double inside(const Vec3& p) const { return offset - sign * p[axis]; }  // m
};
using Walls = InlineList<Wall, 6>;

/// The box's faces that cut what has these bounds. One that it only touches does not: it would count twice.
Walls cutting(const Bounds& bounds, const Vec3& half) {
  Walls walls;
  for (int axis = 0; axis < 3; ++axis) {
    const double touches = 1e-9 * (bounds.high[axis] - bounds.low[axis]);
    if (bounds.high[axis] > half[axis] + touches) walls.push_back({axis, 1, half[axis]});
    if (bounds.low[axis] < -half[axis] - touches) walls.push_back({axis, -1, half[axis]});
  }
  return walls;
}

/// Volumes and their moments, summed.
struct Sum {
  double volume = 0;
  Vec3 moment;  // m⁴
  void add(double v, const Vec3& centre) { volume += v, moment += centre * v; }
  void add(const Portion& p) { add(p.volume, p.centre); }
  Portion portion() const { return volume > 0 ? Portion{volume, moment / volume} : Portion{}; }
};

// ---- flat sides

constexpr std::size_t most_corners = PlacedConvex::most_points + 8;
using Polygon = InlineList<Vec3, most_corners>;

/// The part of a polygon where `inside` (m) is not negative (Sutherland and Hodgman, CACM 17, 1974).
template <class Inside>
void cut_off(Polygon& polygon, const Inside& inside) {
  const Polygon whole = polygon;
  polygon.clear();
  for (std::size_t i = 0; i < whole.size(); ++i) {
    const Vec3 &from = whole[i], &to = whole[i + 1 < whole.size() ? i + 1 : 0];
    const double a = inside(from), b = inside(to);
    if (a >= 0) polygon.push_back(from);
    if ((a > 0 && b < 0) || (a < 0 && b > 0)) polygon.push_back(from + (to - from) * (a / (a - b)));
  }
}

/// Adds the pyramid from `apex` to a polygon that is seen counter-clockwise from outside.
void add_pyramid(const Polygon& face, const Vec3& apex, Sum& sum) {
  for (std::size_t k = 2; k < face.size(); ++k) {
    const Vec3 a = face[0] - apex, b = face[k - 1] - apex, c = face[k] - apex;
    sum.add(dot(a, cross(b, c)) / 6, apex + (a + b + c) / 4);
  }
}

/// `each_face(visit)` gives each face's corners, counter-clockwise from outside.
template <class EachFace>
Portion of_flat(const Bounds& bounds, const Walls& walls, const EachFace& each_face) {
  Sum sum;
  const Vec3 apex = bounds.centre();
  each_face([&](Polygon face) {
    for (const Wall& wall : walls) cut_off(face, [&](const Vec3& p) { return wall.inside(p); });
    add_pyramid(face, apex, sum);
  });
  for (const Wall& wall : walls) {  // and where the box's own face closes it
    const int u = (wall.axis + 1) % 3, v = (wall.axis + 2) % 3;
    Polygon cap;
    for (const auto& [at_u, at_v] : {std::pair{0, 0}, {1, 0}, {1, 1}, {0, 1}}) {
      Vec3 corner;
      corner[wall.axis] = wall.sign * wall.offset;
      corner[u] = (at_u != 0) == (wall.sign > 0) ? bounds.high[u] : bounds.low[u];  // counter-clockwise from outside
      corner[v] = at_v != 0 ? bounds.high[v] : bounds.low[v];
      cap.push_back(corner);
    }
    for (const Wall& other : walls) {
      if (other.axis != wall.axis) cut_off(cap, [&](const Vec3& p) { return other.inside(p); });
    }
    each_face([&](const Polygon& face) {
      Vec3 outward;
      for (std::size_t k = 2; k < face.size(); ++k) outward += cross(face[k - 1] - face[0], face[k] - face[0]);
      cut_off(cap, [&](const Vec3& p) { return dot(outward, face[0] - p); });
    });
    add_pyramid(cap, apex, sum);
  }
  return sum.portion();
}

Portion of_box(const Box& box, const Pose& pose, const Bounds& bounds, const Walls& walls) {
  return of_flat(bounds, walls, [&](const auto& visit) {
    for (int axis = 0; axis < 3; ++axis) {
      for (const double side : {-1.0, 1.0}) {
        const int u = (axis + 1) % 3, v = (axis + 2) % 3;
        Polygon face;
        for (const auto& [at_u, at_v] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
          Vec3 corner;
          corner[axis] = side * box.half_extents[axis];
          corner[u] = side * at_u * box.half_extents[u];
          corner[v] = at_v * box.half_extents[v];
          face.push_back(to_world(pose, corner));
        }
        visit(face);
      }
    }
  });
}

Portion of_hull(const Hull& hull, const Pose& pose, const Bounds& bounds, const Walls& walls) {
  return of_flat(bounds, walls, [&](const auto& visit) {
    for (std::size_t f = 0; f < hull.facets().face_count(); ++f) {
      Polygon face;
      for (const std::uint8_t corner : hull.facets().face(f)) face.push_back(to_world(pose, hull.corners()[corner]));
      visit(face);
    }
  });
}

// ---- round ones

/// Radius r² = a + b s + c s² along the axis, from `low` to `high`.
struct Stretch {
  double low = 0, high = 0, a = 0, b = 0, c = 0;
  double radius(double s) const { return std::sqrt(std::max(0.0, a + s * (b + s * c))); }
};
Stretch cylinder_stretch(double radius, double half) { return {-half, half, radius * radius, 0, 0}; }
Stretch ball_stretch(double radius, double middle, double low, double high) {
  return {low, high, radius * radius - middle * middle, 2 * middle, -1};
}

/// A disc's part where n·p <= offset holds for all half planes, as area and moment about its centre.
/// Green's theorem: edge by edge of a polygon round it, a triangle where the edge is within the circle, else a sector.
struct Disc {
  double area = 0, x = 0, y = 0;
};
struct HalfPlane {
  double nx = 0, ny = 0, offset = 0;
};
Disc clipped_disc(double r, std::span<const HalfPlane> cuts) {
  Polygon around;
  for (const auto& [x, y] : {std::pair{-2, -2}, {2, -2}, {2, 2}, {-2, 2}}) around.push_back({r * x, r * y, 0});
  for (const HalfPlane& cut : cuts)
    cut_off(around, [&](const Vec3& p) { return cut.offset - cut.nx * p.x - cut.ny * p.y; });
  Disc disc;
  const auto sector = [&](const Vec3& from, const Vec3& to) {
    const double angle = same_bits::atan2(from.x * to.y - from.y * to.x, from.x * to.x + from.y * to.y);
    const double start = same_bits::atan2(from.y, from.x), end = start + angle;
    disc.area += 0.5 * r * r * angle;
    disc.x += r * r * r / 3 * (same_bits::sin(end) - same_bits::sin(start));
    disc.y += r * r * r / 3 * (same_bits::cos(start) - same_bits::cos(end));
  };
  for (std::size_t i = 0; i < around.size(); ++i) {
    const Vec3 from = around[i], to = around[i + 1 < around.size() ? i + 1 : 0], edge = to - from;
    // Where the edge is within the circle: from share `in` to share `out` of it.
    const QuadraticRoots roots = quadratic_roots(squared_norm(edge), 2 * dot(from, edge), squared_norm(from) - r * r);
    const double in = roots.count < 2 ? 1 : std::clamp(roots.first, 0.0, 1.0);
    const double out = roots.count < 2 ? 1 : std::clamp(roots.second, in, 1.0);
    const Vec3 a = from + edge * in, b = from + edge * out;
    if (in > 0) sector(from, a);
    const double twice = a.x * b.y - a.y * b.x;
    disc.area += 0.5 * twice, disc.x += twice * (a.x + b.x) / 6, disc.y += twice * (a.y + b.y) / 6;
    if (out < 1) sector(b, to);
  }
  return disc;
}

/// A solid of revolution about `axis` through `centre`.
void add_round(const Vec3& centre, const Vec3& axis, const Stretch& stretch, const Walls& walls, Sum& sum) {
  // Between these places along the axis no face begins or ends to cut the discs.
  InlineList<double, 26> places;
  places.push_back(stretch.low), places.push_back(stretch.high);
  for (const Wall& wall : walls) {
    // (inside at the axis)² = r² sin², both quadratic in s.
    const double d = wall.inside(centre), slope = -wall.sign * axis[wall.axis], sin2 = std::max(0.0, 1 - slope * slope);
    const QuadraticRoots roots =
        quadratic_roots(slope * slope - sin2 * stretch.c, 2 * d * slope - sin2 * stretch.b, d * d - sin2 * stretch.a);
    const double crossed = -d / slope;  // by the axis: what lies flat has no other place, or one lost to rounding
    for (const double s :
         {crossed, roots.count > 0 ? roots.first : crossed, roots.count > 0 ? roots.second : crossed}) {
      if (s > stretch.low && s < stretch.high) places.push_back(s);
    }
  }
  std::sort(places.begin(), places.end());
  const Vec3 u = normalised(in_plane(std::abs(axis.x) < 0.7 ? Vec3{1, 0, 0} : Vec3{0, 1, 0}, axis)), v = cross(axis, u);
  // Gauss and Legendre's rule for half a turn of φ in s = middle - half cos φ, which smooths the ends.
  constexpr std::array<std::pair<double, double>, 4> rule{{{0.1834346424956498, 0.3626837833783620},
                                                           {0.5255324099163290, 0.3137066458778873},
                                                           {0.7966664774136267, 0.2223810344533745},
                                                           {0.9602898564975363, 0.1012285362903763}}};
  for (std::size_t k = 0; k + 1 < places.size(); ++k) {
    const double middle = 0.5 * (places[k] + places[k + 1]), half = 0.5 * (places[k + 1] - places[k]);
    if (half <= 0) continue;
    for (const auto& [place, weight] : rule) {
      for (const double sign : {-1.0, 1.0}) {
        const double angle = 0.5 * pi * (1 + sign * place), s = middle - half * same_bits::cos(angle);
        const double thick = half * same_bits::sin(angle) * 0.5 * pi * weight, r = stretch.radius(s);
        const Vec3 at = centre + axis * s;
        InlineList<HalfPlane, 6> cuts;
        bool outside = false;
        for (const Wall& wall : walls) {
          const HalfPlane cut{wall.sign * u[wall.axis], wall.sign * v[wall.axis], wall.inside(at)};
          const double reach = r * same_bits::hypot(cut.nx, cut.ny);
          outside |= cut.offset <= -reach;
          if (cut.offset < reach) cuts.push_back(cut);
        }
        if (outside || r <= 0) continue;
        if (cuts.empty()) {
          sum.add(pi * r * r * thick, at);
        } else if (const Disc disc = clipped_disc(r, {cuts.begin(), cuts.size()}); disc.area > 0) {
          sum.add(disc.area * thick, at + (u * disc.x + v * disc.y) / disc.area);
        }
      }
    }
  }
}

Portion of_sphere(const Sphere& sphere, const Vec3& centre, const Walls& walls) {
  Sum sum;
  const double r = sphere.radius;
  if (walls.size() == 1) {  // Archimedes, On the Sphere and Cylinder: the part of height h of a ball
    const double h = std::clamp(walls[0].inside(centre) + r, 0.0, 2 * r);
    Vec3 outward;
    outward[walls[0].axis] = walls[0].sign;
    const double from_centre = 0.75 * (2 * r - h) * (2 * r - h) / (3 * r - h);
    sum.add(pi / 3 * h * h * (3 * r - h), centre - outward * from_centre);
  } else {
    add_round(centre, {0, 1, 0}, ball_stretch(r, 0, -r, r), walls, sum);
  }
  return sum.portion();
}

Portion of_cylinder(const Cylinder& c, const Pose& pose, const Walls& walls) {
  Sum sum;
  add_round(pose.position, rotate(pose.orientation, {0, 1, 0}), cylinder_stretch(c.radius, c.half_height), walls, sum);
  return sum.portion();
}

Portion of_capsule(const Capsule& c, const Pose& pose, const Walls& walls) {
  Sum sum;
  const double r = c.radius, l = c.half_length;
  const Vec3 axis = rotate(pose.orientation, {0, 1, 0});
  for (const Stretch& stretch : {ball_stretch(r, -l, -l - r, -l), cylinder_stretch(r, l), ball_stretch(r, l, l, l + r)})
    add_round(pose.position, axis, stretch, walls, sum);
  return sum.portion();
}

}  // namespace

Portion within_box(const Shape& shape, const Pose& pose, const Vec3& half_extents) {
  const Bounds around = bounds(shape, pose);
  if (!meet(around, {-half_extents, half_extents})) return {};
  const Walls walls = cutting(around, half_extents);
  if (walls.empty()) {
    const auto whole = mass_properties(shape, 1);
    return whole ? Portion{whole->mass, to_world(pose, whole->centre)} : Portion{};
  }
  return std::visit(
      Overloaded{
          [&](const Sphere& s) { return of_sphere(s, pose.position, walls); },
          [&](const Box& b) { return of_box(b, pose, around, walls); },
          [&](const Capsule& c) { return of_capsule(c, pose, walls); },
          [&](const Cylinder& c) { return of_cylinder(c, pose, walls); },
          [&](const HullRef& h) { return of_hull(*h, pose, around, walls); },
          [&](const CompoundRef& compound) {
            Sum sum;
            for (const Compound::Part& part : compound->parts()) {
              const Pose place = to_world(pose, part.pose);
              sum.add(std::visit([&](const auto& s) { return within_box(s, place, half_extents); }, part.shape));
            }
            return sum.portion();
          },
          [](const auto&) { return Portion{}; },
      },
      shape);
}

}  // namespace jugend
