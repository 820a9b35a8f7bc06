// Closed forms: what follows from a jump, a speed or a time, without running anything.
#pragma once

#include <jugend/motion/moves/jump.hpp>
#include <jugend/motion/moves/run.hpp>
#include <optional>
#include <span>
#include <string_view>

namespace jugend {

/// Gravity and take-off speed of a jump: g = 2h/t², v = 2h/t. Throws InputError for a height or time
/// that is not finite and > 0.
struct JumpSize {
  double gravity = 0;         ///< m/s², in the rise
  double take_off_speed = 0;  ///< m/s
};
JumpSize size_jump(double height, double time_to_apex);

/// How high a speed carries, v²/2g, and for how long it rises, v/g. Throws as above.
struct Rise {
  double height = 0;  ///< m
  double time = 0;    ///< s
};
Rise rise_of(double speed, double gravity);

/// How far below its apex a jump is after `time` seconds of falling, its speed limit included.
double fall_after(const JumpTuning& jump, double time);
/// How long it falls through `drop` metres from the apex.
double fall_time(const JumpTuning& jump, double drop);

/// Seconds in the air until the feet come down to `rise` m above (negative: below) the take-off; nothing
/// where the apex is lower than that.
std::optional<double> flight_time(const JumpTuning& jump, double rise);
/// The widest gap that is crossed at a level speed, to ground `rise` m higher (negative: lower).
std::optional<double> gap(const JumpTuning& jump, double speed, double rise);
/// The highest ledge whose edge, `distance` m away, the feet clear at a level speed; negative: below.
double ledge(const JumpTuning& jump, double speed, double distance);

/// A jump followed by its air jumps, each pressed at the apex of the one before: the height reached and the time
/// from the take-off to the last apex.
Rise rise_with_air_jumps(const JumpTuning& jump);
/// The speed of a dash, d / t. Throws as above.
double dash_speed(double distance, double time);
/// A throw that slows down evenly over `time`: it begins at 2 d / t and brakes at 2 d / t².
struct Throw {
  double speed = 0;    ///< m/s
  double brake = 0;    ///< m/s²
  double impulse = 0;  ///< N s, for `mass`
};
Throw throw_of(double distance, double time, double mass);

/// v²/2a, with a = top speed / time to stop. The distance from `speed` to standstill.
double stopping_distance(const RunTuning& run, double speed);
/// The distance from standstill to top speed: v t / 2.
double run_up(const RunTuning& run);

/// Surface gravity, m/s² (NASA planetary fact sheet; Earth: standard gravity).
struct SkyBody {
  std::string_view name;
  double gravity;
};
std::span<const SkyBody> sky_bodies();
/// A game's own gravity as it would be on another body: in the ratio of that body's to standard gravity.
/// Throws InputError for a name that is not known.
double gravity_on(std::string_view body, double game_gravity);

}  // namespace jugend
