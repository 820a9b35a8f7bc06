#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <jugend/base/error.hpp>
#include <jugend/world/detail/parallel.hpp>
#include <map>
#include <memory>
#include <mutex>

namespace jugend {
namespace {

/// One arena for each number of threads: they last as long as the program.
tbb::task_arena& arena_of(int threads) {
  static std::mutex mutex;
  static std::map<int, std::unique_ptr<tbb::task_arena>> arenas;
  const std::scoped_lock lock(mutex);
  auto& arena = arenas[threads];
  if (!arena) arena = std::make_unique<tbb::task_arena>(std::min(threads, tbb::this_task_arena::max_concurrency()));
  return *arena;
}

}  // namespace

void Workers::set_threads(int threads) {
  if (threads < 1 || threads > 256) throw InputError({{}, "threads", fmt::format("{}", threads), "1 to 256", {}});
  threads_ = threads;
}

void Workers::run(std::size_t count, std::size_t grain, void* work,
                  void (*call)(void*, std::size_t, std::size_t)) const {
  const std::size_t pieces = (count + grain - 1) / grain;
  arena_of(threads_).execute([&] {
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, pieces, 1),
        [&](const tbb::blocked_range<std::size_t>& range) {
          for (std::size_t i = range.begin(); i < range.end(); ++i)
            call(work, i * grain, std::min(count, (i + 1) * grain));
        },
        tbb::simple_partitioner{});
  });
}

}  // namespace jugend
