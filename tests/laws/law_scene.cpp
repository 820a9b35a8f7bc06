#include "law_scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "../support/yard.hpp"

namespace jugend::laws {

const char* name_of(Cast cast) {
  static constexpr const char* names[] = {"walker",     "forced", "roller",  "led_body", "vehicle",
                                          "multirotor", "bodies", "tracked", "boat"};
  return names[static_cast<int>(cast)];
}
const char* name_of(Floor floor) {
  static constexpr const char* names[] = {"box", "slabs", "mesh", "heights", "tiles"};
  return names[static_cast<int>(floor)];
}

LawScene draw_scene(Cast cast, std::uint32_t seed, bool things) {
  Random random(seed * 7919 + static_cast<std::uint32_t>(cast));
  LawScene scene;
  scene.cast = cast, scene.seed = seed, scene.clings = seed % 2 == 0;
  scene.height = cast == Cast::multirotor ? 4 : random.below(3) == 0 ? random.uniform(0, 1.5) : 0;
  scene.duration = 0.1 * (20 + random.below(15));
  for (double at = 0.6; at < scene.duration - 0.2; at += 0.1 * (2 + random.below(6))) {
    const double angle = random.uniform(0, 6.28), far = random.below(4) == 0 ? 0 : random.uniform(0.4, 1);
    LawInput input{at, far * std::cos(angle), far * std::sin(angle)};
    input.jump = random.below(3) == 0, input.dash = random.below(6) == 0, input.launch = random.below(10) == 0;
    scene.inputs.push_back(input);
  }
  if (things) {
    for (int i = 0; i < 5; ++i) {
      const double tall = random.below(2) == 0 ? random.uniform(0.03, 0.25) : random.uniform(0.5, 3);
      const Vec3 half{random.uniform(0.3, 2), 0.5 * tall, random.uniform(0.3, 2)};
      const double far = random.uniform(3, 9), round = random.uniform(0, 6.28), angle = random.uniform(0, 3);
      scene.things.push_back({{far * std::cos(round), half.y, far * std::sin(round)}, half, angle});
    }
  }
  if (cast == Cast::bodies) {
    for (int i = 0; i < 4; ++i) {
      const double half = random.uniform(0.15, 0.4), x = random.uniform(-1, 1), z = random.uniform(-1, 1);
      scene.crates.push_back({{x, half + 1.2 * i, z}, {half, half, half}, random.uniform(0, 3)});
    }
  }
  return scene;
}

std::string LawScene::as_level() const {
  std::string text = "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [120, 2, 120]\nposition = [0, -1, 0]\n";
  const auto add = [&](const LawBox& b, const char* kind, int i) {
    text += fmt::format(
        "[[body]]\nname = \"{}_{}\"\nkind = \"{}\"\nshape = \"box\"\nsize = [{}, {}, {}]\nposition = "
        "[{}, {}, {}]\nturn_deg = [0, {}, 0]\n",
        kind, i, kind, 2 * b.half.x, 2 * b.half.y, 2 * b.half.z, b.centre.x, b.centre.y, b.centre.z,
        b.angle / radians_per_degree);
  };
  for (std::size_t i = 0; i < things.size(); ++i) add(things[i], "static", static_cast<int>(i));
  for (std::size_t i = 0; i < crates.size(); ++i) add(crates[i], "dynamic", static_cast<int>(i));
  return text;
}

std::string LawScene::as_trial() const {
  std::string text = fmt::format("title = \"{} seed {}\"\nlevel = \"law.level.toml\"\nduration_s = {}\n", name_of(cast),
                                 seed, duration);
  if (cast == Cast::walker || cast == Cast::forced)
    text += fmt::format(
        "[[actor]]\nname = \"one\"\nkind = \"{0}\"\nstart = [0, {1}, 0]\nset = {{ jump = {{ air_jumps = 1, "
        "tap_height = 0.4 }}, dash = {{ charges = 2 }}, launch = {{ charges = 1 }}, wall = {{ on = {2} }}, ledge = {{ "
        "on = {2} }} }}\n",
        name_of(cast), height, clings);
  for (const LawInput& i : inputs) {
    text += fmt::format("[[cue]]\nat_s = {}\nrun = [{}, {}]\n", i.at, i.ahead, i.right);
    for (const auto& [pressed, key] : {std::pair{i.jump, "jump"}, {i.dash, "dash"}, {i.launch, "launch"}})
      if (pressed) text += fmt::format("[[cue]]\nat_s = {}\npress = \"{}\"\nhold_s = 0.1\n", i.at, key);
  }
  return text;
}

namespace {

/// From the scene's own frame into the world's.
struct Frame {
  const Staging& s;
  Vec3 to(const Vec3& p) const { return rotate(s.turn, Vec3{p.x, p.y, s.mirrored ? -p.z : p.z} * s.scale) + s.shift; }
  Vec3 way(const Vec3& v) const { return rotate(s.turn, Vec3{v.x, v.y, s.mirrored ? -v.z : v.z}); }
  Vec3 back(const Vec3& p, double time) const {
    const Vec3 local = rotate(conjugate(s.turn), p - s.shift - way(s.deck) * time) / s.scale;
    return {local.x, local.y, s.mirrored ? -local.z : local.z};
  }
  Quat turned(double angle) const { return s.turn * rotation({0, s.mirrored ? -angle : angle, 0}); }
};

/// How often a unit is divided by seconds.
int per_seconds(std::string_view unit) {
  for (const std::string_view once : {"m/s", "Hz", "1/s", "deg/s", "rad/s", "1/min", "N s/m"})
    if (unit == once) return 1;
  for (const std::string_view twice : {"m/s2", "deg/s2", "N", "N/m", "N m", "Nm"})
    if (unit == twice) return 2;
  return unit == "s" ? -1 : 0;
}

template <class Tuning>
Tuning tuned(const Tuning& drawn, const Staging& how) {
  Tuning t = in_units(drawn, how.scale);
  for (const BoundTunable& b : all_tunables(TunablesOf<Tuning>::list(), &t))
    b.tunable->set(b.in, b.tunable->get(b.in) / std::pow(how.slowed, per_seconds(b.tunable->unit)));
  return t;
}

ForcedTuning walker_tuning(const Staging& how, bool clings) {
  ForcedTuning t;
  t.walker.wall.on = t.walker.ledge.on = clings;
  t.walker.jump.air_jumps = 1, t.walker.jump.tap_height = 0.4;
  t.walker.dash.charge.charges = 2, t.walker.launch.charge.charges = 1;
  return tuned(t, how);
}

struct Player {
  const LawScene& scene;
  const Staging& how;
  Frame frame{how};
  Stage stage{};
  BodyId body{};

  void add_floor() {
    BodyPlan plan;
    plan.kind = how.deck == Vec3{} ? BodyKind::fixed : BodyKind::kinematic;
    plan.velocity = frame.way(how.deck);
    const auto put = [&](const Shape& shape, const Vec3& at) {
      plan.shape = shape, plan.pose = {frame.to(at), how.turn};
      stage.world.add(plan);
    };
    const double k = how.scale;
    switch (scene.floor) {
      case Floor::box: return put(Box{{60 * k, k, 60 * k}}, {0, -1, 0});
      case Floor::slabs:
        for (int x = -8; x < 8; ++x) put(Box{{1.5 * k, k, 60 * k}}, {3.0 * x + 0.7, -1, 0});
        return;
      case Floor::mesh: {
        std::vector<Vec3> points;
        std::vector<std::array<std::uint32_t, 3>> triangles;
        constexpr std::uint32_t n = 24;
        for (std::uint32_t i = 0; i <= n; ++i)
          for (std::uint32_t j = 0; j <= n; ++j) points.push_back(Vec3{i * 2.0 - 24 + 0.3, 0, j * 2.0 - 24 + 0.6} * k);
        for (std::uint32_t i = 0; i < n; ++i) {
          for (std::uint32_t j = 0; j < n; ++j) {
            const std::uint32_t a = i * (n + 1) + j, b = a + 1, c = a + n + 1, d = c + 1;
            triangles.push_back({a, b, c}), triangles.push_back({b, d, c});
          }
        }
        return put(std::make_shared<Mesh>(MeshData{points, triangles}), {0, 0, 0});
      }
      case Floor::heights:
        return put(std::make_shared<HeightField>(31, 31, 1.7 * k, std::vector<double>(31 * 31, 0.0)), {-25, 0, -25});
      case Floor::tiles: {
        std::string map;
        for (int i = 0; i < 50; ++i) map += '#';
        return put(std::make_shared<TileGrid>(map + "\n", k, 50.0 * k), {-24.6, -1, 0});
      }
    }
  }

  void add_boxes() {
    const double k = how.scale;
    BodyPlan plan;
    plan.kind = how.deck == Vec3{} ? BodyKind::fixed : BodyKind::kinematic;
    plan.velocity = frame.way(how.deck);
    auto things = scene.things;
    things.insert(things.end(), how.beside.begin(), how.beside.end());
    for (const LawBox& b : things) {
      plan.shape = Box{b.half * k}, plan.pose = {frame.to(b.centre), frame.turned(b.angle)};
      stage.world.add(plan);
    }
    plan.kind = BodyKind::dynamic;
    for (const LawBox& b : scene.crates) {
      plan.shape = Box{b.half * k}, plan.pose = {frame.to(b.centre), frame.turned(b.angle)};
      plan.mass = 8000 * b.half.x * b.half.y * b.half.z;
      const BodyId made = stage.world.add(plan);
      if (!body) body = made;
    }
  }

  Box box(const Vec3& half) const { return {half * how.scale}; }

  BodyId add_body(const Shape& shape, double high, double mass, double friction) {
    BodyPlan plan;
    plan.shape = shape, plan.kind = BodyKind::dynamic, plan.mass = mass;
    plan.surface.friction = friction;
    plan.pose = {frame.to(Vec3{0, high, 0} + how.nudge), how.turn};
    plan.velocity = frame.way(how.deck);
    plan.can_sleep = false;
    return body = stage.world.add(plan);
  }

  /// On its springs, as it rests: nothing settles while it waits.
  void stand(const Vehicle& vehicle) {
    stage.world.place(body,
                      {frame.to(Vec3{0, scene.height + vehicle.ride_height() / how.scale, 0} + how.nudge), how.turn});
  }

  void add_actor() {
    const Vec3 ahead = frame.way({1, 0, 0});
    switch (scene.cast) {
      case Cast::walker: {
        Walker walker(walker_tuning(how, scene.clings).walker, frame.to(Vec3{0, scene.height, 0} + how.nudge), ahead);
        if (scene.height > 0) {  // falling with the deck, and with what it would have kept of that
          WalkerState state = walker.state();
          state.velocity = state.carried = frame.way(how.deck);
          state.placed = false, state.up = frame.way({0, 1, 0});
          walker.restore(state);
        }
        stage.add("one", std::move(walker));
        break;
      }
      case Cast::forced: {
        const ForcedTuning tuning = walker_tuning(how, scene.clings);
        add_forced(stage, "one", tuning.walker, tuning.legs, frame.to(Vec3{0, scene.height, 0} + how.nudge), ahead);
        auto& walker = stage.actor(stage.nth(0)).as<ForcedWalker>();
        stage.world.set_motion(walker.body(), frame.way(how.deck), {});
        WalkerState state = walker.state();
        state.velocity = state.carried = frame.way(how.deck), state.knock = {};
        walker.restore(state);
        break;
      }
      case Cast::roller:
        add_roller(stage, "one", tuned(RollerTuning{}, how),
                   add_body(Sphere{0.4 * how.scale}, scene.height + 0.4, 25, 1));
        break;
      case Cast::led_body:
        add_led_body(stage, "one", tuned(LedBodyTuning{}, how),
                     add_body(box({0.6, 0.25, 0.3}), scene.height + 0.25, 80, 0));
        break;
      case Cast::vehicle: {
        VehicleTuning airless;  // the air stands still whatever moves
        airless.air.drag = 0;
        const ActorId one = add_vehicle(stage, "one", tuned(airless, how),
                                        add_body(box({1.2, 0.25, 0.5}), scene.height + 0.55, 420, 0.5));
        stand(stage.actor(one).as<Vehicle>());
        break;
      }
      case Cast::tracked: {
        TrackedTuning airless;
        airless.drag = 0;
        const ActorId one = add_tracked_vehicle(stage, "one", tuned(airless, how),
                                                add_body(box({1.4, 0.22, 0.7}), scene.height + 0.46, 2000, 0.5));
        stand(stage.actor(one).as<TrackedVehicle>().wheels());
        break;
      }
      case Cast::boat: {
        const double deep = 3;
        stage.world.add_pool({.half_extents = Vec3{60, 0.5 * deep, 60} * how.scale,
                              .pose = {frame.to({0, 0.5 * deep, 0}), how.turn},
                              .density = 1000 / (how.scale * how.scale * how.scale),
                              .flow = frame.way(how.deck)});
        add_boat(stage, "one", tuned(BoatTuning{}, how),
                 add_body(box({2.5, 0.45, 1}), deep + scene.height + 0.1, 3500, 0.5));
        break;
      }
      case Cast::multirotor:
        add_multirotor(stage, "one", tuned(MultirotorTuning{}, how),
                       add_body(box({0.2, 0.05, 0.2}), scene.height, 2, 0.5));
        break;
      case Cast::bodies: break;
    }
  }

  void apply(const LawInput& i) {
    if (stage.actors() == 0) return;
    Actor& actor = stage.actor(stage.nth(0));
    const Vec3 way = frame.way({i.ahead, 0, i.right});
    const double side = how.mirrored ? -i.right : i.right;
    if (auto* c = actor.find<WalkerControls>()) {
      c->intent.move = way;
      c->jump.set(false);
      if (i.jump) c->jump.set(true);
      if (i.dash) c->dash.tap();
      if (i.launch) c->launch.tap();
    }
    if (auto* c = actor.find<RollerControls>()) {
      c->intent.move = way;
      if (i.jump) c->jump.tap();
    }
    if (auto* c = actor.find<LedBodyControls>())
      c->intent = {way, 4 * how.scale / how.slowed * std::hypot(i.ahead, i.right)};
    if (auto* c = actor.find<VehicleControls>()) c->drive.throttle = i.ahead, c->drive.steer = 0.3 * side;
    if (auto* c = actor.find<TrackedControls>()) c->drive.throttle = i.ahead, c->drive.steer = side;
    if (auto* c = actor.find<BoatControls>()) c->helm = {i.ahead, side};
    if (auto* c = actor.find<MultirotorControls>()) c->fly.ahead = i.ahead, c->fly.right = side;
  }

  Vec3 place() const {
    if (stage.actors() > 0) return stage.facts(stage.nth(0)).position;
    return stage.world.pose(body).position;
  }

  Played run() {
    if (how.scale != 1) stage.world.set_length_scale(how.scale);
    stage.world.set_gravity(rotate(how.turn, {0, -9.80665 * how.scale / (how.slowed * how.slowed), 0}));
    if (how.company) {
      for (int i = 0; i < 7; ++i)
        stage.world.add(
            {.shape = Box{{1, 1, 1}}, .pose = {{400.0 + 9 * i, 0.5, -300}, {}}, .kind = BodyKind::kinematic});
    }
    add_floor();
    add_boxes();
    add_actor();
    Played played;
    const double dt = how.slowed / how.hz;
    std::size_t next = 0;
    const int ticks = static_cast<int>(std::ceil((scene.duration + how.delay) * how.hz - 1e-6));
    StageSnapshot saved;
    std::size_t saved_next = 0;
    double sample = 0;
    for (int tick = 0, replays = 0; tick < ticks; ++tick) {
      const double now = tick / how.hz;  // in the scene's own seconds
      for (; next < scene.inputs.size() && scene.inputs[next].at + how.delay <= now + 1e-9; ++next)
        apply(scene.inputs[next]);
      for (; sample <= now - how.delay + 1e-9; sample += 0.1)
        played.path.push_back(frame.back(place(), now * how.slowed));
      stage.tick(dt);
      if (stage.actors() > 0) {
        for (const ActorEvent& e : stage.actor(stage.nth(0)).heard()) {
          // What is lifted by a hair over an edge is no jump.
          if (e.kind == WalkerEventKind::apex && e.value > 0.05 * how.scale) played.tops.push_back(e.value / how.scale);
          played.landings += e.kind == WalkerEventKind::landed;
        }
      }
      if (tick == how.save_at && replays++ == 0) {
        stage.save(saved), saved_next = next;
      } else if (tick == how.save_at + 9 && replays++ == 1) {  // back to then, and once more
        stage.restore(saved), next = saved_next;
        tick = how.save_at;
      }
    }
    played.end = frame.back(place(), ticks * dt);
    played.finite = is_finite(played.end);
    played.hash = stage.hash();
    return played;
  }
};

}  // namespace

Played play(const LawScene& scene, const Staging& staging) { return Player{scene, staging}.run(); }

}  // namespace jugend::laws
