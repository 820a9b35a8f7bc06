// The body of a walker that is a dynamic body: how legs and forces carry out what the brain wants.
//
// The stretches of a tick say where the body shall be at its end, and how fast. One impulse and one force take it
// there: x = v t + a t²/2 and v' = v + a t have one answer. forced_body.cpp: its place, ground and the handing over.
// forced_stretches.cpp: along the ground on its legs, through the air, in water.
#pragma once

#include <jugend/motion/walker/detail/brain_tick.hpp>
#include <jugend/motion/walker/forced_walker.hpp>

namespace jugend {

/// How far legs are off their length, and how fast that changes.
struct LegMotion {
  double stretch = 0;  ///< m; negative: bent
  double rate = 0;     ///< m/s
};
/// What legs can do.
struct LegLimits {
  double least, most;  ///< m/s² that they change the rate by
  double folded;       ///< m, negative: the stretch at which the body lies on the ground
};
/// Legs on their way back to their length, x'' + 2ω x' + ω² x = 0 solved exactly, with x'' kept within the limits.
/// Where they are folded the body stops without a rebound.
LegMotion legs_after(LegMotion legs, double frequency, const LegLimits& limits, double time);

struct ForcedWalker::Body final : WalkerBrain::Tick {
  Body(ForcedWalker& owner, const WalkerIntent& wanted, Surroundings& around, double seconds)
      : Tick(owner, wanted, around, seconds), forced(owner), legs(owner.legs_), id(owner.body_) {}
  const ForcedWalker& forced;
  const LegsTuning& legs;
  const BodyId id;
  BodyFacts body{};
  double borne = 0;   // N s that legs pressed on the ground
  Vec3 drawn_in{};    // m by which the soles came up to the trunk
  double load = 0;    // N that presses it down, as far as is known
  double loaded = 0;  // N s of that, while its legs bore it
  GroundTuning steps = with_steps();
  /// What it runs against that gives way. The world lets the two meet; it foresees that, and pushes by as much more.
  struct Push {
    BodyId body;
    Vec3 normal{}, local{};           // unit, level, towards it; where, in the body's frame
    double from = 0;                  // s into the tick at which they meet
    double mass = 0;                  // kg that it has to the push
    double speed = 0, gives_way = 0;  // m/s over the ground, its own and what it meets gives way at
    double resists = 0;               // N that withstand besides, as the last push found
    double most = 0;                  // N
    double lifts = 0;                 // N up for each N that it is held back by
    bool touched = false;             // as the tick began
    bool met = false;                 // by now
  };
  std::optional<Push> push;
  bool dashes = false;  // in a part of this tick
  /// The first wall that such a tick comes to, and how fast it does (m/s, negative). The world stops it there.
  Vec3 dashed_into{};
  double dashed_with = 0;
  /// What that will do to it in this tick by itself: m/s, and m.
  Vec3 answered{}, answered_way{};
  /// m between its trunk and the ground as the tick began, and that ground's velocity.
  double room_below = endless;
  Vec3 stood_with{};

  bool begin() override;
  void refresh_ground() override;
  double ground_stretch(double time) override;
  double swim_stretch(double time) override;
  double fly(const FlightPlan& plan) override;
  bool pushes_by_contact() const override { return true; }
  double most_push() const override { return state.on_ground ? legs.run_force / body.mass : Tick::most_push(); }
  void touch_down(const Ground& g, const Vec3& relative, double impact) override;
  void finish(const Vec3& start) override;
  Pose pose_held(const BodyFacts& held) const override { return advanced(held.pose, held.velocity, held.spin, dt); }
  void stand_on(const Ground& g) override;
  using Tick::height;
  double height(bool crouched) const override { return tuning.body.height - (crouched ? fold() : 0); }
  void draw_in_feet(double up) override {
    state.position += state.up * up, drawn_in += state.up * up;
    state.ground.distance += up;
  }
  double feet_to_trunk() const override { return legs.clearance - (state.crouched ? fold() : 0); }
  Vec3 reached(const Vec3& from) const override;
  const GroundTuning& footwork() const override { return steps; }
  double touch_margin() const override { return 4 * skin; }
  /// m above the soles that it looks for ground from: what its trunk lies on may have come a little into it.
  double looks_from() const { return legs.clearance + 0.1 * tuning.body.radius; }
  Ground touched_at(const Vec3& feet) const override {
    return sense_ground({feet, state.up, tuning.body.radius, 2 * skin, carrier(), false}, looks_from(), legs.clearance,
                        steps, surroundings, underfoot());
  }
  double least_bank() const override { return wall_rise; }
  double trunk_rise(double time) const override;
  double take_off_bend() const override { return state.on_ground ? std::max(0.0, -state.ground.distance) : 0; }

  bool read_body();
  bool on_legs() const;
  double clear_of_ground(double rise, double end) const;
  /// m/s upwards that bent legs hold: x'' + 2ω x' + ω² x = 0 comes back from any v < ω |x|.
  double held_rise(const Ground& g) const { return 2 * pi * legs.frequency * std::max(0.0, -g.distance); }
  bool catches(const Ground& g, const Vec3& velocity) const;
  bool goes_along(const Ground& g) const { return norm(g.velocity - frame) <= 1e-6 * tuning.run.top_speed; }
  std::optional<Ground> caught_at(const FlightPlan& plan, double time) const;
  double time_of_catch(const FlightPlan& plan, Ground& there) const;
  void tell_weight();
  double fold() const { return 0.9 * legs.clearance; }  // m that its legs fold when it crouches
  GroundTuning with_steps() const {
    GroundTuning own = tuning.ground;
    own.step_height = legs.clearance;
    return own;
  }
  /// What its legs do in the next stretch.
  struct LegStep {
    LegMotion end;
    double rise, rate;  // m and, at its end, m/s of the trunk upwards
  };
  LegStep leg_step(double time) const;
  /// The share of a way that comes before ground too steep to stand on, and the level normal of that.
  struct Steep {
    double share;
    Vec3 wall;
  };
  std::optional<Steep> steep_on(const Vec3& displacement, const Ground& end) const;
  std::optional<double> ends_early(const Way& way, double time);
  std::optional<Hit> runs_into(const Vec3& way);
  void note_struck(const Vec3& wall, const Vec3& velocity);
  std::optional<double> ground_ends(const Vec3& displacement, const Ground& end) const;
  RunRamp next_forced_ramp(const Vec3& level, const Vec3& target, const RunRates& rates, double time) const;
  /// So much that its trunk touches what an upright one would not.
  bool tilts() const {
    return norm(in_plane(rotate(body.pose.orientation, {0, 1, 0}), state.up)) * tuning.body.height > skin;
  }
  std::optional<Push> find_push(const RunRates& rates, double time) const;
  bool pushes() const { return push && push->met; }
  RunRamp push_ramp(const Vec3& into, const Vec3& target, RunRates rates, double time) const;
  double be_answered(const Vec3& acceleration, double time);
  void meet_pushed();
  void note_push();
  Filter underfoot() const;
  double time_of_landing(const FlightPlan& plan, const Ground& g) const;
  void bring(Vec3 displacement, Vec3 end);
  void go_round(const Vec3& start);
  void stand_upright();
};

}  // namespace jugend
