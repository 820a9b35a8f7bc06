// Elementary functions against MPFR's, correctly rounded to many more digits: at most one unit in the last place off.
#include <gtest/gtest.h>
#include <mpfr.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <jugend/base/elementary.hpp>
#include <limits>

#include "../support/any_value.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

constexpr double inf = std::numeric_limits<double>::infinity();
constexpr double nan = std::numeric_limits<double>::quiet_NaN();
constexpr mpfr_prec_t digits = 200;

class Exact {
 public:
  explicit Exact(double x = 0) { mpfr_init2(value, digits), mpfr_set_d(value, x, MPFR_RNDN); }
  ~Exact() { mpfr_clear(value); }
  Exact(const Exact&) = delete;
  mpfr_t value;
};

/// How far `found` is from the exact value, in units of the last place of a double there.
double units_off(double found, const Exact& exact) {
  const double nearest = mpfr_get_d(exact.value, MPFR_RNDN);
  if (std::isnan(nearest) || std::isinf(nearest) || nearest == 0)
    return found == nearest || (std::isnan(found) && std::isnan(nearest)) ? 0 : inf;
  if (!std::isfinite(found)) return inf;
  const double unit = std::nextafter(std::abs(nearest), inf) - std::abs(nearest);
  Exact rest(found);
  mpfr_sub(rest.value, rest.value, exact.value, MPFR_RNDN);
  mpfr_div_d(rest.value, rest.value, unit, MPFR_RNDN);
  return std::abs(mpfr_get_d(rest.value, MPFR_RNDN));
}

using Mpfr = int (*)(mpfr_t, const mpfr_t, mpfr_rnd_t);
using Mpfr2 = int (*)(mpfr_t, const mpfr_t, const mpfr_t, mpfr_rnd_t);

struct OfOne {
  const char* name;
  double (*ours)(double);
  Mpfr exact;
  double low, high;  ///< of most arguments
};
const OfOne of_one[] = {
    {"sin", same_bits::sin, mpfr_sin, -20, 20},       {"cos", same_bits::cos, mpfr_cos, -20, 20},
    {"tan", same_bits::tan, mpfr_tan, -20, 20},       {"asin", same_bits::asin, mpfr_asin, -1, 1},
    {"acos", same_bits::acos, mpfr_acos, -1, 1},      {"atan", same_bits::atan, mpfr_atan, -10, 10},
    {"exp", same_bits::exp, mpfr_exp, -30, 30},       {"exp2", same_bits::exp2, mpfr_exp2, -30, 30},
    {"expm1", same_bits::expm1, mpfr_expm1, -10, 10}, {"log", same_bits::log, mpfr_log, 0, 10},
};
struct OfTwo {
  const char* name;
  double (*ours)(double, double);
  Mpfr2 exact;
  double low, high;
};
const OfTwo of_two[] = {{"atan2", same_bits::atan2, mpfr_atan2, -10, 10},
                        {"pow", same_bits::pow, mpfr_pow, 0, 20},
                        {"hypot", same_bits::hypot, mpfr_hypot, -10, 10}};

/// Mostly where games have them, often near 0 or round numbers, now and then anywhere at all.
double draw(Random& random, double low, double high) {
  const std::uint32_t how = random.below(8);
  const double sign = random.below(2) ? 1 : -1;
  const double plain = random.uniform(low, high);
  const double power = random.uniform(-1070, 1023);
  const double near = random.uniform(-40, 0);
  const double whole = random.below(41) - 20.0;
  if (how == 0) return sign * std::exp2(power);
  if (how == 1) return sign * std::exp2(near);
  if (how == 2) return whole * 0.25 * (1 + sign * std::exp2(near));
  if (how == 3) return std::clamp(1 + sign * std::exp2(near), -1.0, 2.0);
  if (how == 4) return plain * 1.5707963267948966;
  return plain;
}

TEST(Elementary, IsWithinAUnitOfTheLastPlace) {
  constexpr double specials[] = {0.0,
                                 -0.0,
                                 1,
                                 -1,
                                 0.5,
                                 2,
                                 inf,
                                 -inf,
                                 nan,
                                 5e-324,
                                 1.7976931348623157e308,
                                 709.7827128933840,
                                 -745.1,
                                 1e22,
                                 1.5707963267948966,
                                 6381956970095103.0 * 0x1p797,
                                 3,
                                 -3,
                                 1e-300};
  Random random(8);
  for (const OfOne& f : of_one) {
    double worst = 0, at = 0;
    const auto hold = [&](double x) {
      Exact exact;
      f.exact(exact.value, Exact(x).value, MPFR_RNDN);
      if (const double off = units_off(f.ours(x), exact); !(off <= worst)) worst = off, at = x;
    };
    for (const double x : specials) hold(x);
    for (int i = 0; i < scenes_of(40000); ++i) hold(draw(random, f.low, f.high));
    EXPECT_LE(worst, 1) << f.name << " at " << at;
  }
  for (const OfTwo& f : of_two) {
    double worst = 0, at = 0, and_at = 0;
    const auto hold = [&](double x, double y) {
      Exact exact;
      f.exact(exact.value, Exact(x).value, Exact(y).value, MPFR_RNDN);
      if (const double off = units_off(f.ours(x, y), exact); !(off <= worst)) worst = off, at = x, and_at = y;
    };
    for (const double x : specials) {
      for (const double y : specials) hold(x, y);
    }
    for (int i = 0; i < scenes_of(40000); ++i) {
      const double x = draw(random, f.low, f.high);
      hold(x, draw(random, f.low, f.high));
    }
    EXPECT_LE(worst, 1) << f.name << " at " << at << ", " << and_at;
  }
}

TEST(Elementary, SineAndCosineTogetherAreTheTwo) {
  Random random(9);
  for (int i = 0; i < 20000; ++i) {
    const double angle = draw(random, -20, 20);
    const auto [sine, cosine] = same_bits::sine_cosine(angle);
    EXPECT_EQ(sine, same_bits::sin(angle)) << angle;
    EXPECT_EQ(cosine, same_bits::cos(angle)) << angle;
  }
}

}  // namespace
}  // namespace jugend::testing
