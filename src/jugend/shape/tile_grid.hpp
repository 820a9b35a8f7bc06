// Side-view levels drawn as text: a tile a character.
#pragma once

#include <cstdint>
#include <jugend/shape/convex.hpp>
#include <jugend/shape/ray.hpp>
#include <jugend/shape/static_tree.hpp>
#include <string>
#include <string_view>
#include <vector>

namespace jugend {

/// A level in the xy plane, as thick as it is told. Read from a text map, top line first:
///   #  solid      /  slope that rises to the right, solid below      \  slope that falls to the right
///   . or space    nothing             a letter or digit    a marker: nothing, with a name and a place
/// The bottom left tile's corner is the local origin. Tiles that continue one another are merged, runs
/// to rectangles and diagonals of slopes to ramps that are solid down to their foot, so that no seam
/// between two can be felt.
class TileGrid {
 public:
  struct Marker {
    char name;
    Vec3 position;  ///< the middle of the tile's floor
  };

  /// `tile` is a tile's width in m, `depth` the level's thickness, centred on z = 0. Throws InputError
  /// with line and column of the map for an unknown character, a marker used twice, or no solid tile.
  TileGrid(std::string_view map, double tile, double depth, const std::string& file = {});

  std::optional<RayHit> cast(const Ray& ray) const;
  const Bounds& bounds() const { return bounds_; }
  const std::vector<Marker>& markers() const { return markers_; }
  std::size_t part_count() const { return parts_.size(); }
  Convex part(std::uint32_t i) const { return {{parts_[i].points.data(), parts_[i].count}, 0, parts_[i].core}; }

  /// Visits, nearest first, the merged parts that a motion may meet: visit(convex, part, limit) → limit.
  template <class Visit>
  void along(const Vec3& from, const Vec3& motion, const Vec3& half, double limit, Visit&& visit) const {
    tree_.along(from, motion, half, limit, leaf_visitor(visit));
  }
  /// Visits the parts that may be nearer to `box` than `limit`: visit(convex, part, limit) → limit.
  template <class Visit>
  void near(const Bounds& box, double limit, Visit&& visit) const {
    tree_.near(box, limit, leaf_visitor(visit));
  }

 private:
  struct Part {  // a box or a prism
    std::array<Vec3, 8> points;
    std::uint8_t count;
    Core core;
  };
  template <class Visit>
  auto leaf_visitor(Visit& visit) const {
    return [this, &visit](std::uint32_t first, std::uint32_t count, double limit) {
      const std::uint32_t* const order = tree_.order().data();
      for (std::uint32_t place = first; place < first + count; ++place)
        limit = visit(part(order[place]), order[place], limit);
      return limit;
    };
  }
  void make_parts(std::vector<std::string>& kinds, double tile);
  void add_box(double x0, double y0, double x1, double y1);
  void add_ramp(double x0, double y0, double x1, double y1, bool rising);

  double half_depth_;
  std::vector<Part> parts_;
  std::vector<Marker> markers_;
  StaticTree tree_;
  Bounds bounds_;
};

/// Ray against a convex part of a level (no radius), by the planes of its faces.
std::optional<RayHit> cast_on_polytope(const Ray& ray, const Convex& body);

}  // namespace jugend
