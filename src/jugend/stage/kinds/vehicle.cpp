#include <algorithm>
#include <jugend/stage/kinds/vehicle.hpp>

namespace jugend {

ActorFacts VehicleKind::facts(const Vehicle& vehicle, const Surroundings& around) {
  ActorFacts facts = facts_of_body(vehicle.body(), around);
  facts.on_ground = false, facts.ground_velocity = vehicle.state().ground;
  for (int i = 0; i < vehicle.wheels(); ++i)
    facts.on_ground |= vehicle.state().wheels[static_cast<std::size_t>(i)].load > 0;
  if (!facts.on_ground) {
    const bool rises = dot(facts.velocity, around.gravity(facts.position)) < 0;
    facts.mode = rises ? ActorMode::rising : ActorMode::falling;
  }
  return facts;
}

InlineList<ActorEvent, 2> VehicleKind::events(const Vehicle& vehicle, const PastTick& tick) {
  InlineList<ActorEvent, 2> told;
  int down = 0, left = 0, landed = 0;
  double time = 0, gone = 0, speed = 0;
  for (int i = 0; i < vehicle.wheels(); ++i) down += vehicle.state().wheels[static_cast<std::size_t>(i)].pressed;
  for (const VehicleEvent& e : vehicle.events()) {
    if (e.kind == VehicleEventKind::wheel_left_ground) ++left, gone = std::max(gone, e.time);
    if (e.kind != VehicleEventKind::wheel_landed) continue;
    if (landed++ == 0 || e.time < time) time = e.time;
    speed = std::max(speed, e.value);
  }
  const auto at = [&](double t) { return tick.before + (tick.now - tick.before) * (t / tick.dt); };
  if (down == 0 && left > 0) told.push_back({WalkerEventKind::left_ground, gone, at(gone), 0, {}, {}, {}});
  if (down > 0 && down == landed && left == 0)
    told.push_back({WalkerEventKind::landed, time, at(time), speed, {}, {}, {}});
  return told;
}

ActorId add_vehicle(Stage& stage, std::string name, const VehicleTuning& tuning, BodyId body) {
  Vehicle vehicle(tuning, body, stage.world);
  stage.world.set_sleeping(body, false);
  return stage.add(std::move(name), std::move(vehicle));
}

}  // namespace jugend
