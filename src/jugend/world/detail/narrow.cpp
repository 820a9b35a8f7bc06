#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/shape/manifold.hpp>
#include <jugend/shape/static_tree_walk.hpp>
#include <jugend/world/detail/narrow.hpp>

namespace jugend::world_state {
namespace {

/// A manifold with the parts that it is between.
struct Candidate {
  Manifold manifold;
  std::uint32_t part_a = 0, part_b = 0;
  bool dropped = false;
  bool later = false;  // where the bodies will be when they touch, not where they are
  std::uint32_t part() const { return part_a * 0x9e3779b1u + part_b; }
};

/// What one pair's search gathers before it is reduced.
struct Gathered {
  static constexpr std::size_t most = 96;
  std::array<Candidate, most> list;
  std::size_t count = 0;
  bool full() const { return count == most; }
};

/// Calls visit(convex in the world, part) for the parts of a shape near `box`.
template <class Visit>
void visit_placed(const Shape& shape, const Pose& pose, const Bounds& box, Visit&& visit) {
  std::visit(
      [&](const auto& s) {
        if constexpr (requires { s->bounds(); }) {
          const Bounds local =
              placed(box, {rotate(conjugate(pose.orientation), -pose.position), conjugate(pose.orientation)});
          s->near(local, 0.0, [&](const Convex& part, std::uint32_t number, double limit) {
            const PlacedConvex in_world(part, to_local(pose, Pose{}));
            visit(in_world.view(), number);
            return limit;
          });
        } else {
          const PlacedConvex in_world(s, pose);
          visit(in_world.view(), 0u);
        }
      },
      shape);
}

/// All manifolds of the two shapes at these poses.
void gather(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double margin, Gathered& out) {
  const Bounds of_b = bounds(b, pose_b);
  visit_placed(a, pose_a, of_b.grown(margin), [&](const Convex& part_a, std::uint32_t number_a) {
    const Bounds box = bounds(part_a).grown(margin);
    if (!meet(box, of_b)) return;
    visit_placed(b, pose_b, box, [&](const Convex& part_b, std::uint32_t number_b) {
      if (out.full()) return;
      Candidate& c = out.list[out.count];
      if (!collide(part_a, part_b, margin, c.manifold)) return;
      c.part_a = number_a, c.part_b = number_b;
      c.dropped = c.later = false;
      ++out.count;
    });
  });
}

Vec3 on_b(const ManifoldPoint& p, const Vec3& normal) { return p.point - normal * (p.separation / 2); }

/// Do all points of `border` lie in or under the plane that `held` touches? Then it is no step up from there.
bool under_plane_of(const Manifold& border, const Manifold& held, double tolerance) {
  if (dot(border.normal, held.normal) > 0.9995) return false;
  const Vec3 on_plane = on_b(held.points[0], held.normal);
  return std::ranges::all_of(border.points, [&](const ManifoldPoint& p) {
    return dot(on_b(p, border.normal) - on_plane, held.normal) <= tolerance;
  });
}

/// Within one shape of many parts: the border of a part in whose plane, or above, another is touched, where
/// some other part carries the surface on.
void drop_inner_edges_within(const Shape& b, const Pose& pose_b, double tolerance, Gathered& all) {
  std::array<bool, Gathered::most> inner{};
  for (std::size_t i = 0; i < all.count; ++i) {
    const Manifold& border = all.list[i].manifold;
    for (std::size_t j = 0; j < all.count && !inner[i]; ++j) {
      const Manifold& held = all.list[j].manifold;
      const auto touches = [&](const ManifoldPoint& p) { return p.separation <= 10 * tolerance; };
      if (i == j || !std::ranges::any_of(held.points, touches) || !under_plane_of(border, held, tolerance)) continue;
      inner[i] = std::ranges::all_of(border.points, [&](const ManifoldPoint& p) {
        const std::array<Vec3, 1> point{on_b(p, border.normal)};
        const Convex dot_like{point, 0, Core::point};
        bool carried_on = false;
        visit_placed(b, pose_b, bounds(dot_like).grown(tolerance), [&](const Convex& part, std::uint32_t number) {
          carried_on |= number != all.list[i].part_b && separation(dot_like, part).distance <= tolerance;
        });
        return carried_on;
      });
    }
  }
  for (std::size_t i = 0; i < all.count; ++i) all.list[i].dropped = inner[i];
}

Pose pose_after(const Body& body, double t) {
  if (body.kind == BodyKind::fixed) return body.pose;
  return pose_in(t, body.centre, body.pose.orientation, body.velocity, body.spin, body.local_centre);
}

/// The time within the step at which two bodies that move fast first touch, or a negative number. The bodies
/// go on as they are; `held` are directions into which they cannot, because they touch there already.
double time_of_touch(const Body& a, const Shape& shape_a, const Body& b, const Shape& shape_b, const Gathered& held,
                     double dt, double tolerance) {
  Vec3 motion = (a.velocity - b.velocity) * dt;
  Pose start = a.pose;  // a little off what is touched, so that its seams are not run into
  for (std::size_t i = 0; i < held.count; ++i) {
    if (held.list[i].dropped) continue;
    const Vec3& n = held.list[i].manifold.normal;
    double deepest = 0;
    for (const ManifoldPoint& p : held.list[i].manifold.points)
      deepest = std::max(deepest, 5 * tolerance - p.separation);
    const double lift = deepest - dot(n, start.position - a.pose.position), into = dot(motion, n);
    if (lift > 0 && deepest < 0.1 * a.inner + 10 * tolerance) start.position += n * lift;
    if (into < 0) motion -= n * into;
  }
  const double turning = (norm(a.spin) * a.reach + norm(b.spin) * b.reach) * dt;
  double best = 2;
  if (turning <= 0.1 * (a.inner + b.inner)) {
    visit_placed(shape_a, start, everywhere, [&](const Convex& part, std::uint32_t) {
      if (const auto hit = sweep(part, motion, shape_b, b.pose)) best = std::min(best, hit->touch.fraction);
    });
    return best <= 1 ? best * dt : -1;
  }
  // Conservative advancement (Mirtich, "Impulse-based dynamic simulation", 1996): as far on as they cannot
  // have met, again and again.
  const double bound = norm(motion) + turning;
  double t = 0;
  for (int round = 0; round < 200 && t <= 1; ++round) {
    const double gap =
        distance_between(shape_a, pose_after(a, t * dt), shape_b, pose_after(b, t * dt), bound * (1 - t) + tolerance);
    if (gap == infinity) return -1;
    if (gap <= tolerance) return t * dt;
    t += (gap - 0.5 * tolerance) / bound;
  }
  return t <= 1 ? t * dt : -1;
}

/// Old points' forces go to the new ones that are the same.
void hand_down(const Contact* old, std::size_t old_count, Contact* fresh, std::size_t fresh_count, double same_place) {
  std::array<const ContactPoint*, 4 * State::most_contacts> left;
  std::array<Vec3, 4 * State::most_contacts> normals;
  std::size_t count = 0;
  for (std::size_t i = 0; i < old_count; ++i) {
    for (std::uint32_t k = 0; k < old[i].count; ++k) left[count] = &old[i].points[k], normals[count++] = old[i].normal;
  }
  if (count == 0) return;
  const auto give = [&](std::size_t from, ContactPoint& p, const Vec3& normal) {
    p.warm_force = left[from]->warm_force;
    p.warm_friction = in_plane(left[from]->warm_friction, normal);
    left[from] = nullptr;
  };
  for (const bool by_feature : {true, false}) {
    for (std::size_t i = 0; i < fresh_count; ++i) {
      for (std::uint32_t k = 0; k < fresh[i].count; ++k) {
        ContactPoint& p = fresh[i].points[k];
        if (p.warm_force > 0) continue;
        std::size_t best = count;
        double nearest = same_place * same_place;
        for (std::size_t o = 0; o < count; ++o) {
          if (left[o] == nullptr || dot(normals[o], fresh[i].normal) < 0.9) continue;
          const double distance2 = squared_norm(left[o]->local - p.local);
          const bool same = by_feature && left[o]->feature == p.feature && left[o]->part == p.part;
          if (by_feature && !same) continue;
          if (distance2 <= nearest * (by_feature ? 25 : 1)) best = o, nearest = distance2;
        }
        if (best < count) give(best, p, fresh[i].normal);
      }
    }
  }
}

/// Manifolds with the same normal become one, of four points at most. `seam`: m within which one surface goes on.
std::size_t reduce(Gathered& all, double seam, Contact* out, std::size_t capacity) {
  std::size_t used = 0;
  static thread_local std::array<ManifoldPoint, 4 * Gathered::most> points;
  static thread_local std::array<std::uint32_t, 4 * Gathered::most> parts;
  while (used < capacity) {
    const Candidate* lead = nullptr;
    for (std::size_t i = 0; i < all.count; ++i) {
      const Candidate& c = all.list[i];
      if (!c.dropped &&
          (lead == nullptr || least_separation(c.manifold.points) < least_separation(lead->manifold.points)))
        lead = &c;
    }
    if (lead == nullptr) break;
    const Vec3 normal = lead->manifold.normal;
    std::size_t count = 0;
    for (std::size_t i = 0; i < all.count; ++i) {
      Candidate& c = all.list[i];
      if (c.dropped || c.later != lead->later || dot(c.manifold.normal, normal) < 0.9995) continue;
      c.dropped = true;
      for (const ManifoldPoint& p : c.manifold.points) {
        // Corners that two parts share come twice.
        const auto same = [&](const ManifoldPoint& q) { return squared_norm(q.point - p.point) < 1e-4 * seam * seam; };
        if (std::ranges::any_of(std::span(points).first(count), same)) continue;
        points[count] = p;
        parts[count++] = c.part();
      }
    }
    const std::size_t kept = keep_four(std::span(points).first(count), normal);
    Contact& contact = out[used++];
    contact.normal = normal;
    contact.ahead = lead->later;
    contact.count = static_cast<std::uint32_t>(kept);
    for (std::size_t k = 0; k < kept; ++k) {
      ContactPoint& to = contact.points[k] = {};
      to.point = points[k].point, to.separation = points[k].separation, to.feature = points[k].feature;
      to.part = all.count == 1 ? 0 : parts[k];
    }
  }
  return used;
}

/// Which of the contacts a one-way body gives; see BodyPlan::one_way.
void filter_one_way(const Body& a, const Body& b, Pair& pair, const NarrowSettings& settings, Gathered& all) {
  const auto behind = [&](const Vec3& n) {  // n: outward of b
    const auto from_behind = [](const Body& body, const Vec3& outward) {
      return body.has_one_way && dot(rotate(body.pose.orientation, body.one_way), outward) < 0.5;
    };
    return from_behind(b, n) || from_behind(a, -n);
  };
  // What lies no deeper than it has come in the step before was outside then: it fell on to it as that step ended.
  const auto just_came = [&](const Manifold& m) {
    const Vec3 at = m.points[0].point;
    const double approach =
        -dot(m.normal, a.velocity + cross(a.spin, at - a.centre) - b.velocity - cross(b.spin, at - b.centre));
    return !behind(m.normal) && -least_separation(m.points) <= approach * settings.dt + settings.fall;
  };
  double deepest = infinity;
  bool from_front = false;
  for (std::size_t i = 0; i < all.count; ++i) {
    const double separation = least_separation(all.list[i].manifold.points);
    if (separation < deepest) deepest = separation, from_front = just_came(all.list[i].manifold);
  }
  if (pair.passing && deepest > 0) pair.passing = false;
  if (!pair.was_touching && deepest < -settings.tolerance && !from_front) pair.passing = true;
  for (std::size_t i = 0; i < all.count; ++i)
    all.list[i].dropped |= pair.passing || behind(all.list[i].manifold.normal);
}

/// What touches a part of a shape and moves fast is met where it will be when it touches another, and the way until
/// then is the separation. What touches nothing is watched as it comes, but by one-way bodies, which look once a step.
/// Returns the time of that touch, s from now; 0 or less: there is none.
double gather_ahead(const Body& a, const Shape& shape_a, const Body& b, const Shape& shape_b,
                    const NarrowSettings& settings, double seam, Gathered& all) {
  const double time = time_of_touch(a, shape_a, b, shape_b, all, settings.dt, settings.tolerance);
  if (time <= 0) return time;
  const std::size_t first = all.count;
  gather(shape_a, pose_after(a, time), shape_b, pose_after(b, time), 10 * settings.tolerance, all);
  if (composed(shape_b) && all.count > 1) drop_inner_edges_within(shape_b, pose_after(b, time), seam, all);
  const Vec3 turn_a = a.spin * time, turn_b = b.spin * time, motion = (a.velocity - b.velocity) * time;
  for (std::size_t i = first; i < all.count; ++i) {
    Manifold& m = all.list[i].manifold;
    all.list[i].later = true;
    for (ManifoldPoint& p : m.points) {
      const Vec3 lever_a = p.point - a.centre - a.velocity * time, lever_b = p.point - b.centre - b.velocity * time;
      p.separation =
          std::max(p.separation, 0.0) - dot(m.normal, motion + cross(turn_a, lever_a) - cross(turn_b, lever_b));
    }
  }
  return time;
}

}  // namespace

void find_contacts(State& state, const std::vector<Shape>& shapes, Pair& pair, const NarrowSettings& settings) {
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  pair.lost = !meet(state.tree.bounds(a.leaf), state.tree.bounds(b.leaf));
  const std::size_t old_count = pair.count;
  pair.count = 0;
  pair.touching = pair.deep = false;
  if (pair.lost || pair.ignored || pair.sensor) {
    pair.passing = pair.watched = false;
    return;
  }
  const Shape &shape_a = shapes[a.shape], &shape_b = shapes[b.shape];
  static thread_local Gathered all;
  all.count = 0;
  const double come_near = approach_speed(a.velocity - b.velocity, a.spin, a.reach, b.spin, b.reach) * settings.dt +
                           settings.fall + 2 * settings.tolerance;
  const double thick = a.inner + b.inner;
  const double struck = (settings.struck[pair.a] + settings.struck[pair.b]) * settings.dt;
  pair.clear = std::min(come_near + struck, 0.8 * thick + 2 * settings.tolerance);
  const bool comes_far = struck > 0 || come_near > 0.8 * thick;
  const bool may_meet = !comes_far || meet(bounds(shape_a, a.pose).grown(come_near + struck), bounds(shape_b, b.pose));
  if (may_meet) gather(shape_a, a.pose, shape_b, b.pose, pair.clear, all);
  pair.watched = may_meet && comes_far && all.count == 0 && !pair.one_way;
  const double seam = std::min(10 * settings.tolerance, 0.1 * std::max(a.inner, b.inner));
  if (composed(shape_b) && all.count > 1) drop_inner_edges_within(shape_b, b.pose, seam, all);

  const bool fast = (pair.one_way || (all.count > 0 && composed(shape_b))) && come_near > 0.8 * thick;
  const double later = fast && !all.full() ? gather_ahead(a, shape_a, b, shape_b, settings, seam, all) : 0;
  if (pair.watched && (a.asleep || b.asleep))  // it has to wake before it is struck
    pair.touching = time_of_touch(a, shape_a, b, shape_b, all, settings.dt, settings.tolerance) >= 0;
  if (pair.one_way) filter_one_way(a, b, pair, settings, all);

  Contact* places = &state.contacts[pair.first];
  std::array<Contact, State::most_contacts> fresh;
  const std::size_t count = reduce(all, seam, fresh.data(), pair.capacity);
  const double same_place = std::max(0.1 * std::max(a.inner, b.inner), 4 * settings.tolerance);
  for (std::size_t i = 0; i < count; ++i) {
    for (std::uint32_t k = 0; k < fresh[i].count; ++k) {
      ContactPoint& p = fresh[i].points[k];
      p.lever_a = p.point - a.centre - (fresh[i].ahead ? a.velocity * later : Vec3{});
      p.lever_b = p.point - b.centre - (fresh[i].ahead ? b.velocity * later : Vec3{});
      p.local = rotate(conjugate(a.pose.orientation), p.lever_a);
      pair.touching |= p.separation <= settings.tolerance;
      pair.deep |= p.separation < -deep * settings.tolerance;
    }
  }
  hand_down(places, old_count, fresh.data(), count, same_place);
  std::copy_n(fresh.begin(), count, places);
  pair.count = static_cast<std::uint8_t>(count);
  if (count == 0) places->count = 0, places->normal = {0, 1, 0};
}

bool look_at(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, const LookSettings& settings,
             const Vec3& normal, Contact& out) {
  static thread_local Gathered all;
  all.count = 0;
  gather(a, pose_a, b, pose_b, settings.margin, all);
  if (composed(b) && all.count > 1) drop_inner_edges_within(b, pose_b, settings.seam, all);
  const Candidate* lead = nullptr;
  double best = -infinity;
  for (std::size_t i = 0; i < all.count; ++i) {
    const Candidate& c = all.list[i];
    if (c.dropped) continue;
    const double least = least_separation(c.manifold.points);
    const double rank = least <= settings.touch ? 2 + dot(c.manifold.normal, normal) : -least;
    if (rank > best) best = rank, lead = &c;
  }
  if (lead == nullptr) return false;
  const Vec3 like = lead->manifold.normal;
  for (std::size_t i = 0; i < all.count; ++i) all.list[i].dropped |= dot(all.list[i].manifold.normal, like) < 0.9995;
  return reduce(all, settings.seam, &out, 1) > 0;
}

double distance_between(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double limit) {
  double least = infinity;
  visit_placed(a, pose_a, everywhere, [&](const Convex& part, std::uint32_t) {
    if (const auto near = closest(part, limit, b, pose_b)) least = std::min(least, near->separation.distance);
  });
  return least;
}

bool overlapping(const State& state, const std::vector<Shape>& shapes, const Pair& pair) {
  const Body &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  static thread_local Gathered all;
  all.count = 0;
  gather(shapes[a.shape], a.pose, shapes[b.shape], b.pose, 0, all);
  return all.count > 0;
}

void drop_inner_edges(State& state, const std::vector<Shape>& shapes, std::uint32_t body,
                      std::span<const std::uint32_t> pairs, double tolerance) {
  // Of each contact, seen from the body.
  const auto as_manifold = [&](const Pair& pair, const Contact& c) {
    Manifold m;
    m.normal = pair.a == body ? c.normal : -c.normal;
    for (std::uint32_t k = 0; k < c.count; ++k) m.points.push_back({c.points[k].point, c.points[k].separation, 0});
    return m;
  };
  const auto other_of = [&](const Pair& pair) -> const Body& { return state.bodies[pair.a == body ? pair.b : pair.a]; };
  for (const std::uint32_t i : pairs) {
    Pair& border_pair = state.pairs[i];
    for (std::uint8_t c = 0; c < border_pair.count;) {
      const Manifold border = as_manifold(border_pair, state.contacts[border_pair.first + c]);
      const auto below_what_is_held = [&](std::uint32_t j) {
        const Pair& held_pair = state.pairs[j];
        for (std::uint8_t h = 0; h < held_pair.count && i != j; ++h) {
          const Manifold held = as_manifold(held_pair, state.contacts[held_pair.first + h]);
          const auto touches = [&](const ManifoldPoint& p) { return p.separation <= tolerance; };
          if (std::ranges::any_of(held.points, touches) && under_plane_of(border, held, tolerance)) return true;
        }
        return false;
      };
      const auto carried_on = [&](const ManifoldPoint& p) {
        const std::array<Vec3, 1> point{on_b(p, border.normal)};
        return std::ranges::any_of(pairs, [&](std::uint32_t j) {
          const Body& other = other_of(state.pairs[j]);
          return i != j && closest({point, 0, Core::point}, tolerance, shapes[other.shape], other.pose).has_value();
        });
      };
      if (std::ranges::any_of(pairs, below_what_is_held) && std::ranges::all_of(border.points, carried_on)) {
        state.contacts[border_pair.first + c] = state.contacts[border_pair.first + --border_pair.count];
      } else {
        ++c;
      }
    }
    border_pair.touching &= border_pair.count > 0;
  }
}

}  // namespace jugend::world_state
