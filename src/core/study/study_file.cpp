#include "core/study/study_file.h"

#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <array>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"

namespace hscaffold {
namespace {

constexpr const char* editsTable =
    "CREATE TABLE edits (id TEXT PRIMARY KEY, kind TEXT NOT NULL, bytes BLOB NOT NULL) WITHOUT ROWID;";

/// What version 4 brought: sheets, and of which one a proof is a cell.
constexpr const char* sheetsTable = R"(
CREATE TABLE sheets (number INTEGER PRIMARY KEY AUTOINCREMENT, made TEXT NOT NULL, plan TEXT NOT NULL,
  waiting TEXT NOT NULL);
ALTER TABLE proofs ADD COLUMN sheet INTEGER NOT NULL DEFAULT 0;
ALTER TABLE proofs ADD COLUMN cell INTEGER NOT NULL DEFAULT 0;
ALTER TABLE proofs ADD COLUMN shift REAL;
)";

constexpr const char* schema = R"(
CREATE TABLE settings (name TEXT PRIMARY KEY, json TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE reference_files (id TEXT PRIMARY KEY, bytes BLOB NOT NULL);
CREATE TABLE proofs (
  number INTEGER PRIMARY KEY AUTOINCREMENT,
  made TEXT NOT NULL,
  milliseconds REAL NOT NULL,
  recipe TEXT NOT NULL,
  holds TEXT NOT NULL,
  png BLOB NOT NULL,
  thumbnail BLOB NOT NULL
);
)";

/// What SQLite says, in words for the artist.
Problem problemOf(sqlite3* database, int code, const std::filesystem::path& path) {
  const std::string name = path.string();
  switch (code & 0xff) {
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
      return failed(fmt::format("{}: {}.", name, database != nullptr ? sqlite3_errmsg(database) : "out of memory"));
  }
}

class Statement {
 public:
  Statement(sqlite3* database, const std::filesystem::path& path, const char* sql) : database_(database), path_(path) {
    check(sqlite3_prepare_v2(database, sql, -1, &statement_, nullptr));
  }
  Statement(const Statement&) = delete;
  Statement& operator=(const Statement&) = delete;
  ~Statement() { sqlite3_finalize(statement_); }

  Statement& bind(int index, std::int64_t value) { return check(sqlite3_bind_int64(statement_, index, value)); }
  Statement& bind(int index, double value) { return check(sqlite3_bind_double(statement_, index, value)); }
  Statement& bind(int index, const std::string& value) {
    return check(sqlite3_bind_text64(statement_, index, value.data(), value.size(), SQLITE_TRANSIENT, SQLITE_UTF8));
  }
  Statement& bind(int index, std::span<const std::byte> value) {
    return check(sqlite3_bind_blob64(statement_, index, value.empty() ? "" : static_cast<const void*>(value.data()),
                                     value.size(), SQLITE_TRANSIENT));
  }
  bool step() {
    const int code = sqlite3_step(statement_);
    if (code != SQLITE_ROW && code != SQLITE_DONE) throw problemOf(database_, code, path_);
    return code == SQLITE_ROW;
  }
  Statement& bind(int index, const std::optional<double>& value) {
    return value ? bind(index, *value) : check(sqlite3_bind_null(statement_, index));
  }
  [[nodiscard]] bool none(int column) const { return sqlite3_column_type(statement_, column) == SQLITE_NULL; }
  [[nodiscard]] std::int64_t integer(int column) const { return sqlite3_column_int64(statement_, column); }
  [[nodiscard]] double number(int column) const { return sqlite3_column_double(statement_, column); }
  [[nodiscard]] std::string text(int column) const {
    const auto* data = reinterpret_cast<const char*>(sqlite3_column_text(statement_, column));
    return data != nullptr ? std::string(data, static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)))
                           : std::string();
  }
  [[nodiscard]] Bytes blob(int column) const {
    const auto* data = static_cast<const std::byte*>(sqlite3_column_blob(statement_, column));
    return data != nullptr ? Bytes(data, data + sqlite3_column_bytes(statement_, column)) : Bytes();
  }

 private:
  Statement& check(int code) {
    if (code != SQLITE_OK) throw problemOf(database_, code, path_);
    return *this;
  }
  sqlite3* database_;
  const std::filesystem::path& path_;
  sqlite3_stmt* statement_ = nullptr;
};

void execute(sqlite3* database, const std::filesystem::path& path, const std::string& sql) {
  const int code = sqlite3_exec(database, sql.c_str(), nullptr, nullptr, nullptr);
  if (code != SQLITE_OK) throw problemOf(database, code, path);
}

sqlite3* openDatabase(const std::filesystem::path& path, int flags) {
  sqlite3* database = nullptr;
  const int code =
      sqlite3_open_v2(path.string().c_str(), &database, flags | SQLITE_OPEN_NOMUTEX | SQLITE_OPEN_EXRESCODE, nullptr);
  if (code != SQLITE_OK) {
    const Problem problem = problemOf(database, code, path);
    sqlite3_close(database);
    throw problem;
  }
  sqlite3_busy_timeout(database, 2000);
  return database;
}

std::int64_t pragma(sqlite3* database, const std::filesystem::path& path, const char* name) {
  Statement statement(database, path, fmt::format("PRAGMA {}", name).c_str());
  return statement.step() ? statement.integer(0) : 0;
}

std::filesystem::path besides(const std::filesystem::path& path) {
  return path.parent_path() / fmt::format(".{}.{}.new", path.filename().string(), ::getpid());
}

void moveInto(const std::filesystem::path& from, const std::filesystem::path& to) {
  std::error_code error;
  std::filesystem::rename(from, to, error);
  if (!error) return;
  std::filesystem::remove(from);
  throw failed("Could not write " + to.string() + ": " + error.message() + ".");
}

}  // namespace

StudyFile::StudyFile(std::filesystem::path path, sqlite3* database) : path_(std::move(path)), database_(database) {}
StudyFile::StudyFile(StudyFile&& other) noexcept
    : path_(std::move(other.path_)), database_(std::exchange(other.database_, nullptr)), writable_(other.writable_) {}
StudyFile& StudyFile::operator=(StudyFile&& other) noexcept {
  std::swap(path_, other.path_);
  std::swap(database_, other.database_);
  std::swap(writable_, other.writable_);
  return *this;
}
StudyFile::~StudyFile() { sqlite3_close(database_); }

StudyFile StudyFile::create(const std::filesystem::path& path, const StudyState& state) {
  const auto fresh = besides(path);
  std::filesystem::remove(fresh);
  try {
    StudyFile file(fresh, openDatabase(fresh, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE));
    execute(file.database_, path, "BEGIN IMMEDIATE");
    execute(file.database_, path,
            fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", studyApplicationId, studyVersion));
    execute(file.database_, path, schema);
    execute(file.database_, path, editsTable);
    execute(file.database_, path, sheetsTable);
    Statement insert(file.database_, path, "INSERT INTO settings VALUES ('study', ?)");
    insert.bind(1, stateToJson(state).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace)).step();
    execute(file.database_, path, "COMMIT");
  } catch (...) {
    std::error_code ignored;
    std::filesystem::remove(fresh, ignored);
    throw;
  }
  moveInto(fresh, path);
  return open(path);
}

StudyFile StudyFile::open(const std::filesystem::path& path, Access access) {
  if (std::error_code error; std::filesystem::is_directory(path, error))
    throw badInput(path.string() + " is a folder, not a study.");
  {
    // The header first, with nothing that could write.
    std::ifstream stream(path, std::ios::binary);
    std::array<char, 16> head{};
    if (!stream.read(head.data(), head.size())) {
      if (!std::filesystem::exists(path))
        throw badInput("Could not open " + path.string() + ": there is no such file.");
      throw badInput(path.string() + " is not a study, or may not be read. It was not changed.");
    }
    if (std::string(head.data(), 15) != "SQLite format 3")
      throw badInput(path.string() + " is not a study. It was not changed.");
  }
  const bool writable = access == Access::write && ::access(path.string().c_str(), W_OK) == 0;
  StudyFile file(path, openDatabase(path, writable ? SQLITE_OPEN_READWRITE : SQLITE_OPEN_READONLY));
  file.writable_ = writable;
  if (pragma(file.database_, path, "application_id") != studyApplicationId)
    throw badInput(path.string() + " is a database, but not a study. It was not changed.");
  const auto version = pragma(file.database_, path, "user_version");
  if (version > studyVersion)
    throw badInput(
        fmt::format("{} was made by a newer version (its format is {}, this program knows {}). It was not changed.",
                    path.string(), version, studyVersion));
  {
    Statement check(file.database_, path, "PRAGMA quick_check(1)");
    if (!check.step() || check.text(0) != "ok")
      throw badInput(path.string() + " is damaged and cannot be opened. It was not changed; try a copy or a backup.");
  }
  if (writable) execute(file.database_, path, "PRAGMA synchronous = FULL");
  // Version 3 has no other tables than 2; what is written from now on names hand work in "work".
  if (writable && version < studyVersion)
    execute(file.database_, path,
            fmt::format("BEGIN IMMEDIATE; {} {} PRAGMA user_version = {}; COMMIT;", version < 2 ? editsTable : "",
                        sheetsTable, studyVersion));
  static_cast<void>(file.readState());  // damaged settings are found now rather than later
  return file;
}

StudyState StudyFile::readState() const {
  Statement statement(database_, path_, "SELECT json FROM settings WHERE name = 'study'");
  if (!statement.step()) throw badInput(path_.string() + " is damaged: it has no settings. It was not changed.");
  return stateFromJson(parseJson(statement.text(0), path_.string()));
}

void StudyFile::writeState(const StudyState& state, std::span<const EditPart> edits) {
  execute(database_, path_, "BEGIN IMMEDIATE");
  try {
    for (const EditPart& part : edits) {
      Statement insert(database_, path_, "INSERT OR IGNORE INTO edits VALUES (?, ?, ?)");
      insert.bind(1, part.id).bind(2, part.kind).bind(3, std::span<const std::byte>(part.bytes)).step();
    }
    Statement statement(database_, path_, "UPDATE settings SET json = ? WHERE name = 'study'");
    statement.bind(1, stateToJson(state).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace)).step();
    execute(database_, path_, "COMMIT");
  } catch (...) {
    sqlite3_exec(database_, "ROLLBACK", nullptr, nullptr, nullptr);
    throw;
  }
}

Bytes StudyFile::edit(const std::string& id) const {
  if (pragma(database_, path_, "user_version") < 2) return {};  // an old file that may not be written
  Statement statement(database_, path_, "SELECT bytes FROM edits WHERE id = ?");
  return statement.bind(1, id).step() ? statement.blob(0) : Bytes();
}

void StudyFile::keepEdits(const std::set<std::string>& ids) {
  std::vector<std::string> gone;
  {
    Statement all(database_, path_, "SELECT id FROM edits");
    while (all.step())
      if (!ids.contains(all.text(0))) gone.push_back(all.text(0));
  }
  if (gone.empty()) return;
  execute(database_, path_, "BEGIN IMMEDIATE");
  for (const std::string& id : gone) {
    Statement remove(database_, path_, "DELETE FROM edits WHERE id = ?");
    remove.bind(1, id).step();
  }
  execute(database_, path_, "COMMIT");
}

void StudyFile::addReferenceFile(const std::string& id, std::span<const std::byte> bytes) {
  Statement statement(database_, path_, "INSERT OR IGNORE INTO reference_files VALUES (?, ?)");
  statement.bind(1, id).bind(2, bytes).step();
}

Bytes StudyFile::referenceFile(const std::string& id) const {
  Statement statement(database_, path_, "SELECT bytes FROM reference_files WHERE id = ?");
  if (!statement.bind(1, id).step())
    throw badInput(path_.string() + ": the picture of reference " + id + " is missing.");
  return statement.blob(0);
}

std::int64_t StudyFile::addProof(const ProofInfo& info, std::span<const std::byte> png,
                                 std::span<const std::byte> thumbnailPng) {
  Statement statement(
      database_, path_,
      "INSERT INTO proofs (made, milliseconds, recipe, holds, png, thumbnail, number, sheet, cell, shift) "
      "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
  if (info.number > 0) statement.bind(7, info.number);
  statement.bind(8, info.sheet).bind(9, static_cast<std::int64_t>(info.cell)).bind(10, info.shift);
  statement.bind(1, info.made).bind(2, info.milliseconds).bind(3, recipeToJson(info.recipe).dump());
  statement.bind(4, nlohmann::json(info.holds).dump()).bind(5, png).bind(6, thumbnailPng).step();
  return sqlite3_last_insert_rowid(database_);
}

std::vector<ProofInfo> StudyFile::proofs() const {
  // An old file that may not be written has no sheets.
  const bool sheets = pragma(database_, path_, "user_version") >= 4;
  Statement statement(database_, path_,
                      sheets
                          ? "SELECT number, made, milliseconds, recipe, holds, sheet, cell, shift FROM proofs "
                            "ORDER BY number"
                          : "SELECT number, made, milliseconds, recipe, holds, 0, 0, NULL FROM proofs ORDER BY number");
  std::vector<ProofInfo> all;
  while (statement.step()) {
    ProofInfo info;
    info.number = statement.integer(0);
    info.made = statement.text(1);
    info.milliseconds = statement.number(2);
    info.recipe = recipeFromJson(parseJson(statement.text(3), path_.string()));
    const auto holds = parseJson(statement.text(4), path_.string());
    for (const auto& [id, value] : holds.items())
      if (value.is_number()) info.holds[id] = value.get<double>();
    info.sheet = statement.integer(5);
    info.cell = static_cast<int>(statement.integer(6));
    if (!statement.none(7)) info.shift = statement.number(7);
    all.push_back(std::move(info));
  }
  return all;
}

std::int64_t StudyFile::addSheet(const SheetInfo& info) {
  Statement statement(database_, path_, "INSERT INTO sheets (made, plan, waiting) VALUES (?, ?, ?)");
  statement.bind(1, info.made)
      .bind(2, planToJson(info.plan).dump())
      .bind(3, nlohmann::json(info.waiting).dump())
      .step();
  return sqlite3_last_insert_rowid(database_);
}

std::vector<SheetInfo> StudyFile::sheets() const {
  std::vector<SheetInfo> all;
  if (pragma(database_, path_, "user_version") < 4) return all;
  Statement statement(database_, path_, "SELECT number, made, plan, waiting FROM sheets ORDER BY number");
  while (statement.step()) {
    SheetInfo info;
    info.number = statement.integer(0);
    info.made = statement.text(1);
    const std::string where = fmt::format("{}, sheet {}", path_.string(), info.number);
    info.plan = planFromJson(parseJson(statement.text(2), where), where);
    for (const double cell : numbersFromJson(parseJson(statement.text(3), where), where))
      if (cell >= 0 && cell < info.plan.cells()) info.waiting.push_back(static_cast<int>(cell));
    all.push_back(std::move(info));
  }
  return all;
}

void StudyFile::setWaiting(std::int64_t sheet, std::span<const int> cells) {
  Statement statement(database_, path_, "UPDATE sheets SET waiting = ? WHERE number = ?");
  statement.bind(1, nlohmann::json(cells).dump()).bind(2, sheet).step();
}

Bytes StudyFile::proofPng(std::int64_t number) const {
  Statement statement(database_, path_, "SELECT png FROM proofs WHERE number = ?");
  if (!statement.bind(1, number).step())
    throw badInput(fmt::format("{}: there is no proof {}.", path_.string(), number));
  return statement.blob(0);
}

Bytes StudyFile::proofThumbnail(std::int64_t number) const {
  Statement statement(database_, path_, "SELECT thumbnail FROM proofs WHERE number = ?");
  if (!statement.bind(1, number).step())
    throw badInput(fmt::format("{}: there is no proof {}.", path_.string(), number));
  return statement.blob(0);
}

void StudyFile::copyTo(const std::filesystem::path& path) const {
  const auto fresh = besides(path);
  std::error_code ignored;
  std::filesystem::remove(fresh, ignored);
  try {
    Statement statement(database_, path, "VACUUM INTO ?");
    statement.bind(1, fresh.string()).step();
  } catch (...) {
    std::filesystem::remove(fresh, ignored);
    throw;
  }
  moveInto(fresh, path);
}

}  // namespace hscaffold
