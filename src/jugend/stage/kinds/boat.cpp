#include <jugend/stage/kinds/boat.hpp>

namespace jugend {

ActorFacts BoatKind::facts(const Boat& boat, const Surroundings& around) {
  ActorFacts facts = facts_of_body(boat.body(), around);
  facts.on_ground = false;
  const Vec3 g = around.gravity(facts.position), up = normalised(-g, facts.up);
  const Vec3 keel = around.facts(boat.body()).centre - facts.up * boat.tuning().bottom;
  const bool rises = dot(facts.velocity, g)<0, afloat = around.medium(keel, up).density> 0;
  facts.mode = afloat ? ActorMode::swimming : rises ? ActorMode::rising : ActorMode::falling;
  return facts;
}

ActorId add_boat(Stage& stage, std::string name, const BoatTuning& tuning, BodyId body) {
  Boat boat(tuning, body, stage.world);
  stage.world.set_water_drag(body, 0);
  stage.world.set_sleeping(body, false);
  return stage.add(std::move(name), std::move(boat));
}

}  // namespace jugend
