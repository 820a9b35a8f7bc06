// What a tick reads of wheels, four side by side, the two of an axle beside each other. Inner to the vehicle.
#pragma once

#include <jugend/base/of4.hpp>

namespace jugend {

/// What follows for four wheels from their tuning and from the body: nothing that a tick changes.
struct WheelNumbers {
  Vec3Of4 mount;
  RowOf4 radius, rest_length, rest_load;
  RowOf4 stiffness, growth, bump_damping, rebound_damping, bump, droop, stop_from, stop_rate, pull;  // see Strut
  RowOf4 anti_roll;                                             // N/m; the same for both of an axle
  RowOf4 grip, along_slope, side_slope, per_load, load_fade;    // stiffness over relaxation; 1 / rest_load
  RowOf4 brush, per_relaxation;                                 // 1 or 0; 1/m
  RowOf4 unsprung, per_unsprung, tyre_stiffness, tyre_damping;  // kg and 1/kg, 0 without
  RowOf4 spin_inertia, rolling;
  RowOf4 drive, foot, hand;  // share of all drive; N m at full pedal
  RowOf4 steer;              // share
  RowOf4 pair;               // 1 where the lane beside it is the other wheel of its axle
  RowOf4 joined;             // 1 where a differential is between both
};

}  // namespace jugend
