// What a walker does to the bodies that it stands on and pushes: its weight, its push, the kick of its jump.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct PushTuning {
  double force = 420;  ///< N, the most with which a running walker pushes a body
  double weight = 1;   ///< share of its weight that rests on what it stands on
};

struct KickTuning {
  double fraction = 1;   ///< of a take-off's change of momentum that the body stood on gets, opposite; 0: none
  double speed_cap = 6;  ///< m/s: the most that a kick changes the speed of the place it meets, or of the body
};

/// What a kick with `impulse` (N s, before the cap) at `at` gives a body, so that neither its centre nor the
/// place changes speed by more than the cap: the level part first, what goes along `up` with what is left.
Vec3 kick_impulse(const BodyFacts& body, const Vec3& impulse, const Vec3& at, const Vec3& up, double speed_cap);

/// Where a body is pushed that is touched at `at`: who pushes leans in low, never above the centre of mass, so that
/// what can slide does not tip.
Vec3 push_place(const BodyFacts& body, const Vec3& at, const Vec3& up);

/// What a walker pushes against, and how hard.
struct Pushed {
  BodyId body;
  double force = 0;         ///< N; negative: not known, as it pushed for a part of the tick only
  double since = long_ago;  ///< s
  Vec3 normal;              ///< unit, level, towards the one who pushes
  Vec3 local;               ///< where, in the body's frame
  double gave_way = 0;      ///< m/s at which that place did, over the ground
  double came_with = 0;     ///< m/s into it, less what pushing has taken of that since

  bool goes_on() const { return since < 0.1; }
  bool goes_on(BodyId with) const { return goes_on() && body == with; }
  /// N that withstood the last push, friction or a slope, as it now gives way at `speed` (m/s): what of the push is not
  /// in the momentum that `mass` (kg) got since, in `time` (s). It will withstand the next one.
  double withstood(double speed, double mass, double time) const;

  static constexpr auto fields() {
    return field_list(Field{"body", &Pushed::body}, Field{"force", &Pushed::force}, Field{"since", &Pushed::since},
                      Field{"normal", &Pushed::normal}, Field{"local", &Pushed::local},
                      Field{"gave_way", &Pushed::gave_way}, Field{"came_with", &Pushed::came_with});
  }
};
static_assert(all_fields_listed<Pushed>);

/// Where a walker last stood, as its kick meets it.
struct Footing {
  BodyId body;
  Vec3 local;     ///< the place, in the body's frame
  Vec3 momentum;  ///< N s, level: what running on it has given the walker, and has not yet been answered

  static constexpr auto fields() {
    return field_list(Field{"body", &Footing::body}, Field{"local", &Footing::local},
                      Field{"momentum", &Footing::momentum});
  }
};
static_assert(all_fields_listed<Footing>);

}  // namespace jugend
