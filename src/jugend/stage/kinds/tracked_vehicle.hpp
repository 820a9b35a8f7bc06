// Tracked vehicles on the stage.
#pragma once

#include <jugend/motion/tracked/tracked_vehicle.hpp>
#include <jugend/stage/kinds/vehicle.hpp>

namespace jugend {

/// What is wanted of it until that changes.
struct TrackedControls {
  TrackedIntent drive;

  static constexpr auto fields() { return field_list(Field{"drive", &TrackedControls::drive}); }
};
static_assert(all_fields_listed<TrackedControls>);

struct TrackedVehicleKind : DrivenBodyKind {
  using Controller = TrackedVehicle;
  using Controls = TrackedControls;
  using Tunings = std::tuple<TrackedTuning>;
  static constexpr std::string_view name = "tracked_vehicle";
  static void listen(Controls&) {}
  static Vec3 wish(const Controls& c, const ActorFacts& f) { return wish_of(f, c.drive.throttle, c.drive.steer); }
  static void leave(Controller& it, Host& host, bool with_body) { leave_awake(it, host, with_body); }
  static void step(TrackedVehicle& vehicle, const Controls& c, Surroundings& around, double dt) {
    vehicle.step(c.drive, around, dt);
  }
  static ActorFacts facts(const TrackedVehicle& vehicle, const Surroundings& around) {
    return VehicleKind::facts(vehicle.wheels(), around);
  }
  /// It leaves the ground with its last wheel, and lands with its first.
  static InlineList<ActorEvent, 2> events(const TrackedVehicle& vehicle, const PastTick& tick) {
    return VehicleKind::events(vehicle.wheels(), tick);
  }
};
template <>
struct KindOf<TrackedVehicle> {
  using type = TrackedVehicleKind;
};

/// Puts tracks under a dynamic body; it no longer sleeps. Throws InputError as TrackedVehicle does.
ActorId add_tracked_vehicle(Stage& stage, std::string name, const TrackedTuning& tuning, BodyId body);

}  // namespace jugend
