// Tuning files: numbers, whole numbers, toggles, choices, lists, curves and parts, and what is refused of them.
#include <gtest/gtest.h>

#include <cmath>
#include <jugend/base/text.hpp>
#include <jugend/lab/trial.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <jugend/motion/walker/brain.hpp>
#include <jugend/report/run_folder.hpp>

#include "../support/program.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

ActorTuning read(const Folder& folder, const char* kind, const std::string& text) {
  write_file(folder / "tuning.toml", text);
  return read_tuning(folder / "tuning.toml", *standard_kinds().find(kind));
}

std::string refusal(const Folder& folder, const char* kind, const std::string& text) {
  try {
    read(folder, kind, text);
  } catch (const InputError& error) {
    return error.what();
  }
  return "not refused";
}

TEST(Tuning, EveryTypeIsReadAsWhatItIs) {
  const Folder folder;
  const auto tuning = read(folder, "walker",
                           "[wall]\non = true\n[dash]\ndirection = \"facing\"\ncharges = 3\n[carry]\nrise_rule = "
                           "\"speeds_add\"\n[jump]\nheight = 2\n")
                          .as<WalkerTuning>();
  EXPECT_TRUE(tuning.wall.on);
  EXPECT_EQ(tuning.dash.direction, DashDirection::facing);
  EXPECT_EQ(tuning.dash.charge.charges, 3);
  EXPECT_EQ(tuning.carry.rise_rule, RiseRule::speeds_add);
  EXPECT_EQ(tuning.jump.height, 2);
}

TEST(Tuning, ListsCurvesAndPartsHaveAnyLength) {
  const Folder folder;
  const auto tuning = read(folder, "vehicle",
                           "[drive]\nby = \"force\"\nforce = [[0, 1800], [6, 1500], [9, 900], [13, 120]]\n"
                           "[drive.engine]\ngears = [4, 2.5, 1.6, 1.1, 0.9]\n"
                           "[[axle]]\nahead = 1.2\nsteer = 1\n[[axle]]\nahead = 0\n[axle.spring]\nsag = 0.1\n"
                           "[[axle]]\nahead = -1.2\ndrive = 1\n")
                          .as<VehicleTuning>();
  ASSERT_EQ(tuning.axles.size(), 3u);
  EXPECT_EQ(tuning.axles[0].ahead, 1.2);
  EXPECT_EQ(tuning.axles[1].wheel.suspension.spring_by, SpringBy::sag);
  EXPECT_EQ(tuning.axles[2].wheel.suspension.spring_by, SpringBy::ride_frequency);
  EXPECT_EQ(tuning.drive.engine.gears, (std::vector<double>{4, 2.5, 1.6, 1.1, 0.9}));
  ASSERT_EQ(tuning.drive.force.size(), 4u);
  EXPECT_EQ(tuning.drive.force[2].y, 900);
}

TEST(Tuning, WhatIsNoneOfItsTypeIsRefusedWithWhatIsAllowed) {
  const Folder folder;
  struct Row {
    const char *kind, *text, *place, *says;
  };
  const Row rows[] = {
      {"walker", "wall.on = 0.3\n", ":1:", "true or false"},
      {"walker", "wall.on = 1\n", ":1:", "true or false"},
      {"walker", "dash.direction = 2\n", ":1:", "input, facing or aim"},
      {"walker", "dash.direction = \"faceing\"\n", ":1:", "nearest: facing"},
      {"walker", "jump.air_jumps = 1.5\n", ":1:", "a whole number, 0 to 16"},
      {"walker", "jump.height = \"high\"\n", ":1:", "a number"},
      {"multirotor", "rotor.count = 4.6\n", ":1:", "a whole number, 3 to 12"},
      {"vehicle", "drive.differential = \"limmited\"\n", ":1:", "nearest: limited"},
      {"vehicle", "drive.engine.gears = [3, \"two\"]\n", ":1:", "drive.engine.gears.2"},
      {"vehicle", "drive.engine.gears = 3\n", ":1:", "a list of numbers"},
      {"vehicle", "[drive]\nby = \"engine\"\nforce = [[0, 1], [0, 2]]\n", ":3:", "one value for each x"},
      {"vehicle", "drive.force = [[0, 1, 2]]\n", ":1:", "two numbers, [x, y]"},
      {"vehicle", "axle = 3\n", ":1:", "[[axle]]"},
      {"vehicle", "axle.7.radius = 0.3\n", ":1:", "a number from 1 to 2"},
      {"vehicle", "[[axle]]\nradius = 0.3\nspring.sag = 0.1\nspring.stiffness = 9000\n", ":4:", "spring.sag beside it"},
      {"vehicle", "[[axle]]\ndamper.bump = 900\ndamper.rebound_ratio = 0.4\n", ":3:", "damper.bump beside it"},
      {"vehicle", "[[axle]]\n[[axle]]\nspring.bump = 9\n", ":3:", "axle.2.spring.bump"},
  };
  for (const Row& row : rows) {
    const std::string said = refusal(folder, row.kind, row.text);
    EXPECT_NE(said.find(row.says), std::string::npos) << row.text << said;
    EXPECT_NE(said.find(row.place), std::string::npos) << row.text << said;
  }
}

/// Whatever is written of a tuning is read back as it was: every number of every kind, at random.
TEST(Tuning, EveryNumberOfEveryKindCanBeAddressed) {
  Random random(5);
  for (const auto& kind : standard_kinds().all()) {
    ActorTuning tuning(*kind);
    for (const BoundTunable& bound : tuning.all()) {
      const Tunable& t = *bound.tunable;
      double value = random.uniform(t.low, std::min(t.high, t.low + 1e4));
      if (t.type != TunableType::number) value = std::floor(value);
      DocValue table;
      table.members.push_back({bound.key, value_of(t.shown(value))});
      apply_tunables(table, "here", tuning);
      const auto found = find_tunable(tuning.list(), tuning.data(), bound.key);
      ASSERT_TRUE(found) << bound.key;
      EXPECT_NEAR(found->read(), std::stod(as_text(value)), 1e-9 * std::abs(value)) << bound.key;
      EXPECT_TRUE(found->stated()) << bound.key;
    }
  }
}

/// Whatever is in range is so in other units, and comes back as it was.
TEST(Tuning, EveryKindIsTunedInAnyUnit) {
  Random random(7);
  for (const auto& kind : standard_kinds().all()) {
    for (int n = 0; n < 20; ++n) {
      ActorTuning tuning(*kind);
      for (const BoundTunable& t : tuning.all()) {
        const bool plain = t.tunable->type == TunableType::number && !t.key.ends_with(".x");  // those of a curve rise
        if (plain && t.key != "length_scale")
          t.write(random.below(4) == 0 ? t.tunable->low : random.uniform(t.tunable->low, t.tunable->high));
      }
      std::vector<double> before;
      for (const BoundTunable& t : tuning.all()) before.push_back(t.read());
      const double scale = std::exp2(random.uniform(-9, 9));
      rescale(tuning.list(), tuning.data(), scale);
      EXPECT_NO_THROW(check_ranges(tuning.list(), tuning.data())) << kind->name() << " at " << scale;
      EXPECT_THROW(rescale(tuning.list(), tuning.data(), 1e9), InputError) << kind->name();  // and changes nothing
      rescale(tuning.list(), tuning.data(), 1 / scale);
      std::size_t i = 0;
      for (const BoundTunable& t : tuning.all()) {
        EXPECT_NEAR(t.read(), before[i], 1e-9 * std::abs(before[i])) << kind->name() << " " << t.key;
        ++i;
      }
    }
  }
}

TEST(Tuning, CurvesAreDrawnAndWhatHasNoneIsRefused) {
  const Folder folder;
  const Answer drawn = jugend(folder, "plot " JUGEND_SOURCE "/demo/cart.toml --out curves.png");
  EXPECT_EQ(drawn.code, 0) << drawn.err;
  EXPECT_GT(std::filesystem::file_size(folder / "curves.png"), 5000u);
  const Answer refused = jugend(folder, "plot " JUGEND_SOURCE "/demo/courier.toml --out none.png");
  EXPECT_EQ(refused.code, 2);
  EXPECT_NE(refused.err.find("without curves"), std::string::npos) << refused.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "none.png"));
}

}  // namespace
}  // namespace jugend::testing
