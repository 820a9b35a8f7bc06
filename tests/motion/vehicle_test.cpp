// Vehicles: springs, drive, brakes, steering and tyres against what physics says, at all tick rates.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/shape/road.hpp>

#include "../support/any_value.hpp"
#include "../support/cart.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

constexpr double g = standard_gravity;

const int tunings = unless_watched(4000, 400);
const double for_ever = unless_watched(600.0, 40.0);  // s

class VehicleAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, VehicleAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

TEST_P(VehicleAtRate, RestsOnItsSpringsAsTheLoadAsks) {
  VehicleTuning tuning = sure_footed();
  tuning.axles[0].ahead = 1.1, tuning.axles[1].ahead = -0.6;  // more weight behind
  SuspensionTuning &in_front = tuning.axles[0].wheel.suspension, &behind = tuning.axles[1].wheel.suspension;
  behind.spring_by = SpringBy::sag, behind.sag = 0.06;
  in_front.spring_by = SpringBy::stiffness, in_front.stiffness = 15000;
  Cart cart;
  cart.floor();
  const double weight = cart.mass * g, front = weight * 0.6 / 1.7 / 2, rear = weight * 1.1 / 1.7 / 2;
  // Such that it stands level: tilted, the weight would shift.
  tuning.axles[0].wheel.suspension.rest_length = 0.35 - 0.06 + front / 15000;
  cart.put(tuning, {0, 0.1, 0});
  cart.run({}, 6, hz);
  for (const int i : {0, 1}) {
    EXPECT_NEAR(cart.wheel(i).load, front, 0.002 * front);
    EXPECT_NEAR(cart.wheel(i).compression, front / 15000, 0.005 * front / 15000);
  }
  for (const int i : {2, 3}) {
    EXPECT_NEAR(cart.wheel(i).load, rear, 0.002 * rear);
    EXPECT_NEAR(cart.wheel(i).compression, 0.06, 0.005 * 0.06);
  }
  EXPECT_NEAR(cart.total_load(), weight, 1e-4 * weight);
}

/// Heave is x'' + 2ζω x' + ω² x = 0: the first peak beyond rest is e^(-πζ/√(1-ζ²)) of the start, after half a period.
TEST_P(VehicleAtRate, SwingsAtItsFrequencyAndOvershootsByItsDamping) {
  for (const double frequency : {0.8, 1.7, 3.0}) {
    for (const double ratio : {0.1, 0.3, 0.6}) {
      VehicleTuning tuning = sure_footed();
      for (AxleTuning& axle : tuning.axles) {
        SuspensionTuning& s = axle.wheel.suspension;
        s.rest_length = 0.9, s.bump = 0.8, s.droop = 0.3;
        s.ride_frequency = frequency, s.bump_ratio = s.rebound_ratio = ratio;
      }
      Cart cart;
      cart.floor();
      cart.put(tuning);
      const double rest = cart.place().y, start = 0.02;
      cart.world.place(cart.body, {cart.place() + Vec3{0, start, 0}, {}});
      const double w = 2 * pi * frequency, damped = w * std::sqrt(1 - ratio * ratio);
      double lowest = 1, now = 0, worst = 0;
      cart.run({}, 1.2 / frequency, hz, [&] {
        now += dt;
        const double y = cart.place().y - rest;
        lowest = std::min(lowest, y);
        const double exact =
            start * std::exp(-ratio * w * now) * (std::cos(damped * now) + ratio * w / damped * std::sin(damped * now));
        worst = std::max(worst, std::abs(y - exact));
      });
      EXPECT_LT(worst, 0.01 * start) << frequency << " Hz, ratio " << ratio;
      const double overshoot = std::exp(-pi * ratio / std::sqrt(1 - ratio * ratio));
      if (hz >= 120) {
        EXPECT_NEAR(-lowest / start, overshoot, 0.01 * overshoot) << frequency << " Hz, ratio " << ratio;
      }
    }
  }
}

TEST_P(VehicleAtRate, ReachesNineTenthsOfTopSpeedWhenAsked) {
  for (const double time : {4.5, 8.0}) {
    VehicleTuning tuning = sure_footed();
    tuning.drive.speed_time = time, tuning.drive.top_speed = 20;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({}, 1, hz);
    double now = 0, reached = -1, before = 0;
    cart.run({.throttle = 1}, 4 * time, hz, [&] {
      const double speed = cart.velocity().x;
      if (reached < 0 && speed >= 18) reached = now + dt * (18 - before) / (speed - before);
      before = speed, now += dt;
    });
    EXPECT_NEAR(reached, time, 0.01 * time);
    EXPECT_NEAR(before, 20, 0.005 * 20);
    for (int i = 0; i < 4; ++i)
      EXPECT_NEAR(cart.wheel(i).spin * cart.vehicle->wheel(i).radius, before, 0.005 * before) << i;
    EXPECT_LT(std::abs(cart.place().z), 1e-6);
  }
}

TEST_P(VehicleAtRate, StopsInTheWayAsked) {
  VehicleTuning tuning = sure_footed();
  tuning.brakes.deceleration = 7;
  Cart cart;
  cart.floor();
  cart.put(tuning);
  cart.world.set_motion(cart.body, {18, 0, 0}, {});
  cart.run({.throttle = 0.3}, 1, hz);
  const double speed = cart.velocity().x, from = cart.place().x;
  cart.run({.brake = 1}, 6, hz);
  EXPECT_NEAR(cart.place().x - from, speed * speed / 14, 0.01 * speed * speed / 14);
  EXPECT_NEAR(cart.velocity().x, 0, 1e-3);
}

/// ΔF = m a h / L, from the rear axle to the front.
TEST_P(VehicleAtRate, BrakingMovesTheLoadForwards) {
  VehicleTuning tuning = sure_footed();
  tuning.brakes.deceleration = 4, tuning.air.drag = 0;
  for (AxleTuning& axle : tuning.axles) axle.wheel.suspension.ride_frequency = 6;  // a dive would shift the weight, too
  Cart cart;
  cart.floor();
  cart.put(tuning);
  cart.world.set_motion(cart.body, {25, 0, 0}, {});
  cart.run({.throttle = 0.2}, 2, hz);
  const double before = cart.velocity().x;
  cart.run({.brake = 1}, 2.5, hz);
  double front = 0, rear = 0, decelerated = cart.velocity().x;
  int ticks = 0;
  cart.run({.brake = 1}, 0.5, hz, [&] {
    front += cart.wheel(0).load + cart.wheel(1).load, rear += cart.wheel(2).load + cart.wheel(3).load;
    ++ticks;
  });
  ASSERT_GT(before, 20);
  const double a = (decelerated - cart.velocity().x) / 0.5, height = cart.place().y;
  EXPECT_NEAR(a, 4, 0.04);
  double spins = 0;  // kg m² / m: what slows down in the wheels' spin does so forwards, too
  for (int i = 0; i < 4; ++i) spins += cart.vehicle->wheel(i).spin_inertia / cart.vehicle->wheel(i).radius;
  const double moved = (cart.mass * height + spins) * a / 1.7;
  EXPECT_NEAR((front - rear) / ticks / 2, moved, 0.02 * moved);
}

/// Slow, the middle of the rear axle goes round at L / tan δ.
TEST_P(VehicleAtRate, TurnsSlowlyRoundTheCentreOfItsGeometry) {
  for (const double ackermann : {1.0, 0.0}) {
    VehicleTuning tuning = sure_footed();
    tuning.steering.ackermann = ackermann, tuning.drive.top_speed = 0.6;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({.throttle = 1, .steer = -0.5}, 6, hz);
    const Vec3 rear = cart.place() - cart.ahead() * 0.85;
    const double radius = 1.7 / std::tan(cart.vehicle->state().steer);
    const Vec3 middle = rear + cross(Vec3{0, 1, 0}, cart.ahead()) * radius;  // to the left
    double least = 1e9, most = 0;
    cart.run({.throttle = 1, .steer = -0.5}, 8, hz, [&] {
      const double away = norm(cart.place() - cart.ahead() * 0.85 - middle);
      least = std::min(least, away), most = std::max(most, away);
    });
    const double within = ackermann == 1 ? 0.01 : 0.03;  // without it tyres fight one another
    EXPECT_NEAR(least, radius, within * radius);
    EXPECT_NEAR(most, radius, within * radius);
    EXPECT_GT(cart.world.spin(cart.body).y, 0);  // left
  }
}

/// It leans on its outer wheels alone from a = g t / 2h on.
TEST_P(VehicleAtRate, RollsOverWhereTrackAndHeightSay) {
  const auto most_level = [&](double a) {
    VehicleTuning tuning = sure_footed();
    for (AxleTuning& axle : tuning.axles) {
      axle.wheel.suspension.ride_frequency = 12,
      axle.wheel.suspension.bump_ratio = axle.wheel.suspension.rebound_ratio = 0.7;
      axle.wheel.tyre.side_stiffness = 40, axle.track = 0.9;
      axle.wheel.suspension.rest_length = 0.5;
    }
    Cart cart;
    cart.floor();
    cart.put(tuning);
    // A steady push from the side, against which the tyres hold.
    const double held = cart.mass * a;
    double inner = 1e9;
    for (int i = 0; i < static_cast<int>(4 * hz); ++i) {
      cart.world.force(cart.body, {0, 0, smooth_step(std::min(1.0, 0.4 * i * dt)) * held}, cart.place());
      cart.tick({.brake = 1}, dt);
      inner = std::min(inner, cart.wheel(0).load + cart.wheel(2).load);
    }
    return std::pair{inner, cart.place().y};
  };
  const double height = most_level(0).second, limit = g * 0.9 / (2 * height);
  EXPECT_GT(most_level(0.97 * limit).first, 0);
  EXPECT_EQ(most_level(1.03 * limit).first, 0);
}

TEST_P(VehicleAtRate, StandsStillForEver) {
  struct Case {
    double slope;
    bool unequal;
    VehicleIntent intent;
    double hold;
  };
  for (const Case& c : {Case{0, false, {.brake = 1}, 1}, Case{20 * radians_per_degree, false, {.brake = 1}, 1},
                        Case{0, true, {}, 0}, Case{20 * radians_per_degree, true, {.hand_brake = 1}, 0}}) {
    for (const TyreModel brush : {TyreModel::straight, TyreModel::brush}) {
      VehicleTuning tuning;
      tuning.aids.hold = c.hold;
      for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.model = brush, axle.wheel.hand_brake = 1;
      tuning.brakes.hand = 6;
      std::vector<WheelTuning> wheels = wheels_of(tuning);
      if (c.unequal) {
        wheels[0].radius = 0.22, wheels[1].radius = 0.34, wheels[2].suspension.spring_by = SpringBy::stiffness;
        wheels[2].suspension.stiffness = 22000;
        wheels[3].suspension.rest_length = 0.4;
      }
      Cart cart;
      cart.slope(c.slope);
      cart.put(tuning, {}, rotation({0, 0, c.slope}), wheels);
      cart.run(c.intent, 20, hz);
      const Vec3 from = cart.place();
      cart.run(c.intent, hz == 60 ? for_ever : 40, hz);
      EXPECT_LT(norm(cart.place() - from), 1e-3) << c.slope << c.unequal << static_cast<int>(brush);
      EXPECT_LT(norm(cart.velocity()), 1e-6);
    }
  }
}

/// The two-mass quarter car, m_s x_s'' = k (x_u - x_s) + c (…)', integrated finely beside it.
TEST_P(VehicleAtRate, AnswersAStepInTheGroundAsTwoMassesDo) {
  VehicleTuning tuning = sure_footed();
  for (AxleTuning& axle : tuning.axles) {
    axle.wheel.unsprung_mass = 20, axle.wheel.tyre_stiffness = 150000;
    SuspensionTuning& s = axle.wheel.suspension;
    s.rest_length = 0.6, s.bump = 0.55, s.droop = 0.25, s.ride_frequency = 1.5, s.bump_ratio = s.rebound_ratio = 0.3;
  }
  Cart cart;
  const BodyId ground = cart.floor();
  cart.put(tuning);
  cart.run({}, 10, hz);
  EXPECT_NEAR(cart.total_load(), (cart.mass + 80) * g, 1e-3 * cart.mass * g);
  const double rest = cart.place().y, step = 0.005;
  cart.world.place(ground, {{0, -1 + step, 0}, {}});
  const double ms = cart.mass / 4, mu = 20, kt = 150000, ct = 0.02 * std::sqrt(kt * mu);
  const double k = cart.vehicle->strut(0).stiffness, c = cart.vehicle->strut(0).bump_damping;
  const double hub_rest = cart.wheel(0).hub;
  double xs = 0, vs = 0, xu = 0, vu = 0, worst = 0, most = 0, hub_worst = 0, hub_most = 0;
  cart.run({}, 2, hz, [&] {
    const int n = static_cast<int>(std::ceil(dt / 2e-5));
    const double h = dt / n;
    for (int i = 0; i < n; ++i) {
      const double spring = k * (xu - xs) + c * (vu - vs), tyre = kt * (step - xu) - ct * vu;
      vs += h * spring / ms, vu += h * (tyre - spring) / mu, xs += h * vs, xu += h * vu;
    }
    most = std::max(most, std::abs(xs)), hub_most = std::max(hub_most, std::abs(xu - xs));
    worst = std::max(worst, std::abs(cart.place().y - rest - xs));
    hub_worst = std::max(hub_worst, std::abs(cart.wheel(0).hub - hub_rest - (xu - xs)));
  });
  EXPECT_LT(worst, 0.002 * most);
  EXPECT_LT(hub_worst, 0.02 * hub_most);
}

TEST(Vehicle, KeepsToItsTravelAtEightyMetresASecondOverRoughGround) {
  const auto road = std::make_shared<Mesh>(rough_road({.length = 1100, .width = 16, .roughness = 2, .seed = 4}));
  std::uint64_t hashes[2]{};
  for (std::uint64_t& hash : hashes) {
    VehicleTuning tuning;
    tuning.drive.coast = tuning.air.drag = 0;
    for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.rolling = 0;
    Cart cart;
    cart.world.add({.shape = road});
    cart.half = {1.2, 0.1, 0.5};
    cart.put(tuning, {5, 0.03, 0});
    cart.world.set_motion(cart.body, {80, 0, 0}, {});
    double worst = -1, gained = -1e9, start = 0;
    cart.run({}, 12, 60, [&] {
      const Pose pose = cart.world.pose(cart.body);
      for (int i = 0; i < 4; ++i) {
        const WheelTuning& w = cart.vehicle->wheel(i);
        const auto hit = cart.world.cast({to_world(pose, w.mount), -cart.up(), 5}, {.layers = 1});
        ASSERT_TRUE(hit);
        worst = std::max(worst, w.suspension.rest_length + w.radius - hit->distance - w.suspension.bump);
      }
      const double energy = cart.mass * (0.5 * squared_norm(cart.velocity()) + g * pose.position.y);
      if (start == 0) start = energy;
      gained = std::max(gained, energy - start);
    });
    EXPECT_LE(worst, 1e-3);
    EXPECT_LT(gained, 1e-3 * start);
    EXPECT_GT(cart.up().y, 0.95);
    EXPECT_GT(cart.place().x, 800);
    StateHash all;
    cart.world.add_to(all);
    hash = all.value();
  }
  EXPECT_EQ(hashes[0], hashes[1]);
}

/// The power of heights in an octave of waves is that of G(n) = G(n0) (n / n0)^-2, by its Fourier sum.
TEST(Roads, HaveTheRoughnessOfTheirClass) {
  const RoughRoad plan{.length = 2000, .roughness = 2, .seed = 3};
  const MeshData road = rough_road(plan);
  const std::size_t n = road.vertices.size() / 2;
  for (const double from : {0.05, 0.2, 1.0}) {
    double power = 0;
    const double width = 1 / plan.length;
    for (double wave = from; wave < 2 * from; wave += width) {
      double c = 0, s = 0;
      for (std::size_t i = 0; i < n; ++i) {
        const double turn = 2 * pi * wave * road.vertices[i].x;
        c += road.vertices[i].y * std::cos(turn), s += road.vertices[i].y * std::sin(turn);
      }
      power += 2 * (c * c + s * s) / (static_cast<double>(n) * static_cast<double>(n));
    }
    const double exact = 16e-6 * 16 * 0.01 * (1 / from - 1 / (2 * from));
    EXPECT_NEAR(power, exact, 0.25 * exact) << from;
  }
  for (const int roughness : {0, 4, 7}) {  // four times the power from each class to the next: twice as high
    const MeshData other = rough_road({.length = 2000, .roughness = roughness, .seed = 3});
    const double higher = std::exp2(roughness - 2);
    for (std::size_t i = 0; i < n; i += 97)
      EXPECT_NEAR(other.vertices[i].y, higher * road.vertices[i].y, 1e-9 * higher) << roughness;
  }
  EXPECT_THROW(rough_road({.length = 0}), InputError);
  EXPECT_THROW(rough_road({.roughness = 8}), InputError);
  EXPECT_THROW(banked_curve({.radius = 3, .width = 8}), InputError);
}

/// Banked by θ, a car at v² = g R tan θ needs no grip sideways.
TEST(Roads, ABankedCurveCarriesACarRoundWithoutGripSideways) {
  Cart cart;
  const BankedCurve curve{.radius = 40, .width = 8, .bank = 0.25, .angle = 3};
  cart.world.add({.shape = std::make_shared<Mesh>(banked_curve(curve))});
  cart.floor({}, -0.001);
  VehicleTuning tuning = sure_footed();
  tuning.drive.top_speed = std::sqrt(g * 40 * std::tan(0.25));
  tuning.steering.angle = tuning.steering.fast_angle = 0.3;
  cart.put(tuning, {0.5, 0.05, 0});
  cart.world.set_motion(cart.body, {tuning.drive.top_speed, 0, 0}, {});
  double side = 0;
  int ticks = 0;
  for (int i = 0; i < 60 * 8; ++i) {
    // Steered along the middle by where it is.
    const Vec3 out = cart.place() - Vec3{0, 0, -40};
    const double angle = std::atan2(out.x, out.z), off = std::hypot(out.x, out.z) - 40;
    const Vec3 along{std::cos(angle), 0, -std::sin(angle)};
    const double turn = std::atan2(cross(cart.ahead(), along).y, dot(cart.ahead(), along));
    if (angle > 2.4) break;
    cart.tick({.throttle = 1, .steer = -(1.7 / 40 + turn + 0.1 * off) / 0.3}, 1.0 / 60);
    if (angle < 0.8 || angle > 2) continue;
    for (int k = 0; k < 4; ++k) side += cart.wheel(k).side;
    ++ticks;
  }
  ASSERT_GT(ticks, 60);
  EXPECT_LT(std::abs(side / ticks), 0.06 * cart.mass * g);
}

TEST(Vehicle, NoTuningIsUnstable) {
  Random random(77);
  const double all_rates[] = {30, 48, 60, 120, 240, 500, 1000};
  for (int trial = 0; trial < tunings; ++trial) {
    const double hz = all_rates[random.below(7)];
    const double mass = std::exp(random.uniform(0, std::log(50000.0))), size = std::cbrt(mass / 420);
    const auto ratio = [&] { return std::exp(random.uniform(std::log(0.05), std::log(5.0))); };
    const double frequency = std::exp(random.uniform(std::log(0.5), std::log(12.0)));
    const double sag = g / std::pow(2 * pi * frequency, 2), bump_ratio = ratio(), rebound_ratio = ratio();
    VehicleTuning tuning;
    const int axles = 2 + static_cast<int>(random.below(8));
    tuning.axles.resize(static_cast<std::size_t>(axles));
    for (int a = 0; a < axles; ++a) {
      AxleTuning& axle = tuning.axles[static_cast<std::size_t>(a)];
      WheelTuning& w = axle.wheel;
      axle.ahead = size * (1.2 - 2.4 * a / (axles - 1)), axle.track = size * random.uniform(0.6, 1.4);
      if (axles == 2 && random.below(8) == 0) axle.track = 0;
      w.radius = size * random.uniform(0.1, 0.4);
      w.suspension.ride_frequency = frequency;
      w.suspension.bump_ratio = bump_ratio, w.suspension.rebound_ratio = rebound_ratio;
      w.suspension.bump = std::min(2 * sag, 0.5 * size) + 0.05 * size;
      w.suspension.rest_length = 1.2 * w.suspension.bump;
      w.suspension.progression = random.below(3) == 0 ? random.uniform(0, 3) : 0;
      w.spin_inertia = 0.7 * std::pow(size, 5) * random.uniform(0.3, 2);
      w.drive = a == 0 ? 1 : static_cast<double>(random.below(2));
      w.steer = a == 0 ? 1 : random.below(4) == 0 ? random.uniform(-0.5, 0.5) : 0;
      w.tyre.model = static_cast<TyreModel>(random.below(2));
      w.tyre.relaxation = size * random.uniform(0.02, 0.6);
      w.tyre.side_stiffness = random.uniform(3, 30), w.tyre.along_stiffness = random.uniform(3, 30);
      w.unsprung_mass = random.below(3) == 0 ? mass / axles / 2 * random.uniform(0.02, 0.3) : 0;
      w.tyre_stiffness = mass * g / axles / 2 / (0.02 * size);
      w.anti_roll = random.below(2) == 0 ? mass * random.uniform(1, 30) : 0;
    }
    tuning.drive.differential = static_cast<Differential>(random.below(3));
    if (mass > 200 && mass < 3000 && random.below(2) == 1) tuning.drive.by = DriveBy::engine;
    tuning.drive.top_speed = random.uniform(3, 60);
    tuning.drive.speed_time = std::max(random.uniform(1, 10), 0.15 * tuning.drive.top_speed);
    tuning.force_height = random.uniform(0, 1), tuning.along_strut = random.below(2) == 0 ? random.uniform(0, 1) : 0;
    Cart cart;
    cart.mass = mass, cart.half = {1.4 * size, 0.2 * size, 0.5 * size};
    cart.floor();
    cart.put(tuning, {0, random.uniform(0, 0.5) * size, 0});
    VehicleIntent intent;
    const int ticks = static_cast<int>(std::max(40.0, 0.3 * hz)), hold = static_cast<int>(hz / 10);
    for (int i = 0; i < ticks; ++i) {
      if (i % hold == 0) {
        intent.throttle = random.uniform(-1, 1), intent.steer = random.uniform(-1, 1);
        intent.brake = random.below(3) == 0 ? random.uniform(0, 1) : 0,
        intent.hand_brake = random.below(6) == 0 ? 1 : 0;
      }
      cart.tick(intent, 1 / hz);
      const double speed = norm(cart.velocity()), spin = norm(cart.world.spin(cart.body));
      ASSERT_TRUE(speed < 90 && spin < 60 * std::max(1.0, 1 / size))
          << "trial " << trial << ", tick " << i << ", " << hz << " Hz, " << mass << " kg: " << speed << " m/s, "
          << spin << " rad/s";
    }
  }
}

/// Over a ramp and down on level ground: how far does not depend on the ticks.
TEST(Vehicle, JumpsAsFarOffARampAtAnyTickRate) {
  std::vector<double> lengths;
  for (const double hz : rates) {
    VehicleTuning tuning = sure_footed();
    tuning.drive.top_speed = 12;
    Cart cart;
    cart.floor();
    const double angle = 10 * radians_per_degree;
    const Quat turn = rotation({0, 0, angle});  // rises from the floor at x = 0 to 1 m
    const double length = 1 / std::sin(angle);
    cart.world.add({.shape = Box{{0.5 * length, 0.5, 6}}, .pose = {rotate(turn, {0.5 * length, -0.5, 0}), turn}});
    cart.put(tuning, {-8, 0, 0});
    cart.world.set_motion(cart.body, {12, 0, 0}, {});
    double landed = 0, before = 0;
    cart.run({.throttle = 1}, 4, hz, [&] {
      for (const VehicleEvent& e : cart.vehicle->events()) {
        if (e.kind == VehicleEventKind::wheel_landed && landed == 0 && before > length + 1)
          landed = before + e.time * cart.velocity().x;
      }
      before = cart.place().x;
    });
    EXPECT_GT(cart.up().y, 0.9) << hz;
    ASSERT_GT(landed, 0) << hz;
    lengths.push_back(landed - length);
  }
  for (const double l : lengths) EXPECT_NEAR(l, lengths.back(), 0.01 * lengths.back());
}

TEST_P(VehicleAtRate, LandsWithoutBouncingWhenDampedCritically) {
  for (const double ratio : {1.0, 5.0}) {
    VehicleTuning tuning = sure_footed();
    for (AxleTuning& axle : tuning.axles) {
      axle.wheel.suspension.ride_frequency = 3;
      axle.wheel.suspension.bump_ratio = axle.wheel.suspension.rebound_ratio = ratio;
    }
    Cart cart;
    cart.floor();
    cart.put(tuning, {0, 0.3, 0});
    double lowest = 10, highest_after = -10;
    cart.run({}, 8, hz, [&] {
      const double y = cart.place().y;
      if (y < lowest) lowest = y, highest_after = y;
      highest_after = std::max(highest_after, y);
    });
    EXPECT_LT(highest_after, cart.vehicle->ride_height() + 2e-3) << ratio;
    EXPECT_NEAR(cart.place().y, cart.vehicle->ride_height(), 2e-3) << ratio;
  }
}

TEST_P(VehicleAtRate, PressesAndPushesTheGroundItStandsOn) {
  Cart cart;
  cart.floor({}, -3);
  const BodyId barge = cart.world.add({.shape = Box{{4, 0.5, 2}},
                                       .pose = {{0, -0.5, 0}, {}},
                                       .kind = BodyKind::dynamic,
                                       .mass = 3000,
                                       .locks = lock::turn | lock::move_y});
  cart.put({});
  cart.run({}, 2, hz);
  // Along the level it gets what the cart pushes itself off with, to the last bit of momentum.
  const auto momentum = [&] { return cart.mass * cart.velocity().x + 3000 * cart.world.velocity(barge).x; };
  const double before = momentum();
  cart.run({.throttle = 0.6}, 0.6, hz);
  EXPECT_GT(cart.velocity().x, 0.5);
  EXPECT_LT(cart.world.velocity(barge).x, -0.05);
  EXPECT_NEAR(momentum(), before, 0.01 * cart.mass * cart.velocity().x);
}

TEST_P(VehicleAtRate, LoadsAScaleWithItsWholeWeight) {
  Cart cart;
  cart.floor();
  const BodyId plate =
      cart.world.add({.shape = Box{{3, 0.1, 2}}, .pose = {{0, 0.1, 0}, {}}, .kind = BodyKind::dynamic, .mass = 200});
  cart.put({}, {0, 0.2, 0});
  cart.run({}, 4, hz);
  double pressed = 0;
  cart.world.visit_contacts([&](const ContactFacts& c) {
    if (c.a != plate && c.b != plate) return;
    for (const auto& p : c.points) pressed += p.force;
  });
  const double weight = (cart.mass + 200) * g;
  EXPECT_NEAR(pressed, weight, 0.02 * weight);
}

TEST_P(VehicleAtRate, KeepsWhatHitsIt) {
  Cart cart;
  cart.floor();
  VehicleTuning tuning;
  for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.grip = 0;  // ice: nothing but the knock counts
  cart.put(tuning);
  cart.run({}, 1, hz);
  cart.world.push(cart.body, {0, 0, 3 * cart.mass}, cart.place());
  cart.run({}, 0.5, hz);
  EXPECT_NEAR(cart.velocity().z, 3, 0.005 * 3);
}

TEST_P(VehicleAtRate, GripsAsTheSurfaceDoes) {
  for (const double grip : {0.2, 0.5}) {
    Cart cart;
    cart.floor({.grip = grip});
    VehicleTuning tuning;
    tuning.brakes.antilock = 1, tuning.air.drag = 0;
    for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.grip = 1, axle.wheel.tyre.rolling = 0;
    tuning.axles[1].wheel.brake = 1;
    cart.put(tuning);
    cart.world.set_motion(cart.body, {20, 0, 0}, {});
    cart.run({}, 0.5, hz);
    const double before = cart.velocity().x;
    cart.run({.brake = 1}, 1, hz);
    // With all wheels' torque at 0.95 of their grip; the wheels, too, are slowed down by it.
    const double exact = 0.95 * grip * g * cart.mass / (cart.mass + 4 * 0.7 / (0.3 * 0.3));
    EXPECT_NEAR(before - cart.velocity().x, exact, 0.02 * exact);
    for (int i = 0; i < 4; ++i) EXPECT_GT(cart.wheel(i).spin, 10) << i;
  }
}

TEST(Vehicle, WithoutAntilockWheelsLockAndSlideAtTheFriction) {
  for (const TyreModel brush : {TyreModel::straight, TyreModel::brush}) {
    Cart cart;
    cart.floor();
    VehicleTuning tuning;
    tuning.brakes.deceleration = 30, tuning.air.drag = 0;
    for (AxleTuning& axle : tuning.axles) axle.wheel.tyre.grip = 0.7, axle.wheel.tyre.model = brush;
    cart.put(tuning);
    cart.world.set_motion(cart.body, {20, 0, 0}, {});
    cart.run({.brake = 1}, 0.6, 60);
    const double before = cart.velocity().x;
    for (int i = 0; i < 4; ++i) EXPECT_EQ(cart.wheel(i).spin, 0) << i;
    cart.run({.brake = 1}, 1, 60);
    EXPECT_NEAR(before - cart.velocity().x, 0.7 * g, 0.01 * 0.7 * g);
  }
}

/// v² / R = side force: C α = m v² / R for each axle, so that a car with equal stiffness steers as its geometry says.
TEST_P(VehicleAtRate, SteersNeutrallyWithEqualStiffnessAndUndersteersWithASoftFront) {
  const auto gradient = [&](double front, double rear) {
    std::array<double, 2> angles{}, sides{};
    int k = 0;
    for (const double speed : {4.0, 9.0}) {
      VehicleTuning tuning = sure_footed();
      tuning.axles[0].wheel.tyre.side_stiffness = front, tuning.axles[1].wheel.tyre.side_stiffness = rear;
      for (AxleTuning& axle : tuning.axles) axle.wheel.suspension.ride_frequency = 6;
      tuning.steering.ackermann = 0;  // as a car with one wheel in the middle of each axle
      tuning.drive.top_speed = speed, tuning.steering.fast_angle = tuning.steering.angle = 6 * radians_per_degree;
      Cart cart;
      cart.floor();
      cart.put(tuning);
      cart.world.set_motion(cart.body, {speed, 0, 0}, {});
      cart.run({.throttle = 1, .steer = -1}, 6, hz);
      const double v = norm(cart.velocity()), yaw = cart.world.spin(cart.body).y;
      angles[static_cast<std::size_t>(k)] = cart.vehicle->state().steer - 1.7 * yaw / v,
      sides[static_cast<std::size_t>(k)] = v * yaw, ++k;
    }
    return (angles[1] - angles[0]) / (sides[1] - sides[0]);  // rad per m/s²
  };
  EXPECT_NEAR(gradient(12, 12), 0, 0.0006);
  // K = (1/C_f - 1/C_r)/g with stiffness stated per load.
  const double exact = (1 / 8.0 - 1 / 14.0) / g;
  EXPECT_NEAR(gradient(8, 14), exact, 0.12 * exact);
}

/// The straight law: force = stiffness per load × load × slip angle, in a steady curve and at any rate.
TEST_P(VehicleAtRate, SlipAnglesAreThoseOfTheirForces) {
  VehicleTuning tuning = sure_footed();
  tuning.drive.top_speed = 7, tuning.steering.angle = tuning.steering.fast_angle = 0.12;
  Cart cart;
  cart.floor();
  cart.put(tuning);
  cart.world.set_motion(cart.body, {7, 0, 0}, {});
  cart.run({.throttle = 1, .steer = -1}, 5, hz);
  for (int i = 0; i < 4; ++i) {
    const WheelState& w = cart.wheel(i);
    EXPECT_NEAR(w.side, -11 * w.load * w.slip_angle(), 0.03 * std::abs(w.side)) << i;
    EXPECT_NEAR(w.slip(), w.along / (14 * w.load), 1e-3) << i;
  }
}

TEST(Vehicle, ALowerCentreLeansLessInACurve) {
  const auto roll = [](double lower, double in_air) {
    VehicleTuning tuning = sure_footed();
    tuning.aids.lower_centre = lower, tuning.aids.lower_in_air = in_air;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    for (int i = 0; i < 240; ++i) {
      cart.world.force(cart.body, {0, 0, 2.0 * cart.mass}, cart.place());
      cart.tick({.brake = 1}, 1.0 / 60);
    }
    return std::asin(rotate(cart.world.pose(cart.body).orientation, {0, 0, 1}).y);
  };
  EXPECT_LT(std::abs(roll(0.3, 0)), 0.6 * std::abs(roll(0, 0)));
  EXPECT_EQ(roll(0, 0.3), roll(0, 0));  // that of the air counts there alone
}

TEST(Vehicle, AntiRollBarsHoldItLevelInACurve) {
  const auto roll = [](double bar) {
    VehicleTuning tuning = sure_footed();
    for (AxleTuning& axle : tuning.axles) axle.wheel.anti_roll = bar;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({}, 1, 60);
    for (int i = 0; i < 240; ++i) {
      cart.world.force(cart.body, {0, 0, 2.0 * cart.mass}, cart.place());
      cart.tick({.brake = 1}, 1.0 / 60);
    }
    return std::asin(rotate(cart.world.pose(cart.body).orientation, {0, 0, 1}).y);
  };
  // The springs turn it back by k t² for all four, the bars by 2 b t² more; its weight turns it on by m g h.
  const double plain = roll(0), barred = roll(6000);
  Cart cart;
  cart.floor();
  cart.put(sure_footed());
  const double k = cart.vehicle->strut(0).stiffness;
  const double springs = k * 1.44, bars = 2 * 6000 * 1.44, weight = cart.mass * g * cart.vehicle->ride_height();
  const double exact = (springs + bars - weight) / (springs - weight);
  EXPECT_NEAR(plain / barred, exact, 0.02 * exact);
}

TEST(Vehicle, DifferentialsShareSpinAndTorque) {
  const auto run = [](Differential kind) {
    VehicleTuning tuning;
    tuning.drive.differential = kind;
    tuning.drive.differential_limit = 60;
    Cart cart;
    cart.locks = lock::turn_y;
    // Ice under the left wheels.
    cart.world.add({.shape = Box{{400, 1, 5}}, .pose = {{0, -1, 5}, {}}});
    cart.world.add({.shape = Box{{400, 1, 5}}, .pose = {{0, -1, -5}, {}}, .surface = {.grip = 0.02}});
    cart.put(tuning);
    cart.run({.throttle = 1}, 1.5, 60);
    return std::tuple{cart.velocity().x, cart.wheel(2).spin, cart.wheel(3).spin};
  };
  const auto [open, open_left, open_right] = run(Differential::open);
  const auto [locked, locked_left, locked_right] = run(Differential::locked);
  const auto [limited, limited_left, limited_right] = run(Differential::limited);
  EXPECT_GT(open_left, 2 * open_right);
  EXPECT_NEAR(locked_left, locked_right, 1e-9);
  EXPECT_GT(locked, 1.5 * open);
  EXPECT_GT(limited, 1.02 * open);
  EXPECT_LT(limited, locked);
}

TEST_P(VehicleAtRate, TheEngineShiftsAndHoldsItsRedline) {
  VehicleTuning tuning = sure_footed();
  tuning.drive.by = DriveBy::engine;
  tuning.axles[0].wheel.drive = 0;
  Cart cart;
  cart.floor();
  cart.put(tuning);
  int shifts = 0, gear = 0;
  cart.run({.throttle = 1}, 20, hz, [&] {
    for (const VehicleEvent& e : cart.vehicle->events()) shifts += e.kind == VehicleEventKind::shifted;
    EXPECT_LT(cart.vehicle->state().engine.revs, 1.03 * tuning.drive.engine.redline);
  });
  gear = cart.vehicle->state().engine.gear;
  EXPECT_GE(gear, 2);
  EXPECT_EQ(shifts, gear - 1);
  const double top = cart.velocity().x;
  EXPECT_GT(top, 15);
  cart.run({}, 2, hz);
  EXPECT_LT(cart.velocity().x, top - 0.5);  // it brakes
  cart.run({.throttle = -1}, 20, hz);       // the same pedal brakes, then drives backwards
  EXPECT_EQ(cart.vehicle->state().engine.gear, -1);
  EXPECT_LT(cart.velocity().x, -3);
}

TEST(Vehicle, EverySenseFindsLevelGroundAtTheSameHeight) {
  for (const GroundSense sense : {GroundSense::ray, GroundSense::rays, GroundSense::ball, GroundSense::disc}) {
    VehicleTuning tuning;
    tuning.ground_probe = sense;
    Cart cart;
    cart.floor();
    cart.put(tuning);
    cart.run({}, 2, 60);
    EXPECT_NEAR(cart.place().y, cart.vehicle->ride_height(), 1e-3) << static_cast<int>(sense);
    cart.run({.throttle = 1}, 2, 60);
    EXPECT_GT(cart.velocity().x, 3) << static_cast<int>(sense);
  }
}

/// A courier's two-wheeler.
VehicleTuning two_wheeler() {
  VehicleTuning tuning;
  for (AxleTuning& axle : tuning.axles) axle.track = 0, axle.wheel.tyre.grip = 1.5;
  tuning.aids.lean = 1.5;
  return tuning;
}

TEST_P(VehicleAtRate, ATwoWheelerLeansIntoItsCurveAndStaysUp) {
  Cart cart;
  cart.floor();
  cart.half = {0.9, 0.2, 0.15};
  cart.mass = 150;
  cart.put(two_wheeler());
  cart.world.set_motion(cart.body, {8, 0, 0}, {});
  cart.run({.throttle = 0.3, .steer = -0.12}, 6, hz);
  const double speed = norm(cart.velocity()), yaw = cart.world.spin(cart.body).y;
  const double lean =
      std::asin(rotate(cart.world.pose(cart.body).orientation, {0, 0, 1}).y);  // right side up: to the left
  ASSERT_GT(speed, 4);
  EXPECT_GT(yaw, 0.1);
  EXPECT_NEAR(lean, std::atan(speed * yaw / g), 0.05);
  cart.run({}, 12, hz);  // and it stands when it has come to rest
  EXPECT_GT(cart.up().y, 0.99);
}

TEST(Vehicle, ATwoWheelerFallsWithoutItsAid) {
  VehicleTuning tuning = two_wheeler();
  tuning.aids.lean = 0;
  Cart cart;
  cart.floor();
  cart.half = {0.9, 0.2, 0.15};
  cart.mass = 150;
  cart.put(tuning);
  cart.world.set_motion(cart.body, {3, 0, 0}, {0.05, 0, 0});
  cart.run({}, 6, 60);
  EXPECT_LT(cart.up().y, 0.7);
}

TEST_P(VehicleAtRate, TurnsInTheAirOnlyByItsAids) {
  const auto flight = [&](const VehicleAids& aids, const VehicleIntent& intent) {
    VehicleTuning tuning;
    tuning.aids = aids;
    Cart cart;
    cart.floor();
    cart.put(tuning, {0, 40, 0}, rotation({0.5, 0, 0.3}));
    cart.run(intent, 1, hz);
    return std::pair{cart.up().y, cart.world.spin(cart.body)};
  };
  const auto [plain_up, plain_spin] = flight({}, {.steer = 1});
  EXPECT_LT(norm(plain_spin), 1e-9);
  EXPECT_LT(plain_up, 0.87);
  EXPECT_GT(flight({.air_level = 1}, {}).first, 0.99);
  const Vec3 turned = flight({.air_turn = 2}, {.steer = -1}).second;
  EXPECT_NEAR(norm(turned), 2, 0.1);
}

TEST(Vehicle, RightsItselfWhereThatIsAskedFor) {
  for (const double after : {0.0, 1.0}) {
    VehicleTuning tuning;
    tuning.aids.self_right = after;
    Cart cart;
    cart.floor();
    cart.put(tuning, {0, 0.8, 0}, rotation({pi - 0.1, 0, 0}));
    bool righted = false;
    cart.run({}, 8, 60, [&] {
      for (const VehicleEvent& e : cart.vehicle->events()) righted |= e.kind == VehicleEventKind::righted;
    });
    EXPECT_EQ(righted, after > 0);
    EXPECT_EQ(cart.up().y > 0.9, after > 0);
  }
}

TEST(Vehicle, RefusesWhatCannotBe) {
  const auto refused = [](auto&& change, const char* word, const char* other = "") {
    VehicleTuning tuning;
    change(tuning);
    Cart cart;
    cart.floor();
    try {
      cart.put(tuning);
      ADD_FAILURE() << "not refused: " << word;
    } catch (const InputError& error) {
      EXPECT_NE(std::string(error.what()).find(word), std::string::npos) << error.what();
      EXPECT_NE(std::string(error.what()).find(other), std::string::npos) << error.what();
    }
  };
  refused([](VehicleTuning& t) { t.axles[0].wheel.radius = 0; }, "axle.1.radius");
  refused([](VehicleTuning& t) { t.axles[1].wheel.suspension.bump = 0.5; }, "axle.2.spring.bump", "rest_length");
  refused([](VehicleTuning& t) { t.axles[1].wheel.drive = 0; }, "no driven wheel");
  refused([](VehicleTuning& t) { t.axles[0].ahead = -0.2; }, "centre of mass");
  refused(
      [](VehicleTuning& t) {
        t.drive.by = DriveBy::engine;
        t.drive.engine.torque[2].x = t.drive.engine.torque[1].x;
      },
      "drive.engine.torque.3.x", "one value for each x");
  refused(
      [](VehicleTuning& t) {
        t.drive.by = DriveBy::engine;
        t.drive.engine.gears[2] = 3;
      },
      "drive.engine.gears.3", "less than");
  refused([](VehicleTuning& t) { t.axles[1].wheel.spin_inertia = 200; }, "axle.1.spin_inertia", "mass and size");
  refused([](VehicleTuning& t) { t.axles[1].wheel.radius = 2; }, "axle.2.radius", "0.68 m");
  refused(
      [](VehicleTuning& t) {
        for (AxleTuning& x : t.axles) x.wheel.suspension.rest_length = 4;
      },
      "axle.1.spring.rest_length", "2.55 m");
  refused([](VehicleTuning& t) { t.axles[0].wheel.unsprung_mass = 300; }, "axle.1.unsprung_mass", "420 kg");
  refused(
      [](VehicleTuning& t) {
        for (AxleTuning& a : t.axles) a.mount_height = 1;
      },
      "mount_height", "rest_length");
  refused(
      [](VehicleTuning& t) {
        t.axles[1].wheel.suspension.spring_by = SpringBy::stiffness;
        t.axles[1].wheel.suspension.stiffness = 5e7;
      },
      "axle.2.spring.stiffness", "60 Hz");
  Cart cart;
  const BodyId fixed = cart.floor();
  EXPECT_THROW(Vehicle({}, fixed, cart.world), InputError);
}

/// Each number drawn alone from all that is allowed, on top of the defaults: it drives, tumbling where it stands on
/// stilts, or is refused.
TEST(Vehicle, NoAllowedNumberIsUnstable) {
  Random random(78);
  const Tunables& all = vehicle_tunables();
  int thrown = 0, refused = 0;
  const int scenes = tunings / 8;
  for (int scene = 0; scene < scenes; ++scene) {
    VehicleTuning tuning;
    std::vector<std::pair<const Tunable*, void*>> keys;
    for (const Tunable& number : all) keys.push_back({&number, &tuning});
    for (const TunableGroup& group : all.groups()) {
      for (std::size_t i = 0; i < tuning.axles.size(); ++i) {
        for (const Tunable& number : *group.parts) keys.push_back({&number, group.part(&tuning, i)});
      }
    }
    const std::pair<const Tunable*, void*> drawn = keys[random.below(static_cast<std::uint32_t>(keys.size()))];
    const Tunable* const number = drawn.first;
    const double value = any_value(*number, random);
    number->write(drawn.second, value);
    const double hz = rates[random.below(std::size(rates))];
    Cart cart;
    cart.floor();
    try {
      cart.put(tuning, {0, random.uniform(0, 0.3), 0});
    } catch (const InputError&) {
      ++refused;
      continue;
    }
    const double from = cart.place().y, fastest = 1.3 * std::max(20.0, tuning.drive.top_speed);
    double highest = 0;
    for (int s = 0; s < 12; ++s) {
      const VehicleIntent keys_held{.throttle = random.uniform(-1, 1), .steer = random.uniform(-1, 1)};
      cart.run(keys_held, 0.25, hz, [&] {
        highest = std::max(highest, cart.place().y - from);
        ASSERT_TRUE(norm(cart.velocity()) < fastest && norm(cart.world.spin(cart.body)) < 60)
            << number->key << " = " << value << " at " << hz << " Hz";
      });
    }
    thrown += highest > 1 + 0.5 * cart.vehicle->ride_height();
  }
  EXPECT_LE(thrown, std::max(1, scenes / 200));
  EXPECT_LT(refused, std::max(9, scenes / 8));
}

/// A cart that is thrown into a slide, with a spin: with the aid it comes to look where it goes, for either side.
TEST(Vehicle, CounterSteerCatchesASlide) {
  Random random(79);
  int caught = 0, without = 0;
  constexpr int scenes = 40;
  for (int scene = 0; scene < scenes; ++scene) {
    const double hz = rates[random.below(std::size(rates))], side = random.below(2) == 0 ? -1 : 1;
    const double spin = side * random.uniform(1.8, 2.6), speed = random.uniform(9, 16);
    for (const double share : {0.0, 1.0}) {
      VehicleTuning tuning;
      tuning.aids.counter_steer = share;
      tuning.axles[1].wheel.tyre.grip = 0.8;
      tuning.steering.fast_angle = tuning.steering.angle, tuning.steering.rate = 500 * radians_per_degree;
      Cart cart;
      cart.floor();
      cart.put(tuning, {0, 0, 0});
      cart.world.set_motion(cart.body, {speed, 0, 0}, {0, spin, 0});
      double widest = 0;
      cart.run({}, 2, hz, [&] {
        const Vec3 ahead = rotate(cart.world.pose(cart.body).orientation, {1, 0, 0}), goes = cart.velocity();
        if (norm(goes) > 2) widest = std::max(widest, std::acos(std::clamp(dot(normalised(goes), ahead), -1.0, 1.0)));
      });
      (share > 0 ? caught : without) += widest < 75 * radians_per_degree;
    }
  }
  EXPECT_GE(caught, scenes - 2);
  EXPECT_LT(without, scenes / 2) << caught;
}

/// In a slide under power it looks aside by the share of the angle that is asked for, to either side, at any rate.
TEST(Vehicle, DriftsAtTheAngleAskedFor) {
  Random random(80);
  for (int scene = 0; scene < 16; ++scene) {
    const double hz = rates[random.below(std::size(rates))], side = random.below(2) == 0 ? -1 : 1;
    VehicleTuning tuning;
    tuning.aids.drift_hold = random.uniform(25, 45) * radians_per_degree, tuning.aids.counter_steer = 1;
    tuning.axles[1].wheel.tyre.grip = 0.7, tuning.drive.top_speed = 25, tuning.drive.speed_time = 3;
    const double steer = side * random.uniform(0.7, 1), wanted = std::abs(steer) * tuning.aids.drift_hold;
    Cart cart;
    cart.floor();
    cart.put(tuning, {0, 0, 0});
    cart.world.set_motion(cart.body, {14, 0, 0}, {0, -side * 1.5, 0});
    cart.run({.throttle = 1, .steer = steer}, 2, hz);
    double sum = 0, count = 0;
    cart.run({.throttle = 1, .steer = steer}, 1, hz, [&] {
      const Vec3 ahead = rotate(cart.world.pose(cart.body).orientation, {1, 0, 0}), goes = normalised(cart.velocity());
      sum += std::atan2(dot(cross(ahead, goes), Vec3{0, 1, 0}), dot(ahead, goes)), count += 1;
    });
    EXPECT_NEAR(side * sum / count, wanted, 0.2 * wanted) << hz << " Hz, " << tuning.aids.drift_hold;
  }
}

}  // namespace
}  // namespace jugend::testing
