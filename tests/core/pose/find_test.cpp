// Finding figures: decoding against drawn maps, the network that comes with the program on pictures of known joints.
#include <QTest>
#include <cmath>
#include <random>

#include "core/image/colour.h"
#include "core/networks/models.h"
#include "core/pose/body.h"
#include "core/pose/find/cut_out.h"
#include "core/pose/find/findings.h"
#include "core/pose/find/network_finder.h"
#include "core/pose/find/one_figure.h"
#include "core/pose/library.h"
#include "core/pose/pose_fixtures.h"
#include "scenes.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using fixtures::posedAs;

namespace {

const Skeleton& kind() { return fixtures::human(); }

/// What a perfect network would say of these figures in a picture of four times that size.
PointMaps drawnMaps(const std::vector<Figure>& figures, Size size, float strength = 1, const Skeleton& of = kind()) {
  PointMaps out;
  const auto limbs = limbsOf(of);
  const std::size_t points = bodyPointsOf(of);
  for (std::size_t p = 0; p < points; ++p) out.heat.emplace_back(size);
  for (std::size_t l = 0; l < limbs.size(); ++l) out.along.emplace_back(size), out.down.emplace_back(size);
  out.figure = Image<float>(size);
  for (const Figure& figure : figures) {
    for (std::size_t p = 0; p < points; ++p) {
      if (!figure.points[p].there()) continue;
      const double px = figure.points[p].at.x / 4, py = figure.points[p].at.y / 4;
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
          const double d = std::pow(x + 0.5 - px, 2) + std::pow(y + 0.5 - py, 2);
          out.heat[p](x, y) =
              std::max(out.heat[p](x, y), strength * static_cast<float>(std::exp(-d / (2 * 1.3 * 1.3))));
        }
    }
    for (std::size_t l = 0; l < limbs.size(); ++l) {
      const auto &a = figure.points[limbs[l].first], &b = figure.points[limbs[l].second];
      if (!a.there() || !b.there()) continue;
      const Point way = (b.at - a.at) * 0.25;
      const double length = std::max(1e-6, std::hypot(way.x, way.y));
      for (int i = 0; i <= 4 * static_cast<int>(length + 1); ++i) {
        const double t = i / (4 * (length + 1));
        for (int s = -2; s <= 2; ++s) {
          const int x = static_cast<int>(a.at.x / 4 + t * way.x - 0.5 * s * way.y / length),
                    y = static_cast<int>(a.at.y / 4 + t * way.y + 0.5 * s * way.x / length);
          if (x < 0 || y < 0 || x >= size.width || y >= size.height) continue;
          out.along[l](x, y) = static_cast<float>(way.x / length);
          out.down[l](x, y) = static_cast<float>(way.y / length);
        }
      }
    }
  }
  return out;
}

/// Distance of the farthest of the points that both have.
double farthest(const Figure& a, const Figure& b) {
  double out = 0;
  for (std::size_t p = 0; p < a.points.size(); ++p)
    if (a.points[p].there() && b.points[p].there())
      out = std::max(out, std::hypot(a.points[p].at.x - b.points[p].at.x, a.points[p].at.y - b.points[p].at.y));
  return out;
}

std::size_t countOf(const Figure& figure) {
  return static_cast<std::size_t>(
      std::count_if(figure.points.begin(), figure.points.end(), [](const KeyPoint& p) { return p.there(); }));
}

Figure bodyAlone(const char* name, double size, Point at) {
  Figure out = posedAs(name, size, at);
  for (std::size_t p = bodyPointsOf(kind()); p < out.points.size(); ++p) out.points[p].presence = Presence::absent;
  return out;
}

}  // namespace

class FindTest : public QObject {
  Q_OBJECT
 private slots:
  void peaksAreFoundBetweenCells();
  void flatTopsGiveOnePeak();
  void oneFigureComesBack_data();
  void oneFigureComesBack();
  void figuresBesideAndBeforeEachOtherAreToldApart();
  void whatIsAbsentStaysAbsent();
  void fourLegsComeBack();
  void whoLiesOnOnePlaceIsOne();
  void noiseGivesNoFigure();
  void aFaintJointBetweenSureOnesIsFound();
  void aStrongerStrayLosesToWhatLimbsSay();
  void onlyWhatLiesWithinCounts();
  void looksOfSeveralSizesJoin();
  void quarterTurnsComeBack();
  void mirroredAnswersJoin();
  void wrongShapesAreRefused();
  void theKiteFlyerIsFound();
  void everybodyIsFoundTogether();
  void nobodyIsFoundWhereNobodyIs();
  void aBoxAsksForWhoIsInIt();
  void missingModelsAreSaid();
};

void FindTest::peaksAreFoundBetweenCells() {
  Image<float> heat(20, 20);
  for (int y = 0; y < 20; ++y)
    for (int x = 0; x < 20; ++x)
      heat(x, y) = 0.9f * std::exp(-(std::pow(static_cast<float>(x) + 0.5f - 7.8f, 2.0f) +
                                     std::pow(static_cast<float>(y) + 0.5f - 11.3f, 2.0f)) /
                                   4);
  const auto peaks = peaksOf(heat, 0.1f, 10);
  QCOMPARE(peaks.size(), std::size_t{1});
  QVERIFY(std::abs(peaks[0].x - 7.8f) < 0.08f && std::abs(peaks[0].y - 11.3f) < 0.08f);
  QVERIFY(peaksOf(heat, 0.95f, 10).empty());
}

void FindTest::flatTopsGiveOnePeak() {
  Image<float> heat(9, 9);
  for (int y = 3; y < 6; ++y)
    for (int x = 3; x < 6; ++x) heat(x, y) = 0.5f;
  QCOMPARE(peaksOf(heat, 0.1f, 10).size(), std::size_t{1});
  Image<float> even(30, 30, 0.5f);
  QCOMPARE(peaksOf(even, 0.1f, 10).size(), std::size_t{1});
  std::minstd_rand random(3);
  for (int y = 0; y < 30; ++y)
    for (float& v : even.line(y)) v = static_cast<float>(random() % 1000) / 1000;
  QCOMPARE(peaksOf(even, 0.1f, 10).size(), std::size_t{10});
}

void FindTest::oneFigureComesBack_data() {
  QTest::addColumn<QString>("name");
  for (const char* name : {"Standing straight", "Walking", "Running", "Sitting on a chair", "Kneeling on one knee",
                           "Dancing, arms wide", "Lying on the side"})
    QTest::addRow("%s", name) << QString(name);
}

void FindTest::oneFigureComesBack() {
  QFETCH(QString, name);
  const auto figure = bodyAlone(qPrintable(name), 200, {160, 130});
  const auto found = decoded(drawnMaps({figure}, {80, 64}), kind(), 1);
  QVERIFY(!found.empty());
  QVERIFY2(countOf(found[0]) + 2 >= countOf(figure), qPrintable(QString::number(countOf(found[0]))));
  QVERIFY2(farthest(found[0], figure) < 6, qPrintable(QString::number(farthest(found[0], figure))));
  // Twice the picture, twice the places.
  const auto twice = decoded(drawnMaps({figure}, {80, 64}), kind(), 2);
  QVERIFY(std::abs(twice[0].points[0].at.x - 2 * found[0].points[0].at.x) < 1e-6);
}

void FindTest::figuresBesideAndBeforeEachOtherAreToldApart() {
  const std::vector<Figure> three = {bodyAlone("Standing straight", 180, {80, 130}),
                                     bodyAlone("Walking", 170, {150, 130}),
                                     bodyAlone("Hands on hips", 150, {240, 120})};
  const auto found = decoded(drawnMaps(three, {80, 64}), kind(), 1);
  QCOMPARE(found.size(), std::size_t{3});
  for (const Figure& figure : three) {
    double nearest = 1e9;
    for (const Figure& other : found) nearest = std::min(nearest, farthest(figure, other));
    QVERIFY2(nearest < 6, qPrintable(QString::number(nearest)));
  }
}

void FindTest::whatIsAbsentStaysAbsent() {
  auto figure = bodyAlone("Standing straight", 200, {160, 130});
  for (const char* gone : {"left_wrist", "right_knee", "right_ankle"})
    figure.points[fixtures::at(gone)].presence = Presence::absent;
  const auto found = decoded(drawnMaps({figure}, {80, 64}), kind(), 1);
  QCOMPARE(found.size(), std::size_t{1});
  for (const char* gone : {"left_wrist", "right_knee", "right_ankle"})
    QVERIFY(!found[0].points[fixtures::at(gone)].there());
  // Faint ones are there, and say so.
  const auto faint = decoded(drawnMaps({figure}, {80, 64}, 0.3f), kind(), 1);
  QCOMPARE(faint.size(), std::size_t{1});
  QVERIFY(faint[0].points[0].confidence < 0.35);
  DecodeTuning strict;
  strict.faintest = 0.4f;
  QVERIFY(decoded(drawnMaps({figure}, {80, 64}, 0.3f), kind(), 1, strict).empty());
}

void FindTest::fourLegsComeBack() {
  const Skeleton& animal = skeletonOf("four-legged");
  for (const NamedPose& named : housePoses()) {
    if (named.skeleton != animal.id) continue;
    for (const double turn : {60.0, 90.0, 250.0}) {
      const auto figure = fittedInto(figureFrom(animal, seenFrom(animal, named.pose, turn), {}), {50, 60, 270, 200});
      const auto found = decodedOne(drawnMaps({figure}, {80, 64}, 1, animal), animal, 1);
      QVERIFY(found && found->skeleton == animal.id);
      QVERIFY(countOf(*found) + 1 >= countOf(figure));
      QVERIFY2(farthest(*found, figure) < 12, qPrintable(QString::fromStdString(named.name)));
    }
  }
}

void FindTest::whoLiesOnOnePlaceIsOne() {
  const Skeleton& animal = skeletonOf("four-legged");
  auto person = bodyAlone("Standing straight", 200, {160, 130});
  for (KeyPoint& p : person.points) p.confidence = 0.8;
  // An animal that is seen into the same limbs, less surely.
  Figure doubt;
  doubt.skeleton = animal.id;
  doubt.points.resize(animal.points.size());
  for (std::size_t p = 0; p < 12; ++p) {
    doubt.points[p] = person.points[p];
    doubt.points[p].confidence = 0.5;
  }
  QCOMPARE(withoutDoubles({doubt, person}).size(), std::size_t{1});
  QCOMPARE(withoutDoubles({doubt, person})[0].skeleton, std::string("human"));
  // One beside it stays, and so does the animal under a rider: both, the surer first.
  auto beside = doubt;
  for (KeyPoint& p : beside.points)
    if (p.there()) p.at = p.at + Point{120, 0};
  QCOMPARE(withoutDoubles({beside, person}).size(), std::size_t{2});
  const auto mount =
      fittedInto(figureFrom(animal, seenFrom(animal, BodyPose{std::vector<double>(animal.turns.size())}, 90), {}),
                 {60, 120, 260, 260});
  auto under = mount;
  for (KeyPoint& p : under.points) p.confidence = 0.9;
  auto rider = bodyAlone("Sitting on a chair", 130, {160, 90});
  for (KeyPoint& p : rider.points) p.confidence = 0.7;
  const auto both = withoutDoubles({rider, under});
  QCOMPARE(both.size(), std::size_t{2});
  QCOMPARE(both[0].skeleton, animal.id);
}

void FindTest::noiseGivesNoFigure() {
  PointMaps maps = drawnMaps({}, {80, 64});
  std::mt19937 random(5);
  for (auto& heat : maps.heat)
    for (int y = 0; y < heat.height(); ++y)
      for (float& v : heat.line(y)) v = static_cast<float>(random() % 1000) / 1000;
  QVERIFY(decoded(maps, kind(), 1).empty());
  QVERIFY(decoded(drawnMaps({}, {80, 64}), kind(), 1).empty());
}

void FindTest::aFaintJointBetweenSureOnesIsFound() {
  const auto figure = bodyAlone("Walking", 200, {160, 130});
  auto maps = drawnMaps({figure}, {80, 64});
  const auto knee = fixtures::at("left_knee"), wrist = fixtures::at("right_wrist");
  for (const auto faint : {knee, wrist})
    for (int y = 0; y < 64; ++y)
      for (float& v : maps.heat[faint].line(y)) v *= 0.08f;
  QVERIFY(!decoded(maps, kind(), 1)[0].points[knee].there());
  const auto found = decodedOne(maps, kind(), 1);
  QVERIFY(found.has_value());
  QCOMPARE(countOf(*found), countOf(figure));
  QVERIFY2(farthest(*found, figure) < 6, qPrintable(QString::number(farthest(*found, figure))));
  QVERIFY(found->points[knee].confidence < 0.1 && found->points[knee].confidence > 0.05);
  // Where nothing is there is nothing to find.
  QVERIFY(!decodedOne(drawnMaps({}, {80, 64}), kind(), 1));
}

void FindTest::aStrongerStrayLosesToWhatLimbsSay() {
  const auto figure = bodyAlone("Standing straight", 200, {160, 130});
  auto maps = drawnMaps({figure}, {80, 64}, 0.6f);
  // A place that looks more like a wrist than the wrist does, but no forearm leads there.
  const auto wrist = fixtures::at("left_wrist");
  maps.heat[wrist](6, 6) = 0.9f;
  const auto found = decodedOne(maps, kind(), 1);
  QVERIFY(found && farthest(*found, figure) < 6);
  OneFigureTuning alone;
  alone.pull = alone.clash = 0;
  QVERIFY(farthest(*decodedOne(maps, kind(), 1, alone), figure) > 50);
}

void FindTest::onlyWhatLiesWithinCounts() {
  const auto small = bodyAlone("Standing straight", 120, {80, 130}), large = bodyAlone("Walking", 180, {230, 130});
  auto maps = drawnMaps({small}, {80, 64}, 0.5f);
  const auto other = drawnMaps({large}, {80, 64});
  for (std::size_t p = 0; p < maps.heat.size(); ++p)
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 80; ++x) maps.heat[p](x, y) = std::max(maps.heat[p](x, y), other.heat[p](x, y));
  OneFigureTuning how;
  const auto box = *boundsOf(small);
  how.within = Bounds{box.left / 4 - 2, box.top / 4 - 2, box.right / 4 + 2, box.bottom / 4 + 2};
  const auto found = decodedOne(maps, kind(), 1, how);
  QVERIFY(found && farthest(*found, small) < 6);
}

void FindTest::looksOfSeveralSizesJoin() {
  const auto figure = bodyAlone("Running", 200, {150, 130});
  Figure half = figure;
  for (KeyPoint& p : half.points) p.at = p.at * 0.5;
  std::vector<PointMaps> looks;
  looks.push_back(drawnMaps({figure}, {80, 64}));
  looks.push_back(drawnMaps({half}, {40, 32}, 0.5f));
  const auto joined = meanOf(looks);
  QCOMPARE(joined.heat[0].size(), (Size{80, 64}));
  const auto found = decodedOne(joined, kind(), 1);
  QVERIFY(found && farthest(*found, figure) < 6);
  QVERIFY(std::abs(found->points[0].confidence - 0.75) < 0.08);
}

void FindTest::quarterTurnsComeBack() {
  Image<Rgb> picture(7, 4);
  for (int y = 0; y < 4; ++y)
    for (int x = 0; x < 7; ++x) picture(x, y) = {static_cast<float>(x), static_cast<float>(y), 0};
  QCOMPARE(quarterTurned(picture, 1).size(), (Size{4, 7}));
  // Clockwise: the lower left corner comes to the upper left.
  QCOMPARE(quarterTurned(picture, 1)(0, 0).g, 3.0f);
  QCOMPARE(quarterTurned(picture, 3)(0, 0).r, 6.0f);
  for (int quarters = 0; quarters < 4; ++quarters) {
    const auto turned = quarterTurned(picture, quarters);
    for (int y = 0; y < 4; ++y)
      for (int x = 0; x < 7; ++x) {
        const Point there = quarterTurned(Point{x + 0.5, y + 0.5}, quarters, picture.size());
        const Rgb c = turned(static_cast<int>(there.x), static_cast<int>(there.y));
        QVERIFY(c.r == static_cast<float>(x) && c.g == static_cast<float>(y));
        const Point back = turnedBack(there, quarters, picture.size());
        QVERIFY(std::abs(back.x - x - 0.5) < 1e-9 && std::abs(back.y - y - 0.5) < 1e-9);
      }
  }
}

void FindTest::mirroredAnswersJoin() {
  const auto figure = bodyAlone("Walking", 200, {150, 130});
  const Size size{80, 64};
  const auto straight = drawnMaps({figure}, size), other = drawnMaps({mirrored(figure, 160)}, size);
  const auto joined = withMirrored(drawnMaps({figure}, size), other, kind());
  for (std::size_t p = 0; p < straight.heat.size(); ++p)
    for (int y = 0; y < size.height; y += 3)
      for (int x = 0; x < size.width; x += 3) QVERIFY(std::abs(joined.heat[p](x, y) - straight.heat[p](x, y)) < 1e-3f);
  const auto found = decoded(joined, kind(), 1);
  QCOMPARE(found.size(), std::size_t{1});
  QVERIFY(farthest(found[0], figure) < 6);
}

void FindTest::wrongShapesAreRefused() {
  networks::Tensor answer{{1, 3, 4, 4}, std::vector<float>(48)};
  QVERIFY(fixtures::problemOf([&] { pointMapsFrom(answer, kind(), "some.onnx"); }).contains("some.onnx"));
  const std::string text = "no network";
  QVERIFY(
      fixtures::problemOf([&] { NetworkFinder(std::as_bytes(std::span(text)), "text.onnx"); }).contains("text.onnx"));
}

/// Share of seen body points within a tenth of the longer side of the truth's box.
double shareRight(const Figure& truth, const Figure& found) {
  const auto box = *boundsOf(truth);
  const double near = 0.1 * std::max(box.width(), box.height());
  int right = 0, all = 0;
  for (std::size_t p = 0; p < bodyPointsOf(truth.kind()); ++p) {
    if (truth.points[p].presence != Presence::seen) continue;
    ++all;
    right += found.points[p].there() && distanceBetween(found.points[p].at, truth.points[p].at) < near ? 1 : 0;
  }
  return static_cast<double>(right) / all;
}

/// Drawn once, for all that look at it.
const Image<Rgb>& duneWalk() {
  static const auto picture = almanac::photograph(almanac::duneWalk(), {600, 400}, 3);
  return picture;
}

/// The nearest person of the dune walk; null if there is none.
std::shared_ptr<const Figure> flyerIn(Size size) {
  std::shared_ptr<const Figure> out;
  for (const auto& figure : almanac::duneWalkFigures(size).figures)
    if (figure->skeleton == "human") out = figure;
  return out;
}

void FindTest::theKiteFlyerIsFound() {
  constexpr Size size{600, 400};
  const auto& picture = duneWalk();
  const auto flyer = flyerIn(size);
  QVERIFY(flyer != nullptr);
  NetworkFinderTuning tuning;
  tuning.faintestFigure = 0.3;
  const auto found = tidied(NetworkFinder(tuning).find(picture, {}));
  QVERIFY2(!found.empty() && found.size() <= 2, qPrintable(QString::number(found.size())));
  double best = 0;
  for (const Figure& figure : found) best = std::max(best, shareRight(*flyer, figure));
  QVERIFY2(best > 0.6, qPrintable(QString::number(best)));
  // Twice the same.
  QVERIFY(tidied(NetworkFinder(tuning).find(picture, {})) == found);
}

void FindTest::everybodyIsFoundTogether() {
  constexpr Size size{900, 600};
  const auto picture = almanac::photograph(almanac::duneWalk(), size, 3);
  std::shared_ptr<const Figure> fox;
  for (const auto& figure : almanac::duneWalkFigures(size).figures)
    if (figure->skeleton == "four-legged") fox = figure;
  QVERIFY(fox != nullptr);
  NetworkFinderTuning tuning;
  tuning.faintestFigure = 0.3;
  tuning.sought = Sought::everybody;
  const auto found = tidied(NetworkFinder(tuning).find(picture, {}));
  double person = 0;
  for (const Figure& figure : found)
    if (figure.skeleton == "human") person = std::max(person, shareRight(*flyerIn(size), figure));
  QVERIFY2(person > 0.6, qPrintable(QString::number(person)));
  // A box may hold either.
  tuning.box = boundsOf(*fox);
  const auto boxed = NetworkFinder(tuning).find(picture, {});
  QCOMPARE(boxed.size(), std::size_t{1});
  QCOMPARE(boxed[0].skeleton, std::string("four-legged"));
  QVERIFY2(shareRight(*fox, boxed[0]) > 0.4, qPrintable(QString::number(shareRight(*fox, boxed[0]))));
  tuning.box = boundsOf(*flyerIn(size));
  QCOMPARE(NetworkFinder(tuning).find(picture, {}).at(0).skeleton, std::string("human"));
}

void FindTest::nobodyIsFoundWhereNobodyIs() {
  NetworkFinderTuning tuning;
  tuning.faintestFigure = 0.3;
  QVERIFY(NetworkFinder(tuning).find(fixtures::scene(1), {}).empty());
  QVERIFY(NetworkFinder(tuning).find(Image<Rgb>(), {}).empty());
  QVERIFY(NetworkFinder(tuning).find(Image<Rgb>(3, 2), {}).empty());
  QVERIFY_THROWS_EXCEPTION(Cancelled, NetworkFinder(tuning).find(Image<Rgb>(64, 64), fixtures::stopped()));
}

void FindTest::aBoxAsksForWhoIsInIt() {
  constexpr Size size{600, 400};
  const auto& picture = duneWalk();
  const auto flyer = flyerIn(size);
  QVERIFY(flyer != nullptr);
  NetworkFinderTuning tuning;
  tuning.box = boundsOf(*flyer);
  const auto found = NetworkFinder(tuning).find(picture, {});
  QCOMPARE(found.size(), std::size_t{1});
  QVERIFY(shareRight(*flyer, found[0]) > 0.6);
  // The brief look of measures finds the same person.
  const auto brief = figureIn(picture, *tuning.box, Sought::people, {});
  QVERIFY(brief && similarity(*brief, found[0]) > 0.8);
}

void FindTest::missingModelsAreSaid() {
  const QTemporaryDir empty;
  qputenv("HSCAFFOLD_MODELS", empty.path().toUtf8());
  const auto said = fixtures::problemOf([] { NetworkFinder().find(Image<Rgb>(64, 64), {}); });
  qunsetenv("HSCAFFOLD_MODELS");
  QVERIFY2(said.contains("figures.onnx") && said.contains("HSCAFFOLD_MODELS"), qPrintable(said));
}

HSCAFFOLD_TEST(FindTest)
#include "find_test.moc"
