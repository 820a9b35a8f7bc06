// Tables for people: gauges of one run, or of several beside one another.
#pragma once

#include <jugend/report/run_folder.hpp>
#include <span>
#include <string>

namespace jugend {

/// What tells a run from the others: its settings, or its title.
std::vector<std::string> run_labels(std::span<const RunRecord> runs);

/// A line a gauge, a column a run; with two runs a last column says what the second has more. Then a table of each
/// thing that happens several times, such as flights: a line a time and run, a column a gauge. Runs are matched by
/// actor and gauge. Gauges that say nothing in any run are left out.
std::string gauge_table(std::span<const RunRecord> runs);
/// What each gauge that an actor of this kind may have means; for people, and for machines.
std::string gauge_list(const LabKind& kind);
std::string gauge_list_json(const LabKind& kind);
/// The same as gauge_table(), all of it, for machines.
std::string gauge_json(std::span<const RunRecord> runs);

/// What is remarked of each actor: "cart: its tyres ...", once where several runs say the same.
std::vector<std::string> remarks(std::span<const RunRecord> runs);

/// Tunables that are not the same in all runs: "courier jump.height: 1.25 m, 1.75 m".
std::vector<std::string> tuning_differences(std::span<const RunRecord> runs);

/// Columns padded to their widest cell; the first `left` columns flush left, the rest flush right.
std::string aligned(const std::vector<std::vector<std::string>>& rows, std::size_t left);

}  // namespace jugend
