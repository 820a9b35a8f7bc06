// What can be tuned about a walker: the one list that files, options, tables and schemas read.
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/walker/walker.hpp>

namespace jugend {

const Tunables& walker_tunables() {
  using W = WalkerTuning;
  static const Tunables list{
      number<W>(
          "body.radius", "m", 0.01, 1000, "half the width of the body", [](auto& t) -> auto& { return t.body.radius; }),
      number<W>(
          "body.height", "m", 0.02, 1000, "sole to crown, at least twice the radius",
          [](auto& t) -> auto& { return t.body.height; }),
      number<W>(
          "body.mass", "kg", 0.001, 1000000.0, "weight on what it stands on and pushes",
          [](auto& t) -> auto& { return t.body.mass; }),
      number<W>(
          "run.top_speed", "m/s", 0.01, 1000, "speed on the ground with full input",
          [](auto& t) -> auto& { return t.run.top_speed; }),
      number<W>(
          "run.time_to_top_speed", "s", 0, 60, "from standstill to top speed; 0: at once",
          [](auto& t) -> auto& { return t.run.time_to_top_speed; }),
      number<W>(
          "run.time_to_stop", "s", 0, 60, "from top speed to standstill without input; 0: at once",
          [](auto& t) -> auto& { return t.run.time_to_stop; }),
      number<W>(
          "run.time_to_turn", "s", 0, 60, "from top speed to standstill with input the other way; 0: at once",
          [](auto& t) -> auto& { return t.run.time_to_turn; }),
      number<W>(
          "air.top_speed", "m/s", 0.01, 1000, "the speed that the air rates are stated for",
          [](auto& t) -> auto& { return t.air.top_speed; }),
      number<W>(
          "air.time_to_top_speed", "s", 0, 60, "the same in the air",
          [](auto& t) -> auto& { return t.air.time_to_top_speed; }),
      number<W>(
          "air.time_to_stop", "s", 0, 60, "the same in the air", [](auto& t) -> auto& { return t.air.time_to_stop; }),
      number<W>(
          "air.time_to_turn", "s", 0, 60, "the same in the air", [](auto& t) -> auto& { return t.air.time_to_turn; }),
      number<W>(
          "jump.height", "m", 0.01, 1000, "from take-off to apex", [](auto& t) -> auto& { return t.jump.height; }),
      number<W>(
          "jump.time_to_apex", "s", 0.02, 20,
          "from take-off to apex; with the height it sets gravity and take-off speed",
          [](auto& t) -> auto& { return t.jump.time_to_apex; }),
      number<W>(
          "jump.fall_gravity", "1", 0.1, 20, "gravity while falling, as a multiple of gravity while rising",
          [](auto& t) -> auto& { return t.jump.fall_gravity; }),
      number<W>(
          "jump.fall_speed_limit", "m/s", 0.1, 10000, "falling never speeds up beyond this",
          [](auto& t) -> auto& { return t.jump.fall_speed_limit; }),
      number<W>(
          "ground.slope_limit_deg", "deg", 0, 85, "steeper ground is slid on",
          [](auto& t) -> auto& { return t.ground.slope_limit; }),
      number<W>(
          "ground.step_height", "m", 0, 100, "lower steps are walked over, up and down",
          [](auto& t) -> auto& { return t.ground.step_height; }),
      number<W>(
          "ground.probe", "m", 0, 10, "a falling walker this near to the ground may jump",
          [](auto& t) -> auto& { return t.ground.probe; }),
      number<W>(
          "ground.foothold", "1", 0, 0.95, "share of the radius that may stand beyond a ledge",
          [](auto& t) -> auto& { return t.ground.foothold; }),
      number<W>(
          "jump.tap_height", "m", 0, 1000,
          "reached by a tap, at most jump.height; 0: the hold of the key changes nothing",
          [](auto& t) -> auto& { return t.jump.tap_height; }),
      number<W>(
          "jump.buffer", "s", 0, 10, "a press this long before landing is remembered",
          [](auto& t) -> auto& { return t.jump.buffer; }),
      number<W>(
          "jump.coyote_time", "s", 0, 10, "a press this long after walking off an edge still counts",
          [](auto& t) -> auto& { return t.jump.coyote_time; }),
      number<W>(
          "jump.lockout", "s", 0, 10, "after a jump, until the next", [](auto& t) -> auto& { return t.jump.lockout; }),
      number<W>(
          "jump.landing_lockout", "s", 0, 10, "after a landing, until the next jump from the ground",
          [](auto& t) -> auto& { return t.jump.landing_lockout; }),
      number<W>(
          "jump.float_speed", "m/s", 0, 100, "near the apex, at speeds below this, gravity is less; 0: nowhere",
          [](auto& t) -> auto& { return t.jump.float_speed; }),
      number<W>(
          "jump.float_gravity", "1", 0.05, 1,
          "share of gravity that is left there; height and time to apex stay as asked",
          [](auto& t) -> auto& { return t.jump.float_gravity; }),
      whole<W>(
          "jump.air_jumps", 0, 16, "number of jumps in the air between one ground and the next",
          [](auto& t) -> auto& { return t.jump.air_jumps; }),
      number<W>(
          "jump.air_height", "m", 0.01, 1000, "of the first air jump",
          [](auto& t) -> auto& { return t.jump.air_height; }),
      number<W>(
          "jump.air_height_ratio", "1", 0.1, 10, "height of each further air jump, as a share of the one before",
          [](auto& t) -> auto& { return t.jump.air_height_ratio; }),
      number<W>(
          "carry.level", "1", 0, 1, "share of the ground's level velocity kept at a take-off",
          [](auto& t) -> auto& { return t.carry.level; }),
      number<W>(
          "carry.rise", "1", 0, 1, "share of the ground's rise kept at a take-off",
          [](auto& t) -> auto& { return t.carry.rise; }),
      choice<W>(
          "carry.rise_rule", "heights add, a jump gains v^2/2g; or speeds add",
          [](auto& t) -> auto& { return t.carry.rise_rule; }),
      number<W>(
          "crouch.height_share", "1", 0.05, 1, "height while crouching, of the body's; at least twice the radius",
          [](auto& t) -> auto& { return t.crouch.height_share; }),
      number<W>(
          "crouch.speed_share", "1", 0, 10, "of the top speed", [](auto& t) -> auto& { return t.crouch.speed_share; }),
      number<W>(
          "push.force", "N", 0, 1000000000.0, "the most with which a running walker pushes a body",
          [](auto& t) -> auto& { return t.push.force; }),
      number<W>(
          "push.weight", "1", 0, 100, "share of its weight that rests on what it stands on",
          [](auto& t) -> auto& { return t.push.weight; }),
      number<W>(
          "kick.fraction", "1", 0, 100, "of a take-off's momentum that the body stood on gets, the other way; 0: none",
          [](auto& t) -> auto& { return t.kick.fraction; }),
      number<W>(
          "kick.speed_cap", "m/s", 0, 10000, "the most that a kick changes a body's speed",
          [](auto& t) -> auto& { return t.kick.speed_cap; }),
      number<W>(
          "dash.distance", "m", 0.01, 1000, "length of a dash", [](auto& t) -> auto& { return t.dash.distance; }),
      number<W>(
          "dash.time", "s", 0.01, 60, "time of a dash", [](auto& t) -> auto& { return t.dash.time; }),
      number<W>(
          "dash.end_speed", "m/s", 0, 1000, "speed that remains at its end",
          [](auto& t) -> auto& { return t.dash.end_speed; }),
      number<W>(
          "dash.gravity", "1", 0, 10, "share of gravity kept in a dash; 0: off",
          [](auto& t) -> auto& { return t.dash.gravity; }),
      choice<W>(
          "dash.direction", "where a dash goes: as input points, as the body faces, as it aims",
          [](auto& t) -> auto& { return t.dash.direction; }),
      toggle<W>(
          "dash.through_one_way", "goes through thin one-way surfaces",
          [](auto& t) -> auto& { return t.dash.through_one_way; }),
      whole<W>(
          "dash.charges", 0, 100, "dashes between refills; 0: there are none",
          [](auto& t) -> auto& { return t.dash.charge.charges; }),
      number<W>(
          "dash.cooldown", "s", 0, 600, "from one to the next",
          [](auto& t) -> auto& { return t.dash.charge.cooldown; }),
      toggle<W>(
          "dash.refill_on_ground", "ground, walls, ledges and water refill the charges",
          [](auto& t) -> auto& { return t.dash.charge.on_ground; }),
      number<W>(
          "dash.recharge", "s", 0, 3600, "until time gives one back; 0: never",
          [](auto& t) -> auto& { return t.dash.charge.recharge; }),
      number<W>(
          "launch.height", "m", 0.01, 1000, "from the launch to its apex, where launch.time is 0",
          [](auto& t) -> auto& { return t.launch.height; }),
      number<W>(
          "launch.speed", "m/s", 0.01, 1000, "upward speed, held for launch.time",
          [](auto& t) -> auto& { return t.launch.speed; }),
      number<W>(
          "launch.time", "s", 0, 60, "of the held speed; 0: a jump of launch.height",
          [](auto& t) -> auto& { return t.launch.time; }),
      whole<W>(
          "launch.charges", 0, 100, "launches between refills; 0: there are none",
          [](auto& t) -> auto& { return t.launch.charge.charges; }),
      number<W>(
          "launch.cooldown", "s", 0, 600, "from one to the next",
          [](auto& t) -> auto& { return t.launch.charge.cooldown; }),
      toggle<W>(
          "launch.refill_on_ground", "ground, walls, ledges and water refill the charges",
          [](auto& t) -> auto& { return t.launch.charge.on_ground; }),
      number<W>(
          "launch.recharge", "s", 0, 3600, "until time gives one back; 0: never",
          [](auto& t) -> auto& { return t.launch.charge.recharge; }),
      toggle<W>(
          "plunge.on", "crouching in the air throws it straight down", [](auto& t) -> auto& { return t.plunge.on; }),
      number<W>(
          "plunge.speed", "m/s", 0.01, 1000, "downward speed with which a plunge begins",
          [](auto& t) -> auto& { return t.plunge.speed; }),
      number<W>(
          "stagger.distance", "m", 0, 1000, "a hit throws back this far along level ground, where it says nothing else",
          [](auto& t) -> auto& { return t.stagger.distance; }),
      number<W>(
          "stagger.time", "s", 0.02, 60, "from the hit to the end of the throw",
          [](auto& t) -> auto& { return t.stagger.time; }),
      number<W>(
          "stagger.hop", "m", 0, 100, "height of the throw above the ground",
          [](auto& t) -> auto& { return t.stagger.hop; }),
      number<W>(
          "stagger.recovery", "s", 0, 60, "after the throw until input has all its weight again",
          [](auto& t) -> auto& { return t.stagger.recovery; }),
      number<W>(
          "stagger.invulnerable", "s", 0, 600, "after a hit until the next counts",
          [](auto& t) -> auto& { return t.stagger.invulnerable; }),
      number<W>(
          "stagger.bounce", "m", 0.01, 1000, "height of the bounce off what is stomped",
          [](auto& t) -> auto& { return t.stagger.bounce; }),
      number<W>(
          "stagger.bounce_held", "m", 0.01, 1000, "the same with the jump key held",
          [](auto& t) -> auto& { return t.stagger.bounce_held; }),
      choice<W>(
          "meeting", "what other walkers are to it: solid, or passed through by both",
          [](auto& t) -> auto& { return t.meeting; }),
      toggle<W>(
          "wall.on", "walls can be slid down and jumped off", [](auto& t) -> auto& { return t.wall.on; }),
      number<W>(
          "wall.slide_speed", "m/s", 0.01, 1000, "the most while pushing into a wall",
          [](auto& t) -> auto& { return t.wall.slide_speed; }),
      number<W>(
          "wall.jump_height", "m", 0.01, 1000, "of a jump off a wall",
          [](auto& t) -> auto& { return t.wall.jump_height; }),
      number<W>(
          "wall.jump_away", "m/s", 0, 1000, "speed away from the wall",
          [](auto& t) -> auto& { return t.wall.jump_away; }),
      number<W>(
          "wall.grace", "s", 0, 10, "after leaving a wall a press still counts",
          [](auto& t) -> auto& { return t.wall.grace; }),
      number<W>(
          "wall.reach", "m", 0.001, 10, "a wall this near counts as touched",
          [](auto& t) -> auto& { return t.wall.reach; }),
      number<W>(
          "wall.hold_off", "s", 0, 10, "after the jump, input back to the wall does not count",
          [](auto& t) -> auto& { return t.wall.hold_off; }),
      toggle<W>(
          "ledge.on", "ledges can be hung from", [](auto& t) -> auto& { return t.ledge.on; }),
      number<W>(
          "ledge.reach", "m", 0.01, 10, "that hands reach beyond the body",
          [](auto& t) -> auto& { return t.ledge.reach; }),
      number<W>(
          "ledge.hand_height", "m", 0.02, 1000, "from the feet to the hand line",
          [](auto& t) -> auto& { return t.ledge.hand_height; }),
      number<W>(
          "ledge.settle_time", "s", 0, 10, "from the catch to rest",
          [](auto& t) -> auto& { return t.ledge.settle_time; }),
      number<W>(
          "ledge.climb_time", "s", 0, 10, "from the hang to standing above",
          [](auto& t) -> auto& { return t.ledge.climb_time; }),
      number<W>(
          "ledge.drop_delay", "s", 0, 10, "after letting go, nothing is caught",
          [](auto& t) -> auto& { return t.ledge.drop_delay; }),
      number<W>(
          "swim.speed", "m/s", 0.01, 1000, "swimming with full input", [](auto& t) -> auto& { return t.swim.speed; }),
      number<W>(
          "swim.wade_speed", "1", 0, 1, "share of the running speed left where water all but carries",
          [](auto& t) -> auto& { return t.swim.wade_speed; }),
      number<W>(
          "swim.float_share", "1", 0.05, 1, "share of the height under water at rest; deeper water carries",
          [](auto& t) -> auto& { return t.swim.float_share; }),
      number<W>(
          "swim.rise_speed", "m/s", 0.01, 100, "the most that water lifts, and that a dive sinks",
          [](auto& t) -> auto& { return t.swim.rise_speed; }),
      number<W>(
          "swim.jump_height", "m", 0.01, 1000, "that a jump from the surface carries the feet up",
          [](auto& t) -> auto& { return t.swim.jump_height; }),
      number<W>(
          "swim.settle_time", "s", 0.01, 10, "of vertical and level speeds in water, to 1/e",
          [](auto& t) -> auto& { return t.swim.settle_time; }),
      length_scale_of<W>(),
      number<W>(
          "gravity.standard", "m/s2", 0.001, 1e6, "the world's gravity that heights and times of jumps are stated for",
          [](auto& t) -> auto& { return t.pull.standard; }),
      toggle<W>(
          "gravity.own", "jumps are as stated whatever the world's gravity; else they change with it",
          [](auto& t) -> auto& { return t.pull.own; }),
      number<W>(
          "facing.half_life", "s", 0, 10, "time in which half of the turn to the input's direction is done; 0: at once",
          [](auto& t) -> auto& { return t.facing_half_life; }),
  };
  return list;
}

void check(const WalkerTuning& tuning) {
  check_ranges(walker_tunables(), &tuning);
  const auto& body = tuning.body;
  const auto refuse = [](const char* key, double found, std::string allowed) {
    fail({{}, key, as_text(found), std::move(allowed), {}});
  };
  if (body.height < 2 * body.radius) {
    refuse("body.height", body.height, filled("at least twice body.radius, {} m", as_text(2 * body.radius)));
  }
  if (tuning.ground.step_height > body.height - 2 * body.radius) {
    refuse("ground.step_height", tuning.ground.step_height,
           filled("at most body.height - 2 x body.radius, {} m", as_text(body.height - 2 * body.radius)));
  }
  if (tuning.jump.tap_height > tuning.jump.height)
    refuse("jump.tap_height", tuning.jump.tap_height, filled("at most jump.height, {} m", as_text(tuning.jump.height)));
  if (tuning.dash.end_speed > tuning.dash.speed() && tuning.dash.charge.charges >= 1) {
    refuse("dash.end_speed", tuning.dash.end_speed,
           filled("at most the dash's own, dash.distance / dash.time = {} m/s", as_text(tuning.dash.speed())));
  }
  if (tuning.ledge.on && tuning.ledge.hand_height < 2 * body.radius) {
    refuse("ledge.hand_height", tuning.ledge.hand_height,
           filled("at least 2 x body.radius, {} m", as_text(2 * body.radius)));
  }
}

}  // namespace jugend
