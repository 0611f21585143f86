// From nothing to a posed figure by way of the library; own poses, blending, copying and words.
#include <QClipboard>
#include <QComboBox>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QSlider>
#include <QToolButton>

#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/pose/pose_window.h"
#include "core/pose/library.h"
#include "core/pose/pose_words.h"
#include "core/pose/posing.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class PoseLibraryViewTest : public PoseWindowTest {
  Q_OBJECT
 private slots:
  void fromNothingToAKneelingPoseInEightActions();
  void posesAreSearchedDraggedAndBoxed();
  void posesBlendIntoAFigure();
  void ownPosesAreKept();
  void figuresAreCopiedBetweenStudies();
  void wordsGoIntoThePromptAndFollow();
  void promptsThatContradictAreChecked();

 private:
  void prepare() override;
  /// Typed over what stands in the library's search.
  void typeSearch(const QString& text) {
    QLineEdit& field = bench().library().search();
    field.selectAll();
    QTest::keyClicks(&field, text);
  }
};

void PoseLibraryViewTest::prepare() {
  if (QTest::currentTestFunction() != QString("fromNothingToAKneelingPoseInEightActions")) PoseWindowTest::prepare();
}

void PoseLibraryViewTest::fromNothingToAKneelingPoseInEightActions() {
  int actions = 0;
  // One: open the menu; two: choose pose. The library opens by itself.
  auto& add = part<QToolButton>("add guide");
  QVERIFY(add.isEnabled());
  ++actions;
  for (QAction* action : add.menu()->actions())
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

void PoseLibraryViewTest::posesAreSearchedDraggedAndBoxed() {
  press(Qt::Key_B);
  QVERIFY(bench().libraryShown());
  PoseLibrary& library = bench().library();
  const int all = library.list().model()->rowCount();
  QVERIFY(all >= 56);
  typeSearch("fox");
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
  typeSearch("standing straight");
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  const auto front = library.chosen();
  QTest::keyClicks(&part<QComboBox>("seen from", &library), "Back");
  library.list().setCurrentIndex(library.list().model()->index(0, 0));
  QVERIFY(front->points[0].presence == pose::Presence::seen);
  QVERIFY(library.chosen()->points[0].presence == pose::Presence::hidden);
  typeSearch("nothing like this");
  QCOMPARE(library.list().model()->rowCount(), 0);
  QTest::keyClick(&library, Qt::Key_Escape);
  QVERIFY(!bench().libraryShown());
}

void PoseLibraryViewTest::posesBlendIntoAFigure() {
  put({standing()});
  press(Qt::Key_B);
  PoseLibrary& library = bench().library();
  typeSearch("sitting on a chair");
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
  QCOMPARE(document().history().undoName(), std::string("Blend into sitting on a chair"));
  QVERIFY(figure().points == half.points);
  QVERIFY(pose::overlength(figure()) <= pose::lengthTolerance);
  settle();
}

void PoseLibraryViewTest::ownPosesAreKept() {
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

void PoseLibraryViewTest::figuresAreCopiedBetweenStudies() {
  put({standing()});
  const pose::Figure original = figure();
  copyFigure(pose(), 0);
  document().createUntitled();
  document().change("Frame", [](StudyState& s) { s.frame = {960, 640}; });
  settle();
  QVERIFY(pose().figures() == nullptr);
  QVERIFY(pasteFigures(pose()));
  settle();
  QCOMPARE(guide().kind, std::string("pose"));
  QCOMPARE(figure().name, original.name);
  // Twice the frame, twice the figure.
  QVERIFY(std::abs(pose::sizeOf(figure()) / pose::sizeOf(original) - 2) < 1e-6);
  QApplication::clipboard()->setText("a shopping list");
  QVERIFY(!pasteFigures(pose()));
  QApplication::clipboard()->setText("{\"keypoints\"");
  QVERIFY(pasteFigures(pose()));
  QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
  QVERIFY(window_->shownSentence().contains("clipboard"));
}

void PoseLibraryViewTest::wordsGoIntoThePromptAndFollow() {
  document().change("Prompt", [](StudyState& s) { s.brief.prompt = "A kite flyer on a dune"; });
  put({standing()});
  QVERIFY(part("pose words").isVisible());
  click("pose words");
  QCOMPARE(state().brief.prompt, std::string("A kite flyer on a dune, standing, seen from the front"));
  // A raised arm is said at once, in the same step.
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -140)});
  QVERIFY2(state().brief.prompt.ends_with("left arm raised") ||
               state().brief.prompt.find("left arm raised") != std::string::npos,
           state().brief.prompt.c_str());
  undo();
  QCOMPARE(state().brief.prompt, std::string("A kite flyer on a dune, standing, seen from the front"));
  // Edited by hand, they are the artist's own.
  document().change("Prompt", [](StudyState& s) { s.brief.prompt = "A kite flyer, standing tall"; });
  drag({place("left_wrist"), place("left_wrist") + QPointF(20, -140)});
  QCOMPARE(state().brief.prompt, std::string("A kite flyer, standing tall"));
  settle();
  QVERIFY(pose().words().contains("left arm raised"));
}

void PoseLibraryViewTest::promptsThatContradictAreChecked() {
  document().change("Prompt", [](StudyState& s) { s.brief.prompt = "A girl running over a dune"; });
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
  document().change("Fix", check->fix);
  QCOMPARE(state().brief.prompt, std::string("A girl sitting over a dune"));
  QVERIFY(!find("prompt-pose"));
  pose().change(0, "Away", [](const pose::Figure& f) { return pose::moved(f, {2000, 0}); });
  settle();
  QVERIFY(find("figure-outside"));
  setFigureOn(pose(), 0, false);
  settle();
  QVERIFY(find("no-figure") && find("no-figure")->severity == Severity::bad);
}

HSCAFFOLD_TEST(PoseLibraryViewTest)
#include "pose_library_view_test.moc"
