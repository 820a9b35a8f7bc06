// Walkers at walls and banks of any lean, on ground of any slope: one, or a pit of several.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

/// A wall whose foot passes through `foot` and that leans back by `lean` (rad); it faces +z, turned by `yaw`.
void add_wall(Scene& scene, const Vec3& foot, double yaw, double lean, double half_width = 60) {
  const Quat turn = rotation({0, yaw, 0}) * rotation({-lean, 0, 0});
  scene.stage.world.add({.shape = Box{{half_width, 30, 1}}, .pose = {foot + rotate(turn, {0, 0, -1}), turn}});
}

void add_walker(Scene& scene, bool forced, const WalkerTuning& tuning = {}) {
  forced ? void(add_forced(scene.stage, "courier", tuning, {}, {})) : scene.walker({}, tuning);
}

void steer(Scene& scene, const Vec3& move) {
  scene.stage.actor(scene.stage.nth(0)).as<WalkerControls>().intent.move = move;
}

Vec3 place(Scene& scene) { return scene.stage.facts(scene.stage.nth(0)).position; }

/// To a foot a wall that leans is an upright one along the line in which it meets the ground. On a slope a walker stood
/// still before one that leans, or crept along it, at every rate.
TEST(WallsOnFoot, OneThatLeansOnASlopeIsGoneAlongAsAnUprightOneIs) {
  Random random(901);
  int off = 0;
  const int scenes = scenes_of(150);
  for (int i = 0; i < scenes; ++i) {
    const double tilt = random.uniform(0, 0.45), yaw = random.uniform(0, 2 * pi), lean = random.uniform(-0.3, 0.75);
    const double into = random.uniform(-1.4, 1.4), share = random.uniform(0.3, 1), away = random.uniform(0.6, 1.5);
    const double hz = std::exp(random.uniform(std::log(30), std::log(1000)));
    const bool forced = random.below(2);
    const Quat slope = rotation({0, 0, tilt}), turn = rotation({0, yaw, 0});
    const Vec3 ground = rotate(slope, {0, 1, 0}), wall = rotate(turn * rotation({-lean, 0, 0}), {0, 0, 1});
    const auto comes_to = [&](const Vec3& foot, double faces, double leans) {
      Scene scene;
      scene.stage.world.add({.shape = Box{{60, 1, 60}}, .pose = {-ground, slope}});
      add_wall(scene, foot, faces, leans);
      add_walker(scene, forced);
      for (double now = 0; now < 1.2 - 1e-9; now += 1 / hz) {
        steer(scene, rotate(turn, Vec3{std::sin(into), 0, -std::cos(into)}) * share);
        scene.stage.tick(1 / hz);
      }
      return place(scene);
    };
    const Vec3 there = comes_to(rotate(turn, {0, 0, -away}), yaw, lean);
    // n - g (n up) / (g up), level: no way over the ground may go against it.
    Vec3 across = wall - ground * (wall.y / ground.y);
    across.y = 0, across = normalised(across);
    const double radius = WalkerTuning{}.body.radius;
    const Vec3 twin = comes_to(across * (dot(there, across) - radius), std::atan2(across.x, across.z), 0);
    off += norm(there - twin) > (forced ? 0.12 : 0.02);
  }
  EXPECT_LE(off, 1) << "of " << scenes;
}

/// A pit of walls and banks round a walker who is steered three ways. Where two banks meet it left the ground: off the
/// one it was set on to the other, and then climbed along both. Who turned round along a bank came to a stand. Who ran
/// on legs into a corner shook there.
struct Pit {
  int banks;
  double tilt, share, lean[6], away[6], yaw[6], heading[3];
  Pit(Random& random, double least_lean) : banks(3 + static_cast<int>(random.below(4))) {
    const bool slopes = random.below(2);
    tilt = slopes * random.uniform(0, 0.4), share = random.uniform(0.3, 1);
    for (int k = 0; k < 6; ++k) {
      lean[k] = random.uniform(least_lean, 0.75), away[k] = random.uniform(0.6, 2.5);
      yaw[k] = 2 * pi * (k + random.uniform(-0.3, 0.3)) / banks;
    }
    for (double& h : heading) h = random.uniform(0, 2 * pi);
  }
  Vec3 comes_to(double hz, bool forced) const {
    Scene scene;
    const Quat slope = rotation({0, 0, tilt});
    scene.stage.world.add({.shape = Box{{60, 1, 60}}, .pose = {rotate(slope, {0, -1, 0}), slope}});
    for (int k = 0; k < banks; ++k)
      add_wall(scene, rotate(rotation({0, yaw[k], 0}), {0, 0, -away[k]}), yaw[k], lean[k], 8);
    add_walker(scene, forced);
    for (int tick = 0; tick < 2.4 * hz - 1e-9; ++tick) {
      const double h = heading[std::min(2, static_cast<int>(tick / hz / 0.8 + 1e-9))];
      steer(scene, Vec3{std::cos(h), 0, std::sin(h)} * share);
      scene.stage.tick(1 / hz);
    }
    return place(scene);
  }
};

void expect_alike_in_pits(std::uint32_t seed, bool forced, double least_lean, int most) {
  Random random(seed);
  int off = 0;
  const int pits = scenes_of(40);
  for (int i = 0; i < pits; ++i) {
    const Pit pit(random, least_lean);
    const double hz = std::exp(random.uniform(std::log(30), std::log(240)));
    off += norm(pit.comes_to(hz, forced) - pit.comes_to(1920, forced)) > 0.06;
  }
  EXPECT_LE(off, 1 + most * pits / 40) << "of " << pits;
}

TEST(WallsOnFoot, InAPitOfBanksItGoesAlikeAtEveryRate) { expect_alike_in_pits(902, false, 0, 1); }
TEST(WallsOnFoot, InAPitOfBanksItGoesNearlyAlikeOnLegs) { expect_alike_in_pits(903, true, 0.35, 2); }

/// Off the ground at a block that leans, and at it again in the air; the ground may slope.
struct Leap {
  double tilt, faces, share, heading, lean, aside, ahead, press;
  explicit Leap(Random& random) {
    const bool slopes = random.below(2);
    tilt = slopes * random.uniform(0, 0.3), faces = random.uniform(0, 2 * pi), share = random.uniform(0.3, 1);
    heading = random.uniform(0, 2 * pi), lean = random.uniform(-1, 1), aside = random.uniform(-1, 1);
    ahead = random.uniform(1.5, 2.5), press = (8 + static_cast<int>(random.below(7))) / 30.0;
  }
  /// A block `high` above the ground where it stands, with its near face turned by `aside` and leaning by `lean` (rad).
  Vec3 comes_to(double hz, bool forced, double high, double turned, double leans, const WalkerTuning& tuning) const {
    Scene scene;
    const Quat to = rotation({0, faces, 0}), slope = to * rotation({0, 0, tilt}) * conjugate(to);
    const Vec3 up = rotate(slope, {0, 1, 0}), way{std::cos(heading), 0, -std::sin(heading)};
    scene.stage.world.add({.shape = Box{{60, 1, 60}}, .pose = {-up, slope}});
    Vec3 foot = way * ahead;
    foot.y = -dot(foot, up) / up.y;
    const Quat block = rotation({0, heading + turned, 0}) * rotation({0, 0, leans});
    scene.stage.world.add({.shape = Box{{3, 6, 9}}, .pose = {foot + rotate(block, {3, high - 6, 0}), block}});
    add_walker(scene, forced, tuning);
    auto& controls = scene.stage.actor(scene.stage.nth(0)).as<WalkerControls>();
    for (int tick = 0; tick < 1.6 * hz - 1e-9; ++tick) {
      const double since = tick / hz + 1e-9 - press;
      controls.intent.move = way * share;
      controls.jump.set((since >= 0 && since < 0.2) || since >= 0.4);
      scene.stage.tick(1 / hz);
    }
    return place(scene);
  }
};

/// Who rose along a wall that leans back was steered off it, and met it again a moment later; after a jump from a wall
/// steering waited for the next tick.
TEST(WallsOnFoot, JumpsAtAWallThatLeansAreAlikeAtEveryRate) {
  Random random(904);
  WalkerTuning tuning;
  tuning.wall.on = 1;
  int off = 0;
  const int scenes = scenes_of(80);
  for (int i = 0; i < scenes; ++i) {
    const Leap leap(random);
    const double hz = common_rates[random.below(4)];
    const auto comes_to = [&](double rate) {
      return leap.comes_to(rate, false, 6, 0.8 * leap.aside, 0.3 * leap.lean, tuning);
    };
    off += norm(comes_to(hz) - comes_to(1920)) > 0.03;
  }
  EXPECT_LE(off, 1 + scenes / 40);
}

/// A forced walker let go of the ledge that it had just caught, where it touched the wall under it.
TEST(WallsOnFoot, LedgesAreCaughtAndHeldAlikeAtEveryRateByBoth) {
  Random random(905);
  WalkerTuning tuning;
  tuning.ledge.on = 1;
  int off[2] = {};
  const int scenes = scenes_of(80);
  for (int i = 0; i < scenes; ++i) {
    const Leap leap(random);
    const double hz = common_rates[random.below(4)], high = random.uniform(0.2, 2.2);
    for (const bool forced : {false, true}) {
      const auto comes_to = [&](double rate) {
        return leap.comes_to(rate, forced, high, 0.5 * leap.aside, 0.15 * leap.lean, tuning);
      };
      off[forced] += norm(comes_to(hz) - comes_to(1920)) > (forced ? 0.4 : 0.05);
    }
  }
  EXPECT_LE(off[0], 1 + scenes / 13) << "of " << scenes;  // where hands just reach the edge
  EXPECT_LE(off[1], 1 + scenes / 13) << "of " << scenes << ", forced";
}

/// Down an edge it goes just where that is no higher than a step: of a box, a thin slab, one-way or not, a mesh, on a
/// deck that moves. What is higher was gone down too, or not, by where a tick left the foot on the round of the edge.
TEST(WallsOnFoot, AnEdgeIsGoneDownOrFallenOffByItsHeightAloneAtAnyRate) {
  Random random(911);
  for (int scene = 0; scene < scenes_of(200); ++scene) {
    WalkerTuning tuning;
    const double step = tuning.ground.step_height = random.uniform(0.1, 0.5);
    tuning.ground.foothold = random.uniform(0, 0.95);
    const double share = random.uniform(0.2, 1), yaw = random.uniform(-1.2, 1.2), ahead = random.uniform(0.3, 1);
    const double high = step * (random.below(2) == 0 ? random.uniform(0.2, 0.98) : random.uniform(1.03, 1.6));
    const double hz = std::exp(random.uniform(std::log(30), std::log(2000)));
    const double thick = random.below(2) == 0 ? high : 0.04;
    const bool mesh = random.below(4) == 0;
    Vec3 deck;
    if (random.below(2) == 0) deck.x = random.uniform(-4, 4), deck.y = random.uniform(-0.5, 0.5), deck.z = 3;
    Scene s;
    BodyPlan ground;
    if (deck != Vec3{}) ground.kind = BodyKind::kinematic, ground.velocity = deck;
    ground.shape = Box{{60, 1, 60}}, ground.pose.position = {0, -1, 0};
    s.stage.world.add(ground);
    ground.shape = Box{{4.5, 0.5 * thick, 30}}, ground.pose.position = {-4.5, high - 0.5 * thick, 0};
    if (mesh) {
      ground.shape = std::make_shared<Mesh>(MeshData{
          .vertices = {{-9, high, -30}, {0, high, -30}, {0, high, 30}, {-9, high, 30}, {0, 0, -30}, {0, 0, 30}},
          .triangles = {{0, 3, 1}, {1, 3, 2}, {1, 2, 4}, {4, 2, 5}}});
      ground.pose = {};
    } else if (random.below(4) == 0) {
      ground.one_way = {0, 1, 0};
    }
    s.stage.world.add(ground);
    s.walker({-ahead, high, 0}, tuning);
    s.run(0.6 + ahead / (share * tuning.run.top_speed * std::cos(yaw)), hz, [&] {
      s.intent().move = Vec3{std::cos(yaw), 0, std::sin(yaw)} * share;
    });
    const auto left = s.first(WalkerEventKind::left_ground);
    EXPECT_EQ(left.has_value(), high > step) << scene << ": " << high << " of " << step << " m at " << hz << " Hz";
    const double seen = left ? left->event.position.y - deck.y * left->time : high;
    EXPECT_NEAR(seen, high, 0.01) << scene << ": at " << hz << " Hz";
  }
}

/// Of a box a little higher than a step the foot meets the edge before the round end of the trunk is beside it. A wall
/// all the same: round its corners walkers were held back, by up to a quarter of their speed, by the rate alone.
TEST(WallsOnFoot, RoundLowCornersItGoesAlikeAtEveryRate) {
  Random random(912);
  int off = 0, all = 0;
  for (int scene = 0; scene < scenes_of(40); ++scene) {
    const double high = random.uniform(0.3, 0.6), yaw = random.uniform(0.1, 1.4), ahead = random.uniform(0.3, 1.5);
    const double share = random.uniform(0.4, 1), beside = random.uniform(0.05, 0.9), mirror = random.below(2) ? 1 : -1;
    const auto comes_to = [&](double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      s.stage.world.add(
          {.shape = Box{{2, 0.5 * high, 2}}, .pose = {{2 * std::sqrt(2.0), 0.5 * high, 0}, rotation({0, yaw, 0})}});
      s.walker({-1 - ahead, 0, mirror * beside});
      s.intent().move = {share, 0, 0};
      s.run(1.6, hz);
      return s.state().position;
    };
    const Vec3 fine = comes_to(1920);
    for (const double hz : {30.0, 60.0, 120.0, 240.0}) ++all, off += norm(comes_to(hz) - fine) > 0.05;
  }
  EXPECT_LE(off, 3 + all / 32) << "of " << all;
}

/// Legs reach out for an edge that they come down beside, or just beyond, from where they can, within a tick, and the
/// trunk that lies on one gets up at once: it slid along on that for half a second, and told of an apex in each tick.
TEST(WallsOnFoot, LegsCatchAnEdgeThatTheyComeDownBesideAlikeAtEveryRate) {
  Random random(913);
  int off = 0, all = 0, tops = 0;
  for (int scene = 0; scene < scenes_of(100); ++scene) {
    const double below = random.uniform(-0.4, 0.34), ahead = random.uniform(0.2, 0.8), share = random.uniform(0, 1);
    const Vec3 velocity{random.uniform(2, 6), random.uniform(-3, 0.5), 0};
    const auto places = [&](double hz, double nudge) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      s.box({0, 0, -9}, {18, 1.2, 9});
      add_forced(s.stage, "courier", {}, {}, {nudge - ahead, 1.2 - below + nudge, 0});
      auto& walker = s.stage.actor(s.stage.nth(0)).as<ForcedWalker>();
      s.stage.world.set_motion(walker.body(), velocity, {});
      WalkerState thrown = walker.state();
      thrown.velocity = velocity, thrown.placed = false;
      walker.restore(thrown);
      steer(s, {share, 0, 0});
      std::vector<Vec3> path;
      for (int tick = 1; tick <= std::lround(0.8 * hz); ++tick) {
        s.stage.tick(1 / hz);
        for (const WalkerEvent& e : walker.events()) tops += e.kind == WalkerEventKind::apex;
        if (tick % std::lround(hz / 30) == 0) path.push_back(place(s));
      }
      return path;
    };
    const auto fine = places(1920, 0);
    const auto apart = [&](const std::vector<Vec3>& path) {
      double most = 0;
      for (std::size_t i = 0; i < path.size(); ++i) most = std::max(most, norm(path[i] - fine[i]));
      return most;
    };
    if (apart(places(1920, 0.003)) > 0.04 || apart(places(1920, -0.003)) > 0.04)
      continue;  // it just reaches it, or not
    tops = 0;
    for (const double hz : common_rates) ++all, off += apart(places(hz, 0)) > 0.1;
    EXPECT_LE(tops, 8) << scene;
  }
  EXPECT_LE(off, 3 + all / 20) << "of " << all;
}

}  // namespace
}  // namespace jugend::testing
