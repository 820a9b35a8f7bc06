// Work split over threads so that nobody can tell: each piece writes to places of its own.
#pragma once

#include <cstddef>
#include <cstdint>
#include <jugend/base/shared.hpp>
#include <type_traits>

namespace jugend {

/// A program's own job system, in the place of the library's threads.
struct JobSystem {
  void* host = nullptr;  ///< handed back to both
  /// Calls job(of, i) once for each i from 0 to pieces - 1, on any threads in any order, and returns when all are done.
  void (*run)(void* host, std::size_t pieces, void (*job)(void* of, std::size_t piece), void* of) = nullptr;
  int (*threads)(void* host) = nullptr;  ///< how many of them may run at once, 1 or more
};

class Crew;

/// The threads that a world uses for one step. They wait for work for a moment and then sleep; with one there are none.
class Workers {
 public:
  /// 1 to 256; throws InputError. A job system that was set before is let go.
  void set_threads(int threads);
  /// Throws InputError where one of the functions is missing.
  void set_jobs(const JobSystem& jobs);
  int threads() const { return jobs_.run != nullptr ? jobs_.threads(jobs_.host) : threads_; }

  /// work(first, last) over pieces of `grain` of 0 to count - 1. A piece is the same range for any number of
  /// threads.
  template <class Work>
  void over(std::size_t count, std::size_t grain, Work&& work) const {
    if (count <= grain || threads() == 1) {
      for (std::size_t first = 0; first < count; first += grain)
        work(first, first + grain < count ? first + grain : count);
      return;
    }
    run(count, grain, &work, [](void* w, std::size_t first, std::size_t last) {
      (*static_cast<std::remove_reference_t<Work>*>(w))(first, last);
    });
  }

 private:
  void run(std::size_t count, std::size_t grain, void* work, void (*call)(void*, std::size_t, std::size_t)) const;
  int threads_ = 1;
  JobSystem jobs_;
  Shared<Crew> crew_;
};

}  // namespace jugend
