// The world that ships with the library: bodies that fall, touch, push and hang together, and the queries
// over them.
//
//   World world;
//   world.add({.shape = Box{{10, 0.5, 10}}, .pose = {{0, -0.5, 0}, {}}});
//   const BodyId crate = world.add({.shape = Box{}, .pose = {{0, 2, 0}, {}}, .kind = BodyKind::dynamic});
//   world.push(crate, {0, 0, 40});
//   world.step(1.0 / 60);
#pragma once

#include <concepts>
#include <jugend/base/hash.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/memory.hpp>
#include <jugend/base/workers.hpp>
#include <jugend/motion/port/host.hpp>
#include <jugend/world/body.hpp>
#include <jugend/world/gravity_field.hpp>
#include <jugend/world/joint.hpp>
#include <jugend/world/pool.hpp>
#include <string>
#include <utility>
#include <vector>

namespace jugend {

namespace world_state {
struct Body;
struct Pair;
struct Joint;
}  // namespace world_state

/// A copy of all that steps change, and of the bodies, joints, groups and zones that there are. It can be
/// restored into the world that it was taken of, as often as wished. Taking it again uses the same memory.
class Snapshot {
 public:
  std::size_t bytes() const { return used_; }

 private:
  friend class World;
  std::vector<std::byte> data_;
  std::size_t used_ = 0;
  std::uint64_t world_ = 0;
  std::vector<Shape> shapes_;
  std::vector<std::string> names_;
  std::uint64_t shapes_version_ = 0, names_version_ = 0;
};

/// One body's contact with another as it is now; points are those of World::visit_contacts.
struct ContactFacts {
  BodyId a, b;
  Vec3 normal;  ///< unit, from b towards a
  struct Point {
    Vec3 at;
    double separation = 0;  ///< m; negative: pressed in
    double force = 0;       ///< N along the normal, mean of the last tick
    Vec3 friction;          ///< N on a
  };
  InlineList<Point, 4> points;
};

/// Whether two bodies may touch. It is asked within steps, and only answers: what changes the world there is refused
/// with InputError (key "pair_rule"), which comes out of step(). A tick longer than 1/60 s may have gone part of its
/// way.
struct PairRule {
  virtual ~PairRule() = default;
  virtual bool allows(BodyId a, BodyId b) = 0;
};
template <class Rule>
struct PairRuleOf final : PairRule {
  explicit PairRuleOf(Rule told) : rule(std::move(told)) {}
  bool allows(BodyId a, BodyId b) override { return rule(a, b); }
  Rule rule;
};

/// How many a world has memory for: see World::reserve().
struct WorldRoom {
  std::size_t bodies = 64;
  /// Of bodies that touch or are near one another, at a time; one with a mesh, tiles or another shape of many parts
  /// counts as eight.
  std::size_t pairs = 64;
  std::size_t joints = 16;
};

/// Throws InputError for seconds that no tick can have: negative, not finite, or more than 10.
void check_tick(double dt);

class World final : public Host {
 public:
  World();
  /// The same with a program's own memory for all arrays: bodies, contacts, what the solver needs. Names and shapes are
  /// the heap's. It must outlive the world, and the worlds that from_bytes() makes. Throws InputError where one of the
  /// functions is missing.
  explicit World(const Memory* memory);
  ~World() override;
  /// What it was moved from is no world any more: it may only be destroyed or be given another.
  World(World&&) noexcept;
  World& operator=(World&&) noexcept;
  World(const World&) = delete;
  World& operator=(const World&) = delete;

  // Bodies. Those that name a body throw InputError for one that is gone, and for numbers that are not finite.

  /// Throws InputError for a shape that check() refuses, numbers that are not finite or out of range, a
  /// rotation that is not of unit length, a velocity of a fixed body, or a dynamic body without mass.
  BodyId add(BodyPlan plan);
  /// False for a body that is gone already. Its joints go with it.
  bool remove(BodyId id) override;
  bool alive(BodyId id) const override;
  std::size_t size() const;
  /// Calls visit(id) for every body, in the order of their indices.
  template <class Visit>
  void for_each(Visit&& visit) const {
    for (std::uint32_t i = 0; i < body_slots(); ++i) {
      if (const BodyId id = body_in(i)) visit(id);
    }
  }

  /// Puts a body elsewhere at once; its velocity stays.
  void place(BodyId id, const Pose& pose) override;
  /// Sets velocity (of the pose's origin, m/s) and spin (rad/s). A fixed body has none: InputError.
  void set_motion(BodyId id, const Vec3& velocity, const Vec3& spin) override;
  /// Another shape at the same place; mass, centre of mass and inertia stay, what water bears changes. Throws
  /// InputError as check() does.
  void set_shape(BodyId id, const Shape& shape);
  void set_surface(BodyId id, const Surface& surface);
  void set_damping(BodyId id, double linear, double angular);
  /// See BodyPlan. Throws InputError for a share below 0 or above 1000.
  void set_water_drag(BodyId id, double share);
  /// kg; its inertia changes in proportion.
  void set_mass(BodyId id, double mass) override;
  /// See BodyPlan.
  void set_gravity_of(BodyId id, double scale, std::optional<Vec3> own = {});
  void set_layers(BodyId id, std::uint32_t layers, std::uint32_t meets);
  /// Holds a dynamic body where it is: nothing moves it until it is let go, and then it goes on as fast as it went.
  /// What is set of it meanwhile counts from then on; place() moves it at once. Throws InputError for other bodies.
  void hold(BodyId id, bool held = true) override;
  bool held(BodyId id) const override;
  void wake(BodyId id);
  /// May it sleep when it lies still?
  void set_sleeping(BodyId id, bool can_sleep) override;

  BodyKind kind(BodyId id) const;
  Pose pose(BodyId id) const;
  Vec3 velocity(BodyId id) const;  ///< of the pose's origin
  Vec3 spin(BodyId id) const;
  Vec3 centre_of_mass(BodyId id) const;  ///< in the world
  double mass(BodyId id) const;          ///< 0 unless dynamic or a proxy
  Sym3 inertia(BodyId id) const;         ///< about the centre of mass, world axes
  bool asleep(BodyId id) const;
  const Shape& shape(BodyId id) const;
  const Surface& surface(BodyId id) const;
  std::uint32_t layers(BodyId id) const;
  const std::string& name(BodyId id) const;
  /// The pose between the last tick and the one before, at `fraction` of the way: for drawing.
  Pose drawn_pose(BodyId id, double fraction) const;
  std::size_t awake() const;

  // Forces. Fixed and kinematic bodies ignore them; what sleeps wakes by any that is not zero.

  /// An impulse, N s, at once: at a place in the world, or at the centre of mass.
  void push(BodyId id, const Vec3& impulse, const Vec3& at) override;
  void push(BodyId id, const Vec3& impulse);
  /// N s that a proxy has been pushed by, and the N put on it: they are forgotten now.
  Vec3 take_push(BodyId id);
  Vec3 take_force(BodyId id);
  /// An impulse that turns, N m s.
  void twist(BodyId id, const Vec3& impulse) override;
  /// A force (N) or torque (N m) over the coming tick.
  void force(BodyId id, const Vec3& force, const Vec3& at) override;
  void force(BodyId id, const Vec3& force);
  void torque(BodyId id, const Vec3& torque) override;
  /// A force and torque at the centre of mass that last until they are set anew.
  void set_steady_force(BodyId id, const Vec3& force, const Vec3& torque);

  // Joints.

  /// Throws InputError for bodies that are gone, the same or not dynamic, an axis of no length, limits in
  /// the wrong order, or numbers that are not finite or out of range.
  JointId add(const JointPlan& plan);
  bool remove(JointId id);
  bool alive(JointId id) const;
  JointFacts facts(JointId id) const;
  void set_motor(JointId id, double speed, double limit);
  void set_limits(JointId id, double low, double high);
  void set_spring(JointId id, double stiffness, double damping, double rest);

  // What acts on many.

  void set_gravity(const Vec3& gravity);
  std::uint32_t add_zone(const GravityZone& zone);
  bool change_zone(std::uint32_t zone, const GravityZone& to);
  bool remove_zone(std::uint32_t zone);
  const GravityField& gravity_field() const;
  /// Water: walkers wade and swim in it, dynamic bodies are borne up and dragged. Throws as check() does.
  std::uint32_t add_pool(const Pool& pool);
  std::span<const Pool> pools() const;
  void set_group(std::uint32_t group, const GroupRule& rule);
  /// Asked once when two bodies come near one another, in a stated order; false: they never touch. Asked
  /// again after refilter(). `rule(BodyId, BodyId)`; nullptr: there is none any more.
  template <class Rule>
  void set_pair_rule(Rule rule) {
    if constexpr (std::same_as<Rule, std::nullptr_t>)
      keep_pair_rule(nullptr);
    else
      keep_pair_rule(Shared<PairRule>::make<PairRuleOf<Rule>>(std::move(rule)));
  }
  void refilter();
  /// Threads of one step; any number gives the same bits.
  void set_threads(int threads);
  /// Memory for so many from now on: a tick takes none while there are no more. Throws InputError for more than
  /// 100 million.
  void reserve(const WorldRoom& room);
  /// See Watch: parts of a step, and what happens, in words.
  void set_watch(const Watch& watch);
  const Watch& watch() const override;
  /// A job system of the program's own instead: see JobSystem.
  void set_jobs(const JobSystem& jobs);
  const Workers& workers() const override;
  /// The size of a typical object in world units: tolerances scale with it. Before bodies are added.
  void set_length_scale(double scale);

  // Time.

  /// Moves all by `dt` seconds, in steps of at most 1/60 s, each of sub-steps of at most 1/720 s; with 0 nothing
  /// changes. Throws InputError as check_tick() does.
  void step(double dt) override;
  /// Of the last step: bodies that met, still touch (of those that report) or parted, or came into or out of sensors.
  std::span<const ContactEvent> events() const;
  std::span<const JointEvent> broken() const;
  /// visit(ContactFacts) for all contacts of bodies that are awake, with the forces of the last step.
  template <class Visit>
  void visit_contacts(Visit&& visit) const {
    for (std::size_t i = 0; i < pair_slots(); ++i) {
      for (std::uint8_t k = 0; k < contacts_in(i); ++k) visit(contact_in(i, k));
    }
  }
  template <class Visit>
  void visit_joints(Visit&& visit) const {
    for (std::uint32_t i = 0; i < joint_slots(); ++i) {
      if (const JointId id = joint_in(i)) visit(id);
    }
  }
  std::size_t contact_points() const;  ///< that the last step solved

  void save(Snapshot& into) const;
  /// Throws InputError for a snapshot of another world.
  void restore(const Snapshot& from);
  /// All that a snapshot holds, the same bytes on every machine. What several bodies may share by reference (hulls,
  /// compounds, meshes, height fields, tiles) is named by its content, not written.
  std::vector<std::byte> to_bytes() const;
  /// Another world, as the bytes say; its snapshots can be restored into this one, too. Hulls, meshes and the like are
  /// taken from this world's bodies and from `more`; rules for pairs are this world's, its threads are not. Throws
  /// InputError for bytes that to_bytes() did not write, or that were changed, and for a shape that is not here.
  World from_bytes(std::span<const std::byte> bytes, std::span<const Shape> more = {}) const;

  /// See draw() in world/sketch.hpp.
  void draw(class Sketch& sketch) const;
  /// Of all that a tick changes.
  void add_to(StateHash& hash) const override;

  // Host: what a stage asks that has no other name here.
  std::vector<std::byte> saved() const override { return to_bytes(); }
  void bring_back(std::span<const std::byte> saved) override;
  bool goes_on_rails(BodyId id) const override { return kind(id) == BodyKind::kinematic; }
  void set_capsule(BodyId id, const Capsule& capsule) override;
  BodyId add_figure(const std::string& name, const Capsule& capsule, const Pose& pose, double mass) override;
  Vec3 take_given(BodyId id, double dt) override;

  // Surroundings
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override;
  void cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const override;
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override;
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override;
  /// The nearest part of any body within `limit` m of `body`.
  std::optional<Overlap> closest(const Convex& body, double limit, const Filter& filter) const;
  BodyFacts facts(BodyId body) const override;
  Vec3 gravity(const Vec3& at) const override;
  Medium medium(const Vec3& at, const Vec3& up) const override;

 private:
  // What the visits go through: slots, and what lies in them (nothing: an id that is none).
  std::uint32_t body_slots() const;
  BodyId body_in(std::uint32_t slot) const;
  std::uint32_t joint_slots() const;
  JointId joint_in(std::uint32_t slot) const;
  std::size_t pair_slots() const;
  std::uint8_t contacts_in(std::size_t pair) const;
  ContactFacts contact_in(std::size_t pair, std::uint8_t k) const;

  using Body = world_state::Body;
  using Pair = world_state::Pair;
  using Joint = world_state::Joint;

  const Body* find(BodyId id) const;
  const Body& get(BodyId id) const;
  Body& get(BodyId id);
  template <class Self, class Visit>
  static void each_saved(Self& world, Visit&& visit);
  const Joint& get(JointId id) const;
  Joint& get(JointId id);
  /// The body, awake where `what` is anything; none where nothing moves it.
  Body* to_act_on(BodyId id, const Vec3& what, const char* key);
  void take(std::uint32_t index, const Ray& ray, const std::optional<RayHit>& hit, std::optional<Hit>& best) const;
  bool wanted(std::uint32_t index, const Filter& filter) const;
  bool blocks(const Body& body, const Vec3& normal) const;
  bool passed(const Body& body, const Convex& mover) const;
  BodyId id_of(std::uint32_t index) const;
  void keep_pair_rule(Shared<PairRule> rule);
  ContactFacts contact_facts(const Pair& pair, std::uint8_t k) const;

  void need_no_question() const;
  void set_bounds(Body& body);
  void wake_slot(std::uint32_t index);
  void wake_touching(std::uint32_t index);
  void wake_all();
  void remove_pair(std::uint32_t place);
  void remove_pairs_of(std::uint32_t index);
  void break_joint(std::uint32_t index);
  bool ignores(std::uint32_t a, std::uint32_t b) const;

  // A step, in its order.
  void inner_step(double dt, int part, int parts);
  void refresh_lists();
  void bear_up(double dt);
  void list_active();
  bool stirs(const Pair& pair) const;
  void move_leaves(double dt);
  void find_pairs();
  void find_new_pairs();
  void foresee_strikes(double dt);
  std::optional<double> touching_speed(const Pair& pair, double dt) const;
  void wake_touched(double dt);
  void find_contacts(double dt);
  void join_contacts_of_abutting();
  void settle_pairs(double dt, int part);
  void tell_contacts(double dt, int part, int parts);
  void tell_mean(Pair& pair, int parts);
  void tell_joints(bool last);
  void put_to_sleep(double dt);

  struct Parts;  // the bodies, the solver and what they need: detail/parts.hpp
  Shared<Parts> parts_;
};

}  // namespace jugend
