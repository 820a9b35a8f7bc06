// Hits: what rebounds does so at the time of its touch, pair by pair, until nothing that touches comes any nearer.
//
// A hit takes no time (Newton's law of restitution). So it comes before all that presses: the impulse that makes what
// touches leave as fast as it came, times the restitution. The two go on until they touch, rebound, and go back as long
// with their new velocities: so within the sub-step they lie as they would after it.
// One pair after the other keeps energy exactly, however many meet at once.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

/// When the first of the row's points touches, from now: negative where it has already; nothing if none does in this
/// sub-step.
std::optional<double> Solver::time_of_hit(ContactRow& row, const PairVelocities& duo, const Levers& levers) {
  std::optional<double> first;
  for (std::size_t k = 0; k < row.count; ++k) {
    const double speed = levers.speed(k, duo), gap = levers[k].gap;
    if (speed >= 0 || gap + speed * h_ > 0) continue;
    // Further in than two sub-steps can have brought it: it comes from what presses on the other side.
    if (gap < 2 * speed * h_ - settings_.slop && !row.asks) continue;
    // Deeper than this sub-step and the last can have brought it, they overlapped before.
    const double time = gap / -speed;
    first = std::min(first.value_or(h_), time < -h_ ? 0.0 : time);
  }
  return first;
}

/// True: it has rebounded.
bool Solver::rebound(ContactRow& row) {
  const std::span<PointRow> points = points_of(row);
  double gap_then[4];
  double time = 0;
  {
    const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
    const Levers levers(duo, row.normal, points);
    const auto first = time_of_hit(row, duo, levers);
    if (!first) return false;
    time = *first;
    for (std::size_t k = 0; k < points.size(); ++k) gap_then[k] = levers[k].gap + levers.speed(k, duo) * time;
  }
  go_on(row, time);
  const bool hit = rebound_now(row, time, gap_then);
  go_on(row, -time);
  return hit;
}

/// Of the impulses that take the two from `old` to `duo`: the share that gains no energy. J (v_before + v_after) / 2 is
/// the work of an impulse: none is done but that of the pull until the touch.
double Solver::share_without_gain(const ContactRow& row, const PairVelocities& old, const PairVelocities& duo,
                                  const double (&before)[4], double pulled) {
  const std::span<PointRow> points = points_of(row);
  const Levers levers(duo, row.normal, points);
  double into = 0, answered = 0;
  for (std::size_t k = 0; k < points.size(); ++k) {
    const PointRow& p = points[k];
    const double answer = levers.speed(k, duo) - before[k];
    into += p.push * (before[k] + pulled), answered += 0.5 * p.push * answer;
    const Vec3 slip = old.relative(p.lever_a, p.lever_b), now = duo.relative(p.lever_a, p.lever_b);
    for (const auto& [impulse, tangent] : {std::pair{p.slip_1, row.tangent_1}, {p.slip_2, row.tangent_2}})
      into += impulse * dot(slip, tangent), answered += 0.5 * impulse * dot(now - slip, tangent);
  }
  return into + answered > 0 && answered > 0 ? std::clamp(-into / answered, 0.0, 1.0) : 1;
}

/// Of two that touch: those of its points that `gap_then` says do.
bool Solver::rebound_now(ContactRow& row, double time, const double (&gap_then)[4]) {
  const std::span<PointRow> points = points_of(row);
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const Levers levers(duo, row.normal, points);
  // Velocities are those of the middle of the sub-step: this much the pull adds until the touch.
  const double pull = dot(row.normal, duo.a.acceleration - duo.b.acceleration), pulled = pull * (time - h_ / 2);
  const double slowest = std::max(0.01 * settings_.scale, 2 * std::abs(pull) * h_);
  double leave[4], before[4];
  bool any = false;
  for (std::size_t k = 0; k < points.size(); ++k) {
    const PointRow& p = points[k];
    const double speed = levers.speed(k, duo) + pulled;
    const bool hits = gap_then[k] <= settings_.tolerance && p.mass > 0 &&
                      speed < -slowest - p.warm / p.mass;  // a load that is held is no hit
    leave[k] = hits ? row.restitution * -speed - pulled : -infinity;
    before[k] = levers.speed(k, duo);
    any |= hits;
  }
  const auto count_load = [&](double sign) {
    for (PointRow& p : points) p.sum += sign * p.push, p.sum_1 += sign * p.slip_1, p.sum_2 += sign * p.slip_2;
  };
  if (!any) {
    if (!row.hit || row.load_given) return false;
    count_load(1);  // it has rebounded, and lies apart: what the kick gave is not taken back
    row.load_given = true;
    for (PointRow& p : points) p.push = p.slip_1 = p.slip_2 = 0;
    return false;
  }
  for (PointRow& p : points) p.push = p.slip_1 = p.slip_2 = 0;
  const PairVelocities old = duo;
  for (int round = 0; round < 60; ++round) {
    double most = 0;
    for (std::size_t k = 0; k < points.size(); ++k) {
      if (leave[k] == -infinity) continue;
      const double change =
          std::max(0.0, points[k].push - points[k].mass * (levers.speed(k, duo) - leave[k])) - points[k].push;
      levers.push(k, change, duo);
      points[k].push += change;
      most = std::max(most, std::abs(change) / points[k].mass);
    }
    rub(row, duo);
    if (most < 1e-10 * settings_.scale) break;
  }
  const double share = share_without_gain(row, old, duo, before, pulled);
  for (PointRow& p : points) {
    p.sum += share * p.push, p.sum_1 += share * p.slip_1, p.sum_2 += share * p.slip_2;
  }
  start(points);
  if (row.load_given) count_load(-1);
  row.load_given = false;
  const auto after = [&](const Vec3& from, const Vec3& to) { return from + (to - from) * share; };
  duo.va = after(old.va, duo.va), duo.wa = after(old.wa, duo.wa);
  duo.vb = after(old.vb, duo.vb), duo.wb = after(old.wb, duo.wb);
  duo.store(row.a != 0, row.b != 0);
  return true;
}

/// The two as they will be in `time` s. What moves by no force is shared by rows, and stays.
void Solver::go_on(const ContactRow& row, double time) {
  for (const std::uint32_t body : {row.a, row.b}) {
    if (body != 0 && poses_[body].dynamic) drift(body, time);
  }
}

}  // namespace jugend::world_state
