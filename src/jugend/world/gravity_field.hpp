// Gravity as it is from place to place: the world's vector, and zones that change it.
#pragma once

#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/shape/convex.hpp>
#include <string>
#include <vector>

namespace jugend {

enum class ZoneEffect : std::uint8_t {
  replace,         ///< with `vector`
  scale,           ///< by `strength`
  add,             ///< `vector`
  towards_centre,  ///< pulls to the zone's centre with `strength` at `reference`, falling off with distance
  towards_axis     ///< likewise to its local y axis
};

/// A part of the world with a gravity of its own: a box, ball or capsule.
struct GravityZone {
  enum class Form : std::uint8_t { box, ball, capsule };
  Form form = Form::box;
  Vec3 size{0.5, 0.5, 0.5};  ///< half extents; radius in x; radius in x and half length in y; all m
  Pose pose;
  ZoneEffect effect = ZoneEffect::replace;
  Vec3 vector;           ///< m/s²
  double strength = 1;   ///< a factor (scale), or m/s²
  double reference = 1;  ///< m: the distance at which the pull is `strength`
  double falloff = 0;    ///< the pull goes with (reference / distance)^falloff: 2 a planet, 0 even, -1 a spring
  int priority = 0;      ///< of zones that overlap, the higher acts on what the lower left
  double blend = 0;      ///< m inside the border over which it comes to full effect

  static constexpr auto fields() {
    return field_list(Field{"form", &GravityZone::form}, Field{"size", &GravityZone::size},
                      Field{"pose", &GravityZone::pose}, Field{"effect", &GravityZone::effect},
                      Field{"vector", &GravityZone::vector}, Field{"strength", &GravityZone::strength},
                      Field{"reference", &GravityZone::reference}, Field{"falloff", &GravityZone::falloff},
                      Field{"priority", &GravityZone::priority}, Field{"blend", &GravityZone::blend});
  }
};
static_assert(all_fields_listed<GravityZone>);

/// Throws InputError for sizes, references or blends out of range, or numbers that are not finite.
void check(const GravityZone& zone);

class GravityField {
 public:
  Vec3 uniform{0, -9.80665, 0};

  /// The number that names the zone from now on. Throws as check() does.
  std::uint32_t add(const GravityZone& zone);
  bool remove(std::uint32_t zone);
  bool change(std::uint32_t number, const GravityZone& zone);
  bool has_zones() const { return !zones_.empty(); }
  const auto& zones() const { return zones_; }

  /// m/s² at a place.
  Vec3 at(const Vec3& place) const;

 private:
  friend class World;
  struct Numbered {
    std::uint32_t number = 0;
    GravityZone zone;

    static constexpr auto fields() {
      return field_list(Field{"number", &Numbered::number}, Field{"zone", &Numbered::zone});
    }
  };
  std::vector<Numbered> zones_;  // by rising priority, then number
  std::uint32_t next_ = 0;
};

}  // namespace jugend
