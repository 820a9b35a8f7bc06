// What a vehicle's tick finds: the ground under each wheel, the angles of the wheels, what is asked of drive and
// brakes.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/motion/intent.hpp>
#include <jugend/motion/vehicle_tick.hpp>

namespace jugend {

void Vehicle::Tick::steer() {
  const SteeringTuning& t = tuning.steering;
  const double wanted = -asked_share(intent.steer) * most_steer(t, std::abs(state.speed));
  state.steer = steered(t, state.steer, wanted, dt);
}

void Vehicle::Tick::sense() {
  lowered = body.centre - up * (stood || !state.moved ? tuning.aids.lower_centre : tuning.aids.lower_in_air);
  BodyId known{};
  BodyFacts facts;
  bool fixed = false;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    WheelContact& c = contacts[i];
    const WheelTuning& w = v.wheels_[i];
    WheelState& s = state.wheels[i];
    s.steer = v.steer_.wheel(state.steer, w.steer, w.mount.x, w.mount.z, tuning.steering.ackermann);
    sense_wheel(i);
    c.spin = s.spin, c.u_along = s.stretch_along, c.u_side = s.stretch_side;
    c.hub = s.hub, c.hub_speed = s.hub_speed;
    c.pressed = c.pushed_along = c.pushed_side = c.left_at = 0;
    c.pushed = {};
    c.drive = v.parts_[i].drive;
    c.inertia = w.spin_inertia;
    c.joined = c.limited = -1;
    c.brake = 0;
    if (!c.near) continue;
    any_on_ground |= s.on_ground = c.height >= -w.suspension.droop;
    if (!known || c.ground != known) {
      facts = surroundings.facts(c.ground), known = c.ground;
      fixed = facts.mass <= 0 && !facts.moving && facts.surface.belt == Vec3{};
    }
    const Vec3 ground = fixed ? Vec3{} : facts.surface_velocity_at(c.point);
    c.ground_rise = dot(ground, c.normal);
    c.ground_along = dot(ground, c.ahead), c.ground_side = dot(ground, c.right);
    c.surface_grip = facts.surface.grip;
    c.rolling = w.tyre.rolling + facts.surface.rolling_resistance / w.radius;
    c.ground_give = fixed ? 0.0 : facts.inverse_mass_at(c.point, c.normal);
    c.rest_mass = v.parts_[i].load / (strength > 0 ? strength : standard_gravity);
  }
}

/// A ray tells of one place, and the wheel goes on: look where it will be at the tick's end, too. Where both planes
/// meet on the way the ground bends there; where it drops, the time until then is found by halving; else it counts as
/// the line between both places.
void Vehicle::Tick::look_ahead(WheelContact& c, double radius, const Ray& ray, Hit& hit, const Filter& others) {
  const Vec3 lever = ray.origin - body.centre;
  const Vec3 way = in_plane(velocity.linear + cross(velocity.angular, lever), up) * dt;
  const double little = 0.05 * radius;
  if (tuning.look_ahead <= 0 || squared_norm(way) < little * little) return;
  // From further up: what it comes to may be higher.
  const auto at = [&](double share) {
    return surroundings.cast({ray.origin + way * share + up * radius, ray.direction, ray.length + radius}, others);
  };
  const auto off_plane = [&](const Hit& there) { return dot(there.point - hit.point, hit.normal); };
  const auto drops = [&](const std::optional<Hit>& there) { return !there || off_plane(*there) < -little; };
  const auto there = at(1);
  if (there && dot(there->normal, up) > 0.15 && dot(there->normal, hit.normal) < 0.9998) {
    // Where the line along the first plane comes down to the second.
    const Vec3 along = way - up * (dot(way, hit.normal) / dot(up, hit.normal));
    const double from = dot(hit.point - there->point, there->normal), falls = dot(along, there->normal);
    const double share = falls != 0 ? -from / falls : -1;
    if (share > 0.01 && share < 0.99) {
      const auto bend = at(share);
      if (bend && std::abs(off_plane(*bend)) < 0.2 * little) {
        c.until = share * dt;
        c.bends = true, c.next_point = there->point - way, c.next_normal = there->normal;
        return;
      }
    }
  }
  if (drops(there)) {
    double on = 0, off = 1;
    for (int k = 0; k < 5; ++k) (drops(at(0.5 * (on + off))) ? off : on) = 0.5 * (on + off);
    c.until = 0.5 * (on + off) * dt;
    return;
  }
  const Vec3 line = there->point - hit.point;
  const Vec3 across = normalised(cross(line, hit.normal));
  const Vec3 normal = cross(across, line);
  if (across != Vec3{} && dot(normal, up) > 0.2 * norm(normal)) hit.normal = normalised(normal);
}

/// What a wheel stands on: directions and levers along it.
void Vehicle::Tick::stand_on(WheelContact& c, const WheelTuning& w, const Vec3& point, const Vec3& normal) const {
  c.point = point, c.normal = normal;
  c.lean = std::min(1 / dot(normal, up), 3.0);
  c.ahead = normalised(in_plane(c.heading, normal), c.heading);
  c.right = cross(c.ahead, normal);
  c.lever = point + up * (tuning.force_height * w.radius) - lowered;
  const Vec3 direction = tuning.along_strut > 0 ? normalised(normal + (up - normal) * tuning.along_strut) : normal;
  c.rise = {normal, cross(point - lowered, normal)};
  c.push = {direction, cross(c.lever, direction)};
  c.along = {c.ahead, cross(c.lever, c.ahead)};
  c.side = {c.right, cross(c.lever, c.right)};
}

/// The ground bends under a wheel: from now on the other plane.
void Vehicle::Tick::bend(std::size_t i) {
  WheelContact& c = contacts[i];
  const WheelTuning& w = v.wheels_[i];
  stand_on(c, w, c.next_point, c.next_normal);
  const double down = dot(c.mount - c.next_point, c.next_normal) * c.lean;  // from the mount to the plane
  c.height = w.suspension.rest_length + w.radius - down;
  c.until = dt, c.bends = false;
}

void Vehicle::Tick::sense_wheel(std::size_t i) {
  WheelContact& c = contacts[i];
  const WheelTuning& w = v.wheels_[i];
  WheelState& s = state.wheels[i];
  const SuspensionTuning& sus = w.suspension;
  const Vec3 lever = ahead * w.mount.x + up * w.mount.y + right * w.mount.z;
  const Vec3 mount = body.centre + lever;
  // It may close in along its strut, or come down on level ground with the strut at a slant.
  const Vec3 going = velocity.linear + cross(velocity.angular, lever);
  const double slant = strength > 0 ? -dot(gravity, up) / strength : 0;
  const double sinks = slant > 0.3 ? dot(going, gravity) / (strength * slant) : 0;
  const double closing = std::max({0.0, -dot(going, up), sinks});
  const double reach = sus.rest_length + sus.droop + 1.5 * closing * dt;
  Filter others = v.filter;
  others.ignored = v.body_;
  const Vec3 heading = s.steer == 0 ? ahead : ahead * std::cos(s.steer) - right * std::sin(s.steer);
  c.until = dt, c.bends = false, c.mount = mount, c.heading = heading;
  std::optional<Hit> hit;
  double hub_drop = 0;  // m from the mount down to the hub, were the wheel to stand on what was hit
  const auto sense_kind = static_cast<GroundSense>(std::lround(tuning.sense));
  if (sense_kind == GroundSense::ray || sense_kind == GroundSense::rays) {
    const double all[] = {0, 0.6, -0.6};
    for (int k = 0; k < (sense_kind == GroundSense::ray ? 1 : 3); ++k) {
      const double off = all[k] * w.radius, below = std::sqrt(w.radius * w.radius - off * off);
      const Ray ray{mount + heading * off, -up, reach + below};
      auto found = surroundings.cast(ray, others);
      if (!found || found->distance <= 0) continue;
      if (k == 0) look_ahead(c, w.radius, ray, *found, others);
      const double drop = found->distance - below;
      if (!hit || drop < hub_drop) hit = found, hub_drop = drop;
    }
  } else {
    const bool ball = sense_kind == GroundSense::ball;
    const Vec3 axle = cross(heading, up), half = axle * (0.5 * w.width - 0.05 * w.radius);
    const std::array<Vec3, 2> ends{mount - half, mount + half};
    const double rounding = 0.05 * w.radius;
    const Convex mover = ball ? Convex{std::span(&mount, 1), w.radius, Core::point}
                              : Convex{ends, rounding, Core::cylinder, w.radius - rounding};
    hit = surroundings.sweep(mover, -up * reach, others);
    if (hit) hub_drop = hit->distance * reach;
  }
  c.near = c.sensed = hit && dot(hit->normal, up) > 0.15;
  c.strut = {up, cross(mount - lowered, up)};
  c.lever = mount - up * sus.rest_length - lowered;
  if (!c.near) {
    s.on_ground = false;
    return;
  }
  c.ground = hit->body;
  c.height = sus.rest_length - hub_drop;
  stand_on(c, w, hit->point, hit->normal);
}

/// What the tick before did not foresee, a trailer that pulls or a wall that holds, stretches the tyres as well.
void Vehicle::Tick::follow_stretch() {
  if (!state.moved) return;
  const Vec3 off = body.pose.position - state.expected.position;
  const Vec3 turn = rotation_vector(body.pose.orientation * conjugate(state.expected.orientation));
  for (WheelContact& c : contacts) {
    if (!c.near) continue;
    const Vec3 moved = off + cross(turn, c.point - body.pose.position);
    if (squared_norm(moved) > 0.01 * 0.01) continue;  // put elsewhere
    c.u_along += dot(moved, c.ahead);
    c.u_side += dot(moved, c.right);
  }
}

void Vehicle::Tick::ask() {
  throttle = asked_share(intent.throttle);
  foot = asked_share(intent.brake, 0), hand = asked_share(intent.hand_brake, 0);
  constexpr double slow = 0.4;  // m/s, below which it may be put into the other direction
  if (throttle * state.speed < 0 && std::abs(state.speed) > slow && any_on_ground) {
    foot = std::max(foot, std::abs(throttle));
    throttle = 0;
  }
  const bool idle = throttle == 0 && std::abs(state.speed) < slow;
  if (tuning.aids.hold > 0 && idle) foot = std::max(foot, tuning.aids.hold);
  double shaft = 0, turning = 0;
  bool grounded = false;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    shaft += contacts[i].drive * contacts[i].spin;
    grounded |= contacts[i].drive > 0 && contacts[i].near;
  }
  if (v.engine_) {
    const std::int32_t before = state.engine.gear;
    v.engine_->shift(state.engine, shaft, grounded, throttle, intent.shift, throttle < 0, dt);
    if (state.engine.gear != before)
      v.events_.push_back({VehicleEventKind::shifted, 0, 0, static_cast<double>(state.engine.gear)});
    turning = v.engine_->inertia_at_wheels(state.engine);
    // Until the gear is the one for it, the pedal brakes.
    if (throttle != 0 && tuning.drive.engine.automatic > 0 && (throttle < 0) != (state.engine.gear < 0))
      foot = std::max(foot, std::abs(throttle)), throttle = 0;
  }
  double reached = 0;
  for (const WheelContact& c : contacts) reached += c.near ? c.drive : 0.0;
  const double let_go = std::max(0.0, 1 - 10 * std::abs(throttle));  // the first tenth of the pedal ends coasting
  const double coast = tuning.drive.engine_on > 0 ? 0.0 : tuning.drive.coast * let_go * v.law_.mass;
  // The pedal asks for a deceleration; what air and rolling take is not asked of the brakes.
  const double taken = tuning.air.drag * state.speed * state.speed + v.rolling_;
  const double asked = tuning.brakes.deceleration * v.law_.mass;
  const double needed =
      asked > 0 && std::abs(state.speed) > slow ? std::max(0.0, 1 - taken / (asked * std::max(foot, 1e-9))) : 1.0;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    WheelContact& c = contacts[i];
    const WheelTuning& w = v.wheels_[i];
    c.inertia += turning * c.drive;
    const double foot_torque = foot * v.parts_[i].foot * needed, hand_torque = hand * v.parts_[i].hand;
    c.brake = std::max(foot_torque + hand_torque, coast * c.drive * w.radius);
    // A driven wheel in the air leaves its share to those that stand.
    if (tuning.drive.engine_on <= 0 && c.drive > 0 && reached > 0) c.drive = c.near ? c.drive / reached : 0;
    const int partner = v.parts_[i].partner;
    if (c.drive <= 0 || partner < 0) continue;
    if (tuning.drive.differential == 1) c.joined = partner;
    if (tuning.drive.differential == 2) c.limited = partner;
  }
}

/// N m on wheel i while the body goes at `speed` and the wheel turns with `spin`.
double Vehicle::Tick::drive_torque(std::size_t i, double speed, double spin) const {
  const WheelContact& c = contacts[i];
  if (throttle == 0 || c.drive == 0) return 0;
  const double radius = v.wheels_[i].radius, rim = spin * radius;
  // A wheel that spins far faster than it rolls counts as its rim does: it does not race away.
  const double free = (rim - std::copysign(1 + 0.2 * std::abs(speed), throttle));
  const double fastest = throttle > 0 ? std::max(speed, free) : std::min(speed, free);
  double force = v.force_ ? throttle * v.force_->value(std::abs(fastest)) : v.law_.force(fastest, throttle);
  if (!v.force_) {
    const double air = tuning.air.drag * speed * std::abs(speed);
    force += std::abs(throttle) * air + std::clamp(10 * throttle, -1.0, 1.0) * v.rolling_;
  }
  return force * c.drive * radius;
}

}  // namespace jugend
