// The points in which two convex bodies touch.
//
// The normal comes from the best separating axis (polytopes) or from the nearest points (all else); then
// the face of one that looks along it cuts the face or edge of the other to shape.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/detail/sides.hpp>

namespace jugend {
namespace {

constexpr double facing = 0.996;  // cosine between a normal and a face that it is taken for (5 degrees)

struct Axis {
  double separation = -infinity;
  Vec3 normal;  // from b to a
};

double gap_along(const Convex& a, const Convex& b, const Vec3& n) {
  return dot(n, a.support(-n)) - dot(n, b.support(n));
}

/// The faces of `c` that may look at the other, as unit normals outward.
template <class Visit>
void visit_face_normals(const Convex& c, const Vec3& towards, Visit&& visit) {
  const auto p = c.points;
  const auto both = [&](const Vec3& n) { visit(n), visit(-n); };
  switch (c.core) {
    case Core::triangle: {  // a sheet has no inside: out on the side where the other's middle is
      const Vec3 n = face_normal(p[0], p[1], p[2]);
      visit(dot(n, towards - p[0]) >= 0 ? n : -n);
      break;
    }
    case Core::box:
      for (const int k : {1, 2, 4}) both(normalised(p[k] - p[0]));
      break;
    case Core::prism:
      for (int k = 0; k < 3; ++k) both(face_normal(p[k], p[(k + 1) % 3], p[k + 3]));
      both(face_normal(p[0], p[1], p[2]));
      break;
    case Core::hull:
      for (const std::uint16_t f : c.facets->distinct_faces) {
        const auto loop = c.facets->face(f);
        both(face_normal(p[loop[0]], p[loop[1]], p[loop[2]]));
      }
      break;
    default: break;
  }
}

template <class Visit>
void visit_edge_directions(const Convex& c, Visit&& visit) {
  const auto p = c.points;
  switch (c.core) {
    case Core::triangle:
      for (int k = 0; k < 3; ++k) visit(p[(k + 1) % 3] - p[k]);
      break;
    case Core::box:
      for (const int k : {1, 2, 4}) visit(p[k] - p[0]);
      break;
    case Core::prism:
      for (int k = 0; k < 3; ++k) visit(p[(k + 1) % 3] - p[k]);
      visit(p[3] - p[0]);
      break;
    case Core::hull:
      for (const std::uint16_t e : c.facets->distinct_edges) visit(p[c.facets->edges[e][1]] - p[c.facets->edges[e][0]]);
      break;
    default: break;
  }
}

Vec3 middle_of(const Convex& c) {
  Vec3 sum;
  for (const Vec3& p : c.points) sum += p;
  return sum / static_cast<double>(c.points.size());
}

/// One point, halfway between `on_a` and `on_b` which lie on the cores.
void single(const Convex& a, const Convex& b, const Vec3& on_a, const Vec3& on_b, std::uint32_t feature,
            Manifold& out) {
  const double separation = dot(on_a - on_b, out.normal) - a.radius - b.radius;
  out.points.push_back({on_b + out.normal * (b.radius + separation / 2), separation, feature});
}

/// The points over a face, with the normal known to look along it.
bool over_face(const Convex& a, const Convex& b, double margin, const Side& side_a, const Side& side_b, Manifold& out) {
  const bool a_leads = side_a.count >= 3 && (side_b.count < 3 || side_a.alignment > side_b.alignment + 1e-4);
  const Side& reference = a_leads ? side_a : side_b;
  static thread_local Clipped clipped;
  clip(a_leads ? side_b : side_a, reference, clipped);
  const double radii = a.radius + b.radius;
  const Vec3 outward = reference.normal;
  out.normal = a_leads ? -outward : outward;
  static thread_local std::array<ManifoldPoint, Clipped::most> points;
  std::size_t count = 0;
  for (std::size_t i = 0; i < clipped.count; ++i) {
    const double core_gap = dot(clipped.points[i] - reference.points[0], outward);
    if (core_gap - radii > margin) continue;
    // Between the surfaces: from the clipped point back by its own radius and half the gap.
    const double own = a_leads ? b.radius : a.radius;
    points[count++] = {clipped.points[i] - outward * (own + (core_gap - radii) / 2), core_gap - radii,
                       clipped.features[i] | (reference.id << 16) | (a_leads ? 0x80000000u : 0u)};
  }
  const std::size_t kept = keep_four(std::span(points).first(count), out.normal);
  for (std::size_t i = 0; i < kept; ++i) out.points.push_back(points[i]);
  return kept > 0;
}

/// Sides that a normal from nearest points brings together.
bool by_sides(const Convex& a, const Convex& b, double margin, const Separation& nearest, Manifold& out) {
  static thread_local Side side_a, side_b;
  out.normal = nearest.normal;
  face_towards(a, -out.normal, side_a);
  face_towards(b, out.normal, side_b);
  const auto edge_or_face = [&](const Convex& c, const Vec3& d, Side& side) {
    if (side.alignment > facing) return;
    side.count = 0;
    if (c.points.size() < 2) return side.add(c.points[0]);
    const auto edge = edge_towards(c, d, {}, side.id);
    const Vec3 along = normalised(edge[1] - edge[0]);
    if (std::abs(dot(along, d)) < 0.1) {  // 6 degrees: an edge that lies along the other
      side.add(edge[0]), side.add(edge[1]);
    } else {
      side.add(c.support(d));
    }
  };
  edge_or_face(a, -out.normal, side_a);
  edge_or_face(b, out.normal, side_b);
  if ((side_a.count >= 3 && side_b.count >= 2) || (side_b.count >= 3 && side_a.count >= 2)) {
    if (over_face(a, b, margin, side_a, side_b, out)) return true;
    out.normal = nearest.normal;  // beside the face, then: against an edge of it
    side_a.alignment = side_b.alignment = 0;
    edge_or_face(a, -out.normal, side_a);
    edge_or_face(b, out.normal, side_b);
  }
  if (side_a.count == 2 && side_b.count == 2) {
    std::array<Vec3, 2> line_a{side_a.points[0], side_a.points[1]};
    const std::array<Vec3, 2> line_b{side_b.points[0], side_b.points[1]};
    const Vec3 u = normalised(line_a[1] - line_a[0]), v = normalised(line_b[1] - line_b[0]);
    if (squared_norm(cross(u, v)) < 0.003 && cut_between(line_a, line_b)) {  // 3 degrees
      for (std::uint32_t k = 0; k < 2; ++k) {
        const double along = dot(line_a[k] - line_b[0], v);
        const Vec3 on_b = line_b[0] + v * along;
        if (dot(line_a[k] - on_b, out.normal) - a.radius - b.radius <= margin) single(a, b, line_a[k], on_b, k, out);
      }
      if (!out.points.empty()) return true;
    }
  }
  const double core_gap = nearest.distance + a.radius + b.radius;
  Vec3 on_b = nearest.point - out.normal * b.radius;
  if (core_gap <= 0) {  // cores inside one another have no nearest points: the corner that is in the face counts
    if (side_a.count >= 3) on_b = b.support(out.normal);
    if (side_b.count >= 3) on_b = a.support(-out.normal) - out.normal * core_gap;
  }
  single(a, b, on_b + out.normal * core_gap, on_b, 0, out);
  return true;
}

/// The best separating axes of two flat-sided cores: among faces of each, and among products of edges.
struct Axes {
  Axis face_a, face_b, edges;
  Vec3 edge_a, edge_b;  // the two that `edges` comes from
};

/// Of any two. False: they are further apart than `margin` along one.
bool find_axes(const Convex& a, const Convex& b, const Vec3& middle_a, const Vec3& middle_b, double margin,
               Axes& best) {
  const auto consider = [&](Axis& best_yet, const Vec3& n) {
    const double gap = gap_along(a, b, n);
    if (gap > best_yet.separation) best_yet = {gap, n};
  };
  visit_face_normals(b, middle_a, [&](const Vec3& n) { consider(best.face_b, n); });
  if (best.face_b.separation > margin) return false;
  visit_face_normals(a, middle_b, [&](const Vec3& n) { consider(best.face_a, -n); });
  if (best.face_a.separation > margin) return false;
  const Vec3 between = middle_a - middle_b;
  visit_edge_directions(a, [&](const Vec3& u) {
    visit_edge_directions(b, [&](const Vec3& v) {
      const Vec3 axis = cross(u, v);
      const double length2 = squared_norm(axis);
      if (length2 < 1e-10 * squared_norm(u) * squared_norm(v)) return;
      Vec3 n = axis / std::sqrt(length2);
      if (dot(n, between) < 0) n = -n;
      const double before = best.edges.separation;
      consider(best.edges, n);
      if (best.edges.separation > before) best.edge_a = u, best.edge_b = v;
    });
  });
  return best.edges.separation <= margin;
}

/// A box by its axes.
struct BoxAxes {
  Vec3 unit[3];
  double half[3];
  explicit BoxAxes(const Convex& box) {
    for (int k = 0; k < 3; ++k) {
      const Vec3 edge = box.points[std::size_t{1} << k] - box.points[0];
      const double length = norm(edge);
      unit[k] = length > 1e-300 ? edge / length : Vec3{}, half[k] = 0.5 * length;
    }
  }
};

/// Of two boxes, from the turn between them: how far each reaches along an axis is a sum over its half sizes
/// (Gottschalk, Lin and Manocha, "OBBTree", SIGGRAPH 1996).
bool find_axes_of_boxes(const Convex& a, const Convex& b, const Vec3& between, double margin, Axes& best) {
  const BoxAxes p(a), q(b);
  double size[3][3];  // of the cosines between their axes
  Vec3 along_a, along_b;
  for (int i = 0; i < 3; ++i) {
    along_a[i] = dot(between, p.unit[i]), along_b[i] = dot(between, q.unit[i]);
    for (int j = 0; j < 3; ++j) size[i][j] = std::abs(dot(p.unit[i], q.unit[j]));
  }
  const auto consider = [](Axis& best_yet, double distance, double reach, const Vec3& n) {
    const double gap = std::abs(distance) - reach;
    if (gap <= best_yet.separation) return false;
    best_yet = {gap, distance < 0 ? -n : n};
    return true;
  };
  for (int j = 0; j < 3; ++j) {
    const double reach = p.half[0] * size[0][j] + p.half[1] * size[1][j] + p.half[2] * size[2][j];
    consider(best.face_b, along_b[j], reach + q.half[j], q.unit[j]);
  }
  if (best.face_b.separation > margin) return false;
  for (int i = 0; i < 3; ++i) {
    const double reach = q.half[0] * size[i][0] + q.half[1] * size[i][1] + q.half[2] * size[i][2];
    consider(best.face_a, along_a[i], reach + p.half[i], p.unit[i]);
  }
  if (best.face_a.separation > margin) return false;
  for (int i = 0; i < 3; ++i) {
    const int i1 = (i + 1) % 3, i2 = (i + 2) % 3;
    for (int j = 0; j < 3; ++j) {
      const int j1 = (j + 1) % 3, j2 = (j + 2) % 3;
      const Vec3 axis = cross(p.unit[i], q.unit[j]);
      const double sine2 = squared_norm(axis);
      if (sine2 < 1e-10) continue;
      const double sine = std::sqrt(sine2);
      const double reach =
          p.half[i1] * size[i2][j] + p.half[i2] * size[i1][j] + q.half[j1] * size[i][j2] + q.half[j2] * size[i][j1];
      if (consider(best.edges, dot(axis, between) / sine, reach / sine, axis / sine))
        best.edge_a = p.unit[i], best.edge_b = q.unit[j];
    }
  }
  return best.edges.separation <= margin;
}

bool collide_flat_sided(const Convex& a, const Convex& b, double margin, Manifold& out) {
  const Vec3 middle_a = middle_of(a), middle_b = middle_of(b);
  Axes axes;
  const bool near = a.core == Core::box && b.core == Core::box
                        ? find_axes_of_boxes(a, b, middle_a - middle_b, margin, axes)
                        : find_axes(a, b, middle_a, middle_b, margin, axes);
  if (!near) return false;
  const auto& [face_a, face_b, edges, edge_a, edge_b] = axes;
  // Faces hold better than edges, and the same face better than another that is as good.
  const double size = norm(a.points[0] - middle_a) + norm(b.points[0] - middle_b);
  const double hardly = 2e-4 * size;
  const bool a_better = face_a.separation > face_b.separation + hardly;
  const Axis& face = a_better ? face_a : face_b;
  static thread_local Side side_a, side_b;
  if (!(edges.separation > face.separation + hardly)) {
    face_towards(a, -face.normal, side_a);
    face_towards(b, face.normal, side_b);
    (a_better ? side_a : side_b).alignment += 1;  // it leads
    if (over_face(a, b, margin, side_a, side_b, out)) {
      // Apart, the face may look past the other's nearest point: then the true distance counts.
      if (face.separation <= hardly) return true;
      double least = infinity;
      for (const ManifoldPoint& p : out.points) least = std::min(least, p.separation);
      if (least <= face.separation + hardly) return true;
      out.points.clear();
    }
  } else if (edges.separation <= 0) {
    out.normal = edges.normal;
    std::uint32_t id_a = 0, id_b = 0;
    const auto on_a = edge_towards(a, -edges.normal, edge_a, id_a), on_b = edge_towards(b, edges.normal, edge_b, id_b);
    double s = 0.5, t = 0.5;
    nearest_on_lines(on_a, on_b, s, t);
    single(a, b, on_a[0] + (on_a[1] - on_a[0]) * s, on_b[0] + (on_b[1] - on_b[0]) * t, 0x40000000u | id_a << 8 | id_b,
           out);
    return true;
  }
  const Separation nearest = separation(a, b);
  if (nearest.distance > margin) return false;
  return by_sides(a, b, margin, nearest, out);
}

}  // namespace

std::size_t keep_four(std::span<ManifoldPoint> points, const Vec3& normal) {
  if (points.size() <= 4) return points.size();
  const auto to_front = [&](std::size_t place, auto&& value) {
    std::size_t best = place;
    for (std::size_t i = place; i < points.size(); ++i) {
      if (value(points[i]) > value(points[best])) best = i;
    }
    std::swap(points[place], points[best]);
  };
  to_front(0, [](const ManifoldPoint& p) { return -p.separation; });
  const Vec3 a = points[0].point;
  to_front(1, [&](const ManifoldPoint& p) { return squared_norm(p.point - a); });
  const Vec3 b = points[1].point;
  const auto area = [&](const ManifoldPoint& p) { return dot(cross(b - a, p.point - a), normal); };
  to_front(2, area);
  to_front(3, [&](const ManifoldPoint& p) { return -area(p); });
  return 4;
}

bool collide(const Convex& a, const Convex& b, double margin, Manifold& out) {
  out.points.clear();
  if (flat_sided(a) && flat_sided(b)) return collide_flat_sided(a, b, margin, out);
  const Separation nearest = separation(a, b);
  if (nearest.distance > margin) return false;
  if (a.core == Core::point || b.core == Core::point) {
    out.normal = nearest.normal;
    const Vec3 on_b = nearest.point - out.normal * b.radius;
    single(a, b, on_b + out.normal * (nearest.distance + a.radius + b.radius), on_b, 0, out);
    return true;
  }
  return by_sides(a, b, margin, nearest, out);
}

}  // namespace jugend
