// How a stage names its actors.
#pragma once

#include <compare>
#include <cstdint>

namespace jugend {

/// Names an actor of a stage. The generation tells it from an earlier one in the same place.
struct ActorId {
  std::uint32_t index = ~0u;
  std::uint32_t generation = 0;
  auto operator<=>(const ActorId&) const = default;
  explicit operator bool() const { return index != ~0u; }
};

}  // namespace jugend
