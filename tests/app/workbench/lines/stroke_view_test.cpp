// Strokes by hand in the real window, with real events; drawings in and out.
#include <QPushButton>
#include <QSlider>

#include "app/bench/map_chooser.h"
#include "app/document/study_edits.h"
#include "app/window_fixture.h"
#include "app/workbench/lines/stroke_tools.h"
#include "core/strokes/line_export.h"
#include "core/strokes/trace.h"
#include "drawn_pages.h"
#include "files/svg_lines.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class StrokeViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void thePenDrawsAFittedStroke();
  void tracingGivesStrokesToTakeHoldOf();
  void looseLinesComeFromThisMap();
  void svgComesInAndGoesOut();
  void linesAreComparedAndChosen();
};

void StrokeViewTest::thePenDrawsAFittedStroke() {
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

void StrokeViewTest::tracingGivesStrokesToTakeHoldOf() {
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
  // Click, move by keys, make heavier, smooth, delete; each is one step back, however often a key is pressed.
  drag({middleOf(0)});
  const Point start = drawing->strokes[0]->points[0];
  press(Qt::Key_Right, Qt::ShiftModifier);
  for (int i = 0; i < 5; ++i) press(Qt::Key_Right);
  QVERIFY(std::abs(desk_->workbench.work.drawing()->strokes[0]->points[0].x - start.x - 15) < 1e-6);
  const double width = meanWidth(*drawing->strokes[0]);
  press(Qt::Key_Period);
  QVERIFY(std::abs(meanWidth(*desk_->workbench.work.drawing()->strokes[0]) - 1.25 * width) < 1e-6);
  press(Qt::Key_M);
  QVERIFY(desk_->workbench.work.drawing()->strokes[0]->points.size() <= drawing->strokes[0]->points.size() + 3);
  press(Qt::Key_Delete);
  QCOMPARE(desk_->workbench.work.drawing()->strokes.size(), count - 1);
  settle();
  for (int i = 0; i < 4; ++i) undo();
  settle();
  QVERIFY(*desk_->workbench.work.drawing()->strokes[0] == *drawing->strokes[0]);
  // Dragged with the pointer.
  const QPointF grip = middleOf(0);
  drag({grip, grip + QPointF(10, 10), grip + QPointF(30, 20)});
  QVERIFY(std::abs(desk_->workbench.work.drawing()->strokes[0]->points[0].y - start.y - 20) < 1.5);
  undo();
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

void StrokeViewTest::looseLinesComeFromThisMap() {
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

void StrokeViewTest::svgComesInAndGoesOut() {
  const auto strokes = fixtures::knownStrokes({480, 320}, 8, 3);
  fixtures::writeFile(fixtures::in(*folder_, "cart.svg"), svgFrom(strokes, {480, 320}, "Cart"));
  bringIn(*desk_, {fixtures::in(*folder_, "cart.svg")});
  settle();
  QCOMPARE(guide().kind, std::string("lines"));
  QVERIFY(standsAlone(guide()));
  QCOMPARE(state().references.size(), std::size_t{1});  // no picture came with it
  QVERIFY(fixtures::recallOf(strokes, lineMask(map()), 1.5) > 0.99);
  desk_->maps.writer(guide().id, path("out.svg").toStdString())();
  const auto back = readSvgLines(readWholeFile(path("out.svg").toStdString()), "out.svg");
  QCOMPARE(back.strokes.size(), strokes.size());
  QVERIFY(distanceBetween(back.strokes[0]->points[0], strokes[0]->points[0]) < 0.02);
  desk_->maps.writer(guide().id, path("out.png").toStdString())();
  QImage image(path("out.png"));
  QCOMPARE(image.size(), QSize(480, 320));
  // It can be pulled, and there is nothing to doubt in having no reference.
  for (const Check& check : desk_->checks.all()) QVERIFY(!check.id.starts_with("no-reference"));
  QCOMPARE(recipeOf(state()).guides.size(), std::size_t{2});
  // Rubbish says so and changes nothing.
  const auto guides = state().guides.size();
  fixtures::writeFile(fixtures::in(*folder_, "bad.svg"), "<svg><script>alert(1)</script></svg>");
  bringIn(*desk_, {fixtures::in(*folder_, "bad.svg")});
  settle();
  QCOMPARE(state().guides.size(), guides);
  QVERIFY(window_->shownSentence().contains("bad.svg"));
}

void StrokeViewTest::linesAreComparedAndChosen() {
  pressInWindow(Qt::Key_L, Qt::ControlModifier);
  auto* chooser = window_->findChild<MapChooser*>();
  QVERIFY(chooser != nullptr);
  settle();
  const auto panes = chooser->findChildren<ChooserPane*>();
  QCOMPARE(panes.size(), 4);
  for (ChooserPane* pane : panes) QCOMPARE(pane->picture().size(), QSize(480, 320));
  QVERIFY(panes[0]->picture() != panes[1]->picture() && panes[1]->picture() != panes[2]->picture());
  const QImage before = panes[1]->picture();
  part<QSlider>("ink", panes[1]).setValue(80);
  settle();
  QVERIFY(panes[1]->picture() != before);
  const QImage wanted = panes[1]->picture();
  panes[1]->take()->click();
  settle();
  QCOMPARE(guide().kind, std::string("lines"));
  QCOMPARE(guide().tuning.at("ink").number(), 80.0);
  QImage made = desk_->maps.mapOf(guide().id)->grey.copy();
  made.invertPixels();
  QVERIFY(made == wanted);
}

HSCAFFOLD_TEST(StrokeViewTest)
#include "stroke_view_test.moc"
