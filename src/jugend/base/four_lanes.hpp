// Numbers of four things side by side in memory, to be worked on at once (lanes.hpp).
#pragma once

#include <cstddef>
#include <jugend/base/vec.hpp>

namespace jugend {

struct alignas(32) Doubles4 {
  double at[4] = {};
};

struct Vec3s4 {
  Doubles4 x, y, z;
  void set(std::size_t lane, const Vec3& v) { x.at[lane] = v.x, y.at[lane] = v.y, z.at[lane] = v.z; }
  Vec3 get(std::size_t lane) const { return {x.at[lane], y.at[lane], z.at[lane]}; }
};

}  // namespace jugend
