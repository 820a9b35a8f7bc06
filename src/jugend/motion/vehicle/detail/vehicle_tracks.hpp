// Wheels that run on tracks: what a stage sums up over each side, and gives back to wheels and body. Inner to the
// vehicle. track_pair.hpp: the two spins.
#pragma once

#include <jugend/motion/vehicle/detail/vehicle_solver.hpp>

namespace jugend {

/// Calls act(side, team, constants, lane) for each wheel; side 0: left.
template <class L>
template <class Act>
void Vehicle::Tick::Solver<L>::each_on_tracks(Act act) const {
  for (std::size_t i = 0; i < tick.teams.size(); ++i) {
    const WheelConstants& n = tick.v.table_->wheels[i];
    for (std::size_t l = 0; l < 4; ++l) {
      if (n.drive.at[l] > 0) act(l % 2, tick.teams[i], n, l);
    }
  }
}

/// Both have one spin to begin with.
template <class L>
void Vehicle::Tick::Solver<L>::join_tracks() const {
  std::array<double, 2> spin{}, wheels{};
  each_on_tracks([&](std::size_t side, const WheelBatch& team, const WheelConstants&, std::size_t l) {
    spin[side] += team.spin.at[l], wheels[side] += 1;
  });
  each_on_tracks([&](std::size_t side, WheelBatch& team, const WheelConstants&, std::size_t l) {
    team.spin.at[l] = spin[side] / wheels[side];
  });
}

/// The tracks' rates as far as they are known, and what they do to the body.
template <class L>
template <int k>
void Vehicle::Tick::Solver<L>::turn_tracks(SpatialVector& force) {
  double radius = 1;
  if (k == 0) tracks = {};
  for (TrackPair::Side& side : tracks.sides) side.torque = 0;
  each_on_tracks([&](std::size_t which, const WheelBatch& team, const WheelConstants& n, std::size_t l) {
    TrackPair::Side& side = tracks.sides[which];
    radius = n.radius.at[l];
    side.torque += team.spin_torque.at[l];
    side.spin = team.spin.at[l] + (k > 0 ? h * team.rates[0].spin.at[l] : 0.0);
    if (k > 0) return;
    side.resists += team.spin_den.at[l], side.brake += team.brake_torque.at[l];
    side.pulls += team.along.get(l) * (radius * team.hold_along.at[l]);
  });
  const TrackDrive& drive = *tick.v.tracks_;
  tracks.tell(tick.turns * drive.gauge / radius, drive.turn_force * radius, tick.mean_held);
  if (k == 0) tracks.decide(h, G);
  tracks.solve(k == 0);
  each_on_tracks([&](std::size_t which, WheelBatch& team, const WheelConstants& n, std::size_t l) {
    const TrackPair::Side& side = tracks.sides[which];
    const double with = G * n.radius.at[l] * team.hold_along.at[l] * side.rate;
    const double turned = k > 0 ? dot(team.normal.get(l), x.angular - step_x.angular) : 0.0;
    team.spin_rate.at[l] = side.rate, team.forward.at[l] += with;
    team.locked.at[l] = side.locked, team.brake_torque.at[l] = side.braked;
    force += team.along.get(l) * with + team.side.get(l) * (-turned * with);
  });
}

}  // namespace jugend
