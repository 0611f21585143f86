// hscaffold: everything without a window. Exit codes: 0 done, 1 bad input, 2 bad usage, 3 failed.
#include <QGuiApplication>
#include <algorithm>
#include <cstdio>
#include <iostream>
#include <memory>
#include <new>
#include <string_view>

#include "cli/commands.h"
#include "core/problem.h"

int main(int argc, char** argv) {
  using namespace hscaffold;
  // Picture format plug-ins are found through an application; letters on a sheet want one that can draw.
  const bool draws = std::any_of(argv, argv + argc, [](std::string_view word) { return word == "sheet"; });
  std::unique_ptr<QCoreApplication> application;
  if (draws) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    application = std::make_unique<QGuiApplication>(argc, argv);
  } else {
    application = std::make_unique<QCoreApplication>(argc, argv);
  }
  bool json = false;
  try {
    const auto line = parsedCommandLine(argc, argv, json, [&json](Command& root) {
      addMapCommand(root);
      addPatternCommand(root);
      addStageCommand(root, json);
      addMoodCommand(root, json);
      addPoseCommand(root, json);
      addPullCommand(root, json);
      addFinalCommands(root, json);
      addFindCommand(root, json);
      addBatchCommand(root, json);
      addSheetCommands(root, json);
      addStudyCommand(root, json);
      addStylesCommand(root, json);
    });
    if (line.exitCode) return *line.exitCode;
    line.run();
    // What could not be written out, on a full disk for one, is not done.
    if (std::cout.flush().fail()) throw failed("Could not write all of the output: is the disk full?");
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
