// Bodies with locked directions slide, ride and are parted like free ones, along what is left to them.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/world/world.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};

/// Locks that leave the ways along x and y free.
std::uint8_t any_locks(Random& random) {
  return static_cast<std::uint8_t>(random.below(2) * lock::move_z + random.below(8) * lock::turn_x);
}

/// As far as v² / (2 μ g), without a turn: which of its points bears how much is open, and none may pull aside.
TEST(Locked, ACrateSlidesStraightAndAsFarAsFrictionLetsIt) {
  Random random(81);
  for (int i = 0; i < scenes_of(60); ++i) {
    const double hz = any_rate[random.below(4)], friction = random.uniform(0.3, 0.8), speed = random.uniform(1, 6);
    const double half = random.uniform(0.2, 0.5), flat = random.uniform(0.2, 0.6);
    const Surface rough{.friction = friction};
    const std::uint8_t locks = any_locks(random);
    World world;
    world.set_gravity({0, -standard_gravity, 0});
    world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}, .surface = rough});
    const BodyId crate = world.add({.shape = Box{{half, half * flat, half}},
                                    .pose = {{0, half * flat, 0}, rotation({0, random.uniform(0, 3), 0})},
                                    .kind = BodyKind::dynamic,
                                    .surface = rough,
                                    .locks = locks});
    for (double now = 0; now < 0.5; now += 1 / hz) world.step(1 / hz);
    world.set_motion(crate, {speed, 0, 0}, {});
    double turning = 0;
    for (double now = 0; now < 3; now += 1 / hz) {
      world.step(1 / hz);
      turning = std::max(turning, std::abs(world.spin(crate).y));
    }
    const double far = speed * speed / (2 * friction * standard_gravity);
    const auto scene = [&] { return std::to_string(i) + ", locks " + std::to_string(locks); };
    EXPECT_NEAR(world.pose(crate).position.x, far, 1e-3 * far) << scene();
    EXPECT_NEAR(world.pose(crate).position.z, 0, 1e-3 * far) << scene();
    EXPECT_LT(turning, 0.05) << scene();
  }
}

TEST(Locked, ABeltCarriesThemAtItsSpeedAndADiscTurnsThemAtItsSpin) {
  Random random(82);
  for (int i = 0; i < scenes_of(40); ++i) {
    const double hz = any_rate[random.below(4)], speed = random.uniform(1, 12), spin = random.uniform(2, 25);
    const std::uint8_t locks = any_locks(random);
    World world;
    const Surface rough{.friction = 0.9};
    world.add(
        {.shape = Box{{100, 1, 4}}, .pose = {{80, -1, 0}, {}}, .surface = {.friction = 0.9, .belt = {speed, 0, 0}}});
    world.add({.shape = Cylinder{2, 0.5},
               .pose = {{0, -0.5, 50}, {}},
               .kind = BodyKind::kinematic,
               .spin = {0, spin, 0},
               .surface = rough});
    BodyPlan plan{.shape = Box{{0.3, 0.2, 0.3}}, .pose = {{0, 0.2, 0}, {}}, .kind = BodyKind::dynamic};
    plan.surface = rough, plan.locks = locks;
    const BodyId carried = world.add(plan);
    plan.pose.position.z = 50, plan.locks = lock::turn_x | lock::turn_z;
    const BodyId turned = world.add(plan);
    for (double now = 0; now < 4; now += 1 / hz) world.step(1 / hz);
    EXPECT_NEAR(world.velocity(carried).x, speed, 0.01 * speed) << i << ", locks " << static_cast<int>(locks);
    EXPECT_NEAR(world.spin(turned).y, spin, 0.01 * spin) << i;
  }
}

/// The same at rest and on a frame that moves, but for which of eight corners are kept, that a rounding decides.
TEST(Locked, TwoThatOverlapPartOnAMovingFrameAsAtRest) {
  Random random(83);
  for (int i = 0; i < 60; ++i) {
    const auto locks = static_cast<std::uint8_t>(random.below(8) * lock::turn_x);
    const double deep = random.uniform(0.01, 0.25), hz = any_rate[random.below(4)], heavy = random.uniform(1, 5);
    const auto apart_after = [&](const Vec3& frame) {
      World world;
      world.set_gravity({});
      BodyPlan plan{.shape = Box{{0.3, 0.3, 0.3}}, .kind = BodyKind::dynamic, .velocity = frame, .locks = locks};
      const BodyId a = world.add(plan);
      plan.pose.position = {0.6 - deep, 0.02, 0.01}, plan.mass = 200 * heavy;
      const BodyId b = world.add(plan);
      for (double now = 0; now < 1; now += 1 / hz) world.step(1 / hz);
      return world.pose(b).position - world.pose(a).position;
    };
    const Vec3 rest = apart_after({});
    EXPECT_GT(rest.x, 0.6 - 1e-3) << i << ", locks " << static_cast<int>(locks);
    EXPECT_LT(norm(apart_after(random.direction() * random.uniform(1, 40)) - rest), 0.03) << i;
  }
}

/// A slider that can only go along x bears what comes down on it as a shelf would, however light it is: its lock holds.
TEST(Locked, ALightSliderBearsWhatIsHeavyAsAShelfDoes) {
  Random random(82);
  for (int i = 0; i < 80; ++i) {
    const double hz = any_rate[random.below(4)], ratio = std::pow(10, random.uniform(0, 4));
    const Surface rough{.friction = random.uniform(0.6, 1.5)};
    World world;
    world.set_gravity({0, -standard_gravity, 0});
    const double half = random.uniform(0.2, 0.5), high = random.uniform(0.02, 0.5), aside = random.uniform(-0.2, 0.2);
    const BodyId slider = world.add({.shape = Box{{0.3, 0.2, 0.3}},
                                     .pose = {{0, 2, 0}, {}},
                                     .kind = BodyKind::dynamic,
                                     .surface = rough,
                                     .mass = 1,
                                     .locks = lock::move_y | lock::move_z | lock::turn});
    const BodyId heavy = world.add({.shape = Box{{half, half, half}},
                                    .pose = {{aside, 2.2 + half + high, 0}, rotation({0, random.uniform(0, 3), 0})},
                                    .kind = BodyKind::dynamic,
                                    .surface = rough,
                                    .mass = ratio,
                                    .locks = lock::turn});
    for (double now = 0; now < 2; now += 1 / hz) world.step(1 / hz);
    const Vec3 at = world.pose(heavy).position;
    EXPECT_NEAR(at.y, 2.2 + half, 0.01) << i << ": " << ratio << " times as heavy, " << hz << " Hz";
    EXPECT_LT(norm(world.facts(heavy).velocity), 0.01) << i << " " << hz;
    EXPECT_NEAR(at.x, aside, 0.01) << i << " " << hz;
    EXPECT_NEAR(world.pose(slider).position.x, 0, 0.01) << i << " " << hz;
  }
}

/// A light post that cannot go along x stops what a deck carries against it; the deck goes on below.
TEST(Locked, ALightPostStopsWhatADeckCarriesAgainstIt) {
  Random random(83);
  for (int i = 0; i < scenes_of(60); ++i) {
    const double hz = any_rate[random.below(4)], ratio = std::pow(10, random.uniform(0, 3.5));
    const double speed = random.uniform(0.3, 3), half = random.uniform(0.2, 0.5), gap = random.uniform(0.01, 0.5);
    World world;
    world.set_gravity({0, -standard_gravity, 0});
    world.add(
        {.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}, .kind = BodyKind::kinematic, .velocity = {speed, 0, 0}});
    const BodyId post = world.add({.shape = Box{{0.2, 0.4, 0.3}},
                                   .pose = {{0, 0.4, 0}, {}},
                                   .kind = BodyKind::dynamic,
                                   .mass = 1,
                                   .locks = lock::move_x | lock::move_z | lock::turn});
    const BodyId crate = world.add({.shape = Box{{half, half, half}},
                                    .pose = {{-0.2 - half - gap, half, 0}, {}},
                                    .kind = BodyKind::dynamic,
                                    .velocity = {speed, 0, 0},
                                    .mass = ratio,
                                    .locks = lock::turn});
    for (double now = 0; now < 2; now += 1 / hz) world.step(1 / hz);
    EXPECT_NEAR(world.pose(crate).position.x, -0.2 - half, 0.02)
        << i << ": " << ratio << " times as heavy, " << speed << " m/s, " << hz << " Hz";
    EXPECT_NEAR(world.pose(post).position.y, 0.4, 0.02) << i;
  }
}

}  // namespace
}  // namespace jugend::testing
