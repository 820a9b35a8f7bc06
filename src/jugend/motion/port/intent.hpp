// From sticks and keys to intents: dead zones, curves, cameras.
#pragma once

#include <algorithm>
#include <cmath>
#include <jugend/base/vec.hpp>

namespace jugend {

/// How far a stick is pushed, x to the right, y forward, each -1 to 1.
struct Stick {
  double x = 0, y = 0;
};

/// A share that an intent asks for: within `low` and 1, and nothing where it is no number.
inline double asked_share(double value, double low = -1) {
  return std::isfinite(value) ? std::clamp(value, low, 1.0) : 0.0;
}

struct StickTuning {
  double dead_zone = 0.18;  ///< radius within which the stick counts as centred
  double full_zone = 0.97;  ///< radius from which it counts as pushed all the way
  double curve = 1.4;  ///< power that the push between them is raised to: 1 straight, more is finer near the middle
};

/// Throws InputError for zones that are not in order within 0 and 1, or a curve that is not within 0.1 and 10.
void check(const StickTuning& tuning);

/// The stick as an intent hears it: nothing in the dead zone, from its rim on rescaled from 0, at most 1 long, in
/// the direction that it was pushed. Numbers that are not finite count as centred.
Stick shaped(const Stick& raw, const StickTuning& tuning = {});

/// One axis of two keys; both together cancel.
constexpr double axis_of_keys(bool negative, bool positive) { return (positive ? 1.0 : 0.0) - (negative ? 1.0 : 0.0); }

/// Keys as a stick: a diagonal is no longer than a straight push.
inline Stick stick_of_keys(bool left, bool right, bool back, bool forward) {
  const double x = axis_of_keys(left, right), y = axis_of_keys(back, forward);
  const double scale = x != 0 && y != 0 ? 0.70710678118654752 : 1;
  return {x * scale, y * scale};
}

/// The direction in the world that a stick means to somebody who looks along `camera`: its level part is forward,
/// however steeply it looks down; straight up or down `camera_up` takes its place. The length is the stick's.
inline Vec3 relative_to_camera(const Stick& stick, const Vec3& camera, const Vec3& camera_up, const Vec3& up) {
  Vec3 forward = in_plane(camera, up);
  if (norm(forward) < 1e-3 * norm(camera)) forward = in_plane(camera_up, up) * (dot(camera, up) > 0 ? -1.0 : 1.0);
  forward = normalised(forward);
  return forward * stick.y + cross(forward, up) * stick.x;
}

}  // namespace jugend
