// Incremental: a tetrahedron, then each point in turn replaces the faces that it sees by a cone over
// their rim (de Berg et al., Computational Geometry, chapter 11). Triangles of one plane are then one face.
#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/hull.hpp>
#include <map>
#include <set>

namespace jugend {
namespace {

[[noreturn]] void refuse(std::string found, std::string allowed) {
  fail({{}, "points", std::move(found), std::move(allowed), {}});
}

struct Triangle {
  std::array<std::uint32_t, 3> at;
  Vec3 normal;  // unit, outward
  double height;
};

Triangle triangle(std::span<const Vec3> p, std::uint32_t a, std::uint32_t b, std::uint32_t c) {
  const Vec3 n = normalised(cross(p[b] - p[a], p[c] - p[a]));
  return {{a, b, c}, n, dot(n, p[a])};
}

std::vector<Triangle> tetrahedron(std::span<const Vec3> p, double tolerance) {
  const auto furthest = [&](auto&& measure) {
    std::uint32_t best = 0;
    for (std::uint32_t i = 1; i < p.size(); ++i) {
      if (measure(p[i]) > measure(p[best])) best = i;
    }
    return best;
  };
  const std::uint32_t a = furthest([](const Vec3& v) { return v.x + 1e-3 * v.y + 1e-6 * v.z; });
  const std::uint32_t b = furthest([&](const Vec3& v) { return norm(v - p[a]); });
  const Vec3 along = normalised(p[b] - p[a]);
  const std::uint32_t c = furthest([&](const Vec3& v) { return norm(in_plane(v - p[a], along)); });
  const Vec3 n = normalised(cross(p[b] - p[a], p[c] - p[a]));
  const std::uint32_t d = furthest([&](const Vec3& v) { return std::abs(dot(v - p[a], n)); });
  const double height = dot(p[d] - p[a], n);
  if (norm(p[b] - p[a]) <= tolerance || norm(in_plane(p[c] - p[a], along)) <= tolerance ||
      std::abs(height) <= tolerance)
    refuse("points in one plane, line or place", "four points or more that span a volume");
  if (height > 0) return {triangle(p, a, c, b), triangle(p, a, b, d), triangle(p, b, c, d), triangle(p, c, a, d)};
  return {triangle(p, a, b, c), triangle(p, b, a, d), triangle(p, c, b, d), triangle(p, a, c, d)};
}

/// The triangles round all points, by adding one point after the other.
std::vector<Triangle> wrapped(std::span<const Vec3> p, double size) {
  const double tolerance = 1e-9 * size;
  std::vector<Triangle> faces = tetrahedron(p, 1e-6 * size);
  for (std::uint32_t i = 0; i < p.size(); ++i) {
    const auto sees = [&](const Triangle& t) { return dot(t.normal, p[i]) > t.height + tolerance; };
    if (std::ranges::none_of(faces, sees)) continue;
    // An edge of a face that is seen whose other face is not: the rim.
    std::map<std::pair<std::uint32_t, std::uint32_t>, bool> edges;
    for (const Triangle& t : faces) {
      if (!sees(t)) continue;
      for (int k = 0; k < 3; ++k) edges[{t.at[k], t.at[(k + 1) % 3]}] = true;
    }
    std::erase_if(faces, sees);
    for (const auto& [edge, seen] : edges) {
      if (!edges.contains({edge.second, edge.first})) faces.push_back(triangle(p, edge.first, edge.second, i));
    }
  }
  return faces;
}

bool lies_on(const Triangle& t, const Vec3& point, double size) {
  return std::abs(dot(t.normal, point) - t.height) <= 1e-7 * size;
}

/// A point in the middle of a face or an edge is no corner: all faces on which it lies share a line or are one.
bool is_corner(const Vec3& point, const std::vector<Triangle>& faces, double size) {
  std::vector<Vec3> normals;
  for (const Triangle& t : faces) {
    if (lies_on(t, point, size) &&
        std::ranges::none_of(normals, [&](const Vec3& n) { return dot(n, t.normal) > 1 - 1e-12; }))
      normals.push_back(t.normal);
  }
  for (std::size_t i = 0; i < normals.size(); ++i) {
    for (std::size_t j = i + 1; j < normals.size(); ++j) {
      for (std::size_t k = j + 1; k < normals.size(); ++k) {
        if (std::abs(dot(normals[i], cross(normals[j], normals[k]))) > 1e-9) return true;
      }
    }
  }
  return false;
}

}  // namespace

Hull::Hull(std::span<const Vec3> p) {
  if (p.size() < 4) refuse(filled("{} points", p.size()), "four points or more");
  Bounds box;
  for (const Vec3& v : p) {
    if (!is_finite(v)) refuse("a number that is not finite", "finite numbers");
    box.add(v);
  }
  const double size = norm(box.high - box.low);
  const std::vector<Triangle> faces = wrapped(p, size);

  std::set<std::uint32_t> left;  // in their old order
  for (const Triangle& t : faces) left.insert(std::begin(t.at), std::end(t.at));
  std::erase_if(left, [&](std::uint32_t v) { return !is_corner(p[v], faces, size); });
  if (left.size() > PlacedConvex::most_points)
    refuse(filled("a hull of {} corners", left.size()), filled("at most {} corners", PlacedConvex::most_points));
  for (const std::uint32_t v : left) corners_.push_back(p[v]), bounds_.add(p[v]);

  std::vector<Vec3> normals;
  for (const Triangle& t : faces) {
    const auto same = [&](const Vec3& n) { return dot(n, t.normal) > 1 - 1e-12; };
    if (!(squared_norm(t.normal) > 0.5) || std::ranges::any_of(normals, same)) continue;
    std::vector<std::uint8_t> loop;
    for (std::size_t c = 0; c < corners_.size(); ++c) {
      if (lies_on(t, corners_[c], size)) loop.push_back(static_cast<std::uint8_t>(c));
    }
    if (loop.size() >= 3) add_face(std::move(loop), t.normal), normals.push_back(t.normal);
  }
  find_distinct(normals);
}

void Hull::add_face(std::vector<std::uint8_t> loop, const Vec3& normal) {
  Vec3 middle;
  for (const std::uint8_t c : loop) middle += corners_[c];
  middle = middle / static_cast<double>(loop.size());
  const Vec3 u = any_perpendicular(normal), v = cross(normal, u);
  const auto angle = [&](std::uint8_t c) {
    return same_bits::atan2(dot(corners_[c] - middle, v), dot(corners_[c] - middle, u));
  };
  std::ranges::sort(loop, {}, angle);
  facets_.corners.insert(facets_.corners.end(), loop.begin(), loop.end());
  facets_.first.push_back(static_cast<std::uint16_t>(facets_.corners.size()));
  for (std::size_t k = 0; k < loop.size(); ++k) {
    const std::uint8_t a = loop[k], b = loop[(k + 1) % loop.size()];
    if (a < b) facets_.edges.push_back({a, b});
  }
}

/// Of faces and edges that run alike one each.
void Hull::find_distinct(const std::vector<Vec3>& normals) {
  const auto add_distinct = [](std::vector<std::uint16_t>& chosen, std::vector<Vec3>& known, const Vec3& direction,
                               std::size_t i) {
    if (std::ranges::any_of(known, [&](const Vec3& k) { return std::abs(dot(k, direction)) > 1 - 1e-12; })) return;
    known.push_back(direction);
    chosen.push_back(static_cast<std::uint16_t>(i));
  };
  std::vector<Vec3> known;
  for (std::size_t i = 0; i < normals.size(); ++i) add_distinct(facets_.distinct_faces, known, normals[i], i);
  known.clear();
  for (std::size_t i = 0; i < facets_.edges.size(); ++i) {
    const auto [a, b] = facets_.edges[i];
    add_distinct(facets_.distinct_edges, known, normalised(corners_[b] - corners_[a]), i);
  }
}

std::optional<RayHit> Hull::cast(const Ray& ray) const {
  double enter = -1, leave = ray.length;
  Vec3 normal;
  for (std::size_t f = 0; f < facets_.face_count(); ++f) {
    const auto loop = facets_.face(f);
    const Vec3& on_face = corners_[loop[0]];
    const Vec3 outward = normalised(cross(corners_[loop[1]] - on_face, corners_[loop[2]] - on_face));
    const double height = dot(ray.origin - on_face, outward), fall = dot(ray.direction, outward);
    if (fall == 0) {
      if (height > 0) return std::nullopt;
    } else if (const double t = -height / fall; fall < 0) {
      if (t > enter) enter = t, normal = outward;
    } else {
      leave = std::min(leave, t);
    }
  }
  if (leave < 0 || enter > leave) return std::nullopt;
  if (enter < 0) return RayHit{0, -ray.direction, 0};
  return RayHit{enter, normal, 0};
}

}  // namespace jugend
