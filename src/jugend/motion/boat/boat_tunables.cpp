// What can be tuned about a boat.
#include <jugend/motion/boat/boat.hpp>

namespace jugend {

const Tunables& boat_tunables() {
  using B = BoatTuning;
  static const Tunables list{
      number<B>(
          "hull.length", "m", 0.05, 500, "in the water", [](auto& t) -> auto& { return t.length; }),
      number<B>(
          "hull.beam", "m", 0.05, 100, "in the water", [](auto& t) -> auto& { return t.beam; }),
      number<B>(
          "hull.bottom", "m", -10, 50, "that its bottom lies below the centre of mass",
          [](auto& t) -> auto& { return t.bottom; }),
      number<B>(
          "hull.draught", "m", 0.01, 50, "under water as it floats", [](auto& t) -> auto& { return t.draught; }),
      number<B>(
          "hull.side_drag", "1", 0, 20, "coefficient of flow across it, of length times draught",
          [](auto& t) -> auto& { return t.side_drag; }),
      number<B>(
          "hull.rise_drag", "1", 0, 20, "up and down, of length times beam",
          [](auto& t) -> auto& { return t.rise_drag; }),
      number<B>(
          "hull.swing_half_life", "s", 0, 600, "half of a heave, roll or pitch is gone; 0: nothing damps it but drag",
          [](auto& t) -> auto& { return t.swing_half_life; }),
      number<B>(
          "top_speed", "m/s", 0.1, 100, "through the water at full throttle: drag ahead follows",
          [](auto& t) -> auto& { return t.top_speed; }),
      number<B>(
          "thrust", "N", 0.01, 1e8, "at full throttle ahead", [](auto& t) -> auto& { return t.thrust; }),
      number<B>(
          "astern", "1", 0, 2, "share of that backwards", [](auto& t) -> auto& { return t.astern; }),
      number<B>(
          "throttle_lag", "s", 0, 60, "in which thrust comes 63 % nearer to what is asked",
          [](auto& t) -> auto& { return t.throttle_lag; }),
      number<B>(
          "propeller.ahead", "m", -300, 300, "of its middle; negative: behind the centre of mass",
          [](auto& t) -> auto& { return t.propeller_ahead; }),
      number<B>(
          "propeller.height", "m", -50, 50, "above the centre of mass",
          [](auto& t) -> auto& { return t.propeller_height; }),
      number<B>(
          "propeller.radius", "m", 0.005, 20, "of its disc", [](auto& t) -> auto& { return t.propeller_radius; }),
      choice<B>(
          "steering.by", "a rudder in its race, or a propeller that turns",
          [](auto& t) -> auto& { return t.steering; }),
      number<B>(
          "steering.angle_deg", "deg", 0, 80, "the most", [](auto& t) -> auto& { return t.rudder_angle; }),
      number<B>(
          "steering.rate_deg", "deg/s", 0.1, 1e4, "of rudder or propeller",
          [](auto& t) -> auto& { return t.rudder_rate; }),
      number<B>(
          "rudder.ahead", "m", -300, 300, "of its middle; negative: behind the centre of mass",
          [](auto& t) -> auto& { return t.rudder.ahead; }),
      number<B>(
          "rudder.height", "m", -50, 50, "above the centre of mass", [](auto& t) -> auto& { return t.rudder.height; }),
      number<B>(
          "rudder.area", "m2", 0, 200, "0: there is none", [](auto& t) -> auto& { return t.rudder.area; }),
      number<B>(
          "rudder.aspect", "1", 0.05, 20, "span squared over area", [](auto& t) -> auto& { return t.rudder.aspect; }),
      number<B>(
          "keel.ahead", "m", -300, 300, "of its middle", [](auto& t) -> auto& { return t.keel.ahead; }),
      number<B>(
          "keel.height", "m", -50, 50, "above the centre of mass", [](auto& t) -> auto& { return t.keel.height; }),
      number<B>(
          "keel.area", "m2", 0, 2000, "0: there is none", [](auto& t) -> auto& { return t.keel.area; }),
      number<B>(
          "keel.aspect", "1", 0.01, 20, "span squared over area", [](auto& t) -> auto& { return t.keel.aspect; }),
      length_scale_of<B>(),
  };
  return list;
}

void check(const BoatTuning& tuning) { check_ranges(boat_tunables(), &tuning); }

}  // namespace jugend
