// References, guides, span board, brief and frame in the real window, with mouse, keys and drops.
#include <QClipboard>
#include <QComboBox>
#include <QLineEdit>
#include <QListView>
#include <QPlainTextEdit>
#include <QPushButton>

#include "app/bench/checks_panel.h"
#include "app/bench/frame_panel.h"
#include "app/bench/plank.h"
#include "app/bench/tuning_panel.h"
#include "app/document/study_edits.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/threshold_histogram.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class GuidesViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void scrollingChangesNothing();
  void theSelectedGuideIsSeen();
  void droppingAPictureMakesItsMap();
  void referencesAreListedChosenAndTakenOut();
  void droppingRubbishSaysSo();
  void pastingAPicture();
  void thresholdsAreDraggedLive();
  void thresholdKeysAreExact();
  void tabGoesThroughTheChosenGuide();
  void weightIsScrubbedTypedAndReset();
  void spanBarIsDragged();
  void spanBarObeysKeys();
  void spanBoardReadsEachStep();
  void comfortLineIsDragged();
  void endsLieOnOtherEnds();
  void heldWeightsStay();
  void keepTotalRebalances();
  void shapesSetRanges();
  void switchTurnsOffAndChecksFollow();
  void checkIsFixedByItsButton();
  void doubtedWeightsAreDraggedWithoutRestyling();
  void checksMayBeLeftBe();
  void planksReorderByKeys();
  void promptIsTypedAndUndone();
  void frameCalculator();

 private:
  void prepare() override;
};

void GuidesViewTest::prepare() {
  const QString test = QTest::currentTestFunction();
  if (test.startsWith("dropping") || test.startsWith("pasting"))
    writeScene(in(*folder_, "tea.png"));
  else
    bringInScene();
}

void GuidesViewTest::droppingAPictureMakesItsMap() {
  dropFiles({path("tea.png")});
  settle();
  QCOMPARE(state().references.size(), std::size_t{1});
  QVERIFY(*desk_->maps.mapOf(guide().id)->facts.number("share") > 0.005);
  QVERIFY(bench().left().plankOf(guide().id) != nullptr);
  undo();
  QVERIFY(state().references.empty());
  QVERIFY(bench().left().plankOf("g2") == nullptr);
}

void GuidesViewTest::referencesAreListedChosenAndTakenOut() {
  QImage(90, 160, QImage::Format_RGB32).save(path("tall.png"));
  dropFiles({path("tall.png")});
  // It is read in the background, so that the window never waits for it.
  QCOMPARE(state().references.size(), std::size_t{1});
  settle();
  QCOMPARE(state().references.size(), std::size_t{2});
  auto& tray = part<QListView>("references");
  QCOMPARE(tray.model()->rowCount(), 2);
  QCOMPARE(tray.currentIndex().row(), 1);
  for (int row = 0; row < 2; ++row)
    QTRY_COMPARE(tray.model()->index(row, 0).data(Qt::DecorationRole).value<QImage>().size(), QSize(60, 44));
  // A click looks at the other one, and at its guide.
  const std::string last = guide().id;
  QTest::mouseClick(tray.viewport(), Qt::LeftButton, {}, tray.visualRect(tray.model()->index(0, 0)).center());
  QCOMPARE(state().looking.reference, state().references[0].id);
  QCOMPARE(guide().id, state().guides[0].id);
  QTest::keyClick(&tray, Qt::Key_Right);
  QCOMPARE(guide().id, last);
  QTest::keyClick(&tray, Qt::Key_Delete);
  QCOMPARE(state().references.size(), std::size_t{1});
  QCOMPARE(tray.model()->rowCount(), 1);
  undo();
  QCOMPARE(tray.model()->rowCount(), 2);
}

void GuidesViewTest::droppingRubbishSaysSo() {
  fixtures::writeFile(fixtures::in(*folder_, "notes.png"), "just words");
  dropFiles({path("notes.png")});
  settle();
  QVERIFY(window_->shownSentence().contains("notes.png"));
  QVERIFY(state().references.empty());
  fixtures::writeFile(fixtures::in(*folder_, "x.scaffold"), "just words");
  dropFiles({path("x.scaffold")});
  settle();
  QVERIFY(window_->shownSentence().contains("not a study"));
}

void GuidesViewTest::pastingAPicture() {
  QImage image(80, 60, QImage::Format_RGB32);
  image.fill(Qt::darkCyan);
  QApplication::clipboard()->setImage(image);
  pressInWindow(Qt::Key_V, Qt::ControlModifier);
  settle();
  QCOMPARE(state().references.size(), std::size_t{1});
  QCOMPARE(state().references[0].size, (Size{80, 60}));
}

void GuidesViewTest::thresholdsAreDraggedLive() {
  auto* histogram = bench().left().plankOf(guide().id)->findChild<ThresholdHistogram*>();
  QVERIFY(histogram->isVisible());
  const double before = *desk_->maps.mapOf(guide().id)->facts.number("share");
  const QPoint high = histogram->handleAt(true);
  dragOn(*histogram, high, {histogram->width() - 20, high.y()});
  settle();
  QVERIFY(*desk_->maps.mapOf(guide().id)->facts.number("share") < 0.7 * before);
  QCOMPARE(state().guides[0].tuning.at("thresholds").number(), 1.0);
  // One drag is one step back.
  undo();
  QVERIFY(state().guides[0].tuning.empty());
}

/// Panels are made when their guide is first chosen, and come in their place all the same.
void GuidesViewTest::tabGoesThroughTheChosenGuide() {
  add("lines");
  document().look([&](Looking& l) { l.guide = state().guides[0].id; });
  document().look([&](Looking& l) { l.guide = state().guides[1].id; });
  settle();
  for (const Guide& each : state().guides) {
    auto* plank = bench().left().plankOf(each.id);
    auto* panel = plank->findChild<TuningPanel*>();
    QVERIFY(panel != nullptr);
    bool met = false;
    for (QWidget* w = plank->nextInFocusChain(); plank->isAncestorOf(w); w = w->nextInFocusChain())
      met = met || (panel->isAncestorOf(w) && w->focusPolicy() != Qt::NoFocus);
    QVERIFY2(met, each.kind.c_str());
  }
}

void GuidesViewTest::thresholdKeysAreExact() {
  auto* histogram = bench().left().plankOf(guide().id)->findChild<ThresholdHistogram*>();
  histogram->setFocus();
  const double before = desk_->maps.mapOf(guide().id)->thresholds.high;
  QTest::keyClick(histogram, Qt::Key_Right);
  QVERIFY(state().guides[0].tuning.at("high").number() > before);
  QTest::keyClick(histogram, Qt::Key_Space);
  const double low = state().guides[0].tuning.at("low").number();
  QTest::keyClick(histogram, Qt::Key_Left);
  QVERIFY(state().guides[0].tuning.at("low").number() < low);
}

void GuidesViewTest::weightIsScrubbedTypedAndReset() {
  auto* plank = bench().left().plankOf(guide().id);
  auto* line = part<ScrubField>("weight", plank).findChild<QLineEdit*>();
  const QPoint middle = line->rect().center();
  dragOn(*line, middle, middle + QPoint(60, 0));
  QVERIFY2(std::abs(state().guides[0].weight - 0.9) < 0.011, qPrintable(QString::number(state().guides[0].weight)));
  typeInto(*line, "0.35");
  QCOMPARE(state().guides[0].weight, 0.35);
  QTest::mouseDClick(line, Qt::LeftButton, {}, middle);
  QCOMPARE(state().guides[0].weight, 1.0);
  undo();
  QCOMPARE(state().guides[0].weight, 0.35);
}

void GuidesViewTest::spanBarIsDragged() {
  auto& chart = bench().board().chart();
  const auto at = [&](BarGrip grip) { return chart.gripAt(guide().id, grip).toPoint(); };
  const int wide = at(BarGrip::to).x() - at(BarGrip::from).x();
  dragOn(chart, at(BarGrip::to), at(BarGrip::to) - QPoint(wide * 40 / 100, 0));
  QVERIFY(std::abs(state().guides[0].range.to - 60) < 1);
  dragOn(chart, at(BarGrip::from), at(BarGrip::from) + QPoint(wide * 20 / 100, 0));
  QVERIFY(std::abs(state().guides[0].range.from - 20) < 1);
  dragOn(chart, at(BarGrip::rampOut), at(BarGrip::rampOut) - QPoint(wide * 15 / 100, 0));
  const double ramp = state().guides[0].range.rampOut;
  QVERIFY2(ramp > 10 && ramp < 20, qPrintable(QString::number(ramp)));
  const double weight = state().guides[0].weight;
  dragOn(chart, at(BarGrip::weight), at(BarGrip::weight) - QPoint(0, 8));
  QVERIFY(state().guides[0].weight > weight + 0.1);
  for (int i = 0; i < 4; ++i) undo();
  QCOMPARE(state().guides[0].range, Range{});
  QCOMPARE(state().guides[0].weight, weight);
}

void GuidesViewTest::spanBarObeysKeys() {
  auto& chart = bench().board().chart();
  chart.setFocus();
  QTest::keyClick(&chart, Qt::Key_Left);
  QCOMPARE(state().guides[0].range.to, 99.0);
  QTest::keyClick(&chart, Qt::Key_Left, Qt::ShiftModifier);
  QCOMPARE(state().guides[0].range.to, 94.0);
  const double weight = state().guides[0].weight;
  QTest::keyClick(&chart, Qt::Key_Up);
  QVERIFY(std::abs(state().guides[0].weight - weight - 0.01) < 1e-9);
  QTest::keyClick(&chart, Qt::Key_Space);  // to the start
  QTest::keyClick(&chart, Qt::Key_Right);
  QCOMPARE(state().guides[0].range.from, 1.0);
}

void GuidesViewTest::spanBoardReadsEachStep() {
  add("tone");
  document().change("Ranges", [](StudyState& s) {
    s.brief.steps = 10;
    s.guides[0].name = "Edges";
    s.guides[1].name = "Tone";
    s.guides[0].weight = 0.9;
    s.guides[1].weight = 0.31;
    s.guides[0].range = {0, 80, 0, 0};
    s.guides[1].range = {0, 50, 0, 0};
  });
  auto& chart = bench().board().chart();
  const auto over = [&](double percent) {
    const QPointF from = chart.gripAt(state().guides[0].id, BarGrip::from),
                  to = chart.gripAt(state().guides[0].id, BarGrip::to);
    QTest::mouseMove(&chart, QPoint(static_cast<int>(from.x() + (to.x() - from.x()) * percent / 80), 4));
    return chart.reading();
  };
  QCOMPARE(over(35), QString("step 4 of 10: Edges 0.90 + Tone 0.31 = 1.21"));
  QCOMPARE(over(65), QString("step 7 of 10: Edges 0.90"));
  QCOMPARE(over(95), QString("step 10 of 10: the prompt alone"));
}

void GuidesViewTest::comfortLineIsDragged() {
  document().change("Heavy", [](StudyState& s) { s.guides[0].weight = 1.7; });
  settle();
  auto& chart = bench().board().chart();
  QVERIFY(!desk().checks.all().empty());
  const QPoint line(chart.width() / 2, static_cast<int>(chart.comfortY()));
  dragOn(chart, line, line - QPoint(0, 14));
  QVERIFY2(state().comfort > 1.7, qPrintable(QString::number(state().comfort)));
  settle();
  for (const Check& check : desk().checks.all()) QVERIFY(!check.id.starts_with("high-load"));
  QTest::mouseDClick(&chart, Qt::LeftButton, {}, QPoint(chart.width() / 2, static_cast<int>(chart.comfortY())));
  QCOMPARE(state().comfort, limits::comfort.usual);
  undo();
  QVERIFY(state().comfort > 1.7);
}

void GuidesViewTest::endsLieOnOtherEnds() {
  add("tone");
  const std::string first = state().guides[0].id, second = state().guides[1].id;
  document().change("Range", [&](StudyState& s) { s.guide(first)->range.to = 43.7; });
  auto& chart = bench().board().chart();
  const QPoint from = chart.gripAt(second, BarGrip::to).toPoint();
  const int target = static_cast<int>(chart.gripAt(first, BarGrip::to).x());
  dragOn(chart, from, QPoint(target + 3, from.y()));
  QCOMPARE(state().guide(second)->range.to, 43.7);
}

void GuidesViewTest::heldWeightsStay() {
  add("tone");
  add("edges");
  document().change("Weights", [](StudyState& s) {
    s.keepTotal = true;
    for (Guide& guide : s.guides) guide.weight = 0.8;
  });
  auto& chart = bench().board().chart();
  document().look([&](Looking& looking) { looking.guide = state().guides[1].id; });
  chart.setFocus();
  QTest::keyClick(&chart, Qt::Key_H);
  QVERIFY(state().held.contains(state().guides[1].id));
  document().look([&](Looking& looking) { looking.guide = state().guides[0].id; });
  for (int i = 0; i < 4; ++i) QTest::keyClick(&chart, Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(state().guides[0].weight > 0.95);
  QCOMPARE(state().guides[1].weight, 0.8);
  QVERIFY(std::abs(state().guides[0].weight + state().guides[2].weight - 1.6) < 0.001);
}

void GuidesViewTest::keepTotalRebalances() {
  addGuide(document(), "tone");
  document().change("Whole way", [](StudyState& st) { st.guides[1].range = {}; });
  click("keep total");
  auto& chart = bench().board().chart();
  chart.setFocus();
  const double before = state().guides[0].weight + state().guides[1].weight;
  for (int i = 0; i < 4; ++i) QTest::keyClick(&chart, Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(state().guides[1].weight > 0.8);
  QVERIFY(state().guides[0].weight < 0.6);
  QVERIFY(std::abs(state().guides[0].weight + state().guides[1].weight - before) < 0.01);
}

void GuidesViewTest::shapesSetRanges() {
  click("late entry");
  QCOMPARE(state().guides[0].range.from, 40.0);
  click("whole way");
  QCOMPARE(state().guides[0].range, Range{});
  QVERIFY(QString::fromStdString(document().history().undoName()).contains("Whole way"));
}

void GuidesViewTest::switchTurnsOffAndChecksFollow() {
  auto* plank = bench().left().plankOf(guide().id);
  click("on", plank);
  QVERIFY(!state().guides[0].on);
  QCOMPARE(desk_->checks.all().front().id, std::string("no-guide"));
  bool shown = false;
  for (QPushButton* one : window_->findChildren<QPushButton*>()) shown |= one->text().contains("no guide on");
  QVERIFY(shown);
}

void GuidesViewTest::checkIsFixedByItsButton() {
  document().change("Range", [](StudyState& s) { s.guides[0].range = {51, 52, 0, 0}; });
  auto* plank = bench().left().plankOf(guide().id);
  QVERIFY(part("fix", plank).isVisible());
  click("fix", plank);
  QCOMPARE(state().guides[0].range, Range{});
  ChecksPanel panel(*desk_);
  document().change("Frame", [](StudyState& s) { s.frame = {320, 480}; });
  click("fix swapped:r1", &panel);
  QCOMPARE(state().frame, (Size{480, 320}));
}

void GuidesViewTest::doubtedWeightsAreDraggedWithoutRestyling() {
  add("tone");
  add("edges");
  document().change("Heavy", [](StudyState& s) {
    for (Guide& guide : s.guides) guide.weight = 1.6;
  });
  settle();
  struct Styled : QObject {
    int times = 0;
    bool eventFilter(QObject*, QEvent* event) override {
      times += event->type() == QEvent::StyleChange ? 1 : 0;
      return false;
    }
  } styled;
  auto* weight = bench().left().plankOf(state().guides[0].id)->findChild<ScrubField*>("weight");
  std::set<std::string> said;
  qApp->installEventFilter(&styled);
  for (int i = 1; i <= 6; ++i) {
    weight->setValue(1.6 + 0.05 * i);
    settle();
    for (const Check& check : desk().checks.all()) said.insert(check.sentence);
  }
  qApp->removeEventFilter(&styled);
  QCOMPARE(state().guides[0].weight, 1.9);
  QVERIFY2(said.size() >= 6, "the doubt changes with each move");
  QCOMPARE(styled.times, 0);
}

void GuidesViewTest::checksMayBeLeftBe() {
  document().change("No step", [](StudyState& s) { s.guides[0].weight = 0; });
  settle();
  QCOMPARE(desk().checks.all().size(), std::size_t{1});
  ChecksPanel panel(desk());
  const auto* leave = panel.findChild<QPushButton*>(QString::fromStdString("leave " + desk().checks.all()[0].id));
  QVERIFY(leave != nullptr);
  QTest::mouseClick(const_cast<QPushButton*>(leave), Qt::LeftButton);
  settle();
  QVERIFY(desk().checks.all().empty());
  QTest::mouseClick(panel.findChild<QPushButton*>("say again"), Qt::LeftButton);
  settle();
  QCOMPARE(desk().checks.all().size(), std::size_t{1});
  undo();
  settle();
  QVERIFY(desk().checks.all().empty());
}

void GuidesViewTest::planksReorderByKeys() {
  addGuide(document(), "tone");
  const auto first = state().guides[0].id, second = state().guides[1].id;
  settle();
  auto* plank = bench().left().plankOf(second);
  plank->setFocus();
  QTest::keyClick(plank, Qt::Key_Up, Qt::AltModifier);
  QCOMPARE(state().guides[0].id, second);
  plank = bench().left().plankOf(second);
  QTest::keyClick(plank, Qt::Key_Delete);
  QCOMPARE(state().guides.size(), std::size_t{1});
  QCOMPARE(state().guides[0].id, first);
}

void GuidesViewTest::promptIsTypedAndUndone() {
  auto& prompt = bench().brief().prompt();
  prompt.setFocus();
  QTest::keyClicks(&prompt, "red dune");
  QCOMPARE(state().brief.prompt, std::string("red dune"));
  prompt.clearFocus();
  document().seal();
  undo();
  QCOMPARE(state().brief.prompt, std::string());
  QCOMPARE(prompt.toPlainText(), QString());
}

void GuidesViewTest::frameCalculator() {
  FramePanel panel(*desk_);
  panel.show();
  const auto type = [&](const char* name, const QString& text) { typeInto(part<ScrubField>(name, &panel), text); };
  type("width", "960");
  QCOMPARE(state().frame, (Size{960, 640}));
  type("height", "320");
  QCOMPARE(state().frame, (Size{480, 320}));
  type("megapixels", "0.61");
  QTRY_VERIFY(panel.findChild<QPushButton*>("offer 960 x 640") != nullptr);
  QTRY_VERIFY(part("offer 960 x 640", &panel).isVisible());
  click("offer 960 x 640", &panel);
  QCOMPARE(state().frame, (Size{960, 640}));
  click("swap sides", &panel);
  QCOMPARE(state().frame, (Size{640, 960}));
}

void GuidesViewTest::scrollingChangesNothing() {
  table().setFocus();
  const auto before = state().guides;
  const auto turn = [](QWidget& over) {
    const QPointF at(over.rect().center());
    QWheelEvent wheel(at, over.mapToGlobal(at), {}, {0, -120}, {}, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&over, &wheel);
  };
  int turned = 0;
  for (QWidget* each : bench().findChildren<QWidget*>())
    if (each->isVisible() &&
        (each->inherits("QComboBox") || each->inherits("QSlider") || each->inherits("QAbstractSpinBox"))) {
      // A wheel that gave the focus would be taken for a choice.
      QVERIFY(each->focusPolicy() != Qt::WheelFocus);
      turn(*each);
      ++turned;
    }
  QVERIFY(turned > 5);
  QVERIFY(state().guides == before);
  auto* choice = bench().findChild<QComboBox*>();
  choice->setFocus();
  const int index = choice->currentIndex();
  turn(*choice);
  QVERIFY(choice->currentIndex() != index);
}

void GuidesViewTest::theSelectedGuideIsSeen() {
  for (int i = 0; i < 6; ++i) addGuide(document(), "edges");
  QCoreApplication::processEvents();
  const Plank* last = nullptr;
  for (const Plank* plank : bench().findChildren<Plank*>())
    if (plank->guide() == state().looking.guide) last = plank;
  QVERIFY(last != nullptr);
  QTRY_VERIFY(!last->visibleRegion().isEmpty());
}

HSCAFFOLD_TEST(GuidesViewTest)
#include "guides_view_test.moc"
