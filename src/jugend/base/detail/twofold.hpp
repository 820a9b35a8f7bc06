// Numbers in two parts, and the bits of numbers. Inner to elementary functions.
//
// A Twofold is high + low, the low part below half a unit of the high one. Sums and products of two doubles are exact
// in that form: T. J. Dekker, "A floating-point technique for extending the available precision", Numerische Mathematik
// 18 (1971); D. E. Knuth, The Art of Computer Programming 2, 4.2.2.
#pragma once

#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>

namespace jugend::same_bits {

struct Twofold {
  double high, low;
};

inline constexpr double infinite = std::numeric_limits<double>::infinity();
inline constexpr double none = std::numeric_limits<double>::quiet_NaN();

inline std::uint64_t bits_of(double x) { return std::bit_cast<std::uint64_t>(x); }
/// 2 to a power between -1022 and 1023.
inline double power_of_two(int k) { return std::bit_cast<double>(static_cast<std::uint64_t>(k + 1023) << 52); }
inline double magnitude(double x) { return std::bit_cast<double>(bits_of(x) & ~(1ULL << 63)); }
inline double with_sign_of(double x, double other) {
  return std::bit_cast<double>((bits_of(x) & ~(1ULL << 63)) | (bits_of(other) & (1ULL << 63)));
}
/// The nearest whole number of one that is small against 2^51.
inline double whole(double x) {
  constexpr double big = 6755399441055744.0;  // 1.5 × 2^52
  return (x + big) - big;
}

/// Of two numbers of which the first is not the smaller.
inline Twofold sum_in_order(double a, double b) {
  const double s = a + b;
  return {s, b - (s - a)};
}
inline Twofold sum(double a, double b) {
  const double s = a + b, of_b = s - a;
  return {s, (a - (s - of_b)) + (b - of_b)};
}
/// Of numbers below 2^996.
inline Twofold product(double a, double b) {
  constexpr double split = 134217729.0;  // 2^27 + 1
  const double p = a * b, ta = split * a, tb = split * b;
  const double ah = ta - (ta - a), al = a - ah, bh = tb - (tb - b), bl = b - bh;
  return {p, ((ah * bh - p) + ah * bl + al * bh) + al * bl};
}
inline Twofold quotient(const Twofold& a, const Twofold& b) {
  const double q = a.high / b.high;
  const Twofold back = product(q, b.high);
  return {q, (((a.high - back.high) - back.low) + a.low - q * b.low) / b.high};
}
inline double rounded(const Twofold& x) { return x.high + x.low; }

}  // namespace jugend::same_bits
