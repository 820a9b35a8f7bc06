#include <jugend/lab/picture.hpp>

namespace jugend {
namespace {

class PictureSketch : public Sketch {
 public:
  Picture picture;

  void body(const DrawnBody& b) override {
    if (b.kind == BodyKind::fixed) return;
    silhouette(b.shape, b.pose, View::side, picture.side);
    silhouette(b.shape, b.pose, View::top, picture.top);
  }
  void contact(const DrawnContact& c) override {
    if (norm(c.force) < 0.02) return;
    const Vec3 tip = c.at + c.force * Picture::force_length;
    picture.side_forces.push_back({{{c.at.x, c.at.y}, {tip.x, tip.y}}, false});
    picture.top_forces.push_back({{{c.at.x, c.at.z}, {tip.x, tip.z}}, false});
  }
};

}  // namespace

Picture picture_of(const World& world, double time) {
  PictureSketch sketch;
  sketch.picture.time = time;
  draw(world, sketch);
  return std::move(sketch.picture);
}

}  // namespace jugend
