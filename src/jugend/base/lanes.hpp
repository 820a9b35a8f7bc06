// Four numbers side by side, which one instruction works on at once where the machine can. Inner to the library.
//
// Pairs are two registers of two, as every 64-bit machine has them; Quad is one of four, for machines with AVX2. Each
// operation is the same on each number in both, and sums go in one order, so the bits that come out are the same. One
// is a single number, for what has nothing beside it.
#pragma once

#include <cmath>
#include <cstring>
#include <jugend/base/cpu.hpp>
#include <jugend/base/four_lanes.hpp>

#if defined(__SSE2__)
#include <emmintrin.h>
#endif

// What lanes pass through must be built for their kind: it becomes part of a function that is.
#define JUGEND_INLINE [[gnu::always_inline]] inline
#define JUGEND_INLINE_LAMBDA __attribute__((always_inline))

namespace jugend {

/// Two registers of two numbers.
class Pairs {
  using Two = double __attribute__((vector_size(16)));
  using Bits = long long __attribute__((vector_size(16)));

 public:
  struct Mask {
    Bits a, b;
    JUGEND_INLINE Mask operator&(const Mask& m) const { return {a & m.a, b & m.b}; }
    JUGEND_INLINE Mask operator|(const Mask& m) const { return {a | m.a, b | m.b}; }
    JUGEND_INLINE Mask operator~() const { return {~a, ~b}; }
    JUGEND_INLINE bool any() const {
      const Bits all = a | b;
      return (all[0] | all[1]) != 0;
    }
  };
  Two a, b;

  JUGEND_INLINE static Pairs of(double x) { return {Two{x, x}, Two{x, x}}; }
  JUGEND_INLINE static Pairs of(const Doubles4& r) { return of_four(r.at); }
  JUGEND_INLINE void store(Doubles4& r) const { store(r.at); }
  JUGEND_INLINE static Pairs of_four(const double* four) {
    Pairs p;
    std::memcpy(&p.a, four, sizeof p.a), std::memcpy(&p.b, four + 2, sizeof p.b);
    return p;
  }
  JUGEND_INLINE void store(double* four) const { std::memcpy(four, &a, sizeof a), std::memcpy(four + 2, &b, sizeof b); }
  JUGEND_INLINE Pairs operator+(const Pairs& x) const { return {a + x.a, b + x.b}; }
  JUGEND_INLINE Pairs operator-(const Pairs& x) const { return {a - x.a, b - x.b}; }
  JUGEND_INLINE Pairs operator*(const Pairs& x) const { return {a * x.a, b * x.b}; }
  JUGEND_INLINE Pairs operator/(const Pairs& x) const { return {a / x.a, b / x.b}; }
  JUGEND_INLINE Mask operator<(const Pairs& x) const { return {a < x.a, b < x.b}; }
  JUGEND_INLINE Mask operator<=(const Pairs& x) const { return {a <= x.a, b <= x.b}; }
  JUGEND_INLINE Mask operator==(const Pairs& x) const { return {a == x.a, b == x.b}; }
  /// Where `m` holds the number, elsewhere 0.
  JUGEND_INLINE Pairs where(const Mask& m) const { return {from(bits(a) & m.a), from(bits(b) & m.b)}; }
  JUGEND_INLINE Pairs where(const Mask& m, const Pairs& otherwise) const {
    return {from((bits(a) & m.a) | (bits(otherwise.a) & ~m.a)), from((bits(b) & m.b) | (bits(otherwise.b) & ~m.b))};
  }
  JUGEND_INLINE Pairs without_sign() const { return {from(bits(a) & ~sign()), from(bits(b) & ~sign())}; }
  JUGEND_INLINE Pairs with_sign_of(const Pairs& x) const {
    return {from((bits(a) & ~sign()) | (bits(x.a) & sign())), from((bits(b) & ~sign()) | (bits(x.b) & sign()))};
  }
  /// The first two numbers exchanged, and the last two.
  JUGEND_INLINE Pairs crossed() const { return {Two{a[1], a[0]}, Two{b[1], b[0]}}; }
  JUGEND_INLINE double sum() const {
    const Two both = a + b;
    return both[0] + both[1];
  }
  // larger() and smaller(): the second where one of both is no number, or both are zeros, as machines have it.

  JUGEND_INLINE friend Pairs larger(const Pairs& x, const Pairs& y) {
#if defined(__SSE2__)
    return {Two(_mm_max_pd(__m128d(x.a), __m128d(y.a))), Two(_mm_max_pd(__m128d(x.b), __m128d(y.b)))};
#else
    return x.where(y < x, y);
#endif
  }
  JUGEND_INLINE friend Pairs smaller(const Pairs& x, const Pairs& y) {
#if defined(__SSE2__)
    return {Two(_mm_min_pd(__m128d(x.a), __m128d(y.a))), Two(_mm_min_pd(__m128d(x.b), __m128d(y.b)))};
#else
    return x.where(x < y, y);
#endif
  }
  JUGEND_INLINE friend Pairs root(const Pairs& x) {
#if defined(__SSE2__)
    return {Two(_mm_sqrt_pd(__m128d(x.a))), Two(_mm_sqrt_pd(__m128d(x.b)))};
#else
    return {Two{std::sqrt(x.a[0]), std::sqrt(x.a[1])}, Two{std::sqrt(x.b[0]), std::sqrt(x.b[1])}};
#endif
  }
  /// Rows become columns.
  JUGEND_INLINE static void transpose(Pairs (&m)[4]) {
    const Pairs p = m[0], q = m[1], r = m[2], s = m[3];
    m[0] = {Two{p.a[0], q.a[0]}, Two{r.a[0], s.a[0]}}, m[1] = {Two{p.a[1], q.a[1]}, Two{r.a[1], s.a[1]}};
    m[2] = {Two{p.b[0], q.b[0]}, Two{r.b[0], s.b[0]}}, m[3] = {Two{p.b[1], q.b[1]}, Two{r.b[1], s.b[1]}};
  }

 private:
  JUGEND_INLINE static Bits bits(const Two& x) { return Bits(x); }
  JUGEND_INLINE static Two from(const Bits& x) { return Two(x); }
  JUGEND_INLINE static Bits sign() { return Bits{} + (1LL << 63); }
};

#if defined(JUGEND_AVX2)
/// One register of four numbers. Only to be used within functions built for AVX2.
class Quad {
  using Four = double __attribute__((vector_size(32)));
  using Bits = long long __attribute__((vector_size(32)));

 public:
  struct Mask {
    Bits all;
    JUGEND_INLINE Mask operator&(const Mask& m) const { return {all & m.all}; }
    JUGEND_INLINE Mask operator|(const Mask& m) const { return {all | m.all}; }
    JUGEND_INLINE Mask operator~() const { return {~all}; }
    __attribute__((target("avx2"))) bool any() const { return _mm256_movemask_pd(__m256d(all)) != 0; }
  };
  Four all;

  JUGEND_INLINE static Quad of(double x) { return {Four{x, x, x, x}}; }
  JUGEND_INLINE static Quad of(const Doubles4& r) { return of_four(r.at); }
  JUGEND_INLINE void store(Doubles4& r) const { store(r.at); }
  JUGEND_INLINE static Quad of_four(const double* four) {
    Quad q;
    std::memcpy(&q.all, four, sizeof q.all);
    return q;
  }
  JUGEND_INLINE void store(double* four) const { std::memcpy(four, &all, sizeof all); }
  JUGEND_INLINE Quad operator+(const Quad& x) const { return {all + x.all}; }
  JUGEND_INLINE Quad operator-(const Quad& x) const { return {all - x.all}; }
  JUGEND_INLINE Quad operator*(const Quad& x) const { return {all * x.all}; }
  JUGEND_INLINE Quad operator/(const Quad& x) const { return {all / x.all}; }
  JUGEND_INLINE Mask operator<(const Quad& x) const { return {all < x.all}; }
  JUGEND_INLINE Mask operator<=(const Quad& x) const { return {all <= x.all}; }
  JUGEND_INLINE Mask operator==(const Quad& x) const { return {all == x.all}; }
  JUGEND_INLINE Quad where(const Mask& m) const { return {Four(Bits(all) & m.all)}; }
  JUGEND_INLINE Quad where(const Mask& m, const Quad& otherwise) const {
    return {Four((Bits(all) & m.all) | (Bits(otherwise.all) & ~m.all))};
  }
  JUGEND_INLINE Quad without_sign() const { return {Four(Bits(all) & ~sign())}; }
  JUGEND_INLINE Quad with_sign_of(const Quad& x) const {
    return {Four((Bits(all) & ~sign()) | (Bits(x.all) & sign()))};
  }
  JUGEND_INLINE Quad crossed() const { return {Four{all[1], all[0], all[3], all[2]}}; }
  JUGEND_INLINE double sum() const { return (all[0] + all[2]) + (all[1] + all[3]); }
  __attribute__((target("avx2"))) friend Quad larger(const Quad& x, const Quad& y) {
    return {Four(_mm256_max_pd(__m256d(x.all), __m256d(y.all)))};
  }
  __attribute__((target("avx2"))) friend Quad smaller(const Quad& x, const Quad& y) {
    return {Four(_mm256_min_pd(__m256d(x.all), __m256d(y.all)))};
  }
  __attribute__((target("avx2"))) friend Quad root(const Quad& x) { return {Four(_mm256_sqrt_pd(__m256d(x.all)))}; }
  JUGEND_INLINE static void transpose(Quad (&m)[4]) {
    const Four low = __builtin_shufflevector(m[0].all, m[1].all, 0, 4, 2, 6);
    const Four high = __builtin_shufflevector(m[0].all, m[1].all, 1, 5, 3, 7);
    const Four low2 = __builtin_shufflevector(m[2].all, m[3].all, 0, 4, 2, 6);
    const Four high2 = __builtin_shufflevector(m[2].all, m[3].all, 1, 5, 3, 7);
    m[0].all = __builtin_shufflevector(low, low2, 0, 1, 4, 5),
    m[1].all = __builtin_shufflevector(high, high2, 0, 1, 4, 5);
    m[2].all = __builtin_shufflevector(low, low2, 2, 3, 6, 7),
    m[3].all = __builtin_shufflevector(high, high2, 2, 3, 6, 7);
  }

 private:
  JUGEND_INLINE static Bits sign() { return Bits{} + (1LL << 63); }
};
#endif

/// A single number.
class One {
 public:
  struct Mask {
    bool it;
    JUGEND_INLINE Mask operator&(const Mask& m) const { return {it && m.it}; }
    JUGEND_INLINE Mask operator|(const Mask& m) const { return {it || m.it}; }
    JUGEND_INLINE Mask operator~() const { return {!it}; }
    JUGEND_INLINE bool any() const { return it; }
  };
  double it;

  JUGEND_INLINE static One of(double x) { return {x}; }
  JUGEND_INLINE One operator+(const One& x) const { return {it + x.it}; }
  JUGEND_INLINE One operator-(const One& x) const { return {it - x.it}; }
  JUGEND_INLINE One operator*(const One& x) const { return {it * x.it}; }
  JUGEND_INLINE One operator/(const One& x) const { return {it / x.it}; }
  JUGEND_INLINE Mask operator<(const One& x) const { return {it < x.it}; }
  JUGEND_INLINE Mask operator<=(const One& x) const { return {it <= x.it}; }
  JUGEND_INLINE Mask operator==(const One& x) const { return {it == x.it}; }
  JUGEND_INLINE One where(const Mask& m) const { return {m.it ? it : 0.0}; }
  JUGEND_INLINE One where(const Mask& m, const One& otherwise) const { return m.it ? *this : otherwise; }
  JUGEND_INLINE friend One larger(const One& x, const One& y) { return y.it < x.it ? x : y; }
  JUGEND_INLINE friend One smaller(const One& x, const One& y) { return x.it < y.it ? x : y; }
  JUGEND_INLINE friend One root(const One& x) { return {std::sqrt(x.it)}; }
};

template <class L>
JUGEND_INLINE L within(const L& x, const L& low, const L& high) {
  return smaller(larger(x, low), high);
}

}  // namespace jugend
