#include "files/study_lock.h"

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <QDir>
#include <QFile>
#include <QLockFile>
#include <QSysInfo>
#include <cstdlib>
#include <ctime>

#include "core/problem.h"
#include "core/study/study_notes.h"

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
  const std::string identity = identityOf(study);
  if (identity.empty()) return nullptr;
  return lockFile(QString("%1/humble-scaffold-%2-%3.lock")
                      .arg(QDir::tempPath())
                      .arg(::getuid())
                      .arg(QString::fromStdString(identity)));
}

/// Takes away the lock file of a program that was killed between making it and saying in it who it is; whoever is alive
/// holds it for itself (flock). @return whether it did
bool takenAwayHalfMade(const QString& name) {
  constexpr std::time_t settled = 2;  // seconds
  const int file = ::open(QFile::encodeName(name).constData(), O_RDONLY | O_CLOEXEC);
  if (file < 0) return false;
  struct stat there {};
  const bool halfMade = ::fstat(file, &there) == 0 && there.st_size == 0 &&
                        std::abs(std::time(nullptr) - there.st_mtime) >= settled &&
                        ::flock(file, LOCK_EX | LOCK_NB) == 0;
  const bool gone = halfMade && ::unlink(QFile::encodeName(name).constData()) == 0;
  ::close(file);
  return gone;
}

bool isTaken(QLockFile& file, int milliseconds) {
  if (file.tryLock(milliseconds)) return true;
  return file.error() == QLockFile::LockFailedError && takenAwayHalfMade(file.fileName()) && file.tryLock(0);
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
  if (!isTaken(*beside, milliseconds)) {
    if (beside->error() == QLockFile::LockFailedError)
      out.holder = holderOf(*beside);
    else
      out.folderClosed = true;
    return out;
  }
  if (itself && !isTaken(*itself, milliseconds)) {
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
  itself_ = isTaken(*itself, 0) ? std::move(itself) : nullptr;
}

std::unique_ptr<StudyLock> StudyLock::takeOrSay(const std::filesystem::path& study, int milliseconds) {
  if (!std::filesystem::exists(study)) return nullptr;  // opening it says so
  auto taken = take(study, milliseconds);
  // In a folder that may not be written, writing the study will say more.
  if (taken.lock || taken.folderClosed) return std::move(taken.lock);
  throw failed(fmt::format("{} is open in {}. Close it there, or work on a copy.", study.string(), taken.holder));
}

}  // namespace hscaffold
