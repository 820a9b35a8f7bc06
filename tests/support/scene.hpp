// A stage with one walker on it, for tests: build, drive, listen.
#pragma once

#include <functional>
#include <jugend/stage/kinds.hpp>
#include <optional>
#include <vector>

namespace jugend::testing {

/// The tick rates at which outcomes are held to their closed forms.
inline constexpr double rates[] = {30, 48, 60, 120, 144, 240};
/// And those at which they are held beside a much finer one.
inline constexpr double common_rates[] = {30, 60, 120, 240};

/// A walker's tuning with every move switched on.
inline WalkerTuning all_moves() {
  WalkerTuning tuning;
  tuning.jump.air_jumps = 2, tuning.jump.tap_height = 0.4, tuning.jump.float_speed = 1;
  tuning.wall.on = tuning.ledge.on = 1;
  tuning.dash.charge.charges = tuning.launch.charge.charges = 1;
  return tuning;
}

struct HeardEvent {
  double time;  // s from the scene's start
  WalkerEvent event;
};

class Scene {
 public:
  Stage stage;
  std::vector<HeardEvent> heard;
  double now = 0;

  /// A box from corner to corner.
  BodyId box(const Vec3& low, const Vec3& high) {
    return stage.world.add({.shape = Box{(high - low) * 0.5}, .pose = {(low + high) * 0.5, {}}});
  }
  /// A slab whose upper face passes through `at`, tilted about z so that it rises by `angle` towards x.
  BodyId slope(const Vec3& at, double angle, double half_length = 60) {
    const Quat turn = rotation({0, 0, angle});
    return stage.world.add({.shape = Box{{half_length, 1, 20}}, .pose = {at - rotate(turn, {0, 1, 0}), turn}});
  }
  void walker(const Vec3& feet, const WalkerTuning& tuning = {}) { stage.add("courier", Walker(tuning, feet)); }

  ActorOf<WalkerKind>& actor() { return stage.actor_with<Walker>(stage.nth(0)); }
  const WalkerState& state() { return actor().controller.state(); }
  WalkerIntent& intent() { return actor().intent; }

  /// One tick, its events kept.
  void tick(double dt) {
    stage.tick(dt);
    for (const WalkerEvent& e : actor().controller.events()) heard.push_back({now + e.time, e});
    now += dt;
  }
  /// Ticks for about `seconds`; `each`, where given, is called before each tick.
  void run(double seconds, double hz, const std::function<void()>& each = {}) {
    const int ticks = static_cast<int>(std::lround(seconds * hz));
    for (int i = 0; i < ticks; ++i) {
      if (each) each();
      tick(1 / hz);
    }
  }
  std::optional<HeardEvent> first(WalkerEventKind kind) const {
    for (const HeardEvent& h : heard) {
      if (h.event.kind == kind) return h;
    }
    return std::nullopt;
  }
  int count(WalkerEventKind kind) const {
    int n = 0;
    for (const HeardEvent& h : heard) n += h.event.kind == kind;
    return n;
  }
};

}  // namespace jugend::testing
