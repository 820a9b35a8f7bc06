#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
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
constexpr double most_ticks = 10e6;

TrialActor read_actor(TableReader reader, const std::filesystem::path& folder, const Level& level) {
  TrialActor actor;
  actor.name = reader.required("name", reader.text("name"), "a text");
  const bool plain = !actor.name.empty() && actor.name.find_first_of(".=,\" \t\n") == std::string::npos;
  if (!plain)
    reader.refuse("name", fmt::format("'{}'", actor.name), "a name without spaces, dots, commas, quotes or =");
  actor.tuning.kind =
      static_cast<ActorKind>(reader.choice("kind", reader.text("kind").value_or("walker"), actor_kinds()));
  if (const auto tuning = reader.text("tuning")) {
    const auto file = folder / *tuning;
    if (!std::filesystem::is_regular_file(file))
      reader.refuse("tuning", fmt::format("'{}', which is no file", *tuning), "a tuning file");
    actor.tuning = read_tuning(file, actor.tuning.kind);
  }
  if (const DocValue* set = reader.table("set")) {
    apply_tunables(*set, reader.file(), actor.tuning);
    try {
      check(actor.tuning);
    } catch (const InputError& error) {
      reader.rethrow_at("set", error);
    }
  }
  const DocValue* start = reader.find("start");
  if (actor.tuning.drives_body()) {
    std::vector<std::string> names;
    for (const BodyPlan& b : level.bodies) names.push_back(b.name);
    const bool rolls = actor.tuning.kind == ActorKind::roller;
    const std::string body =
        reader.required("body", reader.text("body"),
                        rolls ? "the name of the ball that it rolls" : "the name of the body that it leads");
    actor.body = reader.choice("body", body, names);
    const BodyPlan& driven = level.bodies[actor.body];
    const auto* sphere = std::get_if<Sphere>(&driven.shape);
    if (driven.kind != BodyKind::dynamic || (rolls && sphere == nullptr)) {
      const std::string wanted = rolls ? "dynamic sphere" : "dynamic body";
      reader.refuse("body", fmt::format("'{}', which is no {}", body, wanted), "a " + wanted + " of the level");
    }
    actor.start = driven.pose.position;
    if (const DocValue* found = reader.table("route")) {
      if (actor.tuning.kind != ActorKind::led_body && actor.tuning.kind != ActorKind::vehicle)
        reader.refuse("route", "one for a " + actor_kinds()[static_cast<std::size_t>(actor.tuning.kind)],
                      "a route of a led_body or vehicle");
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
    if (rolls) actor.tuning.roller.radius = sphere->radius, actor.start -= Vec3{0, sphere->radius, 0};
    if (start != nullptr) reader.refuse("start", start->shown(), "none: it is where its body is");
  } else if (start != nullptr && start->kind == DocValue::Kind::text) {
    std::vector<std::string> names;
    for (const auto& [name, place] : level.markers) names.push_back(name);
    if (names.empty()) reader.refuse("start", start->shown(), "three lengths: the level has no markers");
    actor.start = level.markers[reader.choice("start", start->text, names)].second;
  } else {
    actor.start = reader.required("start", reader.vec3("start", {-1e6, 1e6, "m"}), "three lengths, or a marker's name");
  }
  const double heading = reader.number("heading_deg", {-360, 360, "deg"}).value_or(0) * radians_per_degree;
  actor.facing = {std::cos(heading), 0, std::sin(heading)};
  reader.finish();
  return actor;
}

Cue read_cue(TableReader reader, const Trial& trial) {
  Cue cue;
  cue.at = reader.required("at_s", reader.number("at_s", {0, 3600, "s"}), "a time");
  if (cue.at > trial.duration)
    reader.refuse("at_s", fmt::format("{} s", as_text(cue.at)),
                  fmt::format("0 to the trial's duration_s, {}", as_text(trial.duration)));
  std::vector<std::string> names;
  for (const TrialActor& a : trial.actors) names.push_back(a.name);
  if (const auto name = reader.text("actor")) {
    cue.actor = reader.choice("actor", *name, names);
  } else if (names.size() != 1) {
    reader.missing("actor", names.empty() ? "an [[actor]] to hear the cue" : "the name of one of the actors");
  }
  if (const auto run = reader.numbers("run", 2, {-1, 1})) {
    cue.sets_run = true;
    cue.run_ahead = (*run)[0];
    cue.run_right = (*run)[1];
  }
  if (const auto press = reader.text("press")) {
    cue.press = static_cast<Key>(reader.choice("press", *press, key_names()));
    cue.hold = reader.number("hold_s", {0, 3600, "s"}).value_or(0.1);
  } else if (reader.find("hold_s")) {
    reader.refuse("hold_s", "a hold without a press", "press = \"jump\" beside it");
  }
  cue.aim = reader.vec3("aim", {-1e6, 1e6});
  const auto share = [](TableReader& from, const char* key, double low, double& value) {
    if (const auto found = from.number(key, {low, 1})) value = *found;
  };
  const auto only_for = [&](const char* key, ActorKind kind) {
    const TrialActor& a = trial.actors[cue.actor];
    if (a.tuning.kind != kind)
      reader.refuse(key,
                    fmt::format("one for '{}', a {}", a.name, actor_kinds()[static_cast<std::size_t>(a.tuning.kind)]),
                    fmt::format("a cue for a {}", actor_kinds()[static_cast<std::size_t>(kind)]));
  };
  if (const DocValue* table = reader.table("drive")) {
    only_for("drive", ActorKind::vehicle);
    TableReader drive(*table, reader.file(), reader.path_of("drive."));
    VehicleIntent& v = cue.drive.emplace();
    share(drive, "throttle", -1, v.throttle), share(drive, "brake", 0, v.brake), share(drive, "steer", -1, v.steer);
    share(drive, "hand_brake", 0, v.hand_brake), share(drive, "lean", -1, v.lean);
    if (const auto shift = drive.number("shift", {-1, 1})) v.shift = static_cast<int>(std::lround(*shift));
    drive.finish();
  }
  if (const DocValue* table = reader.table("fly")) {
    only_for("fly", ActorKind::multirotor);
    TableReader fly(*table, reader.file(), reader.path_of("fly."));
    MultirotorIntent& m = cue.fly.emplace();
    share(fly, "ahead", -1, m.ahead), share(fly, "right", -1, m.right), share(fly, "climb", -1, m.climb);
    share(fly, "yaw", -1, m.yaw);
    if (const auto place = fly.vec3("place", {-1e6, 1e6, "m"})) m.place = *place;
    const double last = trial.actors[cue.actor].tuning.multirotor.rotors - 1;
    if (const auto rotor = fly.number("fail", {0, last})) cue.fail = static_cast<int>(std::lround(*rotor));
    fly.finish();
  }
  if (const DocValue* hit = reader.table("hit")) {
    TableReader blow(*hit, reader.file(), reader.path_of("hit."));
    HitBy by;
    by.away = blow.required("away", blow.vec3("away", {-1e6, 1e6}), "the direction of the throw");
    by.distance = blow.number("distance", {0, 1000, "m"}).value_or(0);
    by.impulse = blow.number("impulse", {0, 1e6, "N s"}).value_or(0);
    if (by.distance > 0 && by.impulse > 0) blow.refuse("impulse", "a distance beside it", "one of the two");
    blow.finish();
    cue.hit = by;
  }
  reader.finish();
  if (!cue.sets_run && !cue.press && !cue.aim && !cue.hit && !cue.drive && !cue.fly)
    reader.refuse("at_s", "a cue that does nothing", "run, press, aim, drive, fly or hit beside it");
  return cue;
}

/// "crate.mass" and the like, for the body of that name and for all of a stack or of copies of it.
bool apply_to_bodies(Level& level, const std::string& key, double value, const Place& place) {
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
  if (dot_at == std::string::npos) return false;
  const std::string name = key.substr(0, dot_at), what = key.substr(dot_at + 1);
  const auto row = std::ranges::find_if(rows, [&](const Row& r) { return what == r.key; });
  bool found = false;
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
    found = true;
  }
  return found;
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

Trial read_trial(const std::filesystem::path& file) {
  const DocValue document = read_document(file);
  TableReader reader(document, file.string());
  Trial trial;
  trial.file = file;
  trial.title = reader.text("title").value_or(file.stem().string());
  trial.duration = reader.required("duration_s", reader.number("duration_s", duration_limits), "a time");
  trial.hz = reader.number("hz", hz_limits).value_or(trial.hz);
  check_length(trial, reader.place_of("duration_s"));
  const std::string level = reader.required("level", reader.text("level"), "a level file");
  const auto level_file = file.parent_path() / level;
  if (!std::filesystem::is_regular_file(level_file))
    reader.refuse("level", fmt::format("'{}', which is no file", level), "a level file");
  trial.level = read_level(level_file);
  int index = 0;
  for (const DocValue* table : reader.tables("actor")) {
    TableReader actor(*table, file.string(), fmt::format("actor[{}].", index++));
    TrialActor read = read_actor(actor, file.parent_path(), trial.level);
    if (std::ranges::any_of(trial.actors, [&](const TrialActor& a) { return a.name == read.name; })) {
      actor.refuse("name", fmt::format("'{}' a second time", read.name), "each name once");
    }
    trial.actors.push_back(std::move(read));
  }
  if (trial.actors.empty() && !trial.level.has_dynamic())
    reader.missing("actor", "one [[actor]] at least, or a level with dynamic bodies");
  index = 0;
  for (const DocValue* table : reader.tables("cue")) {
    trial.cues.push_back(read_cue(TableReader(*table, file.string(), fmt::format("cue[{}].", index++)), trial));
  }
  std::ranges::stable_sort(trial.cues, {}, &Cue::at);
  reader.finish();
  return trial;
}

void apply_setting(Trial& trial, const std::string& setting) {
  const Place place{"--set " + setting};
  const auto equals = setting.find('=');
  if (equals == std::string::npos || equals == 0)
    throw InputError({place, {}, "no key=value", "key=value, as in jump.height=1.4", {}});
  std::string key = setting.substr(0, equals);
  const std::string text = setting.substr(equals + 1);
  double value = 0;
  const auto [end, wrong] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (wrong != std::errc{} || end != text.data() + text.size())
    throw InputError({place, key, fmt::format("'{}'", text), "a number", {}});

  const auto within = [&](const Limits& limits) {
    if (value >= limits.low && value <= limits.high) return value;
    throw InputError(
        {place, key, as_text(value), fmt::format("{} to {} {}", limits.low, limits.high, limits.unit), {}});
  };
  if (key == "hz") {
    trial.hz = within(hz_limits);
  } else if (key == "duration_s") {
    trial.duration = within(duration_limits);
    for (const Cue& cue : trial.cues) {
      if (cue.at > trial.duration)
        throw InputError({place,
                          key,
                          as_text(value),
                          fmt::format("at least {}, the time of the last cue", as_text(trial.cues.back().at)),
                          {}});
    }
  } else if (apply_to_bodies(trial.level, key, value, place)) {
  } else {
    TrialActor* actor = trial.actors.size() == 1 ? &trial.actors.front() : nullptr;
    std::vector<std::string> all{"hz", "duration_s"};
    for (TrialActor& a : trial.actors) {
      if (key.starts_with(a.name + ".")) {
        actor = &a;
        key.erase(0, a.name.size() + 1);
      }
      for (const std::string& k : keys(a.tuning.list())) all.push_back(trial.actors.size() == 1 ? k : a.name + "." + k);
      if (!a.route.empty()) all.push_back(trial.actors.size() == 1 ? "route.speed" : a.name + ".route.speed");
    }
    try {
      if (actor && key == "route.speed" && !actor->route.empty()) {
        actor->route_speed = within(route_speed_limits);
      } else {
        const Tunable* tunable = actor ? find_tunable(actor->tuning.list(), key) : nullptr;
        if (!tunable)
          throw InputError({{},
                            key,
                            "a key that is not known",
                            actor ? as_listed(actor->tuning.kind)
                            : trial.actors.empty()
                                ? "hz, duration_s or a number of a body"
                                : "an actor's name before the key, as in " + trial.actors.front().name + ".KEY",
                            nearest_name(key, all)});
        tunable->write(actor->tuning.data(), value);
        check(actor->tuning);
      }
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
