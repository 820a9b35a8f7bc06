// Contacts of one colour solved four at a time, side by side in lanes. Inner to the solver.
//
// No two of one colour share a body that moves, and no sum goes across lanes: so each contact comes out as it would
// alone. In memory rows lie one after the other, as all other code wants them; on the way in and out they are
// transposed.
#pragma once

#include <algorithm>
#include <cstddef>
#include <jugend/base/units.hpp>
#include <jugend/base/vec_lanes.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

/// How fast a load that is held may grow from sub-step to sub-step, where what comes is no faster than so many
/// sub-steps of free fall make it: a ton that is laid on a kilogram. What comes faster is a hit.
constexpr double load_growth = 1.3, calm_fall = 100;

/// What comes faster than so many sub-steps of free fall make it is solved until its points agree, to a share of that
/// speed: else the first of them, and the first way across, would take too much, and a hit go another way than its
/// mirror image.
constexpr double hit_fall = 5, agreed = 1e-4;
constexpr int most_passes = 40;

/// Two bodies while a constraint between them is solved, for each lane.
template <class L>
struct PairLanes {
  using V = Vec3Lanes<L>;
  V va, wa, vb, wb, inverse_mass_a, inverse_mass_b;
  Sym3Lanes<L> inverse_inertia_a, inverse_inertia_b;
  JUGEND_INLINE V relative(const V& lever_a, const V& lever_b) const {
    return (va + cross(wa, lever_a)) - (vb + cross(wb, lever_b));
  }
  JUGEND_INLINE void push(const V& impulse, const V& lever_a, const V& lever_b) {
    va += times(inverse_mass_a, impulse), wa += inverse_inertia_a * cross(lever_a, impulse);
    vb -= times(inverse_mass_b, impulse), wb -= inverse_inertia_b * cross(lever_b, impulse);
  }
};

template <class L>
struct FrameLanes {
  Vec3Lanes<L> normal, tangent_1, tangent_2;
  L friction, belt_1, belt_2;
};

template <class L>
struct PointLanes {
  Vec3Lanes<L> lever_a, lever_b;
  L across_11, across_12, across_22, push, slip_1, slip_2;
};

/// Friction holds each point, with a force that no cone of the pressed force lets grow further.
template <class L, class Point>
JUGEND_INLINE void rub(const FrameLanes<L>& frame, Point* points, std::size_t count, PairLanes<L>& duo) {
  const auto rubs = L::of(0) < frame.friction;
  if (!rubs.any()) return;
  for (std::size_t k = 0; k < count; ++k) {
    Point& p = points[k];
    const auto slip = duo.relative(p.lever_a, p.lever_b);
    const L s1 = dot(slip, frame.tangent_1) + frame.belt_1, s2 = dot(slip, frame.tangent_2) + frame.belt_2;
    L t1 = p.slip_1 - (p.across_11 * s1 + p.across_12 * s2), t2 = p.slip_2 - (p.across_12 * s1 + p.across_22 * s2);
    const L most = frame.friction * p.push, most_squared = most * most;
    const auto slips = most_squared < t1 * t1 + t2 * t2;
    if (slips.any()) {
      // It slips: against the slip itself, whatever the bodies' inertia would rather, and no further than stops what
      // moves most easily: by the lesser eigenvalue of the inverse. Where one way across is locked the other's counts,
      // the sum of both.
      const L both = p.across_11 * p.across_22, determinant = both - p.across_12 * p.across_12;
      const L half = L::of(0.5) * (p.across_11 + p.across_22), apart = L::of(0.5) * (p.across_11 - p.across_22);
      const L greater = half + root(apart * apart + p.across_12 * p.across_12);
      const auto free = both * L::of(1e-9) < determinant;
      const L least = (determinant / larger(greater, L::of(1e-300))).where(free, greater);
      const L u1 = p.slip_1 - least * s1, u2 = p.slip_2 - least * s2, squared = u1 * u1 + u2 * u2;
      const L share = (most / root(squared)).where(most_squared < squared, L::of(1));
      t1 = (u1 * share).where(slips, t1), t2 = (u2 * share).where(slips, t2);
    }
    t1 = t1.where(rubs, p.slip_1), t2 = t2.where(rubs, p.slip_2);
    duo.push(frame.tangent_1 * (t1 - p.slip_1) + frame.tangent_2 * (t2 - p.slip_2), p.lever_a, p.lever_b);
    p.slip_1 = t1, p.slip_2 = t2;
  }
}

/// The contacts of a batch. Lanes beyond them, and points beyond a contact's own, are zeros, which nothing moves.
template <class L>
class Solver::ContactLanes {
 public:
  JUGEND_INLINE ContactLanes(Solver& solver, const ContactBatch& batch) : s(solver), rows(batch) {
    for (std::size_t lane = 0; lane < 4; ++lane) {
      const bool used = lane < rows.count;
      const ContactRow& row = used ? *rows.at[lane] : no_row;
      row_at[lane] = &row.normal.x;
      a[lane] = &s.bodies_[row.a], b[lane] = &s.bodies_[row.b];
      most = std::max<std::size_t>(most, row.count);
      together.at[lane] = row.jams ? row.count : 0;
      for (std::uint32_t k = 0; k < 4; ++k) point[k][lane] = k < row.count ? &s.points_[row.first + k] : nullptr;
    }
    load_frame(), load_bodies();
    for (std::size_t k = 0; k < most; ++k) load_point(k);
    share_masses();
  }
  JUGEND_INLINE void solve(Phase phase) { phase == Phase::positions ? positions() : velocities(phase == Phase::last); }

 private:
  JUGEND_INLINE void positions();
  JUGEND_INLINE void velocities(bool last);
  using V = Vec3Lanes<L>;
  static constexpr ContactRow no_row{};
  static constexpr PointRow no_point{};
  struct Point : PointLanes<L> {
    V turn_a, turn_b;      // what the normal at the point turns about
    V answer_a, answer_b;  // and how the spins answer
    L mass, gap, yields, warm, warm_1, warm_2;
  };

  Solver& s;
  const ContactBatch& rows;
  std::size_t most = 0;  // points of one contact
  /// Where bodies cannot tilt, which point bears how much is open: solved one after the other the first would take all.
  /// So they are solved together and alike, in more rounds. The number of those points, or 0.
  Doubles4 together;
  const double* row_at[4];
  SolverBody *a[4], *b[4];
  PointRow* point[4][4];  // by number and lane
  PairLanes<L> duo;
  V apart, turned_a, turned_b;  // moved of a against b since the step's start
  V push_a, push_b;             // what an impulse of 1 along the normal does
  FrameLanes<L> frame;
  Point points[4];

  /// Four numbers, from `offset` on, of each of four things.
  JUGEND_INLINE static void side_by_side(const double* const (&from)[4], std::size_t offset, L (&out)[4]) {
    for (std::size_t i = 0; i < 4; ++i) out[i] = L::of_four(from[i] + offset);
    L::transpose(out);
  }
  JUGEND_INLINE void load_frame() {
    static_assert(offsetof(ContactRow, tangent_1) == 24 && offsetof(ContactRow, friction) == 72 &&
                  offsetof(ContactRow, belt_2) == 88);
    L m[3][4];
    for (std::size_t i = 0; i < 3; ++i) side_by_side(row_at, 4 * i, m[i]);
    frame = {{m[0][0], m[0][1], m[0][2]},
             {m[0][3], m[1][0], m[1][1]},
             {m[1][2], m[1][3], m[2][0]},
             m[2][1],
             m[2][2],
             m[2][3]};
  }
  JUGEND_INLINE static void load_body(SolverBody* const (&bodies)[4], V& v, V& w, V& moved, V& turned, V& inverse_mass,
                                      Sym3Lanes<L>& inverse_inertia) {
    static_assert(offsetof(SolverBody, moved) == 48 && offsetof(SolverBody, inverse_mass) == 96 &&
                  offsetof(SolverBody, inverse_inertia) == 120 && offsetof(SolverBody, acceleration) == 168);
    const double* at[4];
    for (std::size_t i = 0; i < 4; ++i) at[i] = &bodies[i]->velocity.x;
    L m[6][4];
    for (std::size_t i = 0; i < 6; ++i) side_by_side(at, 4 * i, m[i]);
    v = {m[0][0], m[0][1], m[0][2]}, w = {m[0][3], m[1][0], m[1][1]};
    moved = {m[1][2], m[1][3], m[2][0]}, turned = {m[2][1], m[2][2], m[2][3]};
    inverse_mass = {m[3][0], m[3][1], m[3][2]};
    inverse_inertia = {m[3][3], m[4][0], m[4][1], m[4][2], m[4][3], m[5][0]};
  }
  JUGEND_INLINE void load_bodies() {
    V moved_a, moved_b;
    load_body(a, duo.va, duo.wa, moved_a, turned_a, duo.inverse_mass_a, duo.inverse_inertia_a);
    load_body(b, duo.vb, duo.wb, moved_b, turned_b, duo.inverse_mass_b, duo.inverse_inertia_b);
    apart = moved_a - moved_b;
    push_a = times(duo.inverse_mass_a, frame.normal), push_b = times(duo.inverse_mass_b, frame.normal);
  }
  JUGEND_INLINE void load_point(std::size_t k) {
    static_assert(offsetof(PointRow, lever_b) == 24 && offsetof(PointRow, arm_a) == 48 &&
                  offsetof(PointRow, separation) == 96 && offsetof(PointRow, across_12) == 128 &&
                  offsetof(PointRow, warm_2) == 184);
    const double* at[4];
    for (std::size_t i = 0; i < 4; ++i) at[i] = point[k][i] != nullptr ? &point[k][i]->lever_a.x : &no_point.lever_a.x;
    L m[6][4];
    for (std::size_t i = 0; i < 6; ++i) side_by_side(at, 4 * i, m[i]);
    Point& p = points[k];
    p.lever_a = {m[0][0], m[0][1], m[0][2]}, p.lever_b = {m[0][3], m[1][0], m[1][1]};
    const V arm_a = {m[1][2], m[1][3], m[2][0]}, arm_b = {m[2][1], m[2][2], m[2][3]};
    p.mass = m[3][1], p.yields = m[3][2];
    p.across_11 = m[3][3], p.across_12 = m[4][0], p.across_22 = m[4][1];
    p.push = m[4][2], p.slip_1 = m[4][3], p.slip_2 = m[5][0];
    p.warm = m[5][1], p.warm_1 = m[5][2], p.warm_2 = m[5][3];
    p.turn_a = cross(p.lever_a, frame.normal), p.turn_b = cross(p.lever_b, frame.normal);
    p.answer_a = duo.inverse_inertia_a * p.turn_a, p.answer_b = duo.inverse_inertia_b * p.turn_b;
    p.gap = m[3][0] + dot(frame.normal, apart) + (dot(turned_a, arm_a) - dot(turned_b, arm_b));
  }

  JUGEND_INLINE L speed(const Point& p, const PairLanes<L>& at) const {
    return dot(frame.normal, at.va - at.vb) + dot(at.wa, p.turn_a) - dot(at.wb, p.turn_b);
  }
  JUGEND_INLINE void share_masses() {
    const L parts = L::of(together), zero = L::of(0);
    const auto jams = zero < parts;
    if (!jams.any()) return;
    L least = L::of(infinity);
    for (std::size_t k = 0; k < most; ++k)
      least = smaller(least, points[k].mass.where(zero < points[k].mass, L::of(infinity)));
    for (std::size_t k = 0; k < most; ++k)
      points[k].mass = (least / parts).where(jams & (zero < points[k].mass), points[k].mass);
  }
  /// Rounds over the points: total(point, k, speed) is what its impulse becomes.
  template <class Total>
  JUGEND_INLINE void rounds(bool backwards, Total&& total) {
    const auto jams = L::of(0) < L::of(together);
    const bool any = jams.any();
    for (int n = 0; n < (any ? 8 : 2); ++n) {
      const PairLanes<L> before = duo;
      for (std::size_t i = 0; i < most; ++i) {
        const std::size_t k = backwards ? most - 1 - i : i;
        Point& p = points[k];
        L now = speed(p, duo);
        if (any) now = speed(p, before).where(jams, now);
        const L to = total(p, k, now);
        push(p, n < 2 ? to : to.where(jams, p.push));
      }
    }
  }
  /// press() and friction, in turn: once, and where there is a hit, which comes with `approach` to what is `pulled` so
  /// much, until they agree.
  template <class Press>
  JUGEND_INLINE void settle(const L& approach, const L& pulled, Press&& press) {
    const L fall = L::of(hit_fall * s.h_) * pulled;
    // What is partly locked is solved in rounds of its own, and friction there need not come to agree.
    auto unsettled = (fall < approach) & ~(L::of(0) < L::of(together));
    for (int pass = 0;; ++pass) {
      const PairLanes<L> before = duo;
      L old[4][3];
      for (std::size_t k = 0; k < most; ++k)
        old[k][0] = points[k].push, old[k][1] = points[k].slip_1, old[k][2] = points[k].slip_2;
      press();
      world_state::rub(frame, points, most, duo);
      if (pass == 0) {
        if (!unsettled.any()) return;
        continue;
      }
      L change = L::of(0);
      for (std::size_t k = 0; k < most; ++k) {
        Point& p = points[k];
        L* const now[] = {&p.push, &p.slip_1, &p.slip_2};
        for (std::size_t i = 0; i < 3; ++i) {
          const L more = *now[i] - old[k][i];
          change = larger(change, larger(more, L::of(0) - more) / larger(p.mass, L::of(1e-300)));
          *now[i] = now[i]->where(unsettled, old[k][i]);
        }
      }
      duo.va = duo.va.where(unsettled, before.va), duo.wa = duo.wa.where(unsettled, before.wa);
      duo.vb = duo.vb.where(unsettled, before.vb), duo.wb = duo.wb.where(unsettled, before.wb);
      unsettled = unsettled & (L::of(agreed) * approach < change);
      if (!unsettled.any() || pass == most_passes) return;
    }
  }
  /// m/s², of whichever of the two is pulled more.
  JUGEND_INLINE L pull() const {
    const auto strength = [](SolverBody* const(&bodies)[4]) JUGEND_INLINE_LAMBDA {
      const double* at[4];
      for (std::size_t lane = 0; lane < 4; ++lane) at[lane] = &bodies[lane]->velocity.x;
      L m[4];
      side_by_side(at, 20, m);
      return root(m[1] * m[1] + m[2] * m[2] + m[3] * m[3]);
    };
    return larger(strength(a), strength(b));
  }
  JUGEND_INLINE void push(Point& p, const L& total) {
    const L more = total - p.push;
    duo.va += push_a * more, duo.wa += p.answer_a * more;
    duo.vb -= push_b * more, duo.wb -= p.answer_b * more;
    p.push = total;
  }
  /// What each point's impulse begins with: the share of last sub-step's that the kick has given the bodies.
  JUGEND_INLINE void start() {
    const L kick = L::of(s.kick_);
    for (std::size_t k = 0; k < most; ++k) {
      Point& p = points[k];
      p.push = p.warm * kick, p.slip_1 = p.warm_1 * kick, p.slip_2 = p.warm_2 * kick;
    }
  }

  /// `number` of each point of the batch is what its lane has.
  JUGEND_INLINE void put(std::size_t k, double PointRow::*number, const L& value) const {
    Doubles4 out;
    value.store(out);
    for (std::size_t lane = 0; lane < 4; ++lane) {
      if (point[k][lane] != nullptr) point[k][lane]->*number = out.at[lane];
    }
  }
  JUGEND_INLINE void store_impulses(std::size_t k) const {
    put(k, &PointRow::push, points[k].push);
    put(k, &PointRow::slip_1, points[k].slip_1), put(k, &PointRow::slip_2, points[k].slip_2);
  }
  /// Fixed bodies are shared by threads, and what moves by no force by lanes: they are never written.
  JUGEND_INLINE void store_body(SolverBody* const (&bodies)[4], const V& v, const V& w) const {
    Vec3s4 velocities, spins;
    v.store(velocities), w.store(spins);
    for (std::size_t lane = 0; lane < rows.count; ++lane) {
      if (s.moves(bodies[lane])) bodies[lane]->velocity = velocities.get(lane), bodies[lane]->spin = spins.get(lane);
    }
  }
  JUGEND_INLINE void store_bodies() const { store_body(a, duo.va, duo.wa), store_body(b, duo.vb, duo.wb); }
  JUGEND_INLINE void add_warm(SolverBody* const (&bodies)[4], const V& change, const V& turn) const {
    Vec3s4 changes, turns;
    change.store(changes), turn.store(turns);
    for (std::size_t lane = 0; lane < rows.count; ++lane) {
      if (s.moves(bodies[lane]))
        bodies[lane]->warm_push += changes.get(lane), bodies[lane]->warm_turn += turns.get(lane);
    }
  }
};

template <class L>
void Solver::ContactLanes<L>::positions() {
  start();
  const L zero = L::of(0), per_h = L::of(1 / s.h_);
  struct Aim {
    L mass, speed, give;
  } aims[4];
  for (std::size_t k = 0; k < most; ++k) {
    const Point& p = points[k];
    // What is apart may come until it touches; what is inside goes out as a soft spring would have it.
    const auto apart_still = L::of(s.settings_.slop).where(zero < p.warm) < p.gap;
    const L bias = larger(p.gap * L::of(s.bias_rate_), L::of(-s.settings_.push_speed) * p.yields);
    aims[k] = {p.mass * L::of(s.mass_share_).where(~apart_still, L::of(1)), (p.gap * per_h).where(apart_still, bias),
               L::of(s.give_).where(~apart_still)};
  }
  L fastest = zero;
  for (std::size_t k = 0; k < most; ++k)  // a contact's own points: what others beside it have more is no touch
    fastest = larger(fastest, (zero - speed(points[k], duo)).where(zero < points[k].mass, zero));
  Doubles4 approach;
  fastest.store(approach);
  for (std::size_t lane = 0; lane < rows.count; ++lane) rows.at[lane]->approach = approach.at[lane];
  settle(fastest, pull(), [&]() JUGEND_INLINE_LAMBDA {
    rounds(false, [&](Point& p, std::size_t k, const L& now) JUGEND_INLINE_LAMBDA {
      return larger(p.push - aims[k].mass * (now + aims[k].speed) - aims[k].give * p.push, zero);
    });
  });
  store_bodies();
  for (std::size_t k = 0; k < most; ++k) store_impulses(k);
}

template <class L>
void Solver::ContactLanes<L>::velocities(bool last) {
  if (last) start();  // after the last half kick: a new impulse, for what that brought
  const L zero = L::of(0), h = L::of(s.h_);
  struct Aim {
    typename L::Mask apart, held;
    L speed;
  } aims[4];
  for (std::size_t k = 0; k < most; ++k) {
    const Point& p = points[k];
    // Apart: the next look at positions will stop what comes. A load held before may go.
    const auto held = ~(p.warm == zero);
    const auto apart_still = L::of(s.settings_.slop).where(zero < p.warm, L::of(s.settings_.tolerance)) < p.gap;
    aims[k] = {apart_still, held, (zero - p.gap / h).where(apart_still)};
  }
  // The other way round than before, so that no corner is always the last.
  Doubles4 approach;
  for (std::size_t lane = 0; lane < rows.count; ++lane) approach.at[lane] = rows.at[lane]->approach;
  const L pulled = pull();
  settle(L::of(approach), pulled, [&]() JUGEND_INLINE_LAMBDA {
    rounds(true, [&](Point& p, std::size_t k, const L& now) JUGEND_INLINE_LAMBDA {
      // What has only just come near is no load yet: it may want to rebound.
      const auto active = aims[k].held | ~(p.push == zero);
      const L room = p.push.where(aims[k].apart, L::of(infinity));
      return within(p.push - p.mass * (now - aims[k].speed), zero, room).where(active, p.push);
    });
  });
  V impulses{zero, zero, zero}, twist_a = impulses, twist_b = impulses;
  const L growth = L::of(load_growth).where(L::of(approach) < L::of(calm_fall) * pulled * h, L::of(1));
  for (std::size_t k = 0; k < most; ++k) {
    Point& p = points[k];
    // What comes fast is a hit, and its impulse no measure of the load to come: that grows by the bodies' own weight.
    const L most_load = p.warm * growth + pulled * p.mass * h;
    L share = smaller(most_load / larger(p.push, L::of(1e-300)), L::of(1 / s.kick_));
    share = share.where(L::of(least_yield) <= p.yields);
    // Points of a wedged body press against one another as hard as they like: no load is as strong as that. Nor is what
    // parts two that lie deep in one another.
    const L push_speed = L::of(s.settings_.push_speed), per_push = p.mass / larger(p.push, L::of(1e-300));
    share = smaller(share, L::of(3) * push_speed * per_push).where(p.yields < L::of(free_yield), share);
    p.warm = p.push * share, p.warm_1 = p.slip_1 * share, p.warm_2 = p.slip_2 * share;
    const V impulse = frame.normal * p.warm + frame.tangent_1 * p.warm_1 + frame.tangent_2 * p.warm_2;
    impulses += impulse, twist_a += cross(p.lever_a, impulse), twist_b += cross(p.lever_b, impulse);
    store_impulses(k);
    put(k, &PointRow::warm, p.warm), put(k, &PointRow::warm_1, p.warm_1), put(k, &PointRow::warm_2, p.warm_2);
    for (PointRow* row : point[k]) {
      if (row != nullptr) row->sum += row->push, row->sum_1 += row->slip_1, row->sum_2 += row->slip_2;
    }
  }
  store_bodies();
  const V back = V{zero, zero, zero} - impulses, back_twist = V{zero, zero, zero} - twist_b;
  add_warm(a, times(duo.inverse_mass_a, impulses), duo.inverse_inertia_a * twist_a);
  add_warm(b, times(duo.inverse_mass_b, back), duo.inverse_inertia_b * back_twist);
}

}  // namespace jugend::world_state
