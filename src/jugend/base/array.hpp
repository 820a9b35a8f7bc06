// Arrays for what is walked at random, whose memory a program may give. Where it gives none, large ones ask the system
// for large memory pages, because the look-up of small pages would cost as much as the data itself. Also for what must
// lie on more than 16 bytes: with C++23 clang 14 takes the standard allocator of gcc 12 for one that runs in the
// compiler, and what it gives then lies anywhere.
#pragma once

#include <cstddef>
#include <cstdint>
#include <jugend/base/error.hpp>
#include <jugend/base/memory.hpp>
#include <new>
#include <vector>

#if defined(__linux__)
#include <sys/mman.h>
#endif

namespace jugend {

/// While one lives, arrays that are made on its thread take their memory from there, now and later. nullptr: from the
/// system.
class MemoryScope {
 public:
  explicit MemoryScope(const Memory* memory);
  ~MemoryScope();
  MemoryScope(const MemoryScope&) = delete;
  MemoryScope& operator=(const MemoryScope&) = delete;
  static const Memory* now();

 private:
  const Memory* outer_;
};

template <class T>
struct ArrayAllocator {
  using value_type = T;
  static constexpr std::size_t page = std::size_t{2} << 20;
  static constexpr std::size_t least = page / 4;  ///< bytes from which an array gets pages of its own

  const Memory* memory = MemoryScope::now();

  ArrayAllocator() = default;
  template <class U>
  ArrayAllocator(const ArrayAllocator<U>& other) : memory(other.memory) {}
  bool operator==(const ArrayAllocator&) const = default;

  T* allocate(std::size_t n) {
    const std::size_t bytes = n * sizeof(T);
    if (memory != nullptr) {
      void* taken = memory->take(memory->host, bytes, alignof(T));
      if (taken == nullptr) fail_for_memory();
      return static_cast<T*>(taken);
    }
#if defined(__linux__) && defined(MADV_HUGEPAGE)
    if (bytes >= least) return static_cast<T*>(fresh_pages(rounded(bytes)));
#endif
    return static_cast<T*>(::operator new (bytes, std::align_val_t{alignof(T)}));
  }
  void deallocate(T* given, std::size_t n) noexcept {
    if (memory != nullptr) return memory->give(memory->host, given, n * sizeof(T), alignof(T));
#if defined(__linux__) && defined(MADV_HUGEPAGE)
    if (n * sizeof(T) >= least) {
      munmap(given, rounded(n * sizeof(T)));
      return;
    }
#endif
    ::operator delete (given, std::align_val_t{alignof(T)});
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
using Array = std::vector<T, ArrayAllocator<T>>;

// Arrays that are filled anew each tick grow by doubling, also where resize() and assign() would take just what is
// asked for: so growth soon ends.

template <class List>
void make_room(List& list, std::size_t count) {
  constexpr std::size_t few = 64;
  if (list.capacity() < count) list.reserve(std::max(few, std::max(count, 2 * list.capacity())));
}
template <class List>
void resize_in_room(List& list, std::size_t count) {
  make_room(list, count);
  list.resize(count);
}
/// All of them anew.
template <class List>
void fill_in_room(List& list, std::size_t count, const typename List::value_type& value) {
  make_room(list, count);
  list.assign(count, value);
}

}  // namespace jugend
