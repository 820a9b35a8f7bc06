#include <algorithm>
#include <jugend/base/units.hpp>
#include <jugend/world/detail/joint_frame.hpp>
#include <jugend/world/detail/parts.hpp>
#include <jugend/world/sketch.hpp>

namespace jugend {

void draw(const World& world, Sketch& sketch) { world.draw(sketch); }

void World::draw(Sketch& sketch) const {
  using namespace world_state;
  for (std::uint32_t i = 0; i < parts_->state.bodies.size(); ++i) {
    const Body& b = parts_->state.bodies[i];
    if (b.alive)
      sketch.body({id_of(i), parts_->shapes[b.shape], b.pose, b.centre, b.kind, b.asleep, b.sensor,
                   parts_->state.tree.bounds(b.leaf)});
  }
  const auto lighter = [&](const Body* a, const Body* b) {
    const double of_a = a && a->mass > 0 ? a->mass : infinity, of_b = b && b->mass > 0 ? b->mass : infinity;
    return 1 / (std::min(of_a, of_b) * standard_gravity);
  };
  for (const Pair& pair : parts_->state.pairs) {
    const Body &a = parts_->state.bodies[pair.a], &b = parts_->state.bodies[pair.b];
    const bool b_is_lighter = a.mass == 0 || (b.mass > 0 && b.mass < a.mass);
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = parts_->state.contacts[pair.first + k];
      for (std::uint32_t p = 0; p < contact.count; ++p) {
        const ContactPoint& point = contact.points[p];
        const Vec3 on_a = (contact.normal * point.force + point.friction) * lighter(&a, &b);
        sketch.contact({point.point, contact.normal, b_is_lighter ? -on_a : on_a});
      }
    }
  }
  for (std::uint32_t j = 0; j < parts_->state.joints.size(); ++j) {
    const Joint& joint = parts_->state.joints[j];
    if (!joint.alive) continue;
    const Body& a = parts_->state.bodies[joint.a];
    const Body* b = joint.b == none ? nullptr : &parts_->state.bodies[joint.b];
    const Body still, &other = b ? *b : still;
    const JointFrame frame(joint, a.centre, a.pose.orientation, other.centre, other.pose.orientation);
    sketch.joint({{j, joint.generation},
                  joint.kind,
                  frame.at_a,
                  frame.at_b,
                  frame.axis,
                  joint.over_a,
                  joint.over_b,
                  joint.force * lighter(&a, b)});
  }
}

}  // namespace jugend
