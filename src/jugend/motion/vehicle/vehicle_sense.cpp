// What a vehicle's tick finds: the angles of the wheels, how the ground under them moves, what is asked of drive and
// brakes.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/intent.hpp>
#include <jugend/motion/vehicle/detail/wheel_way.hpp>

namespace jugend {
namespace {

constexpr double most_step = 0.5;  // of its radius that a wheel comes up by at once

}  // namespace

void Vehicle::Tick::steer() {
  if (v.tracks_) {
    const double told = -asked_share(intent.steer) * v.most_turn(state.speed), was = state.turn;
    state.turn += std::clamp(told - was, -v.tracks_->turn_acceleration * dt, v.tracks_->turn_acceleration * dt);
    turns = 0.5 * (was + state.turn);
    return;
  }
  const SteeringTuning& t = tuning.steering;
  double wanted = -asked_share(intent.steer) * v.most_steer(std::abs(state.speed));
  if (tuning.aids.counter_steer > 0 && stood) {
    constexpr double grips = 3 * radians_per_degree;  // up to which tyres only slip
    const double slide = sliding(), beyond = std::max(0.0, std::abs(slide) - grips);
    wanted = std::clamp(wanted - tuning.aids.counter_steer * std::copysign(beyond, slide), -t.angle, t.angle);
  }
  const double was = state.steer;
  state.steer = steered(t, was, wanted, dt);
  steers = 0.5 * (was + state.steer);
}

/// rad by which it looks to the left of where it goes over the ground; 0 while it hardly goes ahead.
double Vehicle::Tick::sliding() const {
  const double slow = 2 * metre;  // a second
  const Vec3 going = velocity.linear - state.ground;
  const double forwards = dot(going, ahead), to_right = dot(going, right);
  return forwards > 0 && same_bits::hypot(forwards, to_right) > slow ? same_bits::atan2(to_right, forwards) : 0.0;
}

void Vehicle::Tick::sense() {
  lowered = body.centre - up * (stood || !state.moved ? tuning.aids.lower_centre : tuning.aids.lower_in_air);
  const double slant = -dot(gravity, up) * per_strength;
  if (slant > 0.3) sinking = gravity * (per_strength / slant);
  const double curvature = v.steer_.curvature(steers);
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const auto [team, n, lane] = place(i);
    WheelState& s = state.wheels[i];
    const double angle = v.steer_.wheel(steers, curvature, n.steer.at[lane], n.mount.x.at[lane], n.mount.z.at[lane],
                                        tuning.steering.ackermann);
    s.steer = angle;
    team.heading.set(lane, angle == 0 ? ahead : ahead * same_bits::cos(angle) - right * same_bits::sin(angle));
    team.spin.at[lane] = s.spin, team.u_along.at[lane] = s.stretch_along, team.u_side.at[lane] = s.stretch_side;
    team.hub.at[lane] = s.hub, team.hub_speed.at[lane] = s.hub_speed;
    team.mount.set(lane,
                   body.centre + ahead * n.mount.x.at[lane] + up * n.mount.y.at[lane] + right * n.mount.z.at[lane]);
  }
  for (std::size_t i = 0; i < contacts.size(); ++i) know_way(i);
  if (v.sense_ == GroundSense::ray || v.sense_ == GroundSense::rays) {
    sense_by_rays(v.sense_ == GroundSense::ray ? 1 : 3);
  } else {
    for (std::size_t i = 0; i < contacts.size(); ++i) sense_by_sweep(i, {});
  }
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    WheelContact& c = contacts[i];
    if (c.sensed && !know_ground(i)) {
      sense_past(i, c.ground);
      if (c.sensed && !know_ground(i))  // behind one that stands in its way there is another
        lay_all(
            i, [](double) { return std::optional<Standing>(); }, 1, GroundForm::plane);
    }
    const auto [team, n, lane] = place(i);
    c.compression = team.height.at[lane];
    if (c.sensed) any_on_ground |= state.wheels[i].on_ground = c.compression >= -n.droop.at[lane];
  }
}

/// How the ground moves that a wheel stands on or comes to, and what it bears. Tells whether it can be on it.
bool Vehicle::Tick::know_ground(std::size_t wheel) {
  const auto [team, n, lane] = place(wheel);
  const WheelContact& c = contacts[wheel];
  if (!known || c.ground != known) {
    known_facts = surroundings.facts(c.ground), known = c.ground;
    fixed = known_facts.mass <= 0 && !known_facts.moving && known_facts.surface.belt == Vec3{};
  }
  if (known_facts.mass > 0 && !climbs(wheel, known_facts)) return false;
  const Vec3 point = team.point.get(lane), normal = team.normal.get(lane);
  team.ground.set(lane, fixed ? Vec3{} : mean_velocity(known_facts, point));
  team.grip.at[lane] = known_facts.surface.grip;
  team.rolling.at[lane] = n.rolling.at[lane] + known_facts.surface.rolling_resistance / n.radius.at[lane];
  team.inverse_mass.at[lane] = fixed ? 0.0 : known_facts.inverse_mass_at(point, normal);
  team.bears_along.at[lane] = team.bears_down.at[lane] = 1e300;
  if (team.inverse_mass.at[lane] <= 0) return true;
  ground_is_light = true;
  bear(wheel, known_facts);
  return true;
}

/// Of the ground at `point` over the tick: what turns goes round meanwhile. So does the wheel, as its body turns, which
/// its own velocity does not count: what turns with the ground stands still on it.
Vec3 Vehicle::Tick::mean_velocity(const BodyFacts& facts, const Vec3& point) const {
  const Vec3 round = cross(facts.spin, facts.velocity_at(point) - facts.velocity);
  const Vec3 own = cross(velocity.angular, cross(velocity.angular, point - body.centre));
  return facts.surface_velocity_at(point) + (round - own) * (0.5 * dt);
}

/// Against what carries it. In the air that is what carried it last.
void Vehicle::Tick::know_speed() {
  Vec3 sum;
  double wheels = 0;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const auto [team, n, lane] = place(i);
    if (contacts[i].sensed) sum += team.ground.get(lane), wheels += 1;
  }
  if (wheels > 0) state.ground = sum / wheels;
  state.speed = dot(velocity.linear - state.ground, ahead);
}

/// Where it starts, what is below counts as what carried it.
void Vehicle::Tick::look_below() {
  constexpr double far = 1000;  // m
  Filter others = v.filter;
  others.ignored = v.body_;
  if (strength == 0) return;
  if (const auto below = surroundings.cast({body.centre, gravity / strength, far}, others))
    state.ground = surroundings.facts(below->body).surface_velocity_at(below->point);
}

/// Where it is put its wheels roll as it goes, and hubs with a mass are where tyre, spring and weight leave them.
void Vehicle::Tick::start() {
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const auto [team, n, lane] = place(i);
    const Vec3 rolls = velocity_at(team.mount.get(lane)) - (contacts[i].sensed ? team.ground.get(lane) : state.ground);
    team.spin.at[lane] = state.wheels[i].spin = dot(rolls, team.heading.get(lane)) / n.radius.at[lane];
    const double unsprung = n.unsprung.at[lane];
    if (unsprung <= 0) continue;
    double low = -n.droop.at[lane], high = n.bump.at[lane];
    for (int halving = 0; halving < 60; ++halving) {
      const double hub = 0.5 * (low + high),
                   deep = contacts[i].sensed ? std::max(0.0, team.height.at[lane] - hub) : 0.0;
      const double up_on_it =
          n.tyre_stiffness.at[lane] * deep - v.parts_[i].strut.at(hub, 0).force + unsprung * dot(gravity, up);
      (up_on_it > 0 ? low : high) = hub;
    }
    team.hub.at[lane] = low, team.hub_speed.at[lane] = 0;
  }
}

/// What light things bear: within a tick a wheel brings them along, no more, so that none is shot away. What stands
/// firm under it, a plank on a floor, comes to bear a wheel's load in a few hundredths of a second.
void Vehicle::Tick::bear(std::size_t wheel, const BodyFacts& facts) {
  const auto [team, n, lane] = place(wheel);
  if (facts.mass >= n.rest_load.at[lane] * per_strength) return;
  const WheelState& s = state.wheels[wheel];
  const Vec3 normal = team.normal.get(lane), rim = team.heading.get(lane) * (n.radius.at[lane] * team.spin.at[lane]);
  const Vec3 against = velocity_at(team.point.get(lane)) - team.ground.get(lane);
  const auto brings = [&](double speed) { return (speed / dt + 2 * strength) * facts.mass; };
  const double bore = s.ground == contacts[wheel].ground ? s.load * same_bits::exp2(40 * dt) : 0;
  team.bears_along.at[lane] = brings(norm(in_plane(against - rim, normal)));
  team.bears_down.at[lane] = brings(std::max(0.0, -dot(against, normal))) + bore;
}

Vec3 Vehicle::Tick::velocity_at(const Vec3& point) const {
  return velocity.linear + cross(velocity.angular, point - body.centre);
}

/// Can the wheel be on what was found, or does it stand in its way? It comes up by no more than a step at once, beside
/// what it drives up a slope or comes down on, and not on the flanks of light things.
bool Vehicle::Tick::climbs(std::size_t wheel, const BodyFacts& facts) const {
  const auto [team, n, lane] = place(wheel);
  if (!state.moved) return true;
  const Vec3 point = team.point.get(lane), normal = team.normal.get(lane);
  if (facts.mass < n.rest_load.at[lane] * per_strength && dot(normal, up) < 0.8) return false;
  const double nears = dot(facts.velocity_at(point) - velocity_at(team.mount.get(lane)), normal) / dot(normal, up);
  const double was = state.wheels[wheel].compression;
  return team.height.at[lane] - was < most_step * n.radius.at[lane] + 1.5 * std::max(0.0, nears) * dt;
}

/// m below the mount that the hub may come to in this tick: it may close in along its strut, or come down on level
/// ground with the strut at a slant.
double Vehicle::Tick::reach(std::size_t wheel) const {
  const auto [team, n, lane] = place(wheel);
  const Vec3 going = over_ground(team.mount.get(lane));
  const double closing = std::max({0.0, -dot(going, up), dot(going, sinking)});
  return n.rest_length.at[lane] + n.droop.at[lane] + 1.5 * closing * dt;
}

void Vehicle::Tick::ask() {
  throttle = asked_share(intent.throttle);
  foot = asked_share(intent.brake, 0), hand = asked_share(intent.hand_brake, 0);
  const double slow = 0.4 * metre;  // a second, below which it may be put into the other direction
  if (throttle * state.speed < 0 && std::abs(state.speed) > slow && any_on_ground) {
    // For the share of the tick until it is as slow; the rest drives it the other way.
    const double braked = std::abs(throttle) * tuning.brakes.deceleration * dt;
    const double share = braked > 0 ? std::min(1.0, (std::abs(state.speed) - slow) / braked) : 1.0;
    foot = std::max(foot, std::abs(throttle) * share);
    throttle *= 1 - share;
  }
  // What a drive's own resistance brakes while tracks are steered it takes off their mean: a brake on each would hold
  // the inner one fast, and the steering drive would drag the outer one round it for ever.
  const bool by_mean = v.tracks_ && turns != 0 && intent.brake <= 0 && hand == 0;
  const bool idle = throttle == 0 && std::abs(state.speed) < slow, on_the_spot = idle && by_mean && foot == 0;
  if (tuning.aids.hold && idle && !on_the_spot) foot = 1;
  double shaft = 0, turning = 0, reached = 0;
  for (std::size_t t = 0; t < teams.size(); ++t) {
    for (std::size_t l = 0; l < 4; ++l) {
      const double drive = v.table_->wheels[t].drive.at[l];
      shaft += drive * teams[t].spin.at[l];
      if (teams[t].near.at[l] > 0) reached += drive;
    }
  }
  if (v.engine_) {
    const std::int32_t before = state.engine.gear;
    v.engine_->shift(state.engine, shaft, reached > 0, throttle, intent.shift, throttle < 0, dt);
    if (state.engine.gear != before)
      v.events_.push_back({VehicleEventKind::shifted, 0, 0, static_cast<double>(state.engine.gear)});
    turning = v.engine_->inertia_at_wheels(state.engine);
    // Until the gear is the one for it, the pedal brakes.
    if (throttle != 0 && tuning.drive.engine.automatic > 0 && (throttle < 0) != (state.engine.gear < 0))
      foot = std::max(foot, std::abs(throttle)), throttle = 0;
  }
  const double let_go = std::max(0.0, 1 - 10 * std::abs(throttle));  // the first tenth of the pedal ends coasting
  const double coast = tuning.drive.by == DriveBy::engine ? 0.0 : tuning.drive.coast * let_go * v.law_.mass;
  // The pedal asks for a deceleration; what air and rolling take is not asked of the brakes.
  const double through_air = dot(velocity.linear, ahead);
  const double taken = tuning.air.drag * through_air * std::abs(through_air) * (state.speed < 0 ? -1 : 1) + v.rolling_;
  const double asked = tuning.brakes.deceleration * v.law_.mass;
  const double needed =
      asked > 0 && std::abs(state.speed) > slow ? std::max(0.0, 1 - taken / (asked * std::max(foot, 1e-9))) : 1.0;
  // A driven wheel in the air leaves its share to those that stand.
  const bool leaves = tuning.drive.by != DriveBy::engine && reached > 0 && !v.tracks_;
  for (std::size_t t = 0; t < teams.size(); ++t) {
    WheelBatch& team = teams[t];
    const WheelConstants& n = v.table_->wheels[t];
    for (std::size_t l = 0; l < 4; ++l) {
      const double drive = n.drive.at[l];
      team.inertia.at[l] = n.spin_inertia.at[l] + turning * drive;
      const double held = on_the_spot && tuning.aids.hold ? n.foot.at[l] : 0.0;
      const double brakes =
          std::max(foot * n.foot.at[l] * needed + hand * n.hand.at[l], coast * drive * n.radius.at[l]);
      team.brake.at[l] = by_mean ? 0 : brakes;
      if (by_mean) mean_held += 0.5 * std::max(brakes, held);
      team.drive.at[l] = leaves ? (team.near.at[l] > 0 ? drive / reached : 0.0) : drive;
    }
  }
}

/// N along the body from all drive while it goes at `speed` over the ground; wheels whose rim goes faster count as
/// their rim does.
double Vehicle::Tick::drive_force(double rim, double speed) const {
  if (throttle == 0) return 0;
  const double fastest = throttle > 0 ? std::max(speed, rim) : std::min(speed, rim);
  return v.drive_force(throttle, fastest, speed + dot(state.ground, ahead));
}

}  // namespace jugend
