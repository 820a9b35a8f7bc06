#include "query_law.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/shape.hpp>
#include <jugend/world/world.hpp>
#include <limits>
#include <optional>
#include <vector>

#include "../support/random.hpp"

namespace jugend::laws {
namespace {

using testing::Random;
using Wide = long double;
constexpr Wide never = std::numeric_limits<Wide>::infinity();

/// A vector with room below a double's rounding.
struct WideVec {
  Wide x = 0, y = 0, z = 0;
  WideVec() = default;
  WideVec(Wide a, Wide b, Wide c) : x(a), y(b), z(c) {}
  WideVec(const Vec3& v) : x(v.x), y(v.y), z(v.z) {}
};
WideVec operator+(const WideVec& a, const WideVec& b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
WideVec operator-(const WideVec& a, const WideVec& b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
WideVec operator*(const WideVec& a, Wide k) { return {a.x * k, a.y * k, a.z * k}; }
Wide dot(const WideVec& a, const WideVec& b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
WideVec cross(const WideVec& a, const WideVec& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

/// The times between which a line is within something.
struct Span {
  Wide enter = -never, leave = never;
  void cut(const Span& other) { enter = std::max(enter, other.enter), leave = std::min(leave, other.leave); }
};

/// n·p <= offset.
Span within_plane(const WideVec& from, const WideVec& along, const WideVec& n, Wide offset) {
  const Wide above = dot(n, from) - offset, rate = dot(n, along);
  if (rate == 0) return above <= 0 ? Span{} : Span{never, -never};
  return rate > 0 ? Span{-never, -above / rate} : Span{-above / rate, never};
}
/// a t² + 2 b t + c <= 0.
Span within_roots(Wide a, Wide b, Wide c) {
  if (a <= 0) return c <= 0 ? Span{} : Span{never, -never};
  const Wide root = b * b - a * c;
  if (root < 0) return {never, -never};
  return {(-b - std::sqrt(root)) / a, (-b + std::sqrt(root)) / a};
}
Span within_ball(const WideVec& from, const WideVec& along, const WideVec& centre, Wide radius) {
  const WideVec o = from - centre;
  return within_roots(dot(along, along), dot(o, along), dot(o, o) - radius * radius);
}
Span within_tube(const WideVec& from, const WideVec& along, const WideVec& a, const WideVec& axis, Wide radius) {
  const WideVec o = from - a, c = cross(o, axis), d = cross(along, axis);
  return within_roots(dot(d, d), dot(c, d), dot(c, c) - radius * radius * dot(axis, axis));
}

/// Where a line goes through one convex part, by its definition alone.
Span span_in(const Convex& part, const WideVec& from, const WideVec& along) {
  const auto p = part.points;
  Span span;
  const auto face = [&](const WideVec& a, const WideVec& b, const WideVec& c, const WideVec& inner) {
    WideVec n = cross(b - a, c - a);
    if (dot(n, inner - a) > 0) n = n * -1;
    span.cut(within_plane(from, along, n, dot(n, a)));
  };
  const auto middle = [&](std::size_t count) {
    WideVec sum;
    for (std::size_t i = 0; i < count; ++i) sum = sum + p[i];
    return sum * (Wide{1} / static_cast<Wide>(count));
  };
  switch (part.core) {
    case Core::point: return within_ball(from, along, p[0], part.radius);
    case Core::segment: {
      const WideVec a = p[0], axis = WideVec(p[1]) - a;
      if (dot(axis, axis) == 0) return within_ball(from, along, a, part.radius);
      span = within_tube(from, along, a, axis, part.radius);
      span.cut(within_plane(from, along, axis, dot(axis, WideVec(p[1]))));
      span.cut(within_plane(from, along, axis * -1, -dot(axis, a)));
      for (const Vec3& end : {p[0], p[1]}) {
        const Span ball = within_ball(from, along, end, part.radius);
        if (ball.enter > ball.leave) continue;
        if (span.enter > span.leave) {
          span = ball;
        } else {
          span.enter = std::min(span.enter, ball.enter), span.leave = std::max(span.leave, ball.leave);
        }
      }
      return span;
    }
    case Core::cylinder: {
      // The core is kept inside, with a radius round it; rays see the flat ends and the whole rim.
      const WideVec axis = WideVec(p[1]) - p[0];
      const Wide length = std::sqrt(dot(axis, axis));
      const WideVec unit = axis * (1 / length);
      span = within_tube(from, along, p[0], unit, part.rim + part.radius);
      span.cut(within_plane(from, along, unit, dot(unit, WideVec(p[1])) + part.radius));
      span.cut(within_plane(from, along, unit * -1, -dot(unit, WideVec(p[0])) + part.radius));
      return span;
    }
    case Core::box: {
      const WideVec inner = middle(8);
      for (const int k : {1, 2, 4}) {
        const int u = k == 1 ? 2 : 1, v = k == 4 ? 2 : 4;
        face(p[0], p[static_cast<std::size_t>(u)], p[static_cast<std::size_t>(v)], inner);
        face(p[static_cast<std::size_t>(k)], p[static_cast<std::size_t>(k + u)], p[static_cast<std::size_t>(k + v)],
             inner);
      }
      return span;
    }
    case Core::prism: {
      const WideVec inner = middle(6);
      face(p[0], p[1], p[2], inner), face(p[3], p[4], p[5], inner);
      for (std::size_t i = 0; i < 3; ++i) face(p[i], p[(i + 1) % 3], p[i + 3], inner);
      return span;
    }
    case Core::hull: {
      const WideVec inner = middle(p.size());
      for (std::size_t i = 0; i < part.facets->face_count(); ++i) {
        const auto loop = part.facets->face(i);
        WideVec n, on;  // by Newell's method: three corners of it may lie in a row
        for (std::size_t k = 0; k < loop.size(); ++k) {
          const WideVec a = p[loop[k]], b = p[loop[(k + 1) % loop.size()]];
          n = n + cross(a - inner, b - inner), on = on + a;
        }
        const Wide length = std::sqrt(dot(n, n));
        if (length > 0) span.cut(within_plane(from, along, n, dot(n, on) / static_cast<Wide>(loop.size())));
      }
      return span;
    }
    case Core::triangle: {
      const WideVec a = p[0], ab = WideVec(p[1]) - a, ac = WideVec(p[2]) - a, n = cross(ab, ac);
      const Wide rate = dot(n, along);
      if (rate == 0) return {never, -never};
      const Wide t = dot(n, a - from) / rate;
      const WideVec at = from + along * t - a;
      const Wide area = dot(n, n), v = dot(cross(at, ac), n) / area, w = dot(cross(ab, at), n) / area;
      const Wide slack = -1e-15L;
      return v >= slack && w >= slack && v + w <= 1 - slack ? Span{t, t} : Span{never, -never};
    }
  }
  return span;
}

/// The shape's parts in its own frame, by number, without a tree.
template <class Visit>
void each_part(const Shape& shape, Visit&& visit) {
  const auto triangles = [&](const auto& sheet, std::size_t count) {
    for (std::uint32_t i = 0; i < count; ++i) {
      const std::array<Vec3, 3> corners = sheet.triangle(i);
      visit(Convex{corners, 0, Core::triangle}, i);
    }
  };
  std::visit(Overloaded{[&](const CompoundRef& compound) {
                          std::uint32_t number = 0;
                          for (const auto& part : compound->parts())
                            visit(placed(part.shape, part.pose).view(), number++);
                        },
                        [&](const MeshRef& mesh) { triangles(*mesh, mesh->triangle_count()); },
                        [&](const HeightFieldRef& field) {
                          triangles(*field, 2 * (field->columns() - 1) * (field->rows() - 1));
                        },
                        [&](const TileGridRef& tiles) {
                          for (std::uint32_t i = 0; i < tiles->part_count(); ++i) visit(tiles->part(i), i);
                        },
                        [&](const HullRef& hull) { visit(hull->view(), 0u); },
                        [&](const auto& simple) { visit(PlacedConvex(simple, Pose{}).view(), 0u); }},
             shape);
}

/// How far the ray comes; what lies up to `behind` behind its start counts as at it. Solids that it passes through over
/// less than `chord` do not count.
Wide brute_cast(const Ray& ray, const Shape& shape, Wide length, Wide behind, Wide chord = 0) {
  Wide best = never;
  each_part(shape, [&](const Convex& part, std::uint32_t) {
    const Span span = span_in(part, ray.origin, ray.direction);
    if (span.enter > span.leave || span.leave < -behind || span.enter > length) return;
    if (part.core != Core::triangle && span.leave - span.enter < chord) return;
    best = std::min(best, std::max(span.enter, Wide{0}));
  });
  return best;
}

// What is asked

Shape draw_shape(Random& random, double k) {
  const auto size = [&] { return k * std::pow(10, random.uniform(-1, 0.5)); };
  const auto simple = [&]() -> ConvexShape {
    const double a = size(), b = size(), c = size();
    switch (random.below(5)) {
      case 0: return Sphere{a};
      case 1: return Capsule{a, random.below(5) == 0 ? 0 : b};
      case 2: return Box{{a, b, c}};
      case 3: return Cylinder{a, b};
      default: {
        std::vector<Vec3> points;
        for (std::uint32_t i = 0, n = 5 + random.below(20); i < n; ++i) points.push_back(random.point(a));
        return std::make_shared<const Hull>(points);
      }
    }
  };
  const std::uint32_t kind = random.below(9);
  if (kind < 4) return std::visit([](const auto& s) -> Shape { return s; }, simple());
  if (kind == 4) {
    std::vector<Compound::Part> parts;
    for (std::uint32_t i = 0, n = 1 + random.below(6); i < n; ++i) parts.push_back({simple(), random.pose(2 * k)});
    return std::make_shared<const Compound>(parts);
  }
  const std::uint32_t n = 1 + random.below(12);
  const bool flat = random.below(3) == 0;
  if (kind == 5) {
    std::vector<double> heights;
    for (std::uint32_t i = 0; i < (n + 1) * (n + 1); ++i) heights.push_back(flat ? 0.5 * k : random.uniform(-k, k));
    return std::make_shared<const HeightField>(n + 1, n + 1, k, heights);
  }
  if (kind == 6) {
    std::string map;
    for (std::uint32_t row = 0; row < n; ++row) {
      for (std::uint32_t column = 0; column < n; ++column) map += random.below(3) == 0 ? '.' : '#';
      map += '\n';
    }
    map[0] = '#';
    return std::make_shared<const TileGrid>(map, k, random.uniform(0.5, 5) * k);
  }
  MeshData data;
  if (kind == 7) {  // loose triangles
    for (std::uint32_t i = 0; i < 4 * n; ++i) {
      const Vec3 at = random.point(3 * k);
      for (std::uint32_t corner = 0; corner < 3; ++corner) data.vertices.push_back(at + random.point(size()));
      data.triangles.push_back({3 * i, 3 * i + 1, 3 * i + 2});
    }
  } else {
    data = testing::bumpy_mesh(n, k, flat ? 0 : k, random.below(1000));
  }
  return std::make_shared<const Mesh>(data);
}

/// As it is, turned by right angles, or anyhow.
Pose draw_pose(Random& random, double k) {
  const std::uint32_t kind = random.below(3);
  Pose pose = random.pose(kind == 0 ? 0 : 3 * k);
  if (kind == 0) pose.orientation = {};
  if (kind == 1) {
    Vec3 axis;
    axis[static_cast<int>(random.below(3))] = 0.5 * pi * (1 + random.below(3));
    pose.orientation = rotation(axis);
  }
  return pose;
}

/// A corner, a place on an edge, a place in a face, or near to all that; in the shape's frame.
Vec3 draw_target(Random& random, const std::vector<std::array<Vec3, 3>>& faces, double k) {
  const auto& f = faces[random.below(static_cast<std::uint32_t>(faces.size()))];
  const double u = random.uniform(0, 1), v = random.uniform(0, 1 - u);
  switch (random.below(5)) {
    case 0: return f[random.below(3)];
    case 1: return f[0] + (f[1] - f[0]) * u;
    case 2: return f[0] + (f[1] - f[0]) * u + (f[2] - f[0]) * v;
    case 3: return f[0] + (f[1] - f[0]) * u + random.direction() * (k * std::pow(10, random.uniform(-12, 0)));
    default: return f[0] + random.point(2 * k);
  }
}

/// Three points of each part: corners where it has some.
std::vector<std::array<Vec3, 3>> faces_of(const Shape& shape, Random& random) {
  std::vector<std::array<Vec3, 3>> faces;
  each_part(shape, [&](const Convex& part, std::uint32_t) {
    std::array<Vec3, 3> face;
    for (Vec3& corner : face) {
      const std::uint32_t i = random.below(static_cast<std::uint32_t>(part.points.size()));
      corner = part.points[i];
      if (part.points.size() < 3) corner += random.direction() * (part.radius + part.rim);
    }
    faces.push_back(face);
  });
  return faces;
}

Vec3 draw_direction(Random& random, const std::array<Vec3, 3>& face) {
  const std::uint32_t kind = random.below(6);
  if (kind < 3) return random.direction();
  if (kind == 3) return normalised(face[1] - face[0], random.direction());  // along an edge
  Vec3 d;
  d[static_cast<int>(random.below(3))] = random.below(2) == 0 ? 1 : -1;
  if (kind == 4) return d;
  return normalised(d + random.direction() * std::pow(10, random.uniform(-20, -1)));
}

/// m that rounding may move a place by.
double slack_of(const Vec3& origin, const Pose& pose, double reach, double k) {
  return 2e-13 * (norm(origin) + norm(pose.position) + reach + 20 * k);
}

std::string wrong_ray(const Ray& ray, const Shape& shape, const Pose& pose, double k) {
  const auto hit = cast(ray, shape, pose);
  // Cells of a height field overlap by a billionth, so that no ray passes between them.
  const double seam = std::holds_alternative<HeightFieldRef>(shape) ? 4e-9 * k : 0;
  const double slack = seam + slack_of(ray.origin, pose, ray.length, k);
  // What rounding may make of the ray: itself, and a hair to each side.
  const Vec3 side = any_perpendicular(ray.direction), other = cross(ray.direction, side);
  Wide nearest = never, farthest = 0, farthest_within = 0;
  for (const Vec3& off : {Vec3{}, side, -side, other, -other}) {
    for (const Wide longer : {-1, 1}) {
      const Ray beside{to_local(pose, ray.origin + off * slack), rotate(conjugate(pose.orientation), ray.direction),
                       ray.length};
      const auto first = [&](Wide chord) {
        return brute_cast(beside, shape, ray.length + longer * slack, longer * slack, chord);
      };
      const Wide t = first(0);
      nearest = std::min(nearest, t), farthest = std::max(farthest, t);
      farthest_within = std::max(farthest_within, first(16 * slack));
    }
  }
  if (!hit) {
    return farthest_within < never ? fmt::format("missed: brute force hits at {} to {}", static_cast<double>(nearest),
                                                 static_cast<double>(farthest))
                                   : "";
  }
  const double at = hit->distance;
  if (!(at >= 0 && at <= ray.length)) return fmt::format("hit at {} of {}", at, ray.length);
  // A ray that goes along a face may meet it anywhere, or pass: then what counts is that it is there.
  const auto along_a_face = [&](Wide from, Wide to) {
    if (std::abs(dot(hit->normal, ray.direction)) < 1e-9) return true;  // a triangle seen from its edge
    for (int i = 0; i <= 4; ++i) {
      const double t = static_cast<double>(from + (to - from) * i / 4);
      const std::array<Vec3, 1> there{ray.origin + ray.direction * t};
      const auto near = closest({there, 0, Core::point}, 16 * slack, shape, pose);
      if (!near || near->separation.distance < -16 * slack) return false;
    }
    return true;
  };
  if (!(at <= farthest + slack || along_a_face(farthest, at)) || !(at >= nearest - slack || along_a_face(at, at)))
    return fmt::format("hit at {}, brute force at {} to {}", at, static_cast<double>(nearest),
                       static_cast<double>(farthest));
  if (std::abs(norm(hit->normal) - 1) > 1e-9 || dot(hit->normal, ray.direction) > 1e-9)
    return fmt::format("normal {} {} {}", hit->normal.x, hit->normal.y, hit->normal.z);
  return {};
}

std::string wrong_sweep(const PlacedConvex& mover, const Vec3& motion, const Shape& shape, const Pose& pose, double k) {
  const auto hit = sweep(mover.view(), motion, shape, pose);
  // The search for the nearest points of a rim may end a hundred-thousandth of its size off.
  const double rim = mover.view().core == Core::cylinder ? 3e-5 * k : 0;
  const double slack = rim + 2e-9 + 1e5 * slack_of(mover.view().points[0], pose, norm(motion), k);
  const PlacedConvex local(mover.view(), pose);
  std::optional<double> brute;
  double begins = infinity;
  each_part(shape, [&](const Convex& part, std::uint32_t) {
    begins = std::min(begins, separation(local.view(), part).distance);
    const auto touch = first_touch(local.view(), rotate(conjugate(pose.orientation), motion), part);
    if (touch) brute = std::min(brute.value_or(1), touch->fraction);
  });
  const double speed = std::max(norm(motion), 1e-300);
  if (hit.has_value() != brute.has_value())
    return hit ? fmt::format("a hit at {} that no part gives", hit->touch.fraction)
               : fmt::format("missed: a part is hit at {}", *brute);
  if (hit && std::abs(hit->touch.fraction - *brute) * speed > slack)
    return fmt::format("hit at {}, by all parts at {}", hit->touch.fraction, *brute);
  if (begins < slack) return {};  // what touches already may slide along
  const auto nearest = [&](double share) {
    const PlacedConvex moved(PlacedConvex(mover.view(), {motion * -share, {}}).view(), pose);
    double least = infinity;
    each_part(shape, [&](const Convex& part, std::uint32_t) {
      least = std::min(least, separation(moved.view(), part).distance);
    });
    return least;
  };
  const double until = hit ? hit->touch.fraction : 1;
  for (int i = 1; i <= 8; ++i) {
    if (const double gap = nearest(until * i / 8); gap < -slack)
      return fmt::format("{} m inside at {} of {}", -gap, until * i / 8, until);
  }
  if (hit && std::abs(nearest(until)) > slack) return fmt::format("{} m off at the touch", nearest(until));
  return {};
}

std::string wrong_near(const PlacedConvex& body, double limit, const Shape& shape, const Pose& pose, double k) {
  const double slack = 2e-9 + 1e5 * slack_of(body.view().points[0], pose, limit, k);
  const PlacedConvex local(body.view(), pose);
  double least = infinity;
  std::size_t surely = 0, perhaps = 0;
  each_part(shape, [&](const Convex& part, std::uint32_t) {
    const double distance = separation(local.view(), part).distance;
    least = std::min(least, distance);
    surely += distance <= limit - slack, perhaps += distance <= limit + slack;
  });
  const auto found = closest(body.view(), limit, shape, pose);
  if (!found && least < limit - slack) return fmt::format("nothing within {}, a part is at {}", limit, least);
  if (found && std::max(0.0, least) < std::max(0.0, found->separation.distance) - slack)
    return fmt::format("closest at {}, a part is at {}", found->separation.distance, least);
  if (found && found->separation.distance < least - slack)
    return fmt::format("closest at {}, no part is nearer than {}", found->separation.distance, least);
  std::array<PartSeparation, 4> out;
  const std::size_t count = overlaps(body.view(), limit, shape, pose, out);
  if (count < surely || count > perhaps)
    return fmt::format("{} parts within {}, by all parts {} to {}", count, limit, surely, perhaps);
  return {};
}

/// The same questions of a world of many bodies: the nearest of what each body answers alone.
std::string wrong_in_a_world(Random& random, std::uint64_t& asked) {
  World world;
  const double k = std::pow(10, random.uniform(-2, 2));
  std::vector<std::pair<Shape, Pose>> bodies;
  for (std::uint32_t i = 0, n = 1 + random.below(40); i < n; ++i) {
    const Shape shape = draw_shape(random, k * std::pow(10, random.uniform(-1, 0.3)));
    Pose pose = draw_pose(random, k);
    pose.position += random.point(6 * k);
    const bool can_move = random.below(2) == 0 && shape.index() < 6;
    world.add({.shape = shape, .pose = pose, .kind = can_move ? BodyKind::dynamic : BodyKind::fixed, .mass = 1});
    bodies.emplace_back(shape, pose);
  }
  for (int i = 0; i < 12; ++i) {
    const auto& [shape, pose] = bodies[random.below(static_cast<std::uint32_t>(bodies.size()))];
    const auto faces = faces_of(shape, random);
    const Vec3 target = to_world(pose, draw_target(random, faces, k));
    const Vec3 direction = normalised(rotate(pose.orientation, draw_direction(random, faces.front())));
    const double far = k * std::pow(10, random.uniform(-2, 1.5));
    const Vec3 from = target - direction * far;
    const double length = far * random.uniform(0.5, 2), slack = 1e-7 * (k + length);
    const auto differs = [&](double found, double best) {
      return std::isfinite(best) != std::isfinite(found) || (std::isfinite(best) && std::abs(found - best) > slack);
    };
    const auto first_alone = [&](const Vec3& beside) {
      double best = infinity;
      for (const auto& [body, at] : bodies) {
        if (const auto hit = cast({from + beside, direction, length}, body, at)) best = std::min(best, hit->distance);
      }
      return best;
    };
    const auto hit = world.cast({from, direction, length}, {});
    const double found = hit ? hit->distance : infinity, best = first_alone({});
    // At the outer edge of a body either answer is right; cells of height fields reach a billionth beyond it.
    const Vec3 side = any_perpendicular(direction) * (1e-8 * k), other = cross(direction, side);
    const std::array<Vec3, 4> beside{side, -side, other, -other};
    if (differs(found, best) &&
        std::ranges::all_of(beside, [&](const Vec3& b) { return differs(found, first_alone(b)); }))
      return fmt::format("a ray meets {}, alone they are met at {}", found, best);

    const PlacedConvex mover(Box{Vec3{1, 0.6, 0.3} * (k * random.uniform(0.01, 1))},
                             {from, random.pose(1).orientation});
    double first = infinity;
    for (const auto& [body, at] : bodies) {
      if (const auto touch = sweep(mover.view(), direction * length, body, at))
        first = std::min(first, length * touch->touch.fraction);
    }
    const auto swept = world.sweep(mover.view(), direction * length, {});
    const double met = swept ? length * swept->distance : infinity;
    if (differs(met, first)) return fmt::format("a sweep meets {}, alone they are met at {}", met, first);

    const double margin = random.below(2) == 0 ? 0 : k * random.uniform(0, 1);
    std::array<PartSeparation, 1> part;
    std::array<Overlap, 1> overlap;
    std::size_t parts = 0;
    for (const auto& [body, at] : bodies) parts += overlaps(mover.view(), margin, body, at, part);
    const std::size_t all = world.overlaps(mover.view(), margin, overlap, {});
    if (parts != all) return fmt::format("{} parts are near, alone there are {}", all, parts);
    asked += 3;
  }
  return {};
}

}  // namespace

std::string broken_by_queries(std::uint32_t seed, std::uint64_t& asked) {
  Random random(seed);
  if (seed % 8 == 0) {
    const std::string what = wrong_in_a_world(random, asked);
    return what.empty() ? "" : "in a world " + what;
  }
  const double k = std::pow(10, random.uniform(-3, 5));
  const Shape shape = draw_shape(random, k);
  const Pose pose = draw_pose(random, k);
  const auto faces = faces_of(shape, random);
  const char* names[] = {"sphere", "capsule", "box", "cylinder", "hull", "compound", "mesh", "height field", "tiles"};
  const auto said = [&](const char* question, const std::string& what) {
    return fmt::format("{} on a {} of {:.3g} m: {}", question, names[shape.index()], k, what);
  };
  for (int i = 0; i < 24; ++i) {
    const Vec3 target = to_world(pose, draw_target(random, faces, k));
    const auto& face = faces[random.below(static_cast<std::uint32_t>(faces.size()))];
    const Vec3 direction = normalised(rotate(pose.orientation, draw_direction(random, face)));
    const double far = random.below(6) == 0 ? 0 : k * std::pow(10, random.uniform(-2, 1.5));
    const Ray ray{target - direction * far, direction, random.uniform(0.5, 2) * far + (far == 0 ? k : 0)};
    ++asked;
    if (const auto what = wrong_ray(ray, shape, pose, k); !what.empty()) return said("a ray", what);
  }
  for (int i = 0; i < 8; ++i) {
    const double size = k * std::pow(10, random.uniform(-1.5, 0.3)), b = size * random.uniform(0.1, 1);
    const Vec3 target = to_world(pose, draw_target(random, faces, k));
    const auto& face = faces[random.below(static_cast<std::uint32_t>(faces.size()))];
    const Vec3 direction = normalised(rotate(pose.orientation, draw_direction(random, face)));
    const double far = k * std::pow(10, random.uniform(-2, 1.2));
    const Quat turn = random.below(2) == 0 ? Quat{} : random.pose(1).orientation;
    const Pose at{target - direction * far, turn};
    const auto mover = [&]() -> PlacedConvex {
      switch (random.below(4)) {
        case 0: return {Sphere{size}, at};
        case 1: return {Capsule{size, b}, at};
        case 2: return {Box{{size, b, 0.5 * (size + b)}}, at};
        default: return {Cylinder{size, b}, at};
      }
    }();
    asked += 2;
    if (const auto what = wrong_sweep(mover, direction * (far * random.uniform(0.5, 2)), shape, pose, k); !what.empty())
      return said("a sweep", what);
    const double margin = random.below(3) == 0 ? 0 : k * random.uniform(0, 2);
    if (const auto what = wrong_near(mover, margin, shape, pose, k); !what.empty()) return said("a near query", what);
  }
  return {};
}

}  // namespace jugend::laws
