// One fixed tick of a whole scene, with actors of any kind, in the library's world or a studio's own.
#pragma once

#include <cstdint>
#include <jugend/motion/guidance/rail_motion.hpp>
#include <jugend/stage/actor.hpp>
#include <jugend/stage/deeds.hpp>
#include <jugend/world/world.hpp>
#include <vector>

namespace jugend {

/// A body on rails.
struct Rail {
  BodyId body;
  RailMotion motion;
  Pose start;
};

/// What happened to the stage itself.
enum class StageEventKind : std::uint8_t {
  body_gone,      ///< an actor left since its body is no longer in the world
  intent_refused  ///< what input asked for was no number, and counted as nothing
};
struct StageEvent {
  StageEventKind kind{};
  ActorId actor;
  const Actor* who = nullptr;   ///< the actor, also one that left: until the next tick
  const char* field = nullptr;  ///< intent_refused: which
};

/// A copy of all that ticks change, and of the actors and rails that there are. Taking it again uses the same memory.
class StageSnapshot {
  friend class StageBase;
  friend class Stage;
  friend class HostedStage;
  struct Saved {
    Shared<Actor> actor;  // also one that has left since
    std::uint32_t generation = 0;
    Shared<const ActorBuild> build;
    std::size_t at = 0;  // in bytes_
    Vec3 before;
    bool paused = false;
  };
  Snapshot world_;
  std::vector<std::byte> host_;  // of a world that is not the library's
  std::vector<Saved> slots_;
  std::vector<std::uint32_t> order_;
  std::vector<Shared<const Rail>> rails_;
  std::vector<std::byte> bytes_;
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

/// What all stages have, whatever world their actors live in: see Stage and HostedStage.
class StageBase {
 public:
  virtual ~StageBase() = default;

  // Who is here. Between ticks anybody may come and go. What names an actor throws InputError for one that is gone.

  /// Lets a controller act here: stage.add("courier", Walker({}, {0, 0, 0})). Its kind's header must be included.
  /// Throws InputError for a name that is empty or taken, and for a body that is not in this world.
  template <class Controller>
  ActorId add(std::string name, Controller controller) {
    return add_as<typename KindOf<Controller>::type>(std::move(name), std::move(controller));
  }
  /// The same for a kind that is named.
  template <StageKind Kind>
  ActorId add_as(std::string name, typename Kind::Controller controller) {
    check_name(name);
    return put(Shared<Actor>::make<ActorOf<Kind>>(std::move(name), std::move(controller)));
  }
  /// Takes an actor away, and its body. False for one that is gone already. When a body is taken out of the world its
  /// actor goes too, and the next tick tells.
  bool remove(ActorId id) { return take_away(id, true); }
  /// Takes an actor away; the body that it drove stays as it is, for another controller or for none. What only showed a
  /// walker to others goes.
  bool release(ActorId id) { return take_away(id, false); }
  /// Is it here, and its body in the world?
  bool alive(ActorId id) const { return find(id) != nullptr; }
  /// The actor of that name; none: an id that is none.
  ActorId find(std::string_view name) const;
  /// nullptr where it is gone.
  Actor* find(ActorId id) { return const_cast<Actor*>(std::as_const(*this).find(id)); }
  const Actor* find(ActorId id) const;
  /// What it gives lasts until the actor is gone.
  Actor& actor(ActorId id) { return const_cast<Actor&>(std::as_const(*this).actor(id)); }
  const Actor& actor(ActorId id) const;
  /// An actor that plays a controller of this type, with its controls. Throws InputError where it is another.
  template <class Controller>
  ActorOf<typename KindOf<Controller>::type>& actor_with(ActorId id) {
    Actor& found = actor(id);
    found.template as<Controller>();
    return static_cast<ActorOf<typename KindOf<Controller>::type>&>(found);
  }
  std::size_t actors() const;
  /// The n-th of them, from 0, in the order in which they came; an id that is none where there are fewer.
  ActorId nth(std::size_t n) const;
  /// Calls visit(id, actor) for each, in the order in which they came.
  template <class Visit>
  void for_each(Visit&& visit) const {
    for (const std::uint32_t slot : order_) {
      const ActorId id{slot, slots_[slot].generation};
      if (const Actor* here = find(id)) visit(id, *here);
    }
  }
  ActorFacts facts(ActorId id) const { return actor(id).facts(host()); }

  // What may be done to one.

  /// Its time stands still, and its body is held where it is; presses that come meanwhile never count.
  void pause(ActorId id, bool paused = true);
  /// Puts it elsewhere at once, as if it were new there: at rest on its legs, wheels or rotors but for the velocity
  /// given. Drawing shows no way between. Throws InputError for numbers that are not finite.
  void place(ActorId id, const Placement& there);
  /// For another driver: whatever was asked of it is forgotten.
  void hand_over(ActorId id) { actor(id).let_go(host()); }
  /// Other numbers from the next tick on; what it does, and where, goes on. Throws InputError as the tuning's check
  /// does and for a tuning of another kind; then nothing has changed.
  template <class Tuning>
  void set_tuning(ActorId id, const Tuning& tuning) {
    retune(id, &tuning, TypeMark::of<Tuning>());
  }

  /// Puts a kinematic body on rails. Throws InputError for a body of another kind. It leaves them with remove_rail() or
  /// with the world.
  void add_rail(BodyId body, RailMotion motion);
  /// The body stands still. False for one that is on no rails.
  bool remove_rail(BodyId body);
  /// In the order in which they came.
  std::size_t rails() const { return rails_.size(); }
  const Rail& rail(std::size_t i) const { return *rails_[i]; }

  // Time.

  /// One tick: rails lead, intents are read, controllers sense the poses as they are and act, the world moves,
  /// controllers settle. Those of the library act on all of the world's threads (World::set_threads), with the same
  /// bits for any number: walkers first, who push others, then those who drive bodies. With dt = 0 nothing changes.
  /// Throws InputError, before anything acts, for a dt that World::step refuses.
  void tick(double dt);
  /// See draw_senses() in stage/senses.hpp.
  void draw_senses(double dt, SenseSketch& sketch) const;
  std::uint64_t ticks() const { return ticks_; }
  double now() const { return now_; }  ///< s
  /// Of the last tick, in order.
  std::span<const StageEvent> events() const;

  /// An actor's feet between the last two ticks, `fraction` of the way: for drawing.
  Vec3 drawn_position(ActorId id, double fraction) const;

  void save(StageSnapshot& into) const;
  /// Who has come since is gone, who has left is here again, with the tuning of that time. Throws InputError for a
  /// snapshot of another stage.
  void restore(const StageSnapshot& from);

  /// Of all that ticks have changed: equal for equal input, whatever the compiler or machine.
  std::uint64_t hash() const;

 protected:
  StageBase() = default;
  StageBase(StageBase&&) = default;
  StageBase& operator=(StageBase&&) = default;
  virtual Host& host() = 0;
  const Host& host() const { return const_cast<StageBase*>(this)->host(); }
  virtual void save_host(StageSnapshot& into) const = 0;
  virtual void restore_host(const StageSnapshot& from) = 0;
  struct Scene;  // what the bytes hold: bytes.cpp
  std::vector<std::byte> bytes_with(std::vector<std::byte> world) const;
  static Scene scene_in(std::span<const std::byte> bytes);
  /// `there`: the world as the bytes have it; nullptr where it cannot be asked before it is restored.
  void complete(StageSnapshot& snapshot, const Scene& scene, World* there) const;

 private:
  struct Slot {
    Shared<Actor> actor;
    std::uint32_t generation = 0;
  };
  void check_name(const std::string& name) const;
  ActorId put(Shared<Actor> actor);
  bool take_away(ActorId id, bool with_body);
  void forget(std::uint32_t slot);
  void retune(ActorId id, const void* tuning, const TypeMark& type);
  void drop_bodiless();
  void listen();
  void tell_events() const;
  void lead(double dt);
  void act(bool first, void (Actor::*how)(Surroundings&, double), double dt);
  void look_round(Actor& actor);
  void make_room();

  std::vector<Slot> slots_;
  std::vector<std::uint32_t> order_;  // of those that act
  std::vector<Shared<const Rail>> rails_;
  std::vector<StageEvent> events_;
  std::vector<Shared<Actor>> leaving_;  // told of in the last tick
  // Kept from tick to tick only so that they need no new memory.
  static constexpr std::size_t piece = 8;  // actors that a thread takes at once
  std::vector<Actor*> acting_;
  std::vector<std::vector<Deed>> deeds_;  // of each piece
  std::vector<std::size_t> done_by_;      // up to where a piece's deeds are an actor's and those before it
  std::uint64_t ticks_ = 0;
  double now_ = 0;
};

/// A stage with the library's world.
class Stage final : public StageBase {
 public:
  World world;

  Stage() = default;
  /// The world's arrays in a program's own memory: see World.
  explicit Stage(const Memory* memory) : world(memory) {}

  /// All that a snapshot holds as bytes, the same on every machine: for saved games, and for those who join.
  std::vector<std::byte> to_bytes() const;
  /// A snapshot to restore here, from the bytes of a stage of the same make, perhaps in another process: a level with
  /// the same hulls, meshes and the like (or in `more`, where no body has them now), and an actor of the same name and
  /// kind for each. Bodies, joints, rails, tunings and what all are doing are in the bytes. Filters, pair rules and
  /// what else a program set of controllers are those here. Throws InputError for bytes that to_bytes() did not write,
  /// that were changed, or that do not fit this stage; nothing changes before restore().
  StageSnapshot from_bytes(std::span<const std::byte> bytes, std::span<const Shape> more = {}) const;

 private:
  Host& host() override { return world; }
  void save_host(StageSnapshot& into) const override { world.save(into.world_); }
  void restore_host(const StageSnapshot& from) override { world.restore(from.world_); }
};

/// A stage in a world of a program's own, which must outlive it. What is said of World elsewhere is that host's to do:
/// bodies come from it, stage.add("courier", ForcedWalker(tuning, legs, body)) lets a controller drive one.
class HostedStage final : public StageBase {
 public:
  explicit HostedStage(Host& world) : host_(world) {}

  /// As Stage's; the world's part is what Host::saved() gives.
  std::vector<std::byte> to_bytes() const;
  StageSnapshot from_bytes(std::span<const std::byte> bytes) const;

 private:
  Host& host() override { return host_; }
  void save_host(StageSnapshot& into) const override;
  void restore_host(const StageSnapshot& from) override;
  Host& host_;
};

}  // namespace jugend
