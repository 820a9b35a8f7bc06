// Every question goes the same way: into the frame of the shape, over its parts, and back.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/shape.hpp>
#include <jugend/shape/static_tree_walk.hpp>

namespace jugend {
namespace {

template <class T>
concept Simple =
    std::is_same_v<T, Sphere> || std::is_same_v<T, Capsule> || std::is_same_v<T, Box> || std::is_same_v<T, Cylinder>;

/// A body carried into a shape's frame, with the box round it.
struct LocalBody {
  PlacedConvex placed;
  Bounds box;
  LocalBody(const Convex& body, const Pose& frame) : placed(body, frame), box(bounds(placed.view())) {}
};

Separation to_world_frame(const Separation& s, const Pose& pose) {
  return {s.distance, rotate(pose.orientation, s.normal), to_world(pose, s.point)};
}

Ray to_local(const Ray& ray, const Pose& pose, bool turned) {
  if (!turned) return {ray.origin - pose.position, ray.direction, ray.length};
  return {to_local(pose, ray.origin), rotate(conjugate(pose.orientation), ray.direction), ray.length};
}

}  // namespace

void check(const Shape& shape) {
  std::visit(Overloaded{[](const Simple auto& simple) { check_size(ConvexShape(simple)); },
                        [](const auto& composed) {
                          if (!composed) fail({{}, "shape", "an empty reference", "a shape", {}});
                        }},
             shape);
}

double inner_radius(const Shape& shape) {
  const auto of_convex =
      Overloaded{[](const Sphere& s) { return s.radius; }, [](const Capsule& c) { return c.radius; },
                 [](const Box& b) {
                   return std::min({b.half_extents.x, b.half_extents.y, b.half_extents.z});
                 },
                 [](const Cylinder& c) { return std::min(c.radius, c.half_height); },
                 [](const HullRef& hull) {
                   const Vec3 size = hull->bounds().half_extents();  // of a box round it: a slanted one is thinner
                   double least = std::min({size.x, size.y, size.z});
                   for (const std::uint16_t f : hull->facets().distinct_faces) {
                     const auto loop = hull->facets().face(f);
                     const auto p = hull->corners();
                     const Vec3 n = normalised(cross(p[loop[1]] - p[loop[0]], p[loop[2]] - p[loop[0]]));
                     least = std::min(least, 0.5 * dot(n, hull->view().support(n) - hull->view().support(-n)));
                   }
                   return least;
                 }};
  return std::visit(Overloaded{of_convex,
                               [&](const CompoundRef& compound) {
                                 double least = infinity;
                                 for (const auto& part : compound->parts())
                                   least = std::min(least, std::visit(of_convex, part.shape));
                                 return least;
                               },
                               [](const auto&) { return 0.0; }},
                    shape);
}

Bounds bounds(const Shape& shape, const Pose& pose) {
  return std::visit(Overloaded{[&](const Simple auto& simple) { return bounds(PlacedConvex(simple, pose).view()); },
                               [&](const HullRef& hull) { return bounds(placed(ConvexShape(hull), pose).view()); },
                               [&](const CompoundRef& compound) {
                                 Bounds box;
                                 for (const auto& part : compound->parts())
                                   box.add(bounds(placed(part.shape, to_world(pose, part.pose)).view()));
                                 return box;
                               },
                               [&](const auto& composed) { return placed(composed->bounds(), pose); }},
                    shape);
}

std::optional<RayHit> cast(const Ray& ray, const Shape& shape, const Pose& pose) {
  const bool turned = pose.orientation != Quat{};
  const Ray local = to_local(ray, pose, turned);
  auto hit = std::visit(Overloaded{[&](const Sphere& s) { return cast_on_sphere(local, {}, s.radius); },
                                   [&](const Capsule& c) { return cast_on_capsule(local, c.radius, c.half_length); },
                                   [&](const Box& b) { return cast_on_box(local, -b.half_extents, b.half_extents); },
                                   [&](const Cylinder& c) { return cast_on_cylinder(local, c.radius, c.half_height); },
                                   [&](const auto& composed) { return composed->cast(local); }},
                        shape);
  if (hit && turned) hit->normal = rotate(pose.orientation, hit->normal);
  return hit;
}

void cast_all(std::span<const Ray> rays, const Shape& shape, const Pose& pose, std::span<std::optional<RayHit>> hits) {
  const auto* mesh = std::get_if<MeshRef>(&shape);
  if (mesh == nullptr) {
    for (std::size_t i = 0; i < rays.size(); ++i) hits[i] = cast(rays[i], shape, pose);
    return;
  }
  const bool turned = pose.orientation != Quat{};
  std::array<Ray, StaticTree::most_together> local;
  for (std::size_t from = 0; from < rays.size(); from += local.size()) {
    const std::size_t count = std::min(local.size(), rays.size() - from);
    for (std::size_t i = 0; i < count; ++i) local[i] = to_local(rays[from + i], pose, turned);
    const auto some = hits.subspan(from, count);
    (*mesh)->cast_all(std::span(local).first(count), some);
    for (std::size_t i = 0; turned && i < count; ++i) {
      if (some[i]) some[i]->normal = rotate(pose.orientation, some[i]->normal);
    }
  }
}

std::optional<SweepHit> sweep(const Convex& mover, const Vec3& motion, const Shape& shape, const Pose& pose) {
  const LocalBody local(mover, pose);
  const Vec3 local_motion = rotate(conjugate(pose.orientation), motion);
  std::optional<SweepHit> best;
  const auto visit = [&](const Convex& part, std::uint32_t number, double limit) {
    const auto touch = first_touch(local.placed.view(), local_motion, part);
    if (!touch || (best && touch->fraction > best->touch.fraction)) return limit;
    const auto facing = [&](const Touch& t) { return dot(t.normal, local_motion); };
    if (best && touch->fraction == best->touch.fraction &&
        (facing(*touch) > facing(best->touch) || (facing(*touch) == facing(best->touch) && number > best->part))) {
      return limit;
    }
    best = SweepHit{*touch, number};
    return touch->fraction;
  };
  std::visit(Overloaded{[&](const Simple auto& simple) {
                          if (!may_be_near(simple, local.box.swept(local_motion), 0)) return;
                          const PlacedConvex part(simple, Pose{});
                          visit(part.view(), 0, 1);
                        },
                        [&](const auto& composed) {
                          composed->along(local.box.centre(), local_motion, local.box.half_extents(), 1.0, visit);
                        }},
             shape);
  if (best) {
    best->touch.normal = rotate(pose.orientation, best->touch.normal);
    best->touch.point = to_world(pose, best->touch.point);
  }
  return best;
}

std::size_t overlaps(const Convex& body, double margin, const Shape& shape, const Pose& pose,
                     std::span<PartSeparation> out) {
  const LocalBody local(body, pose);
  std::size_t found = 0;
  visit_parts(shape, local.box, margin, [&](const Convex& part, std::uint32_t number, double limit) {
    const Separation s = separation(local.placed.view(), part);
    if (s.distance <= margin) {
      if (found < out.size()) out[found] = {to_world_frame(s, pose), number};
      ++found;
    }
    return limit;
  });
  return found;
}

std::optional<PartSeparation> closest(const Convex& body, double limit, const Shape& shape, const Pose& pose) {
  const LocalBody local(body, pose);
  std::optional<PartSeparation> best;
  visit_parts(shape, local.box, limit, [&](const Convex& part, std::uint32_t number, double nearest) {
    const Separation s = separation(local.placed.view(), part);
    if (s.distance > limit) return nearest;
    if (best &&
        (s.distance > best->separation.distance || (s.distance == best->separation.distance && number > best->part))) {
      return nearest;
    }
    best = PartSeparation{s, number};
    return std::max(0.0, s.distance);
  });
  if (best) best->separation = to_world_frame(best->separation, pose);
  return best;
}

}  // namespace jugend
