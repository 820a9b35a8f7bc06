// A bounding-volume tree over things that do not move: built once, fast to walk by ray, sweep, box or
// distance.
//
// Nodes are eight wide; their children's bounds are kept in 8 bits an edge on a grid of the node's own,
// rounded outward, because a walk costs what it fetches. Whatever is exact about a hit is left to the
// primitive: the tree can only ever ask about one too many. Built from the top by the surface area
// heuristic over bins (Wald, "On fast construction of SAH-based bounding volume hierarchies", IEEE RT
// 2007). How it is walked is in static_tree_walk.hpp: what calls along(), within() or near() includes that.
#pragma once

#include <bit>
#include <cstdint>
#include <jugend/base/array.hpp>
#include <jugend/shape/bounds.hpp>
#include <limits>
#include <span>
#include <vector>

namespace jugend {

/// The float nearest to `x` that is not above it, or one step further down; for finite x.
inline float float_below(double x) {
  const auto f = static_cast<float>(x);
  if (static_cast<double>(f) <= x) return f;
  const auto bits = std::bit_cast<std::int32_t>(f);
  return f > 0   ? std::bit_cast<float>(bits - 1)
         : f < 0 ? std::bit_cast<float>(bits + 1)
                 : -std::numeric_limits<float>::denorm_min();
}
inline float float_above(double x) { return -float_below(-x); }

class StaticTree {
 public:
  static constexpr int width = 8;
  static constexpr std::uint32_t leaf_size = 4;

  StaticTree() = default;
  explicit StaticTree(std::span<const Bounds> items);

  /// The items in the tree's order: visitors get ranges of places in this list. Every leaf starts at a
  /// multiple of leaf_size, so that it can be a block of an array, and lists its
  /// items by rising number; places left over hold `no_item`.
  /// Empty after release_order().
  std::span<const std::uint32_t> order() const;
  static constexpr std::uint32_t no_item = ~0u;
  void release_order();
  std::size_t node_count() const { return nodes_.size(); }
  bool empty() const { return nodes_.empty(); }

  /// Visits the leaves that a box of `half` extents meets while its centre goes from `from` along
  /// `motion`, nearest first. `leaf(first, count, limit)` returns the share of `motion` (0 to 1 of it,
  /// or in units of `motion` for a unit vector) beyond which nothing is of interest any more.
  template <class Leaf>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Leaf&& leaf) const;

  static constexpr std::size_t most_together = 8;
  struct Start {
    Vec3 from;
    double limit;
  };
  /// The same for up to `most_together` motions of one direction: a node is fetched once for all of them. leaf(i,
  /// first, limit) for each motion i; soon(first) some time before.
  template <class Leaf, class Soon>
  void along_together(std::span<const Start> starts, const Vec3& motion, Leaf&& leaf, Soon&& soon) const;

  /// Visits the leaves whose bounds meet `box`: leaf(first, count).
  template <class Leaf>
  void within(const Bounds& box, Leaf&& leaf) const;

  /// Visits the leaves no further than `limit` from `box`, nearest first; leaf(first, count, limit)
  /// returns the new limit.
  template <class Leaf>
  void near(const Bounds& box, double limit, Leaf&& leaf) const;

 private:
  struct alignas(64) Node {
    float origin[3];
    float step[3];                 // the grid: an edge lies at origin + byte × step
    std::uint8_t edges[6][width];  // low x, y, z, then high x, y, z
    std::uint32_t child[width];    // an inner node's index; or a leaf: leaf_bit, count - 1, first place
    std::uint32_t used;            // a bit for each child there is
  };
  static constexpr std::uint32_t leaf_bit = 1u << 31;
  static constexpr int count_shift = 28;
  static constexpr std::uint32_t first_mask = (1u << count_shift) - 1;
  static constexpr int stack_size = 256;

  struct Builder;
  struct Walk;
  using Floats = float __attribute__((vector_size(16)));  // x, y, z and one to spare

  Floats farthest_{};  // the largest coordinate, without its sign, on each axis
  Array<Node> nodes_;
  std::vector<std::uint32_t> order_;
};

}  // namespace jugend
