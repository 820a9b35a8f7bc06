// A stage as bytes: what comes back from them elsewhere goes on to the same bits, and bytes that were changed are
// refused whole.
#include <gtest/gtest.h>

#include <algorithm>
#include <functional>
#include <jugend/base/bytes.hpp>
#include <jugend/base/error.hpp>
#include <memory>
#include <string>
#include <vector>

#include "../support/any_value.hpp"
#include "../support/troupe.hpp"

namespace jugend::testing {
namespace {

using Bytes = std::vector<std::byte>;

Shape rough_ground() { return std::make_shared<Mesh>(bumpy_mesh(12, 4, 0.4)); }
Shape wedge() {
  const std::vector<Vec3> corners{{-1, 0, -1}, {1, 0, -1}, {1, 0, 1}, {-1, 0, 1}, {1, 0.8, -1}, {1, 0.8, 1}};
  return std::make_shared<Hull>(corners);
}

/// A quay with things of all sorts: each call makes shapes of its own.
void furnish(Stage& stage) {
  World& world = stage.world;
  add_quay(world);
  world.add({.shape = rough_ground(), .pose = {{-150, 0, -150}, {}}, .name = "rubble"});
  world.add({.shape = wedge(), .pose = {{6, 0, 3}, {}}, .surface = {.friction = 0.3}, .name = "ramp"});
  const BodyId lift = world.add({.shape = Box{{2, 0.1, 2}}, .pose = {{12, 0.2, 0}, {}}, .kind = BodyKind::kinematic});
  stage.add_rail(lift, RailMotion(Path(std::vector<Vec3>{{12, 0.2, 0}, {12, 3, 2}, {16, 2, 0}}, true, true),
                                  {.duration = 5, .run = RailMotionRun::loop}));
  const BodyId crate = world.add({.shape = Box{}, .pose = {{0, 0.5, 4}, {}}, .kind = BodyKind::dynamic});
  const BodyId ball = world.add({.shape = Sphere{0.3}, .pose = {{0, 4, 4}, {}}, .kind = BodyKind::dynamic});
  world.add(
      JointPlan{.kind = JointKind::distance, .a = ball, .b = crate, .at = {0, 4, 4}, .at_b = {0, 1, 4}, .high = 4});
  world.add_zone({.pose = {{-20, 2, 0}, {}}, .effect = ZoneEffect::scale, .strength = 0.2});
}

/// Another process: the level made anew, and the actors of the bytes in another order, as they are by default.
std::unique_ptr<Stage> another_with(const Stage& like) {
  auto stage = std::make_unique<Stage>();
  furnish(*stage);
  std::vector<ActorId> ids;
  like.for_each([&](ActorId id, const Actor&) { ids.push_back(id); });
  std::ranges::reverse(ids);
  for (const ActorId id : ids) {
    const Actor& actor = like.actor(id);
    for (const Part part : all_parts) {
      Stage probe;
      add_quay(probe.world);
      if (probe.actor(add_part(probe, part, "x", stance(part, {}))).kind() != actor.kind()) continue;
      add_part(*stage, part, actor.name(), stance(part, {3, 0, 3}));
    }
  }
  return stage;
}

TEST(Bytes, AShowGoesOnElsewhereToTheSameBits) {
  for (std::uint32_t seed = 1; seed <= static_cast<std::uint32_t>(scenes_of(12)); ++seed) {
    Stage stage;
    furnish(stage);
    Random random(seed);
    std::vector<ActorId> known;
    int named = 0;
    for (int round = 0; round < 8; ++round) {
      const int ticks = 1 + static_cast<int>(random.below(40));
      for (int tick = 0; tick < ticks; ++tick)
        act(stage, random, seed % 2 ? 40 : 6, known, named), stage.tick(1.0 / 60);
      const Bytes bytes = stage.to_bytes();
      const auto other = another_with(stage);
      other->restore(other->from_bytes(bytes));
      ASSERT_EQ(other->hash(), stage.hash()) << seed;
      EXPECT_EQ(other->to_bytes(), bytes) << seed;
      EXPECT_EQ(other->now(), stage.now());
      Random same = random;
      std::vector<ActorId> also_known = known;
      int also_named = named;
      for (int tick = 0; tick < 30; ++tick) {
        act(stage, random, 40, known, named), act(*other, same, 40, also_known, also_named);
        stage.tick(1.0 / 60), other->tick(1.0 / 60);
        ASSERT_EQ(other->hash(), stage.hash()) << "seed " << seed << " round " << round << " tick " << tick;
      }
      EXPECT_EQ(known, also_known);
    }
    EXPECT_GT(named, 5);
  }
}

TEST(Bytes, OfAWorldAloneToo) {
  Stage stage;
  furnish(stage);
  for (int i = 0; i < 40; ++i) stage.world.step(1.0 / 60);
  World other = stage.world.from_bytes(stage.world.to_bytes());
  const auto hash = [](const World& world) {
    StateHash sum;
    world.add_to(sum);
    return sum.value();
  };
  for (int i = 0; i < 100; ++i) {
    stage.world.step(1.0 / 60), other.step(1.0 / 60);
    ASSERT_EQ(hash(stage.world), hash(other)) << i;
  }
}

/// A stage with all kinds in the middle of something.
struct Busy {
  Stage stage;
  explicit Busy(std::uint32_t seed = 5, int ticks = 50) {
    furnish(stage);
    const char* names[] = {"the_a", "the_b", "the_c", "the_d", "the_e", "the_f", "the_g", "the_h"};
    for (const Part part : all_parts)
      add_part(stage, part, names[static_cast<int>(part)], stance(part, {3.0 * static_cast<int>(part), 0, 0}));
    Random random(seed);
    for (int tick = 0; tick < ticks; ++tick) {
      stage.for_each([&](ActorId id, const Actor&) { drive(stage.actor(id), random); });
      stage.tick(1.0 / 60);
    }
  }
};

TEST(Bytes, ThatWereChangedAreRefusedAndChangeNothing) {
  const Busy source;
  Busy target(6);
  const Bytes good = source.stage.to_bytes();
  const std::uint64_t before = target.stage.hash();
  Random random(17);
  const int mutations = scenes_of(10000);
  for (int i = 0; i < mutations; ++i) {
    Bytes bytes = good;
    const std::uint32_t what = random.below(4);
    const std::size_t at = random.below(static_cast<std::uint32_t>(bytes.size()));
    if (what == 0) {
      bytes.resize(at);
    } else if (what == 1) {
      bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(at), static_cast<std::byte>(random.below(256)));
    } else {
      const int count = what == 2 ? 1 : 1 + static_cast<int>(random.below(20));
      for (int k = 0; k < count; ++k) {
        const std::size_t place = (at + static_cast<std::size_t>(k)) % bytes.size();
        bytes[place] ^= static_cast<std::byte>(1 + random.below(255));
      }
    }
    EXPECT_THROW(target.stage.from_bytes(bytes), InputError) << i;
  }
  EXPECT_EQ(target.stage.hash(), before);
  EXPECT_EQ(target.stage.to_bytes(), Busy(6).stage.to_bytes());
}

/// The letter round some bytes, taken off and put on anew with the check sum that is then theirs.
struct Letter {
  std::string what;
  std::uint64_t layout = 0;
  Bytes content;
  explicit Letter(std::span<const std::byte> bytes) {
    ByteReader in(bytes);
    std::string mark;
    pass(in, mark), pass(in, what), pass(in, layout), pass(in, content);
  }
  Bytes closed() const { return sealed(what, layout, content); }
};

/// As one would who wants to do harm: the check sum is right, what is within is not. It is refused, or it is a stage
/// that can be restored, ticked, hashed, and written again.
TEST(Bytes, ThatFitTheirCheckSumButNothingElseDoNoHarm) {
  const Busy source;
  Busy target(6);
  const Letter good(source.stage.to_bytes());
  Random random(18);
  const int mutations = scenes_of(1500);
  int refused = 0;
  StageSnapshot before;
  target.stage.save(before);
  const std::uint64_t hash = target.stage.hash();
  for (int i = 0; i < mutations; ++i) {
    Letter letter = good;
    std::uint64_t world_size = 0;  // the world's letter comes first
    ByteReader in(letter.content);
    pass(in, world_size);
    const auto begin = letter.content.begin() + 8, end = begin + static_cast<std::ptrdiff_t>(world_size);
    const auto change = [&](Bytes& bytes, std::size_t from) {
      const std::size_t at = from + random.below(static_cast<std::uint32_t>(bytes.size() - from));
      if (random.below(2) == 0) {
        bytes[at] ^= static_cast<std::byte>(1u << random.below(8));
      } else {
        for (std::size_t k = at; k < std::min(at + 4, bytes.size()); ++k) bytes[k] = static_cast<std::byte>(0xff);
      }
    };
    if (i % 2) {
      Letter world(Bytes(begin, end));
      change(world.content, 0);
      const Bytes closed = world.closed();
      std::ranges::copy(closed, begin);
    } else {
      change(letter.content, 8 + world_size);
    }
    try {
      const StageSnapshot snapshot = target.stage.from_bytes(letter.closed());
      target.stage.restore(snapshot);
      // Numbers may be anything, so a tick may refuse what it comes to; places that it goes to must be there.
      try {
        for (int tick = 0; tick < 3; ++tick) target.stage.tick(1.0 / 60);
      } catch (const InputError&) {
      }
      target.stage.hash();
      EXPECT_FALSE(target.stage.to_bytes().empty());
      target.stage.restore(before);
    } catch (const InputError& error) {
      ++refused;
    }
    ASSERT_EQ(target.stage.hash(), hash) << i;
  }
  EXPECT_GT(refused, mutations / 20);
}

std::string words_of(const std::function<void()>& call) {
  try {
    call();
  } catch (const InputError& error) {
    return error.what();
  }
  return "nothing";
}

TEST(Bytes, OfAnotherMakeAreRefusedInWords) {
  const Busy source;
  const Bytes bytes = source.stage.to_bytes();
  const auto refusal = [&](Stage& stage, const Bytes& from) { return words_of([&] { stage.from_bytes(from); }); };
  Stage empty;
  EXPECT_NE(refusal(empty, bytes).find("hull, compound, mesh"), std::string::npos) << refusal(empty, bytes);
  Stage without;
  furnish(without);
  EXPECT_NE(refusal(without, bytes).find("'the_a', of kind walker"), std::string::npos) << refusal(without, bytes);
  add_part(without, Part::roller, "the_a", stance(Part::roller, {}));
  EXPECT_NE(refusal(without, bytes).find("'the_a', of kind walker"), std::string::npos);
  EXPECT_NE(refusal(without, source.stage.world.to_bytes()).find("bytes of a world"), std::string::npos);
  EXPECT_NE(refusal(without, {}).find("0 bytes"), std::string::npos);
  Stage large;
  large.world.set_length_scale(100);
  furnish(large);
  EXPECT_NE(refusal(large, bytes).find("length_scale 1"), std::string::npos) << refusal(large, bytes);
}

TEST(Bytes, ShapesThatNoBodyHasAnyMoreAreHandedOver) {
  Busy source;
  const BodyId late = source.stage.world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(3, 1, 0.2, 9))});
  const Bytes bytes = source.stage.to_bytes();
  Busy target(6);
  EXPECT_THROW(target.stage.from_bytes(bytes), InputError);
  const Shape more[] = {std::make_shared<Mesh>(bumpy_mesh(3, 1, 0.2, 9))};
  target.stage.restore(target.stage.from_bytes(bytes, more));
  EXPECT_TRUE(target.stage.world.alive(late));
  EXPECT_EQ(target.stage.hash(), source.stage.hash());
}

TEST(Bytes, LeaveOutWhoLostItsBodySinceTheLastTick) {
  Busy source;
  source.stage.world.remove(source.stage.actor(source.stage.find("the_e")).body());
  source.stage.world.remove(source.stage.rail(0).body);
  const ActorId again = add_part(source.stage, Part::vehicle, "the_e", stance(Part::vehicle, {9, 0, 9}));
  Busy target(6);
  target.stage.restore(target.stage.from_bytes(source.stage.to_bytes()));
  EXPECT_EQ(target.stage.hash(), source.stage.hash());
  EXPECT_TRUE(target.stage.alive(again));
  for (int i = 0; i < 20; ++i) {
    source.stage.tick(1.0 / 60), target.stage.tick(1.0 / 60);
    ASSERT_EQ(target.stage.hash(), source.stage.hash()) << i;
  }
  EXPECT_EQ(target.stage.to_bytes(), source.stage.to_bytes());
}

TEST(Bytes, SnapshotsOfBothKindsMayBeMixed) {
  Busy busy;
  StageSnapshot early;
  busy.stage.save(early);
  const std::uint64_t then = busy.stage.hash();
  const Bytes bytes = busy.stage.to_bytes();
  WalkerTuning fast = troupe_walker();
  fast.run.top_speed = 9;
  busy.stage.set_tuning(busy.stage.find("the_a"), fast);
  busy.stage.remove(busy.stage.find("the_c"));
  for (int i = 0; i < 20; ++i) busy.stage.tick(1.0 / 60);
  EXPECT_THROW(busy.stage.from_bytes(bytes), InputError);  // the_c is gone
  busy.stage.restore(early);
  busy.stage.set_tuning(busy.stage.find("the_a"), fast);
  busy.stage.restore(busy.stage.from_bytes(bytes));
  EXPECT_EQ(busy.stage.hash(), then);
  EXPECT_EQ(busy.stage.actor(busy.stage.find("the_a")).as<Walker>().tuning().run.top_speed,
            troupe_walker().run.top_speed);
  for (int i = 0; i < 20; ++i) busy.stage.tick(1.0 / 60);
  busy.stage.restore(early);
  EXPECT_EQ(busy.stage.hash(), then);
  EXPECT_EQ(busy.stage.to_bytes(), bytes);
}

}  // namespace
}  // namespace jugend::testing
