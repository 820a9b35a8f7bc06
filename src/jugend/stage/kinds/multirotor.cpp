#include <jugend/stage/kinds/multirotor.hpp>

namespace jugend {

ActorFacts MultirotorKind::facts(const Multirotor& craft, const Surroundings& around) {
  ActorFacts facts = facts_of_body(craft.body(), around);
  facts.on_ground = false;
  return facts;
}

ActorId add_multirotor(Stage& stage, std::string name, const MultirotorTuning& tuning, BodyId body) {
  Multirotor craft(tuning, body, stage.world);
  stage.world.set_sleeping(body, false);
  return stage.add(std::move(name), std::move(craft));
}

}  // namespace jugend
