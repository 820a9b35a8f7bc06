// Creatures led by heading and speed, and the drivers that lead them.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/world/world.hpp>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class LedBodyAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, LedBodyAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

/// A seal on wet ground without friction.
struct Seal {
  World world;
  BodyId body;
  LedBody led_body;
  double now = 0;

  explicit Seal(const LedBodyTuning& tuning = {}) : body(make()), led_body(tuning, body) {}
  BodyId make() {
    const Surface wet{.friction = 0, .friction_rule = Mixing::least};
    world.add({.shape = Box{{300, 1, 300}}, .pose = {{0, -1, 0}, {}}, .surface = wet});
    return world.add({.shape = Box{{0.7, 0.25, 0.3}},
                      .pose = {{0, 0.25, 0}, {}},
                      .kind = BodyKind::dynamic,
                      .surface = wet,
                      .mass = 80,
                      .can_sleep = false});
  }
  void tick(const LedBodyIntent& intent, double dt) {
    led_body.step(intent, world, dt);
    world.step(dt);
    now += dt;
  }
  void run(const LedBodyIntent& intent, double seconds, double hz) {
    for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) tick(intent, 1 / hz);
  }
  Vec3 velocity() const { return world.velocity(body); }
  Vec3 ahead() const { return rotate(world.pose(body).orientation, {1, 0, 0}); }
  Driven driven() const { return {world.pose(body).position, velocity(), ahead()}; }
};

TEST_P(LedBodyAtRate, SpeedsUpAndSlowsDownAtItsRates) {
  Seal seal;
  seal.run({{1, 0, 0}, 4}, 1, hz);
  EXPECT_NEAR(seal.velocity().x, 3, 0.01 * 3);
  seal.run({{1, 0, 0}, 4}, 1, hz);
  EXPECT_NEAR(seal.velocity().x, 4, 1e-6);
  const double from = seal.world.pose(seal.body).position.x;
  seal.run({{1, 0, 0}, 0}, 2, hz);
  EXPECT_NEAR(seal.world.pose(seal.body).position.x - from, 16 / (2 * 5.0), 4 * dt * 0.6);  // v²/2a, and a tick's part
  EXPECT_NEAR(seal.velocity().x, 0, 1e-6);
}

TEST_P(LedBodyAtRate, ATurnKeepsTheSpeedThatItCarries) {
  for (const double carry : {1.0, 0.0}) {
    LedBodyTuning tuning;
    tuning.carry = carry, tuning.speed_up = 0;  // nothing is won back
    Seal seal(tuning);
    seal.world.set_motion(seal.body, {4, 0, 0}, {});
    seal.run({{0, 0, 1}, 4}, 4, hz);
    EXPECT_NEAR(seal.ahead().z, 1, 1e-3);
    if (carry == 1) {
      EXPECT_NEAR(seal.velocity().z, 4, 0.005 * 4);
      EXPECT_NEAR(seal.velocity().x, 0, 0.02);
    } else {
      EXPECT_LT(seal.velocity().z, 2);
    }
  }
}

TEST_P(LedBodyAtRate, TurnsWithinItsLimitsWithoutOvershoot) {
  LedBodyTuning tuning;
  Seal seal(tuning);
  double fastest = 0, furthest = 0, before = 0, sharpest = 0;
  for (int i = 0; i < static_cast<int>(3 * hz); ++i) {
    seal.tick({{-1, 0, 0.1}, 0}, dt);
    const double rate = -seal.world.spin(seal.body).y;  // to the right
    fastest = std::max(fastest, rate);
    sharpest = std::max(sharpest, std::abs(rate - before) / dt);
    before = rate;
    const Vec3 a = seal.ahead();
    furthest = std::max(furthest, std::atan2(a.z, a.x) < 0 ? pi : std::atan2(a.z, a.x));
  }
  EXPECT_LE(fastest, 2.5 * 1.001);
  EXPECT_LE(sharpest, 9 * 1.01);
  EXPECT_LT(furthest, std::atan2(0.1, -1) + 0.02);
  EXPECT_NEAR(std::atan2(seal.ahead().z, seal.ahead().x), std::atan2(0.1, -1), 0.01);
}

TEST_P(LedBodyAtRate, AHeadOnBumpCostsExactlyItsSpeed) {
  LedBodyTuning tuning;
  tuning.speed_up = 0;
  Seal seal(tuning);
  seal.world.set_motion(seal.body, {4, 0, 0}, {});
  seal.run({{1, 0, 0}, 4}, 0.5, hz);
  seal.world.push(seal.body, {-120, 0, 0});
  seal.run({{1, 0, 0}, 4}, 0.5, hz);
  EXPECT_NEAR(seal.velocity().x, 4 - 120.0 / 80, 1e-6);

  Seal again;  // and has to be run up again
  again.world.set_motion(again.body, {4, 0, 0}, {});
  again.run({{1, 0, 0}, 4}, 0.5, hz);
  again.world.push(again.body, {-240, 0, 0});
  again.tick({{1, 0, 0}, 4}, dt);
  EXPECT_NEAR(again.led_body.state().impact, 3, 1e-6);
  again.run({{1, 0, 0}, 4}, 0.5 - dt, hz);
  EXPECT_NEAR(again.velocity().x, 1 + 3 * 0.5, 3 * dt + 1e-6);
}

TEST_P(LedBodyAtRate, SideSlipFadesByItsHalfLife) {
  Seal seal;
  seal.world.set_motion(seal.body, {0, 0, 2}, {});
  const int ticks = static_cast<int>(std::lround(0.5 * hz));
  for (int i = 0; i < ticks; ++i) seal.tick({{1, 0, 0}, 0}, dt);
  EXPECT_NEAR(seal.velocity().z, 2 * std::exp2(-ticks * dt / 0.25), 0.005 * 2);
}

TEST_P(LedBodyAtRate, DriversLeadItAndMayChangeInMidRun) {
  Seal seal;
  WaypointDriver rounds{{{8, 0, 0}, {8, 0, 8}, {0, 0, 8}, {0, 0, 0}}, 3, 0.8};
  std::size_t changes = 0, before = 0;
  for (int i = 0; i < static_cast<int>(16 * hz); ++i) {
    seal.tick(rounds.drive(seal.driven(), 5), dt);
    changes += rounds.next != before;
    before = rounds.next;
  }
  EXPECT_GE(changes, 4u);
  const Vec3 target{30, 0, 30};
  for (int i = 0; i < static_cast<int>(20 * hz); ++i) seal.tick(towards(seal.driven(), target, 4, 2), dt);
  EXPECT_LT(norm(in_plane(seal.world.pose(seal.body).position - target, {0, 1, 0})), 0.3);

  Seal follower;
  const std::vector<Vec3> points{{0, 0, 0}, {10, 0, 0}, {14, 0, 8}, {24, 0, 8}};
  const Path path(points, true);
  PathDriver driver;
  double off = 0;
  for (int i = 0; i < static_cast<int>(20 * hz); ++i) {
    follower.tick(driver.drive(follower.driven(), path, 3), dt);
    double nearest = 1e9;
    for (double s = 0; s < path.length(); s += 0.25)
      nearest = std::min(nearest, norm(in_plane(path.at(s) - follower.driven().position, {0, 1, 0})));
    off = std::max(off, nearest);
  }
  EXPECT_LT(off, 0.8);
  EXPECT_LT(norm(in_plane(follower.driven().position - points.back(), {0, 1, 0})), 0.6);
}

TEST(LedBody, PursuitCatchesAndAvoidanceGoesAround) {
  Seal hunter;
  Vec3 prey{10, 0.25, -6};
  const Vec3 flight{1, 0, 1};
  double nearest = 1e9;
  for (int i = 0; i < 900; ++i) {
    hunter.tick(pursue(hunter.driven(), prey, flight, 4, 5), 1 / 60.0);
    prey += flight / 60.0;
    nearest = std::min(nearest, norm(hunter.driven().position - prey));
  }
  EXPECT_LT(nearest, 0.3);

  Seal careful;
  careful.world.add({.shape = Cylinder{1.5, 2}, .pose = {{12, 1, 0.2}, {}}});
  double clearance = 1e9;
  const Filter others{.ignored = careful.body};
  for (int i = 0; i < 720; ++i) {
    const LedBodyIntent wanted = towards(careful.driven(), {24, 0, 0}, 3, 3);
    careful.tick(avoiding(wanted, careful.driven(), 4, careful.world, others), 1 / 60.0);
    clearance = std::min(clearance, norm(in_plane(careful.driven().position - Vec3{12, 0, 0.2}, {0, 1, 0})) - 1.5);
  }
  EXPECT_GT(clearance, 0.25);
  EXPECT_GT(careful.driven().position.x, 20);
}

TEST(LedBody, StandsUprightOnASlopeItFollows) {
  LedBodyTuning tuning;
  tuning.follow_ground = 1;
  World world;
  const Quat slope = rotation({0, 0, 0.3});
  world.add({.shape = Box{{60, 1, 60}}, .pose = {rotate(slope, {0, -1, 0}), slope}, .surface = {.friction = 0}});
  const BodyId body = world.add({.shape = Box{{0.7, 0.25, 0.3}},
                                 .pose = {{0, 0.6, 0}, {}},
                                 .kind = BodyKind::dynamic,
                                 .surface = {.friction = 0},
                                 .mass = 80});
  LedBody led_body(tuning, body);
  for (int i = 0; i < 120; ++i) led_body.step({{1, 0, 0}, 1}, world, 1 / 60.0), world.step(1 / 60.0);
  EXPECT_NEAR(dot(rotate(world.pose(body).orientation, {0, 1, 0}), rotate(slope, {0, 1, 0})), 1, 1e-3);
}

TEST(LedBody, TurnsABodyWhoseTiltIsLocked) {
  World world;
  world.set_gravity({});
  const BodyId body =
      world.add({.shape = Box{{0.7, 0.25, 0.3}}, .kind = BodyKind::dynamic, .mass = 80, .locks = lock::upright});
  LedBody led_body({}, body);
  for (int i = 0; i < 180; ++i) led_body.step({{0, 0, 1}, 1}, world, 1 / 60.0), world.step(1 / 60.0);
  EXPECT_NEAR(rotate(world.pose(body).orientation, {1, 0, 0}).z, 1, 1e-3);
  EXPECT_NEAR(world.velocity(body).z, 1, 1e-3);
}

TEST(LedBody, BadTuningsAreRefusedByName) {
  const auto refused = [](auto&& change) -> std::string {
    LedBodyTuning tuning;
    change(tuning);
    try {
      LedBody led_body(tuning, {});
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "nothing";
  };
  EXPECT_EQ(refused([](LedBodyTuning& t) { t.carry = 2; }), "turn.carry");
  EXPECT_EQ(refused([](LedBodyTuning& t) { t.turn_acceleration = 0; }), "turn.acceleration_deg");
  EXPECT_EQ(refused([](LedBodyTuning& t) { t.speed_up = -1; }), "speed_up");
}

}  // namespace
}  // namespace jugend::testing
