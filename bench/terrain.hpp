// The ground of all benchmarks: gentle hills with small bumps, as a mesh or a height field.
#pragma once

#include <cmath>
#include <cstdint>
#include <jugend/shape/height_field.hpp>
#include <jugend/shape/mesh.hpp>
#include <memory>

namespace jugend::bench {

/// Cells along each side that give about this many triangles.
inline std::uint32_t cells_for(std::int64_t triangles) {
  return static_cast<std::uint32_t>(std::lround(std::sqrt(static_cast<double>(triangles) / 2)));
}

/// Rounded to float, as a mesh from a file is.
inline double terrain_height(double x, double z) {
  return static_cast<double>(
      static_cast<float>(2 * std::sin(x * 0.05) * std::cos(z * 0.07) + 0.1 * std::sin(x * 1.3 + z * 2.1)));
}

inline MeshData terrain(std::uint32_t cells) {
  MeshData data;
  for (std::uint32_t i = 0; i <= cells; ++i) {
    for (std::uint32_t j = 0; j <= cells; ++j) data.vertices.push_back({double(i), terrain_height(i, j), double(j)});
  }
  for (std::uint32_t i = 0; i < cells; ++i) {
    for (std::uint32_t j = 0; j < cells; ++j) {
      const std::uint32_t a = i * (cells + 1) + j, b = a + cells + 1;
      data.triangles.push_back({a, a + 1, b});
      data.triangles.push_back({b, a + 1, b + 1});
    }
  }
  return data;
}

inline std::shared_ptr<const HeightField> terrain_field(std::uint32_t cells) {
  std::vector<double> heights;
  for (std::uint32_t row = 0; row <= cells; ++row) {
    for (std::uint32_t column = 0; column <= cells; ++column) heights.push_back(terrain_height(column, row));
  }
  return std::make_shared<HeightField>(cells + 1, cells + 1, 1.0, std::move(heights));
}

}  // namespace jugend::bench
