// The shapes of a level's bodies: sizes, meshes, heights, tiles and roads.
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <jugend/base/input_file.hpp>
#include <jugend/base/units.hpp>
#include <jugend/lab/detail/level_shapes.hpp>
#include <jugend/lab/mesh_file.hpp>
#include <jugend/shape/road.hpp>
#include <sstream>

namespace jugend {
namespace {

std::string read_text(TableReader& reader, const std::string& key, const std::filesystem::path& file) {
  try {
    return read_input_file(file, budget::data_bytes, "a file");
  } catch (const InputError& error) {
    reader.refuse(key, fmt::format("'{}', {}", file.string(), error.fault().found), error.fault().allowed);
  }
}

/// Rows of numbers with spaces or commas between them.
HeightFieldRef read_heights(const std::string& text, const std::string& file, double cell) {
  std::vector<double> heights;
  std::size_t rows = 0, columns = 0;
  std::uint32_t line_number = 0;
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);) {
    ++line_number;
    std::size_t in_row = 0;
    const char* at = line.data();
    const char* const end = at + line.size();
    for (;;) {
      while (at != end && (*at == ' ' || *at == ',' || *at == '\t' || *at == '\r')) ++at;
      if (at == end) break;
      double value = 0;
      const auto [next, wrong] = std::from_chars(at, end, value);
      if (wrong != std::errc{}) {
        throw InputError({{file, line_number, static_cast<std::uint32_t>(at - line.data() + 1)},
                          "heights",
                          fmt::format("'{}'", std::string(at, std::min(end, at + 12))),
                          "a number",
                          {}});
      }
      heights.push_back(value);
      at = next;
      ++in_row;
    }
    if (in_row == 0) continue;
    if (rows > 0 && in_row != columns) {
      throw InputError({{file, line_number, 1},
                        "heights",
                        fmt::format("{} numbers", in_row),
                        fmt::format("{}, as in the rows above", columns),
                        {}});
    }
    columns = in_row;
    ++rows;
  }
  try {
    return std::make_shared<HeightField>(columns, rows, cell, std::move(heights));
  } catch (const InputError& error) {
    Fault fault = error.fault();
    fault.place = {file, 1, 1};
    throw InputError(fault);
  }
}

double needed_length(TableReader& reader, const char* key) {
  return reader.required(key, reader.number(key, size_limits), "a length");
}

std::filesystem::path needed_file(TableReader& reader, const std::filesystem::path& folder, const char* what) {
  return folder / reader.required("file", reader.text("file"), what);
}

/// What `make` makes; what it refuses is told at `key`.
template <class Make>
Shape made(TableReader& reader, const char* key, Make&& make) {
  try {
    return make();
  } catch (const InputError& error) {
    reader.rethrow_at(key, error);
  }
}

ShapePlan read_box(TableReader& reader, const std::filesystem::path&) {
  const Box box{reader.required("size", reader.vec3("size", size_limits), "three lengths") * 0.5};
  return {[=] { return box; }, {}};
}

ShapePlan read_sphere(TableReader& reader, const std::filesystem::path&) {
  return {[radius = needed_length(reader, "radius")] { return Sphere{radius}; }, {}};
}

ShapePlan read_capsule(TableReader& reader, const std::filesystem::path&) {
  const double radius = needed_length(reader, "radius");
  const double height = reader.required("height", reader.number("height", {2 * radius, level_far, "m"}), "a length");
  return {[=] { return Capsule{radius, height / 2 - radius}; }, {}};
}

ShapePlan read_cylinder(TableReader& reader, const std::filesystem::path&) {
  const double radius = needed_length(reader, "radius"), height = needed_length(reader, "height");
  return {[=] { return Cylinder{radius, height / 2}; }, {}};
}

constexpr const char* mesh_files = "a .glb, .gltf or .obj file";

ShapePlan read_hull(TableReader& reader, const std::filesystem::path& folder) {
  const std::filesystem::path file = needed_file(reader, folder, mesh_files);
  const auto make = [&reader, file] {
    return made(reader, "file", [&] { return std::make_shared<Hull>(read_mesh(file).vertices); });
  };
  return {make, fmt::format("hull {}", file.string())};
}

ShapePlan read_mesh_shape(TableReader& reader, const std::filesystem::path& folder) {
  const std::filesystem::path file = needed_file(reader, folder, mesh_files);
  const auto make = [&reader, file]() -> Shape {
    try {
      return std::make_shared<Mesh>(read_mesh(file));
    } catch (const InputError& error) {
      Fault fault = error.fault();
      std::string about = fault.place.file.empty() ? file.string() : fault.place.file;
      if (fault.place.line > 0) about += fmt::format(":{}", fault.place.line);
      if (!fault.key.empty()) about += ": " + fault.key;
      fault.place = reader.place_of("file");
      fault.key = fmt::format("{}: {}", reader.path_of("file"), about);
      throw InputError(fault);
    }
  };
  return {make, fmt::format("mesh {}", file.string())};
}

ShapePlan read_height_field(TableReader& reader, const std::filesystem::path& folder) {
  const std::filesystem::path file = needed_file(reader, folder, "a file of heights");
  const double cell = needed_length(reader, "cell");
  const auto make = [&reader, file, cell] {
    return read_heights(read_text(reader, "file", file), file.string(), cell);
  };
  return {make, fmt::format("heights {} {}", cell, file.string())};
}

ShapePlan read_tiles(TableReader& reader, const std::filesystem::path& folder) {
  const std::filesystem::path file = needed_file(reader, folder, "a text map");
  const double tile = reader.number("tile", size_limits).value_or(1);
  const double depth = reader.number("depth", size_limits).value_or(4);
  const auto make = [&reader, file, tile, depth] {
    return std::make_shared<TileGrid>(read_text(reader, "file", file), tile, depth, file.string());
  };
  return {make, fmt::format("tiles {} {} {}", tile, depth, file.string())};
}

ShapePlan read_road(TableReader& reader, const std::filesystem::path&) {
  RoughRoad road;
  road.length = needed_length(reader, "length");
  road.width = reader.number("width", size_limits).value_or(road.width);
  static const std::vector<std::string> classes{"A", "B", "C", "D", "E", "F", "G", "H"};
  road.roughness = static_cast<int>(reader.choice("roughness", reader.text("roughness").value_or("C"), classes));
  road.seed = reader.whole("seed", {0, 1e9}).value_or(1);
  road.spacing = reader.number("spacing", {0.01, 10, "m"}).value_or(road.spacing);
  const auto make = [&reader, road] {
    return made(reader, "length", [&] { return std::make_shared<Mesh>(rough_road(road)); });
  };
  return {make, fmt::format("road {} {} {} {} {}", road.length, road.width, road.roughness, road.seed, road.spacing),
          static_cast<std::size_t>(std::ceil(road.length / road.spacing)) + 1};
}

ShapePlan read_curve(TableReader& reader, const std::filesystem::path&) {
  BankedCurve curve;
  curve.radius = needed_length(reader, "radius");
  curve.width = reader.number("width", size_limits).value_or(curve.width);
  curve.bank = reader.number("bank_deg", {0, 80, "deg"}).value_or(12) * radians_per_degree;
  curve.angle = reader.number("angle_deg", {1, 359, "deg"}).value_or(180) * radians_per_degree;
  const auto make = [&reader, curve] {
    return made(reader, "radius", [&] { return std::make_shared<Mesh>(banked_curve(curve)); });
  };
  return {make, fmt::format("curve {} {} {} {}", curve.radius, curve.width, curve.bank, curve.angle)};
}

std::size_t faces_of(const Shape& shape) {
  if (const auto* mesh = std::get_if<MeshRef>(&shape)) return (*mesh)->triangle_count();
  if (const auto* field = std::get_if<HeightFieldRef>(&shape)) return (*field)->columns() * (*field)->rows();
  if (const auto* grid = std::get_if<TileGridRef>(&shape)) return (*grid)->part_count();
  return 0;
}

}  // namespace

ShapePlan read_level_shape(TableReader& reader, const std::filesystem::path& folder) {
  using Read = ShapePlan (*)(TableReader&, const std::filesystem::path&);
  static const std::vector<std::pair<std::string, Read>> readers{
      {"box", read_box},   {"sphere", read_sphere},   {"capsule", read_capsule},      {"cylinder", read_cylinder},
      {"hull", read_hull}, {"mesh", read_mesh_shape}, {"heights", read_height_field}, {"tiles", read_tiles},
      {"road", read_road}, {"curve", read_curve}};
  std::vector<std::string> names;
  for (const auto& [name, read] : readers) names.push_back(name);
  const std::string kind = reader.required("shape", reader.text("shape"),
                                           "box, sphere, capsule, cylinder, hull, mesh, heights, tiles, road or curve");
  return readers[reader.choice("shape", kind, names)].second(reader, folder);
}

Shape LevelShapes::make(const TableReader& reader, const ShapePlan& plan) {
  if (plan.alike.empty()) return plan.make();
  if (const auto found = made_.find(plan.alike); found != made_.end()) return found->second;
  const auto within = [&](std::size_t all, std::size_t most, const char* what) {
    if (all > most)
      reader.refuse("shape", fmt::format("{} {} in all shapes", all, what), fmt::format("at most {}", most));
  };
  within(road_heights_ += plan.road_heights, budget::road_heights, "heights of roads");
  const Shape shape = plan.make();
  within(faces_ += faces_of(shape), budget::faces, "triangles, cells and tiles");
  return made_[plan.alike] = shape;
}

}  // namespace jugend
