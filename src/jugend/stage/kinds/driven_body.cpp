#include <jugend/stage/kinds/driven_body.hpp>

namespace jugend {

ActorFacts facts_of_body(BodyId body, const Surroundings& around) {
  ActorFacts facts;
  const BodyFacts known = around.facts(body);
  const Pose& pose = known.pose;
  facts.position = pose.position;
  facts.velocity = known.velocity;
  facts.facing = rotate(pose.orientation, {1, 0, 0});
  facts.up = rotate(pose.orientation, {0, 1, 0});
  facts.on_ground = true;
  facts.mode = norm(facts.velocity) > 0.05 ? ActorMode::running : ActorMode::idle;
  return facts;
}

}  // namespace jugend
