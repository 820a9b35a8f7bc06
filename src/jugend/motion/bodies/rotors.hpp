// Rotors, and how thrust and torque are shared among them.
#pragma once

#include <array>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/vec.hpp>
#include <span>

namespace jugend {

inline constexpr int most_rotors = 12;

struct RotorTuning {
  Vec3 place;                  ///< m from the body's centre of mass, in its frame
  Vec3 direction{0, 1, 0};     ///< of its thrust
  double turns = 1;            ///< 1: the body is turned back to the left about the thrust, -1: to the right
  double most_thrust = 6;      ///< N
  double torque_share = 0.02;  ///< m: torque back on the body for each newton of thrust
  double radius = 0.12;        ///< m of its disc, for the ground's effect
};

/// What is asked of all rotors together, in the body's frame.
struct Wrench {
  double lift = 0;  ///< N along the body's up
  Vec3 torque;      ///< N m
};

/// Shares a wrench among rotors by bounded least squares: the least thrusts within their limits that come nearest to
/// it, where what is missed of roll and pitch weighs most, then of lift, then of yaw. Throws InputError where the
/// rotors cannot lift `weight` N or cannot turn the body about each of roll and pitch.
class RotorMix {
 public:
  RotorMix(std::span<const RotorTuning> rotors, double weight);
  /// N of each rotor, within its limits. A failed rotor (bit in `failed`) gives nothing and the others do what they
  /// can.
  void share(const Wrench& wanted, unsigned failed, std::span<double> thrusts) const;
  /// N: the most lift that the others have without roll and pitch.
  double most_lift(unsigned failed) const;
  /// What thrusts amount to.
  Wrench made(std::span<const double> thrusts) const;
  int count() const { return static_cast<int>(effect_.size()); }

 private:
  static constexpr std::size_t parts = 4;  // of a wrench: roll, pitch, lift, yaw
  using Parts = std::array<double, parts>;
  using Thrusts = std::array<double, most_rotors>;
  Parts weighed(const Wrench& w) const;
  Parts answer(const Parts& missed, unsigned free) const;
  double thrust(std::size_t rotor, const Parts& answer) const;

  struct Effect {  // of one newton
    double lift;
    Vec3 torque;
  };
  InlineList<Effect, most_rotors> effect_;
  InlineList<Parts, most_rotors> weighed_;  // the same, as much as it weighs
  InlineList<double, most_rotors> most_;
  std::array<Parts, most_rotors> exact_{};  // thrusts for each part of a wrench that all together can give
  double lift_ = 0;                         // N, of all at the most
  double scale_ = 1;                        // m, that makes torques comparable with lift
};

/// What a ring of rotors, as a multirotor's tuning describes it, can do without one or two of them.
struct RotorLossSize {
  double one = 0;        ///< most lift without roll and pitch with any one lost, as a multiple of the weight
  double two_worst = 0;  ///< with the worst two lost: below 1 it sinks, by 1 less that of a free fall's acceleration
  double two_best = 0;   ///< with the best two lost
};
/// Throws InputError for fewer than 3 or more than most_rotors, or a lift ratio of 1 or less.
RotorLossSize size_rotor_loss(int rotors, double lift_ratio);

}  // namespace jugend
