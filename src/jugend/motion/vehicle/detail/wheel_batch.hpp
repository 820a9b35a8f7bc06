// Four wheels during a tick, side by side as the solver works on them. Inner to the vehicle.
#pragma once

#include <cstdint>
#include <jugend/base/four_lanes.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/spatial.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

/// Directions with their moments about the body's centre.
struct SixOf4 {
  Vec3s4 linear, angular;
  SpatialVector get(std::size_t lane) const { return {linear.get(lane), angular.get(lane)}; }
};

/// Rates of change of what belongs to a wheel: its spin, the stretch of its tyre, its hub.
struct WheelRates {
  Doubles4 spin, along, side, hub, hub_speed;
};

/// Four wheels during a tick. Directions and levers are in the world, from the centre that forces act about.
struct WheelBatch {
  // What was sensed and is asked for.
  Doubles4 near;                         // 1: there is ground in reach, still
  Vec3s4 point, normal;                  // of the ground; m and a unit vector
  Vec3s4 mount;                          // at the tick's start
  Vec3s4 heading;                        // of the wheel, across the strut
  Vec3s4 ground;                         // m/s of the ground itself
  Doubles4 height;                       // m: the compression that the ground asks for at the tick's start
  Doubles4 grip, rolling, inverse_mass;  // of the surface: share; share of the load; 1/kg along the normal
  Doubles4 bears_along, bears_down;      // N that it can bear in this tick, along it and down on it
  Doubles4 brake, drive, inertia;        // N m at the most; share of all drive; kg m² that its axle turns
  // What stands on the ground there: what raises it, what the ground's force does, ahead and right of the wheel.
  SixOf4 rise, push, along, side, strut;
  Vec3s4 axle;                                      // about which it turns, rolling forwards: to the left
  Doubles4 slant, most_slant;                       // 1 / (normal · strut), and the most that counts
  Doubles4 ground_rise, ground_along, ground_side;  // m/s
  // As they are at the time that the solver has come to.
  Doubles4 spin, u_along, u_side, hub, hub_speed;
  // Slopes of a step, kept from its first stage for its second.
  Doubles4 spring_k, spring_c;  // of what holds the body up
  Doubles4 tyre_k, tyre_c;      // of the tyre upright, under a hub with a mass
  Doubles4 hub_den, hub_compliance, hub_share;
  Doubles4 stiff_along, stiff_side;  // N/m of stretch
  Doubles4 hold_along, hold_side;    // N s/m: the same with its rate, eliminated
  Doubles4 beta;                     // s: γ h / (1 + γ h decay)
  Doubles4 spin_den;                 // kg m² that resist its spin, with what the tyre adds
  Doubles4 locked, brake_torque;     // 1: held by its brake; N m
  Doubles4 spin_torque;              // N m on it, where a track turns it
  // Of a stage: what elimination leaves of the right-hand side.
  Doubles4 load[2];
  Doubles4 normal_force, forward, sideways, spin_rate, along_rate, side_rate, hub_rate, hub_push, bar;
  WheelRates rates[2];
  // Over the tick: N s, and until when it pressed, in s.
  Doubles4 pressed, pushed_along, pushed_side, left_at;
  Vec3s4 pushed;
};

/// What the ground is like that a wheel comes to in a tick.
enum class GroundForm : std::uint8_t { plane, bends, steps };

/// Where a wheel stands once its mount has come `along` m: m from the mount down to the hub, and what it touches.
struct Standing {
  double along = 0, drop = 0;
  Vec3 touch;   // m from the mount there
  Vec3 normal;  // unit
  BodyId ground;
};

/// A piece of the way of a hub over the ground, which is a plane that the wheel rolls on.
struct GroundPiece {
  bool near = false;  // is there ground at all?
  double until = 0;   // m along the way, at which it ends
  Vec3 hub;           // a place of the hub's plane, m from the mount at the tick's start
  Vec3 touch;         // m from the mount while it rolls there
  Vec3 normal;
  BodyId ground;
};

/// A wheel and the ground under it during one tick, as far as the solver's lanes do not hold it.
struct WheelContact {
  /// m further on than its speed takes it, and behind, that a wheel may come to by force.
  static double more(double radius, double metre, double dt) { return 0.005 * radius + 7.5 * metre * dt * dt; }

  bool sensed;             // is there ground that it can touch in this tick?
  bool sideways;           // does it hardly go, or across its heading?
  double speed;            // m/s over the ground
  double length;           // m below its mount that its hub may come to in this tick
  bool moves, slow;        // does it go on, so that the ground there counts? Or hardly, perhaps back?
  Vec3 way, aside;         // unit: which way it goes over the ground, and to the right of that
  double far;              // m that it goes, at the speed that it has
  double radius, across;   // m; and that the wheel reaches ahead of its mount along the way
  bool walled;             // does something stand there that it cannot roll up?
  double wall;             // m along the way to that, where it lies on the way; else 1e300
  Vec3 face, face_normal;  // a place of it, and which way it looks
  double face_reach;       // m from the hub that the wheel reaches towards it
  std::size_t piece;       // that it has come to
  double compression;      // m at the tick's start
  GroundForm form;
  InlineList<GroundPiece, 96> pieces;
  BodyId ground;
};

}  // namespace jugend
