// Surroundings whose questions others answer: for who only has something of its own done with what is asked to be done.
#pragma once

#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

class Answered : public Surroundings {
 public:
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override { return by_.cast(ray, filter); }
  void cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const override {
    by_.cast_all(rays, filter, hits);
  }
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override {
    return by_.sweep(mover, motion, filter);
  }
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override {
    return by_.overlaps(body, margin, out, filter);
  }
  BodyFacts facts(BodyId body) const override { return by_.facts(body); }
  Vec3 gravity(const Vec3& at) const override { return by_.gravity(at); }
  Medium medium(const Vec3& at, const Vec3& up) const override { return by_.medium(at, up); }

 protected:
  explicit Answered(const Surroundings& by) : by_(by) {}

 private:
  const Surroundings& by_;
};

}  // namespace jugend
