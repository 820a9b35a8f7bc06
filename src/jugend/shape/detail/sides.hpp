// The sides of convex cores (faces, edges, corners), and how one is cut to what lies over another. Inner to manifolds.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/manifold.hpp>
#include <span>

namespace jugend {

inline bool flat_sided(const Convex& c) {
  return c.core == Core::box || c.core == Core::hull || c.core == Core::prism || c.core == Core::triangle;
}

/// A side of a core: a face (3 points or more, counter-clockwise about the normal), an edge or a corner.
struct Side {
  std::array<Vec3, PlacedConvex::most_points> points;
  std::size_t count = 0;
  Vec3 normal;           // of a face, unit
  double alignment = 0;  // of that with the direction asked for
  std::uint32_t id = 0;
  void add(const Vec3& p) { points[count++] = p; }
};

inline Vec3 face_normal(const Vec3& a, const Vec3& b, const Vec3& c) { return normalised(cross(b - a, c - a)); }

inline constexpr std::array<std::array<std::uint8_t, 4>, 6> box_faces{
    {{1, 3, 7, 5}, {0, 4, 6, 2}, {2, 6, 7, 3}, {0, 1, 5, 4}, {4, 5, 7, 6}, {0, 2, 3, 1}}};
inline constexpr std::array<std::array<std::uint8_t, 2>, 12> box_edges{
    {{0, 1}, {2, 3}, {4, 5}, {6, 7}, {0, 2}, {1, 3}, {4, 6}, {5, 7}, {0, 4}, {1, 5}, {2, 6}, {3, 7}}};
inline constexpr std::array<std::array<std::uint8_t, 2>, 9> prism_edges{
    {{0, 1}, {1, 2}, {2, 0}, {3, 4}, {4, 5}, {5, 3}, {0, 3}, {1, 4}, {2, 5}}};
inline constexpr std::array<std::array<std::uint8_t, 2>, 3> triangle_edges{{{0, 1}, {1, 2}, {2, 0}}};

inline std::span<const std::array<std::uint8_t, 2>> edges_of(const Convex& c) {
  switch (c.core) {
    case Core::box: return box_edges;
    case Core::prism: return prism_edges;
    case Core::triangle: return triangle_edges;
    case Core::hull: return c.facets->edges;
    case Core::segment:
    case Core::cylinder: return std::span(box_edges).first(1);
    case Core::point: break;
  }
  return {};
}

/// The disc at the end of a cylinder, not the one of its rounded core. A corner lies where it is deepest; on a level
/// one, where it lay before.
inline void disc_towards(const Convex& c, const Vec3& d, Side& side) {
  const Vec3 axis = normalised(c.points[1] - c.points[0], {0, 1, 0});
  const bool top = dot(axis, d) >= 0;
  side.normal = top ? axis : -axis;
  side.alignment = std::abs(dot(axis, d));
  side.id = top;
  const double radius = c.rim + c.radius;
  const Vec3 radial = in_plane(d, axis);
  const Vec3 u = (squared_norm(radial) > 1e-4 ? normalised(radial) : any_perpendicular(axis)) * radius;
  const Vec3 v = cross(side.normal, u);
  for (int k = 0; k < 12; ++k)
    side.add(c.points[top] + u * same_bits::cos(pi * k / 6) + v * same_bits::sin(pi * k / 6));
}

/// The face of `c` that looks most along `d`.
inline void face_towards(const Convex& c, const Vec3& d, Side& side) {
  const auto p = c.points;
  side.count = 0;
  side.alignment = -1;
  const auto take = [&](std::span<const std::uint8_t> loop, const Vec3& n, double alignment, std::uint32_t id) {
    side.count = 0;
    for (const std::uint8_t i : loop) side.add(p[i]);
    side.normal = n, side.alignment = alignment, side.id = id;
  };
  switch (c.core) {
    case Core::point:
    case Core::segment: break;
    case Core::triangle: {
      const Vec3 n = face_normal(p[0], p[1], p[2]);
      static constexpr std::array<std::uint8_t, 3> front{0, 1, 2}, back{0, 2, 1};
      const bool in_front = dot(n, d) >= 0;
      take(in_front ? front : back, in_front ? n : -n, std::abs(dot(n, d)), in_front ? 0 : 1);
      break;
    }
    case Core::box: {
      std::uint32_t best = 0;
      double most = -1;
      Vec3 normal;
      for (std::uint32_t axis = 0; axis < 3; ++axis) {
        const Vec3 u = normalised(p[std::size_t{1} << axis] - p[0]);
        const double along = dot(u, d);
        if (std::abs(along) > most) most = std::abs(along), best = 2 * axis + (along < 0), normal = along < 0 ? -u : u;
      }
      take(box_faces[best], normal, most, best);
      break;
    }
    case Core::prism: {
      static constexpr std::array<std::array<std::uint8_t, 4>, 5> loops{
          {{0, 1, 2, 2}, {3, 4, 5, 5}, {0, 1, 4, 3}, {1, 2, 5, 4}, {2, 0, 3, 5}}};
      const Vec3 middle = (p[0] + p[1] + p[2] + p[3] + p[4] + p[5]) / 6.0;
      for (std::uint32_t f = 0; f < 5; ++f) {
        std::array<std::uint8_t, 4> loop = loops[f];
        const std::size_t corners = f < 2 ? 3 : 4;
        Vec3 n = face_normal(p[loop[0]], p[loop[1]], p[loop[2]]);
        if (dot(n, p[loop[0]] - middle) < 0) {
          n = -n;
          std::reverse(loop.begin(), loop.begin() + static_cast<std::ptrdiff_t>(corners));
        }
        if (dot(n, d) > side.alignment) take(std::span(loop).first(corners), n, dot(n, d), f);
      }
      break;
    }
    case Core::hull:
      for (std::uint32_t f = 0; f < c.facets->face_count(); ++f) {
        const auto loop = c.facets->face(f);
        const Vec3 n = face_normal(p[loop[0]], p[loop[1]], p[loop[2]]);
        if (dot(n, d) > side.alignment) take(loop, n, dot(n, d), f);
      }
      break;
    case Core::cylinder: disc_towards(c, d, side); break;
  }
}

/// The edge of `c` that lies furthest along `d` and runs along `direction`, where given.
inline std::array<Vec3, 2> edge_towards(const Convex& c, const Vec3& d, const Vec3& direction, std::uint32_t& id) {
  const Vec3 out = c.core == Core::cylinder ? c.rim_towards(d) : Vec3{};
  double most = -infinity;
  std::array<Vec3, 2> best{c.points[0], c.points[0]};
  std::uint32_t number = 0;
  for (const auto& [i, j] : edges_of(c)) {
    const Vec3 &a = c.points[i], &b = c.points[j];
    const bool parallel = direction == Vec3{} || squared_norm(cross(b - a, direction)) <=
                                                     1e-12 * squared_norm(direction) * squared_norm(b - a);
    const double along = dot(a + b, d);
    if (parallel && along > most) most = along, best = {a + out, b + out}, id = number;
    ++number;
  }
  return best;
}

/// The parameters of the nearest points of two lines; false where they are parallel.
inline bool nearest_on_lines(const std::array<Vec3, 2>& a, const std::array<Vec3, 2>& b, double& s, double& t) {
  const Vec3 u = a[1] - a[0], v = b[1] - b[0], w = a[0] - b[0];
  const double uu = dot(u, u), vv = dot(v, v), uv = dot(u, v), uw = dot(u, w), vw = dot(v, w);
  const double across = uu * vv - uv * uv;
  if (!(across > 1e-6 * uu * vv)) return false;
  s = std::clamp((uv * vw - vv * uw) / across, 0.0, 1.0);
  t = std::clamp((uu * vw - uv * uw) / across, 0.0, 1.0);
  return true;
}

/// `line` cut to what lies between the two ends of `other`.
inline bool cut_between(std::array<Vec3, 2>& line, const std::array<Vec3, 2>& other) {
  const Vec3 u = other[1] - other[0];
  const double length2 = squared_norm(u);
  if (!(length2 > 0)) return false;
  const double s0 = dot(line[0] - other[0], u) / length2, s1 = dot(line[1] - other[0], u) / length2;
  if ((s0 < 0 && s1 < 0) || (s0 > 1 && s1 > 1)) return false;
  const Vec3 start = line[0], span = line[1] - line[0];
  const auto at = [&](double s) {
    if (s >= 0 && s <= 1) return s;
    return s < 0 ? 0.0 : 1.0;
  };
  if (s1 == s0) return true;
  line[0] = start + span * ((at(s0) - s0) / (s1 - s0));
  line[1] = start + span * ((at(s1) - s0) / (s1 - s0));
  return true;
}

struct Clipped {
  static constexpr std::size_t most = 2 * PlacedConvex::most_points;
  std::array<Vec3, most> points;
  std::array<std::uint32_t, most> features;
  std::size_t count = 0;
  void add(const Vec3& p, std::uint32_t feature) {
    if (count < most) points[count] = p, features[count++] = feature;
  }
};

/// What of a face (or edge) lies over `reference` (Sutherland and Hodgman, CACM 17(1), 1974).
inline void clip(const Side& incident, const Side& reference, Clipped& from) {
  static thread_local Clipped into;
  from.count = 0;
  for (std::size_t i = 0; i < incident.count; ++i) from.add(incident.points[i], static_cast<std::uint32_t>(i));
  for (std::size_t edge = 0; edge < reference.count && from.count > 0; ++edge) {
    const Vec3& on_edge = reference.points[edge];
    const Vec3 outward =
        cross(reference.points[edge + 1 == reference.count ? 0 : edge + 1] - on_edge, reference.normal);
    into.count = 0;
    const bool line = from.count == 2;
    for (std::size_t i = 0; i < from.count; ++i) {
      const std::size_t next = i + 1 == from.count ? 0 : i + 1;
      const Vec3 &a = from.points[i], &b = from.points[next];
      const double ha = dot(a - on_edge, outward), hb = dot(b - on_edge, outward);
      if (ha <= 0) into.add(a, from.features[i]);
      if ((ha < 0 && hb > 0) || (ha > 0 && hb < 0)) {
        if (line && i == 1) continue;  // a line has one edge, not two
        const std::uint32_t feature =
            (from.features[ha <= 0 ? i : next] & 0xffu) | static_cast<std::uint32_t>((edge + 1) << 8);
        into.add(a + (b - a) * (ha / (ha - hb)), feature);
      }
    }
    std::copy_n(into.points.begin(), into.count, from.points.begin());
    std::copy_n(into.features.begin(), into.count, from.features.begin());
    from.count = into.count;
  }
}

}  // namespace jugend
