// Sines, powers and their like, made of +, -, ×, / and square roots alone: every machine and C library gives the same
// bits. What a tick runs uses these and none of <cmath> that rounds as its makers like.
#pragma once

namespace jugend::same_bits {

// At most 1 unit in the last place off (tests/base/elementary_test.cpp holds them against MPFR), for all doubles. What
// has no answer is NaN, what is too large infinite, as in ISO C, annex F. No errno and no exception flags are promised.

double sin(double angle);
double cos(double angle);
double tan(double angle);
struct SineCosine {
  double sine, cosine;
};
/// Both for little more than one.
SineCosine sine_cosine(double angle);
double asin(double x);
double acos(double x);
double atan(double x);
/// The angle of (x, y), -π to π.
double atan2(double y, double x);
double exp(double x);
double exp2(double x);
/// exp(x) - 1.
double expm1(double x);
double log(double x);
double pow(double x, double y);
/// The length of (x, y), without overflow on its way.
double hypot(double x, double y);

}  // namespace jugend::same_bits
