// Snapshots, threads, runs: always the same bits.
#include <gtest/gtest.h>

#include <jugend/base/error.hpp>

#include "../support/watched.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

std::uint64_t hash_of(const World& world) {
  StateHash hash;
  world.add_to(hash);
  return hash.value();
}

TEST(Snapshot, AThousandBodiesEndTheSameHoweverTheyGetThere) {
  const int bodies = unless_watched(1000, 60), ticks = unless_watched(60, 30), apart = unless_watched(15, 8);
  Yard straight, threaded;
  add_mixed_pile(straight.world, bodies);
  add_mixed_pile(threaded.world, bodies);
  threaded.world.set_threads(2);
  std::vector<Snapshot> on_the_way;
  for (int tick = 0; tick < ticks; ++tick) {
    if (tick % apart == 5) straight.world.save(on_the_way.emplace_back());
    straight.world.step(1.0 / 60);
    threaded.world.step(1.0 / 60);
  }
  const std::uint64_t end = straight.hash();
  EXPECT_EQ(threaded.hash(), end) << "two threads";
  for (std::size_t i = 0; i < on_the_way.size(); ++i) {
    straight.world.restore(on_the_way[i]);
    EXPECT_NE(straight.hash(), end);
    for (int tick = static_cast<int>(i) * apart + 5; tick < ticks; ++tick) straight.world.step(1.0 / 60);
    EXPECT_EQ(straight.hash(), end) << "from snapshot " << i;
  }
}

TEST(Snapshot, ItBringsBackWhatWasAddedAndRemoved) {
  Yard yard;
  const BodyId floor = yard.floor();
  const BodyId low = yard.crate({0, 0.3, 0}), high = yard.crate({0, 0.9, 0});
  const JointId joint = yard.world.add(JointPlan{.kind = JointKind::fixed, .a = low, .b = high, .at = {0, 0.6, 0}});
  const std::uint32_t zone = yard.world.add_zone({.size = {2, 2, 2}, .effect = ZoneEffect::scale, .strength = 0.5});
  yard.run(1, 60);
  Snapshot before;
  yard.world.save(before);
  const std::uint64_t hash = yard.hash();
  yard.world.remove(high);
  yard.world.remove_zone(zone);
  const BodyId other = yard.ball({0, 2, 0});
  yard.run(1, 60);
  yard.world.remove(floor);
  yard.run(1, 60);
  yard.world.restore(before);
  EXPECT_EQ(yard.hash(), hash);
  EXPECT_TRUE(yard.world.alive(high) && yard.world.alive(floor) && yard.world.alive(joint));
  EXPECT_FALSE(yard.world.alive(other));
  EXPECT_NEAR(yard.world.gravity({}).y, -0.5 * g, 1e-12);
  EXPECT_TRUE(yard.world.cast({{0, 5, 0}, {0, -1, 0}, 10}, {})->body == high);
  Yard elsewhere;
  EXPECT_THROW(elsewhere.world.restore(before), InputError);
  EXPECT_THROW(yard.world.restore(Snapshot{}), InputError);
}

TEST(Snapshot, RandomComingAndGoingReplaysToTheSameBits) {
  const auto play = [](int threads) {
    Yard yard;
    yard.world.set_threads(threads);
    yard.floor();
    Random random(21);
    std::vector<BodyId> alive;
    for (int tick = 0; tick < 400; ++tick) {
      if (tick % 3 == 0) {
        const Vec3 at{random.uniform(-1, 1), random.uniform(1, 4), random.uniform(-1, 1)};
        alive.push_back(random.below(2) ? yard.crate(at, 10, 0.2) : yard.ball(at, 0.2));
      }
      if (tick % 5 == 0 && alive.size() > 20) {
        const std::uint32_t i = random.below(static_cast<std::uint32_t>(alive.size()));
        yard.world.remove(alive[i]);
        alive.erase(alive.begin() + i);
      }
      if (tick % 11 == 0 && !alive.empty())
        yard.world.push(alive[random.below(static_cast<std::uint32_t>(alive.size()))], random.point(30));
      constexpr double rates[] = {30, 60, 100, 240};
      const double hz = rates[random.below(4)];
      yard.world.step(1 / hz);
    }
    return hash_of(yard.world);
  };
  EXPECT_EQ(play(1), play(2));
  EXPECT_EQ(play(2), play(3));
}

}  // namespace
}  // namespace jugend::testing
