// For physics that move a body by the velocity at a tick's end (symplectic Euler): under a steady acceleration a such a
// body comes a dt²/2 too far in each tick, and a jump of a forced walker falls short or goes too high by a few percent.
//
//   TwoKicks kicks(physics);             // the port on that engine
//   kicks.add(courier.body());           // each body that a controller drives
//   courier.step(intent, kicks, dt);     // controllers act through it
//   kicks.before_step(dt);
//   engine.step(dt);                     // its own: v += a dt, then x += v dt
//   kicks.after_step();
//   courier.settle(kicks, dt);
//
// Half of each force acts before the bodies move and half after, as the leapfrog method does (kick, drift, kick:
// Hairer, Lubich and Wanner, Geometric Numerical Integration, section I.1); so places and velocities are exact under a
// steady force, gravity among them. What else controllers do to the world goes straight through.
#pragma once

#include <jugend/motion/port/answered.hpp>
#include <vector>

namespace jugend {

class TwoKicks final : public Answered {
 public:
  explicit TwoKicks(Surroundings& physics) : Answered(physics), physics_(physics) {}

  void add(BodyId body) { driven_.push_back({body, {}, {}}); }
  void remove(BodyId body) {
    std::erase_if(driven_, [&](const Driven& one) { return one.body == body; });
  }
  /// When all have acted, before the engine steps.
  void before_step(double dt) {
    dt_ = dt;
    for (const Driven& one : driven_) pull(one.body, -1);
  }
  /// When it has.
  void after_step() {
    for (Driven& one : driven_) {
      physics_.push(one.body, one.force * dt_, physics_.facts(one.body).centre);
      physics_.twist(one.body, one.torque * dt_);
      pull(one.body, 1);
      one.force = one.torque = {};
    }
  }

  void push(BodyId body, const Vec3& impulse, const Vec3& at) override { physics_.push(body, impulse, at); }
  void twist(BodyId body, const Vec3& impulse) override { physics_.twist(body, impulse); }
  void force(BodyId body, const Vec3& force, const Vec3& at) override {
    if (Driven* one = driven(body)) {
      one->force += force * 0.5, one->torque += cross(at - physics_.facts(body).centre, force * 0.5);
      physics_.force(body, force * 0.5, at);
    } else {
      physics_.force(body, force, at);
    }
  }
  void torque(BodyId body, const Vec3& torque) override {
    Driven* one = driven(body);
    if (one != nullptr) one->torque += torque * 0.5;
    physics_.torque(body, one != nullptr ? torque * 0.5 : torque);
  }

 private:
  struct Driven {
    BodyId body;
    Vec3 force, torque;  // the halves that are left for after the step
  };
  Driven* driven(BodyId body) {
    for (Driven& one : driven_) {
      if (one.body == body) return &one;
    }
    return nullptr;
  }
  /// Half a tick's gravity; a body that is gone, or that nothing moves, has none.
  void pull(BodyId id, double sign) {
    const BodyFacts body = physics_.facts(id);
    if (body.mass > 0) physics_.push(id, physics_.gravity(body.centre) * (0.5 * sign * dt_ * body.mass), body.centre);
  }

  Surroundings& physics_;
  std::vector<Driven> driven_;
  double dt_ = 0;
};

}  // namespace jugend
