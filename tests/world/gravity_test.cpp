// Gravity of the world, of a body, of a group, and of places.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

double fallen(World& world, BodyId id, double seconds) {
  const double start = world.pose(id).position.y;
  for (int i = 0; i < std::lround(seconds * 60); ++i) world.step(1.0 / 60);
  return start - world.pose(id).position.y;
}

TEST(Gravity, ABodyMayHaveItsOwnOrAShare) {
  Yard yard;
  const BodyId plain = yard.ball({0, 0, 0}), half = yard.ball({2, 0, 0}), own = yard.ball({4, 0, 0});
  yard.world.set_gravity_of(half, 0.5);
  yard.world.set_gravity_of(own, 1, Vec3{0, -1.62, 0});
  yard.run(2, 60);
  EXPECT_NEAR(-yard.world.pose(plain).position.y, 2 * g, 1e-6);
  EXPECT_NEAR(-yard.world.pose(half).position.y, g, 1e-6);
  EXPECT_NEAR(-yard.world.pose(own).position.y, 2 * 1.62, 1e-6);
  yard.world.set_gravity({0, -2 * g, 0});
  const double before = yard.world.velocity(own).y;
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.velocity(own).y - before, -1.62, 1e-9) << "the world's is doubled; its own is kept";
}

TEST(Gravity, ALiftActsOnEveryPartOfAGroupInProportionToMass) {
  Yard yard;
  const std::vector<BodyId> cart = add_cart(yard.world, {0, 10, 0}, 5);
  yard.world.set_group(5, {.lift = 1 - 1.62 / g});
  EXPECT_NEAR(fallen(yard.world, cart[0], 2), 0.5 * 1.62 * 4, 1e-3);
  EXPECT_NEAR(yard.world.pose(cart[1]).position.y, yard.world.pose(cart[0]).position.y - 0.1, 1e-4)
      << "nothing pulls at the axles";
  yard.world.set_group(5, {.lift = 1});
  const double speed = yard.world.velocity(cart[0]).y;
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.velocity(cart[0]).y, speed, 1e-6) << "it floats on";
}

TEST(Gravity, ZonesReplaceScaleAddPullAndBlendByPriority) {
  World world;
  world.add_zone({.size = {2, 2, 2}, .effect = ZoneEffect::scale, .strength = 1.0 / 3, .blend = 1});
  EXPECT_NEAR(world.gravity({0, 0, 0}).y, -g / 3, 1e-12);
  EXPECT_NEAR(world.gravity({3, 0, 0}).y, -g, 1e-12);
  EXPECT_NEAR(world.gravity({1.5, 0, 0}).y, -g * (1 - 0.5 * 2 / 3), 1e-12) << "half way in";
  double before = world.gravity({2, 0, 0}).y;
  for (double x = 2; x > 0.9; x -= 0.01) {
    EXPECT_GE(world.gravity({x, 0, 0}).y, before - 1e-12);
    before = world.gravity({x, 0, 0}).y;
  }
  const std::uint32_t wind =
      world.add_zone({.size = {9, 9, 9}, .effect = ZoneEffect::add, .vector = {1, 0, 0}, .priority = 2});
  EXPECT_EQ(world.gravity({0, 0, 0}).x, 1);
  EXPECT_NEAR(world.gravity({0, 0, 0}).y, -g / 3, 1e-12);
  world.add_zone({.form = GravityZone::Form::ball,
                  .size = {1, 0, 0},
                  .effect = ZoneEffect::replace,
                  .vector = {0, 5, 0},
                  .priority = 1});
  EXPECT_EQ(world.gravity({0, 0, 0}).y, 5);
  EXPECT_EQ(world.gravity({0, 0, 0}).x, 1) << "added after it was replaced";
  EXPECT_TRUE(world.remove_zone(wind));
  EXPECT_FALSE(world.remove_zone(wind));
  EXPECT_EQ(world.gravity({0, 0, 0}).x, 0);
  const Vec3 at{50, 0, 0};
  world.add_zone({.form = GravityZone::Form::ball,
                  .size = {40, 0, 0},
                  .pose = {at, {}},
                  .effect = ZoneEffect::towards_centre,
                  .strength = 8,
                  .reference = 10,
                  .falloff = 2});
  EXPECT_NEAR(world.gravity(at + Vec3{0, 20, 0}).y, -2, 1e-12);
  EXPECT_NEAR(world.gravity(at + Vec3{10, 0, 0}).x, -8, 1e-12);
  EXPECT_EQ(norm(world.gravity(at)), 0);
  world.add_zone({.form = GravityZone::Form::capsule,
                  .size = {9, 30, 0},
                  .pose = {{-100, 0, 0}, {}},
                  .effect = ZoneEffect::towards_axis,
                  .strength = 4,
                  .reference = 2,
                  .falloff = 0});
  EXPECT_NEAR(world.gravity({-97, 12, 0}).x, -4, 1e-12);
  EXPECT_NEAR(world.gravity({-97, 12, 0}).y, 0, 1e-12);
}

TEST(Gravity, ThingsFallInAZoneAsTheFieldSaysAndOrbitAPlanet) {
  Yard yard;
  yard.world.set_gravity({0, -g, 0});
  yard.world.add_zone({.size = {5, 50, 5}, .pose = {{20, 0, 0}, {}}, .effect = ZoneEffect::scale, .strength = 1.0 / 3});
  const BodyId outside = yard.ball({0, 0, 0}), inside = yard.ball({20, 0, 0});
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.pose(outside).position.y / yard.world.pose(inside).position.y, 3, 1e-6);

  Yard space;
  space.world.set_gravity({});
  space.world.add_zone({.form = GravityZone::Form::ball,
                        .size = {1000, 0, 0},
                        .effect = ZoneEffect::towards_centre,
                        .strength = 10,
                        .reference = 20,
                        .falloff = 2});
  const BodyId moon = space.ball({40, 0, 0});
  const double speed = std::sqrt(10 * 400 / 40.0), period = 2 * 3.14159265358979 * 40 / speed;
  space.world.set_motion(moon, {0, 0, speed}, {});
  double nearest = 1e9, furthest = 0;
  space.run(2 * period, 60, [&] {
    nearest = std::min(nearest, norm(space.world.pose(moon).position));
    furthest = std::max(furthest, norm(space.world.pose(moon).position));
  });
  EXPECT_NEAR(nearest, 40, 0.2);
  EXPECT_NEAR(furthest, 40, 0.2);
}

}  // namespace
}  // namespace jugend::testing
