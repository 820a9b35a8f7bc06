#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/section.hpp>
#include <jugend/shape/static_tree_walk.hpp>
#include <map>

namespace jugend {
namespace {

/// Andrew's monotone chain.
std::vector<Point2> hull(std::vector<Point2> p) {
  std::ranges::sort(p, [](const Point2& a, const Point2& b) { return a.x < b.x || (a.x == b.x && a.y < b.y); });
  std::vector<Point2> h;
  const auto turns_right = [&h](const Point2& c) {
    const Point2 &a = h[h.size() - 2], &b = h.back();
    return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x) <= 0;
  };
  for (int side = 0; side < 2; ++side) {
    const std::size_t start = h.size();
    for (const Point2& c : p) {
      while (h.size() >= start + 2 && turns_right(c)) h.pop_back();
      h.push_back(c);
    }
    if (!h.empty()) h.pop_back();  // it starts the other side
    std::ranges::reverse(p);
  }
  return h;
}

void cut_convex(const Convex& body, double z, std::vector<Outline>& out) {
  std::vector<Point2> cut;
  if (body.radius > 0) {  // circles along the core
    const Vec3 a = body.points.front(), b = body.points.back();
    for (int step = 0; step <= 16; ++step) {
      const Vec3 c = a + (b - a) * (step / 16.0);
      const double squared = body.radius * body.radius - (z - c.z) * (z - c.z);
      for (int k = 0; k < 48 && squared > 0; ++k) {
        const double angle = 2 * pi * k / 48;
        cut.push_back(
            {c.x + std::sqrt(squared) * same_bits::cos(angle), c.y + std::sqrt(squared) * same_bits::sin(angle)});
      }
    }
  } else {
    for (std::size_t i = 0; i < body.points.size(); ++i) {
      for (std::size_t j = i + 1; j < body.points.size(); ++j) {
        const Vec3 &a = body.points[i], &b = body.points[j];
        if ((a.z - z) * (b.z - z) > 0 || a.z == b.z) continue;
        const double t = (z - a.z) / (b.z - a.z);
        cut.push_back({a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t});
      }
    }
  }
  if (cut.size() < 3) return;
  out.push_back({hull(std::move(cut)), true});
}

/// Single segments, joined where they share an end.
void join(const std::vector<std::pair<Point2, Point2>>& segments, std::vector<Outline>& out) {
  using Key = std::pair<long long, long long>;
  const auto key = [](const Point2& p) { return Key{std::llround(p.x * 1e6), std::llround(p.y * 1e6)}; };
  std::multimap<Key, std::size_t> ends;
  for (std::size_t i = 0; i < segments.size(); ++i) {
    ends.emplace(key(segments[i].first), i);
    ends.emplace(key(segments[i].second), i);
  }
  std::vector<bool> used(segments.size(), false);
  for (std::size_t i = 0; i < segments.size(); ++i) {
    if (used[i]) continue;
    used[i] = true;
    std::vector<Point2> line{segments[i].first, segments[i].second};
    for (int side = 0; side < 2; ++side) {
      for (bool grown = true; grown;) {
        grown = false;
        const auto [from, to] = ends.equal_range(key(line.back()));
        for (auto at = from; at != to && !grown; ++at) {
          if (used[at->second]) continue;
          used[at->second] = grown = true;
          const auto& s = segments[at->second];
          line.push_back(key(s.first) == key(line.back()) ? s.second : s.first);
        }
      }
      std::ranges::reverse(line);
    }
    out.push_back({std::move(line), false});
  }
}

}  // namespace

void section(const Shape& shape, const Pose& pose, double z, std::vector<Outline>& out) {
  std::vector<std::pair<Point2, Point2>> segments;
  const auto part = [&](const Convex& local, std::uint32_t, double limit) {
    std::vector<Vec3> points;
    for (const Vec3& p : local.points) points.push_back(to_world(pose, p));
    if (local.core != Core::triangle) {
      cut_convex({points, local.radius, local.core}, z, out);
      return limit;
    }
    std::vector<Point2> cut;
    for (std::size_t i = 0; i < 3; ++i) {
      const Vec3 &a = points[i], &b = points[(i + 1) % 3];
      if ((a.z < z) == (b.z < z)) continue;
      const double t = (z - a.z) / (b.z - a.z);
      cut.push_back({a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t});
    }
    if (cut.size() == 2) segments.emplace_back(cut[0], cut[1]);
    return limit;
  };
  const auto simple = [&](const auto& s) {
    using S = std::remove_cvref_t<decltype(s)>;
    if constexpr (std::is_same_v<S, Cylinder>) {  // as a prism of many sides
      std::vector<Vec3> points;
      for (int k = 0; k < 48; ++k) {
        const double x = s.radius * same_bits::cos(2 * pi * k / 48),
                     z_local = s.radius * same_bits::sin(2 * pi * k / 48);
        for (const double y : {-s.half_height, s.half_height}) points.push_back(to_world(pose, Vec3{x, y, z_local}));
      }
      cut_convex({points, 0, Core::hull}, z, out);
    } else {
      cut_convex(PlacedConvex(s, pose).view(), z, out);
    }
  };
  const auto composed = [&](const auto& s) { s->near(s->bounds().grown(1), 1.0, part); };
  std::visit(
      [&](const auto& s) {
        if constexpr (requires { s->bounds(); }) {
          composed(s);
        } else {
          simple(s);
        }
      },
      shape);
  join(segments, out);
}

void silhouette(const Shape& shape, const Pose& pose, View view, std::vector<Outline>& out) {
  visit_parts(shape, everywhere, 0, [&](const Convex& part, std::uint32_t, double limit) {
    if (part.core == Core::triangle) return limit;
    std::vector<Point2> seen;
    const auto see = [&](const Vec3& local, double radius) {
      const Vec3 p = to_world(pose, local);
      const Point2 at{p.x, view == View::side ? p.y : p.z};
      const int steps = radius > 0 ? 24 : 1;
      for (int k = 0; k < steps; ++k)
        seen.push_back(
            {at.x + radius * same_bits::cos(2 * pi * k / steps), at.y + radius * same_bits::sin(2 * pi * k / steps)});
    };
    for (const Vec3& p : part.points) {
      if (part.core != Core::cylinder) {
        see(p, part.radius);
        continue;
      }
      const Vec3 axis = normalised(part.points[1] - part.points[0], {0, 1, 0}), u = any_perpendicular(axis),
                 v = cross(axis, u);
      const Vec3 end = p + axis * (dot(p - part.points[0], axis) > 0 ? part.radius : -part.radius);
      const double rim = part.rim + part.radius;
      for (int k = 0; k < 24; ++k)
        see(end + (u * same_bits::cos(2 * pi * k / 24) + v * same_bits::sin(2 * pi * k / 24)) * rim, 0);
    }
    out.push_back({hull(std::move(seen)), true});
    return limit;
  });
}

}  // namespace jugend
