// What all kinds that drive a body of the world have in common on the stage.
#pragma once

#include <jugend/stage/stage.hpp>

namespace jugend {

/// A kind whose controller acts on one dynamic body; settle and events may be hidden by the kind's own.
struct DrivenBodyKind {
  static void settle(auto&, Surroundings&, double) {}
  static InlineList<ActorEvent, 1> events(const auto&, const PastTick&) { return {}; }
  /// Of a kind that keeps its body from sleeping.
  static void leave_awake(auto& controller, World& world, bool with_body) {
    if (with_body)
      world.remove(controller.body());
    else
      world.set_sleeping(controller.body(), true);
  }
  /// The body takes the impulse of a hit.
  static bool hit(auto& controller, const HitBy& by, World& world) {
    world.push(controller.body(), normalised(by.away) * by.impulse);
    return by.impulse > 0;
  }
};

/// The body's own place, motion and axes; it counts as on the ground.
ActorFacts facts_of_body(BodyId body, const World& world);

}  // namespace jugend
