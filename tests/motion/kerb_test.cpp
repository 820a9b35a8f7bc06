// Kerbs, stones, steps and gaps under wheels: at every rate what it is when ticks are fine, for every sense.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <string>

#include "../support/cart.hpp"
#include "../support/random.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

constexpr double rates[] = {30, 48, 60, 90, 120, 240};
constexpr GroundSense senses[] = {GroundSense::ray, GroundSense::rays, GroundSense::ball, GroundSense::disc};

/// What lies on the way, from x = 4 on.
struct Obstacle {
  enum Kind { kerb, stone, row, step_down, gap } kind = kerb;
  double height = 0.1, width = 0.2, apart = 0.4;

  void build(World& world) const {
    const auto slab = [&](double from, double to, double top) {
      world.add({.shape = Box{{0.5 * (to - from), 0.5, 5}}, .pose = {{0.5 * (from + to), top - 0.5, 0}, {}}});
    };
    constexpr double here = 4, far = 400;
    switch (kind) {
      case kerb: return slab(-far, here, 0), slab(here, far, height);
      case stone: return slab(-far, far, 0), slab(here, here + width, height);
      case row:
        slab(-far, far, 0);
        for (int k = 0; k < 3; ++k) slab(here + k * (width + apart), here + k * (width + apart) + width, height);
        return;
      case step_down: return slab(-far, here, 0), slab(here, far, -height);
      case gap: return slab(-far, here, 0), slab(here + width, far, 0);
    }
  }
};

struct Crossing {
  double highest = -1e9, speed = 0, up = 1;
};

/// Rolls freely over it and away, `phase` of a tick's way further on than it might.
Crossing cross(const Obstacle& obstacle, GroundSense sense, double speed, double unsprung, double hz, double phase) {
  VehicleTuning tuning;
  tuning.ground_probe = sense, tuning.air.drag = 0, tuning.drive.coast = 0, tuning.aids.hold = 0;
  for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.rolling = 0, axle.wheel.unsprung_mass = unsprung;
  Cart cart;
  obstacle.build(cart.world);
  cart.put(tuning, {phase * speed / hz, 0, 0});
  cart.world.set_motion(cart.body, {speed, 0, 0}, {});
  const double from = cart.place().y;
  Crossing crossing;
  cart.run({}, 8 / speed + 0.6, hz, [&] {
    crossing.highest = std::max(crossing.highest, cart.place().y - from);
    crossing.up = std::min(crossing.up, cart.up().y);
  });
  crossing.speed = cart.velocity().x;
  return crossing;
}

TEST(Kerbs, CountTheSameAtEveryRate) {
  const int scenes = unless_watched(120, 8);
  Random random(161);
  int off = 0;
  std::string broken;
  for (int scene = 0; scene < scenes; ++scene) {
    const GroundSense sense = senses[scene % 4];
    const Obstacle obstacle{static_cast<Obstacle::Kind>(random.below(5)), random.uniform(0.02, 0.2),
                            random.uniform(0.05, 0.5), random.uniform(0.1, 1)};
    // Below that it may stop on it, where a hair decides.
    const double speed = random.uniform(2 + 25 * obstacle.height, 30), unsprung = random.below(3) == 0 ? 15 : 0;
    const double hz = rates[random.below(6)], phase = random.uniform(0, 1);
    const Crossing fine = cross(obstacle, sense, speed, unsprung, 4000, 0);
    const Crossing found = cross(obstacle, sense, speed, unsprung, hz, phase);
    const double high = std::abs(found.highest - fine.highest), slow = std::abs(found.speed - fine.speed);
    EXPECT_FALSE(found.up < 0.5 && fine.up > 0.5) << "scene " << scene << ": turned over at " << hz << " Hz only";
    if (high <= 0.05 * std::abs(fine.highest) + 0.005 && slow <= 0.05 * speed) continue;
    ++off;
    broken += "scene " + std::to_string(scene) + ", sense " + std::to_string(static_cast<int>(sense)) + ", kind " +
              std::to_string(obstacle.kind) + ", " + std::to_string(obstacle.height) + " m at " +
              std::to_string(speed) + " m/s, " + std::to_string(hz) + " Hz: up " + std::to_string(found.highest) +
              " for " + std::to_string(fine.highest) + ", then " + std::to_string(found.speed) + " for " +
              std::to_string(fine.speed) + "\n";
  }
  EXPECT_LE(off, 1 + scenes / 60) << broken;
}

/// F = W √(h (2 R - h)) / (R - h), at the hub: a wheel turns about the edge.
TEST(Kerbs, AreClimbedByTheForceThatStaticsAsks) {
  Random random(162);
  for (const GroundSense sense : senses) {
    for (int scene = 0; scene < 3; ++scene) {
      const double radius = 0.3, height = random.uniform(0.03, 0.1), hz = rates[2 + random.below(4)];
      const double tangent = std::sqrt(height * (2 * radius - height)) / (radius - height);
      for (const double share : {hz < 200 ? 0.94 : 0.97, 1.03}) {
        VehicleTuning tuning;
        tuning.ground_probe = sense, tuning.drive.coast = 0, tuning.aids.hold = 0, tuning.air.drag = 0;
        for (AxleTuning& axle : tuning.axles) {
          axle.wheel.tyre.rolling = 0, axle.wheel.suspension.ride_frequency = 0.9;
          axle.wheel.suspension.rest_length = 0.6, axle.wheel.suspension.bump = 0.55;
        }
        Cart cart;
        cart.floor();
        cart.put(tuning);
        const double touches = 0.85 + std::sqrt(height * (2 * radius - height));
        cart.world.add({.shape = Box{{5, 0.5, 5}}, .pose = {{touches - 1e-4 + 5, height - 0.5, 0}, {}}});
        const double force = share * 0.5 * cart.mass * standard_gravity * tangent;
        // It grows slowly, and what speed it gives is taken again: as without inertia.
        for (int tick = 0; tick < 6 * hz; ++tick) {
          const Vec3 hub = cart.place() + Vec3{0, radius - cart.vehicle->ride_height(), 0};
          cart.world.force(cart.body, {std::min(1.0, tick / hz / 2) * force - 5000 * cart.velocity().x, 0, 0}, hub);
          cart.tick({}, 1 / hz);
        }
        EXPECT_EQ(cart.wheel(0).contact.y > 0.9 * height && cart.place().x > 0.03, share > 1)
            << "sense " << static_cast<int>(sense) << ", " << height << " m, " << hz << " Hz, at " << cart.place().x;
      }
    }
  }
}

TEST(Kerbs, HigherThanTheHubAreWalls) {
  Random random(163);
  for (const GroundSense sense : senses) {
    for (int scene = 0; scene < 8; ++scene) {
      const double hz = rates[random.below(6)], speed = random.uniform(0.5, 4), height = random.uniform(0.31, 0.5);
      VehicleTuning tuning;
      tuning.ground_probe = sense;
      Cart cart;
      cart.half = {0.5, 0.2, 0.4};  // its wheels stand out before it
      cart.floor();
      cart.world.add({.shape = Box{{5, 0.5, 5}}, .pose = {{9, height - 0.5, 0}, {}}});
      cart.put(tuning);
      cart.world.set_motion(cart.body, {speed, 0, 0}, {});
      double furthest = 0, highest = 0;
      const double from = cart.place().y;
      cart.run({.throttle = 0.3}, 4 / speed + 1, hz, [&] {
        furthest = std::max(furthest, cart.vehicle->wheel_pose(0, cart.world.pose(cart.body), cart.place()).position.x);
        highest = std::max(highest, cart.place().y - from);
      });
      EXPECT_NEAR(furthest, 4 - 0.3, 0.05) << static_cast<int>(sense) << ", " << hz << " Hz, " << speed << " m/s";
      EXPECT_LT(highest, 0.35) << static_cast<int>(sense) << ", " << hz << " Hz, " << speed << " m/s";
    }
  }
}

/// A slot along the way, under one edge of the left wheels' tread: the rest of the tread bears them.
TEST(Kerbs, ASlotBesideTheMiddleOfATreadIsNoHole) {
  Random random(164);
  for (const GroundSense sense : senses) {
    for (int scene = 0; scene < 6; ++scene) {
      VehicleTuning tuning;
      tuning.ground_probe = sense;
      Cart cart;
      const double half_tread = 0.08, left = -0.6, narrow = random.uniform(0.01, 0.05);
      const double middle = left + (scene % 2 ? half_tread : -half_tread);
      for (const double side : {-1.0, 1.0}) {
        cart.world.add({.shape = Box{{300, 0.5, 50}}, .pose = {{0, -0.5, middle + side * (0.5 * narrow + 50)}, {}}});
      }
      cart.put(tuning);
      cart.world.set_motion(cart.body, {random.uniform(0, 15), 0, 0}, {});
      const double from = cart.place().y;
      double lowest = 0;
      cart.run({}, 1.5, rates[random.below(6)], [&] { lowest = std::min(lowest, cart.place().y - from); });
      EXPECT_GT(lowest, -0.005) << "sense " << static_cast<int>(sense) << ", " << narrow << " m";
    }
  }
}

/// A boardwalk of thin planks over nothing: whatever is under the mounts at a moment, its wheels find the planks.
TEST(Kerbs, ABoardwalkOfThinPlanksBears) {
  Random random(8);
  for (int i = 0; i < 60; ++i) {
    const double width = random.uniform(0.08, 0.2);
    const double gap = random.uniform(0.01, 0.5 * width);
    const double thick = random.uniform(0.02, 0.06);
    const double speed = i % 2 ? random.uniform(0.5, 6) : 0;
    const double start = random.uniform(0, width + gap);
    Cart cart;
    for (double x = -4; x < 16; x += width + gap)
      cart.world.add({.shape = Box{{0.5 * width, 0.5 * thick, 3}}, .pose = {{x, -0.5 * thick, 0}, {}}});
    VehicleTuning tuning;
    tuning.ground_probe = i % 4 < 2 ? GroundSense::ray : GroundSense::rays;
    cart.put(tuning, {start, 0, 0});
    cart.world.set_motion(cart.body, {speed, 0, 0}, {});
    const double from = cart.place().y;
    double lowest = 0;
    cart.run({}, 1.5, rates[random.below(6)], [&] { lowest = std::min(lowest, cart.place().y - from); });
    EXPECT_GT(lowest, -0.03) << "planks of " << width << " m, " << thick << " thick, " << gap << " apart, at " << speed;
  }
}

}  // namespace
}  // namespace jugend::testing
