// Forces told of contacts are means of the whole tick: with gravity's they are what changed the momentum.
#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "../support/random.hpp"
#include "../support/watched.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {12, 20, 30, 45, 60, 144, 240};

Shape any_shape(Random& random) {
  const double a = random.uniform(0.1, 0.4), b = random.uniform(0.1, 0.4), c = random.uniform(0.1, 0.4);
  const Shape shapes[] = {Sphere{a}, Box{{a, b, c}}, Capsule{a, b}, Cylinder{a, b}};
  return shapes[random.below(4)];
}

struct Heap : Yard {
  std::vector<BodyId> all;
  double e;
  explicit Heap(Random& random) : e(random.below(3) * 0.4) {
    const bool mesh = random.below(2) == 0;
    const Surface surface{.friction = random.uniform(0, 1), .restitution = e};
    if (mesh) {
      world.add(
          {.shape = std::make_shared<Mesh>(bumpy_mesh(12, 1, 0.3)), .pose = {{-6, -0.3, -6}, {}}, .surface = surface});
    } else {
      floor(surface);
    }
    const auto count = 1 + random.below(6);
    for (std::uint32_t i = 0; i < count; ++i) {
      const Shape shape = any_shape(random);
      const Vec3 turn = random.direction(), velocity = random.point(3);
      const double x = random.uniform(-0.5, 0.5), z = random.uniform(-0.5, 0.5), y = 0.8 + 0.9 * i;
      all.push_back(world.add({.shape = shape,
                               .pose = {{x, y, z}, rotation(turn)},
                               .kind = BodyKind::dynamic,
                               .velocity = velocity,
                               .surface = surface,
                               .reports = true,
                               .can_sleep = false}));
    }
  }
};

/// m/s by which a tick changed a body's velocity beyond what gravity and the told forces account for, at most.
double unaccounted(Yard& yard, const std::vector<BodyId>& bodies, double dt, double seconds) {
  World& world = yard.world;
  const auto velocity = [&](BodyId id) { return yard.centre_velocity(id); };
  double worst = 0;
  for (double time = 0; time < seconds; time += dt) {
    std::vector<Vec3> expected;
    for (const BodyId id : bodies) expected.push_back(velocity(id) + Vec3{0, -g, 0} * dt);
    world.step(dt);
    world.visit_contacts([&](const ContactFacts& c) {
      for (std::size_t k = 0; k < bodies.size(); ++k) {
        const double sign = c.a == bodies[k] ? 1 : c.b == bodies[k] ? -1 : 0;
        for (const auto& p : c.points)
          expected[k] += (c.normal * p.force + p.friction) * (sign * dt / world.mass(bodies[k]));
      }
    });
    for (std::size_t k = 0; k < bodies.size(); ++k) worst = std::max(worst, norm(velocity(bodies[k]) - expected[k]));
  }
  return worst;
}

TEST(ToldForce, OfContactsIsWhatChangedTheMomentum) {
  Random random(61);
  for (int i = 0; i < unless_watched(40, 7); ++i) {
    const double hz = any_rate[random.below(7)];
    Heap heap(random);
    EXPECT_LT(unaccounted(heap, heap.all, 1 / hz, 3), 1e-7) << i << " at " << hz << " e " << heap.e;
  }
}

/// Bodies that begin in one another and in the walls of a room too narrow: what is taken back is not told.
TEST(ToldForce, OfWedgedBodiesToo) {
  Random random(66);
  for (int i = 0; i < unless_watched(40, 7); ++i) {
    const double hz = any_rate[random.below(7)], room = random.uniform(0.2, 0.5);
    const double e = std::max(0.0, random.uniform(-1, 1));
    Yard yard;
    yard.floor({.restitution = e});
    for (const double side : {-1.0, 1.0}) {
      yard.world.add({.shape = Box{{1, 3, 9}}, .pose = {{side * (room + 1), 1, 0}, {}}, .surface = {.restitution = e}});
      yard.world.add({.shape = Box{{9, 3, 1}}, .pose = {{0, 1, side * (room + 1)}, {}}});
    }
    std::vector<BodyId> bodies;
    for (std::uint32_t k = 0, n = 1 + random.below(5); k < n; ++k) {
      BodyPlan plan{.shape = any_shape(random), .pose = random.pose(room), .kind = BodyKind::dynamic};
      plan.pose.position.y += room, plan.mass = std::exp(random.uniform(0, 6)), plan.can_sleep = false;
      plan.surface.restitution = e;
      bodies.push_back(yard.world.add(plan));
    }
    EXPECT_LT(unaccounted(yard, bodies, 1 / hz, 2), 1e-6) << i << " at " << hz << " e " << e;
  }
}

/// Each pair's events of a tick: one impulse, the same that its contacts tell, and none twice.
TEST(ToldForce, EventsTellTheImpulseOfTheirTick) {
  Random random(62);
  for (int i = 0; i < scenes_of(25); ++i) {
    const double hz = any_rate[random.below(7)];
    Heap heap(random);
    const World& world = heap.world;
    heap.run(3, hz, [&] {
      std::map<std::pair<std::uint32_t, std::uint32_t>, double> told, events;
      std::map<std::pair<std::uint32_t, std::uint32_t>, int> lasts;
      world.visit_contacts([&](const ContactFacts& c) {
        for (const auto& p : c.points) told[{c.a.index, c.b.index}] += p.force / hz;
      });
      for (const ContactEvent& e : world.events()) {
        events[{e.a.index, e.b.index}] += e.impulse;
        lasts[{e.a.index, e.b.index}] += e.kind == ContactKind::lasts;
      }
      for (const auto& [pair, impulse] : events) {
        EXPECT_LE(lasts[pair], 1);
        EXPECT_LE(told[pair], 1.5 * impulse + 1e-9) << i << " at " << hz;  // their normals may turn
      }
      for (const auto& [pair, impulse] : told)
        EXPECT_TRUE(impulse < 1e-9 || events.contains(pair)) << i << " at " << hz;
    });
  }
}

TEST(ToldForce, AHitsImpulseIsWhatItTookAndGaveBack) {
  Random random(63);
  for (int i = 0; i < 100; ++i) {
    const double hz = any_rate[random.below(7)], e = random.below(3) * 0.5, speed = random.uniform(1, 12);
    Yard yard;
    yard.world.set_gravity({});
    yard.floor({.restitution = e});
    const BodyId ball = yard.ball({0, 0.25 + random.uniform(0.01, 2), 0}, 0.25, {.restitution = e});
    yard.world.set_motion(ball, {0, -speed, 0}, {});
    double impulse = 0;
    yard.run(3, hz, [&] {
      for (const ContactEvent& event : yard.world.events()) impulse += event.impulse;
    });
    EXPECT_NEAR(impulse, yard.world.mass(ball) * speed * (1 + e), 1e-3 * impulse) << i << " at " << hz;
  }
}

}  // namespace
}  // namespace jugend::testing
