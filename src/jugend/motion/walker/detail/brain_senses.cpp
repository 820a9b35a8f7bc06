// What a walker feels round it: bodies that hurt and bodies that bounce, walls, water.
#include <algorithm>
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/brain_tick.hpp>

namespace jugend {

/// Bodies whose touch is a hit: from the side they throw back, from above they are stomped.
void WalkerBrain::Tick::feel_dangers() {
  Filter harmful = others();
  harmful.layers = walker.dangers;
  std::array<Overlap, 1> found;
  if (surroundings.overlaps(trunk(state.position, feet_to_trunk()).view(), 4 * touch_margin(), found, harmful) == 0)
    return;
  const Overlap& touch = found[0];
  const BodyFacts facts = surroundings.facts(touch.body);
  const Vec3 relative = state.velocity - facts.velocity_at(touch.point);
  if (stomp(facts, {0, touch.point, touch.normal, touch.body, 0}, relative) || state.was_hit) return;
  const bool leaving = dot(relative, touch.normal) > 1e-6;  // it bounced off in this tick
  if (leaving || !stagger.vulnerable()) return;
  Vec3 away = in_plane(state.position - facts.pose.position, state.up);
  if (norm(away) < tuning.body.radius) away = facts.velocity;
  state.hit = {away, 0, 0, touch.point};
  state.was_hit = true;
}

/// Falling on to what can be stomped bounces off it.
bool WalkerBrain::Tick::stomp(const BodyFacts& facts, const Hit& hit, const Vec3& relative) {
  const bool from_above = dot(hit.normal, state.up) > 0.5 && dot(relative, state.up) < -1e-6 && !state.on_ground;
  if (!(facts.layers & walker.stompable) || !from_above) return false;
  const double bounce = intent.jump.held ? tuning.stagger.bounce_held : tuning.stagger.bounce;
  const double down = -dot(relative, state.up);
  const Vec3 before = state.velocity;
  state.velocity += state.up * (down + tuning.jump.speed_for(bounce));
  if (facts.mass > 0) {
    const Vec3 given = (state.velocity - before) * -tuning.body.mass;
    surroundings.push(hit.body, kick_impulse(facts, given, hit.point, state.up, tuning.kick.speed_cap), hit.point);
  }
  state.take_off = place();
  jump.fall();
  jump.refresh();
  emit(WalkerEventKind::stomped, down, hit.body);
  return true;
}

/// A wall that input pushes into, or that was touched just now.
void WalkerBrain::Tick::feel_walls() {
  state.wall.sliding = false;
  touched_wall.reset();
  if (!tuning.wall.on || state.on_ground || swims) return;
  state.wall.since_touch += now;
  touched_wall = touch_wall(state.wall, tuning.wall, trunk(state.position, feet_to_trunk()).view(), wall_reach(),
                            pushed_way(steered_move(), state.up), state.up, surroundings, solids());
  state.wall.since_touch -= now;
  state.wall.sliding = touched_wall && touched_wall->pushing && dot(state.velocity, state.up) < least_rise &&
                       !dashing() && !thrown() && own_path() == OwnPath::none;
  if (state.wall.sliding) refill();
}

/// Of a flight beside a wall: until that is out of reach, or comes within it where input pushes into it, so that it
/// counts until then, and from then on.
void WalkerBrain::Tick::end_at_wall(FlightPlan& plan) const {
  if (touched_wall) {
    const Vec3& n = touched_wall->normal;
    const double room = touched_wall->room + 1e-6 * wall_reach();  // then a look from there misses it
    const double time = first_root_within(0.5 * dot(n, plan.acceleration), dot(n, plan.velocity - state.wall.velocity),
                                          -room, plan.duration);
    if (time > instant && time < plan.duration) plan.end_after(time);
    return;
  }
  const Vec3 way = pushed_way(steered_move(), state.up), displacement = as_seen(plan);
  if (!tuning.wall.on || way == Vec3{}) return;
  const Vec3 towards = way * (wall_reach() * (1 - 1e-6));  // then a look from there meets it
  const auto hit = surroundings.sweep(trunk(state.position + towards, feet_to_trunk()).view(), displacement, solids());
  if (!hit || hit->distance <= 0 || dot(hit->normal, displacement) >= 0) return;
  const Vec3& n = hit->normal;
  const double time = first_root_within(0.5 * dot(n, plan.acceleration), dot(n, plan.velocity - frame),
                                        -dot(n, displacement) * hit->distance, plan.duration);
  if (!(time > instant) || time >= plan.duration) return;
  plan.end_after(time);
}

void WalkerBrain::Tick::feel_water() {
  Medium water = surroundings.medium(state.position + state.up * skin, state.up);
  water.depth += skin;
  const double before = state.under;
  state.under = water.density > 0 ? std::clamp(water.depth / height(), 0.0, 1.0) : 0;
  if (before == 0 && state.under > 0 && dot(state.velocity, state.up) < -0.5 * tuning.length_scale)
    emit(WalkerEventKind::splashed, -dot(state.velocity, state.up));
  swims = afloat() && state.ledge.hold == Hold::free && !dashing();
  if (!swims) return;
  if (state.on_ground) leave_ground(false);
  // A rising jump leaves the water.
  if (state.jump.rising || dot(state.velocity, state.up) > tuning.swim.rise_speed + 0.5 * tuning.length_scale)
    swims = state.under >= 1;
}

/// The swimmer's motion over `time`, where nothing is in its way.
SwimStep WalkerBrain::Tick::plan_swim(double time) const {
  const Vec3& up = state.up;
  const Medium water = surroundings.medium(state.position + up * skin, up);
  const double deep = state.under > 0 ? water.depth + skin - tuning.swim.float_share * height() : 0;
  return swim(tuning.swim, {state.velocity, water.flow, intent.move, up, deep, intent.crouch.held}, time);
}

}  // namespace jugend
