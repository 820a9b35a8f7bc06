// All of a world into one buffer and back, and its hash.
#include <cstring>
#include <jugend/base/error.hpp>
#include <jugend/world/detail/parts.hpp>
#include <type_traits>

namespace jugend {

using namespace world_state;

namespace {

template <class Item>
constexpr bool is_array = requires(Item item) {
  item.size();
};

template <class Item>
std::size_t size_of(const Item& item) {
  if constexpr (is_array<Item>) {
    static_assert(std::is_trivially_copyable_v<typename Item::value_type>);
    return sizeof(std::uint64_t) + item.size() * sizeof(item[0]);
  } else {
    static_assert(std::is_trivially_copyable_v<Item>);
    return sizeof item;
  }
}

}  // namespace

/// visit(item) for each array and number that a snapshot holds.
template <class Self, class Visit>
void World::each_saved(Self& world, Visit&& visit) {
  State::each(world.parts_->state, visit);
  visit(world.parts_->field.zones_), visit(world.parts_->field.uniform), visit(world.parts_->field.next_);
  visit(world.parts_->pools), visit(world.parts_->newcomers), visit(world.parts_->lists_changed),
      visit(world.parts_->filters_changed);
}

void World::save(Snapshot& into) const {
  std::size_t bytes = 0;
  each_saved(*this, [&](const auto& item) { bytes += size_of(item); });
  if (into.data_.size() < bytes) into.data_.resize(bytes);
  std::byte* at = into.data_.data();
  each_saved(*this, [&](const auto& item) {
    if constexpr (is_array<std::remove_cvref_t<decltype(item)>>) {
      const std::uint64_t count = item.size();
      std::memcpy(at, &count, sizeof count);
      if (count > 0) std::memcpy(at + sizeof count, item.data(), count * sizeof(item[0]));
    } else {
      std::memcpy(at, &item, sizeof item);
    }
    at += size_of(item);
  });
  const bool other = into.world_ != parts_->number;
  into.used_ = bytes;
  into.world_ = parts_->number;
  const auto keep = [&](const auto& held, auto& things, std::uint64_t& version) {
    if (other || version != held.version()) things = held.all();
    version = held.version();
  };
  keep(parts_->shapes, into.shapes_, into.shapes_version_);
  keep(parts_->names, into.names_, into.names_version_);
}

void World::restore(const Snapshot& from) {
  need_no_question();
  if (from.world_ != parts_->number)
    fail({{}, "snapshot", from.used_ == 0 ? "an empty one" : "one of another world", "one that this world saved", {}});
  const std::byte* at = from.data_.data();
  each_saved(*this, [&](auto& item) {
    if constexpr (is_array<std::remove_cvref_t<decltype(item)>>) {
      std::uint64_t count = 0;
      std::memcpy(&count, at, sizeof count);
      item.resize(count);
      if (count > 0) std::memcpy(item.data(), at + sizeof count, count * sizeof(item[0]));
    } else {
      std::memcpy(&item, at, sizeof item);
    }
    at += size_of(item);
  });
  const auto each = [&](const auto& visit) {
    for (const Body& body : parts_->state.bodies) {
      if (body.alive) visit(body);
    }
  };
  parts_->shapes.restore(from.shapes_, from.shapes_version_,
                         [&](const auto& retain) { each([&](const Body& body) { retain(body.shape); }); });
  parts_->names.restore(from.names_, from.names_version_, [&](const auto& retain) {
    each([&](const Body& body) { retain(body.name); });
    for (const Joint& joint : parts_->state.joints) {
      if (joint.alive) retain(joint.name);
    }
  });
  parts_->active_changed = true;
  parts_->events.clear();
  parts_->broken.clear();
}

void World::add_to(StateHash& hash) const {
  for (const Body& body : parts_->state.bodies) {
    if (!body.alive || body.kind == BodyKind::fixed) continue;
    hash.add(body.pose.position), hash.add(body.pose.orientation), hash.add(body.centre);
    hash.add(body.velocity), hash.add(body.spin);
    hash.add(static_cast<std::uint64_t>(body.asleep));
    if (body.held) hash.add(body.held_velocity), hash.add(body.held_spin);
  }
  for (const Pair& pair : parts_->state.pairs) {
    for (std::uint8_t k = 0; k < pair.count; ++k) {
      const Contact& contact = parts_->state.contacts[pair.first + k];
      hash.add(contact.normal);
      for (std::uint32_t i = 0; i < contact.count; ++i)
        hash.add(contact.points[i].warm_force), hash.add(contact.points[i].separation);
    }
  }
  for (const Joint& joint : parts_->state.joints) {
    if (joint.alive) hash.add(joint.warm_force), hash.add(joint.warm_torque), hash.add(joint.turns);
  }
}

}  // namespace jugend
