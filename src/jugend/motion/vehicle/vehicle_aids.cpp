// Help that no vehicle has by itself: turning in the air, getting up again, leaning.
#include <algorithm>
#include <cmath>
#include <jugend/base/smoothing.hpp>
#include <jugend/motion/port/intent.hpp>
#include <jugend/motion/vehicle/detail/vehicle_tick.hpp>

namespace jugend {

/// Gives the body what aids do in this tick, before its motion is worked out.
void Vehicle::Tick::help() {
  const VehicleAids& aids = tuning.aids;
  const bool none = aids.air_level <= 0 && aids.air_turn <= 0 && aids.self_right <= 0 && aids.lean <= 0;
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
    const bool lies = dot(up, upwards) < 0.4 && norm(velocity.linear) < 0.3 && norm(velocity.angular) < 0.3;
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
