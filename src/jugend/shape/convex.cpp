// Distance by GJK, depth by separating axes, time of impact by Newton's method on the distance.
//
// Gilbert, Johnson and Keerthi, IEEE J. Robotics and Automation 4(2), 1988, with the closest point on
// the simplex by Voronoi regions (Ericson, Real-Time Collision Detection, 2005, section 5.1).
#include <algorithm>
#include <cmath>
#include <jugend/shape/convex.hpp>
#include <limits>

namespace jugend {
namespace {

constexpr double cores_touch = 1e-10;  // m: nearer cores have no reliable direction between them
constexpr double sharp_margin = 1e-9;  // m: the radius given to a pair that has none, so that it has a direction
constexpr double unfelt_depth = 1e-9;  // m: a motion that would not press in further than this is no hit

/// Up to four pairs of core points: the simplex of GJK in terms that survive a move of `a`.
struct Simplex {
  int size = 0;
  std::array<std::uint8_t, 4> a{}, b{};
};

/// Weights of the simplex' points in its point nearest to the origin; zero for points to be dropped.
using Weights = std::array<double, 4>;

Weights nearest_on_segment(const Vec3& p, const Vec3& q) {
  const Vec3 d = q - p;
  const double length2 = dot(d, d);
  const double t = length2 > 0 ? std::clamp(-dot(p, d) / length2, 0.0, 1.0) : 0.0;
  return {1 - t, t, 0, 0};
}

Weights nearest_on_triangle(const Vec3& a, const Vec3& b, const Vec3& c) {
  const Vec3 ab = b - a, ac = c - a;
  const double d1 = -dot(ab, a), d2 = -dot(ac, a);
  if (d1 <= 0 && d2 <= 0) return {1, 0, 0, 0};
  const double d3 = -dot(ab, b), d4 = -dot(ac, b);
  if (d3 >= 0 && d4 <= d3) return {0, 1, 0, 0};
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) {
    const double t = d1 / (d1 - d3);
    return {1 - t, t, 0, 0};
  }
  const double d5 = -dot(ab, c), d6 = -dot(ac, c);
  if (d6 >= 0 && d5 <= d6) return {0, 0, 1, 0};
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) {
    const double t = d2 / (d2 - d6);
    return {1 - t, 0, t, 0};
  }
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const double t = (d4 - d3) / ((d4 - d3) + (d5 - d6));
    return {0, 1 - t, t, 0};
  }
  const double sum = va + vb + vc;
  if (!(sum > 0)) return {1, 0, 0, 0};  // a triangle without area
  return {va / sum, vb / sum, vc / sum, 0};
}

/// All weights zero mean: the origin is inside.
Weights nearest_on_tetrahedron(const std::array<Vec3, 4>& w) {
  static constexpr int faces[4][4] = {{0, 1, 2, 3}, {0, 2, 3, 1}, {0, 3, 1, 2}, {1, 3, 2, 0}};
  Weights best{};
  double least = std::numeric_limits<double>::infinity();
  for (const auto& f : faces) {
    const Vec3 n = cross(w[f[1]] - w[f[0]], w[f[2]] - w[f[0]]);
    const double origin_side = -dot(n, w[f[0]]), inner_side = dot(n, w[f[3]] - w[f[0]]);
    if (origin_side * inner_side > 0) continue;  // the origin is on the inner side of this face
    const Weights on_face = nearest_on_triangle(w[f[0]], w[f[1]], w[f[2]]);
    const Vec3 p = w[f[0]] * on_face[0] + w[f[1]] * on_face[1] + w[f[2]] * on_face[2];
    if (dot(p, p) < least) {
      least = dot(p, p);
      best = {};
      for (int k = 0; k < 3; ++k) best[f[k]] = on_face[k];
    }
  }
  return best;
}

struct CoreDistance {
  double distance = 0;  // 0: the cores meet
  Vec3 normal;          // from b to a
  Vec3 on_b;
};

/// The distance of the cores with `a` moved by `offset`; `simplex` is where the search starts and ends.
CoreDistance core_distance(std::span<const Vec3> a, const Vec3& offset, std::span<const Vec3> b, Simplex& simplex) {
  if (simplex.size == 0) simplex = {1, {0}, {0}};
  double before = std::numeric_limits<double>::infinity();
  CoreDistance best;
  for (int round = 0; round < 48; ++round) {
    std::array<Vec3, 4> w;
    for (int k = 0; k < simplex.size; ++k) w[k] = a[simplex.a[k]] + offset - b[simplex.b[k]];
    Weights weights{1, 0, 0, 0};
    if (simplex.size == 2) weights = nearest_on_segment(w[0], w[1]);
    if (simplex.size == 3) weights = nearest_on_triangle(w[0], w[1], w[2]);
    if (simplex.size == 4) weights = nearest_on_tetrahedron(w);

    Vec3 v, on_b;
    int kept = 0;
    for (int k = 0; k < simplex.size; ++k) {
      if (weights[k] == 0) continue;
      v += w[k] * weights[k];
      on_b += b[simplex.b[k]] * weights[k];
      simplex.a[kept] = simplex.a[k], simplex.b[kept] = simplex.b[k];
      ++kept;
    }
    const double vv = dot(v, v);
    if (kept == 0 || vv <= cores_touch * cores_touch) {
      simplex.size = std::max(kept, 1);
      return {};
    }
    simplex.size = kept;
    if (vv >= before) return best;  // rounding has the last word: no nearer than the round before
    before = vv;
    best = {std::sqrt(vv), v / std::sqrt(vv), on_b};
    if (kept == 4) return best;

    std::uint8_t ia = 0, ib = 0;
    double low = dot(v, a[0]), high = dot(v, b[0]);
    for (std::uint8_t i = 1; i < a.size(); ++i) {
      if (const double d = dot(v, a[i]); d < low) low = d, ia = i;
    }
    for (std::uint8_t i = 1; i < b.size(); ++i) {
      if (const double d = dot(v, b[i]); d > high) high = d, ib = i;
    }
    const Vec3 reached = a[ia] + offset - b[ib];
    if (vv - dot(v, reached) <= 1e-14 * vv) return best;
    for (int k = 0; k < kept; ++k) {
      if (simplex.a[k] == ia && simplex.b[k] == ib) return best;
    }
    simplex.a[kept] = ia, simplex.b[kept] = ib;
    simplex.size = kept + 1;
  }
  return best;
}

/// The directions in which faces of a core look, and along which its edges run.
struct Axes {
  std::array<Vec3, 4> faces, edges;
  int face_count = 0, edge_count = 0;
};

Axes axes_of(const Convex& c) {
  Axes axes;
  const auto p = c.points;
  const auto edge = [&](int from, int to) { axes.edges[axes.edge_count++] = p[to] - p[from]; };
  const auto face = [&](const Vec3& n) { axes.faces[axes.face_count++] = n; };
  switch (c.core) {
    case Core::point: break;
    case Core::segment: edge(0, 1); break;
    case Core::triangle:
      edge(0, 1), edge(1, 2), edge(2, 0);
      face(cross(axes.edges[0], axes.edges[1]));
      break;
    case Core::box:
      edge(0, 1), edge(0, 2), edge(0, 4);
      for (int k = 0; k < 3; ++k) face(axes.edges[k]);
      break;
    case Core::prism:
      edge(0, 1), edge(1, 2), edge(2, 0), edge(0, 3);
      face(cross(axes.edges[0], axes.edges[1]));
      for (int k = 0; k < 3; ++k) face(cross(axes.edges[k], axes.edges[3]));
      break;
  }
  return axes;
}

/// For cores that meet: the face of their Minkowski difference nearest to the origin. Its normals are
/// the faces of either core and the crossings of their edges, so trying all of them is exact.
Separation core_depth(const Convex& a, const Convex& b) {
  const Axes of_a = axes_of(a), of_b = axes_of(b);
  const Vec3 between = a.points[0] - b.points[0];
  Vec3 best_normal = normalised(between, {0, 1, 0});
  double best = std::numeric_limits<double>::infinity();
  const auto try_axis = [&](const Vec3& axis) {
    const double length2 = squared_norm(axis);
    if (length2 < 1e-24) return;
    const Vec3 n = axis / std::sqrt(length2);
    double a_low = 1e300, a_high = -1e300, b_low = 1e300, b_high = -1e300;
    for (const Vec3& p : a.points) a_low = std::min(a_low, dot(n, p)), a_high = std::max(a_high, dot(n, p));
    for (const Vec3& p : b.points) b_low = std::min(b_low, dot(n, p)), b_high = std::max(b_high, dot(n, p));
    const double out_along = b_high - a_low, out_against = a_high - b_low;
    // A sheet has a front: where both ways out are as short, a is put out on the side it winds to.
    if (out_along < best - 1e-12) best = out_along, best_normal = n;
    if (out_against < best - 1e-12) best = out_against, best_normal = -n;
  };
  for (int i = 0; i < of_b.face_count; ++i) try_axis(of_b.faces[i]);
  for (int i = 0; i < of_a.face_count; ++i) try_axis(of_a.faces[i]);
  for (int i = 0; i < of_a.edge_count; ++i) {
    for (int j = 0; j < of_b.edge_count; ++j) try_axis(cross(of_a.edges[i], of_b.edges[j]));
  }
  if (best > 1e299) {  // two points, or a point on a segment: any way out at right angles is as good
    if (of_a.edge_count + of_b.edge_count > 0) {
      best_normal = any_perpendicular(normalised(of_a.edge_count ? of_a.edges[0] : of_b.edges[0], {0, 1, 0}));
    }
    best = 0;
  }
  Vec3 deepest = a.points[0];  // of a, inside b: then carried to b's surface
  for (const Vec3& p : a.points) {
    if (dot(p, best_normal) < dot(deepest, best_normal) - 1e-12) deepest = p;
  }
  return {-best, best_normal, deepest + best_normal * best};
}

}  // namespace

PlacedConvex::PlacedConvex(const Sphere& sphere, const Pose& pose)
    : count_(1), radius_(sphere.radius), core_(Core::point) {
  points_[0] = pose.position;
}

PlacedConvex::PlacedConvex(const Capsule& capsule, const Pose& pose)
    : count_(2), radius_(capsule.radius), core_(Core::segment) {
  const Vec3 half = rotate(pose.orientation, {0, capsule.half_length, 0});
  points_[0] = pose.position - half;
  points_[1] = pose.position + half;
}

PlacedConvex::PlacedConvex(const Box& box, const Pose& pose) : count_(8), radius_(0), core_(Core::box) {
  const Vec3& h = box.half_extents;
  for (int i = 0; i < 8; ++i) {
    points_[i] = to_world(pose, Vec3{i & 1 ? h.x : -h.x, i & 2 ? h.y : -h.y, i & 4 ? h.z : -h.z});
  }
}

PlacedConvex::PlacedConvex(const Convex& view, const Pose& frame)
    : count_(view.points.size()), radius_(view.radius), core_(view.core) {
  for (std::size_t i = 0; i < count_; ++i) points_[i] = to_local(frame, view.points[i]);
}

Bounds bounds(const Convex& body) {
  Bounds box;
  for (const Vec3& p : body.points) box.add(p);
  return box.grown(body.radius);
}

Separation separation(const Convex& a, const Convex& b) {
  Simplex simplex;
  const CoreDistance cores = core_distance(a.points, {}, b.points, simplex);
  if (cores.distance == 0) {
    Separation depth = core_depth(a, b);
    depth.distance -= a.radius + b.radius;
    depth.point += depth.normal * b.radius;
    return depth;
  }
  return {cores.distance - a.radius - b.radius, cores.normal, cores.on_b + cores.normal * b.radius};
}

std::optional<Touch> first_touch(const Convex& a, const Vec3& motion, const Convex& b) {
  // The distance of two convex bodies along a straight motion is a convex function of the time, so
  // Newton's steps from the left never pass the first contact, and end at once on flat faces.
  const double touching = std::max(a.radius + b.radius, sharp_margin);
  Simplex simplex;
  double t = 0;
  for (int round = 0;; ++round) {
    CoreDistance cores = core_distance(a.points, motion * t, b.points, simplex);
    if (cores.distance == 0) {
      if (t > 0) return Touch{t, -normalised(motion), b.points[0]};  // rounding only
      const Separation depth = core_depth(a, b);
      cores = {0, depth.normal, depth.point};
    }
    const double gap = cores.distance - touching;
    const double closing = -dot(cores.normal, motion);
    const double still_to_come = closing * (1 - t);
    if (still_to_come <= unfelt_depth || gap - still_to_come > -unfelt_depth) return std::nullopt;
    if (gap <= cores_touch || round == 40) return Touch{t, cores.normal, cores.on_b + cores.normal * b.radius};
    t += gap / closing;
  }
}

}  // namespace jugend
