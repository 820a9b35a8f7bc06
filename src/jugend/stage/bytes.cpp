// A stage as bytes, and a snapshot from them.
#include <algorithm>
#include <jugend/base/bytes.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/stage/stage.hpp>
#include <utility>

namespace jugend {
namespace {

constexpr std::string_view form_name = "stage";
constexpr const char* as_written = "bytes as they were written";

[[noreturn]] void refuse(std::string found, std::string wanted) {
  fail({{}, std::string(form_name), std::move(found), std::move(wanted), {}});
}

}  // namespace

namespace stage_bytes {

/// Of one place for an actor; `name` is empty where nobody is.
struct Record {
  std::uint32_t generation = 0;
  std::string name, kind;
  std::uint64_t layout = 0;
  BodyId body;
  Vec3 before;
  bool paused = false;
  std::vector<std::byte> content;

  static constexpr auto fields() {
    return field_list(Field{"generation", &Record::generation}, Field{"name", &Record::name},
                      Field{"kind", &Record::kind}, Field{"layout", &Record::layout}, Field{"body", &Record::body},
                      Field{"before", &Record::before}, Field{"paused", &Record::paused},
                      Field{"content", &Record::content});
  }
};
static_assert(all_fields_listed<Record>);

struct RailRecord {
  BodyId body;
  Pose start;
  std::vector<Vec3> points;
  bool smooth = false, closed = false;
  RailMotionTuning tuning;

  static constexpr auto fields() {
    return field_list(Field{"body", &RailRecord::body}, Field{"start", &RailRecord::start},
                      Field{"points", &RailRecord::points}, Field{"smooth", &RailRecord::smooth},
                      Field{"closed", &RailRecord::closed}, Field{"tuning", &RailRecord::tuning});
  }
};
static_assert(all_fields_listed<RailRecord>);

}  // namespace stage_bytes

using stage_bytes::RailRecord, stage_bytes::Record;

namespace {

Shared<const Rail> rail_of(const RailRecord& record, const World* world) {
  if ((world != nullptr && !world->alive(record.body)) || record.tuning.run > RailMotionRun::there_and_back)
    refuse("bytes with rails of a body that is not there", as_written);
  return Shared<const Rail>(Shared<Rail>::make(
      Rail{record.body, RailMotion(Path(record.points, record.smooth, record.closed), record.tuning), record.start}));
}

}  // namespace

struct StageBase::Scene {
  std::vector<std::byte> world;
  std::vector<Record> slots;
  std::vector<std::uint32_t> order;
  std::vector<RailRecord> rails;
  std::uint64_t ticks = 0;
  double now = 0;

  static constexpr auto fields() {
    return field_list(Field{"world", &Scene::world}, Field{"slots", &Scene::slots}, Field{"order", &Scene::order},
                      Field{"rails", &Scene::rails}, Field{"ticks", &Scene::ticks}, Field{"now", &Scene::now});
  }
};

std::vector<std::byte> StageBase::bytes_with(std::vector<std::byte> world) const {
  static_assert(all_fields_listed<Scene>);
  Scene scene;
  scene.world = std::move(world), scene.ticks = ticks_, scene.now = now_;
  scene.slots.resize(slots_.size());
  for (std::size_t i = 0; i < slots_.size(); ++i) scene.slots[i].generation = slots_[i].generation;
  // Who lost its body since the last tick, and such rails, are not here any more.
  for_each([&](ActorId id, const Actor& actor) {
    ByteWriter content;
    actor.write(content);
    scene.order.push_back(id.index);
    scene.slots[id.index] = {id.generation,  actor.name(),   std::string(actor.kind()),
                             actor.layout(), actor.body(),   actor.before(),
                             actor.paused(), content.bytes()};
  });
  for (const auto& rail : rails_) {
    if (!host().alive(rail->body)) continue;
    const Path& path = rail->motion.path();
    scene.rails.push_back({rail->body,
                           rail->start,
                           {path.points().begin(), path.points().end()},
                           path.smooth(),
                           path.closed(),
                           rail->motion.tuning()});
  }
  ByteWriter out;
  pass(out, scene);
  return sealed(form_name, layout_of<Scene>(), out.bytes());
}

std::vector<std::byte> Stage::to_bytes() const { return bytes_with(world.to_bytes()); }

void HostedStage::save_host(StageSnapshot& into) const { into.host_ = host_.saved(); }
void HostedStage::restore_host(const StageSnapshot& from) { host_.bring_back(from.host_); }

std::vector<std::byte> HostedStage::to_bytes() const { return bytes_with(host_.saved()); }

StageBase::Scene StageBase::scene_in(std::span<const std::byte> bytes) {
  ByteReader in(opened(form_name, layout_of<Scene>(), bytes));
  Scene scene;
  pass(in, scene);
  const auto is_there = [&](std::uint32_t slot) {
    return slot < scene.slots.size() && !scene.slots[slot].name.empty();
  };
  std::vector<std::uint32_t> order = scene.order;
  std::ranges::sort(order);
  if (!in.ok() || in.left() > 0 || !std::ranges::all_of(order, is_there) ||
      std::ranges::adjacent_find(order) != order.end())
    refuse("bytes that fit together in no scene", as_written);
  return scene;
}

StageSnapshot Stage::from_bytes(std::span<const std::byte> bytes, std::span<const Shape> more) const {
  const Scene scene = scene_in(bytes);
  World there = world.from_bytes(scene.world, more);
  StageSnapshot snapshot;
  there.save(snapshot.world_);
  complete(snapshot, scene, &there);
  return snapshot;
}

StageSnapshot HostedStage::from_bytes(std::span<const std::byte> bytes) const {
  const Scene scene = scene_in(bytes);
  StageSnapshot snapshot;
  snapshot.host_ = scene.world;
  complete(snapshot, scene, nullptr);
  return snapshot;
}

void StageBase::complete(StageSnapshot& snapshot, const Scene& scene, World* there) const {
  snapshot.order_ = scene.order, snapshot.ticks_ = scene.ticks, snapshot.now_ = scene.now;
  for (const RailRecord& rail : scene.rails) snapshot.rails_.push_back(rail_of(rail, there));
  const Surroundings& around = there != nullptr ? static_cast<const Surroundings&>(*there) : host();
  std::vector<const Actor*> taken;
  for (const Record& record : scene.slots) {
    StageSnapshot::Saved& saved = snapshot.slots_.emplace_back();
    saved.generation = record.generation, saved.at = snapshot.bytes_.size();
    if (record.name.empty()) continue;
    const ActorId id = find(record.name);
    if (!id || find(id)->kind() != record.kind)
      refuse(filled("bytes of '{}', of kind {}", record.name, record.kind),
             "an actor of that name and kind for each: add it before they are read");
    const Shared<Actor>& actor = slots_[id.index].actor;
    if (record.layout != actor->layout())
      refuse(filled("bytes of '{}' whose kind has other fields or tunables", record.name),
             "those of a program built from the same sources");
    if (std::ranges::count(taken, actor.get()) > 0 || (record.body && there != nullptr && !there->alive(record.body)))
      refuse(filled("bytes with '{}' twice, or without its body", record.name), as_written);
    taken.push_back(actor.get());
    // What is made of a tuning depends on the body's mass, which one that is held does not show.
    if (record.body && there != nullptr && there->held(record.body)) there->hold(record.body, false);
    snapshot.bytes_.resize(saved.at + actor->saved_bytes());
    ByteReader content(record.content);
    saved.build = actor->read(content, record.body, around, snapshot.bytes_.data() + saved.at);
    if (!content.ok() || content.left() > 0)
      refuse(filled("bytes of '{}' that are no {}'s", record.name, record.kind), as_written);
    saved.actor = actor, saved.before = record.before, saved.paused = record.paused;
  }
}

}  // namespace jugend
