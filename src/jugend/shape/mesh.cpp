#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/mesh.hpp>
#include <jugend/shape/static_tree_walk.hpp>
#include <utility>

namespace jugend {
namespace {

/// Has a leaf's lines from `at` bytes on fetched, all at once.
template <class Lanes>
void prefetch(const TriangleBlock<Lanes>& block, std::size_t at) {
  for (; at < 192; at += 64) __builtin_prefetch(reinterpret_cast<const char*>(&block) + at);
}

}  // namespace

Mesh::Mesh(MeshData data) : material_of_(std::move(data.material_of)), materials_(std::move(data.materials)) {
  const auto refuse = [](std::string key, std::string found, std::string allowed) {
    fail({{}, std::move(key), std::move(found), std::move(allowed), {}});
  };
  if (data.triangles.empty()) refuse("triangles", "none", "one triangle or more");
  if (data.triangles.size() >= (1u << 28)) refuse("triangles", "too many", "fewer than 2^28 triangles");
  if (!material_of_.empty() && material_of_.size() != data.triangles.size()) {
    refuse("material_of", filled("{} entries", material_of_.size()), "one per triangle, or none");
  }
  for (std::size_t i = 0; i < data.vertices.size(); ++i) {
    if (!is_finite(data.vertices[i])) refuse(filled("vertex {}", i), "a number that is not finite", "finite numbers");
  }
  std::vector<Bounds> boxes;
  boxes.reserve(data.triangles.size());
  for (std::size_t i = 0; i < data.triangles.size(); ++i) {
    Bounds& box = boxes.emplace_back();
    for (const std::uint32_t v : data.triangles[i]) {
      if (v >= data.vertices.size()) {
        refuse(filled("triangle {}", i), filled("vertex {}", v),
               filled("0 to {}", static_cast<long>(data.vertices.size()) - 1));
      }
      box.add(data.vertices[v]);
    }
    bounds_.add(box);
  }
  tree_ = StaticTree(boxes);
  place_of_.resize(data.triangles.size());
  bool single_is_exact = true;
  for (const Vec3& v : data.vertices) {
    for (int k = 0; k < 3; ++k) single_is_exact &= static_cast<double>(static_cast<float>(v[k])) == v[k];
  }
  single_is_exact ? fill(singles_, data) : fill(doubles_, data);
  tree_.release_order();
}

template <class Lanes>
void Mesh::fill(Array<TriangleBlock<Lanes>>& blocks, const MeshData& data) {
  const auto order = tree_.order();
  blocks.resize(order.size() / 4);
  for (std::uint32_t place = 0; place < order.size(); ++place) {
    const std::uint32_t part = order[place];
    if (part == StaticTree::no_item) continue;
    place_of_[part] = place;
    blocks[place / 4].part[place % 4] = part;
    for (int corner = 0; corner < 3; ++corner) {
      const Vec3& v = data.vertices[data.triangles[part][corner]];
      for (int axis = 0; axis < 3; ++axis) {
        auto& lanes = blocks[place / 4].at[axis][corner];
        lanes[place % 4] = static_cast<std::remove_cvref_t<decltype(lanes[0])>>(v[axis]);
      }
    }
  }
}

/// The nearest triangle on a ray of those asked for so far.
struct Mesh::Nearest {
  static constexpr std::uint32_t nothing = ~0u;
  TriangleCaster caster;
  double distance = 0;
  std::uint32_t place = nothing, part = nothing;

  Nearest() = default;
  explicit Nearest(const Ray& ray) : caster(ray), distance(ray.length) {}

  /// Asks for the leaf that begins at `first`; tells how far on anything is still of interest.
  template <class Lanes>
  [[gnu::always_inline]] inline double ask(const TriangleBlock<Lanes>& block, std::uint32_t first, double limit) {
    DoubleLanes d;
    caster.distances(block, limit, d);
    const double nearest = std::min(std::min(d[0], d[1]), std::min(d[2], d[3]));
    if (nearest > distance) return distance;
    // Which lane that is goes by arithmetic: a branch on it would be guessed wrong every other time.
    const auto is_other = [&](int lane) { return static_cast<std::uint32_t>(d[lane] != nearest); };
    const std::uint32_t lane = is_other(0) * (1 + is_other(1) * (1 + is_other(2)));
    // On a shared edge the lower number wins, whatever the order of the visit.
    if (nearest < distance || part > block.part[lane]) {
      distance = nearest;
      place = first + lane;
      part = block.part[lane];
    }
    return distance;
  }

  template <class Lanes>
  std::optional<RayHit> hit(const Array<TriangleBlock<Lanes>>& blocks, const Vec3& direction) const {
    if (place == nothing) return std::nullopt;
    const auto [a, b, c] = corners_in(blocks, place);
    return RayHit{distance, normal_against(a, b, c, direction), part};
  }
};

std::optional<RayHit> Mesh::cast(const Ray& ray) const {
  return singles_.empty() ? cast_in(doubles_, ray) : cast_in(singles_, ray);
}

void Mesh::cast_all(std::span<const Ray> rays, std::span<std::optional<RayHit>> hits) const {
  for (std::size_t from = 0; from < rays.size();) {
    std::size_t to = from + 1;
    const auto together = [&] { return rays[to].direction == rays[from].direction; };
    while (to < rays.size() && to - from < StaticTree::most_together && together()) ++to;
    const auto some = rays.subspan(from, to - from);
    const auto their = hits.subspan(from, to - from);
    singles_.empty() ? cast_all_in(doubles_, some, their) : cast_all_in(singles_, some, their);
    from = to;
  }
}

template <class Lanes>
std::optional<RayHit> Mesh::cast_in(const Array<TriangleBlock<Lanes>>& blocks, const Ray& ray) const {
  Nearest nearest(ray);
  tree_.along(ray.origin, ray.direction, {}, ray.length, [&](std::uint32_t first, std::uint32_t, double limit) {
    const TriangleBlock<Lanes>& block = blocks[first / 4];
    // The leaf is most of the wait: have its further lines come at once.
    prefetch(block, 64);
    return nearest.ask(block, first, limit);
  });
  return nearest.hit(blocks, ray.direction);
}

template <class Lanes>
void Mesh::cast_all_in(const Array<TriangleBlock<Lanes>>& blocks, std::span<const Ray> rays,
                       std::span<std::optional<RayHit>> hits) const {
  std::array<Nearest, StaticTree::most_together> nearest;
  std::array<StaticTree::Start, StaticTree::most_together> starts;
  for (std::size_t i = 0; i < rays.size(); ++i) {
    nearest[i] = Nearest(rays[i]);
    starts[i] = {rays[i].origin, rays[i].length};
  }
  tree_.along_together(
      std::span(starts).first(rays.size()), rays[0].direction,
      [&](std::size_t i, std::uint32_t first, double limit) { return nearest[i].ask(blocks[first / 4], first, limit); },
      [&](std::uint32_t first) { prefetch(blocks[first / 4], 0); });
  for (std::size_t i = 0; i < rays.size(); ++i) hits[i] = nearest[i].hit(blocks, rays[i].direction);
}

}  // namespace jugend
