// The walls that hold a walker back: those that it leans on, and how long they do.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/roots.hpp>
#include <jugend/motion/walker/detail/brain_tick.hpp>
#include <utility>

namespace jugend {

/// Is what the trunk ran into ground that can be walked up: a face, not the edge of a high step?
bool WalkerBrain::Tick::rises_like_ground(const Hit& hit) const {
  return dot(hit.normal, state.up) >= same_bits::cos(tuning.ground.slope_limit) && is_face(hit);
}

bool WalkerBrain::Tick::is_face(const Hit& hit) const {
  const double near = 0.1 * tuning.body.radius;
  const auto face = surroundings.cast({hit.point + hit.normal * near, -hit.normal, 2 * near}, solids());
  const auto same = [&](const Vec3& n) { return dot(n, hit.normal) > 1 - 1e-6; };
  if (!face || same(face->normal)) return face.has_value();
  return state.on_ground && same(normalised(opening(face->normal, state.ground.touch_normal)));  // as seen on the level
}

/// A level way as it goes over ground with the normal `n`: as far on a map, and up or down with it.
Vec3 WalkerBrain::Tick::over(const Vec3& level, const Vec3& n) const {
  return level - state.up * (dot(level, n) / std::max(0.1, dot(state.up, n)));
}

/// Where a wall or a roof with the normal `n` and ground with the normal `ground` part: a level v goes into it where
/// over(v) n = v n - (v g) (u n) / (u g) < 0, so this is n - g (u n) / (u g), level.
Vec3 WalkerBrain::Tick::opening(const Vec3& n, const Vec3& ground) const {
  const Vec3& up = state.up;
  return in_plane(n, up) - in_plane(ground, up) * (dot(n, up) / std::max(0.1, dot(ground, up)));
}

/// The level direction that it must not go against on `heading` where it meets that: back where it came from, where
/// there is none.
Vec3 WalkerBrain::Tick::narrowing(const Vec3& n, const Vec3& ground, const Vec3& heading) const {
  const Vec3 away = opening(n, ground), level = in_plane(heading, state.up);
  return norm(away) > 1e-3 && dot(away, level) < 0 ? normalised(away) : -normalised(level);
}

/// The walls that held it back until now, which input still pushes into: else it would run into them anew in each tick,
/// and how it speeds up along one depend on their length, and in a corner it would shake. What gives way is answered,
/// also where it only nearly reaches that in `time` (s), with the gap (m) as distance; a wall that does not is added.
std::optional<Hit> WalkerBrain::Tick::lean_on_walls(PressedPlanes& planes, double time) {
  if (!std::exchange(leans, false) || planes.size() > 0) return {};
  const Vec3 wished = normalised(in_plane(wish(), state.up));
  const auto lean_on = [&](const Vec3& way) {
    const std::size_t before = planes.size();
    const auto gives_way = lean_on_wall(planes, way, time);
    if (!gives_way && planes.size() == before) lean_on_bank(planes, way, time);
    return gives_way;
  };
  const auto gives_way = lean_on(wished);
  if (planes.size() == 0) return gives_way;
  const Vec3 rest = planes.clip_force(wished);
  if (norm(rest) > 1e-6) lean_on(rest);
  return {};
}

/// The same for the one that it comes to on the way that it `wished`, a level direction.
std::optional<Hit> WalkerBrain::Tick::lean_on_wall(PressedPlanes& planes, const Vec3& wished, double time) {
  const Vec3 own = state.velocity - frame;
  const Vec3 way = along_ground(wished * (8 * touch_margin() + norm(own) * time));
  if (way == Vec3{}) return {};
  auto hit = surroundings.sweep(trunk(state.position, clear_of_steps()).view(), way, solids());
  if (!hit || (state.on_ground && rises_like_ground(*hit))) return {};
  // Of what is a little higher than a step its foot meets the edge before the round end of the trunk gets there.
  if (state.on_ground && dot(hit->normal, state.up) > least_bank() && lean_on_bank(planes, wished, time)) return {};
  const BodyFacts facts = surroundings.facts(hit->body);
  const double gap = -dot(way, hit->normal) * hit->distance;
  hit->distance = gap;
  const double recedes = state.on_ground ? receding(hit->normal, time) : 0;
  if (state.on_ground) hit->normal = narrowing(hit->normal, state.ground.touch_normal, way);
  const Vec3 n = hit->normal, wall = facts.velocity_at(hit->point);
  const double leaves = dot(state.velocity + withheld - wall, n) - recedes, off = std::max(0.0, leaves);
  if (n == Vec3{}) return {};
  const bool gives_way = facts.mass > 0;
  bool apart = gap > near_gap();
  if (gives_way) {
    if (pushes_by_contact()) return hit;
    const double closing = -dot(own, n) * time;
    if (apart && gap < closing) return {};
    apart = gap > near_gap() + std::max(0.0, closing);
  } else if (std::abs(dot(wall - frame, n)) > 1e-9) {
    return {};
  }
  double closes = 0;  // m/s
  if (apart) {        // it was thrown off that, and is pressed on to it again in this time
    const double most = pressure_on(n) * time;
    closes = (gap - near_gap()) / time;
    if (std::abs(leaves) > most || leaves - 0.5 * most > -closes) return {};
  }
  const double pressure = pressure_on(n);
  if (pressure < -1e-6 * tuning.run.top_speed && !gives_way) return {};  // who turns round is steered off it
  if (off > 1e-9 * norm(own)) {  // it is pressed back on to that, if it does not turn away faster
    const double soon = std::clamp(2 * off / std::max(pressure, 1e-12), 0.1 * time, time);
    const auto ahead = wall_behind(n, state.position + own * soon, near_gap() + 0.5 * norm(own) * soon);
    const double outward = ahead ? std::max(0.0, dot(own, ahead->normal - n)) / soon : 0;
    if (off > (pressure - outward) * time) return {};
  }
  state.velocity += velocity_over(n * (std::min(leaves, -closes) - leaves));
  slides = gives_way ? in_plane(in_plane(wall - frame, n), state.up) : Vec3{};
  if (gives_way) return hit;
  planes.add(n, (state.on_ground ? recedes : dot(wall, n)) - closes);
  return {};
}

/// What a foot comes on to, `way` (m) on from `feet` along the ground, that is too steep to stand on: a wall to it,
/// though the trunk is above. With the gap to it, along the level, as distance.
std::optional<Hit> WalkerBrain::Tick::bank_of(const Ground& g, const Vec3& feet, const Vec3& way) const {
  const double rise = dot(g.touch_normal, state.up);
  if (!g.found || g.walkable || g.mass > 0 || rise < least_bank()) return {};
  const Vec3 opens = opening(g.touch_normal, state.ground.touch_normal);
  const double width = norm(opens), into = -dot(way, opens);
  const bool goes_along = std::abs(dot(g.velocity - state.ground.velocity, opens)) <= 1e-9;
  if (!goes_along || into <= 1e-6 * width * norm(way)) return {};
  const double higher = g.distance - state.ground.distance;  // than it, where they meet
  double gap = (into + higher * rise) / width;
  const bool edge = dot(g.normal, g.touch_normal) < 0.99 && dot(g.point - feet, state.up) > tuning.ground.step_height;
  if (edge && feet_to_trunk() <= 0)  // beside the foot, where that is at its widest
    gap = -dot(g.point - feet, in_plane(opens, state.up)) / width - (tuning.body.radius - 2 * skin);
  return Hit{gap, g.point, g.touch_normal, g.body, g.part};
}

/// On to what it stood before a moment ago, as lean_on_wall() does to walls.
bool WalkerBrain::Tick::lean_on_bank(PressedPlanes& planes, const Vec3& wished, double time) {
  if (!state.on_ground || !state.held_back || wished == Vec3{}) return false;
  const Vec3 way = along_ground(wished * near_gap());
  const auto bank = bank_of(touched_at(state.position + way), state.position, way);
  if (!bank) return false;
  const Vec3 n = narrowing(bank->normal, state.ground.touch_normal, way);
  const double off = dot(state.velocity - state.ground.velocity, n);
  if (off > pressure_on(n) * time) return false;
  state.velocity -= velocity_over(n * std::max(0.0, off));
  planes.add(n);
  return true;
}

/// m/s with which a wall that leans with the normal `n` comes nearer, on the level, as legs that bend or stretch for
/// `time` (s) carry the trunk along it.
double WalkerBrain::Tick::receding(const Vec3& n, double time) const {
  const double opens = norm(opening(n, state.ground.touch_normal));
  return opens > 1e-3 ? -trunk_rise(time) * dot(n, state.up) / opens : 0;
}

/// What is behind a plane that it is pressed against, seen from `feet`, and within `reach` (m): with the gap as
/// distance.
std::optional<Hit> WalkerBrain::Tick::wall_behind(const Vec3& plane, const Vec3& feet, double reach) const {
  const Vec3 way = along_ground(plane * -reach);
  auto hit = surroundings.sweep(trunk(feet, clear_of_steps()).view(), way, solids());
  if (hit) hit->distance *= reach;
  if (state.on_ground && !(hit && hit->distance <= near_gap())) {
    const Vec3 near_way = way * (2 * near_gap() / std::max(reach, 2 * near_gap()));
    const auto bank = bank_of(touched_at(feet + near_way), feet, near_way);
    if (bank && !(hit && hit->distance < bank->distance)) {
      hit = bank;
      hit->distance += touch_margin();  // a foot has no skin that the trunk's gap would count
    }
  }
  if (!hit) return hit;
  if (state.on_ground) hit->normal = narrowing(hit->normal, state.ground.touch_normal, way);
  return hit;
}

/// m/s² that press it into a wall: what steers it, and in the air its weight.
double WalkerBrain::Tick::pressure_on(const Vec3& wall) const {
  const RunRates rates = state.on_ground ? rates_of(tuning.run, grip()) : rates_of(tuning.air, stagger.control(now));
  const Vec3 had = in_plane(state.velocity - carrier(), state.up);
  Vec3 level = had;
  const RunRamp ramp = settled_ramp(level, [&](const Vec3& v) { return next_ramp(v, wish(), rates, dt); });
  const Vec3 at_once = norm(level - had) > 1e-9 * norm(had) ? (level - had) / instant : Vec3{};
  const double steers = -dot(ramp.acceleration + at_once, wall);
  return std::min(steers, most_push()) + (state.on_ground ? 0 : dot(state.up, wall) * fall_law().falling);
}

double WalkerBrain::Tick::Way::time_at(double share) const {
  return first_root_within(0.5 * dot(displacement, acceleration), dot(displacement, velocity),
                           -share * squared_norm(displacement), duration);
}

/// How long the only plane lasts that it is pressed against: until the wall turns away from that. Where it does so all
/// the time, as a pillar or an edge does, and it is pressed on to it by enough to follow, it goes in two halves: along
/// the plane where they begin, then along the one where they end. That is exact to the second order of the angle.
/// Nothing: ask as for several.
std::optional<WalkerBrain::Tick::Held> WalkerBrain::Tick::held_by_one(const Vec3& n, const Way& way) {
  constexpr double least_turn = 1e-4, most_turn = 0.5;  // rad
  const Vec3 passes = way.displacement - slides * way.duration;
  const double length = norm(passes);
  const auto behind = [&](double share) {
    return wall_behind(n, state.position + passes * share, near_gap() + 0.5 * share * length);
  };
  const auto flat = [&](const std::optional<Hit>& hit, double limit) {
    return hit && hit->distance <= near_gap() && norm(hit->normal - n) <= limit;
  };
  auto there = behind(1);
  if (flat(there, least_turn)) return Held{way.duration, true, is_face(*there), {}};
  if (there && dot(there->normal, passes) <= 0) return {};  // it turns towards it, and will be met
  constexpr double soon = 0.02, rounding = 1e-6;
  if (flat(behind(soon), rounding)) {
    const Bracket turns = where_it_ends(soon, 1, 10, [&](double at) { return flat(behind(at), rounding); });
    return Held{way.time_at(turns.before), false, false, {}};
  }
  double share = 1;
  while (share > 0.05 && !(there && norm(there->normal - n) <= most_turn)) there = behind(share *= 0.5);
  const double time = share < 1 ? way.time_at(share) : way.duration, half = way.time_at(0.5 * share);
  if (!there || !(half > 0 && half < time)) return {};
  const double outward = dot(way.velocity - slides, there->normal - n) / time;
  const double pressure = pressure_on(normalised(n + there->normal));
  if (outward > pressure) {
    if (clear_for < endless) return Held{way.duration, true, false, {}};  // it began in the wall's skin: straight on
    // The chord of a flight of T s begins at an angle of p T / 2v to that, and so goes R (p T / 2v)² / 2 into the wall.
    const double speed = norm(way.velocity - slides), radius = share * length / norm(there->normal - n);
    clear_for = pressure > 0 ? std::max(speed / pressure * std::sqrt(skin / radius), 1e-3 * dt) : dt;
    return Held{0, false, false, {}};
  }
  return Held{half, false, false, {n, there->normal, half}};
}

/// Until it has gone past one of the planes, by an edge or round a corner; of several no less than what is worth a
/// stretch of its own.
WalkerBrain::Tick::Held WalkerBrain::Tick::held_for(const PressedPlanes& planes, const Way& way) {
  constexpr double least = 0.002;
  const Held whole{way.duration, true, false, {}};
  if (planes.size() == 0 || on_arc != OnArc::no) return whole;
  if (planes.size() == 1) {
    if (const auto held = held_by_one(planes.first(), way)) return *held;
  }
  bool faces = true;
  const auto holds = [&](double share) {
    return planes.all([&](const Vec3& n) {
      const auto hit = wall_behind(n, state.position + way.displacement * share, near_gap());
      faces = faces && share == 1 && hit && is_face(*hit);
      return hit.has_value();
    });
  };
  if (holds(1)) return {way.duration, true, faces, {}};
  if (way.duration <= least || !holds(0)) return whole;
  const double time = std::max(way.time_at(where_it_ends(0, 1, 10, holds).after), least);
  return time < 0.99 * way.duration ? Held{time, false, false, {}} : whole;
}

/// The second half of its way along a wall that turns: with the velocity turned as the wall is, up to where that will
/// be. s of `time` that it takes.
double WalkerBrain::Tick::turn_with_wall(PressedPlanes& planes, double time) {
  time = std::min(time, clear_for);
  if (on_arc == OnArc::second_half) planes = {}, leans = true;
  if (on_arc != OnArc::cut) on_arc = arc.time > 0 ? OnArc::second_half : OnArc::no;
  const auto [from, to, half] = std::exchange(arc, {});
  if (on_arc != OnArc::second_half) return time;
  time = std::min(time, half);
  const Quat by = rotation(turn_between(from, to));
  const Vec3 own = state.velocity - frame - slides;
  const auto there = wall_behind(to, state.position + rotate(by, own) * time, 2 * touch_margin() + norm(own) * time);
  const BodyFacts facts = there ? surroundings.facts(there->body) : BodyFacts{};
  const bool followed = facts.mass > 0 && !pushes_by_contact();  // what it is told of that already counts
  const Vec3 wall = there && !followed ? facts.velocity_at(there->point) : frame;
  planes = {}, leans = false;
  if (!there || std::abs(dot(wall - frame, to)) > 1e-9) return time;
  const Vec3 seen_from = state.on_ground ? frame + slides : wall;
  state.velocity = seen_from + rotate(by, state.velocity - seen_from);
  // As it speeds up the second half is longer than the first, and leads a hair too near.
  const double gap = there->distance - touch_margin();
  if (state.on_ground && std::abs(gap) < 0.1 * skin) state.position += to * (0.1 * skin - gap);
  const double closing = std::max(0.0, gap - skin) / time;  // what steers it may not press it there any more
  state.velocity -= velocity_over(to * closing);
  planes.add(to, (state.on_ground ? 0 : dot(wall, to)) - closing);
  return time;
}

}  // namespace jugend
