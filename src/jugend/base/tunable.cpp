#include <algorithm>
#include <charconv>
#include <cmath>
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

/// How many times as large a number of that unit is in a world of `scale` units a metre. Forces go with accelerations.
double times_as_large(std::string_view unit, double scale) {
  constexpr std::string_view lengths[] = {"m", "m/s", "m/s2", "N"}, areas[] = {"m2", "Nm", "N m", "kg m2"};
  const auto among = [unit](const auto& units) { return std::ranges::find(units, unit) != std::end(units); };
  return among(lengths) ? scale : among(areas) ? scale * scale : unit == "N s2/m2" ? 1 / scale : 1;
}

struct Range {
  double low, high;
};
/// Further out by `further`, where that is more than 1, and as far in where it is less.
Range widened(const Tunable& t, double length_scale) {
  const double further = times_as_large(t.unit, length_scale), most = std::max(1.0, further);
  return {t.low * (t.low < 0 ? most : std::min(1.0, further)), t.high * most};
}

}  // namespace

void Tunable::check(double value, double length_scale) const {
  const double slack = 1e-12 * std::abs(value);  // degrees that went through radians come back a rounding off
  const Range range = widened(*this, length_scale);
  const bool in_range = std::isfinite(value) && value >= range.low - slack && value <= range.high + slack;
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
  const Range wide = widened(*this, length_scale);
  const std::string range = filled("{} to {}", wide.low, wide.high);
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
  const double scale = list.length_scale(tuning);
  for (BoundTunable& t : all) t.length_scale = scale;
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

void rescale(const Tunables& list, void* tuning, double scale) {
  if (const Tunable* whole = list.find("length_scale")) whole->write(tuning, whole->read(tuning) * scale);
  for (const BoundTunable& t : all_tunables(list, tuning)) {
    if (t.key != "length_scale") t.tunable->set(t.in, t.tunable->get(t.in) * times_as_large(t.tunable->unit, scale));
  }
}

void check_ranges(const Tunables& list, const void* tuning) {
  void* const in = const_cast<void*>(tuning);  // only read
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
    t.tunable->check(t.read(), t.length_scale);
  }
}

}  // namespace jugend
