#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/stage/kinds/walker.hpp>

namespace jugend {

ActorFacts AnyWalkerKind::facts(const WalkerBrain& walker, const Surroundings&) {
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
void take_given(Walker& walker, Host& host, double dt = 0) {
  if (!host.alive(walker.body())) return;
  if (const Vec3 given = host.take_given(walker.body(), dt); given != Vec3{})
    walker.add_velocity(given / walker.tuning().body.mass);
}

}  // namespace

void WalkerKind::enter(Walker& walker, const std::string& name, Host& host) {
  if (walker.tuning().meeting == Meeting::pass) return;
  walker.show_as(host.add_figure(name, capsule_of(walker), pose_of(walker), walker.tuning().body.mass));
}

void WalkerKind::take(Walker& walker, Host& host) { take_given(walker, host); }

/// Forces acted over the tick, so they count at its end, before any of them settles. True: it was carried, so that who
/// stands on it may have to be.
bool WalkerKind::show(Walker& walker, Host& host, double dt) {
  const bool carried = walker.be_carried(host);
  if (!host.alive(walker.body())) return false;
  take_given(walker, host, dt);
  host.set_motion(walker.body(), walker.state().velocity, {});
  host.set_capsule(walker.body(), capsule_of(walker));
  if (const Pose now = pose_of(walker); host.facts(walker.body()).pose != now) host.place(walker.body(), now);
  return carried;
}

/// What pushed it while its time stood still never counts.
void WalkerKind::pause(Walker& walker, Host& host, bool) {
  if (!host.alive(walker.body())) return;
  host.take_given(walker.body(), 1);
  host.set_motion(walker.body(), {}, {});
}

void WalkerKind::place(Walker& walker, const Placement& there, Host&) {
  walker.place(there.pose.position, rotate(there.pose.orientation, {1, 0, 0}), there.velocity);
}

void WalkerKind::retuned(Walker& walker, Host& host) {
  if (host.alive(walker.body())) host.set_mass(walker.body(), walker.tuning().body.mass);
}

void ForcedWalkerKind::place(ForcedWalker& walker, const Placement& there, Host& host) {
  const Vec3& feet = there.pose.position;
  walker.place(feet, rotate(there.pose.orientation, {1, 0, 0}), {});
  const Vec3 up = normalised(-host.gravity(feet), walker.state().up);
  host.place(walker.body(), {feet + up * walker.middle(), upright(up)});
  host.set_motion(walker.body(), there.velocity, {});
}

void ForcedWalkerKind::retuned(ForcedWalker& walker, Host& host) {
  const BodyId body = walker.body();
  const Pose pose = host.facts(body).pose;
  const WalkerTuning& tuning = walker.tuning();
  host.set_capsule(body, Capsule{tuning.body.radius, figure_of(tuning, walker.legs()).half_length});
  host.set_mass(body, tuning.body.mass);
  const Vec3 middle = walker.state().position + walker.state().up * walker.middle();
  if (norm(middle - pose.position) > 1e-12) host.place(body, {middle, pose.orientation});
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
