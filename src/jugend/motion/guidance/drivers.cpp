#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/guidance/drivers.hpp>

namespace jugend {

LedBodyIntent towards(const Driven& self, const Vec3& goal, double speed, double slow_down) {
  const Vec3 to_goal = in_plane(goal - self.position, self.up);
  const double looks = dot(normalised(in_plane(self.ahead, self.up)), normalised(to_goal));
  return {to_goal, std::min(speed, std::sqrt(2 * slow_down * norm(to_goal))) * std::clamp(looks, 0.1, 1.0)};
}

LedBodyIntent pursue(const Driven& self, const Vec3& target, const Vec3& target_velocity, double speed,
                     double foresight) {
  // |target + v t - self| = speed t, by three rounds from t = distance / speed.
  double time = 0;
  for (int round = 0; round < 3; ++round)
    time = std::min(foresight, norm(target + target_velocity * time - self.position) / std::max(speed, 1e-6));
  return {in_plane(target + target_velocity * time - self.position, self.up), speed};
}

LedBodyIntent WaypointDriver::drive(const Driven& self, double slow_down) {
  if (points.empty()) return {};
  const auto distance = [&] { return norm(in_plane(points[next] - self.position, self.up)); };
  const bool last = next + 1 == points.size() && !loop;
  if (!last && distance() < arrive) next = (next + 1) % points.size();
  const bool stops = next + 1 == points.size() && !loop;
  LedBodyIntent intent = towards(self, points[next], speed, slow_down);
  if (!stops) intent.speed = speed;
  return intent;
}

LedBodyIntent PathDriver::drive(const Driven& self, const Path& path, double slow_down) {
  // Never back: the nearest place within twice the look-ahead from where it has come.
  double best = infinity, at = travelled;
  for (int i = 0; i <= 16; ++i) {
    const double s = travelled + 2 * look_ahead * i / 16;
    const double off = norm(path.at(s) - self.position);
    if (off < best) best = off, at = s;
  }
  at += std::clamp(dot(self.position - path.at(at), path.heading(at)), -look_ahead / 16, look_ahead / 16);
  travelled = path.closed() ? at : std::clamp(at, travelled, path.length());
  const LedBodyIntent intent = towards(self, path.at(travelled + look_ahead), speed, 1e9);
  if (path.closed()) return intent;
  return {intent.heading, std::min(intent.speed, std::sqrt(2 * slow_down * (path.length() - travelled)))};
}

LedBodyIntent avoiding(const LedBodyIntent& intent, const Driven& self, double look, const Surroundings& surroundings,
                       const Filter& filter) {
  const Vec3 ahead = normalised(in_plane(self.ahead, self.up)), right = cross(ahead, self.up);
  const auto free = [&](const Vec3& direction) {
    const auto hit = surroundings.cast({self.position, normalised(direction), look}, filter);
    return hit ? hit->distance / look : 1.0;
  };
  const double front = free(ahead), left = free(ahead - right * 0.7), beside = free(ahead + right * 0.7);
  if (front >= 1 && left >= 1 && beside >= 1) return intent;
  const double urgency = 1 - std::min({front, left, beside});
  const Vec3 side = right * (beside >= left ? 1.0 : -1.0);
  return {normalised(intent.heading, ahead) * (1 - urgency) + side * (2 * urgency),
          intent.speed * std::max(0.2, front)};
}

namespace {

/// rad to the left that it still has to turn.
double left_to_turn(const LedBodyIntent& intent, const Driven& self) {
  const Vec3 ahead = normalised(in_plane(self.ahead, self.up), self.ahead);
  const Vec3 heading = normalised(in_plane(intent.heading, self.up), ahead);
  return same_bits::atan2(dot(cross(ahead, heading), self.up), dot(ahead, heading));
}

}  // namespace

TrackedIntent led_by(const LedBodyIntent& intent, const Driven& self, const TrackedVehicle& vehicle) {
  const TrackedTuning& t = vehicle.tuning();
  const double left = left_to_turn(intent, self), speed = vehicle.state().speed, sense = intent.speed < 0 ? -1 : 1;
  // ω² / 2α is what it turns by until it has stopped turning.
  const double rate = std::min(t.turn_rate, std::sqrt(2 * 0.5 * t.turn_acceleration * std::abs(left)));
  const double missing = (intent.speed * std::max(0.0, same_bits::cos(left)) - speed) * sense / t.length_scale;
  TrackedIntent drive;
  drive.steer = t.turn_rate > 0 ? std::copysign(rate / t.turn_rate, -left) : 0.0;
  if (missing > -0.3) {
    drive.throttle = sense * std::clamp(0.8 * missing + (intent.speed != 0 ? 0.1 : 0.0), 0.0, 1.0);
  } else {
    drive.brake = std::clamp(-missing / std::max(0.5, 0.5 * t.brakes / t.length_scale), 0.0, 1.0);
  }
  return drive;
}

BoatIntent led_by(const LedBodyIntent& intent, const Driven& self, double turning, const Boat& boat) {
  const BoatTuning& t = boat.tuning();
  const double foresight = 0.4 * t.length / std::max(t.length_scale, std::abs(boat.state().speed));  // s
  const double left = left_to_turn(intent, self) - turning * foresight;
  const double steer = std::clamp(-3 * left, -1.0, 1.0), top = t.top_speed, wanted = intent.speed;
  const double missing = (wanted - boat.state().speed) / top;
  // Thrust that holds the speed goes as its square; and no rudder steers without a race or way.
  const double holds = wanted * std::abs(wanted) / (top * top) / (wanted < 0 ? t.astern : 1);
  const double steers = wanted > 0 && missing > -0.3 * wanted / top ? 0.3 * std::abs(steer) : -1;
  return {std::clamp(std::max(holds + 6 * missing, steers), -1.0, 1.0), steer};
}

VehicleIntent led_by(const LedBodyIntent& intent, const Driven& self, const Vehicle& vehicle) {
  const double left = left_to_turn(intent, self);
  // Backwards the pedal and the wheels do the opposite.
  const double speed = vehicle.state().speed, sense = intent.speed < 0 ? -1 : 1;
  const double metre = vehicle.tuning().length_scale, missing = (intent.speed - speed) * sense / metre;  // m/s
  VehicleIntent drive;
  drive.steer = std::clamp(-left / vehicle.most_steer(std::abs(speed)), -1.0, 1.0) * (speed < 0 ? -1 : 1);
  if (missing > -0.3) {
    drive.throttle = sense * std::clamp(0.8 * missing + (intent.speed != 0 ? 0.1 : 0.0), 0.0, 1.0);
  } else {
    drive.brake = std::clamp(-missing / std::max(0.5, 0.5 * vehicle.tuning().brakes.deceleration / metre), 0.0, 1.0);
  }
  return drive;
}

}  // namespace jugend
