// A page of a tuning's curves: each through its points, with its units.
#include <algorithm>
#include <jugend/base/error.hpp>
#include <jugend/report/plot_script.hpp>

namespace jugend {
namespace {

/// A panel in the band from `bottom` to `top` of the page.
std::string panel(const PointList& list, const std::vector<Curve::Point>& points, double bottom, double top) {
  const Curve curve(points);
  const double first = points.front().x, last = points.back().x;
  std::string text = "$line << EOD\n";
  constexpr int pieces = 200;
  for (int i = 0; i <= pieces; ++i) {
    const double x = first + (last - first) * i / pieces;
    text += fmt::format("{} {}\n", x, curve.value(x));
  }
  text += "EOD\n$points << EOD\n";
  for (const Curve::Point& p : points) text += fmt::format("{} {}\n", p.x, p.y);
  const auto& look = plot::looks.front();
  text += fmt::format(
      "EOD\nset bmargin at screen {}\nset tmargin at screen {}\nset xlabel '{}' offset 0,0.6\nset ylabel '{}' offset "
      "1,0\nset label 1 {} at screen 0.965,{} right textcolor rgb '{}'\n"
      "plot $line using 1:2 with lines lw 2.4 lc rgb '{}' notitle, $points using 1:2 with points pt 7 ps 1.2 lc rgb "
      "'{}' notitle\nunset label 1\n",
      bottom, top, list.x_unit, list.y_unit, plot::quoted(std::string(list.key)), top + 0.02, plot::ink, look.colour,
      plot::coral);
  return text;
}

}  // namespace

void plot_curves(const ActorTuning& tuning, const std::string& title, const std::filesystem::path& file,
                 const PlotSize& size) {
  ActorTuning copy = tuning;  // lists are found in what may be changed
  std::vector<const PointList*> lists;
  for (const PointList& list : tuning.list().curves()) {
    if (list.at(copy.data()).size() > 1) lists.push_back(&list);
  }
  if (lists.empty())
    throw InputError({{title}, "plot", "a tuning without curves", "a run, a trial, or a tuning with a curve", {}});
  plot::draw(file, [&](const std::string& terminal, const std::string& output) {
    std::string text = fmt::format(
        "set terminal {} size {},{} background rgb '{}' font 'DejaVu Sans,11' noenhanced\nset output {}\n"
        "set border 3 lc rgb '{}'\nset tics nomirror\nset grid lc rgb '#e3e1d6' lw 1 dt solid\nset multiplot\n"
        "set lmargin at screen 0.07\nset rmargin at screen 0.965\nset yrange [0:*]\nset offsets 0,0,graph 0.1,0\n"
        "set label 99 {} at screen 0.055,0.965 font 'DejaVu Sans,15' textcolor rgb '{}'\n",
        terminal, size.width, size.height, plot::paper, plot::quoted(output), plot::ink, plot::quoted(title),
        plot::ink);
    const double each = 0.88 / static_cast<double>(lists.size());
    for (std::size_t i = 0; i < lists.size(); ++i) {
      const double top = 0.90 - each * static_cast<double>(i);
      text += panel(*lists[i], lists[i]->at(copy.data()), top - each + 0.10, top);
      if (i == 0) text += "unset label 99\n";
    }
    return text + "unset multiplot\n";
  });
}

}  // namespace jugend
