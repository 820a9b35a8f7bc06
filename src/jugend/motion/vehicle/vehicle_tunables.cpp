// What can be tuned about a vehicle: the one list that files, options, tables and schemas read.
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/motion/vehicle/wheel_tunables.hpp>

namespace jugend {
namespace {

/// Of one axle.
const Tunables& axle_tunables() {
  using A = AxleTuning;
  const auto suspension = suspension_tunables<A>([](auto& t) -> auto& { return t.wheel.suspension; });
  static const Tunables list(
      joined(
          {{
               number<A>(
                   "ahead", "m", -30, 30, "from the centre of mass forwards", [](auto& t) -> auto& { return t.ahead; }),
               number<A>(
                   "track", "m", 0, 20, "between the wheels' middles; 0: one wheel",
                   [](auto& t) -> auto& { return t.track; }),
               number<A>(
                   "mount_height", "m", -5, 5, "of the struts' upper ends above the centre of mass",
                   [](auto& t) -> auto& { return t.mount_height; }),
               number<A>(
                   "radius", "m", 0.01, 4, "of the wheels", [](auto& t) -> auto& { return t.wheel.radius; }),
               number<A>(
                   "width", "m", 0.001, 5, "of the wheels", [](auto& t) -> auto& { return t.wheel.width; }),
               number<A>(
                   "spin_inertia", "kg m2", 1e-6, 1e6, "of a wheel about its axle",
                   [](auto& t) -> auto& { return t.wheel.spin_inertia; }),
               number<A>(
                   "unsprung_mass", "kg", 0, 1e5,
                   "that goes up and down with a wheel; 0: the wheel follows the ground at once",
                   [](auto& t) -> auto& { return t.wheel.unsprung_mass; }),
               number<A>(
                   "tyre.stiffness", "N/m", 100, 1e9, "upright, where there is unsprung mass",
                   [](auto& t) -> auto& { return t.wheel.tyre_stiffness; }),
           },
           suspension,
           {
               number<A>(
                   "anti_roll", "N/m", 0, 1e9, "that holds both wheels level with one another",
                   [](auto& t) -> auto& { return t.wheel.anti_roll; }),
               number<A>(
                   "steer", "1", -2, 2, "share of the steering angle; negative: the other way",
                   [](auto& t) -> auto& { return t.wheel.steer; }),
               number<A>(
                   "drive", "1", 0, 1000, "share of the drive, against the other axles'",
                   [](auto& t) -> auto& { return t.wheel.drive; }),
               number<A>(
                   "brake", "1", 0, 1000, "share of the foot brake, weighed by the load at rest",
                   [](auto& t) -> auto& { return t.wheel.brake; }),
               number<A>(
                   "hand_brake", "1", 0, 1000, "share of the hand brake",
                   [](auto& t) -> auto& { return t.wheel.hand_brake; }),
               choice<A>(
                   "tyre.model", "straight up to the circle of friction, or the brush model",
                   [](auto& t) -> auto& { return t.wheel.tyre.model; }),
               number<A>(
                   "tyre.grip", "1", 0, 20, "coefficient of friction at the load at rest",
                   [](auto& t) -> auto& { return t.wheel.tyre.grip; }),
               number<A>(
                   "tyre.along_stiffness", "1", 0.1, 1000, "force per unit of slip, as a multiple of the load",
                   [](auto& t) -> auto& { return t.wheel.tyre.along_stiffness; }),
               number<A>(
                   "tyre.side_stiffness", "1/rad", 0.1, 1000,
                   "force per radian of slip angle, as a multiple of the load",
                   [](auto& t) -> auto& { return t.wheel.tyre.side_stiffness; }),
               number<A>(
                   "tyre.load_fade", "1", 0, 1, "share of grip and stiffness that is lost at twice the load at rest",
                   [](auto& t) -> auto& { return t.wheel.tyre.load_fade; }),
               number<A>(
                   "tyre.relaxation", "m", 0.001, 20, "rolled while slip builds up to 63 %",
                   [](auto& t) -> auto& { return t.wheel.tyre.relaxation; }),
               number<A>(
                   "tyre.rolling", "1", 0, 1, "force against rolling, as a share of the load",
                   [](auto& t) -> auto& { return t.wheel.tyre.rolling; }),
           }}),
      {}, {}, {});
  return list;
}

std::vector<AxleTuning>& axles_in(void* tuning) { return static_cast<VehicleTuning*>(tuning)->axles; }

/// An axle that a file adds: it neither steers nor drives unless that is said.
AxleTuning further_axle() {
  AxleTuning axle;
  axle.wheel.drive = 0;
  return axle;
}

}  // namespace

VehicleTuning::VehicleTuning() : axles(2, further_axle()) {
  axles[0].ahead = 0.85, axles[0].wheel.steer = 1;
  axles[1].ahead = -0.85, axles[1].wheel.drive = 1, axles[1].wheel.hand_brake = 1;
  axles[1].wheel.brake = 0.55;  // braking takes load off it
}

const Tunables& vehicle_tunables() {
  using V = VehicleTuning;
  constexpr auto drive = [](auto& t) -> auto& { return t.drive; };
  static const TunableGroup axles{"axle",
                                  1,
                                  most_axles,
                                  "from front to back",
                                  &axle_tunables(),
                                  [](const void* t) { return static_cast<const V*>(t)->axles.size(); },
                                  [](void* t, std::size_t count) { axles_in(t).resize(count, further_axle()); },
                                  [](void* t, std::size_t i) -> void* { return &axles_in(t)[i]; }};
  static const Tunables list(
      joined(
          {{

               choice<V>(
                   "ground_probe", "how wheels feel the ground: a row of rays, three rows, a swept ball, a swept disc",
                   [](auto& t) -> auto& { return t.ground_probe; }),
               toggle<V>(
                   "look_ahead", "feels the ground that it comes to in a tick; else only what is under its hub",
                   [](auto& t) -> auto& { return t.look_ahead; }),
               number<V>(
                   "force_height", "1", 0, 1, "where forces enter: 0 at the contact, 1 at the hub",
                   [](auto& t) -> auto& { return t.force_height; }),
               number<V>(
                   "along_strut", "1", 0, 1, "the spring's direction: 0 the ground's normal, 1 the strut",
                   [](auto& t) -> auto& { return t.along_strut; }),
               number<V>(
                   "steering.angle_deg", "deg", 0, 80, "the most at standstill",
                   [](auto& t) -> auto& { return t.steering.angle; }),
               number<V>(
                   "steering.fast_angle_deg", "deg", 0, 80, "the most from fast_speed on",
                   [](auto& t) -> auto& { return t.steering.fast_angle; }),
               number<V>(
                   "steering.fast_speed", "m/s", 0.1, 1000, "from which only fast_angle is left",
                   [](auto& t) -> auto& { return t.steering.fast_speed; }),
               number<V>(
                   "steering.rate_deg", "deg/s", 1, 1e5, "towards more",
                   [](auto& t) -> auto& { return t.steering.rate; }),
               number<V>(
                   "steering.return_rate_deg", "deg/s", 1, 1e5, "back to the middle",
                   [](auto& t) -> auto& { return t.steering.return_rate; }),
               number<V>(
                   "steering.ackermann", "1", -1, 2, "1: all wheels roll round one centre, 0: all turn by the same",
                   [](auto& t) -> auto& { return t.steering.ackermann; }),
           },
           drive_tunables<V>(drive),
           {
               choice<V>(
                   "drive.differential", "of each driven axle", [](auto& t) -> auto& { return t.drive.differential; }),
               number<V>(
                   "drive.differential_limit", "N m", 0, 1e7, "passed across by the limited one",
                   [](auto& t) -> auto& { return t.drive.differential_limit; }),
               toggle<V>(
                   "drive.traction_control", "no more torque than 95 % of what the ground takes",
                   [](auto& t) -> auto& { return t.drive.traction_control; }),
               number<V>(
                   "brakes.deceleration", "m/s2", 0, 1000, "at full pedal",
                   [](auto& t) -> auto& { return t.brakes.deceleration; }),
               number<V>(
                   "brakes.hand", "m/s2", 0, 1000, "of the hand brake", [](auto& t) -> auto& { return t.brakes.hand; }),
               toggle<V>(
                   "brakes.antilock", "no more than 95 % of what the ground takes",
                   [](auto& t) -> auto& { return t.brakes.antilock; }),
               number<V>(
                   "air.drag", "N s2/m2", 0, 1000, "half density times drag area",
                   [](auto& t) -> auto& { return t.air.drag; }),
               number<V>(
                   "air.downforce", "N s2/m2", 0, 100, "likewise, pressing it down",
                   [](auto& t) -> auto& { return t.air.downforce; }),
               number<V>(
                   "air.downforce_front", "1", 0, 1, "share on the first axle",
                   [](auto& t) -> auto& { return t.air.downforce_front; }),
               toggle<V>(
                   "aids.hold", "brakes by itself while nearly still and nothing is asked",
                   [](auto& t) -> auto& { return t.aids.hold; }),
               toggle<V>(
                   "aids.keep_down",
                   "steers no further, and holds sideways no more, than leaves its wheels on level ground",
                   [](auto& t) -> auto& { return t.aids.keep_down; }),
               number<V>(
                   "aids.counter_steer", "1", 0, 1, "share of a slide's angle that its wheels are turned into it",
                   [](auto& t) -> auto& { return t.aids.counter_steer; }),
               number<V>(
                   "aids.drift_hold_deg", "deg", 0, 80,
                   "held in a slide at full steering, with throttle or hand brake; 0: grip alone decides",
                   [](auto& t) -> auto& { return t.aids.drift_hold; }),
               number<V>(
                   "aids.lower_centre", "m", -2, 2, "forces act as if the centre of mass were lower",
                   [](auto& t) -> auto& { return t.aids.lower_centre; }),
               number<V>(
                   "aids.lower_in_air", "m", -2, 2, "the same in the air",
                   [](auto& t) -> auto& { return t.aids.lower_in_air; }),
               number<V>(
                   "aids.air_level", "Hz", 0, 20, "comes level in the air; 0: as it flies",
                   [](auto& t) -> auto& { return t.aids.air_level; }),
               number<V>(
                   "aids.air_turn_deg", "deg/s2", 0, 5000, "turned by steering and lean in the air",
                   [](auto& t) -> auto& { return t.aids.air_turn; }),
               number<V>(
                   "aids.self_right", "s", 0, 600, "lying still on side or roof until it is turned over; 0: never",
                   [](auto& t) -> auto& { return t.aids.self_right; }),
               number<V>(
                   "aids.lean", "Hz", 0, 20, "a two-wheeler leans to stay up; 0: it falls",
                   [](auto& t) -> auto& { return t.aids.lean; }),
               length_scale_of<V>(),
           }}),
      drive_lists<V>(drive), drive_curves<V>(drive), {axles});
  return list;
}

void check(const VehicleTuning& tuning) {
  check_ranges(vehicle_tunables(), &tuning);
  for (std::size_t a = 0; a < tuning.axles.size(); ++a) {
    const SuspensionTuning& s = tuning.axles[a].wheel.suspension;
    if (s.bump > s.rest_length)
      fail({{},
            filled("axle.{}.spring.bump", a + 1),
            as_text(s.bump),
            filled("at most spring.rest_length, {} m", as_text(s.rest_length)),
            {}});
  }
}

}  // namespace jugend
