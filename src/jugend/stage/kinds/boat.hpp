// Boats on the stage.
#pragma once

#include <jugend/motion/boat/boat.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

/// What is wanted of it until that changes.
struct BoatControls {
  BoatIntent helm;

  static constexpr auto fields() { return field_list(Field{"helm", &BoatControls::helm}); }
};
static_assert(all_fields_listed<BoatControls>);

struct BoatKind : DrivenBodyKind {
  using Controller = Boat;
  using Controls = BoatControls;
  using Tunings = std::tuple<BoatTuning>;
  static constexpr std::string_view name = "boat";
  static void listen(Controls&) {}
  static Vec3 wish(const Controls& c, const ActorFacts& f) { return wish_of(f, c.helm.throttle, c.helm.steer); }
  static void leave(Controller& it, Host& host, bool with_body) { leave_awake(it, host, with_body); }
  static void step(Boat& boat, const Controls& c, Surroundings& around, double dt) { boat.step(c.helm, around, dt); }
  static ActorFacts facts(const Boat& boat, const Surroundings& around);
};
template <>
struct KindOf<Boat> {
  using type = BoatKind;
};

/// Makes a boat of a dynamic body, whose drag in water is the boat's from now on; it no longer sleeps. Throws
/// InputError as Boat does.
ActorId add_boat(Stage& stage, std::string name, const BoatTuning& tuning, BodyId body);

}  // namespace jugend
