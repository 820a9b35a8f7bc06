// One tick of a vehicle, as its parts see it. Inner to the vehicle.
//
// vehicle.cpp: what it is made from. vehicle_sense.cpp: the ground under each wheel, steering, what drives and brakes.
// vehicle_aids.cpp: help. vehicle_motion.cpp: the order of a tick and what comes of it. vehicle_solver.hpp: the motion.
#pragma once

#include <jugend/motion/vehicle/detail/wheel_batch.hpp>
#include <jugend/motion/vehicle/detail/wheel_constants.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>

namespace jugend {

struct Vehicle::Tick {
  Vehicle& v;
  const VehicleIntent& intent;
  Surroundings& surroundings;
  const double dt;
  const VehicleTuning& tuning;
  VehicleState& state;
  std::span<WheelContact> contacts;  // one for each wheel
  std::span<WheelBatch> teams;
  BodyFacts body{};
  Vec3 gravity{}, up{}, ahead{}, right{};
  Vec3 lowered{};  // the centre that forces act about
  Vec3 sinking{};  // down, so long that a velocity's part along it is what the strut closes by over level ground
  Sym3 inertia{};
  SpatialVector velocity{}, then{};  // when the tick begins and ends
  double strength = 0, per_strength = 0, mass = 0;
  bool stood = false;                       // did it, when the last tick ended?
  bool any_on_ground = false;               // is there ground that a wheel reaches?
  bool ground_is_light = false;             // does anything that a wheel stands on move by its force?
  double throttle = 0, foot = 0, hand = 0;  // what is asked of drive and brakes

  Tick(Vehicle& vehicle, std::span<WheelContact> wheels, std::span<WheelBatch> fours, const VehicleIntent& i,
       Surroundings& s, double step)
      : v(vehicle),
        intent(i),
        surroundings(s),
        dt(step),
        tuning(vehicle.tuning_),
        state(vehicle.state_),
        contacts(wheels),
        teams(fours) {}
  void run();
  /// Where a wheel's numbers are.
  struct Place {
    WheelBatch& team;
    const WheelConstants& numbers;
    std::size_t lane;
  };
  Place place(std::size_t wheel) const {
    const std::size_t slot = v.slots_[wheel];
    return {teams[slot / 4], v.table_->wheels[slot / 4], slot % 4};
  }
  void sense();
  Vec3 mean_velocity(const BodyFacts& facts, const Vec3& point) const;
  void know_speed();
  void start();
  double reach(std::size_t wheel) const;
  void found(std::size_t wheel, const std::optional<Hit>& hit, double hub_drop);
  void sense_by_rays(std::size_t each);
  void sense_by_sweep(std::size_t wheel, BodyId passed);
  void sense_past(std::size_t wheel, BodyId passed);
  void bear(std::size_t wheel, const BodyFacts& facts);
  bool climbs(std::size_t wheel, const BodyFacts& facts) const;
  Vec3 velocity_at(const Vec3& point) const;
  Vec3 over_ground(const Vec3& point) const { return velocity_at(point) - state.ground; }
  Ray further(const Vec3& mount, const Vec3& displacement, double length, double radius) const;
  void look_ahead(WheelContact& c, const Ray& ray, const Vec3& displacement, double radius, Hit& hit,
                  const std::optional<Hit>& there, const Filter& others) const;
  void steer();
  void ask();
  void help();
  double drive_force(double rim, double speed) const;

  template <class Lanes>
  class Solver;
  void integrate();
  void hand_over(SpatialVector displacement, SpatialVector end);
  void finish();
};

}  // namespace jugend
