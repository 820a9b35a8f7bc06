// Bodies into the solver and out of it, their kicks and drifts.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {
namespace {

Sym3 inverse_inertia_of(const SolverPose& pose) {
  return inverse_inertia(pose.orientation * pose.principal, pose.moments, pose.locks);
}

/// The rotation by `angle` about one of a frame's own axes.
Quat about(int axis, double angle) {
  Vec3 r;
  r[axis] = angle;
  return rotation(r);
}

}  // namespace

void Solver::feel(const Water& water, SolverPose& p) {
  p.steady += water.lift * p.inverse_mass + water.driven;
  p.torque += water.turn;
  p.linear_damping += water.drag, p.angular_damping += water.drag;
}

/// Those that its pairs and joints name.
void Solver::list_rails(const State& state) {
  rails_.clear();
  const auto add = [&](std::uint32_t body) {
    if (body == none || state.bodies[body].kind != BodyKind::kinematic) return;
    const auto at = std::ranges::lower_bound(rails_, body);
    if (at == rails_.end() || *at != body) rails_.insert(at, body);
  };
  for (const std::uint32_t i : batch_.pairs) add(state.pairs[i].a), add(state.pairs[i].b);
  for (const std::uint32_t i : batch_.joints) add(state.joints[i].a), add(state.joints[i].b);
}

/// A body's place among those of the solver; 0 for what stands still.
std::uint32_t Solver::place_of(const State& state, std::uint32_t body) const {
  if (body == none) return 0;
  if (state.bodies[body].kind != BodyKind::kinematic) return state.bodies[body].solver;
  return 1 + static_cast<std::uint32_t>(std::ranges::lower_bound(rails_, body) - rails_.begin());
}

void Solver::load_bodies(State& state, const Workers& workers) {
  list_rails(state);
  const std::size_t fixed = 1 + rails_.size();
  bodies_.resize(fixed + batch_.bodies.size());
  poses_.resize(bodies_.size());
  bodies_[0] = {};
  poses_[0] = {};
  poses_[0].body = none;
  for (std::size_t i = 0; i < rails_.size(); ++i) load_body(state, 1 + i, rails_[i]);
  workers.over(batch_.bodies.size(), body_grain, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      state.bodies[batch_.bodies[i]].solver = static_cast<std::uint32_t>(fixed + i);
      load_body(state, fixed + i, batch_.bodies[i]);
    }
  });
}

void Solver::load_body(State& state, std::size_t place, std::uint32_t index) {
  const Body& body = state.bodies[index];
  SolverBody& s = bodies_[place];
  SolverPose& p = poses_[place];
  s = {};
  s.velocity = body.velocity, s.spin = body.spin;
  p = {body.centre,
       body.pose.orientation,
       {},
       0,
       {},
       body.dynamic() ? 1 / body.mass : 0,
       body.moments,
       body.principal,
       body.linear_damping,
       body.angular_damping,
       body.speed_limit,
       body.spin_limit,
       index,
       body.locks,
       body.dynamic(),
       false,
       false};
  if (!body.dynamic()) return;
  const Vec3 moves = free_axes(body.locks, lock::move_x), turns = free_axes(body.locks, lock::turn_x);
  s.velocity = times(s.velocity, moves);
  s.spin = times(s.spin, turns);
  s.inverse_mass = moves / body.mass;
  s.inverse_inertia = inverse_inertia_of(p);
  const double weight = 1 - (body.group == 0 ? 0.0 : state.lift_of(body.group));
  p.steady = (body.force + body.steady_force) / body.mass;
  if (body.has_own_gravity) {
    p.steady += body.own_gravity * weight;
  } else {
    p.gravity_share = body.gravity_scale * weight;
  }
  p.torque = body.torque + body.steady_torque;
  if (!settings_.water.empty()) feel(settings_.water[index], p);
  feel_gravity(place);
  const Vec3& m = body.moments;
  const double spread = std::max({m.x, m.y, m.z}) - std::min({m.x, m.y, m.z});
  p.tumbles = spread > 1e-9 * m.x && (body.locks & lock::turn) == 0;
  p.needle = body.needle();
}

void Solver::feel_gravity(std::size_t i) {
  const SolverPose& p = poses_[i];
  const Vec3 all = p.steady + (p.gravity_share == 0 ? Vec3{} : settings_.field->at(p.centre) * p.gravity_share);
  bodies_[i].acceleration = times(all, free_axes(p.locks, lock::move_x));
}

void Solver::kick(std::size_t i) {
  SolverPose& p = poses_[i];
  if (!p.dynamic) return;
  SolverBody& s = bodies_[i];
  if (settings_.field->has_zones()) feel_gravity(i);
  const double time = h_ * kick_;
  if (p.linear_damping == 0) {
    s.velocity += s.acceleration * time;
  } else {  // v' = a - k v, exactly
    const double left = same_bits::exp(-p.linear_damping * time);
    s.velocity = s.velocity * left + s.acceleration * ((1 - left) / p.linear_damping);
  }
  s.spin += s.inverse_inertia * p.torque * time;
  if (p.angular_damping != 0) s.spin *= same_bits::exp(-p.angular_damping * time);
  if (wedged_) free_[i] = {s.velocity, s.spin};
  s.velocity += s.warm_push * kick_;
  s.spin += s.warm_turn * kick_;
  s.warm_push = s.warm_turn = {};
  const double speed2 = squared_norm(s.velocity), spin2 = squared_norm(s.spin);
  if (speed2 > p.speed_limit * p.speed_limit) s.velocity *= p.speed_limit / std::sqrt(speed2);
  if (spin2 > p.spin_limit * p.spin_limit) s.spin *= p.spin_limit / std::sqrt(spin2);
}

void Solver::drift(std::size_t i, double time) {
  SolverPose& p = poses_[i];
  SolverBody& s = bodies_[i];
  s.moved += s.velocity * time;
  s.turned += s.spin * time;
  p.centre += s.velocity * time;
  if (s.spin == Vec3{}) return;
  if (!p.tumbles) {
    p.orientation = normalised(rotation(s.spin * time) * p.orientation);
  } else {
    // Turns about the body's own axes one after the other and back, each exact: angular momentum is kept to
    // rounding, energy without drift (Dullweber, Leimkuhler and McLachlan, J. Chem. Phys. 107, 1997).
    Quat axes = p.orientation * p.principal;
    Vec3 momentum = times(p.moments, rotate(conjugate(axes), s.spin));
    const auto turn = [&](int axis, double share) {
      const Quat q = about(axis, momentum[axis] / p.moments[axis] * share);
      axes = axes * q;
      momentum = rotate(conjugate(q), momentum);
    };
    // By so little at a time that the turns, none of which is the whole of it, do not come into step with the swing.
    constexpr double most_turn = 0.3, most_parts = 64;  // rad
    const double angle = norm(momentum) / std::min({p.moments.x, p.moments.y, p.moments.z}) * time;
    const double parts = std::clamp(std::ceil(angle / most_turn), 1.0, most_parts), part = time / parts;
    for (double k = 0; k < parts; ++k)
      turn(0, part / 2), turn(1, part / 2), turn(2, part), turn(1, part / 2), turn(0, part / 2);
    axes = normalised(axes);
    p.orientation = axes * conjugate(p.principal);
    s.spin = rotate(axes, {momentum.x / p.moments.x, momentum.y / p.moments.y, momentum.z / p.moments.z});
  }
  refresh_inertia(i);
}

void Solver::refresh_inertia(std::size_t i) {
  if (poses_[i].dynamic) bodies_[i].inverse_inertia = inverse_inertia_of(poses_[i]);
}

/// How many steps a body needs to which nothing happens but its forces: one, but for what turns, or is held back, by
/// more than a little in a step.
int Solver::steps_in_flight(std::size_t i) const {
  constexpr double little_turn = 0.1, little_damping = 0.01;  // rad; share of the speed
  const SolverPose& p = poses_[i];
  if (settings_.field->has_zones()) return settings_.substeps;
  const bool steady = !p.tumbles && p.torque == Vec3{};
  // Its angular momentum may come to lie along the axis about which it spins the fastest.
  const auto most_spin = [&] {
    const Vec3 momentum = times(p.moments, rotate(conjugate(p.orientation * p.principal), bodies_[i].spin));
    return (norm(momentum) + norm(p.torque) * settings_.dt) / std::min({p.moments.x, p.moments.y, p.moments.z});
  };
  const double turn = steady ? 0 : most_spin();
  const double need =
      settings_.dt * std::max(turn / little_turn, std::max(p.linear_damping, p.angular_damping) / little_damping);
  return need < settings_.substeps ? std::max(1, static_cast<int>(std::ceil(need))) : settings_.substeps;
}

void Solver::fly() {
  wedged_ = false;
  for (std::size_t i = 1; i < bodies_.size(); ++i) {
    const int steps = steps_in_flight(i);
    h_ = settings_.dt / steps;
    kick_ = 0.5;
    kick(i);
    for (int k = 1; k <= steps; ++k) {
      drift(i, h_);
      kick_ = k < steps ? 1.0 : 0.5;
      kick(i);
    }
  }
}

void Solver::store_bodies(State& state, const Workers& workers) const {
  workers.over(batch_.bodies.size(), body_grain, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = 1 + rails_.size() + first; i < 1 + rails_.size() + last; ++i) {
      const SolverPose& p = poses_[i];
      Body& body = state.bodies[p.body];
      body.velocity = bodies_[i].velocity, body.spin = bodies_[i].spin;
      body.centre = p.centre;
      body.pose.orientation = p.orientation;
      body.pose.position = body.centre - rotate(body.pose.orientation, body.local_centre);
    }
  });
}

}  // namespace jugend::world_state
