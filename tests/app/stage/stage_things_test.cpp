// Things that come to the stage and go from it in the real window: panels, the clipboard, files; and guides that act
// only where one of them is.
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QFile>
#include <QTimer>

#include "app/bench/plank.h"
#include "app/stage/stage_view.h"
#include "app/window_fixture.h"
#include "core/stage/model.h"
#include "core/stage/study_guides.h"
#include "core/strokes/drawing.h"

using namespace hscaffold;
using namespace hscaffold::app;

class StageThingsTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void panelsShowReferences();
  void whatIsCopiedStandsBesideIt();
  void whatIsNoSceneIsLeftAlone();
  void scenesGoOutAndComeBack();
  void aGuideActsOnlyWhereAThingIs();
  void edgesOfTheStageAreStrokes();
  void handWorkGoesAlongWithAThing();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    settle();
    window_->showView(3);
    settle();
  }

 private:
  [[nodiscard]] StageView& view() const { return *window_->findChild<StageView*>(); }
  [[nodiscard]] StageTable& stageTable() const { return view().table(); }
  [[nodiscard]] const stage::Scene& scene() const { return view().work().scene(); }
  [[nodiscard]] const stage::Prop& prop(std::size_t which) const {
    return std::get<stage::Prop>(scene().things[which].is);
  }
  void key(Qt::Key code, Qt::KeyboardModifiers keys = {}) const {
    stageTable().setFocus();
    QTest::keyClick(&stageTable(), code, keys);
    settle();
  }
  void copy() const {
    stageTable().setFocus();
    pressInWindow(Qt::Key_C, Qt::ControlModifier);
  }
  void paste() const {
    pressInWindow(Qt::Key_V, Qt::ControlModifier);
    settle();
  }
};

void StageThingsTest::panelsShowReferences() {
  click("put panel");
  settle();
  QCOMPARE(scene().things.size(), std::size_t{1});
  QVERIFY(prop(0).picture != nullptr);
  QCOMPARE(prop(0).shows, std::string("tea"));
  // As broad as the picture asks, and turned to the eye.
  const Size size = prop(0).picture->pixels().size();
  QVERIFY(std::abs(prop(0).size.x() / prop(0).size.y() -
                   static_cast<float>(size.width) / static_cast<float>(size.height)) < 0.01f);
  auto& shows = part<QComboBox>("panel shows");
  QVERIFY(shows.isVisible());
  QCOMPARE(shows.currentText(), QString("tea"));
  const auto choose = [&](const QString& what) {
    const int index =
        what.isEmpty() ? shows.count() - 1 : shows.findText(what, Qt::MatchExactly | Qt::MatchCaseSensitive);
    shows.setCurrentIndex(index);
    emit shows.activated(index);
    settle();
  };
  choose({});
  QVERIFY(prop(0).picture == nullptr);
  QCOMPARE(shows.currentText(), QString("Nothing"));
  shows.setCurrentIndex(1);
  emit shows.activated(1);
  settle();
  QVERIFY(prop(0).picture != nullptr);
  undo();
  settle();
  QVERIFY(prop(0).picture == nullptr);
  redo();
  settle();
  // The reference goes, and the panel keeps what it shows.
  document().change("Out", [](StudyState& s) { s.references.clear(); });
  settle();
  QVERIFY(prop(0).picture != nullptr);
  // Without a reference it is a board.
  click("put panel");
  settle();
  QVERIFY(scene().things.size() == 2 && prop(1).picture == nullptr);
}

void StageThingsTest::whatIsCopiedStandsBesideIt() {
  copy();
  QVERIFY(scene().things.empty());
  click("put box");
  settle();
  copy();
  paste();
  paste();
  QCOMPARE(scene().things.size(), std::size_t{3});
  const auto& first = scene().things[0].place.at;
  QVERIFY((scene().things[1].place.at - first).norm() > 0.3f);
  QVERIFY((scene().things[2].place.at - scene().things[1].place.at).norm() > 0.3f);
  QCOMPARE(view().work().selected(), scene().things[2].id);
  key(Qt::Key_X, Qt::ControlModifier);
  QCOMPARE(scene().things.size(), std::size_t{2});
  paste();
  QCOMPARE(scene().things.size(), std::size_t{3});
  for (int i = 0; i < 3; ++i) {
    undo();
    settle();
  }
  QCOMPARE(scene().things.size(), std::size_t{2});
  // Nothing chosen: all of it, and another study takes it.
  view().work().select({});
  copy();
  document().change("Empty", [](StudyState& s) { s.scene.clear(); });
  paste();
  QCOMPARE(scene().things.size(), std::size_t{2});
}

void StageThingsTest::whatIsNoSceneIsLeftAlone() {
  click("put box");
  settle();
  const std::string before = state().scene;
  for (const char* text :
       {"some words", "{\"things\": 3}", "{\"scene\": 1, \"things\": [{\"id\": \"\"}]}", "\"things\""}) {
    QApplication::clipboard()->setText(text);
    paste();
    QCOMPARE(state().scene, before);
  }
}

void StageThingsTest::scenesGoOutAndComeBack() {
  click("put panel");
  click("put stair");
  settle();
  const std::string text = state().scene;
  for (const char* name : {"stage.json", "stage.gltf", "stage.png"})
    naming(path(name), [this] { view().exportShown(); });
  QTRY_VERIFY(QFile::exists(path("stage.json")) && QFile::exists(path("stage.gltf")) &&
              QFile::exists(path("stage.png")));
  settle();
  QFile written(path("stage.json"));
  QVERIFY(written.open(QIODevice::ReadOnly));
  QCOMPARE(written.readAll().toStdString(), text);
  QVERIFY(QImage(path("stage.png")).width() == state().frame.width);
  QFile model(path("stage.gltf"));
  QVERIFY(model.open(QIODevice::ReadOnly));
  const QByteArray bytes = model.readAll();
  QVERIFY(stage::modelFrom(std::as_bytes(std::span(bytes.data(), static_cast<std::size_t>(bytes.size()))), "it").faces >
          12);
  // Dropped on a stage with things it is put beside them; on an empty one it is the scene.
  dropFiles({path("stage.json")});
  settle();
  QCOMPARE(scene().things.size(), std::size_t{4});
  document().change("Empty", [](StudyState& s) { s.scene.clear(); });
  dropFiles({path("stage.json")});
  settle();
  QCOMPARE(state().scene, text);
  QFile broken(path("broken.json"));
  QVERIFY(broken.open(QIODevice::WriteOnly));
  broken.write("{\"scene\": 1, \"things\": [{\"id\": \"a\", \"prop\": {\"form\": \"cathedral\"}}]}");
  broken.close();
  dropFiles({path("broken.json")});
  settle();
  QCOMPARE(state().scene, text);
}

void StageThingsTest::aGuideActsOnlyWhereAThingIs() {
  click("put box");
  settle();
  const std::string guideId = state().guides[0].id;
  const auto at = stageTable().placeOf(scene().things[0].place.at + stage::Vec3(0, 0.3f, 0));
  QVERIFY(at);
  const QString guideName = QString::fromStdString(state().guides[0].name);
  QVERIFY(chooseFromMenu(guideName, [&] { QTest::mouseClick(&stageTable(), Qt::RightButton, {}, at->toPoint()); }));
  settle();
  const Guide& limited = *state().guide(guideId);
  QVERIFY(limited.limited());
  const auto region = document().work().layer(limited.work.in(regionSlot));
  QVERIFY(region != nullptr);
  const auto mask = composed({}, *region);
  long seen = 0;
  for (int y = 0; y < mask.height(); ++y)
    for (const auto v : mask.line(y)) seen += v > 0 ? 1 : 0;
  const long all = static_cast<long>(mask.width()) * mask.height();
  QVERIFY(seen > all / 200 && seen < all / 4);
  undo();
  settle();
  QVERIFY(!state().guide(guideId)->limited());
  // What is not seen limits nothing.
  view().work().select(scene().things[0].id);
  view().work().edit("Away", [](stage::Scene& s) { s.eye.turn += 180; });
  view().work().limitGuide(guideId);
  settle();
  QVERIFY(!state().guide(guideId)->limited());
}

void StageThingsTest::edgesOfTheStageAreStrokes() {
  click("put box");
  click("its guides");
  settle();
  click("use edges");
  settle();
  const Guide* edges = view().work().guideOf("edges");
  QVERIFY(edges != nullptr && edges->kind == "edges" && edges->work.has(drawingSlot));
  const std::string id = edges->id;
  const auto& map = *desk().maps.mapOf(id)->map;
  long white = 0, grey = 0;
  for (int y = 0; y < map.height(); ++y)
    for (const auto v : map.line(y)) {
      white += v == 65535 ? 1 : 0;
      grey += v > 0 && v < 65535 ? 1 : 0;
    }
  QVERIFY(white > 100 && grey == 0);
  // It follows, and belongs to whoever draws on it.
  const std::string piece = edges->work.in(drawingSlot);
  key(Qt::Key_Right);
  QTRY_VERIFY(state().guide(id)->work.in(drawingSlot) != piece);
}

void StageThingsTest::handWorkGoesAlongWithAThing() {
  click("put box");
  click("its guides");
  settle();
  click("use depth");
  settle();
  const std::string id = view().work().guideOf("depth")->id;
  const std::string box = scene().things[0].id;
  const auto spot = [&] {
    const auto seen = stage::cameraOf(scene().eye, state().frame).seen(scene().things[0].place.at);
    return QPointF(static_cast<double>(seen.x), static_cast<double>(seen.y));
  };
  // Retouched on the Bench, where the guide is said to be of the stage.
  window_->showView(0);
  document().look([&](Looking& looking) { looking.guide = id; });
  settle();
  for (const Plank* plank : window_->findChildren<Plank*>())
    QCOMPARE(plank->findChild<QLabel*>("stage mark")->isVisibleTo(window_.get()), plank->guide() == id);
  press(Qt::Key_D);
  const QPointF drawnAt = spot() - QPointF(0, 20);
  drag({drawnAt - QPointF(10, 0), drawnAt + QPointF(10, 0)});
  settle();
  const std::string drawn = state().guide(id)->work.in(retouchSlot);
  QVERIFY(!drawn.empty());
  const auto middle = [&] {
    QPointF sum;
    double all = 0;
    const auto layer = document().work().layer(state().guide(id)->work.in(retouchSlot));
    for (int y = 0; layer && y < layer->frame.height; ++y)
      for (int x = 0; x < layer->frame.width; ++x)
        if (const double cover = layer->at(x, y).cover; cover > 0) sum += cover * QPointF(x, y), all += cover;
    return all > 0 ? sum / all : QPointF(-1, -1);
  };
  const QPointF before = middle(), footBefore = spot();
  // Fastened by the thing's menu; then the eye goes aside, and the hand work with it.
  window_->showView(3);
  settle();
  const auto fastenBy = [&] {
    view().work().select(box);
    const auto at = stageTable().placeOf(scene().things[0].place.at + stage::Vec3(0, 0.3f, 0));
    return chooseFromMenu("Hand work goes along/Stage depth",
                          [&] { QTest::mouseClick(&stageTable(), Qt::RightButton, {}, at->toPoint()); });
  };
  QVERIFY(fastenBy());
  QCOMPARE(state().guide(id)->stage.fastened.thing, box);
  const auto followed = [&] {
    QTRY_VERIFY(stage::staleGuides(state()).empty());
    settle();
  };
  view().work().edit("Aside", [](stage::Scene& s) { s.eye.at.x() += 0.5f; });
  followed();
  const QPointF gone = spot() - footBefore;
  QVERIFY(std::abs(gone.x()) > 15);
  QVERIFY2(QLineF(middle() - before, gone).length() < 3,
           qPrintable(QString("%1, not %2").arg((middle() - before).x()).arg(gone.x())));
  // What is drawn meanwhile goes along, too; undo takes the eye back, and hand work follows.
  const std::string laid = state().guide(id)->work.in(retouchSlot);
  QVERIFY(laid != drawn);
  undo();
  followed();
  QCOMPARE(state().guide(id)->work.in(retouchSlot), drawn);
  redo();
  followed();
  QCOMPARE(state().guide(id)->work.in(retouchSlot), laid);
  // Out of sight it is not lost: kept in the file, and there again when the eye comes back.
  view().work().edit("Away", [](stage::Scene& s) { s.eye.turn += 120; });
  followed();
  view().work().edit("And aside", [](stage::Scene& s) { s.eye.turn -= 120, s.eye.at.x() += 9; });
  followed();
  QVERIFY(state().guide(id)->work.in(retouchSlot).empty());
  view().work().unfasten(id);
  QCOMPARE(state().guide(id)->stage.fastened.thing, box);
  const QString file = path("kept.scaffold");
  document().saveAs(file.toStdString());
  settle();
  QVERIFY(window_->openStudy(file));
  window_->showView(3);
  settle();
  view().work().edit("Back", [](stage::Scene& s) { s.eye.at.x() -= 9.5f; });
  followed();
  QVERIFY(QLineF(middle(), before).length() < 1);
  // Let go of, it stays.
  QVERIFY(fastenBy());
  QVERIFY(state().guide(id)->stage.fastened.thing.empty());
  const std::string stays = state().guide(id)->work.in(retouchSlot);
  view().work().edit("Aside", [](stage::Scene& s) { s.eye.at.x() += 0.5f; });
  followed();
  QCOMPARE(state().guide(id)->work.in(retouchSlot), stays);
}

HSCAFFOLD_TEST(StageThingsTest)
#include "stage_things_test.moc"
