#include <jugend/base/error.hpp>
#include <jugend/stage/kinds/roller.hpp>

namespace jugend {

ActorFacts RollerKind::facts(const Roller& roller, const Surroundings& around) {
  ActorFacts facts;
  const BodyFacts ball = around.facts(roller.body());
  const Vec3 centre = ball.pose.position, g = around.gravity(centre);
  if (norm(g) > 0) facts.up = normalised(-g);
  facts.position = centre - facts.up * roller.tuning().radius;
  facts.velocity = ball.velocity;
  facts.on_ground = roller.state().on_ground;
  facts.facing = normalised(in_plane(facts.velocity, facts.up), {1, 0, 0});
  const bool rises = dot(facts.velocity, facts.up) > 0, moves = norm(facts.velocity) > 0.05;
  facts.mode = !facts.on_ground ? rises ? ActorMode::rising : ActorMode::falling
               : moves          ? ActorMode::running
                                : ActorMode::idle;
  return facts;
}

InlineList<ActorEvent, 8> RollerKind::events(const Roller& roller, const PastTick& tick) {
  static constexpr WalkerEventKind kinds[] = {WalkerEventKind::jumped, WalkerEventKind::left_ground,
                                              WalkerEventKind::landed};
  InlineList<ActorEvent, 8> told;
  for (const RollerEvent& e : roller.events()) {
    const Vec3 at = tick.dt > 0 ? tick.before + (tick.now - tick.before) * (e.time / tick.dt) : tick.now;
    told.push_back({kinds[static_cast<int>(e.kind)], e.time, at, e.value, {}, e.from, {}});
  }
  return told;
}

ActorId add_roller(Stage& stage, std::string name, const RollerTuning& tuning, BodyId ball) {
  const World& world = stage.world;
  const auto* sphere = world.kind(ball) == BodyKind::dynamic ? std::get_if<Sphere>(&world.shape(ball)) : nullptr;
  if (!sphere) fail({{}, "actor.body", "a body that is no dynamic sphere", "a dynamic sphere", {}});
  RollerTuning fitted = tuning;
  fitted.radius = sphere->radius;
  return stage.add(std::move(name), Roller(fitted, ball));
}

}  // namespace jugend
