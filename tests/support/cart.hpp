// A world with a vehicle in it, for tests: build, drive, look.
#pragma once

#include <functional>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/world/world.hpp>
#include <optional>

namespace jugend::testing {

/// Four wheels, all driven and all braked alike, grip that never ends: what is asked for can be had.
inline VehicleTuning sure_footed() {
  VehicleTuning tuning;
  for (AxleTuning& axle : tuning.axles) axle.wheel.drive = axle.wheel.brake = 1, axle.wheel.tyre.grip = 4;
  return tuning;
}

struct Cart {
  World world;
  BodyId body{};
  std::optional<Vehicle> vehicle;
  Vec3 half{1.2, 0.25, 0.5};
  double mass = 420;
  std::uint8_t locks = 0;

  /// Level ground whose face is at height 0.
  BodyId floor(const Surface& surface = {}, double height = 0) {
    return world.add({.shape = Box{{4000, 1, 4000}}, .pose = {{0, height - 1, 0}, {}}, .surface = surface});
  }
  /// Ground that rises by `angle` towards x, through the origin.
  void slope(double angle) {
    const Quat turn = rotation({0, 0, angle});
    world.add({.shape = Box{{2000, 1, 2000}}, .pose = {rotate(turn, {0, -1, 0}), turn}});
  }
  /// Puts the cart where it rests on its springs: its centre `ride height` above `at`, along the up of `turn`.
  void put(const VehicleTuning& tuning, const Vec3& at = {}, const Quat& turn = {},
           std::optional<std::vector<WheelTuning>> wheels = {}) {
    body = world.add({.shape = Box{half},
                      .pose = {at, turn},
                      .kind = BodyKind::dynamic,
                      .layers = 2,
                      .mass = mass,
                      .locks = locks,
                      .can_sleep = false});
    if (wheels) {
      vehicle.emplace(tuning, *wheels, body, world);
    } else {
      vehicle.emplace(tuning, body, world);
    }
    world.place(body, {at + rotate(turn, {0, vehicle->ride_height(), 0}), turn});
  }
  void tick(const VehicleIntent& intent, double dt) {
    vehicle->step(intent, world, dt);
    world.step(dt);
  }
  void run(const VehicleIntent& intent, double seconds, double hz, const std::function<void()>& each = {}) {
    const int ticks = static_cast<int>(std::lround(seconds * hz));
    for (int i = 0; i < ticks; ++i) {
      tick(intent, 1 / hz);
      if (each) each();
    }
  }
  const WheelState& wheel(int i) const { return vehicle->state().wheels[static_cast<std::size_t>(i)]; }
  Vec3 place() const { return world.pose(body).position; }
  Vec3 velocity() const { return world.velocity(body); }
  Vec3 ahead() const { return rotate(world.pose(body).orientation, {1, 0, 0}); }
  Vec3 up() const { return rotate(world.pose(body).orientation, {0, 1, 0}); }
  double total_load() const {
    double sum = 0;
    for (int i = 0; i < vehicle->wheels(); ++i) sum += wheel(i).load;
    return sum;
  }
};

}  // namespace jugend::testing
