// What a program hangs into a stage: its own memory, those who watch, and what shows how actors sense.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <jugend/stage/senses.hpp>
#include <map>

#include "../support/troupe.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

/// Memory that is counted, and filled with rubbish before it is given and after it comes back.
struct Counted {
  std::map<void*, std::pair<std::size_t, std::size_t>> out;
  std::size_t taken = 0;
  bool sound = true;
  Memory memory{this,
                [](void* host, std::size_t bytes, std::size_t alignment) -> void* {
                  auto& self = *static_cast<Counted*>(host);
                  void* fresh = std::aligned_alloc(std::max<std::size_t>(alignment, 8), (bytes + 127) / 64 * 64);
                  std::fill_n(static_cast<unsigned char*>(fresh), bytes, 0xa5);
                  self.out[fresh] = {bytes, alignment}, ++self.taken;
                  return fresh;
                },
                [](void* host, void* given, std::size_t bytes, std::size_t alignment) {
                  auto& self = *static_cast<Counted*>(host);
                  self.sound &= self.out[given] == std::pair(bytes, alignment);
                  self.out.erase(given);
                  std::fill_n(static_cast<unsigned char*>(given), bytes, 0x5a);
                  std::free(given);
                }};
};

/// A show of all kinds among crates, random in all that happens; what it comes to.
std::uint64_t play(Stage& stage, std::uint32_t seed, int ticks) {
  Random random(seed);
  add_quay(stage.world);
  for (int i = 0; i < 30; ++i) {
    const double x = random.uniform(-9, 9);
    const double z = random.uniform(-9, 9);
    stage.world.add({.shape = Box{{0.3, 0.3, 0.3}}, .pose = {{x, 1.0 + i, z}, {}}, .kind = BodyKind::dynamic});
  }
  std::vector<ActorId> known;
  int named = 0;
  for (int tick = 0; tick < ticks; ++tick) {
    for (int i = 0; i < 3; ++i) act(stage, random, 9, known, named);
    stage.tick(1.0 / 60);
    if (tick % 50 == 20) {
      StageSnapshot before;
      stage.save(before);
      stage.tick(1.0 / 60);
      stage.restore(before);
      stage.restore(stage.from_bytes(stage.to_bytes()));
    }
  }
  return stage.hash();
}

TEST(Hooks, OwnMemoryServesAWorldAndComesBackWhole) {
  for (std::uint32_t seed = 1; seed <= static_cast<std::uint32_t>(scenes_of(8)); ++seed) {
    Stage plain;
    const std::uint64_t hash = play(plain, seed, 200);
    Counted counted;
    {
      Stage own(&counted.memory);
      EXPECT_EQ(play(own, seed, 200), hash);
      EXPECT_FALSE(counted.out.empty());
      Stage moved = std::move(own);
      moved.tick(1.0 / 60);
    }
    EXPECT_TRUE(counted.out.empty() && counted.sound);
    EXPECT_GT(counted.taken, 30u);
  }
  Memory half;
  half.take = [](void*, std::size_t, std::size_t) -> void* { return nullptr; };
  EXPECT_THROW(World{&half}, InputError);
}

TEST(Hooks, RoomForMoreThanAnyWorldIsRefused) {
  World world;
  EXPECT_THROW(world.reserve({.bodies = std::size_t(-1)}), InputError);
  world.reserve({.bodies = 1000, .pairs = 4000, .joints = 50});
}

struct Heard {
  std::vector<std::string> open, all, told;
  bool nested = true;
  Watch watch{this, [](void* host, const char* part) { static_cast<Heard*>(host)->begin(part); },
              [](void* host, const char* part) { static_cast<Heard*>(host)->end(part); },
              [](void* host, const char* sentence) { static_cast<Heard*>(host)->told.emplace_back(sentence); }};
  void begin(const char* part) {
    open.emplace_back(part);
    std::string path;
    for (const std::string& each : open) path += "/" + each;
    all.push_back(path);
  }
  void end(const char* part) {
    nested &= !open.empty() && open.back() == part;
    if (!open.empty()) open.pop_back();
  }
};

TEST(Hooks, WhoWatchesHearsEachPartOfATickAndChangesNothing) {
  Stage plain;
  const std::uint64_t hash = play(plain, 5, 120);
  Heard heard;
  Stage stage;
  stage.world.set_watch(heard.watch);
  EXPECT_EQ(play(stage, 5, 120), hash);
  EXPECT_TRUE(heard.nested && heard.open.empty());
  heard.all.clear();
  stage.tick(1.0 / 60);
  const std::vector<std::string> parts{"/rails",       "/intents",        "/actors step",   "/world",
                                       "/world/pairs", "/world/contacts", "/world/solving", "/actors settle"};
  EXPECT_EQ(heard.all, parts);
}

TEST(Hooks, WhatHappensIsToldInWords) {
  Heard heard;
  Stage stage;
  add_quay(stage.world);
  stage.world.set_watch(heard.watch);
  const ActorId courier = add_part(stage, Part::walker, "courier", stance(Part::walker, {}));
  const ActorId cart = add_part(stage, Part::vehicle, "cart", stance(Part::vehicle, {5, 0, 0}));
  stage.tick(1.0 / 60);
  EXPECT_TRUE(heard.told.empty());
  stage.actor(courier).as<WalkerControls>().intent.move.x = NAN;
  stage.world.remove(stage.actor(cart).body());
  stage.tick(1.0 / 60);
  EXPECT_EQ(heard.told, (std::vector<std::string>{"cart left: its body is no longer in the world",
                                                  "courier: move is no number, and counts as nothing"}));
}

struct Sensing : SenseSketch {
  std::map<std::string, int> rays, questions;
  std::map<std::string, Vec3> wishes, forces;
  std::string who;
  int hits = 0;
  void actor(ActorId, const Actor& actor) override { who = actor.name(); }
  void wish(const Vec3&, const Vec3& way) override { wishes[who] = way; }
  void ray(const Ray& ray, const std::optional<Hit>& hit) override {
    ++rays[who], ++questions[who], hits += hit.has_value();
    EXPECT_NEAR(norm(ray.direction), 1, 1e-9);
  }
  void sweep(const Convex&, const Vec3&, const std::optional<Hit>&) override { ++questions[who]; }
  void near(const Convex&, double, std::span<const Overlap>) override { ++questions[who]; }
  void force(BodyId, const Vec3&, const Vec3& force) override { forces[who] += force; }
};

TEST(Hooks, SensesOfEveryKindAreShownAndChangeNothing) {
  for (const double hz : {30.0, 60.0, 144.0}) {
    Stage stage;
    add_quay(stage.world);
    double x = 0;
    for (const Part part : all_parts)
      add_part(stage, part, "actor_" + std::to_string(static_cast<int>(part)), stance(part, {x += 8, 0, 0}));
    for (int tick = 0; tick < 4 * hz; ++tick) stage.tick(1 / hz);
    const std::uint64_t before = stage.hash();
    Sensing sensing;
    stage.actor(stage.nth(0)).as<WalkerControls>().intent.move = {0, 0, 0.5};
    stage.actor(stage.nth(4)).as<VehicleControls>().drive = {.throttle = -1};
    const std::uint64_t driven = stage.hash();
    draw_senses(stage, 1 / hz, sensing);
    EXPECT_EQ(stage.hash(), driven);
    EXPECT_NE(driven, before);
    EXPECT_EQ(sensing.wishes["actor_0"], (Vec3{0, 0, 0.5}));
    EXPECT_NEAR(sensing.wishes["actor_4"].x, -1, 0.01);
    EXPECT_EQ(sensing.rays["actor_4"], 4) << "a ray a wheel";
    EXPECT_GT(sensing.hits, 3);
    for (const Part part : {Part::walker, Part::forced, Part::roller, Part::led_body, Part::vehicle, Part::tracked})
      EXPECT_GT(sensing.questions["actor_" + std::to_string(static_cast<int>(part))], 0) << static_cast<int>(part);
    // What holds it up is its weight.
    for (const Part part : {Part::forced, Part::tracked, Part::multirotor}) {
      const std::string name = "actor_" + std::to_string(static_cast<int>(part));
      const double weight = stage.world.mass(stage.actor(stage.find(name)).body()) * standard_gravity;
      EXPECT_NEAR(sensing.forces[name].y, weight, 0.02 * weight) << name << " at " << hz;
    }
    stage.pause(stage.nth(4));
    Sensing again;
    draw_senses(stage, 1 / hz, again);
    EXPECT_EQ(again.rays.count("actor_4"), 0u);
    EXPECT_THROW(draw_senses(stage, NAN, again), InputError);
  }
}

}  // namespace
}  // namespace jugend::testing
