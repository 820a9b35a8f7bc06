// Trials of vehicles and multirotors: gauges, files, pictures, the command line.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/motion/bodies/rotors.hpp>
#include <jugend/motion/vehicle/vehicle_sizing.hpp>
#include <jugend/report/plot.hpp>
#include <map>

#include "../support/program.hpp"
#include "../support/random.hpp"
#include "../support/scene.hpp"

namespace jugend::testing {
namespace {

Trial demo(const std::string& name) { return read_trial(std::string(JUGEND_SOURCE "/demo/") + name + ".toml"); }

std::map<std::string, double> gauges_of(const ActorTrace& actor) {
  std::map<std::string, double> all;
  for (const Gauge& g : measure(actor)) all[g.key] = g.value;
  return all;
}

TEST(VehicleTrials, OutcomesAreTheSameAtEveryRate) {
  std::vector<std::map<std::string, double>> all;
  for (const double hz : {30.0, 60.0, 120.0, 240.0}) {
    Trial trial = demo("cart_drop");
    apply_setting(trial, "hz=" + std::to_string(static_cast<int>(hz)));
    apply_setting(trial, "brakes.antilock=true");
    const Trace trace = run_trial(trial);
    all.push_back(gauges_of(trace.actors.front()));
    all.back()["stop_share"] = all.back().at("stop_distance_m") / std::pow(all.back().at("top_speed_m_s"), 2);
  }
  for (const char* key : {"sag_m", "fall_1.length_m", "stop_share"}) {
    for (const auto& gauges : all) {
      EXPECT_NEAR(gauges.at(key), all.back().at(key), 0.01 * all.back().at(key)) << key;
    }
  }
}

/// The harbour's trials off the road: what they are for is the same at every rate.
TEST(VehicleTrials, OffTheRoadOutcomesAreTheSameAtEveryRate) {
  struct Row {
    const char *trial, *gauge;
    double within;  // of itself
  };
  std::map<std::pair<std::string, int>, std::map<std::string, double>> measured;
  for (const Row& row : {Row{"kerb_row", "distance_m", 0.01},
                         {"kerb_row", "top_speed_m_s", 0.01},
                         {"ferry_crossing", "distance_m", 0.01},
                         {"ferry_crossing", "stop_distance_m", 0.03},
                         {"rotor_loss", "loss_drop_m", 0.01},
                         {"rotor_loss", "loss_sink_m_s", 0.02},
                         {"crane_walk", "turn_share", 0.03},
                         {"crane_walk", "distance_m", 0.01},
                         {"workboat_turn", "tactical_diameter_m", 0.01},
                         {"workboat_turn", "crash_stop_m", 0.02},
                         {"workboat_turn", "water_speed_peak_m_s", 0.005}}) {
    std::vector<double> values;
    for (const int hz : {30, 60, 240}) {
      std::map<std::string, double>& gauges = measured[{row.trial, hz}];
      if (gauges.empty()) {
        Trial trial = demo(row.trial);
        apply_setting(trial, "hz=" + std::to_string(hz));
        gauges = gauges_of(run_trial(trial).actors.front());
      }
      values.push_back(gauges.at(row.gauge));
    }
    for (const double value : values)
      EXPECT_NEAR(value, values.back(), row.within * std::abs(values.back())) << row.trial << ": " << row.gauge;
  }
}

/// Both come round a route of tight bends and stop at its end, within half a length or so.
TEST(VehicleTrials, TracksAndBoatsLeadThemselves) {
  struct Row {
    const char* name;
    std::vector<Vec3> route;
    double length;  // m
  };
  for (const auto& [name, route, length] :
       {Row{"crane_walk", {{0, 0, 0}, {4, 0, 0}, {8, 0, 6}, {2, 0, 10}}, 2.8},
        Row{"workboat_turn", {{0, 0, 0}, {20, 0, 0}, {40, 0, 20}, {15, 0, 40}}, 5.8}}) {
    Trial trial = demo(name);
    trial.cues.clear();
    trial.duration = 60;
    TrialActor& actor = trial.actors.front();
    actor.route = route, actor.route_speed = 2, actor.route_closed = false;
    const Trace trace = run_trial(trial);
    double off = 0;
    const Path path(route, true);
    for (const TraceRow& r : trace.actors.front().rows) {
      double nearest = infinity;
      for (double s = 0; s <= path.length(); s += 0.5)
        nearest = std::min(nearest, norm(in_plane(path.at(s) - r.position, {0, 1, 0})));
      off = std::max(off, nearest);
    }
    EXPECT_LT(off, length) << name;
    EXPECT_LT(norm(in_plane(trace.actors.front().rows.back().position - route.back(), {0, 1, 0})), length) << name;
  }
}

TEST(VehicleTrials, WhatSpringsAreAskedForIsMeasured) {
  Trial trial = demo("cart_drop");
  for (const char* axle : {"axle.1", "axle.2"}) {
    for (const char* set : {".spring.ride_frequency=1.5", ".damper.bump_ratio=0.25", ".damper.rebound_ratio=0.25",
                            ".spring.progression=0"})
      apply_setting(trial, std::string(axle) + set);
  }
  trial.level.bodies.back().pose.position.y = 0.62;  // a small drop: no stop is touched
  trial.cues.clear();
  const auto gauges = gauges_of(run_trial(trial).actors.front());
  EXPECT_NEAR(gauges.at("ride_frequency_hz"), 1.5, 0.03 * 1.5);
  EXPECT_NEAR(gauges.at("damping_ratio"), 0.25, 0.1 * 0.25);
  EXPECT_NEAR(gauges.at("sag_m"), size_spring(105, 1.5, 0.25).sag, 0.005 * gauges.at("sag_m"));
}

TEST(VehicleTrials, ACartGoesRoundItsRouteAndIsReadBack) {
  const Folder folder;
  const RunRecord record = record_run(demo("cart_lap"));
  const ActorTrace& cart = record.trace.actors.front();
  double highest = 0, farthest = 0;
  for (const TraceRow& r : cart.rows)
    highest = std::max(highest, r.position.y), farthest = std::max(farthest, r.position.z);
  EXPECT_GT(highest, 1.6);  // over the upper quay
  EXPECT_GT(farthest, 19);  // and back past the bollard
  EXPECT_LT(farthest, 25);
  EXPECT_GT(gauges_of(cart).at("distance_m"), 250);
  EXPECT_EQ(cart.parts, 4u);
  EXPECT_EQ(cart.part_values.size(), 4 * cart.columns * cart.rows.size());
  write_run(record, folder / "lap");
  const RunRecord back = read_run(folder / "lap");
  EXPECT_EQ(back.trace.actors.front().tuning.kind().name(), "vehicle");
  EXPECT_EQ(back.trace.actors.front().part_values, cart.part_values);
  ASSERT_EQ(cart.drive.size(), 1u);
  EXPECT_EQ(back.trace.actors.front().drive.front().points, cart.drive.front().points);
  EXPECT_EQ(gauges_of(back.trace.actors.front()), gauges_of(cart));
  plot_runs(std::span(&back, 1), folder / "lap.svg", {});
  EXPECT_GT(std::filesystem::file_size(folder / "lap.svg"), 10000u);
}

TEST(VehicleTrials, BadNumbersShow) {
  const auto good = gauges_of(run_trial(demo("cart_drop")).actors.front());
  const auto bad = gauges_of(run_trial(demo("cart_bad_drop")).actors.front());
  EXPECT_GT(bad.at("settle_time_s"), 1.5 * good.at("settle_time_s"));
  EXPECT_LT(bad.at("top_speed_m_s"), good.at("top_speed_m_s") - 1);  // its body scrapes along the ground
  EXPECT_TRUE(good.contains("damping_ratio"));
  EXPECT_FALSE(bad.contains("sag_m")) << "it does not come to rest";
}

TEST(VehicleTrials, WhatNeverStandsStillHasNoTimeFromWhichItDoes) {
  const auto times = [](const char* name) {
    const auto bodies = measure_bodies(run_trial(demo(name)));
    return std::ranges::count(bodies.front().gauges, "still_after_s", &Gauge::key);
  };
  EXPECT_EQ(times("cart_drop"), 1);
  EXPECT_EQ(times("cart_lap"), 0);
}

TEST(VehicleTrials, ComparisonsTellWhatWasChanged) {
  const Folder folder;
  const std::string at = " " JUGEND_SOURCE "/demo/";
  const Answer answer = jugend(folder, "compare" + at + "cart_drop.toml" + at + "cart_bad_drop.toml");
  EXPECT_NE(answer.out.find("changed: cart axle.1.spring.progression: 0.6 -> 0\n"), std::string::npos) << answer.out;
  EXPECT_NE(answer.out.find("changed: cart axle.1.spring.bump: 0.24 -> 0.3 m\n"), std::string::npos);
  EXPECT_NE(answer.out.find("\n\nwrote"), std::string::npos);
  EXPECT_EQ(answer.out.find("\n\n\n"), std::string::npos);
}

TEST(VehicleTrials, ATrailerFollowsItsHitch) {
  const Trace trace = run_trial(demo("cart_trailer"));
  const auto body = [&](const char* name) { return *std::ranges::find(trace.bodies, name, &BodyTrace::name); };
  const BodyTrace cart = body("cart"), trailer = body("trailer");
  for (std::size_t i = 0; i < cart.rows.size(); ++i) {
    const Vec3 hitch = to_world(cart.rows[i].pose, Vec3{-1.4, -0.1, 0});
    EXPECT_LT(norm(to_world(trailer.rows[i].pose, Vec3{1.35, -0.1, 0}) - hitch), 0.02);
  }
  EXPECT_GT(norm(trailer.rows.back().pose.position - trailer.rows.front().pose.position), 20);
  // Its motors turn the handcart's wheels, the left one faster: it goes to the right.
  const BodyTrace handcart = body("handcart");
  EXPECT_GT(handcart.rows.back().pose.position.z, handcart.rows.front().pose.position.z + 1);
}

TEST(DroneTrials, TheParcelComesAlong) {
  const Folder folder;
  const RunRecord record = record_run(demo("drone_parcel"));
  const ActorTrace& drone = record.trace.actors.front();
  const Vec3 end = drone.rows.back().position;
  EXPECT_LT(norm(end - Vec3{9, 2.4, 1}), 0.3);
  EXPECT_LT(gauges_of(drone).at("tilt_peak_deg"), 20);
  const BodyTrace& parcel = *std::ranges::find(record.trace.bodies, "parcel", &BodyTrace::name);
  EXPECT_LT(norm(parcel.rows.back().pose.position - end), 2.05);
  plot_runs(std::span(&record, 1), folder / "drone.svg", {});
  EXPECT_GT(std::filesystem::file_size(folder / "drone.svg"), 10000u);
}

TEST(DroneTrials, ArrowsTogetherBearTheWeight) {
  const auto carried = [](const Trace& trace) {  // m of arrows upwards
    double sum = 0;
    for (const Outline& arrow : trace.pictures.back().side_forces) sum += arrow.points[1].y - arrow.points[0].y;
    return sum;
  };
  const Trace drone = run_trial(demo("drone_parcel"));
  const double both = 1 + drone.bodies[1].mass / drone.bodies[0].mass;
  ASSERT_EQ(drone.pictures.back().side_forces.size(), 4u);
  EXPECT_NEAR(carried(drone), 1.2 * both, 0.02 * 1.2 * both);
  const Trace cart = run_trial(demo("cart_drop"));
  ASSERT_EQ(cart.pictures.back().side_forces.size(), 4u);
  EXPECT_NEAR(carried(cart), 1.2, 0.005 * 1.2);
}

TEST(VehicleTrials, ConesStandAfterTheLaneChange) {
  const Trace trace = run_trial(demo("manoeuvres/lane_change"));
  double out = 0;
  for (const TraceRow& r : trace.actors.front().rows) out = std::min(out, r.position.z);
  EXPECT_NEAR(out, -3.5, 0.5);
  int cones = 0;
  for (const BodyTrace& body : trace.bodies) {
    if (!body.name.starts_with("cone")) continue;
    ++cones;
    EXPECT_LT(norm(body.rows.back().pose.position - body.rows.front().pose.position), 1e-3) << body.name;
  }
  EXPECT_EQ(cones, 28);
}

TEST(VehicleTrials, ARoutesSpeedIsANumberToo) {
  Trial trial = demo("manoeuvres/lane_change");
  apply_setting(trial, "route.speed=7.5");
  EXPECT_NEAR(gauges_of(run_trial(trial).actors.front()).at("top_speed_m_s"), 7.5, 0.1);
  EXPECT_THROW(apply_setting(trial, "route.speed=-1"), InputError);
  Trial walker = demo("quay_run");
  EXPECT_THROW(apply_setting(walker, "route.speed=3"), InputError);
  const Folder folder;
  const std::string trial_file = JUGEND_SOURCE "/demo/cart_drop.toml";
  EXPECT_NE(jugend(folder, "run " + trial_file + " --set axle.1.radus=1").err.find("jugend params vehicle"),
            std::string::npos);
}

/// The dry side turns a cart that brakes across the seam; wheels that go on turning let it go straighter.
TEST(VehicleTrials, SplitGripTurnsWhoBrakesOnIt) {
  const auto heading = [](const char* antilock) {
    Trial trial = demo("manoeuvres/split_grip");
    apply_setting(trial, std::string("brakes.antilock=") + antilock);
    const Vec3 facing = run_trial(trial).actors.front().rows.back().facing;
    return std::atan2(facing.z, facing.x);  // to the right positive
  };
  const double locked = heading("false"), held = heading("true");
  EXPECT_GT(locked, 0.2);
  EXPECT_LT(std::abs(held), 0.5 * locked);
}

TEST(VehicleTrials, ABankCarriesTheCurveAtItsSpeed) {
  const Trace trace = run_trial(demo("manoeuvres/banked_curve"));
  double across = 0;
  int on_bank = 0;
  for (std::size_t i = 0; i < trace.actors.front().rows.size(); ++i) {
    const TraceRow& r = trace.actors.front().rows[i];
    if (r.position.x < 20) continue;  // the middle of the curve
    ++on_bank;
    for (std::size_t w = 0; w < 4; ++w) across = std::max(across, std::abs(trace.actors.front().part(i, w, 3)));
  }
  EXPECT_GT(on_bank, 60);
  EXPECT_LT(across, 0.03);  // hardly any force sideways
  EXPECT_NEAR(trace.actors.front().rows.back().position.z, -60, 1);
}

TEST(DroneTrials, DriftIsMeasuredWhileNoClimbIsAskedFor) {
  const auto drift = [](const char* held) {
    Trial trial = demo("drone_parcel");
    trial.cues.clear();
    apply_setting(trial, "mode=attitude");
    apply_setting(trial, std::string("hold_height=") + held);
    trial.cues.push_back(
        {4, 0, [](Stage& stage, ActorId id) { stage.actor(id).as<MultirotorControls>().fly = {.ahead = 0.6}; }});
    return gauges_of(run_trial(trial).actors.front()).at("height_drift_m");
  };
  EXPECT_LT(drift("true"), 0.3);
  EXPECT_GT(drift("false"), 1);
}

/// What ends a curve, a tyre through its own points, what rotors are left: closed forms, and by the program.
TEST(Sizing, TipTyreAndRotorLoss) {
  const TipSize tip = size_tip(0.5, 1.2, 10, 0.9, 10);
  EXPECT_NEAR(tip.tips_at * tip.tips_at, 10 * 1.2 / (2 * 0.5) * 10, 1e-9);
  EXPECT_NEAR(tip.slides_at * tip.slides_at, 0.9 * 10 * 10, 1e-9);
  EXPECT_NEAR(tip.grip, 1.2, 1e-12);
  Random random(51);
  for (int i = 0; i < 200; ++i) {
    const double grip = random.uniform(0.3, 1.5), stiffness = grip * random.uniform(5, 30),
                 load = random.uniform(100, 9000);
    std::vector<TyrePoint> points;
    for (int k = 0, count = 3 + static_cast<int>(random.below(6)); k < count; ++k) {
      const double angle = (k == 0 ? 0.3 : random.uniform(0.1, 1.3)) * std::atan(3 * grip / stiffness);
      const double r = std::min(1.0, stiffness * std::tan(angle) / (3 * grip));
      points.push_back({angle, grip * load * (3 * r - 3 * r * r + r * r * r)});
    }
    const TyreSize fit = size_tyre(load, points);
    EXPECT_LT(fit.missed, 1e-6);
    EXPECT_NEAR(fit.grip, grip, 1e-4 * grip) << grip << " " << stiffness;
    EXPECT_NEAR(fit.stiffness, stiffness, 1e-3 * stiffness);
  }
  EXPECT_THROW(size_tyre(1000, std::vector<TyrePoint>{{0.1, 500}}), InputError);
  EXPECT_THROW(size_tyre(1000, std::vector<TyrePoint>{{0.1, 500}, {2, 600}}), InputError);
  EXPECT_THROW(size_tyre(1000, std::vector<TyrePoint>{{0.1, 500}, {0.2, -600}}), InputError);
  // Opposite pairs bear alone; of six less one its opposite rests; of four less one that leaves two.
  for (const double ratio : {1.5, 2.4}) {
    EXPECT_NEAR(size_rotor_loss(4, ratio).one, ratio / 2, 1e-3);
    EXPECT_NEAR(size_rotor_loss(6, ratio).one, ratio * 4 / 6, 1e-3);
    EXPECT_NEAR(size_rotor_loss(6, ratio).two_best, ratio * 4 / 6, 1e-3);
    EXPECT_NEAR(size_rotor_loss(4, ratio).two_worst, 0, 1e-3);
  }
  EXPECT_THROW(size_rotor_loss(2, 2), InputError);
  EXPECT_THROW(size_rotor_loss(6, 1), InputError);
  const Folder folder;
  EXPECT_NE(jugend(folder, "size tip --height 0.5 --track 1.2 --radius 10").out.find("inner wheels lift at"),
            std::string::npos);
  EXPECT_NE(jugend(folder, "size tyre --points 2:420 4:760 8:1010 --json").out.find("side_stiffness"),
            std::string::npos);
  EXPECT_NE(jugend(folder, "size rotor-loss --rotors 6").out.find("one lost"), std::string::npos);
  EXPECT_EQ(jugend(folder, "size tyre --points 4").code, 2);
  EXPECT_EQ(jugend(folder, "size tyre --points 4:3x 5:1").code, 2);
  EXPECT_EQ(jugend(folder, "size rotor-loss --rotors 13").code, 2);
}

/// What a tuner would not see is said once, and kept with the run.
TEST(VehicleTrials, WhatBeatsTheWishIsRemarkedOn) {
  const Folder folder;
  const auto said = [&](const std::string& name, const std::string& settings) {
    const std::string out = jugend(folder, "run " JUGEND_SOURCE "/demo/" + name + ".toml --out run" + settings).out;
    const std::vector<std::string> kept = read_run(folder / "run").trace.actors.front().remarks;
    for (const std::string& line : kept) EXPECT_NE(out.find(line), std::string::npos);
    return kept.empty() ? std::string() : kept.front();
  };
  EXPECT_EQ(said("cart_drop", ""), "");
  EXPECT_EQ(said("cart_drop", " --set axle.1.tyre.grip=2"), "");  // aids.keep_down
  EXPECT_NE(said("cart_drop", " --set axle.1.tyre.grip=2 --set aids.keep_down=false").find("tips"), std::string::npos);
  EXPECT_EQ(said("crane_walk", ""), "");
  EXPECT_NE(jugend(folder, "run " JUGEND_SOURCE "/demo/crane_walk.toml").out.find("wheels.csv"), std::string::npos);
  EXPECT_EQ(said("seal_round", ""), "");
  EXPECT_NE(said("seal_round", " --set seal.friction=1 --set slip.friction=1").find("rubs"), std::string::npos);
  EXPECT_EQ(said("workboat_turn", ""), "");
  EXPECT_NE(said("workboat_turn", " --set hull.draught=1").find("draught"), std::string::npos);
  EXPECT_NE(said("workboat_turn", " --set propeller.height=1").find("propeller"), std::string::npos);
}

TEST(VehicleTrials, KindsThatGoByThemselvesAreNamed) {
  const Folder folder;
  write_file(folder / "trial.toml",
             "title = \"t\"\nlevel = \"" JUGEND_SOURCE
             "/demo/pier.level.toml\"\nduration_s = 1\n[[actor]]\nname = \"d\"\nkind = \"multirotor\"\nbody = "
             "\"drone\"\n[actor.route]\npoints = [[0, 0, 0], [1, 0, 0]]\n");
  const std::string said = jugend(folder, "run trial.toml").err;
  for (const char* kind : {"led_body", "vehicle", "tracked_vehicle", "boat"})
    EXPECT_NE(said.find(kind), std::string::npos) << said;
}

TEST(VehicleTrials, RefusalsNameTheFile) {
  const Folder folder;
  const std::string head =
      "title = \"t\"\nlevel = \"" JUGEND_SOURCE
      "/demo/yard.level.toml\"\nduration_s = 1\n[[actor]]\nname = \"cart\"\nkind = \"vehicle\"\nbody = \"cart\"\n";
  const auto said = [&](const std::string& more) {
    write_file(folder / "trial.toml", head + more);
    const Answer answer = jugend(folder, "run trial.toml");
    EXPECT_EQ(answer.code, 2) << more;
    return answer.err;
  };
  EXPECT_NE(said("set = { axle = { 1 = { radius = 0 } } }\n").find("trial.toml:8"), std::string::npos);
  EXPECT_NE(said("set = { axle = { 2 = { drive = 0 } } }\n").find("no driven wheel"), std::string::npos);
  EXPECT_NE(said("set = { axle = { 2 = { drive = 0 } } }\n").find("trial.toml"), std::string::npos);
  EXPECT_NE(said("set = { axle = { 1 = { spring = { bump = 0.5 } } } }\n").find("rest_length"), std::string::npos);
  EXPECT_NE(said("set = { axle = { 1 = { spring = { bmup = 0.5 } } } }\n").find("bump"), std::string::npos);
  write_file(folder / "long.toml", "kind = \"vehicle\"\n[[axle]]\n[axle.spring]\nbump = 0.5\n");
  EXPECT_NE(said("tuning = \"long.toml\"\n").find("long.toml:4:1: axle.1.spring.bump: found 0.5"), std::string::npos);
  EXPECT_NE(said("[actor.route]\npoints = [[0, 0, 0]]\n").find("points"), std::string::npos);
  EXPECT_NE(said("[[cue]]\nat_s = 0\ndrive = { throtle = 1 }\n").find("nearest: throttle"), std::string::npos);
  EXPECT_NE(said("[[cue]]\nat_s = 0\ndrive = { brake = -1 }\n").find("0 to 1"), std::string::npos);
  EXPECT_NE(said("[[cue]]\nat_s = 0\nfly = { fail = 2 }\n").find("a cue for a multirotor"), std::string::npos);
}

TEST(VehicleTrials, DegreesInFilesAreRadiansInCode) {
  for (const auto& kind : standard_kinds().all()) {
    ActorTuning tuning(*kind);
    for (const BoundTunable& bound : tuning.all()) {
      const Tunable& t = *bound.tunable;
      EXPECT_EQ(t.unit.starts_with("deg"), t.key.ends_with("_deg")) << t.key;
      const double there = t.get(bound.in);
      EXPECT_NEAR(bound.read(), t.unit.starts_with("deg") ? there * 180 / 3.14159265358979 : there,
                  1e-9 * std::abs(there) * 60)
          << t.key;
    }
  }
}

TEST(VehicleTrials, SizesFromTheCommandLine) {
  const Folder folder;
  const auto number = [&](const std::string& command, const std::string& key) {
    const Answer answer = jugend(folder, "size " + command + " --json");
    EXPECT_EQ(answer.code, 0) << answer.err;
    const auto at = answer.out.find("\"" + key + "\": ");
    return at == std::string::npos ? NAN : std::stod(answer.out.substr(at + key.size() + 4));
  };
  EXPECT_NEAR(number("spring --mass 100 --frequency 2 --ratio 0.5", "stiffness_n_m"), 100 * 16 * 9.8696044, 0.01);
  EXPECT_NEAR(number("spring --sag 0.1", "frequency_hz"), 1.5761, 1e-3);
  EXPECT_NEAR(number("roll --mass 400 --height 0.5 --track 1", "tips_at_m_s2"), 9.80665, 1e-9);
  EXPECT_NEAR(number("gear --revs 6000 --ratio 2 --final 3 --radius 0.3", "speed_m_s"), 31.4159, 1e-3);
  EXPECT_NEAR(number("hover --mass 2 --thrust 10", "throttle"), std::sqrt(2 * 9.80665 / 40), 1e-9);
  EXPECT_EQ(jugend(folder, "size hover --mass 5 --thrust 10").code, 2);
  EXPECT_EQ(jugend(folder, "size roll --mass 4000").code, 2);
  const Answer list = jugend(folder, "params vehicle");
  EXPECT_NE(list.out.find("[[axle]] 1 to 9"), std::string::npos);
  EXPECT_EQ(list.out.find("spring.ride_frequency "), list.out.rfind("spring.ride_frequency "))
      << "one axle stands for all";
  EXPECT_NE(jugend(folder, "params multirotor").out.find("rotor.lift_ratio"), std::string::npos);
}

}  // namespace
}  // namespace jugend::testing
