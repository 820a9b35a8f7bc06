#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/vehicle/vehicle_sizing.hpp>

namespace jugend {
namespace {

void need(double value, const char* key, bool zero_too = false) {
  if (std::isfinite(value) && (value > 0 || (zero_too && value == 0))) return;
  fail({{}, key, as_text(value), zero_too ? "0 or more" : "more than 0", {}});
}

}  // namespace

SpringSize size_spring(double mass, double frequency, double ratio, double gravity) {
  need(mass, "mass"), need(frequency, "frequency"), need(ratio, "ratio", true), need(gravity, "gravity");
  const double w = 2 * pi * frequency;
  SpringSize s;
  s.stiffness = w * w * mass, s.sag = gravity / (w * w);
  s.critical = 2 * w * mass, s.damping = ratio * s.critical;
  s.overshoot = ratio < 1 ? same_bits::exp(-pi * ratio / std::sqrt(1 - ratio * ratio)) : 0;
  // Above critical the slower of both rates is left.
  const double rate = ratio < 1 ? ratio * w : w * (ratio - std::sqrt(ratio * ratio - 1));
  s.settle_time = rate > 0 ? same_bits::log(50) / rate : INFINITY;
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
    fail({{},
          "stiffness",
          as_text(stiffness),
          filled("more than {}, or it falls over where it stands", as_text(turning / (track * track) - 2 * bar)),
          {}});
  return {turning / back / radians_per_degree, gravity * track / (2 * height)};
}

TipSize size_tip(double height, double track, double radius, double grip, double gravity) {
  need(height, "height"), need(track, "track"), need(radius, "radius"), need(grip, "grip"), need(gravity, "gravity");
  const double tips = gravity * track / (2 * height);
  return {std::sqrt(tips * radius), std::sqrt(grip * gravity * radius), std::sqrt(0.5 * tips * radius),
          track / (2 * height)};
}

namespace {

/// Share of the grip that a brush tyre holds at tan α times C / 3µ.
double brush_share(double along) {
  const double r = std::min(along, 1.0);
  return 3 * r - 3 * r * r + r * r * r;
}

/// For tyres of one shape, C / 3µ = `bend`, the best grip is a linear one: Σ F s / Σ s², over the load.
double best_grip(double load, std::span<const TyrePoint> points, double bend) {
  double with = 0, of = 0;
  for (const TyrePoint& p : points) {
    const double share = brush_share(bend * same_bits::tan(p.angle));
    with += p.force * share, of += share * share;
  }
  return with / (of * load);
}

double missed_by(double load, std::span<const TyrePoint> points, double bend) {
  const double grip = best_grip(load, points, bend);
  double sum = 0;
  for (const TyrePoint& p : points)
    sum += same_bits::pow(p.force - grip * load * brush_share(bend * same_bits::tan(p.angle)), 2);
  return sum;
}

}  // namespace

TyreSize size_tyre(double load, std::span<const TyrePoint> points) {
  need(load, "load");
  if (points.size() < 2) fail({{}, "points", filled("{}", points.size()), "two points at least", {}});
  double highest = 0, steepest = 0;
  for (const TyrePoint& p : points) {
    need(p.angle, "angle"), need(p.force, "force");
    if (p.angle > 1.5) fail({{}, "angle", as_text(p.angle) + " rad", "at most 1.5 rad", {}});
    highest = std::max(highest, p.force), steepest = std::max(steepest, 1 / same_bits::tan(p.angle));
  }
  // On the logarithm of the shape, from wholly sliding at the first point to hardly bent at the last: first the deepest
  // valley, since the points may make more than one, then its floor by golden section.
  const auto missed = [&](double shape) { return missed_by(load, points, same_bits::exp(shape)); };
  constexpr int pieces = 2000;
  const double from = same_bits::log(1e-3 * steepest), step = same_bits::log(1e3) / pieces;
  int best = 0;
  for (int i = 1; i <= pieces; ++i) {
    if (missed(from + i * step) < missed(from + best * step)) best = i;
  }
  constexpr double golden = 0.61803398874989485;
  double low = from + (best - 1) * step, high = from + (best + 1) * step;
  for (int i = 0; i < 60; ++i) {
    const double a = high - golden * (high - low), b = low + golden * (high - low);
    if (missed(a) < missed(b))
      high = b;
    else
      low = a;
  }
  const double bend = same_bits::exp(0.5 * (low + high)), grip = best_grip(load, points, bend);
  return {grip, 3 * grip * bend, same_bits::atan(1 / bend),
          std::sqrt(missed_by(load, points, bend) / static_cast<double>(points.size())) / highest};
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
    fail({{},
          "thrust",
          filled("{} N together", as_text(all)),
          filled("more than the weight, {} N", as_text(weight)),
          {}});
  const double tilt = same_bits::acos(weight / all);
  return {weight / rotors, same_bits::pow(weight / all, 1 / curve), tilt, gravity * same_bits::tan(tilt)};
}

}  // namespace jugend
