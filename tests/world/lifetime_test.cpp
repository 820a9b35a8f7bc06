// What is gone is gone: shapes and names with their last holder, ids of bodies for good, also across snapshots.
#include <gtest/gtest.h>

#include <jugend/base/error.hpp>
#include <map>
#include <stdexcept>

#include "../support/random.hpp"
#include "../support/watched.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

std::shared_ptr<const Hull> any_hull(Random& random) {
  std::vector<Vec3> points;
  for (int i = 0; i < 8; ++i) points.push_back(random.point(0.5));
  return std::make_shared<Hull>(points);
}

TEST(Lifetime, AShapeGoesWithItsLastBodyAndSnapshot) {
  Random random(31);
  World world;
  std::weak_ptr<const Hull> watched;
  BodyId first, second;
  {
    const auto hull = any_hull(random);
    watched = hull;
    first = world.add({.shape = hull, .kind = BodyKind::dynamic});
    second = world.add({.shape = hull, .pose = {{3, 0, 0}, {}}, .kind = BodyKind::dynamic});
  }
  Snapshot snapshot;
  world.save(snapshot);
  world.remove(first);
  EXPECT_FALSE(watched.expired()) << "the second body has it";
  world.set_shape(second, Sphere{0.4});
  EXPECT_FALSE(watched.expired()) << "the snapshot has it";
  world.add({.shape = any_hull(random), .pose = {{-3, 0, 0}, {}}, .kind = BodyKind::dynamic});
  world.restore(snapshot);
  world.step(1.0 / 60);
  EXPECT_EQ(world.shape(first), world.shape(second));
  EXPECT_EQ(std::get<HullRef>(world.shape(first)).get(), watched.lock().get());
  world.remove(first), world.remove(second);
  EXPECT_FALSE(watched.expired());
  world.save(snapshot);
  EXPECT_TRUE(watched.expired());
}

/// Bodies come and go at random, snapshots are taken and restored; a model says who must be alive, as what.
TEST(Lifetime, ShapesNamesAndIdsAreRightThroughAnyHistory) {
  struct Known {
    Shape shape;
    std::string name;
  };
  using Living = std::map<std::pair<std::uint32_t, std::uint32_t>, Known>;
  Random random(32);
  int again = 0;
  for (int history = 0; history < scenes_of(30); ++history) {
    World world;
    Living living;
    Living given;  // ever, in any future
    std::vector<std::pair<Snapshot, Living>> saved;
    for (int turn = 0; turn < 300; ++turn) {
      const auto what = random.below(10);
      if (what < 4) {
        const Shape shape = random.below(3) ? Shape{Sphere{0.1 + 0.1 * random.below(4)}} : Shape{any_hull(random)};
        const std::string name = "body_" + std::to_string(random.below(6));
        // The same places in each future: who is born there, in the same step, differs in shape or name, or is the
        // same.
        const Vec3 at{3.0 * static_cast<double>(living.size()), 0, 0};
        const BodyId id = world.add({.shape = shape, .pose = {at, {}}, .kind = BodyKind::dynamic, .name = name});
        const auto [earlier, fresh] = given.try_emplace({id.index, id.generation}, Known{shape, name});
        again += !fresh;
        EXPECT_TRUE(earlier->second.shape == shape && earlier->second.name == name) << "an id of another body";
        living[{id.index, id.generation}] = {shape, name};
      } else if (what < 6 && !living.empty()) {
        const auto gone = std::next(living.begin(), random.below(static_cast<std::uint32_t>(living.size())));
        EXPECT_TRUE(world.remove(BodyId{gone->first.first, gone->first.second}));
        living.erase(gone);
      } else if (what == 6) {
        saved.emplace_back();
        world.save(saved.back().first), saved.back().second = living;
      } else if (what == 7 && !saved.empty()) {
        const auto& [snapshot, then] = saved[random.below(static_cast<std::uint32_t>(saved.size()))];
        world.restore(snapshot), living = then;
      } else {
        world.step(1.0 / 60);
      }
      for (const auto& [id, ever] : given) {
        const auto& [index, generation] = id;
        const auto known = living.find({index, generation});
        ASSERT_EQ(world.alive(BodyId{index, generation}), known != living.end()) << history << ' ' << turn;
        if (known == living.end()) continue;
        ASSERT_EQ(world.shape(BodyId{index, generation}), known->second.shape) << history << ' ' << turn;
        ASSERT_EQ(world.name(BodyId{index, generation}), known->second.name) << history << ' ' << turn;
      }
    }
  }
  EXPECT_GT(again, 0) << "no future ever did the same again";
}

TEST(Lifetime, WhatIsDoneAgainAfterASnapshotHasTheSameIds) {
  Random random(33);
  Yard yard;
  yard.floor();
  Snapshot snapshot;
  yard.world.save(snapshot);
  std::vector<BodyId> ids[2];
  for (auto& those : ids) {
    yard.world.restore(snapshot);
    for (int i = 0; i < 20; ++i) {
      those.push_back(yard.crate({0.1 * i, 1.0 + i, 0}));
      if (i % 3 == 0) yard.world.remove(those[static_cast<std::size_t>(i) / 2]);
      yard.world.step(1.0 / 60);
    }
  }
  EXPECT_EQ(ids[0], ids[1]);
}

TEST(Lifetime, APairRuleThatChangesTheWorldIsRefusedAndNothingIsLost) {
  Yard yard;
  const BodyId floor = yard.floor();
  const BodyId low = yard.crate({0, 0.31, 0}), high = yard.crate({0, 0.92, 0});
  enum { remove_one, add_one, step_on, reshape, changes };
  for (int what = 0; what < changes; ++what) {
    yard.world.set_pair_rule([&](BodyId, BodyId) {
      if (what == remove_one) yard.world.remove(floor);
      if (what == add_one) yard.crate({9, 9, 9});
      if (what == step_on) yard.world.step(1.0 / 60);
      if (what == reshape) yard.world.set_shape(low, Sphere{0.1});
      return true;
    });
    EXPECT_THROW(yard.world.step(1.0 / 60), InputError) << what;
  }
  yard.world.set_pair_rule([](BodyId, BodyId) { return true; });
  yard.run(3, 60);
  EXPECT_NEAR(yard.world.pose(low).position.y, 0.3, 2e-3);
  EXPECT_NEAR(yard.world.pose(high).position.y, 0.9, 4e-3);
}

/// Thrown at any of the steps that a long tick has, whatever touched by then: the next tick tells its own.
TEST(Lifetime, APairRuleMayThrowInTheMiddleOfATick) {
  Random random(34);
  const int scenes = scenes_of(40);
  int thrown = 0;
  for (int i = 0; i < scenes; ++i) {
    Yard yard;
    yard.floor();
    for (int k = 0; k < 8; ++k) yard.crate(random.point(0.8) + Vec3{0, 2.0 + k, 0});
    yard.world.set_pair_rule([&](BodyId, BodyId) {
      if (random.below(4) == 0) throw std::runtime_error("not now");
      return true;
    });
    for (int tick = 0; tick < 40; ++tick) {
      try {
        yard.world.step(1 / random.uniform(4, 60));
      } catch (const std::runtime_error&) {
        ++thrown;
      }
    }
    yard.world.set_pair_rule([](BodyId, BodyId) { return true; });
    yard.run(6, 60);
    yard.world.for_each(
        [&](BodyId id) { EXPECT_TRUE(yard.world.mass(id) == 0 || yard.world.pose(id).position.y > 0.29); });
  }
  EXPECT_GT(thrown, scenes);
}

}  // namespace
}  // namespace jugend::testing
