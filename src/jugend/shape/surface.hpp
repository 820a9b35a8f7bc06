// What a shape is made of, as far as motion can feel it.
#pragma once

namespace jugend {

struct Surface {
  double friction = 0.8;     ///< Coulomb coefficient, >= 0
  double restitution = 0.0;  ///< 0: all speed into a contact is lost; 1: all comes back
  double grip = 1.0;         ///< share of a controller's push that the ground takes; 0.1: ice
};

}  // namespace jugend
