// The port: all that a controller may ask of the world, and do to it.
//
// A controller never sees the world that ships with the library. Anything that answers these questions
// can carry one: examples/own_world.cpp shows it on a small world of its own.
//
// What whoever implements it promises:
//
//   Units    metres, kilograms, seconds, radians; axes are right-handed, angles and spins turn by the right hand. Up is
//            against gravity, wherever that points. A body's own x is ahead, its y up, its z to the right.
//   A tick   1. Controllers step(). Questions are answered as things are when the tick begins.
//            2. The host moves its bodies by dt.
//            3. Those who have a settle() get it. Questions are answered as things are when the tick has ended.
//   Deeds    push() and twist() change a velocity at once; force() and torque() act evenly over the tick and are gone
//            with it. All of them may be kept until every controller has stepped, or settled, as the stage does; then
//            all see the same. What is done while they settle belongs to the next tick.
//   Motion   Under a steady acceleration a a body ends a tick at x + v dt + a dt²/2 with v + a dt: forced walkers,
//            vehicles and multirotors work out what they need for that. A host that moves by the velocity at the tick's
//            end comes a dt²/2 too far in each tick. It makes up for that by kicking twice: v += a dt/2, then x += v
//            dt, then v += a dt/2 again; a is gravity + force / mass.
//   Threads  Questions may come from several threads at once, while nobody changes anything. Deeds come from one.
//   Ids      A body's id is never that of a later one, as far as 32 bits of generation go. Questions about one that is
//            gone are not asked by the stage; a controller whose body is gone must not be stepped.
#pragma once

#include <compare>
#include <cstddef>
#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/base/sym3.hpp>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/ray.hpp>
#include <jugend/shape/surface.hpp>
#include <optional>
#include <span>

namespace jugend {

/// Names a body. The generation tells a body from an earlier one that had the same index.
struct BodyId {
  std::uint32_t index = ~0u;
  std::uint32_t generation = 0;
  auto operator<=>(const BodyId&) const = default;
  explicit operator bool() const { return index != ~0u; }

  static constexpr auto fields() {
    return field_list(Field{"index", &BodyId::index}, Field{"generation", &BodyId::generation});
  }
};
static_assert(all_fields_listed<BodyId>);

/// Layers of walkers' bodies; the others are free.
namespace walker_layer {
inline constexpr std::uint32_t swept = 1u << 31;   ///< what others see of a swept walker: nothing pushes it but queries
inline constexpr std::uint32_t forced = 1u << 30;  ///< bodies of forced walkers
inline constexpr std::uint32_t passing = 1u << 29;  ///< of those that other walkers pass through
inline constexpr std::uint32_t all = swept | forced | passing;
}  // namespace walker_layer

/// Which bodies a query speaks of.
struct Filter {
  std::uint32_t layers = ~0u;    ///< bodies on any of these layers, a bit each
  BodyId self{};                 ///< and not the asker's own
  BodyId ignored{};              ///< nor this one
  BodyId passed{};               ///< nor this one
  bool through_one_way = false;  ///< and none that is solid from one side only
  bool still_only = false;       ///< and none that moves
};

/// An answer to a ray or a sweep.
struct Hit {
  double distance = 0;     ///< m along the ray; for a sweep the fraction of its motion, 0 to 1
  Vec3 point;              ///< where they touch
  Vec3 normal;             ///< unit, towards the asker
  BodyId body;             ///< what was hit
  std::uint32_t part = 0;  ///< which of its triangles, tiles or cells
};

/// A body that a given one overlaps, or is nearer to than asked.
struct Overlap {
  double depth = 0;  ///< m; negative: apart by that much
  Vec3 point;        ///< on the other body's surface
  Vec3 normal;       ///< unit; moving along it by `depth` ends the overlap
  BodyId body;
  std::uint32_t part = 0;
};

/// What may be known of a body.
struct BodyFacts {
  Pose pose;
  Vec3 velocity;         ///< m/s, of the pose's origin
  Vec3 spin;             ///< rad/s
  double mass = 0;       ///< kg; 0: nothing can move it
  Surface surface;       ///< of the whole body
  bool moving = false;   ///< does it have a velocity or spin at all?
  bool one_way = false;  ///< solid from one side only?
  Vec3 centre;           ///< of mass, in the world
  Sym3 inverse_inertia;  ///< 1/(kg m²) about it, world axes
  std::uint32_t layers = 1;
  Vec3 force;   ///< N that acts at its centre over this tick as far as known, beyond the gravity there
  Vec3 torque;  ///< N m, likewise

  /// kg m² about the centre, world axes. Turns that are locked have no inverse: a millionth of the others' stands for
  /// theirs, or of the mass at a metre, so that what is asked of them does nothing.
  Sym3 inertia() const {
    const double free = inverse_inertia.xx + inverse_inertia.yy + inverse_inertia.zz;
    const double little = 1e-6 * (free > 0 ? free : 1 / std::max(mass, 1e-6));
    return inverse(inverse_inertia + Sym3{little, little, little});
  }
  /// The velocity of the body's matter at `at`.
  Vec3 velocity_at(const Vec3& at) const { return velocity + cross(spin, at - pose.position); }
  /// That of what stands there: a belt runs on.
  Vec3 surface_velocity_at(const Vec3& at) const { return velocity_at(at) + rotate(pose.orientation, surface.belt); }
  /// 1/kg: by how much an impulse of 1 N s along the unit vector `along` at `at` changes the speed there.
  double inverse_mass_at(const Vec3& at, const Vec3& along) const {
    if (mass <= 0) return 0;
    const Vec3 turn = cross(at - centre, along);
    return 1 / mass + dot(turn, inverse_inertia * turn);
  }
};

/// What a place is filled with. Air: density 0.
struct Medium {
  double depth = 0;    ///< m from the place up to the surface
  double density = 0;  ///< kg/m³
  Vec3 flow;           ///< m/s
};

class Surroundings {
 public:
  virtual ~Surroundings() = default;
  /// The nearest body on a ray.
  virtual std::optional<Hit> cast(const Ray& ray, const Filter& filter) const = 0;
  /// The same for each of several rays near one another, as a vehicle's wheels cast them: hits[i] for rays[i].
  virtual void cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const;
  /// The first body that `mover` touches while it moves by `motion`. One that it touches or overlaps at
  /// the start counts only if the motion goes further in (see first_touch).
  virtual std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const = 0;
  /// Fills `out` with the parts of bodies that are within `margin` of `body`; returns how many there are.
  virtual std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out,
                               const Filter& filter) const = 0;
  virtual BodyFacts facts(BodyId body) const = 0;
  /// Changes a body's momentum by `impulse` (N s) at the place `at`, in this tick.
  virtual void push(BodyId body, const Vec3& impulse, const Vec3& at) = 0;
  /// Changes its angular momentum by `impulse` (N m s), in this tick.
  virtual void twist(BodyId body, const Vec3& impulse) = 0;
  /// A force (N) at `at`, evenly over this tick.
  virtual void force(BodyId body, const Vec3& force, const Vec3& at) = 0;
  /// A torque (N m), evenly over this tick.
  virtual void torque(BodyId body, const Vec3& torque) = 0;
  /// m/s² at a place.
  virtual Vec3 gravity(const Vec3& at) const = 0;
  /// Water and the like at a place; `up` is the unit vector against gravity there.
  virtual Medium medium([[maybe_unused]] const Vec3& at, [[maybe_unused]] const Vec3& up) const { return {}; }
};

}  // namespace jugend
