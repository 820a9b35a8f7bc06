// Rigid bodies against closed forms, at every tick rate.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/scene.hpp"
#include "../support/watched.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

class Bodies : public ::testing::TestWithParam<double> {
 protected:
  double hz() const { return GetParam(); }
};
INSTANTIATE_TEST_SUITE_P(Rates, Bodies, ::testing::Values(30, 48, 60, 120, 240),
                         [](const auto& rate) { return "hz" + std::to_string(static_cast<int>(rate.param)); });

TEST_P(Bodies, FallFromRestThroughAHeight) {
  Yard yard;
  const BodyId ball = yard.ball({0, 20, 0});
  yard.run(1.5, hz());
  EXPECT_NEAR(20 - yard.world.pose(ball).position.y, 0.5 * g * 1.5 * 1.5, 1e-3 * 0.5 * g * 2.25);
  EXPECT_NEAR(-yard.world.velocity(ball).y, g * 1.5, 1e-3 * g * 1.5);
}

TEST_P(Bodies, LinearDragAndTerminalSpeed) {
  Yard yard;
  yard.world.set_gravity({});
  const BodyId puck = yard.world.add({.shape = Box{},
                                      .kind = BodyKind::dynamic,
                                      .velocity = {7, 0, 0},
                                      .spin = {0, 3, 0},
                                      .linear_damping = 0.8,
                                      .angular_damping = 1.3});
  yard.run(2, hz());
  EXPECT_NEAR(yard.world.velocity(puck).x, 7 * std::exp(-1.6), 1e-3 * 7 * std::exp(-1.6));
  EXPECT_NEAR(yard.world.pose(puck).position.x, 7 / 0.8 * (1 - std::exp(-1.6)), 1e-3);
  EXPECT_NEAR(yard.world.spin(puck).y, 3 * std::exp(-2.6), 1e-3);
  yard.world.set_gravity({0, -g, 0});
  yard.run(30, hz());
  EXPECT_NEAR(-yard.world.velocity(puck).y, g / 0.8, 1e-3 * g / 0.8);
}

TEST_P(Bodies, BlockOnAnInclineRestsOrSlides) {
  for (const double friction : {0.0, 0.2, 0.35}) {
    const double angle = 0.4;
    Yard yard;
    yard.slope(angle, {.friction = friction, .friction_rule = Mixing::least});
    const Quat turn = rotation({0, 0, -angle});
    const Vec3 start = rotate(turn, {0, 0.3, 0});
    const BodyId block =
        yard.world.add({.shape = Box{{0.4, 0.3, 0.4}}, .pose = {start, turn}, .kind = BodyKind::dynamic});
    yard.run(2, hz());
    const double a = g * (std::sin(angle) - friction * std::cos(angle));
    EXPECT_NEAR(norm(yard.world.velocity(block)), 2 * a, 0.01 * 2 * a) << friction;
    EXPECT_NEAR(norm(yard.world.pose(block).position - start), 2 * a, 0.01 * 2 * a) << friction;
  }
  Yard yard;
  yard.slope(0.4, {.friction = 0.44, .friction_rule = Mixing::least});  // tan 0.4 = 0.423
  const Quat turn = rotation({0, 0, -0.4});
  const BodyId block = yard.world.add(
      {.shape = Box{{0.4, 0.3, 0.4}}, .pose = {rotate(turn, {0, 0.3, 0}), turn}, .kind = BodyKind::dynamic});
  const Vec3 start = yard.world.pose(block).position;
  yard.run(5, hz());
  EXPECT_LT(norm(yard.world.pose(block).position - start), 1e-3);
}

TEST_P(Bodies, FrictionIsAConeWhateverTheDirection) {
  for (const double heading : {0.0, 0.4, 0.785, 1.2}) {
    Yard yard;
    yard.floor({.friction = 0.3, .friction_rule = Mixing::least});
    const Vec3 way{std::cos(heading), 0, std::sin(heading)};
    const BodyId box = yard.world.add(
        {.shape = Box{{0.4, 0.2, 0.3}}, .pose = {{0, 0.2, 0}, {}}, .kind = BodyKind::dynamic, .velocity = way * 4.0});
    yard.run(3, hz());
    const Vec3 stopped = yard.world.pose(box).position - Vec3{0, 0.2, 0};
    const double d = 16 / (2 * 0.3 * g);
    EXPECT_NEAR(dot(stopped, way), d, 0.01 * d) << heading;
    EXPECT_LT(norm(in_plane(stopped, way)), 0.02) << heading;
  }
}

TEST_P(Bodies, RollDownAnIncline) {
  const double angle = 0.2;
  struct Case {
    Shape shape;
    double inertia;  // I / m r²
    std::optional<Vec3> given;
  };
  const double shell = 2.0 / 3 * 10 * 0.25 * 0.25;
  for (const Case& c : {Case{Sphere{0.25}, 0.4, {}}, Case{Sphere{0.25}, 2.0 / 3, Vec3{shell, shell, shell}},
                        Case{Cylinder{0.25, 0.2}, 0.5, {}}}) {
    Yard yard;
    yard.slope(angle);
    const Quat turn = rotation({0, 0, -angle});
    const Quat lying = turn * rotation({1.5707963267948966, 0, 0});
    const BodyId body = yard.world.add({.shape = c.shape,
                                        .pose = {rotate(turn, {0, 0.25, 0}), lying},
                                        .kind = BodyKind::dynamic,
                                        .mass = 10,
                                        .inertia = c.given});
    yard.run(3, hz());
    const double a = g * std::sin(angle) / (1 + c.inertia);
    EXPECT_NEAR(norm(yard.world.velocity(body)), 3 * a, 0.01 * 3 * a);
    EXPECT_NEAR(norm(yard.world.spin(body)), norm(yard.world.velocity(body)) / 0.25, 0.005 * 12 * a);
    EXPECT_NEAR(yard.world.pose(body).position.z, 0, 1e-3) << "it rolls straight";
  }
}

TEST_P(Bodies, EachBounceReachesItsHeight) {
  for (const Shape& shape : {Shape(Sphere{0.25}), Shape(Box{{0.3, 0.25, 0.2}}), Shape(Capsule{0.1, 0.15})}) {
    for (const double e : {0.5, 0.8, 1.0}) {
      Yard yard;
      yard.floor();
      const BodyId body = yard.world.add(
          {.shape = shape, .pose = {{0, 1.25, 0}, {}}, .kind = BodyKind::dynamic, .surface = {.restitution = e}});
      double best = 0, before = 0;
      int bounces = 0;
      yard.run(6, hz(), [&] {
        const double v = yard.world.velocity(body).y, y = yard.world.pose(body).position.y - 0.25;
        if (v > 0) best = std::max(best, y + v * v / (2 * g));
        if (before > 0 && v <= 0 && bounces < 4) {
          const double wanted = std::pow(e, 2 * ++bounces);
          EXPECT_NEAR(best, wanted, 0.02 * wanted) << "e " << e << " bounce " << bounces;
          best = 0;
        }
        before = v;
      });
      EXPECT_GE(bounces, e < 0.6 ? 3 : 4);
    }
  }
}

TEST_P(Bodies, HeadOnSpheresKeepMomentumAndTheirShareOfSpeed) {
  for (const double e : {0.0, 0.4, 0.9}) {
    Yard yard;
    yard.world.set_gravity({});
    const Surface surface{.restitution = e};
    const auto ball = [&](double x, double mass, double speed) {
      return yard.world.add({.shape = Sphere{0.2},
                             .pose = {{x, 0, 0}, {}},
                             .kind = BodyKind::dynamic,
                             .velocity = {speed, 0, 0},
                             .surface = surface,
                             .mass = mass});
    };
    const BodyId a = ball(-2, 3, 5), b = ball(1, 7, -2);
    yard.run(1.5, hz());
    const double va = yard.world.velocity(a).x, vb = yard.world.velocity(b).x;
    EXPECT_NEAR(3 * va + 7 * vb, 3 * 5 - 7 * 2, 0.005);
    EXPECT_NEAR(vb - va, e * 7, 0.005 * 7);
  }
}

TEST_P(Bodies, TheLowestOfAStackCarriesTheWholeWeight) {
  Yard yard;
  const BodyId floor = yard.floor();
  std::vector<BodyId> crates;
  for (int i = 0; i < 5; ++i) crates.push_back(yard.crate({0, 0.3 + 0.6 * i, 0}));
  yard.run(0.4, hz());
  EXPECT_NEAR(yard.pressed(floor, crates[0]), 5 * 22 * g, 0.01 * 5 * 22 * g);
  EXPECT_NEAR(yard.pressed(crates[3], crates[4]), 22 * g, 0.02 * 22 * g);
}

TEST_P(Bodies, SpringAndDamperSwingAsTheBookSays) {
  for (const double ratio : {0.05, 0.2, 0.6}) {
    Yard yard;
    yard.world.set_gravity({});
    const double mass = 40, stiffness = mass * std::pow(2 * 3.14159265358979 * 1.8, 2);
    const BodyId body = yard.world.add(
        {.shape = Box{}, .pose = {{0.5, 0, 0}, {}}, .kind = BodyKind::dynamic, .mass = mass, .can_sleep = false});
    const JointId joint = yard.world.add(JointPlan{.kind = JointKind::slider,
                                                   .a = body,
                                                   .at = {0.5, 0, 0},
                                                   .axis = {1, 0, 0},
                                                   .stiffness = stiffness,
                                                   .damping = 2 * ratio * std::sqrt(stiffness * mass),
                                                   .rest = -0.5});
    double least = 1e9, x0 = 0.5, v0 = 0, now = 0, first = 0, last = 0;
    int crossings = 0;
    const double dt = 1 / hz();
    yard.run(ratio < 0.1 ? 3 : 1.2, hz(), [&] {
      now += dt;
      const double x1 = yard.world.facts(joint).position + 0.5, v1 = yard.world.facts(joint).speed;  // it rests at 0
      // Between ticks by the cubic through both places and speeds (Hermite), so that no peak is missed.
      double earlier = x0;
      for (int k = 1; k <= 100; ++k) {
        const double s = k / 100.0, t = 1 - s;
        const double x = x0 * t * t * (1 + 2 * s) + x1 * s * s * (3 - 2 * s) + dt * s * t * (v0 * t - v1 * s);
        least = std::min(least, x);
        if (earlier > 0 && x <= 0) {
          last = now - dt + dt * (s - 0.01 * x / (x - earlier));
          if (crossings++ == 0) first = last;
        }
        earlier = x;
      }
      x0 = x1, v0 = v1;
    });
    const double overshoot = std::exp(-3.14159265358979 * ratio / std::sqrt(1 - ratio * ratio));
    EXPECT_NEAR(-least / 0.5, overshoot, 0.005 * overshoot) << ratio;
    if (ratio < 0.1) {
      EXPECT_NEAR(crossings - 1, (last - first) * 1.8 * std::sqrt(1 - ratio * ratio), 0.005 * crossings);
    }
  }
}

TEST_P(Bodies, AHingedPendulumKeepsItsPeriodAndItsPlace) {
  Yard yard;
  const BodyId bar = yard.world.add({.shape = Box{{0.1, 0.5, 0.1}},
                                     .pose = {{0, -0.5, 0}, {}},
                                     .kind = BodyKind::dynamic,
                                     .velocity = {0.05, 0, 0},
                                     .spin = {0, 0, 0.1}});
  const JointId hinge =
      yard.world.add(JointPlan{.kind = JointKind::hinge, .a = bar, .at = {0, 0, 0}, .axis = {0, 0, 1}});
  double before = 0, now = 0, first = 0, last = 0;
  int crossings = -1;
  yard.run(20, hz(), [&] {
    now += 1 / hz();
    const double x = yard.world.facts(hinge).position;
    if (before < 0 && x >= 0) {
      last = now - 1 / hz() * x / (x - before);
      if (++crossings == 0) first = last;
    }
    before = x;
    ASSERT_NEAR(norm(yard.world.pose(bar).position), 0.5, 1e-3);
  });
  const double mass = yard.world.mass(bar), inertia = yard.world.inertia(bar).zz + mass * 0.25;
  const double period = 2 * 3.14159265358979 * std::sqrt(inertia / (mass * g * 0.5));
  EXPECT_NEAR((last - first) / crossings, period, 0.005 * period);
}

TEST_P(Bodies, ATorqueFreeBodyKeepsMomentumAndEnergy) {
  for (const Vec3& half : {Vec3{0.1, 0.3, 0.7}, Vec3{0.4, 0.4, 0.05}, Vec3{0.01, 1, 0.01}}) {
    Yard yard;
    yard.world.set_gravity({});
    const BodyId body = yard.world.add({.shape = Box{half},
                                        .kind = BodyKind::dynamic,
                                        .velocity = {1, 2, 3},
                                        .spin = {0.2, 6, 0.3},
                                        .can_sleep = false});
    const Vec3 momentum = yard.world.inertia(body) * yard.world.spin(body);
    const double energy = yard.energy();
    yard.run(60, hz());
    EXPECT_LT(norm(yard.world.inertia(body) * yard.world.spin(body) - momentum), 1e-6 * norm(momentum));
    EXPECT_NEAR(yard.energy(), energy, 0.01 * energy);
  }
}

/// Turned by more than a radian at a time about its axes one after the other, it made twenty times its energy.
TEST_P(Bodies, ATorqueFreeBodyKeepsThemHoweverFastItSpins) {
  Random random(71);
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    Yard yard;
    yard.world.set_gravity({});
    BodyPlan plan{.kind = BodyKind::dynamic, .can_sleep = false};
    const double x = random.uniform(0.03, 0.5);
    const double y = random.uniform(0.03, 0.5);
    const double z = random.uniform(0.03, 0.5);
    plan.shape = Box{{x, y, z}};
    plan.spin = random.direction() * std::exp(random.uniform(std::log(5), std::log(3000)));
    const BodyId body = yard.world.add(plan);
    const Vec3 momentum = yard.world.inertia(body) * plan.spin;
    const double energy = yard.energy();
    double most = energy, least = energy;
    for (int tick = 0; tick < 2 * hz(); ++tick) {
      yard.world.step(1 / hz());
      most = std::max(most, yard.energy()), least = std::min(least, yard.energy());
    }
    EXPECT_LT(norm(yard.world.inertia(body) * yard.world.spin(body) - momentum), 1e-6 * norm(momentum));
    EXPECT_LT(most - least, 0.01 * energy) << "scene " << scene << ", " << norm(plan.spin) << " rad/s";
  }
}

TEST_P(Bodies, AKickAtThePlaceOfContactIsEqualAndOpposite) {
  Yard yard;
  yard.world.set_gravity({});
  const BodyId a = yard.crate({0, 0, 0}, 22), b = yard.crate({2, 0, 0}, 61);
  const Vec3 impulse{30, 12, -4}, at{1, 0.2, 0.1};
  yard.world.push(a, -impulse, at);
  yard.world.push(b, impulse, at);
  yard.run(1, hz());
  const Vec3 sum = yard.world.velocity(a) * 22 + yard.world.velocity(b) * 61;
  EXPECT_LT(norm(sum), 1e-9);
  EXPECT_NEAR(norm(yard.world.velocity(a)), norm(impulse) / 22, 1e-9);
  EXPECT_GT(norm(yard.world.spin(a)), 0.1);
}

TEST_P(Bodies, AClosedElasticSceneGainsNoEnergy) {
  for (const int mix : {1, 3}) {
    Yard yard;
    const Surface hard{.friction = 0, .restitution = 1};
    for (const double side : {-1.0, 1.0}) {
      yard.world.add({.shape = Box{{4, 1, 4}}, .pose = {{0, 2 + 3 * side, 0}, {}}, .surface = hard});
      yard.world.add({.shape = Box{{1, 4, 4}}, .pose = {{3 * side, 2, 0}, {}}, .surface = hard});
      yard.world.add({.shape = Box{{4, 4, 1}}, .pose = {{0, 2, 3 * side}, {}}, .surface = hard});
    }
    Random random(5);
    for (int i = 0; i < 16; ++i) {
      const Vec3 at{-1.5 + i % 4, 0.6 + (i / 4 % 4) * 0.9, random.uniform(-1.5, 1.5)};
      const Shape shapes[] = {Sphere{0.18}, Box{{0.2, 0.12, 0.25}}, Capsule{0.12, 0.15}};
      yard.world.add({.shape = shapes[i % mix],
                      .pose = {at, {}},
                      .kind = BodyKind::dynamic,
                      .velocity = random.point(3),
                      .surface = hard});
    }
    const double start = yard.energy();
    double most = start;
    yard.run(unless_watched(60.0, 8.0), hz(), [&] { most = std::max(most, yard.energy()); });
    EXPECT_LT(most, 1.01 * start) << mix;
    // Corners that hit at the same moment lose some; balls keep most of it.
    EXPECT_GT(yard.energy(), (mix == 1 ? 0.7 : 0.15) * start);
  }
}

}  // namespace
}  // namespace jugend::testing
