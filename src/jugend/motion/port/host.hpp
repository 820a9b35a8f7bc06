// What a stage asks of the world that its actors live in, beyond the port's questions: the library's own is one, a
// studio's physics may be another (HostedStage).
//
// Between ticks, from one thread: alive(), remove(), place(), set_motion(), hold(), and the port's deeds. Within a tick
// the stage has its actors step, carries out their deeds in a fixed order, calls step(dt) once, and has them settle;
// how forces are to be integrated stands in surroundings.hpp; for physics that do it otherwise there is two_kicks.hpp.
//
// What the second half asks for has an answer that a host may leave as it is.
#pragma once

#include <jugend/base/hash.hpp>
#include <jugend/base/watch.hpp>
#include <jugend/base/workers.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <string>
#include <vector>

namespace jugend {

class Host : public Surroundings {
 public:
  virtual bool alive(BodyId body) const = 0;
  /// False for one that is gone already.
  virtual bool remove(BodyId body) = 0;
  /// Puts a body elsewhere at once; its velocity stays.
  virtual void place(BodyId body, const Pose& pose) = 0;
  /// Of the pose's origin, m/s, and rad/s.
  virtual void set_motion(BodyId body, const Vec3& velocity, const Vec3& spin) = 0;
  /// Holds a body where it is, whatever acts on it; let go, it goes on as fast as it went.
  virtual void hold(BodyId body, bool held) = 0;
  virtual bool held(BodyId body) const = 0;
  /// Moves all by `dt` s; forces and torques given since the last step act over it and are forgotten.
  virtual void step(double dt) = 0;
  /// All that later steps depend on.
  virtual std::vector<std::byte> saved() const = 0;
  /// Back to what saved() gave. Throws InputError for anything else.
  virtual void bring_back(std::span<const std::byte> saved) = 0;

  /// Of all that a tick changes.
  virtual void add_to(StateHash& hash) const {
    const std::vector<std::byte> all = saved();
    for (const std::byte b : all) hash.add(static_cast<std::uint64_t>(b));
  }
  /// May it be put on rails?
  virtual bool goes_on_rails(BodyId body) const { return facts(body).mass == 0; }
  /// May it sleep when it lies still? A host whose bodies sleep must keep one awake where it may not.
  virtual void set_sleeping(BodyId, bool) {}
  /// For a forced walker whose tuning changes: kg, and its capsule.
  virtual void set_mass(BodyId, double) {}
  virtual void set_capsule(BodyId, const Capsule&) {}
  /// By what others see a swept walker: a body on walker_layer::swept of that mass, which nothing moves but place() and
  /// set_motion(). None: they do not see it.
  virtual BodyId add_figure(const std::string&, const Capsule&, const Pose&, double) { return {}; }
  /// N s that such a body has been given since it was last asked: pushes, and forces over `dt` s. They are forgotten;
  /// with dt = 0 only pushes are asked for, and forces stay.
  virtual Vec3 take_given(BodyId, double) { return {}; }
  /// Who watches the ticks of its stage; nobody, if not said otherwise.
  virtual const Watch& watch() const {
    static const Watch nobody;
    return nobody;
  }
  /// The threads on which actors sense and decide.
  virtual const Workers& workers() const {
    static const Workers alone;
    return alone;
  }
};

}  // namespace jugend
