#include <algorithm>
#include <charconv>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>

namespace jugend {
namespace {

std::string joined(std::span<const std::string_view> names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (i > 0) text += i + 1 == names.size() ? " or " : ", ";
    text += names[i];
  }
  return text;
}

[[noreturn]] void refuse(std::string key, std::string found, std::string allowed, std::string nearest = {}) {
  fail({{}, std::move(key), std::move(found), std::move(allowed), std::move(nearest)});
}

}  // namespace

double Tunable::scale() const { return key.ends_with("_deg") ? radians_per_degree : 1.0; }

namespace {

/// The power of a length that a unit holds: "m/s" 1, "N m" 2, "kg" 0. Forces go with accelerations.
int lengths_in(std::string_view unit) {
  struct Row {
    std::string_view unit;
    int power;
  };
  static constexpr Row rows[] = {{"m", 1}, {"m/s", 1}, {"m/s2", 1}, {"N", 1}, {"Nm", 2}, {"N m", 2}};
  for (const Row& row : rows) {
    if (row.unit == unit) return row.power;
  }
  return 0;
}

}  // namespace

void Tunable::check(double value, double length_scale) const {
  const double slack = 1e-12 * std::abs(value);  // degrees that went through radians come back a rounding off
  const double further = same_bits::pow(length_scale, lengths_in(unit));
  const bool in_range = std::isfinite(value) && value >= low * std::min(1.0, further) - slack &&
                        value <= high * std::max(1.0, further) + slack;
  const bool fraction = type != TunableType::number && value != std::floor(value);
  if (in_range && !fraction) return;
  refuse(std::string(key),
         in_range || type == TunableType::number || type == TunableType::whole ? as_text(value) : shown(value),
         allowed(length_scale));
}

void Tunable::write(void* tuning, double value, double length_scale) const {
  check(value, length_scale);
  set(tuning, value * scale());
  if (state_form != nullptr) state_form(tuning, form);
}

std::string Tunable::shown(double value, bool quoted) const {
  if (type == TunableType::toggle) return value != 0 ? "true" : "false";
  if (type != TunableType::choice) return as_text(value);
  if (!(value >= 0 && value < static_cast<double>(names.size()))) return as_text(value);
  const auto i = static_cast<std::size_t>(value);
  return quoted ? filled("\"{}\"", names[i]) : std::string(names[i]);
}

std::string Tunable::allowed(double length_scale) const {
  if (type == TunableType::toggle) return "true or false";
  if (type == TunableType::choice) return joined(names);
  const double further = same_bits::pow(length_scale, lengths_in(unit));
  const std::string range = filled("{} to {}", low * std::min(1.0, further), high * std::max(1.0, further));
  if (type == TunableType::whole) return "a whole number, " + range;
  return unit == "1" ? range : filled("{} {}", range, unit);
}

double Tunable::parse(std::string_view text) const {
  if (text.size() >= 2 && text.front() == '"' && text.back() == '"') text = text.substr(1, text.size() - 2);
  if (type == TunableType::choice) {
    const auto at = std::ranges::find(names, text);
    if (at != names.end()) return static_cast<double>(at - names.begin());
    const std::vector<std::string> known(names.begin(), names.end());
    refuse(std::string(key), filled("'{}'", text), allowed(), nearest_name(text, known));
  }
  if (type == TunableType::toggle) {
    if (text == "true") return 1;
    if (text == "false") return 0;
    refuse(std::string(key), filled("'{}'", text), allowed());
  }
  double value = 0;
  const auto [end, wrong] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (wrong != std::errc{} || end != text.data() + text.size())
    refuse(std::string(key), filled("'{}'", text), "a number, " + allowed());
  return value;
}

Tunables::Tunables(std::vector<Tunable> singles, std::vector<NumberList> lists, std::vector<PointList> curves,
                   std::vector<TunableGroup> groups)
    : singles_(std::move(singles)), lists_(std::move(lists)), curves_(std::move(curves)), groups_(std::move(groups)) {
  const auto itself = [](auto& value) -> auto& { return value; };
  for (NumberList& l : lists_) l.each = number<double>(l.key, l.unit, l.low, l.high, l.help, itself);
  for (PointList& c : curves_) {
    c.x = number<double>(c.key, c.x_unit, 0, c.x_most, c.help, itself);
    c.y = number<double>(c.key, c.y_unit, 0, c.y_most, c.help, itself);
  }
}

const Tunable* Tunables::find(std::string_view key) const {
  const auto at = std::ranges::find(singles_, key, &Tunable::key);
  return at == singles_.end() ? nullptr : &*at;
}

double Tunables::length_scale(const void* tuning) const {
  const Tunable* t = find("length_scale");
  return t != nullptr ? t->read(tuning) : 1;
}

namespace {

void add_all(const Tunables& list, void* tuning, const std::string& path, std::vector<BoundTunable>& all) {
  for (const Tunable& t : list) all.push_back({path + std::string(t.key), &t, tuning});
  for (const NumberList& numbers : list.lists()) {
    std::vector<double>& values = numbers.at(tuning);
    for (std::size_t i = 0; i < values.size(); ++i)
      all.push_back({filled("{}{}.{}", path, numbers.key, i + 1), &numbers.each, &values[i]});
  }
  for (const PointList& curve : list.curves()) {
    std::vector<Curve::Point>& points = curve.at(tuning);
    for (std::size_t i = 0; i < points.size(); ++i) {
      all.push_back({filled("{}{}.{}.x", path, curve.key, i + 1), &curve.x, &points[i].x});
      all.push_back({filled("{}{}.{}.y", path, curve.key, i + 1), &curve.y, &points[i].y});
    }
  }
  for (const TunableGroup& group : list.groups()) {
    for (std::size_t i = 0; i < group.count(tuning); ++i)
      add_all(*group.parts, group.part(tuning, i), filled("{}{}.{}.", path, group.key, i + 1), all);
  }
}

}  // namespace

std::vector<BoundTunable> all_tunables(const Tunables& list, void* tuning) {
  std::vector<BoundTunable> all;
  add_all(list, tuning, {}, all);
  return all;
}

std::optional<BoundTunable> find_tunable(const Tunables& list, void* tuning, std::string_view key) {
  for (BoundTunable& t : all_tunables(list, tuning)) {
    if (t.key == key) return std::move(t);
  }
  return std::nullopt;
}

std::vector<std::string> keys(const Tunables& list, void* tuning) {
  std::vector<std::string> all;
  for (const BoundTunable& t : all_tunables(list, tuning)) all.push_back(t.key);
  for (const NumberList& numbers : list.lists()) all.emplace_back(numbers.key);
  for (const PointList& curve : list.curves()) all.emplace_back(curve.key);
  for (const TunableGroup& group : list.groups()) all.emplace_back(group.key);
  return all;
}

void check_ranges(const Tunables& list, const void* tuning) {
  void* const in = const_cast<void*>(tuning);  // only read
  const double scale = list.length_scale(tuning);
  const auto check_length = [](std::string_view key, std::size_t found, std::size_t least, std::size_t most) {
    if (found < least || found > most)
      refuse(std::string(key), filled("{} of them", found), filled("{} to {}", least, most));
  };
  for (const NumberList& numbers : list.lists()) check_length(numbers.key, numbers.at(in).size(), 0, numbers.most);
  for (const TunableGroup& group : list.groups()) check_length(group.key, group.count(in), group.least, group.most);
  for (const PointList& curve : list.curves()) {
    const std::vector<Curve::Point>& points = curve.at(in);
    check_length(curve.key, points.size(), 0, curve.most);
    for (std::size_t i = 1; i < points.size(); ++i) {
      if (!(points[i].x > points[i - 1].x))
        refuse(filled("{}.{}.x", curve.key, i + 1), as_text(points[i].x),
               filled("more than {}.{}.x, {}: one value for each x", curve.key, i, as_text(points[i - 1].x)));
    }
  }
  for (const BoundTunable& t : all_tunables(list, in)) {
    const Amend whole_key([&](Fault& fault) { fault.key = t.key; });
    t.tunable->check(t.read(), scale);
  }
}

}  // namespace jugend
