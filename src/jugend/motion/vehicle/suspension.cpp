#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/vehicle/suspension.hpp>

namespace jugend {

double sag_under(const Strut& strut, double load) {
  // k x (1 + g x / 2) = load, then the stop's part by Newton's method: the force is convex, so it comes from above.
  const double soft = load / strut.stiffness;
  double x = strut.growth > 0 ? (std::sqrt(1 + 2 * strut.growth * soft) - 1) / strut.growth : soft;
  x = std::min(x, strut.bump + strut.give);
  for (int i = 0; i < 30 && x > strut.stop_from; ++i) {
    const Strut::Force f = strut.at(x, 0);
    const double next = x - (f.force - load) / f.stiffness;
    if (std::abs(next - x) < 1e-15) break;
    x = next;
  }
  return x;
}

Strut strut_of(const SuspensionTuning& tuning, double load, double strength, double radius) {
  const double mass = load / strength, growth = tuning.progression / tuning.bump;
  Strut s;
  s.bump = tuning.bump, s.droop = tuning.droop, s.pull = tuning.droop_pull, s.growth = growth;
  if (tuning.spring_by == SpringBy::stiffness) {
    s.stiffness = tuning.stiffness;
  } else if (tuning.spring_by == SpringBy::sag) {
    s.stiffness = load / (tuning.sag * (1 + 0.5 * growth * tuning.sag));
  } else {
    // Two unknowns, k and the sag x: k (1 + g x) = (2π f)² m where k x (1 + g x / 2) = load.
    const double there = same_bits::pow(2 * pi * tuning.ride_frequency, 2) * mass, a = load / there;
    // x (1 + g x / 2) = a (1 + g x)
    const double b = 1 - a * growth;
    const double x = growth > 0 ? (std::sqrt(b * b + 2 * growth * a) - b) / growth : a;
    s.stiffness = there / (1 + growth * x);
  }
  constexpr double most_loads = 12, gives = 0.4;
  s.most_damping = most_loads * load, s.give = gives * radius, s.give_stiffness = most_loads * load / s.give;
  s.stop_from = tuning.bump * (1 - tuning.stop_share);
  s.stop_stiffness = tuning.stop_stiffness * s.stiffness;
  s.sag = sag_under(s, load);
  const double at_rest = s.stiffness * (1 + growth * std::min(s.sag, tuning.bump));
  const double critical = 2 * std::sqrt(at_rest * mass);
  const bool shares = tuning.damping_by == DampingBy::ratio;
  s.bump_damping = shares ? tuning.bump_ratio * critical : tuning.bump_damping;
  s.rebound_damping = shares ? tuning.rebound_ratio * critical : tuning.rebound_damping;
  return s;
}

}  // namespace jugend
