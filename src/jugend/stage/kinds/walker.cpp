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

namespace {

/// The turn that takes y to `up`.
Quat upright(const Vec3& up) {
  const Vec3 axis = cross({0, 1, 0}, up);
  return rotation(normalised(axis, {1, 0, 0}) * std::atan2(norm(axis), up.y));
}

Capsule capsule_of(const Walker& walker) {
  const double radius = walker.tuning().body.radius;
  return {radius, std::max(0.0, 0.5 * walker.height() - radius)};
}

Pose pose_of(const Walker& walker) {
  const WalkerState& s = walker.state();
  return {s.position + s.up * (0.5 * walker.height()), upright(s.up)};
}

/// What a walker does with its world begins with what others gave it, and ends with a velocity that they see.
template <class Act>
void with_body(Walker& walker, World& world, const Vec3& gained, Act&& act) {
  const bool shown = world.alive(walker.body());
  if (shown) walker.take_from_body(world.velocity(walker.body()) + gained);
  act();
  if (shown) world.set_motion(walker.body(), walker.show_velocity(), {});
}

}  // namespace

void WalkerKind::enter(Walker& walker, const std::string& name, World& world) {
  if (walker.tuning().meeting == Meeting::pass) return;
  BodyPlan plan;
  plan.shape = capsule_of(walker);
  plan.pose = pose_of(walker);
  plan.kind = BodyKind::proxy;
  plan.mass = walker.tuning().body.mass;
  plan.locks = lock::turn;
  plan.layers = walker_layer::swept;
  plan.name = name;
  walker.show_as(world.add(plan));
}

void WalkerKind::step(Walker& walker, const Controls& c, World& world, double dt) {
  with_body(walker, world, {}, [&] { walker.step(c.intent, world, dt); });
}

void WalkerKind::settle(Walker& walker, World& world, double dt) {
  // Forces act over the tick, so they count at its end, whoever came first in it.
  const bool shown = world.alive(walker.body());
  const Vec3 force = shown ? world.take_force(walker.body()) : Vec3{};
  with_body(walker, world, force * (dt / walker.tuning().body.mass), [&] { walker.settle(world, dt); });
}

void WalkerKind::show(const Walker& walker, World& world) {
  if (!world.alive(walker.body())) return;
  if (const Shape now = capsule_of(walker); world.shape(walker.body()) != now) world.set_shape(walker.body(), now);
  if (const Pose now = pose_of(walker); world.pose(walker.body()) != now) world.place(walker.body(), now);
}

std::size_t add_forced(Stage& stage, std::string name, const WalkerTuning& tuning, const LegsTuning& legs,
                       const Vec3& feet, const Vec3& facing) {
  check(tuning);
  check(legs, tuning);
  const Figure figure = figure_of(tuning, legs);
  const Vec3 g = stage.world.gravity(feet);
  const Vec3 up = norm(g) > 0 ? normalised(-g) : Vec3{0, 1, 0};
  BodyPlan plan;
  plan.shape = Capsule{tuning.body.radius, figure.half_length};
  plan.pose = {feet + up * figure.middle, upright(up)};
  plan.kind = BodyKind::dynamic;
  plan.mass = tuning.body.mass;
  plan.surface.friction = 0;  // legs hold it, its sides do not
  plan.surface.friction_rule = Combine::least;
  plan.layers = tuning.meeting == Meeting::pass ? walker_layer::passing : walker_layer::forced;
  plan.meets = ~(tuning.meeting == Meeting::pass ? walker_layer::all : walker_layer::passing);
  plan.name = name;
  plan.can_sleep = false;
  plan.buoyant = false;  // it swims
  return stage.add(std::move(name), ForcedWalker(tuning, legs, stage.world.add(plan), facing));
}

}  // namespace jugend
