// The command line on good input: what it prints, writes, and promises about bytes.
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "../support/program.hpp"

namespace jugend::testing {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::json;

const std::string demo = JUGEND_SOURCE "/demo";

TEST(Cli, RunMeasuresWhatWasAskedForAtEveryRate) {
  Folder folder;
  write_trial(folder);
  for (const int hz : {30, 48, 60, 120, 144, 240}) {
    const Answer answer = jugend(folder, "run trial.toml --json --hz " + std::to_string(hz));
    ASSERT_EQ(answer.code, 0) << answer.err;
    const Json gauges = Json::parse(answer.out)["runs"][0]["gauges"]["courier"];
    const auto near = [&](const char* key, double expected) {
      EXPECT_NEAR(gauges.at(key).get<double>(), expected, 5e-3 * expected) << key << " at " << hz;
    };
    near("jump_1.apex_height_m", 1.25);
    near("jump_1.apex_time_s", 0.38);
    near("jump_1.air_time_s", 0.38 + 0.38 / std::sqrt(1.5));
    near("time_to_top_speed_s", 0.25);
    near("time_to_stop_s", 0.18);
    near("stop_distance_m", 0.54);
    near("top_speed_m_s", 6);
  }
}

TEST(Cli, RunWritesTraceAndSummary) {
  Folder folder;
  write_trial(folder);
  const Answer answer = jugend(folder, "run trial.toml");
  ASSERT_EQ(answer.code, 0) << answer.err;
  EXPECT_NE(answer.out.find("jump 1 "), std::string::npos);
  const std::string trace = slurp(folder / "runs/trial/trace.csv");
  EXPECT_EQ(std::count(trace.begin(), trace.end(), '\n'), 1 + 181);
  const Json summary = Json::parse(slurp(folder / "runs/trial/summary.json"));
  EXPECT_EQ(summary["hz"], 60);
  EXPECT_EQ(summary["actors"][0]["tuning"]["jump.height"], 1.25);
  EXPECT_EQ(summary["actors"][0]["events"][0]["event"], "jumped") << "it starts on the ground";
}

TEST(Cli, TwoRunsGiveEqualBytes) {
  Folder folder;
  for (const char* out : {"a", "b"}) {
    ASSERT_EQ(jugend(folder, "run '" + demo + "/quay_run.toml' --out " + out).code, 0);
  }
  EXPECT_EQ(slurp(folder / "a/trace.csv"), slurp(folder / "b/trace.csv"));
  EXPECT_EQ(slurp(folder / "a/summary.json"), slurp(folder / "b/summary.json"));
}

TEST(Cli, SetChangesOneNumberAndCompareShowsIt) {
  Folder folder;
  write_trial(folder);
  const Answer answer = jugend(folder, "compare trial.toml --set jump.height=1.75 --out seen");
  ASSERT_EQ(answer.code, 0) << answer.err;
  EXPECT_NE(answer.out.find("+0.5000"), std::string::npos) << answer.out;
  EXPECT_NE(answer.out.find("changed: courier jump.height: 1.25 -> 1.75 m"), std::string::npos) << answer.out;
  EXPECT_GT(fs::file_size(folder / "seen/compare.png"), 10000u);
  EXPECT_NE(slurp(folder / "seen/compare.svg").find("</svg>"), std::string::npos);
}

TEST(Cli, CompareOfAnEarlierRunWithAnEditedFile) {
  Folder folder;
  write_trial(folder);
  ASSERT_EQ(jugend(folder, "run trial.toml").code, 0);
  folder.write("courier.toml", "[jump]\nheight = 1.5\n");
  const Answer answer = jugend(folder, "compare runs/trial trial.toml --json");
  ASSERT_EQ(answer.code, 0) << answer.err;
  const Json runs = Json::parse(answer.out)["runs"];
  EXPECT_NEAR(runs[0]["gauges"]["courier"]["jump_1.apex_height_m"].get<double>(), 1.25, 1e-6);
  EXPECT_NEAR(runs[1]["gauges"]["courier"]["jump_1.apex_height_m"].get<double>(), 1.5, 1e-6);
}

TEST(Cli, PlotDrawsRunsOverOneAnother) {
  Folder folder;
  write_trial(folder);
  ASSERT_EQ(jugend(folder, "run trial.toml --out a --plot").code, 0);
  ASSERT_EQ(jugend(folder, "run trial.toml --out b --set run.top_speed=4").code, 0);
  EXPECT_TRUE(fs::exists(folder / "a/plot.png") && fs::exists(folder / "a/plot.svg"));
  const Answer answer = jugend(folder, "plot a b --out both.svg");
  ASSERT_EQ(answer.code, 0) << answer.err;
  const std::string svg = slurp(folder / "both.svg");
  for (const char* word : {"take-off", "apex", "landing", "height m", "time s", "run.top_speed=4"}) {
    EXPECT_NE(svg.find(word), std::string::npos) << word;
  }
}

TEST(Cli, ParamsListEveryTunableForPeopleAndMachines) {
  Folder folder;
  const Answer table = jugend(folder, "params");
  const Json list = Json::parse(jugend(folder, "params --json").out);
  const Json schema = Json::parse(jugend(folder, "params --schema").out);
  ASSERT_GT(list.size(), 15u);
  for (const Json& t : list) {
    const std::string key = t["key"];
    EXPECT_NE(table.out.find(key), std::string::npos) << key;
    const auto dot = key.find('.');
    const Json& top = schema["properties"][key.substr(0, dot)];
    const Json& property = dot == std::string::npos ? top : top["properties"][key.substr(dot + 1)];
    EXPECT_EQ(property["default"], t["default"]) << key;
    if (t["type"] == "toggle") {
      EXPECT_EQ(property["type"], "boolean") << key;
    } else if (t["type"] == "choice") {
      EXPECT_EQ(property["enum"], t["names"]) << key;
    } else {
      EXPECT_EQ(property["minimum"], t["low"]) << key;
      EXPECT_EQ(property["maximum"], t["high"]) << key;
    }
  }
}

/// A table of a run: its name, and its lines as words. Columns are two blanks or more apart.
std::vector<std::vector<std::string>> table_in(const std::string& out, const std::string& name) {
  std::vector<std::vector<std::string>> lines;
  std::istringstream all(out);
  bool inside = false;
  for (std::string line; std::getline(all, line);) {
    inside = !line.empty() && (inside || line.starts_with(name + " "));
    if (!inside) continue;
    auto& cells = lines.emplace_back();
    for (std::size_t at = 0; (at = line.find_first_not_of(' ', at)) != std::string::npos;) {
      const std::size_t end = std::min(line.find("  ", at), line.size());
      cells.push_back(line.substr(at, end - at)), at = end;
    }
  }
  return lines;
}

TEST(Cli, WhatHappensSeveralTimesIsARowEach) {
  Folder folder;
  const Answer answer = jugend(folder, "run '" JUGEND_SOURCE "/demo/parkour.toml' --out seen");
  ASSERT_EQ(answer.code, 0) << answer.err;
  const auto flights = table_in(answer.out, "flight");
  ASSERT_GT(flights.size(), 8u) << answer.out;
  EXPECT_EQ(flights[0][1], "at");
  EXPECT_EQ(flights[1][0], "s");
  for (std::size_t i = 3; i < flights.size(); ++i) {
    EXPECT_EQ(flights[i].size(), flights[0].size());
    EXPECT_LT(std::stod(flights[i - 1][1]), std::stod(flights[i][1])) << "each flight once, in order";
  }
  const auto dashes = table_in(answer.out, "dash");
  ASSERT_EQ(dashes.size(), 3u) << answer.out;
  EXPECT_NEAR(std::stod(dashes[2][1]), 4, 1e-3);

  const Answer both = jugend(folder, "compare '" JUGEND_SOURCE "/demo/quay_run.toml' --set jump.height=1.9");
  ASSERT_EQ(both.code, 0) << both.err;
  const auto jumps = table_in(both.out, "flight");
  ASSERT_GT(jumps.size(), 4u) << both.out;
  EXPECT_EQ(jumps[2][0], "jump 1");
  EXPECT_EQ(jumps[2][1], "as filed");
  EXPECT_EQ(jumps[3][0], "jump.height=1.9");
  EXPECT_EQ(jumps[4][0], "difference");
  EXPECT_NEAR(std::stod(jumps[3][2]) - std::stod(jumps[2][3]), 1.9 - 1.25, 2e-3) << "the apex";
}

TEST(Cli, EachGaugeOfEachDemoIsListedWithWhatItMeans) {
  Folder folder;
  std::map<std::string, std::set<std::string>> listed;
  for (const char* kind :
       {"walker", "forced", "roller", "led_body", "vehicle", "tracked_vehicle", "multirotor", "boat"}) {
    const std::string people = jugend(folder, std::string("gauges ") + kind).out;
    for (const Json& g : Json::parse(jugend(folder, std::string("gauges --json ") + kind).out)) {
      listed[kind].insert(g["key"]);
      EXPECT_GT(g["definition"].get<std::string>().size(), 10u) << g;
      EXPECT_NE(people.find(g["definition"].get<std::string>()), std::string::npos) << g;
    }
  }
  int checked = 0;
  for (const char* trial : {"parkour", "gull_strike", "buoy_roll", "seal_round", "cart_drop", "crane_walk",
                            "rotor_loss", "workboat_turn", "crates_rammed"}) {
    ASSERT_EQ(jugend(folder, "run '" JUGEND_SOURCE "/demo/" + std::string(trial) + ".toml' --out seen").code, 0)
        << trial;
    const Json summary = Json::parse(slurp(folder / "seen/summary.json"));
    for (const Json& actor : summary["actors"]) {
      for (const auto& [key, value] : actor["gauges"].items()) {
        std::string name = key;
        if (const auto dot = key.find('.'); dot != std::string::npos) {
          const std::string what = key.substr(0, key.find('_'));
          name = (what == "jump" || what == "fall" ? "flight" : what) + key.substr(dot);
        }
        EXPECT_TRUE(listed[actor["kind"]].contains(name)) << trial << ": " << key;
        ++checked;
      }
    }
  }
  EXPECT_GT(checked, 150);
  const Answer cart = jugend(folder, "run '" JUGEND_SOURCE "/demo/cart_drop.toml' --out drop");
  EXPECT_EQ(cart.out.find("steepest ground"), std::string::npos) << "it says nothing of a cart:\n" << cart.out;
}

TEST(Cli, SizeIsTheClosedForm) {
  Folder folder;
  const Json jump = Json::parse(jugend(folder, "size jump --height 2 --time 0.5 --json").out);
  EXPECT_NEAR(jump["gravity_m_s2"].get<double>(), 16, 1e-12);
  EXPECT_NEAR(jump["take_off_speed_m_s"].get<double>(), 8, 1e-12);
  const Json rise = Json::parse(jugend(folder, "size rise --speed 8 --gravity 16 --json").out);
  EXPECT_NEAR(rise["height_m"].get<double>(), 2, 1e-12);
  const Json stop = Json::parse(jugend(folder, "size stop --speed 6 --deceleration 9 --json").out);
  EXPECT_NEAR(stop["distance_m"].get<double>(), 2, 1e-12);
  const Json reach = Json::parse(
      jugend(folder, "size reach --height 2 --time 0.5 --fall-gravity 1 --speed 5 --distance 2.5 --json").out);
  EXPECT_NEAR(reach["gap_m"].get<double>(), 5, 1e-12);
  EXPECT_NEAR(reach["ledge_m"].get<double>(), 2, 1e-12) << "the apex";
}

TEST(Cli, DemoRunsTheHarbour) {
  Folder folder;
  const Answer answer = jugend(folder, "demo");
  ASSERT_EQ(answer.code, 0) << answer.err;
  for (const char* word : {"jump 2 ", "jump.height=1.9", "runs/demo/quay_run.png", "jugend compare"}) {
    EXPECT_NE(answer.out.find(word), std::string::npos) << word;
  }
  EXPECT_TRUE(fs::exists(folder / "runs/demo/quay_run.svg"));
}

TEST(Cli, HelpAndVersionAreNoErrors) {
  Folder folder;
  for (const char* arguments : {"--help", "--version", "run --help", "size reach --help"})
    EXPECT_EQ(jugend(folder, arguments).code, 0) << arguments;
}

}  // namespace
}  // namespace jugend::testing
