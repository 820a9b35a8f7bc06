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
  enum class Kind { run, down, up, tap } kind;
  double ahead = 0, right = 0;
};

std::vector<Change> changes_of(const std::vector<Cue>& cues) {
  std::vector<Change> all;
  for (const Cue& cue : cues) {
    if (cue.sets_run) all.push_back({cue.at, cue.actor, Change::Kind::run, cue.run_ahead, cue.run_right});
    if (!cue.press_jump) continue;
    if (cue.hold > 0) {
      all.push_back({cue.at, cue.actor, Change::Kind::down});
      all.push_back({cue.at + cue.hold, cue.actor, Change::Kind::up});
    } else {
      all.push_back({cue.at, cue.actor, Change::Kind::tap});
    }
  }
  std::ranges::stable_sort(all, {}, &Change::at);
  return all;
}

void apply(const Change& change, Actor& actor) {
  switch (change.kind) {
    case Change::Kind::run: actor.intent.move = {change.ahead, 0, change.right}; break;
    case Change::Kind::down: actor.jump.set(true); break;
    case Change::Kind::up: actor.jump.set(false); break;
    case Change::Kind::tap: actor.jump.tap(); break;
  }
}

TraceRow row_of(const Actor& actor, double time) {
  const WalkerState& s = actor.walker().state();
  const double rise = s.on_ground ? std::clamp(dot(s.ground.normal, s.up), -1.0, 1.0) : 1.0;
  return {time,
          s.position,
          s.velocity,
          s.mode,
          s.on_ground,
          std::acos(rise),
          actor.intent.move.x,
          actor.intent.move.z,
          actor.intent.jump.held,
          actor.intent.jump.presses};
}

}  // namespace

Trace run_trial(const Trial& trial, const std::function<void(double)>& progress) {
  Stage stage;
  const std::vector<BodyId> ids = trial.level.build(stage.world);
  for (const TrialActor& a : trial.actors) stage.add(a.name, Walker(a.tuning, a.start, a.facing));

  const std::size_t ticks = trial.ticks();
  const double dt = 1 / trial.hz;
  Trace trace{trial.title, trial.hz, static_cast<double>(ticks) * dt, trial.settings, {}, {}, {}, 0};
  for (std::size_t i = 0; i < stage.actors(); ++i) {
    ActorTrace& actor = trace.actors.emplace_back();
    actor.name = stage.actor(i).name;
    actor.tuning = stage.actor(i).walker().tuning();
    actor.rows.reserve(ticks + 1);
    actor.rows.push_back(row_of(stage.actor(i), 0));
  }
  std::vector<BodyId> dynamic;
  for (const BodyId id : ids) {
    if (stage.world.kind(id) != BodyKind::dynamic) continue;
    dynamic.push_back(id);
    trace.bodies.push_back({stage.world.name(id), stage.world.mass(id), {}});
  }
  const auto record_bodies = [&](std::size_t tick) {
    const double time = static_cast<double>(tick) / trial.hz;
    for (std::size_t i = 0; i < dynamic.size(); ++i) {
      const BodyId id = dynamic[i];
      trace.bodies[i].rows.push_back(
          {time, stage.world.pose(id), stage.world.velocity(id), stage.world.spin(id), stage.world.asleep(id)});
    }
    // One at the start, and one whenever another eighth of the time has passed.
    if (!dynamic.empty() && (tick == 0 || 8 * tick / ticks > 8 * (tick - 1) / ticks))
      trace.pictures.push_back(picture_of(stage.world, time));
  };
  record_bodies(0);
  const std::vector<Change> changes = changes_of(trial.cues);
  auto next = changes.begin();
  for (std::size_t tick = 0; tick < ticks; ++tick) {
    // Time is counted, not added up; an input at a tick's very start belongs to that tick.
    const double start = static_cast<double>(tick) / trial.hz;
    for (; next != changes.end() && next->at <= start + 1e-9; ++next) apply(*next, stage.actor(next->actor));
    stage.tick(dt);
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      ActorTrace& actor = trace.actors[i];
      actor.rows.push_back(row_of(stage.actor(i), static_cast<double>(tick + 1) / trial.hz));
      for (const WalkerEvent& e : stage.actor(i).walker().events()) {
        actor.events.push_back({start + e.time, e.kind, e.position, e.value});
      }
    }
    record_bodies(tick + 1);
    if (progress && tick % 1024 == 0) progress(static_cast<double>(tick) / static_cast<double>(ticks));
  }
  trace.state_hash = stage.hash();
  return trace;
}

}  // namespace jugend
