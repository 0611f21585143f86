/// The subcommands. Each adds its options and sets `context.run` when it was chosen.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <string>

#include "core/image/image.h"

namespace hscaffold {

struct CliContext {
  bool json = false;
  std::function<void()> run;
};

/// "768x512". @throws Problem (badInput), also for sides that no frame has.
Size parsedSize(const std::string& text);

void addMapCommand(CLI::App& app, CliContext& context);
void addPullCommand(CLI::App& app, CliContext& context);
void addStudyCommand(CLI::App& app, CliContext& context);

}  // namespace hscaffold
