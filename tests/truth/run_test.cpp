// Running, braking and turning against their closed forms, at every tick rate.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class RunAtRate : public ::testing::TestWithParam<double> {};
INSTANTIATE_TEST_SUITE_P(Rates, RunAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

Scene on_a_floor(const WalkerTuning& tuning = {}) {
  Scene scene;
  scene.box({-200, -1, -200}, {200, 0, 200});
  scene.walker({0, 0, 0}, tuning);
  scene.run(0.2, 60);
  return scene;
}

/// Way and time from here until the speed reaches `goal`: the tick it happens in is carried on at its
/// own acceleration.
struct Reached {
  double way, time;
};
Reached run_until(Scene& scene, double goal, double rate, double hz) {
  const double start = scene.state().position.x, dt = 1 / hz;
  for (int tick = 0; tick < 10000; ++tick) {
    const double before = scene.state().velocity.x, at = scene.state().position.x;
    const double needed = (goal - before) / rate;  // s
    if (needed <= dt + 1e-12) return {at - start + before * needed + 0.5 * rate * needed * needed, tick * dt + needed};
    scene.tick(dt);
  }
  return {};
}

TEST_P(RunAtRate, RunUpToTopSpeed) {
  WalkerTuning tuning;
  tuning.run.top_speed = 7;
  tuning.run.time_to_top_speed = 0.41;
  Scene scene = on_a_floor(tuning);
  scene.intent().move = {1, 0, 0};
  const double start = scene.state().position.x;
  // Long after: the way is what the ramp took, and top speed for the rest, wherever the ticks fell.
  scene.run(3, GetParam());
  const double seconds = std::lround(3 * GetParam()) / GetParam();
  EXPECT_NEAR(scene.state().position.x - start, 0.5 * 7 * 0.41 + 7 * (seconds - 0.41), 5e-3 * 0.5 * 7 * 0.41);
  EXPECT_NEAR(scene.state().velocity.x, 7, 1e-9);
}

TEST_P(RunAtRate, TimeToTopSpeed) {
  Scene scene = on_a_floor();
  scene.intent().move = {1, 0, 0};
  const RunTuning run;
  const Reached r = run_until(scene, run.top_speed, run.top_speed / run.time_to_top_speed, GetParam());
  EXPECT_NEAR(r.time, run.time_to_top_speed, 5e-3 * run.time_to_top_speed);
  EXPECT_NEAR(r.way, 0.5 * run.top_speed * run.time_to_top_speed, 5e-3 * r.way);
}

TEST_P(RunAtRate, BrakingDistanceIsVSquaredOverTwoA) {
  for (const double share : {0.3, 0.7, 1.0}) {
    WalkerTuning tuning;
    tuning.run.time_to_stop = 0.37;
    Scene scene = on_a_floor(tuning);
    scene.intent().move = {share, 0, 0};
    scene.run(1, GetParam());
    const double v = scene.state().velocity.x, start = scene.state().position.x;
    EXPECT_NEAR(v, share * tuning.run.top_speed, 1e-9);
    scene.intent().move = {};
    scene.run(1, GetParam());
    const double a = tuning.run.top_speed / tuning.run.time_to_stop;
    EXPECT_NEAR(scene.state().position.x - start, v * v / (2 * a), 5e-3 * v * v / (2 * a));
    EXPECT_EQ(scene.state().velocity, Vec3{});
  }
}

TEST_P(RunAtRate, TurnsRoundByItsOwnTimes) {
  Scene scene = on_a_floor();
  scene.intent().move = {1, 0, 0};
  scene.run(1, GetParam());
  scene.intent().move = {-1, 0, 0};
  const RunTuning run;
  const double start = scene.state().position.x;
  scene.run(2, GetParam());
  const double seconds = std::lround(2 * GetParam()) / GetParam();
  const double way = 0.5 * run.top_speed * run.time_to_turn - 0.5 * run.top_speed * run.time_to_top_speed -
                     run.top_speed * (seconds - run.time_to_turn - run.time_to_top_speed);
  EXPECT_NEAR(scene.state().position.x - start, way, 5e-3 * 0.5 * run.top_speed * run.time_to_turn);
}

TEST_P(RunAtRate, SpeedAlongASlopeIsTheSpeedAskedFor) {
  for (const double degrees : {-40.0, -20.0, 10.0, 30.0, 44.0}) {
    Scene scene;
    scene.slope({0, 0, 0}, degrees * radians_per_degree);
    scene.walker({0, 0.1, 0});
    scene.run(0.5, GetParam());
    scene.intent().move = {1, 0, 0};
    scene.run(1, GetParam());
    EXPECT_NEAR(norm(scene.state().velocity), 6, 1e-6) << degrees;
    EXPECT_NEAR(scene.state().velocity.y / norm(scene.state().velocity), std::sin(degrees * radians_per_degree), 1e-6);
    EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0) << degrees;
  }
}

TEST_P(RunAtRate, DiagonalInputIsNoFasterThanStraight) {
  Scene scene = on_a_floor();
  scene.intent().move = {1, 0, 1};
  scene.run(1, GetParam());
  EXPECT_NEAR(norm(scene.state().velocity), 6, 1e-9);
}

TEST_P(RunAtRate, AirControlReachesTheSpeedItsRatesGive) {
  WalkerTuning tuning;
  tuning.air = {6, 0.6, 2, 0.35};
  Scene scene;
  scene.walker({0, 100, 0}, tuning);
  scene.intent().move = {1, 0, 0};
  scene.run(0.4, GetParam());
  const double seconds = std::lround(0.4 * GetParam()) / GetParam();
  EXPECT_NEAR(scene.state().velocity.x, 10 * seconds, 1e-9);
  EXPECT_NEAR(scene.state().position.x, 0.5 * 10 * seconds * seconds, 1e-9);
}

TEST(Run, TimesOfZeroAreAtOnce) {
  WalkerTuning tuning;
  tuning.run = {6, 0, 0, 0};
  Scene scene = on_a_floor(tuning);
  scene.intent().move = {1, 0, 0};
  scene.tick(1.0 / 60);
  EXPECT_NEAR(scene.state().velocity.x, 6, 1e-12);
  EXPECT_NEAR(scene.state().position.x, 0.1, 1e-12);
  scene.intent().move = {-1, 0, 0};
  scene.tick(1.0 / 60);
  EXPECT_NEAR(scene.state().velocity.x, -6, 1e-12);
  scene.intent().move = {};
  scene.tick(1.0 / 60);
  EXPECT_EQ(scene.state().velocity, Vec3{});
}

}  // namespace
}  // namespace jugend::testing
