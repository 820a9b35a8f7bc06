#include "energy_law.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/shape/static_tree_walk.hpp>
#include <jugend/world/world.hpp>
#include <vector>

#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::laws {
namespace {

using testing::Random;

constexpr double push_out_speed = 3;  // m/s: what the world parts bodies at that are inside one another

Shape draw_solid(Random& random) {
  const auto size = [&] { return random.uniform(0.05, 0.5); };
  const double a = size(), b = size(), c = size();
  switch (random.below(5)) {
    case 0: return Sphere{a};
    case 1: return Capsule{a, b};
    case 2: return Box{{a, b, c}};
    case 3: return Cylinder{a, b};
    default: {
      std::vector<Vec3> points;
      for (int i = 0; i < 12; ++i) points.push_back(random.point(a));
      return std::make_shared<const Hull>(points);
    }
  }
}

BodyPlan draw_body(Random& random, double room) {
  BodyPlan plan;
  plan.shape = draw_solid(random);
  plan.pose = random.pose(room);
  plan.pose.position.y += room + 0.1;
  plan.kind = BodyKind::dynamic;
  plan.mass = std::pow(10, random.uniform(0, 4));
  if (random.below(4) == 0)
    plan.inertia = Vec3{1, std::pow(10, random.uniform(-4, 0)), 1} * (plan.mass * random.uniform(0.002, 0.1));
  if (random.below(4) == 0) plan.locks = static_cast<std::uint8_t>(random.below(64));
  plan.velocity = random.below(2) == 0 ? random.point(5) : Vec3{};
  plan.spin = random.below(2) == 0 ? random.point(10) : Vec3{};
  for (int k = 0; k < 3; ++k) {
    if (plan.locks & (lock::move_x << k)) plan.velocity[k] = 0;
    if (plan.locks & (lock::turn_x << k)) plan.spin[k] = 0;
  }
  plan.surface.friction = random.uniform(0, 2);
  plan.surface.restitution = random.below(2) == 0 ? random.uniform(0, 1) : 0;
  return plan;
}

/// J that may come of bodies that begin in one another: parted at the push-out speed, and lifted as deep as they lay.
double parting_energy(const World& world, const std::vector<BodyPlan>& plans, const std::vector<BodyId>& bodies) {
  const double strength = norm(world.gravity({}));
  double sum = 0;
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    Filter others;
    others.self = bodies[i];
    visit_parts(plans[i].shape, everywhere, 0.0, [&](const Convex& part, std::uint32_t, double limit) {
      std::array<Overlap, 32> found;
      const Pose& pose = plans[i].pose;
      const PlacedConvex here(part, {rotate(conjugate(pose.orientation), -pose.position), conjugate(pose.orientation)});
      const std::size_t count = std::min(found.size(), world.overlaps(here.view(), 0.002, found, others));
      for (std::size_t k = 0; k < count; ++k) {
        if (found[k].body.index < bodies[i].index && world.mass(found[k].body) > 0)
          continue;  // the other has counted it
        const double own = plans[i].mass, other = world.mass(found[k].body);
        const double lighter = other > 0 ? std::min(own, other) : own, heavier = std::max(own, other);
        sum += 0.5 * lighter * push_out_speed * push_out_speed + heavier * strength * std::max(0.0, found[k].depth);
      }
      return limit;
    });
  }
  return sum;
}

}  // namespace

std::string broken_by_energy(std::uint32_t seed) {
  Random random(seed);
  World world;
  if (random.below(4) == 0) world.set_gravity({});
  const double strength = norm(world.gravity({}));
  const double room = random.uniform(0.3, 2);
  const auto slab = [&](const Vec3& at, const Vec3& half) {
    BodyPlan plan{.shape = Box{half}, .pose = {at, {}}};
    plan.surface.friction = random.uniform(0, 2), plan.surface.restitution = random.uniform(0, 1);
    world.add(plan);
  };
  slab({0, -1, 0}, {20, 1, 20});
  if (random.below(3) == 0) {  // a room, and perhaps a low roof
    for (const double side : {-1.0, 1.0})
      slab({side * (room + 1), 1, 0}, {1, 3, 20}), slab({0, 1, side * (room + 1)}, {20, 3, 1});
    if (random.below(2) == 0) slab({0, 2 * room + 1, 0}, {20, 1, 20});
  }
  std::vector<BodyPlan> plans;
  for (std::uint32_t i = 0, n = 1 + random.below(8); i < n; ++i) plans.push_back(draw_body(random, room));
  std::vector<BodyId> bodies;
  for (const BodyPlan& plan : plans) bodies.push_back(world.add(plan));
  double mass = 0, kinetic = 0;
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    const Vec3& spin = plans[i].spin;
    mass += plans[i].mass;
    kinetic += 0.5 * plans[i].mass * squared_norm(plans[i].velocity) + 0.5 * dot(spin, world.inertia(bodies[i]) * spin);
  }
  const double parted = parting_energy(world, plans, bodies), start = testing::energy(world);
  const double bound = parted + 0.005 * (kinetic + mass * strength * (2 * room + 1));
  const double hz = 30 * (1 + random.below(8));
  double most = 0;
  for (int tick = 0; tick < 1.5 * hz; ++tick) {
    world.step(1 / hz);
    const double made = testing::energy(world) - start;
    if (!std::isfinite(made)) return fmt::format("not finite after tick {} at {} Hz", tick, hz);
    most = std::max(most, made);
  }
  if (most <= bound) return {};
  return fmt::format("{:.3g} J made, {:.3g} allowed; {} bodies of {:.3g} kg, {:.3g} J at the start, {} Hz", most, bound,
                     bodies.size(), mass, kinetic, hz);
}

}  // namespace jugend::laws
