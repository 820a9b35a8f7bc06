// What a walker must never do wrong: stand, press, step, slide, bump, at any rate and place.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/walker/walker.hpp>
#include <random>
#include <type_traits>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

static_assert(std::is_trivially_copyable_v<WalkerState>);
static_assert(std::is_trivially_copyable_v<WalkerEvents>);

constexpr double degrees = radians_per_degree;

class WalkerAtRate : public ::testing::TestWithParam<double> {};
INSTANTIATE_TEST_SUITE_P(Rates, WalkerAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

Scene on_a_floor() {
  Scene scene;
  scene.box({-200, -1, -200}, {200, 0, 200});
  scene.walker({0, 0, 0});
  scene.run(0.2, 60);
  scene.heard.clear();
  return scene;
}

// Standing

TEST_P(WalkerAtRate, RestsOnASlopeWithoutCreep) {
  Scene scene;
  scene.slope({0, 0, 0}, 35 * degrees);
  WalkerTuning tuning;
  tuning.ground.slope_limit = 45 * degrees;
  scene.walker({0, 0.3, 0}, tuning);
  scene.run(1, GetParam());
  const Vec3 start = scene.state().position;
  scene.run(60, GetParam());
  EXPECT_LT(norm(scene.state().position - start), 1e-4);
  EXPECT_EQ(scene.state().mode, WalkerMode::idle);
  EXPECT_EQ(scene.state().velocity, Vec3{});
}

TEST_P(WalkerAtRate, SlidesDownWhatIsTooSteep) {
  Scene scene;
  const double angle = 60 * degrees;
  scene.slope({0, 0, 0}, angle);
  WalkerTuning tuning;
  tuning.jump.fall_gravity = 1;
  tuning.jump.fall_speed_limit = 1000;
  scene.walker({0, 0.6, 0}, tuning);
  scene.run(0.5, GetParam());
  EXPECT_EQ(scene.state().mode, WalkerMode::sliding);
  EXPECT_FALSE(scene.state().on_ground);
  const double before = norm(scene.state().velocity);
  scene.run(0.5, GetParam());
  const double seconds = std::lround(0.5 * GetParam()) / GetParam();
  // Frictionless: a = g sin θ, less what air control does to stop the level part: 3 m/s² × cos² at most.
  const double g = tuning.jump.gravity();
  const double expected = g * std::sin(angle) - tuning.air.top_speed / tuning.air.time_to_stop * std::cos(angle);
  EXPECT_NEAR((norm(scene.state().velocity) - before) / seconds, expected, 0.02 * expected);
}

TEST_P(WalkerAtRate, WalksOffAnEdgeWithoutFallSpeed) {
  Scene scene;
  scene.box({-5, -1, -5}, {5, 0, 5});
  scene.box({-50, -11, -50}, {50, -10, 50});
  scene.walker({0, 0, 0});
  scene.run(10, GetParam());
  scene.intent().move = {1, 0, 0};
  for (int i = 0; i < 1000 && scene.count(WalkerEventKind::left_ground) == 0; ++i) scene.tick(1 / GetParam());
  ASSERT_EQ(scene.count(WalkerEventKind::left_ground), 1);
  const auto left = scene.first(WalkerEventKind::left_ground);
  // A whole tick of the fall at most has passed since: no more speed than that gives.
  const double since = scene.now - left->time;
  const double g = scene.actor().controller.tuning().jump.fall_law().falling;
  EXPECT_NEAR(scene.state().velocity.y, -g * since, 1e-6);
  EXPECT_NEAR(left->event.position.y, 0, 1e-9);
  scene.run(3, GetParam());
  std::optional<HeardEvent> landed;
  for (const HeardEvent& h : scene.heard) {
    if (h.event.kind == WalkerEventKind::landed && h.time > left->time) landed = h;
  }
  ASSERT_TRUE(landed);
  EXPECT_NEAR(landed->time - left->time, std::sqrt(20 / g), 1e-3);
  EXPECT_NEAR(landed->event.position.x - left->event.position.x, 6 * std::sqrt(20 / g), 5e-3 * 6 * std::sqrt(20 / g));
}

TEST(Walker, LeavesAnEdgeAtTheSamePlaceAtEveryRate) {
  double first = 0;
  for (const double hz : rates) {
    Scene scene;
    scene.box({-50, -1, -5}, {5, 0, 5});
    scene.walker({0, 0, 0});
    scene.run(0.5, hz);
    scene.intent().move = {1, 0, 0};
    scene.run(2, hz);
    ASSERT_TRUE(scene.first(WalkerEventKind::left_ground));
    const double x = scene.first(WalkerEventKind::left_ground)->event.position.x;
    if (first == 0) first = x;
    EXPECT_NEAR(x, first, 1e-4) << hz;
  }
}

// Pressing

TEST_P(WalkerAtRate, HeldKeyJumpsOnce) {
  Scene scene = on_a_floor();
  scene.actor().jump.set(true);
  scene.run(6, GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);
}

TEST_P(WalkerAtRate, TapBetweenTicksActsInTheNextTick) {
  Scene scene = on_a_floor();
  scene.actor().jump.set(true);
  scene.actor().jump.set(false);
  scene.tick(1 / GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);
  EXPECT_GT(scene.state().velocity.y, 0);
  scene.run(3, GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);
}

TEST_P(WalkerAtRate, PressInAnyFrameActsInTheNextTick) {
  // Frames at a rate that fits no tick rate; the clock makes ticks of them.
  Scene scene = on_a_floor();
  const double dt = 1 / GetParam();
  double owed = 0;
  int presses = 0;
  std::mt19937 random(7);
  for (int frame = 0; frame < 4000; ++frame) {
    const bool standing = scene.state().on_ground;
    if (standing && random() % 3 == 0) {
      scene.actor().jump.set(true);
      if (random() % 2 == 0) scene.actor().jump.set(false);
      ++presses;
      for (owed += 0.0071; owed < dt; owed += 0.0071) {
      }
      owed -= dt;
      scene.tick(dt);
      EXPECT_EQ(scene.count(WalkerEventKind::jumped), presses);
      EXPECT_FALSE(scene.state().on_ground);
      scene.actor().jump.set(false);
    } else {
      for (owed += 0.0071; owed >= dt; owed -= dt) scene.tick(dt);
    }
  }
  EXPECT_GT(presses, 10);
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), presses);
}

TEST_P(WalkerAtRate, JumpsFromEveryTickOfARunDownASlope) {
  const double dt = 1 / GetParam();
  Scene scene;
  scene.slope({0, 0, 0}, -30 * degrees, 200);
  scene.walker({0, 0.1, 0});
  scene.run(0.5, GetParam());
  scene.intent().move = {1, 0, 0};
  for (int tick = 0; tick < 200; ++tick) {
    ASSERT_TRUE(scene.state().on_ground) << tick;
    Scene branch;
    branch.slope({0, 0, 0}, -30 * degrees, 200);
    branch.walker({0, 0.1, 0});
    branch.actor().controller.restore(scene.state());
    branch.intent().move = {1, 0, 0};
    branch.actor().jump.tap();
    branch.run(0.5, GetParam());
    ASSERT_EQ(branch.count(WalkerEventKind::jumped), 1) << tick;
    ASSERT_TRUE(branch.first(WalkerEventKind::apex)) << tick;
    EXPECT_NEAR(branch.first(WalkerEventKind::apex)->event.value, 1.25, 5e-3 * 1.25);
    scene.tick(dt);
  }
}

TEST_P(WalkerAtRate, JumpsFromEveryTickOverSteps) {
  const auto steps = [](Scene& scene) {
    for (int i = 0; i < 12; ++i) scene.box({i * 0.9, -1, -4}, {i * 0.9 + 0.9, 0.1 * (i < 6 ? i : 11 - i), 4});
    scene.box({-20, -1, -4}, {0, 0, 4});
    scene.box({10.8, -1, -4}, {60, 0, 4});
  };
  const double dt = 1 / GetParam();
  Scene scene;
  steps(scene);
  scene.walker({-3, 0, 0});
  scene.run(0.3, GetParam());
  scene.intent().move = {1, 0, 0};
  scene.heard.clear();
  while (scene.state().position.x < 12) {
    ASSERT_TRUE(scene.state().on_ground) << scene.state().position.x;
    Scene branch;
    steps(branch);
    branch.walker({0, 5, 0});
    branch.actor().controller.restore(scene.state());
    branch.intent().move = {1, 0, 0};
    branch.actor().jump.tap();
    branch.run(0.45, GetParam());
    ASSERT_EQ(branch.count(WalkerEventKind::jumped), 1) << scene.state().position.x;
    ASSERT_TRUE(branch.first(WalkerEventKind::apex));
    EXPECT_NEAR(branch.first(WalkerEventKind::apex)->event.value, 1.25, 5e-3 * 1.25) << scene.state().position.x;
    scene.tick(dt);
  }
  EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0);
  EXPECT_NEAR(scene.state().velocity.x, 6, 1e-9);
}

TEST_P(WalkerAtRate, AHairAboveTheGroundMayJump) {
  Scene scene;
  scene.box({-5, -1, -5}, {5, 0, 5});
  scene.walker({0, 0.04, 0});
  scene.actor().jump.tap();
  scene.tick(1 / GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);

  Scene high;
  high.box({-5, -1, -5}, {5, 0, 5});
  high.walker({0, 0.5, 0});
  high.actor().jump.tap();
  high.tick(1 / GetParam());
  EXPECT_EQ(high.count(WalkerEventKind::jumped), 0);
}

TEST_P(WalkerAtRate, JumpUpASlopeIsNotSwallowedByIt) {
  for (const double angle : {20.0, 35.0, 44.0}) {
    Scene scene;
    scene.slope({0, 0, 0}, angle * degrees, 200);
    WalkerTuning tuning;
    tuning.run.top_speed = 12;
    scene.walker({0, 0.1, 0}, tuning);
    scene.run(0.5, GetParam());
    scene.intent().move = {1, 0, 0};
    scene.run(0.5, GetParam());
    scene.heard.clear();
    scene.actor().jump.tap();
    scene.tick(1 / GetParam());
    EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);
    EXPECT_EQ(scene.count(WalkerEventKind::landed), 0) << angle;
    EXPECT_FALSE(scene.state().on_ground) << angle;
  }
}

// Moving over seams, walls, steps

void expect_level_run(Scene& scene, double hz, double length) {
  scene.run(0.3, hz);
  scene.intent().move = {1, 0, 0};
  scene.run(0.5, hz);
  const double height = scene.state().position.y;
  while (scene.state().position.x < length) {
    scene.tick(1 / hz);
    ASSERT_NEAR(scene.state().position.y, height, 1e-6) << scene.state().position.x;
    ASSERT_NEAR(scene.state().velocity.x, 6, 1e-9) << scene.state().position.x;
    ASSERT_TRUE(scene.state().on_ground);
  }
  EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0);
}

TEST_P(WalkerAtRate, RunsOverAThousandBoxesAsOverOne) {
  Scene scene;
  for (int i = 0; i < 1000; ++i) scene.box({i * 0.1 - 2, -0.5, -2}, {i * 0.1 - 1.9, 0, 2});
  scene.walker({0, 0, 0});
  expect_level_run(scene, GetParam(), 90);
}

TEST_P(WalkerAtRate, RunsOverMeshTrianglesAsOverAPlane) {
  MeshData data;
  for (int i = 0; i <= 300; ++i) {
    for (int j = 0; j <= 12; ++j) data.vertices.push_back({i * 0.31 - 3, 0.125, j * 0.37 - 2});
  }
  for (std::uint32_t i = 0; i < 300; ++i) {
    for (std::uint32_t j = 0; j < 12; ++j) {
      const std::uint32_t a = i * 13 + j, b = a + 13;
      data.triangles.push_back({a, a + 1, b});
      data.triangles.push_back({b, a + 1, b + 1});
    }
  }
  Scene scene;
  scene.stage.world.add({.shape = std::make_shared<Mesh>(std::move(data))});
  scene.walker({0, 0.2, 0.05});
  expect_level_run(scene, GetParam(), 80);
}

TEST_P(WalkerAtRate, RunsOverTilesAsOverOneFloor) {
  std::string map(120, '#');
  map += '\n';
  for (int i = 0; i < 120; ++i) map += i % 7 == 3 ? '#' : '.';  // pillars under it, so that runs differ
  map += '\n';
  Scene scene;
  scene.stage.world.add({.shape = std::make_shared<TileGrid>(map, 1.0, 4.0)});
  scene.walker({3, 2, 0});
  expect_level_run(scene, GetParam(), 110);
}

TEST_P(WalkerAtRate, RunsOverAHeightFieldAsOverAPlane) {
  Scene scene;
  scene.stage.world.add({.shape = std::make_shared<HeightField>(300, 20, 0.5, std::vector<double>(6000, 0.25)),
                         .pose = {{-2, 0, -5}, {}}});
  scene.walker({0, 0.3, 0});
  expect_level_run(scene, GetParam(), 100);
}

TEST_P(WalkerAtRate, WallsStopWhatGoesIntoThemAndKeepTheRest) {
  Scene scene = on_a_floor();
  scene.box({5, -1, -50}, {6, 5, 50});
  scene.intent().move = {std::sqrt(0.5), 0, std::sqrt(0.5)};
  scene.run(2, GetParam());
  EXPECT_NEAR(scene.state().position.x, 5 - 0.3, 1e-3);
  EXPECT_NEAR(scene.state().velocity.x, 0, 1e-9);
  EXPECT_GT(scene.state().velocity.z, 4);
  EXPECT_NEAR(scene.state().position.y, 0, 1e-6);
}

TEST_P(WalkerAtRate, JumpsAndFallsFreelyAlongAWallItIsPressedAgainst) {
  for (const Vec3& into : {Vec3{1, 0, 0}, {0.7, 0, 0}, {0.6, 0, 0.6}, {1, 0, -0.01}}) {
    Scene scene = on_a_floor();
    scene.box({0.31, -1, -50}, {3, 9, 50});
    scene.box({-9, -1, 1.31}, {0.31, 9, 3});
    scene.intent().move = into;
    scene.run(1, GetParam());
    scene.heard.clear();
    scene.actor().jump.tap();
    scene.run(1, GetParam());
    const auto jumped = scene.first(WalkerEventKind::jumped), apex = scene.first(WalkerEventKind::apex);
    const auto landed = scene.first(WalkerEventKind::landed);
    ASSERT_TRUE(jumped && apex && landed) << into.x << " " << into.z;
    EXPECT_NEAR(apex->event.value, 1.25, 5e-3 * 1.25);
    EXPECT_NEAR(landed->time - jumped->time, 0.38 + 0.38 / std::sqrt(1.5), 5e-3 * 0.69);
  }
}

TEST_P(WalkerAtRate, StepsUpToItsHeightAndNoHigher) {
  for (const double height : {0.05, 0.1, 0.2, 0.27}) {
    Scene scene = on_a_floor();
    scene.box({3, -1, -5}, {20, height, 5});
    scene.intent().move = {1, 0, 0};
    scene.run(1.2, GetParam());
    EXPECT_NEAR(scene.state().position.y, height, 1e-6) << height;
    EXPECT_NEAR(scene.state().velocity.x, 6, 1e-9) << height;
    EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0);
  }
  Scene scene = on_a_floor();
  scene.box({3, -1, -5}, {20, 0.35, 5});
  scene.intent().move = {1, 0, 0};
  scene.run(1.2, GetParam());
  EXPECT_NEAR(scene.state().position.y, 0, 1e-6);
  EXPECT_LT(scene.state().position.x, 2.75);
}

TEST_P(WalkerAtRate, SteepSlopesStopItLikeWalls) {
  Scene scene = on_a_floor();
  scene.slope({5, 0, 0}, 60 * degrees);
  scene.intent().move = {1, 0, 0.3};
  scene.run(3, GetParam());
  EXPECT_LT(scene.state().position.y, 0.3);
  EXPECT_LT(scene.state().position.x, 5.2);
  EXPECT_GT(scene.state().position.z, 2) << "slides along its foot";
  EXPECT_TRUE(scene.state().on_ground);
}

TEST_P(WalkerAtRate, StaysOnTheGroundOverTheCrestAndDown) {
  Scene scene;
  scene.slope({0, 0, 0}, 25 * degrees, 6);
  const Vec3 crest = Vec3{std::cos(25 * degrees), std::sin(25 * degrees), 0} * 6;
  scene.slope(crest + Vec3{std::cos(-25 * degrees), std::sin(-25 * degrees), 0} * 6, -25 * degrees, 6);
  scene.walker({0, 0.1, 0});
  scene.run(0.4, GetParam());
  scene.heard.clear();
  scene.intent().move = {0.6, 0, 0};
  scene.run(2.5, GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::left_ground), 0);
  EXPECT_GT(scene.state().position.x, crest.x + 1);
}

TEST_P(WalkerAtRate, BumpsItsHeadOnCeilingsAndFallsAtOnce) {
  Scene scene = on_a_floor();
  scene.box({-5, 2.3, -5}, {5, 3, 5});
  scene.actor().jump.tap();
  scene.run(1.5, GetParam());
  const auto bump = scene.first(WalkerEventKind::bumped_head);
  ASSERT_TRUE(bump);
  EXPECT_NEAR(bump->event.position.y, 2.3 - 1.74, 2e-3);
  const JumpTuning jump;
  const double v = std::sqrt(jump.take_off_speed() * jump.take_off_speed() - 2 * jump.gravity() * (2.3 - 1.74));
  EXPECT_NEAR(bump->event.value, v, 0.01 * v);
  const auto landed = scene.first(WalkerEventKind::landed);
  ASSERT_TRUE(landed);
  EXPECT_NEAR(landed->time - bump->time, std::sqrt(2 * (2.3 - 1.74) / jump.fall_law().falling), 2e-3);
}

TEST_P(WalkerAtRate, CannotStandUpInAVButCanJumpOut) {
  Scene scene;
  scene.slope({0, 0, 0}, 65 * degrees, 10);
  scene.slope({0, 0, 0}, -65 * degrees, 10);
  scene.walker({0.05, 2, 0});
  scene.run(3, GetParam());
  const Vec3 at = scene.state().position;
  scene.run(1, GetParam());
  EXPECT_LT(norm(scene.state().position - at), 0.01);
  scene.heard.clear();
  scene.actor().jump.tap();
  scene.run(0.5, GetParam());
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 1);
}

// Surfaces and moving ground

TEST_P(WalkerAtRate, KnowsItsSurfaceAndSpeedsUpByItsGrip) {
  Scene scene;
  scene.stage.world.add(
      {.shape = Box{{80, 0.5, 9}}, .pose = {{0, -0.5, 0}, {}}, .surface = {.grip = 0.1, .name = "slack ice"}});
  scene.walker({0, 0, 0});
  scene.intent().move = {1, 0, 0};
  scene.run(1, GetParam());
  EXPECT_EQ(std::string_view(scene.state().ground.surface.name), "slack ice");
  EXPECT_NEAR(scene.state().velocity.x, 2.4, 1e-9) << "a tenth of 24 m/s2";
}

TEST_P(WalkerAtRate, IsCarriedByGroundThatMovesAndTurns) {
  Scene scene;
  const BodyId raft =
      scene.stage.world.add({.shape = Box{{6, 0.5, 6}}, .pose = {{0, -0.5, 0}, {}}, .kind = BodyKind::kinematic});
  scene.walker({2, 0, 1});
  scene.run(0.2, GetParam());
  scene.stage.world.set_motion(raft, {1.5, 0.4, -0.7}, {0, 0.3, 0});
  const Vec3 start = to_local(scene.stage.world.pose(raft), scene.state().position);
  scene.run(20, GetParam());
  EXPECT_LT(norm(to_local(scene.stage.world.pose(raft), scene.state().position) - start), 1e-3);
  EXPECT_TRUE(scene.state().on_ground);
}

TEST_P(WalkerAtRate, KnocksStayInItsVelocity) {
  Scene scene = on_a_floor();
  scene.actor().controller.add_velocity({-8, 4, 0});
  scene.intent().move = {1, 0, 0};
  scene.tick(1 / GetParam());
  EXPECT_FALSE(scene.state().on_ground);
  EXPECT_LT(scene.state().velocity.x, -8 + 18 / GetParam() + 1e-9);
  EXPECT_GT(scene.state().velocity.y, 4 - 30 / GetParam());
}

// Anything

TEST(Walker, RandomInputInARandomTownStaysFiniteAndOutOfSolids) {
  std::mt19937 random(20);
  const auto uniform = [&](double low, double high) { return low + (high - low) * (random() / 4294967296.0); };
  Scene scene;
  scene.box({-12, -1, -12}, {12, 0, 12});
  for (const double s : {-1.0, 1.0}) {
    scene.box({s * 12.5 - 0.5, 0, -13}, {s * 12.5 + 0.5, 9, 13});
    scene.box({-13, 0, s * 12.5 - 0.5}, {13, 9, s * 12.5 + 0.5});
  }
  for (int i = 0; i < 60; ++i) {
    const Vec3 at{uniform(-11, 11), uniform(-0.2, 2), uniform(-11, 11)};
    const Vec3 half{uniform(0.1, 1.5), uniform(0.05, 0.8), uniform(0.1, 1.5)};
    scene.stage.world.add(
        {.shape = Box{half}, .pose = {at, rotation({uniform(-0.6, 0.6), uniform(-3, 3), uniform(-0.6, 0.6)})}});
  }
  scene.walker({0, 6, 0});
  for (int tick = 0; tick < 40000; ++tick) {
    if (random() % 20 == 0) scene.intent().move = {uniform(-1, 1), 0, uniform(-1, 1)};
    scene.actor().jump.set(random() % 3 == 0);
    const double hz = uniform(30, 240);
    scene.tick(1 / hz);
    const WalkerState& s = scene.state();
    ASSERT_TRUE(is_finite(s.position) && is_finite(s.velocity)) << tick;
    ASSERT_LT(std::abs(s.position.x), 12.1) << tick;
    ASSERT_LT(std::abs(s.position.z), 12.1) << tick;
    ASSERT_GT(s.position.y, -0.01) << tick;
    const std::array<Vec3, 2> ends{s.position + Vec3{0, 0.3, 0}, s.position + Vec3{0, 1.44, 0}};
    std::array<Overlap, 4> found;
    const std::size_t n =
        scene.stage.world.overlaps({ends, 0.3, Core::segment}, 0, found, {.self = scene.actor().controller.body()});
    for (std::size_t i = 0; i < std::min<std::size_t>(n, 4); ++i) ASSERT_LT(found[i].depth, 1.2e-3) << tick;
    scene.heard.clear();
  }
}

TEST(Walker, WorksInAWorldMeasuredInPixels) {
  const double pixels = 100;
  WalkerTuning tuning;
  tuning.body = {0.3 * pixels, 1.74 * pixels, 61};
  tuning.run.top_speed = tuning.air.top_speed = 6 * pixels;
  tuning.jump.height = 1.25 * pixels;
  tuning.jump.fall_speed_limit = 22 * pixels;
  tuning.ground.step_height = 0.28 * pixels;
  tuning.ground.probe = 0.05 * pixels;
  Scene scene;
  scene.box({-50 * pixels, -pixels, -5 * pixels}, {50 * pixels, 0, 5 * pixels});
  scene.box({3 * pixels, 0, -5 * pixels}, {50 * pixels, 0.2 * pixels, 5 * pixels});
  scene.walker({0, 0, 0}, tuning);
  scene.intent().move = {1, 0, 0};
  scene.run(1, 60);
  EXPECT_NEAR(scene.state().position.y, 0.2 * pixels, 1e-4) << "up a step";
  EXPECT_NEAR(scene.state().position.x, (0.75 + 6 * 0.75) * pixels, 1e-6 * pixels);
  scene.actor().jump.tap();
  scene.run(1, 60);
  ASSERT_TRUE(scene.first(WalkerEventKind::apex));
  EXPECT_NEAR(scene.first(WalkerEventKind::apex)->event.value, 1.25 * pixels, 1e-3 * pixels);
}

TEST(Walker, RestoredStateGoesOnWithTheSameBits) {
  Scene a, b;
  for (Scene* s : {&a, &b}) {
    s->slope({0, 0, 0}, 10 * degrees);
    s->box({6, 0, -3}, {9, 2.2, 3});
    s->walker({0, 1, 0});
  }
  a.intent().move = {0.8, 0, 0.1};
  a.run(2, 60, [&] { a.actor().jump.set(true), a.actor().jump.set(false); });
  b.actor().controller.restore(a.state());
  b.intent().move = a.intent().move;
  for (int i = 0; i < 300; ++i) {
    for (Scene* s : {&a, &b}) {
      if (i % 50 == 0) s->actor().jump.tap();
      s->tick(1.0 / 60);
    }
    ASSERT_EQ(a.state().position, b.state().position) << i;
    ASSERT_EQ(a.state().velocity, b.state().velocity) << i;
  }
}

TEST(Walker, FacesWhereItIsSteeredByHalvesOfTheAngle) {
  Scene scene = on_a_floor();
  scene.intent().move = {0, 0, 1};
  scene.run(0.05, 240);  // one half-life
  const double angle = std::atan2(scene.state().facing.z, scene.state().facing.x);
  EXPECT_NEAR(angle, 45 * degrees, 1e-9);
}

TEST(Walker, RefusesTuningsThatDoNotFit) {
  WalkerTuning tuning;
  tuning.body.height = 0.5;
  EXPECT_THROW(Walker(tuning, {}), InputError);
  tuning = {};
  tuning.ground.step_height = 1.5;
  EXPECT_THROW(Walker(tuning, {}), InputError);
  tuning = {};
  tuning.jump.height = std::nan("");
  EXPECT_THROW(Walker(tuning, {}), InputError);
  EXPECT_THROW(Walker({}, {0, std::nan(""), 0}), InputError);
}

}  // namespace
}  // namespace jugend::testing
