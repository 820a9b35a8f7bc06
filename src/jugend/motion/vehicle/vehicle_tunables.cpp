// What can be tuned about a vehicle: the one list that files, options, tables and schemas read.
#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <utility>

namespace jugend {
namespace {

using V = VehicleTuning;

template <std::size_t A>
void add_axle(std::vector<Tunable>& list, std::vector<std::string>& keys) {
  const auto add = [&](const char* key, const char* unit, double low, double high, const char* help,
                       double& (*at)(void*)) {
    keys.push_back(fmt::format("axle_{}.{}", A + 1, key));
    list.push_back({keys.back(), unit, low, high, help, at});
  };
#define JUGEND_AXLE(member, key, unit, low, high, help) \
  add(key, unit, low, high, help, [](void* t) -> double& { return static_cast<V*>(t)->axles[A].member; })
  JUGEND_AXLE(ahead, "ahead", "m", -100, 100, "from the centre of mass forwards");
  JUGEND_AXLE(track, "track", "m", 0, 100, "between the wheels' middles; 0: one wheel");
  JUGEND_AXLE(mount_height, "mount_height", "m", -100, 100, "of the struts' upper ends above the centre of mass");
  JUGEND_AXLE(wheel.radius, "radius", "m", 0.01, 20, "of the wheels");
  JUGEND_AXLE(wheel.width, "width", "m", 0.001, 20, "of the wheels");
  JUGEND_AXLE(wheel.spin_inertia, "spin_inertia", "kg m2", 1e-6, 1e6, "of a wheel about its axle");
  JUGEND_AXLE(wheel.unsprung_mass, "unsprung_mass", "kg", 0, 1e5,
              "that goes up and down with a wheel; 0: the wheel follows the ground at once");
  JUGEND_AXLE(wheel.tyre_stiffness, "tyre.stiffness", "N/m", 100, 1e9, "upright, where there is unsprung mass");
  JUGEND_AXLE(wheel.suspension.rest_length, "spring.rest_length", "m", 0.01, 20,
              "mount to hub while the spring carries nothing");
  JUGEND_AXLE(wheel.suspension.bump, "spring.bump", "m", 0.001, 20, "that the hub rises from there at the most");
  JUGEND_AXLE(wheel.suspension.droop, "spring.droop", "m", 0, 20, "that it falls below");
  JUGEND_AXLE(wheel.suspension.stiffness, "spring.stiffness", "N/m", 0, 1e9, "0: by sag or ride_frequency");
  JUGEND_AXLE(wheel.suspension.sag, "spring.sag", "m", 0, 20, "under the weight at rest; 0: by ride_frequency");
  JUGEND_AXLE(wheel.suspension.ride_frequency, "spring.ride_frequency", "Hz", 0.1, 60,
              "of the weight at rest on its spring");
  JUGEND_AXLE(wheel.suspension.progression, "spring.progression", "1", 0, 20,
              "share by which it has become stiffer at full bump");
  JUGEND_AXLE(wheel.suspension.bump_ratio, "damper.bump_ratio", "1", 0, 20,
              "damping while pressed together, as a share of the critical");
  JUGEND_AXLE(wheel.suspension.rebound_ratio, "damper.rebound_ratio", "1", 0, 20, "and while it comes out again");
  JUGEND_AXLE(wheel.suspension.bump_damping, "damper.bump", "N s/m", 0, 1e9, "instead of bump_ratio; 0: by that");
  JUGEND_AXLE(wheel.suspension.rebound_damping, "damper.rebound", "N s/m", 0, 1e9,
              "instead of rebound_ratio; 0: by that");
  JUGEND_AXLE(wheel.suspension.stop_share, "stop.share", "1", 0.01, 1,
              "the last share of bump, in which the stop works");
  JUGEND_AXLE(wheel.suspension.stop_stiffness, "stop.stiffness", "1", 0, 1000,
              "at its end, as a multiple of the spring's");
  JUGEND_AXLE(wheel.suspension.droop_pull, "spring.droop_pull", "1", 0, 1,
              "share of the spring that pulls the body down where it is longer than at rest");
  JUGEND_AXLE(wheel.anti_roll, "anti_roll", "N/m", 0, 1e9, "that holds both wheels level with one another");
  JUGEND_AXLE(wheel.steer, "steer", "1", -2, 2, "share of the steering angle; negative: the other way");
  JUGEND_AXLE(wheel.drive, "drive", "1", 0, 1000, "share of the drive, against the other axles'");
  JUGEND_AXLE(wheel.brake, "brake", "1", 0, 1000, "share of the foot brake, weighed by the load at rest");
  JUGEND_AXLE(wheel.hand_brake, "hand_brake", "1", 0, 1000, "share of the hand brake");
  JUGEND_AXLE(wheel.tyre.brush, "tyre.brush", "0|1", 0, 1, "1: the brush model, 0: straight up to the friction circle");
  JUGEND_AXLE(wheel.tyre.grip, "tyre.grip", "1", 0, 20, "coefficient of friction at the load at rest");
  JUGEND_AXLE(wheel.tyre.along_stiffness, "tyre.along_stiffness", "1", 0.1, 1000,
              "force per unit of slip, as a multiple of the load");
  JUGEND_AXLE(wheel.tyre.side_stiffness, "tyre.side_stiffness", "1/rad", 0.1, 1000,
              "force per radian of slip angle, as a multiple of the load");
  JUGEND_AXLE(wheel.tyre.load_fade, "tyre.load_fade", "1", 0, 1,
              "share of grip and stiffness that is lost at twice the load at rest");
  JUGEND_AXLE(wheel.tyre.relaxation, "tyre.relaxation", "m", 0.001, 20, "rolled while slip builds up to 63 %");
  JUGEND_AXLE(wheel.tyre.rolling, "tyre.rolling", "1", 0, 1, "force against rolling, as a share of the load");
#undef JUGEND_AXLE
}

template <std::size_t I>
void add_points(std::vector<Tunable>& list) {
  static const std::string x = fmt::format("drive.engine.torque.x_{}", I + 1),
                           y = fmt::format("drive.engine.torque.y_{}", I + 1),
                           fx = fmt::format("drive.force.x_{}", I + 1), fy = fmt::format("drive.force.y_{}", I + 1),
                           gear = fmt::format("drive.engine.gear_{}", I + 1);
  list.push_back(
      JUGEND_TUNABLE(V, drive.force.x[I], fx, "m/s", 0, 1000, "point of force over speed; none: by outcomes"));
  list.push_back(JUGEND_TUNABLE(V, drive.force.y[I], fy, "N", 0, 1e8, "force there"));
  list.push_back(JUGEND_TUNABLE(V, drive.engine.torque.x[I], x, "1/min", 0, 1e5, "point of torque over revs"));
  list.push_back(JUGEND_TUNABLE(V, drive.engine.torque.y[I], y, "N m", 0, 1e7, "torque there"));
  list.push_back(JUGEND_TUNABLE(V, drive.engine.gears[I], gear, "1", 0, 1000, "ratio; 0: there is no such gear"));
}

}  // namespace

VehicleTuning::VehicleTuning() {
  for (AxleTuning& axle : axles) axle.wheel.drive = 0;
  axles[0].ahead = 0.85, axles[0].wheel.steer = 1;
  axles[1].ahead = -0.85, axles[1].wheel.drive = 1, axles[1].wheel.hand_brake = 1;
  axles[1].wheel.brake = 0.55;  // braking takes load off it
  for (std::size_t a = 2; a < axles.size(); ++a) axles[a].ahead = -0.85 - 0.8 * static_cast<double>(a - 1);
}

TunableList vehicle_tunables() {
  static std::vector<std::string> keys;
  static const std::vector<Tunable> list = [] {
    keys.reserve(1000);  // views of them must stay
    std::vector<Tunable> all{
        JUGEND_TUNABLE(V, axle_count, "axle_count", "1", 1, most_axles, "axles in use, the first in front"),
        JUGEND_TUNABLE(V, sense, "sense", "0|1|2|3", 0, 3, "of the ground: 0 one ray, 1 three, 2 a ball, 3 a disc"),
        JUGEND_TUNABLE(V, look_ahead, "look_ahead", "0|1", 0, 1, "1: a wheel that moves looks where it will be, too"),
        JUGEND_TUNABLE(V, force_height, "force_height", "1", 0, 1,
                       "where forces enter: 0 at the contact, 1 at the hub"),
        JUGEND_TUNABLE(V, along_strut, "along_strut", "1", 0, 1,
                       "the spring's direction: 0 the ground's normal, 1 the strut"),
        JUGEND_TUNABLE(V, steering.angle, "steering.angle_deg", "deg", 0, 80, "the most at standstill"),
        JUGEND_TUNABLE(V, steering.fast_angle, "steering.fast_angle_deg", "deg", 0, 80, "the most from fast_speed on"),
        JUGEND_TUNABLE(V, steering.fast_speed, "steering.fast_speed", "m/s", 0.1, 1000,
                       "from which only fast_angle is left"),
        JUGEND_TUNABLE(V, steering.rate, "steering.rate_deg", "deg/s", 1, 1e5, "towards more"),
        JUGEND_TUNABLE(V, steering.return_rate, "steering.return_rate_deg", "deg/s", 1, 1e5, "back to the middle"),
        JUGEND_TUNABLE(V, steering.ackermann, "steering.ackermann", "1", -1, 2,
                       "1: all wheels roll round one centre, 0: all turn by the same"),
        JUGEND_TUNABLE(V, drive.engine_on, "drive.engine_on", "0|1", 0, 1, "1: the engine, 0: by outcomes"),
        JUGEND_TUNABLE(V, drive.top_speed, "drive.top_speed", "m/s", 0.1, 1000, "at full throttle"),
        JUGEND_TUNABLE(V, drive.reverse_speed, "drive.reverse_speed", "m/s", 0.1, 1000, "backwards"),
        JUGEND_TUNABLE(V, drive.speed_time, "drive.speed_time", "s", 0.05, 600,
                       "from standstill to nine tenths of top speed"),
        JUGEND_TUNABLE(V, drive.coast, "drive.coast", "m/s2", 0, 100, "slows down by this without throttle"),
        JUGEND_TUNABLE(V, drive.differential, "drive.differential", "0|1|2", 0, 2, "0 open, 1 locked, 2 limited slip"),
        JUGEND_TUNABLE(V, drive.differential_limit, "drive.differential_limit", "N m", 0, 1e7,
                       "passed across by the limited one"),
        JUGEND_TUNABLE(V, drive.traction_control, "drive.traction_control", "0|1", 0, 1,
                       "1: never more torque than the ground takes"),
        JUGEND_TUNABLE(V, drive.engine.idle, "drive.engine.idle", "1/min", 1, 1e5, "revs at rest"),
        JUGEND_TUNABLE(V, drive.engine.redline, "drive.engine.redline", "1/min", 2, 1e5, "the most"),
        JUGEND_TUNABLE(V, drive.engine.braking, "drive.engine.braking", "N m", 0, 1e7,
                       "against it at the redline without throttle"),
        JUGEND_TUNABLE(V, drive.engine.inertia, "drive.engine.inertia", "kg m2", 0, 1e6, "of what turns with it"),
        JUGEND_TUNABLE(V, drive.engine.clutch_revs, "drive.engine.clutch_revs", "1/min", 1, 1e5,
                       "at which the clutch slips while wheels are slower"),
        JUGEND_TUNABLE(V, drive.engine.reverse, "drive.engine.reverse", "1", 0.01, 1000, "ratio backwards"),
        JUGEND_TUNABLE(V, drive.engine.final, "drive.engine.final", "1", 0.01, 1000, "final drive's ratio"),
        JUGEND_TUNABLE(V, drive.engine.automatic, "drive.engine.automatic", "0|1", 0, 1, "1: shifts by itself"),
        JUGEND_TUNABLE(V, drive.engine.shift_up, "drive.engine.shift_up", "1/min", 1, 1e5, "above these"),
        JUGEND_TUNABLE(V, drive.engine.shift_down, "drive.engine.shift_down", "1/min", 0, 1e5, "below these"),
        JUGEND_TUNABLE(V, drive.engine.shift_time, "drive.engine.shift_time", "s", 0, 5, "without torque"),
        JUGEND_TUNABLE(V, brakes.deceleration, "brakes.deceleration", "m/s2", 0, 1000, "at full pedal"),
        JUGEND_TUNABLE(V, brakes.hand, "brakes.hand", "m/s2", 0, 1000, "of the hand brake"),
        JUGEND_TUNABLE(V, brakes.antilock, "brakes.antilock", "0|1", 0, 1, "1: never more than the ground takes"),
        JUGEND_TUNABLE(V, air.drag, "air.drag", "N s2/m2", 0, 1e6, "half density times drag area"),
        JUGEND_TUNABLE(V, air.downforce, "air.downforce", "N s2/m2", 0, 1e6, "likewise, pressing it down"),
        JUGEND_TUNABLE(V, air.downforce_front, "air.downforce_front", "1", 0, 1, "share on the first axle"),
        JUGEND_TUNABLE(V, aids.hold, "aids.hold", "1", 0, 1, "brake by itself while nearly still and nothing is asked"),
        JUGEND_TUNABLE(V, aids.lower_centre, "aids.lower_centre", "m", -20, 20,
                       "forces act as if the centre of mass were lower"),
        JUGEND_TUNABLE(V, aids.lower_in_air, "aids.lower_in_air", "m", -20, 20, "the same in the air"),
        JUGEND_TUNABLE(V, aids.air_level, "aids.air_level", "Hz", 0, 20, "comes level in the air; 0: as it flies"),
        JUGEND_TUNABLE(V, aids.air_turn, "aids.air_turn_deg", "deg/s2", 0, 1e5,
                       "turned by steering and lean in the air"),
        JUGEND_TUNABLE(V, aids.self_right, "aids.self_right", "s", 0, 600,
                       "lying still on side or roof until it is turned over; 0: never"),
        JUGEND_TUNABLE(V, aids.lean, "aids.lean", "Hz", 0, 20, "a two-wheeler leans to stay up; 0: it falls"),
    };
    [&]<std::size_t... I>(std::index_sequence<I...>) { (add_points<I>(all), ...); }
    (std::make_index_sequence<PointTable::most>{});
    [&]<std::size_t... A>(std::index_sequence<A...>) { (add_axle<A>(all, keys), ...); }
    (std::make_index_sequence<most_axles>{});
    return all;
  }();
  return list;
}

void check(const VehicleTuning& tuning) {
  check_ranges(vehicle_tunables(), &tuning);
  for (int a = 0; a < static_cast<int>(tuning.axle_count); ++a) {
    const SuspensionTuning& s = tuning.axles[static_cast<std::size_t>(a)].wheel.suspension;
    if (s.bump > s.rest_length)
      throw InputError({{},
                        fmt::format("axle_{}.spring.bump", a + 1),
                        as_text(s.bump),
                        fmt::format("at most spring.rest_length, {} m", as_text(s.rest_length)),
                        {}});
  }
}

}  // namespace jugend
