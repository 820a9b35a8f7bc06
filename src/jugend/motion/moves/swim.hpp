// Water: wading where it is shallow, swimming where it carries.
#pragma once

#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct SwimTuning {
  double speed = 2.6;        ///< m/s with full input
  double wade_speed = 0.45;  ///< share of the running speed that is left where the water just does not carry yet
  double float_share = 0.8;  ///< share of the body's height that is under water at rest; deeper water carries
  double rise_speed = 2;     ///< m/s, the most that the water lifts, and that a dive sinks
  double jump_height = 1.8;  ///< m that a jump from the surface carries the feet up
  double settle_time = 0.2;  ///< s: vertical speeds differ from those wanted by a factor e less after it
};

/// A swimmer, and what it wants.
struct Swimmer {
  Vec3 velocity, flow, move, up;  ///< of the body and of the water, m/s; input as in an intent; unit
  double deep = 0;                ///< m that it is deeper than it floats
  bool dive = false;
};
struct SwimStep {
  Vec3 displacement, velocity;  ///< m in the time, m/s at its end
};
/// So near the depth at which it floats, `deep` m below that, that the water lifts it less than it can.
bool bobs(const SwimTuning& tuning, double deep);
/// Speeds go to those wanted exponentially; near the depth at which it floats the two make a critically
/// damped spring, e'' + e'/τ + e/4τ² = 0, solved exactly.
SwimStep swim(const SwimTuning& tuning, const Swimmer& swimmer, double time);

}  // namespace jugend
