#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/compound.hpp>

namespace jugend {

PlacedConvex placed(const ConvexShape& shape, const Pose& pose) {
  return std::visit(Overloaded{[&](const HullRef& hull) { return PlacedConvex(hull->view(), to_local(pose, Pose{})); },
                               [&](const auto& simple) { return PlacedConvex(simple, pose); }},
                    shape);
}

void check_size(const ConvexShape& shape) {
  const auto size = [](double value, const char* key, bool zero_too = false) {
    if (std::isfinite(value) && (value > 0 || (zero_too && value == 0))) return;
    fail({{}, key, filled("{}", value), zero_too ? "0 m or more" : "more than 0 m", {}});
  };
  std::visit(Overloaded{[&](const Sphere& s) { size(s.radius, "radius"); },
                        [&](const Capsule& c) { size(c.radius, "radius"), size(c.half_length, "half_length", true); },
                        [&](const Box& b) {
                          for (int k = 0; k < 3; ++k) size(b.half_extents[k], "half_extents");
                        },
                        [&](const Cylinder& c) { size(c.radius, "radius"), size(c.half_height, "half_height"); },
                        [&](const HullRef& hull) {
                          if (!hull) fail({{}, "shape", "an empty reference", "a shape", {}});
                        }},
             shape);
}

std::optional<RayHit> cast(const Ray& ray, const ConvexShape& shape) {
  return std::visit(Overloaded{[&](const Sphere& s) { return cast_on_sphere(ray, {}, s.radius); },
                               [&](const Capsule& c) { return cast_on_capsule(ray, c.radius, c.half_length); },
                               [&](const Box& b) { return cast_on_box(ray, -b.half_extents, b.half_extents); },
                               [&](const Cylinder& c) { return cast_on_cylinder(ray, c.radius, c.half_height); },
                               [&](const HullRef& hull) { return hull->cast(ray); }},
                    shape);
}

Compound::Compound(std::vector<Part> parts) : parts_(std::move(parts)) {
  if (parts_.empty()) fail({{}, "parts", "none", "one part or more", {}});
  for (const Part& part : parts_) {
    check_size(part.shape);
    placed_.push_back(jugend::placed(part.shape, part.pose));
    boxes_.push_back(jugend::bounds(placed_.back().view()));
    bounds_.add(boxes_.back());
  }
}

std::optional<RayHit> Compound::cast(const Ray& ray) const {
  std::optional<RayHit> best;
  for (std::uint32_t i = 0; i < parts_.size(); ++i) {
    const Pose& pose = parts_[i].pose;
    const Ray local{to_local(pose, ray.origin), rotate(conjugate(pose.orientation), ray.direction), ray.length};
    const auto hit = jugend::cast(local, parts_[i].shape);
    if (hit && (!best || hit->distance < best->distance))
      best = RayHit{hit->distance, rotate(pose.orientation, hit->normal), i};
  }
  return best;
}

}  // namespace jugend
