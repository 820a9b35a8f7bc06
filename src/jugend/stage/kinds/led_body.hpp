// Bodies led by heading and speed on the stage.
#pragma once

#include <jugend/motion/bodies/led_body.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

/// What is wanted of it until that changes.
struct LedBodyControls {
  LedBodyIntent intent;

  static constexpr auto fields() { return field_list(Field{"intent", &LedBodyControls::intent}); }
};
static_assert(all_fields_listed<LedBodyControls>);

struct LedBodyKind : DrivenBodyKind {
  using Controller = LedBody;
  using Controls = LedBodyControls;
  using Tunings = std::tuple<LedBodyTuning>;
  static constexpr std::string_view name = "led_body";
  static void listen(Controls&) {}
  static Vec3 wish(const Controls& c, const ActorFacts& f) {
    const double way = c.intent.speed > 0 ? 1 : c.intent.speed < 0 ? -1 : 0;
    return normalised(c.intent.heading, f.facing) * way;
  }
  static void step(LedBody& led, const Controls& c, Surroundings& around, double dt) { led.step(c.intent, around, dt); }
  static ActorFacts facts(const LedBody& led, const Surroundings& around) { return facts_of_body(led.body(), around); }
};
template <>
struct KindOf<LedBody> {
  using type = LedBodyKind;
};

/// Leads a dynamic body. Throws InputError for a body that is not dynamic.
ActorId add_led_body(Stage& stage, std::string name, const LedBodyTuning& tuning, BodyId body);

}  // namespace jugend
