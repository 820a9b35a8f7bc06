// A ball to roll: driven by torque, by force, or by both, on ground and in the air; it jumps.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/moves/jump.hpp>
#include <jugend/motion/moves/kick.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct RollerTuning {
  double radius = 0.4;         ///< m, of the body that it drives
  double ground_torque = 60;   ///< N m with full input: rolls it where there is grip
  double ground_force = 0;     ///< N with full input: pushes it
  double air_torque = 20;      ///< N m: spins it, and steers nothing until it lands
  double air_force = 40;       ///< N
  double top_speed = 9;        ///< m/s beyond which the forces push no more
  double top_spin = 25;        ///< rad/s beyond which the torques turn no more
  double rolling_drag = 0.25;  ///< 1/s on the ground: speed and spin fall as exp(-k t)
  double air_drag = 0.02;      ///< 1/s in the air, of the level speed: jumps keep their height
  double kick_cap = 6;         ///< m/s: the most that a jump's reaction changes the speed of what it leaves
  double jump_height = 1.2;    ///< m from take-off to apex, under the gravity that there is
  double jump_reach = 0.04;    ///< m under the ball within which ground counts
  double slope_limit = 0.9;    ///< rad; steeper ground is none to jump from
  double buffer = 0.1, coyote_time = 0.08, lockout = 0.12;  ///< s, as of any jump
  double length_scale = 1;                                  ///< units of the world in a metre
};
const Tunables& roller_tunables();
template <>
struct TunablesOf<RollerTuning> {
  static const Tunables& list() { return roller_tunables(); }
};
/// Throws InputError for numbers out of range.
void check(const RollerTuning& tuning);

struct RollerIntent {
  Vec3 move;  ///< direction in the world, length 0 to 1; its part along up is ignored
  Button jump;

  static constexpr auto fields() {
    return field_list(Field{"move", &RollerIntent::move}, Field{"jump", &RollerIntent::jump});
  }
};
static_assert(all_fields_listed<RollerIntent>);

struct RollerState {
  JumpState jump;
  bool on_ground = false;
  bool placed = true;   ///< has not looked for ground yet
  double air_time = 0;  ///< s
  double falling = 0;   ///< m/s downwards, as the last tick began
  Vec3 from;            ///< where its middle was then
  Vec3 ground;          ///< m/s along the level of the ground that it touches, or what that was

  static constexpr auto fields() {
    return field_list(Field{"jump", &RollerState::jump}, Field{"on_ground", &RollerState::on_ground},
                      Field{"placed", &RollerState::placed}, Field{"air_time", &RollerState::air_time},
                      Field{"falling", &RollerState::falling}, Field{"from", &RollerState::from},
                      Field{"ground", &RollerState::ground});
  }
};
static_assert(all_fields_listed<RollerState>);

enum class RollerEventKind : std::uint8_t { jumped, left_ground, landed };
const char* name_of(RollerEventKind kind);
struct RollerEvent {
  RollerEventKind kind{};
  double time = 0;                    ///< s into the tick
  double value = 0;                   ///< jumped: take-off speed; landed: m/s into the ground
  JumpFrom from = JumpFrom::nowhere;  ///< jumped
};

/// Drives a dynamic ball of the surroundings; the contacts there do the rolling.
class Roller {
 public:
  /// Throws InputError as check() does.
  Roller(const RollerTuning& tuning, BodyId body);
  void step(const RollerIntent& intent, Surroundings& surroundings, double dt);
  /// After the world has moved: hears whether it has landed, and when. Without it the next step does, as of its start.
  void settle(const Surroundings& surroundings, double dt);

  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  const RollerState& state() const { return state_; }
  void restore(const RollerState& state) { state_ = state; }
  /// Other numbers from the next tick on; its state stays, and its radius is its body's. Throws InputError as check()
  /// does: then nothing has changed.
  void set_tuning(const RollerTuning& tuning, const Surroundings&);
  const RollerTuning& tuning() const { return tuning_; }
  std::span<const RollerEvent> events() const { return {events_.begin(), events_.size()}; }
  JumpAnswer can_jump() const;
  Filter filter{.layers = ~walker_layer::swept};  ///< bodies that it senses

 private:
  JumpTuning jump_tuning() const;
  struct Below;
  Below look_below(const Surroundings& surroundings, const BodyFacts& ball) const;
  void land(double time, double impact);
  void drive(const Vec3& move, const BodyFacts& ball, const Below& below, Surroundings& surroundings, double dt) const;
  void slow_down(const BodyFacts& ball, const Below& below, Surroundings& surroundings, double dt) const;
  void try_jump(const Button& button, Jump& jump, const BodyFacts& ball, const Below& below,
                Surroundings& surroundings);
  RollerTuning tuning_;
  RollerState state_;
  BodyId body_;
  InlineList<RollerEvent, 8> events_;
};

}  // namespace jugend
