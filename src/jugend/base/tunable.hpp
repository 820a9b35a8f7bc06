// The one description of what can be tuned. Files, --set, lists, sliders, sweeps and the JSON Schema all read it.
//
//   const Tunables& hoist_tunables() {
//     static const Tunables list{
//         number<Hoist>("pull.force", "N", 0, 1e6, "on the rope", [](auto& t) -> auto& { return t.force; }),
//         toggle<Hoist>("brake.on", "holds by itself", [](auto& t) -> auto& { return t.brake; }),
//     };
//     return list;
//   }
#pragma once

#include <cstdint>
#include <jugend/base/curve.hpp>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace jugend {

/// Numbers may be fractions, whole numbers not; a toggle is true or false; a choice is one of some names.
enum class TunableType : std::uint8_t { number, whole, toggle, choice };

/// One tunable of a tuning struct. A key that ends in `_deg` is in degrees in files and radians in code. Values are
/// handed on as numbers: a toggle's are 0 and 1, a choice's the place among its names.
struct Tunable {
  std::string_view key;   ///< dotted: "jump.height"
  std::string_view unit;  ///< "m", "s", "deg", "1" for a plain ratio
  double low = 0;         ///< smallest value allowed, in file units
  double high = 0;        ///< largest value allowed, in file units
  std::string_view help;  ///< one line
  TunableType type = TunableType::number;
  std::span<const std::string_view> names{};  ///< of a choice
  double (*get)(const void* tuning) = nullptr;
  void (*set)(void* tuning, double value) = nullptr;
  /// Of those that state one thing in several ways only one counts: the way that was stated last.
  std::string_view forms{};  ///< the keys of all of them, for messages; empty: there is but one way
  int form = 0;
  int (*stated_form)(const void* tuning) = nullptr;
  void (*state_form)(void* tuning, int form) = nullptr;

  double scale() const;  ///< code units per file unit
  bool stated(const void* tuning) const { return stated_form == nullptr || stated_form(tuning) == form; }
  /// The value in `tuning`, in file units.
  double read(const void* tuning) const { return get(tuning) / scale(); }
  /// Throws InputError where `value`, in file units, is not finite, out of range, or a fraction where none may be. In a
  /// world of `length_scale` units a metre ranges of lengths, speeds and forces reach so much further.
  void check(double value, double length_scale = 1) const;
  /// Sets it from file units, and makes its way the one that counts; throws as check() does.
  void write(void* tuning, double value, double length_scale = 1) const;
  /// As files write a value: 1.25, 3, true, "limited" (with `quoted`, else limited).
  std::string shown(double value, bool quoted = false) const;
  /// What is allowed: "0 to 1 m", "true or false", "open, locked or limited".
  std::string allowed(double length_scale = 1) const;
  /// The value of a text, as after --set. Throws InputError.
  double parse(std::string_view text) const;
};

/// The names of a choice's values, in their order: specialised for each enum that is tuned.
template <class Enum>
struct NamesOf;

namespace tunable_detail {
template <class Owner, class At>
Tunable make(std::string_view key, std::string_view unit, double low, double high, std::string_view help, At) {
  Tunable t{key, unit, low, high, help};
  t.get = [](const void* tuning) { return static_cast<double>(At{}(*static_cast<const Owner*>(tuning))); };
  t.set = [](void* tuning, double value) {
    auto& member = At{}(*static_cast<Owner*>(tuning));
    member = static_cast<std::remove_reference_t<decltype(member)>>(value);
  };
  return t;
}
}  // namespace tunable_detail

/// `at` finds the member: [](auto& t) -> auto& { return t.jump.height; }
template <class Owner, class At>
Tunable number(std::string_view key, std::string_view unit, double low, double high, std::string_view help, At at) {
  return tunable_detail::make<Owner>(key, unit, low, high, help, at);
}
template <class Owner, class At>
Tunable whole(std::string_view key, double low, double high, std::string_view help, At at) {
  Tunable t = tunable_detail::make<Owner>(key, "1", low, high, help, at);
  t.type = TunableType::whole;
  return t;
}
template <class Owner, class At>
Tunable toggle(std::string_view key, std::string_view help, At at) {
  Tunable t = tunable_detail::make<Owner>(key, "1", 0, 1, help, at);
  t.type = TunableType::toggle;
  return t;
}
template <class Owner, class At>
Tunable choice(std::string_view key, std::string_view help, At at) {
  using Enum = std::remove_cvref_t<decltype(at(std::declval<Owner&>()))>;
  Tunable t{key,
            "1",
            0,
            static_cast<double>(NamesOf<Enum>::names.size() - 1),
            help,
            TunableType::choice,
            NamesOf<Enum>::names};
  t.get = [](const void* tuning) { return static_cast<double>(At{}(*static_cast<const Owner*>(tuning))); };
  t.set = [](void* tuning, double value) {
    At{}(*static_cast<Owner*>(tuning)) = static_cast<Enum>(static_cast<int>(value));
  };
  return t;
}
/// One of several ways to state a thing: it counts while `by` has the value `form`. `keys` names all of them.
template <class Owner, class By, class Enum>
Tunable one_form(Tunable t, std::string_view keys, By, Enum form) {
  t.forms = keys, t.form = static_cast<int>(form);
  t.stated_form = [](const void* tuning) { return static_cast<int>(By{}(*static_cast<const Owner*>(tuning))); };
  t.state_form = [](void* tuning, int to) { By{}(*static_cast<Owner*>(tuning)) = static_cast<Enum>(to); };
  return t;
}

/// Of each kind's tuning: ranges, and speeds below which something counts as still, go with it.
template <class Owner>
Tunable length_scale_of() {
  return number<Owner>(
      "length_scale", "1", 1e-3, 1e4,
      "units of the world in a metre: ranges of lengths, speeds and forces reach so much further",
      [](auto& t) -> auto& { return t.length_scale; });
}

class Tunables;

/// A list of numbers of any length up to `most`: gears = [3.6, 2.1, 1.4].
struct NumberList {
  std::string_view key, unit;
  double low = 0, high = 0;
  std::size_t most = 0;
  std::string_view help;
  std::vector<double>& (*at)(void* tuning) = nullptr;
  Tunable each{};  ///< one of them, made by the list
};
/// A curve through points: force = [[0, 1800], [6, 1500], [13, 120]], monotone between them (Curve).
struct PointList {
  std::string_view key, x_unit, y_unit;
  double x_most = 0, y_most = 0;  ///< from 0
  std::size_t most = 0;
  std::string_view help;
  std::vector<Curve::Point>& (*at)(void* tuning) = nullptr;
  Tunable x{}, y{};  ///< of one point, made by the list
};
/// Parts of one kind, any number from `least` to `most`: [[axle]].
struct TunableGroup {
  std::string_view key;
  std::size_t least = 1, most = 0;
  std::string_view help;
  const Tunables* parts = nullptr;
  std::size_t (*count)(const void* tuning) = nullptr;
  void (*resize)(void* tuning, std::size_t count) = nullptr;
  void* (*part)(void* tuning, std::size_t i) = nullptr;
};

/// All that can be tuned about one struct, in the order in which it is listed.
class Tunables {
 public:
  Tunables(std::initializer_list<Tunable> singles) : singles_(singles) {}
  Tunables(std::vector<Tunable> singles, std::vector<NumberList> lists, std::vector<PointList> curves,
           std::vector<TunableGroup> groups);
  auto begin() const { return singles_.begin(); }
  auto end() const { return singles_.end(); }
  const std::vector<NumberList>& lists() const { return lists_; }
  const std::vector<PointList>& curves() const { return curves_; }
  const std::vector<TunableGroup>& groups() const { return groups_; }
  const Tunable* find(std::string_view key) const;
  /// Of a tuning with a tunable "length_scale": its units a metre; else 1.
  double length_scale(const void* tuning) const;

 private:
  std::vector<Tunable> singles_;
  std::vector<NumberList> lists_;
  std::vector<PointList> curves_;
  std::vector<TunableGroup> groups_;
};

/// A tunable of one tuning: what repeats is counted from 1, "axle.2.radius", "drive.engine.gears.3", "drive.force.1.y".
struct BoundTunable {
  std::string key;
  const Tunable* tunable = nullptr;
  void* in = nullptr;       ///< what the tunable reads and writes
  double length_scale = 1;  ///< of the whole tuning, when it was asked for
  double read() const { return tunable->read(in); }
  void write(double value) const { tunable->write(in, value, length_scale); }
  bool stated() const { return tunable->stated(in); }
  std::string shown(bool quoted = false) const { return tunable->shown(read(), quoted); }
};
/// Every number of a tuning as it is, in the order of the list.
std::vector<BoundTunable> all_tunables(const Tunables& list, void* tuning);
/// The one with this key; nothing where there is none.
std::optional<BoundTunable> find_tunable(const Tunables& list, void* tuning, std::string_view key);
/// All keys that files may use, groups and lists by their own.
std::vector<std::string> keys(const Tunables& list, void* tuning);

/// The list of a tuning struct's tunables: specialised beside each, with a static list().
template <class Tuning>
struct TunablesOf;

/// All numbers of a tuning, as the program has them, to bytes and back (base/bytes.hpp). What was read is checked as
/// far as lengths and choices go; ranges are the tuning's check.
void write_tuning(class ByteWriter& to, const Tunables& list, const void* tuning);
void read_tuning(class ByteReader& from, const Tunables& list, void* tuning);
/// All keys of a list, as a number: lists whose keys differ differ in it.
std::uint64_t layout_of(const Tunables& list);

/// A tuning for a world of `scale` units a metre where it was for one of 1: lengths, speeds, accelerations and forces
/// are `scale` times as large, torques and areas scale² times; masses, times, angles and shares stay. The world's
/// gravity has to be `scale` times as large, too. Throws InputError for a scale out of the range of `length_scale`.
void rescale(const Tunables& list, void* tuning, double scale);
template <class Tuning>
Tuning in_units(Tuning tuning, double scale) {
  rescale(TunablesOf<Tuning>::list(), &tuning, scale);
  return tuning;
}

/// Throws InputError for the first that is out of range: a number, a list's length, a curve that is no function.
void check_ranges(const Tunables& list, const void* tuning);

}  // namespace jugend
