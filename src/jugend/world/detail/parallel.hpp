// Work split over threads so that nobody can tell: each piece writes to places of its own.
#pragma once

#include <cstddef>
#include <cstdint>
#include <type_traits>

namespace jugend {

/// The threads that a world uses for one step. With one thread nothing of the thread library runs.
class Workers {
 public:
  /// 1 to 256; throws InputError.
  void set_threads(int threads);
  int threads() const { return threads_; }

  /// work(first, last) over pieces of `grain` of 0 to count - 1. A piece is the same range for any number of
  /// threads.
  template <class Work>
  void over(std::size_t count, std::size_t grain, Work&& work) const {
    if (threads_ == 1 || count <= grain) {
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
};

}  // namespace jugend
