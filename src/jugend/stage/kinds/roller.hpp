// Balls to roll on the stage.
#pragma once

#include <jugend/motion/bodies/roller.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

/// What input sets of a ball between ticks.
struct RollerControls {
  RollerIntent intent;  ///< its button is filled from the latch
  PressLatch jump;

  static constexpr auto fields() {
    return field_list(Field{"intent", &RollerControls::intent}, Field{"jump", &RollerControls::jump});
  }
};
static_assert(all_fields_listed<RollerControls>);

struct RollerKind : DrivenBodyKind {
  using Controller = Roller;
  using Controls = RollerControls;
  using Tunings = std::tuple<RollerTuning>;
  static constexpr std::string_view name = "roller";
  static void listen(Controls& c) { c.intent.jump = c.jump.take(); }
  static Vec3 wish(const Controls& c, const ActorFacts&) { return c.intent.move; }
  static void step(Roller& roller, const Controls& c, Surroundings& around, double dt) {
    roller.step(c.intent, around, dt);
  }
  static void settle(Roller& roller, Surroundings& around, double dt) { roller.settle(around, dt); }
  static ActorFacts facts(const Roller& roller, const Surroundings& around);
  static InlineList<ActorEvent, 8> events(const Roller& roller, const PastTick& tick);
};
template <>
struct KindOf<Roller> {
  using type = RollerKind;
};

/// Drives a dynamic ball of the world. Throws InputError for a body that is none.
ActorId add_roller(Stage& stage, std::string name, const RollerTuning& tuning, BodyId ball);

}  // namespace jugend
