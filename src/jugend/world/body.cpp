// Plans of bodies: what is refused, and what mass and inertia come of them.
#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/hash.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/mass.hpp>
#include <jugend/world/detail/register.hpp>
#include <jugend/world/detail/state.hpp>

namespace jugend {
namespace {

std::string place_in(const std::string& body, const std::string& key) {
  return body.empty() ? key : filled("body '{}': {}", body, key);
}

[[noreturn]] void refuse(const std::string& body, const char* key, std::string found, std::string allowed) {
  fail({{}, place_in(body, key), std::move(found), std::move(allowed), {}});
}

}  // namespace

void check_pose(const Pose& pose, const std::string& body) {
  if (!is_finite(pose.position)) refuse(body, "position", "a number that is not finite", "finite numbers");
  const Quat& q = pose.orientation;
  const double length = std::sqrt(q.w * q.w + q.x * q.x + q.y * q.y + q.z * q.z);
  if (!(std::abs(length - 1) < 1e-6)) refuse(body, "orientation", filled("length {}", length), "a unit quaternion");
}

void check_surface(const Surface& surface, const std::string& body) {
  const auto within = [&](double value, const char* key, double high) {
    if (!(value >= 0 && value <= high)) refuse(body, key, filled("{}", value), filled("0 to {}", high));
  };
  within(surface.friction, "friction", 100);
  within(surface.restitution, "restitution", 1);
  within(surface.grip, "grip", 1);
  within(surface.speed, "speed", 100);
  within(surface.jump, "jump", 100);
  within(surface.rolling_resistance, "rolling_resistance", 1e6);
  within(surface.spinning_resistance, "spinning_resistance", 1e6);
  if (!is_finite(surface.belt)) refuse(body, "belt", "a number that is not finite", "finite numbers");
}

void check(const BodyPlan& plan) {
  {
    const Amend of_body([&](Fault& fault) { fault.key = place_in(plan.name, fault.key); });
    check(plan.shape);
  }
  check_pose(plan.pose, plan.name);
  check_surface(plan.surface, plan.name);
  if (!is_finite(plan.velocity)) refuse(plan.name, "velocity", "a number that is not finite", "finite numbers");
  if (!is_finite(plan.spin)) refuse(plan.name, "spin", "a number that is not finite", "finite numbers");
  if (plan.kind == BodyKind::fixed && (plan.velocity != Vec3{} || plan.spin != Vec3{}))
    refuse(plan.name, "velocity", "one of a fixed body", "a kinematic or dynamic body, or no velocity and spin");
  const auto at_least_zero = [&](double value, const char* key, bool finite = true) {
    if (!(value >= 0) || (finite && !std::isfinite(value))) refuse(plan.name, key, filled("{}", value), "0 or more");
  };
  at_least_zero(plan.linear_damping, "linear_damping"), at_least_zero(plan.angular_damping, "angular_damping");
  at_least_zero(plan.speed_limit, "speed_limit", false), at_least_zero(plan.spin_limit, "spin_limit", false);
  at_least_zero(plan.mass, "mass");
  if (!(plan.density > 0) || !std::isfinite(plan.density))
    refuse(plan.name, "density", filled("{}", plan.density), "more than 0 kg/m3");
  if (!(plan.water_drag >= 0 && plan.water_drag <= 1000))
    refuse(plan.name, "water_drag", filled("{}", plan.water_drag), "0 to 1000");
  if (!std::isfinite(plan.gravity_scale))
    refuse(plan.name, "gravity_scale", "a number that is not finite", "a finite number");
  if (plan.own_gravity && !is_finite(*plan.own_gravity))
    refuse(plan.name, "own_gravity", "a number that is not finite", "finite numbers");
  if (plan.centre_of_mass && !is_finite(*plan.centre_of_mass))
    refuse(plan.name, "centre_of_mass", "a number that is not finite", "finite numbers");
  if (plan.inertia) {
    for (int k = 0; k < 3; ++k) {
      if (!((*plan.inertia)[k] > 0) || !std::isfinite((*plan.inertia)[k]))
        refuse(plan.name, "inertia", filled("{}", (*plan.inertia)[k]), "more than 0 kg m2");
    }
  }
  if (plan.one_way && !(std::abs(norm(*plan.one_way) - 1) < 1e-6))
    refuse(plan.name, "one_way", filled("length {}", norm(*plan.one_way)), "a unit vector");
}

namespace world_state {

/// The least moment as a share of the most: a rod 100 times as long as thick. Thinner ones turn about their
/// length so easily that a contact a hair beside it would throw them about.
constexpr double thinnest = 1e-4;

/// And as a share of mass times the square of how far the shape reaches from the axis: a solid one has a third or so.
constexpr double lightest_turn = 0.01;

std::size_t hash_of(const Shape& shape) {
  StateHash hash;
  hash.add(static_cast<std::uint64_t>(shape.index()));
  std::visit(Overloaded{[&](const Sphere& s) { hash.add(s.radius); },
                        [&](const Capsule& c) { hash.add(c.radius), hash.add(c.half_length); },
                        [&](const Box& b) { hash.add(b.half_extents); },
                        [&](const Cylinder& c) { hash.add(c.radius), hash.add(c.half_height); },
                        [&](const auto& ref) { hash.add(reinterpret_cast<std::uint64_t>(ref.get())); }},
             shape);
  return hash.value();
}

double volume_of(const Shape& shape) {
  const auto solid = mass_properties(shape, 1);
  return solid ? solid->mass : 0;
}

void set_mass_properties(Body& body, const BodyPlan& plan) {
  auto solid = mass_properties(plan.shape, plan.density);
  if (!solid) {
    if (plan.mass == 0 || !plan.inertia)
      refuse(plan.name, "shape", "a dynamic body of a shape without volume", "a solid shape, or both mass and inertia");
    solid = MassProperties{plan.mass, {}, {1, 1, 1}};
  }
  body.volume = volume_of(plan.shape);
  if (plan.mass > 0) solid->inertia = solid->inertia * (plan.mass / solid->mass), solid->mass = plan.mass;
  if (!(solid->mass > 0) || !std::isfinite(solid->mass))
    refuse(plan.name, "mass", filled("{}", solid->mass), "more than 0 kg, by mass or by density and size");
  body.mass = solid->mass;
  body.local_centre = plan.centre_of_mass.value_or(solid->centre);
  if (plan.inertia) {
    // One far less than its shape allows would let a touch at its skin spin it without end.
    const Bounds box = bounds(plan.shape, Pose{});
    const Vec3 far = max(abs(box.low - body.local_centre), abs(box.high - body.local_centre)),
               squared{far.x * far.x, far.y * far.y, far.z * far.z};
    const Vec3 round = Vec3{squared.y + squared.z, squared.z + squared.x, squared.x + squared.y} * solid->mass;
    body.moments = max(*plan.inertia, round * lightest_turn);
    body.principal = {};
  } else {
    const auto [moments, axes] = principal_axes(solid->inertia);
    body.moments = moments, body.principal = axes;
  }
  const double most = std::max({body.moments.x, body.moments.y, body.moments.z});
  if (!(most > 0) || !std::isfinite(most))
    refuse(plan.name, "inertia", filled("{}", most), "more than 0 kg m2, by mass and size or given");
  body.moments = max(body.moments, Vec3{thinnest, thinnest, thinnest} * most);
}

double reach_of(const Shape& shape, const Vec3& centre) {
  double reach = 0;
  std::visit(
      [&](const auto& s) {
        if constexpr (requires { s->bounds(); }) {
          const Bounds& b = s->bounds();
          reach = norm(max(abs(b.low - centre), abs(b.high - centre)));
        } else {
          const PlacedConvex placed(s, Pose{});
          const Convex view = placed.view();
          for (const Vec3& p : view.points) reach = std::max(reach, norm(p - centre) + view.rim);
        }
      },
      shape);
  return reach;
}

}  // namespace world_state

}  // namespace jugend
