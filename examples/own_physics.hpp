// Somebody else's physics, small enough to read: solids that stand or move on rails, bodies that fall on to them,
// water. Nothing of the world that ships with the library is in it; HostedStage puts any actor of the library into it.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstring>
#include <jugend/base/error.hpp>
#include <jugend/motion/port/host.hpp>
#include <jugend/shape/mass.hpp>
#include <vector>

class OwnPhysics : public jugend::Host {
 public:
  struct Plan {
    jugend::Shape shape;
    jugend::Pose pose;
    double mass = 0;                   // kg; 0: nothing moves it but its own velocity
    jugend::Vec3 free_turns{1, 1, 1};  // 0: it does not turn about that axis
    jugend::Surface surface;
    std::uint32_t layers = 1;
    bool figure = false;  // what is done to it is handed on
  };

  jugend::BodyId add(const Plan& plan) {
    Body body{plan, {}, {}, {}, true, false};
    if (plan.mass > 0) {
      const auto solid = jugend::mass_properties(plan.shape, 1);
      const jugend::Sym3 i = solid->inertia * (plan.mass / solid->mass);
      const jugend::Vec3& free = plan.free_turns;
      body.inverse_moments = {free.x / i.xx, free.y / i.yy, free.z / i.zz};
    }
    bodies_.push_back(body);
    return {static_cast<std::uint32_t>(bodies_.size() - 1), 0};
  }
  /// Water up to `surface`, over ground x, z from `low` on.
  void add_water(double surface, const jugend::Vec3& low) { water_ = {true, surface, low}; }

  // Questions.

  std::optional<jugend::Hit> cast(const jugend::Ray& ray, const jugend::Filter& filter) const override {
    std::optional<jugend::Hit> best;
    each(filter, [&](std::uint32_t i, const Body& body) {
      const auto hit = jugend::cast(ray, body.plan.shape, body.plan.pose);
      if (hit && (!best || hit->distance < best->distance))
        best = jugend::Hit{hit->distance, ray.origin + ray.direction * hit->distance, hit->normal, {i, 0}, hit->part};
    });
    return best;
  }
  std::optional<jugend::Hit> sweep(const jugend::Convex& mover, const jugend::Vec3& motion,
                                   const jugend::Filter& filter) const override {
    std::optional<jugend::Hit> best;
    each(filter, [&](std::uint32_t i, const Body& body) {
      const auto hit = jugend::sweep(mover, motion, body.plan.shape, body.plan.pose);
      if (hit && (!best || hit->touch.fraction < best->distance))
        best = jugend::Hit{hit->touch.fraction, hit->touch.point, hit->touch.normal, {i, 0}, hit->part};
    });
    return best;
  }
  std::size_t overlaps(const jugend::Convex& asked, double margin, std::span<jugend::Overlap> out,
                       const jugend::Filter& filter) const override {
    std::size_t found = 0;
    each(filter, [&](std::uint32_t i, const Body& body) {
      const auto near = jugend::closest(asked, margin, body.plan.shape, body.plan.pose);
      if (!near) return;
      const jugend::Separation& s = near->separation;
      if (found < out.size()) out[found] = {-s.distance, s.point, s.normal, {i, 0}, near->part};
      ++found;
    });
    return found;
  }
  jugend::BodyFacts facts(jugend::BodyId id) const override {
    if (!alive(id)) return {};
    const Body& body = bodies_[id.index];
    jugend::BodyFacts facts;
    facts.pose = body.plan.pose, facts.velocity = body.velocity, facts.spin = body.spin;
    facts.mass = body.held ? 0 : body.plan.mass;
    facts.surface = body.plan.surface;
    facts.moving = body.velocity != jugend::Vec3{} || body.spin != jugend::Vec3{};
    facts.centre = body.plan.pose.position;
    facts.inverse_inertia = jugend::turned_diagonal(body.plan.pose.orientation, body.inverse_moments);
    facts.layers = body.plan.layers;
    return facts;
  }
  jugend::Vec3 gravity(const jugend::Vec3&) const override { return {0, -9.80665, 0}; }
  jugend::Medium medium(const jugend::Vec3& at, const jugend::Vec3&) const override {
    const bool wet = water_.there && at.y < water_.surface && at.x > water_.low.x && at.z > water_.low.z;
    return wet ? jugend::Medium{water_.surface - at.y, 1000, {}} : jugend::Medium{};
  }

  // Deeds: impulses at once, forces over the coming step.

  void push(jugend::BodyId id, const jugend::Vec3& impulse, const jugend::Vec3& at) override {
    Body& body = bodies_[id.index];
    if (body.plan.figure) body.given += impulse;
    if (!moves(body)) return;
    body.velocity += impulse / body.plan.mass;
    twist(id, cross(at - body.plan.pose.position, impulse));
  }
  void twist(jugend::BodyId id, const jugend::Vec3& impulse) override {
    if (Body& body = bodies_[id.index]; moves(body)) body.spin += facts(id).inverse_inertia * impulse;
  }
  void force(jugend::BodyId id, const jugend::Vec3& force, const jugend::Vec3& at) override {
    Body& body = bodies_[id.index];
    body.force += force, body.torque += cross(at - body.plan.pose.position, force);
  }
  void torque(jugend::BodyId id, const jugend::Vec3& torque) override { bodies_[id.index].torque += torque; }

  // What a stage asks.

  bool alive(jugend::BodyId id) const override {
    return id.index < bodies_.size() && id.generation == 0 && bodies_[id.index].here;  // a place is never used again
  }
  bool remove(jugend::BodyId id) override { return alive(id) && !(bodies_[id.index].here = false); }
  void place(jugend::BodyId id, const jugend::Pose& pose) override { bodies_[id.index].plan.pose = pose; }
  void set_motion(jugend::BodyId id, const jugend::Vec3& velocity, const jugend::Vec3& spin) override {
    bodies_[id.index].velocity = velocity, bodies_[id.index].spin = spin;
  }
  void hold(jugend::BodyId id, bool held) override { bodies_[id.index].held = held; }
  bool held(jugend::BodyId id) const override { return bodies_[id.index].held; }
  jugend::BodyId add_figure(const std::string&, const jugend::Capsule& capsule, const jugend::Pose& pose,
                            double mass) override {
    return add({capsule, pose, mass, {}, {}, jugend::walker_layer::swept, true});
  }
  void set_capsule(jugend::BodyId id, const jugend::Capsule& capsule) override {
    bodies_[id.index].plan.shape = capsule;
  }
  void set_mass(jugend::BodyId id, double mass) override { bodies_[id.index].plan.mass = mass; }
  jugend::Vec3 take_given(jugend::BodyId id, double dt) override {
    Body& body = bodies_[id.index];
    const jugend::Vec3 given = body.given + body.force * dt;
    body.given = {};
    if (dt > 0) body.force = {};
    return given;
  }
  std::vector<std::byte> saved() const override {
    std::vector<std::byte> all(bodies_.size() * sizeof(State));
    for (std::size_t i = 0; i < bodies_.size(); ++i) {
      const Body& b = bodies_[i];
      const State state{b.plan.pose, b.velocity, b.spin, b.here, b.held};
      std::memcpy(all.data() + i * sizeof(State), &state, sizeof(State));
    }
    return all;
  }
  void bring_back(std::span<const std::byte> saved) override {
    if (saved.size() % sizeof(State) != 0 || saved.size() / sizeof(State) > bodies_.size())
      jugend::fail({{}, "own physics", "bytes of another world", "those of saved()", {}});
    for (std::size_t i = 0; i < bodies_.size(); ++i) {
      State state;
      if ((i + 1) * sizeof(State) <= saved.size()) std::memcpy(&state, saved.data() + i * sizeof(State), sizeof(State));
      Body& b = bodies_[i];
      b.plan.pose = state.pose, b.velocity = state.velocity, b.spin = state.spin;
      b.here = state.here != 0, b.held = state.held != 0;  // who has come since is gone
      b.force = b.torque = b.given = {};
    }
  }

  /// Eight times: kick, drift, kick; then contacts take away what goes into them, with friction.
  void step(double dt) override {
    constexpr int parts = 8;
    const double h = dt / parts;
    for (int part = 0; part < parts; ++part) {
      for (Body& body : bodies_) {
        if (!body.here || body.held || body.plan.figure) continue;
        if (body.plan.mass == 0)
          body.plan.pose = advanced(body.plan.pose, body.velocity, body.spin, h);
        else
          move(body, h);
      }
      for (std::uint32_t i = 0; i < bodies_.size(); ++i) {
        if (moves(bodies_[i])) stop_at_what_it_touches(i, h);
      }
    }
    for (Body& body : bodies_) {
      if (!body.plan.figure) body.force = {};
      body.torque = {};
    }
  }

 private:
  struct Body {
    Plan plan;
    jugend::Vec3 velocity, spin, inverse_moments;
    bool here = true, held = false;
    jugend::Vec3 force{}, torque{}, given{};
  };
  struct State {
    jugend::Pose pose;
    jugend::Vec3 velocity, spin;
    std::uint64_t here = 0, held = 0;  // as wide as the rest: no gaps, whose bytes would be anything
  };
  struct Water {
    bool there = false;
    double surface = 0;
    jugend::Vec3 low;
  };

  static bool moves(const Body& body) { return body.here && !body.held && !body.plan.figure && body.plan.mass > 0; }
  template <class Visit>
  void each(const jugend::Filter& filter, Visit&& visit) const {
    for (std::uint32_t i = 0; i < bodies_.size(); ++i) {
      const Body& body = bodies_[i];
      const jugend::BodyId id{i, 0};
      const bool still = body.velocity == jugend::Vec3{} && body.spin == jugend::Vec3{};
      if (!body.here || id == filter.self || id == filter.ignored || id == filter.passed) continue;
      if ((body.plan.layers & filter.layers) == 0 || (filter.still_only && !still)) continue;
      visit(i, body);
    }
  }
  jugend::Sym3 inverse_inertia(const Body& body) const {
    return jugend::turned_diagonal(body.plan.pose.orientation, body.inverse_moments);
  }

  void move(Body& body, double h) const {
    jugend::Vec3 force = body.force + gravity({}) * body.plan.mass, torque = body.torque;
    bear_up(body, force, torque);
    const jugend::Vec3 half_a = force * (0.5 * h / body.plan.mass),
                       half_turn = inverse_inertia(body) * torque * (0.5 * h);
    body.velocity += half_a, body.spin += half_turn;
    body.plan.pose = advanced(body.plan.pose, body.velocity, body.spin, h);
    body.velocity += half_a, body.spin += half_turn;
  }
  /// By cells of a box: what lies under water weighs as much less as the water there.
  void bear_up(const Body& body, jugend::Vec3& force, jugend::Vec3& torque) const {
    const auto* box = std::get_if<jugend::Box>(&body.plan.shape);
    if (!water_.there || box == nullptr) return;
    constexpr int along = 12, high = 6;
    const jugend::Vec3 cell{box->half_extents.x / along, box->half_extents.y / high, box->half_extents.z / along};
    for (int i = 0; i < along * along * high; ++i) {
      const int x = i % along, z = i / along % along, y = i / (along * along);
      const jugend::Vec3 local{(2 * x + 1) * cell.x - box->half_extents.x, (2 * y + 1) * cell.y - box->half_extents.y,
                               (2 * z + 1) * cell.z - box->half_extents.z};
      const jugend::Vec3 at = jugend::to_world(body.plan.pose, local);
      if (at.x < water_.low.x || at.z < water_.low.z) continue;
      const double wet = std::clamp(0.5 + (water_.surface - at.y) / (2 * cell.y), 0.0, 1.0);
      const jugend::Vec3 lift = gravity(at) * (-1000 * wet * 8 * cell.x * cell.y * cell.z);
      force += lift, torque += cross(at - body.plan.pose.position, lift);
    }
  }
  void stop_at_what_it_touches(std::uint32_t index, double h) {
    Body& body = bodies_[index];
    const auto* convex = std::get_if<jugend::Sphere>(&body.plan.shape);
    const auto* capsule = std::get_if<jugend::Capsule>(&body.plan.shape);
    const auto* box = std::get_if<jugend::Box>(&body.plan.shape);
    for (std::uint32_t i = 0; i < bodies_.size(); ++i) {
      const Body& other = bodies_[i];
      if (i == index || !other.here || other.plan.mass > 0) continue;
      const jugend::PlacedConvex placed = convex    ? jugend::PlacedConvex(*convex, body.plan.pose)
                                          : capsule ? jugend::PlacedConvex(*capsule, body.plan.pose)
                                                    : jugend::PlacedConvex(*box, body.plan.pose);
      const auto near = jugend::closest(placed.view(), 0.02, other.plan.shape, other.plan.pose);
      if (!near) continue;
      const jugend::Separation& s = near->separation;
      const jugend::BodyFacts known = facts({index, 0});
      const jugend::Vec3 relative = known.velocity_at(s.point) - facts({i, 0}).velocity_at(s.point);
      // What overlaps comes out by a fifth of it, what is apart may close in.
      if (s.distance < 0) body.plan.pose.position += s.normal * (-0.2 * s.distance);
      const double into = -dot(relative, s.normal) - std::max(0.0, s.distance) / h;
      if (into <= 0) continue;
      const double pressed = into / known.inverse_mass_at(s.point, s.normal);
      push({index, 0}, s.normal * pressed, s.point);
      const jugend::BodyFacts now = facts({index, 0});
      const jugend::Vec3 slides = in_plane(now.velocity_at(s.point) - facts({i, 0}).velocity_at(s.point), s.normal);
      if (norm(slides) < 1e-12) continue;
      const jugend::Vec3 back = slides / -norm(slides);
      const jugend::Surface &mine = body.plan.surface, &its = other.plan.surface;
      const double grip =
          jugend::combined(mine.friction, its.friction, mine.friction_rule, its.friction_rule) * pressed;
      push({index, 0}, back * std::min(grip, norm(slides) / now.inverse_mass_at(s.point, back)), s.point);
    }
  }

  std::vector<Body> bodies_;
  Water water_;
};
