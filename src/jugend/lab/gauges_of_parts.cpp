// Gauges of what has wheels or rotors: springs, grip, stopping, turning, tilt and height.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/lab/gauges.hpp>
#include <limits>
#include <optional>

namespace jugend {
namespace {

double level_speed(const TraceRow& row) { return std::hypot(row.velocity.x, row.velocity.z); }

struct PartMeasuring {
  const ActorTrace& trace;
  std::vector<Gauge>& gauges;
  const std::vector<TraceRow>& rows = trace.rows;

  void add(const std::string& key, const std::string& label, const char* unit, double value) {
    gauges.push_back({key, label, unit, value});
  }
  double step() const { return rows.size() > 1 ? rows[1].time - rows[0].time : 1; }
  double travel(std::size_t row) const {
    double sum = 0;
    for (std::size_t i = 0; i < trace.parts; ++i) sum += trace.part(row, i).travel;
    return sum / static_cast<double>(trace.parts);
  }

  /// From standstill to nine tenths of what its drive is made for, and from the brake to standstill.
  void speeds() {
    const double goal = 0.9 * trace.tuning.top_speed();
    std::size_t start = 0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      const double before = level_speed(rows[i - 1]), now = level_speed(rows[i]);
      if (before < 0.02) start = i - 1;
      if (before >= goal || now < goal || level_speed(rows[start]) > 0.02) continue;
      const double reached = rows[i - 1].time + (goal - before) / (now - before) * step();
      add("speed_time_s", "standstill to 0.9 of top speed", "s", reached - rows[start].time);
      break;
    }
    for (std::size_t i = 1; i < rows.size(); ++i) {
      if (rows[i].aside < 0.5 || rows[i - 1].aside >= 0.5 || level_speed(rows[i - 1]) < 0.5) continue;
      double way = 0;
      for (std::size_t j = i; j < rows.size() && rows[j].aside >= 0.5; ++j) {
        way += norm(rows[j].position - rows[j - 1].position);
        if (level_speed(rows[j]) > 0.02) continue;
        add("brake_speed_m_s", "speed when the brake is pressed", "m/s", level_speed(rows[i - 1]));
        add("stop_distance_m", "way to stop", "m", way);
        add("time_to_stop_s", "time to stop", "s", rows[j].time - rows[i - 1].time);
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
    if (norm(rows[end - 1].velocity) < 0.02) add("sag_m", "springs give at rest, mean", "m", rest);
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
    add("settle_time_s", "springs within 2 % of rest from", "s", settled);
    if (extremes.size() < 2) return;
    // The last two of opposite sides that are large enough to be told apart.
    std::size_t i = extremes.size() - 1;
    while (i > 1 && std::abs(extremes[i].second) < 0.002 * most) --i;
    const auto& [first_time, first] = extremes[i - 1];
    const auto& [second_time, second] = extremes[i];
    if (first * second >= 0 || std::abs(second) >= std::abs(first)) return;  // a stop was hit, or a wheel lifted
    // Half a period takes away e^(-π ζ / √(1 - ζ²)).
    const double decrement = std::log(std::abs(first / second)), ratio = decrement / std::hypot(pi, decrement);
    add("damping_ratio", "damping ratio, measured", "1", ratio);
    add("ride_frequency_hz", "ride frequency, measured", "Hz",
        1 / (2 * (second_time - first_time)) / std::sqrt(1 - ratio * ratio));
  }

  void wheels() {
    std::size_t touching = 0, all = 0;
    double load = 0, slip = 0, angle = 0;
    for (std::size_t r = 1; r < rows.size(); ++r) {
      for (std::size_t i = 0; i < trace.parts; ++i) {
        const PartRow& p = trace.part(r, i);
        ++all, touching += p.load > 0;
        load = std::max(load, p.load);
        if (p.load > 0 && level_speed(rows[r]) > 1)
          slip = std::max(slip, std::abs(p.slip)), angle = std::max(angle, std::abs(p.slip_angle));
      }
    }
    if (all == 0) return;
    add("contact_share", "wheels on the ground", "1", static_cast<double>(touching) / static_cast<double>(all));
    add("load_peak_n", "highest load of a wheel", "N", load);
    add("slip_peak", "highest slip", "1", slip);
    add("slip_angle_peak_deg", "highest slip angle", "deg", angle / radians_per_degree);
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
        sum_front += std::abs(trace.part(i, 0).slip_angle + trace.part(i, 1).slip_angle) / 2;
        sum_rear += std::abs(trace.part(i, 2).slip_angle + trace.part(i, 3).slip_angle) / 2;
      }
    }
    add("side_acceleration_peak_m_s2", "highest sideways acceleration", "m/s2", most);
    if (steady < 3 || steady * step() < 0.9) return;
    add("turn_radius_m", "radius in the last second", "m", sum_radius / steady);
    if (trace.parts == 4 && sum_side / steady > 1) {
      add("understeer_deg_s2_m", "understeer gradient there (ISO 4138)", "deg s2/m",
          (sum_front - sum_rear) / sum_side / radians_per_degree);
    }
  }

  void attitude() {
    double roll = 0, pitch = 0;
    for (const TraceRow& r : rows) {
      roll = std::max(roll, std::abs(std::asin(std::clamp(cross(r.facing, r.up).y, -1.0, 1.0))));
      pitch = std::max(pitch, std::abs(std::asin(std::clamp(r.facing.y, -1.0, 1.0))));
    }
    add("roll_peak_deg", "highest roll", "deg", roll / radians_per_degree);
    add("pitch_peak_deg", "highest pitch", "deg", pitch / radians_per_degree);
  }

  /// How far it leaves the height at which it came to stand, while no climb is asked for.
  void height_drift() {
    if (std::lround(trace.tuning.multirotor.mode) == static_cast<long>(RotorMode::position)) return;  // led to places
    std::optional<double> held;
    double most = -1;
    for (const TraceRow& r : rows) {
      if (r.aside != 0) held.reset();
      if (r.aside == 0 && !held && std::abs(r.velocity.y) < 0.02) held = r.position.y;
      if (held) most = std::max(most, std::abs(r.position.y - *held));
    }
    if (most >= 0) add("height_drift_m", "furthest from the height it holds", "m", most);
  }

  void rotors() {
    double low = std::numeric_limits<double>::max(), high = -low, steepest = 0, busiest = 0;
    for (std::size_t r = 0; r < rows.size(); ++r) {
      steepest = std::max(steepest, std::acos(std::clamp(rows[r].up.y, -1.0, 1.0)));
      for (std::size_t i = 0; i < trace.parts; ++i) busiest = std::max(busiest, trace.part(r, i).turns);
      low = std::min(low, rows[r].position.y), high = std::max(high, rows[r].position.y);
    }
    add("height_span_m", "lowest to highest", "m", high - low);
    height_drift();
    add("tilt_peak_deg", "highest tilt", "deg", steepest / radians_per_degree);
    add("rotor_peak", "fastest rotor, share of its most", "1", busiest);
  }
};

}  // namespace

void measure_parts(const ActorTrace& trace, std::vector<Gauge>& gauges) {
  PartMeasuring m{trace, gauges};
  if (trace.tuning.kind == ActorKind::vehicle) {
    m.speeds();
    m.springs();
    m.wheels();
    m.turning();
    m.attitude();
  }
  if (trace.tuning.kind == ActorKind::multirotor) m.rotors();
}

}  // namespace jugend
