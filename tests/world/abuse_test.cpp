// Rubbish in: no NaN, no growth of energy, no hang; or a refusal by name.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>

#include "../support/watched.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

bool all_finite(const World& world) {
  bool fine = true;
  world.for_each([&](BodyId id) {
    fine &= is_finite(world.pose(id).position) && is_finite(world.velocity(id)) && is_finite(world.spin(id)) &&
            std::isfinite(world.pose(id).orientation.w);
  });
  return fine;
}

TEST(Abuse, BodiesMadeInsideOneAnotherComeApartGently) {
  Yard yard;
  yard.floor();
  for (int i = 0; i < unless_watched(60, 20); ++i) yard.crate({0.01 * (i % 3), 0.5, 0.01 * (i % 5)}, 1 + i % 7);
  double fastest = 0;
  yard.run(5, 60, [&] {
    yard.world.for_each([&](BodyId id) { fastest = std::max(fastest, norm(yard.world.velocity(id))); });
  });
  EXPECT_TRUE(all_finite(yard.world));
  EXPECT_LT(fastest, 20);
}

TEST(Abuse, MassRatiosOfAMillion) {
  for (const bool heavy_on_top : {true, false}) {
    Yard yard;
    yard.floor();
    const BodyId low = yard.crate({0, 0.3, 0}, heavy_on_top ? 0.01 : 1e4),
                 high = yard.crate({0, 0.9, 0}, heavy_on_top ? 1e4 : 0.01);
    yard.world.add(JointPlan{.kind = JointKind::distance,
                             .a = yard.crate({3, 2, 0}, 0.01),
                             .b = yard.crate({3, 1, 0}, 1e4),
                             .at = {3, 2, 0},
                             .at_b = {3, 1, 0},
                             .low = 1,
                             .high = 1});
    const double start = yard.energy();
    double most = start;
    yard.run(5, 60, [&] { most = std::max(most, yard.energy()); });
    EXPECT_TRUE(all_finite(yard.world));
    EXPECT_LT(most, start + 0.02 * std::abs(start));
    EXPECT_GT(yard.world.pose(low).position.y, -0.2);
    EXPECT_GT(yard.world.pose(high).position.y, 0);
  }
}

TEST(Abuse, JointsThatContradictEachOther) {
  Yard yard;
  const BodyId a = yard.crate({0, 2, 0}), b = yard.crate({2, 2, 0});
  yard.world.add(
      JointPlan{.kind = JointKind::distance, .a = a, .b = b, .at = {0, 2, 0}, .at_b = {2, 2, 0}, .low = 1, .high = 1});
  yard.world.add(
      JointPlan{.kind = JointKind::distance, .a = a, .b = b, .at = {0, 2, 0}, .at_b = {2, 2, 0}, .low = 3, .high = 3});
  yard.world.add(JointPlan{.kind = JointKind::ball, .a = a, .at = {0, 2, 0}});
  yard.world.add(JointPlan{.kind = JointKind::fixed, .a = b, .at = {2, 2, 0}});
  yard.world.add(JointPlan{.kind = JointKind::hinge, .a = a, .b = b, .at = {5, 2, 0}, .axis = {1, 0, 0}});
  const double start = yard.energy();
  double most = start;
  yard.run(20, 60, [&] { most = std::max(most, yard.energy()); });
  EXPECT_TRUE(all_finite(yard.world));
  EXPECT_LT(most, start + 1e-6 * std::abs(start));
  EXPECT_LT(norm(yard.world.pose(a).position), 20);
}

TEST(Abuse, NeedlesGrainsAndPlanets) {
  Yard yard;
  yard.floor();
  yard.world.add({.shape = Box{{2, 1e-3, 1e-3}},
                  .pose = {{0, 1, 0}, rotation({0, 0, 0.3})},
                  .kind = BodyKind::dynamic,
                  .spin = {300, 5, 5}});
  yard.world.add({.shape = Sphere{1e-4}, .pose = {{3, 0.5, 0}, {}}, .kind = BodyKind::dynamic});
  yard.world.add({.shape = Box{{1e-4, 1e-4, 1e-4}}, .pose = {{3.5, 0.5, 0}, {}}, .kind = BodyKind::dynamic});
  yard.world.add(
      {.shape = Capsule{0.1, 0}, .pose = {{4, 0.5, 0}, {}}, .kind = BodyKind::dynamic, .inertia = Vec3{1e-12, 5, 5}});
  Yard huge;
  huge.floor();
  const BodyId planet = huge.world.add({.shape = Sphere{5000}, .pose = {{0, 5010, 0}, {}}, .kind = BodyKind::dynamic});
  huge.run(6, 60);
  EXPECT_NEAR(huge.world.pose(planet).position.y, 5000, 0.01);
  yard.run(6, 60);
  EXPECT_TRUE(all_finite(yard.world));
  yard.world.for_each([&](BodyId id) {
    if (yard.world.mass(id) > 0) {
      EXPECT_LT(norm(yard.world.velocity(id)), 70) << id.index;
      EXPECT_GT(yard.world.centre_of_mass(id).y, -1) << id.index;
    }
  });
}

TEST(Abuse, TicksOfAMicrosecondAndOfAQuarterSecond) {
  for (const double dt : {1e-6, 0.25}) {
    Yard yard;
    yard.floor();
    std::vector<BodyId> crates;
    for (int i = 0; i < 5; ++i) crates.push_back(yard.crate({0, 0.3 + 0.6 * i, 0}));
    const BodyId ball = yard.ball({2, 3, 0}, 0.2, {.restitution = 0.5});
    const double start = yard.energy();
    for (int i = 0; i < (dt < 1e-3 ? 3000 : 40); ++i) yard.world.step(dt);
    EXPECT_TRUE(all_finite(yard.world));
    EXPECT_LT(yard.energy(), start + 1e-6 * std::abs(start));
    EXPECT_NEAR(yard.world.pose(crates[4]).position.y, 2.7, 2e-3);
    EXPECT_GT(yard.world.pose(ball).position.y, 0.19);
  }
}

TEST(Abuse, PlanarAndLockedBodiesStayWhereTheyMust) {
  Yard yard;
  yard.floor();
  Random random(2);
  std::vector<BodyId> flat;
  for (int i = 0; i < 20; ++i)
    flat.push_back(yard.world.add({.shape = Box{{0.2, 0.2, 0.2}},
                                   .pose = {{random.uniform(-0.5, 0.5), 0.5 + 0.45 * i, 0}, {}},
                                   .kind = BodyKind::dynamic,
                                   .velocity = {0, 0, 3},
                                   .locks = lock::planar}));
  const BodyId upright = yard.world.add(
      {.shape = Capsule{0.3, 0.6}, .pose = {{4, 0.9, 0}, {}}, .kind = BodyKind::dynamic, .locks = lock::upright});
  yard.world.push(upright, {60, 0, 20}, {4, 1.6, 0.1});
  yard.run(5, 60);
  for (const BodyId id : flat) {
    EXPECT_EQ(yard.world.pose(id).position.z, 0);
    EXPECT_NEAR(rotate(yard.world.pose(id).orientation, {0, 0, 1}).z, 1, 1e-9);
  }
  EXPECT_NEAR(rotate(yard.world.pose(upright).orientation, {0, 1, 0}).y, 1, 1e-9);
  EXPECT_LT(yard.world.pose(upright).position.y, 0.95);
}

TEST(Abuse, BadBodiesAndCallsAreRefusedByName) {
  World world;
  const auto key_of = [&](BodyPlan plan) -> std::string {
    try {
      world.add(std::move(plan));
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "none";
  };
  EXPECT_EQ(key_of({.shape = Sphere{0}}), "radius");
  EXPECT_EQ(key_of({.shape = Cylinder{1, -1}}), "half_height");
  EXPECT_EQ(key_of({.shape = Box{{1, NAN, 1}}, .name = "raft"}), "body 'raft': half_extents");
  EXPECT_EQ(key_of({.shape = Sphere{}, .pose = {{0, INFINITY, 0}, {}}}), "position");
  EXPECT_EQ(key_of({.shape = Sphere{}, .pose = {{}, {2, 0, 0, 0}}}), "orientation");
  EXPECT_EQ(key_of({.shape = Sphere{}, .velocity = {1, 0, 0}}), "velocity");
  EXPECT_EQ(key_of({.shape = Sphere{}, .surface = {.friction = -1}}), "friction");
  EXPECT_EQ(key_of({.shape = Sphere{}, .kind = BodyKind::dynamic, .density = 0}), "density");
  EXPECT_EQ(key_of({.shape = Sphere{}, .kind = BodyKind::dynamic, .mass = -3}), "mass");
  EXPECT_EQ(key_of({.shape = Sphere{1e-160}, .kind = BodyKind::dynamic}), "mass");
  EXPECT_EQ(key_of({.shape = Sphere{}, .kind = BodyKind::dynamic, .inertia = Vec3{1, 0, 1}}), "inertia");
  EXPECT_EQ(key_of({.shape = Sphere{}, .kind = BodyKind::dynamic, .linear_damping = -1}), "linear_damping");
  EXPECT_EQ(key_of({.shape = Sphere{}, .one_way = Vec3{0, 2, 0}}), "one_way");
  EXPECT_EQ(key_of({.shape = std::make_shared<Mesh>(bumpy_mesh(2, 1, 0)), .kind = BodyKind::dynamic}), "shape");
  EXPECT_EQ(key_of({.shape = HullRef{}}), "shape");
  const BodyId ball = world.add({.shape = Sphere{}, .kind = BodyKind::dynamic});
  EXPECT_THROW(world.push(ball, {NAN, 0, 0}), InputError);
  EXPECT_THROW(world.force(ball, {0, INFINITY, 0}, {}), InputError);
  EXPECT_THROW(world.step(-1), InputError);
  EXPECT_THROW(world.step(NAN), InputError);
  EXPECT_THROW(world.step(11), InputError);
  EXPECT_THROW(world.set_threads(0), InputError);
  EXPECT_THROW(world.set_length_scale(0), InputError);
  EXPECT_THROW(world.add_zone({.size = {0, 1, 1}}), InputError);
  world.remove(ball);
  EXPECT_THROW(world.push(ball, {1, 0, 0}), InputError);
  EXPECT_TRUE(all_finite(world));
}

}  // namespace
}  // namespace jugend::testing
