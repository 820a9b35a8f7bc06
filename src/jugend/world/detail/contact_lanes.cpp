// Builds of contact_lanes.hpp for each kind of lanes, and which one is taken.
#include <jugend/world/detail/contact_lanes.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

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

void Solver::solve_positions(const ContactBatch& batch) {
  for (ContactRow* row : std::span(batch.at).first(batch.count)) {
    if (row->reweigh) weigh(*row);
    row->rolled = row->spun = 0;
  }
#if defined(JUGEND_AVX2)
  has_avx2 ? positions_with_avx2<ContactLanes<Quad>>(*this, batch) : positions<ContactLanes<Pairs>>(*this, batch);
#else
  positions<ContactLanes<Pairs>>(*this, batch);
#endif
  resist_turning(batch);
}

void Solver::solve_velocities(const ContactBatch& batch, bool last) {
  for (ContactRow* row : std::span(batch.at).first(batch.count)) {
    if (row->reweigh) weigh(*row);
    if (last) row->rolled = row->spun = 0;
  }
#if defined(JUGEND_AVX2)
  has_avx2 ? velocities_with_avx2<ContactLanes<Quad>>(*this, batch, last)
           : velocities<ContactLanes<Pairs>>(*this, batch, last);
#else
  velocities<ContactLanes<Pairs>>(*this, batch, last);
#endif
  resist_turning(batch);
}

void Solver::resist_turning(const ContactBatch& batch) {
  for (ContactRow* row : std::span(batch.at).first(batch.count)) {
    if (row->rolling > 0 || row->spinning > 0) resist_turning(*row);
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
