// A random value of a tunable, anywhere in its published range.
#pragma once

#include <cmath>
#include <jugend/base/tunable.hpp>

#include "random.hpp"
#include "watched.hpp"

namespace jugend::testing {

/// Over all its powers of ten where its range has many.
inline double any_value(const Tunable& tunable, Random& random) {
  const bool wide = tunable.low >= 0 && tunable.high > 10;
  const double value = wide ? std::exp(random.uniform(std::log(std::max(tunable.low, 1e-3)), std::log(tunable.high)))
                            : random.uniform(tunable.low, tunable.high);
  return tunable.type == TunableType::number ? value : std::round(value);
}
/// One of the singles of a list.
inline const Tunable& any_of(const Tunables& list, Random& random) {
  const auto count = static_cast<std::uint32_t>(std::distance(list.begin(), list.end()));
  return *(list.begin() + random.below(count));
}

}  // namespace jugend::testing
