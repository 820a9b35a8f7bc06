// A bounding-volume tree over things that come, go and move.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <jugend/base/array.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/shape/bounds.hpp>
#include <vector>

namespace jugend {

/// Binary, with the bounds as they are but for roundings: a thing is taken out and put back when it has moved.
/// Each insertion goes where it adds least surface, and rotates its ancestors where that saves surface
/// (Kopta et al., "Fast, effective BVH updates for animated scenes", I3D 2012).
class DynamicTree {
 public:
  /// Adds an item; returns the handle to move or remove it by.
  std::uint32_t insert(const Bounds& bounds, std::uint32_t item);
  void remove(std::uint32_t leaf);
  /// As remove and insert, but keeps the handle; cheap where the bounds stay inside the parent's.
  void move(std::uint32_t leaf, const Bounds& bounds);

  static constexpr double rounding = 4e-15;  // of a place, as a share of how far off it is

  const Bounds& bounds(std::uint32_t leaf) const { return nodes_[leaf].box; }
  bool empty() const { return root_ == none; }
  /// Memory for so many items.
  void reserve(std::size_t items) { make_room(nodes_, 2 * items), make_room(free_, 2 * items); }

  /// visit(array or number) for all that it consists of: a copy of these is a copy of the tree.
  template <class Visit>
  void each_array(Visit&& visit) {
    visit(nodes_), visit(free_), visit(root_);
  }
  template <class Visit>
  void each_array(Visit&& visit) const {
    visit(nodes_), visit(free_), visit(root_);
  }

  /// Is it a tree, as one that was read from bytes may not be? Each of its items has the leaf that leaf_of(item) tells,
  /// which is `no_leaf` for what is no item.
  template <class LeafOf>
  bool sound(std::size_t items, LeafOf&& leaf_of) const;
  static constexpr std::uint32_t no_leaf = ~0u;

  /// visit(item) for every item whose bounds meet `box`.
  template <class Visit>
  void within(const Bounds& box, Visit&& visit) const {
    walk([&](const Bounds& b) { return meet(b, box); }, [&](std::uint32_t item) { visit(item); });
  }

  /// Visits items whose bounds a box of `half` extents may meet on its way, until `limit` (a share of
  /// `motion`): visit(item, limit) → the new limit.
  template <class Visit>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Visit&& visit) const {
    const Vec3 inverse{1 / motion.x, 1 / motion.y, 1 / motion.z};
    const double room = rounding * (std::abs(from.x) + std::abs(from.y) + std::abs(from.z));
    const Vec3 reach = half + Vec3{room, room, room};
    const Bounds passed =
        limit < infinity  // what an endless motion meets its box does not tell
            ? Bounds{from - half, from + half}.swept(motion * limit).grown(1e-9 * (norm(from) + limit))
            : everywhere;
    const bool short_motion = limit < infinity && squared_norm(motion * limit) < squared_norm(half);
    const auto meets = [&](const Bounds& b) {
      if (!meet(b, passed)) return false;
      if (short_motion) return true;  // hardly more than the box round all of it
      double enter = 0, leave = limit;
      for (int k = 0; k < 3; ++k) {
        const double low = b.low[k] - reach[k] - from[k], high = b.high[k] + reach[k] - from[k];
        if (motion[k] == 0) {
          if (low > 0 || high < 0) return false;
          continue;
        }
        const double a = low * inverse[k], c = high * inverse[k];
        enter = std::max(enter, std::min(a, c));
        leave = std::min(leave, std::max(a, c));
      }
      return enter <= leave * (1 + 1e-15) + 1e-15;
    };
    walk(meets, [&](std::uint32_t item) { limit = visit(item, limit); });
  }

 private:
  static constexpr std::uint32_t none = ~0u;
  struct Node {
    Bounds box;
    std::uint32_t parent = none;
    std::array<std::uint32_t, 2> child{none, none};  // both none: a leaf
    std::uint32_t item = 0;

    static constexpr auto fields() {
      return field_list(Field{"box", &Node::box}, Field{"parent", &Node::parent}, Field{"child", &Node::child},
                        Field{"item", &Node::item});
    }
    bool leaf() const { return child[0] == none; }
  };

  template <class Meets, class Visit>
  void walk(Meets&& meets, Visit&& visit) const {
    if (root_ == none) return;
    std::array<std::uint32_t, 256> stack;  // rotations keep depth near 2 log2 n
    std::size_t waiting = 0;
    stack[waiting++] = root_;
    while (waiting > 0) {
      const Node& node = nodes_[stack[--waiting]];
      if (!meets(node.box)) continue;
      if (node.leaf()) {
        visit(node.item);
      } else if (waiting + 2 <= stack.size()) {
        // Both are looked at next, or soon: they come from memory together.
        __builtin_prefetch(&nodes_[node.child[1]]);
        stack[waiting++] = node.child[1];
        stack[waiting++] = node.child[0];
      } else {  // deeper than the stack: go on with a stack of its own
        walk_from(node.child[0], meets, visit);
        walk_from(node.child[1], meets, visit);
      }
    }
  }
  template <class Meets, class Visit>
  void walk_from(std::uint32_t index, Meets& meets, Visit& visit) const {
    const Node& node = nodes_[index];
    if (!meets(node.box)) return;
    if (node.leaf()) return visit(node.item);
    walk_from(node.child[0], meets, visit);
    walk_from(node.child[1], meets, visit);
  }

  std::uint32_t take_node();
  void attach(std::uint32_t leaf);
  void detach(std::uint32_t leaf);
  void refit_upward(std::uint32_t index);
  void rotate(std::uint32_t index);

  Array<Node> nodes_;
  Array<std::uint32_t> free_;
  std::uint32_t root_ = none;
};

template <class LeafOf>
bool DynamicTree::sound(std::size_t items, LeafOf&& leaf_of) const {
  std::size_t leaves = 0, found = 0;
  for (std::size_t i = 0; i < items; ++i) leaves += leaf_of(i) != no_leaf;
  const auto inside = [&](std::uint32_t node) { return node < nodes_.size(); };
  if (!std::all_of(free_.begin(), free_.end(), inside)) return false;
  std::vector<std::uint32_t> waiting;
  std::vector<bool> seen(nodes_.size());
  const auto reach = [&](std::uint32_t node, std::uint32_t parent) {
    if (!inside(node) || seen[node] || nodes_[node].parent != parent) return false;
    seen[node] = true, waiting.push_back(node);
    return true;
  };
  if (root_ != none && !reach(root_, none)) return false;
  while (!waiting.empty()) {
    const std::uint32_t at = waiting.back();
    waiting.pop_back();
    const Node& node = nodes_[at];
    if (node.leaf()) {
      if (node.item >= items || leaf_of(node.item) != at) return false;
      ++found;
    } else if (!reach(node.child[0], at) || !reach(node.child[1], at)) {
      return false;
    }
  }
  return found == leaves && std::none_of(free_.begin(), free_.end(), [&](std::uint32_t node) { return seen[node]; });
}

}  // namespace jugend
