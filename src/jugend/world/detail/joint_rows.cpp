// The joints' part of the solver: each is a few constraints, made anew from the poses of each half sub-step.
#include <algorithm>
#include <cmath>
#include <jugend/world/detail/joint_frame.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {
namespace {

JointFrame frame_of(const State& state, const Joint& joint, const Array<SolverPose>& poses, const JointRow& row) {
  const auto pose = [&](std::uint32_t solver, std::uint32_t body) {
    if (solver != 0) return Pose{poses[solver].centre, poses[solver].orientation};
    if (body == none) return Pose{};
    return Pose{state.bodies[body].centre, state.bodies[body].pose.orientation};
  };
  const Pose a = pose(row.a, joint.a), b = pose(row.b, joint.b);
  return {joint, a.position, a.orientation, b.position, b.orientation};
}

/// One row: how its bodies move along it, and what pushes along it.
struct Line {
  PairVelocities& duo;
  Vec3 direction;
  Vec3 lever_a, lever_b;
  bool angular;
  Vec3 direction_b = direction;  // other than a's, and not of length 1, only for a pulley

  double speed() const {
    return angular ? dot(duo.wa - duo.wb, direction)
                   : dot(duo.at_a(lever_a), direction) - dot(duo.at_b(lever_b), direction_b);
  }
  double inverse_mass() const {
    return angular ? duo.inverse_inertia_about(direction)
                   : duo.inverse_mass_along(duo.a, direction, lever_a) +
                         duo.inverse_mass_along(duo.b, direction_b, lever_b);
  }
  void push(double impulse) {
    if (angular) return duo.turn(direction * impulse);
    duo.push_a(direction * impulse, lever_a), duo.push_b(direction_b * impulse, lever_b);
  }
  Line reversed() const { return {duo, -direction, lever_a, lever_b, angular, -direction_b}; }
};

/// The line that springs, motors and limits act along.
Line axis_of(PairVelocities& duo, const Joint& joint, const JointFrame& frame) {
  return {duo, frame.axis, frame.lever_a, frame.lever_b, joint.kind == JointKind::hinge, frame.axis_b};
}

void add_warm_of(PairVelocities& duo, const Joint& joint, JointRow& row, const Line& axis, const JointFrame& frame,
                 const Vec3& cone_axis) {
  // The axes turn with the bodies; along the one that is free nothing may be left of what was across it.
  if (joint.kind == JointKind::hinge) row.turn.warm = in_plane(row.turn.warm, frame.axis);
  if (joint.kind == JointKind::slider) row.point.warm = in_plane(row.point.warm, frame.axis);
  Vec3 push_a = row.point.warm, push_b = push_a, turn = row.turn.warm + cone_axis * row.cone.warm;
  const double along = row.limit.warm + row.motor.warm + row.spring.warm;
  if (axis.angular) {
    turn += axis.direction * along;
  } else {
    push_a += axis.direction * along, push_b += axis.direction_b * along;
  }
  if (row.a != 0) add_warm(duo.a, push_a, cross(frame.lever_a, push_a) + turn);
  if (row.b != 0) add_warm(duo.b, -push_b, -(cross(frame.lever_b, push_b) + turn));
}

/// A locked direction has an inverse mass of 0; with any at all the others can be solved, and nothing moves along it.
Sym3 solved(Sym3 inverse_mass) {
  for (double* d : {&inverse_mass.xx, &inverse_mass.yy, &inverse_mass.zz}) {
    if (*d == 0) *d = 1;
  }
  return inverse(inverse_mass);
}

Vec3 cone_axis_of(const JointFrame& frame) {
  return normalised(cross(frame.axis, rotate(frame.turn_a, {1, 0, 0})), any_perpendicular(frame.axis));
}

/// A joint in one solve: each function is one of its constraints.
struct JointSolve {
  const Joint& joint;
  JointRow& row;
  PairVelocities& duo;
  const JointFrame& frame;
  bool positions;  // or velocities alone
  double h, kick;  // s of the sub-step; the kick, as a share of it
  double bias_rate, most_bias, share, give;

  /// m/s, or rad/s, that take away an error.
  double bias(double error) const { return positions ? std::clamp(error * bias_rate, -most_bias, most_bias) : 0.0; }
  Line axis() const { return axis_of(duo, joint, frame); }
  Line across(const Vec3& direction) const { return {duo, direction, frame.lever_a, frame.lever_b, false}; }
  Line about(const Vec3& direction) const { return {duo, direction, {}, {}, true}; }

  /// Holds one row's speed at -bias(error); what that took.
  double constrain(Line line, double error, double& now) const {
    const double inverse_mass = line.inverse_mass();
    if (!(inverse_mass > 0)) return 0.0;
    const double more = -share * (line.speed() + bias(error)) / inverse_mass - give * now;
    line.push(more);
    now += more;
    return more;
  }
  /// Keeps the line from going against its direction further than `room`; before that is used up, only what would go
  /// beyond in this sub-step is stopped. `now` is the impulse along the line.
  void stop(Line line, double room, double& now) const {
    const double inverse_mass = line.inverse_mass();
    if (!(inverse_mass > 0)) return;
    const double more = room > 0 ? -(line.speed() + room / h) / inverse_mass
                                 : -share * (line.speed() + bias(room)) / inverse_mass - give * now;
    const double total = std::max(0.0, now + more);
    line.push(total - now);
    now = total;
  }

  /// Implicit midpoint: the force in the middle of the drift acts over its first half now and over its second with the
  /// next kick. It neither adds nor takes energy, and a spring at rest carries its load exactly.
  void spring() const {
    Line line = axis();
    const double inverse_mass = line.inverse_mass();
    const double stiff = h / 2 * (joint.stiffness * h / 2 + joint.damping);
    if (!(inverse_mass > 0) || !positions) return;
    const double had = row.spring.warm / 2;
    const double wanted = -h / 2 * joint.stiffness * (frame.position - joint.rest) - stiff * line.speed();
    row.spring.now = had + (wanted - had) / (1 + stiff * inverse_mass);
    line.push(row.spring.now - had);
  }
  void motor() const {
    Line line = axis();
    const double inverse_mass = line.inverse_mass(), most = joint.motor_limit * h * kick;
    if (!(inverse_mass > 0)) return;
    const double total = std::clamp(row.motor.now - (line.speed() - joint.motor_speed) / inverse_mass, -most, most);
    line.push(total - row.motor.now);
    row.motor.now = total;
  }
  /// Against the nearer end; where both are one, held there.
  void limits() const {
    const double over = frame.position - joint.high, under = frame.position - joint.low;
    if (joint.low == joint.high) {
      constrain(axis(), over, row.limit.now);
    } else if (std::abs(over) < std::abs(under)) {
      double now = -row.limit.now;
      stop(axis().reversed(), -over, now);
      row.limit.now = -now;
    } else {
      stop(axis(), under, row.limit.now);
    }
  }
  void cone() const {
    double now = -row.cone.now;
    stop(about(-cone_axis_of(frame)), joint.cone - frame.position, now);
    row.cone.now = -now;
  }
  void no_turn() const {
    const Sym3 mass = solved(duo.a.inverse_inertia + duo.b.inverse_inertia);
    const Vec3 wrong = frame.wrong_turn();
    const Vec3 wanted{bias(wrong.x), bias(wrong.y), bias(wrong.z)};
    const Vec3 more = mass * (duo.wa - duo.wb + wanted) * -share - row.turn.now * give;
    duo.turn(more);
    row.turn.now += more;
  }
  void turn_about_axis_alone() const {
    const Vec3 wrong = cross(frame.axis, rotate(frame.turn_a, {1, 0, 0}));
    for (const Vec3& side : {rotate(frame.turn_b, {0, 1, 0}), rotate(frame.turn_b, {0, 0, 1})}) {
      double now = dot(row.turn.now, side);
      row.turn.now += side * constrain(about(side), dot(wrong, side), now);
    }
  }
  void slide_along_axis_alone() const {
    for (const Vec3& side : {rotate(frame.turn_b, {0, 1, 0}), rotate(frame.turn_b, {0, 0, 1})}) {
      double now = dot(row.point.now, side);
      row.point.now += side * constrain(across(side), dot(frame.at_a - frame.at_b, side), now);
    }
  }
  void one_point() const {
    const Vec3 m = duo.a.inverse_mass + duo.b.inverse_mass;
    const Sym3 inverse_mass = at_lever(duo.a.inverse_inertia, frame.lever_a) +
                              at_lever(duo.b.inverse_inertia, frame.lever_b) + Sym3{m.x, m.y, m.z, 0, 0, 0};
    const Vec3 apart = frame.at_a - frame.at_b;
    const double length = norm(apart), felt = length > 0 ? std::abs(bias(length)) / length : 0;
    const Vec3 more = solved(inverse_mass) * (duo.relative(frame.lever_a, frame.lever_b) + apart * felt) * -share -
                      row.point.now * give;
    duo.push(more, frame.lever_a, frame.lever_b);
    row.point.now += more;
  }

  void all() const {
    using enum JointKind;
    if (joint.kind != ball && joint.kind != JointKind::fixed) {
      if (joint.stiffness > 0 || joint.damping > 0) spring();
      if (joint.motor_limit > 0) motor();
      if (std::isfinite(joint.low) || std::isfinite(joint.high)) limits();
    }
    if (joint.kind == ball && std::isfinite(joint.cone)) cone();
    if (joint.kind == JointKind::fixed || joint.kind == slider) no_turn();
    if (joint.kind == hinge) turn_about_axis_alone();
    if (joint.kind == slider)
      slide_along_axis_alone();
    else if (joint.kind != distance && joint.kind != pulley)
      one_point();
  }
};

}  // namespace

void Solver::load_joint(const State& state, JointRow& row) {
  const Joint& joint = state.joints[row.joint];
  row.point.start(joint.warm_force * h_);
  row.turn.start(joint.warm_torque * h_);
  row.limit.start(joint.warm_limit * h_);
  row.motor.start(joint.warm_motor * h_);
  row.spring.start(joint.warm_spring * h_);
  row.cone.start(joint.warm_cone * h_);
  row.axial = {};
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const JointFrame frame = frame_of(state, joint, poses_, row);
  add_warm_of(duo, joint, row, axis_of(duo, joint, frame), frame, cone_axis_of(frame));
}

void Solver::solve_joint(const State& state, JointRow& row, Phase phase) {
  const Joint& joint = state.joints[row.joint];
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const JointFrame frame = frame_of(state, joint, poses_, row);
  const bool positions = phase == Phase::positions;
  const auto begin = [&](auto& impulse) {
    if (phase != Phase::velocities) impulse.now = impulse.warm * kick_;
  };
  begin(row.point), begin(row.turn), begin(row.limit), begin(row.motor), begin(row.cone);
  const JointSolve solve{joint,
                         row,
                         duo,
                         frame,
                         positions,
                         h_,
                         kick_,
                         bias_rate_,
                         4 * settings_.push_speed,
                         positions ? mass_share_ : 1.0,
                         positions ? give_ : 0.0};
  solve.all();
  duo.store(row.a != 0, row.b != 0);
  if (positions) return;
  row.point.finish(kick_), row.turn.finish(kick_), row.limit.finish(kick_), row.motor.finish(kick_),
      row.cone.finish(kick_);
  row.axial += solve.axis().direction * (row.limit.now + row.motor.now);
  if (phase == Phase::last) return;
  row.axial += solve.axis().direction * (2 * row.spring.now);
  row.spring.sum += 2 * row.spring.now;
  row.spring.warm = 2 * row.spring.now;  // what it owes, and as a guess the same again
  add_warm_of(duo, joint, row, solve.axis(), frame, cone_axis_of(frame));
}

}  // namespace jugend::world_state
