#include <fmt/format.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>

namespace jugend {

double Tunable::scale() const { return key.ends_with("_deg") ? radians_per_degree : 1.0; }

void Tunable::check(double value) const {
  const double slack = 1e-12 * std::abs(value);  // degrees that went through radians come back a rounding off
  if (!std::isfinite(value) || value < low - slack || value > high + slack) {
    throw InputError({{}, std::string(key), as_text(value), fmt::format("{} to {} {}", low, high, unit), {}});
  }
}

void Tunable::write(void* tuning, double value) const {
  check(value);
  at(tuning) = value * scale();
}

void check_ranges(TunableList list, const void* tuning) {
  for (const Tunable& t : list) t.check(t.read(tuning));
}

const Tunable* find_tunable(TunableList list, std::string_view key) {
  for (const Tunable& t : list) {
    if (t.key == key) return &t;
  }
  return nullptr;
}

const Tunable& get_tunable(TunableList list, std::string_view key) {
  if (const Tunable* t = find_tunable(list, key)) return *t;
  throw InputError({{},
                    std::string(key),
                    "a key that is not known",
                    "a tunable's key, as listed by jugend params",
                    nearest_name(key, keys(list))});
}

std::vector<std::string> keys(TunableList list) {
  std::vector<std::string> all;
  for (const Tunable& t : list) all.emplace_back(t.key);
  return all;
}

std::string as_text(double value) { return fmt::format("{:.12g}", value); }

}  // namespace jugend
