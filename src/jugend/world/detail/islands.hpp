// Which bodies can push one another within a step: those that joints, contacts and what may become one connect. What
// moves by no force parts them. Inner to the world.
//
// Each island is solved by itself, all sub-steps at once, so that what it needs stays in the caches and threads meet
// once a step. Small ones go together in batches; which, never depends on the number of threads.
#pragma once

#include <jugend/world/detail/solver.hpp>
#include <memory>
#include <mutex>

namespace jugend::world_state {

/// Numbers in sets that are joined. The least of a set is its root.
class Sets {
 public:
  /// Each of `members` alone, all of them below `end`.
  void start(std::size_t end, std::span<const std::uint32_t> members) {
    resize_in_room(parent_, end);
    for (const std::uint32_t i : members) parent_[i] = i;
  }
  std::uint32_t root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }
  void reserve(std::size_t end) { make_room(parent_, end); }
  void join(std::uint32_t a, std::uint32_t b) {
    const std::uint32_t ra = root(a), rb = root(b);
    parent_[std::max(ra, rb)] = std::min(ra, rb);
  }

 private:
  Array<std::uint32_t> parent_;
};

class Islands {
 public:
  /// Solves and moves the awake bodies, and moves the kinematic ones. `pairs`: those with a body that is awake or
  /// moved.
  void run(State& state, const Workers& workers, const Solver::Settings& settings,
           std::span<const std::uint32_t> pairs);
  /// Memory for so many, and for as many in one island.
  void reserve(std::size_t bodies, std::size_t pairs, std::size_t joints, int threads);
  /// One a thread, with that memory.
  void make_solvers(int threads);
  /// Of contacts that were solved for in the last step, four places each.
  std::size_t point_count() const { return points_; }

 private:
  void find(const State& state, std::span<const std::uint32_t> pairs);
  void make_batches(const State& state);
  void lay_out(const State& state, std::span<const std::uint32_t> pairs);
  void make_room_for_batches(const State& state);
  Solver& take_solver();
  void give_back(Solver& solver);

  Sets sets_;
  Array<std::uint8_t> odd_;            // of each island, at its root: a row may be bounded, so it is solved alone
  Array<std::uint32_t> size_, links_;  // of each island, at its root
  Array<std::uint32_t> batch_of_;      // of each body
  Array<std::uint32_t> bodies_, pairs_, joints_;  // in the order of the batches
  struct Counts {
    std::uint32_t bodies = 0, pairs = 0, joints = 0;
  };
  Array<Counts> counts_;  // of each batch; then how far its lists are filled
  Array<Batch> batches_;
  std::size_t points_ = 0;

  struct {
    std::size_t bodies = 0, contacts = 0, joints = 0;
  } room_;                                        // of each solver at least
  std::vector<std::unique_ptr<Solver>> solvers_;  // one a thread
  std::vector<Solver*> idle_;
  std::mutex mutex_;
};

}  // namespace jugend::world_state
