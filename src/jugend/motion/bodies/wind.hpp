// Wind with gusts, as a function of time: the same at any tick rate, and again whenever it is asked for.
#pragma once

#include <array>
#include <jugend/base/vec.hpp>

namespace jugend {

struct WindTuning {
  double speed = 0;         ///< m/s of the steady wind
  double direction = 0;     ///< rad that it blows towards, from x (ahead) to z (right)
  double gusts = 0;         ///< m/s, standard deviation along the wind; across and upright as the spectrum says
  double gust_length = 60;  ///< m, how far gusts reach
  int seed = 1;             ///< another number, other gusts
};

/// Gusts follow the spectrum of Dryden, Φ(Ω) = σ² 2L/πV / (1 + (LΩ/V)²) along the wind and
/// σ² L/πV (1 + 3 (LΩ/V)²) / (1 + (LΩ/V)²)² across it (MIL-F-8785C, 1980, 3.7), as a sum of sines of stated phases.
class Wind {
 public:
  /// In a world of `length_scale` units a metre.
  explicit Wind(const WindTuning& tuning = {}, double length_scale = 1);
  /// m/s at `time` s.
  Vec3 at(double time) const;
  bool still() const { return still_; }

 private:
  static constexpr int count_ = 24;
  struct Sine {
    double rate, size_along, size_across, phase[3];
  };
  Vec3 steady_, along_, across_;
  std::array<Sine, count_> sines_{};
  bool still_ = true, gusty_ = false;
};

}  // namespace jugend
