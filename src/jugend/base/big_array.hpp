// Arrays for data that is walked at random: large ones ask for large memory pages, because the look-up of small pages
// would cost as much as the data itself. Also for what must lie on more than 16 bytes: with C++23 clang 14 takes the
// standard allocator of gcc 12 for one that runs in the compiler, and what it gives then lies anywhere.
#pragma once

#include <cstddef>
#include <cstdint>
#include <jugend/base/error.hpp>
#include <new>
#include <vector>

#if defined(__linux__)
#include <sys/mman.h>
#endif

namespace jugend {

template <class T>
struct LargePageAllocator {
  using value_type = T;
  static constexpr std::size_t page = std::size_t{2} << 20;
  static constexpr std::size_t least = page / 4;  ///< bytes from which an array gets pages of its own

  LargePageAllocator() = default;
  template <class U>
  LargePageAllocator(const LargePageAllocator<U>&) {}
  bool operator==(const LargePageAllocator&) const = default;

  T* allocate(std::size_t n) {
    const std::size_t bytes = n * sizeof(T);
#if defined(__linux__) && defined(MADV_HUGEPAGE)
    if (bytes >= least) return static_cast<T*>(fresh_pages(rounded(bytes)));
#endif
    return static_cast<T*>(::operator new (bytes, std::align_val_t{alignof(T)}));
  }
  void deallocate(T* memory, std::size_t n) noexcept {
#if defined(__linux__) && defined(MADV_HUGEPAGE)
    if (n * sizeof(T) >= least) {
      munmap(memory, rounded(n * sizeof(T)));
      return;
    }
#endif
    ::operator delete (memory, std::align_val_t{alignof(T)});
  }

 private:
  static constexpr std::size_t rounded(std::size_t bytes) { return (bytes + page - 1) / page * page; }

#if defined(__linux__) && defined(MADV_HUGEPAGE)
  /// Straight from the system, since memory that was used before is in small pages already: one page
  /// more than wanted, and what lies outside the whole pages given back.
  static void* fresh_pages(std::size_t bytes) {
    void* wide = mmap(nullptr, bytes + page, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (wide == MAP_FAILED) fail_for_memory();
    const auto start = reinterpret_cast<std::uintptr_t>(wide);
    const std::size_t before = (page - start % page) % page;
    char* memory = static_cast<char*>(wide) + before;
    if (before > 0) munmap(wide, before);
    if (before < page) munmap(memory + bytes, page - before);
    madvise(memory, bytes, MADV_HUGEPAGE);  // a wish; nothing depends on its answer
    return memory;
  }
#endif
};

template <class T>
using BigArray = std::vector<T, LargePageAllocator<T>>;

}  // namespace jugend
