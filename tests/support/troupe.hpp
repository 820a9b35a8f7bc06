// One actor of every kind that the library has, on a quay with a dock, for tests that hold of whoever acts.
#pragma once

#include <gtest/gtest.h>

#include <jugend/base/error.hpp>
#include <jugend/stage/kinds.hpp>
#include <string>
#include <vector>

#include "random.hpp"

namespace jugend::testing {

enum class Part : std::uint8_t { walker, forced, roller, led_body, vehicle, tracked, multirotor, boat };
inline constexpr Part all_parts[] = {Part::walker,  Part::forced,  Part::roller,     Part::led_body,
                                     Part::vehicle, Part::tracked, Part::multirotor, Part::boat};

/// A quay at height 0 that is level for 200 m, and from z = 300 on water as high.
inline void add_quay(World& world) {
  world.add({.shape = Box{{200, 1, 200}}, .pose = {{0, -1, 0}, {}}});
  world.add_pool({.half_extents = {200, 10, 200}, .pose = {{0, -10, 600}, {}}});
}

/// Where a part stands at rest, or hovers, over `at` on the quay; a boat floats as far out in the dock.
inline Pose stance(Part part, const Vec3& at, double angle = 0) {
  const double rise[] = {0, 0, 0.5, 0.3, 0.7, 0.5, 3, -0.1};
  const Vec3 dock = part == Part::boat ? Vec3{0, 0, 600} : Vec3{};
  return {at + dock + Vec3{0, rise[static_cast<int>(part)], 0}, rotation({0, angle, 0})};
}

inline WalkerTuning troupe_walker() {
  WalkerTuning tuning;
  tuning.jump.air_jumps = 1, tuning.jump.tap_height = 0.4;
  tuning.dash.charge.charges = tuning.launch.charge.charges = 1;
  return tuning;
}

inline BodyPlan body_of(Part part, const Pose& pose) {
  const Shape shapes[] = {{},
                          {},
                          Sphere{0.5},
                          Capsule{0.3, 0.4},
                          Box{{1.1, 0.2, 0.5}},
                          Box{{1.4, 0.2, 0.7}},
                          Box{{0.2, 0.05, 0.2}},
                          Box{{2.5, 0.45, 1}}};
  const double masses[] = {0, 0, 20, 40, 240, 2000, 2, 3500};
  BodyPlan plan;
  plan.shape = shapes[static_cast<int>(part)], plan.mass = masses[static_cast<int>(part)];
  plan.kind = BodyKind::dynamic, plan.pose = pose;
  plan.can_sleep = false;
  if (part == Part::led_body) plan.locks = lock::turn_x | lock::turn_z, plan.surface.friction = 0;
  return plan;
}

inline ActorId add_part(Stage& stage, Part part, std::string name, const Pose& pose) {
  const Vec3 facing = rotate(pose.orientation, {1, 0, 0});
  if (part == Part::walker) return stage.add(std::move(name), Walker(troupe_walker(), pose.position, facing));
  if (part == Part::forced) return add_forced(stage, std::move(name), troupe_walker(), {}, pose.position, facing);
  const BodyId body = stage.world.add(body_of(part, pose));
  switch (part) {
    case Part::roller: return add_roller(stage, std::move(name), {}, body);
    case Part::led_body: return add_led_body(stage, std::move(name), {}, body);
    case Part::vehicle: return add_vehicle(stage, std::move(name), {}, body);
    case Part::tracked: return add_tracked_vehicle(stage, std::move(name), {}, body);
    case Part::multirotor: return add_multirotor(stage, std::move(name), {}, body);
    default: return add_boat(stage, std::move(name), {}, body);
  }
}

/// Whatever input may ask of it, drawn at random.
inline void drive(Actor& actor, Random& random) {
  const double x = random.uniform(-1, 1);
  const double z = random.uniform(-1, 1);
  const double other = random.uniform(0, 1);
  const bool press = random.below(4) == 0;
  const bool dash = random.below(6) == 0;
  if (auto* walker = actor.find<WalkerControls>()) {
    walker->intent.move = {x, 0, z};
    walker->jump.set(press);
    if (dash) walker->dash.tap();
  } else if (auto* ball = actor.find<RollerControls>()) {
    ball->intent.move = {x, 0, z}, ball->jump.set(press);
  } else if (auto* led = actor.find<LedBodyControls>()) {
    led->intent = {{x, 0, z}, 3 * other};
  } else if (auto* cart = actor.find<VehicleControls>()) {
    cart->drive = {.throttle = x, .brake = dash ? other : 0, .steer = z};
  } else if (auto* crane = actor.find<TrackedControls>()) {
    crane->drive = {.throttle = x, .steer = z, .brake = dash ? other : 0};
  } else if (auto* craft = actor.find<MultirotorControls>()) {
    craft->fly.ahead = x, craft->fly.right = z, craft->fly.climb = 0.3 * (other - 0.5);
  } else {
    actor.as<BoatControls>().helm = {x, z};
  }
}

/// What a random show does in a tick: the same for the same draws.
inline void act(Stage& stage, Random& random, double far, std::vector<ActorId>& known, int& named) {
  for (const ActorId id : known) {
    if (Actor* actor = stage.find(id)) drive(*actor, random);
  }
  const Part part = all_parts[random.below(8)];
  const double x = random.uniform(-far, far);
  const double z = random.uniform(-far, far);
  const std::size_t which = random.below(static_cast<std::uint32_t>(known.size() + 1));
  const ActorId id = which < known.size() ? known[which] : ActorId{};
  const std::uint32_t what = random.below(9);
  if (what == 0 && stage.actors() < 16)
    return known.push_back(add_part(stage, part, "actor_" + std::to_string(named++), stance(part, {x, 0, z})));
  Actor* actor = stage.find(id);
  if (actor == nullptr) {
    EXPECT_FALSE(stage.remove(id));
    EXPECT_FALSE(stage.release(id));
    EXPECT_THROW(stage.pause(id), InputError);
    EXPECT_THROW(stage.facts(id), InputError);
    return;
  }
  const BodyId body = actor->body();
  switch (what) {
    case 1:
      EXPECT_TRUE(stage.remove(id));
      EXPECT_FALSE(stage.world.alive(body));
      break;
    case 2: EXPECT_TRUE(stage.release(id)); break;
    case 3:
      stage.world.remove(body);
      EXPECT_FALSE(stage.alive(id));
      break;
    case 4: stage.pause(id, !actor->paused()); break;
    case 5: stage.place(id, {{{x, 8, z}, rotation({0, x, 0})}, {z / 20, 0, 0}, {}}); break;
    case 6: stage.hand_over(id); break;
    case 7:
      if (actor->find<Walker>()) {
        WalkerTuning tuning = troupe_walker();
        tuning.run.top_speed = random.uniform(3, 9), tuning.body.mass = random.uniform(30, 90);
        stage.set_tuning(id, tuning);
      } else if (actor->find<ForcedWalker>()) {
        LegsTuning legs;
        legs.frequency = random.uniform(2, 6);
        stage.set_tuning(id, legs);
      } else if (actor->find<Vehicle>()) {
        VehicleTuning tuning;
        tuning.drive.top_speed = random.uniform(8, 20);
        stage.set_tuning(id, tuning);
      } else if (actor->find<Multirotor>()) {
        MultirotorTuning tuning;
        tuning.rotors = 3 + static_cast<int>(random.below(6));
        stage.set_tuning(id, tuning);
      } else {
        EXPECT_THROW(stage.set_tuning(id, VehicleTuning{}), InputError);
      }
      break;
    default: break;
  }
}

}  // namespace jugend::testing
