#include "core/study/study_database.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstring>
#include <optional>
#include <span>
#include <vector>

namespace hscaffold {
namespace {

/// Brings what was written to the disk for good.
void sync(const std::filesystem::path& path, int flags) {
  const int file = ::open(path.string().c_str(), flags | O_CLOEXEC);
  if (file < 0) return;
  const int result = ::fsync(file), error = errno;
  ::close(file);
  if (result != 0 && error != EINVAL)
    throw failed("Could not write " + path.string() + ": " + std::strerror(error) + ".");
}

/// A name for a journal that is out of the way.
std::filesystem::path asideOf(const std::filesystem::path& journal) {
  std::error_code error;
  std::filesystem::path out = journal.string() + ".aside";
  for (int i = 2; std::filesystem::exists(std::filesystem::symlink_status(out, error)); ++i)
    out = fmt::format("{}.aside{}", journal.string(), i);
  return out;
}

/// The study that is there gets back what an interrupted program left in its journal; then no journal is left. One
/// without its study is set aside.
void settleJournal(const std::filesystem::path& path) {
  std::error_code error;
  const std::filesystem::path journal = path.string() + "-journal";
  if (!std::filesystem::exists(journal, error)) return;
  if (!std::filesystem::exists(path, error)) return std::filesystem::rename(journal, asideOf(journal), error);
  try {
    setForeignJournalAside(path);
    SQLite::Database database(path.string(), SQLite::OPEN_READWRITE, longestWaitForOthers);
    SQLite::Statement(database, "SELECT count(*) FROM sqlite_master").executeStep();
  } catch (const SQLite::Exception&) {
    // No study, or not its journal.
  } catch (const Problem&) {
    // The same.
  }
  std::filesystem::remove(journal, error);
}

/// An open file, read at places.
class Reading {
 public:
  explicit Reading(const std::filesystem::path& path) : file_(::open(path.c_str(), O_RDONLY | O_CLOEXEC)) {}
  Reading(const Reading&) = delete;
  Reading& operator=(const Reading&) = delete;
  ~Reading() {
    if (file_ >= 0) ::close(file_);
  }
  /// @return whether all of it was there
  bool at(std::int64_t from, std::span<unsigned char> into) const {
    return file_ >= 0 && ::pread(file_, into.data(), into.size(), from) == static_cast<ssize_t>(into.size());
  }
  /// Whether another program reads or writes this database now (SQLite's own locks: "File Locking And Concurrency").
  [[nodiscard]] bool inUse() const {
    struct flock lock {};
    constexpr off_t pending = 0x40000000;
    lock.l_type = F_WRLCK;
    lock.l_whence = SEEK_SET;
    lock.l_start = pending;
    lock.l_len = 2 + 510;
    return file_ >= 0 && ::fcntl(file_, F_GETLK, &lock) == 0 && lock.l_type != F_UNLCK;
  }

 private:
  int file_;
};

std::uint32_t wordAt(std::span<const unsigned char> bytes, std::size_t at) {
  return std::uint32_t{bytes[at]} << 24 | std::uint32_t{bytes[at + 1]} << 16 | std::uint32_t{bytes[at + 2]} << 8 |
         bytes[at + 3];
}

/// What a journal has kept (SQLite, "Database File Format", The Rollback Journal).
struct Kept {
  std::uint32_t pages = 0;           ///< of the study, before its program began
  std::vector<unsigned char> first;  ///< its first page; empty if that was not kept
};
std::optional<Kept> keptIn(const Reading& journal) {
  constexpr std::array<unsigned char, 8> mark = {0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7};
  constexpr std::size_t headLength = 28;
  std::array<unsigned char, headLength> head{};
  const auto isHead = [&](std::int64_t at) {
    return journal.at(at, head) && std::equal(mark.begin(), mark.end(), head.begin());
  };
  if (!isHead(0)) return {};
  Kept out{wordAt(head, 16), {}};
  const std::uint32_t sector = wordAt(head, 20), page = wordAt(head, 24);
  constexpr std::uint32_t leastPage = 512, mostPage = 65536;
  if (page < leastPage || page > mostPage || (page & (page - 1)) != 0 || sector < headLength || sector > mostPage)
    return {};
  // In parts, each with a head of its own; the last one may not know yet how much is in it.
  for (std::int64_t at = 0; isHead(at);) {
    const std::uint32_t records = wordAt(head, 8);
    at += sector;
    std::array<unsigned char, 4> number{};
    for (std::uint32_t i = 0; (i < records || records == 0) && journal.at(at, number); ++i, at += page + 8)
      if (wordAt(number, 0) == 1) {
        out.first.resize(page);
        if (!journal.at(at + 4, out.first)) out.first.clear();
        return out;
      }
    at = (at + sector - 1) / sector * sector;
  }
  return out;
}

/// Whether a page may be the first page of `now`'s study, before it was changed once or not at all.
bool mayComeBefore(std::span<const unsigned char> before, std::span<const unsigned char> now) {
  constexpr std::size_t size = 16, counter = 24, cookie = 40, tables = 100;
  if (before[size] != now[size] || before[size + 1] != now[size + 1]) return false;
  const std::uint32_t was = wordAt(before, counter), is = wordAt(now, counter);
  if (is == was) return std::equal(before.begin(), before.end(), now.begin());
  if (is != was + 1) return false;
  // Tables are said there, and each study's own mark: they change with the cookie only.
  return wordAt(before, cookie) != wordAt(now, cookie) ||
         std::equal(before.begin() + tables, before.end(), now.begin() + tables);
}

/// Whether the file system of a folder keeps locks of files; true where that cannot be told. Asked of a file of its
/// own: closing a study that is open would let go of this program's locks on it.
bool keepsLocks(const std::filesystem::path& folder) {
  std::string name = (folder.empty() ? std::filesystem::path(".") : folder) / ".locks-XXXXXX";
  const int file = ::mkstemp(name.data());
  if (file < 0) return true;
  ::unlink(name.c_str());
  struct flock wanted {};
  wanted.l_type = F_WRLCK;
  wanted.l_whence = SEEK_SET;
  const bool kept = ::fcntl(file, F_SETLK, &wanted) == 0 || (errno != ENOLCK && errno != ENOSYS && errno != EOPNOTSUPP);
  ::close(file);
  return kept;
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
      if (!keepsLocks(path.parent_path()))
        return failed(
            name +
            ": the file system of this folder keeps no locks, and two programs could spoil a study there. Keep "
            "it in another folder.");
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

namespace {

bool passes(SQLite::Database& database, const std::string& what) {
  SQLite::Statement check(database, fmt::format("PRAGMA quick_check({})", what));
  return check.executeStep() && check.getColumn(0).getString() == "ok";
}

}  // namespace

bool holdsTogether(SQLite::Database& database, const std::filesystem::path& path) {
  constexpr std::uintmax_t large = std::uintmax_t{128} << 20;  // bytes; a fifth of a second where nothing was read yet
  std::error_code error;
  if (std::filesystem::file_size(path, error) < large) return passes(database, "1");
  SQLite::Statement tables(database, "SELECT name FROM sqlite_master WHERE type = 'table' AND name <> 'proofs'");
  while (tables.executeStep())
    if (!passes(database, "'" + tables.getColumn(0).getString() + "'")) return false;
  return true;
}

void lookThrough(const std::filesystem::path& path) {
  try {
    if (passes(*openDatabase(path, SQLite::OPEN_READONLY), "1")) return;
  } catch (const SQLite::Exception& error) {
    throw problemOf(error, path);
  }
  throw badInput(path.string() + " is damaged: \"hscaffold study repair\" brings back what can be read.");
}

Writing::Writing(SQLite::Database& database) : transaction_(database, SQLite::TransactionBehavior::IMMEDIATE) {
  database.exec(fmt::format("PRAGMA user_version = {}", pragma(database, "user_version")));
}

std::int64_t pragma(const SQLite::Database& database, const char* name) {
  SQLite::Statement statement(database, fmt::format("PRAGMA {}", name));
  return statement.executeStep() ? statement.getColumn(0).getInt64() : 0;
}

Bytes bytesIn(const SQLite::Column& column) {
  const auto* data = static_cast<const std::byte*>(column.getBlob());
  return data != nullptr ? Bytes(data, data + column.getBytes()) : Bytes();
}

void bindBytes(SQLite::Statement& statement, int index, std::span<const std::byte> bytes) {
  statement.bindNoCopy(index, bytes.empty() ? static_cast<const void*>("") : bytes.data(),
                       static_cast<int>(bytes.size()));
}

std::string setForeignJournalAside(const std::filesystem::path& study) {
  const std::filesystem::path path = study.string() + "-journal";
  std::error_code error;
  if (!std::filesystem::exists(path, error)) return {};
  {
    const Reading journal(path), file(study);
    const auto kept = keptIn(journal);
    // What cannot be judged is SQLite's to deal with.
    if (!kept || file.inUse()) return {};
    constexpr std::size_t headLength = 100, pages = 28;
    std::vector<unsigned char> now(std::max(headLength, kept->first.size()));
    if (!file.at(0, now)) return {};
    // A first page that was not kept was not changed either.
    const bool belongs = kept->first.empty() ? wordAt(now, pages) == kept->pages : mayComeBefore(kept->first, now);
    if (belongs) return {};
  }
  const auto aside = asideOf(path);
  if (::rename(path.c_str(), aside.c_str()) != 0)
    throw failed(
        fmt::format("Beside {} lies the journal of another study, {}, and it cannot be set aside: {}. Take it "
                    "away, or copy the study elsewhere.",
                    study.string(), path.string(), std::strerror(errno)));
  return fmt::format(
      "Beside {} lay the journal of another study, from a program that was interrupted. Nothing of it "
      "came in here; it was set aside as {}.",
      study.string(), aside.filename().string());
}

std::filesystem::path besides(const std::filesystem::path& path) {
  const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
    // ".NAME.PROCESS.new", and its journal.
    std::string name = entry.path().filename().string();
    if (!name.starts_with('.')) continue;
    if (name.ends_with("-journal")) name.resize(name.size() - std::strlen("-journal"));
    if (!name.ends_with(".new")) continue;
    name.resize(name.size() - std::strlen(".new"));
    const auto dot = name.rfind('.');
    int process = 0;
    const auto [end, wrong] = std::from_chars(name.data() + dot + 1, name.data() + name.size(), process);
    const bool isOurs = dot > 0 && wrong == std::errc{} && end == name.data() + name.size() && process > 0;
    if (isOurs && process != ::getpid() && ::kill(process, 0) != 0 && errno == ESRCH)
      std::filesystem::remove(entry.path(), error);
  }
  // Long names leave no room for more.
  constexpr std::size_t longest = 160;
  return folder / fmt::format(".{}.{}.new", path.filename().string().substr(0, longest), ::getpid());
}

bool putInPlace(const std::filesystem::path& from, const std::filesystem::path& to, bool replace) {
  sync(from, O_RDWR);
  settleJournal(to);
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
