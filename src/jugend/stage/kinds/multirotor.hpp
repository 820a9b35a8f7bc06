// Multirotors on the stage.
#pragma once

#include <jugend/motion/bodies/multirotor.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

/// What is wanted of it until that changes.
struct MultirotorControls {
  MultirotorIntent fly;

  static constexpr auto fields() { return field_list(Field{"fly", &MultirotorControls::fly}); }
};
static_assert(all_fields_listed<MultirotorControls>);

struct MultirotorKind : DrivenBodyKind {
  using Controller = Multirotor;
  using Controls = MultirotorControls;
  using Tunings = std::tuple<MultirotorTuning>;
  static constexpr std::string_view name = "multirotor";
  static void listen(Controls&) {}
  static Vec3 wish(const Controls& c, const ActorFacts& f) {
    return wish_of(f, c.fly.ahead, c.fly.right) + f.up * c.fly.climb;
  }
  static void leave(Controller& it, Host& host, bool with_body) { leave_awake(it, host, with_body); }
  static void step(Multirotor& craft, const Controls& c, Surroundings& around, double dt) {
    craft.step(c.fly, around, dt);
  }
  /// In position mode it stays where it is.
  static MultirotorControls none(const Multirotor& craft, const Host& host) {
    MultirotorControls controls;
    controls.fly.place = host.facts(craft.body()).pose.position;
    return controls;
  }
  static ActorFacts facts(const Multirotor& craft, const Surroundings& around);
};
template <>
struct KindOf<Multirotor> {
  using type = MultirotorKind;
};

/// Puts rotors on a dynamic body. Throws InputError as Multirotor does.
ActorId add_multirotor(Stage& stage, std::string name, const MultirotorTuning& tuning, BodyId body);

}  // namespace jugend
