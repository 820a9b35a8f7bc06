// Two bodies while a constraint between them is solved. Inner to the solver.
#pragma once

#include <jugend/world/detail/solver.hpp>

namespace jugend::world_state {

/// Against bodies that yield less than this since directions are locked a small turn of the normal changes by much what
/// an impulse does: none is handed on.
constexpr double least_yield = 0.3;
/// And what yields less than this is partly locked.
constexpr double free_yield = 0.99;

constexpr Vec3 times(const Vec3& a, const Vec3& b) { return {a.x * b.x, a.y * b.y, a.z * b.z}; }

/// 1 along what is free of the three directions from `first` on, 0 along what is locked.
constexpr Vec3 free_axes(std::uint8_t locks, std::uint8_t first) {
  return {locks & first ? 0.0 : 1.0, locks & (first << 1) ? 0.0 : 1.0, locks & (first << 2) ? 0.0 : 1.0};
}

/// The velocities of two bodies while a row is solved, and what impulses do to them.
struct PairVelocities {
  SolverBody &a, &b;
  Vec3 va, wa, vb, wb;
  PairVelocities(SolverBody& body_a, SolverBody& body_b)
      : a(body_a), b(body_b), va(a.velocity), wa(a.spin), vb(b.velocity), wb(b.spin) {}
  /// Fixed bodies are shared by threads: they are never written.
  void store(bool a_moves, bool b_moves) {
    if (a_moves) a.velocity = va, a.spin = wa;
    if (b_moves) b.velocity = vb, b.spin = wb;
  }
  Vec3 at_a(const Vec3& lever) const { return va + cross(wa, lever); }
  Vec3 at_b(const Vec3& lever) const { return vb + cross(wb, lever); }
  Vec3 relative(const Vec3& lever_a, const Vec3& lever_b) const { return at_a(lever_a) - at_b(lever_b); }
  void push_a(const Vec3& impulse, const Vec3& lever) {
    va += times(a.inverse_mass, impulse);
    wa += a.inverse_inertia * cross(lever, impulse);
  }
  void push_b(const Vec3& impulse, const Vec3& lever) {
    vb -= times(b.inverse_mass, impulse);
    wb -= b.inverse_inertia * cross(lever, impulse);
  }
  void push(const Vec3& impulse, const Vec3& lever_a, const Vec3& lever_b) {
    push_a(impulse, lever_a), push_b(impulse, lever_b);
  }
  void turn(const Vec3& impulse) {
    wa += a.inverse_inertia * impulse;
    wb -= b.inverse_inertia * impulse;
  }
  static double inverse_mass_along(const SolverBody& body, const Vec3& direction, const Vec3& lever) {
    const Vec3 about = cross(lever, direction);
    return dot(times(body.inverse_mass, direction), direction) + dot(body.inverse_inertia * about, about);
  }
  double inverse_mass_along(const Vec3& direction, const Vec3& lever_a, const Vec3& lever_b) const {
    return inverse_mass_along(a, direction, lever_a) + inverse_mass_along(b, direction, lever_b);
  }
  double inverse_inertia_about(const Vec3& axis) const {
    return dot((a.inverse_inertia + b.inverse_inertia) * axis, axis);
  }
  /// m from one to the other at a point, as the step has brought them so far.
  double gap(const Vec3& normal, const PointRow& p) const {
    return p.separation + dot(normal, a.moved - b.moved) + (dot(a.turned, p.arm_a) - dot(b.turned, p.arm_b));
  }
};

inline void add_warm(SolverBody& body, const Vec3& push, const Vec3& turn) {
  body.warm_push += times(body.inverse_mass, push);
  body.warm_turn += body.inverse_inertia * turn;
}

/// The points of a contact along its normal, ready for several rounds.
class Levers {
 public:
  struct Lever {
    Vec3 turn_a, turn_b;      // what the normal at the point turns about
    Vec3 answer_a, answer_b;  // and how the spins answer
    double gap;
  };
  Levers(const PairVelocities& duo, const Vec3& normal, std::span<const PointRow> points)
      : normal_(normal), push_a_(times(duo.a.inverse_mass, normal)), push_b_(times(duo.b.inverse_mass, normal)) {
    for (std::size_t k = 0; k < points.size(); ++k) {
      Lever& l = levers_[k];
      l.turn_a = cross(points[k].lever_a, normal), l.turn_b = cross(points[k].lever_b, normal);
      l.answer_a = duo.a.inverse_inertia * l.turn_a, l.answer_b = duo.b.inverse_inertia * l.turn_b;
      l.gap = duo.gap(normal, points[k]);
    }
  }
  const Lever& operator[](std::size_t k) const { return levers_[k]; }
  double speed(std::size_t k, const PairVelocities& duo) const {
    return dot(normal_, duo.va - duo.vb) + dot(duo.wa, levers_[k].turn_a) - dot(duo.wb, levers_[k].turn_b);
  }
  void push(std::size_t k, double impulse, PairVelocities& duo) const {
    duo.va += push_a_ * impulse, duo.wa += levers_[k].answer_a * impulse;
    duo.vb -= push_b_ * impulse, duo.wb -= levers_[k].answer_b * impulse;
  }

 private:
  Vec3 normal_, push_a_, push_b_;
  union {  // as many as there are points
    Lever levers_[4];
  };
};

}  // namespace jugend::world_state
