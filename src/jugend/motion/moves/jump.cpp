#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/motion/moves/jump.hpp>

namespace jugend {

double JumpTuning::gravity() const {
  const double h = height, t = time_to_apex;
  const double plain = 2 * h / (t * t);
  if (!(float_speed > 0) || float_gravity == 1) return plain;
  const double w = float_speed, s = float_gravity, c = w * (1 - 1 / s);
  const double half_b = t * c - h, root = half_b * half_b + t * t * c * w / s;
  const double g = root > 0 ? (-half_b + std::sqrt(root)) / (t * t) : 0;
  // So low a jump that all of it floats: h = s g t² / 2.
  return g * t + c > w ? g : plain / s;
}

double JumpTuning::speed_for(double metres) const {
  const double g = gravity();
  if (!(float_speed > 0)) return std::sqrt(2 * g * metres);
  const double floating = float_speed * float_speed / (2 * g * float_gravity);  // m of the rise that float
  if (metres <= floating) return std::sqrt(2 * g * float_gravity * metres);
  return std::sqrt(2 * g * (metres - floating) + float_speed * float_speed);
}

double JumpTuning::air_height_of(int n) const { return air_height * same_bits::pow(air_height_ratio, n); }

FallLaw JumpTuning::cut_law(double ratio, double bend) const {
  FallLaw law = fall_law(ratio);
  if (tap_height > 0 && tap_height < height) {
    const double v = speed_for(height + bend);
    law.rising = v * v / (2 * (tap_height + bend)) * ratio;
    law.float_share = 1;
  }
  return law;
}

JumpAnswer Jump::ask(JumpFrom at_hand, double now) const {
  const auto no = [](NoJump reason) { return JumpAnswer{JumpFrom::nowhere, reason}; };
  if (state.since_jump + now < tuning.lockout - slack) return no(NoJump::just_jumped);
  if (at_hand == JumpFrom::ground && state.since_landing + now < tuning.landing_lockout - slack)
    return no(NoJump::just_landed);
  if (at_hand != JumpFrom::nowhere) return {at_hand, NoJump::none};
  if (state.since_ground + now <= tuning.coyote_time + slack) return {JumpFrom::edge, NoJump::none};
  if (state.air_used < tuning.air_jumps) return {JumpFrom::air, NoJump::none};
  return no(NoJump::airborne);
}

double Jump::locked_for(double now) const {
  return std::max({0.0, tuning.lockout - state.since_jump - now, tuning.landing_lockout - state.since_landing - now});
}

double Jump::speed(JumpFrom from, double height_share, double bend) const {
  const double metres = from == JumpFrom::air ? tuning.air_height_of(state.air_used) : tuning.height;
  return tuning.speed_for(metres * height_share + bend);
}

void Jump::take_off(JumpFrom from, double now, bool held) {
  state.since_press = state.since_ground = long_ago;
  state.since_jump = -now;
  if (from == JumpFrom::air) ++state.air_used;
  state.rising = true;
  state.cut = !held;
}

const char* name_of(JumpFrom from) {
  static constexpr const char* names[] = {"nowhere", "ground", "edge", "wall", "ledge", "water", "air"};
  return names[static_cast<int>(from)];
}

const char* name_of(NoJump reason) {
  static constexpr const char* names[] = {"none",    "airborne",    "just_jumped",    "just_landed", "low_ceiling",
                                          "dashing", "under_water", "out_of_control", "gated"};
  return names[static_cast<int>(reason)];
}

}  // namespace jugend
