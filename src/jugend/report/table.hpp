// Tables for people: gauges of one run, or of several beside one another.
#pragma once

#include <jugend/report/run_folder.hpp>
#include <span>
#include <string>

namespace jugend {

/// What tells a run from the others: its settings, or its title.
std::vector<std::string> run_labels(std::span<const RunRecord> runs);

/// A line a gauge, a column a run; with two runs a last column says what the second has more. Runs are
/// matched by actor and gauge.
std::string gauge_table(std::span<const RunRecord> runs);
/// The same for machines.
std::string gauge_json(std::span<const RunRecord> runs);

/// What is remarked of each actor: "cart: its tyres ...", once where several runs say the same.
std::vector<std::string> remarks(std::span<const RunRecord> runs);

/// Tunables that are not the same in all runs: "courier jump.height: 1.25 m, 1.75 m".
std::vector<std::string> tuning_differences(std::span<const RunRecord> runs);

/// Columns padded to their widest cell; the first `left` columns flush left, the rest flush right.
std::string aligned(const std::vector<std::vector<std::string>>& rows, std::size_t left);

}  // namespace jugend
