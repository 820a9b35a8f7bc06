// Walkers in the lab, on either body.
#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/lab/level.hpp>
#include <jugend/stage/kinds/walker.hpp>

namespace jugend {
namespace {

/// What both bodies share: `Tuning` is or begins with a WalkerTuning.
template <class Tuning>
class AnyWalkerLabKind : public LabKindWithoutParts<Tuning> {
 public:
  LabKind::Stands stands() const override { return LabKind::Stands::on_its_feet; }
  std::vector<std::string> cue_keys() const override { return {"run", "press", "hold_s", "aim", "hit"}; }
  void read_cue(TableReader& cue, const ActorTuning& tuning, CueList& into) const override {
    read_run_cue(cue, into, [](Actor& actor, double ahead, double right) {
      actor.as<WalkerControls>().intent.move = {ahead, 0, right};
    });
    read_press_cue(cue, into, key_names(), [](Actor& actor, std::size_t key) -> PressLatch& {
      auto& c = actor.as<WalkerControls>();
      PressLatch* latches[] = {&c.jump, &c.dash, &c.launch, &c.crouch};
      return *latches[key];
    });
    if (const auto aim = cue.vec3("aim", {-1e6, 1e6})) {
      into.add([aim = *aim](Stage& stage, ActorId actor) { stage.actor(actor).as<WalkerControls>().intent.aim = aim; });
    }
    const auto& body = walker(tuning.as<Tuning>()).body;
    read_hit_cue(cue, into, body.radius, body.height);
  }
  HeldInput held(const Actor& actor) const override {
    const Vec3& move = actor.as<WalkerControls>().intent.move;
    return {move.x, move.z, 0, 0};
  }
  PageForm page() const override { return PageForm::path; }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    measure_starts_and_stops(trace, gauges);
  }
  std::vector<GaugeInfo> gauges() const override { return gauges_on_foot(); }

 protected:
  virtual const WalkerTuning& walker(const Tuning& tuning) const = 0;
  double top_speed_of(const Tuning& tuning) const override { return walker(tuning).run.top_speed; }
  Silhouette silhouette_of(const Tuning& tuning, ActorMode mode) const override {
    return {walker(tuning).body.radius, walker(tuning).height(mode == ActorMode::crouching)};
  }
  static void prepare(WalkerBrain& walker) {
    walker.dangers = level_layer::danger;
    walker.stompable = level_layer::stompable;
  }
};

class WalkerLabKind final : public AnyWalkerLabKind<WalkerTuning> {
 public:
  std::string_view name() const override { return WalkerKind::name; }
  const Tunables& tunables() const override { return walker_tunables(); }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    Walker walker(tuning.as<WalkerTuning>(), at.start, at.facing);
    prepare(walker);
    if (at.velocity) walker.add_velocity(*at.velocity);
    return stage.add(at.name, std::move(walker));
  }

 private:
  const WalkerTuning& walker(const WalkerTuning& tuning) const override { return tuning; }
  void check_it(const WalkerTuning& tuning) const override { jugend::check(tuning); }
};

class ForcedWalkerLabKind final : public AnyWalkerLabKind<ForcedTuning> {
 public:
  std::string_view name() const override { return ForcedWalkerKind::name; }
  const Tunables& tunables() const override { return forced_tunables(); }
  bool reads_files_of(std::string_view other) const override { return other == name() || other == WalkerKind::name; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    const auto& t = tuning.as<ForcedTuning>();
    const ActorId index = add_forced(stage, at.name, t.walker, t.legs, at.start, at.facing);
    auto& walker = stage.actor(index).as<ForcedWalker>();
    prepare(walker);
    if (at.velocity) walker.add_velocity(*at.velocity);
    return index;
  }

 private:
  const WalkerTuning& walker(const ForcedTuning& tuning) const override { return tuning.walker; }
  void check_it(const ForcedTuning& tuning) const override {
    jugend::check(tuning.walker);
    jugend::check(tuning.legs, tuning.walker);
  }
};

}  // namespace

std::shared_ptr<const LabKind> walker_lab_kind() { return std::make_shared<WalkerLabKind>(); }
std::shared_ptr<const LabKind> forced_walker_lab_kind() { return std::make_shared<ForcedWalkerLabKind>(); }

}  // namespace jugend
