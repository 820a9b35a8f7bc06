// One fixed tick of a whole scene, with actors of any kind.
#pragma once

#include <cstdint>
#include <jugend/motion/guidance/rail_motion.hpp>
#include <jugend/stage/actor.hpp>
#include <vector>

namespace jugend {

/// A body on rails.
struct Rail {
  BodyId body;
  RailMotion motion;
  Pose start;
};

/// A copy of all that ticks change. Taking it again uses the same memory.
class StageSnapshot {
  friend class Stage;
  struct Saved {
    const void* as = nullptr;  // which kind's state it is
    std::size_t at = 0;        // in bytes_
    Vec3 before;
  };
  Snapshot world_;
  std::vector<Saved> actors_;
  std::vector<std::byte> bytes_;
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

class Stage {
 public:
  World world;

  /// Lets a controller act here: stage.add("courier", Walker({}, {0, 0, 0})). Its kind's header must be included.
  /// Throws InputError for a name that is empty or taken.
  template <class Controller>
  std::size_t add(std::string name, Controller controller) {
    return add_as<typename KindOf<Controller>::type>(std::move(name), std::move(controller));
  }
  /// The same for a kind that is named.
  template <StageKind Kind>
  std::size_t add_as(std::string name, typename Kind::Controller controller) {
    check_name(name);
    return put(Shared<Actor>::make<ActorOf<Kind>>(std::move(name), std::move(controller)));
  }
  /// Puts a kinematic body on rails. Throws InputError for a body of another kind.
  void add_rail(BodyId body, RailMotion motion);
  const std::vector<Rail>& rails() const { return rails_; }

  Actor& actor(std::size_t index) { return *actors_[index]; }
  const Actor& actor(std::size_t index) const { return *actors_[index]; }
  /// An actor that plays a controller of this type, with its controls. Throws InputError where it is another.
  template <class Controller>
  ActorOf<typename KindOf<Controller>::type>& actor_with(std::size_t index) {
    actor(index).template as<Controller>();
    return static_cast<ActorOf<typename KindOf<Controller>::type>&>(actor(index));
  }
  std::size_t actors() const { return actors_.size(); }
  ActorFacts facts(std::size_t index) const { return actors_[index]->facts(world); }

  /// One tick: rails lead, intents are read, controllers sense the poses as they are and act, the world moves,
  /// controllers settle.
  void tick(double dt);
  std::uint64_t ticks() const { return ticks_; }
  double now() const { return now_; }  ///< s

  /// An actor's feet between the last two ticks, `fraction` of the way: for drawing.
  Vec3 drawn_position(std::size_t index, double fraction) const;

  void save(StageSnapshot& into) const;
  /// Throws InputError for a snapshot of another stage, or of one with other actors.
  void restore(const StageSnapshot& from);

  /// Of all that ticks have changed: equal for equal input, whatever the compiler or machine.
  std::uint64_t hash() const;

 private:
  void check_name(const std::string& name) const;
  std::size_t put(Shared<Actor> actor);
  void lead(double dt);

  std::vector<Shared<Actor>> actors_;
  std::vector<Rail> rails_;
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

}  // namespace jugend
