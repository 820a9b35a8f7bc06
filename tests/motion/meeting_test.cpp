// Walkers that meet: they stop, push and carry one another, on both bodies, or pass, as they are tuned.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/stage/kinds.hpp>

#include "../support/random.hpp"
#include "../support/watched.hpp"

namespace jugend::testing {
namespace {

/// A quay with walkers of either body on it.
class Quay {
 public:
  Stage stage;
  double now = 0;

  explicit Quay(const Vec3& deck = {}, const Quat& turn = {}) : deck_(deck), turn_(turn) {
    const BodyKind kind = deck == Vec3{} ? BodyKind::fixed : BodyKind::kinematic;
    stage.world.set_gravity(rotate(turn, {0, -9.80665, 0}));
    stage.world.add({.shape = Box{{200, 1, 200}},
                     .pose = {rotate(turn, {0, -1, 0}), turn},
                     .kind = kind,
                     .velocity = rotate(turn, deck)});
  }
  std::size_t add(bool forced, const WalkerTuning& tuning, const Vec3& feet) {
    const std::string name = "walker_" + std::to_string(stage.actors());
    const Vec3 at = rotate(turn_, feet), ahead = rotate(turn_, {1, 0, 0});
    forced ? add_forced(stage, name, tuning, {}, at, ahead) : stage.add(name, Walker(tuning, at, ahead));
    return stage.actors() - 1;
  }
  WalkerControls& controls(std::size_t i) { return stage.actor(stage.nth(i)).as<WalkerControls>(); }
  const WalkerState& state(std::size_t i) const { return stage.actor(stage.nth(i)).as<WalkerBrain>().state(); }
  const WalkerTuning& tuning(std::size_t i) const { return stage.actor(stage.nth(i)).as<WalkerBrain>().tuning(); }
  /// m between the sides of two who stand beside each other; negative: one within the other.
  double gap(std::size_t a, std::size_t b) const {
    const Vec3 between = state(a).position - state(b).position;
    return std::hypot(between.x, between.z) - tuning(a).body.radius - tuning(b).body.radius;
  }
  /// m between the bodies as others meet them: forced ones lean.
  double between_bodies(std::size_t a, std::size_t b) const {
    const auto placed = [&](std::size_t i) {
      const BodyId body = stage.actor(stage.nth(i)).as<WalkerBrain>().body();
      return PlacedConvex(std::get<Capsule>(stage.world.shape(body)), stage.world.pose(body));
    };
    const PlacedConvex one = placed(a), other = placed(b);
    return separation(one.view(), other.view()).distance;
  }
  template <class Each>
  void run(double seconds, double hz, Each&& each) {
    for (const double end = now + seconds - 1e-9; now < end; now += 1 / hz) {
      stage.tick(1 / hz);
      each();
    }
  }
  void run(double seconds, double hz) {
    run(seconds, hz, [] {});
  }
  /// Where a walker is, as seen from the deck.
  Vec3 seen(std::size_t i) const { return rotate(conjugate(turn_), state(i).position) - deck_ * now; }
  Vec3 way(const Vec3& level) const { return rotate(turn_, level); }

 private:
  Vec3 deck_;
  Quat turn_;
};

constexpr double any_rate[] = {30, 60, 144, 240};

WalkerTuning draw_tuning(Random& random) {
  WalkerTuning t;
  t.body.radius = random.uniform(0.2, 0.5);
  t.body.height = random.uniform(std::max(1.3, 2 * t.body.radius + 0.4), 2.2);
  t.body.mass = std::exp(random.uniform(std::log(20), std::log(300)));
  t.run.top_speed = random.uniform(2, 8);
  return t;
}

TEST(Meeting, NobodyRunsThroughAnybody) {
  Random random(41);
  for (int i = 0; i < scenes_of(120); ++i) {
    const double hz = any_rate[random.below(4)];
    Quay quay;
    const bool forced_a = random.below(2), forced_b = random.below(2);
    const auto a = quay.add(forced_a, draw_tuning(random), {-3, 0, random.uniform(-0.1, 0.1)});
    const auto b = quay.add(forced_b, draw_tuning(random), {3, 0, 0});
    quay.controls(a).intent.move = {1, 0, 0};
    const bool comes = random.below(2);  // one draw a statement: operands have no order
    const double share = random.uniform(0.2, 1);
    quay.controls(b).intent.move = {comes ? -share : 0, 0, 0};
    double least = 9;
    quay.run(3, hz, [&] { least = std::min(least, quay.between_bodies(a, b)); });
    const auto told = [&] {
      return std::to_string(i) + (forced_a ? " forced" : " swept") + (forced_b ? " forced " : " swept ") +
             std::to_string(hz);
    };
    EXPECT_GT(least, forced_a || forced_b ? -0.03 : -1e-3) << told();
    const bool in_line = std::abs(quay.state(a).position.z - quay.state(b).position.z) < 0.05;
    EXPECT_TRUE(!in_line || quay.state(a).position.x < quay.state(b).position.x) << told();
  }
}

TEST(Meeting, WhoMeetsHeadOnAtOneSpeedAndMassStandsStillInTheMiddle) {
  for (const double hz : any_rate) {
    for (const double phase : {0.0, 0.013, 0.031, 0.052, 0.077}) {
      Quay quay;
      const auto a = quay.add(false, {}, {-2 - phase, 0, 0}), b = quay.add(false, {}, {2 + phase, 0, 0});
      quay.controls(a).intent.move = {1, 0, 0}, quay.controls(b).intent.move = {-1, 0, 0};
      quay.run(2, hz);
      EXPECT_NEAR(quay.state(a).position.x + quay.state(b).position.x, 0, 1e-3) << hz << ' ' << phase;
      EXPECT_NEAR(quay.gap(a, b), 0, 5e-3) << hz << ' ' << phase;
    }
  }
}

/// Springs on springs, each of which answers what the other does: at 30 Hz one in fifteen was shaken off, or lay on the
/// other's head for good.
TEST(Meeting, LegsOnLegsComeToRestAtEveryRate) {
  for (const double hz : any_rate) {
    Random random(42);
    const int scenes = unless_watched(60, 8);
    int off = 0;
    for (int i = 0; i < scenes; ++i) {
      Quay quay;
      WalkerTuning lower = draw_tuning(random), upper = draw_tuning(random);
      upper.body.mass = lower.body.mass * random.uniform(0.2, 1);
      const double aside = random.uniform(-0.05, 0.05);
      const double high = random.uniform(0.1, 2);
      const auto b = quay.add(true, lower, {0, 0, 0});
      const auto a = quay.add(true, upper, {aside, lower.body.height + high, 0});
      quay.run(4, hz);
      const double over = quay.state(a).position.y - quay.state(b).position.y - lower.body.height;
      off += !quay.state(a).on_ground || std::abs(over) > 0.05;
    }
    EXPECT_EQ(off, 0) << hz << " Hz";
  }
}

/// Put down on a deck under way, each goes with it from the first tick, also who stands on another's head.
TEST(Meeting, TowersOfForcedWalkersArePutDownOnMovingDecks) {
  for (const double hz : any_rate) {
    Random random(7);
    for (int i = 0; i < unless_watched(30, 5); ++i) {
      Stage stage;
      const Vec3 ride{random.uniform(-4, 4), random.uniform(-3, 3), random.uniform(-2, 2)};
      stage.world.add(
          {.shape = Box{{6, 0.5, 6}}, .pose = {{0, -0.5, 0}, {}}, .kind = BodyKind::kinematic, .velocity = ride});
      const int storeys = 2 + static_cast<int>(random.below(2));
      double top = 0, mass = random.uniform(60, 120);
      for (int k = 0; k < storeys; ++k) {
        WalkerTuning tuning;
        tuning.body.height = random.uniform(1.3, 2), tuning.body.mass = mass;
        LegsTuning legs;
        legs.frequency = random.uniform(2, 5);
        add_forced(stage, "courier " + std::to_string(k), tuning, legs, {0, top, 0});
        top += tuning.body.height + 0.02, mass *= random.uniform(0.4, 0.9);
      }
      for (int tick = 0; tick < 4 * hz; ++tick) stage.tick(1 / hz);
      for (int k = 0; k < storeys; ++k) {
        const ActorFacts f = stage.facts(stage.nth(static_cast<std::size_t>(k)));
        const Vec3 seen = f.position - ride * stage.now();
        const double above =
            k > 0 ? f.position.y - stage.facts(stage.nth(static_cast<std::size_t>(k - 1))).position.y : 2;
        EXPECT_TRUE(f.on_ground && std::hypot(seen.x, seen.z) < 0.3 && above > 1.2)
            << hz << " Hz, scene " << i << ", " << k << " of " << storeys << ": slid " << std::hypot(seen.x, seen.z);
      }
    }
  }
}

TEST(Meeting, WhoComesDownOnAnotherStandsOnThem) {
  Random random(42);
  for (int i = 0; i < scenes_of(80); ++i) {
    const double hz = any_rate[random.below(4)];
    Quay quay;
    const bool forced_a = random.below(2), forced_b = random.below(2);
    WalkerTuning lower = draw_tuning(random), upper = draw_tuning(random);
    if (forced_a && forced_b)
      upper.body.mass = lower.body.mass * random.uniform(0.2, 1);  // legs on legs are springs on springs
    const auto b = quay.add(forced_b, lower, {0, 0, 0});
    const auto a =
        quay.add(forced_a, upper, {random.uniform(-0.05, 0.05), lower.body.height + random.uniform(0.1, 2), 0});
    quay.run(4, hz);
    const auto told = [&] {
      return std::to_string(i) + (forced_a ? " forced" : " swept") + (forced_b ? " on forced " : " on swept ") +
             std::to_string(hz);
    };
    EXPECT_TRUE(quay.state(a).on_ground) << told();
    EXPECT_TRUE(quay.state(b).on_ground) << told();
    EXPECT_EQ(quay.state(a).ground.body, quay.stage.actor(quay.stage.nth(b)).as<WalkerBrain>().body()) << told();
    EXPECT_NEAR(quay.state(a).position.y, quay.state(b).position.y + lower.body.height, 0.05) << told();
  }
}

TEST(Meeting, WhoStandsOnARunnerIsCarried) {
  for (const double hz : any_rate) {
    Quay quay;
    WalkerTuning slow;
    slow.run.top_speed = 2, slow.run.time_to_top_speed = 1.5;
    const auto b = quay.add(false, slow, {0, 0, 0});
    const auto a = quay.add(false, {}, {0, slow.body.height, 0});
    quay.run(0.3, hz);
    quay.controls(b).intent.move = {1, 0, 0};
    quay.run(3, hz);
    EXPECT_TRUE(quay.state(a).on_ground) << hz;
    EXPECT_NEAR(quay.state(a).position.x, quay.state(b).position.x, 0.02) << hz;
    EXPECT_GT(quay.state(b).position.x, 3) << hz;
  }
}

TEST(Meeting, AStrongOnePushesALightOneAndNotTheOtherWayRound) {
  for (const double hz : any_rate) {
    for (const bool strong : {true, false}) {
      Quay quay;
      WalkerTuning pusher, pushed;
      pusher.push.force = strong ? 5000 : 420;
      pushed.body.mass = strong ? 40 : 90;
      const auto a = quay.add(false, pusher, {-1, 0, 0}), b = quay.add(false, pushed, {0, 0, 0});
      quay.controls(a).intent.move = {1, 0, 0};
      quay.run(2, hz);
      EXPECT_EQ(quay.state(b).position.x > 0.8, strong) << hz;
      EXPECT_EQ(quay.state(b).position.x > 0.1, strong) << hz;
    }
  }
}

TEST(Meeting, EitherOnesPassLetsBothThrough) {
  for (const double hz : any_rate) {
    for (int which = 1; which < 4; ++which) {
      for (int bodies = 0; bodies < 4; ++bodies) {
        Quay quay;
        WalkerTuning solid, pass;
        pass.meeting = Meeting::pass;
        const auto a = quay.add(bodies & 1, which & 1 ? pass : solid, {-2, 0, 0});
        const auto b = quay.add(bodies & 2, which & 2 ? pass : solid, {2, 0, 0});
        quay.controls(a).intent.move = {1, 0, 0}, quay.controls(b).intent.move = {-1, 0, 0};
        const double top = solid.run.top_speed;
        quay.run(1.5, hz);
        EXPECT_NEAR(quay.state(a).velocity.x, top, 1e-6 * top) << hz << ' ' << which << ' ' << bodies;
        EXPECT_NEAR(quay.state(b).velocity.x, -top, 1e-6 * top) << hz << ' ' << which << ' ' << bodies;
        EXPECT_GT(quay.state(a).position.x, quay.state(b).position.x);
      }
    }
  }
}

TEST(Meeting, WhichOfTwoWasAddedFirstDoesNotMatter) {
  Random random(43);
  for (int i = 0; i < scenes_of(60); ++i) {
    const double hz = any_rate[random.below(4)];
    const WalkerTuning tunings[2] = {draw_tuning(random), draw_tuning(random)};
    const double aside = random.uniform(-0.3, 0.3), share = random.uniform(-1, 1);
    const Vec3 start[2] = {{-2, 0, 0}, {2, 0, aside}}, wish[2] = {{1, 0, 0}, {share, 0, 0}};
    Quay quays[2];
    for (const std::size_t order : {0u, 1u}) {
      for (const std::size_t n : {0u, 1u}) {
        const std::size_t k = n ^ order;
        quays[order].controls(quays[order].add(false, tunings[k], start[k])).intent.move = wish[k];
      }
      quays[order].run(1.5, hz);
    }
    for (const std::size_t k : {0u, 1u})
      EXPECT_LT(norm(quays[0].state(k).position - quays[1].state(1 - k).position), 0.01) << i << " at " << hz;
  }
}

TEST(Meeting, ACrouchedOneIsAsLowForOthers) {
  for (const double hz : any_rate) {
    Quay quay;
    const auto b = quay.add(false, {}, {0, 0, 0});
    quay.controls(b).crouch.set(true);
    quay.run(0.2, hz);
    const WalkerTuning tall;
    const auto a = quay.add(false, tall, {0, 2.5, 0});
    quay.run(1.5, hz);
    EXPECT_NEAR(quay.state(a).position.y, tall.height(true), 0.02) << hz;
  }
}

/// Two who run at one another, one of whom jumps; places of both at each tenth of a second.
std::vector<Vec3> met(Quay&& quay, std::uint32_t seed, bool forced_a, bool forced_b, double hz) {
  Random random(seed);
  const double aside = random.uniform(-0.5, 0.5), share = random.below(2) * random.uniform(0.2, 1);
  const auto a = quay.add(forced_a, {}, {-2, 0, 0}), b = quay.add(forced_b, {}, {2, 0, aside});
  std::vector<Vec3> places;
  for (int tenth = 0; tenth < 20; ++tenth) {
    quay.run(0.1, hz);
    if (tenth == 1)
      quay.controls(a).intent.move = quay.way({1, 0, 0}), quay.controls(b).intent.move = quay.way({-share, 0, 0});
    if (tenth == 11) quay.controls(b).jump.tap();
    places.push_back(quay.seen(a)), places.push_back(quay.seen(b));
  }
  return places;
}

double furthest_apart(const std::vector<Vec3>& a, const std::vector<Vec3>& b) {
  double most = 0;
  for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, norm(a[i] - b[i]));
  return most;
}

TEST(Meeting, OnAMovingDeckAndTurnedWithItsGravityIsAsOnLand) {
  Random random(44);
  for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(scenes_of(60)); ++i) {
    const bool forced_a = i % 3 > 0, forced_b = i % 3 > 1;
    const double hz = any_rate[random.below(4)];
    const Vec3 deck{random.uniform(-5, 5), 0, random.uniform(-5, 5)};
    const Quat turn = rotation(random.direction() * random.uniform(0.1, 3));
    const auto land = met(Quay(), i, forced_a, forced_b, hz);
    EXPECT_LT(furthest_apart(land, met(Quay(deck), i, forced_a, forced_b, hz)), 1e-3) << i << " at " << hz;
    EXPECT_LT(furthest_apart(land, met(Quay({}, turn), i, forced_a, forced_b, hz)), 0.02) << i << " at " << hz;
  }
}

TEST(Meeting, ATowerOfWalkersStandsOnAMovingDeckInWhateverOrderTheyWereAdded) {
  Random random(45);
  for (int i = 0; i < scenes_of(40); ++i) {
    const double hz = any_rate[random.below(4)];
    std::vector<std::size_t> storeys(2 + random.below(11));  // of each walker, in the order of the stage
    for (std::size_t k = 0; k < storeys.size(); ++k) storeys[k] = k;
    for (std::size_t k = storeys.size() - 1; k > 0; --k)
      std::swap(storeys[k], storeys[random.below(static_cast<std::uint32_t>(k + 1))]);
    if (i % 4 == 0) std::sort(storeys.rbegin(), storeys.rend());  // the highest first
    Quay quay({random.uniform(-5, 5), 0, random.uniform(-5, 5)});
    const WalkerTuning tuning;
    const auto place = [&](std::size_t k) { return Vec3{0, static_cast<double>(storeys[k]) * tuning.body.height, 0}; };
    for (std::size_t k = 0; k < storeys.size(); ++k) quay.add(false, tuning, place(k));
    quay.run(3, hz);
    for (std::size_t k = 0; k < storeys.size(); ++k) {
      EXPECT_TRUE(quay.state(k).on_ground) << storeys[k] << " of " << storeys.size() << " at " << hz;
      EXPECT_LT(norm(quay.seen(k) - place(k)), 0.02) << storeys[k] << " of " << storeys.size() << " at " << hz;
    }
  }
}

}  // namespace
}  // namespace jugend::testing
