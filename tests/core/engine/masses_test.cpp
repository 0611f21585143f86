// What the masses of a line map are taken for: sky, land, things; and that the picture reads when it is small.
#include <QTest>
#include <cmath>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/assembly.h"
#include "core/engine/standin/line_fields.h"
#include "core/engine/standin/masses.h"
#include "core/engine/standin/painting.h"
#include "core/image/narrow.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;
using fixtures::box;
using fixtures::layout;
using fixtures::line;

namespace {

void oval(Map& map, double x, double y, double across, double down) {
  constexpr int corners = 90;
  const auto at = [&](int i) {
    const double a = i * 6.2831853 / corners;
    return Point{x + across * std::cos(a), y + down * std::sin(a)};
  };
  for (int i = 0; i < corners; ++i) line(map, at(i).x, at(i).y, at(i + 1).x, at(i + 1).y);
}

/// Horizon, a cloud over it, a tower of two storeys before it, and a puddle at the tower's foot.
Map landscape() {
  Map map(layout);
  line(map, 0, 150, 383, 150);
  oval(map, 90, 60, 46, 14);
  box(map, 220, 70, 270, 125);
  box(map, 220, 125, 270, 190);
  oval(map, 110, 215, 50, 7);
  return map;
}

struct Drawn {
  Wanted wanted;
  Plan plan;
};

Drawn drawn(const Map& map, const std::string& prompt, std::uint64_t seed) {
  const Wishes wishes = wishesFrom(prompt, "", 6.5);
  const auto place = compose(wishes, seed, layout);
  const Palette palette = paletteFrom(wishes, seed);
  GuideInput input;
  input.map = map.clone();
  Guide guide;
  guide.weight = 1;
  const LoadCurve loads(guide, 6.5, 20);
  Readings readings;
  Drawn out{wantedByLines({input, place, palette, loads, seed, readings}), {}};
  if (out.wanted.decided) out.plan = planFrom(out.wanted.decided->fields, place, palette, layout);
  return out;
}

double partAt(const Drawn& one, Part part, int x, int y) {
  return static_cast<double>(one.wanted.decided->fields.part(static_cast<std::size_t>(part))(x, y));
}

double lightnessIn(const Plan& plan, int left, int top, int right, int bottom) {
  double sum = 0;
  for (int y = top; y < bottom; ++y)
    for (int x = left; x < right; ++x) sum += static_cast<double>(plan.colour(x, y).l);
  return sum / ((right - left) * (bottom - top));
}

}  // namespace

class MassesTest : public QObject {
  Q_OBJECT
 private slots:
  void whatLiesFlatBelongsToWhatIsAroundIt();
  void piecesOfOneThingShareItsColour();
  void thingsStandOutInEveryLight();
  void denseStrokesAreOneMass();
  void whatLiesOnAThingIsOfIt();
  void theUpperPartOfTheLargestThingIsFound();
  void aRedRoofIsRedWithGuides();
  void levelStrokesAreNoTexture();
  void stuffHasItsOwnStrokes();
  void whatHangsInAMapIsTheKiteAskedFor();
};

void MassesTest::whatLiesFlatBelongsToWhatIsAroundIt() {
  for (std::uint64_t seed = 1; seed <= 4; ++seed) {
    const auto one = drawn(landscape(), "a field, noon", seed);
    QVERIFY(one.wanted.decided);
    QVERIFY2(partAt(one, Part::sky, 90, 60) > 0.75, qPrintable(QString::number(partAt(one, Part::sky, 90, 60))));
    QVERIFY2(partAt(one, Part::subject, 110, 215) < 0.1,
             qPrintable(QString::number(partAt(one, Part::subject, 110, 215))));
    QVERIFY2(partAt(one, Part::subject, 245, 100) > 0.6,
             qPrintable(QString::number(partAt(one, Part::subject, 245, 100))));
  }
}

void MassesTest::piecesOfOneThingShareItsColour() {
  for (std::uint64_t seed = 1; seed <= 8; ++seed) {
    const auto one = drawn(landscape(), "a field, noon", seed);
    const OkLab above = one.plan.colour(245, 100), below = one.plan.colour(245, 160);
    // Light is warm, shadow is cool.
    const double hue = std::hypot(static_cast<double>(above.a - below.a), static_cast<double>(above.b - below.b));
    QVERIFY2(hue < 0.09, qPrintable(QString("seed %1: %2").arg(seed).arg(hue)));
    // They can be told apart all the same.
    const double differ =
        std::abs(lightnessIn(one.plan, 230, 80, 260, 118) - lightnessIn(one.plan, 230, 132, 260, 182));
    QVERIFY2(differ > 0.03, qPrintable(QString("seed %1: %2").arg(seed).arg(differ)));
  }
}

void MassesTest::thingsStandOutInEveryLight() {
  for (const char* prompt : {"a field, noon", "a red dune at dusk", "winter night, snow", "storm over a dark sea"})
    for (std::uint64_t seed = 1; seed <= 4; ++seed) {
      const auto one = drawn(landscape(), prompt, seed);
      const double tower = lightnessIn(one.plan, 230, 85, 260, 115), beside = lightnessIn(one.plan, 300, 85, 330, 115);
      QVERIFY2(std::abs(tower - beside) > 0.08,
               qPrintable(QString("%1, seed %2: %3 before %4").arg(prompt).arg(seed).arg(tower).arg(beside)));
    }
}

void MassesTest::denseStrokesAreOneMass() {
  Map map(layout);
  // Leaves: short strokes every way within a disc.
  for (int i = 0; i < 420; ++i) {
    const double a = i * 2.399963, far = 62 * std::sqrt(i / 420.0), turn = i * 1.7;
    const double x = 190 + far * std::cos(a), y = 120 + far * std::sin(a);
    line(map, x, y, x + 5 * std::cos(turn), y + 5 * std::sin(turn));
  }
  line(map, 0, 230, 383, 230);
  const auto dense = denseStrokes(chainsOf(shrunkLines(map, layout), map), layout);
  int inside = 0, outside = 0, disc = 0;
  for (int y = 0; y < layout.height; ++y)
    for (int x = 0; x < layout.width; ++x) {
      const double far = std::hypot(x - 190, y - 120);
      disc += far < 58;
      inside += far < 58 && dense(x, y) != 0;
      outside += far > 76 && dense(x, y) != 0;
    }
  QVERIFY2(inside > 0.9 * disc, qPrintable(QString("%1 of %2").arg(inside).arg(disc)));
  QCOMPARE(outside, 0);
  const auto one = drawn(map, "a field, noon", 3);
  QVERIFY(one.wanted.decided);
  double least = 1;
  for (const auto& [x, y] : {std::pair{190, 120}, {160, 100}, {215, 150}, {190, 80}})
    least = std::min(least, partAt(one, Part::subject, x, y));
  QVERIFY2(least > 0.6, qPrintable(QString::number(least)));
}

void MassesTest::levelStrokesAreNoTexture() {
  Map map(layout);
  for (int i = 0; i < 14; ++i) line(map, 40, 140 + 6 * i, 340, 142 + 6 * i + i % 3);
  const auto dense = denseStrokes(chainsOf(shrunkLines(map, layout), map), layout);
  for (int y = 0; y < layout.height; ++y)
    for (int x = 0; x < layout.width; ++x) QVERIFY(dense(x, y) == 0);
}

/// Mean of how level strokes run in a part of the prompt's own picture (1 level, 0 upright), and how alike they are.
std::pair<double, double> strokesIn(const std::string& prompt, Part part) {
  const Wishes wishes = wishesFrom(prompt, "", 6.5);
  const auto place = compose(wishes, 5, layout);
  const Plan plan = planFrom(place.fields, place, paletteFrom(wishes, 5), layout);
  const auto flow = flowAlong(lightnessOf(plan), 3, 1, plan.course);
  double level = 0, x = 0, y = 0, count = 0;
  for (int row = 0; row < layout.height; ++row)
    for (int column = 0; column < layout.width; ++column) {
      if (place.fields.part(static_cast<std::size_t>(part))(column, row) < 0.9f) continue;
      const auto [dx, dy] = flow(column, row);
      level += std::abs(static_cast<double>(dx));
      x += static_cast<double>(dx * dx - dy * dy);
      y += static_cast<double>(2 * dx * dy);
      count += 1;
    }
  return {level / count, std::hypot(x, y) / count};
}

void MassesTest::stuffHasItsOwnStrokes() {
  const auto [seaLevel, seaAlike] = strokesIn("a calm sea, noon", Part::middle);
  const auto [woodLevel, woodAlike] = strokesIn("a forest, noon", Part::middle);
  const auto told =
      QString("sea %1, alike %2; leaves %3, alike %4").arg(seaLevel).arg(seaAlike).arg(woodLevel).arg(woodAlike);
  QVERIFY2(seaLevel > 0.9 && seaAlike > 0.7, qPrintable(told));
  QVERIFY2(woodAlike < 0.5 && woodLevel < 0.8, qPrintable(told));
  // What is full of strokes in a map is painted in dabs, the sky above it is not.
  const auto one = drawn(landscape(), "a wooden tower in a field, noon", 2);
  QVERIFY(one.plan.course.x(245, 160) < -0.2f);  // boards
  QVERIFY(one.plan.dab(90, 60) < 0.1f);
}

void MassesTest::whatHangsInAMapIsTheKiteAskedFor() {
  const auto place = compose(wishesFrom("a kite over a dune by the sea, gouache", "", 6.5), 4, layout);
  QVERIFY(isInTheSky(place.subject.kind) || std::any_of(place.subject.others.begin(), place.subject.others.end(),
                                                        [](const Standing& other) { return isInTheSky(other.kind); }));
  const auto things = [&](int left, int top) {
    // A guide has taken a thing of 20 x 20 there.
    Wanted wanted;
    wanted.decided.emplace();
    wanted.decided->fields = Fields::ofSize(layout);
    wanted.decided->where = Image<float>(layout);
    wanted.decided->lines = Image<float>(layout);
    for (int y = top; y < top + 20; ++y)
      for (int x = left; x < left + 20; ++x) {
        wanted.decided->where(x, y) = 1;
        wanted.decided->fields.part(static_cast<std::size_t>(Part::subject))(x, y) = 1;
      }
    Guide guide;
    const auto picture = assembled(place, std::span(&wanted, 1), std::vector{LoadCurve(guide, 6.5, 20)});
    double sum = 0;
    for (int y = 0; y < layout.height; ++y)
      for (const float v : picture.fields.part(static_cast<std::size_t>(Part::subject)).view().line(y))
        sum += static_cast<double>(v);
    return sum;
  };
  const int ground = static_cast<int>(place.horizon * layout.height) + 20;
  QVERIFY2(std::abs(things(4, 4) - 400) < 5, qPrintable(QString::number(things(4, 4))));
  QVERIFY2(things(4, ground) > 500, qPrintable(QString::number(things(4, ground))));
}

/// A house: walls, a broad flat roof over them, and the horizon behind.
Map houseMap() {
  Map map(layout);
  line(map, 0, 190, 160, 190);
  line(map, 240, 190, 383, 190);
  box(map, 160, 130, 240, 215);
  line(map, 140, 130, 260, 130);
  line(map, 140, 130, 175, 105);
  line(map, 175, 105, 225, 105);
  line(map, 225, 105, 260, 130);
  return map;
}

void MassesTest::whatLiesOnAThingIsOfIt() {
  const auto house = drawn(houseMap(), "a tea house by the sea, noon", 3);
  QVERIFY(house.wanted.decided);
  QVERIFY2(partAt(house, Part::subject, 200, 118) > 0.5,
           qPrintable(QString::number(partAt(house, Part::subject, 200, 118))));
  QVERIFY(partAt(house, Part::sky, 200, 80) > 0.5);
}

void MassesTest::theUpperPartOfTheLargestThingIsFound() {
  const auto thing = largestThing(drawn(houseMap(), "a tea house by the sea, noon", 3).wanted.decided->fields);
  QVERIFY(thing);
  const auto ends = thing->top + thing->upperEnds * (thing->bottom - thing->top);
  QVERIFY2(std::abs(ends * layout.height - 131) < 6, qPrintable(QString::number(ends * layout.height)));
  // Nothing of any size stands there.
  Map empty(layout);
  line(empty, 0, 150, 383, 150);
  const auto plain = drawn(empty, "a calm sea, noon", 3);
  if (plain.wanted.decided) QVERIFY(!largestThing(plain.wanted.decided->fields));
}

void MassesTest::aRedRoofIsRedWithGuides() {
  const auto made = [](const std::string& prompt) {
    const auto job = fixtures::guidedJob("edges", houseMap(), 3, 1, prompt);
    return fixtures::made(job);
  };
  const auto plain = made("a tea house by the sea, noon, flat colours"),
             red = made("a tea house with a red roof by the sea, noon, flat colours");
  const auto redder = [&](int x, int y) {
    const auto at = [&](const Image<Rgb8>& picture) {
      const Rgb8 p = picture(x * picture.width() / layout.width, y * picture.height() / layout.height);
      return static_cast<int>(p.r) - (p.g + p.b) / 2;
    };
    return at(red) - at(plain);
  };
  QVERIFY2(redder(200, 118) > 40, qPrintable(QString::number(redder(200, 118))));
  for (const auto& [x, y] : {std::pair{200, 180}, {60, 60}, {60, 230}})
    QVERIFY2(std::abs(redder(x, y)) < 15, qPrintable(QString("%1,%2: %3").arg(x).arg(y).arg(redder(x, y))));
}

HSCAFFOLD_TEST(MassesTest)
#include "masses_test.moc"
