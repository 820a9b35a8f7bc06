// Multirotors in trouble: rotors lost, blows, walls, started upside down.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>

#include "../support/at_rate.hpp"
#include "../support/drone.hpp"
#include "../support/random.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

constexpr double g = standard_gravity;

class DroneAtRate : public AtRate {};
INSTANTIATE_TEST_SUITE_P(Rates, DroneAtRate, ::testing::ValuesIn(rates), rate_name);

/// The most lift without roll and pitch, by brute force: of a linear programme with two conditions some best corner has
/// all but two rotors at a limit.
double most_lift(const RotorMix& mix, std::vector<int> turning, double most) {
  std::vector<Wrench> of_one;
  for (const int i : turning) {
    std::vector<double> thrusts(static_cast<std::size_t>(mix.count()));
    thrusts[static_cast<std::size_t>(i)] = 1;
    of_one.push_back(mix.made(thrusts));
  }
  double best = 0;
  const std::size_t n = of_one.size();
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = i + 1; j < n; ++j) {
      const Vec3 &a = of_one[i].torque, &b = of_one[j].torque;
      const double det = a.x * b.z - b.x * a.z;
      for (unsigned full = 0; full < (1u << n); ++full) {
        if ((full >> i & 1u) != 0 || (full >> j & 1u) != 0) continue;
        Wrench others;
        for (std::size_t k = 0; k < n; ++k) {
          if ((full >> k & 1u) != 0) others.lift += of_one[k].lift * most, others.torque += of_one[k].torque * most;
        }
        // Two that lie across from one another balance at any thrust.
        const bool across = std::abs(det) < 1e-9 && norm(a + b - Vec3{0, a.y + b.y, 0}) < 1e-9;
        if (!across && std::abs(det) < 1e-9) continue;
        const double f = across ? most : (-others.torque.x * b.z + others.torque.z * b.x) / det;
        const double h = across ? most : (-a.x * others.torque.z + a.z * others.torque.x) / det;
        if (across && norm(others.torque - Vec3{0, others.torque.y, 0}) > 1e-9) continue;
        if (std::min(f, h) < -1e-9 || std::max(f, h) > most + 1e-9) continue;
        best = std::max(best, others.lift + of_one[i].lift * f + of_one[j].lift * h);
      }
    }
  }
  return best;
}

TEST(RotorMix, GivesTheMostLiftThatLeavesItLevel) {
  constexpr double weight = 20;
  for (int count = 3; count <= 10; ++count) {
    MultirotorTuning tuning;
    tuning.rotors = count;
    const auto rotors = rotors_of(tuning, weight);
    const RotorMix mix(rotors, weight);
    for (int a = 0; a < count; ++a) {
      for (int b = a; b < count; ++b) {
        std::vector<int> turning;
        for (int i = 0; i < count; ++i) {
          if (i != a && i != b) turning.push_back(i);
        }
        const double best = most_lift(mix, turning, rotors[0].most_thrust);
        EXPECT_NEAR(mix.most_lift(1u << a | 1u << b), best, 0.01 * weight) << count << " less " << a << " and " << b;
      }
    }
  }
}

/// No other thrusts within the limits come nearer: of random ones beside them none miss less, in the order of what
/// counts.
TEST(RotorMix, ComesAsNearAsItsRotorsCan) {
  Random random(11);
  for (int scene = 0; scene < 200; ++scene) {
    MultirotorTuning tuning;
    tuning.rotors = static_cast<int>(random.below(10)) + 3;
    const auto n = static_cast<std::size_t>(tuning.rotors);
    const auto rotors = rotors_of(tuning, 20);
    const RotorMix mix(rotors, 20);
    unsigned failed = 0;
    for (unsigned lost = random.below(3); lost > 0; --lost)
      failed |= 1u << random.below(static_cast<unsigned>(tuning.rotors));
    const Wrench wanted{random.uniform(0, 40), random.direction() * random.uniform(0, 3)};
    std::vector<double> got(n), other(n);
    mix.share(wanted, failed, got);
    const auto missed = [&](const std::vector<double>& thrusts) {
      const Wrench made = mix.made(thrusts);
      const auto squared = [](double x) { return x * x; };
      return squared((made.torque.x - wanted.torque.x) / tuning.arm) +
             squared((made.torque.z - wanted.torque.z) / tuning.arm) + 1e-4 * squared(made.lift - wanted.lift) +
             1e-6 * squared((made.torque.y - wanted.torque.y) / tuning.arm);
    };
    for (std::size_t i = 0; i < n; ++i) {
      EXPECT_TRUE(got[i] >= 0 && got[i] <= rotors[i].most_thrust);
      if ((failed >> i & 1u) != 0) {
        EXPECT_EQ(got[i], 0);
      }
    }
    const double least = missed(got);
    for (int trial = 0; trial < 300; ++trial) {
      const double step = std::pow(10, random.uniform(-4, 0.5));
      for (std::size_t i = 0; i < n; ++i)
        other[i] =
            (failed >> i & 1u) != 0 ? 0 : std::clamp(got[i] + random.uniform(-step, step), 0.0, rotors[i].most_thrust);
      ASSERT_GE(missed(other), least - 1e-9 - 1e-6 * least) << scene;
    }
  }
}

/// Whichever rotors fail: it hovers on where the others can bear it level, else comes down no faster than it must.
TEST_P(DroneAtRate, FliesOnWithTheRotorsThatAreLeft) {
  Random random(5);
  const auto flies_on = [&](int count, int a, int b) {
    MultirotorTuning tuning;
    tuning.rotors = count, tuning.lift_ratio = random.uniform(1.5, 4), tuning.drag = 0;
    Drone d(tuning, {0, 1000, 0});
    d.run({}, 1, hz);
    d.drone->fail(a), d.drone->fail(b);
    d.run({}, 5, hz);
    const double weight = d.mass * g, lift = RotorMix(rotors_of(tuning, weight), weight).most_lift(1u << a | 1u << b);
    const double fallen = 1000 - d.place().y, must = std::max(0.0, 1 - lift / weight) * g * 12.5;
    const ::testing::Message scene = ::testing::Message() << count << " less " << a << " and " << b << ", "
                                                          << lift / weight << " of its weight";
    if (lift > 1.05 * weight) {
      EXPECT_NEAR(fallen, 0, 0.05) << scene;
      EXPECT_LT(d.tilt(), 3 * radians_per_degree) << scene;
    } else {
      EXPECT_LT(fallen, 1.1 * must + 1.2) << scene;  // a little while the others come to more
    }
  };
  for (int count = 3; count <= 12; ++count) {
    const auto any = [&] { return static_cast<int>(random.below(static_cast<unsigned>(count))); };
    for (int a = 0; a < count; ++a) flies_on(count, a, a);
    for (int pair = 0; pair < 4; ++pair) flies_on(count, any(), any());
  }
}

TEST(Rotors, ThatFailOrStandAgainAreToldByNumber) {
  Drone d;
  EXPECT_THROW(d.drone->fail(4), InputError);
  EXPECT_THROW(d.drone->fail(-1), InputError);
  d.drone->fail(2);
  d.run({}, 1, 60);
  EXPECT_LT(d.drone->state().thrust[2], 1e-6);
  d.drone->fail(2, false);
  d.run({}, 8, 60);
  EXPECT_NEAR(d.place().y, 10, 0.05);
  EXPECT_NEAR(d.drone->state().thrust[2], d.mass * g / 4, 0.05 * d.mass * g);
}

/// A blow that throws it faster than it may climb: it stops as fast as its rotors can, and comes back within its limit
/// and no further.
TEST_P(DroneAtRate, ComesBackFromABlowWithinItsLimits) {
  Random random(6);
  for (int scene = 0; scene < 24; ++scene) {
    MultirotorTuning tuning;
    tuning.mode = static_cast<RotorMode>(scene % 4);
    Drone d(tuning, {0, 100, 0});
    const MultirotorIntent stay{.place = {0, 100, 0}};
    d.run(stay, 1, hz);
    const Vec3 blow = random.direction() * random.uniform(1, 8);
    d.world.push(d.body, blow * d.mass);
    double past = 0, fastest = 0;
    const double side = blow.y < 0 ? -1 : 1;
    d.run(stay, 8, hz, [&] {
      past = std::max(past, side * (100 - d.place().y));
      if (side * d.velocity().y < 0) fastest = std::max(fastest, std::abs(d.velocity().y));
    });
    EXPECT_LT(past, 0.2) << scene << ": " << blow.y;
    EXPECT_LT(fastest, 1.02 * tuning.climb_limit) << scene;
    EXPECT_NEAR(d.place().y, 100, 0.01) << scene;
  }
}

TEST_P(DroneAtRate, RightsItselfHoweverItStarts) {
  Random random(7);
  for (int scene = 0; scene < scenes_of(20); ++scene) {
    MultirotorTuning tuning;
    tuning.mode = static_cast<RotorMode>(1 + scene % 3);
    Drone d(tuning, {0, 100, 0});
    const double angle = scene < 4 ? pi : random.uniform(0, pi);
    d.world.place(d.body,
                  {{0, 100, 0}, rotation(normalised(Vec3{random.uniform(-1, 1), 0, random.uniform(-1, 1)}) * angle)});
    const MultirotorIntent stay{.place = {0, 100, 0}};
    d.run(stay, 2, hz);
    EXPECT_LT(d.tilt(), tuning.tilt_limit + 0.1) << scene << " from " << angle;
    d.run(stay, 6, hz);
    EXPECT_LT(std::abs(d.velocity().y), 0.05) << scene << " from " << angle;
    EXPECT_NEAR(d.place().y, 100, 0.05) << scene;
  }
}

/// A blow aside of its middle sets it tumbling, and round its up. All that its rotors had went against the swing of a
/// top, and a turn faster than they follow took them the wrong way: it fell for ever. At 30 Hz, flown in two parts, it
/// even spun up without end.
TEST_P(DroneAtRate, StopsTumblingHoweverItSpins) {
  Random random(604);
  for (int scene = 0; scene < scenes_of(24); ++scene) {
    MultirotorTuning tuning;
    tuning.mode = scene % 2 == 0 ? RotorMode::attitude : RotorMode::velocity;
    tuning.rotors = std::array{4, 6, 8}[random.below(3)];
    Drone craft(tuning, {0, 400, 0});
    craft.run({}, 1, hz);
    const double roll = random.uniform(-15, 15);
    const double yaw = random.uniform(-15, 15);
    const double pitch = random.uniform(-15, 15);
    craft.world.set_motion(craft.body, {}, {roll, yaw, pitch});
    const double given = norm(Vec3{roll, yaw, pitch});
    double fastest = 0, lowest = 400, time = 0, tilted = 0;
    craft.run({}, 7, hz, [&] {
      time += 1 / hz;
      fastest = std::max(fastest, norm(craft.world.facts(craft.body).spin));
      lowest = std::min(lowest, craft.place().y);
      if (craft.tilt() > 0.3) tilted = time;
    });
    EXPECT_LT(fastest, given + 0.5) << "scene " << scene;
    EXPECT_LT(tilted, 5.5) << "scene " << scene;
    EXPECT_GT(lowest, 400 - 15.0) << "scene " << scene;
    EXPECT_LT(norm(craft.world.facts(craft.body).spin), 2.5) << "scene " << scene;
  }
}

/// Pressed against a wall it leans as it is asked to, at its height, and leaves when it is asked to.
TEST_P(DroneAtRate, LeansOnAWallAndComesOffIt) {
  Random random(8);
  for (int scene = 0; scene < scenes_of(24); ++scene) {
    MultirotorTuning tuning;
    tuning.mode = scene % 2 == 0 ? RotorMode::attitude : RotorMode::velocity;
    Drone d(tuning);
    const double away = random.uniform(0.3, 0.8);
    d.world.add({.shape = Box{{0.5, 40, 40}},
                 .pose = {{0.22 + away + 0.5, 10, 0}, {}},
                 .surface = {.friction = random.uniform(0, 1)}});
    const double stick = random.uniform(0.3, 0.6);
    d.run({.ahead = stick}, random.uniform(2, 4), hz);
    EXPECT_NEAR(d.place().y, 10, 0.1) << scene;
    const double from = d.place().x;
    EXPECT_GT(from, away - 0.1) << scene;
    d.run({.ahead = -stick}, 2, hz);
    EXPECT_LT(d.place().x, from - 0.1) << scene << ": stick " << stick;
    EXPECT_NEAR(d.place().y, 10, 0.6) << scene;
  }
}

}  // namespace
}  // namespace jugend::testing
