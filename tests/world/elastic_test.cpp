// What rebounds keeps its energy: one body of any shape in a closed room, and many at once.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 90, 144, 240, 500};

/// A room of 4 m whose walls give everything back.
struct Room : Yard {
  Surface hard{.friction = 0, .restitution = 1};
  Room() {
    for (const double side : {-1.0, 1.0}) {
      world.add({.shape = Box{{4, 1, 4}}, .pose = {{0, 2 + 3 * side, 0}, {}}, .surface = hard});
      world.add({.shape = Box{{1, 4, 4}}, .pose = {{3 * side, 2, 0}, {}}, .surface = hard});
      world.add({.shape = Box{{4, 4, 1}}, .pose = {{0, 2, 3 * side}, {}}, .surface = hard});
    }
  }
};

Shape any_shape(Random& random) {
  const auto size = [&] { return random.uniform(0.08, 0.3); };
  const double a = size(), b = size(), c = size();
  const Shape shapes[] = {Sphere{a}, Box{{a, b, c}}, Capsule{a, b}, Cylinder{a, b}};
  return shapes[random.below(4)];
}

TEST(Elastic, ABodyOfAnyShapeKeepsItsEnergyInAClosedRoom) {
  Random random(91);
  for (int i = 0; i < scenes_of(120); ++i) {
    const double hz = any_rate[random.below(6)];
    Room room;
    const Shape shape = any_shape(random);
    const Quat turn = rotation(random.direction() * random.uniform(0, 3));
    const Vec3 velocity = random.point(4), spin = random.point(8);
    const BodyId body = room.world.add({.shape = shape,
                                        .pose = {{0, 2, 0}, turn},
                                        .kind = BodyKind::dynamic,
                                        .velocity = velocity,
                                        .spin = spin,
                                        .surface = room.hard});
    const double start = energy(room.world), mass = room.world.facts(body).mass;
    double most = start, least = start;
    room.run(8, hz, [&] { most = std::max(most, energy(room.world)), least = std::min(least, energy(room.world)); });
    EXPECT_LT(most, start + 0.02 * mass * g) << i << " shape " << shape.index() << " at " << hz;
    EXPECT_GT(least, 0.95 * start) << i << " shape " << shape.index() << " at " << hz;
  }
}

/// A row of balls that all but touch, asleep or not: what comes in at one end goes out at the other, alone.
TEST(Elastic, ARowOfBallsHandsASpeedOn) {
  Random random(92);
  for (int i = 0; i < scenes_of(160); ++i) {
    const double hz = any_rate[random.below(6)], speed = std::exp(random.uniform(-1, 3));
    const double gap = random.below(3) * std::exp(random.uniform(-10, -4));
    const int n = 3 + random.below(i % 4 == 0 ? 38 : 5);
    const bool sleep = random.below(2) == 0, backwards = random.below(2) == 0;
    const Vec3 along = random.direction(), frame = sleep ? Vec3{} : random.point(15);
    Yard yard;
    yard.world.set_gravity({});
    const auto ball = [&](double at, double velocity) {
      return yard.world.add({.shape = Sphere{0.1},
                             .pose = {along * at, {}},
                             .kind = BodyKind::dynamic,
                             .velocity = frame + along * velocity,
                             .surface = {.restitution = 1},
                             .can_sleep = sleep});
    };
    std::vector<BodyId> row(n);
    for (int k = 1; k < n; ++k) {
      const int place = backwards ? n - k : k;
      row[place] = ball((0.2 + gap) * place, 0);
    }
    if (sleep) {
      yard.run(1, hz);
      ASSERT_EQ(yard.world.awake(), 0u);
    }
    const double before = random.uniform(0.001, 0.3);
    row[0] = ball(-before, speed);
    yard.run(1 + n * 0.2 / speed, hz);
    for (int k = 0; k < n; ++k)
      EXPECT_LT(norm(yard.world.velocity(row[k]) - frame - along * (k + 1 == n ? speed : 0)), 0.01 * speed)
          << i << ": " << k << " of " << n << " at " << hz << " Hz, " << speed << " m/s, gap " << gap << " asleep "
          << sleep;
  }
}

TEST(Elastic, WhatIsStruckDoesNotPassThroughWhatLiesBehindIt) {
  Random random(93);
  for (int i = 0; i < 300; ++i) {
    const double hz = any_rate[random.below(6)], speed = random.uniform(2, 40), e = random.below(3) * 0.5;
    const double behind = std::exp(random.uniform(std::log(1e-3), std::log(0.15))), heavy = random.uniform(0.3, 3);
    Yard yard;
    yard.world.set_gravity({});
    const Surface surface{.restitution = e};
    yard.world.add({.shape = Box{{0.005, 3, 3}}, .surface = surface});
    const auto ball = [&](double x, double velocity, double mass) {
      const double aside = random.uniform(-0.03, 0.03);
      return yard.world.add({.shape = Sphere{0.1},
                             .pose = {{x, aside, 0}, {}},
                             .kind = BodyKind::dynamic,
                             .velocity = {velocity, 0, 0},
                             .surface = surface,
                             .mass = mass});
    };
    const double x = -0.105 - behind;
    const BodyId struck = ball(x, 0, 1), striker = ball(x - 0.2 - random.uniform(0.01, 1), speed, heavy);
    double furthest = -1;
    yard.run(0.6, hz, [&] {
      furthest = std::max({furthest, yard.world.pose(struck).position.x, yard.world.pose(striker).position.x});
    });
    EXPECT_LT(furthest, -0.03) << i << " at " << hz << " Hz, " << speed << " m/s, " << behind << " m, e " << e;
  }
}

}  // namespace
}  // namespace jugend::testing
