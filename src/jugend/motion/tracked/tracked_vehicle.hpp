// A vehicle on two tracks, which steers by running one faster than the other: diggers, crawler cranes, snow cats.
//
// Its tracks are carried and pressed to the ground by a vehicle's wheels, all of a side turning as one; so springs,
// ground, grip and hits are theirs (motion/vehicle). A steering drive passes force from one track to the other until
// they differ by what the turn asks for. How far it turns is the ground's matter: tracks slip, and to turn on the spot
// takes up to a quarter of grip, weight and length in moment (J. Y. Wong, "Theory of Ground Vehicles", ch. 6).
#pragma once

#include <jugend/motion/vehicle/vehicle.hpp>

namespace jugend {

struct TrackedTuning {
  int wheels = 4;              ///< a side, evenly spaced
  double length = 2.4;         ///< m of track on the ground: from the first wheel to the last
  double ahead = 0;            ///< m from the centre of mass forwards to its middle
  double gauge = 1.8;          ///< m between the tracks' middles
  double width = 0.4;          ///< m of a track
  double mount_height = 0.05;  ///< m of the struts' upper ends above the centre of mass
  double radius = 0.3;         ///< m of the wheels, track included
  double spin_inertia = 4;     ///< kg m² of one track and its wheels, about their axles
  SuspensionTuning suspension;
  TyreTuning tread;              ///< of the track on the ground
  double turn_rate = 0.8;        ///< rad/s that tracks which do not slip turn it by, at full steering
  double turn_acceleration = 2;  ///< rad/s² by which that is told more or less
  double turn_grip = 1;          ///< share of the weight by which one track pulls ahead and the other back, at the most
  DriveTuning drive;             ///< of both tracks together; an engine shifts by itself
  double brakes = 4;             ///< m/s² at full pedal
  double drag = 0.6;             ///< N/(m/s)²: ½ ρ c A
  bool hold = true;       ///< brakes by itself while nothing is asked for; on the spot it turns without creeping away
  bool keep_down = true;  ///< turns no faster than leaves its tracks on level ground
  GroundSense ground_probe = GroundSense::ray;
  double length_scale = 1;  ///< units of the world in a metre
  TrackedTuning();
};
const Tunables& tracked_tunables();
template <>
struct TunablesOf<TrackedTuning> {
  static const Tunables& list() { return tracked_tunables(); }
};
/// Throws InputError for numbers out of range.
void check(const TrackedTuning& tuning);

struct TrackedIntent {
  double throttle = 0;  ///< -1 to 1; against the way it runs it brakes first
  double steer = 0;     ///< -1 left to 1 right, as seen from above, also backwards; without throttle on the spot
  double brake = 0;     ///< 0 to 1

  static constexpr auto fields() {
    return field_list(Field{"throttle", &TrackedIntent::throttle}, Field{"steer", &TrackedIntent::steer},
                      Field{"brake", &TrackedIntent::brake});
  }
};
static_assert(all_fields_listed<TrackedIntent>);

class TrackedVehicle {
 public:
  /// Throws InputError as check() does, for a body that is not dynamic, for numbers that do not fit it, and where its
  /// weight does not lie between the wheels.
  TrackedVehicle(const TrackedTuning& tuning, BodyId body, const Surroundings& surroundings);
  void step(const TrackedIntent& intent, Surroundings& surroundings, double dt);

  BodyId body() const { return wheels_.body(); }
  void set_body(BodyId body) { wheels_.set_body(body); }  ///< as Vehicle's
  const TrackedTuning& tuning() const { return tuning_; }
  /// What carries it; its wheels are in pairs from front to back, left before right.
  const Vehicle& wheels() const { return wheels_; }
  const VehicleState& state() const { return wheels_.state(); }
  void restore(const VehicleState& state) { wheels_.restore(state); }
  /// As Vehicle's.
  void start_anew() { wheels_.start_anew(); }
  void set_tuning(const TrackedTuning& tuning, const Surroundings& surroundings);
  const Makings& makings() const { return wheels_.makings(); }
  void remake(const Surroundings& surroundings) { set_tuning(TrackedTuning(tuning_), surroundings); }
  /// m/s of a track over its wheels: -1 left, 1 right.
  double track_speed(int side) const;
  void set_filter(const Filter& filter) { wheels_.filter = filter; }  ///< bodies that it senses

 private:
  TrackedTuning tuning_;
  Vehicle wheels_;
};

}  // namespace jugend
