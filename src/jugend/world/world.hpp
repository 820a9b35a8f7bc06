// The world that ships with the library: bodies, and the queries over them.
#pragma once

#include <jugend/base/hash.hpp>
#include <jugend/motion/surroundings.hpp>
#include <jugend/shape/dynamic_tree.hpp>
#include <jugend/shape/shape.hpp>
#include <string>
#include <vector>

namespace jugend {

enum class BodyKind : std::uint8_t {
  fixed,     ///< never moves, unless it is told to be elsewhere
  kinematic  ///< moves by its velocity and spin; nothing stops or pushes it
};

/// What a body is made from.
struct BodyPlan {
  Shape shape;
  Pose pose;
  BodyKind kind = BodyKind::fixed;
  Vec3 velocity;  ///< m/s, kinematic bodies only
  Vec3 spin;      ///< rad/s, kinematic bodies only
  Surface surface;
  std::uint32_t layers = 1;  ///< a bit for each layer it is on
  std::string name;          ///< for messages and traces
};

class World final : public Surroundings {
 public:
  /// Throws InputError for a shape that check() refuses, numbers that are not finite, a rotation that is
  /// not of unit length, a velocity of a fixed body, or a surface out of range.
  BodyId add(BodyPlan plan);
  /// False for a body that is gone already.
  bool remove(BodyId id);
  bool alive(BodyId id) const;
  std::size_t size() const { return alive_count_; }

  /// Puts a body elsewhere at once; its velocity stays. Throws InputError as add does, or for a body
  /// that is gone. So do the others below.
  void place(BodyId id, const Pose& pose);
  /// Sets a kinematic body's motion from now on.
  void set_motion(BodyId id, const Vec3& velocity, const Vec3& spin);
  const BodyPlan& plan(BodyId id) const;
  Pose pose(BodyId id) const { return plan(id).pose; }
  /// The pose between the last tick and the one before, at `fraction` of the way: for drawing.
  Pose drawn_pose(BodyId id, double fraction) const;
  /// Calls visit(id, plan) for every body, in the order of their indices.
  template <class Visit>
  void for_each(Visit&& visit) const {
    for (std::uint32_t i = 0; i < bodies_.size(); ++i) {
      if (bodies_[i].alive) visit(BodyId{i, bodies_[i].generation}, bodies_[i].plan);
    }
  }

  void set_gravity(const Vec3& gravity);

  /// Moves kinematic bodies by `dt` seconds.
  void step(double dt);

  /// Of all that a tick changes.
  void add_to(StateHash& hash) const;

  // Surroundings
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override;
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override;
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override;
  /// The nearest part of any body within `limit` m of `body`.
  std::optional<Overlap> closest(const Convex& body, double limit, const Filter& filter) const;
  BodyFacts facts(BodyId body) const override;
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override;
  Vec3 gravity(const Vec3&) const override { return gravity_; }

 private:
  struct Body {
    BodyPlan plan;
    Pose before;  // one tick earlier
    std::uint32_t generation = 0;
    std::uint32_t leaf = 0;  // in tree_
    bool alive = false;
  };
  const Body* find(BodyId id) const;
  Body& get(BodyId id);
  bool wanted(std::uint32_t index, const Filter& filter) const {
    const Body& b = bodies_[index];
    return (b.plan.layers & filter.layers) != 0 && filter.ignored != BodyId{index, b.generation};
  }

  std::vector<Body> bodies_;
  std::vector<std::uint32_t> free_;
  std::vector<std::uint32_t> moving_;  // indices of kinematic bodies
  std::size_t alive_count_ = 0;
  DynamicTree tree_;
  Vec3 gravity_{0, -9.80665, 0};
};

}  // namespace jugend
