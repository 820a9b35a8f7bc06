// What bodies and their groups are made from.
#pragma once

#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <jugend/shape/shape.hpp>
#include <optional>
#include <string>

namespace jugend {

enum class BodyKind : std::uint8_t {
  fixed,      ///< never moves, unless it is told to be elsewhere
  kinematic,  ///< moves by its velocity and spin; nothing stops or pushes it
  dynamic,    ///< moved by forces, contacts and joints
  proxy  ///< stands for something that is moved elsewhere, for queries alone: touches nothing, stays where it is put;
         ///< what pushes it, its owner takes
};

/// Ways a body may not move, along and about the world's axes: bits for BodyPlan::locks.
namespace lock {
inline constexpr std::uint8_t move_x = 1, move_y = 2, move_z = 4, turn_x = 8, turn_y = 16, turn_z = 32;
inline constexpr std::uint8_t turn = turn_x | turn_y | turn_z;
inline constexpr std::uint8_t planar = move_z | turn_x | turn_y;  ///< stays in the side view
inline constexpr std::uint8_t upright = turn_x | turn_z;
}  // namespace lock

inline constexpr double unlimited = infinity;

/// What a body is made from.
struct BodyPlan {
  Shape shape;
  Pose pose;
  BodyKind kind = BodyKind::fixed;
  Vec3 velocity;  ///< m/s, of the pose's origin; not for fixed bodies
  Vec3 spin;      ///< rad/s; not for fixed bodies
  Surface surface;
  std::uint32_t layers = 1;  ///< a bit for each layer it is on
  std::string name;          ///< for messages and traces

  double density = 400;                ///< kg/m³ of a dynamic body, > 0
  double mass = 0;                     ///< kg; 0: by density. A dynamic shape without volume needs this and `inertia`
  std::optional<Vec3> centre_of_mass;  ///< in the shape's frame; default: the shape's own
  /// kg m² about the centre of mass along the shape's axes; default: the shape's own. At least a hundredth of mass
  /// times the square of how far the box round the shape reaches from the axis counts, and 1/10,000 of the most of the
  /// three.
  std::optional<Vec3> inertia;
  double linear_damping = 0;        ///< 1/s: speed falls as exp(-k t)
  double angular_damping = 0;       ///< 1/s
  double speed_limit = unlimited;   ///< m/s
  double spin_limit = unlimited;    ///< rad/s
  std::uint8_t locks = 0;           ///< of lock::
  double gravity_scale = 1;         ///< of the gravity where it is
  std::optional<Vec3> own_gravity;  ///< m/s², instead of that
  std::uint32_t meets = ~0u;        ///< layers that it collides with; both bodies must want it
  std::uint32_t group = 0;          ///< see World::set_group; 0: none
  std::optional<Vec3> one_way;      ///< unit, in the body's frame: solid only for what comes from that side
  bool sensor = false;              ///< is entered and left, never touched
  bool reports = false;             ///< events for contacts that stay, too
  bool can_sleep = true;
  double water_drag = 1;  ///< share of a pool's drag that it feels; 0: something else drags at it in water
  bool buoyant = true;    ///< pools bear it up and drag at it; false: something else moves it in water
};

/// Throws InputError for a shape that check() refuses, numbers that are not finite or out of range, a rotation
/// that is not of unit length, or a velocity of a fixed body. The others likewise, for `body`'s name.
void check(const BodyPlan& plan);
void check_pose(const Pose& pose, const std::string& body);
void check_surface(const Surface& surface, const std::string& body);

/// What bodies of one group have in common, changed in one place.
struct GroupRule {
  bool collide = false;  ///< with one another
  double lift = 0;       ///< counter-force as a share of their weight: 1 floats, 0.5 falls half as fast

  static constexpr auto fields() {
    return field_list(Field{"collide", &GroupRule::collide}, Field{"lift", &GroupRule::lift});
  }
};
static_assert(all_fields_listed<GroupRule>);

/// Two bodies that meet, go on touching or part; and bodies that come into a sensor or go out of it.
enum class ContactKind : std::uint8_t { met, lasts, parted, came_in, went_out };
struct ContactEvent {
  ContactKind kind{};
  BodyId a, b;
  Vec3 point;          ///< the middle of where they touch, weighted by force
  Vec3 normal;         ///< unit, from b towards a
  double impulse = 0;  ///< N s along the normal in this tick; told once, by the first event that is not `parted`
  double speed = 0;    ///< m/s, met only: with which they came together
};

}  // namespace jugend
