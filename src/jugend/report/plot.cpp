#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/base/units.hpp>
#include <jugend/report/plot.hpp>
#include <jugend/report/table.hpp>
#include <sstream>

namespace jugend {
namespace {

// Paper, ink and foam of the harbour; a run is told by colour and by dash, for eyes that see no colour.
constexpr const char* paper = "#fbfaf5";
constexpr const char* ink = "#23302d";
constexpr const char* foam = "#d5e6df";
constexpr const char* shore = "#6f8f86";
constexpr const char* water = "#dce9f2";
struct LineLook {
  const char* colour;
  const char* dash;
};
constexpr std::array<LineLook, 6> looks{{{"#0e5a4b", "solid"},
                                         {"#b07d1a", "(14,6)"},
                                         {"#3b6ea5", "(4,4)"},
                                         {"#8a4f7d", "(14,5,3,5)"},
                                         {"#7a8b2a", "(22,6)"},
                                         {"#5a5a5a", "(2,5)"}}};
constexpr const char* coral = "#d9532f";
/// The ribbon's colours, by WalkerMode; beside them stands the mode's name.
constexpr std::array<const char*, walker_modes> mode_colours{"#d9d6c8", "#0e5a4b", "#9cc3dd", "#3b6ea5", "#c9a227",
                                                             "#a8b5a0", "#b07d1a", "#d9532f", "#e9a08c", "#8a2f2f",
                                                             "#8a4f7d", "#c49bbf", "#9bd1c9", "#2a9d8f"};

/// A text inside gnuplot's single quotes.
std::string quoted(const std::string& text) {
  std::string out = "'";
  for (const char c : text) {
    if (c == '\'') out += '\'';
    out += c == '\n' ? ' ' : c;
  }
  return out + "'";
}

struct Range {
  double low = 1e300, high = -1e300;
  void add(double v) { low = std::min(low, v), high = std::max(high, v); }
  double span() const { return high - low; }
};

class Script {
 public:
  Script(std::span<const RunRecord> runs, const PlotSize& size) : runs_(runs), labels_(run_labels(runs)), size_(size) {}

  std::string write(const std::string& terminal, const std::string& output) {
    data();
    add("set terminal {} size {},{} background rgb '{}' font 'DejaVu Sans,11' noenhanced\n", terminal, size_.width,
        size_.height, paper);
    add("set output {}\n", quoted(output));
    add("set border 3 lc rgb '{0}'\nset tics nomirror textcolor rgb '{0}'\nset grid lc rgb '#e3e1d6' lw 1 dt solid\n",
        ink);
    add("set label textcolor rgb '{0}'\nset xlabel textcolor rgb '{0}'\nset ylabel textcolor rgb '{0}'\n", ink);
    add("set multiplot\n");
    add("set label 99 {} at screen 0.055,0.965 font 'DejaVu Sans,15' textcolor rgb '{}'\n",
        quoted(runs_.front().trace.title), ink);
    picture_data();
    // What is led by headings is seen from above, like bodies.
    const auto led = [](const ActorTrace& a) { return a.tuning.kind == ActorKind::pacer; };
    if (std::ranges::all_of(runs_.front().trace.actors, led)) {
      bodies_page();
      add("unset multiplot\n");
      return std::move(text_);
    }
    side_view();
    add("unset label\nunset object\n");
    const double duration =
        std::ranges::max(runs_, {}, [](const RunRecord& r) { return r.trace.duration; }).trace.duration;
    add("set size noratio\nset xrange [0:{}]\nunset key\n", duration);
    time_panel("height m", 0.40, 0.53, 3, 0.05);
    time_panel("speed m/s", 0.285, 0.385, 4, 0.0);
    inputs_panel(0.165, 0.27);
    ribbon(0.065, 0.115);
    add("unset multiplot\n");
    return std::move(text_);
  }

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

  void data() {
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

  /// The body's outline at even times: each is an upright capsule, or a ball.
  void ghosts(const ActorTrace& actor, int line) {
    add("$ghost{} << EOD\nNaN NaN\n", line);
    if (actor.tuning.kind == ActorKind::pacer) {
      add("EOD\n");
      return;
    }
    const double duration = actor.rows.back().time, step = std::max(0.2, round_step(duration / 30));
    const bool ball = actor.tuning.kind == ActorKind::roller;
    const double radius = ball ? actor.tuning.roller.radius : actor.tuning.walker().body.radius;
    double due = 0;
    for (const TraceRow& row : actor.rows) {
      if (row.time < due - 1e-9) continue;
      due += step;
      const double tall = ball ? 2 * radius : actor.tuning.walker().height(row.mode == WalkerMode::crouching);
      for (int i = 0; i <= 25; ++i) {
        const double angle = 2 * pi * (i % 25 + 0.5) / 25, middle = std::sin(angle) >= 0 ? tall - radius : radius;
        add("{} {}\n", row.position.x + radius * std::cos(angle), row.position.y + middle + radius * std::sin(angle));
      }
      add("\n");
    }
    add("EOD\n");
  }

  /// Arrows of what a walker got and gave: throws, and kicks of what it left; 0.15 m for 1 m/s.
  void blows(const ActorTrace& actor, int line) {
    add("$blow{} << EOD\nNaN NaN NaN NaN\n", line);
    for (const TraceEvent& e : actor.events) {
      const bool kick = e.kind == WalkerEventKind::kicked;
      if (!kick && e.kind != WalkerEventKind::hit) continue;
      const auto after = std::ranges::find_if(actor.rows, [&](const TraceRow& r) { return r.time > e.time; });
      if (after == actor.rows.end()) continue;
      const Vec3 way = normalised(after->velocity) * (kick ? -0.15 : 0.15) * e.value;
      add("{} {} {} {}\n", e.position.x, e.position.y + (kick ? 0 : 0.6 * actor.tuning.height()), way.x, way.y);
    }
    add("EOD\n");
  }

  /// Ranges that show every path at the same scale along and up.
  void side_ranges(Range& x, Range& y, double aspect) {
    each_actor([&](std::size_t, const ActorTrace& actor, int) {
      for (const TraceRow& r : actor.rows)
        x.add(r.position.x), y.add(r.position.y), y.add(r.position.y + actor.tuning.height());
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

  void side_view() {
    constexpr double left = 0.055, right = 0.985, bottom = 0.60, top = 0.93;
    Range x, y;
    side_ranges(x, y, (right - left) * size_.width / ((top - bottom) * size_.height));
    add("set lmargin at screen {}\nset rmargin at screen {}\nset bmargin at screen {}\nset tmargin at screen {}\n",
        left, right, bottom, top);
    add("set xrange [{}:{}]\nset yrange [{}:{}]\nset xlabel 'x m' offset 0,0.6\nset ylabel 'y m' offset 1.5,0\n", x.low,
        x.high, y.low, y.high);
    standing(runs_.front().outlines, runs_.front().water, x, y);
    add("set key at screen 0.985,0.975 right top horizontal samplen 3 textcolor rgb '{}'\n", ink);
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
          quoted(label_of(run, actor)));
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
    each_actor([&](std::size_t, const ActorTrace&, int line) {
      const auto marks = [&](const char* block, int point, const char* colour, const char* name) {
        add(", ${}{} using 2:3 with points pt {} ps 1.3 lw 1.6 lc rgb '{}' {}", block, line, point, colour,
            named ? std::string("notitle") : "title '" + std::string(name) + "'");
      };
      marks("off", 8, look(line).colour, "take-off");
      marks("apex", 6, look(line).colour, "apex");
      marks("down", 10, look(line).colour, "landing");
      bool bumped = false;
      for (const TraceEvent& e : runs_[0].trace.actors[0].events) bumped |= e.kind == WalkerEventKind::bumped_head;
      if (bumped) marks("bump", 2, coral, "head bump");
      named = true;
    });
    add("\n");
  }

  /// Blocks of lines: each run's bodies at the start, on the way and at the end, their paths and forces.
  void picture_data() {
    const auto block = [&](const std::string& name, auto&& fill) {
      add("${} << EOD\nNaN NaN\n", name);
      fill();
      add("EOD\n");
    };
    const auto lines = [&](const std::vector<Outline>& outlines) {
      for (const Outline& o : outlines) {
        for (const Point2& p : o.points) add("{} {}\n", p.x, p.y);
        if (o.closed && !o.points.empty()) add("{} {}\n", o.points.front().x, o.points.front().y);
        add("\n");
      }
    };
    for (std::size_t r = 0; r < runs_.size(); ++r) {
      const auto& pictures = runs_[r].trace.pictures;
      for (const View view : {View::side, View::top}) {
        const char* v = view == View::side ? "side" : "top";
        const auto of = [&](const Picture& p) -> const std::vector<Outline>& {
          return view == View::side ? p.side : p.top;
        };
        block(fmt::format("{}_way{}", v, r), [&] {
          for (std::size_t i = 0; i + 1 < pictures.size(); ++i) lines(of(pictures[i]));
        });
        block(fmt::format("{}_end{}", v, r), [&] {
          if (!pictures.empty()) lines(of(pictures.back()));
        });
        block(fmt::format("{}_force{}", v, r), [&] {
          if (!pictures.empty()) lines(view == View::side ? pictures.back().side_forces : pictures.back().top_forces);
        });
        block(fmt::format("{}_path{}", v, r), [&] {
          for (const BodyTrace& body : runs_[r].trace.bodies) {
            for (const BodyRow& row : body.rows)
              add("{} {}\n", row.pose.position.x, view == View::side ? row.pose.position.y : row.pose.position.z);
            add("\n");
          }
        });
      }
      block(fmt::format("fastest{}", r), [&] {
        const auto& bodies = runs_[r].trace.bodies;
        for (std::size_t i = 0; !bodies.empty() && i < bodies.front().rows.size(); ++i) {
          double fastest = 0, sum = 0;
          for (const BodyTrace& body : bodies) {
            const double speed = norm(body.rows[i].velocity);
            fastest = std::max(fastest, speed), sum += speed;
          }
          add("{} {} {}\n", bodies.front().rows[i].time, fastest, sum / static_cast<double>(bodies.size()));
        }
      });
    }
  }

  /// The bodies of all runs in one view, as parts of a plot command that has begun.
  void bodies_in(const char* view) {
    for (std::size_t r = 0; r < runs_.size(); ++r) {
      if (runs_[r].trace.pictures.empty()) continue;
      const std::string colour = std::string(look(static_cast<int>(r)).colour).substr(1);
      add(", ${}_way{} using 1:2 with lines lw 0.8 lc rgb '#a0{}' notitle", view, r, colour);
      add(", ${}_path{} using 1:2 with lines lw 0.8 dt (2,4) lc rgb '#70{}' notitle", view, r, colour);
      add(", ${}_end{} using 1:2 with filledcurves closed fs transparent solid 0.22 noborder fc rgb '#{}' notitle",
          view, r, colour);
      add(", ${}_end{} using 1:2 with lines lw 1.8 dt {} lc rgb '#{}' title {}", view, r,
          look(static_cast<int>(r)).dash, colour,
          std::string(view) != "side" ? "''"
          : runs_.size() > 1          ? jugend::quoted(labels_[r])
                                      : "'bodies at the end; thin: on the way'");
      add(", ${}_force{} using 1:2 with lines lw 1.6 lc rgb '{}' {}", view, r, coral,
          r == 0 && std::string(view) == "side" ? "title 'force at the end, 0.3 m a body weight'" : "notitle");
    }
  }

  void bodies_page() {
    bodies_view(View::side, 0.575, 0.90, "y m");
    add("unset label\nunset object\nunset key\n");
    bodies_view(View::top, 0.245, 0.50, "z m");
    const double duration =
        std::ranges::max(runs_, {}, [](const RunRecord& r) { return r.trace.duration; }).trace.duration;
    add("unset object\nset size noratio\nset xrange [0:{}]\nset autoscale y\nset yrange [0:*] noreverse\nset bmargin "
        "at screen 0.075\n"
        "set tmargin at screen 0.175\nset format x '%g'\nset xlabel 'time s' offset 0,0.6\nset ylabel 'fastest m/s' "
        "offset 1.5,0\nset ytics {}\nplot ",
        duration, round_step(fastest() / 3));
    for (std::size_t r = 0; r < runs_.size(); ++r)
      add("{}$fastest{} using 1:2 with lines lw 2 dt {} lc rgb '{}' notitle", r ? ", " : "", r,
          look(static_cast<int>(r)).dash, look(static_cast<int>(r)).colour);
    add("\n");
  }

  void bodies_view(View view, double bottom, double top, const char* axis) {
    constexpr double left = 0.06, right = 0.985;
    Range x, y;
    for (const RunRecord& run : runs_) {
      for (const Picture& p : run.trace.pictures) {
        for (const Outline& o : view == View::side ? p.side : p.top) {
          for (const Point2& point : o.points) x.add(point.x), y.add(point.y);
        }
      }
    }
    const double aspect = (right - left) * size_.width / ((top - bottom) * size_.height),
                 margin = 0.05 * std::max(x.span(), y.span()) + 0.1;
    x = {x.low - margin, x.high + margin}, y = {y.low - margin, y.high + margin};
    if (const double wide = y.span() * aspect - x.span(); wide > 0) {
      x = {x.low - wide / 2, x.high + wide / 2};
    } else {
      const double tall = -wide / aspect;
      y = {y.low - tall / 2, y.high + tall / 2};
    }
    add("set lmargin at screen {}\nset rmargin at screen {}\nset bmargin at screen {}\nset tmargin at screen {}\nset "
        "xrange [{}:{}]\n",
        left, right, bottom, top, x.low, x.high);
    // From above z, which is to the right of who looks along x, runs down the page.
    if (view == View::side) {
      add("set yrange [{}:{}]\n", y.low, y.high);
    } else {
      add("set yrange [{}:{}]\n", y.high, y.low);
    }
    add("set xlabel 'x m' offset 0,0.6\nset ylabel '{}' offset 0.5,0\n", axis);
    if (view == View::side) {
      standing(runs_.front().outlines, runs_.front().water, x, y);
    } else {
      standing(runs_.front().top_outlines, {}, x, y, true);
    }
    add("set key at screen 0.985,0.945 right top horizontal samplen 3 textcolor rgb '{}'\nplot $level using 1:2 with "
        "lines lw 1.5 lc rgb '{}' notitle",
        ink, shore);
    bodies_in(view == View::side ? "side" : "top");
    add("\n");
  }

  /// What does not move: solids as filled shapes, sheets as lines in the block $level.
  void standing(const std::vector<Outline>& outlines, const std::vector<Outline>& pools, const Range& x, const Range& y,
                bool edged = false) {
    int object = 0;
    const auto fill = [&](const Outline& o, const char* colour) {
      Range tall;
      for (const Point2& p : o.points) tall.add(p.y);
      add("set object {} polygon from ", ++object);
      for (std::size_t i = 0; i <= o.points.size(); ++i) {
        const Point2& p = o.points[i % o.points.size()];
        add("{}{},{}", i ? " to " : "", std::clamp(p.x, x.low - 1, x.high + 1), std::clamp(p.y, y.low - 1, y.high + 1));
      }
      const bool thin =
          edged || std::abs(tall.span()) < 0.01 * std::abs(y.span());  // what is thinner than a line is drawn as one
      add(" fs solid 1 {} fc rgb '{}' behind\n", thin ? fmt::format("border lc rgb '{}' lw 1.2", shore) : "noborder",
          colour);
    };
    for (const Outline& o : pools) fill(o, water);
    for (const Outline& o : outlines) {
      if (o.closed) fill(o, foam);
    }
    add("$level << EOD\nNaN NaN\n");
    for (const Outline& o : outlines) {
      if (o.closed) continue;
      for (const Point2& p : o.points) add("{} {}\n", p.x, p.y);
      add("\n");
    }
    add("EOD\n");
  }

  /// The highest speed of any body, m/s.
  double fastest() const {
    double most = 0.1;
    for (const RunRecord& run : runs_) {
      for (const BodyTrace& body : run.trace.bodies) {
        for (const BodyRow& row : body.rows) most = std::max(most, norm(row.velocity));
      }
    }
    return most;
  }

  /// 1, 2 or 5 times a power of ten, near `wanted`.
  static double round_step(double wanted) {
    const double power = std::pow(10, std::floor(std::log10(wanted)));
    const double size = wanted / power;
    return power * (size < 1.5 ? 1 : size < 3.5 ? 2 : size < 7.5 ? 5 : 10);
  }

  /// Gives the low panels about three tics.
  double step_of(int column) {
    Range range;
    each_actor([&](std::size_t, const ActorTrace& actor, int) {
      for (const TraceRow& r : actor.rows)
        range.add(column == 3 ? r.position.y : std::hypot(r.velocity.x, r.velocity.z));
    });
    return round_step(std::max(range.span(), 0.1) / 3);
  }

  void time_panel(const char* name, double bottom, double top, int column, double air) {
    add("set bmargin at screen {}\nset tmargin at screen {}\nset autoscale y\nset offsets 0,0,graph {},graph {}\n",
        bottom, top, 0.08, air);
    add("set format x ''\nunset xlabel\nset ylabel {} offset 0.5,0\nset ytics {}\n", quoted(name), step_of(column));
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

  void inputs_panel(double bottom, double top) {
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
  void ribbon(double bottom, double top) {
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
        add("set object {} rect from {},{} to {},{} fs solid 1 noborder fc rgb '{}'\n", ++object,
            actor.rows[i - 1].time, -line - 0.88, actor.rows[end - 1].time, -line - 0.12, mode_colours[mode]);
        i = end;
      }
    });
    for (int line = 0; line < strips; ++line) {  // whose strip it is
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

  std::span<const RunRecord> runs_;
  std::vector<std::string> labels_;
  PlotSize size_;
  std::string text_;
};

[[noreturn]] void refuse(const std::filesystem::path& file, std::string found, std::string allowed) {
  throw InputError({{file.string()}, "plot", std::move(found), std::move(allowed), {}});
}

}  // namespace

void plot_runs(std::span<const RunRecord> runs, const std::filesystem::path& file, const PlotSize& size) {
  if (runs.empty() || runs.size() > looks.size())
    refuse(file, fmt::format("{} runs", runs.size()), fmt::format("1 to {} runs", looks.size()));
  const std::string ending = file.extension();
  if (ending != ".png" && ending != ".svg") refuse(file, fmt::format("'{}'", ending), ".png or .svg");

  const auto folder = std::filesystem::temp_directory_path() / fmt::format("jugend-plot-{}", ::getpid());
  std::filesystem::create_directories(folder);
  const auto picture = folder / ("plot" + ending), script = folder / "plot.gp", complaints = folder / "plot.err";
  struct Cleaner {
    std::filesystem::path folder;
    ~Cleaner() {
      std::error_code ignored;
      std::filesystem::remove_all(folder, ignored);
    }
  } cleaner{folder};
  std::ofstream(script) << Script(runs, size).write(ending == ".png" ? "pngcairo" : "svg", picture.string());
  const int status =
      std::system(fmt::format("gnuplot '{}' > /dev/null 2> '{}'", script.string(), complaints.string()).c_str());
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
    refuse(file, "no gnuplot on this machine", "gnuplot installed (Debian: gnuplot-nox)");
  std::ifstream in(picture, std::ios::binary);
  if (status != 0 || !in) {
    std::ostringstream said;
    said << std::ifstream(complaints).rdbuf();
    refuse(file, "gnuplot failed: " + said.str(), "a run of gnuplot that succeeds");
  }
  std::ostringstream bytes;
  bytes << in.rdbuf();
  write_file(file, bytes.str());
}

}  // namespace jugend
