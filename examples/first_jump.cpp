// The shortest way to a jump: a floor, a courier, sixty ticks a second.
#include <cstdio>
#include <jugend/stage/clock.hpp>
#include <jugend/stage/kinds.hpp>

int main() {
  using namespace jugend;
  Stage stage;
  stage.world.add({.shape = Box{{20, 0.5, 4}}, .pose = {{0, -0.5, 0}, {}}});

  WalkerTuning tuning;  // outcomes, not forces: so high, in that time
  tuning.jump.height = 1.25;
  tuning.jump.time_to_apex = 0.38;
  const ActorId courier = stage.add("courier", Walker(tuning, {0, 0, 0}));

  FixedClock clock(60);
  for (int frame = 0; frame < 144; ++frame) {  // one second of frames at 144 Hz
    auto& actor = stage.actor_with<Walker>(courier);
    actor.intent.move = {1, 0, 0};
    actor.jump.set(frame == 50);  // a key that is down for one frame, shorter than a tick
    for (int ticks = clock.advance(1.0 / 144); ticks > 0; --ticks) {
      stage.tick(clock.tick());
      for (const WalkerEvent& e : actor.heard()) {
        std::printf("%-12s at x %5.2f m, y %5.2f m", name_of(e.kind), e.position.x, e.position.y);
        if (e.kind == WalkerEventKind::apex) std::printf(": %.3f m above take-off", e.value);
        std::printf("\n");
      }
    }
  }
  return stage.actor(courier).as<Walker>().state().position.x > 4 ? 0 : 1;
}
