// Contacts between all shapes, fast things, seams, one-way bodies, filters and events.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <map>

#include "../support/any_value.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

CompoundRef tee() {
  return std::make_shared<Compound>(
      std::vector<Compound::Part>{{Box{{0.4, 0.1, 0.2}}, {{0, 0.25, 0}, {}}}, {Box{{0.1, 0.2, 0.2}}, {}}});
}
HullRef wedge() {
  const std::vector<Vec3> points{{-0.3, -0.2, -0.3}, {0.3, -0.2, -0.3}, {-0.3, -0.2, 0.3},
                                 {0.3, -0.2, 0.3},   {-0.3, 0.3, -0.3}, {-0.3, 0.3, 0.3}};
  return std::make_shared<Hull>(points);
}
std::vector<Shape> solid_shapes() {
  return {Sphere{0.25}, Capsule{0.15, 0.2}, Box{{0.3, 0.2, 0.25}}, Cylinder{0.25, 0.2}, wedge(), tee()};
}

TEST(Contact, EveryShapeComesToRestOnEveryGround) {
  std::vector<double> heights;
  for (int i = 0; i < 30 * 30; ++i) heights.push_back(0.0);
  const std::vector<std::pair<Shape, Pose>> grounds{
      {Box{{10, 1, 10}}, {{0, -1, 0}, {}}},
      {Cylinder{8, 1}, {{0, -1, 0}, {}}},
      {std::make_shared<Mesh>(bumpy_mesh(20, 1.0, 0.0)), {{-10, 0, -10}, {}}},
      {std::make_shared<HeightField>(30, 30, 0.7, heights), {{-10, 0, -10}, {}}},
      {std::make_shared<TileGrid>("####################\n", 1.0, 20.0), {{-10, -1, 0}, {}}},
      {std::make_shared<Compound>(
           std::vector<Compound::Part>{{Box{{5, 1, 10}}, {{-5, -1, 0}, {}}}, {Box{{5, 1, 10}}, {{5, -1, 0}, {}}}}),
       {}}};
  for (std::size_t g_index = 0; g_index < grounds.size(); ++g_index) {
    for (std::size_t s = 0; s < solid_shapes().size(); ++s) {
      Yard yard;
      const BodyId ground = yard.world.add({.shape = grounds[g_index].first, .pose = grounds[g_index].second});
      const BodyId body = yard.world.add({.shape = solid_shapes()[s],
                                          .pose = {{0.13, 1, 0.21}, rotation({0.3, 0.2, 0.4})},
                                          .kind = BodyKind::dynamic,
                                          .surface = {.rolling_resistance = 0.03}});
      yard.run(6, 60);
      EXPECT_LT(norm(yard.world.velocity(body)), 0.02) << g_index << " " << s;
      EXPECT_NEAR(yard.pressed(ground, body), yard.world.mass(body) * g, 0.02 * yard.world.mass(body) * g)
          << g_index << " " << s;
      const Bounds box = bounds(yard.world.shape(body), yard.world.pose(body));
      EXPECT_NEAR(box.low.y, 0, 2e-3) << g_index << " " << s;
    }
  }
}

TEST(Contact, ShapesOfAllPairsPushOneAnotherAwayFromOverlap) {
  const std::vector<Shape> shapes = solid_shapes();
  for (std::size_t i = 0; i < shapes.size(); ++i) {
    for (std::size_t j = 0; j < shapes.size(); ++j) {
      Yard yard;
      yard.world.set_gravity({});
      Random random(static_cast<std::uint32_t>(7 * i + j));
      const Quat turn = rotation(random.direction());
      const BodyId a = yard.world.add({.shape = shapes[i], .kind = BodyKind::dynamic, .mass = 5, .can_sleep = false});
      const BodyId b = yard.world.add({.shape = shapes[j],
                                       .pose = {{0.2, 0.1, 0.05}, turn},
                                       .kind = BodyKind::dynamic,
                                       .mass = 8,
                                       .can_sleep = false});
      yard.run(2, 60);
      const Vec3 momentum = yard.centre_velocity(a) * 5 + yard.centre_velocity(b) * 8;
      EXPECT_LT(norm(momentum), 1e-9);
      EXPECT_LT(norm(yard.world.velocity(a)), 3) << "pushed apart gently";
      double deepest = 0;
      yard.world.visit_contacts([&](const ContactFacts& c) {
        for (const auto& p : c.points) deepest = std::max(deepest, -p.separation);
      });
      EXPECT_LT(deepest, 0.01) << i << " " << j;
    }
  }
}

TEST(Contact, NoBumpsOverSeams) {
  // Across abutting boxes, flat meshes, height fields and tiles a thing slides as over one slab.
  const auto floors = [](int kind, World& world) {
    const Surface smooth{.friction = 0};
    if (kind == 0) {
      for (int i = 0; i < 60; ++i)
        world.add({.shape = Box{{0.5, 1, 4}}, .pose = {{i - 5.0, -1, 0}, {}}, .surface = smooth});
    } else if (kind == 1) {
      world.add({.shape = std::make_shared<Mesh>(bumpy_mesh(80, 0.7, 0.0)),
                 .pose = {{-6, 0, -28.3}, rotation({0, 0.0, 0})},
                 .surface = smooth});
    } else if (kind == 2) {
      world.add({.shape = std::make_shared<HeightField>(90, 20, 0.7, std::vector<double>(1800, 0.0)),
                 .pose = {{-6, 0, -7.2}, {}},
                 .surface = smooth});
    } else {
      std::string map(60, '#');
      map += '\n';
      for (int i = 0; i < 60; ++i) map += i % 2 ? '#' : '.';
      world.add(
          {.shape = std::make_shared<TileGrid>(map + "\n", 1.0, 8.0), .pose = {{-6, -2, 0}, {}}, .surface = smooth});
    }
  };
  for (int kind = 0; kind < 4; ++kind) {
    for (const Shape& shape :
         {Shape(Box{{0.3, 0.2, 0.25}}), Shape(Sphere{0.2}), Shape(Capsule{0.2, 0.2}), Shape(Cylinder{0.3, 0.2})}) {
      Yard yard;
      floors(kind, yard.world);
      const bool lying = std::holds_alternative<Capsule>(shape);
      const BodyId body =
          yard.world.add({.shape = shape,
                          .pose = {{0, 0.2, 0.03}, lying ? rotation({0, 0, 1.5707963267948966}) : Quat{}},
                          .kind = BodyKind::dynamic,
                          .velocity = {6, 0, 0},
                          .surface = {.friction = 0}});
      double highest = 0;
      yard.run(5, 60, [&] { highest = std::max(highest, std::abs(yard.world.pose(body).position.y - 0.2)); });
      EXPECT_NEAR(yard.world.velocity(body).x, 6, 0.01) << kind << " " << shape.index();
      EXPECT_NEAR(yard.world.pose(body).position.x, 30, 0.05) << kind << " " << shape.index();
      EXPECT_LT(highest, 2e-3) << kind << " " << shape.index();
    }
  }
}

TEST(Contact, NothingTunnels) {
  // A ball of 5 cm at 400 m/s against a wall of 1 cm, and against a board of 2 cm that swings at it.
  for (const double hz : {30.0, 60.0, 240.0}) {
    for (int i = 0; i < 40; ++i) {
      Yard yard;
      yard.world.set_gravity({});
      const double e = 0.5 * (i % 3);
      yard.world.add({.shape = Box{{0.005, 2, 2}}});
      const Vec3 at{-3 - 0.37 * i, 0.02 * i - 0.4, 0.1};
      const BodyId ball = yard.world.add({.shape = Sphere{0.025},
                                          .pose = {at, {}},
                                          .kind = BodyKind::dynamic,
                                          .velocity = {400, 0, 0},
                                          .surface = {.restitution = e}});
      yard.run(0.2, hz);
      EXPECT_LT(yard.world.pose(ball).position.x, -0.02) << i;
      EXPECT_NEAR(yard.world.velocity(ball).x, -400 * e, 1) << i;
    }
    for (int i = 0; i < 40; ++i) {
      Yard yard;
      yard.world.set_gravity({});
      // A door of 1 m on a hinge at its end: its tip goes at 20 m/s.
      const double start = -0.9 + 0.01 * i;
      const BodyId board = yard.world.add({.shape = Box{{0.01, 1, 0.5}}, .kind = BodyKind::kinematic});
      const BodyId ball = yard.world.add(
          {.shape = Sphere{0.025}, .pose = {{-2.5, 0.3, 0}, {}}, .kind = BodyKind::dynamic, .velocity = {400, 0, 0}});
      yard.world.place(board, {{}, rotation({0, 0, start})});
      yard.world.set_motion(board, {}, {0, 0, 20});
      yard.run(0.25, hz);
      // It keeps what goes along the board; all that went through is gone.
      EXPECT_LT(yard.world.velocity(ball).x, 350) << i;
    }
  }
}

TEST(Contact, OneWayBodiesLetPassFromBelowAndHoldFromAbove) {
  Random random(77);
  const std::vector<Shape> shapes = solid_shapes();
  int landed = 0;
  for (int trial = 0; trial < scenes_of(1000); ++trial) {
    Yard yard;
    yard.floor();
    const double amplitude = random.uniform(0, 0.6), pace = random.uniform(0, 4), phase = random.uniform(0, 6.28);
    const double side_speed = random.uniform(-1, 1), turning = random.uniform(-0.1, 0.1), jump = random.uniform(9, 22);
    const Shape& shape = shapes[static_cast<std::size_t>(trial) % shapes.size()];
    const double deck = 3;
    const auto deck_at = [&](double t) { return deck + amplitude * std::sin(pace * t + phase); };
    const BodyId barge = yard.world.add({.shape = Box{{6, 0.1, 4}},
                                         .pose = {{0, deck_at(0), 0}, {}},
                                         .kind = BodyKind::kinematic,
                                         .surface = {.friction = 0.9},
                                         .one_way = Vec3{0, 1, 0}});
    const BodyId jumper = yard.world.add({.shape = shape,
                                          .pose = {{0, 0.8, 0}, {}},
                                          .kind = BodyKind::dynamic,
                                          .velocity = {0, jump, 0},
                                          .surface = {.rolling_resistance = 0.05},
                                          .locks = lock::turn,
                                          .can_sleep = false});
    const double hz = 60;
    bool above = false, fell = false, was_above = false;
    double t = 0, twitch = 0;
    for (int tick = 0; tick < 240; ++tick) {
      yard.world.set_motion(barge, {side_speed * std::cos(t), (deck_at(t + 1 / hz) - deck_at(t)) * hz, 0},
                            {0, turning, 0});
      const Vec3 before = yard.world.velocity(jumper);
      yard.world.step(1 / hz);
      t += 1 / hz;
      const Bounds box = bounds(yard.world.shape(jumper), yard.world.pose(jumper));
      const double clear = box.low.y - (yard.world.pose(barge).position.y + 0.1);
      above = clear > -5e-3;
      if (above && clear > 1e-3) was_above = true;
      fell |= was_above && clear < -0.02;
      // On the way up nothing but gravity acts: no twitch.
      if (before.y > 0 && !was_above)
        twitch = std::max(twitch, std::abs(yard.world.velocity(jumper).y - before.y + g / hz));
    }
    EXPECT_FALSE(fell) << trial;
    EXPECT_LT(twitch, 1e-6) << trial;
    const bool reached = 0.8 - 0.4 + jump * jump / (2 * g) > deck + amplitude + 0.6;
    if (reached) {
      EXPECT_TRUE(above) << trial;
      ++landed;
    }
  }
  EXPECT_GT(landed, 0.6 * scenes_of(1000));
}

TEST(Contact, LayersGroupsAndTheRuleOfPairsKeepBodiesApart) {
  const auto falls_through = [](const std::function<void(BodyPlan&, BodyPlan&, World&)>& change) {
    World world;
    BodyPlan floor{.shape = Box{{5, 1, 5}}, .pose = {{0, -1, 0}, {}}};
    BodyPlan ball{.shape = Sphere{0.3}, .pose = {{0, 1, 0}, {}}, .kind = BodyKind::dynamic};
    change(floor, ball, world);
    const BodyId id = (world.add(floor), world.add(ball));
    for (int i = 0; i < 120; ++i) world.step(1.0 / 60);
    return world.pose(id).position.y < -1;
  };
  EXPECT_FALSE(falls_through([](BodyPlan&, BodyPlan&, World&) {}));
  EXPECT_TRUE(falls_through([](BodyPlan& floor, BodyPlan& ball, World&) { floor.layers = 2, ball.meets = 1; }));
  EXPECT_TRUE(falls_through([](BodyPlan& floor, BodyPlan& ball, World&) { ball.layers = 4, floor.meets = 3; }));
  EXPECT_TRUE(falls_through([](BodyPlan& floor, BodyPlan& ball, World& world) {
    floor.group = ball.group = 9;
    world.set_group(9, {});
  }));
  EXPECT_FALSE(falls_through([](BodyPlan& floor, BodyPlan& ball, World& world) {
    floor.group = ball.group = 9;
    world.set_group(9, {.collide = true});
  }));
  EXPECT_TRUE(falls_through(
      [](BodyPlan&, BodyPlan&, World& world) { world.set_pair_rule([](BodyId, BodyId) { return false; }); }));
}

TEST(Contact, EventsTellBeginStayEndAndSensors) {
  Yard yard;
  const BodyId floor = yard.floor();
  const BodyId gate = yard.world.add({.shape = Box{{0.5, 0.3, 0.5}}, .pose = {{0, 2, 0}, {}}, .sensor = true});
  const BodyId ball = yard.world.add({.shape = Sphere{0.2},
                                      .pose = {{0, 4, 0}, {}},
                                      .kind = BodyKind::dynamic,
                                      .surface = {.restitution = 0.5},
                                      .reports = true});
  std::map<ContactKind, int> heard;
  double first_speed = 0, stay_impulse = 0, now = 0, entered = 0, left = 0;
  yard.run(6, 60, [&] {
    now += 1.0 / 60;
    for (const ContactEvent& e : yard.world.events()) {
      ++heard[e.kind];
      const bool right = (e.a == ball || e.b == ball) && (e.a == floor || e.b == floor || e.a == gate || e.b == gate);
      EXPECT_TRUE(right);
      if (e.kind == ContactKind::met && first_speed == 0) first_speed = e.speed;
      if (e.kind == ContactKind::lasts) stay_impulse = e.impulse;
      if (e.kind == ContactKind::came_in && entered == 0) entered = now;
      if (e.kind == ContactKind::went_out && left == 0) left = now;
      if (e.kind == ContactKind::met) {
        EXPECT_NEAR(std::abs(e.normal.y), 1, 1e-6);
        EXPECT_NEAR(e.point.y, 0, 0.01);
      }
    }
  });
  EXPECT_NEAR(entered, std::sqrt(2 * (4 - 2.5) / g), 0.02);
  EXPECT_NEAR(left, std::sqrt(2 * (4 - 1.5) / g), 0.02);
  EXPECT_NEAR(first_speed, std::sqrt(2 * g * 3.8), 0.02 * first_speed);
  EXPECT_GE(heard[ContactKind::met], 3);
  EXPECT_EQ(heard[ContactKind::came_in], heard[ContactKind::went_out]);
  EXPECT_NEAR(stay_impulse, yard.world.mass(ball) * g / 60, 0.02 * yard.world.mass(ball) * g / 60);
}

TEST(Contact, BeltsCarryAndSurfacesCombineByTheirRules) {
  Yard yard;
  yard.floor({.friction = 0.5, .belt = {1.5, 0, 0}});
  const BodyId box = yard.crate({0, 0.3, 0});
  yard.run(4, 60);
  EXPECT_NEAR(yard.world.velocity(box).x, 1.5, 1e-3);
  EXPECT_FALSE(yard.world.asleep(box));
  EXPECT_DOUBLE_EQ(combined(0.4, 0.9, Mixing::mean, Mixing::mean), 0.6);
  EXPECT_EQ(combined(0.4, 0.9, Mixing::least, Mixing::mean), 0.4);
  EXPECT_EQ(combined(0.4, 0.9, Mixing::product, Mixing::least), 0.4);
  EXPECT_EQ(combined(0.4, 0.9, Mixing::product, Mixing::most), 0.4 * 0.9);
  EXPECT_EQ(combined(0.4, 0.9, Mixing::mean, Mixing::most), 0.9);
}

TEST(Contact, RollingAndSpinningResistanceStopABallAndATop) {
  Yard yard;
  yard.floor();
  const BodyId ball = yard.ball({0, 0.25, 0}, 0.25, {.rolling_resistance = 0.01});
  yard.world.set_motion(ball, {3, 0, 0}, {0, 0, -12});
  const BodyId top = yard.ball({4, 0.25, 0}, 0.25, {.spinning_resistance = 0.01});
  yard.world.set_motion(top, {}, {0, 20, 0});
  yard.run(1, 60);
  // Rolling: m a = F, I α = c N - F r → a = c g / (r (1 + 2/5)).
  EXPECT_NEAR(yard.world.velocity(ball).x, 3 - 0.01 * g / (0.25 * 1.4), 0.02);
  EXPECT_NEAR(yard.world.spin(top).y, 20 - 0.01 * g / (0.4 * 0.0625), 0.1);
}

}  // namespace
}  // namespace jugend::testing
