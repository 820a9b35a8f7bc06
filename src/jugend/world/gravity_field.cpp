#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/world/gravity_field.hpp>

namespace jugend {
namespace {

/// How deep a place is inside the zone, in m; negative outside.
double depth_in(const GravityZone& zone, const Vec3& place) {
  const Vec3 p = to_local(zone.pose, place);
  switch (zone.form) {
    case GravityZone::Form::box: {
      const Vec3 d = zone.size - abs(p);
      return std::min({d.x, d.y, d.z});
    }
    case GravityZone::Form::ball: return zone.size.x - norm(p);
    case GravityZone::Form::capsule: break;
  }
  return zone.size.x - norm(p - Vec3{0, std::clamp(p.y, -zone.size.y, zone.size.y), 0});
}

Vec3 pull(const GravityZone& zone, const Vec3& from) {
  const double distance = norm(from);
  if (!(distance > 1e-9 * zone.reference)) return {};
  return from * (-zone.strength * same_bits::pow(zone.reference / distance, zone.falloff) / distance);
}

Vec3 effect_of(const GravityZone& zone, const Vec3& place, const Vec3& before) {
  switch (zone.effect) {
    case ZoneEffect::replace: return zone.vector;
    case ZoneEffect::scale: return before * zone.strength;
    case ZoneEffect::add: return before + zone.vector;
    case ZoneEffect::towards_centre: return pull(zone, place - zone.pose.position);
    case ZoneEffect::towards_axis: break;
  }
  const Vec3 axis = rotate(zone.pose.orientation, {0, 1, 0});
  return pull(zone, in_plane(place - zone.pose.position, axis));
}

}  // namespace

void check(const GravityZone& zone) {
  const auto refuse = [](const char* key, double value, const char* allowed) {
    fail({{}, key, filled("{}", value), allowed, {}});
  };
  const int sizes = zone.form == GravityZone::Form::box ? 3 : zone.form == GravityZone::Form::capsule ? 2 : 1;
  for (int k = 0; k < sizes; ++k) {
    if (!(zone.size[k] > 0) || !std::isfinite(zone.size[k])) refuse("zone.size", zone.size[k], "more than 0 m");
  }
  if (!is_finite(zone.vector)) refuse("zone.vector", NAN, "finite numbers");
  if (!is_finite(zone.pose.position)) refuse("zone.position", NAN, "finite numbers");
  if (!std::isfinite(zone.strength)) refuse("zone.strength", zone.strength, "a finite number");
  if (!(zone.reference > 0) || !std::isfinite(zone.reference))
    refuse("zone.reference", zone.reference, "more than 0 m");
  if (!(std::abs(zone.falloff) <= 4)) refuse("zone.falloff", zone.falloff, "-4 to 4");
  if (!(zone.blend >= 0) || !std::isfinite(zone.blend)) refuse("zone.blend", zone.blend, "0 m or more");
}

std::uint32_t GravityField::add(const GravityZone& zone) {
  check(zone);
  const auto place =
      std::ranges::upper_bound(zones_, zone.priority, {}, [](const Numbered& z) { return z.zone.priority; });
  zones_.insert(place, {next_, zone});
  return next_++;
}

bool GravityField::remove(std::uint32_t number) {
  return std::erase_if(zones_, [&](const Numbered& z) { return z.number == number; }) > 0;
}

bool GravityField::change(std::uint32_t number, const GravityZone& zone) {
  check(zone);
  if (!remove(number)) return false;
  const auto place =
      std::ranges::upper_bound(zones_, zone.priority, {}, [](const Numbered& z) { return z.zone.priority; });
  zones_.insert(place, {number, zone});
  return true;
}

Vec3 GravityField::at(const Vec3& place) const {
  Vec3 g = uniform;
  for (const Numbered& z : zones_) {
    const double depth = depth_in(z.zone, place);
    if (!(depth > 0)) continue;
    const Vec3 full = effect_of(z.zone, place, g);
    if (depth >= z.zone.blend) {
      g = full;
      continue;
    }
    const double t = depth / z.zone.blend, share = t * t * (3 - 2 * t);  // smooth at both ends
    g = g + (full - g) * share;
  }
  return g;
}

}  // namespace jugend
