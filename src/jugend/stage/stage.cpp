#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/stage/stage.hpp>
#include <utility>

namespace jugend {

bool Actor::hit(const HitBy& hit, World& world) {
  const auto push = [&](BodyId body) {
    world.push(body, normalised(hit.away) * hit.impulse);
    return hit.impulse > 0;
  };
  return std::visit(
      Overloaded{[&](Walker& walker) { return walker.hit(hit); }, [&](ForcedWalker& walker) { return walker.hit(hit); },
                 [&](auto& other) { return push(other.body()); }},
      character);
}

std::size_t Stage::add_character(std::string name, Character character) {
  if (name.empty()) throw InputError({{}, "actor.name", "an empty name", "a name", {}});
  for (const Actor& a : actors_) {
    if (a.name == name)
      throw InputError({{}, "actor.name", fmt::format("'{}' a second time", name), "each name once", {}});
  }
  actors_.push_back({std::move(name), std::move(character), {}, {}, {}, {}, {}, {}, {}, {}, {}});
  // It looks where it was put, so that what stands is not falling until the first tick.
  std::visit(
      [&](auto& c) {
        if constexpr (requires { c.settle(world, 0.0); }) c.settle(world, 0);
      },
      actors_.back().character);
  actors_.back().before = facts(actors_.size() - 1).position;
  return actors_.size() - 1;
}

std::size_t Stage::add(std::string name, Walker walker) { return add_character(std::move(name), std::move(walker)); }

std::size_t Stage::add_forced(std::string name, const WalkerTuning& tuning, const LegsTuning& legs, const Vec3& feet,
                              const Vec3& facing) {
  check(tuning);
  check(legs, tuning);
  const Figure figure = figure_of(tuning, legs);
  const Vec3 g = world.gravity(feet);
  const Vec3 up = norm(g) > 0 ? normalised(-g) : Vec3{0, 1, 0};
  const Vec3 axis = cross({0, 1, 0}, up);
  const double angle = std::atan2(norm(axis), up.y);
  BodyPlan plan;
  plan.shape = Capsule{tuning.body.radius, figure.half_length};
  plan.pose = {feet + up * figure.middle, rotation(normalised(axis, {1, 0, 0}) * angle)};
  plan.kind = BodyKind::dynamic;
  plan.mass = tuning.body.mass;
  plan.surface.friction = 0;  // legs hold it, its sides do not
  plan.surface.friction_rule = Combine::least;
  plan.name = name;
  plan.can_sleep = false;
  plan.buoyant = false;  // it swims
  return add_character(std::move(name), ForcedWalker(tuning, legs, world.add(plan), facing));
}

std::size_t Stage::add_roller(std::string name, const RollerTuning& tuning, BodyId ball) {
  const auto* sphere = world.kind(ball) == BodyKind::dynamic ? std::get_if<Sphere>(&world.shape(ball)) : nullptr;
  if (!sphere) throw InputError({{}, "actor.body", "a body that is no dynamic sphere", "a dynamic sphere", {}});
  RollerTuning fitted = tuning;
  fitted.radius = sphere->radius;
  return add_character(std::move(name), Roller(fitted, ball));
}

std::size_t Stage::add_led_body(std::string name, const LedBodyTuning& tuning, BodyId body) {
  if (world.kind(body) != BodyKind::dynamic)
    throw InputError({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
  return add_character(std::move(name), LedBody(tuning, body));
}

std::size_t Stage::add_vehicle(std::string name, const VehicleTuning& tuning, BodyId body) {
  Vehicle vehicle(tuning, body, world);
  world.set_sleeping(body, false);
  return add_character(std::move(name), std::move(vehicle));
}

std::size_t Stage::add_multirotor(std::string name, const MultirotorTuning& tuning, BodyId body) {
  Multirotor multirotor(tuning, body, world);
  world.set_sleeping(body, false);
  return add_character(std::move(name), std::move(multirotor));
}

void Stage::add_rail(BodyId body, RailMotion rail_motion) {
  if (world.kind(body) != BodyKind::kinematic)
    throw InputError({{}, "body.path", "one for a body of another kind", "a kinematic body", {}});
  const Pose start = world.pose(body);
  world.place(body, rail_motion.pose_at(now_, start));
  rails_.push_back({body, std::move(rail_motion), start});
}

void Stage::lead(double dt) {
  for (const Rail& rail : rails_) {
    if (!world.alive(rail.body)) continue;
    const Pose now = world.pose(rail.body), then = rail.rail_motion.pose_at(now_ + dt, rail.start);
    const Vec3 velocity = (then.position - now.position) / dt;
    const Vec3 spin = rotation_vector(then.orientation * conjugate(now.orientation)) / dt;
    if (velocity != world.velocity(rail.body) || spin != world.spin(rail.body))
      world.set_motion(rail.body, velocity, spin);
  }
}

namespace {

/// A vehicle leaves the ground with its last wheel, and lands with its first.
void hear(const Vehicle& vehicle, Actor& a, const Vec3& now, double dt) {
  a.heard.clear();
  int down = 0, left = 0, landed = 0;
  double time = 0, gone = 0, speed = 0;
  for (int i = 0; i < vehicle.wheels(); ++i) down += vehicle.state().wheels[static_cast<std::size_t>(i)].pressed;
  for (const VehicleEvent& e : vehicle.events()) {
    if (e.kind == VehicleEventKind::wheel_left_ground) ++left, gone = std::max(gone, e.time);
    if (e.kind != VehicleEventKind::wheel_landed) continue;
    if (landed++ == 0 || e.time < time) time = e.time;
    speed = std::max(speed, e.value);
  }
  const auto at = [&](double t) { return a.before + (now - a.before) * (t / dt); };
  if (down == 0 && left > 0) a.heard.push_back({WalkerEventKind::left_ground, gone, at(gone), 0, {}, {}, {}});
  if (down > 0 && down == landed && left == 0)
    a.heard.push_back({WalkerEventKind::landed, time, at(time), speed, {}, {}, {}});
}

}  // namespace

void Stage::tick(double dt) {
  lead(dt);
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    Actor& a = actors_[i];
    a.before = facts(i).position;
    a.intent.jump = a.jump.take(), a.intent.dash = a.dash.take();
    a.intent.launch = a.launch.take(), a.intent.crouch = a.crouch.take();
  }
  for (Actor& a : actors_) {
    std::visit(Overloaded{[&](Roller& roller) {
                            roller.step({a.intent.move, a.intent.jump}, world, dt);
                          },
                          [&](LedBody& led_body) {
                            const double share = std::min(1.0, norm(a.intent.move));
                            led_body.step({a.intent.move, share * led_body.tuning().top_speed}, world, dt);
                          },
                          [&](Vehicle& vehicle) {
                            vehicle.step(a.drive, world, dt);
                            a.drive.shift = 0;
                          },
                          [&](Multirotor& multirotor) { multirotor.step(a.fly, world, dt); },
                          [&](auto& walker) { walker.step(a.intent, world, dt); }},
               a.character);
  }
  world.step(dt);
  ++ticks_;
  now_ += dt;
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    Actor& a = actors_[i];
    if (auto* walker = std::get_if<Walker>(&a.character)) walker->settle(world, dt), a.heard = walker->events();
    if (auto* forced = std::get_if<ForcedWalker>(&a.character)) forced->settle(world, dt), a.heard = forced->events();
    if (auto* vehicle = std::get_if<Vehicle>(&a.character)) hear(*vehicle, a, facts(i).position, dt);
    if (auto* roller = std::get_if<Roller>(&a.character)) {
      a.heard.clear();
      for (const RollerEvent& e : roller->events()) {
        static constexpr WalkerEventKind kinds[] = {WalkerEventKind::jumped, WalkerEventKind::left_ground,
                                                    WalkerEventKind::landed};
        a.heard.push_back({kinds[static_cast<int>(e.kind)], 0, a.before, e.value, {}, e.from});
      }
    }
  }
}

ActorFacts Stage::facts(std::size_t index) const {
  const auto of_walker = [](const WalkerBrain& walker) {
    const WalkerState& s = walker.state();
    StaggerState hit = s.stagger;
    return ActorFacts{s.position,
                      s.velocity,
                      s.facing,
                      s.up,
                      s.mode,
                      s.on_ground,
                      s.on_ground ? std::acos(std::clamp(dot(s.ground.normal, s.up), -1.0, 1.0)) : 0.0,
                      Stagger{walker.tuning().stagger, hit}.control(0),
                      s.on_ground ? s.ground.velocity : Vec3{}};
  };
  const auto of_body = [&](BodyId body) {
    ActorFacts facts;
    const Pose pose = world.pose(body);
    facts.position = pose.position;
    facts.velocity = world.velocity(body);
    facts.facing = rotate(pose.orientation, {1, 0, 0});
    facts.up = rotate(pose.orientation, {0, 1, 0});
    facts.on_ground = true;
    facts.mode = norm(facts.velocity) > 0.05 ? WalkerMode::running : WalkerMode::idle;
    return facts;
  };
  return std::visit(
      Overloaded{[&](const Walker& w) { return of_walker(w); }, [&](const ForcedWalker& w) { return of_walker(w); },
                 [&](const LedBody& p) { return of_body(p.body()); },
                 [&](const Vehicle& v) {
                   ActorFacts facts = of_body(v.body());
                   facts.on_ground = false;
                   for (int i = 0; i < v.wheels(); ++i)
                     facts.on_ground |= v.state().wheels[static_cast<std::size_t>(i)].load > 0;
                   if (!facts.on_ground)
                     facts.mode = dot(facts.velocity, world.gravity(facts.position)) < 0 ? WalkerMode::rising
                                                                                         : WalkerMode::falling;
                   return facts;
                 },
                 [&](const Multirotor& m) {
                   ActorFacts facts = of_body(m.body());
                   facts.on_ground = false;
                   return facts;
                 },
                 [&](const Roller& r) {
                   ActorFacts facts;
                   const Vec3 centre = world.pose(r.body()).position, g = world.gravity(centre);
                   facts.up = norm(g) > 0 ? normalised(-g) : facts.up;
                   facts.position = centre - facts.up * r.tuning().radius;
                   facts.velocity = world.velocity(r.body());
                   facts.on_ground = r.state().on_ground;
                   facts.facing = normalised(in_plane(facts.velocity, facts.up), {1, 0, 0});
                   facts.mode = !facts.on_ground
                                    ? dot(facts.velocity, facts.up) > 0 ? WalkerMode::rising : WalkerMode::falling
                                : norm(facts.velocity) > 0.05 ? WalkerMode::running
                                                              : WalkerMode::idle;
                   return facts;
                 }},
      actors_[index].character);
}

Vec3 Stage::drawn_position(std::size_t index, double fraction) const {
  const Vec3 before = actors_[index].before;
  return before + (facts(index).position - before) * fraction;
}

void Stage::save(StageSnapshot& into) const {
  world.save(into.world_);
  into.actors_.clear();
  for (const Actor& a : actors_) {
    into.actors_.push_back({{}, a.intent, a.drive, a.fly, a.jump, a.dash, a.launch, a.crouch, a.before});
    std::visit([&](const auto& c) { into.actors_.back().state = c.state(); }, a.character);
  }
  into.ticks_ = ticks_, into.now_ = now_;
}

void Stage::restore(const StageSnapshot& from) {
  bool fits = from.actors_.size() == actors_.size();
  for (std::size_t i = 0; fits && i < actors_.size(); ++i)
    fits = std::visit(
        [&](const auto& c) {
          return std::holds_alternative<std::remove_cvref_t<decltype(c.state())>>(from.actors_[i].state);
        },
        actors_[i].character);
  if (!fits) throw InputError({{}, "snapshot", "one with other actors", "a snapshot of this stage", {}});
  world.restore(from.world_);
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    const auto& saved = from.actors_[i];
    Actor& a = actors_[i];
    a.intent = saved.intent, a.drive = saved.drive, a.fly = saved.fly, a.before = saved.before;
    a.jump = saved.jump, a.dash = saved.dash, a.launch = saved.launch, a.crouch = saved.crouch;
    std::visit([&](auto& c) { c.restore(std::get<std::remove_cvref_t<decltype(c.state())>>(saved.state)); },
               a.character);
  }
  ticks_ = from.ticks_, now_ = from.now_;
}

std::uint64_t Stage::hash() const {
  StateHash hash;
  const auto add_moves = [&](const auto& s) {
    hash.add(s.jump.since_press), hash.add(s.jump.since_ground), hash.add(s.jump.since_jump);
    hash.add(s.jump.since_landing), hash.add(static_cast<std::uint64_t>(s.jump.air_used));
    if constexpr (requires { s.stagger; }) {
      hash.add(s.facing), hash.add(s.up), hash.add(s.carried), hash.add(s.take_off);
      hash.add(static_cast<std::uint64_t>(s.mode)), hash.add(s.ground.normal), hash.add(s.footing.momentum);
      hash.add(s.dash.left), hash.add(s.dash.charge.since_use), hash.add(s.launch.left);
      hash.add(s.launch.charge.since_use), hash.add(s.stagger.since), hash.add(s.stagger.axis);
    }
    hash.add(static_cast<std::uint64_t>(s.on_ground)), hash.add(s.air_time);
  };
  const auto add_walker = [&](const WalkerBrain& w) {
    const WalkerState& s = w.state();
    hash.add(s.position), hash.add(s.velocity), hash.add(s.under), hash.add(s.passing);
    hash.add(s.wall.since_touch), hash.add(static_cast<std::uint64_t>(s.ledge.hold));
    hash.add(s.ledge.time), hash.add(s.ledge.hang), hash.add(s.ride.local);
    add_moves(s);
  };
  hash.add(ticks_), hash.add(now_);
  world.add_to(hash);
  for (const Actor& a : actors_) {
    std::visit(Overloaded{[&](const Walker& w) { add_walker(w); }, [&](const ForcedWalker& w) { add_walker(w); },
                          [&](const LedBody& p) {
                            hash.add(p.state().turn_rate), hash.add(p.state().speed), hash.add(p.state().expected);
                          },
                          [&](const Vehicle& v) {
                            for (int i = 0; i < v.wheels(); ++i) {
                              const WheelState& w = v.state().wheels[static_cast<std::size_t>(i)];
                              hash.add(w.spin), hash.add(w.stretch_along), hash.add(w.stretch_side), hash.add(w.hub);
                              hash.add(w.load);
                            }
                            hash.add(v.state().steer), hash.add(v.state().engine.revs);
                          },
                          [&](const Multirotor& m) {
                            for (const double s : m.state().speed) hash.add(s);
                            hash.add(m.state().height), hash.add(m.state().unforeseen);
                          },
                          [&](const auto& c) { add_moves(c.state()); }},
               a.character);
  }
  return hash.value();
}

}  // namespace jugend
