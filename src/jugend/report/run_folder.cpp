// A run as files: tables, and a summary that knows their check sums.
#include <fmt/format.h>

#include <algorithm>
#include <jugend/base/error.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/report/detail/output_files.hpp>
#include <jugend/report/detail/run_columns.hpp>
#include <jugend/report/run_folder.hpp>
#include <nlohmann/json.hpp>

namespace jugend {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

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
      text += body.name + ',';  // a body may have no name
      csv::add_row(text, body.rows[i], body_columns());
      text += '\n';
    }
  }
  return text;
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

/// With the check sums of the tables that belong to it.
std::string summary_json(const RunRecord& record, const Json& sums) {
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
                    {"sums", sums},
                    {"remarks", trace.remarks},
                    {"actors", actors},
                    {"bodies", bodies},
                    {"body_gauges", body_gauges},
                    {"outlines", to_json(record.outlines)},
                    {"top_outlines", to_json(record.top_outlines)},
                    {"water", to_json(record.water)},
                    {"pictures", pictures}};
  return all.dump(1) + "\n";
}

std::vector<fs::path> write_run(const RunRecord& record, const fs::path& folder) {
  std::error_code error;
  const bool there = fs::exists(folder, error);
  const auto left_over = [&] {  // of a run that was killed
    for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
      if (!at->path().filename().string().starts_with(FileSet::beginning)) return false;
    }
    return true;
  };
  if (there && (!fs::is_directory(folder, error) || (!left_over() && !fs::exists(folder / "summary.json", error) &&
                                                     !fs::exists(folder / "trace.csv", error)))) {
    refuse_file(folder, "something that is not a run", "a new folder, an empty one, or one with an earlier run");
  }
  std::vector<std::pair<std::string, std::string>> files{{"trace.csv", trace_csv(record.trace)}};
  for (const std::string& file : part_files(record.trace))
    files.emplace_back(file + ".csv", parts_csv(record.trace, file));
  if (!record.trace.bodies.empty()) files.emplace_back("bodies.csv", bodies_csv(record.trace));
  Json sums = Json::object();
  for (const auto& [name, text] : files) sums[name] = sum_of(text);
  files.emplace_back("summary.json", summary_json(record, sums));
  FileSet set(folder);
  for (const auto& [name, text] : files) set.add(name, text);
  const std::vector<fs::path> written = set.place();
  // What an earlier run had, and this one has not.
  std::vector<std::string> tables{"bodies"};
  for (const auto& kind : standard_kinds().all()) {
    if (const char* file = kind->parts().file) tables.emplace_back(file);
  }
  for (const std::string& table : tables) {
    if (!sums.contains(table + ".csv")) fs::remove(folder / (table + ".csv"), error);
  }
  return written;
}

}  // namespace jugend
