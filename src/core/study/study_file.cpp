#include "core/study/study_file.h"

#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/brief/recipe_reader.h"
#include "core/guides/json_fields.h"
#include "core/image/parallel.h"
#include "core/study/study_database.h"
#include "core/study/study_notes.h"
#include "core/study/study_rows.h"

namespace hscaffold {
namespace {

constexpr int slowDisk = 30'000;  ///< milliseconds for which who reads waits for who writes: the disk may take long

/// Reads by a connection of its own.
template <typename Call>
Bytes elsewhere(const std::filesystem::path& path, Call&& call) {
  try {
    const auto database = openDatabase(path, SQLite::OPEN_READONLY);
    database->setBusyTimeout(slowDisk);
    return call(*database);
  } catch (const SQLite::Exception& error) {
    throw problemOf(error, path);
  }
}

/// Says before anything is opened what is plainly no study.
void lookAtHead(const std::filesystem::path& path) {
  if (std::error_code error; std::filesystem::is_directory(path, error))
    throw badInput(path.string() + " is a folder, not a study.");
  std::ifstream stream(path, std::ios::binary);
  std::array<char, 16> head{};
  if (!stream.read(head.data(), head.size())) {
    if (!std::filesystem::exists(path)) throw badInput("Could not open " + path.string() + ": there is no such file.");
    throw badInput(path.string() + " is not a study, or may not be read. It was not changed.");
  }
  if (std::string(head.data(), 15) != "SQLite format 3")
    throw badInput(path.string() + " is not a study. It was not changed.");
}

}  // namespace

struct StudyFile::Database {
  std::unique_ptr<SQLite::Database> sql;
};

StudyFile::StudyFile(std::filesystem::path path, std::unique_ptr<Database> database, bool writable)
    : path_(std::move(path)), database_(std::move(database)), writable_(writable) {}
StudyFile::StudyFile(StudyFile&&) noexcept = default;
StudyFile& StudyFile::operator=(StudyFile&&) noexcept = default;
StudyFile::~StudyFile() = default;

/// What SQLite throws in the call, in words for the artist.
template <typename Call>
auto StudyFile::guarded(Call&& call) const {
  try {
    return call(*database_->sql);
  } catch (const SQLite::Exception& error) {
    throw problemOf(error, path_);
  }
}

/// The same for what is read while another thread may write.
template <typename Call>
Bytes StudyFile::read(Call&& call) const {
  return guarded([&](SQLite::Database& sql) {
    sql.setBusyTimeout(slowDisk);
    const auto asBefore = std::unique_ptr<SQLite::Database, void (*)(SQLite::Database*)>(
        &sql, [](SQLite::Database* database) { database->setBusyTimeout(longestWaitForOthers); });
    return call(sql);
  });
}

void StudyFile::note(const Mended& mended) const {
  for (const std::string& sentence : mended.sentences())
    if (std::find(mended_.begin(), mended_.end(), sentence) == mended_.end()) mended_.push_back(sentence);
}

StudyFile StudyFile::create(const std::filesystem::path& path, const StudyState& state,
                            std::span<const PictureFile> pictures, std::span<const WorkPart> parts, Existing existing) {
  const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
  if (::access(folder.c_str(), W_OK | X_OK) != 0)
    throw failed("Could not write " + path.string() + ": " + std::strerror(errno) + ".");
  const auto fresh = besides(path);
  std::error_code ignored;
  std::filesystem::remove(fresh, ignored);
  try {
    const auto database = openDatabase(fresh, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
    SQLite::Transaction transaction(*database);
    database->exec(
        fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", studyApplicationId, studyVersion));
    makeTables(*database);
    putSettings(*database, settingsText(state), firstStep());
    insertWork(*database, parts, pictures);
    transaction.commit();
  } catch (const SQLite::Exception& error) {
    std::filesystem::remove(fresh, ignored);
    throw problemOf(error, path);
  } catch (...) {
    std::filesystem::remove(fresh, ignored);
    throw;
  }
  if (!putInPlace(fresh, path, existing == Existing::replace))
    throw badInput(path.string() + " is there already. Choose another name.");
  return open(path);
}

StudyFile StudyFile::open(const std::filesystem::path& path, Access access) {
  lookAtHead(path);
  const std::string aside = setForeignJournalAside(path);
  const bool writable = access != Access::read && ::access(path.string().c_str(), W_OK) == 0;
  // What an interrupted program left half written is taken back even by who only looks; without that nothing could be
  // read.
  std::error_code error;
  const bool recovers = !writable && std::filesystem::exists(path.string() + "-journal", error) &&
                        ::access(path.string().c_str(), W_OK) == 0;
  auto database = std::make_unique<Database>();
  database->sql = openDatabase(path, writable || recovers ? SQLite::OPEN_READWRITE : SQLite::OPEN_READONLY);
  StudyFile file(path, std::move(database), writable);
  if (!aside.empty()) file.mended_.push_back(aside);
  file.guarded([&](SQLite::Database& sql) {
    if (pragma(sql, "application_id") != studyApplicationId)
      throw badInput(path.string() + " is a database, but not a study. It was not changed.");
    const auto version = pragma(sql, "user_version");
    if (version > studyVersion)
      throw badInput(
          fmt::format("{} was made by a newer version (its format is {}, this program knows {}). It was not changed.",
                      path.string(), version, studyVersion));
    if (!holdsTogether(sql, path))
      throw badInput(path.string() + " is damaged and cannot be opened. It was not changed; try a copy or a backup.");
    if (recovers) sql.exec("PRAGMA query_only = 1");
    if (!writable) return;
    sql.exec("PRAGMA synchronous = FULL");
  });
  if (writable && access == Access::write) file.bringForward();
  file.takeUpNotes();
  static_cast<void>(file.readState());  // damaged settings are found now rather than later
  return file;
}

void StudyFile::bringForward() {
  guarded([&](SQLite::Database& sql) {
    const auto version = pragma(sql, "user_version");
    if (!writable_ || version == studyVersion) return;
    // Version 3 has no other tables than 2; what is written from then on names hand work in "work". Version 5 names
    // pictures by content; those that are there keep their names. Version 6 has finals in its
    // settings, 7 sets of pulls, and engines that share a sheet.
    Writing transaction(sql);
    if (version < 2) sql.exec(editsTable);
    if (version < 4) sql.exec(sheetsTable);
    if (version < 5) sql.exec(cellsIndex);
    sql.exec(fmt::format("PRAGMA user_version = {}", studyVersion));
    transaction.commit();
  });
}

StudyFile StudyFile::another(const std::filesystem::path& path) {
  auto database = std::make_unique<Database>();
  database->sql = openDatabase(path, SQLite::OPEN_READWRITE);
  StudyFile file(path, std::move(database), true);
  file.guarded([](SQLite::Database& sql) { sql.exec("PRAGMA synchronous = FULL"); });
  return file;
}

void StudyFile::takeUpNotes() {
  // Nobody notes anything about a study of an older version: it is brought forward first.
  if (guarded([](SQLite::Database& sql) { return pragma(sql, "user_version"); }) != studyVersion) return;
  const StudyNotes notes(path_);
  for (StudyEntry& entry : notes.after(step())) {
    if (!writable_) {
      if (!entry.settings.empty()) noted_ = std::move(entry);
      continue;
    }
    // It may have been killed when these were in the study, and still noted. Where another one has a number, those from
    // there on get the next ones.
    bool taken = false;
    const auto isThere = [&](ProofRow& proof) {
      SQLite::Statement statement(*database_->sql, "SELECT made FROM proofs WHERE number = ?");
      statement.bind(1, proof.number);
      const bool found = statement.executeStep();
      if (found && statement.getColumn(0).getString() == proof.made) return true;
      taken = taken || found;
      if (taken) proof.number = 0;
      return false;
    };
    try {
      guarded([&](SQLite::Database&) { std::erase_if(entry.proofs, isThere); });
      write(entry);
    } catch (const Problem& problem) {
      // Nothing may be written over it before it is there: until then the study can be looked at.
      mended_.push_back(fmt::format("{} What was done last is noted, and not in the study yet.", problem.what()));
      writable_ = false;
      guarded([](SQLite::Database& sql) { sql.exec("PRAGMA query_only = 1"); });
      if (!entry.settings.empty()) noted_ = std::move(entry);
      return;
    }
  }
  if (writable_) notes.dropAll();
}

StudyState StudyFile::readState() const {
  const std::string text = !noted_.settings.empty() ? noted_.settings : guarded([&](SQLite::Database& sql) {
    SQLite::Statement statement(sql, "SELECT json FROM settings WHERE name = 'study'");
    if (!statement.executeStep())
      throw badInput(path_.string() + " is damaged: it has no settings. It was not changed.");
    return statement.getColumn(0).getString();
  });
  Mended mended;
  auto state = stateFromJson(parseJson(text, path_.string()), &mended);
  keepWithinLimits(state);
  note(mended);
  return state;
}

std::int64_t StudyFile::step() const {
  return guarded([](SQLite::Database& sql) {
    SQLite::Statement statement(sql, "SELECT json FROM settings WHERE name = 'written'");
    return statement.executeStep() ? std::strtoll(statement.getColumn(0).getText(), nullptr, 10) : std::int64_t{0};
  });
}

void StudyFile::write(const StudyEntry& entry) {
  if (!entry.proofs.empty() || !entry.sheets.empty()) {
    proofsAhead_.reset();
    sheetsAhead_.reset();
  }
  guarded([&](SQLite::Database& sql) {
    Writing transaction(sql);
    insertWork(sql, entry.parts, entry.pictures);
    if (!entry.settings.empty()) putSettings(sql, entry.settings, entry.step);
    for (const SheetRow& sheet : entry.sheets) putSheet(sql, sheet);
    for (const ProofRow& proof : entry.proofs) insertProof(sql, proof);
    transaction.commit();
  });
}

void StudyFile::writeState(const StudyState& state, std::span<const WorkPart> parts,
                           std::span<const PictureFile> pictures) {
  const std::int64_t before = step();
  write({.settings = settingsText(state),
         .step = before > 0 ? before + 1 : firstStep(),
         .parts = {parts.begin(), parts.end()},
         .pictures = {pictures.begin(), pictures.end()},
         .sheets = {},
         .proofs = {}});
}

Bytes StudyFile::work(const std::string& id) const {
  for (const WorkPart& part : noted_.parts)
    if (part.id == id) return part.bytes;
  return read([&](SQLite::Database& sql) {
    if (pragma(sql, "user_version") < 2) return Bytes();  // an old file that may not be written
    SQLite::Statement statement(sql, "SELECT bytes FROM edits WHERE id = ?");
    statement.bind(1, id);
    return statement.executeStep() ? bytesIn(statement.getColumn(0)) : Bytes();
  });
}

void StudyFile::keepOnly(const std::set<std::string>& work, const std::set<std::string>& pictures) {
  guarded([&](SQLite::Database& sql) {
    Writing transaction(sql);
    const auto keep = [&](const char* table, const std::set<std::string>& ids) {
      std::vector<std::string> gone;
      SQLite::Statement all(sql, fmt::format("SELECT id FROM {}", table));
      while (all.executeStep())
        if (std::string id = all.getColumn(0).getString(); !ids.contains(id)) gone.push_back(std::move(id));
      all.reset();
      for (const std::string& id : gone) {
        SQLite::Statement remove(sql, fmt::format("DELETE FROM {} WHERE id = ?", table));
        remove.bind(1, id);
        remove.exec();
      }
      return !gone.empty();
    };
    const bool less = keep("edits", work);
    if (keep("reference_files", pictures) || less) transaction.commit();
  });
}

void StudyFile::addPicture(const std::filesystem::path& path, const PictureFile& picture) {
  StudyEntry entry;
  entry.pictures = {picture};
  another(path).write(entry);
}

Bytes StudyFile::picture(const std::string& source) const {
  for (const PictureFile& picture : noted_.pictures)
    if (picture.content == source) return *picture.bytes;
  return read([&](SQLite::Database& sql) { return pictureIn(sql, path_, source); });
}

Bytes StudyFile::picture(const std::filesystem::path& path, const std::string& source) {
  return elsewhere(path, [&](SQLite::Database& sql) { return pictureIn(sql, path, source); });
}

std::int64_t StudyFile::addProof(const ProofInfo& info, std::span<const std::byte> png,
                                 std::span<const std::byte> thumbnailPng) {
  proofsAhead_.reset();
  sheetsAhead_.reset();
  return guarded([&](SQLite::Database& sql) {
    Writing transaction(sql);
    const auto number =
        insertProof(sql, rowOf(info, {png.begin(), png.end()}, {thumbnailPng.begin(), thumbnailPng.end()}));
    transaction.commit();
    return number;
  });
}

void StudyFile::readAhead() {
  sheetsAhead_.reset();
  proofsAhead_.reset();
  auto read = std::make_unique<std::vector<ProofInfo>>(proofs());
  sheetsAhead_ = std::make_unique<std::vector<SheetInfo>>(sheets());
  proofsAhead_ = std::move(read);
}

std::vector<ProofInfo> StudyFile::proofs() const {
  if (proofsAhead_) return std::move(*std::exchange(proofsAhead_, nullptr));
  // Cells that a proof may say it is.
  std::map<std::int64_t, int> cells;
  for (const SheetInfo& sheet : sheets()) cells[sheet.number] = sheet.plan.cells();
  return guarded([&](SQLite::Database& sql) {
    struct Cell {
      std::int64_t sheet = 0, cell = 0;
      std::optional<double> shift;
    };
    std::map<std::int64_t, Cell> cellsOf;
    // An old file that may not be written has no sheets.
    if (pragma(sql, "user_version") >= 4) {
      SQLite::Statement statement(sql, "SELECT number, sheet, cell, shift FROM proofs");
      while (statement.executeStep()) {
        Cell& cell = cellsOf[statement.getColumn(0).getInt64()];
        cell.sheet = statement.getColumn(1).getInt64();
        cell.cell = statement.getColumn(2).getInt64();
        if (!statement.getColumn(3).isNull()) cell.shift = statement.getColumn(3).getDouble();
      }
    }
    struct Row {
      ProofInfo info;
      std::string recipe, holds;  ///< as they are written
      bool understood = false;
      Mended mended;
    };
    std::vector<Row> rows;
    SQLite::Statement statement(sql, "SELECT number, made, milliseconds, recipe, holds FROM proofs ORDER BY number");
    while (statement.executeStep()) {
      Row& row = rows.emplace_back();
      row.info.number = statement.getColumn(0).getInt64();
      row.info.made = statement.getColumn(1).getString();
      row.info.milliseconds = statement.getColumn(2).getDouble();
      row.recipe = statement.getColumn(3).getString();
      row.holds = statement.getColumn(4).getString();
    }
    // Thousands of recipes take longer to understand than to read.
    RecipeReader reader;
    parallelRows(static_cast<int>(rows.size()), [&](int first, int end) {
      for (int i = first; i < end; ++i) {
        Row& row = rows[static_cast<std::size_t>(i)];
        ProofInfo& info = row.info;
        const std::string where = fmt::format("Proof {}", info.number);
        readOrLeaveOut(&row.mended, [&] {
          Mended inRecipe;
          info.recipe = reader.read(row.recipe, where + ", recipe", &inRecipe);
          for (const std::string& sentence : inRecipe.sentences()) row.mended.say(where + ": " + sentence);
          readOrLeaveOut(&row.mended, [&] {
            const auto holds = parseJson(row.holds, where + ", holds");
            for (const auto& [id, value] : holds.items())
              if (value.is_number())
                info.holds[id] = std::clamp(value.get<double>(), limits::hold.least, limits::hold.most);
          });
          row.understood = true;
        });
      }
    });
    std::vector<ProofInfo> all;
    Mended mended;
    for (Row& row : rows) {
      for (const std::string& sentence : row.mended.sentences()) mended.say(sentence);
      if (!row.understood) continue;
      ProofInfo& info = row.info;
      const Cell& at = cellsOf[info.number];
      info.sheet = at.sheet;
      info.cell = static_cast<int>(std::clamp<std::int64_t>(at.cell, -1, INT32_MAX));
      if (info.sheet != 0) {
        const auto sheet = cells.find(info.sheet);
        if (sheet == cells.end() || info.cell < 0 || info.cell >= sheet->second) {
          mended.say(
              fmt::format("Proof {} says that it is cell {} of sheet {}, which is not there. It stands alone now.",
                          info.number, info.cell, info.sheet));
          info.sheet = info.cell = 0;
        }
      }
      if (at.shift) info.shift = std::clamp(*at.shift, limits::hold.least, limits::hold.most);
      all.push_back(std::move(info));
    }
    note(mended);
    return all;
  });
}

std::int64_t StudyFile::addSheet(const SheetInfo& info) {
  proofsAhead_.reset();
  sheetsAhead_.reset();
  return guarded([&](SQLite::Database& sql) {
    Writing transaction(sql);
    SheetRow row = rowOf(info);
    row.number = 0;
    const std::int64_t number = putSheet(sql, row);
    transaction.commit();
    return number;
  });
}

std::vector<SheetInfo> StudyFile::sheets() const {
  if (sheetsAhead_) return std::move(*std::exchange(sheetsAhead_, nullptr));
  return guarded([&](SQLite::Database& sql) {
    std::vector<SheetInfo> all;
    if (pragma(sql, "user_version") < 4) return all;
    SQLite::Statement statement(sql, "SELECT number, made, plan, waiting FROM sheets ORDER BY number");
    Mended mended;
    while (statement.executeStep()) {
      SheetInfo info;
      info.number = statement.getColumn(0).getInt64();
      info.made = statement.getColumn(1).getString();
      const std::string where = fmt::format("Sheet {}", info.number);
      readOrLeaveOut(&mended, [&] {
        info.plan = planFromJson(parseJson(statement.getColumn(2).getString(), where), where, &mended);
        readOrLeaveOut(&mended, [&] {
          for (const double cell : numbersFromJson(parseJson(statement.getColumn(3).getString(), where), where))
            if (cell >= 0 && cell < info.plan.cells()) info.waiting.push_back(static_cast<int>(cell));
        });
        all.push_back(std::move(info));
      });
    }
    note(mended);
    return all;
  });
}

void StudyFile::setWaiting(std::int64_t sheet, std::span<const int> cells) {
  proofsAhead_.reset();
  sheetsAhead_.reset();
  guarded([&](SQLite::Database& sql) {
    Writing transaction(sql);
    SQLite::Statement statement(sql, "UPDATE sheets SET waiting = ? WHERE number = ?");
    statement.bind(1, nlohmann::json(cells).dump());
    statement.bind(2, sheet);
    statement.exec();
    transaction.commit();
  });
}

std::int64_t StudyFile::lastSheet() const {
  return guarded([](SQLite::Database& sql) -> std::int64_t {
    if (pragma(sql, "user_version") < 4) return 0;
    return sql.execAndGet("SELECT coalesce(max(number), 0) FROM sheets").getInt64();
  });
}

std::int64_t StudyFile::lastProof() const {
  return guarded([](SQLite::Database& sql) {
    return static_cast<std::int64_t>(sql.execAndGet("SELECT coalesce(max(number), 0) FROM proofs").getInt64());
  });
}

Bytes StudyFile::proofPng(std::int64_t number) const {
  return read([&](SQLite::Database& sql) { return ofProof(sql, path_, "png", number); });
}

Bytes StudyFile::proofThumbnail(std::int64_t number) const {
  return read([&](SQLite::Database& sql) { return ofProof(sql, path_, "thumbnail", number); });
}

Bytes StudyFile::proofPng(const std::filesystem::path& path, std::int64_t number) {
  return elsewhere(path, [&](SQLite::Database& sql) { return ofProof(sql, path, "png", number); });
}

Bytes StudyFile::proofThumbnail(const std::filesystem::path& path, std::int64_t number) {
  return elsewhere(path, [&](SQLite::Database& sql) { return ofProof(sql, path, "thumbnail", number); });
}

void StudyFile::copy(const std::filesystem::path& from, const std::filesystem::path& to) {
  const auto fresh = besides(to);
  std::error_code ignored;
  std::filesystem::remove(fresh, ignored);
  try {
    const auto database = openDatabase(from, SQLite::OPEN_READONLY);
    SQLite::Statement statement(*database, "VACUUM INTO ?");
    statement.bind(1, fresh.string());
    statement.exec();
  } catch (const SQLite::Exception& error) {
    std::filesystem::remove(fresh, ignored);
    throw problemOf(error, to);
  }
  putInPlace(fresh, to, true);
}

}  // namespace hscaffold
