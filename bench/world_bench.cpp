// Piles, carts, sleepers and snapshots: what a rigid body costs.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <functional>
#include <vector>

#include "support/yard.hpp"
#include "timing.hpp"

namespace jugend::bench {
namespace {

using testing::Random;

/// Boxes in ten layers, close together, that fall a hand's breadth and lie: the same height whatever their
/// number, so that each has as many neighbours.
void add_pile(World& world, int count, bool sleeps) {
  world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  const int side = static_cast<int>(std::lround(std::sqrt(count / 10.0)));
  Random random(3);
  for (int i = 0; i < count; ++i) {
    const int in_layer = i % (side * side);
    const double a = random.uniform(-0.05, 0.05), b = random.uniform(-0.05, 0.05);
    world.add({.shape = Box{{0.2, 0.2, 0.2}},
               .pose = {{0.5 * (in_layer % side - 0.5 * side) + a, 0.25 + 0.45 * (i / (side * side)),
                         0.5 * (in_layer / side - 0.5 * side) + b},
                        {}},
               .kind = BodyKind::dynamic,
               .can_sleep = sleeps});
  }
}

double tick_seconds(World& world, int ticks) {
  return seconds([&] {
           for (int i = 0; i < ticks; ++i) world.step(1.0 / 60);
         }) /
         ticks;
}

}  // namespace

void report_world_ratios() {
  World small, large;
  add_pile(small, 1000, false);
  add_pile(large, 10000, false);
  for (int i = 0; i < 90; ++i) small.step(1.0 / 60);
  large.set_threads(2);
  for (int i = 0; i < 60; ++i) large.step(1.0 / 60);
  std::vector<double> growth, threads, ns;
  for (int round = 0; round < 7; ++round) {
    const double of_small = tick_seconds(small, 30) / 1000;
    large.set_threads(1);
    const double of_large = tick_seconds(large, 3) / 10000;
    large.set_threads(2);
    const double by_two = tick_seconds(large, 3) / 10000;
    growth.push_back(of_large / of_small);
    threads.push_back(of_large / by_two);
    // 12 sub-steps of two halves, and the last half kick's.
    ns.push_back(1e9 * of_small * 1000 / (static_cast<double>(small.contact_points()) * 25));
  }
  fmt::print("an awake body among 10,000 / among 1,000: {:.2f} (at most 1.4)\n", median(growth));
  fmt::print("10,000 boxes, one thread / two: {:.2f} (at least 1.7)\n", median(threads));
  fmt::print("a contact point's half of a sub-step, with all that a tick costs: {:.0f} ns; {:.2f} points a box\n",
             median(ns), static_cast<double>(small.contact_points()) / 1000);

  World awake, asleep, nobody;
  add_pile(awake, 2000, false);
  add_pile(asleep, 2000, true);
  nobody.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  // One body that never rests keeps each world's step going.
  for (World* w : {&asleep, &nobody})
    w->add({.shape = Box{{0.2, 0.2, 0.2}}, .pose = {{50, 0.2, 50}, {}}, .kind = BodyKind::dynamic, .can_sleep = false});
  for (int i = 0; i < 60; ++i) awake.step(1.0 / 60), nobody.step(1.0 / 60);
  for (int i = 0; i < 1200 && asleep.awake() > 1; ++i) asleep.step(1.0 / 60);
  std::vector<double> shares;
  for (int round = 0; round < 7; ++round) {
    const double of_awake = tick_seconds(awake, 10);
    shares.push_back((tick_seconds(asleep, 100) - tick_seconds(nobody, 100)) / of_awake);
  }
  fmt::print("a sleeping body / an awake one: {:.4f} ({} of 2,001 awake; below 0.01)\n", median(shares),
             asleep.awake());

  Snapshot snapshot;
  small.save(snapshot);
  std::vector<char> from(snapshot.bytes(), 1), to(snapshot.bytes(), 2);
  std::vector<double> saves, restores;
  for (int round = 0; round < 31; ++round) {
    const double copy = seconds([&] {
      std::memcpy(to.data(), from.data(), from.size());
      benchmark::DoNotOptimize(to.data());
      benchmark::ClobberMemory();
    });
    saves.push_back(seconds([&] { small.save(snapshot); }) / copy);
    restores.push_back(seconds([&] { small.restore(snapshot); }) / copy);
  }
  fmt::print("a snapshot / a memcpy of its {:.1f} MB: {:.2f}, its restore: {:.2f} (at most 2)\n",
             static_cast<double>(snapshot.bytes()) * 1e-6, median(saves), median(restores));
}

namespace {

void pile(benchmark::State& state) {
  World world;
  add_pile(world, static_cast<int>(state.range(0)), false);
  world.set_threads(static_cast<int>(state.range(1)));
  for (int i = 0; i < 60; ++i) world.step(1.0 / 60);
  for (auto _ : state) world.step(1.0 / 60);
  state.counters["us_per_body"] =
      benchmark::Counter(static_cast<double>(state.range(0)) * 1e-6,
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
  state.counters["points"] = static_cast<double>(world.contact_points());
}
BENCHMARK(pile)
    ->Args({100, 1})
    ->Args({1000, 1})
    ->Args({1000, 2})
    ->Args({10000, 1})
    ->Args({10000, 2})
    ->Unit(benchmark::kMillisecond);

void hinged_carts(benchmark::State& state) {
  World world;
  world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  for (int i = 0; i < 200; ++i) {
    const auto cart =
        testing::add_cart(world, {1.5 * (i % 20), 0.05, 1.5 * (i / 20)}, static_cast<std::uint32_t>(i + 1));
    world.set_motion(cart[0], {0.5, 0, 0}, {});
  }
  for (auto _ : state) {
    world.step(1.0 / 60);
    state.PauseTiming();
    world.for_each([&](BodyId id) { world.wake(id); });
    state.ResumeTiming();
  }
}
BENCHMARK(hinged_carts)->Unit(benchmark::kMillisecond);

void mostly_sleeping(benchmark::State& state) {
  World world;
  add_pile(world, 2000, true);
  world.add(
      {.shape = Box{{0.2, 0.2, 0.2}}, .pose = {{50, 0.2, 50}, {}}, .kind = BodyKind::dynamic, .can_sleep = false});
  for (int i = 0; i < 1200 && world.awake() > 1; ++i) world.step(1.0 / 60);
  for (auto _ : state) world.step(1.0 / 60);
  state.counters["awake"] = static_cast<double>(world.awake());
}
BENCHMARK(mostly_sleeping)->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace jugend::bench
