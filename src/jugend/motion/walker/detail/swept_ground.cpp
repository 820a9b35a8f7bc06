// A walker along the ground: slopes, steps, edges, walls, bodies that give way, and ground that moves.
#include <algorithm>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/walker/detail/swept_body.hpp>
#include <utility>

namespace jugend {

/// The trunk goes a step's height above the ground, so that steps do not stop it; the foot then finds
/// the ground below. The lower part of the body follows where those two have been.
Walker::Body::Walk Walker::Body::try_walk(const Vec3& displacement) const {
  const double lift = tuning.ground.step_height;
  Walk walk{state.position, {}, 1, {}, {}, {}};
  Vec3 rest = displacement, along = state.ground.normal;
  double whole = norm(displacement);
  for (int turn = 0; turn < 4 && squared_norm(rest) > 0; ++turn) {
    const auto hit = surroundings.sweep(trunk(walk.position, lift).view(), rest, solids());
    if (!hit) {
      walk.position += rest;
      break;
    }
    // Over an edge its feet rise or sink by where they touch that: under a roof it goes no higher than they do.
    const Vec3& edge = state.ground.touch_normal;
    if (dot(hit->normal, state.up) < -0.05 && along == state.ground.normal && along != edge) {
      const double level = norm(rest);
      rest = over(in_plane(rest, state.up), along = edge);
      whole *= norm(rest) / level;
      continue;
    }
    const Vec3 gone = rest * backed_off(*hit, rest);
    walk.position += gone;
    rest -= gone;
    if (!rises_like_ground(*hit)) {
      walk.wall = narrowing(hit->normal, along, rest);
      walk.share = std::clamp(1 - norm(rest) / whole, 0.0, 1.0);
      walk.hit = *hit;
      break;
    }
    along = hit->normal;
    rest = tilted(in_plane(rest, state.up), along, state.up);
  }
  walk.ground = sense(walk.position, lift, lift);
  if (walk.ground.walkable && walk.ground.distance < -1e-6 * tuning.body.radius) {  // is there room for the head?
    // All that it rises counts, not this stretch's: what is nearer than that is not passed bit by bit.
    const Vec3 rise = state.up * (0.5 * skin - walk.ground.distance);
    if (const auto roof = surroundings.sweep(trunk(walk.position, lift).view(), rise, solids())) {
      walk.ground.walkable = false;
      walk.low = narrowing(roof->normal, walk.ground.touch_normal, displacement);
      walk.hit = *roof;
    }
  }
  return walk;
}

/// Where the ground ends on the way, or becomes too steep: the last place that holds, and the first that does not.
Walker::Body::Walk Walker::Body::last_that_holds(const Vec3& displacement, Walk& failed) const {
  double good = 0, bad = failed.share;
  for (int halving = 0; halving < 24; ++halving) {
    const double middle = 0.5 * (good + bad);
    const Walk half = try_walk(displacement * middle);
    (half.ground.walkable ? good : bad) = middle;
    if (!half.ground.walkable) failed = half;
  }
  Walk walk = try_walk(displacement * good);
  walk.share = good;
  return walk;
}

/// What they leave of a velocity along the ground: along that still.
Vec3 Walker::Body::past_barriers(const Vec3& along) const {
  if (barriers.size() == 0) return along;
  return over(barriers.clip(in_plane(along, state.up)), state.ground.normal);
}

double Walker::Body::ground_stretch(double time) {
  const Ground& ground = state.ground;
  time = turn_with_wall(barriers, time);
  const RunRates rates = rates_of(tuning.run, grip(time));
  if (now == 0 && state.pushed.goes_on()) follow_pushed();
  const auto gives_way = lean_on_walls(barriers, time);
  const Vec3 relative = state.velocity - ground.velocity;
  if (gives_way) {
    const Vec3& n = gives_way->normal;
    const double wished = -dot(wish(), n), gained = rates.accelerate * time * wished / norm(wish());
    const Vec3 faster = n * -std::clamp(wished + dot(relative, n), 0.0, gained);  // as fast as it can go after it
    Vec3 pressed = relative + velocity_over(faster);
    state.position -= n * std::clamp(-dot(pressed, n) * time, 0.0, std::max(0.0, gives_way->distance - skin));
    meet_wall(n, gives_way->body, gives_way->point, pressed, 0);
  }
  // The heading of its velocity, along the ground as it is here, at the speed that it has.
  const Vec3 heading = normalised(in_plane(relative, state.up));
  Vec3 along = past_barriers(tilted(heading, ground.normal, state.up) * norm(relative));
  const Vec3 target = past_barriers(tilted(wish(), ground.normal, state.up));
  const Vec3 began = along;
  // As it lies along the ground: else, on a slope, its two parts lead off that.
  const Vec3 against =
      normalised(in_plane(barriers.size() > 0 ? barriers.first() : state.pushed.normal, ground.normal));
  const bool pushes = state.pushed.goes_on() && dot(target, against) < -1e-6 * norm(target);
  RunRamp ramp = ground_ramp(pushes ? against : Vec3{}, along, target, time,
                             [&](const Vec3& v, const Vec3& to, bool) { return next_ramp(v, to, rates, time); });
  // Round a corner the speed that it may have rises all the while: what is nearly reached takes all of a stretch.
  const auto spread = [&](double over) {
    const Vec3 change = ramp.end_velocity - along;
    const bool nearly = ramp.duration < over && norm(change) <= 0.05 * norm(along);
    if (nearly) ramp = {over, change / over, ramp.end_velocity};
    return nearly;
  };
  const auto planned = [&] {
    return Way{along * ramp.duration + ramp.acceleration * (0.5 * ramp.duration * ramp.duration), along,
               ramp.acceleration, ramp.duration};
  };
  if (on_arc != OnArc::no) spread(time);
  Held held = held_for(barriers, planned());
  if (held.arc.time > 0 && spread(std::min(time, dt / 6))) held = held_for(barriers, planned());
  const Way way = planned();
  if (!held.to_the_end) {
    on_arc = OnArc::cut;
    if (held.time == 0) barriers = {};
    const double spent = ground_stretch(held.time > 0 ? held.time : time);
    on_arc = OnArc::no;
    leans = held.time > 0, arc = held.arc;  // on what comes next, round a corner
    return spent;
  }
  if (ground.mass > 0 && !thrown())  // what it gets from running on a body, that body will get back
    state.footing.momentum += in_plane(ramp.end_velocity - began, state.up) * tuning.body.mass;
  if (way.displacement == Vec3{}) {
    finish_ground_stretch(ramp.duration, ramp.end_velocity);
    return ramp.duration;
  }
  return go(way, ramp.end_velocity, held.face);
}

/// On ground that turns it goes on straight: so its way bends as seen from there.
Vec3 Walker::Body::seen_from_ground(const Way& way) const {
  if (!state.ground.moving) return way.displacement;
  const double spin = dot(surroundings.facts(state.ground.body).spin, state.up);
  return rotate(rotation(state.up * (-spin * (now + 0.5 * way.duration))), way.displacement);
}

/// Along a stretch as far as that leads, to its `end` velocity where it is all of it: the time spent. What it touches
/// at the end of it is `by_face` what it touched before.
double Walker::Body::go(const Way& way, const Vec3& end, bool by_face) {
  const Vec3 displacement = seen_from_ground(way);
  Walk walk = try_walk(displacement);
  std::optional<Walk> failed;
  const bool rises = walk.ground.found && walk.ground.distance < -skin;  // what does not hold it is higher
  if (!walk.ground.walkable) {
    failed = walk;
    walk = last_that_holds(displacement, *failed);
  }
  const Walk& beyond = failed ? *failed : walk;
  double spent = way.duration;
  if (walk.share < 1) {
    spent = way.time_at(walk.share);
    if (!(spent >= 0)) spent = walk.share * way.duration;
  }
  Vec3 velocity = walk.share < 1 ? way.velocity + way.acceleration * spent : end;
  if (norm(walk.position - state.position) > skin && !by_face && on_arc == OnArc::no)
    barriers = {};  // perhaps it has left them
  if (walk.ground.walkable) {
    state.position = walk.position;
    stand_on(walk.ground);
    frame = walk.ground.velocity;
  }
  if (walk.wall) meet_wall(*walk.wall, walk.hit.body, walk.hit.point, velocity, spent);
  const Vec3& steep = beyond.ground.touch_normal;
  const bool holds = beyond.ground.walkable;
  const bool opposes = dot(opening(steep, state.ground.touch_normal), displacement) < 0;
  const bool too_steep = !holds && !beyond.low && beyond.ground.found && (opposes || rises || left_at == now + spent);
  if (beyond.low) meet_wall(*beyond.low, beyond.hit.body, beyond.hit.point, velocity, spent);
  if (too_steep) {
    const Vec3 away = narrowing(steep, state.ground.touch_normal, displacement);
    meet_wall(away, beyond.ground.body, beyond.ground.point, velocity, spent);
    // Off it, and on to no other, by more than a rounding, which would stop the foot again on its way along; and by so
    // little that the next tick meets it at once.
    const double rounding = 1e-2 * skin;
    if (walk.ground.walkable || walk.ground.distance > -10 * rounding) state.position += barriers.off_by(rounding);
  }
  finish_ground_stretch(spent, past_barriers(velocity));
  if (!holds && !too_steep && !beyond.low) {
    // There, not a hair before: on the lip of a step it would stand on what it leaves, and land at once, for ever.
    if (walk.ground.walkable) state.position += in_plane(beyond.position - walk.position, state.up);
    now += spent;
    left_at = now;
    leave_ground(true);
    now -= spent;
  }
  return spent;
}

/// A wall stops it. A body that can be moved is pushed, with the limited force of somebody who stands firm,
/// towards the speed of the one who pushes; the walker keeps the speed that the body has; against
/// another walker, who brakes at once, the one that it will have.
void Walker::Body::meet_wall(const Vec3& n, BodyId body, const Vec3& at, Vec3& velocity, double spent) {
  barriers.add(n);
  const BodyFacts facts = surroundings.facts(body);
  if (facts.mass <= 0) {
    slides = {};
    return;
  }
  const double gives_way = -dot(facts.velocity_at(at) - state.ground.velocity, n);
  const double left = std::max(0.0, dt - now - spent);
  const double came_with = std::max(-dot(velocity, n), state.pushed.goes_on(body) ? state.pushed.came_with : 0);
  // More than it wishes it brakes, pushing or not.
  const double into = std::max(0.0, -dot(velocity, n)), wished = -dot(wish(), n);
  const double most = std::max({0.0, wished, into - rates_of(tuning.run, grip()).brake * left});
  const Push push = push_wall(facts, body, n, at, most, left / dt);
  state.pushed.came_with = std::max(0.0, came_with - push.force * dt / tuning.body.mass);
  const double withheld_speed = std::clamp(gives_way + push.gained, 0.0, std::min(into, most));
  withheld -= n * std::max(0.0, withheld_speed + dot(withheld, n));
  velocity += velocity_over(n * withheld_speed);
  if ((facts.layers & walker_layer::swept) != 0) return;  // who may turn aside
  // More by what that gained on it in the last tick, as it sped up.
  const double ahead = 0.5 * tuning.push.force * facts.inverse_mass_at(at, n) * dt * dt;
  const double speed = std::clamp(gives_way, 0.0, withheld_speed);
  follows = n * -std::min(speed * dt, speed * left + ahead);
  followed = body;
}

/// Pushes it at `at`, to bring that to the speed `wanted` (m/s) by the end of the tick, of which a `share` is left, as
/// far as its strength goes.
Walker::Body::Push Walker::Body::push_wall(const BodyFacts& facts, BodyId body, const Vec3& n, const Vec3& at,
                                           double wanted, double share) {
  if (std::exchange(push_spent, true) || tuning.push.force <= 0) return {};
  Pushed& pushed = state.pushed;
  const bool goes_on = pushed.goes_on(body);
  const double gives_way = -dot(facts.velocity_at(at) - state.ground.velocity, n);
  const Vec3 low = push_place(facts, at, state.up);
  const double yields = facts.inverse_mass_at(low, n) * dt;  // m/s for each N
  // With less than what withstood the last push it would swing about `wanted`.
  const double resists = goes_on ? pushed.withstood(gives_way, dt / yields, dt) : 0;
  const double most = tuning.push.force * (goes_on ? 1 : share);
  const double force = std::clamp((wanted - gives_way) / yields + resists, 0.0, most);
  pushed = {body, force, 0, n, to_local(facts.pose, at), gives_way, pushed.came_with};
  if (force <= 0) return {};
  surroundings.force(body, n * -force, low);
  if (state.ground.mass > 0) surroundings.force(state.ground.body, n * force, state.ground.point);
  return {force, std::max(0.0, force - resists) * yields};
}

/// What it ran into held it up only as long as that took to come up to speed, but for what the push took of its own.
void Walker::Body::follow_pushed() {
  const Pushed& p = state.pushed;
  const BodyFacts facts = surroundings.facts(p.body);
  const double gives_way = -dot(facts.velocity_at(to_world(facts.pose, p.local)) - state.ground.velocity, p.normal);
  const double wished = -dot(wish(), p.normal), has = -dot(state.velocity - state.ground.velocity, p.normal);
  const double faster = std::max(0.0, std::min({gives_way, p.came_with, wished}) - has);
  state.velocity -= velocity_over(p.normal * faster);
}

/// It went as if what it pushes stood still: now up to where the world will have moved that.
void Walker::Body::close_up() {
  if (!state.on_ground || follows == Vec3{}) return;
  const BodyFacts facts = surroundings.facts(followed);
  const Quat back = rotation(facts.spin * -dt);  // as seen from that
  const Vec3 moved = (facts.velocity_at(facts.centre) - state.ground.velocity) * dt;
  const Vec3 from = facts.centre + rotate(back, state.position - moved - facts.centre);
  Vec3 way = along_ground(follows);
  const auto stop_at = [&](const Vec3& feet, const Vec3& motion, const Filter& solid) {
    if (const auto hit = surroundings.sweep(trunk(feet, clear_of_steps()).view(), motion, solid))
      way *= backed_off(*hit, motion);
  };
  stop_at(from, rotate(back, way), solids());
  Filter others = solids();
  others.ignored = followed;
  stop_at(state.position, way, others);
  const Ground there = sense(state.position + way, tuning.ground.step_height, tuning.ground.step_height, others);
  if (!there.walkable) return;
  state.position += way;
  stand_on(there);
}

void Walker::Body::finish_ground_stretch(double time, const Vec3& relative) {
  // Along the ground that it has come to, at the same speed.
  const Vec3 heading = normalised(in_plane(relative, state.up));
  state.velocity = state.ground.velocity + tilted(heading, state.ground.normal, state.up) * norm(relative);
  ridden += time;
}

}  // namespace jugend
