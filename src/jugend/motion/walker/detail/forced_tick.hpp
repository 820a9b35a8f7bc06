// One tick of a forced walker, as its parts see it. Inner to the walker.
//
// A tick works out, in closed form, where the moves want the body to be and how fast at the tick's end, and
// then the one impulse and the one force that take it there: x = v t + a t²/2 and v' = v + a t have one answer.
// forced_walker.cpp: the order of a tick, what is sensed, where it goes. forced_moves.cpp: what input, hits and
// what is at hand start.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/motion/walker/forced_walker.hpp>

namespace jugend {

struct ForcedWalker::Tick {
  const WalkerTuning& tuning;
  const RideTuning& ride;
  const WalkerIntent& intent;
  ForcedWalkerState& state;
  WalkerEvents& events;
  Surroundings& surroundings;
  const BodyId id;
  const double dt;
  const ForcedWalker& walker;
  BodyFacts body{};
  Jump jump{tuning.jump, state.jump};
  Stagger stagger{tuning.stagger, state.stagger};
  double mass = 0, strength = 0;
  const double skin = 1e-3 * tuning.body.radius;
  Filter others{};
  bool swims = false;
  void run();
  bool held() const { return state.on_ground && !state.rising; }
  void emit(WalkerEventKind kind, double value = 0) {
    events.push_back({kind, 0, state.feet, value, {}, JumpFrom::nowhere, {}});
  }
  void sense();
  /// The body without the legs, thinner by the skin: what queries sweep.
  struct Trunk {
    std::array<Vec3, 2> ends;
    double radius;
    Convex view() const { return {ends, radius, Core::segment}; }
  };
  Trunk trunk(const Vec3& feet) const {
    const Vec3 centre = feet + state.up * walker.middle(), half = state.up * figure_of(tuning, ride).half_length;
    return {{centre - half, centre + half}, tuning.body.radius - skin};
  }
  bool room_for(const Vec3& feet) const {
    std::array<Overlap, 1> found;
    return surroundings.overlaps(trunk(feet).view(), 0, found, others) == 0;
  }
  void feel_water();
  void feel_dangers();
  bool stomp(const Ground& g, double rising);
  void feel_walls();
  bool catch_ledge(const Vec3& way);
  void follow_hold();
  bool hold_on();
  void begin_climb();
  void let_go();
  bool left_hold = false;
  void leave();
  void feel_hit();
  bool thrown() const { return stagger.left(0) > 1e-12; }
  bool dashing() const { return state.dash.left > 1e-12; }
  void crouch();
  JumpFrom at_hand() const;
  void act();
  bool room_to_stand() const {
    return !surroundings.sweep(trunk(state.feet).view(), state.up * (0.9 * ride.clearance), others);
  }
  void take_off(double speed, JumpFrom from);
  /// A way and a speed at the tick's end.
  struct Target {
    double way = 0, speed = 0;
    double limit = 1e300;  // N that may be used beyond the weight
  };
  struct Level {
    Vec3 way, velocity;
    double limit;
  };
  Target rise_target(double rising);
  FallLaw law() const;
  Level level_target();
  void bring(const Vec3& way, const Vec3& end);
  void move();
  void stand_upright();
  void turn_to_face();
  void choose_mode();
};

}  // namespace jugend
