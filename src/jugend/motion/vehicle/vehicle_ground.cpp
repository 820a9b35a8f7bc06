// The ways of wheels over the ground in a tick: where each goes, the pieces it stands on, walls, and what sweeps feel.
// What rays feel: vehicle_rays.cpp.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/motion/vehicle/detail/rolled_profile.hpp>
#include <jugend/motion/vehicle/detail/wheel_way.hpp>

namespace jugend {

/// Which way each wheel goes over the ground, and how far in this tick.
void Vehicle::Tick::know_way(std::size_t wheel) {
  WheelContact& c = contacts[wheel];
  const auto [team, n, lane] = place(wheel);
  const double radius = n.radius.at[lane];
  constexpr double little = 0.005;  // of its radius: further on the ground counts by itself
  const double slow =
      0.5 * metre;  // a second: nearly at rest its own heading counts, which does not turn with every jolt
  const Vec3 going = in_plane(over_ground(team.mount.get(lane)), up), heading = team.heading.get(lane);
  const double ahead_speed = dot(going, heading), speed = norm(going);
  c.slow = speed < slow, c.speed = speed, c.length = reach(wheel);
  c.way = !c.slow ? going / speed : heading * (ahead_speed < 0 ? -1.0 : 1.0);
  c.far = dot(going, c.way) * dt;
  c.moves = tuning.look_ahead && c.far >= little * radius;
  if (!c.moves) c.far = 0;
  c.aside = cross(c.way, up), c.radius = radius;
  const double along = std::abs(dot(c.way, heading));
  c.across =
      radius * along + std::min(radius, 0.5 * v.wheels_[wheel].width) * std::sqrt(std::max(0.0, 1 - along * along));
  c.sideways = c.slow || along < 0.9;
  c.walled = false, c.wall = 1e300;
}

/// Lays a piece of the way of its hub from `a` to `b`: the plane along both of its places.
void Vehicle::Tick::lay(WheelContact& c, const std::optional<Standing>& a, const std::optional<Standing>& b,
                        double until) const {
  GroundPiece piece{.near = a && b, .until = until};
  if (piece.near) {
    const Vec3 line = c.way * (b->along - a->along) - up * (b->drop - a->drop);
    Vec3 normal = a->normal + b->normal;
    if (b->along > a->along) normal = in_plane(normal, normalised(line));
    piece.normal = normalised(normal), piece.touch = a->touch;
    if (b->along > a->along) {  // where the wheel, an ellipse along its way, has that normal
      const double x = dot(piece.normal, c.way) * c.across, y = dot(piece.normal, up) * c.radius;
      const double size = std::max(1e-9, std::sqrt(x * x + y * y));
      piece.touch = c.way * (-x * c.across / size) - up * (0.5 * (a->drop + b->drop) + y * c.radius / size) +
                    c.aside * (0.5 * dot(a->touch + b->touch, c.aside));
    }
    piece.hub = c.way * a->along - up * a->drop, piece.ground = a->ground;
    if (!c.sensed) c.ground = piece.ground;
    c.sensed = true;
  }
  if (!c.pieces.push_back(piece)) c.pieces[c.pieces.size() - 1].until = until;
}

/// Has the solver's lanes hold the piece that a wheel has come to.
void Vehicle::Tick::stand_on_piece(std::size_t wheel) {
  WheelContact& c = contacts[wheel];
  const auto [team, n, lane] = place(wheel);
  const GroundPiece& piece = c.pieces[c.piece];
  team.near.at[lane] = piece.near ? 1 : 0;
  // Against the edge of a step; else it is the body that tips over, and its strut does not throw it.
  team.most_slant.at[lane] = c.form == GroundForm::steps ? 9 : 3;
  const Vec3 mount = team.mount.get(lane);
  if (piece.near) {
    c.ground = piece.ground;
    team.point.set(lane, mount + piece.touch), team.normal.set(lane, piece.normal);
    team.height.at[lane] = n.rest_length.at[lane] + dot(piece.hub, piece.normal) / std::max(0.1, dot(piece.normal, up));
    return;
  }
  team.point.set(lane, mount), team.normal.set(lane, up);
  team.height.at[lane] = -n.droop.at[lane];
  if (c.sensed) return;  // it comes to ground, or has left it, in this tick
  team.ground.set(lane, {});
  team.grip.at[lane] = team.rolling.at[lane] = team.inverse_mass.at[lane] = 0;
}

/// What stands in a wheel's way at the height that it cannot roll up any more, while its hub is `drop` m below its
/// mount: where it goes, and before and behind it where it hardly goes or slides sideways.
void Vehicle::Tick::ask_for_walls(std::size_t wheel, double drop, WallLook& look, RayBatch& batch) const {
  const auto [team, n, lane] = place(wheel);
  const WheelContact& c = contacts[wheel];
  const Vec3 heading = team.heading.get(lane);
  look.high = team.mount.get(lane) - up * (drop + (1 - RolledProfile::highest) * c.radius);
  look.count = 0;
  const auto ask = [&](const Vec3& way) {
    look.ways[look.count] = way;
    batch.ask({look.high, way, c.far + 1.3 * c.radius}, look.hits[look.count++]);
  };
  if (!c.slow) ask(c.way);
  if (c.sideways) ask(heading), ask(heading * -1.0);
}

void Vehicle::Tick::take_walls(std::size_t wheel, const WallLook& look) {
  const auto [team, n, lane] = place(wheel);
  WheelContact& c = contacts[wheel];
  const Vec3 heading = team.heading.get(lane), axle = cross(heading, up), mount = team.mount.get(lane);
  const double half_width = 0.5 * v.wheels_[wheel].width;
  double nearest = c.wall = 1e300;
  c.walled = false;
  for (std::size_t i = 0; i < look.count; ++i) {
    const auto& hit = look.hits[i];
    const Vec3& way = look.ways[i];
    if (!hit || hit->distance <= 0 || std::abs(dot(hit->normal, up)) > 0.5 || dot(hit->normal, way) > -0.3 ||
        surroundings.facts(hit->body).mass > 0)
      continue;
    const double reach = c.radius * std::abs(dot(heading, hit->normal)) + half_width * std::abs(dot(axle, hit->normal));
    const double room = dot(look.high - hit->point, hit->normal) - reach;
    if (room >= nearest) continue;
    nearest = room, c.walled = true, c.face = hit->point, c.face_normal = hit->normal, c.face_reach = reach;
    c.wall = dot(way, c.way) > 0.9 ? dot(hit->point - mount, c.way) : 1e300;
  }
}

void Vehicle::Tick::look_for_walls(std::size_t wheel, double drop, const Filter& others) {
  static thread_local RayBatch batch;
  WallLook look;
  ask_for_walls(wheel, drop, look, batch);
  batch.send(surroundings, others);
  take_walls(wheel, look);
}

/// What is under a wheel beside a body that stands in its way.
void Vehicle::Tick::sense_past(std::size_t wheel, BodyId passed) {
  WheelContact& c = contacts[wheel];
  c.far = 0, c.moves = false;
  if (v.sense_ == GroundSense::ball || v.sense_ == GroundSense::disc) return sense_by_sweep(wheel, passed);
  const auto [team, n, lane] = place(wheel);
  Filter others = v.filter;
  others.ignored = v.body_, others.passed = passed;
  const double radius = n.radius.at[lane];
  const auto hit = surroundings.cast({team.mount.get(lane), -up, c.length + radius}, others);
  std::optional<Standing> standing;
  if (hit && hit->distance > 0 && dot(hit->normal, up) > 0.15)  // else the mount is inside of something
    standing = Standing{0, hit->distance - radius, hit->point - team.mount.get(lane), hit->normal, hit->body};
  lay_all(
      wheel, [&](double) { return standing; }, 1, GroundForm::plane);
}

void Vehicle::Tick::sense_by_sweep(std::size_t wheel, BodyId passed) {
  const auto [team, n, lane] = place(wheel);
  WheelContact& c = contacts[wheel];
  Filter others = v.filter;
  others.ignored = v.body_, others.passed = passed;
  const double radius = n.radius.at[lane], rounding = 0.05 * radius;
  const Vec3 axle = cross(team.heading.get(lane), up), half = axle * (0.5 * v.wheels_[wheel].width - rounding);
  const Vec3 mount = team.mount.get(lane);
  BodyId stands_on{};
  const auto stands = [&](double along) -> std::optional<Standing> {
    const double from = along != 0 ? 0.5 * radius : 0, far = c.length + from;
    Vec3 at = mount + c.way * along + up * from;
    // Clear of what stands in its way: that is no ground.
    if (c.walled) {
      const double room = dot(at - c.face, c.face_normal) - std::max(0.0, dot(up, c.face_normal) * far);
      at += c.face_normal * std::max(0.0, 0.01 * radius + c.face_reach - room);
    }
    const std::array<Vec3, 2> ends{at - half, at + half};
    const Convex mover = v.sense_ == GroundSense::ball ? Convex{std::span(&at, 1), radius, Core::point}
                                                       : Convex{ends, rounding, Core::cylinder, radius - rounding};
    auto hit = surroundings.sweep(mover, -up * far, others);
    const bool here = along <= WheelContact::more(radius, metre, dt);
    if (hit && !here && hit->body != stands_on && surroundings.facts(hit->body).mass > 0) {
      Filter firm = others;
      firm.passed = hit->body;
      hit = surroundings.sweep(mover, -up * far, firm);
    }
    if (!hit || dot(hit->normal, up) < 0.12) return {};
    if (here) stands_on = hit->body;
    return Standing{along, hit->distance * far - from, hit->point - mount - c.way * along, hit->normal, hit->body};
  };
  const WheelState& s = state.wheels[wheel];
  const double droop = n.droop.at[lane], bump = n.bump.at[lane];
  look_for_walls(wheel, n.rest_length.at[lane] - (state.moved ? std::clamp(s.compression, -droop, bump) : -droop),
                 others);
  const bool stands_still = s.pressed && dot(s.normal, up) > 0.99 && c.speed < at_rest;
  const bool here_only = stands_still || !tuning.look_ahead || passed;
  lay_all(wheel, stands, 0.5, here_only ? GroundForm::plane : GroundForm::steps);
}

}  // namespace jugend
