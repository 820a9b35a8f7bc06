// What a second thread gives to a tick of many actors.
#include <fmt/format.h>

#include <jugend/stage/kinds.hpp>
#include <random>
#include <vector>

#include "terrain.hpp"
#include "timing.hpp"

namespace jugend::bench {
namespace {

/// A thousand actors of one kind, each going its own way on 20,000 triangles.
class Crowd {
 public:
  Crowd(bool walkers, int threads) {
    const std::uint32_t cells = cells_for(20000);
    stage_.world.add({.shape = std::make_shared<Mesh>(terrain(cells))});
    stage_.world.set_threads(threads);
    const double size = cells;
    for (int i = 0; i < 1000; ++i) {
      const double x = uniform(0.1 * size, 0.9 * size), z = uniform(0.1 * size, 0.9 * size);
      const double angle = uniform(0, 6.28), height = terrain_height(x, z);
      const std::string name = fmt::format("actor_{}", i);
      if (walkers) {
        const ActorId id = stage_.add(name, Walker({}, {x, height + 0.05, z}));
        stage_.actor(id).as<WalkerControls>().intent.move = rotate(rotation({0, angle, 0}), {1, 0, 0});
      } else {
        const BodyId body = stage_.world.add({.shape = Box{{1.2, 0.25, 0.5}},
                                              .pose = {{x, height + 0.9, z}, rotation({0, angle, 0})},
                                              .kind = BodyKind::dynamic,
                                              .mass = 420});
        stage_.actor(add_vehicle(stage_, name, {}, body)).as<VehicleControls>().drive.throttle = 0.5;
      }
    }
    for (int i = 0; i < 60; ++i) tick();
  }
  void tick() { stage_.tick(1.0 / 60); }
  std::uint64_t hash() const { return stage_.hash(); }

 private:
  double uniform(double low, double high) { return low + (high - low) * (random_() / 4294967296.0); }
  Stage stage_;
  std::mt19937 random_{5};
};

}  // namespace

void report_stage_ratios() {
  fmt::print("A stage's tick of 1,000 actors on 20,000 triangles, the world's step included:\n");
  for (const bool walkers : {true, false}) {
    Crowd one(walkers, 1), two(walkers, 2);
    std::vector<double> ratios, times;
    for (int tick = 0; tick < 200; ++tick) {
      const double alone = seconds([&] { one.tick(); });
      times.push_back(alone * 1e3), ratios.push_back(alone / seconds([&] { two.tick(); }));
    }
    fmt::print("  {:<8}: on one thread / on two   {:.2f}   (at least 1.7; {:.1f} ms on one; {})\n",
               walkers ? "walkers" : "carts", median(ratios), median(times),
               one.hash() == two.hash() ? "same bits" : "OTHER BITS");
  }
}

}  // namespace jugend::bench
