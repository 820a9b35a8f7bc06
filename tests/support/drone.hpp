// A drone above flat ground, as tests fly it.
#pragma once

#include <algorithm>
#include <cmath>
#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/world/world.hpp>
#include <optional>

namespace jugend::testing {

struct Drone {
  World world;
  BodyId body{};
  std::optional<Multirotor> drone;
  double mass = 1.9;

  explicit Drone(const MultirotorTuning& tuning = {}, const Vec3& at = {0, 10, 0}) {
    world.add({.shape = Box{{500, 1, 500}}, .pose = {{0, -1, 0}, {}}});
    body = world.add({.shape = Box{{0.22, 0.05, 0.22}},
                      .pose = {at, {}},
                      .kind = BodyKind::dynamic,
                      .mass = mass,
                      .can_sleep = false});
    drone.emplace(tuning, body, world);
  }
  void tick(const MultirotorIntent& intent, double dt) {
    drone->step(intent, world, dt);
    world.step(dt);
  }
  template <class Each>
  void run(const MultirotorIntent& intent, double seconds, double hz, Each&& each) {
    for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) tick(intent, 1 / hz), each();
  }
  void run(const MultirotorIntent& intent, double seconds, double hz) {
    run(intent, seconds, hz, [] {});
  }
  double thrust() const {
    double sum = 0;
    for (const double t : drone->state().thrust) sum += t;
    return sum;
  }
  Vec3 place() const { return world.pose(body).position; }
  Vec3 velocity() const { return world.velocity(body); }
  Vec3 up() const { return rotate(world.pose(body).orientation, {0, 1, 0}); }
  double tilt() const { return std::acos(std::clamp(up().y, -1.0, 1.0)); }
};

}  // namespace jugend::testing
