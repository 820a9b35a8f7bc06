// Bodies as they come, go and are told things. Their plans: body.cpp. Joints: joint.cpp. Steps: step.cpp.
// Queries: queries.cpp. Snapshots: snapshot.cpp.
#include <algorithm>
#include <atomic>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/text.hpp>
#include <jugend/world/detail/parts.hpp>
#include <utility>

namespace jugend {
namespace {

using namespace world_state;

void need_finite(const Vec3& v, const char* key) {
  if (!is_finite(v)) fail({{}, key, "a number that is not finite", "finite numbers", {}});
}

/// Tells a body from all that had its place before it, also in futures that were left by restoring a snapshot:
/// what is born of the same, in the same step, is the same.
std::uint32_t born(std::uint32_t before, std::uint64_t step, const BodyPlan& plan) {
  StateHash hash;
  hash.add(static_cast<std::uint64_t>(before)), hash.add(step);
  hash.add(plan.pose.position), hash.add(plan.pose.orientation), hash.add(plan.velocity), hash.add(plan.spin);
  hash.add(plan.mass), hash.add(plan.density), hash.add(static_cast<std::uint64_t>(plan.kind));
  const Bounds size = bounds(plan.shape, {});  // a mesh's place in memory differs from run to run
  hash.add(static_cast<std::uint64_t>(plan.shape.index())), hash.add(size.low), hash.add(size.high);
  for (const char c : plan.name) hash.add(static_cast<std::uint64_t>(c));
  return static_cast<std::uint32_t>(hash.value() ^ (hash.value() >> 32));
}

Sym3 inverse_inertia_of(const Body& body) {
  return inverse_inertia(body.pose.orientation * body.principal, body.moments, body.locks);
}

}  // namespace

World::~World() = default;
World::World(World&&) noexcept = default;
World& World::operator=(World&&) noexcept = default;

World::World() : World(nullptr) {}

World::World(const Memory* memory) {
  if (memory != nullptr && (memory->take == nullptr || memory->give == nullptr))
    fail({{}, "memory", "one without take or give", "both functions", {}});
  const MemoryScope scope(memory);
  parts_ = Shared<Parts>::make();
  static std::atomic<std::uint64_t> worlds{0};
  parts_->number = ++worlds;
  reserve({});  // so that no tick of a small scene allocates when two bodies first meet
}

void World::set_watch(const Watch& watch) { parts_->watch = watch; }
const Watch& World::watch() const { return parts_->watch; }

/// What the pair rule may not do: it is asked in the middle of a step.
void World::need_no_question() const {
  if (parts_->asking)
    fail({{}, "pair_rule", "one that changes the world", "one that only answers; change it after the step", {}});
}

void World::set_bounds(Body& body) {
  const Bounds tight = bounds(parts_->shapes[body.shape], body.pose);
  body.centre = to_world(body.pose, body.local_centre);
  if (body.kind != BodyKind::proxy)
    return parts_->state.tree.move(body.leaf, tight.grown(body.kind == BodyKind::fixed ? 0 : 0.03 * parts_->scale));
  // What is put elsewhere in every tick has a box that lasts for some.
  if (parts_->state.tree.bounds(body.leaf).contains(tight)) return;
  parts_->state.tree.move(body.leaf, tight.swept(body.velocity * 0.06).grown(0.05 * parts_->scale));
}

BodyId World::add(BodyPlan plan) {
  need_no_question();
  check(plan);
  Body fresh;
  fresh.kind = plan.kind;
  if (fresh.has_mass()) set_mass_properties(fresh, plan);
  std::uint32_t index = 0;
  if (parts_->state.free_bodies.empty()) {
    index = static_cast<std::uint32_t>(parts_->state.bodies.size());
    parts_->state.bodies.emplace_back();
  } else {
    index = parts_->state.free_bodies.back();
    parts_->state.free_bodies.pop_back();
  }
  fresh.generation = born(parts_->state.bodies[index].generation, parts_->state.steps, plan);
  fresh.pose = fresh.before = plan.pose;
  fresh.centre = to_world(plan.pose, fresh.local_centre);
  fresh.spin = plan.spin;
  fresh.velocity = plan.velocity + cross(plan.spin, fresh.centre - plan.pose.position);
  fresh.surface = plan.surface;
  fresh.linear_damping = plan.linear_damping, fresh.angular_damping = plan.angular_damping;
  fresh.speed_limit = plan.speed_limit, fresh.spin_limit = plan.spin_limit;
  fresh.gravity_scale = plan.gravity_scale;
  fresh.own_gravity = plan.own_gravity.value_or(Vec3{}), fresh.has_own_gravity = plan.own_gravity.has_value();
  fresh.one_way = plan.one_way.value_or(Vec3{}), fresh.has_one_way = plan.one_way.has_value();
  fresh.layers = plan.layers, fresh.meets = plan.kind == BodyKind::proxy ? 0 : plan.meets, fresh.group = plan.group;
  fresh.locks = plan.locks;
  fresh.sensor = plan.sensor, fresh.reports = plan.reports, fresh.can_sleep = plan.can_sleep,
  fresh.buoyant = plan.buoyant, fresh.water_drag = plan.water_drag;
  fresh.inner = inner_radius(plan.shape);
  fresh.reach = reach_of(plan.shape, fresh.local_centre);
  fresh.shape = parts_->shapes.retain(plan.shape);
  fresh.name = parts_->names.retain(plan.name);
  fresh.alive = true;
  fresh.leaf = parts_->state.tree.insert(bounds(plan.shape, plan.pose), index);
  parts_->state.bodies[index] = fresh;
  ++parts_->state.alive;
  parts_->lists_changed = true;
  parts_->newcomers.push_back(index);  // its pairs are looked for in the next step
  return {index, fresh.generation};
}

bool World::remove(BodyId id) {
  need_no_question();
  if (!alive(id)) return false;
  const std::uint32_t index = id.index;
  wake_slot(index);
  wake_touching(index);
  for (std::uint32_t j = 0; j < parts_->state.joints.size(); ++j) {
    if (parts_->state.joints[j].alive && (parts_->state.joints[j].a == index || parts_->state.joints[j].b == index))
      break_joint(j);
  }
  remove_pairs_of(index);
  Body& body = parts_->state.bodies[index];
  parts_->state.tree.remove(body.leaf);
  parts_->shapes.let_go(body.shape), parts_->names.let_go(body.name);
  const std::uint32_t generation = body.generation;
  body = {};
  body.generation = generation;
  parts_->state.free_bodies.push_back(index);
  --parts_->state.alive;
  std::erase(parts_->newcomers, index);
  parts_->lists_changed = true;
  return true;
}

const World::Body* World::find(BodyId id) const {
  if (id.index >= parts_->state.bodies.size()) return nullptr;
  const Body& body = parts_->state.bodies[id.index];
  return body.alive && body.generation == id.generation ? &body : nullptr;
}

bool World::alive(BodyId id) const { return find(id) != nullptr; }

const World::Body& World::get(BodyId id) const {
  if (const Body* body = find(id)) return *body;
  fail({{}, "body", filled("index {}, generation {}", id.index, id.generation), "a body that is alive", {}});
}

World::Body& World::get(BodyId id) { return const_cast<Body&>(std::as_const(*this).get(id)); }

void World::place(BodyId id, const Pose& pose) {
  need_no_question();
  Body& body = get(id);
  check_pose(pose, parts_->names[body.name]);
  if (body.kind != BodyKind::proxy) wake_slot(id.index), wake_touching(id.index);
  body.pose = body.before = pose;
  set_bounds(body);
  if (body.kind == BodyKind::proxy) return;
  body.still_for = 0;
  parts_->newcomers.push_back(id.index);
  wake_touching(id.index);
}

void World::set_motion(BodyId id, const Vec3& velocity, const Vec3& spin) {
  Body& body = get(id);
  need_finite(velocity, "velocity"), need_finite(spin, "spin");
  if (body.kind == BodyKind::fixed) fail({{}, "velocity", "one for a fixed body", "a kinematic or dynamic body", {}});
  (body.held ? body.held_spin : body.spin) = spin;
  (body.held ? body.held_velocity : body.velocity) = velocity + cross(spin, body.centre - body.pose.position);
  if (body.kind == BodyKind::proxy) return;
  wake_slot(id.index);
  parts_->active_changed = true;
  body.still_for = 0;
}

Vec3 World::velocity(BodyId id) const {
  const Body& body = get(id);
  return body.velocity + cross(body.spin, body.pose.position - body.centre);
}

void World::set_shape(BodyId id, const Shape& shape) {
  need_no_question();
  check(shape);
  Body& body = get(id);
  wake_touching(id.index);
  remove_pairs_of(id.index);  // they remember parts of the old one
  const std::uint32_t old = std::exchange(body.shape, parts_->shapes.retain(shape));
  parts_->shapes.let_go(old);
  body.volume = body.dynamic() ? volume_of(shape) : 0;
  body.inner = inner_radius(shape), body.reach = reach_of(shape, body.local_centre);
  place(id, body.pose);
}

void World::set_surface(BodyId id, const Surface& surface) {
  Body& body = get(id);
  check_surface(surface, parts_->names[body.name]);
  body.surface = surface;
  wake_slot(id.index);
  wake_touching(id.index);
}

void World::set_damping(BodyId id, double linear, double angular) {
  if (!(linear >= 0 && angular >= 0 && std::isfinite(linear) && std::isfinite(angular)))
    fail({{}, "damping", filled("{}, {}", linear, angular), "0 or more", {}});
  Body& body = get(id);
  body.linear_damping = linear, body.angular_damping = angular;
}

void World::set_water_drag(BodyId id, double share) {
  if (!(share >= 0 && share <= 1000)) fail({{}, "water_drag", filled("{}", share), "0 to 1000", {}});
  get(id).water_drag = share;
}

void World::set_mass(BodyId id, double mass) {
  if (!(mass > 0) || !std::isfinite(mass)) fail({{}, "mass", filled("{}", mass), "more than 0 kg", {}});
  Body& body = get(id);
  if (!body.has_mass() && !body.held) fail({{}, "mass", "one for a body that is not dynamic", "a dynamic body", {}});
  body.moments *= mass / body.mass;
  body.mass = mass;
  wake_slot(id.index);
}

void World::set_gravity_of(BodyId id, double scale, std::optional<Vec3> own) {
  if (!std::isfinite(scale)) fail({{}, "gravity_scale", "a number that is not finite", "a finite number", {}});
  if (own) need_finite(*own, "own_gravity");
  Body& body = get(id);
  body.gravity_scale = scale;
  body.own_gravity = own.value_or(Vec3{}), body.has_own_gravity = own.has_value();
  wake_slot(id.index);
}

void World::set_layers(BodyId id, std::uint32_t layers, std::uint32_t meets) {
  Body& body = get(id);
  body.layers = layers, body.meets = body.kind == BodyKind::proxy ? 0 : meets;
  parts_->filters_changed = true;
  parts_->newcomers.push_back(id.index);  // a body that met nothing has no pairs yet
  wake_slot(id.index);
  wake_touching(id.index);
}

void World::hold(BodyId id, bool held) {
  need_no_question();
  Body& body = get(id);
  if (!body.dynamic() && !body.held) fail({{}, "hold", "a body that is not dynamic", "a dynamic body", {}});
  if (body.held == held) return;
  wake_slot(id.index), wake_touching(id.index);
  remove_pairs_of(id.index);
  if (held) body.held_velocity = std::exchange(body.velocity, {}), body.held_spin = std::exchange(body.spin, {});
  body.held = held, body.kind = held ? BodyKind::kinematic : BodyKind::dynamic;
  if (!held) body.velocity = std::exchange(body.held_velocity, {}), body.spin = std::exchange(body.held_spin, {});
  body.force = body.torque = {};
  parts_->lists_changed = true;
  parts_->newcomers.push_back(id.index);
}

void World::wake(BodyId id) {
  get(id).still_for = 0;
  wake_slot(id.index);
}

Sym3 World::inertia(BodyId id) const {
  const Body& body = get(id);
  return turned_diagonal(body.pose.orientation * body.principal, body.moments);
}

Pose World::drawn_pose(BodyId id, double fraction) const {
  const Body& body = get(id);
  return interpolated(body.before, body.pose, fraction);
}

World::Body* World::to_act_on(BodyId id, const Vec3& what, const char* key) {
  need_finite(what, key);
  Body& body = get(id);
  if (!body.has_mass()) return nullptr;
  if (what != Vec3{} && body.dynamic()) body.still_for = 0, wake_slot(id.index);
  return &body;
}

void World::push(BodyId id, const Vec3& impulse, const Vec3& at) {
  need_finite(at, "at");
  push(id, impulse);
  const Vec3 lever = at - get(id).centre;
  if (lever != Vec3{}) twist(id, cross(lever, impulse));
}

void World::push(BodyId id, const Vec3& impulse) {
  Body* body = to_act_on(id, impulse, "impulse");
  if (body == nullptr) return;
  const auto along = [&](std::uint8_t bit, double value) { return body->locks & bit ? 0.0 : value / body->mass; };
  if (body->kind == BodyKind::proxy) body->given += impulse;
  body->velocity += {along(lock::move_x, impulse.x), along(lock::move_y, impulse.y), along(lock::move_z, impulse.z)};
}

Vec3 World::take_push(BodyId id) { return std::exchange(get(id).given, {}); }

Vec3 World::take_force(BodyId id) { return std::exchange(get(id).force, {}); }

void World::twist(BodyId id, const Vec3& impulse) {
  if (Body* body = to_act_on(id, impulse, "impulse")) body->spin += inverse_inertia_of(*body) * impulse;
}

void World::force(BodyId id, const Vec3& force, const Vec3& at) {
  need_finite(at, "at");
  World::force(id, force);
  const Vec3 lever = at - get(id).centre;
  if (lever != Vec3{}) torque(id, cross(lever, force));
}

void World::force(BodyId id, const Vec3& force) {
  if (Body* body = to_act_on(id, force, "force")) body->force += force;
}

void World::torque(BodyId id, const Vec3& torque) {
  if (Body* body = to_act_on(id, torque, "torque")) body->torque += torque;
}

void World::set_sleeping(BodyId id, bool can_sleep) {
  get(id).can_sleep = can_sleep;
  if (!can_sleep) wake(id);
}

void World::set_steady_force(BodyId id, const Vec3& force, const Vec3& torque) {
  need_finite(force, "force"), need_finite(torque, "torque");
  Body& body = get(id);
  if (!body.dynamic()) return;
  if (force != body.steady_force || torque != body.steady_torque) wake(id);
  body.steady_force = force, body.steady_torque = torque;
}

void World::set_gravity(const Vec3& gravity) {
  need_finite(gravity, "gravity");
  if (gravity != parts_->field.uniform) wake_all();
  parts_->field.uniform = gravity;
}

std::uint32_t World::add_zone(const GravityZone& zone) {
  wake_all();
  return parts_->field.add(zone);
}

bool World::change_zone(std::uint32_t zone, const GravityZone& to) {
  wake_all();
  return parts_->field.change(zone, to);
}

bool World::remove_zone(std::uint32_t zone) {
  wake_all();
  return parts_->field.remove(zone);
}

void World::set_group(std::uint32_t group, const GroupRule& rule) {
  if (group == 0) fail({{}, "group", "0", "1 or more: 0 is no group", {}});
  if (!std::isfinite(rule.lift)) fail({{}, "lift", "a number that is not finite", "a finite number", {}});
  const auto known = std::ranges::find(parts_->state.groups, group, &Group::id);
  if (known == parts_->state.groups.end()) {
    parts_->state.groups.push_back({group, rule});
  } else {
    known->rule = rule;
  }
  parts_->filters_changed = true;
  for (std::uint32_t i = 0; i < parts_->state.bodies.size(); ++i) {
    if (parts_->state.bodies[i].alive && parts_->state.bodies[i].group == group) wake_slot(i);
  }
}

void World::keep_pair_rule(Shared<PairRule> rule) {
  parts_->pair_rule = std::move(rule);
  parts_->filters_changed = true;
}

void World::set_length_scale(double scale) {
  if (!(scale > 0) || !std::isfinite(scale)) fail({{}, "length_scale", filled("{}", scale), "more than 0", {}});
  parts_->scale = scale;
  parts_->tolerance = 1e-5 * scale;
}

}  // namespace jugend
