/// Who works on a study: one program at a time, told by a lock file beside it.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

class QLockFile;

namespace hscaffold {

class StudyLock {
 public:
  /// Waits up to `milliseconds` for whoever holds it. The lock of a program that died is recognised and taken over.
  /// @return null if another program holds it still, or the folder may not be written.
  static std::unique_ptr<StudyLock> take(const std::filesystem::path& study, int milliseconds = 0);
  /// The same. @throws Problem (failed) that names who holds it.
  static std::unique_ptr<StudyLock> takeOrSay(const std::filesystem::path& study, int milliseconds);
  ~StudyLock();
  /// Who holds the lock now, for messages: "humble-scaffold (process 4711)"; empty if nobody does.
  static std::string holder(const std::filesystem::path& study);

 private:
  explicit StudyLock(std::unique_ptr<QLockFile> file);
  std::unique_ptr<QLockFile> file_;
};

}  // namespace hscaffold
