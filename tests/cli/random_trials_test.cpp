// Random trials of every kind over the whole published ranges, written as files and run by the program: each runs to
// its end with sane numbers, or is refused for a reason that names two keys which do not fit together.
//
// JUGEND_SCENES in the environment says how many; JUGEND_SEED where they begin.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <jugend/base/text.hpp>
#include <jugend/lab/kind.hpp>
#include <set>

#include "../support/any_value.hpp"
#include "../support/program.hpp"

namespace jugend::testing {
namespace {

/// Writes floor.level.toml and trial.toml.
class TrialWriter {
 public:
  TrialWriter(const Folder& folder, std::uint32_t seed) : random(seed) {
    level();
    const auto actors = 1 + random.below(3);
    for (std::uint32_t i = 0; i < actors; ++i) actor(i);
    // A file of trials states its own numbers first, its tables behind them.
    const std::string head =
        fmt::format("level = \"floor.level.toml\"\nduration_s = {}\nhz = {}\n", seconds_, between(30, 240));
    folder.write("floor.level.toml", level_);
    folder.write("trial.toml", head + trial_ + cues_);
  }
  const std::set<std::string>& keys() const { return keys_; }

 private:
  std::string between(double low, double high) { return as_text(random.uniform(low, high)); }
  std::string vector(double size) {
    const Vec3 v = random.point(size);
    return fmt::format("[{}, {}, {}]", as_text(v.x), as_text(v.y), as_text(v.z));
  }

  void level() {
    const std::uint32_t ground = random.below(4);
    if (ground == 0) {
      level_ += "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [400, 1, 400]\nposition = [0, -0.5, 0]\n";
    } else if (ground == 1) {
      level_ += fmt::format(
          "[[body]]\nname = \"road\"\nshape = \"road\"\nlength = 200\nwidth = 60\nroughness = \"{}\"\n"
          "seed = {}\nposition = [-100, 0, 0]\n",
          std::string(1, static_cast<char>('A' + random.below(5))), random.below(1000));
    } else if (ground == 2) {
      for (int i = -4; i < 4; ++i)
        level_ += fmt::format(
            "[[body]]\nname = \"slab {}\"\nshape = \"box\"\nsize = [19.98, 1, 200]\nposition = [{}, {}, 0]\n", i + 4,
            20 * i + 10, as_text(-0.5 - random.uniform(0, 0.05)));
    } else {
      const double angle = random.uniform(-20, 20);
      level_ += fmt::format(
          "[[body]]\nname = \"slope\"\nshape = \"box\"\nsize = [400, 1, 400]\nposition = [0, -0.5, 0]\n"
          "turn_deg = [0, 0, {}]\n",
          as_text(angle));
    }
    if (random.below(3) == 0)
      level_ += fmt::format("[[pool]]\nsize = [80, 6, 80]\nposition = [{}, {}, 0]\n", between(-40, 40), between(-4, 0));
    if (random.below(3) == 0)
      level_ += fmt::format(
          "[[body]]\nname = \"lift\"\nkind = \"kinematic\"\nshape = \"box\"\nsize = [6, 0.4, 6]\n"
          "position = [{}, 0.1, 0]\npath = {{ points = [[0, 0, 0], [{}, {}, 0]], duration_s = {}, run = "
          "\"there_and_back\" }}\n",
          between(2, 9), between(-3, 9), between(0, 4), between(1, 4));
    const std::uint32_t crates = random.below(6);
    const char* shapes[] = {"shape = \"box\"\nsize = [{}, 0.7, 0.6]\n", "shape = \"sphere\"\nradius = {}\n",
                            "shape = \"capsule\"\nradius = 0.2\nheight = {}\n",
                            "shape = \"cylinder\"\nradius = 0.4\nheight = {}\n"};
    for (std::uint32_t i = 0; i < crates; ++i) {
      const std::string shape = fmt::format(fmt::runtime(shapes[random.below(4)]), between(0.45, 1.2));
      const std::string mass = as_text(std::exp(random.uniform(0, 7)));
      level_ += fmt::format("[[body]]\nname = \"crate {}\"\nkind = \"dynamic\"\n{}mass = {}\nposition = [{}, 1, {}]\n",
                            i, shape, mass, between(-9, 9), between(-9, 9));
    }
  }

  void actor(std::uint32_t number) {
    const auto& kinds = standard_kinds().all();
    const LabKind& kind = *kinds[random.below(static_cast<std::uint32_t>(kinds.size()))];
    const std::string name = fmt::format("{}_{}", kind.name(), number);
    const double far = 8.0 * number;
    trial_ += fmt::format("[[actor]]\nname = \"{}\"\nkind = \"{}\"\n", name, kind.name());
    if (kind.stands() == LabKind::Stands::on_its_feet) {
      trial_ += fmt::format("start = [{}, {}, {}]\n", as_text(far), between(0, 3), between(-3, 3));
    } else {
      trial_ += fmt::format("body = \"body of {}\"\n", name);
      const std::string mass = as_text(std::exp(random.uniform(2, 8)));
      const bool ball = kind.stands() == LabKind::Stands::on_a_ball;
      const std::string shape = ball ? fmt::format("shape = \"sphere\"\nradius = {}\n", between(0.2, 1.2))
                                     : fmt::format("shape = \"box\"\nsize = [{}, {}, {}]\n", between(1.5, 4),
                                                   between(0.2, 0.8), between(0.8, 2));
      level_ +=
          fmt::format("[[body]]\nname = \"body of {}\"\nkind = \"dynamic\"\n{}mass = {}\nposition = [{}, {}, {}]\n",
                      name, shape, mass, as_text(far), between(0.6, 3), between(-3, 3));
    }
    trial_ += "[actor.set]\n";
    const std::vector<BoundTunable> all = ActorTuning(kind).all();
    const std::uint32_t numbers = random.below(7);
    std::set<std::string> set;
    for (std::uint32_t i = 0; i < numbers; ++i) {
      const BoundTunable& bound = all[random.below(static_cast<std::uint32_t>(all.size()))];
      const double value = any_value(*bound.tunable, random);
      // Of what can be stated in several ways one counts.
      const std::string_view one = bound.tunable->forms.empty() ? bound.key : bound.tunable->forms;
      if (set.insert(std::string(one)).second)
        trial_ += fmt::format("\"{}\" = {}\n", bound.key, bound.tunable->shown(value, true));
    }
    for (const BoundTunable& bound : all) keys_.insert(bound.key);
    const std::vector<std::string> read = kind.cue_keys();
    const std::uint32_t cues = random.below(6);
    double at = 0;
    for (std::uint32_t i = 0; i < cues; ++i) {
      at = random.uniform(at, seconds_);
      cues_ += fmt::format("[[cue]]\nactor = \"{}\"\nat_s = {}\n{}", name, as_text(at),
                           cue(kind, read[random.below(static_cast<std::uint32_t>(read.size()))]));
    }
  }

  std::string cue(const LabKind& kind, const std::string& key) {
    const char* presses[] = {"jump", "dash", "launch", "crouch"};
    if (key == "press")
      return fmt::format("press = \"{}\"\n",
                         presses[kind.stands() == LabKind::Stands::on_a_ball ? 0 : random.below(4)]);
    if (key == "hold_s") return fmt::format("press = \"jump\"\nhold_s = {}\n", between(0, 1));
    if (key == "aim") return fmt::format("aim = {}\n", vector(1));
    if (key == "hit") return fmt::format("hit = {{ away = {}, distance = {} }}\n", vector(1), between(0.1, 5));
    if (key == "lead")
      return fmt::format("lead = {{ heading = [{}, 0, 1], speed = {} }}\n", between(-1, 1), between(-3, 3));
    if (key == "drive") return fmt::format("drive = {{ throttle = {}, steer = {} }}\n", between(-1, 1), between(-1, 1));
    if (key == "helm") return fmt::format("helm = {{ throttle = {}, steer = {} }}\n", between(-1, 1), between(-1, 1));
    if (key == "fly")
      return fmt::format("fly = {{ ahead = {}, right = {}, climb = {}, yaw = {} }}\n", between(-1, 1), between(-1, 1),
                         between(-1, 1), between(-1, 1));
    return fmt::format("run = [{}, {}]\n", between(-0.7, 0.7), between(-0.7, 0.7));
  }

  Random random;
  double seconds_ = 0.1 * (5 + random.below(36));
  std::string level_, trial_, cues_;
  std::set<std::string> keys_{"mass", "size"};  // of the level, and of all tunings
};

/// How many of `keys` a text names; of what repeats also by what stands behind its number, as in "spring.rest_length".
std::size_t named(const std::string& text, const std::set<std::string>& keys) {
  std::set<std::string> found;
  for (const std::string& key : keys) {
    const std::size_t number = key.find_first_of("123456789");
    const std::string own = number < key.size() - 2 ? key.substr(number + 2) : key;
    for (const std::string& k : {key, own})
      if (k.size() > 1 && text.find(k) != std::string::npos) found.insert(k);
  }
  // A key that is part of another one that is named says nothing more.
  std::erase_if(found, [&](const std::string& k) {
    return std::ranges::any_of(found, [&](const std::string& other) { return other.ends_with("." + k); });
  });
  return found.size();
}

/// The most of any speed in a table, m/s.
double most_speed(const std::string& table) {
  std::istringstream lines(table);
  std::string line;
  std::getline(lines, line);
  double most = 0;
  std::size_t first = 0;
  for (std::istringstream head(line); std::getline(head, line, ',') && line != "vx_m_s";) ++first;
  while (std::getline(lines, line)) {
    std::istringstream row(line);
    std::string cell;
    for (std::size_t column = 0; std::getline(row, cell, ','); ++column)
      if (column >= first && column < first + 3) most = std::max(most, std::abs(std::atof(cell.c_str())));
  }
  return most;
}

TEST(RandomTrials, RunOrAreRefusedForTwoKeysThatDoNotFit) {
  const std::uint32_t count = of_environment("JUGEND_SCENES", scenes_of(120)), seed = of_environment("JUGEND_SEED", 1);
  std::uint32_t refused = 0;
  for (std::uint32_t i = seed; i < seed + count; ++i) {
    const Folder folder;
    const TrialWriter trial(folder, i);
    const Answer answer = jugend(folder, "run trial.toml --out run");
    const auto told = [&] { return fmt::format("seed {}: {}\n{}", i, answer.err, slurp(folder / "trial.toml")); };
    if (answer.code == 2) {
      ++refused;
      EXPECT_EQ(answer.err.find("from the origin"), std::string::npos) << told();
      EXPECT_GE(named(answer.err, trial.keys()), 2u) << told();
      continue;
    }
    ASSERT_EQ(answer.code, 0) << told();
    // A jump that takes 30 ms to its apex falls as hard: kilometres a second are asked for then.
    for (const char* table : {"run/trace.csv", "run/bodies.csv"})
      EXPECT_LT(most_speed(slurp(folder / table)), 1e4) << told() << table;
  }
  EXPECT_LT(refused, 1 + count / 4);
}

}  // namespace
}  // namespace jugend::testing
