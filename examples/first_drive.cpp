// The shortest way to a drive: a box on four springs, over a ramp, and its brakes. Springs and drive are tuned by
// outcomes; what is asked for is measured beside it.
#include <cstdio>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/world/world.hpp>

int main() {
  using namespace jugend;
  World world;
  world.add({.shape = Box{{200, 0.5, 10}}, .pose = {{150, -0.5, 0}, {}}});
  const Quat slope = rotation({0, 0, 8 * radians_per_degree});
  world.add({.shape = Box{{4, 0.25, 3}}, .pose = {{60, 0.30, 0}, slope}});

  VehicleTuning tuning;
  tuning.drive.top_speed = 12;  // m/s
  tuning.drive.speed_time = 4;  // s to nine tenths of it
  tuning.brakes.deceleration = 6;
  tuning.brakes.antilock = 1;
  for (AxleTuning& axle : tuning.axles) {
    axle.wheel.suspension.ride_frequency = 1.6;  // Hz
    axle.wheel.suspension.bump_ratio = axle.wheel.suspension.rebound_ratio = 0.5;
    axle.wheel.drive = 1, axle.wheel.brake = 1;
  }
  const BodyId body = world.add({.shape = Box{{1.2, 0.25, 0.5}},
                                 .pose = {{0, 0.7, 0}, {}},
                                 .kind = BodyKind::dynamic,
                                 .mass = 420,
                                 .can_sleep = false});
  Vehicle cart(tuning, body, world);

  const double dt = 1.0 / 60;
  double fast_at = 0, braked_from = 0, air_from = 0, jump = 0;
  for (int tick = 1; tick <= 60 * 13; ++tick) {
    const double time = tick * dt, x = world.pose(body).position.x;
    const bool brakes = time > 10;
    cart.step({.throttle = brakes ? 0.0 : 1.0, .brake = brakes ? 1.0 : 0.0}, world, dt);
    world.step(dt);
    const double speed = norm(world.velocity(body));
    if (fast_at == 0 && speed >= 0.9 * 12) fast_at = time;
    if (brakes && braked_from == 0) braked_from = x;
    bool in_air = true;
    for (int i = 0; i < cart.wheels(); ++i) in_air &= !cart.state().wheels[static_cast<std::size_t>(i)].pressed;
    if (in_air && air_from == 0) air_from = x;
    if (!in_air && air_from > 0) jump = std::max(jump, x - air_from), air_from = 0;
  }
  const double stop = world.pose(body).position.x - braked_from;
  std::printf("nine tenths of top speed after %.2f s, asked 4 s\n", fast_at);
  std::printf("a jump of %.1f m off the ramp\n", jump);
  std::printf("stopped within %.1f m, v\u00b2/2a: %.1f m\n", stop, 12 * 12 / (2 * 6.0));
  return std::abs(fast_at - 4) < 0.1 && jump > 2 && std::abs(stop - 12) < 1 ? 0 : 1;
}
