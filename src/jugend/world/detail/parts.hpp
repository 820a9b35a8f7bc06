// What a world is made of, kept out of its header.
#pragma once

#include <jugend/base/array.hpp>
#include <jugend/base/watch.hpp>
#include <jugend/world/detail/islands.hpp>
#include <jugend/world/detail/register.hpp>
#include <jugend/world/detail/state.hpp>
#include <jugend/world/world.hpp>

namespace jugend {

inline constexpr std::size_t piece = 64;  // bodies, or pairs, that a thread takes at once

struct World::Parts {
  world_state::State state;
  GravityField field;
  std::vector<Pool> pools;
  world_state::Islands islands;
  Workers workers;
  world_state::Register<Shape> shapes;
  world_state::Register<std::string> names;
  Shared<PairRule> pair_rule;
  Array<ContactEvent> events;
  Array<JointEvent> broken;
  double scale = 1, tolerance = 1e-5;
  std::uint64_t number = 0;                   // tells worlds apart
  bool asking = false;                        // the pair rule
  const Memory* memory = MemoryScope::now();  // of all arrays
  Watch watch;
  bool lists_changed = false, filters_changed = false, active_changed = true;

  // Kept from step to step only so that they need no new memory.
  struct Found {
    std::uint32_t a, b;
    bool operator<(const Found& o) const { return a != o.a ? a < o.a : b < o.b; }
  };
  Array<Array<Found>> found_by_piece;
  void add_piece() {
    const MemoryScope scope(memory);
    found_by_piece.emplace_back().reserve(8 * piece);
  }
  Array<Found> found;
  Array<Bounds> needed;
  Array<std::uint8_t> outgrown, stirring, hit;
  Array<world_state::Water> water;  // of each body; empty where there are no pools
  Array<int> neighbours;            // of each body, that all but touch it
  Array<double> struck;             // m/s by which what it meets in this step may change each body's velocity
  world_state::Sets resting;        // that touch or are joined
  Array<std::uint32_t> active, moved, lost, next_pair, first_of_body, pairs_of_body, newcomers;
};

}  // namespace jugend
