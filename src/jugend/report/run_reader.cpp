// A run's folder read back, as strictly as a trial: rows, columns, ranges, and that all of it belongs together.
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <jugend/base/error.hpp>
#include <jugend/base/input_file.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/report/detail/output_files.hpp>
#include <jugend/report/detail/run_columns.hpp>
#include <jugend/report/run_folder.hpp>
#include <nlohmann/json.hpp>
#include <sstream>

namespace jugend {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

std::vector<Outline> outlines_from(const Json& j) {
  std::vector<Outline> all;
  for (const Json& o : j) {
    Outline& outline = all.emplace_back();
    outline.closed = o.at("closed").get<bool>();
    for (const Json& p : o.at("points")) {
      const Point2 point{p.at(0).get<double>(), p.at(1).get<double>()};
      if (!std::isfinite(point.x) || !std::isfinite(point.y)) throw std::runtime_error("an outline that is not finite");
      outline.points.push_back(point);
    }
    if (outline.points.empty()) throw std::runtime_error("an outline without points");
  }
  return all;
}
Vec3 vec3_from(const Json& j) { return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()}; }

/// Is a file's text as its summary knows it?
void check_sum(const fs::path& file, const std::string& name, const std::string& text, const Json& sums) {
  const auto known = sums.find(name);
  if (known == sums.end() || !known->is_string() || known->get<std::string>() != sum_of(text))
    refuse_file(file, "another text than its summary.json knows", "files of one run, as jugend run wrote them");
}

/// Reads rows of a table under `head`, and gives its text. A row that cannot be read is refused with its line.
std::string read_rows(const fs::path& file, const std::string& head,
                      const std::function<void(const std::vector<std::string>&)>& read) {
  const std::string text = read_input_file(file, budget::run_bytes, "a run folder written by jugend run");
  std::istringstream in(text);
  std::uint32_t number = 0;
  for (std::string line; std::getline(in, line);) {
    if (++number == 1) {
      if (line != head)
        throw InputError({{file.string(), 1, 1}, {}, "another head", "a trace written by jugend run", {}});
      continue;
    }
    try {
      read(csv::cells_of(line));
    } catch (const std::exception& wrong) {
      throw InputError({{file.string(), number, 1}, {}, wrong.what(), "a trace written by jugend run", {}});
    }
  }
  return text;
}

ActorTrace& actor_named(Trace& trace, const std::string& name) {
  const auto actor = std::ranges::find(trace.actors, name, &ActorTrace::name);
  if (actor == trace.actors.end()) throw std::runtime_error("unknown actor '" + name + "'");
  return *actor;
}

/// A row at the start and one after each tick, their times in order.
template <class Rows>
void check_rows(const fs::path& file, const std::string& name, const Rows& rows, const Trace& trace) {
  const auto wanted = static_cast<std::size_t>(std::max(1.0, std::round(trace.duration * trace.hz))) + 1;
  if (rows.size() != wanted)
    refuse_file(file, fmt::format("{} rows of '{}'", rows.size(), name), fmt::format("{}, one a tick", wanted));
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (std::abs(rows[i].time - static_cast<double>(i) / trace.hz) > 1e-6)
      refuse_file(file, fmt::format("{} s in row {} of '{}'", as_text(rows[i].time), i, name), "ticks in order");
  }
}

void read_traces(const fs::path& folder, const Json& sums, Trace& trace) {
  const fs::path file = FileSet::current(folder, "trace.csv");
  const std::string text =
      read_rows(file, "actor," + csv::head(trace_columns()), [&](const std::vector<std::string>& cells) {
        csv::read_row(cells, 1, actor_named(trace, cells[0]).rows.emplace_back(), trace_columns());
      });
  for (const ActorTrace& actor : trace.actors) check_rows(file, actor.name, actor.rows, trace);
  check_sum(file, "trace.csv", text, sums);
}

void read_parts(const fs::path& folder, const Json& sums, Trace& trace) {
  for (const std::string& name : part_files(trace)) {
    const fs::path file = FileSet::current(folder, name + ".csv");
    std::string head = "actor,row,part";
    for (const ActorTrace& actor : trace.actors) {
      if (actor.parts == 0 || name != actor.tuning.kind().parts().file) continue;
      for (const PartColumn& c : actor.tuning.kind().parts().columns) head += std::string(",") + c.key;
      break;
    }
    const std::string text = read_rows(file, head, [&](const std::vector<std::string>& cells) {
      ActorTrace& actor = actor_named(trace, cells[0]);
      if (cells.size() != 3 + actor.columns) throw std::runtime_error(fmt::format("{} cells in a row", cells.size()));
      for (std::size_t c = 3; c < cells.size(); ++c) actor.part_values.push_back(csv::number_in(cells[c]));
    });
    for (const ActorTrace& actor : trace.actors) {
      const bool here = actor.parts > 0 && name == actor.tuning.kind().parts().file;
      if (here && actor.part_values.size() != actor.parts * actor.columns * actor.rows.size())
        refuse_file(file, fmt::format("{} numbers of '{}'", actor.part_values.size(), actor.name),
                    "a row for each part and tick");
    }
    check_sum(file, name + ".csv", text, sums);
  }
}

void read_bodies(const fs::path& folder, const Json& sums, Trace& trace) {
  if (trace.bodies.empty()) return;
  const fs::path file = FileSet::current(folder, "bodies.csv");
  std::size_t next = 0;  // rows come tick by tick, each body in its turn
  const std::string text =
      read_rows(file, "body," + csv::head(body_columns()), [&](const std::vector<std::string>& cells) {
        BodyTrace& body = trace.bodies[next++ % trace.bodies.size()];
        if (body.name != cells[0]) throw std::runtime_error("body '" + cells[0] + "' out of turn");
        csv::read_row(cells, 1, body.rows.emplace_back(), body_columns());
      });
  for (const BodyTrace& body : trace.bodies) check_rows(file, body.name, body.rows, trace);
  check_sum(file, "bodies.csv", text, sums);
}

double finite(const Json& j) {
  const double value = j.get<double>();
  if (!std::isfinite(value)) throw std::runtime_error("a number that is not finite");
  return value;
}
std::string plain(const Json& j) {
  std::string text = j.get<std::string>();
  if (has_control_characters(text)) throw std::runtime_error("a text with control characters");
  return text;
}

/// A tuning as a file would say it.
DocValue document_of(const Json& j) {
  DocValue value;
  if (j.is_object()) {
    for (const auto& [key, member] : j.items()) value.members.push_back({key, document_of(member)});
  } else if (j.is_array()) {
    value.kind = DocValue::Kind::list;
    for (const Json& item : j) value.items.push_back(document_of(item));
  } else if (j.is_boolean()) {
    value.kind = DocValue::Kind::boolean, value.truth = j.get<bool>();
  } else if (j.is_string()) {
    value.kind = DocValue::Kind::text, value.text = j.get<std::string>();
  } else {
    value.kind = DocValue::Kind::number, value.number = j.get<double>();
  }
  return value;
}

ActorTrace actor_from(const Json& a, const LabKinds& kinds) {
  const LabKind* kind = kinds.find(a.at("kind").get<std::string>());
  if (kind == nullptr) throw std::runtime_error("an actor of no known kind");
  ActorTrace actor{plain(a.at("name")), ActorTuning(*kind)};
  apply_tunables(document_of(a.at("tuning")), {}, actor.tuning);
  actor.parts = a.at("parts").get<std::size_t>();
  if (actor.parts > 64 || (actor.parts > 0 && kind->parts().file == nullptr))
    throw std::runtime_error(fmt::format("{} parts of '{}'", actor.parts, actor.name));
  actor.columns = kind->parts().columns.size();
  actor.remarks = a.at("remarks").get<std::vector<std::string>>();
  for (const Json& c : a.at("drive"))
    actor.drive.push_back({c.at("gear").get<int>(), c.at("speed_force").get<std::vector<std::array<double, 2>>>()});
  for (const Json& e : a.at("events")) {
    actor.events.push_back({e.at("time_s").get<double>(),
                            csv::kind_from<WalkerEventKind>(e.at("event").get<std::string>(), walker_event_kinds),
                            vec3_from(e.at("position")), e.at("value").get<double>(),
                            e.at("detail").get<std::string>()});
  }
  return actor;
}

}  // namespace

RunRecord read_run(const fs::path& folder, const LabKinds& kinds) {
  const fs::path summary_file = FileSet::current(folder, "summary.json");
  std::error_code error;
  if (!fs::exists(summary_file, error) || !fs::exists(FileSet::current(folder, "trace.csv"), error))
    refuse_file(folder, "no summary.json and trace.csv", "a folder written by jugend run");
  const std::string text = read_input_file(summary_file, budget::run_bytes, "a summary written by jugend run");
  check_json_depth(text, summary_file);
  RunRecord record;
  Trace& trace = record.trace;
  Json sums;
  try {
    const Json all = Json::parse(text);
    record.trial_file = plain(all.at("trial"));
    trace.title = plain(all.at("title"));
    trace.settings = all.at("settings").get<std::vector<std::string>>();
    trace.hz = finite(all.at("hz")), trace.duration = finite(all.at("duration_s"));
    if (!(trace.hz >= 1 && trace.hz <= 10000)) throw std::runtime_error(fmt::format("hz {}", as_text(trace.hz)));
    if (!(trace.duration > 0 && trace.duration * trace.hz <= static_cast<double>(budget::rows)))
      throw std::runtime_error(fmt::format("duration_s {}", as_text(trace.duration)));
    const auto hash = all.at("state_hash").get<std::string>();
    const auto [end, wrong] = std::from_chars(hash.data(), hash.data() + hash.size(), trace.state_hash, 16);
    if (hash.size() != 16 || wrong != std::errc{} || end != hash.data() + hash.size())
      throw std::runtime_error(fmt::format("state_hash '{}'", hash));
    trace.remarks = all.at("remarks").get<std::vector<std::string>>();
    for (const Json& a : all.at("actors")) {
      ActorTrace actor = actor_from(a, kinds);
      if (std::ranges::find(trace.actors, actor.name, &ActorTrace::name) != trace.actors.end())
        throw std::runtime_error(fmt::format("actor '{}' a second time", actor.name));
      trace.actors.push_back(std::move(actor));
    }
    record.outlines = outlines_from(all.at("outlines"));
    record.top_outlines = outlines_from(all.at("top_outlines"));
    record.water = outlines_from(all.at("water"));
    for (const Json& b : all.at("bodies")) trace.bodies.push_back({plain(b.at("name")), finite(b.at("mass")), {}});
    for (const Json& p : all.at("pictures")) {
      trace.pictures.push_back({finite(p.at("time_s")), outlines_from(p.at("side")), outlines_from(p.at("top")),
                                outlines_from(p.at("side_forces")), outlines_from(p.at("top_forces"))});
    }
    sums = all.at("sums");
    if (trace.actors.empty() && trace.bodies.empty()) throw std::runtime_error("neither actors nor bodies");
  } catch (const std::exception& wrong) {
    refuse_file(summary_file, wrong.what(), "a summary written by jugend run");
  }
  read_traces(folder, sums, trace);
  read_parts(folder, sums, trace);
  read_bodies(folder, sums, trace);
  return record;
}

}  // namespace jugend
