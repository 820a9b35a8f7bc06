// What walkers did wrong once, each as a class: heights, speeds, angles, phases and rates drawn at random.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/motion/guidance/rail_motion.hpp>

#include "../support/any_value.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 72, 120, 144, 240};

double draw_rate(Random& random) { return any_rate[random.below(6)]; }

// One-way decks

TEST(FaultsOnFoot, ARisingOneWayDeckCarriesWhateverComesDownOnIt) {
  Random random(11);
  for (int i = 0; i < 150; ++i) {
    const double hz = draw_rate(random), rise = random.uniform(0.2, 5), high = random.uniform(0.3, 3);
    const double gap = random.uniform(0, 0.05), half = random.uniform(0.02, 0.3);
    Scene scene;
    scene.stage.world.add({.shape = Box{{5, half, 5}},
                           .pose = {{0, -half - gap, 0}, {}},
                           .kind = BodyKind::kinematic,
                           .velocity = {0, rise, 0},
                           .one_way = Vec3{0, 1, 0}});
    scene.walker({0, high, 0});
    scene.run(3, hz);
    EXPECT_TRUE(scene.state().on_ground) << i << " at " << hz << " Hz, deck " << rise << " m/s, from " << high << " m";
    EXPECT_EQ(scene.count(WalkerEventKind::landed), 1) << i;
    EXPECT_NEAR(scene.state().position.y, rise * scene.now - gap, 1e-3) << i;
  }
}

TEST(FaultsOnFoot, AOneWayDeckIsStillPassedFromBelow) {
  Random random(12);
  for (int i = 0; i < 40; ++i) {
    const double hz = draw_rate(random), rise = random.uniform(0, 0.8);
    Scene scene;
    scene.box({-5, -1, -5}, {5, 0, 5});
    scene.stage.world.add({.shape = Box{{5, 0.05, 5}},
                           .pose = {{0, random.uniform(2.2, 2.6), 0}, {}},
                           .kind = BodyKind::kinematic,
                           .velocity = {0, rise, 0},
                           .one_way = Vec3{0, 1, 0}});
    scene.walker({0, 0, 0});
    scene.run(0.2, hz);
    scene.actor().jump.set(true);
    scene.run(0.3, hz);
    EXPECT_EQ(scene.count(WalkerEventKind::bumped_head), 0) << i;
    EXPECT_GT(scene.state().position.y, 1) << i;
  }
}

// Low roofs

/// Ground that rises under a flat roof: the walker is stopped where it no longer fits, and can turn back.
void walk_under_a_roof(Random& random, bool stairs) {
  const double hz = draw_rate(random), roof = random.uniform(2, 2.6);
  Scene scene;
  scene.box({-20, -1, -30}, {20, 0, 30});
  const double angle = random.uniform(0.1, 0.6), step = random.uniform(0.1, 0.27);
  if (stairs) {
    for (int i = 0; i < 8; ++i) scene.box({2 + 0.4 * i, 0, -30}, {20, step * (i + 1), 30});
  } else {
    scene.slope({2, 0, 0}, angle);
  }
  scene.box({-20, roof, -30}, {20, roof + 1, 30});
  scene.walker({0, 0, 0});
  scene.run(0.1, hz);
  scene.heard.clear();
  const double aside = random.uniform(-0.7, 0.7);
  scene.intent().move = normalised(Vec3{1, 0, aside});
  scene.run(2, hz);
  const std::string what = (stairs ? "stairs of " + std::to_string(step) : "a ramp of " + std::to_string(angle)) +
                           " rad or m under " + std::to_string(roof) + " m at " + std::to_string(hz) + " Hz";
  EXPECT_TRUE(scene.state().on_ground) << what;
  EXPECT_LE(scene.heard.size(), 4u) << what << ": it flickers";
  EXPECT_LT(scene.state().position.y + 1.74, roof + 1e-3) << what;
  EXPECT_GT(scene.state().position.x, 0.8) << what;
  scene.intent().move = {-1, 0, 0};
  const double from = scene.state().position.x;
  scene.run(0.8, hz);
  EXPECT_LT(scene.state().position.x, from - 1.5) << what << ": it is stuck";
}

TEST(FaultsOnFoot, RampsUnderARoofStopTheHeadAndLetItTurnBack) {
  Random random(21);
  for (int i = 0; i < 40; ++i) walk_under_a_roof(random, false);
}
TEST(FaultsOnFoot, StairsUnderARoofStopTheHeadAndLetItTurnBack) {
  Random random(22);
  for (int i = 0; i < 40; ++i) walk_under_a_roof(random, true);
}

/// Stairs or a ramp under a roof that slants along and across: where it ends, standing, crouched, by sweeps and by
/// forces, they turn back from, and they do not drop and land all the time.
TEST(FaultsOnFoot, SlantedRoofsHoldNobodyFast) {
  Random random(23);
  int caught = 0, flickers = 0;
  const int scenes = scenes_of(300);
  for (int i = 0; i < scenes; ++i) {
    const double hz = draw_rate(random), tread = random.uniform(0.25, 0.7), step = random.uniform(0.05, 0.27);
    const double along = random.uniform(-0.3, 0.3), across = random.uniform(-0.3, 0.3),
                 aside = random.uniform(-0.7, 0.7);
    const double angle = random.uniform(0.1, 0.6), roof = random.uniform(1.9, 2.6) + 3 * std::max(0.0, std::tan(along));
    const bool stairs = random.below(2), forced = random.below(3) == 0, crouches = random.below(4) == 0;
    Scene s;
    s.box({-40, -1, -40}, {40, 0, 40});
    if (!stairs) s.slope({2, 0, 0}, angle, 30);
    for (int k = 0; stairs && k < 8; ++k) s.box({2 + tread * k, 0, -20}, {30, step * (k + 1), 20});
    s.stage.world.add({.shape = Box{{40, 0.5, 40}}, .pose = {{3, roof + 0.5, 0}, rotation({across, 0, along})}});
    forced ? void(add_forced(s.stage, "courier", {}, {}, {})) : s.walker({});
    auto& actor = s.stage.actor(s.stage.nth(0));
    auto& controls = actor.as<WalkerControls>();
    std::size_t heard = 0;
    const auto run = [&](double seconds) {
      for (int tick = 0; tick < seconds * hz - 1e-9; ++tick) s.stage.tick(1 / hz), heard += actor.heard().size();
    };
    if (crouches) controls.crouch.set(true);
    controls.intent.move = normalised(Vec3{1, 0, aside});
    run(1.5);
    heard = 0;
    run(0.5);
    flickers += heard > 8;
    const double from = s.stage.facts(s.stage.nth(0)).position.x;
    controls.intent.move = {-1, 0, 0};
    run(1);
    const double back = s.stage.facts(s.stage.nth(0)).position.x;
    caught += back > std::max(-1.0, from - (crouches ? 0.4 : 1));
  }
  EXPECT_LE(caught, 1 + scenes / 100);
  EXPECT_LE(flickers, 1 + scenes / 20);
}

/// Boxes, capsules and cylinders of any size and turn in a walled yard.
void add_rocks(Scene& s, Random& random) {
  s.box({-60, -1, -60}, {60, 0, 60});
  for (int side = 0; side < 4; ++side) {
    const Quat turn = rotation({0, side * pi / 2, 0});
    s.stage.world.add({.shape = Box{{8, 6, 0.5}}, .pose = {rotate(turn, {0, 3, 8}), turn}});
  }
  for (std::uint32_t rock = 0, count = 10 + random.below(50); rock < count; ++rock) {
    const double x = random.uniform(-7.5, 7.5), y = random.uniform(-0.5, 2.8), z = random.uniform(-7.5, 7.5);
    const double a = random.uniform(0.1, 1.5), b = random.uniform(0.1, 1.5), c = random.uniform(0.1, 1.5);
    const Vec3 axis = random.direction();
    const Pose at{{x, y, z}, rotation(axis * random.uniform(0, 3))};
    const std::uint32_t kind = random.below(4);
    if (std::hypot(x, z) < 2) continue;
    const Shape shape = kind < 2    ? Shape{Box{{a, b, c}}}
                        : kind == 2 ? Shape{Capsule{0.5 * a, b}}
                                    : Shape{Cylinder{a, b}};
    s.stage.world.add({.shape = shape, .pose = at});
  }
}

/// Among rocks, under them and in the clefts between them nobody comes to be inside of one, drops and lands in each
/// tick, or is held by less than a cleft.
TEST(FaultsOnFoot, RocksHoldNobodyFast) {
  Random random(24);
  int stuck = 0, flickers = 0;
  const int scenes = scenes_of(60);
  for (int i = 0; i < scenes; ++i) {
    const double hz = draw_rate(random);
    Scene s;
    add_rocks(s, random);
    const WalkerTuning tuning = random.below(2) == 0 ? WalkerTuning{} : all_moves();
    s.walker({}, tuning);
    std::size_t most = 0;
    const auto run = [&](double heading, double share, double seconds) {
      s.intent().move = Vec3{std::cos(heading), 0, std::sin(heading)} * share;
      const Vec3 from = s.state().position;
      s.heard.clear();
      s.run(seconds, hz);
      most = std::max(most, s.heard.size());
      const double r = tuning.body.radius, lift = tuning.ground.step_height + r;
      const std::array ends{s.state().position + Vec3{0, lift, 0},
                            s.state().position + Vec3{0, std::max(lift, tuning.body.height - r), 0}};
      std::array<Overlap, 1> found;
      const Filter others{.layers = ~walker_layer::all};
      EXPECT_EQ(s.stage.world.overlaps({ends, r - 0.02, Core::segment}, 0, found, others), 0u)
          << i << " at " << hz << " Hz";
      return norm(s.state().position - from);
    };
    for (int turn = 0; turn < 20; ++turn) {
      s.actor().jump.set(random.below(3) == 0);
      const double heading = random.uniform(0, 2 * pi), share = random.uniform(0.3, 1);
      const double way = run(heading, share, 0.5);
      s.actor().jump.set(false);
      if (way > 0.02) continue;
      double best = 0;
      for (int eighth = 0; eighth < 8; ++eighth) best = std::max(best, run(eighth * pi / 4, 1, 0.3));
      if (best > 0.02) continue;
      ++stuck;
      break;
    }
    flickers += most > 40;
  }
  EXPECT_LE(stuck, 1 + scenes / 20);
  EXPECT_LE(flickers, 1 + scenes / 20);
}

// Landings on legs

/// A jump that waits for its lockout after a plunge begins within a tick, from folded legs. The one force that takes
/// the trunk there led it down to the ground before, which threw it up to four metres high.
TEST(FaultsOnFoot, AJumpAfterAPlungeIsAsHighAsAnyAtEveryRate) {
  Random random(819);
  int jumped = 0;
  const int scenes = scenes_of(80);
  for (int scene = 0; scene < scenes; ++scene) {
    WalkerTuning tuning;
    tuning.plunge.on = true, tuning.jump.buffer = 0.3, tuning.jump.tap_height = 0;
    tuning.jump.landing_lockout = random.uniform(0, 0.1);
    ForcedTuning forced;
    forced.legs.clearance = random.uniform(0.15, 0.5);
    const double high = random.uniform(0.3, 3), plunges = random.uniform(0.02, 0.2);
    const double jumps = plunges + random.uniform(0.03, 0.2);
    const bool stands = random.below(2) == 0;
    const Vec3 lift = stands ? Vec3{} : Vec3{random.uniform(-3, 3), random.uniform(-3, 3), 1};
    const auto top_at = [&](double hz) {
      Scene s;
      s.stage.world.add(
          {.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}, .kind = BodyKind::kinematic, .velocity = lift});
      add_forced(s.stage, "courier", tuning, forced.legs, {0, high, 0});
      auto& actor = s.stage.actor(s.stage.nth(0));
      auto& walker = actor.as<ForcedWalker>();
      WalkerState falls = walker.state();
      falls.placed = false;
      walker.restore(falls);
      auto& controls = actor.as<WalkerControls>();
      std::optional<double> top;
      bool landed = false;
      // At times that all rates have a tick at.
      const double from = std::round(30 * plunges) / 30, then = std::round(30 * jumps) / 30;
      for (int tick = 0; tick < 1.6 * hz; ++tick) {
        if (tick == std::lround(from * hz)) controls.crouch.set(true);
        if (tick == std::lround(then * hz)) controls.jump.set(true);
        s.stage.tick(1 / hz);
        for (const WalkerEvent& e : walker.events()) {
          landed |= e.kind == WalkerEventKind::landed;
          if (e.kind == WalkerEventKind::apex && landed && !top) top = e.value;
        }
      }
      return top;
    };
    const auto fine = top_at(1920);
    if (!fine) continue;
    ++jumped;
    EXPECT_NEAR(stands ? *fine : tuning.jump.height, tuning.jump.height, 0.01) << scene;
    for (const double hz : common_rates) {
      const auto top = top_at(hz);
      ASSERT_TRUE(top) << scene << ", " << hz << " Hz";
      EXPECT_NEAR(*top, *fine, hz < 40 ? 0.2 : 0.06) << scene << ", " << hz << " Hz";
    }
  }
  EXPECT_GE(jumped, scenes / 2);
}

TEST(FaultsOnFoot, LegsTakeUpALandingOnceAtAnyRate) {
  Random random(31);
  for (int i = 0; i < 120; ++i) {
    const double hz = draw_rate(random), high = random.uniform(0.1, 4);
    Stage stage;
    stage.world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
    add_forced(stage, "courier", {}, {}, {0, high, 0});
    int landed = 0, left = 0;
    double after = -1, highest = 0;
    for (double now = 0; now < 2.5; now += 1 / hz) {
      stage.tick(1 / hz);
      for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard()) {
        landed += e.kind == WalkerEventKind::landed, left += e.kind == WalkerEventKind::left_ground;
        if (e.kind == WalkerEventKind::landed) after = now;
      }
      if (after >= 0 && now > after + 0.1) highest = std::max(highest, stage.facts(stage.nth(0)).position.y);
      if (stage.facts(stage.nth(0)).on_ground) {
        EXPECT_LT(stage.facts(stage.nth(0)).position.y, 0.05) << high << " m at " << hz;
      }
    }
    EXPECT_EQ(landed, 1) << high << " m at " << hz;
    EXPECT_EQ(left, 0) << high << " m at " << hz;
    EXPECT_LT(highest, 2e-3) << high << " m at " << hz << ": it hops";
    EXPECT_NEAR(stage.facts(stage.nth(0)).position.y, 0, 1e-3) << high << " m at " << hz;
  }
}

TEST(FaultsOnFoot, LegsThatFoldQuiteComeUpAlikeAtEveryRate) {
  Random random(29);
  for (int i = 0; i < scenes_of(120); ++i) {
    const LegsTuning legs{.clearance = random.uniform(0.15, 0.6),
                          .frequency = random.uniform(2, 14),
                          .force_limit = random.uniform(1.5, 40)};
    const double fallen = random.uniform(2, 30), slope = random.uniform(0, 0.35);
    const double lift = random.below(2) == 0 ? 0 : random.uniform(-4, 4), gravity = random.uniform(4, 30);
    const auto heights_at = [&](double hz) {
      Stage stage;
      stage.world.set_gravity({0, -gravity, 0});
      const Quat turn = rotation({0, 0, slope});
      stage.world.add({.shape = Box{{50, 1, 50}},
                       .pose = {rotate(turn, {0, -1, 0}), turn},
                       .kind = lift == 0 ? BodyKind::fixed : BodyKind::kinematic,
                       .velocity = {0, lift, 0}});
      WalkerTuning tuning;
      tuning.jump.fall_speed_limit = 1000;
      add_forced(stage, "courier", tuning, legs, {0, 1, 0});
      ForcedWalker& walker = stage.actor_with<ForcedWalker>(stage.nth(0)).controller;
      const double speed = std::sqrt(2 * tuning.jump.fall_law().falling * fallen);
      stage.world.set_motion(walker.body(), {0, -speed, 0}, {});
      std::vector<double> heights;
      for (int tick = 0; tick < std::lround((1 / speed + 1.2) * hz); ++tick) {
        stage.tick(1 / hz);
        if (const double each = hz / 30; std::fmod(tick + 1.0, each) < 1e-9)
          heights.push_back(stage.facts(stage.nth(0)).position.y - lift * (tick + 1) / hz);
      }
      return heights;
    };
    const auto fine = heights_at(3840);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
      const auto coarse = heights_at(hz);
      for (std::size_t at = 0; at < std::min(coarse.size(), fine.size()); ++at)
        EXPECT_NEAR(coarse[at], fine[at], 2e-3) << i << " at " << hz << " Hz, " << at << "/30 s";
    }
  }
}

TEST(FaultsOnFoot, WhatIsStoodOnIsNotShotAway) {
  Random random(32);
  for (int i = 0; i < scenes_of(60); ++i) {
    const bool forced = i % 2 == 0;
    const double hz = draw_rate(random), mass = std::exp(random.uniform(std::log(61), std::log(1e5)));
    const double light = random.uniform(0.5, 20), half = random.uniform(0.15, 0.5), high = random.uniform(0, 1.5);
    const double aside = random.uniform(-0.8, 0.8) * half;
    Stage stage;
    stage.world.add({.shape = Box{{30, 1, 30}}, .pose = {{0, -1, 0}, {}}});
    const BodyId box = stage.world.add(
        {.shape = Box{{half, half, half}}, .pose = {{0, half, 0}, {}}, .kind = BodyKind::dynamic, .mass = light});
    WalkerTuning tuning;
    tuning.body.mass = mass;
    const Vec3 feet{aside, 2 * half + high, 0};
    if (forced)
      add_forced(stage, "courier", tuning, {}, feet);
    else
      stage.add("courier", Walker(tuning, feet));
    double fastest = 0, own = 0;
    for (double now = 0; now < 1.5; now += 1 / hz) {
      stage.tick(1 / hz);
      fastest = std::max(fastest, norm(stage.world.velocity(box)));
      own = std::max(own, norm(stage.facts(stage.nth(0)).velocity));
    }
    EXPECT_LT(fastest, 30) << light << " kg under " << mass << " kg, forced " << forced << " at " << hz;
    EXPECT_LT(own, 30) << light << " kg under " << mass << " kg, forced " << forced << " at " << hz;
  }
}

// Ledges

TEST(FaultsOnFoot, LedgesAreCaughtAtSpeedByBothBodies) {
  Random random(41);
  for (int i = 0; i < 80; ++i) {
    const bool forced = i % 2 == 0;
    const double hz = draw_rate(random), speed = random.uniform(0, 12), tall = random.uniform(2.5, 5);
    Stage stage;
    stage.world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}});
    stage.world.add({.shape = Box{{4, tall / 2, 10}}, .pose = {{4, tall / 2, 0}, {}}});
    WalkerTuning tuning;
    tuning.ledge.on = 1;
    tuning.run.top_speed = tuning.air.top_speed = std::max(6.0, speed);
    // Its hands come past the edge when it has come to the wall.
    const double time = random.uniform(0.08, 0.3), fall = 0.5 * tuning.jump.fall_law().falling * time * time;
    const double above = random.uniform(0.0, 0.12);
    const Vec3 feet{-0.3 - speed * time, tall - 1.7 + fall + above, 0};
    ActorId index;
    if (forced) {
      index = add_forced(stage, "courier", tuning, {}, feet);
      stage.actor(index).as<ForcedWalker>().add_velocity({speed, 0, 0});
    } else {
      index = stage.add("courier", Walker(tuning, feet));
      stage.actor(index).as<Walker>().add_velocity({speed, 0, 0});
    }
    stage.actor(index).as<WalkerControls>().intent.move = {1, 0, 0};
    for (double now = 0; now < 0.8; now += 1 / hz) stage.tick(1 / hz);
    EXPECT_EQ(stage.facts(index).mode, WalkerMode::hanging)
        << "forced " << forced << ", " << speed << " m/s at " << hz << " Hz, " << above << " m above";
  }
}

TEST(FaultsOnFoot, NobodyHangsOnWhileSomethingDrivesIntoHim) {
  for (const bool forced : {false, true}) {
    for (const double hz : any_rate) {
      Stage stage;
      stage.world.add({.shape = Box{{2, 2, 3}}, .pose = {{2, 2, 0}, {}}});
      stage.world.add({.shape = Box{{1, 1, 0.8}},
                       .pose = {{-1.4, 3.2, 4}, {}},
                       .kind = BodyKind::kinematic,
                       .velocity = {0, 0, -2}});
      WalkerTuning tuning;
      tuning.ledge.on = 1;
      const Vec3 feet{-0.35, 2.7, 0};
      if (forced)
        add_forced(stage, "courier", tuning, {}, feet);
      else
        stage.add("courier", Walker(tuning, feet));
      stage.actor(stage.nth(0)).as<WalkerControls>().intent.move = {1, 0, 0};
      for (double now = 0; now < 0.8; now += 1 / hz) stage.tick(1 / hz);
      ASSERT_EQ(stage.facts(stage.nth(0)).mode, WalkerMode::hanging) << forced << " at " << hz;
      stage.actor(stage.nth(0)).as<WalkerControls>().intent.move = {};
      for (double now = 0; now < 1.8; now += 1 / hz) stage.tick(1 / hz);
      EXPECT_NE(stage.facts(stage.nth(0)).mode, WalkerMode::hanging) << forced << " at " << hz;
    }
  }
}

// Walls that move

TEST(FaultsOnFoot, ALeaningWallThatMovesIsNoGround) {
  Random random(51);
  for (int i = 0; i < 60; ++i) {
    const bool forced = i % 3 == 0;
    const double hz = draw_rate(random), lean = random.uniform(0, forced ? 0.1 : 0.25), speed = random.uniform(0.3, 3);
    Stage stage;
    stage.world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}});
    stage.world.add({.shape = Box{{0.5, 3, 10}},
                     .pose = {{-1.6, 2, 0}, rotation({0, 0, lean})},
                     .kind = BodyKind::kinematic,
                     .velocity = {speed, 0, 0}});
    if (forced)
      add_forced(stage, "courier", {}, {}, {0, 0, 0});
    else
      stage.add("courier", Walker({}, {0, 0, 0}));
    int told = 0;
    for (double now = 0; now < 2; now += 1 / hz) {
      stage.tick(1 / hz);
      for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard())
        told += e.kind == WalkerEventKind::left_ground || e.kind == WalkerEventKind::landed;
    }
    EXPECT_LE(told, 2) << "a lean of " << lean << " rad at " << speed << " m/s, " << hz << " Hz, forced " << forced;
    EXPECT_TRUE(stage.facts(stage.nth(0)).on_ground) << lean;
    EXPECT_NEAR(stage.facts(stage.nth(0)).position.y, 0, 0.02) << lean;
  }
}

// Gravity

TEST(FaultsOnFoot, GravityThatTurnsOverLeavesItClearOfTheFloor) {
  Random random(61);
  for (int i = 0; i < 60; ++i) {
    const double hz = draw_rate(random), high = random.uniform(0.0, 3);
    Scene scene;
    scene.box({-20, -1, -20}, {20, 0, 20});
    scene.box({-20, 8, -20}, {20, 9, 20});
    scene.walker({0, high, 0});
    scene.run(random.uniform(0, 0.5), hz);
    const double middle = scene.state().position.y + 0.87;
    scene.stage.world.set_gravity({0, 9.80665, 0});
    scene.tick(1 / hz);
    // The middle moves by what a tick's motion is, not by a body's height.
    EXPECT_NEAR(scene.state().position.y - 0.87, middle, 0.35) << "from " << high << " m at " << hz << " Hz";
    EXPECT_GT(scene.state().position.y - 1.74, -1e-3) << "through the floor, from " << high;
    scene.run(2.5, hz);
    EXPECT_NEAR(scene.state().position.y, 8, 1e-3);
    EXPECT_TRUE(scene.state().on_ground);
  }
}

TEST(FaultsOnFoot, JumpsMayKeepTheirOwnGravity) {
  for (const double share : {0.5, 1.0, 2.0, 96.0}) {
    for (const bool own : {false, true}) {
      for (const bool forced : {false, true}) {
        Stage stage;
        stage.world.set_gravity({0, -9.80665 * share, 0});
        stage.world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
        WalkerTuning tuning;
        tuning.pull.own = own;
        if (forced)
          add_forced(stage, "courier", tuning, {}, {0, 0, 0});
        else
          stage.add("courier", Walker(tuning, {0, 0, 0}));
        for (int i = 0; i < 30; ++i) stage.tick(1.0 / 60);
        stage.actor(stage.nth(0)).as<WalkerControls>().jump.set(true);
        double high = -1;
        for (int i = 0; i < 180; ++i) {
          stage.tick(1.0 / 60);
          for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard())
            if (e.kind == WalkerEventKind::apex) high = std::max(high, e.value);
        }
        const double wanted = own ? 1.25 : 1.25 / share;
        EXPECT_NEAR(high, wanted, 0.02 * wanted) << share << " of gravity, own " << own << ", forced " << forced;
      }
    }
  }
}

// Moving platforms

TEST(FaultsOnFoot, JumpsOnSinkingPlatformsLandWhereTheseAreByThen) {
  Random random(71);
  for (int i = 0; i < 150; ++i) {
    const bool forced = i % 3 == 0;
    const double hz = draw_rate(random), sink = random.uniform(-2, 4), along = random.uniform(-3, 3);
    Stage stage;
    stage.world.add({.shape = Box{{15, 0.5, 15}},
                     .pose = {{0, -0.5, 0}, {}},
                     .kind = BodyKind::kinematic,
                     .velocity = {along, -sink, 0}});
    if (forced)
      add_forced(stage, "courier", {}, {}, {0, 0, 0});
    else
      stage.add("courier", Walker({}, {0, 0, 0}));
    double now = 0;
    const auto tick = [&] { stage.tick(1 / hz), now += 1 / hz; };
    const double wait = random.uniform(0.2, 0.5);
    while (now < wait) tick();
    stage.actor(stage.nth(0)).as<WalkerControls>().jump.set(true);
    double landed = -1;
    Vec3 place;
    while (now < 3 && landed < 0) {
      const double start = now;
      tick();
      for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard())
        if (e.kind == WalkerEventKind::landed) landed = start + e.time, place = e.position;
    }
    ASSERT_GE(landed, 0) << "sinks " << sink << " at " << hz;
    EXPECT_NEAR(place.y, -sink * landed, forced ? 0.02 : 2e-3)
        << "sinks " << sink << " m/s, goes " << along << " at " << hz << " Hz, forced " << forced;
    const double until = now + 0.5;
    while (now < until) tick();
    EXPECT_NEAR(stage.facts(stage.nth(0)).position.y, -sink * now, forced ? 0.02 : 1e-3)
        << "sinks " << sink << " at " << hz;
  }
}

// Events

TEST(FaultsOnFoot, RecoveryIsToldOnceAndAWalkerPutDownStands) {
  Random random(81);
  for (int i = 0; i < 60; ++i) {
    const double hz = draw_rate(random) + (i % 2 == 0 ? 0.0 : random.uniform(0, 7));
    const bool forced = i % 3 == 0;
    WalkerTuning tuning;
    tuning.stagger.time = 0.1 * (1 + random.below(5)), tuning.stagger.recovery = 0.05 * random.below(9);
    Stage stage;
    stage.world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
    if (forced)
      add_forced(stage, "courier", tuning, {}, {0, 0, 0});
    else
      stage.add("courier", Walker(tuning, {0, 0, 0}));
    EXPECT_EQ(stage.facts(stage.nth(0)).mode, WalkerMode::idle) << "it was put on the ground";
    EXPECT_TRUE(stage.facts(stage.nth(0)).on_ground);
    for (int t = 0; t < 10; ++t) stage.tick(1 / hz);
    stage.actor(stage.nth(0)).hit({{1, 0, 0}, 1}, stage.world);
    int told = 0;
    double when = -1;
    for (int t = 0; t < 2 * hz; ++t) {
      stage.tick(1 / hz);
      for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard()) {
        if (e.kind == WalkerEventKind::recovered) ++told, when = t / hz + e.time;
      }
    }
    EXPECT_EQ(told, 1) << hz << " Hz";
    EXPECT_NEAR(when, tuning.stagger.time + tuning.stagger.recovery, 1e-6) << hz << " Hz";
  }
}

TEST(FaultsOnFoot, EventsOfForcedWalkersAreFinerThanTicks) {
  for (const double hz : any_rate) {
    Stage stage;
    stage.world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
    add_forced(stage, "courier", {}, {}, {0, 0, 0});
    for (int i = 0; i < 15; ++i) stage.tick(1 / hz);
    stage.actor(stage.nth(0)).as<WalkerControls>().jump.set(true);
    double apex = -1, landed = -1, now = 0;
    for (; now < 1.5; now += 1 / hz) {
      stage.tick(1 / hz);
      for (const WalkerEvent& e : stage.actor(stage.nth(0)).heard()) {
        if (e.kind == WalkerEventKind::apex) apex = now + e.time;
        if (e.kind == WalkerEventKind::landed) landed = now + e.time;
      }
    }
    EXPECT_NEAR(apex, 0.38, 1e-4) << hz;
    EXPECT_NEAR(landed, 0.38 + 0.38 / std::sqrt(1.5), 1e-3) << hz;
  }
}

/// Whoever runs along a wall, and a little into it, loses no tick: low walls, that the foot alone meets, as well as
/// high ones, of any direction, on land and on decks.
TEST(FaultsOnFoot, NoTickIsLostAlongAWall) {
  Random random(811);
  for (int scene = 0; scene < scenes_of(240); ++scene) {
    Scene s;
    const double hz = rates[random.below(std::size(rates))], yaw = random.uniform(0, 2 * pi);
    const double into = std::exp(random.uniform(std::log(1e-7), std::log(0.3))), height = random.uniform(0.35, 1);
    const Vec3 deck = random.below(3) == 0 ? Vec3{} : Vec3{random.uniform(-5, 5), 0, random.uniform(-5, 5)};
    const Quat turn = rotation({0, yaw, 0});
    const Vec3 out = rotate(turn, {0, 0, 1}), along = rotate(turn, {1, 0, 0}), heading = normalised(along - out * into);
    for (const auto& [half, at] :
         {std::pair{Vec3{200, 1, 200}, Vec3{0, -1, 0}}, {Vec3{40, height / 2, 1}, Vec3{0, height / 2, 0} - out}})
      s.stage.world.add({.shape = Box{half}, .pose = {at, turn}, .kind = BodyKind::kinematic, .velocity = deck});
    const WalkerTuning tuning;
    s.walker(out * (tuning.body.radius + 0.01) - along * 10, tuning);
    const double share = random.uniform(0.1, 1), speed = tuning.run.top_speed * share * dot(heading, along);
    s.intent().move = heading * share;
    s.run(1, hz);
    for (int i = 0; i < hz; ++i) {
      const Vec3 before = s.state().position;
      s.tick(1 / hz);
      ASSERT_NEAR(dot((s.state().position - before) * hz - deck, along), speed, 0.02 * speed)
          << "scene " << scene << ", " << hz << " Hz, a wall of " << height << " m, " << into << " into it";
    }
  }
}

/// A wall along x with its face at z = 0 at the foot: one box, slabs, a mesh, or one that leans back.
void add_wall(Scene& s, std::uint32_t kind, double lean) {
  const auto put = [&](const Shape& shape, const Pose& pose) { s.stage.world.add({.shape = shape, .pose = pose}); };
  const Quat turn = rotation({-lean, 0, 0});
  if (kind == 0) return put(Box{{60, 12, 1}}, {{0, 0, -1}, {}});
  if (kind == 1) return put(Box{{60, 12, 1}}, {rotate(turn, {0, 0, -1}), turn});
  if (kind == 2) {
    for (int k = -20; k < 40; ++k) put(Box{{0.5, 6, 1}}, {{k + 0.2, 6, -1}, {}});
    return;
  }
  MeshData mesh;
  for (int k = 0; k <= 60; ++k)
    mesh.vertices.push_back({0.7 * k - 20, 0, 0}), mesh.vertices.push_back({0.7 * k - 20, 12, 0});
  for (std::uint32_t k = 0; k < 120; k += 2)
    mesh.triangles.push_back({k, k + 2, k + 1}), mesh.triangles.push_back({k + 1, k + 2, k + 3});
  put(std::make_shared<Mesh>(mesh), {});
}

/// A wall, whatever it is made of, holds somebody back from tick to tick, and as far as it goes, wherever in a tick
/// that ends.
TEST(FaultsOnFoot, WhoSlidesAlongAWallGoesAlikeAtEveryRateAndTurnsWhereItEnds) {
  Random random(812);
  int off = 0, all = 0;
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    const double ahead = random.uniform(0.5, 2.5), into = random.uniform(0.1, 1.3), share = random.uniform(0.3, 1);
    const double lean = std::exp(random.uniform(std::log(1e-12), std::log(0.3)));
    const bool flies = random.below(2);
    const std::uint32_t kind = random.below(4);
    const auto comes_to = [&](double hz, bool ends) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      if (ends)
        s.box({-60, 0, -1}, {0, 9, 0});
      else
        add_wall(s, kind, lean);
      const WalkerTuning tuning;
      s.walker({-ahead, flies ? 8.0 : 0.0, tuning.body.radius + 0.03}, tuning);
      s.intent().move = Vec3{std::cos(into), 0, -std::sin(into)} * share;
      s.run(flies ? 1.2 : 1, hz);
      return s.state().position;
    };
    const Vec3 along = comes_to(3840, false), past = comes_to(3840, true);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
      EXPECT_LT(norm(comes_to(hz, false) - along), kind == 1 ? 0.02 : 0.01)
          << "scene " << scene << ", " << hz << " Hz, wall " << kind << (flies ? ", flying" : "");
      // Round its edge much hangs on little.
      ++all, off += norm(comes_to(hz, true) - past) > 0.03;
    }
  }
  EXPECT_LE(off, 1 + all / 8) << "of " << all;
}

/// A pillar with its foot at x = 4: a cylinder, a box that shows an edge, or a mesh of many faces.
void add_pillar(Scene& s, std::uint32_t kind, double radius, double yaw, std::uint32_t faces) {
  const Pose at{{4, 0, 0}, rotation({0, yaw, 0})};
  if (kind == 0) return void(s.stage.world.add({.shape = Cylinder{radius, 20}, .pose = at}));
  if (kind == 1) return void(s.stage.world.add({.shape = Box{{radius, 20, radius}}, .pose = at}));
  MeshData mesh;
  for (std::uint32_t k = 0; k < faces; ++k) {
    const Vec3 foot = rotate(rotation({0, 2 * pi * k / faces, 0}), {radius, 0, 0});
    mesh.vertices.push_back(foot), mesh.vertices.push_back(foot + Vec3{0, 20, 0});
    const std::uint32_t here = 2 * k, next = 2 * ((k + 1) % faces);
    mesh.triangles.push_back({here, next, here + 1}), mesh.triangles.push_back({here + 1, next, next + 1});
  }
  s.stage.world.add({.shape = std::make_shared<Mesh>(mesh), .pose = at});
}

/// Steered on to a pillar it goes round that, on foot and in the air, by sweeps and by forces: as far at every rate.
/// The nearer to its middle it comes, the more hangs on little.
TEST(FaultsOnFoot, WhoIsPressedOnToAPillarGoesRoundItAlikeAtEveryRate) {
  Random random(815);
  int off = 0, all = 0;
  for (int scene = 0; scene < scenes_of(48); ++scene) {
    const double radius = random.uniform(0.3, 3), beside = radius * random.uniform(-0.9, 0.9);
    const double ahead = random.uniform(0.5, 2), share = random.uniform(0.3, 1), yaw = random.uniform(0.2, 1.4);
    const std::uint32_t kind = random.below(3), faces = 8 + random.below(24);
    const bool flies = random.below(2), forced = random.below(2);
    const auto comes_to = [&](double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      add_pillar(s, kind, radius, yaw, faces);
      const Vec3 feet{4 - 1.5 * radius - ahead, flies ? 16.0 : 0.0, beside};
      forced ? void(add_forced(s.stage, "courier", {}, {}, feet)) : s.walker(feet);
      s.stage.actor(s.stage.nth(0)).as<WalkerControls>().intent.move = {share, 0, 0};
      for (int tick = 0; tick < (flies ? 1.2 : 1.6) * hz - 1e-9; ++tick) s.stage.tick(1 / hz);
      return s.stage.facts(s.stage.nth(0)).position;
    };
    const Vec3 fine = comes_to(1920);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
      const double apart = norm(comes_to(hz) - fine);
      EXPECT_LT(apart, hz < 40 ? 0.6 : 0.3)
          << "scene " << scene << ", " << hz << " Hz, kind " << kind << ", " << forced;
      ++all, off += apart > 6 / hz;
    }
  }
  EXPECT_LE(off, 1 + all / 20) << "of " << all;
}

/// What bulges out over the foot, or slopes back from it, is a wall that turns, too: met while just moving away from
/// it, a walker stood still beside a dome, or not, by the rate alone.
TEST(FaultsOnFoot, WhoWalksOnToADomeGoesRoundItAlikeAtEveryRate) {
  Random random(817);
  int off = 0, all = 0;
  for (int scene = 0; scene < scenes_of(30); ++scene) {
    const double radius = random.uniform(1, 9), high = radius * random.uniform(-0.4, 0.6);
    const double round = std::sqrt(radius * radius - high * high);  // of the dome on the ground, or over it
    const double beside = std::max(round, radius * (high > 0)) * random.uniform(-0.9, 0.9);
    const double ahead = random.uniform(0.5, 2), share = random.uniform(0.3, 1);
    const auto comes_to = [&](double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      s.stage.world.add({.shape = Sphere{radius}, .pose = {{4, high, 0}, {}}});
      s.walker({3.5 - radius - ahead, 0, beside});
      s.intent().move = {share, 0, 0};
      s.run(2, hz);
      return s.state().position;
    };
    const Vec3 fine = comes_to(1920);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
      const double apart = norm(comes_to(hz) - fine);
      EXPECT_LT(apart, hz < 40 ? 0.6 : 0.3) << "scene " << scene << ", " << hz << " Hz, " << radius << " m at " << high;
      ++all, off += apart > 6 / hz;
    }
  }
  EXPECT_LE(off, 1 + all / 20) << "of " << all;
}

/// A wall counts from when it comes within reach: falls are slowed from then on, and a jump pressed at the next tick
/// leaves it, also where the stick is let go of in that tick.
TEST(FaultsOnFoot, AWallCountsFromWhenItComesWithinReach) {
  Random random(813);
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    WalkerTuning tuning;
    tuning.wall.on = true;
    tuning.air.top_speed = random.uniform(1, 4), tuning.air.time_to_top_speed = 0;
    const double pressed = 0.1 * (4 + random.below(3)), reached = pressed - random.uniform(0.0005, 0.03);
    const double wall_at = tuning.body.radius + tuning.wall.reach + tuning.air.top_speed * reached;
    const auto fall = [&](Scene& s, double hz, double seconds) {
      s.box({-60, -1, -60}, {60, 0, 60});
      s.box({wall_at, 0, -9}, {40, 30, 9});
      s.walker({0, 12, 0}, tuning);
      s.intent().move = {1, 0, 0};
      s.run(seconds, hz);
    };
    Scene fine;
    fall(fine, 3840, pressed + 0.3);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
      Scene slides, jumps;
      fall(slides, hz, pressed + 0.3);
      EXPECT_NEAR(slides.state().position.y, fine.state().position.y, 0.002) << scene << " " << hz;
      fall(jumps, hz, pressed);
      jumps.intent().move = {}, jumps.actor().jump.set(true);
      jumps.tick(1 / hz);
      const auto jumped = jumps.first(WalkerEventKind::jumped);
      ASSERT_TRUE(jumped) << scene << " " << hz;
      EXPECT_EQ(jumped->event.from, JumpFrom::wall) << scene << " " << hz;
    }
  }
}

/// Nor is a forced walker held by what it is pressed into: it braked what it had along a wall as if that were aside of
/// its way, and stood still, the sooner the higher the rate.
TEST(FaultsOnFoot, AForcedWalkerSlidesAlongAWallAsASweptOneDoes) {
  Random random(813);
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    const double ahead = random.uniform(0.5, 2.5), into = random.uniform(0.05, 1.4), share = random.uniform(0.3, 1);
    const double lean = std::exp(random.uniform(std::log(1e-12), std::log(0.3)));
    const bool flies = random.below(2);
    const std::uint32_t kind = random.below(4);
    const auto comes_to = [&](bool forced, double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      add_wall(s, kind, lean);
      const WalkerTuning tuning;
      const Vec3 feet{-ahead, flies ? 8.0 : 0.0, tuning.body.radius + 0.03};
      forced ? void(add_forced(s.stage, "courier", tuning, {}, feet)) : s.walker(feet, tuning);
      auto& controls = s.stage.actor(s.stage.nth(0)).as<WalkerControls>();
      controls.intent.move = Vec3{std::cos(into), 0, -std::sin(into)} * share;
      for (double now = 0; now < (flies ? 1.2 : 1) - 1e-9; now += 1 / hz) s.stage.tick(1 / hz);
      return s.stage.facts(s.stage.nth(0)).position;
    };
    // Its trunk is as high above the ground as its legs are long, where a leaning wall is further away.
    const double limit = 0.1 + (kind == 1 ? LegsTuning{}.clearance * std::tan(lean) : 0);
    for (const double hz : {30.0, 60.0, 144.0, 240.0, 1000.0}) {
      EXPECT_LT(norm(comes_to(true, hz) - comes_to(false, hz)), limit)
          << "scene " << scene << ", " << hz << " Hz, wall " << kind << (flies ? ", flying" : "");
    }
  }
}

/// Legs that bend and stretch carry the trunk along a wall that leans, and a face too steep to walk on is a wall to its
/// feet: it slid on its belly along the foot of that, and lost what it had along a wall that it landed beside, the more
/// the higher the rate.
TEST(FaultsOnFoot, AForcedWalkerAtALeaningWallGoesAlikeAtEveryRateAndStaysOnItsLegs) {
  Random random(816);
  int off = 0, all = 0;
  for (int scene = 0; scene < scenes_of(80); ++scene) {
    const bool lands = random.below(2);
    const double lean = std::exp(random.uniform(std::log(1e-3), std::log(lands ? 0.2 : 0.75)));
    const double ahead = random.uniform(0.5, 2.5), into = random.uniform(0.05, 1.4), share = random.uniform(0.3, 1);
    const auto comes_to = [&](double hz, bool forced) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      const Quat turn = rotation({-lean, 0, 0});
      s.stage.world.add({.shape = Box{{60, 12, 1}}, .pose = {rotate(turn, {0, 0, -1}), turn}});
      const WalkerTuning tuning;
      const Vec3 feet{-ahead, lands ? 8.0 : 0.0, tuning.body.radius / std::cos(lean) + 0.03};
      forced ? void(add_forced(s.stage, "courier", tuning, {}, feet)) : s.walker(feet);
      auto& controls = s.stage.actor(s.stage.nth(0)).as<WalkerControls>();
      controls.intent.move = Vec3{std::cos(into), 0, -std::sin(into)} * share;
      for (int tick = 0; tick < (lands ? 1.2 : 1) * hz - 1e-9; ++tick) s.stage.tick(1 / hz);
      return s.stage.facts(s.stage.nth(0)).position;
    };
    const Vec3 fine = comes_to(1920, true);
    for (const double hz : {30.0, 60.0, 144.0, 240.0}) {
      const Vec3 place = comes_to(hz, true);
      const double apart = norm(place - fine);
      EXPECT_LT(apart, lands ? 0.25 : 0.1) << "scene " << scene << ", " << hz << " Hz, lean " << lean << " " << lands;
      EXPECT_NEAR(place.y, 0, 5e-3) << "scene " << scene << ", " << hz << " Hz, lean " << lean << " " << lands;
      EXPECT_TRUE(lands || std::abs(place.x - comes_to(hz, false).x) < 0.1) << "scene " << scene << ", " << hz << " Hz";
      ++all, off += apart > 0.03;
    }
  }
  EXPECT_LE(off, 1 + all / 20) << "of " << all;
}

/// What gives way is pushed in every tick, and passed along as if it did not: a crate of 50 kg was pushed 1.7 m less
/// far at one rate than at another, and a forced walker stood still beside a heavy one.
TEST(FaultsOnFoot, WhoPushesACrateAtASlantGoesAlikeAtEveryRate) {
  Random random(814);
  int off = 0;
  for (int scene = 0; scene < scenes_of(60); ++scene) {
    const double mass = std::exp(random.uniform(std::log(15), std::log(3000))), friction = random.uniform(0.1, 0.8);
    const double into = random.uniform(0.1, 1.5), share = random.uniform(0.3, 1), half = random.uniform(0.5, 1.5);
    const bool forced = random.below(2);
    const auto comes_to = [&](double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      BodyPlan crate{.shape = Box{{8, half, 1}}, .pose = {{3, half, -1}, {}}, .kind = BodyKind::dynamic};
      crate.mass = mass, crate.surface.friction = friction;
      s.stage.world.add(crate);
      const Vec3 feet{0, 0, WalkerTuning{}.body.radius + 0.05};
      forced ? void(add_forced(s.stage, "courier", {}, {}, feet)) : s.walker(feet);
      auto& controls = s.stage.actor(s.stage.nth(0)).as<WalkerControls>();
      controls.intent.move = Vec3{std::cos(into), 0, -std::sin(into)} * share;
      for (double now = 0; now < 1.2 - 1e-9; now += 1 / hz) s.stage.tick(1 / hz);
      return s.stage.facts(s.stage.nth(0)).position;
    };
    const Vec3 finest = comes_to(960);
    for (const double hz : {30.0, 60.0, 144.0, 240.0}) {
      const double apart = norm(comes_to(hz) - finest);
      EXPECT_LT(apart, hz < 50 ? 0.6 : 0.4) << "scene " << scene << ", " << hz << " Hz, " << mass << " kg, " << forced;
      off += hz > 50 && apart > 0.15;
    }
  }
  EXPECT_LE(off, 8);
}

}  // namespace
}  // namespace jugend::testing
