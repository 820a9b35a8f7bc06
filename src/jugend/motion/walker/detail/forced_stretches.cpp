// A forced walker's stretches: along the ground on its legs, through the air, in water.
#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/forced_body.hpp>
#include <limits>
#include <optional>

namespace jugend {

namespace {

/// s until bent legs, on their way back as x(t) = (x + c t) exp(-ω t), are first `folded` (m); the limit: not in it.
/// They are at their lowest at v / (ω c), and go down until then.
double time_to_fold(const LegMotion& legs, double w, double folded, double limit) {
  const double c = legs.rate + w * legs.stretch;
  const auto stretch = [&](double t) { return (legs.stretch + c * t) * same_bits::exp(-w * t); };
  const double lowest = legs.rate / (w * c);
  const double goes_down = std::min(limit, lowest > 0 ? lowest : 0);
  if (!(legs.rate < 0 && stretch(goes_down) < folded)) return limit;
  return where_it_ends(0, goes_down, 50, [&](double t) { return !(stretch(t) < folded); }).before;
}

/// s until their way back asks for more than the limits; the limit: not in it. It asks for
/// a(t) = ω² (x + c t - 2 c / ω) exp(-ω t), which turns at 3 / ω - x / c.
double time_to_limit(const LegMotion& legs, double w, const LegLimits& limits, double limit) {
  const double c = legs.rate + w * legs.stretch;
  const auto within = [&](double t) {
    const double a = w * w * (legs.stretch + c * (t - 2 / w)) * same_bits::exp(-w * t);
    constexpr double slack = 1 + 4e-9;  // what has come to it is beyond it
    return a >= limits.least * slack && a <= limits.most * slack;
  };
  const double turns = std::min(limit, 3 / w - legs.stretch / c);
  return !(turns > 0) || within(turns) ? limit : where_it_ends(0, turns, 50, within).after;
}

/// A stretch of a legs' way back that has one acceleration, or none: then x'' + 2ω x' + ω² x = 0 holds.
struct LegPhase {
  std::optional<double> acceleration;  // m/s²
  double time;                         // s, the most
};

/// Which phase begins now. Legs that are bent so far that the limit b is all they can ask for come up as fast as they
/// can still stop: at b until v² = 2 b |x| - (b/ω)², and against b from there on, until at |x| = b/ω² the law's own
/// v = ω |x| is met. From ω² |x| = 5 b on the law itself never asks to stop too late.
LegPhase next_phase(const LegMotion& legs, double w, const LegLimits& limits, double time) {
  const double x = legs.stretch, v = legs.rate;
  const double b = limits.most, spare = b / (w * w);
  const auto reaches = [&](double a, double place) { return first_root_within(0.5 * a, v, x - place, time); };
  const auto soonest = [&](double a, std::initializer_list<double> ends) {
    LegPhase phase{a, time};
    for (const double end : ends) {
      if (end >= 0) phase.time = std::min(phase.time, end);
    }
    return phase;
  };
  const double wanted = -w * (2 * v + w * x);
  if (b > 0 && x < -5 * spare) {
    const double beyond = v * v + 2 * b * x + b * spare;
    if (v > 0 && beyond >= -1e-9 * v * v) return soonest(-b, {reaches(-b, -spare)});
    // On the way up: the first root may lie on the way down, which has the same v².
    const QuadraticRoots brakes = quadratic_roots(b, 2 * v, 0.5 * beyond / b);
    return soonest(
        b, {brakes.count > 0 ? brakes.second : time, reaches(b, -5 * spare), v < 0 ? reaches(b, limits.folded) : time});
  }
  constexpr double slack = 1 + 1e-9;  // what has come to the limit is within it
  if (wanted >= limits.least * slack && wanted <= limits.most * slack)
    return {std::nullopt, std::min(time_to_fold(legs, w, limits.folded, time), time_to_limit(legs, w, limits, time))};
  // At the limit until the law asks for no more: -2ω (v + a t) - ω² (x + v t + a t²/2) = a.
  const double a = std::clamp(wanted, limits.least, limits.most);
  return soonest(a, {first_root_within(0.5 * w * w * a, w * (w * v + 2 * a), a - wanted, time),
                     v < 0 ? reaches(a, limits.folded) : time});
}

}  // namespace

LegMotion legs_after(LegMotion legs, double frequency, const LegLimits& limits, double time) {
  const double w = 2 * pi * frequency;
  for (int phases = 0; phases < 12 && time > 0; ++phases) {
    auto& [x, v] = legs;
    if (x <= limits.folded && v < 0) v = 0;  // the body stops on the ground, without a rebound
    const auto [acceleration, part] = next_phase(legs, w, limits, time);
    if (acceleration && *acceleration <= 0 && x <= limits.folded && v <= 0) return {x, 0};  // too weak to lift it
    if (acceleration) {
      const double a = *acceleration;
      legs = {x + v * part + 0.5 * a * part * part, v + a * part};
    } else {
      const double c = v + w * x, fade = same_bits::exp(-w * part);
      legs = {(x + c * part) * fade, (v - w * c * part) * fade};
    }
    if (part < time && v < 0 && x < limits.folded + 1e-9) x = std::min(x, limits.folded);
    time -= part;
  }
  return legs;
}

/// The next stretch of running with no more than its force: slower rates, so that it is the same wherever ticks fall.
RunRamp ForcedWalker::Body::next_forced_ramp(const Vec3& level, const Vec3& target, const RunRates& rates,
                                             double time) const {
  const RunRamp ramp = next_ramp(level, target, rates, time);
  if (dashing() || thrown() || own_path() != OwnPath::none || !steered) return ramp;
  const double most = legs.run_force / body.mass;
  if (ramp.duration < instant) {  // at once is as fast as the force allows
    const Vec3 change = ramp.end_velocity - level;
    const double needed = norm(change) / most;
    if (needed <= time) return {needed, normalised(change) * most, ramp.end_velocity};
    return {time, normalised(change) * most, level + normalised(change) * (most * time)};
  }
  const double wanted = norm(ramp.acceleration);
  if (wanted <= most) return ramp;
  const double share = most / wanted;
  return next_ramp(level, target, {rates.accelerate * share, rates.brake * share, rates.turn * share}, time);
}

/// The most that a tick may be of the time 1/ω of legs that stand on legs. Both laws, each with what the other does to
/// it, are a linear map of a tick; its spectral radius stays below 1 for any ω of the lower ones up to 2 / tick, and an
/// upper one of up to nine times the lower's mass.
constexpr double steady_together = 0.6;

ForcedWalker::Body::LegStep ForcedWalker::Body::leg_step(double time) const {
  const Vec3& up = state.up;
  // Legs on legs: what pushes one up pushes the other down by as much. Who does not reckon with it answers twice, and
  // at 30 Hz ever more.
  const bool legs_below = on_legs();
  const double share = legs_below ? state.ground.mass / (state.ground.mass + tuning.push.weight * body.mass) : 1;
  // Nor do they know what those others answer in this tick: two that come back within one throw each other up.
  const double frequency = legs_below ? std::min(legs.frequency, steady_together / (2 * pi * dt)) : legs.frequency;
  // The trunk goes up and down with a slope: legs that had to be bent for that would lag behind it.
  const Vec3 own = in_plane(state.velocity - state.ground.velocity, up);
  const double rising = dot(state.velocity, up), climbs = dot(over(own, state.ground.normal), up);
  const double away = rising - dot(state.ground.velocity, up) - climbs;
  // Stretched legs do not pull: it falls. Bent ones brake their own way back, so that no landing throws it up again.
  const double w = 2 * pi * frequency, under = -load / (body.mass * share), rest = under / (w * w);
  const double most = (legs.force_limit - 1) * strength + under;
  const double least = (state.ground.distance > 0 ? -std::max(strength, fall_law().falling) : -most) + under;
  // On what cannot give way the body comes to lie; what can, it meets by itself.
  const double folded =
      state.ground.mass > 0 ? -std::numeric_limits<double>::infinity() : touch_margin() - feet_to_trunk();
  LegMotion end = legs_after({state.ground.distance - rest, away}, frequency, {least, most, folded - rest}, time);
  end.stretch += rest;
  const double rise = rising * time + share * (end.stretch - state.ground.distance - away * time);
  return {end, rise, rising + share * (end.rate - away)};
}

double ForcedWalker::Body::trunk_rise(double time) const {
  const Vec3 own = state.velocity - state.ground.velocity, g = state.ground.touch_normal;
  const double with_ground = dot(state.ground.velocity + over(in_plane(own, state.up), g), state.up);
  return time > instant ? leg_step(time).rise / time - with_ground : 0;
}

/// Where a way comes on to what is too steep, and is not held off it yet.
std::optional<ForcedWalker::Body::Steep> ForcedWalker::Body::steep_on(const Vec3& displacement,
                                                                      const Ground& end) const {
  if (displacement == Vec3{} || barriers.size() > 2) return {};
  const auto steep = [&](const Ground& g, const Vec3& way) -> std::optional<Vec3> {
    const auto bank = bank_of(g, state.position, way);
    return bank ? std::optional(narrowing(bank->normal, state.ground.touch_normal, displacement)) : std::nullopt;
  };
  const auto steep_at = [&](double share) {
    const Vec3 way = along_ground(displacement * std::max(share, 1e-9));
    return steep(touched_at(state.position + way), way);
  };
  auto wall = steep(end, along_ground(displacement));
  if (!wall || !barriers.all([&](const Vec3& n) { return dot(n, *wall) < 1 - 1e-6; })) return {};
  const Bracket holds = where_it_ends(0, 1, 24, [&](double share) {
    const auto there = steep_at(share);
    if (there) wall = there;
    return !there;
  });
  const bool beside = holds.before * norm(displacement) < 1e-2 * skin;  // as good as on it
  return Steep{beside ? 0 : holds.before, *wall};
}

/// Where it comes to a wall in a tick of a dash; with the share of the way as distance. The force that is to end a dash
/// within the tick would throw it back off that. What is slower the world stops without.
std::optional<Hit> ForcedWalker::Body::runs_into(const Vec3& way) {
  dashes |= dashing();
  if (!dashes || way == Vec3{}) return {};
  auto hit = surroundings.sweep(trunk(state.position, feet_to_trunk()).view(), way, solids());
  if (!hit || surroundings.facts(hit->body).mass > 0 || (state.on_ground && rises_like_ground(*hit))) return {};
  hit->distance = backed_off(*hit, way);
  return hit;
}

void ForcedWalker::Body::note_struck(const Vec3& wall, const Vec3& velocity) {
  if (dashed_into == Vec3{}) dashed_into = wall, dashed_with = dot(velocity, wall);
}

/// The share of a way after which no ground holds it; nothing: what is at its `end` still does.
std::optional<double> ForcedWalker::Body::ground_ends(const Vec3& displacement, const Ground& end) const {
  const auto holds_at = [&](double share) {
    return sense(state.position + along_ground(displacement * share), looks_from(), legs.clearance, underfoot())
        .walkable;
  };
  if (displacement == Vec3{} || end.walkable || holds_at(1)) return {};
  return where_it_ends(0, 1, 24, holds_at).after;
}

/// A stretch of at most `time` (s) as planned, where that comes on to what is too steep, to a wall, or to where no
/// ground holds it: what it spent of it; else nothing.
std::optional<double> ForcedWalker::Body::ends_early(const Way& way, double time) {
  const Ground at_end =
      way.displacement == Vec3{} ? state.ground : touched_at(state.position + along_ground(way.displacement));
  if (const auto steep = steep_on(way.displacement, at_end)) {
    const double until = way.time_at(steep->share);
    if (until > instant && until < time) return ground_stretch(until);
    barriers.add(steep->wall);
    return ground_stretch(time);
  }
  if (const auto hit = runs_into(along_ground(way.displacement)); hit && barriers.size() <= 2) {
    const Vec3 wall = narrowing(hit->normal, state.ground.touch_normal, way.displacement);
    if (barriers.all([&](const Vec3& n) { return dot(n, wall) < 1 - 1e-6; })) {
      const double until = way.time_at(hit->distance);
      if (until > instant && until < time) return ground_stretch(until);
      note_struck(wall, state.velocity);
      barriers.add(wall);
      return ground_stretch(time);
    }
  }
  if (const auto share = ground_ends(way.displacement, at_end); share && *share < 1 - 1e-6) {
    const double spent = ground_stretch(way.time_at(*share));
    now += spent;
    leave_ground(true);
    now -= spent;
    return spent;
  }
  return {};
}

double ForcedWalker::Body::ground_stretch(double time) {
  time = turn_with_wall(barriers, time);
  const Vec3& up = state.up;
  const Vec3 with = in_plane(state.ground.velocity, up);
  const RunRates rates = rates_of(tuning.run, grip(time));
  // Pressed into a wall it would brake what it has along that, as it were aside of its way, and stand still.
  if (leans) {
    const bool gives_way = lean_on_walls(barriers, time).has_value();
    if (now == 0 && barriers.size() == 0 && (gives_way || tilts())) push = find_push(rates, time);
  }
  if (push && !push->met) {
    if (push->from > now + instant)
      time = std::min(time, push->from - now);
    else
      meet_pushed();
  }
  const Vec3 imposed = barriers.imposed();  // which no steering is for
  const Vec3 began = barriers.clip(in_plane(state.velocity, up) - with);
  const Vec3 target = barriers.clip(in_plane(wish(), up)) - imposed;
  Vec3 level = began - imposed;
  const auto next = [&](const Vec3& v, const Vec3& to, bool into) {
    return into ? push_ramp(v, to, rates, time) : next_forced_ramp(v, to, rates, time);
  };
  const RunRamp ramp = ground_ramp(pushes() ? push->normal : Vec3{}, level, target, time, next);
  level += imposed;
  const Vec3 ended = ramp.end_velocity + imposed;
  const Vec3 displacement = level * ramp.duration + ramp.acceleration * (0.5 * ramp.duration * ramp.duration);
  const Way way{displacement, level, ramp.acceleration, ramp.duration};
  const Vec3 rises = barriers.size() > 0 ? up * trunk_rise(ramp.duration) : Vec3{};
  const Held held = held_for(barriers, {along_ground(displacement) + rises * ramp.duration, along_ground(level) + rises,
                                        along_ground(ramp.acceleration), ramp.duration});
  if (!held.to_the_end) {
    on_arc = OnArc::cut;
    if (held.time == 0) barriers = {};
    const double spent = ground_stretch(held.time > 0 ? held.time : time);
    on_arc = OnArc::no;
    barriers = {}, leans = held.time > 0, arc = held.arc;
    return spent;
  }
  if (const auto spent = ends_early(way, time)) return *spent;
  if (state.ground.mass > 0 && !thrown()) state.footing.momentum += (ended - began) * body.mass;
  const double took = ramp.duration, rising = dot(state.velocity, up);
  const double known = load;
  if (pushes()) load -= push->lifts * be_answered(ramp.acceleration, took);
  const auto [end, rise, rate] = leg_step(took);
  state.position += displacement + (with - frame) * took + up * rise;
  state.velocity = with + ended + up * rate;
  state.ground.distance = end.stretch;
  borne += (rate - rising + strength * took) * body.mass + load * took;
  loaded += load * took, load = known;
  ridden += took;
  return took;
}

/// s into the flight at which its soles come down on to the plane of `g`, where that is by then; NaN: not in it.
double ForcedWalker::Body::time_of_landing(const FlightPlan& plan, const Ground& g) const {
  const Vec3 rest = state.position + as_seen(plan) - state.up * g.distance;
  const Vec3 relative = plan.velocity - g.velocity;
  const double a = 0.5 * dot(g.normal, plan.acceleration), b = dot(g.normal, relative);
  const double c = dot(g.normal, state.position - rest) - dot(g.normal, g.velocity - frame) * now;
  const QuadraticRoots roots = quadratic_roots(a, b, c);
  for (const double t : {roots.first, roots.second}) {
    if (roots.count > 0 && t >= 0 && t <= plan.duration && b + 2 * a * t < 0) return t;
  }
  return std::numeric_limits<double>::quiet_NaN();
}

/// The ground that its legs reach `time` s into the flight. Seen is that which goes along with the flight.
std::optional<Ground> ForcedWalker::Body::caught_at(const FlightPlan& plan, double time) const {
  const Vec3 way = (plan.velocity - frame) * time + plan.acceleration * (0.5 * time * time);
  const Ground g = sense(state.position + way, looks_from(), 3 * skin, underfoot());  // at 2 skins a rounding decides
  const bool does = goes_along(g) && catches(g, plan.velocity + plan.acceleration * time);
  return does ? std::optional(g) : std::nullopt;
}

/// s into the flight from which on its legs reach ground that it comes on to from beside: `there`; NaN: not in it. Past
/// an edge they may reach it for a moment only.
double ForcedWalker::Body::time_of_catch(const FlightPlan& plan, Ground& there) const {
  const int looks = static_cast<int>(std::clamp(norm(as_seen(plan)) / (0.05 * tuning.body.radius), 1.0, 16.0));
  const double apart = plan.duration / looks;
  const auto flies_on = [&](double time) {
    const auto g = caught_at(plan, time);
    if (g) there = *g;
    return !g;
  };
  for (int look = 1; look <= looks; ++look) {
    if (!flies_on(look * apart)) return where_it_ends((look - 1) * apart, look * apart, 24, flies_on).after;
  }
  return std::numeric_limits<double>::quiet_NaN();
}

double ForcedWalker::Body::fly(const FlightPlan& whole) {
  FlightPlan plan = whole;
  Vec3 wall;
  const Held held = held_for(contacts, {as_seen(plan), plan.velocity - frame, plan.acceleration, plan.duration});
  if (held.time == 0) return contacts = {}, 0;
  if (!held.to_the_end) plan.end_after(held.time);
  if (const auto hit = runs_into(as_seen(plan)); hit && dot(hit->normal, as_seen(plan)) < 0) {
    const Way way{as_seen(plan), plan.velocity - frame, plan.acceleration, plan.duration};
    const double until = way.time_at(hit->distance);
    if (until < plan.duration) plan.end_after(until), wall = hit->normal;
  }
  const Vec3& up = state.up;
  const double fallen = -dot(plan.displacement, up);
  const Ground g =
      sense(state.position + as_seen(plan), std::max(legs.clearance, fallen + 2 * skin), 0.5 * legs.clearance);
  double time = g.walkable ? time_of_landing(plan, g) : std::numeric_limits<double>::quiet_NaN();
  Ground there = g;
  there.distance = 0;
  // Its plane may be reached before it begins.
  const bool misses = time >= 0 ? goes_along(g) && !caught_at(plan, time) : g.found && g.distance < 0;
  if (misses) time = time_of_catch(plan, there);
  if (!(time >= 0)) {
    note_flown(plan);
    if (!held.to_the_end) contacts = {}, leans = true, arc = held.arc;
    if (wall != Vec3{}) note_struck(wall, plan.end_velocity), contacts.add(wall, dot(frame, wall));
    return plan.duration;
  }
  state.position += (plan.velocity - frame) * time + plan.acceleration * (0.5 * time * time);
  state.velocity = plan.velocity + plan.acceleration * time;
  now += time;
  const Hit foot{0, there.point, there.normal, there.body, there.part};
  if (!stomp(surroundings.facts(there.body), foot, state.velocity - there.velocity)) land(there, state.velocity);
  if (state.on_ground) see_from(state.ground.velocity);
  now -= time;
  return time;
}

double ForcedWalker::Body::swim_stretch(double time) {
  const auto [displacement, end] = plan_swim(time);
  state.position += displacement - frame * time;
  state.velocity = end;
  come_ashore(time, looks_from(), 2 * skin);
  return time;
}

}  // namespace jugend
