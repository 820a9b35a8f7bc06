// A swept walker through air and water: flights, touches, strokes.
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/swept_body.hpp>

namespace jugend {

/// What moves with the frame is found by a sweep as seen from there, what stands by one as seen from the world. Each is
/// then met where it is by then, or not at all.
double Walker::Body::fly(const FlightPlan& whole) {
  FlightPlan plan = whole;
  const Held held = held_for(contacts, {as_seen(plan), plan.velocity - frame, plan.acceleration, plan.duration});
  if (held.time == 0) return contacts = {}, 0;
  if (!held.to_the_end) plan.end_after(held.time);
  std::optional<Meeting> first = first_met(plan, frame);
  if (frame != Vec3{}) {
    const auto other = first_met(plan, {});
    if (other && (!first || other->hit.distance < first->hit.distance)) first = other;
  }
  if (first) return touch(*first, plan);
  note_flown(plan);
  if (!held.to_the_end) contacts = {}, leans = true, arc = held.arc;
  return plan.duration;
}

std::optional<Walker::Body::Meeting> Walker::Body::first_met(const FlightPlan& plan, const Vec3& seen_from) const {
  Filter those = solids();
  those.still_only = seen_from != frame;  // what moves otherwise is found from one of them alone: on a deck as on land
  const auto sweep_past = [&](const Vec3& velocity) {
    const Vec3 start = state.position + (frame - velocity) * now;
    return surroundings.sweep(trunk(start, 0).view(), plan.displacement - velocity * plan.duration, those);
  };
  for (int bodies = 0; bodies < 3; ++bodies) {
    const auto hit = sweep_past(seen_from);
    if (!hit) break;
    const BodyFacts facts = surroundings.facts(hit->body);
    const Vec3 velocity = facts.moving ? facts.velocity_at(hit->point) : Vec3{};
    if (std::abs(dot(velocity - seen_from, hit->normal)) <= 1e-9) return Meeting{*hit, seen_from};
    const auto met = sweep_past(velocity);
    if (met && met->body == hit->body) return Meeting{*met, velocity};
    those.passed = hit->body;
  }
  return {};
}

/// The end of a flight, or of a part of it: time and place of the touch, and what becomes of the speed.
double Walker::Body::touch(const Meeting& met, const FlightPlan& plan) {
  const Hit& hit = met.hit;
  see_from(met.velocity);
  const Vec3 velocity = plan.velocity - frame, &acceleration = plan.acceleration;
  const Vec3 displacement = plan.displacement - frame * plan.duration;
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
  if (!stomp(facts, hit, relative) && !touch_ground(hit, arriving, relative)) {
    if (norm(on_chord) > 0.1 * skin) contacts = {};  // it has left those that it touched before
    bounce_off(hit, facts, arriving, relative);
  }
  if (state.on_ground) see_from(state.ground.velocity);
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

/// What contacts leave of the speed. What gives way it follows once that has moved.
void Walker::Body::bounce_off(const Hit& hit, const BodyFacts& facts, const Vec3& arriving, const Vec3& relative) {
  const Vec3& n = hit.normal;
  const double into = -dot(relative, n);
  if (into > 0) {
    const double own = 1 / tuning.body.mass, others = facts.inverse_mass_at(hit.point, n);
    const double impulse = into / (own + others);
    state.velocity += n * (impulse * own);
    if (facts.mass > 0) surroundings.push(hit.body, n * -impulse, hit.point);
    const double on_with = dot(frame - state.velocity, n);
    if (facts.mass > 0 && on_with > 0) withheld += n * -on_with, state.velocity += n * on_with;
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
  contacts.add(n, dot(into > 0 ? state.velocity : facts.velocity_at(hit.point), n));
  if (dot(n, state.up) > 0.02) slid = true;
  // Slopes that are each too steep can hold together; then there is no way down.
  state.wedged = slid && contacts.size() > 1 && dot(contacts.clip_force(-state.up), state.up) > -1e-6;
  if (state.wedged) state.velocity = in_plane(state.velocity, state.up);
}

double Walker::Body::swim_stretch(double time) {
  see_from({});
  const auto [displacement, end] = plan_swim(time);
  const auto hit = surroundings.sweep(trunk(state.position, 0).view(), displacement, solids());
  if (!hit) {
    state.position += displacement;
    state.velocity = contacts.clip(end);
    return time;
  }
  const double share = backed_off(*hit, displacement);
  state.position += displacement * share;
  const double into = dot(end - surroundings.facts(hit->body).velocity_at(hit->point), hit->normal);
  state.velocity = end - hit->normal * std::min(0.0, into);
  // What is left of the way goes along what was met.
  const Vec3 rest = in_plane(displacement * (1 - share), hit->normal);
  const auto second = surroundings.sweep(trunk(state.position, 0).view(), rest, solids());
  state.position += second ? rest * backed_off(*second, rest) : rest;
  come_ashore(time, skin, tuning.ground.probe);
  return time;
}

}  // namespace jugend
