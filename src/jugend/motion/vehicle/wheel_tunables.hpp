// What can be tuned about springs and drives, for all that goes on wheels or tracks: written once for both.
#pragma once

#include <jugend/base/tunable.hpp>
#include <jugend/motion/vehicle/drivetrain.hpp>
#include <jugend/motion/vehicle/suspension.hpp>
#include <vector>

namespace jugend {

/// Of a suspension that `At` finds in its owner: At{}(owner).
template <class Owner, class At>
std::vector<Tunable> suspension_tunables(At) {
  constexpr auto spring_by = [](auto& t) -> auto& { return At{}(t).spring_by; };
  constexpr auto damping_by = [](auto& t) -> auto& { return At{}(t).damping_by; };
  constexpr std::string_view spring_ways = "one of spring.ride_frequency, spring.sag, spring.stiffness";
  constexpr std::string_view damper_ways = "damper.bump_ratio and rebound_ratio, or damper.bump and rebound";
  return {
      number<Owner>(
          "spring.rest_length", "m", 0.01, 5, "mount to hub while the spring carries nothing",
          [](auto& t) -> auto& { return At{}(t).rest_length; }),
      number<Owner>(
          "spring.bump", "m", 0.001, 5, "that the hub rises from there at the most",
          [](auto& t) -> auto& { return At{}(t).bump; }),
      number<Owner>(
          "spring.droop", "m", 0, 5, "that it falls below", [](auto& t) -> auto& { return At{}(t).droop; }),
      one_form<Owner>(number<Owner>(
                          "spring.stiffness", "N/m", 1, 1e9, "of the spring where it begins",
                          [](auto& t) -> auto& { return At{}(t).stiffness; }),
                      spring_ways, spring_by, SpringBy::stiffness),
      one_form<Owner>(
          number<Owner>(
              "spring.sag", "m", 0.001, 5, "under the weight at rest", [](auto& t) -> auto& { return At{}(t).sag; }),
          spring_ways, spring_by, SpringBy::sag),
      one_form<Owner>(number<Owner>(
                          "spring.ride_frequency", "Hz", 0.1, 60, "of the weight at rest on its spring",
                          [](auto& t) -> auto& { return At{}(t).ride_frequency; }),
                      spring_ways, spring_by, SpringBy::ride_frequency),
      number<Owner>(
          "spring.progression", "1", 0, 20, "share by which it has become stiffer at full bump",
          [](auto& t) -> auto& { return At{}(t).progression; }),
      one_form<Owner>(number<Owner>(
                          "damper.bump_ratio", "1", 0, 20, "damping while pressed together, as a share of the critical",
                          [](auto& t) -> auto& { return At{}(t).bump_ratio; }),
                      damper_ways, damping_by, DampingBy::ratio),
      one_form<Owner>(number<Owner>(
                          "damper.rebound_ratio", "1", 0, 20, "and while it comes out again",
                          [](auto& t) -> auto& { return At{}(t).rebound_ratio; }),
                      damper_ways, damping_by, DampingBy::ratio),
      one_form<Owner>(number<Owner>(
                          "damper.bump", "N s/m", 0, 1e9, "while pressed together",
                          [](auto& t) -> auto& { return At{}(t).bump_damping; }),
                      damper_ways, damping_by, DampingBy::coefficient),
      one_form<Owner>(number<Owner>(
                          "damper.rebound", "N s/m", 0, 1e9, "while it comes out again",
                          [](auto& t) -> auto& { return At{}(t).rebound_damping; }),
                      damper_ways, damping_by, DampingBy::coefficient),
      number<Owner>(
          "stop.share", "1", 0.01, 1, "the last share of bump, in which the stop works",
          [](auto& t) -> auto& { return At{}(t).stop_share; }),
      number<Owner>(
          "stop.stiffness", "1", 0, 1000, "at its end, as a multiple of the spring's",
          [](auto& t) -> auto& { return At{}(t).stop_stiffness; }),
      number<Owner>(
          "spring.droop_pull", "1", 0, 1,
          "share of the spring that pulls the body down where it is longer than at rest",
          [](auto& t) -> auto& { return At{}(t).droop_pull; }),
  };
}

/// Of a drive that `At` finds in its owner; between which wheels it is shared is the owner's own.
template <class Owner, class At>
std::vector<Tunable> drive_tunables(At) {
  return {
      choice<Owner>(
          "drive.by", "what states the drive: outcomes, a force over speed, an engine",
          [](auto& t) -> auto& { return At{}(t).by; }),
      number<Owner>(
          "drive.top_speed", "m/s", 0.1, 1000, "at full throttle", [](auto& t) -> auto& { return At{}(t).top_speed; }),
      number<Owner>(
          "drive.reverse_speed", "m/s", 0.1, 1000, "backwards", [](auto& t) -> auto& { return At{}(t).reverse_speed; }),
      number<Owner>(
          "drive.speed_time", "s", 0.05, 600, "from standstill to nine tenths of top speed",
          [](auto& t) -> auto& { return At{}(t).speed_time; }),
      number<Owner>(
          "drive.coast", "m/s2", 0, 100, "slows down by this without throttle",
          [](auto& t) -> auto& { return At{}(t).coast; }),
      number<Owner>(
          "drive.engine.idle", "1/min", 1, 1e5, "revs at rest", [](auto& t) -> auto& { return At{}(t).engine.idle; }),
      number<Owner>(
          "drive.engine.redline", "1/min", 2, 1e5, "the most", [](auto& t) -> auto& { return At{}(t).engine.redline; }),
      number<Owner>(
          "drive.engine.braking", "N m", 0, 1e7, "against it at the redline without throttle",
          [](auto& t) -> auto& { return At{}(t).engine.braking; }),
      number<Owner>(
          "drive.engine.inertia", "kg m2", 0, 1e6, "of what turns with it",
          [](auto& t) -> auto& { return At{}(t).engine.inertia; }),
      number<Owner>(
          "drive.engine.clutch_revs", "1/min", 1, 1e5, "at which the clutch slips while wheels are slower",
          [](auto& t) -> auto& { return At{}(t).engine.clutch_revs; }),
      number<Owner>(
          "drive.engine.reverse", "1", 0.01, 1000, "ratio backwards",
          [](auto& t) -> auto& { return At{}(t).engine.reverse; }),
      number<Owner>(
          "drive.engine.final", "1", 0.01, 1000, "final drive's ratio",
          [](auto& t) -> auto& { return At{}(t).engine.final; }),
      toggle<Owner>(
          "drive.engine.automatic", "shifts by itself", [](auto& t) -> auto& { return At{}(t).engine.automatic; }),
      number<Owner>(
          "drive.engine.shift_up", "1/min", 1, 1e5, "above these",
          [](auto& t) -> auto& { return At{}(t).engine.shift_up; }),
      number<Owner>(
          "drive.engine.shift_down", "1/min", 0, 1e5, "below these",
          [](auto& t) -> auto& { return At{}(t).engine.shift_down; }),
      number<Owner>(
          "drive.engine.shift_time", "s", 0, 5, "without torque",
          [](auto& t) -> auto& { return At{}(t).engine.shift_time; }),
  };
}
template <class Owner, class At>
std::vector<NumberList> drive_lists(At) {
  return {{"drive.engine.gears", "1", 0.01, 1000, 12, "ratios forwards, falling",
           [](void* t) -> auto& {return At{}(*static_cast<Owner*>(t)).engine.gears;
}
}  // namespace jugend
}
;
}
template <class Owner, class At>
std::vector<PointList> drive_curves(At) {
  return {{"drive.force", "m/s", "N", 1000, 1e8, 32, "of all driven wheels over speed, where drive.by is force",
           [](void* t) -> auto& {return At{}(*static_cast<Owner*>(t)).force;
}
}
, {
  "drive.engine.torque", "1/min", "N m", 1e5, 1e7, 32, "at full throttle over revs", [](void* t) -> auto& {
    return At{}(*static_cast<Owner*>(t)).engine.torque;
  }
}
}
;
}

/// One list after another.
inline std::vector<Tunable> joined(std::initializer_list<std::vector<Tunable>> lists) {
  std::vector<Tunable> all;
  for (const auto& list : lists) all.insert(all.end(), list.begin(), list.end());
  return all;
}

}  // namespace jugend
