#include <algorithm>
#include <jugend/base/units.hpp>
#include <jugend/world/joint_frame.hpp>
#include <jugend/world/sketch.hpp>

namespace jugend {

void draw(const World& world, Sketch& sketch) { world.draw(sketch); }

void World::draw(Sketch& sketch) const {
  using namespace world_state;
  for (std::uint32_t i = 0; i < state_.bodies.size(); ++i) {
    const Body& b = state_.bodies[i];
    if (b.alive)
      sketch.body(
          {id_of(i), shapes_[b.shape], b.pose, b.centre, b.kind, b.asleep, b.sensor, state_.tree.bounds(b.leaf)});
  }
  const auto lighter = [&](const Body* a, const Body* b) {
    const double of_a = a && a->mass > 0 ? a->mass : 1e300, of_b = b && b->mass > 0 ? b->mass : 1e300;
    return 1 / (std::min(of_a, of_b) * standard_gravity);
  };
  for (const Pair& pair : state_.pairs) {
    const Body &a = state_.bodies[pair.a], &b = state_.bodies[pair.b];
    const bool b_is_lighter = a.mass == 0 || (b.mass > 0 && b.mass < a.mass);
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = state_.contacts[pair.first + k];
      for (std::uint32_t p = 0; p < contact.count; ++p) {
        const ContactPoint& point = contact.points[p];
        const Vec3 on_a = (contact.normal * point.force + point.friction) * lighter(&a, &b);
        sketch.contact({point.point, contact.normal, b_is_lighter ? -on_a : on_a});
      }
    }
  }
  for (std::uint32_t j = 0; j < state_.joints.size(); ++j) {
    const Joint& joint = state_.joints[j];
    if (!joint.alive) continue;
    const Body& a = state_.bodies[joint.a];
    const Body* b = joint.b == none ? nullptr : &state_.bodies[joint.b];
    const Body still, &other = b ? *b : still;
    const JointFrame frame(joint, a.centre, a.pose.orientation, other.centre, other.pose.orientation);
    sketch.joint({{j, joint.generation}, joint.kind, frame.at_a, frame.at_b, frame.axis, joint.force * lighter(&a, b)});
  }
}

}  // namespace jugend
