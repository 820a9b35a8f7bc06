// A step of the world, in its order: boxes, pairs and contacts (pairs.cpp), the solver, events, who sleeps.
#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/joint_frame.hpp>
#include <jugend/world/detail/narrow.hpp>
#include <jugend/world/detail/parts.hpp>
#include <utility>

namespace jugend {

using namespace world_state;

namespace {

constexpr double longest_step = 1.0 / 60, longest_substep = 1.0 / 720;
constexpr double asleep_after = 0.25;                      // s of stillness
constexpr double still_speed = 0.012, still_spin = 0.025;  // m/s, rad/s
constexpr double still_afloat = 0.2 * still_speed;         // what bobs turns round slowly

int parts_of(double dt, double longest) { return std::max(1, static_cast<int>(std::ceil(dt / longest - 1e-6))); }

}  // namespace

void check_tick(double dt) {
  if (!(dt >= 0 && dt <= 10)) fail({{}, "dt", filled("{}", dt), "0 to 10 s", {}});
}

void World::step(double dt) {
  check_tick(dt);
  need_no_question();
  if (dt == 0) return;
  parts_->events.clear();
  parts_->broken.clear();
  refresh_lists();
  for (const auto* list : {&parts_->state.awake, &parts_->state.kinematic}) {
    for (const std::uint32_t i : *list) parts_->state.bodies[i].before = parts_->state.bodies[i].pose;
  }
  const int parts = parts_of(dt, longest_step);
  for (int i = 0; i < parts; ++i) inner_step(dt / parts, i, parts);
  for (const std::uint32_t i : parts_->state.awake) parts_->state.bodies[i].force = parts_->state.bodies[i].torque = {};
}

void World::inner_step(double dt, int part, int parts) {
  const Watch& watch = parts_->watch;
  fill_in_room(parts_->struck, parts_->state.bodies.size(), 0);
  refresh_lists();
  {
    const Watched pairs(watch, "pairs");
    bear_up(dt);
    move_leaves(dt);
    find_pairs();
    list_active();
    foresee_strikes(dt);
  }
  {
    const Watched contacts(watch, "contacts");
    find_contacts(dt);
    join_contacts_of_abutting();
    settle_pairs(dt, part);
  }
  const Watched solving(watch, "solving");
  refresh_lists();
  list_active();
  parts_->islands.run(parts_->state, parts_->workers,
                      {dt, parts_of(dt, longest_substep), part, parts, parts_->tolerance, 20 * parts_->tolerance,
                       3 * parts_->scale, parts_->scale, &parts_->field, &parts_->shapes.all(), parts_->water},
                      parts_->active);
  const bool last = part + 1 == parts;
  tell_contacts(dt, part, parts);
  tell_joints(last);
  if (last) put_to_sleep(dt * parts);  // not within a tick: what is told of it counts to its end
  ++parts_->state.steps;
}

void World::refresh_lists() {
  if (!parts_->lists_changed) return;
  parts_->lists_changed = false;
  parts_->active_changed = true;
  parts_->state.awake.clear();
  parts_->state.kinematic.clear();
  for (std::uint32_t i = 0; i < parts_->state.bodies.size(); ++i) {
    Body& body = parts_->state.bodies[i];
    if (!body.alive) continue;
    body.solver = 0;
    if (body.awake()) parts_->state.awake.push_back(i);
    if (body.kind == BodyKind::kinematic) parts_->state.kinematic.push_back(i);
  }
}

/// The pairs that a step looks at: those with a body that is awake or moved. Where nothing comes, goes, wakes
/// or falls asleep the list stays, and sleepers cost nothing.
void World::list_active() {
  if (!parts_->active_changed) return;
  parts_->active_changed = false;
  fill_in_room(parts_->stirring, parts_->state.bodies.size(), 0);
  for (const std::uint32_t i : parts_->state.awake) parts_->stirring[i] = 1;
  for (const std::uint32_t i : parts_->state.kinematic) parts_->stirring[i] = parts_->state.bodies[i].moving();
  for (std::uint32_t i = 0; i < parts_->struck.size(); ++i) {
    if (!parts_->state.bodies[i].asleep || parts_->struck[i] == 0) continue;
    parts_->stirring[i] = 1;  // it may have to wake
    parts_->active_changed = true;
  }
  parts_->active.clear();
  for (std::uint32_t i = 0; i < parts_->state.pairs.size(); ++i) {
    if (stirs(parts_->state.pairs[i])) parts_->active.push_back(i);
  }
  // Not in the order of their places, which others that come and go change.
  const auto bodies = [&](std::uint32_t i) { return std::pair(parts_->state.pairs[i].a, parts_->state.pairs[i].b); };
  std::ranges::sort(parts_->active, {}, bodies);
}

/// Boxes in the tree are wider than their bodies by a margin and by where they are headed, so that most can
/// stay as they are from step to step.
void World::move_leaves(double dt) {
  parts_->moved.clear();
  const auto add_outgrown = [&](const Array<std::uint32_t>& list) {
    resize_in_room(parts_->needed, list.size());
    resize_in_room(parts_->outgrown, list.size());
    parts_->workers.over(list.size(), piece, [&](std::size_t first, std::size_t last) {
      for (std::size_t k = first; k < last; ++k) {
        const Body& body = parts_->state.bodies[list[k]];
        parts_->outgrown[k] = 0;
        if (body.kind == BodyKind::kinematic && !body.moving()) continue;
        const Bounds now = bounds(parts_->shapes[body.shape], body.pose);
        const double turning = std::min(2.0, norm(body.spin) * dt) * body.reach;
        parts_->needed[k] = now.swept(body.velocity * dt).grown(turning + 0.005 * parts_->scale);
        const Bounds& fat = parts_->state.tree.bounds(body.leaf);
        parts_->outgrown[k] = !fat.contains(parts_->needed[k]) ||
                              fat.half_area() > 8 * parts_->needed[k].grown(0.05 * parts_->scale).half_area();
      }
    });
    for (std::size_t k = 0; k < list.size(); ++k) {
      if (!parts_->outgrown[k]) continue;
      const Body& body = parts_->state.bodies[list[k]];
      parts_->state.tree.move(body.leaf, parts_->needed[k].swept(body.velocity * (2 * dt)).grown(0.03 * parts_->scale));
      parts_->moved.push_back(list[k]);
    }
  };
  add_outgrown(parts_->state.kinematic);
  add_outgrown(parts_->state.awake);
  parts_->moved.insert(parts_->moved.end(), parts_->newcomers.begin(), parts_->newcomers.end());
  parts_->newcomers.clear();
  std::ranges::sort(parts_->moved);
  parts_->moved.erase(std::unique(parts_->moved.begin(), parts_->moved.end()), parts_->moved.end());
}

/// Who met, touches on or parted, and with which force: that of the whole tick.
void World::tell_contacts(double dt, int part, int parts) {
  State& state = parts_->state;
  const bool last = part + 1 == parts;
  for (const std::uint32_t place : parts_->active) {
    Pair& pair = state.pairs[place];
    const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
    bool touches = pair.sensor && !pair.ignored && overlapping(state, parts_->shapes.all(), pair);
    double push = 0, weight = 0;
    Vec3 middle, normal, force;
    for (const Contact& contact : std::span(&state.contacts[pair.first], pair.count)) {
      for (const ContactPoint& point : contact.places()) {
        touches |= point.force > 0 || point.separation <= parts_->tolerance;
        push += point.force, force += contact.normal * point.force + point.friction;
        const double share = point.force + 1e-12;
        weight += share, middle += point.point * share, normal += contact.normal * share;
      }
    }
    if (weight > 0) middle = middle / weight;
    const bool began = touches && !pair.was_touching, ended = !touches && pair.was_touching;
    const bool stays = last && touches && pair.event == none && !pair.sensor && (a.reports || b.reports);
    if (began || ended || stays) {
      const ContactKind kind = pair.sensor ? (began ? ContactKind::came_in : ContactKind::went_out)
                               : began     ? ContactKind::met
                               : ended     ? ContactKind::parted
                                           : ContactKind::lasts;
      if (!ended || pair.event == none) pair.event = static_cast<std::uint32_t>(parts_->events.size());
      parts_->events.push_back({kind, id_of(pair.a), id_of(pair.b), middle, normalised(normal), 0,
                                began && !pair.sensor ? std::max(0.0, pair.approach) : 0});
    }
    pair.was_touching = touches;
    pair.impulse += push * dt;
    if (!last) {
      pair.told += force;
      if (push > 0) pair.told_at = middle;
      continue;
    }
    if (pair.event != none) parts_->events[pair.event].impulse = pair.impulse;
    if (parts > 1) tell_mean(pair, parts);
    pair.told = {}, pair.impulse = 0, pair.event = none;
  }
}

/// The mean force of a tick of several steps: what the earlier ones gave goes to the points of the last, or to one
/// where they touched last.
void World::tell_mean(Pair& pair, int parts) {
  Contact* contacts = &parts_->state.contacts[pair.first];
  for (Contact& contact : std::span(contacts, pair.count)) {
    for (ContactPoint& p : std::span(contact.points).first(contact.count))
      p.force /= parts, p.friction = p.friction / parts;
  }
  const Vec3 force = pair.told / parts;
  if (force == Vec3{}) return;
  if (pair.count == 0) {
    pair.count = 1;
    contacts->normal = normalised(force), contacts->count = 1, contacts->ahead = false;
    contacts->points[0] = {};
    contacts->points[0].point = pair.told_at, contacts->points[0].separation = 2 * parts_->tolerance;
  }
  contacts->spread(force);
}

/// Whole turns of hinges, and who breaks.
void World::tell_joints(bool last) {
  for (std::uint32_t j = 0; j < parts_->state.joints.size(); ++j) {
    Joint& joint = parts_->state.joints[j];
    if (!joint.alive) continue;
    if (joint.kind == JointKind::hinge) {  // count whole turns
      const Body& a = parts_->state.bodies[joint.a];
      const Pose b = joint.b == none
                         ? Pose{}
                         : Pose{parts_->state.bodies[joint.b].centre, parts_->state.bodies[joint.b].pose.orientation};
      const double angle = JointFrame(joint, a.centre, a.pose.orientation, b.position, b.orientation).twist();
      if (angle - joint.angle > pi) joint.turns -= 2 * pi;
      if (angle - joint.angle < -pi) joint.turns += 2 * pi;
      joint.angle = angle;
    }
    const double along = std::abs(joint.limit_force + joint.motor_force + joint.spring_force);
    const bool turns = joint.kind == JointKind::hinge;
    const double force = same_bits::hypot(norm(joint.force), turns ? 0.0 : along);
    const double torque = same_bits::hypot(norm(joint.torque), turns ? along : joint.cone_force);
    if (last && (force > joint.break_force || torque > joint.break_torque)) {
      parts_->broken.push_back({{j, joint.generation}, force, torque});
      break_joint(j);
    }
  }
}

/// Bodies that touch or are joined rest together or not at all.
void World::put_to_sleep(double dt) {
  bool any = false;
  for (const std::uint32_t i : parts_->state.awake) {
    Body& body = parts_->state.bodies[i];
    const bool afloat = !parts_->water.empty() && parts_->water[i].lift != Vec3{};
    const bool still = body.can_sleep && norm(body.velocity) < (afloat ? still_afloat : still_speed) * parts_->scale &&
                       norm(body.spin) < still_spin;
    body.still_for = still ? body.still_for + dt : 0.0;
    any |= body.still_for >= asleep_after;
  }
  if (!any) return;
  parts_->resting.start(parts_->state.bodies.size(), parts_->state.awake);
  const auto up = [&](std::uint32_t i) { return i != none && parts_->state.bodies[i].awake(); };
  for (const std::uint32_t place : parts_->active) {
    const Pair& pair = parts_->state.pairs[place];
    if (!pair.was_touching || pair.sensor) continue;
    const bool a = up(pair.a), b = up(pair.b);
    if (a && b) parts_->resting.join(pair.a, pair.b);
    if (a && parts_->state.bodies[pair.b].moving()) parts_->state.bodies[pair.a].still_for = 0;
    if (b && parts_->state.bodies[pair.a].moving()) parts_->state.bodies[pair.b].still_for = 0;
  }
  for (const Joint& joint : parts_->state.joints) {
    if (joint.alive && up(joint.a) && up(joint.b)) parts_->resting.join(joint.a, joint.b);
  }
  // The least rested of each island decides. Kept at the root.
  for (const std::uint32_t i : parts_->state.awake) {
    const std::uint32_t r = parts_->resting.root(i);
    parts_->state.bodies[r].still_for = std::min(parts_->state.bodies[r].still_for, parts_->state.bodies[i].still_for);
  }
  for (const std::uint32_t i : parts_->state.awake) {
    const std::uint32_t r = parts_->resting.root(i);
    if (parts_->state.bodies[r].still_for < asleep_after) continue;
    Body& body = parts_->state.bodies[i];
    body.velocity = body.spin = {};
    body.force = body.torque = {};
    body.before = body.pose;
    body.solver = 0;
    body.asleep = true;
    // Into the ring of its island: a root's ring begins with itself.
    if (i == r) {
      body.next_asleep = i;
    } else {
      body.next_asleep = parts_->state.bodies[r].next_asleep;
      parts_->state.bodies[r].next_asleep = i;
    }
    parts_->lists_changed = true;
  }
}

}  // namespace jugend
