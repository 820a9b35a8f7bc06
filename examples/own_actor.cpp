// A kind of actor that the library does not know: a hovercraft on a cushion of air. It is driven on a stage, saved,
// restored and hashed, and a trial file drives, measures and draws it, all from this one file.
#include <cinttypes>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <jugend/base/smoothing.hpp>
#include <jugend/lab/document.hpp>
#include <jugend/lab/gauges.hpp>
#include <jugend/lab/kind.hpp>
#include <jugend/lab/trial.hpp>
#include <jugend/report/plot.hpp>
#include <jugend/report/run_folder.hpp>
#include <jugend/stage/kinds/driven_body.hpp>

using namespace jugend;

// In motion: tuning, intent, state, what it does in a tick.

struct HovercraftTuning {
  double hover_height = 0.45;   ///< m from the ground up to its middle
  double cushion = 1.2;         ///< Hz with which it comes back there, critically damped
  double thrust = 900;          ///< N at full throttle
  double turn_rate = 1.4;       ///< rad/s with full rudder
  double turn_half_life = 0.3;  ///< s
  double drag = 0.35;           ///< 1/s: speed falls as exp(-k t)
};

const Tunables& hovercraft_tunables() {
  using H = HovercraftTuning;
  static const Tunables list{
      number<H>(
          "cushion.height", "m", 0.05, 10, "from the ground up to its middle",
          [](auto& t) -> auto& { return t.hover_height; }),
      number<H>(
          "cushion.frequency", "Hz", 0.1, 20, "with which it comes back there",
          [](auto& t) -> auto& { return t.cushion; }),
      number<H>(
          "thrust", "N", 0, 1e6, "at full throttle", [](auto& t) -> auto& { return t.thrust; }),
      number<H>(
          "turn.rate", "rad/s", 0, 20, "with full rudder", [](auto& t) -> auto& { return t.turn_rate; }),
      number<H>(
          "turn.half_life", "s", 0, 10, "of what is missing of that rate",
          [](auto& t) -> auto& { return t.turn_half_life; }),
      number<H>(
          "drag", "1/s", 0, 100, "speed falls as exp(-k t)", [](auto& t) -> auto& { return t.drag; }),
  };
  return list;
}

struct HovercraftIntent {
  double throttle = 0;  ///< -1 to 1
  double rudder = 0;    ///< -1 left to 1 right

  static constexpr auto fields() {
    return field_list(Field{"throttle", &HovercraftIntent::throttle}, Field{"rudder", &HovercraftIntent::rudder});
  }
};

struct HovercraftState {
  double lift = 0;    ///< N of the cushion, mean of the last tick
  double height = 0;  ///< m above ground, as the last tick began
  bool on_cushion = false;

  static constexpr auto fields() {
    using S = HovercraftState;
    return field_list(Field{"lift", &S::lift}, Field{"height", &S::height}, Field{"on_cushion", &S::on_cushion});
  }
};
static_assert(all_fields_listed<HovercraftIntent> && all_fields_listed<HovercraftState>);

class Hovercraft {
 public:
  Hovercraft(const HovercraftTuning& tuning, BodyId body) : tuning_(tuning), body_(body) {
    check_ranges(hovercraft_tunables(), &tuning);
  }
  void step(const HovercraftIntent& intent, Surroundings& around, double dt) {
    const BodyFacts body = around.facts(body_);
    const Vec3 g = around.gravity(body.centre), up = normalised(-g, {0, 1, 0});
    Filter others;
    others.ignored = body_;
    const auto ground = around.cast({body.centre, -up, 2 * tuning_.hover_height}, others);
    state_.on_cushion = ground.has_value();
    state_.lift = 0;
    const Vec3 ahead = normalised(in_plane(rotate(body.pose.orientation, {1, 0, 0}), up), {1, 0, 0});
    if (ground) {
      state_.height = ground->distance;
      const double rising = dot(body.velocity - around.facts(ground->body).velocity_at(ground->point), up);
      const double change = settling(ground->distance - tuning_.hover_height, rising, tuning_.cushion, dt);
      state_.lift = std::max(0.0, body.mass * (change / dt + norm(g)));
      around.force(body_, up * state_.lift, body.centre);
    }
    around.force(body_, ahead * (intent.throttle * tuning_.thrust), body.centre);
    around.push(body_, in_plane(body.velocity, up) * (body.mass * std::expm1(-tuning_.drag * dt)), body.centre);
    // Level about both level axes, and round as the rudder says.
    const Vec3 own_up = rotate(body.pose.orientation, {0, 1, 0});
    const Vec3 level = settling(-turn_between(own_up, up), in_plane(body.spin, up), 2.0, dt);
    const double spin = dot(body.spin, up), wanted = -intent.rudder * tuning_.turn_rate;
    const double turn = smoothed(spin, wanted, tuning_.turn_half_life, dt) - spin;
    around.twist(body_, body.inertia() * (level + up * turn));
  }
  BodyId body() const { return body_; }
  const HovercraftTuning& tuning() const { return tuning_; }
  const HovercraftState& state() const { return state_; }
  void restore(const HovercraftState& state) { state_ = state; }

 private:
  HovercraftTuning tuning_;
  HovercraftState state_;
  BodyId body_;
};

// On the stage: how it is driven there, and what it tells.

struct HovercraftControls {
  HovercraftIntent sail;
  static constexpr auto fields() { return field_list(Field{"sail", &HovercraftControls::sail}); }
};

struct HovercraftKind : DrivenBodyKind {
  using Controller = Hovercraft;
  using Controls = HovercraftControls;
  static constexpr std::string_view name = "hovercraft";
  static void listen(Controls&) {}
  static void step(Hovercraft& craft, const Controls& c, Surroundings& around, double dt) {
    craft.step(c.sail, around, dt);
  }
  static ActorFacts facts(const Hovercraft& craft, const Surroundings& around) {
    ActorFacts facts = facts_of_body(craft.body(), around);
    facts.on_ground = craft.state().on_cushion;
    return facts;
  }
};
template <>
struct jugend::KindOf<Hovercraft> {
  using type = HovercraftKind;
};

// In the lab: its cue, its gauge, its parts, how it is drawn.

class HovercraftLabKind final : public LabKindWith<HovercraftTuning> {
 public:
  std::string_view name() const override { return HovercraftKind::name; }
  const Tunables& tunables() const override { return hovercraft_tunables(); }
  Stands stands() const override { return Stands::on_a_body; }
  ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const override {
    return stage.add(at.name, Hovercraft(tuning.as<HovercraftTuning>(), at.body));
  }
  std::vector<std::string> cue_keys() const override { return {"sail"}; }
  void read_cue(TableReader& cue, const ActorTuning&, CueList& into) const override {
    const auto sail = cue.numbers("sail", 2, {-1, 1});
    if (!sail) return;
    into.add([wanted = HovercraftIntent{(*sail)[0], (*sail)[1]}](Stage& stage, ActorId actor) {
      stage.actor(actor).as<HovercraftControls>().sail = wanted;
    });
  }
  HeldInput held(const Actor& actor) const override {
    const auto& sail = actor.as<HovercraftControls>().sail;
    return {sail.throttle, sail.rudder, 0, 0};
  }
  PageForm page() const override { return PageForm::parts; }
  PartSheet parts() const override { return {"cushions", {{"lift_n"}, {"height_m"}}, {{"lift N", 0, 1}}}; }
  std::size_t part_count(const Actor&) const override { return 1; }
  void add_parts(const Actor& actor, std::vector<double>& values) const override {
    const HovercraftState& state = actor.as<Hovercraft>().state();
    values.insert(values.end(), {state.lift, state.height});
  }
  void draw(const Stage&, const Actor&, Picture&) const override {}  // its body is drawn
  void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const override {
    double lowest = 1e9;
    for (std::size_t row = 1; row < trace.rows.size(); ++row) lowest = std::min(lowest, trace.part(row, 0, 1));
    gauges.push_back({"clearance_min_m", "lowest above ground", "m", lowest});
  }

 private:
  void check_it(const HovercraftTuning& tuning) const override { check_ranges(hovercraft_tunables(), &tuning); }
  double top_speed_of(const HovercraftTuning& tuning) const override { return tuning.thrust / tuning.drag / 150; }
};

constexpr const char* level_text = R"(
[[body]]
name = "slipway"
shape = "box"
size = [200, 1, 200]
position = [0, -0.5, 0]
[[body]]
name = "craft"
shape = "box"
kind = "dynamic"
size = [2.4, 0.4, 1.4]
position = [0, 0.6, 0]
mass = 150
)";
constexpr const char* trial_text = R"(
title = "A hovercraft leaves the slipway"
level = "hovercraft.level.toml"
duration_s = 8
[[actor]]
name = "craft"
kind = "hovercraft"
body = "craft"
set = { cushion = { height = 0.5 } }
[[cue]]
at_s = 0.5
sail = [1, 0]
[[cue]]
at_s = 3
sail = [1, 0.6]
)";

int main() {
  // On a stage of its own: saved and restored it goes on with the same bits.
  Stage stage;
  stage.world.add({.shape = Box{{100, 0.5, 100}}, .pose = {{0, -0.5, 0}, {}}});
  const BodyId body = stage.world.add(
      {.shape = Box{{1.2, 0.2, 0.7}}, .pose = {{0, 0.6, 0}, {}}, .kind = BodyKind::dynamic, .mass = 150});
  const ActorId craft = stage.add("craft", Hovercraft({}, body));
  stage.actor(craft).as<HovercraftControls>().sail = {1, 0.3};
  const auto run = [&](int ticks) {
    for (int i = 0; i < ticks; ++i) stage.tick(1.0 / 60);
    return stage.hash();
  };
  run(60);
  StageSnapshot saved;
  stage.save(saved);
  const std::uint64_t first = run(120);
  stage.restore(saved);
  const std::uint64_t again = run(120);
  std::printf("hash after saving %016" PRIx64 ", after restoring %016" PRIx64 "\n", first, again);

  // In the lab: a trial file names it, like any kind.
  const auto folder = std::filesystem::temp_directory_path() / ("jugend-hovercraft-" + std::to_string(std::rand()));
  write_file(folder / "hovercraft.level.toml", level_text);
  write_file(folder / "hovercraft.toml", trial_text);
  LabKinds kinds = standard_kinds();
  kinds.add<HovercraftLabKind>();
  const RunRecord record = record_run(read_trial(folder / "hovercraft.toml", kinds));
  write_run(record, folder / "run");
  const RunRecord back = read_run(folder / "run", kinds);
  for (const Gauge& g : measure(back.trace.actors.front()))
    std::printf("%-28s %8.3f %s\n", g.label.c_str(), g.value, g.unit.c_str());
  plot_runs(std::span(&back, 1), folder / "hovercraft.png");
  std::printf("drawn: %s\n", (folder / "hovercraft.png").string().c_str());
  const bool flew = back.trace.actors.front().rows.back().position.x > 5;
  return first == again && flew && std::filesystem::file_size(folder / "hovercraft.png") > 1000 ? 0 : 1;
}
