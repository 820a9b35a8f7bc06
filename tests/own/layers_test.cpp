// Each folder includes only those above it in the list of docs/architecture.md, and every file says in
// its first line, or its header's, what it is for.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <regex>
#include <string>
#include <vector>

namespace {

namespace fs = std::filesystem;

const std::vector<std::string> layers{"base", "shape", "motion", "world", "stage", "lab", "report"};

int rank_of(const std::string& folder) {
  return static_cast<int>(std::find(layers.begin(), layers.end(), folder) - layers.begin());
}

/// The wings of motion, from the port up; those of one rank do not know one another.
int wing_rank(const fs::path& place) {
  static const std::vector<std::vector<std::string>> wings{
      {"port"}, {"moves"}, {"walker", "vehicle", "bodies"}, {"tracked", "boat"}, {"guidance"}};
  const std::string wing = std::next(place.begin())->string();
  for (std::size_t i = 0; i < wings.size(); ++i) {
    if (std::find(wings[i].begin(), wings[i].end(), wing) != wings[i].end()) return static_cast<int>(i);
  }
  ADD_FAILURE() << "a folder that is no wing: " << place;
  return -1;
}

TEST(Layers, IncludeOnlyWhatIsAboveThem) {
  const std::regex include(R"(#include\s*[<"]jugend/(\w+)/([\w./]+)[>"])");
  int checked = 0;
  for (const auto& entry : fs::recursive_directory_iterator(JUGEND_SOURCE "/src/jugend")) {
    if (!entry.is_regular_file()) continue;
    const fs::path place = fs::relative(entry.path(), JUGEND_SOURCE "/src/jugend");
    const std::string from = place.begin()->string();
    ASSERT_LT(rank_of(from), static_cast<int>(layers.size())) << "a folder that is no layer: " << from;
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);) {
      std::smatch found;
      if (!std::regex_search(line, found, include)) continue;
      ++checked;
      const std::string to = found[1], header = found[2];
      const fs::path target = fs::path(to) / header;
      ASSERT_LT(rank_of(to), static_cast<int>(layers.size())) << entry.path() << ": " << line;
      EXPECT_LE(rank_of(to), rank_of(from)) << entry.path() << ": " << line;
      // Of motion, the world knows the port alone.
      if (from == "world" && to == "motion") {
        EXPECT_TRUE(header == "port/surroundings.hpp" || header == "port/host.hpp") << entry.path();
      }
      if (from == "motion" && to == "motion") {
        EXPECT_LE(wing_rank(target), wing_rank(place)) << entry.path() << ": " << line;
        const bool beside = std::abs(wing_rank(target) - wing_rank(place)) == 0 &&
                            std::next(target.begin())->string() != std::next(place.begin())->string();
        EXPECT_FALSE(beside) << entry.path() << ": " << line << ": a wing of the same floor";
      }
      // A detail belongs to the folder that it lies in, and no header outside shows it.
      if (target.parent_path().filename() == "detail") {
        const fs::path owner = target.parent_path().parent_path();
        const bool inside = place.string().starts_with(owner.string() + "/");
        EXPECT_TRUE(inside) << entry.path() << ": " << line;
        if (place.parent_path().filename() != "detail") {
          EXPECT_EQ(place.extension(), ".cpp") << entry.path() << ": " << line;
        }
      }
    }
  }
  EXPECT_GT(checked, 100);
}

TEST(Layers, TheCommandLineComputesNothing) {
  for (const auto& entry : fs::directory_iterator(JUGEND_SOURCE "/apps/jugend")) {
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);) {
      EXPECT_EQ(line.find("#include <jugend/world/"), std::string::npos)
          << entry.path() << ": bodies are the library's";
      EXPECT_EQ(line.find("#include <jugend/stage/"), std::string::npos) << entry.path() << ": ticks are the library's";
    }
  }
}

TEST(Layers, EveryHeaderSaysWhatItIsFor) {
  for (const auto& entry : fs::recursive_directory_iterator(JUGEND_SOURCE "/src/jugend")) {
    if (entry.path().extension() != ".hpp") continue;
    std::ifstream in(entry.path());
    std::string first, second;
    std::getline(in, first);
    EXPECT_TRUE(first.starts_with("// ")) << entry.path();
  }
}

/// Other C libraries round them differently, and lockstep is over.
TEST(Layers, WhatATickRunsUsesNoElementaryFunctionOfTheCLibrary) {
  const std::regex libs(
      R"(std::(sin|cos|tan|asin|acos|atan|atan2|sinh|cosh|tanh|asinh|acosh|atanh|exp|exp2|expm1|log|log2|log10|log1p|pow|cbrt|hypot|erf|erfc|tgamma|lgamma|fma)[fl]?\()");
  const std::regex bare(R"((^|[^\w:.>])(sin|cos|tan|asin|acos|atan2?|exp|exp2|expm1|log|pow|cbrt|hypot)\()");
  const std::regex text(R"("[^"]*")");
  int read = 0;
  for (const auto& entry : fs::recursive_directory_iterator(JUGEND_SOURCE "/src/jugend")) {
    const fs::path place = fs::relative(entry.path(), JUGEND_SOURCE "/src/jugend");
    if (!entry.is_regular_file() || rank_of(place.begin()->string()) > rank_of("stage")) continue;
    if (place.stem().string().starts_with("elementary")) continue;
    ++read;
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);) {
      line = std::regex_replace(line, text, "");
      line.resize(std::min(line.size(), line.find("//")));
      EXPECT_FALSE(std::regex_search(line, libs) || std::regex_search(line, bare)) << place << ": " << line;
    }
  }
  EXPECT_GT(read, 150);
}

}  // namespace
