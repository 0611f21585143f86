#include "files/study_lock.h"

#include <fmt/format.h>

#include <sys/stat.h>
#include <unistd.h>

#include <QDir>
#include <QLockFile>
#include <QSysInfo>

#include "core/problem.h"

namespace hscaffold {
namespace {

std::unique_ptr<QLockFile> lockFile(const QString& path) {
  auto file = std::make_unique<QLockFile>(path);
  // Held as long as its program lives, however long that is.
  file->setStaleLockTime(0);
  return file;
}

std::unique_ptr<QLockFile> lockFileBeside(const std::filesystem::path& study) {
  std::error_code error;
  // The same file by another way is the same study.
  auto whole = std::filesystem::weakly_canonical(study, error);
  if (error) whole = study;
  return lockFile(QString::fromStdString(whole.string() + ".lock"));
}

/// Null where there is no such file yet: the one beside the study then has to do.
std::unique_ptr<QLockFile> lockFileOfItself(const std::filesystem::path& study) {
  struct stat there {};
  if (::stat(study.c_str(), &there) != 0) return nullptr;
  return lockFile(QString("%1/humble-scaffold-%2-%3-%4.lock")
                      .arg(QDir::tempPath())
                      .arg(::getuid())
                      .arg(there.st_dev, 0, 16)
                      .arg(there.st_ino));
}

std::string holderOf(const QLockFile& file) {
  qint64 process = 0;
  QString host, program;
  if (!file.getLockInfo(&process, &host, &program)) return "another program";
  const std::string name = program.isEmpty() ? std::string("another program") : program.toStdString();
  if (host.isEmpty() || host == QSysInfo::machineHostName()) return fmt::format("{} (process {})", name, process);
  return fmt::format("{} on the machine {}", name, host.toStdString());
}

}  // namespace

StudyLock::StudyLock(std::unique_ptr<QLockFile> beside, std::unique_ptr<QLockFile> itself)
    : beside_(std::move(beside)), itself_(std::move(itself)) {}
StudyLock::~StudyLock() = default;

StudyLock::Taken StudyLock::take(const std::filesystem::path& study, int milliseconds) {
  Taken out;
  auto beside = lockFileBeside(study), itself = lockFileOfItself(study);
  // The lock file itself says why: who holds it may let go of it at this moment, and then nobody would be found.
  if (!beside->tryLock(milliseconds)) {
    if (beside->error() == QLockFile::LockFailedError)
      out.holder = holderOf(*beside);
    else
      out.folderClosed = true;
    return out;
  }
  if (itself && !itself->tryLock(milliseconds)) {
    if (itself->error() == QLockFile::LockFailedError) {
      out.holder = holderOf(*itself);
      return out;
    }
    itself.reset();
  }
  out.lock.reset(new StudyLock(std::move(beside), std::move(itself)));
  return out;
}

void StudyLock::follow(const std::filesystem::path& study) {
  auto itself = lockFileOfItself(study);
  if (!itself || (itself_ && itself_->fileName() == itself->fileName())) return;
  itself_ = itself->tryLock(0) ? std::move(itself) : nullptr;
}

std::unique_ptr<StudyLock> StudyLock::takeOrSay(const std::filesystem::path& study, int milliseconds) {
  if (!std::filesystem::exists(study)) return nullptr;  // opening it says so
  auto taken = take(study, milliseconds);
  // In a folder that may not be written, writing the study will say more.
  if (taken.lock || taken.folderClosed) return std::move(taken.lock);
  throw failed(fmt::format("{} is open in {}. Close it there, or work on a copy.", study.string(), taken.holder));
}

}  // namespace hscaffold
