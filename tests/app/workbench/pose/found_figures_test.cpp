// Figures as they were found: doubtful joints hollow, stepped through, put right by hand or confirmed.
#include <QSlider>
#include <QToolButton>
#include <atomic>
#include <thread>

#include "app/bench/figure_strip.h"
#include "app/document/study_edits.h"
#include "app/points.h"
#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/pose/pose_window.h"
#include "core/pose/finder.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;
using fixtures::at;
using fixtures::standing;

/// A folder of models of the test's own, as long as it lives: with a file that is no network, or with nothing.
class Models {
 public:
  Models(const QTemporaryDir& folder, bool damaged) {
    const auto own = std::filesystem::path(folder.path().toStdString()) / (damaged ? "damaged" : "none");
    std::filesystem::create_directories(own);
    if (damaged) fixtures::writeFile(own / "figures.onnx", "not a network");
    before_ = qgetenv("HSCAFFOLD_MODELS");
    qputenv("HSCAFFOLD_MODELS", own.c_str());
  }
  Models(const Models&) = delete;
  Models& operator=(const Models&) = delete;
  ~Models() { qputenv("HSCAFFOLD_MODELS", before_); }

 private:
  QByteArray before_;
};

class FoundFiguresTest : public fixtures::PoseWindowTest {
  Q_OBJECT
 private slots:
  /// Which tools there are is settled when the first window opens: with a network, whatever it is worth.
  void initTestCase() { installed_ = std::make_unique<Models>(everywhere_, true); }
  void cleanupTestCase() { installed_.reset(); }
  void doubtfulJointsAreTheFaintOnesOfTheBody();
  void aKeyStepsThroughThem();
  void handsAndReturnTakeDoubtAway();
  void sidesAreSwappedByOneKey();
  void doubtfulJointsLookOtherwise();
  void theFaintestFigureIsRemembered();
  void withoutTheNetworkNothingIsOffered();
  void aDamagedNetworkIsSaid();
  void aBoxAsksForOneFigure();
  void whatIsFoundGoesToTheGuideThatAsked();

 private:
  /// Two figures, of which the farther has two doubtful joints and the nearer one.
  void addFound() {
    auto far = standing(90, {120, 150}), near = standing(180, {300, 150});
    for (auto* figure : {&far, &near})
      for (auto& point : figure->points) point.confidence = 0.95;
    far.points[at("left_wrist")].confidence = 0.3;
    far.points[at("right_knee")].confidence = 0.5;
    near.points[at("right_wrist")].confidence = 0.4;
    pose().add({far, near}, "Found");
    settle();
  }
  QTemporaryDir everywhere_;
  std::unique_ptr<Models> installed_;
  [[nodiscard]] QToolButton& check() const { return part<QToolButton>("check joints"); }
};

void FoundFiguresTest::doubtfulJointsAreTheFaintOnesOfTheBody() {
  auto figure = standing(100);
  for (auto& point : figure.points) point.confidence = 1;
  QVERIFY(pose::doubtfulPoints(figure).empty());
  figure.points[at("nose")].confidence = 0.5;
  figure.points[at("left_hip")].confidence = 0.2;
  figure.points[at("right_hip")].confidence = 0.1;
  figure.points[at("right_hip")].presence = pose::Presence::absent;
  QCOMPARE(pose::doubtfulPoints(figure), (std::vector<std::size_t>{at("left_hip"), at("nose")}));
}

void FoundFiguresTest::aKeyStepsThroughThem() {
  QVERIFY(!check().isVisible());
  addFound();
  QVERIFY(check().isVisible());
  QVERIFY(check().text().endsWith("3"));
  pose().select(1);
  press(Qt::Key_K);
  QCOMPARE(pose().selected(), std::optional<std::size_t>(1));
  QCOMPARE(pose().points(), std::set<std::size_t>{at("right_wrist")});
  QVERIFY(check().toolTip().contains("right wrist"));
  press(Qt::Key_K);
  QCOMPARE(pose().selected(), std::optional<std::size_t>(0));
  QCOMPARE(pose().points(), std::set<std::size_t>{at("left_wrist")});
  press(Qt::Key_K);
  QCOMPARE(pose().points(), std::set<std::size_t>{at("right_knee")});
  // Round and round; the button does the same.
  check().click();
  QCOMPARE(pose().selected(), std::optional<std::size_t>(1));
}

void FoundFiguresTest::handsAndReturnTakeDoubtAway() {
  addFound();
  pose().select(1);
  press(Qt::Key_K);
  press(Qt::Key_Return);
  settle();
  QCOMPARE(figure(1).points[at("right_wrist")].confidence, 1.0);
  // And on to the next one.
  QCOMPARE(pose().selected(), std::optional<std::size_t>(0));
  QVERIFY(check().text().endsWith("2"));
  const Point before = figure(0).points[at("left_wrist")].at;
  drag({toQt(before), toQt(before) + QPointF(6, -4), toQt(before) + QPointF(10, -8)}, Qt::ControlModifier);
  settle();
  QVERIFY(figure(0).points[at("left_wrist")].at.x > before.x + 5);
  QCOMPARE(figure(0).points[at("left_wrist")].confidence, 1.0);
  QCOMPARE(figure(0).points[at("right_knee")].confidence, 0.5);
  QVERIFY(check().text().endsWith("1"));
  undo();
  undo();
  settle();
  QVERIFY(check().text().endsWith("3"));
}

void FoundFiguresTest::sidesAreSwappedByOneKey() {
  addFound();
  pose().select(1);
  const Point left = figure(1).points[at("left_shoulder")].at, right = figure(1).points[at("right_shoulder")].at;
  press(Qt::Key_X);
  settle();
  QCOMPARE(figure(1).points[at("left_shoulder")].at, right);
  QCOMPARE(figure(1).points[at("right_shoulder")].at, left);
  undo();
  settle();
  QCOMPARE(figure(1).points[at("left_shoulder")].at, left);
}

void FoundFiguresTest::doubtfulJointsLookOtherwise() {
  addFound();
  pose().select(1);
  const auto shot = [&] { return table().grab().toImage(); };
  const QImage hollow = shot();
  pose().change(1, "Sure", [](pose::Figure figure) {
    for (auto& point : figure.points) point.confidence = 1;
    return figure;
  });
  settle();
  QVERIFY(shot() != hollow);
}

void FoundFiguresTest::theFaintestFigureIsRemembered() {
  auto& slider = part<QSlider>("faintest");
  slider.setValue(55);
  QCOMPARE(FigureSearch::faintest(), 55);
  beginAgain();
  QCOMPARE(FigureSearch::faintest(), 55);
  FigureSearch::setFaintest(30);
}

void FoundFiguresTest::withoutTheNetworkNothingIsOffered() {
  const Models none(*folder_, false);
  addFound();
  QVERIFY(!part<QToolButton>("find figures").isVisible());
  QVERIFY(menuAction("Find figures with a program") != nullptr);
  for (const auto& tool : figureTools()) QVERIFY(!(tool.id == ToolName::findHere));
  // What was found elsewhere is checked all the same.
  QVERIFY(check().isVisible());
}

void FoundFiguresTest::aDamagedNetworkIsSaid() {
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
  addPoseGuide(document(), "Found");
  settle();
  click("find figures");
  QTRY_VERIFY(!desk().workbench.search.finding());
  QVERIFY2(window_->shownSentence().contains("figures.onnx"), qPrintable(window_->shownSentence()));
  QVERIFY(pose().figures()->figures.empty());
}

void FoundFiguresTest::aBoxAsksForOneFigure() {
  std::vector<QRectF> asked;
  connect(&pose(), &PoseWork::findAsked, this, [&](const QRectF& box) { asked.push_back(box); });
  addFound();
  press(Qt::Key_S);
  QVERIFY(desk().workbench.tool() == ToolName::findHere);
  drag({{40, 30}, {60, 60}, {120, 160}});
  QTRY_VERIFY(!desk().workbench.search.finding());
  QCOMPARE(asked.size(), std::size_t{1});
  QVERIFY(std::abs(asked[0].left() - 40) < 1 && std::abs(asked[0].bottom() - 160) < 1);
  // A click is no box.
  drag({{40, 30}});
  QCOMPARE(asked.size(), std::size_t{1});
}

namespace {

/// Finds one figure once it is let go.
class PatientFinder final : public pose::FigureFinder {
 public:
  [[nodiscard]] std::string name() const override { return "Patience"; }
  std::vector<pose::Figure> find(View<Rgb>, StopToken stop) override {
    while (!open && !stop.stop_requested()) std::this_thread::yield();
    throwIfStopped(stop);
    return {standing(120, {240, 160})};
  }
  std::atomic<bool> open = false;
};

}  // namespace

void FoundFiguresTest::whatIsFoundGoesToTheGuideThatAsked() {
  bringInScene();
  addPoseGuide(document(), "People");
  settle();
  const std::string people = guide().id, edges = state().guides[0].id;
  auto finder = std::make_shared<PatientFinder>();
  desk().workbench.search.find(finder);
  QVERIFY(desk().workbench.search.finding());
  // Meanwhile another guide is chosen, and the picture is put elsewhere and made larger.
  document().look([&](Looking& looking) { looking.guide = edges; });
  document().change("Move", [&](StudyState& s) {
    Reference& reference = s.references.back();
    reference.placement = resolved(reference.placement, reference.size, s.frame);
    reference.placement.fit = Fit::free;
    reference.placement.x += 0.25;
    reference.placement.scaleX *= 2;
    reference.placement.scaleY *= 2;
  });
  const double right = state().frame.width * 0.25;
  const QPointF middle(state().frame.width / 2.0, state().frame.height / 2.0);
  finder->open = true;
  QTRY_VERIFY(!desk().workbench.search.finding());
  settle();
  QCOMPARE(guide().id, edges);
  document().look([&](Looking& looking) { looking.guide = people; });
  settle();
  QVERIFY(pose().figures() != nullptr);
  QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
  // It lies on the picture as it lay when it was found.
  const auto found = standing(120, {240, 160});
  const Point then = found.points[at("left_wrist")].at, now = figure().points[at("left_wrist")].at;
  QVERIFY2(std::abs(now.x - (middle.x() + 2 * (then.x - middle.x()) + right)) < 1.5,
           qPrintable(QString("%1 from %2").arg(now.x).arg(then.x)));
  QVERIFY(std::abs(now.y - (middle.y() + 2 * (then.y - middle.y()))) < 1.5);
}

HSCAFFOLD_TEST(FoundFiguresTest)
#include "found_figures_test.moc"
