// Plunges: straight down out of a jump or a fall.
#pragma once

#include <jugend/base/number.hpp>
#include <jugend/base/vec.hpp>

namespace jugend {

struct PlungeTuning {
  bool on = false;
  double speed = 14;  ///< m/s down, at once; a faster fall stays as fast
};

/// The velocity with which a plunge begins, beside that of what carried the body: nothing along the level.
inline Vec3 plunge(const PlungeTuning& tuning, const Vec3& velocity, const Vec3& up) {
  return up * smaller(dot(velocity, up), -tuning.speed);
}

}  // namespace jugend
