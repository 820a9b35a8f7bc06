// A page of what has wheels or rotors: from the side, from above, speed, and each part's travel or tilt, load and slip.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/report/plot_script.hpp>

namespace jugend::plot {

/// A block for each actor and run: time, speed, tilt or height; then a block of travel, load, slip for each part.
void PlotScript::parts_data() {
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    add("$way{} << EOD\n", line);
    for (const TraceRow& r : actor.rows) {
      const double tilt = std::acos(std::clamp(r.up.y, -1.0, 1.0)) / radians_per_degree;
      add("{} {} {} {}\n", r.time, norm(r.velocity), r.position.y, tilt);
    }
    add("EOD\n");
    for (std::size_t i = 0; i < actor.parts; ++i) {
      add("$part{}_{} << EOD\n", line, i);
      for (std::size_t row = 0; row < actor.rows.size(); ++row) {
        const PartRow& p = actor.part(row, i);
        const double slip_angle = p.slip_angle / radians_per_degree;
        add("{} {} {} {} {} {}\n", actor.rows[row].time, 1000 * p.travel, 1e-3 * p.load, 100 * p.slip, p.load,
            slip_angle);
      }
      add("EOD\n");
    }
  });
}

/// A panel over time. Columns 2 to 6 of the parts' blocks; from 12 on of the ways'.
void PlotScript::parts_panel(const char* name, double bottom, double top, int column, bool last) {
  Range span;
  each_actor([&](std::size_t, const ActorTrace& actor, int) {
    for (const TraceRow& r : actor.rows) {
      if (column > 10) span.add(column == 12 ? norm(r.velocity) : r.position.y);
    }
    for (const PartRow& p : actor.part_rows) {
      if (column < 10)
        span.add(column == 2   ? 1000 * p.travel
                 : column == 3 ? 1e-3 * p.load
                 : column == 4 ? 100 * p.slip
                 : column == 5 ? p.load
                               : p.slip_angle / radians_per_degree);
    }
  });
  add("set bmargin at screen {}\nset tmargin at screen {}\nset autoscale y\nset yrange [*:*] noreverse noextend\nset "
      "offsets "
      "0,0,graph 0.1,graph 0.1\nset format x '{}'\n{}\nset ylabel {} font 'DejaVu Sans,9' offset 0.5,0\nset ytics {} "
      "font 'DejaVu Sans,9'\nplot ",
      bottom, top, last ? "%g" : "", last ? "set xlabel 'time s' offset 0,0.6" : "unset xlabel", plot::quoted(name),
      round_step(std::max(span.span(), 1e-3) / 2));
  bool first = true;
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    const auto curve = [&](const std::string& block, int of, const char* dash, double wide) {
      add("{}${} using 1:{} with lines lw {} dt {} lc rgb '{}' notitle", first ? "" : ", ", block, of, wide, dash,
          look(line).colour);
      first = false;
    };
    if (column > 10) return curve(fmt::format("way{}", line), column - 10, look(line).dash, 2.2);
    // Front to back: whole lines, then ever shorter dashes.
    static constexpr const char* dashes[] = {"solid", "solid", "(10,4)", "(10,4)", "(3,3)", "(3,3)"};
    for (std::size_t i = 0; i < actor.parts; ++i)
      curve(fmt::format("part{}_{}", line, i), column, dashes[std::min<std::size_t>(i, 5)], 1.4);
  });
  add("\n");
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
      for (std::size_t i = 0; i < actor.parts; ++i) force += std::max(0.0, actor.part(row, i).along);
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

void PlotScript::parts_page() {
  parts_data();
  const bool wheels = runs_.front().trace.actors.front().tuning.kind == ActorKind::vehicle;
  bodies_view(View::side, wheels ? 0.74 : 0.685, 0.90, "y m");
  add("unset label\nunset object\nunset key\n");
  bodies_view(View::top, wheels ? 0.50 : 0.435, wheels ? 0.67 : 0.635, "z m");
  const double duration =
      std::ranges::max(runs_, {}, [](const RunRecord& r) { return r.trace.duration; }).trace.duration;
  add("unset object\nset size noratio\nset xrange [0:{}]\n", duration);
  if (!wheels) {
    parts_panel("m/s", 0.285, 0.375, 12, false);
    parts_panel("height m", 0.18, 0.27, 13, false);
    parts_panel("thrust N", 0.07, 0.165, 5, true);
    return;
  }
  add("set rmargin at screen 0.70\nset label 98 'whole lines: front, dashes: further back' at screen 0.061,0.447 left "
      "font 'DejaVu Sans,9' textcolor rgb '{}'\n",
      shore);
  parts_panel("m/s", 0.365, 0.435, 12, false);
  add("unset label 98\n");
  parts_panel("travel mm", 0.285, 0.355, 2, false);
  parts_panel("load kN", 0.205, 0.275, 3, false);
  parts_panel("slip %", 0.135, 0.195, 4, false);
  parts_panel("side deg", 0.065, 0.125, 6, true);
  drive_panel(0.065, 0.425);
}

}  // namespace jugend::plot
