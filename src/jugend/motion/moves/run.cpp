#include <algorithm>
#include <jugend/base/units.hpp>
#include <jugend/motion/moves/run.hpp>

namespace jugend {
namespace {

// m/s, or a share of a speed: less is no speed. A body that also rises, or is in a turned world, brings along that
// much.
constexpr double rounding = 1e-12;
constexpr double hair = 1e-8;  // of a speed: as much is left of it across a wall's face

/// One component on its way to a goal.
struct Approach {
  double time;  // to the goal
  double acceleration;
};
Approach approach(double speed, double goal, double rate) {
  const double change = goal - speed;
  if (std::abs(change) <= 1e-13 * (std::abs(goal) + std::abs(speed)) || rate == 0) return {infinity, 0};
  return {std::abs(change) / rate, std::copysign(rate, change)};
}

}  // namespace

RunRates rates_of(const RunTuning& tuning, double share) {
  // An infinite rate has no share of nothing.
  const auto rate = [&](double time) { return share > 0 ? share * tuning.top_speed / time : 0; };
  return {rate(tuning.time_to_top_speed), rate(tuning.time_to_stop), rate(tuning.time_to_turn)};
}

RunRamp next_run_ramp(const Vec3& velocity, const Vec3& target, const RunRates& rates, double dt) {
  if (velocity != Vec3{} && norm(velocity) < rounding) return next_run_ramp({}, target, rates, dt);
  const double wished = norm(target);
  const bool stop = wished <= 1e-9 * norm(velocity);  // nor is it a wish
  const Vec3 ahead = stop ? normalised(velocity) : target / wished;
  // Turned round to standstill along the wish, rounding may leave a hair of speed against it: that is none, or the
  // turn would end at once again and again, and no time pass.
  const double along_it = dot(velocity, ahead), least = std::max(rounding, hair * std::max(wished, norm(velocity)));
  const double speed = std::abs(along_it) < least ? 0 : along_it;
  Vec3 sideways = stop ? Vec3{} : velocity - ahead * speed;
  if (norm(sideways) < least) sideways = {};  // nor is it a turn
  const double side_speed = norm(sideways);
  const Vec3 side = normalised(sideways);

  const double rate = stop || speed > wished ? rates.brake : speed < 0 ? rates.turn : rates.accelerate;
  const double goal = stop || speed < 0 ? 0 : wished;  // turning round ends at standstill: then speed up
  const Approach along = approach(speed, goal, rate);
  const Approach across = approach(side_speed, 0, rates.turn);

  const double duration = std::fmin(dt, std::fmin(along.time, across.time));
  if (duration == 0) {  // a goal that is reached at once
    return {0, {}, ahead * (along.time == 0 ? goal : speed) + side * (across.time == 0 ? 0 : side_speed)};
  }
  const double end_speed = along.time <= duration ? goal : speed + along.acceleration * duration;
  const double end_side = across.time <= duration ? 0 : side_speed + across.acceleration * duration;
  return {duration, ahead * along.acceleration + side * across.acceleration, ahead * end_speed + side * end_side};
}

}  // namespace jugend
