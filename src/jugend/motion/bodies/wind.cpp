#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/random.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/wind.hpp>

namespace jugend {

Wind::Wind(const WindTuning& tuning, double length_scale)
    : along_{same_bits::cos(tuning.direction), 0, same_bits::sin(tuning.direction)},
      across_{-same_bits::sin(tuning.direction), 0, same_bits::cos(tuning.direction)} {
  steady_ = along_ * tuning.speed;
  gusty_ = tuning.gusts > 0;
  still_ = tuning.speed == 0 && !gusty_;
  // In still air gusts drift by at a walking pace.
  const double speed = std::max(tuning.speed, length_scale), slowest = 0.05 * speed / tuning.gust_length,
               fastest = 30 * speed / tuning.gust_length;
  RandomShares random(tuning.seed);
  double power_along = 0, power_across = 0;
  for (int i = 0; i < count_; ++i) {
    Sine& s = sines_[static_cast<std::size_t>(i)];
    const double step = same_bits::log(fastest / slowest) / count_;
    s.rate = slowest * same_bits::exp(step * (i + random.next()));
    const double x = tuning.gust_length * s.rate / speed, width = s.rate * step, base = 1 / (1 + x * x);
    s.size_along = std::sqrt(2 * width * base), s.size_across = std::sqrt(width * (1 + 3 * x * x)) * base;
    power_along += 0.5 * s.size_along * s.size_along, power_across += 0.5 * s.size_across * s.size_across;
    for (double& phase : s.phase) phase = 2 * pi * random.next();
  }
  // The standard deviation along is as stated, whatever the band that the sines leave out.
  const double along = tuning.gusts / std::sqrt(power_along), across = tuning.gusts / std::sqrt(power_across);
  for (Sine& s : sines_) s.size_along *= along, s.size_across *= across;
}

Vec3 Wind::at(double time) const {
  if (!gusty_) return steady_;
  double sum[3]{};
  for (const Sine& s : sines_) {
    sum[0] += s.size_along * same_bits::sin(s.rate * time + s.phase[0]);
    sum[1] += s.size_across * same_bits::sin(s.rate * time + s.phase[1]);
    sum[2] += s.size_across * same_bits::sin(s.rate * time + s.phase[2]);
  }
  return steady_ + along_ * sum[0] + across_ * sum[1] + Vec3{0, sum[2], 0};
}

}  // namespace jugend
