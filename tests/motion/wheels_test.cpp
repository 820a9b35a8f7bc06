// Wheels on what moves: light things in their way, spins in the air, rays asked for together.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/road.hpp>

#include "../support/cart.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

/// Cones, planks, balls in the way: nothing is shot away, and nothing throws the cart up.
TEST(Wheels, DriveThroughLightThingsWithoutShootingThem) {
  Random random(5);
  for (const double hz : {30.0, 60.0, 240.0}) {
    for (int trial = 0; trial < 12; ++trial) {
      Cart cart;
      cart.floor();
      VehicleTuning tuning = sure_footed();
      tuning.ground_probe = static_cast<GroundSense>(trial % 4);
      cart.put(tuning);
      const double speed = random.uniform(3, 13);
      cart.world.set_motion(cart.body, {speed, 0, 0}, {});
      std::vector<BodyId> things;
      for (int i = 0; i < 8; ++i) {
        const double size = random.uniform(0.04, 0.3), long_side = size * random.uniform(1, 2);
        const Shape shapes[] = {Cylinder{0.5 * size, 0.5 * long_side}, Box{{0.5 * long_side, 0.5 * size, 0.5 * size}},
                                Sphere{0.5 * size}};
        const std::size_t which = random.below(3);
        things.push_back(cart.world.add(
            {.shape = shapes[which],
             .pose = {{4 + 1.5 * i, which == 0 ? 0.5 * long_side : 0.5 * size, random.below(2) == 0 ? -0.6 : 0.6}, {}},
             .kind = BodyKind::dynamic,
             .mass = random.uniform(0.3, 20)}));
      }
      double fastest = 0, highest = 0;
      cart.run({.throttle = 0.5}, 2.5, hz, [&] {
        for (const BodyId thing : things) fastest = std::max(fastest, norm(cart.world.velocity(thing)));
        highest = std::max(highest, cart.place().y);
      });
      EXPECT_LT(fastest, 3 * 14) << hz << " Hz, trial " << trial;
      EXPECT_LT(highest, 2) << hz << " Hz, trial " << trial;
    }
  }
}

/// A cone stands between the wheels' tracks' own height and the floor: the wheel does not climb it.
TEST(Wheels, DoNotClimbWhatIsHigherThanTheirStep) {
  for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
    Cart cart;
    cart.floor();
    cart.half = {1.2, 0.1, 0.4};
    VehicleTuning tuning = sure_footed();
    for (AxleTuning& axle : tuning.axles) axle.mount_height = 0.1;
    cart.put(tuning);
    const double rides = cart.place().y;
    cart.world.set_motion(cart.body, {8, 0, 0}, {});
    cart.world.add({.shape = Cylinder{0.06, 0.17}, .pose = {{6, 0.17, 0.6}, {}}, .kind = BodyKind::dynamic, .mass = 1});
    double highest = 0;
    cart.run({}, 1.5, hz, [&] { highest = std::max(highest, cart.place().y - rides); });
    EXPECT_LT(highest, 0.03) << hz;
    EXPECT_GT(cart.place().x, 8);
  }
}

/// What stands firm bears a wheel however light it is, and stays under it.
TEST(Wheels, StandOnLightCrates) {
  for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
    Cart cart;
    cart.floor();
    cart.put(sure_footed(), {0, 0.3, 0});
    std::vector<BodyId> crates;
    for (int i = 0; i < 4; ++i) {
      const Vec3& mount = cart.vehicle->wheel(i).mount;
      crates.push_back(cart.world.add({.shape = Box{{0.25, 0.15, 0.25}},
                                       .pose = {{mount.x, 0.15, mount.z}, {}},
                                       .kind = BodyKind::dynamic,
                                       .mass = 8}));
    }
    cart.run({}, 5, hz);
    EXPECT_NEAR(cart.total_load(), cart.mass * standard_gravity, 0.01 * cart.mass * standard_gravity) << hz;
    EXPECT_NEAR(cart.place().y, 0.3 + cart.vehicle->ride_height(), 0.003) << hz;
    for (const BodyId crate : crates) EXPECT_LT(norm(cart.world.velocity(crate)), 0.01) << hz;
  }
}

/// In the air what the wheels take up the body gives: spin times inertia stays as it was.
TEST(Wheels, SpinningUpInTheAirLiftsTheNose) {
  for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
    Cart cart;
    cart.put(sure_footed(), {0, 100, 0});
    cart.world.set_motion(cart.body, {}, {});
    cart.run({.throttle = 1}, 0.7, hz);
    double spins = 0;
    for (int i = 0; i < 4; ++i) spins += cart.wheel(i).spin * cart.vehicle->wheel(i).spin_inertia;
    ASSERT_GT(spins, 10);
    const double pitch = dot(cart.world.spin(cart.body), rotate(cart.world.pose(cart.body).orientation, {0, 0, 1}));
    EXPECT_NEAR(pitch * cart.world.inertia(cart.body).zz, spins, 0.002 * spins) << hz;
    EXPECT_GT(pitch, 0);  // nose up
  }
}

/// Wheels that turn fast hold the body's heading like tops: a push that rolls it turns it, too.
TEST(Wheels, FastWheelsPrecess) {
  Cart cart;
  VehicleTuning tuning = sure_footed();
  tuning.aids.hold = 0, tuning.drive.coast = 0;
  cart.put(tuning, {0, 200, 0});
  VehicleState state = cart.vehicle->state();
  state.moved = true, state.expected = cart.world.pose(cart.body);
  for (int i = 0; i < 4; ++i) state.wheels[static_cast<std::size_t>(i)].spin = 120;
  cart.vehicle->restore(state);
  const double momentum = 4 * 120 * cart.vehicle->wheel(0).spin_inertia;
  const Sym3 inertia = cart.world.inertia(cart.body);
  const double rolling = 0.5;  // rad/s about x: the wheels' momentum, along -z, is turned towards y
  cart.world.set_motion(cart.body, {}, {rolling, 0, 0});
  const double time = 0.1;
  cart.run({}, time, 1000);
  EXPECT_NEAR(cart.world.spin(cart.body).y * inertia.yy, -momentum * rolling * time, 0.1 * momentum * rolling * time);
}

TEST(Wheels, RaysAskedForTogetherAreTheSameRays) {
  Random random(9);
  World world;
  const auto road = std::make_shared<Mesh>(rough_road({.length = 60, .width = 20, .roughness = 4}));
  world.add({.shape = road});
  world.add({.shape = road, .pose = {{0, 1, 0}, rotation({0.1, 0.4, -0.05})}});
  world.add({.shape = Box{{10, 0.1, 10}}, .pose = {{30, 1.2, 0}, {}}, .one_way = Vec3{0, 1, 0}});
  for (int i = 0; i < 300; ++i) {
    const double size = random.uniform(0.1, 0.8);
    const Shape shapes[] = {Box{{size, size, size}}, Sphere{size}, Cylinder{size, size}};
    world.add({.shape = shapes[random.below(3)],
               .pose = {{random.uniform(0, 60), random.uniform(-0.5, 1.5), random.uniform(-10, 10)},
                        rotation({random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)})}});
  }
  int met = 0;
  for (int trial = 0; trial < 400; ++trial) {
    const Vec3 place{random.uniform(0, 60), random.uniform(0, 3), random.uniform(-10, 10)};
    const double spread = trial % 10 == 0 ? 20 : 2;  // some of them meet more bodies than are kept at once
    const std::uint32_t count = 1 + random.below(trial % 7 == 0 ? 70 : 12), ways = random.below(3);
    std::vector<Ray> rays;
    Vec3 way{0, -1, 0};  // of all rays; or one for each, or for some that follow one another
    for (std::uint32_t i = 0; i < count; ++i) {
      const Vec3 off{random.uniform(-spread, spread), random.uniform(-0.5, 0.5), random.uniform(-spread, spread)};
      if (ways == 1 || (ways == 2 && random.below(4) == 0))
        way = normalised(Vec3{random.uniform(-0.3, 0.3), random.below(5) == 0 ? 1.0 : -1.0, random.uniform(-0.3, 0.3)});
      rays.push_back({place + off, way, random.uniform(0.5, 4)});
    }
    std::vector<std::optional<Hit>> hits(rays.size());
    world.cast_all(rays, {}, hits);
    for (std::size_t i = 0; i < rays.size(); ++i) {
      const auto alone = world.cast(rays[i], {});
      ASSERT_EQ(alone.has_value(), hits[i].has_value());
      if (!alone) continue;
      ++met;
      EXPECT_EQ(alone->distance, hits[i]->distance);
      EXPECT_EQ(alone->body, hits[i]->body);
      EXPECT_EQ(alone->part, hits[i]->part);
      EXPECT_EQ(alone->normal, hits[i]->normal);
      EXPECT_EQ(alone->point, hits[i]->point);
    }
  }
  EXPECT_GT(met, 1000);
}

/// What a drive is made for is told as it then comes out.
TEST(Wheels, TheForceToldIsTheForceGiven) {
  for (const bool engine : {false, true}) {
    VehicleTuning tuning = sure_footed();
    tuning.drive.by = engine ? DriveBy::engine : DriveBy::outcomes;
    tuning.drive.engine.automatic = 0;
    tuning.drive.engine.inertia = 0, tuning.drive.engine.final = 1.3;
    for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.rolling = 0;
    tuning.air.drag = 0;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({.throttle = 1}, 0.8, 120);
    const double before = cart.velocity().x;
    cart.run({.throttle = 1}, 0.1, 120);
    const double after = cart.velocity().x;
    double turning = 0;
    for (int i = 0; i < 4; ++i)
      turning += cart.vehicle->wheel(i).spin_inertia / std::pow(cart.vehicle->wheel(i).radius, 2);
    const double told = cart.vehicle->full_force(0.5 * (before + after), cart.vehicle->state().engine.gear);
    EXPECT_NEAR((after - before) / 0.1 * (cart.mass + turning), told, 0.02 * told) << engine;
  }
}

/// Dropped on dampers of any permitted strength it comes up no higher than it was.
TEST(Wheels, NoDamperThrowsTheBodyUp) {
  Random random(26);
  for (int scene = 0; scene < scenes_of(80); ++scene) {
    Cart cart;
    cart.floor();
    VehicleTuning tuning;
    const double bump = random.uniform(0, 20), rebound = random.uniform(0, 20), drop = random.uniform(0, 0.6);
    const double unsprung = random.below(2) * random.uniform(5, 30);
    for (AxleTuning& axle : tuning.axles) {
      axle.wheel.suspension.bump_ratio = bump, axle.wheel.suspension.rebound_ratio = rebound;
      axle.wheel.unsprung_mass = unsprung;
    }
    cart.put(tuning, {0, drop, 0});
    const double from = cart.place().y;
    double highest = 0;
    cart.run({}, 3, rates[random.below(std::size(rates))], [&] { highest = std::max(highest, cart.place().y); });
    EXPECT_LT(highest, from + 1e-3) << scene << ": " << bump << " and " << rebound << " from " << drop;
  }
}

/// Keys press the wheel to its ends at once, at any time: what tips it is not steered.
TEST(Wheels, AKeyboardDoesNotTipTheDefaults) {
  Random random(27);
  int tipped = 0;
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    for (const bool aided : {true, false}) {
      Cart cart;
      cart.floor();
      VehicleTuning tuning;
      tuning.aids.keep_down = aided;
      tuning.drive.by = static_cast<DriveBy>(random.below(3)),
      tuning.ground_probe = static_cast<GroundSense>(scene % 4);
      cart.put(tuning);
      cart.world.set_motion(cart.body, {random.uniform(0, 14), 0, 0}, {});
      const double hz = rates[random.below(std::size(rates))];
      bool over = false;
      for (int key = 0; key < 8; ++key) {
        const VehicleIntent keys{.throttle = static_cast<double>(random.below(3)) - 1,
                                 .brake = random.below(4) == 0 ? 1.0 : 0.0,
                                 .hand_brake = random.below(4) == 0 ? 1.0 : 0.0,
                                 .steer = static_cast<double>(random.below(3)) - 1};
        cart.run(keys, random.uniform(0.2, 1.5), hz, [&] {
          over |= rotate(cart.world.pose(cart.body).orientation, {0, 1, 0}).y < 0.7;
        });
      }
      if (aided) {
        EXPECT_FALSE(over) << scene;
      } else {
        tipped += over;
      }
    }
  }
  EXPECT_GT(tipped, scenes_of(60) / 6) << "without the aid keys do tip it";
}

}  // namespace
}  // namespace jugend::testing
