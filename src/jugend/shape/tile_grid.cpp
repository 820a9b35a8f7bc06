#include <algorithm>
#include <cctype>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/shape/static_tree_walk.hpp>
#include <jugend/shape/tile_grid.hpp>
#include <utility>

namespace jugend {
namespace {

std::vector<std::string_view> lines_of(std::string_view text) {
  std::vector<std::string_view> lines;
  while (!text.empty()) {
    const auto end = text.find('\n');
    std::string_view line = text.substr(0, end);
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    lines.push_back(line);
    text = end == std::string_view::npos ? std::string_view{} : text.substr(end + 1);
  }
  while (!lines.empty() && lines.back().find_first_not_of(' ') == std::string_view::npos) lines.pop_back();
  return lines;
}

}  // namespace

TileGrid::TileGrid(std::string_view map, double tile, double depth, const std::string& file) : half_depth_(depth / 2) {
  const auto refuse = [&file](std::size_t line, std::size_t column, std::string found, std::string allowed) {
    fail({{file, static_cast<std::uint32_t>(line), static_cast<std::uint32_t>(column)},
          "map",
          std::move(found),
          std::move(allowed),
          {}});
  };
  if (!(tile > 0) || !std::isfinite(tile)) fail({{file}, "tile", filled("{}", tile), "more than 0 m", {}});
  if (!(depth > 0) || !std::isfinite(depth)) fail({{file}, "depth", filled("{}", depth), "more than 0 m", {}});
  const auto lines = lines_of(map);
  std::size_t width = 0;
  for (const auto& line : lines) width = std::max(width, line.size());
  if (width * lines.size() > 4'000'000) refuse(1, 1, "a map of more than 4 million tiles", "a smaller map");
  const std::size_t height = lines.size();

  // kinds[y][x], y from the bottom.
  std::vector<std::string> kinds(height, std::string(width, '.'));
  for (std::size_t l = 0; l < height; ++l) {
    for (std::size_t x = 0; x < lines[l].size(); ++x) {
      const char c = lines[l][x];
      const std::size_t y = height - 1 - l;
      if (c == '#' || c == '/' || c == '\\') {
        kinds[y][x] = c;
      } else if (std::isalnum(static_cast<unsigned char>(c))) {
        for (const Marker& m : markers_) {
          if (m.name == c) refuse(l + 1, x + 1, filled("marker '{}' a second time", c), "each marker once");
        }
        markers_.push_back({c, {(static_cast<double>(x) + 0.5) * tile, static_cast<double>(y) * tile, 0}});
      } else if (c != '.' && c != ' ') {
        const bool printable = std::isprint(static_cast<unsigned char>(c)) != 0;
        refuse(l + 1, x + 1, printable ? filled("'{}'", c) : filled("byte {}", static_cast<unsigned char>(c)),
               "# / \\ . space, a letter or a digit");
      }
    }
  }

  make_parts(kinds, tile);
  if (parts_.empty()) refuse(1, 1, "no solid tile", "one # or slope at least");
  std::vector<Bounds> boxes;
  for (std::uint32_t i = 0; i < parts_.size(); ++i) bounds_.add(boxes.emplace_back(jugend::bounds(part(i))));
  tree_ = StaticTree(boxes);
}

/// From the top down, so that a floor is one part from end to end, whatever lies below it.
void TileGrid::make_parts(std::vector<std::string>& kinds, double tile) {
  const std::size_t height = kinds.size(), width = height > 0 ? kinds.front().size() : 0;
  const auto at = [tile](std::size_t n) { return static_cast<double>(n) * tile; };
  for (std::size_t y = height; y-- > 0;) {
    for (std::size_t x = 0; x < width; ++x) {
      const char kind = kinds[y][x];
      if (kind == '#') {
        std::size_t right = x, bottom = y;
        while (right < width && kinds[y][right] == '#') ++right;
        const auto run = [&](std::size_t row) { return std::span(kinds[row]).subspan(x, right - x); };
        while (bottom > 0 && std::ranges::all_of(run(bottom - 1), [](char c) { return c == '#'; })) --bottom;
        for (std::size_t row = bottom; row <= y; ++row) std::ranges::fill(run(row), '.');
        add_box(at(x), at(bottom), at(right), at(y + 1));
      } else if (kind != '.') {
        const bool rising = kind == '/';  // then it comes down to the left
        std::size_t n = 0;
        const auto column = [&](std::size_t k) { return rising ? x - k : x + k; };
        while (n <= y && (rising ? n <= x : x + n < width) && kinds[y - n][column(n)] == kind) {
          kinds[y - n][column(n)] = '.';
          ++n;
        }
        const std::size_t left = rising ? x + 1 - n : x;
        add_ramp(at(left), at(y + 1 - n), at(left + n), at(y + 1), rising);
      }
    }
  }
}

void TileGrid::add_box(double x0, double y0, double x1, double y1) {
  Part p{{}, 8, Core::box};
  for (int i = 0; i < 8; ++i) p.points[i] = {i & 1 ? x1 : x0, i & 2 ? y1 : y0, i & 4 ? half_depth_ : -half_depth_};
  parts_.push_back(p);
}

void TileGrid::add_ramp(double x0, double y0, double x1, double y1, bool rising) {
  Part p{{}, 6, Core::prism};
  for (int cap = 0; cap < 2; ++cap) {
    const double z = cap ? half_depth_ : -half_depth_;
    p.points[3 * cap + 0] = {rising ? x0 : x1, y0, z};
    p.points[3 * cap + 1] = {rising ? x1 : x0, y1, z};
    p.points[3 * cap + 2] = {rising ? x1 : x0, y0, z};
  }
  parts_.push_back(p);
}

std::optional<RayHit> cast_on_polytope(const Ray& ray, const Convex& body) {
  const auto p = body.points;
  double enter = -1, leave = ray.length;
  Vec3 normal = -ray.direction;
  const auto cut = [&](const Vec3& on_face, const Vec3& outward) {
    const double height = dot(ray.origin - on_face, outward), fall = dot(ray.direction, outward);
    if (fall == 0) {
      if (height > 0) leave = -1;
    } else if (const double t = -height / fall; fall < 0) {
      if (t > enter) enter = t, normal = outward;
    } else {
      leave = std::min(leave, t);
    }
  };
  const auto both_ways = [&](int low_corner, int high_corner) {
    const Vec3 n = normalised(p[high_corner] - p[low_corner]);
    cut(p[low_corner], -n);
    cut(p[high_corner], n);
  };
  if (body.core == Core::box) {
    both_ways(0, 1), both_ways(0, 2), both_ways(0, 4);
  } else {  // a prism
    both_ways(0, 3);
    const Vec3 along = p[3] - p[0];
    for (int k = 0; k < 3; ++k) {
      const Vec3& a = p[k];
      const Vec3 n = normalised(cross(p[(k + 1) % 3] - a, along));
      cut(a, dot(n, p[(k + 2) % 3] - a) > 0 ? -n : n);
    }
  }
  if (leave < 0 || enter > leave) return std::nullopt;
  if (enter < 0) return RayHit{0, -ray.direction, 0};
  return RayHit{enter, normal, 0};
}

std::optional<RayHit> TileGrid::cast(const Ray& ray) const {
  std::optional<RayHit> best;
  tree_.along(ray.origin, ray.direction, {}, ray.length, [&](std::uint32_t first, std::uint32_t count, double limit) {
    for (const std::uint32_t i : tree_.order().subspan(first, count)) {
      const auto hit = cast_on_polytope(ray, part(i));
      if (hit && (!best || hit->distance < best->distance || (hit->distance == best->distance && i < best->part))) {
        best = hit;
        best->part = i;
        limit = hit->distance;
      }
    }
    return limit;
  });
  return best;
}

}  // namespace jugend
