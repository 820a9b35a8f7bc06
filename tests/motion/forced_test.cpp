// Walkers on dynamic bodies, held to the outcomes that swept ones are; and balls to roll.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/port/intent.hpp>

#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class ForcedAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, ForcedAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

constexpr double within = 0.02;

struct Forced {
  Stage stage;
  std::vector<WalkerEvent> heard;
  std::vector<double> times;
  double now = 0;

  explicit Forced(const WalkerTuning& tuning = {}, double floor_half = 200) {
    stage.world.add({.shape = Box{{floor_half, 1, 200}}, .pose = {{0, -1, 0}, {}}});
    add_forced(stage, "courier", tuning, {}, {0, 0, 0});
  }
  ActorOf<ForcedWalkerKind>& actor() { return stage.actor_with<ForcedWalker>(stage.nth(0)); }
  ActorFacts facts() const { return stage.facts(stage.nth(0)); }
  const ForcedWalker& walker() { return actor().as<ForcedWalker>(); }
  void tick(double dt) {
    stage.tick(dt);
    for (const WalkerEvent& e : actor().heard()) heard.push_back(e), times.push_back(now);
    now += dt;
  }
  void run(double seconds, double hz) {
    for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) tick(1 / hz);
  }
  double highest(double seconds, double hz) {
    double top = -1e9;
    for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) {
      tick(1 / hz);
      top = std::max(top, facts().position.y);
      // Between ticks: what the speed that is left still carries.
      const double v = facts().velocity.y;
      const FallLaw law = walker().tuning().jump.fall_law();
      if (v > 0 && v < law.rising / hz) top = std::max(top, facts().position.y + v * v / (2 * law.rising));
    }
    return top;
  }
  int count(WalkerEventKind kind) const {
    return static_cast<int>(std::count_if(heard.begin(), heard.end(), [&](const auto& e) { return e.kind == kind; }));
  }
};

TEST_P(ForcedAtRate, StandsAtItsHeightAndUpright) {
  Forced f;
  f.run(1, hz);
  EXPECT_NEAR(f.facts().position.y, 0, 1e-3);
  const BodyId body = f.walker().body();
  f.stage.world.twist(body, {30, 0, 10});
  f.run(1.5, hz);
  EXPECT_GT(rotate(f.stage.world.pose(body).orientation, {0, 1, 0}).y, 0.999);
  EXPECT_NEAR(f.facts().position.y, 0, 2e-3);
}

TEST_P(ForcedAtRate, ComesUprightWithoutSpinningUp) {
  Random random(5);
  for (int i = 0; i < 40; ++i) {
    Forced f;
    World& world = f.stage.world;
    const BodyId body = f.walker().body();
    const double tilt = random.uniform(0.1, 0.8), turn = random.uniform(0, 2 * pi), spin = random.uniform(-1e-3, 1e-3);
    const Pose upright = world.pose(body);
    const Quat tilted = rotation(Vec3{std::cos(turn), 0, std::sin(turn)} * tilt);
    world.place(body, {upright.position + Vec3{0, 2, 0}, tilted * upright.orientation});
    world.set_motion(body, {}, rotate(tilted, {0, spin, 0}));
    double fastest = 0;
    for (double now = 0; now < 2; now += dt) {
      f.tick(dt);
      const Vec3 own_up = rotate(world.pose(body).orientation, {0, 1, 0});
      fastest = std::max(fastest, std::abs(dot(world.spin(body), own_up)));
    }
    EXPECT_LT(fastest, 0.01) << "tilted by " << tilt << " at " << hz << " Hz";
    EXPECT_NEAR(rotate(world.pose(body).orientation, {0, 1, 0}).y, 1, 1e-3) << "tilted by " << tilt;
  }
}

TEST_P(ForcedAtRate, RunsToTopSpeedInItsTimeAndStops) {
  Forced f;
  f.run(0.5, hz);
  const Vec3 start = f.facts().position;
  f.actor().intent.move = {1, 0, 0};
  f.run(0.5, hz);
  const double time = std::lround(0.5 * hz) / hz;
  EXPECT_NEAR(f.facts().velocity.x, 6, within * 6);
  EXPECT_NEAR(f.facts().position.x - start.x, 6 * (time - 0.125), within * 2.25);
  f.actor().intent.move = {};
  const double from = f.facts().position.x;
  f.run(0.5, hz);
  EXPECT_NEAR(f.facts().position.x - from, 6 * 0.18 / 2, within * 0.54);
  EXPECT_NEAR(f.facts().velocity.x, 0, 1e-6);
}

TEST_P(ForcedAtRate, JumpsAsHighAsAskedTappedHeldAndInTheAir) {
  Forced whole;
  whole.run(0.5, hz);
  whole.actor().jump.set(true);
  EXPECT_NEAR(whole.highest(0.8, hz), 1.25, within * 1.25);
  whole.actor().jump.set(false);

  WalkerTuning tuning;
  tuning.jump.tap_height = 0.4;
  Forced tapped(tuning);
  tapped.run(0.5, hz);
  tapped.actor().jump.tap();
  tapped.tick(dt);
  EXPECT_GT(tapped.facts().velocity.y, 0);
  EXPECT_NEAR(std::max(tapped.facts().position.y, tapped.highest(0.6, hz)), 0.4, within * 0.4);

  tuning.jump.tap_height = 0, tuning.jump.air_jumps = 1;
  Forced twice(tuning);
  twice.run(0.5, hz);
  twice.actor().jump.tap();
  twice.run(0.4, hz);
  const double from = twice.facts().position.y;
  twice.actor().jump.tap();
  EXPECT_NEAR(twice.highest(0.5, hz) - from, 1.0, within);
  EXPECT_EQ(twice.count(WalkerEventKind::jumped), 2);
}

TEST_P(ForcedAtRate, HeldKeyJumpsOnceAndLandingsAreHeard) {
  Forced f;
  f.run(0.5, hz);
  f.actor().jump.set(true);
  f.run(4, hz);
  EXPECT_EQ(f.count(WalkerEventKind::jumped), 1);
  EXPECT_GE(f.count(WalkerEventKind::landed), 1);
  EXPECT_TRUE(f.facts().on_ground);
}

TEST_P(ForcedAtRate, DashesAndIsThrownAsFarAsAsked) {
  WalkerTuning tuning;
  tuning.dash.charge.charges = 1, tuning.dash.distance = 3, tuning.dash.time = 0.2, tuning.dash.end_speed = 0;
  Forced dash(tuning);
  dash.run(0.5, hz);
  const double from = dash.facts().position.x;
  dash.actor().dash.tap();
  dash.run(1, hz);
  EXPECT_NEAR(dash.facts().position.x - from, 3, within * 3);

  Forced hit;
  hit.run(0.5, hz);
  hit.actor().intent.move = {1, 0, 0};
  hit.run(0.4, hz);
  const double struck = hit.facts().position.x;
  hit.actor().hit({{-1, 0, 0}, 2}, hit.stage.world);
  double furthest = 0;
  for (int i = 0; i < static_cast<int>(0.8 * hz); ++i) {
    hit.tick(dt);
    furthest = std::max(furthest, struck - hit.facts().position.x);
  }
  EXPECT_NEAR(furthest, 2, within * 2);
}

/// The force that was to end a dash within the tick went on when a wall had stopped that: it was thrown back at 12 m/s.
TEST_P(ForcedAtRate, ADashIntoAWallEndsThere) {
  Random random(77);
  for (int scene = 0; scene < 20; ++scene) {
    WalkerTuning tuning;
    tuning.dash.charge.charges = 1, tuning.dash.end_speed = random.uniform(0, 6);
    tuning.dash.time = random.uniform(0.1, 0.3);
    const bool in_air = random.below(2) == 0;
    const double away = random.uniform(0.4, 3.1);
    const double turn = random.uniform(-0.3, 0.3);
    Forced dash(tuning);
    dash.stage.world.add({.shape = Box{{0.5, 4, 6}}, .pose = {{away + 0.9, 0, 0}, rotation({0, turn, 0})}});
    dash.run(0.4, hz);
    if (in_air) dash.actor().jump.tap();
    dash.run(0.15, hz);
    dash.actor().dash.tap();
    double furthest = 0, back = 0;
    for (double time = 0; time < tuning.dash.time + 0.1; time += dt) {
      dash.tick(dt);
      const double x = dash.facts().position.x;
      furthest = std::max(furthest, x), back = std::max(back, furthest - x);
    }
    EXPECT_LT(back, 0.02) << "scene " << scene;
  }
}

TEST_P(ForcedAtRate, LaunchesToItsHeightAndKicksWhatItLeaves) {
  WalkerTuning tuning;
  tuning.launch.charge.charges = 1, tuning.launch.height = 3;
  Forced high(tuning);
  high.run(0.5, hz);
  high.actor().launch.tap();
  EXPECT_NEAR(high.highest(1.2, hz), 3, within * 3);

  tuning.kick.speed_cap = 1000;
  Forced kicker(tuning);
  const BodyId raft = kicker.stage.world.add({.shape = Box{{4, 0.25, 2}},
                                              .pose = {{20, 0.25, 0}, {}},
                                              .kind = BodyKind::dynamic,
                                              .surface = {.friction = 0, .friction_rule = Mixing::least},
                                              .mass = 100});
  const ActorId rider = add_forced(kicker.stage, "rider", tuning, {}, {18, 0.5, 0});
  kicker.run(1, hz);
  kicker.stage.actor(rider).as<WalkerControls>().intent.move = {1, 0, 0};
  kicker.run(0.3, hz);
  kicker.stage.actor(rider).as<WalkerControls>().jump.set(true);
  kicker.tick(dt);
  kicker.run(0.1, hz);
  const double own = 61 * kicker.stage.facts(rider).velocity.x, other = 100 * kicker.stage.world.velocity(raft).x;
  EXPECT_GT(own, 250);
  EXPECT_NEAR(own + other, 0, 0.02 * own);
}

TEST_P(ForcedAtRate, CoyoteTimeAndBufferHold) {
  WalkerTuning tuning;
  tuning.jump.coyote_time = 0.15;
  for (const double late : {0.05, 0.3}) {
    Forced f(tuning, 5);
    f.run(0.5, hz);
    f.actor().intent.move = {1, 0, 0};
    while (f.count(WalkerEventKind::left_ground) == 0 && f.now < 5) f.tick(dt);
    f.run(late, hz);
    f.actor().jump.tap();
    f.tick(dt);
    EXPECT_EQ(f.count(WalkerEventKind::jumped), late < 0.15 ? 1 : 0);
  }
  tuning.jump.buffer = 0.2;
  Forced early(tuning);
  early.run(0.5, hz);
  early.actor().jump.tap();
  early.run(0.6, hz);  // it lands at about 0.69 s
  early.actor().jump.tap();
  early.run(0.4, hz);
  EXPECT_EQ(early.count(WalkerEventKind::jumped), 2);
}

TEST_P(ForcedAtRate, PushesIsPushedAndCarriesMomentum) {
  Forced f;
  const BodyId crate = f.stage.world.add(
      {.shape = Box{{0.4, 0.4, 0.4}}, .pose = {{2, 0.4, 0}, {}}, .kind = BodyKind::dynamic, .mass = 22});
  f.run(0.5, hz);
  f.actor().intent.move = {1, 0, 0};
  f.run(1.5, hz);
  EXPECT_GT(f.stage.world.pose(crate).position.x, 2.5);

  Forced struck;
  struck.run(0.5, hz);
  struck.stage.world.add({.shape = Sphere{0.3},
                          .pose = {{-1.5, 1, 0}, {}},
                          .kind = BodyKind::dynamic,
                          .velocity = {12, 0, 0},
                          .mass = 20,
                          .gravity_scale = 0});
  double fastest = 0;
  for (int i = 0; i < static_cast<int>(0.3 * hz); ++i) {
    struck.tick(dt);
    fastest = std::max(fastest, struck.facts().velocity.x);
  }
  // Without restitution both go on at 12 * 20 / 81 m/s; its legs brake it within the tick of the blow already.
  EXPECT_GT(fastest, 12 * 20.0 / 81 - 33.4 * dt);
  EXPECT_GT(struck.facts().position.x, 0.05);
}

TEST_P(ForcedAtRate, KeepsAShareOfTheGroundsVelocity) {
  for (const double share : {0.0, 0.5, 1.0}) {
    WalkerTuning tuning;
    tuning.carry.level = share;
    Forced f(tuning);
    f.stage.world.add(
        {.shape = Box{{60, 0.2, 3}}, .pose = {{0, 2, 30}, {}}, .kind = BodyKind::kinematic, .velocity = {4, 0, 0}});
    const ActorId rider = add_forced(f.stage, "rider", tuning, {}, {0, 2.2, 30});
    f.run(1, hz);
    EXPECT_NEAR(f.stage.facts(rider).velocity.x, 4, 0.01);
    f.stage.actor(rider).as<WalkerControls>().jump.set(true);
    f.run(0.25, hz);
    EXPECT_NEAR(f.stage.facts(rider).velocity.x, 4 * share, 0.02);
  }
}

TEST_P(ForcedAtRate, HangsClimbsAndJumpsOff) {
  for (const bool climbs : {true, false}) {
    WalkerTuning tuning;
    tuning.ledge.on = 1;
    Forced f(tuning);
    f.stage.world.add({.shape = Box{{1, 1.5, 3}}, .pose = {{12, 1.5, 0}, {}}});
    add_forced(f.stage, "climber", tuning, {}, {10.6, 1.7, 0});
    f.stage.actor(f.stage.nth(1)).as<WalkerControls>().intent.move = {1, 0, 0};
    f.run(0.6, hz);
    ASSERT_EQ(f.stage.facts(f.stage.nth(1)).mode, WalkerMode::hanging);
    EXPECT_NEAR(f.stage.facts(f.stage.nth(1)).position.y, 1.3, 2e-3);
    const Vec3 hang = f.stage.facts(f.stage.nth(1)).position;
    f.run(1, hz);
    EXPECT_LT(norm(f.stage.facts(f.stage.nth(1)).position - hang), 2e-3);
    if (!climbs) f.stage.actor(f.stage.nth(1)).as<WalkerControls>().intent.move = {-1, 0, 0};
    f.stage.actor(f.stage.nth(1)).as<WalkerControls>().jump.set(true);
    double top = 0;
    for (int i = 0; i < static_cast<int>(0.8 * hz); ++i) {
      f.tick(dt);
      if (climbs) f.stage.actor(f.stage.nth(1)).as<WalkerControls>().intent.move = {};
      top = std::max(top, f.stage.facts(f.stage.nth(1)).position.y);
    }
    if (climbs) {
      EXPECT_NEAR(f.stage.facts(f.stage.nth(1)).position.y, 3, 0.02);
      EXPECT_GT(f.stage.facts(f.stage.nth(1)).position.x, 11);
    } else {
      EXPECT_NEAR(top - hang.y, 1.25, within * 1.25 + 0.25 * dt * dt * tuning.jump.gravity());
      EXPECT_LT(f.stage.facts(f.stage.nth(1)).position.x, 10.6);
    }
  }
}

TEST_P(ForcedAtRate, SlidesDownAWallAndJumpsOffIt) {
  WalkerTuning tuning;
  tuning.wall.on = 1;
  Forced f(tuning);
  f.stage.world.add({.shape = Box{{0.5, 20, 5}}, .pose = {{11.5, 20, 0}, {}}});
  add_forced(f.stage, "slider", tuning, {}, {10.65, 20, 0});
  f.stage.actor(f.stage.nth(1)).as<WalkerControls>().intent.move = {1, 0, 0};
  f.run(1.2, hz);
  EXPECT_EQ(f.stage.facts(f.stage.nth(1)).mode, WalkerMode::wall_sliding);
  EXPECT_NEAR(f.stage.facts(f.stage.nth(1)).velocity.y, -2.5, 0.02);
  f.stage.actor(f.stage.nth(1)).as<WalkerControls>().jump.set(true);
  const double from = f.stage.facts(f.stage.nth(1)).position.y;
  double top = from;
  for (int i = 0; i < static_cast<int>(0.5 * hz); ++i) {
    f.tick(dt);
    if (i == 0) {
      EXPECT_LT(f.stage.facts(f.stage.nth(1)).velocity.x, -4);
    }
    const double v = f.stage.facts(f.stage.nth(1)).velocity.y, g = tuning.jump.gravity();
    top = std::max(top, f.stage.facts(f.stage.nth(1)).position.y + (v > 0 && v < g * dt ? v * v / (2 * g) : 0));
  }
  EXPECT_NEAR(top - from, 1.1, within * 1.1);
}

TEST_P(ForcedAtRate, SwimsAndCrouches) {
  Forced f;
  f.stage.world.add({.shape = Box{{20, 0.5, 20}}, .pose = {{0, -20.5, 300}, {}}});
  f.stage.world.add_pool({.half_extents = {20, 9.5, 20}, .pose = {{0, -10.5, 300}, {}}});
  add_forced(f.stage, "swimmer", {}, {}, {0, -0.5, 300});
  f.run(8, hz);
  EXPECT_EQ(f.stage.facts(f.stage.nth(1)).mode, WalkerMode::swimming);
  EXPECT_NEAR(f.stage.facts(f.stage.nth(1)).position.y, -1 - 0.8 * 1.74, 0.01);
  f.stage.actor(f.stage.nth(1)).as<WalkerControls>().intent.move = {1, 0, 0};
  f.run(3, hz);
  EXPECT_NEAR(f.stage.facts(f.stage.nth(1)).velocity.x, 2.6, within * 2.6);

  f.stage.world.add({.shape = Box{{2, 0.5, 5}}, .pose = {{5, 2.1, 0}, {}}});  // 1.6 m above the floor
  f.actor().crouch.set(true);
  f.actor().intent.move = {1, 0, 0};
  f.run(2, hz);
  EXPECT_EQ(f.facts().mode, WalkerMode::crouching);
  EXPECT_NEAR(f.facts().velocity.x, 0.4 * 6, within * 2.4);
  EXPECT_GT(f.facts().position.x, 3.5);
  f.actor().crouch.set(false);
  f.run(0.1, hz);
  EXPECT_EQ(f.facts().mode, WalkerMode::crouching);
  f.run(2, hz);
  EXPECT_EQ(f.facts().mode, WalkerMode::running);
}

TEST_P(ForcedAtRate, FeelsDangersAndStomps) {
  Forced f;
  f.stage.world.add({.shape = Box{{0.5, 0.3, 0.5}}, .pose = {{4, 0.3, 0}, {}}, .layers = 3});
  f.stage.world.add({.shape = Box{{0.5, 0.3, 0.5}}, .pose = {{0, 0.3, 9}, {}}, .layers = 5});
  f.actor().as<ForcedWalker>().dangers = 2;
  const ActorId other = add_forced(f.stage, "stomper", {}, {}, {0, 2.5, 9});
  auto& stomper = f.stage.actor(other).as<ForcedWalker>();
  stomper.stompable = 4;
  f.actor().intent.move = {1, 0, 0};
  int stomps = 0;
  for (int i = 0; i < static_cast<int>(2 * hz); ++i) {
    f.tick(dt);
    for (const WalkerEvent& e : stomper.events()) stomps += e.kind == WalkerEventKind::stomped;
  }
  EXPECT_GT(f.count(WalkerEventKind::hit), 0);
  EXPECT_GT(stomps, 0);
}

TEST_P(ForcedAtRate, RidesADeckWithoutSlip) {
  Forced f;
  const BodyId deck =
      f.stage.world.add({.shape = Box{{3, 0.2, 3}}, .pose = {{20, 2, 0}, {}}, .kind = BodyKind::kinematic});
  f.stage.add_rail(deck, RailMotion(Path(std::vector<Vec3>{{0, 0, 0}, {8, 2, 3}}, true), {.duration = 3}));
  add_forced(f.stage, "rider", {}, {}, {20, 2.2, 0});
  f.run(1, hz);
  const Vec3 start = to_local(f.stage.world.pose(deck), f.stage.facts(f.stage.nth(1)).position);
  double slip = 0;
  for (int i = 0; i < static_cast<int>(12 * hz); ++i) {
    f.tick(dt);
    const Vec3 off = to_local(f.stage.world.pose(deck), f.stage.facts(f.stage.nth(1)).position) - start;
    slip = std::max(slip, std::hypot(off.x, off.z));
  }
  EXPECT_LT(slip, 0.05);
  EXPECT_TRUE(f.stage.facts(f.stage.nth(1)).on_ground);
}

TEST(Forced, BadTuningsAreRefusedByName) {
  Stage stage;
  const auto refused = [&](const LegsTuning& ride) -> std::string {
    try {
      add_forced(stage, "a", {}, ride, {});
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "nothing";
  };
  EXPECT_EQ(refused({.clearance = 1.5}), "legs.clearance");
  EXPECT_EQ(refused({.frequency = 0}), "legs.frequency");
  EXPECT_EQ(refused({.run_force = -1}), "legs.run_force");
}

// Balls

struct Ball {
  Stage stage;
  BodyId body;
  explicit Ball(const RollerTuning& tuning = {}, const Vec3& at = {0, 0.4, 0}) {
    stage.world.add({.shape = Box{{400, 1, 400}}, .pose = {{0, -1, 0}, {}}, .surface = {.friction = 1}});
    body = stage.world.add(
        {.shape = Sphere{0.4}, .pose = {at, {}}, .kind = BodyKind::dynamic, .surface = {.friction = 1}, .mass = 25});
    add_roller(stage, "buoy", tuning, body);
  }
  void run(double seconds, double hz) {
    for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) stage.tick(1 / hz);
  }
  Vec3 velocity() const { return stage.world.velocity(body); }
};

TEST_P(ForcedAtRate, TorqueRollsABallAtTheClosedForm) {
  RollerTuning tuning;
  tuning.ground_force = 0, tuning.ground_torque = 20, tuning.rolling_drag = 0;
  Ball ball(tuning);
  ball.run(0.2, hz);
  ball.stage.actor(ball.stage.nth(0)).as<RollerControls>().intent.move = {1, 0, 0};
  ball.run(1, hz);
  // Rolling: (I + m r²) α = τ, a = α r, with I = 2/5 m r².
  const double a = 20 / (1.4 * 25 * 0.4);
  EXPECT_NEAR(ball.velocity().x, a, 0.01 * a);
  EXPECT_NEAR(ball.stage.world.spin(ball.body).z, -a / 0.4, 0.01 * a / 0.4);
}

TEST_P(ForcedAtRate, SpinAloneSteersNothingInTheAirAndBitesOnLanding) {
  RollerTuning tuning;
  tuning.air_force = 0, tuning.air_torque = 12, tuning.air_drag = 0;
  Ball ball(tuning, {0, 12, 0});
  ball.stage.actor(ball.stage.nth(0)).as<RollerControls>().intent.move = {1, 0, 0};
  ball.run(1.2, hz);
  EXPECT_NEAR(ball.velocity().x, 0, 1e-9);
  const double spin = -ball.stage.world.spin(ball.body).z;
  EXPECT_GT(spin, 5);
  EXPECT_LE(spin, tuning.top_spin * (1 + 1e-9));
  ball.stage.actor(ball.stage.nth(0)).as<RollerControls>().intent.move = {};
  ball.run(1.0, hz);
  EXPECT_GT(ball.velocity().x, 0.5);  // what spun now rolls
}

TEST_P(ForcedAtRate, BallJumpsItsHeightOnceAndDragsAsStated) {
  Ball ball;
  ball.run(0.5, hz);
  ball.stage.actor(ball.stage.nth(0)).as<RollerControls>().jump.set(true);
  double top = 0;
  int jumps = 0;
  for (int i = 0; i < static_cast<int>(3 * hz); ++i) {
    ball.stage.tick(dt);
    const double v = ball.velocity().y;
    const double y = ball.stage.world.pose(ball.body).position.y;
    top = std::max(top, y + (v > 0 ? v * v / (2 * standard_gravity) : 0));
    for (const WalkerEvent& e : ball.stage.actor(ball.stage.nth(0)).heard()) jumps += e.kind == WalkerEventKind::jumped;
  }
  EXPECT_EQ(jumps, 1);
  EXPECT_NEAR(top - 0.4, 1.2, 0.005 * 1.2);

  RollerTuning slow;
  slow.rolling_drag = 0.5;
  Ball rolling(slow);
  rolling.run(0.3, hz);
  rolling.stage.world.set_motion(rolling.body, {5, 0, 0}, {0, 0, -12.5});
  rolling.run(2, hz);
  EXPECT_NEAR(rolling.velocity().x, 5 * std::exp(-0.5 * std::lround(2 * hz) / hz), 0.02 * 5);
}

TEST(Roller, OnlyDynamicSpheresRoll) {
  Stage stage;
  const BodyId box = stage.world.add({.shape = Box{}});
  EXPECT_THROW(add_roller(stage, "buoy", {}, box), InputError);
  RollerTuning bad;
  bad.top_spin = -1;
  EXPECT_THROW(Roller(bad, box), InputError);
}

// Intents

TEST(Intent, SticksAreRescaledAndKeysCancel) {
  const StickTuning tuning{0.2, 0.9, 1};
  EXPECT_EQ(shaped({0.1, 0.15}, tuning).x, 0);
  EXPECT_NEAR(shaped({0.200001, 0}, tuning).x, 0, 1e-5);  // no jump at the rim
  EXPECT_NEAR(shaped({0.55, 0}, tuning).x, 0.5, 1e-12);
  EXPECT_DOUBLE_EQ(shaped({0.95, 0}, tuning).x, 1);
  const Stick corner = shaped({1, 1}, tuning);
  EXPECT_NEAR(std::hypot(corner.x, corner.y), 1, 1e-12);
  EXPECT_EQ(shaped({std::nan(""), 1}, tuning).y, 0);
  EXPECT_EQ(axis_of_keys(true, true), 0);
  EXPECT_EQ(stick_of_keys(true, true, false, true).y, 1);
  EXPECT_NEAR(std::hypot(stick_of_keys(false, true, false, true).x, stick_of_keys(false, true, false, true).y), 1,
              1e-12);
  EXPECT_THROW(check(StickTuning{0.5, 0.4, 1}), InputError);
  EXPECT_THROW(check(StickTuning{-0.1, 1, 1}), InputError);
}

TEST(Intent, IsLevelHoweverSteeplyTheCameraLooks) {
  const Vec3 up{0, 1, 0};
  for (const double pitch : {0.0, -0.7, -1.5, 1.2, -pi / 2}) {
    const Vec3 camera{std::cos(pitch), std::sin(pitch), 0}, camera_up{-std::sin(pitch), std::cos(pitch), 0};
    const Vec3 ahead = relative_to_camera({0, 1}, camera, camera_up, up);
    EXPECT_NEAR(norm(ahead - Vec3{1, 0, 0}), 0, 1e-9) << pitch;
    EXPECT_NEAR(norm(relative_to_camera({1, 0}, camera, camera_up, up) - Vec3{0, 0, 1}), 0, 1e-9) << pitch;
  }
}

}  // namespace
}  // namespace jugend::testing
