// The command line on good input: what it prints, writes, and promises about bytes.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

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
  EXPECT_NE(answer.out.find("jump 1: apex height"), std::string::npos);
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
  for (const char* word : {"jump 2: apex height", "jump.height=1.9", "runs/demo/quay_run.png", "jugend compare"}) {
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
