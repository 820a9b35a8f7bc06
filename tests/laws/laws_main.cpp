// ./dev laws: holds all laws against random scenes for as long as is asked, and prints what breaks.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <string>

#include "laws.hpp"
#include "query_law.hpp"

using namespace jugend::laws;

namespace {

/// 0: none was missed, none was wrong.
int ask_queries(double seconds, std::uint32_t seed) {
  std::uint64_t asked = 0;
  int broken = 0;
  const auto start = std::chrono::steady_clock::now();
  while (std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() < seconds) {
    const std::string said = broken_by_queries(seed, asked);
    if (!said.empty() && ++broken <= 20) fmt::print("seed {}: {}\n", seed, said);
    ++seed;
  }
  fmt::print("{} rays, sweeps and near queries: {} missed or wrong\n", asked, broken);
  return broken > 0;
}

}  // namespace

int main(int argc, char** argv) {
  double seconds = 60;
  std::uint32_t seed = 1;
  bool all = false;
  std::string only, only_cast;
  constexpr const char* usage =
      "jugend_laws [--seconds N] [--seed S] [--law NAME] [--cast KIND] [--all]: holds random scenes to all laws of "
      "motion,\n"
      "or to one; --all: those that cannot be held yet too. --law queries: rays, sweeps and near queries.\n";
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    const bool takes_one = word == "--seconds" || word == "--seed" || word == "--law" || word == "--cast";
    if (word == "--help") return fmt::print("{}", usage), 0;
    if ((!takes_one && word != "--all") || (takes_one && i + 1 == argc)) {
      fmt::print(stderr, "{}: {}\n{}", word, takes_one ? "what follows it is missing" : "no such option", usage);
      return 2;
    }
    if (word == "--all") all = true;
    if (word == "--seconds") seconds = std::strtod(argv[++i], nullptr);
    if (word == "--seed") seed = static_cast<std::uint32_t>(std::strtoul(argv[++i], nullptr, 10));
    if (word == "--law") only = argv[++i];
    if (word == "--cast") only_cast = argv[++i];
  }
  const auto named = [&](const auto& list, const std::string& name, auto&& name_of_one) {
    return name.empty() ||
           std::any_of(std::begin(list), std::end(list), [&](const auto& x) { return name == name_of_one(x); });
  };
  if (!named(all_casts, only_cast, [](Cast cast) { return name_of(cast); }) ||
      (only != "queries" && !named(all_laws(), only, [](const Law& law) { return law.name; }))) {
    fmt::print(stderr, "there is no such law or cast\n{}", usage);
    return 2;
  }
  struct Count {
    int held = 0, broken = 0;
    double may_break = 0;  // share
    /// What is known is a mean: two standard deviations more are luck.
    bool too_many() const {
      const double known = may_break * (held + broken);
      return broken > std::ceil(known + 2 * std::sqrt(known));
    }
  };
  if (only == "queries") return ask_queries(seconds, seed);
  std::map<std::string, Count> counts;
  const auto start = std::chrono::steady_clock::now();
  const auto spent = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
  int broken = 0;
  for (std::uint32_t n = seed; spent() < seconds; ++n) {
    for (const Law& law : all_laws()) {
      if (!only.empty() && only != law.name) continue;
      for (const Cast cast : all_casts) {
        if (!only_cast.empty() && only_cast != name_of(cast)) continue;
        if ((!all && may_break(law, cast) >= 1) || spent() >= seconds) continue;
        const LawScene scene = draw_scene(cast, n, law.with_things);
        Random random(n);
        const std::string said = broken_by(law, scene, random);
        Count& count = counts[fmt::format("{:<19} {}", law.name, name_of(cast))];
        count.may_break = may_break(law, cast);
        ++(said.empty() ? count.held : count.broken);
        if (said.empty() || ++broken > 20) continue;
        const auto folder = std::filesystem::temp_directory_path() / fmt::format("jugend-law-{}-{}", law.name, n);
        std::filesystem::create_directories(folder);
        std::ofstream(folder / "law.level.toml") << scene.as_level();
        std::ofstream(folder / "law.toml") << scene.as_trial();
        fmt::print("{} broken by {}, seed {}: {}\n  {}\n", law.name, name_of(cast), n, said,
                   (folder / "law.toml").string());
      }
    }
  }
  bool all_hold = true;
  for (const auto& [name, count] : counts) {
    fmt::print("{:<32} held {:>6}, broken {:>4}{}\n", name, count.held, count.broken,
               count.broken == 0  ? ""
               : count.too_many() ? ""
                                  : ", no more than is known of it");
    all_hold &= !count.too_many();
  }
  for (const Exception& e : known_exceptions())
    fmt::print("{}: {} of {}: {}\n", e.share < 1 ? "broken rarely" : "not asked", e.law, name_of(e.cast), e.why);
  fmt::print("{:.0f} s from seed {}: {}\n", spent(), seed,
             broken == 0 ? "nothing broken"
             : all_hold  ? "nothing broken but what is known"
                         : "broken");
  return all_hold ? 0 : 1;
}
