// A kind of actor as the lab knows it: its tuning, cues, gauges, and what traces and pictures show of it.
//
// One description a kind; those of the library lie in lab/kinds/. A program may bring its own: examples/own_actor.cpp.
#pragma once

#include <functional>
#include <jugend/base/error.hpp>
#include <jugend/base/tunable.hpp>
#include <jugend/lab/picture.hpp>
#include <jugend/motion/guidance/path.hpp>
#include <jugend/stage/stage.hpp>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace jugend {

class LabKind;
class TableReader;
struct ActorTrace;

/// What a gauge means, listed once. Of what happens several times the key begins with the name of its table, as in
/// "flight.apex_height_m".
struct GaugeInfo {
  std::string_view key, label, unit;
  std::string_view definition;
  double nothing_below = 0;  ///< tables leave it out where no run has more
};

struct Gauge {
  std::string key;    ///< for files: "jump_1.apex_height_m"
  std::string label;  ///< for people: "apex height"
  std::string unit;
  double value = 0;
  std::string table, row;  ///< of what happens several times: "flight", "jump 1 (air)"; else nothing
  double nothing_below = 0;
};
/// One that is listed under `key`; throws std::logic_error for one that is not.
Gauge gauge_of(std::span<const GaugeInfo> list, std::string_view key, double value);

/// The tuning of an actor of a trial, whatever its kind. Copies are deep.
class ActorTuning {
 public:
  explicit ActorTuning(const LabKind& kind);
  ActorTuning(const ActorTuning& other);
  ActorTuning& operator=(const ActorTuning& other);
  ActorTuning(ActorTuning&&) noexcept = default;
  ActorTuning& operator=(ActorTuning&&) noexcept = default;

  const LabKind& kind() const { return *kind_; }
  const Tunables& list() const;
  /// Every number of it as it is; lists and parts too.
  std::vector<BoundTunable> all() const { return all_tunables(list(), data_.get()); }
  void* data() { return data_.get(); }
  const void* data() const { return data_.get(); }
  /// The tuning itself; the caller knows its type.
  template <class Tuning>
  Tuning& as() {
    return *static_cast<Tuning*>(data());
  }
  template <class Tuning>
  const Tuning& as() const {
    return *static_cast<const Tuning*>(data());
  }

 private:
  const LabKind* kind_;
  std::shared_ptr<void> data_;
};
/// Throws InputError where tunables do not fit together.
void check(const ActorTuning& tuning);

/// Where an actor of a trial begins, and what it drives.
struct Placing {
  std::string name;
  Vec3 start;                    ///< of the feet; of what drives a body, the body's place
  Vec3 facing{1, 0, 0};          ///< unit, level
  std::optional<Vec3> velocity;  ///< m/s
  BodyId body;                   ///< of what drives one
};

/// What the player of an actor holds, for traces.
struct HeldInput {
  double ahead = 0, right = 0;  ///< -1 to 1: along x and z, throttle and steering, sticks
  double brake = 0;             ///< 0 to 1
  double climb = 0;             ///< -1 to 1
};

/// What a cue does when its time comes.
using CueAct = std::function<void(Stage&, ActorId actor)>;
/// Where a kind puts what it reads of a cue: at its own time, or so many seconds later.
class CueList {
 public:
  virtual ~CueList() = default;
  virtual void add(CueAct act, double later = 0) = 0;
};

/// Wheels, rotors and the like: so many a tick, the same columns of each.
struct PartColumn {
  const char* key;  ///< as the head of its file says it: "travel_m"
};
/// A panel of parts over time in a picture.
struct PartPanel {
  const char* title;   ///< with its unit: "travel mm"
  std::size_t column;  ///< of the parts'
  double scale = 1;    ///< drawn per traced
};
struct PartSheet {
  const char* file = nullptr;  ///< "wheels" for wheels.csv; none: this kind has no parts
  std::vector<PartColumn> columns;
  std::vector<PartPanel> panels;
};

/// A force over speed that a drive is made for, gear by gear; gear 0 without gears.
struct DriveCurve {
  int gear = 0;
  std::vector<std::array<double, 2>> points;
};

/// How an actor is drawn from the side along its path.
struct Silhouette {
  double radius = 0;  ///< m of an upright capsule; 0: its body is drawn instead
  double height = 0;  ///< m; twice the radius: a ball
};

enum class PageForm : std::uint8_t {
  path,  ///< a path from the side, height, speed, inputs and states over time
  top,   ///< bodies from the side and from above
  parts  ///< the same, and panels of parts
};

class LabKind {
 public:
  virtual ~LabKind() = default;
  virtual std::string_view name() const = 0;

  // Tuning.
  virtual const Tunables& tunables() const = 0;
  virtual std::shared_ptr<void> new_tuning() const = 0;
  virtual std::shared_ptr<void> copy(const void* tuning) const = 0;
  virtual void check(const void* tuning) const = 0;
  /// May it read a tuning file of that kind, too?
  virtual bool reads_files_of(std::string_view other) const { return other == name(); }
  virtual double top_speed(const void* tuning) const = 0;  ///< m/s
  virtual Silhouette silhouette(const void* tuning, ActorMode mode) const = 0;

  // Trials.
  enum class Stands : std::uint8_t { on_its_feet, on_a_body, on_a_ball };
  virtual Stands stands() const = 0;
  virtual ActorId add(Stage& stage, const Placing& at, const ActorTuning& tuning) const = 0;
  /// The keys of cues that it reads.
  virtual std::vector<std::string> cue_keys() const = 0;
  /// Reads what a cue says to this kind.
  virtual void read_cue(TableReader& cue, const ActorTuning& tuning, CueList& into) const = 0;
  /// Leads it along a route; nothing where this kind goes none.
  virtual CueAct follow([[maybe_unused]] Path route, [[maybe_unused]] double speed) const { return {}; }

  // What a trace and a picture show.
  virtual HeldInput held(const Actor& actor) const = 0;
  virtual PageForm page() const = 0;
  virtual PartSheet parts() const = 0;
  virtual std::size_t part_count(const Actor& actor) const = 0;
  /// Adds a value for each column of each part.
  virtual void add_parts(const Actor& actor, std::vector<double>& values) const = 0;
  virtual std::vector<DriveCurve> drive_curves([[maybe_unused]] const Actor& actor) const { return {}; }
  virtual void draw(const Stage& stage, const Actor& actor, Picture& picture) const = 0;

  /// What somebody who tunes it should know and may not see, one sentence each, as it is at a trial's end.
  virtual std::vector<std::string> remarks([[maybe_unused]] const Stage& stage,
                                           [[maybe_unused]] const Actor& actor) const {
    return {};
  }

  /// Gauges beyond those of all motion.
  virtual void measure(const ActorTrace& trace, std::vector<Gauge>& gauges) const = 0;
  /// What those mean.
  virtual std::vector<GaugeInfo> gauges() const { return {}; }
};

/// A kind whose tuning is a struct with a list of tunables and a check.
template <class Tuning>
class LabKindWith : public LabKind {
 public:
  std::shared_ptr<void> new_tuning() const override { return std::make_shared<Tuning>(); }
  std::shared_ptr<void> copy(const void* tuning) const override { return std::make_shared<Tuning>(of(tuning)); }
  double top_speed(const void* tuning) const override { return top_speed_of(of(tuning)); }
  Silhouette silhouette(const void* tuning, ActorMode mode) const override { return silhouette_of(of(tuning), mode); }
  void check(const void* tuning) const override { check_it(of(tuning)); }

 protected:
  static const Tuning& of(const void* tuning) { return *static_cast<const Tuning*>(tuning); }
  virtual void check_it(const Tuning& tuning) const = 0;
  virtual double top_speed_of(const Tuning& tuning) const = 0;
  virtual Silhouette silhouette_of([[maybe_unused]] const Tuning& tuning, [[maybe_unused]] ActorMode mode) const {
    return {};
  }
};

/// The kinds that trials may name.
class LabKinds {
 public:
  void add(std::shared_ptr<const LabKind> kind) { kinds_.push_back(std::move(kind)); }
  template <class Kind>
  void add() {
    add(std::make_shared<Kind>());
  }
  const LabKind* find(std::string_view name) const;
  /// Throws InputError with the nearest name, for what stands at `place` under `key`.
  const LabKind& get(std::string_view name, const Place& place, const std::string& key) const;
  std::vector<std::string> names() const;
  const std::vector<std::shared_ptr<const LabKind>>& all() const { return kinds_; }

 private:
  std::vector<std::shared_ptr<const LabKind>> kinds_;
};
/// Those of the library, the walker first.
const LabKinds& standard_kinds();

}  // namespace jugend
