// The multirotor: a dynamic body that rotors hold up, led by rates, attitude, velocity or a place.
//
// It works out the accelerations that its mode asks for, the thrusts that give them, and what rotors that take time
// to spin up really give; that, with drag and wind, is what it hands to the body.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/bodies/rotors.hpp>
#include <jugend/motion/bodies/wind.hpp>
#include <jugend/motion/port/makings.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <vector>

namespace jugend {

/// What the sticks mean.
enum class RotorMode : std::uint8_t { rates, attitude, velocity, position };
template <>
struct NamesOf<RotorMode> {
  static constexpr std::array<std::string_view, 4> names{"rates", "attitude", "velocity", "position"};
};

struct MultirotorTuning {
  RotorMode mode = RotorMode::attitude;
  bool hold_height = true;  ///< an aid, height is held while it banks; else the pilot's own throttle
  // The rotors: a ring of them, turning left and right by turns. Three all turn one way, and lean against it.
  int rotors = 4;
  double arm = 0.3;            ///< m from the middle to each
  double lift_ratio = 2.2;     ///< what all of them lift at the most, as a multiple of the weight
  double torque_share = 0.02;  ///< m, see RotorTuning
  double rotor_radius = 0.13;  ///< m
  double curve = 2;   ///< thrust over rotor speed: a share s of the most speed gives s^curve of the most thrust
  double lag = 0.06;  ///< s in which a rotor comes 63 % nearer to the speed it is told
  // How it answers.
  double tilt_limit = 35 * radians_per_degree;   ///< rad, with a full stick
  double rate_limit = 200 * radians_per_degree;  ///< rad/s about roll and pitch, in rates mode
  double yaw_limit = 115 * radians_per_degree;   ///< rad/s
  double rate_half_life = 0.04;                  ///< s in which half of an error of a rate is gone
  double attitude_frequency = 2.2;               ///< Hz, critically damped
  double speed_limit = 8;                        ///< m/s along the level, with a full stick in velocity mode
  double speed_half_life = 0.35;                 ///< s
  double climb_limit = 3;                        ///< m/s
  double climb_half_life = 0.12;                 ///< s
  double place_frequency = 0.45;                 ///< Hz, with which it comes to a place
  double height_frequency = 2.5;                 ///< Hz, with which it comes back to its height
  double load_half_life = 0.25;  ///< s: half of a load or wind that it did not foresee is known after this; 0: never
  double drag = 0.02;            ///< N/(m/s)²
  double ground_effect = 1;      ///< share of the lift that the ground adds
  WindTuning wind;
  double length_scale = 1;  ///< units of the world in a metre
};
const Tunables& multirotor_tunables();
template <>
struct TunablesOf<MultirotorTuning> {
  static const Tunables& list() { return multirotor_tunables(); }
};
/// Throws InputError for numbers out of range.
void check(const MultirotorTuning& tuning);
/// The ring of rotors that a tuning describes, for a body of `weight` N.
std::vector<RotorTuning> rotors_of(const MultirotorTuning& tuning, double weight);

struct MultirotorIntent {
  double ahead = 0, right = 0;  ///< -1 to 1: rates, tilt or speed
  double climb = 0;             ///< -1 to 1: speed upwards; without hold_height thrust, 0 being the weight
  double yaw = 0;               ///< -1 left to 1 right
  Vec3 place;                   ///< in position mode; its y is the height

  static constexpr auto fields() {
    return field_list(Field{"ahead", &MultirotorIntent::ahead}, Field{"right", &MultirotorIntent::right},
                      Field{"climb", &MultirotorIntent::climb}, Field{"yaw", &MultirotorIntent::yaw},
                      Field{"place", &MultirotorIntent::place});
  }
};
static_assert(all_fields_listed<MultirotorIntent>);

struct MultirotorState {
  std::array<double, most_rotors> speed{};   ///< of each rotor, as a share of the most
  std::array<double, most_rotors> thrust{};  ///< N, mean of the last tick
  std::uint32_t failed = 0;                  ///< bit i: rotor i stands still
  double time = 0;                           ///< s
  double height = 0;                         ///< m that is held
  Vec3 unforeseen;                           ///< m/s² that something else gives it: a load, wind
  Vec3 expected;                             ///< m/s, what the last tick aimed at
  Vec3 spin;                                 ///< rad/s, before the last tick
  Vec3 turning;                              ///< rad/s, by which its rotors were to change that
  Vec3 turned_by_others;                     ///< rad/s² that something else turns it with: a wall, a load beside it
  double pinned = 0;                         ///< s in which something has kept it from leaning back
  double let_go = 0;                         ///< s left in which its rotors stand still, so that it comes free
  double tilt = 0;                           ///< rad between its up and against gravity
  bool moved = false, holds_height = false;

  static constexpr auto fields() {
    return field_list(Field{"speed", &MultirotorState::speed}, Field{"thrust", &MultirotorState::thrust},
                      Field{"failed", &MultirotorState::failed}, Field{"time", &MultirotorState::time},
                      Field{"height", &MultirotorState::height}, Field{"unforeseen", &MultirotorState::unforeseen},
                      Field{"expected", &MultirotorState::expected}, Field{"spin", &MultirotorState::spin},
                      Field{"turning", &MultirotorState::turning},
                      Field{"turned_by_others", &MultirotorState::turned_by_others},
                      Field{"pinned", &MultirotorState::pinned}, Field{"let_go", &MultirotorState::let_go},
                      Field{"tilt", &MultirotorState::tilt}, Field{"moved", &MultirotorState::moved},
                      Field{"holds_height", &MultirotorState::holds_height});
  }
};
static_assert(all_fields_listed<MultirotorState>);

class Multirotor {
 public:
  /// Throws InputError as check() and RotorMix do, and for a body that is not dynamic.
  Multirotor(const MultirotorTuning& tuning, BodyId body, const Surroundings& surroundings);
  /// With rotors of their own.
  Multirotor(const MultirotorTuning& tuning, std::span<const RotorTuning> rotors, BodyId body,
             const Surroundings& surroundings);

  void step(const MultirotorIntent& intent, Surroundings& surroundings, double dt);
  /// A rotor stands still from now on, or turns again. Throws InputError for one that there is not.
  void fail(int rotor, bool stands = true);

  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  const MultirotorState& state() const { return state_; }
  void restore(const MultirotorState& state) { state_ = state; }
  /// As if it were new where its body is now, its rotors turning as they hover; what has failed stays so.
  void start_anew();
  /// Other numbers from the next tick on. Its state stays; with another number of rotors they start anew. The tuning's
  /// rotors take the place of rotors of their own. Throws InputError as the constructor does: then nothing has changed.
  void set_tuning(const MultirotorTuning& tuning, const Surroundings& surroundings);
  const Makings& makings() const { return makings_; }
  void remake(
      const Surroundings& surroundings);  ///< anew, as set_tuning() does, with the tuning and rotors that it has
  const MultirotorTuning& tuning() const { return tuning_; }
  int rotors() const { return mix_.count(); }
  const RotorTuning& rotor(int i) const { return rotors_[static_cast<std::size_t>(i)]; }
  /// Share of the most rotor speed at which it hovers.
  double hover_speed() const { return hover_speed_; }
  Filter filter{.layers = ~walker_layer::swept};  ///< bodies that it senses

 private:
  struct Tick;
  using Thrusts = std::array<double, most_rotors>;
  struct Wrench {
    Vec3 push, turn;  // N and N m
  };
  void learn_load(const Vec3& velocity, const Vec3& spin, double dt);
  void feel_pinned(const Vec3& spin, bool leans_back, double dt);
  Wrench standing() const;
  Wrench turn_rotors(Tick& tick, const BodyFacts& now, double left);
  double power(double speed) const;
  void add_thrust(std::size_t rotor, double thrust, Wrench& sum) const;
  double aim(const Thrusts& wanted, double left, Thrusts& goal) const;
  Wrench thrust(const Thrusts& goal, double more, double left, Thrusts& to);
  double ground_effect(const Tick& tick, const Surroundings& surroundings) const;
  void succeed(const Multirotor& former);
  MultirotorTuning tuning_;
  Makings makings_;
  std::vector<RotorTuning> rotors_;
  std::vector<Wrench> of_a_newton_;  // what each gives for each N of thrust
  RotorMix mix_;
  Wind wind_;
  std::array<double, most_rotors> hover_speeds_{};
  double hover_speed_ = 0, gentle_ = 0, gentle_yaw_ = 0;
  MultirotorState state_;
  BodyId body_;
};

}  // namespace jugend
