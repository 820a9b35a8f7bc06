// The way of a wheel's hub over the ground in a tick, laid in pieces, from any sense that tells where the wheel stands.
// Inner to the vehicle.
#pragma once

#include <algorithm>
#include <cmath>
#include <jugend/motion/vehicle/detail/vehicle_tick.hpp>

namespace jugend {

/// Where its way bends at a place, there; where it is round, pieces are halved until they follow it.
template <class Stands>
void Vehicle::Tick::follow_way(WheelContact& c, const Stands& stands, const std::optional<Standing>& a,
                               const std::optional<Standing>& b, double from, double to, double radius) const {
  if (!a && !b) return lay(c, a, b, to);
  const double gap = to - from, off = std::min(0.001 * radius, 0.02 * gap);
  const double middle = 0.5 * (from + to);
  if (a && b) {
    const double rise = a->drop - b->drop, slope_a = -dot(a->normal, c.way) / dot(a->normal, up),
                 slope_b = -dot(b->normal, c.way) / dot(b->normal, up);
    if (std::abs(rise - slope_a * gap) < off && std::abs(rise - slope_b * gap) < off) return lay(c, a, b, to);
    const double meet = slope_a != slope_b ? (rise - slope_b * gap) / (slope_a - slope_b) : 0.0;
    if (meet > 0 && meet < gap) {
      const auto bend = stands(from + meet);
      if (bend && std::abs(a->drop - slope_a * meet - bend->drop) < off)
        return lay(c, a, bend, from + meet), lay(c, bend, b, to);
    }
  }
  if (gap < 0.04 * radius) return lay(c, a, b, to);
  const auto there = stands(middle);
  if (a && b && there && gap < 0.25 * radius && std::abs(there->drop - 0.5 * (a->drop + b->drop)) < off)
    return lay(c, a, b, to);
  follow_way(c, stands, a, there, from, middle, radius);
  follow_way(c, stands, there, b, middle, to, radius);
}

template <class Stands>
void Vehicle::Tick::lay_all(std::size_t wheel, const Stands& stands, double spacing, GroundForm form) {
  WheelContact& c = contacts[wheel];
  const auto [team, n, lane] = place(wheel);
  const double radius = n.radius.at[lane];
  c.pieces.clear(), c.sensed = false, c.piece = 0;
  c.form = form;
  if (form == GroundForm::plane) {
    const auto now = stands(0);
    lay(c, now, now, 1e300);
  } else {
    const double more = WheelContact::more(radius, metre, dt);
    const double begin = -more, end = std::min(c.far + more, std::max(more, c.wall - c.across));
    const double longest = form == GroundForm::bends ? 2.0 : spacing;  // of its radius
    const int parts = std::clamp(static_cast<int>(std::ceil((end - begin) / (longest * radius))), 1, 16);
    auto last = stands(begin);
    for (int k = 0; k < parts; ++k) {
      const double from = begin + (end - begin) * k / parts, to = begin + (end - begin) * (k + 1) / parts;
      const auto there = stands(to);
      follow_way(c, stands, last, there, from, to, radius);
      last = there;
    }
    c.pieces[c.pieces.size() - 1].until = 1e300;
    while (c.pieces[c.piece].until <= 0) ++c.piece;
  }
  stand_on_piece(wheel);
  if (!c.sensed) state.wheels[wheel].on_ground = false;
}

}  // namespace jugend
