// Gauges: what a trace amounts to, in numbers with units.
#pragma once

#include <jugend/lab/trace.hpp>
#include <string>
#include <vector>

namespace jugend {

/// All gauges of one actor that its trace gives a value for, in a fixed order: running first, then each
/// jump and fall by time. Times and speeds between ticks are taken from the motion's own accelerations,
/// so that they do not depend on the tick rate.
std::vector<Gauge> measure(const ActorTrace& trace);

/// Of bodies: those of one stack, or copies of one another, together ("crate_1", "crate_2": crate).
struct BodyGauges {
  std::string name;
  std::size_t count = 0;
  std::vector<Gauge> gauges;
};
std::vector<BodyGauges> measure_bodies(const Trace& trace);

/// What gauges mean: of all motion, and of what happens several times, in the order of their tables' columns. Those of
/// a kind are LabKind::gauges().
std::vector<GaugeInfo> gauges_of_all_motion();
std::vector<GaugeInfo> gauges_in_tables();

}  // namespace jugend
