// Multirotors: lift, height, tilt, rotors that fail, wind, loads, at all tick rates.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>

#include "../support/at_rate.hpp"
#include "../support/drone.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double g = standard_gravity;

class RotorsAtRate : public AtRate {};
INSTANTIATE_TEST_SUITE_P(Rates, RotorsAtRate, ::testing::ValuesIn(rates), rate_name);

TEST_P(RotorsAtRate, HoverByItsWeight) {
  for (const int count : {3, 4, 5, 6, 7, 8, 9, 12}) {
    MultirotorTuning tuning;
    tuning.rotors = count;
    Drone d(tuning);
    d.run({}, 4, hz);
    const double lean = std::acos(normalised(d.drone->rotor(0).direction).y);
    EXPECT_NEAR(d.thrust() * std::cos(lean), d.mass * g, 1e-3 * d.mass * g) << count;
    EXPECT_LT(norm(d.place() - Vec3{0, 10, 0}), 1e-3) << count;
  }
}

/// Held height: thrust = m g / cos θ and a = g tan θ. Without: it sinks by g (1 - cos θ), drifts by g sin θ.
TEST_P(RotorsAtRate, TiltAsTheirModeSays) {
  for (const double hold : {1.0, 0.0}) {
    MultirotorTuning tuning;
    tuning.hold_height = hold, tuning.drag = 0;
    Drone d(tuning, {0, 100, 0});
    const double tilt = 20 * radians_per_degree;
    d.run({.ahead = tilt / tuning.tilt_limit}, 3, hz);
    const Vec3 before = d.velocity();
    d.run({.ahead = tilt / tuning.tilt_limit}, 1, hz);
    const Vec3 got = d.velocity() - before;
    EXPECT_NEAR(std::acos(d.up().y), tilt, 0.003);
    const double sideways = hold > 0 ? g * std::tan(tilt) : g * std::sin(tilt);
    EXPECT_NEAR(got.x, sideways, 0.01 * sideways);
    EXPECT_NEAR(got.y, hold > 0 ? 0 : -g * (1 - std::cos(tilt)), hold > 0 ? 2e-3 : 0.01 * g * (1 - std::cos(tilt)));
    const double thrust = hold > 0 ? d.mass * g / std::cos(tilt) : d.mass * g;
    EXPECT_NEAR(d.thrust(), thrust, 0.01 * thrust);
  }
}

TEST_P(RotorsAtRate, KeepHeightWhileItBanksAtRandom) {
  Drone d;
  Random random(3);
  MultirotorIntent intent;
  double worst = 0;
  for (int turn = 0; turn < 60; ++turn) {  // 30 s
    intent.ahead = random.uniform(-1, 1), intent.right = random.uniform(-1, 1), intent.yaw = random.uniform(-1, 1);
    d.run(intent, 0.5, hz, [&] { worst = std::max(worst, std::abs(d.place().y - 10)); });
  }
  EXPECT_LT(worst, 0.01);
}

TEST_P(RotorsAtRate, ClimbAtTheSpeedAskedAndStayThere) {
  Drone d;
  d.run({.climb = 1}, 3, hz);
  EXPECT_NEAR(d.velocity().y, 3, 0.01 * 3);
  d.run({}, 4, hz);
  EXPECT_NEAR(d.velocity().y, 0, 1e-3);
  const double height = d.place().y;
  d.run({}, 3, hz);
  EXPECT_NEAR(d.place().y, height, 1e-3);
}

TEST_P(RotorsAtRate, ComeToAPlaceAndToASpeed) {
  MultirotorTuning tuning;
  tuning.mode = RotorMode::position;
  Drone d(tuning);
  d.run({.place = {6, 14, -3}}, 12, hz);
  EXPECT_LT(norm(d.place() - Vec3{6, 14, -3}), 0.02);
  tuning.mode = RotorMode::velocity;
  Drone e(tuning);
  e.run({.ahead = 0.5, .right = -0.25}, 6, hz);
  EXPECT_NEAR(e.velocity().x, 4, 0.04);
  EXPECT_NEAR(e.velocity().z, -2, 0.04);
  EXPECT_NEAR(e.place().y, 10, 0.01);
}

TEST_P(RotorsAtRate, TurnAtTheRatesAsked) {
  MultirotorTuning tuning;
  tuning.mode = RotorMode::rates, tuning.hold_height = 0;
  Drone d(tuning, {0, 300, 0});
  d.run({.right = 0.3, .yaw = 0.5}, 1, hz);
  const Vec3 spin = rotate(conjugate(d.world.pose(d.body).orientation), d.world.spin(d.body));
  EXPECT_NEAR(spin.x, 0.3 * tuning.rate_limit, 0.02 * tuning.rate_limit);
  EXPECT_NEAR(spin.y, -0.5 * tuning.yaw_limit, 0.02 * tuning.yaw_limit);
}

/// 63 % of a step of speed is there after the lag; thrust is its power.
TEST(Rotors, SpinUpWithTheirLag) {
  MultirotorTuning tuning;
  tuning.hold_height = 0, tuning.lag = 0.2, tuning.curve = 2;
  Drone d(tuning);
  const double from = d.drone->state().speed[0];
  d.run({.climb = 1}, 0.2, 240);
  EXPECT_NEAR((d.drone->state().speed[0] - from) / (1 - from), 1 - std::exp(-1), 0.02);
}

TEST(Rotors, AttitudeComesBeforeLiftAndYaw) {
  RotorMix mix(rotors_of({}, 20), 20);
  std::array<double, 4> thrusts{};
  // Far more lift than there is, with a little roll: the roll is had.
  mix.share({200, {1, 0, 0}}, 0, thrusts);
  EXPECT_NEAR(mix.made(thrusts).torque.x, 1, 0.02);
  EXPECT_GT(mix.made(thrusts).lift, 30);
  for (const double t : thrusts) EXPECT_TRUE(t >= 0 && t <= 2.2 * 20 / 4 + 1e-9);
  mix.share({20, {0.5, 100, 0.5}}, 0, thrusts);
  EXPECT_NEAR(mix.made(thrusts).torque.x, 0.5, 0.02);
  EXPECT_NEAR(mix.made(thrusts).torque.z, 0.5, 0.02);
  EXPECT_LT(mix.made(thrusts).torque.y, 1);
}

TEST_P(RotorsAtRate, CarryALoadOnARopeAtItsHeight) {
  MultirotorTuning tuning;
  tuning.mode = RotorMode::position;
  Drone d(tuning);
  const BodyId parcel =
      d.world.add({.shape = Sphere{0.1}, .pose = {{0, 8.5, 0}, {}}, .kind = BodyKind::dynamic, .mass = 0.4});
  d.world.add(JointPlan{.kind = JointKind::distance,
                        .a = d.body,
                        .b = parcel,
                        .at = {0, 10, 0},
                        .at_b = Vec3{0, 8.5, 0},
                        .low = 0,
                        .high = 1.5});
  d.run({.place = {0, 10, 0}}, 8, hz);
  EXPECT_NEAR(d.place().y, 10, 0.02);
  EXPECT_NEAR(d.thrust(), (d.mass + 0.4) * g, 0.01 * d.mass * g);
}

TEST_P(RotorsAtRate, HoldAPlaceInGusts) {
  MultirotorTuning tuning;
  tuning.mode = RotorMode::position;
  tuning.wind.speed = 6, tuning.wind.gusts = 1.5;
  Drone d(tuning);
  double worst = 0;
  d.run({.place = {0, 10, 0}}, 5, hz);
  d.run({.place = {0, 10, 0}}, 20, hz, [&] { worst = std::max(worst, norm(d.place() - Vec3{0, 10, 0})); });
  EXPECT_LT(worst, 0.6);
  EXPECT_GT(d.drone->state().tilt, 0.01);  // into the wind
}

TEST(Wind, HasItsSpectrumAndComesAgain) {
  WindTuning tuning;
  tuning.speed = 5, tuning.gusts = 2, tuning.direction = 0.5 * pi;
  const Wind a(tuning), b(tuning);
  double sum = 0, squares = 0;
  const int n = 200000;
  for (int i = 0; i < n; ++i) {
    const double t = 0.05 * i;
    ASSERT_EQ(a.at(t), b.at(t));
    const double along = a.at(t).z;
    sum += along, squares += along * along;
  }
  const double mean = sum / n;
  EXPECT_NEAR(mean, 5, 0.1);
  EXPECT_NEAR(std::sqrt(squares / n - mean * mean), 2, 0.1);
  tuning.seed = 2;
  EXPECT_NE(Wind(tuning).at(1), a.at(1));
}

/// T/T∞ = 1 / (1 - (R/4z)²)
TEST(Rotors, FeelTheGround) {
  MultirotorTuning tuning;
  tuning.hold_height = 0, tuning.drag = 0;
  Drone d(tuning, {0, 0.2, 0});
  d.run({}, 0.05, 240);
  const double part = tuning.rotor_radius / (4 * 0.2), more = 1 / (1 - part * part) - 1;
  EXPECT_NEAR(d.velocity().y / 0.05, g * more, 0.05 * g * more);
}

TEST(Rotors, RefuseWhatCannotFly) {
  const auto refused = [](auto&& change, const char* word) {
    MultirotorTuning tuning;
    change(tuning);
    try {
      Drone d(tuning);
      ADD_FAILURE() << "not refused: " << word;
    } catch (const InputError& error) {
      EXPECT_NE(std::string(error.what()).find(word), std::string::npos) << error.what();
    }
  };
  refused([](MultirotorTuning& t) { t.rotors = 3, t.torque_share = 10; }, "more than the weight");
  refused([](MultirotorTuning& t) { t.arm = 0; }, "rotor.arm");
  Drone d;
  const std::vector<RotorTuning> line{{.place = {-0.3, 0, 0}, .most_thrust = 30},
                                      {.place = {0.3, 0, 0}, .most_thrust = 30}};
  EXPECT_THROW(Multirotor({}, line, d.body, d.world), InputError);
}

}  // namespace
}  // namespace jugend::testing
