// One tick of a vehicle, as its parts see it. Inner to the vehicle.
//
// vehicle.cpp: what it is made from. vehicle_sense.cpp: the ground under each wheel, steering, what drives and brakes.
// vehicle_aids.cpp: help. vehicle_motion.cpp: the order of a tick and the motion over it.
#pragma once

#include <jugend/motion/vehicle.hpp>

namespace jugend {

struct Vehicle::Tick {
  Vehicle& v;
  const VehicleIntent& intent;
  Surroundings& surroundings;
  const double dt;
  const VehicleTuning& tuning;
  VehicleState& state;
  std::span<WheelContact> contacts;
  BodyFacts body{};
  Vec3 gravity{}, up{}, ahead{}, right{};
  Vec3 lowered{};  // the centre that forces act about
  Sym3 inertia{};
  Six velocity{}, then{};  // when the tick begins and ends
  double strength = 0, mass = 0;
  bool stood = false;                       // did it, when the last tick ended?
  bool any_on_ground = false;               // is there ground that a wheel reaches?
  double throttle = 0, foot = 0, hand = 0;  // what is asked of drive and brakes

  Tick(Vehicle& vehicle, std::span<WheelContact> wheels, const VehicleIntent& i, Surroundings& s, double step)
      : v(vehicle),
        intent(i),
        surroundings(s),
        dt(step),
        tuning(vehicle.tuning_),
        state(vehicle.state_),
        contacts(wheels) {}
  void run();
  void sense();
  void sense_wheel(std::size_t i);
  void look_ahead(WheelContact& c, double radius, const Ray& ray, Hit& hit, const Filter& others);
  void stand_on(WheelContact& c, const WheelTuning& w, const Vec3& point, const Vec3& normal) const;
  void bend(std::size_t i);
  void follow_stretch();
  void steer();
  void ask();
  void help();
  double drive_torque(std::size_t i, double speed, double spin) const;

  struct Solver;
  void integrate();
  void hand_over(const Six& way, const Six& end);
  void finish();
};

}  // namespace jugend
