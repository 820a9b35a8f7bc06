// What several kinds read, draw and measure alike.
#include <cmath>
#include <jugend/lab/kinds/kinds.hpp>

namespace jugend {

void read_share(TableReader& table, const char* key, double low, double& value) {
  if (const auto found = table.number(key, {low, 1})) value = *found;
}

void read_run_cue(TableReader& cue, CueList& into, std::function<void(Actor&, double, double)> set) {
  const auto run = cue.numbers("run", 2, {-1, 1});
  if (!run) return;
  into.add([set = std::move(set), ahead = (*run)[0], right = (*run)[1]](Stage& stage, ActorId actor) {
    set(stage.actor(actor), ahead, right);
  });
}

void read_press_cue(TableReader& cue, CueList& into, const std::vector<std::string>& names,
                    std::function<PressLatch&(Actor&, std::size_t)> latch) {
  const auto press = cue.text("press");
  if (!press) {
    if (cue.find("hold_s")) cue.refuse("hold_s", "a hold without a press", "press = \"jump\" beside it");
    return;
  }
  const std::size_t key = cue.choice("press", *press, names);
  const double hold = cue.number("hold_s", {0, 3600, "s"}).value_or(0.1);
  const auto act = [latch, key](void (*with)(PressLatch&)) {
    return [latch, key, with](Stage& stage, ActorId actor) { with(latch(stage.actor(actor), key)); };
  };
  if (hold <= 0) return into.add(act([](PressLatch& l) { l.tap(); }));
  into.add(act([](PressLatch& l) { l.set(true); }));
  into.add(act([](PressLatch& l) { l.set(false); }), hold);
}

void read_hit_cue(TableReader& cue, CueList& into, double radius, double height) {
  const DocValue* hit = cue.table("hit");
  if (hit == nullptr) return;
  TableReader blow(*hit, cue.file(), cue.path_of("hit."));
  HitBy by;
  by.away = blow.required("away", blow.vec3("away", {-1e6, 1e6}), "the direction of the throw");
  by.distance = blow.number("distance", {0, 1000, "m"}).value_or(0);
  by.impulse = blow.number("impulse", {0, 1e6, "N s"}).value_or(0);
  if (by.distance > 0 && by.impulse > 0) blow.refuse("impulse", "a distance beside it", "one of the two");
  blow.finish();
  into.add([by, radius, height](Stage& stage, ActorId actor) {
    HitBy placed = by;
    const ActorFacts facts = stage.facts(actor);
    placed.at = facts.position + facts.up * (0.5 * height) - normalised(by.away) * radius;
    stage.actor(actor).hit(placed, stage.world);
  });
}

void draw_part_force(const Stage& stage, BodyId body, const Vec3& at, const Vec3& force, Picture& picture) {
  const World& world = stage.world;
  const double weight = world.mass(body) * norm(world.gravity(world.centre_of_mass(body)));
  if (weight > 0) picture.add_force(at, force * (4 / weight));
}

double level_speed(const TraceRow& row) { return std::hypot(row.velocity.x, row.velocity.z); }

}  // namespace jugend
