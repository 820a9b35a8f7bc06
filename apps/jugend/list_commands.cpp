// params, gauges and size: what can be tuned and is measured, and what follows from a few numbers.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/lab/kind.hpp>
#include <jugend/motion/moves/sizing.hpp>
#include <jugend/report/schema.hpp>
#include <jugend/report/table.hpp>
#include <memory>

#include "commands.hpp"
#include "lines.hpp"

namespace jugend::app {
namespace {

struct SizeOptions {
  double height = 1.25, time = 0.38, fall_gravity = 1.5, fall_speed_limit = 22;
  double speed = 6, gravity = 9.80665, rise = 0, distance = 0, stop_time = 0, deceleration = 0;
  bool json = false;

  JumpTuning jump() const {
    size_jump(height, time);  // refuses what is no jump
    const auto positive = [](double value, const char* key) {
      if (!(value > 0)) throw InputError({{"size"}, key, as_text(value), "more than 0", {}});
    };
    positive(fall_gravity, "--fall-gravity");
    positive(fall_speed_limit, "--fall-speed-limit");
    JumpTuning tuning;
    tuning.height = height, tuning.time_to_apex = time;
    tuning.fall_gravity = fall_gravity, tuning.fall_speed_limit = fall_speed_limit;
    return tuning;
  }
  void add_jump(CLI::App& command) {
    command.add_option("--height", height, "apex above take-off, m")->capture_default_str();
    command.add_option("--time", time, "take-off to apex, s")->capture_default_str();
    command.add_option("--fall-gravity", fall_gravity, "gravity in the fall, as a multiple")->capture_default_str();
    command.add_option("--fall-speed-limit", fall_speed_limit, "m/s")->capture_default_str();
  }
};

std::shared_ptr<SizeOptions> sub(CLI::App& size, const char* name, const char* help, CLI::App*& command) {
  auto options = std::make_shared<SizeOptions>();
  command = size.add_subcommand(name, help);
  command->add_flag("--json", options->json, "print JSON for machines");
  return options;
}

void need_positive(double value, const char* key) {
  if (!(value > 0) || !std::isfinite(value)) throw InputError({{"size"}, key, as_text(value), "more than 0", {}});
}

void add_size_jump(CLI::App& size) {
  CLI::App* command = nullptr;
  auto jump = sub(size, "jump", "gravity and take-off speed of a jump by height and time", command);
  jump->add_jump(*command);
  command->callback([jump] {
    const JumpTuning tuning = jump->jump();
    const JumpSize s = size_jump(jump->height, jump->time);
    const double fall = fall_time(tuning, tuning.height);
    const FallLaw law = tuning.fall_law();
    print_lines({{"gravity_m_s2", "gravity in the rise", "m/s2", s.gravity},
                 {"fall_gravity_m_s2", "gravity in the fall", "m/s2", law.falling},
                 {"take_off_speed_m_s", "take-off speed", "m/s", s.take_off_speed},
                 {"air_time_s", "time in the air", "s", tuning.time_to_apex + fall},
                 {"landing_speed_m_s", "landing speed", "m/s", std::min(law.speed_limit, law.falling * fall)}},
                jump->json);
  });
}

void add_size_rise(CLI::App& size) {
  CLI::App* command = nullptr;
  auto rise = sub(size, "rise", "how high and how long an upward speed carries", command);
  command->add_option("--speed", rise->speed, "m/s")->required();
  command->add_option("--gravity", rise->gravity, "m/s2")->capture_default_str();
  command->callback([rise] {
    const Rise r = rise_of(rise->speed, rise->gravity);
    print_lines({{"height_m", "height", "m", r.height}, {"time_s", "time to apex", "s", r.time}}, rise->json);
  });
}

void add_size_reach(CLI::App& size) {
  CLI::App* command = nullptr;
  auto reach = sub(size, "reach", "what gap a jump crosses, and what ledge it clears", command);
  reach->add_jump(*command);
  command->add_option("--speed", reach->speed, "level speed, m/s")->capture_default_str();
  command->add_option("--rise", reach->rise, "landing above take-off, m; negative: below")->capture_default_str();
  CLI::Option* distance = command->add_option("--distance", reach->distance, "how far away the ledge is, m");
  command->callback([reach, distance] {
    need_positive(reach->speed, "--speed");
    const JumpTuning tuning = reach->jump();
    const auto time = flight_time(tuning, reach->rise);
    if (!time)
      throw InputError({{"size"},
                        "--rise",
                        as_text(reach->rise),
                        "at most the jump's height, " + as_text(tuning.height) + " m",
                        {}});
    std::vector<Line> lines{{"air_time_s", "time in the air", "s", *time},
                            {"gap_m", "widest gap", "m", reach->speed * *time}};
    if (distance->count() > 0) {
      need_positive(reach->distance, "--distance");
      lines.push_back({"ledge_m", "highest ledge there", "m", ledge(tuning, reach->speed, reach->distance)});
    }
    print_lines(lines, reach->json);
  });
}

void add_size_air_jumps(CLI::App& size) {
  CLI::App* command = nullptr;
  struct Moves {
    double air_jumps = 1, air_height = 1, air_ratio = 1;
  };
  auto moves = std::make_shared<Moves>();
  auto air = sub(size, "air-jumps", "how high a jump and its air jumps reach together", command);
  air->add_jump(*command);
  command->add_option("--air-jumps", moves->air_jumps, "how many")->capture_default_str()->check(CLI::Range(0, 16));
  command->add_option("--air-height", moves->air_height, "of the first, m")->capture_default_str();
  command->add_option("--ratio", moves->air_ratio, "height of each further one, of the one before")
      ->capture_default_str();
  command->callback([air, moves] {
    need_positive(moves->air_height, "--air-height");
    need_positive(moves->air_ratio, "--ratio");
    JumpTuning tuning = air->jump();
    tuning.air_jumps = moves->air_jumps;
    tuning.air_height = moves->air_height, tuning.air_height_ratio = moves->air_ratio;
    const Rise all = rise_with_air_jumps(tuning);
    std::vector<Line> lines{{"height_m", "height reached", "m", all.height},
                            {"time_s", "time to the last apex", "s", all.time}};
    if (tuning.air_jumps >= 1)
      lines.push_back({"air_speed_m_s", "speed of the first air jump", "m/s", tuning.speed_for(tuning.air_height)});
    print_lines(lines, air->json);
  });
}

void add_size_dash(CLI::App& size) {
  CLI::App* command = nullptr;
  auto dash = sub(size, "dash", "the speed of a dash by distance and time", command);
  command->add_option("--distance", dash->distance, "m")->required();
  command->add_option("--time", dash->time, "s")->required();
  command->callback([dash] {
    print_lines({{"speed_m_s", "speed", "m/s", dash_speed(dash->distance, dash->time)}}, dash->json);
  });
}

void add_size_throw(CLI::App& size) {
  CLI::App* command = nullptr;
  auto mass = std::make_shared<double>(61);
  auto thrown = sub(size, "throw", "speed, braking and impulse of a throw by distance and time", command);
  command->add_option("--distance", thrown->distance, "along level ground, m")->required();
  command->add_option("--time", thrown->time, "to its end, s")->capture_default_str();
  command->add_option("--mass", *mass, "kg")->capture_default_str();
  command->callback([thrown, mass] {
    const Throw t = throw_of(thrown->distance, thrown->time, *mass);
    print_lines({{"speed_m_s", "speed at the hit", "m/s", t.speed},
                 {"brake_m_s2", "even deceleration", "m/s2", t.brake},
                 {"impulse_ns", "impulse of the hit", "Ns", t.impulse}},
                thrown->json);
  });
}

void add_size_gravity(CLI::App& size) {
  CLI::App* command = nullptr;
  struct OnBody {
    std::string body = "moon";
  };
  auto on = std::make_shared<OnBody>();
  auto gravity = sub(size, "gravity", "a game's gravity as it would be on another body of the sky", command);
  command->add_option("--on", on->body, "earth, moon, mars, venus or jupiter")->capture_default_str();
  command->add_option("--gravity", gravity->gravity, "the game's own, m/s2")->capture_default_str();
  command->callback([gravity, on] {
    need_positive(gravity->gravity, "--gravity");
    const double there = gravity_on(on->body, gravity->gravity);
    print_lines({{"gravity_m_s2", "gravity there", "m/s2", there},
                 {"ratio", "share of the game's own", "1", there / gravity->gravity},
                 {"lift", "lift of a group that falls so", "1", 1 - there / gravity->gravity}},
                gravity->json);
  });
}

void add_size_stop(CLI::App& size) {
  CLI::App* command = nullptr;
  auto stop = sub(size, "stop", "how far and how long braking takes", command);
  command->add_option("--speed", stop->speed, "m/s")->required();
  CLI::Option* by_time = command->add_option("--time", stop->stop_time, "to standstill, s");
  command->add_option("--deceleration", stop->deceleration, "m/s2")->excludes(by_time);
  command->callback([stop, by_time] {
    need_positive(stop->speed, "--speed");
    if (by_time->count() > 0)
      need_positive(stop->stop_time, "--time");
    else
      need_positive(stop->deceleration, "--deceleration");
    const double a = by_time->count() > 0 ? stop->speed / stop->stop_time : stop->deceleration;
    print_lines({{"distance_m", "stopping distance", "m", stop->speed * stop->speed / (2 * a)},
                 {"time_s", "time to standstill", "s", stop->speed / a},
                 {"deceleration_m_s2", "deceleration", "m/s2", a}},
                stop->json);
  });
}

}  // namespace

void add_params(CLI::App& app) {
  struct Options {
    std::string kind = "walker";
    bool json = false, schema = false;
  };
  auto options = std::make_shared<Options>();
  CLI::App* command = app.add_subcommand("params", "every tunable with unit, range, default and help");
  command->add_option("kind", options->kind, fmt::format("{}", fmt::join(standard_kinds().names(), ", ")))
      ->capture_default_str();
  command->add_flag("--json", options->json, "print JSON for machines");
  command->add_flag("--schema", options->schema, "print the JSON Schema of a tuning file");
  command->callback([options] {
    const LabKind& kind = standard_kinds().get(options->kind, {"params"}, "kind");
    ActorTuning defaults(kind);
    const Tunables& list = defaults.list();
    fmt::print("{}", options->schema ? tunable_schema(list, defaults.data(), options->kind)
                     : options->json ? tunable_json(list, defaults.data())
                                     : tunable_table(list, defaults.data()));
  });
}

void add_gauges(CLI::App& app) {
  struct Options {
    std::string kind = "walker";
    bool json = false;
  };
  auto options = std::make_shared<Options>();
  CLI::App* command = app.add_subcommand("gauges", "what each number in a run's tables means");
  command->add_option("kind", options->kind, fmt::format("{}", fmt::join(standard_kinds().names(), ", ")))
      ->capture_default_str();
  command->add_flag("--json", options->json, "print JSON for machines");
  command->callback([options] {
    const LabKind& kind = standard_kinds().get(options->kind, {"gauges"}, "kind");
    fmt::print("{}", options->json ? gauge_list_json(kind) : gauge_list(kind));
  });
}

void add_size(CLI::App& app) {
  CLI::App* size = app.add_subcommand("size", "closed forms: gravity, speeds, gaps, ledges, stopping distance");
  size->require_subcommand(1);
  add_size_jump(*size);
  add_size_rise(*size);
  add_size_reach(*size);
  add_size_air_jumps(*size);
  add_size_dash(*size);
  add_size_throw(*size);
  add_size_gravity(*size);
  add_size_stop(*size);
  add_vehicle_sizes(*size);
}

}  // namespace jugend::app
