// A run as files: trace.csv with a row per tick, summary.json with all the rest.
#pragma once

#include <filesystem>
#include <jugend/lab/gauges.hpp>
#include <jugend/lab/trace.hpp>
#include <jugend/shape/section.hpp>
#include <string>
#include <vector>

namespace jugend {

/// A trace with what a picture of it needs.
struct RunRecord {
  std::string trial_file;
  Trace trace;
  std::vector<Outline> outlines;  ///< of the level in the first actor's plane
};

/// Runs a trial and keeps the level's outline beside the trace.
RunRecord record_run(const Trial& trial, const std::function<void(double)>& progress = {});

std::string trace_csv(const Trace& trace);
std::string summary_json(const RunRecord& record);

/// Writes trace.csv and summary.json into `folder`, both or neither: they are written beside it and moved
/// into place. Throws InputError for a folder that holds something else than a run, or cannot be written.
void write_run(const RunRecord& record, const std::filesystem::path& folder);
/// Reads such a folder back. Throws InputError.
RunRecord read_run(const std::filesystem::path& folder);

/// Writes one file whole or not at all. Throws InputError where it cannot be written.
void write_file(const std::filesystem::path& file, const std::string& text);

}  // namespace jugend
