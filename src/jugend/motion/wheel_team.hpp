// Four wheels during a tick, side by side as the solver works on them. Inner to the vehicle.
#pragma once

#include <jugend/base/of4.hpp>
#include <jugend/motion/six.hpp>
#include <jugend/motion/surroundings.hpp>

namespace jugend {

/// Directions with their moments about the body's centre.
struct SixOf4 {
  Vec3Of4 linear, angular;
  Six get(std::size_t lane) const { return {linear.get(lane), angular.get(lane)}; }
};

/// Rates of change of what belongs to a wheel: its spin, the stretch of its tyre, its hub.
struct WheelRates {
  RowOf4 spin, along, side, hub, hub_speed;
};

/// Four wheels during a tick. Directions and levers are in the world, from the centre that forces act about.
struct WheelTeam {
  // What was sensed and is asked for.
  RowOf4 near;                   // 1: there is ground in reach, still
  Vec3Of4 point, normal;         // of the ground; m and a unit vector
  Vec3Of4 mount;                 // at the tick's start
  Vec3Of4 heading;               // of the wheel, across the strut
  Vec3Of4 ground;                // m/s of the ground itself
  RowOf4 height;                 // m: the compression that the ground asks for at the tick's start
  RowOf4 grip, rolling, give;    // of the surface: share; share of the load; 1/kg along the normal
  RowOf4 hold, bears;            // N that it can bear in this tick, along it and down on it
  RowOf4 brake, drive, inertia;  // N m at the most; share of all drive; kg m² that its axle turns
  // What stands on the ground there: what raises it, what the ground's force does, ahead and right of the wheel.
  SixOf4 rise, push, along, side, strut;
  Vec3Of4 axle;                                   // about which it turns, rolling forwards: to the left
  RowOf4 lean;                                    // 1 / (normal · strut)
  RowOf4 ground_rise, ground_along, ground_side;  // m/s
  // As they are at the time that the solver has come to.
  RowOf4 spin, u_along, u_side, hub, hub_speed;
  // Slopes of a step, kept from its first stage for its second.
  RowOf4 spring_k, spring_c;  // of what holds the body up
  RowOf4 tyre_k, tyre_c;      // of the tyre upright, under a hub with a mass
  RowOf4 hub_den, hub_give, hub_share;
  RowOf4 stiff_along, stiff_side;  // N/m of stretch
  RowOf4 hold_along, hold_side;    // N s/m: the same with its rate, eliminated
  RowOf4 beta;                     // s: γ h / (1 + γ h decay)
  RowOf4 spin_den;                 // kg m² that resist its spin, with what the tyre adds
  RowOf4 locked, brake_torque;     // 1: held by its brake; N m
  // Of a stage: what elimination leaves of the right-hand side.
  RowOf4 load[2];
  RowOf4 normal_force, forward, sideways, spin_rate, along_rate, side_rate, hub_rate, hub_push, bar;
  WheelRates rates[2];
  // Over the tick: N s, and until when it pressed, in s.
  RowOf4 pressed, pushed_along, pushed_side, left_at;
  Vec3Of4 pushed;
};

/// A wheel and the ground under it during one tick, as far as the solver's lanes do not hold it.
struct WheelContact {
  bool sensed;   // is there ground that it can touch in this tick?
  bool bends;    // does it go on at an angle, then
  double until;  // s into the tick, at which the ground under the wheel ends
  Vec3 next_point, next_normal;
  BodyId ground;
};

}  // namespace jugend
