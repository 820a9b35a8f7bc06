// What a tyre's stretch against the ground does: a straight law with a circle of friction, or the brush model.
//
// A wheel's tread is carried along by the ground and let go again as the wheel rolls: its stretch u (m) follows
//   u' = w - |v| u / σ
// with w the speed at which the tread slides, v that at which it rolls, and σ the relaxation length (H. B. Pacejka,
// "Tyre and Vehicle Dynamics", 3rd ed. 2012, ch. 7). Rolling, u/σ is the slip; at rest u is a spring, which holds.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/tunable.hpp>

namespace jugend {

/// Straight up to the circle of friction, or the brush model.
enum class TyreModel : std::uint8_t { straight, brush };
template <>
struct NamesOf<TyreModel> {
  static constexpr std::array<std::string_view, 2> names{"straight", "brush"};
};

struct TyreTuning {
  TyreModel model = TyreModel::straight;
  double grip = 1.05;           ///< coefficient of friction at the load at rest, on a surface of grip 1
  double along_stiffness = 14;  ///< force for each unit of slip along the wheel, as a multiple of the load
  double side_stiffness = 11;   ///< force for each radian of slip angle, as a multiple of the load
  double load_fade = 0;         ///< grip and stiffness lose this share of themselves at twice the load at rest
  double relaxation = 0.12;     ///< m that it rolls while slip builds up (to 63 %)
  double rolling = 0.012;       ///< force against rolling, as a share of the load
};

}  // namespace jugend
