// Contacts looked at again within a step: does what comes really touch, and has what slides come to another place?
//
// The plane of a contact is found once a step, from bodies as they lie then. Followed further it is no surface but a
// plane that separates them: what crosses it may yet pass by. So a contact that does not touch holds nothing until a
// look at where the bodies come to shows that they do; else the look gives the next plane. One that touches is looked
// at again when the bodies have slid along one another.
#include <algorithm>
#include <cmath>
#include <jugend/world/detail/narrow.hpp>
#include <jugend/world/detail/pair_velocities.hpp>

namespace jugend::world_state {

Pose Solver::pose_in(double time, std::uint32_t solver, const Body& body) const {
  if (solver == 0) return body.pose;
  const SolverPose& p = poses_[solver];
  const SolverBody& s = bodies_[solver];
  return world_state::pose_in(time, p.centre, p.orientation, s.velocity, s.spin, body.local_centre);
}

Vec3 Solver::centre_in(double time, std::uint32_t solver, const Body& body) const {
  return solver == 0 ? body.centre : poses_[solver].centre + bodies_[solver].velocity * time;
}

/// m between the two in `time` s; infinite where that is more than `limit`.
double Solver::gap_in(const State& state, const ContactRow& row, double time, double limit) const {
  const Pair& pair = state.pairs[row.pair];
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  return distance_between((*settings_.shapes)[a.shape], pose_in(time, row.a, a), (*settings_.shapes)[b.shape],
                          pose_in(time, row.b, b), limit);
}

/// The contact of the row's pair `time` s from now that is most like the row; nothing further apart than `margin`.
bool Solver::look(const State& state, const ContactRow& row, double time, double margin, double touch,
                  Contact& found) const {
  const Pair& pair = state.pairs[row.pair];
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  const LookSettings settings{margin, touch, std::min(10 * settings_.tolerance, 0.1 * std::max(a.inner, b.inner))};
  return look_at((*settings_.shapes)[a.shape], pose_in(time, row.a, a), (*settings_.shapes)[b.shape],
                 pose_in(time, row.b, b), settings, row.normal, found);
}

/// N s that the row's points have given a so far in this step.
Vec3 Solver::given_by(const ContactRow& row) const {
  Vec3 sum;
  for (std::size_t k = 0; k < row.count; ++k) {
    const PointRow& p = points_[row.first + k];
    sum += row.normal * p.sum + row.tangent_1 * p.sum_1 + row.tangent_2 * p.sum_2;
  }
  return sum;
}

/// m that the two may slide before they touch elsewhere: points that a body carries over the face of a box, as far as
/// that reaches; of all else hardly any way.
double Solver::fresh_for(const State& state, const ContactRow& row, double time) const {
  const Pair& pair = state.pairs[row.pair];
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  const double least = 0.02 * (row.of_a ? a : b).inner;
  const Body& under = row.of_a ? b : a;
  const auto* box = std::get_if<Box>(&(*settings_.shapes)[under.shape]);
  if (box == nullptr || !row.convex) return least;
  const Pose pose = pose_in(time, row.of_a ? row.b : row.a, under);
  const Vec3 normal = abs(rotate(conjugate(pose.orientation), row.normal));
  double room = infinity;
  for (const ContactPoint& p : state.contacts[row.contact].places()) {
    const Vec3 left = box->half_extents - abs(to_local(pose, p.point));
    for (int k = 0; k < 3; ++k) {
      if (normal[k] < 0.999) room = std::min(room, left[k]);
    }
  }
  return std::max(least, 0.9 * room);
}

/// Puts a contact as it will be in `time` s in the row's place, with no impulse yet.
void Solver::take_over(State& state, ContactRow& row, const Contact& found, double time) {
  const Pair& pair = state.pairs[row.pair];
  const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const Vec3 centre_a = centre_in(time, row.a, state.bodies[pair.a]),
             centre_b = centre_in(time, row.b, state.bodies[pair.b]);
  row.given += given_by(row);
  Contact& contact = state.contacts[row.contact];
  contact = found;
  row.count = found.count;
  row.looked = true, row.passed = false;
  row.slid = 0;
  set_frame(state, row, found.normal);
  const Quat frame_a = conjugate(pose_in(time, row.a, state.bodies[pair.a]).orientation);
  for (std::uint32_t k = 0; k < row.count; ++k) {
    ContactPoint& to = contact.points[k];
    to.lever_a = to.point - centre_a, to.lever_b = to.point - centre_b;
    to.local = rotate(frame_a, to.lever_a);
    PointRow& p = points_[row.first + k];
    place_point(row, p, to.lever_a, to.lever_b);
    const Vec3 motion = (duo.va - duo.vb) * time;
    const double until = dot(row.normal, motion) + (dot(duo.wa, p.arm_a) - dot(duo.wb, p.arm_b)) * time;
    to.separation -=
        until + dot(row.normal, duo.a.moved - duo.b.moved) + dot(duo.a.turned, p.arm_a) - dot(duo.b.turned, p.arm_b);
    p.separation = to.separation;
  }
  row.fresh_for = fresh_for(state, row, time);
  row.turned_before = dot(row.normal, owner_of(row).turned + owner_of(row).spin * time);
  row.moved_before = duo.a.moved - duo.b.moved + (duo.va - duo.vb) * time;
  weigh(row);
  note_spare(row, row.restitution > 0 ? std::max(0.0, least_separation(found.places())) : infinity, true, time);
}

/// What is between the two `time` s from now: along the row's normal, which parts them, or from any side.
void Solver::note_spare(ContactRow& row, double spare, bool parted, double time) const {
  const SolverBody &a = bodies_[row.a], &b = bodies_[row.b];
  row.spare = spare, row.parted = parted;
  row.spare_moved = a.moved - b.moved + (a.velocity - b.velocity) * time;
  row.spare_turned_a = a.turned + a.spin * time, row.spare_turned_b = b.turned + b.spin * time;
}

/// They are past one another: nothing is nearer than `margin` in `time` s.
void Solver::pass_by(ContactRow& row, double margin, double time) const {
  row.passed = true;
  note_spare(row, margin, false, time);
}

/// s from now at which the two may first touch, after `from`: one of the row's points crosses its plane; or, of convex
/// shapes, some other place of them may, since they have turned.
double Solver::first_touch(const State& state, ContactRow& row, double from) {
  const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  double time = 2 * h_;
  for (std::size_t k = 0; k < row.count && !row.passed; ++k) {
    const PointRow& p = points_[row.first + k];
    const double speed = dot(row.normal, duo.relative(p.lever_a, p.lever_b)), gap = duo.gap(row.normal, p);
    // Crossed in the last sub-step, since something struck it there: from that time on.
    if (gap + speed * h_ <= 0) time = std::min(time, speed < 0 ? std::max(gap / -speed, -h_) : 0.0);
  }
  if (row.spare == infinity) return time;
  // Along the normal, where that parts them; else from any side.
  const Pair& pair = state.pairs[row.pair];
  const auto nearer = [&](const Vec3& moved, const Vec3& turned_a, const Vec3& turned_b) {
    const auto swing = [&](const Vec3& turn) { return norm(row.parted ? cross(turn, row.normal) : turn); };
    return swing(turned_a) * state.bodies[pair.a].reach + swing(turned_b) * state.bodies[pair.b].reach +
           (row.parted ? -dot(row.normal, moved) : norm(moved));
  };
  const double spare = row.spare - nearer(duo.a.moved - duo.b.moved - row.spare_moved,
                                          duo.a.turned - row.spare_turned_a, duo.b.turned - row.spare_turned_b);
  const double closing = nearer(duo.va - duo.vb, duo.wa, duo.wb);
  if (spare > closing * h_) return time;
  return std::min(time, std::max(closing > 0 ? spare / closing : 0.0, from));
}

/// What has touched and come apart again asks anew: another place of the two may touch next.
void Solver::let_go(ContactRow& row) {
  if (row.sure && row.restitution > 0 && !row.one_way) {
    const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
    const bool apart = std::ranges::all_of(
        points_of(row), [&](const PointRow& p) { return p.warm == 0 && duo.gap(row.normal, p) > settings_.slop; });
    if (apart) row.sure = false;
    if (apart && !row.parted) note_spare(row, 0, false, 0);
  }
  row.asks = !row.sure, row.hit = row.load_given = false;
}

/// Does what has not touched come to touch in this sub-step? From plane to plane, each time as far on as the bodies
/// cannot have met.
bool Solver::comes_to_touch(State& state, ContactRow& row) {
  // s: each look goes on by so much at least, and further each time: by two sub-steps in all.
  double from = 0, least = h_ / 512;
  for (int plane = 0; plane < 24; ++plane, least *= 1.26) {
    const double time = first_touch(state, row, from);
    if (time > h_) return false;
    from = std::max(from, time) + least;
    const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
    const Pair& pair = state.pairs[row.pair];
    const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
    const double speed = approach_speed(duo.va - duo.vb, duo.wa, a.reach, duo.wb, b.reach);
    const double margin = std::min(speed * (settings_.dt + h_), 0.8 * (a.inner + b.inner)) + 2 * settings_.slop;
    Contact found;
    if (row.passed) {  // further away than looks reach?
      const double gap = gap_in(state, row, time, speed * settings_.dt + margin);
      if (gap > margin) {
        pass_by(row, std::min(gap, speed * settings_.dt + margin), time);
        continue;
      }
    }
    if (!look(state, row, time, margin, settings_.tolerance, found)) {
      pass_by(row, margin, time);
      continue;
    }
    const bool touches = least_separation(found.places()) <= settings_.tolerance;
    double at = time;
    if (touches) {
      // Just over an edge the border beside it looks touched as well: a little later it is clear which of the two is.
      const double on = std::min(h_, 0.2 * (a.inner + b.inner) / std::max(speed, 1e-12));
      Contact further;
      if (look(state, row, time + on, margin, settings_.tolerance, further) &&
          dot(further.normal, found.normal) < 0.9 && least_separation(further.places()) > -settings_.slop)
        found = further, at = time + on;
    }
    take_over(state, row, found, at);
    if (!touches) continue;
    for (const PointRow& p : points_of(row))
      state.pairs[row.pair].approach =
          std::max(state.pairs[row.pair].approach, -dot(row.normal, duo.relative(p.lever_a, p.lever_b)));
    return row.sure = true;
  }
  return false;
}

/// The place of a contact that has slid, with the forces it had; false where nothing touches any more.
bool Solver::follow(State& state, ContactRow& row) {
  PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const Contact before = state.contacts[row.contact];
  double loads[4], push = 0;
  Vec3 rub;
  for (std::uint32_t k = 0; k < row.count; ++k) {  // what this sub-step's kick has given already
    const PointRow& p = points_[row.first + k];
    const Vec3 friction = row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2;
    duo.push((row.normal * p.warm + friction) * -kick_, p.lever_a, p.lever_b);
    loads[k] = p.warm, push += p.warm, rub += friction;
  }
  const Pair& pair = state.pairs[row.pair];
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  const double margin = std::min(norm(duo.va - duo.vb) * settings_.dt, 0.8 * (a.inner + b.inner)) + settings_.slop;
  Contact found;
  if (look(state, row, 0, margin, settings_.slop, found)) {
    row.sure = least_separation(found.places()) <= settings_.slop;
    take_over(state, row, found, 0);
  } else {
    row.sure = false;
    pass_by(row, margin, 0);
    for (PointRow& p : points_of(row)) p.warm = p.warm_1 = p.warm_2 = 0;
  }
  // What pressed along another normal is no load of this one.
  const bool held = row.sure && push > 0 && dot(before.normal, row.normal) > (row.jams ? 0.9995 : 0.9);
  if (held) {
    double shares[4], sum = 0;  // each point takes its own load, where all are known again
    for (std::uint32_t k = 0; k < row.count; ++k) {
      shares[k] = 0;
      for (std::uint32_t o = 0; o < before.count; ++o) {
        if (before.points[o].feature == found.points[k].feature && before.points[o].part == found.points[k].part)
          shares[k] = loads[o];
      }
      sum += shares[k];
    }
    const bool known = row.count == before.count && sum > 0.999 * push;
    for (std::uint32_t k = 0; k < row.count; ++k) {
      PointRow& p = points_[row.first + k];
      const double share = known ? shares[k] / push : 1.0 / row.count;
      p.warm = p.yields < least_yield ? 0 : push * share;
      p.warm_1 = dot(rub, row.tangent_1) * share, p.warm_2 = dot(rub, row.tangent_2) * share;
      duo.push((row.normal * p.warm + row.tangent_1 * p.warm_1 + row.tangent_2 * p.warm_2) * kick_, p.lever_a,
               p.lever_b);
    }
  }
  duo.store(row.a != 0, row.b != 0);
  return row.sure;
}

bool Solver::still_touches(State& state, ContactRow& row) {
  row.slid += sliding(row);
  const bool slid_on = row.slid > row.fresh_for && !row.one_way;
  if (slid_on && !follow(state, row)) return false;
  move_levers(row, h_ / 2);
  return true;
}

/// m that the points, which go with their owner, move along the other in a sub-step.
double Solver::sliding(const ContactRow& row) {
  const PairVelocities duo(bodies_[row.a], bodies_[row.b]);
  const PointRow& p = points_[row.first];
  const auto carried = [&](const Vec3& v, const Vec3& w, const Vec3& lever) {
    return v + cross(row.normal, lever) * dot(w, row.normal);
  };
  const Vec3 along = row.of_a ? carried(duo.va, duo.wa, p.lever_a) - duo.at_b(p.lever_b)
                              : carried(duo.vb, duo.wb, p.lever_b) - duo.at_a(p.lever_a);
  return h_ * norm(in_plane(along, row.normal));
}

}  // namespace jugend::world_state
