// The physics of nobody that docs/adopting.md speaks of.
#pragma once

#include "examples/own_physics.hpp"

class MyPhysics : public OwnPhysics {
 public:
  using OwnPhysics::add;
  jugend::BodyId add(const jugend::Shape& shape, const jugend::Pose& pose, double mass) {
    return add({.shape = shape, .pose = pose, .mass = mass});
  }
};
