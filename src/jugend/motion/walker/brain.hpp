// What a walker wants and knows, whatever body carries it: its tuning, intent, state, events and answers.
//
// A walker is one brain and a body. The brain decides (moves, gates, timers, modes, events); the body carries it out:
// walker.hpp moves by sweeps, forced_walker.hpp by forces on a dynamic body.
#pragma once

#include <array>
#include <jugend/base/fields.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/number.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/moves/carry.hpp>
#include <jugend/motion/moves/dash.hpp>
#include <jugend/motion/moves/ground.hpp>
#include <jugend/motion/moves/jump.hpp>
#include <jugend/motion/moves/kick.hpp>
#include <jugend/motion/moves/ledge.hpp>
#include <jugend/motion/moves/plunge.hpp>
#include <jugend/motion/moves/run.hpp>
#include <jugend/motion/moves/stagger.hpp>
#include <jugend/motion/moves/swim.hpp>
#include <jugend/motion/moves/wall.hpp>
#include <jugend/motion/port/latch.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct CrouchTuning {
  double height_share = 0.63;  ///< of the body's height; never less than twice its radius
  double speed_share = 0.4;    ///< of the top speed
};

/// Which gravity a jump is stated for.
struct PullTuning {
  double standard = standard_gravity;  ///< m/s² of the world in which jumps are as stated
  bool own = false;                    ///< jumps are as stated wherever it is; else as its gravity makes them
};

/// What walkers are to one another.
enum class Meeting : std::uint8_t {
  solid,  ///< they stop, push and carry one another, as bodies of their mass
  pass    ///< they go through one another; so does the other, whatever it has chosen
};

template <>
struct NamesOf<Meeting> {
  static constexpr std::array<std::string_view, 2> names{"solid", "pass"};
};

struct WalkerTuning {
  struct Body {
    double radius = 0.3;   ///< m
    double height = 1.74;  ///< m, sole to crown
    double mass = 61;      ///< kg
  } body;
  RunTuning run;
  RunTuning air{6, 0.6, 2.0, 0.35};  ///< the same in the air; its top speed is a limit to what input adds
  JumpTuning jump;
  GroundTuning ground;
  CarryTuning carry;
  CrouchTuning crouch;
  PushTuning push;
  KickTuning kick;
  DashTuning dash;
  LaunchTuning launch;
  PlungeTuning plunge;
  StaggerTuning stagger;
  WallTuning wall;
  LedgeTuning ledge;
  SwimTuning swim;
  PullTuning pull;
  Meeting meeting = Meeting::solid;
  double length_scale = 1;         ///< units of the world in a metre
  double facing_half_life = 0.05;  ///< s, of the angle between facing and input

  /// m, sole to crown.
  double height(bool crouched) const {
    return crouched ? larger(2 * body.radius, crouch.height_share * body.height) : body.height;
  }
};

/// Every tunable of a walker.
const Tunables& walker_tunables();
template <>
struct TunablesOf<WalkerTuning> {
  static const Tunables& list() { return walker_tunables(); }
};
/// Throws InputError where tunables that are fine one by one do not fit together.
void check(const WalkerTuning& tuning);

/// Which part of its motion is a program's own. `level`: the level part; it falls, lands, jumps and rides as ever.
/// `whole`: all of it; neither gravity nor the ground holds it, and it neither jumps nor catches ledges.
enum class OwnPath : std::uint8_t { none, level, whole };

/// A move of the program's own, for the ticks whose intents carry it: the root motion of an animation, a glide, a rope.
/// Walls, slopes, steps, platforms and hits act on it as on any motion, and when it ends its velocity is what it was.
/// While `path` is not `none` no dash or launch begins or goes on. docs/adopting.md has examples.
struct OwnMove {
  OwnPath path = OwnPath::none;
  /// m in this tick. On the ground, and with `level`: as seen from what carries it, along the ground. In the air with
  /// `whole`: in the world.
  Vec3 displacement;
  double gravity = 1;  ///< share of its own gravity
  double fall = 1;     ///< share of its fastest fall, jump.fall_speed_limit
  double speed = 1;    ///< share of its top speed, on the ground and in the air

  bool on() const { return path != OwnPath::none || gravity != 1 || fall != 1 || speed != 1; }
  static constexpr auto fields() {
    return field_list(Field{"path", &OwnMove::path}, Field{"displacement", &OwnMove::displacement},
                      Field{"gravity", &OwnMove::gravity}, Field{"fall", &OwnMove::fall},
                      Field{"speed", &OwnMove::speed});
  }
};
static_assert(all_fields_listed<OwnMove>);

/// What is wanted of a walker in this tick.
struct WalkerIntent {
  Vec3 move;  ///< direction in the world, length the share of top speed, at most 1; its part along up is ignored
  Button jump, dash, launch, crouch;  ///< crouch with jump: drop through one-way ground; in the air: plunge
  Vec3 aim;                           ///< direction in space; nothing: where the body faces
  OwnMove own;

  static constexpr auto fields() {
    return field_list(Field{"move", &WalkerIntent::move}, Field{"jump", &WalkerIntent::jump},
                      Field{"dash", &WalkerIntent::dash}, Field{"launch", &WalkerIntent::launch},
                      Field{"crouch", &WalkerIntent::crouch}, Field{"aim", &WalkerIntent::aim},
                      Field{"own", &WalkerIntent::own});
  }
};
static_assert(all_fields_listed<WalkerIntent>);

/// Inputs that the game may close: presses and directions that come meanwhile never count.
namespace gate {
inline constexpr std::uint8_t move = 1, jump = 2, abilities = 4, all = 7;
}

enum class WalkerMode : std::uint8_t {
  idle,
  running,
  rising,
  falling,
  sliding,
  crouching,
  wall_sliding,
  dashing,
  launched,
  thrown,
  hanging,
  climbing,
  wading,
  swimming,
  own_move  ///< of the program: see OwnMove
};
const char* name_of(WalkerMode mode);
inline constexpr int walker_modes = 15;

enum class WalkerEventKind : std::uint8_t {
  jumped,
  left_ground,
  apex,
  landed,
  bumped_head,
  dashed,
  dash_ended,
  launched,
  hit,
  recovered,
  stomped,
  ledge_caught,
  ledge_left,
  climbed,
  kicked,
  squeezed,
  splashed,
  plunged
};
inline constexpr std::array walker_event_names{"jumped",   "left_ground",  "apex",       "landed",  "bumped_head",
                                               "dashed",   "dash_ended",   "launched",   "hit",     "recovered",
                                               "stomped",  "ledge_caught", "ledge_left", "climbed", "kicked",
                                               "squeezed", "splashed",     "plunged"};
inline constexpr int walker_event_kinds = static_cast<int>(walker_event_names.size());
const char* name_of(WalkerEventKind kind);

struct WalkerEvent {
  WalkerEventKind kind{};
  double time = 0;  ///< s into this tick, 0 to dt: events are timed finer than ticks
  Vec3 position;    ///< of the feet
  /// jumped, launched: take-off speed, m/s; landed: impact speed, m/s; apex: m above take-off; bumped_head: m/s
  /// into the ceiling; dashed: m/s; hit: m/s of the throw; stomped: m/s down; kicked: m/s given to the body; squeezed:
  /// m of overlap; splashed: m/s into the water; plunged: m/s down
  double value = 0;
  BodyId body;                        ///< landed, stomped, kicked, ledge_caught, squeezed: which
  JumpFrom from = JumpFrom::nowhere;  ///< jumped
  HitPlace place;                     ///< hit
};
using WalkerEvents = InlineList<WalkerEvent, 24>;

/// What carries a walker until settle().
struct Ride {
  BodyId body;
  Vec3 local, ahead;  ///< feet and facing in that body's frame
  Vec3 done;          ///< m that it has been carried in this tick

  static constexpr auto fields() {
    return field_list(Field{"body", &Ride::body}, Field{"local", &Ride::local}, Field{"ahead", &Ride::ahead},
                      Field{"done", &Ride::done});
  }
};
static_assert(all_fields_listed<Ride>);

/// All that a tick changes. Trivially copyable: copy it to save, hand it back to restore.
struct WalkerState {
  Vec3 position;         ///< of the feet
  Vec3 velocity;         ///< m/s in the world
  Vec3 facing{1, 0, 0};  ///< unit, level
  Vec3 up{0, 1, 0};      ///< unit, against gravity
  bool placed = true;    ///< put here, and has not looked for ground yet
  bool settled = false;  ///< settle() has been called since the last tick
  bool on_ground = false;
  bool held_back = false;  ///< by a wall, when the last tick ended
  bool wedged = false;     ///< held between slopes that are each too steep: may jump, cannot fall
  bool crouched = false;
  bool cramped = false;     ///< crouched where there is no room to stand
  std::uint8_t closed = 0;  ///< inputs of gate:: that do not count
  WalkerMode mode = WalkerMode::falling;
  Ground ground;          ///< what it stands on, or last stood on
  Vec3 carried;           ///< m/s, what it kept of the ground's level velocity: the frame of air control
  Vec3 take_off;          ///< where it last left the ground
  double air_time = 0;    ///< s since then
  double under = 0;       ///< share of its height that is under water
  bool apex_due = false;  ///< it has risen, and not come to the top yet
  Vec3 knock;             ///< m/s that a forced body still has to be given
  double leg_rise = 0;    ///< m/s upwards off the ground that its legs gave it in the last tick
  Vec3 told;              ///< N with which a forced one has said that it will press on the legs below it
  double passing = 0;     ///< s left in which one-way surfaces let it through
  JumpState jump;
  BurstState dash, launch;
  StaggerState stagger;
  WallState wall;
  LedgeState ledge;
  Footing footing;
  Pushed pushed;  ///< last
  Ride ride;
  HitBy hit;             ///< that the next tick feels
  bool was_hit = false;  ///< is there one?

  static constexpr auto fields() {
    return field_list(
        Field{"position", &WalkerState::position}, Field{"velocity", &WalkerState::velocity},
        Field{"facing", &WalkerState::facing}, Field{"up", &WalkerState::up}, Field{"placed", &WalkerState::placed},
        Field{"settled", &WalkerState::settled}, Field{"on_ground", &WalkerState::on_ground},
        Field{"held_back", &WalkerState::held_back}, Field{"wedged", &WalkerState::wedged},
        Field{"crouched", &WalkerState::crouched}, Field{"cramped", &WalkerState::cramped},
        Field{"closed", &WalkerState::closed}, Field{"mode", &WalkerState::mode}, Field{"ground", &WalkerState::ground},
        Field{"carried", &WalkerState::carried}, Field{"take_off", &WalkerState::take_off},
        Field{"air_time", &WalkerState::air_time}, Field{"under", &WalkerState::under},
        Field{"apex_due", &WalkerState::apex_due}, Field{"knock", &WalkerState::knock},
        Field{"leg_rise", &WalkerState::leg_rise}, Field{"told", &WalkerState::told},
        Field{"passing", &WalkerState::passing}, Field{"jump", &WalkerState::jump}, Field{"dash", &WalkerState::dash},
        Field{"launch", &WalkerState::launch}, Field{"stagger", &WalkerState::stagger},
        Field{"wall", &WalkerState::wall}, Field{"ledge", &WalkerState::ledge}, Field{"footing", &WalkerState::footing},
        Field{"pushed", &WalkerState::pushed}, Field{"ride", &WalkerState::ride}, Field{"hit", &WalkerState::hit},
        Field{"was_hit", &WalkerState::was_hit});
  }
};
static_assert(all_fields_listed<WalkerState>);

/// The brain: state, what may be asked of it and what is done to it. Walker and ForcedWalker are its two bodies.
class WalkerBrain {
 public:
  /// A hit that throws it back, in the next tick. False where it does not count: too soon after the last.
  bool hit(const HitBy& hit);
  /// Closes or opens inputs; bits of gate::.
  void close(std::uint8_t inputs) { state_.closed |= inputs; }
  void open(std::uint8_t inputs) { state_.closed &= static_cast<std::uint8_t>(~inputs); }

  /// Whether a press in the next tick would jump, from where, and if not why. Ground that is near, but not
  /// touched yet, is not looked for.
  JumpAnswer can_jump() const;
  NoMove can_dash() const;
  NoMove can_launch() const;

  const WalkerState& state() const { return state_; }
  void restore(const WalkerState& state) { state_ = state; }
  /// Puts it elsewhere, as if it were new there; inputs that are closed stay closed. Of a forced walker its body must
  /// be put there, too. Throws InputError for a place or velocity that is not finite, and for a facing that is no
  /// direction.
  void place(const Vec3& feet, const Vec3& facing, const Vec3& velocity);
  const WalkerEvents& events() const { return events_; }  ///< of the last tick, in order
  const WalkerTuning& tuning() const { return tuning_; }
  /// Its body in the world. A forced walker's moves it; a swept one's only shows it to others, once it is on a stage
  /// (without one nobody sees it).
  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  Filter filter;                ///< bodies that it touches and stands on; its own and its tuning's `meeting` are minded
  std::uint32_t stompable = 0;  ///< layers of bodies that it bounces off when it falls on to them
  std::uint32_t dangers = 0;    ///< layers of bodies whose touch is a hit, unless it stomps them

 protected:
  /// Throws InputError as check(tuning) does, or for a place or facing that is not finite.
  WalkerBrain(const WalkerTuning& tuning, const Vec3& feet, const Vec3& facing);
  struct Tick;  // one tick's work: detail/brain_tick.hpp

  WalkerTuning tuning_;
  WalkerState state_;
  BodyId body_;
  WalkerEvents events_;
};

}  // namespace jugend
