// What a walker's tick costs, beside the bare queries that it makes.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <algorithm>
#include <jugend/stage/kinds.hpp>
#include <random>

#include "../tests/support/scene.hpp"
#include "terrain.hpp"
#include "timing.hpp"

namespace jugend::bench {
namespace {

/// Walkers all over the terrain, each running its own way and jumping now and then.
class Crowd {
 public:
  World world;
  std::vector<Walker> walkers;

  Crowd(std::size_t count, std::int64_t triangles, bool as_mesh = true, const WalkerTuning& tuning = {}) {
    const std::uint32_t cells = cells_for(triangles);
    if (as_mesh) {
      world.add({.shape = std::make_shared<Mesh>(terrain(cells))});
    } else {
      world.add({.shape = HeightFieldRef(terrain_field(cells))});
    }
    const double size = size_ = cells;
    for (std::size_t i = 0; i < count; ++i) {
      const double x = uniform(0.1 * size, 0.9 * size), z = uniform(0.1 * size, 0.9 * size), angle = uniform(0, 6.28);
      walkers.emplace_back(tuning, Vec3{x, terrain_height(x, z) + 0.1, z});
      ways_.push_back({std::cos(angle), 0, std::sin(angle)});
    }
    for (int i = 0; i < 30; ++i) tick(world);
  }

  void tick(Surroundings& surroundings) {
    ++now_;
    for (std::size_t i = 0; i < walkers.size(); ++i) {
      // Turned round every second, and back to the middle from the border: nobody leaves the terrain.
      const Vec3 to_middle = Vec3{0.5 * size_, 0, 0.5 * size_} - walkers[i].state().position;
      const bool outside = std::max(std::abs(to_middle.x), std::abs(to_middle.z)) > 0.45 * size_;
      const Vec3 way = outside ? normalised(Vec3{to_middle.x, 0, to_middle.z}) : (now_ / 60) % 2 ? -ways_[i] : ways_[i];
      const auto press = [&](std::size_t every) { return Button{(now_ + i) % every == 0 ? 1u : 0u, false}; };
      walkers[i].step({way, press(97), press(131), press(397), {}, {}}, surroundings, 1.0 / 60);
    }
  }

 private:
  double uniform(double low, double high) { return low + (high - low) * (random_() / 4294967296.0); }
  std::mt19937 random_{1};
  std::vector<Vec3> ways_;
  std::size_t now_ = 0;
  double size_ = 0;
};

/// Passes all questions on and keeps them, so that they can be asked again without a walker.
class Recorder final : public Surroundings {
 public:
  explicit Recorder(World& world) : world_(world) {}
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override {
    asked_.push_back({Kind::cast, ray, {}, 0, Core::point, {}, filter});
    return world_.cast(ray, filter);
  }
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override {
    keep(Kind::sweep, mover, motion, filter);
    return world_.sweep(mover, motion, filter);
  }
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override {
    keep(Kind::overlaps, body, {margin, 0, 0}, filter);
    return world_.overlaps(body, margin, out, filter);
  }
  BodyFacts facts(BodyId body) const override { return world_.facts(body); }
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override { world_.push(body, impulse, at); }
  void twist(BodyId body, const Vec3& impulse) override { world_.twist(body, impulse); }
  void force(BodyId body, const Vec3& force, const Vec3& at) override { world_.force(body, force, at); }
  void torque(BodyId body, const Vec3& torque) override { world_.torque(body, torque); }
  Vec3 gravity(const Vec3& at) const override { return world_.gravity(at); }

  void ask_again() const {
    std::array<Overlap, 8> out;
    for (const Question& q : asked_) {
      const Convex body{{q.points.data(), q.core == Core::point ? 1u : 2u}, q.radius, q.core};
      if (q.kind == Kind::cast) benchmark::DoNotOptimize(world_.cast(q.ray, q.filter));
      if (q.kind == Kind::sweep) benchmark::DoNotOptimize(world_.sweep(body, q.motion, q.filter));
      if (q.kind == Kind::overlaps) benchmark::DoNotOptimize(world_.overlaps(body, q.motion.x, out, q.filter));
    }
  }
  std::size_t count() const { return asked_.size(); }

 private:
  enum class Kind { cast, sweep, overlaps };
  struct Question {
    Kind kind;
    Ray ray;
    std::array<Vec3, 2> points;
    double radius;
    Core core;
    Vec3 motion;
    Filter filter;
  };
  void keep(Kind kind, const Convex& body, const Vec3& motion, const Filter& filter) const {
    asked_.push_back({kind, {}, {body.points.front(), body.points.back()}, body.radius, body.core, motion, filter});
  }
  World& world_;
  mutable std::vector<Question> asked_;
};

void walker_tick(benchmark::State& state) {
  Crowd crowd(static_cast<std::size_t>(state.range(0)), state.range(1));
  for (auto _ : state) crowd.tick(crowd.world);
  state.counters["per walker"] = benchmark::Counter(
      static_cast<double>(state.range(0)), benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(walker_tick)->ArgsProduct({{1, 100, 10000}, {2000, 20000, 200000}})->Unit(benchmark::kMicrosecond);

void walker_tick_on_heights(benchmark::State& state) {
  Crowd crowd(static_cast<std::size_t>(state.range(0)), 200000, false);
  for (auto _ : state) crowd.tick(crowd.world);
  state.counters["per walker"] = benchmark::Counter(
      static_cast<double>(state.range(0)), benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(walker_tick_on_heights)->Arg(1)->Arg(100)->Arg(10000)->Unit(benchmark::kMicrosecond);

/// One who presses along a wall, to and fro, that leans back by so many degrees: too steep to stand on.
void walker_along_a_wall(benchmark::State& state) {
  World world;
  world.add({.shape = Box{{100, 1, 100}}, .pose = {{0, -1, 0}, {}}});
  const Quat turn = rotation({-0.0174533 * static_cast<double>(state.range(0)), 0, 0});
  world.add({.shape = Box{{100, 20, 1}}, .pose = {rotate(turn, {0, 0, -1}), turn}});
  Walker walker({}, {0, 0, 1});
  int now = 0;
  for (auto _ : state) {
    walker.step({.move = {++now / 60 % 2 ? 0.8 : -0.8, 0, -0.6}}, world, 1.0 / 60);
  }
}
BENCHMARK(walker_along_a_wall)->Arg(0)->Arg(15)->Arg(30)->Unit(benchmark::kMicrosecond);

/// The time of a tick and of the bare queries that it makes, one after the other.
struct TickCost {
  double tick = 0, queries = 0;
};
TickCost cost_of(Crowd& crowd) {
  const std::vector<Walker> before = crowd.walkers;
  Recorder recorder(crowd.world);
  crowd.tick(recorder);
  crowd.walkers = before;
  return {seconds([&] { crowd.tick(crowd.world); }), seconds([&] { recorder.ask_again(); })};
}

/// 1000 walkers among 1000 crates on a quay of a hectare. Each runs where it likes for a second or so, and jumps
/// now and then; what it runs into it pushes, and either turns away from it or goes on pushing.
void report_walkers_among_crates(bool turn_away) {
  Stage stage;
  stage.world.add({.shape = Box{{80, 1, 80}}, .pose = {{0, -1, 0}, {}}});
  std::mt19937 random(5);
  const auto uniform = [&](double low, double high) { return low + (high - low) * (random() / 4294967296.0); };
  for (int i = 0; i < 1000; ++i) {
    const double x = 3.0 * (i % 32) - 48, z = 3.0 * (i / 32) - 48;
    stage.world.add({.shape = Box{{0.4, 0.3, 0.4}}, .pose = {{x, 0.3, z}, {}}, .kind = BodyKind::dynamic, .mass = 22});
    stage.add("courier_" + std::to_string(i), Walker({}, {x + 1.5, 0, z + 1.5}));
  }
  std::vector<double> times;
  for (int tick = 0; tick < 360; ++tick) {
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      auto& a = stage.actor_with<Walker>(stage.nth(i));
      const bool bumped = turn_away && a.controller.state().pushed.since < 0.02;
      if (random() % 60 == 0 || tick == 0 || bumped) {
        const double angle = uniform(0, 6.28);
        a.intent.move = {std::cos(angle), 0, std::sin(angle)};
      }
      if (random() % 90 == 0) a.jump.tap();
    }
    const double took = seconds([&] { stage.tick(1.0 / 60); }) * 1e3;
    if (tick >= 60) times.push_back(took);
  }
  fmt::print("  {:<34} {:5.1f} ms in the middle, {:5.1f} ms at worst; 60 Hz leaves 16.7 ({} crates awake)\n",
             turn_away ? "each turns away from what it pushes" : "each goes on pushing", median(times),
             *std::ranges::max_element(times), stage.world.awake());
}

}  // namespace

void report_walker_ratios() {
  std::vector<double> against_queries, queries_each;
  double tick_us = 1e300;
  {
    Crowd crowd(1000, 200000);
    for (int round = 0; round < 41; ++round) {
      const std::vector<Walker> before = crowd.walkers;
      Recorder recorder(crowd.world);
      crowd.tick(recorder);
      crowd.walkers = before;
      const double tick = seconds([&] { crowd.tick(crowd.world); });
      const double queries = seconds([&] { recorder.ask_again(); });
      against_queries.push_back(tick / queries);
      queries_each.push_back(static_cast<double>(recorder.count()) / 1000);
      tick_us = std::min(tick_us, tick * 1e6);
    }
  }
  Crowd few(100, 200000), many(10000, 200000);
  std::vector<double> growth;
  for (int round = 0; round < 21; ++round) {
    const double a = seconds([&] {
                       for (int k = 0; k < 20; ++k) few.tick(few.world);
                     }) /
                     2000;
    const double b = seconds([&] { many.tick(many.world); }) / 10000;
    growth.push_back(b / a);
  }
  fmt::print("\nWalkers on 200000 triangles, one thread:\n");
  fmt::print(
      "  a tick of 1000 / its bare queries     {:.2f}   (at most 4; {:.1f} queries a walker, fastest tick {:.0f} us)\n",
      median(against_queries), median(queries_each), tick_us);
  fmt::print("  each of 10000 / each of 100           {:.2f}   (at most 1.3)\n", median(growth));

  Crowd plain(1000, 200000), moving(1000, 200000, true, testing::all_moves());
  std::vector<double> raw, same_queries;
  for (int round = 0; round < 41; ++round) {
    const TickCost a = cost_of(plain), b = cost_of(moving);
    raw.push_back(b.tick / a.tick);
    same_queries.push_back((b.tick / b.queries) / (a.tick / a.queries));
    plain.tick(plain.world), moving.tick(moving.world);
  }
  fmt::print("  every move on / plain, of the same queries  {:.2f}   (at most 1.3; with its own queries {:.2f})\n\n",
             median(same_queries), median(raw));
  fmt::print("A tick of 1000 walkers among 1000 crates, one thread:\n");
  for (const bool turn_away : {true, false}) report_walkers_among_crates(turn_away);
  fmt::print("\n");
}

}  // namespace jugend::bench
