#include "files/study_lock.h"

#include <fmt/format.h>

#include <QLockFile>

#include "core/problem.h"

namespace hscaffold {
namespace {

std::unique_ptr<QLockFile> lockFileFor(const std::filesystem::path& study) {
  std::error_code error;
  // The same file by another way is the same study.
  auto whole = std::filesystem::weakly_canonical(study, error);
  if (error) whole = study;
  auto file = std::make_unique<QLockFile>(QString::fromStdString(whole.string() + ".lock"));
  // Held as long as its program lives, however long that is.
  file->setStaleLockTime(0);
  return file;
}

}  // namespace

StudyLock::StudyLock(std::unique_ptr<QLockFile> file) : file_(std::move(file)) {}
StudyLock::~StudyLock() = default;

StudyLock::Taken StudyLock::take(const std::filesystem::path& study, int milliseconds) {
  Taken out;
  auto file = lockFileFor(study);
  // The lock file itself says why: who holds it may let go of it at this moment, and then nobody would be found.
  if (file->tryLock(milliseconds)) {
    out.lock.reset(new StudyLock(std::move(file)));
  } else if (file->error() != QLockFile::LockFailedError) {
    out.folderClosed = true;
  } else {
    qint64 process = 0;
    QString host, program;
    const bool known = file->getLockInfo(&process, &host, &program);
    out.holder = known
                     ? fmt::format("{} (process {})",
                                   program.isEmpty() ? std::string("another program") : program.toStdString(), process)
                     : std::string("another program");
  }
  return out;
}

std::unique_ptr<StudyLock> StudyLock::takeOrSay(const std::filesystem::path& study, int milliseconds) {
  if (!std::filesystem::exists(study)) return nullptr;  // opening it says so
  auto taken = take(study, milliseconds);
  // In a folder that may not be written, writing the study will say more.
  if (taken.lock || taken.folderClosed) return std::move(taken.lock);
  throw failed(fmt::format("{} is open in {}. Close it there, or work on a copy.", study.string(), taken.holder));
}

}  // namespace hscaffold
