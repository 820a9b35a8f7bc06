// From two bodies near to one another to the points at which they touch. Inner to the world.
#pragma once

#include <algorithm>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/state.hpp>

namespace jugend::world_state {

/// Where a body is in `time` s if it goes on as it does: `centre` and `orientation` are those of now.
inline Pose pose_in(double time, const Vec3& centre, const Quat& orientation, const Vec3& velocity, const Vec3& spin,
                    const Vec3& local_centre) {
  const bool turns = time != 0 && spin != Vec3{};
  const Quat turned = turns ? normalised(rotation(spin * time) * orientation) : orientation;
  return {centre + velocity * time - rotate(turned, local_centre), turned};
}
/// Has it more than one convex part?
inline bool composed(const Shape& shape) {
  return std::visit(
      [](const auto& s) {
        return requires { s->bounds(); };
      },
      shape);
}
/// m/s: a bound on how fast two bodies may come nearer.
inline double approach_speed(const Vec3& velocity, const Vec3& spin_a, double reach_a, const Vec3& spin_b,
                             double reach_b) {
  return norm(velocity) + norm(spin_a) * reach_a + norm(spin_b) * reach_b;
}
/// m, of the deepest of some points of a manifold or contact.
template <class Points>
double least_separation(const Points& points) {
  double least = infinity;
  for (const auto& p : points) least = std::min(least, p.separation);
  return least;
}

struct NarrowSettings {
  double dt = 0;                   // s, of this step
  double tolerance = 0;            // m: nearer is touching
  double fall = 0;                 // m: how far gravity alone may move a body in this step
  std::span<const double> struck;  // m/s, by body: what it meets may change its velocity by so much
};

/// In tolerances: what lies deeper in one another, a centimetre, began there. No load presses as far.
constexpr double deep = 1000;

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

/// m between two shapes; infinite where that is more than `limit`.
double distance_between(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double limit);

/// Are a sensor and the other body inside one another, as they are now?
bool overlapping(const State& state, const std::vector<Shape>& shapes, const Pair& pair);

/// Takes out contacts with the border of a fixed body where another that abuts it carries on the surface,
/// among the given pairs of one body.
void drop_inner_edges(State& state, const std::vector<Shape>& shapes, std::uint32_t body,
                      std::span<const std::uint32_t> pairs, double tolerance);

}  // namespace jugend::world_state
