// Islands: what cannot be reached cannot matter, to the last bit; and what flies alone goes where it must.
#include <gtest/gtest.h>

#include <jugend/world/world.hpp>
#include <vector>

#include "../support/any_value.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 120, 240};

/// A heap at a place: a few bodies of any kind above one another, some joined, some on a board that moves, some of
/// which fly off.
struct Heap {
  std::vector<BodyId> bodies;
  Heap(World& world, std::uint32_t seed, const Vec3& at) {
    Random random(seed);
    const auto add = [&](BodyPlan plan) {
      plan.pose.position += at;
      bodies.push_back(world.add(plan));
    };
    add({.shape = Box{{3, 0.5, 3}}, .pose = {{0, -0.5, 0}, {}}});
    if (random.below(2) == 0) {
      add({.shape = Box{{1, 0.1, 1}}, .pose = {{0, 0.15, 0}, {}}, .kind = BodyKind::kinematic});
      world.set_motion(bodies.back(), {random.uniform(-0.5, 0.5), 0, 0}, {0, random.uniform(-1, 1), 0});
    }
    const auto count = 1 + random.below(6);
    for (std::uint32_t i = 0; i < count; ++i) {
      const double x = random.uniform(-0.3, 0.3), z = random.uniform(-0.3, 0.3);
      const Vec3 axis = random.direction();
      BodyPlan plan{.pose = {{x, 0.6 + 0.7 * i, z}, rotation(axis * random.uniform(0, 1))},
                    .kind = BodyKind::dynamic,
                    .mass = random.uniform(1, 50)};
      plan.surface.restitution = random.below(3) == 0 ? random.uniform(0, 1) : 0;
      plan.can_sleep = random.below(2) == 0;
      if (random.below(3) == 0) {
        plan.shape = Sphere{random.uniform(0.1, 0.3)};
      } else {
        const double size = random.uniform(0.1, 0.3);
        plan.shape = Box{{size, random.uniform(0.1, 0.3), size}};
      }
      add(plan);
      const Vec3 thrown = random.point(random.below(3) == 0 ? 4 : 0.5);
      world.set_motion(bodies.back(), thrown, random.point(3));
    }
    if (count > 1 && random.below(2) == 0) {
      JointPlan joint;
      joint.a = bodies[bodies.size() - 2], joint.b = bodies.back(), joint.kind = JointKind::ball;
      joint.at = world.pose(bodies.back()).position;
      world.add(joint);
    }
  }
};

TEST(Islands, MoveAlikeToTheLastBitWhateverElseThereIs) {
  for (std::uint32_t scene = 0; scene < static_cast<std::uint32_t>(scenes_of(40)); ++scene) {
    Random random(9000 + scene);
    const std::uint32_t count = 2 + random.below(12);
    const double dt = 1 / any_rate[random.below(4)];
    World all;
    all.set_threads(1 + static_cast<int>(random.below(3)));
    std::vector<Heap> heaps;
    for (std::uint32_t k = 0; k < count; ++k) heaps.emplace_back(all, 77 * scene + k, Vec3{60.0 * k, 0, 0});
    const std::uint32_t one = random.below(count);
    World alone;
    const Heap heap(alone, 77 * scene + one, Vec3{60.0 * one, 0, 0});
    for (double time = 0; time < 2; time += dt) all.step(dt), alone.step(dt);
    for (std::size_t i = 0; i < heap.bodies.size(); ++i) {
      const BodyId here = heap.bodies[i], there = heaps[one].bodies[i];
      ASSERT_EQ(alone.pose(here).position, all.pose(there).position) << "scene " << scene << ", body " << i;
      ASSERT_EQ(alone.pose(here).orientation, all.pose(there).orientation) << "scene " << scene << ", body " << i;
      ASSERT_EQ(alone.velocity(here), all.velocity(there)) << "scene " << scene << ", body " << i;
    }
  }
}

/// One that is too large for a thread alone, beside many that are small.
TEST(Islands, MoveAlikeOnAnyNumberOfThreads) {
  std::uint64_t hash = 0;
  for (const int threads : {1, 2, 3}) {
    World world;
    world.set_threads(threads);
    world.add({.shape = Box{{50, 1, 50}}, .pose = {{0, -1, 0}, {}}});
    const auto block = [&](int side, const Vec3& at) {
      for (int i = 0; i < side * side * side; ++i) {
        const Vec3 place{0.2 * (i % side), 0.1 + 0.2 * (i / side % side), 0.2 * (i / side / side)};
        world.add({.shape = Box{{0.1, 0.1, 0.1}}, .pose = {at + place, {}}, .kind = BodyKind::dynamic});
      }
    };
    block(unless_watched(9, 5), {0, 0, 0});
    for (int k = 0; k < 20; ++k) block(2, {3.0 + k, 0.3, 0});
    for (int i = 0; i < 8; ++i) world.step(1.0 / 60);
    StateHash now;
    world.add_to(now);
    if (threads == 1) hash = now.value();
    EXPECT_EQ(now.value(), hash) << threads;
  }
}

/// A body that nothing touches takes few steps a tick: as few as keep it where many steps lead it.
TEST(Islands, WhatFliesGoesWhereManyStepsLead) {
  Random random(51);
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    BodyPlan plan{.kind = BodyKind::dynamic, .mass = random.uniform(1, 100)};
    const Vec3 half{random.uniform(0.05, 0.5), random.uniform(0.05, 0.5), random.uniform(0.05, 0.5)};
    plan.shape = Box{half};
    plan.linear_damping = random.below(2) == 0 ? 0 : std::exp(random.uniform(-4, 2));
    plan.angular_damping = random.below(2) == 0 ? 0 : std::exp(random.uniform(-4, 2));
    const Vec3 velocity = random.point(30), spin = random.point(15);
    const Vec3 force = random.point(random.below(2) * 20 * plan.mass), torque = random.point(random.below(2) * 0.2);
    const auto end = [&](double hz) {
      World world;
      const BodyId body = world.add(plan);
      world.set_motion(body, velocity, spin);
      for (int i = 0; i < std::lround(hz); ++i) {
        world.force(body, force), world.torque(body, torque * norm(half) * plan.mass);
        world.step(1 / hz);
      }
      return world.pose(body);
    };
    const Pose truth = end(6000);
    for (const double hz : any_rate) {
      const Pose now = end(hz);
      EXPECT_LT(norm(now.position - truth.position), 1e-3 * (1 + norm(truth.position))) << scene << " at " << hz;
      EXPECT_LT(norm(rotation_vector(now.orientation * conjugate(truth.orientation))), 0.02 + 0.01 * norm(spin))
          << scene << " at " << hz;
    }
  }
}

}  // namespace
}  // namespace jugend::testing
