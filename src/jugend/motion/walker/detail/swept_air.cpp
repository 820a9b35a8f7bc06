// A swept walker through air and water: flights, touches, strokes.
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/swept_body.hpp>

namespace jugend {

double Walker::Body::fly(const FlightPlan& plan) {
  Filter others = solids();
  for (int bodies = 0; bodies < 2; ++bodies) {
    const auto hit = surroundings.sweep(trunk(state.position, 0).view(), plan.displacement, others);
    if (!hit) break;
    // Ground that rises or sinks, and other walkers, are met where they are by then, or not at all.
    const BodyFacts facts = surroundings.facts(hit->body);
    const Vec3 velocity = facts.moving ? facts.velocity_at(hit->point) : Vec3{};
    const bool met_as_seen = dot(hit->normal, state.up) > 0.5 || (facts.layers & walker_layer::swept) != 0;
    const bool moves = std::abs(dot(velocity, hit->normal)) > 1e-9 && met_as_seen;
    if (!moves) return touch(*hit, plan, {});
    const Vec3 relative = plan.displacement - velocity * plan.duration;
    const auto met = surroundings.sweep(trunk(state.position, 0).view(), relative, others);
    if (met && met->body == hit->body) return touch(*met, plan, velocity);
    others.passed = hit->body;
  }
  note_flown(plan);
  return plan.duration;
}

/// The end of a flight, or of a part of it: time and place of the touch, and what becomes of the speed. Against ground
/// that moves with `ground_velocity` it is placed as seen from there: that carries it through all of the tick.
double Walker::Body::touch(const Hit& hit, const FlightPlan& plan, const Vec3& ground_velocity) {
  const Vec3 velocity = plan.velocity - ground_velocity, &acceleration = plan.acceleration;
  const Vec3 displacement = plan.displacement - ground_velocity * plan.duration;
  const double share = backed_off(hit, displacement);
  // The sweep goes straight, the flight is a parabola: of the same height above the plane touched, so
  // n·(v t + a t²/2) = n·displacement × share gives the time, and the parabola the place.
  const Vec3& n = hit.normal;
  double spent =
      first_root_within(0.5 * dot(n, acceleration), dot(n, velocity), -dot(n, displacement) * share, plan.duration);
  if (!(spent >= 0)) spent = share * plan.duration;
  const Vec3 on_chord = displacement * share;
  const Vec3 aside = velocity * spent + acceleration * (0.5 * spent * spent) - on_chord;
  state.position += on_chord;
  const auto blocked = surroundings.sweep(trunk(state.position, 0).view(), aside, solids());
  if (!blocked) state.position += aside;

  const Vec3 arriving = plan.velocity + acceleration * spent;
  const BodyFacts facts = surroundings.facts(hit.body);
  const Vec3 relative = arriving - facts.velocity_at(hit.point);
  now += spent;
  state.velocity = arriving;
  const std::size_t told = events.size();
  if (!stomp(facts, hit, relative) && !touch_ground(hit, arriving, relative)) {
    if (norm(on_chord) > 0.1 * skin) contacts = {};  // it has left those that it touched before
    bounce_off(hit, facts, arriving, -dot(relative, n));
  }
  if (ground_velocity != Vec3{}) {
    const Vec3 moved = ground_velocity * now;
    for (std::size_t i = told; i < events.size(); ++i) events[i].position += moved;
    if (state.on_ground) {
      ridden = now, ridden_body = state.ground.body;
    } else {
      const auto stopped = surroundings.sweep(trunk(state.position, 0).view(), moved, solids());
      state.position += stopped ? moved * backed_off(*stopped, moved) : moved;
    }
  }
  now -= spent;
  return spent;
}

/// Down on to ground that carries it?
bool Walker::Body::touch_ground(const Hit& hit, const Vec3& arriving, const Vec3& relative) {
  if (dot(relative, state.up) > 1e-9 || dot(hit.normal, state.up) <= 0) return false;
  const Ground g = sense(state.position, 4 * skin, 4 * skin);
  if (g.walkable) land(g, arriving);
  return g.walkable;
}

/// What contacts leave of the speed, with `into` m/s into what was hit.
void Walker::Body::bounce_off(const Hit& hit, const BodyFacts& facts, const Vec3& arriving, double into) {
  const Vec3& n = hit.normal;
  if (into > 0) {
    const double own = 1 / tuning.body.mass, others = facts.inverse_mass_at(hit.point, n);
    const double impulse = into / (own + others);
    state.velocity += n * (impulse * own);
    if (facts.mass > 0) surroundings.push(hit.body, n * -impulse, hit.point);
    const double on_with = -dot(state.velocity, n);  // it follows a body that gives way, once that has moved
    if (on_with > 0) kept += n * -on_with, state.velocity += n * on_with;
  }
  const bool rose = dot(arriving, state.up) > least_rise;
  if (dot(n, state.up) < -0.1 && rose) {
    emit(WalkerEventKind::bumped_head, std::max(0.0, into));
    state.launch.left = 0;
  }
  if (rose && dot(state.velocity, state.up) <= 1e-12) {
    note_apex();
    jump.fall();
  }
  contacts.add(n);
  if (dot(n, state.up) > 0.02) slid = true;
  // Slopes that are each too steep can hold together; then there is no way down.
  state.wedged = slid && contacts.size() > 1 && dot(contacts.clip(-state.up), state.up) > -1e-6;
  if (state.wedged) state.velocity = in_plane(state.velocity, state.up);
}

double Walker::Body::swim_stretch(double time) {
  const auto [way, end] = plan_swim(time);
  const auto hit = surroundings.sweep(trunk(state.position, 0).view(), way, solids());
  if (!hit) {
    state.position += way;
    state.velocity = contacts.clip(end);
    return time;
  }
  const double share = backed_off(*hit, way);
  state.position += way * share;
  const double into = dot(end - surroundings.facts(hit->body).velocity_at(hit->point), hit->normal);
  state.velocity = end - hit->normal * std::min(0.0, into);
  // What is left of the way goes along what was met.
  const Vec3 rest = in_plane(way * (1 - share), hit->normal);
  const auto second = surroundings.sweep(trunk(state.position, 0).view(), rest, solids());
  state.position += second ? rest * backed_off(*second, rest) : rest;
  if (const Ground g = sense(state.position, skin, tuning.ground.probe);
      g.walkable && state.under < tuning.swim.float_share) {
    swims = false;
    land(g, state.velocity);
  }
  return time;
}

}  // namespace jugend
