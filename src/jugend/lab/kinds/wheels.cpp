#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/kinds/wheels.hpp>

namespace jugend {
namespace {

/// The columns of wheels.csv.
enum WheelColumn : std::size_t { travel_m, load_n, slip_share, slip_angle_rad, spin_rad_s, along_n };

constexpr GaugeInfo wheel_gauges[] = {
    {"speed_time_s", "standstill to 0.9 of top speed", "s",
     "from standstill until nine tenths of drive.top_speed are reached"},
    {"brake_speed_m_s", "speed when the brake is pressed", "m/s",
     "speed at the tick in which the brake was first pressed"},
    {"stop_distance_m", "distance to stop", "m", "from there until it stands: distance"},
    {"time_to_stop_s", "time to stop", "s", "from there until it stands: time"},
    {"sag_m", "springs give at rest, mean", "m",
     "mean of what the springs give while it stands, before it first drives"},
    {"settle_time_s", "springs within 2 % of rest from", "s",
     "time of the trial from which on the springs stay within 2 % of the rest, of what they gave at most"},
    {"damping_ratio", "damping ratio, measured", "1",
     "from the last two extremes of the springs on opposite sides (logarithmic decrement)"},
    {"ride_frequency_hz", "ride frequency, measured", "Hz", "from the time between those extremes, without damping"},
    {"contact_share", "wheels on the ground", "1", "share of all wheels and ticks with a load"},
    {"air_time_peak_s", "longest with no wheel on the ground", "s",
     "longest time with no wheel on the ground, after the first touch"},
    {"load_peak_n", "highest load of a wheel", "N", "highest load of any wheel"},
    {"slip_peak", "highest slip", "1", "highest slip along of any wheel that bears, above 1 m/s"},
    {"slip_angle_peak_deg", "highest slip angle", "deg", "highest slip angle of any wheel that bears, above 1 m/s"},
    {"side_acceleration_peak_m_s2", "highest sideways acceleration", "m/s2",
     "highest rate at which the level velocity turns, times speed"},
    {"turn_radius_m", "radius in the last second", "m",
     "mean of speed over turn rate in the last second, where it turns all the time"},
    {"understeer_deg_s2_m", "understeer gradient there (ISO 4138)", "deg s2/m",
     "slip angles in front less those behind, over the sideways acceleration there (ISO 4138)"},
    {"roll_peak_deg", "highest roll", "deg", "highest angle by which it leans to a side"},
    {"pitch_peak_deg", "highest pitch", "deg", "highest angle by which its nose is up or down"},
};

struct VehicleMeasuring {
  const ActorTrace& trace;
  std::vector<Gauge>& gauges;
  const std::vector<TraceRow>& rows = trace.rows;

  void add(std::string_view key, double value) { gauges.push_back(gauge_of(wheel_gauges, key, value)); }
  double step() const { return rows.size() > 1 ? rows[1].time - rows[0].time : 1; }
  double travel(std::size_t row) const {
    double sum = 0;
    for (std::size_t i = 0; i < trace.parts; ++i) sum += trace.part(row, i, travel_m);
    return sum / static_cast<double>(trace.parts);
  }

  /// From standstill to nine tenths of what its drive is made for, and from the brake to standstill.
  void speeds() {
    const double goal = 0.9 * trace.top_speed();
    std::size_t start = 0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      const double before = level_speed(rows[i - 1]), now = level_speed(rows[i]);
      if (before < 0.02) start = i - 1;
      if (before >= goal || now < goal || level_speed(rows[start]) > 0.02) continue;
      const double reached = rows[i - 1].time + (goal - before) / (now - before) * step();
      add("speed_time_s", reached - rows[start].time);
      break;
    }
    for (std::size_t i = 1; i < rows.size(); ++i) {
      if (rows[i].brake < 0.5 || rows[i - 1].brake >= 0.5 || level_speed(rows[i - 1]) < 0.5) continue;
      double distance = 0;
      for (std::size_t j = i; j < rows.size() && rows[j].brake >= 0.5; ++j) {
        distance += norm(rows[j].position - rows[j - 1].position);
        if (level_speed(rows[j]) > 0.02) continue;
        add("brake_speed_m_s", level_speed(rows[i - 1]));
        add("stop_distance_m", distance);
        add("time_to_stop_s", rows[j].time - rows[i - 1].time);
        break;
      }
      break;
    }
  }

  /// While it stands: what the springs give, and how they come to rest.
  void springs() {
    std::size_t end = rows.size();  // of the first time that it stands, or does not drive yet
    for (std::size_t i = 0; i < rows.size() && end == rows.size(); ++i) {
      if (level_speed(rows[i]) > 0.3 || rows[i].run_ahead != 0) end = i;
    }
    if (end < 3) return;
    const double rest = travel(end - 1);
    if (norm(rows[end - 1].velocity) < 0.02) add("sag_m", rest);
    // Extremes about the rest, from the first contact on.
    double most = 0, settled = 0;
    std::vector<std::pair<double, double>> extremes;
    for (std::size_t i = 1; i + 1 < end; ++i) {
      if (!rows[i].on_ground) continue;
      const double before = travel(i - 1) - rest, now = travel(i) - rest, after = travel(i + 1) - rest;
      most = std::max(most, std::abs(now));
      if (std::abs(now) > 0.02 * most && std::abs(now) > 2e-4) settled = rows[i].time;
      if ((now - before) * (after - now) < 0 && std::abs(now) > 2e-4) {
        // A parabola through three ticks finds the extreme between them.
        const double bend = before - 2 * now + after, at = bend != 0 ? 0.5 * (before - after) / bend : 0;
        extremes.push_back({rows[i].time + at * step(), now - 0.25 * (before - after) * at});
      }
    }
    if (most < 1e-3) return;
    add("settle_time_s", settled);
    if (extremes.size() < 2) return;
    // The last two of opposite sides that are large enough to be told apart.
    std::size_t i = extremes.size() - 1;
    while (i > 1 && std::abs(extremes[i].second) < 0.002 * most) --i;
    const auto& [first_time, first] = extremes[i - 1];
    const auto& [second_time, second] = extremes[i];
    if (first * second >= 0 || std::abs(second) >= std::abs(first)) return;  // a stop was hit, or a wheel lifted
    // Half a period takes away e^(-π ζ / √(1 - ζ²)).
    const double decrement = std::log(std::abs(first / second)), ratio = decrement / std::hypot(pi, decrement);
    add("damping_ratio", ratio);
    add("ride_frequency_hz", 1 / (2 * (second_time - first_time)) / std::sqrt(1 - ratio * ratio));
  }

  void wheels() {
    std::size_t touching = 0, all = 0;
    double off = 0, longest_off = 0;  // s with no wheel on the ground, once it has been on it
    double load = 0, slip = 0, angle = 0;
    for (std::size_t r = 1; r < rows.size(); ++r) {
      off = rows[r].on_ground || touching == 0 ? 0 : off + step();
      longest_off = std::max(longest_off, off);
      for (std::size_t i = 0; i < trace.parts; ++i) {
        const double on = trace.part(r, i, load_n);
        ++all, touching += on > 0;
        load = std::max(load, on);
        if (on <= 0 || level_speed(rows[r]) <= 1) continue;
        slip = std::max(slip, std::abs(trace.part(r, i, slip_share)));
        angle = std::max(angle, std::abs(trace.part(r, i, slip_angle_rad)));
      }
    }
    if (all == 0) return;
    add("contact_share", static_cast<double>(touching) / static_cast<double>(all));
    add("air_time_peak_s", longest_off);
    add("load_peak_n", load);
    add("slip_peak", slip);
    add("slip_angle_peak_deg", angle / radians_per_degree);
  }

  /// Over ticks: sideways acceleration, from how the level velocity turns.
  void turning() {
    double most = 0, sum_radius = 0, sum_side = 0, sum_front = 0, sum_rear = 0;
    int steady = 0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      const Vec3 &a = rows[i - 1].velocity, &b = rows[i].velocity;
      const double speed = level_speed(rows[i]);
      if (speed < 0.3 || level_speed(rows[i - 1]) < 0.3 || !rows[i].on_ground) continue;
      const double turned = std::atan2(a.z * b.x - a.x * b.z, a.x * b.x + a.z * b.z), rate = turned / step();
      most = std::max(most, std::abs(rate * speed));
      if (rows.back().time - rows[i].time > 1 || std::abs(rate) < 0.02) continue;
      ++steady, sum_radius += speed / std::abs(rate), sum_side += std::abs(rate) * speed;
      if (trace.parts == 4) {
        sum_front += std::abs(trace.part(i, 0, slip_angle_rad) + trace.part(i, 1, slip_angle_rad)) / 2;
        sum_rear += std::abs(trace.part(i, 2, slip_angle_rad) + trace.part(i, 3, slip_angle_rad)) / 2;
      }
    }
    add("side_acceleration_peak_m_s2", most);
    if (steady < 3 || steady * step() < 0.9) return;
    add("turn_radius_m", sum_radius / steady);
    if (trace.parts == 4 && sum_side / steady > 1) {
      add("understeer_deg_s2_m", (sum_front - sum_rear) / sum_side / radians_per_degree);
    }
  }

  void attitude() {
    double roll = 0, pitch = 0;
    for (const TraceRow& r : rows) {
      roll = std::max(roll, std::abs(std::asin(std::clamp(cross(r.facing, r.up).y, -1.0, 1.0))));
      pitch = std::max(pitch, std::abs(std::asin(std::clamp(r.facing.y, -1.0, 1.0))));
    }
    add("roll_peak_deg", roll / radians_per_degree);
    add("pitch_peak_deg", pitch / radians_per_degree);
  }
};

}  // namespace

std::vector<GaugeInfo> gauges_of_wheels() { return {std::begin(wheel_gauges), std::end(wheel_gauges)}; }

/// What its drive is made for, gear by gear.
std::vector<DriveCurve> drive_curves_of(const Vehicle& vehicle) {
  constexpr int pieces = 60;
  const DriveTuning& t = vehicle.tuning().drive;
  const int gears = t.by == DriveBy::engine ? t.engine.gear_count() : 0;
  std::vector<DriveCurve> curves;
  for (int gear = gears > 0 ? 1 : 0; gear <= gears; ++gear) {
    DriveCurve& curve = curves.emplace_back();
    curve.gear = gear;
    const double end = gear > 0 ? vehicle.gear_speed(gear) : t.top_speed;
    for (int i = 0; i <= pieces; ++i) {
      const double speed = end * i / pieces;
      curve.points.push_back({speed, vehicle.full_force(speed, gear)});
    }
  }
  return curves;
}

PartSheet wheel_parts() {
  return {"wheels",
          {{"travel_m"}, {"load_n"}, {"slip"}, {"slip_angle_rad"}, {"spin_rad_s"}, {"along_n"}},
          {{"travel mm", travel_m, 1000},
           {"load kN", load_n, 1e-3},
           {"slip %", slip_share, 100},
           {"side deg", slip_angle_rad, 1 / radians_per_degree}}};
}

void add_wheels(const Vehicle& vehicle, std::vector<double>& values) {
  for (int i = 0; i < vehicle.wheels(); ++i) {
    const WheelState& w = vehicle.state().wheels[static_cast<std::size_t>(i)];
    values.insert(values.end(), {w.compression, w.load, w.slip(), w.slip_angle(), w.spin, w.along});
  }
}

void draw_wheels(const Stage& stage, const Vehicle& vehicle, Picture& picture) {
  const Pose body = stage.world.pose(vehicle.body());
  const Vec3 centre = stage.world.centre_of_mass(vehicle.body());
  for (int i = 0; i < vehicle.wheels(); ++i) {
    const WheelTuning& w = vehicle.wheel(i);
    const WheelState& s = vehicle.state().wheels[static_cast<std::size_t>(i)];
    Pose pose = vehicle.wheel_pose(i, body, centre);
    pose.orientation = pose.orientation * rotation({0.5 * pi, 0, 0});  // a cylinder stands on its y
    picture.add(Cylinder{w.radius, 0.5 * w.width}, pose);
    if (s.load <= 0) continue;
    const Vec3 facing = rotate(body.orientation, {std::cos(s.steer), 0, -std::sin(s.steer)});
    const Vec3 ahead = normalised(in_plane(facing, s.normal)), right = cross(ahead, s.normal);
    draw_part_force(stage, vehicle.body(), s.contact, s.normal * s.load + ahead * s.along + right * s.side, picture);
  }
}

std::vector<std::string> remarks_on_wheels(const Vehicle& vehicle) {
  if (vehicle.tuning().aids.keep_down) return {};
  double grip = 0;
  for (int i = 0; i < vehicle.wheels(); ++i) grip = std::max(grip, vehicle.wheel(i).tyre.grip);
  const double tips = vehicle.tipping_grip();
  if (grip <= tips) return {};
  return {
      fmt::format("its tyres grip by {} of their load, and {:.3g} tips it over: in a curve it tips before it slides. "
                  "Lower or wider, less grip, or aids.keep_down = true prevent that",
                  as_text(grip), tips)};
}

void measure_wheels(const ActorTrace& trace, std::vector<Gauge>& gauges) {
  VehicleMeasuring m{trace, gauges};
  m.speeds();
  m.springs();
  m.wheels();
  m.turning();
  m.attitude();
}

}  // namespace jugend
