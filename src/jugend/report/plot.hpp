// Pictures of runs, drawn by gnuplot: the path over the level, height, speed and inputs over time.
#pragma once

#include <filesystem>
#include <jugend/report/run_folder.hpp>
#include <span>

namespace jugend {

struct PlotSize {
  int width = 1280, height = 800;  ///< pixels
};

/// Draws the curves of a tuning as they are shaped by their points. Throws InputError as plot_runs does, and for a
/// tuning without curves.
void plot_curves(const ActorTuning& tuning, const std::string& title, const std::filesystem::path& file,
                 const PlotSize& size = {});

/// Draws the runs over one another into `file`, a .png or .svg. Throws InputError for another ending, no
/// runs or more than 6, a file that cannot be written, or where gnuplot cannot be run or fails.
void plot_runs(std::span<const RunRecord> runs, const std::filesystem::path& file, const PlotSize& size = {});

}  // namespace jugend
