// A program's own moves, on both bodies: root motion, glides and ropes cover what they say, whatever the rate and the
// ground, and go on as ordinary motion.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/stage/kinds.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

struct BodyAtRate {
  bool forced;
  double hz;
};

class OwnMoves : public ::testing::TestWithParam<BodyAtRate> {
 protected:
  Stage stage;
  const double dt = 1 / GetParam().hz;
  BodyId floor;

  void set_up(const WalkerTuning& tuning = {}, const Vec3& floor_velocity = {}, const Vec3& feet = {}) {
    BodyPlan plan{.shape = Box{{400, 1, 400}}, .pose = {{0, -1, 0}, {}}};
    if (floor_velocity != Vec3{}) plan.kind = BodyKind::kinematic, plan.velocity = floor_velocity;
    floor = stage.world.add(plan);
    if (GetParam().forced)
      add_forced(stage, "courier", tuning, {}, feet);
    else
      stage.add("courier", Walker(tuning, feet));
    run(0.4);
  }
  WalkerIntent& intent() { return stage.actor(stage.nth(0)).as<WalkerControls>().intent; }
  const WalkerState& state() { return stage.actor(stage.nth(0)).as<WalkerBrain>().state(); }
  Vec3 feet() { return stage.facts(stage.nth(0)).position; }
  Vec3 on_floor() { return feet() - stage.world.facts(floor).pose.position; }
  void tick() { stage.tick(dt); }
  void run(double seconds) {
    for (int left = static_cast<int>(std::lround(seconds / dt)); left > 0; --left) tick();
  }
  /// A clip of `distance` along `direction` in so many ticks, soft at both ends; `each` is called after every tick.
  template <class Each>
  void clip(OwnPath path, const Vec3& direction, double distance, int ticks, Each&& each) {
    const auto share = [&](int i) {
      const double s = static_cast<double>(i) / ticks;
      return s * s * (3 - 2 * s);
    };
    for (int i = 0; i < ticks; ++i) {
      intent().own = {.path = path, .displacement = direction * (distance * (share(i + 1) - share(i)))};
      tick();
      each();
    }
    intent().own = {};
  }
  void clip(OwnPath path, const Vec3& direction, double distance, int ticks) {
    clip(path, direction, distance, ticks, [] {});
  }
};

TEST_P(OwnMoves, AClipCoversItsLengthOnLandAndOnAnyDeck) {
  Random random(31);
  for (int scene = 0; scene < 20; ++scene) {
    stage = Stage();
    const bool deck = random.uniform(0, 1) < 0.6;
    Vec3 drift;
    if (deck) drift = in_plane(random.point(6), {0, 1, 0});
    set_up({}, drift);
    const double angle = random.uniform(0, 2 * pi), length = random.uniform(0.2, 4), time = random.uniform(0.25, 1.5);
    const int ticks = std::max(4, static_cast<int>(time / dt));
    const Vec3 direction{std::cos(angle), 0, std::sin(angle)}, from = on_floor();
    clip(OwnPath::level, direction, length, ticks);
    ASSERT_EQ(state().mode, WalkerMode::own_move);
    EXPECT_NEAR(norm(on_floor() - from - direction * length), 0, 1e-3) << scene << " deck at " << norm(drift);
    run(1.5);
    EXPECT_EQ(state().mode, WalkerMode::idle);
    EXPECT_NEAR(norm(state().velocity - state().ground.velocity), 0, 1e-6);
  }
}

TEST_P(OwnMoves, AClipGoesUpSlopesAndStepsAndStopsAtWalls) {
  Random random(7);
  for (int scene = 0; scene < 12; ++scene) {
    stage = Stage();
    const double rise = random.uniform(0.05, 0.28), wall = random.uniform(1.5, 2.5);
    stage.world.add({.shape = Box{{5, rise, 5}}, .pose = {{5.9, 0, 0}, {}}});  // a step at 0.9 m
    stage.world.add({.shape = Box{{0.5, 5, 5}}, .pose = {{0.9 + wall + 0.5, 0, 0}, {}}});
    set_up();
    clip(OwnPath::level, {1, 0, 0}, 4, static_cast<int>(1 / dt));
    EXPECT_NEAR(feet().x, 0.9 + wall - 0.3, 0.02) << rise;
    EXPECT_NEAR(state().velocity.x, 0, 0.05);
    run(0.4);  // legs that climbed at the last moment come up
    EXPECT_NEAR(feet().y, rise, 0.01) << rise;
  }
}

TEST_P(OwnMoves, ALevelClipInTheAirFallsAsItWouldWithoutIt) {
  const auto fall = [&](bool with_clip) {
    stage = Stage();
    set_up({}, {}, {0, 6, 0});
    double took = 0;
    for (int i = 0; i < 4000 && !state().on_ground; ++i) {
      if (with_clip) intent().own = {.path = OwnPath::level, .displacement = Vec3{3, 0, 0} * dt};
      tick();
      took += dt;
    }
    return std::pair(took, feet().x);
  };
  const auto [plain, stays] = fall(false);
  const auto [clipped, went] = fall(true);
  EXPECT_NEAR(plain, clipped, 1e-9);
  EXPECT_NEAR(stays, 0, 1e-6);
  EXPECT_NEAR(went, 3 * clipped, 0.01);
}

TEST_P(OwnMoves, AHitComesBeforeAClipAndThrowsItsDistance) {
  set_up();
  intent().own = {.path = OwnPath::level, .displacement = Vec3{2, 0, 0} * dt};
  run(0.5);
  const Vec3 from = feet();
  stage.actor(stage.nth(0)).hit({.away = {-1, 0, 0}, .distance = 2}, stage.world);
  double furthest = 0;
  for (int i = 0; i < static_cast<int>(0.5 / dt); ++i) {
    tick();
    furthest = std::max(furthest, from.x - feet().x);
  }
  EXPECT_NEAR(furthest, 2, 0.05);
}

TEST_P(OwnMoves, AWholePathGoesAnywhereInTheAirAndKeepsItsVelocity) {
  Random random(5);
  for (int scene = 0; scene < 12; ++scene) {
    stage = Stage();
    set_up();
    const Vec3 up_first{0, 4, 0};
    clip(OwnPath::whole, {0, 1, 0}, 4, static_cast<int>(0.7 / dt));
    EXPECT_FALSE(state().on_ground);
    EXPECT_NEAR(feet().y, up_first.y, 2e-3);
    const Vec3 step = random.point(4), from = feet();
    const int ticks = std::max(3, static_cast<int>(0.4 / dt));
    for (int i = 0; i < ticks; ++i) {
      intent().own = {.path = OwnPath::whole, .displacement = step / ticks};
      tick();
    }
    intent().own = {};
    EXPECT_NEAR(norm(feet() - from - step), 0, 2e-3) << scene;
    EXPECT_NEAR(norm(state().velocity - step / (ticks * dt)), 0, 0.02 * norm(step)) << scene;
  }
}

TEST_P(OwnMoves, AWholePathGoesThroughWaterToo) {
  Random random(19);
  for (int scene = 0; scene < 12; ++scene) {
    stage = Stage();
    stage.world.add_pool({.half_extents = {50, 4, 50}, .pose = {{0, 0, 0}, {}}});  // 4 m deep
    set_up({}, {}, {0, random.uniform(0.5, 6), 0});
    const Vec3 from = feet(), step = random.point(1.5) + Vec3{0, 1.6, 0};
    const int ticks = 3 + static_cast<int>(random.below(50));
    for (int i = 0; i < ticks; ++i) {
      intent().own = {.path = OwnPath::whole, .displacement = step / ticks};
      tick();
    }
    intent().own = {};
    EXPECT_NEAR(norm(feet() - from - step), 0, 2e-3) << scene << " from " << from.y;
  }
}

TEST_P(OwnMoves, AGlideFallsAtItsShareOfTheFastestFall) {
  Random random(3);
  for (int scene = 0; scene < 8; ++scene) {
    stage = Stage();
    WalkerTuning tuning;
    const double share = random.uniform(0.05, 0.4), faster = random.uniform(0.5, 2);
    set_up(tuning, {}, {0, 40, 0});
    intent().own = {.fall = share, .speed = faster};
    intent().move = {0, 0, 1};
    run(2.5);
    EXPECT_NEAR(-state().velocity.y, share * tuning.jump.fall_speed_limit, 1e-3 * tuning.jump.fall_speed_limit);
    EXPECT_NEAR(state().velocity.z, faster * tuning.air.top_speed, 0.05 * tuning.air.top_speed);
  }
}

TEST_P(OwnMoves, ARopeSwingsAsAPendulum) {
  set_up();
  Random random(11);
  for (int scene = 0; scene < 4; ++scene) {
    const double length = random.uniform(3, 9), tilt = random.uniform(0.1, 0.5);
    const Vec3 hook{0, 20, 0};
    stage.place(stage.nth(0), {.pose = {hook + Vec3{-length * std::sin(tilt), -length * std::cos(tilt), 0}, {}}});
    const Vec3 start = feet();
    const double sole = hook.y - length * std::cos(tilt) - start.y;  // a forced one is placed by its middle
    double took = 0, crossed = 0;
    for (; took < 8 && crossed == 0; took += dt) {
      const WalkerState& now = state();
      const Vec3 at = now.position + Vec3{0, sole, 0};
      const Vec3 free = at + now.velocity * dt + Vec3{0, -standard_gravity, 0} * (dt * dt) - hook;
      const Vec3 held = hook + free * std::min(1.0, length / norm(free));
      intent().own = {.path = OwnPath::whole, .displacement = held - at};
      tick();
      if (state().position.x > 0) crossed = took + dt - state().position.x / state().velocity.x;
    }
    intent().own = {};
    const double quarter = 0.5 * pi * std::sqrt(length / standard_gravity) * (1 + tilt * tilt / 16);
    EXPECT_NEAR(crossed, quarter, 0.015 * quarter + 0.5 * dt) << length << " m, " << tilt;
  }
}

TEST_P(OwnMoves, NumbersThatAreNoneCountAsNone) {
  set_up();
  const Vec3 from = feet();
  intent().own = {
      .path = OwnPath::level, .displacement = {std::nan(""), 0, 0}, .gravity = INFINITY, .fall = std::nan("")};
  run(0.5);
  EXPECT_NEAR(norm(feet() - from), 0, 1e-6);
  intent().own = {.gravity = -5, .fall = -2, .speed = -1};
  stage.place(stage.nth(0), {.pose = {{0, 5, 0}, {}}});
  run(3);
  EXPECT_TRUE(is_finite(feet()));
}

INSTANTIATE_TEST_SUITE_P(Both, OwnMoves,
                         ::testing::Values(BodyAtRate{false, 30}, BodyAtRate{false, 60}, BodyAtRate{false, 144},
                                           BodyAtRate{false, 240}, BodyAtRate{true, 30}, BodyAtRate{true, 60},
                                           BodyAtRate{true, 144}, BodyAtRate{true, 240}),
                         [](const auto& made) {
                           return std::string(made.param.forced ? "forced_" : "swept_") +
                                  std::to_string(static_cast<int>(made.param.hz));
                         });

}  // namespace
}  // namespace jugend::testing
