#include <jugend/lab/picture.hpp>

namespace jugend {
namespace {

class PictureSketch : public Sketch {
 public:
  Picture picture;

  void body(const DrawnBody& b) override {
    if (b.kind == BodyKind::fixed || b.kind == BodyKind::proxy) return;  // what a proxy stands for draws itself
    picture.add(b.shape, b.pose);
  }
  void contact(const DrawnContact& c) override {
    if (norm(c.force) >= 0.02) picture.add_force(c.at, c.force);
  }
};

}  // namespace

void Picture::add(const Shape& shape, const Pose& pose) {
  silhouette(shape, pose, View::side, side);
  silhouette(shape, pose, View::top, top);
}

void Picture::add_force(const Vec3& at, const Vec3& of_weight) {
  const Vec3 tip = at + of_weight * force_length;
  side_forces.push_back({{{at.x, at.y}, {tip.x, tip.y}}, false});
  top_forces.push_back({{{at.x, at.z}, {tip.x, tip.z}}, false});
}

Picture picture_of(const World& world, double time) {
  PictureSketch sketch;
  sketch.picture.time = time;
  draw(world, sketch);
  return std::move(sketch.picture);
}

}  // namespace jugend
