#include <algorithm>
#include <cmath>
#include <jugend/lab/trace.hpp>
#include <jugend/stage/stage.hpp>

namespace jugend {
namespace {

/// A cue taken apart into single changes, by rising time.
struct Change {
  double at;
  std::size_t actor;
  enum class Kind { run, down, up, tap, aim, hit } kind;
  Key key = Key::jump;
  Vec3 way{};
  HitBy hit{};
};

std::vector<Change> changes_of(const std::vector<Cue>& cues) {
  std::vector<Change> all;
  for (const Cue& cue : cues) {
    using Kind = Change::Kind;
    if (cue.sets_run) all.push_back({cue.at, cue.actor, Kind::run, {}, {cue.run_ahead, 0, cue.run_right}});
    if (cue.aim) all.push_back({cue.at, cue.actor, Kind::aim, {}, *cue.aim});
    if (cue.hit) all.push_back({cue.at, cue.actor, Kind::hit, {}, {}, *cue.hit});
    if (!cue.press) continue;
    if (cue.hold > 0) {
      all.push_back({cue.at, cue.actor, Kind::down, *cue.press});
      all.push_back({cue.at + cue.hold, cue.actor, Kind::up, *cue.press});
    } else {
      all.push_back({cue.at, cue.actor, Kind::tap, *cue.press});
    }
  }
  std::ranges::stable_sort(all, {}, &Change::at);
  return all;
}

void apply(const Change& change, Stage& stage, const Trial& trial) {
  Actor& actor = stage.actor(change.actor);
  PressLatch* latches[] = {&actor.jump, &actor.dash, &actor.launch, &actor.crouch};
  PressLatch& latch = *latches[static_cast<int>(change.key)];
  switch (change.kind) {
    case Change::Kind::run: actor.intent.move = change.way; break;
    case Change::Kind::aim: actor.intent.aim = change.way; break;
    case Change::Kind::down: latch.set(true); break;
    case Change::Kind::up: latch.set(false); break;
    case Change::Kind::tap: latch.tap(); break;
    case Change::Kind::hit: {
      HitBy hit = change.hit;
      const ActorFacts facts = stage.facts(change.actor);
      const ActorTuning& tuning = trial.actors[change.actor].tuning;
      hit.at = facts.position + facts.up * (0.5 * tuning.height()) - normalised(hit.away) * tuning.walker().body.radius;
      actor.hit(hit, stage.world);
      break;
    }
  }
}

TraceRow row_of(const Stage& stage, std::size_t index, double time) {
  const Actor& actor = stage.actor(index);
  const ActorFacts f = stage.facts(index);
  TraceRow row{time, f.position, f.velocity, f.mode, f.on_ground, f.slope, actor.intent.move.x, actor.intent.move.z};
  const Button* buttons[] = {&actor.intent.jump, &actor.intent.dash, &actor.intent.launch, &actor.intent.crouch};
  for (std::size_t k = 0; k < key_count; ++k) row.held[k] = buttons[k]->held, row.presses[k] = buttons[k]->presses;
  row.facing = f.facing;
  row.control = f.control;
  const bool rides = f.on_ground && actor.intent.move == Vec3{} && f.ground_velocity != Vec3{} && f.control >= 1;
  row.ride_slip = rides ? norm(f.velocity - f.ground_velocity) : 0;
  return row;
}

TraceEvent event_of(const WalkerEvent& e, double start, const World& world) {
  TraceEvent event{start + e.time, e.kind, e.position, e.value, {}};
  if (e.kind == WalkerEventKind::jumped) event.detail = name_of(e.from);
  if (e.kind == WalkerEventKind::hit) event.detail = name_of(e.place.side);
  if (e.body && world.alive(e.body)) event.detail = world.name(e.body);
  return event;
}

}  // namespace

Trace run_trial(const Trial& trial, const std::function<void(double)>& progress) {
  Stage stage;
  const std::vector<BodyId> ids = trial.level.build(stage);
  for (const TrialActor& a : trial.actors) {
    const ForcedTuning& figure = a.tuning.figure;
    switch (a.tuning.kind) {
      case ActorKind::walker: {
        const std::size_t index = stage.add(a.name, Walker(figure.walker, a.start, a.facing));
        stage.actor(index).walker().dangers = level_layer::danger;
        stage.actor(index).walker().stompable = level_layer::stompable;
        break;
      }
      case ActorKind::forced: {
        const std::size_t index = stage.add_forced(a.name, figure.walker, figure.ride, a.start, a.facing);
        auto& forced = std::get<ForcedWalker>(stage.actor(index).character);
        forced.dangers = level_layer::danger;
        forced.stompable = level_layer::stompable;
        break;
      }
      case ActorKind::pacer: stage.add_pacer(a.name, a.tuning.pacer, ids[a.body]); break;
      case ActorKind::roller: stage.add_roller(a.name, a.tuning.roller, ids[a.body]); break;
    }
  }

  const std::size_t ticks = trial.ticks();
  const double dt = 1 / trial.hz;
  Trace trace{trial.title, trial.hz, static_cast<double>(ticks) * dt, trial.settings, {}, {}, {}, 0};
  for (std::size_t i = 0; i < stage.actors(); ++i) {
    ActorTrace& actor = trace.actors.emplace_back();
    actor.name = stage.actor(i).name;
    actor.tuning = trial.actors[i].tuning;
    actor.rows.reserve(ticks + 1);
    actor.rows.push_back(row_of(stage, i, 0));
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
      trace.pictures.push_back(picture_of(stage.world, time));
  };
  record_bodies(0);
  const std::vector<Change> changes = changes_of(trial.cues);
  auto next = changes.begin();
  for (std::size_t tick = 0; tick < ticks; ++tick) {
    // Time is counted, not added up; an input at a tick's very start belongs to that tick.
    const double start = static_cast<double>(tick) / trial.hz;
    for (; next != changes.end() && next->at <= start + 1e-9; ++next) apply(*next, stage, trial);
    stage.tick(dt);
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      ActorTrace& actor = trace.actors[i];
      actor.rows.push_back(row_of(stage, i, static_cast<double>(tick + 1) / trial.hz));
      for (const WalkerEvent& e : stage.actor(i).heard) actor.events.push_back(event_of(e, start, stage.world));
    }
    record_bodies(tick + 1);
    if (progress && tick % 1024 == 0) progress(static_cast<double>(tick) / static_cast<double>(ticks));
  }
  trace.state_hash = stage.hash();
  return trace;
}

}  // namespace jugend
