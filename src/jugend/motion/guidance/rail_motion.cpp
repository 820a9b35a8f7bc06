#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/guidance/rail_motion.hpp>

namespace jugend {
namespace {

/// The share of a leg done after the share `u` of its time: evenly faster, even, evenly slower.
double eased(double u, double ease) {
  u = std::clamp(u, 0.0, 1.0);
  const double ramp = 0.5 * ease;
  if (ramp <= 0) return u;
  const double top = 1 / (1 - ramp);
  if (u < ramp) return 0.5 * top * u * u / ramp;
  if (u > 1 - ramp) return 1 - 0.5 * top * (1 - u) * (1 - u) / ramp;
  return top * (u - 0.5 * ramp);
}

}  // namespace

void check(const RailMotionTuning& t) {
  const auto within = [](const char* key, double value, double low, double high, const char* unit) {
    if (value >= low && value <= high) return;
    fail({{}, key, filled("{}", value), filled("{} to {} {}", low, high, unit), {}});
  };
  if (t.duration == 0) within("path.speed", t.speed, 1e-6, 1e6, "m/s");
  within("path.duration_s", t.duration, 0, 86400, "s");
  within("path.ease", t.ease, 0, 1, "");
  within("path.dwell_s", t.dwell, 0, 86400, "s");
  within("path.phase_s", t.phase, -86400, 86400, "s");
  within("path.turn_blend", t.turn_blend, 0, 1e6, "m");
  within("path.turn_rate_deg", t.turn_rate, -100, 100, "rad/s");
}

RailMotion::RailMotion(Path path, const RailMotionTuning& tuning) : path_(std::move(path)), tuning_(tuning) {
  check(tuning);
  const bool even = tuning.run == RailMotionRun::loop && tuning.dwell == 0 && path_.closed();
  if (even) tuning_.ease = 0;  // nothing to stop for
  std::vector<double> stops(path_.stops().begin(), path_.stops().end());
  if (!tuning.every_point) stops = {0, path_.length()};
  const double top_speed =
      tuning.duration > 0 ? path_.length() / tuning.duration / (1 - 0.5 * tuning_.ease) : tuning.speed;
  const auto add = [&](double from, double to) {
    const double duration = std::abs(to - from) / (top_speed * (1 - 0.5 * tuning_.ease));
    legs_.push_back({cycle_, duration, from, to});
    cycle_ += duration + tuning.dwell;
  };
  // `duration` is that of the whole way; each leg takes its share of it.
  for (std::size_t i = 0; i + 1 < stops.size(); ++i) add(stops[i], stops[i + 1]);
  if (tuning.run == RailMotionRun::there_and_back) {
    for (std::size_t i = stops.size() - 1; i > 0; --i) add(stops[i], stops[i - 1]);
  }
}

const RailMotion::Leg& RailMotion::leg_at(double& time) const {
  time += tuning_.phase;
  if (tuning_.run == RailMotionRun::once) {
    time = std::clamp(time, 0.0, cycle_);
  } else {
    time -= std::floor(time / cycle_) * cycle_;
    if (cycle_ - time < 1e-9) time = 0;  // a rounding before the end is the end
  }
  auto leg = std::upper_bound(legs_.begin(), legs_.end(), time, [](double t, const Leg& l) { return t < l.begin; });
  return leg == legs_.begin() ? legs_.front() : *(leg - 1);
}

double RailMotion::way_at(double time) const {
  const Leg& leg = leg_at(time);
  const double u = (time - leg.begin) / leg.duration;
  if (u >= 1 - 1e-12) return leg.to;
  return leg.from + (leg.to - leg.from) * eased(u, tuning_.ease);
}

Pose RailMotion::pose_at(double time, const Pose& start) const {
  const double s = way_at(time);
  Pose pose = start;
  pose.position += path_.at(s) - path_.at(0);
  const auto yaw_of = [](const Vec3& v) { return same_bits::atan2(-v.z, v.x); };
  double turned = 0;
  if (tuning_.turn_along) {
    turned += yaw_of(path_.heading(s, tuning_.turn_blend)) - yaw_of(path_.heading(0, 0));
  }
  if (tuning_.turn_rate != 0) {
    double in_cycle = time;
    const Leg& leg = leg_at(in_cycle);
    const double u = (in_cycle - leg.begin) / leg.duration;
    const double done = eased(u, tuning_.ease) * leg.duration;
    double before = 0;
    for (const Leg& l : legs_) before += l.begin < leg.begin ? l.duration : 0;
    turned += tuning_.turn_rate * (before + done);
    double whole = 0;
    for (const Leg& l : legs_) whole += l.duration;
    if (tuning_.run != RailMotionRun::once)
      turned += tuning_.turn_rate * whole * std::floor((time + tuning_.phase + 1e-9) / cycle_);
  }
  if (turned != 0) pose.orientation = normalised(rotation({0, turned, 0}) * pose.orientation);
  return pose;
}

}  // namespace jugend
