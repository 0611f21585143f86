#include "files/study_repair.h"

#include <fmt/format.h>
#include <sqlite3.h>

#include <algorithm>
#include <cstring>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>

#include "core/brief/recipe.h"
#include "core/digest.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/study/study_database.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"
#include "files/study_job.h"

namespace hscaffold {
namespace {

namespace fs = std::filesystem;

/// Files that go away again.
struct Working {
  fs::path path;
  ~Working() {
    std::error_code ignored;
    fs::remove(path, ignored);
    fs::remove(path.string() + "-journal", ignored);
  }
};

/// Row by row out of a table that may be damaged anywhere.
class Table {
 public:
  /// @param key  by which its rows are in order
  Table(SQLite::Database& database, std::string name, std::string key)
      : database_(database), name_(std::move(name)), key_(std::move(key)) {}

  /// All keys that can be reached from the first on, and then from the last back.
  /// @return whether all of the table could be read
  template <typename Key>
  bool reach(std::set<Key>& keys) const {
    if (reachFrom("ASC", keys)) return true;
    reachFrom("DESC", keys);
    return false;
  }

  /// @return whether the row could be read
  template <typename Key>
  bool read(const Key& key, const std::string& columns, const std::function<void(SQLite::Statement&)>& take) const {
    try {
      SQLite::Statement row(database_, fmt::format("SELECT {} FROM {} WHERE {} = ?", columns, name_, key_));
      row.bind(1, key);
      if (!row.executeStep()) return false;
      take(row);
      return true;
    } catch (const SQLite::Exception& error) {
      if ((error.getErrorCode() & 0xff) == SQLITE_FULL) throw;  // nothing of the row's
      return false;
    }
  }

 private:
  template <typename Key>
  bool reachFrom(const char* order, std::set<Key>& keys) const {
    try {
      SQLite::Statement row(database_, fmt::format("SELECT {} FROM {} ORDER BY {} {}", key_, name_, key_, order));
      std::set<Key> now;
      while (row.executeStep()) {
        const Key key = keyIn(row.getColumn(0), Key());
        if (!now.insert(key).second) return false;  // a damaged tree may lead in circles
        keys.insert(key);
      }
      return true;
    } catch (const SQLite::Exception&) {
      return false;
    }
  }
  static std::int64_t keyIn(const SQLite::Column& column, std::int64_t) { return column.getInt64(); }
  static std::string keyIn(const SQLite::Column& column, const std::string&) { return column.getString(); }

  SQLite::Database& database_;
  std::string name_, key_;
};

/// Names of content are its digests; before version 5 pictures had the names of their references.
bool isWhole(const std::string& id, const Bytes& bytes) {
  constexpr std::size_t digestLength = 32;
  return id.size() != digestLength || id == digestOf(std::span<const std::byte>(bytes));
}

bool isJson(const std::string& text) {
  try {
    static_cast<void>(parseJson(text, ""));
    return true;
  } catch (const Problem&) {
    return false;
  }
}

/// Copies what is there from one study into another one that is empty.
class Salvage {
 public:
  Salvage(SQLite::Database& from, SQLite::Database& into) : from_(from), into_(into) {}

  Repaired all() {
    const std::set<std::string> named = pictures();
    pieces();
    sheets();
    proofs();
    settings(named);
    return std::move(report_);
  }

 private:
  /// Every row that can be reached. @param take  whether it was whole and is kept now @return how many were
  template <typename Key, typename Take>
  int each(const Table& table, const char* list, const char* what, const char* columns, const Take& take) {
    std::set<Key> keys;
    if (!table.reach(keys))
      report_.notes.push_back(fmt::format("The list of {} is damaged: some may be missing.", list));
    int kept = 0;
    for (const Key& key : keys) {
      bool taken = false;
      table.read(key, columns, [&](SQLite::Statement& found) { taken = take(key, found); });
      kept += taken ? 1 : 0;
    }
    if (const std::size_t bad = keys.size() - static_cast<std::size_t>(kept); bad > 0)
      report_.notes.push_back(fmt::format("{} of {} could not be read and were left out.", bad, what));
    return kept;
  }

  std::set<std::string> pictures() {
    std::set<std::string> kept;
    each<std::int64_t>(Table(from_, "reference_files", "rowid"), "pictures", "the pictures", "id, bytes",
                       [&](std::int64_t, SQLite::Statement& found) {
                         const std::string id = found.getColumn(0).getString();
                         const Bytes bytes = bytesIn(found.getColumn(1));
                         if (!isWhole(id, bytes)) return false;
                         SQLite::Statement insert(into_, "INSERT OR IGNORE INTO reference_files VALUES (?, ?)");
                         insert.bind(1, id);
                         bindBytes(insert, 2, bytes);
                         insert.exec();
                         kept.insert(id);
                         return true;
                       });
    report_.pictures = static_cast<int>(kept.size());
    return kept;
  }

  void pieces() {
    report_.pieces =
        each<std::string>(Table(from_, "edits", "id"), "hand work", "the pieces of hand work", "kind, bytes",
                          [&](const std::string& id, SQLite::Statement& found) {
                            const Bytes bytes = bytesIn(found.getColumn(1));
                            if (!isWhole(id, bytes)) return false;
                            SQLite::Statement insert(into_, "INSERT OR IGNORE INTO edits VALUES (?, ?, ?)");
                            insert.bind(1, id);
                            insert.bind(2, found.getColumn(0).getString());
                            bindBytes(insert, 3, bytes);
                            insert.exec();
                            return true;
                          });
  }

  void sheets() {
    report_.sheets = each<std::int64_t>(
        Table(from_, "sheets", "number"), "sheets", "the sheets", "made, plan, waiting",
        [&](std::int64_t row, SQLite::Statement& found) {
          const std::string plan = found.getColumn(1).getString();
          if (!isJson(plan)) return false;
          SQLite::Statement insert(into_, "INSERT INTO sheets (number, made, plan, waiting) VALUES (?, ?, ?, ?)");
          insert.bind(1, row);
          insert.bind(2, found.getColumn(0).getString());
          insert.bind(3, plan);
          const std::string waiting = found.getColumn(2).getString();
          insert.bind(4, isJson(waiting) ? waiting : "[]");
          insert.exec();
          return true;
        });
  }

  void proofs() {
    const Table table(from_, "proofs", "number");
    report_.proofs =
        each<std::int64_t>(table, "proofs", "the proofs", "made, milliseconds, recipe, holds, png, thumbnail",
                           [&](std::int64_t row, SQLite::Statement& found) { return takeProof(table, row, found); });
  }

  /// A proof is what its picture is; the picture knows its recipe, too.
  bool takeProof(const Table& table, std::int64_t row, SQLite::Statement& found) {
    const Bytes png = bytesIn(found.getColumn(4));
    std::string recipe = found.getColumn(2).getString();
    try {
      static_cast<void>(decodePng(png));
      if (!isJson(recipe)) recipe = recipeToJson(recipeFromTexts(readPngTexts(png))).dump();
    } catch (const Problem&) {
      return false;
    }
    std::int64_t sheet = 0, cell = 0;
    std::optional<double> shift;
    table.read(row, "sheet, cell, shift", [&](SQLite::Statement& of) {
      sheet = of.getColumn(0).getInt64();
      cell = of.getColumn(1).getInt64();
      if (!of.getColumn(2).isNull()) shift = of.getColumn(2).getDouble();
    });
    SQLite::Statement insert(
        into_,
        "INSERT INTO proofs (number, made, milliseconds, recipe, holds, png, thumbnail, sheet, cell, shift) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
    insert.bind(1, row);
    insert.bind(2, found.getColumn(0).getString());
    insert.bind(3, found.getColumn(1).getDouble());
    insert.bind(4, recipe);
    const std::string holds = found.getColumn(3).getString();
    insert.bind(5, isJson(holds) ? holds : "{}");
    bindBytes(insert, 6, png);
    const Bytes thumbnail = bytesIn(found.getColumn(5));
    bindBytes(insert, 7, thumbnail);
    insert.bind(8, sheet);
    insert.bind(9, cell);
    if (shift) insert.bind(10, *shift);
    insert.exec();
    return true;
  }

  void settings(const std::set<std::string>& pictures) {
    std::string text;
    Table(from_, "settings", "name").read(std::string("study"), "json", [&](SQLite::Statement& found) {
      text = found.getColumn(0).getString();
    });
    if (!isJson(text)) {
      report_.settings = false;
      report_.notes.emplace_back(
          "Its settings cannot be read: guides and brief are lost, its pictures are references.");
      text = stateToJson(stateOf(pictures)).dump();
    }
    SQLite::Statement update(into_, "UPDATE settings SET json = ? WHERE name = 'study'");
    update.bind(1, text);
    update.exec();
  }

  StudyState stateOf(const std::set<std::string>& pictures) {
    StudyState state;
    state.title = "Brought back";
    for (const std::string& id : pictures) {
      SQLite::Statement row(into_, "SELECT bytes FROM reference_files WHERE id = ?");
      row.bind(1, id);
      if (!row.executeStep()) continue;
      try {
        const auto file = pictureFile(bytesIn(row.getColumn(0)));
        const std::string name = fmt::format("Picture {}", state.references.size() + 1);
        addReference(state, {id, file.bytes}, decodePicture(*file.bytes, name).picture.size(), name);
      } catch (const Problem& problem) {
        report_.notes.emplace_back(problem.what());
      }
    }
    return state;
  }

  SQLite::Database &from_, &into_;
  Repaired report_;
};

/// A copy of the damaged study to read from; where its head is not one, it gets that of a study.
void copyForReading(const fs::path& in, const fs::path& to, const fs::path& sound) {
  std::error_code error;
  if (!fs::is_regular_file(in, error)) throw badInput("Could not open " + in.string() + ": there is no such file.");
  fs::copy_file(in, to, fs::copy_options::overwrite_existing, error);
  if (error) throw failed("Could not copy " + in.string() + ": " + error.message() + ".");
  fs::copy_file(in.string() + "-journal", to.string() + "-journal", fs::copy_options::overwrite_existing, error);
  if (std::string aside = setForeignJournalAside(to); aside.empty() && error)
    fs::remove(to.string() + "-journal", error);
  constexpr std::size_t headLength = 100, pageSize = 4096, pages = 28, freePages = 32;
  Bytes bytes = readWholeFile(to);
  constexpr const char* mark = "SQLite format 3";
  if (bytes.size() >= pageSize && std::memcmp(bytes.data(), mark, std::strlen(mark) + 1) != 0) {
    const Bytes good = readWholeFile(sound);
    std::copy_n(good.begin(), headLength, bytes.begin());
    const auto put = [&](std::size_t at, std::size_t value) {
      for (std::size_t i = 0; i < 4; ++i) bytes[at + i] = static_cast<std::byte>(value >> (8 * (3 - i)) & 0xff);
    };
    put(pages, bytes.size() / pageSize);
    put(freePages, 0);
    put(freePages + 4, 0);
    writeFileAtomically(to, bytes);
  }
}

}  // namespace

Repaired repairStudy(const fs::path& in, const fs::path& out) {
  std::error_code error;
  if (fs::exists(fs::symlink_status(out, error)))
    throw badInput(out.string() + " is there already. Choose another name.");
  const Working making{besides(out)}, reading{fs::path(besides(out).string() + ".read")};
  StudyFile::create(making.path, {});
  copyForReading(in, reading.path, making.path);
  Repaired report;
  try {
    const auto from = openDatabase(reading.path, SQLite::OPEN_READWRITE);
    // What its trees say wrongly is met row by row.
    from->exec("PRAGMA cell_size_check = ON; PRAGMA trusted_schema = OFF;");
    const auto into = openDatabase(making.path, SQLite::OPEN_READWRITE);
    SQLite::Transaction transaction(*into);
    report = Salvage(*from, *into).all();
    transaction.commit();
  } catch (const SQLite::Exception& problem) {
    throw problemOf(problem, in);
  }
  if (report.pictures + report.pieces + report.proofs + report.sheets == 0 && !report.settings)
    throw badInput("Nothing of a study can be read in " + in.string() + ". It was not changed.");
  {
    const auto made = StudyFile::open(making.path);
    static_cast<void>(made.proofs());
    report.notes.insert(report.notes.end(), made.mended().begin(), made.mended().end());
  }
  if (!putInPlace(making.path, out, false)) throw badInput(out.string() + " is there already. Choose another name.");
  return report;
}

}  // namespace hscaffold
