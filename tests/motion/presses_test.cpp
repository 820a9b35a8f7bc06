// Keys pressed in any order and at any moment: what comes of it does not depend on where ticks fall.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "../support/random.hpp"
#include "../support/scene.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

enum class Key : std::uint8_t { jump, dash, launch, crouch };
struct Press {
  double at;  // s; on a tick of all rates that are compared
  Key key;
  double held;  // s
  Vec3 move;
};

/// A platform with an edge all round, which may slope, or travel and turn; a lower floor, perhaps under water; perhaps
/// a wall; a tuning; ten or so presses, and blows for crouches.
struct Play {
  WalkerTuning tuning;
  double wall_height, wall_at, drop, slope;
  bool has_wall, blows, water, travels;
  Vec3 travel;       // m/s
  double turn_rate;  // rad/s
  std::vector<Press> presses;
};

Play random_play(Random& random) {
  Play play{};
  WalkerTuning& t = play.tuning;
  t.jump.air_jumps = static_cast<int>(random.below(3)), t.jump.tap_height = random.below(2) == 0 ? 0.4 : 0;
  t.jump.buffer = random.uniform(0, 0.3), t.jump.coyote_time = random.uniform(0, 0.15);
  t.jump.lockout = random.below(4) == 0 ? random.uniform(0, 0.2) : 0;
  t.jump.landing_lockout = random.below(4) == 0 ? random.uniform(0, 0.1) : 0;
  t.wall.on = random.below(2) == 0, t.ledge.on = random.below(2) == 0, t.plunge.on = random.below(3) == 0;
  t.dash.charge.charges = 1 + static_cast<int>(random.below(2)), t.dash.charge.cooldown = random.uniform(0, 0.3);
  t.launch.charge.charges = static_cast<int>(random.below(2)), t.launch.height = 1;
  play.wall_height = random.uniform(0.2, 3), play.wall_at = random.uniform(1, 4), play.drop = random.uniform(0.4, 3);
  play.has_wall = random.below(2) == 0, play.blows = random.below(3) == 0, play.water = random.below(4) == 0;
  play.travels = random.below(4) == 0;
  play.slope = !play.water && !play.travels && random.below(3) == 0 ? random.uniform(-0.35, 0.35) : 0;
  play.travel = {random.uniform(-2, 2), 0, 0}, play.travel.z = random.uniform(-2, 2);
  play.travel.y = random.uniform(-1, 1), play.turn_rate = random.uniform(-1, 1);
  t.stagger.hop = random.uniform(0, 0.5), t.stagger.invulnerable = 0.3;
  for (int tick = 10; tick < 87; tick += 1 + static_cast<int>(random.below(10))) {
    const Key keys[] = {Key::jump, Key::jump, Key::jump, Key::dash, Key::launch, Key::crouch};
    const Key key = keys[random.below(6)];
    const double held = (1 + random.below(12)) / 30.0, ahead = random.uniform(-1, 1);
    play.presses.push_back({tick / 30.0, key, held, {ahead, 0, random.uniform(-1, 1)}});
  }
  return play;
}

/// Where it is, 30 times a second.
std::vector<Vec3> played(const Play& play, bool forced, double hz) {
  Scene s;
  const Quat turn = rotation({0, 0, play.slope});
  const Vec3 half{play.water ? 1.5 : 6.0, 0.5 * play.drop, play.water ? 1.5 : 6.0};
  const BodyId platform = s.stage.world.add({.shape = Box{half},
                                             .pose = {rotate(turn, {0, -half.y, 0}), turn},
                                             .kind = play.travels ? BodyKind::kinematic : BodyKind::fixed});
  if (play.travels) s.stage.world.set_motion(platform, play.travel, {0, play.turn_rate, 0});
  const double deep = 0.5 * (play.drop - 0.1);
  if (play.water)
    s.stage.world.add_pool(
        {.half_extents = {60, deep, 60}, .pose = {{0, deep - play.drop, 0}, {}}, .flow = {0.3, 0, 0.2}});
  s.box({-60, -play.drop - 2, -60}, {60, -play.drop, 60});
  if (play.has_wall) s.box({play.wall_at, 0, -8}, {play.wall_at + 1, play.wall_height, 8});
  if (forced)
    add_forced(s.stage, "porter", play.tuning, ForcedTuning{}.legs, {0, 0, 0});
  else
    s.walker({0, 0, 0}, play.tuning);
  auto& controls = s.stage.actor(s.stage.nth(0)).as<WalkerControls>();
  std::vector<Vec3> path;
  double let_go_at = infinity;
  auto next = play.presses.begin();
  for (int tick = 0; tick < 3.2 * hz - 1e-9; ++tick) {
    const double now = tick / hz;
    if (let_go_at <= now + 1e-9) controls.jump.set(false), controls.crouch.set(false), let_go_at = infinity;
    for (; next != play.presses.end() && next->at <= now + 1e-9; ++next) {
      controls.intent.move = next->move;
      if (next->key == Key::crouch && play.blows) {
        s.stage.actor(s.stage.nth(0)).as<WalkerBrain>().hit({next->move, 2.0});
        continue;
      }
      PressLatch* const held = next->key == Key::jump     ? &controls.jump
                               : next->key == Key::crouch ? &controls.crouch
                                                          : nullptr;
      if (held != nullptr) held->set(false), held->set(true), let_go_at = now + next->held;
      if (next->key == Key::dash) controls.dash.tap();
      if (next->key == Key::launch) controls.launch.tap();
    }
    if (tick % static_cast<int>(hz / 30) == 0) path.push_back(s.stage.facts(s.stage.nth(0)).position);
    s.stage.tick(1 / hz);
  }
  return path;
}

double furthest_apart(const std::vector<Vec3>& a, const std::vector<Vec3>& b) {
  double most = 0;
  for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, norm(a[i] - b[i]));
  return most;
}

/// How many of random plays end elsewhere at a coarse rate than at 1,920 Hz.
void expect_alike(bool forced, std::uint32_t seed, int scenes, int allowed) {
  Random random(seed);
  int off[4] = {}, unclear = 0;
  for (int scene = 0; scene < scenes; ++scene) {
    const Play play = random_play(random);
    const auto fine = played(play, forced, 1920);
    if (furthest_apart(fine, played(play, forced, 960)) > 0.02) {
      ++unclear;
      continue;
    }
    constexpr double compared[] = {30, 60, 120, 240};
    for (int i = 0; i < 4; ++i) off[i] += furthest_apart(fine, played(play, forced, compared[i])) > 0.05;
  }
  EXPECT_LE(unclear, allowed);
  for (const int count : off) EXPECT_LE(count, allowed);
}

/// A jump that waited for a lockout, knees that bend on landing, hands on a ledge, the top of a climb, the grace after
/// a wall, water and control after a blow all came at the next tick: at 30 Hz one play of four ended elsewhere.
TEST(Presses, AnyOrderGoesAlikeAtEveryRate) {
  const int scenes = scenes_of(100);
  expect_alike(false, 4401, scenes, 1 + scenes / 12);
}

/// Crouching moved a forced walker's soles up a tick late, and took legs that stretched again for a hop: at any rate
/// half of all plays ended elsewhere. What walls do to it is felt at the next tick.
TEST(Presses, AnyOrderGoesNearlyAlikeOnLegs) {
  const int scenes = scenes_of(60);
  expect_alike(true, 4405, scenes, 1 + scenes / 5);
}

TEST(Presses, WhoCrouchesAsItLandsComesDownAlikeAtEveryRate) {
  Random random(4406);
  for (int i = 0; i < scenes_of(40); ++i) {
    const double speed = random.uniform(1, 22), high = random.uniform(0.1, 1);
    const auto heights = [&](double hz) {
      Scene s;
      s.box({-60, -1, -60}, {60, 0, 60});
      add_forced(s.stage, "porter", WalkerTuning{}, ForcedTuning{}.legs, {0, high, 0});
      Actor& actor = s.stage.actor(s.stage.nth(0));
      auto& walker = actor.as<ForcedWalker>();
      WalkerState state = walker.state();
      state.velocity = {0, -speed, 0}, state.placed = false;
      walker.restore(state);
      s.stage.world.set_motion(walker.body(), state.velocity, {});
      actor.as<WalkerControls>().crouch.set(true);
      std::vector<double> all;
      for (int tick = 0; tick < hz; ++tick) {
        s.stage.tick(1 / hz);
        if ((tick + 1) % static_cast<int>(hz / 30) == 0) all.push_back(s.stage.facts(s.stage.nth(0)).position.y);
      }
      return all;
    };
    const auto fine = heights(1920);
    for (const double hz : {30.0, 60.0, 240.0}) {
      const auto coarse = heights(hz);
      for (std::size_t k = 0; k < fine.size(); ++k)
        ASSERT_NEAR(coarse[k], fine[k], 0.01) << speed << " m/s at " << hz << " Hz, after " << k / 30.0 << " s";
    }
  }
}

/// A walker with either body.
struct Either {
  Scene s;
  double hz, now = 0;
  struct Told {
    double time;
    WalkerEventKind kind;
  };
  std::vector<Told> told;

  Either(const WalkerTuning& tuning, bool forced, double rate) : hz(rate) {
    s.box({-60, -1, -60}, {60, 0, 60});
    if (forced)
      add_forced(s.stage, "porter", tuning, ForcedTuning{}.legs, {0, 0, 0});
    else
      s.walker({0, 0, 0}, tuning);
  }
  Actor& actor() { return s.stage.actor(s.stage.nth(0)); }
  WalkerControls& controls() { return actor().as<WalkerControls>(); }
  const WalkerBrain& brain() { return actor().as<WalkerBrain>(); }
  /// Ticks up to the first that begins at `time` (s) or later.
  void until(double time) {
    for (; now < time - 1e-9; now += 1 / hz) {
      s.stage.tick(1 / hz);
      for (const WalkerEvent& e : brain().events()) told.push_back({now + e.time, e.kind});
    }
  }
  void press_jump() { controls().jump.set(false), controls().jump.set(true); }
  double time_of(WalkerEventKind kind, int nth = 0) const {
    for (const Told& t : told) {
      if (t.kind == kind && nth-- == 0) return t.time;
    }
    return infinity;
  }
};

/// Who jumped in the moment of a landing had touched the ground, but got back neither dash nor air jump.
TEST(Presses, AJumpThatWaitedForTheLandingGetsBackWhatGroundGives) {
  Random random(4402);
  for (int i = 0; i < scenes_of(80); ++i) {
    WalkerTuning tuning;
    tuning.jump.air_jumps = 1, tuning.dash.charge.charges = 1, tuning.dash.charge.cooldown = 0;
    tuning.jump.buffer = 0.2, tuning.wall.on = random.below(2) == 0;
    const bool forced = i % 2 == 1;
    const double hz = rates[random.below(std::size(rates))], ahead = random.uniform(0, 0.19);
    const auto into_the_air = [&](Either& it) {
      it.until(0.3), it.press_jump();
      it.until(0.5), it.press_jump(), it.controls().dash.tap();
    };
    Either first(tuning, forced, hz);
    into_the_air(first), first.until(2.5);
    const double lands = first.time_of(WalkerEventKind::landed);
    ASSERT_LT(lands, 2.5);
    Either it(tuning, forced, hz);
    into_the_air(it);
    it.until(lands - ahead), it.press_jump();
    it.until(lands + 0.2);
    EXPECT_LT(it.time_of(WalkerEventKind::jumped, 2), lands + 0.1) << i << ": " << hz;
    EXPECT_EQ(it.brain().can_jump().from, JumpFrom::air) << i << ": " << hz;
    EXPECT_EQ(it.brain().can_dash(), NoMove::none) << i << ": " << hz;
  }
}

TEST(Presses, WaitForALockoutToTheInstant) {
  Random random(4403);
  for (int i = 0; i < scenes_of(80); ++i) {
    WalkerTuning tuning;
    const bool forced = i % 2 == 1;
    const double hz = rates[random.below(std::size(rates))], lockout = random.uniform(0.01, 0.15);
    tuning.jump.landing_lockout = lockout, tuning.jump.buffer = 0.5;
    Either it(tuning, forced, hz);
    it.until(0.3), it.press_jump();
    it.until(0.8), it.press_jump();
    it.until(1.5);
    EXPECT_NEAR(it.time_of(WalkerEventKind::jumped, 1) - it.time_of(WalkerEventKind::landed), lockout, 1e-6)
        << i << ": " << hz << (forced ? " forced" : "");
  }
}

/// Hands reach an edge within a tick, and a climb ends within one: the time that is left of it counts.
TEST(Presses, ALedgeIsCaughtAndAClimbEndsWithinATick) {
  Random random(4404);
  for (int i = 0; i < scenes_of(80); ++i) {
    WalkerTuning tuning;
    tuning.ledge.on = true, tuning.ledge.climb_time = random.uniform(0.2, 0.6);
    const bool forced = i % 2 == 1;
    const double high = random.uniform(2, 2.7);
    const auto run = [&](double hz) {
      Either it(tuning, forced, hz);
      it.s.box({0.5, 0, -5}, {3, high, 5});
      it.until(0.3), it.press_jump(), it.controls().intent.move = {1, 0, 0};
      it.until(1.2), it.press_jump();
      it.until(2.4);
      EXPECT_NEAR(it.time_of(WalkerEventKind::climbed) - 1.2, tuning.ledge.climb_time, 1e-6) << hz;
      return std::pair(it.time_of(WalkerEventKind::ledge_caught), it.s.stage.facts(it.s.stage.nth(0)).position.x);
    };
    const auto [fine_time, fine_x] = run(960);
    const double hz = 30 * (1 << random.below(4));
    const auto [time, x] = run(hz);
    EXPECT_NEAR(time, fine_time, 2e-3) << i << ": " << hz << (forced ? " forced" : "");
    EXPECT_NEAR(x, fine_x, forced ? 0.05 : 0.005) << i << ": " << hz << (forced ? " forced" : "");
  }
}

}  // namespace
}  // namespace jugend::testing
