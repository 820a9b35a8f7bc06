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
        add("{} {} {} {} {}\n", actor.rows[row].time, 1000 * p.travel, 1e-3 * p.load, 100 * p.slip, p.load);
      }
      add("EOD\n");
    }
  });
}

/// A panel over time. Columns 2 to 5 of the parts' blocks; from 12 on of the ways'.
void PlotScript::parts_panel(const char* name, double bottom, double top, int column, bool last) {
  Range span;
  span.add(0);
  each_actor([&](std::size_t, const ActorTrace& actor, int) {
    for (const TraceRow& r : actor.rows) {
      if (column > 10) span.add(column == 12 ? norm(r.velocity) : r.position.y);
    }
    for (const PartRow& p : actor.part_rows) {
      if (column < 10) span.add(column == 2 ? 1000 * p.travel : column == 3 ? 1e-3 * p.load : p.load);
    }
  });
  add("set bmargin at screen {}\nset tmargin at screen {}\nset autoscale y\nset yrange [*:*] noreverse\nset offsets "
      "0,0,graph 0.08,graph 0.05\nset format x '{}'\n{}\nset ylabel {} offset 0.5,0\nset ytics {}\nplot ",
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

void PlotScript::parts_page() {
  parts_data();
  bodies_view(View::side, 0.685, 0.90, "y m");
  add("unset label\nunset object\nunset key\n");
  bodies_view(View::top, 0.435, 0.635, "z m");
  const double duration =
      std::ranges::max(runs_, {}, [](const RunRecord& r) { return r.trace.duration; }).trace.duration;
  add("unset object\nset size noratio\nset xrange [0:{}]\n", duration);
  const bool wheels = runs_.front().trace.actors.front().tuning.kind == ActorKind::vehicle;
  if (wheels) {
    add("set label 98 'whole lines: front, dashes: further back' at screen 0.985,0.392 right font 'DejaVu Sans,9' "
        "textcolor rgb '{}'\n",
        shore);
  }
  parts_panel("m/s", 0.285, 0.375, 12, false);
  add("unset label 98\n");
  parts_panel(wheels ? "travel mm" : "height m", 0.18, 0.27, wheels ? 2 : 13, false);
  if (wheels) {
    parts_panel("load kN", 0.07, 0.165, 3, true);
  } else {
    parts_panel("thrust N", 0.07, 0.165, 5, true);
  }
}

}  // namespace jugend::plot
