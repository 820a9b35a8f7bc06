// A vehicle on ray suspension: a dynamic body, wheels that feel the ground, springs, tyres, drive, brakes, steering.
//
//   Vehicle cart(VehicleTuning{}, body, world);
//   cart.step({.throttle = 1, .steer = 0.2}, world, dt);
//   world.step(dt);
//
// In each tick the motion that springs and tyres give is worked out from the poses of that tick, without steps that
// stiff springs could overshoot in, and handed over as impulse and force; what contacts do to the body stays in.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <jugend/base/elementary.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/base/inline_list.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/motion/port/makings.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <jugend/motion/vehicle/drivetrain.hpp>
#include <jugend/motion/vehicle/steering.hpp>
#include <jugend/motion/vehicle/suspension.hpp>
#include <jugend/motion/vehicle/tyre.hpp>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace jugend {

struct WheelTable;

inline constexpr int most_axles = 9, most_wheels = 2 * most_axles;

/// A wheel and what holds it. Lengths along the body's own up.
struct WheelTuning {
  Vec3 mount;                      ///< m in the body's frame, from its centre of mass: upper end of the strut
  double radius = 0.3;             ///< m
  double width = 0.16;             ///< m
  double spin_inertia = 0.7;       ///< kg m² about its axle
  double unsprung_mass = 0;        ///< kg that goes up and down with the wheel; 0: the wheel follows the ground at once
  double tyre_stiffness = 190000;  ///< N/m of the tyre, where there is unsprung mass
  SuspensionTuning suspension;
  TyreTuning tyre;
  double steer = 0;       ///< share of the steering angle; negative: the other way
  double drive = 0;       ///< share of the drive, against the other wheels'
  double brake = 1;       ///< share of the foot brake
  double hand_brake = 0;  ///< share of the hand brake
  int axle = 0;           ///< wheels of one axle share a differential and an anti-roll bar
  double anti_roll = 0;   ///< N/m by which its axle's wheels are held level with one another
};

/// Two wheels, or one in the middle, as tuning files name them.
struct AxleTuning {
  double ahead = 0;         ///< m from the centre of mass
  double track = 1.2;       ///< m between the wheels' middles; 0: one wheel
  double mount_height = 0;  ///< m above the centre of mass
  WheelTuning wheel;
};

struct AirTuning {
  double drag = 0.4;             ///< N/(m/s)²: ½ ρ c A
  double downforce = 0;          ///< N/(m/s)²
  double downforce_front = 0.5;  ///< share of it on the first axle, the rest on the last
};

/// Help that no car has; all off: a simulation.
struct VehicleAids {
  bool hold = true;          ///< brakes by itself below walking speed, while nothing is asked for
  bool keep_down = true;     ///< steers no further, and tyres hold sideways no more, than leaves its wheels on level
                             ///< ground; two-wheelers lean instead
  double counter_steer = 0;  ///< share of the angle by which it slides that its wheels are turned into the slide
  double drift_hold = 0;     ///< rad between heading and way that it holds in a slide at full steering, while throttle
                             ///< or hand brake is asked for; 0: grip alone decides
  double lower_centre = 0;   ///< m that forces act as if the centre of mass were lower, on the ground
  double lower_in_air = 0;   ///< and in the air
  double air_level = 0;      ///< Hz with which it comes level in the air, critically damped
  double air_turn = 0;       ///< rad/s² that steering and throttle turn it by in the air
  double self_right = 0;     ///< s lying still on side or roof until it is turned over; 0: never
  double lean = 0;           ///< Hz with which a two-wheeler leans into what keeps it up; 0: it falls
};

/// How wheels feel the ground. All roll over it as circles do: by the profile that rays find under the middle of the
/// tread, or under its edges too; as swept balls; or as swept discs, with their width.
enum class GroundSense : std::uint8_t { ray, rays, ball, disc };
template <>
struct NamesOf<GroundSense> {
  static constexpr std::array<std::string_view, 4> names{"ray", "rays", "ball", "disc"};
};

struct VehicleTuning {
  VehicleTuning();
  std::vector<AxleTuning> axles;  ///< from front to back, 1 to most_axles
  SteeringTuning steering;
  DriveTuning drive;
  BrakeTuning brakes;
  AirTuning air;
  VehicleAids aids;
  GroundSense ground_probe = GroundSense::ray;
  bool look_ahead = true;   ///< feels what it comes to in a tick, and before and behind; else what is under its hub
  double force_height = 0;  ///< where forces enter: 0 at the contact, 1 at the hub
  double along_strut = 0;   ///< direction of the spring's force: 0 the ground's normal, 1 the strut
  double length_scale = 1;  ///< units of the world in a metre
};
const Tunables& vehicle_tunables();
template <>
struct TunablesOf<VehicleTuning> {
  static const Tunables& list() { return vehicle_tunables(); }
};
/// Throws InputError for numbers out of range or that do not fit together.
void check(const VehicleTuning& tuning);
/// All wheels of the axles, left before right.
std::vector<WheelTuning> wheels_of(const VehicleTuning& tuning);

struct VehicleIntent {
  double throttle = 0;  ///< -1 to 1; against the way it rolls it brakes first, then drives
  double brake = 0;     ///< 0 to 1
  double hand_brake = 0;
  double steer = 0;  ///< -1 left to 1 right
  double lean = 0;   ///< of a two-wheeler, -1 to 1; also nose down to up in the air
  int shift = 0;     ///< +1, -1: a press of the lever in this tick

  static constexpr auto fields() {
    return field_list(Field{"throttle", &VehicleIntent::throttle}, Field{"brake", &VehicleIntent::brake},
                      Field{"hand_brake", &VehicleIntent::hand_brake}, Field{"steer", &VehicleIntent::steer},
                      Field{"lean", &VehicleIntent::lean}, Field{"shift", &VehicleIntent::shift});
  }
};
static_assert(all_fields_listed<VehicleIntent>);

struct WheelState {
  double spin = 0;                             ///< rad/s, forwards positive
  double angle = 0;                            ///< rad that it has turned by, within one turn
  double steer = 0;                            ///< rad, left positive
  double stretch_along = 0, stretch_side = 0;  ///< m, see tyre.hpp
  double compression = 0;                      ///< m of the strut, see Strut
  double hub = 0, hub_speed = 0;  ///< m, m/s: compression of the strut where the wheel has a mass of its own
  double load = 0;                ///< N on the ground, mean of the last tick
  double along = 0, side = 0;     ///< N of the tyre on the body, forwards and to the right
  double rolls = 0, slides = 0;   ///< m/s of its axle against the ground, ahead and to the right
  double rim = 0;                 ///< m/s of its rim
  bool on_ground = false;         ///< is there ground within its reach?
  bool pressed = false;           ///< does it press on it, at the tick's end?
  bool locked = false;            ///< held by its brake
  Vec3 contact, normal{0, 1, 0};
  BodyId ground;

  /// Along the wheel: (its rim's speed - its own) over the larger; 0 below 0.1 m/s.
  double slip() const {
    const double fast = std::max(std::abs(rolls), std::abs(rim));
    return on_ground && fast > 0.1 ? (rim - rolls) / fast : 0;
  }
  /// rad between where it heads and where it goes, to the right positive.
  double slip_angle() const {
    const bool goes = on_ground && std::max(std::abs(rolls), std::abs(rim)) > 0.1;
    return goes ? same_bits::atan2(slides, std::abs(rolls)) : 0;
  }

  static constexpr auto fields() {
    return field_list(Field{"spin", &WheelState::spin}, Field{"angle", &WheelState::angle},
                      Field{"steer", &WheelState::steer}, Field{"stretch_along", &WheelState::stretch_along},
                      Field{"stretch_side", &WheelState::stretch_side}, Field{"compression", &WheelState::compression},
                      Field{"hub", &WheelState::hub}, Field{"hub_speed", &WheelState::hub_speed},
                      Field{"load", &WheelState::load}, Field{"along", &WheelState::along},
                      Field{"side", &WheelState::side}, Field{"rolls", &WheelState::rolls},
                      Field{"slides", &WheelState::slides}, Field{"rim", &WheelState::rim},
                      Field{"on_ground", &WheelState::on_ground}, Field{"pressed", &WheelState::pressed},
                      Field{"locked", &WheelState::locked}, Field{"contact", &WheelState::contact},
                      Field{"normal", &WheelState::normal}, Field{"ground", &WheelState::ground});
  }
};
static_assert(all_fields_listed<WheelState>);

struct VehicleState {
  std::array<WheelState, most_wheels> wheels;
  EngineState engine;
  double steer = 0;          ///< rad in the middle, left positive
  double turn = 0;           ///< rad/s that tracks are told to turn it by, left positive
  double speed = 0;          ///< m/s along the body, against the ground under its wheels
  Vec3 ground;               ///< m/s of that ground, or what it was when they left it
  Pose expected;             ///< where the last tick meant to bring it
  double still_on_roof = 0;  ///< s
  bool moved = false;        ///< has it had a tick?

  static constexpr auto fields() {
    return field_list(Field{"wheels", &VehicleState::wheels}, Field{"engine", &VehicleState::engine},
                      Field{"steer", &VehicleState::steer}, Field{"turn", &VehicleState::turn},
                      Field{"speed", &VehicleState::speed}, Field{"ground", &VehicleState::ground},
                      Field{"expected", &VehicleState::expected}, Field{"still_on_roof", &VehicleState::still_on_roof},
                      Field{"moved", &VehicleState::moved});
  }
};
static_assert(all_fields_listed<VehicleState>);

enum class VehicleEventKind : std::uint8_t { wheel_left_ground, wheel_landed, shifted, righted };
struct VehicleEvent {
  VehicleEventKind kind;
  double time = 0;  ///< s within the tick
  int wheel = 0;
  double value = 0;  ///< landed: m/s towards the ground; shifted: the gear
};
using VehicleEvents = InlineList<VehicleEvent, 48>;

class Vehicle {
 public:
  /// Springs and brakes follow from the body's mass and where it rests on the wheels. Throws InputError as check()
  /// does, for a body that is not dynamic, and where its weight does not lie between the wheels.
  Vehicle(const VehicleTuning& tuning, BodyId body, const Surroundings& surroundings);
  /// With wheels of their own instead of the axles', left before right; on tracks all of a side have one radius, and
  /// the differential is open.
  Vehicle(const VehicleTuning& tuning, std::span<const WheelTuning> wheels, BodyId body,
          const Surroundings& surroundings, const std::optional<TrackDrive>& tracks = {});

  void step(const VehicleIntent& intent, Surroundings& surroundings, double dt);

  BodyId body() const { return body_; }
  /// Its body goes by another name from now on: the same one in a world that was read from bytes.
  void set_body(BodyId body) { body_ = body; }
  const VehicleState& state() const { return state_; }
  void restore(const VehicleState& state) { state_ = state; }
  /// As if it were new where its body is now: wheels roll as it goes, on springs that are at rest. Its gear stays.
  void start_anew();
  /// Other numbers from the next tick on. Its state stays; where it has another number of wheels, or other wheels have
  /// a mass, all wheels start anew, and a gear that there is no more is the highest that there is. Its axles' wheels
  /// take the place of wheels of their own. Throws InputError as the constructor does: then nothing has changed.
  void set_tuning(const VehicleTuning& tuning, const Surroundings& surroundings);
  const Makings& makings() const { return makings_; }
  void remake(
      const Surroundings& surroundings);  ///< anew, as set_tuning() does, with the tuning and wheels that it has
  const VehicleEvents& events() const { return events_; }
  const VehicleTuning& tuning() const { return tuning_; }
  int wheels() const { return static_cast<int>(wheels_.size()); }
  const WheelTuning& wheel(int i) const { return wheels_[static_cast<std::size_t>(i)]; }
  const Strut& strut(int i) const { return parts_[static_cast<std::size_t>(i)].strut; }
  double rest_load(int i) const { return parts_[static_cast<std::size_t>(i)].load; }  ///< N
  /// rad in the middle that full steering comes to at `speed` m/s, as its aids leave it.
  double most_steer(double speed) const;
  /// Coefficient of friction sideways on level ground beyond which it tips before it slides: g t / 2h over g, as it
  /// rests and as aids.lower_centre lets it act. Infinite where it has no two sides.
  double tipping_grip() const;
  /// rad/s that its tracks are told at full steering and `speed` m/s, as its aids leave it.
  double most_turn(double speed) const;
  /// N of all driven wheels together at full throttle and `speed` m/s, in `gear` (of a drive without gears any).
  double full_force(double speed, int gear) const;
  /// m/s at the redline in `gear` of its engine, 1 or more.
  double gear_speed(int gear) const;
  /// m from the ground up to the centre of mass when it stands still on level ground.
  double ride_height() const { return ride_height_; }
  /// A wheel's hub and turn in the world, for drawing: y is its axle's up, z its axle, to the right.
  Pose wheel_pose(int i, const Pose& body, const Vec3& centre) const;

  Filter filter{.layers = ~walker_layer::swept};  ///< bodies that it senses

 private:
  struct Tick;
  struct Part {  // what follows from a wheel's tuning and the body
    Strut strut;
    double load = 0;
  };
  friend class TrackedVehicle;
  /// In the place of `former`: its state, filter and events are taken over.
  void succeed(const Vehicle& former);
  void line_up();
  double shaft_per_speed() const;
  double drive_force(double throttle, double fastest, double speed) const;
  VehicleTuning tuning_;
  Makings makings_;
  std::vector<WheelTuning> wheels_;
  std::vector<Part> parts_;
  std::shared_ptr<WheelTable> table_;              // the same, as a tick reads it: four wheels side by side
  std::array<std::uint8_t, most_wheels> slots_{};  // where each wheel is there: 4 × team + lane
  GroundSense sense_{};
  bool has_gaps_ = false, has_bars_ = false, has_hubs_ = false, has_light_ = false;
  std::optional<Engine> engine_;
  std::optional<Curve> force_;
  std::optional<TrackDrive> tracks_;
  DriveLaw law_;
  SteerGeometry steer_;
  double ride_height_ = 0, rolling_ = 0, stiffest_ = 0;
  double rest_gravity_ = 0;  // m/s²
  double tips_at_ = 0;       // m/s² sideways at which the inner wheels leave the ground; 0: it has no two sides
  VehicleState state_;
  VehicleEvents events_;
  BodyId body_;
};

}  // namespace jugend
