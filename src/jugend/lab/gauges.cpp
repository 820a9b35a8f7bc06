#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <jugend/base/units.hpp>
#include <jugend/lab/gauges.hpp>
#include <jugend/lab/kinds/kinds.hpp>
#include <optional>

namespace jugend {
namespace {

bool pushes(const TraceRow& row) { return row.run_ahead != 0 || row.run_right != 0; }

/// The time at which speed reaches `goal` between rows i - 1 and i. A ramp that ends inside the tick is
/// carried on from the tick before, where it was whole.
template <class Speed>
double crossing_time(const std::vector<TraceRow>& rows, std::size_t i, double goal, const Speed& speed_of) {
  const double before = speed_of(rows[i - 1]), after = speed_of(rows[i]);
  const double dt = rows[i].time - rows[i - 1].time;
  double rate = (after - before) / dt;
  if (i >= 2) {
    const double earlier = (before - speed_of(rows[i - 2])) / (rows[i - 1].time - rows[i - 2].time);
    if (std::abs(earlier) > std::abs(rate) && earlier * rate > 0) rate = earlier;
  }
  return rows[i - 1].time + std::clamp((goal - before) / rate, 0.0, dt);
}

struct Measuring {
  const ActorTrace& trace;
  std::vector<Gauge> gauges{};

  void add(const std::string& key, const std::string& label, const char* unit, double value) {
    gauges.push_back({key, label, unit, value});
  }

  void running() {
    const auto& rows = trace.rows;
    double distance = 0, fastest = 0, steepest = 0;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      const Vec3 step = rows[i].position - rows[i - 1].position;
      distance += std::hypot(step.x, step.z);
      fastest = std::max(fastest, level_speed(rows[i]));
      if (rows[i].on_ground) steepest = std::max(steepest, rows[i].slope);
    }
    const Vec3 span = rows.back().position - rows.front().position;
    add("distance_m", "distance along the level", "m", distance);
    add("span_m", "start to end", "m", std::hypot(span.x, span.z));
    add("top_speed_m_s", "top level speed", "m/s", fastest);
    add("steepest_deg", "steepest ground", "deg", steepest / radians_per_degree);
  }

  void speeding_up() {
    const auto& rows = trace.rows;
    const double goal = trace.top_speed() * (1 - 1e-9);
    for (std::size_t start = 1; start < rows.size(); ++start) {
      const bool from_rest = rows[start - 1].on_ground && norm(rows[start - 1].velocity) < 1e-6;
      if (!from_rest || !pushes(rows[start])) continue;
      for (std::size_t i = start; i < rows.size() && pushes(rows[i]) && rows[i].on_ground; ++i) {
        if (norm(rows[i].velocity) < goal) continue;
        const auto speed = [](const TraceRow& r) { return norm(r.velocity); };
        const double reached = crossing_time(rows, i, trace.top_speed(), speed);
        add("time_to_top_speed_s", "standstill to top speed", "s", reached - rows[start - 1].time);
        return;
      }
    }
  }

  void stopping() {
    const auto& rows = trace.rows;
    for (std::size_t release = rows.size() - 1; release > 1; --release) {
      const bool let_go = pushes(rows[release - 1]) && !pushes(rows[release]) && rows[release - 1].on_ground;
      if (!let_go) continue;
      for (std::size_t i = release; i < rows.size() && !pushes(rows[i]) && rows[i].on_ground; ++i) {
        if (norm(rows[i].velocity) > 0) continue;
        const auto speed = [](const TraceRow& r) { return norm(r.velocity); };
        const Vec3 stopped = rows[i].position - rows[release - 1].position;
        add("time_to_stop_s", "release to standstill", "s", crossing_time(rows, i, 0, speed) - rows[release - 1].time);
        add("stop_distance_m", "distance to stop", "m", norm(stopped));
        return;
      }
      return;
    }
  }

  /// Input thrown round at top speed, until the speed is whole the other way.
  void turning_round() {
    const auto& rows = trace.rows;
    const double goal = trace.top_speed() * (1 - 1e-9);
    const auto wish = [](const TraceRow& r) { return Vec3{r.run_ahead, 0, r.run_right}; };
    for (std::size_t start = 1; start < rows.size(); ++start) {
      const Vec3 old_wish = wish(rows[start - 1]), new_wish = wish(rows[start]), old = rows[start - 1].velocity;
      const bool reversed = dot(old_wish, new_wish) < -0.99 * norm(old_wish) * norm(new_wish);
      if (!reversed || !rows[start - 1].on_ground || norm(old) < goal) continue;
      const auto back = [&](const TraceRow& r) { return -dot(r.velocity, normalised(old)); };
      for (std::size_t i = start; i < rows.size() && wish(rows[i]) == new_wish && rows[i].on_ground; ++i) {
        if (back(rows[i]) < goal) continue;
        const double reached = crossing_time(rows, i, trace.top_speed(), back);
        add("time_to_turn_round_s", "top speed to top speed back", "s", reached - rows[start - 1].time);
        return;
      }
    }
  }

  /// A jump that starts off nothing: an air jump.
  static bool takes_off_in_air(const std::vector<TraceEvent>& events, std::size_t i) {
    if (events[i].kind != WalkerEventKind::jumped) return false;
    return i + 1 == events.size() || events[i + 1].kind != WalkerEventKind::left_ground ||
           events[i + 1].time != events[i].time;
  }

  /// Each time off the ground: from take-off over the apex to the landing.
  void flights() {
    int jumps = 0, falls = 0;
    const auto& events = trace.events;
    for (std::size_t i = 0; i < events.size(); ++i) {
      const bool in_air = takes_off_in_air(events, i);
      if (events[i].kind != WalkerEventKind::left_ground && !in_air) continue;
      const bool launched = i + 1 < events.size() && events[i + 1].kind == WalkerEventKind::launched;
      if (launched && events[i + 1].time == events[i].time) continue;  // told of below
      const TraceEvent& off = events[i];
      const bool jumped =
          in_air || (i > 0 && events[i - 1].kind == WalkerEventKind::jumped && events[i - 1].time == off.time);
      const int number = jumped ? ++jumps : ++falls;
      const std::string key = fmt::format("{}_{}.", jumped ? "jump" : "fall", number);
      const std::string from = jumped ? events[in_air ? i : i - 1].detail : "";
      const std::string label = fmt::format("{} {}{}: ", jumped ? "jump" : "fall", number,
                                            from.empty() || from == "ground" ? "" : " (" + from + ")");
      add(key + "at_s", label + "take-off at", "s", off.time);
      for (std::size_t j = i + 1;
           j < events.size() && events[j].kind != WalkerEventKind::left_ground && !takes_off_in_air(events, j); ++j) {
        const TraceEvent& e = events[j];
        if (e.kind == WalkerEventKind::apex) {
          add(key + "apex_height_m", label + "apex height", "m", e.value);
          add(key + "apex_time_s", label + "time to apex", "s", e.time - off.time);
        } else if (e.kind == WalkerEventKind::bumped_head) {
          add(key + "bump_speed_m_s", label + "speed into the ceiling", "m/s", e.value);
        } else if (e.kind == WalkerEventKind::landed) {
          const Vec3 leap = e.position - off.position;
          add(key + "air_time_s", label + "time in the air", "s", e.time - off.time);
          add(key + "length_m", label + "length", "m", std::hypot(leap.x, leap.z));
          add(key + "rise_m", label + "landing above take-off", "m", leap.y);
          add(key + "landing_speed_m_s", label + "landing speed", "m/s", e.value);
          break;
        }
      }
    }
  }

  const TraceEvent* next(std::size_t from, std::initializer_list<WalkerEventKind> kinds) const {
    for (std::size_t i = from + 1; i < trace.events.size(); ++i) {
      if (std::ranges::find(kinds, trace.events[i].kind) != kinds.end()) return &trace.events[i];
    }
    return nullptr;
  }

  /// Dashes, launches, hits, ledges, kicks: each by its number.
  void moves() {
    int dashes = 0, launches = 0, hits = 0, ledges = 0, kicks = 0, stomps = 0;
    using enum WalkerEventKind;
    for (std::size_t i = 0; i < trace.events.size(); ++i) {
      const TraceEvent& e = trace.events[i];
      const auto named = [&](const char* what, int number) {
        return std::pair{fmt::format("{}_{}.", what, number), fmt::format("{} {}: ", what, number)};
      };
      if (e.kind == dashed) {
        const auto [key, label] = named("dash", ++dashes);
        if (const TraceEvent* end = next(i, {dash_ended, hit, ledge_caught})) {
          add(key + "length_m", label + "length", "m", norm(end->position - e.position));
          add(key + "time_s", label + "time", "s", end->time - e.time);
        }
      } else if (e.kind == launched) {
        const auto [key, label] = named("launch", ++launches);
        if (const TraceEvent* top = next(i, {apex})) add(key + "apex_height_m", label + "apex height", "m", top->value);
      } else if (e.kind == hit) {
        const auto [key, label] = named("hit", ++hits);
        const TraceEvent* end = next(i, {recovered});
        double furthest = 0;
        for (const TraceRow& row : trace.rows) {
          if (row.time < e.time || (end && row.time > end->time)) continue;
          const Vec3 off = row.position - e.position;
          furthest = std::max(furthest, std::hypot(off.x, off.z));
        }
        add(key + "throw_m", label + fmt::format("throw ({})", e.detail), "m", furthest);
        if (end) add(key + "without_control_s", label + "until control is whole", "s", end->time - e.time);
      } else if (e.kind == ledge_caught) {
        const auto [key, label] = named("ledge", ++ledges);
        if (const TraceEvent* end = next(i, {ledge_left, climbed}))
          add(key + "time_s", label + "held", "s", end->time - e.time);
      } else if (e.kind == kicked) {
        const auto [key, label] = named("kick", ++kicks);
        add(key + "speed_m_s", label + "speed given to " + (e.detail.empty() ? "a body" : e.detail), "m/s", e.value);
      } else if (e.kind == stomped) {
        const auto [key, label] = named("stomp", ++stomps);
        if (const TraceEvent* top = next(i, {apex})) add(key + "bounce_m", label + "bounce", "m", top->value);
      }
    }
    double slip = 0;
    bool rode = false;
    for (std::size_t i = 1; i < trace.rows.size(); ++i) {
      rode |= trace.rows[i].ride_slip > 0;
      slip += trace.rows[i].ride_slip * (trace.rows[i].time - trace.rows[i - 1].time);
    }
    if (rode) add("ride_slip_m", "slip on ground that moves", "m", slip);
  }
};

}  // namespace

void measure_starts_and_stops(const ActorTrace& trace, std::vector<Gauge>& gauges) {
  Measuring m{trace};
  m.speeding_up();
  m.stopping();
  m.turning_round();
  gauges.insert(gauges.end(), m.gauges.begin(), m.gauges.end());
}

std::vector<Gauge> measure(const ActorTrace& trace) {
  Measuring m{trace};
  m.running();
  trace.tuning.kind().measure(trace, m.gauges);
  m.flights();
  m.moves();
  return std::move(m.gauges);
}

std::vector<BodyGauges> measure_bodies(const Trace& trace) {
  constexpr double still = 0.02;  // m/s
  struct Sum {
    double moved = 0, fastest = 0, still_after = 0, drop = 0;
    std::size_t asleep = 0;
  };
  std::vector<BodyGauges> all;
  std::vector<Sum> sums;
  for (const BodyTrace& body : trace.bodies) {
    std::string stem = body.name.empty() ? "body" : body.name;
    const auto cut = stem.find_last_of('_');
    if (cut != std::string::npos && stem.find_first_not_of("0123456789", cut + 1) == std::string::npos)
      stem.resize(cut);
    auto at = std::ranges::find(all, stem, &BodyGauges::name);
    if (at == all.end()) {
      all.push_back({stem, 0, {}});
      sums.emplace_back();
      at = all.end() - 1;
    }
    Sum& sum = sums[static_cast<std::size_t>(at - all.begin())];
    ++at->count;
    const Vec3 start = body.rows.front().pose.position, end = body.rows.back().pose.position;
    sum.moved = std::max(sum.moved, norm(end - start));
    sum.drop = std::max(sum.drop, start.y - end.y);
    for (const BodyRow& row : body.rows) {
      const double speed = norm(row.velocity);
      sum.fastest = std::max(sum.fastest, speed);
      if (speed > still) sum.still_after = std::max(sum.still_after, row.time);
    }
    sum.asleep += body.rows.back().asleep;
  }
  for (std::size_t i = 0; i < all.size(); ++i) {
    all[i].gauges = {{"moved_m", "start to end, the furthest", "m", sums[i].moved},
                     {"drop_m", "lower at the end, the most", "m", sums[i].drop},
                     {"top_speed_m_s", "top speed", "m/s", sums[i].fastest}};
    if (sums[i].still_after < trace.bodies.front().rows.back().time)  // else they are not still at the end either
      all[i].gauges.push_back({"still_after_s", "all below 2 cm/s from", "s", sums[i].still_after});
    all[i].gauges.push_back({"asleep", "asleep at the end", "1", static_cast<double>(sums[i].asleep)});
  }
  return all;
}

}  // namespace jugend
