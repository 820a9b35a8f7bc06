// Sines and arcs by reduction to a small angle and a short polynomial.
//
// Reduction by multiples in parts: W. J. Cody and W. Waite, Software Manual for the Elementary Functions (1980); of
// large angles: M. H. Payne and R. N. Hanek, ACM SIGNUM Newsletter 18 (1983). Tables and short series: P. T. P. Tang,
// ACM TOMS 15 (1989), 16 (1990). Polynomials meet their functions at Chebyshev's points (cmake/elementary_tables.py),
// others are Taylor's.
#include <jugend/base/detail/elementary_tables.hpp>
#include <jugend/base/elementary.hpp>

namespace jugend::same_bits {
namespace {

struct Reduced {
  Twofold rest;  // within π/4
  int quarter;   // turns of π/2 taken off
};

/// x 2/π to 200 bits behind the point: only the words of 2/π that matter are multiplied.
Reduced reduce_large(double x) {
  const std::uint64_t bits = bits_of(x);
  const int exponent = static_cast<int>((bits >> 52) & 0x7ff) - 1075;  // x = mantissa × 2^exponent
  const std::uint64_t mantissa = (bits & ((1ULL << 52) - 1)) | (1ULL << 52);
  const std::uint64_t m0 = mantissa & 0xffffffff, m1 = mantissa >> 32;
  constexpr int words = 9;
  const int first = exponent > 34 ? (exponent - 2) / 32 : 0;  // those before give whole turns alone
  std::uint32_t result[words + 2] = {};                       // lowest word first
  std::uint64_t carry = 0;
  for (int i = 0; i < words + 2; ++i) {
    // Word i of the product: w[i] m0 + w[i - 1] m1.
    const auto word = [&](int k) -> std::uint64_t {
      return k >= 0 && k < words ? tables::two_by_pi[first + words - 1 - k] : 0;
    };
    const std::uint64_t a = word(i) * m0, b = word(i - 1) * m1;
    const std::uint64_t low = (a & 0xffffffff) + (b & 0xffffffff) + (carry & 0xffffffff);
    result[i] = static_cast<std::uint32_t>(low);
    carry = (carry >> 32) + (a >> 32) + (b >> 32) + (low >> 32);
  }
  // The point lies so many bits above the lowest.
  const int point = 32 * (first + words) - exponent;
  const auto bits_from = [&](int at) -> std::uint64_t {  // 32 bits, the lowest of them bit `at`
    const int k = at >> 5, shift = at & 31;
    const auto of = [&](int w) -> std::uint64_t { return w >= 0 && w < words + 2 ? result[w] : 0; };
    return ((of(k) | of(k + 1) << 32) >> shift) & 0xffffffff;
  };
  int quarter = static_cast<int>(bits_from(point) & 3);
  const bool beyond = bits_from(point - 1) & 1;
  // The fraction, less 1 where it is beyond half a quarter turn: words of 32 bits with a sign.
  double fraction[6];
  for (int i = 0; i < 6; ++i) {
    const auto word = static_cast<std::uint32_t>(bits_from(point - 32 * (i + 1)));
    fraction[i] = static_cast<double>(beyond ? ~word : word);
  }
  Twofold part{0, 0};
  for (int i = 5; i >= 0; --i) {
    const Twofold s = sum(fraction[i] * power_of_two(-32 * (i + 1)), part.high);
    part = sum_in_order(s.high, s.low + part.low);
  }
  if (beyond) part = {-part.high, -part.low}, quarter = (quarter + 1) & 3;
  const Twofold turn = product(part.high, tables::half_pi[0]);
  const Twofold more = product(part.high, tables::half_pi[1]);
  const Twofold head = sum(turn.high, more.high);
  const double low = head.low + turn.low + more.low + part.high * tables::half_pi[2] + part.low * tables::half_pi[0];
  return {sum_in_order(head.high, low), quarter};
}

Reduced reduce(double x) {
  const double size = magnitude(x);
  if (size <= 0.78539816339744831) return {{x, 0}, 0};
  if (size > 823549.0) {  // 2^19 π/2
    Reduced r = reduce_large(size);
    if (x < 0) r = {{-r.rest.high, -r.rest.low}, -r.quarter & 3};
    return r;
  }
  const double n = whole(x * 0.63661977236758134);
  const int quarter = static_cast<int>(n) & 3;
  const double first = x - n * tables::half_pi_in_two[0], more = n * tables::half_pi_in_two[1];  // first is exact
  const double high = first - more;
  if (magnitude(high) > 0x1p-20 && magnitude(n) < 0x1p10) return {{high, (first - high) - more}, quarter};
  const double* parts = tables::half_pi;
  const Twofold a = sum(first, -n * parts[1]);
  const Twofold b = sum(a.low, -n * parts[2]);
  const Twofold c = sum(a.high, b.high);
  return {sum_in_order(c.high, c.low + (b.low - n * parts[3])), quarter};
}

/// a[0] + a[1] z + ... of six, or of fourteen: in pairs, so that little waits for little.
double six(const double* a, double z) {
  const double zz = z * z;
  return (a[0] + a[1] * z) + zz * ((a[2] + a[3] * z) + zz * (a[4] + a[5] * z));
}
double fourteen(const double* a, double z) {
  const double z2 = z * z, z3 = z2 * z, z6 = z3 * z3;
  return six(a, z) + z6 * (six(a + 6, z) + z6 * (a[12] + a[13] * z));
}

double sine_of(const Twofold& r) {
  const double z = r.high * r.high;
  return r.high + (r.high * (z * six(tables::sine, z)) + r.low * (1 - 0.5 * z));
}
double cosine_of(const Twofold& r) {
  const double z = r.high * r.high, half = 0.5 * z, head = 1 - half;
  return head + (((1 - head) - half) + (z * z * six(tables::cosine, z) - r.high * r.low));
}

/// The sine of the angle, or with `ahead` = 1 its cosine.
double wave(double x, int ahead) {
  if (!std::isfinite(x)) return none;
  const Reduced r = reduce(x);
  const int quarter = (r.quarter + ahead) & 3;
  const double value = quarter & 1 ? cosine_of(r.rest) : sine_of(r.rest);
  return quarter & 2 ? -value : value;
}

/// atan of t, 0 to 1 and a little more.
Twofold arc_of(const Twofold& t) {
  if (t.high < 0.0625) {
    const double z = t.high * t.high;
    const double more =
        (-1.0 / 3 + z * (1.0 / 5)) +
        z * z * ((-1.0 / 7 + z * (1.0 / 9)) + z * z * ((-1.0 / 11 + z * (1.0 / 13)) - z * z * (1.0 / 15)));
    return {t.high, t.high * (z * more) + t.low * (1 - z)};
  }
  const int i = static_cast<int>(t.high * 64 + 0.5);
  const double c = i * 0.015625;
  const double d = ((t.high - c) + t.low) / (1 + c * t.high);
  const double z = d * d;
  const Twofold known = tables::arctans[i];
  const Twofold head = sum_in_order(known.high, d);
  return {head.high,
          head.low + (known.low + d * (z * ((-1.0 / 3 + z * (1.0 / 5)) + z * z * (-1.0 / 7 + z * (1.0 / 9)))))};
}

/// The angle of (x, y) in the first quarter; neither is negative, not both are 0.
Twofold angle_of(const Twofold& y, const Twofold& x) {
  if (y.high <= x.high) return arc_of(quotient(y, x));
  const Twofold beyond = arc_of(quotient(x, y));
  const Twofold half{0.5 * tables::pi.high, 0.5 * tables::pi.low};
  const Twofold head = sum_in_order(half.high, -beyond.high);
  return {head.high, head.low + (half.low - beyond.low)};
}
Twofold straight_less(const Twofold& angle) {
  const Twofold head = sum_in_order(tables::pi.high, -angle.high);
  return {head.high, head.low + (tables::pi.low - angle.low)};
}

}  // namespace

double sin(double angle) {
  if (magnitude(angle) < 0x1p-26) return angle;
  return wave(angle, 0);
}
double cos(double angle) { return wave(angle, 1); }

SineCosine sine_cosine(double angle) {
  if (!std::isfinite(angle)) return {none, none};
  const Reduced r = reduce(angle);
  const double s = magnitude(angle) < 0x1p-26 ? angle : sine_of(r.rest), c = cosine_of(r.rest);
  switch (r.quarter) {
    case 0: return {s, c};
    case 1: return {c, -s};
    case 2: return {-s, -c};
    default: return {-c, s};
  }
}

double tan(double angle) {
  if (!std::isfinite(angle)) return none;
  if (magnitude(angle) < 0x1p-26) return angle;
  const Reduced r = reduce(angle);
  // Both in two parts, and their quotient.
  const double z = r.rest.high * r.rest.high;
  const Twofold s = sum_in_order(r.rest.high, r.rest.high * (z * six(tables::sine, z)) + r.rest.low * (1 - 0.5 * z));
  const Twofold square = product(r.rest.high, r.rest.high);
  const Twofold head = sum_in_order(1, -0.5 * z);
  const Twofold c = sum_in_order(
      head.high, head.low + (z * z * six(tables::cosine, z) - 0.5 * square.low - r.rest.high * r.rest.low));
  return rounded(r.quarter & 1 ? quotient({-c.high, -c.low}, s) : quotient(s, c));
}

double atan2(double y, double x) {
  if (std::isnan(x) || std::isnan(y)) return none;
  double ax = magnitude(x), ay = magnitude(y);
  const bool back = std::signbit(x);
  Twofold angle{0, 0};
  if (ay == 0) {
    angle = back ? tables::pi : Twofold{0, 0};
  } else if (ax == infinite || ay == infinite || ax == 0) {
    const double share = ay == infinite && ax == infinite ? (back ? 0.75 : 0.25)
                         : ax == infinite                 ? (back ? 1 : 0)
                                                          : 0.5;
    angle = {share * tables::pi.high, share * tables::pi.low};
  } else {
    // Near 1, so that no product overflows and no rest is lost.
    const double larger = ax > ay ? ax : ay;
    const double by = larger > 0x1p500 ? 0x1p-600 : larger < 0x1p-400 ? 0x1p600 : 1;
    ax *= by, ay *= by;
    const double quotient_is = ay / ax;
    if (!back && quotient_is < 0x1p-60) return with_sign_of(magnitude(y) / magnitude(x), y);
    if (quotient_is < 0x1p-60)
      angle = tables::pi;
    else if (quotient_is > 0x1p60)
      angle = {0.5 * tables::pi.high, 0.5 * tables::pi.low};
    else
      angle = angle_of({ay, 0}, {ax, 0});
    if (back && quotient_is >= 0x1p-60 && quotient_is <= 0x1p60) angle = straight_less(angle);
  }
  return with_sign_of(rounded(angle), y);
}

double atan(double x) {
  const double size = magnitude(x);
  if (size < 0x1p-27 || std::isnan(x)) return x;
  if (size > 0x1p60) return with_sign_of(0.5 * tables::pi.high, x);
  return with_sign_of(rounded(size <= 1 ? arc_of({size, 0}) : angle_of({size, 0}, {1, 0})), x);
}

namespace {
/// asin(x) less x, for x up to 1/2.
double arcsine_more(double x) {
  const double z = x * x;
  return x * (z * fourteen(tables::arcsine, z));
}
/// asin(√((1 - x) / 2)), half of acos(x), for x from 1/2 on.
Twofold half_arc(double x) {
  const double z = 0.5 * (1 - x), root = std::sqrt(z);
  if (root == 0) return {0, 0};
  const Twofold back = product(root, root);
  return {root, ((z - back.high) - back.low) / (2 * root) + arcsine_more(root)};
}
constexpr Twofold half_pi{0.5 * tables::pi.high, 0.5 * tables::pi.low};
}  // namespace

double asin(double x) {
  const double size = magnitude(x);
  if (!(size <= 1)) return none;
  if (size <= 0.5) return x + arcsine_more(x);
  const Twofold half = half_arc(size);
  const Twofold head = sum_in_order(half_pi.high, -2 * half.high);
  return with_sign_of(head.high + (head.low + (half_pi.low - 2 * half.low)), x);
}

double acos(double x) {
  const double size = magnitude(x);
  if (!(size <= 1)) return none;
  if (size <= 0.5) {
    const Twofold head = sum_in_order(half_pi.high, -x);
    return head.high + (head.low + (half_pi.low - arcsine_more(x)));
  }
  const Twofold half = half_arc(size);
  if (x > 0) return 2 * (half.high + half.low);
  const Twofold head = sum_in_order(tables::pi.high, -2 * half.high);
  return head.high + (head.low + (tables::pi.low - 2 * half.low));
}

}  // namespace jugend::same_bits
