// The smaller of two numbers, the larger, and one kept within two: for headers that many files read, since <algorithm>
// is 10,000 lines.
#pragma once

namespace jugend {

constexpr double smaller(double a, double b) { return b < a ? b : a; }
constexpr double larger(double a, double b) { return a < b ? b : a; }
constexpr double within(double value, double low, double high) {
  return value < low ? low : high < value ? high : value;
}

}  // namespace jugend
