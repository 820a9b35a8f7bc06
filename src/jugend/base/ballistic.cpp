#include <cmath>
#include <jugend/base/ballistic.hpp>

namespace jugend {

Ramp next_fall_ramp(double speed, const FallLaw& law, double dt) {
  const auto towards = [&](double rate, double limit) -> Ramp {
    const double time = (limit - speed) / rate;
    return time <= dt ? Ramp{time, rate, limit} : Ramp{dt, rate, speed + rate * dt};
  };
  const double floats = law.float_share != 1 ? std::fmin(law.float_speed, law.speed_limit) : 0;
  if (speed > floats) return towards(-law.rising, floats);
  if (speed > 0) return towards(-law.rising * law.float_share, 0);
  if (speed > -floats) return towards(-law.falling * law.float_share, -floats);
  if (speed > -law.speed_limit) return towards(-law.falling, -law.speed_limit);
  if (speed < -law.speed_limit) return towards(law.falling, -law.speed_limit);
  return {dt, 0, speed};
}

FallStep fall_step(double speed, const FallLaw& law, double dt) {
  FallStep step{0, speed};
  for (double left = dt; left > 0;) {
    const Ramp ramp = next_fall_ramp(step.speed, law, left);
    step.height += (step.speed + 0.5 * ramp.acceleration * ramp.duration) * ramp.duration;
    step.speed = ramp.end_speed;
    left -= ramp.duration;
  }
  return step;
}

}  // namespace jugend
