// Trials and levels that are read as written, run, measured, written and read back.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/trial.hpp>
#include <jugend/report/run_folder.hpp>
#include <jugend/report/table.hpp>

#include "../support/program.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

TEST(Level, BuildsEveryKindOfBody) {
  Folder folder;
  folder.write("m.map", ".A.\n###\n");
  folder.write("h.csv", "0, 1, 0\n0 1 0\n\n1 1 1\n");
  folder.write("deck.obj", "v 0 0 0\nv 0 0 2\nv 3 0 2\nf 1 2 3\n");
  folder.write("all.toml",
               "gravity = [0, -3.7, 0]\n[[surface]]\nname = \"ice\"\ngrip = 0.1\n"
               "[[body]]\nname = \"a\"\nshape = \"box\"\nsize = [2, 4, 6]\nturn_deg = [0, 0, 90]\nsurface = \"ice\"\n"
               "[[body]]\nname = \"b\"\nshape = \"sphere\"\nradius = 0.5\nkind = \"kinematic\"\nvelocity = [1, 0, "
               "0]\nspin_deg = [0, 180, 0]\n"
               "[[body]]\nshape = \"capsule\"\nradius = 0.3\nheight = 1.8\n"
               "[[body]]\nshape = \"mesh\"\nfile = \"deck.obj\"\n"
               "[[body]]\nshape = \"heights\"\nfile = \"h.csv\"\ncell = 0.5\n"
               "[[body]]\nshape = \"tiles\"\nfile = \"m.map\"\ntile = 2\nposition = [10, 0, 0]\n"
               "[[marker]]\nname = \"gate\"\nposition = [1, 2, 3]\n");
  const Level level = read_level(folder / "all.toml");
  ASSERT_EQ(level.bodies.size(), 6u);
  Stage stage;
  World& world = stage.world;
  level.build(stage);
  EXPECT_EQ(world.size(), 6u);
  EXPECT_EQ(world.gravity({}), (Vec3{0, -3.7, 0}));
  EXPECT_EQ(level.bodies[0].surface.grip, 0.1);
  const Bounds turned = bounds(level.bodies[0].shape, level.bodies[0].pose);
  EXPECT_NEAR(turned.high.x, 2, 1e-12) << "the height lies along x";
  EXPECT_NEAR(level.bodies[1].spin.y, pi, 1e-12);
  EXPECT_NEAR(std::get<Capsule>(level.bodies[2].shape).half_length, 0.6, 1e-12);
  ASSERT_EQ(level.markers.size(), 2u);
  EXPECT_EQ(level.markers[0].second, (Vec3{13, 2, 0})) << "A, on its tile's floor";
}

TEST(Trial, SettingsReachTheirActors) {
  Folder folder;
  write_trial(folder);
  Trial trial = read_trial(folder / "trial.toml");
  apply_setting(trial, "jump.height=2");
  apply_setting(trial, "courier.run.top_speed=3");
  apply_setting(trial, "ground.slope_limit_deg=30");
  apply_setting(trial, "hz=120");
  EXPECT_EQ(trial.actors[0].tuning.as<WalkerTuning>().jump.height, 2);
  EXPECT_EQ(trial.actors[0].tuning.as<WalkerTuning>().run.top_speed, 3);
  EXPECT_NEAR(trial.actors[0].tuning.as<WalkerTuning>().ground.slope_limit, 30 * radians_per_degree, 1e-15);
  EXPECT_EQ(trial.ticks(), 360u);
  EXPECT_THROW(apply_setting(trial, "ghost.run.top_speed=3"), InputError);
}

TEST(Trial, CuesActAtTheirTimesAtEveryRate) {
  Folder folder;
  write_trial(folder);
  for (const double hz : {30.0, 60.0, 144.0, 240.0}) {
    Trial trial = read_trial(folder / "trial.toml");
    trial.hz = hz;
    const Trace trace = run_trial(trial);
    ASSERT_EQ(trace.actors[0].events[0].kind, WalkerEventKind::jumped);
    EXPECT_GE(trace.actors[0].events[0].time, 1 - 1e-9);
    EXPECT_LT(trace.actors[0].events[0].time, 1 + 1 / hz);
    EXPECT_NEAR(trace.actors[0].rows.back().time, 3, 1e-9);
  }
}

/// Down from top speed at one rate, up to it at the other.
TEST(Trial, TurningRoundIsMeasuredFinerThanTicks) {
  Folder folder;
  write_trial(folder);
  folder.write("turn.toml",
               "level = \"floor.level.toml\"\nduration_s = 4\n[[actor]]\nname = \"courier\"\nstart = [0, 0, 0]\n"
               "[[cue]]\nat_s = 0.2\nrun = [1, 0]\n[[cue]]\nat_s = 2\nrun = [-1, 0]\n");
  Random random(81);
  for (int i = 0; i < 40; ++i) {
    Trial trial = read_trial(folder / "turn.toml");
    trial.hz = std::round(random.uniform(30, 240));
    RunTuning& run = trial.actors[0].tuning.as<WalkerTuning>().run;
    run.time_to_top_speed = random.uniform(0, 0.8), run.time_to_turn = random.uniform(0, 0.8);
    double seen = -1;
    for (const Gauge& g : measure(run_trial(trial).actors[0])) {
      if (g.key == "time_to_turn_round_s") seen = g.value;
    }
    EXPECT_NEAR(seen, run.time_to_turn + run.time_to_top_speed, 2e-3 + 1e-2 * seen) << trial.hz;
  }
}

TEST(Trial, ThatRunsAwaySaysWhoWhenAndWhichNumberIsUnusual) {
  Folder folder;
  write_trial(folder);
  folder.write("floor.level.toml",
               slurp(folder / "floor.level.toml") +
                   "[[body]]\nname = \"crate\"\nshape = \"box\"\nsize = [1, 1, 1]\nposition = [9, 0.5, 0]\nkind = "
                   "\"dynamic\"\nmass = 5\n");
  for (const double speed : {3e10, 1e150}) {
    Trial trial = read_trial(folder / "trial.toml");
    apply_setting(trial, "jump.height=99");
    trial.cues.push_back({2.8, 0, [speed](Stage& stage, ActorId) {
                            stage.world.for_each([&](BodyId id) {
                              if (stage.world.name(id) == "crate") stage.world.set_motion(id, {0, speed, 0}, {});
                            });
                          }});
    try {
      run_trial(trial);
      FAIL() << "it went on";
    } catch (const InputError& error) {
      const std::string said = error.what();
      for (const char* part : {"trial.toml", "tick 169", "body 'crate'", "courier.jump.height = 99 (default"})
        EXPECT_NE(said.find(part), std::string::npos) << said;
    }
  }
}

TEST(RunFolder, ReadsBackWhatItWrote) {
  Folder folder;
  write_trial(folder);
  const RunRecord written = record_run(read_trial(folder / "trial.toml"));
  write_run(written, folder / "run");
  const RunRecord read = read_run(folder / "run");
  EXPECT_EQ(trace_csv(read.trace), trace_csv(written.trace));
  EXPECT_EQ(gauge_table({&read, 1}), gauge_table({&written, 1}));
  EXPECT_EQ(read.trace.state_hash, written.trace.state_hash);
  EXPECT_EQ(read.outlines.size(), written.outlines.size());
  folder.write("run/trace.csv", "time_s\n1,2,3\n");
  EXPECT_THROW(read_run(folder / "run"), InputError);
}

TEST(Table, SaysWhatTheSecondRunHasMore) {
  Folder folder;
  write_trial(folder);
  Trial trial = read_trial(folder / "trial.toml");
  std::vector<RunRecord> runs{record_run(trial)};
  apply_setting(trial, "run.time_to_stop=0.36");
  runs.push_back(record_run(trial));
  const std::string table = gauge_table(runs);
  EXPECT_NE(table.find("+0.1800"), std::string::npos) << table;
  EXPECT_NE(table.find("+0.5400"), std::string::npos) << "twice the time is twice the way" << table;
  ASSERT_EQ(tuning_differences(runs).size(), 1u);
  EXPECT_EQ(tuning_differences(runs)[0], "courier run.time_to_stop: 0.18 -> 0.36 s");
}

}  // namespace
}  // namespace jugend::testing
