// Every tunable of a multirotor, with units and ranges.
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/multirotor.hpp>

namespace jugend {

const Tunables& multirotor_tunables() {
  using M = MultirotorTuning;
  static const Tunables list{
      choice<M>(
          "mode", "what the sticks ask for", [](auto& t) -> auto& { return t.mode; }),
      toggle<M>(
          "hold_height", "height is held while it banks; else the pilot's own throttle",
          [](auto& t) -> auto& { return t.hold_height; }),
      whole<M>(
          "rotor.count", 3, most_rotors,
          "in a ring, turning left and right by turns; three turn left and lean against it",
          [](auto& t) -> auto& { return t.rotors; }),
      number<M>(
          "rotor.arm", "m", 0.001, 100, "from the middle to each", [](auto& t) -> auto& { return t.arm; }),
      number<M>(
          "rotor.lift_ratio", "1", 1.05, 100, "lift of all at the most, over the weight",
          [](auto& t) -> auto& { return t.lift_ratio; }),
      number<M>(
          "rotor.torque_share", "m", 0, 10, "torque back for each newton of thrust",
          [](auto& t) -> auto& { return t.torque_share; }),
      number<M>(
          "rotor.radius", "m", 0.001, 100, "of each disc", [](auto& t) -> auto& { return t.rotor_radius; }),
      number<M>(
          "rotor.curve", "1", 0.5, 4, "thrust goes as this power of rotor speed",
          [](auto& t) -> auto& { return t.curve; }),
      number<M>(
          "rotor.lag", "s", 0, 5, "in which a rotor comes 63 % nearer to the speed it is told",
          [](auto& t) -> auto& { return t.lag; }),
      number<M>(
          "tilt_limit_deg", "deg", 1, 80, "with a full stick", [](auto& t) -> auto& { return t.tilt_limit; }),
      number<M>(
          "rate.limit_deg", "deg/s", 1, 10000, "about roll and pitch in rates mode",
          [](auto& t) -> auto& { return t.rate_limit; }),
      number<M>(
          "rate.yaw_limit_deg", "deg/s", 1, 10000, "about its own up", [](auto& t) -> auto& { return t.yaw_limit; }),
      number<M>(
          "rate.half_life", "s", 0, 10, "half of an error of a rate is gone",
          [](auto& t) -> auto& { return t.rate_half_life; }),
      number<M>(
          "attitude_frequency", "Hz", 0.05, 60, "of its return to level",
          [](auto& t) -> auto& { return t.attitude_frequency; }),
      number<M>(
          "speed.limit", "m/s", 0.01, 1000, "along the level with a full stick",
          [](auto& t) -> auto& { return t.speed_limit; }),
      number<M>(
          "speed.half_life", "s", 0.01, 60, "half of an error of speed is gone",
          [](auto& t) -> auto& { return t.speed_half_life; }),
      number<M>(
          "climb.limit", "m/s", 0.01, 1000, "up and down", [](auto& t) -> auto& { return t.climb_limit; }),
      number<M>(
          "climb.half_life", "s", 0.01, 60, "half of an error of it is gone",
          [](auto& t) -> auto& { return t.climb_half_life; }),
      number<M>(
          "place_frequency", "Hz", 0.01, 20, "with which it comes to a place",
          [](auto& t) -> auto& { return t.place_frequency; }),
      number<M>(
          "height_frequency", "Hz", 0.01, 60, "with which it comes to its height",
          [](auto& t) -> auto& { return t.height_frequency; }),
      number<M>(
          "load.half_life", "s", 0, 60, "half of a load that it did not foresee is known; 0: never",
          [](auto& t) -> auto& { return t.load_half_life; }),
      number<M>(
          "drag", "N s2/m2", 0, 1000, "against the air", [](auto& t) -> auto& { return t.drag; }),
      number<M>(
          "ground_effect", "1", 0, 1, "share of the lift that near ground adds",
          [](auto& t) -> auto& { return t.ground_effect; }),
      number<M>(
          "wind.speed", "m/s", 0, 100, "steady", [](auto& t) -> auto& { return t.wind.speed; }),
      number<M>(
          "wind.direction_deg", "deg", -360, 360, "it blows towards, from x to z",
          [](auto& t) -> auto& { return t.wind.direction; }),
      number<M>(
          "wind.gusts", "m/s", 0, 50, "standard deviation along the wind",
          [](auto& t) -> auto& { return t.wind.gusts; }),
      number<M>(
          "wind.gust_length", "m", 1, 5000, "how far gusts reach", [](auto& t) -> auto& { return t.wind.gust_length; }),
      whole<M>(
          "wind.seed", 0, 1e9, "another number, other gusts", [](auto& t) -> auto& { return t.wind.seed; }),
      length_scale_of<M>(),
  };
  return list;
}

void check(const MultirotorTuning& tuning) { check_ranges(multirotor_tunables(), &tuning); }

}  // namespace jugend
