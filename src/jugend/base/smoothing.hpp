// Decay and smoothing that give the same motion at every tick rate.
#pragma once

#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>

namespace jugend {

/// The share of a distance that is left after `dt` seconds when half of it goes every `half_life`
/// seconds: 2^(-dt/half_life). A half-life of 0 or less leaves nothing: at once.
inline double share_left(double half_life, double dt) { return half_life > 0 ? same_bits::exp2(-dt / half_life) : 0.0; }

/// `from` brought nearer to `to`, halving the distance every `half_life` seconds. Works for numbers
/// and vectors: `speed = smoothed(speed, wish, 0.1, dt);`
template <class T>
T smoothed(const T& from, const T& to, double half_life, double dt) {
  return to + (from - to) * share_left(half_life, dt);
}

/// The critically damped way back to x = 0, which does not overshoot: x'' + 2ω x' + ω² x = `under`, ω = 2π `frequency`,
/// where an even acceleration `under` acts besides. `x` is the distance from there.
template <class T>
struct Settled {
  T way, rate;  ///< what `x` changes by in the time, and its rate then
};
template <class T>
Settled<T> settled(const T& x, const T& rate, double frequency, const T& under, double dt) {
  const double w = 2 * pi * frequency, fade = same_bits::exp(-w * dt);
  const T rest = under / (w * w), off = x - rest, c = rate + off * w;
  return {(off + c * dt) * fade - off, (rate - c * (w * dt)) * fade};
}
/// By what a rate changes so over `dt` seconds.
template <class T>
T settling(const T& x, const T& rate, double frequency, double dt) {
  return settled(x, rate, frequency, T{}, dt).rate - rate;
}

/// What takes something along `way` within `dt`, from the speed `from` to the speed `to`: a change at once, and from
/// then on an even acceleration. x = v t + a t²/2 and v' = v + a t have this one answer.
template <class T>
struct Going {
  T at_once, acceleration;
};
template <class T>
Going<T> going(const T& way, const T& from, const T& to, double dt) {
  const T acceleration = (to * dt - way) * (2 / (dt * dt));
  return {to - acceleration * dt - from, acceleration};
}

/// 0 to 1 with no speed at either end: 3u² - 2u³.
constexpr double smooth_step(double u) { return u * u * (3 - 2 * u); }

/// A velocity under linear drag `k` (1/s) after `dt` seconds, exactly: v e^(-k dt).
template <class T>
T dragged(const T& velocity, double k, double dt) {
  return velocity * same_bits::exp(-k * dt);
}

/// The displacement that a velocity under linear drag `k` makes in `dt` seconds, exactly: v (1 - e^(-k dt)) / k.
template <class T>
T dragged_way(const T& velocity, double k, double dt) {
  return velocity * (k > 0 ? -same_bits::expm1(-k * dt) / k : dt);
}

}  // namespace jugend
