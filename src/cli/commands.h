/// The subcommands. Each adds its options and sets `context.run` when it was chosen.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>

namespace hscaffold {

struct CliContext {
  bool json = false;
  std::function<void()> run;
};

void addMapCommand(CLI::App& app, CliContext& context);
void addPullCommand(CLI::App& app, CliContext& context);
void addStudyCommand(CLI::App& app, CliContext& context);

}  // namespace hscaffold
