// Drags on the stage that do not end as they usually do, and drops of what is nothing for it.
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QWindow>

#include "app/stage/stage_view.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class StageDragsTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void whatIsCalledOffLeavesNoStep();
  void anEmptyStageStaysEmpty();
  void holdingStillIsNoEnd();
  void picturesOfADragAreThoseOfTheStage();
  void wrongDropsAreSaidAndChangeNothing_data();
  void wrongDropsAreSaidAndChangeNothing();

 protected:
  void prepare() override {
    window_->showView(3);
    settle();
  }

 private:
  [[nodiscard]] StageView& view() const { return *window_->findChild<StageView*>(); }
  [[nodiscard]] StageTable& stage() const { return view().table(); }
  [[nodiscard]] const stage::Scene& scene() const { return view().work().scene(); }
  void putBoxes() const {
    for (int i = 0; i < 3; ++i) click("put box");
    settle();
  }
  [[nodiscard]] QPoint placeOf(std::size_t thing) const {
    return stage().placeOf(scene().things[thing].place.at + hscaffold::stage::Vec3(0, 0.4f, 0))->toPoint();
  }
  void moveTo(QPoint at) const {
    QMouseEvent move(QEvent::MouseMove, at, stage().mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&stage(), &move);
  }
};

void StageDragsTest::whatIsCalledOffLeavesNoStep() {
  putBoxes();
  const std::string text = state().scene;
  const QPoint from = placeOf(1);
  QTest::mousePress(&stage(), Qt::LeftButton, {}, from);
  for (int i = 1; i < 6; ++i) moveTo(from + QPoint(9 * i, 4 * i));
  QVERIFY(state().scene != text);
  QTest::keyClick(&stage(), Qt::Key_Escape);
  QCOMPARE(state().scene, text);
  // The pointer, still down, leads nothing any more.
  moveTo(from + QPoint(80, 10));
  QTest::mouseRelease(&stage(), Qt::LeftButton, {}, from + QPoint(80, 10));
  settle();
  QCOMPARE(state().scene, text);
  QVERIFY(std::abs(placeOf(1).x() - from.x()) <= 1);
  // What is taken back next is what was done before; and what was taken back before can be done again.
  undo();
  QCOMPARE(scene().things.size(), std::size_t{2});
  QTest::mousePress(&stage(), Qt::LeftButton, {}, placeOf(0));
  moveTo(placeOf(0) + QPoint(40, 10));
  QTest::keyClick(&stage(), Qt::Key_Escape);
  redo();
  settle();
  QCOMPARE(state().scene, text);
}

void StageDragsTest::anEmptyStageStaysEmpty() {
  const QPoint at = stage().rect().center();
  QTest::mousePress(&stage(), Qt::LeftButton, {}, at);
  moveTo(at + QPoint(70, 5));
  QVERIFY(!state().scene.empty());
  QTest::keyClick(&stage(), Qt::Key_Escape);
  QTest::mouseRelease(&stage(), Qt::LeftButton, {}, at);
  QVERIFY(state().scene.empty());
  // Esc on its own, and a press that moves nothing, do no harm either.
  QTest::mousePress(&stage(), Qt::LeftButton, {}, at);
  QTest::keyClick(&stage(), Qt::Key_Escape);
  QTest::mouseRelease(&stage(), Qt::LeftButton, {}, at);
  QTest::keyClick(&stage(), Qt::Key_Escape);
  settle();
  QVERIFY(state().scene.empty());
}

void StageDragsTest::holdingStillIsNoEnd() {
  putBoxes();
  const std::string text = state().scene;
  QWindow* window = window_->windowHandle();
  const auto inWindow = [&](QPoint at) { return stage().mapTo(window_.get(), at); };
  const QPoint from = placeOf(0);
  QTest::mousePress(window, Qt::LeftButton, {}, inWindow(from));
  for (int i = 1; i < 6; ++i) QTest::mouseMove(window, inWindow(from + QPoint(8 * i, 2 * i)));
  QTRY_VERIFY(state().scene != text);
  const std::string halfway = state().scene;
  QTest::qWait(1600);  // longer than what joins typed changes
  for (int i = 6; i < 12; ++i) QTest::mouseMove(window, inWindow(from + QPoint(8 * i, 2 * i)));
  QTRY_VERIFY(state().scene != halfway);
  QTest::mouseRelease(window, Qt::LeftButton, {}, inWindow(from + QPoint(90, 24)));
  settle();
  undo();
  QCOMPARE(state().scene, text);
}

void StageDragsTest::picturesOfADragAreThoseOfTheStage() {
  auto& sets = part<QComboBox>("sets");
  sets.setCurrentIndex(2);
  emit sets.activated(2);
  settle();
  view().work().select(scene().things[0].id);
  stage().setFocus();
  settle();
  const QImage before = stage().grab().toImage();
  const QPoint from = placeOf(0);
  dragOn(stage(), from, from + QPoint(60, 20));
  settle();
  const QImage dragged = stage().grab().toImage();
  QVERIFY(dragged != before);
  // Painted whole by another eye in between, it is the same picture.
  const auto eye = scene().eye;
  view().work().edit("Elsewhere", [](auto& s) { s.eye.turn += 20; });
  settle();
  QVERIFY(stage().grab().toImage() != dragged);
  view().work().edit("And back", [&](auto& s) { s.eye = eye; });
  settle();
  QCOMPARE(stage().grab().toImage(), dragged);
  undo();
  undo();
  undo();
  settle();
  QCOMPARE(stage().grab().toImage(), before);
}

void StageDragsTest::wrongDropsAreSaidAndChangeNothing_data() {
  QTest::addColumn<QString>("name");
  QTest::addColumn<QByteArray>("bytes");
  QTest::newRow("clip that is none") << "walk.bvh" << QByteArray("HIERARCHY\nROOT Hips\n{");
  QTest::newRow("model that is none") << "crate.glb" << QByteArray("glTF\x02\x00\x00\x00\xff\xff\xff\xff", 12);
  QTest::newRow("model in itself") << "crate.gltf" << QByteArray(R"({"asset": {"version": "2.0"}, "scene": 0,
    "scenes": [{"nodes": [0]}], "nodes": [{"children": [0]}]})");
  QTest::newRow("scene that is none") << "stage.json" << QByteArray("{\"things\": 7");
  QTest::newRow("nothing at all") << "stage.json" << QByteArray();
  QTest::newRow("picture that is none") << "tea.png" << QByteArray("\x89PNG\r\n\x1a\n and no more");
  QTest::newRow("text") << "notes.txt" << QByteArray("Bring the kite.");
  QTest::newRow("no file") << "gone.glb" << QByteArray();
  QTest::newRow("a folder") << "folder.gltf" << QByteArray();
}

void StageDragsTest::wrongDropsAreSaidAndChangeNothing() {
  QFETCH(QString, name);
  QFETCH(QByteArray, bytes);
  putBoxes();
  const StudyState before = state();
  if (name.startsWith("folder"))
    QVERIFY(QDir().mkpath(path(qPrintable(name))));
  else if (!name.startsWith("gone")) {
    QFile file(path(qPrintable(name)));
    QVERIFY(file.open(QIODevice::WriteOnly) && file.write(bytes) == bytes.size());
  }
  QVERIFY(!window_->shownSentence().contains(name));
  dropFiles({path(qPrintable(name))});
  QTRY_VERIFY2(window_->shownSentence().contains(name), qPrintable(window_->shownSentence()));
  settle();
  QCOMPARE(state().scene, before.scene);
  QCOMPARE(state().references.size(), before.references.size());
  QCOMPARE(state().guides.size(), before.guides.size());
}

HSCAFFOLD_TEST(StageDragsTest)
#include "stage_drags_test.moc"
