#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/lab/trace.hpp>
#include <jugend/stage/kinds/walker.hpp>

namespace jugend {
namespace {

TraceRow row_of(const Stage& stage, std::size_t index, const LabKind& kind, double time) {
  const Actor& actor = stage.actor(index);
  const ActorFacts f = stage.facts(index);
  const HeldInput held = kind.held(actor);
  TraceRow row{time, f.position, f.velocity, f.mode, f.on_ground, f.slope, held.ahead, held.right};
  row.brake = held.brake, row.climb = held.climb;
  row.up = f.up, row.facing = f.facing, row.control = f.control;
  if (const auto* controls = actor.find<WalkerControls>()) {
    const WalkerIntent& i = controls->intent;
    const Button* buttons[] = {&i.jump, &i.dash, &i.launch, &i.crouch};
    for (std::size_t k = 0; k < key_count; ++k) row.held[k] = buttons[k]->held, row.presses[k] = buttons[k]->presses;
  }
  const bool rides = f.on_ground && held.ahead == 0 && held.right == 0 && f.ground_velocity != Vec3{} && f.control >= 1;
  row.ride_slip = rides ? norm(f.velocity - f.ground_velocity) : 0;
  return row;
}

void record_actor(const Stage& stage, std::size_t index, double time, ActorTrace& trace) {
  const LabKind& kind = trace.tuning.kind();
  trace.rows.push_back(row_of(stage, index, kind, time));
  kind.add_parts(stage.actor(index), trace.part_values);
}

void draw_actors(const Stage& stage, const Trial& trial, Picture& picture) {
  for (std::size_t i = 0; i < stage.actors(); ++i) trial.actors[i].tuning.kind().draw(stage, stage.actor(i), picture);
}

TraceEvent event_of(const ActorEvent& e, double start, const World& world) {
  TraceEvent event{start + e.time, e.kind, e.position, e.value, {}};
  if (e.kind == WalkerEventKind::jumped) event.detail = name_of(e.from);
  if (e.kind == WalkerEventKind::hit) event.detail = name_of(e.place.side);
  if (e.body && world.alive(e.body)) event.detail = world.name(e.body);
  return event;
}

}  // namespace

bool has_parts(const Trace& trace) {
  return std::ranges::any_of(trace.actors, [](const ActorTrace& a) { return a.parts > 0; });
}

Trace run_trial(const Trial& trial, const std::function<void(double)>& progress) {
  Stage stage;
  const std::vector<BodyId> ids = trial.level.build(stage);
  const auto add_actor = [&](const TrialActor& a) {
    const BodyId body = ids.empty() ? BodyId{} : ids[a.body];
    a.tuning.kind().add(stage, {a.name, a.start, a.facing, a.velocity, body}, a.tuning);
  };
  for (const TrialActor& a : trial.actors) {
    try {
      add_actor(a);
    } catch (const InputError& error) {  // what does not fit the body is known only now
      Fault fault = error.fault();
      if (fault.place.file.empty()) fault.place.file = trial.file.string(), fault.key = a.name + "." + fault.key;
      throw InputError(fault);
    }
  }
  std::vector<std::pair<std::size_t, CueAct>> routes;
  for (std::size_t i = 0; i < trial.actors.size(); ++i) {
    const TrialActor& a = trial.actors[i];
    if (!a.route.empty())
      routes.emplace_back(i, a.tuning.kind().follow(Path(a.route, true, a.route_closed), a.route_speed));
  }
  const std::size_t ticks = trial.ticks();
  const double dt = 1 / trial.hz;
  Trace trace{trial.title, trial.hz, static_cast<double>(ticks) * dt, trial.settings, {}, {}, {}, 0};
  for (std::size_t i = 0; i < stage.actors(); ++i) {
    const ActorTuning& tuning = trial.actors[i].tuning;
    trace.actors.push_back(ActorTrace{stage.actor(i).name(), tuning, {}, 0, {}, {}, 0});
    ActorTrace& actor = trace.actors.back();
    actor.rows.reserve(ticks + 1);
    actor.columns = tuning.kind().parts().columns.size();
    actor.parts = tuning.kind().part_count(stage.actor(i));
    actor.drive = tuning.kind().drive_curves(stage.actor(i));
    record_actor(stage, i, 0, actor);
  }
  std::vector<BodyId> dynamic;
  for (const BodyId id : ids) {
    if (stage.world.kind(id) != BodyKind::dynamic) continue;
    dynamic.push_back(id);
    trace.bodies.push_back({stage.world.name(id), stage.world.mass(id), {}});
  }
  const bool pictured = std::ranges::any_of(ids, [&](BodyId id) { return stage.world.kind(id) != BodyKind::fixed; });
  const auto record_bodies = [&](std::size_t tick) {
    const double time = static_cast<double>(tick) / trial.hz;
    for (std::size_t i = 0; i < dynamic.size(); ++i) {
      const BodyId id = dynamic[i];
      trace.bodies[i].rows.push_back(
          {time, stage.world.pose(id), stage.world.velocity(id), stage.world.spin(id), stage.world.asleep(id)});
    }
    // One at the start, and one whenever another eighth of the time has passed.
    if (pictured && (tick == 0 || 8 * tick / ticks > 8 * (tick - 1) / ticks))
      draw_actors(stage, trial, trace.pictures.emplace_back(picture_of(stage.world, time)));
  };
  record_bodies(0);
  auto next = trial.cues.begin();
  for (std::size_t tick = 0; tick < ticks; ++tick) {
    // Time is counted, not added up; an input at a tick's very start belongs to that tick.
    const double start = static_cast<double>(tick) / trial.hz;
    for (; next != trial.cues.end() && next->at <= start + 1e-9; ++next) next->act(stage, next->actor);
    for (auto& [actor, follow] : routes) follow(stage, actor);
    stage.tick(dt);
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      ActorTrace& actor = trace.actors[i];
      record_actor(stage, i, static_cast<double>(tick + 1) / trial.hz, actor);
      for (const ActorEvent& e : stage.actor(i).heard()) actor.events.push_back(event_of(e, start, stage.world));
    }
    record_bodies(tick + 1);
    if (progress && tick % 1024 == 0) progress(static_cast<double>(tick) / static_cast<double>(ticks));
  }
  trace.state_hash = stage.hash();
  return trace;
}

}  // namespace jugend
