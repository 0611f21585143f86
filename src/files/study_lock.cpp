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

std::unique_ptr<StudyLock> StudyLock::take(const std::filesystem::path& study, int milliseconds) {
  auto file = lockFileFor(study);
  if (!file->tryLock(milliseconds)) return nullptr;
  return std::unique_ptr<StudyLock>(new StudyLock(std::move(file)));
}

std::string StudyLock::holder(const std::filesystem::path& study) {
  qint64 process = 0;
  QString host, program;
  if (!lockFileFor(study)->getLockInfo(&process, &host, &program)) return {};
  return fmt::format("{} (process {})", program.isEmpty() ? std::string("another program") : program.toStdString(),
                     process);
}

std::unique_ptr<StudyLock> StudyLock::takeOrSay(const std::filesystem::path& study, int milliseconds) {
  if (!std::filesystem::exists(study)) return nullptr;  // opening it says so
  auto lock = take(study, milliseconds);
  if (lock) return lock;
  const std::string who = holder(study);
  if (who.empty()) return nullptr;  // the folder may not be written; writing the study will say more
  throw failed(fmt::format("{} is open in {}. Close it there, or work on a copy.", study.string(), who));
}

}  // namespace hscaffold
