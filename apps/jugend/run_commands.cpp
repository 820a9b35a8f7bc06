// run, compare, plot and demo: trials in, tables and pictures out.
#include <fmt/format.h>

#include <filesystem>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/lab/tuning_file.hpp>
#include <jugend/report/plot.hpp>
#include <jugend/report/run_folder.hpp>
#include <jugend/report/table.hpp>
#include <memory>

#include "commands.hpp"
#include "progress.hpp"

namespace jugend::app {
namespace {

namespace fs = std::filesystem;

struct RunOptions {
  std::vector<std::string> inputs;
  std::vector<std::string> settings;
  std::optional<double> hz;
  RunLimits limits;
  std::string out;
  bool plot = false, json = false;

  void add_changes(CLI::App& command) {
    command.add_option("--set", settings, "change a number: key=value, as in jump.height=1.4; may be given again")
        ->type_name("KEY=VALUE")
        ->allow_extra_args(false);  // each takes one: what follows is the trial
    command.add_option("--hz", hz, "ticks a second, instead of the trial's")->type_name("HZ");
    add_limits(command);
  }
  void add_limits(CLI::App& command) {
    command.add_option("--most-bodies", limits.bodies, "refuse a level of more")
        ->type_name("N")
        ->check(CLI::NonNegativeNumber)
        ->capture_default_str();
    command.add_option("--most-mb", limits.megabytes, "refuse a run whose trace is larger")
        ->type_name("MB")
        ->check(CLI::NonNegativeNumber)
        ->capture_default_str();
  }
};

void change(Trial& trial, const RunOptions& options) {
  for (const std::string& s : options.settings) apply_setting(trial, s);
  if (options.hz) apply_setting(trial, fmt::format("hz={}", *options.hz));
}

RunRecord recorded(const Trial& trial) {
  Progress progress(trial.title);
  return record_run(trial, [&](double share) { progress(share); });
}

/// A trial is run, a run's folder is read.
RunRecord run_or_read(const fs::path& input, const RunLimits& limits) {
  std::error_code error;
  return fs::is_directory(input, error) ? read_run(input) : recorded(read_trial(input, standard_kinds(), limits));
}

fs::path draw(std::span<const RunRecord> runs, const fs::path& folder, const char* name) {
  plot_runs(runs, folder / fmt::format("{}.svg", name));
  plot_runs(runs, folder / fmt::format("{}.png", name));
  return folder / fmt::format("{}.png", name);
}

void show(std::span<const RunRecord> runs, bool json) {
  if (json) {
    fmt::print("{}", gauge_json(runs));
    return;
  }
  const Trace& first = runs.front().trace;
  fmt::print("{}: {} s at {} Hz\n\n{}", first.title, as_text(first.duration), as_text(first.hz), gauge_table(runs));
  for (const std::string& said : remarks(runs)) fmt::print("\n{}\n", said);
}

void wrote(const std::vector<fs::path>& files, bool json) {
  if (json) return;
  fmt::print("\n");
  for (const fs::path& f : files) fmt::print("wrote {}\n", f.string());
}

void run(const RunOptions& options) {
  Trial trial = read_trial(options.inputs.front(), standard_kinds(), options.limits);
  change(trial, options);
  const fs::path folder = options.out.empty() ? fs::path("runs") / trial.file.stem() : fs::path(options.out);
  const RunRecord record = recorded(trial);
  std::vector<fs::path> files = write_run(record, folder);
  if (options.plot) files.push_back(draw({&record, 1}, folder, "plot"));
  show({&record, 1}, options.json);
  wrote(files, options.json);
}

/// One trial with changes: itself beside itself changed. Several inputs: each as it stands.
std::vector<RunRecord> compared(const RunOptions& options) {
  const bool changed = !options.settings.empty() || options.hz;
  std::vector<RunRecord> runs;
  for (const std::string& input : options.inputs) runs.push_back(run_or_read(input, options.limits));
  if (changed) {
    if (options.inputs.size() > 1) throw InputError({{"--set"}, {}, "several inputs", "one trial to change", {}});
    std::error_code error;
    if (fs::is_directory(options.inputs.front(), error))
      throw InputError(
          {{options.inputs.front()}, {}, "a run that is done", "a trial file, to run again with changes", {}});
    Trial trial = read_trial(options.inputs.front(), standard_kinds(), options.limits);
    change(trial, options);
    runs.push_back(recorded(trial));
  }
  if (runs.size() < 2)
    throw InputError({{"compare"}, {}, "one run alone", "two trials or run folders, or a trial and --set", {}});
  return runs;
}

void compare(const RunOptions& options) {
  const std::vector<RunRecord> runs = compared(options);
  const fs::path folder = options.out.empty() ? fs::path("runs") / "compare" : fs::path(options.out);
  const fs::path picture = draw(runs, folder, "compare");
  show(runs, options.json);
  const std::vector<std::string> changed = tuning_differences(runs);
  if (!options.json && !changed.empty()) fmt::print("\nchanged: {}\n", fmt::join(changed, "\nchanged: "));
  wrote({picture}, options.json);
}

void plot(const RunOptions& options) {
  if (options.inputs.size() == 1 && is_tuning(options.inputs.front())) {
    const fs::path input = options.inputs.front();
    const fs::path file = options.out.empty() ? fs::path("plot.png") : fs::path(options.out);
    plot_curves(read_tuning(input), input.filename().string(), file);
    return wrote({file}, options.json);
  }
  std::vector<RunRecord> runs;
  for (const std::string& input : options.inputs) runs.push_back(run_or_read(input, options.limits));
  const fs::path file = options.out.empty() ? fs::path("plot.png") : fs::path(options.out);
  plot_runs(runs, file);
  wrote({file}, options.json);
}

/// The harbour that was installed with the program, wherever that lies, or the one beside its source.
fs::path harbour() {
  std::error_code error;
  const fs::path program = fs::read_symlink("/proc/self/exe", error);
  const fs::path beside = program.parent_path().parent_path() / "share/jugend/demo";
  for (const fs::path& folder : {beside, fs::path(JUGEND_INSTALLED_DEMO), fs::path(JUGEND_SOURCE_DEMO)}) {
    if (fs::exists(folder / "quay_run.toml")) return folder;
  }
  throw InputError({{JUGEND_INSTALLED_DEMO}, {}, "no harbour data", "the demo folder that comes with the program", {}});
}

/// As it can be typed from here: it may not be on the path yet.
std::string this_program() {
  std::error_code error;
  const fs::path program = fs::read_symlink("/proc/self/exe", error);
  return error ? "jugend" : fs::proximate(program).string();
}

void demo(const RunOptions& options) {
  const fs::path folder = options.out.empty() ? fs::path("runs") / "demo" : fs::path(options.out);
  Trial trial = read_trial(harbour() / "quay_run.toml");
  std::vector<RunRecord> runs{recorded(trial)};
  apply_setting(trial, "jump.height=1.9");
  runs.push_back(recorded(trial));
  write_run(runs[0], folder / "as_filed");
  write_run(runs[1], folder / "higher_jump");
  const fs::path picture = draw(runs, folder, "quay_run");
  if (!options.json)
    fmt::print(
        "Eelgrass Harbour. The courier runs along the quay, up the slipway, and jumps a gap and a bollard;\nthen the "
        "same with one number changed.\n\n");
  show(runs, options.json);
  wrote({picture, folder / "as_filed", folder / "higher_jump"}, options.json);
  if (!options.json) {
    fmt::print("\nNow change a number yourself:\n  {} compare {} --set jump.time_to_apex=0.5\n", this_program(),
               (harbour() / "quay_run.toml").string());
  }
}

}  // namespace

void add_run(CLI::App& app) {
  auto options = std::make_shared<RunOptions>();
  CLI::App* command =
      app.add_subcommand("run", "run a trial; print its gauges, write trace.csv, bodies.csv and summary.json");
  command->add_option("trial", options->inputs, "the trial file (.toml)")->required()->expected(1);
  options->add_changes(*command);
  command->add_option("--out", options->out, "folder to write to (default: runs/<trial>)")->type_name("FOLDER");
  command->add_flag("--plot", options->plot, "draw plot.png and plot.svg too");
  command->add_flag("--json", options->json, "print JSON for machines");
  command->callback([options] { run(*options); });
}

void add_compare(CLI::App& app) {
  auto options = std::make_shared<RunOptions>();
  CLI::App* command = app.add_subcommand("compare", "runs beside one another, as a table and a picture");
  command->add_option("inputs", options->inputs, "trial files or run folders; or one trial and --set")
      ->required()
      ->expected(1, 6);
  options->add_changes(*command);
  command->add_option("--out", options->out, "folder for compare.png and .svg (default: runs/compare)")
      ->type_name("FOLDER");
  command->add_flag("--json", options->json, "print JSON for machines");
  command->callback([options] { compare(*options); });
}

void add_plot(CLI::App& app) {
  auto options = std::make_shared<RunOptions>();
  CLI::App* command = app.add_subcommand("plot", "draw runs over one another: path, height, speed, inputs");
  command
      ->add_option("inputs", options->inputs, "run folders or trial files, up to 6; or one tuning file, for its curves")
      ->required()
      ->expected(1, 6);
  command->add_option("--out", options->out, "a .png or .svg file (default: plot.png)")->type_name("FILE");
  options->add_limits(*command);
  command->callback([options] { plot(*options); });
}

void add_demo(CLI::App& app) {
  auto options = std::make_shared<RunOptions>();
  CLI::App* command =
      app.add_subcommand("demo", "Eelgrass Harbour: the courier's jump beside the same with one number changed");
  command->add_option("--out", options->out, "folder to write to (default: runs/demo)")->type_name("FOLDER");
  command->add_flag("--json", options->json, "print JSON for machines");
  command->callback([options] { demo(*options); });
}

}  // namespace jugend::app
