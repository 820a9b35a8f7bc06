// Multirotors in the lab: cues of flight, rotors in traces and pictures, gauges of tilt and height.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/stage/kinds/multirotor.hpp>
#include <limits>
#include <optional>

namespace jugend {
namespace {

/// The columns of rotors.csv.
enum RotorColumn : std::size_t { thrust_n, speed_share, failed };

constexpr GaugeInfo rotor_gauges[] = {
    {"height_drift_m", "furthest from the height it holds", "m",
     "furthest from the height at which it came to stand, while no climb is asked for"},
    {"rotors_lost", "rotors lost", "1", "rotors that stand at the end"},
    {"loss_drop_m", "after the first loss: height lost", "m",
     "after the first rotor was lost: furthest below where it was"},
    {"loss_sink_m_s", "after the first loss: fastest descent", "m/s",
     "after the first rotor was lost: fastest way down"},
    {"loss_tilt_deg", "after the first loss: highest tilt", "deg", "after the first rotor was lost: highest tilt"},
    {"height_span_m", "lowest to highest", "m", "from the lowest place to the highest"},
    {"tilt_peak_deg", "highest tilt", "deg", "highest angle between its own up and the vertical"},
    {"rotor_peak", "fastest rotor, share of its most", "1", "highest speed of any rotor, as a share of its most"},
};

struct MultirotorMeasuring {
  const ActorTrace& trace;
  std::vector<Gauge>& gauges;
  const std::vector<TraceRow>& rows = trace.rows;

  void add(std::string_view key, double value) { gauges.push_back(gauge_of(rotor_gauges, key, value)); }
  bool led_to_places() const { return trace.tuning.as<MultirotorTuning>().mode == RotorMode::position; }

  /// How far it leaves the height at which it came to stand, while no climb is asked for.
  void height_drift() {
    if (led_to_places()) return;  // led to places
    std::optional<double> held;
    double most = -1;
    for (const TraceRow& r : rows) {
      if (r.climb != 0) held.reset();
      if (r.climb == 0 && !held && std::abs(r.velocity.y) < 0.02) held = r.position.y;
      if (held) most = std::max(most, std::abs(r.position.y - *held));
    }
    if (most >= 0) add("height_drift_m", most);
  }

  /// How it came through the first loss of a rotor.
  void losses() {
    std::size_t first = rows.size();
    double lost = 0;
    for (std::size_t i = 0; i < trace.parts; ++i) {
      lost += trace.part(rows.size() - 1, i, failed);
      for (std::size_t r = 0; r < first; ++r) {
        if (trace.part(r, i, failed) > 0) first = r;
      }
    }
    if (lost == 0) return;
    double low = 0, tilt = 0, fastest = 0;
    for (std::size_t r = first; r < rows.size(); ++r) {
      low = std::max(low, rows[first].position.y - rows[r].position.y);
      tilt = std::max(tilt, std::acos(std::clamp(rows[r].up.y, -1.0, 1.0)));
      fastest = std::max(fastest, -rows[r].velocity.y);
    }
    add("rotors_lost", lost);
    add("loss_drop_m", low);
    add("loss_sink_m_s", fastest);
    add("loss_tilt_deg", tilt / radians_per_degree);
  }

  void rotors() {
    double low = std::numeric_limits<double>::max(), high = -low, steepest = 0, busiest = 0;
    for (std::size_t r = 0; r < rows.size(); ++r) {
      steepest = std::max(steepest, std::acos(std::clamp(rows[r].up.y, -1.0, 1.0)));
      for (std::size_t i = 0; i < trace.parts; ++i) busiest = std::max(busiest, trace.part(r, i, speed_share));
      low = std::min(low, rows[r].position.y), high = std::max(high, rows[r].position.y);
    }
    add("height_span_m", high - low);
    height_drift();
    add("tilt_peak_deg", steepest / radians_per_degree);
    add("rotor_peak", busiest);
  }
};

class MultirotorLabKind final : public LabKindWith<MultirotorTuning> {
 public:
  std::string_view name() const override { return MultirotorKind::name; }
  const Tunables& tunables() const override { return multirotor_tunables(); }
  Stands stands() const override { return Stands::on_a_body; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_multirotor(stage, at.name, tuning.as<MultirotorTuning>(), at.body);
  }
  std::vector<std::string> cue_keys() const override { return {"run", "fly", "hit"}; }
  void read_cue(TableReader& cue, const ActorTuning& tuning, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      MultirotorIntent& fly = actor.as<MultirotorControls>().fly;
      fly.ahead = ahead, fly.right = right;
    });
    if (const DocValue* table = cue.table("fly")) {
      TableReader fly(*table, cue.file(), cue.path_of("fly."));
      MultirotorIntent wanted;
      read_share(fly, "ahead", -1, wanted.ahead), read_share(fly, "right", -1, wanted.right),
          read_share(fly, "climb", -1, wanted.climb);
      read_share(fly, "yaw", -1, wanted.yaw);
      if (const auto place = fly.vec3("place", {-1e6, 1e6, "m"})) wanted.place = *place;
      const auto rotor = fly.whole("fail", {0, tuning.as<MultirotorTuning>().rotors - 1.0});
      fly.finish();
      into.add([wanted, rotor](Stage& stage, ActorId index) {
        Actor& actor = stage.actor(index);
        actor.as<MultirotorControls>().fly = wanted;
        if (rotor) actor.as<Multirotor>().fail(*rotor);
      });
    }
    read_hit_cue(cue, into, 0, 0);
  }
  HeldInput held(const Actor& actor) const override {
    const MultirotorIntent& fly = actor.as<MultirotorControls>().fly;
    return {fly.ahead, fly.right, 0, fly.climb};
  }
  PageForm page() const override { return PageForm::parts; }
  std::vector<GaugeInfo> gauges() const override { return {std::begin(rotor_gauges), std::end(rotor_gauges)}; }
  PartSheet parts() const override {
    return {"rotors", {{"thrust_n"}, {"speed_share"}, {"failed"}}, {{"thrust N", thrust_n, 1}}};
  }
  std::size_t part_count(const Actor& actor) const override {
    return static_cast<std::size_t>(actor.as<Multirotor>().rotors());
  }
  void add_parts(const Actor& actor, std::vector<double>& values) const override {
    const Multirotor& craft = actor.as<Multirotor>();
    for (std::size_t i = 0; i < part_count(actor); ++i)
      values.insert(values.end(), {craft.state().thrust[i], craft.state().speed[i],
                                   (craft.state().failed >> i & 1u) != 0 ? 1.0 : 0.0});
  }
  void draw(const Stage& stage, const Actor& actor, Picture& picture) const override {
    const Multirotor& craft = actor.as<Multirotor>();
    const Quat body = stage.world.pose(craft.body()).orientation;
    const Vec3 centre = stage.world.centre_of_mass(craft.body());
    for (int i = 0; i < craft.rotors(); ++i) {
      const RotorTuning& r = craft.rotor(i);
      const Vec3 hub = centre + rotate(body, r.place), axis = rotate(body, r.direction);
      picture.add(Cylinder{r.radius, 0.05 * r.radius}, {hub, rotation(turn_between({0, 1, 0}, axis, {1, 0, 0}))});
      draw_part_force(stage, craft.body(), hub, axis * craft.state().thrust[static_cast<std::size_t>(i)], picture);
    }
  }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    MultirotorMeasuring m{trace, gauges};
    m.rotors();
    m.losses();
  }

 private:
  void check_it(const MultirotorTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const MultirotorTuning& tuning) const override { return tuning.speed_limit; }
};

}  // namespace

std::shared_ptr<const LabKind> multirotor_lab_kind() { return std::make_shared<MultirotorLabKind>(); }

}  // namespace jugend
