// Many actors at once: in whatever order, and on however many threads, pieces of a tick run, the bits are the same.
#include <gtest/gtest.h>

#include <jugend/base/error.hpp>
#include <memory>
#include <numeric>
#include <vector>

#include "../support/any_value.hpp"
#include "../support/troupe.hpp"

namespace jugend::testing {
namespace {

/// A crowd on rough ground among crates, some of them on top of one another: of all kinds, or a heap of vehicles.
struct Crowd {
  Stage stage;
  explicit Crowd(std::uint32_t seed) {
    Random random(seed);
    stage.world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(30, 2, 0.3)), .pose = {{-30, 0, -30}, {}}});
    stage.world.add_pool({.half_extents = {200, 10, 200}, .pose = {{0, -10, 600}, {}}});
    const bool heap = seed % 2 == 0;
    const double far = heap ? 6 : 14;
    const auto place = [&] {
      const double x = random.uniform(-far, far);
      const double z = random.uniform(-far, far);
      return Vec3{x, 0.4, z};
    };
    for (int i = 0; i < 40; ++i) {
      const Vec3 at = place();
      stage.world.add(
          {.shape = Box{{0.3, 0.3, 0.3}}, .pose = {at + Vec3{0, 1, 0}, {}}, .kind = BodyKind::dynamic, .mass = 30});
    }
    for (int i = 0; i < 12 * 8; ++i) {
      const Vec3 at = place();
      const double angle = random.uniform(-pi, pi);
      const Part part = heap ? (i % 4 ? Part::vehicle : Part::tracked) : all_parts[i % 8];
      add_part(stage, part, "actor_" + std::to_string(i), stance(part, at, angle));
    }
  }
  std::vector<std::uint64_t> hashes(std::uint32_t seed, int ticks) {
    Random random(seed);
    std::vector<std::uint64_t> all;
    for (int tick = 0; tick < ticks; ++tick) {
      if (tick % 10 == 0) stage.for_each([&](ActorId id, const Actor&) { drive(stage.actor(id), random); });
      stage.tick(1.0 / 60), all.push_back(stage.hash());
    }
    return all;
  }
};

/// Runs pieces one after the other in an order of its own.
struct AnyOrder {
  Random random{4};
  bool backwards = false;
  int runs = 0;

  JobSystem jobs() {
    return {this,
            [](void* host, std::size_t pieces, void (*job)(void*, std::size_t), void* of) {
              AnyOrder& self = *static_cast<AnyOrder*>(host);
              std::vector<std::size_t> order(pieces);
              std::iota(order.begin(), order.end(), 0);
              for (std::size_t i = pieces; i-- > 1;) {
                const std::size_t other = self.backwards ? (i >= pieces / 2 ? pieces - 1 - i : i)
                                                         : self.random.below(static_cast<std::uint32_t>(i + 1));
                std::swap(order[i], order[other]);
              }
              for (const std::size_t piece : order) job(of, piece);
              ++self.runs;
            },
            [](void*) { return 3; }};
  }
};

TEST(Many, AnyOrderAndAnyNumberOfThreadsGiveTheSameBits) {
  for (std::uint32_t seed = 1; seed <= static_cast<std::uint32_t>(scenes_of(2)); ++seed) {
    const int ticks = 50;
    const std::vector<std::uint64_t> alone = Crowd(seed).hashes(seed, ticks);
    for (const int threads : {2, 5}) {
      Crowd crowd(seed);
      crowd.stage.world.set_threads(threads);
      EXPECT_EQ(crowd.hashes(seed, ticks), alone) << seed << " on " << threads;
    }
    for (const bool backwards : {true, false}) {
      Crowd crowd(seed);
      AnyOrder order;
      order.backwards = backwards;
      crowd.stage.world.set_jobs(order.jobs());
      EXPECT_EQ(crowd.hashes(seed, ticks), alone) << seed << (backwards ? " backwards" : " in any order");
      EXPECT_GT(order.runs, 2 * ticks);
    }
  }
}

/// All see the world as the tick found it: who was added first counts for nothing.
TEST(Many, NobodyGainsByHavingComeFirst) {
  for (const bool swapped : {false, true}) {
    Stage stage;
    add_quay(stage.world);
    const ActorId left = stage.add(swapped ? "b" : "a", Walker({}, {swapped ? 3.0 : -3.0, 0, 0}));
    const ActorId right = stage.add(swapped ? "a" : "b", Walker({}, {swapped ? -3.0 : 3.0, 0, 0}));
    stage.actor_with<Walker>(left).intent.move = {swapped ? -1.0 : 1.0, 0, 0};
    stage.actor_with<Walker>(right).intent.move = {swapped ? 1.0 : -1.0, 0, 0};
    for (int i = 0; i < 180; ++i) stage.tick(1.0 / 60);
    const Vec3 a = stage.facts(left).position, b = stage.facts(right).position;
    EXPECT_NEAR(a.x, -b.x, 1e-9);  // they stand against one another in the middle
    EXPECT_LT(std::abs(a.x), 0.5);
  }
}

TEST(Many, AJobSystemWithoutItsFunctionsIsRefused) {
  World world;
  EXPECT_THROW(world.set_jobs({}), InputError);
  EXPECT_THROW(world.set_jobs({nullptr, nullptr, [](void*) { return 1; }}), InputError);
}

}  // namespace
}  // namespace jugend::testing
