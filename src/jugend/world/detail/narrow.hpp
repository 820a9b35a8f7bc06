// From two bodies near to one another to the points at which they touch. Inner to the world.
#pragma once

#include <jugend/world/detail/state.hpp>

namespace jugend::world_state {

struct NarrowSettings {
  double dt = 0;         // s, of this step
  double tolerance = 0;  // m: nearer is touching
  double fall = 0;       // m: how far gravity alone may move a body in this step
};

/// Finds the pair's contacts anew and hands down the forces of those that were there before. Writes to the
/// pair and its own places alone, so that pairs can be done at the same time.
void find_contacts(State& state, const std::vector<Shape>& shapes, Pair& pair, const NarrowSettings& settings);

struct LookSettings {
  double margin = 0;  // m: what is further apart is nothing
  double touch = 0;   // m: nearer is touching
  double seam = 0;    // m: within one shape of many parts, as near is the same surface
};
/// The contact of two shapes at these poses: of those that touch the one that is most like `normal`, else the nearest.
/// False: there is none.
bool look_at(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, const LookSettings& settings,
             const Vec3& normal, Contact& out);

/// Are a sensor and the other body inside one another, as they are now?
bool overlapping(const State& state, const std::vector<Shape>& shapes, const Pair& pair);

/// Takes out contacts with the border of a fixed body where another that abuts it carries on the surface,
/// among the given pairs of one body.
void drop_inner_edges(State& state, const std::vector<Shape>& shapes, std::uint32_t body,
                      std::span<const std::uint32_t> pairs, double tolerance);

}  // namespace jugend::world_state
