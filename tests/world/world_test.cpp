// Bodies that come, go and move, and queries over all of them.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/world/world.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

TEST(World, QueriesAgreeWithBruteForceWhileBodiesComeGoAndMove) {
  Random random(41);
  World world;
  std::vector<BodyId> alive;
  for (int round = 0; round < 400; ++round) {
    for (int k = 0; k < 3; ++k) {
      const Pose pose = random.pose(8);
      Shape shape = Sphere{random.uniform(0.1, 0.9)};
      if (round % 2) shape = Box{{random.uniform(0.1, 1), random.uniform(0.1, 1), random.uniform(0.1, 1)}};
      alive.push_back(world.add({.shape = shape,
                                 .pose = pose,
                                 .kind = BodyKind::kinematic,
                                 .velocity = random.point(3),
                                 .spin = random.point(2),
                                 .layers = 1u << random.below(3)}));
    }
    if (alive.size() > 120) {
      for (int k = 0; k < 4; ++k) {
        const std::uint32_t i = random.below(static_cast<std::uint32_t>(alive.size()));
        ASSERT_TRUE(world.remove(alive[i]));
        ASSERT_FALSE(world.remove(alive[i]));
        alive.erase(alive.begin() + i);
      }
    }
    world.step(1.0 / 60);
    ASSERT_EQ(world.size(), alive.size());

    const Filter filter{.layers = 1u << random.below(3) | 1u,
                        .ignored = alive[random.below(static_cast<std::uint32_t>(alive.size()))]};
    const Ray ray{random.point(9), random.direction(), random.uniform(1, 20)};
    const PlacedConvex mover = random.convex(9);
    const Vec3 motion = random.direction() * random.uniform(0.1, 6);
    double nearest = 1e300, first = 1e300;
    std::size_t near = 0;
    world.for_each([&](BodyId id) {
      if ((world.layers(id) & filter.layers) == 0 || id == filter.ignored) return;
      if (const auto hit = cast(ray, world.shape(id), world.pose(id))) nearest = std::min(nearest, hit->distance);
      if (const auto hit = sweep(mover.view(), motion, world.shape(id), world.pose(id)))
        first = std::min(first, hit->touch.fraction);
      near += overlaps(mover.view(), 0.3, world.shape(id), world.pose(id), {});
    });
    const auto hit = world.cast(ray, filter);
    ASSERT_EQ(hit.has_value(), nearest < 1e300);
    if (hit) {
      ASSERT_EQ(hit->distance, nearest);
    }
    const auto touch = world.sweep(mover.view(), motion, filter);
    ASSERT_EQ(touch.has_value(), first < 1e300);
    if (touch) {
      ASSERT_EQ(touch->distance, first);
    }
    ASSERT_EQ(world.overlaps(mover.view(), 0.3, {}, filter), near);
  }
}

TEST(World, HandlesGoStaleSafely) {
  World world;
  const BodyId a = world.add({.shape = Sphere{1}});
  ASSERT_TRUE(world.remove(a));
  const BodyId b = world.add({.shape = Sphere{2}});
  EXPECT_EQ(a.index, b.index);
  EXPECT_FALSE(world.alive(a));
  EXPECT_TRUE(world.alive(b));
  EXPECT_THROW(world.place(a, {}), InputError);
  EXPECT_EQ(world.facts(a).mass, 0);
}

TEST(World, KinematicBodiesMoveByTheirVelocityAndSpin) {
  World world;
  const BodyId id = world.add({.shape = Box{}, .kind = BodyKind::kinematic, .velocity = {2, 0, 0}, .spin = {0, 1, 0}});
  for (int i = 0; i < 120; ++i) world.step(1.0 / 60);
  EXPECT_NEAR(world.pose(id).position.x, 4, 1e-9);
  const Vec3 ahead = rotate(world.pose(id).orientation, {1, 0, 0});
  EXPECT_NEAR(ahead.x, std::cos(2), 1e-9);
  EXPECT_NEAR(ahead.z, -std::sin(2), 1e-9);
  const Pose half = world.drawn_pose(id, 0.5);
  EXPECT_NEAR(half.position.x, 4 - 1.0 / 60, 1e-9);
  const Vec3 at = world.facts(id).velocity_at(world.pose(id).position + Vec3{0, 0, 1});
  EXPECT_NEAR(at.x, 2 + 1, 1e-9) << "ω × r";
}

TEST(World, RefusesWhatCannotBe) {
  World world;
  EXPECT_THROW(world.add({.shape = Sphere{-1}}), InputError);
  EXPECT_THROW(world.add({.shape = Sphere{1}, .pose = {{std::nan(""), 0, 0}, {}}}), InputError);
  EXPECT_THROW(world.add({.shape = Sphere{1}, .pose = {{}, {2, 0, 0, 0}}}), InputError);
  EXPECT_THROW(world.add({.shape = Sphere{1}, .velocity = {1, 0, 0}}), InputError);
  EXPECT_THROW(world.add({.shape = Sphere{1}, .surface = {.restitution = 1.5}}), InputError);
  const BodyId id = world.add({.shape = Sphere{1}});
  EXPECT_THROW(world.set_motion(id, {1, 0, 0}, {}), InputError);
  EXPECT_THROW(world.set_gravity({0, std::nan(""), 0}), InputError);
  EXPECT_EQ(world.size(), 1u);
}

TEST(World, AProxyIsSeenAndPushedButTouchesNothing) {
  World world;
  const BodyId proxy = world.add({.shape = Capsule{0.3, 0.5},
                                  .pose = {{0, 1, 0}, {}},
                                  .kind = BodyKind::proxy,
                                  .velocity = {1, 0, 0},
                                  .layers = 8,
                                  .mass = 50,
                                  .locks = lock::turn});
  const BodyId crate =
      world.add({.shape = Box{{0.2, 0.2, 0.2}}, .pose = {{0, 3, 0}, {}}, .kind = BodyKind::dynamic, .mass = 5});
  const auto seen = world.cast({{-5, 1, 0}, {1, 0, 0}, 10}, {});
  ASSERT_TRUE(seen);
  EXPECT_EQ(seen->body, proxy);
  EXPECT_FALSE(world.cast({{-5, 1, 0}, {1, 0, 0}, 10}, {.self = proxy}));
  world.push(proxy, {0, 0, 100});
  world.force(proxy, {7, 0, 0});
  for (int tick = 0; tick < 120; ++tick) world.step(1.0 / 60);
  EXPECT_LT(world.pose(crate).position.y, -10);  // it fell through
  EXPECT_EQ(world.pose(proxy).position, (Vec3{0, 1, 0}));
  EXPECT_EQ(world.velocity(proxy), (Vec3{1, 0, 2}));
  EXPECT_EQ(world.take_push(proxy), (Vec3{0, 0, 100}));
  EXPECT_EQ(world.take_push(proxy), Vec3{});
  EXPECT_EQ(world.take_force(proxy), (Vec3{7, 0, 0}));
  EXPECT_EQ(world.take_force(proxy), Vec3{});
  EXPECT_EQ(world.facts(proxy).mass, 50);
}

/// Whatever a body was before, with another shape it lies as high as one that was made with it.
TEST(World, AnotherShapeHoldsFromTheNextStepOn) {
  const Shape shapes[] = {Sphere{0.4}, Box{{0.3, 0.5, 0.3}}, Cylinder{0.3, 0.2}, Capsule{0.25, 0.3}};
  for (const Shape& first : shapes) {
    for (const Shape& second : shapes) {
      World world;
      world.add({.shape = Box{{9, 1, 9}}, .pose = {{0, -1, 0}, {}}});
      const BodyId body = world.add(
          {.shape = first, .pose = {{0, 0.9, 0}, {}}, .kind = BodyKind::dynamic, .mass = 5, .locks = lock::turn});
      for (int tick = 0; tick < 90; ++tick) world.step(1.0 / 60);
      EXPECT_NEAR(bounds(first, world.pose(body)).low.y, 0, 2e-3);
      world.set_shape(body, second);
      world.place(body, {{0, 0.9, 0}, {}});
      for (int tick = 0; tick < 90; ++tick) world.step(1.0 / 60);
      EXPECT_NEAR(bounds(second, world.pose(body)).low.y, 0, 2e-3);
      EXPECT_EQ(world.mass(body), 5);
    }
  }
  World world;
  const BodyId body = world.add({.shape = Sphere{1}});
  EXPECT_THROW(world.set_shape(body, Sphere{-1}), InputError);
}

TEST(World, AnotherShapeWakesWhatRestsOnTheBody) {
  World world;
  const BodyId shelf = world.add({.shape = Box{{1, 1, 1}}, .pose = {{0, -1, 0}, {}}});
  const BodyId crate = world.add({.shape = Box{{0.3, 0.3, 0.3}}, .pose = {{0, 0.3, 0}, {}}, .kind = BodyKind::dynamic});
  for (int tick = 0; tick < 180; ++tick) world.step(1.0 / 60);
  ASSERT_TRUE(world.asleep(crate));
  world.set_shape(shelf, Box{{1, 0.5, 1}});
  for (int tick = 0; tick < 60; ++tick) world.step(1.0 / 60);
  EXPECT_NEAR(world.pose(crate).position.y, -0.5 + 0.3, 2e-3);
}

/// Whatever shape it was made with, it floats as one of its mass that was made with the second.
TEST(World, AnotherShapeFloatsAsItsOwnVolumeDoes) {
  for (const double half : {0.3, 0.45, 0.6}) {
    const Box second{{half, half, half}};
    const auto depth = [&](bool changed) {
      World world;
      world.add_pool({.half_extents = {9, 4.5, 9}, .pose = {{0, -4.5, 0}, {}}});
      const BodyId body = world.add({.shape = changed ? Shape{Box{{0.2, 0.2, 0.2}}} : Shape{second},
                                     .kind = BodyKind::dynamic,

                                     .mass = 4800 * half * half * half,
                                     .locks = lock::turn});
      if (changed) world.set_shape(body, second);
      for (int tick = 0; tick < 1200; ++tick) world.step(1.0 / 60);
      return world.pose(body).position.y;
    };
    EXPECT_NEAR(depth(true), depth(false), 1e-3) << half;
    EXPECT_NEAR(depth(true), half - 0.6 * 2 * half, 5e-3) << half;
  }
}

}  // namespace
}  // namespace jugend::testing
