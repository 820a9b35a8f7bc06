// A whole stage in somebody else's physics (own_physics.hpp): a person, a cart and a drone; first the test whether that
// physics is fit to carry them, then a minute of theirs, half of it played twice from a saved game.
#include <cmath>
#include <cstdio>
#include <jugend/stage/conformance.hpp>
#include <jugend/stage/kinds.hpp>

#include "own_physics.hpp"

using namespace jugend;

int main() {
  OwnPhysics tried;
  const auto add = [&](const auto& shape, const Pose& pose, double mass) {
    return tried.add({.shape = shape, .pose = pose, .mass = mass});
  };
  for (const std::string& fault : faults_of({tried, add, add})) std::printf("wrong: %s\n", fault.c_str());

  OwnPhysics physics;
  physics.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  HostedStage stage(physics);
  const ActorId courier = stage.add("courier", Walker({}, {0, 0, 4}));
  const BodyId body = physics.add({.shape = Box{{1.1, 0.2, 0.5}}, .pose = {{0, 0.7, 0}, {}}, .mass = 240});
  const ActorId cart = stage.add("cart", Vehicle({}, body, physics));
  const BodyId frame = physics.add({.shape = Box{{0.2, 0.05, 0.2}}, .pose = {{0, 3, -4}, {}}, .mass = 2});
  const ActorId drone = stage.add("drone", Multirotor({}, frame, physics));

  const auto play = [&](int seconds) {
    for (int i = 0; i < seconds * 60; ++i) {
      stage.actor(courier).as<WalkerControls>().intent.move = {std::sin(0.01 * i), 0, 0.2};
      stage.actor(courier).as<WalkerControls>().jump.set(i % 90 == 0);
      stage.actor(cart).as<VehicleControls>().drive = {.throttle = norm(stage.facts(cart).velocity) < 6 ? 0.3 : 0,
                                                       .steer = 0.3};
      stage.actor(drone).as<MultirotorControls>().fly.right = 0.2 * std::cos(0.005 * i);
      stage.tick(1.0 / 60);
    }
    return stage.hash();
  };
  play(30);
  const std::vector<std::byte> saved = stage.to_bytes();
  const std::uint64_t once = play(30);
  stage.restore(stage.from_bytes(saved));
  const std::uint64_t again = play(30);

  for (const ActorId id : {courier, cart, drone}) {
    const ActorFacts facts = stage.facts(id);
    std::printf("%-8s at x %6.1f m, y %5.2f m, z %6.1f m, %4.1f m/s\n", stage.actor(id).name().c_str(),
                facts.position.x, facts.position.y, facts.position.z, norm(facts.velocity));
  }
  std::printf("the second half, and again from the saved game: %s\n", once == again ? "the same" : "ANOTHER");
  return once == again && norm(stage.facts(cart).velocity) > 2 ? 0 : 1;
}
