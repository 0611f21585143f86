/// Who works on a study: one program at a time, told by a lock file beside it, and by one that is named after the file
/// itself (device and inode), whatever path leads there: links of both kinds come to the same study.
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
  /// The study's file has been made, or another one has come in its place: that one is held as well.
  void follow(const std::filesystem::path& study);

 private:
  StudyLock(std::unique_ptr<QLockFile> beside, std::unique_ptr<QLockFile> itself);
  std::unique_ptr<QLockFile> beside_, itself_;
};

struct StudyLock::Taken {
  std::unique_ptr<StudyLock> lock;  ///< null if another program holds it, or there cannot be one here
  bool folderClosed = false;        ///< there cannot be one: the folder may not be written
  std::string holder;  ///< otherwise, for messages: "humble-scaffold (process 4711)", "... on HOST" elsewhere
};

}  // namespace hscaffold
