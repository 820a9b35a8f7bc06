// A wheel and the ground under it during one tick, with what the solver keeps of it. Inner to the vehicle.
#pragma once

#include <jugend/motion/six.hpp>
#include <jugend/motion/surroundings.hpp>

namespace jugend {

/// Rates of change of what belongs to one wheel: its spin, the stretch of its tyre, its hub.
struct WheelRates {
  double spin, along, side, hub, hub_speed;
};

/// Directions and levers are in the world, from the centre of mass.
struct WheelContact {
  bool sensed;   // is there ground that it can touch in this tick?
  bool near;     // and is it still there at the time that the solver has come to?
  double until;  // s into the tick at which the ground under the wheel ends
  bool bends;    // into this, then
  Vec3 next_point, next_normal;
  Vec3 mount;  // at the tick's start
  BodyId ground;
  Vec3 point, normal;
  Vec3 heading;                                   // of the wheel, across the strut
  Vec3 ahead, right;                              // along the ground, as the wheel heads
  Vec3 lever;                                     // of the place where forces enter
  Six rise, push;                                 // what raises the wheel off the ground; what the ground's force does
  Six along, side;                                // ahead and right, with their moments
  Six strut;                                      // the strut's direction
  double lean;                                    // 1 / (normal · strut)
  double height;                                  // m: the compression that the ground asks for at the tick's start
  double ground_rise, ground_along, ground_side;  // m/s of the ground itself
  double surface_grip, rolling, ground_give;      // share; share of the load; 1/kg along the normal
  double rest_mass;                               // kg that rests on it
  double brake;                                   // N m at the most
  double drive;                                   // share of all drive
  double inertia;                                 // kg m² that its axle turns
  int joined, limited;  // the wheel that it shares its spin with; that it passes torque to; or -1

  // While it is integrated: as they are, and the slopes of a step, kept from its first stage for its second.
  double spin, u_along, u_side, hub, hub_speed;
  double spring_k, spring_c;  // of what holds the body up
  double tyre_k, tyre_c;      // of the tyre upright, under a hub with a mass
  double hub_den, hub_give, hub_share;
  double stiff_along, stiff_side;  // N/m of stretch
  double hold_along, hold_side;    // N s/m: the same with its rate, eliminated
  double decay;                    // 1/s of stretch
  double spin_inertia, spin_den;   // kg m² that resist its spin, and with what the tyre adds
  bool locked;
  double brake_most, brake_torque;  // N m that the brake may and does give
  // Of each stage: what elimination leaves of the right-hand side.
  struct Stage {
    double load, normal, along, side, back, turned, torque, tends, spin, u_along, u_side, hub, hub_rate, bar;
    WheelRates rates;
  } stage[2];

  double left_at;                             // s into the tick until which it pressed
  double pressed, pushed_along, pushed_side;  // N s over the tick
  Vec3 pushed;
};

}  // namespace jugend
