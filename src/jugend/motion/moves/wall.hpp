// Walls: sliding down them, and jumping off.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <optional>

namespace jugend {

struct WallTuning {
  bool on = false;           ///< walls can be slid down and jumped off
  double slide_speed = 2.5;  ///< m/s: the most, while input pushes into the wall
  double jump_height = 1.1;  ///< m from the place of the jump to its apex
  double jump_away = 5;      ///< m/s away from the wall
  double grace = 0.1;        ///< s after leaving a wall in which a press still counts
  double reach = 0.06;       ///< m from the body within which a wall counts
  double hold_off = 0.15;    ///< s after the jump in which input back to the wall does not count
};

struct WallState {
  double since_touch = long_ago;  ///< s
  double since_jump = long_ago;   ///< s
  Vec3 normal;                    ///< unit, level: away from the wall
  Vec3 velocity;                  ///< m/s, of the wall where it was touched
  bool sliding = false;
  void pass(double dt) { since_touch += dt, since_jump += dt; }

  static constexpr auto fields() {
    return field_list(Field{"since_touch", &WallState::since_touch}, Field{"since_jump", &WallState::since_jump},
                      Field{"normal", &WallState::normal}, Field{"velocity", &WallState::velocity},
                      Field{"sliding", &WallState::sliding});
  }
};
static_assert(all_fields_listed<WallState>);

/// Where input pushes to, level; none where it hardly does.
inline Vec3 pushed_way(const Vec3& move, const Vec3& up) {
  const Vec3 level = in_plane(move, up);
  return squared_norm(level) > 0.01 ? normalised(level) : Vec3{};
}

struct TouchedWall {
  Vec3 normal;           ///< unit, away from the wall
  double room;           ///< m along the normal that the body may yet go until the wall is out of reach
  bool pushing = false;  ///< input pushes into it
};
/// Looks for a wall within `reach` m of `body`, where input pushes to (`way`, unit or zero) or, without any, where one
/// was touched just now, and remembers it.
std::optional<TouchedWall> touch_wall(WallState& state, const WallTuning& tuning, const Convex& body, double reach,
                                      const Vec3& way, const Vec3& up, const Surroundings& surroundings,
                                      const Filter& filter);

}  // namespace jugend
