// Strings, stays and ropes: lines between two things that bound nothing.
#include <QTest>
#include <cmath>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/cords.h"
#include "core/engine/standin/line_fields.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;
using fixtures::box;
using fixtures::layout;
using fixtures::line;

namespace {

/// How much of the way from one place to another is cord.
double cordBetween(const Map& map, Point from, Point to) {
  const auto cords = cordsIn(shrunkLines(map, layout));
  constexpr int steps = 40;
  int on = 0;
  for (int i = 1; i < steps; ++i) {
    const Point at = from + (to - from) * (static_cast<double>(i) / steps);
    on += cords(static_cast<int>(at.x), static_cast<int>(at.y)) != 0;
  }
  return static_cast<double>(on) / (steps - 1);
}

void drawn(Map& map, Point from, Point to) { line(map, from.x, from.y, to.x, to.y); }

/// Darkest shade within a few pixels of the middle of a way.
float shadeBeside(const Map& map, Point from, Point to) {
  const auto place = compose(wishesFrom("a field, noon", "", 6.5), 3, layout);
  const Palette palette = paletteFrom(wishesFrom("a field, noon", "", 6.5), 3);
  GuideInput input;
  input.map = map.clone();
  Guide guide;
  guide.weight = 1;
  const LoadCurve loads(guide, 6.5, 20);
  Readings readings;
  const Wanted wanted = wantedByLines({input, place, palette, loads, 3, readings});
  const Point middle = (from + to) * 0.5;
  float most = 0;
  for (int dy = -8; dy <= 8; ++dy)
    most = std::max(most, std::abs(wanted.decided->shade(static_cast<int>(middle.x), static_cast<int>(middle.y) + dy)));
  return most;
}

}  // namespace

class CordsTest : public QObject {
  Q_OBJECT
 private slots:
  void aStringBetweenTwoThingsIsACord();
  void twoEdgesOfAThinStringAreOne();
  void outlinesAndHorizonsAreNone();
  void aCordThrowsNoShade();
};

void CordsTest::aStringBetweenTwoThingsIsACord() {
  Map map(layout);
  box(map, 40, 170, 70, 230);
  box(map, 260, 40, 300, 70);
  const Point from{71, 180}, to{259, 68};
  QCOMPARE(cordBetween(map, from, to), 0.0);
  drawn(map, from, to);
  QVERIFY2(cordBetween(map, from, to) > 0.7, qPrintable(QString::number(cordBetween(map, from, to))));
  // Where a second string makes it part of an outline, it is none.
  drawn(map, {71, 230}, {300, 71});
  drawn(map, {71, 200}, {280, 71});
  QCOMPARE(cordBetween(map, from, to), 0.0);
}

void CordsTest::twoEdgesOfAThinStringAreOne() {
  Map map(layout);
  box(map, 40, 170, 70, 230);
  box(map, 260, 40, 300, 70);
  for (const double aside : {0.0, 3.0}) drawn(map, {71, 180 + aside}, {259, 62 + aside});
  const double much = cordBetween(map, {71, 181.5}, {259, 63.5});
  QVERIFY2(much > 0.6, qPrintable(QString::number(much)));
}

void CordsTest::outlinesAndHorizonsAreNone() {
  // A roof's slope, a horizon between two things, and a stroke with a free end.
  Map map(layout);
  drawn(map, {60, 120}, {130, 60});
  drawn(map, {130, 60}, {200, 120});
  drawn(map, {60, 120}, {200, 120});
  box(map, 75, 121, 185, 190);
  drawn(map, {201, 150}, {300, 152});
  box(map, 301, 120, 340, 180);
  drawn(map, {250, 20}, {330, 60});
  QCOMPARE(cordBetween(map, {60, 120}, {130, 60}), 0.0);
  QCOMPARE(cordBetween(map, {201, 150}, {300, 152}), 0.0);
  QCOMPARE(cordBetween(map, {250, 20}, {330, 60}), 0.0);
}

void CordsTest::aCordThrowsNoShade() {
  const Point from{71, 180}, to{259, 68};
  Map tied(layout);
  box(tied, 40, 170, 70, 230);
  box(tied, 260, 40, 300, 70);
  drawn(tied, from, to);
  Map free(layout);
  drawn(free, from, to);
  const float one = shadeBeside(tied, from, to), other = shadeBeside(free, from, to);
  QVERIFY2(one < 0.1f * other, qPrintable(QString("%1 against %2").arg(one).arg(other)));
}

HSCAFFOLD_TEST(CordsTest)
#include "cords_test.moc"
