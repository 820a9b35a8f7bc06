// Frame time in, whole ticks out.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/stage/clock.hpp>

#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

TEST(Clock, LosesAndGainsNoTime) {
  for (const double hz : rates) {
    FixedClock clock(hz, 1000);
    Random random(5);
    double fed = 0;
    long ticks = 0;
    for (int frame = 0; frame < 20000; ++frame) {
      const double seconds = random.uniform(0, 0.05);
      fed += seconds;
      ticks += clock.advance(seconds);
      ASSERT_GE(clock.fraction(), 0);
      ASSERT_LT(clock.fraction(), 1);
      ASSERT_NEAR(static_cast<double>(ticks) / hz + clock.fraction() * clock.tick(), fed, 1e-6);
    }
  }
}

TEST(Clock, FramesOfOneTickAreOneTick) {
  FixedClock clock(60);
  for (int i = 0; i < 10000; ++i) ASSERT_EQ(clock.advance(1.0 / 60), 1) << i;
}

TEST(Clock, LetsGoOfWhatIsBeyondTheCap) {
  FixedClock clock(60, 5);
  EXPECT_EQ(clock.advance(2.0), 5);
  EXPECT_NEAR(clock.dropped(), 2.0 - 5.0 / 60, 1.0 / 60);
  EXPECT_EQ(clock.advance(1.0 / 60), 1);
  EXPECT_EQ(clock.advance(-3), 0);
  EXPECT_EQ(clock.advance(std::nan("")), 0);
  EXPECT_THROW(FixedClock(0), InputError);
  EXPECT_THROW(FixedClock(std::nan("")), InputError);
  EXPECT_THROW(FixedClock(60, 0), InputError);
}

TEST(Stage, DrawsBetweenTheLastTwoTicks) {
  Scene scene;
  scene.box({-50, -1, -50}, {50, 0, 50});
  scene.walker({0, 0, 0});
  scene.intent().move = {1, 0, 0};
  scene.run(1, 60);
  const double end = scene.state().position.x;
  EXPECT_NEAR(scene.stage.drawn_position(scene.stage.nth(0), 1).x, end, 1e-12);
  EXPECT_NEAR(scene.stage.drawn_position(scene.stage.nth(0), 0.25).x, end - 0.75 * 0.1, 1e-9);
  EXPECT_THROW(scene.stage.add("courier", Walker({}, {})), InputError);
}

}  // namespace
}  // namespace jugend::testing
