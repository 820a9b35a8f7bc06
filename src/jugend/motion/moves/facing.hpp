// Where a character looks: it turns to where it wants to go.
#pragma once

#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/vec.hpp>

namespace jugend {

/// The level unit vector `facing` after `dt` seconds of turning towards the level part of `move`, the angle between
/// them halved every `half_life` seconds. Less input than 0.05 turns nothing.
inline Vec3 turned_to_face(const Vec3& facing, const Vec3& move, const Vec3& up, double half_life, double dt) {
  const Vec3 level = in_plane(move, up);
  if (squared_norm(level) < 0.0025) return facing;
  const Vec3 goal = normalised(level);
  const Vec3 left = cross(up, facing);
  const double turned = same_bits::atan2(dot(left, goal), dot(facing, goal)) * (1 - share_left(half_life, dt));
  return normalised(facing * same_bits::cos(turned) + left * same_bits::sin(turned), facing);
}

}  // namespace jugend
