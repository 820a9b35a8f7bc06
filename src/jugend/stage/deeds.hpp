// What controllers do to bodies, written down while many of them act at once, and done afterwards in a fixed order.
#pragma once

#include <jugend/motion/port/surroundings.hpp>
#include <vector>

namespace jugend {

/// Something done to a body.
struct Deed {
  enum class What : std::uint8_t { push, twist, force, torque };
  What what{};
  BodyId body;
  Vec3 amount, at;
};

inline void carry_out(const Deed& deed, Surroundings& on) {
  switch (deed.what) {
    case Deed::What::push: return on.push(deed.body, deed.amount, deed.at);
    case Deed::What::twist: return on.twist(deed.body, deed.amount);
    case Deed::What::force: return on.force(deed.body, deed.amount, deed.at);
    case Deed::What::torque: return on.torque(deed.body, deed.amount);
  }
}

/// The surroundings as they are while nobody changes them: questions go through, deeds into a list.
class Observed final : public Surroundings {
 public:
  Observed(const Surroundings& seen, std::vector<Deed>& deeds) : seen_(seen), deeds_(deeds) {}
  std::optional<Hit> cast(const Ray& ray, const Filter& filter) const override { return seen_.cast(ray, filter); }
  void cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const override {
    seen_.cast_all(rays, filter, hits);
  }
  std::optional<Hit> sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const override {
    return seen_.sweep(mover, motion, filter);
  }
  std::size_t overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const override {
    return seen_.overlaps(body, margin, out, filter);
  }
  BodyFacts facts(BodyId body) const override { return seen_.facts(body); }
  Vec3 gravity(const Vec3& at) const override { return seen_.gravity(at); }
  Medium medium(const Vec3& at, const Vec3& up) const override { return seen_.medium(at, up); }
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override {
    deeds_.push_back({Deed::What::push, body, impulse, at});
  }
  void twist(BodyId body, const Vec3& impulse) override { deeds_.push_back({Deed::What::twist, body, impulse, {}}); }
  void force(BodyId body, const Vec3& force, const Vec3& at) override {
    deeds_.push_back({Deed::What::force, body, force, at});
  }
  void torque(BodyId body, const Vec3& torque) override { deeds_.push_back({Deed::What::torque, body, torque, {}}); }

 private:
  const Surroundings& seen_;
  std::vector<Deed>& deeds_;
};

}  // namespace jugend
