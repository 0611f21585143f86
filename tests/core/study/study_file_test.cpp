// Studies on disk: every version that was ever released, files of others, full disks, journals.
#include <sqlite3.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <QTest>
#include <array>
#include <fstream>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/study/study_database.h"
#include "core/study/study_examples.h"
#include "core/study/study_file.h"
#include "files/study_job.h"
#include "fixtures.h"
#include "full_disk.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::example;
using fixtures::pictureOf;
using fixtures::same;

namespace {

void runSql(const std::filesystem::path& path, const std::string& sql) {
  sqlite3* database = nullptr;
  QCOMPARE(sqlite3_open(path.string().c_str(), &database), SQLITE_OK);
  QCOMPARE(sqlite3_exec(database, sql.c_str(), nullptr, nullptr, nullptr), SQLITE_OK);
  sqlite3_close(database);
}

}  // namespace

class StudyFileTest : public QObject {
  Q_OBJECT
 private slots:
  void everyReleasedVersionOpens_data();
  void everyReleasedVersionOpens();
  void mapsOfTheSecondVersionAreMadeAlike();
  void comesBackFromDisk();
  void unknownFieldsSurvive();
  void proofsAreKeptWithTheirRecipes();
  void copiesAreWhole();
  void foreignFilesAreRefusedUnchanged_data();
  void foreignFilesAreRefusedUnchanged();
  void fullDiskLosesNothing();
  void journalsOfOthersAreNotPlayedIn();
  void journalsUnderACopiedBackupAreSetAside();
  void ownJournalsArePlayedIn();
  void newStudiesReplaceNothingUnlessAsked();
  void largeStudiesAreLookedThroughOnlyWhenAsked();
};

void StudyFileTest::everyReleasedVersionOpens_data() {
  QTest::addColumn<int>("version");
  for (int version = 1; version < studyVersion; ++version) QTest::addRow("version %d", version) << version;
}

void StudyFileTest::everyReleasedVersionOpens() {
  QFETCH(int, version);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "old.scaffold");
  runSql(path, fixtures::readFile(fixtures::kept("study-" + std::to_string(version) + ".sql")));
  // For looking it is read as it is.
  const auto before = fixtures::readFile(path);
  QVERIFY(StudyFile::open(path, StudyFile::Access::read).sheets().empty());
  QVERIFY(StudyFile::open(path, StudyFile::Access::read).proofs().size() <= 1);
  QVERIFY(fixtures::readFile(path) == before);
  auto file = StudyFile::open(path);
  auto state = file.readState();
  QVERIFY(state.guides.size() >= 2);
  const Guide& edges = state.guides.front();
  QCOMPARE(edges.name, std::string("Sun edges"));
  QVERIFY(edges.range == (Range{10, 80, 5, 20}));
  QVERIFY(!file.picture(edges.reference).empty());
  WorkStore store([&](const std::string& id) { return file.work(id); });
  for (const Guide& guide : state.guides) QVERIFY(takenWork(guide, store).missing.empty());
  // What is written now is read again, hand work and all.
  state.brief.steps = 31;
  state.comfort = 2.25;
  state.held = {state.guides[0].id};
  state.kept = {7, 3};
  state.looking.sheet = -1;
  state.looking.cellWidths = {{-1, 96}, {7, 210}};
  file.writeState(state);
  QVERIFY(same(StudyFile::open(path).readState(), state));
  // Sheets are new in version 4.
  SheetInfo sheet;
  sheet.made = "2031-03-01T08:00:00Z";
  sheet.plan.base = recipeOf(state);
  sheet.plan.axes = {axisOver(Setting::weight, state.guides[0].id, 0.2, 1, 3)};
  sheet.plan.seeds = {1, 2};
  sheet.waiting = {4, 5, 1};
  const std::int64_t number = file.addSheet(sheet);
  ProofInfo cell;
  cell.made = sheet.made;
  cell.recipe = recipeOfCell(sheet.plan, 4);
  cell.sheet = number;
  cell.cell = 4;
  cell.shift = 41.5;
  file.addProof(cell, {}, {});
  const auto again = StudyFile::open(path);
  QCOMPARE(again.sheets().size(), std::size_t{1});
  QVERIFY(again.sheets()[0].plan == sheet.plan && again.sheets()[0].waiting == sheet.waiting);
  QCOMPARE(again.proofs().back().sheet, number);
  QCOMPARE(again.proofs().back().cell, 4);
  QCOMPARE(*again.proofs().back().shift, 41.5);
  file.setWaiting(number, {});
  QVERIFY(file.sheets()[0].waiting.empty());
  if (version < 2) return;
  QVERIFY(edges.work.has(retouchSlot) && edges.limited() && edges.retouchHidden);
  QVERIFY(edges.region.inverted);
  QCOMPARE(edges.region.feather, 3.0);
  QCOMPARE(state.guides[2].words, std::string("standing"));
  QVERIFY(state.guides[2].work.has("inks"));
  const auto proofs = file.proofs();
  QCOMPARE(proofs.size(), std::size_t{2});  // the one that was there, and the cell
  QVERIFY(!proofs[0].shift.has_value());
  QVERIFY(proofs[0].recipe.guides[0].guide.work == edges.work);
}

void StudyFileTest::mapsOfTheSecondVersionAreMadeAlike() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "old.scaffold");
  runSql(path, fixtures::readFile(fixtures::kept("study-2.sql")));
  const auto file = StudyFile::open(path);
  const auto made = jobFor(file, recipeOf(file.readState()));
  const auto then = recipeFromJson(parseJson(fixtures::readFile(fixtures::kept("recipe-1.json")), "recipe"));
  QCOMPARE(made.job.recipe.guides.size(), then.guides.size());
  for (std::size_t i = 0; i < then.guides.size(); ++i)
    QCOMPARE(made.job.recipe.guides[i].mapDigest, then.guides[i].mapDigest);
}

void StudyFileTest::comesBackFromDisk() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  {
    auto file = StudyFile::create(path, example());
    auto changed = example();
    changed.brief.steps = 44;
    file.writeState(changed, {}, std::array{pictureOf("picture")});
  }
  const auto file = StudyFile::open(path);
  const auto state = file.readState();
  QCOMPARE(state.brief.steps, 44);
  QCOMPARE(state.title, std::string("Wind almanac: März"));
  QCOMPARE(state.guides.front().tuning.at("blur").number(), 2.2);
  QCOMPARE(textOf(file.picture(pictureOf("picture").content)), std::string("picture"));
  QVERIFY(fixtures::problemOf([&] { static_cast<void>(file.picture("r9")); }).contains("r9"));
}

void StudyFileTest::unknownFieldsSurvive() {
  auto json = stateToJson(example());
  json["mood-board"] = {1, 2, 3};
  json["guides"][0]["sparkle"] = true;
  json["references"][0]["origin"] = "beach";
  json["brief"]["tempo"] = "slow";
  auto state = stateFromJson(json);
  state.brief.steps = 31;
  const auto back = stateToJson(state);
  QCOMPARE(back.at("mood-board").size(), std::size_t{3});
  QCOMPARE(back.at("guides").at(0).at("sparkle").get<bool>(), true);
  QCOMPARE(back.at("references").at(0).at("origin").get<std::string>(), std::string("beach"));
  QCOMPARE(back.at("brief").at("tempo").get<std::string>(), std::string("slow"));
}

void StudyFileTest::proofsAreKeptWithTheirRecipes() {
  QTemporaryDir folder;
  auto file = StudyFile::create(fixtures::in(folder, "a.scaffold"), example());
  ProofInfo info;
  info.recipe = recipeOf(example());
  info.milliseconds = 512.5;
  info.made = "2026-01-02T03:04:05Z";
  info.holds["g2"] = 87.5;
  const auto png = encodePng(Image<Rgb8>(16, 16).view(), textsFor(info.recipe));
  const auto number = file.addProof(info, png, png);
  QCOMPARE(file.addProof(info, png, png), number + 1);
  const auto all = file.proofs();
  QCOMPARE(all.size(), std::size_t{2});
  QVERIFY(all[0].recipe == info.recipe);
  QCOMPARE(all[0].holds.at("g2"), 87.5);
  QCOMPARE(all[0].milliseconds, 512.5);
  QVERIFY(recipeFromTexts(readPngTexts(file.proofPng(number))) == info.recipe);
}

void StudyFileTest::copiesAreWhole() {
  QTemporaryDir folder;
  auto file = StudyFile::create(fixtures::in(folder, "a.scaffold"), example());
  const auto picture = pictureOf(std::string(300'000, 'p'));
  file.writeState(example(), {}, std::array{picture});
  const auto copy = fixtures::in(folder, "copy.scaffold");
  fixtures::writeFile(copy, "something that is replaced");
  file.copyTo(copy);
  const auto opened = StudyFile::open(copy);
  QVERIFY(same(opened.readState(), example()));
  QCOMPARE(opened.picture(picture.content).size(), std::size_t{300'000});
  QVERIFY(!fixtures::problemOf([&] { file.copyTo("/nowhere/at/all.scaffold"); }).isEmpty());
}

void StudyFileTest::foreignFilesAreRefusedUnchanged_data() {
  QTest::addColumn<int>("which");
  for (const auto& [name, which] : {std::pair{"text", 0},
                                    {"empty", 1},
                                    {"cut off", 2},
                                    {"scribbled over", 3},
                                    {"other database", 4},
                                    {"newer", 5},
                                    {"folder", 6},
                                    {"missing", 7},
                                    {"settings damaged", 8},
                                    {"no settings", 9}})
    QTest::addRow("%s", name) << which;
}

void StudyFileTest::foreignFilesAreRefusedUnchanged() {
  QFETCH(int, which);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "x.scaffold");
  if (which != 6 && which != 7 && which > 1) {
    auto file = StudyFile::create(path, example());
    file.writeState(example(), {}, std::array{pictureOf(std::string(200'000, 'p'))});
  }
  auto content = which > 1 && which != 6 && which != 7 ? fixtures::readFile(path) : std::string();
  switch (which) {
    case 0:
      fixtures::writeFile(path, "Dear diary, this is not a study at all.");
      break;
    case 1:
      fixtures::writeFile(path, "");
      break;
    case 2:
      fixtures::writeFile(path, content.substr(0, content.size() / 3));
      break;
    case 3:
      for (std::size_t i = 4096; i < content.size(); i += 7) content[i] = '#';
      fixtures::writeFile(path, content);
      break;
    case 4:
      runSql(path, "PRAGMA application_id = 77");
      break;
    case 5:
      runSql(path, "PRAGMA user_version = 99");
      break;
    case 6:
      std::filesystem::create_directory(path);
      break;
    case 8:
      runSql(path, "UPDATE settings SET json = '{\"frame\": 3}'");
      break;
    case 9:
      runSql(path, "DELETE FROM settings");
      break;
    default:
      break;
  }
  const bool isFile = std::filesystem::is_regular_file(path);
  const auto before = isFile ? fixtures::readFile(path) : std::string();
  const auto problem = fixtures::problemOf([&] { StudyFile::open(path); });
  QVERIFY2(!problem.isEmpty() && (problem.contains("x.scaffold") || which == 8), qPrintable(problem));
  QVERIFY(problem.endsWith('.'));
  if (isFile) QVERIFY(fixtures::readFile(path) == before);
}

void StudyFileTest::fullDiskLosesNothing() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  auto file = StudyFile::create(path, example());
  std::optional<fixtures::FullDisk> full(std::in_place, 64 * 1024);
  auto larger = example();
  larger.brief.prompt = std::string(3000, 'x');
  const auto picture =
      fixtures::problemOf([&] { file.writeState(larger, {}, std::array{pictureOf(std::string(500'000, 'p'))}); });
  const auto copy = fixtures::problemOf([&] {
    file.writeState(example(), {}, std::array{pictureOf(std::string(30'000, 'q'))});
    file.copyTo(fixtures::in(folder, "b.scaffold"));
    file.writeState(larger, {}, std::array{pictureOf(std::string(60'000, 'r'))});
  });
  full.reset();
  QVERIFY2(picture.contains("disk is full") && picture.contains("a.scaffold"), qPrintable(picture));
  QVERIFY2(copy.contains("disk is full"), qPrintable(copy));
  QVERIFY(same(file.readState(), example()));
  file.writeState(larger);
  QVERIFY(same(StudyFile::open(path).readState(), larger));
}

void StudyFileTest::journalsOfOthersAreNotPlayedIn() {
  QTemporaryDir folder;
  // A study that was being written when its program was killed, with its journal beside it.
  const auto path = fixtures::in(folder, "a.scaffold"), other = fixtures::in(folder, "b.scaffold");
  StudyFile::create(path, example());
  std::string journal;
  {
    SQLite::Database database(path.string(), SQLite::OPEN_READWRITE);
    database.exec(
        "PRAGMA cache_size = 1; PRAGMA cache_spill = 1; BEGIN IMMEDIATE;"
        "UPDATE settings SET json = replace(json, 'almanac', 'other');"
        "CREATE TABLE filler (x); INSERT INTO filler VALUES (randomblob(300000));");
    journal = fixtures::readFile(path.string() + "-journal");
    QVERIFY(!journal.empty());
  }
  auto saved = example();
  saved.title = "Saved as";
  const auto from = StudyFile::create(other, saved);
  fixtures::writeFile(path.string() + "-journal", journal);
  from.copyTo(path);
  QVERIFY(!std::filesystem::exists(path.string() + "-journal"));
  QCOMPARE(StudyFile::open(path).readState().title, std::string("Saved as"));
}

namespace {

/// A study as a program leaves it that was killed while it wrote, with its journal.
struct Interrupted {
  std::string file, journal;
};
Interrupted interruptedAt(const std::filesystem::path& path, bool spilled) {
  SQLite::Database database(path.string(), SQLite::OPEN_READWRITE);
  // What spills is written into the file before the transaction ends.
  database.exec(
      std::string("PRAGMA cache_size = ") + (spilled ? "1" : "10000") +
      "; BEGIN IMMEDIATE; PRAGMA user_version = 7; UPDATE settings SET json = replace(json, 'a kite', 'a boat');"
      "INSERT INTO reference_files VALUES ('filler', randomblob(300000));");
  Interrupted out{fixtures::readFile(path), fixtures::readFile(path.string() + "-journal")};
  database.exec("ROLLBACK");
  return out;
}

}  // namespace

void StudyFileTest::journalsUnderACopiedBackupAreSetAside() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold"), backup = fixtures::in(folder, "backup.scaffold");
  auto file = std::make_unique<StudyFile>(StudyFile::create(path, example()));
  std::filesystem::copy_file(path, backup);
  auto later = example();
  later.title = "Later";
  for (int i = 0; i < 3; ++i) file->writeState(later);
  file.reset();
  const auto left = interruptedAt(path, true);
  QVERIFY(!left.journal.empty());
  // By hand: a backup of the same study, an older one, and another study that is as old.
  for (const bool other : {false, true}) {
    if (other) {
      auto state = example();
      state.title = "Other";
      auto made = StudyFile::create(backup, state);
      for (int i = 0; i < 3; ++i) made.writeState(state);
    }
    std::filesystem::copy_file(backup, path, std::filesystem::copy_options::overwrite_existing);
    fixtures::writeFile(path.string() + "-journal", left.journal);
    const auto opened = StudyFile::open(path);
    QCOMPARE(opened.readState().title, other ? std::string("Other") : example().title);
    QVERIFY(opened.mended().size() == 1 && opened.mended()[0].find("set aside") != std::string::npos);
    const std::string aside = path.string() + (other ? "-journal.aside2" : "-journal.aside");
    QVERIFY(fixtures::readFile(aside) == left.journal);
  }
}

void StudyFileTest::ownJournalsArePlayedIn() {
  for (const bool spilled : {false, true}) {
    QTemporaryDir folder;
    const auto path = fixtures::in(folder, "a.scaffold");
    {
      auto file = StudyFile::create(path, example());
      for (int i = 0; i < 5; ++i) file.writeState(example());
    }
    const auto left = interruptedAt(path, spilled);
    fixtures::writeFile(path, left.file);
    fixtures::writeFile(path.string() + "-journal", left.journal);
    const auto opened = StudyFile::open(path);
    QVERIFY(opened.mended().empty());
    QVERIFY(same(opened.readState(), example()));
    QVERIFY(fixtures::problemOf([&] { static_cast<void>(opened.picture("filler")); }).contains("missing"));
    QVERIFY(!std::filesystem::exists(path.string() + "-journal.aside"));
  }
}

void StudyFileTest::newStudiesReplaceNothingUnlessAsked() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  StudyFile::create(path, example(), std::array{pictureOf("dune")}, {}, StudyFile::Existing::keep);
  QVERIFY(fixtures::problemOf([&] {
            StudyFile::create(path, {}, {}, {}, StudyFile::Existing::keep);
          }).contains("is there already"));
  QVERIFY(same(StudyFile::open(path).readState(), example()));
  // What a program that died in the middle of it left is swept away; nobody has this process number.
  for (const char* left : {".a.scaffold.4194000.new", ".a.scaffold.4194000.new-journal"})
    fixtures::writeFile(fixtures::in(folder, left), "half");
  fixtures::writeFile(fixtures::in(folder, ".a.scaffold.notes"), "mine");
  StudyFile::create(path, example(), std::array{pictureOf("dune")});
  QVERIFY(std::filesystem::remove(fixtures::in(folder, ".a.scaffold.notes")));
  QCOMPARE(textOf(StudyFile::open(path).picture(pictureOf("dune").content)), std::string("dune"));
  // Nothing is left beside it.
  std::size_t files = 0;
  for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path().toStdString())) ++files;
  QCOMPARE(files, std::size_t{1});
}

/// The pictures of proofs are most of a large study; what is wrong in them does not keep the rest from being opened.
void StudyFileTest::largeStudiesAreLookedThroughOnlyWhenAsked() {
  const QTemporaryDir folder;
  const auto path = fixtures::in(folder, "large.scaffold");
  {
    auto file = StudyFile::create(path, example());
    const Bytes large(std::size_t{140} << 20, std::byte{7});
    file.addProof({}, large, {});
  }
  lookThrough(path);
  // A page in the middle says that the one after it is another.
  {
    std::fstream in(path, std::ios::in | std::ios::out | std::ios::binary);
    in.seekp(4096 * ((std::int64_t{70} << 20) / 4096));
    in.write("\xff\xff\xff\xff", 4);
  }
  const auto file = StudyFile::open(path);
  QCOMPARE(file.proofs().size(), std::size_t{1});
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(file.proofPng(1)); }).isEmpty());
  QVERIFY(fixtures::problemOf([&] { lookThrough(path); }).contains("repair"));
  // In a small one it is found at once.
  const auto small = fixtures::in(folder, "small.scaffold");
  {
    auto other = StudyFile::create(small, example());
    other.addProof({}, Bytes(1 << 20, std::byte{7}), {});
  }
  {
    std::fstream in(small, std::ios::in | std::ios::out | std::ios::binary);
    in.seekp(4096 * 150);
    in.write("\xff\xff\xff\xff", 4);
  }
  QVERIFY(fixtures::problemOf([&] { StudyFile::open(small); }).contains("damaged"));
}

HSCAFFOLD_TEST(StudyFileTest)
#include "study_file_test.moc"
