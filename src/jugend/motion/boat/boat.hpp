// A boat: a floating body with a propeller, a rudder or an outboard, a keel, and drag that tells ahead from aside.
//
// The water bears the hull (the world's buoyancy); the boat adds what moves and holds it. Everything counts against the
// water, which may flow, and only as far as it is under. A hull's drag ahead follows from thrust and top speed; across,
// it is the cross-flow's, station by station along the hull, so that it holds against turning, too. Rudder and keel are
// foils of low aspect ratio: F = ½ ρ A f U² sin α across the blade, f = 6.13 Λ / (Λ + 2.25) (H. Yasukawa, Y. Yoshimura,
// J. Mar. Sci. Technol. 20, 2015, 37-52). In the propeller's race a rudder meets √(u² + 2 T / ρ A) (momentum theory).
#pragma once

#include <jugend/base/fields.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

/// What turns it: a rudder in the race of its propeller, or a propeller that turns itself.
enum class BoatSteering : std::uint8_t { rudder, outboard };
template <>
struct NamesOf<BoatSteering> {
  static constexpr std::array<std::string_view, 2> names{"rudder", "outboard"};
};

/// A blade in the water. Lengths in the body's frame, from its centre of mass.
struct FoilTuning {
  double ahead = 0, height = 0;  ///< m, of its middle; positive: to the bow, up
  double area = 0.1;             ///< m²; 0: there is none
  double aspect = 1.5;           ///< span² / area
};

struct BoatTuning {
  // The hull.
  double length = 5, beam = 2;   ///< m in the water
  double bottom = 0.45;          ///< m that its bottom lies below the centre of mass
  double draught = 0.35;         ///< m that is under water as it floats
  double side_drag = 1;          ///< coefficient of the cross-flow, of length times draught
  double rise_drag = 1;          ///< up and down, of length times beam
  double swing_half_life = 0.5;  ///< s in which half of a heave, roll or pitch is gone
  // What drives it.
  double top_speed = 8;       ///< m/s through the water at full throttle: thrust and drag are then the same
  double thrust = 4000;       ///< N at full throttle ahead
  double astern = 0.6;        ///< share of that backwards
  double throttle_lag = 0.4;  ///< s in which thrust comes 63 % nearer to what is asked
  double propeller_ahead = -2.3, propeller_height = -0.45;  ///< m of its middle
  double propeller_radius = 0.2;                            ///< m
  // What steers it.
  BoatSteering steering = BoatSteering::rudder;
  double rudder_angle = 35 * radians_per_degree;  ///< rad, the most
  double rudder_rate = 60 * radians_per_degree;   ///< rad/s
  FoilTuning rudder{-2.45, -0.45, 0.12, 1.5};
  FoilTuning keel{-0.2, -0.45, 0.8, 0.3};
  double length_scale = 1;  ///< units of the world in a metre
};
const Tunables& boat_tunables();
template <>
struct TunablesOf<BoatTuning> {
  static const Tunables& list() { return boat_tunables(); }
};
/// Throws InputError for numbers out of range.
void check(const BoatTuning& tuning);

struct BoatIntent {
  double throttle = 0;  ///< -1 astern to 1 ahead
  double steer = 0;     ///< -1 left to 1 right: where the bow goes while the race or the way ahead meets the rudder

  static constexpr auto fields() {
    return field_list(Field{"throttle", &BoatIntent::throttle}, Field{"steer", &BoatIntent::steer});
  }
};
static_assert(all_fields_listed<BoatIntent>);

struct BoatState {
  double thrust = 0;  ///< N that the engine gives, forwards positive; at the tick's end
  double rudder = 0;  ///< rad, the blade's hind edge to the left positive: it turns the bow left
  double speed = 0;   ///< m/s ahead through the water, as this tick found it
  double drift = 0;   ///< m/s to the right through the water
  double afloat = 0;  ///< share of its hull that is in the water; 1: as it floats at rest
  double screw = 0;   ///< share of the propeller that is in the water

  static constexpr auto fields() {
    return field_list(Field{"thrust", &BoatState::thrust}, Field{"rudder", &BoatState::rudder},
                      Field{"speed", &BoatState::speed}, Field{"drift", &BoatState::drift},
                      Field{"afloat", &BoatState::afloat}, Field{"screw", &BoatState::screw});
  }
};
static_assert(all_fields_listed<BoatState>);

/// Drives a floating body whose own forward is x and whose up is y. The world's own drag in water counts beside it:
/// take that off the body (World::set_water_drag, or `water_drag = 0` in a level), as add_boat() does.
class Boat {
 public:
  /// Throws InputError as check() does, and for a body that is not dynamic.
  Boat(const BoatTuning& tuning, BodyId body, const Surroundings& surroundings);
  void step(const BoatIntent& intent, Surroundings& surroundings, double dt);

  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  const BoatTuning& tuning() const { return tuning_; }
  const BoatState& state() const { return state_; }
  void restore(const BoatState& state) { state_ = state; }
  /// Other numbers from the next tick on; its state stays. Throws InputError as check() does: then nothing has changed.
  void set_tuning(const BoatTuning& tuning, const Surroundings&) { check(tuning), tuning_ = tuning; }

 private:
  struct Tick;
  BoatTuning tuning_;
  BoatState state_;
  BodyId body_;
};

/// kg/m: drag ahead for each (m/s)², in water of 1,000 kg/m³.
inline double drag_ahead(const BoatTuning& t) { return t.thrust / (t.top_speed * t.top_speed); }

}  // namespace jugend
