#include <fmt/format.h>
#define TINYGLTF_NO_STB_IMAGE
#define TINYGLTF_NO_STB_IMAGE_WRITE
#include <tiny_gltf.h>
#include <tiny_obj_loader.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <jugend/base/error.hpp>
#include <jugend/base/input_file.hpp>
#include <jugend/lab/mesh_file.hpp>
#include <optional>
#include <sstream>

namespace jugend {
namespace {

[[noreturn]] void refuse(const std::filesystem::path& file, std::string key, std::string found, std::string allowed) {
  // Loaders speak over several lines; a message is one.
  std::replace(found.begin(), found.end(), '\n', ' ');
  while (!found.empty() && found.back() == ' ') found.pop_back();
  throw InputError({{file.string()}, std::move(key), std::move(found), std::move(allowed), {}});
}

/// What a node does to points: three columns and an offset.
struct Placement {
  Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1}, offset;

  Vec3 turned(const Vec3& v) const { return x * v.x + y * v.y + z * v.z; }
  Vec3 placed(const Vec3& p) const { return turned(p) + offset; }
  Placement operator*(const Placement& inner) const {
    return {turned(inner.x), turned(inner.y), turned(inner.z), placed(inner.offset)};
  }
  bool mirrors() const { return dot(cross(x, y), z) < 0; }
};

class GltfReader {
 public:
  explicit GltfReader(const std::filesystem::path& file) : file_(file) {
    const std::string bytes = read_input_file(file, budget::mesh_bytes, "a .gltf, .glb or .obj file");
    const bool binary = file.extension() == ".glb";
    check_json_depth(binary ? json_in(bytes) : bytes, file);
    tinygltf::TinyGLTF loader;
    loader.SetImageLoader([](tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int,
                             void*) { return true; },
                          nullptr);  // a mesh needs no pictures
    loader.SetFsCallbacks(
        {find, [](const std::string& path, void*) { return path; }, read_buffer,
         [](std::string*, const std::string&, const std::vector<unsigned char>&, void*) { return false; }, this});
    std::string error, warning;
    bool read = false;
    try {
      const auto length = static_cast<unsigned>(bytes.size());
      const std::string folder = file.parent_path().string();
      read = binary ? loader.LoadBinaryFromMemory(&model_, &error, &warning,
                                                  reinterpret_cast<const unsigned char*>(bytes.data()), length, folder)
                    : loader.LoadASCIIFromString(&model_, &error, &warning, bytes.data(), length, folder);
    } catch (const std::exception& wrong) {  // its parser's own
      error = wrong.what();
    }
    if (refused_) throw InputError(*refused_);
    if (!read || !error.empty())
      refuse(file_, "mesh", error.empty() ? "a file that cannot be read" : error, "a whole glTF 2.0 file");
  }

  MeshData read() {
    for (const auto& material : model_.materials) data_.materials.push_back(material.name);
    data_.materials.emplace_back();  // for triangles without one
    visited_.assign(model_.nodes.size(), false);
    const std::vector<int> roots = scene_roots();
    for (const int node : roots) add_node(node, {}, 0);
    if (data_.triangles.empty()) refuse(file_, "mesh", "no triangles", "one triangle or more");
    return std::move(data_);
  }

 private:
  /// The text of a binary file's first chunk; nothing where there is none, which its loader tells.
  static std::string json_in(const std::string& bytes) {
    std::uint32_t length = 0;
    if (bytes.size() < 20) return {};
    std::memcpy(&length, bytes.data() + 12, sizeof length);
    return bytes.substr(20, length);
  }
  /// What a buffer's uri names, as the loader asks for it: the folder is already before it.
  std::filesystem::path buffer_at(const std::string& path) const {
    const std::filesystem::path folder = file_.parent_path();
    const std::string head = folder.empty() ? "" : (folder / "").string();
    return under_folder(folder, path.starts_with(head) ? path.substr(head.size()) : path, file_, "buffer.uri");
  }
  /// The loader takes no errors: the first is kept.
  template <class Ask>
  static bool kept(void* reader, Ask&& ask) {
    auto& self = *static_cast<GltfReader*>(reader);
    try {
      return !self.refused_ && ask(self);
    } catch (const InputError& error) {
      self.refused_ = error.fault();
      return false;
    }
  }
  static bool find(const std::string& path, void* reader) {
    return kept(reader, [&](const GltfReader& self) { return self.buffer_at(path), true; });
  }
  static bool read_buffer(std::vector<unsigned char>* out, std::string*, const std::string& path, void* reader) {
    return kept(reader, [&](GltfReader& self) {
      const std::string bytes =
          read_input_file(self.buffer_at(path), budget::mesh_bytes - self.read_, "the file of a buffer");
      self.read_ += bytes.size();
      out->assign(bytes.begin(), bytes.end());
      return true;
    });
  }

  template <class T>
  const T& item(const std::vector<T>& list, int index, const char* what) const {
    if (index < 0 || static_cast<std::size_t>(index) >= list.size()) {
      refuse(file_, what, fmt::format("index {}", index), fmt::format("0 to {}", static_cast<long>(list.size()) - 1));
    }
    return list[static_cast<std::size_t>(index)];
  }

  std::vector<int> scene_roots() const {
    if (!model_.scenes.empty()) return item(model_.scenes, std::max(0, model_.defaultScene), "scene").nodes;
    std::vector<bool> is_child(model_.nodes.size(), false);
    for (const auto& node : model_.nodes) {
      for (const int c : node.children) {
        item(model_.nodes, c, "nodes.children");
        is_child[static_cast<std::size_t>(c)] = true;
      }
    }
    std::vector<int> roots;
    for (std::size_t i = 0; i < is_child.size(); ++i) {
      if (!is_child[i]) roots.push_back(static_cast<int>(i));
    }
    if (roots.empty() && !model_.nodes.empty()) refuse(file_, "nodes.children", "a cycle", "a tree of nodes");
    return roots;
  }

  static Placement transform_of(const tinygltf::Node& node) {
    const auto column = [](const std::vector<double>& of, std::size_t at) {
      return Vec3{of[at], of[at + 1], of[at + 2]};
    };
    if (const auto& m = node.matrix; m.size() == 16) return {column(m, 0), column(m, 4), column(m, 8), column(m, 12)};
    Placement all;
    if (const auto& r = node.rotation; r.size() == 4) {
      const Quat q = normalised({r[3], r[0], r[1], r[2]});
      all = {rotate(q, all.x), rotate(q, all.y), rotate(q, all.z), {}};
    }
    if (const auto& s = node.scale; s.size() == 3) all.x = all.x * s[0], all.y = all.y * s[1], all.z = all.z * s[2];
    if (node.translation.size() == 3) all.offset = column(node.translation, 0);
    return all;
  }

  void add_node(int index, const Placement& parent, int depth) {
    if (depth > 256) refuse(file_, "nodes.children", "nodes more than 256 deep", "a flatter tree of nodes");
    const tinygltf::Node& node = item(model_.nodes, index, "node");
    if (visited_[static_cast<std::size_t>(index)]) {
      refuse(file_, "nodes.children", fmt::format("node {} reached twice", index), "a tree of nodes");
    }
    visited_[static_cast<std::size_t>(index)] = true;
    const Placement placed = parent * transform_of(node);
    if (node.mesh >= 0) {
      for (const auto& primitive : item(model_.meshes, node.mesh, "node.mesh").primitives)
        add_primitive(primitive, placed);
    }
    for (const int child : node.children) add_node(child, placed, depth + 1);
  }

  /// An accessor's bytes, checked against its view and buffer: where they start and how far apart.
  struct Bytes {
    const unsigned char* start;
    std::size_t stride, count;
  };
  Bytes bytes_of(const tinygltf::Accessor& accessor, std::size_t size) const {
    if (accessor.sparse.isSparse) refuse(file_, "accessor", "a sparse accessor", "a dense one");
    const auto& view = item(model_.bufferViews, accessor.bufferView, "bufferView");
    const auto& buffer = item(model_.buffers, view.buffer, "buffer").data;
    const std::size_t stride = view.byteStride > 0 ? view.byteStride : size;
    const std::size_t in_view = accessor.count > 0 ? accessor.byteOffset + (accessor.count - 1) * stride + size : 0;
    if (stride > 4096 || accessor.count > buffer.size() || accessor.byteOffset > buffer.size() ||
        in_view > view.byteLength || view.byteOffset > buffer.size() ||
        view.byteLength > buffer.size() - view.byteOffset) {
      refuse(file_, "accessor",
             fmt::format("{} items of {} bytes beyond the end of their buffer", accessor.count, size),
             "items inside the buffer");
    }
    return {buffer.data() + view.byteOffset + accessor.byteOffset, stride, accessor.count};
  }

  void add_primitive(const tinygltf::Primitive& primitive, const Placement& placed) {
    if (primitive.mode != -1 && primitive.mode != TINYGLTF_MODE_TRIANGLES) return;  // points, lines, strips
    const auto position = primitive.attributes.find("POSITION");
    if (position == primitive.attributes.end()) refuse(file_, "primitive", "no POSITION", "POSITION");
    const auto& accessor = item(model_.accessors, position->second, "POSITION");
    if (accessor.componentType != TINYGLTF_COMPONENT_TYPE_FLOAT || accessor.type != TINYGLTF_TYPE_VEC3) {
      refuse(file_, "POSITION", "another type", "VEC3 of FLOAT");
    }
    const Bytes positions = bytes_of(accessor, 12);
    const auto base = static_cast<std::uint32_t>(data_.vertices.size());
    for (std::size_t i = 0; i < positions.count; ++i) {
      float p[3];
      std::memcpy(p, positions.start + i * positions.stride, sizeof p);
      if (!std::isfinite(p[0]) || !std::isfinite(p[1]) || !std::isfinite(p[2])) {
        refuse(file_, "POSITION", fmt::format("a number that is not finite in vertex {}", i), "finite numbers");
      }
      data_.vertices.push_back(placed.placed({p[0], p[1], p[2]}));
    }
    std::vector<std::uint32_t> indices;
    if (primitive.indices >= 0) {
      indices = read_indices(item(model_.accessors, primitive.indices, "indices"), positions.count);
    } else {
      for (std::uint32_t i = 0; i < positions.count; ++i) indices.push_back(i);
    }
    if (indices.size() % 3 != 0) refuse(file_, "indices", fmt::format("{}", indices.size()), "a multiple of 3");
    const bool mirrored = placed.mirrors();
    const auto material = static_cast<std::uint16_t>(
        primitive.material >= 0
            ? std::min<std::size_t>(static_cast<std::size_t>(primitive.material), data_.materials.size() - 1)
            : data_.materials.size() - 1);
    for (std::size_t i = 0; i < indices.size(); i += 3) {
      const std::uint32_t a = base + indices[i], b = base + indices[i + 1], c = base + indices[i + 2];
      data_.triangles.push_back(mirrored ? std::array{a, c, b} : std::array{a, b, c});
      data_.material_of.push_back(material);
    }
  }

  std::vector<std::uint32_t> read_indices(const tinygltf::Accessor& accessor, std::size_t vertices) const {
    const std::size_t size = accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT     ? 4
                             : accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT ? 2
                             : accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE  ? 1
                                                                                                : 0;
    if (size == 0 || accessor.type != TINYGLTF_TYPE_SCALAR) refuse(file_, "indices", "another type", "unsigned SCALAR");
    const Bytes bytes = bytes_of(accessor, size);
    std::vector<std::uint32_t> indices(bytes.count);
    for (std::size_t i = 0; i < bytes.count; ++i) {
      std::memcpy(&indices[i], bytes.start + i * bytes.stride, size);  // little-endian, as glTF is
      if (indices[i] >= vertices) {
        refuse(file_, "indices", fmt::format("vertex {}", indices[i]),
               fmt::format("0 to {}", static_cast<long>(vertices) - 1));
      }
    }
    return indices;
  }

  std::filesystem::path file_;
  std::optional<Fault> refused_;
  std::size_t read_ = 0;  // bytes of buffers
  tinygltf::Model model_;
  std::vector<bool> visited_;
  MeshData data_;
};

/// The materials that an OBJ names, and that no face has more corners than are cut into triangles quickly.
std::string look_through_obj(const std::string& text, const std::filesystem::path& file) {
  std::string materials;
  std::istringstream lines(text);
  std::uint32_t number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    std::istringstream words(line);
    std::string word;
    words >> word;
    if (word == "f") {
      std::size_t corners = 0;
      while (corners <= budget::corners && words >> word) ++corners;
      if (corners > budget::corners)
        throw InputError({{file.string(), number, 1},
                          "f",
                          fmt::format("more than {} corners", budget::corners),
                          "faces of fewer, as triangles or quads",
                          {}});
    } else if (word == "v") {
      for (int k = 0; k < 3; ++k) {
        word.clear(), words >> word;
        const char* from = word.data() + (word.starts_with('+') ? 1 : 0);
        const char* const end = word.data() + word.size();
        double value = 0;
        const auto [stop, wrong] = std::from_chars(from, end, value);
        if (wrong != std::errc{} || stop != end || !std::isfinite(value))
          throw InputError({{file.string(), number, 1}, "v", fmt::format("'{}'", word), "three finite numbers", {}});
      }
    } else if (word == "mtllib") {
      while (words >> word) {
        const auto there = under_folder(file.parent_path(), word, file, "mtllib");
        materials += read_input_file(there, budget::data_bytes, "a material file") + "\n";
        if (materials.size() > budget::data_bytes) refuse(file, "mtllib", "materials of too many bytes", "fewer");
      }
    }
  }
  return materials;
}

MeshData read_obj(const std::filesystem::path& file) {
  const std::string text = read_input_file(file, budget::mesh_bytes, "a .gltf, .glb or .obj file");
  const std::string materials = look_through_obj(text, file);
  tinyobj::ObjReaderConfig config;
  config.triangulate = true;
  tinyobj::ObjReader reader;
  if (!reader.ParseFromString(text, materials, config))
    refuse(file, "mesh", reader.Error().empty() ? "a file that cannot be read" : reader.Error(), "a whole OBJ file");
  MeshData data;
  const auto& vertices = reader.GetAttrib().vertices;
  for (std::size_t i = 0; i + 2 < vertices.size(); i += 3) {
    data.vertices.push_back(
        {static_cast<double>(vertices[i]), static_cast<double>(vertices[i + 1]), static_cast<double>(vertices[i + 2])});
  }
  for (const auto& material : reader.GetMaterials()) data.materials.push_back(material.name);
  data.materials.emplace_back();
  for (const auto& shape : reader.GetShapes()) {
    const auto& mesh = shape.mesh;
    for (std::size_t face = 0; face * 3 + 2 < mesh.indices.size(); ++face) {
      std::array<std::uint32_t, 3> t{};
      for (std::size_t k = 0; k < 3; ++k) {
        const int v = mesh.indices[face * 3 + k].vertex_index;
        if (v < 0 || static_cast<std::size_t>(v) >= data.vertices.size()) {
          refuse(file, "f", fmt::format("vertex {}", v + 1), fmt::format("1 to {}", data.vertices.size()));
        }
        t[k] = static_cast<std::uint32_t>(v);
      }
      data.triangles.push_back(t);
      const int material = face < mesh.material_ids.size() ? mesh.material_ids[face] : -1;
      const std::size_t last = data.materials.size() - 1;
      data.material_of.push_back(static_cast<std::uint16_t>(
          material < 0 ? last : std::min<std::size_t>(static_cast<std::size_t>(material), last)));
    }
  }
  if (data.triangles.empty()) refuse(file, "mesh", "no triangles", "one triangle or more");
  return data;
}

}  // namespace

MeshData read_mesh(const std::filesystem::path& file) {
  const auto extension = file.extension();
  if (extension != ".obj" && extension != ".gltf" && extension != ".glb")
    refuse(file, "mesh", fmt::format("'{}'", extension.string()), "a .gltf, .glb or .obj file");
  MeshData data = extension == ".obj" ? read_obj(file) : GltfReader(file).read();
  for (std::size_t i = 0; i < data.vertices.size(); ++i) {
    const Vec3& v = data.vertices[i];
    const double reach = std::max({std::abs(v.x), std::abs(v.y), std::abs(v.z)});
    if (!(reach <= budget::far))
      refuse(file, "mesh", fmt::format("vertex {} at {} m", i, reach), fmt::format("at most {} m", budget::far));
  }
  return data;
}

}  // namespace jugend
