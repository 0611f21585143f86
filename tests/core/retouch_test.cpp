#include <QtTest>
#include <cmath>

#include <nlohmann/json.hpp>

#include "core/guide_map.h"
#include "core/kinds.h"
#include "core/lines/drawing.h"
#include "core/pose/inks.h"
#include "core/pose/library.h"
#include "core/retouch/edit_store.h"
#include "core/retouch/painter.h"
#include "core/study/study_file.h"
#include "fixtures.h"

using namespace hscaffold;

namespace {

Map busyMap(int width, int height, unsigned seed) {
  std::mt19937 random(seed);
  Map map(width, height);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) map(x, y) = static_cast<std::uint16_t>(random());
  return map;
}

Layer emptyLayer(Size size) {
  Layer layer;
  layer.frame = size;
  return layer;
}

/// Many strokes of all modes.
Layer scribbled(Size size, unsigned seed, int strokes, const Map& below) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(0, 1);
  Layer layer = emptyLayer(size);
  for (int i = 0; i < strokes; ++i) {
    BrushStroke stroke(layer, {static_cast<PaintMode>(random() % 3), 2 + 30 * unit(random), unit(random), 1}, below);
    Point at{size.width * unit(random), size.height * unit(random)};
    for (int k = 0; k < 12; ++k) {
      stroke.to(at, 0.3 + 0.7 * unit(random));
      at = at + Point{30 * unit(random) - 15, 30 * unit(random) - 15};
    }
    layer = stroke.layer();
  }
  return layer;
}

bool sameTouches(const Layer& a, const Layer& b) {
  if (a.frame != b.frame) return false;
  for (int y = 0; y < a.frame.height; ++y)
    for (int x = 0; x < a.frame.width; ++x)
      if (a.at(x, y) != b.at(x, y)) return false;
  return true;
}

}  // namespace

class RetouchTest : public QObject {
  Q_OBJECT
 private slots:
  void composingIsTheMixture();
  void partsAreComposedLikeTheWhole();
  void aBrushStrokeCoversItsPath();
  void overlapsInOneStrokeDoNotAddUp();
  void brushStrokesDoNotTouchOlderVersions();
  void pressureMakesItThinner();
  void restoringBringsBackWhatIsBelow();
  void strokesOutsideTheFrameChangeNothing();
  void loopsCoverTheirInside();
  void specksGoAndLinesStay();
  void regionsGrowFromColour();
  void layersFollowTheFrame();
  void layersFollowTheirReference();
  void movedGroundIsFoundAndReleased();
  void retuningKeepsEveryStroke();
  void mergedLayersShowTheSameMap();
  void regionsLimitLineMaps();
  void featherSoftens();
  void drawnGuidesNeedNoReference();
  void handWorkSurvivesTheFile();
  void equalTilesAreKeptOnce();
  void damagedHandWorkIsRefused();
  void unneededHandWorkIsTidiedAway();
  void figuresAndInksAreKept();
  void damagedFiguresAreRefused();
};

void RetouchTest::composingIsTheMixture() {
  const Size size{150, 100};
  const auto below = busyMap(150, 100, 1);
  const auto layer = scribbled(size, 2, 20, below);
  const auto map = composed(below, layer);
  for (int y = 0; y < 100; ++y)
    for (int x = 0; x < 150; ++x) {
      const Touch t = layer.at(x, y);
      const double wanted = below(x, y) * (1 - t.cover / 65535.0) + t.value * (t.cover / 65535.0);
      QVERIFY(std::abs(map(x, y) - wanted) <= 1);
      if (t.cover == 0) QCOMPARE(map(x, y), below(x, y));
    }
  QVERIFY(composed(below, emptyLayer(size)) == below);
}

void RetouchTest::partsAreComposedLikeTheWhole() {
  const auto below = busyMap(200, 170, 3);
  const auto layer = scribbled({200, 170}, 4, 30, below);
  const auto whole = composed(below, layer);
  Map parts(200, 170);
  for (const Box& box : {Box{-5, -5, 70, 90}, {70, -5, 300, 90}, {-5, 90, 131, 400}, {131, 90, 200, 170}})
    composeInto(below, layer, box, parts.view());
  QVERIFY(parts == whole);
}

void RetouchTest::aBrushStrokeCoversItsPath() {
  BrushStroke stroke(emptyLayer({200, 100}), {PaintMode::draw, 20, 1, 1}, {});
  stroke.to({30, 50});
  const Box box = stroke.to({170, 50});
  const auto map = composed({}, stroke.layer());
  for (int x = 30; x < 170; ++x) {
    double column = 0;
    for (int y = 0; y < 100; ++y) column += map(x, y) / 65535.0;
    QVERIFY2(std::abs(column - 20) < 0.6, qPrintable(QString::number(column)));
  }
  QCOMPARE(map(100, 50), std::uint16_t{65535});
  QCOMPARE(map(100, 70), std::uint16_t{0});
  // The box that is said to have changed holds all that changed.
  for (int y = 0; y < 100; ++y)
    for (int x = 0; x < 200; ++x)
      if (map(x, y) != 0) QVERIFY(x >= box.left && x < box.right && y >= box.top && y < box.bottom);
}

void RetouchTest::overlapsInOneStrokeDoNotAddUp() {
  const Brush soft{PaintMode::draw, 30, 0.2, 0.5};
  BrushStroke once(emptyLayer({100, 60}), soft, {});
  once.to({20, 30});
  once.to({80, 30});
  BrushStroke often(emptyLayer({100, 60}), soft, {});
  for (int i = 0; i < 6; ++i) {
    often.to({20, 30});
    often.to({80, 30});
  }
  QVERIFY(sameTouches(once.layer(), often.layer()));
  // A second stroke does add.
  BrushStroke again(once.layer(), soft, {});
  again.to({50, 30});
  QVERIFY(again.layer().at(50, 30).cover > once.layer().at(50, 30).cover + 10000);
}

void RetouchTest::brushStrokesDoNotTouchOlderVersions() {
  const auto below = busyMap(300, 200, 5);
  std::vector<Layer> versions{emptyLayer({300, 200})};
  std::vector<Map> maps;
  maps.push_back(composed(below, versions[0]));
  std::mt19937 random(6);
  for (int i = 0; i < 40; ++i) {
    BrushStroke stroke(versions.back(), {PaintMode::rubOut, 12, 0.7, 1}, below);
    for (int k = 0; k < 5; ++k) stroke.to({static_cast<double>(random() % 300), static_cast<double>(random() % 200)});
    versions.push_back(stroke.layer());
    maps.push_back(composed(below, versions.back()));
  }
  // Back through all of them: each is still what it was, to the first.
  for (std::size_t i = versions.size(); i-- > 0;) QVERIFY(composed(below, versions[i]) == maps[i]);
  QVERIFY(maps[0] == below);
  QVERIFY(!(maps[40] == maps[39]));
}

void RetouchTest::pressureMakesItThinner() {
  const auto widthAt = [](double pressure) {
    BrushStroke stroke(emptyLayer({100, 100}), {PaintMode::draw, 40, 1, 1}, {});
    stroke.to({10, 50}, pressure);
    stroke.to({90, 50}, pressure);
    double sum = 0;
    const auto map = composed({}, stroke.layer());
    for (int y = 0; y < 100; ++y) sum += map(50, y) / 65535.0;
    return sum;
  };
  QVERIFY(std::abs(widthAt(1) - 40) < 1 && std::abs(widthAt(0.5) - 20) < 1 && widthAt(0.1) < 5);
}

void RetouchTest::restoringBringsBackWhatIsBelow() {
  const auto below = busyMap(100, 100, 7);
  BrushStroke drawn(emptyLayer({100, 100}), {PaintMode::draw, 40, 1, 1}, below);
  drawn.to({50, 50});
  BrushStroke restored(drawn.layer(), {PaintMode::restore, 60, 1, 1}, below);
  restored.to({50, 50});
  QVERIFY(!(composed(below, drawn.layer()) == below));
  QVERIFY(composed(below, restored.layer()) == below);
  EditStore store;
  QCOMPARE(store.keep(restored.layer()), std::string());  // nothing is left to be kept
}

void RetouchTest::strokesOutsideTheFrameChangeNothing() {
  BrushStroke stroke(emptyLayer({100, 60}), {PaintMode::draw, 10, 1, 1}, {});
  QVERIFY(stroke.to({-500, -500}).empty());
  QVERIFY(stroke.to({-400, 900}).empty());
  QVERIFY(stroke.layer().empty());
  stroke.to({1e7, 30});  // far away, but across the frame
  QVERIFY(composed({}, stroke.layer())(0, 0) == 0);
}

void RetouchTest::loopsCoverTheirInside() {
  const std::vector<Point> square = {{10, 10}, {50, 10}, {50, 40}, {10, 40}};
  const auto mask = polygonMask(square, {100, 60});
  double area = 0;
  for (int y = 0; y < 60; ++y)
    for (int x = 0; x < 100; ++x) area += mask(x, y) / 65535.0;
  QVERIFY(std::abs(area - 40 * 30) < 1);
  std::vector<Point> circle;
  for (int i = 0; i < 200; ++i)
    circle.push_back({50 + 20 * std::cos(i * 0.0314159265), 30 + 20 * std::sin(i * 0.0314159265)});
  area = 0;
  const auto disc = polygonMask(circle, {100, 60});
  for (int y = 0; y < 60; ++y)
    for (int x = 0; x < 100; ++x) area += disc(x, y) / 65535.0;
  QVERIFY2(std::abs(area - 3.14159 * 400) < 6, qPrintable(QString::number(area)));
  QVERIFY(polygonMask(std::vector<Point>{{1, 1}, {5, 5}}, {20, 20}) == Map(20, 20));
}

void RetouchTest::specksGoAndLinesStay() {
  Map map(200, 100);
  for (int x = 20; x < 180; ++x) map(x, 50) = 65535;
  int drawn = 0;
  for (int i = 0; i < 10; ++i, ++drawn)
    for (int k = 0; k < 3; ++k) map(20 + i * 15 + k, 20) = 65535;
  map(100, 52) = 65535;  // beside the line, not joined to it
  ++drawn;
  int count = 0;
  const auto mask = specksOf(map, 6, &count);
  QCOMPARE(count, drawn);
  const auto clean = composed(map, painted(emptyLayer(map.size()), mask, PaintMode::rubOut, map));
  for (int y = 0; y < 100; ++y)
    for (int x = 0; x < 200; ++x)
      QCOMPARE(clean(x, y), static_cast<std::uint16_t>(y == 50 && x >= 20 && x < 180 ? 65535 : 0));
}

void RetouchTest::regionsGrowFromColour() {
  Image<Rgb> picture(120, 80, Rgb{0.2f, 0.3f, 0.6f});
  for (int y = 20; y < 40; ++y)
    for (int x = 0; x < 120; ++x)
      if (x < 40 || x > 70) picture(x, y) = {0.7f, 0.4f, 0.1f};
  const auto share = [](const Map& mask) {
    double sum = 0;
    for (int y = 0; y < mask.height(); ++y)
      for (const auto v : mask.line(y)) sum += v != 0 ? 1 : 0;
    return sum;
  };
  QCOMPARE(share(similarTo(picture, {10, 30}, 0.1, true)), 40.0 * 20);
  QCOMPARE(share(similarTo(picture, {10, 30}, 0.1, false)), (40.0 + 49) * 20);
  QCOMPARE(share(similarTo(picture, {10, 30}, 2, true)), 120.0 * 80);
}

void RetouchTest::layersFollowTheFrame() {
  BrushStroke stroke(emptyLayer({200, 100}), {PaintMode::draw, 20, 1, 1}, {});
  stroke.to({50, 50});
  stroke.to({150, 50});
  const auto large = following(stroke.layer(), {400, 200}, {});
  const auto map = composed({}, large);
  double sum = 0;
  for (int y = 0; y < 200; ++y) sum += map(200, y) / 65535.0;
  QVERIFY(std::abs(sum - 40) < 1.5);
  // And back at the old size it is the old one, since the kept layer was never changed.
  const auto same = following(stroke.layer(), {200, 100}, {});
  QVERIFY(sameTouches(same, stroke.layer()));
  for (const auto& [place, tile] : same.tiles) QVERIFY(tile == stroke.layer().tiles.at(place));
}

void RetouchTest::layersFollowTheirReference() {
  const Size reference{300, 200}, frame{300, 200};
  Placement before, after;
  after.fit = Fit::free;
  after.x = 0.5 + 40.0 / 300;
  after.turn = 90;
  Layer layer = emptyLayer(frame);
  layer.placing = frameFromReference(before, reference, frame);
  BrushStroke stroke(layer, {PaintMode::draw, 16, 1, 1}, {});
  stroke.to({100, 100});
  stroke.to({200, 100});
  const auto now = frameFromReference(after, reference, frame);
  const auto map = composed({}, following(stroke.layer(), frame, now));
  // The stroke lay along the reference's middle row: now it stands upright, 40 pixels to the right.
  QCOMPARE(map(190, 60), std::uint16_t{65535});
  QCOMPARE(map(190, 140), std::uint16_t{65535});
  QCOMPARE(map(120, 100), std::uint16_t{0});
  Drawing drawing;
  drawing.frame = frame;
  drawing.placing = layer.placing;
  drawing.strokes = {
      std::make_shared<const Stroke>(Stroke{{{100, 100}, {130, 100}, {170, 100}, {200, 100}}, {4, 4}, false})};
  const auto moved = following(drawing, frame, now);
  QVERIFY(std::abs(moved.strokes[0]->points[0].x - 190) < 1e-6);
  QVERIFY(std::abs(moved.strokes[0]->points[0].y - 50) < 1e-6);
}

void RetouchTest::movedGroundIsFoundAndReleased() {
  Map below(120, 80), other(120, 80);
  for (int x = 0; x < 120; ++x) below(x, 30) = other(x, 50) = 65535;
  BrushStroke stroke(emptyLayer({120, 80}), {PaintMode::rubOut, 60, 1, 1}, below);
  stroke.to({60, 40});
  const auto quiet = movedUnder(stroke.layer(), below), moved = movedUnder(stroke.layer(), other);
  QVERIFY(quiet == Map(120, 80));
  QVERIFY(moved(60, 30) != 0 && moved(60, 50) != 0 && moved(60, 40) == 0 && moved(5, 50) == 0);
  const auto freed = composed(other, released(stroke.layer(), moved));
  QCOMPARE(freed(60, 50), std::uint16_t{65535});  // the line that came in is seen
  QVERIFY(released(stroke.layer(), moved).at(60, 40).cover > 0);
}

void RetouchTest::retuningKeepsEveryStroke() {
  const auto& picture = fixtures::scene(0);
  Guide guide;
  guide.kind = "edges";
  EditStore store;
  ExtractionCache cache;
  const GuidePlace place{picture.size(), {}};
  const auto first = makeGuideMap(guide, picture, place, {}, cache);
  // 200 strokes, each a version of its own.
  Layer layer = emptyLayer(picture.size());
  std::mt19937 random(9);
  for (int i = 0; i < 200; ++i) {
    BrushStroke stroke(layer, {i % 2 == 0 ? PaintMode::draw : PaintMode::rubOut, 9, 0.6, 1}, first.below);
    for (int k = 0; k < 4; ++k) stroke.to({static_cast<double>(random() % 480), static_cast<double>(random() % 320)});
    layer = stroke.layer();
  }
  guide.work.put("retouch", store.keep(layer));
  const auto before = editsOf(guide, store);
  for (const double high : {0.05, 0.2, 0.4}) {
    guide.tuning = {{"thresholds", 1}, {"high", high}, {"low", high / 2}};
    const auto made = makeGuideMap(guide, picture, place, editsOf(guide, store), cache);
    for (int y = 0; y < 320; ++y)
      for (int x = 0; x < 480; ++x) {
        QCOMPARE(before.retouch->at(x, y), layer.at(x, y));
        if (layer.at(x, y).cover == 65535) QCOMPARE(made.input.map(x, y), layer.at(x, y).value);
        if (layer.at(x, y).cover == 0) QCOMPARE(made.input.map(x, y), made.below(x, y));
      }
  }
  // Without the retouch and with the first tuning: the first map, exactly.
  guide.tuning.clear();
  guide.work.clear("retouch");
  QVERIFY(makeGuideMap(guide, picture, place, editsOf(guide, store), cache).input.map == first.input.map);
  // Hidden is the same as not there.
  guide.work.put("retouch", store.keep(layer));
  guide.retouchHidden = true;
  QVERIFY(makeGuideMap(guide, picture, place, editsOf(guide, store), cache).input.map == first.input.map);
}

void RetouchTest::mergedLayersShowTheSameMap() {
  const auto map = busyMap(130, 70, 11), other = busyMap(130, 70, 12);
  QVERIFY(composed(other, layerFrom(map, {})) == map);
}

void RetouchTest::regionsLimitLineMaps() {
  const auto& picture = fixtures::scene(1);
  Guide guide;
  guide.kind = "edges";
  EditStore store;
  BrushStroke stroke(emptyLayer(picture.size()), {PaintMode::draw, 200, 1, 1}, {});
  stroke.to({240, 160});
  guide.work.put("region", store.keep(stroke.layer()));
  ExtractionCache cache;
  const GuidePlace place{picture.size(), {}};
  const auto inside = makeGuideMap(guide, picture, place, editsOf(guide, store), cache);
  guide.region.inverted = true;
  const auto outside = makeGuideMap(guide, picture, place, editsOf(guide, store), cache);
  double sumInside = 0, sumOutside = 0;
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 480; ++x) {
      const double d = std::hypot(x + 0.5 - 240, y + 0.5 - 160);
      if (d < 98) QCOMPARE(inside.input.map(x, y), inside.below(x, y));
      if (d > 102) QCOMPARE(inside.input.map(x, y), std::uint16_t{0});
      if (d > 102) QCOMPARE(outside.input.map(x, y), outside.below(x, y));
      sumInside += inside.input.map(x, y);
      sumOutside += outside.input.map(x, y);
    }
  QVERIFY(sumInside > 0 && sumOutside > 0);
  // Tone is light and shade everywhere: its region is for the engine.
  guide.kind = "tone";
  const auto tone = makeGuideMap(guide, picture, place, editsOf(guide, store), cache);
  QVERIFY(tone.input.map == tone.below);
  QVERIFY(!tone.input.region.empty());
}

void RetouchTest::featherSoftens() {
  EditStore store;
  BrushStroke stroke(emptyLayer({200, 200}), {PaintMode::draw, 100, 1, 1}, {});
  stroke.to({100, 100});
  Region region;
  const auto kept = store.layer(store.keep(stroke.layer()));
  const auto hard = regionMask(region, kept.get(), {{200, 200}, {}});
  region.feather = 10;
  const auto soft = regionMask(region, kept.get(), {{200, 200}, {}});
  const auto between = [](const Map& mask) {
    int count = 0;
    for (int x = 0; x < 200; ++x) count += mask(x, 100) > 3000 && mask(x, 100) < 62000 ? 1 : 0;
    return count;
  };
  QVERIFY(between(hard) <= 4);
  QVERIFY(between(soft) > 40);
  QVERIFY(soft(100, 100) > 65000 && soft(5, 5) == 0);
  QVERIFY(regionMask({}, nullptr, {{200, 200}, {}}).empty());
}

void RetouchTest::drawnGuidesNeedNoReference() {
  Guide guide;
  guide.kind = "lines";
  EditStore store;
  Drawing drawing{true, {100, 60}, {}, {}};
  drawing.strokes = {std::make_shared<const Stroke>(Stroke{{{10, 30}, {40, 30}, {60, 30}, {90, 30}}, {4, 4}, false})};
  guide.work.put("drawing", store.keep(drawingForm(), drawing));
  QVERIFY(standsAlone(guide));
  ExtractionCache cache;
  const auto made = makeGuideMap(guide, {}, {{200, 120}, {}}, editsOf(guide, store), cache);
  QCOMPARE(made.input.map.size(), (Size{200, 120}));
  QCOMPARE(made.input.map(100, 60), std::uint16_t{65535});
  QCOMPARE(made.input.map(100, 80), std::uint16_t{0});
  guide.kind = "loose";
  const auto loose = makeGuideMap(guide, {}, {{200, 120}, {}}, editsOf(guide, store), cache);
  QVERIFY(loose.input.map(100, 60) > 30000);
}

void RetouchTest::handWorkSurvivesTheFile() {
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
    EditStore store;
    guide.work.put("retouch", store.keep(layer));
    guide.work.put("drawing", store.keep(drawingForm(), drawing));
    guide.work.put("region", guide.work.in("retouch"));
    guide.region = {true, 12.5};
    state.guides.push_back(guide);
    auto file = StudyFile::create(path, state);
    file.writeState(state, store.unsaved(editsNamedIn(guide)));
  }
  auto file = StudyFile::open(path);
  const auto read = file.readState();
  QVERIFY(read.guides[0].work == guide.work);
  QVERIFY(read.guides[0].region == guide.region);
  EditStore store([&](const std::string& id) { return file.edit(id); });
  const auto edits = editsOf(read.guides[0], store);
  QVERIFY(sameTouches(*edits.retouch, layer));
  QCOMPARE(edits.retouch->placing->b, 0.25);
  const auto readDrawing = edits.own.get<Drawing>("drawing");
  QCOMPARE(readDrawing->strokes.size(), std::size_t{2});
  QVERIFY(*readDrawing->strokes[0] == *drawing.strokes[0]);
  QVERIFY(readDrawing->alone);
  // What came from the file needs no saving; the same work has the same name.
  QVERIFY(store.unsaved(editsNamedIn(guide)).empty());
  QCOMPARE(store.keep(*edits.retouch), guide.work.in("retouch"));
}

void RetouchTest::equalTilesAreKeptOnce() {
  EditStore store;
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

void RetouchTest::damagedHandWorkIsRefused() {
  const auto problem = [](const std::string& content, bool asLayer) {
    EditStore store([&](const std::string&) {
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

void RetouchTest::unneededHandWorkIsTidiedAway() {
  QTemporaryDir folder;
  StudyState state;
  auto file = StudyFile::create(fixtures::in(folder, "tidy.scaffold"), state);
  EditStore store([&](const std::string& id) { return file.edit(id); });
  const auto below = busyMap(128, 128, 40);
  const auto kept = store.keep(scribbled({128, 128}, 41, 5, below)),
             gone = store.keep(scribbled({128, 128}, 42, 5, below));
  file.writeState(state, store.unsaved({kept, gone}));
  QVERIFY(!file.edit(gone).empty());
  file.keepEdits(store.withTiles({kept}));
  QVERIFY(file.edit(gone).empty());
  EditStore fresh([&](const std::string& id) { return file.edit(id); });
  QVERIFY(sameTouches(*fresh.layer(kept), *store.layer(kept)));
}

void RetouchTest::figuresAndInksAreKept() {
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
    EditStore store;
    guide.work.put("figures", store.keep(pose::figuresForm(), figures));
    guide.work.put("inks", store.keep(pose::inksForm(), pose::inksFromJson(inks, "mine.json")));
    QCOMPARE(store.keep(pose::figuresForm(), figures), guide.work.in("figures"));
    state.guides.push_back(guide);
    auto file = StudyFile::create(path, state);
    file.writeState(state, store.unsaved(editsNamedIn(guide)));
  }
  auto file = StudyFile::open(path);
  const Guide read = file.readState().guides[0];
  QVERIFY(read.work == guide.work);
  QCOMPARE(read.words, guide.words);
  EditStore store([&](const std::string& id) { return file.edit(id); });
  const auto edits = editsOf(guide, store);
  const auto readFigures = edits.own.get<pose::Figures>("figures");
  QCOMPARE(readFigures->figures.size(), std::size_t{3});
  for (std::size_t i = 0; i < 3; ++i) QVERIFY(*readFigures->figures[i] == *figures.figures[i]);
  QCOMPARE(readFigures->placing->b, 0.25);
  QCOMPARE(edits.own.get<pose::Inks>("inks")->skeletons.size(), std::size_t{2});
  QVERIFY(store.unsaved(editsNamedIn(guide)).empty());
  // What is needed stays when the study is tidied, what is not goes.
  file.keepEdits(store.withTiles({guide.work.in("figures")}));
  QVERIFY(!file.edit(guide.work.in("figures")).empty() && file.edit(guide.work.in("inks")).empty());
  // No figure is something to be kept, too: a pose guide always has a name for it.
  QVERIFY(!store.keep(pose::figuresForm(), pose::Figures{{300, 200}, {}, {}}).empty());
}

void RetouchTest::damagedFiguresAreRefused() {
  const auto problem = [](const std::string& content) {
    EditStore store([&](const std::string&) {
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

QTEST_APPLESS_MAIN(RetouchTest)
#include "retouch_test.moc"
