// A walker on somebody else's physics: the controller knows the port, and nothing of the world that
// ships with the library. This world is a list of boxes that fits in a page.
#include <array>
#include <cmath>
#include <cstdio>
#include <jugend/motion/walker/walker.hpp>
#include <vector>

namespace {

using namespace jugend;

/// Boxes that stand still, searched one by one.
class Boxes final : public Surroundings {
 public:
  void add(const Vec3& low, const Vec3& high) { boxes_.push_back({low, high}); }

  std::optional<Hit> cast(const Ray& ray, const Filter&) const override {
    std::optional<Hit> best;
    for (std::uint32_t i = 0; i < boxes_.size(); ++i) {
      const auto hit = cast_on_box(ray, boxes_[i].low, boxes_[i].high);
      if (!hit || (best && best->distance <= hit->distance)) continue;
      best = Hit{hit->distance, ray.origin + ray.direction * hit->distance, hit->normal, BodyId{i, 0}};
    }
    return best;
  }
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter&) const override {
    std::optional<Hit> best;
    for (std::uint32_t i = 0; i < boxes_.size(); ++i) {
      const auto touch = first_touch(mover, motion, placed(i).view());
      if (!touch || (best && best->distance <= touch->fraction)) continue;
      best = Hit{touch->fraction, touch->point, touch->normal, BodyId{i, 0}};
    }
    return best;
  }
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter&) const override {
    std::size_t found = 0;
    for (std::uint32_t i = 0; i < boxes_.size(); ++i) {
      const Separation s = separation(body, placed(i).view());
      if (s.distance > margin) continue;
      if (found < out.size()) out[found] = {-s.distance, s.point, s.normal, BodyId{i, 0}};
      ++found;
    }
    return found;
  }
  BodyFacts facts(BodyId) const override { return {}; }    // all of it stands still
  void push(BodyId, const Vec3&, const Vec3&) override {}  // and nothing moves it
  void twist(BodyId, const Vec3&) override {}
  void force(BodyId, const Vec3&, const Vec3&) override {}
  void torque(BodyId, const Vec3&) override {}
  Vec3 gravity(const Vec3&) const override { return {0, -9.81, 0}; }

 private:
  PlacedConvex placed(std::uint32_t i) const {
    const auto& [low, high] = boxes_[i];
    return {Box{(high - low) * 0.5}, Pose{(low + high) * 0.5, {}}};
  }
  struct Corners {
    Vec3 low, high;
  };
  std::vector<Corners> boxes_;
};

}  // namespace

int main() {
  Boxes world;
  world.add({-10, -1, -3}, {6, 0, 3});     // a jetty
  world.add({8.5, -1, -3}, {20, 0.4, 3});  // a barge behind a gap of 2.5 m
  Walker walker({}, {0, 0, 0});
  bool crossed = false;
  for (int tick = 0; tick < 180; ++tick) {
    WalkerIntent intent{{1, 0, 0}, {}};
    if (walker.state().on_ground && walker.state().position.x > 5.3 && !crossed) intent.jump.presses = 1;
    walker.step(intent, world, 1.0 / 60);
    for (const WalkerEvent& e : walker.events()) {
      std::printf("%-12s x %5.2f m  y %5.2f m\n", name_of(e.kind), e.position.x, e.position.y);
      crossed |= e.kind == WalkerEventKind::landed && e.position.x > 8;
    }
  }
  return crossed && std::abs(walker.state().position.y - 0.4) < 1e-6 ? 0 : 1;
}
