// Closed forms of sizing against the walker that runs them.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/moves/sizing.hpp>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

TEST(Sizing, JumpByHeightAndTime) {
  const JumpSize s = size_jump(1.25, 0.38);
  EXPECT_NEAR(s.gravity, 2 * 1.25 / (0.38 * 0.38), 1e-12);
  EXPECT_NEAR(s.take_off_speed, s.gravity * 0.38, 1e-12);
  const Rise r = rise_of(s.take_off_speed, s.gravity);
  EXPECT_NEAR(r.height, 1.25, 1e-12);
  EXPECT_NEAR(r.time, 0.38, 1e-12);
  EXPECT_THROW(size_jump(0, 1), InputError);
  EXPECT_THROW(size_jump(1, std::nan("")), InputError);
  EXPECT_THROW(rise_of(-1, 9), InputError);
}

TEST(Sizing, GapsAreWhatTheWalkerCrosses) {
  for (const double rise : {-3.0, -0.5, 0.0, 0.9}) {
    WalkerTuning tuning;
    tuning.jump.fall_speed_limit = 9;
    Scene scene;
    scene.box({-50, -9, -5}, {0, 0, 5});
    scene.box({0.31, -9, -5}, {60, rise < 0 ? rise : -8.0, 5});
    if (rise >= 0) scene.box({2.2, -9, -5}, {60, rise, 5});
    scene.walker({-4, 0, 0}, tuning);
    scene.run(0.3, 60);
    scene.intent().move = {1, 0, 0};
    while (scene.state().position.x < -0.3) scene.tick(1.0 / 60);
    scene.heard.clear();
    scene.actor().jump.tap();
    scene.run(3, 60);
    const auto jumped = scene.first(WalkerEventKind::jumped);
    const auto landed = scene.first(WalkerEventKind::landed);
    ASSERT_TRUE(jumped && landed) << rise;
    const double length = landed->event.position.x - jumped->event.position.x;
    EXPECT_NEAR(length, gap(tuning.jump, 6, rise).value(), 5e-3 * length) << rise;
  }
  EXPECT_FALSE(gap({}, 6, 5));
}

TEST(Sizing, LedgesAreTheHeightOfTheFlightThere) {
  const JumpTuning jump;
  const double speed = 6;
  for (double distance = 0.5; distance < 8; distance += 0.5) {
    const FallStep flight = fall_step(jump.take_off_speed(), jump.fall_law(), distance / speed);
    EXPECT_NEAR(ledge(jump, speed, distance), flight.height, 1e-9) << distance;
  }
}

TEST(Sizing, StopsAndRunUps) {
  const RunTuning run{8, 0.5, 0.25, 0.1};
  EXPECT_NEAR(stopping_distance(run, 8), 8 * 0.25 / 2, 1e-12);
  EXPECT_NEAR(stopping_distance(run, 4), 0.25, 1e-12) << "v²/2a with a = 32 m/s²";
  EXPECT_NEAR(run_up(run), 2, 1e-12);
}

TEST(Sizing, GravityOnAnotherBodyIsTheRatio) {
  EXPECT_DOUBLE_EQ(gravity_on("moon", 9.80665), 1.62);
  EXPECT_DOUBLE_EQ(gravity_on("jupiter", 20), 20 * (24.79 / 9.80665));
  EXPECT_DOUBLE_EQ(gravity_on("earth", 17), 17);
  EXPECT_THROW(gravity_on("moom", 9.8), InputError);
}

}  // namespace
}  // namespace jugend::testing
