#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/moves/swim.hpp>

namespace jugend {

namespace {
double time_constant(const SwimTuning& s) { return std::max(s.settle_time, 1e-3); }
}  // namespace

bool bobs(const SwimTuning& s, double deep) { return std::abs(deep) < 4 * time_constant(s) * s.rise_speed; }

SwimStep swim(const SwimTuning& s, const Swimmer& swimmer, double time) {
  const Vec3& up = swimmer.up;
  const double tau = time_constant(s), decay = same_bits::exp(-time / tau);
  const Vec3 own = swimmer.velocity - swimmer.flow;
  const Vec3 input = in_plane(swimmer.move, up);
  const Vec3 target = input * (s.speed / std::max(1.0, norm(input)));
  const Vec3 level = in_plane(own, up);
  const Vec3 level_end = target + (level - target) * decay;
  const Vec3 level_way = (target + in_plane(swimmer.flow, up)) * time + (level - target) * (tau * (1 - decay));

  const double rising = dot(own, up), floating = swimmer.deep / (4 * tau);
  double rise_way = 0, rise_end = 0;
  if (!swimmer.dive && bobs(s, swimmer.deep)) {
    const double a = 1 / (2 * tau), c = -rising + a * swimmer.deep, fade = same_bits::exp(-a * time);
    rise_way = swimmer.deep - (swimmer.deep + c * time) * fade;
    rise_end = (a * (swimmer.deep + c * time) - c) * fade;
  } else {
    const double wanted = swimmer.dive ? -s.rise_speed : std::clamp(floating, -s.rise_speed, s.rise_speed);
    rise_end = wanted + (rising - wanted) * decay;
    rise_way = wanted * time + (rising - wanted) * tau * (1 - decay);
  }
  return {level_way + up * rise_way, level_end + swimmer.flow + up * rise_end};
}

}  // namespace jugend
