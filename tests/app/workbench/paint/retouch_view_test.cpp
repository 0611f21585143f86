// Retouch by hand in the real window, with real events.
#include <QPointingDevice>
#include <QTabletEvent>
#include <QToolButton>

#include "app/window_fixture.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/paint/scribble.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class RetouchViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void drawingChangesTheMapAtOnce();
  void rubbingOutAndRestoring();
  void twoHundredStrokesSurviveRetuning();
  void undoLeadsBackToTheFirstMap();
  void escapeGivesUpAStroke();
  void regionsArePaintedOverMissingRetouch();
  void anotherSizeInTheMiddleOfAStroke();
  void shiftDrawsStraight();
  void penPressureMakesStrokesThinner();
  void keysTakeToolsAndSizes();
  void loopsDropAndKeep();
  void quickWorkIsNotLost();
  void specksAreDropped();
  void retouchIsHiddenClearedAndMerged();
  void movedGroundIsShownAndRestored();
  void beforeAndPaperAreShown();
};

void RetouchViewTest::drawingChangesTheMapAtOnce() {
  press(Qt::Key_D);
  QCOMPARE(desk_->workbench.tool(), ToolName::draw);
  desk_->workbench.settings.size = 12;
  SourceTable& t = table();
  const QPointF from = t.toTable({60, 40}), to = t.toTable({200, 40});
  QTest::mousePress(&t, Qt::LeftButton, {}, from.toPoint());
  QMouseEvent move(QEvent::MouseMove, to, t.mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(&t, &move);
  // Before the button is let go, the picture that is shown has it, and the study has not.
  QCOMPARE(desk_->maps.mapOf(guide().id)->grey.pixelColor(130, 40).red(), 255);
  QVERIFY(!guide().work.has("retouch"));
  QTest::mouseRelease(&t, Qt::LeftButton, {}, to.toPoint());
  QVERIFY(guide().work.has("retouch"));
  QCOMPARE(document().history().undoName(), std::string("Draw"));
  settle();
  QCOMPARE(map()(130, 40), std::uint16_t{65535});
  QCOMPARE(desk_->maps.mapOf(guide().id)->grey.pixelColor(130, 40).red(), 255);
  // It is in the file already.
  const auto file = StudyFile::open(document().path());
  QCOMPARE(file.readState().guides[0].work.in("retouch"), guide().work.in("retouch"));
  QVERIFY(!file.work(guide().work.in("retouch")).empty());
}

void RetouchViewTest::rubbingOutAndRestoring() {
  const Map before = map().clone();
  desk_->workbench.settings.size = 400;
  desk_->workbench.settings.hardness = 100;
  press(Qt::Key_R);
  drag({{240, 160}, {245, 160}});
  settle();
  QCOMPARE(map()(240, 160), std::uint16_t{0});
  QVERIFY(!(map() == before));
  press(Qt::Key_T);
  drag({{240, 160}, {245, 160}});
  drag({{235, 160}, {250, 160}});
  settle();
  QVERIFY(map() == before);
}

void RetouchViewTest::twoHundredStrokesSurviveRetuning() {
  HandWork& work = desk_->workbench.work;
  for (int i = 0; i < 200; ++i) {
    const auto places = placesOf(i);
    QVERIFY(work.begin(Surface::retouch, brushOf(i), places[0], 1));
    for (const QPointF p : places) work.strokeTo(p, 1);
    work.end();
    if (i % 40 == 0) settle();
  }
  settle();
  const std::string name = guide().work.in("retouch");
  const auto layer = document().work().layer(name);
  for (const double high : {0.05, 0.3}) {
    document().change("Tune", [&](StudyState& s) {
      s.guides[0].tuning = {{"thresholds", 1}, {"high", high}, {"low", high / 2}};
    });
    settle();
    QCOMPARE(guide().work.in("retouch"), name);
    for (int y = 0; y < 320; ++y)
      for (int x = 0; x < 480; ++x)
        if (layer->at(x, y).cover == 65535) QCOMPARE(map()(x, y), layer->at(x, y).value);
  }
}

void RetouchViewTest::undoLeadsBackToTheFirstMap() {
  const Map first = map().clone();
  press(Qt::Key_D);
  for (int i = 0; i < 12; ++i) drag({{30.0 + 30 * i, 60}, {50.0 + 30 * i, 200}});
  settle();
  const Map last = map().clone();
  QVERIFY(!(last == first));
  for (int i = 0; i < 12; ++i) undo();
  settle();
  QVERIFY(map() == first);
  QVERIFY(!guide().work.has("retouch"));
  for (int i = 0; i < 12; ++i) redo();
  settle();
  QVERIFY(map() == last);
}

void RetouchViewTest::escapeGivesUpAStroke() {
  const Map before = map().clone();
  press(Qt::Key_D);
  SourceTable& t = table();
  QTest::mousePress(&t, Qt::LeftButton, {}, t.toTable({100, 100}).toPoint());
  QVERIFY(desk_->workbench.work.active());
  press(Qt::Key_Escape);
  QVERIFY(!desk_->workbench.work.active());
  QTest::mouseRelease(&t, Qt::LeftButton, {}, t.toTable({140, 100}).toPoint());
  settle();
  QVERIFY(map() == before);
  QCOMPARE(desk_->maps.mapOf(guide().id)->grey.pixelColor(100, 100).red(), before(100, 100) >> 8);
  QVERIFY(!guide().work.has("retouch"));
  press(Qt::Key_Escape);
  QCOMPARE(desk_->workbench.tool(), ToolName::look);
}

void RetouchViewTest::regionsArePaintedOverMissingRetouch() {
  // As a study from elsewhere may be: the retouch that the guide names is not in it.
  document().change("Broken", [](StudyState& s) { s.guides[0].work.put(retouchSlot, "0123456789abcdef"); });
  settle();
  press(Qt::Key_G);
  press(Qt::Key_D);
  drag({{60, 40}, {120, 60}, {200, 40}});
  settle();
  QVERIFY(guide().work.has(regionSlot));
  QCOMPARE(guide().work.in(retouchSlot), std::string("0123456789abcdef"));
}

void RetouchViewTest::anotherSizeInTheMiddleOfAStroke() {
  press(Qt::Key_D);
  desk_->workbench.settings.size = 12;
  drag({{40, 40}, {80, 40}}, {}, false);
  press(Qt::Key_BracketRight);
  QVERIFY(desk_->workbench.settings.size > 12);
  // The same stroke goes on, and ends where the pointer is let go.
  QVERIFY(desk_->workbench.work.active());
  const QPointF to = table().toTable({160, 40});
  QMouseEvent move(QEvent::MouseMove, to, table().mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(&table(), &move);
  QTest::mouseRelease(&table(), Qt::LeftButton, {}, to.toPoint());
  settle();
  QCOMPARE(map()(150, 40), std::uint16_t{65535});
  undo();
  QVERIFY(!guide().work.has(retouchSlot));
}

void RetouchViewTest::shiftDrawsStraight() {
  press(Qt::Key_R);
  desk_->workbench.settings.size = 900;
  drag({{240, 160}, {241, 160}});  // a clean sheet
  press(Qt::Key_D);
  desk_->workbench.settings.size = 6;
  // A crooked way with Shift held is a straight line from its beginning to its end.
  drag({{50, 50}, {120, 200}, {200, 20}, {400, 50}}, Qt::ShiftModifier);
  settle();
  for (int x = 60; x < 390; x += 10) QVERIFY2(map()(x, 50) > 60000, qPrintable(QString::number(x)));
  QCOMPARE(map()(120, 150), std::uint16_t{0});
  // And a click with Shift goes on from there.
  drag({{400, 250}}, Qt::ShiftModifier);
  settle();
  QVERIFY(map()(400, 150) > 60000);
}

void RetouchViewTest::penPressureMakesStrokesThinner() {
  press(Qt::Key_R);
  desk_->workbench.settings.size = 900;
  drag({{240, 160}, {241, 160}});
  press(Qt::Key_D);
  desk_->workbench.settings.size = 40;
  desk_->workbench.settings.hardness = 100;
  SourceTable& t = table();
  const auto pen = [&](QEvent::Type type, double pressure) {
    QTabletEvent event(type, QPointingDevice::primaryPointingDevice(), t.toTable({100, 100}),
                       t.mapToGlobal(t.toTable({100, 100})), pressure, 0, 0, 0, 0, 0, Qt::NoModifier, Qt::LeftButton,
                       Qt::LeftButton);
    QApplication::sendEvent(&t, &event);
  };
  const auto widthAt = [&](int x) {
    double sum = 0;
    for (int y = 0; y < 320; ++y) sum += map()(x, y) / 65535.0;
    return sum;
  };
  pen(QEvent::TabletPress, 0.25);
  drag({{50, 100}, {400, 100}});
  pen(QEvent::TabletRelease, 0);
  drag({{50, 250}, {400, 250}});
  settle();
  // A quarter of the pressure, a quarter of the width; without a pen all of it.
  const double both = widthAt(200);
  QVERIFY2(std::abs(both - 50) < 3, qPrintable(QString::number(both)));
}

void RetouchViewTest::keysTakeToolsAndSizes() {
  add("lines");
  for (const auto& [key, tool] : {std::pair{Qt::Key_D, ToolName::draw},
                                  {Qt::Key_R, ToolName::rubOut},
                                  {Qt::Key_T, ToolName::restore},
                                  {Qt::Key_K, ToolName::keepLoop},
                                  {Qt::Key_X, ToolName::dropLoop},
                                  {Qt::Key_P, ToolName::pen},
                                  {Qt::Key_S, ToolName::strokes},
                                  {Qt::Key_L, ToolName::look}}) {
    press(key);
    QCOMPARE(desk_->workbench.tool(), tool);
  }
  press(Qt::Key_D);
  const double size = desk_->workbench.settings.size;
  press(Qt::Key_BracketRight);
  QVERIFY(desk_->workbench.settings.size > size);
  press(Qt::Key_BracketLeft);
  QVERIFY(std::abs(desk_->workbench.settings.size - size) < 1e-6);
  QWheelEvent wheel(QPointF(100, 100), table().mapToGlobal(QPointF(100, 100)), {}, {0, 120}, {}, Qt::ControlModifier,
                    Qt::NoScrollPhase, false);
  QApplication::sendEvent(&table(), &wheel);
  QVERIFY(desk_->workbench.settings.size > size);
  // Edges take strokes, too; for depth there are none, so the tool is put away.
  press(Qt::Key_P);
  document().look([&](Looking& looking) { looking.guide = state().guides[0].id; });
  QCOMPARE(desk_->workbench.tool(), ToolName::pen);
  add("depth");
  QVERIFY(desk_->workbench.tool() != ToolName::pen);
  press(Qt::Key_S);
  QVERIFY(desk_->workbench.tool() != ToolName::strokes);
  document().look([&](Looking& looking) { looking.guide = state().guides[0].id; });
  // The row shows what is in hand.
  press(Qt::Key_R);
  int checked = 0;
  for (QToolButton* button : bench().tools().findChildren<QToolButton*>())
    if (button->isChecked() && button->isVisible()) {
      ++checked;
      QVERIFY(button->accessibleName().startsWith("Rub out"));
    }
  QCOMPARE(checked, 1);
}

void RetouchViewTest::loopsDropAndKeep() {
  const Map before = map().clone();
  const std::vector<QPointF> loop = {{100, 80}, {380, 80}, {380, 240}, {100, 240}, {100, 82}};
  press(Qt::Key_X);
  drag(loop);
  settle();
  QCOMPARE(document().history().undoName(), std::string("Rub out"));
  for (int y = 84; y < 236; ++y)
    for (int x = 104; x < 376; ++x) QCOMPARE(map()(x, y), std::uint16_t{0});
  for (int x = 0; x < 480; ++x) QCOMPARE(map()(x, 300), before(x, 300));
  undo();
  settle();
  press(Qt::Key_K);
  drag(loop);
  settle();
  for (int y = 84; y < 236; ++y)
    for (int x = 104; x < 376; ++x) QCOMPARE(map()(x, y), before(x, y));
  for (int x = 0; x < 480; ++x) QCOMPARE(map()(x, 300), std::uint16_t{0});
}

void RetouchViewTest::quickWorkIsNotLost() {
  // Loops one after the other, with a stroke between them, before any of them is finished.
  press(Qt::Key_X);
  drag({{20, 20}, {120, 20}, {120, 120}, {20, 120}, {20, 22}});
  drag({{200, 20}, {300, 20}, {300, 120}, {200, 120}, {200, 22}});
  press(Qt::Key_D);
  desk_->workbench.settings.size = 10;
  drag({{20, 300}, {460, 300}});
  press(Qt::Key_X);
  drag({{350, 150}, {450, 150}, {450, 250}, {350, 250}, {350, 152}});
  settle();
  const auto layer = document().work().layer(guide().work.in("retouch"));
  for (const QPoint p : {QPoint(70, 70), QPoint(250, 70), QPoint(400, 200)}) {
    QCOMPARE(layer->at(p.x(), p.y()).cover, std::uint16_t{65535});
    QCOMPARE(map()(p.x(), p.y()), std::uint16_t{0});
  }
  QCOMPARE(map()(240, 300), std::uint16_t{65535});
  for (int i = 0; i < 4; ++i) undo();
  QVERIFY(!guide().work.has("retouch"));
}

void RetouchViewTest::specksAreDropped() {
  press(Qt::Key_R);
  desk_->workbench.settings.size = 900;
  drag({{240, 160}, {241, 160}});
  desk_->workbench.settings.size = 3;
  press(Qt::Key_D);
  for (int i = 0; i < 5; ++i) drag({{40.0 + 60 * i, 60}});
  drag({{40, 200}, {400, 200}});
  settle();
  QAction* action = menuAction("Pieces below 60");
  QVERIFY(action != nullptr);
  action->trigger();
  settle();
  QVERIFY2(window_->shownSentence().contains("5 specks"), qPrintable(window_->shownSentence()));
  QCOMPARE(map()(100, 60), std::uint16_t{0});
  QVERIFY(map()(200, 200) > 60000);
}

void RetouchViewTest::retouchIsHiddenClearedAndMerged() {
  const Map before = map().clone();
  QVERIFY(!menuAction("Clear retouch")->isEnabled());
  press(Qt::Key_D);
  drag({{60, 40}, {300, 250}});
  settle();
  const Map after = map().clone();
  menuAction("Hide retouch")->trigger();
  settle();
  QVERIFY(map() == before);
  menuAction("Hide retouch")->trigger();
  settle();
  QVERIFY(map() == after);
  const std::string old = guide().id;
  menuAction("Merge into a new map")->trigger();
  settle();
  QVERIFY(guide().id != old);
  QVERIFY(!state().guide(old)->on);
  QVERIFY(map() == after);
  // Whatever the tuning, the merged map is what it is.
  const Map extracted = desk_->maps.belowOf(guide().id)->clone();
  document().change("Tune", [&](StudyState& s) { s.guide(guide().id)->tuning["blur"] = 4; });
  settle();
  QVERIFY(!(*desk_->maps.belowOf(guide().id) == extracted));
  QVERIFY(map() == after);
  document().look([&](Looking& looking) { looking.guide = old; });
  menuAction("Clear retouch")->trigger();
  settle();
  QVERIFY(map() == before);
}

void RetouchViewTest::movedGroundIsShownAndRestored() {
  document().change("Tune", [&](StudyState& s) {
    s.guides[0].tuning = {{"thresholds", 1}, {"high", 0.9}, {"low", 0.9}};  // nothing is edge
  });
  settle();
  press(Qt::Key_R);
  desk_->workbench.settings.size = 300;
  desk_->workbench.settings.hardness = 100;
  drag({{240, 160}, {242, 160}});
  settle();
  QVERIFY(!menuAction("Nothing moved")->isEnabled());
  document().change("Tune", [&](StudyState& s) { s.guides[0].tuning.clear(); });
  settle();
  const int moved = desk_->maps.mapOf(guide().id)->movedUnder;
  QVERIFY2(moved > 50, qPrintable(QString::number(moved)));
  QAction* show = menuAction("Show what moved");
  QVERIFY(show != nullptr && show->isEnabled());
  const QImage plain = table().grab().toImage();
  show->trigger();
  QVERIFY(desk_->workbench.movedShown());
  QVERIFY(table().grab().toImage() != plain);
  menuAction("Restore there")->trigger();
  settle();
  QCOMPARE(desk_->maps.mapOf(guide().id)->movedUnder, 0);
}

void RetouchViewTest::beforeAndPaperAreShown() {
  press(Qt::Key_D);
  desk_->workbench.settings.size = 40;
  drag({{60, 60}, {420, 60}});
  press(Qt::Key_L);
  settle();
  table().setGhost(1);
  const auto colourAt = [&](QPointF inFrame) {
    return table().grab().toImage().pixelColor((table().toTable(inFrame) * table().devicePixelRatioF()).toPoint());
  };
  QVERIFY(colourAt({240, 60}).lightness() > 150);
  // Buttons go down and up again, so what they do comes a little later.
  pressInWindow(Qt::Key_B, Qt::ControlModifier);
  QTRY_VERIFY(colourAt({240, 60}).lightness() < 120);
  QTRY_VERIFY(!part("before").isDown());
  pressInWindow(Qt::Key_B, Qt::ControlModifier);
  QTRY_VERIFY(colourAt({240, 60}).lightness() > 150);
  const int ground = colourAt({10, 310}).lightness();
  pressInWindow(Qt::Key_4, Qt::ControlModifier);
  QTRY_VERIFY(colourAt({240, 60}).lightness() < 60);  // black on white now
  QVERIFY(colourAt({10, 310}).lightness() > ground + 100);
}

HSCAFFOLD_TEST(RetouchViewTest)
#include "retouch_view_test.moc"
