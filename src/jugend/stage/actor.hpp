// What a stage asks of an actor, whatever its kind, and how a description of a kind becomes one.
//
// A kind is described once for the stage: a struct with what the concept StageKind asks for. Those of the library lie
// in stage/kinds/; examples/own_actor.cpp brings its own.
#pragma once

#include <concepts>
#include <cstddef>
#include <cstring>
#include <jugend/base/fields.hpp>
#include <jugend/motion/walker/brain.hpp>
#include <jugend/world/world.hpp>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

namespace jugend {

using ActorEvent = WalkerEvent;
using ActorMode = WalkerMode;

/// What plots and tables ask of any actor.
struct ActorFacts {
  Vec3 position, velocity, facing{1, 0, 0};  ///< of feet (a ball: its lowest point; what leads a body: the body's)
  Vec3 up{0, 1, 0};
  ActorMode mode = ActorMode::idle;
  bool on_ground = false;
  double slope = 0;    ///< rad, of the ground stood on
  double control = 1;  ///< weight of input, 0 to 1
  Vec3 ground_velocity;
};

/// A tick that is over, for those who tell what happened in it.
struct PastTick {
  Vec3 before, now;  ///< where the actor was, and is
  double dt = 0;     ///< s
};

/// An actor on the stage. Its controller and controls are asked for by their types: actor.as<Vehicle>().
class Actor {
 public:
  virtual ~Actor() = default;
  Actor(const Actor&) = delete;
  Actor& operator=(const Actor&) = delete;

  const std::string& name() const { return name_; }
  virtual std::string_view kind() const = 0;
  virtual ActorFacts facts(const World& world) const = 0;
  /// A hit; false where it does not count.
  virtual bool hit(const HitBy& hit, World& world) = 0;
  const Vec3& before() const { return before_; }                ///< where it was a tick earlier, for drawing
  std::span<const ActorEvent> heard() const { return heard_; }  ///< of the last tick, in order

  /// Its controller, its controls, or what these derive from; nullptr where it has no T.
  template <class T>
  T* find() {
    return static_cast<T*>(find_marked(&mark<T>));
  }
  template <class T>
  const T* find() const {
    return const_cast<Actor*>(this)->find<T>();
  }
  /// The same where it is known to be one. Throws InputError where it is not.
  template <class T>
  T& as() {
    if (T* found = find<T>()) return *found;
    refuse_kind();
  }
  template <class T>
  const T& as() const {
    return const_cast<Actor*>(this)->as<T>();
  }

 protected:
  explicit Actor(std::string name) : name_(std::move(name)) {}
  template <class T>
  static inline char mark = 0;  // its address tells types apart
  virtual void* find_marked(const void* mark) = 0;
  std::span<const ActorEvent> heard_;

 private:
  friend class Stage;
  [[noreturn]] void refuse_kind() const;
  virtual void enter(World& world) = 0;
  virtual void listen() = 0;
  virtual void step(World& world, double dt) = 0;
  virtual bool show(World& world, double dt) = 0;
  virtual void settle(World& world, double dt) = 0;
  virtual const void* saved_as() const = 0;
  virtual std::size_t saved_bytes() const = 0;
  virtual void save(std::byte* to) const = 0;
  virtual void restore(const std::byte* from) = 0;
  virtual void add_to_hash(StateHash& hash) const = 0;

  std::string name_;
  Vec3 before_;
};

/// What a stage needs to know of a kind. The controller has a described, trivially copyable state that can be restored;
/// the controls are what input sets between ticks. A kind without a body in the world may have two more:
/// enter(controller, name, world), once, and show(controller, world, dt), whenever others are about to look where it is
/// now.
template <class K>
concept StageKind = requires(typename K::Controller& c, const typename K::Controller& known,
                             typename K::Controls& controls, World& world, const World& seen, const HitBy& by,
                             double dt) {
  { K::name } -> std::convertible_to<std::string_view>;
  {K::listen(controls)};              // presses become this tick's
  {K::step(c, controls, world, dt)};  // before the world moves
  {K::settle(c, world, dt)};          // after it has; dt = 0: it was put there
  { K::facts(known, seen) } -> std::same_as<ActorFacts>;
  { K::hit(c, by, world) } -> std::same_as<bool>;
  {K::events(known, PastTick{})};  // a list, or a span, of ActorEvent
  {c.restore(known.state())};
  requires Described<std::remove_cvref_t<decltype(known.state())>>;
  requires Described<typename K::Controls>;
  requires std::is_trivially_copyable_v<std::remove_cvref_t<decltype(known.state())>>;
  requires std::is_trivially_copyable_v<typename K::Controls>;
};

/// The kind that plays a controller: specialised beside each kind.
template <class Controller>
struct KindOf;

/// An actor of one kind; what input sets is a part of it.
template <StageKind K>
class ActorOf final : public Actor, public K::Controls {
 public:
  using Controller = typename K::Controller;
  using Controls = typename K::Controls;
  using State = std::remove_cvref_t<decltype(std::declval<const Controller&>().state())>;

  ActorOf(std::string name, Controller played) : Actor(std::move(name)), controller(std::move(played)) {}
  Controller controller;

  std::string_view kind() const override { return K::name; }
  ActorFacts facts(const World& world) const override { return K::facts(controller, world); }
  bool hit(const HitBy& by, World& world) override { return K::hit(controller, by, world); }

 private:
  Controls& controls() { return *this; }
  const Controls& controls() const { return *this; }
  void* find_marked(const void* wanted) override {
    if (wanted == &mark<Controller>) return &controller;
    if (wanted == &mark<Controls>) return &controls();
    if constexpr (requires { typename K::Base; })
      if (wanted == &mark<typename K::Base>) return static_cast<typename K::Base*>(&controller);
    return nullptr;
  }
  void enter(World& world) override {
    if constexpr (requires { K::enter(controller, name(), world); }) K::enter(controller, name(), world);
  }
  bool show(World& world, double dt) override {
    if constexpr (requires { K::show(controller, world, dt); }) return K::show(controller, world, dt);
    return false;
  }
  void listen() override { K::listen(controls()); }
  void step(World& world, double dt) override { K::step(controller, controls(), world, dt); }
  void settle(World& world, double dt) override {
    K::settle(controller, world, dt);
    events_ = K::events(controller, PastTick{before(), facts(world).position, dt});
    heard_ = {events_.begin(), events_.size()};
  }
  const void* saved_as() const override { return &mark<ActorOf>; }
  std::size_t saved_bytes() const override { return sizeof(State) + sizeof(Controls); }
  void save(std::byte* to) const override {
    std::memcpy(to, &controller.state(), sizeof(State));
    std::memcpy(to + sizeof(State), static_cast<const void*>(&controls()), sizeof(Controls));
  }
  void restore(const std::byte* from) override {
    State state;
    std::memcpy(static_cast<void*>(&state), from, sizeof(State));
    controller.restore(state);
    std::memcpy(static_cast<void*>(&controls()), from + sizeof(State), sizeof(Controls));
  }
  void add_to_hash(StateHash& hash) const override { add_to(hash, controller.state()), add_to(hash, controls()); }

  decltype(K::events(std::declval<const Controller&>(), PastTick{})) events_{};
};

}  // namespace jugend
