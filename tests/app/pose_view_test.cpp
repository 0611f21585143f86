// Figures by hand, in the real window with real events.
#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>
#include <nlohmann/json.hpp>
#include <thread>

#include "app/bench/bench_view.h"
#include "app/bench/clip_dialog.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/pose/coco.h"
#include "core/pose/finder.h"
#include "core/pose/pose_words.h"
#include "files/program_finder.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// A detector for tests: says what it was told, and how often it was asked.
class ToldFinder : public pose::FigureFinder {
 public:
  explicit ToldFinder(std::vector<pose::Figure> figures) : figures_(std::move(figures)) {}
  [[nodiscard]] std::string name() const override { return "Told"; }
  std::vector<pose::Figure> find(View<Rgb> picture, StopToken stop) override {
    looked = picture.size();
    while (waits && !stop.stop_requested()) std::this_thread::sleep_for(std::chrono::milliseconds(2));
    throwIfStopped(stop);
    return figures_;
  }
  Size looked;
  bool waits = false;

 private:
  std::vector<pose::Figure> figures_;
};

/// Something dragged over a widget and let go there.
void letGo(QWidget& over, QPointF at, const QMimeData& data) {
  QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&over, &enter);
  QVERIFY(enter.isAccepted());
  QDropEvent drop(at, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&over, &drop);
}

std::size_t at(const char* point) { return *pose::skeletonOf("human").find(point); }

pose::Figure standing(double size = 240, Point where = {240, 170}) {
  auto figure = pose::figureFrom(pose::skeletonOf("human"), pose::housePoses()[0].pose, {where, size, {}});
  figure.name = "Stander";
  return figure;
}

}  // namespace

class PoseViewTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();
  void fromNothingToAKneelingPoseInEightActions();
  void pointsAreLitWithinFourteenPixels();
  void draggingShowsTheFigureAtOnce();
  void theMagnifierShowsWhatIsUnderThePointer();
  void undoUnderThePointerIsHarmless();
  void escapeGivesUpADrag();
  void controlMovesAPointAlone();
  void fitTakesTheBodyAlong();
  void bonesAreDraggedByTheirMiddle();
  void limbsTurnOnTheirJoints();
  void figuresAreMovedScaledAndTurned();
  void clicksHideAndBringBack();
  void keysNudgePinAndRemove();
  void placesAreTypedIn();
  void bandsAndShiftSelect();
  void theMenuMirrorsSwapsRelaxesAndOrders();
  void theStripListsAllFigures();
  void nextGoesToFarFigures();
  void posesAreSearchedDraggedAndBoxed();
  void posesBlendIntoAFigure();
  void ownPosesAreKept();
  void figuresAreCopiedBetweenStudies();
  void otherInksRedrawTheMap();
  void keyPointsComeInAndGoOut();
  void keyPointsLieOnTheirPicture();
  void wrongFilesChangeNothing();
  void clipsAreScrubbed();
  void wordsGoIntoThePromptAndFollow();
  void promptsThatContradictAreChecked();
  void findersBringFigures();
  void programsFindFigures();
  void regionsLimitFigures();
  void proofsShowTheBody();

 private:
  SourceTable& table() { return bench().source(); }
  PoseWork& pose() { return desk_->workbench.pose; }
  const Guide& guide() const { return *desk_->document.state().selectedGuide(); }
  const pose::Figure& figure(std::size_t i = 0) { return *pose().figures()->figures[i]; }
  QPointF place(const char* point, std::size_t i = 0) {
    const Point p = figure(i).points[at(point)].at;
    return {p.x, p.y};
  }
  void settle() { QVERIFY(fixtures::settle(*desk_)); }
  void put(std::vector<pose::Figure> figures) {
    pose().add(std::move(figures), "Put");
    settle();
  }
  void drag(const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {}, bool letGo = true) {
    fixtures::dragOver(table(), inFrame, keys, letGo);
  }
  void hover(QPointF onTable) {
    QMouseEvent event(QEvent::MouseMove, onTable, table().mapToGlobal(onTable), Qt::NoButton, Qt::NoButton, {});
    QApplication::sendEvent(&table(), &event);
  }
  void press(Qt::Key key, Qt::KeyboardModifiers keys = {}) { QTest::keyClick(&table(), key, keys); }
  void drop(const pose::Figure& figure, QPointF inFrame);
  /// An entry of the menu that a right click on the table would show.
  void figureAction(const QString& begins, std::size_t figure = 0);
  QString path(const char* name) const { return folder_->filePath(name); }

  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<Desk> desk_;
  BenchView& bench() { return *window_->findChild<BenchView*>(); }
  std::unique_ptr<MainWindow> window_;
};

void PoseViewTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  desk_ = std::make_unique<Desk>();
  window_ = std::make_unique<MainWindow>(*desk_);
  desk_->document.createUntitled();
  desk_->document.change("Small", [](StudyState& s) { s.frame = {480, 320}; });
  window_->show();
  QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  if (QString(QTest::currentTestFunction()) == "fromNothingToAKneelingPoseInEightActions") return;
  addPoseGuide(desk_->document, "Pose");
  settle();
  bench().showLibrary(false);
}

void PoseViewTest::cleanup() {
  window_.reset();
  desk_.reset();
}

void PoseViewTest::drop(const pose::Figure& what, QPointF inFrame) {
  pose::Figures one;
  one.frame = {1024, 1024};
  one.figures = {std::make_shared<const pose::Figure>(what)};
  QMimeData data;
  data.setData(poseMime, QByteArray::fromStdString(pose::figuresToText(one)));
  letGo(table(), table().toTable(inFrame), data);
}

void PoseViewTest::figureAction(const QString& begins, std::size_t number) {
  QMenu menu;
  addFigureActions(menu, pose(), number);
  for (QAction* action : menu.actions())
    if (action->text().startsWith(begins)) {
      action->trigger();
      settle();
      return;
    }
  QFAIL(qPrintable("no entry " + begins));
}

void PoseViewTest::fromNothingToAKneelingPoseInEightActions() {
  int actions = 0;
  // One: open the menu; two: choose pose. The library opens by itself.
  QToolButton* add = nullptr;
  for (QToolButton* button : bench().left().findChildren<QToolButton*>())
    if (button->text() == "+ Add guide") add = button;
  QVERIFY(add != nullptr && add->isEnabled());
  ++actions;
  for (QAction* action : add->menu()->actions())
    if (action->text() == "Pose") action->trigger();
  ++actions;
  settle();
  QTRY_VERIFY(bench().libraryShown());
  // Typing needs no mouse: the search has the focus.
  PoseLibrary& library = bench().library();
  QCOMPARE(QApplication::focusWidget(), static_cast<QWidget*>(&library.search()));
  QTest::keyClicks(&library.search(), "kneel");
  QVERIFY(library.list().model()->rowCount() >= 3);
  // Three: drag one onto the picture.
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  const auto chosen = library.chosen();
  QVERIFY(chosen.has_value());
  drop(*chosen, {240, 170});
  ++actions;
  settle();
  QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
  QCOMPARE(pose::wordsFor(figure()).stance, std::string("kneeling"));
  // Four and five: another bearing of the arms.
  const pose::Figure before = figure();
  drag({place("right_wrist"), place("right_wrist") + QPointF(-30, -60), place("right_wrist") + QPointF(-40, -90)});
  drag({place("left_wrist"), place("left_wrist") + QPointF(40, -30)});
  actions += 2;
  QVERIFY(actions <= 8);
  QVERIFY(figure().points[at("right_wrist")].at.y < before.points[at("right_wrist")].at.y - 60);
  QCOMPARE(pose::wordsFor(figure()).stance, std::string("kneeling"));
  QVERIFY(pose::overlength(figure()) <= pose::lengthTolerance);
  settle();
  QVERIFY(desk_->maps.mapOf(guide().id)->colour);
  for (const Check& check : desk_->checks.all()) QVERIFY2(check.severity != Severity::bad, check.id.c_str());
}

void PoseViewTest::pointsAreLitWithinFourteenPixels() {
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

void PoseViewTest::draggingShowsTheFigureAtOnce() {
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
  QMouseEvent release(QEvent::MouseButtonRelease, table().toTable(to), table().mapToGlobal(table().toTable(to)),
                      Qt::LeftButton, Qt::NoButton, {});
  QApplication::sendEvent(&table(), &release);
  QVERIFY(guide().work.in("figures") != kept);
  QCOMPARE(desk_->document.history().undoName(), std::string("Move left wrist"));
  QCOMPARE(place("left_wrist"), end);
  settle();
  const ColourMap& map = *desk_->maps.mapOf(guide().id)->colour;
  QVERIFY(map(static_cast<int>(forearm.x()), static_cast<int>(forearm.y())).b > 120);
  // It is in the file already, and undo leads back.
  QVERIFY(!StudyFile::open(desk_->document.path()).edit(guide().work.in("figures")).empty());
  desk_->document.undo();
  QCOMPARE(place("left_wrist"), from);
  desk_->document.redo();
  QCOMPARE(place("left_wrist"), end);
}

void PoseViewTest::theMagnifierShowsWhatIsUnderThePointer() {
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

void PoseViewTest::undoUnderThePointerIsHarmless() {
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
    desk_->document.undo();
    QVERIFY(!table().grab().isNull());
    desk_->document.undo();
    QVERIFY(!table().grab().isNull());
    QTest::mouseClick(&table(), Qt::RightButton, {}, table().toTable({p.x, p.y}).toPoint());
    desk_->document.redo();
    desk_->document.redo();
    QVERIFY(!table().grab().isNull());
    settle();
  }
  // In the middle of a drag, too.
  press(Qt::Key_J);
  drag({place("left_wrist"), place("left_wrist") + QPointF(30, 10)}, {}, false);
  desk_->document.undo();
  QVERIFY(!pose().active());
  QMouseEvent release(QEvent::MouseButtonRelease, QPointF(50, 50), table().mapToGlobal(QPointF(50, 50)), Qt::LeftButton,
                      Qt::NoButton, {});
  QApplication::sendEvent(&table(), &release);
  settle();
}

void PoseViewTest::escapeGivesUpADrag() {
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

void PoseViewTest::controlMovesAPointAlone() {
  put({standing()});
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -45)});
  const pose::Figure before = figure();
  drag({place("left_elbow"), place("left_elbow") + QPointF(-6, -6)}, Qt::ControlModifier);
  QVERIFY(figure().points[at("left_elbow")].at != before.points[at("left_elbow")].at);
  for (const char* still : {"left_wrist", "left_shoulder"})
    QVERIFY(distanceBetween(figure().points[at(still)].at, before.points[at(still)].at) < 0.01);
}

void PoseViewTest::fitTakesTheBodyAlong() {
  put({standing()});
  QVERIFY(pose().fitting());
  const pose::Figure before = figure();
  const QPointF up = place("left_wrist") + QPointF(30, -150);
  drag({place("left_wrist"), up});
  QVERIFY(figure().body && *figure().body != *before.body);
  desk_->document.undo();
  press(Qt::Key_F);
  QVERIFY(!pose().fitting());
  drag({place("left_wrist"), up});
  // The limb alone: nothing else has moved.
  for (const char* still : {"nose", "right_wrist", "left_hip", "left_ankle"})
    QCOMPARE(figure().points[at(still)].at.x, before.points[at(still)].at.x);
}

void PoseViewTest::bonesAreDraggedByTheirMiddle() {
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

void PoseViewTest::limbsTurnOnTheirJoints() {
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

void PoseViewTest::figuresAreMovedScaledAndTurned() {
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
  QCOMPARE(desk_->document.history().undoName(), std::string("Turn figure"));
}

void PoseViewTest::clicksHideAndBringBack() {
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

void PoseViewTest::keysNudgePinAndRemove() {
  put({standing(), standing(80, {80, 80})});
  pose().select(0, {at("left_wrist")});
  const QPointF before = place("left_wrist");
  press(Qt::Key_Right);
  press(Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(QLineF(place("left_wrist"), before + QPointF(1, -10)).length() < 1.5);
  // Nudges that follow each other are one step.
  desk_->document.undo();
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
  QVERIFY(desk_->document.history().undoName().starts_with("Remove"));
  desk_->document.undo();
  QCOMPARE(pose().figures()->figures.size(), std::size_t{2});
}

void PoseViewTest::placesAreTypedIn() {
  put({standing()});
  pose().select(0, {at("right_wrist")});
  ScrubField* x = nullptr;
  for (ScrubField* field : bench().tools().findChildren<ScrubField*>())
    if (field->accessibleName() == "x") x = field;
  QVERIFY(x != nullptr && x->isVisible());
  const double wanted = std::round(place("right_wrist").x() - 12);
  emit x->edited(wanted);
  QVERIFY(std::abs(place("right_wrist").x() - wanted) < 1);
  pose().select(0, {at("right_wrist"), at("left_wrist")});
  QVERIFY(!x->isVisible());
}

void PoseViewTest::bandsAndShiftSelect() {
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

void PoseViewTest::theMenuMirrorsSwapsRelaxesAndOrders() {
  put({standing(200, {160, 160}), standing(100, {360, 160})});
  pose().select(0);
  drag({place("left_wrist"), place("left_wrist") + QPointF(40, -70)});
  const pose::Figure raised = figure();
  figureAction("Mirror");
  QVERIFY(figure().points[at("right_wrist")].at.y < figure().points[at("left_wrist")].at.y - 40);
  desk_->document.undo();
  figureAction("Swap sides");
  QCOMPARE(figure().points[at("right_wrist")].at.x, raised.points[at("left_wrist")].at.x);
  desk_->document.undo();
  figureAction("Nearer");
  QCOMPARE(figure(1).points[0].at.x, raised.points[0].at.x);
  QCOMPARE(*pose().selected(), std::size_t{1});
  desk_->document.undo();
  pose().setPresence(0, {at("left_knee")}, pose::Presence::absent);
  figureAction("Fill in missing points");
  QVERIFY(figure().points[at("left_knee")].there());
  drag({place("left_elbow"), place("left_elbow") + QPointF(-4, -8)}, Qt::ControlModifier);
  figureAction("Relax");
  QVERIFY(*pose::shareOfNatural(figure(), static_cast<std::size_t>(figure().kind().points[at("left_elbow")].bone)) >
          0.99);
}

void PoseViewTest::theStripListsAllFigures() {
  auto faint = standing(40, {60, 200});
  faint.name = "Faint";
  for (auto& p : faint.points) p.confidence = 0.3;
  put({faint, standing()});
  FigureStrip& strip = bench().figures();
  QVERIFY(strip.isVisible());
  QVERIFY(strip.findChildren<QLabel*>().first()->text().contains("2 figures"));
  QWidget* chips = nullptr;
  for (QWidget* child : strip.findChildren<QWidget*>())
    if (child->accessibleName() == "Figures") chips = child;
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
  pose().rename(0, "  Far walker ");
  QCOMPARE(figure(0).name, std::string("Far walker"));
}

void PoseViewTest::nextGoesToFarFigures() {
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

void PoseViewTest::posesAreSearchedDraggedAndBoxed() {
  press(Qt::Key_B);
  QVERIFY(bench().libraryShown());
  PoseLibrary& library = bench().library();
  const int all = library.list().model()->rowCount();
  QVERIFY(all >= 56);
  library.search().setText("fox");
  QVERIFY(library.list().model()->rowCount() > 0 && library.list().model()->rowCount() < 9);
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  QTest::keyClick(&library, Qt::Key_Return);
  QCOMPARE(desk_->workbench.tool(), ToolName::putPose);
  drag({{100, 100}, {150, 150}, {260, 220}});
  settle();
  QCOMPARE(desk_->workbench.tool(), ToolName::joints);
  QCOMPARE(figure().skeleton, std::string("four-legged"));
  const auto bounds = *pose::boundsOf(figure());
  QVERIFY(bounds.left >= 99 && bounds.right <= 261 && bounds.top >= 99 && std::abs(bounds.bottom - 220) < 0.5);
  // From the back is another thumbnail of the same pose.
  library.search().setText("standing straight");
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  const auto front = library.chosen();
  for (QComboBox* box : library.findChildren<QComboBox*>())
    if (box->accessibleName() == "Seen from") box->setCurrentIndex(box->findText("Back"));
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  QVERIFY(front->points[0].presence == pose::Presence::seen);
  QVERIFY(library.chosen()->points[0].presence == pose::Presence::hidden);
  library.search().setText("nothing like this");
  QCOMPARE(library.list().model()->rowCount(), 0);
  QTest::keyClick(&library, Qt::Key_Escape);
  QVERIFY(!bench().libraryShown());
}

void PoseViewTest::posesBlendIntoAFigure() {
  put({standing()});
  bench().showLibrary(true);
  PoseLibrary& library = bench().library();
  library.search().setText("sitting on a chair");
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  QVERIFY(library.blend().isEnabled());
  const pose::Figure before = figure();
  library.blend().setSliderDown(true);
  library.blend().setValue(50);
  QVERIFY(pose().active());
  const pose::Figure half = figure();
  QVERIFY(!(half == before));
  library.blend().setValue(100);
  QCOMPARE(pose::wordsFor(figure()).stance, std::string("sitting"));
  library.blend().setValue(0);
  QVERIFY(figure().points == before.points);
  library.blend().setValue(50);
  library.blend().setSliderDown(false);
  QCOMPARE(desk_->document.history().undoName(), std::string("Blend into sitting on a chair"));
  QVERIFY(figure().points == half.points);
  QVERIFY(pose::overlength(figure()) <= pose::lengthTolerance);
  settle();
}

void PoseViewTest::ownPosesAreKept() {
  OwnPoses own;
  QVERIFY(own.list().empty());
  pose::NamedPose mine = pose::housePoses()[3];
  mine.name = "Mine";
  mine.category = "own";
  own.add(mine);
  QVERIFY(OwnPoses().list() == std::vector<pose::NamedPose>{mine});
  own.exportTo(path("mine.json").toStdString());
  own.remove(0);
  QVERIFY(OwnPoses().list().empty());
  QCOMPARE(own.importFrom(path("mine.json").toStdString()), std::size_t{1});
  QCOMPARE(own.importFrom(path("mine.json").toStdString()), std::size_t{0});
  QVERIFY(own.list().front() == mine);
  fixtures::writeFile(path("bad.json").toStdString(), "{\"poses\": 1, \"list\": [{\"name\": \"A\"}]}");
  QVERIFY(fixtures::problemOf([&] { own.importFrom(path("bad.json").toStdString()); }).contains("pose 1"));
  QCOMPARE(own.list().size(), std::size_t{1});
  own.remove(0);
}

void PoseViewTest::figuresAreCopiedBetweenStudies() {
  put({standing()});
  const pose::Figure original = figure();
  pose().copy(0);
  desk_->document.createUntitled();
  desk_->document.change("Frame", [](StudyState& s) { s.frame = {960, 640}; });
  settle();
  QVERIFY(pose().figures() == nullptr);
  QVERIFY(pose().paste());
  settle();
  QCOMPARE(guide().kind, std::string("pose"));
  QCOMPARE(figure().name, original.name);
  // Twice the frame, twice the figure.
  QVERIFY(std::abs(pose::sizeOf(figure()) / pose::sizeOf(original) - 2) < 1e-6);
  QApplication::clipboard()->setText("a shopping list");
  QVERIFY(!pose().paste());
  QApplication::clipboard()->setText("{\"keypoints\"");
  QVERIFY(pose().paste());
  QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
  QVERIFY(window_->shownSentence().contains("clipboard"));
}

void PoseViewTest::otherInksRedrawTheMap() {
  put({standing()});
  const QPointF thigh = (place("left_hip") + place("left_knee")) / 2;
  const auto ink = [&] {
    return (*desk_->maps.mapOf(guide().id)->colour)(static_cast<int>(thigh.x()), static_cast<int>(thigh.y()));
  };
  const Rgb8 house = ink();
  auto json = nlohmann::json::parse(pose::skeletons().empty() ? "" : std::string(poseData("house-inks.json")));
  for (auto& stroke : json["skeletons"]["human"]["strokes"]) stroke["colours"] = {"#ff0000", "#ff0000"};
  fixtures::writeFile(path("red.json").toStdString(), json.dump());
  pose().loadInks(path("red.json").toStdString());
  settle();
  QVERIFY(ink().r > 240 && ink().b < 20);
  // They are in the study's file, for a pull elsewhere.
  QVERIFY(!StudyFile::open(desk_->document.path()).edit(guide().work.in("inks")).empty());
  fixtures::writeFile(path("bad.json").toStdString(), "{\"inks\": 1, \"skeletons\": {\"bird\": {}}}");
  const std::string kept = guide().work.in("inks");
  QVERIFY(fixtures::problemOf([&] { pose().loadInks(path("bad.json").toStdString()); }).contains("bird"));
  QCOMPARE(guide().work.in("inks"), kept);
  pose().loadInks({});
  settle();
  QVERIFY(ink() == house);
}

void PoseViewTest::keyPointsComeInAndGoOut() {
  put({standing(), standing(90, {80, 120})});
  desk_->maps.write(guide().id, path("out.json").toStdString());
  desk_->maps.write(guide().id, path("out.svg").toStdString());
  desk_->maps.write(guide().id, path("out.png").toStdString());
  QVERIFY(QFile(path("out.svg")).size() > 1000);
  const auto png = decodePng(readWholeFile(path("out.png").toStdString())).picture;
  QCOMPARE(png.size(), (Size{480, 320}));
  const auto kept = pose().figures()->figures;
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(path("out.json"))});
  letGo(*window_, {300, 300}, data);
  QCOMPARE(pose().figures()->figures.size(), std::size_t{4});
  QVERIFY(*pose().figures()->figures[2] == *kept[0] && *pose().figures()->figures[3] == *kept[1]);
  QCOMPARE(desk_->document.history().undoName(), std::string("Bring in out.json"));
}

void PoseViewTest::keyPointsLieOnTheirPicture() {
  // Of a picture of 768 x 512 that lies somewhere in the frame.
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
  const Size picture = desk_->document.state().references[0].size;
  desk_->document.change("Place", [](StudyState& s) {
    s.references[0].placement.fit = Fit::free;
    s.references[0].placement.scaleX = s.references[0].placement.scaleY = 0.4;
    s.references[0].placement.x = 0.3;
  });
  pose::Figures of;
  of.frame = picture;
  of.figures = {std::make_shared<const pose::Figure>(standing(200, {300, 200}))};
  fixtures::writeFile(path("points.json").toStdString(), pose::cocoFrom(of).dump());
  desk_->document.look([&](Looking& looking) { looking.guide = desk_->document.state().guides.back().id; });
  const auto read = figuresForStudy(desk_->document, path("points.json").toStdString());
  const Affine m =
      frameFromReference(desk_->document.state().references[0].placement, picture, desk_->document.state().frame);
  const Point nose = of.figures[0]->points[0].at, lies = read.figures.figures[0]->points[0].at;
  QVERIFY(distanceBetween(lies, {m.mapX(nose.x, nose.y), m.mapY(nose.x, nose.y)}) < 1e-6);
  // A guide over the reference follows it.
  addPoseGuide(desk_->document, "On it", read.figures);
  settle();
  const Point before = figure().points[0].at;
  desk_->document.change("Place", [](StudyState& s) { s.references[0].placement.x = 0.5; });
  QVERIFY(std::abs(figure().points[0].at.x - before.x - 0.2 * 480) < 1e-6);
}

void PoseViewTest::wrongFilesChangeNothing() {
  put({standing()});
  const StudyState before = desk_->document.state();
  for (const auto& [name, text, named] :
       {std::tuple{"a.json", "{\"annotations\": [{\"keypoints\": [1, 2]}]}", "annotation 1"},
        {"b.json", "not JSON", "b.json"},
        {"c.bvh", "HIERARCHY\nROOT Hips {\nOFFSET 0 0", "c.bvh"},
        {"d.json", "{\"annotations\": []}", "no figure"}}) {
    fixtures::writeFile(path(name).toStdString(), text);
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path(name))});
    letGo(*window_, {300, 300}, data);
    QVERIFY2(window_->shownSentence().contains(named), qPrintable(window_->shownSentence()));
    QVERIFY(desk_->document.state() == before);
  }
}

void PoseViewTest::clipsAreScrubbed() {
  pose::BvhClip clip;
  const auto joint = [&](const char* name, int parent, double x, double y, std::vector<int> channels = {5}) {
    clip.joints.push_back({name, parent, {x, y, 0}, channels, clip.channels, false});
    clip.channels += channels.size();
    return static_cast<int>(clip.joints.size()) - 1;
  };
  const int hips = joint("Hips", -1, 0, 95), head = joint("Head", hips, 0, 60);
  Q_UNUSED(head)
  for (const auto& [side, sign] : {std::pair{std::string("Left"), 1}, {std::string("Right"), -1}}) {
    const int arm = joint((side + "Arm").c_str(), hips, 19 * sign, 50);
    joint((side + "Hand").c_str(), joint((side + "ForeArm").c_str(), arm, 0, -33), 0, -26);
    const int leg = joint((side + "UpLeg").c_str(), hips, 10 * sign, -2);
    joint((side + "Foot").c_str(), joint((side + (sign > 0 ? "Leg" : "Bent")).c_str(), leg, 0, -42), 0, -42);
  }
  clip.frames = 10;
  for (std::size_t f = 0; f < clip.frames; ++f)
    for (std::size_t c = 0; c < clip.channels; ++c) clip.motion.push_back(c == 2 ? 10.0f * static_cast<float>(f) : 0);
  ClipDialog dialog(clip, "clip.bvh");
  // One joint has a name that nobody knows.
  QVERIFY(!dialog.figure().has_value());
  QComboBox& knee = dialog.jointFor("right_knee");
  knee.setCurrentIndex(knee.findText("RightBent"));
  QVERIFY(dialog.figure().has_value());
  const auto first = *dialog.figure();
  dialog.scrubber().setValue(9);
  QVERIFY(!(dialog.figure()->points == first.points));
  dialog.show();
  QVERIFY(!dialog.grab().toImage().isNull());
}

void PoseViewTest::wordsGoIntoThePromptAndFollow() {
  desk_->document.change("Prompt", [](StudyState& s) { s.brief.prompt = "A kite flyer on a dune"; });
  put({standing()});
  QToolButton* add = nullptr;
  for (QToolButton* button : bench().brief().findChildren<QToolButton*>())
    if (button->text() == "Add pose words") add = button;
  QVERIFY(add != nullptr && add->isVisible());
  QTest::mouseClick(add, Qt::LeftButton);
  QCOMPARE(desk_->document.state().brief.prompt, std::string("A kite flyer on a dune, standing, seen from the front"));
  // A raised arm is said at once, in the same step.
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -140)});
  QVERIFY2(desk_->document.state().brief.prompt.ends_with("left arm raised") ||
               desk_->document.state().brief.prompt.find("left arm raised") != std::string::npos,
           desk_->document.state().brief.prompt.c_str());
  desk_->document.undo();
  QCOMPARE(desk_->document.state().brief.prompt, std::string("A kite flyer on a dune, standing, seen from the front"));
  // Edited by hand, they are the artist's own.
  desk_->document.change("Prompt", [](StudyState& s) { s.brief.prompt = "A kite flyer, standing tall"; });
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -140)});
  QCOMPARE(desk_->document.state().brief.prompt, std::string("A kite flyer, standing tall"));
  settle();
  QVERIFY(pose().words().contains("left arm raised"));
}

void PoseViewTest::promptsThatContradictAreChecked() {
  desk_->document.change("Prompt", [](StudyState& s) { s.brief.prompt = "A girl running over a dune"; });
  pose::Figure seated;
  for (const auto& pose : pose::housePoses())
    if (pose.name == "Sitting on a chair")
      seated = pose::figureFrom(pose::skeletonOf("human"), pose.pose, {{240, 180}, 200, {}});
  put({seated});
  const auto find = [&](const std::string& id) -> std::optional<Check> {
    for (const Check& check : desk_->checks.all())
      if (check.id.starts_with(id)) return check;
    return {};
  };
  const auto check = find("prompt-pose");
  QVERIFY(check && check->sentence.find("running") != std::string::npos &&
          check->sentence.find("sitting") != std::string::npos);
  desk_->document.change("Fix", check->fix);
  QCOMPARE(desk_->document.state().brief.prompt, std::string("A girl sitting over a dune"));
  QVERIFY(!find("prompt-pose"));
  pose().change(0, "Away", [](const pose::Figure& f) { return pose::moved(f, {2000, 0}); });
  settle();
  QVERIFY(find("figure-outside"));
  pose().setOn(0, false);
  settle();
  QVERIFY(find("no-figure") && find("no-figure")->severity == Severity::bad);
}

void PoseViewTest::findersBringFigures() {
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  bringIn(*desk_, {fixtures::in(*folder_, "tea.png")});
  settle();
  addPoseGuide(desk_->document, "Found");
  settle();
  auto sure = standing(200), faint = standing(60, {90, 90}), twin = sure, nothing = standing(30, {30, 30});
  for (auto& p : sure.points) p.confidence = 0.9;
  for (auto& p : faint.points) p.confidence = 0.35;
  for (auto& p : twin.points) p.confidence = 0.6;
  twin = pose::moved(twin, {2, 1});
  for (auto& p : nothing.points) p.confidence = 0.05;
  faint.points[at("left_wrist")].confidence = 0.1;
  auto finder = std::make_shared<ToldFinder>(std::vector<pose::Figure>{twin, sure, nothing, faint});
  pose().find(finder);
  QVERIFY(pose().finding());
  QTRY_VERIFY(!pose().finding());
  settle();
  QCOMPARE(finder->looked, desk_->document.state().frame);
  // The twin is the same figure, and what is next to nothing is dropped; the faint one stays, far ones first.
  QCOMPARE(pose().figures()->figures.size(), std::size_t{2});
  QVERIFY(std::abs(pose::confidenceOf(figure(1)) - 0.9) < 1e-9);
  QVERIFY(pose::confidenceOf(figure(0)) < 0.4);
  QVERIFY(!figure(0).points[at("left_wrist")].there());
  desk_->document.undo();
  QVERIFY(pose().figures()->figures.empty());
  // Stopped, nothing has changed.
  auto slow = std::make_shared<ToldFinder>(std::vector<pose::Figure>{sure});
  slow->waits = true;
  pose().find(slow);
  QTest::qWait(20);
  pose().stopFinding();
  QTRY_VERIFY(!pose().finding());
  QVERIFY(pose().figures()->figures.empty());
  QVERIFY(window_->shownSentence().contains("stopped"));
}

void PoseViewTest::programsFindFigures() {
  pose::Figures found;
  found.frame = {480, 320};
  found.figures = {std::make_shared<const pose::Figure>(standing())};
  fixtures::writeFile(path("found.json").toStdString(), pose::cocoFrom(found).dump());
  const auto script = [&](const char* name, const QString& lines) {
    fixtures::writeFile(path(name).toStdString(), ("#!/bin/sh\n" + lines + "\n").toStdString());
    QFile(path(name)).setPermissions(QFile::ReadOwner | QFile::ExeOwner | QFile::WriteOwner);
    return ProgramFinder(path(name).toStdString());
  };
  const auto picture = fixtures::overlappingShapes(480, 320);
  auto good = script("good.sh", "test \"$(head -c 4 \"$1\" | tail -c 3)\" = PNG && cat " + path("found.json"));
  const auto figures = good.find(picture, {});
  QCOMPARE(figures.size(), std::size_t{1});
  QVERIFY(figures[0] == *found.figures[0]);
  auto failing = script("failing.sh", "echo 'no model here' >&2; exit 3");
  QVERIFY(fixtures::problemOf([&] { failing.find(picture, {}); }).contains("no model here"));
  auto babbling = script("babbling.sh", "echo hello");
  QVERIFY(fixtures::problemOf([&] { babbling.find(picture, {}); }).contains("not JSON"));
  QVERIFY(fixtures::problemOf([&] {
            ProgramFinder(path("none").toStdString()).find(picture, {});
          }).contains("could not be started"));
  auto sleeping = script("sleeping.sh", "sleep 60");
  std::stop_source stop;
  std::jthread later([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    stop.request_stop();
  });
  bool cancelled = false;
  try {
    sleeping.find(picture, stop.get_token());
  } catch (const Cancelled&) {
    cancelled = true;
  }
  QVERIFY(cancelled);
}

void PoseViewTest::regionsLimitFigures() {
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

void PoseViewTest::proofsShowTheBody() {
  put({standing()});
  desk_->document.change("Brief", [](StudyState& s) {
    s.brief.prompt = "a person in a red coat, white snow, day, photograph";
    s.brief.steps = 8;
    s.brief.seed = 3;
    s.guides[0].weight = 1.2;
  });
  desk_->queue.pull();
  settle();
  const auto number = desk_->proofs.all().front().number;
  const QImage with = desk_->proofs.image(number).copy();
  desk_->document.change("Off", [](StudyState& s) { s.guides[0].on = false; });
  desk_->queue.pull();
  settle();
  const QImage without = desk_->proofs.image(desk_->proofs.all().back().number);
  // Red where the chest is, and not without the guide.
  const QPointF chest = (place("left_shoulder") + place("right_hip")) / 2;
  const auto redness = [&](const QImage& image, QPointF p) {
    const QColor c = image.pixelColor(p.toPoint());
    return c.red() - (c.green() + c.blue()) / 2;
  };
  QVERIFY2(redness(with, chest) > 50, qPrintable(QString::number(redness(with, chest))));
  QVERIFY(redness(with, chest) > redness(without, chest) + 40);
  QVERIFY(redness(with, {440, 60}) < 30);
  // What a proof was made with can be brought back.
  const auto& recipe = desk_->proofs.proof(number)->recipe;
  QCOMPARE(recipe.guides.size(), std::size_t{1});
  QVERIFY(recipe.guides[0].guide.work.has("figures") && !recipe.guides[0].mapDigest.empty());
}

HSCAFFOLD_APP_TEST_MAIN(PoseViewTest)
#include "pose_view_test.moc"
