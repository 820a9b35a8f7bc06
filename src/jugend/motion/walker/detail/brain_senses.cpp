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

/// The water round soles at `place`, and how deep they are in it; without density: none. On bent legs they may be below
/// the water's floor.
Medium WalkerBrain::Tick::water_at(const Vec3& place) const {
  Medium water;
  for (const double above : {skin, 0.5 * height()}) {
    water = surroundings.medium(place + state.up * above, state.up);
    water.depth += above;
    if (water.density > 0 || state.under == 0) break;
  }
  return water;
}

/// m that it is deeper than it floats.
double WalkerBrain::Tick::below_float(const Medium& water) const {
  return water.density > 0 ? water.depth - tuning.swim.float_share * height() : 0;
}

/// How far it is under water, and whether that would carry it, at a place and a speed upwards (m/s).
WalkerBrain::Tick::Wet WalkerBrain::Tick::wet_at(const Vec3& place, double rising) const {
  const Medium water = water_at(place);
  if (!(water.density > 0)) return {0, false};
  const double under = std::clamp(water.depth / height(), 0.0, 1.0);
  // Once it swims it goes on where it bobs a little higher. A rising jump leaves the water.
  const bool afloat = under >= tuning.swim.float_share * (swims ? 0.8 : 1 - 1e-6);
  const bool leaps = state.jump.rising || rising > tuning.swim.rise_speed + 0.5 * tuning.length_scale;
  const bool may = state.ledge.hold == Hold::free && !dashing() && own_path() != OwnPath::whole;
  return {under, may && afloat && !(leaps && under < 1)};
}

void WalkerBrain::Tick::feel_water() {
  const double before = state.under, rising = dot(state.velocity, state.up);
  const Wet wet = wet_at(place() + state.up * take_off_bend(), rising);  // bent legs stand on the ground all the same
  state.under = wet.under, swims = wet.carried;
  if (before == 0 && state.under > 0 && rising < -0.5 * tuning.length_scale) emit(WalkerEventKind::splashed, -rising);
  if (swims && state.on_ground) leave_ground(false);
}

/// After `time` s of swimming, on to ground within `reach` m, or `lift` m above its soles, where the water would not
/// carry it anew.
void WalkerBrain::Tick::come_ashore(double time, double lift, double reach) {
  now += time;
  const bool shallow = water_at(place()).depth < tuning.swim.float_share * height();
  if (const Ground g = shallow ? sense(state.position, lift, reach) : Ground{}; g.walkable) {
    swims = false;
    land(g, state.velocity);
  }
  now -= time;
}

/// Of a flight: until its soles reach the water, or that carries it.
void WalkerBrain::Tick::end_at_water(FlightPlan& plan) const {
  const auto ends_before = [&](double t) {
    const Vec3 way = plan.velocity * t + plan.acceleration * (0.5 * t * t);
    const Wet wet = wet_at(place() + way, dot(plan.velocity + plan.acceleration * t, state.up));
    return wet.carried || (state.under == 0 && wet.under > 0);
  };
  if (plan.duration < instant || !ends_before(plan.duration)) return;
  const double time = where_it_ends(0, plan.duration, 40, [&](double t) { return !ends_before(t); }).after;
  if (time > instant && time < plan.duration) plan.end_after(time);
}

/// s of `time` for which it goes on swimming as it does.
double WalkerBrain::Tick::time_afloat(double time) const {
  const auto bobs_at = [&](const Vec3& there) { return bobs(tuning.swim, below_float(water_at(there))); };
  const bool bobbing = bobs_at(place());
  const auto goes_on_at = [&](double t) {
    const SwimStep step = plan_swim(t);
    const Vec3 there = place() + step.displacement;
    return wet_at(there, dot(step.velocity, state.up)).carried && bobs_at(there) == bobbing;
  };
  return goes_on_at(time) ? time : where_it_ends(0, time, 40, goes_on_at).after;
}

/// The swimmer's motion over `time`, where nothing is in its way.
SwimStep WalkerBrain::Tick::plan_swim(double time) const {
  const Vec3& up = state.up;
  const Medium water = water_at(place());
  const double deep = below_float(water);
  return swim(tuning.swim, {state.velocity, water.flow, intent.move, up, deep, intent.crouch.held}, time);
}

}  // namespace jugend
