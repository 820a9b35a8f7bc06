#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/intent.hpp>
#include <jugend/motion/tracked/tracked_vehicle.hpp>

namespace jugend {
namespace {

/// The vehicle that carries it, axle by axle.
VehicleTuning carrier_of(const TrackedTuning& t) {
  VehicleTuning v;
  v.axles.clear();
  for (int i = 0; i < t.wheels; ++i) {
    AxleTuning& axle = v.axles.emplace_back();
    axle.ahead = t.ahead + t.length * (0.5 - static_cast<double>(i) / (t.wheels - 1));
    axle.track = t.gauge, axle.mount_height = t.mount_height;
    axle.wheel.radius = t.radius, axle.wheel.width = t.width;
    axle.wheel.spin_inertia = t.spin_inertia / t.wheels;
    axle.wheel.suspension = t.suspension, axle.wheel.tyre = t.tread;
    axle.wheel.drive = 1;
  }
  v.drive = t.drive, v.drive.differential = Differential::open;
  v.brakes.deceleration = t.brakes;
  v.air = {.drag = t.drag};
  v.aids.hold = t.hold, v.aids.keep_down = t.keep_down;
  v.ground_probe = t.ground_probe;
  v.length_scale = t.length_scale;
  return v;
}

/// What the carrier says of axles, with the keys that tracks have.
std::string in_words_of_tracks(std::string text) {
  constexpr std::pair<std::string_view, std::string_view> keys[] = {
      {"ahead", "track.ahead"},   {"track", "track.gauge"}, {"mount_height", "track.mount_height"},
      {"radius", "track.radius"}, {"width", "track.width"}, {"spin_inertia", "track.spin_inertia"},
  };
  constexpr std::string_view axle = "axle.";
  for (std::size_t at = 0; (at = text.find(axle, at)) != std::string::npos;) {
    const std::size_t dot = text.find('.', at + axle.size());
    if (dot == std::string::npos) break;
    const bool first = text.compare(at + axle.size(), dot - at - axle.size(), "1") == 0;
    const std::size_t end = std::min(text.find_first_not_of("abcdefghijklmnopqrstuvwxyz_.", dot + 1), text.size());
    std::string_view key = std::string_view(text).substr(dot + 1, end - dot - 1);
    std::string own(key);  // springs, dampers and stops are called alike
    for (const auto& [theirs, ours] : keys) {
      if (key == theirs) own = ours;
    }
    if (key == "ahead" && !first) own = "track.length";
    text.replace(at, end - at, own);
    at += own.size();
  }
  return text;
}

Vehicle carrier(const TrackedTuning& t, BodyId body, const Surroundings& around) {
  check(t);
  const BodyFacts facts = around.facts(body);
  const double strength = sizing_pull(around.gravity(facts.centre), t.length_scale);
  const VehicleTuning tuning = carrier_of(t);
  const std::vector<WheelTuning> wheels = wheels_of(tuning);
  const Amend of_tracks([](Fault& fault) {
    for (std::string* text : {&fault.key, &fault.found, &fault.allowed}) *text = in_words_of_tracks(std::move(*text));
  });
  return Vehicle(tuning, wheels, body, around,
                 TrackDrive{t.turn_rate, t.turn_acceleration, t.turn_grip * facts.mass * strength, t.gauge});
}

}  // namespace

TrackedTuning::TrackedTuning() {
  suspension = {
      .rest_length = 0.25, .bump = 0.14, .droop = 0.05, .ride_frequency = 2.4, .bump_ratio = 0.5, .rebound_ratio = 0.6};
  tread = {.grip = 0.9, .along_stiffness = 20, .side_stiffness = 14, .rolling = 0.04};
  drive.top_speed = 5, drive.reverse_speed = 3, drive.speed_time = 2.5, drive.coast = 1.2;
}

TrackedVehicle::TrackedVehicle(const TrackedTuning& tuning, BodyId body, const Surroundings& surroundings)
    : tuning_(tuning), wheels_(carrier(tuning, body, surroundings)) {}

void TrackedVehicle::set_tuning(const TrackedTuning& tuning, const Surroundings& surroundings) {
  TrackedVehicle next(tuning, body(), surroundings);
  next.wheels_.succeed(wheels_);
  *this = std::move(next);
}

void TrackedVehicle::step(const TrackedIntent& intent, Surroundings& surroundings, double dt) {
  wheels_.step({.throttle = intent.throttle, .brake = intent.brake, .steer = intent.steer}, surroundings, dt);
}

double TrackedVehicle::track_speed(int side) const { return state().wheels[side < 0 ? 0 : 1].rim; }

}  // namespace jugend
