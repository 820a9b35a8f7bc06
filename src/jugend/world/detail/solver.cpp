// The order in which rows are solved, and what comes of it. Bodies: solver_bodies.cpp; the rows: contact_rows.cpp and
// joint_rows.cpp.
#include <algorithm>
#include <bit>
#include <cmath>
#include <jugend/base/fetch.hpp>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {
namespace {

constexpr std::size_t contact_grain = 48, joint_grain = 24;
constexpr double stiffest = 150;  // Hz: how fast soft constraints answer, where sub-steps allow
constexpr double damping_ratio = 8;

}  // namespace

void Solver::colour(State& state) {
  taken_.assign(bodies_.size(), 0);
  pending_contacts_.clear();
  pending_joints_.clear();
  const auto moved = [&](std::uint32_t s) { return s != 0 && poses_[s].dynamic; };
  Counts contact_count{}, joint_count{};
  const auto choose = [&](std::uint32_t a, std::uint32_t b) {
    const std::uint64_t used = (moved(a) ? taken_[a] : 0) | (moved(b) ? taken_[b] : 0);
    const auto colour = static_cast<std::uint32_t>(std::min<std::size_t>(std::countr_one(used), most_colours - 1));
    const std::uint64_t bit = std::uint64_t{1} << colour;
    if (moved(a)) taken_[a] |= bit;
    if (moved(b)) taken_[b] |= bit;
    return colour;
  };
  for (const std::uint32_t j : batch_.joints) {
    const std::uint32_t a = place_of(state, state.joints[j].a), b = place_of(state, state.joints[j].b);
    const std::uint32_t c = choose(a, b);
    pending_joints_.push_back({a, b, j, c, 0});
    ++joint_count[c];
  }
  for (const std::uint32_t i : batch_.pairs) {
    const Pair& pair = state.pairs[i];
    const std::uint32_t a = place_of(state, pair.a), b = place_of(state, pair.b);
    for (std::uint32_t k = 0; k < pair.rows(); ++k) {
      const std::uint32_t c = choose(a, b);
      pending_contacts_.push_back({a, b, pair.first + k, c, i});
      ++contact_count[c];
    }
  }
  lay_out_rows(state, contact_count, joint_count);
}

/// Rows in the order of their colours; within one, in that of the pairs.
void Solver::lay_out_rows(const State& state, const Counts& contact_count, const Counts& joint_count) {
  colours_.assign(most_colours, {});
  used_colours_ = 0;
  std::size_t contacts = 0, joints = 0;
  for (std::size_t c = 0; c < most_colours; ++c) {
    colours_[c] = {contacts, contact_count[c], joints, joint_count[c]};
    contacts += contact_count[c], joints += joint_count[c];
    if (contact_count[c] + joint_count[c] > 0) used_colours_ = c + 1;
  }
  contacts_.resize(contacts);
  joints_.resize(joints);
  Counts next_contact{}, next_joint{};
  for (std::size_t c = 0; c < most_colours; ++c)
    next_contact[c] = colours_[c].first_contact, next_joint[c] = colours_[c].first_joint;
  for (const Pending& p : pending_contacts_) {
    ContactRow& row = contacts_[next_contact[p.colour]++];
    row.a = p.a, row.b = p.b, row.contact = p.place, row.pair = p.pair;
  }
  for (const Pending& p : pending_joints_) {
    JointRow& row = joints_[next_joint[p.colour]++];
    row.a = p.a, row.b = p.b, row.joint = p.place;
  }
  std::uint32_t points = 0;
  for (ContactRow& row : contacts_) {
    row.first = points;
    row.count = state.contacts[row.contact].count;
    points += points_a_row;
  }
  points_.resize(points);
}

/// Bodies lie where they were added, contacts by colour: what later ones need is asked for now.
void Solver::fetch(const ContactRow& row) const {
  for (const std::uint32_t body : {row.a, row.b}) jugend::fetch(&bodies_[body], sizeof(SolverBody));
}

/// contacts(rows), where no two rows share a body that moves, and joints(row).
template <class Contacts, class Joints>
void Solver::each_colour(const Workers& workers, Contacts&& contacts, Joints&& joints) {
  for (std::size_t c = 0; c < used_colours_; ++c) {
    const Colour& colour = colours_[c];
    const bool alone = c == most_colours - 1;  // its rows may share bodies
    workers.over(colour.joints, alone ? colour.joints + 1 : joint_grain, [&](std::size_t first, std::size_t last) {
      for (std::size_t i = first; i < last; ++i) joints(joints_[colour.first_joint + i]);
    });
    const std::span<ContactRow> rows = std::span(contacts_).subspan(colour.first_contact, colour.contacts);
    workers.over(rows.size(), alone ? rows.size() + 1 : contact_grain, [&](std::size_t first, std::size_t last) {
      if (!alone) return contacts(rows.subspan(first, last - first));
      for (std::size_t i = first; i < last; ++i) contacts(rows.subspan(i, 1));
    });
  }
}

/// solve(batch) for those rows that `asked(row)` is true of.
template <class Asked, class Solve>
void Solver::by_four(std::span<ContactRow> rows, Asked&& asked, Solve&& solve) {
  ContactBatch batch;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (i + 4 < rows.size()) fetch(rows[i + 4]);
    if (!asked(rows[i])) continue;
    batch.at[batch.count++] = &rows[i];
    if (batch.count < std::size(batch.at)) continue;
    solve(batch);
    batch.count = 0;
  }
  if (batch.count > 0) solve(batch);
}

/// All hits of the coming sub-step.
void Solver::rebound_all(State& state, const Workers& workers) {
  constexpr int most_passes = 32;
  hit_ = elastic_.load();
  if (hit_) hit_in_.assign(bodies_.size(), -2);
  for (int pass = 0; hit_ && pass < most_passes; ++pass) {
    hit_ = false;
    const auto changed = [&](std::uint32_t body) { return hit_in_[body] + 1 >= pass; };
    const auto hit = [&](ContactRow& row) {
      if (!(row.restitution > 0)) return;
      if (pass == 0) let_go(row);
      if (pass > 0 && !changed(row.a) && !changed(row.b)) return;
      if (!row.sure && !comes_to_touch(state, row)) return;
      if (!rebound(row)) return;
      row.hit = true;
      hit_.store(true, std::memory_order_relaxed);
      for (const std::uint32_t body : {row.a, row.b}) {
        if (poses_[body].dynamic) hit_in_[body] = pass;
      }
    };
    each_colour(
        workers, [&](std::span<ContactRow> rows) { std::ranges::for_each(rows, hit); }, [](JointRow&) {});
  }
}

void Solver::load_rows(State& state, const Workers& workers) {
  elastic_ = false;
  each_colour(
      workers,
      [&](std::span<ContactRow> rows) {
        for (ContactRow& row : rows) load_contact(state, row);
      },
      [&](JointRow& row) { load_joint(state, row); });
}

void Solver::reserve(std::size_t bodies, std::size_t contacts, std::size_t joints) {
  make_room(bodies_, bodies + 1), make_room(poses_, bodies + 1), make_room(rails_, bodies);
  make_room(free_, bodies + 1), make_room(pushed_, bodies + 1), make_room(given_before_, contacts);
  make_room(hit_in_, bodies + 1), make_room(taken_, bodies + 1);
  make_room(contacts_, contacts), make_room(points_, points_a_row * contacts), make_room(joints_, joints);
  make_room(pending_contacts_, contacts), make_room(pending_joints_, joints), make_room(colours_, most_colours);
}

void Solver::run(State& state, const Workers& workers, const Settings& settings, const Batch& batch) {
  settings_ = settings, batch_ = batch;
  load_bodies(state, workers);
  if (batch.flies) {
    fly();
    return store_bodies(state, workers);
  }
  solve_together(state, workers);
  store(state, workers);
}

void Solver::solve_together(State& state, const Workers& workers) {
  const Settings& settings = settings_;
  h_ = settings.dt / settings.substeps;
  const double omega = 2 * pi * std::min(stiffest, 0.25 / h_);
  const double damp = 2 * damping_ratio + h_ * omega, firm = h_ * omega * damp;
  bias_rate_ = omega / damp;
  mass_share_ = firm / (1 + firm);
  give_ = 1 / (1 + firm);

  colour(state);
  load_rows(state, workers);
  wedged_ = is_wedged(state);
  if (wedged_) free_.resize(bodies_.size());
  const auto bodies = [&](auto&& work) {
    workers.over(bodies_.size(), body_grain, [&](std::size_t first, std::size_t last) {
      for (std::size_t i = std::max<std::size_t>(1, first); i < last; ++i) work(i);
    });
  };
  const auto press = [&](const ContactBatch& batch) { solve_contacts(batch, Phase::positions); };
  const auto presses = [&](ContactRow& row) {
    if (row.hit) return false;  // it goes back through where it touches
    let_go(row);
    if (row.asks && !(row.restitution > 0)) asked_.store(true, std::memory_order_relaxed);
    return row.sure && still_touches(state, row);
  };
  const auto comes = [&](ContactRow& row) { return row.asks && !(row.restitution > 0) && comes_to_touch(state, row); };
  const auto velocities = [&](Phase phase) {
    each_colour(
        workers,
        [&](std::span<ContactRow> rows) {
          by_four(
              rows, [](const ContactRow& row) { return row.sure; },
              [&](const ContactBatch& batch) { solve_contacts(batch, phase); });
        },
        [&](JointRow& row) { solve_joint(state, row, phase); });
  };
  // Velocities are those of the middle of each sub-step: the first kick and the last are half ones.
  kick_ = 0.5;
  bodies([&](std::size_t i) { kick(i); });
  for (int sub = 0; sub < settings.substeps; ++sub) {
    if (wedged_) note_given();
    rebound_all(state, workers);
    asked_ = false;
    each_colour(
        workers, [&](std::span<ContactRow> rows) { by_four(rows, presses, press); },
        [&](JointRow& row) { solve_joint(state, row, Phase::positions); });
    // Whether they touch goes by how fast the others let them come.
    if (asked_)
      each_colour(
          workers, [&](std::span<ContactRow> rows) { by_four(rows, comes, press); }, [](JointRow&) {});
    bodies([&](std::size_t i) { drift(i, h_); });
    velocities(Phase::velocities);
    if (wedged_) take_back_gain();
    kick_ = sub + 1 < settings.substeps ? 1.0 : 0.5;
    bodies([&](std::size_t i) { kick(i); });
  }
  if (wedged_) note_given();
  velocities(Phase::last);
  if (wedged_) take_back_gain();
}

void Solver::store(State& state, const Workers& workers) {
  const double per_step = 1 / settings_.dt, per_sub = 1 / h_;
  workers.over(contacts_.size(), contact_grain, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      const ContactRow& row = contacts_[i];
      Contact& contact = state.contacts[row.contact];
      const bool pressed = row.sure || row.given != Vec3{} || given_by(row) != Vec3{};
      if (Pair& pair = state.pairs[row.pair]; pressed && pair.count == 0) pair.count = 1;  // it was only watched
      for (std::uint32_t k = 0; k < row.count; ++k) {
        const PointRow& p = points_[row.first + k];
        ContactPoint& to = contact.points[k];
        to.force = p.sum * per_step;
        to.friction = (row.tangent_1 * p.sum_1 + row.tangent_2 * p.sum_2) * per_step;
        to.warm_force = p.yields < least_yield ? 0 : p.warm * per_sub;
        to.warm_friction = (row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2) * per_sub;
        // Where one of the two stands still, that is where they touch.
        const double found_at = to.separation;
        to.separation = PairVelocities(bodies_[row.a], bodies_[row.b]).gap(row.normal, p);
        if (!row.sure) to.separation = std::max(to.separation, 2 * settings_.tolerance);  // past one another
        if (row.looked || !row.sure) continue;
        if (bodies_[row.b].inverse_mass == Vec3{}) to.point -= row.normal * (found_at / 2);
        if (bodies_[row.a].inverse_mass == Vec3{}) to.point += row.normal * (found_at / 2);
      }
      contact.spread(row.given * per_step);
    }
  });
  const std::uint64_t tick = state.steps - static_cast<std::uint64_t>(settings_.part);
  for (const JointRow& row : joints_) {
    Joint& joint = state.joints[row.joint];
    // Over all steps of the tick; one that was asleep until now held what it held before.
    const double held = joint.told_in == tick ? 1 : static_cast<double>(settings_.part) / settings_.parts;
    const auto tell = [&](auto& mean, const auto& sum) { mean = mean * held + sum * (per_step / settings_.parts); };
    joint.told_in = tick;
    tell(joint.force, row.point.sum), joint.warm_force = row.point.warm * per_sub;
    tell(joint.torque, row.turn.sum), joint.warm_torque = row.turn.warm * per_sub;
    tell(joint.limit_force, row.limit.sum), joint.warm_limit = row.limit.warm * per_sub;
    tell(joint.motor_force, row.motor.sum), joint.warm_motor = row.motor.warm * per_sub;
    tell(joint.spring_force, row.spring.sum), joint.warm_spring = row.spring.warm * per_sub;
    tell(joint.cone_force, row.cone.sum), joint.warm_cone = row.cone.warm * per_sub;
    tell(joint.axial, row.axial);
  }
  store_bodies(state, workers);
}

}  // namespace jugend::world_state
