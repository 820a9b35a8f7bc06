// What rebounds keeps its energy: one body of any shape in a closed room, and many at once.
#include <gtest/gtest.h>

#include <cmath>

#include "../support/random.hpp"
#include "../support/yard.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 90, 144, 240, 500};

/// A room of 4 m whose walls give everything back.
struct Room : Yard {
  Surface hard{.friction = 0, .restitution = 1};
  Room() {
    for (const double side : {-1.0, 1.0}) {
      world.add({.shape = Box{{4, 1, 4}}, .pose = {{0, 2 + 3 * side, 0}, {}}, .surface = hard});
      world.add({.shape = Box{{1, 4, 4}}, .pose = {{3 * side, 2, 0}, {}}, .surface = hard});
      world.add({.shape = Box{{4, 4, 1}}, .pose = {{0, 2, 3 * side}, {}}, .surface = hard});
    }
  }
};

Shape any_shape(Random& random) {
  const auto size = [&] { return random.uniform(0.08, 0.3); };
  const double a = size(), b = size(), c = size();
  const Shape shapes[] = {Sphere{a}, Box{{a, b, c}}, Capsule{a, b}, Cylinder{a, b}};
  return shapes[random.below(4)];
}

TEST(Elastic, ABodyOfAnyShapeKeepsItsEnergyInAClosedRoom) {
  Random random(91);
  for (int i = 0; i < 120; ++i) {
    const double hz = any_rate[random.below(6)];
    Room room;
    const Shape shape = any_shape(random);
    const Quat turn = rotation(random.direction() * random.uniform(0, 3));
    const Vec3 velocity = random.point(4), spin = random.point(8);
    const BodyId body = room.world.add({.shape = shape,
                                        .pose = {{0, 2, 0}, turn},
                                        .kind = BodyKind::dynamic,
                                        .velocity = velocity,
                                        .spin = spin,
                                        .surface = room.hard});
    const double start = energy(room.world), mass = room.world.facts(body).mass;
    double most = start, least = start;
    room.run(8, hz, [&] { most = std::max(most, energy(room.world)), least = std::min(least, energy(room.world)); });
    EXPECT_LT(most, start + 0.02 * mass * g) << i << " shape " << shape.index() << " at " << hz;
    EXPECT_GT(least, 0.95 * start) << i << " shape " << shape.index() << " at " << hz;
  }
}

}  // namespace
}  // namespace jugend::testing
