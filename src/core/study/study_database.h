/// What `StudyFile` needs of SQLite: opening, what SQLite says in words for the artist, and putting finished files in
/// their places.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>

#include <filesystem>
#include <memory>
#include <span>
#include <string>

#include "core/image/atomic_file.h"
#include "core/problem.h"

namespace hscaffold {

Problem problemOf(const SQLite::Exception& error, const std::filesystem::path& path);

inline constexpr int longestWaitForOthers = 2000;  ///< milliseconds
/// @throws Problem
std::unique_ptr<SQLite::Database> openDatabase(const std::filesystem::path& path, int flags);
Bytes bytesIn(const SQLite::Column& column);
/// Bound by what owns it, which must outlive the step. An empty one is an empty blob, not NULL.
void bindBytes(SQLite::Statement& statement, int index, std::span<const std::byte> bytes);
std::int64_t pragma(const SQLite::Database& database, const char* name);

/// Whether the pages of a study hold together. Of a large one only those of what is small: the pictures of proofs are
/// most of it, and each says for itself when it is read whether it is whole.
bool holdsTogether(SQLite::Database& database, const std::filesystem::path& path);
/// The same with all pages, however long it takes. @throws Problem (badInput) if it does not
void lookThrough(const std::filesystem::path& path);

/// A transaction that writes. The first page goes into its journal before all others, whatever is written: by that a
/// journal is known to be this study's.
class Writing {
 public:
  explicit Writing(SQLite::Database& database);
  void commit() { transaction_.commit(); }

 private:
  SQLite::Transaction transaction_;
};

/// A journal that lies beside a study and was not made for it would be played into it. It is told by the first page
/// that it has kept: how often that was written, and what it says of the tables. A study in use is left alone.
/// @return what was done, in a sentence; empty if there is none, or it belongs there. @throws Problem
std::string setForeignJournalAside(const std::filesystem::path& study);

/// A name for a file in the making, beside the one that it will replace; what programs that died left there is swept
/// away.
std::filesystem::path besides(const std::filesystem::path& path);
/// Puts a finished database in its place, safe on the disk when this returns. A journal that another file left under
/// that name would be played into it: it is dealt with first.
/// @param replace  otherwise a file that is there stays, and `false` comes back. @throws Problem
bool putInPlace(const std::filesystem::path& from, const std::filesystem::path& to, bool replace);

}  // namespace hscaffold
