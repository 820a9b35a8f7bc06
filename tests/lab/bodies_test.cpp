// Levels with bodies, stacks, joints and zones; runs of them, and what is written and read back.
#include <gtest/gtest.h>

#include <jugend/base/error.hpp>
#include <jugend/report/plot.hpp>
#include <jugend/report/run_folder.hpp>
#include <jugend/report/table.hpp>

#include "../support/program.hpp"

namespace jugend::testing {
namespace {

constexpr const char* floor_text =
    "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [40, 1, 40]\nposition = [0, -0.5, 0]\n";

Trial trial_of(const Folder& folder, const std::string& level, double seconds = 2) {
  folder.write("a.level.toml", floor_text + level);
  folder.write("a.toml", "level = \"a.level.toml\"\nduration_s = " + std::to_string(seconds) + "\n");
  return read_trial(folder / "a.toml");
}

TEST(BodyTrials, AStackOfALevelStandsAndIsMeasuredAsOne) {
  const Folder folder;
  const Trial trial = trial_of(folder, "[[stack]]\nname = \"crate\"\ncount = 4\nsize = [0.6, 0.4, 0.4]\nmass = 22\n");
  ASSERT_EQ(trial.level.bodies.size(), 5u);
  const Trace trace = run_trial(trial);
  ASSERT_EQ(trace.bodies.size(), 4u);
  EXPECT_EQ(trace.bodies[0].rows.size(), 121u);
  EXPECT_EQ(trace.pictures.size(), 9u);
  const auto gauges = measure_bodies(trace);
  ASSERT_EQ(gauges.size(), 1u);
  EXPECT_EQ(gauges[0].name, "crate");
  EXPECT_EQ(gauges[0].count, 4u);
  for (const Gauge& g : gauges[0].gauges) {
    if (g.key == "moved_m") {
      EXPECT_LT(g.value, 2e-3);
    }
    if (g.key == "asleep") {
      EXPECT_EQ(g.value, 4);
    }
  }
  EXPECT_FALSE(trace.pictures.back().side_forces.empty()) << "the floor carries them";
}

TEST(BodyTrials, PulleysAreReadAndCopiedWithTheirWheels) {
  const Folder folder;
  const auto load = [](const std::string& name, double x, double mass) {
    return "[[body]]\nname = \"" + name +
           "\"\nkind = \"dynamic\"\nshape = \"box\"\nsize = [0.4, 0.4, 0.4]\nposition = [" + std::to_string(x) +
           ", 1, 0]\nmass = " + std::to_string(mass) + "\n";
  };
  const Trial trial =
      trial_of(folder, load("parcel", 0, 20) + load("weight", 3, 40) +
                           "[[joint]]\nkind = \"pulley\"\na = \"parcel\"\nb = \"weight\"\nat = [0, 1, 0]\n"
                           "at_b = [3, 1, 0]\nover_a = [0, 6, 0]\nover_b = [3, 6, 0]\nratio = 2\n"
                           "[[copies]]\nof = [\"parcel\", \"weight\"]\ncount = 2\nstep = [0, 0, 4]\n");
  Stage stage;
  trial.level.build(stage);
  for (int i = 0; i < 90; ++i) stage.world.step(1.0 / 60);
  int seen = 0;
  stage.world.visit_joints([&](JointId id) {
    ++seen;
    EXPECT_NEAR(stage.world.facts(id).force.y, 20 * 9.80665, 0.2) << "they balance";
    EXPECT_NEAR(stage.world.facts(id).position, 15, 2e-3);
  });
  EXPECT_EQ(seen, 3);
}

TEST(BodyTrials, CopiesCarryTheirJointsAndGroups) {
  const Folder folder;
  const Trial trial = trial_of(folder,
                               "[[body]]\nname = \"hull\"\nkind = \"dynamic\"\nshape = \"box\"\nsize = [1, 0.3, "
                               "0.7]\nposition = [0, 1, 0]\ngroup = 1\n"
                               "[[body]]\nname = \"wheel\"\nkind = \"dynamic\"\nshape = \"cylinder\"\nradius = "
                               "0.25\nheight = 0.1\nposition = [0, 0.9, 0.4]\n"
                               "turn_deg = [90, 0, 0]\ngroup = 1\n"
                               "[[joint]]\nkind = \"hinge\"\na = \"wheel\"\nb = \"hull\"\nat = [0, 0.9, 0.4]\naxis = "
                               "[0, 0, 1]\nmotor_speed_deg = 90\nmotor_limit = 5\n"
                               "[[copies]]\nof = [\"hull\", \"wheel\"]\ncount = 2\nstep = [0, 0, 3]\nturn_deg = 30\n");
  EXPECT_EQ(trial.level.joints.size(), 3u);
  EXPECT_EQ(trial.level.bodies[3].group, 2u);
  Stage stage;
  World& world = stage.world;
  trial.level.build(stage);
  for (int i = 0; i < 20; ++i) world.step(1.0 / 60);
  int seen = 0;
  world.visit_joints([&](JointId id) {
    ++seen;
    EXPECT_NEAR(world.facts(id).speed, 3.14159265 / 2, 0.02);
  });
  EXPECT_EQ(seen, 3);
}

TEST(BodyTrials, ARunIsReadBackAsItWasWritten) {
  const Folder folder;
  const Trial trial =
      trial_of(folder,
               "[[body]]\nname = \"ball\"\nkind = \"dynamic\"\nshape = \"sphere\"\nradius = 0.3\nposition = [0, 2, 0]\n"
               "[[zone]]\nsize = [4, 9, 4]\neffect = \"scale\"\nstrength = 0.5\nposition = [0, 2, 0]\n");
  const RunRecord record = record_run(trial);
  write_run(record, folder / "run");
  const RunRecord back = read_run(folder / "run");
  ASSERT_EQ(back.trace.bodies.size(), 1u);
  ASSERT_EQ(back.trace.bodies[0].rows.size(), record.trace.bodies[0].rows.size());
  EXPECT_EQ(back.trace.bodies[0].rows.back().pose, record.trace.bodies[0].rows.back().pose);
  EXPECT_EQ(back.trace.pictures.size(), 9u);
  EXPECT_EQ(gauge_table({&back, 1}), gauge_table({&record, 1}));
  // Half gravity: 1.7 m in sqrt(2 * 1.7 / 4.903) s.
  EXPECT_NEAR(record.trace.bodies[0].rows[30].velocity.y, -0.5 * 9.80665 * 0.5, 1e-9);
}

TEST(BodyTrials, NumbersOfBodiesAreSetByName) {
  const Folder folder;
  Trial trial = trial_of(folder, "[[stack]]\nname = \"crate\"\ncount = 3\nsize = [0.6, 0.4, 0.4]\n");
  apply_setting(trial, "crate.mass=7");
  for (const BodyPlan& b : trial.level.bodies) EXPECT_EQ(b.mass, b.name == "floor" ? 0 : 7);
  EXPECT_THROW(apply_setting(trial, "crate.mas=7"), InputError);
  EXPECT_THROW(apply_setting(trial, "crate.mass=-7"), InputError);
  EXPECT_THROW(apply_setting(trial, "crte.mass=7"), InputError);
}

TEST(BodyTrials, MistakesAreNamed) {
  const auto said = [](const std::string& level) -> std::string {
    const Folder folder;
    try {
      trial_of(folder, level);
    } catch (const InputError& error) {
      return error.what();
    }
    return "nothing";
  };
  const std::string ball = "[[body]]\nname = \"ball\"\nkind = \"dynamic\"\nshape = \"sphere\"\nradius = 0.3\n";
  EXPECT_NE(said("").find("dynamic bodies"), std::string::npos);
  EXPECT_NE(said(ball + "mas = 3\n").find("nearest: mass"), std::string::npos);
  EXPECT_NE(said(ball + "mass = -3\n").find("body[1].mass"), std::string::npos);
  EXPECT_NE(said(ball + "locks = \"plannar\"\n").find("nearest: planar"), std::string::npos);
  EXPECT_NE(said(ball + "[[joint]]\nkind = \"hing\"\n").find("nearest: hinge"), std::string::npos);
  EXPECT_NE(said(ball + "[[joint]]\nkind = \"ball\"\na = \"bal\"\nat = [0, 0, 0]\n").find("nearest: ball"),
            std::string::npos);
  EXPECT_NE(said(ball + "[[stack]]\nname = \"s\"\ncount = 0\nsize = [1, 1, 1]\n").find("stack[0].count"),
            std::string::npos);
  EXPECT_NE(said(ball + "[[zone]]\neffect = \"scal\"\nsize = [1, 1, 1]\n").find("nearest: scale"), std::string::npos);
  EXPECT_NE(said(ball + "[[copies]]\nof = [\"boll\"]\ncount = 2\nstep = [1, 0, 0]\n").find("nearest: ball"),
            std::string::npos);
  EXPECT_NE(said("[[body]]\nkind = \"dynamic\"\nshape = \"mesh\"\nfile = \"" JUGEND_SOURCE "/demo/quay.glb\"\n")
                .find("without volume"),
            std::string::npos);
}

TEST(BodyTrials, TheHarbourRunsFromTheCommandLine) {
  const Folder folder;
  for (const char* name : {"crates_rammed", "handcarts_dropped", "grotto_fall"}) {
    const Answer answer =
        jugend(folder, std::string("run ") + JUGEND_SOURCE + "/demo/" + name + ".toml --set duration_s=1");
    EXPECT_EQ(answer.code, 0) << answer.err;
    EXPECT_NE(answer.out.find("top speed"), std::string::npos) << answer.out;
    EXPECT_TRUE(std::filesystem::exists(folder.path() / "runs" / name / "bodies.csv"));
  }
  const Answer ratio = jugend(folder, "size gravity --on moon --gravity 20 --json");
  EXPECT_EQ(ratio.code, 0);
  EXPECT_NE(ratio.out.find("3.303"), std::string::npos) << ratio.out;
  EXPECT_EQ(jugend(folder, "size gravity --on moom").code, 2);
}

TEST(BodyTrials, ASealIsLedByItsHeadingAndReadBack) {
  const Folder folder;
  const RunRecord record = record_run(read_trial(JUGEND_SOURCE "/demo/seal_round.toml"));
  const auto& rows = record.trace.actors.front().rows;
  double fastest = 0, slowest = 1e9;
  for (const TraceRow& r : rows) {
    if (r.time > 3 && r.time < 3.6) fastest = std::max(fastest, r.velocity.x);
    if (r.time > 3.7 && r.time < 4.5) slowest = std::min(slowest, r.velocity.x);
  }
  EXPECT_NEAR(fastest, 4, 1e-6);
  EXPECT_LT(slowest, 0.2) << "the post costs it its speed";
  EXPECT_GT(rows.back().position.z, 4);
  write_run(record, folder / "seal");
  EXPECT_EQ(read_run(folder / "seal").trace.actors.front().tuning.kind().name(), "led_body");
}

/// Each form of page: a path, bodies alone, a led body, wheels, rotors, and two kinds beside one another.
TEST(Pages, EachFormIsDrawn) {
  const Folder folder;
  const auto run = [](const char* name) {
    return record_run(read_trial(std::string(JUGEND_SOURCE "/demo/") + name + ".toml"));
  };
  const RunRecord quay = run("quay_run"), grotto = run("grotto_fall"), seal = run("seal_round"),
                  cart = run("cart_drop"), drone = run("drone_parcel");
  const std::vector<std::vector<RunRecord>> pages{{quay},  {grotto},     {seal},       {cart},
                                                  {drone}, {quay, cart}, {cart, drone}};
  for (std::size_t i = 0; i < pages.size(); ++i) {
    const auto file = folder / ("page_" + std::to_string(i) + ".png");
    ASSERT_NO_THROW(plot_runs(pages[i], file)) << i;
    EXPECT_GT(std::filesystem::file_size(file), 5000u) << i;
  }
}

}  // namespace
}  // namespace jugend::testing
