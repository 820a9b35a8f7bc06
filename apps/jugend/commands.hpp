// The commands of the command line: each adds its options, and calls the library when it is chosen.
#pragma once

#include <CLI/CLI.hpp>

namespace jugend::app {

/// Exit codes beside 0, done.
inline constexpr int bad_input = 2, internal_fault = 3;

void add_run(CLI::App& app);
void add_compare(CLI::App& app);
void add_plot(CLI::App& app);
void add_params(CLI::App& app);
void add_gauges(CLI::App& app);
void add_size(CLI::App& app);
void add_vehicle_sizes(CLI::App& size);  // those of add_size for wheels and rotors
void add_demo(CLI::App& app);

}  // namespace jugend::app
