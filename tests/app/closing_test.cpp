// What happens while questions are asked and menus are open: nobody waits with a pointer in hand, and who is told to go
// on goes on.
#include <QFileDialog>
#include <QMenu>
#include <QProgressDialog>
#include <QSignalSpy>

#include "app/bench/proof_strip.h"
#include "app/proofs/far_engine.h"
#include "app/window_fixture.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class ClosingTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void goingOnLeavesPullsRunning();
  void closingNowGivesUpWhatRuns();
  void proofsThatArriveLeaveOpenMenusAlone();
  void menusOfToolsGoWithTheirTool();
  void savingElsewhereLeavesTheWindowAlive();
  void picturesThatNothingNamesGo();

 private:
  std::shared_ptr<FarEngine> pullAfar() const {
    auto far = std::make_shared<FarEngine>(2);
    desk().addEngine(far);
    document().change("Engine", [](StudyState& s) { s.engine = "far"; });
    desk().queue.pull();
    return far;
  }
  /// The menu of a place on a widget, which stays open.
  static QMenu* menuOf(QWidget& widget, QPoint at) {
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, widget.mapToGlobal(at));
    QApplication::sendEvent(&widget, &event);
    static_cast<void>(QTest::qWaitFor([] { return QApplication::activePopupWidget() != nullptr; }, 2000));
    return qobject_cast<QMenu*>(QApplication::activePopupWidget());
  }
  static QAction* entryOf(const QMenu& menu, const QString& name) {
    for (QAction* action : menu.actions())
      if (action->text() == name) return action;
    return nullptr;
  }
};

void ClosingTest::goingOnLeavesPullsRunning() {
  const auto far = pullAfar();
  QVERIFY(QTest::qWaitFor([&] { return far->asked == 1; }, 20'000 * patience));
  // It is asked about a proof that is pulled alone, too; and who goes on gets it.
  answering("go on pulling", [&] { window_->close(); });
  QVERIFY(window_->isVisible());
  answering("", [&] { window_->close(); });
  QVERIFY(window_->isVisible() && desk().queue.pulling());
  far->letGo();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{1});
  // The queue runs on.
  desk().queue.pull();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{2});
  QVERIFY(window_->close());
}

void ClosingTest::closingNowGivesUpWhatRuns() {
  const auto far = pullAfar();
  QVERIFY(QTest::qWaitFor([&] { return far->asked == 1; }, 20'000 * patience));
  answering("leave waiting", [&] { window_->close(); });
  QVERIFY(!window_->isVisible());
  const auto path = document().path();
  closeWindow();
  const auto file = StudyFile::open(path);
  QVERIFY(file.proofs().empty());
  QCOMPARE(file.readState().engine, std::string("far"));
}

void ClosingTest::proofsThatArriveLeaveOpenMenusAlone() {
  desk().queue.pull();
  settle();
  const std::int64_t first = desk().proofs.all().front().number;
  auto& list = part<QListView>("proofs", &bench());
  // The menu of the first proof is open while forty others arrive: what was known of it lies elsewhere by then.
  const QPoint at = list.visualRect(list.model()->index(0, 0)).center();
  QMenu* menu = menuOf(*list.viewport(), at);
  QVERIFY(menu != nullptr);
  const auto state = this->state();
  for (int i = 0; i < 40; ++i) {
    FinishedProof proof;
    proof.info.recipe = recipeOf(state);
    proof.picture = Image<Rgb8>(state.frame.width, state.frame.height, Rgb8{10, 20, 30});
    proof.png = encodePng(proof.picture.view());
    proof.thumbnail = proof.png;
    desk().proofs.keep(std::move(proof));
  }
  QAction* away = entryOf(*menu, "Put away");
  QVERIFY(away != nullptr);
  away->trigger();
  menu->close();
  QCOMPARE(this->state().discarded, std::vector<std::int64_t>{first});
}

void ClosingTest::menusOfToolsGoWithTheirTool() {
  add("lines");
  press(Qt::Key_P);
  drag({{40, 40}, {200, 60}});
  press(Qt::Key_S);
  drag({{120, 50}, {120, 50}});
  const QPointer<QMenu> menu = menuOf(table(), table().toTable({120, 50}).toPoint());
  QVERIFY(menu && entryOf(*menu, "Delete\tDel") != nullptr);
  // Another guide is selected meanwhile: the strokes that the menu is about are not in hand any more.
  document().look([&](Looking& looking) { looking.guide = state().guides.front().id; });
  QVERIFY(QTest::qWaitFor([&] { return !menu || !menu->isVisible(); }, 2000));
  activate();
  settle();
}

void ClosingTest::savingElsewhereLeavesTheWindowAlive() {
  desk().queue.pull();
  settle();
  const auto before = document().path();
  const auto saving = document().beginSaving(path("elsewhere.scaffold").toStdString());
  QVERIFY(saving && document().busy());
  // Meanwhile a stroke is drawn and a proof is finished: both wait, and both are in the copy.
  document().change("Title", [](StudyState& s) { s.title = "While it was saved"; });
  desk().queue.pull();
  QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() == 2; }, 60'000 * patience));
  QCOMPARE(StudyFile::open(before, StudyFile::Access::read).proofs().size(), std::size_t{1});
  StudyDocument::makeCopy(*saving);
  document().endSaving(*saving);
  QVERIFY(!document().busy());
  settle();
  const auto isKept = [&] {
    const auto now = StudyFile::open(document().path(), StudyFile::Access::read);
    return now.proofs().size() == 2 && now.readState().title == "While it was saved";
  };
  QVERIFY(QTest::qWaitFor(isKept, 10'000));
  QCOMPARE(document().path().filename().string(), std::string("elsewhere.scaffold"));
  QVERIFY(!std::filesystem::exists(before));  // it had no name yet
  // A copy that cannot be made leaves the study where it is, and writable.
  const auto nowhere = document().beginSaving(path("other.scaffold").toStdString());
  nowhere->to = "/nowhere/at/all.scaffold";
  QVERIFY(!problemOf([&] { StudyDocument::makeCopy(*nowhere); }).isEmpty());
  document().endSaving(*nowhere);
  document().change("Title", [](StudyState& s) { s.title = "Still here"; });
  QCOMPARE(StudyFile::open(document().path(), StudyFile::Access::read).readState().title, std::string("Still here"));
}

void ClosingTest::picturesThatNothingNamesGo() {
  const auto file = document().path();
  const auto pictures = [&] {
    const StudyState now = state();
    return now.references.size();
  };
  QCOMPARE(pictures(), std::size_t{1});
  const std::string source = state().references[0].source();
  desk().queue.pull();
  settle();
  // A second picture comes and goes; the proof needs the first one, which goes as well.
  writeScene(path("second.png").toStdString(), 2);
  dropFiles({path("second.png")});
  settle();
  QCOMPARE(pictures(), std::size_t{2});
  const std::string other = state().references[1].source();
  document().change("Take both out", [](StudyState& s) {
    s.references.clear();
    s.guides.clear();
    s.lookAtWhatIsThere();
  });
  undo();
  QCOMPARE(pictures(), std::size_t{2});
  redo();
  closeWindow();
  const auto left = StudyFile::open(file, StudyFile::Access::read);
  QVERIFY(!left.picture(source).empty());
  QVERIFY(problemOf([&] { static_cast<void>(left.picture(other)); }).contains("missing"));
}

HSCAFFOLD_TEST(ClosingTest)
#include "closing_test.moc"
