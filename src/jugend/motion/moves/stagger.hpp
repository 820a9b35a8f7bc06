// Being hit: thrown a stated distance, and how control comes back without erasing the throw.
#pragma once

#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/base/number.hpp>
#include <jugend/base/smoothing.hpp>
#include <jugend/base/units.hpp>
#include <jugend/base/vec.hpp>
#include <jugend/motion/moves/run.hpp>

namespace jugend {

struct StaggerTuning {
  double distance = 2;        ///< m along level ground, where a hit states neither a distance nor an impulse
  double time = 0.4;          ///< s from the hit to the end of the throw
  double hop = 0;             ///< m that the throw leaves the ground
  double recovery = 0.35;     ///< s after the throw until control is whole again
  double invulnerable = 0.9;  ///< s after a hit in which there is no other
  double bounce = 1;          ///< m that falling on to what can be stomped throws up
  double bounce_held = 1.8;   ///< the same with the jump key held
};

/// What a hit is told by. Of `distance` and `impulse` at most one is not 0; with neither the tuning's distance
/// counts.
struct HitBy {
  Vec3 away;            ///< direction of the throw; its level part counts
  double distance = 0;  ///< m along level ground
  double impulse = 0;   ///< N s
  Vec3 at;              ///< where it struck, in the world

  static constexpr auto fields() {
    return field_list(Field{"away", &HitBy::away}, Field{"distance", &HitBy::distance},
                      Field{"impulse", &HitBy::impulse}, Field{"at", &HitBy::at});
  }
};
static_assert(all_fields_listed<HitBy>);

enum class HitSide : std::uint8_t { front, right, back, left, above, below };
const char* name_of(HitSide side);

/// Where a hit struck a body.
struct HitPlace {
  HitSide side = HitSide::front;
  double bearing = 0;  ///< rad from the facing, right positive
  double height = 0;   ///< share of the body's height
};
HitPlace place_of_hit(const Vec3& at, const Vec3& feet, const Vec3& up, const Vec3& facing, double height);

struct StaggerState {
  double since = long_ago;  ///< s since the hit
  double lasts = 0;         ///< s of the throw
  double recovery = 0;      ///< s after it
  double untouchable = 0;   ///< s in which further hits do not count
  double brake = 0;         ///< m/s² by which the throw slows down
  Vec3 axis;                ///< unit: the way it goes

  static constexpr auto fields() {
    return field_list(Field{"since", &StaggerState::since}, Field{"lasts", &StaggerState::lasts},
                      Field{"recovery", &StaggerState::recovery}, Field{"untouchable", &StaggerState::untouchable},
                      Field{"brake", &StaggerState::brake}, Field{"axis", &StaggerState::axis});
  }
};
static_assert(all_fields_listed<StaggerState>);

struct Stagger {
  const StaggerTuning& tuning;
  StaggerState& state;

  /// The speed at which a throw begins, m/s: it slows down evenly to end after `time`, so d = v t / 2.
  double begin(const HitBy& hit, const Vec3& axis, double mass) {
    const double metres = hit.impulse > 0    ? hit.impulse / mass * tuning.time / 2
                          : hit.distance > 0 ? hit.distance
                                             : tuning.distance;
    const double speed = 2 * metres / tuning.time;
    state = {0, tuning.time, tuning.recovery, tuning.invulnerable, speed / tuning.time, axis};
    return speed;
  }
  bool vulnerable() const { return state.since >= state.untouchable - 1e-9; }
  double left(double now) const { return larger(0.0, state.lasts - state.since - now); }
  /// s until input has all its weight again.
  double until_control(double now) const { return larger(0.0, state.lasts + state.recovery - state.since - now); }
  /// The weight of input, 0 to 1: nothing at the hit, all of it after the throw and the recovery, smooth at both ends.
  double control(double now) const {
    const double all = state.lasts + state.recovery;
    if (!(all > 0)) return 1;
    return smooth_step(within((state.since + now) / all, 0.0, 1.0));
  }
  void pass(double dt) { state.since += dt; }
};

/// The stretch of a level velocity while it is thrown: along the throw only its own slowing down acts, input
/// across it with the weight that it has.
inline RunRamp thrown_ramp(const StaggerState& state, const Vec3& velocity, const Vec3& target, const RunRates& rates,
                           double dt) {
  const auto across = [&](const Vec3& v) {
    const Vec3 part = in_plane(v, state.axis);
    return squared_norm(part) > 1e-18 * squared_norm(v) ? part : Vec3{};  // rounding is no motion
  };
  const double along = dot(velocity, state.axis);
  const Vec3 wish = across(target);
  Vec3 side = across(velocity);
  // What is left of it across the wish may be rounding, too: of a line there is no turning.
  if (const Vec3 ahead = normalised(wish);
      ahead != Vec3{} && squared_norm(in_plane(side, ahead)) < 1e-18 * squared_norm(velocity))
    side = ahead * dot(side, ahead);
  const RunRamp aside = next_run_ramp(side, wish, rates, dt);
  const double stops = state.brake > 0 ? std::abs(along) / state.brake : dt;
  const double time = smaller(aside.duration, stops > 1e-12 ? stops : dt);
  const double slow = stops > 1e-12 ? std::copysign(smaller(state.brake, std::abs(along) / time), -along) : 0;
  const Vec3 side_end = time < aside.duration ? side + aside.acceleration * time : aside.end_velocity;
  return {time, aside.acceleration + state.axis * slow,
          side_end + state.axis * (stops > time ? along + slow * time : 0)};
}

}  // namespace jugend
