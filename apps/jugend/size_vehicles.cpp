// size spring, roll, tip, tyre, gear, hover, rotor-loss: what follows for vehicles and multirotors.
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/rotors.hpp>
#include <jugend/motion/vehicle/vehicle_sizing.hpp>
#include <memory>

#include "commands.hpp"
#include "lines.hpp"

namespace jugend::app {

namespace {

struct Options {
  double mass = 105, frequency = 1.7, sag = 0, ratio = 0.4, height = 0.55, track = 1.15, stiffness = 12000, bar = 0;
  double revs = 6600, gear = 1, final_drive = 3.9, radius = 0.27, rotors = 4, thrust = 9, curve = 2;
  double turn_radius = 8, grip = 1.05, load = 1030, lift_ratio = 2.2;
  int ring = 6;
  std::vector<std::string> points;
  bool json = false;
};
using Given = std::shared_ptr<Options>;

CLI::App* sub(CLI::App& size, const Given& o, const char* name, const char* help) {
  CLI::App* command = size.add_subcommand(name, help);
  command->add_flag("--json", o->json, "print JSON for machines");
  return command;
}

void add_spring(CLI::App& size, const Given& o) {
  CLI::App* spring = sub(size, o, "spring", "stiffness, damping and settling of a weight on a spring");
  spring->add_option("--mass", o->mass, "on one wheel, kg")->capture_default_str();
  CLI::Option* frequency = spring->add_option("--frequency", o->frequency, "of its ride, Hz")->capture_default_str();
  CLI::Option* sag = spring->add_option("--sag", o->sag, "under the weight, m, instead")->excludes(frequency);
  spring->add_option("--ratio", o->ratio, "of damping, 1: critical")->capture_default_str();
  spring->callback([o, sag] {
    const double hertz = sag->count() > 0 ? frequency_of_sag(o->sag) : o->frequency;
    const SpringSize s = size_spring(o->mass, hertz, o->ratio);
    print_lines({{"frequency_hz", "ride frequency", "Hz", hertz},
                 {"stiffness_n_m", "stiffness", "N/m", s.stiffness},
                 {"sag_m", "sag at rest", "m", s.sag},
                 {"critical_ns_m", "critical damping", "N s/m", s.critical},
                 {"damping_ns_m", "damping at the ratio", "N s/m", s.damping},
                 {"overshoot", "overshoot", "1", s.overshoot},
                 {"settle_time_s", "until 2 % are left", "s", s.settle_time}},
                o->json);
  });
}

void add_roll(CLI::App& size, const Given& o) {
  CLI::App* roll = sub(size, o, "roll", "how far a curve leans a body on its springs, and where it tips");
  roll->add_option("--mass", o->mass, "of the whole body, kg")->required();
  roll->add_option("--height", o->height, "of the centre of mass above ground, m")->capture_default_str();
  roll->add_option("--track", o->track, "m")->capture_default_str();
  roll->add_option("--stiffness", o->stiffness, "of one wheel's spring, N/m")->capture_default_str();
  roll->add_option("--bar", o->bar, "of each axle's anti-roll bar, N/m")->capture_default_str();
  roll->callback([o] {
    const RollSize s = size_roll(o->mass, o->height, o->track, o->stiffness, o->bar);
    print_lines({{"roll_deg_per_g", "roll for 1 g sideways", "deg", s.degrees_per_g},
                 {"tips_at_m_s2", "inner wheels lift at", "m/s2", s.tips_at}},
                o->json);
  });
}

void add_tip(CLI::App& size, const Given& o) {
  CLI::App* tip = sub(size, o, "tip", "the speed at which a curve tips a body over, or its tyres slide");
  tip->add_option("--height", o->height, "of the centre of mass above ground, m")->capture_default_str();
  tip->add_option("--track", o->track, "m")->capture_default_str();
  tip->add_option("--radius", o->turn_radius, "of the curve, m")->capture_default_str();
  tip->add_option("--grip", o->grip, "of tyres and ground")->capture_default_str();
  tip->callback([o] {
    const TipSize s = size_tip(o->height, o->track, o->turn_radius, o->grip);
    print_lines({{"tips_at_m_s", "inner wheels lift at", "m/s", s.tips_at},
                 {"slides_at_m_s", "tyres slide at", "m/s", s.slides_at},
                 {"kept_at_m_s", "aids.keep_down steers it up to", "m/s", s.kept_at},
                 {"grip", "it tips before it slides with a grip above", "1", s.grip}},
                o->json);
  });
}

/// "4:820": degrees and newtons.
TyrePoint tyre_point(const std::string& text) {
  const auto colon = text.find(':');
  std::size_t used = 0, rest = 0;
  try {
    if (colon != std::string::npos) {
      const TyrePoint p{std::stod(text.substr(0, colon), &used) * radians_per_degree,
                        std::stod(text.substr(colon + 1), &rest)};
      if (used == colon && rest == text.size() - colon - 1) return p;
    }
  } catch (const std::exception&) {
  }
  throw InputError({{}, "--points", "'" + text + "'", "degrees:newtons, as 4:820", {}});
}

void add_tyre(CLI::App& size, const Given& o) {
  CLI::App* tyre = sub(size, o, "tyre", "a brush tyre's tunables through measured points");
  tyre->add_option("--load", o->load, "on the wheel, N")->capture_default_str();
  tyre->add_option("--points", o->points, "degrees of slip and newtons sideways: 2:420 4:760 8:1010")->required();
  tyre->callback([o] {
    std::vector<TyrePoint> points;
    for (const std::string& text : o->points) points.push_back(tyre_point(text));
    const TyreSize s = size_tyre(o->load, points);
    print_lines({{"grip", "tyre.grip", "1", s.grip},
                 {"side_stiffness", "tyre.side_stiffness", "1/rad", s.stiffness},
                 {"slides_at_deg", "wholly slides from", "deg", s.slides_at / radians_per_degree},
                 {"missed", "points are off by, share of the highest", "1", s.missed}},
                o->json);
  });
}

void add_gears(CLI::App& size, const Given& o) {
  CLI::App* gears = sub(size, o, "gear", "the speed that revs give through a gear");
  gears->add_option("--revs", o->revs, "1/min")->capture_default_str();
  gears->add_option("--ratio", o->gear, "of the gear")->required();
  gears->add_option("--final", o->final_drive, "drive's ratio")->capture_default_str();
  gears->add_option("--radius", o->radius, "of the wheels, m")->capture_default_str();
  gears->callback([o] {
    print_lines({{"speed_m_s", "speed", "m/s", gear_speed(o->revs, o->gear, o->final_drive, o->radius)}}, o->json);
  });
}

void add_hover(CLI::App& size, const Given& o) {
  CLI::App* hover = sub(size, o, "hover", "throttle and tilt limit of a multirotor");
  hover->add_option("--mass", o->mass, "kg")->required();
  hover->add_option("--rotors", o->rotors, "how many")->capture_default_str();
  hover->add_option("--thrust", o->thrust, "of each at the most, N")->capture_default_str();
  hover->add_option("--curve", o->curve, "thrust goes as this power of rotor speed")->capture_default_str();
  hover->callback([o] {
    const HoverSize s = size_hover(o->mass, o->rotors, o->thrust, o->curve);
    print_lines({{"thrust_n", "thrust of each", "N", s.thrust},
                 {"throttle", "share of the most rotor speed", "1", s.speed_share},
                 {"tilt_limit_deg", "height can be held up to a tilt of", "deg", s.tilt_limit / radians_per_degree},
                 {"side_acceleration_m_s2", "sideways acceleration there", "m/s2", s.side_acceleration}},
                o->json);
  });
}

void add_rotor_loss(CLI::App& size, const Given& o) {
  CLI::App* loss = sub(size, o, "rotor-loss", "what a ring of rotors can lift level without one or two of them");
  loss->add_option("--rotors", o->ring, "how many")->capture_default_str();
  loss->add_option("--lift-ratio", o->lift_ratio, "lift of all at the most, over the weight")->capture_default_str();
  loss->callback([o] {
    const RotorLossSize s = size_rotor_loss(o->ring, o->lift_ratio);
    const auto falls = [](double lift) { return std::max(0.0, 1 - lift) * standard_gravity; };
    print_lines({{"one", "one lost: most lift, level, over the weight", "1", s.one},
                 {"one_sinks_m_s2", "one lost: sinks at", "m/s2", falls(s.one)},
                 {"two_best", "two lost, the best pair", "1", s.two_best},
                 {"two_worst", "two lost, the worst pair", "1", s.two_worst},
                 {"two_sinks_m_s2", "two lost, the worst pair: sinks at", "m/s2", falls(s.two_worst)}},
                o->json);
  });
}

}  // namespace

void add_vehicle_sizes(CLI::App& size) {
  const auto o = std::make_shared<Options>();
  add_spring(size, o);
  add_roll(size, o);
  add_tip(size, o);
  add_tyre(size, o);
  add_gears(size, o);
  add_hover(size, o);
  add_rotor_loss(size, o);
}

}  // namespace jugend::app
