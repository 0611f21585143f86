// What the depth kind says of its own maps, and hints that figures give.
#include <QTest>
#include <cmath>

#include "core/guide_map.h"
#include "core/pose/pose_fixtures.h"
#include "core/study/figure_hints.h"
#include "depth_fixtures.h"
#include "test_program.h"

using namespace depth_fixtures;
using depth::Hint;

namespace {

/// Grey as it will be in the map of a finished depth.
template <typename Value>
Image<Rgb> finished(Value&& value) {
  return drawn([&](float x, float y) {
    const float v = srgbToLinear(value(x, y));
    return Rgb{v, v, v};
  });
}

/// Ids of the checks of a depth guide over that picture.
std::vector<std::string> checksOf(View<Rgb> picture, const Tuning& tuning, std::vector<Hint> hints = {}) {
  const Kind& kind = kindOf("depth");
  Guide guide;
  guide.kind = "depth";
  guide.name = "Depth";
  guide.tuning = tuning;
  GuideWork work;
  if (!hints.empty())
    work.put(depth::hintsSlot,
             std::make_shared<const depth::Hints>(depth::Hints{picture.size(), {}, std::move(hints)}));
  ExtractionCache cache;
  auto made = kind.make({picture, {picture.size(), {}}, tuning, work}, cache, {});
  GuideInput input;
  input.map = std::move(made.map);
  MapFacts facts;
  kind.tell(input, made, facts, cache, {});
  std::vector<std::string> out;
  std::string prompt;
  for (const auto& check : kind.check(guide, facts, prompt)) {
    out.push_back(check.id);
    if (check.fix) {
      check.fix(guide, prompt);
      out.push_back("mended " + std::to_string(static_cast<int>(guide.tuning["inverted"].number())));
    }
  }
  return out;
}
/// In the middle of the height, 110 pixels tall.
pose::Figure standing(double x) { return fixtures::posedAs("Standing straight", 110, {x, 80}); }

const Tuning asFinished = {{"guess", 5}};
using Ids = std::vector<std::string>;

}  // namespace

class DepthChecksTest : public QObject {
  Q_OBJECT
 private slots:
  void aGoodMapHasNoDoubts();
  void flatMapsAreTold();
  void invertedMapsAreToldAndTurnedOver();
  void hazeIsTold();
  void hintsAgainstEachOtherAreTold();
  void standingFiguresAreAsNearAsTheirGround();
  void figuresWithoutFeetAreInFront();
  void figuresThatAreOffSayNothing();
};

void DepthChecksTest::aGoodMapHasNoDoubts() {
  QCOMPARE(checksOf(finished([](float, float y) { return y; }), asFinished), Ids());
}

void DepthChecksTest::flatMapsAreTold() {
  QCOMPARE(checksOf(finished([](float, float y) { return 0.4f + 0.1f * y; }), asFinished), Ids{"flat-depth"});
  // Nearer cuts mend it.
  auto cut = asFinished;
  cut["far-cut"] = 0.4;
  cut["near-cut"] = 0.5;
  QCOMPARE(checksOf(finished([](float, float y) { return 0.4f + 0.1f * y; }), cut), Ids());
}

void DepthChecksTest::invertedMapsAreToldAndTurnedOver() {
  const auto upside = finished([](float, float y) { return 1 - y; });
  QCOMPARE(checksOf(upside, asFinished), (Ids{"inverted-depth", "mended 1"}));
  auto over = asFinished;
  over["inverted"] = 1;
  QCOMPARE(checksOf(upside, over), Ids());
}

void DepthChecksTest::hazeIsTold() {
  const auto has = [](const Ids& ids) { return std::find(ids.begin(), ids.end(), "depth-haze") != ids.end(); };
  QVERIFY(has(checksOf(fixtures::scene(fixtures::stairInFog), {})));
  QVERIFY(!has(checksOf(fixtures::scene(0), {})));
  // Whoever has given a hint knows.
  QVERIFY(!has(
      checksOf(fixtures::scene(fixtures::stairInFog), {}, {{Hint::Form::level, {{20, 20}, {60, 20}}, 10, 0.0, 0.5}})));
}

void DepthChecksTest::hintsAgainstEachOtherAreTold() {
  const auto picture = finished([](float, float y) { return y; });
  const Hint near{Hint::Form::level, {{100, 80}, {140, 80}}, 14, 0.9, 0.5};
  Hint far = near;
  far.near = 0.1;
  QCOMPARE(checksOf(picture, asFinished, {near, far}), Ids{"hints-against"});
  QCOMPARE(checksOf(picture, asFinished, {near}), Ids());
}

void DepthChecksTest::standingFiguresAreAsNearAsTheirGround() {
  // Of the colour of the wall behind it, a figure is seen by nobody.
  const auto wall = drawn([](float, float y) { return y < 0.45f ? Rgb{0.5f, 0.5f, 0.5f} : Rgb{0.3f, 0.25f, 0.2f}; });
  const Kind& kind = kindOf("depth");
  ExtractionCache cache;
  GuideWork work;
  const auto map = kind.make({wall, {size, {}}, {}, work}, cache, {}).map;
  pose::Figures figures;
  figures.frame = size;
  const auto figure = standing(120);
  figures.figures = {std::make_shared<const pose::Figure>(figure)};
  const auto hints = hintsFromFigures(figures, map);
  QCOMPARE(hints.size(), std::size_t{1});
  QVERIFY(hints[0].form == Hint::Form::level);
  double lowest = 0;
  for (const auto& spot : hints[0].spots) lowest = std::max(lowest, spot.y);
  const double ground = map(60, static_cast<int>(lowest)) / 65535.0;
  QVERIFY2(std::abs(hints[0].near - ground) < 0.1, qPrintable(QString("%1 %2").arg(hints[0].near).arg(ground)));
  // Its head, before the far wall, is now as near as its feet.
  work.put(depth::hintsSlot, std::make_shared<const depth::Hints>(depth::Hints{size, {}, hints}));
  const auto after = kind.make({wall, {size, {}}, {}, work}, cache, {}).map;
  const auto& head = figure.points[*figure.kind().find("nose")].at;
  const auto at = [&](const Map& of) { return of(static_cast<int>(head.x), static_cast<int>(head.y)) / 65535.0; };
  QVERIFY2(at(after) > at(map) + 0.15, qPrintable(QString("%1 %2").arg(at(map)).arg(at(after))));
}

void DepthChecksTest::figuresWithoutFeetAreInFront() {
  pose::Figures figures;
  figures.frame = size;
  auto figure = standing(90);
  for (const std::size_t foot : figure.kind().planted) figure.points[foot].presence = pose::Presence::absent;
  figures.figures = {std::make_shared<const pose::Figure>(figure)};
  const auto hints = hintsFromFigures(figures, Map(size));
  QCOMPARE(hints.size(), std::size_t{2});
  QVERIFY(hints[0].form == Hint::Form::same && hints[1].form == Hint::Form::front);
  QVERIFY(hints[1].spots.back().x > hints[1].spots.front().x);
}

void DepthChecksTest::figuresThatAreOffSayNothing() {
  pose::Figures figures;
  figures.frame = size;
  auto figure = standing(120);
  figure.on = false;
  figures.figures = {std::make_shared<const pose::Figure>(figure)};
  QVERIFY(hintsFromFigures(figures, Map(size)).empty());
  figure.on = true;
  for (auto& point : figure.points) point.presence = pose::Presence::absent;
  figures.figures = {std::make_shared<const pose::Figure>(figure)};
  QVERIFY(hintsFromFigures(figures, Map(size)).empty());
}

HSCAFFOLD_TEST(DepthChecksTest)
#include "depth_checks_test.moc"
