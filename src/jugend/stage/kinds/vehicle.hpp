// Vehicles on the stage.
#pragma once

#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

/// What is wanted of it until that changes; a press of the gear lever counts for one tick.
struct VehicleControls {
  VehicleIntent drive;

  static constexpr auto fields() { return field_list(Field{"drive", &VehicleControls::drive}); }
};
static_assert(all_fields_listed<VehicleControls>);

struct VehicleKind : DrivenBodyKind {
  using Controller = Vehicle;
  using Controls = VehicleControls;
  using Tunings = std::tuple<VehicleTuning>;
  static constexpr std::string_view name = "vehicle";
  static void listen(Controls&) {}
  static Vec3 wish(const Controls& c, const ActorFacts& f) { return wish_of(f, c.drive.throttle, c.drive.steer); }
  static void leave(Controller& it, Host& host, bool with_body) { leave_awake(it, host, with_body); }
  static void step(Vehicle& vehicle, Controls& c, Surroundings& around, double dt) {
    vehicle.step(c.drive, around, dt);
    c.drive.shift = 0;
  }
  static ActorFacts facts(const Vehicle& vehicle, const Surroundings& around);
  /// It leaves the ground with its last wheel, and lands with its first.
  static InlineList<ActorEvent, 2> events(const Vehicle& vehicle, const PastTick& tick);
};
template <>
struct KindOf<Vehicle> {
  using type = VehicleKind;
};

/// Puts wheels under a dynamic body; it no longer sleeps. Throws InputError as Vehicle does.
ActorId add_vehicle(Stage& stage, std::string name, const VehicleTuning& tuning, BodyId body);

}  // namespace jugend
