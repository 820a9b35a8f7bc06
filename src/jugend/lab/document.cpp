#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/input_file.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/lab/document.hpp>

namespace jugend {
namespace {

DocValue convert(const toml::node& node) {
  DocValue value;
  value.line = node.source().begin.line;
  value.column = node.source().begin.column;
  if (const auto* table = node.as_table()) {
    value.kind = DocValue::Kind::table;
    for (const auto& [key, member] : *table) {
      DocValue converted = convert(member);
      if (key.source().begin.line > 0) {  // a key is a better place to point at than what stands behind it
        converted.line = key.source().begin.line;
        converted.column = key.source().begin.column;
      }
      value.members.push_back({std::string(key.str()), std::move(converted)});
    }
  } else if (const auto* array = node.as_array()) {
    value.kind = DocValue::Kind::list;
    for (const auto& item : *array) value.items.push_back(convert(item));
  } else if (const auto* text = node.as_string()) {
    value.kind = DocValue::Kind::text;
    value.text = text->get();
  } else if (const auto* truth = node.as_boolean()) {
    value.kind = DocValue::Kind::boolean;
    value.truth = truth->get();
  } else if (const auto* whole = node.as_integer()) {
    value.kind = DocValue::Kind::number;
    value.number = static_cast<double>(whole->get());
  } else if (const auto* real = node.as_floating_point()) {
    value.kind = DocValue::Kind::number;
    value.number = real->get();
  } else {
    value.kind = DocValue::Kind::other;
  }
  return value;
}

}  // namespace

std::string DocValue::shown() const {
  switch (kind) {
    case Kind::boolean: return truth ? "true" : "false";
    case Kind::number: return as_text(number);
    case Kind::text: return fmt::format("'{}'", text);
    case Kind::list: return fmt::format("a list of {}", items.size());
    case Kind::table: return "a table";
    case Kind::other: break;
  }
  return "a date or time";
}

namespace {

/// The parser and what is made of its answer call themselves for each part of a dotted key and each bracket.
void check_toml_depth(const std::string& text, const std::string& file) {
  std::size_t dots = 0, deep = 0;
  std::uint32_t line = 1;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '\n') ++line;
    if (c == '#') {
      i = std::min(text.find('\n', i), text.size()) - 1;
    } else if (c == '"' || c == '\'') {  // a text, perhaps over several lines
      const std::string mark(text.compare(i, 3, std::string(3, c)) == 0 ? 3 : 1, c);
      std::size_t end = i + mark.size();
      while (end < text.size() && text.compare(end, mark.size(), mark) != 0 && (mark.size() == 3 || text[end] != '\n'))
        end += c == '"' && text[end] == '\\' ? 2 : 1;
      line += static_cast<std::uint32_t>(
          std::count(text.begin() + static_cast<std::ptrdiff_t>(i),
                     text.begin() + static_cast<std::ptrdiff_t>(std::min(end, text.size())), '\n'));
      i = std::min(end + mark.size(), text.size()) - 1;
    } else if (c == '.') {
      ++dots;
    } else if (c == '[' || c == '{') {
      ++deep, dots = 0;
    } else if (c == ']' || c == '}') {
      deep -= deep > 0 ? 1 : 0, dots = 0;
    } else if (c == '=' || c == ',' || c == '\n') {
      dots = 0;
    }
    if (dots > budget::depth || deep > budget::depth)
      throw InputError({{file, line, 1},
                        "syntax",
                        dots > budget::depth ? "a dotted key of many parts" : "brackets in one another",
                        fmt::format("at most {} deep", budget::depth),
                        {}});
  }
}

}  // namespace

DocValue read_document(const std::filesystem::path& file) {
  const std::string text = read_input_file(file, budget::text_bytes, "a TOML file");
  check_toml_depth(text, file.string());
  try {
    return convert(toml::parse(text, file.string()));
  } catch (const toml::parse_error& wrong) {
    const auto& at = wrong.source().begin;
    throw InputError({{file.string(), at.line, at.column}, "syntax", std::string(wrong.description()), "TOML 1.0", {}});
  }
}

DocValue value_of(const std::string& text) {
  if (text.find('\n') == std::string::npos) {
    check_toml_depth(text, "--set");
    try {
      DocValue document = convert(toml::parse("value = " + text));
      if (document.members.size() == 1) return std::move(document.members.front().second);
    } catch (const toml::parse_error&) {  // not a value: a word
    }
  }
  DocValue word;
  word.kind = DocValue::Kind::text, word.text = text;
  return word;
}

TableReader::TableReader(const DocValue& table, std::string file, std::string path)
    : table_(table), file_(std::move(file)), path_(std::move(path)) {}

const DocValue* TableReader::find(const std::string& key) {
  if (std::find(known_.begin(), known_.end(), key) == known_.end()) known_.push_back(key);  // some are read twice
  for (const auto& [name, value] : table_.members) {
    if (name == key) return &value;
  }
  return nullptr;
}

Place TableReader::place_of(const std::string& key) const {
  for (const auto& [name, value] : table_.members) {
    if (name == key) return {file_, value.line, value.column};
  }
  return {file_, std::max(1u, table_.line), std::max(1u, table_.column)};
}

void TableReader::refuse(const std::string& key, std::string found, std::string allowed, std::string nearest) const {
  throw InputError({place_of(key), path_of(key), std::move(found), std::move(allowed), std::move(nearest)});
}

void TableReader::missing(const std::string& key, const char* what) const { refuse(key, "nothing", what); }

void TableReader::wrong_type(const std::string& key, const DocValue& value, const char* wanted) const {
  refuse(key, value.shown(), wanted);
}

double TableReader::checked(const std::string& key, const DocValue& value, const Limits& limits) const {
  const bool open_low = limits.low == Limits{}.low, open_high = limits.high == Limits{}.high;
  const std::string unit = *limits.unit ? fmt::format(" {}", limits.unit) : "";
  const std::string allowed = open_low && open_high ? "a finite number"
                              : open_high           ? fmt::format("{} or more{}", as_text(limits.low), unit)
                                          : fmt::format("{} to {}{}", as_text(limits.low), as_text(limits.high), unit);
  if (value.kind != DocValue::Kind::number)
    refuse(key, value.shown(), allowed == "a finite number" ? "a number" : "a number, " + allowed);
  if (!(value.number >= limits.low && value.number <= limits.high)) refuse(key, as_text(value.number), allowed);
  return value.number;
}

std::optional<double> TableReader::number(const std::string& key, const Limits& limits) {
  const DocValue* value = find(key);
  if (!value) return std::nullopt;
  return checked(key, *value, limits);
}

std::optional<int> TableReader::whole(const std::string& key, const Limits& limits) {
  const auto found = number(key, limits);
  if (!found) return std::nullopt;
  if (*found != std::floor(*found))
    refuse(key, fmt::format("{}", *found), fmt::format("a whole number, {} to {}", limits.low, limits.high));
  return static_cast<int>(*found);
}

std::optional<bool> TableReader::truth(const std::string& key) {
  const DocValue* value = find(key);
  if (!value) return std::nullopt;
  if (value->kind != DocValue::Kind::boolean) wrong_type(key, *value, "true or false");
  return value->truth;
}

std::optional<std::string> TableReader::text(const std::string& key) {
  const DocValue* value = find(key);
  if (!value) return std::nullopt;
  if (value->kind != DocValue::Kind::text) wrong_type(key, *value, "a text in quotes");
  if (has_control_characters(value->text)) refuse(key, "a text with control characters", "letters, digits and signs");
  return value->text;
}

std::optional<std::string> TableReader::name(const std::string& key) {
  const auto found = text(key);
  if (found && found->size() > budget::name_bytes)
    refuse(key, fmt::format("{} characters", found->size()), fmt::format("at most {}", budget::name_bytes));
  if (found && found->find_first_of(",\"") != std::string::npos)
    refuse(key, fmt::format("'{}'", *found), "a name without commas and quotes");
  return found;
}

std::optional<std::vector<double>> TableReader::numbers(const std::string& key, std::size_t count,
                                                        const Limits& limits) {
  const DocValue* value = find(key);
  if (!value) return std::nullopt;
  const std::string wanted = fmt::format("a list of {} numbers", count);
  if (value->kind != DocValue::Kind::list || value->items.size() != count) wrong_type(key, *value, wanted.c_str());
  std::vector<double> all;
  for (const DocValue& item : value->items) all.push_back(checked(key, item, limits));
  return all;
}

std::optional<Vec3> TableReader::vec3(const std::string& key, const Limits& limits) {
  const auto all = numbers(key, 3, limits);
  if (!all) return std::nullopt;
  return Vec3{(*all)[0], (*all)[1], (*all)[2]};
}

std::vector<Vec3> TableReader::places(const std::string& key) {
  const DocValue* list = find(key);
  if (list == nullptr || list->kind != DocValue::Kind::list)
    refuse(key, list == nullptr ? "nothing" : list->shown(), "a list of places, [[0, 0, 0], [3, 0, 0]]");
  std::vector<Vec3> all;
  for (const DocValue& item : list->items) {
    bool fits = item.kind == DocValue::Kind::list && item.items.size() == 3;
    for (std::size_t i = 0; fits && i < 3; ++i) fits = item.items[i].kind == DocValue::Kind::number;
    if (!fits) refuse(key, item.shown(), "three lengths for each point");
    all.push_back({item.items[0].number, item.items[1].number, item.items[2].number});
  }
  return all;
}

const DocValue* TableReader::table(const std::string& key) {
  const DocValue* value = find(key);
  if (value && value->kind != DocValue::Kind::table) wrong_type(key, *value, "a table");
  return value;
}

std::vector<const DocValue*> TableReader::tables(const std::string& key) {
  const DocValue* value = find(key);
  if (!value) return {};
  std::vector<const DocValue*> all;
  const bool list = value->kind == DocValue::Kind::list;
  if (!list) wrong_type(key, *value, "tables, each under a [[heading]]");
  for (const DocValue& item : value->items) {
    if (item.kind != DocValue::Kind::table) wrong_type(key, item, "tables, each under a [[heading]]");
    all.push_back(&item);
  }
  return all;
}

std::size_t TableReader::choice(const std::string& key, const std::string& found,
                                const std::vector<std::string>& names) const {
  const auto at = std::find(names.begin(), names.end(), found);
  if (at == names.end())
    refuse(key, fmt::format("'{}'", found), fmt::format("{}", fmt::join(names, ", ")), nearest_name(found, names));
  return static_cast<std::size_t>(at - names.begin());
}

void TableReader::rethrow_at(const std::string& key, const InputError& error) const {
  Fault fault = error.fault();
  if (fault.place.line == 0) fault.place = place_of(key);
  fault.key = fault.key.empty() || fault.key == key ? path_of(key) : path_of(key) + ": " + fault.key;
  throw InputError(fault);
}

void TableReader::finish() const {
  for (const auto& [name, value] : table_.members) {
    if (std::find(known_.begin(), known_.end(), name) != known_.end()) continue;
    refuse(name, "a key that is not known here", fmt::format("{}", fmt::join(known_, ", ")),
           nearest_name(name, known_));
  }
}

}  // namespace jugend
