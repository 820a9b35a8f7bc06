// The body of a walker that is moved by sweeps: what it senses, and how it carries out what the brain wants.
//
// swept_body.cpp: where it stands, what has moved into it, what bears it. swept_ground.cpp: along the ground.
// swept_air.cpp: through air and water.
#pragma once

#include <jugend/motion/walker/detail/brain_tick.hpp>
#include <jugend/motion/walker/walker.hpp>

namespace jugend {

struct Walker::Body final : WalkerBrain::Tick {
  using Tick::Tick;
  bool push_spent = false;
  Vec3 follows{};  // m that what it pushes leaves behind it in this tick
  BodyId followed{};
  double left_at = -1;  // s into the tick at which it walked off the ground; who lands again in no time stays

  bool begin() override;
  void refresh_ground() override;
  double ground_stretch(double time) override;
  double swim_stretch(double time) override;
  double fly(const FlightPlan& plan) override;
  void touch_down(const Ground& g, const Vec3& relative, double impact) override;
  void finish(const Vec3& start) override;
  void stand_on(const Ground& g) override;
  using Tick::height;
  double height(bool crouched) const override { return tuning.height(crouched); }
  Ground touched_at(const Vec3& feet) const override {
    return sense(feet, tuning.ground.step_height, tuning.ground.step_height);
  }
  double clear_of_steps() const override { return state.on_ground ? tuning.ground.step_height : 0; }

  // swept_body.cpp
  void settle();
  bool ride(bool last);
  void board();
  void land_on_what_rose();
  void leave_solids();
  void push_out(const Overlap& deepest, bool by_movable, double share);
  void exchange_speed(const Overlap& deepest, const BodyFacts& facts);

  // swept_ground.cpp
  /// Where a displacement along the ground ends, and what it meets.
  struct Walk {
    Vec3 position;
    Ground ground;
    double share = 1;          // of the displacement, done before a wall
    std::optional<Vec3> wall;  // its level normal
    std::optional<Vec3> low;   // the level normal of where ground and roof come too near one another
    Hit hit;                   // what stopped it
  };
  Walk try_walk(const Vec3& displacement) const;
  Walk last_that_holds(const Vec3& displacement, Walk& failed) const;
  Vec3 past_barriers(const Vec3& along) const;
  Vec3 seen_from_ground(const Way& way) const;
  double go(const Way& way, const Vec3& end, bool by_face);
  void finish_ground_stretch(double time, const Vec3& relative);
  void meet_wall(const Vec3& n, BodyId body, const Vec3& at, Vec3& velocity, double spent);
  struct Push {
    double force = 0;   // N
    double gained = 0;  // m/s that it adds to what it pushes
  };
  Push push_wall(const BodyFacts& facts, BodyId body, const Vec3& n, const Vec3& at, double wanted, double share);
  void follow_pushed();
  void close_up();

  // swept_air.cpp
  /// What a flight meets, and the velocity as seen from which it was met.
  struct Meeting {
    Hit hit;
    Vec3 velocity;
  };
  std::optional<Meeting> first_met(const FlightPlan& plan, const Vec3& seen_from) const;
  double touch(const Meeting& met, const FlightPlan& plan);
  bool touch_ground(const Hit& hit, const Vec3& arriving, const Vec3& relative);
  void bounce_off(const Hit& hit, const BodyFacts& facts, const Vec3& arriving, const Vec3& relative);
};

}  // namespace jugend
