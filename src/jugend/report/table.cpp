#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/report/table.hpp>
#include <map>
#include <nlohmann/json.hpp>

namespace jugend {
namespace {

struct Row {
  std::string actor;
  Gauge gauge;                 // its value is that of nobody
  std::vector<double> values;  // NaN where a run has no such gauge
};

bool same_gauge(const Row& row, const std::string& actor, const Gauge& g) {
  return row.actor == actor && row.gauge.key == g.key && row.gauge.row == g.row;
}

/// The gauges of all runs, each once; a later run's go behind those of the same row, or at the end of their actor's.
std::vector<Row> matched(std::span<const RunRecord> runs) {
  std::vector<Row> rows;
  const auto put = [&](std::size_t run, const std::string& actor, const Gauge& g) {
    auto at = std::ranges::find_if(rows, [&](const Row& row) { return same_gauge(row, actor, g); });
    if (at == rows.end()) {
      const auto last = std::find_if(rows.rbegin(), rows.rend(), [&](const Row& row) {
        return row.actor == actor && row.gauge.table == g.table && row.gauge.row == g.row;
      });
      at = rows.insert(last.base() == rows.begin() ? rows.end() : last.base(),
                       Row{actor, g, std::vector<double>(runs.size(), std::nan(""))});
    }
    at->values[run] = g.value;
  };
  for (std::size_t r = 0; r < runs.size(); ++r) {
    for (const ActorTrace& actor : runs[r].trace.actors) {
      for (const Gauge& g : measure(actor)) put(r, actor.name, g);
    }
  }
  for (std::size_t r = 0; r < runs.size(); ++r) {
    for (const BodyGauges& body : measure_bodies(runs[r].trace)) {
      for (const Gauge& g : body.gauges) put(r, "", g);
    }
  }
  return rows;
}

std::string shown(double value) {
  if (std::isnan(value)) return "-";
  return fmt::format("{:.4f}", std::abs(value) < 5e-5 ? 0.0 : value);
}

std::string shown_difference(double value) {
  return std::isnan(value) ? "" : std::abs(value) < 5e-5 ? "0" : fmt::format("{:+.4f}", value);
}

/// Has it something to say in any of these?
bool says_something(const Gauge& gauge, std::span<const double> values) {
  return gauge.nothing_below == 0 ||
         std::ranges::any_of(values, [&](double v) { return std::abs(v) >= gauge.nothing_below; });
}

std::string with_actor(const Row& row, const std::string& text, bool several) {
  return several && !row.actor.empty() ? row.actor + ": " + text : text;
}

/// One line each.
std::string single_gauges(const std::vector<Row>& all, const std::vector<std::string>& labels, bool several) {
  std::vector<std::vector<std::string>> lines{{"gauge", "unit"}};
  for (const std::string& label : labels) lines[0].push_back(labels.size() > 1 ? label : "value");
  if (labels.size() == 2) lines[0].emplace_back("difference");
  for (const Row& row : all) {
    if (!row.gauge.table.empty() || !says_something(row.gauge, row.values)) continue;
    std::vector<std::string> cells{with_actor(row, row.gauge.label, several), row.gauge.unit};
    for (const double v : row.values) cells.push_back(shown(v));
    if (labels.size() == 2) cells.push_back(shown_difference(row.values[1] - row.values[0]));
    lines.push_back(std::move(cells));
  }
  return lines.size() > 1 ? aligned(lines, 2) : "";
}

/// Of what happens several times: a line for each time and run, a column for each gauge.
std::string gauges_by_time(const std::string& table, const std::vector<Row>& all,
                           const std::vector<std::string>& labels, bool several) {
  std::vector<const Row*> rows;
  std::vector<std::string> names;
  for (const Row& row : all) {
    if (row.gauge.table != table) continue;
    rows.push_back(&row);
    const std::string name = with_actor(row, row.gauge.row, several);
    if (std::ranges::find(names, name) == names.end()) names.push_back(name);
  }
  std::vector<std::vector<std::string>> lines{{table}, {""}};
  if (labels.size() > 1) lines[0].emplace_back("run"), lines[1].emplace_back();
  const std::size_t left = lines[0].size(), each = labels.size() + (labels.size() == 2 ? 1 : 0);
  for (const std::string& name : names) {
    for (std::size_t r = 0; r < each; ++r) {
      lines.push_back({r == 0 ? name : ""});
      if (labels.size() > 1) lines.back().push_back(r < labels.size() ? labels[r] : "difference");
    }
  }
  for (const GaugeInfo& column : gauges_in_tables()) {
    std::vector<const Row*> of_column(names.size());
    bool says = false;
    for (const Row* row : rows) {
      if (row->gauge.label != column.label || !column.key.starts_with(table + ".")) continue;
      const std::string name = with_actor(*row, row->gauge.row, several);
      of_column[static_cast<std::size_t>(std::ranges::find(names, name) - names.begin())] = row;
      says |= says_something(row->gauge, row->values);
    }
    if (!says) continue;
    lines[0].emplace_back(column.label), lines[1].emplace_back(column.unit == "1" ? "" : column.unit);
    for (std::size_t n = 0; n < names.size(); ++n) {
      for (std::size_t r = 0; r < each; ++r) {
        const Row* row = of_column[n];
        std::string& cell = lines[2 + n * each + r].emplace_back("-");
        if (row == nullptr) continue;
        cell = r < labels.size() ? shown(row->values[r]) : shown_difference(row->values[1] - row->values[0]);
      }
    }
  }
  return aligned(lines, left);
}

}  // namespace

std::string aligned(const std::vector<std::vector<std::string>>& rows, std::size_t left) {
  std::vector<std::size_t> widths;
  for (const auto& row : rows) {
    widths.resize(std::max(widths.size(), row.size()), 0);
    for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], row[i].size());
  }
  std::string text;
  for (const auto& row : rows) {
    std::string line;
    for (std::size_t i = 0; i < row.size(); ++i) {
      line += i < left ? fmt::format("{:<{}}  ", row[i], widths[i]) : fmt::format("{:>{}}  ", row[i], widths[i]);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    text += line + "\n";
  }
  return text;
}

std::vector<std::string> run_labels(std::span<const RunRecord> runs) {
  std::vector<std::string> labels;
  for (const RunRecord& run : runs) {
    std::string label = fmt::format("{}", fmt::join(run.trace.settings, ", "));
    // Runs of several trials are told by their trials' names.
    const bool other = std::ranges::any_of(runs, [&](const RunRecord& r) { return r.trial_file != run.trial_file; });
    if (other) label = std::filesystem::path(run.trial_file).stem().string() + (label.empty() ? "" : ", " + label);
    if (label.empty()) label = runs.size() > 1 ? "as filed" : run.trace.title;
    if (std::ranges::find(labels, label) != labels.end()) label += fmt::format(" ({})", labels.size() + 1);
    labels.push_back(label);
  }
  return labels;
}

std::string gauge_table(std::span<const RunRecord> runs) {
  const std::vector<std::string> labels = run_labels(runs);
  const bool several = std::ranges::any_of(runs, [](const RunRecord& r) { return r.trace.actors.size() > 1; });
  const std::vector<Row> all = matched(runs);
  std::string text = single_gauges(all, labels, several);
  std::vector<std::string> told;
  for (const GaugeInfo& info : gauges_in_tables()) {
    const std::string table(info.key.substr(0, info.key.find('.')));
    const bool there = std::ranges::any_of(all, [&](const Row& row) { return row.gauge.table == table; });
    if (!there || std::ranges::find(told, table) != told.end()) continue;
    told.push_back(table);
    if (!text.empty()) text += '\n';
    text += gauges_by_time(table, all, labels, several);
  }
  return text;
}

std::string gauge_json(std::span<const RunRecord> runs) {
  const std::vector<std::string> labels = run_labels(runs);
  nlohmann::ordered_json all = nlohmann::ordered_json::array();
  for (std::size_t r = 0; r < runs.size(); ++r) {
    nlohmann::ordered_json actors;
    for (const ActorTrace& actor : runs[r].trace.actors) {
      for (const Gauge& g : measure(actor)) actors[actor.name][g.key] = g.value;
    }
    for (const BodyGauges& body : measure_bodies(runs[r].trace)) {
      for (const Gauge& g : body.gauges) actors[body.name][g.key] = g.value;
    }
    all.push_back({{"label", labels[r]},
                   {"hz", runs[r].trace.hz},
                   {"settings", runs[r].trace.settings},
                   {"gauges", actors},
                   {"state_hash", fmt::format("{:016x}", runs[r].trace.state_hash)}});
  }
  return nlohmann::ordered_json{{"runs", all}}.dump(1) + "\n";
}

namespace {

/// A heading, and the gauges under it.
using GaugeGroups = std::vector<std::pair<std::string, std::vector<GaugeInfo>>>;
GaugeGroups gauge_groups(const LabKind& kind) {
  GaugeGroups groups{{"of every actor", gauges_of_all_motion()}};
  if (const std::vector<GaugeInfo> own = kind.gauges(); !own.empty())
    groups.push_back({fmt::format("of kind {}", kind.name()), own});
  for (const GaugeInfo& info : gauges_in_tables()) {
    const std::string table(info.key.substr(0, info.key.find('.')));
    if (groups.back().first != table) groups.push_back({table, {}});
    groups.back().second.push_back(info);
  }
  return groups;
}

}  // namespace

std::string gauge_list(const LabKind& kind) {
  std::string text;
  for (const auto& [heading, gauges] : gauge_groups(kind)) {
    std::vector<std::vector<std::string>> lines;
    for (const GaugeInfo& g : gauges)
      lines.push_back({fmt::format("  {}", g.label), std::string(g.unit), std::string(g.definition)});
    text += fmt::format("{}{}\n{}", text.empty() ? "" : "\n", heading, aligned(lines, 3));
  }
  return text;
}

std::string gauge_list_json(const LabKind& kind) {
  nlohmann::ordered_json all = nlohmann::ordered_json::array();
  for (const auto& [heading, gauges] : gauge_groups(kind)) {
    for (const GaugeInfo& g : gauges)
      all.push_back({{"key", g.key}, {"label", g.label}, {"unit", g.unit}, {"definition", g.definition}});
  }
  return all.dump(1) + "\n";
}

std::vector<std::string> remarks(std::span<const RunRecord> runs) {
  std::vector<std::string> all;
  const auto add = [&](const std::string& line) {
    if (std::ranges::find(all, line) == all.end()) all.push_back(line);
  };
  for (const RunRecord& run : runs) {
    for (const ActorTrace& actor : run.trace.actors) {
      for (const std::string& said : actor.remarks) add(fmt::format("{}: {}", actor.name, said));
    }
    for (const std::string& said : run.trace.remarks) add(said);
  }
  return all;
}

std::vector<std::string> tuning_differences(std::span<const RunRecord> runs) {
  std::vector<std::string> lines;
  for (const ActorTrace& actor : runs.front().trace.actors) {
    // What each run has under each key; what is not stated there, or there is less of, is "-".
    std::vector<std::pair<std::string, std::string>> order;  // key, unit
    std::vector<std::map<std::string, std::string>> values;
    for (const RunRecord& run : runs) {
      const auto same = std::ranges::find(run.trace.actors, actor.name, &ActorTrace::name);
      if (same == run.trace.actors.end() || &same->tuning.kind() != &actor.tuning.kind()) break;
      auto& mine = values.emplace_back();
      ActorTuning tuning = same->tuning;
      for (const BoundTunable& t : tuning.all()) {
        if (std::ranges::find(order, t.key, &std::pair<std::string, std::string>::first) == order.end())
          order.emplace_back(t.key, t.tunable->unit);
        if (t.stated()) mine[t.key] = t.shown();
      }
    }
    if (values.size() < runs.size()) continue;  // another kind, or nobody of that name: not a changed number
    for (const auto& [key, unit] : order) {
      std::vector<std::string> row;
      for (const auto& mine : values) row.push_back(mine.contains(key) ? mine.at(key) : "-");
      if (std::ranges::all_of(row, [&](const std::string& v) { return v == row.front(); })) continue;
      lines.push_back(fmt::format("{} {}: {}", actor.name, key, fmt::join(row, " -> ")));
      if (unit != "1") lines.back() += " " + unit;
    }
  }
  return lines;
}

}  // namespace jugend
