// Boats: closed forms of way, of coasting and of the rudder's force, currents, water that ends, all at any rate.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/boat/boat.hpp>
#include <jugend/world/world.hpp>
#include <optional>

#include "../support/any_value.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};

struct Basin {
  World world;
  BodyId body{};
  std::optional<Boat> boat;
  double hz = 60;

  explicit Basin(const BoatTuning& tuning, double rate, const Vec3& flow = {}, const Vec3& velocity = {},
                 std::uint8_t locks = 0)
      : hz(rate) {
    world.add_pool({.half_extents = {900, 10, 900}, .pose = {{0, -10, 0}, {}}, .flow = flow});
    // A box that floats 0.35 m deep, its centre 0.1 m above the water.
    body = world.add({.shape = Box{{2.5, 0.45, 1}},
                      .pose = {{0, 0.1, 0}, {}},
                      .kind = BodyKind::dynamic,
                      .velocity = velocity,
                      .mass = 3500,
                      .locks = locks,
                      .can_sleep = false,
                      .water_drag = 0});
    boat.emplace(tuning, body, world);
  }
  void run(const BoatIntent& intent, double seconds) {
    for (int i = 0; i < std::lround(seconds * hz); ++i) {
      boat->step(intent, world, 1 / hz);
      world.step(1 / hz);
    }
  }
  Vec3 at() const { return world.pose(body).position; }
  Vec3 ahead() const { return rotate(world.pose(body).orientation, {1, 0, 0}); }
};

/// Thrust and drag at one height, rudder and keel there.
BoatTuning level_boat() {
  BoatTuning t;
  t.propeller_height = t.rudder.height = t.keel.height = -t.bottom + 0.5 * t.draught;
  t.propeller_radius = 0.17;
  return t;
}

TEST(Boat, GathersWayAsTanhAndComesToItsTopSpeed) {
  Random random(41);
  for (int i = 0; i < scenes_of(24); ++i) {
    BoatTuning t = level_boat();
    t.throttle_lag = 0, t.top_speed = random.uniform(2, 12), t.thrust = random.uniform(1500, 9000);
    const bool astern = random.below(2) == 0;
    t.astern = random.uniform(0.3, 1);
    const double hz = any_rate[random.below(4)], thrust = astern ? t.thrust * t.astern : t.thrust;
    const double top = t.top_speed * std::sqrt(thrust / t.thrust), time = top * 3500 / thrust;
    const Vec3 flow{random.uniform(-2, 2), 0, 0};
    Basin basin(t, hz, flow, flow, lock::turn);
    for (int k = 1; k <= 3; ++k) {
      basin.run({astern ? -1.0 : 1.0, 0}, 0.7 * time);
      const double ticks = k * static_cast<double>(std::lround(0.7 * time * hz)) / hz;
      const double speed = basin.world.velocity(basin.body).x - flow.x, wanted = top * std::tanh(ticks / time);
      EXPECT_NEAR(speed, astern ? -wanted : wanted, 0.01 * top) << hz << " Hz";
    }
  }
}

TEST(Boat, CoastsByQuadraticDrag) {
  Random random(42);
  for (int i = 0; i < scenes_of(16); ++i) {
    BoatTuning t = level_boat();
    t.top_speed = random.uniform(3, 10), t.thrust = random.uniform(2000, 8000);
    const double speed = random.uniform(1, 12), hz = any_rate[random.below(4)], k = drag_ahead(t) / 3500;
    Basin basin(t, hz, {}, {speed, 0, 0}, lock::turn);
    basin.run({}, 5);
    const double time = std::lround(5 * hz) / hz;
    EXPECT_NEAR(basin.world.velocity(basin.body).x, speed / (1 + k * speed * time), 0.005 * speed);
    EXPECT_NEAR(basin.at().x, std::log1p(k * speed * time) / k, 0.01 * basin.at().x);
  }
}

/// At the first moment: F = ½ ρ A f U² sin α across the blade, about a lever.
TEST(Boat, TurnsByTheRuddersForce) {
  Random random(43);
  for (int i = 0; i < scenes_of(24); ++i) {
    BoatTuning t = level_boat();
    t.rudder_rate = 1e4 * radians_per_degree, t.keel.area = 0, t.side_drag = 0,
    t.rudder.aspect = random.uniform(0.5, 3);
    t.rudder.area = random.uniform(0.005, 0.03);
    const double speed = random.uniform(-6, 6), side = random.below(2) == 0 ? -1 : 1, hz = 2000;
    const double angle = t.rudder_angle = random.uniform(0.02, 0.08);
    Basin basin(t, hz, {}, {speed, 0, 0});
    basin.run({0, side}, 4 / hz);
    const double f = 6.13 * t.rudder.aspect / (t.rudder.aspect + 2.25);
    const double across = 500 * t.rudder.area * f * speed * std::abs(speed) * std::sin(angle) * std::cos(angle);
    const double inertia = 3500 * (25 + 4) / 12.0, moment = -side * across * -t.rudder.ahead;
    // The rudder comes round in the first tick, half of which counts.
    EXPECT_NEAR(basin.world.spin(basin.body).y * inertia / (3.5 / hz), moment, 0.02 * std::abs(moment) + 1);
  }
}

TEST(Boat, AnOutboardTurnsItWhereItStands) {
  BoatTuning t = level_boat();
  t.steering = BoatSteering::outboard;
  for (const double side : {-1.0, 1.0}) {
    Basin basin(t, 60);
    basin.run({0.5, side}, 4);
    EXPECT_GT(side * std::atan2(basin.ahead().z, basin.ahead().x), 0.2);
  }
}

TEST(Boat, GoesAlikeAtEveryRateAndMirroredAndInACurrent) {
  Random random(44);
  for (int i = 0; i < scenes_of(12); ++i) {
    BoatTuning t;
    if (random.below(2) == 0) t.steering = BoatSteering::outboard;
    const BoatIntent helm{random.uniform(-1, 1), random.uniform(-1, 1)},
        then{random.uniform(-1, 1), random.uniform(-1, 1)};
    const Vec3 flow{random.uniform(-3, 3), 0, random.uniform(-3, 3)};
    const auto end = [&](double hz, double side, const Vec3& stream) {
      Basin basin(t, hz, stream, stream);
      basin.run({helm.throttle, side * helm.steer}, 5), basin.run({then.throttle, side * then.steer}, 5);
      return basin.at() - stream * (2 * std::lround(5 * hz) / hz);
    };
    const Vec3 fine = end(2000, 1, {});
    for (const double hz : any_rate) {
      const Vec3 place = end(hz, 1, {}), other = end(hz, -1, {}), carried = end(hz, 1, flow);
      EXPECT_LT(norm(place - fine), 0.02 + 0.01 * norm(fine)) << hz;
      EXPECT_LT(norm(other - Vec3{place.x, place.y, -place.z}), 1e-6);
      EXPECT_LT(norm(carried - place), 1e-6);
    }
  }
}

TEST(Boat, SwingsDieAwayByTheirHalfLife) {
  BoatTuning t = level_boat();
  t.rise_drag = 0, t.swing_half_life = 0.8;
  Basin basin(t, 240);
  basin.world.place(basin.body, {{0, 0.2, 0}, {}});
  double last = 0, was = 0.1, before = 0.1;
  std::vector<std::pair<double, double>> tops;
  for (int i = 0; i < 240 * 6; ++i) {
    basin.run({}, 1.0 / 240);
    const double high = basin.at().y - 0.1;
    if (was > before && was >= high && was > 1e-4) tops.push_back({i / 240.0, was});
    before = was, was = high, last = high;
  }
  ASSERT_GE(tops.size(), 2u);
  for (std::size_t i = 1; i < tops.size(); ++i) {
    const double time = tops[i].first - tops[i - 1].first;
    EXPECT_NEAR(tops[i].second / tops[i - 1].second, std::exp2(-time / t.swing_half_life), 0.03);
  }
  EXPECT_NEAR(last, 0, 1e-3);
}

/// Nothing of the water, nothing of the boat: a screw in the air pushes nothing.
TEST(Boat, OutOfTheWaterItIsABody) {
  Basin basin({}, 60);
  basin.world.place(basin.body, {{0, 30, 0}, {}});
  basin.run({1, 1}, 1);
  EXPECT_NEAR(basin.at().y, 30 - 0.5 * standard_gravity, 0.05);
  EXPECT_EQ(basin.at().x, 0);
  EXPECT_EQ(basin.boat->state().screw, 0);
  EXPECT_EQ(basin.boat->state().afloat, 0);
  EXPECT_EQ(basin.world.spin(basin.body), Vec3{});
}

/// The whole range of every number, alone or all at once: nothing is thrown about that nothing threw.
TEST(Boat, NoAllowedNumberMakesItWild) {
  Random random(45);
  for (int i = 0; i < scenes_of(300); ++i) {
    BoatTuning t;
    std::string keys;
    for (std::uint32_t changed = 0, count = 1 + random.below(4); changed < count; ++changed) {
      const Tunable& one = any_of(boat_tunables(), random);
      one.write(&t, one.key == "thrust" ? random.uniform(0.01, 1e5) : any_value(one, random));
      keys += std::string(one.key) + " = " + as_text(one.read(&t)) + ", ";
    }
    Basin basin(t, any_rate[random.below(4)]);
    const double gives = t.top_speed * std::sqrt(std::max(1.0, t.astern)) + std::max(t.thrust, 1.0) / 3500;
    for (int k = 0; k < 10; ++k) {
      basin.run({random.uniform(-1, 1), random.uniform(-1, 1)}, 1);
      const Vec3 velocity = basin.world.velocity(basin.body);
      ASSERT_TRUE(is_finite(velocity)) << keys;
      ASSERT_LT(norm(velocity), 20 + 4 * gives) << keys;
      ASSERT_LT(basin.at().y, 20) << keys;
    }
  }
}

TEST(Boat, RefusesWhatIsOutOfRange) {
  BoatTuning t;
  t.draught = 0;
  EXPECT_THROW(Basin(t, 60), InputError);
  World world;
  const BodyId fixed = world.add({.shape = Box{{1, 1, 1}}});
  EXPECT_THROW(Boat({}, fixed, world), InputError);
  EXPECT_THROW(world.set_water_drag(fixed, -1), InputError);
}

}  // namespace
}  // namespace jugend::testing
