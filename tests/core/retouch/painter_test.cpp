// Brush strokes, loops, specks and regions on layers; layers that follow frame and reference.
#include <QTest>

#include "core/retouch/painter.h"
#include "core/retouch/retouch_fixtures.h"
#include "core/retouch/work_store.h"
#include "core/strokes/drawing.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace fixtures;

class PainterTest : public QObject {
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
};

void PainterTest::composingIsTheMixture() {
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

void PainterTest::partsAreComposedLikeTheWhole() {
  const auto below = busyMap(200, 170, 3);
  const auto layer = scribbled({200, 170}, 4, 30, below);
  const auto whole = composed(below, layer);
  Map parts(200, 170);
  for (const Box& box : {Box{-5, -5, 70, 90}, {70, -5, 300, 90}, {-5, 90, 131, 400}, {131, 90, 200, 170}})
    composeInto(below, layer, box, parts.view());
  QVERIFY(parts == whole);
}

void PainterTest::aBrushStrokeCoversItsPath() {
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

void PainterTest::overlapsInOneStrokeDoNotAddUp() {
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

void PainterTest::brushStrokesDoNotTouchOlderVersions() {
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

void PainterTest::pressureMakesItThinner() {
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

void PainterTest::restoringBringsBackWhatIsBelow() {
  const auto below = busyMap(100, 100, 7);
  BrushStroke drawn(emptyLayer({100, 100}), {PaintMode::draw, 40, 1, 1}, below);
  drawn.to({50, 50});
  BrushStroke restored(drawn.layer(), {PaintMode::restore, 60, 1, 1}, below);
  restored.to({50, 50});
  QVERIFY(!(composed(below, drawn.layer()) == below));
  QVERIFY(composed(below, restored.layer()) == below);
  WorkStore store;
  QCOMPARE(store.keep(restored.layer()), std::string());  // nothing is left to be kept
}

void PainterTest::strokesOutsideTheFrameChangeNothing() {
  BrushStroke stroke(emptyLayer({100, 60}), {PaintMode::draw, 10, 1, 1}, {});
  QVERIFY(stroke.to({-500, -500}).empty());
  QVERIFY(stroke.to({-400, 900}).empty());
  QVERIFY(stroke.layer().empty());
  stroke.to({1e7, 30});  // far away, but across the frame
  QVERIFY(composed({}, stroke.layer())(0, 0) == 0);
}

void PainterTest::loopsCoverTheirInside() {
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

void PainterTest::specksGoAndLinesStay() {
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

void PainterTest::regionsGrowFromColour() {
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

void PainterTest::layersFollowTheFrame() {
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

void PainterTest::layersFollowTheirReference() {
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

void PainterTest::movedGroundIsFoundAndReleased() {
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

HSCAFFOLD_TEST(PainterTest)
#include "painter_test.moc"
