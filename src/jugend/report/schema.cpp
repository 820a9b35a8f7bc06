#include <fmt/format.h>

#include <jugend/report/schema.hpp>
#include <jugend/report/table.hpp>
#include <nlohmann/json.hpp>

namespace jugend {
namespace {

using Json = nlohmann::ordered_json;

double rounded(double value) { return std::stod(as_text(value)); }  // degrees that went through radians

}  // namespace

std::string tunable_table(TunableList list, const void* defaults) {
  std::vector<std::vector<std::string>> rows{{"key", "default", "unit", "range", "what it is"}};
  bool more_axles = false;
  for (const Tunable& t : list) {
    // Two axles stand for all.
    if (t.key.starts_with("axle_") && t.key[5] > '2' && t.key[5] <= '9') {
      more_axles = true;
      continue;
    }
    rows.push_back({std::string(t.key), as_text(t.read(defaults)), std::string(t.unit),
                    as_text(t.low) + " to " + as_text(t.high), std::string(t.help)});
  }
  return aligned(rows, 5) + (more_axles ? "axle_3 to axle_9 likewise\n" : "");
}

std::string tunable_json(TunableList list, const void* defaults) {
  Json all = Json::array();
  for (const Tunable& t : list) {
    all.push_back({{"key", t.key},
                   {"unit", t.unit},
                   {"low", t.low},
                   {"high", t.high},
                   {"default", rounded(t.read(defaults))},
                   {"help", t.help}});
  }
  return all.dump(1) + "\n";
}

std::string tunable_schema(TunableList list, const void* defaults, const std::string& kind) {
  Json properties = {{"kind", {{"const", kind}}}};
  for (const Tunable& t : list) {
    const auto dot = t.key.find('.');
    const Json property = {{"type", "number"},
                           {"minimum", t.low},
                           {"maximum", t.high},
                           {"default", rounded(t.read(defaults))},
                           {"description", fmt::format("{} ({})", t.help, t.unit)}};
    if (dot == std::string_view::npos) {
      properties[std::string(t.key)] = property;
      continue;
    }
    Json& group = properties[std::string(t.key.substr(0, dot))];
    group["type"] = "object";
    group["additionalProperties"] = false;
    group["properties"][std::string(t.key.substr(dot + 1))] = property;
  }
  const Json all = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                    {"title", kind + " tuning"},
                    {"type", "object"},
                    {"additionalProperties", false},
                    {"properties", properties}};
  return all.dump(1) + "\n";
}

}  // namespace jugend
