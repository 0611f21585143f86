// Retouch, regions and drawings in the maps of guides.
#include <QTest>

#include "core/guide_map.h"
#include "core/kinds.h"
#include "core/retouch/painter.h"
#include "core/retouch/retouch_fixtures.h"
#include "core/strokes/drawing.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace fixtures;

class HandWorkMapsTest : public QObject {
  Q_OBJECT
 private slots:
  void retuningKeepsEveryStroke();
  void mergedLayersShowTheSameMap();
  void regionsLimitLineMaps();
  void featherSoftens();
  void drawnGuidesNeedNoReference();
};

void HandWorkMapsTest::retuningKeepsEveryStroke() {
  const auto& picture = fixtures::scene(0);
  Guide guide;
  guide.kind = "edges";
  WorkStore store;
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
  const auto before = takenWork(guide, store);
  for (const double high : {0.05, 0.2, 0.4}) {
    guide.tuning = {{"thresholds", 1}, {"high", high}, {"low", high / 2}};
    const auto made = makeGuideMap(guide, picture, place, takenWork(guide, store), cache);
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
  QVERIFY(makeGuideMap(guide, picture, place, takenWork(guide, store), cache).input.map == first.input.map);
  // Hidden is the same as not there.
  guide.work.put("retouch", store.keep(layer));
  guide.retouchHidden = true;
  QVERIFY(makeGuideMap(guide, picture, place, takenWork(guide, store), cache).input.map == first.input.map);
}

void HandWorkMapsTest::mergedLayersShowTheSameMap() {
  const auto map = busyMap(130, 70, 11), other = busyMap(130, 70, 12);
  QVERIFY(composed(other, layerFrom(map, {})) == map);
}

void HandWorkMapsTest::regionsLimitLineMaps() {
  const auto& picture = fixtures::scene(1);
  Guide guide;
  guide.kind = "edges";
  WorkStore store;
  BrushStroke stroke(emptyLayer(picture.size()), {PaintMode::draw, 200, 1, 1}, {});
  stroke.to({240, 160});
  guide.work.put("region", store.keep(stroke.layer()));
  ExtractionCache cache;
  const GuidePlace place{picture.size(), {}};
  const auto inside = makeGuideMap(guide, picture, place, takenWork(guide, store), cache);
  guide.region.inverted = true;
  const auto outside = makeGuideMap(guide, picture, place, takenWork(guide, store), cache);
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
  const auto tone = makeGuideMap(guide, picture, place, takenWork(guide, store), cache);
  QVERIFY(tone.input.map == tone.below);
  QVERIFY(!tone.input.region.empty());
}

void HandWorkMapsTest::featherSoftens() {
  WorkStore store;
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

void HandWorkMapsTest::drawnGuidesNeedNoReference() {
  Guide guide;
  guide.kind = "lines";
  WorkStore store;
  Drawing drawing{true, {100, 60}, {}, {}};
  drawing.strokes = {std::make_shared<const Stroke>(Stroke{{{10, 30}, {40, 30}, {60, 30}, {90, 30}}, {4, 4}, false})};
  guide.work.put("drawing", store.keep(drawingForm(), drawing));
  QVERIFY(standsAlone(guide));
  ExtractionCache cache;
  const auto made = makeGuideMap(guide, {}, {{200, 120}, {}}, takenWork(guide, store), cache);
  QCOMPARE(made.input.map.size(), (Size{200, 120}));
  QCOMPARE(made.input.map(100, 60), std::uint16_t{65535});
  QCOMPARE(made.input.map(100, 80), std::uint16_t{0});
  guide.kind = "loose";
  const auto loose = makeGuideMap(guide, {}, {{200, 120}, {}}, takenWork(guide, store), cache);
  QVERIFY(loose.input.map(100, 60) > 30000);
}

HSCAFFOLD_TEST(HandWorkMapsTest)
#include "hand_work_maps_test.moc"
