// A disk that takes no more, and a study that another program holds: nothing is lost without a word.
#include <QFileDialog>
#include <QFileInfo>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QSignalSpy>

#include "app/window_fixture.h"
#include "core/guides/work.h"
#include "core/study/study_file.h"
#include "full_disk.h"

using namespace hscaffold;
using namespace hscaffold::app;

using fixtures::FullDisk;

class UnwrittenWorkTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void strokesOutliveAFullDisk();
  void proofsOutliveAFullDisk();
  void sheetsOutliveAFullDisk();
  void sheetsAreBegunWhileTheFileIsHeld();
  void closingAsks();
  void openingAnotherStudyAsks();
  void whatIsUnwrittenCanBeSavedElsewhere();

 private:
  void paint() {
    press(Qt::Key_D);
    drag({{60, 40}, {200, 40}});
    document().writer().finish();
  }
  [[nodiscard]] StudyState written() const { return StudyFile::open(document().path()).readState(); }
};

void UnwrittenWorkTest::strokesOutliveAFullDisk() {
  const QSignalSpy problems(&desk(), &Desk::problem);
  {
    const FullDisk full;
    paint();
    // It is on the table and in the study, and one sentence says that the file has not got it.
    QVERIFY(guide().work.has(retouchSlot));
    QCOMPARE(problems.size(), 1);
    QVERIFY(problems[0][0].toString().contains("nothing is forgotten"));
    QVERIFY(!written().guides[0].work.has(retouchSlot));
    paint();
    QCOMPARE(problems.size(), 1);
  }
  // There is room again: it is written without being asked for.
  QVERIFY(QTest::qWaitFor([&] { return document().unwritten().isEmpty(); }, 20'000));
  const auto kept = StudyFile::open(document().path());
  QCOMPARE(kept.readState().guides[0].work.in(retouchSlot), guide().work.in(retouchSlot));
  QVERIFY(!kept.work(guide().work.in(retouchSlot)).empty());
}

void UnwrittenWorkTest::proofsOutliveAFullDisk() {
  document().change("Quick", [](StudyState& s) { s.brief.steps = 3; });
  settle();
  QVERIFY(QTest::qWaitFor([&] { return document().unwritten().isEmpty(); }, 20'000));
  const QSignalSpy problems(&desk(), &Desk::problem);
  {
    const FullDisk full;
    desk().queue.pull();
    settle();
    QCOMPARE(desk().proofs.all().size(), std::size_t{1});
    // It is a proof like the others, only not in the file; one sentence says so.
    QCOMPARE(problems.size(), 1);
    QVERIFY(problems[0][0].toString().contains("in this window only"));
    const std::int64_t number = desk().proofs.current()->number;
    QCOMPARE(desk().proofs.image(number).size(), QSize(480, 320));
    QVERIFY(!desk().proofs.thumbnail(number).isNull());
    answering("goOn", [&] { window_->close(); });
    QVERIFY(StudyFile::open(document().path()).proofs().empty());
  }
  // There is room again: it is kept without being asked for, under the number it was shown with.
  QVERIFY(QTest::qWaitFor([&] { return !StudyFile::open(document().path()).proofs().empty(); }, 20'000));
  QCOMPARE(StudyFile::open(document().path()).proofs()[0].number, desk().proofs.current()->number);
  desk().queue.pull();
  settle();
  QCOMPARE(StudyFile::open(document().path()).proofs().size(), std::size_t{2});
  QVERIFY(window_->close());
}

void UnwrittenWorkTest::sheetsOutliveAFullDisk() {
  document().change("Small and quick", [](StudyState& s) {
    s.frame = {192, 128};
    s.brief.steps = 6;
  });
  settle();
  SheetPlan plan;
  plan.base = recipeOf(state());
  for (std::uint32_t seed = 1; seed <= 8; ++seed) plan.seeds.push_back(seed);
  const QSignalSpy problems(&desk(), &Desk::problem);
  const std::int64_t number = desk().queue.pullSheet(plan);
  QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() >= 2; }, 60'000));
  {
    // It fills up in the middle: the sheet goes on, and one sentence says what is not in the file.
    const FullDisk full;
    settle();
    QCOMPARE(desk().proofs.all().size(), std::size_t{8});
    QVERIFY(StudyFile::open(document().path(), StudyFile::Access::read).proofs().size() < 8);
    int said = 0;
    for (const auto& problem : problems) said += problem[0].toString().contains("in this window only") ? 1 : 0;
    QCOMPARE(said, 1);
    // None can be begun that could not be kept.
    QCOMPARE(desk().queue.pullSheet(plan), std::int64_t{0});
    QVERIFY(desk().queue.all().empty());
  }
  QVERIFY(QTest::qWaitFor(
      [&] { return StudyFile::open(document().path(), StudyFile::Access::read).proofs().size() == 8; }, 20'000));
  std::set<int> cells;
  for (const ProofInfo& proof : StudyFile::open(document().path(), StudyFile::Access::read).proofs()) {
    QCOMPARE(proof.sheet, number);
    cells.insert(proof.cell);
  }
  QCOMPARE(cells.size(), std::size_t{8});
  QVERIFY(window_->close());
}

void UnwrittenWorkTest::sheetsAreBegunWhileTheFileIsHeld() {
  document().change("Small and quick", [](StudyState& s) {
    s.frame = {192, 128};
    s.brief.steps = 3;
  });
  settle();
  QVERIFY(QTest::qWaitFor([&] { return document().unwritten().isEmpty(); }, 20'000));
  SheetPlan plan;
  plan.base = recipeOf(state());
  plan.seeds = {1, 2};
  std::int64_t number = 0;
  {
    // As on a disk that stalls: nobody waits for it.
    const fixtures::HeldDatabase held(document().path());
    number = desk().queue.pullSheet(plan);
    QVERIFY(number > 0);
    QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() == 2; }, 60'000));
    QVERIFY(desk().proofs.sheet(number)->waiting.empty());
  }
  const auto inFile = [&] { return StudyFile::open(document().path(), StudyFile::Access::read); };
  QVERIFY(QTest::qWaitFor([&] { return inFile().proofs().size() == 2; }, 30'000));
  settle();
  QCOMPARE(inFile().sheets().size(), std::size_t{1});
  QCOMPARE(inFile().sheets()[0].number, number);
  QCOMPARE(inFile().sheets()[0].plan.seeds, plan.seeds);
  for (const ProofInfo& proof : inFile().proofs()) QCOMPARE(proof.sheet, number);
}

void UnwrittenWorkTest::closingAsks() {
  {
    const FullDisk full;
    paint();
    answering("goOn", [&] { window_->close(); });
    QVERIFY(window_->isVisible() && guide().work.has(retouchSlot));
    activate();
    answering("", [&] { pressInWindow(Qt::Key_Q, Qt::ControlModifier); });
    QVERIFY(window_->isVisible() && guide().work.has(retouchSlot));
    answering("loseIt", [&] { window_->close(); });
    QVERIFY(!window_->isVisible());
  }
  window_->show();
  // With room on the disk nothing is asked.
  QVERIFY(window_->close());
  QVERIFY(written().guides[0].work.has(retouchSlot));
}

void UnwrittenWorkTest::openingAnotherStudyAsks() {
  document().change("Title", [](StudyState& s) { s.title = "First"; });
  document().saveAs(path("first.scaffold").toStdString());
  document().createUntitled();
  document().change("Title", [](StudyState& s) { s.title = "Second"; });
  document().saveAs(path("second.scaffold").toStdString());
  bringInScene();
  {
    const fixtures::HeldDatabase held(path("second.scaffold").toStdString());
    paint();
    answering("goOn", [&] { dropFiles({path("first.scaffold")}); });
    QCOMPARE(state().title, std::string("Second"));
    QVERIFY(guide().work.has(retouchSlot));
    activate();
    answering("goOn", [&] { pressInWindow(Qt::Key_N, Qt::ControlModifier); });
    QCOMPARE(state().title, std::string("Second"));
    QVERIFY(guide().work.has(retouchSlot));
  }
  // Held no longer: what was done is written before the other one opens, and nothing is asked.
  dropFiles({path("first.scaffold")});
  settle();
  QCOMPARE(state().title, std::string("First"));
  QVERIFY(StudyFile::open(fixtures::in(*folder_, "second.scaffold")).readState().guides[0].work.has(retouchSlot));
}

void UnwrittenWorkTest::whatIsUnwrittenCanBeSavedElsewhere() {
  QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
  document().saveAs(path("held.scaffold").toStdString());
  const fixtures::HeldDatabase held(path("held.scaffold").toStdString());
  paint();
  const std::string work = guide().work.in(retouchSlot);
  QTimer look;
  QObject::connect(&look, &QTimer::timeout, [&] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (dialog == nullptr) return;
    // Typed as somebody would: selectFile does not touch the name while it has the focus.
    auto& name = part<QLineEdit>("fileNameEdit", dialog);
    name.setText(path("elsewhere.scaffold"));
    // While the folder is still being read the dialog may name the file that it began with.
    if (QFileInfo(dialog->selectedFiles().value(0)).fileName() != "elsewhere.scaffold") return;
    look.stop();
    QTest::keyClick(dialog, Qt::Key_Return);
  });
  look.start(20);
  answering("elsewhere", [&] { QVERIFY(window_->close()); });
  const auto kept = StudyFile::open(fixtures::in(*folder_, "elsewhere.scaffold"));
  QCOMPARE(kept.readState().guides[0].work.in(retouchSlot), work);
  QVERIFY(!kept.work(work).empty());
}

HSCAFFOLD_TEST(UnwrittenWorkTest)
#include "unwritten_work_test.moc"
