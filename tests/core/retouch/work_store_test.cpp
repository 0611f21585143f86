// Hand work in the study file: kept once, tidied away, refused when damaged.
#include <QTest>
#include <nlohmann/json.hpp>

#include "core/guide_map.h"
#include "core/kinds.h"
#include "core/pose/inks.h"
#include "core/pose/library.h"
#include "core/retouch/painter.h"
#include "core/retouch/retouch_fixtures.h"
#include "core/retouch/work_store.h"
#include "core/strokes/drawing.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace fixtures;

class WorkStoreTest : public QObject {
  Q_OBJECT
 private slots:
  void handWorkSurvivesTheFile();
  void whatIsSavedIsForgottenAndBroughtAgain();
  void equalTilesAreKeptOnce();
  void damagedHandWorkIsRefused();
  void unneededHandWorkIsTidiedAway();
  void figuresAndInksAreKept();
  void damagedFiguresAreRefused();
};

void WorkStoreTest::handWorkSurvivesTheFile() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "work.scaffold");
  const auto below = busyMap(300, 200, 20);
  Layer layer = scribbled({300, 200}, 21, 40, below);
  layer.placing = Affine{1.5, 0.25, -3, 0.125, 2, 7};
  Drawing drawing{true, {300, 200}, layer.placing, {}};
  drawing.strokes = {std::make_shared<const Stroke>(Stroke{{{1.25, 2.5}, {3, 4}, {5, 6}, {7.125, 8}}, {2, 3.5}, false}),
                     std::make_shared<const Stroke>(Stroke{{{9, 9}}, {4}, false})};
  StudyState state;
  Guide guide;
  guide.id = "g1";
  guide.kind = "lines";
  {
    WorkStore store;
    guide.work.put("retouch", store.keep(layer));
    guide.work.put("drawing", store.keep(drawingForm(), drawing));
    guide.work.put("region", guide.work.in("retouch"));
    guide.region = {true, 12.5};
    state.guides.push_back(guide);
    auto file = StudyFile::create(path, state);
    file.writeState(state, store.unsaved(workNamedIn(guide)));
  }
  auto file = StudyFile::open(path);
  const auto read = file.readState();
  QVERIFY(read.guides[0].work == guide.work);
  QVERIFY(read.guides[0].region == guide.region);
  WorkStore store([&](const std::string& id) { return file.work(id); });
  const auto taken = takenWork(read.guides[0], store);
  QVERIFY(sameTouches(*taken.retouch, layer));
  QCOMPARE(taken.retouch->placing->b, 0.25);
  const auto readDrawing = taken.own.get<Drawing>("drawing");
  QCOMPARE(readDrawing->strokes.size(), std::size_t{2});
  QVERIFY(*readDrawing->strokes[0] == *drawing.strokes[0]);
  QVERIFY(readDrawing->alone);
  // What came from the file needs no saving; the same work has the same name.
  QVERIFY(store.unsaved(workNamedIn(guide)).empty());
  QCOMPARE(store.keep(*taken.retouch), guide.work.in("retouch"));
}

void WorkStoreTest::whatIsSavedIsForgottenAndBroughtAgain() {
  std::map<std::string, Bytes> disk;
  WorkStore store([&](const std::string& id) { return disk.contains(id) ? disk.at(id) : Bytes(); });
  const auto below = busyMap(256, 256, 40);
  // Made anew at every call: who holds a layer holds its tiles.
  const auto first = [&] { return scribbled({256, 256}, 41, 10, below); };
  const auto second = [&] { return scribbled({256, 256}, 42, 10, below); };
  const std::string a = store.keep(first()), b = store.keep(second());
  const auto parts = store.unsaved({a});
  for (const WorkPart& part : parts) disk[part.id] = part.bytes;
  store.saved(parts);
  const std::size_t before = store.bytes();
  store.forget({});
  // What was saved is gone from memory, what was not stays.
  QVERIFY(store.bytes() > 0 && store.bytes() < before);
  QVERIFY(sameTouches(*store.layer(b), second()));
  QVERIFY(sameTouches(*store.layer(a), first()));
  QCOMPARE(store.keep(first()), a);
  // What is needed stays, and what others hold is theirs.
  const auto held = store.layer(a);
  store.forget({a});
  QCOMPARE(store.layer(a), held);
  store.forget({});
  QVERIFY(sameTouches(*held, first()));
  QCOMPARE(store.keep(*held), a);
  QVERIFY(store.unsaved({a}).empty());
}

void WorkStoreTest::equalTilesAreKeptOnce() {
  WorkStore store;
  const auto below = busyMap(256, 256, 30);
  Layer layer = scribbled({256, 256}, 31, 10, below);
  const auto first = store.keep(layer);
  const auto whole = store.unsaved({first});
  store.saved(whole);
  BrushStroke stroke(*store.layer(first), {PaintMode::draw, 6, 1, 1}, below);
  stroke.to({20, 20});
  const auto second = store.keep(stroke.layer());
  // One more stroke within a tile: that tile and the list of tiles.
  QCOMPARE(store.unsaved({second}).size(), std::size_t{2});
  QVERIFY(whole.size() > 5);
}

void WorkStoreTest::damagedHandWorkIsRefused() {
  const auto problem = [](const std::string& content, bool asLayer) {
    WorkStore store([&](const std::string&) {
      const auto view = bytesOf(content);
      return Bytes(view.begin(), view.end());
    });
    return fixtures::problemOf([&] {
      if (asLayer)
        static_cast<void>(store.layer("x"));
      else
        static_cast<void>(store.get<Drawing>(drawingForm(), "x"));
    });
  };
  QVERIFY(problem("", true).contains("missing"));
  QVERIFY(!problem("{", true).isEmpty());
  QVERIFY(!problem("[1,2]", true).isEmpty());
  QVERIFY(!problem(R"({"width":0,"height":5,"placing":null,"tiles":[]})", true).isEmpty());
  QVERIFY(!problem(R"({"width":9,"height":5,"placing":[1],"tiles":[]})", true).isEmpty());
  QVERIFY(!problem(R"({"width":9,"height":5,"placing":null,"tiles":[["a",0,"t"]]})", true).isEmpty());
  QVERIFY(!problem(R"({"width":9,"height":5,"placing":null,"alone":true,"strokes":[{"points":[1,2,3],"widths":[]}]})",
                   false)
               .isEmpty());
  QVERIFY(
      !problem(R"({"width":9,"height":5,"placing":null,"strokes":[{"points":["a"],"widths":[1]}]})", false).isEmpty());
}

void WorkStoreTest::unneededHandWorkIsTidiedAway() {
  QTemporaryDir folder;
  StudyState state;
  auto file = StudyFile::create(fixtures::in(folder, "tidy.scaffold"), state);
  WorkStore store([&](const std::string& id) { return file.work(id); });
  const auto below = busyMap(128, 128, 40);
  const auto kept = store.keep(scribbled({128, 128}, 41, 5, below)),
             gone = store.keep(scribbled({128, 128}, 42, 5, below));
  file.writeState(state, store.unsaved({kept, gone}));
  QVERIFY(!file.work(gone).empty());
  file.keepOnly(store.withTiles({kept}), {});
  QVERIFY(file.work(gone).empty());
  WorkStore fresh([&](const std::string& id) { return file.work(id); });
  QVERIFY(sameTouches(*fresh.layer(kept), *store.layer(kept)));
}

void WorkStoreTest::figuresAndInksAreKept() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "figures.scaffold");
  pose::Figures figures;
  figures.frame = {300, 200};
  figures.placing = Affine{1, 0.25, 3, 0, 1, -2};
  for (const std::size_t i : {0u, 9u, 57u}) {
    const auto& named = pose::housePoses()[i];
    auto figure = pose::figureFrom(pose::skeletonOf(named.skeleton), named.pose,
                                   {{100 + 10 * static_cast<double>(i), 90.125}, 77.7, {}});
    figure.name = named.name;
    figure.points[3].pinned = true;
    figure.points[4].confidence = 0.123;
    figures.figures.push_back(std::make_shared<const pose::Figure>(figure));
  }
  const std::string inks(poseData("house-inks.json"));
  StudyState state;
  Guide guide;
  guide.id = "g1";
  guide.kind = "pose";
  guide.words = "walking";
  {
    WorkStore store;
    guide.work.put("figures", store.keep(pose::figuresForm(), figures));
    guide.work.put("inks", store.keep(pose::inksForm(), pose::inksFromJson(inks, "mine.json")));
    QCOMPARE(store.keep(pose::figuresForm(), figures), guide.work.in("figures"));
    state.guides.push_back(guide);
    auto file = StudyFile::create(path, state);
    file.writeState(state, store.unsaved(workNamedIn(guide)));
  }
  auto file = StudyFile::open(path);
  const Guide read = file.readState().guides[0];
  QVERIFY(read.work == guide.work);
  QCOMPARE(read.words, guide.words);
  WorkStore store([&](const std::string& id) { return file.work(id); });
  const auto taken = takenWork(guide, store);
  const auto readFigures = taken.own.get<pose::Figures>("figures");
  QCOMPARE(readFigures->figures.size(), std::size_t{3});
  for (std::size_t i = 0; i < 3; ++i) QVERIFY(*readFigures->figures[i] == *figures.figures[i]);
  QCOMPARE(readFigures->placing->b, 0.25);
  QCOMPARE(taken.own.get<pose::Inks>("inks")->skeletons.size(), std::size_t{2});
  QVERIFY(store.unsaved(workNamedIn(guide)).empty());
  // What is needed stays when the study is tidied, what is not goes.
  file.keepOnly(store.withTiles({guide.work.in("figures")}), {});
  QVERIFY(!file.work(guide.work.in("figures")).empty() && file.work(guide.work.in("inks")).empty());
  // No figure is something to be kept, too: a pose guide always has a name for it.
  QVERIFY(!store.keep(pose::figuresForm(), pose::Figures{{300, 200}, {}, {}}).empty());
}

void WorkStoreTest::damagedFiguresAreRefused() {
  const auto problem = [](const std::string& content) {
    WorkStore store([&](const std::string&) {
      const auto view = bytesOf(content);
      return Bytes(view.begin(), view.end());
    });
    return fixtures::problemOf([&] { static_cast<void>(store.get<pose::Figures>(pose::figuresForm(), "x")); });
  };
  const auto with = [](const std::string& figure) {
    return R"({"width":9,"height":5,"placing":null,"figures":[)" + figure + "]}";
  };
  QVERIFY(problem("").contains("missing"));
  QVERIFY(!problem("[]").isEmpty());
  QVERIFY(problem(with("")).isEmpty());
  QVERIFY(problem(with(R"({"skeleton":"bird","points":[],"natural":[]})")).contains("bird"));
  QVERIFY(problem(with(R"({"points":[[1,2]],"natural":[]})")).contains("figure 1"));
  const auto whole = [](double x, double length) {
    nlohmann::json points = nlohmann::json::array(), natural = nlohmann::json::array();
    for (std::size_t i = 0; i < pose::skeletonOf("human").points.size(); ++i) points.push_back({x, 2, 2, 1, 0});
    for (std::size_t i = 0; i < pose::skeletonOf("human").bones.size(); ++i) natural.push_back(length);
    return nlohmann::json{{"points", points}, {"natural", natural}}.dump();
  };
  QVERIFY(problem(with(whole(1, 5))).isEmpty());
  QVERIFY(problem(with(whole(1e9, 5))).contains("out of range"));
  QVERIFY(problem(with(whole(1, 0))).contains("natural"));
}

HSCAFFOLD_TEST(WorkStoreTest)
#include "work_store_test.moc"
