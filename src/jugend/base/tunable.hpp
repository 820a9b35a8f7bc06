// The one description of a number that can be tuned. Files, --set, lists, sliders, sweeps and the
// JSON Schema all read it.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace jugend {

/// One tunable of a tuning struct. A key that ends in `_deg` is in degrees in files and radians in code.
struct Tunable {
  std::string_view key;   ///< dotted: "jump.height"
  std::string_view unit;  ///< "m", "s", "deg", "1" for a plain ratio
  double low = 0;         ///< smallest value allowed, in file units
  double high = 0;        ///< largest value allowed, in file units
  std::string_view help;  ///< one line
  double& (*at)(void* tuning) = nullptr;

  /// Code units per file unit.
  double scale() const;
  /// The value in `tuning`, in file units.
  double read(const void* tuning) const { return at(const_cast<void*>(tuning)) / scale(); }
  /// Throws InputError where `value`, in file units, is not finite or out of range.
  void check(double value) const;
  /// Sets it from file units; throws as check() does.
  void write(void* tuning, double value) const;
};

/// One row of a list of tunables; `member` may be nested: JUGEND_TUNABLE(WalkerTuning, jump.height, …).
#define JUGEND_TUNABLE(Type, member, key, unit, low, high, help)                                 \
  ::jugend::Tunable {                                                                            \
    key, unit, low, high, help, [](void* t) -> double& { return static_cast<Type*>(t)->member; } \
  }

/// The tunables of one kind of actor, in the order in which they are listed.
using TunableList = std::span<const Tunable>;

/// The tunable with this key, or nullptr.
const Tunable* find_tunable(TunableList list, std::string_view key);
/// As find_tunable, but throws InputError with the nearest key.
const Tunable& get_tunable(TunableList list, std::string_view key);
std::vector<std::string> keys(TunableList list);

/// Throws InputError for the first tunable of `tuning` that is out of range.
void check_ranges(TunableList list, const void* tuning);

/// A number as messages write it: up to 12 digits, no trailing zeros.
std::string as_text(double value);

}  // namespace jugend
