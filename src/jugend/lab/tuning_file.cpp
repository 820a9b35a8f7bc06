#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <jugend/lab/tuning_file.hpp>
#include <map>

namespace jugend {
namespace {

/// Writes what a document says into a tuning, and remembers which ways of stating a thing it has met.
class TuningWriter {
 public:
  TuningWriter(ActorTuning& tuning, std::string file) : tuning_(tuning), file_(std::move(file)) {}

  /// `key` may be a tunable's own, a heading's, or go into a list or part: "axle.2.radius". `path` stands before it.
  void apply(const DocValue& value, const std::string& key, const Tunables& list, void* in, const std::string& path) {
    if (const Tunable* t = list.find(key)) return write(value, *t, in, path + key);
    for (const NumberList& l : list.lists()) {
      if (key == l.key) return fill(value, l, l.at(in), path + key);
      if (const auto rest = below(key, l.key))
        return write(value, l.each, &part(l.at(in), *rest, value, path + key), path + key);
    }
    for (const PointList& c : list.curves()) {
      if (key == c.key) return fill(value, c, c.at(in), path + key);
      if (const auto rest = below(key, c.key)) return write_point(value, c, c.at(in), *rest, path + key);
    }
    for (const TunableGroup& g : list.groups()) {
      if (key == g.key || below(key, g.key)) return apply_group(value, key, g, in, path);
    }
    const bool heading =
        std::ranges::any_of(keys(list, in), [&](const std::string& k) { return k.starts_with(key + "."); });
    if (heading && value.kind == DocValue::Kind::table) {
      for (const auto& [name, member] : value.members) apply(member, key + "." + name, list, in, path);
      return;
    }
    if (heading) refuse(value, path + key, value.shown(), "a table of tunables");
    refuse(value, path + key, "a key that is not known", as_listed(tuning_.kind()),
           nearest_name(path + key, all_keys()));
  }

 private:
  std::vector<std::string> all_keys() { return keys(tuning_.list(), tuning_.data()); }
  [[noreturn]] void refuse(const DocValue& at, std::string key, std::string found, std::string allowed,
                           std::string nearest = {}) const {
    throw InputError(
        {{file_, at.line, at.column}, std::move(key), std::move(found), std::move(allowed), std::move(nearest)});
  }

  /// What follows "heading." in a key.
  static std::optional<std::string> below(const std::string& key, std::string_view heading) {
    if (!key.starts_with(heading) || key.size() <= heading.size() || key[heading.size()] != '.') return std::nullopt;
    return key.substr(heading.size() + 1);
  }

  /// The one that "3" or "3.x" counts, from 1 on; `rest` is what follows.
  std::size_t index(const std::string& text, std::size_t count, const DocValue& at, const std::string& key,
                    std::string* rest = nullptr) const {
    std::size_t n = 0;
    const auto [end, wrong] = std::from_chars(text.data(), text.data() + text.size(), n);
    const std::string after(end, text.data() + text.size());
    const bool ends = after.empty() || (rest != nullptr && after.front() == '.');
    if (wrong != std::errc{} || !ends || n < 1 || n > count)
      refuse(at, key, fmt::format("'{}'", text),
             count == 0 ? "none: there are none" : fmt::format("a number from 1 to {}", count));
    if (rest != nullptr) *rest = after.empty() ? "" : after.substr(1);
    return n - 1;
  }
  double& part(std::vector<double>& values, const std::string& rest, const DocValue& at, const std::string& key) const {
    return values[index(rest, values.size(), at, key)];
  }

  void write(const DocValue& value, const Tunable& t, void* in, const std::string& key) {
    const double number = number_of(value, t, key);
    if (!t.forms.empty()) {
      const auto [met, fresh] = stated_.try_emplace({in, t.forms}, t.form, key);
      if (!fresh && met->second.first != t.form)
        refuse(value, key, fmt::format("{} beside it", met->second.second), std::string(t.forms));
    }
    try {
      t.write(in, number, tuning_.list().length_scale(tuning_.data()));
    } catch (const InputError& error) {
      refuse(value, key, error.fault().found, error.fault().allowed, error.fault().nearest);
    }
  }

  double number_of(const DocValue& value, const Tunable& t, const std::string& key) const {
    using Kind = DocValue::Kind;
    if (t.type == TunableType::toggle && value.kind == Kind::boolean) return value.truth ? 1 : 0;
    const bool number = t.type == TunableType::number || t.type == TunableType::whole;
    if (number && value.kind == Kind::number) return value.number;
    if (t.type != TunableType::choice || value.kind != Kind::text)
      refuse(value, key, value.shown(), (t.type == TunableType::number ? "a number, " : "") + t.allowed());
    try {
      return t.parse(value.text);
    } catch (const InputError& error) {
      refuse(value, key, error.fault().found, error.fault().allowed, error.fault().nearest);
    }
  }

  const std::vector<DocValue>& items(const DocValue& value, const std::string& key, std::size_t most,
                                     const char* what) const {
    if (value.kind != DocValue::Kind::list) refuse(value, key, value.shown(), what);
    if (value.items.size() > most)
      refuse(value, key, fmt::format("{} of them", value.items.size()), fmt::format("at most {}", most));
    return value.items;
  }

  void fill(const DocValue& value, const NumberList& l, std::vector<double>& values, const std::string& key) {
    std::vector<double> read(items(value, key, l.most, "a list of numbers").size());
    for (std::size_t i = 0; i < read.size(); ++i)
      write(value.items[i], l.each, &read[i], fmt::format("{}.{}", key, i + 1));
    values = std::move(read);
  }

  void fill(const DocValue& value, const PointList& c, std::vector<Curve::Point>& points, const std::string& key) {
    std::vector<Curve::Point> read(items(value, key, c.most, "a list of points, [x, y] each").size());
    for (std::size_t i = 0; i < read.size(); ++i) {
      const DocValue& pair = value.items[i];
      const std::string at = fmt::format("{}.{}", key, i + 1);
      if (pair.kind != DocValue::Kind::list || pair.items.size() != 2)
        refuse(pair, at, pair.shown(), "two numbers, [x, y]");
      write(pair.items[0], c.x, &read[i].x, at + ".x"), write(pair.items[1], c.y, &read[i].y, at + ".y");
    }
    points = std::move(read);
  }

  void write_point(const DocValue& value, const PointList& c, std::vector<Curve::Point>& points,
                   const std::string& rest, const std::string& key) {
    std::string axis;
    Curve::Point& point = points[index(rest, points.size(), value, key, &axis)];
    if (axis != "x" && axis != "y") refuse(value, key, fmt::format("'{}'", axis), "x or y");
    axis == "x" ? write(value, c.x, &point.x, key) : write(value, c.y, &point.y, key);
  }

  void apply_group(const DocValue& value, const std::string& key, const TunableGroup& g, void* in,
                   const std::string& path) {
    if (key == g.key && value.kind == DocValue::Kind::list) {  // [[axle]]: so many, and no others
      const std::size_t count = items(value, path + key, g.most, "").size();
      if (count < g.least) refuse(value, path + key, "none", fmt::format("{} at least", g.least));
      g.resize(in, count);
      for (std::size_t i = 0; i < count; ++i) apply_part(value.items[i], g, in, i, path + key);
      return;
    }
    if (key == g.key) {  // axle = { 2 = { radius = 0.3 } }: those that are, changed
      if (value.kind != DocValue::Kind::table)
        refuse(value, path + key, value.shown(), fmt::format("[[{}]], a table for each", g.key));
      for (const auto& [name, member] : value.members) apply_group(member, key + "." + name, g, in, path);
      return;
    }
    std::string rest;
    const std::size_t i = index(*below(key, g.key), g.count(in), value, path + key, &rest);
    if (rest.empty()) return apply_part(value, g, in, i, path + std::string(g.key));
    apply(value, rest, *g.parts, g.part(in, i), fmt::format("{}{}.{}.", path, g.key, i + 1));
  }

  void apply_part(const DocValue& value, const TunableGroup& g, void* in, std::size_t i, const std::string& key) {
    const std::string at = fmt::format("{}.{}", key, i + 1);
    if (value.kind != DocValue::Kind::table) refuse(value, at, value.shown(), "a table of tunables");
    for (const auto& [name, member] : value.members) apply(member, name, *g.parts, g.part(in, i), at + ".");
  }

  ActorTuning& tuning_;
  std::string file_;
  std::map<std::pair<void*, std::string_view>, std::pair<int, std::string>> stated_;
};

/// Where a tuning sets a key, which may stand in tables within tables or in one of several; none where it does not.
const DocValue* find_key(const DocValue& value, std::string_view key) {
  if (key.empty()) return &value;
  if (value.kind == DocValue::Kind::list) {
    std::size_t n = 0;
    const auto [end, wrong] = std::from_chars(key.data(), key.data() + key.size(), n);
    if (wrong != std::errc{} || n < 1 || n > value.items.size()) return &value;  // as near as it goes: a point's x
    const std::size_t used = static_cast<std::size_t>(end - key.data());
    return find_key(value.items[n - 1], key.substr(std::min(key.size(), used + 1)));
  }
  for (const auto& [name, member] : value.members) {
    if (name == key) return &member;
    if (key.starts_with(name + ".")) {
      if (const DocValue* found = find_key(member, key.substr(name.size() + 1))) return found;
    }
  }
  return nullptr;
}

}  // namespace

std::string as_listed(const LabKind& kind) {
  return fmt::format("a tunable, as listed by: jugend params {}", kind.name());
}

void apply_tunables(const DocValue& table, const std::string& file, ActorTuning& tuning) {
  TuningWriter writer(tuning, file);
  for (const auto& [name, value] : table.members) {  // ranges follow from it
    if (name == "length_scale") writer.apply(value, name, tuning.list(), tuning.data(), {});
  }
  for (const auto& [name, value] : table.members) writer.apply(value, name, tuning.list(), tuning.data(), {});
}

ActorTuning read_tuning(const std::filesystem::path& file, const LabKind& kind, const LabKinds& kinds) {
  DocValue document = read_document(file);
  TableReader reader(document, file.string());
  if (const auto found = reader.text("kind")) {
    const std::vector<std::string> names = kinds.names();
    if (!kind.reads_files_of(names[reader.choice("kind", *found, names)]))
      reader.refuse("kind", fmt::format("'{}'", *found),
                    fmt::format("\"{}\", as the actor that is tuned", kind.name()));
  }
  std::erase_if(document.members, [](const auto& member) { return member.first == "kind"; });
  ActorTuning tuning(kind);
  apply_tunables(document, file.string(), tuning);
  try {
    check(tuning);
  } catch (const InputError& error) {
    Fault fault = error.fault();
    const DocValue* set = find_key(document, fault.key);
    fault.place = {file.string(), set ? set->line : 1, set ? set->column : 1};
    throw InputError(fault);
  }
  return tuning;
}

namespace {

const DocValue* member_of(const DocValue& table, std::string_view key) {
  const auto at = std::ranges::find(table.members, key, &DocMember::first);
  return at == table.members.end() ? nullptr : &at->second;
}

}  // namespace

bool is_tuning(const std::filesystem::path& file) {
  std::error_code error;
  if (!std::filesystem::is_regular_file(file, error)) return false;
  const DocValue document = read_document(file);
  return member_of(document, "kind") != nullptr && member_of(document, "level") == nullptr;
}

ActorTuning read_tuning(const std::filesystem::path& file, const LabKinds& kinds) {
  const DocValue document = read_document(file);
  const DocValue* kind = member_of(document, "kind");
  if (kind == nullptr)
    throw InputError({{file.string(), 1, 1}, "kind", "nothing", "the kind of actor that is tuned", {}});
  return read_tuning(file, kinds.get(kind->text, {file.string(), kind->line, kind->column}, "kind"), kinds);
}

}  // namespace jugend
