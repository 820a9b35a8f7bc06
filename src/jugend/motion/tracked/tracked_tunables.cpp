// What can be tuned about a tracked vehicle.
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/tracked/tracked_vehicle.hpp>
#include <jugend/motion/vehicle/wheel_tunables.hpp>

namespace jugend {

const Tunables& tracked_tunables() {
  using T = TrackedTuning;
  constexpr auto drive = [](auto& t) -> auto& { return t.drive; };
  static const Tunables list(
      joined(
          {{
               choice<T>(
                   "ground_probe", "how wheels feel the ground: a row of rays, three rows, a swept ball or disc",
                   [](auto& t) -> auto& { return t.ground_probe; }),
               whole<T>(
                   "track.wheels", 2, most_axles, "on each side, evenly spaced",
                   [](auto& t) -> auto& { return t.wheels; }),
               number<T>(
                   "track.length", "m", 0.05, 40, "on the ground: from the first wheel to the last",
                   [](auto& t) -> auto& { return t.length; }),
               number<T>(
                   "track.ahead", "m", -20, 20, "from the centre of mass forwards to its middle",
                   [](auto& t) -> auto& { return t.ahead; }),
               number<T>(
                   "track.gauge", "m", 0.05, 20, "between the tracks' middles",
                   [](auto& t) -> auto& { return t.gauge; }),
               number<T>(
                   "track.width", "m", 0.001, 5, "of one", [](auto& t) -> auto& { return t.width; }),
               number<T>(
                   "track.radius", "m", 0.01, 4, "of its wheels, the track included",
                   [](auto& t) -> auto& { return t.radius; }),
               number<T>(
                   "track.mount_height", "m", -5, 5, "of the struts' upper ends above the centre of mass",
                   [](auto& t) -> auto& { return t.mount_height; }),
               number<T>(
                   "track.spin_inertia", "kg m2", 1e-5, 1e6, "of one track and its wheels about their axles",
                   [](auto& t) -> auto& { return t.spin_inertia; }),
           },
           suspension_tunables<T>([](auto& t) -> auto& { return t.suspension; }),
           {
               number<T>(
                   "tread.grip", "1", 0, 20, "coefficient of friction at the load at rest",
                   [](auto& t) -> auto& { return t.tread.grip; }),
               number<T>(
                   "tread.along_stiffness", "1", 0.1, 1000, "force per unit of slip, as a multiple of the load",
                   [](auto& t) -> auto& { return t.tread.along_stiffness; }),
               number<T>(
                   "tread.side_stiffness", "1/rad", 0.1, 1000,
                   "force per radian of slip angle, as a multiple of the load",
                   [](auto& t) -> auto& { return t.tread.side_stiffness; }),
               number<T>(
                   "tread.relaxation", "m", 0.001, 20, "rolled while slip builds up to 63 %",
                   [](auto& t) -> auto& { return t.tread.relaxation; }),
               number<T>(
                   "tread.rolling", "1", 0, 1, "force against rolling, as a share of the load",
                   [](auto& t) -> auto& { return t.tread.rolling; }),
               number<T>(
                   "turn.rate_deg", "deg/s", 0, 720, "that tracks which do not slip turn it by at full steering",
                   [](auto& t) -> auto& { return t.turn_rate; }),
               number<T>(
                   "turn.acceleration_deg", "deg/s2", 1, 10000, "by which that is told more or less",
                   [](auto& t) -> auto& { return t.turn_acceleration; }),
               number<T>(
                   "turn.grip", "1", 0, 20,
                   "share of the weight by which one track pulls ahead and the other back, at the most",
                   [](auto& t) -> auto& { return t.turn_grip; }),
           },
           drive_tunables<T>(drive),
           {
               number<T>(
                   "brakes.deceleration", "m/s2", 0, 1000, "at full pedal", [](auto& t) -> auto& { return t.brakes; }),
               number<T>(
                   "air.drag", "N s2/m2", 0, 1000, "half density times drag area",
                   [](auto& t) -> auto& { return t.drag; }),
               toggle<T>(
                   "aids.hold", "brakes by itself while nothing is asked, and turns on the spot without creeping away",
                   [](auto& t) -> auto& { return t.hold; }),
               toggle<T>(
                   "aids.keep_down", "turns no faster than leaves its tracks on level ground",
                   [](auto& t) -> auto& { return t.keep_down; }),
               length_scale_of<T>(),
           }}),
      drive_lists<T>(drive), drive_curves<T>(drive), {});
  return list;
}

void check(const TrackedTuning& tuning) {
  check_ranges(tracked_tunables(), &tuning);
  if (tuning.drive.by == DriveBy::engine && !tuning.drive.engine.automatic)
    fail({{}, "drive.engine.automatic", "false", "true: a tracked vehicle has no gear lever", {}});
  if (tuning.suspension.bump > tuning.suspension.rest_length) {
    fail({{},
          "spring.bump",
          as_text(tuning.suspension.bump),
          "at most spring.rest_length, " + as_text(tuning.suspension.rest_length) + " m",
          {}});
  }
}

}  // namespace jugend
