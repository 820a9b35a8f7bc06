// Builds of contact_lanes.hpp for each kind of lanes, which one is taken, and what is asked of each row besides.
#include <array>
#include <jugend/world/detail/contact_jams.hpp>
#include <jugend/world/detail/contact_lanes.hpp>
#include <optional>

namespace jugend::world_state {
namespace {

template <class Lanes>
void solve(Solver& solver, const ContactBatch& batch, Phase phase) {
  Lanes(solver, batch).solve(phase);
}
#if defined(JUGEND_AVX2)
template <class Lanes>
__attribute__((target("avx2"))) void solve_with_avx2(Solver& solver, const ContactBatch& batch, Phase phase) {
  Lanes(solver, batch).solve(phase);
}
#endif

}  // namespace

void Solver::solve_contacts(const ContactBatch& batch, Phase phase) {
  const auto rows = std::span(batch.at).first(batch.count);
  std::array<std::optional<Jam>, std::size(ContactBatch{}.at)> jams;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    ContactRow& row = *rows[i];
    if (phase == Phase::last) move_levers(row, 0);
    if (row.reweigh) weigh(row);
    if (phase != Phase::velocities) row.rolled = row.spun = 0;
    if (row.bounded) jams[i].emplace(*this, row, phase);
  }
#if defined(JUGEND_AVX2)
  has_avx2 ? solve_with_avx2<ContactLanes<Quad>>(*this, batch, phase) : solve<ContactLanes<Pairs>>(*this, batch, phase);
#else
  solve<ContactLanes<Pairs>>(*this, batch, phase);
#endif
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (jams[i]) jams[i]->hold_back();
    if (rows[i]->rolling > 0 || rows[i]->spinning > 0) resist_turning(*rows[i]);
  }
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
