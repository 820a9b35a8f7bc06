// Ropes over two wheels: two loads on one rope, whatever its ratio.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>

#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {20, 30, 60, 144, 240};

/// Two loads that hang from wheels 12 m up.
struct Hoist {
  Yard yard;
  BodyId a, b;
  JointPlan plan;
  JointId rope;

  Hoist(double mass_a, double mass_b, double ratio, const Vec3& at_a = {0, 0, 0}, const Vec3& at_b = {4, 0, 0}) {
    const auto load = [&](const Vec3& at, double mass) {
      return yard.world.add({.shape = Box{{0.3, 0.2, 0.4}},
                             .pose = {at - Vec3{0, 0.2, 0}, {}},
                             .kind = BodyKind::dynamic,
                             .mass = mass,
                             .can_sleep = false});
    };
    a = load(at_a, mass_a), b = load(at_b, mass_b);
    plan = {.kind = JointKind::pulley, .a = a, .b = b, .at = at_a, .at_b = at_b};
    plan.over_a = {0, 12, 0}, plan.over_b = {4, 12, 0}, plan.ratio = ratio;
    rope = yard.world.add(plan);
  }
};

TEST(Pulley, LoadsMoveAsAtwoodsMachineDoes) {
  Random random(71);
  for (int i = 0; i < 150; ++i) {
    const double m1 = std::exp(random.uniform(-1, 5)), m2 = std::exp(random.uniform(-1, 5));
    const double ratio = std::exp(random.uniform(-1.2, 1.2)), hz = any_rate[random.below(5)];
    Hoist h(m1, m2, ratio);
    const double down = g * ratio * (ratio * m1 - m2) / (ratio * ratio * m1 + m2);  // of a, m/s²
    h.yard.run(0.6, hz, [] {});
    const double time = std::lround(0.6 * hz) / hz;
    EXPECT_NEAR(-h.yard.world.velocity(h.a).y, down * time, 1e-3 * g * time)
        << m1 << " " << m2 << " " << ratio << " " << hz;
    EXPECT_NEAR(h.yard.world.velocity(h.b).y, down * time / ratio, 1e-3 * g * time / ratio);
    const JointFacts facts = h.yard.world.facts(h.rope);
    EXPECT_NEAR(facts.force.y, m1 * (g - down), 1e-3 * m1 * g);
    EXPECT_NEAR(facts.position, 12 * (1 + ratio), 2e-3);
    EXPECT_NEAR(facts.speed, 0, 1e-6);
  }
}

TEST(Pulley, WhatBalancesHangsStill) {
  Hoist h(30, 75, 2.5);
  h.yard.run(5, 60, [] {});
  EXPECT_LT(norm(h.yard.world.velocity(h.a)), 1e-6);
  EXPECT_NEAR(h.yard.world.pose(h.b).position.y, -0.2, 2e-3);
}

/// A swinging load draws the other up as it flies outward: no closed form, but energy and the rope's length are kept.
TEST(Pulley, ASwingingLoadKeepsEnergyAndLength) {
  Random random(72);
  for (int i = 0; i < 20; ++i) {
    const double hz = any_rate[random.below(5)], ratio = random.uniform(0.6, 1.6), angle = random.uniform(0.2, 0.9);
    const Vec3 at{9 * std::sin(angle), 12 - 9 * std::cos(angle), 0};
    Hoist h(20, random.uniform(20, 60) * ratio, ratio, at);
    const double begin = energy(h.yard.world), length = h.yard.world.facts(h.rope).position;
    double most = 0, longest = 0;
    h.yard.run(1.5, hz, [&] {
      most = std::max(most, std::abs(energy(h.yard.world) - begin));
      longest = std::max(longest, h.yard.world.facts(h.rope).position);
    });
    EXPECT_LT(most, 5e-3 * 20 * g * 9) << hz;
    EXPECT_LT(longest, length + 5e-3) << hz;
  }
}

TEST(Pulley, AThrownLoadLeavesTheRopeSlackAndIsCaughtAgain) {
  Hoist h(50, 50, 1);
  h.yard.world.set_motion(h.b, {0, 4, 0}, {});
  double shortest = 24;
  h.yard.run(0.2, 60, [&] { shortest = std::min(shortest, h.yard.world.facts(h.rope).position); });
  EXPECT_LT(shortest, 23.7);
  EXPECT_NEAR(h.yard.world.velocity(h.a).y, -g * 0.2, 1e-6) << "it falls freely while the rope is slack";
  h.yard.run(3, 60, [&] { EXPECT_LT(h.yard.world.facts(h.rope).position, 24.01); });
}

TEST(Pulley, BadPlansAreRefusedByName) {
  Hoist h(1, 1, 1);
  const auto key_of = [&](auto&& change) -> std::string {
    JointPlan plan = h.plan;
    change(plan);
    try {
      h.yard.world.add(plan);
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "none";
  };
  EXPECT_EQ(key_of([](JointPlan& p) { p.b = {}; }), "b");
  EXPECT_EQ(key_of([](JointPlan& p) { p.ratio = 0; }), "ratio");
  EXPECT_EQ(key_of([](JointPlan& p) { p.over_b.x = NAN; }), "over_b");
  EXPECT_EQ(key_of([](JointPlan& p) { p.high = -1, p.low = -2; }), "high");
  EXPECT_EQ(key_of([](JointPlan&) {}), "none");
}

}  // namespace
}  // namespace jugend::testing
