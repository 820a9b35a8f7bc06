// Moves by themselves, as parts of somebody else's character; and the fall law between them.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/motion/moves/dash.hpp>
#include <jugend/motion/moves/jump.hpp>
#include <jugend/motion/moves/kick.hpp>
#include <jugend/motion/moves/ledge.hpp>
#include <jugend/motion/moves/sizing.hpp>
#include <jugend/motion/moves/stagger.hpp>
#include <jugend/motion/moves/swim.hpp>
#include <jugend/world/world.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

TEST(Alone, AJumpWithoutAWalker) {
  JumpTuning tuning;
  tuning.buffer = 0.1, tuning.coyote_time = 0.05, tuning.air_jumps = 1;
  JumpState state;
  Jump jump{tuning, state};
  EXPECT_EQ(jump.ask(JumpFrom::nowhere).from, JumpFrom::air);
  jump.hear({1, true});
  ASSERT_TRUE(jump.wanted());
  EXPECT_EQ(jump.ask(JumpFrom::ground).from, JumpFrom::ground);
  jump.take_off(JumpFrom::ground, 0, true);
  EXPECT_FALSE(jump.wanted());
  jump.pass(0.1);
  jump.hear({1, true});
  jump.take_off(jump.ask(JumpFrom::nowhere).from, 0, true);
  EXPECT_EQ(jump.ask(JumpFrom::nowhere).why_not, NoJump::airborne);
  jump.land(0);
  jump.leave_ground(0, true);
  jump.pass(0.05);
  EXPECT_EQ(jump.ask(JumpFrom::nowhere).from, JumpFrom::edge);
  jump.pass(0.01);
  EXPECT_EQ(jump.ask(JumpFrom::nowhere).from, JumpFrom::air);
}

TEST(Alone, ChargesComeBackInTimeOrOnGround) {
  for (const double hz : {30.0, 60.0, 144.0, 240.0}) {
    ChargeTuning tuning{2, 0.5, 1, 1.5};
    ChargeState state;
    Charges charges{tuning, state};
    const auto wait = [&](double seconds) {
      for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) charges.pass(1 / hz);
    };
    EXPECT_EQ(charges.ask(), NoMove::none);
    charges.use(0);
    EXPECT_EQ(charges.ask(), NoMove::cooling_down);
    wait(0.5);
    EXPECT_EQ(charges.ask(), NoMove::none);
    charges.use(0);
    wait(0.5);
    EXPECT_EQ(charges.ask(), NoMove::no_charge);
    wait(1.0);
    EXPECT_EQ(charges.ask(), NoMove::none);  // one back, 1.5 s after the last use
    EXPECT_EQ(state.used, 1);
    charges.refill();
    EXPECT_EQ(state.used, 0);
    tuning.charges = 0;
    EXPECT_EQ(charges.ask(), NoMove::switched_off);
  }
}

TEST(Alone, FloatingRisesKeepHeightAndTimeForAnyNumbers) {
  Random random(4);
  for (int trial = 0; trial < 2000; ++trial) {
    JumpTuning tuning;
    tuning.height = random.uniform(0.1, 8), tuning.time_to_apex = random.uniform(0.1, 1.5);
    tuning.float_speed = random.uniform(0, 20), tuning.float_gravity = random.uniform(0.05, 1);
    FallStep up{0, tuning.take_off_speed()};
    const FallLaw law = tuning.fall_law();
    // In uneven steps up to the asked time: there the speed is 0, and the height the asked one.
    for (double left = tuning.time_to_apex; left > 0;) {
      const double dt = std::min(left, random.uniform(0.001, 0.05));
      const FallStep step = fall_step(up.speed, law, dt);
      up = {up.height + step.height, step.speed};
      left -= dt;
    }
    EXPECT_NEAR(up.height, tuning.height, 1e-6 * tuning.height) << trial;
    EXPECT_NEAR(up.speed, 0, 1e-5 * tuning.take_off_speed()) << trial;
  }
}

TEST(Alone, AThrowIsItsClosedForm) {
  const Throw t = throw_of(2, 0.4, 61);
  EXPECT_DOUBLE_EQ(t.speed, 10);
  EXPECT_DOUBLE_EQ(t.speed * t.speed / (2 * t.brake), 2);
  EXPECT_DOUBLE_EQ(t.impulse, 610);
  const StaggerTuning tuning;
  StaggerState state;
  Stagger stagger{tuning, state};
  EXPECT_DOUBLE_EQ(stagger.begin({{1, 0, 0}, 2}, {1, 0, 0}, 61), t.speed);
  EXPECT_DOUBLE_EQ(stagger.begin({{1, 0, 0}, 0, 610}, {1, 0, 0}, 61), t.speed);
  double before = -1;
  for (double now = 0; now < 1; now += 0.01) {  // control only ever grows, from 0 to 1
    EXPECT_GE(stagger.control(now), before);
    before = stagger.control(now);
  }
  EXPECT_EQ(stagger.control(0), 0);
  EXPECT_EQ(before, 1);
}

TEST(Alone, KicksNeverExceedTheirCap) {
  Random random(8);
  World world;
  for (int trial = 0; trial < 300; ++trial) {
    const Vec3 half{random.uniform(0.1, 1), random.uniform(0.1, 1), random.uniform(0.1, 1)};
    const Pose pose = random.pose(3);
    const double mass = random.uniform(0.5, 200), cap = random.uniform(0.5, 20);
    const BodyId id = world.add({.shape = Box{half}, .pose = pose, .kind = BodyKind::dynamic, .mass = mass});
    const Vec3 local = random.point(1), impulse = random.point(800);
    const Vec3 at = to_world(pose, Vec3{local.x * half.x, local.y * half.y, local.z * half.z});
    const BodyFacts facts = world.facts(id);
    const Vec3 given = kick_impulse(facts, impulse, at, {0, 1, 0}, cap);
    world.push(id, given, at);
    EXPECT_LE(norm(given) / mass, cap * (1 + 1e-9)) << trial;
    EXPECT_LE(norm(given), norm(impulse) * (1 + 1e-9));
    EXPECT_GE(dot(given, impulse), 0);
    world.remove(id);
  }
}

TEST(Alone, SwimmingIsTheSameForAnyTick) {
  SwimTuning tuning;
  Vec3 ends[2];
  int i = 0;
  for (const int steps : {1, 60}) {
    Vec3 at{0, -0.2, 0}, velocity{0, 0.1, 0};
    for (int k = 0; k < steps; ++k) {
      const SwimStep step = swim(tuning, {velocity, {0.3, 0, 0}, {1, 0, 0}, {0, 1, 0}, -at.y, false}, 0.5 / steps);
      at += step.displacement, velocity = step.velocity;
    }
    ends[i++] = at;
  }
  EXPECT_NEAR(norm(ends[0] - ends[1]), 0, 1e-9);
}

TEST(Alone, LedgesAreFoundByGeometryInAnyTurnOfTheWorld) {
  Random random(5);
  for (int trial = 0; trial < 60; ++trial) {
    const Quat turn = random.pose(1).orientation;
    const Pose frame{random.point(50), turn};
    World world;
    world.add({.shape = Box{{1, 1, 3}}, .pose = to_world(frame, Pose{{1, 1, 0}, {}})});
    const Vec3 up = rotate(turn, {0, 1, 0}), ahead = rotate(turn, {1, 0, 0});
    const LedgeTuning tuning;
    const double z = random.uniform(-2, 2), fallen = random.uniform(0.02, 0.5);
    const double above = random.uniform(0.001, fallen - 0.001);  // hands passed the edge in this fall
    const Climber climber{to_world(frame, Vec3{-0.35, 2 - tuning.hand_height - fallen + above, z}), up};
    const auto ledge = find_ledge(climber, ahead, fallen, tuning, world, {});
    ASSERT_TRUE(ledge) << trial;
    EXPECT_NEAR(norm(to_local(frame, ledge->edge) - Vec3{0, 2, z}), 0, 1e-6);
    EXPECT_NEAR(dot(ledge->out, ahead), -1, 1e-9);
    EXPECT_FALSE(find_ledge(climber, -ahead, fallen, tuning, world, {}));
    const Climber low{climber.feet - up * 0.7, up};
    EXPECT_FALSE(find_ledge(low, ahead, 0.1, tuning, world, {}));
  }
}

}  // namespace
}  // namespace jugend::testing
