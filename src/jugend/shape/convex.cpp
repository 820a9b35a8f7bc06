// Distance by GJK, depth by separating axes, time of impact by Newton's method on the distance.
//
// Gilbert, Johnson and Keerthi, IEEE J. Robotics and Automation 4(2), 1988, with the closest point on
// the simplex by Voronoi regions (Ericson, Real-Time Collision Detection, 2005, section 5.1).
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/convex.hpp>

namespace jugend {

std::span<const std::uint8_t> Facets::face(std::size_t i) const {
  return std::span(corners).subspan(first[i], static_cast<std::size_t>(first[i + 1] - first[i]));
}

namespace {

// Cores nearer than this share of their size have no reliable direction between them: it is the difference of places.
constexpr double cores_touch = 2e-11;
// The radius given to a pair that has none, so that it has a direction: m, and a share of how far off its places are,
// since their rounding would turn the direction between nearer ones.
constexpr double sharp_margin = 1e-9, sharp_share = 1e-10;
constexpr double unfelt_depth = 1e-9;  // m: a motion that would not press in further than this is no hit

/// Up to four pairs of core points: the simplex of GJK in terms that survive a move of `a`.
struct Simplex {
  int size = 0;
  std::array<Vec3, 4> a, b;
};

/// Weights of the simplex' points in its point nearest to the origin; zero for points to be dropped.
using Weights = std::array<double, 4>;

Weights nearest_on_segment(const Vec3& p, const Vec3& q) {
  const Vec3 d = q - p;
  const double length2 = dot(d, d);
  const double t = length2 > 0 ? std::clamp(-dot(p, d) / length2, 0.0, 1.0) : 0.0;
  return {1 - t, t, 0, 0};
}

/// Of a triangle without area: three points in a row, as two edges side by side make them. What divides by the area
/// would tell any place of it.
Weights nearest_on_sliver(const Vec3& a, const Vec3& b, const Vec3& c) {
  const Weights ab = nearest_on_segment(a, b), bc = nearest_on_segment(b, c), ca = nearest_on_segment(c, a);
  const auto off = [](const Vec3& from, const Vec3& to, const Weights& w) {
    return squared_norm(from * w[0] + to * w[1]);
  };
  const double on_ab = off(a, b, ab), on_bc = off(b, c, bc), on_ca = off(c, a, ca);
  if (on_ab <= on_bc && on_ab <= on_ca) return ab;
  if (on_bc <= on_ca) return {0, bc[0], bc[1], 0};
  return {ca[1], 0, ca[0], 0};
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
  const double rounded = std::abs(d1 * d4) + std::abs(d2 * d3) + std::abs(d2 * d5) + std::abs(d1 * d6) +
                         std::abs(d3 * d6) + std::abs(d4 * d5);
  if (!(sum > 1e-12 * rounded)) return nearest_on_sliver(a, b, c);
  return {va / sum, vb / sum, vc / sum, 0};
}

/// All weights zero mean: the origin is inside.
Weights nearest_on_tetrahedron(const std::array<Vec3, 4>& w) {
  static constexpr int faces[4][4] = {{0, 1, 2, 3}, {0, 2, 3, 1}, {0, 3, 1, 2}, {1, 3, 2, 0}};
  Weights best{};
  double least = infinity;
  for (const auto& f : faces) {
    const Vec3 n = cross(w[f[1]] - w[f[0]], w[f[2]] - w[f[0]]);
    const double origin_side = -dot(n, w[f[0]]), inner_side = dot(n, w[f[3]] - w[f[0]]);
    // The origin is on the inner side of this face, if there is one: of four points in a plane there is none,
    // as on the rim of a disc.
    const bool has_inside = inner_side * inner_side > 1e-18 * dot(n, n) * dot(w[f[3]] - w[f[0]], w[f[3]] - w[f[0]]);
    if (has_inside && origin_side * inner_side > 0) continue;
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

/// From the nearest point of a box or triangle to `p`.
Vec3 offset_from_flat(const Convex& c, const Vec3& p) {
  if (c.core == Core::triangle) {
    const Vec3 x = c.points[0] - p, y = c.points[1] - p, z = c.points[2] - p;
    const Weights weights = nearest_on_triangle(x, y, z);
    return -(x * weights[0] + y * weights[1] + z * weights[2]);
  }
  Vec3 apart;  // only along edges that it is beyond: over a face it is exactly the face's normal
  for (const std::size_t k : {1, 2, 4}) {
    const Vec3 edge = c.points[k] - c.points[0];
    const double length2 = squared_norm(edge), along = dot(p - c.points[0], edge);
    if (along < 0 || along > length2) apart += edge * ((along < 0 ? along : along - length2) / length2);
  }
  return apart;
}

/// A segment's end is its nearest point where all else of it leads away: the distance grows along it as a convex
/// function does. So most of what stands or falls on a face needs no search.
bool nearest_at_an_end(const Convex& a, const Vec3& offset, const Convex& b, CoreDistance& found) {
  if ((a.core != Core::point && a.core != Core::segment) || (b.core != Core::box && b.core != Core::triangle))
    return false;
  for (std::size_t i = 0; i < a.points.size(); ++i) {
    const Vec3 end = a.points[i] + offset, apart = offset_from_flat(b, end);
    const double length2 = squared_norm(apart);
    if (length2 <= cores_touch * cores_touch * squared_norm(end - b.points[0])) return false;
    if (a.points.size() == 2 && dot(apart, a.points[1 - i] - a.points[i]) < 0) continue;
    const double length = std::sqrt(length2);
    found = {length, apart / length, end - apart};
    return true;
  }
  return false;
}

/// The distance of the cores with `a` moved by `offset`; `simplex` is where the search starts and ends.
CoreDistance core_distance(const Convex& a, const Vec3& offset, const Convex& b, Simplex& simplex) {
  if (CoreDistance found; nearest_at_an_end(a, offset, b, found)) return found;
  if (simplex.size == 0) {
    simplex.size = 1;
    simplex.a[0] = a.points[0], simplex.b[0] = b.points[0];
  }
  // A rim's support turns with the direction: the last digits would take many rounds.
  const bool curved = a.core == Core::cylinder || b.core == Core::cylinder;
  const double good_enough = curved ? 1e-9 : 1e-14;
  double before = infinity;
  CoreDistance best;
  for (int round = 0; round < 48; ++round) {
    std::array<Vec3, 4> w;
    double size2 = 0;
    for (int k = 0; k < simplex.size; ++k)
      w[k] = simplex.a[k] + offset - simplex.b[k], size2 = std::max(size2, dot(w[k], w[k]));
    Weights weights{1, 0, 0, 0};
    if (simplex.size == 2) weights = nearest_on_segment(w[0], w[1]);
    if (simplex.size == 3) weights = nearest_on_triangle(w[0], w[1], w[2]);
    if (simplex.size == 4) weights = nearest_on_tetrahedron(w);

    Vec3 v, on_b;
    int kept = 0;
    for (int k = 0; k < simplex.size; ++k) {
      if (weights[k] == 0) continue;
      v += w[k] * weights[k];
      on_b += simplex.b[k] * weights[k];
      simplex.a[kept] = simplex.a[k], simplex.b[kept] = simplex.b[k];
      ++kept;
    }
    const double vv = dot(v, v);
    if (kept == 0 || vv <= cores_touch * cores_touch * size2) {
      simplex.size = std::max(kept, 1);
      return {};
    }
    simplex.size = kept;
    if (vv >= before) return best;  // rounding has the last word: no nearer than the round before
    before = vv;
    best = {std::sqrt(vv), v / std::sqrt(vv), on_b};
    if (kept == 4) return best;

    const Vec3 next_a = a.support(-v), next_b = b.support(v);
    if (vv - dot(v, next_a + offset - next_b) <= good_enough * vv) return best;
    for (int k = 0; k < kept; ++k) {
      if (simplex.a[k] == next_a && simplex.b[k] == next_b) return best;
    }
    simplex.a[kept] = next_a, simplex.b[kept] = next_b;
    simplex.size = kept + 1;
  }
  return best;
}

/// visit_face(normal, not of unit length) and visit_edge(direction), one of each set of parallel ones.
template <class VisitFace, class VisitEdge>
void visit_axes(const Convex& c, VisitFace&& face, VisitEdge&& edge) {
  const auto p = c.points;
  switch (c.core) {
    case Core::point: break;
    case Core::segment: edge(p[1] - p[0]); break;
    case Core::triangle:
      for (int k = 0; k < 3; ++k) edge(p[(k + 1) % 3] - p[k]);
      face(cross(p[1] - p[0], p[2] - p[0]));
      break;
    case Core::box:
      for (const int k : {1, 2, 4}) edge(p[k] - p[0]), face(p[k] - p[0]);
      break;
    case Core::prism:
      for (int k = 0; k < 3; ++k) {
        edge(p[(k + 1) % 3] - p[k]);
        face(cross(p[(k + 1) % 3] - p[k], p[3] - p[0]));
      }
      edge(p[3] - p[0]);
      face(cross(p[1] - p[0], p[2] - p[0]));
      break;
    case Core::hull:
      for (const std::uint16_t e : c.facets->distinct_edges) edge(p[c.facets->edges[e][1]] - p[c.facets->edges[e][0]]);
      for (const std::uint16_t f : c.facets->distinct_faces) {
        const auto loop = c.facets->face(f);
        face(cross(p[loop[1]] - p[loop[0]], p[loop[2]] - p[loop[0]]));
      }
      break;
    case Core::cylinder: edge(p[1] - p[0]), face(p[1] - p[0]); break;
  }
}

}  // namespace

Separation depth_of_overlap(const Convex& a, const Convex& b) {
  // The face of their Minkowski difference nearest to the origin. Its normals are the faces of either
  // core and the crossings of their edges, so trying all of them is exact.
  const Vec3 between = a.points[0] - b.points[0];
  Vec3 best_normal = normalised(between, {0, 1, 0});
  double best = infinity;
  const auto try_axis = [&](const Vec3& axis) {
    const double length2 = squared_norm(axis);
    if (length2 < 1e-24) return;
    const Vec3 n = axis / std::sqrt(length2);
    const double out_along = dot(n, b.support(n)) - dot(n, a.support(-n));
    const double out_against = dot(n, a.support(n)) - dot(n, b.support(-n));
    // A sheet has a front: where both ways out are as short, a is put out on the side it winds to.
    if (out_along < best - 1e-12) best = out_along, best_normal = n;
    if (out_against < best - 1e-12) best = out_against, best_normal = -n;
  };
  Vec3 an_edge;
  visit_axes(b, try_axis, [&](const Vec3& of_b) {
    an_edge = of_b;
    visit_axes(
        a, [](const Vec3&) {}, [&](const Vec3& of_a) { try_axis(cross(of_a, of_b)); });
  });
  visit_axes(a, try_axis, [&](const Vec3& of_a) { an_edge = of_a; });
  for (const Convex* round : {&a, &b}) {  // a rim has no faces to try: out at right angles to its axis
    if (round->core == Core::cylinder)
      try_axis(in_plane((a.points.front() + a.points.back()) - (b.points.front() + b.points.back()),
                        normalised(round->points[1] - round->points[0])));
  }
  if (best == infinity) {  // two points, or a point on a segment: any way out at right angles is as good
    if (an_edge != Vec3{}) best_normal = any_perpendicular(normalised(an_edge, {0, 1, 0}));
    best = 0;
  }
  const Vec3 deepest = a.support(-best_normal);  // of a, inside b: then carried to b's surface
  return {-best - a.radius - b.radius, best_normal, deepest + best_normal * (best + b.radius)};
}

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
  const Vec3 x = rotate(pose.orientation, {h.x, 0, 0}), y = rotate(pose.orientation, {0, h.y, 0});
  const Vec3 z = rotate(pose.orientation, {0, 0, h.z});
  for (int i = 0; i < 8; ++i) points_[i] = pose.position + ((i & 1 ? x : -x) + (i & 2 ? y : -y) + (i & 4 ? z : -z));
}

PlacedConvex::PlacedConvex(const Cylinder& cylinder, const Pose& pose)
    : count_(2),
      radius_(cylinder_rounding * std::min(cylinder.radius, cylinder.half_height)),
      core_(Core::cylinder),
      rim_(cylinder.radius - radius_) {
  const Vec3 half = rotate(pose.orientation, {0, cylinder.half_height - radius_, 0});
  points_[0] = pose.position - half;
  points_[1] = pose.position + half;
}

PlacedConvex::PlacedConvex(const Convex& view, const Pose& frame)
    : count_(view.points.size()), radius_(view.radius), core_(view.core), rim_(view.rim), facets_(view.facets) {
  for (std::size_t i = 0; i < count_; ++i) points_[i] = to_local(frame, view.points[i]);
}

PlacedConvex& PlacedConvex::operator=(const PlacedConvex& other) {
  std::copy_n(other.points_, other.count_, points_);
  count_ = other.count_, radius_ = other.radius_, core_ = other.core_, rim_ = other.rim_, facets_ = other.facets_;
  return *this;
}

Bounds bounds(const Convex& body) {
  Bounds box;
  for (const Vec3& p : body.points) box.add(p);
  if (body.core != Core::cylinder) return box.grown(body.radius);
  // With its edges sharp, as rays meet them.
  const Vec3 axis = normalised(body.points[1] - body.points[0], {0, 1, 0});
  const double rim = body.rim + body.radius;
  const auto reach = [&](double along) {
    return rim * std::sqrt(std::max(0.0, 1 - along * along)) + body.radius * std::abs(along);
  };
  const Vec3 edge{reach(axis.x), reach(axis.y), reach(axis.z)};
  return {box.low - edge, box.high + edge};
}

Separation separation(const Convex& a, const Convex& b) {
  Simplex simplex;
  const CoreDistance cores = core_distance(a, {}, b, simplex);
  if (cores.distance == 0) return depth_of_overlap(a, b);
  return {cores.distance - a.radius - b.radius, cores.normal, cores.on_b + cores.normal * b.radius};
}

std::optional<Touch> first_touch(const Convex& a, const Vec3& motion, const Convex& b) {
  // The distance of two convex bodies along a straight motion is a convex function of the time, so
  // Newton's steps from the left never pass the first contact, and end at once on flat faces.
  const auto extent = [](const Vec3& v) { return std::abs(v.x) + std::abs(v.y) + std::abs(v.z); };
  const double far = extent(a.points[0]) + extent(b.points[0]) + extent(motion);
  const double touching = std::max({a.radius + b.radius, sharp_margin, sharp_share * far});
  Simplex simplex;
  double t = 0;
  for (int round = 0;; ++round) {
    CoreDistance cores = core_distance(a, motion * t, b, simplex);
    if (cores.distance == 0) {
      if (t > 0) return Touch{t, -normalised(motion), b.points[0]};  // rounding only
      const Separation depth = depth_of_overlap(a, b);
      cores = {0, depth.normal, depth.point - depth.normal * b.radius};
    }
    const double gap = cores.distance - touching;
    const double closing = -dot(cores.normal, motion);
    const double still_to_come = closing * (1 - t);
    if (still_to_come <= unfelt_depth || gap - still_to_come > -unfelt_depth) return std::nullopt;
    if (gap <= cores_touch * far || round == 200) return Touch{t, cores.normal, cores.on_b + cores.normal * b.radius};
    t += gap / closing;
  }
}

}  // namespace jugend
