// Solves the motion of body and wheels over a step. Inner to the vehicle.
//
// Springs, dampers, tyres and wheels are one stiff system. It is solved by the two-stage Rosenbrock method ROS2 with
// γ = 1 - 1/√2, which is of second order whatever approximates the slopes A, and L-stable where they are right
// (J. G. Verwer, E. J. Spee, J. G. Blom, W. Hundsdorfer, SIAM J. Sci. Comput. 20, 1999, 1456-1480):
//   (1 - γ h A) k1 = f(y),   (1 - γ h A) k2 = f(y + h k1) - 2 k1,   y += h (3 k1 + k2) / 2.
// What belongs to one wheel, its spin, stretch and hub, is eliminated by hand: six unknowns are left, and a matrix
// that each spring and tyre adds its part to.
//
// vehicle_stages.cpp: the forces of a stage, and what elimination makes of them. vehicle_motion.cpp: steps, and the
// tick.
#pragma once

#include <jugend/motion/vehicle_tick.hpp>

namespace jugend {

struct Vehicle::Tick::Solver {
  Tick& tick;
  const double h, G;  // s of a step, and γ times that
  Sym6 matrix;
  // The stage: where, how fast, when; what its right-hand side takes away; how time counts in it.
  int k = 0;
  Six x{}, vel{}, step_x{}, taken{};
  double t = 0, time_rate = 1, forward = 0, engine_torque = 0, engine_slope = 0;

  Solver(Tick& the_tick, double step) : tick(the_tick), h(step), G((1 - 0.70710678118654752) * step), matrix(0, {}) {}

  const WheelTuning& wheel(std::size_t i) const { return tick.v.wheels_[i]; }
  bool heavy(std::size_t i) const { return wheel(i).unsprung_mass > 0; }
  /// A wheel's own value at this stage, and what stage two takes off its rate.
  double here(double value, const WheelContact& c, double WheelRates::*rate) const {
    return k == 0 ? value : value + h * (c.stage[0].rates.*rate);
  }
  double off(const WheelContact& c, double WheelRates::*rate) const {
    return k == 0 ? 0.0 : 2 * (c.stage[0].rates.*rate);
  }
  double height(const WheelContact& c) const { return c.height + c.lean * (c.ground_rise * t - dot(c.rise, x)); }
  double height_rate(const WheelContact& c) const { return c.lean * (c.ground_rise - dot(c.rise, vel)); }
  /// The rate of height that is known before the unknowns are.
  double known_rate(const WheelContact& c) const {
    return c.lean * (c.ground_rise * time_rate - dot(c.rise, vel + taken));
  }

  Six stage(int which);
  Six air() const;
  void engine();
  void bars(Six& force);
  void spring(std::size_t i, Six& force);
  void hub(std::size_t i, Six& force);
  void tyre(std::size_t i, Six& force);
  void axle(std::size_t i, Six& force);
  void follow(const Six& rate);
  Six momentum(const Six& velocity) const;
  void stop_hub(std::size_t i, Six& now) const;
  void stop_body(Six& offset, Six& now, double time);
  void advance(Six& offset, Six& now, double& time);
};

}  // namespace jugend
