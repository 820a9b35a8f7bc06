#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/stage/stage.hpp>
#include <utility>

namespace jugend {

void Actor::refuse_kind() const {
  fail({{}, name_, filled("an actor of kind {}", kind()), "one that has what is asked for", {}});
}

std::span<const StageEvent> StageBase::events() const { return events_; }

void StageBase::check_name(const std::string& name) const {
  if (name.empty()) fail({{}, "actor.name", "an empty name", "a name", {}});
  if (find(name)) fail({{}, "actor.name", filled("'{}' a second time", name), "each name once", {}});
}

ActorId StageBase::put(Shared<Actor> actor) {
  if (actor->body() && !host().alive(actor->body()))
    fail({{}, actor->name() + ".body", "a body that is not in this world", "one that is", {}});
  actor->let_go(host());
  actor->enter(host());
  look_round(*actor);
  const auto free = std::ranges::find_if(slots_, [](const Slot& slot) { return !slot.actor; });
  const auto index = static_cast<std::uint32_t>(free - slots_.begin());
  if (free == slots_.end()) slots_.emplace_back();
  slots_[index].actor = std::move(actor);
  order_.push_back(index);
  // Each tells of at most two things a tick: that takes no memory then.
  events_.reserve(2 * slots_.size()), leaving_.reserve(slots_.size());
  make_room();
  return {index, ++slots_[index].generation};
}

const Actor* StageBase::find(ActorId id) const {
  if (id.index >= slots_.size() || slots_[id.index].generation != id.generation) return nullptr;
  const Actor* found = slots_[id.index].actor.get();
  return found != nullptr && found->body() && !host().alive(found->body()) ? nullptr : found;
}

ActorId StageBase::find(std::string_view name) const {
  ActorId found;
  for_each([&](ActorId id, const Actor& actor) {
    if (actor.name() == name) found = id;
  });
  return found;
}

const Actor& StageBase::actor(ActorId id) const {
  if (const Actor* found = find(id)) return *found;
  fail({{}, "actor", filled("index {}, generation {}", id.index, id.generation), "an actor that is on this stage", {}});
}

std::size_t StageBase::actors() const {
  std::size_t count = 0;
  for_each([&](ActorId, const Actor&) { ++count; });
  return count;
}

ActorId StageBase::nth(std::size_t n) const {
  ActorId found;
  std::size_t at = 0;
  for_each([&](ActorId id, const Actor&) {
    if (at++ == n) found = id;
  });
  return found;
}

/// So that ticks take no memory.
void StageBase::make_room() {
  acting_.reserve(slots_.size()), done_by_.reserve(slots_.size());
  while (deeds_.size() * piece < slots_.size()) deeds_.emplace_back().reserve(8 * piece);
}

/// It looks where it was put: what stands is not falling until the first tick.
void StageBase::look_round(Actor& actor) {
  actor.take(host());
  actor.settle(host(), 0);
  actor.tell(host(), 0);
  actor.show(host(), 0);
  actor.before_ = actor.facts(host()).position;
}

void StageBase::forget(std::uint32_t slot) {
  std::erase(order_, slot);
  slots_[slot].actor = nullptr;
}

bool StageBase::take_away(ActorId id, bool with_body) {
  Actor* found = find(id);
  if (found == nullptr) return false;
  if (found->paused() && !with_body) pause(id, false);
  found->leave(host(), with_body);
  forget(id.index);
  return true;
}

/// Those whose body has been taken away leave too.
void StageBase::drop_bodiless() {
  leaving_.clear();
  for (std::size_t i = 0; i < order_.size();) {
    const std::uint32_t slot = order_[i];
    const ActorId id{slot, slots_[slot].generation};
    if (find(id) != nullptr) {
      ++i;
      continue;
    }
    leaving_.push_back(slots_[slot].actor);
    events_.push_back({StageEventKind::body_gone, id, leaving_.back().get(), nullptr});
    forget(slot);
  }
  std::erase_if(rails_, [&](const auto& rail) { return !host().alive(rail->body); });
}

void StageBase::pause(ActorId id, bool paused) {
  Actor& it = actor(id);
  if (it.paused_ == paused) return;
  it.pause(host(), paused);
  it.paused_ = paused;
}

void StageBase::place(ActorId id, const Placement& there) {
  Actor& it = actor(id);
  const Quat& q = there.pose.orientation;
  if (!is_finite(there.pose.position) || !is_finite(there.velocity) || !is_finite(there.spin))
    fail({{}, it.name(), "a place or motion that is not finite", "finite numbers", {}});
  if (!(std::abs(q.w * q.w + q.x * q.x + q.y * q.y + q.z * q.z - 1) < 1e-6))
    fail({{}, it.name(), "a rotation that is not of unit length", "a unit quaternion", {}});
  it.place(there, host());
  look_round(it);
}

void StageBase::retune(ActorId id, const void* tuning, const TypeMark& type) {
  Actor& it = actor(id);
  // What is made of a tuning depends on the body's mass, which one that is held does not show.
  struct Freed {
    Actor& actor;
    Host& host;
    Freed(Actor& a, Host& h) : actor(a), host(h) {
      if (actor.paused()) actor.pause(host, false);
    }
    ~Freed() {
      if (actor.paused()) actor.pause(host, true);
    }
  } freed{it, host()};
  if (!it.retune(tuning, type, host()))
    fail({{}, it.name(), filled("a tuning that is none of kind {}", it.kind()), "one of its kind", {}});
}

void StageBase::add_rail(BodyId body, RailMotion motion) {
  if (!host().alive(body) || !host().goes_on_rails(body))
    fail({{}, "body.path", "one for a body of another kind", "a kinematic body", {}});
  const Pose start = host().facts(body).pose;
  host().place(body, motion.pose_at(now_, start));
  rails_.push_back(Shared<const Rail>(Shared<Rail>::make(Rail{body, std::move(motion), start})));
}

bool StageBase::remove_rail(BodyId body) {
  const bool was = std::erase_if(rails_, [&](const auto& rail) { return rail->body == body; }) > 0;
  if (was && host().alive(body)) host().set_motion(body, {}, {});
  return was;
}

void StageBase::lead(double dt) {
  for (const auto& rail : rails_) {
    const BodyFacts now = host().facts(rail->body);
    const Pose then = rail->motion.pose_at(now_ + dt, rail->start);
    const Vec3 velocity = (then.position - now.pose.position) / dt;
    const Vec3 spin = rotation_vector(then.orientation * conjugate(now.pose.orientation)) / dt;
    if (velocity != now.velocity || spin != now.spin) host().set_motion(rail->body, velocity, spin);
  }
}

void StageBase::tick(double dt) {
  check_tick(dt);
  Host& world = host();
  if (dt == 0) return;
  events_.clear();
  drop_bodiless();
  {
    const Watched part(world.watch(), "rails");
    lead(dt);
  }
  const auto each = [&](auto&& act) {
    for (const std::uint32_t slot : order_) {
      if (Actor& actor = *slots_[slot].actor; !actor.paused_) act(actor);
    }
  };
  listen();
  {
    const Watched part(world.watch(), "actors step");
    act(true, &Actor::step, dt), act(false, &Actor::step, dt);
  }
  {
    const Watched part(world.watch(), "world");
    world.step(dt);
  }
  ++ticks_;
  now_ += dt;
  const Watched part(world.watch(), "actors settle");
  // All are where what moved has carried them before any looks what has come into it. One on another's head is carried
  // with that one, whoever was added first.
  bool again = true;
  for (std::size_t storey = 0; again && storey <= order_.size(); ++storey) {
    again = false;
    each([&](Actor& a) { again |= a.show(world, dt); });
  }
  act(true, &Actor::settle, dt), act(false, &Actor::settle, dt);
  each([&](Actor& a) { a.tell(world, dt), a.show(world, dt); });
}

/// What input asks for.
void StageBase::listen() {
  Host& world = host();
  const Watched part(world.watch(), "intents");
  for (const std::uint32_t slot : order_) {
    Actor& actor = *slots_[slot].actor;
    actor.before_ = actor.facts(world).position;
    if (const char* field = actor.listen(world))
      events_.push_back({StageEventKind::intent_refused, {slot, slots_[slot].generation}, &actor, field});
    if (actor.paused_) actor.heard_ = {};
  }
  if (world.watch().tell != nullptr) tell_events();
}

void StageBase::tell_events() const {
  const Watch& watch = host().watch();
  for (const StageEvent& event : events_) {
    const std::string& name = event.who->name();
    const std::string told = event.kind == StageEventKind::body_gone
                                 ? filled("{} left: its body is no longer in the world", name)
                                 : filled("{}: {} is no number, and counts as nothing", name, event.field);
    watch.tell(watch.host, told.c_str());
  }
}

/// Those who act apart sense and decide on all threads, and see the world as nobody has changed it yet; what they do is
/// done afterwards, in their order, and the others act among them.
void StageBase::act(bool first, void (Actor::*how)(Surroundings&, double), double dt) {
  Host& world = host();
  acting_.clear();
  for (const std::uint32_t slot : order_) {
    Actor& actor = *slots_[slot].actor;
    if (!actor.paused_ && actor.acts_first() == first) acting_.push_back(&actor), actor.take(world);
  }
  done_by_.resize(acting_.size());
  world.workers().over(acting_.size(), piece, [&](std::size_t begin, std::size_t end) {
    std::vector<Deed>& deeds = deeds_[begin / piece];
    deeds.clear();
    Observed around(world, deeds);
    for (std::size_t i = begin; i < end; ++i) {
      if (acting_[i]->acts_apart()) (acting_[i]->*how)(around, dt);
      done_by_[i] = deeds.size();
    }
  });
  for (std::size_t i = 0; i < acting_.size(); ++i) {
    if (!acting_[i]->acts_apart()) {
      (acting_[i]->*how)(world, dt);
      continue;
    }
    const std::vector<Deed>& deeds = deeds_[i / piece];
    for (std::size_t k = i % piece == 0 ? 0 : done_by_[i - 1]; k < done_by_[i]; ++k) {
      if (world.alive(deeds[k].body)) carry_out(deeds[k], world);  // an actor of a kind that has the world may end it
    }
  }
}

void StageBase::draw_senses(double dt, SenseSketch& sketch) const {
  check_tick(dt);
  if (dt == 0) return;
  Sensed around(host(), sketch, dt);
  for_each([&](ActorId id, const Actor& actor) {
    if (actor.paused_) return;
    sketch.actor(id, actor);
    actor.sense(around, dt);
  });
}

void draw_senses(const StageBase& stage, double dt, SenseSketch& sketch) { stage.draw_senses(dt, sketch); }

Vec3 StageBase::drawn_position(ActorId id, double fraction) const {
  const Vec3 before = actor(id).before();
  return before + (facts(id).position - before) * fraction;
}

void StageBase::save(StageSnapshot& into) const {
  save_host(into);
  std::size_t bytes = 0;
  into.slots_.resize(slots_.size());
  for (std::size_t i = 0; i < slots_.size(); ++i) {
    StageSnapshot::Saved& saved = into.slots_[i];
    saved = {slots_[i].actor, slots_[i].generation, {}, bytes, {}, false};
    if (const Actor* actor = slots_[i].actor.get()) {
      saved.build = actor->build(), saved.before = actor->before(), saved.paused = actor->paused();
      bytes += actor->saved_bytes();
    }
  }
  into.bytes_.resize(bytes);
  for (const StageSnapshot::Saved& saved : into.slots_) {
    if (saved.actor) saved.actor->save(into.bytes_.data() + saved.at);
  }
  into.order_ = order_, into.rails_ = rails_;
  into.ticks_ = ticks_, into.now_ = now_;
}

void StageBase::restore(const StageSnapshot& from) {
  restore_host(from);  // refuses that of another stage
  slots_.resize(from.slots_.size());
  for (std::size_t i = 0; i < slots_.size(); ++i) {
    const StageSnapshot::Saved& saved = from.slots_[i];
    slots_[i] = {saved.actor, saved.generation};
    if (!saved.actor) continue;
    saved.actor->rebuild(saved.build);
    saved.actor->restore(from.bytes_.data() + saved.at);
    saved.actor->before_ = saved.before, saved.actor->paused_ = saved.paused;
  }
  make_room();
  order_ = from.order_, rails_ = from.rails_;
  ticks_ = from.ticks_, now_ = from.now_;
  events_.clear();
}

std::uint64_t StageBase::hash() const {
  StateHash hash;
  hash.add(ticks_), hash.add(now_);
  host().add_to(hash);
  for_each([&](ActorId, const Actor& actor) { actor.add_to_hash(hash); });
  return hash.value();
}

}  // namespace jugend
