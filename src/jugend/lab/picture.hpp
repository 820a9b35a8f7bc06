// A world at one moment as lines, from the side and from above: what plots draw of bodies.
#pragma once

#include <jugend/shape/section.hpp>
#include <jugend/world/sketch.hpp>
#include <vector>

namespace jugend {

struct Picture {
  double time = 0;                 ///< s
  std::vector<Outline> side, top;  ///< of bodies that move, or may
  /// From where bodies touch, `force_length` long for a body's own weight; for wheels and rotors four times as long.
  std::vector<Outline> side_forces, top_forces;
  static constexpr double force_length = 0.3;  ///< m

  void add(const Shape& shape, const Pose& pose);
  /// Shares of a weight that act at a place.
  void add_force(const Vec3& at, const Vec3& of_weight);
};

Picture picture_of(const World& world, double time);

}  // namespace jugend
