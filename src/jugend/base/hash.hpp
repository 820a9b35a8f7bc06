// A hash of state: equal bits in, equal hash out, on any machine.
#pragma once

#include <bit>
#include <cstdint>
#include <jugend/base/vec.hpp>

namespace jugend {

/// FNV-1a (Fowler, Noll, Vo) over the 64-bit words it is fed, each then mixed with a shift.
class StateHash {
 public:
  void add(std::uint64_t word) {
    value_ = (value_ ^ word) * 0x100000001b3ULL;
    value_ ^= value_ >> 29;
  }
  void add(double number) { add(std::bit_cast<std::uint64_t>(number)); }
  void add(const Vec3& v) { add(v.x), add(v.y), add(v.z); }
  void add(const Quat& q) { add(q.w), add(q.x), add(q.y), add(q.z); }
  std::uint64_t value() const { return value_; }

 private:
  std::uint64_t value_ = 0xcbf29ce484222325ULL;
};

}  // namespace jugend
