// Tracked vehicles in the lab: cues of drive, their wheels in traces and pictures, gauges of driving and turning.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/lab/kinds/wheels.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/stage/kinds/tracked_vehicle.hpp>

namespace jugend {
namespace {

constexpr GaugeInfo track_gauges[] = {
    {"turn_rate_peak_deg_s", "highest turn rate", "deg/s", "highest rate at which its heading turns"},
    {"turn_share", "turns of what its tracks run apart", "1",
     "angle that it turned, as a share of what the speeds of its tracks amount to"},
};

class TrackedVehicleLabKind final : public WheeledLabKind<TrackedTuning> {
 public:
  std::string_view name() const override { return TrackedVehicleKind::name; }
  const Tunables& tunables() const override { return tracked_tunables(); }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_tracked_vehicle(stage, at.name, tuning.as<TrackedTuning>(), at.body);
  }
  void read_cue(TableReader& cue, const ActorTuning&, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      TrackedIntent& drive = actor.as<TrackedControls>().drive;
      drive.throttle = ahead, drive.steer = right;
    });
    if (const DocValue* table = cue.table("drive")) {
      TableReader drive(*table, cue.file(), cue.path_of("drive."));
      TrackedIntent wanted;
      read_share(drive, "throttle", -1, wanted.throttle), read_share(drive, "steer", -1, wanted.steer),
          read_share(drive, "brake", 0, wanted.brake);
      drive.finish();
      into.add([wanted](Stage& stage, ActorId actor) { stage.actor(actor).as<TrackedControls>().drive = wanted; });
    }
    read_hit_cue(cue, into, 0, 0);
  }
  CueAct follow(Path route, double speed) const override {
    return [route = std::move(route), driver = PathDriver{.speed = speed}](Stage& stage, ActorId index) mutable {
      Actor& actor = stage.actor(index);
      const ActorFacts f = stage.facts(index);
      const Driven self{f.position, f.velocity, f.facing, f.up};
      driver.look_ahead = std::max(2.0, norm(f.velocity));
      const TrackedVehicle& vehicle = actor.as<TrackedVehicle>();
      const double slow_down = 0.5 * vehicle.tuning().brakes;
      actor.as<TrackedControls>().drive = led_by(driver.drive(self, route, slow_down), self, vehicle);
    };
  }
  HeldInput held(const Actor& actor) const override {
    const TrackedIntent& drive = actor.as<TrackedControls>().drive;
    return {drive.throttle, drive.steer, drive.brake, 0};
  }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    measure_wheels(trace, gauges);
    measure_turning_rate(trace, gauges);
  }
  std::vector<GaugeInfo> gauges() const override {
    std::vector<GaugeInfo> all = gauges_of_wheels();
    all.insert(all.end(), std::begin(track_gauges), std::end(track_gauges));
    return all;
  }

 private:
  const Vehicle& wheels_of(const Actor& actor) const override { return actor.as<TrackedVehicle>().wheels(); }
  /// How fast it turns, and how much of what its tracks run apart.
  static void measure_turning_rate(const ActorTrace& trace, std::vector<Gauge>& gauges) {
    const double gauge = trace.tuning.as<TrackedTuning>().gauge, radius = trace.tuning.as<TrackedTuning>().radius;
    double fastest = 0, told = 0, done = 0;
    for (std::size_t i = 1; i < trace.rows.size(); ++i) {
      const TraceRow &before = trace.rows[i - 1], &now = trace.rows[i];
      const double turned = std::atan2(dot(cross(before.facing, now.facing), now.up), dot(before.facing, now.facing));
      const double apart = (trace.part(i, 1, wheel_spin) - trace.part(i, 0, wheel_spin)) * radius / gauge;
      const double dt = now.time - before.time;
      fastest = std::max(fastest, std::abs(turned) / dt);
      told += std::abs(apart) * dt, done += turned * (apart < 0 ? -1 : 1);
    }
    gauges.push_back(gauge_of(track_gauges, "turn_rate_peak_deg_s", fastest / radians_per_degree));
    if (told > 0.1) gauges.push_back(gauge_of(track_gauges, "turn_share", done / told));
  }

  void check_it(const TrackedTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const TrackedTuning& tuning) const override { return tuning.drive.top_speed; }
};

}  // namespace

std::shared_ptr<const LabKind> tracked_vehicle_lab_kind() { return std::make_shared<TrackedVehicleLabKind>(); }

}  // namespace jugend
