// What walkers promise, on both bodies by the same tests: each move, and any two moves one after the other.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <jugend/stage/kinds.hpp>
#include <vector>

#include "../support/random.hpp"

namespace jugend::testing {
namespace {

struct BodyAtRate {
  bool forced;
  double hz;
};

/// A walker on a wide floor, on either body, with all that is heard of it.
class OnFloor {
 public:
  Stage stage;
  struct Heard {
    double time;
    WalkerEvent event;
  };
  std::vector<Heard> heard;
  double now = 0;

  OnFloor(const BodyAtRate& at, const WalkerTuning& tuning) : dt_(1 / at.hz), law_(tuning.jump.fall_law()) {
    stage.world.add({.shape = Box{{400, 1, 400}}, .pose = {{0, -1, 0}, {}}});
    if (at.forced)
      add_forced(stage, "courier", tuning, {}, {0, 0, 0});
    else
      stage.add("courier", Walker(tuning, {0, 0, 0}));
    run(0.3);
    heard.clear();
  }
  Actor& actor() { return stage.actor(stage.nth(0)); }
  WalkerControls& controls() { return actor().as<WalkerControls>(); }
  ActorFacts facts() const { return stage.facts(stage.nth(0)); }
  const WalkerState& state() const { return stage.actor(stage.nth(0)).as<WalkerBrain>().state(); }
  void tick() {
    stage.tick(dt_);
    for (const WalkerEvent& e : actor().heard()) heard.push_back({now + e.time, e});
    now += dt_;
    const ActorFacts f = facts();
    // Between ticks: what the speed that is left still carries.
    const double v = f.velocity.y;
    highest = std::max(highest, f.position.y);
    if (v > 0 && v < law_.rising * dt_) highest = std::max(highest, f.position.y + v * v / (2 * law_.rising));
  }
  void run(double seconds) {
    for (double end = now + seconds - 1e-9; now < end;) tick();
  }
  /// The first of a kind from `from` s on.
  const Heard* next(WalkerEventKind kind, double from) const {
    for (const Heard& h : heard) {
      if (h.time >= from && h.event.kind == kind) return &h;
    }
    return nullptr;
  }
  double highest = -1e9;
  double fall_gravity() const { return law_.falling; }

 private:
  double dt_;
  FallLaw law_;
};

enum class Move { jump, tap, air_jump, dash, launch, hit, hop, plunge };
constexpr Move moves[] = {Move::jump,   Move::tap, Move::air_jump, Move::dash,
                          Move::launch, Move::hit, Move::hop,      Move::plunge};
const char* name_of(Move move) {
  static constexpr const char* names[] = {"jump", "tap", "air_jump", "dash", "launch", "hit", "hop", "plunge"};
  return names[static_cast<int>(move)];
}

WalkerTuning tuning_for(Move a, Move b) {
  WalkerTuning t;
  t.jump.tap_height = 0.4, t.jump.air_jumps = 2, t.jump.buffer = 0;
  t.dash = {.distance = 3, .time = 0.2, .end_speed = 2, .charge = {.charges = 2, .cooldown = 0}};
  t.launch = {.height = 3, .charge = {.charges = 2, .cooldown = 0}};
  t.stagger.invulnerable = 0;
  t.plunge = {.on = true, .speed = 9};
  if (a == Move::hop || b == Move::hop) t.stagger.hop = 0.8;
  return t;
}

void press(OnFloor& on, Move move) {
  on.controls().jump.set(false);
  switch (move) {
    case Move::jump:
    case Move::air_jump: on.controls().jump.set(true); break;
    case Move::tap: on.controls().jump.tap(); break;
    case Move::dash: on.controls().dash.tap(); break;
    case Move::launch: on.controls().launch.tap(); break;
    case Move::plunge: on.controls().crouch.tap(); break;
    case Move::hit:
    case Move::hop: on.actor().hit({{-1, 0, 0}, 2}, on.stage.world); break;
  }
}

/// Holds `move`, pressed at `at` s, to what it promises; nothing where it was refused or cut off by the rules.
void expect_kept(OnFloor& on, Move move, double at, double within, const std::string& what) {
  using enum WalkerEventKind;
  const auto apex_after = [&](const OnFloor::Heard& start) -> const OnFloor::Heard* {
    const auto* top = on.next(apex, start.time);
    const auto* cut = on.next(dashed, start.time);
    return top && (!cut || cut->time > top->time) ? top : nullptr;
  };
  const auto expect_height = [&](const OnFloor::Heard& start, double metres) {
    const auto* top = apex_after(start);
    ASSERT_NE(top, nullptr) << what;
    EXPECT_NEAR(top->event.value, metres, within * metres) << what;
    // The body itself went there, and what is told of the place is so.
    EXPECT_NEAR(on.highest, std::max(on.highest, top->event.position.y), within * metres) << what;
  };
  if (move == Move::dash) {
    const auto* start = on.next(dashed, at);
    if (start == nullptr) return;
    const auto* end = on.next(dash_ended, start->time + 1e-6);  // not that of the dash before
    ASSERT_NE(end, nullptr) << what;
    const Vec3 way = end->event.position - start->event.position;
    EXPECT_NEAR(std::hypot(way.x, way.z), 3, within * 3) << what;
    EXPECT_NEAR(end->time - start->time, 0.2, 1e-6) << what;
    return;
  }
  if (move == Move::hit || move == Move::hop) {
    const auto* start = on.next(hit, at);
    if (start == nullptr) return;
    const double end = start->time + on.state().stagger.lasts;
    EXPECT_NEAR(on.state().stagger.lasts, 0.4, 1e-9);
    if (on.now < end) on.run(end - on.now);
    if (move == Move::hop) expect_height(*start, 0.8);
    return;
  }
  if (move == Move::plunge) {  // v² = v0² + 2 g h, straight down
    const auto* start = on.next(plunged, at);
    const auto* end = start ? on.next(landed, start->time) : nullptr;
    if (end == nullptr || on.next(jumped, start->time) || on.next(launched, start->time)) return;
    EXPECT_GE(start->event.value, 9) << what;
    const double g = on.fall_gravity(), v = start->event.value, high = start->event.position.y;
    EXPECT_NEAR(end->event.value, std::sqrt(v * v + 2 * g * high), within * 20) << what;
    EXPECT_NEAR(end->time - start->time, (end->event.value - v) / g, within) << what;
    EXPECT_NEAR(end->event.position.x, start->event.position.x, within) << what;
    return;
  }
  if (move == Move::launch) {
    if (const auto* start = on.next(launched, at)) expect_height(*start, 3);
    return;
  }
  const auto* start = on.next(jumped, at);
  if (start == nullptr) return;
  const bool in_air = start->event.from == JumpFrom::air;
  const double wanted = move == Move::tap ? (in_air ? 0 : 0.4) : in_air ? 1.0 : 1.25;
  if (wanted > 0) expect_height(*start, wanted);
}

class BothBodies : public ::testing::TestWithParam<BodyAtRate> {
 protected:
  BodyAtRate at = GetParam();
  double within = GetParam().forced ? 0.02 : 0.005;
};
INSTANTIATE_TEST_SUITE_P(All, BothBodies,
                         ::testing::Values(BodyAtRate{false, 30}, BodyAtRate{false, 60}, BodyAtRate{false, 144},
                                           BodyAtRate{false, 240}, BodyAtRate{true, 30}, BodyAtRate{true, 60},
                                           BodyAtRate{true, 144}, BodyAtRate{true, 240}),
                         [](const auto& tested) {
                           return (tested.param.forced ? "Forced" : "Swept") +
                                  std::to_string(static_cast<int>(tested.param.hz)) + "Hz";
                         });

TEST_P(BothBodies, EveryMoveKeepsItsPromise) {
  for (const Move move : moves) {
    if (move == Move::air_jump || move == Move::plunge) continue;  // these begin in the air
    OnFloor on(at, tuning_for(move, move));
    const double start = on.now;
    press(on, move);
    on.run(2.5);
    expect_kept(on, move, start, within, name_of(move));
    if (move == Move::hit) {
      EXPECT_NEAR(on.facts().position.x, -2, within * 2);
    }
    EXPECT_TRUE(on.facts().on_ground) << name_of(move);
    EXPECT_NEAR(on.facts().position.y, 0, 1e-3) << name_of(move);
    EXPECT_LE(std::ranges::count_if(on.heard, [](const auto& h) { return h.event.kind == WalkerEventKind::landed; }), 1)
        << name_of(move) << ": it lands once";
  }
}

TEST_P(BothBodies, AnyTwoMovesKeepBothPromises) {
  Random random(7);
  for (const Move first : moves) {
    if (first == Move::air_jump || first == Move::plunge) continue;
    for (const Move second : moves) {
      for (int draw = 0; draw < 4; ++draw) {
        OnFloor on(at, tuning_for(first, second));
        press(on, first);
        on.run(random.uniform(0.02, 1.1));
        const bool rises_faster = on.facts().velocity.y > 5.5;  // then an air jump adds nothing, by its rule
        if (rises_faster && (second == Move::jump || second == Move::air_jump || second == Move::tap)) continue;
        on.highest = on.facts().position.y;
        const double start = on.now;
        press(on, second);
        on.run(2.2);
        const bool hop_rises = second == Move::hop && on.next(WalkerEventKind::hit, start) != nullptr &&
                               on.next(WalkerEventKind::hit, start)->event.position.y > 1e-3;
        if (second == Move::hop && hop_rises) continue;  // in the air a throw leaves the flight as it is
        expect_kept(on, second, start, within,
                    std::string(name_of(first)) + " then " + name_of(second) + ", draw " + std::to_string(draw));
      }
    }
  }
}

TEST_P(BothBodies, AnswersGatesAndPushesAreThoseOfOneBrain) {
  OnFloor on(at, tuning_for(Move::dash, Move::launch));
  const auto brain = [&]() -> WalkerBrain& { return on.actor().as<WalkerBrain>(); };
  EXPECT_EQ(brain().can_jump().from, JumpFrom::ground);
  EXPECT_EQ(brain().can_dash(), NoMove::none);
  EXPECT_EQ(brain().can_launch(), NoMove::none);
  brain().close(gate::all);
  EXPECT_EQ(brain().can_jump().why_not, NoJump::gated);
  EXPECT_EQ(brain().can_dash(), NoMove::gated);
  EXPECT_EQ(brain().can_launch(), NoMove::gated);
  on.controls().intent.move = {1, 0, 0};
  on.controls().jump.set(true), on.controls().dash.tap(), on.controls().launch.tap();
  on.run(0.5);
  EXPECT_NEAR(norm(on.facts().position), 0, 1e-3);
  EXPECT_TRUE(on.heard.empty());
  brain().open(gate::all);
  on.controls().intent.move = {};

  // A blast from below takes it off the ground: v²/2g, under the gravity of its jump.
  const double speed = 4;
  if (auto* forced = on.actor().find<ForcedWalker>())
    forced->add_velocity({0, speed, 0});
  else
    on.actor().as<Walker>().add_velocity({0, speed, 0});
  on.highest = 0;
  on.run(1);
  const double high = speed * speed / (2 * JumpTuning{}.gravity());
  EXPECT_NEAR(on.highest, high, within * high);
  EXPECT_TRUE(on.facts().on_ground);
}

}  // namespace
}  // namespace jugend::testing
