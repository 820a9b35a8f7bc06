#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/trace.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/stage/stage.hpp>

namespace jugend {
namespace {

/// A cue taken apart into single changes, by rising time.
struct Change {
  double at;
  std::size_t actor;
  enum class Kind { run, down, up, tap, aim, hit, drive, fly, fail } kind;
  Key key = Key::jump;
  Vec3 way{};
  HitBy hit{};
  VehicleIntent drive{};
  MultirotorIntent fly{};
  int rotor = 0;
};

std::vector<Change> changes_of(const std::vector<Cue>& cues) {
  std::vector<Change> all;
  for (const Cue& cue : cues) {
    using Kind = Change::Kind;
    if (cue.sets_run) all.push_back({cue.at, cue.actor, Kind::run, {}, {cue.run_ahead, 0, cue.run_right}});
    if (cue.aim) all.push_back({cue.at, cue.actor, Kind::aim, {}, *cue.aim});
    if (cue.hit) all.push_back({cue.at, cue.actor, Kind::hit, {}, {}, *cue.hit});
    if (cue.drive) all.push_back({cue.at, cue.actor, Kind::drive, {}, {}, {}, *cue.drive});
    if (cue.fly) all.push_back({cue.at, cue.actor, Kind::fly, {}, {}, {}, {}, *cue.fly});
    if (cue.fail) all.push_back({cue.at, cue.actor, Kind::fail, {}, {}, {}, {}, {}, *cue.fail});
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
    case Change::Kind::run:
      actor.intent.move = change.way;
      actor.drive.throttle = change.way.x, actor.drive.steer = change.way.z;
      actor.fly.ahead = change.way.x, actor.fly.right = change.way.z;
      break;
    case Change::Kind::drive: actor.drive = change.drive; break;
    case Change::Kind::fly: actor.fly = change.fly; break;
    case Change::Kind::fail: std::get<Multirotor>(actor.character).fail(change.rotor); break;
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
  if (std::holds_alternative<Vehicle>(actor.character))
    row.run_ahead = actor.drive.throttle, row.run_right = actor.drive.steer,
    row.aside = std::max(actor.drive.brake, actor.drive.hand_brake);
  if (std::holds_alternative<Multirotor>(actor.character))
    row.run_ahead = actor.fly.ahead, row.run_right = actor.fly.right, row.aside = actor.fly.climb;
  row.up = f.up;
  const Button* buttons[] = {&actor.intent.jump, &actor.intent.dash, &actor.intent.launch, &actor.intent.crouch};
  for (std::size_t k = 0; k < key_count; ++k) row.held[k] = buttons[k]->held, row.presses[k] = buttons[k]->presses;
  row.facing = f.facing;
  row.control = f.control;
  const bool rides = f.on_ground && actor.intent.move == Vec3{} && f.ground_velocity != Vec3{} && f.control >= 1;
  row.ride_slip = rides ? norm(f.velocity - f.ground_velocity) : 0;
  return row;
}

/// What its drive is made for, gear by gear.
std::vector<DriveCurve> drive_of(const Vehicle& vehicle) {
  constexpr int pieces = 60;
  const DriveTuning& t = vehicle.tuning().drive;
  const int gears = t.engine_on > 0 ? t.engine.gear_count() : 0;
  std::vector<DriveCurve> curves;
  for (int gear = gears > 0 ? 1 : 0; gear <= gears; ++gear) {
    DriveCurve& curve = curves.emplace_back();
    curve.gear = gear;
    const double end = gear > 0 ? vehicle.gear_speed(gear) : t.top_speed;
    for (int i = 0; i <= pieces; ++i) {
      const double speed = end * i / pieces;
      curve.points.push_back({speed, vehicle.full_force(speed, gear)});
    }
  }
  return curves;
}

void add_parts(const Actor& actor, ActorTrace& trace) {
  if (const auto* vehicle = std::get_if<Vehicle>(&actor.character)) {
    trace.parts = static_cast<std::size_t>(vehicle->wheels());
    for (std::size_t i = 0; i < trace.parts; ++i) {
      const WheelState& w = vehicle->state().wheels[i];
      trace.part_rows.push_back({w.compression, w.load, w.slip(), w.slip_angle(), w.spin, w.along});
    }
  }
  if (const auto* drone = std::get_if<Multirotor>(&actor.character)) {
    trace.parts = static_cast<std::size_t>(drone->rotors());
    for (std::size_t i = 0; i < trace.parts; ++i)
      trace.part_rows.push_back({0, drone->state().thrust[i], 0, 0, drone->state().speed[i], 0});
  }
}

/// Routes that actors follow by themselves.
struct Route {
  std::size_t actor;
  Path path;
  PathDriver driver;
};

void follow(Route& route, Stage& stage) {
  Actor& actor = stage.actor(route.actor);
  const ActorFacts f = stage.facts(route.actor);
  const Driven self{f.position, f.velocity, f.facing, f.up};
  route.driver.look_ahead = std::max(2.0, 0.7 * norm(f.velocity));
  std::visit(Overloaded{[&](Vehicle& vehicle) {
                          const double slow_down = 0.5 * vehicle.tuning().brakes.deceleration;
                          actor.drive = led_by(route.driver.drive(self, route.path, slow_down), self, vehicle);
                        },
                        [&](LedBody& led_body) {
                          const LedBodyTuning& t = led_body.tuning();
                          const LedBodyIntent led = route.driver.drive(self, route.path, t.slow_down);
                          actor.intent.move = normalised(led.heading) * std::min(1.0, led.speed / t.top_speed);
                        },
                        [](auto&) {}},
             actor.character);
}

/// Wheels and what the ground does to them, rotors and their thrusts, for the picture of a moment.
void draw_parts(const Stage& stage, Picture& picture) {
  // So that four which bear the weight are as long each as one that does.
  const auto add_force = [&](BodyId body, const Vec3& at, const Vec3& force) {
    const double weight = stage.world.mass(body) * norm(stage.world.gravity(stage.world.centre_of_mass(body)));
    if (weight > 0) picture.add_force(at, force * (4 / weight));
  };
  const auto wheels = [&](const Vehicle& vehicle) {
    const Pose body = stage.world.pose(vehicle.body());
    const Vec3 centre = stage.world.centre_of_mass(vehicle.body());
    for (int i = 0; i < vehicle.wheels(); ++i) {
      const WheelTuning& w = vehicle.wheel(i);
      const WheelState& s = vehicle.state().wheels[static_cast<std::size_t>(i)];
      Pose pose = vehicle.wheel_pose(i, body, centre);
      pose.orientation = pose.orientation * rotation({0.5 * pi, 0, 0});  // a cylinder stands on its y
      picture.add(Cylinder{w.radius, 0.5 * w.width}, pose);
      if (s.load <= 0) continue;
      const Vec3 facing = rotate(body.orientation, {std::cos(s.steer), 0, -std::sin(s.steer)});
      const Vec3 ahead = normalised(in_plane(facing, s.normal)), right = cross(ahead, s.normal);
      add_force(vehicle.body(), s.contact, s.normal * s.load + ahead * s.along + right * s.side);
    }
  };
  const auto rotors = [&](const Multirotor& drone) {
    const Quat body = stage.world.pose(drone.body()).orientation;
    const Vec3 centre = stage.world.centre_of_mass(drone.body());
    for (int i = 0; i < drone.rotors(); ++i) {
      const RotorTuning& r = drone.rotor(i);
      const Vec3 hub = centre + rotate(body, r.place), axis = rotate(body, r.direction);
      picture.add(Cylinder{r.radius, 0.05 * r.radius}, {hub, rotation(turn_between({0, 1, 0}, axis, {1, 0, 0}))});
      add_force(drone.body(), hub, axis * drone.state().thrust[static_cast<std::size_t>(i)]);
    }
  };
  for (std::size_t a = 0; a < stage.actors(); ++a)
    std::visit(Overloaded{wheels, rotors, [](const auto&) {}}, stage.actor(a).character);
}

TraceEvent event_of(const WalkerEvent& e, double start, const World& world) {
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
    const ForcedTuning& figure = a.tuning.figure;
    switch (a.tuning.kind) {
      case ActorKind::walker: {
        const std::size_t index = stage.add(a.name, Walker(figure.walker, a.start, a.facing));
        stage.actor(index).walker().dangers = level_layer::danger;
        stage.actor(index).walker().stompable = level_layer::stompable;
        break;
      }
      case ActorKind::forced: {
        const std::size_t index = stage.add_forced(a.name, figure.walker, figure.legs, a.start, a.facing);
        auto& forced = std::get<ForcedWalker>(stage.actor(index).character);
        forced.dangers = level_layer::danger;
        forced.stompable = level_layer::stompable;
        break;
      }
      case ActorKind::led_body: stage.add_led_body(a.name, a.tuning.led_body, ids[a.body]); break;
      case ActorKind::vehicle: stage.add_vehicle(a.name, a.tuning.vehicle, ids[a.body]); break;
      case ActorKind::multirotor: {
        const std::size_t index = stage.add_multirotor(a.name, a.tuning.multirotor, ids[a.body]);
        stage.actor(index).fly.place = a.start;
        break;
      }
      case ActorKind::roller: stage.add_roller(a.name, a.tuning.roller, ids[a.body]); break;
    }
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
  std::vector<Route> routes;
  for (std::size_t i = 0; i < trial.actors.size(); ++i) {
    const TrialActor& a = trial.actors[i];
    if (!a.route.empty()) routes.push_back({i, Path(a.route, true, a.route_closed), {.speed = a.route_speed}});
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
    if (const auto* vehicle = std::get_if<Vehicle>(&stage.actor(i).character)) actor.drive = drive_of(*vehicle);
    add_parts(stage.actor(i), actor);
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
      draw_parts(stage, trace.pictures.emplace_back(picture_of(stage.world, time)));
  };
  record_bodies(0);
  const std::vector<Change> changes = changes_of(trial.cues);
  auto next = changes.begin();
  for (std::size_t tick = 0; tick < ticks; ++tick) {
    // Time is counted, not added up; an input at a tick's very start belongs to that tick.
    const double start = static_cast<double>(tick) / trial.hz;
    for (; next != changes.end() && next->at <= start + 1e-9; ++next) apply(*next, stage, trial);
    for (Route& route : routes) follow(route, stage);
    stage.tick(dt);
    for (std::size_t i = 0; i < stage.actors(); ++i) {
      ActorTrace& actor = trace.actors[i];
      actor.rows.push_back(row_of(stage, i, static_cast<double>(tick + 1) / trial.hz));
      add_parts(stage.actor(i), actor);
      for (const WalkerEvent& e : stage.actor(i).heard) actor.events.push_back(event_of(e, start, stage.world));
    }
    record_bodies(tick + 1);
    if (progress && tick % 1024 == 0) progress(static_cast<double>(tick) / static_cast<double>(ticks));
  }
  trace.state_hash = stage.hash();
  return trace;
}

}  // namespace jugend
