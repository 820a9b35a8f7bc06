// Builds of contact_lanes.hpp for each kind of lanes, which one is taken, and what is asked of each row besides.
#include <algorithm>
#include <array>
#include <cmath>
#include <jugend/world/detail/contact_lanes.hpp>
#include <tuple>

namespace jugend::world_state {
namespace {

template <class Lanes>
void positions(Solver& solver, const ContactBatch& batch) {
  Lanes(solver, batch).positions();
}
template <class Lanes>
void velocities(Solver& solver, const ContactBatch& batch, bool last) {
  Lanes(solver, batch).velocities(last);
}
#if defined(JUGEND_AVX2)
template <class Lanes>
__attribute__((target("avx2"))) void positions_with_avx2(Solver& solver, const ContactBatch& batch) {
  Lanes(solver, batch).positions();
}
template <class Lanes>
__attribute__((target("avx2"))) void velocities_with_avx2(Solver& solver, const ContactBatch& batch, bool last) {
  Lanes(solver, batch).velocities(last);
}
#endif

}  // namespace

/// The kinetic energy of a row's bodies, J; where one of them moves by no force, as seen from where it is touched.
double Solver::energy_of(const ContactRow& row, const PairVelocities& duo) const {
  const PointRow& p = points_[row.first];
  const Vec3 frame = !poses_[row.a].dynamic   ? duo.at_a(p.lever_a)
                     : !poses_[row.b].dynamic ? duo.at_b(p.lever_b)
                                              : Vec3{};
  double energy = 0;
  for (const auto& [body, v, w] : {std::tuple{row.a, duo.va, duo.wa}, {row.b, duo.vb, duo.wb}}) {
    const SolverPose& pose = poses_[body];
    if (!pose.dynamic) continue;
    const Sym3 inertia = turned_diagonal(pose.orientation * pose.principal, pose.moments);
    energy += 0.5 * (squared_norm(v - frame) / pose.inverse_mass + dot(w, inertia * w));
  }
  return energy;
}

/// A row's bodies and impulses before it is solved.
struct Solver::Before {
  Vec3 va, wa, vb, wb;
  double energy;
  struct Impulses {
    double push, slip_1, slip_2;
  } points[4];
};

/// `begun`: its impulses are those of the sub-step, else what the kick has given of them.
Solver::Before Solver::before(const ContactRow& row, bool begun) {
  const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  Before b{duo.va, duo.wa, duo.vb, duo.wb, energy_of(row, duo), {}};
  for (std::uint32_t k = 0; k < row.count; ++k) {
    const PointRow& p = points_[row.first + k];
    b.points[k] = begun ? Before::Impulses{p.push, p.slip_1, p.slip_2}
                        : Before::Impulses{p.warm * kick_, p.warm_1 * kick_, p.warm_2 * kick_};
  }
  return b;
}

/// What can hardly give way is not thrown: a small turn of the normal would make any speed of a push across what is
/// locked. Impulses give such bodies no energy, but what parts them at push_speed. The rest is taken back.
void Solver::hold_back(ContactRow& row, const Before& before, bool summed) {
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  double lighter = infinity;
  for (const std::uint32_t body : {row.a, row.b}) {
    if (poses_[body].dynamic) lighter = std::min(lighter, 1 / poses_[body].inverse_mass);
  }
  const double allowed = std::max(before.energy, 0.5 * lighter * settings_.push_speed * settings_.push_speed);
  const double energy = energy_of(row, duo);
  if (energy <= allowed) return;
  // Of velocities part of the way from those before: e(s) = e0 + s b + s² c.
  const auto part = [&](double s) {
    duo.va = before.va + (duo.a.velocity - before.va) * s, duo.wa = before.wa + (duo.a.spin - before.wa) * s;
    duo.vb = before.vb + (duo.b.velocity - before.vb) * s, duo.wb = before.wb + (duo.b.spin - before.wb) * s;
  };
  part(0.5);
  const double c = 2 * (energy + before.energy) - 4 * energy_of(row, duo), b = energy - before.energy - c;
  const double root = std::sqrt(std::max(0.0, b * b + 4 * c * (allowed - before.energy)));
  const double share = c > 0 ? std::clamp((root - b) / (2 * c), 0.0, 1.0) : 0.0;
  part(share);
  duo.store(moves(&duo.a), moves(&duo.b));
  for (std::uint32_t k = 0; k < row.count; ++k) {
    PointRow& p = points_[row.first + k];
    const auto take_back = [&](double& impulse, double began, double& sum) {
      const double held = began + (impulse - began) * share;
      if (summed) sum += held - impulse;
      impulse = held;
    };
    take_back(p.push, before.points[k].push, p.sum);
    take_back(p.slip_1, before.points[k].slip_1, p.sum_1), take_back(p.slip_2, before.points[k].slip_2, p.sum_2);
    if (!summed) continue;  // else the next kick would give it once more
    const Vec3 again = row.normal * p.warm + row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2;
    if (moves(&duo.a)) add_warm(duo.a, -again, -cross(p.lever_a, again));
    if (moves(&duo.b)) add_warm(duo.b, again, cross(p.lever_b, again));
    p.warm = p.warm_1 = p.warm_2 = 0;
  }
}

/// solve() for the rows of a batch, made ready, and what comes after it.
template <class Solve>
void Solver::solve_batch(const ContactBatch& batch, bool fresh, bool summed, Solve&& solve) {
  std::array<Before, 4> was;
  const auto rows = std::span(batch.at).first(batch.count);
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (rows[i]->reweigh) weigh(*rows[i]);
    if (fresh) rows[i]->rolled = rows[i]->spun = 0;
    if (rows[i]->jams) was[i] = before(*rows[i], !fresh);
  }
  solve();
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (rows[i]->jams) hold_back(*rows[i], was[i], summed);
    if (rows[i]->rolling > 0 || rows[i]->spinning > 0) resist_turning(*rows[i]);
  }
}

void Solver::solve_positions(const ContactBatch& batch) {
  solve_batch(batch, true, false, [&] {
#if defined(JUGEND_AVX2)
    if (has_avx2) return positions_with_avx2<ContactLanes<Quad>>(*this, batch);
#endif
    positions<ContactLanes<Pairs>>(*this, batch);
  });
}

void Solver::solve_velocities(const ContactBatch& batch, bool last) {
  for (std::size_t i = 0; last && i < batch.count; ++i) move_levers(*batch.at[i], 0);
  solve_batch(batch, last, true, [&] {
#if defined(JUGEND_AVX2)
    if (has_avx2) return velocities_with_avx2<ContactLanes<Quad>>(*this, batch, last);
#endif
    velocities<ContactLanes<Pairs>>(*this, batch, last);
  });
}

/// As the lanes do it, for one.
void Solver::rub(const ContactRow& row, PairVelocities& duo) {
  using V = Vec3Lanes<One>;
  const auto inertia = [](const Sym3& m) { return Sym3Lanes<One>{{m.xx}, {m.yy}, {m.zz}, {m.xy}, {m.xz}, {m.yz}}; };
  const FrameLanes<One> frame{V::of(row.normal), V::of(row.tangent_1), V::of(row.tangent_2),
                              {row.friction},    {row.belt_1},         {row.belt_2}};
  PairLanes<One> pair{V::of(duo.va),
                      V::of(duo.wa),
                      V::of(duo.vb),
                      V::of(duo.wb),
                      V::of(duo.a.inverse_mass),
                      V::of(duo.b.inverse_mass),
                      inertia(duo.a.inverse_inertia),
                      inertia(duo.b.inverse_inertia)};
  PointLanes<One> points[4];
  for (std::uint32_t k = 0; k < row.count; ++k) {
    const PointRow& p = points_[row.first + k];
    points[k] = {V::of(p.lever_a), V::of(p.lever_b), {p.across_11}, {p.across_12},
                 {p.across_22},    {p.push},         {p.slip_1},    {p.slip_2}};
  }
  world_state::rub(frame, points, row.count, pair);
  for (std::uint32_t k = 0; k < row.count; ++k)
    points_[row.first + k].slip_1 = points[k].slip_1.it, points_[row.first + k].slip_2 = points[k].slip_2.it;
  const auto out = [](const V& v) { return Vec3{v.x.it, v.y.it, v.z.it}; };
  duo.va = out(pair.va), duo.wa = out(pair.wa), duo.vb = out(pair.vb), duo.wb = out(pair.wb);
}

}  // namespace jugend::world_state
