// Every move of a walker, as asked, in the tick of its press, and the same at every rate.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/walker/walker.hpp>

#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

class MovesAtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
  double dt = 1 / GetParam();
};
INSTANTIATE_TEST_SUITE_P(Rates, MovesAtRate, ::testing::ValuesIn(rates),
                         [](const auto& tested) { return std::to_string(static_cast<int>(tested.param)) + "Hz"; });

Scene on_floor(const WalkerTuning& tuning = {}, double hz = 60) {
  Scene scene;
  scene.box({-300, -1, -300}, {300, 0, 300});
  scene.walker({0, 0, 0}, tuning);
  scene.run(0.2, hz);
  scene.heard.clear();
  return scene;
}

double highest(Scene& scene, double seconds, double hz, const std::function<void(int)>& each = {}) {
  double top = scene.state().position.y;
  for (int i = 0; i < static_cast<int>(std::lround(seconds * hz)); ++i) {
    if (each) each(i);
    scene.tick(1 / hz);
    top = std::max(top, scene.state().position.y);
    for (const WalkerEvent& e : scene.actor().controller.events()) top = std::max(top, e.position.y);
  }
  return top;
}

// Heights

TEST_P(MovesAtRate, TapReachesItsOwnHeightAndHoldingTheWhole) {
  WalkerTuning tuning;
  tuning.jump.tap_height = 0.4;
  Scene tapped = on_floor(tuning);
  tapped.actor().jump.tap();
  EXPECT_NEAR(highest(tapped, 1.5, hz), 0.4, 0.005 * 0.4);

  Scene held = on_floor(tuning);
  held.actor().jump.set(true);
  EXPECT_NEAR(highest(held, 1.5, hz), 1.25, 0.005 * 1.25);

  // Longer holds never jump lower.
  double before = 0.39;
  for (int ticks = 1; ticks < static_cast<int>(0.4 * hz); ticks += 3) {
    Scene scene = on_floor(tuning);
    scene.actor().jump.set(true);
    const double top = highest(scene, 1.5, hz, [&](int i) {
      if (i == ticks) scene.actor().jump.set(false);
    });
    EXPECT_GT(top, before - 1e-9);
    EXPECT_LT(top, 1.2501);
    before = top;
  }
}

TEST_P(MovesAtRate, FloatNearTheApexKeepsHeightAndTime) {
  for (const double speed : {0.5, 1.5, 3.0, 50.0}) {
    WalkerTuning tuning;
    tuning.jump.float_speed = speed, tuning.jump.float_gravity = 0.4;
    Scene scene = on_floor(tuning);
    scene.actor().jump.set(true);
    EXPECT_NEAR(highest(scene, 1.5, hz), 1.25, 0.005 * 1.25) << speed;
    ASSERT_TRUE(scene.first(WalkerEventKind::apex));
    const double took = scene.first(WalkerEventKind::apex)->time - scene.first(WalkerEventKind::jumped)->time;
    EXPECT_NEAR(took, 0.38, 0.005 * 0.38) << speed;
  }
}

TEST_P(MovesAtRate, AirJumpsReachTheirHeightsAndAreCounted) {
  WalkerTuning tuning;
  tuning.jump.air_jumps = 3, tuning.jump.air_height = 1.0, tuning.jump.air_height_ratio = 0.5;
  Scene scene = on_floor(tuning);
  WalkerState high = scene.state();
  high.position = {0, 60, 0}, high.on_ground = false;
  scene.actor().controller.restore(high);
  scene.run(0.3, hz);
  for (const double wanted : {1.0, 0.5, 0.25}) {
    ASSERT_EQ(scene.actor().controller.can_jump().from, JumpFrom::air);
    const double from = scene.state().position.y;
    scene.actor().jump.tap();
    EXPECT_NEAR(highest(scene, 0.5, hz) - from, wanted, 0.005 * wanted);
  }
  EXPECT_EQ(scene.actor().controller.can_jump().why_not, NoJump::airborne);
  scene.actor().jump.tap();
  scene.run(0.2, hz);
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 3);
}

TEST(Moves, OneJumpDoesNotReachTheBlockThatTwoDo) {
  for (const double air : {0.0, 1.0}) {
    WalkerTuning tuning;
    tuning.jump.air_jumps = air;
    Scene scene = on_floor(tuning);
    scene.box({0.8, 0, -2}, {60, 1.9, 2});
    scene.intent().move = {0, 0, 0};
    scene.actor().jump.tap();
    scene.run(0.36, 60);
    scene.actor().jump.tap();
    scene.tick(1 / 60.0);
    scene.intent().move = {1, 0, 0};
    scene.run(1.5, 60);
    EXPECT_EQ(scene.state().position.y > 1.8, air > 0);
  }
}

// Windows

TEST_P(MovesAtRate, CoyoteTimeIsExactToTheTick) {
  WalkerTuning tuning;
  tuning.jump.coyote_time = 0.1;
  const int whole = static_cast<int>(std::floor(0.1 * hz + 1e-6));
  for (const int late : {0, 1, whole - 1, whole, whole + 1, whole + 2}) {
    Scene scene;
    scene.box({-20, -1, -5}, {0, 0, 5});
    scene.box({-300, -21, -300}, {300, -20, 300});
    tuning.jump.buffer = 0;
    scene.walker({-3, 0, 0}, tuning);
    scene.intent().move = {1, 0, 0};
    while (scene.count(WalkerEventKind::left_ground) == 0) scene.tick(dt);
    const double since = scene.now - scene.first(WalkerEventKind::left_ground)->time;  // 0 to one tick
    for (int i = 0; i < late; ++i) scene.tick(dt);
    const bool expected = since + late * dt <= 0.1 + 1e-9;
    EXPECT_EQ(static_cast<bool>(scene.actor().controller.can_jump()), expected) << late;
    scene.actor().jump.tap();
    const double from = scene.state().position.y;
    scene.tick(dt);
    EXPECT_EQ(scene.count(WalkerEventKind::jumped), expected ? 1 : 0) << late << " " << since;
    if (!expected) continue;
    EXPECT_EQ(scene.first(WalkerEventKind::jumped)->event.from, JumpFrom::edge);
    EXPECT_NEAR(highest(scene, 0.6, hz) - from, 1.25, 0.005 * 1.25);
  }
}

TEST_P(MovesAtRate, BufferIsExactToTheTick) {
  WalkerTuning tuning;
  tuning.jump.buffer = 0.1, tuning.ground.probe = 0;
  for (int early = 0; early < static_cast<int>(0.16 * hz); ++early) {
    Scene scene;
    scene.box({-300, -1, -300}, {300, 0, 300});
    scene.walker({0, 2, 0}, tuning);
    // The fall's time is known: pressed so many ticks before the tick in which it lands.
    const double lands = std::sqrt(2 * 2 / tuning.jump.fall_law().falling);
    const int landing_tick = static_cast<int>(std::floor(lands * hz));
    if (landing_tick - early < 1) continue;
    for (int i = 0; i < landing_tick - early; ++i) scene.tick(dt);
    const double pressed = scene.now;
    scene.actor().jump.tap();
    scene.run(0.5, hz);
    EXPECT_EQ(scene.count(WalkerEventKind::jumped), lands - pressed <= 0.1 + 1e-9 ? 1 : 0) << early;
  }
}

TEST_P(MovesAtRate, LockoutsHold) {
  WalkerTuning tuning;
  tuning.jump.lockout = 0.3, tuning.jump.landing_lockout = 0.2, tuning.jump.buffer = 0;
  tuning.jump.air_jumps = 1;
  Scene scene = on_floor(tuning);
  scene.actor().jump.tap();
  scene.tick(dt);
  const double start = scene.now - dt;
  double second = 0, landed = 0, third = 0;
  for (int i = 0; i < static_cast<int>(4 * hz) && third == 0; ++i) {
    scene.actor().jump.tap();
    scene.tick(dt);
    for (const WalkerEvent& e : scene.actor().controller.events()) {
      if (e.kind == WalkerEventKind::jumped) (second == 0 ? second : third) = scene.now - dt + e.time;
      if (e.kind == WalkerEventKind::landed) landed = scene.now - dt + e.time;
    }
  }
  EXPECT_GE(second - start, 0.3 - 1e-9);
  EXPECT_LT(second - start, 0.3 + dt);
  EXPECT_GE(third - landed, 0.2 - 1e-9);
  EXPECT_LT(third - landed, 0.2 + dt + 1e-9);
}

TEST(Moves, ReasonsAreTold) {
  WalkerTuning tuning;
  tuning.jump.landing_lockout = 1;
  Scene scene = on_floor(tuning);
  Walker& walker = scene.actor().controller;
  EXPECT_TRUE(walker.can_jump());
  walker.close(gate::jump);
  EXPECT_EQ(walker.can_jump().why_not, NoJump::gated);
  scene.actor().jump.tap();
  scene.run(0.2, 60);
  walker.open(gate::jump);
  scene.run(0.2, 60);
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 0);
  scene.actor().jump.tap();
  scene.run(0.2, 60);
  EXPECT_EQ(walker.can_jump().why_not, NoJump::airborne);
  scene.run(0.6, 60);
  EXPECT_EQ(walker.can_jump().why_not, NoJump::just_landed);
  walker.hit({{-1, 0, 0}, 1});
  scene.tick(1 / 60.0);
  EXPECT_EQ(walker.can_jump().why_not, NoJump::out_of_control);
  EXPECT_EQ(walker.can_dash(), NoMove::out_of_control);
  EXPECT_STREQ(name_of(NoJump::just_landed), "just_landed");
}

// Dashes, launches

TEST_P(MovesAtRate, DashCoversItsDistanceInItsTimeOnGroundAndInTheAir) {
  WalkerTuning tuning;
  tuning.dash.charge.charges = 1;
  tuning.dash.distance = 3, tuning.dash.time = 0.25, tuning.dash.end_speed = 2;
  for (const bool air : {false, true}) {
    Scene scene = on_floor(tuning);
    if (air) {
      scene.actor().jump.tap();
      scene.run(0.2, hz);
    }
    scene.heard.clear();
    const Vec3 start = scene.state().position;
    scene.actor().dash.tap();
    scene.tick(dt);
    EXPECT_NEAR(scene.state().position.x - start.x, std::min(dt, 0.25) * 12, 1e-9);  // in the tick of the press
    scene.run(0.5, hz);
    ASSERT_TRUE(scene.first(WalkerEventKind::dash_ended));
    const HeardEvent end = *scene.first(WalkerEventKind::dash_ended);
    EXPECT_NEAR(end.time - scene.first(WalkerEventKind::dashed)->time, 0.25, 1e-9);
    EXPECT_NEAR(end.event.position.x - start.x, 3, 0.005 * 3);
    EXPECT_NEAR(end.event.position.y, start.y, 1e-6);
    EXPECT_NEAR(end.event.value, 2, 1e-9);
    EXPECT_EQ(scene.count(WalkerEventKind::dashed), 1);
  }
}

TEST_P(MovesAtRate, ChargesCooldownAndRefill) {
  WalkerTuning tuning;
  tuning.dash.charge = {2, 0.4, 1, 0};
  Scene scene = on_floor(tuning);
  scene.actor().jump.tap();
  scene.run(0.1, hz);
  double first = -1, second = -1, third = -1;
  for (int i = 0; i < static_cast<int>(4 * hz); ++i) {
    scene.actor().dash.tap();
    scene.tick(dt);
    if (scene.count(WalkerEventKind::dashed) == 1 && first < 0) first = scene.now;
    if (scene.count(WalkerEventKind::dashed) == 2 && second < 0) second = scene.now;
    if (scene.count(WalkerEventKind::dashed) == 3 && third < 0) {
      third = scene.now;
      EXPECT_TRUE(scene.state().on_ground);
    }
    if (second > 0 && !scene.state().on_ground && third < 0 && scene.state().dash.left == 0 &&
        scene.now > second + 0.41) {
      EXPECT_EQ(scene.actor().controller.can_dash(), NoMove::no_charge);
    }
  }
  EXPECT_NEAR(second - first, 0.4, dt + 1e-9);
  EXPECT_GE(third, second + 0.4 - 1e-9);
}

TEST_P(MovesAtRate, DashAimsInSpaceAndPassesOneWayPlanks) {
  WalkerTuning tuning;
  tuning.dash.charge.charges = 1;
  tuning.dash.direction = DashDirection::aim, tuning.dash.through_one_way = 1;
  tuning.dash.distance = 4, tuning.dash.end_speed = 0;
  Scene scene = on_floor(tuning);
  scene.stage.world.add(
      {.shape = Box{{0.05, 2, 2}}, .pose = {{1, 2, 0}, {}}, .one_way = Vec3{-1, 0, 0}});  // solid for who comes from -x
  scene.intent().aim = {1, 1, 0};
  const Vec3 start = scene.state().position;
  scene.actor().dash.tap();
  scene.run(0.5, hz);
  ASSERT_TRUE(scene.first(WalkerEventKind::dash_ended));
  const Vec3 way = scene.first(WalkerEventKind::dash_ended)->event.position - start;
  EXPECT_NEAR(norm(way), 4, 0.02);
  EXPECT_NEAR(way.x, way.y, 1e-6);
}

TEST_P(MovesAtRate, LaunchReachesItsHeightOrHoldsItsSpeed) {
  WalkerTuning tuning;
  tuning.launch.charge.charges = 1;
  tuning.launch.height = 4;
  Scene high = on_floor(tuning);
  high.actor().launch.tap();
  high.tick(dt);
  EXPECT_GT(high.state().position.y, 0);
  EXPECT_NEAR(highest(high, 2, hz), 4, 0.005 * 4);

  tuning.launch.time = 0.3, tuning.launch.speed = 8;
  Scene steady = on_floor(tuning);
  steady.actor().launch.tap();
  // 8 m/s for 0.3 s, and then v²/2g.
  EXPECT_NEAR(highest(steady, 2, hz), 2.4 + 64 / (2 * tuning.jump.gravity()), 0.005 * 4);
}

struct LedgeScene {
  Scene scene;
  explicit LedgeScene(const Quat& turn = {}, bool ceiling = false) {
    WalkerTuning tuning;
    tuning.ledge.on = 1;
    scene.box({-50, -1, -50}, {50, 0, 50});
    scene.stage.world.add({.shape = Box{{1, 1.5, 3}}, .pose = {{2, 1.5, 0}, turn}});
    if (ceiling) scene.box({-5, 3.1, -5}, {5, 4, 5});
    scene.walker({0, 0, 0}, tuning);
    WalkerState high = scene.state();
    high.position = {0.6, 1.6, 0}, high.placed = false;
    if (ceiling) high.position.y = 1.32;
    scene.actor().controller.restore(high);
  }
};

// Hits

TEST_P(MovesAtRate, AHitThrowsTheStatedDistanceWhateverWasGoingOn) {
  struct Case {
    const char* name;
    std::function<void(Scene&)> before;
  };
  WalkerTuning tuning;
  tuning.dash.charge.charges = 1;
  tuning.jump.air_jumps = 1;
  const Case cases[] = {{"standing", [](Scene&) {}},
                        {"running",
                         [&](Scene& s) {
                           s.intent().move = {1, 0, 0}, s.run(0.5, hz);
                         }},
                        {"running away",
                         [&](Scene& s) {
                           s.intent().move = {-1, 0, 0}, s.run(0.5, hz);
                         }},
                        {"dashing",
                         [&](Scene& s) {
                           s.intent().move = {1, 0, 0}, s.actor().dash.tap(), s.run(0.1, hz);
                         }},
                        {"jumping", [&](Scene& s) { s.actor().jump.tap(), s.run(0.3, hz); }}};
  for (const Case& c : cases) {
    for (const double distance : {0.5, 2.0, 6.0}) {
      Scene scene = on_floor(tuning);
      c.before(scene);
      scene.intent().move = {1, 0, 0};  // held against it
      const Vec3 start = scene.state().position;
      ASSERT_TRUE(scene.actor().controller.hit({{-1, 0, 0}, distance, 0, start + Vec3{0.3, 1, 0}}));
      double furthest = 0;
      scene.tick(dt);
      EXPECT_LT(scene.state().velocity.x, 0) << c.name;  // in that tick
      for (int i = 0; i < static_cast<int>(1.0 * hz); ++i) {
        furthest = std::max(furthest, start.x - scene.state().position.x);
        scene.tick(dt);
      }
      // Seen at ticks, the furthest point may lie a little beside one.
      EXPECT_NEAR(furthest, distance, 0.02 * distance) << c.name;
      const bool turned = std::string(c.name) == "running away";
      EXPECT_EQ(scene.first(WalkerEventKind::hit)->event.place.side, turned ? HitSide::back : HitSide::front);
    }
  }
}

TEST_P(MovesAtRate, AHitThrowsAsFarFromALedgeAndOnADeck) {
  for (const double distance : {1.0, 3.0}) {
    LedgeScene l;
    l.scene.intent().move = {1, 0, 0};
    l.scene.run(0.5, hz);
    ASSERT_EQ(l.scene.state().mode, WalkerMode::hanging);
    const Vec3 hung = l.scene.state().position;
    l.scene.actor().controller.hit({{-1, 0, 0}, distance});
    double furthest = 0;
    for (int i = 0; i < static_cast<int>(0.8 * hz); ++i) {
      l.scene.tick(dt);
      furthest = std::max(furthest, hung.x - l.scene.state().position.x);
    }
    EXPECT_NEAR(furthest, distance, 0.02 * distance);

    Scene deck;
    const BodyId body = deck.stage.world.add(
        {.shape = Box{{60, 0.2, 60}}, .pose = {{}, {}}, .kind = BodyKind::kinematic, .velocity = {1, 0.5, 2}});
    deck.walker({0, 0.2, 0});
    deck.run(0.3, hz);
    deck.intent().move = {1, 0, 0};
    deck.run(0.5, hz);
    const Vec3 rode = to_local(deck.stage.world.pose(body), deck.state().position);
    deck.actor().controller.hit({{-1, 0, 0}, distance});
    furthest = 0;
    for (int i = 0; i < static_cast<int>(0.8 * hz); ++i) {
      deck.tick(dt);
      furthest = std::max(furthest, rode.x - to_local(deck.stage.world.pose(body), deck.state().position).x);
    }
    EXPECT_NEAR(furthest, distance, 0.02 * distance);
  }
}

TEST_P(MovesAtRate, ControlComesBackAndInvulnerabilityEnds) {
  WalkerTuning tuning;
  tuning.stagger.time = 0.4, tuning.stagger.recovery = 0.3, tuning.stagger.invulnerable = 1;
  Scene scene = on_floor(tuning);
  Walker& walker = scene.actor().controller;
  ASSERT_TRUE(walker.hit({{-1, 0, 0}, 2}));
  EXPECT_FALSE(walker.hit({{-1, 0, 0}, 2}));
  scene.run(0.9, hz);
  ASSERT_TRUE(scene.first(WalkerEventKind::recovered));
  EXPECT_NEAR(scene.first(WalkerEventKind::recovered)->time - scene.first(WalkerEventKind::hit)->time, 0.7, 1e-6);
  EXPECT_FALSE(walker.hit({{-1, 0, 0}, 2}));
  scene.run(0.2, hz);
  EXPECT_TRUE(walker.hit({{-1, 0, 0}, 2}));
}

TEST(Moves, AnImpulseThrowsByMassAndTellsItsSide) {
  WalkerTuning tuning;
  Scene scene = on_floor(tuning);
  scene.intent().move = {0, 0, 0};
  const Vec3 at = scene.state().position;
  scene.actor().controller.hit({{0, 0, -1}, 0, 305, at + Vec3{0, 0.9, 0.3}});
  scene.tick(1 / 240.0);
  EXPECT_NEAR(scene.state().velocity.z, -5, 0.1);  // 305 N s / 61 kg
  const auto hit = scene.first(WalkerEventKind::hit);
  ASSERT_TRUE(hit);
  EXPECT_EQ(hit->event.place.side, HitSide::right);
  EXPECT_NEAR(hit->event.place.height, 0.9 / 1.74, 1e-9);
}

TEST_P(MovesAtRate, StompIsToldFromAHitAndBounces) {
  for (const bool held : {false, true}) {
    Scene scene = on_floor();
    scene.stage.world.add({.shape = Box{{0.5, 0.3, 0.5}}, .pose = {{3, 0.3, 0}, {}}, .layers = 2});
    Walker& walker = scene.actor().controller;
    walker.stompable = walker.dangers = 2;
    walker.add_velocity({});
    WalkerState above = scene.state();
    above.position = {3, 2, 0}, above.on_ground = false, above.placed = false;
    walker.restore(above);
    scene.actor().jump.set(held);
    scene.run(0.1, hz);
    while (scene.count(WalkerEventKind::stomped) == 0) scene.tick(dt);
    scene.heard.clear();
    EXPECT_NEAR(highest(scene, 0.7, hz) - 0.6, held ? 1.8 : 1.0, 0.01 * 1.8);
    EXPECT_EQ(scene.count(WalkerEventKind::hit), 0);
  }
  Scene beside = on_floor();
  beside.stage.world.add({.shape = Box{{0.5, 0.3, 0.5}}, .pose = {{3, 0.3, 0}, {}}, .layers = 2});
  beside.actor().controller.dangers = beside.actor().controller.stompable = 2;
  beside.intent().move = {1, 0, 0};
  beside.run(1.2, hz);
  ASSERT_TRUE(beside.first(WalkerEventKind::hit));
  EXPECT_EQ(beside.count(WalkerEventKind::stomped), 0);
}

// Walls, ledges

TEST_P(MovesAtRate, WallSlideIsLimitedAndItsJumpReachesItsHeight) {
  WalkerTuning tuning;
  tuning.wall.on = 1;
  Scene scene = on_floor(tuning);
  scene.box({1, 0, -5}, {2, 30, 5});
  WalkerState high = scene.state();
  high.position = {0.69, 20, 0}, high.on_ground = false, high.placed = false;
  scene.actor().controller.restore(high);
  scene.intent().move = {1, 0, 0};
  scene.run(1.0, hz);
  EXPECT_EQ(scene.state().mode, WalkerMode::wall_sliding);
  EXPECT_NEAR(scene.state().velocity.y, -2.5, 1e-6);
  scene.heard.clear();
  scene.actor().jump.tap();
  const double from = scene.state().position.y;
  scene.tick(dt);
  ASSERT_EQ(scene.count(WalkerEventKind::jumped), 1);
  EXPECT_EQ(scene.first(WalkerEventKind::jumped)->event.from, JumpFrom::wall);
  EXPECT_LT(scene.state().velocity.x, -4);
  EXPECT_NEAR(highest(scene, 0.5, hz) - from, 1.1, 0.005 * 1.1);
}

TEST_P(MovesAtRate, HangsOnlyWhereItFallsAndPushesTowards) {
  {
    LedgeScene l;
    l.scene.run(1, hz);
    EXPECT_EQ(l.scene.count(WalkerEventKind::ledge_caught), 0) << "no input";
  }
  LedgeScene l;
  l.scene.intent().move = {1, 0, 0};
  l.scene.run(0.5, hz);
  ASSERT_EQ(l.scene.count(WalkerEventKind::ledge_caught), 1);
  EXPECT_EQ(l.scene.state().mode, WalkerMode::hanging);
  EXPECT_NEAR(l.scene.state().position.y, 3 - 1.7, 1e-9);
  EXPECT_NEAR(l.scene.state().position.x, 1 - 0.3, 1e-3);
  const Vec3 hang = l.scene.state().position;
  l.scene.run(2, hz);
  EXPECT_NEAR(norm(l.scene.state().position - hang), 0, 1e-12);
}

TEST_P(MovesAtRate, ClimbsJumpsOffAndDropsWithoutBeingCaughtAgain) {
  LedgeScene up;
  up.scene.intent().move = {1, 0, 0};
  up.scene.run(0.5, hz);
  up.scene.actor().jump.tap();
  up.scene.intent().move = {1, 0, 0};
  const double pressed = up.scene.now;
  up.scene.run(0.3, hz);
  EXPECT_EQ(up.scene.state().mode, WalkerMode::climbing);
  while (up.scene.count(WalkerEventKind::climbed) == 0 && up.scene.now < pressed + 2) up.scene.tick(dt);
  EXPECT_NEAR(up.scene.now - pressed, 0.35, dt + 1e-9);
  EXPECT_TRUE(up.scene.state().on_ground);
  EXPECT_NEAR(up.scene.state().position.y, 3, 1e-3);

  LedgeScene off;
  off.scene.intent().move = {1, 0, 0};
  off.scene.run(0.5, hz);
  off.scene.intent().move = {-1, 0, 0};
  off.scene.actor().jump.tap();
  const double from = off.scene.state().position.y;
  EXPECT_NEAR(highest(off.scene, 0.5, hz) - from, 1.25, 0.005 * 1.25);
  EXPECT_LT(off.scene.state().position.x, 0.6);

  LedgeScene drop;
  drop.scene.intent().move = {1, 0, 0};
  drop.scene.run(0.5, hz);
  drop.scene.actor().crouch.tap();
  drop.scene.run(1, hz);
  EXPECT_EQ(drop.scene.count(WalkerEventKind::ledge_caught), 1);
  EXPECT_TRUE(drop.scene.state().on_ground);
}

TEST_P(MovesAtRate, NoHangWithoutRoomAndHangsOnSlopedAndMovingLedges) {
  LedgeScene low({}, true);
  low.scene.intent().move = {1, 0, 0};
  low.scene.run(0.5, hz);
  EXPECT_EQ(low.scene.count(WalkerEventKind::ledge_caught), 0);

  LedgeScene sloped(rotation({0, 0, 0.15}));
  sloped.scene.intent().move = {1, 0, 0};
  sloped.scene.run(0.5, hz);
  EXPECT_EQ(sloped.scene.count(WalkerEventKind::ledge_caught), 1);

  Scene moving;
  WalkerTuning tuning;
  tuning.ledge.on = 1;
  const BodyId block = moving.stage.world.add(
      {.shape = Box{{1, 1.5, 3}}, .pose = {{2, 1.5, 0}, {}}, .kind = BodyKind::kinematic, .velocity = {0.4, 1, 0.3}});
  moving.walker({0.6, 1.8, 0}, tuning);
  moving.intent().move = {1, 0, 0};
  moving.run(1.0, hz);
  ASSERT_EQ(moving.count(WalkerEventKind::ledge_caught), 1);
  const Vec3 held = to_local(moving.stage.world.pose(block), moving.state().position);
  moving.stage.world.set_motion(block, {0.4, 1, 0.3}, {0, 0.8, 0});
  moving.run(1.0, hz);
  EXPECT_EQ(moving.state().mode, WalkerMode::hanging);
  EXPECT_LT(norm(to_local(moving.stage.world.pose(block), moving.state().position) - held), 1e-9);
  moving.actor().controller.hit({{-1, 0, 0}, 2});
  moving.tick(dt);
  EXPECT_EQ(moving.state().mode, WalkerMode::thrown);
}

// Crouching, one-way ground, water

TEST_P(MovesAtRate, CrouchesUnderAndStandsUpOnlyWhereThereIsRoom) {
  Scene scene = on_floor();
  scene.box({2, 1.3, -5}, {5, 4, 5});
  scene.actor().crouch.set(true);
  scene.intent().move = {1, 0, 0};
  scene.run(1.5, hz);
  EXPECT_NEAR(scene.state().velocity.x, 0.4 * 6, 1e-9);
  EXPECT_GT(scene.state().position.x, 2.4);
  EXPECT_TRUE(scene.state().crouched);
  scene.actor().crouch.set(false);
  scene.tick(dt);
  EXPECT_TRUE(scene.state().crouched);
  EXPECT_EQ(scene.actor().controller.can_jump().why_not, NoJump::low_ceiling);
  scene.actor().jump.tap();
  scene.run(0.3, hz);
  EXPECT_EQ(scene.count(WalkerEventKind::jumped), 0);
  scene.run(2.5, hz);
  EXPECT_FALSE(scene.state().crouched);
  EXPECT_GT(scene.state().position.x, 5.2);
}

TEST_P(MovesAtRate, OneWayGroundIsJumpedThroughStoodOnAndDroppedThrough) {
  Scene scene = on_floor();
  scene.stage.world.add({.shape = Box{{2, 0.05, 2}}, .pose = {{0, 0.95, 0}, {}}, .one_way = Vec3{0, 1, 0}});
  scene.actor().jump.tap();
  scene.run(1.5, hz);
  EXPECT_NEAR(scene.state().position.y, 1.0, 1e-3);
  ASSERT_TRUE(scene.state().on_ground);
  scene.actor().crouch.set(true);
  scene.actor().jump.tap();
  scene.tick(dt);
  EXPECT_LT(scene.state().velocity.y, 0);  // in that tick
  scene.actor().crouch.set(false);
  scene.run(1, hz);
  EXPECT_NEAR(scene.state().position.y, 0, 1e-3);
}

TEST_P(MovesAtRate, FloatsSwimsDivesAndJumpsOut) {
  Scene scene;
  scene.box({-50, -6, -50}, {50, -5, 50});
  scene.stage.world.add_pool({.half_extents = {50, 2.5, 50}, .pose = {{0, -2.5, 0}, {}}});
  scene.walker({0, 1, 0});
  scene.run(8, hz);
  EXPECT_EQ(scene.state().mode, WalkerMode::swimming);
  EXPECT_NEAR(scene.state().position.y, -0.8 * 1.74, 2e-3);
  EXPECT_EQ(scene.count(WalkerEventKind::splashed), 1);
  scene.intent().move = {1, 0, 0};
  scene.run(4, hz);
  EXPECT_NEAR(scene.state().velocity.x, 2.6, 0.005 * 2.6);
  scene.actor().crouch.set(true);
  scene.run(1, hz);
  EXPECT_LT(scene.state().position.y, -2.5);
  scene.actor().crouch.set(false);
  scene.run(8, hz);
  const double from = scene.state().position.y;
  scene.heard.clear();
  scene.actor().jump.tap();
  scene.tick(dt);
  EXPECT_EQ(scene.first(WalkerEventKind::jumped)->event.from, JumpFrom::water);
  EXPECT_NEAR(highest(scene, 0.5, hz) - from, 1.8, 0.005 * 1.8);
}

TEST_P(MovesAtRate, WadesSlowerTheDeeperItIs) {
  Scene scene = on_floor();
  scene.stage.world.add_pool({.half_extents = {100, 0.5, 100}, .pose = {{0, 0.5, 0}, {}}});
  scene.intent().move = {1, 0, 0};
  scene.run(1, hz);
  EXPECT_EQ(scene.state().mode, WalkerMode::wading);
  const double share = 1 / (0.8 * 1.74);
  EXPECT_NEAR(scene.state().velocity.x, 6 * (1 - 0.55 * share), 1e-6);
}

// Surfaces

TEST_P(MovesAtRate, IceStickyAndBelts) {
  Scene belt;
  belt.stage.world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}, .surface = {.belt = {0, 0, 2}}});
  belt.walker({0, 0, 0});
  belt.run(2, hz);
  EXPECT_NEAR(belt.state().position.z, 4, 0.02);
  belt.actor().jump.tap();
  belt.run(0.3, hz);
  EXPECT_NEAR(belt.state().velocity.z, 2, 1e-9);

  Scene mud;
  mud.stage.world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}, .surface = {.speed = 0.5, .jump = 0.6}});
  mud.walker({0, 0, 0});
  mud.intent().move = {1, 0, 0};
  mud.run(1, hz);
  EXPECT_NEAR(mud.state().velocity.x, 3, 1e-9);
  mud.actor().jump.tap();
  EXPECT_NEAR(highest(mud, 1, hz), 0.75, 0.005);
}

// Latency: for every action, the tick of the press is the tick of the change.

TEST_P(MovesAtRate, EveryActionActsInTheTickOfItsPress) {
  WalkerTuning tuning;
  tuning.dash.charge.charges = tuning.launch.charge.charges = 1;
  tuning.jump.air_jumps = 1, tuning.wall.on = tuning.ledge.on = 1;
  struct Row {
    const char* action;
    std::function<void(Scene&)> bring, press;
  };
  const auto in_air = [](Scene& s) {
    WalkerState high = s.state();
    high.position = {0, 20, 0}, high.on_ground = false, high.placed = false;
    s.actor().controller.restore(high);
    s.run(0.3, 60);
  };
  const auto at_wall = [](Scene& s) {
    s.box({1, 0, -5}, {2, 30, 5});
    WalkerState high = s.state();
    high.position = {0.69, 20, 0}, high.on_ground = false, high.placed = false;
    s.actor().controller.restore(high);
    s.intent().move = {1, 0, 0};
    s.run(0.5, 60);
    s.intent().move = {};
  };
  const auto from_hang = [](Scene& s) {
    s.box({1, 0, -5}, {2, 3, 5});
    WalkerState high = s.state();
    high.position = {0.6, 1.6, 0}, high.on_ground = false, high.placed = false;
    s.actor().controller.restore(high);
    s.intent().move = {1, 0, 0};
    s.run(0.8, 60);
    s.intent().move = {};
  };
  const auto nothing = [](Scene&) {};
  const auto jump = [](Scene& s) { s.actor().jump.tap(); };
  const Row rows[] = {{"run", nothing,
                       [](Scene& s) {
                         s.intent().move = {1, 0, 0};
                       }},
                      {"jump", nothing, jump},
                      {"air jump", in_air, jump},
                      {"steer in the air", in_air,
                       [](Scene& s) {
                         s.intent().move = {1, 0, 0};
                       }},
                      {"wall jump", at_wall, jump},
                      {"jump off a ledge", from_hang, jump},
                      {"drop off a ledge", from_hang, [](Scene& s) { s.actor().crouch.tap(); }},
                      {"dash", nothing, [](Scene& s) { s.actor().dash.tap(); }},
                      {"air dash", in_air, [](Scene& s) { s.actor().dash.tap(); }},
                      {"launch", nothing, [](Scene& s) { s.actor().launch.tap(); }},
                      {"hit", nothing, [](Scene& s) {
                         s.actor().controller.hit({{-1, 0, 0}, 1});
                       }}};
  for (const Row& row : rows) {
    Scene pressed = on_floor(tuning), waited = on_floor(tuning);
    row.bring(pressed), row.bring(waited);
    row.press(pressed);
    pressed.tick(dt), waited.tick(dt);
    EXPECT_GT(norm(pressed.state().velocity - waited.state().velocity), 1e-3) << row.action;
    EXPECT_GT(norm(pressed.state().position - waited.state().position), 1e-6) << row.action;
  }
}

/// The same course in a world that is turned: a ledge to hang from and climb, a dash, a throw, a wall, water.
struct TurnedCourse {
  Scene scene;
  Pose frame;

  explicit TurnedCourse(const Pose& turned) : frame(turned) {
    World& world = scene.stage.world;
    world.set_gravity(rotate(frame.orientation, {0, -9.80665, 0}));
    const auto box = [&](const Vec3& low, const Vec3& high) {
      world.add({.shape = Box{(high - low) * 0.5}, .pose = to_world(frame, Pose{(low + high) * 0.5, {}})});
    };
    box({-30, -1, -30}, {8, 0, 30});
    box({4, 0, -5}, {8, 2.93, 5});
    box({8, -6, -30}, {40, -5, 30});
    box({20, -6, -5}, {21, 20, 5});
    world.add_pool({.half_extents = {16, 2, 30}, .pose = to_world(frame, Pose{{24, -3, 0}, {}})});
    WalkerTuning tuning = all_moves();
    tuning.jump.tap_height = 0;
    scene.stage.add("courier", Walker(tuning, to_world(frame, Vec3{0, 0, 0}), rotate(frame.orientation, {1, 0, 0})));
  }
  void move(const Vec3& way) { scene.intent().move = rotate(frame.orientation, way); }
  Vec3 place() { return to_local(frame, scene.state().position); }
};

TEST(Moves, AreTheSameInAnyTurnOfTheWorld) {
  const auto run = [](TurnedCourse& c) {
    std::vector<Vec3> places;
    const auto go = [&](double seconds) { c.scene.run(seconds, 60), places.push_back(c.place()); };
    go(0.2);
    c.move({1, 0, 0});
    go(0.4);
    c.scene.actor().jump.set(true);
    go(0.38);
    c.scene.actor().jump.set(false);
    c.scene.tick(1 / 60.0);
    c.scene.actor().jump.set(true);  // again in the air, and past the edge
    go(0.8);
    c.scene.actor().jump.set(false);
    go(0.2);
    c.scene.actor().jump.set(true);
    go(0.6);
    c.scene.actor().jump.set(false);
    c.scene.actor().dash.tap();
    go(0.5);
    c.scene.actor().controller.hit({rotate(c.frame.orientation, {-1, 0, 0.5}), 1.5});
    go(1.0);
    c.scene.actor().launch.tap();
    go(1.5);
    c.scene.actor().jump.set(true);  // up, and over the block into the water
    go(0.5);
    c.scene.actor().jump.set(false);
    go(4);
    return places;
  };
  TurnedCourse level({});
  const std::vector<Vec3> reference = run(level);
  int hung = 0, swam = 0;
  for (const HeardEvent& h : level.scene.heard) {
    hung += h.event.kind == WalkerEventKind::ledge_caught;
    swam += h.event.kind == WalkerEventKind::splashed;
  }
  EXPECT_GT(hung, 0);
  EXPECT_GT(swam, 0);
  for (const Vec3& turn : {Vec3{0, 0, 1.3}, Vec3{2, 0.4, -0.6}, Vec3{0, 1.1, 0}, Vec3{pi, 0, 0}}) {
    TurnedCourse turned({{3, -8, 5}, rotation(turn)});
    const std::vector<Vec3> places = run(turned);
    for (std::size_t i = 0; i < places.size(); ++i) EXPECT_NEAR(norm(places[i] - reference[i]), 0, 1e-4) << i;
  }
}

// Bad tunings

TEST(Moves, BadTuningsAreRefusedByName) {
  const auto refused = [](auto&& change) -> std::string {
    WalkerTuning tuning;
    change(tuning);
    try {
      Walker walker(tuning, {});
    } catch (const InputError& error) {
      return error.fault().key;
    }
    return "nothing";
  };
  EXPECT_EQ(refused([](WalkerTuning& t) { t.ledge.on = 1, t.ledge.reach = 0; }), "ledge.reach");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.dash.time = 0; }), "dash.time");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.jump.buffer = -1; }), "jump.buffer");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.jump.tap_height = 2; }), "jump.tap_height");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.crouch.height_share = 2; }), "crouch.height_share");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.dash.charge.charges = 1, t.dash.end_speed = 99; }), "dash.end_speed");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.stagger.time = 0; }), "stagger.time");
  EXPECT_EQ(refused([](WalkerTuning& t) { t.kick.fraction = std::nan(""); }), "kick.fraction");
  EXPECT_EQ(refused([](WalkerTuning&) {}), "nothing");
}

}  // namespace
}  // namespace jugend::testing
