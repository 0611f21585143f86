// Figures dragged by their points on the table, with real events.

#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/pose/pose_window.h"
#include "core/pose/library.h"
#include "core/pose/posing.h"
#include "core/study/study_file.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class FigureDragTest : public PoseWindowTest {
  Q_OBJECT
 private slots:
  void pointsAreLitWithinFourteenPixels();
  void draggingShowsTheFigureAtOnce();
  void theMagnifierShowsWhatIsUnderThePointer();
  void undoUnderThePointerIsHarmless();
  void escapeGivesUpADrag();
  void otherFiguresAreSafeFromADrag();
  void controlMovesAPointAlone();
  void fitTakesTheBodyAlong();
  void bonesAreDraggedByTheirMiddle();
  void limbsTurnOnTheirJoints();
  void figuresAreMovedScaledAndTurned();
};

void FigureDragTest::pointsAreLitWithinFourteenPixels() {
  put({standing()});
  for (const double zoom : {1.0, 0.4, 6.0}) {
    desk_->workbench.view.fit();
    const QPointF wrist = place("left_wrist");
    if (zoom != 1) desk_->workbench.view.showPlace(wrist, zoom, table().size());
    const QPointF at = table().toTable(place("left_wrist"));
    hover(at + QPointF(13, 0));
    QCOMPARE(table().cursor().shape(), Qt::PointingHandCursor);
    // Lit before the click: the table shows it.
    const QImage lit = table().grab().toImage();
    hover(at + QPointF(60, -60));
    QCOMPARE(table().cursor().shape(), Qt::ArrowCursor);
    QVERIFY(lit != table().grab().toImage());
  }
  desk_->workbench.view.fit();
  const QPointF start = place("left_wrist");
  const QPointF beside = table().toFrame(table().toTable(start) + QPointF(12, 3));
  drag({beside, beside + QPointF(20, -20)});
  // What is grabbed beside the point moves it by as much as the pointer, without a jump.
  QVERIFY(std::abs(place("left_wrist").x() - start.x() - 20) < 1.5);
  QVERIFY(std::abs(place("left_wrist").y() - start.y() + 20) < 1.5);
}

void FigureDragTest::draggingShowsTheFigureAtOnce() {
  put({standing()});
  const std::string kept = guide().work.in("figures");
  const QPointF from = place("left_wrist"), to = from + QPointF(40, -60);
  drag({from, from + QPointF(10, -20), to}, {}, false);
  // Seen, but not yet in the study.
  const auto inked = [&](QPointF p) {
    return desk_->maps.mapOf(guide().id)->grey.pixelColor(static_cast<int>(p.x() + 0), static_cast<int>(p.y())).value();
  };
  const QPointF forearm = (place("left_wrist") + place("left_elbow")) / 2;
  QVERIFY(inked(forearm) > 120);
  QCOMPARE(guide().work.in("figures"), kept);
  const QPointF end = place("left_wrist");
  release(to);
  QVERIFY(guide().work.in("figures") != kept);
  QCOMPARE(document().history().undoName(), std::string("Move left wrist"));
  QCOMPARE(place("left_wrist"), end);
  settle();
  const ColourMap& map = *desk_->maps.mapOf(guide().id)->colour;
  QVERIFY(map(static_cast<int>(forearm.x()), static_cast<int>(forearm.y())).b > 120);
  // It is in the file already, and undo leads back.
  QVERIFY(!StudyFile::open(document().path()).work(guide().work.in("figures")).empty());
  undo();
  QCOMPARE(place("left_wrist"), from);
  redo();
  QCOMPARE(place("left_wrist"), end);
}

void FigureDragTest::theMagnifierShowsWhatIsUnderThePointer() {
  put({standing()});
  const QPointF from = place("left_wrist"), to = from + QPointF(20, -10);
  drag({from, to}, {}, false);
  const QPointF hand = table().toTable(place("left_wrist"));
  const QImage during = table().grab().toImage();
  press(Qt::Key_Escape);
  const QImage after = table().grab().toImage();
  // A round glass up and to the right: another picture there, with the hand's colour in its middle.
  const QPoint middle = (hand + QPointF(92, -92)).toPoint();
  int different = 0;
  for (int y = -50; y <= 50; y += 2)
    for (int x = -50; x <= 50; x += 2)
      different += during.pixel(middle + QPoint(x, y)) != after.pixel(middle + QPoint(x, y)) ? 1 : 0;
  QVERIFY(different > 150);
  int brightest = 0;
  for (int r = 54; r <= 62; ++r) brightest = std::max(brightest, during.pixelColor(middle + QPoint(0, r)).lightness());
  QVERIFY(brightest > 150);
}

void FigureDragTest::undoUnderThePointerIsHarmless() {
  put({standing()});
  pose::Figure fox;
  for (const auto& named : pose::housePoses())
    if (named.name == "Trotting")
      fox = pose::figureFrom(pose::skeletonOf(named.skeleton), named.pose, {{240, 170}, 200, {}});
  put({fox});
  pose().select(1, {fox.points.size() - 1});
  for (const Qt::Key tool : {Qt::Key_J, Qt::Key_T, Qt::Key_M, Qt::Key_H}) {
    press(tool);
    const Point p = figure(1).points[fox.points.size() - 1].at;
    hover(table().toTable({p.x, p.y}));
    // What is lit under the pointer goes and comes back: the table says how many there are, and is drawn.
    const auto figures = pose().figures()->figures.size();
    undo();
    const QImage without = table().grab().toImage();
    undo();
    QVERIFY(pose().figures() == nullptr || pose().figures()->figures.size() < figures);
    QVERIFY(table().grab().toImage() != QImage(without.size(), without.format()));
    QTest::mouseClick(&table(), Qt::RightButton, {}, table().toTable({p.x, p.y}).toPoint());
    redo();
    redo();
    QVERIFY(!table().grab().isNull());
    settle();
  }
  // In the middle of a drag, too.
  press(Qt::Key_J);
  drag({place("left_wrist"), place("left_wrist") + QPointF(30, 10)}, {}, false);
  undo();
  QVERIFY(!pose().active());
  release({50, 50});
  settle();
}

void FigureDragTest::escapeGivesUpADrag() {
  put({standing()});
  const std::string kept = guide().work.in("figures");
  const QPointF from = place("left_ankle");
  drag({from, from + QPointF(50, -20)}, {}, false);
  QVERIFY(place("left_ankle") != from);
  press(Qt::Key_Escape);
  QCOMPARE(place("left_ankle"), from);
  QCOMPARE(guide().work.in("figures"), kept);
  settle();
}

void FigureDragTest::otherFiguresAreSafeFromADrag() {
  put({standing(200, {140, 170}), standing(200, {340, 170})});
  pose().select(0);
  const pose::Figure other = figure(1);
  const QPointF from = place("left_wrist"), to = from + QPointF(24, -40);
  drag({from, from + QPointF(10, -20), to}, {}, false);
  // In the middle of it: the next figure, another order, away with it.
  press(Qt::Key_N);
  pose().bringNearer(0, 1);
  pose().remove(0);
  QCOMPARE(pose().selected(), std::optional<std::size_t>(0));
  release(to);
  QCOMPARE(pose().figures()->figures.size(), std::size_t{2});
  QVERIFY(figure(1) == other);
  QVERIFY(std::abs(place("left_wrist").x() - to.x()) < 2 && std::abs(place("left_wrist").y() - to.y()) < 2);
}

void FigureDragTest::controlMovesAPointAlone() {
  put({standing()});
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -45)});
  const pose::Figure before = figure();
  drag({place("left_elbow"), place("left_elbow") + QPointF(-6, -6)}, Qt::ControlModifier);
  QVERIFY(figure().points[at("left_elbow")].at != before.points[at("left_elbow")].at);
  for (const char* still : {"left_wrist", "left_shoulder"})
    QVERIFY(distanceBetween(figure().points[at(still)].at, before.points[at(still)].at) < 0.01);
}

void FigureDragTest::fitTakesTheBodyAlong() {
  put({standing()});
  QVERIFY(pose().fitting());
  const pose::Figure before = figure();
  const QPointF up = place("left_wrist") + QPointF(30, -150);
  drag({place("left_wrist"), up});
  QVERIFY(figure().body && *figure().body != *before.body);
  undo();
  press(Qt::Key_F);
  QVERIFY(!pose().fitting());
  drag({place("left_wrist"), up});
  // The limb alone: nothing else has moved.
  for (const char* still : {"nose", "right_wrist", "left_hip", "left_ankle"})
    QCOMPARE(figure().points[at(still)].at.x, before.points[at(still)].at.x);
}

void FigureDragTest::bonesAreDraggedByTheirMiddle() {
  put({standing()});
  const QPointF knee = place("left_knee"), ankle = place("left_ankle"), middle = (knee + ankle) / 2;
  const QPointF still = place("right_knee");
  drag({middle, middle + QPointF(14, -10)});
  QCOMPARE(pose().points(), (std::set<std::size_t>{at("left_knee"), at("left_ankle")}));
  for (const auto& [point, was] : {std::pair{"left_knee", knee}, {"left_ankle", ankle}})
    QVERIFY2(QLineF(place(point), was + QPointF(14, -10)).length() < 4, point);
  QVERIFY(QLineF(place("right_knee"), still).length() < 1);
  QVERIFY(pose::overlength(figure()) <= pose::lengthTolerance);
}

void FigureDragTest::limbsTurnOnTheirJoints() {
  put({standing()});
  press(Qt::Key_T);
  QCOMPARE(desk_->workbench.tool(), ToolName::turnLimb);
  const QPointF shoulder = place("left_shoulder");
  drag({place("left_elbow"), shoulder + QPointF(60, 0)});
  QVERIFY(std::abs(place("left_elbow").y() - shoulder.y()) < 0.5);
  QVERIFY(std::abs(place("left_wrist").y() - shoulder.y()) < 12);
  drag({place("left_elbow"), shoulder + QPointF(60, 28)}, Qt::ShiftModifier);
  const QPointF way = place("left_elbow") - shoulder;
  const double degrees = std::atan2(way.y(), way.x()) * 180 / 3.14159265;
  QVERIFY(std::abs(degrees / 15 - std::round(degrees / 15)) < 0.01);
}

void FigureDragTest::figuresAreMovedScaledAndTurned() {
  put({standing(140, {200, 160})});
  press(Qt::Key_M);
  const auto box = [&] { return *pose::boundsOf(figure()); };
  const QPointF inside = (place("left_hip") + place("right_hip")) / 2 + QPointF(0, 8);
  const auto before = box();
  drag({inside, inside + QPointF(60, 10)});
  QVERIFY(std::abs(box().left - before.left - 60) < 0.01 && std::abs(box().top - before.top - 10) < 0.01);
  // A corner scales about the cross, which is where the figure stands.
  const double margin = 10 / desk_->workbench.view.scale(table().size());
  const auto moved = box();
  const QPointF corner(moved.right + margin, moved.top - margin), middle(moved.middle().x, moved.bottom);
  drag({corner, middle + (corner - middle) * 1.3});
  QVERIFY(std::abs(box().height() / moved.height() - 1.3) < 0.02);
  QVERIFY(std::abs(pose::sizeOf(figure()) - 140 * 1.3) < 3);
  QVERIFY(pose::overlength(figure()) <= pose::lengthTolerance);
  // The knob turns about the cross, which can be put anywhere.
  const auto scaled = box();
  const QPointF cross(scaled.middle().x, scaled.bottom), foot = place("left_ankle");
  drag({cross, foot});
  const double scale = desk_->workbench.view.scale(table().size());
  const QPointF knob(scaled.middle().x, scaled.top - (10 + 20) / scale);
  drag({knob, foot + QPointF(200, -1)});
  QVERIFY(QLineF(place("left_ankle"), foot).length() < 0.01);
  QVERIFY(place("nose").x() > foot.x() + 60);
  QCOMPARE(document().history().undoName(), std::string("Turn figure"));
}

HSCAFFOLD_TEST(FigureDragTest)
#include "figure_drag_test.moc"
