// Cylinders, hulls and compounds; volume, centre and inertia of solids.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/shape/manifold.hpp>
#include <jugend/shape/mass.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double pi = 3.14159265358979323846;

std::vector<Vec3> box_points(const Vec3& h) {
  std::vector<Vec3> points;
  for (int i = 0; i < 8; ++i) points.push_back({i & 1 ? h.x : -h.x, i & 2 ? h.y : -h.y, i & 4 ? h.z : -h.z});
  return points;
}

double size_of(const Sym3& m) {
  return std::sqrt(m.xx * m.xx + m.yy * m.yy + m.zz * m.zz + 2 * (m.xy * m.xy + m.xz * m.xz + m.yz * m.yz));
}

TEST(Solid, AHullOfABoxIsTheBox) {
  std::vector<Vec3> points = box_points({0.5, 0.2, 0.9});
  Random random(4);
  for (int i = 0; i < 200; ++i)
    points.push_back({random.uniform(-0.5, 0.5), random.uniform(-0.2, 0.2), random.uniform(-0.9, 0.9)});
  points.push_back({0.5, 0, 0});    // in a face
  points.push_back({0.5, 0.2, 0});  // on an edge
  const Hull hull(points);
  EXPECT_EQ(hull.corners().size(), 8u);
  EXPECT_EQ(hull.facets().face_count(), 6u);
  EXPECT_EQ(hull.facets().edges.size(), 12u);
  EXPECT_EQ(hull.facets().distinct_faces.size(), 3u);
  EXPECT_EQ(hull.facets().distinct_edges.size(), 3u);
  const auto as_hull = mass_properties(std::make_shared<Hull>(points), 700),
             as_box = mass_properties(Box{{0.5, 0.2, 0.9}}, 700);
  EXPECT_NEAR(as_hull->mass, as_box->mass, 1e-9 * as_box->mass);
  EXPECT_LT(size_of(as_hull->inertia + as_box->inertia * -1), 1e-9 * size_of(as_box->inertia));
  EXPECT_LT(norm(as_hull->centre), 1e-12);
}

TEST(Solid, HullsOfRandomPointsHoldThemAllAndAreClosed) {
  Random random(6);
  for (int round = 0; round < 200; ++round) {
    std::vector<Vec3> points;
    for (int i = 0; i < 4 + round % 30; ++i) points.push_back(random.point(1));
    const Hull hull(points);
    for (std::size_t f = 0; f < hull.facets().face_count(); ++f) {
      const auto loop = hull.facets().face(f);
      const auto p = hull.corners();
      const Vec3 n = normalised(cross(p[loop[1]] - p[loop[0]], p[loop[2]] - p[loop[0]]));
      for (const Vec3& point : points) ASSERT_LT(dot(point - p[loop[0]], n), 1e-6);
    }
    // Euler: corners - edges + faces = 2.
    EXPECT_EQ(hull.corners().size() + hull.facets().face_count(), hull.facets().edges.size() + 2) << round;
  }
}

TEST(Solid, FlatOrTooFineHullsAreRefused) {
  EXPECT_THROW(Hull(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}), InputError);
  EXPECT_THROW(Hull(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}}), InputError);
  EXPECT_THROW(Hull(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {NAN, 1, 2}}), InputError);
  std::vector<Vec3> ball;
  Random random(1);
  for (int i = 0; i < 300; ++i) ball.push_back(random.direction());
  EXPECT_THROW(Hull{ball}, InputError);
  EXPECT_THROW(Compound({}), InputError);
}

TEST(Solid, MassesByClosedForm) {
  const auto ball = mass_properties(Sphere{0.3}, 1000);
  EXPECT_NEAR(ball->mass, 1000 * 4.0 / 3 * pi * 0.027, 1e-9);
  EXPECT_NEAR(ball->inertia.xx, 0.4 * ball->mass * 0.09, 1e-12);
  const auto rod = mass_properties(Cylinder{0.2, 0.7}, 500);
  EXPECT_NEAR(rod->inertia.yy, 0.5 * rod->mass * 0.04, 1e-12);
  EXPECT_NEAR(rod->inertia.xx, rod->mass * (3 * 0.04 + 1.96) / 12, 1e-9);
  const auto pill = mass_properties(Capsule{0.2, 0}, 500), same = mass_properties(Sphere{0.2}, 500);
  EXPECT_LT(size_of(pill->inertia + same->inertia * -1), 1e-12) << "a capsule of no length is a ball";
  // Two half boxes side by side are the whole one.
  const auto halves =
      mass_properties(std::make_shared<Compound>(std::vector<Compound::Part>{{Box{{0.25, 0.2, 0.3}}, {{0.5, 1, 0}, {}}},
                                                                             {Box{{0.25, 0.2, 0.3}}, {{1, 1, 0}, {}}}}),
                      400);
  const auto whole = mass_properties(Box{{0.5, 0.2, 0.3}}, 400);
  EXPECT_NEAR(halves->mass, whole->mass, 1e-9);
  EXPECT_LT(norm(halves->centre - Vec3{0.75, 1, 0}), 1e-12);
  EXPECT_LT(size_of(halves->inertia + whole->inertia * -1), 1e-9);
  EXPECT_FALSE(mass_properties(std::make_shared<Mesh>(bumpy_mesh(2, 1, 0)), 400));
}

TEST(Solid, AnyInertiaIsItsPrincipalMomentsTurned) {
  Random random(12);
  for (int i = 0; i < 3000; ++i) {
    const double spread = std::pow(10, random.uniform(0, 6)), middle = random.uniform(0.6, 1) * spread;
    const Vec3 moments{1, i % 3 == 0 ? 1 : middle, i % 5 == 0 ? middle : spread};
    const Sym3 m = turned_diagonal(random.pose(1).orientation, moments);
    const auto [found, axes] = principal_axes(m);
    EXPECT_LT(size_of(m + turned_diagonal(axes, found) * -1), 3e-12 * size_of(m)) << i;
    std::array<double, 3> a{found.x, found.y, found.z}, b{moments.x, moments.y, moments.z};
    std::ranges::sort(a), std::ranges::sort(b);
    for (std::size_t k = 0; k < 3; ++k) EXPECT_NEAR(a[k], b[k], 3e-12 * size_of(m)) << i;
  }
  const auto [found, axes] = principal_axes({3, 2, 1});
  EXPECT_EQ(axes, Quat{}) << "as it lies";
  EXPECT_EQ(found, (Vec3{3, 2, 1}));
}

TEST(Solid, CapsuleInertiaBySampling) {
  Random random(9);
  const Capsule capsule{0.3, 0.5};
  double count = 0, xx = 0, yy = 0;
  for (int i = 0; i < 400000; ++i) {
    const Vec3 p{random.uniform(-0.3, 0.3), random.uniform(-0.8, 0.8), random.uniform(-0.3, 0.3)};
    const double y = std::max(0.0, std::abs(p.y) - 0.5);
    if (p.x * p.x + y * y + p.z * p.z > 0.09) continue;
    ++count, xx += p.y * p.y + p.z * p.z, yy += p.x * p.x + p.z * p.z;
  }
  const auto m = mass_properties(capsule, 1);
  EXPECT_NEAR(m->inertia.xx / m->mass, xx / count, 0.01 * xx / count);
  EXPECT_NEAR(m->inertia.yy / m->mass, yy / count, 0.01 * yy / count);
}

TEST(Solid, RaysOnCylindersAndHullsAgreeWithSweptPoints) {
  Random random(12);
  const std::vector<Shape> shapes{
      Cylinder{0.4, 0.7}, std::make_shared<Hull>(box_points({0.3, 0.5, 0.4})),
      std::make_shared<Compound>(std::vector<Compound::Part>{{Cylinder{0.3, 0.2}, {{0.4, 0, 0}, rotation({0, 0, 1})}},
                                                             {Sphere{0.3}, {{-0.4, 0.1, 0}, {}}}})};
  int hits = 0, only_one = 0;
  for (int i = 0; i < 6000; ++i) {
    const Shape& shape = shapes[static_cast<std::size_t>(i % 3)];
    const Pose pose = random.pose(1);
    const Vec3 from = random.point(3), aim = pose.position + random.point(0.5), way = normalised(aim - from);
    const auto hit = cast({from, way, 5}, shape, pose);
    const PlacedConvex point(Sphere{1e-7}, Pose{from, {}});
    const auto swept = sweep(point.view(), way * 5.0, shape, pose);
    if (hit && hit->distance == 0) continue;
    // A cylinder's rim is rounded for sweeps, so that a few that graze it hit by one and not, or only what lies behind
    // it, by the other.
    if (hit.has_value() != swept.has_value() || (hit && hit->distance < swept->touch.fraction * 5 - 0.02)) {
      ++only_one;
      continue;
    }
    if (!hit) continue;
    ++hits;
    EXPECT_LT(swept->touch.fraction * 5, hit->distance + 0.02);
  }
  EXPECT_GT(hits, 3000);
  EXPECT_LT(only_one, hits / 100);
}

TEST(Solid, ManifoldsHoldThatWhichLiesFlatByFourPoints) {
  const PlacedConvex floor(Box{{5, 1, 5}}, Pose{{0, -1, 0}, {}});
  const Hull wedge(std::vector<Vec3>{{-0.3, 0, -0.3}, {0.3, 0, -0.3}, {-0.3, 0, 0.3}, {0.3, 0, 0.3}, {0, 0.6, 0}});
  for (const double gap : {-1e-3, 0.0, 1e-3}) {
    for (const ConvexShape& shape : {ConvexShape(Box{{0.3, 0.3, 0.3}}), ConvexShape(Cylinder{0.3, 0.3}),
                                     ConvexShape(std::make_shared<Hull>(wedge))}) {
      const bool is_hull = shape.index() == 4;
      const PlacedConvex body = placed(shape, Pose{{0.2, is_hull ? gap : 0.3 + gap, 0.1}, rotation({0, 0.4, 0})});
      Manifold m;
      ASSERT_TRUE(collide(body.view(), floor.view(), 0.01, m));
      EXPECT_EQ(m.points.size(), 4u);
      EXPECT_NEAR(m.normal.y, 1, 1e-9);
      for (const ManifoldPoint& p : m.points) EXPECT_NEAR(p.separation, gap, 1e-9);
      Manifold other;
      ASSERT_TRUE(collide(floor.view(), body.view(), 0.01, other));
      EXPECT_NEAR(other.normal.y, -1, 1e-9);
      EXPECT_EQ(other.points.size(), 4u);
    }
  }
}

/// An upright capsule a little beside a wall's end, whichever way the wall is turned: the nearest points are two whole
/// lines, and the contact must hold both ends of what they share.
TEST(Solid, ACapsuleTouchesAnUprightEdgeAlongAllOfIt) {
  Random random(31);
  for (int i = 0; i < 2000; ++i) {
    const double angle = random.uniform(-0.2, 0.2), gap = random.uniform(-0.02, 0.1), tall = random.uniform(0.3, 3);
    const double middle = random.uniform(-0.2, 0.2);
    const Vec3 corner{-0.5, 0, -0.5}, away = normalised(Vec3{-std::cos(angle), 0, -std::sin(std::abs(angle))});
    const PlacedConvex wall(Box{{0.5, tall, 0.5}}, Pose{});
    const PlacedConvex body(Capsule{0.3, 0.4}, Pose{corner + away * (0.3 + gap) + Vec3{0, middle, 0}, {}});
    Manifold m;
    ASSERT_TRUE(collide(body.view(), wall.view(), 0.2, m)) << i;
    ASSERT_EQ(m.points.size(), 2u) << i << " at " << angle;
    const double low = std::max(middle - 0.4, -tall), high = std::min(middle + 0.4, tall);
    EXPECT_NEAR(std::min(m.points[0].point.y, m.points[1].point.y), low, 1e-6) << i;
    EXPECT_NEAR(std::max(m.points[0].point.y, m.points[1].point.y), high, 1e-6) << i;
    for (const ManifoldPoint& p : m.points) EXPECT_NEAR(p.separation, gap, 1e-6) << i;
  }
}

}  // namespace
}  // namespace jugend::testing
