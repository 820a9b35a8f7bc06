#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/moves/ground.hpp>

namespace jugend {
namespace {

/// The normal of a face right beside a touch, a little further along `aside`.
std::optional<Vec3> face_beside(const Foot& foot, const Vec3& touch, const Vec3& aside,
                                const Surroundings& surroundings, const Filter& filter) {
  const double beside = 0.02 * foot.radius, above = 0.25 * foot.radius;
  const Ray ray{touch + aside * beside + foot.up * above, -foot.up, 2 * above};
  const auto hit = surroundings.cast(ray, filter);
  if (!hit || hit->distance == 0) return std::nullopt;
  return hit->normal;
}

/// What a foot of `radius` comes to from `lift` above the sole to `reach` below it; the distance as of Ground.
struct Touch {
  Hit hit;
  double distance;
};
std::optional<Touch> come_down(const Foot& foot, double radius, double lift, double reach,
                               const Surroundings& surroundings, const Filter& filter) {
  const std::array<Vec3, 1> centre{foot.position + foot.up * (lift + radius)};
  const auto hit = surroundings.sweep({centre, radius - foot.skin, Core::point}, foot.up * -(lift + reach), filter);
  if (!hit) return std::nullopt;
  return Touch{*hit, hit->distance * (lift + reach) - lift - foot.skin};
}

/// Beside a wall, where that has moved in beside the foot, or leans in, the ground is what a thinner one finds.
std::optional<Touch> come_down_beside_walls(const Foot& foot, double least_rise, double lift, double reach,
                                            const Surroundings& surroundings, const Filter& filter) {
  const auto whole = come_down(foot, foot.radius, lift, reach, surroundings, filter);
  const double wall = foot.below_body ? least_rise : std::min(wall_rise, least_rise);
  if (!whole || dot(whole->hit.normal, foot.up) >= wall) return whole;
  const Vec3 nearing = surroundings.facts(whole->hit.body).velocity_at(whole->hit.point) - foot.velocity;
  if (!foot.below_body && norm(nearing) <= 1e-9 * norm(foot.velocity))
    return whole;  // what goes along the body has not come into
  const double thin = 0.4 * foot.radius;
  auto inner = come_down(foot, thin, lift, reach, surroundings, filter);
  const double rise = inner ? dot(inner->hit.normal, foot.up) : 0;
  if (rise < least_rise) return whole;
  inner->distance -= (foot.radius - thin) * (1 / rise - 1);  // on a slope the whole foot rests that much higher
  return inner;
}

}  // namespace

Ground sense_ground(const Foot& foot, double lift, double reach, const GroundTuning& tuning,
                    const Surroundings& surroundings, const Filter& filter) {
  const double least_rise = same_bits::cos(tuning.slope_limit) - 1e-9;
  const auto touch = come_down_beside_walls(foot, least_rise, lift, reach, surroundings, filter);
  Ground ground;
  if (!touch) return ground;
  const Hit* hit = &touch->hit;

  const BodyFacts facts = surroundings.facts(hit->body);
  ground.found = true;
  ground.distance = touch->distance;
  ground.point = hit->point;
  ground.normal = ground.touch_normal = hit->normal;
  ground.body = hit->body;
  ground.part = hit->part;
  ground.velocity = facts.surface_velocity_at(hit->point);
  ground.mass = facts.mass, ground.moving = facts.moving || facts.mass > 0 || facts.surface.belt != Vec3{},
  ground.one_way = facts.one_way;
  ground.surface = facts.surface;

  ground.walkable = dot(hit->normal, foot.up) >= least_rise;
  const Vec3 outward = in_plane(hit->point - foot.position, foot.up);
  const double off_axis = norm(outward);
  if (off_axis < 1e-4 * foot.radius) return ground;  // it rests on what is right below

  // The more upright of the faces that meet at the touch is the one that is stood on.
  const Vec3 aside = outward / off_axis;
  bool edge = false;
  for (const double side : {1.0, -1.0}) {
    const auto face = face_beside(foot, hit->point, aside * side, surroundings, filter);
    if (!face) {
      edge = true;
      continue;
    }
    edge |= dot(*face, hit->normal) < 1 - 1e-6;
    if (dot(*face, foot.up) > dot(ground.normal, foot.up)) ground.normal = *face;
  }
  ground.walkable = dot(ground.normal, foot.up) >= least_rise;
  if (!edge || !ground.walkable) return ground;
  const double step = tuning.step_height + 0.01 * foot.radius, above_sole = dot(hit->point - foot.position, foot.up);
  if (above_sole > step) {
    ground.walkable = false;  // the edge of a step that is too high
    return ground;
  }

  // An edge: a step if the ground goes on within a step's height below it, else a ledge.
  const Vec3 middle = foot.position + foot.up * lift;
  const double fall = lift + step - above_sole;
  const auto below = surroundings.cast({middle, -foot.up, fall}, filter);
  if (below && (dot(below->normal, foot.up) >= least_rise || below->distance == 0)) return ground;
  ground.walkable = off_axis <= tuning.foothold * foot.radius;
  if (ground.walkable) {
    const Vec3 to_plane = hit->point - foot.position;
    ground.distance = std::min(ground.distance, -dot(to_plane, ground.normal) / dot(foot.up, ground.normal));
  }
  return ground;
}

}  // namespace jugend
