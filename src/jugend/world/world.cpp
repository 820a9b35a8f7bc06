// Bodies as they come, go and are told things. Steps: step.cpp. Queries: queries.cpp. Joints: joint.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <jugend/base/eigen.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/shape/mass.hpp>
#include <jugend/world/world.hpp>
#include <utility>

namespace jugend {
namespace {

using namespace world_state;

[[noreturn]] void refuse(const BodyPlan& plan, const char* key, std::string found, std::string allowed) {
  const std::string where = plan.name.empty() ? key : fmt::format("body '{}': {}", plan.name, key);
  throw InputError({{}, where, std::move(found), std::move(allowed), {}});
}

void need_finite(const Vec3& v, const char* key) {
  if (!is_finite(v)) throw InputError({{}, key, "a number that is not finite", "finite numbers", {}});
}

void check_pose(const BodyPlan& plan) {
  if (!is_finite(plan.pose.position)) refuse(plan, "position", "a number that is not finite", "finite numbers");
  const Quat& q = plan.pose.orientation;
  const double length = std::sqrt(q.w * q.w + q.x * q.x + q.y * q.y + q.z * q.z);
  if (!(std::abs(length - 1) < 1e-6))
    refuse(plan, "orientation", fmt::format("length {}", length), "a unit quaternion");
}

void check_surface(const BodyPlan& plan) {
  const auto within = [&](double value, const char* key, double high) {
    if (!(value >= 0 && value <= high)) refuse(plan, key, fmt::format("{}", value), fmt::format("0 to {}", high));
  };
  within(plan.surface.friction, "friction", 100);
  within(plan.surface.restitution, "restitution", 1);
  within(plan.surface.grip, "grip", 1);
  within(plan.surface.rolling_resistance, "rolling_resistance", 1e6);
  within(plan.surface.spinning_resistance, "spinning_resistance", 1e6);
  if (!is_finite(plan.surface.belt)) refuse(plan, "belt", "a number that is not finite", "finite numbers");
}

void check(const BodyPlan& plan) {
  try {
    check(plan.shape);
  } catch (const InputError& error) {
    refuse(plan, error.fault().key.c_str(), error.fault().found, error.fault().allowed);
  }
  check_pose(plan);
  check_surface(plan);
  if (!is_finite(plan.velocity)) refuse(plan, "velocity", "a number that is not finite", "finite numbers");
  if (!is_finite(plan.spin)) refuse(plan, "spin", "a number that is not finite", "finite numbers");
  if (plan.kind == BodyKind::fixed && (plan.velocity != Vec3{} || plan.spin != Vec3{}))
    refuse(plan, "velocity", "one of a fixed body", "a kinematic or dynamic body, or no velocity and spin");
  const auto at_least_zero = [&](double value, const char* key, bool finite = true) {
    if (!(value >= 0) || (finite && !std::isfinite(value))) refuse(plan, key, fmt::format("{}", value), "0 or more");
  };
  at_least_zero(plan.linear_damping, "linear_damping"), at_least_zero(plan.angular_damping, "angular_damping");
  at_least_zero(plan.speed_limit, "speed_limit", false), at_least_zero(plan.spin_limit, "spin_limit", false);
  at_least_zero(plan.mass, "mass");
  if (!(plan.density > 0) || !std::isfinite(plan.density))
    refuse(plan, "density", fmt::format("{}", plan.density), "more than 0 kg/m3");
  if (!std::isfinite(plan.gravity_scale))
    refuse(plan, "gravity_scale", "a number that is not finite", "a finite number");
  if (plan.own_gravity && !is_finite(*plan.own_gravity))
    refuse(plan, "own_gravity", "a number that is not finite", "finite numbers");
  if (plan.centre_of_mass && !is_finite(*plan.centre_of_mass))
    refuse(plan, "centre_of_mass", "a number that is not finite", "finite numbers");
  if (plan.inertia) {
    for (int k = 0; k < 3; ++k) {
      if (!((*plan.inertia)[k] > 0) || !std::isfinite((*plan.inertia)[k]))
        refuse(plan, "inertia", fmt::format("{}", (*plan.inertia)[k]), "more than 0 kg m2");
    }
  }
  if (plan.one_way && !(std::abs(norm(*plan.one_way) - 1) < 1e-6))
    refuse(plan, "one_way", fmt::format("length {}", norm(*plan.one_way)), "a unit vector");
}

/// The least moment as a share of the most: a rod 100 times as long as thick. Thinner ones turn about their
/// length so easily that a contact a hair beside it would throw them about.
constexpr double thinnest = 1e-4;

void set_mass_properties(Body& body, const BodyPlan& plan) {
  auto solid = mass_properties(plan.shape, plan.density);
  if (!solid) {
    if (plan.mass == 0 || !plan.inertia)
      refuse(plan, "shape", "a dynamic body of a shape without volume", "a solid shape, or both mass and inertia");
    solid = MassProperties{plan.mass, {}, Mat3::Identity()};
  }
  if (plan.mass > 0) solid->inertia *= plan.mass / solid->mass, solid->mass = plan.mass;
  if (!(solid->mass > 0) || !std::isfinite(solid->mass))
    refuse(plan, "mass", fmt::format("{}", solid->mass), "more than 0 kg, by mass or by density and size");
  body.mass = solid->mass;
  body.local_centre = plan.centre_of_mass.value_or(solid->centre);
  if (plan.inertia) {
    body.moments = *plan.inertia;
    body.principal = {};
  } else {
    const Mat3& m = solid->inertia;
    const double across = std::abs(m(0, 1)) + std::abs(m(0, 2)) + std::abs(m(1, 2));
    if (across <= 1e-12 * m.trace()) {  // as it lies
      body.moments = {m(0, 0), m(1, 1), m(2, 2)};
      body.principal = {};
    } else {
      const Eigen::SelfAdjointEigenSolver<Mat3> solved(m);
      Mat3 axes = solved.eigenvectors();
      if (axes.determinant() < 0) axes.col(2) *= -1;
      body.moments = from_eigen(Eigen::Vector3d(solved.eigenvalues()));
      body.principal = normalised(from_eigen(Eigen::Quaterniond(axes)));
    }
  }
  const double most = std::max({body.moments.x, body.moments.y, body.moments.z});
  if (!(most > 0) || !std::isfinite(most))
    refuse(plan, "inertia", fmt::format("{}", most), "more than 0 kg m2, by mass and size or given");
  body.moments = max(body.moments, Vec3{thinnest, thinnest, thinnest} * most);
}

double reach_of(const Shape& shape, const Vec3& centre) {
  double reach = 0;
  std::visit(
      [&](const auto& s) {
        if constexpr (requires { s->bounds(); }) {
          const Bounds& b = s->bounds();
          reach = norm(max(abs(b.low - centre), abs(b.high - centre)));
        } else {
          const PlacedConvex placed(s, Pose{});
          const Convex view = placed.view();
          for (const Vec3& p : view.points) reach = std::max(reach, norm(p - centre) + view.rim);
        }
      },
      shape);
  return reach;
}

std::size_t hash_of(const Shape& shape) {
  StateHash hash;
  hash.add(static_cast<std::uint64_t>(shape.index()));
  std::visit(Overloaded{[&](const Sphere& s) { hash.add(s.radius); },
                        [&](const Capsule& c) { hash.add(c.radius), hash.add(c.half_length); },
                        [&](const Box& b) { hash.add(b.half_extents); },
                        [&](const Cylinder& c) { hash.add(c.radius), hash.add(c.half_height); },
                        [&](const auto& ref) { hash.add(reinterpret_cast<std::uint64_t>(ref.get())); }},
             shape);
  return hash.value();
}

bool same(const Shape& a, const Shape& b) {
  if (a.index() != b.index()) return false;
  return std::visit(
      [&](const auto& s) {
        using S = std::remove_cvref_t<decltype(s)>;
        const S& t = std::get<S>(b);
        if constexpr (std::is_same_v<S, Sphere>)
          return s.radius == t.radius;
        else if constexpr (std::is_same_v<S, Capsule>)
          return s.radius == t.radius && s.half_length == t.half_length;
        else if constexpr (std::is_same_v<S, Box>)
          return s.half_extents == t.half_extents;
        else if constexpr (std::is_same_v<S, Cylinder>)
          return s.radius == t.radius && s.half_height == t.half_height;
        else
          return s == t;
      },
      a);
}

Sym3 inverse_inertia_of(const Body& body) {
  const Vec3 free{body.locks & lock::turn_x ? 0.0 : 1.0, body.locks & lock::turn_y ? 0.0 : 1.0,
                  body.locks & lock::turn_z ? 0.0 : 1.0};
  const Quat axes = body.pose.orientation * body.principal;
  if (free == Vec3{1, 1, 1}) return turned_diagonal(axes, {1 / body.moments.x, 1 / body.moments.y, 1 / body.moments.z});
  return inverse_of_free(turned_diagonal(axes, body.moments), body.locks);
}

}  // namespace

World::World() {
  static std::atomic<std::uint64_t> worlds{0};
  number_ = ++worlds;
}

std::uint32_t World::shape_number(const Shape& shape) {
  const std::size_t hash = hash_of(shape);
  const auto [first, last] = shape_numbers_.equal_range(hash);
  for (auto at = first; at != last; ++at) {
    if (same(shapes_[at->second], shape)) return at->second;
  }
  const auto number = static_cast<std::uint32_t>(shapes_.size());
  shapes_.push_back(shape);
  shape_numbers_.emplace(hash, number);
  return number;
}

std::uint32_t World::name_number(const std::string& name) {
  const auto [at, fresh] = name_numbers_.try_emplace(name, static_cast<std::uint32_t>(names_.size()));
  if (fresh) names_.push_back(name);
  return at->second;
}

void World::set_bounds(Body& body) {
  state_.tree.move(body.leaf,
                   bounds(shapes_[body.shape], body.pose).grown(body.kind == BodyKind::fixed ? 0 : 0.03 * scale_));
  body.centre = to_world(body.pose, body.local_centre);
}

BodyId World::add(BodyPlan plan) {
  check(plan);
  Body fresh;
  fresh.kind = plan.kind;
  if (plan.kind == BodyKind::dynamic) set_mass_properties(fresh, plan);
  std::uint32_t index = 0;
  if (state_.free_bodies.empty()) {
    index = static_cast<std::uint32_t>(state_.bodies.size());
    state_.bodies.emplace_back();
  } else {
    index = state_.free_bodies.back();
    state_.free_bodies.pop_back();
  }
  fresh.generation = state_.bodies[index].generation;
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
  fresh.layers = plan.layers, fresh.meets = plan.meets, fresh.group = plan.group;
  fresh.locks = plan.locks;
  fresh.sensor = plan.sensor, fresh.reports = plan.reports, fresh.can_sleep = plan.can_sleep;
  fresh.inner = inner_radius(plan.shape);
  fresh.reach = reach_of(plan.shape, fresh.local_centre);
  fresh.shape = shape_number(plan.shape);
  fresh.name = name_number(plan.name);
  fresh.alive = true;
  fresh.leaf = state_.tree.insert(bounds(plan.shape, plan.pose), index);
  state_.bodies[index] = fresh;
  ++state_.alive;
  lists_changed_ = true;
  newcomers_.push_back(index);  // its pairs are looked for in the next step
  return {index, fresh.generation};
}

bool World::remove(BodyId id) {
  if (!alive(id)) return false;
  const std::uint32_t index = id.index;
  wake_slot(index);
  wake_touching(index);
  for (std::uint32_t j = 0; j < state_.joints.size(); ++j) {
    if (state_.joints[j].alive && (state_.joints[j].a == index || state_.joints[j].b == index)) break_joint(j);
  }
  for (std::size_t i = state_.pairs.size(); i-- > 0;) {
    if (state_.pairs[i].a == index || state_.pairs[i].b == index) remove_pair(static_cast<std::uint32_t>(i));
  }
  Body& body = state_.bodies[index];
  state_.tree.remove(body.leaf);
  const std::uint32_t generation = body.generation + 1;
  body = {};
  body.generation = generation;
  state_.free_bodies.push_back(index);
  --state_.alive;
  std::erase(newcomers_, index);
  lists_changed_ = true;
  return true;
}

const World::Body* World::find(BodyId id) const {
  if (id.index >= state_.bodies.size()) return nullptr;
  const Body& body = state_.bodies[id.index];
  return body.alive && body.generation == id.generation ? &body : nullptr;
}

bool World::alive(BodyId id) const { return find(id) != nullptr; }

const World::Body& World::get(BodyId id) const {
  if (const Body* body = find(id)) return *body;
  throw InputError(
      {{}, "body", fmt::format("index {}, generation {}", id.index, id.generation), "a body that is alive", {}});
}

World::Body& World::get(BodyId id) { return const_cast<Body&>(std::as_const(*this).get(id)); }

void World::place(BodyId id, const Pose& pose) {
  Body& body = get(id);
  BodyPlan moved;
  moved.pose = pose;
  moved.name = names_[body.name];
  check_pose(moved);
  wake_slot(id.index);
  wake_touching(id.index);
  body.pose = body.before = pose;
  set_bounds(body);
  body.still_for = 0;
  newcomers_.push_back(id.index);
  wake_touching(id.index);
}

void World::set_motion(BodyId id, const Vec3& velocity, const Vec3& spin) {
  Body& body = get(id);
  need_finite(velocity, "velocity"), need_finite(spin, "spin");
  if (body.kind == BodyKind::fixed)
    throw InputError({{}, "velocity", "one for a fixed body", "a kinematic or dynamic body", {}});
  wake_slot(id.index);
  body.spin = spin;
  body.velocity = velocity + cross(spin, body.centre - body.pose.position);
  active_changed_ = true;
  body.still_for = 0;
}

Vec3 World::velocity(BodyId id) const {
  const Body& body = get(id);
  return body.velocity + cross(body.spin, body.pose.position - body.centre);
}

void World::set_surface(BodyId id, const Surface& surface) {
  BodyPlan plan;
  plan.surface = surface;
  check_surface(plan);
  get(id).surface = surface;
  wake_slot(id.index);
  wake_touching(id.index);
}

void World::set_damping(BodyId id, double linear, double angular) {
  if (!(linear >= 0 && angular >= 0 && std::isfinite(linear) && std::isfinite(angular)))
    throw InputError({{}, "damping", fmt::format("{}, {}", linear, angular), "0 or more", {}});
  Body& body = get(id);
  body.linear_damping = linear, body.angular_damping = angular;
}

void World::set_mass(BodyId id, double mass) {
  if (!(mass > 0) || !std::isfinite(mass))
    throw InputError({{}, "mass", fmt::format("{}", mass), "more than 0 kg", {}});
  Body& body = get(id);
  if (!body.dynamic()) throw InputError({{}, "mass", "one for a body that is not dynamic", "a dynamic body", {}});
  body.moments *= mass / body.mass;
  body.mass = mass;
  wake_slot(id.index);
}

void World::set_gravity_of(BodyId id, double scale, std::optional<Vec3> own) {
  if (!std::isfinite(scale))
    throw InputError({{}, "gravity_scale", "a number that is not finite", "a finite number", {}});
  if (own) need_finite(*own, "own_gravity");
  Body& body = get(id);
  body.gravity_scale = scale;
  body.own_gravity = own.value_or(Vec3{}), body.has_own_gravity = own.has_value();
  wake_slot(id.index);
}

void World::set_layers(BodyId id, std::uint32_t layers, std::uint32_t meets) {
  Body& body = get(id);
  body.layers = layers, body.meets = meets;
  filters_changed_ = true;
  wake_slot(id.index);
  wake_touching(id.index);
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

void World::push(BodyId id, const Vec3& impulse, const Vec3& at) {
  Body& body = get(id);
  need_finite(impulse, "impulse"), need_finite(at, "at");
  if (!body.dynamic()) return;
  push(id, impulse);
  twist(id, cross(at - body.centre, impulse));
}

void World::push(BodyId id, const Vec3& impulse) {
  Body& body = get(id);
  need_finite(impulse, "impulse");
  if (!body.dynamic()) return;
  wake(id);
  const auto along = [&](std::uint8_t bit, double value) { return body.locks & bit ? 0.0 : value / body.mass; };
  body.velocity += {along(lock::move_x, impulse.x), along(lock::move_y, impulse.y), along(lock::move_z, impulse.z)};
}

void World::twist(BodyId id, const Vec3& impulse) {
  Body& body = get(id);
  need_finite(impulse, "impulse");
  if (!body.dynamic()) return;
  wake(id);
  body.spin += inverse_inertia_of(body) * impulse;
}

void World::force(BodyId id, const Vec3& force, const Vec3& at) {
  need_finite(at, "at");
  World::force(id, force);
  torque(id, cross(at - get(id).centre, force));
}

void World::force(BodyId id, const Vec3& force) {
  need_finite(force, "force");
  Body& body = get(id);
  if (!body.dynamic()) return;
  if (force != Vec3{}) wake(id);
  body.force += force;
}

void World::torque(BodyId id, const Vec3& torque) {
  need_finite(torque, "torque");
  Body& body = get(id);
  if (!body.dynamic()) return;
  if (torque != Vec3{}) wake(id);
  body.torque += torque;
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
  if (gravity != field_.uniform) wake_all();
  field_.uniform = gravity;
}

std::uint32_t World::add_zone(const GravityZone& zone) {
  wake_all();
  return field_.add(zone);
}

bool World::change_zone(std::uint32_t zone, const GravityZone& to) {
  wake_all();
  return field_.change(zone, to);
}

bool World::remove_zone(std::uint32_t zone) {
  wake_all();
  return field_.remove(zone);
}

void World::set_group(std::uint32_t group, const GroupRule& rule) {
  if (group == 0) throw InputError({{}, "group", "0", "1 or more: 0 is no group", {}});
  if (!std::isfinite(rule.lift)) throw InputError({{}, "lift", "a number that is not finite", "a finite number", {}});
  const auto known = std::ranges::find(state_.groups, group, &Group::id);
  if (known == state_.groups.end()) {
    state_.groups.push_back({group, rule});
  } else {
    known->rule = rule;
  }
  filters_changed_ = true;
  for (std::uint32_t i = 0; i < state_.bodies.size(); ++i) {
    if (state_.bodies[i].alive && state_.bodies[i].group == group) wake_slot(i);
  }
}

void World::set_pair_rule(std::function<bool(BodyId, BodyId)> rule) {
  pair_rule_ = std::move(rule);
  filters_changed_ = true;
}

void World::set_length_scale(double scale) {
  if (!(scale > 0) || !std::isfinite(scale))
    throw InputError({{}, "length_scale", fmt::format("{}", scale), "more than 0", {}});
  scale_ = scale;
  tolerance_ = 1e-5 * scale;
}

void World::wake_slot(std::uint32_t index) {
  Body& first = state_.bodies[index];
  if (!first.asleep) return;
  std::uint32_t at = index;
  do {  // all that went to sleep together
    Body& body = state_.bodies[at];
    const std::uint32_t next = body.next_asleep;
    body.asleep = false;
    body.still_for = 0;
    body.next_asleep = none;
    at = next;
  } while (at != index && at != none);
  lists_changed_ = true;
}

void World::wake_touching(std::uint32_t index) {
  for (const Pair& pair : state_.pairs) {
    if (pair.a == index || pair.b == index) wake_slot(pair.a == index ? pair.b : pair.a);
  }
}

void World::wake_all() {
  for (std::uint32_t i = 0; i < state_.bodies.size(); ++i) wake_slot(i);
}

ContactFacts World::contact_facts(const Pair& pair, std::uint8_t k) const {
  const Contact& contact = state_.contacts[pair.first + k];
  ContactFacts facts{id_of(pair.a), id_of(pair.b), contact.normal, {}};
  for (std::uint32_t i = 0; i < contact.count; ++i) {
    const ContactPoint& p = contact.points[i];
    facts.points.push_back({p.point, p.separation, p.force, p.friction});
  }
  return facts;
}

void World::save(Snapshot& into) const {
  const auto size_of = [](const auto& item) {
    if constexpr (requires { item.size(); }) {
      return sizeof(std::uint64_t) + item.size() * sizeof(item[0]);
    } else {
      return sizeof(item);
    }
  };
  std::size_t bytes = 0;
  const auto each = [&](auto&& visit) {
    State::each(state_, visit);
    visit(field_.zones_), visit(field_.uniform), visit(field_.next_), visit(newcomers_), visit(lists_changed_),
        visit(filters_changed_);
  };
  each([&](const auto& item) { bytes += size_of(item); });
  if (into.data_.size() < bytes) into.data_.resize(bytes);
  std::byte* at = into.data_.data();
  each([&](const auto& item) {
    if constexpr (requires { item.size(); }) {
      static_assert(std::is_trivially_copyable_v<std::remove_cvref_t<decltype(item[0])>>);
      const std::uint64_t count = item.size();
      std::memcpy(at, &count, sizeof count);
      if (count > 0) std::memcpy(at + sizeof count, item.data(), count * sizeof(item[0]));
    } else {
      std::memcpy(at, &item, sizeof item);
    }
    at += size_of(item);
  });
  into.used_ = bytes;
  into.world_ = number_;
}

void World::restore(const Snapshot& from) {
  if (from.world_ != number_)
    throw InputError(
        {{}, "snapshot", from.used_ == 0 ? "an empty one" : "one of another world", "one that this world saved", {}});
  const std::byte* at = from.data_.data();
  const auto read = [&](auto& item) {
    if constexpr (requires { item.size(); }) {
      std::uint64_t count = 0;
      std::memcpy(&count, at, sizeof count);
      at += sizeof count;
      item.resize(count);
      if (count > 0) std::memcpy(item.data(), at, count * sizeof(item[0]));
      at += count * sizeof(item[0]);
    } else {
      std::memcpy(&item, at, sizeof item);
      at += sizeof item;
    }
  };
  State::each(state_, read);
  read(field_.zones_), read(field_.uniform), read(field_.next_), read(newcomers_), read(lists_changed_),
      read(filters_changed_);
  active_changed_ = true;
  events_.clear();
  broken_.clear();
}

void World::add_to(StateHash& hash) const {
  for (const Body& body : state_.bodies) {
    if (!body.alive || body.kind == BodyKind::fixed) continue;
    hash.add(body.pose.position), hash.add(body.pose.orientation), hash.add(body.centre);
    hash.add(body.velocity), hash.add(body.spin);
    hash.add(static_cast<std::uint64_t>(body.asleep));
  }
  for (const Pair& pair : state_.pairs) {
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = state_.contacts[pair.first + k];
      hash.add(contact.normal);
      for (std::uint32_t i = 0; i < contact.count; ++i)
        hash.add(contact.points[i].hold), hash.add(contact.points[i].separation);
    }
  }
  for (const Joint& joint : state_.joints) {
    if (joint.alive) hash.add(joint.hold), hash.add(joint.hold_torque), hash.add(joint.turns);
  }
}

}  // namespace jugend
