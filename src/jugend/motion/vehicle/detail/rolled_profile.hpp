// The ground along a wheel's way as a row of places, and where a wheel stands that rolls over it. Inner to the vehicle.
//
// A tyre rounds off what is smaller than itself: a wheel's hub goes where the middle of a circle goes that rolls over
// the profile (the rigid tread band of K. M. Captain, A. B. Boghani, D. N. Wormley, Analytical tire models for dynamic
// vehicle simulation, Vehicle System Dynamics 8, 1979, 1-32). Up a kerb of height h it turns about the kerb's edge,
// which it touches sqrt(h (2 R - h)) before it.
#pragma once

#include <algorithm>
#include <cmath>
#include <jugend/base/inline_list.hpp>
#include <jugend/motion/port/surroundings.hpp>
#include <optional>

namespace jugend {

/// A place of the ground, seen along the wheel's way.
struct ProfilePlace {
  double x = 0, z = 0;  // m ahead of the mount, and above it
  double slope = 0;     // of the ground there, along the way
  double sideways = 0;  // and across it
  BodyId ground;
  bool joined = false;  // does the ground go straight on to the next place? Else it ends, or has a step
};

/// Where a wheel stands: m from the mount down to its hub, and what it touches, from the mount.
struct Footing {
  double drop = 0;
  double touch_x = 0, touch_z = 0;
  double slope = 0, sideways = 0;  // of a plane that touches the wheel there
  BodyId ground;
};

class RolledProfile {
 public:
  static constexpr std::size_t most = 160;
  static constexpr double highest = 0.876;  // of its radius, that a wheel rolls up: higher its way rises by 8 in 1
  InlineList<ProfilePlace, most> places;    // in the order of x

  /// Of a wheel with this radius, `reach` m long where it lies across the way, whose mount has come `along` m and whose
  /// hub would hang at `hanging` m. Steeper than 1 in 1 it is on an edge; one that is as high as its hub would be
  /// without it stands beside the wheel, not under it.
  std::optional<Footing> stands(double along, double radius, double reach, double hanging) const {
    std::optional<Footing> best;
    const double flatter = radius / reach, gentle = 0.7071 * radius;
    const auto touch = [&](double hub, double x, double z, double slope, const ProfilePlace& at) {
      if (hub < 0.6 * radius && (!best || -hub < best->drop))
        best = Footing{-hub, along + x / flatter, z, slope * flatter, at.sideways, at.ground};
    };
    bool edges = false;
    for (std::size_t i = 0; i < places.size(); ++i) {
      const ProfilePlace& p = places[i];
      const double x = (p.x - along) * flatter;
      if (std::abs(x) <= gentle) {
        const double above = std::sqrt(radius * radius - x * x);
        touch(p.z + above, x, p.z, x / above, p);
      } else if (std::abs(x) < 0.99 * radius) {
        edges = true;
      }
      if (!p.joined || i + 1 >= places.size()) continue;
      const ProfilePlace& next = places[i + 1];
      const double to = (next.x - along) * flatter, slope = (next.z - p.z) / (to - x),
                   long_way = std::sqrt(1 + slope * slope);
      const double foot = radius * slope / long_way;
      if (foot < x || foot > to) continue;
      const double z = p.z + slope * (foot - x);
      touch(z + radius / long_way, foot, z, slope, p);
    }
    if (!edges) return best;
    const double highest_edge = (best ? std::max(-best->drop, hanging) : hanging) - (1 - highest) * radius;
    for (const ProfilePlace& p : places) {
      const double x = (p.x - along) * flatter;
      if (std::abs(x) <= gentle || std::abs(x) >= 0.99 * radius || p.z > highest_edge) continue;
      const double above = std::sqrt(radius * radius - x * x);
      touch(p.z + above, x, p.z, x / above, p);
    }
    return best;
  }
};

}  // namespace jugend
