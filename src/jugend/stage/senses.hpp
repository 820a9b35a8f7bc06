// What actors sense, do and wish, for debug drawing: the wheels' rays, the foot's sweeps, the ledge's probes.
//
// Nothing is kept of it from tick to tick: an actor is copied and asked what its next tick would do, so it costs
// nothing until it is drawn, changes nothing, and shows kinds of a program's own as it shows the library's.
#pragma once

#include <jugend/motion/port/answered.hpp>
#include <jugend/stage/actor_id.hpp>

namespace jugend {

class Actor;
class StageBase;

/// Told actor by actor, in the order in which they came. Functions that are not overridden draw nothing.
class SenseSketch {
 public:
  virtual ~SenseSketch() = default;
  /// Whose senses follow.
  virtual void actor(ActorId, const Actor&) {}
  /// From where, which way (m; its length 1 is a full stick): what its input asks for.
  virtual void wish(const Vec3& from, const Vec3& way) { static_cast<void>(from), static_cast<void>(way); }
  /// Questions, each with its answer.
  virtual void ray(const Ray&, const std::optional<Hit>&) {}
  virtual void sweep(const Convex& mover, const Vec3& motion, const std::optional<Hit>&) {
    static_cast<void>(mover), static_cast<void>(motion);
  }
  virtual void near(const Convex& body, double margin, std::span<const Overlap> found) {
    static_cast<void>(body), static_cast<void>(margin), static_cast<void>(found);
  }
  /// What it does to a body, as forces that last for the tick: N at a place; a push counts as one.
  virtual void force(BodyId, const Vec3& at, const Vec3& force) { static_cast<void>(at), static_cast<void>(force); }
};

/// The surroundings as they are, each question told; what is done to them is told, and not done.
class Sensed final : public Answered {
 public:
  Sensed(const Surroundings& by, SenseSketch& sketch, double dt) : Answered(by), sketch_(sketch), dt_(dt) {}
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override;
  void cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const override;
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override;
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override;
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override;
  void force(BodyId body, const Vec3& force, const Vec3& at) override;
  void twist(BodyId, const Vec3&) override {}
  void torque(BodyId, const Vec3&) override {}
  void wish(const Vec3& from, const Vec3& way) const { sketch_.wish(from, way); }

 private:
  SenseSketch& sketch_;
  double dt_;
};

/// Of one actor of kind K; a kind that needs a Host to step shows its wish alone.
template <class K, class Controller, class Controls, class Facts>
void sense_as(const Controller& controller, const Controls& controls, const Facts& facts, Sensed& around, double dt) {
  if constexpr (requires { K::wish(controls, facts); }) around.wish(facts.position, K::wish(controls, facts));
  if constexpr (requires(Controller & c, Controls & told, Surroundings & s) { K::step(c, told, s, 0.0); }) {
    Controller asked = controller;
    Controls told = controls;
    K::step(asked, told, around, dt);
  }
}

/// What each actor that is not paused would sense and do in a tick of `dt` s from here.
void draw_senses(const StageBase& stage, double dt, SenseSketch& sketch);

}  // namespace jugend
