// A step of the world, in its order: boxes, pairs, contacts, who wakes, the solver, events, who sleeps.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/world/joint_frame.hpp>
#include <jugend/world/narrow.hpp>
#include <jugend/world/world.hpp>
#include <utility>

namespace jugend {

using namespace world_state;

namespace {

constexpr double longest_step = 1.0 / 60, longest_substep = 1.0 / 720;
constexpr double asleep_after = 0.25;                      // s of stillness
constexpr double still_speed = 0.012, still_spin = 0.025;  // m/s, rad/s
constexpr std::size_t piece = 64;

int parts_of(double dt, double longest) { return std::max(1, static_cast<int>(std::ceil(dt / longest - 1e-6))); }

}  // namespace

void World::step(double dt) {
  if (!(dt >= 0 && dt <= 10)) throw InputError({{}, "dt", fmt::format("{}", dt), "0 to 10 s", {}});
  events_.clear();
  broken_.clear();
  if (dt == 0) return;
  refresh_lists();
  for (const auto* list : {&state_.awake, &state_.kinematic}) {
    for (const std::uint32_t i : *list) state_.bodies[i].before = state_.bodies[i].pose;
  }
  const int parts = parts_of(dt, longest_step);
  for (int i = 0; i < parts; ++i) inner_step(dt / parts);
  for (const std::uint32_t i : state_.awake) state_.bodies[i].force = state_.bodies[i].torque = {};
}

void World::inner_step(double dt) {
  refresh_lists();
  bear_up(dt);
  move_leaves(dt);
  find_pairs();
  list_active();
  find_contacts(dt);
  join_contacts_of_abutting();
  settle_pairs(dt);
  refresh_lists();
  list_active();
  solver_.run(state_, workers_,
              {dt, parts_of(dt, longest_substep), tolerance_, 20 * tolerance_, 3 * scale_, scale_, &field_, active_});
  report(dt);
  put_to_sleep(dt);
  ++state_.steps;
}

void World::refresh_lists() {
  if (!lists_changed_) return;
  lists_changed_ = false;
  active_changed_ = true;
  state_.awake.clear();
  state_.kinematic.clear();
  for (std::uint32_t i = 0; i < state_.bodies.size(); ++i) {
    Body& body = state_.bodies[i];
    if (!body.alive) continue;
    body.solver = 0;
    if (body.dynamic() && !body.asleep) state_.awake.push_back(i);
    if (body.kind == BodyKind::kinematic) state_.kinematic.push_back(i);
  }
}

/// The pairs that a step looks at: those with a body that is awake or moved. Where nothing comes, goes, wakes
/// or falls asleep the list stays, and sleepers cost nothing.
void World::list_active() {
  if (!active_changed_) return;
  active_changed_ = false;
  stirring_.assign(state_.bodies.size(), 0);
  for (const std::uint32_t i : state_.awake) stirring_[i] = 1;
  for (const std::uint32_t i : state_.kinematic) stirring_[i] = state_.bodies[i].moving();
  active_.clear();
  for (std::uint32_t i = 0; i < state_.pairs.size(); ++i) {
    if (stirs(state_.pairs[i])) active_.push_back(i);
  }
}

/// Boxes in the tree are wider than their bodies by a margin and by where they are headed, so that most can
/// stay as they are from step to step.
void World::move_leaves(double dt) {
  moved_.clear();
  const auto add_outgrown = [&](const std::vector<std::uint32_t>& list) {
    needed_.resize(list.size());
    outgrown_.resize(list.size());
    workers_.over(list.size(), piece, [&](std::size_t first, std::size_t last) {
      for (std::size_t k = first; k < last; ++k) {
        const Body& body = state_.bodies[list[k]];
        outgrown_[k] = 0;
        if (body.kind == BodyKind::kinematic && !body.moving()) continue;
        const Bounds now = bounds(shapes_[body.shape], body.pose);
        const double turning = std::min(2.0, norm(body.spin) * dt) * body.reach;
        needed_[k] = now.swept(body.velocity * dt).grown(turning + 0.005 * scale_);
        const Bounds& fat = state_.tree.bounds(body.leaf);
        outgrown_[k] = !fat.contains(needed_[k]) || fat.half_area() > 8 * needed_[k].grown(0.05 * scale_).half_area();
      }
    });
    for (std::size_t k = 0; k < list.size(); ++k) {
      if (!outgrown_[k]) continue;
      const Body& body = state_.bodies[list[k]];
      state_.tree.move(body.leaf, needed_[k].swept(body.velocity * (2 * dt)).grown(0.03 * scale_));
      moved_.push_back(list[k]);
    }
  };
  add_outgrown(state_.kinematic);
  add_outgrown(state_.awake);
  moved_.insert(moved_.end(), newcomers_.begin(), newcomers_.end());
  newcomers_.clear();
  std::ranges::sort(moved_);
  moved_.erase(std::unique(moved_.begin(), moved_.end()), moved_.end());
}

bool World::ignores(std::uint32_t a, std::uint32_t b) const {
  const Body &x = state_.bodies[a], &y = state_.bodies[b];
  if ((x.layers & y.meets) == 0 || (y.layers & x.meets) == 0) return true;
  if (x.group != 0 && x.group == y.group && !state_.collide_within(x.group)) return true;
  for (const Joint& joint : state_.joints) {
    if (joint.alive && !joint.collide && ((joint.a == a && joint.b == b) || (joint.a == b && joint.b == a)))
      return true;
  }
  return pair_rule_ && !pair_rule_(id_of(a), id_of(b));
}

void World::find_pairs() {
  if (filters_changed_) {
    for (Pair& pair : state_.pairs) pair.ignored = ignores(pair.a, pair.b);
    filters_changed_ = false;
  }
  const std::size_t pieces = (moved_.size() + piece - 1) / piece;
  while (found_by_piece_.size() < pieces) found_by_piece_.emplace_back().reserve(64);
  workers_.over(moved_.size(), piece, [&](std::size_t first, std::size_t last) {
    std::vector<Found>& found = found_by_piece_[first / piece];
    found.clear();
    for (std::size_t k = first; k < last; ++k) {
      const std::uint32_t i = moved_[k];
      const Body& body = state_.bodies[i];
      state_.tree.within(state_.tree.bounds(body.leaf), [&](std::uint32_t j) {
        const Body& other = state_.bodies[j];
        const bool matter = body.dynamic() || other.dynamic();
        const bool sensed =
            (body.sensor || other.sensor) && body.kind != BodyKind::fixed && other.kind != BodyKind::fixed;
        const bool watched =
            (body.sensor && other.kind != BodyKind::fixed) || (other.sensor && body.kind != BodyKind::fixed);
        if (i == j || !(matter || sensed || watched) || (body.sensor && other.sensor)) return;
        const std::uint32_t a = std::min(i, j), b = std::max(i, j);
        if (state_.pair_index.find(a, b) == none) found.push_back({a, b});
      });
    }
  });
  found_.clear();
  for (std::size_t p = 0; p < pieces; ++p)
    found_.insert(found_.end(), found_by_piece_[p].begin(), found_by_piece_[p].end());
  std::sort(found_.begin(), found_.end());
  for (const Found& f : found_) {
    if (state_.pair_index.find(f.a, f.b) != none) continue;  // found from both sides
    const Body &a = state_.bodies[f.a], &b = state_.bodies[f.b];
    const auto parts = [&](const Body& body) { return shapes_[body.shape].index() >= Shape(CompoundRef{}).index(); };
    Pair pair;
    pair.a = f.a, pair.b = f.b;
    if (parts(a) && !parts(b)) std::swap(pair.a, pair.b);  // the one with many parts stands second
    pair.capacity = parts(a) || parts(b) ? State::most_contacts : 1;
    pair.sensor = a.sensor || b.sensor;
    pair.one_way = a.has_one_way || b.has_one_way;
    pair.ignored = ignores(f.a, f.b);
    auto& free = pair.capacity == 1 ? state_.free_single : state_.free_block;
    if (free.empty()) {
      pair.first = static_cast<std::uint32_t>(state_.contacts.size());
      state_.contacts.resize(state_.contacts.size() + pair.capacity);
      free.reserve(state_.contacts.size() / pair.capacity + 1);
    } else {
      pair.first = free.back();
      free.pop_back();
    }
    state_.pair_index.set(f.a, f.b, static_cast<std::uint32_t>(state_.pairs.size()));
    state_.pairs.push_back(pair);
    active_changed_ = true;
  }
}

void World::remove_pair(std::uint32_t place) {
  active_changed_ = true;
  const Pair gone = state_.pairs[place];
  if (gone.was_touching)
    events_.push_back(
        {gone.sensor ? ContactKind::leave : ContactKind::end, id_of(gone.a), id_of(gone.b), {}, {}, 0, 0});
  (gone.capacity == 1 ? state_.free_single : state_.free_block).push_back(gone.first);
  state_.pair_index.erase(gone.a, gone.b);
  state_.pairs[place] = state_.pairs.back();
  state_.pairs.pop_back();
  if (place < state_.pairs.size()) state_.pair_index.set(state_.pairs[place].a, state_.pairs[place].b, place);
}

void World::find_contacts(double dt) {
  const NarrowSettings settings{dt, tolerance_, 0.5 * norm(field_.uniform) * dt * dt};
  workers_.over(active_.size(), piece, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      Pair& pair = state_.pairs[active_[i]];
      if (i + 3 < last) {  // bodies and contacts lie far apart: have them come
        const Pair& later = state_.pairs[active_[i + 3]];
        const auto fetch = [](const void* at, std::size_t bytes) {
          for (std::size_t line = 0; line < bytes; line += 64) __builtin_prefetch(static_cast<const char*>(at) + line);
        };
        fetch(&state_.bodies[later.a], 320), fetch(&state_.bodies[later.b], 320);
        fetch(&state_.contacts[later.first], sizeof(Contact));
      }
      world_state::find_contacts(state_, shapes_, pair, settings);
    }
  });
}

/// Seams between fixed bodies that lie side by side.
void World::join_contacts_of_abutting() {
  first_of_body_.assign(state_.bodies.size() + 1, 0);
  const auto of_one = [&](const Pair& pair) -> std::uint32_t {  // the one dynamic body of the two
    if (pair.count == 0) return none;
    const Body &a = state_.bodies[pair.a], &b = state_.bodies[pair.b];
    if (a.dynamic() == b.dynamic()) return none;
    const std::uint32_t i = a.dynamic() ? pair.a : pair.b;
    return state_.bodies[i].asleep ? none : i;
  };
  std::size_t count = 0;
  for (const std::uint32_t p : active_) {
    if (const std::uint32_t i = of_one(state_.pairs[p]); i != none) ++first_of_body_[i + 1], ++count;
  }
  if (count == 0) return;
  for (std::size_t i = 1; i < first_of_body_.size(); ++i) first_of_body_[i] += first_of_body_[i - 1];
  pairs_of_body_.resize(count);
  parent_.assign(first_of_body_.begin(), first_of_body_.end());
  for (const std::uint32_t p : active_) {
    if (const std::uint32_t i = of_one(state_.pairs[p]); i != none) pairs_of_body_[parent_[i]++] = p;
  }
  workers_.over(state_.awake.size(), piece, [&](std::size_t first, std::size_t last) {
    for (std::size_t k = first; k < last; ++k) {
      const std::uint32_t i = state_.awake[k];
      const std::uint32_t from = first_of_body_[i], to = first_of_body_[i + 1];
      if (to - from < 2) continue;
      const double seam = std::min(100 * tolerance_, 0.1 * state_.bodies[i].inner);
      drop_inner_edges(state_, shapes_, i, std::span(pairs_of_body_).subspan(from, to - from), seam);
    }
  });
}

/// Pairs that are far from one another go; what is touched wakes.
void World::settle_pairs(double dt) {
  // What comes so fast that it will touch in this step finds no sleeper that stands like a rock.
  const auto will_touch = [&](const Pair& pair, const Body& a, const Body& b) {
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = state_.contacts[pair.first + k];
      for (std::uint32_t i = 0; i < contact.count; ++i) {
        const ContactPoint& p = contact.points[i];
        const Vec3 relative = a.velocity + cross(a.spin, p.lever_a) - b.velocity - cross(b.spin, p.lever_b);
        if (p.separation + dot(contact.normal, relative) * dt <= tolerance_) return true;
      }
    }
    return pair.touching;
  };
  for (const std::uint32_t place : active_) {
    const Pair& pair = state_.pairs[place];
    if (pair.count == 0) continue;
    const Body &a = state_.bodies[pair.a], &b = state_.bodies[pair.b];
    if (!(a.asleep || b.asleep) || !will_touch(pair, a, b)) continue;
    if (a.asleep && (b.moving() || (b.dynamic() && !b.asleep))) wake_slot(pair.a);
    if (b.asleep && (a.moving() || (a.dynamic() && !a.asleep))) wake_slot(pair.b);
  }
  for (const std::uint32_t place : active_) {
    Pair& pair = state_.pairs[place];
    if (pair.was_touching || pair.count == 0) continue;
    const Body &a = state_.bodies[pair.a], &b = state_.bodies[pair.b];
    const Contact& c = state_.contacts[pair.first];
    pair.approach = -dot(
        c.normal, a.velocity + cross(a.spin, c.points[0].lever_a) - b.velocity - cross(b.spin, c.points[0].lever_b));
  }
  // From the back, since the last pair takes the place of one that goes.
  for (std::size_t k = active_.size(); k-- > 0;) {
    if (state_.pairs[active_[k]].lost) remove_pair(active_[k]);
  }
}

void World::report(double dt) {
  for (const std::uint32_t place : active_) {
    Pair& pair = state_.pairs[place];
    const Body &a = state_.bodies[pair.a], &b = state_.bodies[pair.b];
    bool touches = pair.sensor && !pair.ignored && overlapping(state_, shapes_, pair);
    double force = 0;
    Vec3 middle, normal;
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = state_.contacts[pair.first + k];
      for (std::uint32_t p = 0; p < contact.count; ++p) {
        const ContactPoint& point = contact.points[p];
        touches |= point.force > 0 || point.separation <= tolerance_;
        force += point.force;
        middle += point.point * (point.force + 1e-12);
        normal += contact.normal * (point.force + 1e-12);
      }
    }
    const bool began = touches && !pair.was_touching, ended = !touches && pair.was_touching;
    const bool stays = touches && pair.was_touching && (a.reports || b.reports);
    if (began || ended || stays) {
      ContactEvent event;
      event.kind = pair.sensor ? (began ? ContactKind::enter : ContactKind::leave)
                   : began     ? ContactKind::begin
                   : ended     ? ContactKind::end
                               : ContactKind::stay;
      event.a = id_of(pair.a), event.b = id_of(pair.b);
      if (pair.count > 0) {
        double weight = 0;
        for (std::uint8_t k = 0; k < pair.count; ++k) weight += 1e-12 * state_.contacts[pair.first + k].count;
        event.point = middle / (force + weight);
        event.normal = normalised(normal);
      }
      event.impulse = force * dt;
      event.speed = began && !pair.sensor ? std::max(0.0, pair.approach) : 0;
      if (!(pair.sensor && stays)) events_.push_back(event);
    }
    pair.was_touching = touches;
  }
  for (std::uint32_t j = 0; j < state_.joints.size(); ++j) {
    Joint& joint = state_.joints[j];
    if (!joint.alive) continue;
    if (joint.kind == JointKind::hinge) {  // count whole turns
      const Body& a = state_.bodies[joint.a];
      const Pose b =
          joint.b == none ? Pose{} : Pose{state_.bodies[joint.b].centre, state_.bodies[joint.b].pose.orientation};
      const double angle = JointFrame(joint, a.centre, a.pose.orientation, b.position, b.orientation).twist();
      if (angle - joint.angle > pi) joint.turns -= 2 * pi;
      if (angle - joint.angle < -pi) joint.turns += 2 * pi;
      joint.angle = angle;
    }
    const double along = std::abs(joint.limit_force + joint.motor_force + joint.spring_force);
    const bool turns = joint.kind == JointKind::hinge;
    const double force = std::hypot(norm(joint.force), turns ? 0.0 : along);
    const double torque = std::hypot(norm(joint.torque), turns ? along : joint.cone_force);
    if (force > joint.break_force || torque > joint.break_torque) {
      broken_.push_back({{j, joint.generation}, force, torque});
      break_joint(j);
    }
  }
}

/// Bodies that touch or are joined rest together or not at all.
void World::put_to_sleep(double dt) {
  bool any = false;
  for (const std::uint32_t i : state_.awake) {
    Body& body = state_.bodies[i];
    const bool still = body.can_sleep && norm(body.velocity) < still_speed * scale_ && norm(body.spin) < still_spin;
    body.still_for = still ? body.still_for + dt : 0.0;
    any |= body.still_for >= asleep_after;
  }
  if (!any) return;
  parent_.resize(state_.bodies.size());
  for (const std::uint32_t i : state_.awake) parent_[i] = i;
  const auto root = [&](std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  };
  const auto join = [&](std::uint32_t a, std::uint32_t b) {
    const std::uint32_t ra = root(a), rb = root(b);
    parent_[std::max(ra, rb)] = std::min(ra, rb);
  };
  const auto up = [&](std::uint32_t i) { return i != none && state_.bodies[i].dynamic() && !state_.bodies[i].asleep; };
  for (const std::uint32_t place : active_) {
    const Pair& pair = state_.pairs[place];
    if (!pair.was_touching || pair.sensor) continue;
    const bool a = up(pair.a), b = up(pair.b);
    if (a && b) join(pair.a, pair.b);
    if (a && state_.bodies[pair.b].moving()) state_.bodies[pair.a].still_for = 0;
    if (b && state_.bodies[pair.a].moving()) state_.bodies[pair.b].still_for = 0;
  }
  for (const Joint& joint : state_.joints) {
    if (joint.alive && up(joint.a) && up(joint.b)) join(joint.a, joint.b);
  }
  // The least rested of each island decides. Kept at the root.
  for (const std::uint32_t i : state_.awake) {
    const std::uint32_t r = root(i);
    state_.bodies[r].still_for = std::min(state_.bodies[r].still_for, state_.bodies[i].still_for);
  }
  for (const std::uint32_t i : state_.awake) {
    const std::uint32_t r = root(i);
    if (state_.bodies[r].still_for < asleep_after) continue;
    Body& body = state_.bodies[i];
    body.velocity = body.spin = {};
    body.force = body.torque = {};
    body.before = body.pose;
    body.solver = 0;
    body.asleep = true;
    // Into the ring of its island: a root's ring begins with itself.
    if (i == r) {
      body.next_asleep = i;
    } else {
      body.next_asleep = state_.bodies[r].next_asleep;
      state_.bodies[r].next_asleep = i;
    }
    lists_changed_ = true;
  }
}

}  // namespace jugend
