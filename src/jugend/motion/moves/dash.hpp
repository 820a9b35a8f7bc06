// Dashes and launches: a stated distance in a stated time, and a stated height or an upward speed held.
#pragma once

#include <array>
#include <jugend/base/fields.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/vec.hpp>
#include <jugend/motion/moves/charges.hpp>

namespace jugend {

/// Where a dash goes: as input points, as the body faces, or as it aims, in space.
enum class DashDirection : std::uint8_t { input, facing, aim };
template <>
struct NamesOf<DashDirection> {
  static constexpr std::array<std::string_view, 3> names{"input", "facing", "aim"};
};

struct DashTuning {
  double distance = 3.2;  ///< m, covered in `time` at one speed
  double time = 0.2;      ///< s
  double end_speed = 4;   ///< m/s that remain at its end, at most the dash's own speed
  double gravity = 0;     ///< share of gravity that is kept meanwhile
  DashDirection direction = DashDirection::input;
  bool through_one_way = false;  ///< thin one-way surfaces do not stop it
  ChargeTuning charge;

  double speed() const { return distance / time; }
};

struct LaunchTuning {
  double height = 3;  ///< m from the place of the launch to its apex; where `time` is 0
  double speed = 9;   ///< m/s upwards, held for `time`
  double time = 0;    ///< s; 0: the launch is a jump of `height`
  ChargeTuning charge;
};

/// A move that lasts: what is left of it, and how often it was made.
struct BurstState {
  double left = 0;  ///< s
  ChargeState charge;
  void pass(double dt) { left = left > dt + 1e-12 ? left - dt : 0; }

  static constexpr auto fields() {
    return field_list(Field{"left", &BurstState::left}, Field{"charge", &BurstState::charge});
  }
};
static_assert(all_fields_listed<BurstState>);

/// The direction of a dash, unit; `input`, `aim` may be nothing.
inline Vec3 dash_direction(const DashTuning& tuning, const Vec3& input, const Vec3& facing, const Vec3& aim,
                           const Vec3& up) {
  if (tuning.direction == DashDirection::aim) return normalised(aim, facing);
  if (tuning.direction == DashDirection::facing) return facing;
  return normalised(in_plane(input, up), facing);
}

}  // namespace jugend
