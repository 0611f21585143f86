/// What `StudyFile` needs of SQLite: opening, what SQLite says in words for the artist, and putting finished files in
/// their places.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>

#include <filesystem>
#include <memory>

#include "core/problem.h"

namespace hscaffold {

Problem problemOf(const SQLite::Exception& error, const std::filesystem::path& path);

/// @throws Problem
std::unique_ptr<SQLite::Database> openDatabase(const std::filesystem::path& path, int flags);
std::int64_t pragma(const SQLite::Database& database, const char* name);

/// A name for a file in the making, beside the one that it will replace; what programs that died left there is swept
/// away.
std::filesystem::path besides(const std::filesystem::path& path);
/// Puts a finished database in its place, safe on the disk when this returns. A journal that another file left under
/// that name would be played into it: it is dealt with first.
/// @param replace  otherwise a file that is there stays, and `false` comes back. @throws Problem
bool putInPlace(const std::filesystem::path& from, const std::filesystem::path& to, bool replace);

}  // namespace hscaffold
