// Distances, depths and touches of convex bodies, against closed forms and against their own certificates.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/shape/convex.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

double lowest(const Convex& body, const Vec3& n) {
  double low = 1e300;
  for (const Vec3& p : body.points) low = std::min(low, dot(n, p));
  return low - body.radius;
}
double highest(const Convex& body, const Vec3& n) { return -lowest(body, -n); }

TEST(Convex, SpheresAndCapsulesByClosedForm) {
  const PlacedConvex a(Sphere{0.5}, Pose{{3, 0, 0}, {}}), b(Sphere{0.25}, Pose{{0, 4, 0}, {}});
  EXPECT_NEAR(separation(a.view(), b.view()).distance, 5 - 0.75, 1e-12);
  const PlacedConvex upright(Capsule{0.3, 1}, Pose{});
  EXPECT_NEAR(separation(a.view(), upright.view()).distance, 3 - 0.8, 1e-12);
  const PlacedConvex beside(Sphere{0.1}, Pose{{0.2, 0.7, 0}, {}});
  EXPECT_NEAR(separation(beside.view(), upright.view()).distance, 0.2 - 0.4, 1e-12);
}

TEST(Convex, DepthOfABoxInABoxIsItsShortestWayOut) {
  const PlacedConvex floor(Box{{5, 1, 5}}, Pose{});
  const PlacedConvex crate(Box{{0.5, 0.5, 0.5}}, Pose{{1, 1.3, 2}, {}});
  const Separation s = separation(crate.view(), floor.view());
  EXPECT_NEAR(s.distance, -0.2, 1e-12);
  EXPECT_NEAR(s.normal.y, 1, 1e-12);
  EXPECT_NEAR(s.point.y, 1, 1e-12);
}

TEST(Convex, DistancesProveThemselves) {
  // A plane across the normal parts the bodies by the distance, and the points are that far apart: no
  // other answer can be right.
  Random random(1);
  int apart = 0, inside = 0;
  for (int i = 0; i < 20000; ++i) {
    const PlacedConvex a = random.convex(1.2), b = random.convex(1.2);
    const Separation s = separation(a.view(), b.view());
    ASSERT_NEAR(norm(s.normal), 1, 1e-9);
    const double parted = lowest(a.view(), s.normal) - highest(b.view(), s.normal);
    ASSERT_NEAR(parted, s.distance, 1e-8) << i;
    (s.distance > 0 ? apart : inside) += 1;
    if (s.distance > 0) continue;
    // Deep: moved out along the normal they touch, and along no tried direction is the way out shorter.
    for (int k = 0; k < 12; ++k) {
      const Vec3 n = random.direction();
      ASSERT_LE(lowest(a.view(), n) - highest(b.view(), n), s.distance + 1e-8) << i;
    }
  }
  EXPECT_GT(apart, 1000);
  EXPECT_GT(inside, 1000);
}

TEST(Convex, TouchesAreWhereTheDistanceIsZero) {
  Random random(2);
  int touched = 0;
  for (int i = 0; i < 10000; ++i) {
    const PlacedConvex a = random.convex(1.5), b = random.convex(1.5);
    if (separation(a.view(), b.view()).distance < 1e-3) continue;
    const Vec3 motion = random.direction() * random.uniform(0.1, 4);
    const auto touch = first_touch(a.view(), motion, b.view());
    const auto at = [&](double t) {
      std::vector<Vec3> moved;
      for (const Vec3& p : a.view().points) moved.push_back(p + motion * t);
      return separation({moved, a.view().radius, a.view().core}, b.view()).distance;
    };
    if (!touch) {
      for (int k = 0; k <= 20; ++k) ASSERT_GT(at(k / 20.0), -1e-8) << i;
      continue;
    }
    ++touched;
    ASSERT_NEAR(at(touch->fraction), 0, 2e-8) << i;
    for (int k = 0; k < 10; ++k) ASSERT_GT(at(touch->fraction * k / 10.0), -1e-8) << i;
    ASSERT_LT(dot(touch->normal, motion), 0) << i;
  }
  EXPECT_GT(touched, 400);
}

TEST(Convex, ATouchingBodyIsHeldOnlyByMotionThatGoesIn) {
  const PlacedConvex floor(Box{{5, 1, 5}}, Pose{});
  const PlacedConvex ball(Sphere{0.5}, Pose{{0, 1.5, 0}, {}});
  EXPECT_FALSE(first_touch(ball.view(), {0, 1, 0}, floor.view())) << "take-off";
  EXPECT_FALSE(first_touch(ball.view(), {1, 0, 0}, floor.view())) << "sliding";
  const auto pressed = first_touch(ball.view(), {1, -0.1, 0}, floor.view());
  ASSERT_TRUE(pressed);
  EXPECT_EQ(pressed->fraction, 0);
  const PlacedConvex sunk(Sphere{0.5}, Pose{{0, 1.2, 0}, {}});
  EXPECT_FALSE(first_touch(sunk.view(), {0.3, 0.2, 0}, floor.view())) << "leaving from inside";
  ASSERT_TRUE(first_touch(sunk.view(), {0.3, -0.2, 0}, floor.view()));
}

TEST(Convex, FlatMeetingsOfBoxesHaveFlatNormals) {
  const PlacedConvex left(Box{{1, 0.5, 1}}, Pose{{-1, -0.5, 0}, {}}), right(Box{{1, 0.5, 1}}, Pose{{1, -0.5, 0}, {}});
  const PlacedConvex crate(Box{{0.4, 0.4, 0.4}}, Pose{{0, 1, 0}, {}});
  for (const PlacedConvex& side : {left, right}) {
    const auto touch = first_touch(crate.view(), {0.2, -2, 0}, side.view());
    ASSERT_TRUE(touch);
    EXPECT_NEAR(touch->normal.y, 1, 1e-6);
    EXPECT_NEAR(touch->fraction, 0.3, 1e-8);
  }
}

}  // namespace
}  // namespace jugend::testing
