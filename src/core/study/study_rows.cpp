#include "core/study/study_rows.h"

#include <fmt/format.h>

#include <random>

#include "core/study/study_database.h"

namespace hscaffold {
namespace {

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

/// A mark of its own on the first page, by which a journal is known to be this study's.
std::string markTable() {
  return fmt::format("CREATE VIEW mark AS SELECT '{:08x}{:08x}'", std::random_device()(), std::random_device()());
}

void put(SQLite::Database& sql, const PictureFile& picture) {
  // Named by content: what is there is the same.
  SQLite::Statement insert(sql, "INSERT OR IGNORE INTO reference_files VALUES (?, ?)");
  insert.bind(1, picture.content);
  bindBytes(insert, 2, *picture.bytes);
  insert.exec();
}

}  // namespace

void makeTables(SQLite::Database& sql) {
  for (const char* tables : {schema, editsTable, sheetsTable, cellsIndex}) sql.exec(tables);
  sql.exec(markTable());
}

Bytes pictureIn(SQLite::Database& sql, const std::filesystem::path& path, const std::string& source) {
  SQLite::Statement statement(sql, "SELECT bytes FROM reference_files WHERE id = ?");
  statement.bind(1, source);
  if (!statement.executeStep()) throw badInput(path.string() + ": the picture " + source + " is missing.");
  return bytesIn(statement.getColumn(0));
}

/// @param what  "png" or "thumbnail"
Bytes ofProof(SQLite::Database& sql, const std::filesystem::path& path, const char* what, std::int64_t number) {
  SQLite::Statement statement(sql, fmt::format("SELECT {} FROM proofs WHERE number = ?", what));
  statement.bind(1, number);
  if (!statement.executeStep()) throw badInput(fmt::format("{}: there is no proof {}.", path.string(), number));
  return bytesIn(statement.getColumn(0));
}

void insertWork(SQLite::Database& sql, std::span<const WorkPart> parts, std::span<const PictureFile> pictures) {
  for (const WorkPart& part : parts) {
    SQLite::Statement insert(sql, "INSERT OR IGNORE INTO edits VALUES (?, ?, ?)");
    insert.bind(1, part.id);
    insert.bind(2, part.kind);
    bindBytes(insert, 3, part.bytes);
    insert.exec();
  }
  for (const PictureFile& picture : pictures) put(sql, picture);
}

std::int64_t insertProof(SQLite::Database& sql, const ProofRow& proof) {
  SQLite::Statement statement(
      sql,
      "INSERT INTO proofs (number, made, milliseconds, recipe, holds, png, thumbnail, sheet, cell, shift) "
      "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
  if (proof.number > 0) statement.bind(1, proof.number);
  statement.bind(2, proof.made);
  statement.bind(3, proof.milliseconds);
  statement.bind(4, proof.recipe);
  statement.bind(5, proof.holds);
  bindBytes(statement, 6, proof.png);
  bindBytes(statement, 7, proof.thumbnail);
  statement.bind(8, proof.sheet);
  statement.bind(9, proof.cell);
  if (proof.shift) statement.bind(10, *proof.shift);
  statement.exec();
  return static_cast<std::int64_t>(sql.getLastInsertRowid());
}

std::int64_t putSheet(SQLite::Database& sql, const SheetRow& sheet) {
  SQLite::Statement statement(
      sql,
      "INSERT INTO sheets (number, made, plan, waiting) VALUES (?, ?, ?, ?) ON CONFLICT (number) DO UPDATE SET "
      "plan = excluded.plan, waiting = excluded.waiting WHERE made = excluded.made");
  if (sheet.number > 0) statement.bind(1, sheet.number);
  statement.bind(2, sheet.made);
  statement.bind(3, sheet.plan);
  statement.bind(4, sheet.waiting);
  statement.exec();
  return sheet.number > 0 ? sheet.number : static_cast<std::int64_t>(sql.getLastInsertRowid());
}

void putSettings(SQLite::Database& sql, const std::string& settings, std::int64_t step) {
  for (const auto& [name, text] : {std::pair{"study", settings}, {"written", std::to_string(step)}}) {
    SQLite::Statement statement(sql, "INSERT OR REPLACE INTO settings VALUES (?, ?)");
    statement.bind(1, name);
    statement.bind(2, text);
    statement.exec();
  }
}

}  // namespace hscaffold
