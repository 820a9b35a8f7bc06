#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/rotors.hpp>

namespace jugend {

RotorMix::RotorMix(std::span<const RotorTuning> rotors, double weight) {
  if (rotors.empty() || rotors.size() > most_rotors)
    throw InputError({{}, "rotors", fmt::format("{}", rotors.size()), fmt::format("1 to {} rotors", most_rotors), {}});
  double lift = 0, reach = 0, rolls = 0, pitches = 0, both = 0;
  for (std::size_t i = 0; i < rotors.size(); ++i) {
    const RotorTuning& r = rotors[i];
    const Vec3 along = normalised(r.direction, {0, 1, 0});
    const Vec3 torque = cross(r.place, along) + along * (r.turns * r.torque_share);
    effect_.push_back({along.y, torque});
    most_.push_back(r.most_thrust);
    rolls += torque.x * torque.x, pitches += torque.z * torque.z, both += torque.x * torque.z;
    lift += std::max(0.0, along.y) * r.most_thrust;
    reach = std::max(reach, norm(r.place));
  }
  if (lift <= weight)
    throw InputError({{},
                      "rotor.lift_ratio",
                      fmt::format("{} N by all rotors together", as_text(lift)),
                      fmt::format("more than the weight, {} N", as_text(weight)),
                      {}});
  // Of rank two: the torques' Gram determinant is not nothing beside its squares.
  if (rolls * pitches - both * both <= 1e-9 * (rolls + pitches) * (rolls + pitches))
    throw InputError({{},
                      "rotors",
                      "rotors in a line, which cannot turn the body about it",
                      "rotors on all sides of the centre of mass",
                      {}});
  scale_ = std::max(reach, 1e-3);
  exact_ = exact_without(0);
}

/// Thrusts for each unit of lift and torque, by the rotors that turn: f = Bᵀ W (W B Bᵀ W)⁻¹ W w, with B the effects
/// and W what a miss weighs: where not all four can be had, yaw is what is missed.
RotorMix::Table RotorMix::exact_without(unsigned failed) const {
  const double weights[] = {1, 1 / scale_, 1e-3 / scale_, 1 / scale_};
  double m[4][4] = {};
  std::array<std::array<double, 4>, most_rotors> rows{};
  for (std::size_t i = 0; i < effect_.size(); ++i) {
    if ((failed >> i & 1u) != 0) continue;
    const Effect& e = effect_[i];
    rows[i] = {e.lift * weights[0], e.torque.x * weights[1], e.torque.y * weights[2], e.torque.z * weights[3]};
    for (std::size_t r = 0; r < 4; ++r) {
      for (std::size_t c = 0; c < 4; ++c) m[r][c] += rows[i][r] * rows[i][c];
    }
  }
  for (auto k = 0; k < 4; ++k) m[k][k] += 1e-13 * (m[0][0] + 1e-300);  // what no rotor reaches stays whole
  // Its inverse, by Gauss and Jordan; symmetric and positive, it needs no search for pivots.
  double inverse[4][4] = {{1, 0, 0, 0}, {0, 1, 0, 0}, {0, 0, 1, 0}, {0, 0, 0, 1}};
  for (int c = 0; c < 4; ++c) {
    const double by = 1 / m[c][c];
    for (int k = 0; k < 4; ++k) m[c][k] *= by, inverse[c][k] *= by;
    for (int r = 0; r < 4; ++r) {
      const double times = r == c ? 0.0 : m[r][c];
      for (int k = 0; k < 4; ++k) m[r][k] -= times * m[c][k], inverse[r][k] -= times * inverse[c][k];
    }
  }
  Table table{};
  for (std::size_t i = 0; i < effect_.size(); ++i) {
    for (std::size_t k = 0; k < 4; ++k) {
      for (std::size_t j = 0; j < 4; ++j) table[i][k] += rows[i][j] * inverse[j][k] * weights[k];
    }
  }
  return table;
}

void RotorMix::share(const Wrench& wanted, unsigned failed, std::span<double> thrusts) const {
  const std::size_t n = effect_.size();
  Table others;
  if (failed != 0) others = exact_without(failed);
  const Table& exact = failed != 0 ? others : exact_;
  std::array<double, most_rotors> tilt, yaw;
  bool within = true;
  for (std::size_t i = 0; i < n; ++i) {
    tilt[i] = exact[i][1] * wanted.torque.x + exact[i][3] * wanted.torque.z, yaw[i] = exact[i][2] * wanted.torque.y;
    thrusts[i] = exact[i][0] * wanted.lift + tilt[i] + yaw[i];
    within &= thrusts[i] >= 0 && thrusts[i] <= most_[i];
  }
  if (within) return;
  // Roll and pitch first: the lifts between which they can be had, and if there is none less of them.
  double low = 0, high = 0, part = 1;
  const auto room = [&](double share) {
    low = -infinity, high = infinity;
    for (std::size_t i = 0; i < n; ++i) {
      const double each = exact[i][0], own = share * tilt[i];
      if (std::abs(each) < 1e-9) continue;
      const double a = -own / each, b = (most_[i] - own) / each;
      low = std::max(low, std::min(a, b)), high = std::min(high, std::max(a, b));
    }
    return low <= high;
  };
  if (!room(1)) {
    double fits = 0, breaks = 1;
    for (int k = 0; k < 24; ++k) (room(0.5 * (fits + breaks)) ? fits : breaks) = 0.5 * (fits + breaks);
    room(part = fits);
  }
  const double lift = std::clamp(wanted.lift, low, std::max(low, high));
  double turn = 1;
  for (std::size_t i = 0; i < n; ++i) {
    thrusts[i] = std::clamp(exact[i][0] * lift + part * tilt[i], 0.0, most_[i]);
    if (yaw[i] > 0) turn = std::min(turn, (most_[i] - thrusts[i]) / yaw[i]);
    if (yaw[i] < 0) turn = std::min(turn, thrusts[i] / -yaw[i]);
  }
  for (std::size_t i = 0; i < n; ++i)
    thrusts[i] = (failed >> i & 1u) != 0 ? 0.0 : std::clamp(thrusts[i] + turn * yaw[i], 0.0, most_[i]);
}

Wrench RotorMix::made(std::span<const double> thrusts) const {
  Wrench sum;
  for (std::size_t i = 0; i < effect_.size(); ++i)
    sum.lift += effect_[i].lift * thrusts[i], sum.torque += effect_[i].torque * thrusts[i];
  return sum;
}

}  // namespace jugend
