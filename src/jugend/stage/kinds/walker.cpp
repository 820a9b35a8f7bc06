#include <algorithm>
#include <cmath>
#include <jugend/stage/kinds/walker.hpp>

namespace jugend {

ActorFacts AnyWalkerKind::facts(const WalkerBrain& walker, const World&) {
  const WalkerState& s = walker.state();
  StaggerState hit = s.stagger;
  ActorFacts facts;
  facts.position = s.position, facts.velocity = s.velocity;
  facts.facing = s.facing, facts.up = s.up;
  facts.mode = s.mode, facts.on_ground = s.on_ground;
  facts.control = Stagger{walker.tuning().stagger, hit}.control(0);
  if (s.on_ground) {
    facts.slope = std::acos(std::clamp(dot(s.ground.normal, s.up), -1.0, 1.0));
    facts.ground_velocity = s.ground.velocity;
  }
  return facts;
}

std::size_t add_forced(Stage& stage, std::string name, const WalkerTuning& tuning, const LegsTuning& legs,
                       const Vec3& feet, const Vec3& facing) {
  check(tuning);
  check(legs, tuning);
  const Figure figure = figure_of(tuning, legs);
  const Vec3 g = stage.world.gravity(feet);
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
  return stage.add(std::move(name), ForcedWalker(tuning, legs, stage.world.add(plan), facing));
}

}  // namespace jugend
