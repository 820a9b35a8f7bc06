// A run as files: trace.csv and bodies.csv with a row per tick, summary.json with all the rest.
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
  std::vector<Outline> outlines;      ///< of what stands, in the first actor's plane (z = 0 without one)
  std::vector<Outline> top_outlines;  ///< the same from above
  std::vector<Outline> water;         ///< pools, from the side
};

/// Runs a trial and keeps the level's outline beside the trace.
RunRecord record_run(const Trial& trial, const std::function<void(double)>& progress = {});

std::string trace_csv(const Trace& trace);
/// A row a tick and dynamic body.
std::string bodies_csv(const Trace& trace);

/// Writes trace.csv, the likes of wheels.csv and bodies.csv, where there are any, and summary.json into `folder`, each
/// whole or not at all; gives the files in that order. Throws InputError for a folder that holds something else than a
/// run, or cannot be written.
std::vector<std::filesystem::path> write_run(const RunRecord& record, const std::filesystem::path& folder);
/// Reads such a folder back. Throws InputError.
RunRecord read_run(const std::filesystem::path& folder, const LabKinds& kinds = standard_kinds());

/// Writes one file whole or not at all. Throws InputError where it cannot be written.
void write_file(const std::filesystem::path& file, const std::string& text);

}  // namespace jugend
