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

void carry_out(const Deed& deed, Surroundings& on);

/// The surroundings as they are while nobody changes them: questions go through, deeds into a list.
class Observed final : public Answered {
 public:
  Observed(const Surroundings& seen, std::vector<Deed>& deeds) : Answered(seen), deeds_(deeds) {}
  void push(BodyId body, const Vec3& impulse, const Vec3& at) override;
  void twist(BodyId body, const Vec3& impulse) override;
  void force(BodyId body, const Vec3& force, const Vec3& at) override;
  void torque(BodyId body, const Vec3& torque) override;

 private:
  std::vector<Deed>& deeds_;
};

}  // namespace jugend
