// What joints are made from.
#pragma once

#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <optional>
#include <string>

namespace jugend {

enum class JointKind : std::uint8_t {
  ball,      ///< a shared point; `cone` limits how far the axes may part
  hinge,     ///< a shared axis to turn about
  slider,    ///< a shared axis to slide along, without turning
  fixed,     ///< nothing moves
  distance,  ///< two points kept `low` to `high` apart; a rope where low is 0
  pulley,    ///< a rope from a over two wheels of the world to b: its length, a's part + ratio * b's, `low` to `high`
};

struct JointId {
  std::uint32_t index = ~0u;
  std::uint32_t generation = 0;
  auto operator<=>(const JointId&) const = default;
  explicit operator bool() const { return index != ~0u; }
};

struct JointPlan {
  JointKind kind = JointKind::ball;
  BodyId a;
  BodyId b;             ///< none: the world itself
  Vec3 at;              ///< the joint's place in the world, as the bodies are now
  Vec3 at_b;            ///< distance joints and pulleys: the other end, on b
  Vec3 over_a, over_b;  ///< pulleys: where the rope leaves the wheels for a and for b, in the world
  double ratio = 1;     ///< pulleys: parts of the rope on b's side, 1e-3 to 1e3; b moves so much less, and is pulled so
                        ///< much more
  Vec3 axis{0, 0, 1};   ///< hinge and slider, cone of a ball joint; any length but 0

  /// Angle (hinge, rad) or displacement (slider, m) of a against b along the axis, 0 as they are now; or the length
  /// of a distance joint or a pulley's rope, m. A pulley's `high`, where none is given, is its length as it is now.
  double low = -infinity;
  double high = infinity;
  double cone = infinity;  ///< rad, ball joints

  double motor_speed = 0;  ///< rad/s or m/s that a motor tries to hold
  double motor_limit = 0;  ///< N m or N that it has; 0: no motor
  double stiffness = 0;    ///< N m/rad or N/m of a spring towards `rest`
  double damping = 0;      ///< N m s/rad or N s/m of its damper
  double rest = 0;         ///< rad or m

  bool collide = false;            ///< do the two bodies touch one another?
  double break_force = infinity;   ///< N; it breaks above
  double break_torque = infinity;  ///< N m
  std::string name;
};

/// What a joint does at the moment.
struct JointFacts {
  double position = 0;  ///< rad, m, or a distance joint's or a rope's length
  double speed = 0;     ///< of that
  Vec3 force;           ///< N that b (of a pulley, the rope) puts on a, mean of the last tick; without the torque
  Vec3 torque;          ///< N m, likewise, about the joint's place
  double motor = 0;     ///< N m or N that the motor gave
};

/// A joint that broke.
struct JointEvent {
  JointId joint;
  double force = 0, torque = 0;
};

}  // namespace jugend
