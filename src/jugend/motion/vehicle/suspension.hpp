// One wheel's spring, damper and stops: tuned as outcomes or as numbers, and the force that follows.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace jugend {

/// What states a spring, and a damper.
enum class SpringBy : std::uint8_t { ride_frequency, sag, stiffness };
enum class DampingBy : std::uint8_t { ratio, coefficient };

struct SuspensionTuning {
  double rest_length = 0.35;                      ///< m from the mount down to the hub while the spring carries nothing
  double bump = 0.22;                             ///< m that the hub can rise from there; at most rest_length
  double droop = 0.05;                            ///< m that it can fall below
  SpringBy spring_by = SpringBy::ride_frequency;  ///< which of these three says how stiff it is
  double ride_frequency = 1.7;                    ///< Hz of the weight that rests on the wheel, on its spring
  double sag = 0.09;                              ///< m that the spring gives under the weight at rest
  double stiffness = 12000;                       ///< N/m
  double progression = 0;                         ///< by what share it has become stiffer at full bump
  DampingBy damping_by = DampingBy::ratio;        ///< shares of the critical damping, or coefficients
  double bump_ratio = 0.35;                       ///< damping while it is pressed together, as a share of the critical
  double rebound_ratio = 0.45;                    ///< and while it comes out again
  double bump_damping = 800;                      ///< N s/m while it is pressed together
  double rebound_damping = 1000;                  ///< N s/m while it comes out again
  double stop_share = 0.25;                       ///< the last share of bump, in which the stop works
  double stop_stiffness = 6;                      ///< of the stop at its end, as a multiple of the spring's
  double droop_pull = 0;                          ///< share of the spring that pulls where it is longer than at rest
};

/// A strut in numbers. Compression is 0 with the hub at rest_length, positive when pressed together.
struct Strut {
  double stiffness = 0, growth = 0;  ///< N/m at rest; 1/m by which it grows
  double bump_damping = 0, rebound_damping = 0;
  double bump = 0, droop = 0;
  double stop_from = 0, stop_stiffness = 0;
  double pull = 0;
  double sag = 0;  ///< m under the load that it was made for
  double give = 0,
         give_stiffness = 0;  ///< m by which the tyre gives way beyond full bump, before metal meets metal; N/m
  double most_damping = 0;    ///< N: a damper blows off beyond

  struct Force {
    double force, stiffness, damping;  ///< N, and its slopes over compression (N/m) and its rate (N s/m)
  };
  /// At a compression (m) that grows at `rate` (m/s). Beyond full bump the tyre gives way, then metal meets metal,
  /// which is no spring. It pushes, and pulls only by its droop pull.
  Force at(double compression, double rate) const {
    if (compression < -droop) return {0, 0, 0};
    const double beyond = std::clamp(compression - bump, 0.0, give);
    if (compression > bump) compression = bump;
    Force f{};
    const double share = compression < 0 ? pull : 1;
    f.force = share * stiffness * compression;
    f.stiffness = share * stiffness;
    if (compression > 0) {
      f.force *= 1 + 0.5 * growth * compression;
      f.stiffness *= 1 + growth * compression;
    }
    f.damping = rate > 0 ? bump_damping : rebound_damping;
    if (const double in = compression - stop_from; in > 0) {
      const double depth = bump - stop_from;
      f.force += 0.5 * stop_stiffness * in * in / depth;
      f.stiffness += stop_stiffness * in / depth;
    }
    if (beyond > 0) f.force += give_stiffness * beyond, f.stiffness += give_stiffness;
    const double wanted = f.damping * rate, damper = std::clamp(wanted, -most_damping, most_damping);
    f.force += damper;
    if (damper != wanted) f.damping = 0;
    if (f.force < 0 && pull == 0) return {0, 0, 0};
    return f;
  }
};

/// The strut for a wheel that carries `load` (N) at rest under gravity of `strength` m/s². f = √(k/m)/2π and
/// ζ = c / 2√(k m) for the mass m = load/g and the stiffness k where it rests. Its tyre of radius `radius` m gives way
/// by two fifths of that under twelve times the load, and as much is the most that its damper holds: what a wheel meets
/// at a kerb stays a blow that a suspension survives.
Strut strut_of(const SuspensionTuning& tuning, double load, double strength, double radius);

/// m that the spring gives under `load`.
double sag_under(const Strut& strut, double load);

}  // namespace jugend
