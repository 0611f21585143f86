/// What the commands about studies share, and their parts.
#pragma once

#include <string>

#include "cli/command.h"

namespace hscaffold {

class StudyFile;
struct Guide;
struct StudyState;

/// By name or id. @throws Problem (badInput)
Guide& guideNamed(StudyState& state, const std::string& name, const std::string& path);
/// The settings, if a reader would take them as they are. @throws Problem (badInput) naming the field that is wrong.
StudyState checked(const StudyState& state);
/// On standard error: what was mended or left out while the study was read.
void sayMended(const StudyFile& file);

/// `study hints|retouch|pose`.
void addHandWorkCommands(Command& study);
/// `study info|check|export`.
void addLookCommands(Command& study, const bool& json);

}  // namespace hscaffold
