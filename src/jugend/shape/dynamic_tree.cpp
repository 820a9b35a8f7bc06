#include <algorithm>
#include <jugend/shape/dynamic_tree.hpp>

namespace jugend {
namespace {

Bounds joined(const Bounds& a, const Bounds& b) {
  Bounds both = a;
  both.add(b);
  return both;
}

/// What lies in it may lie beside it by a rounding.
Bounds with_rounding(const Bounds& b) {
  const Vec3 far = max(abs(b.low), abs(b.high));
  return b.grown(DynamicTree::rounding * std::max({far.x, far.y, far.z}));
}

}  // namespace

std::uint32_t DynamicTree::take_node() {
  if (!free_.empty()) {
    const std::uint32_t index = free_.back();
    free_.pop_back();
    nodes_[index] = {};
    return index;
  }
  nodes_.emplace_back();
  free_.reserve(nodes_.capacity());  // so that giving nodes back never allocates
  return static_cast<std::uint32_t>(nodes_.size() - 1);
}

std::uint32_t DynamicTree::insert(const Bounds& bounds, std::uint32_t item) {
  const Bounds box = with_rounding(bounds);
  const std::uint32_t leaf = take_node();
  nodes_[leaf].box = box;
  nodes_[leaf].item = item;
  attach(leaf);
  return leaf;
}

void DynamicTree::remove(std::uint32_t leaf) {
  detach(leaf);
  free_.push_back(leaf);
}

void DynamicTree::move(std::uint32_t leaf, const Bounds& bounds) {
  const Bounds box = with_rounding(bounds);
  const std::uint32_t parent = nodes_[leaf].parent;
  if (parent == none || nodes_[parent].box.contains(box)) {
    nodes_[leaf].box = box;
    if (parent != none) refit_upward(parent);
    return;
  }
  detach(leaf);
  nodes_[leaf].box = box;
  attach(leaf);
}

void DynamicTree::attach(std::uint32_t leaf) {
  nodes_[leaf].parent = none;
  if (root_ == none) {
    root_ = leaf;
    return;
  }
  // Down to the sibling that costs least: what the new parent adds, and what its ancestors grow by.
  const Bounds& box = nodes_[leaf].box;
  std::uint32_t at = root_;
  while (!nodes_[at].leaf()) {
    const double own = nodes_[at].box.half_area(), with = joined(nodes_[at].box, box).half_area();
    const double here = 2 * with, passed_on = 2 * (with - own);
    const auto below = [&](std::uint32_t child) {
      const double grown = joined(nodes_[child].box, box).half_area();
      return passed_on + (nodes_[child].leaf() ? grown : grown - nodes_[child].box.half_area());
    };
    const double left = below(nodes_[at].child[0]), right = below(nodes_[at].child[1]);
    if (here <= left && here <= right) break;
    at = nodes_[at].child[left <= right ? 0 : 1];
  }
  const std::uint32_t parent = take_node();
  const std::uint32_t above = nodes_[at].parent;
  nodes_[parent].parent = above;
  nodes_[parent].child = {at, leaf};
  nodes_[at].parent = nodes_[leaf].parent = parent;
  if (above == none) {
    root_ = parent;
  } else {
    nodes_[above].child[nodes_[above].child[0] == at ? 0 : 1] = parent;
  }
  refit_upward(parent);
}

void DynamicTree::detach(std::uint32_t leaf) {
  const std::uint32_t parent = nodes_[leaf].parent;
  if (parent == none) {
    root_ = none;
    return;
  }
  const std::uint32_t sibling = nodes_[parent].child[nodes_[parent].child[0] == leaf ? 1 : 0];
  const std::uint32_t above = nodes_[parent].parent;
  nodes_[sibling].parent = above;
  if (above == none) {
    root_ = sibling;
  } else {
    nodes_[above].child[nodes_[above].child[0] == parent ? 0 : 1] = sibling;
    refit_upward(above);
  }
  free_.push_back(parent);
}

void DynamicTree::refit_upward(std::uint32_t index) {
  for (; index != none; index = nodes_[index].parent) {
    nodes_[index].box = joined(nodes_[nodes_[index].child[0]].box, nodes_[nodes_[index].child[1]].box);
    rotate(index);
  }
}

/// Swaps a child with a grandchild on the other side where that makes the inner box smaller.
void DynamicTree::rotate(std::uint32_t index) {
  double most_saved = 0;
  int best_side = -1, best_grandchild = 0;
  for (int side = 0; side < 2; ++side) {
    const std::uint32_t inner = nodes_[index].child[side], outer = nodes_[index].child[1 - side];
    if (nodes_[inner].leaf()) continue;
    for (int g = 0; g < 2; ++g) {
      const std::uint32_t stays = nodes_[inner].child[1 - g];
      const double saved = nodes_[inner].box.half_area() - joined(nodes_[stays].box, nodes_[outer].box).half_area();
      if (saved > most_saved) most_saved = saved, best_side = side, best_grandchild = g;
    }
  }
  if (best_side < 0) return;
  const std::uint32_t inner = nodes_[index].child[best_side], outer = nodes_[index].child[1 - best_side];
  const std::uint32_t rises = nodes_[inner].child[best_grandchild];
  nodes_[inner].child[best_grandchild] = outer;
  nodes_[outer].parent = inner;
  nodes_[index].child[1 - best_side] = rises;
  nodes_[rises].parent = index;
  nodes_[inner].box = joined(nodes_[nodes_[inner].child[0]].box, nodes_[nodes_[inner].child[1]].box);
}

}  // namespace jugend
