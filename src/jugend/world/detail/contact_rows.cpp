// The contacts' part of the solver: load, press, rub, rebound, resist.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/narrow.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

void Solver::set_frame(const State& state, ContactRow& row, const Vec3& normal) const {
  row.normal = normal;
  row.tangent_1 = any_perpendicular(row.normal);
  row.tangent_2 = cross(row.normal, row.tangent_1);
  const Pair& pair = state.pairs[row.pair];
  const Body &body_a = state.bodies[pair.a], &body_b = state.bodies[pair.b];
  row.belt_1 = row.belt_2 = 0;
  if (body_a.surface.belt != Vec3{} || body_b.surface.belt != Vec3{}) {
    const Vec3 belt =
        rotate(body_a.pose.orientation, body_a.surface.belt) - rotate(body_b.pose.orientation, body_b.surface.belt);
    row.belt_1 = dot(belt, row.tangent_1), row.belt_2 = dot(belt, row.tangent_2);
  }
}

void Solver::place_point(const ContactRow& row, PointRow& p, const Vec3& lever_a, const Vec3& lever_b) const {
  p = {};
  p.lever_a = p.along_a = lever_a, p.lever_b = p.along_b = lever_b;
  p.arm_a = cross(lever_a, row.normal), p.arm_b = cross(lever_b, row.normal);
}

void Solver::load_contact(const State& state, ContactRow& row) {
  const Contact& contact = state.contacts[row.contact];
  SolverBody &a = bodies_[row.a], &b = bodies_[row.b];
  row.rolled = row.spun = row.slid = row.turned_before = row.approach = 0;
  row.moved_before = row.given = {};
  row.looked = row.passed = row.hit = row.load_given = false;
  const Pair& pair = state.pairs[row.pair];
  const Body &body_a = state.bodies[pair.a], &body_b = state.bodies[pair.b];
  const Surface &of_a = body_a.surface, &of_b = body_b.surface;
  row.friction = combined(of_a.friction, of_b.friction, of_a.friction_rule, of_b.friction_rule);
  row.restitution = combined(of_a.restitution, of_b.restitution, of_a.restitution_rule, of_b.restitution_rule);
  if (row.restitution > 0) elastic_.store(true, std::memory_order_relaxed);
  row.rolling = std::max(of_a.rolling_resistance, of_b.rolling_resistance);
  row.spinning = std::max(of_a.spinning_resistance, of_b.spinning_resistance);
  set_frame(state, row, contact.normal);
  row.reweigh = poses_[row.a].needle || poses_[row.b].needle;
  row.of_a = body_a.dynamic() && (!body_b.dynamic() || body_a.reach <= body_b.reach);
  row.sure = pair.one_way;
  row.one_way = pair.one_way;
  row.convex = !composed((*settings_.shapes)[body_a.shape]) && !composed((*settings_.shapes)[body_b.shape]);
  row.fresh_for = fresh_for(state, row, 0);
  Vec3 push_a, turn_a, turn_b;
  for (std::uint32_t k = 0; k < row.count; ++k) {
    const ContactPoint& from = contact.points[k];
    PointRow& p = points_[row.first + k];
    place_point(row, p, from.lever_a, from.lever_b);
    p.separation = from.separation;
    p.warm = from.warm_force * h_;
    row.sure |= p.warm > 0 || from.separation < -settings_.slop;
    p.warm_1 = dot(from.warm_friction, row.tangent_1) * h_;
    p.warm_2 = dot(from.warm_friction, row.tangent_2) * h_;
    const Vec3 impulse = row.normal * p.warm + row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2;
    push_a += impulse, turn_a += cross(p.lever_a, impulse), turn_b += cross(p.lever_b, impulse);
  }
  weigh(row);
  row.passed = row.count == 0;
  // Struck aside, it may meet another place than where it was headed.
  const bool parted = row.convex && !contact.ahead && row.count > 0 && row.restitution > 0;
  const double spare = parted         ? std::max(0.0, least_separation(contact.places()))
                       : pair.watched ? pair.clear
                                      : infinity;
  note_spare(row, spare, parted, 0);
  if (row.a != 0) add_warm(a, push_a, turn_a);
  if (row.b != 0) add_warm(b, -push_a, -turn_b);
}

/// Levers as they are in `ahead` s: the middle of the coming sub-step, where its velocities belong, or now, at the end.
/// Points go with the body that they lie on, turned about the normal alone: round ones roll on.
void Solver::move_levers(const ContactRow& row, double ahead) {
  const SolverBody &a = bodies_[row.a], &b = bodies_[row.b], &owner = row.of_a ? a : b;
  const double angle = dot(row.normal, owner.turned + owner.spin * ahead) - row.turned_before;
  const double half = angle / 2, scale = 1 / (1 + half * half);  // a turn by 2 atan(angle / 2)
  const double cosine = (1 - half * half) * scale, sine = angle * scale;
  const auto turned = [&](const Vec3& v) {
    return v * cosine + cross(row.normal, v) * sine + row.normal * (dot(row.normal, v) * (1 - cosine));
  };
  const Vec3 moved = a.moved - b.moved + (a.velocity - b.velocity) * ahead - row.moved_before;
  for (PointRow& p : points_of(row)) {
    const Vec3 apart = p.along_b - p.along_a + moved;  // from b's centre to a's
    if (row.of_a) {
      p.lever_a = turned(p.along_a), p.lever_b = p.lever_a + apart;
    } else {
      p.lever_b = turned(p.along_b), p.lever_a = p.lever_b - apart;
    }
  }
}

/// Where directions are locked: how fast along the normal goes with how fast where it can go at all, 0 to 1. What
/// moves by a rounding alone is locked.
double Solver::yield_along(const ContactRow& row, const PointRow& p, double inverse_mass) const {
  const SolverPose &a = poses_[row.a], &b = poses_[row.b];
  if ((a.locks | b.locks) == 0) return inverse_mass > 0 ? 1 : 0;
  double free = 0;
  for (const auto& [body, lever] : {std::pair{&a, p.lever_a}, {&b, p.lever_b}}) {
    if (!body->dynamic) continue;
    const Vec3 turn = cross(lever, row.normal);
    free +=
        body->inverse_mass + dot(inverse_inertia(body->orientation * body->principal, body->moments, 0) * turn, turn);
  }
  const double share = free > 0 ? inverse_mass / free : 0;
  return share > 1e-12 ? std::sqrt(share) : 0;
}

/// How much mass each point moves along the normal and across it.
void Solver::weigh(ContactRow& row) {
  row.jams = false, row.bounded = row.reweigh;
  const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const Sym3 &ia = duo.a.inverse_inertia, &ib = duo.b.inverse_inertia;
  const Vec3 inverse_masses = duo.a.inverse_mass + duo.b.inverse_mass;
  for (PointRow& p : points_of(row)) {
    const double inverse_mass = duo.inverse_mass_along(row.normal, p.lever_a, p.lever_b);
    p.yields = yield_along(row, p, inverse_mass);
    p.mass = p.yields > 0 ? 1 / inverse_mass : 0;
    row.jams |= p.yields > 0 && p.yields < free_yield;
    row.bounded |= row.jams || p.separation < -deep * settings_.tolerance;
    const Vec3 a1 = cross(p.lever_a, row.tangent_1), a2 = cross(p.lever_a, row.tangent_2);
    const Vec3 b1 = cross(p.lever_b, row.tangent_1), b2 = cross(p.lever_b, row.tangent_2);
    const double k11 = dot(times(inverse_masses, row.tangent_1), row.tangent_1) + dot(ia * a1, a1) + dot(ib * b1, b1);
    const double k22 = dot(times(inverse_masses, row.tangent_2), row.tangent_2) + dot(ia * a2, a2) + dot(ib * b2, b2);
    const double k12 = dot(times(inverse_masses, row.tangent_1), row.tangent_2) + dot(ia * a1, a2) + dot(ib * b1, b2);
    const double det = k11 * k22 - k12 * k12;
    if (det > 1e-12 * k11 * k22) {
      p.across_11 = k22 / det, p.across_22 = k11 / det, p.across_12 = -k12 / det;
    } else {  // one way across is locked: the other's inverse, whichever way that is
      const double trace = k11 + k22, scale = trace > 0 ? 1 / (trace * trace) : 0;
      p.across_11 = k11 * scale, p.across_22 = k22 * scale, p.across_12 = k12 * scale;
    }
  }
}

/// What each point's impulse begins with: the share of last sub-step's that the kick has given the bodies.
void Solver::start(std::span<PointRow> points) const {
  for (PointRow& p : points) p.push = p.warm * kick_, p.slip_1 = p.warm_1 * kick_, p.slip_2 = p.warm_2 * kick_;
}

/// Rolling resistance holds against turning across the normal, spinning resistance about it, each with a
/// torque up to its length times the force pressed with.
void Solver::resist_turning(ContactRow& row) {
  double pressed = 0;
  for (const PointRow& p : points_of(row)) pressed += p.push;
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const Vec3 turning = duo.wa - duo.wb;
  const double about_normal = dot(turning, row.normal);
  const Vec3 roll = turning - row.normal * about_normal;
  const double rolling = norm(roll);
  if (row.rolling > 0 && rolling > 1e-12) {
    const Vec3 axis = roll / rolling;
    const double impulse =
        std::min(rolling / duo.inverse_inertia_about(axis), std::max(0.0, row.rolling * pressed - row.rolled));
    row.rolled += impulse;
    duo.turn(axis * -impulse);
  }
  if (row.spinning > 0 && about_normal != 0) {
    const double impulse = std::min(std::abs(about_normal) / duo.inverse_inertia_about(row.normal),
                                    std::max(0.0, row.spinning * pressed - row.spun));
    row.spun += impulse;
    duo.turn(row.normal * (about_normal > 0 ? -impulse : impulse));
  }
  duo.store(row.a != 0, row.b != 0);
}

}  // namespace jugend::world_state
