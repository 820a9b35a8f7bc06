// Rays, sweeps, overlaps and closest points on every kind of shape, against brute force and closed forms.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/shape/shape.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

/// Möller and Trumbore, J. Graphics Tools 2(1), 1997: another formula than the library's.
double ray_triangle(const Ray& ray, const std::array<Vec3, 3>& t) {
  const Vec3 e1 = t[1] - t[0], e2 = t[2] - t[0], p = cross(ray.direction, e2);
  const double det = dot(e1, p);
  const Vec3 s = ray.origin - t[0], q = cross(s, e1);
  const double u = dot(s, p) / det, v = dot(ray.direction, q) / det, d = dot(e2, q) / det;
  return u >= 0 && v >= 0 && u + v <= 1 && d >= 0 && d <= ray.length ? d : 1e300;
}

std::vector<std::array<Vec3, 3>> triangles_of(const MeshData& data) {
  std::vector<std::array<Vec3, 3>> all;
  for (const auto& t : data.triangles) all.push_back({data.vertices[t[0]], data.vertices[t[1]], data.vertices[t[2]]});
  return all;
}

MeshData soup(std::uint32_t triangles, bool single) {
  Random random(11);
  MeshData data;
  for (std::uint32_t i = 0; i < triangles; ++i) {
    const Vec3 at = random.point(8);
    for (int k = 0; k < 3; ++k) {
      Vec3 v = at + random.point(0.8);
      if (single)
        v = {static_cast<double>(static_cast<float>(v.x)), static_cast<double>(static_cast<float>(v.y)),
             static_cast<double>(static_cast<float>(v.z))};
      data.vertices.push_back(v);
    }
    data.triangles.push_back({3 * i, 3 * i + 1, 3 * i + 2});
  }
  return data;
}

TEST(Mesh, RaysHitWhatBruteForceHits) {
  for (const bool single : {true, false}) {
    const MeshData data = soup(1500, single);
    const auto triangles = triangles_of(data);
    const Mesh mesh(data);
    Random random(12);
    int hits = 0;
    for (int i = 0; i < 4000; ++i) {
      Ray ray{random.point(10), random.direction(), random.uniform(0.2, 25)};
      if (i % 5 == 0) ray.direction = {0, i % 2 ? 1.0 : -1.0, 0};
      double nearest = 1e300;
      for (const auto& t : triangles) nearest = std::min(nearest, ray_triangle(ray, t));
      const auto hit = mesh.cast(ray);
      ASSERT_EQ(hit.has_value(), nearest < 1e300) << i;
      if (!hit) continue;
      ++hits;
      ASSERT_NEAR(hit->distance, nearest, 1e-9) << i;
      ASSERT_LE(dot(hit->normal, ray.direction), 0);
      ASSERT_NEAR(ray_triangle(ray, mesh.triangle(hit->part)), nearest, 1e-9);
    }
    EXPECT_GT(hits, 500);
  }
}

TEST(Mesh, IsWatertightOnEdgesAndCorners) {
  const MeshData data = bumpy_mesh(20, 0.5, 1.0);
  const Mesh mesh(data);
  Random random(13);
  for (int i = 0; i < 20000; ++i) {
    // Aim exactly at inner corners and at points of edges between them.
    const std::uint32_t c = 1 + random.below(18), r = 1 + random.below(18);
    const Vec3 &a = data.vertices[c * 21 + r], &b = data.vertices[(c + 1) * 21 + r];
    const Vec3 at = a + (b - a) * (i % 3 == 0 ? 0 : random.uniform(0, 1));
    const Vec3 from = at + Vec3{random.uniform(-0.4, 0.4), 3, random.uniform(-0.4, 0.4)};
    const Vec3 way = at - from;
    ASSERT_TRUE(mesh.cast({from, normalised(way), norm(way) + 1})) << i;
  }
}

TEST(Mesh, RefusesWhatIsNoMesh) {
  MeshData data = bumpy_mesh(2, 1, 1);
  data.triangles[3][1] = 99;
  EXPECT_THROW(Mesh{data}, InputError);
  data = bumpy_mesh(2, 1, 1);
  data.vertices[2].y = std::nan("");
  EXPECT_THROW(Mesh{data}, InputError);
  EXPECT_THROW(Mesh{MeshData{}}, InputError);
}

TEST(Mesh, ManyTrianglesInOnePlaceStillMakeATree) {
  MeshData data;
  data.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 0, 1}};
  data.triangles.assign(5000, {0, 1, 2});
  const Mesh mesh(data);
  const auto hit = mesh.cast({{0.2, 1, 0.2}, {0, -1, 0}, 2});
  ASSERT_TRUE(hit);
  EXPECT_EQ(hit->part, 0u) << "of equals, the first";
}

/// Every kind of shape, for tests that hold of all.
std::vector<std::pair<Shape, Pose>> all_shapes() {
  Random random(21);
  std::vector<double> heights;
  for (int i = 0; i < 30 * 20; ++i) heights.push_back(random.uniform(0, 0.8));
  return {{Sphere{0.8}, random.pose(1)},
          {Capsule{0.4, 0.9}, random.pose(1)},
          {Box{{0.7, 0.3, 1.1}}, random.pose(1)},
          {std::make_shared<Mesh>(bumpy_mesh(14, 0.3, 0.6)), Pose{{-2, -0.3, -2}, rotation({0.2, 0.1, -0.3})}},
          {std::make_shared<HeightField>(30, 20, 0.2, heights), Pose{{-3, -0.4, -2}, rotation({-0.1, 0.3, 0.2})}},
          {std::make_shared<TileGrid>("..#..\n./##.\n#####\n", 0.8, 2.0), Pose{{-2, -1, 0}, rotation({0, 0.2, 0})}}};
}

TEST(Shape, RaysAgreeWithSweepsOfTinySpheres) {
  Random random(22);
  for (const auto& [shape, pose] : all_shapes()) {
    int hits = 0;
    for (int i = 0; i < 1500; ++i) {
      const Ray ray{random.point(4), random.direction(), random.uniform(1, 8)};
      const PlacedConvex dot_like(Sphere{1e-7}, Pose{ray.origin, {}});
      if (const auto near = closest(dot_like.view(), 0.01, shape, pose)) continue;  // starts in or at it
      const auto hit = cast(ray, shape, pose);
      const auto touch = sweep(dot_like.view(), ray.direction * ray.length, shape, pose);
      if (!hit) continue;  // past an edge a ray may miss where the little sphere does not
      ++hits;
      ASSERT_TRUE(touch) << shape.index();
      ASSERT_LT(touch->touch.fraction * ray.length, hit->distance + 1e-5) << shape.index();
      if (dot(hit->normal, ray.direction) < -0.1) {
        ASSERT_NEAR(touch->touch.fraction * ray.length, hit->distance, 1e-4) << shape.index();
      }
    }
    EXPECT_GT(hits, 10) << shape.index();
  }
}

TEST(Shape, SweepsStopWhereTheDistanceIsZero) {
  Random random(23);
  for (const auto& [shape, pose] : all_shapes()) {
    int touched = 0;
    for (int i = 0; i < scenes_of(1000); ++i) {
      const PlacedConvex mover = random.convex(4);
      std::array<PartSeparation, 1> one;
      if (overlaps(mover.view(), 1e-3, shape, pose, one) > 0) continue;
      const Vec3 motion = random.direction() * random.uniform(0.5, 6);
      const auto hit = sweep(mover.view(), motion, shape, pose);
      const double end = hit ? hit->touch.fraction : 1.0;
      for (int k = 0; k <= 8; ++k) {
        std::vector<Vec3> moved;
        for (const Vec3& p : mover.view().points) moved.push_back(p + motion * (end * k / 8));
        const auto near = closest({moved, mover.view().radius, mover.view().core}, 40, shape, pose);
        ASSERT_TRUE(near);
        ASSERT_GT(near->separation.distance, -1e-7) << shape.index() << " " << i;
        if (hit && k == 8) {
          ASSERT_NEAR(near->separation.distance, 0, 1e-7) << shape.index() << " " << i;
        }
      }
      touched += hit.has_value();
    }
    EXPECT_GT(touched, scenes_of(1000) / 100) << shape.index();
  }
}

TEST(Shape, OverlapsAreThePartsThatAreNoFartherThanTheMargin) {
  Random random(24);
  const MeshData data = bumpy_mesh(14, 0.3, 0.6);
  const Shape mesh = std::make_shared<Mesh>(data);
  const auto triangles = triangles_of(data);
  for (int i = 0; i < 300; ++i) {
    const PlacedConvex body(Capsule{random.uniform(0.1, 0.5), random.uniform(0, 0.5)},
                            Pose{Vec3{2, 0.5, 2} + random.point(2), {}});
    std::size_t expected = 0;
    for (const auto& t : triangles) expected += separation(body.view(), {t, 0, Core::triangle}).distance <= 0.05;
    std::array<PartSeparation, 8> out;
    EXPECT_EQ(overlaps(body.view(), 0.05, mesh, Pose{}, out), expected) << i;
  }
}

TEST(Shape, ClosestPointsByClosedForm) {
  const PlacedConvex point(Sphere{0}, Pose{{3, 0.5, 0}, {}});
  const auto on_box = closest(point.view(), 10, Box{{1, 1, 1}}, Pose{});
  ASSERT_TRUE(on_box);
  EXPECT_NEAR(on_box->separation.distance, 2, 1e-12);
  EXPECT_NEAR(norm(on_box->separation.point - Vec3{1, 0.5, 0}), 0, 1e-12);
  EXPECT_FALSE(closest(point.view(), 1.9, Box{{1, 1, 1}}, Pose{}));
  const auto on_field =
      closest(point.view(), 10, std::make_shared<HeightField>(11, 11, 1.0, std::vector<double>(121, 0.25)),
              Pose{{-5, 0, -5}, {}});
  ASSERT_TRUE(on_field);
  EXPECT_NEAR(on_field->separation.distance, 0.25, 1e-12);
}

TEST(Ray, SolidsByClosedForm) {
  const Ray down{{0.3, 5, 0}, {0, -1, 0}, 10};
  EXPECT_NEAR(cast(down, Sphere{1}, Pose{})->distance, 5 - std::sqrt(1 - 0.09), 1e-12);
  EXPECT_NEAR(cast(down, Capsule{0.5, 1}, Pose{})->distance, 5 - 1 - 0.4, 1e-12);
  EXPECT_NEAR(cast(down, Box{{1, 2, 1}}, Pose{})->distance, 3, 1e-12);
  EXPECT_EQ(cast(down, Box{{1, 2, 1}}, Pose{})->normal, (Vec3{0, 1, 0}));
  EXPECT_FALSE(cast({{0.3, 5, 0}, {0, -1, 0}, 2.9}, Box{{1, 2, 1}}, Pose{})) << "too short";
  EXPECT_FALSE(cast({{0.3, 5, 0}, {0, 1, 0}, 10}, Box{{1, 2, 1}}, Pose{})) << "away";
  const auto inside = cast({{0, 0, 0}, {1, 0, 0}, 10}, Box{{1, 2, 1}}, Pose{});
  ASSERT_TRUE(inside);
  EXPECT_EQ(inside->distance, 0);
}

TEST(HeightField, RaysHitWhatItsTrianglesHit) {
  Random random(31);
  std::vector<double> heights;
  for (int i = 0; i < 24 * 17; ++i) heights.push_back(random.uniform(-1, 1));
  const HeightField field(24, 17, 0.75, heights);
  int hits = 0;
  for (int i = 0; i < 6000; ++i) {
    const Vec3 from{random.uniform(-2, 20), random.uniform(-2, 3), random.uniform(-2, 14)};
    Ray ray{from, random.direction(), random.uniform(0.5, 30)};
    if (i % 3 == 0) ray.direction = {0, -1, 0};
    double nearest = 1e300;
    for (std::uint32_t part = 0; part < 23 * 16 * 2; ++part)
      nearest = std::min(nearest, ray_triangle(ray, field.triangle(part)));
    const auto hit = field.cast(ray);
    if (nearest < 1e300) {
      ASSERT_TRUE(hit) << i;
      ASSERT_NEAR(hit->distance, nearest, 1e-7) << i;
      ASSERT_LE(dot(hit->normal, ray.direction), 0);
      ++hits;
    } else if (hit) {
      // Only within rounding of a border.
      ASSERT_LT(norm(cross(ray.direction, hit->normal)), 1.0 + 1e-9);
      const Vec3 p = ray.origin + ray.direction * hit->distance;
      const bool at_border = p.x < 1e-6 || p.z < 1e-6 || p.x > 23 * 0.75 - 1e-6 || p.z > 16 * 0.75 - 1e-6 ||
                             hit->distance > ray.length - 1e-6;
      ASSERT_TRUE(at_border) << i;
    }
  }
  EXPECT_GT(hits, 1000);
  EXPECT_THROW(HeightField(1, 5, 1, std::vector<double>(5)), InputError);
  EXPECT_THROW(HeightField(2, 2, 0, std::vector<double>(4)), InputError);
  EXPECT_THROW(HeightField(2, 2, 1, std::vector<double>(3)), InputError);
}

TEST(TileGrid, MergesRunsAndRamps) {
  const TileGrid grid("....\\...\n/##..\\..\n########\n########\n", 0.5, 2);
  EXPECT_EQ(grid.part_count(), 5u)
      << "a ramp of two, a slope, a step down to the bottom, and the floor on both sides of it";
  EXPECT_NEAR(grid.bounds().high.x, 4, 1e-12);
  const auto down = grid.cast({{1.0, 3, 0}, {0, -1, 0}, 5});
  ASSERT_TRUE(down);
  EXPECT_NEAR(down->distance, 3 - 1.5, 1e-12);
  const auto ramp = grid.cast({{0.25, 3, 0}, {0, -1, 0}, 5});
  ASSERT_TRUE(ramp);
  EXPECT_NEAR(ramp->distance, 3 - 1.25, 1e-12);
  EXPECT_NEAR(ramp->normal.x, -std::sqrt(0.5), 1e-9);
  EXPECT_NEAR(ramp->normal.y, std::sqrt(0.5), 1e-9);
}

TEST(TileGrid, KnowsItsMarkersAndRefusesTheRest) {
  const TileGrid grid(".A.b\n####\n", 2, 2);
  ASSERT_EQ(grid.markers().size(), 2u);
  EXPECT_EQ(grid.markers()[0].name, 'A');
  EXPECT_EQ(grid.markers()[0].position, (Vec3{3, 2, 0}));
  EXPECT_THROW(TileGrid("A.A\n###", 1, 1), InputError);
  EXPECT_THROW(TileGrid("...\n", 1, 1), InputError);
  try {
    TileGrid("###\n#?#\n", 1, 1, "moor.map");
    FAIL();
  } catch (const InputError& error) {
    EXPECT_EQ(error.fault().place.line, 2u);
    EXPECT_EQ(error.fault().place.column, 2u);
  }
}

TEST(Shape, RefusesSizesThatAreNone) {
  EXPECT_THROW(check(Sphere{0}), InputError);
  EXPECT_THROW(check(Capsule{0.3, -1}), InputError);
  EXPECT_THROW(check(Box{{1, std::nan(""), 1}}), InputError);
  EXPECT_THROW(check(Shape(MeshRef{})), InputError);
  EXPECT_NO_THROW(check(Capsule{0.3, 0}));
}

}  // namespace
}  // namespace jugend::testing
