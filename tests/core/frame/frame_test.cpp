#include <QTest>
#include <cmath>

#include "core/frame/frame.h"
#include "core/frame/placement.h"
#include "core/image/colour.h"
#include "core/measure/hold.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class FrameTest : public QObject {
  Q_OBJECT
 private slots:
  void offersKeepRatioAndStep_data();
  void offersKeepRatioAndStep();
  void nearestOfferComesFirst();
  void ratiosHaveNames();
  void stepsStayInsideLimits();
  void fitsCoverAndContain_data();
  void fitsCoverAndContain();
  void stretchFillsTheFrameExactly();
  void inverseUndoesThePlacement();
  void identityPlacementChangesNothing();
  void quarterTurnsAreExact();
  void flippingTwiceIsNothing();
  void fillsCoverTheRest_data();
  void fillsCoverTheRest();
  void onePixelAndLongPictures();
  void framesForPicturesKeepTheRatio();
};

void FrameTest::offersKeepRatioAndStep_data() {
  QTest::addColumn<int>("across");
  QTest::addColumn<int>("down");
  QTest::addColumn<int>("step");
  for (const auto& common : commonRatios())
    for (const int step : {8, 16, 64})
      QTest::addRow("%d:%d on %d", common.ratio.across, common.ratio.down, step)
          << common.ratio.across << common.ratio.down << step;
  QTest::addRow("odd") << 1237 << 811 << 8;
}

void FrameTest::offersKeepRatioAndStep() {
  QFETCH(int, across);
  QFETCH(int, down);
  QFETCH(int, step);
  const Ratio ratio{across, down};
  for (const auto& list :
       {sizesByWidth(ratio, 1024, step), sizesByHeight(ratio, 720, step), sizesByMegapixels(ratio, 1.2, step)}) {
    QVERIFY(!list.empty());
    for (const SizeOffer& offer : list) {
      QCOMPARE(offer.size.width % step, 0);
      QCOMPARE(offer.size.height % step, 0);
      const double error = std::abs(static_cast<double>(offer.size.width) / offer.size.height / ratio.value() - 1);
      QVERIFY(std::abs(error - offer.ratioError) < 1e-9);
      // Every offer but a lone stopgap keeps the ratio.
      QVERIFY(offer.ratioError <= 0.01 || list.size() == 1);
    }
  }
}

void FrameTest::nearestOfferComesFirst() {
  const auto byWidth = sizesByWidth({3, 2}, 770, 8);
  QCOMPARE(byWidth.front().size, (Size{768, 512}));
  QCOMPARE(byWidth.front().ratioError, 0.0);
  const auto doubled = sizesByScale({768, 512}, 2, 8);
  QCOMPARE(doubled.front().size, (Size{1536, 1024}));
  const auto million = sizesByMegapixels({1, 1}, 1.0, 8);
  QCOMPARE(million.front().size, (Size{1000, 1000}));
}

void FrameTest::ratiosHaveNames() {
  QCOMPARE(ratioName({768, 512}), std::string("3:2"));
  QCOMPARE(ratioName({512, 768}), std::string("2:3"));
  QCOMPARE(ratioName({1368, 768}), std::string("~16:9"));
  QCOMPARE(ratioName({64, 64}), std::string("1:1"));
}

void FrameTest::stepsStayInsideLimits() {
  QCOMPARE(onStep({1, 1}, 8), (Size{64, 64}));
  QCOMPARE(onStep({100000, 300}, 8), (Size{8192, 304}));
  QVERIFY(isOnStep({768, 512}, 64));
  QVERIFY(!isOnStep({769, 512}, 8));
}

void FrameTest::fitsCoverAndContain_data() {
  QTest::addColumn<double>("turn");
  for (const double turn : {0.0, 17.0, 45.0, 90.0, 180.0, -33.0}) QTest::addRow("%g", turn) << turn;
}

void FrameTest::fitsCoverAndContain() {
  QFETCH(double, turn);
  const Size reference{900, 400}, frame{512, 768};
  Placement p;
  p.turn = turn;
  p.fit = Fit::cover;
  QVERIFY(coverage(p, reference, frame) > 0.9999);
  p.fit = Fit::contain;
  const Affine m = frameFromReference(p, reference, frame);
  for (const double x : {0.0, 900.0})
    for (const double y : {0.0, 400.0}) {
      QVERIFY(m.mapX(x, y) > -1e-6 && m.mapX(x, y) < 512 + 1e-6);
      QVERIFY(m.mapY(x, y) > -1e-6 && m.mapY(x, y) < 768 + 1e-6);
    }
}

void FrameTest::stretchFillsTheFrameExactly() {
  Placement p;
  p.fit = Fit::stretch;
  for (const double turn : {0.0, 90.0}) {
    p.turn = turn;
    const Affine m = frameFromReference(p, {300, 200}, {640, 640});
    const double x0 = m.mapX(0, 0), x1 = m.mapX(300, 200), y0 = m.mapY(0, 0), y1 = m.mapY(300, 200);
    QVERIFY(std::abs(std::abs(x1 - x0) - 640) < 1e-9);
    QVERIFY(std::abs(std::abs(y1 - y0) - 640) < 1e-9);
  }
}

void FrameTest::inverseUndoesThePlacement() {
  Placement p;
  p.fit = Fit::free;
  p.x = 0.3;
  p.y = 0.9;
  p.scaleX = 0.7;
  p.scaleY = 1.9;
  p.turn = 71;
  p.flipDown = true;
  const Affine m = frameFromReference(p, {333, 222}, {800, 600}), back = m.inverted();
  QVERIFY(std::abs(back.mapX(m.mapX(12, 34), m.mapY(12, 34)) - 12) < 1e-9);
  QVERIFY(std::abs(back.mapY(m.mapX(12, 34), m.mapY(12, 34)) - 34) < 1e-9);
}

void FrameTest::identityPlacementChangesNothing() {
  const auto picture = fixtures::overlappingShapes(96, 64);
  const auto placed = place(fixtures::encoded(picture), {}, {96, 64});
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 96; ++x) QVERIFY(std::abs(placed(x, y).g - picture(x, y).g) < 1e-4f);
}

void FrameTest::quarterTurnsAreExact() {
  const auto picture = fixtures::overlappingShapes(96, 64);
  Placement p;
  p.turn = 90;
  const auto placed = place(fixtures::encoded(picture), p, {64, 96});
  const auto expected = fixtures::turned90(picture);
  for (int y = 0; y < 96; ++y)
    for (int x = 0; x < 64; ++x) QVERIFY(std::abs(placed(x, y).r - expected(x, y).r) < 1e-4f);
}

void FrameTest::flippingTwiceIsNothing() {
  const auto source = fixtures::encoded(fixtures::overlappingShapes(80, 60));
  Placement p;
  p.flipAcross = true;
  const auto flipped = place(source, p, {80, 60});
  const auto plain = place(source, {}, {80, 60});
  for (int y = 0; y < 60; ++y)
    for (int x = 0; x < 80; ++x) QVERIFY(std::abs(flipped(79 - x, y).b - plain(x, y).b) < 1e-5f);
}

void FrameTest::fillsCoverTheRest_data() {
  QTest::addColumn<int>("fill");
  QTest::addRow("edge") << static_cast<int>(Fill::edge);
  QTest::addRow("mirror") << static_cast<int>(Fill::mirror);
  QTest::addRow("blur") << static_cast<int>(Fill::blur);
  QTest::addRow("colour") << static_cast<int>(Fill::colour);
}

void FrameTest::fillsCoverTheRest() {
  QFETCH(int, fill);
  // Left half red, right half blue, in the middle of a much wider frame.
  Image<Rgba16> picture(64, 64);
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 64; ++x) picture(x, y) = x < 32 ? Rgba16{65535, 0, 0, 65535} : Rgba16{0, 0, 65535, 65535};
  Placement p;
  p.fit = Fit::contain;
  p.fill = static_cast<Fill>(fill);
  p.fillColour = {0, 1, 0};
  const auto placed = place(picture, p, {256, 64});
  const Rgb left = placed(80, 32), farLeft = placed(40, 32);
  switch (p.fill) {
    case Fill::edge:
      QVERIFY(left.r > 0.99f && farLeft.r > 0.99f && placed(250, 10).b > 0.99f);
      break;
    case Fill::mirror:
      QVERIFY(left.r > 0.99f);     // 16 px out mirrors 16 px in: red
      QVERIFY(farLeft.b > 0.99f);  // 56 px out mirrors 56 px in: blue
      break;
    case Fill::blur:
      QVERIFY(left.r > 0.6f && placed(176, 32).b > 0.6f);
      for (int x = 1; x < 95; ++x) QVERIFY(std::abs(placed(x, 32).r - placed(x - 1, 32).r) < 0.05f);
      break;
    case Fill::colour:
      QCOMPARE(left, (Rgb{0, 1, 0}));
      break;
  }
  QVERIFY(placed(100, 32).r > 0.99f && placed(150, 32).b > 0.99f);
}

void FrameTest::onePixelAndLongPictures() {
  Image<Rgba16> dot(1, 1, Rgba16{30000, 20000, 10000, 65535});
  const auto flat = place(dot, {}, {64, 64});
  QVERIFY(std::abs(flat(5, 60).r - srgb16ToLinear(30000)) < 1e-4f);
  const Image<Rgba16> thread(20000, 10, fixtures::grey16(40000));
  Placement p;
  p.fit = Fit::contain;
  QCOMPARE(place(thread, p, {128, 128}).size(), (Size{128, 128}));
  QVERIFY(fixtures::problemOf([] { place(View<Rgba16>(), {}, {64, 64}); }).contains("no pixels"));
}

void FrameTest::framesForPicturesKeepTheRatio() {
  // Exactly, where a size on the step is near.
  QCOMPARE(frameFor({512, 384}, {768, 512}, 8), (Size{736, 552}));
  QCOMPARE(frameFor({512, 320}, {768, 512}, 8), (Size{768, 480}));
  QCOMPARE(frameFor({1200, 800}, {768, 512}, 8), (Size{768, 512}));
  QCOMPARE(frameFor({3000, 3000}, {768, 512}, 64), (Size{640, 640}));
  for (const Size picture : {Size{4032, 3024}, Size{3000, 1997}, Size{1279, 853}, Size{800, 2000}, Size{1013, 769}}) {
    const Size frame = frameFor(picture, {768, 512}, 8);
    QVERIFY(isOnStep(frame, 8));
    QVERIFY(std::abs(ratioOf(frame).value() / ratioOf(picture).value() - 1) <= 0.01);
    QVERIFY(std::abs(static_cast<double>(frame.area()) / (768 * 512) - 1) <= 0.12);
  }
}

HSCAFFOLD_TEST(FrameTest)
#include "frame_test.moc"
