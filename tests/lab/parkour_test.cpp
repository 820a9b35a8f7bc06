// The harbour's parkour, run through by its trial and by random input: what may never happen, does not.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/lab/gauges.hpp>
#include <jugend/lab/trace.hpp>
#include <jugend/stage/kinds.hpp>

#include "../support/random.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

std::string demo(const std::string& name) { return JUGEND_SOURCE "/demo/" + name; }

struct Course {
  Stage stage;
  WalkerTuning tuning;
  std::vector<BodyId> bodies;

  Course() {
    const Trial trial = read_trial(demo("parkour.toml"));
    bodies = trial.level.build(stage);
    tuning = trial.actors.front().tuning.as<WalkerTuning>();
    stage.add("courier", Walker(tuning, trial.actors.front().start));
    walker().dangers = level_layer::danger;
    walker().stompable = level_layer::stompable;
  }
  ActorOf<WalkerKind>& actor() { return stage.actor_with<Walker>(stage.nth(0)); }
  Walker& walker() { return stage.actor(stage.nth(0)).as<Walker>(); }
  const WalkerState& state() { return walker().state(); }

  /// How deep the body is in anything, m.
  double depth() {
    const WalkerState& s = state();
    const double r = tuning.body.radius, lift = s.on_ground ? tuning.ground.step_height : 0;
    const std::array<Vec3, 2> ends{s.position + s.up * (lift + r),
                                   s.position + s.up * std::max(lift + r, walker().height() - r)};
    std::array<Overlap, 8> found;
    const Filter others{.self = walker().body()};
    const std::size_t n = std::min(found.size(), stage.world.overlaps({ends, r, Core::segment}, 0, found, others));
    double deepest = 0;
    for (std::size_t i = 0; i < n; ++i) deepest = std::max(deepest, found[i].depth);
    return deepest;
  }
};

TEST(Parkour, ItsTrialShowsEveryMove) {
  const Trace trace = run_trial(read_trial(demo("parkour.toml")));
  std::array<int, walker_event_kinds> heard{};
  std::array<int, walker_modes> modes{};
  std::array<int, 7> from{};
  for (const TraceEvent& e : trace.actors[0].events) {
    ++heard[static_cast<std::size_t>(e.kind)];
    for (int f = 0; f < 7; ++f) from[static_cast<std::size_t>(f)] += e.detail == name_of(static_cast<JumpFrom>(f));
  }
  for (const TraceRow& r : trace.actors[0].rows) ++modes[static_cast<std::size_t>(r.mode)];
  using enum WalkerEventKind;
  for (const auto kind : {jumped, left_ground, apex, landed, dashed, dash_ended, launched, hit, recovered, stomped,
                          ledge_caught, climbed, kicked, splashed})
    EXPECT_GT(heard[static_cast<std::size_t>(kind)], 0) << name_of(kind);
  using Mode = WalkerMode;
  for (const auto mode : {Mode::idle, Mode::running, Mode::rising, Mode::falling, Mode::crouching, Mode::wall_sliding,
                          Mode::dashing, Mode::thrown, Mode::hanging, Mode::climbing, Mode::swimming})
    EXPECT_GT(modes[static_cast<std::size_t>(mode)], 0) << name_of(mode);
  for (const auto f : {JumpFrom::ground, JumpFrom::edge, JumpFrom::wall, JumpFrom::water, JumpFrom::air})
    EXPECT_GT(from[static_cast<std::size_t>(f)], 0) << name_of(f);
}

/// A player without a plan: holds a direction for a while, mashes or holds keys.
struct Monkey {
  Random random;
  double until = 0;
  Vec3 way;
  std::array<bool, 4> down{};

  explicit Monkey(std::uint32_t seed) : random(seed) {}
  void play(ActorOf<WalkerKind>& actor, double now) {
    if (now >= until) {
      const double wait = random.uniform(0.1, 1.6), angle = random.uniform(0, 2 * pi);
      until = now + wait;
      way = random.below(5) == 0 ? Vec3{} : Vec3{std::cos(angle), 0, std::sin(angle)};
    }
    actor.intent.move = way;
    const double x = random.uniform(-1, 1), y = random.uniform(-1, 1);
    actor.intent.aim = {x, y, 0.3};
    PressLatch* keys[] = {&actor.jump, &actor.dash, &actor.launch, &actor.crouch};
    const std::uint32_t odds[] = {6, 40, 90, 30};
    for (std::size_t k = 0; k < 4; ++k) {
      if (random.below(odds[k]) == 0) down[k] = !down[k];
      keys[k]->set(down[k]);
    }
    if (random.below(400) == 0) {
      const double hx = random.uniform(-1, 1), hz = random.uniform(-1, 1), far = random.uniform(0.2, 4);
      actor.controller.hit({{hx, 0, hz}, far});
    }
  }
};

/// A million ticks, at a tick rate drawn anew every so often; cut up so that they run side by side.
class RandomPlay : public ::testing::TestWithParam<std::uint32_t> {};
INSTANTIATE_TEST_SUITE_P(Seeds, RandomPlay, ::testing::Range(1u, 11u));

TEST_P(RandomPlay, NeverBreaksTheRules) {
  Course course;
  Monkey monkey(GetParam());
  double hz = 60, airborne_since = 0;
  const int ticks = unless_watched(100000, 8000);
  for (int tick = 0; tick < ticks; ++tick) {
    if (tick % 500 == 0) hz = monkey.random.uniform(30, 240);
    monkey.play(course.actor(), course.stage.now());
    course.stage.tick(1 / hz);
    const WalkerState& s = course.state();
    ASSERT_TRUE(is_finite(s.position) && is_finite(s.velocity)) << tick;
    const Vec3& p = s.position;
    ASSERT_TRUE(p.x > -8.001 && p.x < 62.001 && p.y > -4.001 && p.y < 29.5 && std::abs(p.z) < 5.001)
        << tick << ": " << p.x << " " << p.y << " " << p.z;
    // What is squeezed, as between a ferry and a box against the quay, has nowhere to go.
    const bool squeezed = std::ranges::any_of(course.actor().heard(),
                                              [](const WalkerEvent& e) { return e.kind == WalkerEventKind::squeezed; });
    const double depth = course.depth();
    ASSERT_LT(depth, squeezed ? 0.05 : 1e-3)
        << tick << " at " << hz << " Hz in state " << name_of(s.mode) << " at " << p.x << " " << p.y << " " << p.z;
    const bool up = !s.on_ground && s.mode != WalkerMode::swimming && s.ledge.hold == Hold::free && !s.wedged;
    bool moved_itself = false;  // it may jump from wall to wall for as long as it likes
    for (const WalkerEvent& e : course.actor().heard())
      moved_itself |= e.kind == WalkerEventKind::jumped || e.kind == WalkerEventKind::stomped ||
                      e.kind == WalkerEventKind::launched || e.kind == WalkerEventKind::dashed;
    if (!up || moved_itself) airborne_since = course.stage.now();
    ASSERT_LT(course.stage.now() - airborne_since, 8) << tick << " at " << p.x << " " << p.y << " " << p.z;
  }
}

/// Where a way is open and input asks for it, there is motion: from wherever random play has led, straight to one of
/// eight directions moves a step within 3 s, and mashing and holding jump do not keep it from that.
TEST_P(RandomPlay, NeverGetsStuck) {
  Course course;
  Monkey monkey(GetParam() + 100);
  StageSnapshot snapshot;
  for (int round = 0; round < scenes_of(60); ++round) {
    const double hz = monkey.random.uniform(30, 240);
    for (int i = 0; i < static_cast<int>(4 * hz); ++i) {
      monkey.play(course.actor(), course.stage.now());
      course.stage.tick(1 / hz);
    }
    for (PressLatch* key : {&course.actor().jump, &course.actor().dash, &course.actor().launch, &course.actor().crouch})
      key->set(false);
    course.stage.save(snapshot);
    double furthest = 0;
    for (int way = 0; way < 8 && furthest < 0.5; ++way) {
      course.stage.restore(snapshot);
      const Vec3 start = course.state().position;
      course.actor().intent.move = {std::cos(way * pi / 4), 0, std::sin(way * pi / 4)};
      for (int i = 0; i < static_cast<int>(3 * hz); ++i) {
        if (way % 2 == 1) course.actor().jump.set(i % 20 < 10);
        course.stage.tick(1 / hz);
        const Vec3 moved = course.state().position - start;
        furthest = std::max(furthest, std::hypot(moved.x, moved.z));
      }
    }
    const Vec3 p = course.state().position;
    ASSERT_GT(furthest, 0.5) << round << " at " << p.x << " " << p.y << " " << p.z;
    course.stage.restore(snapshot);
  }
}

TEST(Parkour, HeldAndMashedJumpJumpsOncePerPressAtMost) {
  for (const double hz : {30.0, 60.0, 240.0}) {
    for (const bool mash : {false, true}) {
      Course course;
      for (int i = 0; i < static_cast<int>(0.3 * hz); ++i) course.stage.tick(1 / hz);
      int jumps = 0, presses = 0;
      for (int i = 0; i < static_cast<int>(10 * hz); ++i) {
        course.actor().jump.set(!mash || i % 2 == 0);
        presses += mash ? i % 2 == 0 : i == 0;
        course.stage.tick(1 / hz);
        for (const WalkerEvent& e : course.actor().heard()) jumps += e.kind == WalkerEventKind::jumped;
      }
      EXPECT_GT(jumps, 0);
      EXPECT_LE(jumps, presses);
      if (!mash) {
        EXPECT_EQ(jumps, 1);
      }
    }
  }
}

}  // namespace
}  // namespace jugend::testing
