// hscaffold: everything without a window. Exit codes: 0 done, 1 bad input, 2 bad usage, 3 failed.
#include <QCoreApplication>
#include <cstdio>
#include <new>

#include "cli/commands.h"
#include "core/problem.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  QCoreApplication application(argc, argv);  // picture format plug-ins are found through it
  bool json = false;
  try {
    const auto line = parsedCommandLine(argc, argv, json, [&json](Command& root) {
      addMapCommand(root);
      addPoseCommand(root, json);
      addPullCommand(root, json);
      addStudyCommand(root, json);
      addStylesCommand(root, json);
    });
    if (line.exitCode) return *line.exitCode;
    line.run();
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
