// Powers and logarithms by tables of 64 and 128 steps and short series; their sources: elementary.cpp.
#include <jugend/base/detail/elementary_tables.hpp>
#include <jugend/base/elementary.hpp>

namespace jugend::same_bits {
namespace {

/// value × 2^k, also where that is so small that it rounds again, or too large.
double scaled(double value, int k) {
  if (k > 1023) return value * power_of_two(1023) * power_of_two(k - 1023 > 1023 ? 1023 : k - 1023);
  if (k < -1022) return value * power_of_two(k + 1022 < -1000 ? -1000 : k + 1022) * power_of_two(-1022);
  return value * power_of_two(k);
}

/// exp(r) 2^(step / 64) / 2^k, which is near 1 to 2; |r| is at most log 2 / 128.
double exponential(double r, int step, int& k) {
  const double rr = r * r;
  const double more = r + rr * ((0.5 + r * (1.0 / 6)) + rr * ((1.0 / 24 + r * (1.0 / 120)) + rr * (1.0 / 720)));
  const Twofold power = tables::powers[step & 63];
  k = (step - (step & 63)) / 64;
  return power.high + (power.low + power.high * more);
}
/// exp(x) for |x| < 760.
double exponential(const Twofold& x, int& k) {
  const double n = whole(x.high * 92.332482616893656);  // 64 / log 2
  const double r = ((x.high - n * tables::log_2_by_64[0]) - n * tables::log_2_by_64[1]) + x.low;
  return exponential(r, static_cast<int>(n), k);
}

/// Positive, neither subnormal nor infinite.
bool is_plain(double x) { return bits_of(x) - (1ULL << 52) < (0x7ffULL << 52) - (1ULL << 52); }

struct LogParts {
  Twofold r;  // log(x) = whole + low + log(1 + r)
  double whole, low;
};
/// x is positive and finite.
LogParts log_parts(double x) {
  const bool plain = is_plain(x);
  // x = m × 2^k with a mantissa of 0x1.6p-1 to 0x1.6p0.
  const std::uint64_t bits = bits_of(plain ? x : x * 0x1p54), from = bits - 0x3fe6000000000000ULL;
  const auto octave = static_cast<std::int64_t>(from) >> 52;
  const std::uint64_t of_m = bits - (static_cast<std::uint64_t>(octave) << 52);
  const tables::LogStep& step = tables::log_steps[(from >> 45) & 127];
  // m / step - 1: exact in two parts, since the step has 10 bits.
  const double m = std::bit_cast<double>(of_m), top = std::bit_cast<double>(of_m & ~((1ULL << 27) - 1));
  const Twofold r = sum_in_order(top * step.inverse - 1, (m - top) * step.inverse);
  const double n = static_cast<double>(octave) - (plain ? 0 : 54);
  // Multiples of 2^-40 below 2^11: their sum is exact.
  return {r, n * tables::log_2[0] + step.high, n * tables::log_2[1] + (n * tables::log_2[2] + step.low)};
}
/// What log(1 + h) is more than h - h²/2, over h³.
double log_rest(double h) {
  const double hh = h * h;
  return (1.0 / 3 - h * 0.25) + hh * ((0.2 - h * (1.0 / 6)) + hh * ((1.0 / 7 - h * 0.125) + hh * (1.0 / 9 - h * 0.1)));
}
double plain_logarithm(double x) {
  const LogParts parts = log_parts(x);
  const double h = parts.r.high, hh = h * h;
  const Twofold head = sum_in_order(parts.whole, h);  // the whole part is larger, or nothing
  return head.high + (head.low + (parts.r.low + (parts.low + hh * (h * log_rest(h) - 0.5))));
}
/// To 2^-67 of itself.
Twofold logarithm(double x) {
  const LogParts parts = log_parts(x);
  const double h = parts.r.high;
  const Twofold square = product(h, h);
  const Twofold head = sum_in_order(h, -0.5 * square.high);
  const Twofold all = sum_in_order(parts.whole, head.high);
  const double rest = h * square.high * log_rest(h) + (parts.r.low * (1 - h) - 0.5 * square.low);
  return sum_in_order(all.high, all.low + (parts.low + (head.low + rest)));
}

bool is_whole(double y) { return magnitude(y) >= 0x1p52 || whole(y) == y; }
bool is_odd(double y) {
  if (magnitude(y) >= 0x1p53 || !is_whole(y)) return false;
  return (static_cast<std::int64_t>(y) & 1) != 0;
}

}  // namespace

double exp(double x) {
  if (std::isnan(x)) return x;
  if (x > 710) return infinite;
  if (x < -746) return 0;
  int k = 0;
  const double e = exponential({x, 0}, k);
  return scaled(e, k);
}

double exp2(double x) {
  if (std::isnan(x)) return x;
  if (x >= 1024) return infinite;
  if (x < -1076) return 0;
  const double n = whole(x * 64);
  int k = 0;
  const double e = exponential((x - n * 0.015625) * tables::log_of_2.high, static_cast<int>(n), k);
  return scaled(e, k);
}

double expm1(double x) {
  if (std::isnan(x)) return x;
  if (x > 710) return infinite;
  if (x < -40) return -1;
  if (magnitude(x) < 0x1p-54) return x;
  if (magnitude(x) < 0.125) {  // x + x²/2 + ...: nothing to take 1 from
    double p = 0;
    for (int n = 13; n >= 4; --n) p = (1 + x * p) / n;
    const Twofold square = product(x, x);
    const Twofold head = sum_in_order(x, 0.5 * square.high);
    return head.high + (head.low + (0.5 * square.low + square.high * x * (1.0 / 6) * (1 + x * p)));
  }
  // 2^k (power (1 + more) - 1 / 2^k): the power in two parts, 1 taken off its high one.
  const double n = whole(x * 92.332482616893656);
  const double r = (x - n * tables::log_2_by_64[0]) - n * tables::log_2_by_64[1], rr = r * r;
  const double more = r + rr * ((0.5 + r * (1.0 / 6)) + rr * ((1.0 / 24 + r * (1.0 / 120)) + rr * (1.0 / 720)));
  const int step = static_cast<int>(n), k = (step - (step & 63)) / 64;
  const Twofold power = tables::powers[step & 63];
  if (k > 60) return scaled(power.high + (power.low + power.high * more), k);
  const double by = power_of_two(k);
  const Twofold head = sum(power.high * by, -1);
  return head.high + (head.low + (power.low + power.high * more) * by);
}

double log(double x) {
  if (is_plain(x)) return plain_logarithm(x);
  if (std::isnan(x) || x < 0) return none;
  if (x == 0) return -infinite;
  return x == infinite ? x : plain_logarithm(x);
}

namespace {
/// x is positive and finite, y finite.
double positive_power(double x, double y) {
  const Twofold l = logarithm(x);
  const double rough = l.high * y;
  if (!(magnitude(rough) < 760)) return rough > 0 ? infinite : 0;
  const Twofold head = product(l.high, y);
  int k = 0;
  const double e = exponential({head.high, head.low + l.low * y}, k);
  return scaled(e, k);
}
}  // namespace

double pow(double x, double y) {
  if (is_plain(x) && magnitude(y) < 0x1p900 && y != 0) return positive_power(x, y);
  if (y == 0 || x == 1) return 1;
  if (std::isnan(x) || std::isnan(y)) return none;
  const double size = magnitude(x);
  const bool negative = std::signbit(x) && is_odd(y);
  if (magnitude(y) == infinite) return size == 1 ? 1 : (size > 1) == (y > 0) ? infinite : 0;
  if (size == 0 || size == infinite) {
    const double value = (size == 0) == (y > 0) ? 0 : infinite;
    return negative ? -value : value;
  }
  if (x < 0 && !is_whole(y)) return none;
  if (size == 1) return negative ? -1 : 1;
  const double value = positive_power(size, y);
  return negative ? -value : value;
}

double hypot(double x, double y) {
  double a = magnitude(x), b = magnitude(y);
  if (a == infinite || b == infinite) return infinite;
  if (std::isnan(a) || std::isnan(b)) return none;
  if (a < b) {
    const double c = a;
    a = b, b = c;
  }
  if (b <= a * 0x1p-60) return a + b;
  const double by = a > 0x1p500 ? 0x1p-600 : b < 0x1p-400 ? 0x1p600 : 1;
  a *= by, b *= by;
  const Twofold aa = product(a, a), bb = product(b, b);
  const Twofold square = sum_in_order(aa.high, bb.high);
  const double root = std::sqrt(square.high);
  const Twofold back = product(root, root);
  const double rest = ((square.high - back.high) - back.low) + (square.low + (aa.low + bb.low));
  return (root + rest / (2 * root)) / by;
}

}  // namespace jugend::same_bits
