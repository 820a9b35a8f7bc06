#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/stage/stage.hpp>
#include <utility>

namespace jugend {

std::size_t Stage::add(std::string name, Walker walker) {
  if (name.empty()) throw InputError({{}, "actor.name", "an empty name", "a name", {}});
  for (const Actor& a : actors_) {
    if (a.name == name)
      throw InputError({{}, "actor.name", fmt::format("'{}' a second time", name), "each name once", {}});
  }
  const WalkerState start = walker.state();
  actors_.push_back({std::move(name), std::move(walker), {}, {}, start});
  return actors_.size() - 1;
}

void Stage::tick(double dt) {
  for (Actor& a : actors_) a.intent.jump = a.jump.take();
  for (Actor& a : actors_) {
    a.before = a.walker.state();
    a.walker.step(a.intent, world, dt);
  }
  world.step(dt);
  ++ticks_;
}

Vec3 Stage::drawn_position(std::size_t index, double fraction) const {
  const Actor& a = actors_[index];
  return a.before.position + (a.walker.state().position - a.before.position) * fraction;
}

std::uint64_t Stage::hash() const {
  StateHash hash;
  hash.add(ticks_);
  world.add_to(hash);
  for (const Actor& a : actors_) {
    const WalkerState& s = a.walker.state();
    hash.add(s.position), hash.add(s.velocity), hash.add(s.facing), hash.add(s.up), hash.add(s.carried);
    hash.add(static_cast<std::uint64_t>(s.mode)), hash.add(static_cast<std::uint64_t>(s.on_ground));
    hash.add(s.ground.normal), hash.add(s.take_off_height), hash.add(s.air_time);
  }
  return hash.value();
}

}  // namespace jugend
