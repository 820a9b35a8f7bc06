// Two bodies while a constraint between them is solved. Inner to the solver.
#pragma once

#include <jugend/world/solver.hpp>

namespace jugend::world_state {

constexpr Vec3 times(const Vec3& a, const Vec3& b) { return {a.x * b.x, a.y * b.y, a.z * b.z}; }

/// The velocities of two bodies while a row is solved, and what impulses do to them.
struct Duo {
  SolverBody &a, &b;
  Vec3 va, wa, vb, wb;
  Duo(SolverBody& body_a, SolverBody& body_b)
      : a(body_a), b(body_b), va(a.velocity), wa(a.spin), vb(b.velocity), wb(b.spin) {}
  /// Fixed bodies are shared by threads: they are never written.
  void store(bool a_moves, bool b_moves) {
    if (a_moves) a.velocity = va, a.spin = wa;
    if (b_moves) b.velocity = vb, b.spin = wb;
  }
  Vec3 relative(const Vec3& lever_a, const Vec3& lever_b) const {
    return (va + cross(wa, lever_a)) - (vb + cross(wb, lever_b));
  }
  void push(const Vec3& impulse, const Vec3& lever_a, const Vec3& lever_b) {
    va += times(a.inverse_mass, impulse);
    wa += a.inverse_inertia * cross(lever_a, impulse);
    vb -= times(b.inverse_mass, impulse);
    wb -= b.inverse_inertia * cross(lever_b, impulse);
  }
  void turn(const Vec3& impulse) {
    wa += a.inverse_inertia * impulse;
    wb -= b.inverse_inertia * impulse;
  }
  double softness_along(const Vec3& d, const Vec3& lever_a, const Vec3& lever_b) const {
    const Vec3 ra = cross(lever_a, d), rb = cross(lever_b, d);
    return dot(times(a.inverse_mass + b.inverse_mass, d), d) + dot(a.inverse_inertia * ra, ra) +
           dot(b.inverse_inertia * rb, rb);
  }
  double softness_about(const Vec3& axis) const {
    return dot((a.inverse_inertia + b.inverse_inertia) * axis, axis);
  }
  /// How far apart along `d` the step has brought them.
  double parted(const Vec3& d, const Vec3& lever_a, const Vec3& lever_b) const {
    return dot(d, (a.moved + cross(a.turned, lever_a)) - (b.moved + cross(b.turned, lever_b)));
  }
};

inline void add_warm(SolverBody& body, const Vec3& push, const Vec3& turn) {
  body.warm_push += times(body.inverse_mass, push);
  body.warm_turn += body.inverse_inertia * turn;
}

}  // namespace jugend::world_state
