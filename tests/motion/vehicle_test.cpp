// Vehicles: springs, drive, brakes, steering and tyres against what physics says, at all tick rates.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/height_field.hpp>

#include "../support/cart.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

constexpr double g = standard_gravity;

class VehicleAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, VehicleAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

TEST_P(VehicleAtRate, RestsOnItsSpringsAsTheLoadAsks) {
  VehicleTuning tuning = sure_footed();
  tuning.axles[0].ahead = 1.1, tuning.axles[1].ahead = -0.6;  // more weight behind
  tuning.axles[1].wheel.suspension.sag = 0.06;
  tuning.axles[0].wheel.suspension.stiffness = 15000;
  Cart cart;
  cart.floor();
  const double weight = cart.mass * g, front = weight * 0.6 / 1.7 / 2, rear = weight * 1.1 / 1.7 / 2;
  // Such that it stands level: tilted, the weight would shift.
  tuning.axles[0].wheel.suspension.rest_length = 0.35 - 0.06 + front / 15000;
  cart.put(tuning, {0, 0.1, 0});
  cart.run({}, 6, hz);
  for (const int i : {0, 1}) {
    EXPECT_NEAR(cart.wheel(i).load, front, 0.002 * front);
    EXPECT_NEAR(cart.wheel(i).compression, front / 15000, 0.005 * front / 15000);
  }
  for (const int i : {2, 3}) {
    EXPECT_NEAR(cart.wheel(i).load, rear, 0.002 * rear);
    EXPECT_NEAR(cart.wheel(i).compression, 0.06, 0.005 * 0.06);
  }
  EXPECT_NEAR(cart.total_load(), weight, 1e-4 * weight);
}

/// Heave is x'' + 2ζω x' + ω² x = 0: the first peak beyond rest is e^(-πζ/√(1-ζ²)) of the start, after half a period.
TEST_P(VehicleAtRate, SwingsAtItsFrequencyAndOvershootsByItsDamping) {
  for (const double frequency : {0.8, 1.7, 3.0}) {
    for (const double ratio : {0.1, 0.3, 0.6}) {
      VehicleTuning tuning = sure_footed();
      for (AxleTuning& axle : tuning.axles) {
        SuspensionTuning& s = axle.wheel.suspension;
        s.rest_length = 0.9, s.bump = 0.8, s.droop = 0.3;
        s.ride_frequency = frequency, s.bump_ratio = s.rebound_ratio = ratio;
      }
      Cart cart;
      cart.floor();
      cart.put(tuning);
      const double rest = cart.place().y, start = 0.02;
      cart.world.place(cart.body, {cart.place() + Vec3{0, start, 0}, {}});
      const double w = 2 * pi * frequency, damped = w * std::sqrt(1 - ratio * ratio);
      double lowest = 1, now = 0, worst = 0;
      cart.run({}, 1.2 / frequency, hz, [&] {
        now += dt;
        const double y = cart.place().y - rest;
        lowest = std::min(lowest, y);
        const double exact =
            start * std::exp(-ratio * w * now) * (std::cos(damped * now) + ratio * w / damped * std::sin(damped * now));
        worst = std::max(worst, std::abs(y - exact));
      });
      EXPECT_LT(worst, 0.01 * start) << frequency << " Hz, ratio " << ratio;
      const double overshoot = std::exp(-pi * ratio / std::sqrt(1 - ratio * ratio));
      if (hz >= 120) {
        EXPECT_NEAR(-lowest / start, overshoot, 0.01 * overshoot) << frequency << " Hz, ratio " << ratio;
      }
    }
  }
}

TEST_P(VehicleAtRate, ReachesNineTenthsOfTopSpeedWhenAsked) {
  for (const double time : {2.0, 6.0}) {
    VehicleTuning tuning = sure_footed();
    tuning.drive.speed_time = time, tuning.drive.top_speed = 20;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({}, 1, hz);
    double now = 0, reached = -1, before = 0;
    cart.run({.throttle = 1}, 4 * time, hz, [&] {
      const double speed = cart.velocity().x;
      if (reached < 0 && speed >= 18) reached = now + dt * (18 - before) / (speed - before);
      before = speed, now += dt;
    });
    EXPECT_NEAR(reached, time, 0.01 * time);
    EXPECT_NEAR(before, 20, 0.005 * 20);
    for (int i = 0; i < 4; ++i)
      EXPECT_NEAR(cart.wheel(i).spin * cart.vehicle->wheel(i).radius, before, 0.005 * before) << i;
    EXPECT_LT(std::abs(cart.place().z), 1e-6);
  }
}

TEST_P(VehicleAtRate, StopsInTheWayAsked) {
  VehicleTuning tuning = sure_footed();
  tuning.brakes.deceleration = 7;
  Cart cart;
  cart.floor();
  cart.put(tuning);
  cart.world.set_motion(cart.body, {18, 0, 0}, {});
  cart.run({.throttle = 0.3}, 1, hz);
  const double speed = cart.velocity().x, from = cart.place().x;
  cart.run({.brake = 1}, 4, hz);
  EXPECT_NEAR(cart.place().x - from, speed * speed / 14, 0.01 * speed * speed / 14);
  EXPECT_NEAR(cart.velocity().x, 0, 1e-3);
}

/// ΔF = m a h / L, from the rear axle to the front.
TEST_P(VehicleAtRate, BrakingMovesTheLoadForwards) {
  VehicleTuning tuning = sure_footed();
  tuning.brakes.deceleration = 4, tuning.air.drag = 0;
  for (AxleTuning& axle : tuning.axles) axle.wheel.suspension.ride_frequency = 6;  // a dive would shift the weight, too
  Cart cart;
  cart.floor();
  cart.put(tuning);
  cart.world.set_motion(cart.body, {25, 0, 0}, {});
  cart.run({.throttle = 0.2}, 2, hz);
  const double before = cart.velocity().x;
  cart.run({.brake = 1}, 2.5, hz);
  double front = 0, rear = 0, decelerated = cart.velocity().x;
  int ticks = 0;
  cart.run({.brake = 1}, 0.5, hz, [&] {
    front += cart.wheel(0).load + cart.wheel(1).load, rear += cart.wheel(2).load + cart.wheel(3).load;
    ++ticks;
  });
  ASSERT_GT(before, 20);
  const double a = (decelerated - cart.velocity().x) / 0.5, height = cart.place().y;
  EXPECT_NEAR(a, 4, 0.04);
  const double moved = cart.mass * a * height / 1.7;
  EXPECT_NEAR((front - rear) / ticks / 2, moved, 0.02 * moved);
}

/// Slow, the middle of the rear axle goes round at L / tan δ.
TEST_P(VehicleAtRate, TurnsSlowlyRoundTheCentreOfItsGeometry) {
  for (const double ackermann : {1.0, 0.0}) {
    VehicleTuning tuning = sure_footed();
    tuning.steering.ackermann = ackermann, tuning.drive.top_speed = 0.6;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({.throttle = 1, .steer = -0.5}, 6, hz);
    const Vec3 rear = cart.place() - cart.ahead() * 0.85;
    const double radius = 1.7 / std::tan(cart.vehicle->state().steer);
    const Vec3 middle = rear + cross(Vec3{0, 1, 0}, cart.ahead()) * radius;  // to the left
    double least = 1e9, most = 0;
    cart.run({.throttle = 1, .steer = -0.5}, 8, hz, [&] {
      const double away = norm(cart.place() - cart.ahead() * 0.85 - middle);
      least = std::min(least, away), most = std::max(most, away);
    });
    const double within = ackermann == 1 ? 0.01 : 0.03;  // without it tyres fight one another
    EXPECT_NEAR(least, radius, within * radius);
    EXPECT_NEAR(most, radius, within * radius);
    EXPECT_GT(cart.world.spin(cart.body).y, 0);  // left
  }
}

/// It leans on its outer wheels alone from a = g t / 2h on.
TEST_P(VehicleAtRate, RollsOverWhereTrackAndHeightSay) {
  const auto most_level = [&](double a) {
    VehicleTuning tuning = sure_footed();
    for (AxleTuning& axle : tuning.axles) {
      axle.wheel.suspension.ride_frequency = 6, axle.wheel.suspension.bump_ratio = axle.wheel.suspension.rebound_ratio = 0.7;
      axle.wheel.tyre.side_stiffness = 40, axle.track = 0.9;
      axle.wheel.suspension.rest_length = 0.5;
    }
    Cart cart;
    cart.floor();
    cart.put(tuning);
    // A steady push from the side, against which the tyres hold.
    const double held = cart.mass * a;
    double inner = 1e9;
    for (int i = 0; i < static_cast<int>(3 * hz); ++i) {
      cart.world.force(cart.body, {0, 0, std::min(1.0, i * dt) * held}, cart.place());
      cart.tick({.brake = 1}, dt);
      inner = std::min(inner, cart.wheel(0).load + cart.wheel(2).load);
    }
    return std::pair{inner, cart.place().y};
  };
  const double height = most_level(0).second, limit = g * 0.9 / (2 * height);
  EXPECT_GT(most_level(0.96 * limit).first, 0);
  EXPECT_EQ(most_level(1.03 * limit).first, 0);
}

TEST_P(VehicleAtRate, StandsStillForEver) {
  struct Case {
    double slope;
    bool unequal;
    VehicleIntent intent;
    double hold;
  };
  for (const Case& c : {Case{0, false, {.brake = 1}, 1}, Case{20 * radians_per_degree, false, {.brake = 1}, 1},
                        Case{0, true, {}, 0}, Case{20 * radians_per_degree, true, {.hand_brake = 1}, 0}}) {
    for (const double brush : {0.0, 1.0}) {
      VehicleTuning tuning;
      tuning.aids.hold = c.hold;
      for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.brush = brush, axle.wheel.hand_brake = 1;
      tuning.brakes.hand = 6;
      std::vector<WheelTuning> wheels = wheels_of(tuning);
      if (c.unequal) {
        wheels[0].radius = 0.22, wheels[1].radius = 0.34, wheels[2].suspension.stiffness = 22000;
        wheels[3].suspension.rest_length = 0.4;
      }
      Cart cart;
      cart.slope(c.slope);
      cart.put(tuning, {}, rotation({0, 0, c.slope}), wheels);
      cart.run(c.intent, 20, hz);
      const Vec3 from = cart.place();
      cart.run(c.intent, hz == 60 ? 600 : 60, hz);
      EXPECT_LT(norm(cart.place() - from), 1e-3) << c.slope << c.unequal << brush;
      EXPECT_LT(norm(cart.velocity()), 1e-6);
    }
  }
}

}  // namespace
}  // namespace jugend::testing
