// Free shapes of ranges: their points, their texts, and that what is written can be read.
#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

#include "core/guides/guide.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Range wedge() {
  Range range{20, 80, 15, 5};
  range.shape = {{0, 0.2}, {0.5, 1}, {1, 0}};
  return range;
}

}  // namespace

class RangeTest : public QObject {
  Q_OBJECT
 private slots:
  void aShapeTakesThePlaceOfRamps();
  void rampsTurnIntoTheSameShape();
  void pointsAreAddedMovedAndTakenAway();
  void theMeanIsTheArea();
  void totalIsKeptWithShapes();
  void shapesGoThroughJson();
  void wrongShapesAreNamed_data();
  void wrongShapesAreNamed();
  void shapesAreReadFromText();
};

void RangeTest::aShapeTakesThePlaceOfRamps() {
  const Range range = wedge();
  QCOMPARE(rampAt(range, 20), 0.2);
  QVERIFY(std::abs(rampAt(range, 35) - 0.6) < 1e-9);
  QCOMPARE(rampAt(range, 50), 1.0);
  QVERIFY(std::abs(rampAt(range, 65) - 0.5) < 1e-9);
  QCOMPARE(rampAt(range, 19.9), 0.0);
  QCOMPARE(rampAt(range, 80.1), 0.0);
  // It stretches with the range.
  Range wide = range;
  wide.from = 0, wide.to = 100;
  QCOMPARE(rampAt(wide, 50), 1.0);
  QVERIFY(std::abs(rampAt(wide, 25) - 0.6) < 1e-9);
  // A leap: two points in one place.
  Range leap{0, 100, 0, 0};
  leap.shape = {{0, 0.3}, {0.5, 0.3}, {0.5, 1}, {1, 1}};
  QCOMPARE(rampAt(leap, 49.9), 0.3);
  QCOMPARE(rampAt(leap, 50.1), 1.0);
}

void RangeTest::rampsTurnIntoTheSameShape() {
  for (const Range& range :
       {Range{}, Range{10, 70, 20, 0}, Range{10, 70, 0, 25}, Range{5, 45, 30, 30}, Range{30, 30, 0, 0}}) {
    Range isFree = range;
    isFree.shape = pointsOf(range);
    QVERIFY(isFree.shape.size() >= 2);
    QCOMPARE(isFree.shape.front().at, 0.0);
    QCOMPARE(isFree.shape.back().at, 1.0);
    for (double percent = 0.25; percent < 100; percent += 0.5)
      QVERIFY(std::abs(rampAt(range, percent) - rampAt(isFree, percent)) < 1e-9);
  }
}

void RangeTest::pointsAreAddedMovedAndTakenAway() {
  Range range = withPoint(wedge(), 35);
  QCOMPARE(range.shape.size(), std::size_t{4});
  QVERIFY(std::abs(range.shape[1].share - 0.6) < 1e-9);  // on the shape as it was
  QCOMPARE(withPoint(range, 35), range);
  range = withPointAt(range, 1, 95, 0.9);
  QCOMPARE(range.shape[1].at, 0.5);  // no farther than its neighbour
  QCOMPARE(range.shape[1].share, 0.9);
  range = withPointAt(range, 0, 10, 2);
  QCOMPARE(range.shape[0], (ShapePoint{0, 1}));
  QCOMPARE(range.from, 10.0);  // an end takes the range along
  range = withPointAt(range, 0, 20, 1);
  QCOMPARE(withoutPoint(range, 1).shape.size(), std::size_t{3});
  QCOMPARE(withoutPoint(range, 0), range);
  QCOMPARE(withoutPoint(range, 3), range);
  QCOMPARE(withPointAt(range, 99, 1, 1), range);
  for (int i = 0; i < 200; ++i) range = withPoint(range, 20 + 0.29 * i);
  QCOMPARE(range.shape.size(), mostShapePoints);
}

void RangeTest::theMeanIsTheArea() {
  for (const Range& range : {wedge(), Range{10, 70, 20, 30}, Range{}}) {
    double sum = 0;
    constexpr int count = 20000;
    for (int i = 0; i < count; ++i) sum += rampAt(range, stepPercent(i, count));
    QVERIFY(std::abs(sum / count - meanRamp(range)) < 1e-3);
  }
}

void RangeTest::totalIsKeptWithShapes() {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> unit(0, 1);
  for (int round = 0; round < 200; ++round) {
    std::vector<Guide> guides(4);
    for (std::size_t i = 0; i < guides.size(); ++i) {
      guides[i].id = std::to_string(i);
      guides[i].weight = 0.4 + 0.4 * unit(random);
      guides[i].range.shape = {{0, unit(random)}, {0.3 + 0.4 * unit(random), 1}, {1, unit(random)}};
    }
    const auto total = [&] {
      double sum = 0;
      for (const Guide& guide : guides) sum += guide.weight * meanRamp(guide.range);
      return sum;
    };
    const double before = total();
    setWeightKeepingTotal(guides, 1, guides[1].weight + 0.2 * (unit(random) - 0.5));
    QVERIFY(std::abs(total() - before) < 0.001);
    for (const Guide& guide : guides) QVERIFY(guide.weight >= 0 && guide.weight <= limits::weight.most);
  }
}

void RangeTest::shapesGoThroughJson() {
  QCOMPARE(rangeFromJson(rangeToJson(wedge()), "here"), wedge());
  QVERIFY(!rangeToJson(Range{}).contains("shape"));
}

void RangeTest::wrongShapesAreNamed_data() {
  QTest::addColumn<QString>("shape");
  QTest::newRow("one point") << "[[0, 1]]";
  QTest::newRow("not from 0") << "[[0.1, 1], [1, 1]]";
  QTest::newRow("not to 1") << "[[0, 1], [0.9, 1]]";
  QTest::newRow("back") << "[[0, 1], [0.7, 1], [0.5, 1], [1, 1]]";
  QTest::newRow("too high") << "[[0, 1.1], [1, 1]]";
  QTest::newRow("no pair") << "[[0, 1, 2], [1, 1]]";
  QTest::newRow("no list") << "\"wedge\"";
  QTest::newRow("words") << "[[0, \"a\"], [1, 1]]";
}

void RangeTest::wrongShapesAreNamed() {
  QFETCH(QString, shape);
  auto json = rangeToJson({});
  json["shape"] = nlohmann::json::parse(shape.toStdString());
  try {
    static_cast<void>(rangeFromJson(json, "The range"));
    QFAIL("it was read");
  } catch (const Problem& problem) {
    QVERIFY(QString(problem.what()).contains("shape"));
  }
}

void RangeTest::shapesAreReadFromText() {
  const Range range = rangeFromText("20:0.2,50:1,80:0", "--shape");
  QCOMPARE(range.from, 20.0);
  QCOMPARE(range.to, 80.0);
  QCOMPARE(range.shape, wedge().shape);
  for (const char* text :
       {"", "20", "20:1", "20:1,20:0", "50:1,20:0", "0:1,100:1.5", "0:1,101:1", "a:1,b:0", "0:1,,9:1"})
    QVERIFY_THROWS_EXCEPTION(Problem, rangeFromText(text, "--shape"));
}

HSCAFFOLD_TEST(RangeTest)
#include "range_test.moc"
