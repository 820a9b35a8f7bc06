// The command line: parses, calls, prints. No computation.
#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <jugend/base/error.hpp>
#include <new>
#include <string>
#include <string_view>
#include <system_error>
#include <utility>
#include <vector>

#include "commands.hpp"

namespace {

/// On a full disk there may be no room for this either: then the exit code alone tells.
template <class... Values>
void complain(fmt::format_string<Values...> text, Values&&... values) {
  std::fputs(fmt::format(text, std::forward<Values>(values)...).c_str(), stderr);
}

/// The first option on the command line that its command does not have, and the nearest that it has.
std::string unknown_option(const CLI::App& cli, int argc, char** argv) {
  const CLI::App* command = &cli;
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    for (const CLI::App* sub : command->get_subcommands([](const CLI::App*) { return true; })) {
      if (sub->get_name() == word) command = sub;
    }
    if (!word.starts_with("--")) continue;
    const std::string name = word.substr(0, word.find('='));
    std::vector<std::string> known;
    for (const CLI::Option* option : command->get_options()) {
      for (const std::string& long_name : option->get_lnames()) known.push_back("--" + long_name);
    }
    if (std::find(known.begin(), known.end(), name) != known.end()) continue;
    const std::string nearest = jugend::nearest_name(name, known);
    return fmt::format("{}: found an option that is not known; allowed: {}{}", name, fmt::join(known, ", "),
                       nearest.empty() ? "" : "; nearest: " + nearest);
  }
  return {};
}

/// A first word that is no command: with the nearest that is.
std::string unknown_command(const CLI::App& cli, int argc, char** argv) {
  if (argc < 2 || argv[1][0] == '-') return {};
  std::vector<std::string> known;
  for (const CLI::App* sub : cli.get_subcommands([](const CLI::App*) { return true; }))
    known.push_back(sub->get_name());
  if (std::find(known.begin(), known.end(), argv[1]) != known.end()) return {};
  const std::string nearest = jugend::nearest_name(argv[1], known);
  return fmt::format("{}: found no command; allowed: {}{}", argv[1], fmt::join(known, ", "),
                     nearest.empty() ? "" : "; nearest: " + nearest);
}

/// The last words of each command's help: what to type first. A test runs them as they stand.
constexpr std::pair<std::string_view, const char*> examples[] = {
    {"", "demo"},
    {"run", "run demo/quay_run.toml --plot"},
    {"compare", "compare demo/quay_run.toml --set jump.height=1.9"},
    {"plot", "plot demo/gull_strike.toml --out gull.png"},
    {"params", "params vehicle"},
    {"gauges", "gauges vehicle"},
    {"demo", "demo --out first"},
    {"size", "size reach --height 1.25 --speed 6 --distance 3"},
    {"size jump", "size jump --height 1.25 --time 0.38"},
    {"size rise", "size rise --speed 8"},
    {"size reach", "size reach --height 1.25 --speed 6 --distance 3"},
    {"size air-jumps", "size air-jumps"},
    {"size dash", "size dash --distance 4 --time 0.2"},
    {"size throw", "size throw --distance 2 --time 0.4"},
    {"size gravity", "size gravity --on moon"},
    {"size stop", "size stop --speed 6 --deceleration 9"},
    {"size spring", "size spring --mass 105 --frequency 1.7"},
    {"size roll", "size roll --mass 420"},
    {"size tip", "size tip"},
    {"size tyre", "size tyre --points 2:420 4:760 8:1010"},
    {"size gear", "size gear --ratio 2.1"},
    {"size hover", "size hover --mass 2"},
    {"size rotor-loss", "size rotor-loss"},
};

void add_examples(CLI::App& command, const std::string& path) {
  for (const auto& [name, example] : examples) {
    if (name == path)
      command.footer(fmt::format(
          "Exit codes: 0 done, 2 what comes from outside, 3 a fault of the program.\n\nExample:\n  jugend {}",
          example));
  }
  for (CLI::App* sub : command.get_subcommands([](const CLI::App*) { return true; }))
    add_examples(*sub, path.empty() ? sub->get_name() : path + " " + sub->get_name());
}

constexpr const char* first_steps =
    "Jugend runs trials of characters and vehicles, measures them, and shows what a number does.\n\n"
    "To begin with:\n"
    "  jugend demo                                       a jump, and the same with one number changed\n"
    "  jugend run TRIAL.toml --plot                      measure and draw a trial\n"
    "  jugend compare TRIAL.toml --set jump.height=1.4   a trial beside itself changed\n\n"
    "All commands: jugend --help\n";

}  // namespace

int main(int argc, char** argv) {
  using namespace jugend;
  CLI::App cli{"Jugend: run trials of character controllers, measure them, and see what a number does.", "jugend"};
  cli.require_subcommand(1);
  cli.set_version_flag("--version", JUGEND_VERSION);
  try {
    app::add_run(cli);
    app::add_compare(cli);
    app::add_plot(cli);
    app::add_params(cli);
    app::add_gauges(cli);
    app::add_size(cli);
    app::add_demo(cli);
    add_examples(cli, {});
    if (argc == 1)
      fmt::print("{}", first_steps);
    else
      cli.parse(argc, argv);
    if (std::fflush(stdout) != 0 || std::ferror(stdout)) {
      complain("jugend: standard output: found a place that cannot be written; allowed: one with room\n");
      return app::bad_input;
    }
    return 0;
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) return cli.exit(error);  // --help, --version
    std::string unknown = unknown_command(cli, argc, argv);
    if (unknown.empty()) unknown = unknown_option(cli, argc, argv);
    complain("jugend: {}\nTry: jugend --help\n", unknown.empty() ? error.what() : unknown);
    return app::bad_input;
  } catch (const InputError& error) {
    complain("jugend: {}\n", error.what());
    return app::bad_input;
  } catch (const std::system_error& error) {  // what files and folders answer comes from outside
    complain("jugend: {}\n", error.what());
    return app::bad_input;
  } catch (const std::bad_alloc&) {
    complain("jugend: found more than there is memory for; allowed: fewer bodies, ticks or triangles\n");
    return app::bad_input;
  } catch (const std::exception& error) {
    complain("jugend: a fault of the program: {}\n", error.what());
    return app::internal_fault;
  }
}
