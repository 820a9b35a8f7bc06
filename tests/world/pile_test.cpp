// Things on top of one another stand, come to rest, and sleep.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/any_value.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

TEST(Pile, TwelveCratesStandAMinuteAndSleep) {
  Yard yard;
  yard.floor();
  std::vector<BodyId> crates;
  for (int i = 0; i < 12; ++i) crates.push_back(yard.crate({0, 0.3 + 0.6 * i, 0}));
  const Vec3 top = yard.world.pose(crates.back()).position;
  double most = 0;
  yard.run(60, 60, [&] { most = std::max(most, norm(yard.world.pose(crates.back()).position - top)); });
  EXPECT_LT(most, 2e-3);
  for (const BodyId id : crates) EXPECT_TRUE(yard.world.asleep(id));
}

TEST(Pile, ATonOnAKilogramStands) {
  Yard yard;
  yard.floor();
  const BodyId light = yard.crate({0, 0.3, 0}, 1), heavy = yard.crate({0, 0.9, 0}, 1000);
  yard.run(60, 60);
  EXPECT_NEAR(yard.world.pose(heavy).position.y, 0.9, 0.05);
  EXPECT_NEAR(yard.world.pose(light).position.y, 0.3, 0.03);
  EXPECT_LT(std::hypot(yard.world.pose(heavy).position.x, yard.world.pose(heavy).position.z), 0.02);
}

TEST(Pile, APyramidOfTwentyRowsStands) {
  Yard yard;
  yard.floor();
  std::vector<BodyId> crates;
  std::vector<Vec3> places;
  for (int row = 0; row < 20; ++row) {
    for (int i = 0; i < 20 - row; ++i) {
      places.push_back({(i - (20 - row) * 0.5) * 0.65, 0.3 + 0.6 * row, 0});
      crates.push_back(yard.crate(places.back()));
    }
  }
  yard.run(20, 60);
  for (std::size_t i = 0; i < crates.size(); ++i) {
    EXPECT_LT(norm(yard.world.pose(crates[i]).position - places[i]), 0.02);
    EXPECT_TRUE(yard.world.asleep(crates[i]));
  }
}

TEST(Pile, ACardHouseOfFiveStoreysStands) {
  // Pairs of cards lean on one another; boards lie across their tops.
  Yard yard;
  yard.floor({.friction = 0.9});
  const double length = 0.5, thick = 0.02, lean = 0.3;
  const double rise = length * std::cos(lean) + thick * std::sin(lean),
               foot = length * std::sin(lean) + thick * std::cos(lean);
  std::vector<BodyId> cards;
  std::vector<Vec3> places;
  const auto card = [&](const Vec3& at, double angle) {
    cards.push_back(yard.world.add({.shape = Box{{thick / 2, length / 2, 0.2}},
                                    .pose = {at, rotation({0, 0, angle})},
                                    .kind = BodyKind::dynamic,
                                    .surface = {.friction = 0.9},
                                    .density = 600}));
    places.push_back(at);
  };
  double y = 0;
  const double stride = 2 * foot + 0.01;
  for (int storey = 0; storey < 5; ++storey) {
    const int tents = 5 - storey;
    for (int i = 0; i < tents; ++i) {
      const double x = (i - 0.5 * (tents - 1)) * stride;
      card({x - foot / 2, y + rise / 2, 0}, -lean);
      card({x + foot / 2, y + rise / 2, 0}, lean);
    }
    y += rise;
    for (int i = 0; i + 1 < tents; ++i) {  // from peak to peak, with a little to spare
      const Vec3 at{(i - 0.5 * (tents - 2)) * stride, y + thick / 2, 0};
      cards.push_back(yard.world.add({.shape = Box{{stride / 2, thick / 2, 0.2}},
                                      .pose = {at, {}},
                                      .kind = BodyKind::dynamic,
                                      .surface = {.friction = 0.9},
                                      .density = 600}));
      places.push_back(at);
    }
    y += thick;
  }
  yard.run(20, 60);
  for (std::size_t i = 0; i < cards.size(); ++i)
    EXPECT_LT(norm(yard.world.pose(cards[i]).position - places[i]), 0.05) << i;
}

/// A cart that lies on one wheel swings about its hinge until the damping there has stopped it, which takes its time:
/// so all are slow, and most asleep.
TEST(Pile, HandcartsInAHeapComeToRestAndStay) {
  int resting = 0, bodies = 0, swinging = 0;  // a cart on one wheel swings about its hinge for long
  for (int seed = 1; seed <= scenes_of(12); ++seed) {
    Yard yard;
    yard.floor();
    Random random(static_cast<std::uint32_t>(seed));
    std::vector<BodyId> all;
    for (std::uint32_t i = 0; i < 10; ++i) {
      const Vec3 at{random.uniform(-0.4, 0.4), 0.6 + 0.9 * i, random.uniform(-0.4, 0.4)};
      for (const BodyId id : add_cart(yard.world, at, i + 1, rotation(random.direction() * random.uniform(0, 1.0))))
        all.push_back(id);
    }
    yard.run(30, 60);
    resting += yard.world.awake() == 0;
    for (const BodyId id : all) {
      const double speed = norm(yard.world.velocity(id));
      EXPECT_LT(speed, 0.1) << seed;
      ++bodies, swinging += speed > 0.02;
    }
  }
  EXPECT_GE(3 * resting, 2 * scenes_of(12) - 2);
  EXPECT_LE(swinging, bodies / 100);
}

TEST(Pile, SleepersWakeWhenTouchedPushedOrLeftInTheAir) {
  Yard yard;
  yard.floor();
  const BodyId low = yard.crate({0, 0.3, 0}), high = yard.crate({0, 0.9, 0}), apart = yard.crate({5, 0.3, 0});
  yard.run(3, 60);
  ASSERT_TRUE(yard.world.asleep(low) && yard.world.asleep(high) && yard.world.asleep(apart));
  yard.world.push(high, {}), yard.world.twist(high, {}), yard.world.force(high, {}), yard.world.torque(high, {});
  EXPECT_TRUE(yard.world.asleep(low) && yard.world.asleep(high)) << "nothing wakes nobody";
  yard.world.push(high, {0, 0, 1});
  EXPECT_FALSE(yard.world.asleep(low)) << "what sleeps together wakes together";
  EXPECT_TRUE(yard.world.asleep(apart));
  yard.run(3, 60);
  ASSERT_TRUE(yard.world.asleep(high));
  yard.world.remove(low);
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.pose(high).position.y, 0.3, 5e-3) << "it fell";
  yard.ball({5, 3, 0});
  yard.run(0.75, 60);
  EXPECT_FALSE(yard.world.asleep(apart)) << "hit by a ball";
  yard.run(8, 60);
  yard.world.set_gravity({0, g, 0});
  yard.run(1, 60);
  EXPECT_GT(yard.world.pose(apart).position.y, 2) << "gravity turned";
}

TEST(Pile, ASleeperThatIsHitInFullFlightIsNoRock) {
  Yard yard;
  yard.floor();
  const BodyId crate = yard.crate({0, 0.3, 0}, 5);
  yard.run(2, 60);
  ASSERT_TRUE(yard.world.asleep(crate));
  const BodyId ball = yard.ball({-3.07, 0.3, 0}, 0.2);
  yard.world.set_motion(ball, {20, 0, 0}, {});
  const double momentum = 20 * yard.world.mass(ball);
  yard.run(0.2, 60);
  EXPECT_GT(yard.world.velocity(crate).x, 3);
  EXPECT_NEAR(yard.world.velocity(crate).x * 5 + yard.world.velocity(ball).x * yard.world.mass(ball), momentum,
              0.15 * momentum);
}

}  // namespace
}  // namespace jugend::testing
