// Help that no vehicle has by itself: turning in the air, getting up again, leaning.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/intent.hpp>
#include <jugend/motion/vehicle/detail/vehicle_tick.hpp>

namespace jugend {

/// rad/s by which it is turned to the left in this tick, so that in a slide it comes to look aside by the angle asked
/// for, critically damped about where its way turns by the tyres' forces.
double Vehicle::Tick::hold_drift() const {
  constexpr double slides = 8 * radians_per_degree, frequency = 1.2, most = 12;  // rad, Hz, rad/s²
  const double looks = sliding();
  if (!stood || std::abs(looks) < slides || (throttle <= 0.1 && hand <= 0)) return 0;
  double pushed_ahead = 0, pushed_right = 0;
  for (std::size_t i = 0; i < contacts.size(); ++i) {
    const WheelState& s = state.wheels[i];
    pushed_ahead += s.along * same_bits::cos(s.steer) + s.side * same_bits::sin(s.steer);
    pushed_right += s.side * same_bits::cos(s.steer) - s.along * same_bits::sin(s.steer);
  }
  const Vec3 going = velocity.linear - state.ground;
  const double forwards = dot(going, ahead), to_right = dot(going, right);
  const double way_turns =
      (pushed_ahead * to_right - pushed_right * forwards) / (mass * (forwards * forwards + to_right * to_right));
  const double off = looks + asked_share(intent.steer) * tuning.aids.drift_hold;
  const double change = settling(off, dot(velocity.angular, up) - way_turns, frequency, dt);
  return std::clamp(change, -most * dt, most * dt);
}

/// Gives the body what aids do in this tick, before its motion is worked out.
void Vehicle::Tick::help() {
  const VehicleAids& aids = tuning.aids;
  const bool none =
      aids.air_level <= 0 && aids.air_turn <= 0 && aids.self_right <= 0 && aids.lean <= 0 && aids.drift_hold <= 0;
  if (none || strength <= 0) return;
  const Vec3 upwards = gravity / -strength;
  SpatialVector change{};
  if (!stood && !any_on_ground) {
    if (aids.air_level > 0) {
      const Vec3 error = turn_between(up, upwards, ahead), across = in_plane(velocity.angular, upwards);
      change.angular += settling(-error, across, aids.air_level, dt);
    }
    change.angular += (up * -asked_share(intent.steer) + right * asked_share(intent.lean)) * (aids.air_turn * dt);
  }
  if (aids.drift_hold > 0) change.angular += up * hold_drift();
  if (aids.lean > 0 && any_on_ground) {
    // Into the curve that it steers, so that what pushes it out and its weight together press along its own up.
    const double outwards = state.speed * state.speed * v.steer_.curvature(state.steer) / strength;
    const Vec3 level_right = normalised(in_plane(right, upwards), right);
    const double wish = 0.25 * asked_share(intent.lean);
    const Vec3 wanted = normalised(upwards - level_right * (std::clamp(outwards, -1.5, 1.5) - wish));
    const Vec3 error = turn_between(in_plane(up, ahead), in_plane(wanted, ahead), ahead);
    const double about = dot(error, ahead), rate = dot(velocity.angular, ahead);
    const Vec3 turn = ahead * settling(-about, rate, aids.lean, dt);
    // It rolls about where its wheels stand.
    Vec3 stand;
    double wheels = 0;
    for (std::size_t i = 0; i < contacts.size(); ++i) {
      const auto [team, n, lane] = place(i);
      if (contacts[i].sensed) stand += team.point.get(lane), wheels += 1;
    }
    change += SpatialVector{cross(turn, body.centre - stand / wheels), turn};
  }
  if (aids.self_right > 0) {
    const bool lies = dot(up, upwards) < 0.4 && norm(velocity.linear) < 0.3 * metre && norm(velocity.angular) < 0.3;
    state.still_on_roof = lies ? state.still_on_roof + dt : 0;
    if (state.still_on_roof >= aids.self_right) {
      // A hop as long as the turn takes: free flight brings it round.
      const Vec3 error = turn_between(up, upwards, ahead);
      const double time = 0.35 + 0.15 * norm(error);
      change = {upwards * (0.5 * strength * time), error / time};
      state.still_on_roof = 0;
      v.events_.push_back({VehicleEventKind::righted, 0, 0, norm(error)});
    }
  }
  if (change.linear == Vec3{} && change.angular == Vec3{}) return;
  surroundings.push(v.body_, change.linear * mass, body.centre);
  surroundings.twist(v.body_, inertia * change.angular);
  velocity += change;
}

}  // namespace jugend
