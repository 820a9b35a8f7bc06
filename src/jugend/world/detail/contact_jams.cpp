#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/contact_jams.hpp>

namespace jugend::world_state {

Solver::Jam::Jam(Solver& solver, ContactRow& contact, Phase of) : s(solver), row(contact), phase(of) {
  PairVelocities duo(s.bodies_[row.a], s.bodies_[row.b]);
  for (const PointRow& p : s.points_of(row)) {
    // Before a new impulse is sought the kick has given a share of the last.
    const Vec3 given = phase == Phase::velocities
                           ? row.normal * p.push + row.tangent_1 * p.slip_1 + row.tangent_2 * p.slip_2
                           : (row.normal * p.warm + row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2) * s.kick_;
    duo.push(-given, p.lever_a, p.lever_b);
  }
  va = duo.va, wa = duo.wa, vb = duo.vb, wb = duo.wb;
  const SolverPose &a = s.poses_[row.a], &b = s.poses_[row.b];
  const PointRow& p = s.points_[row.first];
  if (!a.dynamic) {
    frame_velocity = duo.at_a(p.lever_a - p.lever_b), frame_spin = wa;
  } else if (!b.dynamic) {
    frame_velocity = duo.at_b(p.lever_b - p.lever_a), frame_spin = wb;
  } else {  // the two's own, but along a locked direction at rest: there the lock does no work
    const Vec3 mean = (va * b.inverse_mass + vb * a.inverse_mass) / (a.inverse_mass + b.inverse_mass);
    frame_velocity = times(mean, free_axes(a.locks | b.locks, lock::move_x));
  }
  double lighter = infinity, across = 0;
  for (const SolverPose* body : {&a, &b}) {
    if (!body->dynamic) continue;
    lighter = std::min(lighter, 1 / body->inverse_mass);
    // What goes by across a locked direction may wedge it out as fast.
    const Vec3 free = free_axes(body->locks, lock::move_x);
    across += 0.5 * squared_norm(frame_velocity - times(frame_velocity, free)) / body->inverse_mass;
  }
  const double push = s.settings_.push_speed;
  energy = energy_of(duo);
  allowed =
      std::max(energy, 0.5 * lighter * (push * push + row.belt_1 * row.belt_1 + row.belt_2 * row.belt_2)) + across;
}

/// J, in the frame, of what is free to move.
double Solver::Jam::energy_of(const PairVelocities& duo) const {
  const auto of_one = [&](const SolverPose& body, const Vec3& velocity, const Vec3& spin) {
    if (!body.dynamic) return 0.0;
    const Vec3 v = times(velocity - frame_velocity, free_axes(body.locks, lock::move_x));
    const Vec3 w = times(spin - frame_spin, free_axes(body.locks, lock::turn_x));
    const Sym3 inertia = turned_diagonal(body.orientation * body.principal, body.moments);
    return 0.5 * (squared_norm(v) / body.inverse_mass + dot(w, inertia * w));
  };
  return of_one(s.poses_[row.a], duo.va, duo.wa) + of_one(s.poses_[row.b], duo.vb, duo.wb);
}

void Solver::Jam::hold_back() {
  PairVelocities duo(s.bodies_[row.a], s.bodies_[row.b]);
  const double after = energy_of(duo);
  if (after <= allowed) return;
  // Of velocities part of the way from those before: e(t) = energy + t b + t² c.
  const auto part = [&](double t) {
    duo.va = va + (duo.a.velocity - va) * t, duo.wa = wa + (duo.a.spin - wa) * t;
    duo.vb = vb + (duo.b.velocity - vb) * t, duo.wb = wb + (duo.b.spin - wb) * t;
  };
  part(0.5);
  const double c = 2 * (after + energy) - 4 * energy_of(duo), b = after - energy - c;
  const double root = std::sqrt(std::max(0.0, b * b + 4 * c * (allowed - energy)));
  const double share = c > 0 ? std::clamp((root - b) / (2 * c), 0.0, 1.0) : 0.0;
  part(share);
  duo.store(s.moves(&duo.a), s.moves(&duo.b));
  for (PointRow& p : s.points_of(row)) {
    if (phase != Phase::positions) {
      const double back = share - 1;
      p.sum += p.push * back, p.sum_1 += p.slip_1 * back, p.sum_2 += p.slip_2 * back;
      // Else the next kick would give it once more.
      const Vec3 again = row.normal * p.warm + row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2;
      if (s.moves(&duo.a)) add_warm(duo.a, -again, -cross(p.lever_a, again));
      if (s.moves(&duo.b)) add_warm(duo.b, again, cross(p.lever_b, again));
      p.warm = p.warm_1 = p.warm_2 = 0;
    }
    p.push *= share, p.slip_1 *= share, p.slip_2 *= share;
  }
}

}  // namespace jugend::world_state
