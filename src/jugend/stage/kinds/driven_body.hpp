// What all kinds that drive a body of the world have in common on the stage.
#pragma once

#include <jugend/stage/stage.hpp>

namespace jugend {

/// A kind whose controller acts on one dynamic body; settle and events may be hidden by the kind's own.
struct DrivenBodyKind {
  static void settle(auto&, Surroundings&, double) {}
  static InlineList<ActorEvent, 1> events(const auto&, const PastTick&) { return {}; }
  /// Sticks, ahead and to the right, as a way in the world.
  static Vec3 wish_of(const ActorFacts& f, double ahead, double right) {
    return f.facing * ahead + cross(f.facing, f.up) * right;
  }
  /// Of a kind that keeps its body from sleeping.
  static void leave_awake(auto& controller, Host& host, bool with_body) {
    if (with_body)
      host.remove(controller.body());
    else
      host.set_sleeping(controller.body(), true);
  }
  /// The body takes the impulse of a hit.
  static bool hit(auto& controller, const HitBy& by, Host& host) {
    const BodyId body = controller.body();
    host.push(body, normalised(by.away) * by.impulse, host.facts(body).centre);
    return by.impulse > 0;
  }
};

/// The body's own place, motion and axes; it counts as on the ground.
ActorFacts facts_of_body(BodyId body, const Surroundings& around);

}  // namespace jugend
