// Ground that moves, and bodies that give way: led bodies, riders, pushes, weight and kicks.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/guidance/rail_motion.hpp>

#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class RidingAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, RidingAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

BodyId deck(Scene& scene, const Vec3& at, const Vec3& half = {3, 0.2, 3}) {
  return scene.stage.world.add({.shape = Box{half}, .pose = {at, {}}, .kind = BodyKind::kinematic});
}

BodyId crate(Scene& scene, const Vec3& at, double mass, const Vec3& half = {0.4, 0.4, 0.4}, double friction = 0.8) {
  return scene.stage.world.add({.shape = Box{half},
                                .pose = {at, {}},
                                .kind = BodyKind::dynamic,
                                .surface = {.friction = friction, .friction_rule = Mixing::least},
                                .mass = mass});
}

std::vector<Vec3> points() { return {{0, 0, 0}, {6, 0, 0}, {6, 2, 4}, {0, 3, 8}}; }

// Paths and timetables

TEST(Path, IsMeasuredAlongItsLength) {
  const std::vector<Vec3> square{{0, 0, 0}, {3, 0, 0}, {3, 0, 4}, {0, 0, 4}};
  const Path open(square), closed(square, false, true);
  EXPECT_DOUBLE_EQ(open.length(), 10);
  EXPECT_DOUBLE_EQ(closed.length(), 14);
  EXPECT_EQ(open.at(-1), square[0]);
  EXPECT_EQ(open.at(99), square[3]);
  EXPECT_NEAR(norm(open.at(5) - Vec3{3, 0, 2}), 0, 1e-12);
  EXPECT_NEAR(norm(closed.at(14 + 5) - Vec3{3, 0, 2}), 0, 1e-12);

  // A smooth circle of many points: its length is 2πr, its speed even.
  std::vector<Vec3> ring;
  for (int i = 0; i < 48; ++i) ring.push_back({5 * std::cos(2 * pi * i / 48), 0, 5 * std::sin(2 * pi * i / 48)});
  const Path round(ring, true, true);
  EXPECT_NEAR(round.length(), 10 * pi, 2e-4 * 10 * pi);
  for (double s = 0; s < 31; s += 0.7) {
    EXPECT_NEAR(norm(round.at(s)), 5, 1e-3);
    EXPECT_NEAR(norm(round.at(s + 0.1) - round.at(s)), 0.1, 1e-3);
  }
}

TEST(Path, BadPathsAreRefused) {
  const std::vector<Vec3> one{{0, 0, 0}}, twice{{0, 0, 0}, {0, 0, 0}}, good{{0, 0, 0}, {1, 0, 0}};
  EXPECT_THROW(Path{one}, InputError);
  EXPECT_THROW(Path{twice}, InputError);
  EXPECT_THROW(RailMotion(Path(good), {.speed = 0}), InputError);
  EXPECT_THROW(RailMotion(Path(good), {.ease = 1.5}), InputError);
  EXPECT_THROW(RailMotion(Path(good), {.dwell = -1}), InputError);
  Scene scene;
  const BodyId fixed = scene.box({0, 0, 0}, {1, 1, 1});
  EXPECT_THROW(scene.stage.add_rail(fixed, RailMotion(Path(good), {})), InputError);
}

TEST_P(RidingAtRate, RailMotionsReachBothEndsWhenTheyShould) {
  for (const bool smooth : {false, true}) {
    for (const double ease : {0.0, 0.3, 1.0}) {
      const RailMotion rail_motion(Path(points(), smooth), {.duration = 3, .ease = ease, .dwell = 0.5});
      Scene scene;
      const BodyId body = deck(scene, {10, 5, 10});
      scene.stage.add_rail(body, rail_motion);
      const double length = rail_motion.path().length();
      // The timetable itself: off, there after 3 s, back after 6.5 s.
      EXPECT_NEAR(rail_motion.cycle(), 7, 1e-9);
      EXPECT_DOUBLE_EQ(rail_motion.way_at(3), length);
      EXPECT_DOUBLE_EQ(rail_motion.way_at(3.4999), length);
      EXPECT_NEAR(rail_motion.way_at(1.5), length / 2, 1e-9);
      EXPECT_DOUBLE_EQ(rail_motion.way_at(6.75), 0);
      // And the body, at ticks: at the far end within the dwell, exactly.
      const int arrive = static_cast<int>(std::ceil(3.0 * hz + 1e-6));
      for (int i = 0; i < arrive; ++i) scene.stage.tick(dt);
      EXPECT_LT(norm(scene.stage.world.pose(body).position - (Vec3{10, 5, 10} + points().back())), 1e-9);
      for (int i = arrive; i < static_cast<int>(std::ceil(6.5 * hz + 1e-6)); ++i) scene.stage.tick(dt);
      EXPECT_LT(norm(scene.stage.world.pose(body).position - Vec3{10, 5, 10}), 1e-9);
    }
  }
}

TEST(RailMotion, RunsOnceLoopsDwellsAndStartsAtItsPhase) {
  const RailMotion once(Path(points()), {.duration = 2, .run = RailMotionRun::once});
  EXPECT_DOUBLE_EQ(once.way_at(50), once.path().length());
  const RailMotion stops(Path(points()), {.speed = 2, .ease = 0, .dwell = 1, .every_point = true});
  const double first = 6 / 2.0;
  EXPECT_DOUBLE_EQ(stops.way_at(first + 0.5), 6);  // dwells at the second point
  EXPECT_GT(stops.way_at(first + 1.2), 6);
  const RailMotion late(Path(points()), {.speed = 2, .ease = 0, .phase = 1.5});
  EXPECT_DOUBLE_EQ(late.way_at(0), 3);
  const std::vector<Vec3> square{{0, 0, 0}, {3, 0, 0}, {3, 0, 3}, {0, 0, 3}};
  const RailMotion loop(Path(square, false, true), {.speed = 1.5, .run = RailMotionRun::loop});
  EXPECT_NEAR(loop.cycle(), 8, 1e-12);
  for (double t = 0; t < 20; t += 0.37) {
    EXPECT_NEAR(norm(loop.pose_at(t, {}).position - loop.pose_at(t + 8, {}).position), 0, 1e-9);
    EXPECT_LE(norm(loop.pose_at(t + 0.1, {}).position - loop.pose_at(t, {}).position), 0.15 + 1e-9);
  }
}

// Riding

TEST_P(RidingAtRate, AMinuteOnADeckThatMovesAndTurnsWithoutSlip) {
  Scene scene;
  const BodyId body = deck(scene, {0, 0, 0});
  scene.stage.add_rail(body, RailMotion(Path(points(), true), {.duration = 4, .dwell = 0.3, .turn_rate = 0.7}));
  scene.walker({1.5, 0.2, 1});
  scene.run(0.5, hz);
  const Vec3 start = to_local(scene.stage.world.pose(body), scene.state().position);
  double slip = 0;
  for (int i = 0; i < static_cast<int>(60 * hz); ++i) {
    scene.tick(dt);
    slip = std::max(slip, norm(to_local(scene.stage.world.pose(body), scene.state().position) - start));
  }
  EXPECT_LT(slip, 1e-3);
  EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0);
}

TEST_P(RidingAtRate, PlainBodiesRideToo) {
  Scene scene;
  const BodyId body = deck(scene, {0, 0, 0});
  scene.stage.add_rail(body, RailMotion(Path(std::vector<Vec3>{{0, 0, 0}, {5, 1, 0}}),
                                        {.duration = 4, .ease = 0.8, .dwell = 0.5, .turn_rate = 0.3}));
  const BodyId box = crate(scene, {1, 0.5, 0.5}, 22, {0.3, 0.3, 0.3}, 0.9);
  for (int i = 0; i < static_cast<int>(1 * hz); ++i) scene.stage.tick(dt);
  const Vec3 start = to_local(scene.stage.world.pose(body), scene.stage.world.pose(box).position);
  for (int i = 0; i < static_cast<int>(18 * hz); ++i) scene.stage.tick(dt);
  const Vec3 end = to_local(scene.stage.world.pose(body), scene.stage.world.pose(box).position);
  // Friction alone holds them, and a deck changes its speed from tick to tick.
  EXPECT_LT(norm(end - start), 0.03);
}

TEST_P(RidingAtRate, JumpsInEveryTickOfARide) {
  Scene scene;
  const BodyId body = deck(scene, {0, 0, 0});
  scene.stage.add_rail(body, RailMotion(Path(points(), true), {.duration = 2.5, .turn_rate = 0.7}));
  scene.walker({1.5, 0.2, 1});
  scene.run(0.2, hz);
  StageSnapshot snapshot;
  const int step = std::max(1, static_cast<int>(hz / 30));
  for (int i = 0; i < static_cast<int>(5 * hz); i += step) {
    scene.stage.save(snapshot);
    const std::size_t before = scene.heard.size();
    scene.actor().jump.tap();
    scene.tick(dt);
    int jumps = 0;
    for (std::size_t k = before; k < scene.heard.size(); ++k)
      jumps += scene.heard[k].event.kind == WalkerEventKind::jumped;
    ASSERT_EQ(jumps, 1) << i;
    ASSERT_FALSE(scene.state().on_ground);
    scene.stage.restore(snapshot);
    for (int k = 0; k < step; ++k) scene.tick(dt);
  }
}

TEST_P(RidingAtRate, TakeOffFromRisingGroundGainsItsHeight) {
  for (const bool speeds_add : {false, true}) {
    WalkerTuning tuning;
    tuning.carry.rise_rule = speeds_add ? RiseRule::speeds_add : RiseRule::heights_add;
    Scene scene;
    const BodyId body = deck(scene, {0, 0, 0});
    scene.stage.world.set_motion(body, {0, 3, 0}, {});
    scene.walker({0, 0.2, 0}, tuning);
    scene.run(0.5, hz);
    ASSERT_TRUE(scene.state().on_ground);
    scene.actor().jump.tap();
    scene.run(0.6, hz);
    ASSERT_TRUE(scene.first(WalkerEventKind::apex));
    const double g = tuning.jump.gravity(), v = tuning.jump.take_off_speed();
    const double expected = speeds_add ? (v + 3) * (v + 3) / (2 * g) : 1.25 + 9 / (2 * g);
    const double rise =
        scene.first(WalkerEventKind::apex)->event.position.y - scene.first(WalkerEventKind::jumped)->event.position.y;
    EXPECT_NEAR(rise, expected, 0.005 * expected);
  }
}

TEST_P(RidingAtRate, KeepsAShareOfTheGroundsVelocity) {
  for (const double share : {0.0, 0.5, 1.0}) {
    WalkerTuning tuning;
    tuning.carry.level = share;
    Scene scene;
    const BodyId body = deck(scene, {0, 0, 0});
    scene.stage.world.set_motion(body, {0, 0, 4}, {});
    scene.walker({0, 0.2, 0}, tuning);
    scene.run(0.5, hz);
    scene.actor().jump.tap();
    scene.run(0.3, hz);
    EXPECT_NEAR(scene.state().velocity.z, 4 * share, 1e-9);
  }
}

TEST_P(RidingAtRate, LandsOnFastRisersAndIsSqueezedNotPushedThroughWalls) {
  Scene riser;
  const BodyId body = deck(riser, {0, -20, 0});
  riser.stage.world.set_motion(body, {0, 8, 0}, {});
  riser.walker({0, 3, 0});
  double deepest = 0;
  for (int i = 0; i < static_cast<int>(4 * hz); ++i) {
    riser.tick(dt);
    deepest = std::max(deepest, riser.stage.world.pose(body).position.y + 0.2 - riser.state().position.y);
  }
  EXPECT_LT(deepest, 1e-3);
  EXPECT_TRUE(riser.state().on_ground);

  Scene walls;
  walls.box({-50, -1, -50}, {50, 0, 50});
  walls.box({2, 0, -5}, {2.2, 5, 5});  // thin
  const BodyId ram = deck(walls, {-3, 1.5, 0}, {1, 1, 3});
  walls.stage.world.set_motion(ram, {2, 0, 0}, {});
  walls.walker({0, 0, 0});
  walls.run(4, hz);
  EXPECT_LT(walls.state().position.x, 2);
  EXPECT_GT(walls.count(WalkerEventKind::squeezed), 0);
}

// Bodies that give way

TEST_P(RidingAtRate, PushesTheLightAndNotTheHeavy) {
  for (const double mass : {22.0, 2000.0}) {
    Scene scene;
    scene.box({-50, -1, -50}, {50, 0, 50});
    const BodyId body = crate(scene, {1.5, 0.4, 0}, mass);
    scene.walker({0, 0, 0});
    scene.run(0.3, hz);
    scene.intent().move = {1, 0, 0};
    scene.run(2, hz);
    const double moved = scene.stage.world.pose(body).position.x - 1.5;
    if (mass < 100) {
      EXPECT_GT(moved, 2);
      EXPECT_GT(scene.state().velocity.x, 1);
    } else {
      EXPECT_LT(std::abs(moved), 1e-3);
      EXPECT_NEAR(scene.state().velocity.x, 0, 0.02);
    }
    EXPECT_LT(scene.state().position.x + 0.3, scene.stage.world.pose(body).position.x - 0.4 + 2e-3);
  }
}

TEST_P(RidingAtRate, ItsWeightLiesOnWhatItStandsOn) {
  Scene scene;
  const BodyId floor = scene.box({-50, -1, -50}, {50, 0, 50});
  const BodyId body = crate(scene, {0, 0.4, 0}, 22);
  scene.walker({0, 0.81, 0});
  scene.run(3, hz);
  EXPECT_NEAR(scene.state().position.y, 0.8, 2e-3);
  double force = 0;
  scene.stage.world.visit_contacts([&](const ContactFacts& c) {
    if ((c.a == body && c.b == floor) || (c.a == floor && c.b == body)) {
      for (const auto& p : c.points) force += p.force;
    }
  });
  EXPECT_NEAR(force, (22 + 61) * standard_gravity, 0.02 * 83 * standard_gravity);
}

TEST_P(RidingAtRate, KickKeepsHorizontalMomentumOnFrictionlessGround) {
  for (const double mass : {22.0, 61.0, 300.0}) {
    WalkerTuning tuning;
    tuning.kick.speed_cap = 1000;
    tuning.jump.height = 0.5, tuning.jump.time_to_apex = 0.4;
    Scene scene;
    scene.stage.world.add({.shape = Box{{90, 1, 90}},
                           .pose = {{0, -1, 0}, {}},
                           .surface = {.friction = 0, .friction_rule = Mixing::least}});
    const BodyId body = crate(scene, {0, 0.25, 0}, mass, {4, 0.25, 2}, 0);
    scene.walker({-1.5, 0.5, 0}, tuning);
    scene.run(0.5, hz);
    scene.intent().move = {1, 0, 0};
    scene.run(0.3, hz);
    scene.actor().jump.tap();
    scene.tick(dt);
    scene.intent().move = {1, 0, 0};
    scene.run(0.1, hz);
    const double walker = 61 * scene.state().velocity.x, kicked = mass * scene.stage.world.velocity(body).x;
    EXPECT_GT(walker, 300);
    EXPECT_NEAR(walker + kicked, 0, 0.01 * walker) << mass;
  }
}

TEST_P(RidingAtRate, ALateJumpKicksTheBodyThatItLeft) {
  WalkerTuning tuning;
  tuning.kick.speed_cap = 1000;
  Scene scene;
  scene.box({-50, -1, -50}, {50, 0, 50});
  const BodyId body = crate(scene, {0, 0.5, 0}, 200, {1.5, 0.5, 1});
  scene.walker({-1, 1, 0}, tuning);
  scene.run(0.5, hz);
  scene.intent().move = {1, 0, 0};
  while (scene.count(WalkerEventKind::left_ground) == 0) scene.tick(dt);
  scene.heard.clear();
  scene.actor().jump.tap();
  scene.tick(dt);
  ASSERT_EQ(scene.count(WalkerEventKind::jumped), 1);
  EXPECT_EQ(scene.first(WalkerEventKind::jumped)->event.from, JumpFrom::edge);
  ASSERT_EQ(scene.count(WalkerEventKind::kicked), 1);
  EXPECT_EQ(scene.first(WalkerEventKind::kicked)->event.body, body);
}

TEST_P(RidingAtRate, ACorkBoxUnderAFullJumpLeavesAtNoMoreThanTheCap) {
  Random random(7);
  for (int trial = 0; trial < 12; ++trial) {
    WalkerTuning tuning;
    tuning.kick.speed_cap = 5;
    tuning.kick.fraction = trial % 2 ? 1 : 2.5;
    Scene scene;
    scene.box({-50, -1, -50}, {50, 0, 50});
    const BodyId body = crate(scene, {0, 0.2, 0}, 1.4, {0.25, 0.2, 0.25});
    const double x = random.uniform(-0.15, 0.15), z = random.uniform(-0.15, 0.15);
    scene.walker({x, 0.41, z}, tuning);
    scene.run(0.3, hz);
    if (trial % 3) scene.intent().move = {1, 0, 0}, scene.tick(dt);
    scene.actor().jump.set(true);
    double fastest = 0;
    for (int i = 0; i < static_cast<int>(1.5 * hz); ++i) {
      scene.tick(dt);
      if (scene.state().position.y > 0.5) fastest = std::max(fastest, norm(scene.stage.world.velocity(body)));
    }
    EXPECT_LE(fastest, 5 * 1.01) << trial;
  }
}

// A planet

TEST_P(RidingAtRate, TenLapsAroundAPlanet) {
  Scene scene;
  const double radius = 20;
  scene.stage.world.set_gravity({});
  scene.stage.world.add({.shape = Sphere{radius}, .pose = {{}, {}}});
  scene.stage.world.add_zone({.form = GravityZone::Form::ball,
                              .size = {100, 100, 100},
                              .effect = ZoneEffect::towards_centre,
                              .strength = 9.80665,
                              .reference = radius});
  scene.walker({0, radius, 0});
  scene.run(0.3, hz);
  const double start = norm(scene.state().position);
  double turned = 0, off = 0;
  bool on_ground = true;
  Vec3 before = scene.state().position;
  while (turned < 20 * pi) {
    scene.intent().move = cross(Vec3{0, 0, 1}, -scene.state().up);  // east, round the z axis
    scene.tick(dt);
    const Vec3 now = scene.state().position;
    turned += std::atan2(norm(cross(before, now)), dot(before, now));
    off = std::max(off, std::abs(norm(now) - start));
    on_ground &= scene.state().on_ground;
    before = now;
    ASSERT_LT(scene.now, 400);
  }
  EXPECT_LT(off, 0.01);
  EXPECT_TRUE(on_ground);
  EXPECT_NEAR(scene.state().position.z, 0, 1e-3);
}

// Snapshots

TEST(StageSnapshot, AnyStateContinuesWithTheSameBits) {
  WalkerTuning tuning;
  tuning.jump.air_jumps = 1, tuning.jump.tap_height = 0.4, tuning.ledge.on = tuning.wall.on = 1;
  tuning.dash.charge.charges = tuning.launch.charge.charges = 1;
  Scene scene;
  scene.box({-30, -1, -30}, {30, 0, 30});
  scene.box({4, 0, -5}, {8, 2.6, 5});
  scene.stage.world.add_pool({.half_extents = {4, 1, 8}, .pose = {{-12, 1, 0}, {}}});
  const BodyId ferry = deck(scene, {0, 0.3, 6});
  scene.stage.add_rail(ferry, RailMotion(Path(points(), true), {.duration = 3, .turn_rate = 0.5}));
  for (int i = 0; i < 6; ++i) crate(scene, {-4.0 + i, 0.4, -3}, 22);
  scene.walker({0, 0, 0}, tuning);
  add_forced(scene.stage, "apprentice", tuning, {}, {0, 0, -6});
  add_roller(
      scene.stage, "buoy", {},
      scene.stage.world.add({.shape = Sphere{0.4}, .pose = {{3, 0.4, -6}, {}}, .kind = BodyKind::dynamic, .mass = 25}));
  Random random(11);
  const auto act = [](Scene& s, std::uint32_t draw) {
    if (draw % 7 == 0) s.intent().move = {draw % 3 - 1.0, 0, draw % 5 / 2.0 - 1};
    s.actor().jump.set(draw % 4 == 0);
    if (draw % 11 == 0) s.actor().dash.tap();
    if (draw % 17 == 0) s.actor().launch.tap();
    if (draw % 53 == 0) s.actor().controller.hit({{-1, 0, 0.5}, 2});
    s.actor().crouch.set(draw % 13 == 0);
    auto& apprentice = s.stage.actor(s.stage.nth(1)).as<WalkerControls>();
    auto& buoy = s.stage.actor(s.stage.nth(2)).as<RollerControls>();
    apprentice.intent.move = buoy.intent.move = s.intent().move;
    apprentice.jump.set(draw % 5 == 0), buoy.jump.set(draw % 5 == 0);
    if (draw % 23 == 0) apprentice.dash.tap();
  };
  StageSnapshot snapshot;
  for (int round = 0; round < 12; ++round) {
    for (int i = 0; i < 97; ++i) act(scene, random.below(1000000)), scene.tick(1 / 60.0);
    scene.stage.save(snapshot);
    std::vector<std::uint32_t> draws;
    for (int i = 0; i < 90; ++i) draws.push_back(random.below(1000000));
    for (const auto d : draws) act(scene, d), scene.tick(1 / 60.0);
    const std::uint64_t first = scene.stage.hash();
    scene.stage.restore(snapshot);
    for (const auto d : draws) act(scene, d), scene.tick(1 / 60.0);
    EXPECT_EQ(scene.stage.hash(), first) << round;
  }
}

}  // namespace
}  // namespace jugend::testing
