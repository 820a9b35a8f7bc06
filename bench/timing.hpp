// Stopwatch and middle of several: what all benchmarks' ratios are made of.
#pragma once

#include <algorithm>
#include <chrono>
#include <vector>

namespace jugend::bench {

template <class Work>
double seconds(Work&& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

inline double median(std::vector<double> values) {
  std::ranges::nth_element(values, values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2));
  return values[values.size() / 2];
}

}  // namespace jugend::bench
