// Meshes from files: glTF 2.0 (.gltf, .glb) and OBJ (.obj).
#pragma once

#include <filesystem>
#include <jugend/shape/mesh.hpp>

namespace jugend {

/// Reads all triangles of a file, with every node's transform applied and materials by name. Units and
/// axes are taken as they stand (glTF: metres, y up). Throws InputError that names the file and what is
/// wrong: a missing or truncated file, another format, an index out of range, a cycle among nodes, a
/// buffer that is not inside the file's folder, numbers that are not finite, nothing but points or lines.
MeshData read_mesh(const std::filesystem::path& file);

}  // namespace jugend
