// Hand work that goes along with things of the stage.
#include "core/stage/fastening.h"

#include <QTest>
#include <cmath>

#include "core/kinds.h"
#include "core/pose/library.h"
#include "core/retouch/painter.h"
#include "core/stage/scene_maps.h"
#include "core/stage/study_guides.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

constexpr Size wholeFrame{360, 240};

Scene walkerAndBox() {
  Scene scene;
  Thing walker;
  walker.id = "walker";
  Person person;
  person.angles = anglesAhead(pose::housePoses()[0]);
  walker.is = person;
  Thing box;
  box.id = "box";
  box.place = {{1.2f, 0, -1}, 20};
  box.is = usualProp(Prop::Form::box);
  scene.things = {walker, box};
  scene.eye = lookingFrom({0, 1.4f, 5}, {0.3f, 0.8f, 0}, 38);
  return scene;
}

/// A square of hand work about a place.
Layer dabAt(Point at, int half) {
  Image<std::uint16_t> mask(wholeFrame);
  for (int y = static_cast<int>(at.y) - half; y < static_cast<int>(at.y) + half; ++y)
    for (int x = static_cast<int>(at.x) - half; x < static_cast<int>(at.x) + half; ++x)
      if (x >= 0 && y >= 0 && x < wholeFrame.width && y < wholeFrame.height) mask(x, y) = 65535;
  return painted(Layer{wholeFrame, {}, {}}, mask.view(), PaintMode::draw, {});
}

struct Covered {
  double x = 0, y = 0, area = 0;
};
Covered coveredBy(const Layer& layer) {
  Covered out;
  for (int y = 0; y < layer.frame.height; ++y)
    for (int x = 0; x < layer.frame.width; ++x)
      if (const double cover = layer.at(x, y).cover / 65535.0; cover > 0) {
        out.x += cover * (x + 0.5);
        out.y += cover * (y + 0.5);
        out.area += cover;
      }
  out.x /= out.area;
  out.y /= out.area;
  return out;
}

/// A study whose only guide is depth of the stage.
struct Fastened {
  StudyState state;
  WorkStore store;
  Scene scene = walkerAndBox();

  Fastened() {
    state.frame = wholeFrame;
    Guide guide;
    guide.id = "g1";
    guide.kind = "depth";
    guide.name = "Stage depth";
    guide.stage.map = "depth";
    state.guides.push_back(guide);
  }
  Guide& guide() { return state.guides[0]; }
  void draw(const Layer& layer, const char* slot = retouchSlot) { guide().work.put(slot, store.keep(layer)); }
  [[nodiscard]] Layer lies(const char* slot = retouchSlot) {
    const auto layer = store.layer(guide().work.in(slot));
    return layer ? *layer : Layer{wholeFrame, {}, {}};
  }
  /// As following the stage does it.
  bool follow() {
    auto works = takeFastened(state, {"g1"}, store);
    bool all = true;
    for (FastenedWork& work : works) {
      layAlong(work, scene, state.frame);
      all &= giveFastened(guide(), placeOf(state, guide()), work, store);
    }
    return all;
  }
};

}  // namespace

class FasteningTest : public QObject {
  Q_OBJECT
 private slots:
  void aThingIsSeenWhereItStands();
  void handWorkGoesAlong_data();
  void handWorkGoesAlong();
  void itGoesWithAJoint();
  void goingAroundLosesNothing();
  void whatIsDrawnLaterGoesFromThere();
  void whatLiesBeyondTheFrameStays();
  void whatIsNotThereLeavesItAlone();
  void itIsKeptInTheStudy();
};

void FasteningTest::aThingIsSeenWhereItStands() {
  Scene scene = walkerAndBox();
  scene.eye.roll = 25;
  const auto placed = seenPlaceOf(scene, wholeFrame, "box", {});
  QVERIFY(placed.has_value());
  const Camera camera = cameraOf(scene.eye, wholeFrame);
  const auto foot = camera.seen(scene.things[1].place.at);
  QVERIFY(std::hypot(placed->c - static_cast<double>(foot.x), placed->f - static_cast<double>(foot.y)) < 1e-3);
  // A little further up on it lies a little further up in the picture, whichever way the eye is rolled.
  const auto above = camera.seen(scene.things[1].place.at + Vec3(0, 0.1f, 0));
  QVERIFY(std::hypot(placed->mapX(0, -0.1) - static_cast<double>(above.x),
                     placed->mapY(0, -0.1) - static_cast<double>(above.y)) < 0.5);
  QVERIFY(!seenPlaceOf(scene, wholeFrame, "nobody", {}));
  scene.eye.at = {0, 1.4f, -20};
  QVERIFY(!seenPlaceOf(scene, wholeFrame, "box", {}));
}

void FasteningTest::handWorkGoesAlong_data() {
  QTest::addColumn<int>("what");
  QTest::newRow("eye aside") << 0;
  QTest::newRow("eye nearer") << 1;
  QTest::newRow("eye rolled") << 2;
  QTest::newRow("thing moved") << 3;
  QTest::newRow("another lens") << 4;
}

void FasteningTest::handWorkGoesAlong() {
  QFETCH(int, what);
  Fastened it;
  // Half a metre above the foot of the box.
  const auto spot = [&] {
    const auto seen = cameraOf(it.scene.eye, wholeFrame).seen(it.scene.things[1].place.at + Vec3(0, 0.5f, 0));
    return std::array{static_cast<double>(seen.x), static_cast<double>(seen.y), static_cast<double>(seen.far)};
  };
  const auto before = spot();
  it.draw(dabAt({before[0], before[1]}, 8));
  it.draw(dabAt({before[0], before[1]}, 12), regionSlot);
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "box"));
  const Covered drawn = coveredBy(it.lies()), limited = coveredBy(it.lies(regionSlot));
  double lens = 1;
  switch (what) {
    case 0:
      it.scene.eye.at.x() += 0.6f;
      break;
    case 1:
      it.scene.eye.at.z() -= 1.5f;
      break;
    case 2:
      it.scene.eye.roll = 12;
      break;
    case 3:
      it.scene.things[1].place.at += Vec3(-0.7f, 0, 0.4f);
      break;
    default:
      it.scene.eye.millimetres = 50, lens = 50.0 / 38;
      break;
  }
  QVERIFY(it.follow());
  const auto after = spot();
  const Covered moved = coveredBy(it.lies()), region = coveredBy(it.lies(regionSlot));
  const double grown = lens * before[2] / after[2];
  QVERIFY2(std::hypot(moved.x - after[0], moved.y - after[1]) < 2.5,
           qPrintable(QString("%1 %2, not %3 %4").arg(moved.x).arg(moved.y).arg(after[0]).arg(after[1])));
  QVERIFY(std::hypot(after[0] - before[0], after[1] - before[1]) > 4);
  QVERIFY(std::abs(moved.area / drawn.area / (grown * grown) - 1) < 0.08);
  QVERIFY(std::abs(region.area / limited.area / (grown * grown) - 1) < 0.08);
}

void FasteningTest::itGoesWithAJoint() {
  Fastened it;
  const auto hand = [&] {
    const auto look = lookAt(it.scene, wholeFrame);
    const auto figures = figuresIn(it.scene, look);
    const auto& skeleton = skeletonOf(it.scene.things[0]);
    return figures.figures[0]->points[*skeleton.find("left_wrist")].at;
  };
  const Point before = hand();
  it.draw(dabAt(before, 6));
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "walker", "left_wrist"));
  // Another pose: the wrist is elsewhere, the figure is not.
  setAngles(it.scene.things[0], anglesAhead(pose::housePoses()[30]));
  QVERIFY(it.follow());
  const Point after = hand();
  const Covered moved = coveredBy(it.lies());
  QVERIFY(std::hypot(after.x - before.x, after.y - before.y) > 5);
  QVERIFY2(std::hypot(moved.x - after.x, moved.y - after.y) < 1.5,
           qPrintable(QString("%1 %2, not %3 %4").arg(moved.x).arg(moved.y).arg(after.x).arg(after.y)));
}

void FasteningTest::goingAroundLosesNothing() {
  Fastened it;
  const auto seen = cameraOf(it.scene.eye, wholeFrame).seen(it.scene.things[1].place.at);
  it.draw(dabAt({static_cast<double>(seen.x), static_cast<double>(seen.y)}, 9));
  const std::string drawn = it.guide().work.in(retouchSlot);
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "box"));
  const Eye eye = it.scene.eye;
  for (int i = 0; i < 12; ++i) {
    it.scene.eye.at.x() += 0.37f;
    it.scene.eye.roll += 3;
    QVERIFY(it.follow());
  }
  // Outside of the frame there is nothing to be seen of it, which is no loss.
  QVERIFY(it.lies().empty());
  QVERIFY(isOutOfFrame(it.guide()));
  QVERIFY(workNamedIn(it.guide()).contains(drawn));
  it.scene.eye = eye;
  QVERIFY(it.follow());
  QCOMPARE(it.guide().work.in(retouchSlot), drawn);
  QVERIFY(!isOutOfFrame(it.guide()));
}

void FasteningTest::whatIsDrawnLaterGoesFromThere() {
  Fastened it;
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "box"));
  it.scene.eye.at.x() += 0.5f;
  QVERIFY(it.follow());
  const auto spot = [&] { return cameraOf(it.scene.eye, wholeFrame).seen(it.scene.things[1].place.at); };
  const auto before = spot();
  it.draw(dabAt({static_cast<double>(before.x), static_cast<double>(before.y)}, 7));
  it.scene.eye.at.x() += 0.5f;
  // Somebody draws while that is being laid: theirs stays, and goes along next time.
  auto works = takeFastened(it.state, {"g1"}, it.store);
  layAlong(works[0], it.scene, wholeFrame);
  it.draw(dabAt({static_cast<double>(before.x), static_cast<double>(before.y)}, 10));
  const std::string theirs = it.guide().work.in(retouchSlot);
  QVERIFY(!giveFastened(it.guide(), placeOf(it.state, it.guide()), works[0], it.store));
  QCOMPARE(it.guide().work.in(retouchSlot), theirs);
  QVERIFY(it.follow());
  const auto after = spot();
  const Covered moved = coveredBy(it.lies());
  QVERIFY(std::hypot(moved.x - static_cast<double>(after.x), moved.y - static_cast<double>(after.y)) < 1.5);
  QVERIFY(std::abs(after.x - before.x) > 10);
  // Wiped away it does not come back.
  it.guide().work.clear(retouchSlot);
  it.scene.eye.at.x() -= 1;
  QVERIFY(it.follow());
  QVERIFY(!it.guide().work.has(retouchSlot));
}

void FasteningTest::whatLiesBeyondTheFrameStays() {
  Fastened it;
  const auto seen = cameraOf(it.scene.eye, wholeFrame).seen(it.scene.things[1].place.at);
  const Point spot{static_cast<double>(seen.x), static_cast<double>(seen.y)};
  it.draw(dabAt(spot, 9));
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "box"));
  const auto go = [&](float aside) {
    it.scene.eye.at.x() += aside;
    QVERIFY(it.follow());
  };
  go(5);
  QVERIFY(it.lies().empty());
  // Something else is drawn meanwhile; back there the first is as it was, and the other one again where it was drawn.
  const Point other{100, 120};
  it.draw(dabAt(other, 6));
  const double drawn = coveredBy(it.lies()).area;
  go(-5);
  const Covered first = coveredBy(it.lies());
  QVERIFY(std::hypot(first.x - spot.x, first.y - spot.y) < 1.5);
  QVERIFY(std::abs(first.area / (18 * 18) - 1) < 0.03);
  it.state.scene = sceneToText(it.scene);
  QVERIFY(stateFromJson(stateToJson(it.state)).guides[0].stage == it.guide().stage);
  go(5);
  const Covered second = coveredBy(it.lies());
  QVERIFY(std::hypot(second.x - other.x, second.y - other.y) < 1.5);
  QVERIFY(std::abs(second.area / drawn - 1) < 0.03);
  // Wiped away is what is seen, not what lies beyond.
  it.guide().work.clear(retouchSlot);
  go(-5);
  QVERIFY(std::hypot(coveredBy(it.lies()).x - spot.x, coveredBy(it.lies()).y - spot.y) < 1.5);
  go(5);
  QVERIFY(it.lies().empty());
  // And wiped there, it is gone everywhere.
  go(-5);
  it.guide().work.clear(retouchSlot);
  go(1);
  QVERIFY(!it.guide().work.has(retouchSlot));
  QVERIFY(it.guide().stage.fastened.pieces.empty());
}

void FasteningTest::whatIsNotThereLeavesItAlone() {
  Fastened it;
  it.draw(dabAt({100, 100}, 9));
  const std::string drawn = it.guide().work.in(retouchSlot);
  QVERIFY(!fasten(it.guide(), it.scene, wholeFrame, "nobody"));
  QVERIFY(it.guide().stage.fastened == Fastening{});
  QVERIFY(!fasten(it.guide(), it.scene, wholeFrame, "walker", "third_wrist"));
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "box"));
  it.scene.things.pop_back();
  it.scene.eye.at.x() += 0.5f;
  QVERIFY(it.follow());
  QCOMPARE(it.guide().work.in(retouchSlot), drawn);
  // A layer that is missing is left, and does not ask for more.
  it.scene = walkerAndBox();
  it.guide().work.put(retouchSlot, "missing");
  it.scene.eye.at.x() += 0.5f;
  QVERIFY(it.follow());
  QCOMPARE(it.guide().work.in(retouchSlot), std::string("missing"));
}

void FasteningTest::itIsKeptInTheStudy() {
  Fastened it;
  it.draw(dabAt({180, 120}, 9));
  QVERIFY(fasten(it.guide(), it.scene, wholeFrame, "walker", "nose"));
  it.scene.eye.at.x() += 0.4f;
  QVERIFY(it.follow());
  it.state.scene = sceneToText(it.scene);
  const auto json = stateToJson(it.state);
  const StudyState read = stateFromJson(json);
  QVERIFY(read.guides[0].stage == it.guide().stage);
  // A joint's name, numbers and slots that make no sense are said, or left out where things are mended.
  for (const auto& [what, value] : {std::pair<const char*, nlohmann::json>{"placed", {1, 0, 0, 2, 0, 0}},
                                    {"placed", nullptr},
                                    {"pieces", {{"elsewhere", 3}}},
                                    {"pieces", {{"retouch", {{"drawn", 4}}}}},
                                    {"thing", 7}}) {
    auto wrong = json;
    wrong["guides"][0]["stage"]["fastened"][what] = value;
    QVERIFY_THROWS_EXCEPTION(Problem, stateFromJson(wrong));
    Mended mended;
    const StudyState left = stateFromJson(wrong, &mended);
    QVERIFY(!mended.sentences().empty());
    QCOMPARE(left.guides[0].stage.map, std::string("depth"));
  }
}

HSCAFFOLD_TEST(FasteningTest)
#include "fastening_test.moc"
