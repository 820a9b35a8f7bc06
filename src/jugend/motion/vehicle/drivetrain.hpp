// What turns the wheels: a force over speed stated as outcomes, or an engine with gears and differentials.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/curve.hpp>
#include <jugend/base/fields.hpp>
#include <jugend/base/tunable.hpp>
#include <string_view>
#include <vector>

namespace jugend {

/// What states a drive: outcomes, a force over speed, or an engine with gears.
enum class DriveBy : std::uint8_t { outcomes, force, engine };
template <>
struct NamesOf<DriveBy> {
  static constexpr std::array<std::string_view, 3> names{"outcomes", "force", "engine"};
};

/// What is between the wheels of a driven axle.
enum class Differential : std::uint8_t { open, locked, limited };
template <>
struct NamesOf<Differential> {
  static constexpr std::array<std::string_view, 3> names{"open", "locked", "limited"};
};

struct EngineTuning {
  std::vector<Curve::Point> torque{{900, 70}, {2200, 118}, {3600, 132}, {5200, 124}, {6400, 96}};  ///< N m over 1/min
  double idle = 900, redline = 6600;                                                               ///< 1/min
  double braking = 32;                             ///< N m against it at the redline, without throttle
  double inertia = 0.12;                           ///< kg m²
  double clutch_revs = 2300;                       ///< 1/min that the clutch slips at while the wheels are too slow
  std::vector<double> gears{3.6, 2.1, 1.4, 1.05};  ///< ratios by falling size
  double reverse = 3.4, final = 3.9;
  bool automatic = true;                      ///< shifts by itself; else by the intent's presses
  double shift_up = 5800, shift_down = 2400;  ///< 1/min
  double shift_time = 0.22;                   ///< s without torque
  int gear_count() const { return static_cast<int>(gears.size()); }
};

struct DriveTuning {
  DriveBy by = DriveBy::outcomes;
  double top_speed = 14, reverse_speed = 4;                          ///< m/s
  double speed_time = 4.5;                                           ///< s from standstill to nine tenths of top speed
  std::vector<Curve::Point> force{{0, 1800}, {6, 1500}, {13, 120}};  ///< N over m/s
  double coast = 0.4;                                                ///< m/s² that it slows down by without throttle
  Differential differential = Differential::open;
  double differential_limit = 120;  ///< N m that the limited one passes across
  bool traction_control = false;    ///< no more torque than 95 % of what the ground takes
  EngineTuning engine{};
};

/// Tracks on either side, on which all of its wheels turn as one. What is told them is by how much one runs faster.
struct TrackDrive {
  double turn_rate = 0.6;          ///< rad/s that tracks which do not slip turn it by, at full steering
  double turn_acceleration = 1.2;  ///< rad/s² by which that is told more or less
  double turn_force = 0;           ///< N by which one pulls ahead and the other back, at the most
  double gauge = 2;                ///< m between their middles
};

struct BrakeTuning {
  double deceleration = 8;  ///< m/s² of the whole body at full pedal, as far as the grip goes
  double hand = 5;          ///< m/s² of the hand brake
  bool antilock = false;    ///< no more than 95 % of what the ground takes
};

/// The simple drive's law: v = top tanh(a t / top) from standstill, so that top speed is reached without a kink and
/// nine tenths of it after speed_time.
struct DriveLaw {
  double mass = 0;   ///< kg, with what turns
  double start = 0;  ///< m/s² from standstill
  double top = 1, back = 1;
  /// N along the body at `speed`, beyond what air and rolling take; `throttle` -1 to 1, negative: backwards.
  double force(double speed, double throttle) const {
    const double most = throttle < 0 ? back : top, along = throttle < 0 ? -speed : speed;
    const double part = along > 0 ? along / most : 0.0;
    const double net = 1 - part * part;
    return throttle * mass * start * (net > -1 ? net : -1.0);
  }
};
/// The curve through a tuning's points. Throws InputError, naming `key`, where they are none or no function.
Curve curve_of(const std::vector<Curve::Point>& points, const char* key);
/// For a body of `mass` kg, wheels' inertia included.
DriveLaw drive_law(const DriveTuning& tuning, double mass);

/// An engine as it runs.
struct EngineState {
  double revs = 0;        ///< 1/min
  double shift_left = 0;  ///< s until the next gear holds
  std::int32_t gear = 1;  ///< -1: backwards, 0: neutral

  static constexpr auto fields() {
    return field_list(Field{"revs", &EngineState::revs}, Field{"shift_left", &EngineState::shift_left},
                      Field{"gear", &EngineState::gear});
  }
};
static_assert(all_fields_listed<EngineState>);

class Engine {
 public:
  /// Throws InputError for a torque that is no function of revs, gears that do not fall, revs out of order.
  explicit Engine(const EngineTuning& tuning);
  /// The gear for the coming tick; `shaft` rad/s of the driven wheels, `grounded`: do they touch? `wish` +1, -1: a
  /// press of the lever, 0 none; `backwards`: reverse is asked for.
  void shift(EngineState& state, double shaft, bool grounded, double throttle, int wish, bool backwards,
             double dt) const;
  /// N m at the driven wheels together; engine revs for `state` come out with it.
  struct Output {
    double torque, revs;
  };
  Output output(const EngineState& state, double shaft, double throttle) const;
  double ratio(int gear) const;
  /// kg m² at the wheels.
  double inertia_at_wheels(const EngineState& state) const;

 private:
  EngineTuning tuning_;
  Curve torque_;
};

}  // namespace jugend
