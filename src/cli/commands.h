/// The subcommands. Each adds its options and says what happens when it was chosen.
#pragma once

#include <string>
#include <vector>

#include "cli/command.h"
#include "core/image/atomic_file.h"
#include "core/image/image.h"

namespace hscaffold {

inline constexpr int longestWait = 3000;  ///< milliseconds for another program to let go of a study

/// "768x512". @throws Problem (badInput), also for sides that no frame has.
Size parsedSize(const std::string& text);
/// Numbers with commas between them, as many as `count`; empty if it is anything else.
std::vector<double> parsedNumbers(const std::string& text, std::size_t count);

/// What a command reads: a file, or standard input for "-".
Bytes readInput(const std::string& in);
/// Into a file, whole or not at all, or to standard output for "-".
void writeOutput(const std::string& out, std::span<const std::byte> content);
/// How messages name an input.
std::string nameOfInput(const std::string& in);

/// `map pose`, and `pose words|make|list`.
/// @param json  whether results are wanted as JSON; set once the command line has been read.
void addPoseMapCommand(Command& map);
void addPoseCommand(Command& root, const bool& json);
/// `study brief`, and `styles`.
void addBriefCommand(Command& study);
void addStylesCommand(Command& root, const bool& json);
void addMapCommand(Command& root);
void addPatternCommand(Command& root);
/// The ways in which colours of a mood are sorted, as options name them.
std::vector<std::string> moodSortings();
/// `stage new|render|say|lift|export`.
void addStageCommand(Command& root, const bool& json);
void addMoodCommand(Command& root, const bool& json);
void addPullCommand(Command& root, const bool& json);
/// `final`, and `touch-up`.
void addFinalCommands(Command& root, const bool& json);
void addFindCommand(Command& root, const bool& json);
/// `batch plan|run|status`.
void addBatchCommand(Command& root, const bool& json);
/// `measure`, `scan`, and `sheet list|export`.
void addSheetCommands(Command& root, const bool& json);
void addStudyCommand(Command& root, const bool& json);

}  // namespace hscaffold
