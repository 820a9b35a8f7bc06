// No tick allocates once warm: every allocation of this program is counted.
#include <gtest/gtest.h>

#include <atomic>
#include <cstdlib>
#include <new>
#include <random>

#include "../support/any_value.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace {
std::atomic<long> allocations{0};
void* counted(std::size_t size, std::size_t alignment) {
  ++allocations;
  void* memory = nullptr;
  if (posix_memalign(&memory, alignment < sizeof(void*) ? sizeof(void*) : alignment, size == 0 ? 1 : size) != 0)
    throw std::bad_alloc();
  return memory;
}
}  // namespace

void* operator new(std::size_t size) { return counted(size, 16); }
void* operator new(std::size_t size, std::align_val_t alignment) {
  return counted(size, static_cast<std::size_t>(alignment));
}
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept { std::free(memory); }

namespace jugend::testing {
namespace {

/// After a thousand ticks to warm up; in a tenth of the ticks where watched.
template <class Drive>
void expect_none(Drive&& drive, int ticks) {
  for (int tick = 0; tick < 1000; ++tick) drive(tick);
  const long before = allocations;
  for (int tick = 0; tick < unless_watched(ticks, ticks / 10); ++tick) drive(tick);
  EXPECT_EQ(allocations - before, 0);
  EXPECT_GT(before, 0) << "the counter counts";
}

TEST(Allocation, NoneInAHundredThousandTicks) {
  Stage stage;
  stage.world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(60, 1.0, 0.6))});
  stage.world.add({.shape = std::make_shared<TileGrid>("...#....\n########\n", 2.0, 6.0), .pose = {{10, 1, 30}, {}}});
  stage.world.add(
      {.shape = std::make_shared<HeightField>(20, 20, 1.0, std::vector<double>(400, 1.2)), .pose = {{30, 0, 5}, {}}});
  const BodyId raft =
      stage.world.add({.shape = Box{{3, 0.2, 3}}, .pose = {{20, 1, 20}, {}}, .kind = BodyKind::kinematic});
  Random random(9);
  for (int i = 0; i < 40; ++i)
    stage.world.add({.shape = Box{{0.5, random.uniform(0.1, 1.0), 0.5}},
                     .pose = {{random.uniform(2, 58), 0.5, random.uniform(2, 58)}, {}}});
  for (int i = 0; i < 4; ++i) stage.add("walker" + std::to_string(i), Walker({}, {10.0 + 9 * i, 3, 12.0 + 8 * i}));

  const auto drive = [&](int tick) {
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      auto& actor = stage.actor_with<Walker>(stage.nth(i));
      if ((tick + 11 * static_cast<int>(i)) % 45 == 0)
        actor.intent.move = {random.uniform(-1, 1), 0, random.uniform(-1, 1)};
      actor.jump.set((tick / 20 + static_cast<int>(i)) % 3 == 0);
    }
    if (tick % 400 == 0) stage.world.set_motion(raft, {tick % 800 ? 1.0 : -1.0, 0, 0.3}, {0, 0.2, 0});
    stage.tick(1.0 / 60);
  };
  expect_none(drive, 100000);
}

TEST(Allocation, NoneWithEveryMoveOnRailsAndInWater) {
  Stage stage;
  stage.world.add({.shape = Box{{40, 1, 40}}, .pose = {{0, -1, 0}, {}}});
  stage.world.add({.shape = Box{{3, 1.3, 3}}, .pose = {{8, 1.3, 0}, {}}});
  stage.world.add_pool({.half_extents = {4, 1, 8}, .pose = {{-12, 1, 0}, {}}});
  const BodyId ferry =
      stage.world.add({.shape = Box{{3, 0.2, 3}}, .pose = {{0, 0.3, 6}, {}}, .kind = BodyKind::kinematic});
  const std::vector<Vec3> way{{0, 0, 0}, {6, 0, 0}, {6, 2, 4}};
  stage.add_rail(ferry, RailMotion(Path(way, true), {.duration = 3, .turn_rate = 0.5}));
  const BodyId ball =
      stage.world.add({.shape = Sphere{0.4}, .pose = {{0, 0.4, -8}, {}}, .kind = BodyKind::dynamic, .mass = 25});
  stage.add("walker", Walker(all_moves(), {0, 0, 0}));
  add_forced(stage, "apprentice", all_moves(), {}, {2, 0, -6});
  add_roller(stage, "buoy", {}, ball);
  Random random(3);
  const auto drive = [&](int tick) {
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      if (auto* rolled = stage.actor(stage.nth(i)).find<RollerControls>()) {
        rolled->intent.move = normalised(-stage.facts(stage.nth(i)).position);
        rolled->jump.set(random.below(5) == 0);
        continue;
      }
      auto& a = stage.actor(stage.nth(i)).as<WalkerControls>();
      // Back to the middle now and then: nobody leaves the floor, and no new pairs come up later.
      if (tick % 40 == 0) {
        const double x = random.uniform(-1, 1), z = random.uniform(-1, 1);
        const Vec3 home = -stage.facts(stage.nth(i)).position;
        a.intent.move = norm(home) > 15 ? normalised(in_plane(home, {0, 1, 0})) : Vec3{x, 0, z};
      }
      a.jump.set(random.below(5) == 0), a.crouch.set(random.below(9) == 0);
      if (random.below(40) == 0) a.dash.tap();
      if (random.below(90) == 0) a.launch.tap();
    }
    stage.tick(1.0 / 60);
  };
  expect_none(drive, 100000);
}

TEST(Allocation, NoneOnWheelsTracksAndRotorsAndAfloat) {
  Stage stage;
  stage.world.add({.shape = Box{{4000, 1, 4000}}, .pose = {{0, -1, 0}, {}}});
  for (int i = 0; i < 4; ++i) {
    VehicleTuning tuning;
    tuning.drive.by = i % 2 ? DriveBy::engine : DriveBy::outcomes;
    tuning.ground_probe = static_cast<GroundSense>(i);
    for (AxleTuning& axle : tuning.axles) axle.wheel.unsprung_mass = i == 3 ? 14 : 0, axle.wheel.anti_roll = 2000;
    const BodyId body = stage.world.add({.shape = Box{{1.2, 0.25, 0.5}},
                                         .pose = {{100.0 * i - 150, 0.7, 0}, {}},
                                         .kind = BodyKind::dynamic,
                                         .mass = 420});
    add_vehicle(stage, "cart_" + std::to_string(i), tuning, body);
  }
  const BodyId crane = stage.world.add(
      {.shape = Box{{1.4, 0.2, 0.7}}, .pose = {{0, 0.5, 60}, {}}, .kind = BodyKind::dynamic, .mass = 2000});
  add_tracked_vehicle(stage, "crane", {}, crane);
  stage.world.add_pool({.half_extents = {400, 1.5, 400}, .pose = {{0, 1.5, 1000}, {}}});
  const BodyId hull = stage.world.add(
      {.shape = Box{{2.5, 0.45, 1}}, .pose = {{0, 3.1, 1000}, {}}, .kind = BodyKind::dynamic, .mass = 3500});
  add_boat(stage, "workboat", {}, hull);
  const BodyId flies =
      stage.world.add({.shape = Box{{0.2, 0.05, 0.2}}, .pose = {{0, 9, 0}, {}}, .kind = BodyKind::dynamic, .mass = 2});
  MultirotorTuning gusty;
  gusty.rotors = 8, gusty.wind.gusts = 1;
  const ActorId drone = add_multirotor(stage, "drone", gusty, flies);
  stage.actor(drone).as<Multirotor>().fail(3);
  const auto drive = [&](int tick) {
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      if (auto* cart = stage.actor(stage.nth(i)).find<VehicleControls>()) {
        cart->drive.throttle = tick / 240 % 3 - 0.5, cart->drive.steer = 0.9;  // in circles
        cart->drive.brake = tick / 100 % 5 == 0 ? 1 : 0;
      }
      if (auto* tracks = stage.actor(stage.nth(i)).find<TrackedControls>())
        tracks->drive = {tick / 240 % 3 - 0.5, 0.7, 0};
      if (auto* boat = stage.actor(stage.nth(i)).find<BoatControls>()) boat->helm = {tick / 240 % 3 - 0.5, 0.9};
      if (auto* craft = stage.actor(stage.nth(i)).find<MultirotorControls>()) craft->fly.ahead = tick / 60 % 3 - 1;
    }
    stage.tick(1.0 / 60);
  };
  expect_none(drive, 20000);
}

/// From the first tick on: whatever touches whatever, comes, goes, breaks or is brought back, at any rate, on any
/// number of threads, told before or after.
TEST(Allocation, NoneInAWorldWithRoom) {
  const Shape tee = std::make_shared<Compound>(
      std::vector<Compound::Part>{{Box{{0.4, 0.1, 0.1}}, {}}, {Box{{0.1, 0.1, 0.4}}, {{0, 0.2, 0}, {}}}});
  const Shape shapes[] = {Box{{0.3, 0.2, 0.4}}, Sphere{0.25}, Capsule{0.2, 0.2}, tee};
  for (std::uint32_t scene = 0; scene < 6; ++scene) {
    Random random(scene);
    World world;
    const int threads = 1 + static_cast<int>(random.below(3));
    if (scene % 2 == 0) world.set_threads(threads);
    world.reserve({.bodies = 200, .pairs = 8000, .joints = 20});
    if (scene % 2 == 1) world.set_threads(threads);
    const bool rough = scene % 3 == 0;
    if (rough)
      world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(20, 1.0, 0.2)), .pose = {{-10, 0, -10}, {}}});
    else
      world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
    world.add_pool({.half_extents = {4, 1, 1}, .pose = {{4, 1, 0}, {}}});
    world.add({.shape = Box{{2, 2, 2}}, .pose = {{-4, 1, 0}, {}}, .sensor = true});
    std::vector<BodyId> bodies;
    Snapshot before_they_meet;
    long in_ticks = 0;
    for (int tick = 0; tick < scenes_of(180); ++tick) {
      if (tick < 110) {
        const double x = random.uniform(-6, 6);
        const Pose pose{{x, 4, random.uniform(-2, 2)}, random.pose(1).orientation};
        bodies.push_back(
            world.add({.shape = shapes[random.below(4)], .pose = pose, .kind = BodyKind::dynamic, .reports = true}));
        if (tick % 11 == 5)
          world.add(JointPlan{.kind = JointKind::ball, .a = bodies.back(), .at = pose.position, .break_force = 300});
        if (tick % 7 == 3) world.remove(bodies[random.below(static_cast<std::uint32_t>(bodies.size()))]);
      }
      if (tick == 60) world.save(before_they_meet);
      if (tick == 120) world.restore(before_they_meet);
      const double dt = random.uniform(0.004, 0.04);
      const long before = allocations;
      world.step(dt);
      in_ticks += allocations - before;
    }
    EXPECT_EQ(in_ticks, 0) << scene << ": " << threads << " threads";
  }
}

TEST(Allocation, NoneInASteadyTickOfAPile) {
  World world;
  world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(20, 1.0, 0.3)), .pose = {{-10, 0, -10}, {}}});
  world.add({.shape = Cylinder{2, 0.1}, .pose = {{0, 0.6, 0}, {}}, .kind = BodyKind::kinematic, .spin = {0, 1, 0}});
  Random random(2);
  const int count = scenes_of(120), jointed = count / 6;
  std::vector<BodyId> bodies;
  for (int i = 0; i < count; ++i) {
    const double x = random.uniform(-1, 1), z = random.uniform(-1, 1);
    const Shape shapes[] = {Box{{0.2, 0.2, 0.2}}, Sphere{0.2}, Cylinder{0.2, 0.1}};
    bodies.push_back(world.add({.shape = shapes[i % 3],
                                .pose = {{x, 2 + 0.2 * i, z}, {}},
                                .kind = BodyKind::dynamic,
                                .can_sleep = i % 2 == 0}));
  }
  for (int i = 0; i < jointed; ++i)
    world.add(JointPlan{.a = bodies[static_cast<std::size_t>(i)],
                        .b = bodies[static_cast<std::size_t>(i + jointed)],
                        .at = world.pose(bodies[static_cast<std::size_t>(i)]).position});
  Snapshot snapshot;
  const auto drive = [&](int tick) {
    world.step(1.0 / 60);
    if (tick % 60 == 0) world.push(bodies[static_cast<std::size_t>(tick / 60) % bodies.size()], {0, 20, 5});
    if (tick % 100 == 0) world.save(snapshot);
  };
  // The last one lands within 3 s: a pile that still grows needs more room.
  for (int tick = 0; tick < 700; ++tick) drive(tick);
  const long before = allocations;
  for (int tick = 0; tick < 300; ++tick) drive(tick);
  EXPECT_EQ(allocations - before, 0);
}

}  // namespace
}  // namespace jugend::testing
