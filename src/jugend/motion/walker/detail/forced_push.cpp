// What a forced walker runs against that gives way: the push foreseen, so that it is the same wherever ticks fall.
#include <algorithm>
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/forced_body.hpp>

namespace jugend {

/// A force holds for a whole tick: one that knew nothing of what it meets would begin to push a tick late, and come
/// short of its speed by as much as friction takes in a tick. Its trunk may lean: it is the real one that meets that.
std::optional<ForcedWalker::Body::Push> ForcedWalker::Body::find_push(const RunRates& rates, double time) const {
  const Vec3 wished = normalised(in_plane(wish(), state.up)), own = state.velocity - state.ground.velocity;
  const Vec3 way = along_ground(wished) * (near_gap() + norm(own) * time);
  if (way == Vec3{}) return {};
  const Vec3 half = rotate(body.pose.orientation, {0, figure_of(tuning, legs).half_length, 0});
  const UprightCapsule leaning{{body.centre - half, body.centre + half}, tuning.body.radius - skin};
  const auto hit = surroundings.sweep(leaning.view(), way, solids());
  if (!hit) return {};
  const BodyFacts facts = surroundings.facts(hit->body);
  const Vec3 n = normalised(in_plane(hit->normal, state.up));
  const double yields = facts.inverse_mass_at(push_place(facts, hit->point, state.up), n);
  if (yields <= 0 || dot(n, way) >= 0) return {};
  Push met{hit->body, n, to_local(facts.pose, hit->point)};
  met.mass = 1 / yields;
  met.speed = -dot(own, n);
  met.gives_way = -dot(facts.velocity_at(hit->point) - state.ground.velocity, n);
  met.most = std::min(rates.accelerate * body.mass, legs.run_force);
  met.lifts = dot(hit->normal, state.up) / dot(hit->normal, n);
  const double closes = met.speed - met.gives_way, gap = std::max(0.0, -dot(way, n) * hit->distance - skin);
  met.touched = gap <= touch_margin() && closes < 0.02 * tuning.run.top_speed;
  if (met.touched) {
    const Pushed& last = state.pushed;
    if (last.goes_on(hit->body)) met.resists = last.withstood(-dot(own, last.normal), body.mass + met.mass, last.since);
    return met;
  }
  const double gains = std::clamp((-dot(wish(), n) - met.speed) / time, 0.0, met.most / body.mass);
  met.from = first_root_within(0.5 * gains, closes, -gap, time);
  return met.from <= time ? std::optional(met) : std::nullopt;
}

/// They go on together. The world lets them do so at their first touch, and no force of its legs.
void ForcedWalker::Body::meet_pushed() {
  push->met = true;
  const double closes = -dot(state.velocity - state.ground.velocity, push->normal) - push->gives_way;
  if (push->touched || closes <= 0) return;
  const Vec3 change = push->normal * (closes * push->mass / (body.mass + push->mass));
  state.velocity += change;
  answered += change, answered_way += change * (dt - now);
}

/// What it runs into it pushes along: the two of them speed up together, by what nothing withstands.
RunRamp ForcedWalker::Body::push_ramp(const Vec3& into, const Vec3& target, RunRates rates, double time) const {
  const double least = 1e-9 * body.mass;  // kg m/s²
  rates.accelerate = std::max(push->most - push->resists, least) / (body.mass + push->mass);
  return next_forced_ramp(into, target, rates, time);
}

/// By what it pushes, as it speeds up by `acceleration` for `time` (s): with N. What it stands on it pushes back by as
/// much.
double ForcedWalker::Body::be_answered(const Vec3& acceleration, double time) {
  const double gains = -dot(acceleration, push->normal);
  const double most = std::max(0.0, push->most - body.mass * std::max(0.0, gains));
  const double force = std::clamp(push->resists + push->mass * gains, 0.0, most);
  const Vec3 change = push->normal * (force / body.mass * time);
  answered += change, answered_way += change * (dt - now - 0.5 * time);
  if (state.ground.mass > 0)
    surroundings.force(state.ground.body, push->normal * (force * time / dt), state.ground.point);
  return force;
}

/// For the next tick.
void ForcedWalker::Body::note_push() {
  state.pushed = {};
  if (!pushes() || !state.on_ground) return;
  const Vec3& n = push->normal;
  const double force = -dot(state.velocity - answered - body.velocity, n) * body.mass / dt;
  state.pushed = {push->body, push->touched ? std::max(0.0, force) : -1, 0, n, push->local, push->speed, 0};
}

/// What it pushes goes on before it: it does not come to stand on that, also where that leans over.
Filter ForcedWalker::Body::underfoot() const {
  Filter those = solids();
  const BodyId pushed = pushes() ? push->body : state.pushed.goes_on() ? state.pushed.body : BodyId{};
  if (!(state.on_ground && state.ground.body == pushed)) those.ignored = pushed;
  return those;
}

}  // namespace jugend
