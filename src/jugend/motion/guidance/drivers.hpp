// Drivers: where a heading and a speed come from when no player holds the stick. Each is a plain value; any of them
// may take over from any other in any tick.
#pragma once

#include <jugend/motion/boat/boat.hpp>
#include <jugend/motion/bodies/led_body.hpp>
#include <jugend/motion/guidance/path.hpp>
#include <jugend/motion/tracked/tracked_vehicle.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <span>
#include <vector>

namespace jugend {

/// What a driver knows of the one it drives.
struct Driven {
  Vec3 position, velocity, ahead, up{0, 1, 0};
};

/// Straight to a goal, slowing down to stop there at `slow_down` m/s², and while it does not look there: who runs on
/// at full speed may circle a goal for ever.
LedBodyIntent towards(const Driven& self, const Vec3& goal, double speed, double slow_down);

/// To where a target will be when it is reached, at most `foresight` s ahead.
LedBodyIntent pursue(const Driven& self, const Vec3& target, const Vec3& target_velocity, double speed,
                     double foresight);

/// One goal after another.
struct WaypointDriver {
  std::vector<Vec3> points;
  double speed = 2, arrive = 0.5;  ///< m/s; m from a point at which the next is headed for
  bool loop = true;
  std::size_t next = 0;
  LedBodyIntent drive(const Driven& self, double slow_down);
};

/// Along a path: heads for the place `look_ahead` m further on than the nearest one that it has come to.
struct PathDriver {
  double speed = 2, look_ahead = 1.5;
  double travelled = 0;  ///< m along the path that it has come
  LedBodyIntent drive(const Driven& self, const Path& path, double slow_down);
};

/// The same intent, turned away from what three rays of `look` m meet to the front and either side.
LedBodyIntent avoiding(const LedBodyIntent& intent, const Driven& self, double look, const Surroundings& surroundings,
                       const Filter& filter);

/// What a vehicle does to come to that heading and speed: wheels turned by the angle that is left, throttle by the
/// speed that is missing, the brake for what is too much.
VehicleIntent led_by(const LedBodyIntent& intent, const Driven& self, const Vehicle& vehicle);
/// The same of tracks: it turns as fast as leaves it time to stop turning, and drives on as it looks there.
TrackedIntent led_by(const LedBodyIntent& intent, const Driven& self, const TrackedVehicle& vehicle);
/// The same of a boat, which turns at `turning` rad/s, left positive: it meets its own swing.
BoatIntent led_by(const LedBodyIntent& intent, const Driven& self, double turning, const Boat& boat);

}  // namespace jugend
