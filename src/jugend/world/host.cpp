// The library's world as the host of a stage.
#include <jugend/world/world.hpp>

namespace jugend {

void World::bring_back(std::span<const std::byte> saved) {
  Snapshot there;
  from_bytes(saved).save(there);
  restore(there);
}

void World::set_capsule(BodyId id, const Capsule& capsule) {
  if (const Shape now = capsule; shape(id) != now) set_shape(id, now);
}

/// A proxy: it has no motion of its own, and what is done to it is handed on to its walker.
BodyId World::add_figure(const std::string& name, const Capsule& capsule, const Pose& pose, double mass) {
  BodyPlan plan;
  plan.shape = capsule;
  plan.pose = pose;
  plan.kind = BodyKind::proxy;
  plan.mass = mass;
  plan.locks = lock::turn;
  plan.layers = walker_layer::swept;
  plan.name = name;
  return add(plan);
}

Vec3 World::take_given(BodyId id, double dt) {
  Vec3 given = take_push(id);
  if (dt > 0) given += take_force(id) * dt;
  return given;
}

}  // namespace jugend
