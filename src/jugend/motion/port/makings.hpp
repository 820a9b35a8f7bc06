// What a controller was made of beside its tuning: its body as it was then. Springs, tables and shares follow from it;
// made of the same again they have the same bits, wherever the body is by now.
#pragma once

#include <jugend/base/units.hpp>
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

struct Makings {
  double mass = 0;
  Pose pose;
  Vec3 centre;
  Sym3 inverse_inertia;
  Vec3 gravity;  ///< m/s² at its centre

  static constexpr auto fields() {
    return field_list(Field{"mass", &Makings::mass}, Field{"pose", &Makings::pose}, Field{"centre", &Makings::centre},
                      Field{"inverse_inertia", &Makings::inverse_inertia}, Field{"gravity", &Makings::gravity});
  }
};
static_assert(all_fields_listed<Makings>);

inline Makings makings_of(BodyId body, const Surroundings& around) {
  const BodyFacts facts = around.facts(body);
  return {facts.mass, facts.pose, facts.centre, facts.inverse_inertia, around.gravity(facts.centre)};
}

/// m/s² by which springs and rotors are sized: where nothing pulls, as on the ground, in a world of `length_scale`
/// units a metre.
inline double sizing_pull(const Vec3& gravity, double length_scale) {
  const double felt = norm(gravity);
  return felt > 0 ? felt : standard_gravity * length_scale;
}

/// Surroundings in which there is a body of these makings, by whatever name, and nothing else.
class MadeOf final : public Surroundings {
 public:
  explicit MadeOf(const Makings& makings) : of_(makings) {}
  std::optional<Hit> cast(const Ray&, const Filter&) const override { return {}; }
  std::optional<Hit> sweep(const Convex&, const Vec3&, const Filter&) const override { return {}; }
  std::size_t overlaps(const Convex&, double, std::span<Overlap>, const Filter&) const override { return 0; }
  BodyFacts facts(BodyId) const override {
    BodyFacts facts;
    facts.mass = of_.mass, facts.pose = of_.pose, facts.centre = of_.centre;
    facts.inverse_inertia = of_.inverse_inertia;
    return facts;
  }
  void push(BodyId, const Vec3&, const Vec3&) override {}
  void twist(BodyId, const Vec3&) override {}
  void force(BodyId, const Vec3&, const Vec3&) override {}
  void torque(BodyId, const Vec3&) override {}
  Vec3 gravity(const Vec3&) const override { return of_.gravity; }

 private:
  Makings of_;
};

}  // namespace jugend
