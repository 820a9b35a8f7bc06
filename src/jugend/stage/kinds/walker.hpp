// Walkers on the stage: the swept one and the one on a dynamic body, told and driven alike.
#pragma once

#include <jugend/motion/walker/forced_walker.hpp>
#include <jugend/motion/walker/walker.hpp>
#include <jugend/stage/stage.hpp>

namespace jugend {

/// What input sets of a walker between ticks, at any time: no press is lost or doubled.
struct WalkerControls {
  WalkerIntent intent;                    ///< directions for the coming ticks; its buttons are filled from the latches
  PressLatch jump, dash, launch, crouch;  ///< set from input at any time between ticks

  static constexpr auto fields() {
    using C = WalkerControls;
    return field_list(Field{"intent", &C::intent}, Field{"jump", &C::jump}, Field{"dash", &C::dash},
                      Field{"launch", &C::launch}, Field{"crouch", &C::crouch});
  }
};
static_assert(all_fields_listed<WalkerControls>);

/// What the stage needs to know of walkers on either body.
struct AnyWalkerKind {
  using Controls = WalkerControls;
  using Base = WalkerBrain;
  using Tunings = std::tuple<WalkerTuning>;
  static void listen(Controls& c) {
    c.intent.jump = c.jump.take(), c.intent.dash = c.dash.take();
    c.intent.launch = c.launch.take(), c.intent.crouch = c.crouch.take();
  }
  static Vec3 wish(const Controls& c, const ActorFacts&) { return c.intent.move; }
  static void step(auto& walker, const Controls& c, Surroundings& around, double dt) {
    walker.step(c.intent, around, dt);
  }
  static void settle(auto& walker, Surroundings& around, double dt) { walker.settle(around, dt); }
  static ActorFacts facts(const WalkerBrain& walker, const Surroundings& around);
  static bool hit(WalkerBrain& walker, const HitBy& by, Host&) { return walker.hit(by); }
  static std::span<const ActorEvent> events(const WalkerBrain& walker, const PastTick&) {
    return {walker.events().begin(), walker.events().size()};
  }
};

/// The world holds a body that shows a swept walker to others, and through which they push it.
struct WalkerKind : AnyWalkerKind {
  using Controller = Walker;
  static constexpr std::string_view name = "walker";
  static void enter(Walker& walker, const std::string& name, Host& host);
  static constexpr bool acts_first = true;
  static void take(Walker& walker, Host& host);
  static bool show(Walker& walker, Host& host, double dt);
  static void leave(Walker& walker, Host& host, bool) { host.remove(walker.body()); }
  static void pause(Walker& walker, Host& host, bool);
  static void place(Walker& walker, const Placement& there, Host&);
  static void retuned(Walker& walker, Host& host);
};
template <>
struct KindOf<Walker> {
  using type = WalkerKind;
};

struct ForcedWalkerKind : AnyWalkerKind {
  using Controller = ForcedWalker;
  using Tunings = std::tuple<ForcedTuning, WalkerTuning, LegsTuning>;
  static constexpr std::string_view name = "forced";
  static void place(ForcedWalker& walker, const Placement& there, Host& host);
  static void retuned(ForcedWalker& walker, Host& host);
};
template <>
struct KindOf<ForcedWalker> {
  using type = ForcedWalkerKind;
};

/// Makes the body of a forced walker, with its soles at `feet`, and puts it on the stage. Throws InputError as the
/// tunings' checks do.
ActorId add_forced(Stage& stage, std::string name, const WalkerTuning& tuning, const LegsTuning& legs, const Vec3& feet,
                   const Vec3& facing = {1, 0, 0});

}  // namespace jugend
