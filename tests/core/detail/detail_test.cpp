// Detail: which scales are kept, how much of them is in a proof, and what the stand-in makes of them.
#include <QTest>
#include <cmath>

#include "core/detail/detail.h"
#include "core/engine/standin/standin.h"
#include "core/image/filter.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/measure/hold.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::detail;

namespace {

GuideInput inputOf(const Tuning& tuning, int scene = 1) {
  ExtractionCache cache;
  auto made = kindOf("detail").extract(fixtures::scene(scene), tuning, cache, {});
  GuideInput out;
  out.map = std::move(made.map);
  out.colour = std::move(made.colour);
  out.tuning = tuning;
  return out;
}

double holdOf(const GuideInput& input, View<Rgb8> proof) { return holdingOf(kindOf("detail"), input, proof)->hold; }

double rootMeanSquare(View<float> picture, double about) {
  double sum = 0;
  for (int y = 0; y < picture.height(); ++y)
    for (const float v : picture.line(y)) sum += std::pow(static_cast<double>(v) - about, 2);
  return std::sqrt(sum / static_cast<double>(picture.size().area()));
}

Image<Rgb8> proofOf(const GuideInput& input, const Tuning& tuning, double weight, double to = 100) {
  EngineJob job;
  job.recipe.frame = input.map.size();
  job.recipe.brief.prompt = "a market square at noon, gouache";
  job.recipe.brief.seed = 3;
  job.recipe.brief.steps = 12;
  RecipeGuide entry;
  entry.guide.id = "g1";
  entry.guide.kind = "detail";
  entry.guide.name = "Detail";
  entry.guide.weight = weight;
  entry.guide.range.to = to;
  entry.guide.tuning = tuning;
  job.recipe.guides = {entry};
  job.inputs.push_back(input.clone());
  return StandinEngine().generate(job, {}, {});
}

}  // namespace

class DetailTest : public QObject {
  Q_OBJECT
 private slots:
  void allScalesAreThePictureItself();
  void largeAndSmallMakeTheWhole();
  void scalesLieInOctaves();
  void whatEachScaleHoldsIsShown();
  void nothingKeptIsSaid();
  void copiesHoldAndStrangersDoNot_data();
  void copiesHoldAndStrangersDoNot();
  void sizesHoldAlike();
  void holdRisesWithWeight_data();
  void holdRisesWithWeight();
  void fineScalesLeaveTheLayoutAlone();
  void partsArePaintedAsTheWhole();
};

void DetailTest::allScalesAreThePictureItself() {
  const auto& scene = fixtures::scene(1);
  const auto lit = extractDetail(scene, {});
  const auto whole = light::litOf(scene);
  double away = 0;
  for (int y = 0; y < scene.height(); ++y)
    for (int x = 0; x < scene.width(); ++x)
      away = std::max(away, static_cast<double>(std::abs(lit.light(x, y) - whole.light(x, y))));
  QVERIFY(away < 1e-4);
  QVERIFY(!lit.a.empty());
  DetailTuning grey;
  grey.colours = false;
  QVERIFY(extractDetail(scene, grey).a.empty());
  QVERIFY(extractDetail({}, {}).light.empty());
}

void DetailTest::largeAndSmallMakeTheWhole() {
  const auto& scene = fixtures::scene(2);
  DetailTuning large, small;
  large.finest = small.coarsest = 4;
  const auto over = extractDetail(scene, large), under = extractDetail(scene, small), all = extractDetail(scene, {});
  double sum = 0;
  for (int y = 0; y < scene.height(); ++y)
    for (int x = 0; x < scene.width(); ++x)
      sum += std::pow(static_cast<double>(over.light(x, y) + under.light(x, y) - 0.5f - all.light(x, y)), 2);
  // But for what is clipped at black and white.
  QVERIFY(std::sqrt(sum / static_cast<double>(scene.size().area())) < 0.02);
  // What is small is about grey, and fainter.
  QVERIFY(rootMeanSquare(under.light, 0.5) < 0.6 * rootMeanSquare(all.light, 0.5));
}

void DetailTest::scalesLieInOctaves() {
  for (const double percent : {0.2, 1.0, 7.0, 60.0})
    QVERIFY(std::abs(percentAt(placeOf(percent)) - percent) < 1e-9 * percent);
  QCOMPARE(percentAt(0), 0.0);
  QCOMPARE(percentAt(1), 100.0);
  const Size size{512, 384};
  const std::size_t bands = bandsIn(size);
  QCOMPARE(laplacianPyramid(Image<float>(size)).bands.size(), bands);
  for (std::size_t b = 1; b < bands; ++b) QCOMPARE(scaleOfBand(b - 1, bands, size), 2 * scaleOfBand(b, bands, size));
  DetailTuning middle;
  middle.finest = 2;
  middle.coarsest = 10;
  const auto kept = keptBands(size, middle);
  QCOMPARE(kept.front(), 0.0f);
  QCOMPARE(kept.back(), 0.0f);
  QVERIFY(*std::max_element(kept.begin(), kept.end()) > 0.9f);
}

void DetailTest::whatEachScaleHoldsIsShown() {
  // Stripes of one breadth stand where that breadth does.
  for (const int breadth : {4, 16}) {
    Image<float> stripes(256, 256);
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x) stripes(x, y) = x / breadth % 2 == 0 ? 0.2f : 0.8f;
    const auto held = heldByScale(stripes, 64);
    const auto most = std::max_element(held.begin(), held.end()) - held.begin();
    const double scale = percentAt((static_cast<double>(most) + 0.5) / 64), own = 100.0 * breadth / 256;
    QVERIFY2(scale > own / 2.5 && scale < own * 2.5, qPrintable(QString("%1: %2").arg(own).arg(scale)));
  }
  ExtractionCache cache;
  const auto made = kindOf("detail").extract(fixtures::scene(1), {{"finest", 1.0}, {"coarsest", 20.0}}, cache, {});
  QCOMPARE(made.thresholds.low, placeOf(1));
  QCOMPARE(made.thresholds.high, placeOf(20));
  QVERIFY(!made.thresholds.histogram.empty());
}

void DetailTest::nothingKeptIsSaid() {
  Guide guide;
  guide.kind = "detail";
  guide.name = "Detail";
  guide.tuning = {{"finest", 15.0}, {"coarsest", 2.0}};
  ExtractionCache cache;
  const Kind& kind = kindOf("detail");
  const auto made = kind.extract(fixtures::scene(1), guide.tuning, cache, {});
  GuideInput input;
  input.map = made.map.clone();
  const auto checks = kind.check(guide, factsOf(kind, input, made, cache), {});
  QCOMPARE(checks.size(), std::size_t{1});
  std::string prompt;
  checks[0].fix(guide, prompt);
  const auto again = kind.extract(fixtures::scene(1), guide.tuning, cache, {});
  input.map = again.map.clone();
  QVERIFY(kind.check(guide, factsOf(kind, input, again, cache), {}).empty());
}

void DetailTest::copiesHoldAndStrangersDoNot_data() {
  QTest::addColumn<double>("finest");
  QTest::addColumn<double>("coarsest");
  QTest::addRow("all") << 0.0 << 100.0;
  QTest::addRow("large") << 5.0 << 100.0;
  QTest::addRow("small") << 0.0 << 5.0;
  QTest::addRow("between") << 1.0 << 12.0;
}
void DetailTest::copiesHoldAndStrangersDoNot() {
  QFETCH(double, finest);
  QFETCH(double, coarsest);
  for (int number = 0; number < fixtures::scenes; ++number) {
    const auto input = inputOf({{"finest", finest}, {"coarsest", coarsest}}, number);
    const double copy = holdOf(input, toSrgb8(fixtures::scene(number)));
    QVERIFY2(copy >= 95, qPrintable(QString("scene %1: %2").arg(number).arg(copy)));
    for (int other = 0; other < fixtures::scenes; ++other) {
      if (other == number) continue;
      const double stranger = holdOf(input, toSrgb8(fixtures::scene(other)));
      QVERIFY2(stranger <= 15, qPrintable(QString("scene %1 in %2: %3").arg(number).arg(other).arg(stranger)));
    }
  }
}

void DetailTest::sizesHoldAlike() {
  const auto input = inputOf({});
  auto half = fixtures::scene(1).clone();
  for (int y = 0; y < half.height(); ++y)
    for (int x = half.width() / 2; x < half.width(); ++x) half(x, y) = fixtures::scene(2).view().clamped(x, y);
  const double plain = holdOf(input, toSrgb8(half));
  const double large = holdOf(input, toSrgb8(resampled(half.view(), {2 * half.width(), 2 * half.height()})));
  QVERIFY2(std::abs(plain - large) < 8, qPrintable(QString("%1 %2").arg(plain).arg(large)));
}

void DetailTest::holdRisesWithWeight_data() { copiesHoldAndStrangersDoNot_data(); }
void DetailTest::holdRisesWithWeight() {
  QFETCH(double, finest);
  QFETCH(double, coarsest);
  const Tuning tuning = {{"finest", finest}, {"coarsest", coarsest}};
  const auto input = inputOf(tuning);
  double last = -3, most = 0;
  int steps = 0;
  QString said;
  for (const double weight : {0.0, 0.2, 0.4, 0.6, 0.8, 1.0}) {
    const double hold = holdOf(input, proofOf(input, tuning, weight));
    said += QString(" %1").arg(hold, 0, 'f', 0);
    QVERIFY2(hold > last - 3, qPrintable(said));
    steps += hold > last + 4 ? 1 : 0;
    last = hold;
    most = std::max(most, hold);
  }
  qInfo("%s", qPrintable(said));
  QVERIFY2(steps >= 4 && most > 85, qPrintable(said));
}

void DetailTest::fineScalesLeaveTheLayoutAlone() {
  const Tuning tuning = {{"coarsest", 3.0}};
  const auto input = inputOf(tuning);
  const auto plain = proofOf(input, tuning, 0), with = proofOf(input, tuning, 1);
  const Size small{48, 32};
  const auto a = luminanceOf(resampled(toLinear(plain).view(), small, Resampling::area)),
             b = luminanceOf(resampled(toLinear(with).view(), small, Resampling::area));
  QVERIFY(correlation(a, b) > 0.93);
  QVERIFY(!(plain == with));
}

void DetailTest::partsArePaintedAsTheWhole() {
  const Tuning tuning;
  const auto input = inputOf(tuning);
  EngineJob job;
  job.recipe.frame = input.map.size();
  job.recipe.brief.prompt = "a market square, gouache";
  job.recipe.brief.steps = 8;
  RecipeGuide entry;
  entry.guide.id = "g1";
  entry.guide.kind = "detail";
  job.recipe.guides = {entry};
  job.inputs.push_back(input.clone());
  StandinEngine engine;
  const Size whole{2 * job.recipe.frame.width, 2 * job.recipe.frame.height};
  const auto composed = engine.compose(job, whole, {}, {});
  const Box left{0, 0, whole.width * 2 / 3, whole.height}, right{whole.width / 3, 0, whole.width, whole.height};
  const auto a = composed->paint(left, {}, {}), b = composed->paint(right, {}, {});
  double sum = 0;
  for (int y = 0; y < whole.height; ++y)
    for (int x = right.left; x < left.right; ++x) sum += std::abs(a(x, y).g - b(x - right.left, y).g);
  QVERIFY(sum / (static_cast<double>(whole.height) * (left.right - right.left)) < 3);
}

HSCAFFOLD_TEST(DetailTest)
#include "detail_test.moc"
