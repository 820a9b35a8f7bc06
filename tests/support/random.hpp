// Random numbers, shapes and poses for tests: the same on every machine.
#pragma once

#include <cstdint>
#include <cstdlib>
#include <jugend/shape/shape.hpp>
#include <random>

#include "watched.hpp"

namespace jugend::testing {

inline std::uint32_t of_environment(const char* name, int otherwise) {
  const char* text = std::getenv(name);
  return static_cast<std::uint32_t>(text != nullptr ? std::atoi(text) : otherwise);
}

/// JUGEND_DRAW in the environment: the same tests with other draws, to look beyond those that are known to hold.
class Random {
 public:
  explicit Random(std::uint32_t seed) : engine_(seed + 7919 * of_environment("JUGEND_DRAW", 0)) {}
  double uniform(double low, double high) { return low + (high - low) * (engine_() / 4294967296.0); }
  std::uint32_t below(std::uint32_t n) { return engine_() % n; }
  Vec3 point(double size) {
    const double x = uniform(-size, size), y = uniform(-size, size), z = uniform(-size, size);
    return {x, y, z};
  }
  Vec3 direction() {
    for (;;) {
      const Vec3 p = point(1);
      if (squared_norm(p) > 0.01 && squared_norm(p) < 1) return normalised(p);
    }
  }
  Pose pose(double size) {
    const Vec3 at = point(size), axis = direction();  // one draw a statement: operands have no order
    return {at, rotation(axis * uniform(0, 3))};
  }
  /// A sphere, capsule or box.
  PlacedConvex convex(double size) {
    const Pose at = pose(size);
    switch (below(3)) {
      case 0: return {Sphere{uniform(0.05, 0.7)}, at};
      case 1: {
        const Capsule capsule{uniform(0.05, 0.4), uniform(0.0, 0.8)};
        return {capsule, at};
      }
      default: break;
    }
    const Vec3 h{uniform(0.05, 0.8), uniform(0.05, 0.8), uniform(0.05, 0.8)};
    return {Box{h}, at};
  }

 private:
  std::mt19937 engine_;
};

/// Bumpy ground of n × n cells, `cell` wide.
inline MeshData bumpy_mesh(std::uint32_t n, double cell, double height, std::uint32_t seed = 3) {
  Random random(seed);
  MeshData data;
  for (std::uint32_t i = 0; i <= n; ++i) {
    for (std::uint32_t j = 0; j <= n; ++j) data.vertices.push_back({i * cell, random.uniform(0, height), j * cell});
  }
  for (std::uint32_t i = 0; i < n; ++i) {
    for (std::uint32_t j = 0; j < n; ++j) {
      const std::uint32_t a = i * (n + 1) + j, b = a + n + 1;
      data.triangles.push_back({a, a + 1, b});
      data.triangles.push_back({b, a + 1, b + 1});
    }
  }
  return data;
}

}  // namespace jugend::testing
