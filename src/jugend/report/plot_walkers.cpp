// A page of walkers and rollers: their way from the side, height and speed over time, input, states.
#include <algorithm>
#include <cmath>
#include <jugend/base/units.hpp>
#include <jugend/report/plot_script.hpp>

namespace jugend::plot {
namespace {

/// The ribbon's colours, by WalkerMode; beside them stands the mode's name.
constexpr std::array<const char*, walker_modes> mode_colours{"#d9d6c8", "#0e5a4b", "#9cc3dd", "#3b6ea5", "#c9a227",
                                                             "#a8b5a0", "#b07d1a", "#d9532f", "#e9a08c", "#8a2f2f",
                                                             "#8a4f7d", "#c49bbf", "#9bd1c9", "#2a9d8f", "#5b5f97"};

double height_of(const ActorTrace& actor) {
  return actor.tuning.kind().silhouette(actor.tuning.data(), WalkerMode::idle).height;
}

}  // namespace

void PlotScript::data() {
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    add("$path{} << EOD\n", line);
    for (const TraceRow& r : actor.rows) {
      add("{} {} {} {} {} {}\n", r.time, r.position.x, r.position.y, std::hypot(r.velocity.x, r.velocity.z),
          r.run_ahead, r.run_right);
    }
    add("EOD\n");
    for (std::size_t k = 0; k < key_count; ++k) {  // from when to when each key was heard
      add("$press{}_{} << EOD\nNaN NaN\n", k, line);
      for (std::size_t i = 1; i < actor.rows.size(); ++i) {
        const bool heard = actor.rows[i].held[k] || actor.rows[i].presses[k] > 0;
        if (heard) add("{} {}\n", actor.rows[i - 1].time, actor.rows[i].time);
      }
      add("EOD\n");
    }
    ghosts(actor, line);
    blows(actor, line);
    for (const auto& [name, kind] : {std::pair{"off", WalkerEventKind::left_ground},
                                     {"apex", WalkerEventKind::apex},
                                     {"down", WalkerEventKind::landed},
                                     {"bump", WalkerEventKind::bumped_head}}) {
      add("${}{} << EOD\n", name, line);
      add("NaN NaN NaN\n");  // gnuplot does not take an empty block
      for (const TraceEvent& e : actor.events) {
        if (e.kind == kind) add("{} {} {}\n", e.time, e.position.x, e.position.y);
      }
      add("EOD\n");
    }
  });
}

/// The body's outline at even times: an upright capsule, or a ball; nothing of what is drawn as a body.
void PlotScript::ghosts(const ActorTrace& actor, int line) {
  add("$ghost{} << EOD\nNaN NaN\n", line);
  const double duration = actor.rows.back().time, step = std::max(0.2, round_step(duration / 30));
  double due = 0;
  for (const TraceRow& row : actor.rows) {
    if (row.time < due - 1e-9) continue;
    due += step;
    const auto [radius, tall] = actor.tuning.kind().silhouette(actor.tuning.data(), row.mode);
    if (radius <= 0) break;
    for (int i = 0; i <= 25; ++i) {
      const double angle = 2 * pi * (i % 25 + 0.5) / 25, middle = std::sin(angle) >= 0 ? tall - radius : radius;
      add("{} {}\n", row.position.x + radius * std::cos(angle), row.position.y + middle + radius * std::sin(angle));
    }
    add("\n");
  }
  add("EOD\n");
}

/// Arrows of what a walker got and gave: throws, and kicks of what it left; 0.15 m for 1 m/s.
void PlotScript::blows(const ActorTrace& actor, int line) {
  add("$blow{} << EOD\nNaN NaN NaN NaN\n", line);
  for (const TraceEvent& e : actor.events) {
    const bool kick = e.kind == WalkerEventKind::kicked;
    if (!kick && e.kind != WalkerEventKind::hit) continue;
    const auto after = std::ranges::find_if(actor.rows, [&](const TraceRow& r) { return r.time > e.time; });
    if (after == actor.rows.end()) continue;
    const Vec3 arrow = normalised(after->velocity) * (kick ? -0.15 : 0.15) * e.value;
    add("{} {} {} {}\n", e.position.x, e.position.y + (kick ? 0 : 0.6 * height_of(actor)), arrow.x, arrow.y);
  }
  add("EOD\n");
}

/// Ranges that show every path at the same scale along and up.
void PlotScript::side_ranges(Range& x, Range& y, double aspect) {
  each_actor([&](std::size_t, const ActorTrace& actor, int) {
    for (const TraceRow& r : actor.rows)
      x.add(r.position.x), y.add(r.position.y), y.add(r.position.y + height_of(actor));
  });
  const double margin = std::max(0.5, 0.04 * x.span());
  x = {x.low - margin, x.high + margin};
  y = {y.low - 0.7, y.high + 0.2};
  if (x.span() / y.span() < aspect) {
    const double wider = y.span() * aspect - x.span();
    x = {x.low - wider / 2, x.high + wider / 2};
  } else {
    const double taller = x.span() / aspect - y.span();
    y = {y.low - 0.4 * taller, y.high + 0.6 * taller};
  }
}

void PlotScript::side_view() {
  constexpr double left = 0.055, right = 0.985, bottom = 0.60, top = 0.875;
  Range x, y;
  side_ranges(x, y, (right - left) * size_.width / ((top - bottom) * size_.height));
  add("set lmargin at screen {}\nset rmargin at screen {}\nset bmargin at screen {}\nset tmargin at screen {}\n", left,
      right, bottom, top);
  add("set xrange [{}:{}]\nset yrange [{}:{}]\nset xlabel 'x m' offset 0,0.6\nset ylabel 'y m' offset 0.7,0\n", x.low,
      x.high, y.low, y.high);
  standing(runs_.front().outlines, runs_.front().water, x, y);
  add("set key at screen 0.985,0.948 right top horizontal samplen 3 font 'DejaVu Sans,9' textcolor rgb '{}'\n", ink);
  add("plot $level using 1:2 with filledcurves y1={} fc rgb '{}' notitle, $level using 1:2 with lines lw 1.5 lc rgb "
      "'{}' notitle",
      y.low, foam, shore);
  bodies_in("side");
  each_actor([&](std::size_t, const ActorTrace&, int line) {
    add(", $ghost{} using 1:2 with lines lw 0.7 lc rgb '#90{}' notitle", line,
        std::string(look(line).colour).substr(1));
  });
  each_actor([&](std::size_t run, const ActorTrace& actor, int line) {
    add(", $path{} using 2:3 with lines lw 2.4 dt {} lc rgb '{}' title {}", line, look(line).dash, look(line).colour,
        plot::quoted(label_of(run, actor)));
  });
  bool blown = false;
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    const bool any = std::ranges::any_of(actor.events, [](const TraceEvent& e) {
      return e.kind == WalkerEventKind::kicked || e.kind == WalkerEventKind::hit;
    });
    if (!any) return;
    add(", $blow{} using 1:2:3:4 with vectors filled head size 0.25,20 lw 2 lc rgb '{}' {}", line, coral,
        blown ? "notitle" : "title 'throw, kick: 0.15 m for 1 m/s'");
    blown = true;
  });
  bool named = false;
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    const auto marks = [&](const char* block, int point, const char* colour, const char* name) {
      add(", ${}{} using 2:3 with points pt {} ps 1.3 lw 1.6 lc rgb '{}' {}", block, line, point, colour,
          named ? std::string("notitle") : "title '" + std::string(name) + "'");
    };
    marks("off", 8, look(line).colour, "take-off");
    marks("apex", 6, look(line).colour, "apex");
    marks("down", 10, look(line).colour, "landing");
    bool bumped = false;
    for (const TraceEvent& e : actor.events) bumped |= e.kind == WalkerEventKind::bumped_head;
    if (bumped) marks("bump", 2, coral, "head bump");
    named = true;
  });
  add("\n");
}

/// Gives the low panels about three tics.
double PlotScript::step_of(int column) {
  Range range;
  each_actor([&](std::size_t, const ActorTrace& actor, int) {
    for (const TraceRow& r : actor.rows) range.add(column == 3 ? r.position.y : std::hypot(r.velocity.x, r.velocity.z));
  });
  return round_step(std::max(range.span(), 0.1) / 3);
}

void PlotScript::time_panel(const char* name, double bottom, double top, int column, double air) {
  add("set bmargin at screen {}\nset tmargin at screen {}\nset autoscale y\nset offsets 0,0,graph {},graph {}\n",
      bottom, top, 0.08, air);
  add("set format x ''\nunset xlabel\nset ylabel {} offset 0.5,0\nset ytics {}\n", plot::quoted(name), step_of(column));
  add("plot ");
  each_actor([&](std::size_t, const ActorTrace&, int line) {
    add("{}$path{} using 1:{} with lines lw 2.2 dt {} lc rgb '{}' notitle", line ? ", " : "", line, column,
        look(line).dash, look(line).colour);
    if (column != 3) return;
    add(", $off{0} using 1:3 with points pt 8 ps 1.1 lc rgb '{1}' notitle, $apex{0} using 1:3 with points pt 6 ps "
        "1.1 lc rgb '{1}' notitle, "
        "$down{0} using 1:3 with points pt 10 ps 1.1 lc rgb '{1}' notitle",
        line, look(line).colour);
  });
  add("\n");
}

void PlotScript::inputs_panel(double bottom, double top) {
  std::vector<std::size_t> keys{0};
  for (std::size_t k = 1; k < key_count; ++k) {
    bool used = false;
    each_actor([&](std::size_t, const ActorTrace& actor, int) {
      for (const TraceRow& r : actor.rows) used |= r.held[k] || r.presses[k] > 0;
    });
    if (used) keys.push_back(k);
  }
  std::string names;
  for (std::size_t i = 0; i < keys.size(); ++i)
    names += fmt::format(", '{}' {}", key_names()[keys[i]], 2.2 + 1.1 * static_cast<double>(i));
  add("set bmargin at screen {}\nset tmargin at screen {}\nset offsets 0,0,0,0\nset yrange [-1.25:{}]\n", bottom, top,
      2.6 + 1.1 * static_cast<double>(keys.size() - 1));
  add("set format x ''\nunset xlabel\nset ylabel 'input'\nset ytics ('' -1, '0' 0, 'run' 1{})\n", names);
  add("plot ");
  each_actor([&](std::size_t, const ActorTrace&, int line) {
    const double shift = -0.12 * line;
    add("{}$path{} using 1:5 with fsteps lw 2 dt {} lc rgb '{}' notitle", line ? ", " : "", line, look(line).dash,
        look(line).colour);
    for (std::size_t i = 0; i < keys.size(); ++i) {
      add(", $press{}_{} using 1:({}):($2-$1):(0) with vectors nohead lw 5 lc rgb '{}' notitle", keys[i], line,
          2.2 + 1.1 * static_cast<double>(i) + shift, look(line).colour);
    }
  });
  add("\nset ytics auto\n");
}

/// What state each actor is in: a strip for each, and the states' names above.
void PlotScript::ribbon(double bottom, double top) {
  std::array<bool, walker_modes> used{};
  int strips = 0, object = 0;
  add("unset object\nset format x '%g'\nset xlabel 'time s' offset 0,0.6\nunset ylabel\nunset grid\n");
  each_actor([&](std::size_t, const ActorTrace& actor, int line) {
    ++strips;
    for (std::size_t i = 1; i < actor.rows.size();) {
      std::size_t end = i;
      while (end < actor.rows.size() && actor.rows[end].mode == actor.rows[i].mode) ++end;
      const auto mode = static_cast<std::size_t>(actor.rows[i].mode);
      used[mode] = true;
      add("set object {} rect from {},{} to {},{} fs solid 1 noborder fc rgb '{}'\n", ++object, actor.rows[i - 1].time,
          -line - 0.88, actor.rows[end - 1].time, -line - 0.12, mode_colours[mode]);
      i = end;
    }
  });
  for (int line = 0; strips > 1 && line < strips; ++line) {  // whose strip it is
    add("set object {} rect from screen 0.045,first {} to screen 0.053,first {} fs solid 1 noborder fc rgb '{}'\n",
        ++object, -line - 0.88, -line - 0.12, look(line).colour);
  }
  double at = 0.07;
  for (std::size_t mode = 0; mode < used.size(); ++mode) {
    if (!used[mode]) continue;
    std::string name = name_of(static_cast<WalkerMode>(mode));
    std::ranges::replace(name, '_', ' ');
    add("set object {} rect from screen {},0.128 to screen {},0.145 fs solid 1 noborder fc rgb '{}'\n", ++object, at,
        at + 0.012, mode_colours[mode]);
    add("set label {} '{}' at screen {},0.1365 left font 'DejaVu Sans,9'\n", 200 + mode, name, at + 0.016);
    at += 0.032 + 0.0068 * static_cast<double>(name.size());
  }
  add("set bmargin at screen {}\nset tmargin at screen {}\nset offsets 0,0,0,0\nset yrange [{}:0]\nset ytics ('' "
      "0)\n",
      bottom, top, -strips);
  add("plot NaN notitle\nset ytics auto\n");
}

}  // namespace jugend::plot
