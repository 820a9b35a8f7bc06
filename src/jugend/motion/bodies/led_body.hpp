// The led_body: a creature, boat or cart that is led by a heading and a speed.
//
// It turns a dynamic body towards the heading and takes it to the speed at stated rates, adds to velocities and
// never sets them: what an impact takes is gone, and has to be run up again. Speeds count against the ground under it,
// or what that was when it left it.
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct LedBodyTuning {
  double top_speed = 4;          ///< m/s with a full intent
  double speed_up = 3;           ///< m/s², while it is slower than wanted
  double slow_down = 5;          ///< m/s², while it is faster
  double turn_gain = 5;          ///< 1/s: the turn rate wanted for each radian still to turn
  double turn_limit = 2.5;       ///< rad/s
  double turn_acceleration = 9;  ///< rad/s²
  double carry = 0.8;            ///< share of the momentum that is carried round a turn: 1 keeps all speed, 0 slides on
  double slip_half_life = 0.25;  ///< s: half of the speed across the body is gone
  double upright = 3;            ///< Hz: how fast it comes upright, critically damped; 0: physics alone
  bool follow_ground = false;    ///< upright means along the ground below; else against gravity
  double reach = 1.5;            ///< m below its middle within which ground counts
  double air_control = 0;        ///< share of its turning and speeding up that it has while it falls
  double length_scale = 1;       ///< units of the world in a metre
};
const Tunables& led_body_tunables();
template <>
struct TunablesOf<LedBodyTuning> {
  static const Tunables& list() { return led_body_tunables(); }
};
/// Throws InputError for numbers out of range.
void check(const LedBodyTuning& tuning);

struct LedBodyIntent {
  Vec3 heading;      ///< direction in the world, its level part counts; nothing: the one it has
  double speed = 0;  ///< m/s wanted along the body; negative: backwards

  static constexpr auto fields() {
    return field_list(Field{"heading", &LedBodyIntent::heading}, Field{"speed", &LedBodyIntent::speed});
  }
};
static_assert(all_fields_listed<LedBodyIntent>);

struct LedBodyState {
  double turn_rate = 0;  ///< rad/s about up, left positive
  double speed = 0;      ///< m/s along the body over the ground, as this tick found it
  double slip = 0;       ///< m/s across it, to its right
  double impact = 0;     ///< m/s along the body that something else took since the last tick
  double expected = 0;   ///< m/s, the speed that the last tick aimed at
  Vec3 ground;           ///< m/s of the ground under it, or what it was when it left it
  Vec3 planned;          ///< m/s, the velocity that the last tick meant it to have if nothing bore it
  double rub = 0;        ///< m/s² that friction is found to take from its speeding up
  double firm = 0;       ///< m/s² that the ground under it holds by its grip; 0: none bears it
  double friction = 0;   ///< m/s² that friction can take of it, at the most
  double falling = 0;    ///< s since something bore it
  double lasted = 0;     ///< s of the last tick
  double stands = 0;     ///< m from its middle down to the ground, when something last bore it
  bool moved = false;    ///< has it had a tick?

  static constexpr auto fields() {
    return field_list(Field{"turn_rate", &LedBodyState::turn_rate}, Field{"speed", &LedBodyState::speed},
                      Field{"slip", &LedBodyState::slip}, Field{"impact", &LedBodyState::impact},
                      Field{"expected", &LedBodyState::expected}, Field{"ground", &LedBodyState::ground},
                      Field{"planned", &LedBodyState::planned}, Field{"rub", &LedBodyState::rub},
                      Field{"firm", &LedBodyState::firm}, Field{"friction", &LedBodyState::friction},
                      Field{"falling", &LedBodyState::falling}, Field{"lasted", &LedBodyState::lasted},
                      Field{"stands", &LedBodyState::stands}, Field{"moved", &LedBodyState::moved});
  }
};
static_assert(all_fields_listed<LedBodyState>);

/// Drives a dynamic body whose own forward is x and whose up is y.
class LedBody {
 public:
  /// Throws InputError as check() does.
  LedBody(const LedBodyTuning& tuning, BodyId body);
  void step(const LedBodyIntent& intent, Surroundings& surroundings, double dt);

  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  const LedBodyState& state() const { return state_; }
  void restore(const LedBodyState& state) { state_ = state; }
  /// Other numbers from the next tick on; its state stays. Throws InputError as check() does: then nothing has changed.
  void set_tuning(const LedBodyTuning& tuning, const Surroundings&) { check(tuning), tuning_ = tuning; }
  const LedBodyTuning& tuning() const { return tuning_; }
  Filter filter{.layers = ~walker_layer::swept};  ///< bodies that it senses

 private:
  struct Footing {
    Vec3 normal;
    double grip = 1;                                   // of the surface
    double friction = 0;                               // between the two
    Vec3 spin, turning;                                // rad/s; m/s² of what goes round with it
    double air_from = infinity, air_until = infinity;  // s into the tick between which it has its control of the air
  };
  Footing feel_ground(const BodyFacts& body, const Vec3& gravity, Surroundings& surroundings, double dt);
  /// How it goes over the ground and turns about up.
  struct Course {
    Vec3 ahead;     // unit
    Vec3 velocity;  // m/s
    double rate;    // rad/s
    Vec3 way;       // m gone so far
    double turned;  // rad
  };
  Course led(const Course& from, const LedBodyIntent& intent, const Vec3& up, double carried_round,
             const Footing& footing, double dt) const;
  LedBodyTuning tuning_;
  LedBodyState state_;
  BodyId body_;
};

}  // namespace jugend
