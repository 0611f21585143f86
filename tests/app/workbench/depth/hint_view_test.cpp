// Hints of depth in the real window: drawn, taken hold of, undone; the map read as relief, colours and doubt; retouch.
#include <QLineEdit>
#include <cmath>

#include "app/bench/depth_table.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/threshold_histogram.h"
#include "app/window_fixture.h"
#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/paint/paint_tools.h"

using namespace hscaffold;
using namespace hscaffold::app;
using hscaffold::depth::Hint;

class HintViewTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void aStrokeSaysHowNear();
  void everyFormIsDrawnByItsTool();
  void hintsAreTakenHoldOf();
  void doubtfulPlacesAreSteppedThrough();
  void hintsFollowTheirReference();
  void theMapIsReadInThreeWays();
  void theReliefTurns();
  void cutsAreDragged();
  void levelsArePaintedLightenedAndSmudged();
  void escEndsAStroke();
  void theRowOfToolsNeverWidensTheTable();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    add("depth");
    settle();
  }

 private:
  [[nodiscard]] std::vector<Hint> hints() const {
    const auto now = desk().workbench.depth.hints();
    return now ? now->hints : std::vector<Hint>();
  }
  [[nodiscard]] double nearAt(int x, int y) const { return map()(x, y) / 65535.0; }
  [[nodiscard]] DepthTable& depthTable() const { return bench().depth(); }
};

void HintViewTest::aStrokeSaysHowNear() {
  QVERIFY(desk().workbench.tool() == ToolName::hint);
  const double before = nearAt(60, 40);
  typeInto(part<ScrubField>("near"), "0.95");
  drag({{40, 40}, {60, 40}, {80, 42}});
  settle();
  QCOMPARE(hints().size(), std::size_t{1});
  QCOMPARE(hints()[0].near, 0.95);
  QVERIFY(before < 0.5 && nearAt(60, 40) > 0.9);
  // What is set next is for the next hint; one that is taken hold of changes itself.
  typeInto(part<ScrubField>("near"), "0.3");
  QCOMPARE(hints()[0].near, 0.95);
  press(Qt::Key_S);
  drag({{60, 40}});
  QCOMPARE(desk().workbench.depth.near(), 0.95);
  press(Qt::Key_Minus, Qt::ShiftModifier);
  settle();
  QVERIFY(std::abs(hints()[0].near - 0.85) < 1e-9);
  press(Qt::Key_H);
  // Alt takes the value from the map instead of drawing, and does not move the view.
  typeInto(part<ScrubField>("near"), "0.1");
  const QPointF corner = table().toTable({0, 0});
  drag({{60, 40}, {61, 40}}, Qt::AltModifier);
  QCOMPARE(table().toTable({0, 0}), corner);
  QVERIFY(desk().workbench.depth.near() > 0.5);
  QCOMPARE(hints().size(), std::size_t{1});
  QVERIFY(std::abs(desk().workbench.depth.near() - nearAt(60, 40)) < 0.02);
  undo();
  undo();
  settle();
  QVERIFY(hints().empty());
  QCOMPARE(nearAt(60, 40), before);
  redo();
  settle();
  QVERIFY(nearAt(60, 40) > 0.9);
}

void HintViewTest::everyFormIsDrawnByItsTool() {
  const auto& frame = state().frame;
  const double w = frame.width, h = frame.height;
  press(Qt::Key_E);
  drag({{0.2 * w, 0.2 * h}, {0.5 * w, 0.2 * h}});
  press(Qt::Key_A);
  drag({{0.5 * w, 0.6 * h}, {0.2 * w, 0.1 * h}});
  press(Qt::Key_M);
  drag({{0.1 * w, 0.9 * h}, {0.9 * w, 0.9 * h}});
  press(Qt::Key_P);
  drag({{0.1 * w, 0.7 * h}, {0.4 * w, 0.7 * h}, {0.4 * w, 0.95 * h}, {0.1 * w, 0.95 * h}});
  press(Qt::Key_C);
  drag({{0.6 * w, 0.1 * h}, {0.9 * w, 0.1 * h}, {0.9 * w, 0.3 * h}, {0.6 * w, 0.3 * h}});
  settle();
  const auto all = hints();
  const Hint::Form forms[] = {Hint::Form::same, Hint::Form::front, Hint::Form::ramp, Hint::Form::plane,
                              Hint::Form::cut};
  QCOMPARE(all.size(), std::size(forms));
  for (std::size_t i = 0; i < std::size(forms); ++i) QVERIFY2(all[i].form == forms[i], depth::idOf(all[i].form));
  // Beside the frame there is nothing to say anything of; a click is no arrow.
  press(Qt::Key_H);
  drag({{-60, -40}, {-50, -40}});
  press(Qt::Key_A);
  drag({{50, 50}, {51, 50}});
  QCOMPARE(hints().size(), std::size(forms));
  QVERIFY(QString::fromStdString(desk().maps.mapOf(guide().id)->found.toStdString()).contains("5 hints"));
}

void HintViewTest::hintsAreTakenHoldOf() {
  drag({{100, 100}, {160, 100}});
  drag({{100, 200}, {160, 200}});
  press(Qt::Key_S);
  drag({{130, 100}, {150, 120}});  // moved
  QCOMPARE(hints()[0].spots.front().x, 120.0);
  QVERIFY(std::abs(hints()[0].spots.front().y - 120) < 1);
  QVERIFY(desk().workbench.depth.selected() == std::size_t{0});
  press(Qt::Key_J);
  QVERIFY(desk().workbench.depth.selected() == std::size_t{1});
  press(Qt::Key_Right, Qt::ShiftModifier);
  QVERIFY(std::abs(hints()[1].spots.front().x - 110) < 1);
  press(Qt::Key_Delete);
  QCOMPARE(hints().size(), std::size_t{1});
  press(Qt::Key_Delete);  // nothing is selected any more
  QCOMPARE(hints().size(), std::size_t{1});
  undo();
  QCOMPARE(hints().size(), std::size_t{2});
  QVERIFY(menuAction("Remove all hints") != nullptr);
  menuAction("Remove all hints")->trigger();
  settle();
  QVERIFY(hints().empty() && !guide().work.has(depth::hintsSlot));
}

void HintViewTest::doubtfulPlacesAreSteppedThrough() {
  auto& work = desk().workbench.depth;
  QVERIFY(!work.doubt());
  click("least sure");
  const auto first = work.doubt();
  QVERIFY(first && first->number == 1);
  press(Qt::Key_N);
  QVERIFY(work.doubt() && work.doubt()->number == 2 && work.doubt()->at != first->at);
  // A hint there, and it is doubtful no more.
  const QPointF there = work.doubt()->at;
  drag({there, there + QPointF(12, 0)});
  settle();
  QVERIFY(!work.doubt());
  QVERIFY(*work.sureAt(there) > 0.9);
  press(Qt::Key_N);
  press(Qt::Key_Escape);
  QVERIFY(!work.doubt());
}

void HintViewTest::hintsFollowTheirReference() {
  drag({{100, 100}, {160, 100}});
  const double before = hints()[0].spots.front().x;
  document().change("Move", [&](StudyState& s) {
    Placement p = resolved(s.references[0].placement, s.references[0].size, s.frame);
    p.fit = Fit::free;
    p.x += 32.0 / s.frame.width;
    s.references[0].placement = p;
  });
  settle();
  QVERIFY(std::abs(hints()[0].spots.front().x - before - 32) < 1e-6);
}

void HintViewTest::theMapIsReadInThreeWays() {
  QVERIFY(part("depth depth").isVisible() && !part("depth grey").isVisible());
  click("depth depth");
  QVERIFY(depthTable().isVisible() && !bench().proof().isVisible());
  QVERIFY(depthTable().look() == DepthTable::Look::relief);
  click("depth grey");
  const QImage grey = depthTable().grab().toImage();
  click("depth colours");
  const QImage colours = depthTable().grab().toImage();
  click("depth contours");
  const QImage contours = depthTable().grab().toImage();
  click("depth doubt");
  const QImage doubt = depthTable().grab().toImage();
  QVERIFY(grey != colours && colours != contours && contours != doubt);
  const auto coloured = [](const QImage& image) {
    int count = 0;
    for (int y = 0; y < image.height(); y += 4)
      for (int x = 0; x < image.width(); x += 4) {
        const QColor c = image.pixelColor(x, y);
        count += std::max({c.red(), c.green(), c.blue()}) - std::min({c.red(), c.green(), c.blue()}) > 30 ? 1 : 0;
      }
    return count;
  };
  QVERIFY(coloured(grey) < 20 && coloured(colours) > 500);
  // Another kind of guide, and the proof is back.
  add("edges");
  settle();
  QVERIFY(!depthTable().isVisible() && bench().proof().isVisible() && !part("depth depth").isVisible());
}

void HintViewTest::theReliefTurns() {
  click("depth depth");
  click("depth relief");
  const QPointF before = depthTable().turned();
  const QImage seen = depthTable().grab().toImage();
  dragOn(depthTable(), {200, 150}, {260, 120});
  QVERIFY(depthTable().turned() != before);
  QVERIFY(depthTable().grab().toImage() != seen);
  QTest::keyClick(&depthTable(), Qt::Key_Home);
  QCOMPARE(depthTable().turned(), QPointF(0, 0));
  QTest::keyClick(&depthTable(), Qt::Key_Right);
  QCOMPARE(depthTable().turned(), QPointF(5, 0));
  // Turned as far as it goes, it is still there: not all of the table is of one colour.
  for (int i = 0; i < 30; ++i) QTest::keyClick(&depthTable(), Qt::Key_Up, Qt::ShiftModifier);
  const QImage turned = depthTable().grab().toImage();
  std::set<QRgb> colours;
  for (int y = 0; y < turned.height(); y += 3)
    for (int x = 0; x < turned.width(); x += 3) colours.insert(turned.pixel(x, y));
  QVERIFY2(colours.size() > 50, qPrintable(QString::number(colours.size())));
}

void HintViewTest::cutsAreDragged() {
  ThresholdHistogram* histogram = nullptr;
  for (auto* each : bench().left().findChildren<ThresholdHistogram*>())
    if (each->isVisible()) histogram = each;
  QVERIFY(histogram != nullptr);
  const QPoint from = histogram->handleAt(true);
  dragOn(*histogram, from, from - QPoint(60, 0));
  settle();
  const double cut = guide().tuning.at("near-cut").number();
  QVERIFY(cut < 0.9 && cut > 0.3);
  int white = 0;
  for (int y = 0; y < map().height(); ++y)
    for (const auto v : map().line(y)) white += v == 65535 ? 1 : 0;
  QVERIFY(white > 100);
  undo();
  QVERIFY(!guide().tuning.contains("near-cut") || guide().tuning.at("near-cut").number() == 1);
}

void HintViewTest::levelsArePaintedLightenedAndSmudged() {
  press(Qt::Key_D);
  QVERIFY(desk().workbench.tool() == ToolName::level);
  typeInto(part<ScrubField>("near"), "0.25");
  drag({{100, 100}, {140, 100}});
  settle();
  QVERIFY(std::abs(nearAt(120, 100) - 0.25) < 0.01);
  press(Qt::Key_I);
  drag({{100, 100}, {140, 100}});
  settle();
  QVERIFY(std::abs(nearAt(120, 100) - 0.25 - lightenStep) < 0.01);
  drag({{100, 100}, {140, 100}}, Qt::ControlModifier);
  settle();
  QVERIFY(std::abs(nearAt(120, 100) - 0.25) < 0.012);
  // Smudging drags the level out of its stroke.
  press(Qt::Key_D);
  typeInto(part<ScrubField>("near"), "1");
  drag({{200, 150}, {204, 150}});
  settle();
  const double before = nearAt(218, 150);
  press(Qt::Key_U);
  drag({{200, 150}, {204, 150}, {208, 150}, {212, 150}, {216, 150}, {220, 150}});
  settle();
  QVERIFY2(nearAt(218, 150) > before + 0.1, qPrintable(QString("%1 %2").arg(before).arg(nearAt(218, 150))));
}

void HintViewTest::escEndsAStroke() {
  drag({{100, 100}, {160, 100}});
  QCOMPARE(hints().size(), std::size_t{1});
  // Esc in the middle of a stroke: nothing of it is kept.
  settle();
  const auto before = desk().maps.mapOf(guide().id)->grey;
  drag({{100, 200}, {160, 200}}, {}, false);
  settle();
  // The map has followed under the brush already, and goes back.
  QVERIFY(desk().maps.mapOf(guide().id)->grey != before);
  press(Qt::Key_Escape);
  settle();
  QVERIFY(desk().maps.mapOf(guide().id)->grey == before);
  QTest::mouseRelease(&table(), Qt::LeftButton, {}, table().toTable({160, 200}).toPoint());
  QCOMPARE(hints().size(), std::size_t{1});
}

void HintViewTest::theRowOfToolsNeverWidensTheTable() {
  const int width = table().width();
  QVERIFY(desk().workbench.tools().size() > 8);
  for (const ToolInfo& info : desk().workbench.tools()) {
    desk().workbench.setTool(info.id);
    QTest::qWait(20);
    QVERIFY2(table().width() == width, info.tip);
    // All that it goes by can be seen and reached.
    for (const RowField& field : desk().workbench.toolInHand()->fields()) {
      const auto& shown = part<ScrubField>(QString(field.name).toLower().toUtf8().constData(), &bench());
      QVERIFY2(shown.isVisible(), field.name);
      // The row is laid out when the loop comes to it.
      const auto reached = [&] {
        const QRect whole(shown.mapTo(window_.get(), QPoint()), shown.size());
        const QWidget* there = window_->childAt(whole.center());
        return there == &shown || shown.isAncestorOf(there);
      };
      QVERIFY2(QTest::qWaitFor(reached), info.tip);
    }
  }
  // The numbers are the tool's own: what is set for one brush is not the pen's.
  desk().workbench.setTool(ToolName::hint);
  typeInto(part<ScrubField>("size", &bench()), "33");
  QCOMPARE(desk().workbench.settings.size, 33.0);
  QCOMPARE(desk().workbench.settings.penWidth, 3.0);
  press(Qt::Key_BracketRight);
  QVERIFY(desk().workbench.settings.size > 38);
  QCOMPARE(part<ScrubField>("size", &bench()).value(), std::round(desk().workbench.settings.size));
}

HSCAFFOLD_TEST(HintViewTest)
#include "hint_view_test.moc"
