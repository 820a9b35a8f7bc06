#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
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
    facts.slope = same_bits::acos(std::clamp(dot(s.ground.normal, s.up), -1.0, 1.0));
    facts.ground_velocity = s.ground.velocity;
  }
  return facts;
}

namespace {

Quat upright(const Vec3& up) { return rotation(turn_between({0, 1, 0}, up, {1, 0, 0})); }

Capsule capsule_of(const Walker& walker) {
  const double radius = walker.tuning().body.radius;
  return {radius, std::max(0.0, 0.5 * walker.height() - radius)};
}

Pose pose_of(const Walker& walker) {
  const WalkerState& s = walker.state();
  return {s.position + s.up * (0.5 * walker.height()), upright(s.up)};
}

/// What others gave its body since it was shown: pushes, and forces over `dt` s.
void take_given(Walker& walker, World& world, double dt = 0) {
  if (!world.alive(walker.body())) return;
  Vec3 given = world.take_push(walker.body());
  if (dt > 0) given += world.take_force(walker.body()) * dt;
  if (given != Vec3{}) walker.add_velocity(given / walker.tuning().body.mass);
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

void WalkerKind::take(Walker& walker, World& world) { take_given(walker, world); }

/// Forces acted over the tick, so they count at its end, before any of them settles. True: it was carried, so that who
/// stands on it may have to be.
bool WalkerKind::show(Walker& walker, World& world, double dt) {
  const bool carried = walker.be_carried(world);
  if (!world.alive(walker.body())) return false;
  take_given(walker, world, dt);
  world.set_motion(walker.body(), walker.state().velocity, {});
  if (const Shape now = capsule_of(walker); world.shape(walker.body()) != now) world.set_shape(walker.body(), now);
  if (const Pose now = pose_of(walker); world.pose(walker.body()) != now) world.place(walker.body(), now);
  return carried;
}

/// What pushed it while its time stood still never counts.
void WalkerKind::pause(Walker& walker, World& world, bool) {
  if (!world.alive(walker.body())) return;
  world.take_push(walker.body()), world.take_force(walker.body());
  world.set_motion(walker.body(), {}, {});
}

void WalkerKind::place(Walker& walker, const Placement& there, World&) {
  walker.place(there.pose.position, rotate(there.pose.orientation, {1, 0, 0}), there.velocity);
}

void WalkerKind::retuned(Walker& walker, World& world) {
  if (world.alive(walker.body())) world.set_mass(walker.body(), walker.tuning().body.mass);
}

void ForcedWalkerKind::place(ForcedWalker& walker, const Placement& there, World& world) {
  const Vec3& feet = there.pose.position;
  walker.place(feet, rotate(there.pose.orientation, {1, 0, 0}), {});
  const Vec3 up = normalised(-world.gravity(feet), walker.state().up);
  world.place(walker.body(), {feet + up * walker.middle(), upright(up)});
  world.set_motion(walker.body(), there.velocity, {});
}

void ForcedWalkerKind::retuned(ForcedWalker& walker, World& world) {
  const BodyId body = walker.body();
  const Pose pose = world.pose(body);
  const WalkerTuning& tuning = walker.tuning();
  world.set_shape(body, Capsule{tuning.body.radius, figure_of(tuning, walker.legs()).half_length});
  world.set_mass(body, tuning.body.mass);
  const Vec3 middle = walker.state().position + walker.state().up * walker.middle();
  if (norm(middle - pose.position) > 1e-12) world.place(body, {middle, pose.orientation});
}

ActorId add_forced(Stage& stage, std::string name, const WalkerTuning& tuning, const LegsTuning& legs, const Vec3& feet,
                   const Vec3& facing) {
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
  plan.surface.friction_rule = Mixing::least;
  plan.layers = tuning.meeting == Meeting::pass ? walker_layer::passing : walker_layer::forced;
  plan.meets = ~(tuning.meeting == Meeting::pass ? walker_layer::all : walker_layer::passing);
  plan.name = name;
  plan.can_sleep = false;
  plan.buoyant = false;  // it swims
  return stage.add(std::move(name), ForcedWalker(tuning, legs, stage.world.add(plan), facing));
}

}  // namespace jugend
