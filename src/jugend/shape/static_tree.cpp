#include <algorithm>
#include <cmath>
#include <jugend/shape/static_tree.hpp>

namespace jugend {

/// First a binary tree from the top; then the wide tree that can be made of it with the fewest expected
/// visits, by dynamic programming over "this subtree as at most n children of some node" (Ylitie, Karras
/// and Laine, "Efficient incoherent ray traversal on GPUs through compressed wide BVHs", HPG 2017).
struct StaticTree::Builder {
  struct FloatBox {
    std::array<float, 3> low{1e38f, 1e38f, 1e38f}, high{-1e38f, -1e38f, -1e38f};
    void add(const FloatBox& b) {
      for (int k = 0; k < 3; ++k) low[k] = std::min(low[k], b.low[k]), high[k] = std::max(high[k], b.high[k]);
    }
    float half_area() const {
      const float x = high[0] - low[0], y = high[1] - low[1], z = high[2] - low[2];
      return x * y + y * z + z * x;
    }
  };
  struct Item {
    FloatBox box;
    std::uint32_t index;
    float doubled_centre(int axis) const { return box.low[axis] + box.high[axis]; }
  };
  struct Split {  // a node of the binary tree; count > 0: a leaf
    FloatBox box;
    std::uint32_t first = 0, count = 0;
    std::uint32_t left = 0, right = 0;
    // [n - 1]: the least cost of this subtree as at most n children, and how many of them the left side
    // then has; 0: it is one child, a node of its own.
    std::array<float, width> cost{};
    std::array<std::uint8_t, width> left_share{}, used{1};
    std::uint8_t inner_share = 0;  // the left side's children in a node rooted here
  };

  /// Below this depth items are halved by number alone, so that no input can outgrow a walk's stack.
  static constexpr int deepest_cut = 48;

  static constexpr float leaf_cost = 1.5f;

  StaticTree& tree;
  std::vector<Item> items;
  std::vector<Split> splits;

  struct Cut {
    int axis = -1;
    int bin = 0;
    float low = 0, per_bin = 0;
  };
  static int bin_of(const Item& item, const Cut& cut, int bins) {
    return std::min(bins - 1, static_cast<int>((item.doubled_centre(cut.axis) - cut.low) * cut.per_bin));
  }

  /// The cut between bins whose surface area heuristic is least; axis -1 where all centres coincide.
  Cut best_cut(std::uint32_t first, std::uint32_t count, int bins) const {
    constexpr int most_bins = 16;
    std::array<float, 3> low{1e38f, 1e38f, 1e38f}, high{-1e38f, -1e38f, -1e38f};
    for (std::uint32_t i = first; i < first + count; ++i) {
      for (int k = 0; k < 3; ++k) {
        const float c = items[i].doubled_centre(k);
        low[k] = std::min(low[k], c), high[k] = std::max(high[k], c);
      }
    }
    Cut best;
    float least = std::numeric_limits<float>::infinity();
    for (int axis = 0; axis < 3; ++axis) {
      const float per_bin = static_cast<float>(bins) / (high[axis] - low[axis]);
      if (!(high[axis] > low[axis]) || !std::isfinite(per_bin)) continue;
      Cut cut{axis, 0, low[axis], per_bin};
      std::array<FloatBox, most_bins> boxes;
      std::array<std::uint32_t, most_bins> counts{};
      for (std::uint32_t i = first; i < first + count; ++i) {
        const int bin = bin_of(items[i], cut, bins);
        boxes[bin].add(items[i].box);
        ++counts[bin];
      }
      std::array<float, most_bins> right_cost{};
      FloatBox side;
      std::uint32_t inside = 0;
      for (int bin = bins - 1; bin > 0; --bin) {
        side.add(boxes[bin]);
        inside += counts[bin];
        right_cost[bin] = inside > 0 ? side.half_area() * static_cast<float>(inside) : 0;
      }
      side = {};
      inside = 0;
      for (cut.bin = 1; cut.bin < bins; ++cut.bin) {
        side.add(boxes[cut.bin - 1]);
        inside += counts[cut.bin - 1];
        if (inside == 0 || inside == count) continue;
        const float cost = side.half_area() * static_cast<float>(inside) + right_cost[cut.bin];
        if (cost < least) least = cost, best = cut;
      }
    }
    return best;
  }

  std::uint32_t divide(std::uint32_t first, std::uint32_t count, int depth) {
    const auto index = static_cast<std::uint32_t>(splits.size());
    splits.emplace_back();
    if (count <= leaf_size) {
      FloatBox box;
      for (std::uint32_t i = first; i < first + count; ++i) box.add(items[i].box);
      Split& leaf = splits[index];
      leaf.box = box, leaf.first = first, leaf.count = count;
      leaf.cost.fill(box.half_area() * leaf_cost);
      return index;
    }
    const int bins = count > 64 ? 16 : 8;
    const Cut cut = depth < deepest_cut ? best_cut(first, count, bins) : Cut{};
    std::uint32_t middle = first + count / 2;
    if (cut.axis >= 0) {
      const auto begin = items.begin() + first;
      middle = first + static_cast<std::uint32_t>(
                           std::partition(begin, begin + count,
                                          [&](const Item& item) { return bin_of(item, cut, bins) < cut.bin; }) -
                           begin);
    }
    const std::uint32_t left = divide(first, middle - first, depth + 1);
    const std::uint32_t right = divide(middle, first + count - middle, depth + 1);
    Split& split = splits[index];
    split.box = splits[left].box;
    split.box.add(splits[right].box);
    split.left = left, split.right = right;
    plan(split);
    return index;
  }

  void plan(Split& split) const {
    const Split &left = splits[split.left], &right = splits[split.right];
    const auto best_of = [&](int children) {
      std::pair<float, std::uint8_t> best{std::numeric_limits<float>::infinity(), 0};
      for (int k = 1; k < children; ++k) {
        const float cost = left.cost[k - 1] + right.cost[children - k - 1];
        if (cost < best.first) best = {cost, static_cast<std::uint8_t>(k)};
      }
      return best;
    };
    // Half areas are the chances of a visit; a node costs one, a leaf what it does by measurement.
    const auto [inside, share] = best_of(width);
    split.inner_share = share;
    split.cost[0] = inside + split.box.half_area();
    split.left_share[0] = 0;
    for (int n = 2; n <= width; ++n) {
      const auto [cost, k] = best_of(n);
      const bool better = cost < split.cost[n - 2];
      split.cost[n - 1] = better ? cost : split.cost[n - 2];
      split.left_share[n - 1] = better ? k : split.left_share[n - 2];
      split.used[n - 1] = better ? static_cast<std::uint8_t>(n) : split.used[n - 2];
    }
  }

  /// The children that stand for a subtree where it may be at most `most` of them.
  void gather(std::uint32_t index, int most, std::vector<std::uint32_t>& children) const {
    const Split& split = splits[index];
    const int share = split.count > 0 ? 0 : split.left_share[most - 1];
    if (share == 0) {
      children.push_back(index);
    } else {
      gather_sides(split, share, split.used[most - 1], children);
    }
  }
  void gather_sides(const Split& split, int left_share, int together, std::vector<std::uint32_t>& children) const {
    gather(split.left, left_share, children);
    gather(split.right, together - left_share, children);
  }

  std::uint32_t widen(std::uint32_t root) {
    std::vector<std::uint32_t> children;
    if (splits[root].count > 0) {
      children.push_back(root);  // the whole tree is one leaf
    } else {
      gather_sides(splits[root], splits[root].inner_share, width, children);
    }
    const auto index = static_cast<std::uint32_t>(tree.nodes_.size());
    tree.nodes_.push_back(node_over(children));
    for (std::size_t lane = 0; lane < children.size(); ++lane) {
      const Split& c = splits[children[lane]];
      const std::uint32_t child = c.count > 0 ? leaf(c) : widen(children[lane]);
      tree.nodes_[index].child[lane] = child;
    }
    return index;
  }

  std::uint32_t leaf(const Split& split) {
    const auto first = static_cast<std::uint32_t>(tree.order_.size());
    tree.order_.resize(first + leaf_size, no_item);
    for (std::uint32_t i = 0; i < split.count; ++i) tree.order_[first + i] = items[split.first + i].index;
    std::sort(tree.order_.begin() + first, tree.order_.begin() + first + split.count);
    return leaf_bit | (split.count - 1) << count_shift | first;
  }

  Node node_over(const std::vector<std::uint32_t>& children) const {
    Node node{};
    node.used = (1u << children.size()) - 1;
    FloatBox all;
    for (const std::uint32_t c : children) all.add(splits[c].box);
    for (int axis = 0; axis < 3; ++axis) {
      const float origin = node.origin[axis] = all.low[axis];
      float step = std::max((all.high[axis] - origin) / 255.0f, std::numeric_limits<float>::min());
      while (origin + 255.0f * step < all.high[axis]) step *= 1.0f + 4 * std::numeric_limits<float>::epsilon();
      node.step[axis] = step;
      // Moved outward until the sums that a walk computes are outside the box.
      const auto edge = [&](int byte) { return origin + static_cast<float>(byte) * step; };
      for (std::size_t lane = 0; lane < children.size(); ++lane) {
        const FloatBox& box = splits[children[lane]].box;
        int low = std::clamp(static_cast<int>((box.low[axis] - origin) / step), 0, 255);
        while (low > 0 && edge(low) > box.low[axis]) --low;
        int high = std::clamp(static_cast<int>((box.high[axis] - origin) / step), 0, 255);
        while (high < 255 && edge(high) < box.high[axis]) ++high;
        node.edges[axis][lane] = static_cast<std::uint8_t>(low);
        node.edges[axis + 3][lane] = static_cast<std::uint8_t>(high);
      }
    }
    return node;
  }
};

std::span<const std::uint32_t> StaticTree::order() const { return order_; }
void StaticTree::release_order() { order_ = {}; }

StaticTree::StaticTree(std::span<const Bounds> bounds) {
  if (bounds.empty()) return;
  Builder builder{*this, {}, {}};
  builder.items.reserve(bounds.size());
  for (const Bounds& b : bounds) {
    Builder::Item& item = builder.items.emplace_back();
    item.index = static_cast<std::uint32_t>(builder.items.size() - 1);
    for (int k = 0; k < 3; ++k) item.box.low[k] = float_below(b.low[k]), item.box.high[k] = float_above(b.high[k]);
    for (int k = 0; k < 3; ++k) {
      farthest_[k] = std::max({farthest_[k], std::abs(item.box.low[k]), std::abs(item.box.high[k])});
    }
  }
  builder.splits.reserve(bounds.size());
  builder.divide(0, static_cast<std::uint32_t>(bounds.size()), 0);
  builder.widen(0);
  nodes_.shrink_to_fit();
  order_.shrink_to_fit();
}

}  // namespace jugend
