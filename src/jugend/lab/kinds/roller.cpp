// Balls to roll in the lab.
#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/stage/kinds/roller.hpp>

namespace jugend {
namespace {

class RollerLabKind final : public LabKindWithoutParts<RollerTuning> {
 public:
  std::string_view name() const override { return RollerKind::name; }
  const Tunables& tunables() const override { return roller_tunables(); }
  Stands stands() const override { return Stands::on_a_ball; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_roller(stage, at.name, tuning.as<RollerTuning>(), at.body);
  }
  std::vector<std::string> cue_keys() const override { return {"run", "press", "hold_s", "hit"}; }
  void read_cue(TableReader& cue, const ActorTuning& tuning, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      actor.as<RollerControls>().intent.move = {ahead, 0, right};
    });
    read_press_cue(cue, into, {"jump"},
                   [](Actor& actor, std::size_t) -> PressLatch& { return actor.as<RollerControls>().jump; });
    const double radius = tuning.as<RollerTuning>().radius;
    read_hit_cue(cue, into, radius, 2 * radius);
  }
  HeldInput held(const Actor& actor) const override {
    const Vec3& move = actor.as<RollerControls>().intent.move;
    return {move.x, move.z, 0, 0};
  }
  PageForm page() const override { return PageForm::path; }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    measure_starts_and_stops(trace, gauges);
  }
  std::vector<GaugeInfo> gauges() const override { return gauges_on_foot(); }

 private:
  void check_it(const RollerTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const RollerTuning& tuning) const override { return tuning.top_speed; }
  Silhouette silhouette_of(const RollerTuning& tuning, ActorMode) const override {
    return {tuning.radius, 2 * tuning.radius};
  }
};

}  // namespace

std::shared_ptr<const LabKind> roller_lab_kind() { return std::make_shared<RollerLabKind>(); }

}  // namespace jugend
