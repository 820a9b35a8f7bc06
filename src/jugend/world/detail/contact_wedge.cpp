// An island in which something lies deep in something else gains no energy by its contacts.
//
// Wedged bodies are pushed out on opposite sides at once, along planes that turn as they move: impulses that balanced
// throw them a moment later. No row sees that alone. So what a sub-step's impulses make of the island's kinetic energy
// is compared with what it would be without them, and what is more than what parts two bodies at push_speed is taken
// back, from all bodies and impulses by the same share.
#include <algorithm>
#include <cmath>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

/// Is a row of the island bounded, and does nothing give it energy: no belt, no joint that drives, no bodies that move
/// by no force but all alike, and not along a direction in which one of the island's is locked?
bool Solver::is_wedged(const State& state) {
  if (std::ranges::none_of(contacts_, [](const ContactRow& row) { return row.bounded; })) return false;
  for (const std::uint32_t j : batch_.joints) {
    if (state.joints[j].motor_limit > 0 || state.joints[j].stiffness > 0) return false;
  }
  ground_ = {};
  const auto fits = [&](std::uint32_t side) {  // what it lies on or hangs from, with what there was before
    if (poses_[side].dynamic) return true;
    if (bodies_[side].spin != Vec3{} || (ground_ && *ground_ != bodies_[side].velocity)) return false;
    ground_ = bodies_[side].velocity;
    return true;
  };
  const auto rows_fit = [&](const auto& rows) {
    return std::ranges::all_of(rows, [&](const auto& row) { return fits(row.a) && fits(row.b); });
  };
  if (std::ranges::any_of(contacts_, [](const ContactRow& row) { return row.belt_1 != 0 || row.belt_2 != 0; }) ||
      !rows_fit(contacts_) || !rows_fit(joints_))
    return false;
  free_ways_ = {1, 1, 1};
  for (std::size_t i = 1 + rails_.size(); i < bodies_.size(); ++i)
    free_ways_ = times(free_ways_, free_axes(poses_[i].locks, lock::move_x));
  return !ground_ || times(*ground_, free_ways_) == *ground_;
}

/// The velocity of what it lies on or hangs from, or else of its own centre of mass; but along a direction in which one
/// of its bodies is locked none: there the lock does no work.
Vec3 Solver::frame_velocity() const {
  if (ground_) return *ground_;
  Vec3 momentum;
  double mass = 0;
  for (std::size_t i = 1 + rails_.size(); i < bodies_.size(); ++i)
    momentum += free_[i].velocity / poses_[i].inverse_mass, mass += 1 / poses_[i].inverse_mass;
  return times(momentum / mass, free_ways_);
}

/// J, as seen from what moves with `frame`.
double Solver::kinetic_energy(const Vec3& frame) const {
  double sum = 0;
  for (std::size_t i = 1 + rails_.size(); i < bodies_.size(); ++i) {
    const SolverPose& p = poses_[i];
    const SolverBody& s = bodies_[i];
    const Vec3 spin = rotate(conjugate(p.orientation * p.principal), s.spin);
    sum += 0.5 * (squared_norm(s.velocity - frame) / p.inverse_mass + dot(times(p.moments, spin), spin));
  }
  return sum;
}

void Solver::note_given() {
  given_before_.resize(contacts_.size());
  for (std::size_t i = 0; i < contacts_.size(); ++i) given_before_[i] = contacts_[i].given + given_by(contacts_[i]);
}

void Solver::take_back_gain() {
  const std::size_t first = 1 + rails_.size(), count = bodies_.size();
  const Vec3 frame = frame_velocity();
  double lightest = infinity;
  pushed_.resize(count);
  for (std::size_t i = first; i < count; ++i) {
    lightest = std::min(lightest, 1 / poses_[i].inverse_mass);
    pushed_[i] = {bodies_[i].velocity, bodies_[i].spin};
  }
  const auto energy_at = [&](double share) {
    for (std::size_t i = first; i < count; ++i) {
      const Motion &from = free_[i], &to = pushed_[i];
      bodies_[i].velocity = share == 1 ? to.velocity : from.velocity + (to.velocity - from.velocity) * share;
      bodies_[i].spin = share == 1 ? to.spin : from.spin + (to.spin - from.spin) * share;
    }
    return kinetic_energy(frame);
  };
  const double all = energy_at(1), none_of_it = energy_at(0);
  const double allowed = std::max(none_of_it, 0.5 * lightest * settings_.push_speed * settings_.push_speed);
  double share = 1;
  if (all > allowed) {  // e(t) = none + t b + t² c
    const double c = 2 * (all + none_of_it) - 4 * energy_at(0.5), b = all - none_of_it - c;
    const double root = std::sqrt(std::max(0.0, b * b + 4 * c * (allowed - none_of_it)));
    share = c > 0 ? std::clamp((root - b) / (2 * c), 0.0, 1.0) : 0.0;
  }
  energy_at(share);
  if (share == 1) return;
  for (SolverBody& body : bodies_) body.warm_push *= share, body.warm_turn *= share;
  for (std::size_t i = 0; i < contacts_.size(); ++i) {
    ContactRow& row = contacts_[i];
    row.given += (row.given + given_by(row) - given_before_[i]) * (share - 1);
    for (PointRow& p : points_of(row)) p.warm *= share, p.warm_1 *= share, p.warm_2 *= share;
  }
  for (JointRow& row : joints_) {
    row.point.take_back(share), row.turn.take_back(share);
    for (Impulse<double>* i : {&row.limit, &row.motor, &row.spring, &row.cone}) i->take_back(share);
  }
}

}  // namespace jugend::world_state
