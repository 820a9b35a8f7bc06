// One tick of a vehicle, as its parts see it. Inner to the vehicle.
//
// vehicle.cpp: what it is made from. vehicle_sense.cpp: steering, what drives and brakes, how the ground moves.
// vehicle_ground.cpp, vehicle_rays.cpp, ray_rows.hpp: the ground that each wheel rolls over.
// vehicle_aids.cpp: help. vehicle_motion.cpp: the order of a tick and what comes of it. vehicle_solver.hpp: the motion.
#pragma once

#include <jugend/motion/vehicle/detail/ray_rows.hpp>
#include <jugend/motion/vehicle/detail/wheel_batch.hpp>
#include <jugend/motion/vehicle/detail/wheel_constants.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>

namespace jugend {

class RolledProfile;

struct Vehicle::Tick {
  Vehicle& v;
  const VehicleIntent& intent;
  Surroundings& surroundings;
  const double dt;
  const VehicleTuning& tuning;
  const double metre = tuning.length_scale;  // in units of the world
  const double at_rest = 0.02 * metre;       // a second: up to which a wheel counts as standing
  VehicleState& state;
  std::span<WheelContact> contacts;  // one for each wheel
  std::span<WheelBatch> teams;
  BodyFacts body{};
  Vec3 gravity{}, up{}, ahead{}, right{};
  Vec3 lowered{};  // the centre that forces act about
  Vec3 sinking{};  // down, so long that a velocity's part along it is what the strut closes by over level ground
  Sym3 inertia{};
  SpatialVector velocity{}, then{};  // when the tick begins and ends
  BodyFacts known_facts{};           // of the body `known`, which wheels stand on
  BodyId known{};
  bool fixed = false;  // does it stay where it is?
  double strength = 0, per_strength = 0, mass = 0;
  bool stood = false;                       // did it, when the last tick ended?
  bool any_on_ground = false;               // is there ground that a wheel reaches?
  bool ground_is_light = false;             // does anything that a wheel stands on move by its force?
  double throttle = 0, foot = 0, hand = 0;  // what is asked of drive and brakes
  double steers = 0;                        // rad in the middle, the mean over this tick
  double turns = 0;                         // rad/s that tracks are told in this tick, left positive
  double mean_held = 0;                     // N m by which each track's drive holds their mean still while it turns

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
  void look_below();
  void know_speed();
  void start();
  double reach(std::size_t wheel) const;
  void know_way(std::size_t wheel);
  bool know_ground(std::size_t wheel);
  struct Feeler;
  void sense_by_rays(std::size_t rows);
  Standing on_plane(const WheelContact& c, const Hit& hit, double along) const;
  Feeler feeler(const RayRow& row, const Filter& others) const;
  /// May a wheel stand on what a ray down from its mount met? Not where the mount is inside of something or beside it.
  bool stands_on(const std::optional<Hit>& hit) const {
    return hit && hit->distance > 0 && dot(hit->normal, up) >= 0.15;
  }
  void ask_down(RayRow& row, std::size_t which, const Filter& others, RayBatch& batch) const;
  void ask_low(RayRow& row, RayBatch& batch) const;
  void ask_further(RayRow& row, const Filter& others, RayBatch& batch) const;
  bool reaches_nothing(const Feeler& f) const;
  double drop_on_planes(std::size_t wheel, std::span<const RayRow> rows) const;
  void stand_on_rows(std::size_t wheel, std::span<RayRow> rows, const Filter& others);
  GroundForm feel_row(const RayRow& row, const Filter& others, RolledProfile& profile) const;
  void ask_for_walls(std::size_t wheel, double drop, WallLook& look, RayBatch& batch) const;
  void take_walls(std::size_t wheel, const WallLook& look);
  void look_for_walls(std::size_t wheel, double drop, const Filter& others);
  void leave_walls(const Feeler& f, double under, double slope, RolledProfile& profile) const;
  void sense_by_sweep(std::size_t wheel, BodyId passed);
  void sense_past(std::size_t wheel, BodyId passed);
  void lay(WheelContact& c, const std::optional<Standing>& a, const std::optional<Standing>& b, double until) const;
  template <class Stands>
  void follow_way(WheelContact& c, const Stands& stands, const std::optional<Standing>& a,
                  const std::optional<Standing>& b, double from, double to, double radius) const;
  template <class Stands>
  void lay_all(std::size_t wheel, const Stands& stands, double spacing, GroundForm form);
  void stand_on_piece(std::size_t wheel);
  void bear(std::size_t wheel, const BodyFacts& facts);
  bool climbs(std::size_t wheel, const BodyFacts& facts) const;
  Vec3 velocity_at(const Vec3& point) const;
  Vec3 over_ground(const Vec3& point) const { return velocity_at(point) - state.ground; }
  void steer();
  double sliding() const;
  double hold_drift() const;
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
