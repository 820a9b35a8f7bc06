#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/report/table.hpp>
#include <map>
#include <nlohmann/json.hpp>

namespace jugend {
namespace {

struct Row {
  std::string actor, key, label, unit;
  std::vector<double> values;  // NaN where a run has no such gauge
};

std::vector<Row> matched(std::span<const RunRecord> runs) {
  std::vector<Row> rows, of_bodies;
  for (std::size_t r = 0; r < runs.size(); ++r) {
    for (const ActorTrace& actor : runs[r].trace.actors) {
      for (const Gauge& g : measure(actor)) {
        auto at =
            std::ranges::find_if(rows, [&](const Row& row) { return row.actor == actor.name && row.key == g.key; });
        if (at == rows.end()) {
          // A later run's gauge goes behind the last one of the same flight, or at the end of its actor's.
          const std::string flight = g.key.substr(0, g.key.find('.'));
          const auto belongs = [&](const Row& row) {
            return row.actor == actor.name && row.key.substr(0, row.key.find('.')) == flight;
          };
          const auto last = std::find_if(rows.rbegin(), rows.rend(), belongs);
          at = rows.insert(last.base() == rows.begin() ? rows.end() : last.base(),
                           Row{actor.name, g.key, g.label, g.unit, std::vector<double>(runs.size(), std::nan(""))});
        }
        at->values[r] = g.value;
      }
    }
    for (const BodyGauges& body : measure_bodies(runs[r].trace)) {
      const std::string name = body.count > 1 ? fmt::format("{} ({})", body.name, body.count) : body.name;
      for (const Gauge& g : body.gauges) {
        auto at =
            std::ranges::find_if(of_bodies, [&](const Row& row) { return row.actor == name && row.key == g.key; });
        if (at == of_bodies.end()) {
          of_bodies.push_back(
              {name, g.key, name + ": " + g.label, g.unit, std::vector<double>(runs.size(), std::nan(""))});
          at = of_bodies.end() - 1;
        }
        at->values[r] = g.value;
      }
    }
  }
  for (Row& row : of_bodies) {
    row.actor.clear();
    rows.push_back(std::move(row));
  }
  return rows;
}

std::string shown(double value) {
  if (std::isnan(value)) return "-";
  return fmt::format("{:.4f}", std::abs(value) < 5e-5 ? 0.0 : value);
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
  const bool several_actors = std::ranges::any_of(runs, [](const RunRecord& r) { return r.trace.actors.size() > 1; });
  std::vector<std::vector<std::string>> table;
  std::vector<std::string> head{"gauge", "unit"};
  for (const std::string& label : labels) head.push_back(runs.size() > 1 ? label : "value");
  if (runs.size() == 2) head.emplace_back("difference");
  table.push_back(head);
  for (const Row& row : matched(runs)) {
    std::vector<std::string> cells{several_actors && !row.actor.empty() ? row.actor + ": " + row.label : row.label,
                                   row.unit};
    for (const double v : row.values) cells.push_back(shown(v));
    if (runs.size() == 2) {
      const double difference = row.values[1] - row.values[0];
      cells.push_back(std::isnan(difference)        ? ""
                      : std::abs(difference) < 5e-5 ? "0"
                                                    : fmt::format("{:+.4f}", difference));
    }
    table.push_back(std::move(cells));
  }
  return aligned(table, 2);
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
