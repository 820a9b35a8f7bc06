// What controllers do to bodies, written down while many of them act at once, and done afterwards in a fixed order.
#pragma once

#include <jugend/motion/port/answered.hpp>
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
class Observed final : public Answered {
 public:
  Observed(const Surroundings& seen, std::vector<Deed>& deeds) : Answered(seen), deeds_(deeds) {}
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override {
    deeds_.push_back({Deed::What::push, body, impulse, at});
  }
  void twist(BodyId body, const Vec3& impulse) override { deeds_.push_back({Deed::What::twist, body, impulse, {}}); }
  void force(BodyId body, const Vec3& force, const Vec3& at) override {
    deeds_.push_back({Deed::What::force, body, force, at});
  }
  void torque(BodyId body, const Vec3& torque) override { deeds_.push_back({Deed::What::torque, body, torque, {}}); }

 private:
  std::vector<Deed>& deeds_;
};

}  // namespace jugend
