// What came out of a trial: a row per tick and actor, and events in between.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <jugend/lab/picture.hpp>
#include <jugend/lab/trial.hpp>
#include <string>
#include <vector>

namespace jugend {

/// One actor at the end of one tick (row 0: at the start).
struct TraceRow {
  double time = 0;  ///< s
  Vec3 position;    ///< m, of the feet
  Vec3 velocity;    ///< m/s
  WalkerMode mode{};
  bool on_ground = false;
  double slope = 0;                                ///< rad, of the ground stood on
  double run_ahead = 0, run_right = 0;             ///< what the player held in this tick
  std::array<bool, key_count> held{};              ///< of each Key, in this tick
  std::array<std::uint32_t, key_count> presses{};  ///< press edges that this tick heard
  Vec3 facing{1, 0, 0};
  double control = 1;           ///< weight of input, 0 to 1
  double ride_slip = 0;         ///< m/s, of the feet against moving ground, while input asks for nothing
  Vec3 up{0, 1, 0};             ///< its own
  double brake = 0, climb = 0;  ///< what else the player held
};

struct TraceEvent {
  double time = 0;  ///< s from the start, finer than ticks
  WalkerEventKind kind{};
  Vec3 position;
  double value = 0;
  std::string detail;  ///< jumped: from where; hit: the side; landed, stomped, kicked: the body's name
};

struct ActorTrace {
  std::string name;
  ActorTuning tuning;
  std::vector<TraceRow> rows;
  std::size_t parts = 0;            ///< wheels, rotors or the like
  std::vector<double> part_values;  ///< of each tick, each part, each column of its kind's sheet
  std::vector<DriveCurve> drive;    ///< of what has one
  double part(std::size_t row, std::size_t i, std::size_t column) const {
    return part_values[(row * parts + i) * columns + column];
  }
  std::size_t columns = 0;  ///< of its kind's sheet
  double top_speed() const { return tuning.kind().top_speed(tuning.data()); }
  std::vector<TraceEvent> events;
  std::vector<std::string> remarks;  ///< see LabKind::remarks
};

/// One dynamic body at the end of one tick (row 0: at the start).
struct BodyRow {
  double time = 0;  ///< s
  Pose pose;
  Vec3 velocity;  ///< m/s, of the pose's origin
  Vec3 spin;      ///< rad/s
  bool asleep = false;
};

struct BodyTrace {
  std::string name;
  double mass = 0;  ///< kg
  std::vector<BodyRow> rows;
};

struct Trace {
  std::string title;
  double hz = 0;
  double duration = 0;
  std::vector<std::string> settings;
  std::vector<ActorTrace> actors;
  std::vector<BodyTrace> bodies;     ///< those that are dynamic
  std::vector<Picture> pictures;     ///< at even times from start to end, where there are such bodies
  std::uint64_t state_hash = 0;      ///< of all state after the last tick
  std::vector<std::string> remarks;  ///< who has left the level
};

/// Does any of its actors have wheels or rotors?
bool has_parts(const Trace& trace);

/// Runs a trial from start to end; `progress`, where given, hears the share done, 0 to 1, now and then.
/// Throws InputError where an actor or body cannot be made.
Trace run_trial(const Trial& trial, const std::function<void(double)>& progress = {});

}  // namespace jugend
