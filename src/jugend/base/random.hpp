// Random numbers whose bits are the same everywhere: for gusts, rough roads, and whatever must come again.
#pragma once

#include <cmath>
#include <cstdint>

namespace jugend {

/// Splitmix64: G. L. Steele, D. Lea, C. H. Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014.
class RandomShares {
 public:
  explicit RandomShares(double seed) : state_(static_cast<std::uint64_t>(std::llround(seed * 1024)) * 2 + 1) {}
  /// From 0 to below 1.
  double next() {
    std::uint64_t z = (state_ += 0x9e3779b97f4a7c15ull);
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ull, z = (z ^ (z >> 27)) * 0x94d049bb133111ebull;
    return static_cast<double>((z ^ (z >> 31)) >> 11) * 0x1p-53;
  }

 private:
  std::uint64_t state_;
};

}  // namespace jugend
