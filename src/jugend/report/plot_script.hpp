// The script that gnuplot draws a picture from: its looks, and what both kinds of page share. Inner to the report.
//
// plot.cpp: the whole page, and gnuplot's run. plot_walkers.cpp: paths, heights, inputs, states. plot_bodies.cpp:
// bodies from the side and from above.
#pragma once

#include <fmt/format.h>

#include <array>
#include <functional>
#include <iterator>
#include <jugend/base/units.hpp>
#include <jugend/report/plot.hpp>
#include <jugend/report/table.hpp>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace jugend::plot {

// Paper, ink and foam of the harbour; a run is told by colour and by dash, for eyes that see no colour.
inline constexpr const char* paper = "#fbfaf5";
inline constexpr const char* ink = "#23302d";
inline constexpr const char* foam = "#d5e6df";
inline constexpr const char* shore = "#6f8f86";
inline constexpr const char* water = "#dce9f2";
struct LineLook {
  const char* colour;
  const char* dash;
};
inline constexpr std::array<LineLook, 6> looks{{{"#0e5a4b", "solid"},
                                                {"#b07d1a", "(14,6)"},
                                                {"#3b6ea5", "(4,4)"},
                                                {"#8a4f7d", "(14,5,3,5)"},
                                                {"#7a8b2a", "(22,6)"},
                                                {"#5a5a5a", "(2,5)"}}};
inline constexpr const char* coral = "#d9532f";

/// From the least to the most of what was added.
struct Range {
  double low = infinity, high = -infinity;
  void add(double v) { low = std::min(low, v), high = std::max(high, v); }
  double span() const { return high - low; }
};

/// Writes a script for a terminal that draws into a file.
using ScriptWriter = std::function<std::string(const std::string& terminal, const std::string& output)>;
/// Has gnuplot draw `file`, whole or not at all. Throws InputError as plot_runs does.
void draw(const std::filesystem::path& file, const ScriptWriter& write);

/// A text inside gnuplot's single quotes.
std::string quoted(const std::string& text);

class PlotScript {
 public:
  PlotScript(std::span<const RunRecord> runs, const PlotSize& size)
      : runs_(runs), labels_(run_labels(runs)), size_(size) {}
  std::string write(const std::string& terminal, const std::string& output);

 private:
  template <class... T>
  void add(fmt::format_string<T...> format, T&&... values) {
    fmt::format_to(std::back_inserter(text_), format, std::forward<T>(values)...);
  }
  template <class Visit>
  void each_actor(Visit&& visit) {
    int line = 0;
    for (std::size_t r = 0; r < runs_.size(); ++r) {
      for (const ActorTrace& actor : runs_[r].trace.actors) visit(r, actor, line++);
    }
  }
  std::string label_of(std::size_t run, const ActorTrace& actor) const {
    return runs_[run].trace.actors.size() > 1 ? actor.name + ", " + labels_[run] : labels_[run];
  }
  static const LineLook& look(int line) { return looks[static_cast<std::size_t>(line) % looks.size()]; }
  PageForm page_form() const;
  void data();
  void ghosts(const ActorTrace& actor, int line);
  void blows(const ActorTrace& actor, int line);
  void side_ranges(Range& x, Range& y, double aspect);
  void side_view();
  void picture_data();
  void bodies_in(const char* view);
  void bodies_page();
  void parts_page();
  void drive_panel(double bottom, double top);
  /// What a panel over time shows of the actor, or of one of its parts.
  using Value = std::function<double(const ActorTrace&, std::size_t row, std::size_t part)>;
  void parts_panel(const char* name, double bottom, double top, const Value& value, bool of_parts, bool last);
  void bodies_view(View view, double bottom, double top, const char* axis);
  void standing(const std::vector<Outline>& outlines, const std::vector<Outline>& pools, const Range& x, const Range& y,
                bool edged = false);
  double fastest() const;
  static double round_step(double wanted);
  double step_of(int column);
  void time_panel(const char* name, double bottom, double top, int column, double air);
  void inputs_panel(double bottom, double top);
  void ribbon(double bottom, double top);
  std::span<const RunRecord> runs_;
  std::vector<std::string> labels_;
  PlotSize size_;
  std::string text_;
  int panels_ = 0;
};

}  // namespace jugend::plot
