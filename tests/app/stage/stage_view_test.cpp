// The stage in the real window: a set taken, figures put there and posed by hand, and exact guides on the Bench.
#include <QComboBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QSlider>
#include <QTimer>

#include "app/bench/clip_dialog.h"
#include "app/document/study_edits.h"
#include "app/stage/stage_view.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/pose/figure.h"
#include "core/stage/gltf.h"
#include "core/stage/study_guides.h"
#include "core/strokes/drawing.h"

using namespace hscaffold;
using namespace hscaffold::app;

class StageViewTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void aSetIsTakenAndUndone();
  void thingsAreDraggedAlongTheGround();
  void jointsLeadTheBody();
  void theEyeGoesRoundAndFits();
  void numbersAndListActOnWhatIsChosen();
  void guidesOnTheBenchAreExactAndFollow();
  void posesAreMadeByKeys();
  void aNewPoseTakesSixDrags();
  void limbsTurnByTheirRings();
  void whatCanBeDoneIsInItsMenu();
  void figuresBlendIntoPoses();
  void aPictureLendsItsSpace();
  void clipsComeOntoTheStage();
  void thingsComeFromFiles();
  void figuresOfAPoseGuideStandOnTheStage();
  void theStageComesBackWithTheStudy();

 protected:
  void prepare() override {
    document().change("Small", [](StudyState& s) { s.frame = {384, 256}; });
    window_->showView(3);
    settle();
  }

 private:
  [[nodiscard]] StageView& view() const { return *window_->findChild<StageView*>(); }
  [[nodiscard]] StageTable& table() const { return view().table(); }
  [[nodiscard]] const stage::Scene& scene() const { return view().work().scene(); }
  void takeSet(int index) const {
    auto& sets = part<QComboBox>("sets");
    sets.setCurrentIndex(index);
    emit sets.activated(index);
    settle();
  }
  void choosePose(const QString& name) const {
    part<QLineEdit>("search poses").setText(name);
    auto& poses = part<QListWidget>("stage poses");
    const auto found = poses.findItems(name, Qt::MatchExactly);
    QVERIFY(!found.isEmpty());
    poses.setCurrentItem(found.front());
  }
  void drag(QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}) const {
    dragOn(table(), from.toPoint(), to.toPoint(), keys);
    settle();
  }
};

void StageViewTest::aSetIsTakenAndUndone() {
  QVERIFY(state().scene.empty());
  takeSet(3);
  QVERIFY(scene().things.size() >= 4 && table().shown());
  QCOMPARE(part<QListWidget>("things on the stage").count(), static_cast<int>(scene().things.size()));
  QVERIFY(table().outside().isEmpty());  // it begins with all of it in the frame
  undo();
  settle();
  QVERIFY(scene().things.empty() && state().scene.empty());
  redo();
  settle();
  QVERIFY(scene().things.size() >= 4);
}

void StageViewTest::thingsAreDraggedAlongTheGround() {
  takeSet(2);
  const auto before = scene().things[0].place;
  // Taken by its middle, set down to the right.
  const QPointF at = *table().placeOf(before.at + stage::Vec3(0, 0.9f, 0));
  drag(at, at + QPointF(60, 0));
  QCOMPARE(view().work().selected(), scene().things[0].id);
  const auto after = scene().things[0].place;
  QVERIFY(after.at.x() > before.at.x() + 0.2f && after.at.y() == 0 && after.turn == before.turn);
  const QPointF foot = *table().placeOf(after.at);
  QVERIFY(std::abs(foot.x() - table().placeOf(before.at)->x() - 60) < 12);
  QTest::keyClick(&table(), Qt::Key_Period);
  QCOMPARE(scene().things[0].place.turn, before.turn + 5);
  QTest::keyClick(&table(), Qt::Key_Right);
  QVERIFY(scene().things[0].place.at.x() > after.at.x());
  QTest::keyClick(&table(), Qt::Key_D, Qt::ControlModifier);
  QCOMPARE(scene().things.size(), std::size_t{2});
  QTest::keyClick(&table(), Qt::Key_Delete);
  QCOMPARE(scene().things.size(), std::size_t{1});
  for (int i = 0; i < 5; ++i) undo();
  settle();
  QCOMPARE(scene().things[0].place.at.x(), before.at.x());
}

void StageViewTest::jointsLeadTheBody() {
  takeSet(2);
  view().work().select(scene().things[0].id);
  settle();
  const auto wrist = table().jointPlace("left_wrist"), hip = table().jointPlace("left_hip");
  QVERIFY(wrist && hip);
  // The hand goes up over the head.
  const QPointF up(wrist->x() + 10, table().placeOf(scene().things[0].place.at + stage::Vec3(0, 1.75f, 0))->y());
  drag(*wrist, up);
  const QPointF now = *table().jointPlace("left_wrist");
  QVERIFY2(std::hypot(now.x() - up.x(), now.y() - up.y()) < 30,
           qPrintable(QString("%1 %2 for %3 %4").arg(now.x()).arg(now.y()).arg(up.x()).arg(up.y())));
  QVERIFY(std::abs(table().jointPlace("left_hip")->x() - hip->x()) < 14);
  QVERIFY(!std::get<stage::Person>(scene().things[0].is).angles.empty());
  undo();
  settle();
  QVERIFY(std::abs(table().jointPlace("left_wrist")->y() - wrist->y()) < 1);
}

void StageViewTest::theEyeGoesRoundAndFits() {
  takeSet(2);
  const auto before = scene().eye;
  view().work().select(scene().things[0].id);
  const QPointF corner(12, table().height() - 12.0);
  drag(corner, corner + QPointF(120, 0));
  QVERIFY(std::abs(scene().eye.turn - before.turn) > 10);
  const auto away = [&](const stage::Eye& eye) { return (eye.at - scene().things[0].place.at).norm(); };
  QVERIFY(std::abs(away(scene().eye) - away(before)) < 0.3f);
  // Nearer than it should be: what is cut off is named, and one press brings it back.
  for (int i = 0; i < 12; ++i) QTest::keyClick(&table(), Qt::Key_Plus);
  settle();
  QVERIFY(!table().outside().isEmpty());
  QVERIFY(!part<QLabel>("outside").text().isEmpty());
  click("fit");
  settle();
  QVERIFY(table().outside().isEmpty() && part<QLabel>("outside").text().isEmpty());
  click("keep shot");
  typeInto(part<ScrubField>("lens"), "85");
  QCOMPARE(scene().eye.millimetres, 85.0f);
  auto& shots = part<QListWidget>("shots");
  QCOMPARE(shots.count(), 1);
  settle();
  QVERIFY(!shots.item(0)->icon().isNull());
  QTest::mouseClick(shots.viewport(), Qt::LeftButton, {}, shots.visualItemRect(shots.item(0)).center());
  QVERIFY(scene().eye.millimetres == before.millimetres);
  // Renamed, renewed from here, forgotten.
  shots.item(0)->setText("Knee height");
  QCOMPARE(scene().shots[0].name, std::string("Knee height"));
  typeInto(part<ScrubField>("lens"), "60");
  QVERIFY(chooseFromMenu(*shots.viewport(), shots.visualItemRect(shots.item(0)).center(), "From where the eye is now"));
  QCOMPARE(scene().shots[0].eye.millimetres, 60.0f);
  QVERIFY(chooseFromMenu(*shots.viewport(), shots.visualItemRect(shots.item(0)).center(), "Forget it"));
  QVERIFY(scene().shots.empty() && shots.count() == 0);
}

void StageViewTest::numbersAndListActOnWhatIsChosen() {
  choosePose("Walking");
  click("new figure");
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QCOMPARE(scene().things[0].name, std::string("Walking"));
  click("fold build");
  typeInto(part<ScrubField>("figure size"), "1.2");
  QCOMPARE(std::get<stage::Person>(scene().things[0].is).size, 1.2f);
  typeInto(part<ScrubField>("girth"), "1.4");
  QCOMPARE(std::get<stage::Person>(scene().things[0].is).build.girth, 1.4f);
  QVERIFY(part<ScrubField>("thing across").isHidden());
  choosePose("Kneeling upright");
  const auto angles = std::get<stage::Person>(scene().things[0].is).angles;
  click("onto the figure");
  QVERIFY(std::get<stage::Person>(scene().things[0].is).angles != angles);
  QCOMPARE(std::get<stage::Person>(scene().things[0].is).size, 1.2f);
  click("put table");
  settle();
  QVERIFY(!part<ScrubField>("thing across").isHidden() && part<ScrubField>("girth").isHidden());
  typeInto(part<ScrubField>("thing across"), "2");
  QCOMPARE(std::get<stage::Prop>(scene().things[1].is).size.x(), 2.0f);
  click("put fox");
  settle();
  auto& list = part<QListWidget>("things on the stage");
  QCOMPARE(list.count(), 3);
  list.setCurrentRow(0);
  QCOMPARE(view().work().selected(), scene().things[0].id);
  list.item(1)->setCheckState(Qt::Unchecked);
  QVERIFY(scene().things[1].hidden);
  click("its guides");
  click("stage words");
  settle();
  QVERIFY(state().brief.prompt.find("kneeling") != std::string::npos);
  const std::string prompt = state().brief.prompt;
  click("stage words");
  settle();
  QCOMPARE(state().brief.prompt, prompt);
  list.item(1)->setText("Bench by the wall");
  QCOMPARE(scene().things[1].name, std::string("Bench by the wall"));
}

void StageViewTest::guidesOnTheBenchAreExactAndFollow() {
  takeSet(3);
  click("use on the bench");
  settle();
  QCOMPARE(state().guides.size(), std::size_t{3});
  QCOMPARE(state().references.size(), std::size_t{1});
  QVERIFY(window_->findChild<BenchView*>()->isVisible());
  const auto guideOf = [&](const char* kind) -> const Guide* {
    for (const Guide& guide : state().guides)
      if (guide.kind == kind) return &guide;
    return nullptr;
  };
  for (const char* kind : {"pose", "depth", "lines"}) {
    const Guide* guide = guideOf(kind);
    QVERIFY2(guide != nullptr, kind);
    const auto* made = desk().maps.mapOf(guide->id);
    QVERIFY2(made != nullptr && made->map && made->map->size() == state().frame, kind);
  }
  const auto noseAt = [&] { return desk().maps.figuresOf(*guideOf("pose"))->figures[0]->points[0].at.x; };
  const double nose = noseAt();
  const std::string depth = state().reference(guideOf("depth")->reference)->content;
  // One is frozen; moved on the stage, the others follow by themselves, in no step of their own.
  window_->showView(3);
  click("its guides");
  click("freeze lines");
  const std::string lines = guideOf("lines")->work.in(drawingSlot);
  view().work().select(scene().things[0].id);
  for (int i = 0; i < 6; ++i) QTest::keyClick(&table(), Qt::Key_Right);
  QTRY_VERIFY(guideOf("pose")->stage.made == stage::sceneDigest(state()));
  settle();
  QVERIFY(noseAt() > nose + 3);
  QVERIFY(state().reference(guideOf("depth")->reference)->content != depth);
  QCOMPARE(state().references.size(), std::size_t{1});
  QCOMPARE(guideOf("lines")->work.in(drawingSlot), lines);
  QCOMPARE(part<QLabel>("stage state lines").text(), QString("frozen"));
  QCOMPARE(part<QLabel>("stage state pose").text(), QString("follows the stage"));
  // Undo takes back what was done on the stage, and the guides go along.
  undo();
  QTRY_VERIFY(guideOf("pose")->stage.made == stage::sceneDigest(state()));
  settle();
  QVERIFY(std::abs(noseAt() - nose) < 0.5);
  redo();
  QTRY_VERIFY(guideOf("pose")->stage.made == stage::sceneDigest(state()));
  settle();
  QVERIFY(noseAt() > nose + 3);
  click("freeze lines");
  QTRY_VERIFY(guideOf("lines")->work.in(drawingSlot) != lines);
  // A guide of the same map that was made of it follows, too; an empty stage leaves nothing in them.
  document().change("Twice", [&](StudyState& s) {
    Guide twin = *guideOf("depth");
    twin.id = newId(s, "g");
    s.guides.push_back(std::move(twin));
  });
  const auto all = scene();
  view().work().edit("Nothing", [](stage::Scene& each) { each.things.clear(); });
  QTRY_VERIFY(stage::staleGuides(state()).empty());
  settle();
  QVERIFY(desk().maps.figuresOf(*guideOf("pose"))->figures.empty());
  view().work().edit("All of it", [&](stage::Scene& each) { each.things = all.things; });
  QTRY_VERIFY(stage::staleGuides(state()).empty());
  settle();
  QVERIFY(std::abs(noseAt() - nose) > 3);
  const std::string twin = state().guides.back().id;
  QCOMPARE(state().reference(state().guide(twin)->reference)->content,
           state().reference(guideOf("depth")->reference)->content);
  document().change("Once",
                    [&](StudyState& s) { std::erase_if(s.guides, [&](const Guide& g) { return g.id == twin; }); });
  // What is worked on by hand stays as it is.
  const std::string pose = guideOf("pose")->id;
  document().change("By hand", [&](StudyState& s) {
    pose::Figures own = *desk().maps.figuresOf(*guideOf("pose"));
    own.figures.clear();
    s.guide(pose)->work.put(pose::figuresSlot, document().work().keep(pose::figuresForm(), own));
  });
  const std::string own = state().guide(pose)->work.in(pose::figuresSlot);
  QTest::keyClick(&table(), Qt::Key_Left);
  QTRY_VERIFY(state().guide(pose)->stage.frozen);
  QCOMPARE(state().guide(pose)->work.in(pose::figuresSlot), own);
  // Its light comes as tone, and once more in the same guide.
  const auto references = state().references.size();
  for (int i = 0; i < 2; ++i) {
    view().work().useLight();
    settle();
    QCOMPARE(
        std::count_if(state().guides.begin(), state().guides.end(), [](const Guide& g) { return g.kind == "tone"; }),
        1);
    QCOMPARE(state().references.size(), references + 1);
  }
  QCOMPARE(guideOf("tone")->stage.map, std::string("tone"));
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY(desk().proofs.current() != nullptr && desk().proofs.current()->holds.size() >= 3);
  // What a guide followed is no part of what made a proof.
  QVERIFY(desk().proofs.current()->recipe.guides.front().guide.stage.map.empty());
}

/// A wholly new pose by the keyboard alone: joints by Tab, arrows with steps, typed degrees.
void StageViewTest::posesAreMadeByKeys() {
  takeSet(2);
  table().setFocus();
  QTest::keyClick(&table(), Qt::Key_J);
  QCOMPARE(view().work().selected(), scene().things[0].id);
  for (int i = 0; i < 40 && table().jointSentence() != "left elbow"; ++i) QTest::keyClick(&table(), Qt::Key_Tab);
  QCOMPARE(table().jointSentence(), QString("left elbow"));
  const auto wrist = *table().jointPlace("left_wrist");
  QTest::keyClick(&table(), Qt::Key_Return);
  auto& bend = part<ScrubField>("turn bend");
  QTRY_VERIFY(bend.hasFocus() || window_->focusWidget() == &bend);
  typeInto(bend, "90");
  settle();
  const auto turn = *stage::skeletonOf(scene().things[0]).findTurn("left_elbow.bend");
  QVERIFY(std::abs(stage::anglesOf(scene().things[0])[turn] - 90) < 0.5);
  const auto bent = *table().jointPlace("left_wrist");
  QVERIFY(std::hypot(bent.x() - wrist.x(), bent.y() - wrist.y()) > 15);
  table().setFocus();
  for (int i = 0; i < 40 && !table().jointSentence().startsWith("right wrist"); ++i)
    QTest::keyClick(&table(), Qt::Key_Tab);
  const auto right = *table().jointPlace("right_wrist");
  for (int i = 0; i < 4; ++i) QTest::keyClick(&table(), Qt::Key_Up, Qt::ShiftModifier);
  settle();
  QVERIFY(table().jointPlace("right_wrist")->y() < right.y() - 20);
  // Held there, it stays while the body moves on; let go, it goes along.
  QTest::keyClick(&table(), Qt::Key_P);
  QCOMPARE(scene().things[0].pins.size(), std::size_t{1});
  QVERIFY(table().jointSentence().endsWith("held there"));
  // Of who is held too far away going round changes nothing.
  view().work().edit("Away", [](stage::Scene& each) { each.things[0].pins[0].at += stage::Vec3(0, 3, 0); });
  const auto stretched = stage::anglesOf(scene().things[0]);
  for (int i = 0; i < 4; ++i) view().work().edit("Round", [](stage::Scene& each) { each.eye.turn += 3; });
  QCOMPARE(stage::anglesOf(scene().things[0]), stretched);
  for (int i = 0; i < 5; ++i) undo();
  settle();
  QTest::keyClick(&table(), Qt::Key_P);
  QVERIFY(scene().things[0].pins.empty());
  QTest::keyClick(&table(), Qt::Key_X);
  QTest::keyClick(&table(), Qt::Key_Escape);
  QVERIFY(table().jointSentence().isEmpty());
  QCOMPARE(view().work().selected(), scene().things[0].id);
  const auto turnBack = *stage::skeletonOf(scene().things[0]).findTurn("right_elbow.bend");
  QVERIFY(std::abs(stage::anglesOf(scene().things[0])[turnBack] - 90) < 25);
}

/// A wholly new pose by six drags, each of which arrives, and the frame filled by one key.
void StageViewTest::aNewPoseTakesSixDrags() {
  takeSet(2);
  view().work().select(scene().things[0].id);
  settle();
  struct Drag {
    const char* joint;
    QPointF by;  ///< of the figure's height on the table
  };
  const double tall = table().jointPlace("left_ankle")->y() - table().jointPlace("nose")->y();
  const auto before = stage::anglesOf(scene().things[0]);
  for (const Drag& each : {Drag{"left_hip", {0, 0.14}},
                           {"left_wrist", {0.12, -0.35}},
                           {"right_wrist", {-0.16, -0.12}},
                           {"right_ankle", {-0.16, -0.04}},
                           {"nose", {0.03, 0.05}},
                           {"left_wrist", {0.06, -0.10}}}) {
    const QPointF from = *table().jointPlace(each.joint), to = from + each.by * tall;
    drag(from, to);
    const QPointF at = *table().jointPlace(each.joint);
    QVERIFY2(
        std::hypot(at.x() - to.x(), at.y() - to.y()) < 0.06 * tall,
        qPrintable(QString("%1: %2 %3, not %4 %5").arg(each.joint).arg(at.x()).arg(at.y()).arg(to.x()).arg(to.y())));
  }
  double changed = 0;
  const auto after = stage::anglesOf(scene().things[0]);
  for (std::size_t i = 0; i < after.size(); ++i) changed += std::abs(after[i] - before[i]) > 8 ? 1 : 0;
  QVERIFY2(changed >= 6, qPrintable(QString::number(changed)));
  QTest::keyClick(&table(), Qt::Key_F);
  settle();
  QVERIFY(table().outside().isEmpty());
}

void StageViewTest::limbsTurnByTheirRings() {
  takeSet(2);
  view().work().select(scene().things[0].id);
  settle();
  table().chooseJoint("left_elbow");
  const auto turn = *stage::skeletonOf(scene().things[0]).findTurn("left_elbow.bend");
  const double before = stage::anglesOf(scene().things[0])[turn];
  const auto from = table().ringPlace("left_elbow.bend", 0), to = table().ringPlace("left_elbow.bend", 50);
  QVERIFY(from && to);
  drag(*from, *to);
  const double after = stage::anglesOf(scene().things[0])[turn];
  QVERIFY2(after > before + 25 && after < before + 75, qPrintable(QString("%1 %2").arg(before).arg(after)));
  // One drag is one step.
  undo();
  settle();
  QVERIFY(std::abs(stage::anglesOf(scene().things[0])[turn] - before) < 0.01);
  // A hand bends at its wrist, as far as that goes.
  const auto bend = [&] { return std::get<stage::Person>(scene().things[0].is).left.bend; };
  const float straight = bend();
  for (const double ahead : {30.0, 150.0}) {
    table().chooseJoint("left_wrist");
    drag(*table().ringPlace("left_wrist.bend", 0), *table().ringPlace("left_wrist.bend", ahead));
    const float wanted = std::min(straight + static_cast<float>(ahead), stage::mostWristBend);
    QVERIFY2(std::abs(bend() - wanted) < 12, qPrintable(QString("%1 %2").arg(bend()).arg(wanted)));
    undo();
    settle();
    QCOMPARE(bend(), straight);
  }
  table().chooseJoint("left_elbow");
  // What is locked neither turns nor moves.
  view().work().setLocked(true);
  settle();
  QVERIFY(!table().ringPlace("left_elbow.bend", 0));
  const std::string text = state().scene;
  drag(*table().jointPlace("left_wrist"), *table().jointPlace("left_wrist") + QPointF(30, 30));
  QTest::keyClick(&table(), Qt::Key_Period);
  QCOMPARE(state().scene, text);
}

void StageViewTest::whatCanBeDoneIsInItsMenu() {
  takeSet(3);
  click("put box");
  settle();
  const std::string box = view().work().selected();
  std::string figure;
  for (const auto& thing : scene().things)
    if (stage::isFigure(thing)) figure = thing.id;
  view().work().select(figure);
  settle();
  view().work().face(box);
  view().work().lookAtThing("");
  QVERIFY(scene().thing(figure)->gaze.on);
  settle();
  // Grouped, it goes along.
  view().work().group(box);
  const stage::Vec3 apart = scene().thing(box)->place.at - scene().thing(figure)->place.at;
  QTest::keyClick(&table(), Qt::Key_Right);
  QTest::keyClick(&table(), Qt::Key_Right);
  QVERIFY((scene().thing(box)->place.at - scene().thing(figure)->place.at - apart).norm() < 1e-3f);
  view().work().ungroup();
  QTest::keyClick(&table(), Qt::Key_Right);
  QVERIFY((scene().thing(box)->place.at - scene().thing(figure)->place.at - apart).norm() > 0.02f);
  // Raised and let down again.
  const float ground = scene().thing(figure)->place.at.y();
  for (int i = 0; i < 4; ++i) QTest::keyClick(&table(), Qt::Key_PageUp);
  QVERIFY(scene().thing(figure)->place.at.y() > ground + 0.15f);
  QTest::keyClick(&table(), Qt::Key_G);
  QVERIFY(std::abs(scene().thing(figure)->place.at.y() - ground) < 0.02f);
  view().work().select(figure);
  settle();
  const std::string standing = state().scene;
  QVERIFY(chooseFromMenu("Relax", [&] { click("thing menu"); }));
  settle();
  QVERIFY(state().scene != standing);
  QVERIFY(scene().thing(figure) != nullptr);
}

void StageViewTest::figuresBlendIntoPoses() {
  takeSet(2);
  view().work().select(scene().things[0].id);
  settle();
  const auto before = stage::anglesOf(scene().things[0]);
  choosePose("Kneeling upright");
  auto& blend = part<QSlider>("stage blend");
  QVERIFY(blend.isEnabled());
  blend.setSliderDown(true);
  for (const int percent : {20, 50, 100}) blend.setValue(percent);
  blend.setSliderDown(false);
  settle();
  for (const auto& pose : pose::housePoses())
    if (pose.name == "Kneeling upright") {
      const auto angles = stage::anglesOf(scene().things[0]), wanted = stage::anglesAhead(pose);
      for (std::size_t i = 0; i < wanted.size(); ++i) QVERIFY(std::abs(angles[i] - wanted[i]) < 0.01);
    }
  QCOMPARE(blend.value(), 0);
  undo();
  settle();
  QCOMPARE(stage::anglesOf(scene().things[0]), before);
}

/// A picture's eye from its horizon and uprights, and its depth with what stands on the stage in it.
void StageViewTest::aPictureLendsItsSpace() {
  StageWork& work = view().work();
  fixtures::writeScene(path("tea.png").toStdString());
  bringIn(desk(), {path("tea.png").toStdString()});
  settle();
  document().change("Small", [](StudyState& s) { s.frame = {384, 256}; });
  settle();
  auto& ghost = part<QComboBox>("stage ghost");
  QCOMPARE(ghost.count(), 2);
  QVERIFY(part("eye of a picture").isHidden());
  ghost.setCurrentIndex(1);
  emit ghost.activated(1);
  QCOMPARE(table().ghost(), state().references.front().id);
  click("eye of a picture");
  auto ends = table().lineEnds();
  QCOMPARE(ends.size(), std::size_t{6});
  const auto before = scene().eye;
  // The horizon goes up on both sides: the eye looks down.
  drag(ends[0], ends[0] - QPointF(0, 40));
  drag(ends[1], ends[1] - QPointF(0, 40));
  QVERIFY2(scene().eye.tilt < before.tilt - 2, qPrintable(QString::number(scene().eye.tilt)));
  QVERIFY(std::abs(scene().eye.roll) < 2);
  ends = table().lineEnds();
  drag(ends[1], ends[1] + QPointF(0, 30));
  QVERIFY(scene().eye.roll > 1);
  undo();
  settle();
  QVERIFY(std::abs(scene().eye.roll) < 2);
  QTest::keyClick(&table(), Qt::Key_Escape);
  QVERIFY(!table().linesShown() && table().lineEnds().empty());
  // Depth of both: the picture's is another stage's, so that its ground is known.
  work.takeSet(stage::houseScenes()[2]);
  work.use({"depth"});
  settle();
  document().change("A picture's", [](StudyState& s) {
    for (Guide& guide : s.guides) guide.stage = {};
  });
  click("put box");
  settle();
  click("its guides");
  QVERIFY(!part("join depth").isHidden());
  const auto guides = state().guides.size();
  QCOMPARE(work.joinable().size(), std::size_t{1});
  work.joinDepth(work.joinable().front());
  settle();
  QCOMPARE(state().guides.size(), guides + 1);
  const auto* before2 = desk().maps.mapOf(work.joinable().front());
  const auto* joined = desk().maps.mapOf(state().guides.back().id);
  QVERIFY(before2 != nullptr && joined != nullptr && before2->map && joined->map);
  QVERIFY(!(*before2->map == *joined->map));
  work.joinDepth("gone");
}

void StageViewTest::clipsComeOntoTheStage() {
  QFile file(path("wave.bvh"));
  QVERIFY(file.open(QIODevice::WriteOnly));
  file.write(fixtures::wavingClip().c_str());
  file.close();
  int asked = 0;
  QTimer look;
  connect(&look, &QTimer::timeout, this, [&] {
    auto* dialog = window_->findChild<ClipDialog*>();
    if (dialog == nullptr || !dialog->isVisible()) return;
    ++asked;
    look.stop();
    dialog->scrubber().setValue(1);
    dialog->accept();
  });
  look.start(5);
  naming(path("wave.bvh"), [this] { click("from a clip"); });
  QTRY_COMPARE(asked, 1);
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QCOMPARE(scene().things[0].name, std::string("wave"));
  QVERIFY(stage::isFigure(scene().things[0]));
}

void StageViewTest::thingsComeFromFiles() {
  const std::vector<stage::Mesh> meshes = {stage::box({}, {1, 2, 0.5f}, {1, 0, 0})};
  const auto write = [&](const char* name, const std::string& text) {
    QFile file(path(name));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(text.c_str());
  };
  write("crate.gltf", stage::gltfFrom(meshes));
  write("broken.glb", "nothing of the kind");
  naming(path("crate.gltf"), [this] { click("put model"); });
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QCOMPARE(scene().things[0].name, std::string("crate"));
  QVERIFY(std::abs(std::get<stage::Prop>(scene().things[0].is).size.y() - 2) < 0.01f);
  // What is none is said, and nothing changes; a file that is dropped anywhere comes here.
  const std::string text = state().scene;
  window_->showView(0);
  dropFiles({path("broken.glb")});
  settle();
  QCOMPARE(state().scene, text);
  write("barrel.gltf", stage::gltfFrom(meshes));
  dropFiles({path("crate.gltf"), path("barrel.gltf")});
  settle();
  QCOMPARE(scene().things.size(), std::size_t{3});  // several at once, none instead of another
  QVERIFY(view().isVisible());
  activate();
  undo();
  undo();
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
}

void StageViewTest::figuresOfAPoseGuideStandOnTheStage() {
  QVERIFY(!part("lift figures").isEnabled());
  takeSet(3);
  click("use on the bench");
  settle();
  document().change("Empty", [](StudyState& s) { s.scene.clear(); });
  window_->showView(3);
  settle();
  QVERIFY(scene().things.empty() && part("lift figures").isEnabled());
  click("lift figures");
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QVERIFY(std::holds_alternative<stage::Person>(scene().things[0].is) && scene().things[0].place.at.y() == 0);
  QVERIFY(table().outside().isEmpty());
}

void StageViewTest::theStageComesBackWithTheStudy() {
  document().saveAs(path("stage.scaffold").toStdString());
  takeSet(5);
  view().work().select(scene().things[0].id);
  QTest::keyClick(&table(), Qt::Key_Left);
  const std::string text = state().scene;
  QVERIFY(!text.empty());
  QVERIFY(document().flush());
  document().createUntitled();
  QVERIFY(state().scene.empty());
  document().open(path("stage.scaffold").toStdString());
  settle();
  window_->showView(3);
  settle();
  QCOMPARE(state().scene, text);
  QVERIFY(scene().things.size() > 2 && table().shown());
}

HSCAFFOLD_TEST(StageViewTest)
#include "stage_view_test.moc"
