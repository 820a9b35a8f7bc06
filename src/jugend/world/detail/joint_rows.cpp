// The joints' part of the solver: each is a few rows, made anew from the poses of each half sub-step.
#include <algorithm>
#include <cmath>
#include <jugend/world/detail/joint_frame.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {
namespace {

JointFrame frame_of(const State& state, const Joint& joint, const std::vector<SolverPose>& poses, const JointRow& row) {
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

  double speed() const {
    return angular ? dot(duo.wa - duo.wb, direction) : dot(duo.relative(lever_a, lever_b), direction);
  }
  double softness() const {
    return angular ? duo.softness_about(direction) : duo.softness_along(direction, lever_a, lever_b);
  }
  void push(double impulse) {
    angular ? duo.turn(direction * impulse) : duo.push(direction * impulse, lever_a, lever_b);
  }
};

void add_warm_of(PairVelocities& duo, const Joint& joint, JointRow& row, const Line& axis, const JointFrame& frame,
                 const Vec3& cone_axis) {
  // The axes turn with the bodies; along the one that is free nothing may be left of what was across it.
  if (joint.kind == JointKind::hinge) row.turn.warm = in_plane(row.turn.warm, frame.axis);
  if (joint.kind == JointKind::slider) row.point.warm = in_plane(row.point.warm, frame.axis);
  Vec3 push = row.point.warm, turn = row.turn.warm + cone_axis * row.cone.warm;
  const double along = row.limit.warm + row.motor.warm + row.spring.warm;
  if (axis.angular) {
    turn += axis.direction * along;
  } else {
    push += axis.direction * along;
  }
  if (row.a != 0) add_warm(duo.a, push, cross(frame.lever_a, push) + turn);
  if (row.b != 0) add_warm(duo.b, -push, -(cross(frame.lever_b, push) + turn));
}

/// A locked way has no softness; with any at all the others can be solved, and nothing moves along it.
Sym3 solved(Sym3 softness) {
  for (double* d : {&softness.xx, &softness.yy, &softness.zz}) {
    if (*d == 0) *d = 1;
  }
  return inverse(softness);
}

Vec3 cone_axis_of(const JointFrame& frame) {
  return normalised(cross(frame.axis, rotate(frame.turn_a, {1, 0, 0})), any_perpendicular(frame.axis));
}

}  // namespace

void Solver::load_joint(const State& state, JointRow& row) {
  const Joint& joint = state.joints[row.joint];
  row.point.start(joint.hold * h_);
  row.turn.start(joint.hold_torque * h_);
  row.limit.start(joint.hold_limit * h_);
  row.motor.start(joint.hold_motor * h_);
  row.spring.start(joint.hold_spring * h_);
  row.cone.start(joint.hold_cone * h_);
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const JointFrame frame = frame_of(state, joint, poses_, row);
  const Line axis{duo, frame.axis, frame.lever_a, frame.lever_b, joint.kind == JointKind::hinge};
  add_warm_of(duo, joint, row, axis, frame, cone_axis_of(frame));
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
  const double share = positions ? mass_share_ : 1.0, give = positions ? give_ : 0.0;
  const auto bias = [&](double error) {
    const double most = 4 * settings_.push_speed;
    return positions ? std::clamp(error * bias_rate_, -most, most) : 0.0;
  };
  /// Holds one row's speed at -bias(error).
  const auto hold = [&](Line line, double error, double& now) {
    const double softness = line.softness();
    if (!(softness > 0)) return 0.0;
    const double more = -share * (line.speed() + bias(error)) / softness - give * now;
    line.push(more);
    now += more;
    return more;
  };

  /// Keeps the line from going against its direction further than `room`; before that is used up, only what
  /// would go beyond in this sub-step is stopped. `now` is the impulse along the line.
  const auto stop = [&](Line line, double room, double& now) {
    const double softness = line.softness();
    if (!(softness > 0)) return;
    const double more = room > 0 ? -(line.speed() + room / h_) / softness
                                 : -share * (line.speed() + bias(room)) / softness - give * now;
    const double total = std::max(0.0, now + more);
    line.push(total - now);
    now = total;
  };
  const auto backwards = [](Line line) {
    return Line{line.duo, -line.direction, line.lever_a, line.lever_b, line.angular};
  };

  Line axis{duo, frame.axis, frame.lever_a, frame.lever_b, joint.kind == JointKind::hinge};
  const bool has_axis =
      joint.kind == JointKind::hinge || joint.kind == JointKind::slider || joint.kind == JointKind::distance;

  if (has_axis && (joint.stiffness > 0 || joint.damping > 0)) {
    // Implicit midpoint: the force in the middle of the drift acts over its first half now and over its second
    // with the next kick. It neither adds nor takes energy, and a spring at rest carries its load exactly.
    const double softness = axis.softness();
    const double stiff = h_ / 2 * (joint.stiffness * h_ / 2 + joint.damping);
    if (softness > 0 && positions) {
      const double had = row.spring.warm / 2;
      const double wanted = -h_ / 2 * joint.stiffness * (frame.position - joint.rest) - stiff * axis.speed();
      row.spring.now = had + (wanted - had) / (1 + stiff * softness);
      axis.push(row.spring.now - had);
    }
  }
  if (has_axis && joint.motor_limit > 0) {
    const double softness = axis.softness(), most = joint.motor_limit * h_ * kick_;
    if (softness > 0) {
      const double total = std::clamp(row.motor.now - (axis.speed() - joint.motor_speed) / softness, -most, most);
      axis.push(total - row.motor.now);
      row.motor.now = total;
    }
  }
  if (has_axis && (std::isfinite(joint.low) || std::isfinite(joint.high))) {
    const double over = frame.position - joint.high, under = frame.position - joint.low;
    if (joint.low == joint.high) {
      hold(axis, over, row.limit.now);
    } else if (std::abs(over) < std::abs(under)) {  // against the nearer end
      double now = -row.limit.now;
      stop(backwards(axis), -over, now);
      row.limit.now = -now;
    } else {
      stop(axis, under, row.limit.now);
    }
  }
  if (joint.kind == JointKind::ball && std::isfinite(joint.cone)) {
    double now = -row.cone.now;
    stop({duo, -cone_axis_of(frame), {}, {}, true}, joint.cone - frame.position, now);
    row.cone.now = -now;
  }

  if (joint.kind == JointKind::fixed || joint.kind == JointKind::slider) {
    const Sym3 mass = solved(duo.a.inverse_inertia + duo.b.inverse_inertia);
    const Vec3 wrong = frame.wrong_turn();
    const Vec3 wanted{bias(wrong.x), bias(wrong.y), bias(wrong.z)};
    const Vec3 more = mass * (duo.wa - duo.wb + wanted) * -share - row.turn.now * give;
    duo.turn(more);
    row.turn.now += more;
  } else if (joint.kind == JointKind::hinge) {
    const Vec3 across_1 = rotate(frame.turn_b, {0, 1, 0}), across_2 = rotate(frame.turn_b, {0, 0, 1});
    const Vec3 wrong = cross(frame.axis, rotate(frame.turn_a, {1, 0, 0}));
    for (const Vec3& across : {across_1, across_2}) {
      double now = dot(row.turn.now, across);
      row.turn.now += across * hold({duo, across, {}, {}, true}, dot(wrong, across), now);
    }
  }
  if (joint.kind == JointKind::slider) {
    for (const Vec3& across : {rotate(frame.turn_b, {0, 1, 0}), rotate(frame.turn_b, {0, 0, 1})}) {
      double now = dot(row.point.now, across);
      row.point.now +=
          across * hold({duo, across, frame.lever_a, frame.lever_b, false}, dot(frame.at_a - frame.at_b, across), now);
    }
  } else if (joint.kind != JointKind::distance) {
    const Vec3 m = duo.a.inverse_mass + duo.b.inverse_mass;
    const Sym3 softness = at_lever(duo.a.inverse_inertia, frame.lever_a) +
                          at_lever(duo.b.inverse_inertia, frame.lever_b) + Sym3{m.x, m.y, m.z, 0, 0, 0};
    const Vec3 apart = frame.at_a - frame.at_b;
    const double length = norm(apart), felt = length > 0 ? std::abs(bias(length)) / length : 0;
    const Vec3 more =
        solved(softness) * (duo.relative(frame.lever_a, frame.lever_b) + apart * felt) * -share - row.point.now * give;
    duo.push(more, frame.lever_a, frame.lever_b);
    row.point.now += more;
  }
  duo.store(row.a != 0, row.b != 0);
  if (positions) return;
  row.point.finish(kick_), row.turn.finish(kick_), row.limit.finish(kick_), row.motor.finish(kick_),
      row.cone.finish(kick_);
  if (phase == Phase::last) return;
  row.spring.sum += 2 * row.spring.now;
  row.spring.warm = 2 * row.spring.now;  // what it owes, and as a guess the same again
  add_warm_of(duo, joint, row, axis, frame, cone_axis_of(frame));
}

}  // namespace jugend::world_state
