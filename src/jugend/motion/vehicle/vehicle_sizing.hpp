// Closed forms for what has springs, gears or rotors: from a few numbers to those that a tuning needs.
#pragma once

#include <jugend/base/units.hpp>
#include <span>

namespace jugend {

/// A weight on a spring. All throw InputError, naming the argument, for numbers that are not finite or not above 0.
struct SpringSize {
  double stiffness = 0;    ///< N/m, (2π f)² m
  double sag = 0;          ///< m under the weight, g / (2π f)²
  double critical = 0;     ///< N s/m, 2 √(k m)
  double damping = 0;      ///< N s/m at the ratio asked
  double overshoot = 0;    ///< e^(-πζ/√(1-ζ²)); 0 from critical on
  double settle_time = 0;  ///< s until 2 % are left: of e^(-ζωt), or of the slower of two rates
};
SpringSize size_spring(double mass, double frequency, double ratio, double gravity = standard_gravity);
/// Hz of a weight that a spring gives `sag` m under: √(g / sag) / 2π.
double frequency_of_sag(double sag, double gravity = standard_gravity);

/// A body on four springs in a curve.
struct RollSize {
  double degrees_per_g = 0;  ///< of roll for 1 g sideways: m g h / (k t² + 2 b t² - m g h), as an angle
  double tips_at = 0;        ///< m/s² sideways, g t / 2h: the inner wheels lift
};
/// kg, m of the centre of mass above ground, m of track, N/m of one wheel's spring, N/m of each axle's bar.
RollSize size_roll(double mass, double height, double track, double stiffness, double bar,
                   double gravity = standard_gravity);

/// What ends a curve of a given radius on level ground first: grip, or the outer wheels.
struct TipSize {
  double tips_at = 0;    ///< m/s, √(g t R / 2h): beyond, the inner wheels lift
  double slides_at = 0;  ///< m/s, √(µ g R)
  double kept_at = 0;    ///< m/s up to which `aids.keep_down` steers that curve: half of what tips it
  double grip = 0;       ///< t / 2h: with more it tips before it slides
};
/// m of the centre of mass above ground, m of track, m of the curve, coefficient of friction.
TipSize size_tip(double height, double track, double radius, double grip, double gravity = standard_gravity);

/// A point of a tyre's measured curve.
struct TyrePoint {
  double angle = 0;  ///< rad of slip
  double force = 0;  ///< N
};
/// The brush model through measured points, and what it says.
struct TyreSize {
  double grip = 0;       ///< tyre.grip
  double stiffness = 0;  ///< tyre.side_stiffness, 1/rad as a multiple of the load
  double slides_at = 0;  ///< rad from which all of the tread slides: tan α = 3 µ / C (Pacejka, ch. 3)
  double missed = 0;     ///< share of the highest force by which the points are off, root mean square
};
/// Least squares under `load` N; along the wheel likewise, with slip for tan α. Throws InputError for fewer than two
/// points, or such that no tyre's force grows with.
TyreSize size_tyre(double load, std::span<const TyrePoint> points);

/// m/s at `revs` (1/min) through a gear and the final drive.
double gear_speed(double revs, double gear, double final_drive, double radius);

/// A multirotor that hovers.
struct HoverSize {
  double thrust = 0;             ///< N of each rotor
  double speed_share = 0;        ///< of the most rotor speed, (m g / ΣT)^(1/curve)
  double tilt_limit = 0;         ///< rad at which height can still be held: cos θ = m g / ΣT
  double side_acceleration = 0;  ///< m/s² there, g tan θ
};
/// kg, number of rotors, N of each at the most. Throws also where they cannot lift it.
HoverSize size_hover(double mass, double rotors, double most_thrust, double curve, double gravity = standard_gravity);

}  // namespace jugend
