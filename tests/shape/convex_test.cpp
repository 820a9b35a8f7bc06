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

/// Edges and an axis side by side: the nearest points are any along them.
TEST(Convex, UprightBoxesMeetUprightCapsulesAsRectanglesMeetCircles) {
  Random random(8);
  for (int i = 0; i < 20000; ++i) {
    const double k = std::pow(10, random.uniform(-2, 1)), radius = k * random.uniform(0.02, 1);
    const Vec3 half{k * random.uniform(0.01, 1), k * random.uniform(0.01, 1), k * random.uniform(0.01, 1)};
    const double angle = random.below(2) == 0 ? 0.5 * pi * random.below(4) : random.uniform(0, 2 * pi);
    const Vec3 along{std::cos(angle), 0, std::sin(angle)}, aside{-along.z, 0, along.x};
    const double beside = random.uniform(-1, 1) * (radius + norm(half));
    const Vec3 start = aside * beside - along * (radius + 2 * norm(half) + k) + Vec3{0, random.uniform(-1, 1) * k, 0};
    const Vec3 motion = along * (6 * (radius + norm(half) + k));
    const auto apart = [&](double t) {
      const Vec3 at = start + motion * t;
      return std::hypot(std::max(0.0, std::abs(at.x) - half.x), std::max(0.0, std::abs(at.z) - half.z)) - radius;
    };
    // Nearest where it comes by the middle or a corner: as near as a fine search tells, and from there back.
    double nearest = 0;
    for (int step = 0; step <= 600; ++step) nearest = apart(step / 600.0) < apart(nearest) ? step / 600.0 : nearest;
    if (std::abs(apart(nearest)) < 1e-3 * k) continue;  // it grazes
    const PlacedConvex box(Box{half}, Pose{start, {}}), capsule(Capsule{radius, 3 * k}, Pose{});
    const auto touch = first_touch(box.view(), motion, capsule.view());
    ASSERT_EQ(touch.has_value(), apart(nearest) < 0) << i;
    if (!touch) continue;
    double before = 0, after = nearest;
    for (int halving = 0; halving < 60; ++halving) {
      const double middle = 0.5 * (before + after);
      (apart(middle) > 0 ? before : after) = middle;
    }
    EXPECT_NEAR(touch->fraction, before, 1e-6) << i;
  }
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
