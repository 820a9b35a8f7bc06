// A page of what has wheels or rotors: from the side, from above, speed, and each part's travel or tilt, load and slip.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/report/plot_script.hpp>

namespace jugend::plot {

/// A panel over time: a line an actor, or a line a part, from front to back ever shorter dashes.
void PlotScript::parts_panel(const char* name, double bottom, double top, const Value& value, bool of_parts,
                             bool last) {
  Range span;
  std::string block = fmt::format("$panel{} << EOD\n", ++panels_), lines;
  int index = 0;
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    static constexpr const char* dashes[] = {"solid", "solid", "(10,4)", "(10,4)", "(3,3)", "(3,3)"};
    const std::size_t parts = of_parts ? actor.parts : 1;
    for (std::size_t part = 0; part < parts; ++part, ++index) {
      for (std::size_t row = 0; row < actor.rows.size(); ++row) {
        const double found = value(actor, row, part), y = std::abs(found) < 1e-6 ? 0 : found;  // no scale of roundings
        span.add(y);
        fmt::format_to(std::back_inserter(block), "{} {}\n", actor.rows[row].time, y);
      }
      block += "\n\n";
      lines += fmt::format("{}$panel{} index {} using 1:2 with lines lw {} dt {} lc rgb '{}' notitle",
                           lines.empty() ? "" : ", ", panels_, index, of_parts ? 1.4 : 2.2,
                           of_parts ? dashes[std::min<std::size_t>(part, 5)] : look(line).dash, look(line).colour);
    }
  });
  // What does not change gets a range of its own: a step of nothing would make a tick of every pixel.
  const bool changes = span.span() >= 1e-3, level = !changes && span.span() >= 0;
  const std::string range = level ? fmt::format("[{}:{}]", span.low - 1, span.low + 1) : "[*:*]";
  add("{}EOD\nset bmargin at screen {}\nset tmargin at screen {}\nset autoscale y\n"
      "set yrange {} noreverse noextend\nset offsets 0,0,graph 0.1,graph 0.1\nset format x '{}'\n{}\n"
      "set ylabel {} font 'DejaVu Sans,9' offset 0.5,0\nset ytics {} font 'DejaVu Sans,9'\nplot {}\n",
      block, bottom, top, range, last ? "%g" : "", last ? "set xlabel 'time s' offset 0,0.6" : "unset xlabel",
      quoted(name), changes ? round_step(span.span() / 2) : 1.0, lines);
}

/// Force of the driven wheels over speed: what the drive is made for, and what this run used.
void PlotScript::drive_panel(double bottom, double top) {
  double most = 1e-3;
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    add("$drive{} << EOD\nNaN NaN\n", line);
    for (const DriveCurve& c : actor.drive) {
      for (const auto& [speed, force] : c.points)
        most = std::max(most, 1e-3 * force), add("{} {}\n", speed, 1e-3 * force);
      add("\n");
    }
    add("EOD\n$used{} << EOD\nNaN NaN\n", line);
    for (std::size_t row = 1; row < actor.rows.size(); ++row) {
      const TraceRow& r = actor.rows[row];
      double force = 0;
      for (std::size_t i = 0; i < actor.parts; ++i) force += std::max(0.0, actor.part(row, i, actor.columns - 1));
      if (r.run_ahead > 0) add("{} {}\n", dot(r.velocity, r.facing), 1e-3 * force);
    }
    add("EOD\n");
  });
  add("set lmargin at screen 0.765\nset rmargin at screen 0.985\nset bmargin at screen {}\nset tmargin at screen {}\n"
      "set autoscale x\nset xrange [0:*]\nset yrange [0:{}] noreverse\nset offsets 0,0,0,0\n"
      "set format x '%g'\nset xtics autofreq\nset ytics autofreq\nset xlabel 'm/s' offset 0,0.6\n"
      "set ylabel 'drive kN' offset 0.5,0\n"
      "set label 98 'lines: full throttle; dots: used' at screen 0.985,{} right font 'DejaVu Sans,9' textcolor rgb "
      "'{}'\nplot ",
      bottom, top, 1.4 * most, top + 0.017, shore);
  bool first = true;
  each_actor([&](std::size_t, const ActorTrace&, int line) {
    add("{}$drive{} using 1:2 with lines lw 1.6 dt {} lc rgb '{}' notitle", first ? "" : ", ", line, look(line).dash,
        look(line).colour);
    add(", $used{} using 1:2 with points pt 7 ps 0.22 lc rgb '#60{}' notitle", line, look(line).colour + 1);
    first = false;
  });
  add("\nunset label 98\n");
}

/// From the side, from above, then panels over time: speed and height, and those of the kind's parts.
void PlotScript::parts_page() {
  const ActorTrace& first = runs_.front().trace.actors.front();
  const PartSheet sheet = first.tuning.kind().parts();
  const bool driven = !first.drive.empty();
  const std::size_t panels = 1 + !driven + sheet.panels.size();
  const double top = driven ? 0.435 : 0.375, each = (top - 0.065) / static_cast<double>(panels);
  bodies_view(View::side, driven ? 0.74 : 0.685, 0.90, "y m");
  add("unset label\nunset object\nunset key\n");
  bodies_view(View::top, driven ? 0.50 : 0.435, driven ? 0.67 : 0.635, "z m");
  const double duration =
      std::ranges::max(runs_, {}, [](const RunRecord& r) { return r.trace.duration; }).trace.duration;
  add("unset object\nset size noratio\nset xrange [0:{}]\n", duration);
  if (driven)
    add("set rmargin at screen 0.70\nset label 98 'whole lines: front, dashes: further back' at screen 0.061,0.447 "
        "left "
        "font 'DejaVu Sans,9' textcolor rgb '{}'\n",
        shore);
  std::size_t done = 0;
  const auto panel = [&](const char* name, const Value& value, bool of_parts) {
    const double high = top - each * static_cast<double>(done++);
    parts_panel(name, high - each + 0.012, high, value, of_parts, done == panels);
    add("unset label 98\n");
  };
  panel(
      "m/s", [](const ActorTrace& a, std::size_t row, std::size_t) { return norm(a.rows[row].velocity); }, false);
  if (!driven)
    panel(
        "height m", [](const ActorTrace& a, std::size_t row, std::size_t) { return a.rows[row].position.y; }, false);
  for (const PartPanel& p : sheet.panels) {
    const Value value = [&p](const ActorTrace& a, std::size_t row, std::size_t part) {
      return p.scale * a.part(row, part, p.column);
    };
    panel(p.title, value, true);
  }
  if (driven) drive_panel(0.065, 0.425);
}

}  // namespace jugend::plot
