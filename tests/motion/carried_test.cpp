// Vehicles and led bodies on ground that moves, leans, rubs or is not there.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/led_body.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/world/world.hpp>

#include "../support/at_rate.hpp"
#include "../support/random.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

class CarriedAtRate : public AtRate {};
INSTANTIATE_TEST_SUITE_P(Rates, CarriedAtRate, ::testing::ValuesIn(rates), rate_name);

/// A cart on a deck that goes evenly; without air, which stands still.
struct Ferry {
  World world;
  BodyId deck, body;
  Vec3 speed;

  explicit Ferry(const Vec3& v) : speed(v) {
    deck =
        world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}, .kind = BodyKind::kinematic, .velocity = v});
  }
  void put(const Shape& shape, double mass, const Surface& surface = {}) {
    body = world.add({.shape = shape,
                      .pose = {{0, 1, 0}, {}},
                      .kind = BodyKind::dynamic,
                      .velocity = speed,
                      .surface = surface,
                      .mass = mass,
                      .can_sleep = false});
  }
  Vec3 place() const { return world.pose(body).position - world.pose(deck).position; }
};

VehicleIntent any_intent(Random& random) {
  VehicleIntent intent;
  intent.throttle = random.uniform(-1, 1), intent.steer = random.uniform(-0.3, 0.3);
  intent.brake = random.below(3) == 0 ? random.uniform(0, 1) : 0;
  return intent;
}

TEST_P(CarriedAtRate, ACartDrivesOnAFerryAsOnLand) {
  Random draws(21);
  for (int scene = 0; scene < 10; ++scene) {
    const Vec3 speed{draws.uniform(-8, 8), 0, draws.uniform(-8, 8)};
    const auto sense = static_cast<GroundSense>(draws.below(4));
    const auto seed = static_cast<std::uint32_t>(scene);
    const auto drive = [&](const Vec3& ferry_speed) {
      Ferry ferry(ferry_speed);
      ferry.put(Box{{1.2, 0.25, 0.5}}, 420);
      VehicleTuning tuning;
      tuning.air.drag = 0, tuning.ground_probe = sense;
      Vehicle cart(tuning, ferry.body, ferry.world);
      ferry.world.place(ferry.body, {{0, cart.ride_height() + 0.05, 0}, {}});
      Random random(seed);
      for (int piece = 0; piece < 4; ++piece) {
        const VehicleIntent intent = any_intent(random);
        for (int i = 0; i < static_cast<int>(hz); ++i) cart.step(intent, ferry.world, 1 / hz), ferry.world.step(1 / hz);
      }
      return ferry.place();
    };
    const Vec3 land = drive({}), ferry = drive(speed);
    EXPECT_LT(norm(land - ferry), 0.01 * norm(land) + 0.02) << scene << ": " << speed.x << " " << speed.z;
  }
}

/// Put where it rests it rests from the first tick, whatever its wheels are.
TEST_P(CarriedAtRate, ACartStandsAtRestFromItsFirstTick) {
  Random random(25);
  for (int scene = 0; scene < 24; ++scene) {
    Ferry land({});
    const double mass = random.uniform(150, 900);
    land.put(Box{{1.2, 0.25, 0.5}}, mass);
    VehicleTuning tuning;
    tuning.ground_probe = static_cast<GroundSense>(random.below(3));
    // Both axles alike, or it would lean where it rests.
    const double unsprung = random.below(2) * random.uniform(5, 0.1 * mass), progression = random.uniform(0, 1);
    const TyreModel tyres = random.below(2) == 0 ? TyreModel::straight : TyreModel::brush;
    for (AxleTuning& axle : tuning.axles)
      axle.wheel.unsprung_mass = unsprung, axle.wheel.tyre.model = tyres,
      axle.wheel.suspension.progression = progression;
    Vehicle cart(tuning, land.body, land.world);
    const double rest = cart.ride_height(), weight = (mass + 4 * unsprung) * standard_gravity;
    land.world.place(land.body, {{0, rest, 0}, {}});
    for (int i = 0; i < static_cast<int>(2 * hz); ++i) {
      cart.step({}, land.world, 1 / hz);
      double load = 0;
      for (int wheel = 0; wheel < cart.wheels(); ++wheel)
        load += cart.state().wheels[static_cast<std::size_t>(wheel)].load;
      ASSERT_NEAR(load, weight, 0.01 * weight) << scene << ", tick " << i;
      land.world.step(1 / hz);
      ASSERT_LT(norm(land.place() - Vec3{0, 1 + rest, 0}), 1e-4) << scene << ", tick " << i;
    }
  }
}

TEST(Carried, ACartKnowsItsSpeedOverTheDeck) {
  Ferry ferry({5, 0, 0});
  ferry.put(Box{{1.2, 0.25, 0.5}}, 420);
  Vehicle cart({}, ferry.body, ferry.world);
  ferry.world.place(ferry.body, {{0, cart.ride_height(), 0}, {}});
  const auto run = [&](const VehicleIntent& intent, double seconds) {
    for (int i = 0; i < static_cast<int>(60 * seconds); ++i)
      cart.step(intent, ferry.world, 1.0 / 60), ferry.world.step(1.0 / 60);
  };
  run({}, 3);
  EXPECT_NEAR(ferry.place().x, 0, 0.01) << "parked";
  run({.throttle = -1}, 6);
  EXPECT_NEAR(cart.state().speed, -cart.tuning().drive.reverse_speed, 0.05);
  EXPECT_NEAR(ferry.world.velocity(ferry.body).x, 5 - cart.tuning().drive.reverse_speed, 0.05);
}

TEST(Carried, ADriverBacksACartWithItsNoseTheOtherWay) {
  Ferry land({});
  land.put(Box{{1.2, 0.25, 0.5}}, 420);
  Vehicle cart({}, land.body, land.world);
  land.world.place(land.body, {{0, cart.ride_height(), 0}, {}});
  for (int i = 0; i < 300; ++i) {
    const Pose pose = land.world.pose(land.body);
    const Driven self{pose.position, land.world.velocity(land.body), rotate(pose.orientation, {1, 0, 0})};
    cart.step(led_by({{1, 0, 0.2}, -2}, self, cart), land.world, 1.0 / 60);
    land.world.step(1.0 / 60);
  }
  EXPECT_NEAR(cart.state().speed, -2, 0.2);
  const Vec3 ahead = rotate(land.world.pose(land.body).orientation, {1, 0, 0});
  EXPECT_NEAR(ahead.z / ahead.x, 0.2, 0.05);
}

TEST_P(CarriedAtRate, ALedBodyGoesAtItsSpeedWhateverRubs) {
  Random random(23);
  for (int scene = 0; scene < unless_watched(12, 3); ++scene) {
    const double friction = random.uniform(0, 0.9), speed = random.uniform(0.5, 3);
    Ferry ferry({random.uniform(-5, 5), 0, random.uniform(-5, 5)});
    ferry.put(Box{{0.6, 0.25, 0.3}}, 80, {.friction = friction});
    ferry.world.place(ferry.body, {{0, 0.25, 0}, {}});
    LedBody led({}, ferry.body);
    const Vec3 from = ferry.place();
    const auto run = [&](const LedBodyIntent& intent, double seconds) {
      for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i)
        led.step(intent, ferry.world, 1 / hz), ferry.world.step(1 / hz);
    };
    run({{1, 0, 0}, speed}, 3);
    EXPECT_NEAR(led.state().speed, speed, 0.02) << "friction " << friction;
    EXPECT_NEAR(ferry.place().x - from.x, 3 * speed - speed * speed / (2 * 3), 0.25 + 4 / hz) << friction;
    EXPECT_NEAR(ferry.place().z - from.z, 0, 0.02) << friction;
    run({{1, 0, 0}, 0}, 2);
    const Vec3 stood = ferry.place();
    run({{1, 0, 0}, 0}, 5);
    EXPECT_LT(norm(ferry.place() - stood), 1e-4) << "it stays where it stands";
    run({{1, 0, 0}, -1}, 3);
    EXPECT_NEAR(led.state().speed, -1, 0.02) << "backwards";
  }
}

TEST_P(CarriedAtRate, ALedBodyStaysOnATurntable) {
  Random random(28);
  for (int scene = 0; scene < 8; ++scene) {
    World world;
    const double rate = random.uniform(-0.9, 0.9), radius = random.uniform(1, 5);
    const Surface surface{.friction = random.below(2) * random.uniform(0, 0.9)};
    const BodyId table = world.add(
        {.shape = Cylinder{20, 1}, .pose = {{0, -1, 0}, {}}, .kind = BodyKind::kinematic, .surface = surface});
    world.set_motion(table, {}, {0, rate, 0});
    const BodyId body = world.add({.shape = Box{{0.6, 0.25, 0.3}},
                                   .pose = {{radius, 0.25, 0}, rotation({0, random.uniform(-pi, pi), 0})},
                                   .kind = BodyKind::dynamic,
                                   .velocity = {0, 0, -rate * radius},
                                   .spin = {0, rate, 0},
                                   .surface = surface,
                                   .mass = 80,
                                   .can_sleep = false});
    LedBody led({}, body);
    for (int i = 0; i < static_cast<int>(10 * hz); ++i) led.step({}, world, 1 / hz), world.step(1 / hz);
    const Vec3 local = to_local(world.pose(table), world.pose(body).position);
    EXPECT_NEAR(std::hypot(local.x, local.z), radius, 5e-4 * radius) << scene << ": " << rate << " rad/s";
  }
}

TEST_P(CarriedAtRate, ALedBodyStandsStillOnASlope) {
  Random random(24);
  for (int scene = 0; scene < unless_watched(12, 3); ++scene) {
    World world;
    const double angle = random.uniform(0, 35) * radians_per_degree, friction = random.uniform(0, 1);
    const Quat lean = rotation({0, 0, angle});
    world.add(
        {.shape = Box{{100, 1, 100}}, .pose = {rotate(lean, {0, -1, 0}), lean}, .surface = {.friction = friction}});
    const BodyId body = world.add({.shape = Box{{0.6, 0.25, 0.3}},
                                   .pose = {rotate(lean, {0, 0.25, 0}), lean},
                                   .kind = BodyKind::dynamic,
                                   .surface = {.friction = friction},
                                   .mass = 80,
                                   .can_sleep = false});
    LedBodyTuning tuning;
    tuning.follow_ground = scene % 2 == 0;
    LedBody led(tuning, body);
    const auto run = [&](double seconds) {
      for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i)
        led.step({}, world, 1 / hz), world.step(1 / hz);
    };
    run(5);
    const Vec3 stood = world.pose(body).position;
    run(10);
    EXPECT_LT(norm(world.pose(body).position - stood), 1e-3 / 6)
        << scene << ": " << angle / radians_per_degree << " degrees";
  }
}

TEST_P(CarriedAtRate, ALedBodyFallsAsItIsUnlessItIsAllowedMore) {
  for (const double control : {0.0, 1.0}) {
    World world;
    world.add({.shape = Box{{100, 1, 100}}, .pose = {{0, -1, 0}, {}}});
    const BodyId body = world.add({.shape = Box{{0.6, 0.25, 0.3}},
                                   .pose = {{0, 12, 0}, {}},
                                   .kind = BodyKind::dynamic,
                                   .velocity = {2, 0, 0},
                                   .mass = 80});
    LedBodyTuning tuning;
    tuning.air_control = control;
    LedBody led(tuning, body);
    for (int i = 0; i < static_cast<int>(hz); ++i) led.step({{0, 0, 1}, 4}, world, 1 / hz), world.step(1 / hz);
    const Vec3 ahead = rotate(world.pose(body).orientation, {1, 0, 0});
    if (control == 0) {
      EXPECT_NEAR(norm(world.velocity(body) - Vec3{2, world.velocity(body).y, 0}), 0, 1e-9);
      EXPECT_NEAR(ahead.x, 1, 1e-9);
    } else {
      EXPECT_GT(ahead.z, 0.9);
      EXPECT_GT(world.velocity(body).z, 1);
    }
  }
}

}  // namespace
}  // namespace jugend::testing
