// Retouch, regions and strokes by hand, in the real window with real events; and what of them survives.
#include <QComboBox>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>
#include <cstdio>

#include "app/bench/bench_view.h"
#include "app/bench/line_chooser.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/lines/line_export.h"
#include "core/lines/trace.h"
#include "drawn_pages.h"
#include "files/svg_lines.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// Stroke `i` of the program that is killed: its places in the frame.
std::vector<QPointF> placesOf(int i) {
  std::vector<QPointF> places;
  for (int k = 0; k < 8; ++k) places.emplace_back(20 + (i * 37) % 400 + 4 * k, 20 + (i * 53) % 260 + 3 * (k % 4));
  return places;
}

Brush brushOf(int i) { return {i % 3 == 2 ? PaintMode::rubOut : PaintMode::draw, 6.0 + i % 5, 0.7, 1}; }

/// Paints until it is killed, and says which stroke it has finished.
int paintForEver(const QString& path, int from) {
  Desk desk;
  MainWindow window(desk);
  desk.document.open(path.toStdString());
  window.show();
  fixtures::settle(desk);
  HandWork& work = desk.workbench.work;
  for (int i = from;; ++i) {
    const auto places = placesOf(i);
    if (!work.begin(Surface::retouch, brushOf(i), places[0], 1)) return 2;
    for (const QPointF p : places) {
      work.strokeTo(p, 1);
      QCoreApplication::processEvents();
    }
    work.end();
    std::printf("%d\n", i);
    std::fflush(stdout);
  }
}

}  // namespace

class HandWorkTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();
  void drawingChangesTheMapAtOnce();
  void rubbingOutAndRestoring();
  void twoHundredStrokesSurviveRetuning();
  void undoLeadsBackToTheFirstMap();
  void escapeGivesUpAStroke();
  void shiftDrawsStraight();
  void penPressureMakesStrokesThinner();
  void keysTakeToolsAndSizes();
  void loopsDropAndKeep();
  void quickWorkIsNotLost();
  void specksAreDropped();
  void retouchIsHiddenClearedAndMerged();
  void movedGroundIsShownAndRestored();
  void beforeAndPaperAreShown();
  void regionsArePaintedInvertedFeatheredAndCleared();
  void regionsGrowFromColour();
  void thePenDrawsAFittedStroke();
  void tracingGivesStrokesToTakeHoldOf();
  void looseLinesComeFromThisMap();
  void svgComesInAndGoesOut();
  void linesAreComparedAndChosen();
  void pulledProofsKeepTheirHandWork();
  void killedWhilePainting();

 private:
  SourceTable& table() { return bench().source(); }
  const Guide& guide() const { return *desk_->document.state().selectedGuide(); }
  const Map& map() { return *desk_->maps.mapOf(guide().id)->map; }
  void settle() { QVERIFY(fixtures::settle(*desk_)); }
  void add(const std::string& kind) {
    addGuide(desk_->document, kind);
    settle();
  }
  void drag(const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {}) {
    fixtures::dragOver(table(), inFrame, keys);
  }
  void press(Qt::Key key, Qt::KeyboardModifiers keys = {}) { QTest::keyClick(&table(), key, keys); }
  QAction* menuAction(const QString& begins);
  QString path(const char* name) const { return folder_->filePath(name); }

  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<Desk> desk_;
  BenchView& bench() { return *window_->findChild<BenchView*>(); }
  std::unique_ptr<MainWindow> window_;
};

void HandWorkTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  desk_ = std::make_unique<Desk>();
  window_ = std::make_unique<MainWindow>(*desk_);
  desk_->document.createUntitled();
  desk_->document.change("Small", [](StudyState& s) { s.frame = {480, 320}; });
  window_->show();
  QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
}

void HandWorkTest::cleanup() {
  window_.reset();
  desk_.reset();
}

QAction* HandWorkTest::menuAction(const QString& begins) {
  for (QToolButton* button : bench().tools().findChildren<QToolButton*>()) {
    if (button->menu() == nullptr) continue;
    emit button->menu()->aboutToShow();
    for (QAction* action : button->menu()->actions())
      if (action->text().startsWith(begins)) return action;
  }
  return nullptr;
}

void HandWorkTest::drawingChangesTheMapAtOnce() {
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
  QCOMPARE(desk_->document.history().undoName(), std::string("Draw"));
  settle();
  QCOMPARE(map()(130, 40), std::uint16_t{65535});
  QCOMPARE(desk_->maps.mapOf(guide().id)->grey.pixelColor(130, 40).red(), 255);
  // It is in the file already.
  const auto file = StudyFile::open(desk_->document.path());
  QCOMPARE(file.readState().guides[0].work.in("retouch"), guide().work.in("retouch"));
  QVERIFY(!file.edit(guide().work.in("retouch")).empty());
}

void HandWorkTest::rubbingOutAndRestoring() {
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

void HandWorkTest::twoHundredStrokesSurviveRetuning() {
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
  const auto layer = desk_->document.edits().layer(name);
  for (const double high : {0.05, 0.3}) {
    desk_->document.change("Tune", [&](StudyState& s) {
      s.guides[0].tuning = {{"thresholds", 1}, {"high", high}, {"low", high / 2}};
    });
    settle();
    QCOMPARE(guide().work.in("retouch"), name);
    for (int y = 0; y < 320; ++y)
      for (int x = 0; x < 480; ++x)
        if (layer->at(x, y).cover == 65535) QCOMPARE(map()(x, y), layer->at(x, y).value);
  }
}

void HandWorkTest::undoLeadsBackToTheFirstMap() {
  const Map first = map().clone();
  press(Qt::Key_D);
  for (int i = 0; i < 12; ++i) drag({{30.0 + 30 * i, 60}, {50.0 + 30 * i, 200}});
  settle();
  const Map last = map().clone();
  QVERIFY(!(last == first));
  for (int i = 0; i < 12; ++i) QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  QVERIFY(map() == first);
  QVERIFY(!guide().work.has("retouch"));
  for (int i = 0; i < 12; ++i) QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  settle();
  QVERIFY(map() == last);
}

void HandWorkTest::escapeGivesUpAStroke() {
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

void HandWorkTest::shiftDrawsStraight() {
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

void HandWorkTest::penPressureMakesStrokesThinner() {
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

void HandWorkTest::keysTakeToolsAndSizes() {
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
  // Pen and strokes are not for edges, so the tool is put away.
  press(Qt::Key_P);
  desk_->document.look([&](Looking& looking) { looking.guide = desk_->document.state().guides[0].id; });
  QCOMPARE(desk_->workbench.tool(), ToolName::look);
  press(Qt::Key_P);
  QCOMPARE(desk_->workbench.tool(), ToolName::look);
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

void HandWorkTest::loopsDropAndKeep() {
  const Map before = map().clone();
  const std::vector<QPointF> loop = {{100, 80}, {380, 80}, {380, 240}, {100, 240}, {100, 82}};
  press(Qt::Key_X);
  drag(loop);
  settle();
  QCOMPARE(desk_->document.history().undoName(), std::string("Rub out"));
  for (int y = 84; y < 236; ++y)
    for (int x = 104; x < 376; ++x) QCOMPARE(map()(x, y), std::uint16_t{0});
  for (int x = 0; x < 480; ++x) QCOMPARE(map()(x, 300), before(x, 300));
  desk_->document.undo();
  settle();
  press(Qt::Key_K);
  drag(loop);
  settle();
  for (int y = 84; y < 236; ++y)
    for (int x = 104; x < 376; ++x) QCOMPARE(map()(x, y), before(x, y));
  for (int x = 0; x < 480; ++x) QCOMPARE(map()(x, 300), std::uint16_t{0});
}

void HandWorkTest::quickWorkIsNotLost() {
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
  const auto layer = desk_->document.edits().layer(guide().work.in("retouch"));
  for (const QPoint p : {QPoint(70, 70), QPoint(250, 70), QPoint(400, 200)}) {
    QCOMPARE(layer->at(p.x(), p.y()).cover, std::uint16_t{65535});
    QCOMPARE(map()(p.x(), p.y()), std::uint16_t{0});
  }
  QCOMPARE(map()(240, 300), std::uint16_t{65535});
  for (int i = 0; i < 4; ++i) desk_->document.undo();
  QVERIFY(!guide().work.has("retouch"));
}

void HandWorkTest::specksAreDropped() {
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

void HandWorkTest::retouchIsHiddenClearedAndMerged() {
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
  QVERIFY(!desk_->document.state().guide(old)->on);
  QVERIFY(map() == after);
  // Whatever the tuning, the merged map is what it is.
  const Map extracted = desk_->maps.belowOf(guide().id)->clone();
  desk_->document.change("Tune", [&](StudyState& s) { s.guide(guide().id)->tuning["blur"] = 4; });
  settle();
  QVERIFY(!(*desk_->maps.belowOf(guide().id) == extracted));
  QVERIFY(map() == after);
  desk_->document.look([&](Looking& looking) { looking.guide = old; });
  menuAction("Clear retouch")->trigger();
  settle();
  QVERIFY(map() == before);
}

void HandWorkTest::movedGroundIsShownAndRestored() {
  desk_->document.change("Tune", [&](StudyState& s) {
    s.guides[0].tuning = {{"thresholds", 1}, {"high", 0.9}, {"low", 0.9}};  // nothing is edge
  });
  settle();
  press(Qt::Key_R);
  desk_->workbench.settings.size = 300;
  desk_->workbench.settings.hardness = 100;
  drag({{240, 160}, {242, 160}});
  settle();
  QVERIFY(!menuAction("Nothing moved")->isEnabled());
  desk_->document.change("Tune", [&](StudyState& s) { s.guides[0].tuning.clear(); });
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

void HandWorkTest::beforeAndPaperAreShown() {
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
  QTest::keyClick(window_.get(), Qt::Key_B, Qt::ControlModifier);
  QTest::qWait(200);  // buttons go down and up again
  QVERIFY(colourAt({240, 60}).lightness() < 120);
  QTest::keyClick(window_.get(), Qt::Key_B, Qt::ControlModifier);
  QTest::qWait(200);  // buttons go down and up again
  QVERIFY(colourAt({240, 60}).lightness() > 150);
  const int ground = colourAt({10, 310}).lightness();
  QTest::keyClick(window_.get(), Qt::Key_4, Qt::ControlModifier);
  QTest::qWait(200);
  QVERIFY(colourAt({240, 60}).lightness() < 60);  // black on white now
  QVERIFY(colourAt({10, 310}).lightness() > ground + 100);
}

void HandWorkTest::regionsArePaintedInvertedFeatheredAndCleared() {
  const Map before = map().clone();
  press(Qt::Key_G);
  QVERIFY(desk_->workbench.regionShown());
  QCOMPARE(desk_->workbench.tool(), ToolName::paint);
  desk_->workbench.settings.size = 160;
  drag({{240, 160}, {250, 160}});
  settle();
  QVERIFY(guide().limited());
  QCOMPARE(desk_->document.history().undoName(), std::string("Paint region"));
  QCOMPARE(map()(20, 20), std::uint16_t{0});
  for (int x = 200; x < 280; ++x) QCOMPARE(map()(x, 160), before(x, 160));
  const auto sum = [](const Map& m) {
    double s = 0;
    for (int y = 0; y < m.height(); ++y)
      for (const auto v : m.line(y)) s += v;
    return s;
  };
  const double inside = sum(map());
  for (QToolButton* button : bench().tools().findChildren<QToolButton*>())
    if (button->text() == "Invert") button->click();
  settle();
  QVERIFY(guide().region.inverted);
  QVERIFY(std::abs(sum(map()) + inside - sum(before)) < 0.02 * sum(before));
  for (ScrubField* field : bench().tools().findChildren<ScrubField*>())
    if (field->accessibleName() == "Feather") {
      field->setFocus();
      field->selectAll();
      QTest::keyClicks(field, "20");
      QTest::keyClick(field, Qt::Key_Return);
    }
  settle();
  QCOMPARE(guide().region.feather, 20.0);
  for (QToolButton* button : bench().tools().findChildren<QToolButton*>())
    if (button->text() == "Clear") button->click();
  settle();
  QVERIFY(map() == before);
  press(Qt::Key_G);
  QVERIFY(!desk_->workbench.regionShown());
}

void HandWorkTest::regionsGrowFromColour() {
  press(Qt::Key_G);
  press(Qt::Key_C);
  QCOMPARE(desk_->workbench.tool(), ToolName::colour);
  drag({{20, 20}});
  settle();
  QVERIFY(guide().limited());
  const auto region = desk_->maps.mapOf(guide().id)->region;
  QVERIFY(region != nullptr);
  QVERIFY((*region)(20, 20) > 60000);
}

void HandWorkTest::thePenDrawsAFittedStroke() {
  add("loose");
  const Map before = map().clone();
  press(Qt::Key_P);
  std::vector<QPointF> way;
  for (int i = 0; i <= 60; ++i) way.emplace_back(60 + 6 * i, 280 + 20 * std::sin(i / 9.0));
  drag(way);
  settle();
  const auto drawing = desk_->workbench.work.drawing();
  QCOMPARE(drawing->strokes.size(), std::size_t{1});
  QVERIFY(!drawing->alone);
  QVERIFY(drawing->strokes[0]->curves() < 20);
  for (const QPointF p : way) QVERIFY(distanceTo(*drawing->strokes[0], {p.x(), p.y()}) < 5);
  QVERIFY(map()(240, static_cast<int>(280 + 20 * std::sin(30 / 9.0))) > 20000);
  // Beside the frame nothing is drawn.
  drag({{500, 400}, {560, 420}});
  QCOMPARE(desk_->workbench.work.drawing()->strokes.size(), std::size_t{1});
  // The extraction is still there.
  QVERIFY(!(map() == before));
  int kept = 0, lines = 0;
  for (int y = 0; y < 200; ++y)
    for (int x = 0; x < 480; ++x)
      if (before(x, y) > 40000) {
        ++lines;
        kept += map()(x, y) > 40000 ? 1 : 0;
      }
  QCOMPARE(kept, lines);
}

void HandWorkTest::tracingGivesStrokesToTakeHoldOf() {
  add("lines");
  menuAction("Trace to strokes")->trigger();
  settle();
  QCOMPARE(desk_->workbench.tool(), ToolName::strokes);
  auto drawing = desk_->workbench.work.drawing();
  QVERIFY(drawing != nullptr && drawing->alone && drawing->strokes.size() > 3);
  const std::size_t count = drawing->strokes.size();
  const auto middleOf = [&](std::size_t i) {
    const auto places = flattened(*desk_->workbench.work.drawing()->strokes[i]);
    const Point p = places[places.size() / 2].at;
    return QPointF(p.x, p.y);
  };
  // Click, move by keys, make heavier, smooth, delete; each is one step back.
  drag({middleOf(0)});
  const Point start = drawing->strokes[0]->points[0];
  press(Qt::Key_Right, Qt::ShiftModifier);
  QVERIFY(std::abs(desk_->workbench.work.drawing()->strokes[0]->points[0].x - start.x - 10) < 1e-6);
  const double width = meanWidth(*drawing->strokes[0]);
  press(Qt::Key_Period);
  QVERIFY(std::abs(meanWidth(*desk_->workbench.work.drawing()->strokes[0]) - 1.25 * width) < 1e-6);
  press(Qt::Key_M);
  QVERIFY(desk_->workbench.work.drawing()->strokes[0]->points.size() <= drawing->strokes[0]->points.size() + 3);
  press(Qt::Key_Delete);
  QCOMPARE(desk_->workbench.work.drawing()->strokes.size(), count - 1);
  settle();
  for (int i = 0; i < 4; ++i) desk_->document.undo();
  settle();
  QVERIFY(*desk_->workbench.work.drawing()->strokes[0] == *drawing->strokes[0]);
  // Dragged with the pointer.
  const QPointF grip = middleOf(0);
  drag({grip, grip + QPointF(10, 10), grip + QPointF(30, 20)});
  QVERIFY(std::abs(desk_->workbench.work.drawing()->strokes[0]->points[0].y - start.y - 20) < 1.5);
  desk_->document.undo();
  // Two selected ones are joined.
  press(Qt::Key_Escape);
  drag({middleOf(0)});
  drag({middleOf(1)}, Qt::ShiftModifier);
  press(Qt::Key_J);
  QCOMPARE(desk_->workbench.work.drawing()->strokes.size(), count - 1);
  menuAction("Back to the extraction")->trigger();
  settle();
  QVERIFY(!guide().work.has("drawing"));
}

void HandWorkTest::looseLinesComeFromThisMap() {
  const std::string edges = guide().id;
  menuAction("Loose lines from this")->trigger();
  settle();
  QVERIFY(guide().id != edges);
  QCOMPARE(guide().kind, std::string("loose"));
  QVERIFY(map().size() == (Size{480, 320}));
  // About where the edges are.
  const auto lines = desk_->maps.mapOf(edges)->map;
  int near = 0, set = 0;
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 480; ++x) {
      if (map()(x, y) < 60000) continue;
      ++set;
      bool found = false;
      for (int dy = -10; dy <= 10 && !found; ++dy)
        for (int dx = -10; dx <= 10 && !found; ++dx) found = lines->view().clamped(x + dx, y + dy) > 30000;
      near += found ? 1 : 0;
    }
  QVERIFY(set > 300);
  QVERIFY2(near > 0.97 * set, qPrintable(QString("%1 of %2").arg(near).arg(set)));
}

void HandWorkTest::svgComesInAndGoesOut() {
  const auto strokes = fixtures::knownStrokes({480, 320}, 8, 3);
  fixtures::writeFile(fixtures::in(*folder_, "cart.svg"), svgFrom(strokes, {480, 320}, "Cart"));
  bringIn(*desk_, {fixtures::in(*folder_, "cart.svg")});
  settle();
  QCOMPARE(guide().kind, std::string("lines"));
  QVERIFY(standsAlone(guide()));
  QCOMPARE(desk_->document.state().references.size(), std::size_t{1});  // no picture came with it
  QVERIFY(fixtures::recallOf(strokes, lineMask(map()), 1.5) > 0.99);
  desk_->maps.write(guide().id, path("out.svg").toStdString());
  const auto back = readSvgLines(readWholeFile(path("out.svg").toStdString()), "out.svg");
  QCOMPARE(back.strokes.size(), strokes.size());
  QVERIFY(distanceBetween(back.strokes[0]->points[0], strokes[0]->points[0]) < 0.02);
  desk_->maps.write(guide().id, path("out.png").toStdString());
  QImage image(path("out.png"));
  QCOMPARE(image.size(), QSize(480, 320));
  // It can be pulled, and there is nothing to doubt in having no reference.
  for (const Check& check : desk_->checks.all()) QVERIFY(!check.id.starts_with("no-reference"));
  QCOMPARE(recipeOf(desk_->document.state()).guides.size(), std::size_t{2});
  // Rubbish says so and changes nothing.
  const auto guides = desk_->document.state().guides.size();
  fixtures::writeFile(fixtures::in(*folder_, "bad.svg"), "<svg><script>alert(1)</script></svg>");
  bringIn(*desk_, {fixtures::in(*folder_, "bad.svg")});
  QCOMPARE(desk_->document.state().guides.size(), guides);
  QVERIFY(window_->shownSentence().contains("bad.svg"));
}

void HandWorkTest::linesAreComparedAndChosen() {
  QTest::keyClick(window_.get(), Qt::Key_L, Qt::ControlModifier);
  auto* chooser = window_->findChild<LineChooser*>();
  QVERIFY(chooser != nullptr);
  settle();
  const auto panes = chooser->findChildren<ChooserPane*>();
  QCOMPARE(panes.size(), 3);
  for (ChooserPane* pane : panes) QCOMPARE(pane->picture().size(), QSize(480, 320));
  QVERIFY(panes[0]->picture() != panes[1]->picture() && panes[1]->picture() != panes[2]->picture());
  const QImage before = panes[1]->picture();
  QSlider* ink = nullptr;
  for (QSlider* slider : panes[1]->findChildren<QSlider*>())
    if (slider->accessibleName() == "Ink") ink = slider;
  QVERIFY(ink != nullptr);
  ink->setValue(80);
  settle();
  QVERIFY(panes[1]->picture() != before);
  const QImage wanted = panes[1]->picture();
  panes[1]->take()->click();
  settle();
  QCOMPARE(guide().kind, std::string("lines"));
  QCOMPARE(guide().tuning.at("ink"), 80.0);
  QImage made = desk_->maps.mapOf(guide().id)->grey.copy();
  made.invertPixels();
  QVERIFY(made == wanted);
}

void HandWorkTest::pulledProofsKeepTheirHandWork() {
  press(Qt::Key_D);
  drag({{60, 40}, {300, 250}});
  settle();
  const std::string name = guide().work.in("retouch");
  desk_->document.change("Few steps", [](StudyState& s) { s.brief.steps = 4; });
  desk_->queue.pull();
  settle();
  const auto number = desk_->document.state().looking.proof;
  QVERIFY(number > 0);
  QCOMPARE(desk_->proofs.proof(number)->recipe.guides[0].guide.work.in("retouch"), name);
  desk_->workbench.work.clearRetouch();
  const auto path = desk_->document.path();
  desk_->document.createUntitled();  // closes and tidies
  desk_->document.open(path);
  settle();
  QVERIFY(!desk_->document.state().guides[0].work.has("retouch"));
  // Adopting brings the strokes back.
  desk_->document.change("Adopt", [&](StudyState& s) { adoptRecipe(s, desk_->proofs.proof(number)->recipe); });
  settle();
  QCOMPARE(desk_->document.state().guides[0].work.in("retouch"), name);
  QCOMPARE(desk_->maps.mapOf(desk_->document.state().guides[0].id)->map->view()(180, 145), std::uint16_t{65535});
}

void HandWorkTest::killedWhilePainting() {
  const auto study = fixtures::in(*folder_, "killed.scaffold");
  desk_->document.saveAs(study);
  const auto below = desk_->maps.mapOf(guide().id)->below;
  const auto placing = desk_->document.placeOf(guide()).placing;
  const std::string id = guide().id;
  window_.reset();
  desk_.reset();
  // What the layer is after so many strokes.
  Layer expected;
  expected.frame = {480, 320};
  expected.placing = placing;
  int replayed = 0;
  std::mt19937 random(3);
  for (int round = 0; round < 50; ++round) {
    QProcess painter;
    painter.start(QCoreApplication::applicationFilePath(),
                  {"--paint-for-ever", QString::fromStdString(study.string()), QString::number(replayed)});
    QVERIFY(painter.waitForReadyRead(20'000));
    QTest::qSleep(static_cast<int>(random() % 60));
    painter.kill();
    painter.waitForFinished();
    const auto lines = QString::fromUtf8(painter.readAllStandardOutput()).split('\n', Qt::SkipEmptyParts);
    QVERIFY(!lines.isEmpty());
    const int said = lines.last().toInt() + 1;  // strokes that it had finished
    const auto file = StudyFile::open(study);
    EditStore store([&](const std::string& name) { return file.edit(name); });
    const auto layer = store.layer(file.readState().guide(id)->work.in("retouch"));
    QVERIFY(layer != nullptr);
    const auto paintTo = [&](int count) {
      for (; replayed < count; ++replayed) {
        BrushStroke stroke(expected, brushOf(replayed), *below);
        const auto places = placesOf(replayed);
        stroke.to({places[0].x(), places[0].y()});
        for (const QPointF p : places) stroke.to({p.x(), p.y()});
        expected = stroke.layer();
      }
    };
    const auto same = [&] {
      for (int y = 0; y < 320; ++y)
        for (int x = 0; x < 480; ++x)
          if (layer->at(x, y) != expected.at(x, y)) return false;
      return true;
    };
    // All that it had said, or the one that it was just finishing as well: never less, never half of one.
    paintTo(said);
    bool kept = same();
    if (!kept) {
      paintTo(said + 1);
      kept = same();
    }
    QVERIFY2(kept, qPrintable(QString("round %1, %2 strokes").arg(round).arg(said)));
  }
  qInfo("killed 50 times, %d strokes kept", replayed);
}

int main(int argc, char** argv) {
  QTemporaryDir home;
  qputenv("HOME", home.path().toUtf8());
  qputenv("XDG_CONFIG_HOME", (home.path() + "/config").toUtf8());
  qputenv("XDG_DATA_HOME", (home.path() + "/data").toUtf8());
  QApplication application(argc, argv);
  QApplication::setOrganizationName("humble-scaffold");
  QApplication::setApplicationName("humble-scaffold");
  applyTheme(ThemeName::dusk);
  const auto arguments = QCoreApplication::arguments();
  if (arguments.size() == 4 && arguments[1] == "--paint-for-ever")
    return paintForEver(arguments[2], arguments[3].toInt());
  HandWorkTest test;
  return QTest::qExec(&test, argc, argv);
}
#include "hand_work_test.moc"
