// What can be tuned about a walker: the one list that files, options, tables and schemas read.
#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/motion/walker.hpp>

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
      JUGEND_TUNABLE(W, jump.fall_multiplier, "jump.fall_multiplier", "1", 0.1, 20,
                     "gravity while falling, as a multiple of gravity while rising"),
      JUGEND_TUNABLE(W, jump.fall_speed_limit, "jump.fall_speed_limit", "m/s", 0.1, 10000,
                     "falling never speeds up beyond this"),
      JUGEND_TUNABLE(W, ground.slope_limit, "ground.slope_limit_deg", "deg", 0, 85, "steeper ground is slid on"),
      JUGEND_TUNABLE(W, ground.step_height, "ground.step_height", "m", 0, 100,
                     "lower steps are walked over, up and down"),
      JUGEND_TUNABLE(W, ground.probe, "ground.probe", "m", 0, 10, "a falling walker this near to the ground may jump"),
      JUGEND_TUNABLE(W, ground.foothold, "ground.foothold", "1", 0, 0.95,
                     "share of the radius that may stand beyond a ledge"),
      JUGEND_TUNABLE(W, facing_half_life, "facing.half_life", "s", 0, 10,
                     "time in which half of the turn to the input's direction is done; 0: at once"),
  };
  return list;
}

void check(const WalkerTuning& tuning) {
  WalkerTuning copy = tuning;
  for (const Tunable& t : walker_tunables()) t.write(&copy, t.read(&tuning));  // refuses what is out of range
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
}

}  // namespace jugend
