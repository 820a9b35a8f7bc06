// Bodies led by heading and speed in the lab.
#include <fmt/format.h>

#include <algorithm>
#include <jugend/base/text.hpp>
#include <jugend/lab/kinds/kinds.hpp>
#include <jugend/motion/guidance/drivers.hpp>
#include <jugend/stage/kinds/led_body.hpp>

namespace jugend {
namespace {

class LedBodyLabKind final : public LabKindWithoutParts<LedBodyTuning> {
 public:
  std::string_view name() const override { return LedBodyKind::name; }
  const Tunables& tunables() const override { return led_body_tunables(); }
  Stands stands() const override { return Stands::on_a_body; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return add_led_body(stage, at.name, tuning.as<LedBodyTuning>(), at.body);
  }
  std::vector<std::string> cue_keys() const override { return {"run", "lead", "hit"}; }
  void read_cue(TableReader& cue, const ActorTuning& tuning, CueList& into) const override {
    // run: where to, and by its length how much of top speed.
    const double top = tuning.as<LedBodyTuning>().top_speed;
    read_run_cue(cue, into, [top](Actor& actor, double ahead, double right) {
      const Vec3 direction{ahead, 0, right};
      actor.as<LedBodyControls>().intent = {direction, top * std::min(1.0, norm(direction))};
    });
    if (const DocValue* table = cue.table("lead")) {
      TableReader lead(*table, cue.file(), cue.path_of("lead."));
      LedBodyIntent intent;
      intent.heading = lead.vec3("heading", {-1, 1}).value_or(Vec3{});
      intent.speed = lead.required("speed", lead.number("speed", {-1000, 1000, "m/s"}), "a speed; negative: backwards");
      lead.finish();
      into.add([intent](Stage& stage, ActorId actor) { stage.actor(actor).as<LedBodyControls>().intent = intent; });
    }
    read_hit_cue(cue, into, 0, 0);
  }
  CueAct follow(Path route, double speed) const override {
    return [route = std::move(route), driver = PathDriver{.speed = speed}](Stage& stage, ActorId index) mutable {
      Actor& actor = stage.actor(index);
      const ActorFacts f = stage.facts(index);
      driver.look_ahead = std::max(2.0, 0.7 * norm(f.velocity));
      const double slow_down = actor.as<LedBody>().tuning().slow_down;
      actor.as<LedBodyControls>().intent = driver.drive({f.position, f.velocity, f.facing, f.up}, route, slow_down);
    };
  }
  HeldInput held(const Actor& actor) const override {
    const LedBodyIntent& intent = actor.as<LedBodyControls>().intent;
    const Vec3 direction =
        normalised(intent.heading) * std::min(1.0, intent.speed / actor.as<LedBody>().tuning().top_speed);
    return {direction.x, direction.z, 0, 0};
  }
  PageForm page() const override { return PageForm::top; }
  std::vector<std::string> remarks(const Stage& stage, const Actor& actor) const override {
    const LedBody& led = actor.as<LedBody>();
    const double rubs = led.state().friction, grips = led.state().firm;
    std::vector<std::string> said;
    if (grips > 0 && grips < led.tuning().speed_up)
      said.push_back(fmt::format("its ground holds no more than {:.3g} m/s2, and speed_up asks for {}: it slips", grips,
                                 as_text(led.tuning().speed_up)));
    if (rubs > led.tuning().speed_up)
      said.push_back(
          fmt::format("its body rubs by up to {:.3g} m/s2, which is made up for; less friction on '{}' spares that",
                      rubs, stage.world.name(led.body())));
    return said;
  }
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    measure_starts_and_stops(trace, gauges);
  }
  std::vector<GaugeInfo> gauges() const override { return gauges_on_foot(); }

 private:
  void check_it(const LedBodyTuning& tuning) const override { jugend::check(tuning); }
  double top_speed_of(const LedBodyTuning& tuning) const override { return tuning.top_speed; }
};

}  // namespace

std::shared_ptr<const LabKind> led_body_lab_kind() { return std::make_shared<LedBodyLabKind>(); }

}  // namespace jugend
