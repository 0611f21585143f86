/// The subcommands. Each adds its options and sets `context.run` when it was chosen.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <string>

#include "core/image/atomic_file.h"
#include "core/image/image.h"

namespace hscaffold {

struct CliContext {
  bool json = false;
  std::function<void()> run;
};

/// "768x512". @throws Problem (badInput), also for sides that no frame has.
Size parsedSize(const std::string& text);

/// What a command reads: a file, or standard input for "-".
Bytes readInput(const std::string& in);
/// Into a file, whole or not at all, or to standard output for "-".
void writeOutput(const std::string& out, std::span<const std::byte> content);
/// How messages name an input.
std::string nameOfInput(const std::string& in);

/// `map pose`, and `pose words|make`.
void addPoseMapCommand(CLI::App& map, CliContext& context);
void addPoseCommand(CLI::App& app, CliContext& context);
void addMapCommand(CLI::App& app, CliContext& context);
void addPullCommand(CLI::App& app, CliContext& context);
void addStudyCommand(CLI::App& app, CliContext& context);

}  // namespace hscaffold
