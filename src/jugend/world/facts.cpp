// What can be asked of bodies one by one, and the slots that visits go through.
#include <jugend/world/detail/parts.hpp>

namespace jugend {

std::size_t World::size() const { return parts_->state.alive; }
BodyKind World::kind(BodyId id) const { return held(id) ? BodyKind::dynamic : get(id).kind; }
bool World::held(BodyId id) const { return get(id).held; }
Pose World::pose(BodyId id) const { return get(id).pose; }
Vec3 World::spin(BodyId id) const { return get(id).spin; }
Vec3 World::centre_of_mass(BodyId id) const { return get(id).centre; }
double World::mass(BodyId id) const { return get(id).mass; }
bool World::asleep(BodyId id) const { return get(id).asleep; }
const Shape& World::shape(BodyId id) const { return parts_->shapes[get(id).shape]; }
const Surface& World::surface(BodyId id) const { return get(id).surface; }
std::uint32_t World::layers(BodyId id) const { return get(id).layers; }
const std::string& World::name(BodyId id) const { return parts_->names[get(id).name]; }
std::size_t World::awake() const { return parts_->state.awake.size(); }
const GravityField& World::gravity_field() const { return parts_->field; }
std::span<const Pool> World::pools() const { return parts_->pools; }
void World::refilter() { parts_->filters_changed = true; }
void World::set_threads(int threads) {
  parts_->workers.set_threads(threads);
  parts_->islands.make_solvers(parts_->workers.threads());
}

void World::set_jobs(const JobSystem& jobs) {
  parts_->workers.set_jobs(jobs);
  parts_->islands.make_solvers(parts_->workers.threads());
}

const Workers& World::workers() const { return parts_->workers; }
std::span<const ContactEvent> World::events() const { return parts_->events; }
std::span<const JointEvent> World::broken() const { return parts_->broken; }
std::size_t World::contact_points() const { return parts_->islands.point_count(); }
Vec3 World::gravity(const Vec3& at) const { return parts_->field.at(at); }
BodyId World::id_of(std::uint32_t index) const { return {index, parts_->state.bodies[index].generation}; }
bool World::stirs(const Pair& pair) const { return (parts_->stirring[pair.a] | parts_->stirring[pair.b]) != 0; }

std::uint32_t World::body_slots() const { return static_cast<std::uint32_t>(parts_->state.bodies.size()); }
BodyId World::body_in(std::uint32_t slot) const { return parts_->state.bodies[slot].alive ? id_of(slot) : BodyId{}; }
std::uint32_t World::joint_slots() const { return static_cast<std::uint32_t>(parts_->state.joints.size()); }
JointId World::joint_in(std::uint32_t slot) const {
  return parts_->state.joints[slot].alive ? JointId{slot, parts_->state.joints[slot].generation} : JointId{};
}
std::size_t World::pair_slots() const { return parts_->state.pairs.size(); }
std::uint8_t World::contacts_in(std::size_t pair) const { return parts_->state.pairs[pair].count; }
ContactFacts World::contact_in(std::size_t pair, std::uint8_t k) const {
  return contact_facts(parts_->state.pairs[pair], k);
}

ContactFacts World::contact_facts(const Pair& pair, std::uint8_t k) const {
  const world_state::Contact& contact = parts_->state.contacts[pair.first + k];
  ContactFacts facts{id_of(pair.a), id_of(pair.b), contact.normal, {}};
  for (std::uint32_t i = 0; i < contact.count; ++i) {
    const world_state::ContactPoint& p = contact.points[i];
    facts.points.push_back({p.point, p.separation, p.force, p.friction});
  }
  return facts;
}

}  // namespace jugend
