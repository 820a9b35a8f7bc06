// What a tyre's stretch against the ground does: a straight law with a circle of friction, or the brush model.
//
// A wheel's tread is carried along by the ground and let go again as the wheel rolls: its stretch u (m) follows
//   u' = w - |v| u / σ
// with w the speed at which the tread slides, v that at which it rolls, and σ the relaxation length (H. B. Pacejka,
// "Tyre and Vehicle Dynamics", 3rd ed. 2012, ch. 7). Rolling, u/σ is the slip; at rest u is a spring, which holds.
#pragma once

#include <algorithm>
#include <cmath>

namespace jugend {

struct TyreTuning {
  double brush = 0;             ///< 1: the brush model, 0: straight up to the circle of friction
  double grip = 1.05;           ///< coefficient of friction at the load at rest, on a surface of grip 1
  double along_stiffness = 14;  ///< force for each unit of slip along the wheel, as a multiple of the load
  double side_stiffness = 11;   ///< force for each radian of slip angle, as a multiple of the load
  double load_fade = 0;         ///< grip and stiffness lose this share of themselves at twice the load at rest
  double relaxation = 0.12;     ///< m that it rolls while slip builds up (to 63 %)
  double rolling = 0.012;       ///< force against rolling, as a share of the load
};

/// What holds for a tyre under one load on one ground.
struct TyreGrip {
  double limit = 0;            ///< N that it can hold
  double along = 0, side = 0;  ///< N for each metre of stretch
  double full = 0;             ///< N of straight force at which all of the tread slides
  bool brush = false;

  /// `load` in N, `rest_load` that at rest, `surface_grip` of the ground.
  TyreGrip(const TyreTuning& t, double load, double rest_load, double surface_grip) : brush(t.brush > 0) {
    const double fade = t.load_fade > 0 ? std::clamp(1 - t.load_fade * (load / rest_load - 1), 0.25, 1.5) : 1.0;
    limit = t.grip * surface_grip * fade * load;
    along = t.along_stiffness * fade * load / t.relaxation;
    side = t.side_stiffness * fade * load / t.relaxation;
    full = brush ? 3 * limit : limit;
  }

  /// By what the straight forces are less than straight; `straight` is their size in N. The brush model's
  /// F = µN (3ρ - 3ρ² + ρ³), ρ = C s / 3µN (Pacejka, ch. 3; with both stiffnesses in one ellipse).
  double share(double straight) const {
    if (straight >= full) return limit / std::max(straight, 1e-300);
    if (!brush) return 1;
    const double r = straight / full;
    return 1 - r + r * r / 3;
  }
  /// Stretch beyond which all slides does not grow.
  void limit_stretch(double& u_along, double& u_side) const {
    const double a = along * u_along, s = side * u_side, size = std::sqrt(a * a + s * s);
    if (size <= full) return;
    const double scale = full / size;
    u_along *= scale, u_side *= scale;
  }
};

}  // namespace jugend
