#include "core/study/study_database.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstring>

namespace hscaffold {
namespace {

constexpr int longestWaitForOthers = 2000;  ///< milliseconds

/// Brings what was written to the disk for good.
void sync(const std::filesystem::path& path, int flags) {
  const int file = ::open(path.string().c_str(), flags | O_CLOEXEC);
  if (file < 0) return;
  const int result = ::fsync(file), error = errno;
  ::close(file);
  if (result != 0 && error != EINVAL)
    throw failed("Could not write " + path.string() + ": " + std::strerror(error) + ".");
}

/// The study that is there gets back what an interrupted program left in its journal; then no journal is left.
void settleJournal(const std::filesystem::path& path) {
  std::error_code error;
  const std::filesystem::path journal = path.string() + "-journal";
  if (!std::filesystem::exists(journal, error)) return;
  try {
    SQLite::Database database(path.string(), SQLite::OPEN_READWRITE, longestWaitForOthers);
    SQLite::Statement(database, "SELECT count(*) FROM sqlite_master").executeStep();
  } catch (const SQLite::Exception&) {
    // No study, or not its journal.
  }
  std::filesystem::remove(journal, error);
}

}  // namespace

Problem problemOf(const SQLite::Exception& error, const std::filesystem::path& path) {
  const std::string name = path.string();
  switch (error.getErrorCode() & 0xff) {
    case SQLITE_NOTADB:
      return badInput(name + " is not a study. It was not changed.");
    case SQLITE_CORRUPT:
      return badInput(name + " is damaged and cannot be opened. It was not changed; try a copy or a backup.");
    case SQLITE_CANTOPEN:
      return badInput("Could not open " + name + ": check that it is there and may be read.");
    case SQLITE_READONLY:
    case SQLITE_PERM:
      return failed(name + " may not be written. Save the study under another name.");
    case SQLITE_FULL:
    case SQLITE_IOERR:
      return failed("Could not write to " + name + ": the disk is full or failing. What was saved before is safe.");
    case SQLITE_BUSY:
    case SQLITE_LOCKED:
      return failed(name + " is in use by another window or program. Close it there first.");
    default:
      return failed(fmt::format("{}: {}.", name, error.what()));
  }
}

std::unique_ptr<SQLite::Database> openDatabase(const std::filesystem::path& path, int flags) {
  try {
    return std::make_unique<SQLite::Database>(path.string(), flags | SQLite::OPEN_NOMUTEX, longestWaitForOthers);
  } catch (const SQLite::Exception& error) {
    throw problemOf(error, path);
  }
}

std::int64_t pragma(const SQLite::Database& database, const char* name) {
  SQLite::Statement statement(database, fmt::format("PRAGMA {}", name));
  return statement.executeStep() ? statement.getColumn(0).getInt64() : 0;
}

std::filesystem::path besides(const std::filesystem::path& path) {
  const std::string begins = fmt::format(".{}.", path.filename().string());
  const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with(begins)) continue;
    const std::string rest = name.substr(begins.size());
    const auto dot = rest.find(".new");
    int process = 0;
    const auto [end, wrong] = std::from_chars(rest.data(), rest.data() + std::min(dot, rest.size()), process);
    const bool isOurs = dot != std::string::npos && wrong == std::errc{} && end == rest.data() + dot &&
                        (rest.substr(dot) == ".new" || rest.substr(dot) == ".new-journal");
    if (isOurs && process != ::getpid() && ::kill(process, 0) != 0 && errno == ESRCH)
      std::filesystem::remove(entry.path(), error);
  }
  return folder / fmt::format("{}{}.new", begins, ::getpid());
}

bool putInPlace(const std::filesystem::path& from, const std::filesystem::path& to, bool replace) {
  sync(from, O_RDWR);
  if (replace) settleJournal(to);
  const auto flags = replace ? 0U : static_cast<unsigned>(RENAME_NOREPLACE);
  int error = ::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), flags) == 0 ? 0 : errno;
  if (error == EINVAL && !replace) {
    // A file system that cannot do this in one go: a second name does not replace either.
    error = ::link(from.c_str(), to.c_str()) == 0 ? 0 : errno;
    if (error == 0) ::unlink(from.c_str());
  }
  if (error != 0) {
    std::error_code ignored;
    std::filesystem::remove(from, ignored);
    if (error == EEXIST && !replace) return false;
    throw failed("Could not write " + to.string() + ": " + std::strerror(error) + ".");
  }
  sync(to.has_parent_path() ? to.parent_path() : std::filesystem::path("."), O_RDONLY | O_DIRECTORY);
  return true;
}

}  // namespace hscaffold
