// Whoever stands on ground that turns, travels, rolls and heaves stays where they stand, on legs, wheels and tracks.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/units.hpp>

#include "../support/at_rate.hpp"
#include "../support/troupe.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

class ParkedAtRate : public AtRate {};
INSTANTIATE_TEST_SUITE_P(Rates, ParkedAtRate, ::testing::ValuesIn(rates), rate_name);

constexpr Part parked_parts[] = {Part::walker, Part::forced, Part::led_body, Part::vehicle, Part::tracked};

/// One of a kind, put down at rest on a deck.
struct Parked {
  Stage stage;
  BodyId deck;
  ActorId id;
  Part part;
  Vec3 began, began_facing;

  Parked(Part kind, const Vec3& at, double angle, const Surface& surface) : part(kind) {
    deck = stage.world.add(
        {.shape = Box{{30, 1, 30}}, .pose = {{0, -1, 0}, {}}, .kind = BodyKind::kinematic, .surface = surface});
    id = add_part(stage, kind, "parked", stance(kind, at, angle));
  }
  /// Walkers are put down at rest against what they stand on, bodies at a velocity in the world.
  void go_along(const Vec3& at, double angle, const Vec3& velocity, const Vec3& spin) {
    if (part != Part::walker && part != Part::forced) stage.place(id, {stance(part, at, angle), velocity, spin});
  }
  void look() { began = place(), began_facing = facing(); }
  Vec3 place() const { return to_local(stage.world.pose(deck), stage.facts(id).position); }
  Vec3 facing() const {
    const WalkerBrain* walker = stage.actor(id).find<WalkerBrain>();
    const Vec3 ahead =
        walker ? walker->state().facing : rotate(stage.world.pose(stage.actor(id).body()).orientation, {1, 0, 0});
    return rotate(conjugate(stage.world.pose(deck).orientation), ahead);
  }
  double moved() const { return std::hypot(place().x - began.x, place().z - began.z); }
};

TEST_P(ParkedAtRate, OnATurntableThatTravelsNobodyCreepsOrTurns) {
  for (const Part part : parked_parts) {
    Random random(28);
    for (int scene = 0; scene < unless_watched(8, 2); ++scene) {
      const double rate = random.uniform(-0.9, 0.9), angle = random.uniform(-pi, pi);
      const double radius = random.uniform(0.5, std::min(5.0, 3 / (rate * rate)));
      const Vec3 travel{random.uniform(-5, 5), random.uniform(-2, 2), random.uniform(-5, 5)};
      Parked parked(part, {radius, 0, 0}, angle, {.friction = random.below(2) * random.uniform(0, 0.9)});
      parked.stage.world.set_motion(parked.deck, travel, {0, rate, 0});
      parked.go_along({radius, 0, 0}, angle, travel + Vec3{0, 0, -rate * radius}, {0, rate, 0});
      const auto run = [&](double seconds) {
        for (int tick = 0; tick < seconds * hz; ++tick) parked.stage.tick(1 / hz);
      };
      run(2);
      parked.look();
      run(10);
      const bool legs = part == Part::walker || part == Part::forced;
      EXPECT_LT(parked.moved(), legs ? 1e-9 : 4e-3) << static_cast<int>(part) << ": " << rate << " rad/s at " << radius;
      EXPECT_LT(norm(parked.facing() - parked.began_facing), legs ? 1e-9 : 1e-3) << static_cast<int>(part);
    }
  }
}

/// A led body slips to and fro by its half-life, and the middle of what leans is not above its foot.
TEST_P(ParkedAtRate, OnAFerryThatRollsAndHeavesNobodySlidesOff) {
  for (const Part part : parked_parts) {
    Random random(29);
    for (int scene = 0; scene < unless_watched(6, 2); ++scene) {
      const double roll = random.uniform(2, 8) * radians_per_degree, period = random.uniform(4, 9);
      const double heave = random.uniform(0, 0.5), angle = random.uniform(-pi, pi);
      const Vec3 at{random.uniform(-6, 6), 0, random.uniform(-3, 3)};
      const Vec3 travel{random.uniform(-5, 5), 0, random.uniform(-5, 5)};
      Parked parked(part, at, angle, {});
      parked.go_along(at, angle, travel, {});
      int in_air = 0;
      for (int tick = 0; tick < 12 * hz; ++tick) {
        const double swing = std::min(1.0, tick / hz / 2) * 2 * pi / period * std::cos(2 * pi * tick / hz / period);
        parked.stage.world.set_motion(parked.deck, travel + Vec3{0, heave * swing, 0}, {roll * swing, 0, 0});
        if (tick == std::lround(2 * hz)) parked.look();
        parked.stage.tick(1 / hz);
        if (tick <= 2 * hz) continue;
        in_air += !parked.stage.facts(parked.id).on_ground;
        ASSERT_LT(parked.moved(), part == Part::led_body ? 0.3 : 0.04) << static_cast<int>(part) << " at " << tick / hz;
      }
      EXPECT_EQ(in_air, 0) << static_cast<int>(part);
    }
  }
}

}  // namespace
}  // namespace jugend::testing
