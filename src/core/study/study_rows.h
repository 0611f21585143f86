/// The tables of a study and their rows, for `StudyFile`; all within its transactions.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>

#include <filesystem>
#include <span>

#include "core/study/study_entry.h"

namespace hscaffold {

inline constexpr const char* editsTable =
    "CREATE TABLE edits (id TEXT PRIMARY KEY, kind TEXT NOT NULL, bytes BLOB NOT NULL) WITHOUT ROWID;";

/// What version 4 brought: sheets, and of which one a proof is a cell.
inline constexpr const char* sheetsTable = R"(
CREATE TABLE sheets (number INTEGER PRIMARY KEY AUTOINCREMENT, made TEXT NOT NULL, plan TEXT NOT NULL,
  waiting TEXT NOT NULL);
ALTER TABLE proofs ADD COLUMN sheet INTEGER NOT NULL DEFAULT 0;
ALTER TABLE proofs ADD COLUMN cell INTEGER NOT NULL DEFAULT 0;
ALTER TABLE proofs ADD COLUMN shift REAL;
)";

/// What version 5 brought: which proofs are cells, without reading past their pictures.
inline constexpr const char* cellsIndex = "CREATE INDEX proof_cells ON proofs (number, sheet, cell, shift);";

/// Of the newest version, and its mark.
void makeTables(SQLite::Database& sql);

/// @throws Problem (badInput) if there is none
Bytes pictureIn(SQLite::Database& sql, const std::filesystem::path& path, const std::string& source);
/// @param what  "png" or "thumbnail". @throws Problem (badInput) if there is no such proof
Bytes ofProof(SQLite::Database& sql, const std::filesystem::path& path, const char* what, std::int64_t number);

/// What is there of the same name is the same.
void insertWork(SQLite::Database& sql, std::span<const WorkPart> parts, std::span<const PictureFile> pictures);
/// @return its number
std::int64_t insertProof(SQLite::Database& sql, const ProofRow& proof);
/// A new row, or what changed in one; another sheet that took its number meanwhile stays what it is. @return its number
std::int64_t putSheet(SQLite::Database& sql, const SheetRow& sheet);
/// The settings and their number.
void putSettings(SQLite::Database& sql, const std::string& settings, std::int64_t step);

}  // namespace hscaffold
