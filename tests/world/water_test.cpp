// Bodies in water: how deep they float, how they bob, roll and capsize, what drag leaves of their speed.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/portion.hpp>

#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 48, 60, 144, 240};
constexpr double density = 1000;

/// A lake whose surface is y = 0, turned with its gravity.
struct Lake : Yard {
  Quat turn;
  bool sleeps = false;
  explicit Lake(double drag = 0, const Vec3& flow = {}, const Quat& turned = {}) : turn(turned) {
    world.set_gravity(rotate(turn, {0, -g, 0}));
    world.add_pool({.half_extents = {200, 50, 200},
                    .pose = {rotate(turn, {0, -50, 0}), turn},
                    .density = density,
                    .drag = drag,
                    .flow = rotate(turn, flow)});
  }
  BodyId add(const Shape& shape, double share, const Pose& pose, const Vec3& velocity = {}, const Vec3& spin = {}) {
    return world.add({.shape = shape,
                      .pose = to_world(Pose{{}, turn}, pose),
                      .kind = BodyKind::dynamic,
                      .velocity = rotate(turn, velocity),
                      .spin = rotate(turn, spin),
                      .density = share * density,
                      .can_sleep = sleeps});
  }
  Pose seen(BodyId id) const { return to_local(Pose{{}, turn}, world.pose(id)); }
  Vec3 up_of(BodyId id) const { return rotate(seen(id).orientation, {0, 1, 0}); }
  /// J of the water that a body has lifted out of its way.
  double lifted(const Shape& shape, BodyId id) const {
    const Portion under = within_box(shape, to_local(Pose{{0, -50, 0}, {}}, seen(id)), {200, 50, 200});
    return density * g * under.volume * (50 - under.centre.y);
  }
};

/// Half a swing's time, from one passage of `value` through zero to the second after it.
struct Swing {
  double last = 0, now = 0;
  std::vector<double> passed;
  void note(double value, double dt) {
    if (now > 0 && last * value < 0) passed.push_back(now + dt * last / (last - value));
    last = value, now += dt;
  }
  double period() const { return 2 * (passed.back() - passed.front()) / static_cast<double>(passed.size() - 1); }
};

/// Archimedes, On Floating Bodies: as much is under as weighs what the body does.
TEST(Water, BodiesFloatAsDeepAsTheyWeigh) {
  Random random(81);
  for (int i = 0; i < scenes_of(60); ++i) {
    const double hz = any_rate[random.below(5)], share = random.uniform(0.1, 0.95), r = random.uniform(0.1, 0.5);
    Lake lake(8);
    const double half = random.uniform(0.2, 0.5);
    const bool ball = random.below(2) == 0;
    const Shape shape = ball ? Shape{Sphere{r}} : Shape{Box{{3 * half, half, 3 * half}}};
    const BodyId id = lake.add(shape, share, {{0, random.uniform(-1, 0.5), 0}, {}});
    lake.run(40, hz);
    const double y = lake.seen(id).position.y;
    // Of a ball's height 2 r the part h: π h² (3 r - h) / 3 under.
    const double h = ball ? r - y : half - y,
                 under = ball ? pi * h * h * (3 * r - h) / 3 / (4 * pi / 3 * r * r * r) : h / (2 * half);
    EXPECT_NEAR(under, share, 2e-4) << i << " at " << hz;
    EXPECT_LT(norm(lake.world.velocity(id)), 1e-3) << i << " at " << hz;
  }
}

TEST(Water, WhatFloatsFallsAsleepWhereItFloats) {
  Random random(87);
  for (int i = 0; i < scenes_of(30); ++i) {
    Lake lake(2);
    lake.sleeps = true;
    const double hz = any_rate[random.below(5)], share = random.uniform(0.2, 0.9);
    const BodyId id = lake.add(Box{{0.5, 0.2, 0.5}}, share, {{0, random.uniform(-0.5, 0.5), 0}, {}});
    lake.run(40, hz);
    EXPECT_TRUE(lake.world.asleep(id)) << i << " at " << hz;
    EXPECT_NEAR(lake.seen(id).position.y, 0.2 - 0.4 * share, 2e-3) << i << " at " << hz;
  }
}

TEST(Water, ARaftBobsAndRollsInItsPeriods) {
  Random random(82);
  for (int i = 0; i < 20; ++i) {
    const double hz = any_rate[1 + random.below(4)], share = random.uniform(0.2, 0.8);
    const double a = random.uniform(0.8, 1.5), h = random.uniform(0.1, 0.2), c = random.uniform(0.8, 2.5);
    const Box raft{{a, h, c}};
    const double draft = 2 * h * share, mass = share * density * 8 * a * h * c;
    const double rest = h - draft;  // y of its middle
    {
      Lake lake;
      const BodyId id = lake.add(raft, share, {{0, rest + 0.05 * draft, 0}, {}});
      Swing swing;
      lake.run(12, hz, [&] { swing.note(lake.seen(id).position.y - rest, 1 / hz); });
      const double period = 2 * pi * std::sqrt(mass / (density * g * 4 * a * c));
      ASSERT_GT(swing.passed.size(), 6u);
      EXPECT_NEAR(swing.period(), period, 0.01 * period) << i << " at " << hz;
    }
    Lake lake;
    // The metacentre lies I / V above the middle of what is under (Bouguer, Traité du navire, 1746).
    const double over = 4 * a * c * (a * a / 3) / (4 * a * c * draft) - (h - draft / 2);
    const BodyId id = lake.add(raft, share, {{0, rest, 0}, rotation({0, 0, 0.01})});
    Swing swing;
    lake.run(12, hz, [&] { swing.note(lake.up_of(id).x, 1 / hz); });
    const double inertia = mass / 3 * (a * a + h * h), period = 2 * pi * std::sqrt(inertia / (mass * g * over));
    ASSERT_GT(swing.passed.size(), 6u);
    EXPECT_NEAR(swing.period(), period, 0.01 * period) << i << " at " << hz;
  }
}

TEST(Water, BeamsCapsizeWhoseMetacentreIsUnderTheirMiddle) {
  Random random(83);
  for (int i = 0; i < scenes_of(60); ++i) {
    const double hz = any_rate[random.below(5)], share = random.uniform(0.2, 0.8);
    const double a = random.uniform(0.15, 0.3), h = random.uniform(0.15, 0.3);
    const double draft = 2 * h * share, over = a * a / 3 / draft - (h - draft / 2);
    if (std::abs(over) < 0.01) continue;
    Lake lake(1);
    const BodyId id = lake.add(Box{{a, h, 2}}, share, {{0, h - draft, 0}, rotation({0, 0, 0.02})});
    lake.run(20, hz);
    EXPECT_EQ(lake.up_of(id).y > 0.999, over > 0) << i << " at " << hz << ": " << over << " m";
  }
}

/// Kinetic, of its weight, and of the water lifted.
TEST(Water, WithoutDragWhatBobsKeepsItsEnergy) {
  Random random(84);
  for (int i = 0; i < scenes_of(40); ++i) {
    const double hz = any_rate[random.below(5)], a = random.uniform(0.2, 0.5), b = random.uniform(0.2, 0.5);
    std::vector<Vec3> points;
    for (int k = 0; k < 10; ++k) points.push_back(random.point(0.5));
    const Shape shapes[] = {Sphere{a},
                            Box{{a, b, 0.4}},
                            Capsule{a, b},
                            Cylinder{a, b},
                            std::make_shared<Hull>(points),
                            std::make_shared<Compound>(std::vector<Compound::Part>{
                                {Box{{a, 0.1, 0.1}}, {{0, b, 0}, {}}}, {Sphere{b}, {{0, -0.3, 0}, {}}}})};
    const Shape& shape = shapes[random.below(6)];
    const double share = random.uniform(0.3, 0.9);
    const Pose pose = random.pose(0.3);
    const Vec3 velocity = random.point(0.5), spin = random.point(1);
    Lake lake;
    const BodyId id = lake.add(shape, share, pose, velocity, spin);
    const auto all = [&] { return lake.energy() + lake.lifted(shape, id); };
    const double start = all(), weight = lake.world.mass(id) * g;
    double most = 0;
    lake.run(20, hz, [&] { most = std::max(most, std::abs(all() - start)); });
    EXPECT_LT(most / weight, 2e-3 * (60 / hz) * (60 / hz) + 2e-3) << i << " shape " << shape.index() << " at " << hz;
  }
}

TEST(Water, DragLeavesWhatItsTimeSaysAtAnyRate) {
  Random random(85);
  for (int i = 0; i < 40; ++i) {
    const double hz = any_rate[random.below(5)], drag = std::exp(random.uniform(-3, 4));
    const Vec3 flow = random.point(3), velocity = random.point(5), spin = random.point(3);
    Lake lake(drag, flow);
    const BodyId id = lake.add(Sphere{0.3}, 1, {{0, -20, 0}, {}}, velocity, spin);
    lake.run(1, 60);
    lake.run(1, hz);
    const double left = std::exp(-2 * drag);
    EXPECT_LT(norm(lake.world.velocity(id) - flow - (velocity - flow) * left), 1e-6) << i << " at " << hz;
    EXPECT_LT(norm(lake.world.spin(id) - spin * left), 1e-6) << i << " at " << hz;
  }
}

/// Where a body that falls into the lake is each half second.
std::vector<Pose> fall_in(const Quat& turn, const Vec3& flow, std::uint32_t seed, double hz) {
  Random random(seed);
  Lake lake(random.uniform(0, 1), flow, turn);
  const BodyId id = lake.add(Box{{0.3, 0.2, 0.5}}, 0.6, {{0, 1, 0}, rotation(random.point(0.3))});
  std::vector<Pose> places;
  for (int i = 0; i < 8; ++i) lake.run(0.5, hz), places.push_back(lake.seen(id));
  return places;
}

TEST(Water, TurnedWithItsGravityAndAtAnyRateItIsTheSame) {
  Random random(86);
  for (std::uint32_t i = 0; i < 16; ++i) {
    const Vec3 flow = random.below(2) ? random.point(1) : Vec3{};
    const auto fine = fall_in({}, flow, i, 1200), turned = fall_in(random.pose(1).orientation, flow, i, 1200);
    for (std::size_t k = 0; k < fine.size(); ++k)
      EXPECT_LT(norm(fine[k].position - turned[k].position), 2e-5) << i << ' ' << k;
    for (const double hz : {60.0, 144.0}) {
      const auto coarse = fall_in({}, flow, i, hz);
      for (std::size_t k = 0; k < fine.size(); ++k)
        EXPECT_LT(norm(fine[k].position - coarse[k].position), 0.05) << i << ' ' << k << " at " << hz;
    }
  }
}

TEST(Water, PoolsThatOverlapBearUpOnceAndPoolsThatAbutTogether) {
  for (const bool overlap : {true, false}) {
    Yard yard;
    for (const double side : {-1.0, 1.0})
      yard.world.add_pool(
          {.half_extents = {overlap ? 30.0 : 10.0, 5, 20}, .pose = {{10 * side, -5, 0}, {}}, .drag = 3});
    const BodyId id = yard.world.add({.shape = Sphere{0.4}, .kind = BodyKind::dynamic, .density = 500});
    yard.run(20, 60);
    EXPECT_NEAR(yard.world.pose(id).position.y, 0, 1e-3);
    EXPECT_NEAR(yard.world.pose(id).position.x, 0, 1e-3);
  }
}

}  // namespace
}  // namespace jugend::testing
