// All that a step changes, as plain arrays: what a snapshot copies and a hash reads. Inner to the world.
#pragma once

#include <algorithm>
#include <array>
#include <jugend/base/array.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/base/sym3.hpp>
#include <jugend/shape/dynamic_tree.hpp>
#include <jugend/world/body.hpp>
#include <jugend/world/detail/pair_index.hpp>
#include <jugend/world/joint.hpp>
#include <span>
#include <type_traits>

namespace jugend::world_state {

struct Body {
  Pose pose, before;                 // of the shape's origin; now, and one tick earlier
  Vec3 centre;                       // of mass, in the world
  Vec3 velocity, spin;               // of the centre of mass
  Vec3 local_centre;                 // in the body's frame
  Vec3 moments;                      // principal moments of inertia, kg m²
  Quat principal;                    // their axes in the body's frame
  double mass = 0;                   // 0 unless dynamic
  Vec3 force, torque;                // until the end of the tick
  Vec3 steady_force, steady_torque;  // until they are set anew
  Vec3 held_velocity, held_spin;     // what it goes on with when it is let go
  Vec3 given;                        // N s that a proxy was pushed by, and its owner has not taken yet
  double linear_damping = 0, angular_damping = 0, speed_limit = 0, spin_limit = 0;
  double gravity_scale = 1, water_drag = 1;
  Vec3 own_gravity, one_way;
  Surface surface;
  double volume = 0;            // m³; 0 unless dynamic
  double inner = 0, reach = 0;  // half the least thickness; furthest core point from the centre of mass
  double still_for = 0;         // s
  std::uint32_t layers = 1, meets = ~0u, group = 0;
  std::uint32_t generation = 0;
  std::uint32_t shape = none, name = none;  // in the world's tables
  std::uint32_t leaf = none;                // in the tree
  std::uint32_t next_asleep = none;         // the ring of those that sleep together
  std::uint32_t solver = 0;                 // among its solver's bodies in this step; 0: no force moves it
  BodyKind kind = BodyKind::fixed;
  std::uint8_t locks = 0;
  bool alive = false, asleep = false, has_own_gravity = false, has_one_way = false, sensor = false, reports = false,
       can_sleep = true, buoyant = true,
       held = false;  // a dynamic body that stands as a kinematic one meanwhile
  static constexpr auto fields() {
    return field_list(
        Field{"pose", &Body::pose}, Field{"before", &Body::before}, Field{"centre", &Body::centre},
        Field{"velocity", &Body::velocity}, Field{"spin", &Body::spin}, Field{"local_centre", &Body::local_centre},
        Field{"moments", &Body::moments}, Field{"principal", &Body::principal}, Field{"mass", &Body::mass},
        Field{"force", &Body::force}, Field{"torque", &Body::torque}, Field{"steady_force", &Body::steady_force},
        Field{"steady_torque", &Body::steady_torque}, Field{"held_velocity", &Body::held_velocity},
        Field{"held_spin", &Body::held_spin}, Field{"given", &Body::given},
        Field{"linear_damping", &Body::linear_damping}, Field{"angular_damping", &Body::angular_damping},
        Field{"speed_limit", &Body::speed_limit}, Field{"spin_limit", &Body::spin_limit},
        Field{"gravity_scale", &Body::gravity_scale}, Field{"water_drag", &Body::water_drag},
        Field{"own_gravity", &Body::own_gravity}, Field{"one_way", &Body::one_way}, Field{"surface", &Body::surface},
        Field{"volume", &Body::volume}, Field{"inner", &Body::inner}, Field{"reach", &Body::reach},
        Field{"still_for", &Body::still_for}, Field{"layers", &Body::layers}, Field{"meets", &Body::meets},
        Field{"group", &Body::group}, Field{"generation", &Body::generation}, Field{"shape", &Body::shape},
        Field{"name", &Body::name}, Field{"leaf", &Body::leaf}, Field{"next_asleep", &Body::next_asleep},
        Field{"solver", &Body::solver}, Field{"kind", &Body::kind}, Field{"locks", &Body::locks},
        Field{"alive", &Body::alive}, Field{"asleep", &Body::asleep}, Field{"has_own_gravity", &Body::has_own_gravity},
        Field{"has_one_way", &Body::has_one_way}, Field{"sensor", &Body::sensor}, Field{"reports", &Body::reports},
        Field{"can_sleep", &Body::can_sleep}, Field{"buoyant", &Body::buoyant}, Field{"held", &Body::held});
  }
  bool dynamic() const { return kind == BodyKind::dynamic; }
  bool awake() const { return dynamic() && !asleep; }
  /// So much harder to turn about one axis than about another that a small turn changes how heavy it is at a point.
  bool needle() const {
    const double least = std::min({moments.x, moments.y, moments.z});
    return std::max({moments.x, moments.y, moments.z}) - least > 30 * least;
  }
  bool has_mass() const { return dynamic() || kind == BodyKind::proxy; }
  bool moving() const { return kind == BodyKind::kinematic && (velocity != Vec3{} || spin != Vec3{}); }
};
static_assert(all_fields_listed<Body>);

/// The inverse of an inertia for the turns that are free; nothing for those that are locked.
constexpr Sym3 inverse_of_free(Sym3 m, std::uint8_t locks) {
  const bool x = locks & lock::turn_x, y = locks & lock::turn_y, z = locks & lock::turn_z;
  if (x) m.xx = 1;
  if (y) m.yy = 1;
  if (z) m.zz = 1;
  if (x || y) m.xy = 0;
  if (x || z) m.xz = 0;
  if (y || z) m.yz = 0;
  m = inverse(m);
  if (x) m.xx = 0;
  if (y) m.yy = 0;
  if (z) m.zz = 0;
  return m;
}

/// The world's inverse inertia of principal `moments` about `axes`.
constexpr Sym3 inverse_inertia(const Quat& axes, const Vec3& moments, std::uint8_t locks) {
  if (locks & lock::turn) return inverse_of_free(turned_diagonal(axes, moments), locks);
  return turned_diagonal(axes, {1 / moments.x, 1 / moments.y, 1 / moments.z});
}

/// Fills in mass, centre and moments. Throws InputError for a shape without volume or mass.
void set_mass_properties(Body& body, const BodyPlan& plan);
/// m³; 0 for a shape without an inside.
double volume_of(const Shape& shape);
/// From `centre` to the furthest point of the shape's cores, m.
double reach_of(const Shape& shape, const Vec3& centre);

/// A point of contact, as it is kept from step to step.
struct ContactPoint {
  Vec3 point;
  Vec3 lever_a, lever_b;  // from the centres of mass, world axes
  Vec3 local;             // on a, in its frame: to know it again
  double separation = 0;
  double force = 0;       // N along the normal, mean of the last step
  Vec3 friction;          // N, likewise
  double warm_force = 0;  // N along the normal at the step's end: where the next one starts from
  Vec3 warm_friction;
  std::uint32_t feature = 0;
  std::uint32_t part = 0;
  static constexpr auto fields() {
    return field_list(Field{"point", &ContactPoint::point}, Field{"lever_a", &ContactPoint::lever_a},
                      Field{"lever_b", &ContactPoint::lever_b}, Field{"local", &ContactPoint::local},
                      Field{"separation", &ContactPoint::separation}, Field{"force", &ContactPoint::force},
                      Field{"friction", &ContactPoint::friction}, Field{"warm_force", &ContactPoint::warm_force},
                      Field{"warm_friction", &ContactPoint::warm_friction}, Field{"feature", &ContactPoint::feature},
                      Field{"part", &ContactPoint::part});
  }
};
static_assert(all_fields_listed<ContactPoint>);

struct Contact {
  Vec3 normal;  // from b to a
  std::uint32_t count = 0;
  bool ahead = false;  // found where the bodies will touch, not where they are
  std::array<ContactPoint, 4> points;
  static constexpr auto fields() {
    return field_list(Field{"normal", &Contact::normal}, Field{"count", &Contact::count},
                      Field{"ahead", &Contact::ahead}, Field{"points", &Contact::points});
  }
  std::span<const ContactPoint> places() const { return {points.data(), count}; }
  /// Adds a force (N) on a to those told of its points, in equal shares.
  void spread(const Vec3& more) {
    const double push = std::max(0.0, dot(more, normal));
    for (ContactPoint& p : std::span(points).first(count))
      p.force += push / count, p.friction += (more - normal * push) / count;
  }
};
static_assert(all_fields_listed<Contact>);

/// Two bodies whose boxes in the tree meet.
struct Pair {
  std::uint32_t a = 0, b = 0;            // slots of bodies
  std::uint32_t first = 0;               // of its places in the array of contacts
  std::uint8_t capacity = 0, count = 0;  // places, and how many are in use
  bool ignored = false;                  // by filter, group, joint or callback
  bool touching = false;                 // a point's separation is 0 or less
  bool deep = false;                     // a point lies so deep that the two began in one another
  bool was_touching = false;             // at the last step's end
  bool sensor = false, one_way = false;
  bool passing = false;        // through a one-way body: until it is out again
  bool lost = false;           // the boxes do not meet any more
  bool watched = false;        // too far apart for contacts, unless something strikes one of them
  double clear = 0;            // m: nothing of the two was nearer as the step began
  double approach = 0;         // m/s, as the step began: of two that do not touch yet
  std::uint32_t event = none;  // of this tick, which tells its impulse
  double impulse = 0;          // N s along the normals in this tick
  Vec3 told, told_at;          // N on a in the tick's earlier steps, summed, and the middle of where it acted last
  static constexpr auto fields() {
    return field_list(Field{"a", &Pair::a}, Field{"b", &Pair::b}, Field{"first", &Pair::first},
                      Field{"capacity", &Pair::capacity}, Field{"count", &Pair::count},
                      Field{"ignored", &Pair::ignored}, Field{"touching", &Pair::touching}, Field{"deep", &Pair::deep},
                      Field{"was_touching", &Pair::was_touching}, Field{"sensor", &Pair::sensor},
                      Field{"one_way", &Pair::one_way}, Field{"passing", &Pair::passing}, Field{"lost", &Pair::lost},
                      Field{"watched", &Pair::watched}, Field{"clear", &Pair::clear},
                      Field{"approach", &Pair::approach}, Field{"event", &Pair::event},
                      Field{"impulse", &Pair::impulse}, Field{"told", &Pair::told}, Field{"told_at", &Pair::told_at});
  }
  /// What the solver makes of it: one that is only watched may come to touch.
  std::uint32_t rows() const { return watched ? std::max<std::uint32_t>(count, 1) : count; }
};
static_assert(all_fields_listed<Pair>);

struct Joint {
  JointKind kind{};
  bool alive = false, collide = false;
  std::uint32_t generation = 0;
  std::uint32_t a = none, b = none;  // slots; none: the world
  Vec3 anchor_a, anchor_b;           // from the centres of mass, in the bodies' frames (b none: in the world)
  Quat frame_a, frame_b;             // the joint's axes in the bodies' frames: x along its axis
  Vec3 over_a, over_b;               // a pulley's wheels, in the world
  double ratio = 1;
  double low = 0, high = 0, cone = 0, motor_speed = 0, motor_limit = 0, stiffness = 0, damping = 0, rest = 0;
  double break_force = 0, break_torque = 0;
  double turns = 0;  // whole turns of a hinge, rad, to be added to the angle its poses tell
  double angle = 0;  // the angle last seen, to count turns by
  std::uint32_t name = none;
  // Mean forces of the last step: at the point, about the axes, and along or about the joint's own axis.
  Vec3 force, torque;
  Vec3 axial;                 // all that acts along or about its own axis, as that turned
  std::uint64_t told_in = 0;  // the number of its tick's first step
  double limit_force = 0, motor_force = 0, spring_force = 0, cone_force = 0;
  // The same at its end, for the next to start from.
  Vec3 warm_force, warm_torque;
  double warm_limit = 0, warm_motor = 0, warm_spring = 0, warm_cone = 0;
  static constexpr auto fields() {
    return field_list(Field{"kind", &Joint::kind}, Field{"alive", &Joint::alive}, Field{"collide", &Joint::collide},
                      Field{"generation", &Joint::generation}, Field{"a", &Joint::a}, Field{"b", &Joint::b},
                      Field{"anchor_a", &Joint::anchor_a}, Field{"anchor_b", &Joint::anchor_b},
                      Field{"frame_a", &Joint::frame_a}, Field{"frame_b", &Joint::frame_b},
                      Field{"over_a", &Joint::over_a}, Field{"over_b", &Joint::over_b}, Field{"ratio", &Joint::ratio},
                      Field{"low", &Joint::low}, Field{"high", &Joint::high}, Field{"cone", &Joint::cone},
                      Field{"motor_speed", &Joint::motor_speed}, Field{"motor_limit", &Joint::motor_limit},
                      Field{"stiffness", &Joint::stiffness}, Field{"damping", &Joint::damping},
                      Field{"rest", &Joint::rest}, Field{"break_force", &Joint::break_force},
                      Field{"break_torque", &Joint::break_torque}, Field{"turns", &Joint::turns},
                      Field{"angle", &Joint::angle}, Field{"name", &Joint::name}, Field{"force", &Joint::force},
                      Field{"torque", &Joint::torque}, Field{"axial", &Joint::axial}, Field{"told_in", &Joint::told_in},
                      Field{"limit_force", &Joint::limit_force}, Field{"motor_force", &Joint::motor_force},
                      Field{"spring_force", &Joint::spring_force}, Field{"cone_force", &Joint::cone_force},
                      Field{"warm_force", &Joint::warm_force}, Field{"warm_torque", &Joint::warm_torque},
                      Field{"warm_limit", &Joint::warm_limit}, Field{"warm_motor", &Joint::warm_motor},
                      Field{"warm_spring", &Joint::warm_spring}, Field{"warm_cone", &Joint::warm_cone});
  }
};
static_assert(all_fields_listed<Joint>);

struct Group {
  std::uint32_t id = 0;
  GroupRule rule;
  static constexpr auto fields() { return field_list(Field{"id", &Group::id}, Field{"rule", &Group::rule}); }
};
static_assert(all_fields_listed<Group>);

static_assert(std::is_trivially_copyable_v<Body> && std::is_trivially_copyable_v<Pair> &&
              std::is_trivially_copyable_v<Contact> && std::is_trivially_copyable_v<Joint> &&
              std::is_trivially_copyable_v<ContactEvent> && std::is_trivially_copyable_v<Group>);

struct State {
  Array<Body> bodies;
  Array<std::uint32_t> free_bodies;
  Array<std::uint32_t> awake;      // dynamic bodies that do not sleep, in rising order
  Array<std::uint32_t> kinematic;  // in rising order
  DynamicTree tree;
  Array<Pair> pairs;
  PairIndex pair_index;
  Array<Contact> contacts;
  Array<std::uint32_t> free_single, free_block;  // places of 1 and of most_contacts in `contacts`
  Array<Joint> joints;
  Array<std::uint32_t> free_joints;
  Array<Group> groups;
  std::uint64_t steps = 0;
  std::uint64_t alive = 0;

  static constexpr std::uint8_t most_contacts = 8;  // of a pair with a shape of many parts

  /// visit(array) for each array, visit(number) for each number.
  template <class Self, class Visit>
  static void each(Self& s, Visit&& visit) {
    each_but_index(s, visit);
    visit(s.pair_index.slots_), visit(s.pair_index.used_);
  }
  /// Without the index of pairs, which follows from them.
  template <class Self, class Visit>
  static void each_but_index(Self& s, Visit&& visit) {
    visit(s.bodies), visit(s.free_bodies), visit(s.awake), visit(s.kinematic);
    s.tree.each_array(visit);
    visit(s.pairs), visit(s.contacts), visit(s.free_single), visit(s.free_block);
    visit(s.joints), visit(s.free_joints), visit(s.groups), visit(s.steps), visit(s.alive);
  }

  double lift_of(std::uint32_t group) const {
    for (const Group& g : groups) {
      if (g.id == group) return g.rule.lift;
    }
    return 0;
  }
  bool collide_within(std::uint32_t group) const {
    for (const Group& g : groups) {
      if (g.id == group) return g.rule.collide;
    }
    return false;
  }
};

}  // namespace jugend::world_state
