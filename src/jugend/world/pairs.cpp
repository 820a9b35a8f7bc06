// Which bodies are near one another, where they touch, and whom a touch wakes.
#include <algorithm>
#include <functional>
#include <iterator>
#include <jugend/base/fetch.hpp>
#include <jugend/world/detail/narrow.hpp>
#include <jugend/world/detail/parts.hpp>
#include <tuple>

namespace jugend {

using namespace world_state;

bool World::ignores(std::uint32_t a, std::uint32_t b) const {
  const Body &x = parts_->state.bodies[a], &y = parts_->state.bodies[b];
  if ((x.layers & y.meets) == 0 || (y.layers & x.meets) == 0) return true;
  if (x.group != 0 && x.group == y.group && !parts_->state.collide_within(x.group)) return true;
  for (const Joint& joint : parts_->state.joints) {
    if (joint.alive && !joint.collide && ((joint.a == a && joint.b == b) || (joint.a == b && joint.b == a)))
      return true;
  }
  if (!parts_->pair_rule) return false;
  struct Asking {
    bool& now;
    explicit Asking(bool& flag) : now(flag) { now = true; }
    ~Asking() { now = false; }
  } asking(parts_->asking);
  return !parts_->pair_rule->allows(id_of(a), id_of(b));
}

void World::find_pairs() {
  // Where the pair rule throws the tick ends here, and they are looked for again in the next.
  struct Unfinished {
    Parts& parts;
    bool now = true;
    ~Unfinished() {
      if (!now) return;
      for (Pair& pair : parts.state.pairs) pair.told = {}, pair.impulse = 0, pair.event = none;
      parts.newcomers.insert(parts.newcomers.end(), parts.moved.begin(), parts.moved.end());
    }
  } unfinished{*parts_};
  find_new_pairs();
  unfinished.now = false;
}

void World::find_new_pairs() {
  if (parts_->filters_changed) {
    for (Pair& pair : parts_->state.pairs) pair.ignored = ignores(pair.a, pair.b);
    parts_->filters_changed = false;
  }
  const std::size_t pieces = (parts_->moved.size() + piece - 1) / piece;
  while (parts_->found_by_piece.size() < pieces) parts_->add_piece();
  parts_->workers.over(parts_->moved.size(), piece, [&](std::size_t first, std::size_t last) {
    Array<Parts::Found>& found = parts_->found_by_piece[first / piece];
    found.clear();
    for (std::size_t k = first; k < last; ++k) {
      const std::uint32_t i = parts_->moved[k];
      const Body& body = parts_->state.bodies[i];
      if (body.meets == 0) continue;
      parts_->state.tree.within(parts_->state.tree.bounds(body.leaf), [&](std::uint32_t j) {
        const Body& other = parts_->state.bodies[j];
        const bool matter = body.dynamic() || other.dynamic();
        const bool sensed =
            (body.sensor || other.sensor) && body.kind != BodyKind::fixed && other.kind != BodyKind::fixed;
        const bool watched =
            (body.sensor && other.kind != BodyKind::fixed) || (other.sensor && body.kind != BodyKind::fixed);
        if (i == j || other.meets == 0 || !(matter || sensed || watched) || (body.sensor && other.sensor)) return;
        const std::uint32_t a = std::min(i, j), b = std::max(i, j);
        if (parts_->state.pair_index.find(a, b) == none) found.push_back({a, b});
      });
    }
  });
  parts_->found.clear();
  for (std::size_t p = 0; p < pieces; ++p)
    parts_->found.insert(parts_->found.end(), parts_->found_by_piece[p].begin(), parts_->found_by_piece[p].end());
  std::sort(parts_->found.begin(), parts_->found.end());
  for (const Parts::Found& f : parts_->found) {
    if (parts_->state.pair_index.find(f.a, f.b) != none) continue;  // found from both sides
    const Body &a = parts_->state.bodies[f.a], &b = parts_->state.bodies[f.b];
    const auto parts = [&](const Body& body) {
      return parts_->shapes[body.shape].index() >= Shape(CompoundRef{}).index();
    };
    Pair pair;
    pair.a = f.a, pair.b = f.b;
    if (parts(a) && !parts(b)) std::swap(pair.a, pair.b);  // the one with many parts stands second
    pair.capacity = parts(a) || parts(b) ? State::most_contacts : 1;
    pair.sensor = a.sensor || b.sensor;
    pair.one_way = a.has_one_way || b.has_one_way;
    pair.ignored = ignores(f.a, f.b);
    auto& free = pair.capacity == 1 ? parts_->state.free_single : parts_->state.free_block;
    if (free.empty()) {
      pair.first = static_cast<std::uint32_t>(parts_->state.contacts.size());
      resize_in_room(parts_->state.contacts, parts_->state.contacts.size() + pair.capacity);
      // All places may come free at once. Twice as many, or each new pair of a pile that grows would allocate.
      const std::size_t places = parts_->state.contacts.size() / pair.capacity + 1;
      if (free.capacity() < places) free.reserve(2 * places);
    } else {
      pair.first = free.back();
      free.pop_back();
    }
    parts_->state.pair_index.set(f.a, f.b, static_cast<std::uint32_t>(parts_->state.pairs.size()));
    parts_->state.pairs.push_back(pair);
    parts_->active_changed = true;
  }
}

/// What is struck within the step goes on faster, or elsewhere, than its velocity says. Its box grows by how far that
/// may take it, so that whatever lies there is found; what that may strike in turn likewise.
void World::foresee_strikes(double dt) {
  State& state = parts_->state;
  Array<double>& struck = parts_->struck;
  const double furthest = parts_->scale;  // m: or a bullet would make all that it may hit meet everything
  constexpr int in_a_row = 64, crowd = 4;
  fill_in_room(parts_->neighbours, state.bodies.size(), 0);
  for (const std::uint32_t place : parts_->active) {
    const Pair& pair = state.pairs[place];
    const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
    if (meet(bounds(parts_->shapes[a.shape], a.pose).grown(0.25 * std::min(a.inner, b.inner)),
             bounds(parts_->shapes[b.shape], b.pose)))
      ++parts_->neighbours[pair.a], ++parts_->neighbours[pair.b];
  }
  for (int round = 0; round < in_a_row; ++round) {
    parts_->moved.clear();
    const std::size_t count = parts_->active.size();
    for (std::size_t k = 0; k < count; ++k) {  // to and fro, since rows of bodies may lie in either order
      const Pair& pair = state.pairs[parts_->active[round % 2 == 0 ? k : count - 1 - k]];
      if (pair.ignored || pair.sensor) continue;
      const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
      const double own = approach_speed(a.velocity - b.velocity, a.spin, a.reach, b.spin, b.reach);
      const double by_a = struck[pair.a], by_b = struck[pair.b], reach = std::max({own, by_a, by_b}) * dt;
      const double bounce = 1 + combined(a.surface.restitution, b.surface.restitution, a.surface.restitution_rule,
                                         b.surface.restitution_rule);
      if (reach < (bounce > 1 ? parts_->tolerance : 0.005 * parts_->scale) ||
          !meet(bounds(parts_->shapes[a.shape], a.pose).grown(reach), bounds(parts_->shapes[b.shape], b.pose)))
        continue;
      for (const auto& [i, body, other, by] : {std::tuple{pair.a, &a, &b, by_b}, {pair.b, &b, &a, by_a}}) {
        if (!body->dynamic()) continue;
        const double share = other->dynamic() ? other->mass / (body->mass + other->mass) : 1;
        // In a crowd others are in its way, and what does not rebound may go a little into what it is pushed against.
        const bool crowded = parts_->neighbours[i] > crowd;
        const double least = bounce > 1 && !crowded ? parts_->tolerance : 0.5 * body->inner;
        const double change = std::min(bounce * share * std::max(own, by), (crowded ? body->inner : furthest) / dt);
        if (change * dt < least || change <= struck[i] * 1.01) continue;
        struck[i] = change;
        parts_->moved.push_back(i);
      }
    }
    if (parts_->moved.empty()) return;
    for (const std::uint32_t i : parts_->moved) {
      const Body& body = state.bodies[i];
      const Bounds needed = bounds(parts_->shapes[body.shape], body.pose)
                                .swept(body.velocity * dt)
                                .grown(std::min(2.0, norm(body.spin) * dt) * body.reach + struck[i] * dt);
      if (!state.tree.bounds(body.leaf).contains(needed)) state.tree.move(body.leaf, needed);
      parts_->active_changed |= body.asleep;
    }
    std::ranges::sort(parts_->moved);
    parts_->moved.erase(std::unique(parts_->moved.begin(), parts_->moved.end()), parts_->moved.end());
    find_pairs();
    list_active();
  }
}

void World::remove_pair(std::uint32_t place) {
  parts_->active_changed = true;
  const Pair gone = parts_->state.pairs[place];
  if (gone.was_touching)
    parts_->events.push_back(
        {gone.sensor ? ContactKind::went_out : ContactKind::parted, id_of(gone.a), id_of(gone.b), {}, {}, 0, 0});
  (gone.capacity == 1 ? parts_->state.free_single : parts_->state.free_block).push_back(gone.first);
  parts_->state.pair_index.erase(gone.a, gone.b);
  parts_->state.pairs[place] = parts_->state.pairs.back();
  parts_->state.pairs.pop_back();
  if (place < parts_->state.pairs.size())
    parts_->state.pair_index.set(parts_->state.pairs[place].a, parts_->state.pairs[place].b, place);
}

void World::find_contacts(double dt) {
  const NarrowSettings settings{dt, parts_->tolerance, 0.5 * norm(parts_->field.uniform) * dt * dt, parts_->struck};
  parts_->workers.over(parts_->active.size(), piece, [&](std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i) {
      Pair& pair = parts_->state.pairs[parts_->active[i]];
      if (i + 3 < last) {  // bodies and contacts lie far apart: have them come
        const Pair& later = parts_->state.pairs[parts_->active[i + 3]];
        fetch(&parts_->state.bodies[later.a], 320), fetch(&parts_->state.bodies[later.b], 320);
        fetch(&parts_->state.contacts[later.first], sizeof(Contact));
      }
      world_state::find_contacts(parts_->state, parts_->shapes.all(), pair, settings);
    }
  });
}

/// Seams between fixed bodies that lie side by side.
void World::join_contacts_of_abutting() {
  fill_in_room(parts_->first_of_body, parts_->state.bodies.size() + 1, 0);
  const auto of_one = [&](const Pair& pair) -> std::uint32_t {  // the one dynamic body of the two
    if (pair.count == 0) return none;
    const Body &a = parts_->state.bodies[pair.a], &b = parts_->state.bodies[pair.b];
    if (a.dynamic() == b.dynamic()) return none;
    const std::uint32_t i = a.dynamic() ? pair.a : pair.b;
    return parts_->state.bodies[i].asleep ? none : i;
  };
  std::size_t count = 0;
  for (const std::uint32_t p : parts_->active) {
    if (const std::uint32_t i = of_one(parts_->state.pairs[p]); i != none) ++parts_->first_of_body[i + 1], ++count;
  }
  if (count == 0) return;
  for (std::size_t i = 1; i < parts_->first_of_body.size(); ++i)
    parts_->first_of_body[i] += parts_->first_of_body[i - 1];
  resize_in_room(parts_->pairs_of_body, count);
  make_room(parts_->next_pair, parts_->first_of_body.size());
  parts_->next_pair.assign(parts_->first_of_body.begin(), parts_->first_of_body.end());
  for (const std::uint32_t p : parts_->active) {
    if (const std::uint32_t i = of_one(parts_->state.pairs[p]); i != none)
      parts_->pairs_of_body[parts_->next_pair[i]++] = p;
  }
  parts_->workers.over(parts_->state.awake.size(), piece, [&](std::size_t first, std::size_t last) {
    for (std::size_t k = first; k < last; ++k) {
      const std::uint32_t i = parts_->state.awake[k];
      const std::uint32_t from = parts_->first_of_body[i], to = parts_->first_of_body[i + 1];
      if (to - from < 2) continue;
      const double seam = std::min(100 * parts_->tolerance, 0.1 * parts_->state.bodies[i].inner);
      drop_inner_edges(parts_->state, parts_->shapes.all(), i,
                       std::span(parts_->pairs_of_body).subspan(from, to - from), seam);
    }
  });
}

/// m/s at which the two come nearer where they touch or will in this step; nothing if they do not.
std::optional<double> World::touching_speed(const Pair& pair, double dt) const {
  const Body &a = parts_->state.bodies[pair.a], &b = parts_->state.bodies[pair.b];
  std::optional<double> fastest;
  if (pair.touching) fastest = pair.count == 0 ? norm(a.velocity - b.velocity) : 0;
  for (std::uint8_t k = 0; k < pair.count; ++k) {
    const Contact& contact = parts_->state.contacts[pair.first + k];
    for (const ContactPoint& p : contact.places()) {
      const Vec3 relative = a.velocity + cross(a.spin, p.lever_a) - b.velocity - cross(b.spin, p.lever_b);
      const double speed = -dot(contact.normal, relative);
      if (p.separation - speed * dt <= parts_->tolerance) fastest = std::max(fastest.value_or(speed), speed);
    }
  }
  return fastest;
}

/// What comes so fast that it will touch in this step finds no sleeper that stands like a rock; nor does what that
/// strikes in turn.
void World::wake_touched(double dt) {
  const State& state = parts_->state;
  const auto up = [&](const Body& body) { return body.moving() || body.awake(); };
  fill_in_room(parts_->hit, state.bodies.size(), 0);
  for (const std::uint32_t place : parts_->active) {
    const Pair& pair = state.pairs[place];
    const auto speed = touching_speed(pair, dt);
    if (!speed) continue;
    if (*speed > 0.1 * parts_->scale) parts_->hit[pair.a] = parts_->hit[pair.b] = 1;
    const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
    if (a.asleep && up(b)) wake_slot(pair.a);
    if (b.asleep && up(a)) wake_slot(pair.b);
  }
  for (bool again = true; again;) {
    again = false;
    for (const std::uint32_t place : parts_->active) {
      const Pair& pair = state.pairs[place];
      if (parts_->hit[pair.a] == parts_->hit[pair.b] || !(pair.count > 0 || pair.watched)) continue;
      const std::uint32_t striker = parts_->hit[pair.a] ? pair.a : pair.b, next = pair.a + pair.b - striker;
      const double reach = parts_->struck[striker] * dt;
      if (reach == 0 || !state.bodies[next].dynamic()) continue;
      if (pair.count > 0 && least_separation(state.contacts[pair.first].places()) > reach) continue;
      wake_slot(next);
      parts_->hit[next] = 1;
      again = true;
    }
  }
}

/// What is touched wakes. Pairs that are far from one another go, but not within a tick: what they told counts to its
/// end.
void World::settle_pairs(double dt, int part) {
  wake_touched(dt);
  for (const std::uint32_t place : parts_->active) {
    Pair& pair = parts_->state.pairs[place];
    if (pair.was_touching) continue;
    pair.approach = 0;
    if (pair.count == 0) continue;
    const Body &a = parts_->state.bodies[pair.a], &b = parts_->state.bodies[pair.b];
    const Contact& c = parts_->state.contacts[pair.first];
    pair.approach = -dot(
        c.normal, a.velocity + cross(a.spin, c.points[0].lever_a) - b.velocity - cross(b.spin, c.points[0].lever_b));
  }
  if (part > 0) return;
  Array<std::uint32_t>& lost = parts_->lost;
  lost.clear();
  std::ranges::copy_if(parts_->active, std::back_inserter(lost),
                       [&](std::uint32_t place) { return parts_->state.pairs[place].lost; });
  std::ranges::sort(lost, std::greater{});  // from the back, since the last pair takes the place of one that goes
  std::ranges::for_each(lost, [&](std::uint32_t place) { remove_pair(place); });
}

void World::wake_slot(std::uint32_t index) {
  Body& first = parts_->state.bodies[index];
  if (!first.asleep) return;
  std::uint32_t at = index;
  do {  // all that went to sleep together
    Body& body = parts_->state.bodies[at];
    const std::uint32_t next = body.next_asleep;
    body.asleep = false;
    body.still_for = 0;
    body.next_asleep = none;
    at = next;
  } while (at != index && at != none);
  parts_->lists_changed = true;
}

void World::remove_pairs_of(std::uint32_t index) {
  for (std::size_t i = parts_->state.pairs.size(); i-- > 0;) {
    if (parts_->state.pairs[i].a == index || parts_->state.pairs[i].b == index)
      remove_pair(static_cast<std::uint32_t>(i));
  }
}

void World::wake_touching(std::uint32_t index) {
  if (parts_->state.bodies[index].meets == 0) return;
  for (const Pair& pair : parts_->state.pairs) {
    if (pair.a == index || pair.b == index) wake_slot(pair.a == index ? pair.b : pair.a);
  }
}

void World::wake_all() {
  for (std::uint32_t i = 0; i < parts_->state.bodies.size(); ++i) wake_slot(i);
}

}  // namespace jugend
