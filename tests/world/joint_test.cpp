// Joints hold, limit, drive, spring and break.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>

#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

TEST(Joint, AMotorTurnsAWheelUpToItsTorqueAndSpeed) {
  Yard yard;
  yard.world.set_gravity({});
  const BodyId wheel = yard.world.add({.shape = Cylinder{0.3, 0.1},
                                       .pose = {{}, rotation({1.5707963267948966, 0, 0})},
                                       .kind = BodyKind::dynamic,
                                       .mass = 20});
  const JointId hinge = yard.world.add(
      JointPlan{.kind = JointKind::hinge, .a = wheel, .axis = {0, 0, 1}, .motor_speed = 12, .motor_limit = 3});
  const double inertia = 0.5 * 20 * 0.09;
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.facts(hinge).speed, 3 / inertia, 0.002 * 3 / inertia);
  EXPECT_NEAR(yard.world.facts(hinge).motor, 3, 0.003);
  yard.run(5, 60);
  EXPECT_NEAR(yard.world.facts(hinge).speed, 12, 1e-6);
  EXPECT_GT(yard.world.facts(hinge).position, 40) << "whole turns count";
  yard.world.set_motor(hinge, 0, 0);
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.facts(hinge).speed, 12, 1e-6);
}

TEST(Joint, LimitsHoldAgainstWeightAndTellTheirForce) {
  Yard yard;
  const BodyId door =
      yard.world.add({.shape = Box{{0.5, 0.05, 0.3}}, .pose = {{0.5, 0, 0}, {}}, .kind = BodyKind::dynamic, .mass = 8});
  const JointId hinge =
      yard.world.add(JointPlan{.kind = JointKind::hinge, .a = door, .axis = {0, 0, 1}, .low = -0.4, .high = 0.2});
  yard.run(3, 60);
  EXPECT_NEAR(yard.world.facts(hinge).position, -0.4, 2e-3);
  const double torque = 8 * g * 0.5 * std::cos(0.4);
  EXPECT_NEAR(yard.world.facts(hinge).torque.z, torque, 0.01 * torque);
  EXPECT_NEAR(yard.world.facts(hinge).force.y, 8 * g, 0.01 * 8 * g);

  const BodyId lift = yard.world.add(
      {.shape = Box{}, .pose = {{5, 0, 0}, rotation({0.3, 0.2, 0.1})}, .kind = BodyKind::dynamic, .mass = 50});
  const JointId slider = yard.world.add(
      JointPlan{.kind = JointKind::slider, .a = lift, .at = {5, 0, 0}, .axis = {0, 1, 0}, .low = -1.5, .high = 2});
  yard.world.twist(lift, {1, 2, 3});
  yard.run(3, 60);
  EXPECT_NEAR(yard.world.facts(slider).position, -1.5, 2e-3);
  EXPECT_NEAR(yard.world.facts(slider).force.y, 50 * g, 0.01 * 50 * g);
  EXPECT_LT(norm(yard.world.spin(lift)), 1e-3);
}

TEST(Joint, ASpringSagsByLoadOverStiffnessAtEveryRate) {
  for (const double hz : {30.0, 60.0, 240.0}) {
    for (const double stiffness : {800.0, 2e4, 5e5}) {
      Yard yard;
      const BodyId body = yard.world.add({.shape = Box{}, .kind = BodyKind::dynamic, .mass = 50, .can_sleep = false});
      const JointId joint = yard.world.add(JointPlan{.kind = JointKind::slider,
                                                     .a = body,
                                                     .axis = {0, 1, 0},
                                                     .stiffness = stiffness,
                                                     .damping = std::sqrt(stiffness * 50),
                                                     .rest = 0});
      yard.run(10, hz);
      EXPECT_NEAR(yard.world.facts(joint).position, -50 * g / stiffness, 0.002 * 50 * g / stiffness)
          << hz << " " << stiffness;
    }
  }
}

TEST(Joint, RopesAndChainsHoldTheirLengthUnderLoad) {
  Yard yard;
  std::vector<JointId> links;
  BodyId above;
  for (int i = 0; i < 8; ++i) {
    const BodyId ball = yard.world.add({.shape = Sphere{0.1},
                                        .pose = {{0.5 + 0.5 * i, 4, 0}, {}},
                                        .kind = BodyKind::dynamic,
                                        .mass = i == 7 ? 40.0 : 1.0});
    const Vec3 at = yard.world.pose(ball).position;
    links.push_back(yard.world.add(JointPlan{.kind = JointKind::distance,
                                             .a = ball,
                                             .b = above,
                                             .at = at,
                                             .at_b = at - Vec3{0.5, 0, 0},
                                             .low = 0,
                                             .high = 0.5}));
    above = ball;
  }
  double longest = 0;
  yard.run(8, 60, [&] {
    for (const JointId link : links) longest = std::max(longest, yard.world.facts(link).position);
  });
  EXPECT_LT(longest, 0.55) << "40 kg on links of 1 kg";
}

TEST(Joint, ABallJointStopsAtItsConeAndAFixedOneKeepsShape) {
  Yard yard;
  const BodyId rod =
      yard.world.add({.shape = Capsule{0.05, 0.4}, .pose = {{0, 0.5, 0}, {}}, .kind = BodyKind::dynamic, .mass = 4});
  const JointId ball = yard.world.add(JointPlan{.kind = JointKind::ball, .a = rod, .axis = {0, 1, 0}, .cone = 0.5});
  yard.world.push(rod, {2, 0, 1});
  double widest = 0;
  yard.run(4, 60, [&] { widest = std::max(widest, yard.world.facts(ball).position); });
  EXPECT_NEAR(widest, 0.5, 0.02);
  EXPECT_NEAR(yard.world.facts(ball).position, 0.5, 5e-3);

  const BodyId a = yard.crate({5, 1, 0}), b = yard.crate({5.7, 1, 0});
  yard.floor();
  yard.world.add(JointPlan{.kind = JointKind::fixed, .a = a, .b = b, .at = {5.35, 1, 0}});
  yard.world.set_motion(a, {0, 3, 1}, {1, 2, 3});
  yard.run(4, 60);
  const Pose between = to_local(yard.world.pose(a), yard.world.pose(b));
  EXPECT_LT(norm(between.position - Vec3{0.7, 0, 0}), 2e-3);
  EXPECT_NEAR(std::abs(between.orientation.w), 1, 1e-5);
}

TEST(Joint, ItBreaksAboveItsForceAndSaysSo) {
  Yard yard;
  const BodyId weight = yard.crate({0, 5, 0}, 20);
  const JointId rope = yard.world.add(JointPlan{.kind = JointKind::distance,
                                                .a = weight,
                                                .at = {0, 5, 0},
                                                .at_b = {0, 6, 0},
                                                .low = 0,
                                                .high = 1,
                                                .break_force = 600});
  yard.run(2, 60);
  EXPECT_TRUE(yard.world.alive(rope));
  yard.world.push(weight, {0, -60, 0});
  bool heard = false;
  yard.run(0.5, 60, [&] {
    for (const JointEvent& e : yard.world.broken()) heard = e.joint == rope && e.force > 600;
  });
  EXPECT_TRUE(heard);
  EXPECT_FALSE(yard.world.alive(rope));
  EXPECT_THROW(yard.world.facts(rope), InputError);
  EXPECT_LT(yard.world.velocity(weight).y, -3) << "it falls";
}

TEST(Joint, BadPlansAreRefusedByName) {
  Yard yard;
  const BodyId a = yard.crate({0, 1, 0}), floor = yard.floor();
  const auto key_of = [&](JointPlan plan) -> std::string {
    try {
      yard.world.add(plan);
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "none";
  };
  EXPECT_EQ(key_of({.a = {}}), "a");
  EXPECT_EQ(key_of({.a = a, .b = a}), "b");
  EXPECT_EQ(key_of({.a = floor}), "a");
  EXPECT_EQ(key_of({.kind = JointKind::hinge, .a = a, .axis = {0, 0, 0}}), "axis");
  EXPECT_EQ(key_of({.a = a, .at = {0, NAN, 0}}), "at");
  EXPECT_EQ(key_of({.a = a, .low = 2, .high = 1}), "low");
  EXPECT_EQ(key_of({.a = a, .motor_limit = -1, .name = "axle"}), "joint 'axle': motor_limit");
  EXPECT_EQ(key_of({.a = a, .stiffness = INFINITY}), "stiffness");
  EXPECT_EQ(key_of({.a = a, .break_force = 0}), "break_force");
  EXPECT_EQ(key_of({.a = a}), "none");
}

/// m dv = (F + m g) dt over each tick, also where a tick is several steps.
TEST(Joint, ToldForcesAreMeansOverTheWholeTick) {
  for (const double hz : {20.0, 30.0, 47.0, 60.0, 144.0}) {
    for (const JointKind kind :
         {JointKind::ball, JointKind::hinge, JointKind::slider, JointKind::fixed, JointKind::distance}) {
      Yard yard;
      const BodyId body = yard.world.add({.shape = Box{{0.3, 0.2, 0.4}},
                                          .pose = {{1, 2, 0}, {}},
                                          .kind = BodyKind::dynamic,
                                          .velocity = {0, 1, 2},
                                          .mass = 7,
                                          .can_sleep = false});
      JointPlan plan{.kind = kind, .a = body, .at = {0, 2, 0}};
      if (kind == JointKind::slider) plan.stiffness = 300, plan.damping = 3;
      if (kind == JointKind::distance) plan.at = {0.7, 2, 0}, plan.at_b = {-0.2, 2.5, 0}, plan.low = 0, plan.high = 1.2;
      const JointId joint = yard.world.add(plan);
      Vec3 before = yard.centre_velocity(body);
      double off = 0, most = 0;
      yard.run(2, hz, [&] {
        const Vec3 now = yard.centre_velocity(body);
        const Vec3 needed = ((now - before) * hz + Vec3{0, g, 0}) * 7;
        off = std::max(off, norm(needed - yard.world.facts(joint).force)), most = std::max(most, norm(needed));
        before = now;
      });
      EXPECT_LT(off, (kind == JointKind::distance ? 5e-3 : 1e-9) * most) << static_cast<int>(kind) << " at " << hz;
    }
  }
}

}  // namespace
}  // namespace jugend::testing
