// Arrays for data that is walked at random: large ones ask for large memory pages, because the
// look-up of small pages would cost as much as the data itself.
#pragma once

#include <cstddef>
#include <cstdlib>
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
  static constexpr std::size_t alignment(std::size_t bytes) {
    return bytes >= page ? page : alignof(T) < 16 ? 16 : alignof(T);
  }

  LargePageAllocator() = default;
  template <class U>
  LargePageAllocator(const LargePageAllocator<U>&) {}
  bool operator==(const LargePageAllocator&) const = default;

  T* allocate(std::size_t n) {
    const std::size_t bytes = n * sizeof(T), align = alignment(bytes);
    void* memory = ::operator new ((bytes + align - 1) / align * align, std::align_val_t{align});
#if defined(__linux__) && defined(MADV_HUGEPAGE)
    if (align == page) madvise(memory, bytes, MADV_HUGEPAGE);  // a wish; nothing depends on its answer
#endif
    return static_cast<T*>(memory);
  }
  void deallocate(T* memory, std::size_t n) noexcept {
    ::operator delete (memory, std::align_val_t{alignment(n * sizeof(T))});
  }
};

template <class T>
using BigArray = std::vector<T, LargePageAllocator<T>>;

}  // namespace jugend
