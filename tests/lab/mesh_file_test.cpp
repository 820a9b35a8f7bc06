// Meshes that are read as they should be; those that are refused stand in tests/cli/bad_input_test.cpp.
#include <gtest/gtest.h>

#include <algorithm>
#include <jugend/lab/level.hpp>
#include <jugend/lab/mesh_file.hpp>

#include "../support/program.hpp"

namespace jugend::testing {
namespace {

TEST(MeshFile, ReadsTheQuay) {
  const MeshData quay = read_mesh(JUGEND_SOURCE "/demo/quay.glb");
  EXPECT_EQ(quay.triangles.size(), 1104u);
  ASSERT_EQ(quay.material_of.size(), quay.triangles.size());
  for (const char* name : {"cobbles", "planks", "wall", "mud"}) {
    EXPECT_NE(std::ranges::find(quay.materials, name), quay.materials.end()) << name;
  }
  const Mesh mesh(quay);
  const auto down = mesh.cast({{18, 9, 0.3}, {0, -1, 0}, 20});
  ASSERT_TRUE(down);
  EXPECT_NEAR(down->distance, 9 - 0.9, 1e-6) << "half way up the slipway";
  EXPECT_EQ(mesh.materials()[mesh.material(down->part)], "planks");
  EXPECT_GT(down->normal.y, 0.9) << "its triangles look up";
}

TEST(MeshFile, ReadsObjWithFacesOfFour) {
  Folder folder;
  folder.write("deck.obj", "v 0 0 0\nv 0 0 2\nv 3 0 2\nv 3 0 0\nv 3 1 2\nf 1 2 3 4\nf -3 -2 -1\n");
  const MeshData deck = read_mesh(folder / "deck.obj");
  EXPECT_EQ(deck.triangles.size(), 3u);
  EXPECT_TRUE(Mesh(deck).cast({{1, 1, 1}, {0, -1, 0}, 2}));
}

/// One triangle, facing up, with the transform of its node given as JSON.
std::string placed_triangle(const std::string& transform) {
  return "{\"asset\":{\"version\":\"2.0\"},\"nodes\":[{\"children\":[1],\"translation\":[0,1,0]},{\"mesh\":0," +
         transform +
         "}],\"meshes\":[{\"primitives\":[{\"attributes\":{\"POSITION\":0}}]}],"
         "\"buffers\":[{\"byteLength\":36,\"uri\":\"data:application/octet-stream;base64,"
         "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAIA/AACAPwAAAAAAAAAA\"}],"
         "\"bufferViews\":[{\"buffer\":0,\"byteLength\":36}],"
         "\"accessors\":[{\"bufferView\":0,\"componentType\":5126,\"count\":3,\"type\":\"VEC3\"}]}";
}

TEST(MeshFile, PlacesNodesByTheirTransforms) {
  Folder folder;
  folder.write("a.gltf", placed_triangle("\"translation\":[10,0,0],\"scale\":[2,2,2]"));
  const MeshData moved = read_mesh(folder / "a.gltf");
  ASSERT_EQ(moved.vertices.size(), 3u);
  EXPECT_EQ(moved.vertices[0], (Vec3{10, 1, 0}));
  EXPECT_EQ(moved.vertices[1], (Vec3{10, 1, 2}));
  EXPECT_EQ(moved.vertices[2], (Vec3{12, 1, 0}));
  folder.write("b.gltf", placed_triangle("\"rotation\":[0,0,0.70710678,0.70710678]"));
  const MeshData turned = read_mesh(folder / "b.gltf");
  EXPECT_NEAR(turned.vertices[2].y, 2, 1e-6) << "x became y, above the parent's 1";
}

TEST(MeshFile, MirroredNodesKeepLookingOutward) {
  Folder folder;
  folder.write("plain.gltf", placed_triangle("\"scale\":[1,1,1]"));
  folder.write("mirrored.gltf", placed_triangle("\"scale\":[-1,1,1]"));
  const auto facing = [&](const char* file) {
    const MeshData data = read_mesh(folder / file);
    const auto& t = data.triangles[0];
    return cross(data.vertices[t[1]] - data.vertices[t[0]], data.vertices[t[2]] - data.vertices[t[0]]).y;
  };
  EXPECT_GT(facing("plain.gltf"), 0);
  EXPECT_GT(facing("mirrored.gltf"), 0);
}

TEST(LevelShapes, WhatBodiesDescribeAlikeIsMadeOnceAndShared) {
  Folder folder;
  folder.write("deck.obj", "v 0 0 0\nv 0 0 2\nv 3 0 2\nv 3 0 0\nf 1 2 3 4\n");
  std::string level;
  for (const char* more : {"", "", "\nposition = [9, 0, 0]"})
    level += std::string("[[body]]\nshape = \"mesh\"\nfile = \"deck.obj\"") + more + "\n";
  for (const char* seed : {"1", "1", "2"})
    level += std::string("[[body]]\nshape = \"road\"\nlength = 9\nseed = ") + seed + "\n";
  folder.write("a.level.toml", level);
  const Level read = read_level(folder / "a.level.toml");
  const auto mesh = [&](std::size_t i) { return std::get<MeshRef>(read.bodies[i].shape).get(); };
  EXPECT_EQ(mesh(0), mesh(1));
  EXPECT_EQ(mesh(0), mesh(2));
  EXPECT_EQ(mesh(3), mesh(4));
  EXPECT_NE(mesh(4), mesh(5)) << "of another seed";
}

}  // namespace
}  // namespace jugend::testing
