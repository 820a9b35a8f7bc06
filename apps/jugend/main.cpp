// The command line: parses, calls, prints. No computation.
#include <fmt/format.h>

#include <jugend/base/error.hpp>

#include "commands.hpp"

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
    fmt::print(stderr, "jugend: {}\nTry: jugend --help\n", error.what());
    return app::bad_input;
  } catch (const InputError& error) {
    fmt::print(stderr, "jugend: {}\n", error.what());
    return app::bad_input;
  } catch (const std::exception& error) {
    fmt::print(stderr, "jugend: a fault of the program: {}\n", error.what());
    return app::internal_fault;
  }
}
