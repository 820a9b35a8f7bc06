// ./dev laws: holds all laws against random scenes for as long as is asked, and prints what breaks.
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <string>

#include "laws.hpp"

using namespace jugend::laws;

int main(int argc, char** argv) {
  double seconds = 60;
  std::uint32_t seed = 1;
  bool all = false;
  std::string only, only_cast;
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    if (word == "--seconds" && i + 1 < argc) seconds = std::strtod(argv[++i], nullptr);
    if (word == "--seed" && i + 1 < argc) seed = static_cast<std::uint32_t>(std::strtoul(argv[++i], nullptr, 10));
    if (word == "--law" && i + 1 < argc) only = argv[++i];
    if (word == "--cast" && i + 1 < argc) only_cast = argv[++i];
    if (word == "--all") all = true;  // those that cannot be held yet, too
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
