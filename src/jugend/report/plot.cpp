// The whole page of a picture, and gnuplot's run.
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <jugend/base/error.hpp>
#include <jugend/report/plot_script.hpp>
#include <sstream>

namespace jugend {
namespace plot {

/// A text inside gnuplot's single quotes.
std::string quoted(const std::string& text) {
  std::string out = "'";
  for (const char c : text) {
    if (c == '\'') out += '\'';
    out += c == '\n' ? ' ' : c;
  }
  return out + "'";
}

/// The page that all actors of all runs can share: parts only where all have the same kind of them.
PageForm PlotScript::page_form() const {
  const LabKind* first = nullptr;
  bool same = true, flat = true;
  for (const RunRecord& run : runs_) {
    for (const ActorTrace& actor : run.trace.actors) {
      const LabKind& kind = actor.tuning.kind();
      if (first == nullptr) first = &kind;
      same &= &kind == first;
      flat &= kind.page() != PageForm::path;
    }
  }
  if (first == nullptr) return PageForm::top;  // bodies alone
  return same ? first->page() : flat ? PageForm::top : PageForm::path;
}

std::string PlotScript::write(const std::string& terminal, const std::string& output) {
  data();
  add("set terminal {} size {},{} background rgb '{}' font 'DejaVu Sans,11' noenhanced\n", terminal, size_.width,
      size_.height, paper);
  add("set output {}\n", plot::quoted(output));
  add("set border 3 lc rgb '{0}'\nset tics nomirror textcolor rgb '{0}'\nset grid lc rgb '#e3e1d6' lw 1 dt solid\n",
      ink);
  add("set label textcolor rgb '{0}'\nset xlabel textcolor rgb '{0}'\nset ylabel textcolor rgb '{0}'\n", ink);
  add("set multiplot\n");
  add("set label 99 {} at screen 0.055,0.965 font 'DejaVu Sans,15' textcolor rgb '{}'\n",
      plot::quoted(runs_.front().trace.title), ink);
  picture_data();
  const PageForm form = page_form();
  if (form != PageForm::path) {
    form == PageForm::parts ? parts_page() : bodies_page();
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

/// What does not move: solids as filled shapes, sheets as lines in the block $level.
void PlotScript::standing(const std::vector<Outline>& outlines, const std::vector<Outline>& pools, const Range& x,
                          const Range& y, bool edged) {
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

/// 1, 2 or 5 times a power of ten, near `wanted`.
double PlotScript::round_step(double wanted) {
  const double power = std::pow(10, std::floor(std::log10(wanted)));
  const double size = wanted / power;
  return power * (size < 1.5 ? 1 : size < 3.5 ? 2 : size < 7.5 ? 5 : 10);
}

}  // namespace plot

namespace {

[[noreturn]] void refuse(const std::filesystem::path& file, std::string found, std::string allowed) {
  throw InputError({{file.string()}, "plot", std::move(found), std::move(allowed), {}});
}

}  // namespace

void plot_runs(std::span<const RunRecord> runs, const std::filesystem::path& file, const PlotSize& size) {
  if (runs.empty() || runs.size() > plot::looks.size())
    refuse(file, fmt::format("{} runs", runs.size()), fmt::format("1 to {} runs", plot::looks.size()));
  plot::draw(file, [&](const std::string& terminal, const std::string& output) {
    return plot::PlotScript(runs, size).write(terminal, output);
  });
}

void plot::draw(const std::filesystem::path& file, const ScriptWriter& write) {
  const std::string ending = file.extension();
  if (ending != ".png" && ending != ".svg") refuse(file, fmt::format("'{}'", ending), ".png or .svg");

  std::error_code error;
  std::string name = (std::filesystem::temp_directory_path(error) / "jugend-plot-XXXXXX").string();
  if (error || ::mkdtemp(name.data()) == nullptr)
    refuse(file, "a folder for temporary files that cannot be written", "TMPDIR with room");
  const std::filesystem::path folder(name);
  const auto picture = folder / ("plot" + ending), script = folder / "plot.gp", complaints = folder / "plot.err";
  struct Cleaner {
    std::filesystem::path folder;
    ~Cleaner() {
      std::error_code ignored;
      std::filesystem::remove_all(folder, ignored);
    }
  } cleaner{folder};
  std::ofstream to_script(script);
  to_script << write(ending == ".png" ? "pngcairo" : "svg", picture.string());
  to_script.close();
  if (!to_script) refuse(file, "a folder for temporary files that cannot be written", "TMPDIR with room");
  const int status =
      std::system(fmt::format("gnuplot '{}' > /dev/null 2> '{}'", script.string(), complaints.string()).c_str());
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
    refuse(file, "no gnuplot on this machine", "gnuplot installed (Debian: gnuplot-nox)");
  std::ifstream in(picture, std::ios::binary);
  if (status != 0 || !in) {
    std::ostringstream said;
    said << std::ifstream(complaints).rdbuf();
    const std::string why = !said.str().empty()   ? said.str()
                            : WIFSIGNALED(status) ? fmt::format("ended by signal {}", WTERMSIG(status))
                                                  : fmt::format("exit code {}, without a word, and {} picture",
                                                                WEXITSTATUS(status), in ? "a" : "no");
    refuse(file, "gnuplot failed: " + why, "a run of gnuplot that succeeds");
  }
  std::ostringstream bytes;
  bytes << in.rdbuf();
  write_file(file, bytes.str());
}

}  // namespace jugend
