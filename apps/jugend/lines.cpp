#include "lines.hpp"

#include <fmt/format.h>

#include <jugend/report/table.hpp>
#include <nlohmann/json.hpp>
#include <string>

namespace jugend::app {

void print_lines(const std::vector<Line>& lines, bool json) {
  if (json) {
    nlohmann::ordered_json all;
    for (const Line& l : lines) all[l.key] = l.value;
    fmt::print("{}\n", all.dump(1));
    return;
  }
  std::vector<std::vector<std::string>> rows;
  for (const Line& l : lines) rows.push_back({l.label, fmt::format("{:.4f}", l.value), l.unit});
  std::vector<std::vector<std::string>> table{{"size", "unit", "value"}};
  for (const auto& r : rows) table.push_back({r[0], r[2], r[1]});
  fmt::print("{}", aligned(table, 2));
}

}  // namespace jugend::app
