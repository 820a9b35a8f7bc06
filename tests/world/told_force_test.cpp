// Forces told of contacts are means of the whole tick: with gravity's they are what changed the momentum.
#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "../support/random.hpp"
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

TEST(ToldForce, OfContactsIsWhatChangedTheMomentum) {
  Random random(61);
  for (int i = 0; i < 40; ++i) {
    const double hz = any_rate[random.below(7)], dt = 1 / hz;
    Heap heap(random);
    const World& world = heap.world;
    std::vector<Vec3> before(heap.all.size());
    for (std::size_t k = 0; k < heap.all.size(); ++k) before[k] = heap.centre_velocity(heap.all[k]);
    double worst = 0;
    heap.run(3, hz, [&] {
      for (std::size_t k = 0; k < heap.all.size(); ++k) {
        const BodyId id = heap.all[k];
        Vec3 force = Vec3{0, -g, 0} * world.mass(id);
        world.visit_contacts([&](const ContactFacts& c) {
          const double sign = c.a == id ? 1 : c.b == id ? -1 : 0;
          for (const auto& p : c.points) force += (c.normal * p.force + p.friction) * sign;
        });
        const Vec3 now = heap.centre_velocity(id);
        worst = std::max(worst, norm((now - before[k]) - force * (dt / world.mass(id))));
        before[k] = now;
      }
    });
    EXPECT_LT(worst, 1e-7) << i << " at " << hz << " e " << heap.e;
  }
}

/// Each pair's events of a tick: one impulse, the same that its contacts tell, and none twice.
TEST(ToldForce, EventsTellTheImpulseOfTheirTick) {
  Random random(62);
  for (int i = 0; i < 25; ++i) {
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
