// What can be tuned about a walker: the one list that files, options, tables and schemas read.
#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/motion/walker/walker.hpp>

namespace jugend {

TunableList walker_tunables() {
  using W = WalkerTuning;
  static const Tunable list[] = {
      JUGEND_TUNABLE(W, body.radius, "body.radius", "m", 0.01, 1000, "half the width of the body"),
      JUGEND_TUNABLE(W, body.height, "body.height", "m", 0.02, 1000, "sole to crown, at least twice the radius"),
      JUGEND_TUNABLE(W, body.mass, "body.mass", "kg", 0.001, 1000000.0, "weight on what it stands on and pushes"),
      JUGEND_TUNABLE(W, run.top_speed, "run.top_speed", "m/s", 0.01, 1000, "speed on the ground with full input"),
      JUGEND_TUNABLE(W, run.time_to_top_speed, "run.time_to_top_speed", "s", 0, 60,
                     "from standstill to top speed; 0: at once"),
      JUGEND_TUNABLE(W, run.time_to_stop, "run.time_to_stop", "s", 0, 60,
                     "from top speed to standstill without input; 0: at once"),
      JUGEND_TUNABLE(W, run.time_to_turn, "run.time_to_turn", "s", 0, 60,
                     "from top speed to standstill with input the other way; 0: at once"),
      JUGEND_TUNABLE(W, air.top_speed, "air.top_speed", "m/s", 0.01, 1000,
                     "the speed that the air rates are stated for"),
      JUGEND_TUNABLE(W, air.time_to_top_speed, "air.time_to_top_speed", "s", 0, 60, "the same in the air"),
      JUGEND_TUNABLE(W, air.time_to_stop, "air.time_to_stop", "s", 0, 60, "the same in the air"),
      JUGEND_TUNABLE(W, air.time_to_turn, "air.time_to_turn", "s", 0, 60, "the same in the air"),
      JUGEND_TUNABLE(W, jump.height, "jump.height", "m", 0.01, 1000, "from take-off to apex"),
      JUGEND_TUNABLE(W, jump.time_to_apex, "jump.time_to_apex", "s", 0.02, 20,
                     "from take-off to apex; with the height it sets gravity and take-off speed"),
      JUGEND_TUNABLE(W, jump.fall_gravity, "jump.fall_gravity", "1", 0.1, 20,
                     "gravity while falling, as a multiple of gravity while rising"),
      JUGEND_TUNABLE(W, jump.fall_speed_limit, "jump.fall_speed_limit", "m/s", 0.1, 10000,
                     "falling never speeds up beyond this"),
      JUGEND_TUNABLE(W, ground.slope_limit, "ground.slope_limit_deg", "deg", 0, 85, "steeper ground is slid on"),
      JUGEND_TUNABLE(W, ground.step_height, "ground.step_height", "m", 0, 100,
                     "lower steps are walked over, up and down"),
      JUGEND_TUNABLE(W, ground.probe, "ground.probe", "m", 0, 10, "a falling walker this near to the ground may jump"),
      JUGEND_TUNABLE(W, ground.foothold, "ground.foothold", "1", 0, 0.95,
                     "share of the radius that may stand beyond a ledge"),
      JUGEND_TUNABLE(W, jump.tap_height, "jump.tap_height", "m", 0, 1000,
                     "reached by a tap, at most jump.height; 0: the hold of the key changes nothing"),
      JUGEND_TUNABLE(W, jump.buffer, "jump.buffer", "s", 0, 10, "a press this long before landing is remembered"),
      JUGEND_TUNABLE(W, jump.coyote_time, "jump.coyote_time", "s", 0, 10,
                     "a press this long after walking off an edge still counts"),
      JUGEND_TUNABLE(W, jump.lockout, "jump.lockout", "s", 0, 10, "after a jump, until the next"),
      JUGEND_TUNABLE(W, jump.landing_lockout, "jump.landing_lockout", "s", 0, 10,
                     "after a landing, until the next jump from the ground"),
      JUGEND_TUNABLE(W, jump.float_speed, "jump.float_speed", "m/s", 0, 100,
                     "near the apex, at speeds below this, gravity is less; 0: nowhere"),
      JUGEND_TUNABLE(W, jump.float_gravity, "jump.float_gravity", "1", 0.05, 1,
                     "share of gravity that is left there; height and time to apex stay as asked"),
      JUGEND_TUNABLE(W, jump.air_jumps, "jump.air_jumps", "1", 0, 16,
                     "number of jumps in the air between one ground and the next"),
      JUGEND_TUNABLE(W, jump.air_height, "jump.air_height", "m", 0.01, 1000, "of the first air jump"),
      JUGEND_TUNABLE(W, jump.air_height_ratio, "jump.air_height_ratio", "1", 0.1, 10,
                     "height of each further air jump, as a share of the one before"),
      JUGEND_TUNABLE(W, carry.level, "carry.level", "1", 0, 1,
                     "share of the ground's level velocity kept at a take-off"),
      JUGEND_TUNABLE(W, carry.rise, "carry.rise", "1", 0, 1, "share of the ground's rise kept at a take-off"),
      JUGEND_TUNABLE(W, carry.rise_rule, "carry.rise_rule", "0|1", 0, 1,
                     "0: heights add, a jump gains v^2/2g; 1: speeds add"),
      JUGEND_TUNABLE(W, crouch.height_share, "crouch.height_share", "1", 0.05, 1,
                     "height while crouching, of the body's; at least twice the radius"),
      JUGEND_TUNABLE(W, crouch.speed_share, "crouch.speed_share", "1", 0, 10, "of the top speed"),
      JUGEND_TUNABLE(W, push.force, "push.force", "N", 0, 1000000000.0,
                     "the most with which a running walker pushes a body"),
      JUGEND_TUNABLE(W, push.weight, "push.weight", "1", 0, 100, "share of its weight that rests on what it stands on"),
      JUGEND_TUNABLE(W, kick.fraction, "kick.fraction", "1", 0, 100,
                     "of a take-off's momentum that the body stood on gets, the other way; 0: none"),
      JUGEND_TUNABLE(W, kick.speed_cap, "kick.speed_cap", "m/s", 0, 10000,
                     "the most that a kick changes a body's speed"),
      JUGEND_TUNABLE(W, dash.distance, "dash.distance", "m", 0.01, 1000, "way of a dash"),
      JUGEND_TUNABLE(W, dash.time, "dash.time", "s", 0.01, 60, "time of a dash"),
      JUGEND_TUNABLE(W, dash.end_speed, "dash.end_speed", "m/s", 0, 1000, "speed that remains at its end"),
      JUGEND_TUNABLE(W, dash.gravity, "dash.gravity", "1", 0, 10, "share of gravity kept in a dash; 0: off"),
      JUGEND_TUNABLE(W, dash.direction, "dash.direction", "0|1|2", 0, 2,
                     "0: where input points, 1: where the body faces, 2: where it aims"),
      JUGEND_TUNABLE(W, dash.through_one_way, "dash.through_one_way", "0|1", 0, 1,
                     "1: goes through thin one-way surfaces"),
      JUGEND_TUNABLE(W, dash.charge.charges, "dash.charges", "1", 0, 100, "dashes between refills; 0: there are none"),
      JUGEND_TUNABLE(W, dash.charge.cooldown, "dash.cooldown", "s", 0, 600, "from one to the next"),
      JUGEND_TUNABLE(W, dash.charge.on_ground, "dash.refill_on_ground", "0|1", 0, 1,
                     "1: ground, walls, ledges and water refill the charges"),
      JUGEND_TUNABLE(W, dash.charge.recharge, "dash.recharge", "s", 0, 3600, "until time gives one back; 0: never"),
      JUGEND_TUNABLE(W, launch.height, "launch.height", "m", 0.01, 1000,
                     "from the launch to its apex, where launch.time is 0"),
      JUGEND_TUNABLE(W, launch.speed, "launch.speed", "m/s", 0.01, 1000, "upward speed, held for launch.time"),
      JUGEND_TUNABLE(W, launch.time, "launch.time", "s", 0, 60, "of the held speed; 0: a jump of launch.height"),
      JUGEND_TUNABLE(W, launch.charge.charges, "launch.charges", "1", 0, 100,
                     "launches between refills; 0: there are none"),
      JUGEND_TUNABLE(W, launch.charge.cooldown, "launch.cooldown", "s", 0, 600, "from one to the next"),
      JUGEND_TUNABLE(W, launch.charge.on_ground, "launch.refill_on_ground", "0|1", 0, 1,
                     "1: ground, walls, ledges and water refill the charges"),
      JUGEND_TUNABLE(W, launch.charge.recharge, "launch.recharge", "s", 0, 3600, "until time gives one back; 0: never"),
      JUGEND_TUNABLE(W, stagger.distance, "stagger.distance", "m", 0, 1000,
                     "a hit throws back this far along level ground, where it says nothing else"),
      JUGEND_TUNABLE(W, stagger.time, "stagger.time", "s", 0.02, 60, "from the hit to the end of the throw"),
      JUGEND_TUNABLE(W, stagger.hop, "stagger.hop", "m", 0, 100, "height of the throw above the ground"),
      JUGEND_TUNABLE(W, stagger.recovery, "stagger.recovery", "s", 0, 60,
                     "after the throw until input has all its weight again"),
      JUGEND_TUNABLE(W, stagger.invulnerable, "stagger.invulnerable", "s", 0, 600, "after a hit until the next counts"),
      JUGEND_TUNABLE(W, stagger.bounce, "stagger.bounce", "m", 0.01, 1000, "height of the bounce off what is stomped"),
      JUGEND_TUNABLE(W, stagger.bounce_held, "stagger.bounce_held", "m", 0.01, 1000, "the same with the jump key held"),
      JUGEND_TUNABLE(W, wall.on, "wall.on", "0|1", 0, 1, "1: walls can be slid down and jumped off"),
      JUGEND_TUNABLE(W, wall.slide_speed, "wall.slide_speed", "m/s", 0.01, 1000, "the most while pushing into a wall"),
      JUGEND_TUNABLE(W, wall.jump_height, "wall.jump_height", "m", 0.01, 1000, "of a jump off a wall"),
      JUGEND_TUNABLE(W, wall.jump_away, "wall.jump_away", "m/s", 0, 1000, "speed away from the wall"),
      JUGEND_TUNABLE(W, wall.grace, "wall.grace", "s", 0, 10, "after leaving a wall a press still counts"),
      JUGEND_TUNABLE(W, wall.reach, "wall.reach", "m", 0.001, 10, "a wall this near counts as touched"),
      JUGEND_TUNABLE(W, wall.hold_off, "wall.hold_off", "s", 0, 10,
                     "after the jump, input back to the wall does not count"),
      JUGEND_TUNABLE(W, ledge.on, "ledge.on", "0|1", 0, 1, "1: ledges can be hung from"),
      JUGEND_TUNABLE(W, ledge.reach, "ledge.reach", "m", 0.01, 10, "that hands reach beyond the body"),
      JUGEND_TUNABLE(W, ledge.hand_height, "ledge.hand_height", "m", 0.02, 1000, "from the feet to the hand line"),
      JUGEND_TUNABLE(W, ledge.settle_time, "ledge.settle_time", "s", 0, 10, "from the catch to rest"),
      JUGEND_TUNABLE(W, ledge.climb_time, "ledge.climb_time", "s", 0, 10, "from the hang to standing above"),
      JUGEND_TUNABLE(W, ledge.drop_delay, "ledge.drop_delay", "s", 0, 10, "after letting go, nothing is caught"),
      JUGEND_TUNABLE(W, swim.speed, "swim.speed", "m/s", 0.01, 1000, "swimming with full input"),
      JUGEND_TUNABLE(W, swim.wade_speed, "swim.wade_speed", "1", 0, 1,
                     "share of the running speed left where water all but carries"),
      JUGEND_TUNABLE(W, swim.float_share, "swim.float_share", "1", 0.05, 1,
                     "share of the height under water at rest; deeper water carries"),
      JUGEND_TUNABLE(W, swim.rise_speed, "swim.rise_speed", "m/s", 0.01, 100,
                     "the most that water lifts, and that a dive sinks"),
      JUGEND_TUNABLE(W, swim.jump_height, "swim.jump_height", "m", 0.01, 1000,
                     "that a jump from the surface carries the feet up"),
      JUGEND_TUNABLE(W, swim.settle_time, "swim.settle_time", "s", 0.01, 10,
                     "of vertical and level speeds in water, to 1/e"),
      JUGEND_TUNABLE(W, pull.standard, "gravity.standard", "m/s2", 0.001, 1e6,
                     "the world's gravity that heights and times of jumps are stated for"),
      JUGEND_TUNABLE(W, pull.own, "gravity.own", "0|1", 0, 1,
                     "1: jumps are as stated whatever the world's gravity; 0: they change with it"),
      JUGEND_TUNABLE(W, facing_half_life, "facing.half_life", "s", 0, 10,
                     "time in which half of the turn to the input's direction is done; 0: at once"),
  };
  return list;
}

void check(const WalkerTuning& tuning) {
  check_ranges(walker_tunables(), &tuning);
  const auto& body = tuning.body;
  const auto refuse = [](const char* key, double found, std::string allowed) {
    throw InputError({{}, key, as_text(found), std::move(allowed), {}});
  };
  if (body.height < 2 * body.radius) {
    refuse("body.height", body.height, fmt::format("at least twice body.radius, {} m", as_text(2 * body.radius)));
  }
  if (tuning.ground.step_height > body.height - 2 * body.radius) {
    refuse("ground.step_height", tuning.ground.step_height,
           fmt::format("at most body.height - 2 x body.radius, {} m", as_text(body.height - 2 * body.radius)));
  }
  if (tuning.jump.tap_height > tuning.jump.height)
    refuse("jump.tap_height", tuning.jump.tap_height,
           fmt::format("at most jump.height, {} m", as_text(tuning.jump.height)));
  if (tuning.dash.end_speed > tuning.dash.speed() && tuning.dash.charge.charges >= 1) {
    refuse("dash.end_speed", tuning.dash.end_speed,
           fmt::format("at most the dash's own, dash.distance / dash.time = {} m/s", as_text(tuning.dash.speed())));
  }
  if (tuning.ledge.on > 0 && tuning.ledge.hand_height < 2 * body.radius) {
    refuse("ledge.hand_height", tuning.ledge.hand_height,
           fmt::format("at least 2 x body.radius, {} m", as_text(2 * body.radius)));
  }
}

}  // namespace jugend
