#include "laws.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "energy_law.hpp"

namespace jugend::laws {
namespace {

std::string shown(const Vec3& v) { return fmt::format("({:.4f}, {:.4f}, {:.4f})", v.x, v.y, v.z); }

/// Where two runs of one scene part by more than `metres`, or end with other heights.
std::string parted(const Played& a, const Played& b, double metres, const char* what) {
  if (!a.finite || !b.finite) return fmt::format("{}: not finite", what);
  for (std::size_t i = 0; i < std::min(a.path.size(), b.path.size()); ++i) {
    const double apart = norm(a.path[i] - b.path[i]);
    if (!(apart <= metres))
      return fmt::format("{}: after {:.1f} s {} apart by {:.2g} m from {}", what, 0.1 * static_cast<double>(i),
                         shown(b.path[i]), apart, shown(a.path[i]));
  }
  if (a.tops.size() != b.tops.size()) return fmt::format("{}: {} apexes, not {}", what, b.tops.size(), a.tops.size());
  for (std::size_t i = 0; i < a.tops.size(); ++i) {
    if (std::abs(a.tops[i] - b.tops[i]) > std::max(1e-4, 0.5 * metres))
      return fmt::format("{}: apex {:.4f} m, not {:.4f}", what, b.tops[i], a.tops[i]);
  }
  return {};
}

/// A scene that a nudge of a billionth of a metre sends elsewhere says nothing about rounding.
std::string unless_chaotic(std::string broken, const LawScene& scene, const Played& plain, double metres) {
  if (broken.empty()) return {};
  for (const Vec3& nudge : {Vec3{1e-9, 0, 0}, Vec3{0, 0, 1e-9}, Vec3{-1e-9, 0, 1e-9}}) {
    if (!parted(plain, play(scene, {.hz = 60, .nudge = nudge}), metres, "").empty()) return {};
  }
  return broken;
}

bool exact(Cast cast) { return cast == Cast::walker; }

std::string rate(const LawScene& scene, Random&) {
  const Played fine = play(scene, {.hz = 4000});
  for (const double hz : {30.0, 60.0, 240.0}) {
    const auto part = parted(fine, play(scene, {.hz = hz}), exact(scene.cast) ? 2e-3 : 0.05,
                             fmt::format("{} Hz beside 4,000", hz).c_str());
    if (!part.empty()) return part;
  }
  return {};
}

/// Among walls and steps, of whoever walks: where a tenth of a millimetre does not decide what becomes of it.
std::string rate_among_walls(const LawScene& scene, Random&) {
  if (scene.cast != Cast::walker && scene.cast != Cast::forced) return {};
  const double metres = exact(scene.cast) ? 0.02 : 0.05;
  const Played fine = play(scene, {.hz = 4000});
  for (const Vec3& nudge : {Vec3{1e-4, 0, 0}, Vec3{0, 0, 1e-4}}) {
    if (!parted(fine, play(scene, {.hz = 4000, .nudge = nudge}), 0.2 * metres, "").empty()) return {};
  }
  for (const double hz : {30.0, 60.0, 240.0}) {
    const Played coarse = play(scene, {.hz = hz});
    for (std::size_t i = 0; i < std::min(fine.path.size(), coarse.path.size()); ++i) {
      if (const double apart = norm(fine.path[i] - coarse.path[i]); !(apart <= metres))
        return fmt::format("{} Hz beside 4,000: after {:.1f} s apart by {:.2g} m", hz, 0.1 * static_cast<double>(i),
                           apart);
    }
  }
  return {};
}

/// All that is done, is done later; it stands until then.
std::string phase(const LawScene& drawn, Random& random) {
  const double hz = random.below(2) == 0 ? 30 : 60;
  LawScene scene = drawn;
  if (scene.cast != Cast::multirotor) scene.height = 0;
  const Played plain = play(scene, {.hz = hz});
  // A delay in whole ticks is none; a fraction moves each input to the next tick.
  const double delay = (1 + random.below(5)) / hz;
  return parted(plain, play(scene, {.hz = hz, .delay = delay}), exact(scene.cast) ? 1e-6 : 1e-3,
                fmt::format("begun {:.4f} s later", delay).c_str());
}

std::string seams(const LawScene& scene, Random&) {
  const Played plain = play(scene, {.hz = 60});
  for (const Floor floor : {Floor::slabs, Floor::mesh, Floor::heights, Floor::tiles}) {
    LawScene other = scene;
    other.floor = floor;
    const auto part = parted(plain, play(other, {.hz = 60}), exact(scene.cast) ? 1e-4 : 0.02,
                             fmt::format("on {}", name_of(floor)).c_str());
    if (!part.empty()) return part;
  }
  return {};
}

/// Along the level: a jump from rising ground gains more by its own rule.
std::string moving_ground(const LawScene& scene, Random& random) {
  const Vec3 deck{random.uniform(-5, 5), 0, random.uniform(-5, 5)};
  return parted(play(scene, {.hz = 60}), play(scene, {.hz = 60, .deck = deck}), exact(scene.cast) ? 5e-3 : 0.05,
                fmt::format("on a deck of {}", shown(deck)).c_str());
}

std::string turned(const LawScene& scene, Random& random) {
  const Vec3 axis = random.direction();
  const Quat turn = rotation(axis * random.uniform(0.1, 3));
  const Played plain = play(scene, {.hz = 60});
  const std::string broken = parted(plain, play(scene, {.hz = 60, .turn = turn}), 5e-3, "turned with its gravity");
  return unless_chaotic(broken, scene, plain, 5e-3);
}

std::string mirrored(const LawScene& scene, Random&) {
  const Played plain = play(scene, {.hz = 60});
  return unless_chaotic(parted(plain, play(scene, {.hz = 60, .mirrored = true}), 5e-3, "mirrored"), scene, plain, 5e-3);
}

std::string shifted(const LawScene& scene, Random& random) {
  const Vec3 shift{random.uniform(-5000, 5000), random.uniform(-200, 200), random.uniform(-5000, 5000)};
  const Played plain = play(scene, {.hz = 60});
  const std::string broken = parted(plain, play(scene, {.hz = 60, .shift = shift}), 5e-3, "moved 5 km away");
  return unless_chaotic(broken, scene, plain, 5e-3);
}

/// In other units, and built 100 times larger with time to match.
std::string scaled(const LawScene& drawn, Random& random) {
  LawScene scene = drawn;
  scene.floor = static_cast<Floor>(random.below(5));
  const Played plain = play(scene, {.hz = 60});
  // By a power of two not a bit may differ.
  const double scale = std::exp2(random.below(11) - 2.0);
  const std::string broken = parted(plain, play(scene, {.hz = 60, .scale = scale}), 1e-9,
                                    fmt::format("{} units a metre, on {}", scale, name_of(scene.floor)).c_str());
  if (!broken.empty() || !exact(scene.cast)) return broken;
  return parted(plain, play(scene, {.hz = 60, .scale = 100, .slowed = 10}), 2e-3, "built 100 times larger");
}

std::string company(const LawScene& scene, Random&) {
  return parted(play(scene, {.hz = 60}), play(scene, {.hz = 60, .company = true}), 1e-9, "with others far away");
}

/// A wall along all of its path, near but not touched.
std::string nothing_touched(const LawScene& scene, Random& random) {
  LawScene straight = scene;
  straight.things.clear();
  const double angle = 0;  // where it faces: a dash without a direction goes there
  for (LawInput& i : straight.inputs) {
    const double far = std::hypot(i.ahead, i.right);
    i.ahead = far * std::cos(angle), i.right = far * std::sin(angle);
  }
  const Vec3 ahead{std::cos(angle), 0, std::sin(angle)}, side{-ahead.z, 0, ahead.x};
  if (scene.cast == Cast::bodies) straight.crates.resize(1);
  const Played plain = play(straight, {.hz = 60});
  double reach = scene.cast == Cast::vehicle   ? 1.6
                 : scene.cast == Cast::tracked ? 1.8
                 : scene.cast == Cast::boat    ? 2.9
                 : scene.cast == Cast::roller  ? 0.4
                                               : 0.75;
  if (scene.cast == Cast::bodies) {  // as far as it comes; it tumbles no further than this between places
    reach = norm(straight.crates[0].half) + 0.1;
    double most = -infinity;
    for (const Vec3& at : plain.path) most = std::max(most, dot(side, at));
    reach += most;
  }
  const double gap = random.uniform(0.002, 0.3), tall = random.uniform(0.02, 3);
  const LawBox wall{side * (reach + gap + 0.5) + Vec3{0, tall, 0}, {40, tall, 0.5}, -angle};
  return parted(plain, play(straight, {.hz = 60, .beside = {wall}}), 1e-7,
                fmt::format("{:.3f} m beside a wall", gap).c_str());
}

/// Scenes of its own: all that plain bodies can be.
std::string energy(const LawScene& scene, Random&) {
  return scene.cast == Cast::bodies ? broken_by_energy(scene.seed) : "";
}

std::string saved_and_restored(const LawScene& scene, Random& random) {
  const int ticks = static_cast<int>(scene.duration * 60);
  const int at = static_cast<int>(random.below(static_cast<std::uint32_t>(std::max(1, ticks - 12))));
  const Played plain = play(scene, {.hz = 60}), again = play(scene, {.hz = 60, .save_at = at});
  return plain.hash == again.hash ? "" : fmt::format("saved after tick {}: other bits", at);
}

}  // namespace

const std::vector<Law>& all_laws() {
  static const std::vector<Law> laws{{"nothing_touched", false, nothing_touched},
                                     {"rate", false, rate},
                                     {"rate_among_walls", true, rate_among_walls},
                                     {"phase", false, phase},
                                     {"seams", false, seams},
                                     {"moving_ground", true, moving_ground},
                                     {"turned", true, turned},
                                     {"mirrored", true, mirrored},
                                     {"shifted", true, shifted},
                                     {"scaled", false, scaled},
                                     {"company", true, company},
                                     {"energy", false, energy},
                                     {"saved_and_restored", true, saved_and_restored}};
  return laws;
}

const std::vector<Exception>& known_exceptions() {
  // What touches is held as found until it has slid some way, and is found anew at the next step, wherever that falls.
  constexpr const char* contacts = "contacts that touch are found anew once a step";
  constexpr const char* order = "its control is of first order in the tick";
  constexpr const char* round_edges = "round the edge of a wall much hangs on little";
  constexpr const char* knocks = "what a wall does to it is felt at the next tick";
  constexpr const char* at_start = "things overlap it where it begins";
  constexpr double hardly = 0.0005, rarely = 0.002, at_times = 0.01, now_and_then = 0.03;
  static const std::vector<Exception> exceptions{{"rate", Cast::bodies, contacts, 0.2},
                                                 {"phase", Cast::bodies, contacts},
                                                 {"seams", Cast::bodies, contacts, 0.13},
                                                 {"turned", Cast::bodies, contacts, 0.05},
                                                 {"mirrored", Cast::bodies, contacts, 0.14},
                                                 {"moving_ground", Cast::bodies, contacts, at_times},
                                                 {"shifted", Cast::bodies, contacts, at_times},
                                                 {"moving_ground", Cast::walker, round_edges, hardly},
                                                 {"moving_ground", Cast::forced, contacts, hardly},
                                                 {"turned", Cast::multirotor, contacts, hardly},
                                                 {"turned", Cast::boat, contacts, hardly},
                                                 {"turned", Cast::roller, contacts, rarely},
                                                 {"mirrored", Cast::roller, contacts, rarely},
                                                 {"shifted", Cast::forced, contacts, rarely},
                                                 {"shifted", Cast::roller, contacts, rarely},
                                                 {"rate", Cast::roller, contacts, 0.16},
                                                 {"seams", Cast::roller, contacts, now_and_then},
                                                 {"mirrored", Cast::led_body, contacts, rarely},
                                                 {"turned", Cast::led_body, contacts, rarely},
                                                 {"rate", Cast::vehicle, order, 0.15},
                                                 {"moving_ground", Cast::vehicle, contacts, at_times},
                                                 {"shifted", Cast::tracked, contacts, rarely},
                                                 {"turned", Cast::tracked, contacts, rarely},
                                                 {"shifted", Cast::vehicle, contacts, rarely},
                                                 {"turned", Cast::vehicle, contacts, at_times},
                                                 {"mirrored", Cast::vehicle, contacts, now_and_then},
                                                 {"rate", Cast::tracked, order, now_and_then},
                                                 {"moving_ground", Cast::tracked, at_start, now_and_then},
                                                 {"mirrored", Cast::tracked, at_start, now_and_then},
                                                 {"mirrored", Cast::boat, at_start, 0.05},
                                                 {"rate", Cast::multirotor, order, now_and_then},
                                                 {"rate_among_walls", Cast::walker, round_edges, 0.02},
                                                 {"rate_among_walls", Cast::forced, knocks, 0.1},
                                                 {"moving_ground", Cast::multirotor, "the air stands still"}};
  return exceptions;
}

std::string broken_by(const Law& law, const LawScene& scene, Random& random) {
  try {
    return law.broken(scene, random);
  } catch (const std::exception& thrown) {
    return std::string("thrown: ") + thrown.what();
  }
}

double may_break(const Law& law, Cast cast) {
  for (const Exception& e : known_exceptions()) {
    if (std::strcmp(e.law, law.name) == 0 && e.cast == cast) return e.share;
  }
  return 0;
}

}  // namespace jugend::laws
