// Joints as they come, go and are told things.
#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/world/detail/joint_frame.hpp>
#include <jugend/world/detail/parts.hpp>
#include <utility>

namespace jugend {

using namespace world_state;

namespace {

/// A rotation that takes x to `axis`.
Quat along(const Vec3& axis) {
  const Vec3 x{1, 0, 0}, n = normalised(axis);
  const double cosine = dot(x, n);
  if (cosine < -1 + 1e-12) return {0, 0, 1, 0};
  const Vec3 c = cross(x, n);
  return normalised(Quat{1 + cosine, c.x, c.y, c.z});
}

[[noreturn]] void refuse(const JointPlan& plan, const char* key, std::string found, std::string allowed) {
  fail({{},
        plan.name.empty() ? key : filled("joint '{}': {}", plan.name, key),
        std::move(found),
        std::move(allowed),
        {}});
}

void check_numbers(const JointPlan& plan) {
  for (const auto& [v, key] : {std::pair{plan.at, "at"},
                               {plan.at_b, "at_b"},
                               {plan.axis, "axis"},
                               {plan.over_a, "over_a"},
                               {plan.over_b, "over_b"}}) {
    if (!is_finite(v)) refuse(plan, key, "a number that is not finite", "finite numbers");
  }
  if (plan.kind == JointKind::pulley && !(plan.ratio >= 1e-3 && plan.ratio <= 1e3))
    refuse(plan, "ratio", filled("{}", plan.ratio), "1e-3 to 1e3");
  if (!(norm(plan.axis) > 1e-9)) refuse(plan, "axis", "no length", "a direction");
  if (!(plan.low <= plan.high)) refuse(plan, "low", filled("{}", plan.low), filled("at most high, {}", plan.high));
  const bool two_ends = plan.kind == JointKind::distance || plan.kind == JointKind::pulley;
  if (two_ends && !(plan.high > 0)) refuse(plan, "high", filled("{}", plan.high), "more than 0 m");
  if (!(plan.cone > 0)) refuse(plan, "cone", filled("{}", plan.cone), "more than 0");
  if (!std::isfinite(plan.motor_speed)) refuse(plan, "motor_speed", "a number that is not finite", "a finite number");
  for (const auto& [v, key] :
       {std::pair{plan.motor_limit, "motor_limit"}, {plan.stiffness, "stiffness"}, {plan.damping, "damping"}}) {
    if (!(v >= 0) || !std::isfinite(v)) refuse(plan, key, filled("{}", v), "0 or more");
  }
  if (!std::isfinite(plan.rest)) refuse(plan, "rest", "a number that is not finite", "a finite number");
  for (const auto& [v, key] : {std::pair{plan.break_force, "break_force"}, {plan.break_torque, "break_torque"}}) {
    if (!(v > 0)) refuse(plan, key, filled("{}", v), "more than 0");
  }
}

}  // namespace

JointId World::add(const JointPlan& plan) {
  need_no_question();
  if (!alive(plan.a)) refuse(plan, "a", "a body that is gone", "a body that is alive");
  if (plan.b && !alive(plan.b)) refuse(plan, "b", "a body that is gone", "a body that is alive, or none");
  if (plan.kind == JointKind::pulley && !plan.b) refuse(plan, "b", "none", "a body: a pulley has two");
  if (plan.a == plan.b) refuse(plan, "b", "the same body twice", "two bodies, or one and the world");
  const Body& a = get(plan.a);
  const Body* b = plan.b ? &get(plan.b) : nullptr;
  if (!a.dynamic() && !(b && b->dynamic())) refuse(plan, "a", "no dynamic body", "one dynamic body at least");
  check_numbers(plan);

  std::uint32_t index = 0;
  if (parts_->state.free_joints.empty()) {
    index = static_cast<std::uint32_t>(parts_->state.joints.size());
    parts_->state.joints.emplace_back();
  } else {
    index = parts_->state.free_joints.back();
    parts_->state.free_joints.pop_back();
  }
  Joint joint;
  joint.kind = plan.kind;
  joint.alive = true, joint.collide = plan.collide;
  StateHash born;  // as of bodies: tells it from all that had its place before it
  born.add(static_cast<std::uint64_t>(parts_->state.joints[index].generation)), born.add(parts_->state.steps);
  born.add(static_cast<std::uint64_t>(plan.a.index)), born.add(static_cast<std::uint64_t>(plan.b.index));
  born.add(plan.at), born.add(plan.at_b), born.add(plan.axis), born.add(static_cast<std::uint64_t>(plan.kind));
  joint.generation = static_cast<std::uint32_t>(born.value() ^ (born.value() >> 32));
  joint.a = plan.a.index, joint.b = plan.b ? plan.b.index : none;
  const Pose at_a{a.centre, a.pose.orientation}, at_b = b ? Pose{b->centre, b->pose.orientation} : Pose{};
  const Quat axes = along(plan.axis);
  joint.anchor_a = to_local(at_a, plan.at);
  const bool two_ends = plan.kind == JointKind::distance || plan.kind == JointKind::pulley;
  joint.anchor_b = to_local(at_b, two_ends ? plan.at_b : plan.at);
  joint.over_a = plan.over_a, joint.over_b = plan.over_b, joint.ratio = plan.ratio;
  joint.frame_a = conjugate(at_a.orientation) * axes;
  joint.frame_b = conjugate(at_b.orientation) * axes;
  joint.low = plan.low, joint.high = plan.high, joint.cone = plan.cone;
  joint.motor_speed = plan.motor_speed, joint.motor_limit = plan.motor_limit;
  joint.stiffness = plan.stiffness, joint.damping = plan.damping, joint.rest = plan.rest;
  joint.break_force = plan.break_force, joint.break_torque = plan.break_torque;
  if (plan.kind == JointKind::pulley && !std::isfinite(plan.high))
    joint.high = norm(plan.at - plan.over_a) + plan.ratio * norm(plan.at_b - plan.over_b);
  joint.name = parts_->names.retain(plan.name);
  parts_->state.joints[index] = joint;
  wake_slot(joint.a);
  if (joint.b != none) wake_slot(joint.b);
  parts_->filters_changed = true;
  return {index, joint.generation};
}

void World::break_joint(std::uint32_t index) {
  Joint& joint = parts_->state.joints[index];
  wake_slot(joint.a);
  if (joint.b != none) wake_slot(joint.b);
  parts_->names.let_go(joint.name);
  const std::uint32_t generation = joint.generation;
  joint = {};
  joint.generation = generation;
  parts_->state.free_joints.push_back(index);
  parts_->filters_changed = true;
}

bool World::remove(JointId id) {
  need_no_question();
  if (!alive(id)) return false;
  break_joint(id.index);
  return true;
}

bool World::alive(JointId id) const {
  return id.index < parts_->state.joints.size() && parts_->state.joints[id.index].alive &&
         parts_->state.joints[id.index].generation == id.generation;
}

const World::Joint& World::get(JointId id) const {
  if (alive(id)) return parts_->state.joints[id.index];
  fail({{}, "joint", filled("index {}, generation {}", id.index, id.generation), "a joint that is there", {}});
}

World::Joint& World::get(JointId id) {
  Joint& joint = const_cast<Joint&>(std::as_const(*this).get(id));
  wake_slot(joint.a);
  if (joint.b != none) wake_slot(joint.b);
  return joint;
}

JointFacts World::facts(JointId id) const {
  const Joint& joint = get(id);
  const Body& a = parts_->state.bodies[joint.a];
  const Body still, &b = joint.b == none ? still : parts_->state.bodies[joint.b];
  const JointFrame frame(joint, a.centre, a.pose.orientation, b.centre, b.pose.orientation);
  JointFacts facts;
  facts.position = frame.position;
  facts.force = joint.force, facts.torque = joint.torque;
  facts.motor = joint.motor_force;
  if (joint.kind == JointKind::hinge) {
    facts.speed = dot(a.spin - b.spin, frame.axis);
    facts.torque += joint.axial;
  } else if (joint.kind != JointKind::ball && joint.kind != JointKind::fixed) {
    facts.speed = dot(a.velocity + cross(a.spin, frame.lever_a), frame.axis) -
                  dot(b.velocity + cross(b.spin, frame.lever_b), frame.axis_b);
    facts.force += joint.axial;
  }
  return facts;
}

void World::set_motor(JointId id, double speed, double limit) {
  if (!std::isfinite(speed) || !(limit >= 0) || !std::isfinite(limit))
    fail({{}, "motor", filled("{}, {}", speed, limit), "a finite speed, and a limit of 0 or more", {}});
  Joint& joint = get(id);
  joint.motor_speed = speed, joint.motor_limit = limit;
}

void World::set_limits(JointId id, double low, double high) {
  if (!(low <= high)) fail({{}, "low", filled("{}", low), filled("at most high, {}", high), {}});
  Joint& joint = get(id);
  joint.low = low, joint.high = high;
}

void World::set_spring(JointId id, double stiffness, double damping, double rest) {
  if (!(stiffness >= 0 && damping >= 0) || !std::isfinite(stiffness + damping + rest))
    fail({{},
          "spring",
          filled("{}, {}, {}", stiffness, damping, rest),
          "stiffness and damping of 0 or more, all finite",
          {}});
  Joint& joint = get(id);
  joint.stiffness = stiffness, joint.damping = damping, joint.rest = rest;
}

}  // namespace jugend
