// Jumps and falls against their closed forms, at every tick rate.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class AtRate : public ::testing::TestWithParam<double> {};
INSTANTIATE_TEST_SUITE_P(Rates, AtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

WalkerTuning jumper(double height, double time, double fall_gravity = 1) {
  WalkerTuning t;
  t.jump = {height, time, fall_gravity, 1000};
  return t;
}

TEST_P(AtRate, ApexIsWhereAndWhenItWasAskedFor) {
  for (const auto& [height, time] : {std::pair{0.6, 0.25}, {1.25, 0.38}, {2.0, 0.5}, {5.0, 0.9}}) {
    Scene scene;
    scene.box({-50, -1, -50}, {50, 0, 50});
    scene.walker({0, 0, 0}, jumper(height, time));
    scene.run(0.5, GetParam());
    scene.actor().jump.tap();
    scene.run(3, GetParam());
    const auto jumped = scene.first(WalkerEventKind::jumped);
    const auto apex = scene.first(WalkerEventKind::apex);
    ASSERT_TRUE(jumped && apex);
    EXPECT_NEAR(apex->time - jumped->time, time, 1e-3 * time);
    EXPECT_NEAR(apex->event.value, height, 1e-3 * height);
    EXPECT_NEAR(jumped->event.value, 2 * height / time, 1e-3 * 2 * height / time);
  }
}

TEST_P(AtRate, FallFromTheApexTakesTheTimeThatTheMultiplierGives) {
  for (const double multiplier : {0.5, 1.0, 1.5, 3.0}) {
    Scene scene;
    scene.box({-50, -1, -50}, {50, 0, 50});
    scene.walker({0, 0, 0}, jumper(1.25, 0.38, multiplier));
    scene.run(0.5, GetParam());
    scene.heard.clear();
    scene.actor().jump.tap();
    scene.run(3, GetParam());
    const auto apex = scene.first(WalkerEventKind::apex);
    const auto landed = scene.first(WalkerEventKind::landed);
    ASSERT_TRUE(apex && landed);
    const double expected = 0.38 / std::sqrt(multiplier);
    EXPECT_NEAR(landed->time - apex->time, expected, 5e-3 * expected);
    EXPECT_NEAR(landed->event.value, 2 * 1.25 / 0.38 * std::sqrt(multiplier), 1e-3 * landed->event.value);
  }
}

TEST_P(AtRate, FallFromRest) {
  for (const double drop : {0.4, 2.0, 15.0}) {
    Scene scene;
    scene.box({-50, -1, -50}, {50, 0, 50});
    const WalkerTuning tuning = jumper(1.25, 0.38, 1);
    scene.walker({0, drop, 0}, tuning);
    scene.run(4, GetParam());
    const auto landed = scene.first(WalkerEventKind::landed);
    ASSERT_TRUE(landed);
    const double g = tuning.jump.gravity();
    EXPECT_NEAR(landed->time, std::sqrt(2 * drop / g), 1e-3 * std::sqrt(2 * drop / g));
    EXPECT_NEAR(landed->event.value, std::sqrt(2 * g * drop), 1e-3 * std::sqrt(2 * g * drop));
    EXPECT_NEAR(landed->event.position.y, 0, 1e-6);
  }
}

TEST_P(AtRate, FallSpeedStopsAtItsLimit) {
  Scene scene;
  scene.box({-50, -1, -50}, {50, 0, 50});
  WalkerTuning tuning = jumper(1.25, 0.38, 1);
  tuning.jump.fall_speed_limit = 9;
  scene.walker({0, 20, 0}, tuning);
  scene.run(5, GetParam());
  const auto landed = scene.first(WalkerEventKind::landed);
  ASSERT_TRUE(landed);
  const double g = tuning.jump.gravity(), until = 9 / g, way = 81 / (2 * g);
  EXPECT_NEAR(landed->event.value, 9, 1e-6);
  EXPECT_NEAR(landed->time, until + (20 - way) / 9, 1e-3);
}

TEST_P(AtRate, JumpsInThirdGravityGoThreeTimesAsHigh) {
  Scene scene;
  scene.box({-50, -1, -50}, {50, 0, 50});
  scene.stage.world.set_gravity({0, -9.80665 / 3, 0});
  scene.walker({0, 0, 0}, jumper(1.0, 0.4));
  scene.run(0.2, GetParam());
  scene.actor().jump.tap();
  scene.run(3, GetParam());
  ASSERT_TRUE(scene.first(WalkerEventKind::apex));
  EXPECT_NEAR(scene.first(WalkerEventKind::apex)->event.value, 3.0, 3e-3);
}

TEST_P(AtRate, JumpsAlongAnyDirectionOfGravity) {
  for (const Vec3& up : {Vec3{1, 0, 0}, {0, -1, 0}, {0, 0, 1}, normalised(Vec3{1, 1, 1})}) {
    Scene scene;
    const Vec3 axis = cross({0, 1, 0}, up);
    const double angle = std::acos(up.y);
    const Quat turn = up.y < -0.999 ? rotation({3.14159265358979, 0, 0}) : rotation(normalised(axis) * angle);
    scene.stage.world.add({.shape = Box{{50, 1, 50}}, .pose = {up * -1, turn}});
    scene.stage.world.set_gravity(up * -9.80665);
    scene.walker(up * 0.01, jumper(1.25, 0.38));
    scene.run(0.5, GetParam());
    scene.actor().jump.tap();
    scene.run(1.5, GetParam());
    ASSERT_TRUE(scene.first(WalkerEventKind::jumped));
    ASSERT_EQ(scene.count(WalkerEventKind::landed), 1);
    double apex = 0;
    for (const HeardEvent& h : scene.heard) {
      if (h.event.kind == WalkerEventKind::apex) apex = h.event.value;
    }
    EXPECT_NEAR(apex, 1.25, 1.25e-3);
  }
}

TEST(Ballistic, ManySmallStepsEqualOneLarge) {
  const FallLaw law{17.3, 26.0, 12.0};
  const FallStep whole = fall_step(6.5, law, 1.7);
  double height = 0, speed = 6.5;
  for (int i = 0; i < 1700; ++i) {
    const FallStep small = fall_step(speed, law, 1e-3);
    height += small.height;
    speed = small.speed;
  }
  EXPECT_NEAR(height, whole.height, 1e-9);
  EXPECT_NEAR(speed, whole.speed, 1e-12);
}

}  // namespace
}  // namespace jugend::testing
