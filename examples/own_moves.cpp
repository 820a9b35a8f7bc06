// Moves of a program's own, on top of a walker's: a clip with root motion, a glide, and a swing on a rope.
#include <cmath>
#include <cstdio>
#include <jugend/base/units.hpp>
#include <jugend/stage/kinds.hpp>

using namespace jugend;

constexpr double dt = 1.0 / 60;

// An animator's clip: a lunge of 1.5 m in 0.6 s that begins and ends softly.
double lunge(double time) {
  const double share = std::fmin(time / 0.6, 1);
  return 1.5 * share * share * (3 - 2 * share);
}

double play_lunge(Stage& stage, ActorId id) {
  auto& courier = stage.actor_with<Walker>(id);
  const Vec3 from = courier.controller.state().position;
  for (int tick = 0; tick < 36; ++tick) {
    const double step = lunge((tick + 1) * dt) - lunge(tick * dt);
    courier.intent.own = {.path = OwnPath::level, .displacement = courier.controller.state().facing * step};
    stage.tick(dt);
  }
  courier.intent.own = {};  // from here on it is an ordinary walker again
  return norm(courier.controller.state().position - from);
}

// A sail over its head: it falls at a tenth of its fastest fall, and steers half as fast again.
double glide(Stage& stage, ActorId id) {
  auto& courier = stage.actor_with<Walker>(id);
  courier.intent.own = {.fall = 0.1, .speed = 1.5};
  courier.intent.move = {1, 0, 0};
  double ticks = 0;
  for (stage.tick(dt); !courier.controller.state().on_ground; stage.tick(dt)) ++ticks;
  courier.intent.own = {}, courier.intent.move = {};
  return ticks * dt;
}

// A rope from a hook: it may go wherever gravity takes it, but no further from the hook than the rope is long. What is
// in the way stops it as it stops any walker, and its velocity is what was left: the next tick goes on from there.
Vec3 on_the_rope(const WalkerState& now, const Vec3& gravity, const Vec3& hook, double length) {
  const Vec3 free = now.position + now.velocity * dt + gravity * (dt * dt) - hook;
  const double reach = norm(free);
  return hook + (reach > length ? free * (length / reach) : free) - now.position;
}

// The time of half a swing, by where it turns back.
double swing(Stage& stage, ActorId id, const Vec3& hook, double length) {
  auto& courier = stage.actor_with<Walker>(id);
  for (int tick = 1;; ++tick) {
    const WalkerState& now = courier.controller.state();
    courier.intent.own = {.path = OwnPath::whole,
                          .displacement = on_the_rope(now, {0, -standard_gravity, 0}, hook, length)};
    stage.tick(dt);
    if ((tick > 10 && now.velocity.x < 0) || tick > 600) return tick * dt;
  }
}

int main() {
  Stage stage;
  stage.world.add({.shape = Box{{60, 0.5, 4}}, .pose = {{40, -0.5, 0}, {}}, .name = "quay"});
  const ActorId courier = stage.add("courier", Walker({}, {0, 0, 0}));
  for (int tick = 0; tick < 10; ++tick) stage.tick(dt);

  const double covered = play_lunge(stage, courier);
  std::printf("a clip of 1.500 m covers         %.4f m\n", covered);

  stage.place(courier, {.pose = {{20, 14, 0}, {}}});
  const double time = glide(stage, courier);
  std::printf("a glide from 14 m, at 2.2 m/s    %.2f s\n", time);

  constexpr double length = 6;
  const Vec3 hook{60, 14, 0}, from = hook + Vec3{-length * std::sin(0.2), -length * std::cos(0.2), 0};
  stage.place(courier, {.pose = {from, {}}});
  const double half = swing(stage, courier, hook, length);
  // A pendulum's half period, to the second order of its amplitude.
  const double closed = pi * std::sqrt(length / standard_gravity) * (1 + 0.2 * 0.2 / 16);
  std::printf("half a swing on 6 m of rope      %.2f s, a pendulum's %.2f s\n", half, closed);

  const bool fine =
      std::abs(covered - 1.5) < 1e-3 && std::abs(time - 14 / 2.2) < 0.3 && std::abs(half - closed) < 2 * dt;
  return fine ? 0 : 1;
}
