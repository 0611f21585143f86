/// Who works on a study: one program at a time, told by a lock file beside it.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

class QLockFile;

namespace hscaffold {

class StudyLock {
 public:
  struct Taken;
  /// Waits up to `milliseconds` for whoever holds it. The lock of a program that died is recognised and taken over.
  static Taken take(const std::filesystem::path& study, int milliseconds = 0);
  /// The same. Null if the folder may not be written. @throws Problem (failed) that names who holds it.
  static std::unique_ptr<StudyLock> takeOrSay(const std::filesystem::path& study, int milliseconds);
  ~StudyLock();

 private:
  explicit StudyLock(std::unique_ptr<QLockFile> file);
  std::unique_ptr<QLockFile> file_;
};

struct StudyLock::Taken {
  std::unique_ptr<StudyLock> lock;  ///< null if another program holds it, or there cannot be one here
  bool folderClosed = false;        ///< there cannot be one: the folder may not be written
  std::string holder;               ///< otherwise, for messages: "humble-scaffold (process 4711)"
};

}  // namespace hscaffold
