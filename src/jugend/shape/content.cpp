// What a shape is made of, as one number.
#include <jugend/base/fields.hpp>
#include <jugend/base/overloaded.hpp>
#include <jugend/shape/shape.hpp>

namespace jugend {
namespace {

void add_triangles(StateHash& hash, const auto& faces, std::size_t count) {
  hash.add(std::uint64_t{count});
  for (std::uint32_t i = 0; i < count; ++i) add_to(hash, faces.triangle(i));
}

struct Content {
  StateHash& hash;
  void operator()(const Sphere& s) const { hash.add(s.radius); }
  void operator()(const Capsule& c) const { hash.add(c.radius), hash.add(c.half_length); }
  void operator()(const Box& b) const { hash.add(b.half_extents); }
  void operator()(const Cylinder& c) const { hash.add(c.radius), hash.add(c.half_height); }
  void operator()(const HullRef& hull) const { add_to(hash, hull->corners()); }
  void operator()(const CompoundRef& compound) const {
    for (const Compound::Part& part : compound->parts()) {
      hash.add(std::uint64_t{part.shape.index()}), add_to(hash, part.pose);
      std::visit(*this, part.shape);
    }
  }
  void operator()(const MeshRef& mesh) const {
    add_triangles(hash, *mesh, mesh->triangle_count());
    for (std::uint32_t i = 0; i < mesh->triangle_count(); ++i) hash.add(std::uint64_t{mesh->material(i)});
    add_to(hash, mesh->materials());
  }
  void operator()(const HeightFieldRef& field) const {
    hash.add(std::uint64_t{field->columns()}), hash.add(field->cell());
    add_triangles(hash, *field, 2 * (field->columns() - 1) * (field->rows() - 1));
  }
  void operator()(const TileGridRef& tiles) const {
    for (std::uint32_t i = 0; i < tiles->part_count(); ++i) add_to(hash, tiles->part(i).points);
  }
};

}  // namespace

std::uint64_t content_of(const Shape& shape) {
  StateHash hash;
  hash.add(std::uint64_t{shape.index()});
  std::visit(Content{hash}, shape);
  return hash.value();
}

}  // namespace jugend
