// Triangle meshes that do not move or bend, with a tree over them.
#pragma once

#include <array>
#include <cstdint>
#include <jugend/base/array.hpp>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/ray.hpp>
#include <jugend/shape/static_tree.hpp>
#include <string>
#include <vector>

namespace jugend {

/// What a mesh is made from. Triangles that wind counter-clockwise face outward.
struct MeshData {
  std::vector<Vec3> vertices;
  std::vector<std::array<std::uint32_t, 3>> triangles;
  std::vector<std::string> materials;      ///< names, may be empty
  std::vector<std::uint16_t> material_of;  ///< per triangle an index into `materials`; or empty
};

class Mesh {
 public:
  /// Throws InputError for no triangles, an index out of range, or a vertex that is not finite.
  explicit Mesh(MeshData data);

  std::optional<RayHit> cast(const Ray& ray) const;
  /// The same for several rays near one another: hits[i] for rays[i]. Those of one direction go through the tree
  /// together.
  void cast_all(std::span<const Ray> rays, std::span<std::optional<RayHit>> hits) const;

  const Bounds& bounds() const { return bounds_; }
  std::size_t triangle_count() const { return place_of_.size(); }
  std::array<Vec3, 3> triangle(std::uint32_t part) const { return corners(place_of_[part]); }
  /// The material's index of a triangle, and the names.
  std::uint16_t material(std::uint32_t part) const { return material_of_.empty() ? 0 : material_of_[part]; }
  const std::vector<std::string>& materials() const { return materials_; }
  std::size_t tree_nodes() const { return tree_.node_count(); }

  /// Visits, nearest first, the triangles that a motion may meet: visit(convex, part, limit) → limit.
  template <class Visit>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Visit&& visit) const {
    tree_.along(from, motion, half, limit, leaf_visitor(visit));
  }
  /// Visits the triangles that may be nearer to `box` than `limit`: visit(convex, part, limit) → limit.
  template <class Visit>
  void near(const Bounds& box, double limit, Visit&& visit) const {
    tree_.near(box, limit, leaf_visitor(visit));
  }

 private:
  std::array<Vec3, 3> corners(std::uint32_t place) const {
    return singles_.empty() ? corners_in(doubles_, place) : corners_in(singles_, place);
  }
  template <class Lanes>
  static std::array<Vec3, 3> corners_in(const Array<TriangleBlock<Lanes>>& blocks, std::uint32_t place) {
    const auto& at = blocks[place / 4].at;
    const std::uint32_t i = place % 4;
    return {Vec3{at[0][0][i], at[1][0][i], at[2][0][i]}, Vec3{at[0][1][i], at[1][1][i], at[2][1][i]},
            Vec3{at[0][2][i], at[1][2][i], at[2][2][i]}};
  }
  std::uint32_t part_at(std::uint32_t place) const {
    return singles_.empty() ? doubles_[place / 4].part[place % 4] : singles_[place / 4].part[place % 4];
  }
  template <class Lanes>
  void fill(Array<TriangleBlock<Lanes>>& blocks, const MeshData& data);
  struct Nearest;
  template <class Lanes>
  std::optional<RayHit> cast_in(const Array<TriangleBlock<Lanes>>& blocks, const Ray& ray) const;
  template <class Lanes>
  void cast_all_in(const Array<TriangleBlock<Lanes>>& blocks, std::span<const Ray> rays,
                   std::span<std::optional<RayHit>> hits) const;

  template <class Visit>
  auto leaf_visitor(Visit& visit) const {
    return [this, &visit](std::uint32_t first, std::uint32_t count, double limit) {
      for (std::uint32_t place = first; place < first + count; ++place) {
        const std::array<Vec3, 3> points = corners(place);
        limit = visit(Convex{points, 0, Core::triangle}, part_at(place), limit);
      }
      return limit;
    };
  }

  // A leaf is one block that holds its triangles' corners themselves: a walk ends with one fetch. They
  // are kept in single precision where that is exact, as for all that comes from a glTF file.
  static_assert(StaticTree::leaf_size == 4);
  Array<TriangleBlock<FloatLanes>> singles_;
  Array<TriangleBlock<DoubleLanes>> doubles_;
  std::vector<std::uint32_t> place_of_;  // a triangle's number in the input -> its place in the tree's order
  std::vector<std::uint16_t> material_of_;
  std::vector<std::string> materials_;
  StaticTree tree_;
  Bounds bounds_;
};

}  // namespace jugend
