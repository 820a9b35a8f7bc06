#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/stage/stage.hpp>
#include <utility>

namespace jugend {

void Actor::refuse_kind() const {
  throw InputError({{}, name_, fmt::format("an actor of kind {}", kind()), "one that has what is asked for", {}});
}

void Stage::check_name(const std::string& name) const {
  if (name.empty()) throw InputError({{}, "actor.name", "an empty name", "a name", {}});
  for (const auto& a : actors_) {
    if (a->name() == name)
      throw InputError({{}, "actor.name", fmt::format("'{}' a second time", name), "each name once", {}});
  }
}

std::size_t Stage::put(Shared<Actor> actor) {
  actor->enter(world);
  actor->settle(world, 0);  // it looks where it was put: what stands is not falling until the first tick
  actor->show(world, 0);
  actor->before_ = actor->facts(world).position;
  actors_.push_back(std::move(actor));
  return actors_.size() - 1;
}

void Stage::add_rail(BodyId body, RailMotion motion) {
  if (world.kind(body) != BodyKind::kinematic)
    throw InputError({{}, "body.path", "one for a body of another kind", "a kinematic body", {}});
  const Pose start = world.pose(body);
  world.place(body, motion.pose_at(now_, start));
  rails_.push_back({body, std::move(motion), start});
}

void Stage::lead(double dt) {
  for (const Rail& rail : rails_) {
    if (!world.alive(rail.body)) continue;
    const Pose now = world.pose(rail.body), then = rail.motion.pose_at(now_ + dt, rail.start);
    const Vec3 velocity = (then.position - now.position) / dt;
    const Vec3 spin = rotation_vector(then.orientation * conjugate(now.orientation)) / dt;
    if (velocity != world.velocity(rail.body) || spin != world.spin(rail.body))
      world.set_motion(rail.body, velocity, spin);
  }
}

void Stage::tick(double dt) {
  lead(dt);
  for (const auto& a : actors_) {
    a->before_ = a->facts(world).position;
    a->listen();
  }
  for (const auto& a : actors_) a->step(world, dt);
  world.step(dt);
  ++ticks_;
  now_ += dt;
  // All are where what moved has carried them before any looks what has come into it. One on another's head is carried
  // with that one, whoever was added first.
  bool again = true;
  for (std::size_t storey = 0; again && storey <= actors_.size(); ++storey) {
    again = false;
    for (const auto& a : actors_) again |= a->show(world, dt);
  }
  for (const auto& a : actors_) a->settle(world, dt);
  for (const auto& a : actors_) a->show(world, dt);
}

Vec3 Stage::drawn_position(std::size_t index, double fraction) const {
  const Vec3 before = actors_[index]->before();
  return before + (facts(index).position - before) * fraction;
}

void Stage::save(StageSnapshot& into) const {
  world.save(into.world_);
  std::size_t bytes = 0;
  into.actors_.clear();
  for (const auto& a : actors_) {
    into.actors_.push_back({a->saved_as(), bytes, a->before()});
    bytes += a->saved_bytes();
  }
  into.bytes_.resize(bytes);
  for (std::size_t i = 0; i < actors_.size(); ++i) actors_[i]->save(into.bytes_.data() + into.actors_[i].at);
  into.ticks_ = ticks_, into.now_ = now_;
}

void Stage::restore(const StageSnapshot& from) {
  bool fits = from.actors_.size() == actors_.size();
  for (std::size_t i = 0; fits && i < actors_.size(); ++i) fits = from.actors_[i].as == actors_[i]->saved_as();
  if (!fits) throw InputError({{}, "snapshot", "one with other actors", "a snapshot of this stage", {}});
  world.restore(from.world_);
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    actors_[i]->restore(from.bytes_.data() + from.actors_[i].at);
    actors_[i]->before_ = from.actors_[i].before;
  }
  ticks_ = from.ticks_, now_ = from.now_;
}

std::uint64_t Stage::hash() const {
  StateHash hash;
  hash.add(ticks_), hash.add(now_);
  world.add_to(hash);
  for (const auto& a : actors_) a->add_to_hash(hash);
  return hash.value();
}

}  // namespace jugend
