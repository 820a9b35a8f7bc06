#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/lab/trace.hpp>
#include <jugend/stage/kinds/walker.hpp>

namespace jugend {
namespace {

TraceRow row_of(const Stage& stage, ActorId index, const LabKind& kind, double time) {
  const Actor& actor = stage.actor(index);
  const ActorFacts f = stage.facts(index);
  const HeldInput held = kind.held(actor);
  TraceRow row{time, f.position, f.velocity, f.mode, f.on_ground, f.slope, held.ahead, held.right};
  row.brake = held.brake, row.climb = held.climb;
  row.up = f.up, row.facing = f.facing, row.control = f.control;
  const auto* controls = actor.find<WalkerControls>();
  if (controls == nullptr) return row;
  const WalkerIntent& i = controls->intent;
  const Button* buttons[] = {&i.jump, &i.dash, &i.launch, &i.crouch};
  for (std::size_t k = 0; k < key_count; ++k) row.held[k] = buttons[k]->held, row.presses[k] = buttons[k]->presses;
  const bool rides = f.on_ground && held.ahead == 0 && held.right == 0 && f.ground_velocity != Vec3{} && f.control >= 1;
  row.ride_slip = rides ? norm(f.velocity - f.ground_velocity) : 0;
  return row;
}

void record_actor(const Stage& stage, ActorId index, double time, ActorTrace& trace) {
  const LabKind& kind = trace.tuning.kind();
  trace.rows.push_back(row_of(stage, index, kind, time));
  kind.add_parts(stage.actor(index), trace.part_values);
}

void draw_actors(const Stage& stage, const Trial& trial, Picture& picture) {
  std::size_t i = 0;
  stage.for_each([&](ActorId, const Actor& actor) { trial.actors[i++].tuning.kind().draw(stage, actor, picture); });
}

TraceEvent event_of(const ActorEvent& e, double start, const World& world) {
  TraceEvent event{start + e.time, e.kind, e.position, e.value, {}};
  if (e.kind == WalkerEventKind::jumped) event.detail = name_of(e.from);
  if (e.kind == WalkerEventKind::hit) event.detail = name_of(e.place.side);
  if (e.body && world.alive(e.body)) event.detail = world.name(e.body);
  return event;
}

/// Puts a trial's actors on its stage.
std::vector<ActorId> place_actors(const Trial& trial, const std::vector<BodyId>& ids, Stage& stage) {
  std::vector<ActorId> placed;
  for (const TrialActor& a : trial.actors) {
    const BodyId body = ids.empty() ? BodyId{} : ids[a.body];
    try {
      placed.push_back(a.tuning.kind().add(stage, {a.name, a.start, a.facing, a.velocity, body}, a.tuning));
    } catch (const InputError& error) {  // what does not fit the body is known only now
      Fault fault = error.fault();
      if (fault.place.file.empty()) fault.place = a.place, fault.key = a.name + "." + fault.key;
      throw InputError(fault);
    }
  }
  return placed;
}

/// Writes down what a stage does, tick by tick.
class Recorder {
 public:
  Recorder(const Trial& trial, const Stage& stage, const std::vector<ActorId>& actors, const std::vector<BodyId>& ids)
      : trace{trial.title, trial.hz, static_cast<double>(trial.ticks()) * (1 / trial.hz), trial.settings, {}, {},
              {},          0},
        trial_(trial),
        stage_(stage),
        actors_(actors) {
    for (std::size_t i = 0; i < actors.size(); ++i) {
      const ActorTuning& tuning = trial.actors[i].tuning;
      const Actor& played = stage.actor(actors[i]);
      trace.actors.push_back({.name = played.name(), .tuning = tuning});
      ActorTrace& actor = trace.actors.back();
      actor.rows.reserve(trial.ticks() + 1);
      actor.columns = tuning.kind().parts().columns.size();
      actor.parts = tuning.kind().part_count(played);
      actor.drive = tuning.kind().drive_curves(played);
    }
    for (const BodyId id : ids) {
      pictured_ |= stage.world.kind(id) != BodyKind::fixed;
      if (stage.world.kind(id) != BodyKind::dynamic) continue;
      dynamic_.push_back(id);
      trace.bodies.push_back({stage.world.name(id), stage.world.mass(id), {}});
    }
    record(0);
  }
  /// How all is after so many ticks. Time is counted, not added up.
  void record(std::size_t tick) {
    const double time = static_cast<double>(tick) / trial_.hz;
    for (std::size_t i = 0; i < actors_.size(); ++i) record_actor(stage_, actors_[i], time, trace.actors[i]);
    for (std::size_t i = 0; i < dynamic_.size(); ++i) {
      const BodyId id = dynamic_[i];
      trace.bodies[i].rows.push_back(
          {time, stage_.world.pose(id), stage_.world.velocity(id), stage_.world.spin(id), stage_.world.asleep(id)});
    }
    // One at the start, and one whenever another eighth of the time has passed.
    const std::size_t ticks = trial_.ticks();
    if (pictured_ && (tick == 0 || 8 * tick / ticks > 8 * (tick - 1) / ticks))
      draw_actors(stage_, trial_, trace.pictures.emplace_back(picture_of(stage_.world, time)));
  }
  /// What was heard in the tick that began at `start` s.
  void record_events(double start) {
    for (std::size_t i = 0; i < actors_.size(); ++i) {
      for (const ActorEvent& e : stage_.actor(actors_[i]).heard())
        trace.actors[i].events.push_back(event_of(e, start, stage_.world));
    }
  }
  Trace trace;

 private:
  const Trial& trial_;
  const Stage& stage_;
  const std::vector<ActorId> actors_;
  std::vector<BodyId> dynamic_;
  bool pictured_ = false;
};

}  // namespace

bool has_parts(const Trace& trace) {
  return std::ranges::any_of(trace.actors, [](const ActorTrace& a) { return a.parts > 0; });
}

namespace {

void check_size(const Trial& trial) {
  const auto dynamic = std::ranges::count(trial.level.bodies, BodyKind::dynamic, &BodyPlan::kind);
  const double row =
      static_cast<double>(trial.actors.size() * sizeof(TraceRow)) + static_cast<double>(dynamic) * sizeof(BodyRow);
  const double megabytes = row * static_cast<double>(trial.ticks() + 1) * 1e-6;
  if (megabytes > static_cast<double>(trial.limits.megabytes))
    throw InputError({{trial.file.string()},
                      "duration_s x hz",
                      fmt::format("a trace of {:.0f} MB: {} ticks of {} bodies and {} actors", megabytes, trial.ticks(),
                                  dynamic, trial.actors.size()),
                      fmt::format("at most {} MB; --most-mb allows more", trial.limits.megabytes),
                      {}});
}

/// Who has come to numbers that nothing can be made of, and which; nothing: nobody has.
std::string runaway(const Stage& stage) {
  constexpr double most_far = 1e12, most_fast = 1e9;
  const auto told = [&](const char* what, std::string_view name, const Vec3& at, const Vec3& velocity) -> std::string {
    const bool whole = is_finite(at) && is_finite(velocity);
    if (whole && norm(at) < most_far && norm(velocity) < most_fast) return {};
    const auto number = [](double x) { return std::isfinite(x) ? as_text(x) : std::string("no number"); };
    return fmt::format("{} '{}' at {} m from the origin with {} m/s", what, name, number(norm(at)),
                       number(norm(velocity)));
  };
  std::string found;
  stage.for_each([&](ActorId id, const Actor& actor) {
    const ActorFacts f = stage.facts(id);
    if (found.empty()) found = told("actor", actor.name(), f.position, f.velocity);
  });
  stage.world.for_each([&](BodyId id) {
    if (found.empty() && stage.world.kind(id) == BodyKind::dynamic)
      found = told("body", stage.world.name(id), stage.world.pose(id).position, stage.world.velocity(id));
  });
  return found;
}

/// Which of a trial's numbers lie furthest from their defaults.
std::string unusual(const Trial& trial) {
  struct Far {
    double by;
    std::string text;
  };
  std::vector<Far> all;
  for (const TrialActor& a : trial.actors) {
    const ActorTuning plain(a.tuning.kind());
    for (const BoundTunable& b : all_tunables(a.tuning.list(), const_cast<void*>(a.tuning.data()))) {
      if (b.tunable->type != TunableType::number) continue;
      const double now = b.tunable->read(b.in);
      const auto same = find_tunable(plain.list(), const_cast<void*>(plain.data()), b.key);
      const double usual = same ? same->read() : now;
      if (now == usual) continue;
      const double by = now > 0 && usual > 0 ? std::abs(std::log(now / usual)) : 1;
      all.push_back({by, fmt::format("{}.{} = {} (default {})", a.name, b.key, as_text(now), as_text(usual))});
    }
  }
  std::ranges::stable_sort(all, std::greater{}, &Far::by);
  std::string text;
  for (std::size_t i = 0; i < std::min<std::size_t>(3, all.size()); ++i) text += (i ? ", " : "") + all[i].text;
  return text.empty() ? "all of the tunings' numbers are defaults" : "furthest from its default: " + text;
}

/// Who ends far outside of the level: falls have no end where nothing lies below.
std::vector<std::string> who_left(const Stage& stage, const Trial& trial, const std::vector<BodyId>& ids) {
  Bounds level;
  for (const BodyPlan& b : trial.level.bodies) {
    if (b.kind == BodyKind::fixed) level.add(bounds(b.shape, b.pose));
  }
  std::vector<std::string> told;
  if (!(level.low.x <= level.high.x)) return told;
  const Vec3 middle = level.centre();
  const double far = 10 * norm(level.half_extents()) + 100;
  const auto look = [&](std::string_view name, const Vec3& at) {
    if (norm(at - middle) > far)
      told.push_back(
          fmt::format("'{}' has left the level: it ends {} m from its middle", name, as_text(norm(at - middle))));
  };
  stage.for_each([&](ActorId id, const Actor& actor) { look(actor.name(), stage.facts(id).position); });
  for (const BodyId id : ids) {
    if (stage.world.kind(id) == BodyKind::dynamic) look(stage.world.name(id), stage.world.pose(id).position);
  }
  return told;
}

/// A tick that comes to no numbers ends the run with who, when and what.
void tick_or_tell(Stage& stage, const Trial& trial, std::size_t tick) {
  std::string what;
  try {
    stage.tick(1 / trial.hz);
    what = runaway(stage);
  } catch (const InputError& error) {
    what = runaway(stage);
    if (what.empty()) what = error.what();
  }
  if (what.empty()) return;
  throw InputError({{trial.file.string()},
                    fmt::format("tick {}, {} s", tick + 1, as_text(static_cast<double>(tick + 1) / trial.hz)),
                    what,
                    "a run whose numbers stay finite; " + unusual(trial),
                    {}});
}

}  // namespace

Trace run_trial(const Trial& trial, const std::function<void(double)>& progress) {
  check_size(trial);
  Stage stage;
  const std::vector<BodyId> ids = trial.level.build(stage);
  const std::vector<ActorId> actors = place_actors(trial, ids, stage);
  std::vector<std::pair<ActorId, CueAct>> routes;
  for (std::size_t i = 0; i < trial.actors.size(); ++i) {
    const TrialActor& a = trial.actors[i];
    if (!a.route.empty())
      routes.emplace_back(actors[i], a.tuning.kind().follow(Path(a.route, true, a.route_closed), a.route_speed));
  }
  Recorder recorder(trial, stage, actors, ids);
  const std::size_t ticks = trial.ticks();
  auto next = trial.cues.begin();
  for (std::size_t tick = 0; tick < ticks; ++tick) {
    // An input at a tick's very start belongs to that tick.
    const double start = static_cast<double>(tick) / trial.hz;
    for (; next != trial.cues.end() && next->at <= start + 1e-9; ++next) next->act(stage, actors[next->actor]);
    for (auto& [actor, follow] : routes) follow(stage, actor);
    tick_or_tell(stage, trial, tick);
    recorder.record(tick + 1);
    recorder.record_events(start);
    if (progress && tick % 1024 == 0) progress(static_cast<double>(tick) / static_cast<double>(ticks));
  }
  for (std::size_t i = 0; i < actors.size(); ++i)
    recorder.trace.actors[i].remarks = trial.actors[i].tuning.kind().remarks(stage, stage.actor(actors[i]));
  recorder.trace.remarks = who_left(stage, trial, ids);
  recorder.trace.state_hash = stage.hash();
  return std::move(recorder.trace);
}

}  // namespace jugend
