// Where a joint is and how far it is from where it should be. Inner to the world.
#pragma once

#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/state.hpp>

namespace jugend::world_state {

/// A joint as its two bodies' poses have it.
struct JointFrame {
  Vec3 at_a, at_b;        // the anchors in the world
  Vec3 lever_a, lever_b;  // from the centres of mass
  Quat turn_a, turn_b;    // the joint's axes, as each body has them
  Vec3 axis;              // of b, in the world; distance joints: from b to a; pulleys: from the wheel to a
  Vec3 axis_b;            // the same for what b does: `position` grows with a along `axis` and with b against this
  double position = 0;    // angle, displacement or length

  JointFrame(const Joint& joint, const Vec3& centre_a, const Quat& orientation_a, const Vec3& centre_b,
             const Quat& orientation_b)
      : lever_a(rotate(orientation_a, joint.anchor_a)),
        lever_b(rotate(orientation_b, joint.anchor_b)),
        turn_a(orientation_a * joint.frame_a),
        turn_b(orientation_b * joint.frame_b),
        axis(rotate(turn_b, {1, 0, 0})) {
    at_a = centre_a + lever_a, at_b = centre_b + lever_b, axis_b = axis;
    switch (joint.kind) {
      case JointKind::hinge: position = twist() + joint.turns; break;
      case JointKind::slider:
        position = dot(at_a - at_b, axis);
        lever_b += at_a - at_b;  // b's matter at a's anchor
        break;
      case JointKind::distance:
        position = norm(at_a - at_b);
        axis = axis_b = normalised(at_a - at_b, {0, 1, 0});
        break;
      case JointKind::pulley:
        position = norm(at_a - joint.over_a) + joint.ratio * norm(at_b - joint.over_b);
        axis = normalised(at_a - joint.over_a, {0, -1, 0});
        axis_b = normalised(at_b - joint.over_b, {0, -1, 0}) * -joint.ratio;
        break;
      case JointKind::ball:
        position = same_bits::acos(std::fmax(-1.0, std::fmin(1.0, dot(rotate(turn_a, {1, 0, 0}), axis))));
        break;
      case JointKind::fixed: break;
    }
  }
  /// The turn of a against b about the axis, -pi to pi.
  double twist() const {
    const Quat q = conjugate(turn_b) * turn_a;
    const double angle = 2 * same_bits::atan2(q.x, q.w);
    return angle > pi ? angle - 2 * pi : angle < -pi ? angle + 2 * pi : angle;
  }
  /// The small rotation of a against b that should not be, as a vector in the world.
  Vec3 wrong_turn() const {
    const Quat q = conjugate(turn_b) * turn_a;
    return rotate(turn_b, Vec3{q.x, q.y, q.z} * (q.w < 0 ? -2.0 : 2.0));
  }
};

}  // namespace jugend::world_state
