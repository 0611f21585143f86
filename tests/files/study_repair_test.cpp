// What comes back of a damaged study.
#include <SQLiteCpp/SQLiteCpp.h>

#include <QFile>
#include <QTest>
#include <random>

#include "../core/study/study_examples.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "files/study_job.h"
#include "files/study_repair.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class StudyRepairTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void whatIsWholeComesBackWhole();
  void damagedPagesCostWhatLayOnThem();
  void settingsAreLostAlone();
  void aLostHeadIsPutBack();
  void damagedBlobsAreLeftOut();
  void whatIsNoStudyIsSaid();

 private:
  [[nodiscard]] std::filesystem::path path(const char* name) const { return fixtures::in(*folder_, name); }
  /// A copy with so many bytes changed from a place on.
  [[nodiscard]] std::filesystem::path spoilt(std::size_t from, std::size_t count, unsigned seed) const {
    std::string content = fixtures::readFile(path("a.scaffold"));
    std::mt19937 random(seed);
    for (std::size_t i = from; i < std::min(content.size(), from + count); ++i)
      content[i] = static_cast<char>(random());
    fixtures::writeFile(path("spoilt.scaffold"), content);
    return path("spoilt.scaffold");
  }
  static constexpr int proofs = 12;
  std::unique_ptr<QTemporaryDir> folder_;
  std::vector<Bytes> pngs_;
};

void StudyRepairTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  pngs_.clear();
  StudyState state;
  state.title = "Tide";
  std::vector<PictureFile> pictures;
  for (unsigned i = 0; i < 3; ++i) {
    pictures.push_back(pictureFile(encodePng(toSrgb8(fixtures::noise(90, 60, i)).view())));
    addReference(state, pictures.back(), {90, 60}, "noise");
  }
  auto file = StudyFile::create(path("a.scaffold"), state, pictures);
  SheetInfo sheet;
  sheet.made = "2031-03-01T08:00:00Z";
  sheet.plan.base = recipeOf(state);
  sheet.plan.seeds = {1, 2};
  const auto number = file.addSheet(sheet);
  for (int i = 0; i < proofs; ++i) {
    ProofInfo info;
    info.made = sheet.made;
    info.recipe = recipeOf(state);
    info.sheet = i < 2 ? number : 0;
    info.cell = i < 2 ? i : 0;
    pngs_.push_back(encodePng(toSrgb8(fixtures::noise(80, 80, 100 + static_cast<unsigned>(i))).view()));
    file.addProof(info, pngs_.back(), pngs_.back());
  }
}

void StudyRepairTest::whatIsWholeComesBackWhole() {
  const auto report = repairStudy(path("a.scaffold"), path("b.scaffold"));
  QVERIFY(report.notes.empty() && report.settings);
  QCOMPARE(report.pictures, 3);
  QCOMPARE(report.proofs, proofs);
  QCOMPARE(report.sheets, 1);
  const auto before = StudyFile::open(path("a.scaffold")), after = StudyFile::open(path("b.scaffold"));
  QVERIFY(fixtures::same(before.readState(), after.readState()));
  const auto list = after.proofs();
  QCOMPARE(list.size(), std::size_t{proofs});
  QVERIFY(list[1].sheet == 1 && list[1].cell == 1);
  for (const auto& proof : list)
    QVERIFY(after.proofPng(proof.number) == pngs_[static_cast<std::size_t>(proof.number - 1)]);
  // What is there stays.
  QVERIFY(fixtures::problemOf([&] { repairStudy(path("a.scaffold"), path("b.scaffold")); }).contains("there already"));
}

void StudyRepairTest::damagedPagesCostWhatLayOnThem() {
  const auto size = std::filesystem::file_size(path("a.scaffold"));
  int opened = 0, back = 0, made = 0;
  for (unsigned seed = 0; seed < 40; ++seed) {
    std::mt19937 random(seed);
    const std::size_t at = 4096 + random() % (size - 4096), count = 1 + random() % 20'000;
    const auto file = spoilt(at, count, seed);
    const auto before = fixtures::readFile(file);
    std::filesystem::remove(path("b.scaffold"));
    try {
      repairStudy(file, path("b.scaffold"));
    } catch (const Problem&) {
      QVERIFY(!std::filesystem::exists(path("b.scaffold")));
      continue;
    }
    QVERIFY(fixtures::readFile(file) == before);
    ++made;
    const auto after = StudyFile::open(path("b.scaffold"));
    opened += after.readState().references.empty() ? 0 : 1;
    for (const auto& proof : after.proofs()) {
      // What comes back is what it was.
      QVERIFY(after.proofPng(proof.number) == pngs_.at(static_cast<std::size_t>(proof.number - 1)));
      ++back;
    }
  }
  qInfo("%d of 40 repaired, %d with references, %d of %d proofs", made, opened, back, 40 * proofs);
  QVERIFY(made >= 38);
  QVERIFY(back >= 40 * proofs * 6 / 10);
  // Nothing lies about.
  QCOMPARE(QDir(folder_->path()).entryList(QDir::Files | QDir::Hidden).size(), 3);
}

void StudyRepairTest::settingsAreLostAlone() {
  {
    SQLite::Database database(path("a.scaffold").string(), SQLite::OPEN_READWRITE);
    database.exec("UPDATE settings SET json = '{\"title\": '");
  }
  QVERIFY(!fixtures::problemOf([&] { StudyFile::open(path("a.scaffold")); }).isEmpty());
  const auto report = repairStudy(path("a.scaffold"), path("b.scaffold"));
  QVERIFY(!report.settings);
  const auto after = StudyFile::open(path("b.scaffold"));
  const auto state = after.readState();
  QCOMPARE(state.references.size(), std::size_t{3});
  for (const Reference& reference : state.references) {
    QVERIFY((reference.size == Size{90, 60}));
    QVERIFY(!after.picture(reference.source()).empty());
  }
  QCOMPARE(after.proofs().size(), std::size_t{proofs});
}

void StudyRepairTest::aLostHeadIsPutBack() {
  const auto file = spoilt(0, 100, 7);
  const auto report = repairStudy(file, path("b.scaffold"));
  QCOMPARE(report.proofs, proofs);
  QVERIFY(report.settings);
}

void StudyRepairTest::damagedBlobsAreLeftOut() {
  {
    SQLite::Database database(path("a.scaffold").string(), SQLite::OPEN_READWRITE);
    database.exec(
        "UPDATE reference_files SET bytes = x'00' WHERE rowid = 2; UPDATE proofs SET png = substr(png, 1, 900) WHERE "
        "number = 5; UPDATE proofs SET recipe = '{' WHERE number = 6; UPDATE proofs SET holds = '[' WHERE number = 7;");
  }
  const auto report = repairStudy(path("a.scaffold"), path("b.scaffold"));
  QCOMPARE(report.pictures, 2);
  // Nor is there a recipe in the picture of the sixth.
  QCOMPARE(report.proofs, proofs - 2);
  QVERIFY(report.notes.size() >= 2);
  QCOMPARE(StudyFile::open(path("b.scaffold")).proofs().size(), std::size_t{proofs - 2});
}

void StudyRepairTest::whatIsNoStudyIsSaid() {
  fixtures::writeFile(path("text.scaffold"), std::string(20'000, 'x'));
  fixtures::writeFile(path("short.scaffold"), "x");
  for (const char* name : {"text.scaffold", "short.scaffold", "none.scaffold"}) {
    QVERIFY(!fixtures::problemOf([&] { repairStudy(path(name), path("b.scaffold")); }).isEmpty());
    QVERIFY(!std::filesystem::exists(path("b.scaffold")));
  }
}

HSCAFFOLD_TEST(StudyRepairTest)
#include "study_repair_test.moc"
