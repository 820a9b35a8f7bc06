// What both kinds of walker tell of themselves from state alone: whether they can jump, what speed input asks for.
// Inner to the walkers.
#pragma once

#include <jugend/motion/walker/walker.hpp>

namespace jugend {

template <class State>
JumpAnswer jump_answer(const State& state, const WalkerTuning& tuning, bool grounded) {
  JumpState remembered = state.jump;
  const Jump jump{tuning.jump, remembered};
  const auto no = [](NoJump reason) { return JumpAnswer{JumpFrom::nowhere, reason}; };
  if (state.stagger.since < state.stagger.lasts - 1e-12) return no(NoJump::out_of_control);
  if (state.dash.left > 0 || state.launch.left > 0 || state.ledge.hold == Hold::climbing) return no(NoJump::dashing);
  if (state.cramped) return no(NoJump::low_ceiling);
  if (state.ledge.hold != Hold::free) return jump.ask(JumpFrom::ledge);
  if (state.mode == WalkerMode::swimming) return state.under < 1 ? jump.ask(JumpFrom::water) : no(NoJump::under_water);
  if (grounded) return jump.ask(JumpFrom::ground);
  const JumpAnswer answer = jump.ask(JumpFrom::nowhere);
  const bool wall = tuning.wall.on > 0 && state.wall.since_touch <= tuning.wall.grace + Jump::slack;
  return wall && answer.from != JumpFrom::edge ? jump.ask(JumpFrom::wall) : answer;
}

/// m/s along the level, `now` s into the tick: as fast as ground, water and crouching let it.
template <class State>
Vec3 wished_velocity(const State& state, const WalkerTuning& tuning, const Vec3& move, double now) {
  const Vec3 level = in_plane(move, state.up);
  Vec3 way = level / std::max(1.0, norm(level));
  if (state.wall.since_jump + now < tuning.wall.hold_off && dot(way, state.wall.normal) < 0)
    way = in_plane(way, state.wall.normal);
  double top = tuning.run.top_speed;
  if (state.on_ground) top *= state.ground.surface.speed;
  if (state.crouched) top *= tuning.crouch.speed_share;
  top *= 1 + (tuning.swim.wade_speed - 1) * std::min(1.0, state.under / tuning.swim.float_share);
  return way * top;
}

}  // namespace jugend
