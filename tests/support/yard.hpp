// A world with a floor, for tests of bodies: build, step, look.
#pragma once

#include <functional>
#include <jugend/world/world.hpp>
#include <memory>
#include <vector>

#include "random.hpp"

namespace jugend::testing {

inline constexpr double g = 9.80665;

/// Kinetic and potential, J.
inline double energy(const World& world) {
  double sum = 0;
  world.for_each([&](BodyId id) {
    const double mass = world.mass(id);
    if (mass == 0) return;
    const Vec3 at = world.centre_of_mass(id), spin = world.spin(id),
               v = world.velocity(id) + cross(spin, at - world.pose(id).position);
    sum += 0.5 * mass * dot(v, v) + 0.5 * dot(spin, world.inertia(id) * spin) - mass * dot(world.gravity(at), at);
  });
  return sum;
}

struct Yard {
  World world;

  BodyId floor(const Surface& surface = {}) {
    return world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}, .surface = surface});
  }
  /// A slab whose upper face passes through the origin and falls by `angle` towards x.
  BodyId slope(double angle, const Surface& surface = {}) {
    const Quat turn = rotation({0, 0, -angle});
    return world.add({.shape = Box{{300, 1, 20}}, .pose = {rotate(turn, {0, -1, 0}), turn}, .surface = surface});
  }
  BodyId crate(const Vec3& at, double mass = 22, double half = 0.3) {
    return world.add({.shape = Box{{half, half, half}}, .pose = {at, {}}, .kind = BodyKind::dynamic, .mass = mass});
  }
  BodyId ball(const Vec3& at, double radius = 0.25, const Surface& surface = {}) {
    return world.add({.shape = Sphere{radius}, .pose = {at, {}}, .kind = BodyKind::dynamic, .surface = surface});
  }
  /// Ticks for about `seconds`; `each`, where given, is called after each tick.
  void run(double seconds, double hz, const std::function<void()>& each = {}) {
    const int ticks = static_cast<int>(std::lround(seconds * hz));
    for (int i = 0; i < ticks; ++i) {
      world.step(1 / hz);
      if (each) each();
    }
  }
  Vec3 centre_velocity(BodyId id) const {
    return world.velocity(id) + cross(world.spin(id), world.centre_of_mass(id) - world.pose(id).position);
  }
  double energy() const { return testing::energy(world); }
  /// N that press one body, by the contacts with another.
  double pressed(BodyId a, BodyId b) const {
    double sum = 0;
    world.visit_contacts([&](const ContactFacts& c) {
      if (!((c.a == a && c.b == b) || (c.a == b && c.b == a))) return;
      for (const auto& p : c.points) sum += p.force;
    });
    return sum;
  }
  std::uint64_t hash() const {
    StateHash hash;
    world.add_to(hash);
    return hash.value();
  }
};

/// A hull and two hinged wheels, which may touch other carts but not their own hull.
inline std::vector<BodyId> add_cart(World& world, const Vec3& at, std::uint32_t group, const Quat& turn = {}) {
  const Pose pose{at, turn};
  world.set_group(group, {});
  const auto part = [&](const Shape& shape, const Pose& local, double mass) {
    return world.add({.shape = shape,
                      .pose = to_world(pose, local),
                      .kind = BodyKind::dynamic,
                      .surface = {.rolling_resistance = 0.01},
                      .mass = mass,
                      .group = group});
  };
  const BodyId hull = part(Box{{0.5, 0.15, 0.35}}, {{0, 0.35, 0}, {}}, 14);
  std::vector<BodyId> all{hull};
  const Quat across = rotation({1.5707963267948966, 0, 0});
  for (const double side : {-0.42, 0.42}) {
    const BodyId wheel = part(Cylinder{0.25, 0.04}, {{0, 0.25, side}, across}, 3);
    world.add(JointPlan{.kind = JointKind::hinge,
                        .a = wheel,
                        .b = hull,
                        .at = to_world(pose, Vec3{0, 0.25, side}),
                        .axis = rotate(turn, {0, 0, 1}),
                        .damping = 0.2});
    all.push_back(wheel);
  }
  return all;
}

/// A pile of every shape on bumpy ground with a turntable under it, and four carts.
inline void add_mixed_pile(World& world, int count) {
  world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(30, 1.0, 0.4)), .pose = {{-15, 0, -15}, {}}});
  world.add({.shape = Cylinder{1.5, 0.1}, .pose = {{0, 1, 0}, {}}, .kind = BodyKind::kinematic, .spin = {0, 2, 0}});
  const HullRef wedge = std::make_shared<Hull>(std::vector<Vec3>{{-0.2, -0.1, -0.2},
                                                                 {0.25, -0.1, -0.2},
                                                                 {-0.2, -0.1, 0.2},
                                                                 {0.2, -0.1, 0.2},
                                                                 {-0.2, 0.2, -0.15},
                                                                 {-0.15, 0.2, 0.2}});
  const CompoundRef tee = std::make_shared<Compound>(std::vector<Compound::Part>{
      {Box{{0.3, 0.08, 0.1}}, {{0, 0.2, 0}, rotation({0.2, 0, 0.1})}}, {Box{{0.08, 0.2, 0.1}}, {}}});
  const Shape shapes[] = {Box{{0.2, 0.15, 0.25}}, Sphere{0.2}, Capsule{0.12, 0.15}, Cylinder{0.2, 0.1}, wedge, tee};
  Random random(3);
  for (int i = 0; i < count; ++i) {
    const double x = random.uniform(-2, 2), z = random.uniform(-2, 2);
    const Vec3 axis = random.direction();
    world.add({.shape = shapes[i % 6],
               .pose = {{x, 1.5 + 0.04 * i, z}, rotation(axis)},
               .kind = BodyKind::dynamic,
               .surface = {.restitution = i % 5 == 0 ? 0.6 : 0.0}});
  }
  for (std::uint32_t i = 0; i < 4; ++i) add_cart(world, {-4.0 + 2 * i, 3, 3}, i + 1);
}

}  // namespace jugend::testing
