// Smoothing, curves, roots, tunables and errors.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/curve.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/walker/walker.hpp>

#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

TEST(Smoothing, HalvesByItsHalfLifeAtEveryRate) {
  for (const double hz : rates) {
    for (const double half_life : {0.05, 0.4, 2.0}) {
      double x = 7;
      const int ticks = static_cast<int>(hz * 1.5);
      for (int i = 0; i < ticks; ++i) x = smoothed(x, 3.0, half_life, 1 / hz);
      const double left = 4 * std::exp2(-ticks / hz / half_life);
      EXPECT_NEAR(x - 3, left, 1e-3 * left);
    }
  }
  EXPECT_EQ(smoothed(1.0, 2.0, 0.0, 0.01), 2.0);
}

TEST(Smoothing, DragDecaysExactlyAtEveryRate) {
  for (const double hz : rates) {
    Vec3 v{3, -4, 1}, x;
    const int ticks = static_cast<int>(2 * hz);
    for (int i = 0; i < ticks; ++i) {
      x += dragged_way(v, 0.8, 1 / hz);
      v = dragged(v, 0.8, 1 / hz);
    }
    const double t = ticks / hz;
    EXPECT_NEAR(norm(v - Vec3{3, -4, 1} * std::exp(-0.8 * t)), 0, 1e-9);
    EXPECT_NEAR(norm(x - Vec3{3, -4, 1} * ((1 - std::exp(-0.8 * t)) / 0.8)), 0, 1e-9);
  }
  EXPECT_EQ(dragged_way(2.0, 0.0, 0.5), 1.0);
}

TEST(Curve, GoesThroughItsPointsAndNeverBeyondThem) {
  Random random(6);
  for (int round = 0; round < 300; ++round) {
    std::vector<Curve::Point> points;
    double x = random.uniform(-5, 5);
    for (std::uint32_t i = 0; i < 2 + random.below(8); ++i) {
      points.push_back({x, random.uniform(-3, 3)});
      x += random.uniform(0.01, 2);
    }
    const Curve curve(points);
    for (const auto& p : points) ASSERT_NEAR(curve.value(p.x), p.y, 1e-12);
    for (std::size_t i = 0; i + 1 < points.size(); ++i) {
      const auto [low, high] = std::minmax(points[i].y, points[i + 1].y);
      double before = points[i].y;
      for (int k = 1; k <= 50; ++k) {
        const double y = curve.value(points[i].x + (points[i + 1].x - points[i].x) * k / 50);
        ASSERT_GE(y, low - 1e-12);
        ASSERT_LE(y, high + 1e-12);
        ASSERT_GE((y - before) * (points[i + 1].y - points[i].y), -1e-12) << "monotone between points";
        before = y;
      }
    }
    // The slope is the derivative, and continuous.
    for (int k = 0; k < 40; ++k) {
      const double at = random.uniform(points.front().x + 1e-4, points.back().x - 1e-4);
      const double h = 1e-6, difference = (curve.value(at + h) - curve.value(at - h)) / (2 * h);
      ASSERT_NEAR(curve.slope(at), difference, 1e-3 * (1 + std::abs(difference)));
    }
  }
}

TEST(Curve, EndsHoldOrExtend) {
  const Curve held({{0, 1}, {1, 3}}), extended({{0, 1}, {1, 3}}, CurveEnds::extend), single({{2, 5}});
  EXPECT_EQ(held.value(-4), 1);
  EXPECT_EQ(held.value(9), 3);
  EXPECT_NEAR(extended.value(3), 7, 1e-12);
  EXPECT_NEAR(extended.value(-1), -1, 1e-12);
  EXPECT_NEAR(extended.value(0.5), 2, 1e-12);
  EXPECT_EQ(single.value(7), 5);
  EXPECT_EQ(single.slope(2), 0);
  EXPECT_THROW(Curve({}), InputError);
  EXPECT_THROW(Curve({{1, 0}, {1, 2}}), InputError);
  EXPECT_THROW(Curve({{0, std::nan("")}}), InputError);
}

TEST(Roots, SurviveCancellation) {
  const QuadraticRoots r = quadratic_roots(1, -1e8, 1);
  ASSERT_EQ(r.count, 2);
  EXPECT_NEAR(r.first, 1e-8, 1e-22);
  EXPECT_NEAR(r.second, 1e8, 1e-6);
  EXPECT_EQ(quadratic_roots(1, 0, 1).count, 0);
  EXPECT_NEAR(first_root_within(0, 2, -3, 5), 1.5, 1e-15);
  EXPECT_TRUE(std::isnan(first_root_within(0, 2, -30, 5)));
}

TEST(Vec, RotationsTurnAndCompose) {
  Random random(8);
  for (int i = 0; i < 200; ++i) {
    const Vec3 v = random.point(3), axis = random.direction(), r = axis * random.uniform(0, 3);
    // Rodrigues' formula.
    const double angle = norm(r), c = std::cos(angle), s = std::sin(angle);
    const Vec3 k = r / angle, turned = v * c + cross(k, v) * s + k * (dot(k, v) * (1 - c));
    EXPECT_NEAR(norm(rotate(rotation(r), v) - turned), 0, 1e-12);
    const Pose p = random.pose(3), q = random.pose(3);
    EXPECT_NEAR(norm(to_world(to_world(p, q), v) - to_world(p, to_world(q, v))), 0, 1e-12);
    EXPECT_NEAR(norm(to_local(p, to_world(p, v)) - v), 0, 1e-12);
  }
}

TEST(Text, NumbersReadBackToTheSameBitsAndAsPeopleWriteThem) {
  EXPECT_EQ(filled("{} of {} wheels", 3, std::size_t{4}), "3 of 4 wheels");
  EXPECT_EQ(filled("'{}' and {}", std::string("a{}b"), 'c'), "'a{}b' and c") << "a part is no pattern";
  EXPECT_EQ(filled("{} {} {} {} {}", 1.0, 0.1, 100000.0, 1e-5, 1e20), "1 0.1 100000 1e-05 1e+20");
  EXPECT_EQ(filled("{} {}", -0.0, std::numeric_limits<double>::infinity()), "-0 inf");
  EXPECT_EQ(as_text(1.0 / 3), "0.333333333333");
  EXPECT_EQ(as_text(1234.5678, 3), "1.23e+03");
  Random random(4);
  for (int i = 0; i < 10000; ++i) {
    const double exponent = random.uniform(-300, 300), value = random.uniform(-1, 1) * std::pow(10, exponent);
    EXPECT_EQ(std::stod(filled("{}", value)), value);
  }
}

TEST(Tunable, EveryOneReadsWritesAndRefuses) {
  for (const Tunable& t : walker_tunables()) {
    WalkerTuning tuning;
    const double standard = t.read(&tuning);
    EXPECT_GE(standard, t.low) << t.key;
    EXPECT_LE(standard, t.high) << t.key;
    EXPECT_FALSE(t.help.empty() || t.unit.empty()) << t.key;
    const bool number = t.type == TunableType::number;
    const double other = number ? t.low + 0.25 * (std::min(t.high, 10.0) - t.low) : std::floor(0.6 * t.high);
    t.write(&tuning, other);
    EXPECT_NEAR(t.read(&tuning), other, 1e-12 * (1 + other)) << t.key;
    EXPECT_THROW(t.write(&tuning, t.high * 1.01 + 1), InputError) << t.key;
    EXPECT_THROW(t.write(&tuning, t.low - 0.5), InputError) << t.key;
    EXPECT_THROW(t.write(&tuning, std::nan("")), InputError) << t.key;
    if (!number) {
      EXPECT_THROW(t.write(&tuning, t.low + 0.3), InputError) << "a fraction of " << t.key;
    }
    EXPECT_EQ(t.parse(t.shown(other)), number ? std::stod(as_text(other)) : other) << t.key;
    EXPECT_NEAR(t.read(&tuning), other, 1e-12 * (1 + other)) << "kept " << t.key;
  }
}

TEST(Error, NamesTheNearest) {
  WalkerTuning tuning;
  const std::vector<std::string> names = keys(walker_tunables(), &tuning);
  EXPECT_EQ(nearest_name("jump.heigth", names), "jump.height");
  EXPECT_EQ(nearest_name("top_sped", names), "run.top_speed");
  EXPECT_EQ(nearest_name("qqqqqqqq", names), "");
  const InputError error({{"a.toml", 3, 7}, "jump.heigth", "a key that is not known", "a tunable", "jump.height"});
  EXPECT_STREQ(error.what(),
               "a.toml:3:7: jump.heigth: found a key that is not known; allowed: a tunable; nearest: jump.height");
}

}  // namespace
}  // namespace jugend::testing
