// The stage in the real window: a set taken, figures put there and posed by hand, and exact guides on the Bench.
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>

#include "app/stage/stage_view.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/pose/figure.h"
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
  auto& shots = part<QComboBox>("shots");
  QCOMPARE(shots.count(), 2);
  emit shots.activated(1);
  QVERIFY(scene().eye.millimetres == before.millimetres);
}

void StageViewTest::numbersAndListActOnWhatIsChosen() {
  choosePose("Walking");
  click("new figure");
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QCOMPARE(scene().things[0].name, std::string("Walking"));
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
  const Guide* pose = nullptr;
  std::set<std::string> kinds;
  for (const Guide& guide : state().guides) {
    kinds.insert(guide.kind);
    if (guide.kind == "pose") pose = &guide;
    const auto* made = desk().maps.mapOf(guide.id);
    QVERIFY2(made != nullptr && made->map && made->map->size() == state().frame, guide.kind.c_str());
  }
  QCOMPARE(kinds, (std::set<std::string>{"pose", "depth", "lines"}));
  const auto figures = desk().maps.figuresOf(*pose);
  QCOMPARE(figures->figures.size(), std::size_t{1});
  const Point nose = figures->figures[0]->points[0].at;
  // Moved on the stage, the same guides follow; one that has another name by now stays as it is.
  document().change("Name", [](StudyState& s) {
    for (Guide& guide : s.guides)
      if (guide.kind == "lines") guide.name = "Kept lines";
  });
  window_->showView(3);
  view().work().select(scene().things[0].id);
  for (int i = 0; i < 6; ++i) QTest::keyClick(&table(), Qt::Key_Right);
  click("use on the bench");
  settle();
  QCOMPARE(state().guides.size(), std::size_t{4});
  QCOMPARE(state().references.size(), std::size_t{1});
  for (const Guide& guide : state().guides)
    if (guide.kind == "pose") pose = &guide;
  QVERIFY(desk().maps.figuresOf(*pose)->figures[0]->points[0].at.x > nose.x + 3);
  // One step takes it back.
  const auto guides = state().guides.size();
  undo();
  settle();
  QVERIFY(state().guides.size() < guides);
  redo();
  settle();
  // Its light comes as tone, and once more in the same guide.
  for (int i = 0; i < 2; ++i) {
    window_->showView(3);
    click("use light");
    settle();
    QCOMPARE(
        std::count_if(state().guides.begin(), state().guides.end(), [](const Guide& g) { return g.kind == "tone"; }),
        1);
    QCOMPARE(state().references.size(), std::size_t{2});
  }
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY(desk().proofs.current() != nullptr && desk().proofs.current()->holds.size() >= 3);
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
