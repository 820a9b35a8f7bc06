// Debug drawing: what a world shows of itself, on whatever a program draws with.
#pragma once

#include <jugend/world/world.hpp>

namespace jugend {

struct DrawnBody {
  BodyId id;
  const Shape& shape;
  Pose pose;
  Vec3 centre_of_mass;
  BodyKind kind;
  bool asleep, sensor;
  Bounds bounds;  ///< its box in the broad phase
};

struct DrawnContact {
  Vec3 at, normal;
  /// Normal and friction force on the body, as a multiple of its weight under standard gravity: a crate that
  /// rests has 1 upward, whatever its mass. Of two dynamic bodies, the lighter's.
  Vec3 force;
};

struct DrawnJoint {
  JointId id;
  JointKind kind;
  Vec3 at_a, at_b, axis;
  Vec3 over_a, over_b;  ///< of a pulley: its rope goes from at_a to over_a, and from over_b to at_b
  Vec3 force;           ///< likewise, of the lighter body
};

/// Told of everything there is, in a stated order: bodies, then contacts, then joints, each by index.
/// Functions that are not overridden draw nothing.
class Sketch {
 public:
  virtual ~Sketch() = default;
  virtual void body(const DrawnBody&) {}
  virtual void contact(const DrawnContact&) {}
  virtual void joint(const DrawnJoint&) {}
};

void draw(const World& world, Sketch& sketch);

}  // namespace jugend
