// Which two bodies are a pair, and where. Inner to the world.
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>
#include <jugend/base/array.hpp>

namespace jugend::world_state {

inline constexpr std::uint32_t none = ~0u;

/// Pairs by their bodies: open addressing, so that a copy of the array is a copy of the table.
class PairIndex {
 public:
  /// The pair's place, or none.
  std::uint32_t find(std::uint32_t a, std::uint32_t b) const {
    if (slots_.empty()) return none;
    for (std::size_t i = start(key(a, b));; i = (i + 1) & (slots_.size() - 1)) {
      if (slots_[i].key == key(a, b)) return slots_[i].place;
      if (slots_[i].key == empty) return none;
    }
  }
  void set(std::uint32_t a, std::uint32_t b, std::uint32_t place) {
    if (2 * (used_ + 1) > slots_.size()) grow(2 * slots_.size());
    for (std::size_t i = start(key(a, b));; i = (i + 1) & (slots_.size() - 1)) {
      if (slots_[i].key == empty) slots_[i].key = key(a, b), ++used_;
      if (slots_[i].key == key(a, b)) {
        slots_[i].place = place;
        return;
      }
    }
  }
  /// Memory for so many pairs.
  void reserve(std::size_t pairs) {
    if (const std::size_t slots = std::bit_ceil(2 * pairs); slots > slots_.size()) grow(slots);
  }
  void clear() { slots_.clear(), used_ = 0; }
  void erase(std::uint32_t a, std::uint32_t b) {
    if (slots_.empty()) return;
    const std::size_t mask = slots_.size() - 1;
    std::size_t hole = start(key(a, b));
    while (slots_[hole].key != key(a, b)) {
      if (slots_[hole].key == empty) return;
      hole = (hole + 1) & mask;
    }
    // Those behind it that a search would miss across the hole move up (Knuth, TAOCP 3, 6.4, algorithm R).
    for (std::size_t i = (hole + 1) & mask; slots_[i].key != empty; i = (i + 1) & mask) {
      const std::size_t home = start(slots_[i].key);
      if (((i - home) & mask) >= ((i - hole) & mask)) slots_[hole] = slots_[i], hole = i;
    }
    slots_[hole].key = empty;
    --used_;
  }

 private:
  friend struct State;
  static constexpr std::uint64_t empty = ~0ull;
  struct Slot {
    std::uint64_t key = empty;
    std::uint64_t place = 0;
  };
  static std::uint64_t key(std::uint32_t a, std::uint32_t b) {
    return a < b ? std::uint64_t{a} << 32 | b : std::uint64_t{b} << 32 | a;
  }
  std::size_t start(std::uint64_t k) const {
    k = (k ^ (k >> 31)) * 0x7fb5d329728ea185ull;
    return (k ^ (k >> 29)) & (slots_.size() - 1);
  }
  void grow(std::size_t slots) {
    Array<Slot> old(std::max<std::size_t>(64, slots), Slot{}, slots_.get_allocator());
    old.swap(slots_);
    used_ = 0;
    for (const Slot& s : old) {
      if (s.key != empty)
        set(static_cast<std::uint32_t>(s.key >> 32), static_cast<std::uint32_t>(s.key),
            static_cast<std::uint32_t>(s.place));
    }
  }
  Array<Slot> slots_;
  std::uint64_t used_ = 0;
};

}  // namespace jugend::world_state
