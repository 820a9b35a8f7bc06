// Tracked vehicles: closed forms of driving and of turning on the spot, one speed a side, no creep, at any rate.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/tracked/tracked_vehicle.hpp>
#include <jugend/world/world.hpp>
#include <optional>

#include "../support/any_value.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};

struct Yard {
  World world;
  BodyId body{}, ground{};
  std::optional<TrackedVehicle> crane;
  double hz = 60;

  Yard(const TrackedTuning& tuning, double rate, double slope = 0, const Vec3& deck = {}, double heading = 0)
      : hz(rate) {
    const Quat tilt = rotation({0, 0, slope}), turn = tilt * rotation({0, heading, 0});
    const BodyKind kind = deck == Vec3{} ? BodyKind::fixed : BodyKind::kinematic;
    ground = world.add(
        {.shape = Box{{800, 1, 800}}, .pose = {rotate(tilt, {0, -1, 0}), tilt}, .kind = kind, .velocity = deck});
    body = world.add({.shape = Box{{1.4, 0.2, 0.7}},
                      .pose = {{}, turn},
                      .kind = BodyKind::dynamic,
                      .velocity = deck,
                      .mass = 2000,
                      .can_sleep = false});
    crane.emplace(tuning, body, world);
    world.place(body, {rotate(tilt, {0, crane->wheels().ride_height(), 0}), turn});
  }
  void run(const TrackedIntent& intent, double seconds) {
    for (int i = 0; i < std::lround(seconds * hz); ++i) {
      crane->step(intent, world, 1 / hz);
      world.step(1 / hz);
    }
  }
  Vec3 at() const { return world.pose(body).position; }
};

TEST(Tracked, TopSpeedAndRunUpAreTheDrives) {
  Random random(31);
  for (int i = 0; i < scenes_of(24); ++i) {
    TrackedTuning t;
    t.wheels = 2 + static_cast<int>(random.below(8)), t.length = random.uniform(1.5, 4), t.drag = 0;
    t.drive.top_speed = random.uniform(1, 8), t.drive.speed_time = random.uniform(1.5, 4);
    Yard yard(t, any_rate[random.below(4)], 0, {}, random.uniform(0, 6));
    yard.run({.throttle = 1}, t.drive.speed_time);
    EXPECT_NEAR(norm(yard.world.velocity(yard.body)), 0.9 * t.drive.top_speed, 0.02 * t.drive.top_speed);
    yard.run({.throttle = 1}, 3 * t.drive.speed_time);
    EXPECT_NEAR(norm(yard.world.velocity(yard.body)), t.drive.top_speed, 0.005 * t.drive.top_speed) << t.wheels;
  }
}

TEST(Tracked, AllWheelsOfASideTurnAsOne) {
  Random random(32);
  Yard yard({}, 60);
  for (int tick = 0; tick < 600; ++tick) {
    yard.run({random.uniform(-1, 1), random.uniform(-1, 1), random.below(4) == 0 ? 1.0 : 0.0}, 1.0 / 60);
    const VehicleState& s = yard.crane->state();
    for (int i = 2; i < yard.crane->wheels().wheels(); ++i)
      ASSERT_NEAR(s.wheels[static_cast<std::size_t>(i)].spin, s.wheels[static_cast<std::size_t>(i % 2)].spin, 1e-9);
  }
}

/// N by which one track must pull ahead and the other back to keep turning it where it stands, over the weight. All
/// wheels slide, along at one speed u and aside at ω |x|, and their friction points against that; with r = u / ω
///   g Σ r / √(r² + x²) = 2 Σ x² / √(r² + x²).
double pull_to_pivot(const TrackedTuning& t) {
  const auto sums = [&](double r) {
    double along = 0, about = 0;
    for (int k = 0; k < t.wheels; ++k) {
      const double x = t.length * (0.5 - static_cast<double>(k) / (t.wheels - 1)), slides = std::hypot(r, x);
      along += r / slides, about += x * x / slides;
    }
    return std::pair(along / t.wheels, about / t.wheels);
  };
  double low = 1e-9, high = 100;
  for (int i = 0; i < 200; ++i) {
    const double r = 0.5 * (low + high);
    const auto [along, about] = sums(r);
    (t.gauge * along > 2 * about ? high : low) = r;
  }
  return 0.5 * t.tread.grip * sums(low).first;
}

TEST(Tracked, TurnsOnTheSpotOnceItsTracksPullEnough) {
  Random random(33);
  for (int i = 0; i < scenes_of(24); ++i) {
    TrackedTuning t;
    t.wheels = 2 + static_cast<int>(random.below(6)), t.length = random.uniform(1.2, 2.4);
    t.gauge = random.uniform(1.4, 2.4), t.tread.rolling = 0, t.tread.grip = random.uniform(0.3, 0.9);
    t.tread.along_stiffness = t.tread.side_stiffness = 400;  // it hardly creeps before it slides
    const double hz = any_rate[random.below(4)], needs = pull_to_pivot(t);
    for (const double share : {0.96, 1.04}) {
      t.turn_grip = share * needs;
      Yard yard(t, hz);
      yard.run({.steer = 1}, 4);
      const double rate = std::abs(yard.world.spin(yard.body).y);
      EXPECT_EQ(rate > 0.15, share > 1) << rate << ", " << t.wheels << " wheels, " << hz << " Hz";
      EXPECT_LT(norm(in_plane(yard.at(), {0, 1, 0})), 0.02);
    }
  }
}

TEST(Tracked, TurnsAlikeAtEveryRateAndToBothSides) {
  Random random(34);
  for (int i = 0; i < scenes_of(12); ++i) {
    const TrackedIntent intent{random.below(2) == 0 ? 0 : random.uniform(-1, 1), random.uniform(0.2, 1), 0};
    const double seconds = random.uniform(2, 4);
    const auto turned = [&](double hz, double side) {
      Yard yard({}, hz);
      yard.run({intent.throttle, side * intent.steer, 0}, seconds);
      const Vec3 ahead = rotate(yard.world.pose(yard.body).orientation, {1, 0, 0});
      return std::pair(yard.at(), side * std::atan2(ahead.z, ahead.x));
    };
    const auto [fine, fine_angle] = turned(2000, 1);
    for (const double hz : any_rate) {
      const auto [place, angle] = turned(hz, 1);
      EXPECT_LT(norm(place - fine), 0.03 + 0.01 * norm(fine)) << hz;
      EXPECT_NEAR(angle, fine_angle, 0.02) << hz;
      const auto [mirrored, other_angle] = turned(hz, -1);
      EXPECT_LT(norm(mirrored - Vec3{place.x, place.y, -place.z}), 1e-6);
      EXPECT_NEAR(other_angle, angle, 1e-6);
    }
  }
}

/// A brake on each track would hold the inner one fast, and the steering drive would drag the outer one round it.
TEST(Tracked, SteeredItStillComesToRestOrGoesBack) {
  Random random(37);
  for (int i = 0; i < scenes_of(40); ++i) {
    const double steer = random.uniform(-1, 1), before = random.uniform(-1, 1);
    const double back = random.below(2) * random.uniform(0.15, 1) * (before > 0 ? -1 : 1);
    Yard yard({}, any_rate[random.below(4)]);
    yard.run({before, steer, 0}, random.uniform(0.3, 2));
    yard.run({back, steer, 0}, 7);
    const double speed = yard.crane->state().speed;
    if (back == 0)
      EXPECT_LT(std::abs(speed), 0.02) << before << " steered " << steer << " at " << yard.hz;
    else
      EXPECT_GT(speed * back, 0.1 * back * back) << before << " then " << back << " steered " << steer;
  }
}

TEST(Tracked, StandsOnSlopesWithoutCreepAndAfterAnyDrive) {
  Random random(35);
  for (int i = 0; i < scenes_of(16); ++i) {
    TrackedTuning t;
    const double slope = random.uniform(0, 0.3), hz = any_rate[random.below(4)];
    Yard yard(t, hz, slope, {}, random.uniform(0, 6.3));
    yard.run({random.uniform(-1, 1), random.uniform(-1, 1), 0}, random.uniform(0, 1.5));
    yard.run({.brake = 1}, 6);
    const Vec3 before = yard.at();
    yard.run({}, 60);
    EXPECT_LT(norm(yard.at() - before), 1e-3) << "slope " << slope << ", " << hz << " Hz";
  }
}

TEST(Tracked, OnAFerryItGoesAsOnLand) {
  Random random(36);
  for (int i = 0; i < scenes_of(12); ++i) {
    TrackedTuning t;
    t.drag = 0;
    const double hz = any_rate[random.below(4)], side = random.uniform(-1, 1);
    const Vec3 deck{random.uniform(-6, 6), 0, random.uniform(-6, 6)};
    Yard land(t, hz), ferry(t, hz, 0, deck);
    double time = 0;
    for (const TrackedIntent& intent : {TrackedIntent{1, 0, 0}, {0.6, side, 0}, {0, side, 0}, {-1, 0, 0}, {0, 0, 1}}) {
      land.run(intent, 1.5), ferry.run(intent, 1.5), time += std::lround(1.5 * hz) / hz;
      EXPECT_LT(norm(ferry.at() - deck * time - land.at()), 0.02 + 0.01 * norm(land.at())) << norm(deck);
    }
  }
}

/// The whole range of every number, one to three changed: nothing is thrown about that nothing threw, or it is refused.
TEST(Tracked, NoAllowedNumberIsUnstable) {
  Random random(37);
  int refused = 0, thrown = 0;
  const int scenes = scenes_of(200);
  for (int i = 0; i < scenes; ++i) {
    TrackedTuning t;
    std::string keys;
    for (std::uint32_t changed = 0, count = 1 + random.below(3); changed < count; ++changed) {
      const Tunable& one = any_of(tracked_tunables(), random);
      one.write(&t, any_value(one, random));
      keys += std::string(one.key) + " = " + as_text(one.read(&t)) + ", ";
    }
    std::optional<Yard> yard;
    try {
      yard.emplace(t, any_rate[random.below(4)]);
    } catch (const InputError&) {
      ++refused;
      continue;
    }
    const double from = yard->at().y, fastest = 1.3 * std::max(15.0, t.drive.top_speed);
    double highest = 0;
    for (int s = 0; s < 12; ++s) {
      yard->run({random.uniform(-1, 1), random.uniform(-1, 1)}, 0.25);
      ASSERT_LT(norm(yard->world.velocity(yard->body)), fastest) << keys << yard->hz << " Hz";
      ASSERT_LT(norm(yard->world.spin(yard->body)), 40) << keys << yard->hz << " Hz";
      highest = std::max(highest, yard->at().y - from);
    }
    thrown += highest > 1 + 0.5 * yard->crane->wheels().ride_height();
  }
  EXPECT_LE(thrown, 2);
  EXPECT_LT(refused, scenes / 3);
}

TEST(Tracked, WhatDoesNotFitIsRefusedByItsOwnKeys) {
  const auto refused = [](const TrackedTuning& t) {
    try {
      Yard yard(t, 60);
    } catch (const InputError& error) {
      const std::string& key = error.fault().key;
      TrackedTuning any;
      EXPECT_TRUE(find_tunable(TunablesOf<TrackedTuning>::list(), &any, key)) << "files have no " << key;
      return key;
    }
    return std::string("taken");
  };
  TrackedTuning t;
  EXPECT_EQ(refused(t), "taken");
  t.spin_inertia = 1e5;
  EXPECT_EQ(refused(t), "track.spin_inertia");
  t = {}, t.suspension.bump = 1, t.suspension.rest_length = 0.5;
  EXPECT_EQ(refused(t), "spring.bump");
  t = {}, t.drive.by = DriveBy::engine;
  EXPECT_EQ(refused(t), "taken");
  t.drive.engine.automatic = false;
  EXPECT_EQ(refused(t), "drive.engine.automatic");
  t = {}, t.ahead = 10;
  EXPECT_EQ(refused(t), "track.ahead");
  t = {}, t.wheels = 1;
  EXPECT_EQ(refused(t), "track.wheels");
  t = {}, t.mount_height = 4;
  EXPECT_EQ(refused(t), "track.mount_height");
}

}  // namespace
}  // namespace jugend::testing
