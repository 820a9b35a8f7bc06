#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <fstream>
#include <jugend/base/units.hpp>
#include <jugend/lab/document.hpp>
#include <jugend/lab/level.hpp>
#include <jugend/shape/mesh_file.hpp>
#include <map>
#include <sstream>

namespace jugend {
namespace {

constexpr double far = 1e6;  // m: the farthest that anything in a level may be
const Limits place_limits{-far, far, "m"};
const Limits size_limits{1e-4, far, "m"};

std::string read_text(TableReader& reader, const std::string& key, const std::filesystem::path& file) {
  std::error_code error;
  std::ifstream in(file, std::ios::binary);
  if (!std::filesystem::is_regular_file(file, error) || !in)
    reader.refuse(key, fmt::format("'{}', which cannot be read", file.string()), "a file");
  if (std::filesystem::file_size(file, error) > 64'000'000)
    reader.refuse(key, "a file of more than 64 MB", "a smaller file");
  std::ostringstream text;
  text << in.rdbuf();
  return text.str();
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

struct LevelReader {
  std::filesystem::path folder;
  Level level;
  std::map<std::string, Surface> surfaces{};

  Shape read_shape(TableReader& reader) {
    static const std::vector<std::string> kinds{"box", "sphere", "capsule", "mesh", "heights", "tiles"};
    const std::string kind =
        reader.required("shape", reader.text("shape"), "box, sphere, capsule, mesh, heights or tiles");
    switch (reader.choice("shape", kind, kinds)) {
      case 0: return Box{reader.required("size", reader.vec3("size", size_limits), "three lengths") * 0.5};
      case 1: return Sphere{reader.required("radius", reader.number("radius", size_limits), "a length")};
      case 2: {
        const double radius = reader.required("radius", reader.number("radius", size_limits), "a length");
        const double height = reader.required("height", reader.number("height", {2 * radius, far, "m"}), "a length");
        return Capsule{radius, height / 2 - radius};
      }
      case 3: {
        const std::filesystem::path file =
            folder / reader.required("file", reader.text("file"), "a .glb, .gltf or .obj file");
        try {
          return std::make_shared<Mesh>(read_mesh(file));
        } catch (const InputError& error) {
          Fault fault = error.fault();
          const std::string about = fault.place.file.empty() ? file.string() : fault.place.file;
          fault.place = reader.place_of("file");
          fault.key = fmt::format("{}: {}: {}", reader.path_of("file"), about, fault.key);
          throw InputError(fault);
        }
      }
      case 4: {
        const std::filesystem::path file = folder / reader.required("file", reader.text("file"), "a file of heights");
        const double cell = reader.required("cell", reader.number("cell", size_limits), "a length");
        return read_heights(read_text(reader, "file", file), file.string(), cell);
      }
      default: break;
    }
    const std::filesystem::path file = folder / reader.required("file", reader.text("file"), "a text map");
    const double tile = reader.number("tile", size_limits).value_or(1);
    const double depth = reader.number("depth", size_limits).value_or(4);
    return std::make_shared<TileGrid>(read_text(reader, "file", file), tile, depth, file.string());
  }

  void read_surface(TableReader reader) {
    Surface surface;
    const std::string name = reader.required("name", reader.text("name"), "a text");
    if (surfaces.contains(name)) reader.refuse("name", fmt::format("'{}' a second time", name), "each name once");
    if (name.size() > SurfaceName::most) {
      reader.refuse("name", fmt::format("{} characters", name.size()), fmt::format("at most {}", SurfaceName::most));
    }
    surface.name = SurfaceName(name);
    surface.friction = reader.number("friction", {0, 100}).value_or(surface.friction);
    surface.restitution = reader.number("restitution", {0, 1}).value_or(surface.restitution);
    surface.grip = reader.number("grip", {0, 1}).value_or(surface.grip);
    reader.finish();
    surfaces[name] = surface;
  }

  void read_body(TableReader reader) {
    BodyPlan plan;
    plan.name = reader.text("name").value_or("");
    if (!plan.name.empty() &&
        std::ranges::any_of(level.bodies, [&](const BodyPlan& b) { return b.name == plan.name; })) {
      reader.refuse("name", fmt::format("'{}' a second time", plan.name), "each name once");
    }
    const std::string kind = reader.text("kind").value_or("static");
    plan.kind = reader.choice("kind", kind, {"static", "kinematic"}) == 0 ? BodyKind::fixed : BodyKind::kinematic;
    plan.pose.position = reader.vec3("position", place_limits).value_or(Vec3{});
    if (const auto turn = reader.vec3("turn_deg", {-360, 360, "deg"})) {
      const Vec3 r = *turn * radians_per_degree;
      plan.pose.orientation = normalised(rotation({0, 0, r.z}) * rotation({0, r.y, 0}) * rotation({r.x, 0, 0}));
    }
    plan.velocity = reader.vec3("velocity", {-1000, 1000, "m/s"}).value_or(Vec3{});
    plan.spin = reader.vec3("spin_deg", {-36000, 36000, "deg/s"}).value_or(Vec3{}) * radians_per_degree;
    if (plan.kind == BodyKind::fixed && plan.velocity != Vec3{})
      reader.refuse("velocity", "one of a static body", "kind = \"kinematic\", or no velocity");
    if (plan.kind == BodyKind::fixed && plan.spin != Vec3{})
      reader.refuse("spin_deg", "one of a static body", "kind = \"kinematic\", or no spin");
    if (const auto name = reader.text("surface")) {
      std::vector<std::string> names;
      for (const auto& [known, surface] : surfaces) names.push_back(known);
      reader.choice("surface", *name, names);
      plan.surface = surfaces[*name];
    }
    plan.shape = read_shape(reader);
    reader.finish();
    if (const auto* grid = std::get_if<TileGridRef>(&plan.shape)) {
      for (const auto& m : (*grid)->markers())
        add_marker(reader, "file", std::string(1, m.name), to_world(plan.pose, m.position));
    }
    level.bodies.push_back(std::move(plan));
  }

  void add_marker(const TableReader& reader, const std::string& key, const std::string& name, const Vec3& at) {
    for (const auto& [known, place] : level.markers) {
      if (known == name) reader.refuse(key, fmt::format("marker '{}' a second time", name), "each marker once");
    }
    level.markers.emplace_back(name, at);
  }
};

}  // namespace

void Level::build(World& world) const {
  world.set_gravity(gravity);
  for (const BodyPlan& plan : bodies) world.add(plan);
}

Level read_level(const std::filesystem::path& file) {
  const DocValue document = read_document(file);
  TableReader reader(document, file.string());
  LevelReader made{file.parent_path(), {}};
  made.level.gravity = reader.vec3("gravity", {-1000, 1000, "m/s2"}).value_or(made.level.gravity);
  int index = 0;
  for (const DocValue* table : reader.tables("surface")) {
    made.read_surface(TableReader(*table, file.string(), fmt::format("surface[{}].", index++)));
  }
  index = 0;
  for (const DocValue* table : reader.tables("body")) {
    made.read_body(TableReader(*table, file.string(), fmt::format("body[{}].", index++)));
  }
  index = 0;
  for (const DocValue* table : reader.tables("marker")) {
    TableReader marker(*table, file.string(), fmt::format("marker[{}].", index++));
    const std::string name = marker.required("name", marker.text("name"), "a text");
    made.add_marker(marker, "name", name,
                    marker.required("position", marker.vec3("position", place_limits), "three lengths"));
    marker.finish();
  }
  reader.finish();
  if (made.level.bodies.empty()) reader.refuse("body", "nothing", "one [[body]] at least");
  return std::move(made.level);
}

}  // namespace jugend
