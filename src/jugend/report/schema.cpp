#include <fmt/format.h>

#include <jugend/base/text.hpp>
#include <jugend/report/schema.hpp>
#include <jugend/report/table.hpp>
#include <nlohmann/json.hpp>

namespace jugend {
namespace {

using Json = nlohmann::ordered_json;
using Rows = std::vector<std::vector<std::string>>;

double rounded(double value) { return std::stod(as_text(value)); }  // degrees that went through radians

std::string heading_of(std::string_view key) {
  const auto dot = key.find('.');
  return std::string(dot == std::string_view::npos ? std::string_view{} : key.substr(0, dot));
}

/// Parts in the order in which they come, each with its rows.
struct Parts {
  std::vector<std::pair<std::string, Rows>> all;
  Rows& of(const std::string& heading) {
    for (auto& [name, rows] : all) {
      if (name == heading) return rows;
    }
    return all.emplace_back(heading, Rows{}).second;
  }
};

void add_rows(const Tunables& list, void* defaults, const std::string& under, Parts& parts) {
  for (const Tunable& t : list) {
    const std::string value = t.stated(defaults) ? t.shown(t.read(defaults)) : "-";
    std::string help(t.help);
    if (!t.forms.empty()) help += fmt::format(" ({})", t.forms);
    parts.of(under.empty() ? heading_of(t.key) : under).push_back({std::string(t.key), value, t.allowed(), help});
  }
  for (const NumberList& l : list.lists()) {
    std::string value;
    for (const double v : l.at(defaults)) value += (value.empty() ? "[" : ", ") + as_text(v);
    parts.of(heading_of(l.key))
        .push_back({std::string(l.key), value.empty() ? "[]" : value + "]",
                    fmt::format("up to {} numbers, {}", l.most, l.each.allowed()), std::string(l.help)});
  }
  for (const PointList& c : list.curves()) {
    std::string value;
    for (const Curve::Point& p : c.at(defaults))
      value += fmt::format("{}[{}, {}]", value.empty() ? "[" : ", ", as_text(p.x), as_text(p.y));
    parts.of(heading_of(c.key))
        .push_back({std::string(c.key), value.empty() ? "[]" : value + "]",
                    fmt::format("up to {} points, [{}, {}]", c.most, c.x_unit, c.y_unit), std::string(c.help)});
  }
  for (const TunableGroup& g : list.groups()) {
    if (g.count(defaults) > 0)
      add_rows(*g.parts, g.part(defaults, 0), fmt::format("[[{}]] {} to {}, {}", g.key, g.least, g.most, g.help),
               parts);
  }
}

Json schema_of(const Tunable& t, void* defaults) {
  Json property;
  const double value = t.read(defaults);
  switch (t.type) {
    case TunableType::toggle: property = {{"type", "boolean"}, {"default", value != 0}}; break;
    case TunableType::choice: property = {{"enum", t.names}, {"default", t.shown(value)}}; break;
    default:
      property = {{"type", t.type == TunableType::whole ? "integer" : "number"},
                  {"minimum", t.low},
                  {"maximum", t.high},
                  {"default", rounded(value)}};
  }
  property["description"] = t.unit == "1" ? std::string(t.help) : fmt::format("{} ({})", t.help, t.unit);
  return property;
}

/// Puts a property under its dotted key into the properties of an object, tables within tables.
void put(Json& object, std::string_view key, const Json& property) {
  const auto dot = key.find('.');
  object["type"] = "object";
  object["additionalProperties"] = false;
  Json& properties = object["properties"];
  if (dot == std::string_view::npos)
    properties[std::string(key)] = property;
  else
    put(properties[std::string(key.substr(0, dot))], key.substr(dot + 1), property);
}

void add_properties(const Tunables& list, void* defaults, Json& object) {
  for (const Tunable& t : list) put(object, t.key, schema_of(t, defaults));
  const auto one = [](const Tunable& t) { return Json{{"type", "number"}, {"minimum", t.low}, {"maximum", t.high}}; };
  for (const NumberList& l : list.lists())
    put(object, l.key, {{"type", "array"}, {"maxItems", l.most}, {"items", one(l.each)}, {"description", l.help}});
  for (const PointList& c : list.curves()) {
    const Json point = {{"type", "array"}, {"prefixItems", {one(c.x), one(c.y)}}, {"minItems", 2}, {"maxItems", 2}};
    put(object, c.key, {{"type", "array"}, {"maxItems", c.most}, {"items", point}, {"description", c.help}});
  }
  for (const TunableGroup& g : list.groups()) {
    Json part;
    if (g.count(defaults) > 0) add_properties(*g.parts, g.part(defaults, 0), part);
    put(object, g.key,
        {{"type", "array"}, {"minItems", g.least}, {"maxItems", g.most}, {"items", part}, {"description", g.help}});
  }
}

}  // namespace

std::string tunable_table(const Tunables& list, void* defaults) {
  Parts parts;
  add_rows(list, defaults, {}, parts);
  std::string out;
  for (const auto& [heading, lines] : parts.all) {
    if (!out.empty()) out += "\n";
    out += (heading.empty() ? "at the top" : heading.starts_with('[') ? heading : "[" + heading + "]") + "\n";
    const std::string text = aligned(lines, 4);
    for (std::size_t at = 0; at < text.size();) {
      const auto end = text.find('\n', at) + 1;
      out += "  " + text.substr(at, end - at);
      at = end;
    }
  }
  return out;
}

std::string tunable_json(const Tunables& list, void* defaults) {
  Json all = Json::array();
  for (const BoundTunable& b : all_tunables(list, defaults)) {
    const Tunable& t = *b.tunable;
    static constexpr const char* types[] = {"number", "whole", "toggle", "choice"};
    Json row = {{"key", b.key}, {"type", types[static_cast<int>(t.type)]}, {"unit", t.unit}};
    if (t.type == TunableType::choice)
      row["names"] = t.names;
    else if (t.type != TunableType::toggle)
      row["low"] = t.low, row["high"] = t.high;
    if (!b.stated())
      row["default"] = nullptr;
    else if (t.type == TunableType::toggle)
      row["default"] = b.read() != 0;
    else if (t.type == TunableType::choice)
      row["default"] = b.shown();
    else
      row["default"] = rounded(b.read());
    row["help"] = t.help;
    all.push_back(row);
  }
  return all.dump(1) + "\n";
}

std::string tunable_schema(const Tunables& list, void* defaults, const std::string& kind) {
  Json all = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
              {"title", kind + " tuning"},
              {"type", "object"},
              {"additionalProperties", false},
              {"properties", {{"kind", {{"const", kind}}}}}};
  add_properties(list, defaults, all);
  return all.dump(1) + "\n";
}

}  // namespace jugend
