// Actors in a world that is not the library's: the same figures, saved and restored, and faults of a host in words.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <jugend/motion/port/two_kicks.hpp>
#include <jugend/stage/conformance.hpp>

#include "../../examples/own_physics.hpp"
#include "../support/troupe.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

/// A quay in the example's own physics, as add_quay() makes it in the library's.
void add_own_quay(OwnPhysics& physics) {
  physics.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  physics.add_water(0, {-200, 0, 400});
}

ActorId add_part(HostedStage& stage, OwnPhysics& physics, Part part, std::string name, const Pose& pose) {
  const Vec3 facing = rotate(pose.orientation, {1, 0, 0});
  if (part == Part::walker) return stage.add(std::move(name), Walker(troupe_walker(), pose.position, facing));
  OwnPhysics::Plan plan;
  if (part == Part::forced) {
    const WalkerTuning tuning = troupe_walker();
    const Figure figure = figure_of(tuning, {});
    plan.shape = Capsule{tuning.body.radius, figure.half_length}, plan.mass = tuning.body.mass;
    plan.pose = {pose.position + Vec3{0, figure.middle, 0}, {}};
    plan.surface.friction = 0, plan.layers = walker_layer::forced;
    return stage.add(std::move(name), ForcedWalker(tuning, {}, physics.add(plan), facing));
  }
  const BodyPlan there = body_of(part, pose);
  plan.shape = there.shape, plan.mass = there.mass, plan.pose = there.pose, plan.surface = there.surface;
  if (part == Part::led_body) plan.free_turns = {0, 1, 0};
  const BodyId body = physics.add(plan);
  switch (part) {
    case Part::roller: return stage.add(std::move(name), Roller(RollerTuning{.radius = 0.5}, body));
    case Part::led_body: return stage.add(std::move(name), LedBody({}, body));
    case Part::vehicle: return stage.add(std::move(name), Vehicle({}, body, physics));
    case Part::tracked: return stage.add(std::move(name), TrackedVehicle({}, body, physics));
    case Part::multirotor: return stage.add(std::move(name), Multirotor({}, body, physics));
    default: return stage.add(std::move(name), Boat({}, body, physics));
  }
}

struct Figures {
  Vec3 way;
  double highest = -1e9, fastest = 0;
  std::size_t heard = 0;
};

/// Twelve seconds of keys that are held for two each, the same for every stage.
template <class AnyStage>
Figures figures_of(AnyStage& stage, ActorId id, std::uint32_t seed) {
  Figures figures;
  Random random(seed);
  for (int i = 0; i < 60; ++i) stage.tick(1.0 / 60);
  const Vec3 start = stage.facts(id).position;
  for (int i = 0; i < 720; ++i) {
    if (i % 120 == 0) drive(stage.actor(id), random);
    stage.tick(1.0 / 60);
    const ActorFacts facts = stage.facts(id);
    figures.highest = std::max(figures.highest, facts.position.y);
    figures.fastest = std::max(figures.fastest, norm(facts.velocity));
    figures.heard += stage.actor(id).heard().size();
  }
  figures.way = stage.facts(id).position - start;
  return figures;
}

TEST(Hosted, EveryKindGivesTheFiguresOfTheLibrarysWorld) {
  for (const Part part : all_parts) {
    for (std::uint32_t seed = 1; seed <= unless_watched(6u, 1u); ++seed) {
      Stage own;
      add_quay(own.world);
      const Pose at = stance(part, {0, 0, 0});
      const Figures ours = figures_of(own, add_part(own, part, "actor", at), seed);
      OwnPhysics physics;
      add_own_quay(physics);
      HostedStage hosted(physics);
      const Figures theirs = figures_of(hosted, add_part(hosted, physics, part, "actor", at), seed);
      const double scale = std::max(1.0, norm(ours.way));
      EXPECT_LT(norm(ours.way - theirs.way), 0.01 * scale) << static_cast<int>(part) << " seed " << seed;
      EXPECT_NEAR(ours.highest, theirs.highest, 0.01 * std::max(1.0, std::abs(ours.highest)))
          << static_cast<int>(part) << " seed " << seed;
      EXPECT_NEAR(ours.fastest, theirs.fastest, 0.01 * std::max(1.0, ours.fastest))
          << static_cast<int>(part) << " seed " << seed;
      EXPECT_EQ(ours.heard, theirs.heard) << static_cast<int>(part) << " seed " << seed;
    }
  }
}

/// All kinds at once: latches, events, hash, snapshots, bytes, rails, pauses, tunings, drawing.
struct Show {
  OwnPhysics physics;
  HostedStage stage{physics};
  BodyId ferry;
  std::vector<ActorId> all;

  Show() {
    add_own_quay(physics);
    ferry = physics.add({.shape = Box{{3, 0.2, 3}}, .pose = {{0, 0.1, -20}, {}}});
    RailMotionTuning rails;
    rails.speed = 2;
    const std::vector<Vec3> way{{0, 0.1, -20}, {15, 0.1, -20}};
    stage.add_rail(ferry, RailMotion(Path(way), rails));
    int i = 0;
    for (const Part part : all_parts)
      all.push_back(add_part(stage, physics, part, "actor_" + std::to_string(i++), stance(part, {6.0 * i, 0, 0})));
    all.push_back(stage.add("rider", Walker(troupe_walker(), {0, 0.3, -20})));
  }
  void play(std::uint32_t seed, int ticks) {
    Random random(seed);
    for (int i = 0; i < ticks; ++i) {
      for (std::size_t k = 0; k + 1 < all.size(); ++k) {
        if (Actor* actor = stage.find(all[k])) drive(*actor, random);
      }
      if (i == 20) stage.pause(all[4]);
      if (i == 50) stage.pause(all[4], false);
      stage.tick(1.0 / 60);
    }
  }
};

TEST(Hosted, ShowsAreRolledBackAndReadFromBytesToTheSameBits) {
  for (std::uint32_t seed = 1; seed <= 4; ++seed) {
    Show show;
    show.play(seed, 40 + static_cast<int>(seed) * 5);
    StageSnapshot then;
    show.stage.save(then);
    const std::vector<std::byte> bytes = show.stage.to_bytes();
    const std::uint64_t now = show.stage.hash();
    show.play(seed + 50, 90);
    const std::uint64_t later = show.stage.hash();
    EXPECT_NE(now, later);
    WalkerTuning higher = troupe_walker();
    higher.jump.height = 3;
    show.stage.set_tuning(show.all[0], higher);
    show.stage.remove(show.all[5]);
    show.stage.restore(then);
    EXPECT_EQ(show.stage.hash(), now);
    show.play(seed + 50, 90);
    EXPECT_EQ(show.stage.hash(), later);

    Show joined;  // another process would be no different
    joined.stage.restore(joined.stage.from_bytes(bytes));
    EXPECT_EQ(joined.stage.hash(), now);
    joined.play(seed + 50, 90);
    EXPECT_EQ(joined.stage.hash(), later);
    std::vector<std::byte> changed = bytes;
    changed[changed.size() / 2] ^= std::byte{1};
    EXPECT_THROW(static_cast<void>(joined.stage.from_bytes(changed)), InputError);
  }
}

TEST(Hosted, RidersGoWithWhatIsOnRailsAndBodiesThatGoTakeTheirActors) {
  Show show;
  show.play(3, 120);
  const Vec3 rider = show.stage.facts(show.all.back()).position, ferry = show.physics.facts(show.ferry).pose.position;
  EXPECT_GT(ferry.x, 2);
  EXPECT_NEAR(norm(rider - (ferry + Vec3{0, 0.2, 0})), 0, 1e-3);
  EXPECT_NEAR(norm(show.stage.drawn_position(show.all.back(), 0.5) - rider), 0.5 * 2.0 / 60, 1e-3);
  show.physics.remove(show.stage.actor(show.all[4]).body());
  EXPECT_EQ(show.stage.find(show.all[4]), nullptr);
  show.stage.tick(1.0 / 60);
  ASSERT_EQ(show.stage.events().size(), 1u);
  EXPECT_EQ(show.stage.events()[0].kind, StageEventKind::body_gone);
}

/// The example's physics with threads of its own.
class Threaded final : public OwnPhysics {
 public:
  explicit Threaded(int threads) { workers_.set_threads(threads); }
  const Workers& workers() const override { return workers_; }

 private:
  Workers workers_;
};

TEST(Hosted, ACrowdThatShovesActsAlikeOnAnyNumberOfThreads) {
  const auto hash_on = [](int threads, std::uint32_t seed) {
    Threaded physics(threads);
    add_own_quay(physics);
    HostedStage stage(physics);
    Random random(seed);
    std::vector<ActorId> all;
    for (int i = 0; i < 24; ++i) {
      const double x = random.uniform(-4, 4);
      const double z = random.uniform(-4, 4);
      all.push_back(add_part(stage, physics, i % 6 == 0 ? Part::vehicle : Part::walker, "actor_" + std::to_string(i),
                             stance(i % 6 == 0 ? Part::vehicle : Part::walker, {i % 6 == 0 ? 20.0 + 2 * i : x, 0, z})));
    }
    for (int tick = 0; tick < 150; ++tick) {
      for (const ActorId id : all) drive(stage.actor(id), random);
      stage.tick(1.0 / 60);
    }
    return stage.hash();
  };
  for (std::uint32_t seed = 1; seed <= 3; ++seed) {
    const std::uint64_t alone = hash_on(1, seed);
    EXPECT_EQ(hash_on(2, seed), alone);
    EXPECT_EQ(hash_on(5, seed), alone);
  }
}

// Conformance

HostTrial trial_of(OwnPhysics& physics, Host& host) {
  return {host,
          [&](const Sphere& s, const Pose& p, double m) { return physics.add({.shape = s, .pose = p, .mass = m}); },
          [&](const Box& b, const Pose& p, double m) { return physics.add({.shape = b, .pose = p, .mass = m}); }};
}

std::string all_of(const std::vector<std::string>& sentences) {
  std::string text;
  for (const std::string& s : sentences) text += s + "\n";
  return text;
}

TEST(Conformance, TheLibrarysWorldAndTheExamplesHaveNoFault) {
  for (const double hz : {30.0, 60.0, 144.0}) {
    World world;
    const auto add = [&](const auto& shape, const Pose& pose, double mass) {
      const BodyKind kind = mass > 0 ? BodyKind::dynamic : BodyKind::fixed;
      return world.add({.shape = shape, .pose = pose, .kind = kind, .mass = mass});
    };
    EXPECT_EQ(all_of(faults_of({world, add, add, 1 / hz})), "");
    OwnPhysics physics;
    HostTrial trial = trial_of(physics, physics);
    trial.dt = 1 / hz;
    EXPECT_EQ(all_of(faults_of(trial)), "");
  }
}

/// The example's physics with one answer or deed that is not as it should be.
class Broken final : public Host {
 public:
  explicit Broken(OwnPhysics& physics) : its(physics) {}
  OwnPhysics& its;
  std::function<std::optional<Hit>(const Ray&, const Filter&)> casts;
  std::function<std::optional<Hit>(const Convex&, const Vec3&, const Filter&)> sweeps;
  std::function<std::size_t(std::size_t, std::span<Overlap>)> overlapped;
  std::function<BodyFacts(BodyFacts)> told;
  std::function<void(BodyId, const Vec3&, const Vec3&)> pushes, forces;
  std::function<void(BodyId, bool)> holds;
  std::function<void(double)> steps;
  std::function<bool(BodyId)> removes, lives;
  std::function<void(std::span<const std::byte>)> brings_back;

  std::optional<Hit> cast(const Ray& ray, const Filter& f) const override {
    return casts ? casts(ray, f) : its.cast(ray, f);
  }
  std::optional<Hit> sweep(const Convex& m, const Vec3& way, const Filter& f) const override {
    return sweeps ? sweeps(m, way, f) : its.sweep(m, way, f);
  }
  std::size_t overlaps(const Convex& b, double margin, std::span<Overlap> out, const Filter& f) const override {
    const std::size_t found = its.overlaps(b, margin, out, f);
    return overlapped ? overlapped(found, out) : found;
  }
  BodyFacts facts(BodyId id) const override { return told ? told(its.facts(id)) : its.facts(id); }
  Vec3 gravity(const Vec3& at) const override { return its.gravity(at); }
  void push(BodyId id, const Vec3& i, const Vec3& at) override { pushes ? pushes(id, i, at) : its.push(id, i, at); }
  void twist(BodyId id, const Vec3& i) override { its.twist(id, i); }
  void force(BodyId id, const Vec3& f, const Vec3& at) override { forces ? forces(id, f, at) : its.force(id, f, at); }
  void torque(BodyId id, const Vec3& t) override { its.torque(id, t); }
  bool alive(BodyId id) const override { return lives ? lives(id) : its.alive(id); }
  bool remove(BodyId id) override { return removes ? removes(id) : its.remove(id); }
  void place(BodyId id, const Pose& p) override { its.place(id, p); }
  void set_motion(BodyId id, const Vec3& v, const Vec3& w) override { its.set_motion(id, v, w); }
  void hold(BodyId id, bool h) override { holds ? holds(id, h) : its.hold(id, h); }
  bool held(BodyId id) const override { return its.held(id); }
  void step(double dt) override { steps ? steps(dt) : its.step(dt); }
  std::vector<std::byte> saved() const override { return its.saved(); }
  void bring_back(std::span<const std::byte> s) override { brings_back ? brings_back(s) : its.bring_back(s); }
};

using Kept = std::shared_ptr<std::vector<std::pair<BodyId, Vec3>>>;
Kept record_forces(Broken& b) {
  Kept given = std::make_shared<std::vector<std::pair<BodyId, Vec3>>>();
  b.forces = [&b, given](BodyId id, const Vec3& force, const Vec3& at) {
    given->emplace_back(id, force);
    b.its.force(id, force, at);
  };
  return given;
}

TEST(Conformance, EachThingThatIsWrongIsToldInWords) {
  struct Fault {
    const char* says;
    std::function<void(Broken&)> breaks;
  };
  const Fault faults[] = {
      {"facts: mass of a ball",
       [](Broken& b) {
         b.told = [](BodyFacts f) {
           f.mass *= 1000;
           return f;
         };
       }},
      {"facts: inverse inertia",
       [](Broken& b) {
         b.told = [](BodyFacts f) {
           f.inverse_inertia = inverse(f.inverse_inertia);
           return f;
         };
       }},
      {"facts: velocity after set_motion",
       [](Broken& b) {
         b.told = [](BodyFacts f) {
           f.velocity = f.velocity * 100;
           return f;
         };
       }},
      {"does not count as moving",
       [](Broken& b) {
         b.told = [](BodyFacts f) {
           f.moving = false;
           return f;
         };
       }},
      {"normal, of unit length and towards the asker",
       [](Broken& b) {
         b.casts = [&b](const Ray& r, const Filter& f) {
           auto h = b.its.cast(r, f);
           if (h) h->normal = -h->normal;
           return h;
         };
       }},
      {"cast: distance",
       [](Broken& b) {
         b.casts = [&b](const Ray& r, const Filter& f) {
           auto h = b.its.cast(r, f);
           if (h) h->distance /= r.length;
           return h;
         };
       }},
      {"`self` of the filter",
       [](Broken& b) {
         b.casts = [&b](const Ray& r, Filter f) {
           f.self = {};
           return b.its.cast(r, f);
         };
       }},
      {"on none of the layers",
       [](Broken& b) {
         b.casts = [&b](const Ray& r, Filter f) {
           f.layers = ~0u;
           return b.its.cast(r, f);
         };
       }},
      {"sweep: share of a way",
       [](Broken& b) {
         b.sweeps = [&b](const Convex& m, const Vec3& w, const Filter& f) {
           auto h = b.its.sweep(m, w, f);
           if (h) h->distance *= norm(w);
           return h;
         };
       }},
      {"is stopped on its way off",
       [](Broken& b) {
         b.sweeps = [&b](const Convex& m, const Vec3& w, const Filter& f) {
           std::array<Overlap, 1> near;
           if (b.its.overlaps(m, 1e-6, near, f) > 0)
             return std::optional(Hit{0, near[0].point, near[0].normal, near[0].body});
           return b.its.sweep(m, w, f);
         };
       }},
      {"overlaps: depth",
       [](Broken& b) {
         b.overlapped = [](std::size_t n, std::span<Overlap> out) {
           for (Overlap& o : out) o.depth = -o.depth;
           return n;
         };
       }},
      {"where only one has room",
       [](Broken& b) { b.overlapped = [](std::size_t n, std::span<Overlap> out) { return std::min(n, out.size()); }; }},
      {"push: velocity of 2 kg",
       [](Broken& b) { b.pushes = [&b](BodyId id, const Vec3& i, const Vec3& at) { b.its.push(id, i * 2, at); }; }},
      {"push: spin of a ball",
       [](Broken& b) {
         b.pushes = [&b](BodyId id, const Vec3& i, const Vec3&) { b.its.push(id, i, b.its.facts(id).centre); };
       }},
      {"TwoKicks",
       [](Broken& b) {
         Kept given = record_forces(b);
         b.steps = [&b, given](double dt) {
           b.its.step(dt);
           for (BodyId id{0, 0}; id.index < 1000; ++id.index) {  // a dt²/2 too far
             const BodyFacts f = b.its.facts(id);
             if (f.mass == 0) continue;
             Vec3 a = b.its.gravity({});
             for (const auto& [whom, force] : *given) {
               if (whom == id) a += force / f.mass;
             }
             b.its.place(id, {f.pose.position + a * (0.5 * dt * dt), f.pose.orientation});
           }
           given->clear();
         };
       }},
      {"in which none was given",
       [](Broken& b) {
         Kept given = record_forces(b);
         b.steps = [&b, given](double dt) {
           b.its.step(dt);
           for (const auto& [id, force] : *given) b.its.force(id, force, b.its.facts(id).centre);
         };
       }},
      {"hold: place", [](Broken& b) { b.holds = [](BodyId, bool) {}; }},
      {"hold: velocity",
       [](Broken& b) {
         b.holds = [&b](BodyId id, bool h) {
           b.its.hold(id, h);
           b.its.set_motion(id, {}, {});
         };
       }},
      {"alive: a body that was removed", [](Broken& b) { b.lives = [](BodyId id) { return static_cast<bool>(id); }; }},
      {"remove: true for a body that is gone",
       [](Broken& b) {
         b.removes = [&b](BodyId id) {
           b.its.remove(id);
           return true;
         };
       }},
      {"bring_back: place", [](Broken& b) { b.brings_back = [](std::span<const std::byte>) {}; }},
  };
  for (const Fault& fault : faults) {
    OwnPhysics physics;
    Broken broken(physics);
    fault.breaks(broken);
    const std::string said = all_of(faults_of(trial_of(physics, broken)));
    EXPECT_NE(said.find(fault.says), std::string::npos) << "wanted: " << fault.says << "\nsaid:\n" << said;
  }
}

/// One body, moved by the velocity at each tick's end.
class Euler final : public Surroundings {
 public:
  Vec3 position{0, 1.04, 0}, velocity, kick;
  double mass = 61;
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override { return floor_.cast(ray, of(filter)); }
  std::optional<Hit> sweep(const Convex& m, const Vec3& w, const Filter& filter) const override {
    return floor_.sweep(m, w, of(filter));
  }
  std::size_t overlaps(const Convex& b, double margin, std::span<Overlap> out, const Filter& filter) const override {
    return floor_.overlaps(b, margin, out, of(filter));
  }
  BodyFacts facts(BodyId id) const override {
    if (id != body) return floor_.facts(id);
    BodyFacts f;
    f.pose.position = f.centre = position, f.velocity = velocity, f.mass = mass, f.moving = true;
    f.inverse_inertia = {0.1, 0.1, 0.1};
    return f;
  }
  Vec3 gravity(const Vec3& at) const override { return floor_.gravity(at); }
  void push(BodyId id, const Vec3& impulse, const Vec3&) override {
    if (id == body) velocity += impulse / mass;
  }
  void twist(BodyId, const Vec3&) override {}
  void force(BodyId id, const Vec3& force, const Vec3&) override {
    if (id == body) kick += force / mass;
  }
  void torque(BodyId, const Vec3&) override {}
  void step(double dt) {
    velocity += (gravity(position) + kick) * dt;
    position += velocity * dt;
    kick = {};
  }
  static constexpr BodyId body{77, 0};
  Euler() { floor_.add({.shape = Box{{50, 1, 50}}, .pose = {{0, -1, 0}, {}}}); }

 private:
  static Filter of(Filter filter) { return filter; }
  OwnPhysics floor_;
};

TEST(TwoKicks, MakeAForcedJumpAsHighOnPhysicsThatMoveByTheEndsVelocity) {
  for (const double hz : {30.0, 60.0, 120.0}) {
    const double dt = 1 / hz;
    const auto jump = [&](bool helped) {
      Euler physics;
      TwoKicks kicks(physics);
      kicks.add(Euler::body);
      Surroundings& around = helped ? static_cast<Surroundings&>(kicks) : physics;
      WalkerTuning tuning;
      tuning.jump.height = 1.2;
      ForcedWalker courier(tuning, {}, Euler::body);
      physics.position.y = courier.middle();
      double apex = 0;
      for (int i = 0; i < 3 * static_cast<int>(hz); ++i) {
        WalkerIntent intent;
        intent.jump.presses = i == static_cast<int>(hz) ? 1 : 0;
        courier.step(intent, around, dt);
        kicks.before_step(helped ? dt : 0);
        physics.step(dt);
        kicks.after_step();
        courier.settle(around, dt);
        for (const WalkerEvent& e : courier.events())
          if (e.kind == WalkerEventKind::apex) apex = e.value;
      }
      return apex;
    };
    EXPECT_NEAR(jump(true), 1.2, 0.005 * 1.2) << hz;
    EXPECT_GT(std::abs(jump(false) - 1.2), 0.01 * 1.2) << hz << ": without it there is nothing to make up for";
  }
}

}  // namespace
}  // namespace jugend::testing
