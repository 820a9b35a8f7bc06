// Ticks of any length, each of another, lead whoever acts where ticks of half a millisecond do.
#include <gtest/gtest.h>

#include <algorithm>

#include "../support/troupe.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

/// What is asked for half a second.
struct Wish {
  Vec3 way;
  double share;
  bool jumps, dashes;
};

void ask(Actor& actor, const Wish& wish, bool first) {
  if (auto* walker = actor.find<WalkerControls>()) {
    walker->intent.move = wish.way, walker->jump.set(wish.jumps);
    if (wish.dashes && first) walker->dash.tap();
  } else if (auto* led = actor.find<LedBodyControls>()) {
    led->intent = {wish.way, 4 * wish.share};
  } else if (auto* craft = actor.find<MultirotorControls>()) {
    craft->fly.ahead = wish.way.x, craft->fly.right = wish.way.z, craft->fly.climb = 0.3 * (wish.share - 0.5);
  } else {
    actor.as<BoatControls>().helm = {wish.way.x, wish.way.z};
  }
}

/// Where it comes to in 4 s by ticks of `shortest` to `longest` s.
Vec3 comes_to(Part part, std::uint32_t seed, double shortest, double longest) {
  Random random(seed), lengths(seed + 1);
  Stage stage;
  add_quay(stage.world);
  const ActorId id = add_part(stage, part, "actor", stance(part, {}, 0.3));
  for (int half = 0; half < 8; ++half) {
    const double angle = random.uniform(-pi, pi), size = random.uniform(0.3, 1), share = random.uniform(0, 1);
    const bool jumps = random.below(3) == 0, dashes = random.below(4) == 0;
    const Wish wish{{size * std::cos(angle), 0, size * std::sin(angle)}, share, jumps, dashes};
    double left = 0.5;
    for (bool first = true; left > 1e-9; first = false) {
      double dt = lengths.uniform(shortest, longest);
      if (left < dt + 0.5 * shortest) dt = left;
      ask(stage.actor(id), wish, first);
      stage.tick(dt), left -= dt;
    }
  }
  return stage.facts(id).position;
}

TEST(UnevenTicks, LeadWhereFineOnesDo) {
  struct Promise {
    Part part;
    double longest, share;  // s; of the way and a metre
  };
  constexpr Promise promises[] = {{Part::walker, 0.1, 1e-6},
                                  {Part::forced, 0.1, 1e-6},
                                  {Part::led_body, 0.1, 0.02},
                                  {Part::multirotor, 0.034, 0.03},
                                  {Part::boat, 0.1, 0.01}};
  for (const auto& [part, longest, share] : promises) {
    for (int scene = 0; scene < unless_watched(8, 1); ++scene) {
      const auto seed = static_cast<std::uint32_t>(50 + scene);
      const Vec3 fine = comes_to(part, seed, 5e-4, 5e-4), uneven = comes_to(part, seed, 0.004, longest);
      const double way = 1 + norm(fine - stance(part, {}).position);
      EXPECT_LT(norm(uneven - fine), share * way) << static_cast<int>(part) << ", scene " << scene;
    }
  }
}

}  // namespace
}  // namespace jugend::testing
