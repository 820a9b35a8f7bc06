// The command line: parses, calls, prints. No computation.
#include <fmt/format.h>

#include <algorithm>
#include <jugend/base/error.hpp>
#include <string>
#include <vector>

#include "commands.hpp"

namespace {

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

}  // namespace

int main(int argc, char** argv) {
  using namespace jugend;
  CLI::App cli{"Jugend: run trials of character controllers, measure them, and see what a number does.", "jugend"};
  cli.require_subcommand(1);
  cli.set_version_flag("--version", JUGEND_VERSION);
  cli.footer("Exit codes: 0 done, 2 bad input, 3 a fault of the program.");
  try {
    app::add_run(cli);
    app::add_compare(cli);
    app::add_plot(cli);
    app::add_params(cli);
    app::add_size(cli);
    app::add_demo(cli);
    cli.parse(argc, argv);
    return 0;
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) return cli.exit(error);  // --help, --version
    const std::string unknown = unknown_option(cli, argc, argv);
    fmt::print(stderr, "jugend: {}\nTry: jugend --help\n", unknown.empty() ? error.what() : unknown);
    return app::bad_input;
  } catch (const InputError& error) {
    fmt::print(stderr, "jugend: {}\n", error.what());
    return app::bad_input;
  } catch (const std::exception& error) {
    fmt::print(stderr, "jugend: a fault of the program: {}\n", error.what());
    return app::internal_fault;
  }
}
