// hscaffold: everything without a window. Exit codes: 0 done, 1 bad input, 2 bad usage, 3 failed.
#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/problem.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  QCoreApplication application(argc, argv);  // picture format plug-ins are found through it
  CLI::App app("Control maps from references, and proofs from control maps.", "hscaffold");
  app.set_version_flag("--version", HSCAFFOLD_VERSION);
  app.require_subcommand(1);
  bool json = false;
  app.add_flag("--json", json, "Print results as JSON on standard output")->configurable(false);
  app.fallthrough();
  CliContext context{json, {}};
  addMapCommand(app, context);
  addPoseCommand(app, context);
  addPullCommand(app, context);
  addStudyCommand(app, context);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    return app.exit(error, std::cout, std::cerr) == 0 ? 0 : 2;
  }
  context.json = json;
  try {
    context.run();
    return 0;
  } catch (const Problem& problem) {
    std::fprintf(stderr, "hscaffold: %s\n", problem.what());
    return problem.kind() == Problem::Kind::badInput ? 1 : 3;
  } catch (const std::bad_alloc&) {
    std::fprintf(stderr, "hscaffold: There is not enough memory for this.\n");
    return 3;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "hscaffold: %s\n", error.what());
    return 3;
  }
}
