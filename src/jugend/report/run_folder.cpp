#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
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

constexpr const char* csv_header =
    "time_s,actor,x_m,y_m,z_m,vx_m_s,vy_m_s,vz_m_s,mode,on_ground,slope_deg,run_ahead,run_right,jump_held,jump_presses,"
    "dash_held,dash_presses,launch_held,launch_presses,crouch_held,crouch_presses,facing_x,facing_y,facing_z,control,"
    "ride_slip_m_s,up_x,up_y,up_z,aside\n";
constexpr std::size_t csv_columns = 30;

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

template <class Kind>
Kind kind_from(const std::string& name, int count) {
  for (int k = 0; k < count; ++k) {
    if (name == name_of(static_cast<Kind>(k))) return static_cast<Kind>(k);
  }
  throw std::runtime_error("unknown name '" + name + "'");
}

std::vector<std::string> cells_of(const std::string& line, std::size_t count) {
  std::vector<std::string> cells;
  std::istringstream in(line);
  for (std::string cell; std::getline(in, cell, ',');) cells.push_back(cell);
  if (cells.size() != count) throw std::runtime_error(fmt::format("{} cells in a row", cells.size()));
  return cells;
}

double number_in(const std::vector<std::string>& cells, std::size_t i) {
  double value = 0;
  const char* end = cells[i].data() + cells[i].size();
  if (std::from_chars(cells[i].data(), end, value).ptr != end)
    throw std::runtime_error("'" + cells[i] + "' for a number");
  return value;
}

void read_csv_row(const std::string& line, std::vector<ActorTrace>& actors) {
  const std::vector<std::string> cells = cells_of(line, csv_columns);
  const auto number = [&cells](std::size_t i) { return number_in(cells, i); };
  for (ActorTrace& actor : actors) {
    if (actor.name != cells[1]) continue;
    TraceRow row{number(0),
                 {number(2), number(3), number(4)},
                 {number(5), number(6), number(7)},
                 kind_from<WalkerMode>(cells[8], walker_modes),
                 number(9) != 0,
                 number(10) * radians_per_degree,
                 number(11),
                 number(12)};
    for (std::size_t k = 0; k < key_count; ++k) {
      row.held[k] = number(13 + 2 * k) != 0;
      row.presses[k] = static_cast<std::uint32_t>(number(14 + 2 * k));
    }
    row.facing = {number(21), number(22), number(23)};
    row.control = number(24), row.ride_slip = number(25);
    row.up = {number(26), number(27), number(28)}, row.aside = number(29);
    actor.rows.push_back(row);
    return;
  }
  throw std::runtime_error("unknown actor '" + cells[1] + "'");
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
  std::string text = csv_header;
  for (std::size_t i = 0; !trace.actors.empty() && i < trace.actors.front().rows.size(); ++i) {
    for (const ActorTrace& actor : trace.actors) {
      const TraceRow& r = actor.rows[i];
      const auto out = std::back_inserter(text);
      fmt::format_to(out, "{},{},{},{},{},{},{},{},{},{},{},{},{}", r.time, actor.name, r.position.x, r.position.y,
                     r.position.z, r.velocity.x, r.velocity.y, r.velocity.z, name_of(r.mode),
                     static_cast<int>(r.on_ground), r.slope / radians_per_degree, r.run_ahead, r.run_right);
      for (std::size_t k = 0; k < key_count; ++k)
        fmt::format_to(out, ",{},{}", static_cast<int>(r.held[k]), r.presses[k]);
      fmt::format_to(out, ",{},{},{},{},{},{},{},{},{}\n", r.facing.x, r.facing.y, r.facing.z, r.control, r.ride_slip,
                     r.up.x, r.up.y, r.up.z, r.aside);
    }
  }
  return text;
}

std::string bodies_csv(const Trace& trace) {
  std::string text = "time_s,body,x_m,y_m,z_m,qw,qx,qy,qz,vx_m_s,vy_m_s,vz_m_s,wx_rad_s,wy_rad_s,wz_rad_s,asleep\n";
  for (std::size_t i = 0; !trace.bodies.empty() && i < trace.bodies.front().rows.size(); ++i) {
    for (const BodyTrace& body : trace.bodies) {
      const BodyRow& r = body.rows[i];
      const Vec3 &p = r.pose.position, &v = r.velocity, &w = r.spin;
      const Quat& q = r.pose.orientation;
      fmt::format_to(std::back_inserter(text), "{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", r.time, body.name,
                     p.x, p.y, p.z, q.w, q.x, q.y, q.z, v.x, v.y, v.z, w.x, w.y, w.z, static_cast<int>(r.asleep));
    }
  }
  return text;
}

std::string parts_csv(const Trace& trace) {
  std::string text = "actor,row,part,travel_m,load_n,slip,slip_angle_rad,turns,along_n\n";
  for (const ActorTrace& actor : trace.actors) {
    for (std::size_t i = 0; i < actor.part_rows.size(); ++i) {
      const PartRow& p = actor.part_rows[i];
      fmt::format_to(std::back_inserter(text), "{},{},{},{},{},{},{},{},{}\n", actor.name, i / actor.parts,
                     i % actor.parts, p.travel, p.load, p.slip, p.slip_angle, p.turns, p.along);
    }
  }
  return text;
}

std::string summary_json(const RunRecord& record) {
  const Trace& trace = record.trace;
  Json actors = Json::array();
  for (const ActorTrace& actor : trace.actors) {
    Json tuning, gauges, events = Json::array();
    for (const Tunable& t : actor.tuning.list()) tuning[std::string(t.key)] = t.read(actor.tuning.data());
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
                      {"kind", actor_kinds()[static_cast<std::size_t>(actor.tuning.kind)]},
                      {"tuning", tuning},
                      {"parts", actor.parts},
                      {"drive", drive},
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

void write_run(const RunRecord& record, const fs::path& folder) {
  std::error_code error;
  const bool there = fs::exists(folder, error);
  if (there && (!fs::is_directory(folder, error) ||
                (!fs::is_empty(folder, error) && !fs::exists(folder / "summary.json", error)))) {
    refuse(folder, "something that is not a run", "a new folder, an empty one, or one with an earlier run");
  }
  fs::create_directories(folder, error);
  if (error) refuse(folder, "a place that cannot be written", "a folder that can be written");
  write_file(folder / "trace.csv", trace_csv(record.trace));
  fs::remove(folder / "bodies.csv", error);
  fs::remove(folder / "parts.csv", error);
  if (has_parts(record.trace)) write_file(folder / "parts.csv", parts_csv(record.trace));
  if (!record.trace.bodies.empty()) write_file(folder / "bodies.csv", bodies_csv(record.trace));
  write_file(folder / "summary.json", summary_json(record));
}

RunRecord read_run(const fs::path& folder) {
  const fs::path summary_file = folder / "summary.json", trace_file = folder / "trace.csv";
  std::ifstream summary(summary_file), rows(trace_file);
  if (!summary || !rows) refuse(folder, "no summary.json and trace.csv", "a folder written by jugend run");
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
    for (const Json& a : all.at("actors")) {
      ActorTrace& actor = trace.actors.emplace_back();
      actor.name = a.at("name").get<std::string>();
      const auto kind = std::ranges::find(actor_kinds(), a.at("kind").get<std::string>());
      if (kind == actor_kinds().end()) throw std::runtime_error("an actor of no known kind");
      actor.tuning.kind = static_cast<ActorKind>(kind - actor_kinds().begin());
      for (const auto& [key, value] : a.at("tuning").items())
        get_tunable(actor.tuning.list(), key).write(actor.tuning.data(), value.get<double>());
      actor.parts = a.at("parts").get<std::size_t>();
      for (const Json& c : a.at("drive"))
        actor.drive.push_back({c.at("gear").get<int>(), c.at("speed_force").get<std::vector<std::array<double, 2>>>()});
      for (const Json& e : a.at("events")) {
        actor.events.push_back({e.at("time_s").get<double>(),
                                kind_from<WalkerEventKind>(e.at("event").get<std::string>(), walker_event_kinds),
                                vec3_from(e.at("position")), e.at("value").get<double>(),
                                e.at("detail").get<std::string>()});
      }
    }
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
  const auto read_rows = [](std::istream& in, const fs::path& file, auto&& read) {
    std::uint32_t number = 0;
    for (std::string line; std::getline(in, line);) {
      if (++number == 1) continue;
      try {
        read(line);
      } catch (const std::exception& wrong) {
        throw InputError({{file.string(), number, 1}, {}, wrong.what(), "a trace written by jugend run", {}});
      }
    }
  };
  read_rows(rows, trace_file, [&](const std::string& line) { read_csv_row(line, record.trace.actors); });
  if (!record.trace.actors.empty() && record.trace.actors.front().rows.empty())
    refuse(trace_file, "no rows", "a trace written by jugend run");
  if (has_parts(record.trace)) {
    const fs::path parts_file = folder / "parts.csv";
    std::ifstream parts(parts_file);
    read_rows(parts, parts_file, [&](const std::string& line) {
      const std::vector<std::string> cells = cells_of(line, 9);
      const auto actor = std::ranges::find(record.trace.actors, cells[0], &ActorTrace::name);
      if (actor == record.trace.actors.end()) throw std::runtime_error("unknown actor '" + cells[0] + "'");
      const auto number = [&](std::size_t i) { return number_in(cells, i); };
      actor->part_rows.push_back({number(3), number(4), number(5), number(6), number(7), number(8)});
    });
    for (const ActorTrace& actor : record.trace.actors) {
      if (actor.part_rows.size() != actor.parts * actor.rows.size())
        refuse(parts_file, fmt::format("{} rows of '{}'", actor.part_rows.size(), actor.name),
               "a row for each wheel or rotor and tick");
    }
  }
  if (!record.trace.bodies.empty()) {
    const fs::path bodies_file = folder / "bodies.csv";
    std::ifstream bodies(bodies_file);
    std::size_t next = 0;  // rows come tick by tick, each body in its turn
    read_rows(bodies, bodies_file, [&](const std::string& line) {
      const std::vector<std::string> cells = cells_of(line, 16);
      const auto number = [&](std::size_t i) { return number_in(cells, i); };
      BodyTrace& body = record.trace.bodies[next++ % record.trace.bodies.size()];
      if (body.name != cells[1]) throw std::runtime_error("body '" + cells[1] + "' out of turn");
      body.rows.push_back({number(0),
                           {{number(2), number(3), number(4)}, {number(5), number(6), number(7), number(8)}},
                           {number(9), number(10), number(11)},
                           {number(12), number(13), number(14)},
                           number(15) != 0});
    });
    if (record.trace.bodies.back().rows.empty()) refuse(bodies_file, "no rows", "a trace written by jugend run");
  }
  return record;
}

}  // namespace jugend
