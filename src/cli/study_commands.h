/// What the commands about studies share, and their parts.
#pragma once

#include <memory>
#include <string>

#include "cli/command.h"
#include "core/study/study_file.h"
#include "files/study_lock.h"

namespace hscaffold {

/// A study that a command changes: nobody else may meanwhile. On standard error: what was mended while it was read.
struct StudyToChange {
  /// @throws Problem
  explicit StudyToChange(const std::string& path);
  std::unique_ptr<StudyLock> lock;
  StudyFile file;
  StudyState state;
  WorkStore work;  ///< reads from `file`
  StudyToChange(const StudyToChange&) = delete;
};

/// By name or id. @throws Problem (badInput)
Guide& guideNamed(StudyState& state, const std::string& name, const std::string& path);
/// The settings, if a reader would take them as they are. @throws Problem (badInput) naming the field that is wrong.
StudyState checked(const StudyState& state);
/// On standard error: what was mended or left out while the study was read.
void sayMended(const StudyFile& file);

/// `study hints|retouch|pose`.
void addHandWorkCommands(Command& study);
/// `study info|check|repair|export`.
void addLookCommands(Command& study, const bool& json);

}  // namespace hscaffold
