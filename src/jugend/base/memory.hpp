// Memory that a program gives: see World.
#pragma once

#include <cstddef>

namespace jugend {

struct Memory {
  void* host = nullptr;  ///< handed back to both
  /// So many bytes at a multiple of `alignment`, a power of two; nullptr is an end by fail_for_memory(). Perhaps on
  /// several threads at once.
  void* (*take)(void* host, std::size_t bytes, std::size_t alignment) = nullptr;
  /// What take() gave for the same numbers.
  void (*give)(void* host, void* memory, std::size_t bytes, std::size_t alignment) = nullptr;
};

}  // namespace jugend
