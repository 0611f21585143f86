// Figures selected, hidden, typed in, ordered, listed and limited, with real events.
#include <QLabel>
#include <QLineF>

#include "app/widgets/scrub_field.h"
#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/pose/pose_window.h"
#include "core/pose/posing.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class FigureEditTest : public PoseWindowTest {
  Q_OBJECT
 private slots:
  void clicksHideAndBringBack();
  void keysNudgePinAndRemove();
  void placesAreTypedIn();
  void bandsAndShiftSelect();
  void theMenuMirrorsSwapsRelaxesAndOrders();
  void theStripListsAllFigures();
  void nextGoesToFarFigures();
  void regionsLimitFigures();
};

void FigureEditTest::clicksHideAndBringBack() {
  put({standing()});
  press(Qt::Key_H);
  const QPointF knee = place("left_knee");
  const auto presence = [&] { return figure().points[at("left_knee")].presence; };
  drag({knee});
  QVERIFY(presence() == pose::Presence::hidden);
  drag({knee});
  QVERIFY(presence() == pose::Presence::absent);
  // Where it was, it can be clicked again.
  drag({knee});
  QVERIFY(presence() == pose::Presence::seen);
  QCOMPARE(place("left_knee"), knee);
}

void FigureEditTest::keysNudgePinAndRemove() {
  put({standing(), standing(80, {80, 80})});
  pose().select(0, {at("left_wrist")});
  const QPointF before = place("left_wrist");
  press(Qt::Key_Right);
  press(Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(QLineF(place("left_wrist"), before + QPointF(1, -10)).length() < 1.5);
  // Nudges that follow each other are one step.
  undo();
  QCOMPARE(place("left_wrist"), before);
  pose().select(0, {at("left_wrist")});
  press(Qt::Key_P);
  QVERIFY(figure().points[at("left_wrist")].pinned);
  drag({place("left_elbow"), place("left_elbow") + QPointF(25, 5)});
  QVERIFY(QLineF(place("left_wrist"), before).length() <= 0.5);
  pose().select(0, {at("left_knee"), at("left_ankle")});
  press(Qt::Key_Delete);
  QVERIFY(!figure().points[at("left_knee")].there() && !figure().points[at("left_ankle")].there());
  pose().select(1);
  press(Qt::Key_Delete);
  QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
  QVERIFY(document().history().undoName().starts_with("Remove"));
  undo();
  QCOMPARE(pose().figures()->figures.size(), std::size_t{2});
}

void FigureEditTest::placesAreTypedIn() {
  put({standing()});
  pose().select(0, {at("right_wrist")});
  auto& x = part<ScrubField>("x", &bench().tools());
  QVERIFY(x.isVisible());
  const double wanted = std::round(place("right_wrist").x() - 12);
  typeInto(x, QString::number(wanted));
  QVERIFY(std::abs(place("right_wrist").x() - wanted) < 1);
  pose().select(0, {at("right_wrist"), at("left_wrist")});
  QVERIFY(!x.isVisible());
}

void FigureEditTest::bandsAndShiftSelect() {
  put({standing(200)});
  pose().select(0);
  const QPointF ankle = place("left_ankle"), other = place("right_ankle");
  drag({QPointF(std::min(ankle.x(), other.x()) - 30, ankle.y() - 25),
        QPointF(std::max(ankle.x(), other.x()) + 30, ankle.y() + 15)});
  QCOMPARE(pose().points(), (std::set<std::size_t>{at("left_ankle"), at("right_ankle")}));
  drag({place("nose")}, Qt::ShiftModifier);
  QVERIFY(pose().points().contains(at("nose")));
  drag({place("nose")}, Qt::ShiftModifier);
  QCOMPARE(pose().points().size(), std::size_t{2});
  const QPointF before = place("right_ankle");
  drag({ankle, ankle + QPointF(0, -12)});
  QVERIFY(std::abs(place("right_ankle").y() - before.y() + 12) < 2);
}

void FigureEditTest::theMenuMirrorsSwapsRelaxesAndOrders() {
  put({standing(200, {160, 160}), standing(100, {360, 160})});
  pose().select(0);
  drag({place("left_wrist"), place("left_wrist") + QPointF(40, -70)});
  const pose::Figure raised = figure();
  figureAction("Mirror");
  QVERIFY(figure().points[at("right_wrist")].at.y < figure().points[at("left_wrist")].at.y - 40);
  undo();
  figureAction("Swap sides");
  QCOMPARE(figure().points[at("right_wrist")].at.x, raised.points[at("left_wrist")].at.x);
  undo();
  figureAction("Nearer");
  QCOMPARE(figure(1).points[0].at.x, raised.points[0].at.x);
  QCOMPARE(*pose().selected(), std::size_t{1});
  undo();
  setPresence(pose(), 0, {at("left_knee")}, pose::Presence::absent);
  figureAction("Fill in missing points");
  QVERIFY(figure().points[at("left_knee")].there());
  drag({place("left_elbow"), place("left_elbow") + QPointF(-4, -8)}, Qt::ControlModifier);
  figureAction("Relax");
  QVERIFY(*pose::shareOfNatural(figure(), static_cast<std::size_t>(figure().kind().points[at("left_elbow")].bone)) >
          0.99);
}

void FigureEditTest::theStripListsAllFigures() {
  auto faint = standing(40, {60, 200});
  faint.name = "Faint";
  for (auto& p : faint.points) p.confidence = 0.3;
  put({faint, standing()});
  FigureStrip& strip = bench().figures();
  QVERIFY(strip.isVisible());
  QVERIFY(strip.findChildren<QLabel*>().first()->text().contains("2 figures"));
  auto* chips = &part<QWidget>("figures", &strip);
  const auto click = [&](std::size_t f, QPoint off) {
    QTest::mouseClick(chips, Qt::LeftButton, {}, chips->mapFrom(&strip, strip.chipOf(f).topLeft() + off));
  };
  click(0, {20, 20});
  QCOMPARE(*pose().selected(), std::size_t{0});
  click(0, {strip.chipOf(0).width() - 15, 10});
  QVERIFY(!figure(0).on);
  settle();
  QCOMPARE(desk_->maps.mapOf(guide().id)->facts.number("figures"), std::optional(1.0));
  QTest::keyClick(chips, Qt::Key_Space);
  QVERIFY(figure(0).on);
  renameFigure(pose(), 0, "  Far walker ");
  QCOMPARE(figure(0).name, std::string("Far walker"));
}

void FigureEditTest::nextGoesToFarFigures() {
  put({standing(30, {60, 60}), standing()});
  QCOMPARE(*pose().selected(), std::size_t{1});
  QVERIFY(desk_->workbench.view.fitting());
  press(Qt::Key_N);
  QCOMPARE(*pose().selected(), std::size_t{0});
  // It is seen large, in the middle.
  QVERIFY(desk_->workbench.view.scale(table().size()) > 3);
  const auto bounds = *pose::boundsOf(figure(0));
  const QPointF middle = table().toTable({bounds.middle().x, bounds.middle().y});
  QVERIFY(QLineF(middle, QPointF(table().width() / 2.0, table().height() / 2.0)).length() < 2);
  press(Qt::Key_N);
  QCOMPARE(*pose().selected(), std::size_t{1});
}

void FigureEditTest::regionsLimitFigures() {
  put({standing(), standing(160, {80, 160})});
  press(Qt::Key_G);
  QVERIFY(desk_->workbench.regionShown());
  desk_->workbench.settings.size = 150;
  drag({{240, 60}, {240, 300}});
  settle();
  const ColourMap& map = *desk_->maps.mapOf(guide().id)->colour;
  const auto ink = [&](QPointF p) { return map(static_cast<int>(p.x()), static_cast<int>(p.y())); };
  const auto thigh = [&](std::size_t f) { return (place("right_hip", f) + place("right_knee", f)) / 2; };
  QVERIFY(ink(thigh(0)).r > 150);
  QVERIFY(ink(thigh(1)).r < 10);
  press(Qt::Key_G);
  QCOMPARE(desk_->workbench.tool(), ToolName::joints);
}

HSCAFFOLD_TEST(FigureEditTest)
#include "figure_edit_test.moc"
