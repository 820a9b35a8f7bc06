// Vehicles in the lab: cues of drive; what is shown and measured of their wheels is in wheels.cpp.
#include <algorithm>
#include <jugend/lab/kinds/wheels.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/stage/kinds/vehicle.hpp>

namespace jugend {
namespace {

class VehicleLabKind final : public WheeledLabKind<VehicleTuning> {
 public:
  std::string_view name() const override { return VehicleKind::name; }
  const Tunables& tunables() const override { return vehicle_tunables(); }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_vehicle(stage, at.name, tuning.as<VehicleTuning>(), at.body);
  }
  void read_cue(TableReader& cue, const ActorTuning&, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      VehicleIntent& drive = actor.as<VehicleControls>().drive;
      drive.throttle = ahead, drive.steer = right;
    });
    if (const DocValue* table = cue.table("drive")) {
      TableReader drive(*table, cue.file(), cue.path_of("drive."));
      VehicleIntent wanted;
      read_share(drive, "throttle", -1, wanted.throttle), read_share(drive, "brake", 0, wanted.brake),
          read_share(drive, "steer", -1, wanted.steer);
      read_share(drive, "hand_brake", 0, wanted.hand_brake), read_share(drive, "lean", -1, wanted.lean);
      if (const auto shift = drive.whole("shift", {-1, 1})) wanted.shift = *shift;
      drive.finish();
      into.add([wanted](Stage& stage, ActorId actor) { stage.actor(actor).as<VehicleControls>().drive = wanted; });
    }
    read_hit_cue(cue, into, 0, 0);
  }
  CueAct follow(Path route, double speed) const override {
    return [route = std::move(route), driver = PathDriver{.speed = speed}](Stage& stage, ActorId index) mutable {
      Actor& actor = stage.actor(index);
      const ActorFacts f = stage.facts(index);
      const Driven self{f.position, f.velocity, f.facing, f.up};
      driver.look_ahead = std::max(2.0, 0.7 * norm(f.velocity));
      const Vehicle& vehicle = actor.as<Vehicle>();
      const double slow_down = 0.5 * vehicle.tuning().brakes.deceleration;
      actor.as<VehicleControls>().drive = led_by(driver.drive(self, route, slow_down), self, vehicle);
    };
  }
  HeldInput held(const Actor& actor) const override {
    const VehicleIntent& drive = actor.as<VehicleControls>().drive;
    return {drive.throttle, drive.steer, std::max(drive.brake, drive.hand_brake), 0};
  }

 private:
  const Vehicle& wheels_of(const Actor& actor) const override { return actor.as<Vehicle>(); }
  void check_it(const VehicleTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const VehicleTuning& tuning) const override { return tuning.drive.top_speed; }
};

}  // namespace

std::shared_ptr<const LabKind> vehicle_lab_kind() { return std::make_shared<VehicleLabKind>(); }

}  // namespace jugend
