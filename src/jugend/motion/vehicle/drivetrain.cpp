#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle/drivetrain.hpp>
#include <vector>

namespace jugend {
namespace {

constexpr double rpm_per_rad = 30 / pi;

}  // namespace

Curve curve_of(const std::vector<Curve::Point>& points, const char* key) {
  if (points.empty()) fail({{}, key, "no points", "one point at least, [x, y]", {}});
  for (std::size_t i = 1; i < points.size(); ++i) {
    if (points[i].x <= points[i - 1].x)
      fail({{},
            filled("{}.{}.x", key, i + 1),
            as_text(points[i].x),
            filled("more than {}: one value for each x", as_text(points[i - 1].x)),
            {}});
  }
  return Curve(points);
}

DriveLaw drive_law(const DriveTuning& tuning, double mass) {
  return {mass, tuning.top_speed * (0.5 * same_bits::log(19)) / tuning.speed_time, tuning.top_speed,
          tuning.reverse_speed};
}

Engine::Engine(const EngineTuning& tuning) : tuning_(tuning), torque_(curve_of(tuning.torque, "drive.engine.torque")) {
  const auto refuse = [](const char* key, double found, const std::string& allowed) {
    fail({{}, key, as_text(found), allowed, {}});
  };
  const int n = tuning.gear_count();
  if (n == 0) fail({{}, "drive.engine.gears", "none", "one ratio at least", {}});
  for (std::size_t i = 1; i < static_cast<std::size_t>(n); ++i) {
    if (tuning.gears[i] >= tuning.gears[i - 1])
      fail({{},
            filled("drive.engine.gears.{}", i + 1),
            as_text(tuning.gears[i]),
            filled("less than that of gear {}, {}", i, as_text(tuning.gears[i - 1])),
            {}});
  }
  if (tuning.idle >= tuning.redline) refuse("drive.engine.idle", tuning.idle, "below drive.engine.redline");
  if (tuning.shift_up > tuning.redline)
    refuse("drive.engine.shift_up", tuning.shift_up, "at most drive.engine.redline");
  // After an upshift the revs must stay above where it would shift back, or it hunts.
  double widest = 1;
  for (std::size_t i = 1; i < static_cast<std::size_t>(n); ++i)
    widest = std::max(widest, tuning.gears[i - 1] / tuning.gears[i]);
  if (tuning.shift_down * widest >= tuning.shift_up)
    refuse("drive.engine.shift_down", tuning.shift_down,
           filled("below drive.engine.shift_up by more than the widest step of drive.engine.gears: below {}",
                  as_text(std::floor(tuning.shift_up / widest))));
}

double Engine::ratio(int gear) const {
  if (gear == 0) return 0;
  if (gear < 0) return -tuning_.reverse * tuning_.final;
  return tuning_.gears[static_cast<std::size_t>(gear - 1)] * tuning_.final;
}

void Engine::shift(EngineState& state, double shaft, bool grounded, double throttle, int wish, bool backwards,
                   double dt) const {
  state.shift_left = std::max(0.0, state.shift_left - dt);
  const int top = tuning_.gear_count();
  int gear = state.gear;
  if (tuning_.automatic) {
    constexpr double slow = 1.5;  // rad/s, nearly still
    if (backwards && shaft < slow) gear = -1;
    if (!backwards && gear < 1 && throttle != 0 && shaft > -slow) gear = 1;
    const double revs = std::abs(shaft * ratio(gear)) * rpm_per_rad;
    if (gear >= 1 && state.shift_left == 0 && grounded) {
      if (revs > tuning_.shift_up && gear < top && throttle > 0) ++gear;
      if (revs < tuning_.shift_down && gear > 1) --gear;
    }
  } else if (wish != 0 && state.shift_left == 0) {
    gear = std::clamp(gear + wish, -1, top);
  }
  if (gear == state.gear) return;
  state.gear = gear;
  state.shift_left = tuning_.shift_time;
}

Engine::Output Engine::output(const EngineState& state, double shaft, double throttle) const {
  const double with = ratio(state.gear);
  if (with == 0 || state.shift_left > 0) return {0, std::max(tuning_.idle, std::abs(shaft * with) * rpm_per_rad)};
  const double turning = shaft * with * rpm_per_rad;  // negative: the wheels turn against the gear
  const double slips_at = tuning_.idle + throttle * (tuning_.clutch_revs - tuning_.idle);
  const double revs = std::max(turning, slips_at);
  // At the redline it is cut, within the last 2 % of its revs, so that it holds there without chopping.
  const double cut = std::clamp((tuning_.redline - revs) / (0.02 * tuning_.redline), 0.0, 1.0);
  const double closed = turning > tuning_.idle ? tuning_.braking * (1 - throttle) * revs / tuning_.redline : 0.0;
  return {(throttle * cut * torque_.value(revs) - closed) * with, revs};
}

double Engine::inertia_at_wheels(const EngineState& state) const {
  const double with = ratio(state.gear);
  return state.shift_left > 0 ? 0.0 : tuning_.inertia * with * with;
}

}  // namespace jugend
