#include <fmt/format.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/vehicle/vehicle_sizing.hpp>

namespace jugend {
namespace {

void need(double value, const char* key, bool zero_too = false) {
  if (std::isfinite(value) && (value > 0 || (zero_too && value == 0))) return;
  throw InputError({{}, key, as_text(value), zero_too ? "0 or more" : "more than 0", {}});
}

}  // namespace

SpringSize size_spring(double mass, double frequency, double ratio, double gravity) {
  need(mass, "mass"), need(frequency, "frequency"), need(ratio, "ratio", true), need(gravity, "gravity");
  const double w = 2 * pi * frequency;
  SpringSize s;
  s.stiffness = w * w * mass, s.sag = gravity / (w * w);
  s.critical = 2 * w * mass, s.damping = ratio * s.critical;
  s.overshoot = ratio < 1 ? std::exp(-pi * ratio / std::sqrt(1 - ratio * ratio)) : 0;
  // Above critical the slower of both rates is left.
  const double rate = ratio < 1 ? ratio * w : w * (ratio - std::sqrt(ratio * ratio - 1));
  s.settle_time = rate > 0 ? std::log(50) / rate : INFINITY;
  return s;
}

double frequency_of_sag(double sag, double gravity) {
  need(sag, "sag"), need(gravity, "gravity");
  return std::sqrt(gravity / sag) / (2 * pi);
}

RollSize size_roll(double mass, double height, double track, double stiffness, double bar, double gravity) {
  need(mass, "mass"), need(height, "height"), need(track, "track"), need(stiffness, "stiffness");
  need(bar, "bar", true), need(gravity, "gravity");
  const double turning = mass * gravity * height, back = (stiffness + 2 * bar) * track * track - turning;
  if (back <= 0)
    throw InputError(
        {{},
         "stiffness",
         as_text(stiffness),
         fmt::format("more than {}, or it falls over where it stands", as_text(turning / (track * track) - 2 * bar)),
         {}});
  return {turning / back / radians_per_degree, gravity * track / (2 * height)};
}

double gear_speed(double revs, double gear, double final_drive, double radius) {
  need(revs, "revs"), need(gear, "gear"), need(final_drive, "final"), need(radius, "radius");
  return revs * pi / 30 / (gear * final_drive) * radius;
}

HoverSize size_hover(double mass, double rotors, double most_thrust, double curve, double gravity) {
  need(mass, "mass"), need(rotors, "rotors"), need(most_thrust, "thrust"), need(curve, "curve"),
      need(gravity, "gravity");
  const double weight = mass * gravity, all = rotors * most_thrust;
  if (all <= weight)
    throw InputError({{},
                      "thrust",
                      fmt::format("{} N together", as_text(all)),
                      fmt::format("more than the weight, {} N", as_text(weight)),
                      {}});
  const double tilt = std::acos(weight / all);
  return {weight / rotors, std::pow(weight / all, 1 / curve), tilt, gravity * std::tan(tilt)};
}

}  // namespace jugend
