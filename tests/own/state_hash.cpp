// Prints a hash of all state after each of several hard runs: equal on every compiler and level of
// optimisation (tests/own/same_bits.sh).
#include <cstdio>
#include <jugend/shape/road.hpp>

#include "../support/random.hpp"
#include "../support/scene.hpp"
#include "../support/yard.hpp"

using namespace jugend;
using namespace jugend::testing;

namespace {

std::uint64_t town(std::uint32_t seed, double hz) {
  Random random(seed);
  Scene scene;
  scene.box({-20, -1, -20}, {20, 0, 20});
  scene.stage.world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(40, 1.0, 0.9, seed)),
                         .pose = {{-20, -0.4, -20}, rotation({0.02, 0.01, -0.03})}});
  const BodyId raft = scene.stage.world.add(
      {.shape = Capsule{0.6, 2}, .pose = {{3, 0.2, 1}, rotation({0, 0, 1.57})}, .kind = BodyKind::kinematic});
  for (int i = 0; i < 50; ++i) {
    const Pose pose = random.pose(15);
    const Vec3 half{random.uniform(0.2, 2), random.uniform(0.2, 0.8), random.uniform(0.2, 2)};
    const double height = random.uniform(0, 1);
    scene.stage.world.add({.shape = Box{half}, .pose = {{pose.position.x, height, pose.position.z}, pose.orientation}});
  }
  scene.walker({0, 4, 0});
  scene.stage.world.set_motion(raft, {0.2, 0, -0.1}, {0, 0.4, 0.1});
  for (int tick = 0; tick < 750; ++tick) {
    if (tick % 31 == 0) {
      const double x = random.uniform(-1, 1), z = random.uniform(-1, 1);
      scene.intent().move = {x, 0, z};
    }
    scene.actor().jump.set(tick % 47 < 5);
    if (tick % 500 == 499) scene.actor().controller.add_velocity({random.uniform(-5, 5), 4, 0});
    scene.tick(1 / hz);
  }
  return scene.stage.hash();
}

/// Every move, on rails, among crates and in water; a forced walker and a ball beside it.
std::uint64_t harbour(double hz) {
  Random random(21);
  Scene scene;
  World& world = scene.stage.world;
  scene.box({-30, -1, -30}, {30, 0, 30});
  scene.box({4, 0, -5}, {8, 2.6, 5});
  world.add_pool({.half_extents = {4, 1, 8}, .pose = {{-12, 1, 0}, {}}, .flow = {0.2, 0, 0.1}});
  const BodyId ferry = world.add({.shape = Box{{3, 0.2, 3}}, .pose = {{0, 0.3, 6}, {}}, .kind = BodyKind::kinematic});
  const std::vector<Vec3> way{{0, 0, 0}, {6, 0, 0}, {6, 2, 4}};
  scene.stage.add_rail(ferry, RailMotion(Path(way, true), {.duration = 3, .turn_along = true, .turn_rate = 0.5}));
  for (int i = 0; i < 8; ++i)
    world.add(
        {.shape = Box{{0.4, 0.4, 0.4}}, .pose = {{-4.0 + i, 0.4, -3}, {}}, .kind = BodyKind::dynamic, .mass = 22});
  const BodyId ball =
      world.add({.shape = Sphere{0.4}, .pose = {{0, 0.4, -8}, {}}, .kind = BodyKind::dynamic, .mass = 25});
  scene.walker({0, 0, 0}, all_moves());
  add_forced(scene.stage, "apprentice", all_moves(), {}, {2, 0, -6});
  add_roller(scene.stage, "buoy", {}, ball);
  for (int tick = 0; tick < 600; ++tick) {
    for (std::size_t i = 0; i < 3; ++i) {
      Actor& a = scene.stage.actor(scene.stage.nth(i));
      auto* ball = a.find<RollerControls>();
      auto* walker = a.find<WalkerControls>();
      if (random.below(30) == 0) {
        const double x = random.uniform(-1, 1), z = random.uniform(-1, 1);
        (ball ? ball->intent.move : walker->intent.move) = {x, 0, z};
      }
      (ball ? ball->jump : walker->jump).set(random.below(4) == 0);
      if (walker) {
        walker->crouch.set(random.below(9) == 0);
        if (random.below(40) == 0) walker->dash.tap();
        if (random.below(90) == 0) walker->launch.tap();
      }
      if (random.below(200) == 0) a.hit({{-1, 0, 0.4}, 0, 200}, world);
    }
    scene.tick(1 / hz);
  }
  return scene.stage.hash();
}

/// Carts with everything on over rough ground, one with a trailer's weight on a rope, and drones in gusts.
std::uint64_t fleet(double hz) {
  Random random(8);
  Stage stage;
  World& world = stage.world;
  world.add({.shape = std::make_shared<Mesh>(rough_road({.length = 120, .width = 40, .roughness = 3}))});
  world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1.4, 0}, {}}});
  for (int i = 0; i < 6; ++i) {
    VehicleTuning tuning;
    for (AxleTuning& axle : tuning.axles) {
      axle.wheel.tyre.model = static_cast<TyreModel>(i % 2);
      axle.wheel.unsprung_mass = i % 3 == 0 ? 15 : 0, axle.wheel.anti_roll = 900 * i;
    }
    tuning.drive.by = i % 2 ? DriveBy::engine : DriveBy::outcomes;
    tuning.drive.differential = static_cast<Differential>(i % 3);
    tuning.ground_probe = static_cast<GroundSense>(i % 4);
    tuning.aids.air_level = 1, tuning.aids.self_right = 1;
    const Vec3 at{8.0 + 12 * i, 1, -12.0 + 4 * i};
    const BodyId body =
        world.add({.shape = Box{{1.2, 0.25, 0.5}}, .pose = {at, {}}, .kind = BodyKind::dynamic, .mass = 420});
    add_vehicle(stage, "cart_" + std::to_string(i), tuning, body);
  }
  for (int i = 0; i < 3; ++i) {
    MultirotorTuning tuning;
    tuning.rotors = 4 + 2 * i, tuning.mode = static_cast<RotorMode>(i + 1), tuning.wind.speed = 3,
    tuning.wind.gusts = 2;
    const BodyId body = world.add(
        {.shape = Box{{0.2, 0.05, 0.2}}, .pose = {{5.0 * i, 6, 0}, {}}, .kind = BodyKind::dynamic, .mass = 2});
    add_multirotor(stage, "drone_" + std::to_string(i), tuning, body);
  }
  for (int tick = 0; tick < 450; ++tick) {
    for (std::size_t i = 0; i < stage.actors() && tick % 30 == 0; ++i) {
      Actor& a = stage.actor(stage.nth(i));
      if (auto* cart = a.find<VehicleControls>()) {
        cart->drive.throttle = random.uniform(-0.5, 1), cart->drive.steer = random.uniform(-1, 1);
        cart->drive.brake = random.below(4) == 0 ? 1 : 0;
      }
      if (auto* craft = a.find<MultirotorControls>()) {
        craft->fly.ahead = random.uniform(-1, 1), craft->fly.climb = random.uniform(-0.3, 0.5);
        craft->fly.place = {4, 7, random.uniform(-3, 3)};
      }
    }
    stage.tick(1 / hz);
  }
  return stage.hash();
}

/// A thousand bodies of every shape, and a zone that some fall through.
std::uint64_t pile(int threads) {
  World world;
  world.set_threads(threads);
  world.add_zone(
      {.size = {2, 2, 2}, .pose = {{1, 3, 0}, {}}, .effect = ZoneEffect::scale, .strength = 0.4, .blend = 0.5});
  add_mixed_pile(world, 1000);
  for (int tick = 0; tick < 14; ++tick) world.step(1.0 / 60);
  StateHash hash;
  world.add_to(hash);
  return hash.value();
}

}  // namespace

int main() {
  for (std::uint32_t seed = 1; seed <= 6; ++seed) {
    std::printf("town %u: %016llx\n", seed, static_cast<unsigned long long>(town(seed, rates[seed - 1])));
  }
  for (const double hz : {30.0, 90.0}) {
    std::printf("fleet %.0f Hz: %016llx\n", hz, static_cast<unsigned long long>(fleet(hz)));
    std::printf("harbour %.0f Hz: %016llx\n", hz, static_cast<unsigned long long>(harbour(hz)));
  }
  for (const int threads : {1, 2}) std::printf("pile: %016llx\n", static_cast<unsigned long long>(pile(threads)));
}
