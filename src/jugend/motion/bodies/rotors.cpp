#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/rotors.hpp>
#include <vector>

namespace jugend {

RotorMix::RotorMix(std::span<const RotorTuning> rotors, double weight) {
  if (rotors.empty() || rotors.size() > most_rotors)
    fail({{}, "rotors", filled("{}", rotors.size()), filled("1 to {} rotors", most_rotors), {}});
  double reach = 0, rolls = 0, pitches = 0, both = 0;
  for (std::size_t i = 0; i < rotors.size(); ++i) {
    const RotorTuning& r = rotors[i];
    const Vec3 along = normalised(r.direction, {0, 1, 0});
    const Vec3 torque = cross(r.place, along) + along * (r.turns * r.torque_share);
    effect_.push_back({along.y, torque});
    most_.push_back(r.most_thrust);
    rolls += torque.x * torque.x, pitches += torque.z * torque.z, both += torque.x * torque.z;
    lift_ += std::max(0.0, along.y) * r.most_thrust;
    reach = std::max(reach, norm(r.place));
  }
  if (lift_ <= weight)
    fail({{},
          "rotor.lift_ratio",
          filled("{} N by all rotors together", as_text(lift_)),
          filled("more than the weight, {} N; three rotors lean by rotor.torque_share over rotor.arm and lift less",
                 as_text(weight)),
          {}});
  // Of rank two: the torques' Gram determinant is not nothing beside its squares.
  if (rolls * pitches - both * both <= 1e-9 * (rolls + pitches) * (rolls + pitches))
    fail({{},
          "rotors",
          "rotors in a line, which cannot turn the body about it",
          "rotors on all sides of the centre of mass",
          {}});
  scale_ = std::max(reach, 1e-3);
  for (const Effect& e : effect_) weighed_.push_back(weighed({e.lift, e.torque}));
  const unsigned all = (1u << effect_.size()) - 1;
  for (std::size_t k = 0; k < parts; ++k) {
    Parts one{};
    one[k] = 1;
    const Parts y = answer(one, all);
    for (std::size_t i = 0; i < effect_.size(); ++i) exact_[i][k] = thrust(i, y);
  }
}

namespace {

// What a newton that is missed weighs: of roll and pitch, at the length of the arms; of lift; of yaw. Their squares are
// so far apart that what comes later gives way; a thrust itself weighs least of all.
constexpr double tilt_weight = 1, lift_weight = 1e-2, yaw_weight = 1e-3, thrust_weight = 1e-6;

}  // namespace

RotorMix::Parts RotorMix::weighed(const Wrench& w) const {
  return {w.torque.x * (tilt_weight / scale_), w.torque.z * (tilt_weight / scale_), w.lift * lift_weight,
          w.torque.y * (yaw_weight / scale_)};
}

/// Least squares of the `free` rotors: f = Aᵀ y with (A Aᵀ + ε²) y = w, where A holds their weighed effects and ε is
/// the weight of a thrust: what no rotor reaches is then missed, and nothing is divided by nothing. Gives y.
RotorMix::Parts RotorMix::answer(const Parts& missed, unsigned free) const {
  double m[parts][parts + 1] = {};
  for (std::size_t i = 0; i < weighed_.size(); ++i) {
    if ((free >> i & 1u) == 0) continue;
    for (std::size_t r = 0; r < parts; ++r) {
      for (std::size_t c = 0; c < parts; ++c) m[r][c] += weighed_[i][r] * weighed_[i][c];
    }
  }
  for (std::size_t k = 0; k < parts; ++k) m[k][k] += thrust_weight * thrust_weight, m[k][parts] = missed[k];
  // By Gauss and Jordan: symmetric and positive, and what weighs most stands first, so it needs no search for pivots.
  for (std::size_t c = 0; c < parts; ++c) {
    const double by = 1 / std::max(m[c][c], thrust_weight * thrust_weight);
    for (std::size_t k = c; k <= parts; ++k) m[c][k] *= by;
    for (std::size_t r = 0; r < parts; ++r) {
      const double times = r == c ? 0.0 : m[r][c];
      for (std::size_t k = c; k <= parts; ++k) m[r][k] -= times * m[c][k];
    }
  }
  return {m[0][parts], m[1][parts], m[2][parts], m[3][parts]};
}

double RotorMix::thrust(std::size_t rotor, const Parts& answer) const {
  double sum = 0;
  for (std::size_t k = 0; k < parts; ++k) sum += weighed_[rotor][k] * answer[k];
  return sum;
}

/// Where limits are in the way, by an active set (C. L. Lawson and R. J. Hanson, "Solving Least Squares Problems",
/// 1974, chapter 23): rotors at a limit are held there as long as less than nothing, or more than the most, would be
/// best.
void RotorMix::share(const Wrench& wanted, unsigned failed, std::span<double> thrusts) const {
  const std::size_t n = effect_.size();
  // More than all have is asked for in vain, and would weigh the more the more it is.
  const Parts whole = weighed({std::clamp(wanted.lift, -lift_, lift_), wanted.torque});
  if (failed == 0) {
    bool within = true;
    for (std::size_t i = 0; i < n; ++i) {
      thrusts[i] = 0;
      for (std::size_t k = 0; k < parts; ++k) thrusts[i] += exact_[i][k] * whole[k];
      within &= thrusts[i] >= 0 && thrusts[i] <= most_[i];
    }
    if (within) return;
  }
  unsigned free = ~failed & ((1u << n) - 1);
  for (std::size_t i = 0; i < n; ++i) thrusts[i] = (failed >> i & 1u) != 0 ? 0 : 0.5 * most_[i];
  for (int round = 0; round < 8 * most_rotors; ++round) {
    Parts missed = whole;
    for (std::size_t i = 0; i < n; ++i) {
      for (std::size_t k = 0; k < parts && (free >> i & 1u) == 0; ++k) missed[k] -= weighed_[i][k] * thrusts[i];
    }
    const Parts y = answer(missed, free);
    // As far towards what is best as the first limit lets it come.
    double share = 1;
    std::size_t first = n;
    Thrusts best{};
    for (std::size_t i = 0; i < n; ++i) {
      if ((free >> i & 1u) == 0) continue;
      best[i] = thrust(i, y);
      const double limit = std::clamp(best[i], 0.0, most_[i]);
      if (limit == best[i]) continue;
      const double part = (limit - thrusts[i]) / (best[i] - thrusts[i]);
      if (part < share) share = part, first = i;
    }
    for (std::size_t i = 0; i < n; ++i) {
      if ((free >> i & 1u) != 0) thrusts[i] = std::clamp(thrusts[i] + (best[i] - thrusts[i]) * share, 0.0, most_[i]);
    }
    if (first < n) {
      thrusts[first] = best[first] < 0 ? 0 : most_[first];
      free &= ~(1u << first);
      continue;
    }
    double worst = 1e-6;
    std::size_t freed = n;
    for (std::size_t i = 0; i < n; ++i) {
      if (((free | failed) >> i & 1u) != 0) continue;
      const double inward = (thrust(i, y) - thrusts[i]) * (thrusts[i] > 0 ? -1 : 1) / most_[i];
      if (inward > worst) worst = inward, freed = i;
    }
    if (freed == n) return;
    free |= 1u << freed;
  }
}

double RotorMix::most_lift(unsigned failed) const {
  Thrusts thrusts{};
  share({lift_, {}}, failed, thrusts);
  return made(thrusts).lift;
}

Wrench RotorMix::made(std::span<const double> thrusts) const {
  Wrench sum;
  for (std::size_t i = 0; i < effect_.size(); ++i)
    sum.lift += effect_[i].lift * thrusts[i], sum.torque += effect_[i].torque * thrusts[i];
  return sum;
}

RotorLossSize size_rotor_loss(int rotors, double lift_ratio) {
  if (rotors < 3 || rotors > most_rotors)
    fail({{}, "rotors", filled("{}", rotors), filled("3 to {}", most_rotors), {}});
  if (!(lift_ratio > 1) || !std::isfinite(lift_ratio))
    fail({{}, "lift_ratio", as_text(lift_ratio), "more than 1, or it does not rise with all of them", {}});
  std::vector<RotorTuning> ring;
  for (int i = 0; i < rotors; ++i) {
    const double angle = 2 * pi * i / rotors;
    ring.push_back({.place = {same_bits::cos(angle), 0, same_bits::sin(angle)}, .most_thrust = lift_ratio / rotors});
  }
  const RotorMix mix(ring, 1);
  RotorLossSize size{infinity, infinity, 0};
  for (int first = 0; first < rotors; ++first) {
    size.one = std::min(size.one, mix.most_lift(1u << first));
    for (int second = first + 1; second < rotors; ++second) {
      const double left = mix.most_lift(1u << first | 1u << second);
      size.two_worst = std::min(size.two_worst, left), size.two_best = std::max(size.two_best, left);
    }
  }
  return size;
}

}  // namespace jugend
