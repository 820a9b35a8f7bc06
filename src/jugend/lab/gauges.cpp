#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <jugend/base/units.hpp>
#include <jugend/lab/gauges.hpp>
#include <jugend/lab/kinds/kinds.hpp>
#include <map>
#include <optional>
#include <stdexcept>

namespace jugend {
namespace {

constexpr GaugeInfo of_all_motion[] = {
    {"distance_m", "distance along the level", "m", "way along the level, tick by tick"},
    {"span_m", "start to end", "m", "level distance from the first place to the last"},
    {"top_speed_m_s", "top level speed", "m/s", "highest level speed"},
    {"steepest_deg", "steepest ground", "deg", "steepest ground that it stood on", 0.05},
    {"ride_slip_m", "slip on ground that moves", "m", "way of the feet over ground that moves, while no input is held"},
};

constexpr GaugeInfo on_foot[] = {
    {"time_to_top_speed_s", "standstill to top speed", "s",
     "on the ground from standstill, first time that input is held: until top speed"},
    {"time_to_stop_s", "release to standstill", "s", "on the ground, last time that input is let go: until standstill"},
    {"stop_distance_m", "distance to stop", "m", "the same: way until then"},
    {"time_to_turn_round_s", "top speed to top speed back", "s",
     "input thrown round at top speed: until top speed the other way"},
};

/// Of what happens several times, and of bodies: a table each.
constexpr GaugeInfo tables[] = {
    {"flight.at_s", "at", "s", "each time off the ground, by a jump or a fall: when it began"},
    {"flight.apex_height_m", "apex", "m", "its apex above where it began"},
    {"flight.apex_time_s", "to apex", "s", "time until then"},
    {"flight.bump_speed_m_s", "ceiling", "m/s", "speed into a ceiling"},
    {"flight.air_time_s", "in the air", "s", "time until the landing"},
    {"flight.length_m", "length", "m", "level distance from where it began to the landing"},
    {"flight.rise_m", "rise", "m", "the landing above where it began"},
    {"flight.landing_speed_m_s", "landing", "m/s", "speed down into the ground"},
    {"dash.length_m", "length", "m", "each dash: way until its end, a hit or a ledge"},
    {"dash.time_s", "time", "s", "time until then"},
    {"launch.apex_height_m", "apex", "m", "each launch: its apex above where it began"},
    {"hit.throw_m", "throw", "m", "each hit: furthest along the level until control is whole"},
    {"hit.without_control_s", "no control", "s", "time until then"},
    {"ledge.time_s", "held", "s", "each ledge: how long it was held"},
    {"kick.speed_m_s", "speed", "m/s", "each body kicked at a take-off: speed given to it"},
    {"stomp.bounce_m", "bounce", "m", "each stomp: the next apex above it"},
    {"body.moved_m", "moved", "m", "bodies, those of one name and a number together: start to end, the furthest"},
    {"body.drop_m", "lower by", "m", "lower at the end, the most"},
    {"body.top_speed_m_s", "top speed", "m/s", "highest of any"},
    {"body.still_after_s", "still after", "s", "all are below 2 cm/s from then on"},
    {"body.asleep", "asleep", "1", "how many sleep at the end", 0.5},
};

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

  void add(std::string_view key, double value, std::span<const GaugeInfo> list = of_all_motion) {
    gauges.push_back(gauge_of(list, key, value));
  }
  /// Of the table that `key` begins with, as in "jump_1" of "flight.at_s".
  void add_to_row(const std::string& which, const std::string& row, std::string_view key, double value) {
    Gauge& g = gauges.emplace_back(gauge_of(tables, key, value));
    const std::size_t dot = key.find('.');
    g.table = key.substr(0, dot), g.row = row, g.key = which + std::string(key.substr(dot));
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
    add("distance_m", distance);
    add("span_m", std::hypot(span.x, span.z));
    add("top_speed_m_s", fastest);
    add("steepest_deg", steepest / radians_per_degree);
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
        add("time_to_top_speed_s", reached - rows[start - 1].time, on_foot);
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
        add("time_to_stop_s", crossing_time(rows, i, 0, speed) - rows[release - 1].time, on_foot);
        add("stop_distance_m", norm(stopped), on_foot);
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
        add("time_to_turn_round_s", reached - rows[start - 1].time, on_foot);
        return;
      }
    }
  }

  /// The event of that kind at the same moment as event i, before or after it; none: nullptr.
  const TraceEvent* with(std::size_t i, WalkerEventKind kind) const {
    const auto& events = trace.events;
    std::size_t first = i;
    while (first > 0 && events[first - 1].time == events[i].time) --first;
    for (std::size_t k = first; k < events.size() && events[k].time == events[i].time; ++k) {
      if (events[k].kind == kind) return &events[k];
    }
    return nullptr;
  }
  /// Does a flight begin here: off the ground, or by a jump off nothing?
  bool takes_off(std::size_t i) const {
    if (trace.events[i].kind == WalkerEventKind::left_ground) return true;
    return trace.events[i].kind == WalkerEventKind::jumped && !with(i, WalkerEventKind::left_ground);
  }

  /// Each time off the ground: from take-off over the apex to the landing.
  void flights() {
    int jumps = 0, falls = 0;
    const auto& events = trace.events;
    for (std::size_t i = 0; i < events.size(); ++i) {
      if (!takes_off(i) || with(i, WalkerEventKind::launched)) continue;  // launches are told of below
      const TraceEvent& off = events[i];
      const TraceEvent* jump = with(i, WalkerEventKind::jumped);
      const int number = jump ? ++jumps : ++falls;
      const char* kind = jump ? "jump" : "fall";
      const std::string which = fmt::format("{}_{}", kind, number), from = jump ? jump->detail : "";
      const std::string row =
          fmt::format("{} {}{}", kind, number, from.empty() || from == "ground" ? "" : fmt::format(" ({})", from));
      const auto tell = [&](std::string_view key, double value) { add_to_row(which, row, key, value); };
      tell("flight.at_s", off.time);
      for (std::size_t j = i + 1; j < events.size() && (events[j].time == off.time || !takes_off(j)); ++j) {
        const TraceEvent& e = events[j];
        if (e.kind == WalkerEventKind::apex) {
          tell("flight.apex_height_m", e.value);
          tell("flight.apex_time_s", e.time - off.time);
        } else if (e.kind == WalkerEventKind::bumped_head) {
          tell("flight.bump_speed_m_s", e.value);
        } else if (e.kind == WalkerEventKind::landed) {
          const Vec3 leap = e.position - off.position;
          tell("flight.air_time_s", e.time - off.time);
          tell("flight.length_m", std::hypot(leap.x, leap.z));
          tell("flight.rise_m", leap.y);
          tell("flight.landing_speed_m_s", e.value);
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
    std::map<std::string, int> counts;
    using enum WalkerEventKind;
    for (std::size_t i = 0; i < trace.events.size(); ++i) {
      const TraceEvent& e = trace.events[i];
      // The next number of a kind of move, and then what is told of it.
      const auto row = [&](const std::string& what, const std::string& note = "") {
        const int number = ++counts[what];
        return [=, this](std::string_view key, double value) {
          add_to_row(fmt::format("{}_{}", what, number),
                     note.empty() ? std::to_string(number) : fmt::format("{} ({})", number, note),
                     fmt::format("{}.{}", what, key), value);
        };
      };
      if (e.kind == dashed) {
        const auto tell = row("dash");
        if (const TraceEvent* end = next(i, {dash_ended, hit, ledge_caught})) {
          tell("length_m", norm(end->position - e.position));
          tell("time_s", end->time - e.time);
        }
      } else if (e.kind == launched) {
        const auto tell = row("launch");
        if (const TraceEvent* top = next(i, {apex})) tell("apex_height_m", top->value);
      } else if (e.kind == hit) {
        const auto tell = row("hit", e.detail);
        const TraceEvent* end = next(i, {recovered});
        double furthest = 0;
        for (const TraceRow& r : trace.rows) {
          if (r.time < e.time || (end && r.time > end->time)) continue;
          const Vec3 off = r.position - e.position;
          furthest = std::max(furthest, std::hypot(off.x, off.z));
        }
        tell("throw_m", furthest);
        if (end) tell("without_control_s", end->time - e.time);
      } else if (e.kind == ledge_caught) {
        const auto tell = row("ledge");
        if (const TraceEvent* end = next(i, {ledge_left, climbed})) tell("time_s", end->time - e.time);
      } else if (e.kind == kicked) {
        row("kick", e.detail)("speed_m_s", e.value);
      } else if (e.kind == stomped) {
        const auto tell = row("stomp");
        if (const TraceEvent* top = next(i, {apex})) tell("bounce_m", top->value);
      }
    }
    double slip = 0;
    bool rode = false;
    for (std::size_t i = 1; i < trace.rows.size(); ++i) {
      rode |= trace.rows[i].ride_slip > 0;
      slip += trace.rows[i].ride_slip * (trace.rows[i].time - trace.rows[i - 1].time);
    }
    if (rode) add("ride_slip_m", slip);
  }
};

}  // namespace

Gauge gauge_of(std::span<const GaugeInfo> list, std::string_view key, double value) {
  const auto info = std::ranges::find(list, key, &GaugeInfo::key);
  if (info == list.end()) throw std::logic_error("a gauge that is not listed: " + std::string(key));
  return {std::string(key), std::string(info->label), std::string(info->unit), value, {}, {}, info->nothing_below};
}

std::vector<GaugeInfo> gauges_of_all_motion() { return {std::begin(of_all_motion), std::end(of_all_motion)}; }
std::vector<GaugeInfo> gauges_in_tables() { return {std::begin(tables), std::end(tables)}; }
std::vector<GaugeInfo> gauges_on_foot() { return {std::begin(on_foot), std::end(on_foot)}; }

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
    const std::string row = all[i].count > 1 ? fmt::format("{} ({})", all[i].name, all[i].count) : all[i].name;
    const auto tell = [&](std::string_view key, double value) {
      Gauge& g = all[i].gauges.emplace_back(gauge_of(tables, key, value));
      g.table = "body", g.row = row, g.key.erase(0, g.key.find('.') + 1);
    };
    tell("body.moved_m", sums[i].moved);
    tell("body.drop_m", sums[i].drop);
    tell("body.top_speed_m_s", sums[i].fastest);
    if (sums[i].still_after < trace.bodies.front().rows.back().time)  // else they are not still at the end either
      tell("body.still_after_s", sums[i].still_after);
    tell("body.asleep", static_cast<double>(sums[i].asleep));
  }
  return all;
}

}  // namespace jugend
