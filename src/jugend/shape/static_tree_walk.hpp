// How a StaticTree is walked: along a motion, along several at once, and near a box. Included by what walks one: its
// machine code is long, and most readers of the tree's header walk none.
#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <jugend/base/cpu.hpp>
#include <jugend/shape/static_tree.hpp>
#include <limits>

namespace jugend {

/// A walk along motions, and what its lanes need.
struct StaticTree::Walk {
  /// A motion as the lanes need it: an edge at x is passed at x × inverse + from. `from_near` and
  /// `from_far` hold the half extents, and room for every rounding on the way to that sum.
  struct LaneMotion {
    Floats inverse, from_near, from_far;
    int near_row[3], far_row[3];  // of Node::edges: which edges are passed first
  };
  struct LaneMotions {
    LaneMotion first;  // the others differ from it in from_near and from_far only
    std::size_t count;
    Floats from_near[most_together], from_far[most_together];
    double limit[most_together];
  };
  struct Waiting {
    std::uint32_t child;
    float enter;
  };
  struct WaitingTogether {
    std::uint32_t child;
    float enter;            // of the motion that comes to it first
    std::uint32_t motions;  // a bit for each that does
  };

  const StaticTree& tree;

  LaneMotion prepare(const Vec3& from, const Vec3& motion, const Vec3& half) const {
    constexpr float room = 16 * std::numeric_limits<float>::epsilon();
    const auto floats = [](const Vec3& v) {
      return Floats{static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z), 0.0f};
    };
    const auto without_sign = [](const Floats& v) { return v < 0 ? -v : v; };
    const Floats step = floats(motion), start = floats(from), size = floats(half);
    // What hardly moves along an axis is taken to move a little, so that no 0 × ∞ can come up.
    const Floats least = Floats{} + 1e-20f;
    const Floats speed = without_sign(step) > least ? without_sign(step) : least;
    const Floats across = 1.0f / speed;
    const Floats grown = (size + room * (without_sign(start) + size + tree.farthest_)) * across;
    LaneMotion w;
    w.inverse = step < 0 ? -across : across;
    w.from_near = -start * w.inverse - grown;
    w.from_far = -start * w.inverse + grown;
    for (int k = 0; k < 3; ++k) {
      const int backward = step[k] < 0 ? 3 : 0;  // as its inverse: what is too small for a float has no sign
      w.near_row[k] = k + backward;
      w.far_row[k] = k + 3 - backward;
    }
    return w;
  }

  LaneMotions prepare(std::span<const Start> starts, const Vec3& motion) const {
    LaneMotions all;
    all.count = starts.size();
    for (std::size_t i = 0; i < starts.size(); ++i) {
      const LaneMotion one = prepare(starts[i].from, motion, {});
      if (i == 0) all.first = one;
      all.from_near[i] = one.from_near, all.from_far[i] = one.from_far, all.limit[i] = starts[i].limit;
    }
    return all;
  }

  /// Tells by a bit for each child whether the motion meets it before `limit`, and where it enters.
  struct PortableLanes {
    std::uint32_t operator()(const Node& node, const LaneMotion& motion, float limit, float* enter) const {
      std::uint32_t met = 0;
      for (int lane = 0; lane < width; ++lane) {
        float first = 0, last = limit;
        for (int k = 0; k < 3; ++k) {
          const float step = node.step[k] * motion.inverse[k], origin = node.origin[k] * motion.inverse[k];
          first = std::max(
              first, static_cast<float>(node.edges[motion.near_row[k]][lane]) * step + (origin + motion.from_near[k]));
          last = std::min(
              last, static_cast<float>(node.edges[motion.far_row[k]][lane]) * step + (origin + motion.from_far[k]));
        }
        enter[lane] = first;
        met |= static_cast<std::uint32_t>(first <= last) << lane;
      }
      return met & node.used;
    }
    /// The same for several motions: a byte each. `enter` is the first of those that meet a child.
    std::uint64_t operator()(const Node& node, const LaneMotions& motions, std::uint32_t which, const float* limits,
                             float* enter) const {
      std::uint64_t met = 0;
      std::fill_n(enter, width, std::numeric_limits<float>::infinity());
      for (; which != 0; which &= which - 1) {
        const int i = std::countr_zero(which);
        LaneMotion motion = motions.first;
        motion.from_near = motions.from_near[i], motion.from_far = motions.from_far[i];
        float own[width];
        const std::uint32_t its = (*this)(node, motion, limits[i], own);
        for (int lane = 0; lane < width; ++lane) {
          if (its >> lane & 1u) enter[lane] = std::min(enter[lane], own[lane]);
        }
        met |= std::uint64_t{its} << (8 * i);
      }
      return met;
    }
  };

  /// Has both lines of a node fetched at once: the lanes would ask for them one after the other.
  static void prefetch(const Node& node) {
    __builtin_prefetch(&node);
    __builtin_prefetch(reinterpret_cast<const char*>(&node) + 64);
  }

  template <class Leaf, class Lanes>
  [[gnu::always_inline]] inline void walk(const LaneMotion& motion, double limit, Leaf& leaf, Lanes lanes) const {
    Waiting stack[stack_size];
    int waiting = 0;
    std::uint32_t current = 0;
    float reach = float_above(limit);
    for (;;) {
      if (current & leaf_bit) {
        limit = leaf(current & first_mask, ((current >> count_shift) & 7u) + 1, limit);
        reach = float_above(limit);
      } else {
        const Node& node = tree.nodes_[current];
        alignas(32) float enter[width];
        std::uint32_t met = lanes(node, motion, reach, enter);
        if (met != 0 && (met & (met - 1)) == 0) {
          current = node.child[std::countr_zero(met)];
          if ((current & leaf_bit) == 0) prefetch(tree.nodes_[current]);
          continue;
        }
        const int bottom = waiting;
        for (; met != 0; met &= met - 1) {
          const int lane = std::countr_zero(met);  // sorted in, so that the nearest child is on top
          int place = waiting++;
          for (; place > bottom && stack[place - 1].enter < enter[lane]; --place) stack[place] = stack[place - 1];
          stack[place] = {node.child[lane], enter[lane]};
        }
      }
      do {
        if (waiting == 0) return;
      } while (stack[--waiting].enter > reach);
      current = stack[waiting].child;
    }
  }

  /// Of eight bytes the first bits in the first byte, and so on.
  static std::uint64_t transposed(std::uint64_t x) {
    const auto swap = [&](std::uint64_t mask, int by) {
      const std::uint64_t t = (x ^ (x >> by)) & mask;
      x ^= t ^ (t << by);
    };
    swap(0x00AA00AA00AA00AAull, 7), swap(0x0000CCCC0000CCCCull, 14), swap(0x00000000F0F0F0F0ull, 28);
    return x;
  }

  template <class Leaf, class Soon, class Lanes>
  [[gnu::always_inline]] inline void walk_together(const LaneMotions& motions, Leaf& leaf, Soon& soon,
                                                   Lanes lanes) const {
    WaitingTogether stack[stack_size];
    int waiting = 0;
    WaitingTogether now{0, 0, (1u << motions.count) - 1};
    std::array<double, most_together> limit;
    std::array<float, most_together> reach{};
    for (std::size_t i = 0; i < motions.count; ++i) reach[i] = float_above(limit[i] = motions.limit[i]);
    for (;;) {
      if (now.child & leaf_bit) {
        for (; now.motions != 0; now.motions &= now.motions - 1) {
          const auto i = static_cast<std::size_t>(std::countr_zero(now.motions));
          reach[i] = float_above(limit[i] = leaf(i, now.child & first_mask, limit[i]));
        }
      } else {
        const Node& node = tree.nodes_[now.child];
        alignas(32) float enter[width];
        std::uint64_t met = transposed(lanes(node, motions, now.motions, reach.data(), enter));
        const int bottom = waiting;
        for (; met != 0;) {
          const int lane = std::countr_zero(met) / 8;
          const auto which = static_cast<std::uint32_t>(met >> (8 * lane) & 0xFF);
          met &= ~(std::uint64_t{0xFF} << (8 * lane));
          const std::uint32_t child = node.child[lane];
          child& leaf_bit ? soon(child & first_mask) : prefetch(tree.nodes_[child]);
          int place = waiting++;
          for (; place > bottom && stack[place - 1].enter < enter[lane]; --place) stack[place] = stack[place - 1];
          stack[place] = {child, enter[lane], which};
        }
      }
      const float farthest = *std::max_element(reach.begin(), reach.end());
      do {
        if (waiting == 0) return;
      } while (stack[--waiting].enter > farthest);
      now = stack[waiting];
    }
  }

#if defined(JUGEND_AVX2)
  // The tree only culls, with room for rounding, so what is hit does not depend on the kind of lanes.
  struct Avx2Lanes {
    __attribute__((target("avx2,fma"))) std::uint32_t operator()(const Node& node, const LaneMotion& motion,
                                                                 float limit, float* enter) const {
      __m256 near[3], far[3];
      for (int k = 0; k < 3; ++k) {
        const __m256 inverse = _mm256_broadcast_ss(reinterpret_cast<const float*>(&motion.inverse) + k),
                     origin = _mm256_broadcast_ss(&node.origin[k]);
        const __m256 step = _mm256_mul_ps(_mm256_broadcast_ss(&node.step[k]), inverse);
        const __m256 near_from = _mm256_fmadd_ps(
            origin, inverse, _mm256_broadcast_ss(reinterpret_cast<const float*>(&motion.from_near) + k));
        const __m256 far_from =
            _mm256_fmadd_ps(origin, inverse, _mm256_broadcast_ss(reinterpret_cast<const float*>(&motion.from_far) + k));
        near[k] = _mm256_fmadd_ps(widened(node.edges[motion.near_row[k]]), step, near_from);
        far[k] = _mm256_fmadd_ps(widened(node.edges[motion.far_row[k]]), step, far_from);
      }
      const __m256 first = _mm256_max_ps(_mm256_max_ps(near[0], near[1]), _mm256_max_ps(near[2], _mm256_setzero_ps()));
      const __m256 last = _mm256_min_ps(_mm256_min_ps(far[0], far[1]), _mm256_min_ps(far[2], _mm256_set1_ps(limit)));
      _mm256_store_ps(enter, first);
      return static_cast<std::uint32_t>(_mm256_movemask_ps(_mm256_cmp_ps(first, last, _CMP_LE_OQ))) & node.used;
    }
    __attribute__((target("avx2,fma"))) std::uint64_t operator()(const Node& node, const LaneMotions& motions,
                                                                 std::uint32_t which, const float* limits,
                                                                 float* enter) const {
      __m256 near[3], far[3];
      for (int k = 0; k < 3; ++k) {
        const __m256 inverse = _mm256_broadcast_ss(reinterpret_cast<const float*>(&motions.first.inverse) + k);
        const __m256 step = _mm256_mul_ps(_mm256_broadcast_ss(&node.step[k]), inverse),
                     origin = _mm256_mul_ps(_mm256_broadcast_ss(&node.origin[k]), inverse);
        near[k] = _mm256_fmadd_ps(widened(node.edges[motions.first.near_row[k]]), step, origin);
        far[k] = _mm256_fmadd_ps(widened(node.edges[motions.first.far_row[k]]), step, origin);
      }
      std::uint64_t met = 0;
      const __m256 never = _mm256_set1_ps(std::numeric_limits<float>::infinity());
      __m256 soonest = never;
      for (; which != 0; which &= which - 1) {
        const int i = std::countr_zero(which);
        const Floats &n = motions.from_near[i], &f = motions.from_far[i];
        const __m256 first = _mm256_max_ps(_mm256_max_ps(plus(near[0], n, 0), plus(near[1], n, 1)),
                                           _mm256_max_ps(plus(near[2], n, 2), _mm256_setzero_ps()));
        const __m256 last = _mm256_min_ps(_mm256_min_ps(plus(far[0], f, 0), plus(far[1], f, 1)),
                                          _mm256_min_ps(plus(far[2], f, 2), _mm256_broadcast_ss(limits + i)));
        const __m256 meets = _mm256_cmp_ps(first, last, _CMP_LE_OQ);
        soonest = _mm256_min_ps(soonest, _mm256_blendv_ps(never, first, meets));
        met |= std::uint64_t{static_cast<std::uint32_t>(_mm256_movemask_ps(meets)) & node.used} << (8 * i);
      }
      _mm256_store_ps(enter, soonest);
      return met;
    }
    __attribute__((target("avx2,fma"))) static __m256 plus(__m256 x, const Floats& from, int k) {
      return _mm256_add_ps(x, _mm256_broadcast_ss(reinterpret_cast<const float*>(&from) + k));
    }
    __attribute__((target("avx2,fma"))) static __m256 widened(const std::uint8_t* bytes) {
      return _mm256_cvtepi32_ps(_mm256_cvtepu8_epi32(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(bytes))));
    }
  };
  template <class Leaf>
  __attribute__((target("avx2,fma"))) void walk_with_avx2(const LaneMotion& motion, double limit, Leaf& leaf) const {
    walk(motion, limit, leaf, Avx2Lanes{});
  }
  template <class Leaf, class Soon>
  __attribute__((target("avx2,fma"))) void walk_together_with_avx2(const LaneMotions& motions, Leaf& leaf,
                                                                   Soon& soon) const {
    walk_together(motions, leaf, soon, Avx2Lanes{});
  }
#endif
};

template <class Leaf>
void StaticTree::along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Leaf&& leaf) const {
  if (nodes_.empty()) return;
  const Walk walk{*this};
  const Walk::LaneMotion prepared = walk.prepare(from, motion, half);
#if defined(JUGEND_AVX2)
  if (has_avx2) return walk.walk_with_avx2(prepared, limit, leaf);
#endif
  walk.walk(prepared, limit, leaf, Walk::PortableLanes{});
}

template <class Leaf, class Soon>
void StaticTree::along_together(std::span<const Start> starts, const Vec3& motion, Leaf&& leaf, Soon&& soon) const {
  if (nodes_.empty()) return;
  const Walk walk{*this};
  const Walk::LaneMotions prepared = walk.prepare(starts, motion);
#if defined(JUGEND_AVX2)
  if (has_avx2) return walk.walk_together_with_avx2(prepared, leaf, soon);
#endif
  walk.walk_together(prepared, leaf, soon, Walk::PortableLanes{});
}

template <class Leaf>
void StaticTree::within(const Bounds& box, Leaf&& leaf) const {
  near(box, 0.0, [&](std::uint32_t first, std::uint32_t count, double limit) {
    leaf(first, count);
    return limit;
  });
}

template <class Leaf>
void StaticTree::near(const Bounds& box, double limit, Leaf&& leaf) const {
  if (nodes_.empty()) return;
  constexpr float rounding_room = 1.0f + 4 * std::numeric_limits<float>::epsilon();
  float low[3], high[3];
  for (int axis = 0; axis < 3; ++axis) low[axis] = float_below(box.low[axis]), high[axis] = float_above(box.high[axis]);
  Walk::Waiting stack[stack_size];
  int waiting = 0;
  std::uint32_t current = 0;
  for (;;) {
    if (current & leaf_bit) {
      limit = leaf(current & first_mask, ((current >> count_shift) & 7u) + 1, limit);
    } else {
      const Node& node = nodes_[current];
      const float reach = float_above(limit * limit) * rounding_room;
      const int bottom = waiting;
      for (int lane = 0; lane < width; ++lane) {
        float squared = 0;
        for (int k = 0; k < 3; ++k) {
          const float node_low = node.origin[k] + static_cast<float>(node.edges[k][lane]) * node.step[k];
          const float node_high = node.origin[k] + static_cast<float>(node.edges[k + 3][lane]) * node.step[k];
          const float apart = std::max({0.0f, node_low - high[k], low[k] - node_high});
          squared += apart * apart;
        }
        if (!(squared <= reach) || (node.used >> lane & 1u) == 0) continue;
        int place = waiting++;
        for (; place > bottom && stack[place - 1].enter < squared; --place) stack[place] = stack[place - 1];
        stack[place] = {node.child[lane], squared};
      }
    }
    do {
      if (waiting == 0) return;
    } while (static_cast<double>(stack[--waiting].enter) > limit * limit * rounding_room);
    current = stack[waiting].child;
  }
}

}  // namespace jugend
