// Rays and sweeps along axes, along edges and a hair beside them: none misses a flat floor, whatever it is made of.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/world/world.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

struct FloorOf {
  Shape shape;
  double cell, low, high;  ///< its seams lie `cell` apart from `low` to `high`, along x and z
  Vec3 at;                 ///< its place, for a top at y = 0
};

FloorOf draw_floor(Random& random) {
  const double k = std::pow(10, random.uniform(-3, 3));
  const auto n = static_cast<std::uint32_t>(2 + random.below(20));
  const double side = n * k;
  switch (random.below(5)) {
    case 0: return {Box{{side, k, side}}, k, -side, side, {0, -k, 0}};
    case 1: return {std::make_shared<HeightField>(n + 1, n + 1, k, std::vector<double>((n + 1) * (n + 1))), k, 0, side};
    case 2: return {std::make_shared<TileGrid>(std::string(n, '#') + "\n", k, 2 * side), k, 0, side, {0, -k, 0}};
    case 3: {
      std::vector<Vec3> points;
      for (int i = 0; i < 8; ++i) points.push_back({i & 1 ? side : -side, i & 2 ? 0 : -2 * side, i & 4 ? side : -side});
      return {std::make_shared<Hull>(points), k, -side, side};
    }
    default: {
      const double low = random.below(2) ? 0 : std::round(random.uniform(-9, 9)) * k;
      MeshData data;
      for (std::uint32_t i = 0; i <= n; ++i)
        for (std::uint32_t j = 0; j <= n; ++j) data.vertices.push_back({low + i * k, 0, low + j * k});
      for (std::uint32_t i = 0; i < n; ++i) {
        for (std::uint32_t j = 0; j < n; ++j) {
          const std::uint32_t a = i * (n + 1) + j, b = a + 1, c = a + n + 1, d = c + 1;
          data.triangles.push_back({a, b, c}), data.triangles.push_back({b, d, c});
        }
      }
      return {std::make_shared<Mesh>(data), k, low, low + side};
    }
  }
}

/// Anywhere, on a seam, or a hair beside one; well within.
double draw_place(Random& random, const FloorOf& floor) {
  const double seam = floor.low + std::floor(random.uniform(0, (floor.high - floor.low) / floor.cell)) * floor.cell;
  const double beside = random.uniform(-1, 1) * std::pow(10, random.uniform(-17, -3)) * floor.cell;
  const double edge = 1e-2 * floor.cell;
  return std::clamp(random.below(3) == 0   ? random.uniform(floor.low, floor.high)
                    : random.below(2) == 0 ? seam
                                           : seam + beside,
                    floor.low + edge, floor.high - edge);
}

/// 0 of either sign, less than a float can hold, or just small.
double draw_tiny(Random& random) {
  const double sign = random.below(2) ? 1 : -1;
  switch (random.below(3)) {
    case 0: return 0.0 * sign;
    case 1: return sign * std::pow(10, random.uniform(-320, -40));
    default: return sign * std::pow(10, random.uniform(-40, -14));
  }
}

TEST(StraightRays, NeverMissAFlatFloor) {
  Random random(51);
  for (int scene = 0; scene < scenes_of(600); ++scene) {
    const FloorOf floor = draw_floor(random);
    const double k = floor.cell;
    World world;
    world.add({.shape = floor.shape,
               .pose = {floor.at, {}},
               .kind = random.below(2) ? BodyKind::fixed : BodyKind::kinematic});
    for (int i = 0; i < 200; ++i) {
      const Vec3 from{draw_place(random, floor), random.uniform(0.1, 3) * k, draw_place(random, floor)};
      const Vec3 down{draw_tiny(random), -1, draw_tiny(random)};
      const auto told = [&] {
        return ::testing::Message() << scene << ": " << floor.shape.index() << " of " << k << " at " << from.x / k
                                    << ' ' << from.z / k << " along " << down.x << ' ' << down.z;
      };
      const Ray ray{from, down, 5 * k};
      const auto hit = world.cast(ray, {});
      ASSERT_TRUE(hit) << told();
      EXPECT_NEAR(hit->distance, from.y, 1e-9 * k) << told();
      EXPECT_GT(hit->normal.y, 1 - 1e-9) << told();
      const std::array<Vec3, 1> centre{from};
      const double radius = 0.05 * k;
      const auto swept = world.sweep({centre, radius, Core::point}, down * (5 * k), {});
      ASSERT_TRUE(swept) << told();
      EXPECT_NEAR(swept->distance * 5 * k, from.y - radius, 1e-6 * k) << told();
      const std::array<Ray, 3> rays{ray, Ray{from + Vec3{0, 0.1 * k, 0}, down, 5 * k}, ray};
      std::array<std::optional<Hit>, 3> hits;
      world.cast_all(rays, {}, hits);
      for (const auto& one : hits) ASSERT_TRUE(one) << told();
    }
  }
}

/// Touches know a cylinder with rounded edges, rays with sharp ones: a world's rays must not miss those.
TEST(StraightRays, AWorldMeetsTheSharpEdgeOfATiltedCylinder) {
  Random random(42);
  for (int i = 0; i < 4000; ++i) {
    const double k = std::pow(10, random.uniform(-2, 2));
    const double radius = k * random.uniform(0.1, 1), half = k * random.uniform(0.1, 1);
    const Cylinder cylinder{radius, half};
    const Pose pose = random.pose(3 * k), within = random.pose(k);
    const bool part = random.below(2);
    const Shape shape =
        part ? Shape(std::make_shared<Compound>(std::vector<Compound::Part>{{cylinder, within}})) : Shape(cylinder);
    World world;
    world.add({.shape = shape, .pose = pose});
    const double round = random.uniform(0, 2 * pi), inside = 1 - std::pow(10, random.uniform(-6, -1));
    const Vec3 edge{radius * inside * std::cos(round), half * inside, radius * inside * std::sin(round)};
    const Vec3 target = to_world(pose, part ? to_world(within, edge) : edge), direction = random.direction();
    const Ray ray{target - direction * (5 * k), direction, 10 * k};
    const auto alone = cast(ray, shape, pose);
    const auto hit = world.cast(ray, {});
    ASSERT_TRUE(alone) << i;
    ASSERT_TRUE(hit) << i;
    EXPECT_NEAR(hit->distance, alone->distance, 1e-9 * k) << i;
  }
}

}  // namespace
}  // namespace jugend::testing
