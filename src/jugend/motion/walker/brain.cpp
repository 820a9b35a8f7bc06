// What a walker answers from its state alone, and the names of what it tells.
#include <jugend/base/error.hpp>
#include <jugend/motion/walker/brain.hpp>

namespace jugend {

WalkerBrain::WalkerBrain(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing) : tuning_(tuning) {
  check(tuning);
  place(feet, facing, {});
}

void WalkerBrain::place(const Vec3& feet, const Vec3& facing, const Vec3& velocity) {
  if (!is_finite(feet) || !is_finite(velocity))
    fail({{}, "start", "a number that is not finite", "finite numbers", {}});
  if (!is_finite(facing) || norm(facing) == 0) fail({{}, "facing", "no direction", "a direction", {}});
  WalkerState there;
  there.position = there.take_off = feet;
  there.velocity = velocity, there.facing = normalised(facing), there.up = state_.up;
  there.closed = state_.closed;
  state_ = there;
}

bool WalkerBrain::hit(const HitBy& hit) {
  if (!Stagger{tuning_.stagger, state_.stagger}.vulnerable() || state_.was_hit) return false;
  state_.hit = hit;
  return state_.was_hit = true;
}

JumpAnswer WalkerBrain::can_jump() const {
  JumpState remembered = state_.jump;
  const Jump jump{tuning_.jump, remembered};
  const auto no = [](NoJump reason) { return JumpAnswer{JumpFrom::nowhere, reason}; };
  if (state_.closed & gate::jump) return no(NoJump::gated);
  if (state_.stagger.since < state_.stagger.lasts - 1e-12) return no(NoJump::out_of_control);
  if (state_.dash.left > 0 || state_.launch.left > 0 || state_.ledge.hold == Hold::climbing) return no(NoJump::dashing);
  if (state_.cramped) return no(NoJump::low_ceiling);
  if (state_.ledge.hold != Hold::free) return jump.ask(JumpFrom::ledge);
  if (state_.mode == WalkerMode::swimming)
    return state_.under < 1 ? jump.ask(JumpFrom::water) : no(NoJump::under_water);
  if (state_.on_ground || state_.wedged) return jump.ask(JumpFrom::ground);
  const JumpAnswer answer = jump.ask(JumpFrom::nowhere);
  const bool wall = tuning_.wall.on && state_.wall.since_touch <= tuning_.wall.grace + Jump::slack;
  return wall && answer.from != JumpFrom::edge ? jump.ask(JumpFrom::wall) : answer;
}

NoMove WalkerBrain::can_dash() const {
  if (state_.closed & gate::abilities) return NoMove::gated;
  if (state_.stagger.since < state_.stagger.lasts - 1e-12) return NoMove::out_of_control;
  if (state_.dash.left > 0 || state_.launch.left > 0 || state_.ledge.hold != Hold::free) return NoMove::busy;
  ChargeState charge = state_.dash.charge;
  return Charges{tuning_.dash.charge, charge}.ask();
}

NoMove WalkerBrain::can_launch() const {
  const NoMove dash = can_dash();
  const bool of_charges = dash == NoMove::switched_off || dash == NoMove::cooling_down || dash == NoMove::no_charge;
  if (dash != NoMove::none && !of_charges) return dash;
  ChargeState charge = state_.launch.charge;
  return Charges{tuning_.launch.charge, charge}.ask();
}

const char* name_of(WalkerMode mode) {
  static constexpr const char* names[] = {"idle",      "running",      "rising",  "falling",  "sliding",
                                          "crouching", "wall_sliding", "dashing", "launched", "thrown",
                                          "hanging",   "climbing",     "wading",  "swimming", "own_move"};
  static_assert(std::size(names) == walker_modes);
  return names[static_cast<int>(mode)];
}

const char* name_of(WalkerEventKind kind) { return walker_event_names[static_cast<std::size_t>(kind)]; }

const char* name_of(NoMove reason) {
  static constexpr const char* names[] = {"none", "switched_off",   "no_charge", "cooling_down",
                                          "busy", "out_of_control", "gated"};
  return names[static_cast<int>(reason)];
}

}  // namespace jugend
