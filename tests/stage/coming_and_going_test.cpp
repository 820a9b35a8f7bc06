// Actors come, go, stand still, are put elsewhere, handed on and tuned anew while the show goes on, whatever their
// kind.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <jugend/base/error.hpp>
#include <limits>
#include <vector>

#include "../support/any_value.hpp"
#include "../support/troupe.hpp"

namespace jugend::testing {
namespace {

constexpr double any_rate[] = {30, 60, 144, 240};
constexpr double nan = std::numeric_limits<double>::quiet_NaN();

struct Quay {
  Stage stage;
  Quay() { add_quay(stage.world); }
};

/// How far two actors are apart in place and velocity.
double apart(const Stage& a, ActorId in_a, const Stage& b, ActorId in_b) {
  const ActorFacts one = a.facts(in_a), other = b.facts(in_b);
  return norm(one.position - other.position) + norm(one.velocity - other.velocity) + norm(one.facing - other.facing);
}

TEST(Teleport, WhoIsPutSomewhereGoesOnLikeOneThatIsNewThere) {
  Random random(11);
  for (const Part part : all_parts) {
    for (int i = 0; i < 12; ++i) {
      const double hz = any_rate[random.below(4)];
      const double x = random.uniform(-40, 40);
      const double z = random.uniform(-40, 40);
      const double angle = random.uniform(-pi, pi);
      const Pose there = stance(part, {x, 0, z}, angle);
      Quay moved, fresh;
      const ActorId a = add_part(moved.stage, part, "one", stance(part, {0, 0, 0}));
      for (int tick = 0; tick < hz; ++tick) {
        if (tick % 10 == 0) drive(moved.stage.actor(a), random);
        moved.stage.tick(1 / hz);
      }
      const Vec3 velocity = i % 2 ? rotate(there.orientation, {2, 0, 0}) : Vec3{};
      moved.stage.hand_over(a);
      moved.stage.place(a, {there, velocity, {}});
      EXPECT_EQ(norm(moved.stage.drawn_position(a, 0) - moved.stage.drawn_position(a, 1)), 0);
      const ActorId b = add_part(fresh.stage, part, "one", there);
      if (velocity != Vec3{}) fresh.stage.place(b, {there, velocity, {}});
      EXPECT_LT(apart(moved.stage, a, fresh.stage, b), 1e-9) << static_cast<int>(part) << " " << i;
      Random same(static_cast<std::uint32_t>(i)), again(static_cast<std::uint32_t>(i));
      for (int tick = 0; tick < hz; ++tick) {
        if (tick % 10 == 0) drive(moved.stage.actor(a), same), drive(fresh.stage.actor(b), again);
        moved.stage.tick(1 / hz), fresh.stage.tick(1 / hz);
      }
      const double rounding =
          part == Part::multirotor ? 1e-5 : 1e-6;  // which rotors told in bounds make a million times
      EXPECT_LT(apart(moved.stage, a, fresh.stage, b), rounding) << static_cast<int>(part) << " " << i << " at " << hz;
    }
  }
}

TEST(Pause, HoldsStillAndGoesOnAsIfNoTimeHadPassed) {
  Random random(12);
  for (const Part part : all_parts) {
    for (int i = 0; i < 12; ++i) {
      const double hz = any_rate[random.below(4)];
      const int before = static_cast<int>(random.uniform(0, hz));
      const int held = 1 + static_cast<int>(random.below(60));
      Quay paused, other;
      const ActorId a = add_part(paused.stage, part, "one", stance(part, {0, 0, 0}));
      const ActorId b = add_part(other.stage, part, "one", stance(part, {0, 0, 0}));
      Random same(static_cast<std::uint32_t>(i)), again(static_cast<std::uint32_t>(i));
      for (int tick = 0; tick < before + hz; ++tick) {
        if (tick == before) {
          paused.stage.pause(a);
          const Vec3 at = paused.stage.facts(a).position;
          for (int k = 0; k < held; ++k) {
            if (auto* walker = paused.stage.actor(a).find<WalkerControls>()) walker->dash.tap();
            EXPECT_FALSE(paused.stage.actor(a).hit({.away = {1, 0, 0}, .impulse = 900}, paused.stage.world));
            paused.stage.tick(1 / hz);
            EXPECT_EQ(paused.stage.facts(a).position, at) << static_cast<int>(part);
            EXPECT_TRUE(paused.stage.actor(a).heard().empty());
          }
          paused.stage.pause(a, false);
        }
        if (tick % 10 == 0) drive(paused.stage.actor(a), same), drive(other.stage.actor(b), again);
        paused.stage.tick(1 / hz), other.stage.tick(1 / hz);
      }
      // Gusts go by the time of all; what touches the ground with its body feels its contacts begin anew.
      const double off = apart(paused.stage, a, other.stage, b);
      EXPECT_LT(off, part == Part::roller || part == Part::led_body ? 0.02 : 1e-6)
          << static_cast<int>(part) << " " << i << " at " << hz << " for " << held;
    }
  }
}

TEST(BadTick, IsRefusedBeforeAnythingActsAndNoTimeIsAPause) {
  for (const Part part : all_parts) {
    Quay quay;
    Stage& stage = quay.stage;
    const ActorId id = add_part(stage, part, "one", stance(part, {0, 0, 0}));
    Random random(5);
    for (int tick = 0; tick < 30; ++tick) {
      if (tick % 5 == 0) drive(stage.actor(id), random);
      stage.tick(1.0 / 60);
      const std::uint64_t hash = stage.hash();
      for (const double bad : {-0.01, nan, std::numeric_limits<double>::infinity(), 11.0})
        EXPECT_THROW(stage.tick(bad), InputError) << bad;
      stage.tick(0);
      stage.world.step(0);
      EXPECT_EQ(stage.hash(), hash) << static_cast<int>(part);
    }
  }
}

/// Without a stage: one step of a controller that asks for `bad` in all, and for nothing.
template <class Controller, class Intent>
void expect_steps_alike(Part part, const Intent& bad) {
  Quay told, clean;
  const ActorId a = add_part(told.stage, part, "one", stance(part, {0, 0, 0}));
  const ActorId b = add_part(clean.stage, part, "one", stance(part, {0, 0, 0}));
  for (int tick = 0; tick < 60; ++tick) {
    const std::uint64_t hash = told.stage.hash();
    told.stage.actor(a).as<Controller>().step(bad, told.stage.world, 0);
    EXPECT_EQ(told.stage.hash(), hash);
    told.stage.actor(a).as<Controller>().step(bad, told.stage.world, 1.0 / 60);
    clean.stage.actor(b).as<Controller>().step(Intent{}, clean.stage.world, 1.0 / 60);
    told.stage.world.step(1.0 / 60), clean.stage.world.step(1.0 / 60);
    ASSERT_EQ(told.stage.hash(), clean.stage.hash()) << static_cast<int>(part) << " tick " << tick;
  }
}

TEST(BadIntent, CountsAsNoneWithoutAStageToo) {
  const Vec3 none{nan, nan, nan};
  expect_steps_alike<Walker>(Part::walker, WalkerIntent{.move = none, .aim = none});
  expect_steps_alike<ForcedWalker>(Part::forced, WalkerIntent{.move = none, .aim = none});
  expect_steps_alike<Roller>(Part::roller, RollerIntent{.move = none});
  expect_steps_alike<LedBody>(Part::led_body, LedBodyIntent{none, nan});
  expect_steps_alike<Vehicle>(Part::vehicle, VehicleIntent{nan, nan, nan, nan, nan});
  expect_steps_alike<TrackedVehicle>(Part::tracked, TrackedIntent{nan, nan, nan});
  expect_steps_alike<Multirotor>(Part::multirotor,
                                 MultirotorIntent{.ahead = nan, .right = nan, .climb = nan, .yaw = nan});
  expect_steps_alike<Boat>(Part::boat, BoatIntent{nan, nan});
}

/// Each number of what input sets, made no number.
template <class T>
void for_each_number(T& value, const std::function<void(const char*, const std::function<void(double)>&)>& visit) {
  for_each_field(value, [&](const char* name, auto& member) {
    using Member = std::remove_cvref_t<decltype(member)>;
    if constexpr (Described<Member>)
      for_each_number(member, visit);
    else if constexpr (std::is_same_v<Member, double>)
      visit(name, [&](double bad) { member = bad; });
    else if constexpr (std::is_same_v<Member, Vec3>)
      visit(name, [&](double bad) { member.z = bad; });
  });
}

template <class Controls>
void expect_refused(Part part, std::uint32_t seed) {
  int fields = 0;
  Controls counted;
  for_each_number(counted, [&](const char*, const auto&) { ++fields; });
  ASSERT_GT(fields, 0);
  for (int field = 0; field < fields; ++field) {
    for (const double bad : {nan, -std::numeric_limits<double>::infinity()}) {
      Quay told, clean;
      const ActorId a = add_part(told.stage, part, "one", stance(part, {0, 0, 0}));
      const ActorId b = add_part(clean.stage, part, "one", stance(part, {0, 0, 0}));
      for (Stage* stage : {&told.stage, &clean.stage}) {
        Random random(seed);
        for (int tick = 0; tick < 20; ++tick) drive(stage->actor(stage->nth(0)), random), stage->tick(1.0 / 60);
        stage->hand_over(stage->nth(0));
      }
      for (int tick = 0; tick < 40; ++tick) {
        const char* named = nullptr;
        int at = 0;
        for_each_number(told.stage.actor(a).as<Controls>(), [&](const char* name, const auto& set) {
          if (at++ == field) set(bad), named = name;
        });
        clean.stage.hand_over(b);
        told.stage.tick(1.0 / 60), clean.stage.tick(1.0 / 60);
        ASSERT_EQ(told.stage.events().size(), 1u);
        const StageEvent& event = told.stage.events()[0];
        EXPECT_EQ(event.kind, StageEventKind::intent_refused);
        EXPECT_STREQ(event.field, named);
        EXPECT_EQ(event.actor, a);
      }
      // In position mode a place that is none is where it is, tick by tick.
      EXPECT_LT(apart(told.stage, a, clean.stage, b), 1e-9) << static_cast<int>(part) << " field " << field;
    }
  }
}

TEST(BadIntent, CountsAsNoneAndIsTold) {
  expect_refused<WalkerControls>(Part::walker, 1);
  expect_refused<WalkerControls>(Part::forced, 2);
  expect_refused<RollerControls>(Part::roller, 3);
  expect_refused<LedBodyControls>(Part::led_body, 4);
  expect_refused<VehicleControls>(Part::vehicle, 5);
  expect_refused<TrackedControls>(Part::tracked, 6);
  expect_refused<MultirotorControls>(Part::multirotor, 7);
  expect_refused<BoatControls>(Part::boat, 8);
}

TEST(Show, GoesOnWhoeverComesAndGoesAndIsTheSameAfterARollback) {
  for (std::uint32_t seed = 1; seed <= static_cast<std::uint32_t>(scenes_of(12)); ++seed) {
    Quay quay;
    Stage& stage = quay.stage;
    Random random(seed);
    std::vector<ActorId> known;
    int named = 0;
    StageSnapshot saved;
    for (int round = 0; round < 20; ++round) {
      stage.save(saved);
      const std::uint64_t before = stage.hash();
      const Random draws = random;
      const std::vector<ActorId> known_then = known;
      const int named_then = named;
      std::vector<std::uint64_t> first;
      for (int run = 0; run < 2; ++run) {
        random = draws, known = known_then, named = named_then;
        for (std::size_t tick = 0; tick < 16; ++tick) {
          act(stage, random, seed % 2 ? 60 : 4, known, named);  // apart, or on top of one another
          ASSERT_NO_THROW(stage.tick(1.0 / 60)) << seed;
          for (const StageEvent& e : stage.events()) EXPECT_FALSE(e.who->name().empty());
          stage.for_each([&](ActorId id, const Actor&) {
            const Vec3 at = stage.facts(id).position;
            EXPECT_TRUE(is_finite(at));
            EXPECT_LT(norm(at - Vec3{0, 0, 0}), 2000) << seed << " " << stage.actor(id).name();
          });
          if (run == 0)
            first.push_back(stage.hash());
          else
            ASSERT_EQ(stage.hash(), first[tick]) << "seed " << seed << " round " << round << " tick " << tick;
        }
        if (run == 0) {
          stage.restore(saved);
          ASSERT_EQ(stage.hash(), before) << seed;
        }
      }
    }
    EXPECT_GT(named, 10);
  }
}

TEST(Departure, ABodyThatGoesTakesItsActorAlongAndIsTold) {
  for (const Part part : all_parts) {
    Quay quay;
    Stage& stage = quay.stage;
    const ActorId first = add_part(stage, part, "first", stance(part, {0, 0, 0}));
    const ActorId second = add_part(stage, part, "second", stance(part, {9, 0, 0}));
    stage.tick(1.0 / 60);
    stage.world.remove(stage.actor(first).body());
    EXPECT_FALSE(stage.alive(first));
    EXPECT_EQ(stage.find("first"), ActorId{});
    EXPECT_THROW(stage.actor(first), InputError);
    EXPECT_EQ(stage.nth(0), second);
    stage.tick(1.0 / 60);
    ASSERT_EQ(stage.events().size(), 1u);
    EXPECT_EQ(stage.events()[0].kind, StageEventKind::body_gone);
    EXPECT_EQ(stage.events()[0].actor, first);
    EXPECT_EQ(stage.events()[0].who->name(), "first");
    stage.tick(1.0 / 60);
    EXPECT_TRUE(stage.events().empty());
    // Its name is free again, and its handle is nobody's.
    const ActorId again = add_part(stage, part, "first", stance(part, {0, 0, 9}));
    EXPECT_NE(again, first);
    EXPECT_FALSE(stage.alive(first));
    EXPECT_TRUE(stage.alive(again));
  }
}

TEST(Rails, AreLeftAndForgottenWithTheirBody) {
  Quay quay;
  Stage& stage = quay.stage;
  const std::vector<Vec3> way{{0, 0, 0}, {6, 0, 0}};
  BodyId ferries[2];
  for (BodyId& ferry : ferries) {
    ferry = stage.world.add({.shape = Box{{1, 0.2, 1}}, .pose = {{0, 3, 0}, {}}, .kind = BodyKind::kinematic});
    stage.add_rail(ferry, RailMotion(Path(way, true), {.duration = 3}));
  }
  for (int i = 0; i < 40; ++i) stage.tick(1.0 / 60);
  EXPECT_TRUE(stage.remove_rail(ferries[0]));
  EXPECT_FALSE(stage.remove_rail(ferries[0]));
  stage.world.remove(ferries[1]);
  const Vec3 at = stage.world.pose(ferries[0]).position;
  for (int i = 0; i < 40; ++i) stage.tick(1.0 / 60);
  EXPECT_EQ(stage.world.pose(ferries[0]).position, at);
  EXPECT_EQ(stage.rails(), 0u);
}

TEST(Held, ABodyIsMovedByNothingUntilItIsLetGo) {
  World world;
  add_quay(world);
  const BodyId below = world.add({.shape = Box{}, .pose = {{0, 3, 0}, {}}, .kind = BodyKind::dynamic, .mass = 20});
  const BodyId above = world.add({.shape = Box{}, .pose = {{0, 4.01, 0}, {}}, .kind = BodyKind::dynamic, .mass = 20});
  world.set_motion(below, {1, 0, 0}, {0, 2, 0});
  world.hold(below);
  EXPECT_EQ(world.facts(below).mass, 0);
  EXPECT_EQ(world.mass(below), 20);
  EXPECT_EQ(world.kind(below), BodyKind::dynamic);
  for (int i = 0; i < 60; ++i) {
    world.push(below, {50, 50, 50});
    world.force(below, {500, 0, 0});
    world.step(1.0 / 60);
  }
  EXPECT_EQ(world.pose(below).position, (Vec3{0, 3, 0}));
  EXPECT_NEAR(world.pose(above).position.y, 4, 0.02);  // it stands on it
  world.hold(below, false);
  EXPECT_EQ(world.velocity(below), (Vec3{1, 0, 0}));
  EXPECT_EQ(world.spin(below), (Vec3{0, 2, 0}));
  for (int i = 0; i < 120; ++i) world.step(1.0 / 60);
  EXPECT_LT(world.pose(above).position.y, 1.7);
  EXPECT_THROW(world.hold(world.add({.shape = Box{}})), InputError);
}

/// The same motion as one that was built with the numbers that it was given at once.
template <class Tuning>
void expect_as_built(Part part, const Tuning& tuning, const std::function<ActorId(Stage&, const Pose&)>& build) {
  Random random(31);
  for (int i = 0; i < 6; ++i) {
    const double hz = any_rate[random.below(4)];
    Quay tuned, built;
    const ActorId a = add_part(tuned.stage, part, "one", stance(part, {0, 0, 0}));
    const ActorId b = build(built.stage, stance(part, {0, 0, 0}));
    tuned.stage.set_tuning(a, tuning);
    if (i % 2) {  // also while it stands still
      tuned.stage.pause(a), tuned.stage.set_tuning(a, tuning), tuned.stage.pause(a, false);
      built.stage.pause(b), built.stage.pause(b, false);
    }
    Random same(static_cast<std::uint32_t>(i)), again(static_cast<std::uint32_t>(i));
    for (int tick = 0; tick < 2 * hz; ++tick) {
      if (tick % 12 == 0) drive(tuned.stage.actor(a), same), drive(built.stage.actor(b), again);
      tuned.stage.tick(1 / hz), built.stage.tick(1 / hz);
    }
    EXPECT_LT(apart(tuned.stage, a, built.stage, b), 1e-6) << static_cast<int>(part) << " at " << hz;
  }
}

TEST(LiveTuning, CountsFromTheNextTickAsIfItHadBeenBuiltSo) {
  WalkerTuning walker = troupe_walker();
  walker.run.top_speed = 8, walker.jump.height = 2.1, walker.body.mass = 80;
  expect_as_built(Part::walker, walker,
                  [&](Stage& stage, const Pose& at) { return stage.add("one", Walker(walker, at.position)); });
  expect_as_built(Part::forced, walker,
                  [&](Stage& stage, const Pose& at) { return add_forced(stage, "one", walker, {}, at.position); });
  LegsTuning legs;
  legs.frequency = 5, legs.clearance = 0.3;
  expect_as_built(Part::forced, legs, [&](Stage& stage, const Pose& at) {
    return add_forced(stage, "one", troupe_walker(), legs, at.position);
  });
  const auto on_body = [](Part part, auto add) {
    return [=](Stage& stage, const Pose& at) { return add(stage, stage.world.add(body_of(part, at))); };
  };
  VehicleTuning cart;
  cart.drive.top_speed = 22, cart.axles.front().wheel.suspension.ride_frequency = 2.2;
  expect_as_built(Part::vehicle, cart,
                  on_body(Part::vehicle, [=](Stage& s, BodyId b) { return add_vehicle(s, "one", cart, b); }));
  for (AxleTuning& axle : cart.axles) axle.wheel.unsprung_mass = 12;
  expect_as_built(Part::vehicle, cart,
                  on_body(Part::vehicle, [=](Stage& s, BodyId b) { return add_vehicle(s, "one", cart, b); }));
  TrackedTuning crane;
  crane.drive.top_speed = 3;
  expect_as_built(Part::tracked, crane,
                  on_body(Part::tracked, [=](Stage& s, BodyId b) { return add_tracked_vehicle(s, "one", crane, b); }));
  MultirotorTuning craft;
  craft.rotors = 6;
  expect_as_built(Part::multirotor, craft,
                  on_body(Part::multirotor, [=](Stage& s, BodyId b) { return add_multirotor(s, "one", craft, b); }));
  RollerTuning ball;
  ball.top_speed = 3;
  expect_as_built(Part::roller, ball,
                  on_body(Part::roller, [=](Stage& s, BodyId b) { return add_roller(s, "one", ball, b); }));
}

TEST(LiveTuning, IsRefusedWholeAndGoesOnFromWhereItIs) {
  Random random(7);
  for (const Part part : all_parts) {
    Quay told, left;
    const ActorId a = add_part(told.stage, part, "one", stance(part, {0, 0, 0}));
    const ActorId b = add_part(left.stage, part, "one", stance(part, {0, 0, 0}));
    const std::uint32_t seed = random.below(1000);
    Random same(seed), again(seed);
    for (int tick = 0; tick < 90; ++tick) {
      if (tick % 10 == 0) drive(told.stage.actor(a), same), drive(left.stage.actor(b), again);
      WalkerTuning walker = troupe_walker();
      walker.run.top_speed = nan;
      LegsTuning legs;
      legs.clearance = 40;
      VehicleTuning cart;
      cart.axles.front().wheel.radius = -1;
      TrackedTuning crane;
      crane.turn_rate = -1;
      MultirotorTuning craft;
      craft.rotors = 1;
      BoatTuning boat;
      boat.thrust = nan;
      LedBodyTuning led;
      led.top_speed = nan;
      RollerTuning ball;
      ball.top_speed = nan;
      Stage& stage = told.stage;
      EXPECT_THROW(stage.set_tuning(a, walker), InputError);
      EXPECT_THROW(stage.set_tuning(a, legs), InputError);
      EXPECT_THROW(stage.set_tuning(a, cart), InputError);
      EXPECT_THROW(stage.set_tuning(a, crane), InputError);
      EXPECT_THROW(stage.set_tuning(a, craft), InputError);
      EXPECT_THROW(stage.set_tuning(a, boat), InputError);
      EXPECT_THROW(stage.set_tuning(a, led), InputError);
      EXPECT_THROW(stage.set_tuning(a, ball), InputError);
      told.stage.tick(1.0 / 60), left.stage.tick(1.0 / 60);
      ASSERT_EQ(told.stage.hash(), left.stage.hash()) << static_cast<int>(part);
    }
  }
}

}  // namespace
}  // namespace jugend::testing
