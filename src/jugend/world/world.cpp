#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/eigen.hpp>
#include <jugend/base/error.hpp>
#include <jugend/world/world.hpp>
#include <utility>

namespace jugend {
namespace {

[[noreturn]] void refuse(const BodyPlan& plan, const char* key, std::string found, std::string allowed) {
  const std::string where = plan.name.empty() ? key : fmt::format("body '{}': {}", plan.name, key);
  throw InputError({{}, where, std::move(found), std::move(allowed), {}});
}

void check(const BodyPlan& plan) {
  check(plan.shape);
  const auto finite = [&](const Vec3& v, const char* key) {
    if (!is_finite(v)) refuse(plan, key, "a number that is not finite", "finite numbers");
  };
  finite(plan.pose.position, "position");
  finite(plan.velocity, "velocity");
  finite(plan.spin, "spin");
  const Quat& q = plan.pose.orientation;
  const double length = std::sqrt(q.w * q.w + q.x * q.x + q.y * q.y + q.z * q.z);
  if (!(std::abs(length - 1) < 1e-6))
    refuse(plan, "orientation", fmt::format("length {}", length), "a unit quaternion");
  if (plan.kind == BodyKind::fixed && (plan.velocity != Vec3{} || plan.spin != Vec3{})) {
    refuse(plan, "velocity", "one of a fixed body", "a kinematic body, or no velocity and spin");
  }
  const auto within = [&](double value, const char* key, double high) {
    if (!(value >= 0 && value <= high)) refuse(plan, key, fmt::format("{}", value), fmt::format("0 to {}", high));
  };
  within(plan.surface.friction, "friction", 100);
  within(plan.surface.restitution, "restitution", 1);
  within(plan.surface.grip, "grip", 1);
}

}  // namespace

BodyId World::add(BodyPlan plan) {
  check(plan);
  std::uint32_t index = 0;
  if (free_.empty()) {
    index = static_cast<std::uint32_t>(bodies_.size());
    bodies_.emplace_back();
  } else {
    index = free_.back();
    free_.pop_back();
  }
  Body& body = bodies_[index];
  body.plan = std::move(plan);
  body.before = body.plan.pose;
  body.alive = true;
  body.leaf = tree_.insert(bounds(body.plan.shape, body.plan.pose), index);
  if (body.plan.kind == BodyKind::kinematic) moving_.push_back(index);
  ++alive_count_;
  return {index, body.generation};
}

bool World::remove(BodyId id) {
  if (!alive(id)) return false;
  Body& body = bodies_[id.index];
  tree_.remove(body.leaf);
  std::erase(moving_, id.index);
  body.plan = {};
  body.alive = false;
  ++body.generation;
  free_.push_back(id.index);
  --alive_count_;
  return true;
}

const World::Body* World::find(BodyId id) const {
  if (id.index >= bodies_.size()) return nullptr;
  const Body& body = bodies_[id.index];
  return body.alive && body.generation == id.generation ? &body : nullptr;
}

bool World::alive(BodyId id) const { return find(id) != nullptr; }

World::Body& World::get(BodyId id) {
  if (const Body* body = find(id)) return const_cast<Body&>(*body);
  throw InputError(
      {{}, "body", fmt::format("index {}, generation {}", id.index, id.generation), "a body that is alive", {}});
}

const BodyPlan& World::plan(BodyId id) const { return const_cast<World*>(this)->get(id).plan; }

void World::place(BodyId id, const Pose& pose) {
  Body& body = get(id);
  BodyPlan moved = body.plan;
  moved.pose = pose;
  check(moved);
  body.plan.pose = body.before = pose;
  tree_.move(body.leaf, bounds(body.plan.shape, pose));
}

void World::set_motion(BodyId id, const Vec3& velocity, const Vec3& spin) {
  Body& body = get(id);
  if (!is_finite(velocity) || !is_finite(spin))
    refuse(body.plan, "velocity", "a number that is not finite", "finite numbers");
  if (body.plan.kind != BodyKind::kinematic) refuse(body.plan, "velocity", "one for a fixed body", "a kinematic body");
  body.plan.velocity = velocity;
  body.plan.spin = spin;
}

Pose World::drawn_pose(BodyId id, double fraction) const {
  const Body& body = const_cast<World*>(this)->get(id);
  return interpolated(body.before, body.plan.pose, fraction);
}

void World::set_gravity(const Vec3& gravity) {
  if (!is_finite(gravity)) throw InputError({{}, "gravity", "a number that is not finite", "finite numbers", {}});
  gravity_ = gravity;
}

void World::step(double dt) {
  for (const std::uint32_t index : moving_) {
    Body& body = bodies_[index];
    body.before = body.plan.pose;
    if (body.plan.velocity == Vec3{} && body.plan.spin == Vec3{}) continue;
    body.plan.pose = advanced(body.plan.pose, body.plan.velocity, body.plan.spin, dt);
    tree_.move(body.leaf, bounds(body.plan.shape, body.plan.pose));
  }
}

void World::add_to(StateHash& hash) const {
  for (const std::uint32_t index : moving_) {
    const BodyPlan& plan = bodies_[index].plan;
    hash.add(plan.pose.position), hash.add(plan.pose.orientation);
    hash.add(plan.velocity), hash.add(plan.spin);
  }
}

std::optional<Hit> World::cast(const Ray& ray, const Filter& filter) const {
  std::optional<Hit> best;
  Ray shorter = ray;
  tree_.along(ray.origin, ray.direction, {}, ray.length, [&](std::uint32_t index, double limit) {
    if (!wanted(index, filter)) return limit;
    shorter.length = limit;
    const Body& body = bodies_[index];
    const auto hit = jugend::cast(shorter, body.plan.shape, body.plan.pose);
    if (!hit ||
        (best && (hit->distance > best->distance || (hit->distance == best->distance && index > best->body.index)))) {
      return limit;
    }
    best = Hit{hit->distance, {}, hit->normal, {index, body.generation}, hit->part};
    return hit->distance;
  });
  if (best) best->point = ray.origin + ray.direction * best->distance;
  return best;
}

std::optional<Hit> World::sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const {
  std::optional<Hit> best;
  const Bounds box = bounds(mover);
  tree_.along(box.centre(), motion, box.half_extents(), 1.0, [&](std::uint32_t index, double limit) {
    if (!wanted(index, filter)) return limit;
    const Body& body = bodies_[index];
    const auto hit = jugend::sweep(mover, motion, body.plan.shape, body.plan.pose);
    if (!hit || hit->touch.fraction > limit) return limit;
    // Of touches at one moment the one that faces the motion most is felt first; then the older body.
    if (best && hit->touch.fraction == best->distance) {
      const double mine = dot(hit->touch.normal, motion), other = dot(best->normal, motion);
      if (mine > other || (mine == other && index > best->body.index)) return limit;
    }
    best = Hit{hit->touch.fraction, hit->touch.point, hit->touch.normal, {index, body.generation}, hit->part};
    return hit->touch.fraction;
  });
  return best;
}

std::size_t World::overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const {
  std::size_t found = 0;
  tree_.within(bounds(body).grown(margin), [&](std::uint32_t index) {
    if (!wanted(index, filter)) return;
    const Body& other = bodies_[index];
    std::array<PartSeparation, 16> parts;
    const std::size_t n = jugend::overlaps(body, margin, other.plan.shape, other.plan.pose, parts);
    for (std::size_t i = 0; i < std::min(n, parts.size()); ++i) {
      const Separation& s = parts[i].separation;
      if (found + i < out.size())
        out[found + i] = {-s.distance, s.point, s.normal, {index, other.generation}, parts[i].part};
    }
    found += n;
  });
  return found;
}

std::optional<Overlap> World::closest(const Convex& body, double limit, const Filter& filter) const {
  std::optional<Overlap> best;
  tree_.within(bounds(body).grown(limit), [&](std::uint32_t index) {
    if (!wanted(index, filter)) return;
    const Body& other = bodies_[index];
    const auto part = jugend::closest(body, limit, other.plan.shape, other.plan.pose);
    if (!part) return;
    const Separation& s = part->separation;
    if (best && (-s.distance < best->depth || (-s.distance == best->depth && index > best->body.index))) return;
    best = Overlap{-s.distance, s.point, s.normal, {index, other.generation}, part->part};
    limit = std::max(0.0, s.distance);
  });
  return best;
}

BodyFacts World::facts(BodyId id) const {
  const Body* body = find(id);
  if (body == nullptr) return {};
  const BodyPlan& plan = body->plan;
  const bool moving = plan.velocity != Vec3{} || plan.spin != Vec3{};
  return {plan.pose, plan.velocity, plan.spin, 0, plan.surface, moving};
}

void World::push(BodyId, const Vec3&, const Vec3&) {}  // fixed and kinematic bodies have no momentum to change

}  // namespace jugend
