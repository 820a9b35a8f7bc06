// A page of bodies: from the side, from above, and how fast the fastest is.
#include <algorithm>
#include <cmath>
#include <jugend/report/plot_script.hpp>

namespace jugend::plot {

/// Blocks of lines: each run's bodies at the start, on the way and at the end, their paths and forces.
void PlotScript::picture_data() {
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
void PlotScript::bodies_in(const char* view) {
  for (std::size_t r = 0; r < runs_.size(); ++r) {
    if (runs_[r].trace.pictures.empty()) continue;
    const std::string colour = std::string(look(static_cast<int>(r)).colour).substr(1);
    add(", ${}_way{} using 1:2 with lines lw 0.8 lc rgb '#a0{}' notitle", view, r, colour);
    add(", ${}_path{} using 1:2 with lines lw 0.8 dt (2,4) lc rgb '#70{}' notitle", view, r, colour);
    add(", ${}_end{} using 1:2 with filledcurves closed fs transparent solid 0.22 noborder fc rgb '#{}' notitle", view,
        r, colour);
    add(", ${}_end{} using 1:2 with lines lw 1.8 dt {} lc rgb '#{}' title {}", view, r, look(static_cast<int>(r)).dash,
        colour,
        std::string(view) != "side" ? "''"
        : runs_.size() > 1          ? plot::quoted(labels_[r])
                                    : "'bodies at the end; thin: on the way'");
    add(", ${}_force{} using 1:2 with lines lw 1.6 lc rgb '{}' {}", view, r, coral,
        r > 0 || std::string(view) != "side" ? "notitle"
        : has_parts(runs_[r].trace)          ? "title 'force at the end, 1.2 m the weight'"
                                             : "title 'force at the end, 0.3 m a body weight'");
  }
}

void PlotScript::bodies_page() {
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

void PlotScript::bodies_view(View view, double bottom, double top, const char* axis) {
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

/// The highest speed of any body, m/s.
double PlotScript::fastest() const {
  double most = 0.1;
  for (const RunRecord& run : runs_) {
    for (const BodyTrace& body : run.trace.bodies) {
      for (const BodyRow& row : body.rows) most = std::max(most, norm(row.velocity));
    }
  }
  return most;
}

}  // namespace jugend::plot
