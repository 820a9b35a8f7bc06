// The ground under a pair of feet: is there any, which way does it face, how does it move?
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct GroundTuning {
  double slope_limit = 0.8;   ///< rad; steeper ground is slid on
  double step_height = 0.28;  ///< m; lower steps are walked over, up and down
  double probe = 0.05;        ///< m above the ground within which a falling walker may already jump
  double foothold = 0.6;      ///< share of the radius that may stand beyond a ledge
};

/// What was found below a foot.
struct Ground {
  bool found = false;          ///< anything within reach
  bool walkable = false;       ///< and it holds: not too steep, enough of the foot on it
  double distance = 0;         ///< m from the feet down to where they would rest; negative: above the feet
  Vec3 point;                  ///< where the foot touches
  Vec3 normal{0, 1, 0};        ///< of the face stood on
  Vec3 touch_normal{0, 1, 0};  ///< from the touch towards the foot's middle; at an edge not any face's
  BodyId body;
  Vec3 velocity;    ///< m/s, of the ground at `point`
  Surface surface;  ///< what it is made of
  std::uint32_t part = 0;
  double mass = 0;       ///< kg of the body; 0: nothing can move it
  bool moving = false;   ///< does the body move?
  bool one_way = false;  ///< can it be dropped through?

  static constexpr auto fields() {
    return field_list(Field{"found", &Ground::found}, Field{"walkable", &Ground::walkable},
                      Field{"distance", &Ground::distance}, Field{"point", &Ground::point},
                      Field{"normal", &Ground::normal}, Field{"touch_normal", &Ground::touch_normal},
                      Field{"body", &Ground::body}, Field{"velocity", &Ground::velocity},
                      Field{"surface", &Ground::surface}, Field{"part", &Ground::part}, Field{"mass", &Ground::mass},
                      Field{"moving", &Ground::moving}, Field{"one_way", &Ground::one_way});
  }
};
static_assert(all_fields_listed<Ground>);

/// A face that rises so little, as the cosine of 72.5 degrees, is a wall, no ground.
inline constexpr double wall_rise = 0.3;

/// A foot is a sphere at the bottom of a body.
struct Foot {
  Vec3 position;  ///< of the sole
  Vec3 up;        ///< unit
  double radius = 0.3;
  double skin = 0;          ///< m by which the sweep is thinner, so that walls it touches do not count
  Vec3 velocity;            ///< m/s, of what carries it
  bool below_body = false;  ///< on legs: a leaning wall may be beside it that the body has not come to
};

/// Looks from `lift` above the sole to `reach` below it: a sweep of the whole foot finds what carries it,
/// rays beside the touch find the faces there (an edge has no direction of its own), and at a ledge a ray
/// under the middle tells how far out the foot stands. Over a ledge the foot keeps the height of the face
/// it stands on, up to its foothold, and does not sink round the edge.
Ground sense_ground(const Foot& foot, double lift, double reach, const GroundTuning& tuning,
                    const Surroundings& surroundings, const Filter& filter);

}  // namespace jugend
