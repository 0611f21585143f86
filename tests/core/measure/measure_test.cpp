#include <QTest>
#include <cmath>

#include "core/edge_finding/edges.h"
#include "core/image/colour.h"
#include "core/image/distance.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/measure/hold.h"
#include "core/measure/missed_places.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class MeasureTest : public QObject {
  Q_OBJECT
 private slots:
  void distancesAreExact();
  void recallCountsWithinTolerance();
  void copiesHoldAndStrangersDoNot();
  void longLinesAreNotMetByChanceAlongThemselves();
  void massesHoldInACopy();
  void linesThatCrossDoNotHold();
  void distancesGoAlongTheSameWay();
  void lightAboveIsNoTone();
  void holdFallsAsLinesMove();
  void sizesMeasureAlike();
  void missesAreWhereLinesWereLost();
  void missesAreToldByPlace();
  void correlationKnowsSigns();
  void kindsWithoutMeasureSaySo();
};

void MeasureTest::distancesAreExact() {
  Image<std::uint8_t> map(40, 30);
  map(7, 5) = map(30, 20) = map(12, 29) = 255;
  const auto distance = distanceToSet(map);
  for (int y = 0; y < 30; ++y)
    for (int x = 0; x < 40; ++x) {
      const double exact = std::min({std::hypot(x - 7, y - 5), std::hypot(x - 30, y - 20), std::hypot(x - 12, y - 29)});
      QVERIFY(std::abs(static_cast<double>(distance(x, y)) - exact) < 1e-4);
    }
}

void MeasureTest::recallCountsWithinTolerance() {
  Image<std::uint8_t> a(50, 50), b(50, 50);
  for (int y = 0; y < 50; ++y) {
    a(20, y) = 255;
    if (y < 25) b(23, y) = 255;
  }
  QCOMPARE(boundaryRecall(a, b, 2.9), 0.0);
  QVERIFY(std::abs(boundaryRecall(a, b, 3) - 0.5) < 0.011);
  QCOMPARE(boundaryRecall(b, a, 3), 1.0);
  QCOMPARE(boundaryF(a, a, 0), 1.0);
}

void MeasureTest::copiesHoldAndStrangersDoNot() {
  for (const char* id : {"edges", "lines", "loose", "tone"})
    for (int i = 0; i <= fixtures::sailcloth; ++i) {
      const Kind& kind = kindOf(id);
      ExtractionCache cache;
      GuideInput input;
      input.map = kind.extract(fixtures::scene(i), {}, cache, {}).map;
      const auto holdOf = [&](View<Rgb> picture) {
        const auto proof = toSrgb8(picture);
        return kind.measure(input, proof, {}).hold;
      };
      const auto said = [&](double hold) { return qPrintable(QString("%1 of %2: %3").arg(id).arg(i).arg(hold)); };
      const double own = holdOf(fixtures::scene(i)), noise = holdOf(fixtures::noise(480, 320, 5));
      QVERIFY2(own > (kind.nature == MapNature::halfTones ? 95 : 90), said(own));
      QVERIFY2(noise < 10, said(noise));
      for (int other = 0; other <= fixtures::sailcloth; ++other)
        if (other != i) {
          const double stranger = holdOf(fixtures::scene(other));
          QVERIFY2(stranger <= 15, said(stranger));
        }
    }
}

void MeasureTest::longLinesAreNotMetByChanceAlongThemselves() {
  // Furrows from side to side: moved along themselves they are where they were, which says nothing.
  Map map(480, 320);
  Image<Rgb8> copy(480, 320), beside(480, 320);
  constexpr int apart = 64;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      if (y % apart == apart / 2) map(x, y) = 65535;
      const auto furrow = [&](int at) { return static_cast<std::uint8_t>(at % (2 * apart) < apart ? 60 : 190); };
      const auto a = furrow(y + apart / 2), b = furrow(y + apart / 2 + 24);
      copy(x, y) = {a, a, a};
      beside(x, y) = {b, b, b};
    }
  const double held = lineHold(map, copy, 0.015), missed = lineHold(map, beside, 0.015);
  QVERIFY2(held > 97, qPrintable(QString::number(held)));
  QVERIFY2(missed < 5, qPrintable(QString::number(missed)));
}

void MeasureTest::massesHoldInACopy() {
  // A mass of ink with dents in its border: from its middle to each of them runs a spur that is no line.
  Map map(480, 320);
  Image<Rgb8> copy(480, 320);
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const double turn = std::atan2(y - 160, x - 240);
      const bool ink = std::hypot(x - 240, y - 160) < 70 + 7 * std::sin(9 * turn) && std::abs(x - 240) > 30;
      map(x, y) = ink ? 65535 : 0;
      copy(x, y) = ink ? Rgb8{40, 40, 40} : Rgb8{210, 210, 210};
    }
  const double held = lineHold(map, copy);
  QVERIFY2(held > 95, qPrintable(QString::number(held)));
}

/// By the measure of edges, in the proof's pixels.
Holding edgesHolding(const Map& map, const Image<Rgb8>& proof) {
  GuideInput input;
  input.map = map.clone();
  return std::move(*holdingOf(kindOf("edges"), input, proof));
}

void MeasureTest::linesThatCrossDoNotHold() {
  // Upright lines asked for; stripes that run so, and stripes as dense that lie across.
  constexpr int apart = 48;
  Map map(480, 320);
  Image<Rgb8> along(480, 320), across(480, 320);
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      if (x % apart == apart - 1 && x + 1 < map.width()) map(x, y) = 65535;
      const auto stripe = [](int at) { return at / apart % 2 == 0 ? Rgb8{40, 40, 40} : Rgb8{210, 210, 210}; };
      along(x, y) = stripe(x);
      across(x, y) = stripe(y);
    }
  const auto right = edgesHolding(map, along), wrong = edgesHolding(map, across);
  QVERIFY2(right.hold > 90, qPrintable(QString::number(right.hold)));
  QVERIFY2(wrong.hold < 1, qPrintable(QString::number(wrong.hold)));
  // Where a stripe's border crosses a line it is not that line: it stays a miss.
  QCOMPARE(wrong.misses(apart - 1, apart), std::uint16_t{65535});
  QVERIFY(right.misses(apart - 1, apart) == 0);
}

void MeasureTest::distancesGoAlongTheSameWay() {
  Image<std::uint8_t> lines(64, 64);
  for (int i = 10; i < 50; ++i) {
    lines(i, 10) = 255;     // level
    lines(55, i) = 255;     // upright
    lines(i - 8, i) = 255;  // falling: down to the right
  }
  lines(40, 58) = 255;  // a dot runs no way
  const auto ways = waysOf(lines);
  QCOMPARE(static_cast<int>(ways(30, 10)), 0);
  QCOMPARE(static_cast<int>(ways(55, 30)), 4);
  QCOMPARE(static_cast<int>(ways(22, 30)), 2);
  QCOMPARE(ways(40, 58), anyWay);
  QCOMPARE(ways(5, 40), anyWay);  // nothing is there
  const AlongLines all(lines);
  // From above the level line: to it, to the upright one, and to whichever is nearest.
  QCOMPARE(all.distance(40, 6, 0, 100), 4.0f);
  QVERIFY(std::abs(all.distance(40, 6, 4, 100) - std::hypot(15.0f, 4.0f)) < 1e-4f);
  QCOMPARE(all.distance(40, 6, anyWay, 100), 4.0f);
  // What is farther off than asked is that far.
  QCOMPARE(all.distance(40, 6, 4, 9), 9.0f);
  // What runs no way counts for every way.
  QCOMPARE(all.distance(40, 60, 6, 100), 2.0f);
  const AlongLines none(Image<std::uint8_t>(8, 8));
  QCOMPARE(none.distance(3, 3, anyWay, 20), 20.0f);
}

void MeasureTest::lightAboveIsNoTone() {
  // What most pictures share, light above and dark below, is not held for the shape that a map asks for besides.
  Map map(120, 80);
  Image<Rgb8> ramp(120, 80), shape(120, 80);
  for (int y = 0; y < 80; ++y)
    for (int x = 0; x < 120; ++x) {
      const int light = 220 - 2 * y;
      const bool dark = std::hypot(x - 35, y - 40) < 22;
      const auto asked = static_cast<std::uint8_t>(dark ? light / 4 : light), plain = static_cast<std::uint8_t>(light);
      map(x, y) = static_cast<std::uint16_t>(asked * 257);
      ramp(x, y) = {plain, plain, plain};
      shape(x, y) = {asked, asked, asked};
    }
  QVERIFY(toneHold(map, shape) > 95);
  QVERIFY2(toneHold(map, ramp) < 15, qPrintable(QString::number(toneHold(map, ramp))));
  // A map that is nothing but the ramp asks for it.
  for (int y = 0; y < 80; ++y)
    for (auto& v : map.line(y)) v = static_cast<std::uint16_t>((220 - 2 * y) * 257);
  QVERIFY(toneHold(map, ramp) > 95);
}

void MeasureTest::holdFallsAsLinesMove() {
  ExtractionCache cache;
  const auto map = kindOf("edges").extract(fixtures::scene(2), {}, cache, {}).map;
  const auto& picture = fixtures::scene(2);
  double last = 101;
  for (const int shift : {0, 6, 12}) {
    Image<Rgb> moved(picture.size());
    for (int y = 0; y < moved.height(); ++y)
      for (int x = 0; x < moved.width(); ++x) moved(x, y) = picture.view().clamped(x - shift, y);
    const double hold = lineHold(map, toSrgb8(moved));
    QVERIFY(hold < last);
    last = hold;
  }
  QVERIFY(last < 50);
}

void MeasureTest::sizesMeasureAlike() {
  // A proof, the same seen small and the same enlarged; the map as it was.
  for (const char* id : {"edges", "lines", "depth", "tone"}) {
    ExtractionCache cache;
    GuideInput input;
    input.map = kindOf(id).extract(fixtures::scene(2), {}, cache, {}).map;
    // Half of the picture is another one: hold is neither nothing nor all.
    auto half = fixtures::scene(2).clone();
    const auto& other = fixtures::scene(1);
    for (int y = 0; y < half.height(); ++y)
      for (int x = half.width() / 2; x < half.width(); ++x) half(x, y) = other.view().clamped(x, y);
    const auto holdAt = [&](double scale) {
      const Size size{static_cast<int>(std::lround(half.width() * scale)),
                      static_cast<int>(std::lround(half.height() * scale))};
      return holdingOf(kindOf(id), input, toSrgb8(resampled(half.view(), size)))->hold;
    };
    // A proof may have another shape than the map, by what the size step costs.
    for (const Size shape : {Size{512, 352}, Size{512, 328}}) {
      const auto proof = toSrgb8(resampled(half.view(), shape));
      QCOMPARE(kindOf(id).measure(input, proof, {}).misses.size(), std::string(id) == "tone" ? Size{} : shape);
    }
    const double plain = holdAt(1);
    for (const double scale : {0.8, 2.0}) {
      const double scaled = holdAt(scale);
      QVERIFY2(std::abs(scaled - plain) < 8, qPrintable(QString("%1: %2, %3").arg(id).arg(plain).arg(scaled)));
    }
  }
}

void MeasureTest::missesAreWhereLinesWereLost() {
  Map map(64, 48);
  for (int x = 5; x < 60; ++x) map(x, 20) = 65535;
  // A flat proof has lost the line; a proof with a border there has not.
  const Image<Rgb8> flat(64, 48, Rgb8{90, 90, 90});
  Image<Rgb8> kept(64, 48, Rgb8{20, 20, 20});
  for (int y = 20; y < 48; ++y)
    for (auto& c : kept.line(y)) c = {220, 220, 220};
  const auto lost = edgesHolding(map, flat), held = edgesHolding(map, kept);
  QVERIFY(lost.misses(30, 20) == 65535 && held.misses(30, 20) == 0);
  QVERIFY(lost.misses(30, 10) == 0);  // nothing was asked for there
  QVERIFY2(lost.hold < 1 && held.hold > 90, qPrintable(QString("%1 %2").arg(lost.hold).arg(held.hold)));
}

void MeasureTest::missesAreToldByPlace() {
  Map misses(768, 512);
  const auto line = [&](int x0, int x1, int y) {
    for (int x = x0; x < x1; ++x) misses(x, y) = misses(x, y + 1) = 65535;
  };
  line(600, 740, 40);
  line(600, 700, 60);
  line(30, 130, 450);
  line(384, 390, 256);
  const auto places = missedPlaces(misses);
  QCOMPARE(places.size(), std::size_t{2});  // six pixels in the middle are not worth a word
  QCOMPARE(QString::fromStdString(places[0].name), QString("upper right"));
  QCOMPARE(QString::fromStdString(places[1].name), QString("lower left"));
  QVERIFY(places[0].share > places[1].share && places[0].share < 0.8);
  QVERIFY(std::abs(places[0].x - 660) < 30 && places[0].extent >= 140);
  const auto byShape = missedPlaces(misses, 3, Named::byShape);
  QCOMPARE(QString::fromStdString(byShape[0].name), QString("level line in the upper right"));
  Map others(768, 512);
  for (int i = 0; i < 300; ++i) {
    others(60, 100 + i) = 65535;                                                          // upright
    others(400 + i, 120 + i / 2 + i / 4) = others(400 + i, 121 + i / 2 + i / 4) = 65535;  // down to the right
  }
  for (int y = 380; y < 420; ++y)
    for (int x = 300; x < 340; ++x) others(x, y) = 65535;
  QStringList names;
  for (const MissedPlace& place : missedPlaces(others, 3, Named::byShape)) names << QString::fromStdString(place.name);
  names.sort();
  QCOMPARE(names,
           QStringList({"long falling line on the right", "long upright on the left", "shape in the lower middle"}));
  QVERIFY(missedPlaces(Map(40, 30)).empty() && missedPlaces(Map()).empty());
  QCOMPARE(placeName(384, 256, {768, 512}), std::string("middle"));
}

void MeasureTest::correlationKnowsSigns() {
  Image<float> a(10, 10), b(10, 10), flat(10, 10, 0.5f);
  for (int y = 0; y < 10; ++y)
    for (int x = 0; x < 10; ++x) {
      a(x, y) = static_cast<float>(x);
      b(x, y) = static_cast<float>(-3 * x + 7);
    }
  QVERIFY(std::abs(correlation(a, a) - 1) < 1e-9);
  QVERIFY(std::abs(correlation(a, b) + 1) < 1e-9);
  QCOMPARE(correlation(a, flat), 0.0);
}

void MeasureTest::kindsWithoutMeasureSaySo() {
  GuideInput input;
  input.map = Map(64, 64);
  const Image<Rgb8> proof(64, 64);
  QVERIFY(!holdingOf(Kind{}, input, proof).has_value());
  QVERIFY(holdingOf(kindOf("edges"), input, proof).has_value());
}

HSCAFFOLD_TEST(MeasureTest)
#include "measure_test.moc"
