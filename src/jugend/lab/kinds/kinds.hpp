// The library's own descriptions of kinds for the lab, and what they share.
#pragma once

#include <jugend/lab/document.hpp>
#include <jugend/lab/kind.hpp>
#include <jugend/lab/trace.hpp>
#include <memory>

namespace jugend {

std::shared_ptr<const LabKind> walker_lab_kind();
std::shared_ptr<const LabKind> forced_walker_lab_kind();
std::shared_ptr<const LabKind> roller_lab_kind();
std::shared_ptr<const LabKind> led_body_lab_kind();
std::shared_ptr<const LabKind> vehicle_lab_kind();
std::shared_ptr<const LabKind> tracked_vehicle_lab_kind();
std::shared_ptr<const LabKind> boat_lab_kind();
std::shared_ptr<const LabKind> multirotor_lab_kind();

/// A kind without wheels, rotors or the like: its path or its body is drawn.
template <class Tuning>
class LabKindWithoutParts : public LabKindWith<Tuning> {
 public:
  PartSheet parts() const override { return {}; }
  std::size_t part_count(const Actor&) const override { return 0; }
  void add_parts(const Actor&, std::vector<double>&) const override {}
  void draw(const Stage&, const Actor&, Picture&) const override {}
};

// Cues that several kinds read. Each adds what it finds.

/// A number of a cue's table from `low` to 1; `value` stays where there is none.
void read_share(TableReader& table, const char* key, double low, double& value);
/// run = [ahead, right]: `set` hears a change of it.
void read_run_cue(TableReader& cue, CueList& into, std::function<void(Actor&, double ahead, double right)> set);
/// press = "jump", hold_s = 0.1: `names` of the keys, `latch` finds one of them.
void read_press_cue(TableReader& cue, CueList& into, const std::vector<std::string>& names,
                    std::function<PressLatch&(Actor&, std::size_t key)> latch);
/// hit = { away, distance or impulse }; it strikes half-way up a body of that size, on the side it comes from.
void read_hit_cue(TableReader& cue, CueList& into, double radius, double height);

/// The force on a part, drawn so that four which bear the weight are as long each as one that does.
void draw_part_force(const Stage& stage, BodyId body, const Vec3& at, const Vec3& force, Picture& picture);

// Gauges that several kinds give.
double level_speed(const TraceRow& row);
/// From standstill to top speed, and from a release to standstill, on foot.
void measure_starts_and_stops(const ActorTrace& trace, std::vector<Gauge>& gauges);
std::vector<GaugeInfo> gauges_on_foot();  ///< those

}  // namespace jugend
