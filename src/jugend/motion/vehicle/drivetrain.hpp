// What turns the wheels: a force over speed stated as outcomes, or an engine with gears and differentials.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/curve.hpp>
#include <jugend/base/fields.hpp>

namespace jugend {

/// Up to six points of a curve, by rising x; those after the last with x above 0 are not used.
struct PointTable {
  static constexpr int most = 6;
  std::array<double, most> x{}, y{};
  int count() const;
  /// Throws InputError, naming `key`, where x does not rise: no function.
  Curve curve(const char* key) const;
};

struct EngineTuning {
  PointTable torque{{900, 2200, 3600, 5200, 6400}, {70, 118, 132, 124, 96}};  ///< N m over revs (1/min)
  double idle = 900, redline = 6600;                                          ///< 1/min
  double braking = 32;        ///< N m against it at the redline, without throttle
  double inertia = 0.12;      ///< kg m²
  double clutch_revs = 2300;  ///< 1/min that the clutch slips at while the wheels are too slow
  std::array<double, 6> gears{3.6, 2.1, 1.4, 1.05, 0, 0};  ///< ratios by falling size; 0: there is none
  double reverse = 3.4, final = 3.9;
  double automatic = 1;                       ///< 1: shifts by itself, 0: by the intent's presses
  double shift_up = 5800, shift_down = 2400;  ///< 1/min
  double shift_time = 0.22;                   ///< s without torque
  int gear_count() const;
};

struct DriveTuning {
  double engine_on = 0;                      ///< 1: the engine below; 0: by the outcomes that follow
  double top_speed = 14, reverse_speed = 4;  ///< m/s
  double speed_time = 4.5;                   ///< s from standstill to nine tenths of top speed
  PointTable force{};                        ///< N over m/s, instead of speed_time where it has points
  double coast = 0.4;                        ///< m/s² that it slows down by without throttle
  double differential = 0;                   ///< in each driven axle. 0: open, 1: locked, 2: limited slip
  double differential_limit = 120;           ///< N m that the limited one passes across
  double traction_control = 0;               ///< 1: never more torque than the ground takes
  EngineTuning engine{};
};

struct BrakeTuning {
  double deceleration = 8;  ///< m/s² of the whole body at full pedal, as far as the grip goes
  double hand = 5;          ///< m/s² of the hand brake
  double antilock = 0;      ///< 1: never more than the ground takes
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
/// For a body of `mass` kg, wheels' inertia included.
DriveLaw drive_law(const DriveTuning& tuning, double mass);

/// An engine as it runs.
struct EngineState {
  double revs = 0;        ///< 1/min
  double shift_left = 0;  ///< s until the next gear holds
  std::int32_t gear = 1;  ///< -1: backwards, 0: neutral

  static constexpr auto fields() {
    return std::tuple(Field{"revs", &EngineState::revs}, Field{"shift_left", &EngineState::shift_left},
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
