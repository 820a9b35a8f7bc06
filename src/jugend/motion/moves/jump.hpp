// Jumps: stated as heights and times, heard early and late, and refused with a reason.
//
// Usable alone: hear() at the start of a tick, ask() where a jump may start, take_off() when it does, leave_ground()
// and land() as they happen, pass() at the tick's end.
#pragma once

#include <cstdint>
#include <jugend/base/ballistic.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/latch.hpp>

namespace jugend {

/// A jump stated by its outcome at standard gravity.
struct JumpTuning {
  double height = 1.25;          ///< m from take-off to apex
  double time_to_apex = 0.38;    ///< s
  double fall_gravity = 1.5;     ///< gravity in the fall, as a multiple of gravity in the rise
  double fall_speed_limit = 22;  ///< m/s
  double tap_height = 0;         ///< m that a tap reaches; 0: the key's hold changes nothing
  double buffer = 0.1;           ///< s that a press before landing is remembered
  double coyote_time = 0.08;     ///< s after walking off an edge in which a press still counts
  double lockout = 0;            ///< s after a jump in which there is no other
  double landing_lockout = 0;    ///< s after a landing in which there is no jump
  double float_speed = 0;        ///< m/s: at upward and downward speeds below this, gravity is less; 0: nowhere
  double float_gravity = 0.5;    ///< share of gravity that is left there
  int air_jumps = 0;             ///< how many, between one ground and the next
  double air_height = 1.0;       ///< m, of the first of them
  double air_height_ratio = 1;   ///< the height of each further one, as a share of the one before

  /// m/s² in the rise. Without float h = v²/2g and t = v/g give g = 2h/t². With float below w and its
  /// share s the rise is (v² - w²)/2g + w²/2gs high and takes (v - w)/g + w/gs; with c = w (1 - 1/s) and
  /// v = g t + c, that is t² g² + 2 (t c - h) g - c w / s = 0, of which the larger root counts.
  double gravity() const;
  /// m/s that reach `height` metres, float included.
  double speed_for(double metres) const;
  double take_off_speed() const { return speed_for(height); }
  /// m of the `n`-th air jump, n = 0 for the first.
  double air_height_of(int n) const;
  /// The rise and fall where real gravity is `ratio` times standard gravity: the take-off speed stays,
  /// so that a jump in the grotto is as much higher as a person's would be.
  FallLaw fall_law(double ratio = 1) const {
    const double g = gravity() * ratio;
    return {g, g * fall_gravity, fall_speed_limit, float_speed, float_speed > 0 ? float_gravity : 1};
  }
  /// The same after the key was let go early: gravity is so much more that a tap reaches `tap_height`.
  /// The jump began `bend` m below the ground that heights count from.
  FallLaw cut_law(double ratio = 1, double bend = 0) const;
};

/// Where a jump may start from.
enum class JumpFrom : std::uint8_t { nowhere, ground, edge, wall, ledge, water, air };
/// Why there can be none now.
enum class NoJump : std::uint8_t {
  none,            ///< there can be one
  airborne,        ///< nothing to jump from, and no air jump left
  just_jumped,     ///< within the lockout after a jump
  just_landed,     ///< within the lockout after a landing
  low_ceiling,     ///< crouched under something, with no room to stand up
  dashing,         ///< a dash or launch is going on
  under_water,     ///< too deep
  out_of_control,  ///< thrown back by a hit
  gated            ///< the game has closed this input
};
const char* name_of(JumpFrom from);
const char* name_of(NoJump reason);

struct JumpAnswer {
  JumpFrom from = JumpFrom::nowhere;
  NoJump why_not = NoJump::airborne;
  explicit operator bool() const { return from != JumpFrom::nowhere; }
};

/// All that is remembered of jumps. Times in s; a long time ago is long_ago.
struct JumpState {
  double since_press = long_ago;    ///< of a press that has not been used
  double since_ground = long_ago;   ///< since it walked off an edge; long_ago where it jumped or was thrown off
  double since_jump = long_ago;     ///< the last
  double since_landing = long_ago;  ///< the last
  std::int32_t air_used = 0;        ///< air jumps since the last ground
  double bend = 0;                  ///< m below the ground stood on at which the last jump began
  bool rising = false;              ///< in the rise of a jump, whose height the key may decide
  bool cut = false;                 ///< the key was let go in it

  static constexpr auto fields() {
    return field_list(Field{"since_press", &JumpState::since_press}, Field{"since_ground", &JumpState::since_ground},
                      Field{"since_jump", &JumpState::since_jump}, Field{"since_landing", &JumpState::since_landing},
                      Field{"air_used", &JumpState::air_used}, Field{"bend", &JumpState::bend},
                      Field{"rising", &JumpState::rising}, Field{"cut", &JumpState::cut});
  }
};
static_assert(all_fields_listed<JumpState>);

/// The moves of a JumpState under a tuning.
struct Jump {
  const JumpTuning& tuning;
  JumpState& state;

  /// The key as this tick hears it.
  void hear(const Button& button) {
    if (button.presses > 0) state.since_press = 0;
    if (!button.held) state.cut = state.rising;
  }
  bool wanted(double now = 0) const { return state.since_press + now <= tuning.buffer + slack; }
  /// Where a jump could start `now` seconds into the tick. What lies at hand is named by `at_hand` (ground,
  /// wall, ledge, water; nowhere: nothing does).
  JumpAnswer ask(JumpFrom at_hand, double now = 0) const;
  /// s that the lockouts go on for, `now` seconds into the tick; 0: they do not.
  double locked_for(double now) const;
  /// Notes that a jump starts; `held`: the key still is.
  void take_off(JumpFrom from, double now, bool held);
  /// m/s upwards of a jump from there, at standard gravity; an air jump's height is that of the next one.
  /// `bend` m are gained first.
  double speed(JumpFrom from, double height_share = 1, double bend = 0) const;
  /// It walked off an edge, or was thrown off the ground.
  void leave_ground(double now, bool walked) { state.since_ground = walked ? -now : long_ago; }
  void land(double now) {
    if (state.since_landing > 0 || state.since_jump > 0) state.since_landing = -now;
    refresh();
    state.rising = state.cut = false;
  }
  /// Air jumps anew: on ground, a wall, a ledge, in water.
  void refresh() { state.air_used = 0; }
  void fall() { state.rising = state.cut = false; }
  void pass(double dt) {
    for (double* t : {&state.since_press, &state.since_ground, &state.since_jump, &state.since_landing}) *t += dt;
  }
  FallLaw law(double ratio) const { return state.cut ? tuning.cut_law(ratio, state.bend) : tuning.fall_law(ratio); }

  static constexpr double slack = 1e-9;  // s: sums of ticks are this exact
};

}  // namespace jugend
