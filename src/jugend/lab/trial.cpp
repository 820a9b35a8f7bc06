#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/document.hpp>
#include <jugend/lab/trial.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/motion/guidance/path.hpp>

namespace jugend {
namespace {

const Limits hz_limits{1, 10000, "Hz"};
const Limits route_speed_limits{0.01, 1000, "m/s"};
const Limits duration_limits{0.001, 3600, "s"};
constexpr auto most_ticks = static_cast<double>(budget::rows);

/// The body of the level that an actor drives.
void read_driven_body(TableReader& reader, const Level& level, TrialActor& actor) {
  const bool rolls = actor.tuning.kind().stands() == LabKind::Stands::on_a_ball;
  std::vector<std::string> names;
  for (const BodyPlan& b : level.bodies) names.push_back(b.name);
  const std::string body = reader.required(
      "body", reader.text("body"), rolls ? "the name of the ball that it rolls" : "the name of the body that it leads");
  actor.body = reader.choice("body", body, names);
  const BodyPlan& driven = level.bodies[actor.body];
  const auto* sphere = std::get_if<Sphere>(&driven.shape);
  if (driven.kind != BodyKind::dynamic || (rolls && sphere == nullptr)) {
    const std::string wanted = rolls ? "dynamic sphere" : "dynamic body";
    reader.refuse("body", fmt::format("'{}', which is no {}", body, wanted), "a " + wanted + " of the level");
  }
  actor.start = driven.pose.position;
  if (rolls) {  // the ball is as large as it is
    const double radius = sphere->radius;
    const Tunables& list = actor.tuning.list();
    if (const Tunable* t = list.find("radius"))
      t->write(actor.tuning.data(), radius, list.length_scale(actor.tuning.data()));
    actor.start -= Vec3{0, radius, 0};
  }
  if (const DocValue* start = reader.find("start"))
    reader.refuse("start", start->shown(), "none: it is where its body is");
  if (const DocValue* v = reader.find("velocity")) reader.refuse("velocity", v->shown(), "none: its body has one");
}

void read_route(TableReader& reader, const LabKinds& kinds, TrialActor& actor) {
  const DocValue* found = reader.table("route");
  if (found == nullptr) return;
  const auto goes = [](const LabKind& kind) {
    return kind.follow(Path(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}}, true, false), 1) != nullptr;
  };
  if (!goes(actor.tuning.kind())) {
    std::vector<std::string_view> known;
    for (const auto& kind : kinds.all()) {
      if (goes(*kind)) known.push_back(kind->name());
    }
    reader.refuse("route", fmt::format("one for a {}", actor.tuning.kind().name()),
                  fmt::format("a route of a kind that goes by itself: {}", fmt::join(known, ", ")));
  }
  TableReader route(*found, reader.file(), reader.path_of("route."));
  actor.route = route.places("points");
  try {
    Path(actor.route, true, true);
  } catch (const InputError& error) {
    route.rethrow_at("points", error);
  }
  actor.route_speed = route.number("speed", route_speed_limits).value_or(4);
  actor.route_closed = route.truth("closed").value_or(true);
  route.finish();
}

void read_start(TableReader& reader, const Level& level, TrialActor& actor) {
  const DocValue* start = reader.find("start");
  if (start != nullptr && start->kind == DocValue::Kind::text) {
    std::vector<std::string> names;
    for (const auto& [name, place] : level.markers) names.push_back(name);
    if (names.empty()) reader.refuse("start", start->shown(), "three lengths: the level has no markers");
    actor.start = level.markers[reader.choice("start", start->text, names)].second;
  } else {
    actor.start = reader.required("start", reader.vec3("start", {-1e6, 1e6, "m"}), "three lengths, or a marker's name");
  }
  actor.velocity = reader.vec3("velocity", {-1000, 1000, "m/s"});
}

ActorTuning read_actor_tuning(TableReader& reader, const std::filesystem::path& folder, const LabKinds& kinds) {
  const std::vector<std::string> names = kinds.names();
  const LabKind& kind = *kinds.all()[reader.choice("kind", reader.text("kind").value_or(names.front()), names)];
  ActorTuning read(kind);
  if (const auto tuning = reader.text("tuning")) {
    const auto file = folder / *tuning;
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error))
      reader.refuse("tuning", fmt::format("'{}', which is no file", *tuning), "a tuning file");
    read = read_tuning(file, kind, kinds);
  }
  if (const DocValue* set = reader.table("set")) {
    apply_tunables(*set, reader.file(), read);
    try {
      check(read);
    } catch (const InputError& error) {
      reader.rethrow_at("set", error);
    }
  }
  return read;
}

TrialActor read_actor(TableReader reader, const std::filesystem::path& folder, const Level& level,
                      const LabKinds& kinds) {
  const std::string name = reader.required("name", reader.text("name"), "a text");
  const bool plain = !name.empty() && name.find_first_of(".=,\" \t\n") == std::string::npos;
  if (!plain) reader.refuse("name", fmt::format("'{}'", name), "a name without spaces, dots, commas, quotes or =");
  if (name.size() > budget::name_bytes)
    reader.refuse("name", fmt::format("{} characters", name.size()), fmt::format("at most {}", budget::name_bytes));
  TrialActor actor{name, read_actor_tuning(reader, folder, kinds), {}, {}, {1, 0, 0}, 0, {}, 4, true};
  if (actor.tuning.kind().stands() == LabKind::Stands::on_its_feet)
    read_start(reader, level, actor);
  else
    read_driven_body(reader, level, actor);
  read_route(reader, kinds, actor);
  const double heading = reader.number("heading_deg", {-360, 360, "deg"}).value_or(0) * radians_per_degree;
  actor.facing = {std::cos(heading), 0, std::sin(heading)};
  reader.finish();
  actor.place = reader.place_of("name");
  return actor;
}

/// Puts what a cue does into the trial, at its time.
class TrialCues final : public CueList {
 public:
  TrialCues(Trial& trial, double at, std::size_t actor) : trial_(trial), at_(at), actor_(actor) {}
  void add(CueAct act, double later) override { trial_.cues.push_back({at_ + later, actor_, std::move(act)}), ++count; }
  int count = 0;

 private:
  Trial& trial_;
  double at_;
  std::size_t actor_;
};

void read_cue(TableReader reader, Trial& trial, const LabKinds& kinds) {
  const double at = reader.required("at_s", reader.number("at_s", {0, 3600, "s"}), "a time");
  if (at > trial.duration)
    reader.refuse("at_s", fmt::format("{} s", as_text(at)),
                  fmt::format("0 to the trial's duration_s, {}", as_text(trial.duration)));
  trial.last_cue = std::max(trial.last_cue, at);
  std::vector<std::string> names;
  for (const TrialActor& a : trial.actors) names.push_back(a.name);
  std::size_t index = 0;
  if (const auto name = reader.text("actor")) {
    index = reader.choice("actor", *name, names);
  } else if (names.size() != 1) {
    reader.missing("actor", names.empty() ? "an [[actor]] to hear the cue" : "the name of one of the actors");
  }
  const TrialActor& actor = trial.actors[index];
  const LabKind& kind = actor.tuning.kind();
  const std::vector<std::string> own = kind.cue_keys();
  for (const auto& other : kinds.all()) {  // what another kind reads is no typing mistake
    for (const std::string& key : other->cue_keys()) {
      if (std::ranges::find(own, key) == own.end() && reader.find(key))
        reader.refuse(key, fmt::format("one for '{}', a {}", actor.name, kind.name()),
                      fmt::format("a cue for a {}", other->name()));
    }
  }
  TrialCues cues(trial, at, index);
  kind.read_cue(reader, actor.tuning, cues);
  reader.finish();
  if (cues.count == 0) {
    std::vector<std::string> acts = own;
    std::erase(acts, "hold_s");  // does nothing alone
    reader.refuse("at_s", "a cue that does nothing", fmt::format("one of {} beside it", fmt::join(acts, ", ")));
  }
}

/// Does "crate.mass" speak of a body of the level?
bool names_a_body(const Level& level, const std::string& key) {
  const std::string name = key.substr(0, key.find('.'));
  return name.size() < key.size() && std::ranges::any_of(level.bodies, [&](const BodyPlan& b) {
           return b.name == name || b.name.starts_with(name + "_");
         });
}

/// "crate.mass" and the like, for the body of that name and for all of a stack or of copies of it.
void apply_to_bodies(Level& level, const std::string& key, double value, const Place& place) {
  struct Row {
    const char* key;
    double low, high;
    double& (*at)(BodyPlan&);
  };
  static constexpr Row rows[] = {
      {"mass", 1e-6, 1e9, [](BodyPlan& b) -> double& { return b.mass; }},
      {"friction", 0, 100, [](BodyPlan& b) -> double& { return b.surface.friction; }},
      {"restitution", 0, 1, [](BodyPlan& b) -> double& { return b.surface.restitution; }},
      {"linear_damping", 0, 1000, [](BodyPlan& b) -> double& { return b.linear_damping; }},
      {"angular_damping", 0, 1000, [](BodyPlan& b) -> double& { return b.angular_damping; }},
      {"gravity_scale", -1000, 1000, [](BodyPlan& b) -> double& { return b.gravity_scale; }}};
  const auto dot_at = key.find('.');
  const std::string name = key.substr(0, dot_at), what = key.substr(dot_at + 1);
  const auto row = std::ranges::find_if(rows, [&](const Row& r) { return what == r.key; });
  for (BodyPlan& body : level.bodies) {
    if (body.name != name && !body.name.starts_with(name + "_")) continue;
    if (row == std::end(rows)) {
      std::vector<std::string> all;
      for (const Row& r : rows) all.push_back(name + "." + r.key);
      throw InputError({place, key, "a key that is not known",
                        "mass, friction, restitution, linear_damping, angular_damping or gravity_scale",
                        nearest_name(key, all)});
    }
    if (!(value >= row->low && value <= row->high))
      throw InputError({place, key, as_text(value), fmt::format("{} to {}", row->low, row->high), {}});
    row->at(body) = value;
  }
}

void check_length(const Trial& trial, const Place& place) {
  if (trial.duration * trial.hz <= most_ticks) return;
  throw InputError({place,
                    "duration_s x hz",
                    fmt::format("{} ticks", as_text(trial.duration * trial.hz)),
                    fmt::format("at most {}", as_text(most_ticks)),
                    {}});
}

}  // namespace

const std::vector<std::string>& key_names() {
  static const std::vector<std::string> names{"jump", "dash", "launch", "crouch"};
  return names;
}

std::size_t Trial::ticks() const { return static_cast<std::size_t>(std::max(1.0, std::round(duration * hz))); }

Trial read_trial(const std::filesystem::path& file, const LabKinds& kinds, const RunLimits& limits) {
  const DocValue document = read_document(file);
  TableReader reader(document, file.string());
  Trial trial;
  trial.file = file, trial.limits = limits;
  trial.title = reader.text("title").value_or(file.stem().string());
  trial.duration = reader.required("duration_s", reader.number("duration_s", duration_limits), "a time");
  trial.hz = reader.number("hz", hz_limits).value_or(trial.hz);
  check_length(trial, reader.place_of("duration_s"));
  const std::string level = reader.required("level", reader.text("level"), "a level file");
  const auto level_file = file.parent_path() / level;
  std::error_code error;
  if (!std::filesystem::is_regular_file(level_file, error))
    reader.refuse("level", fmt::format("'{}', which is no file", level), "a level file");
  trial.level = read_level(level_file, limits.bodies);
  int index = 0;
  for (const DocValue* table : reader.tables("actor")) {
    TableReader actor(*table, file.string(), fmt::format("actor[{}].", index++));
    TrialActor read = read_actor(actor, file.parent_path(), trial.level, kinds);
    if (std::ranges::any_of(trial.actors, [&](const TrialActor& a) { return a.name == read.name; })) {
      actor.refuse("name", fmt::format("'{}' a second time", read.name), "each name once");
    }
    trial.actors.push_back(std::move(read));
  }
  if (trial.actors.empty() && !trial.level.has_dynamic())
    reader.missing("actor", "one [[actor]] at least, or a level with dynamic bodies");
  index = 0;
  for (const DocValue* table : reader.tables("cue")) {
    read_cue(TableReader(*table, file.string(), fmt::format("cue[{}].", index++)), trial, kinds);
  }
  std::ranges::stable_sort(trial.cues, {}, &Cue::at);
  reader.finish();
  return trial;
}

namespace {

/// A key of an actor's tuning, or of its route; where there is more than one actor its name comes before the key.
void apply_to_actor(Trial& trial, std::string key, const DocValue& given,
                    const std::function<double(const Limits&)>& within) {
  TrialActor* actor = trial.actors.size() == 1 ? &trial.actors.front() : nullptr;
  std::vector<std::string> all{"hz", "duration_s"};
  for (TrialActor& a : trial.actors) {
    if (key.starts_with(a.name + ".")) {
      actor = &a;
      key.erase(0, a.name.size() + 1);
    }
    for (const std::string& k : keys(a.tuning.list(), a.tuning.data()))
      all.push_back(trial.actors.size() == 1 ? k : a.name + "." + k);
    if (!a.route.empty()) all.push_back(trial.actors.size() == 1 ? "route.speed" : a.name + ".route.speed");
  }
  if (!actor)
    throw InputError({{},
                      key,
                      "a key that is not known",
                      trial.actors.empty()
                          ? "hz, duration_s or a number of a body"
                          : "an actor's name before the key, as in " + trial.actors.front().name + ".KEY",
                      nearest_name(key, all)});
  if (key == "route.speed" && !actor->route.empty()) {
    actor->route_speed = within(route_speed_limits);
    return;
  }
  DocValue table;
  table.members.push_back({key, given});
  apply_tunables(table, {}, actor->tuning);
  check(actor->tuning);
}

}  // namespace

void apply_setting(Trial& trial, const std::string& setting) {
  const Place place{"--set " + setting};
  const auto equals = setting.find('=');
  if (equals == std::string::npos || equals == 0)
    throw InputError({place, {}, "no key=value", "key=value, as in jump.height=1.4", {}});
  const std::string key = setting.substr(0, equals);
  const std::string text = setting.substr(equals + 1);
  const DocValue given = value_of(text);
  const auto as_number = [&] {
    if (given.kind != DocValue::Kind::number) throw InputError({place, key, fmt::format("'{}'", text), "a number", {}});
    return given.number;
  };

  const auto within = [&](const Limits& limits) {
    const double value = as_number();
    if (value >= limits.low && value <= limits.high) return value;
    throw InputError(
        {place, key, as_text(value), fmt::format("{} to {} {}", limits.low, limits.high, limits.unit), {}});
  };
  if (key == "hz") {
    trial.hz = within(hz_limits);
  } else if (key == "duration_s") {
    trial.duration = within(duration_limits);
    if (trial.last_cue > trial.duration)
      throw InputError(
          {place, key, text, fmt::format("at least {}, the time of the last cue", as_text(trial.last_cue)), {}});
  } else if (names_a_body(trial.level, key)) {
    apply_to_bodies(trial.level, key, as_number(), place);
  } else {
    try {
      apply_to_actor(trial, key, given, within);
    } catch (const InputError& error) {
      Fault fault = error.fault();
      fault.place = place;
      throw InputError(fault);
    }
  }
  check_length(trial, place);
  trial.settings.push_back(setting);
}

}  // namespace jugend
