// Between a ferry and a quay: walls and ledges that move otherwise than the ground that was left, on both bodies.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/stage/kinds.hpp>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};

/// A deck and, across a gap, a wall; each goes along the gap at its own speed.
struct Crossing {
  Stage stage;
  double hz = 60;
  Vec3 wall_velocity;

  Crossing(bool forced, double rate, const Vec3& deck, const Vec3& wall, double tall, const WalkerTuning& tuning)
      : hz(rate), wall_velocity(wall) {
    const auto block = [&](const Vec3& half, const Vec3& centre, const Vec3& velocity) {
      const BodyKind kind = velocity == Vec3{} ? BodyKind::fixed : BodyKind::kinematic;
      stage.world.add({.shape = Box{half}, .pose = {centre, {}}, .kind = kind, .velocity = velocity});
    };
    block({3, 1, 60}, {-3, -1, 0}, deck);
    block({3, 3, 60}, {4.6, tall - 3, 0}, wall);
    const Vec3 feet{-1.8, 0, 0}, ahead{1, 0, 0};
    if (forced) {
      add_forced(stage, "courier", tuning, {}, feet, ahead);
    } else {
      stage.add("courier", Walker(tuning, feet, ahead));
    }
  }
  WalkerControls& controls() { return stage.actor(stage.nth(0)).as<WalkerControls>(); }
  const WalkerState& state() { return stage.actor(stage.nth(0)).as<WalkerBrain>().state(); }
  /// Runs and jumps across.
  void cross() {
    run(0.3);
    controls().intent.move = {1, 0, 0};
    run(0.2);
    controls().jump.set(true);
    run(0.1);
  }
  void run(double seconds) {
    for (int i = 0; i < std::lround(seconds * hz); ++i) stage.tick(1 / hz);
  }
};

Vec3 any_speed_along(Random& random) { return {0, 0, static_cast<double>(random.below(2)) * random.uniform(-5, 5)}; }

TEST(Ferry, LedgesAreCaughtAndHeldWhateverMoves) {
  Random random(61);
  WalkerTuning tuning;
  tuning.ledge.on = true;
  for (int i = 0; i < 120; ++i) {
    const double hz = any_rate[random.below(4)], tall = random.uniform(2.0, 2.5);
    const Vec3 deck = any_speed_along(random), wall = any_speed_along(random);
    Crossing c(i % 2 == 1, hz, deck, wall, tall, tuning);
    c.cross();
    c.run(1.2);
    ASSERT_EQ(c.state().ledge.hold, Hold::hanging) << i << " at " << hz << ", from " << deck.z << " to " << wall.z;
    const Vec3 before = c.state().position;
    c.run(1);
    EXPECT_LT(norm(c.state().position - before - wall), 1e-6) << i << " at " << hz;
  }
}

TEST(Ferry, AJumpOffAWallLeavesItAtTheSameSpeedHoweverItMoves) {
  Random random(62);
  WalkerTuning tuning;
  tuning.wall.on = true;
  for (int i = 0; i < 120; ++i) {
    const double hz = any_rate[random.below(4)];
    const Vec3 deck = any_speed_along(random), wall{random.uniform(-0.3, 0.3), 0, any_speed_along(random).z};
    Crossing c(i % 2 == 1, hz, deck, wall, 5, tuning);
    c.cross();
    c.controls().jump.set(false);
    c.run(0.5);
    c.controls().jump.tap();
    bool left = false;
    for (int tick = 0; tick < 3 && !left; ++tick) {
      c.stage.tick(1 / hz);
      for (const WalkerEvent& e : c.stage.actor(c.stage.nth(0)).heard())
        left |= e.kind == WalkerEventKind::jumped && e.from == JumpFrom::wall;
    }
    ASSERT_TRUE(left) << i << " at " << hz << ", from " << deck.z << " to " << wall.x << ", " << wall.z;
    // At 30 Hz the tick of the jump may brake it in the air by 0.1 m/s.
    EXPECT_NEAR(c.state().velocity.x - wall.x, -tuning.wall.jump_away, 0.101) << i << " at " << hz;
  }
}

}  // namespace
}  // namespace jugend::testing
