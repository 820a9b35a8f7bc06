// What a cart's tick costs, beside the rays that it casts.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <algorithm>
#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/world/world.hpp>
#include <random>
#include <vector>

#include "terrain.hpp"
#include "timing.hpp"

namespace jugend::bench {
namespace {

/// Carts all over 200,000 triangles, each driving its own way.
class Fleet {
 public:
  World world;
  std::vector<Vehicle> carts;

  Fleet(std::size_t count, const VehicleTuning& tuning) {
    const std::uint32_t cells = cells_for(200000);
    world.add({.shape = std::make_shared<Mesh>(terrain(cells))});
    const double size = size_ = cells;
    for (std::size_t i = 0; i < count; ++i) {
      const double x = uniform(0.2 * size, 0.8 * size), z = uniform(0.2 * size, 0.8 * size), angle = uniform(0, 6.28);
      const BodyId body = world.add({.shape = Box{{1.2, 0.25, 0.5}},
                                     .pose = {{x, terrain_height(x, z) + 0.9, z}, rotation({0, angle, 0})},
                                     .kind = BodyKind::dynamic,
                                     .mass = 420,
                                     .can_sleep = false});
      carts.emplace_back(tuning, body, world);
      steer_.push_back(uniform(-0.4, 0.4));
    }
    for (int i = 0; i < 120; ++i) tick();
  }
  void control(Surroundings& surroundings) {
    for (std::size_t i = 0; i < carts.size(); ++i)
      carts[i].step({.throttle = 0.5, .steer = steer_[i]}, surroundings, 1.0 / 60);
  }
  void tick() {
    control(world);
    world.step(1.0 / 60);
  }
  /// The rays that the carts cast, as they stand.
  std::vector<Ray> rays() const {
    std::vector<Ray> all;
    for (const Vehicle& cart : carts) {
      const Pose pose = world.pose(cart.body());
      const Vec3 up = rotate(pose.orientation, {0, 1, 0});
      for (int i = 0; i < cart.wheels(); ++i) {
        const WheelTuning& w = cart.wheel(i);
        const SuspensionTuning& s = w.suspension;
        all.push_back({to_world(pose, w.mount), -up, s.rest_length + s.droop + w.radius});
      }
    }
    return all;
  }

 private:
  double uniform(double low, double high) { return low + (high - low) * (random_() / 4294967296.0); }
  std::mt19937 random_{2};
  std::vector<double> steer_;
  double size_ = 0;
};

VehicleTuning everything() {
  VehicleTuning tuning;
  for (AxleTuning& axle : tuning.axles) {
    axle.wheel.tyre.model = TyreModel::brush;
    axle.wheel.tyre.load_fade = 0.1, axle.wheel.anti_roll = 4000;
    axle.wheel.unsprung_mass = 14;
  }
  tuning.drive.by = DriveBy::engine, tuning.drive.differential = Differential::limited;
  tuning.drive.traction_control = 1;
  tuning.brakes.antilock = 1, tuning.air.downforce = 0.3;
  return tuning;
}

/// What the rest of a game does between two ticks of a cart: the nearer caches hold other things then.
void other_work() {
  static std::vector<double> others(std::size_t{1} << 20, 1.0);  // 8 MB
  for (double& x : others) x *= 0.999;
  benchmark::ClobberMemory();
}

struct Cost {
  double ratio, tick_us;
};
Cost cost_of(Fleet& fleet, int rounds, void (*between)()) {
  std::vector<double> ratios;
  double fastest = 1e300;
  for (int round = 0; round < rounds; ++round) {
    const std::vector<Ray> rays = fleet.rays();
    double casts = 1e300, control = 1e300;
    const std::vector<Vehicle> before = fleet.carts;
    // Three times each, the fastest of either: a hitch of the machine is no cost of either.
    for (int again = 0; again < 3; ++again) {
      between();
      casts = std::min(casts, seconds([&] {
                         for (std::size_t i = 0; i < rays.size(); ++i) {
                           const Filter own{.ignored = fleet.carts[i / 4].body()};
                           benchmark::DoNotOptimize(fleet.world.cast(rays[i], own));
                         }
                       }));
      fleet.carts = before;
      Snapshot snapshot;
      fleet.world.save(snapshot);
      between();
      control = std::min(control, seconds([&] { fleet.control(fleet.world); }));
      fleet.world.restore(snapshot);
    }
    fleet.carts = before;
    fleet.tick();
    ratios.push_back(control / casts);
    fastest = std::min(fastest, control * 1e6);
  }
  return {median(ratios), fastest};
}

}  // namespace

void report_vehicle_ratios() {
  fmt::print("Carts of four wheels on 200000 triangles, one thread:\n");
  VehicleTuning one_ray;
  one_ray.look_ahead = 0;
  const auto report = [&](const char* which, std::size_t count, int rounds, void (*between)()) {
    Fleet plain(count, one_ray), full(count, everything());
    const Cost a = cost_of(plain, rounds, between), b = cost_of(full, rounds, between);
    const auto each = static_cast<double>(count);
    fmt::print("  {:<21}: a tick / its four bare rays       {:.2f}   (at most 1.5; {:.2f} us each)\n", which, a.ratio,
               a.tick_us / each);
    fmt::print("  {:<21}: with everything on / the same      {:.2f}   (at most 3; {:.2f} us each)\n", which, b.ratio,
               b.tick_us / each);
  };
  report("among 1000", 1000, 31, [] {});
  report("one, after other work", 1, 400, other_work);
  report("one, all in caches", 1, 400, [] {});
  {
    Fleet fleet(1000, one_ray);
    std::vector<double> times;
    for (int tick = 0; tick < 60; ++tick) times.push_back(seconds([&] { fleet.tick(); }) * 1e3);
    fmt::print("  a tick of 1000 with their world          {:.1f} ms in the middle\n", median(times));
  }
  // Drones, high above anything that a ray could meet.
  World sky;
  std::vector<Multirotor> drones;
  MultirotorTuning eight;
  eight.rotors = 8;
  for (int i = 0; i < 100; ++i) {
    const BodyId body = sky.add({.shape = Box{{0.2, 0.05, 0.2}},
                                 .pose = {{3.0 * i, 100, 0}, {}},
                                 .kind = BodyKind::dynamic,
                                 .mass = 2,
                                 .can_sleep = false});
    drones.emplace_back(eight, body, sky);
  }
  double fastest = 1e300;
  for (int round = 0; round < 200; ++round) {
    fastest = std::min(fastest, seconds([&] {
                         for (Multirotor& d : drones) d.step({.ahead = 0.3, .right = -0.2}, sky, 1.0 / 60);
                       }));
    sky.step(1.0 / 60);
  }
  fmt::print("  a multirotor of 8 rotors, its tick       {:.2f} us   (at most 2)\n\n", fastest * 1e4);
}

}  // namespace jugend::bench
