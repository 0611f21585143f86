// What a killed program had done and not written yet: found again by who opens the study, and by nobody else's.
#include <SQLiteCpp/SQLiteCpp.h>

#include <QTest>

#include "core/study/study_examples.h"
#include "core/study/study_file.h"
#include "core/study/study_notes.h"
#include "fixtures.h"
#include "full_disk.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Bytes bytes(const std::string& text) {
  const auto all = bytesOf(text);
  return {all.begin(), all.end()};
}

}  // namespace

class StudyNotesTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void whatWasNotedIsWrittenByWhoOpensNext();
  void whoOnlyLooksSeesItAndWritesNothing();
  void proofsThatAreThereAlreadyAreNotThereTwice();
  void sheetsAreTakenUpToo();
  void olderCopiesAndOtherStudiesTakeNothingUp();
  void studiesThatNeverCountedTakeUpTheirOwn();
  void brokenNotesAreNone();
  void everyChangeIsAStep();
  void aFullDiskLeavesItNoted();
  void whatCannotBeNotedIsNot();

 private:
  /// As a program notes that gave the study another title, and a picture and hand work with it.
  [[nodiscard]] StudyEntry nextStep(const StudyFile& file, const std::string& title) const {
    StudyState state = file.readState();
    state.title = title;
    StudyEntry entry;
    entry.settings = settingsText(state);
    entry.step = file.step() + 1;
    entry.parts = {{"0123456789abcdef0123456789abcdef", "tile", bytes("a tile")}};
    entry.pictures = {pictureFile(bytes("a picture"))};
    return entry;
  }
  std::unique_ptr<QTemporaryDir> folder_;
  std::filesystem::path study_;
};

void StudyNotesTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  study_ = fixtures::in(*folder_, "a.scaffold");
  qputenv("XDG_RUNTIME_DIR", QFile::encodeName(folder_->path()));
  StudyState state;
  state.title = "As it was";
  static_cast<void>(StudyFile::create(study_, state));
}

void StudyNotesTest::whatWasNotedIsWrittenByWhoOpensNext() {
  const auto before = StudyFile::open(study_);
  const auto entry = nextStep(before, "Not written yet");
  StudyNotes(study_).put(StudyNotes::Name::step, before.step(), entry);
  // A later one takes the place of the first.
  auto later = nextStep(before, "Nor this");
  ++later.step;
  StudyNotes(study_).put(StudyNotes::Name::step, before.step(), later);
  {
    const auto file = StudyFile::open(study_);
    QCOMPARE(file.readState().title, std::string("Nor this"));
    QCOMPARE(file.step(), later.step);
    QVERIFY(file.work(later.parts[0].id) == later.parts[0].bytes);
    QVERIFY(file.picture(later.pictures[0].content) == *later.pictures[0].bytes);
    QVERIFY(file.mended().empty());
  }
  // It is in the file now, and noted no longer.
  QVERIFY(StudyNotes(study_).after(before.step()).empty());
  std::filesystem::remove_all(StudyNotes::folder());
  QCOMPARE(StudyFile::open(study_).readState().title, std::string("Nor this"));
}

void StudyNotesTest::whoOnlyLooksSeesItAndWritesNothing() {
  const auto before = StudyFile::open(study_, StudyFile::Access::read);
  const auto entry = nextStep(before, "Not written yet");
  StudyNotes(study_).put(StudyNotes::Name::step, before.step(), entry);
  const Bytes was = readWholeFile(study_);
  const auto looking = StudyFile::open(study_, StudyFile::Access::read);
  QCOMPARE(looking.readState().title, std::string("Not written yet"));
  QVERIFY(looking.work(entry.parts[0].id) == entry.parts[0].bytes);
  QVERIFY(looking.picture(entry.pictures[0].content) == *entry.pictures[0].bytes);
  QVERIFY(readWholeFile(study_) == was);
  QCOMPARE(StudyNotes(study_).after(before.step()).size(), std::size_t{1});
}

void StudyNotesTest::proofsThatAreThereAlreadyAreNotThereTwice() {
  auto file = StudyFile::open(study_);
  const auto row = [](std::int64_t number, const std::string& made) {
    ProofInfo info;
    info.number = number;
    info.made = made;
    return rowOf(info, bytes("proof of " + made), bytes("small"));
  };
  StudyEntry entry;
  entry.proofs = {row(1, "noon"), row(2, "evening"), row(3, "late")};
  StudyNotes(study_).put(StudyNotes::Name::shelf, file.step(), entry);
  // Killed between writing the first and saying so; of the second's number there is another one by now.
  StudyEntry written;
  written.proofs = {row(1, "noon"), row(2, "night")};
  file.write(written);
  const auto opened = StudyFile::open(study_);
  const auto proofs = opened.proofs();
  QCOMPARE(proofs.size(), std::size_t{4});
  QCOMPARE(proofs[0].made, std::string("noon"));
  QCOMPARE(proofs[1].made, std::string("night"));
  QCOMPARE(proofs[2].made, std::string("evening"));
  QCOMPARE(proofs[3].made, std::string("late"));
  QVERIFY(opened.proofPng(3) == bytes("proof of evening"));
  QCOMPARE(opened.lastProof(), std::int64_t{4});
  QCOMPARE(StudyFile::open(study_).proofs().size(), std::size_t{4});
}

void StudyNotesTest::sheetsAreTakenUpToo() {
  auto file = StudyFile::open(study_);
  const auto sheet = [](std::int64_t number, const std::string& made, std::vector<std::uint32_t> seeds,
                        std::vector<int> waiting) {
    SheetInfo info;
    info.number = number;
    info.made = made;
    info.plan.seeds = std::move(seeds);
    info.waiting = std::move(waiting);
    return rowOf(info);
  };
  StudyEntry written;
  written.sheets = {sheet(1, "noon", {1, 2, 3}, {0, 1, 2}), sheet(2, "night", {5, 6}, {1})};
  file.write(written);
  // The first went on, a third is new; of the second's number there is another one by now.
  StudyEntry entry;
  entry.sheets = {sheet(1, "noon", {1, 2, 3}, {2}), sheet(2, "evening", {7}, {0}), sheet(3, "late", {8, 9}, {0, 1})};
  ProofInfo proof;
  proof.number = 1;
  proof.made = "late";
  proof.sheet = 3;
  proof.cell = 1;
  entry.proofs = {rowOf(proof, bytes("a proof"), bytes("small"))};
  StudyNotes(study_).put(StudyNotes::Name::shelf, file.step(), entry);
  const auto opened = StudyFile::open(study_);
  const auto sheets = opened.sheets();
  QCOMPARE(sheets.size(), std::size_t{3});
  QCOMPARE(opened.lastSheet(), std::int64_t{3});
  QCOMPARE(sheets[0].waiting, std::vector<int>{2});
  QCOMPARE(sheets[1].made, std::string("night"));
  QCOMPARE(sheets[1].plan.seeds, (std::vector<std::uint32_t>{5, 6}));
  QCOMPARE(sheets[2].made, std::string("late"));
  QCOMPARE(sheets[2].waiting, (std::vector<int>{0, 1}));
  QCOMPARE(opened.proofs().at(0).sheet, std::int64_t{3});
  QVERIFY(opened.mended().empty());
}

void StudyNotesTest::olderCopiesAndOtherStudiesTakeNothingUp() {
  const auto backup = fixtures::in(*folder_, "backup.scaffold"), other = fixtures::in(*folder_, "b.scaffold");
  static_cast<void>(StudyFile::create(other, {}));
  std::filesystem::copy_file(study_, backup);
  {
    auto file = StudyFile::open(study_);
    StudyState state = file.readState();
    state.title = "Gone on";
    file.writeState(state);
    StudyNotes(study_).put(StudyNotes::Name::step, file.step(), nextStep(file, "Not written yet"));
    StudyEntry shelf;
    shelf.proofs = {rowOf(ProofInfo(), bytes("proof"), bytes("small"))};
    StudyNotes(study_).put(StudyNotes::Name::shelf, file.step(), shelf);
  }
  // Under the same name, even in the same file of the disk: whoever brings a backup back wants that.
  for (const auto& from : {backup, other}) {
    fixtures::writeFile(study_, textOf(readWholeFile(from)));
    const auto file = StudyFile::open(study_, StudyFile::Access::read);
    QVERIFY(file.readState().title != "Not written yet");
    QVERIFY(StudyNotes(study_).after(file.step()).empty());
  }
  QVERIFY(StudyFile::open(study_).proofs().empty());
}

void StudyNotesTest::studiesThatNeverCountedTakeUpTheirOwn() {
  SQLite::Database(study_.string(), SQLite::OPEN_READWRITE).exec("DELETE FROM settings WHERE name = 'written'");
  StudyEntry entry;
  {
    const auto file = StudyFile::open(study_);
    QCOMPARE(file.step(), std::int64_t{0});
    entry = nextStep(file, "Not written yet");
    entry.step = firstStep();
  }
  StudyNotes(study_).put(StudyNotes::Name::step, 0, entry);
  // One that lies elsewhere may be another one.
  const auto moved = fixtures::in(*folder_, "moved.scaffold");
  std::filesystem::rename(study_, moved);
  QCOMPARE(StudyFile::open(moved, StudyFile::Access::read).readState().title, std::string("As it was"));
  std::filesystem::rename(moved, study_);
  QCOMPARE(StudyFile::open(study_).readState().title, std::string("Not written yet"));
  // From now on it is known wherever it lies.
  const auto now = StudyFile::open(study_);
  StudyNotes(study_).put(StudyNotes::Name::step, now.step(), nextStep(now, "Moved"));
  std::filesystem::rename(study_, moved);
  QCOMPARE(StudyFile::open(moved).readState().title, std::string("Moved"));
}

void StudyNotesTest::brokenNotesAreNone() {
  const auto file = StudyFile::open(study_);
  const Bytes whole = noteOf(nextStep(file, "Not written yet"), file.step(), study_.string());
  StudyEntry entry;
  std::int64_t written = 0;
  std::string study;
  QVERIFY(readNote(whole, entry, written, study));
  QCOMPARE(written, file.step());
  QCOMPARE(study, study_.string());
  for (std::size_t length = 0; length < whole.size(); ++length)
    QVERIFY(!readNote(std::span(whole).first(length), entry, written, study));
  for (std::size_t place = 0; place < whole.size(); ++place) {
    Bytes changed = whole;
    changed[place] ^= std::byte{1};
    QVERIFY(!readNote(changed, entry, written, study));
  }
  // Whole, but not ours.
  fixtures::writeFile(StudyNotes::folder() / "nothing", "");
  StudyNotes(study_).put(StudyNotes::Name::step, file.step(), {});
  for (const auto& one : std::filesystem::directory_iterator(StudyNotes::folder()))
    fixtures::writeFile(one.path(), "no note");
  QCOMPARE(StudyFile::open(study_).readState().title, std::string("As it was"));
}

void StudyNotesTest::everyChangeIsAStep() {
  auto file = StudyFile::open(study_);
  QVERIFY(file.step() > 0);
  const std::int64_t first = file.step();
  file.writeState(file.readState());
  QCOMPARE(file.step(), first + 1);
  // A copy goes on from there.
  file.copyTo(fixtures::in(*folder_, "copy.scaffold"));
  QCOMPARE(StudyFile::open(fixtures::in(*folder_, "copy.scaffold")).step(), first + 1);
  // Proofs and sheets are no steps.
  StudyEntry entry;
  entry.proofs = {rowOf(ProofInfo(), bytes("proof"), bytes("small"))};
  file.write(entry);
  QCOMPARE(file.step(), first + 1);
}

void StudyNotesTest::aFullDiskLeavesItNoted() {
  const std::int64_t before = StudyFile::open(study_).step();
  {
    const auto file = StudyFile::open(study_);
    StudyNotes(study_).put(StudyNotes::Name::step, file.step(), nextStep(file, "Not written yet"));
  }
  {
    const fixtures::FullDisk full;
    auto file = StudyFile::open(study_);
    // It can be looked at, and nothing comes before what is noted.
    QVERIFY(!file.writable());
    QCOMPARE(file.readState().title, std::string("Not written yet"));
    QCOMPARE(file.mended().size(), std::size_t{1});
    QVERIFY(!fixtures::problemOf([&] { file.writeState({}); }).isEmpty());
  }
  QCOMPARE(StudyNotes(study_).after(before).size(), std::size_t{1});
  const auto file = StudyFile::open(study_);
  QVERIFY(file.writable() && file.mended().empty());
  QCOMPARE(file.readState().title, std::string("Not written yet"));
}

void StudyNotesTest::whatCannotBeNotedIsNot() {
  // A folder that others may write into is nobody's own.
  const auto open = fixtures::in(*folder_, "open");
  std::filesystem::create_directory(open);
  std::filesystem::permissions(open, std::filesystem::perms::all);
  qputenv("XDG_RUNTIME_DIR", open.c_str());
  const auto elsewhere = StudyNotes::folder();
  QVERIFY(!elsewhere.empty() && elsewhere.parent_path() != open);
  // Nor is a place where no file can be made.
  qputenv("XDG_RUNTIME_DIR", QFile::encodeName(folder_->path()));
  const auto file = StudyFile::open(study_);
  const StudyNotes notes(study_);
  std::filesystem::remove_all(StudyNotes::folder());
  notes.put(StudyNotes::Name::step, file.step(), nextStep(file, "Not written yet"));
  QVERIFY(notes.after(file.step()).empty());
  QCOMPARE(StudyFile::open(study_).readState().title, std::string("As it was"));
}

HSCAFFOLD_TEST(StudyNotesTest)
#include "study_notes_test.moc"
