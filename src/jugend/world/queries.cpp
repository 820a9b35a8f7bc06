// What controllers ask: rays, sweeps, overlaps and the facts of a body.
#include <algorithm>
#include <array>
#include <jugend/world/detail/parts.hpp>

namespace jugend {

inline bool World::wanted(std::uint32_t index, const Filter& filter) const {
  const world_state::Body& b = parts_->state.bodies[index];
  const BodyId id{index, b.generation};
  return (b.layers & filter.layers) != 0 && !b.sensor && filter.self != id && filter.ignored != id &&
         filter.passed != id && !(filter.through_one_way && b.has_one_way) &&
         !(filter.still_only && (b.velocity != Vec3{} || b.spin != Vec3{}));
}

/// Does a surface that looks along `normal` stop what comes: one-way bodies do on one side only.
bool World::blocks(const Body& body, const Vec3& normal) const {
  return !body.has_one_way || dot(rotate(body.pose.orientation, body.one_way), normal) >= 0.5;
}

/// Is the mover inside a one-way body, and so on its way through?
bool World::passed(const Body& body, const Convex& mover) const {
  if (!body.has_one_way) return false;
  const auto part = jugend::closest(mover, 0, parts_->shapes[body.shape], body.pose);
  return part && part->separation.distance < -100 * parts_->tolerance;
}

/// What a ray meets of one body counts where that is nearer than the best so far; of two at one distance the older
/// body's.
void World::take(std::uint32_t index, const Ray& ray, const std::optional<RayHit>& hit,
                 std::optional<Hit>& best) const {
  const Body& body = parts_->state.bodies[index];
  if (!hit || (best && hit->distance > best->distance) || !blocks(body, hit->normal) ||
      (body.has_one_way && hit->distance == 0) ||
      (best && hit->distance == best->distance && index > best->body.index)) {
    return;
  }
  best =
      Hit{hit->distance, ray.origin + ray.direction * hit->distance, hit->normal, {index, body.generation}, hit->part};
}

std::optional<Hit> World::cast(const Ray& ray, const Filter& filter) const {
  std::optional<Hit> best;
  parts_->state.tree.along(ray.origin, ray.direction, {}, ray.length, [&](std::uint32_t index, double limit) {
    if (!wanted(index, filter)) return limit;
    const Body& body = parts_->state.bodies[index];
    take(index, ray, jugend::cast({ray.origin, ray.direction, limit}, parts_->shapes[body.shape], body.pose), best);
    return best ? best->distance : limit;
  });
  return best;
}

void World::cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const {
  std::array<std::optional<RayHit>, 32> there;
  if (rays.size() > there.size()) {
    cast_all(rays.first(there.size()), filter, hits.first(there.size()));
    return cast_all(rays.subspan(there.size()), filter, hits.subspan(there.size()));
  }
  Bounds around;
  for (const Ray& ray : rays) around.add(ray.origin), around.add(ray.origin + ray.direction * ray.length);
  std::array<std::uint32_t, 32> met;
  std::size_t count = 0;
  parts_->state.tree.within(around.grown(parts_->tolerance), [&](std::uint32_t index) {
    if (!wanted(index, filter)) return;
    if (count < met.size()) met[count] = index;
    ++count;
  });
  if (count > met.size()) return Surroundings::cast_all(rays, filter, hits);
  for (std::size_t i = 0; i < rays.size(); ++i) hits[i].reset();
  for (std::size_t k = 0; k < count; ++k) {
    const Body& body = parts_->state.bodies[met[k]];
    jugend::cast_all(rays, parts_->shapes[body.shape], body.pose, there);
    for (std::size_t i = 0; i < rays.size(); ++i) take(met[k], rays[i], there[i], hits[i]);
  }
}

std::optional<Hit> World::sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const {
  std::optional<Hit> best;
  const Bounds box = bounds(mover);
  parts_->state.tree.along(box.centre(), motion, box.half_extents(), 1.0, [&](std::uint32_t index, double limit) {
    if (!wanted(index, filter)) return limit;
    const Body& body = parts_->state.bodies[index];
    const auto hit = jugend::sweep(mover, motion, parts_->shapes[body.shape], body.pose);
    if (!hit || hit->touch.fraction > limit || !blocks(body, hit->touch.normal) || passed(body, mover)) return limit;
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

std::size_t World::overlaps(const Convex& mover, double margin, std::span<Overlap> out, const Filter& filter) const {
  std::size_t found = 0;
  parts_->state.tree.within(bounds(mover).grown(margin), [&](std::uint32_t index) {
    if (!wanted(index, filter)) return;
    const Body& other = parts_->state.bodies[index];
    if (passed(other, mover)) return;
    std::array<PartSeparation, 16> parts;
    const std::size_t n = jugend::overlaps(mover, margin, parts_->shapes[other.shape], other.pose, parts);
    for (std::size_t i = 0; i < std::min(n, parts.size()); ++i) {
      const Separation& s = parts[i].separation;
      if (!blocks(other, s.normal)) continue;
      if (found < out.size()) out[found] = {-s.distance, s.point, s.normal, {index, other.generation}, parts[i].part};
      ++found;
    }
    found += n - std::min(n, parts.size());
  });
  return found;
}

std::optional<Overlap> World::closest(const Convex& mover, double limit, const Filter& filter) const {
  std::optional<Overlap> best;
  parts_->state.tree.within(bounds(mover).grown(limit), [&](std::uint32_t index) {
    if (!wanted(index, filter)) return;
    const Body& other = parts_->state.bodies[index];
    const auto part = jugend::closest(mover, limit, parts_->shapes[other.shape], other.pose);
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
  BodyFacts facts{body->pose, velocity(id), body->spin, body->held ? 0 : body->mass, body->surface};
  facts.moving = body->velocity != Vec3{} || body->spin != Vec3{};
  facts.one_way = body->has_one_way;
  facts.centre = body->centre;
  if (body->dynamic())
    facts.inverse_inertia =
        world_state::inverse_inertia(body->pose.orientation * body->principal, body->moments, body->locks);
  facts.layers = body->layers;
  facts.force = body->force + body->steady_force, facts.torque = body->torque + body->steady_torque;
  if (body->gravity_scale != 1 || body->has_own_gravity) {
    const Vec3 there = parts_->field.at(body->centre);
    facts.force += ((body->has_own_gravity ? body->own_gravity : there * body->gravity_scale) - there) * body->mass;
  }
  return facts;
}

Medium World::medium(const Vec3& at, const Vec3& up) const {
  for (const Pool& pool : parts_->pools) {
    if (const auto depth = pool.depth_at(at, up)) return {*depth, pool.density, pool.flow};
  }
  return {};
}

}  // namespace jugend
