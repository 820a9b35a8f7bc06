// Elementary functions of the same bits everywhere, beside the C library's of this machine.
#include <fmt/format.h>

#include <cmath>
#include <jugend/base/elementary.hpp>
#include <vector>

#include "support/random.hpp"
#include "timing.hpp"

namespace jugend::bench {
namespace {

struct Arguments {
  std::vector<double> x, y;
};
Arguments draw(double low, double high) {
  testing::Random random(3);
  Arguments a;
  for (int i = 0; i < 20000; ++i) a.x.push_back(random.uniform(low, high)), a.y.push_back(random.uniform(low, high));
  return a;
}

template <class Function>
double time_of(const Arguments& a, Function&& f) {
  std::vector<double> rounds;
  volatile double kept = 0;
  for (int round = 0; round < 15; ++round) {
    rounds.push_back(seconds([&] {
      double sum = 0;
      for (std::size_t i = 0; i < a.x.size(); ++i) sum += f(a.x[i], a.y[i]);
      kept = kept + sum;
    }));
  }
  return median(rounds) / static_cast<double>(a.x.size()) * 1e9;
}

template <class Ours, class Theirs>
void report(const char* name, double low, double high, Ours&& ours, Theirs&& theirs) {
  const Arguments a = draw(low, high);
  const double own = time_of(a, ours), other = time_of(a, theirs);
  fmt::print("{} / the C library's {:.2f} (at most 1.5; {:.1f} ns)\n", name, own / other, own);
}

}  // namespace

void report_elementary_ratios() {
  namespace sb = same_bits;
  report(
      "sin", -3, 3, [](double x, double) { return sb::sin(x); }, [](double x, double) { return std::sin(x); });
  report(
      "cos", -3, 3, [](double x, double) { return sb::cos(x); }, [](double x, double) { return std::cos(x); });
  report(
      "tan", -3, 3, [](double x, double) { return sb::tan(x); }, [](double x, double) { return std::tan(x); });
  report(
      "atan2", -3, 3, [](double x, double y) { return sb::atan2(x, y); },
      [](double x, double y) { return std::atan2(x, y); });
  report(
      "acos", -1, 1, [](double x, double) { return sb::acos(x); }, [](double x, double) { return std::acos(x); });
  report(
      "exp", -3, 3, [](double x, double) { return sb::exp(x); }, [](double x, double) { return std::exp(x); });
  report(
      "expm1", -3, 3, [](double x, double) { return sb::expm1(x); }, [](double x, double) { return std::expm1(x); });
  report(
      "log", 0.01, 5, [](double x, double) { return sb::log(x); }, [](double x, double) { return std::log(x); });
  report(
      "pow", 0.01, 5, [](double x, double y) { return sb::pow(x, y); },
      [](double x, double y) { return std::pow(x, y); });
  report(
      "hypot", -3, 3, [](double x, double y) { return sb::hypot(x, y); },
      [](double x, double y) { return std::hypot(x, y); });
}

}  // namespace jugend::bench
