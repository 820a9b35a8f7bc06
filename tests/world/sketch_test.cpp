// What a world shows of itself, to sketches, queries and those who draw.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/world/sketch.hpp>

#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

struct Counting : Sketch {
  int bodies = 0, asleep = 0, joints = 0;
  Vec3 carried;
  bool boxes_hold = true;
  void body(const DrawnBody& b) override {
    ++bodies, asleep += b.asleep;
    boxes_hold &= b.bounds.grown(1e-9).contains(bounds(b.shape, b.pose));
  }
  void contact(const DrawnContact& c) override { carried += c.force; }
  void joint(const DrawnJoint& j) override {
    ++joints;
    EXPECT_LT(norm(j.at_a - j.at_b), 1e-3);
    EXPECT_NEAR(j.force.y, 1, 0.01) << "it carries the weight";
  }
};

TEST(Sketch, ShowsBodiesForcesByWeightAndJoints) {
  for (const double mass : {0.5, 22.0, 3000.0}) {
    Yard yard;
    yard.floor();
    yard.crate({0, 0.3, 0}, mass);
    yard.world.add(JointPlan{.kind = JointKind::ball, .a = yard.crate({5, 3, 0}, mass), .at = {5, 4, 0}});
    yard.run(0.4, 60);
    Counting sketch;
    draw(yard.world, sketch);
    EXPECT_EQ(sketch.bodies, 3);
    EXPECT_EQ(sketch.joints, 1);
    EXPECT_TRUE(sketch.boxes_hold);
    EXPECT_NEAR(sketch.carried.y, 1, 0.01) << "one weight, whatever the mass: " << mass;
    yard.run(3, 60);
    Counting later;
    draw(yard.world, later);
    EXPECT_GE(later.asleep, 1);
  }
}

TEST(Sketch, QueriesSeeOneWayBodiesFromTheirOpenSideAlone) {
  World world;
  const BodyId deck =
      world.add({.shape = Box{{3, 0.1, 3}}, .pose = {{0, 2, 0}, rotation({0, 0, 0.3})}, .one_way = Vec3{0, 1, 0}});
  const Vec3 up = rotate(world.pose(deck).orientation, {0, 1, 0}), at = world.pose(deck).position;
  EXPECT_TRUE(world.cast({at + up * 2.0, -up, 5}, {}));
  EXPECT_FALSE(world.cast({at - up * 2.0, up, 5}, {}));
  const auto swept = [&](const Vec3& from, const Vec3& way) {
    const PlacedConvex ball(Sphere{0.3}, Pose{from, {}});
    return world.sweep(ball.view(), way, {}).has_value();
  };
  EXPECT_TRUE(swept(at + up, up * -2.0));
  EXPECT_FALSE(swept(at - up, up * 2.0));
  EXPECT_FALSE(swept(at, up * -2.0)) << "on its way through";
  const PlacedConvex inside(Sphere{0.3}, Pose{at, {}}), above(Sphere{0.3}, Pose{at + up * 0.401, {}});
  std::array<Overlap, 4> out;
  EXPECT_EQ(world.overlaps(inside.view(), 0.01, out, {}), 0u);
  EXPECT_EQ(world.overlaps(above.view(), 0.01, out, {}), 1u);
  const BodyId gate = world.add({.shape = Box{}, .pose = {{9, 0, 0}, {}}, .sensor = true});
  EXPECT_TRUE(world.alive(gate));
  EXPECT_FALSE(world.cast({{5, 0, 0}, {1, 0, 0}, 9}, {})) << "sensors stop nothing";
}

TEST(Sketch, CapsDampingMassAndFactsAreAsTold) {
  Yard yard;
  const BodyId id = yard.world.add({.shape = Box{{0.5, 0.2, 0.3}},
                                    .pose = {{0, 50, 0}, {}},
                                    .kind = BodyKind::dynamic,
                                    .spin = {0, 9, 0},
                                    .mass = 10,
                                    .centre_of_mass = Vec3{0.2, 0, 0},
                                    .speed_limit = 4,
                                    .spin_limit = 2});
  EXPECT_EQ(yard.world.centre_of_mass(id), (Vec3{0.2, 50, 0}));
  yard.run(2, 60);
  EXPECT_NEAR(norm(yard.centre_velocity(id)), 4, 1e-9);
  EXPECT_NEAR(norm(yard.world.spin(id)), 2, 1e-9);
  const BodyFacts facts = yard.world.facts(id);
  EXPECT_EQ(facts.mass, 10);
  EXPECT_LT(norm(facts.velocity_at(yard.world.centre_of_mass(id)) - yard.centre_velocity(id)), 1e-12);
  const Pose drawn = yard.world.drawn_pose(id, 1), before = yard.world.drawn_pose(id, 0);
  EXPECT_LT(norm(drawn.position - yard.world.pose(id).position), 1e-12);
  EXPECT_NEAR(norm(drawn.position - before.position), 4.0 / 60, 0.02);
  yard.world.set_gravity({});
  yard.world.set_motion(id, {1, 0, 0}, {});
  yard.world.set_mass(id, 40);
  yard.world.set_damping(id, 2, 0);
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.velocity(id).x, std::exp(-2.0), 1e-9);
  yard.world.set_damping(id, 0, 0);
  yard.world.force(id, {80, 0, 0});
  const double v = yard.world.velocity(id).x;
  yard.run(1, 60);
  EXPECT_NEAR(yard.world.velocity(id).x - v, 80.0 / 40 / 60, 1e-9) << "for one tick";
  yard.world.set_steady_force(id, {}, {0, 0, 3});
  yard.run(0.1, 60);
  EXPECT_LT(norm(yard.world.inertia(id) * yard.world.spin(id) - Vec3{0, 0, 0.3}), 1e-6) << "torque times time";
  EXPECT_THROW(yard.world.set_mass(id, 0), InputError);
  EXPECT_THROW(yard.world.set_damping(id, -1, 0), InputError);
  EXPECT_THROW(yard.world.set_surface(id, {.friction = -1}), InputError);
  EXPECT_THROW(yard.world.place(id, {{}, {0, 0, 0, 0}}), InputError);
}

TEST(Sketch, AWorldInPixelsBehavesAsOneInMetres) {
  // A stack and a bounce, a hundred times as large.
  Yard yard;
  yard.world.set_length_scale(100);
  yard.world.set_gravity({0, -100 * g, 0});
  yard.world.add({.shape = Box{{6000, 100, 6000}}, .pose = {{0, -100, 0}, {}}});
  std::vector<BodyId> crates;
  for (int i = 0; i < 6; ++i) crates.push_back(yard.crate({0, 30.0 + 60 * i, 0}, 22, 30));
  const BodyId ball = yard.world.add(
      {.shape = Sphere{25}, .pose = {{300, 125, 0}, {}}, .kind = BodyKind::dynamic, .surface = {.restitution = 0.8}});
  double best = 0;
  bool rising = false;
  yard.run(5, 60, [&] {
    const double v = yard.world.velocity(ball).y;
    rising |= v > 0;
    if (rising && v > 0 && best < 70) best = std::max(best, yard.world.pose(ball).position.y - 25 + v * v / (200 * g));
  });
  EXPECT_NEAR(best, 64, 0.02 * 64);
  EXPECT_NEAR(yard.world.pose(crates[5]).position.y, 330, 0.2);
  EXPECT_TRUE(yard.world.asleep(crates[5]));
}

}  // namespace
}  // namespace jugend::testing
