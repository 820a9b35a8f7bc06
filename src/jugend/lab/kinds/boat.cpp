// Boats in the lab: cues of the helm, gauges of way, turning and stopping.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/stage/kinds/boat.hpp>

namespace jugend {
namespace {

/// The columns of helm.csv.
enum HelmColumn : std::size_t { screw_thrust_n, rudder_rad, speed_m_s, drift_m_s, afloat_share };

constexpr GaugeInfo boat_gauges[] = {
    {"water_speed_peak_m_s", "highest speed through the water", "m/s", "highest speed ahead through the water"},
    {"speed_time_s", "no way to 0.9 of top speed", "s",
     "from standstill until nine tenths of drive.top_speed are reached"},
    {"advance_m", "turn: advance", "m",
     "first turn with the helm hard over: way along the old course until it has turned by 90 degrees (IMO "
     "MSC.137(76))"},
    {"tactical_diameter_m", "turn: tactical diameter", "m",
     "the same turn: way across the old course until it has turned by 180 degrees (IMO MSC.137(76))"},
    {"crash_stop_m", "distance to stop by full astern", "m",
     "from full astern against its way until that is off: distance"},
    {"crash_stop_s", "time to stop by full astern", "s", "the same: time"},
    {"heel_peak_deg", "highest heel", "deg", "highest angle by which it lies over to a side"},
    {"trim_peak_deg", "highest trim", "deg", "highest angle by which its bow is up or down"},
    {"drift_angle_peak_deg", "highest drift angle", "deg",
     "highest angle between its bow and its way through the water, above 1 m/s"},
};

struct BoatMeasuring {
  const ActorTrace& trace;
  std::vector<Gauge>& gauges;
  const std::vector<TraceRow>& rows = trace.rows;

  void add(std::string_view key, double value) { gauges.push_back(gauge_of(boat_gauges, key, value)); }

  /// From no way to nine tenths of top speed.
  void way() {
    const double goal = 0.9 * trace.top_speed();
    double most = 0, start = -1, reached = -1;
    for (std::size_t i = 1; i < rows.size(); ++i) {
      const double before = trace.part(i - 1, 0, speed_m_s), now = trace.part(i, 0, speed_m_s);
      most = std::max(most, now);
      if (std::abs(before) < 0.02) start = rows[i - 1].time;
      if (start < 0 || reached >= 0 || before >= goal || now < goal) continue;
      reached = rows[i - 1].time + (goal - before) / (now - before) * (rows[i].time - rows[i - 1].time) - start;
    }
    add("water_speed_peak_m_s", most);
    if (reached >= 0) add("speed_time_s", reached);
  }

  /// The first turn with the helm hard over, as IMO's Standards for Ship Manoeuvrability (MSC.137(76)) name its parts:
  /// advance until it has turned by 90 degrees, tactical diameter until 180.
  void turn() {
    for (std::size_t i = 1; i < rows.size(); ++i) {
      if (std::abs(rows[i].run_right) < 0.99 || std::abs(rows[i - 1].run_right) >= 0.99) continue;
      const TraceRow& begin = rows[i - 1];
      const Vec3 along = normalised(in_plane(begin.velocity, {0, 1, 0})), across = cross(along, {0, 1, 0});
      if (norm(begin.velocity) < 0.5) continue;
      double turned = 0;
      bool quarter = false;
      for (std::size_t j = i; j < rows.size(); ++j) {
        if (std::abs(rows[j].run_right) < 0.99) return;
        const Vec3 &was = rows[j - 1].facing, &is = rows[j].facing;
        turned += std::abs(std::atan2(was.z * is.x - was.x * is.z, was.x * is.x + was.z * is.z));
        const Vec3 gone = rows[j].position - begin.position;
        if (!quarter && turned >= 0.5 * pi) quarter = true, add("advance_m", dot(gone, along));
        if (turned < pi) continue;
        add("tactical_diameter_m", std::abs(dot(gone, across)));
        return;
      }
    }
  }

  /// From full astern against its way until that is off.
  void stop() {
    for (std::size_t i = 1; i < rows.size(); ++i) {
      if (rows[i].run_ahead > -0.5 || rows[i - 1].run_ahead <= -0.5 || trace.part(i - 1, 0, speed_m_s) < 0.5) continue;
      double distance = 0;
      for (std::size_t j = i; j < rows.size() && rows[j].run_ahead <= -0.5; ++j) {
        distance += norm(in_plane(rows[j].position - rows[j - 1].position, {0, 1, 0}));
        if (trace.part(j, 0, speed_m_s) > 0) continue;
        add("crash_stop_m", distance);
        add("crash_stop_s", rows[j].time - rows[i - 1].time);
        return;
      }
    }
  }

  void attitude() {
    double heel = 0, trim = 0, drift = 0;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      heel = std::max(heel, std::abs(std::asin(std::clamp(cross(rows[i].facing, rows[i].up).y, -1.0, 1.0))));
      trim = std::max(trim, std::abs(std::asin(std::clamp(rows[i].facing.y, -1.0, 1.0))));
      const double ahead = trace.part(i, 0, speed_m_s), aside = trace.part(i, 0, drift_m_s);
      if (std::hypot(ahead, aside) > 1) drift = std::max(drift, std::abs(std::atan2(aside, std::abs(ahead))));
    }
    add("heel_peak_deg", heel / radians_per_degree);
    add("trim_peak_deg", trim / radians_per_degree);
    add("drift_angle_peak_deg", drift / radians_per_degree);
  }
};

class BoatLabKind final : public LabKindWith<BoatTuning> {
 public:
  std::string_view name() const override { return BoatKind::name; }
  const Tunables& tunables() const override { return boat_tunables(); }
  Stands stands() const override { return Stands::on_a_body; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_boat(stage, at.name, tuning.as<BoatTuning>(), at.body);
  }
  std::vector<std::string> cue_keys() const override { return {"run", "helm", "hit"}; }
  void read_cue(TableReader& cue, const ActorTuning&, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      actor.as<BoatControls>().helm = {ahead, right};
    });
    if (const DocValue* table = cue.table("helm")) {
      TableReader helm(*table, cue.file(), cue.path_of("helm."));
      const BoatIntent wanted{helm.number("throttle", {-1, 1}).value_or(0), helm.number("steer", {-1, 1}).value_or(0)};
      helm.finish();
      into.add([wanted](Stage& stage, ActorId actor) { stage.actor(actor).as<BoatControls>().helm = wanted; });
    }
    read_hit_cue(cue, into, 0, 0);
  }
  CueAct follow(Path route, double speed) const override {
    return [route = std::move(route), driver = PathDriver{.speed = speed}](Stage& stage, ActorId index) mutable {
      Actor& actor = stage.actor(index);
      const ActorFacts f = stage.facts(index);
      const Boat& boat = actor.as<Boat>();
      const Driven self{f.position, f.velocity, f.facing, f.up};
      driver.look_ahead = std::max(boat.tuning().length, 1.5 * norm(f.velocity));
      const double slow_down = 0.5 * boat.tuning().astern * boat.tuning().thrust / stage.world.mass(boat.body());
      const double turning = dot(stage.world.spin(boat.body()), f.up);
      actor.as<BoatControls>().helm = led_by(driver.drive(self, route, slow_down), self, turning, boat);
    };
  }
  HeldInput held(const Actor& actor) const override {
    const BoatIntent& helm = actor.as<BoatControls>().helm;
    return {helm.throttle, helm.steer, 0, 0};
  }
  PageForm page() const override { return PageForm::parts; }
  std::vector<GaugeInfo> gauges() const override { return {std::begin(boat_gauges), std::end(boat_gauges)}; }
  PartSheet parts() const override {
    return {"helm",
            {{"thrust_n"}, {"rudder_rad"}, {"speed_m_s"}, {"drift_m_s"}, {"afloat"}},
            {{"thrust kN", screw_thrust_n, 1e-3},
             {"rudder °", rudder_rad, 1 / radians_per_degree},
             {"drift m/s", drift_m_s, 1}}};
  }
  std::size_t part_count(const Actor&) const override { return 1; }
  void add_parts(const Actor& actor, std::vector<double>& values) const override {
    const BoatState& s = actor.as<Boat>().state();
    values.insert(values.end(), {s.thrust * s.screw, s.rudder, s.speed, s.drift, s.afloat});
  }
  void draw(const Stage&, const Actor&, Picture&) const override {}  // its body is drawn
  std::vector<std::string> remarks(const Stage&, const Actor& actor) const override {
    const BoatState& s = actor.as<Boat>().state();
    if (s.afloat == 0) return {"no water is under its bottom: see hull.bottom, and where the pool is"};
    std::vector<std::string> said;
    if (s.afloat < 0.7 || s.afloat > 1.4)
      said.push_back(
          fmt::format("it floats {:.2g} times as deep as hull.draught says: its drag is as much off", s.afloat));
    if (s.screw < 0.7)
      said.push_back(fmt::format("{:.0f} % of its propeller is out of the water", 100 * (1 - s.screw)));
    return said;
  }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    BoatMeasuring m{trace, gauges};
    m.way();
    m.turn();
    m.stop();
    m.attitude();
  }

 private:
  void check_it(const BoatTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const BoatTuning& tuning) const override { return tuning.top_speed; }
};

}  // namespace

std::shared_ptr<const LabKind> boat_lab_kind() { return std::make_shared<BoatLabKind>(); }

}  // namespace jugend
