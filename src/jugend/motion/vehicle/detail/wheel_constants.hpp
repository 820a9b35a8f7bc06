// What a tick reads of wheels, four side by side, the two of an axle beside each other. Inner to the vehicle.
#pragma once

#include <jugend/base/array.hpp>
#include <jugend/base/four_lanes.hpp>
#include <vector>

namespace jugend {

/// What follows for four wheels from their tuning and from the body: nothing that a tick changes.
struct WheelConstants {
  Vec3s4 mount;
  Doubles4 radius, rest_length, rest_load;
  Doubles4 stiffness, growth, bump_damping, rebound_damping, bump, droop, stop_from, stop_rate, pull;  // see Strut
  Doubles4 give, give_rate, most_damping;
  Doubles4 anti_roll;                                           // N/m; the same for both of an axle
  Doubles4 grip, along_slope, side_slope, per_load, load_fade;  // stiffness over relaxation; 1 / rest_load
  Doubles4 side_most;              // share of the load that it holds sideways, as aids want
  Doubles4 brush, per_relaxation;  // 1 or 0; 1/m
  Doubles4 unsprung, per_unsprung, tyre_stiffness, tyre_damping;  // kg and 1/kg, 0 without
  Doubles4 spin_inertia, rolling;
  Doubles4 drive, foot, hand;  // share of all drive; N m at full pedal
  Doubles4 steer;              // share
  Doubles4 pair;               // 1 where the lane beside it is the other wheel of its axle
  Doubles4 joined;             // 1 where a differential is between both
};

/// Those of one vehicle.
struct WheelTable {
  Array<WheelConstants> wheels;
};

}  // namespace jugend
