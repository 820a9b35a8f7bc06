#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/moves/stagger.hpp>

namespace jugend {

HitPlace place_of_hit(const Vec3& at, const Vec3& feet, const Vec3& up, const Vec3& facing, double height) {
  HitPlace place;
  const Vec3 from_feet = at - feet, level = in_plane(from_feet, up);
  place.height = std::clamp(dot(from_feet, up) / height, 0.0, 1.0);
  place.bearing = same_bits::atan2(dot(cross(facing, level), -up), dot(facing, level));
  const double turn = std::abs(place.bearing);
  place.side = turn <= pi / 4       ? HitSide::front
               : turn >= 3 * pi / 4 ? HitSide::back
               : place.bearing > 0  ? HitSide::right
                                    : HitSide::left;
  if (place.height > 0.97) place.side = HitSide::above;
  if (place.height < 0.03) place.side = HitSide::below;
  return place;
}

const char* name_of(HitSide side) {
  static constexpr const char* names[] = {"front", "right", "back", "left", "above", "below"};
  return names[static_cast<int>(side)];
}

}  // namespace jugend
