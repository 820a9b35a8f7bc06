// What a stage asks of an actor, whatever its kind, and how a description of a kind becomes one.
//
// A kind is described once for the stage: a struct with what the concept StageKind asks for. Those of the library lie
// in stage/kinds/; examples/own_actor.cpp brings its own.
#pragma once

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <jugend/base/bytes.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/base/shared.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/type_mark.hpp>
#include <jugend/motion/port/host.hpp>
#include <jugend/motion/port/makings.hpp>
#include <jugend/motion/walker/brain.hpp>
#include <jugend/stage/actor_id.hpp>
#include <jugend/stage/senses.hpp>
#include <span>
#include <string>
#include <string_view>
#include <tuple>
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

/// Where an actor is put.
struct Placement {
  Pose pose;            ///< its position as ActorFacts say it; a walker and a ball take their facing of it alone
  Vec3 velocity, spin;  ///< m/s, of a walker against the ground it stands on; rad/s, a walker has none
};

/// A controller as it was made or tuned, kept for snapshots.
struct ActorBuild {
  virtual ~ActorBuild() = default;
};

/// An actor on the stage. Its controller and controls are asked for by their types: actor.as<Vehicle>().
class Actor {
 public:
  virtual ~Actor() = default;
  Actor(const Actor&) = delete;
  Actor& operator=(const Actor&) = delete;

  const std::string& name() const { return name_; }
  virtual std::string_view kind() const = 0;
  virtual ActorFacts facts(const Surroundings& around) const = 0;
  /// A hit; false where it does not count.
  virtual bool hit(const HitBy& hit, Host& host) = 0;
  /// Its body in the world; none: it has no body, or none yet.
  virtual BodyId body() const = 0;
  bool paused() const { return paused_; }
  const Vec3& before() const { return before_; }                ///< where it was a tick earlier, for drawing
  std::span<const ActorEvent> heard() const { return heard_; }  ///< of the last tick, in order

  /// Its controller, its controls, or what these derive from; nullptr where it has no T.
  template <class T>
  T* find() {
    return static_cast<T*>(find_marked(TypeMark::of<T>()));
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
  virtual void* find_marked(const TypeMark& type) = 0;
  std::span<const ActorEvent> heard_;

 private:
  friend class StageBase;
  friend class Stage;
  [[noreturn]] void refuse_kind() const;
  virtual void enter(Host& host) = 0;
  virtual void leave(Host& host, bool with_body) = 0;
  virtual void pause(Host& host, bool paused) = 0;
  virtual void place(const Placement& there, Host& host) = 0;
  virtual void let_go(const Host& host) = 0;
  virtual bool retune(const void* tuning, const TypeMark& type, Host& host) = 0;
  virtual Shared<const ActorBuild> build() const = 0;
  virtual void rebuild(const Shared<const ActorBuild>& build) = 0;
  virtual const char* listen(const Host& host) = 0;  // the field of what it was told that is no number
  virtual bool acts_apart() const = 0;               // it needs no more than Surroundings in step() and settle()
  virtual bool acts_first() const = 0;
  virtual void take(Host& host) = 0;
  virtual void step(Surroundings& around, double dt) = 0;  // a Host where it does not act apart
  virtual bool show(Host& host, double dt) = 0;
  virtual void settle(Surroundings& around, double dt) = 0;
  virtual void tell(const Surroundings& around, double dt) = 0;
  virtual void sense(Sensed& around, double dt) const = 0;
  virtual std::size_t saved_bytes() const = 0;
  virtual void save(std::byte* to) const = 0;
  virtual void restore(const std::byte* from) = 0;
  virtual void add_to_hash(StateHash& hash) const = 0;
  virtual std::uint64_t layout() const = 0;  // of what follows
  virtual void write(ByteWriter& out) const = 0;
  virtual Shared<const ActorBuild> read(ByteReader& in, BodyId body, const Surroundings& there_now,
                                        std::byte* saved) const = 0;

  std::string name_;
  Vec3 before_;
  bool paused_ = false;
};

/// What a stage needs to know of a kind. Where step() and settle() take a Surroundings& instead of a Host&, actors of
/// the kind act at once on all threads: all see the world as it was before any of them acted, and what they do to it is
/// done afterwards in their order. The controller has a described, trivially copyable state that can be restored;
/// the controls are what input sets between ticks. A kind may have more:
///   enter(controller, name, host)       once: it comes on to the stage
///   show(controller, host, dt)          others are about to look where it is now
///   take(controller, host)              what others did to it counts now: before it steps, and before it settles
///   acts_first                          true: it only pushes others, so it acts before those who drive bodies
///   leave(controller, host, with_body)  it goes; its body too, or its body stays
///   pause(controller, host, paused)     its time stands still; else its body is held
///   place(controller, placement, host)  it is put elsewhere; else its body is, and its state is as if it were new
///   wish(controls, facts)               which way its input asks it to go, for debug drawing
///   none(controller, host)              controls that ask for nothing; else Controls{}
///   Tunings                             a std::tuple of what controller.set_tuning(tuning, host) takes; the first,
///                                       which controller.tuning() or whole_tuning() gives, is all of it
///   retuned(controller, host)           that has been called
/// For snapshots as bytes a controller has set_body(id) where it drives one, and where more than its tuning follows
/// from that body, makings() and remake(surroundings): see Vehicle's.
template <class K>
concept StageKind = requires(typename K::Controller& c, const typename K::Controller& known,
                             typename K::Controls& controls, Host& host, const Host& seen, const HitBy& by, double dt) {
  { K::name } -> std::convertible_to<std::string_view>;
  {K::listen(controls)};             // presses become this tick's
  {K::step(c, controls, host, dt)};  // before the world moves
  {K::settle(c, host, dt)};          // after it has; dt = 0: it was put there
  { K::facts(known, seen) } -> std::same_as<ActorFacts>;
  { K::hit(c, by, host) } -> std::same_as<bool>;
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
  ActorFacts facts(const Surroundings& around) const override { return K::facts(controller, around); }
  bool hit(const HitBy& by, Host& host) override { return !paused() && K::hit(controller, by, host); }
  BodyId body() const override {
    if constexpr (requires { controller.body(); })
      return controller.body();
    else
      return {};
  }

 private:
  struct Build final : ActorBuild {
    explicit Build(const Controller& as) : controller(as) {}
    Controller controller;
  };
  Controls& controls() { return *this; }
  const Controls& controls() const { return *this; }
  void* find_marked(const TypeMark& wanted) override {
    if (wanted == TypeMark::of<Controller>()) return &controller;
    if (wanted == TypeMark::of<Controls>()) return &controls();
    if constexpr (requires { typename K::Base; })
      if (wanted == TypeMark::of<typename K::Base>()) return static_cast<typename K::Base*>(&controller);
    return nullptr;
  }
  void enter(Host& host) override {
    if constexpr (requires { K::enter(controller, name(), host); }) K::enter(controller, name(), host);
  }
  bool show(Host& host, double dt) override {
    if constexpr (requires { K::show(controller, host, dt); }) return K::show(controller, host, dt);
    return false;
  }
  void leave(Host& host, bool with_body) override {
    if constexpr (requires { K::leave(controller, host, with_body); })
      K::leave(controller, host, with_body);
    else if (with_body)
      host.remove(body());
  }
  void pause(Host& host, bool paused) override {
    if constexpr (requires { K::pause(controller, host, paused); })
      K::pause(controller, host, paused);
    else if (host.alive(body()))
      host.hold(body(), paused);
  }
  void place(const Placement& there, Host& host) override {
    if constexpr (requires { K::place(controller, there, host); }) {
      K::place(controller, there, host);
    } else {
      host.place(body(), there.pose), host.set_motion(body(), there.velocity, there.spin);
      if constexpr (requires { controller.start_anew(); })
        controller.start_anew();
      else
        controller.restore(State{});
    }
  }
  Controls none([[maybe_unused]] const Host& host) const {
    if constexpr (requires { K::none(controller, host); })
      return K::none(controller, host);
    else
      return {};
  }
  void let_go(const Host& host) override { controls() = none(host); }
  bool retune([[maybe_unused]] const void* tuning, [[maybe_unused]] const TypeMark& type,
              [[maybe_unused]] Host& host) override {
    bool known = false;
    if constexpr (requires { typename K::Tunings; }) {
      const auto try_as = [&]<class Tuning>(const Tuning*) {
        if (type != TypeMark::of<Tuning>()) return;
        keep_original();
        controller.set_tuning(*static_cast<const Tuning*>(tuning), host), known = true;
      };
      [&]<class... Each>(const std::tuple<Each...>*) {
        (try_as(static_cast<const Each*>(nullptr)), ...);
      }(static_cast<const typename K::Tunings*>(nullptr));
      if constexpr (requires { K::retuned(controller, host); })
        if (known) K::retuned(controller, host);
      if (known) build_ = built(controller);
    }
    return known;
  }
  static Shared<const ActorBuild> built(const Controller& as) {
    return Shared<const ActorBuild>(Shared<Build>::template make<Build>(as));
  }
  void keep_original() {
    if (!original_) original_ = built(controller);
  }
  Shared<const ActorBuild> build() const override { return build_; }
  void rebuild(const Shared<const ActorBuild>& build) override {
    if (build == build_) return;
    keep_original();
    const auto& as = build ? build : original_;
    controller = static_cast<const Build&>(*as).controller, build_ = build;
  }
  const char* listen(const Host& host) override {
    const char* refused = not_finite_in(std::as_const(*this).controls());
    if (refused != nullptr) make_finite(controls(), none(host));
    K::listen(controls());
    return refused;
  }
  static constexpr bool apart = requires(Controller & c, Controls& told, Surroundings& around) {
    K::step(c, told, around, 0.0), K::settle(c, around, 0.0);
  };
  bool acts_apart() const override { return apart; }
  bool acts_first() const override {
    return requires { K::acts_first; };
  }
  void take(Host& host) override {
    if constexpr (requires { K::take(controller, host); }) K::take(controller, host);
  }
  static auto& as_seen(Surroundings& around) {
    if constexpr (apart)
      return around;
    else
      return static_cast<Host&>(around);
  }
  void step(Surroundings& around, double dt) override { K::step(controller, controls(), as_seen(around), dt); }
  void settle(Surroundings& around, double dt) override { K::settle(controller, as_seen(around), dt); }
  void tell(const Surroundings& around, double dt) override {
    events_ = K::events(controller, PastTick{before(), facts(around).position, dt});
    heard_ = {events_.begin(), events_.size()};
  }
  void sense(Sensed& around, double dt) const override {
    sense_as<K>(controller, controls(), facts(around), around, dt);
  }
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
  static constexpr bool tuned = requires { typename K::Tunings; };
  static auto whole_tuning(const Controller& of) {
    if constexpr (requires { of.whole_tuning(); })
      return of.whole_tuning();
    else if constexpr (tuned)
      return of.tuning();
    else
      return 0;
  }
  static constexpr bool is_made = requires(Controller & c, const Surroundings& around) {
    c.makings(), c.remake(around);
  };
  using Tuning = decltype(whole_tuning(std::declval<const Controller&>()));
  std::vector<std::byte> bytes_of_tuning() const {
    const Tuning tuning = whole_tuning(controller);
    ByteWriter out;
    write_tuning(out, TunablesOf<Tuning>::list(), &tuning);
    return out.bytes();
  }
  std::uint64_t layout() const override {
    StateHash hash;
    add_layout<State>(hash), add_layout<Controls>(hash);
    if constexpr (tuned) hash.add(layout_of(TunablesOf<Tuning>::list()));
    if constexpr (is_made) add_layout<Makings>(hash);
    return hash.value();
  }
  void write(ByteWriter& out) const override {
    if constexpr (is_made) pass(out, controller.makings());
    if constexpr (tuned) out.all_of(bytes_of_tuning());
    pass(out, controller.state()), pass(out, controls());
  }
  /// Its controller as the bytes have it, for rebuild(); its state and controls go to where restore() finds them.
  Shared<const ActorBuild> read(ByteReader& in, BodyId body, const Surroundings& there_now,
                                std::byte* saved) const override {
    Controller there = controller;
    if constexpr (requires { there.set_body(body); })
      there.set_body(body);
    else
      in.need(body == this->body());
    Makings makings;
    if constexpr (is_made) pass(in, makings);
    const MadeOf made(makings);
    const Surroundings& around = is_made ? static_cast<const Surroundings&>(made) : there_now;
    bool anew = false;
    if constexpr (tuned) {
      Tuning then = whole_tuning(there);
      const auto now = bytes_of_tuning();
      read_tuning(in, TunablesOf<Tuning>::list(), &then);
      ByteWriter read;
      write_tuning(read, TunablesOf<Tuning>::list(), &then);
      if (in.ok() && read.bytes() != now) there.set_tuning(then, around), anew = true;
    }
    if constexpr (is_made)
      if (in.ok() && !anew) there.remake(around);
    State state = controller.state();
    Controls told = controls();
    pass(in, state), pass(in, told);
    std::memcpy(saved, &state, sizeof(State));
    std::memcpy(saved + sizeof(State), static_cast<const void*>(&told), sizeof(Controls));
    return built(there);
  }

  decltype(K::events(std::declval<const Controller&>(), PastTick{})) events_{};
  Shared<const ActorBuild> original_, build_;  // none: it was never tuned anew
};

}  // namespace jugend
