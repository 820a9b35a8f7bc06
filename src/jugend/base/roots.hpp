// Roots of quadratics, computed so that nearly equal numbers are never subtracted.
#pragma once

#include <cmath>
#include <limits>

namespace jugend {

/// The real roots of a t² + b t + c, smaller first; `count` is 0, 1 or 2.
struct QuadraticRoots {
  int count = 0;
  double first = 0, second = 0;
};

/// Press et al., Numerical Recipes (3rd ed., 2007), section 5.6: q = -(b + sign(b) √(b² - 4ac)) / 2.
inline QuadraticRoots quadratic_roots(double a, double b, double c) {
  if (a == 0) {
    if (b == 0) return {};
    return {1, -c / b, -c / b};
  }
  const double discriminant = b * b - 4 * a * c;
  if (discriminant < 0) return {};
  const double q = -0.5 * (b + std::copysign(std::sqrt(discriminant), b));
  const double r1 = q / a;
  const double r2 = q != 0 ? c / q : r1;
  return r1 < r2 ? QuadraticRoots{2, r1, r2} : QuadraticRoots{2, r2, r1};
}

/// The smallest root in [0, limit], or NaN where there is none.
inline double first_root_within(double a, double b, double c, double limit) {
  const QuadraticRoots roots = quadratic_roots(a, b, c);
  if (roots.count > 0 && roots.first >= 0 && roots.first <= limit) return roots.first;
  if (roots.count > 1 && roots.second >= 0 && roots.second <= limit) return roots.second;
  return std::numeric_limits<double>::quiet_NaN();
}

/// What bounds the place where something ends.
struct Bracket {
  double before, after;
};
/// Where holds(x), true at `before` and false at `after`, ends: closed in on by `halvings` bisections.
template <class Holds>
Bracket where_it_ends(double before, double after, int halvings, Holds&& holds) {
  for (int halving = 0; halving < halvings; ++halving) {
    const double middle = 0.5 * (before + after);
    (holds(middle) ? before : after) = middle;
  }
  return {before, after};
}

}  // namespace jugend
