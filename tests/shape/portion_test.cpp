// How much of a solid lies within a box: against closed forms, against counting, and so that parts make the whole.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/mass.hpp>
#include <jugend/shape/portion.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

Shape any_solid(Random& random) {
  const auto size = [&] { return random.uniform(0.1, 0.8); };
  const double a = size(), b = size(), c = size();
  switch (random.below(6)) {
    case 0: return Sphere{a};
    case 1: return Capsule{a, random.below(4) == 0 ? 0 : b};
    case 2: return Box{{a, b, c}};
    case 3: return Cylinder{a, b};
    case 4: {
      std::vector<Vec3> points;
      for (int i = 0; i < 12; ++i) points.push_back(random.point(0.8));
      return std::make_shared<Hull>(points);
    }
    default: break;
  }
  return std::make_shared<Compound>(std::vector<Compound::Part>{
      {Box{{a, b, c}}, random.pose(0.4)}, {Sphere{b}, random.pose(0.4)}, {Cylinder{c, a}, random.pose(0.4)}});
}

/// Half of the time level, upright or on edge: where faces lie along the box's.
Pose any_pose(Random& random) {
  Pose pose = random.pose(1);
  if (random.below(2)) pose.orientation = rotation(Vec3{0, 0, pi / 2} * random.below(3));
  return pose;
}

/// Beyond a plane x = `at`, in an endless box.
Portion beyond(const Shape& shape, Pose pose, double at) {
  pose.position.x -= at + 1000;
  return within_box(shape, pose, {1000, 1000, 1000});
}

TEST(Portion, BothSidesOfAPlaneMakeTheWhole) {
  Random random(71);
  const Quat about = rotation({0, pi, 0});
  for (int i = 0; i < 3000; ++i) {
    const Shape shape = any_solid(random);
    const Pose pose = any_pose(random);
    const auto whole = mass_properties(shape, 1);
    const double at = random.uniform(-1.5, 1.5);
    const Portion one = beyond(shape, pose, at);
    Portion other = beyond(shape, to_world(Pose{{}, about}, pose), -at);
    other.centre = rotate(about, other.centre + Vec3{-at + 1000, 0, 0});
    const Vec3 centre_one = one.centre + Vec3{at + 1000, 0, 0}, centre = to_world(pose, whole->centre);
    ASSERT_NEAR(one.volume + other.volume, whole->mass, 1e-6 * whole->mass) << i << " shape " << shape.index();
    ASSERT_LT(norm(centre_one * one.volume + other.centre * other.volume - centre * whole->mass), 2e-6 * whole->mass)
        << i << " shape " << shape.index();
  }
}

TEST(Portion, EightBoxesRoundAPointMakeTheWhole) {
  Random random(72);
  for (int i = 0; i < 1000; ++i) {
    const Shape shape = any_solid(random);
    const Pose pose = any_pose(random);
    const auto whole = mass_properties(shape, 1);
    double volume = 0;
    Vec3 moment;
    for (int corner = 0; corner < 8; ++corner) {
      const Vec3 middle{corner & 1 ? 3.0 : -3.0, corner & 2 ? 3.0 : -3.0, corner & 4 ? 3.0 : -3.0};
      const Portion part = within_box(shape, {pose.position - middle, pose.orientation}, {3, 3, 3});
      volume += part.volume, moment += (part.centre + middle) * part.volume;
    }
    ASSERT_NEAR(volume, whole->mass, 1e-3 * whole->mass) << i << " shape " << shape.index();
    ASSERT_LT(norm(moment - to_world(pose, whole->centre) * whole->mass), 4e-3 * whole->mass) << i;
  }
}

/// By counting: a point in each cell of a fine grid, where it lies in both.
TEST(Portion, IsWhatCountingGives) {
  Random random(73);
  for (int i = 0; i < 60; ++i) {
    Shape shape = any_solid(random);
    while (shape.index() > Shape(HullRef{}).index()) shape = any_solid(random);
    const Pose pose = any_pose(random);
    const Vec3 half{random.uniform(0.2, 1.5), random.uniform(0.2, 1.5), random.uniform(0.2, 1.5)};
    const Bounds box = bounds(shape, pose);
    constexpr int n = 32;
    const Vec3 cell = box.half_extents() * (2.0 / n);
    std::size_t inside = 0;
    for (int x = 0; x < n; ++x) {
      for (int y = 0; y < n; ++y) {
        for (int z = 0; z < n; ++z) {
          const Vec3 at = Vec3{0.5 + x, 0.5 + y, 0.5 + z} + random.point(0.5),
                     p = box.low + Vec3{cell.x * at.x, cell.y * at.y, cell.z * at.z};
          if (std::abs(p.x) > half.x || std::abs(p.y) > half.y || std::abs(p.z) > half.z) continue;
          const auto nearest = closest(PlacedConvex(Sphere{0}, {p, {}}).view(), 1, shape, pose);
          inside += nearest && nearest->separation.distance <= 0;
        }
      }
    }
    const double counted = static_cast<double>(inside) * cell.x * cell.y * cell.z;
    EXPECT_NEAR(within_box(shape, pose, half).volume, counted, 0.015 * mass_properties(shape, 1)->mass)
        << i << " shape " << shape.index();
  }
}

TEST(Portion, AFlushFaceCountsOnceAndSheetsHaveNone) {
  for (const double nudge : {-1e-15, 0.0, 1e-15}) {
    const Portion flush = within_box(Box{{0.5, 0.5, 0.5}}, {{0.5 + nudge, 0.5, 0.2}, {}}, {1, 1, 1});
    EXPECT_NEAR(flush.volume, 1, 1e-12);
    EXPECT_LT(norm(flush.centre - Vec3{0.5, 0.5, 0.2}), 1e-9);
    const Portion half = within_box(Box{{0.5, 0.5, 0.5}}, {{0.5 + nudge, 1, 0.2}, {}}, {1, 1, 1});
    EXPECT_NEAR(half.volume, 0.5, 1e-12);
  }
  EXPECT_EQ(within_box(std::make_shared<Mesh>(bumpy_mesh(4, 0.5, 0.2)), {}, {1, 1, 1}).volume, 0);
}

}  // namespace
}  // namespace jugend::testing
