// A game loop without a screen: a minute of a night in the harbour, with all that a game that ships does to a stage.
//
// 200 walkers, 40 carts, 20 drones and 8 boats go about among platforms and crates. Every second some come and some
// leave, tunings change, hits fall, crates are brought and taken away. Each frame goes back eight ticks and plays them
// again, as a client does that hears late from others. In the middle the night is saved, and another process goes on
// from the bytes, with its own half of the rollbacks. At the end its hash is that of a night without any of this.
//
//   harbour_night                a minute; harbour_night --seconds 10
//   harbour_night --continue FILE --seconds N    what the other process is told
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <jugend/base/bytes.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/stage/kinds.hpp>
#include <map>
#include <new>
#include <random>
#include <string>
#include <vector>

extern char** environ;

// Counts what is taken from the heap.
static std::atomic<long> taken{0};
void* operator new(std::size_t size) {
  ++taken;
  if (void* memory = std::malloc(size)) return memory;
  throw std::bad_alloc();
}
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }

namespace {

using namespace jugend;

constexpr int hz = 60, rollback = 8;
constexpr const char* kinds[] = {"walker", "cart", "drone", "boat"};
constexpr int counts[] = {200, 40, 20, 8};

/// Draws that follow from what they are for alone, so that a tick that is played again has the same.
class Draws {
 public:
  Draws(int tick, int purpose) : engine_(static_cast<unsigned>(tick * 8 + purpose)) {}
  double between(double low, double high) { return low + (high - low) * (engine_() / 4294967296.0); }
  int below(int n) { return static_cast<int>(engine_() % static_cast<unsigned>(n)); }

 private:
  std::mt19937 engine_;
};

class Night {
 public:
  Stage stage;

  explicit Night(int threads) {
    World& world = stage.world;
    world.set_threads(threads);
    world.reserve({.bodies = 400, .pairs = 2000});
    world.add({.shape = Box{{60, 1, 60}}, .pose = {{0, -1, 0}, {}}, .name = "quay"});
    world.add_pool({.half_extents = {60, 5, 40}, .pose = {{0, -5.5, 100}, {}}});
    for (int i = 0; i < 6; ++i) {
      const Vec3 at{-50.0 + 20 * i, 0.2, 40};
      const BodyId lift = world.add(
          {.shape = Box{{2, 0.15, 2}}, .pose = {at, {}}, .kind = BodyKind::kinematic, .name = filled("lift {}", i)});
      stage.add_rail(lift, RailMotion(Path(std::vector<Vec3>{at, at + Vec3{0, 2.5, -6}}), {.duration = 4, .dwell = 1}));
    }
  }
  void everybody() {
    for (int kind = 0; kind < 4; ++kind)
      for (int i = 0; i < counts[kind]; ++i) come(filled("{} {}", kinds[kind], i));
  }
  /// Its kind is the first word of its name, its place follows from the name.
  void come(const std::string& name) {
    unsigned seed = 7;
    for (const char c : name) seed = seed * 31 + static_cast<unsigned char>(c);
    Draws draws(static_cast<int>(seed % 100000), 0);
    Pose pose{{draws.between(-50, 50), 0, draws.between(-50, 30)}, {}};
    pose.orientation = rotation({0, draws.between(-3, 3), 0});
    const auto body = [&](const Vec3& half, double mass, double up) {
      pose.position.y = up;
      return stage.world.add({.shape = Box{half},
                              .pose = pose,
                              .kind = BodyKind::dynamic,
                              .name = name,
                              .mass = mass,
                              .can_sleep = false});
    };
    if (name.starts_with("walker")) {
      stage.add(name, Walker({}, pose.position, rotate(pose.orientation, {1, 0, 0})));
    } else if (name.starts_with("cart")) {
      add_vehicle(stage, name, {}, body({1.1, 0.2, 0.5}, 240, 0.7));
    } else if (name.starts_with("drone")) {
      add_multirotor(stage, name, {}, body({0.2, 0.05, 0.2}, 2, 6 + draws.between(0, 4)));
    } else {
      pose.position.z += 110;
      add_boat(stage, name, {}, body({2.5, 0.45, 1}, 3500, -0.6));
    }
  }
  /// All that the game does before a tick, and the tick.
  void play(int tick) {
    if (tick % 12 == 0)
      stage.for_each(
          [&](ActorId id, const Actor&) { want(stage.actor(id), tick + 2000 * static_cast<int>(id.index)); });
    if (tick % hz == 0) happen(tick / hz);
    const long before = taken;
    stage.tick(1.0 / hz);
    in_ticks += taken - before;
  }
  /// What bytes do not hold: who is there, and which crates the game knows.
  std::string roster() const {
    std::string all;
    stage.for_each([&](ActorId, const Actor& actor) { all += actor.name() + "\n"; });
    for (const auto& [second, crate] : crates_)
      all += filled("crate {} {} {}\n", second, crate.index, crate.generation);
    return all;
  }
  void read_roster(const std::string& line) {
    int second = 0;
    BodyId crate;
    if (std::sscanf(line.c_str(), "crate %d %u %u", &second, &crate.index, &crate.generation) == 3)
      crates_[second] = crate;
    else
      come(line);
  }
  long in_ticks = 0;  // allocations

 private:
  static void want(Actor& actor, int draw) {
    Draws draws(draw, 1);
    const double x = draws.between(-1, 1), z = draws.between(-1, 1);
    if (auto* walker = actor.find<WalkerControls>()) {
      walker->intent.move = {x, 0, z};
      if (draws.below(4) == 0) walker->jump.tap();
    } else if (auto* cart = actor.find<VehicleControls>()) {
      cart->drive = {.throttle = x, .steer = z};
    } else if (auto* drone = actor.find<MultirotorControls>()) {
      drone->fly.ahead = x, drone->fly.right = z;
    } else {
      actor.as<BoatControls>().helm = {x, z};
    }
  }
  void happen(int second) {
    Draws draws(second, 2);
    for (int i = 0; i < 3; ++i) {
      stage.remove(stage.nth(static_cast<std::size_t>(draws.below(static_cast<int>(stage.actors())))));
      come(filled("{} of second {}.{}", kinds[draws.below(4)], second, i));
    }
    const ActorId who = stage.nth(static_cast<std::size_t>(draws.below(static_cast<int>(stage.actors()))));
    if (stage.actor(who).find<Walker>() != nullptr) {
      WalkerTuning tuning;
      tuning.run.top_speed = draws.between(3, 8), tuning.jump.height = draws.between(0.8, 2);
      stage.set_tuning(who, tuning);
    } else if (stage.actor(who).find<Vehicle>() != nullptr) {
      VehicleTuning tuning;
      tuning.drive.top_speed = draws.between(8, 18);
      stage.set_tuning(who, tuning);
    }
    for (int i = 0; i < 10; ++i) {
      const ActorId hit = stage.nth(static_cast<std::size_t>(draws.below(static_cast<int>(stage.actors()))));
      stage.actor(hit).hit({.away = {draws.between(-1, 1), 0, 1}, .distance = 2, .impulse = 60}, stage.world);
    }
    const Vec3 at{draws.between(-40, 40), 3, draws.between(-40, 20)};
    crates_[second] =
        stage.world.add({.shape = Box{{0.4, 0.4, 0.4}}, .pose = {at, {}}, .kind = BodyKind::dynamic, .mass = 40});
    if (const auto old = crates_.find(second - 5); old != crates_.end()) stage.world.remove(old->second);
  }
  std::map<int, BodyId>
      crates_;  // by the second that brought them; also those that are gone, since a rollback may bring them back
};

/// From tick `from` to tick `to`, each frame going back eight ticks first. Returns the seconds that it took.
double play_with_rollbacks(Night& night, int from, int to) {
  const auto start = std::chrono::steady_clock::now();
  std::vector<StageSnapshot> past(rollback);
  for (int tick = from; tick < to; ++tick) {
    if (tick - from >= rollback) {
      night.stage.restore(past[static_cast<std::size_t>(tick % rollback)]);
      for (int again = tick - rollback; again < tick; ++again) {
        night.stage.save(past[static_cast<std::size_t>(again % rollback)]);
        night.play(again);
      }
    }
    night.stage.save(past[static_cast<std::size_t>(tick % rollback)]);
    night.play(tick);
  }
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// What the other process does: it reads the file, goes on to the end and writes its hash behind the file's name.
int go_on(const std::string& file, int ticks) {
  std::ifstream in(file, std::ios::binary);
  Night night(1);
  std::string line;
  while (std::getline(in, line) && line != "bytes") night.read_roster(line);
  const std::string text((std::istreambuf_iterator<char>(in)), {});
  night.stage.restore(night.stage.from_bytes(std::as_bytes(std::span(text))));
  play_with_rollbacks(night, static_cast<int>(night.stage.ticks()), ticks);
  std::ofstream(file + ".hash") << night.stage.hash();
  return 0;
}

std::uint64_t in_another_process(const char* program, const std::string& file, const std::string& seconds) {
  const std::string command = filled("\"{}\" --continue \"{}\" --seconds {}", program, file, seconds);
  if (std::system(command.c_str()) != 0) throw std::runtime_error("the other process failed");
  std::uint64_t hash = 0;
  std::ifstream(file + ".hash") >> hash;
  return hash;
}

int run(const char* program, int seconds) {
  const int ticks = seconds * hz, half = ticks / 2;
  Night plain(2);
  plain.everybody();
  const auto start = std::chrono::steady_clock::now();
  for (int tick = 0; tick < ticks; ++tick) plain.play(tick);
  const double plainly = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();

  Night night(1);
  night.everybody();
  const double took = play_with_rollbacks(night, 0, half);
  const std::vector<std::byte> bytes = night.stage.to_bytes();
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / filled("harbour_night_{}", std::random_device{}());
  if (!std::filesystem::create_directory(folder)) throw std::runtime_error("no folder for the saved night");
  const std::string file = (folder / "night").string();
  std::ofstream(file, std::ios::binary) << night.roster() << "bytes\n"
                                        << std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size());
  const std::uint64_t there = in_another_process(program, file, std::to_string(seconds));
  std::filesystem::remove_all(folder);

  std::printf("%zu actors, %d ticks\n", plain.stage.actors(), ticks);
  std::printf("a frame of one tick, two threads      %8.2f ms\n", plainly / ticks * 1e3);
  std::printf("a frame with a rollback of %d, one     %8.2f ms\n", rollback, took / std::max(1, half) * 1e3);
  std::printf("saved in the middle                   %8.1f kB\n", static_cast<double>(bytes.size()) / 1e3);
  std::printf("allocations in ticks                  %8ld\n", plain.in_ticks);
  std::printf("hash without rollbacks                %016" PRIx64 "\n", plain.stage.hash());
  std::printf("hash with, and through a file         %016" PRIx64 "   %s\n", there,
              there == plain.stage.hash() ? "the same" : "ANOTHER");
  return there == plain.stage.hash() && plain.in_ticks == 0 ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
  std::string file;
  int seconds = 60;
  for (int i = 1; i + 1 < argc; i += 2) {
    if (std::strcmp(argv[i], "--continue") == 0) file = argv[i + 1];
    if (std::strcmp(argv[i], "--seconds") == 0) seconds = std::atoi(argv[i + 1]);
  }
  if (seconds < 1 || seconds > 3600) {
    std::fprintf(stderr, "--seconds: found %d; allowed: 1 to 3600\n", seconds);
    return 2;
  }
  try {
    return file.empty() ? run(argv[0], seconds) : go_on(file, seconds * hz);
  } catch (const std::exception& error) {
    std::fprintf(stderr, "%s\n", error.what());
    return 1;
  }
}
