// What passes by is left alone, what slides and rolls goes on, and what is hit is hit where it is by then.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/manifold.hpp>
#include <jugend/world/world.hpp>
#include <stdexcept>

#include "../support/any_value.hpp"
#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};

const int scenes = unless_watched(300, 30);

double log_uniform(Random& random, double low, double high) {
  return std::exp(random.uniform(std::log(low), std::log(high)));
}

/// Two slabs with a gap between them at x = 0, the further one lower by `drop`.
void add_slabs(World& world, double gap, double drop, const Surface& surface) {
  world.add({.shape = Box{{5, 1, 5}}, .pose = {{-5, -1, 0}, {}}, .surface = surface});
  world.add({.shape = Box{{30, 1, 5}}, .pose = {{30 + gap, -1 - drop, 0}, {}}, .surface = surface});
}

TEST(Passing, WhatSlidesWithoutFrictionGoesOnOverGapsAndDownSteps) {
  Random random(61);
  for (int i = 0; i < scenes / 2; ++i) {
    const double gap = log_uniform(random, 0.003, 0.1), drop = random.below(3) ? log_uniform(random, 0.001, 0.05) : 0;
    const double speed = random.uniform(1, 20), half = random.uniform(0.2, 0.6), yaw = random.uniform(0, 1.5);
    const double from = random.uniform(-2.3, -2);
    const auto speed_after = [&](double hz) {
      const Surface smooth{.friction = 0};
      World world;
      add_slabs(world, gap, drop, smooth);
      const BodyId crate = world.add({.shape = Box{{half, half, half}},
                                      .pose = {{from, half, 0}, rotation({0, yaw, 0})},
                                      .kind = BodyKind::dynamic,
                                      .velocity = {speed, 0, 0},
                                      .surface = smooth});
      for (double now = 0; now < (4 - from) / speed; now += 1 / hz) world.step(1 / hz);
      return world.velocity(crate).x;
    };
    // Sliding down a deep step it may gain some: a fine run tells how much.
    const double fine = drop > 0.002 ? speed_after(4000) : speed;
    const double hz = any_rate[random.below(4)];
    EXPECT_NEAR(speed_after(hz), fine, 0.01 * fine)
        << i << ": " << hz << " Hz, gap " << gap << " drop " << drop << " at " << speed << " half " << half;
  }
}

TEST(Passing, WhatRollsGoesOnOverGaps) {
  Random random(62);
  for (int i = 0; i < scenes; ++i) {
    const double hz = any_rate[random.below(4)], radius = random.uniform(0.15, 0.6), speed = random.uniform(1, 15);
    const double gap = log_uniform(random, 0.003, 0.03), from = -1 - random.uniform(0, speed / hz);
    const Surface rough{.friction = 0.8};
    World world;
    add_slabs(world, gap, 0, rough);
    const BodyId ball = world.add({.shape = Sphere{radius},
                                   .pose = {{from, radius, 0}, {}},
                                   .kind = BodyKind::dynamic,
                                   .velocity = {speed, 0, 0},
                                   .spin = {0, 0, -speed / radius},
                                   .surface = rough});
    double highest = 0;
    for (double now = 0; now < 3 / speed; now += 1 / hz) {
      world.step(1 / hz);
      highest = std::max(highest, world.pose(ball).position.y - radius);
    }
    EXPECT_NEAR(world.velocity(ball).x, speed, 0.01 * speed) << i << ": " << hz << " Hz, gap " << gap;
    EXPECT_LT(highest, 0.01 * radius + 2e-3) << i << ": " << hz << " Hz, gap " << gap;
  }
}

Shape draw_solid(Random& random, bool hulls) {
  const double a = random.uniform(0.1, 0.5), b = random.uniform(0.1, 0.5), c = random.uniform(0.1, 0.5);
  switch (random.below(hulls ? 5 : 4)) {
    case 0: return Sphere{a};
    case 1: return Box{{a, b, c}};
    case 2: return Capsule{a, b};
    case 3: return Cylinder{a, b};
    default: {
      std::vector<Vec3> points;
      for (int i = 0; i < 12; ++i) points.push_back(random.direction() * a);
      return std::make_shared<Hull>(points);
    }
  }
}

Shape draw_obstacle(Random& random) {
  if (random.below(3) > 0) return draw_solid(random, true);
  if (random.below(2)) return std::make_shared<HeightField>(4, 4, 0.4, std::vector<double>(16, 0.0));
  MeshData data;  // a box with its corners cut into triangles
  for (int i = 0; i < 8; ++i) data.vertices.push_back({i & 1 ? 0.4 : -0.4, i & 2 ? 0.3 : -0.3, i & 4 ? 0.5 : -0.5});
  data.triangles = {{0, 1, 3}, {0, 3, 2}, {4, 6, 7}, {4, 7, 5}, {0, 4, 5}, {0, 5, 1},
                    {2, 3, 7}, {2, 7, 6}, {0, 2, 6}, {0, 6, 4}, {1, 5, 7}, {1, 7, 3}};
  return std::make_shared<Mesh>(data);
}

/// m that `mover` at the pose is off the obstacle; far: 5.
double distance(const Shape& mover, const Pose& pose, const Shape& obstacle, const Pose& at) {
  return std::visit(
      [&](const auto& s) -> double {
        if constexpr (requires { PlacedConvex(s, pose); }) {
          const PlacedConvex convex(s, pose);
          const auto near = closest(convex.view(), 5, obstacle, at);
          return near ? near->separation.distance : 5;
        } else {
          throw std::logic_error("a mover of many parts");
        }
      },
      mover);
}

TEST(Passing, WhatDoesNotTouchChangesNothing) {
  Random random(63);
  int asked = 0;
  for (int i = 0; i < scenes; ++i) {
    const Shape mover = draw_solid(random, false), obstacle = draw_obstacle(random);
    const Quat turn = rotation(random.direction() * random.uniform(0, 3)),
               other_turn = rotation(random.direction() * random.uniform(0, 3));
    const Vec3 way = random.direction(), side = normalised(cross(way, random.direction()));
    const double hz = any_rate[random.below(4)], speed = log_uniform(random, 1, 80),
                 gap = log_uniform(random, 1e-3, 0.3);
    const bool round = std::holds_alternative<Sphere>(mover);
    const Vec3 spin = round ? random.direction() * random.uniform(0, 20) : Vec3{};
    const auto nearest = [&](double aside) {
      double least = 5, nearest_at = 0;
      const auto look = [&](double along) {
        const double d = distance(mover, {way * along + side * aside, turn}, obstacle, {{}, other_turn});
        if (d < least) least = d, nearest_at = along;
      };
      for (double along = -2; along < 2; along += 0.02) look(along);
      // Past a corner the least lies between two of these, nearer by up to half of their distance.
      for (double step = 0.01; step > 1e-5; step *= 0.5)
        for (const double from : {nearest_at - step, nearest_at + step}) look(from);
      return least;
    };
    double low = 0, high = 3;
    for (int halving = 0; halving < 14; ++halving) {
      const double middle = 0.5 * (low + high);
      (nearest(middle) < gap ? low : high) = middle;
    }
    if (nearest(high) < 0.5 * gap) continue;
    ++asked;
    World world;
    world.set_gravity({});
    const bool solid = std::holds_alternative<MeshRef>(obstacle) || std::holds_alternative<HeightFieldRef>(obstacle);
    const bool moved = !solid && random.below(2);
    world.add({.shape = obstacle, .pose = {{}, other_turn}, .kind = moved ? BodyKind::dynamic : BodyKind::fixed});
    const BodyId body = world.add({.shape = mover,
                                   .pose = {way * (-3 - random.uniform(0, speed / hz)) + side * high, turn},
                                   .kind = BodyKind::dynamic,
                                   .velocity = way * speed,
                                   .spin = spin});
    for (double now = 0; now < 6 / speed + 2 / hz; now += 1 / hz) world.step(1 / hz);
    EXPECT_LT(norm(world.velocity(body) - way * speed), 1e-9 * speed)
        << i << ": " << mover.index() << " past " << obstacle.index() << " at " << speed << ", gap " << gap << ", "
        << hz << " Hz";
  }
  EXPECT_GT(asked, scenes / 2);
}

/// Smooth elastic spheres: the struck one leaves along the line of centres at the touch, with all speed along it.
TEST(Passing, SpheresThatHitOffCentreLeaveByTheClosedForm) {
  Random random(64);
  for (int i = 0; i < scenes; ++i) {
    const double hz = any_rate[random.below(4)], speed = random.uniform(1, 20);
    const double a = random.uniform(0.1, 0.4), b = random.uniform(0.1, 0.4), offset = random.uniform(0, 0.95) * (a + b);
    const double mass_a = random.uniform(1, 9), mass_b = random.uniform(1, 9), e = random.uniform(0, 1);
    const Surface smooth{.friction = 0, .restitution = e};
    const auto ball = [&](double radius, const Vec3& at, double mass, const Vec3& velocity) {
      return BodyPlan{.shape = Sphere{radius},
                      .pose = {at, {}},
                      .kind = BodyKind::dynamic,
                      .velocity = velocity,
                      .surface = smooth,
                      .mass = mass};
    };
    World world;
    world.set_gravity({});
    const BodyId striker = world.add(ball(a, {-2 - random.uniform(0, speed / hz), offset, 0}, mass_a, {speed, 0, 0}));
    const BodyId struck = world.add(ball(b, {}, mass_b, {}));
    for (double now = 0; now < 3.5 / speed + 3 / hz; now += 1 / hz) world.step(1 / hz);
    const double sine = offset / (a + b), cosine = std::sqrt(1 - sine * sine);
    const Vec3 line{cosine, -sine, 0};
    const double impulse = (1 + e) * speed * cosine * mass_a * mass_b / (mass_a + mass_b);
    const Vec3 leaves = line * (impulse / mass_b), goes_on = Vec3{speed, 0, 0} - line * (impulse / mass_a);
    EXPECT_LT(norm(world.velocity(struck) - leaves), 5e-3 * norm(leaves))
        << i << ": " << hz << " Hz at " << speed << " e " << e << " offset " << offset / (a + b) << " radii " << a
        << " " << b;
    EXPECT_LT(norm(world.velocity(striker) - goes_on), 5e-3 * speed)
        << i << ": " << hz << " Hz at " << speed << " e " << e << " offset " << offset / (a + b) << " radii " << a
        << " " << b;
  }
}

/// Pressed from both sides, with restitution: what parts them, at 3 m/s at most, is no hit of the other side.
TEST(Passing, WhatIsPressedBetweenOpposingSurfacesGainsNoMoreThanThePushOutGives) {
  Random random(65);
  for (int i = 0; i < scenes; ++i) {
    const double hz = any_rate[random.below(4)], near = random.uniform(0, 0.01), half = 0.3;
    const Surface springy{.friction = random.uniform(0, 1), .restitution = random.uniform(0, 1)};
    World world;
    world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}, .surface = springy});
    for (const double side : {-1.0, 1.0})
      world.add({.shape = Box{{0.5, 2, 2}}, .pose = {{side * (half + 0.5 - near), 1, 0}, {}}, .surface = springy});
    const Shape shape = random.below(2) ? Shape(Box{{half, half, half}}) : Shape(Cylinder{half, half});
    const BodyId body = world.add({.shape = shape,
                                   .pose = {{0, half + random.uniform(0, 1), 0}, {}},
                                   .kind = BodyKind::dynamic,
                                   .surface = springy,
                                   .mass = log_uniform(random, 1, 150)});
    const double mass = world.mass(body);
    const double before = energy(world);
    double highest = before;
    for (double now = 0; now < 3; now += 1 / hz) {
      world.step(1 / hz);
      highest = std::max(highest, energy(world));
    }
    EXPECT_LT(highest - before, 0.5 * mass * 3 * 3) << i << ": " << hz << " Hz, e " << springy.restitution;
  }
}

/// Towers that fall on one another, the upper heavier up to ten times: what stops them does not throw them back.
TEST(Passing, WhatLandsOnLighterThingsDoesNotBounce) {
  Random random(68);
  int thrown = 0;
  for (int i = 0; i < scenes; ++i) {
    const double hz = any_rate[random.below(4)];
    World world;
    world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}});
    double total = 0, y = 0;
    for (int k = 0; k < 3; ++k) {
      const double half = random.uniform(0.15, 0.4), mass = k == 0 ? 10 : log_uniform(random, 10, 100);
      y += half + random.uniform(0, k ? 1.5 : 0.01);
      world.add(
          {.shape = Box{{half, half * random.uniform(0.5, 1), half}},
           .pose = {{random.uniform(-0.1, 0.1), y, random.uniform(-0.1, 0.1)}, rotation({0, random.uniform(0, 3), 0})},
           .kind = BodyKind::dynamic,
           .mass = mass});
      y += half, total += mass;
    }
    double low = energy(world), rise = 0;
    for (double now = 0; now < 3; now += 1 / hz) {
      world.step(1 / hz);
      const double is = energy(world);
      rise = std::max(rise, is - low), low = std::min(low, is);
    }
    EXPECT_LT(rise, 2.5 * total) << i << ": " << hz << " Hz";
    thrown += rise > 0.5 * total;
  }
  EXPECT_LE(thrown, scenes / 8 + 4);
}

/// Overlaps that only a locked direction would part, but for a rounding; and bodies that are wedged in between the ways
/// that they can go.
TEST(Passing, LockedBodiesThatOverlapAreNotShotAway) {
  Random random(66);
  for (int i = 0; i < 10 * scenes; ++i) {
    const double hz = any_rate[random.below(4)], seconds = 1, pull = random.below(2) ? 9.8 : 0;
    World world;
    world.set_gravity({0, -pull, 0});
    const auto turn = [&] { return random.below(2) ? Quat{} : rotation(random.direction() * random.uniform(0, 3)); };
    const auto locks = static_cast<std::uint8_t>(random.below(64));
    world.add({.shape = draw_solid(random, false), .pose = {random.direction() * random.uniform(0, 0.5), turn()}});
    const BodyId body = world.add(
        {.shape = draw_solid(random, false), .pose = {{}, turn()}, .kind = BodyKind::dynamic, .locks = locks});
    double fastest = 0;
    for (double now = 0; now < seconds; now += 1 / hz) {
      world.step(1 / hz);
      fastest = std::max(fastest, norm(world.velocity(body)));
    }
    EXPECT_LT(fastest, 7 + pull * seconds) << i << ": " << hz << " Hz, locks " << static_cast<int>(locks);
  }
}

/// What grips a turntable goes round with it: the pull outward is a share of what friction can hold.
TEST(Passing, ACrateOnATurntableStaysWhereItWasPut) {
  Random random(67);
  for (int i = 0; i < scenes / 5; ++i) {
    const double hz = any_rate[random.below(4)], out = random.uniform(0.5, 4), grip = random.uniform(0.2, 0.95);
    const double half = random.uniform(0.1, 0.4), flat = random.uniform(0.3, 1), at = random.uniform(0, 2 * pi);
    const Surface rough{.friction = random.uniform(0.3, 0.8)};
    const double turn = std::sqrt(grip * rough.friction * standard_gravity / out);
    World world;
    world.set_gravity({0, -standard_gravity, 0});
    const Shape table = random.below(2) ? Shape(Cylinder{6, 0.5}) : Shape(Box{{6, 0.5, 6}});
    world.add({.shape = table,
               .pose = {{0, -0.5, 0}, {}},
               .kind = BodyKind::kinematic,
               .spin = {0, turn, 0},
               .surface = rough});
    const Vec3 place{out * std::cos(at), half * flat, out * std::sin(at)};
    const BodyId crate = world.add({.shape = Box{{half, half * flat, half}},
                                    .pose = {place, rotation({0, random.uniform(0, 3), 0})},
                                    .kind = BodyKind::dynamic,
                                    .velocity = cross(Vec3{0, turn, 0}, place),
                                    .spin = {0, turn, 0},
                                    .surface = rough});
    for (double now = 0; now < 20; now += 1 / hz) world.step(1 / hz);
    const Vec3 there = world.pose(crate).position;
    EXPECT_NEAR(std::hypot(there.x, there.z), out, 0.003 * out) << i << ": " << hz << " Hz, grip " << grip;
  }
}

/// A ball that rolls on a turntable goes round in circles at 2/7 of its turn (Burns, Am. J. Phys. 49, 1981).
TEST(Passing, ABallOnATurntableTurnsAtTwoSeventhsOfIt) {
  for (const double hz : any_rate) {
    const double turn = 2, radius = 0.3, out = 2, seconds = 5;
    World world;
    const Surface rough{.friction = 1};
    world.add({.shape = Cylinder{8, 0.5},
               .pose = {{0, -0.5, 0}, {}},
               .kind = BodyKind::kinematic,
               .spin = {0, turn, 0},
               .surface = rough});
    const BodyId ball = world.add(
        {.shape = Sphere{radius}, .pose = {{out, radius, 0}, {}}, .kind = BodyKind::dynamic, .surface = rough});
    const Vec3 velocity{0, 0, -2.0 / 7 * turn * out}, slip = velocity - Vec3{0, 0, -turn * out};
    world.set_motion(ball, velocity, {slip.z / radius, 0, -slip.x / radius});
    for (double now = 0; now < seconds - 1e-9; now += 1 / hz) world.step(1 / hz);
    const Vec3 v = world.velocity(ball);
    const double turned = std::atan2(v.z, v.x) - std::atan2(velocity.z, velocity.x);
    EXPECT_NEAR(std::remainder(turned + 2.0 / 7 * turn * seconds, 2 * pi), 0, 2e-3) << hz;
    EXPECT_NEAR(norm(v), norm(velocity), 1e-3 * norm(velocity)) << hz;
  }
}

/// What lands on several points at once, with friction, goes the way of its mirror image.
TEST(Passing, ABoxLandsLikeItsMirrorImage) {
  Random random(815);
  std::vector<double> apart;
  for (int scene = 0; scene < scenes_of(240); ++scene) {
    const Vec3 half{random.uniform(0.15, 0.4), random.uniform(0.15, 0.4), random.uniform(0.15, 0.4)};
    const Vec3 axis = random.direction(), velocity = random.point(1.5);
    const Vec3 turn = axis * random.uniform(0.2, 3);
    const double friction = random.uniform(0, 1), hz = 30 * (1 + random.below(8));
    const auto land = [&](double side, std::vector<Vec3>& path) {
      World world;
      world.add({.shape = Box{{20, 1, 20}}, .pose = {{0, -1, 0}, {}}});
      const BodyId box = world.add({.shape = Box{half},
                                    .pose = {{0, 1.2, 0}, rotation({side * turn.x, side * turn.y, turn.z})},
                                    .kind = BodyKind::dynamic,
                                    .velocity = {velocity.x, velocity.y, side * velocity.z},
                                    .surface = {.friction = friction}});
      for (int i = 0; i < 1.5 * hz; ++i) {
        world.step(1 / hz);
        const Vec3 at = world.pose(box).position;
        path.push_back({at.x, at.y, side * at.z});
      }
    };
    std::vector<Vec3> one, other;
    land(1, one), land(-1, other);
    double most = 0;
    for (std::size_t i = 0; i < one.size(); ++i) most = std::max(most, norm(one[i] - other[i]));
    apart.push_back(most);
  }
  std::ranges::sort(apart);
  EXPECT_LT(apart[apart.size() / 2], 2e-4);
  EXPECT_LT(apart[apart.size() * 9 / 10], 3e-3);
  EXPECT_LT(apart[apart.size() * 97 / 100], 2e-2);
}

}  // namespace
}  // namespace jugend::testing
