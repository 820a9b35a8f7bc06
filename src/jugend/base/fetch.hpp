// Memory that is about to be read, asked for before it is. Inner to the library.
#pragma once

#include <cstddef>
#include <cstdint>

namespace jugend {

/// Has all lines of it fetched at once, instead of one after the other as they are read.
inline void fetch(const void* from, std::size_t bytes) {
  constexpr std::uintptr_t line = 64;
  const auto start = reinterpret_cast<std::uintptr_t>(from);
  for (auto at = start / line * line; at < start + bytes; at += line)
    __builtin_prefetch(reinterpret_cast<const void*>(at));
}

}  // namespace jugend
