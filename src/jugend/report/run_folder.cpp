#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/report/detail/run_columns.hpp>
#include <jugend/report/run_folder.hpp>
#include <nlohmann/json.hpp>
#include <sstream>

namespace jugend {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

[[noreturn]] void refuse(const fs::path& file, std::string found, std::string allowed) {
  throw InputError({{file.string()}, {}, std::move(found), std::move(allowed), {}});
}

Json to_json(const Vec3& v) { return Json::array({v.x, v.y, v.z}); }
Json to_json(const std::vector<Outline>& outlines) {
  Json all = Json::array();
  for (const Outline& o : outlines) {
    Json points = Json::array();
    for (const Point2& p : o.points) points.push_back({p.x, p.y});
    all.push_back({{"closed", o.closed}, {"points", points}});
  }
  return all;
}
std::vector<Outline> outlines_from(const Json& j) {
  std::vector<Outline> all;
  for (const Json& o : j) {
    Outline& outline = all.emplace_back();
    outline.closed = o.at("closed").get<bool>();
    for (const Json& p : o.at("points")) outline.points.push_back({p.at(0).get<double>(), p.at(1).get<double>()});
  }
  return all;
}
Vec3 vec3_from(const Json& j) { return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()}; }

}  // namespace

RunRecord record_run(const Trial& trial, const std::function<void(double)>& progress) {
  RunRecord record{trial.file.string(), run_trial(trial, progress), {}, {}, {}};
  const double plane = trial.actors.empty() ? 0 : trial.actors.front().start.z;
  for (const BodyPlan& body : trial.level.bodies) {
    if (body.kind != BodyKind::fixed || body.sensor) continue;
    section(body.shape, body.pose, plane, record.outlines);
    silhouette(body.shape, body.pose, View::top, record.top_outlines);
  }
  for (const Pool& pool : trial.level.pools) section(Box{pool.half_extents}, pool.pose, plane, record.water);
  return record;
}

std::string trace_csv(const Trace& trace) {
  std::string text = "actor," + csv::head(trace_columns()) + "\n";
  for (std::size_t i = 0; !trace.actors.empty() && i < trace.actors.front().rows.size(); ++i) {
    for (const ActorTrace& actor : trace.actors) {
      text += actor.name;
      csv::add_row(text, actor.rows[i], trace_columns());
      text += '\n';
    }
  }
  return text;
}

std::string bodies_csv(const Trace& trace) {
  std::string text = "body," + csv::head(body_columns()) + "\n";
  for (std::size_t i = 0; !trace.bodies.empty() && i < trace.bodies.front().rows.size(); ++i) {
    for (const BodyTrace& body : trace.bodies) {
      text += body.name;
      if (body.name.empty()) text += ',';
      csv::add_row(text, body.rows[i], body_columns());
      text += '\n';
    }
  }
  return text;
}

/// The files of parts that a trace's actors have: "wheels", "rotors".
std::vector<std::string> part_files(const Trace& trace) {
  std::vector<std::string> files;
  for (const ActorTrace& actor : trace.actors) {
    const char* file = actor.parts > 0 ? actor.tuning.kind().parts().file : nullptr;
    if (file != nullptr && std::ranges::find(files, file) == files.end()) files.emplace_back(file);
  }
  return files;
}

/// Of all actors whose parts go into that file.
std::string parts_csv(const Trace& trace, const std::string& file) {
  std::string text;
  for (const ActorTrace& actor : trace.actors) {
    const PartSheet sheet = actor.tuning.kind().parts();
    if (actor.parts == 0 || file != sheet.file) continue;
    if (text.empty()) {
      text = "actor,row,part";
      for (const PartColumn& c : sheet.columns) text += std::string(",") + c.key;
      text += '\n';
    }
    for (std::size_t i = 0; i * actor.columns < actor.part_values.size(); ++i) {
      fmt::format_to(std::back_inserter(text), "{},{},{}", actor.name, i / actor.parts, i % actor.parts);
      for (std::size_t c = 0; c < actor.columns; ++c)
        fmt::format_to(std::back_inserter(text), ",{}", actor.part_values[i * actor.columns + c]);
      text += '\n';
    }
  }
  return text;
}

/// What a tuning states, under the keys of its files.
Json tuning_json(const Tunables& list, void* tuning) {
  Json all = Json::object();
  for (const Tunable& t : list) {
    if (!t.stated(tuning)) continue;
    const double value = t.read(tuning);
    Json& to = all[std::string(t.key)];
    if (t.type == TunableType::toggle)
      to = value != 0;
    else if (t.type == TunableType::choice)
      to = t.shown(value);
    else
      to = value;
  }
  for (const NumberList& l : list.lists()) all[std::string(l.key)] = l.at(tuning);
  for (const PointList& c : list.curves()) {
    Json points = Json::array();
    for (const Curve::Point& p : c.at(tuning)) points.push_back({p.x, p.y});
    all[std::string(c.key)] = points;
  }
  for (const TunableGroup& g : list.groups()) {
    Json parts = Json::array();
    for (std::size_t i = 0; i < g.count(tuning); ++i) parts.push_back(tuning_json(*g.parts, g.part(tuning, i)));
    all[std::string(g.key)] = parts;
  }
  return all;
}

std::string summary_json(const RunRecord& record) {
  const Trace& trace = record.trace;
  Json actors = Json::array();
  for (const ActorTrace& actor : trace.actors) {
    Json tuning, gauges, events = Json::array();
    tuning = tuning_json(actor.tuning.list(), const_cast<void*>(actor.tuning.data()));
    for (const Gauge& g : measure(actor)) gauges[g.key] = {{"value", g.value}, {"unit", g.unit}};
    for (const TraceEvent& e : actor.events) {
      events.push_back({{"time_s", e.time},
                        {"event", name_of(e.kind)},
                        {"position", to_json(e.position)},
                        {"value", e.value},
                        {"detail", e.detail}});
    }
    Json drive = Json::array();
    for (const DriveCurve& c : actor.drive) drive.push_back({{"gear", c.gear}, {"speed_force", c.points}});
    actors.push_back({{"name", actor.name},
                      {"kind", actor.tuning.kind().name()},
                      {"tuning", tuning},
                      {"parts", actor.parts},
                      {"drive", drive},
                      {"remarks", actor.remarks},
                      {"gauges", gauges},
                      {"events", events}});
  }
  Json bodies = Json::array(), pictures = Json::array();
  for (const BodyTrace& body : trace.bodies) bodies.push_back({{"name", body.name}, {"mass", body.mass}});
  for (const Picture& p : trace.pictures) {
    pictures.push_back({{"time_s", p.time},
                        {"side", to_json(p.side)},
                        {"top", to_json(p.top)},
                        {"side_forces", to_json(p.side_forces)},
                        {"top_forces", to_json(p.top_forces)}});
  }
  Json body_gauges;
  for (const BodyGauges& b : measure_bodies(trace)) {
    for (const Gauge& g : b.gauges) body_gauges[b.name][g.key] = {{"value", g.value}, {"unit", g.unit}};
  }
  const Json all = {{"title", trace.title},
                    {"trial", record.trial_file},
                    {"settings", trace.settings},
                    {"hz", trace.hz},
                    {"duration_s", trace.duration},
                    {"state_hash", fmt::format("{:016x}", trace.state_hash)},
                    {"actors", actors},
                    {"bodies", bodies},
                    {"body_gauges", body_gauges},
                    {"outlines", to_json(record.outlines)},
                    {"top_outlines", to_json(record.top_outlines)},
                    {"water", to_json(record.water)},
                    {"pictures", pictures}};
  return all.dump(1) + "\n";
}

void write_file(const fs::path& file, const std::string& text) {
  std::error_code error;
  if (file.has_parent_path()) fs::create_directories(file.parent_path(), error);
  const fs::path beside = file.string() + fmt::format(".{}.part", ::getpid());
  bool written = false;
  {
    std::ofstream out(beside, std::ios::binary);
    out << text;
    out.flush();
    written = out.good();
  }
  if (written) fs::rename(beside, file, error);
  if (!written || error) {
    std::error_code ignored;
    fs::remove(beside, ignored);
    refuse(file, "a place that cannot be written", "a file in a folder that can be written");
  }
}

std::vector<fs::path> write_run(const RunRecord& record, const fs::path& folder) {
  std::error_code error;
  const bool there = fs::exists(folder, error);
  if (there && (!fs::is_directory(folder, error) ||
                (!fs::is_empty(folder, error) && !fs::exists(folder / "summary.json", error)))) {
    refuse(folder, "something that is not a run", "a new folder, an empty one, or one with an earlier run");
  }
  fs::create_directories(folder, error);
  if (error) refuse(folder, "a place that cannot be written", "a folder that can be written");
  std::vector<fs::path> written;
  const auto write = [&](const std::string& name, const std::string& text) {
    write_file(written.emplace_back(folder / name), text);
  };
  write("trace.csv", trace_csv(record.trace));
  fs::remove(folder / "bodies.csv", error);
  for (const auto& kind : standard_kinds().all()) {
    if (const char* file = kind->parts().file) fs::remove(folder / (std::string(file) + ".csv"), error);
  }
  for (const std::string& file : part_files(record.trace)) write(file + ".csv", parts_csv(record.trace, file));
  if (!record.trace.bodies.empty()) write("bodies.csv", bodies_csv(record.trace));
  write("summary.json", summary_json(record));
  return written;
}

namespace {

/// Reads a file of rows, the head left out. A row that cannot be read is refused with its line.
void read_rows(const fs::path& file, const std::function<void(const std::vector<std::string>&)>& read) {
  std::ifstream in(file);
  if (!in) refuse(file, "a file that is missing", "a run folder written by jugend run");
  std::uint32_t number = 0;
  for (std::string line; std::getline(in, line);) {
    if (++number == 1) continue;
    try {
      read(csv::cells_of(line));
    } catch (const std::exception& wrong) {
      throw InputError({{file.string(), number, 1}, {}, wrong.what(), "a trace written by jugend run", {}});
    }
  }
}

ActorTrace& actor_named(Trace& trace, const std::string& name) {
  const auto actor = std::ranges::find(trace.actors, name, &ActorTrace::name);
  if (actor == trace.actors.end()) throw std::runtime_error("unknown actor '" + name + "'");
  return *actor;
}

void read_traces(const fs::path& folder, Trace& trace) {
  const fs::path file = folder / "trace.csv";
  read_rows(file, [&](const std::vector<std::string>& cells) {
    csv::read_row(cells, 1, actor_named(trace, cells[0]).rows.emplace_back(), trace_columns());
  });
  if (!trace.actors.empty() && trace.actors.front().rows.empty())
    refuse(file, "no rows", "a trace written by jugend run");
}

void read_parts(const fs::path& folder, Trace& trace) {
  for (const std::string& name : part_files(trace)) {
    const fs::path file = folder / (name + ".csv");
    read_rows(file, [&](const std::vector<std::string>& cells) {
      ActorTrace& actor = actor_named(trace, cells[0]);
      if (cells.size() != 3 + actor.columns) throw std::runtime_error(fmt::format("{} cells in a row", cells.size()));
      for (std::size_t c = 3; c < cells.size(); ++c) actor.part_values.push_back(csv::number_in(cells[c]));
    });
    for (const ActorTrace& actor : trace.actors) {
      const bool here = actor.parts > 0 && name == actor.tuning.kind().parts().file;
      if (here && actor.part_values.size() != actor.parts * actor.columns * actor.rows.size())
        refuse(file, fmt::format("{} numbers of '{}'", actor.part_values.size(), actor.name),
               "a row for each part and tick");
    }
  }
}

void read_bodies(const fs::path& folder, Trace& trace) {
  if (trace.bodies.empty()) return;
  const fs::path file = folder / "bodies.csv";
  std::size_t next = 0;  // rows come tick by tick, each body in its turn
  read_rows(file, [&](const std::vector<std::string>& cells) {
    BodyTrace& body = trace.bodies[next++ % trace.bodies.size()];
    if (body.name != cells[0]) throw std::runtime_error("body '" + cells[0] + "' out of turn");
    csv::read_row(cells, 1, body.rows.emplace_back(), body_columns());
  });
  if (trace.bodies.back().rows.empty()) refuse(file, "no rows", "a trace written by jugend run");
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
  ActorTrace actor{a.at("name").get<std::string>(), ActorTuning(*kind)};
  apply_tunables(document_of(a.at("tuning")), {}, actor.tuning);
  actor.parts = a.at("parts").get<std::size_t>();
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
  const fs::path summary_file = folder / "summary.json";
  std::ifstream summary(summary_file);
  if (!summary || !fs::exists(folder / "trace.csv"))
    refuse(folder, "no summary.json and trace.csv", "a folder written by jugend run");
  RunRecord record;
  try {
    const Json all = Json::parse(summary);
    record.trial_file = all.at("trial").get<std::string>();
    Trace& trace = record.trace;
    trace.title = all.at("title").get<std::string>();
    trace.settings = all.at("settings").get<std::vector<std::string>>();
    trace.hz = all.at("hz").get<double>();
    trace.duration = all.at("duration_s").get<double>();
    trace.state_hash = std::stoull(all.at("state_hash").get<std::string>(), nullptr, 16);
    for (const Json& a : all.at("actors")) trace.actors.push_back(actor_from(a, kinds));
    record.outlines = outlines_from(all.at("outlines"));
    record.top_outlines = outlines_from(all.at("top_outlines"));
    record.water = outlines_from(all.at("water"));
    for (const Json& b : all.at("bodies"))
      trace.bodies.push_back({b.at("name").get<std::string>(), b.at("mass").get<double>(), {}});
    for (const Json& p : all.at("pictures")) {
      trace.pictures.push_back({p.at("time_s").get<double>(), outlines_from(p.at("side")), outlines_from(p.at("top")),
                                outlines_from(p.at("side_forces")), outlines_from(p.at("top_forces"))});
    }
  } catch (const std::exception& wrong) {
    refuse(summary_file, wrong.what(), "a summary written by jugend run");
  }
  read_traces(folder, record.trace);
  read_parts(folder, record.trace);
  read_bodies(folder, record.trace);
  return record;
}

}  // namespace jugend
